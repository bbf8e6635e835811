//! A source looked over from beginning to end: what it is, and what has happened to it.

use std::collections::VecDeque;
use std::sync::Mutex;

use jiff::civil::Date;
use serde::Serialize;

use super::damage_seen::DamageSeen;
use super::date_evidence::{At, DateEvidence};
use super::profile::{Counted, Looks, Profile};
use dusk_description::{DateType, Field, FieldType, Target};
use dusk_evidence::{Claim, ColumnClaim, ColumnId, Evidence, Example, Id as _, Result, SourceId, Verdict};
use dusk_sources::{CellKind, Progress, Rows, Source, Threads, Tray, in_order, without_marks};
use dusk_values::DateOrder;

/// What is known of a source after looking it over.
#[derive(Debug, Clone, Serialize)]
pub struct Inspection {
    /// Rows below the header, blank ones as well.
    pub rows: u64,
    /// Rows in which every cell is blank.
    pub blank_rows: u64,
    /// Rows that repeat the header, and the first of them.
    pub repeated_headers: (u64, Option<u64>),
    /// Rows with too few or too many cells, with a quote never closed, or misquoted: what is wrong,
    /// how many, the first.
    pub odd_rows: Vec<OddRows>,
    /// The first rows as they are read: the row's number and its cells.
    pub first_rows: Vec<(u64, Vec<String>)>,
    /// The columns.
    pub columns: Vec<ColumnReport>,
    /// What else needs a decision: closing lines, records laid across.
    pub decisions: Vec<Evidence>,
}

/// Rows that are not as the header wants them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct OddRows {
    /// What is wrong with them.
    pub what: String,
    /// How many there are.
    pub count: u64,
    /// The first of them.
    pub first: Example,
}

/// One column.
#[derive(Debug, Clone, Serialize)]
pub struct ColumnReport {
    /// Its name.
    pub name: String,
    /// What its values are, in a word or two.
    pub holds: String,
    /// Cells with a value.
    pub filled: u64,
    /// Blank cells.
    pub blank: u64,
    /// How many different values there are.
    pub distinct: u64,
    /// True when that is an estimate (to about 2 %).
    pub distinct_estimated: bool,
    /// What a workbook says that the cells are.
    pub kinds: Vec<(&'static str, u64)>,
    /// The shapes of the values, the commonest first.
    pub shapes: Vec<Counted>,
    /// The values, the commonest first, where there are few.
    pub values: Vec<Counted>,
    /// The least and the greatest value, or length.
    pub range: String,
    /// The damage seen.
    pub damage: Vec<DamageSeen>,
    /// The evidence for how dates and numbers are to be read, where there are any.
    pub evidence: Vec<Evidence>,
    /// The field of the target that has the same name, where a target is given.
    pub field: Option<String>,
}

/// What is found row by row, and needs the order of the rows.
#[derive(Debug, Default)]
struct BlockSeen {
    rows: u64,
    blank: u64,
    repeated: (u64, Option<u64>),
    odd: Vec<OddRows>,
    dates: Vec<DateEvidence>,
    first_rows: Vec<(u64, Vec<String>)>,
    last_rows: Vec<(u64, Vec<String>)>,
}

/// How many rows are shown as they are read.
const SHOWN: usize = 6;

/// Looks a source over. With a `target`, columns are told which field has their name, and the limits
/// of that field on the day `today` speak for or against an order of its dates.
///
/// # Errors
/// [`Error::File`](dusk_evidence::Error::File) when reading fails.
pub fn inspect(
    source: &Source,
    target: Option<(&Target, Date)>,
    threads: Threads,
    progress: &Progress<'_>,
) -> Result<Inspection> {
    let width = source.columns.len();
    let profiles: Mutex<Vec<Vec<Profile>>> = Mutex::new(Vec::new());
    let fields: Vec<Option<&Field>> =
        source.columns.iter().map(|name| field_named(name, target.map(|(target, _)| target))).collect();
    let empty: Vec<DateEvidence> =
        fields.iter().map(|field| DateEvidence::within(limits(*field, target))).collect();
    let mut whole = BlockSeen { dates: empty.clone(), ..BlockSeen::default() };
    in_order(
        std::slice::from_ref(source),
        threads,
        |_| {},
        |_| {
            Ok(Worker { source, empty: &empty, profiles: vec![Profile::default(); width], done: &profiles }
                .into_work())
        },
        |tray: &mut Tray<BlockSeen>| {
            whole.append(std::mem::take(&mut tray.result));
            progress(whole.rows, tray.block.bytes_read);
            Ok(())
        },
    )?;
    let mut columns = vec![Profile::default(); width];
    for part in profiles.into_inner().unwrap_or_default() {
        for (column, part) in columns.iter_mut().zip(part) {
            column.append(part);
        }
    }
    let decisions = decisions(source, &whole);
    let mut reports: Vec<ColumnReport> = (source.columns.iter().zip(&columns))
        .zip(whole.dates.iter().zip(&fields))
        .map(|((name, profile), (dates, field))| report(name, profile, dates, *field))
        .collect();
    suggest_by_other_columns(&mut reports);
    Ok(Inspection {
        rows: whole.rows,
        blank_rows: whole.blank,
        repeated_headers: whole.repeated,
        odd_rows: whole.odd,
        first_rows: whole.first_rows,
        columns: reports,
        decisions,
    })
}

/// Looks at blocks of one source, on a thread of its own.
struct Worker<'s> {
    source: &'s Source,
    empty: &'s [DateEvidence],
    profiles: Vec<Profile>,
    done: &'s Mutex<Vec<Vec<Profile>>>,
}

