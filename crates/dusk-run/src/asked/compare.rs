//! An export against what the target holds: which records are new, which change and how, which are gone.

use std::fs::File;
use std::io::{BufRead as _, BufReader, BufWriter, Seek as _, Write as _};
use std::path::Path;

use crate::running::compared::{ChangeTally, ComparedKind, ComparedRecord, FieldChanges};
use crate::{Compared, Ready, Sink, Summary};
use dusk_evidence::{Error, FieldId, Result};
use dusk_held::{HeldRecord, HeldRecords};
use dusk_sources::Progress;

/// What of a comparison is wanted.
#[derive(Debug, Clone, Default)]
pub struct ComparedWanted {
    /// Records of these kinds only; all that differ where none is named.
    pub kinds: Vec<ComparedKind>,
    /// Changes of this field only.
    pub field: Option<FieldId>,
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
            tally: ChangeTally::default(),
        };
        let summary = ready.run(&mut sink, progress)?;
        let fields = sink.tally.fields();
        let written = sink.written;
        let records =
            sink.writer.into_inner().map_err(|error| Error::writing(temporary())(error.into_error()))?;
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
    tally: ChangeTally,
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
}

impl Sink for CompareSink<'_> {
    fn tries_table(&self) -> bool {
        true
    }

    fn compared(&mut self, compared: &Compared<'_>) -> Result<()> {
        self.tally.take(compared);
        let touches =
            |field: FieldId| compared.differences.iter().any(|difference| difference.field == field);
        if !self.is_wanted(compared.standing.into()) || self.wanted.field.is_some_and(|field| !touches(field))
        {
            return Ok(());
        }
        let record = ComparedRecord::of(self.ready, compared);
        self.write(&record)
    }

    fn lists_gone(&self) -> bool {
        self.is_wanted(ComparedKind::Gone)
    }

    fn gone(&mut self, held: &HeldRecords, record: &HeldRecord, is_removed: bool) -> Result<()> {
        self.write(&ComparedRecord::gone(self.ready, held, record, is_removed))
    }
}
