//! A value from several cells, and one part of a cell that holds several.

use std::borrow::Cow;

use super::clean::is_blank;
use super::{Basis, Trail, boolean};
use dusk_evidence::{Fault, FieldId, Id as _, NumberFact, NumberMarks, TextFact};
use dusk_mapping::{Answer, LookUp, NotTaken, Part, WorkedOut};
use dusk_sources::CellKind;
use dusk_values::Decimal;
use jiff::civil::Date;

/// Stands between the cells of one raw value: a unit separator (U+001F), which is made for this.
pub(super) const JOINT: char = '\u{1f}';

/// What is made of several cells.
#[derive(Debug, Clone)]
pub enum Several<'p> {
    /// One text, with text between the cells.
    Join(Vec<JoinPiece>),
    /// The first that is not blank; the headings, in order.
    FirstOf(Vec<&'p str>),
    /// The nth that is not blank; the last takes what is left over, where it is said how.
    Filled {
        /// The headings, in order.
        headings: Vec<&'p str>,
        /// Which of those that are not blank, from 1.
        nth: usize,
        /// No field takes those behind it.
        is_last: bool,
        /// What stands between those that are left over.
        rest: Option<&'p str>,
    },
    /// A number that is reckoned from all of them.
    WorkedOut {
        /// How.
        worked_out: &'p WorkedOut,
        /// What stands before the decimals in the cells, where the mapping says.
        mark: Option<char>,
        /// The day of the run.
        today: Date,
    },
    /// One text of all that are not blank, with this between them; several values, where the field
    /// holds several.
    Together(Option<&'p str>),
    /// A number, and the unit that it is in.
    InUnits,
    /// A code for each that says true; the headings and the codes, in order.
    Flags(Vec<(&'p str, &'p str)>),
    /// What another file says for them.
    LookUp(&'p LookUp),
}

/// One piece of a join.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum JoinPiece {
    /// Text between two columns.
    Text(String),
    /// The next column.
    Column,
}

/// What several cells come to.
pub(super) enum Put<'r, 'p> {
    /// A value like that of one cell.
    Value(CellKind, Cow<'r, str>),
    /// Several values with joints between them.
    Values(String),
    /// Codes; nothing where all cells are blank.
    Codes(Option<Vec<&'p str>>),
}

impl<'p> Several<'p> {
    /// Makes a value of cells with joints between them. `blank` are the words for a blank cell,
    /// `words` those for true and false.
    pub(super) fn put_together<'r>(
        &self,
        raw: &'r str,
        blank: &[String],
        words: Option<(&str, &str)>,
        holds_several: bool,
        trail: &mut Trail,
    ) -> Result<Put<'r, 'p>, Fault> {
        let cells = || {
            raw.split(JOINT).map(|cell| {
                let (kind, text) = CellKind::of(cell);
                if is_blank(cell, blank) { (CellKind::Text, "") } else { (kind, text.trim()) }
            })
        };
        if !matches!(self, Self::FirstOf(_)) && cells().any(|(kind, text)| kind.holds_error(text)) {
            return Err(error_cell());
        }
        Ok(match self {
            Self::Join(pieces) => {
                Put::Value(CellKind::Text, join(pieces, cells().map(|(_, text)| text), trail).into())
            }
            Self::FirstOf(headings) => first_of(headings, cells(), trail),
            Self::InUnits => in_units(cells(), trail),
            Self::Filled { headings, nth, is_last, rest } => {
                let left = if *is_last { Some(*rest) } else { None };
                return filled(headings, *nth, left, cells(), trail);
            }
            Self::WorkedOut { worked_out, mark, today } => {
                let number = reckoned(worked_out, *mark, *today, cells())?;
                if let Some(text) = &number {
                    trail.took(text, || Basis::WorkedOut { written: worked_out.written.clone() });
                }
                Put::Value(CellKind::Number, number.unwrap_or_default().into())
            }
            Self::Together(between) => {
                let filled: Vec<&str> =
                    cells().map(|(_, text)| text).filter(|text| !text.is_empty()).collect();
                if holds_several {
                    return Ok(Put::Values(filled.join(&JOINT.to_string())));
                }
                let gathered = filled.join(between.unwrap_or(" "));
                if !gathered.is_empty() {
                    trail.took(&gathered, || Basis::Together { filled: filled.len(), of: cells().count() });
                }
                Put::Value(CellKind::Text, gathered.into())
            }
            Self::Flags(flags) => Put::Codes(read_flags(flags, cells(), words, trail)?),
            Self::LookUp(look_up) => {
                let keys: Vec<&str> = cells().map(|(_, text)| text).collect();
                Put::Value(CellKind::Text, looked_up(look_up, &keys, trail)?.into())
            }
        })
    }
}

/// The first cell that is not blank.
fn first_of<'r, 'p>(
    headings: &[&str],
    cells: impl Iterator<Item = (CellKind, &'r str)>,
    trail: &mut Trail,
) -> Put<'r, 'p> {
    let Some((place, (kind, text))) = cells.enumerate().find(|(_, (_, text))| !text.is_empty()) else {
        return Put::Value(CellKind::Text, "".into());
    };
    if place > 0 {
        let heading = headings.get(place).copied().unwrap_or_default();
        trail.took(text, || Basis::FirstOf { heading: heading.to_owned() });
    }
    Put::Value(kind, Cow::Borrowed(text))
}

/// The nth cell that is not blank. `left` is there for the last field of those that the cells fill: what stands between
/// those that are left over, if it takes them.
fn filled<'r, 'p>(
    headings: &[&str],
    nth: usize,
    left: Option<Option<&str>>,
    cells: impl Iterator<Item = (CellKind, &'r str)>,
    trail: &mut Trail,
) -> Result<Put<'r, 'p>, Fault> {
    let mut behind = cells.enumerate().filter(|(_, (_, text))| !text.is_empty()).skip(nth - 1);
    let Some((place, (kind, text))) = behind.next() else { return Ok(Put::Value(CellKind::Text, "".into())) };
    let over: Vec<&str> = behind.map(|(_, (_, text))| text).collect();
    match left {
        Some(None) if !over.is_empty() => {
            Err(Fault::new(TextFact::NoPlaceLeft { places: nth, left: over.join(", ") }))
        }
        Some(Some(between)) if !over.is_empty() => {
            let all = std::iter::once(text).chain(over).collect::<Vec<_>>().join(between);
            trail.took(&all, || Basis::Filled { heading: String::new(), nth });
            Ok(Put::Value(CellKind::Text, all.into()))
        }
        _ => {
            if place + 1 != nth {
                let heading = headings.get(place).copied().unwrap_or_default();
                trail.took(text, || Basis::Filled { heading: heading.to_owned(), nth });
            }
            Ok(Put::Value(kind, Cow::Borrowed(text)))
        }
    }
}

/// What is reckoned from cells; nothing where one that is needed is blank.
fn reckoned<'r>(
    worked_out: &WorkedOut,
    mark: Option<char>,
    today: Date,
    cells: impl Iterator<Item = (CellKind, &'r str)>,
) -> Result<Option<String>, Fault> {
    let mut numbers = Vec::new();
    for ((kind, text), heading) in cells.zip(&worked_out.columns) {
        let number = (!text.is_empty()).then(|| certain_number(kind, text, mark));
        let not_certain = || {
            let marks =
                mark.map_or(NumberMarks::Plain, |decimal| NumberMarks::Named { decimal, thousands: None });
            Fault::new(NumberFact::NotANumber(marks)).of_part(text, Some(heading))
        };
        numbers.push(number.map(|number| number.ok_or_else(not_certain)).transpose()?);
    }
    let number = |place: FieldId| numbers.get(place.index()).copied().flatten();
    Ok(worked_out.expression.number(&number, today).map(|number| number.to_string()))
}

/// A number that can be read in one way only: a typed one, or one with the mark that the mapping names. Where it names
/// none, `1.234` may be more than a thousand.
fn certain_number(kind: CellKind, text: &str, mark: Option<char>) -> Option<Decimal> {
    let text = match mark {
        _ if kind == CellKind::Number => text.to_owned(),
        Some('.') | None => text.to_owned(),
        Some(_) if text.contains('.') => return None,
        Some(mark) => text.replacen(mark, ".", 1),
    };
    let decimals = text.split_once('.').map(|(whole, decimals)| (whole.trim_start_matches('-'), decimals));
    let may_be_thousands = |(whole, decimals): (&str, &str)| {
        decimals.len() == 3 && (1..=3).contains(&whole.len()) && !whole.starts_with('0')
    };
    let is_open = kind != CellKind::Number && mark.is_none() && decimals.is_some_and(may_be_thousands);
    if is_open { None } else { Decimal::parse(&text) }
}

/// A number with its unit behind it; what its cell says that it is stays.
fn in_units<'r, 'p>(mut cells: impl Iterator<Item = (CellKind, &'r str)>, trail: &mut Trail) -> Put<'r, 'p> {
    let (number, unit) = (cells.next(), cells.next());
    let (Some((kind, number)), Some((_, unit))) = (number, unit) else {
        return Put::Value(CellKind::Text, "".into());
    };
    if number.is_empty() || unit.is_empty() {
        return Put::Value(kind, number.into());
    }
    let both = format!("{number} {unit}");
    trail.took(&both, || Basis::Join);
    Put::Value(kind, both.into())
}

pub(super) fn error_cell() -> Fault {
    Fault::new(TextFact::ErrorCell)
}

/// Joins cells. A blank one goes away together with the text before it, and so does text with no
/// cell before it, unless the join begins with that text.
pub(super) fn join<'c>(
    pieces: &[JoinPiece],
    mut cells: impl Iterator<Item = &'c str>,
    trail: &mut Trail,
) -> String {
    let mut joined = String::new();
    let mut between = String::new();
    for piece in pieces {
        match piece {
            JoinPiece::Text(text) => between.push_str(text),
            JoinPiece::Column => {
                let part = cells.next().unwrap_or_default();
                if part.is_empty() {
                    between.clear();
                    continue;
                }
                let leads = joined.is_empty() && !matches!(pieces.first(), Some(JoinPiece::Text(_)));
                if !leads {
                    joined.push_str(&between);
                }
                between.clear();
                joined.push_str(part);
            }
        }
    }
    if joined.is_empty() {
        return joined;
    }
    if matches!(pieces.last(), Some(JoinPiece::Text(_))) {
        joined.push_str(&between);
    }
    trail.took(&joined, || Basis::Join);
    joined
}

/// The codes of the columns that say true; nothing where every one is blank.
fn read_flags<'c, 'p>(
    flags: &[(&'p str, &'p str)],
    cells: impl Iterator<Item = (CellKind, &'c str)>,
    words: Option<(&str, &str)>,
    trail: &mut Trail,
) -> Result<Option<Vec<&'p str>>, Fault> {
    let mut codes = Vec::new();
    let mut answered = false;
    for ((heading, code), (kind, text)) in flags.iter().zip(cells) {
        if text.is_empty() {
            continue;
        }
        answered = true;
        let only = if kind == CellKind::Boolean { Some(("TRUE", "FALSE")) } else { words };
        let read = boolean::conform(text, only, ("1", "0"), &mut Trail::default());
        let (_, says) = read.map_err(|fault| fault.of_part(text, Some(heading)))?;
        if says && !codes.contains(code) {
            codes.push(*code);
        }
    }
    if answered {
        trail.took(&codes.join("|"), || Basis::Flags);
    }
    Ok(answered.then_some(codes))
}

fn looked_up(look_up: &LookUp, keys: &[&str], trail: &mut Trail) -> Result<String, Fault> {
    if keys.iter().all(|key| key.is_empty()) {
        return Ok(String::new());
    }
    let translation = look_up.translation(keys);
    if let Some(translation) = translation {
        trail.took(&translation.key, || Basis::Crosswalk {
            by: translation.by.clone(),
            on: translation.on.clone(),
        });
    }
    let found = match translation {
        Some(translation) => look_up.find(&[&translation.key]),
        None => look_up.find(keys),
    };
    match found {
        Some(Answer::One(value, row)) => {
            trail.took(value, || Basis::LookUp {
                take: look_up.take.clone(),
                row: row.0,
                file: look_up.file.clone(),
            });
            Ok(value.clone())
        }
        Some(Answer::Two(first, second)) => {
            Err(Fault::new(TextFact::LookUpUnclear { file: look_up.file.clone(), rows: [first.0, second.0] }))
        }
        None => {
            let by = look_up.by.iter().map(|(_, theirs)| theirs.clone()).collect();
            let (file, values) = (look_up.file.clone(), look_up.len());
            let near = keys.first().and_then(|key| look_up.near(key)).map(str::to_owned);
            Err(Fault::new(TextFact::NotLookedUp { file, by, values, near }))
        }
    }
}

/// Takes one part of a cell that holds several, if the form leaves only one way to do so.
pub(super) fn take_part(part: &Part, text: &str, trail: &mut Trail) -> Result<String, Fault> {
    let form = || part.written.clone();
    match part.take(text) {
        Ok(taken) => {
            trail.took(taken, || Basis::Part { form: form() });
            Ok(taken.to_owned())
        }
        Err(NotTaken::NotInForm) => Err(Fault::new(TextFact::NotInForm { form: form() })),
        Err(NotTaken::InSeveralWays(readings)) => {
            Err(Fault::new(TextFact::SeveralParts { form: form(), readings }))
        }
    }
}

/// The same for each of several values; what is blank in one of them is left out.
pub(super) fn take_parts(part: &Part, values: Vec<&str>, trail: &mut Trail) -> Result<String, Fault> {
    let mut taken: Vec<String> = Vec::new();
    for value in values {
        let one = take_part(part, value, &mut Trail::default());
        taken.push(one.map_err(|fault| Fault { part: Some(value.to_owned()), ..fault })?);
    }
    taken.retain(|value| !value.is_empty());
    trail.took(&taken.join(" + "), || Basis::Part { form: part.written.clone() });
    Ok(taken.join(&JOINT.to_string()))
}

/// Why a text is no value: an error of a spreadsheet program, or a character that was lost.
pub(super) fn no_value(text: &str, kind: CellKind) -> Option<Fault> {
    if kind.holds_error(text) {
        return Some(error_cell());
    }
    text.contains('\u{fffd}').then(|| Fault::new(TextFact::LostCharacter))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn take(form: &str, name: &str, text: &str) -> Result<String, String> {
        let part = Part::parse(form, name)?;
        take_part(&part, text, &mut Trail::default()).map_err(|fault| fault.wrong())
    }

    #[test]
    fn a_part_is_taken_where_there_is_one_way() {
        let form = "{town}, {region} {postcode:digits}";
        assert_eq!(take(form, "town", "Vik, Upper Fen 6893").as_deref(), Ok("Vik"));
        assert_eq!(take(form, "region", "Vik, Upper Fen 6893").as_deref(), Ok("Upper Fen"));
        assert_eq!(take(form, "postcode", "Vik, Upper Fen 6893").as_deref(), Ok("6893"));
        assert!(take(form, "region", "Vik, 6893").unwrap_err().contains("does not have the form"));
        let loose = "{town}, {region} {postcode}";
        assert_eq!(take(loose, "town", "Vik, Upper Fen 6893").as_deref(), Ok("Vik"), "the same in every way");
        assert!(
            take(loose, "region", "Vik, Upper Fen 6893").unwrap_err().contains("\"Upper\" or \"Upper Fen\"")
        );
        assert!(take("{a}{b}", "a", "xy").unwrap_err().contains("nothing between"));
        assert!(take("{a} {b:number}", "a", "xy").unwrap_err().contains("digits"));
        let long = "a ".repeat(3_000);
        assert!(take("{a} {b} {c} {d:digits}", "a", &long).is_err(), "and it ends");
    }

    proptest! {
        /// A join and its reverse undo each other, or it is said why not.
        #[test]
        fn a_join_is_undone(cells in prop::collection::vec("[a-c ,;]{0,5}", 3), between in prop::collection::vec("[,; ]{1,2}", 2)) {
            let pieces = [
                JoinPiece::Column,
                JoinPiece::Text(between[0].clone()),
                JoinPiece::Column,
                JoinPiece::Text(between[1].clone()),
                JoinPiece::Column,
            ];
            let trimmed: Vec<&str> = cells.iter().map(|cell| cell.trim()).collect();
            let joined = join(&pieces, trimmed.iter().copied(), &mut Trail::default());
            let form = format!("{{a}}{}{{b}}{}{{c}}", between[0], between[1]);
            let whole = trimmed.iter().all(|cell| !cell.is_empty());
            for (name, cell) in ["a", "b", "c"].into_iter().zip(&trimmed) {
                match take(&form, name, &joined) {
                    Ok(taken) => prop_assert!(!whole || taken == *cell, "{joined:?}: {taken:?} for {cell:?}"),
                    Err(says) => prop_assert!(
                        says.contains("several ways") || !whole && says.contains("does not have the form"),
                        "{joined:?}: {says}"
                    ),
                }
            }
        }
    }
}
