//! A source opened: how it is read is settled, its header is found, and it can be read from the
//! first record on as often as needed.

use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use super::blocks::{Blocks, Decoding, Start};
use super::delimiter;
use super::dialect::Dialect;
use super::encoding::EncodingChoice;
use super::fixed_width::SharedBlanks;
use super::header::{self, Header};
use super::offered::{error_offering, offered, offering};
use super::packed;
use super::patch::Patches;
use super::record_file::of_records;
use super::recurring::RecurringMarks;
use super::row_cells::RowCells;
use super::settings::{Known, SourceSettings};
use super::settled::{
    Text, refuse_a_sheet_of_text, refuse_what_is_no_text, settle_delimiter, settle_encoding, undecided,
};
use super::source_file::{SourceFile, SourceIdentity};
use dusk_evidence::{Claim, ColumnId, Error, Evidence, Id as _, Line, Reading, Refusal, Result, Verdict};
use dusk_records::{RecordBytes, RecordFacts, RecordFormat};
use dusk_workbooks::{Container, Formulas, WorkbookFacts};

/// How much of a file is looked at to settle how it is read, in bytes.
const HEAD: u64 = 256 * 1024;

/// A source whose reading is settled.
#[derive(Debug)]
pub struct Source {
    /// The source as the steward named it.
    pub name: String,
    /// What is read: the steward's file, or what was unpacked of it or kept of a stream.
    file: SourceFile,
    /// The workbook that it was unpacked of.
    original: Option<(SourceFile, Container)>,
    /// The file of bibliographic records that it was unpacked of.
    whole_records: Option<SourceFile>,
    /// How bytes become text.
    pub encoding: EncodingChoice,
    /// How cells are parted and quoted.
    pub dialect: Dialect,
    /// What proves the encoding, the delimiter and the header.
    pub evidence: Vec<Evidence>,
    /// What was noticed about the workbook, where it is one.
    pub workbook: Option<WorkbookFacts>,
    /// What was noticed about the file of records, where it is one.
    pub records: Option<RecordFacts>,
    /// The first row of the header.
    pub header_row: u64,
    /// How many rows the header takes.
    pub header_rows: u64,
    /// The line on which it begins.
    pub header_line: Line,
    /// The headings as they stand, trimmed.
    pub headings: Arc<[String]>,
    /// The same with a name of its own for each column.
    pub columns: Arc<[String]>,
    /// What closing lines begin with.
    pub closing: Vec<String>,
    /// Cells that are missing at the end of a row are blank.
    pub missing_are_blank: bool,
    /// Every row ends with a delimiter more than the header has.
    pub blank_end: bool,
    /// The first lines as they stand, decoded; nothing for a workbook.
    pub first_lines: Vec<String>,
    /// The size of what is read, in bytes.
    pub bytes: u64,
    start: Start,
    print: Option<SourceIdentity>,
    patches: Arc<Patches>,
}

impl Source {
    /// Opens the file at `path`. What is `known` is evidence for how to read it.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read; [`Error::Source`] when how to read it is not proven
    /// or a heading is missing.
    pub fn open(path: &Path, settings: &SourceSettings, known: &Known) -> Result<Self> {
        Self::open_path(path, settings, known, true)
    }

    /// Opens the file at `path` for a first look: where the reading is undecided the likeliest is
    /// taken, and the evidence says so.
    ///
    /// # Errors
    /// As [`Source::open`], but not for readings that are undecided.
    pub fn look(path: &Path, settings: &SourceSettings, known: &Known) -> Result<Self> {
        Self::open_path(path, settings, known, false)
    }

    fn open_path(path: &Path, settings: &SourceSettings, known: &Known, strict: bool) -> Result<Self> {
        let name = path.display().to_string();
        if name.contains(['\n', '\r']) {
            let says = "has a line break in its name, which lists and messages cannot hold";
            return Err(Refusal::new(says, "give it another name").of(&name));
        }
        let metadata = match std::fs::metadata(path) {
            Ok(metadata) => metadata,
            Err(error) => match packed::unpacked_member(path, &name)? {
                Some(file) => return Self::open_file(name, &file, settings, known, strict),
                None => return Err(Error::reading(path)(error)),
            },
        };
        if metadata.is_dir() {
            return Err(Error::Source {
                source_name: name,
                says: "is a folder, not a file".into(),
                hint: "name the exported file in it".into(),
            });
        }
        if metadata.is_file() {
            let file = SourceFile::open(path, &name)?;
            return Self::open_file(name, &file, settings, known, strict)
                .map_err(|error| file.or_changed(error));
        }
        if is_device(&metadata) {
            return Err(Error::Source {
                source_name: name,
                says: "is a device and no file; it may have no end".into(),
                hint: "write what it gives to a file, and name that".into(),
            });
        }
        let mut pipe = File::open(path).map_err(Error::reading(path))?;
        Self::open_stream(name, &mut pipe, settings, known, strict)
    }

