//! What a field wants beyond its type, as far as its names and its description say it: limits in words,
//! values that never come twice, a person's name, a number that identifies.

use super::contents::{Sample, number_of};
use super::names::Name;
use dusk_description::{Field, FieldType};
use dusk_drafting::stated_limits;
use dusk_evidence::Share;
use dusk_values::{Decimal, Mention, Rounding, UnitConversion};

/// Words of fields that identify something.
const IDENTIFIES: [&str; 11] = [
    "number", "id", "reference", "barcode", "serial", "registration", "label", "telephone", "mobile", "postcode",
    "invoice",
];

/// Words for somebody, and for names.
const NAMES: [&str; 30] = [
    "name", "customer", "client", "person", "owner", "supplier", "company", "firm", "contact", "surname",
    "forename", "family", "tenant", "buyer", "driver", "engineer", "inspector", "teacher", "student", "guest",
    "member", "patient", "leader", "operator", "staff", "clerk", "parent", "given", "by", "who",
];

/// Words for what is written in whole sentences.
const TELLS: [&str; 6] = ["remark", "note", "comment", "description", "defect", "reason"];

/// Words of descriptions that say that no value comes twice.
const UNIQUE: [&str; 8] =
    ["twice", "unique", "eindeutig", "einmalig", "univoque", "unico", "unica", "once"];

/// What a text is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum About {
    Identifier,
    Names,
    Sentences,
    Anything,
}

/// What a field wants beyond its type.
#[derive(Debug)]
pub(super) struct Hints {
    about: About,
    is_unique: bool,
    /// The least and the greatest number.
    limits: (Option<Decimal>, Option<Decimal>),
}

/// What the hints say of a column.
#[derive(Debug, Clone, Default)]
pub(super) struct Hinted {
    /// How much they speak for it, or against it, in thousandths.
    pub(super) points: i32,
    /// All of its numbers are inside limits that have two ends, and fill a good part of what is between.
    pub(super) fills_limits: bool,
    /// Why it cannot be sure.
    pub(super) against: Option<&'static str>,
}

impl Hints {
    pub(super) fn of(field: &Field, names: &[Name], description: Option<&Name>) -> Self {
        let has = |words: &[&str]| names.iter().any(|name| name.means(words));
        let about = match &field.kind {
            FieldType::Text(_) if has(&IDENTIFIES) => About::Identifier,
            FieldType::Text(_) if has(&TELLS) => About::Sentences,
            FieldType::Text(_) if has(&NAMES) => About::Names,
            _ => About::Anything,
        };
        let limits = match &field.kind {
            FieldType::Number(number) if number.min.is_some() || number.max.is_some() => (number.min, number.max),
            FieldType::Number(_) => field.description.as_deref().map(stated_limits).unwrap_or_default(),
            _ => (None, None),
        };
        let is_unique = field.key || description.is_some_and(|text| text.means(&UNIQUE));
        Self { about, is_unique, limits }
    }

    /// What they say of a column whose heading names a unit, or none.
    pub(super) fn judge(&self, field: &Field, sample: &Sample, unit: Option<&Mention>) -> Hinted {
        let mut hinted = match &field.kind {
            FieldType::Text(text) if text.digits.is_none() && text.pattern.is_none() => self.text(sample),
            FieldType::Number(_) => self.number(field, sample, unit),
            _ => Hinted::default(),
        };
        let repeated = sample.repeated().percent();
        if self.is_unique && repeated > 5 {
            hinted.points -= 300;
            hinted.against = Some("its values come again, and the field is to have none twice");
        }
        hinted
    }

    fn text(&self, sample: &Sample) -> Hinted {
        let words = |text: &str| text.split_whitespace().count();
        let share = |fits: &dyn Fn(&str) -> bool| sample.share(|_, text| fits(text)).percent();
        let figures = sample.with_figures().percent();
        let is_name = |text: &str| {
            words(text) <= 5 && text.split_whitespace().any(|word| word.chars().next().is_some_and(char::is_uppercase) && word.chars().count() >= 3)
                && !text.chars().any(|c| c.is_ascii_digit())
        };
        let is_amount = |text: &str| text.contains(['.', ',']) && number_of(text).is_some();
        let is_other = share(&|text| super::contents::is_date_text(text)) >= 80
            || share(&|text| super::contents::is_clock(text)) >= 80
            || share(&is_amount) >= 80;
        let points = match self.about {
            _ if is_other => -250,
            About::Identifier if figures >= 80 => 80,
            About::Identifier if figures < 20 => -150,
            About::Names if figures > 50 => -300,
            About::Names if share(&is_name) >= 70 => 100,
            About::Names if share(&|text| words(text) >= 2) >= 50 => 40,
            About::Sentences if share(&|text| words(text) >= 2) >= 60 => 120,
            About::Sentences if figures > 80 => -150,
            _ => 0,
        };
        let against = (is_other).then_some("its values are dates, times or amounts, and the field is text");
        Hinted { points, against, fills_limits: false }
    }

    fn number(&self, field: &Field, sample: &Sample, unit: Option<&Mention>) -> Hinted {
        let FieldType::Number(number) = &field.kind else { return Hinted::default() };
        let mut hinted = Hinted::default();
        let fractions = sample.share(|_, text| number_of(text).is_some_and(|number| number.decimals() > 0));
        if number.decimals == 0 && number.unit.is_none() && fractions.percent() > 20 {
            hinted.points -= 200;
            hinted.against = Some("its numbers have decimals, and the field takes whole ones");
        }
        let way = match (unit, number.unit) {
            (Some(Mention::Unit(from)), Some(to)) if *from != to => UnitConversion::new(from, to).ok(),
            _ => None,
        };
        let in_unit = |text: &str| {
            let number = number_of(text)?;
            match way {
                Some(way) => number.scaled(way.factors, 6, Some(Rounding::HalfUp)).ok().map(|(number, _)| number),
                None => Some(number),
            }
        };
        let (least, most) = self.limits;
        if least.is_none() && most.is_none() {
            return hinted;
        }
        let mut inside = Share::default();
        let (mut lowest, mut highest): (Option<Decimal>, Option<Decimal>) = (None, None);
        for number in sample.texts().filter_map(in_unit) {
            inside.of += 1;
            if least.is_none_or(|least| number >= least) && most.is_none_or(|most| number <= most) {
                inside.fit += 1;
                lowest = Some(lowest.map_or(number, |lowest| lowest.min(number)));
                highest = Some(highest.map_or(number, |highest| highest.max(number)));
            }
        }
        let span = |from: Option<Decimal>, to: Option<Decimal>| {
            from.zip(to).and_then(|(from, to)| to.minus(from)).map_or(0, Decimal::millionths)
        };
        let fills = span(lowest, highest) >= span(least, most) / 4 && span(least, most) > 0;
        match inside.percent() {
            _ if inside.of == 0 => {}
            95.. if fills => {
                hinted.points += 240;
                hinted.fills_limits = true;
            }
            95.. => hinted.points += 60,
            60.. => hinted.points -= 60,
            _ => {
                hinted.points -= 250;
                hinted.against = Some("most of its numbers are outside the limits of the field");
            }
        }
        hinted
    }
}