impl Drop for Worker<'_> {
    /// A worker is dropped when there are no more blocks; what it saw is handed over then.
    fn drop(&mut self) {
        let mut profiles = std::mem::take(&mut self.profiles);
        profiles.iter_mut().for_each(Profile::settle);
        if let Ok(mut done) = self.done.lock() {
            done.push(profiles);
        }
    }
}

impl<'s> Worker<'s> {
    fn into_work(mut self) -> impl FnMut(&mut Tray<BlockSeen>) + use<'s> {
        move |tray| tray.result = self.look(tray)
    }

    fn look(&mut self, tray: &Tray<BlockSeen>) -> BlockSeen {
        let source = self.source;
        let width = source.columns.len();
        let sheet = source.dialect.is_sheet();
        let mut found = BlockSeen { dates: self.empty.to_vec(), ..BlockSeen::default() };
        let block = &tray.block;
        let mut last = VecDeque::new();
        let mut rows = block.rows(&source.dialect);
        while let Some(row) = rows.next() {
            found.rows += 1;
            if row.is_blank() {
                found.blank += 1;
                continue;
            }
            let number = row.row().0;
            if last.len() == 4 {
                last.pop_front();
            }
            last.push_back((number, row.range()));
            let cells = || row.cells().map(|cell| without_marks(cell).into_owned()).collect::<Vec<_>>();
            if found.first_rows.len() < SHOWN {
                found.first_rows.push((number, cells()));
            }
            if let Some(odd) = odd_row(&row, width, sheet) {
                let text = match sheet {
                    true => {
                        cells().into_iter().filter(|cell| !cell.is_empty()).collect::<Vec<_>>().join(" │ ")
                    }
                    false => block.text.get(row.range()).unwrap_or_default().to_owned(),
                };
                let example = Example {
                    place: format!("row {}", row.row().with_line(row.line())),
                    value: super::excerpt(&text),
                    reads: format!("{} cells", row.len()),
                };
                note_odd(&mut found.odd, OddRows { what: odd, count: 1, first: example });
                continue;
            }
            if row.cells().zip(source.headings.iter()).all(|(cell, heading)| cell.trim() == heading)
                && row.len() >= source.headings.len()
                && row.cells().skip(source.headings.len()).all(|cell| cell.trim().is_empty())
            {
                found.repeated = (found.repeated.0 + 1, found.repeated.1.or(Some(number)));
                continue;
            }
            let at = At { source: SourceId::FIRST, row: row.row(), line: row.line() };
            for ((place, profile), dates) in (0..).zip(&mut self.profiles).zip(&mut found.dates) {
                let column = ColumnId::new(place);
                let looks = profile.add(&row, column, SourceId::FIRST);
                if matches!(looks, Looks::Otherwise) {
                    continue;
                }
                let (kind, value) = CellKind::of(row.cell(column));
                match looks {
                    Looks::Date(written, time) => {
                        dates.add_written(at, kind, row.is_quoted(column), value.trim(), (written, time))
                    }
                    _ => dates.add_other(value.trim()),
                }
            }
        }
        found.last_rows = last_rows(&block.text, source, last);
        found
    }
}

