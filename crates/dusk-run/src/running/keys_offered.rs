//! Keys of the mapping that might let in what values are rejected for. None is offered before it is tried.

use dusk_description::{CodesLayout, CodesType, DateType, Field, FieldType};
use dusk_evidence::Kind;
use dusk_files::toml_text;
use dusk_mapping::{DayCount, Feed, Map};
use dusk_values::{DatePattern, Rounding, Unit, is_in_calendar, patterns_of};

/// How many values are looked at for what they have in common.
const LOOKED_AT: usize = 8;

/// What may stand between several codes in one cell.
const BETWEEN: [&str; 7] = [";", ",", "/", "|", "+", "&", "\n"];

/// The marks that numbers are written with: before the decimals, and between groups of three digits.
const MARKS: [(Option<char>, Option<char>); 9] = [
    (Some(','), None),
    (Some('.'), None),
    (None, Some(',')),
    (None, Some('.')),
    (None, Some(' ')),
    (Some(','), Some('.')),
    (Some('.'), Some(',')),
    (Some(','), Some(' ')),
    (Some('.'), Some('\'')),
];

/// That brackets mean below zero.
const NEGATIVE: &str = "brackets = \"negative\"";

/// A key of the mapping, or several that belong together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Change {
    Pattern(DatePattern),
    Marks(Option<char>, Option<char>),
    /// The mark of a currency, whether brackets mean below zero, and the marks of numbers.
    Currency([char; 4], bool, Option<char>, Option<char>),
    Round,
    Brackets(Option<char>, Option<char>),
    /// Numbers are in percent, here and in the target.
    Percent,
    DayCount(DayCount),
    YearsFrom(i16),
    DropTime,
    KeepRounded,
    Words(String, String),
    Between(Vec<String>),
    FillDown,
    /// Another column feeds the field.
    From(String),
}

impl Change {
    /// Makes the change.
    pub(super) fn apply(&self, map: &mut Map) {
        match self {
            Self::Pattern(pattern) => map.date.pattern = Some(pattern.clone()),
            Self::Marks(decimal, thousands) => {
                (map.number.decimal_mark, map.number.thousands_mark) = (*decimal, *thousands);
            }
            Self::Currency(letters, brackets, decimal, thousands) => {
                map.number.currency = Some(*letters);
                map.number.brackets |= brackets;
                Self::with_marks(*decimal, *thousands, map);
            }
            Self::Round => map.number.round = Some(Rounding::HalfUp),
            Self::Brackets(decimal, thousands) => {
                map.number.brackets = true;
                Self::with_marks(*decimal, *thousands, map);
            }
            Self::Percent => map.number.unit = Unit::find("%"),
            Self::DayCount(from) => map.date.day_count = Some(*from),
            Self::YearsFrom(year) => map.date.years_from = Some(*year),
            Self::DropTime => map.date.drop_time = true,
            Self::KeepRounded => map.text.keep_rounded = true,
            Self::Words(yes, no) => map.words = Some((yes.clone(), no.clone())),
            Self::Between(between) => map.between.clone_from(between),
            Self::FillDown => map.fill_down = true,
            Self::From(column) => map.feed = Feed::Column(column.clone()),
        }
    }

    /// Names the marks where there are any, and leaves what is named where there are none.
    fn with_marks(decimal: Option<char>, thousands: Option<char>, map: &mut Map) {
        if decimal.or(thousands).is_some() {
            (map.number.decimal_mark, map.number.thousands_mark) = (decimal, thousands);
        }
    }