    /// Opens what comes through a stream, keeping it in a temporary file until the work is done.
    /// `strict` tells [`Source::open`] from [`Source::look`].
    ///
    /// # Errors
    /// As [`Source::open`].
    pub fn open_stream(
        name: String,
        stream: &mut dyn Read,
        settings: &SourceSettings,
        known: &Known,
        strict: bool,
    ) -> Result<Self> {
        let file = SourceFile::kept(stream, &name)?;
        Self::open_file(name, &file, settings, known, strict)
    }

    fn open_file(
        name: String,
        file: &SourceFile,
        settings: &SourceSettings,
        known: &Known,
        strict: bool,
    ) -> Result<Self> {
        let mut head = Vec::new();
        file.reader().take(2).read_to_end(&mut head).map_err(Error::reading(Path::new(&name)))?;
        if !packed::is_gzip(&head) {
            return Self::open_unpacked(name, (file, None), settings, known, strict);
        }
        let inside = packed::gunzipped(file)?;
        Self::open_unpacked(name, (&inside, Some(file.identity()?)), settings, known, strict)
    }

    /// Opens a file that is not packed; `packed` is what it was unpacked of.
    fn open_unpacked(
        name: String,
        (file, packed): (&SourceFile, Option<SourceIdentity>),
        settings: &SourceSettings,
        known: &Known,
        strict: bool,
    ) -> Result<Self> {
        let shown = PathBuf::from(&name);
        let wrong = |refusal: Refusal| refusal.of(&name);
        let mut head = Vec::new();
        file.reader().take(HEAD).read_to_end(&mut head).map_err(Error::reading(&shown))?;
        if head.is_empty() {
            return Err(wrong(Refusal::new("is empty", "check that the export was finished")));
        }
        let mut open = Vec::new();
        let container = dusk_workbooks::container_of(file.file(), &head).map_err(wrong)?;
        let mut text = match container {
            Some(container) => Self::unpacked(file, container, settings).map_err(wrong)?,
            None if let Some(text) = of_records(file, &head, settings, strict).map_err(wrong)? => text,
            None => {
                refuse_a_sheet_of_text(settings, strict).map_err(wrong)?;
                refuse_what_is_no_text(&head, &shown).map_err(wrong)?;
                let encoding = settle_encoding(&head, file, settings, known, strict, &name)?;
                open = encoding.open;
                Text::plain(file.clone(), encoding.choice, encoding.evidence)
            }
        };
        let mut first_text = head_text(&text)?;
        let is_text = !text.start.unpacked;
        let first_lines = first_text.lines().take(12).filter(|_| is_text).map(str::to_owned).collect();
        let (mut blanks, mut marks) = (None, None);
        if text.dialect.is_none() && !settings.positions.is_empty() {
            let says = format!("fixed width, {} columns", settings.positions.len());
            text.evidence.push(Evidence::named(Claim::Delimiter, says));
            text.cut(&settings.positions, &name)?;
        } else if text.dialect.is_none() {
            let is_open = settings.delimiter.is_none() && !settings.only_usual_marks;
            blanks = SharedBlanks::of(&first_text).filter(|_| is_open);
            let settled = settle_delimiter(&mut text, &mut first_text, settings, known, strict);
            blanks = blanks.filter(|blanks| {
                // A comma before the decimals parts nothing that the headings name.
                let outweighs = blanks.are_proven() && !blanks.headings_have_marks(&first_text);
                settled.is_err() || text.parts_nothing(&first_text) || outweighs && text.is_undecided()
            });
            match &blanks {
                Some(blanks)
                    if !strict || blanks.are_proven() && !blanks.headings_have_marks(&first_text) =>
                {
                    text.evidence.truncate(1);
                    text.evidence.push(blanks.evidence());
                    text.cut(&blanks.positions, &name)?;
                }
                None if is_open && (settled.is_err() || text.parts_nothing(&first_text)) => {
                    marks = RecurringMarks::of(&first_text);
                    match &marks {
                        Some(marks) if !strict => {
                            text.dialect = Some(Dialect::new(
                                marks.delimiter.as_str(),
                                marks.quote.as_deref().unwrap_or("\""),
                            ));
                            text.evidence.truncate(1);
                            text.evidence.push(marks.evidence());
                        }
                        _ => settled
                            .map_err(|refusal| offering(refusal, offered(None, marks.as_ref())))
                            .map_err(wrong)?,
                    }
                }
                _ => settled
                    .map_err(|refusal| offering(refusal, offered(blanks.as_ref(), None)))
                    .map_err(wrong)?,
            }
        }
        let header_row = settings.header_row.or(blanks.as_ref().and_then(|blanks| blanks.headings));
        let is_made = text.start.unpacked || settings.across;
        let print = match packed {
            None if is_made => Some(file.identity()?),
            packed => packed,
        };
        if settings.across {
            text.turn(&name)?;
            first_text = head_text(&text)?;
        }
        let asks = text.evidence.first().filter(|_| !open.is_empty());
        let asks = asks.map(|evidence| undecided(evidence, &name, "its encoding is not proven"));
        let settings = &SourceSettings { header_row, ..settings.clone() };
        let opened = Self::under_header(name, text, settings, known, (first_text, first_lines), print)
            .map_err(|error| error_offering(error, offered(blanks.as_ref(), marks.as_ref())))
            .and_then(Self::with_blank_end)
            .map(|source| {
                let is_whole = source.is_of_bibliographic_records();
                Self {
                    original: container.map(|container| (file.clone(), container)),
                    whole_records: is_whole.then(|| file.clone()),
                    ..source
                }
            });
        match asks {
            None => opened,
            // Under another encoding the headings may be there.
            Some(asks) => opened.map_err(|_| asks)?.settled_by_columns(&open, &known.headings),
        }
    }