/// The cells of the last rows of a block, by their numbers and ranges.
fn last_rows(
    text: &str,
    source: &Source,
    last: VecDeque<(u64, std::ops::Range<usize>)>,
) -> Vec<(u64, Vec<String>)> {
    last.into_iter()
        .filter_map(|(number, range)| {
            let mut rows = Rows::new(text.get(range)?, &source.dialect);
            let cells = rows.next()?.cells().map(|cell| without_marks(cell).into_owned()).collect();
            Some((number, cells))
        })
        .collect()
}

fn odd_row(row: &dusk_sources::RowCells<'_>, width: usize, sheet: bool) -> Option<String> {
    if !row.is_closed() {
        return Some("with a quote that is never closed".into());
    }
    if row.is_misquoted() {
        return Some("with a quote that is not doubled".into());
    }
    match row.len() {
        cells if cells < width && !sheet => Some(format!("with fewer than {width} cells")),
        cells if cells > width && (!sheet || row.cells().skip(width).any(|cell| !cell.is_empty())) => {
            Some(format!("with more than {width} cells"))
        }
        _ => None,
    }
}

fn note_odd(all: &mut Vec<OddRows>, odd: OddRows) {
    match all.iter_mut().find(|known| known.what == odd.what) {
        Some(known) => known.count += odd.count,
        None => all.push(odd),
    }
}

impl BlockSeen {
    fn append(&mut self, later: Self) {
        self.rows += later.rows;
        self.blank += later.blank;
        self.repeated = (self.repeated.0 + later.repeated.0, self.repeated.1.or(later.repeated.1));
        for odd in later.odd {
            note_odd(&mut self.odd, odd);
        }
        for (mine, theirs) in self.dates.iter_mut().zip(later.dates) {
            mine.append(theirs);
        }
        let room = SHOWN.saturating_sub(self.first_rows.len());
        self.first_rows.extend(later.first_rows.into_iter().take(room));
        if !later.last_rows.is_empty() {
            self.last_rows = later.last_rows;
        }
    }
}

/// Closing lines, and records laid across columns: what the shape of the table suggests.
fn decisions(source: &Source, found: &BlockSeen) -> Vec<Evidence> {
    let mut decisions = Vec::new();
    let width = source.columns.len();
    let filled = |cells: &[String]| cells.iter().filter(|cell| !cell.trim().is_empty()).count();
    let closing: Vec<&(u64, Vec<String>)> = found
        .last_rows
        .iter()
        .rev()
        .take_while(|(_, cells)| {
            width >= 4
                && filled(cells) * 3 <= width
                && cells.iter().any(|cell| cell.trim().starts_with(char::is_alphabetic))
        })
        .collect();
    if !closing.is_empty() {
        let words: Vec<String> = closing
            .iter()
            .rev()
            .filter_map(|(_, cells)| cells.iter().map(|cell| cell.trim()).find(|cell| !cell.is_empty()))
            .map(|cell| cell.split_whitespace().next().unwrap_or(cell).trim_end_matches(':').to_owned())
            .collect();
        let mut evidence = Evidence::new(
            Claim::ClosingLines,
            Verdict::Undecided(vec!["records".into(), "lines that close the file".into()]),
        );
        evidence.readings = closing
            .iter()
            .rev()
            .map(|(row, cells)| dusk_evidence::Reading {
                name: format!("row {row}"),
                supports: filled(cells) as u64,
                counted: format!("cells of {width} are filled"),
                examples: cells
                    .iter()
                    .find(|cell| !cell.trim().is_empty())
                    .map(|cell| Example {
                        place: "first".into(),
                        value: super::excerpt(cell.trim()),
                        reads: String::new(),
                    })
                    .into_iter()
                    .collect(),
                ..dusk_evidence::Reading::default()
            })
            .collect();
        let words: Vec<String> = words.iter().map(|word| format!("\"{word}\"")).collect();
        evidence.settle = vec!["[source]".into(), format!("closing = [{}]", words.join(", "))];
        decisions.push(evidence);
    }
    decisions.extend(across(source, found));
    decisions
}

