//! An export against what the target holds: which records are new, which change and how, which are gone.

use std::fs::File;
use std::io::{BufRead as _, BufReader, BufWriter, Seek as _, Write as _};
use std::path::Path;

use hashbrown::HashMap;
use serde::{Deserialize, Serialize};

use crate::written::compared::{field_name, held_key};
use crate::{Compared, Ready, Sink, Summary};
use dusk_description::Standing;
use dusk_evidence::{Error, FieldId, Id as _, Result};
use dusk_held::{HeldRecord, HeldRecords};
use dusk_sources::Progress;

/// How many different changes are told apart; what comes later is counted by its field only.
const MOST_GROUPS: usize = 100_000;

/// What of a comparison is wanted.
#[derive(Debug, Clone, Default)]
pub struct ComparedWanted {
    /// Records of these kinds only; all that differ where none is named.
    pub kinds: Vec<ComparedKind>,
    /// Changes of this field only.
    pub field: Option<FieldId>,
}

/// What a record is, one of the export or one of the target.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum ComparedKind {
    /// The target does not hold it.
    New,
    /// The target holds it otherwise.
    Changed,
    /// The target holds it as it is.
    Same,
    /// The export does not have it.
    Gone,
}

impl From<Standing> for ComparedKind {
    fn from(standing: Standing) -> Self {
        match standing {
            Standing::New => Self::New,
            Standing::Changed => Self::Changed,
            Standing::Same => Self::Same,
        }
    }
}

/// One record beside what the target holds.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ComparedRecord {
    /// What it is.
    pub is: ComparedKind,
    /// The export; the target's list for one that is gone.
    pub source: String,
    /// Its row there.
    pub row: u64,
    /// Its key as people read it.
    pub key: String,
    /// Whether it is sent, or removed.
    pub sent: bool,
    /// The last batch had it already.
    pub in_last_batch: bool,
    /// Its fields: those that change, or all of one that is new or gone.
    pub fields: Vec<ComparedField>,
}

/// A field of a record, as the target holds it and as the export says it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ComparedField {
    /// The field's name.
    pub field: String,
    /// What the target holds; nothing for a new record.
    pub old: Option<String>,
    /// What the export says; nothing for one that is gone.
    pub new: Option<String>,
}

/// In how many records a field changes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FieldChanges {
    /// The field.
    pub field: FieldId,
    /// In how many records.
    pub records: u64,
    /// In how many of them it is cleared.
    pub cleared: u64,
    /// The largest groups of equal changes: what was, what is, how many records.
    pub groups: Vec<(String, String, u64)>,
}

/// What a comparison comes to.
#[derive(Debug)]
pub struct HeldComparison {
    /// The run.
    pub summary: Summary,
    /// The fields that change, the most records first.
    pub fields: Vec<FieldChanges>,
    records: File,
    /// How many records are wanted.
    pub wanted: u64,
}

impl HeldComparison {
    /// Runs an export and compares every record; nothing is written.
    ///
    /// # Errors
    /// [`Error::Request`] where nothing says what the target holds; whatever stops reading.
    pub fn of(ready: &Ready<'_>, wanted: &ComparedWanted, progress: &Progress<'_>) -> Result<Self> {
        if ready.job.held.is_none() {
            return Err(Error::Request(
                "nothing says what the target holds\n  write [holds] with file = \"…\", an export of the target, into target.toml".into(),
            ));
        }
        let file = tempfile::tempfile().map_err(Error::writing(temporary()))?;
        let mut sink = CompareSink {
            ready,
            wanted,
            writer: BufWriter::new(file),
            written: 0,
            fields: HashMap::new(),
            groups: HashMap::new(),
        };
        let summary = ready.run(&mut sink, progress)?;
        let fields = sink.fields();
        let written = sink.written;
        let records = sink.writer.into_inner().map_err(|error| Error::writing(temporary())(error.into_error()))?;
        Ok(Self { summary, fields, records, wanted: written })
    }

    /// The records that were wanted, in the order of the rows; those that are gone come last.
    ///
    /// # Errors
    /// [`Error::File`] when they cannot be read back.
    pub fn records(&self) -> Result<impl Iterator<Item = Result<ComparedRecord>>> {
        let mut file = self.records.try_clone().map_err(Error::reading(temporary()))?;
        file.rewind().map_err(Error::reading(temporary()))?;
        Ok(BufReader::new(file).lines().map(|line| {
            let line = line.map_err(Error::reading(temporary()))?;
            serde_json::from_str(&line).map_err(|error| Error::Invariant(error.to_string()))
        }))
    }
}

