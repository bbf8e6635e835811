//! The upload files of a batch read back: what the records in them come to, and what they are beside what the target
//! holds by now.

use std::collections::BTreeSet;
use std::io::Write as _;
use std::path::Path;

use jiff::civil::Date;
use tempfile::NamedTempFile;

use super::compare::{ComparedWanted, HeldComparison};
use crate::preparing::held::OpenList;
use crate::running::compared::ComparedRecord;
use crate::{ComparedKind, FieldTotal, Job, MadeBatch, NewBatch, ToldBeside, write_batch};
use dusk_description::{Target, UploadEncoding, UploadFormat};
use dusk_evidence::{Error, FieldId, Id as _, Result, Row, SourceId};
use dusk_files::{Piece, Template};
use dusk_held::HeldRecords;
use dusk_mapping::{Feed, Map};
use dusk_sources::{Progress, Threads};

/// An upload file, open to be read back.
pub struct Uploaded<'t> {
    target: &'t Target,
    list: OpenList,
    /// What is read instead, where the file itself has no headings.
    kept: Option<NamedTempFile>,
    today: Date,
    threads: Threads,
    /// The row of its first record.
    first: u64,
}

impl<'t> Uploaded<'t> {
    /// Opens an upload file.
    ///
    /// # Errors
    /// [`Error::Request`] for a form that cannot be read back; whatever stops reading.
    pub fn open(path: &Path, target: &'t Target, today: Date, threads: Threads) -> Result<Self> {
        let encoding = match target.upload.encoding {
            UploadEncoding::Whatwg(encoding) => Some(encoding),
            _ => None,
        };
        let is_text = matches!(target.upload.format, UploadFormat::Delimited | UploadFormat::FixedWidth);
        let encoding = encoding.filter(|_| is_text);
        let kept = as_list(path, target)?;
        let read = kept.as_ref().map_or(path, NamedTempFile::path);
        let mut list = OpenList::own(read, target, encoding)?;
        list.source.name = path.display().to_string();
        list.take_own_orders(target);
        let labels = u64::from(target.upload.labels && kept.is_none());
        let first = list.source.header_row + list.source.header_rows + labels;
        Ok(Self { target, list, kept, today, threads, first })
    }

    /// The row of a record by its number, from 1.
    pub fn row_of(&self, record: u64) -> Row {
        Row(self.first + record.saturating_sub(1))
    }

    /// The number of the record in a row, from 1.
    pub fn record_in(&self, row: u64) -> Option<u64> {
        (row + 1).checked_sub(self.first).filter(|record| *record > 0)
    }

    fn job<'j>(
        &'j self,
        held: Option<&'j HeldRecords>,
        only_rows: Option<&'j BTreeSet<(SourceId, Row)>>,
    ) -> Job<'j> {
        Job {
            only_rows,
            held,
            told: ToldBeside::Same,
            ..Job::new(
                self.target,
                &self.list.mapping,
                std::slice::from_ref(&self.list.source),
                self.today,
                self.threads,
            )
        }
    }

    /// What the records in some rows come to, field by field.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn totals(
        &self,
        rows: &BTreeSet<(SourceId, Row)>,
        progress: &Progress<'_>,
    ) -> Result<Vec<FieldTotal>> {
        let job = self.job(None, Some(rows));
        let (_, summary) = job.work(&|_, _| {}, |ready| ready.check_and_add_up(progress))?;
        if summary.totals.rejected > 0 {
            return Err(self.not_as_written(summary.totals.rejected));
        }
        Ok(summary.field_totals)
    }

    /// What its records are beside what the target holds by now, each with its row.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn beside(&self, held: &HeldRecords, progress: &Progress<'_>) -> Result<Vec<ComparedRecord>> {
        let job = self.job(Some(held), None);
        let kinds = vec![ComparedKind::New, ComparedKind::Changed, ComparedKind::Same];
        let wanted = ComparedWanted { kinds, field: None };
        let (_, comparison) = job.work(&|_, _| {}, |ready| HeldComparison::of(ready, &wanted, progress))?;
        comparison.records()?.collect()
    }

    /// The mapping of its own columns.
    pub fn mapping(&self) -> &dusk_mapping::Mapping {
        &self.list.mapping
    }

    fn not_as_written(&self, rows: u64) -> Error {
        Error::Request(format!(
            "{rows} rows of {} do not fit target.toml as it is now, so the totals of the file are not known\n  dusk check tells why; was the description changed since?",
            self.list.source.name
        ))
    }
}

/// A list with headings that says what an upload file says: where the file is none itself, as JSON Lines or a table
/// without headings. Nothing where it is one.
fn as_list(path: &Path, target: &Target) -> Result<Option<NamedTempFile>> {
    let cannot = |why: &str| Error::Request(format!("{} cannot be read back, since {why}", path.display()));
    let headings = target.headings();
    let text = match (&target.upload.format, target.upload.header) {
        (UploadFormat::Delimited | UploadFormat::Workbook { .. }, true) => return Ok(None),
        (UploadFormat::FixedWidth | UploadFormat::Xml { .. } | UploadFormat::Iso2709 { .. }, _) => {
            return Ok(None);
        }
        (UploadFormat::Delimited, false) => {
            let UploadEncoding::Whatwg(encoding) = target.upload.encoding else {
                return Err(cannot("it has no headings and is in UTF-16"));
            };
            let head = headings.join(&target.upload.delimiter) + target.upload.line_end;
            let mut bytes = encoding.encode(&head).0.into_owned();
            bytes.extend(std::fs::read(path).map_err(Error::reading(path))?);
            bytes
        }
        (UploadFormat::JsonLines, _) => csv_of_json(path, &headings)?,
        _ => return Err(cannot("a sheet without headings says of no cell which field it is")),
    };
    let place = Path::new("the temporary folder");
    let mut kept = NamedTempFile::new().map_err(Error::writing(place))?;
    kept.write_all(&text).and_then(|()| kept.flush()).map_err(Error::writing(place))?;
    Ok(Some(kept))
}

