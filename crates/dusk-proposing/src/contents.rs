//! Whether what a column holds is what a field takes.

use hashbrown::HashMap;

use dusk_description::{
    BooleanType, CodeList, CodeType, CodesLayout, CodesType, DateType, Field, FieldType, FileType, Lookup,
    NumberType, ReadAs, ReferenceType, TextType,
};
use dusk_evidence::Result;
use dusk_inspecting::bare_figures;
use dusk_sources::{CellKind, Source};
use dusk_values::{Decimal, ValueType, WrittenDate, WrittenTime};

/// How many rows are looked at.
const ROWS: usize = 4_000;

/// How many different values of a column are kept.
const VALUES: usize = 400;

/// What may stand between several values in one cell.
const BETWEEN: [&str; 6] = [";", ",", "|", "/", "+", "\n"];

/// Some of a column's values, each with how often it was met.
#[derive(Debug, Clone, Default)]
pub(super) struct Sample {
    values: Vec<(CellKind, String, u64)>,
    places: HashMap<String, usize>,
    /// How many cells were filled.
    pub(super) filled: u64,
}

impl Sample {
    fn add(&mut self, cell: &str) {
        let (kind, text) = CellKind::of(cell);
        let text = text.trim();
        if text.is_empty() {
            return;
        }
        self.filled += 1;
        if let Some((.., count)) = self.places.get(text).and_then(|place| self.values.get_mut(*place)) {
            *count += 1;
        } else if self.values.len() < VALUES {
            self.places.insert(text.to_owned(), self.values.len());
            self.values.push((kind, text.to_owned(), 1));
        }
    }

    /// How many of the values that were kept there are, and how many of them `fit`.
    fn share(&self, fit: impl Fn(CellKind, &str) -> bool) -> Share {
        let mut share = Share { fit: 0, of: 0 };
        for (kind, text, count) in &self.values {
            share.of += count;
            if fit(*kind, text) {
                share.fit += count;
            }
        }
        share
    }

    /// How many different values were met.
    pub(super) fn different(&self) -> usize {
        self.values.len()
    }

    /// The values, as far as they were kept.
    pub(super) fn texts(&self) -> impl Iterator<Item = &str> {
        self.values.iter().map(|(_, text, _)| text.as_str())
    }
}

/// Samples of every column of a source, from its first rows.
pub(super) fn samples(source: &Source) -> Result<Vec<Sample>> {
    let mut samples = vec![Sample::default(); source.columns.len()];
    let mut walk = source.walk()?;
    let mut rows_met = 0;
    while rows_met < ROWS
        && let Some(mut rows) = walk.more()?
    {
        while let Some(row) = rows.next() {
            let fits = row.len() == source.columns.len() || source.dialect.is_sheet();
            if rows_met == ROWS || !fits || row.is_blank() {
                continue;
            }
            rows_met += 1;
            for (sample, cell) in samples.iter_mut().zip(row.cells()) {
                sample.add(cell);
            }
        }
    }
    Ok(samples)
}

/// Some of how many.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Share {
    fit: u64,
    of: u64,
}

impl Share {
    fn percent(self) -> u64 {
        self.fit * 100 / self.of.max(1)
    }

    fn is(self, what: &str) -> String {
        if self.fit == self.of {
            format!("all {} values {what}", self.of)
        } else {
            format!("{} of {} values {what}", self.fit, self.of)
        }
    }
}

/// What the contents of a column say about a field.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct Contents {
    /// How much they speak for it, or against it, in thousandths.
    pub(super) points: i32,
    /// That in words; empty where they say nothing.
    pub(super) says: String,
    /// What parts several values in one cell, where they prove it.
    pub(super) between: Option<&'static str>,
}

impl Contents {
    fn new(points: i32, says: impl Into<String>) -> Self {
        Self { points, says: says.into(), between: None }
    }

    /// True where they cannot be what the field takes.
    pub(super) fn contradict(&self) -> bool {
        self.points <= -250
    }

