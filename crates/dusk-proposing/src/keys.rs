//! What a `[[map]]` has to say beside its column, as far as the heading and the values tell.

use super::contents::Contents;
use dusk_description::{DateType, Field, FieldType, NumberType};
use dusk_evidence::{ColumnClaim, ColumnId, Evidence, Id as _, Verdict};
use dusk_files::toml_text;
use dusk_inspecting::ColumnReport;
use dusk_values::{Mention, Unit, UnitConversion, ValueType};

/// A line of a `[[map]]`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Key {
    /// The line, as `order = "day-month-year"`.
    pub line: String,
    /// What it rests on, or what is to be decided.
    pub says: String,
    /// True where a person has to decide before it counts.
    pub is_open: bool,
    /// True where it shows that the column is another one.
    pub(super) is_wrong: bool,
}

impl Key {
    fn proven(line: impl Into<String>, says: impl Into<String>) -> Self {
        Self { line: line.into(), says: says.into(), is_open: false, is_wrong: false }
    }

    fn open(line: impl Into<String>, says: impl Into<String>) -> Self {
        Self { is_open: true, ..Self::proven(line, says) }
    }
}

/// The lines for a column that feeds a field. `columns` are all of the source's; `is_letter` is true where a single
/// letter of the heading is all that names the unit.
pub(super) fn keys(
    field: &Field,
    (columns, column): (&[ColumnReport], ColumnId),
    (unit, is_letter): (Option<&Mention>, bool),
    contents: &Contents,
) -> Vec<Key> {
    let mut keys = Vec::new();
    let Some(report) = columns.get(column.index()) else { return keys };
    if let FieldType::Number(number) = &field.kind {
        keys.extend(match units_beside(columns, column, number) {
            Some(beside) => keys_beside(number, unit, &beside),
            None => unit_keys(number, unit, is_letter),
        });
    }
    if let Some(between) = contents.between {
        let written = if between == "\n" { "\\n" } else { between };
        keys.push(Key::proven(format!("between = \"{written}\""), "the parts are in the code list"));
    }
    let reads_dates =
        matches!(&field.kind, FieldType::Date(DateType { holds, .. }) if *holds != ValueType::Time);
    let reads_numbers = matches!(field.kind, FieldType::Number(_));
    for evidence in &report.evidence {
        let about_dates = evidence.claim.of_column().is_some_and(ColumnClaim::is_about_dates);
        if if about_dates { reads_dates } else { reads_numbers } {
            keys.extend(evidence_keys(evidence));
        }
    }
    if let FieldType::Date(DateType { zone: Some(zone), .. }) = &field.kind {
        let says = format!("of which clock are these times? The target wants {}", zone.name());
        keys.push(Key::open("zone = \"…\"", says));
    }
    if let FieldType::Boolean(_) = &field.kind
        && contents.points < 100
        && let [first, second] = report.values.as_slice()
    {
        let line = format!("words = \"{}/{}\"", first.text, second.text);
        keys.push(Key::open(line, "the word for true first: which is it?"));
    }
    keys
}

/// The line for a column that is filled at the beginning of a group of rows only.
pub(super) fn of_groups(blank: usize) -> Key {
    Key::open(
        "fill_down = true",
        format!("{blank} cells are blank below a filled one: does it hold for them too?"),
    )
}

/// The lines that take one part out of each cell.
pub(super) fn of_part(form: &str, take: &str) -> Vec<Key> {
    vec![
        Key::proven(format!("part  = {}", toml_text(form)), "how the cells are put together"),
        Key::proven(format!("take  = {}", toml_text(take)), ""),
    ]
}

/// The order that the dates prove, which is proven anew every month and needs no line.
pub(super) fn proven_order(field: &Field, report: &ColumnReport) -> Option<String> {
    let FieldType::Date(_) = &field.kind else { return None };
    let order = report.evidence.iter().find_map(|evidence| match &evidence.verdict {
        Verdict::Proven(order) if evidence.claim.of_column() == Some(ColumnClaim::DateOrder) => Some(order),
        _ => None,
    })?;
    Some(format!("its dates prove {order}, so no line names it"))
}

