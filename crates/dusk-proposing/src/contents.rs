//! Whether what a column holds is what a field takes.

use super::sample::{Sample, is_in};
use dusk_description::{BooleanType, CodesLayout, CodesType, Field, FieldType, NumberType, TextType};
use dusk_evidence::{Grounds, Holding, Share};
use dusk_inspecting::bare_figures;
use dusk_sources::CellKind;
use dusk_values::{Decimal, ValueType, WrittenDate, WrittenTime};

/// What may stand between several values in one cell.
const BETWEEN: [&str; 6] = [";", ",", "|", "/", "+", "\n"];

/// What the contents of a column say about a field.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct Contents {
    /// How much they speak for it, or against it, in thousandths.
    pub(super) points: i32,
    /// What that rests on.
    pub(super) grounds: Grounds,
    /// What parts several values in one cell, where they prove it.
    pub(super) between: Option<&'static str>,
}

impl Contents {
    fn new(points: i32, grounds: Grounds) -> Self {
        Self { points, grounds, between: None }
    }

    /// Values that say nothing either way.
    fn nothing(points: i32) -> Self {
        Self::new(points, Grounds::Nothing)
    }

    /// Some values are so.
    fn some(points: i32, share: Share, held: Holding) -> Self {
        Self::new(points, Grounds::Some(share, held))
    }

    /// True where they cannot be what the field takes.
    pub(super) fn contradict(&self) -> bool {
        self.points <= -250
    }

    /// True where they speak for one field, and not for columns of any kind.
    pub(super) fn are_telling(&self) -> bool {
        self.points >= 250
    }

    /// Judges a column by what it holds.
    pub(super) fn judge(sample: &Sample, field: &Field) -> Self {
        if sample.filled == 0 {
            return Self::nothing(0);
        }
        match &field.kind {
            FieldType::Code(code) => {
                among(sample.share(|_, text| is_in(&code.list, text)), sample, &code.list.name)
            }
            FieldType::Codes(codes) => Self::several(sample, codes),
            FieldType::Reference(reference) => {
                let known = &reference.known;
                let share = sample.share(|_, text| known.find(text).is_some());
                among(share, sample, &format!("{} in {}", known.column, known.file))
            }
            FieldType::File(file) => {
                let share = sample.share(|_, text| file.files.find(text).is_some());
                match share.percent() {
                    50.. => Self::some(300, share, Holding::Files),
                    _ => Self::nothing(-50),
                }
            }
            FieldType::Date(date) => Self::dates(sample, date.holds),
            FieldType::Number(number) => Self::numbers(sample, number),
            FieldType::Boolean(words) => Self::booleans(sample, words),
            FieldType::Text(text) => Self::text(sample, text),
        }
    }

    fn numbers(sample: &Sample, NumberType { min, max, .. }: &NumberType) -> Self {
        let share = sample.share(|kind, text| {
            kind == CellKind::Number
                || kind == CellKind::Text && number_of(text).is_some() && !is_date_text(text)
        });
        let outside = sample.share(|_, text| {
            number_of(text).is_some_and(|number| {
                min.is_some_and(|min| number < min) || max.is_some_and(|max| number > max)
            })
        });
        match share.percent() {
            80.. if outside.percent() > 50 => Self::some(-150, outside, Holding::OutsideLimits),
            80.. => Self::some(80, share, Holding::Numbers),
            20.. => Self::nothing(0),
            _ => Self::some(-400, share, Holding::Numbers),
        }
    }

    fn booleans(sample: &Sample, BooleanType { yes, no }: &BooleanType) -> Self {
        /// Words for yes and no, and for true and false, in other languages.
        const WORDS: [&str; 20] = [
            "ja",
            "nein",
            "j",
            "oui",
            "non",
            "o",
            "sí",
            "si",
            "s",
            "no",
            "n",
            "wahr",
            "falsch",
            "vrai",
            "faux",
            "verdadero",
            "falso",
            "y",
            "yes",
            "x",
        ];
        let own = [yes.to_lowercase(), no.to_lowercase()];
        let share = sample.share(|kind, text| {
            let word = text.to_lowercase();
            kind == CellKind::Boolean
                || own.contains(&word)
                || ["yes", "no", "true", "false", "y", "n", "1", "0", "x"].contains(&word.as_str())
        });
        let in_words = sample.share(|_, text| WORDS.contains(&text.to_lowercase().as_str()));
        match (share.percent(), sample.different()) {
            (80.., _) => Self::some(150, share, Holding::Booleans),
            // Numbers are no words for yes and no.
            _ if sample.share(|_, text| number_of(text).is_some()).percent() > 50 => {
                Self::new(-300, Grounds::Different(sample.different()))
            }
            // Which of them is true a person says, but they are such words.
            _ if in_words.percent() >= 80 => Self::some(60, in_words, Holding::Booleans),
            (_, 0..=4) => Self::nothing(0),
            (_, different) => Self::new(-300, Grounds::Different(different)),
        }
    }

    fn text(sample: &Sample, TextType { digits, max_length, pattern }: &TextType) -> Self {
        if let Some(digits) = *digits {
            let share = sample
                .share(|_, text| text.len() <= digits && text.bytes().all(|byte| byte.is_ascii_digit()));
            return match share.percent() {
                85.. => Self::some(120, share, Holding::Digits(digits)),
                20.. => Self::nothing(0),
                _ => Self::some(-300, share, Holding::Digits(digits)),
            };
        }
        if let Some((pattern, _)) = pattern {
            let share = sample.share(|_, text| pattern.is_match(text));
            return match share.percent() {
                85.. => Self::some(200, share, Holding::Form),
                15.. => Self::nothing(0),
                _ => Self::some(-200, share, Holding::Form),
            };
        }
        let long = sample.share(|_, text| max_length.is_some_and(|most| text.chars().count() > most));
        if long.percent() > 20 {
            return Self::some(-200, long, Holding::TooLong);
        }
        Self::nothing(0)
    }

