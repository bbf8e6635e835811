//! Whole sheets with the place of every cell: for what a target's owner supplies, which is read by
//! people's layout and not by rows below a header.

use std::collections::BTreeMap;
use std::io::Read as _;
use std::path::Path;

use super::source_file::SourceFile;
use super::{CellKind, Known, Rows, SheetChoice, Source, SourceSettings};
use dusk_evidence::Refusal;
use dusk_evidence::{Error, Evidence, Result};

use dusk_workbooks::{CellCheck, CellLook, WorkbookFacts};

/// The most rows that are read of a sheet.
pub const MOST_ROWS: usize = 200_000;

/// The largest sheet that is read as a whole, in bytes of its text.
const MOST_BYTES: u64 = 256 << 20;

/// One sheet of a workbook, or a delimited file.
#[derive(Debug, Default)]
pub struct Sheet {
    /// The sheet's name; nothing for a delimited file.
    pub name: Option<String>,
    /// True when the sheet is hidden in the spreadsheet program.
    pub hidden: bool,
    /// The cells, row by row, trimmed; rows and columns count from 0.
    pub rows: Vec<Vec<String>>,
    /// What kind of value each cell holds, as `rows`.
    pub kinds: Vec<Vec<CellKind>>,
    /// The merged ranges: first and last row and column, from 0.
    pub merged: Vec<((usize, usize), (usize, usize))>,
    /// True when it has more rows than were read.
    pub is_cut: bool,
    /// How a delimited file is read; nothing for a sheet.
    pub source: Option<Source>,
    /// True when its rows are the columns of the file, and its columns the rows.
    pub is_turned: bool,
    /// What a spreadsheet program checks when something is typed into it.
    pub checks: Vec<CellCheck>,
    /// Comments, struck text and formats of its cells, by the cell: `B5`.
    pub looks: BTreeMap<String, CellLook>,
    /// Names of ranges, and where they lead.
    pub names: Vec<(String, String)>,
}

impl Sheet {
    /// The text of a cell; empty beyond the last one.
    pub fn cell(&self, row: usize, column: usize) -> &str {
        self.rows.get(row).and_then(|cells| cells.get(column)).map_or("", String::as_str)
    }

    /// The kind of a cell's value.
    pub fn kind(&self, row: usize, column: usize) -> CellKind {
        self.kinds.get(row).and_then(|kinds| kinds.get(column)).copied().unwrap_or(CellKind::Text)
    }

    /// What a cell adds to its value: a comment, struck text, a format.
    pub fn look(&self, row: usize, column: usize) -> Option<&CellLook> {
        let (row, column) = if self.is_turned { (column, row) } else { (row, column) };
        let cell = format!("{}{}", dusk_workbooks::column_letters(column as u64), row + 1);
        self.looks.get(&cell)
    }

    /// How many columns the widest row has.
    pub fn width(&self) -> usize {
        self.rows.iter().map(Vec::len).max().unwrap_or(0)
    }

    /// A place in it as people name it: `C7` of a sheet, `line 7` of a file.
    pub fn place(&self, row: usize, column: usize) -> String {
        let (row, column) = if self.is_turned { (column, row) } else { (row, column) };
        match &self.name {
            Some(name) => format!("{name}!{}{}", dusk_workbooks::column_letters(column as u64), row + 1),
            None => format!("row {}", row + 1),
        }
    }

    /// Takes away what marks up the tables of a Markdown page: the lines below headings, and marks around words.
    pub fn without_marks_of_markdown(&mut self) {
        let is_line = |cells: &[String]| {
            let mut filled = cells.iter().filter(|cell| !cell.is_empty()).peekable();
            filled.peek().is_some()
                && filled.all(|cell| cell.contains("--") && cell.trim_matches([':', '-']).is_empty())
        };
        if self.name.is_some() || !self.rows.iter().any(|cells| is_line(cells)) {
            return;
        }
        for cells in &mut self.rows {
            if is_line(cells) {
                cells.clear();
            }
            for cell in cells {
                for marks in ["`", "**"] {
                    if let Some(bare) = cell.strip_prefix(marks).and_then(|cell| cell.strip_suffix(marks)) {
                        *cell = bare.to_owned();
                    }
                }
            }
        }
    }

    /// The same with rows for columns, for a table that is laid across.
    pub fn turned(&self) -> Self {
        let columns = || 0..self.width();
        let mut turned = Self {
            name: self.name.clone(),
            hidden: self.hidden,
            merged: self.merged.iter().map(|((a, b), (c, d))| ((*b, *a), (*d, *c))).collect(),
            is_cut: self.is_cut,
            is_turned: !self.is_turned,
            looks: self.looks.clone(),
            ..Self::default()
        };
        for column in columns() {
            let rows = 0..self.rows.len();
            turned.push(rows.map(|row| (self.kind(row, column), self.cell(row, column).to_owned())));
        }
        turned
    }

    /// Takes what stands from a row on off, as a sheet of its own on which each cell has the place that it had.
    pub fn split_off(&mut self, row: usize) -> Self {
        let rows = self.rows.split_off(row.min(self.rows.len()));
        let kinds = self.kinds.split_off(row.min(self.kinds.len()));
        let (here, there) = self.merged.iter().partition(|((top, _), _)| *top < row);
        self.merged = here;
        Self {
            name: self.name.clone(),
            hidden: self.hidden,
            rows: std::iter::repeat_n(Vec::new(), row).chain(rows).collect(),
            kinds: std::iter::repeat_n(Vec::new(), row).chain(kinds).collect(),
            merged: there,
            is_cut: self.is_cut,
            is_turned: self.is_turned,
            looks: self.looks.clone(),
            ..Self::default()
        }
    }

