//! A column and a field, and what speaks for them.

use super::LEAST;
use super::called::Called;
use super::contents::Contents;
use super::hints::Hinted;
use super::likeness::Weights;
use super::names::Name;
use super::sample::Sample;
use dusk_description::{Field, FieldType, Target};
use dusk_evidence::{ById, ColumnId};
use dusk_files::toml_text;
use dusk_values::{Mention, Unit};

/// Two names that leave little doubt.
pub(super) const PLAIN_NAME: u32 = 780;

/// What proves a pair, row by row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Proof {
    /// Its codes hold inside those of another column.
    Codes,
    /// Its days and those of the only other such column are in the order of the only two fields of days.
    Order,
    /// Of columns with one heading it is the one in the field's place.
    Sequence,
    /// Its numbers come of those of two other columns, or those of another come of them.
    Reckoned,
}

impl Proof {
    pub(super) fn says(self) -> &'static str {
        match self {
            Self::Codes => "row by row its codes go with those of another column",
            Self::Order => "the only two columns of dates are row by row in the order of the two fields",
            Self::Sequence => {
                "of the columns with this heading, its place is that of the field among similar ones"
            }
            Self::Reckoned => {
                "row by row its numbers go with those of two other columns, as the dictionary says"
            }
        }
    }
}

/// A column and a field, and what speaks for them.
#[derive(Debug, Clone, Default)]
pub(super) struct Pair {
    pub(super) name: u32,
    /// The heading has a word that the field's name has not.
    pub(super) says_more: bool,
    /// Of the field's name the heading lacks nothing but words like "name" or "number".
    lacks_little: bool,
    /// The values have to be of a certain kind, and there are some.
    is_typed: bool,
    /// What proves it row by row.
    pub(super) proof: Option<Proof>,
    pub(super) why: String,
    pub(super) contents: Contents,
    pub(super) hinted: Hinted,
    /// The heading says "date" and no more, and the field is the only one of days.
    is_only_date: bool,
    /// Of all columns only this one holds what the field takes.
    pub(super) is_only: bool,
    pub(super) worth: i32,
}

impl Pair {
    /// Whether it is worth to be proposed.
    pub(super) fn is_worth_saying(&self) -> bool {
        self.worth >= LEAST || self.is_only && self.worth >= LEAST - 100
    }

    /// Whether two witnesses speak for the pair: a name and what the column holds, or one that says all. `margin` is
    /// what it would cost, over all columns and fields, to be wrong about it.
    pub(super) fn is_strong(&self, margin: u32) -> bool {
        let points = self.contents.points + self.hinted.points;
        // Of dates, numbers and words for true and false the values can be asked as well.
        let kind_fits = points > 0 || !self.is_typed;
        // Nearly every text could be another field's.
        let told = if self.is_typed || self.contents.points > 0 { points } else { self.hinted.told };
        let is_told = self.hinted.fills_limits || self.hinted.told >= 200 || self.is_only_date;
        if is_told && self.is_only && margin >= CLEAR {
            return true;
        }
        match self.name {
            990.. => points > -200,
            // "Remarks date" is not the remarks, unless the values leave no doubt.
            _ if self.says_more && told < TELLING => false,
            PLAIN_NAME.. => points >= 0 && kind_fits,
            // "Customer" for the customer's name, where it holds names.
            HEAD_WORD.. if self.lacks_little => told >= 60 || self.hinted.points >= 60,
            HEAD_WORD.. => told >= 60 && margin >= CLEAR || told >= 150,
            480.. => told >= 150 && margin >= CLEAR,
            300.. => told >= 150 && margin >= CLEAR && self.is_only,
            _ => false,
        }
    }
}

/// A name of which one field and one column have the word that counts.
const HEAD_WORD: u32 = 580;

/// Contents that allow hardly anything else.
const TELLING: i32 = 250;

/// A margin that leaves no other reading of the whole.
pub(super) const CLEAR: u32 = 180;

/// Marks the pair of the only field of a unit with the only column whose heading names such a unit and hardly
/// anything else: "X3 kg" for the weight.
pub(super) fn mark_unit(
    pairs: &mut ById<ColumnId, Pair>,
    (field, target): (&Field, &Target),
    headings: &ById<ColumnId, Name>,
) {
    let Some(wanted) = field.kind.unit() else { return };
    let named = |heading: &Name| match heading.unit_for(Some(wanted)) {
        Some(Mention::Unit(unit)) => Some(unit),
        _ => None,
    };
    let only = |fits: &dyn Fn(&Unit) -> bool| -> Option<ColumnId> {
        let is_alike = |field: &&Field| field.kind.unit().is_some_and(fits);
        let columns: Vec<ColumnId> = headings
            .with_ids()
            .filter(|(_, heading)| named(heading).is_some_and(fits))
            .map(|(column, _)| column)
            .collect();
        match columns.as_slice() {
            [column] if target.fields.iter().filter(is_alike).count() == 1 => Some(*column),
            _ => None,
        }
    };
    let column = only(&|unit| unit.measures_the_same(wanted)).or_else(|| only(&|unit| unit == wanted));
    let Some(column) = column.filter(|column| headings.get(*column).is_some_and(Name::says_little)) else {
        return;
    };
    if let Some(pair) = pairs.get_mut(column) {
        pair.hinted.told += 200;
        pair.hinted.points += 100;
        pair.worth = worth(pair.name, pair.contents.points + pair.hinted.points);
    }
}

