//! What somebody changed in rejected rows, and whether it can be taken back exactly.
//!
//! Every row is compared with the row of the source from which it was made. What is not certain is refused,
//! and then nothing is taken.

use hashbrown::HashMap;

use super::changed_cell::ChangedCell;
use super::columns_back::{ColumnsBack, check_headings, check_order};
use super::manner::{Manner, Told};
use super::read_back::{BackRow, BroughtBack};
use super::typed::{Sameness, is_cut_short, is_misread, kind_of_text, sameness, taken};
use super::whole_rows::{WHOLE, shifted_from};
use dusk_decisions::{
    BEYOND, Correction, CorrectionFile, ExportedRow, FoundRows, RowHashes, WantedRows, find_rows,
};
use dusk_evidence::{ColumnId, Id as _, Problems, Result, Row, SourceId};
use dusk_sources::{CellKind, Source, cannot_hold};

/// A source of a batch, as it is compared with what came back.
#[derive(Debug)]
pub struct Compared<'s> {
    /// The name by which rows say that they are from it.
    pub name: String,
    /// The source, opened.
    pub source: &'s Source,
    /// What its rows are recognised by.
    pub prints: RowHashes,
    /// What was corrected in it before.
    pub corrections: CorrectionFile,
}

/// What came back, compared.
#[derive(Debug, Default)]
pub struct Comparison {
    /// The cells that were changed, in the order of the file.
    pub changes: Vec<ChangedCell>,
    /// What was noticed and does no harm.
    pub remarks: Vec<String>,
    /// How many different rows came back.
    pub rows: usize,
    /// What cannot be taken back; then nothing is.
    pub problems: Problems,
}

/// Compares what came back with the sources that it was made from.
///
/// # Errors
/// Whatever stops reading the sources.
pub fn compare(back: &BroughtBack, sources: &[Compared<'_>]) -> Result<Comparison> {
    let mut done = Comparison::default();
    let headings = sources.iter().flat_map(|compared| compared.source.columns.iter());
    let known: Vec<&str> = headings.map(String::as_str).chain([back.beyond.as_str()]).collect();
    let own = check_headings(back, &known, (&mut done.problems, &mut done.remarks));
    if !done.problems.is_empty() {
        return Ok(done);
    }
    let mut told: Vec<Option<(SourceId, u64, u64)>> = Vec::new();
    let mut wanted: Vec<WantedRows> = vec![WantedRows::default(); sources.len()];
    for row in &back.rows {
        let place = tell(row, &back.name, sources, &mut done.problems);
        if let Some((source, number, print)) = place
            && let Some(wanted) = wanted.get_mut(source.index())
        {
            wanted.numbers.insert(number);
            wanted.prints.insert(print);
        }
        told.push(place);
    }
    let mut found = Vec::new();
    for (compared, wanted) in sources.iter().zip(&wanted) {
        found.push(find_rows(compared.source, &compared.prints, wanted)?);
    }
    let columns = columns_back(back, &told, sources, &found);
    check_order(&columns, &back.name, &mut done.problems);
    let manners = columns.iter().map(|(heading, cells)| (*heading, Manner::of(cells))).collect();
    let mut taking =
        Taking { back, seen: HashMap::new(), moved: 0, rewritten: Rewritten::default(), manners, own, done };
    for (row, place) in back.rows.iter().zip(told) {
        let Some((source, number, print)) = place else { continue };
        if let (Some(compared), Some(rows)) = (sources.get(source.index()), found.get(source.index())) {
            taking.row(row, (source, compared, rows), number, print);
        }
    }
    let Taking { moved, rewritten, mut done, .. } = taking;
    if moved > 0 {
        done.remarks
            .push(format!("{moved} rows have moved in the source; they were found again by their cells"));
    }
    done.remarks.extend(rewritten.remark());
    Ok(done)
}

/// What was taken of the rows that came back so far.
struct Taking<'b> {
    back: &'b BroughtBack,
    /// The rows of the sources that came back already, with what was changed in them.
    seen: HashMap<(SourceId, u64), (Row, Vec<ChangedCell>)>,
    moved: u64,
    rewritten: Rewritten,
    /// How a program rewrote each column, by its heading.
    manners: HashMap<&'b str, Manner>,
    /// The columns that somebody wrote beside those of the batch.
    own: Vec<&'b str>,
    done: Comparison,
}

