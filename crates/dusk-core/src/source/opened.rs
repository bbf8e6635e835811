//! A source opened: how it is read is settled, its header is found, and it can be read from the
//! first record on as often as needed.

use std::fs::File;
use std::io::{Read, Seek, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use encoding_rs::Encoding;
use hashbrown::HashSet;

use super::blocks::{Blocks, Decoding, SourcePrint, Start};
use super::delimiter::{self, Frame};
use super::dialect::Dialect;
use super::encoding::EncodingChoice;
use super::header::{self, Header};
use super::patch::Patches;
use super::survey::ByteSurvey;
use super::workbook::{self, SheetChoice, WorkbookFacts};
use super::{Line, Refusal, across};
use crate::inspect::Evidence;
use crate::{Error, Result};

/// How much of a file is looked at to settle how it is read, in bytes.
const HEAD: u64 = 256 * 1024;

/// How a mapping says that its sources are to be read.
#[derive(Debug, Clone)]
pub struct SourceSettings {
    /// The encoding, where it is named.
    pub encoding: Option<&'static Encoding>,
    /// The encoding of lines that are not UTF-8, where some are.
    pub other_lines: Option<&'static Encoding>,
    /// The delimiter, where it is named.
    pub delimiter: Option<String>,
    /// The quote; empty when nothing is ever quoted.
    pub quote: String,
    /// What makes an ordinary character of a quote inside a quoted cell, where it is named.
    pub escape: Option<String>,
    /// What stands for a line break inside a cell.
    pub line_break: Option<String>,
    /// Which sheet of a workbook.
    pub sheet: Option<SheetChoice>,
    /// The first row of the header, from 1, where it is named.
    pub header_row: Option<u64>,
    /// How many rows the header takes.
    pub header_rows: u64,
    /// What closing lines begin with.
    pub closing: Vec<String>,
    /// Records are laid across columns.
    pub across: bool,
}

impl Default for SourceSettings {
    fn default() -> Self {
        Self {
            encoding: None,
            other_lines: None,
            delimiter: None,
            quote: "\"".into(),
            escape: None,
            line_break: None,
            sheet: None,
            header_row: None,
            header_rows: 1,
            closing: Vec::new(),
            across: false,
        }
    }
}

/// What is known before a source is opened, and is evidence for how it is to be read.
#[derive(Debug, Clone, Default)]
pub struct Known {
    /// The headings that the mapping uses; every one of them must be there exactly once.
    pub headings: Vec<String>,
    /// Words of the dictionary and its code lists with letters outside ASCII, in lower case.
    pub words: HashSet<String>,
}

impl Known {
    /// Headings only.
    pub fn headings(headings: &[&str]) -> Self {
        Self { headings: headings.iter().map(|heading| (*heading).to_owned()).collect(), ..Self::default() }
    }

    /// Takes the words of a text in.
    pub fn learn(&mut self, text: &str) {
        let words = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_ascii());
        self.words.extend(words.map(str::to_lowercase));
    }
}

/// A source whose reading is settled.
#[derive(Debug)]
pub struct Source {
    /// The source as the steward named it.
    pub name: String,
    path: PathBuf,
    // What can be read once only, or has to be unpacked, is kept here.
    _spooled: Vec<tempfile::NamedTempFile>,
    /// How bytes become text.
    pub encoding: EncodingChoice,
    /// How cells are parted and quoted.
    pub dialect: Dialect,
    /// What proves the encoding, the delimiter and the header.
    pub evidence: Vec<Evidence>,
    /// What was noticed about the workbook, where it is one.
    pub workbook: Option<WorkbookFacts>,
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
    /// The first lines as they stand, decoded; nothing for a workbook.
    pub first_lines: Vec<String>,
    /// The size of what is read, in bytes.
    pub bytes: u64,
    start: Start,
    print: Option<SourcePrint>,
    patches: Arc<Patches>,
}

/// Where a file's text is, and what is known about it so far.
struct Text {
    path: PathBuf,
    spooled: Vec<tempfile::NamedTempFile>,
    encoding: EncodingChoice,
    dialect: Option<Dialect>,
    evidence: Vec<Evidence>,
    workbook: Option<WorkbookFacts>,
    start: Start,
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
        let metadata = std::fs::metadata(path).map_err(Error::reading(path))?;
        if metadata.is_dir() {
            return Err(Error::Source {
                source_name: name,
                says: "is a folder, not a file".into(),
                hint: "name the exported file in it".into(),
            });
        }
        if metadata.is_file() {
            return Self::open_file(name, path.to_path_buf(), Vec::new(), settings, known, strict);
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
        let shown = PathBuf::from(&name);
        let mut spool = tempfile::NamedTempFile::new().map_err(Error::writing(&std::env::temp_dir()))?;
        std::io::copy(stream, &mut spool).map_err(Error::reading(&shown))?;
        let path = spool.path().to_path_buf();
        Self::open_file(name, path, vec![spool], settings, known, strict)
    }

