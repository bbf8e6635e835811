//! A source looked over from beginning to end: what it is, and what has happened to it.

use std::collections::VecDeque;
use std::sync::Mutex;

use jiff::civil::Date;
use serde::Serialize;

use super::column_report::{ColumnReport, field_named, limits, report, suggest_by_other_columns};
use super::date_evidence::{At, DateEvidence};
use super::looks::Looks;
use super::profile::Profile;
use super::table_shape::{NumberedRow, decisions};
use dusk_description::{Field, Target};
use dusk_evidence::{ColumnId, Evidence, Example, Id as _, Result, SourceId};
use dusk_sources::{
    CellKind, DAMAGED_RECORD, Progress, RowCells, Rows, Source, Threads, Tray, in_order, without_marks,
};

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
    pub first_rows: Vec<NumberedRow>,
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

/// What is found row by row, and needs the order of the rows.
#[derive(Debug, Default)]
pub(super) struct BlockSeen {
    rows: u64,
    blank: u64,
    repeated: (u64, Option<u64>),
    odd: Vec<OddRows>,
    dates: Vec<DateEvidence>,
    pub(super) first_rows: Vec<NumberedRow>,
    pub(super) last_rows: Vec<NumberedRow>,
}

/// How many rows are shown as they are read.
const SHOWN: usize = 6;

/// The first rows that are not blank, as they are read: what can be shown of a source before it is looked over.
///
/// # Errors
/// [`Error::File`](dusk_evidence::Error::File) when reading fails.
pub fn first_rows(source: &Source) -> Result<Vec<NumberedRow>> {
    let mut first = Vec::new();
    let mut walk = source.walk()?;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            if first.len() == SHOWN {
                return Ok(first);
            }
            if !row.is_blank() {
                first.push((row.row().0, cells_of(&row)));
            }
        }
    }
    Ok(first)
}

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
    let columns = joined(width, profiles.into_inner().unwrap_or_default());
    let decisions = decisions(source, &whole.first_rows, &whole.last_rows);
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

/// The profiles of the columns, put together from those of the workers.
fn joined(width: usize, parts: Vec<Vec<Profile>>) -> Vec<Profile> {
    let mut columns = vec![Profile::default(); width];
    for part in parts {
        for (column, part) in columns.iter_mut().zip(part) {
            column.append(part);
        }
    }
    columns
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
        let dialect = &self.source.dialect;
        let mut found = BlockSeen { dates: self.empty.to_vec(), ..BlockSeen::default() };
        let mut last = VecDeque::new();
        let mut rows = tray.block.rows(dialect);
        while let Some(row) = rows.next() {
            found.rows += 1;
            if row.is_blank() {
                found.blank += 1;
                continue;
            }
            if last.len() == 4 {
                last.pop_front();
            }
            last.push_back((row.row().0, row.range()));
            self.look_at(&row, &tray.block.text, &mut found);
        }
        found.last_rows = last_rows(&tray.block.text, self.source, last);
        found
    }

    /// Takes in a row that is not blank.
    fn look_at(&mut self, row: &RowCells<'_>, text: &str, found: &mut BlockSeen) {
        let number = row.row().0;
        if found.first_rows.len() < SHOWN {
            found.first_rows.push((number, cells_of(row)));
        }
        if let Some(what) = odd_row(row, self.source) {
            let first = odd_example(row, text, self.source);
            note_odd(&mut found.odd, OddRows { what, count: 1, first });
        } else if repeats_header(row, &self.source.headings) {
            found.repeated = (found.repeated.0 + 1, found.repeated.1.or(Some(number)));
        } else {
            self.take(row, &mut found.dates);
        }
    }

    /// Takes in the cells of a record.
    fn take(&mut self, row: &RowCells<'_>, dates: &mut [DateEvidence]) {
        let at = At { source: SourceId::FIRST, row: row.row(), line: row.line() };
        for ((place, profile), dates) in (0..).zip(&mut self.profiles).zip(dates) {
            let column = ColumnId::new(place);
            let looks = profile.add(row, column, SourceId::FIRST);
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
}

fn cells_of(row: &RowCells<'_>) -> Vec<String> {
    row.cells().map(|cell| without_marks(cell).into_owned()).collect()
}

/// True for the header again, with nothing behind it.
pub(super) fn repeats_header(row: &RowCells<'_>, headings: &[String]) -> bool {
    row.len() >= headings.len()
        && row.cells().zip(headings).all(|(cell, heading)| cell.trim() == heading)
        && row.cells().skip(headings.len()).all(|cell| cell.trim().is_empty())
}

/// An odd row, as it stands in the source.
fn odd_example(row: &RowCells<'_>, text: &str, source: &Source) -> Example {
    let value = if source.dialect.is_sheet() {
        cells_of(row).into_iter().filter(|cell| !cell.is_empty()).collect::<Vec<_>>().join(" │ ")
    } else {
        text.get(row.range()).unwrap_or_default().to_owned()
    };
    Example {
        place: format!("row {}", row.row().with_line(row.line())),
        value: super::excerpt(&value),
        reads: format!("{} cells", row.len()),
    }
}

/// The cells of the last rows of a block, by their numbers and ranges.
fn last_rows(text: &str, source: &Source, last: VecDeque<(u64, std::ops::Range<usize>)>) -> Vec<NumberedRow> {
    last.into_iter()
        .filter_map(|(number, range)| {
            let mut rows = Rows::new(text.get(range)?, &source.dialect);
            let cells = rows.next()?.cells().map(|cell| without_marks(cell).into_owned()).collect();
            Some((number, cells))
        })
        .collect()
}

/// What is wrong with the shape of a row, if anything is.
pub(super) fn odd_row(row: &RowCells<'_>, source: &Source) -> Option<String> {
    let (width, sheet) = (source.columns.len(), source.dialect.is_sheet());
    if !row.is_closed() {
        return Some("with a quote that is never closed".into());
    }
    if row.is_misquoted() {
        return Some("with a quote that is not doubled".into());
    }
    if sheet && row.nth(0).starts_with(DAMAGED_RECORD) {
        return Some("that cannot be read".into());
    }
    match row.len() {
        _ if source.is_whole(row) && !sheet => None,
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
