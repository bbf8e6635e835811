//! How a text is read, where the mapping does not say: its encoding and its delimiter, proven or asked about.

use std::path::Path;
use std::sync::Arc;

use super::across;
use super::blocks::{Blocks, Start};
use super::delimiter::{self, Frame};
use super::dialect::Dialect;
use super::encoding::EncodingChoice;
use super::settings::{Known, SourceSettings};
use super::source_file::SourceFile;
use super::survey::ByteSurvey;
use dusk_evidence::{Claim, Error, Evidence, Line, Reading, Refusal, Result, Verdict};
use dusk_records::{RecordFacts, Unpacked};
use dusk_workbooks::{SheetChoice, WorkbookFacts};

/// Where a file's text is, and what is known about it so far.
pub(super) struct Text {
    pub(super) file: SourceFile,
    pub(super) encoding: EncodingChoice,
    pub(super) dialect: Option<Dialect>,
    pub(super) evidence: Vec<Evidence>,
    pub(super) workbook: Option<WorkbookFacts>,
    pub(super) records: Option<RecordFacts>,
    /// The columns, where the rows that are read have no header.
    pub(super) columns: Option<Vec<String>>,
    pub(super) start: Start,
}

impl Text {
    /// A text that is no workbook, before its delimiter is known.
    pub(super) fn plain(file: SourceFile, encoding: EncodingChoice, evidence: Evidence) -> Self {
        let start = Start { skip: encoding.mark, ..Start::default() };
        let evidence = vec![evidence];
        Self { file, encoding, dialect: None, evidence, workbook: None, records: None, columns: None, start }
    }

    /// Whether its delimiter is open.
    pub(super) fn is_undecided(&self) -> bool {
        self.evidence.last().is_some_and(|last| last.claim == Claim::Delimiter && last.needs_decision())
    }

    /// Whether no delimiter was found in it, or one that most of its lines do not have.
    pub(super) fn parts_nothing(&self, first_text: &str) -> bool {
        let Some(evidence) = self.evidence.last().filter(|last| last.claim == Claim::Delimiter) else {
            return false;
        };
        let Some(dialect) = &self.dialect else { return false };
        let lines = || first_text.lines().filter(|line| !line.trim().is_empty());
        let with_it = lines().filter(|line| line.contains(dialect.delimiter())).count();
        match &evidence.verdict {
            Verdict::Proven(name) => *name == delimiter::delimiter_name(delimiter::NO_DELIMITER),
            _ => {
                let has_one = dialect.delimiter() != delimiter::NO_DELIMITER;
                evidence.needs_decision() && has_one && with_it * 2 < lines().count()
            }
        }
    }

    /// Rows that the program has written itself, as it does those of a sheet.
    pub(super) fn spooled(file: SourceFile) -> Self {
        let encoding = EncodingChoice { encoding: encoding_rs::UTF_8, other_lines: None, mark: 0 };
        Self {
            file,
            encoding,
            dialect: Some(Dialect::of_a_sheet()),
            evidence: Vec::new(),
            workbook: None,
            records: None,
            columns: None,
            start: Start { unpacked: true, ..Start::default() },
        }
    }

    /// The rows of a file of records.
    pub(super) fn of_records(unpacked: Unpacked, name: &str) -> Self {
        let columns = Some(unpacked.facts.columns.clone());
        let file = SourceFile::own(unpacked.file, name);
        Self { records: Some(unpacked.facts), columns, ..Self::spooled(file) }
    }

    /// Turns a table whose records stand in its columns; `name` is its source's.
    pub(super) fn turn(&mut self, name: &str) -> dusk_evidence::Result<()> {
        let dialect = self.dialect.clone().unwrap_or_else(|| Dialect::new(",", "\""));
        let file = self.file.reader();
        let blocks = Blocks::new(file, self.encoding, dialect.clone(), &self.start, None, Arc::default());
        let turned = across::turned(blocks, &dialect)?.map_err(|refusal| refusal.of(name))?;
        self.file = SourceFile::own(turned, name);
        self.dialect = Some(Dialect::of_a_sheet());
        self.encoding = EncodingChoice { encoding: encoding_rs::UTF_8, ..self.encoding };
        self.start = Start { unpacked: true, ..Start::default() };
        Ok(())
    }
}