    fn open_file(
        name: String,
        path: PathBuf,
        spooled: Vec<tempfile::NamedTempFile>,
        settings: &SourceSettings,
        known: &Known,
        strict: bool,
    ) -> Result<Self> {
        let shown = PathBuf::from(&name);
        let wrong = |refusal: Refusal| refusal.of(&name);
        let mut file = File::open(&path).map_err(Error::reading(&shown))?;
        let mut head = Vec::new();
        file.by_ref().take(HEAD).read_to_end(&mut head).map_err(Error::reading(&shown))?;
        if head.is_empty() {
            return Err(wrong(Refusal::new("is empty", "check that the export was finished")));
        }
        let mut text = match workbook::container_of(&path, &head).map_err(wrong)? {
            Some(container) => Self::unpacked(&path, container, spooled, settings).map_err(wrong)?,
            None => {
                if let Some(sheet) = settings.sheet.as_ref().filter(|_| strict) {
                    let sheet = match sheet {
                        SheetChoice::Name(name) => name.clone(),
                        SheetChoice::Number(number) => number.to_string(),
                    };
                    return Err(wrong(Refusal::new(
                        format!("is no workbook, but the mapping names its sheet \"{sheet}\""),
                        "use the workbook, or take the line sheet = … out of the mapping",
                    )));
                }
                refuse_what_is_no_text(&head, &shown).map_err(wrong)?;
                let (encoding, evidence) = settle_encoding(&head, &mut file, settings, known, strict, &name)?;
                Text {
                    path,
                    spooled,
                    encoding,
                    dialect: None,
                    evidence: vec![evidence],
                    workbook: None,
                    start: Start { skip: encoding.mark, ..Start::default() },
                }
            }
        };
        let original = text.path.clone();
        let mut first_text = head_text(&original, &text, &shown)?;
        let first_lines = if text.workbook.is_some() {
            Vec::new()
        } else {
            first_text.lines().take(12).map(str::to_owned).collect()
        };
        if text.dialect.is_none() {
            settle_delimiter(&mut text, &mut first_text, settings, known, strict).map_err(wrong)?;
        }
        let print = match (&text.workbook, settings.across) {
            (None, false) => None,
            _ => Some(SourcePrint::of(&mut file).map_err(Error::reading(&shown))?),
        };
        if settings.across {
            let dialect = text.dialect.clone().unwrap_or_else(|| Dialect::new(",", "\""));
            let blocks = Blocks::new(
                File::open(&text.path).map_err(Error::reading(&shown))?,
                &name,
                text.encoding,
                dialect.clone(),
                &text.start,
                None,
                Arc::default(),
            );
            let turned = across::turned(blocks, &dialect)?.map_err(wrong)?;
            text.path = turned.path().to_path_buf();
            text.spooled.push(turned);
            text.dialect = Some(workbook::spool_dialect());
            text.encoding = EncodingChoice { encoding: encoding_rs::UTF_8, ..text.encoding };
            text.start = Start { unpacked: true, ..Start::default() };
            first_text = head_text(&text.path, &text, &shown)?;
        }
        let dialect = text.dialect.unwrap_or_else(|| Dialect::new(",", "\""));
        let headings: Vec<&str> = known.headings.iter().map(String::as_str).collect();
        let header: Header =
            header::settle(&first_text, &dialect, settings.header_row, settings.header_rows, &headings)
                .map_err(wrong)?;
        let mut evidence = text.evidence;
        evidence.push(header.evidence);
        let bytes = std::fs::metadata(&text.path).map_err(Error::reading(&shown))?.len();
        Ok(Self {
            path: text.path,
            _spooled: text.spooled,
            encoding: text.encoding,
            dialect,
            evidence,
            workbook: text.workbook,
            header_row: header.row,
            header_rows: settings.header_rows,
            header_line: header.line,
            headings: header.headings.into(),
            patches: Arc::new(Patches::new(header.columns.len())),
            columns: header.columns.into(),
            closing: settings.closing.clone(),
            first_lines,
            bytes,
            start: Start { header_ends: header.row + settings.header_rows - 1, ..text.start },
            print,
            name,
        })
    }

