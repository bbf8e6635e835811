//! Fields that several columns feed together: a day and a clock, the lines of an address, the parts of a name.

use super::contents::{is_clock, is_date_text};
use super::made::{How, Made};
use super::names::Name;
use super::pair::PLAIN_NAME;
use super::rows::Rows;
use super::trade_words::TradeWords;
use super::weigh::Weighed;
use dusk_description::FieldType;
use dusk_evidence::{ColumnId, FieldId, Grounds, Holding, Id as _, Share};
use dusk_values::ValueType;

/// How many of a hundred cells have to be so.
const NEARLY_ALL: u64 = 80;

/// From here on a day and a clock are proposed, and from there on they are sure.
const PROPOSED: i32 = 420;
const SURE: i32 = 600;

/// The joins that a source and its target ask for.
pub(super) fn joined(weighed: &Weighed<'_>, rows: &Rows, words: &TradeWords) -> Vec<Made> {
    let mut joined = days_with_clocks(weighed, rows);
    for field in weighed.open_fields() {
        if let Some(made) = told_parts(weighed, rows, field, words) {
            joined.push(made);
        }
    }
    joined
}

fn share_of(rows: &Rows, column: ColumnId, fits: fn(&str) -> bool) -> Share {
    let mut share = Share::default();
    for text in rows.filled(column) {
        share.of += 1;
        share.fit += u64::from(fits(text));
    }
    share
}

/// Whether a heading says no more than that it is a day, or a clock.
fn says_only(name: &Name, what: &[&str]) -> bool {
    name.words().all(|word| name.word_means(word, what))
}

/// A field of date and time with a day and a clock for it.
struct Candidate {
    field: FieldId,
    day: ColumnId,
    clock: ColumnId,
    worth: i32,
}

/// Fields of date and time, for which the export has a column of days and one of clocks.
fn days_with_clocks(weighed: &Weighed<'_>, rows: &Rows) -> Vec<Made> {
    let wants_both = |field: &FieldId| {
        let is_both =
            matches!(weighed.field(*field), Some(FieldType::Date(date)) if date.holds == ValueType::DateTime);
        let has_own = weighed.columns().any(|column| {
            weighed.pair(*field, column).is_some_and(|pair| {
                pair.name >= PLAIN_NAME
                    && matches!(pair.contents.grounds, Grounds::Some(_, Holding::DatesWithTime))
            })
        });
        is_both && !has_own
    };
    let fields: Vec<FieldId> = weighed.open_fields().filter(wants_both).collect();
    let is_day = |text: &str| is_date_text(text) && !text.contains(':');
    let of_kind = |fits: fn(&str) -> bool| -> Vec<ColumnId> {
        weighed.columns().filter(|column| share_of(rows, *column, fits).percent() >= NEARLY_ALL).collect()
    };
    let (days, clocks) = (of_kind(is_day), of_kind(is_clock));
    let mut candidates = Vec::new();
    for field in fields.iter().copied() {
        for clock in clocks.iter().copied() {
            candidates.extend(days.iter().map(|day| {
                let worth = worth_together(weighed, field, (*day, clock))
                    + if days.len() == 1 { 150 } else { 0 }
                    + if clocks.len() == 1 { 150 } else { 0 }
                    + if fields.len() == 1 { 100 } else { 0 };
                Candidate { field, day: *day, clock, worth }
            }));
        }
    }
    candidates.sort_by_key(|candidate| std::cmp::Reverse(candidate.worth));
    let mut made: Vec<Made> = Vec::new();
    for best in &candidates {
        let is_taken = made.iter().any(|made| made.field == best.field || made.columns.contains(&best.clock));
        if best.worth < PROPOSED || is_taken {
            continue;
        }
        let is_rival = |other: &&Candidate| {
            (other.field == best.field) != (other.clock == best.clock)
                || other.field == best.field && other.clock == best.clock && other.day != best.day
        };
        let rival = candidates.iter().filter(is_rival).map(|other| other.worth).max().unwrap_or(0);
        let passes_midnight = made.iter().any(|earlier| match earlier.columns.as_slice() {
            [day, clock] if *day == best.day => runs_back(rows, *clock, best.clock),
            _ => false,
        });
        let mut reasons = vec![format!(
            "\"{}\" holds the day and \"{}\" the clock",
            weighed.heading(best.day),
            weighed.heading(best.clock)
        )];
        if passes_midnight {
            reasons.push(
                "in some rows the clock is earlier than the one before: the day may be the next".into(),
            );
        }
        let (day, clock) = (weighed.heading(best.day), weighed.heading(best.clock));
        made.push(Made {
            field: best.field,
            columns: vec![best.day, best.clock],
            how: How::Join(format!("{{{day}}} {{{clock}}}")),
            is_sure: best.worth >= SURE && best.worth - rival >= 100 && !passes_midnight,
            reasons,
        });
    }
    made.retain(|made| can_be_named(weighed, &made.columns));
    made
}