/// The lines for the unit of a column that feeds a field of numbers.
fn unit_keys(field: &NumberType, unit: Option<&Mention>, is_letter: bool) -> Vec<Key> {
    let Some(wanted) = field.unit else { return Vec::new() };
    let unit = match unit {
        None if field.exports_in_unit => return Vec::new(),
        None => {
            let symbol = wanted.symbol();
            let says = format!("nothing says which unit they are in; the target wants {symbol}");
            return vec![Key::open(format!("unit = \"{symbol}\""), says)];
        }
        Some(Mention::Unclear(word)) => {
            let says = format!("the heading says \"{word}\", which is not one unit that is known");
            return vec![Key { is_wrong: true, ..Key::open("unit = \"…\"", says) }];
        }
        Some(Mention::Unit(unit)) if *unit == wanted => return Vec::new(),
        Some(Mention::Unit(unit)) => *unit,
    };
    let line = format!("unit = \"{}\"", unit.symbol());
    if UnitConversion::new(unit, wanted).is_err() {
        let says = format!("cannot become {}", wanted.symbol());
        return vec![Key { is_wrong: true, ..Key::open(line, says) }];
    }
    let says = format!("the target takes {}, and losing digits is a decision", decimals(field.decimals));
    let wanted = wanted.symbol();
    // "Weight G" may be grams, and may be the gross weight.
    let of_unit = if is_letter {
        Key::open(line, format!("the last letter of the heading may be the unit; the target wants {wanted}"))
    } else {
        Key::proven(line, format!("the heading says so; the target wants {wanted}"))
    };
    vec![of_unit, Key::open("round = \"half-up\"", says)]
}

/// A column right beside numbers that holds units, one at least that these may be in.
struct UnitsBeside<'r> {
    heading: &'r str,
    /// Its units, and whether it holds anything else.
    units: Vec<&'static Unit>,
    has_others: bool,
}

/// Whether a column beside the numbers names their units.
pub(super) fn has_units_beside(field: &Field, columns: &[ColumnReport], column: ColumnId) -> bool {
    matches!(&field.kind, FieldType::Number(number) if units_beside(columns, column, number).is_some())
}

/// The column behind the numbers, or before them, half of whose values at least are units.
fn units_beside<'r>(
    columns: &'r [ColumnReport],
    column: ColumnId,
    field: &NumberType,
) -> Option<UnitsBeside<'r>> {
    let wanted = field.unit?;
    let unit_of = |text: &str| match Mention::of(text) {
        Some(Mention::Unit(unit)) if unit == wanted || UnitConversion::new(unit, wanted).is_ok() => {
            Some(unit)
        }
        _ => None,
    };
    let places = [Some(column.index() + 1), column.index().checked_sub(1)];
    places.into_iter().flatten().filter_map(|place| columns.get(place)).find_map(|report| {
        let mut beside = UnitsBeside { heading: &report.name, units: Vec::new(), has_others: false };
        let (mut cells, mut others) = (0, 0);
        for value in &report.values {
            match unit_of(&value.text) {
                Some(unit) => {
                    cells += value.count;
                    beside.units.extend((!beside.units.contains(&unit)).then_some(unit));
                }
                None => others += value.count,
            }
        }
        beside.has_others = others > 0;
        (cells >= 2 && cells >= others).then_some(beside)
    })
}

/// The lines where a column beside the numbers names their units.
fn keys_beside(field: &NumberType, heading: Option<&Mention>, beside: &UnitsBeside<'_>) -> Vec<Key> {
    let known = match heading {
        Some(Mention::Unit(unit)) => Some(*unit),
        _ => field.unit,
    };
    if !beside.has_others && known == field.unit && beside.units.as_slice() == known.as_slice() {
        return Vec::new();
    }
    let symbols: Vec<&str> = beside.units.iter().map(|unit| unit.symbol()).collect();
    let others = if beside.has_others { " and others" } else { "" };
    let says = format!("\"{}\" says {}{others}", beside.heading, symbols.join(", "));
    let rounding = format!("the target takes {}, and losing digits is a decision", decimals(field.decimals));
    vec![
        Key::open(format!("unit_in = {}", toml_text(beside.heading)), says),
        Key::open("round = \"half-up\"", rounding),
    ]
}

fn decimals(count: u32) -> String {
    match count {
        1 => "1 decimal".to_owned(),
        more => format!("{more} decimals"),
    }
}

/// The lines that a piece of evidence offers: those that it proves, and those that ask.
fn evidence_keys(evidence: &Evidence) -> Vec<Key> {
    // An order that is proven every month anew is no decision.
    let is_order = evidence.claim.of_column() == Some(ColumnClaim::DateOrder);
    if is_order && matches!(evidence.verdict, Verdict::Proven(_)) {
        return Vec::new();
    }
    let reading = evidence.readings.first().map_or_else(String::new, |reading| format!(": {reading}"));
    let says = format!("{}{reading}", evidence.verdict_shown());
    // A repair is offered only where the values leave no other.
    let is_proven = !evidence.needs_decision() || matches!(evidence.verdict, Verdict::HalfConverted(_));
    let lines: Vec<&String> = evidence.lines_of_map().collect();
    let last = lines.len().saturating_sub(1);
    let key = |(place, line): (usize, &&String)| {
        let (line, comment) = line.split_once("   # ").unwrap_or((line, ""));
        // Several lines that belong together rest on the same.
        let rests_on = if place == last { says.as_str() } else { "" };
        let says =
            [comment, rests_on].into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join("; ");
        if is_proven && !line.contains('…') { Key::proven(line, says) } else { Key::open(line, says) }
    };
    lines.iter().enumerate().map(key).collect()
}