    /// The evidence for readings of a delimited file that are open.
    pub fn open_readings(&self) -> impl Iterator<Item = &Evidence> {
        self.source.iter().flat_map(|source| &source.evidence).filter(|evidence| evidence.needs_decision())
    }

    fn push(&mut self, cells: impl Iterator<Item = (CellKind, String)>) {
        let (kinds, mut texts): (Vec<_>, Vec<_>) = cells.unzip();
        while texts.last().is_some_and(String::is_empty) {
            texts.pop();
        }
        self.rows.push(texts);
        self.kinds.push(kinds);
    }
}

/// Every sheet of the workbook at `path`, or the delimited file as one.
///
/// # Errors
/// [`Error::File`] and [`Error::Source`] when it cannot be read.
pub fn sheets(path: &Path) -> Result<Vec<Sheet>> {
    let name = path.display().to_string();
    let file = SourceFile::open(path, &name)?;
    let mut head = Vec::new();
    file.reader().take(4096).read_to_end(&mut head).map_err(Error::reading(path))?;
    let container = dusk_workbooks::container_of(file.file(), &head).map_err(|refusal| refusal.of(&name))?;
    let Some(container) = container else {
        return delimited(path).map(|sheet| vec![sheet]);
    };
    let mut sheets = Vec::new();
    let mut number = 1;
    loop {
        let settings =
            SourceSettings { sheet: Some(SheetChoice::Number(number)), ..SourceSettings::default() };
        let spooled = dusk_workbooks::spool(file.file(), container, settings.sheet.as_ref())
            .map_err(|refusal| refusal.of(&name))?;
        let unpacked_file = SourceFile::own(spooled.file, &name);
        let bytes = unpacked_file.bytes()?;
        if bytes > MOST_BYTES {
            let says = format!(
                "has a sheet of {} MB, which is not a dictionary, a code list or a template",
                bytes >> 20
            );
            return Err(Refusal::new(
                says,
                "take the sheets that describe the target into a workbook of their own",
            )
            .of(&name));
        }
        let mut text = String::new();
        unpacked_file.reader().read_to_string(&mut text).map_err(Error::reading(path))?;
        let facts = spooled.facts;
        sheets.push(unpacked(&text, &facts));
        if sheets.len() >= facts.sheets.len() {
            return Ok(sheets);
        }
        number += 1;
    }
}

fn unpacked(text: &str, facts: &WorkbookFacts) -> Sheet {
    let hidden = facts.sheets.iter().any(|(name, hidden)| *name == facts.sheet && *hidden);
    let merged = facts.merged.iter().filter_map(|range| corners(range)).collect();
    let mut sheet = Sheet {
        name: Some(facts.sheet.clone()),
        hidden,
        merged,
        checks: facts.checks.clone(),
        looks: facts.looks.iter().map(|look| (look.cell.clone(), look.clone())).collect(),
        names: facts.names.clone(),
        ..Sheet::default()
    };
    let dialect = crate::Dialect::of_a_sheet();
    let mut rows = Rows::new(text, &dialect);
    while let Some(row) = rows.next() {
        if sheet.rows.len() >= MOST_ROWS {
            sheet.is_cut = true;
            break;
        }
        sheet.push(row.cells().map(|cell| {
            let (kind, text) = CellKind::of(cell);
            (kind, text.trim().to_owned())
        }));
    }
    sheet
}

fn delimited(path: &Path) -> Result<Sheet> {
    // What parts the cells is told by the whole file, and titles above the table have no say in it.
    let usual = SourceSettings { only_usual_marks: true, ..SourceSettings::default() };
    let first = Source::look(path, &usual, &Known::default())?;
    let settings = SourceSettings {
        header_row: Some(1),
        delimiter: Some(first.dialect.delimiter().to_owned()),
        ..SourceSettings::default()
    };
    let mut source = Source::look(path, &settings, &Known::default())?;
    source.evidence = first.evidence;
    let mut sheet = Sheet::default();
    let text = |cell: &str| (CellKind::Text, cell.trim().to_owned());
    sheet.push(source.headings.iter().map(|heading| text(heading)));
    let mut walk = source.walk()?;
    while !sheet.is_cut
        && let Some(mut rows) = walk.more()?
    {
        while let Some(row) = rows.next() {
            if sheet.rows.len() >= MOST_ROWS {
                sheet.is_cut = true;
                break;
            }
            sheet.push(row.cells().map(text));
        }
    }
    sheet.source = Some(source);
    Ok(sheet)
}

/// The corners of a range like B2:C5, as rows and columns from 0.
pub fn corners(range: &str) -> Option<((usize, usize), (usize, usize))> {
    let corner = |text: &str| {
        let letters = text.bytes().take_while(u8::is_ascii_uppercase).count();
        let column = text.bytes().take(letters).try_fold(0_usize, |column, letter| {
            column.checked_mul(26)?.checked_add(usize::from(letter - b'A') + 1)
        })?;
        let row: usize = text.get(letters..)?.parse().ok()?;
        Some((row.checked_sub(1)?, column.checked_sub(1)?))
    };
    let (first, last) = range.split_once(':')?;
    Some((corner(first)?, corner(last)?))
}