/// A sheet is named, and the file has none.
pub(super) fn refuse_a_sheet_of_text(settings: &SourceSettings, strict: bool) -> Result<(), Refusal> {
    let Some(sheet) = settings.sheet.as_ref().filter(|_| strict) else { return Ok(()) };
    let sheet = match sheet {
        SheetChoice::Name(name) => name.clone(),
        SheetChoice::Number(number) => number.to_string(),
    };
    Err(Refusal::new(
        format!("is not a workbook, but the mapping names its sheet \"{sheet}\""),
        "use the workbook, or take the line sheet = … out of the mapping",
    ))
}

/// A file that is not what its name says, or holds no text at all, is not read as if it were.
pub(super) fn refuse_what_is_no_text(head: &[u8], name: &Path) -> Result<(), Refusal> {
    let ending = name.extension().map(|ending| ending.to_string_lossy().to_ascii_lowercase());
    if let Some(ending) =
        ending.filter(|ending| matches!(ending.as_str(), "xlsx" | "xlsm" | "xlsb" | "xls" | "ods"))
    {
        return Err(Refusal::new(
            format!("is not a workbook, although its name ends with .{ending}"),
            "if it is delimited text, give it a name that ends with .csv; if it was a workbook, ask for it again",
        ));
    }
    if is_utf_32(head) {
        return Err(Refusal::new(
            "is UTF-32, which is not read here",
            "save it as UTF-8 where it comes from",
        ));
    }
    // Text has hardly any control characters; UTF-16 has zero bytes in every other place.
    let odd = |byte: &&u8| matches!(byte, 0..=8 | 0x0e..=0x1a | 0x7f);
    let controls = head.iter().filter(odd).count();
    // One or two of them may be the marks of a text whose cells hold everything else.
    let mut kinds: Vec<u8> = head.iter().filter(odd).copied().collect();
    kinds.sort_unstable();
    kinds.dedup();
    let may_be_marks = kinds.len() <= 2 && !kinds.contains(&0);
    if !may_be_marks
        && head.len() >= 64
        && controls * 20 > head.len()
        && EncodingChoice::by_first_bytes(head).is_none()
    {
        return Err(Refusal::new(
            "is not text: one byte in twenty is a control character",
            "check that this is the exported file, and not a picture, a program or a packed file",
        ));
    }
    Ok(())
}

/// Whether bytes begin with the mark of UTF-32, or have its zeros.
fn is_utf_32(head: &[u8]) -> bool {
    let marked = head.starts_with(&[0xff, 0xfe, 0, 0]) || head.starts_with(&[0, 0, 0xfe, 0xff]);
    let zeros =
        |at: &usize| head.iter().skip(*at).step_by(4).filter(|byte| **byte == 0).count() * 5 > head.len();
    marked || head.len() >= 16 && [[1, 2, 3], [0, 1, 2]].iter().any(|three| three.iter().all(zeros))
}

/// Settles how bytes become text.
pub(super) fn settle_encoding(
    head: &[u8],
    file: &SourceFile,
    settings: &SourceSettings,
    known: &Known,
    strict: bool,
    name: &str,
) -> Result<SettledEncoding> {
    let by_mark = EncodingChoice::by_first_bytes(head);
    if let Some(named) = settings.encoding {
        let settled = named_encoding(named, by_mark, head, settings).map_err(|refusal| refusal.of(name))?;
        if strict && settings.other_lines.is_none() && super::encoding::is_denied(named, head) {
            return Err(denied_encoding(named).of(name));
        }
        return Ok(settled.into());
    }
    if let Some(settled) = by_mark {
        return Ok(settled.into());
    }
    let survey = ByteSurvey::of(file.reader()).map_err(Error::reading(Path::new(name)))?;
    if let Some(other) = settings.other_lines {
        return Ok(EncodingChoice::named(encoding_rs::UTF_8, Some(other), head).into());
    }
    let weighing = EncodingChoice::weigh(&survey, &known.words);
    match (weighing.choice, weighing.open.first()) {
        (Some(choice), _) => Ok((choice, weighing.evidence).into()),
        // Which one it is may make no difference to what is wanted; that is seen once there are columns.
        (None, Some(likely)) if strict && likely.is_single_byte() && !known.headings.is_empty() => {
            let choice = EncodingChoice { encoding: likely, other_lines: None, mark: 0 };
            Ok(SettledEncoding { choice, evidence: weighing.evidence, open: weighing.open })
        }
        (None, _) if strict => Err(undecided(&weighing.evidence, name, "its encoding is not proven")),
        (None, Some(likely)) => {
            Ok((EncodingChoice { encoding: likely, other_lines: None, mark: 0 }, weighing.evidence).into())
        }
        (None, None) => Ok((guessed(&survey), weighing.evidence).into()),
    }
}

