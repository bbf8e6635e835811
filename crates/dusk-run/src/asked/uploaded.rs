//! The upload files of a batch read back: what the records in them come to, and what they are beside what the target
//! holds by now.

use std::collections::BTreeSet;
use std::path::Path;

use jiff::civil::Date;

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
        let cannot =
            |why: &str| Error::Request(format!("{} cannot be read back, since {why}", path.display()));
        if !target.upload.header {
            return Err(cannot("the upload file has no headings"));
        }
        if !matches!(target.upload.format, UploadFormat::Delimited | UploadFormat::Workbook { .. }) {
            return Err(cannot("only delimited files and workbooks are"));
        }
        let encoding = match target.upload.encoding {
            UploadEncoding::Whatwg(encoding) => Some(encoding),
            _ => None,
        };
        let encoding = encoding.filter(|_| target.upload.format == UploadFormat::Delimited);
        let mut list = OpenList::own(path, target, encoding)?;
        list.take_own_orders(target);
        let first = list.source.header_row + list.source.header_rows + u64::from(target.upload.labels);
        Ok(Self { target, list, today, threads, first })
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
            target: self.target,
            mapping: &self.list.mapping,
            sources: std::slice::from_ref(&self.list.source),
            asked: &[],
            today: self.today,
            threads: self.threads,
            last_orders: None,
            known_records: None,
            sent_before: None,
            only_rows,
            held,
            told: ToldBeside::Same,
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
            "{rows} rows of {} are not what target.toml describes now, so what the file comes to cannot be told\n  dusk check tells why; was the description changed since?",
            self.list.source.name
        ))
    }
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
            "the target cannot be told to remove records: no field has its word for that\n  write for example operation = { new = \"I\", changed = \"U\", gone = \"D\" } in target.toml".into(),
        ));
    }
    for (field, value) in set {
        mapping.maps.retain(|map| map.field != field);
        mapping.maps.push(Map::fed_by(field, Feed::Constant(Template { pieces: vec![Piece::Text(value)] })));
    }
    let mut rows = BTreeSet::new();
    let mut sources = Vec::new();
    for (place, (upload, own)) in uploads.into_iter().enumerate() {
        rows.extend(own.into_iter().map(|row| (SourceId::new(place), row)));
        sources.push(upload.list.source);
    }
    let job = Job {
        target,
        mapping: &mapping,
        sources: &sources,
        asked: &[],
        today,
        threads,
        last_orders: None,
        known_records: None,
        sent_before: None,
        only_rows: Some(&rows),
        held: None,
        told: ToldBeside::default(),
    };
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