    /// The lines of the mapping, without what is said of them.
    pub(super) fn lines(&self) -> Vec<String> {
        let marks = |decimal: &Option<char>, thousands: &Option<char>| {
            let line = |key: &str, mark: &Option<char>| {
                mark.map(|mark| format!("{key} = {}", toml_text(&mark.to_string())))
            };
            [line("decimal_mark", decimal), line("thousands_mark", thousands)].into_iter().flatten().collect()
        };
        match self {
            Self::Pattern(pattern) => vec![format!("pattern = {}", toml_text(pattern.text()))],
            Self::Marks(decimal, thousands) => marks(decimal, thousands),
            Self::Currency(letters, brackets, decimal, thousands) => {
                let mark: String = letters.iter().take_while(|letter| **letter != '\0').collect();
                let currency = vec![format!("currency = {}", toml_text(&mark))];
                let brackets = if *brackets { vec![NEGATIVE.to_owned()] } else { Vec::new() };
                [currency, brackets, marks(decimal, thousands)].concat()
            }
            Self::Round => vec!["round = \"half-up\"".into()],
            Self::Brackets(decimal, thousands) => {
                [vec![NEGATIVE.to_owned()], marks(decimal, thousands)].concat()
            }
            Self::Percent => vec!["unit = \"%\"".into()],
            Self::DayCount(from) => {
                let word =
                    DayCount::WORDS.iter().find(|(_, known)| known == from).map_or("", |(word, _)| word);
                vec![format!("day_count = \"{word}\"")]
            }
            Self::YearsFrom(year) => vec![format!("years_from = {year}")],
            Self::DropTime => vec!["drop_time = true".into()],
            Self::KeepRounded => vec!["rounded_digits = \"keep\"".into()],
            Self::Words(yes, no) => vec![format!("words = {}", toml_text(&format!("{yes}/{no}")))],
            Self::Between(between) => {
                let each: Vec<String> = between.iter().map(|between| toml_text(between)).collect();
                vec![match each.as_slice() {
                    [one] => format!("between = {one}"),
                    several => format!("between = [{}]", several.join(", ")),
                }]
            }
            Self::FillDown => vec!["fill_down = true".into()],
            Self::From(column) => vec![format!("from = {}", toml_text(column))],
        }
    }

    /// What has to be known before it is written; nothing where the values themselves leave no doubt.
    pub(super) fn condition(&self) -> &'static str {
        match self {
            Self::Round => "if digits may be lost; or up, down, half-even",
            Self::Brackets(..) | Self::Currency(_, true, ..) => "if brackets mean below zero",
            Self::Percent => {
                "and the same for the field in target.toml; if that counts shares of one, \"1\" there"
            }
            Self::DayCount(_) => "from which year the days are counted",
            Self::YearsFrom(_) => "the first of the hundred years that are meant",
            Self::DropTime => "if the time of day may be lost",
            Self::KeepRounded => "if the zeros are right",
            Self::FillDown => "if a blank cell means the one above; else if_blank",
            _ => "",
        }
    }

    /// Those that may let in values of a field that are rejected as being of this kind.
    pub(super) fn that_may_help(
        kind: Kind,
        values: &[&str],
        field: &Field,
        map: &Map,
        year: i16,
    ) -> Vec<Self> {
        match kind {
            Kind::NotADate => match &field.kind {
                FieldType::Date(DateType { holds, .. }) => {
                    let patterns =
                        values.iter().take(LOOKED_AT).flat_map(|value| patterns_of(value.trim(), *holds));
                    once_each(patterns.map(Self::Pattern))
                }
                _ => Vec::new(),
            },
            Kind::NotANumber => once_each(marks_alone().chain(currencies(values))),
            Kind::NumberUndecided if values.iter().any(|value| value.contains('(')) => {
                once_each(marks_alone().chain(brackets()).chain(currencies(values)))
            }
            Kind::NumberUndecided if values.iter().any(|value| value.contains('%')) => {
                marks_alone().chain([Self::Percent]).collect()
            }
            Kind::NumberUndecided => marks_alone().collect(),
            Kind::NeedsRounding => vec![Self::Round],
            Kind::DayCount => vec![Self::DayCount(DayCount::From1900), Self::DayCount(DayCount::From1904)],
            // In the last hundred years, in the last century, or as far before this year as behind it.
            Kind::CenturyUndecided => [year - 99, 1900, year - 50].map(Self::YearsFrom).to_vec(),
            Kind::TimeOfDay => vec![Self::DropTime],
            Kind::DigitsLost => vec![Self::KeepRounded],
            Kind::NotABoolean => words(values),
            Kind::NotACode => match &field.kind {
                FieldType::Codes(CodesType {
                    layout:
                        CodesLayout::Joined(_) | CodesLayout::ColumnPerCode { .. } | CodesLayout::Numbered(_),
                    ..
                }) => separators(values, map),
                _ => Vec::new(),
            },
            Kind::RequiredBlank if matches!(map.feed, Feed::Column(_)) && !map.fill_down => {
                vec![Self::FillDown]
            }
            _ => Vec::new(),
        }
    }

    /// Whether a pattern reads a text that it did not let in, as another day than the patterns that do: then none of
    /// them is certain.
    pub(super) fn denies(&self, others: &[&Self], values: &[&str]) -> bool {
        let pattern = |change: &Self| match change {
            Self::Pattern(pattern) => Some(pattern.clone()),
            _ => None,
        };
        let Some(own) = pattern(self) else { return false };
        let others: Vec<DatePattern> = others.iter().filter_map(|change| pattern(change)).collect();
        let read: Vec<&str> =
            values.iter().map(|value| value.trim()).filter(|value| is_in_calendar(&own, value)).collect();
        let of_others = |value: &str| others.iter().find(|other| is_in_calendar(other, value));
        let differs =
            |value: &str| of_others(value).is_some_and(|other| other.read(value) != own.read(value));
        read.iter().any(|value| of_others(value).is_none()) && read.iter().any(|value| differs(value))
    }
}