impl Taking<'_> {
    /// Takes a row that says that it is from this row of a source.
    fn row(
        &mut self,
        row: &BackRow,
        (source, compared, rows): (SourceId, &Compared<'_>, &FoundRows),
        number: u64,
        print: u64,
    ) {
        let Some(number) = self.number_of(row, rows, number, print) else { return };
        let Some(source_row) = rows.at.get(&number) else { return };
        let before = self.done.problems.len();
        let (from, at) = ((source, compared), (Row(number), source_row));
        let noted = (&self.manners, &self.own[..], &mut self.rewritten);
        let changes = changed_cells(self.back, row, from, at, noted, &mut self.done.problems);
        if self.done.problems.len() > before {
            return;
        }
        match self.seen.get(&(source, number)) {
            None => {
                self.done.rows += 1;
                self.done.changes.extend(changes.iter().cloned());
                self.seen.insert((source, number), (row.at, changes));
            }
            Some((first, same)) if *same == changes => {
                let says =
                    format!("row {} is a copy of row {first} and says the same; it is taken once", row.at);
                self.done.remarks.push(says);
            }
            Some((first, _)) => {
                let says = format!(
                    "row {} is a copy of row {first} (row {number} of {}) and says something else",
                    row.at, row.source
                );
                let hint = "keep one of the two; a new record belongs into the source";
                self.done.problems.at(&self.back.name, None, says).hint(hint);
            }
        }
    }

    /// Where the row stands in its source now: where it says, or where its contents are.
    fn number_of(&mut self, row: &BackRow, rows: &FoundRows, number: u64, print: u64) -> Option<u64> {
        if rows.at.get(&number).is_some_and(|known| known.print.all == print) {
            return Some(number);
        }
        let mut refused = |says: String, hint: String| {
            self.done.problems.at(&self.back.name, None, says).hint(hint);
            None
        };
        match rows.by_print.get(&print).map(Vec::as_slice) {
            Some([only]) if *only != number => {
                if mostly_where_they_say(rows, self.back, row) {
                    return refused(
                        format!(
                            "row {}: says that it is row {number} of {}, but it holds what row {only} has",
                            row.at, row.source
                        ),
                        format!("put the row number back to {only}, or take the file as the batch wrote it"),
                    );
                }
                self.moved += 1;
                Some(*only)
            }
            _ => refused(
                format!(
                    "row {}: {} does not have this row any more (it was row {number})",
                    row.at, row.source
                ),
                "make the batch again, and take its new rejects".to_owned(),
            ),
        }
    }
}

/// The cells that hold the same number, date or truth value, written otherwise.
#[derive(Debug, Default)]
struct Rewritten {
    cells: u64,
    first: String,
}

impl Rewritten {
    fn note(&mut self, says: impl FnOnce() -> String) {
        if self.cells == 0 {
            self.first = says();
        }
        self.cells += 1;
    }

    fn remark(&self) -> Option<String> {
        let one = self.cells == 1;
        let (cells, hold) = if one { ("cell", "holds") } else { ("cells", "hold") };
        (self.cells > 0).then(|| {
            format!(
                "{} {cells} {hold} what was there, only written otherwise, as spreadsheet programs do by themselves \
                 ({}{}); nothing is recorded for that; where you meant it: dusk correct SOURCE ROW COLUMN VALUE",
                self.cells,
                if one { "" } else { "such as " },
                self.first
            )
        })
    }
}

