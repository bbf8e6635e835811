//! An upload file taken, record by record.

use std::path::Path;

use crate::book::key_of;
use crate::{Behaviour, Book, Manners};
use dusk_description::{AnswerOutcome, Field, Target, UploadEncoding, UploadFormat};
use dusk_evidence::{Error, Result};
use dusk_sources::{CellKind, Known, Source, SourceSettings};

/// What becomes of a record.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Verdict {
    /// The line, or the row of the sheet, on which it begins.
    pub line: u64,
    /// Its number in the file, from 1.
    pub record: u64,
    /// Its key, part by part.
    pub key: Vec<String>,
    /// How it went.
    pub outcome: AnswerOutcome,
    /// Why.
    pub reason: String,
    /// The number that it was given.
    pub number: String,
}

/// What became of a file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Judged {
    /// The file's name.
    pub file: String,
    /// Its records, in their order.
    pub verdicts: Vec<Verdict>,
    /// The connection is broken off now, without an answer.
    pub breaks_off: bool,
}

/// A target that takes files.
pub struct Intake<'t> {
    target: &'t Target,
    manners: Manners,
    book: Book,
    key: Vec<usize>,
}

/// A record as it was read.
struct Read {
    line: u64,
    cells: Vec<(String, String)>,
}

impl<'t> Intake<'t> {
    /// A target as it is described, which holds what lies in a folder.
    ///
    /// # Errors
    /// [`Error::Request`] for a description whose files nobody can read back; as [`Book::open`].
    pub fn new(target: &'t Target, manners: Manners, state: &Path) -> Result<Self> {
        let readable =
            matches!(target.upload.format, UploadFormat::Delimited | UploadFormat::Workbook { .. });
        if !readable || !target.upload.header {
            return Err(Error::Request(
                "the practice target takes delimited files and workbooks with headings, and target.toml describes something else".into(),
            ));
        }
        let columns = target.upload_columns();
        let headings: Vec<&str> = columns.iter().map(|(_, heading)| *heading).collect();
        let is_key = |field: &Field| field.key && field.is_sent();
        let keys: Vec<usize> = columns
            .iter()
            .enumerate()
            .filter(|(_, (field, _))| field.and_then(|field| target.fields.get(field)).is_some_and(is_key))
            .map(|(place, _)| place)
            .collect();
        Ok(Self { target, manners, book: Book::open(state, &headings, &keys)?, key: keys })
    }

    /// The target that it stands in for.
    pub fn target(&self) -> &Target {
        self.target
    }

    /// How it behaves.
    pub fn manners(&self) -> &Manners {
        &self.manners
    }

    /// What it holds.
    pub fn book(&self) -> &Book {
        &self.book
    }

    /// Takes the file at a path; nothing of it is kept where it cannot be read.
    ///
    /// # Errors
    /// Why it cannot be read; whatever stops writing the book.
    pub fn take(&mut self, path: &Path, name: &str) -> Result<Judged> {
        let records = self.read(path)?;
        let mut seen: Vec<String> = Vec::new();
        let mut verdicts = Vec::new();
        for (number, record) in (1..).zip(&records) {
            let cells: Vec<String> = record.cells.iter().map(|(_, text)| text.clone()).collect();
            let key = key_of(&cells, &self.key);
            let rule = |rules: &[crate::OwnRule]| {
                rules.iter().find(|rule| rule.is_met(&record.cells)).map(|rule| rule.says.clone())
            };
            let (outcome, reason) = if let Some(says) = rule(&self.manners.refuses) {
                (AnswerOutcome::Refused, says)
            } else if !self.key.is_empty() && seen.contains(&key) {
                (AnswerOutcome::Refused, "is in this file twice".to_owned())
            } else if self.book.holds(&key) && !self.manners.overwrites {
                (AnswerOutcome::Refused, "is there already".to_owned())
            } else if let Some(says) = rule(&self.manners.warns) {
                (AnswerOutcome::Warned, says)
            } else {
                (AnswerOutcome::Loaded, String::new())
            };
            seen.push(key);
            let key = self.key.iter().map(|place| cells.get(*place).cloned().unwrap_or_default()).collect();
            verdicts.push(Verdict {
                line: record.line,
                record: number,
                key,
                outcome,
                reason,
                number: String::new(),
            });
        }
        let behaves = self.manners.behaves;
        let is_refused = |verdict: &Verdict| verdict.outcome == AnswerOutcome::Refused;
        if behaves == Behaviour::AllOrNothing && verdicts.iter().any(is_refused) {
            for verdict in verdicts.iter_mut().filter(|verdict| !is_refused(verdict)) {
                verdict.outcome = AnswerOutcome::Refused;
                verdict.reason = "another record of the file was refused".into();
            }
        }
        let most = match behaves {
            Behaviour::BreaksOff => verdicts.len() / 2,
            Behaviour::BreaksOffFirst => 0,
            _ => verdicts.len(),
        };
        for (verdict, record) in verdicts.iter_mut().zip(&records).take(most) {
            if verdict.outcome.is_in() {
                verdict.number = self.book.next_number();
                let cells = record.cells.iter().map(|(_, text)| text.clone()).collect();
                self.book.load(verdict.key.join(" + "), cells, name);
            }
        }
        self.book.write()?;
        let breaks_off = matches!(
            behaves,
            Behaviour::BreaksOff | Behaviour::LoadsAndBreaksOff | Behaviour::BreaksOffFirst
        );
        // Of what it never came to it knows nothing. It breaks off once, and is well again after that.
        verdicts.truncate(most);
        if breaks_off {
            self.manners.behaves = Behaviour::Prompt;
        }
        Ok(Judged { file: name.to_owned(), verdicts, breaks_off })
    }

    /// Reads a file exactly as the description says that it is written.
    fn read(&self, path: &Path) -> Result<Vec<Read>> {
        let upload = &self.target.upload;
        let settings = match upload.format {
            UploadFormat::Delimited => SourceSettings {
                encoding: match upload.encoding {
                    UploadEncoding::Whatwg(encoding) => Some(encoding),
                    _ => None,
                },
                delimiter: Some(upload.delimiter.clone()),
                quote: upload.quote.clone(),
                header_row: Some(1),
                ..SourceSettings::default()
            },
            _ => SourceSettings { header_row: Some(1), ..SourceSettings::default() },
        };
        let columns = self.target.upload_columns();
        let wanted: Vec<&str> =
            columns.iter().map(|(_, heading)| *heading).filter(|heading| !heading.is_empty()).collect();
        let source = Source::open(path, &settings, &Known::headings(&wanted))?;
        let mut records = Vec::new();
        let mut walk = source.walk()?;
        let mut to_skip = u64::from(upload.labels);
        while let Some(mut rows) = walk.more()? {
            while let Some(row) = rows.next() {
                if to_skip > 0 {
                    to_skip -= 1;
                    continue;
                }
                let cell = |heading: &str| {
                    source
                        .column(heading)
                        .map_or_else(String::new, |column| CellKind::of(row.cell(column)).1.to_owned())
                };
                let cells =
                    columns.iter().map(|(_, heading)| ((*heading).to_owned(), cell(heading))).collect();
                let line = if upload.format == UploadFormat::Delimited { row.line().0 } else { row.row().0 };
                records.push(Read { line, cells });
            }
        }
        Ok(records)
    }
}