    /// Judges a column by what it holds.
    pub(super) fn judge(sample: &Sample, field: &Field) -> Self {
        if sample.filled == 0 {
            return Self::new(0, "");
        }
        match &field.kind {
            FieldType::Code(CodeType { list, .. }) => {
                among(sample.share(|_, text| is_in(list, text)), sample, &list.name)
            }
            FieldType::Codes(CodesType { list, layout }) => Self::several(sample, list, layout),
            FieldType::Reference(ReferenceType { known }) => {
                let share = sample.share(|_, text| known.find(text).is_some());
                among(share, sample, &format!("{} in {}", known.column, known.file))
            }
            FieldType::File(FileType { files, .. }) => {
                let share = sample.share(|_, text| files.find(text).is_some());
                match share.percent() {
                    50.. => Self::new(300, share.is("are files of the folder")),
                    _ => Self::new(-50, ""),
                }
            }
            FieldType::Date(DateType { holds, .. }) => Self::dates(sample, *holds),
            FieldType::Number(NumberType { min, max, .. }) => {
                let share = sample.share(|kind, text| {
                    kind == CellKind::Number || kind == CellKind::Text && number_of(text).is_some()
                });
                let outside = sample.share(|_, text| {
                    number_of(text).is_some_and(|number| {
                        min.is_some_and(|min| number < min) || max.is_some_and(|max| number > max)
                    })
                });
                match share.percent() {
                    80.. if outside.percent() > 50 => Self::new(-150, outside.is("are outside the limits")),
                    80.. => Self::new(80, share.is("are numbers")),
                    20.. => Self::new(0, ""),
                    _ => Self::new(-400, share.is("are numbers")),
                }
            }
            FieldType::Boolean(BooleanType { yes, no }) => {
                let share = sample.share(|kind, text| {
                    let word = text.to_lowercase();
                    kind == CellKind::Boolean
                        || [yes.to_lowercase(), no.to_lowercase()].contains(&word)
                        || ["yes", "no", "true", "false", "y", "n", "1", "0", "x"].contains(&word.as_str())
                });
                match (share.percent(), sample.different()) {
                    (80.., _) => Self::new(150, share.is("are words for true and false")),
                    (_, 0..=4) => Self::new(0, ""),
                    _ => Self::new(-300, format!("there are {} different values", sample.different())),
                }
            }
            FieldType::Text(TextType { digits, max_length, pattern }) => {
                Self::text(sample, *digits, *max_length, pattern.as_ref().map(|(pattern, _)| pattern))
            }
        }
    }

    fn text(
        sample: &Sample,
        digits: Option<usize>,
        max_length: Option<usize>,
        pattern: Option<&regex::Regex>,
    ) -> Self {
        if let Some(digits) = digits {
            let share = sample
                .share(|_, text| text.len() <= digits && text.bytes().all(|byte| byte.is_ascii_digit()));
            return match share.percent() {
                85.. => Self::new(120, share.is(&format!("have up to {digits} digits"))),
                20.. => Self::new(0, ""),
                _ => Self::new(-300, share.is(&format!("have up to {digits} digits"))),
            };
        }
        if let Some(pattern) = pattern {
            let share = sample.share(|_, text| pattern.is_match(text));
            return match share.percent() {
                85.. => Self::new(200, share.is("have the form demanded")),
                15.. => Self::new(0, ""),
                _ => Self::new(-200, share.is("have the form demanded")),
            };
        }
        let long = sample.share(|_, text| max_length.is_some_and(|most| text.chars().count() > most));
        if long.percent() > 20 {
            return Self::new(-200, long.is("are longer than the field takes"));
        }
        Self::new(0, "")
    }

    fn dates(sample: &Sample, holds: ValueType) -> Self {
        let times = sample.share(is_time);
        let dates = sample.share(is_date);
        let both = sample.share(|kind, text| is_date(kind, text) && has_time(text));
        match holds {
            ValueType::Time => match times.percent() {
                80.. => Self::new(250, times.is("are times of day")),
                20.. => Self::new(0, ""),
                _ => Self::new(-400, times.is("are times of day")),
            },
            _ if dates.percent() < 20 => Self::new(-400, dates.is("are dates")),
            _ if dates.percent() < 80 => Self::new(0, dates.is("are dates")),
            ValueType::DateTime if both.percent() >= 80 => Self::new(220, both.is("are dates with a time")),
            // A time of day would be lost, or would be missing.
            ValueType::DateTime => Self::new(0, dates.is("are dates, most without a time")),
            _ if both.percent() >= 50 => Self::new(20, both.is("are dates with a time")),
            _ => Self::new(180, dates.is("are dates")),
        }
    }

    /// Several codes in one cell: with what between them most are codes.
    fn several(sample: &Sample, list: &CodeList, layout: &CodesLayout) -> Self {
        let own = match layout {
            CodesLayout::Joined(separator) => Some(separator.as_str()),
            CodesLayout::ColumnPerCode { .. } | CodesLayout::Numbered(_) => None,
        };
        let parted = |between: &str| {
            let mut share = Share { fit: 0, of: 0 };
            for (_, text, count) in &sample.values {
                for part in text.split(between).map(str::trim).filter(|part| !part.is_empty()) {
                    share.of += count;
                    share.fit += if is_in(list, part) { *count } else { 0 };
                }
            }
            share
        };
        let single = sample.share(|_, text| is_in(list, text));
        let best = BETWEEN
            .iter()
            .filter(|between| sample.texts().any(|text| text.contains(*between)))
            .map(|between| (parted(between), *between))
            .max_by_key(|(share, _)| (share.percent(), share.fit));
        match best {
            Some((share, between)) if share.percent() > single.percent() => {
                let shown = if between == "\n" { "a line break" } else { between };
                let says =
                    format!("with \"{shown}\" between them {}", share.is(&format!("are in {}", list.name)));
                let points = match share.percent() {
                    60.. => 300,
                    30.. => 120,
                    _ => -50,
                };
                let is_proof = share.percent() >= 60 && own != Some(between);
                Self { points, says, between: is_proof.then_some(between) }
            }
            _ => among(single, sample, &list.name),
        }
    }
}