/// What the cells of the columns held and hold.
fn columns_back<'b>(
    back: &'b BroughtBack,
    told: &[Option<(SourceId, u64, u64)>],
    sources: &'b [Compared<'_>],
    found: &'b [FoundRows],
) -> ColumnsBack<'b> {
    let mut columns: ColumnsBack<'b> = HashMap::new();
    for (row, place) in back.rows.iter().zip(told) {
        let Some((source, number, print)) = place else { continue };
        let (Some(compared), Some(rows)) = (sources.get(source.index()), found.get(source.index())) else {
            continue;
        };
        let Some(source_row) = rows.at.get(number).filter(|known| known.print.all == *print) else {
            continue;
        };
        for (heading, (_, now)) in back.columns.iter().zip(&row.cells) {
            let Some(column) = compared.source.column(heading) else { continue };
            let was = source_row.cells.get(column.index()).map_or("", String::as_str);
            let earlier = compared.corrections.find(Row(*number), source_row.print, heading);
            let before = earlier.map_or(was, |earlier| &earlier.now);
            columns.entry(heading).or_default().push((before, now));
        }
    }
    columns
}

/// Which row of which source a row says it is.
fn tell(
    row: &BackRow,
    name: &str,
    sources: &[Compared<'_>],
    problems: &mut Problems,
) -> Option<(SourceId, u64, u64)> {
    let mut refuse = |says: String, hint: &str| {
        problems.at(name, None, format!("row {}: {says}", row.at)).hint(hint);
    };
    if row.print.is_empty() {
        refuse(
            "was not among the rejected rows (its column \"print\" is blank)".into(),
            "delete it here; a new record belongs into the source",
        );
        return None;
    }
    let own = row.print.split_once('+').map_or(row.print.as_str(), |(own, _)| own);
    let print = u64::from_str_radix(own, 16).ok().filter(|_| own.len() == 16);
    let Some(print) = print else {
        refuse(
            format!("its print \"{}\" is not as the batch wrote it", row.print),
            "take the row as the batch wrote it, and edit only the cells of the source",
        );
        return None;
    };
    let Some(source) = sources.iter().position(|compared| compared.name == row.source).map(SourceId::new)
    else {
        refuse(
            format!("says that it is from \"{}\", which is not a source of the batch", row.source),
            "put the column \"source\" back as it was",
        );
        return None;
    };
    match row.row.parse::<u64>() {
        Ok(number) => Some((source, number, print)),
        Err(_) => {
            refuse(
                format!("its row number \"{}\" is not a number", row.row),
                "put the column \"row\" back as it was",
            );
            None
        }
    }
}

/// Whether most rows of the file are where they say they are, so that a row number that does not fit was
/// edited.
fn mostly_where_they_say(found: &FoundRows, back: &BroughtBack, one: &BackRow) -> bool {
    let fits = |row: &&BackRow| {
        let number: Option<u64> = row.row.parse().ok();
        let own = row.print.split('+').next().unwrap_or_default();
        let print = u64::from_str_radix(own, 16).ok();
        number.and_then(|number| found.at.get(&number)).map(|known| known.print.all) == print
    };
    let others = || back.rows.iter().filter(|row| row.source == one.source && row.at != one.at);
    let fitting = others().filter(fits).count();
    fitting * 2 > others().count()
}

/// Why a cell that came back cannot be taken, and what to do.
type Refused = (String, String);

/// A cell that came back.
struct BackCell<'c> {
    /// Its row, as whoever edited it sees it.
    at: Row,
    heading: &'c str,
    kind: CellKind,
    text: &'c str,
    is_sheet: bool,
}