/// What speaks for a day and a clock together.
fn worth_together(weighed: &Weighed<'_>, field: FieldId, (day, clock): (ColumnId, ColumnId)) -> i32 {
    let name =
        |column| weighed.pair(field, column).map_or(0, |pair| i32::try_from(pair.name).unwrap_or(0) * 2 / 5);
    let (Some(of_day), Some(of_clock)) = (weighed.headings.get(day), weighed.headings.get(clock)) else {
        return 0;
    };
    let shares_word =
        of_day.words().any(|word| of_clock.words().any(|other| other == word)) || of_day.begins_as(of_clock);
    let says_day = says_only(of_day, &["date"]);
    let distance = day.index().abs_diff(clock.index());
    let beside = match distance {
        1 => 150,
        2 | 3 if says_day => 120,
        _ if says_day => 80,
        _ => 0,
    };
    // "Date" and "Time" are for whatever happened.
    let plain = says_day && says_only(of_clock, &["time"]);
    name(day).max(0) + name(clock) + beside + if shares_word { 200 } else { 0 } + if plain { 200 } else { 0 }
}

/// Whether a second clock is earlier than the first in some rows.
fn runs_back(rows: &Rows, first: ColumnId, second: ColumnId) -> bool {
    let minutes = |text: &str| {
        let (hour, minute) = text.split_once(':')?;
        Some(hour.trim().parse::<u32>().ok()? * 60 + minute.get(..2)?.parse::<u32>().ok()?)
    };
    let mut pairs = rows.of_columns([first, second]);
    pairs.any(|[first, second]| {
        minutes(first).zip(minutes(second)).is_some_and(|(first, second)| second < first)
    })
}

/// The column that a text runs on in, where the export cuts it off after so many letters; and what is to stand
/// between the two, where that is known.
pub(super) fn continued(rows: &Rows, column: ColumnId, next: ColumnId) -> Option<Option<&'static str>> {
    /// A text is not cut off after less.
    const LEAST: usize = 15;
    let length = |text: &str| text.chars().count();
    let longest = rows.filled(column).map(length).max().filter(|longest| *longest >= LEAST)?;
    let is_full = |text: &str| length(text) * 20 >= longest * 17;
    let (mut run_on, mut ended, mut cut_short, mut blanks) = (0, 0, 0, 0);
    for [text, more] in rows.as_they_stand([column, next]) {
        let is_blank = text.ends_with(char::is_whitespace) || more.starts_with(char::is_whitespace);
        let (text, more) = (text.trim(), more.trim());
        match (text.is_empty(), more.is_empty()) {
            (true, false) => return None,
            (_, false) if !is_full(text) || !more.chars().any(char::is_alphabetic) => return None,
            (_, false) => {
                run_on += 1;
                blanks += usize::from(is_blank);
                cut_short += usize::from(!is_blank && length(text) < longest);
            }
            (false, true) => ended += usize::from(!is_full(text)),
            (true, true) => {}
        }
    }
    let between = match (blanks, cut_short) {
        (0, 0) => Some(""),
        (all, _) if all == run_on => Some(" "),
        // Some end before a blank, others inside a word, and one text between the two would be wrong for some.
        _ => None,
    };
    (run_on >= 2 && ended >= run_on.min(3)).then_some(between)
}

/// Whether a join can name columns: braces in a heading would have to be doubled.
fn can_be_named(weighed: &Weighed<'_>, columns: &[ColumnId]) -> bool {
    columns.iter().all(|column| !weighed.heading(*column).contains(['{', '}']))
}

/// What the description of a field says of its parts: "Given name, then family name".
struct Told {
    parts: Vec<Name>,
    /// What is to stand between them.
    between: &'static str,
}