/// Rows of values and rows of words, each begun by a word: a table that lies on its side.
fn across(source: &Source, found: &BlockSeen) -> Option<Evidence> {
    let text = source.first_lines.join("\n");
    let mut rows: Vec<Vec<String>> = Vec::new();
    if text.is_empty() {
        rows.push(source.headings.to_vec());
        rows.extend(found.first_rows.iter().map(|(_, cells)| cells.clone()));
    }
    let mut walker = Rows::new(&text, &source.dialect);
    while let Some(row) = walker.next() {
        rows.push(row.cells().map(|cell| cell.trim().to_owned()).collect());
    }
    let word = |cell: &String| cell.starts_with(char::is_alphabetic);
    let value = |cell: &String| cell.starts_with(|c: char| c.is_ascii_digit());
    let rest = |row: &[String], is: &dyn Fn(&String) -> bool| {
        row.len() > 3 && row.iter().skip(1).all(|cell| is(cell) || cell.is_empty())
    };
    let begun_by_words = rows.len() > 1 && rows.iter().all(|row| row.first().is_some_and(word));
    let values = rows.iter().filter(|row| rest(row, &value)).count();
    let words = rows.iter().skip(1).filter(|row| rest(row, &word)).count();
    if !begun_by_words || values == 0 || words == 0 {
        return None;
    }
    let readings = vec!["down the rows".into(), "across the columns".into()];
    let mut evidence = Evidence::new(Claim::Records, Verdict::Undecided(readings));
    evidence.readings = vec![dusk_evidence::Reading {
        name: "across".into(),
        supports: (values + words) as u64,
        counted: "rows hold values of one kind only behind a word".into(),
        ..dusk_evidence::Reading::default()
    }];
    evidence.settle = vec!["[source]".into(), "records = \"across\"".into()];
    Some(evidence)
}

/// A column about which something is open.
struct Open<'o> {
    column: &'o str,
    field: &'o str,
}

impl Open<'_> {
    /// A question about `count` values, with the line of the mapping that answers it.
    fn question(
        &self,
        about: ColumnClaim,
        count: u64,
        counted: &str,
        between: [&str; 2],
        line: &str,
    ) -> Option<Evidence> {
        let verdict = Verdict::Undecided(between.map(str::to_owned).to_vec());
        let mut evidence = Evidence::new(Claim::Column(about, self.column.to_owned()), verdict);
        evidence.readings.push(dusk_evidence::Reading {
            supports: count,
            counted: counted.into(),
            ..dusk_evidence::Reading::default()
        });
        evidence.settle = vec![
            "[[map]]".into(),
            format!("field = \"{}\"", self.field),
            format!("from  = \"{}\"", self.column),
            line.into(),
        ];
        (count > 0).then_some(evidence)
    }
}

/// The field that has a column's name, label or one of its other names.
fn field_named<'t>(column: &str, target: Option<&'t Target>) -> Option<&'t Field> {
    let wanted = fold_name(column);
    let same = |field: &&Field| {
        let names = [&field.name].into_iter().chain(&field.label).chain(&field.also);
        names.into_iter().any(|name| fold_name(name) == wanted)
    };
    target?.fields.iter().find(same)
}

/// The first and the last day that the field allows.
fn limits(field: Option<&Field>, target: Option<(&Target, Date)>) -> (Option<Date>, Option<Date>) {
    match (field.map(|field| &field.kind), target) {
        (Some(FieldType::Date(DateType { not_before, not_after, .. })), Some((_, today))) => {
            (not_before.map(|bound| bound.day(today)), not_after.map(|bound| bound.day(today)))
        }
        _ => (None, None),
    }
}

