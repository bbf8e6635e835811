//! `records.bin`: by what the batch's records are known next month, and `records-again.csv`: those that the last batch
//! had already.

use std::path::{Path, PathBuf};

use crate::{Again, Place, Ready};
use dusk_evidence::{Error, Id as _, Result};
use dusk_files::{ListFile, Output, OutputFile};
use dusk_memory::{KnownRecords, RecordHash};

/// The file of the records' hashes.
const FILE: &str = "records.bin";

/// The records of the batch at `folder`; nothing where it has no key, was made before batches kept them, or the file
/// is damaged.
pub(crate) fn known_records(folder: &Path) -> Option<KnownRecords> {
    KnownRecords::read(&std::fs::read(folder.join(FILE)).ok()?)
}

/// Both files being written.
#[derive(Debug)]
pub(crate) struct RecordFiles<'t> {
    ready: &'t Ready<'t>,
    folder: PathBuf,
    /// Begun with the first record that has a key.
    records: Option<Output>,
    /// Begun with the first that the last batch had.
    again: Option<ListFile>,
}

impl<'t> RecordFiles<'t> {
    pub(crate) fn new(folder: &Path, ready: &'t Ready<'t>) -> Self {
        Self { ready, folder: folder.to_path_buf(), records: None, again: None }
    }

    pub(crate) fn record(&mut self, record: RecordHash) -> Result<()> {
        let output = match &mut self.records {
            Some(output) => output,
            none => {
                let output = none.insert(Output::create(&self.folder, FILE)?);
                output.append(RecordHash::head())?;
                output
            }
        };
        output.append(&record.to_bytes())
    }

    pub(crate) fn again(&mut self, place: Place, key: &str, again: Again) -> Result<()> {
        let list = match &mut self.again {
            Some(list) => list,
            none => none.insert(ListFile::create(
                &self.folder,
                "records-again.csv",
                ["source", "row", "key", "in the last batch"],
            )?),
        };
        let source = self.ready.job.sources.get(place.source.index());
        let source = source.ok_or_else(|| Error::Invariant("the source of a record was lost".into()))?;
        list.append([source.name.as_str(), &place.row.to_string(), key, again.word()])
    }

    pub(crate) fn finish(self) -> Result<Vec<OutputFile>> {
        let again = self.again.map(ListFile::finish).transpose()?;
        let records = self.records.map(Output::finish).transpose()?;
        Ok(again.into_iter().chain(records.map(|file| OutputFile { rows: None, ..file })).collect())
    }
}