    fn unpacked(
        path: &Path,
        container: workbook::Container,
        mut spooled: Vec<tempfile::NamedTempFile>,
        settings: &SourceSettings,
    ) -> Result<Text, Refusal> {
        let sheet = workbook::spool(path, container, settings)?;
        let path = sheet.file.path().to_path_buf();
        spooled.push(sheet.file);
        let encoding = EncodingChoice { encoding: encoding_rs::UTF_8, other_lines: None, mark: 0 };
        Ok(Text {
            path,
            spooled,
            encoding,
            dialect: Some(workbook::spool_dialect()),
            evidence: Vec::new(),
            workbook: Some(sheet.facts),
            start: Start { unpacked: true, ..Start::default() },
        })
    }

    /// What identifies the file, before its rows are read.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read.
    pub fn fingerprint(&self) -> Result<SourcePrint> {
        if let Some(print) = &self.print {
            return Ok(print.clone());
        }
        let shown = PathBuf::from(&self.name);
        let mut file = File::open(&self.path).map_err(Error::reading(&shown))?;
        SourcePrint::of(&mut file).map_err(Error::reading(&shown))
    }

    /// The sheet, where it is one of a workbook.
    pub fn sheet(&self) -> Option<String> {
        self.workbook.as_ref().map(|facts| facts.sheet.clone())
    }

    /// Where a heading stands among the columns, from 0.
    pub fn column(&self, name: &str) -> Option<usize> {
        self.columns.iter().position(|column| column == name)
    }

    /// What stands above the header and how many columns it has, in words.
    pub fn header_note(&self) -> String {
        let above = match self.header_row {
            0 | 1 => String::new(),
            2 => "1 row above it skipped; ".to_owned(),
            row => format!("{} rows above it skipped; ", row - 1),
        };
        format!("{above}{} columns", self.columns.len())
    }

    /// What the delimiter is called.
    pub fn delimiter_name(&self) -> String {
        delimiter::delimiter_name(self.dialect.delimiter())
    }

    /// The cells that a steward has corrected.
    pub fn patches(&self) -> &Patches {
        &self.patches
    }