fn temporary() -> &'static Path {
    Path::new("the temporary folder")
}

/// Takes a comparison in.
struct CompareSink<'r> {
    ready: &'r Ready<'r>,
    wanted: &'r ComparedWanted,
    writer: BufWriter<File>,
    written: u64,
    fields: HashMap<FieldId, (u64, u64)>,
    groups: HashMap<(FieldId, String, String), u64>,
}

impl CompareSink<'_> {
    fn is_wanted(&self, is: ComparedKind) -> bool {
        match self.wanted.kinds.as_slice() {
            [] => is != ComparedKind::Same && is != ComparedKind::Gone,
            kinds => kinds.contains(&is),
        }
    }

    fn write(&mut self, record: &ComparedRecord) -> Result<()> {
        let mut line = serde_json::to_vec(record).map_err(|error| Error::Invariant(error.to_string()))?;
        line.push(b'\n');
        self.written += 1;
        self.writer.write_all(&line).map_err(Error::writing(temporary()))
    }

    fn fields(&mut self) -> Vec<FieldChanges> {
        let mut groups: Vec<_> = self.groups.drain().collect();
        groups.sort_unstable_by(|(a, many), (b, more)| more.cmp(many).then_with(|| a.cmp(b)));
        let mut fields: Vec<FieldChanges> = self
            .fields
            .drain()
            .map(|(field, (records, cleared))| {
                let own = groups.iter().filter(|((of, ..), _)| *of == field);
                let groups = own.map(|((_, was, now), count)| (was.clone(), now.clone(), *count)).collect();
                FieldChanges { field, records, cleared, groups }
            })
            .collect();
        fields.sort_unstable_by(|a, b| b.records.cmp(&a.records).then(a.field.cmp(&b.field)));
        fields
    }
}

impl Sink for CompareSink<'_> {
    fn tries_table(&self) -> bool {
        true
    }

    fn compared(&mut self, compared: &Compared<'_>) -> Result<()> {
        let is_changed = compared.standing == Standing::Changed;
        for difference in compared.differences.iter().filter(|_| is_changed) {
            let (records, cleared) = self.fields.entry(difference.field).or_default();
            *records += 1;
            *cleared += u64::from(difference.now.is_empty());
            let group = (difference.field, difference.was.clone(), difference.now.clone());
            if self.groups.len() < MOST_GROUPS || self.groups.contains_key(&group) {
                *self.groups.entry(group).or_default() += 1;
            }
        }
        let touches = |field: FieldId| compared.differences.iter().any(|difference| difference.field == field);
        if !self.is_wanted(compared.standing.into()) || self.wanted.field.is_some_and(|field| !touches(field)) {
            return Ok(());
        }
        let ready = self.ready;
        let source = ready.job.sources.get(compared.place.source.index());
        let fields = compared.differences.iter().map(|difference| ComparedField {
            field: field_name(ready, difference.field).to_owned(),
            old: is_changed.then(|| difference.was.clone()),
            new: Some(difference.now.clone()),
        });
        let record = ComparedRecord {
            is: compared.standing.into(),
            source: source.map_or_else(String::new, |source| source.name.clone()),
            row: compared.place.row.0,
            key: compared.key.to_owned(),
            sent: compared.is_sent,
            in_last_batch: compared.is_again,
            fields: fields.collect(),
        };
        self.write(&record)
    }

    fn lists_gone(&self) -> bool {
        self.is_wanted(ComparedKind::Gone)
    }

    fn gone(&mut self, held: &HeldRecords, record: &HeldRecord, is_removed: bool) -> Result<()> {
        let ready = self.ready;
        let known = held.fields.iter().zip(&record.texts).filter(|(_, text)| !text.is_empty());
        let fields = known.map(|(field, text)| ComparedField {
            field: field_name(ready, *field).to_owned(),
            old: Some(text.clone()),
            new: None,
        });
        self.write(&ComparedRecord {
            is: ComparedKind::Gone,
            source: held.lists.get(record.list).map_or_else(String::new, |list| list.name.clone()),
            row: record.row.0,
            key: held_key(held, record),
            sent: is_removed,
            in_last_batch: false,
            fields: fields.collect(),
        })
    }
}
