//! Records taken into the sample that a batch remembers.

use dusk_conforming::{Conformer, Shape, Told};
use dusk_memory::{Held, SampledRecord, Sampler};
use dusk_sources::RowCells;
use dusk_values::Value;
use jiff::civil::{Date, DateTime, Time};

/// The record at hand for the sample, where its row's hash is among the smallest. Records of one row, told apart
/// by their labels, have hashes of their own.
pub(crate) fn sampled(
    sampler: &mut Sampler,
    conformer: &Conformer<'_>,
    row: &RowCells<'_>,
    shape: &Shape<'_>,
) -> Option<SampledRecord> {
    let label = shape.label;
    let seed = if label.is_empty() { 0 } else { xxhash_rust::xxh3::xxh3_64(label.as_bytes()) };
    let hash = xxhash_rust::xxh3::xxh3_64_with_seed(row.written().as_bytes(), seed);
    sampler.chooses(hash).then(|| SampledRecord {
        hash,
        row: row.row().0,
        held: (conformer.outcomes())
            .map(|(field, outcome)| match outcome.map_or(Held::Wrong, held) {
                Held::Number(number, _) => {
                    Held::Number(number, decimals_in(&conformer.raw(field, row, shape).0))
                }
                held => held,
            })
            .collect(),
    })
}

/// What a field holds.
fn held(outcome: Told<'_>) -> Held {
    if outcome.unjudged || !outcome.faults.is_empty() {
        return Held::Wrong;
    }
    match outcome.value {
        Value::Blank => Held::Blank,
        Value::Number(number) => Held::Number(number.millionths(), 0),
        Value::Date(day) => Held::Moment(minutes(day.to_datetime(Time::midnight()))),
        Value::DateTime(moment) => Held::Moment(minutes(moment)),
        Value::Time(time) => Held::Moment(minutes(time.to_datetime(jiff::civil::date(1970, 1, 1)))),
        Value::Boolean(_) | Value::Text => text(outcome.text),
    }
}

/// How many digits a source writes behind the last mark of a number; three may be a group.
fn decimals_in(raw: &str) -> u8 {
    let Some((_, behind)) = raw.rsplit_once(['.', ',']) else { return 0 };
    let digits = behind.bytes().take_while(u8::is_ascii_digit).count();
    u8::try_from(digits).unwrap_or(u8::MAX)
}

fn text(text: &str) -> Held {
    if text.is_empty() {
        return Held::Blank;
    }
    let digits = text.as_bytes();
    Held::Text {
        hash: xxhash_rust::xxh3::xxh3_64(digits),
        chars: u32::try_from(text.chars().count()).unwrap_or(u32::MAX),
        zero_first: matches!(digits, [b'0', b'0'..=b'9', ..]),
        accented: text.chars().any(|c| c.is_alphabetic() && !c.is_ascii()),
    }
}

/// Minutes from the start of 1970.
fn minutes(moment: DateTime) -> i64 {
    let days = day_number(moment.date());
    days * 1_440 + i64::from(moment.hour()) * 60 + i64::from(moment.minute())
}

/// Days from the start of 1970.
pub(crate) fn day_number(day: Date) -> i64 {
    let since = day.since(jiff::civil::date(1970, 1, 1));
    since.map_or(0, |span| i64::from(span.get_days()))
}
