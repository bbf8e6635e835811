//! What a field wants beyond its type, as far as its names and its description say it: limits in words,
//! values that never come twice, a person's name, a number that identifies.

use super::ReadLimits;
use super::contents::number_of;
use super::masks::{Of, examples, mask};
use super::names::Name;
use super::sample::Sample;
use dusk_description::{Field, FieldType};
use dusk_evidence::Share;
use dusk_values::{Decimal, Mention, Rounding, UnitConversion};

/// Words of fields that identify something.
const IDENTIFIES: [&str; 11] = [
    "number",
    "id",
    "reference",
    "barcode",
    "serial",
    "registration",
    "label",
    "telephone",
    "mobile",
    "postcode",
    "invoice",
];

/// Words for somebody who may be a firm, and for names.
const NAMES: [&str; 13] = [
    "name", "customer", "client", "owner", "supplier", "company", "firm", "surname", "forename", "family",
    "tenant", "given", "by",
];

/// Words for people only, never for a firm.
const PERSONS: [&str; 43] = [
    "person",
    "driver",
    "engineer",
    "inspector",
    "teacher",
    "student",
    "guest",
    "member",
    "patient",
    "operator",
    "staff",
    "clerk",
    "parent",
    "doctor",
    "leader",
    "who",
    "finder",
    "keeper",
    "host",
    "adviser",
    "nurse",
    "vet",
    "cook",
    "pilot",
    "diver",
    "author",
    "witness",
    "expert",
    "judge",
    "grower",
    "gardener",
    "guide",
    "rider",
    "walker",
    "worker",
    "player",
    "caller",
    "buyer",
    "child",
    "contact",
    "secretary",
    "manager",
    "employee",
];

/// Words for firms, and for what is written as people's names are.
const FIRMS: [&str; 37] = [
    "courier",
    "curator",
    "borrower",
    "trader",
    "agent",
    "heir",
    "donor",
    "husband",
    "mother",
    "father",
    "son",
    "brother",
    "neighbour",
    "baker",
    "butcher",
    "smith",
    "carpenter",
    "plumber",
    "electrician",
    "treasurer",
    "carrier",
    "customer",
    "client",
    "account",
    "owner",
    "holder",
    "supplier",
    "vendor",
    "company",
    "firm",
    "tenant",
    "surname",
    "forename",
    "street",
    "address",
    "species",
    "scientific",
];

/// Whether each of the names has a word of the trades, so that it is known what the field is for.
fn is_known_thing(names: &[Name]) -> bool {
    names.iter().all(|name| name.words().any(|word| word != "name" && name.is_of_trades(word)))
}

/// Words for what is written in whole sentences.
const TELLS: [&str; 6] = ["remark", "note", "comment", "description", "defect", "reason"];

/// Words for a time of day or for how long something lasts.
const TIMES: [&str; 3] = ["time", "clock", "duration"];

/// Words for somebody's initials.
const INITIALS: [&str; 2] = ["initials", "initial"];

/// Words for one of a few kinds.
const KINDS: [&str; 8] =
    ["kind", "type", "category", "status", "relation", "relationship", "class", "gender"];

/// Words of descriptions that say that no value comes twice.
const UNIQUE: [&str; 8] = ["twice", "unique", "eindeutig", "einmalig", "univoque", "unico", "unica", "once"];

/// Whether a text has a form.
type Fits = fn(&str) -> bool;

fn is_mail(text: &str) -> bool {
    text.split_once('@').is_some_and(|(name, host)| !name.is_empty() && host.contains('.'))
        && !text.contains(' ')
}

/// Six figures at least, and nothing but the signs that stand between those of a telephone number.
fn is_telephone(text: &str) -> bool {
    let figures = text.bytes().filter(u8::is_ascii_digit).count();
    (6..=16).contains(&figures)
        && text.chars().all(|c| c.is_ascii_digit() || matches!(c, ' ' | '+' | '-' | '/' | '(' | ')' | '.'))
}

/// What a text is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum About {
    Mail,
    Telephone,
    Identifier,
    Names,
    Sentences,
    Kinds,
    Times,
    Initials,
    Anything,
}

/// What a field wants beyond its type.
#[derive(Debug)]
pub(super) struct Hints {
    about: About,
    is_of_persons: bool,
    /// It may hold people's names, for all that it is called.
    may_be_people: bool,
    is_unique: bool,
    /// The least and the greatest number.
    limits: (Option<Decimal>, Option<Decimal>),
    /// Letters and figures in the order that the description says: "two letters and six digits".
    mask: Vec<(usize, Of)>,
    /// Values of fewer digits than the mask has are no other form.
    takes_fewer: bool,
    /// Values that the description gives as examples, in lower case.
    examples: Vec<String>,
}

/// What the hints say of a column.
#[derive(Debug, Clone, Default)]
pub(super) struct Hinted {
    /// How much they speak for it, or against it, in thousandths.
    pub(super) points: i32,
    /// How much of that few columns have: values that never come again, limits that are filled.
    pub(super) told: i32,
    /// All of its numbers are inside limits that have two ends, and fill a good part of what is between.
    pub(super) fills_limits: bool,
    /// Why it cannot be sure.
    pub(super) against: Option<&'static str>,
}