    /// Whether it is a file of bibliographic records, in binary form (ISO 2709) or as lines of text.
    pub fn is_of_bibliographic_records(&self) -> bool {
        let names = [RecordFormat::Iso2709, RecordFormat::TaggedLines].map(RecordFormat::name);
        self.records.as_ref().is_some_and(|records| names.contains(&records.format.as_ref()))
    }

    /// Whether they are lines of text.
    pub fn has_records_as_lines(&self) -> bool {
        self.records.as_ref().is_some_and(|records| records.format == RecordFormat::TaggedLines.name())
    }

    /// Whether each of its rows is a whole bibliographic record, which can be written as it stands.
    pub fn holds_whole_records(&self) -> bool {
        self.whole_records.is_some() && self.records.as_ref().is_some_and(|records| records.each.is_empty())
    }

    /// Its bibliographic records as they stand, from the first on; nothing for any other file.
    pub fn record_bytes(&self) -> Option<RecordBytes> {
        let are_lines = self.has_records_as_lines();
        self.whole_records.as_ref().map(|file| RecordBytes::of(file.file(), are_lines))
    }

    /// The last row of the header; 0 where it has none.
    pub fn last_header_row(&self) -> u64 {
        self.start.header_ends
    }

    /// Whether the columns that are wanted hold the same text under every encoding that may be the file's: then
    /// it makes no difference which one it is.
    ///
    /// # Errors
    /// Asks for the encoding where it does make one.
    fn settled_by_columns(
        mut self,
        open: &[&'static encoding_rs::Encoding],
        wanted: &[String],
    ) -> Result<Self> {
        let Some(evidence) = self.evidence.first().cloned() else { return Ok(self) };
        let ask = || undecided(&evidence, &self.name, "its encoding is not proven");
        let columns: Option<Vec<ColumnId>> = wanted.iter().map(|heading| self.column(heading)).collect();
        let columns = columns.ok_or_else(ask)?;
        let own = self.encoding.encoding;
        let differs = |cell: &str| {
            let bytes = own.encode(cell).0;
            open.iter().any(|other| other.decode_without_bom_handling(&bytes).0 != cell)
        };
        let mut walk = self.walk()?;
        while let Some(mut rows) = walk.more()? {
            while let Some(row) = rows.next() {
                let torn = row.len() != self.columns.len() && !row.cells().all(str::is_ascii);
                let cells = || columns.iter().map(|column| row.cell(*column));
                if torn || cells().any(|cell| !cell.is_ascii() && differs(cell)) {
                    return Err(ask());
                }
            }
        }
        if let Some(evidence) = self.evidence.first_mut() {
            evidence.verdict = Verdict::NoMatter(super::encoding::label(own));
            evidence.settle.clear();
        }
        Ok(self)
    }

    /// The source, once its header is found. `first` is the text that it begins with, and its lines.
    fn under_header(
        name: String,
        text: Text,
        settings: &SourceSettings,
        known: &Known,
        (first_text, first_lines): (String, Vec<String>),
        print: Option<SourceIdentity>,
    ) -> Result<Self> {
        let dialect = text.dialect.unwrap_or_else(|| Dialect::new(",", "\""));
        let headings: Vec<&str> = known.headings.iter().map(String::as_str).collect();
        let header = match settings.header_row {
            _ if let Some(columns) = text.columns => {
                header::given(columns, &headings, settings.header_row.filter(|_| text.records.is_none()))
            }
            Some(0) => header::without(&first_text, &dialect, &headings),
            named => header::settle(&first_text, &dialect, named, settings.header_rows, &headings),
        };
        let header: Header = header.map_err(|refusal| refusal.of(&name))?;
        let mut evidence = text.evidence;
        evidence.push(header.evidence);
        let bytes = text.file.bytes()?;
        Ok(Self {
            file: text.file,
            original: None,
            whole_records: None,
            encoding: text.encoding,
            dialect,
            evidence,
            workbook: text.workbook,
            records: text.records,
            header_row: header.row,
            header_rows: settings.header_rows,
            header_line: header.line,
            headings: header.headings.into(),
            patches: Arc::new(Patches::new(header.columns.len())),
            columns: header.columns.into(),
            closing: settings.closing.clone(),
            missing_are_blank: settings.missing_are_blank,
            blank_end: false,
            first_lines,
            bytes,
            start: Start { header_ends: header.row + settings.header_rows - 1, ..text.start },
            print,
            name,
        })
    }

    /// Notes that every row ends with a delimiter more than the header has: an empty column without a heading.
    ///
    /// Where a space follows the same delimiter in every row, it may as well be that each row has been split there
    /// and its last cell is blank; nothing is noted then.
    fn with_blank_end(mut self) -> Result<Self> {
        let width = self.columns.len();
        let mut rows_met = 0_u64;
        let mut spaced = vec![true; width];
        let mut walk = self.walk()?;
        while let Some(mut rows) = walk.more()? {
            while let Some(row) = rows.next() {
                if row.is_blank() {
                    continue;
                }
                if row.len() != width + 1 || !row.nth(width).trim().is_empty() {
                    return Ok(self);
                }
                rows_met += 1;
                for (spaced, cell) in spaced.iter_mut().zip(row.cells()) {
                    *spaced &= cell.starts_with(' ');
                }
            }
        }
        drop(walk);
        if rows_met > 0 && !self.dialect.is_sheet() && !spaced.contains(&true) {
            self.blank_end = true;
            let counted = "rows end with a delimiter more than the header has: an empty column".into();
            let reading = Reading { supports: rows_met, counted, ..Reading::default() };
            if let Some(evidence) = self.evidence.iter_mut().find(|one| one.claim == Claim::Delimiter) {
                evidence.readings = vec![reading];
            }
        }
        Ok(self)
    }

    /// Whether a row of so many cells, the last of them blank or not, has the header's width.
    pub fn is_whole(&self, row: &RowCells<'_>) -> bool {
        let (cells, width) = (row.len(), self.columns.len());
        cells == width
            || self.dialect.is_sheet()
            || self.missing_are_blank && cells < width
            || self.blank_end && cells == width + 1 && row.nth(width).trim().is_empty()
    }

    fn unpacked(file: &SourceFile, container: Container, settings: &SourceSettings) -> Result<Text, Refusal> {
        let sheet = dusk_workbooks::spool(file.file(), container, settings.sheet.as_ref())?;
        let spooled = Text::spooled(SourceFile::own(sheet.file, file.name()));
        Ok(Text { workbook: Some(sheet.facts), ..spooled })
    }

    /// What identifies the file, before its rows are read.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read.
    pub fn fingerprint(&self) -> Result<SourceIdentity> {
        self.print.clone().map_or_else(|| self.file.identity(), Ok)
    }

    /// Where formulas stand in its sheet, by row and column from 0; none for a text.
    pub fn formulas(&self) -> Formulas {
        match (&self.original, &self.workbook) {
            (Some((file, container)), Some(facts)) => {
                dusk_workbooks::formulas(file.file(), *container, &facts.sheet)
            }
            _ => Formulas::new(),
        }
    }

    /// Whether the last line of a text has an end: one that was cut off mostly has none.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read.
    pub fn ends_with_a_line_end(&self) -> Result<bool> {
        // A line end of UTF-16 has four bytes at the most, zeros among them.
        let mut end = Vec::new();
        let from = self.file.bytes()?.saturating_sub(4);
        self.file.reader_from(from).read_to_end(&mut end).map_err(Error::reading(Path::new(&self.name)))?;
        let last = end.iter().rev().find(|byte| **byte != 0);
        Ok(matches!(last, Some(b'\n' | b'\r')))
    }

    /// The sheet, where it is one of a workbook.
    pub fn sheet(&self) -> Option<String> {
        self.workbook.as_ref().map(|facts| facts.sheet.clone())
    }

    /// The column of a heading.
    pub fn column(&self, name: &str) -> Option<ColumnId> {
        self.columns.iter().position(|column| column == name).map(ColumnId::new)
    }

    /// The heading of a column.
    pub fn heading(&self, column: ColumnId) -> &str {
        self.columns.get(column.index()).map_or("", String::as_str)
    }

    /// Every column, in order.
    pub fn column_ids(&self) -> impl Iterator<Item = ColumnId> + use<> {
        (0..self.columns.len()).map(ColumnId::new)
    }

    /// What is above the header and how many columns it has, in words.
    pub fn header_note(&self) -> String {
        let above = match self.header_row {
            0 | 1 => String::new(),
            2 => "1 row above it skipped; ".to_owned(),
            row => format!("{} rows above it skipped; ", row - 1),
        };
        match self.columns.len() {
            1 => format!("{above}1 column"),
            count => format!("{above}{count} columns"),
        }
    }

    /// What the delimiter is called.
    pub fn delimiter_name(&self) -> String {
        // Rows that the program has cut or turned itself were told apart by something else before.
        let told = self.evidence.iter().find(|one| one.claim == Claim::Delimiter).map(|one| &one.verdict);
        match told {
            Some(Verdict::Proven(name) | Verdict::Named(name)) if self.dialect.is_sheet() => name.clone(),
            _ => delimiter::delimiter_name(self.dialect.delimiter()),
        }
    }

    /// The cells that a steward has corrected.
    pub fn patches(&self) -> &Patches {
        &self.patches
    }

    /// Has the source read with these cells corrected.
    pub fn correct(&mut self, patches: Patches) {
        self.patches = Arc::new(patches);
    }

    /// Reads the records below the header, in blocks, with the corrected cells.
    ///
    /// # Errors
    /// [`Error::File`] when the file cannot be opened again.
    pub fn blocks(&self) -> Result<Blocks> {
        self.blocks_with(Arc::clone(&self.patches))
    }

    /// The same as the file has them.
    ///
    /// # Errors
    /// As [`Source::blocks`].
    pub fn blocks_as_exported(&self) -> Result<Blocks> {
        self.blocks_with(Arc::default())
    }

    fn blocks_with(&self, patches: Arc<Patches>) -> Result<Blocks> {
        Ok(Blocks::new(
            self.file.reader(),
            self.encoding,
            self.dialect.clone(),
            &self.start,
            self.print.clone(),
            patches,
        ))
    }
}

/// Whether what a path leads to gives bytes without end, as a device does. A pipe has one.
fn is_device(metadata: &std::fs::Metadata) -> bool {
    #[cfg(unix)]
    {
        use std::os::unix::fs::FileTypeExt as _;
        metadata.file_type().is_char_device() || metadata.file_type().is_block_device()
    }
    #[cfg(not(unix))]
    {
        let _ = metadata;
        false
    }
}

/// The beginning of a file as text.
fn head_text(text: &Text) -> Result<String> {
    let mut raw = Vec::new();
    let shown = Path::new(text.file.name());
    text.file.reader().take(HEAD).read_to_end(&mut raw).map_err(Error::reading(shown))?;
    let whole = text.file.bytes()? <= HEAD;
    let mut out = String::new();
    let mut decoding = Decoding::new(text.encoding, text.start.unpacked);
    decoding.decode(raw.get(text.start.skip..).unwrap_or_default(), whole, &mut out);
    Ok(out)
}