/// What may stand between several codes: beside what the mapping names already, one more, or two.
fn separators(values: &[&str], map: &Map) -> Vec<Change> {
    let is_met = |between: &&&str| values.iter().any(|value| value.contains(**between));
    let new: Vec<&str> = BETWEEN
        .iter()
        .filter(is_met)
        .copied()
        .filter(|new| !map.between.iter().any(|known| known == new))
        .collect();
    let with = |more: &[&str]| {
        let more = more.iter().map(|between| (*between).to_owned());
        Change::Between(map.between.iter().cloned().chain(more).collect())
    };
    let one = new.iter().map(|one| with(&[one]));
    let two =
        new.iter().enumerate().flat_map(|(at, one)| new.iter().skip(at + 1).map(move |other| [*one, *other]));
    let two: Vec<Change> = two.map(|both| with(&both)).collect();
    one.chain(two).collect()
}

fn marks_alone() -> impl Iterator<Item = Change> {
    MARKS.into_iter().map(|(decimal, thousands)| Change::Marks(decimal, thousands))
}

/// Brackets around numbers, alone and with every way of writing numbers.
fn brackets() -> impl Iterator<Item = Change> {
    let with = MARKS.into_iter().map(|(decimal, thousands)| Change::Brackets(decimal, thousands));
    std::iter::once(Change::Brackets(None, None)).chain(with)
}

/// The marks beside numbers that may be those of a currency, alone and with every way of writing numbers.
fn currencies(values: &[&str]) -> impl Iterator<Item = Change> {
    let found = values.iter().take(LOOKED_AT).filter_map(|value| {
        let bare = value.trim().trim_start_matches(['-', '−', '(']).trim_end_matches(')');
        let is_figure = |c: char| c.is_ascii_digit();
        let (before, behind) = (bare.find(is_figure)?, bare.rfind(is_figure)?);
        let sides = [bare.get(..before)?, bare.get(behind + 1..)?].map(str::trim);
        let mark = sides.into_iter().find(|side| !side.is_empty())?;
        let is_mark =
            mark.chars().count() <= 4 && mark.chars().all(|c| !c.is_whitespace() && !c.is_ascii_digit());
        let mut letters = ['\0'; 4];
        letters.iter_mut().zip(mark.chars()).for_each(|(slot, letter)| *slot = letter);
        is_mark.then_some(letters)
    });
    let found: Vec<[char; 4]> = found.collect();
    let bracketed = values.iter().any(|value| value.contains('('));
    let marks = || std::iter::once((None, None)).chain(MARKS);
    let all = move |letters: [char; 4]| {
        let of = move |brackets: bool| {
            marks().map(move |(decimal, thousands)| Change::Currency(letters, brackets, decimal, thousands))
        };
        of(false).chain(of(true).take_while(move |_| bracketed))
    };
    found.into_iter().flat_map(all)
}

/// Two words that are all there is, in both orders.
fn words(values: &[&str]) -> Vec<Change> {
    let mut different: Vec<&str> = Vec::new();
    for value in values.iter().map(|value| value.trim()) {
        if !different.iter().any(|known| known.to_lowercase() == value.to_lowercase()) {
            different.push(value);
        }
    }
    match different.as_slice() {
        [one, other] if !one.contains('/') && !other.contains('/') => [(one, other), (other, one)]
            .map(|(yes, no)| Change::Words((*yes).to_owned(), (*no).to_owned()))
            .to_vec(),
        _ => Vec::new(),
    }
}

fn once_each(changes: impl Iterator<Item = Change>) -> Vec<Change> {
    let mut each = Vec::new();
    for change in changes {
        if !each.contains(&change) {
            each.push(change);
        }
    }
    each
}