    fn dates(sample: &Sample, holds: ValueType) -> Self {
        let times = sample.share(is_time);
        let dates = sample.share(is_date);
        let both = sample.share(|kind, text| is_date(kind, text) && has_time(text));
        match holds {
            ValueType::Time => match times.percent() {
                80.. => Self::some(250, times, Holding::Times),
                20.. => Self::nothing(0),
                _ => Self::some(-400, times, Holding::Times),
            },
            _ if dates.percent() < 20 => Self::some(-400, dates, Holding::Dates),
            _ if dates.percent() < 80 => Self::some(0, dates, Holding::Dates),
            ValueType::DateTime if both.percent() >= 80 => Self::some(220, both, Holding::DatesWithTime),
            // A time of day would be lost, or would be missing.
            ValueType::DateTime => Self::some(0, dates, Holding::DatesWithoutTime),
            _ if both.percent() >= 50 => Self::some(20, both, Holding::DatesWithTime),
            _ => Self::some(180, dates, Holding::Dates),
        }
    }

    /// Several codes in one cell: with what between them most are codes.
    fn several(sample: &Sample, CodesType { list, layout }: &CodesType) -> Self {
        let own = match layout {
            CodesLayout::Joined(separator) => Some(separator.as_str()),
            CodesLayout::ColumnPerCode { .. } | CodesLayout::Numbered(_) => None,
        };
        let parted = |between: &str| {
            let mut share = Share::default();
            for (text, count) in sample.counted() {
                for part in text.split(between).map(str::trim).filter(|part| !part.is_empty()) {
                    share.of += count;
                    share.fit += if is_in(list, part) { count } else { 0 };
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
        let Some((share, between)) = best.filter(|(share, _)| share.percent() > single.percent()) else {
            return among(single, sample, &list.name);
        };
        let points = match share.percent() {
            60.. => 300,
            30.. => 120,
            _ => -50,
        };
        let is_proof = share.percent() >= 60 && own != Some(between);
        let held = Holding::InParted { between, list: list.name.clone() };
        Self { between: is_proof.then_some(between), ..Self::some(points, share, held) }
    }
}

/// Values that are to be among a few: that most are speaks for a field, unless any column would do.
fn among(share: Share, sample: &Sample, name: &str) -> Contents {
    let points = match share.percent() {
        60.. if sample.different() >= 2 => 300,
        60.. => 150,
        30.. => 120,
        5.. => 0,
        // The words may just be others: they are what crosswalks are for.
        _ => return Contents::new(-60, Grounds::NoneIn(name.to_owned())),
    };
    Contents::some(points, share, Holding::In(name.to_owned()))
}

fn is_date(kind: CellKind, text: &str) -> bool {
    let digits = text.bytes().filter(u8::is_ascii_digit).count();
    kind == CellKind::Date
        || kind == CellKind::Text
            && digits >= 3
            && (WrittenDate::read(text).is_some()
                || text.len() == 8 && digits == 8 && (text.starts_with("19") || text.starts_with("20")))
}

/// Whether a text is a date as people write it.
pub(super) fn is_date_text(text: &str) -> bool {
    is_date(CellKind::Text, text) && text.contains(['/', '-', '.', ' '])
}

/// Whether a text is a time of day.
pub(super) fn is_clock(text: &str) -> bool {
    is_time(CellKind::Text, text)
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
pub(super) fn number_of(text: &str) -> Option<Decimal> {
    let figures = bare_figures(text);
    let letters = figures.trim_end_matches(|c: char| c.is_alphabetic() || c == '°' || c == '.');
    if figures.len() - letters.len() > 4 {
        return None;
    }
    let last_mark = letters.rfind([',', '.']);
    let is_negative = text.trim_start().starts_with(['-', '\u{2212}', '(']) || text.trim_end().ends_with('-');
    let mut plain = String::from(if is_negative { "-" } else { "" });
    let kept = letters
        .char_indices()
        .filter(|(_, c)| !matches!(c, ' ' | '\u{a0}' | '\u{202f}' | '\''))
        .filter(|(at, c)| !matches!(c, ',' | '.') || Some(*at) == last_mark)
        .map(|(_, c)| if c == ',' { '.' } else { c });
    plain.extend(kept);
    Decimal::parse(plain.trim())
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_description::{Code, CodeList};

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
        let six = TextType { digits: Some(6), ..TextType::default() };
        assert!(Contents::text(&numbers, &six).points > 100);
        assert!(Contents::text(&clock, &six).contradict());
        let codes = vec![code("OX", "Oxalic acid"), code("FA", "Formic")];
        let list = CodeList::new("t".into(), codes).into();
        let several = CodesType { list, layout: CodesLayout::Joined("|".into()) };
        let cells = sample(&["Oxalic acid; Formic", "OX", "FA;OX"]);
        assert_eq!(Contents::several(&cells, &several).between, Some(";"));
        assert_eq!(Contents::several(&sample(&["OX|FA"]), &several).between, None, "as the target has it");
        assert_eq!(Contents::several(&sample(&["a", "b"]), &several).points, -60);
    }
}