/// The cells of a row that were changed.
fn changed_cells(
    back: &BroughtBack,
    row: &BackRow,
    (source_id, compared): (SourceId, &Compared<'_>),
    (number, source_row): (Row, &ExportedRow),
    (manners, own, rewritten): (&HashMap<&str, Manner>, &[&str], &mut Rewritten),
    problems: &mut Problems,
) -> Vec<ChangedCell> {
    let mut changes = Vec::new();
    let handed_out = handed_out_corrected(row, compared, number, source_row);
    let mut refuse = |says: String, hint: &str| {
        problems.at(&back.name, None, says).hint(hint);
    };
    for (heading, (kind, text)) in back.columns.iter().zip(&row.cells) {
        let is_beyond = *heading == back.beyond;
        let heading = if is_beyond { BEYOND } else { heading };
        let column = if is_beyond { Some(compared.prints.beyond()) } else { compared.source.column(heading) };
        let Some(column) = column else {
            // A column that only another source of the batch has, or none that has a heading.
            if !text.is_empty() && !own.contains(&heading) {
                let (at, source) = (row.at, &row.source);
                let says =
                    format!("row {at}: \"{text}\" is under \"{heading}\", which {source} does not have");
                refuse(says, "clear the cell");
            }
            continue;
        };
        let was = source_row.cells.get(column.index()).map_or("", String::as_str);
        let earlier = compared.corrections.find(number, source_row.print, heading);
        let before = earlier.map_or(was, |earlier| &earlier.now);
        let told = manners.get(heading).map_or(Told::AsItStands, |manner| manner.tell(before, text));
        let kind = if back.is_sheet { *kind } else { kind_of_text(text) };
        let (kind, text) = match told_cell(&told, (kind, text)) {
            Ok(Some(cell)) => cell,
            Ok(None) => {
                rewritten.note(|| format!("row {}, {heading}: \"{before}\" became \"{text}\"", row.at));
                continue;
            }
            Err((says, hint)) => {
                refuse(format!("row {}, {heading}: {says}", row.at), &hint);
                continue;
            }
        };
        let cell = BackCell { at: row.at, heading, kind, text, is_sheet: back.is_sheet };
        let now = cell
            .changed((was, earlier), handed_out.as_deref(), rewritten)
            .and_then(|changed| changed.then(|| cell.new_value(compared.source, column)).transpose());
        match now {
            Ok(None) => {}
            Ok(Some(now)) => changes.push(ChangedCell {
                source: source_id,
                row: number,
                print: source_row.print,
                column: heading.to_owned(),
                was: was.to_owned(),
                before: before.to_owned(),
                now,
            }),
            Err((says, hint)) => refuse(format!("row {}{says}", row.at), &hint),
        }
    }
    if row.there < row.cells.len() && !changes.is_empty() {
        refuse(format!("row {} has fewer cells than there are headings", row.at), WHOLE);
        return Vec::new();
    }
    if let Some(first) = shifted_from(&changes, compared.source, source_row) {
        let says = format!("row {}: from {first} on its cells have moved into the next column", row.at);
        refuse(
            says,
            "put them back where they were, and change what is meant; or dusk correct SOURCE ROW COLUMN VALUE",
        );
        return Vec::new();
    }
    changes
}

/// What a cell says, by how a program wrote its column; nothing where it says what was there before.
fn told_cell<'t>(
    told: &'t Told,
    (kind, text): (CellKind, &'t str),
) -> Result<Option<(CellKind, &'t str)>, Refused> {
    match told {
        Told::AsItStands => Ok(Some((kind, text))),
        Told::Typed(typed) => Ok(Some((CellKind::Text, typed))),
        Told::Rewritten => Ok(None),
        Told::Unclear => Err((
            format!(
                "\"{text}\" is as the program writes all of this column, so what was typed is not certain"
            ),
            "format the cell as text and type it again as the others stood there, or dusk correct it".into(),
        )),
    }
}

impl BackCell<'_> {
    fn named(&self, says: impl std::fmt::Display) -> String {
        format!(", {}: {says}", self.heading)
    }

    /// Whether somebody changed it, since it was exported and corrected.
    fn changed(
        &self,
        (was, earlier): (&str, Option<&Correction>),
        handed_out: Option<&[String]>,
        rewritten: &mut Rewritten,
    ) -> Result<bool, Refused> {
        let text = self.text;
        if !self.is_sheet && is_misread(was, text) {
            let says =
                format!("the program that saved it read it in another encoding: \"{was}\" became \"{text}\"");
            return Err((self.named(says), "open the file as UTF-8, or edit rejects.xlsx instead".into()));
        }
        let before = earlier.map_or(was, |earlier| &earlier.now);
        match sameness(before, self.kind, text) {
            Sameness::Same => return Ok(false),
            Sameness::Rewritten => {
                rewritten
                    .note(|| format!("row {}, {}: \"{before}\" became \"{text}\"", self.at, self.heading));
                return Ok(false);
            }
            Sameness::Different => {}
        }
        let Some(earlier) = earlier else { return Ok(true) };
        match handed_out.map(|corrected| corrected.contains(&earlier.column)) {
            // It was handed out before the correction was made, and left alone.
            Some(false) => Ok(sameness(was, self.kind, text) == Sameness::Different),
            Some(true) => Ok(true),
            None => {
                let says = format!(
                    "was corrected to \"{}\" since this file was written, and says \"{text}\" here",
                    earlier.now
                );
                Err((self.named(says), "make the batch again, and take its new rejects".into()))
            }
        }
    }

    /// What it is to hold from now on.
    fn new_value(&self, source: &Source, column: ColumnId) -> Result<String, Refused> {
        if !self.is_sheet && is_cut_short(self.text) {
            let says = format!(
                "{} is a number that a spreadsheet program cut short; its last digits are lost",
                self.text
            );
            let hint = "edit rejects.xlsx instead, or format the cell as text and type it again";
            return Err((self.named(says), hint.into()));
        }
        let now = taken(self.kind, self.text).map_err(|(says, hint)| (self.named(says), hint))?;
        if column.index() >= source.columns.len() && !now.trim().is_empty() {
            let says = ": a cell beyond the header was changed".to_owned();
            return Err((says, "move the values into their columns, and clear this cell".into()));
        }
        match cannot_hold(&now, &source.dialect) {
            Some(why) => Err((self.named(format!("\"{now}\" {why}")), "write it without".into())),
            None => Ok(now),
        }
    }
}