/// How bytes become text, as far as it is settled.
pub(super) struct SettledEncoding {
    pub(super) choice: EncodingChoice,
    pub(super) evidence: Evidence,
    /// The encodings under which the text may be another, where that is still to be seen.
    pub(super) open: Vec<&'static encoding_rs::Encoding>,
}

impl From<(EncodingChoice, Evidence)> for SettledEncoding {
    fn from((choice, evidence): (EncodingChoice, Evidence)) -> Self {
        Self { choice, evidence, open: Vec::new() }
    }
}

/// Every character outside ASCII is valid UTF-8, which bytes of another encoding hardly ever are.
fn denied_encoding(named: &'static encoding_rs::Encoding) -> Refusal {
    let label = super::encoding::label(named);
    Refusal::new(
        format!(
            "is UTF-8 by its bytes, and the mapping says {label}, which would make other letters of them"
        ),
        "write encoding = \"utf-8\" under [source], or leave the line out",
    )
}

/// The encoding that the mapping names, which a byte order mark may not deny.
fn named_encoding(
    named: &'static encoding_rs::Encoding,
    by_mark: Option<(EncodingChoice, Evidence)>,
    head: &[u8],
    settings: &SourceSettings,
) -> Result<(EncodingChoice, Evidence), Refusal> {
    match by_mark {
        Some((marked, _)) if marked.mark > 0 && marked.encoding != named => Err(Refusal::new(
            format!(
                "begins with the byte order mark of {}, but the mapping says {}",
                marked.label(),
                super::encoding::label(named)
            ),
            format!("write encoding = \"{}\" under [source], or leave the line out", marked.label()),
        )),
        Some((marked, mut evidence)) if marked.mark > 0 => {
            evidence.verdict = Verdict::Named(marked.label());
            Ok((marked, evidence))
        }
        _ => Ok(EncodingChoice::named(named, settings.other_lines, head)),
    }
}

/// What a file is read as to be looked at, where nothing proves it.
fn guessed(survey: &ByteSurvey) -> EncodingChoice {
    let other_lines = (survey.utf_8_lines > 0).then_some(survey.guess);
    let encoding = match survey.first_switch {
        _ if other_lines.is_some() => encoding_rs::UTF_8,
        Some(_) if survey.other_lines == 0 => encoding_rs::ISO_2022_JP,
        _ => survey.guess,
    };
    EncodingChoice { encoding, other_lines, mark: 0 }
}

pub(super) fn undecided(evidence: &Evidence, name: &str, says: &str) -> Error {
    Error::Source {
        source_name: name.to_owned(),
        says: format!("{says}, so nothing was read\n{evidence}"),
        hint: format!("write into the mapping:\n    {}", evidence.settle.join("\n    ")),
    }
}

pub(super) fn settle_delimiter(
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
        (Some(named), _) => {
            (dialect(named), Evidence::named(Claim::Delimiter, delimiter::delimiter_name(named)))
        }
        (None, Some((separator, _))) => {
            let proven = Verdict::Proven(delimiter::delimiter_name(separator));
            let mut evidence = Evidence::new(Claim::Delimiter, proven);
            evidence
                .readings
                .push(Reading { name: "the first line declares it".into(), ..Reading::default() });
            (dialect(separator), evidence)
        }
        (None, None) => weighed_delimiter(first_text, settings, known, strict)?,
    };
    text.dialect = Some(dialect);
    text.evidence.push(evidence);
    Ok(())
}

/// The delimiter that the first rows prove.
fn weighed_delimiter(
    first_text: &str,
    settings: &SourceSettings,
    known: &Known,
    strict: bool,
) -> Result<(Dialect, Evidence), Refusal> {
    // Headings over two rows are put together only when the cells are parted.
    let one_row = settings.header_rows == 1 && settings.header_row != Some(0);
    let wanted: Vec<&str> = known.headings.iter().filter(|_| one_row).map(String::as_str).collect();
    let escape = settings.escape.as_deref();
    let frame = Frame {
        quote: &settings.quote,
        escape,
        header_row: settings.header_row.map(|row| row.max(1)),
        wanted: &wanted,
    };
    let (dialect, evidence) = delimiter::weigh(first_text, &frame);
    if strict && evidence.needs_decision() {
        return Err(Refusal::new(
            format!("does not prove which character parts its cells\n{evidence}"),
            format!("write into the mapping, and check header_row:\n    {}", evidence.settle.join("\n    ")),
        ));
    }
    Ok((dialect, evidence))
}