/// Marks the one pair of a field whose column holds what the field takes, where all others hold something else; the
/// fewer fit, the more it says that one does.
pub(super) fn mark_only(pairs: &mut ById<ColumnId, Pair>) {
    /// So much less is worth what holds something else.
    const LESS: i32 = 500;
    /// From here on contents fit.
    const FITS: i32 = 80;
    let fits = |pair: &Pair| pair.contents.points + pair.hinted.points >= FITS;
    let best =
        pairs.iter().filter(|pair| fits(pair)).map(|pair| pair.contents.points + pair.hinted.points).max();
    let Some(best) = best else { return };
    let near = |pair: &Pair| fits(pair) && pair.contents.points + pair.hinted.points > best - FITS;
    let count = pairs.iter().filter(|pair| near(pair)).count();
    let more = match count {
        1 => 140,
        2 => 70,
        3 => 30,
        _ => 0,
    };
    // Where one column alone holds what a list has, others are hardly meant, whatever they are called.
    let is_telling = count == 1 && best >= TELLING;
    for column in pairs.ids().collect::<Vec<_>>() {
        let Some(pair) = pairs.get_mut(column) else { continue };
        if near(pair) {
            pair.is_only = count == 1;
            pair.worth = worth(pair.name, pair.contents.points + pair.hinted.points + more);
        } else if is_telling && pair.contents.points + pair.hinted.points <= 0 {
            pair.worth = (pair.worth - LESS).max(0);
        }
    }
}

/// What a pair is worth by its name and by what its column holds.
fn worth(name: u32, points: i32) -> i32 {
    /// Less than this is not worth to be looked at.
    const SOMETHING: i32 = 260;
    let name = if name >= 300 { i32::try_from(name).unwrap_or(0) } else { 0 };
    // What holds something else is hardly ever meant, whatever it is called.
    let worth = name + points - if points <= -250 { 300 } else { 0 };
    if worth >= SOMETHING { worth } else { 0 }
}

pub(super) fn pair(
    (column, sample): (&Name, &Sample),
    (field, called): (&Field, &Called),
    weights: &Weights<'_>,
) -> Pair {
    let mut best = (0, "", 0);
    for (place, name) in called.names.iter().enumerate() {
        let (score, why) = weights.alike(column, name);
        if score > best.0 {
            best = (score, why, place);
        }
    }
    let (mut name, why, place) = best;
    let is_label = |name: &Name| field.label.as_ref().is_some_and(|label| name.written == *label);
    let mut shown = match (name, place, called.names.get(place)) {
        (0, ..) => String::new(),
        (_, 0, _) | (_, _, None) => why.to_owned(),
        (_, place, Some(other)) if place >= called.own => format!(
            "another mapping of this target has it so; also = [{}] in the description would say it to all",
            toml_text(&other.written)
        ),
        (_, _, Some(other)) => {
            let called = if is_label(other) { "its label" } else { "another name of it" };
            format!("{why} as \"{}\", {called}", other.written)
        }
    };
    let in_text = called.text.as_ref().map_or(0, |text| weights.is_in_text(column, text));
    let by_text = in_text > name;
    if by_text {
        name = in_text;
        shown = "its words are in what the dictionary says of the field".into();
    }
    let contents = Contents::judge(sample, field);
    let unit = column.unit_for(field.kind.unit());
    let hinted = called.hints.judge(field, sample, unit.as_ref());
    let is_typed = sample.filled > 0
        && matches!(field.kind, FieldType::Number(_) | FieldType::Date(_) | FieldType::Boolean(_));
    let says_more = !by_text && called.names.get(place).is_some_and(|name| weights.says_more(column, name));
    let lacks_little =
        !by_text && called.names.get(place).is_some_and(|name| weights.lacks_little(column, name));
    Pair {
        name,
        says_more,
        lacks_little,
        is_typed,
        proof: None,
        is_only_date: called.is_only_date && column.says_only_date(),
        is_only: false,
        why: shown,
        // An empty column feeds nothing, whatever it is called.
        worth: if sample.filled == 0 { 0 } else { worth(name, contents.points + hinted.points) },
        contents,
        hinted,
    }
}