/// Where the order of one column is open, the others may have proven theirs.
fn suggest_by_other_columns(reports: &mut [ColumnReport]) {
    let is_order = |evidence: &Evidence| evidence.claim.of_column() == Some(ColumnClaim::DateOrder);
    let proven: Vec<String> = (reports.iter())
        .flat_map(|report| {
            report
                .evidence
                .iter()
                .filter(|evidence| is_order(evidence))
                .map(move |evidence| (report, evidence))
        })
        .filter_map(|(report, evidence)| match &evidence.verdict {
            Verdict::Proven(order) => Some(format!("the column \"{}\" proves {order}", report.name)),
            _ => None,
        })
        .collect();
    for evidence in reports.iter_mut().flat_map(|report| &mut report.evidence) {
        if is_order(evidence) && evidence.needs_decision() {
            evidence.suggests.extend(proven.iter().cloned());
        }
    }
}

fn report(name: &str, profile: &Profile, dates: &DateEvidence, field: Option<&Field>) -> ColumnReport {
    let field = field.map(|field| field.name.clone());
    let shown_field = field.as_deref().unwrap_or("…");
    let numbers = &profile.number_evidence;
    // Few dates among other values are no column of dates.
    let is_dates = dates.dates() > 0 && (dates.dates() + dates.day_counts) * 2 > profile.filled;
    let is_numbers = !is_dates && numbers.numbers() * 10 >= profile.filled * 9 && profile.filled > 0;
    let mut evidence = Vec::new();
    let open = Open { column: name, field: shown_field };
    if is_dates {
        evidence.push(dates.evidence(name, shown_field, &[]));
        evidence.extend(open.question(
            ColumnClaim::DayCounts,
            dates.day_counts,
            "values are whole numbers of five digits",
            ["days from 1900", "days from 1904"],
            "day_count = …   # \"1900\" or \"1904\"",
        ));
        evidence.extend(open.question(
            ColumnClaim::ShortYears,
            dates.short_years,
            "values have a year of two digits",
            ["19…", "20…"],
            "years_from = …   # the first of the hundred years that they mean",
        ));
    } else if is_numbers {
        let marks = numbers.evidence(name, shown_field);
        if numbers.has_undecided() || marks.needs_decision() {
            evidence.push(marks);
        }
        evidence.extend(open.question(
            ColumnClaim::Brackets,
            numbers.brackets,
            "values stand in brackets",
            ["below zero", "something else"],
            "brackets = \"negative\"",
        ));
        evidence.extend(open.question(
            ColumnClaim::Percents,
            numbers.percents,
            "values are in percent",
            ["percent", "shares of one"],
            "unit = \"%\"",
        ));
    }
    let (distinct, distinct_estimated) = profile.distinct();
    let order = dates.proven().or((dates.is_not_needed() && is_dates).then_some(DateOrder::YearMonthDay));
    let holds = match (is_dates, is_numbers, profile.filled) {
        (_, _, 0) => "nothing".into(),
        (true, ..) if dates.with_time * 2 > dates.dates() => "dates with times".into(),
        (true, ..) if dates.typed > 0 && dates.typed < dates.dates() => {
            format!("dates, {} text", dates.dates() - dates.typed)
        }
        (true, ..) => "dates".into(),
        (false, true, filled) if numbers.typed > 0 && numbers.typed < filled => {
            format!("numbers, {} text", filled - numbers.typed)
        }
        (false, true, _) => "numbers".into(),
        (false, false, filled) if distinct <= 60 && distinct * 4 <= filled => match distinct {
            1 => "1 value".into(),
            _ => format!("{distinct} values"),
        },
        _ => "text".to_owned(),
    };
    ColumnReport {
        name: name.to_owned(),
        holds,
        filled: profile.filled,
        blank: profile.blank,
        distinct,
        distinct_estimated,
        kinds: profile.kinds(),
        shapes: profile.shapes(),
        values: profile.values(),
        range: profile.range(is_dates, order),
        damage: profile.seen(),
        evidence,
        field,
    }
}

/// A name without case, spaces and punctuation: "Apiary No." and `apiary_no` are the same.
fn fold_name(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}