impl Told {
    fn of(text: &str, words: &TradeWords) -> Option<Self> {
        /// Words for a comma, which is no part.
        const COMMA: [&str; 4] = ["comma", "komma", "virgule", "coma"];
        let text = text.trim().trim_end_matches(['.', ')']);
        let text = text.split_once(": ").map_or(text, |(_, behind)| behind);
        let text = text.split_once(". ").map_or(text, |(first, _)| first);
        let mut parts = Vec::new();
        let mut has_comma = false;
        let by_words = |part| -> Vec<&str> {
            [" then ", " and ", " und ", " dann ", " puis ", " et ", " luego ", " y "]
                .iter()
                .fold(vec![part], |parts, word| {
                    parts.into_iter().flat_map(|part: &str| part.split(word)).collect()
                })
        };
        for part in text.split([',', ';', '+', '/']).flat_map(by_words) {
            let lower = part.trim().to_lowercase();
            let bare = ["then ", "and ", "dann ", "und ", "puis ", "et ", "luego ", "y "]
                .iter()
                .find_map(|lead| lower.strip_prefix(lead))
                .unwrap_or(&lower);
            if COMMA.contains(&bare) {
                has_comma = true;
            } else if !bare.is_empty() {
                parts.push(Name::of(bare, words));
            }
        }
        let is_person = parts.iter().any(|part| part.means(&["forename", "surname", "given", "family"]));
        let between = if has_comma || !is_person { ", " } else { " " };
        (2..=5).contains(&parts.len()).then_some(Self { parts, between })
    }
}

/// A text whose description says what it is put together from, where each part has a column of its own.
fn told_parts(weighed: &Weighed<'_>, rows: &Rows, field: FieldId, words: &TradeWords) -> Option<Made> {
    let FieldType::Text(text_type) = weighed.field(field)? else { return None };
    let told = Told::of(weighed.description(field)?, words)?;
    let mut columns: Vec<ColumnId> = Vec::new();
    let mut open = Vec::new();
    for part in &told.parts {
        let fits = |column: &ColumnId| !columns.contains(column) && weighed.is_free(*column);
        let worth = |column: ColumnId| {
            let heading = weighed.headings.get(column)?;
            let alike = weighed.alike_part(heading, part);
            let is_near = columns.iter().any(|other| other.index().abs_diff(column.index()) <= 2);
            (alike > 0).then_some((alike + if is_near { 60 } else { 0 }, column))
        };
        match weighed.columns().filter(fits).filter_map(worth).max_by_key(|(worth, _)| *worth) {
            Some((_, column)) => columns.push(column),
            None => open.push(columns.len()),
        }
    }
    // The first line of an address is called after the address.
    if let [place] = open.as_slice() {
        let by_name =
            weighed.columns().filter(|column| !columns.contains(column) && weighed.is_free(*column));
        let named = by_name.filter_map(|column| Some((weighed.pair(field, column)?.name, column)));
        let (_, column) = named.filter(|(name, _)| *name >= 600).max_by_key(|(name, _)| *name)?;
        columns.insert(*place, column);
        open.clear();
    }
    if !open.is_empty() || columns.len() < 2 || !can_be_named(weighed, &columns) {
        return None;
    }
    let is_whole = |column: &ColumnId| {
        let is_plain = weighed.pair(field, *column).is_some_and(|pair| pair.name >= PLAIN_NAME);
        !columns.contains(column) && is_plain && rows.filled(*column).next().is_some()
    };
    if weighed.columns().any(|column| is_whole(&column)) {
        return None;
    }
    let longest = |column: ColumnId| rows.filled(column).map(|text| text.chars().count()).max().unwrap_or(0);
    let length: usize = columns.iter().map(|column| longest(*column) + told.between.len()).sum();
    let is_filled = columns.iter().all(|column| rows.filled(*column).next().is_some());
    let headings: Vec<String> =
        columns.iter().map(|column| format!("{{{}}}", weighed.heading(*column))).collect();
    Some(Made {
        field,
        how: How::Join(headings.join(told.between)),
        is_sure: is_filled && text_type.max_length.is_none_or(|most| length <= most + 10),
        reasons: vec!["the dictionary says what it is put together from, and each part has a column".into()],
        columns,
    })
}