    /// Has the source read with these cells corrected.
    pub(crate) fn correct(&mut self, patches: Patches) {
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
    pub(crate) fn blocks_as_exported(&self) -> Result<Blocks> {
        self.blocks_with(Arc::default())
    }

    fn blocks_with(&self, patches: Arc<Patches>) -> Result<Blocks> {
        let file = File::open(&self.path).map_err(Error::reading(Path::new(&self.name)))?;
        Ok(Blocks::new(
            file,
            &self.name,
            self.encoding,
            self.dialect.clone(),
            &self.start,
            self.print.clone(),
            patches,
        ))
    }
}

/// A file that is not what its name says, or holds no text at all, is not read as if it were.
fn refuse_what_is_no_text(head: &[u8], name: &Path) -> Result<(), Refusal> {
    let ending = name.extension().map(|ending| ending.to_string_lossy().to_ascii_lowercase());
    if let Some(ending) =
        ending.filter(|ending| matches!(ending.as_str(), "xlsx" | "xlsm" | "xlsb" | "xls" | "ods"))
    {
        return Err(Refusal::new(
            format!("is no workbook, although its name ends with .{ending}"),
            "if it is delimited text, give it a name that ends with .csv; if it was a workbook, ask for it again",
        ));
    }
    // Text has hardly any control characters; UTF-16 has zero bytes in every other place.
    let odd = |byte: &&u8| matches!(byte, 0..=8 | 0x0e..=0x1a | 0x7f);
    let controls = head.iter().filter(odd).count();
    if head.len() >= 64 && controls * 20 > head.len() && EncodingChoice::by_first_bytes(head).is_none() {
        return Err(Refusal::new(
            "is no text: one byte in twenty is a control character",
            "check that this is the exported file, and not a picture, a program or a packed file",
        ));
    }
    Ok(())
}

/// Settles how bytes become text.
fn settle_encoding(
    head: &[u8],
    file: &mut File,
    settings: &SourceSettings,
    known: &Known,
    strict: bool,
    name: &str,
) -> Result<(EncodingChoice, Evidence)> {
    let by_mark = EncodingChoice::by_first_bytes(head);
    if let Some(named) = settings.encoding {
        return match by_mark {
            Some((marked, _)) if marked.mark > 0 && marked.encoding != named => Err(Refusal::new(
                format!(
                    "begins with the byte order mark of {}, but the mapping says {}",
                    marked.label(),
                    super::encoding::label(named)
                ),
                format!("write encoding = \"{}\" under [source], or leave the line out", marked.label()),
            )
            .of(name)),
            Some((marked, mut evidence)) if marked.mark > 0 => {
                evidence.verdict = crate::inspect::Verdict::Named(marked.label());
                Ok((marked, evidence))
            }
            _ => Ok(EncodingChoice::named(named, settings.other_lines, head)),
        };
    }
    if let Some(settled) = by_mark {
        return Ok(settled);
    }
    let shown = PathBuf::from(name);
    file.seek(SeekFrom::Start(0)).map_err(Error::reading(&shown))?;
    let survey = ByteSurvey::of(&mut *file).map_err(Error::reading(&shown))?;
    if let Some(other) = settings.other_lines {
        return Ok(EncodingChoice::named(encoding_rs::UTF_8, Some(other), head));
    }
    match EncodingChoice::weigh(&survey, &known.words) {
        (Some(choice), evidence) => Ok((choice, evidence)),
        (None, evidence) if strict => Err(undecided(&evidence, name, "its encoding is not proven")),
        (None, evidence) => {
            let other = (survey.utf_8_lines > 0).then_some(survey.guess);
            let encoding = match survey.first_switch {
                _ if other.is_some() => encoding_rs::UTF_8,
                Some(_) if survey.other_lines == 0 => encoding_rs::ISO_2022_JP,
                _ => survey.guess,
            };
            Ok((EncodingChoice { encoding, other_lines: other, mark: 0 }, evidence))
        }
    }
}

fn undecided(evidence: &Evidence, name: &str, says: &str) -> Error {
    Error::Source {
        source_name: name.to_owned(),
        says: format!("{says}, so nothing was read\n{evidence}"),
        hint: format!("write into the mapping:\n    {}", evidence.settle.join("\n    ")),
    }
}

fn settle_delimiter(
    text: &mut Text,
    first_text: &mut String,
    settings: &SourceSettings,
    known: &Known,
    strict: bool,
) -> Result<(), Refusal> {
    let declared =
        delimiter::declared(first_text).map(|(separator, line)| (separator.to_owned(), line.to_owned()));
    if let Some((_, line)) = &declared {
        // Programs that obey the line do not show it, so the row after it is their first.
        let wide = matches!(text.encoding.encoding.name(), "UTF-16LE" | "UTF-16BE");
        text.start.skip += if wide { line.len() * 2 } else { line.len() };
        text.start.line = Line(2);
        first_text.drain(..line.len());
    }
    let escape = settings.escape.as_deref();
    let named = settings.delimiter.as_deref();
    let dialect = |delimiter: &str| {
        Dialect::new(delimiter, settings.quote.as_str()).escaped_by(escape.unwrap_or_default())
    };
    let (dialect, evidence) = match (named, &declared) {
        (Some(named), _) => (dialect(named), Evidence::named("delimiter", delimiter::delimiter_name(named))),
        (None, Some((separator, _))) => {
            let mut evidence = Evidence::new(
                "delimiter",
                crate::inspect::Verdict::Proven(delimiter::delimiter_name(separator)),
            );
            evidence.readings.push(crate::inspect::Reading {
                name: "the first line declares it".into(),
                ..Default::default()
            });
            (dialect(separator), evidence)
        }
        (None, None) => {
            // Headings over two rows are put together only when the cells are parted.
            let one_row = settings.header_rows == 1;
            let wanted: Vec<&str> = known.headings.iter().filter(|_| one_row).map(String::as_str).collect();
            let frame =
                Frame { quote: &settings.quote, escape, header_row: settings.header_row, wanted: &wanted };
            let (dialect, evidence) = delimiter::weigh(first_text, &frame);
            if strict && evidence.needs_decision() {
                return Err(Refusal::new(
                    format!("does not prove which character parts its cells\n{evidence}"),
                    format!(
                        "write into the mapping, and check header_row:\n    {}",
                        evidence.settle.join("\n    ")
                    ),
                ));
            }
            (dialect, evidence)
        }
    };
    text.dialect = Some(dialect);
    text.evidence.push(evidence);
    Ok(())
}

/// The beginning of a file as text.
fn head_text(path: &Path, text: &Text, shown: &Path) -> Result<String> {
    let mut raw = Vec::new();
    let mut file = File::open(path).map_err(Error::reading(shown))?;
    file.by_ref().take(HEAD).read_to_end(&mut raw).map_err(Error::reading(shown))?;
    let whole = file.metadata().is_ok_and(|metadata| metadata.len() <= HEAD);
    let mut out = String::new();
    let mut decoding = Decoding::new(text.encoding, text.start.unpacked);
    decoding.decode(raw.get(text.start.skip..).unwrap_or_default(), whole, &mut out);
    Ok(out)
}