/// Values that are to be among a few: that most are speaks for a field, unless any column would do.
fn among(share: Share, sample: &Sample, name: &str) -> Contents {
    match share.percent() {
        60.. if sample.different() >= 2 => Contents::new(300, share.is(&format!("are in {name}"))),
        60.. => Contents::new(150, share.is(&format!("are in {name}"))),
        30.. => Contents::new(120, share.is(&format!("are in {name}"))),
        5.. => Contents::new(0, share.is(&format!("are in {name}"))),
        // The words may just be others: they are what crosswalks are for.
        _ => Contents::new(-60, format!("none of the values is in {name}")),
    }
}

fn is_in(list: &CodeList, text: &str) -> bool {
    list.look_up(text, None, ReadAs::Either) != Lookup::Unknown
}

fn is_date(kind: CellKind, text: &str) -> bool {
    let digits = text.bytes().filter(u8::is_ascii_digit).count();
    kind == CellKind::Date
        || kind == CellKind::Text
            && digits >= 3
            && (WrittenDate::read(text).is_some()
                || text.len() == 8 && digits == 8 && (text.starts_with("19") || text.starts_with("20")))
}

fn has_time(text: &str) -> bool {
    text.contains(':')
}

fn is_time(kind: CellKind, text: &str) -> bool {
    matches!(kind, CellKind::Text | CellKind::Duration | CellKind::Date)
        && text.contains(':')
        && WrittenTime::read(text).is_some()
}

/// About which number a text is, whatever its marks mean: good enough to tell numbers from texts.
fn number_of(text: &str) -> Option<Decimal> {
    let figures = bare_figures(text);
    let letters = figures.trim_end_matches(|c: char| c.is_alphabetic() || c == '°' || c == '.');
    if figures.len() - letters.len() > 4 {
        return None;
    }
    let last_mark = letters.rfind([',', '.']);
    let plain: String = letters
        .char_indices()
        .filter(|(_, c)| !matches!(c, ' ' | '\u{a0}' | '\u{202f}' | '\''))
        .filter(|(at, c)| !matches!(c, ',' | '.') || Some(*at) == last_mark)
        .map(|(_, c)| if c == ',' { '.' } else { c })
        .collect();
    Decimal::parse(plain.trim())
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_description::Code;

    fn code(code: &str, label: &str) -> Code {
        Code {
            code: code.into(),
            label: label.into(),
            also: Vec::new(),
            within: String::new(),
            until: None,
            replaced_by: String::new(),
        }
    }

    fn sample(values: &[&str]) -> Sample {
        let mut sample = Sample::default();
        values.iter().for_each(|value| sample.add(value));
        sample
    }

    #[test]
    fn contents_speak_for_a_field_or_against_it() {
        let dates = sample(&["03/04/2026", "25/4/2026", "20260425", ""]);
        assert!(Contents::dates(&dates, ValueType::Date).points > 100);
        assert!(Contents::dates(&dates, ValueType::Time).contradict());
        let clock = sample(&["9:30", "14:05"]);
        assert!(Contents::dates(&clock, ValueType::Time).points > 100);
        assert!(Contents::dates(&clock, ValueType::Date).contradict());
        let numbers = sample(&["117", "290", "4"]);
        assert!(Contents::text(&numbers, Some(6), None, None).points > 100);
        assert!(Contents::text(&clock, Some(6), None, None).contradict());
        let codes = vec![code("OX", "Oxalic acid"), code("FA", "Formic")];
        let list = CodeList::new("t".into(), codes);
        let spread = CodesLayout::Joined("|".into());
        let cells = sample(&["Oxalic acid; Formic", "OX", "FA;OX"]);
        assert_eq!(Contents::several(&cells, &list, &spread).between, Some(";"));
        assert_eq!(
            Contents::several(&sample(&["OX|FA"]), &list, &spread).between,
            None,
            "as the target has it"
        );
        assert_eq!(Contents::several(&sample(&["a", "b"]), &list, &spread).points, -60);
    }
}