/// The columns of a row that were corrected already when it was handed out; nothing where that cannot be
/// told any more.
fn handed_out_corrected(
    row: &BackRow,
    compared: &Compared<'_>,
    number: Row,
    source_row: &ExportedRow,
) -> Option<Vec<String>> {
    /// More corrections of one row are not tried one by one.
    const MOST: u32 = 12;
    let Some(shown) = row.print.split_once('+').and_then(|(_, shown)| u64::from_str_radix(shown, 16).ok())
    else {
        return Some(Vec::new());
    };
    let source = compared.source;
    let corrected: Vec<(&str, u64)> = source
        .columns
        .iter()
        .map(String::as_str)
        .chain([BEYOND])
        .enumerate()
        .filter_map(|(place, heading)| {
            let earlier = compared.corrections.find(number, source_row.print, heading)?;
            let change = compared.prints.of_cell(ColumnId::new(place), &earlier.now);
            Some((heading, change.wrapping_sub(compared.prints.of_cell(ColumnId::new(place), &earlier.was))))
        })
        .collect();
    let count = u32::try_from(corrected.len()).ok().filter(|count| *count <= MOST)?;
    // All of them first: mostly nothing was decided since.
    (0..1_u32 << count).rev().find_map(|chosen| {
        let chosen =
            || corrected.iter().zip(0..).filter(move |(_, bit)| chosen & (1 << bit) != 0).map(|(one, _)| one);
        let sum = chosen().fold(source_row.print.all, |sum, (_, change)| sum.wrapping_add(*change));
        (sum == shown).then(|| chosen().map(|(heading, _)| (*heading).to_owned()).collect())
    })
}