/// JSON Lines as a comma-separated table.
fn csv_of_json(path: &Path, headings: &[&str]) -> Result<Vec<u8>> {
    /// More digits than these are not kept exactly by a JSON number as it is read.
    const MOST_DIGITS: usize = 15;
    let text = std::fs::read_to_string(path).map_err(Error::reading(path))?;
    let wrong = |line: usize, says: &str| Error::Request(format!("{}, line {line}: {says}", path.display()));
    let mut writer = csv::Writer::from_writer(Vec::new());
    let invariant = |error: csv::Error| Error::Invariant(error.to_string());
    writer.write_record(headings).map_err(invariant)?;
    for (number, line) in (1..).zip(text.lines()) {
        let object: serde_json::Map<String, serde_json::Value> =
            serde_json::from_str(line).map_err(|_| wrong(number, "is not a JSON object"))?;
        for heading in headings {
            let cell = match object.get(*heading) {
                Some(serde_json::Value::String(text)) => text.clone(),
                Some(serde_json::Value::Bool(is)) => is.to_string(),
                Some(serde_json::Value::Number(value)) => value.to_string(),
                _ => String::new(),
            };
            let is_number = object.get(*heading).is_some_and(serde_json::Value::is_number);
            if is_number && cell.bytes().filter(u8::is_ascii_digit).count() > MOST_DIGITS {
                return Err(wrong(
                    number,
                    "has a number of more than 15 digits, which cannot be read back exactly",
                ));
            }
            writer.write_field(cell).map_err(invariant)?;
        }
        writer.write_record(None::<&[u8]>).map_err(invariant)?;
    }
    writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))
}

/// A small upload about records that were sent before: fields set, or the records removed.
#[derive(Debug, Clone, Copy)]
pub struct FollowUp<'f> {
    /// Fields that get another value in all of them.
    pub set: &'f [(FieldId, String)],
    /// They are removed.
    pub removes: bool,
    /// The mapping beside which the batch goes.
    pub mapping: &'f Path,
    /// What it is for, in a few words.
    pub purpose: &'f str,
}

/// Writes a batch of its own for records of upload files: of each file those in some rows.
///
/// # Errors
/// [`Error::Request`] where the target cannot be told to remove records, or a record is not what the description says
/// any more; whatever stops reading or writing.
pub fn write_follow_up(
    uploads: Vec<(Uploaded<'_>, BTreeSet<Row>)>,
    follow_up: FollowUp<'_>,
    (path, by): (&Path, &str),
    progress: &Progress<'_>,
) -> Result<MadeBatch> {
    let lost = || Error::Request("no upload file is named".into());
    let (first, _) = uploads.first().ok_or_else(lost)?;
    let (target, today, threads) = (first.target, first.today, first.threads);
    let mut mapping = first.list.mapping.clone();
    mapping.path = follow_up.mapping.to_path_buf();
    let mut set: Vec<(FieldId, String)> = follow_up.set.to_vec();
    for (id, field) in target.fields.with_ids() {
        let Some(words) = &field.operation else { continue };
        let word = if follow_up.removes { words.gone.clone() } else { Some(words.changed.clone()) };
        set.extend(word.map(|word| (id, word)));
    }
    let says_so = |(id, _): &(FieldId, String)| {
        target
            .fields
            .get(*id)
            .is_some_and(|field| field.operation.as_ref().is_some_and(|words| words.gone.is_some()))
    };
    if follow_up.removes && !set.iter().any(says_so) {
        return Err(Error::Request(
            "the target cannot remove records by an upload: no field has its word for that\n  write for example operation = { new = \"I\", changed = \"U\", gone = \"D\" } in target.toml".into(),
        ));
    }
    for (field, value) in set {
        mapping.maps.retain(|map| map.field != field);
        mapping.maps.push(Map::fed_by(field, Feed::Constant(Template { pieces: vec![Piece::Text(value)] })));
    }
    let mut rows = BTreeSet::new();
    let (mut sources, mut kept) = (Vec::new(), Vec::new());
    for (place, (upload, own)) in uploads.into_iter().enumerate() {
        rows.extend(own.into_iter().map(|row| (SourceId::new(place), row)));
        sources.push(upload.list.source);
        // What is read instead of a file is there until the batch is written.
        kept.extend(upload.kept);
    }
    let job = Job { only_rows: Some(&rows), ..Job::new(target, &mapping, &sources, today, threads) };
    let batch = NewBatch { by, purpose: Some(follow_up.purpose), may_be_empty: false, ..NewBatch::at(path) };
    let (_, made) = job.work(&|_, _| {}, |ready| {
        let summary = ready.check(&|_, _| {})?;
        match summary.causes.first() {
            None => write_batch(ready, &batch, progress),
            Some(cause) => {
                let value = cause.value.clone().unwrap_or_else(|| cause.example.clone());
                Err(Error::Request(format!(
                    "{}: \"{value}\" {}; nothing was written",
                    cause.about,
                    cause.fault.wrong()
                )))
            }
        }
    })?;
    Ok(made)
}