impl Hints {
    pub(super) fn of(
        field: &Field,
        names: &[Name],
        (description, is_only_key): (Option<&Name>, bool),
        read_limits: ReadLimits,
    ) -> Self {
        let has = |words: &[&str]| names.iter().any(|name| name.means(words));
        let about = match &field.kind {
            FieldType::Text(_) if has(&["email", "mail"]) => About::Mail,
            FieldType::Text(_) if has(&["telephone", "mobile", "fax"]) => About::Telephone,
            FieldType::Text(_) if has(&INITIALS) || description.is_some_and(|text| text.means(&INITIALS)) => {
                About::Initials
            }
            FieldType::Text(_) if has(&IDENTIFIES) => About::Identifier,
            FieldType::Text(_) if has(&TELLS) => About::Sentences,
            FieldType::Text(_) if has(&TIMES) => About::Times,
            FieldType::Text(_) if has(&KINDS) => About::Kinds,
            FieldType::Text(_)
                if has(&["name"])
                    || names
                        .iter()
                        .any(|name| name.last_word_means(&NAMES) || name.last_word_means(&PERSONS)) =>
            {
                About::Names
            }
            _ => About::Anything,
        };
        let limits = match &field.kind {
            FieldType::Number(number) if number.min.is_some() || number.max.is_some() => {
                (number.min, number.max)
            }
            FieldType::Number(_) => field.description.as_deref().map(read_limits).unwrap_or_default(),
            _ => (None, None),
        };
        let is_unique = is_only_key || description.is_some_and(|text| text.means(&UNIQUE));
        let examples = match (&field.kind, field.description.as_deref()) {
            (FieldType::Text(_), Some(text)) => examples(text),
            _ => Vec::new(),
        };
        let mask = match (&field.kind, field.description.as_deref()) {
            (FieldType::Text(_), Some(text)) => mask(text),
            _ => Vec::new(),
        };
        // Zeros that were lost in front are put back, so that fewer digits are no other form.
        let takes_fewer = matches!(&field.kind, FieldType::Text(kind) if kind.digits.is_some())
            && mask.iter().all(|(_, of)| *of == Of::Figures);
        let is_person = |name: &Name| name.last_word_means(&PERSONS);
        // Initials and numbers of people are no names.
        let has_room = matches!(&field.kind, FieldType::Text(text) if text.digits.is_none() && text.max_length.is_none_or(|most| most >= 15));
        let is_of_persons = has_room
            && about != About::Identifier
            && (names.iter().any(is_person) || description.is_some_and(|text| text.means(&["person"])));
        let may_be_people = !has_room
            || is_of_persons
            || has(&PERSONS)
            || has(&FIRMS)
            || has(&TELLS)
            || !is_known_thing(names);
        Self { about, is_of_persons, may_be_people, is_unique, limits, mask, takes_fewer, examples }
    }

    /// Whether people's names would be no wonder: of a field for a thing they would.
    pub(super) fn may_be_people(&self) -> bool {
        self.may_be_people
    }

    /// Whether it is for people's names.
    pub(super) fn is_of_persons(&self) -> bool {
        self.is_of_persons
    }

    /// What they say of a column whose heading names a unit, or none.
    pub(super) fn judge(&self, field: &Field, sample: &Sample, unit: Option<&Mention>) -> Hinted {
        let mut hinted = match &field.kind {
            FieldType::Text(text) if text.digits.is_none() && text.pattern.is_none() => self.text(sample),
            FieldType::Number(_) => self.number(field, sample, unit),
            _ => Hinted::default(),
        };
        if let Some((fits, against)) = self.form() {
            match sample.share(|_, text| fits(text)).percent() {
                80.. => {
                    hinted.points += 200;
                    hinted.told += 200;
                }
                30.. => {}
                _ => {
                    hinted.points -= 250;
                    hinted.against = Some(against);
                }
            }
        }
        if self.about == About::Initials {
            let is_initials = |text: &str| {
                (1..=4).contains(&text.chars().count()) && text.chars().all(|c| c.is_uppercase() || c == '.')
            };
            match sample.share(|_, text| is_initials(text)).percent() {
                90.. => {
                    hinted.points += 120;
                    hinted.told += 120;
                }
                30.. => {}
                _ => {
                    hinted.points -= 200;
                    hinted.against = Some("its values are not initials");
                }
            }
        }
        if !self.mask.is_empty() {
            match sample.share(|_, text| self.has_mask(text)).percent() {
                90.. => {
                    hinted.points += 200;
                    hinted.told += 200;
                }
                30.. => {}
                _ if self.takes_fewer => {}
                _ => {
                    hinted.points -= 250;
                    hinted.against = Some("its values are not written as the dictionary says");
                }
            }
        }
        let repeated = sample.repeated().percent();
        if self.is_unique && repeated > 5 {
            hinted.points -= 300;
            hinted.against = Some("its values come again, and the field is to have none twice");
        }
        if self.is_unique && sample.repeated().fit == 0 {
            hinted.points += 80;
            hinted.told += 80;
        }
        hinted
    }

    /// The form of values that have one wherever they are met, and what is said of others.
    fn form(&self) -> Option<(Fits, &'static str)> {
        match self.about {
            About::Mail => Some((is_mail, "its values are not mail addresses")),
            About::Telephone => Some((is_telephone, "its values are not telephone numbers")),
            _ => None,
        }
    }

    /// Whether a text has the letters and figures that the description counts, whatever stands between them.
    fn has_mask(&self, text: &str) -> bool {
        let mut characters = text.chars().filter(|c| c.is_alphanumeric());
        let fits = |(count, of): &(usize, Of)| {
            (0..*count).all(|_| {
                characters.next().is_some_and(|c| match of {
                    Of::Letters => c.is_alphabetic(),
                    Of::Figures => c.is_ascii_digit(),
                })
            })
        };
        self.mask.iter().all(fits) && characters.next().is_none()
    }

    fn text(&self, sample: &Sample) -> Hinted {
        let words = |text: &str| text.split_whitespace().count();
        let share = |fits: &dyn Fn(&str) -> bool| sample.share(|_, text| fits(text)).percent();
        let figures = sample.with_figures().percent();
        let is_name = |text: &str| {
            words(text) <= 5
                && text.split_whitespace().any(|word| {
                    word.chars().next().is_some_and(char::is_uppercase) && word.chars().count() >= 3
                })
                && !text.chars().any(|c| c.is_ascii_digit())
        };
        let is_amount = |text: &str| text.contains(['.', ',']) && number_of(text).is_some();
        let is_other = share(&|text| super::contents::is_date_text(text)) >= 80
            || share(&|text| super::contents::is_clock(text)) >= 80
            || share(&is_amount) >= 80;
        let is_time_like = |text: &str| {
            let mut letters = text.chars();
            letters.next().is_some_and(|c| c.is_ascii_digit())
                && letters.all(|c| !c.is_alphabetic() || matches!(c, 'h' | 'm' | 's'))
        };
        let points = match self.about {
            About::Times => {
                if share(&is_time_like) >= 60 {
                    80
                } else {
                    -150
                }
            }
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
        let is_example = |text: &str| self.examples.contains(&text.to_lowercase());
        let against = match self.about {
            _ if is_other && self.about != About::Times => {
                Some("its values are dates, times or amounts, and the field is text")
            }
            About::Names if figures > 50 => Some("most of its values have figures, and a name has none"),
            About::Times if share(&is_time_like) < 60 => Some("its values are not times"),
            About::Kinds if sample.repeated().percent() < 30 && sample.filled >= 10 => {
                Some("nearly all of its values are different, and the field is for one of a few kinds")
            }
            _ if !self.examples.is_empty() && share(&is_example) == 0 => {
                Some("not one of its values is like the examples in the dictionary")
            }
            _ => None,
        };
        Hinted { points, against, ..Hinted::default() }
    }

    fn number(&self, field: &Field, sample: &Sample, unit: Option<&Mention>) -> Hinted {
        let FieldType::Number(number) = &field.kind else { return Hinted::default() };
        let mut hinted = Hinted::default();
        let fractions = sample.share(|_, text| number_of(text).is_some_and(|number| number.decimals() > 0));
        if number.decimals == 0 && number.unit.is_none() && fractions.percent() > 20 {
            hinted.points -= 200;
            hinted.against = Some("its numbers have decimals, and the field takes whole ones");
        }
        // Few whole numbers, again and again, may be the numbers of things.
        let is_few = sample.different() <= 10 && sample.filled >= 30;
        let names_unit = matches!((unit, number.unit), (Some(Mention::Unit(unit)), Some(wanted)) if unit.measures_the_same(wanted));
        if number.decimals > 0
            && !names_unit
            && is_few
            && sample.share(|_, text| text.bytes().all(|byte| byte.is_ascii_digit())).percent() == 100
        {
            hinted.points -= 100;
            hinted.against = Some("it holds a few whole numbers only, and the field takes decimals");
        }
        let way = match (unit, number.unit) {
            (Some(Mention::Unit(from)), Some(to)) if *from != to => UnitConversion::new(from, to).ok(),
            _ => None,
        };
        let in_unit = |text: &str| {
            let number = number_of(text)?;
            match way {
                Some(way) => {
                    number.scaled(way.factors, 6, Some(Rounding::HalfUp)).ok().map(|(number, _)| number)
                }
                None => Some(number),
            }
        };
        match (unit, number.unit) {
            (Some(Mention::Unit(from)), Some(to)) if *from == to || way.is_some() => hinted.points += 80,
            (Some(Mention::Unit(_)), Some(_)) => hinted.points -= 250,
            _ => {}
        }
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
        let fills = span(lowest, highest) >= span(least, most) / 5 * 2 && span(least, most) > 0;
        match inside.percent() {
            _ if inside.of == 0 => {}
            95.. if fills => {
                hinted.points += 240;
                hinted.told += 240;
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
