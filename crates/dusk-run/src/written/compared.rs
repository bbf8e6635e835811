//! `compared.csv`: what is new, what changes and what is gone beside the records that the target holds.

use std::path::{Path, PathBuf};

use crate::running::compared::{ChangeTally, ComparedFacts, ComparedRecord, field_name, held_key};
use crate::{Compared, Ready};
use dusk_description::Standing;
use dusk_evidence::{Id as _, Result};
use dusk_files::{ListFile, OutputFile};
use dusk_held::{HeldRecord, HeldRecords};

/// The list being written; it is begun with its first line.
#[derive(Debug)]
pub(crate) struct ComparedList<'t> {
    ready: &'t Ready<'t>,
    folder: PathBuf,
    list: Option<ListFile>,
    tally: ChangeTally,
    /// The first records, for the page about the batch.
    first: Vec<ComparedRecord>,
}

/// How many records the page shows.
const ON_PAGE: usize = 40;

impl<'t> ComparedList<'t> {
    pub(crate) fn new(folder: &Path, ready: &'t Ready<'t>) -> Self {
        Self {
            ready,
            folder: folder.to_path_buf(),
            list: None,
            tally: ChangeTally::default(),
            first: Vec::new(),
        }
    }

    /// A line for a new record, a line for each field of a changed one.
    pub(crate) fn compared(&mut self, compared: &Compared<'_>) -> Result<()> {
        if compared.standing == Standing::Same {
            return Ok(());
        }
        self.tally.take(compared);
        if compared.standing == Standing::Changed && self.first.len() < ON_PAGE {
            self.first.push(ComparedRecord::of(self.ready, compared));
        }
        let place = compared.place;
        let source =
            self.ready.job.sources.get(place.source.index()).map_or("", |source| source.name.as_str());
        let row = place.row.to_string();
        let (is, sent) = (compared.standing.word(), if compared.is_sent { "yes" } else { "no" });
        if compared.differences.is_empty() {
            return self.append([source, &row, compared.key, is, "", "", "", sent]);
        }
        for difference in compared.differences {
            let field = field_name(self.ready, difference.field);
            let (was, now) = (difference.was.as_str(), difference.now.as_str());
            self.append([source, &row, compared.key, is, field, was, now, sent])?;
        }
        Ok(())
    }

    /// A line for a held record that the export does not have.
    pub(crate) fn gone(&mut self, held: &HeldRecords, record: &HeldRecord, is_removed: bool) -> Result<()> {
        if self.first.len() < ON_PAGE {
            self.first.push(ComparedRecord::gone(self.ready, held, record, is_removed));
        }
        let list = held.lists.get(record.list).map_or("", |list| list.name.as_str());
        let key = held_key(held, record);
        let sent = if is_removed { "yes" } else { "no" };
        self.append([list, &record.row.to_string(), &key, "gone", "", "", "", sent])
    }

    fn append(&mut self, cells: [&str; 8]) -> Result<()> {
        const HEADER: [&str; 8] = ["source", "row", "key", "is", "field", "was", "now", "sent"];
        let list = match &mut self.list {
            Some(list) => list,
            none => none.insert(ListFile::create(&self.folder, "compared.csv", HEADER)?),
        };
        list.append(cells)
    }

    /// What the page about the batch shows.
    pub(crate) fn facts(&mut self) -> ComparedFacts {
        ComparedFacts { fields: self.tally.fields(), records: std::mem::take(&mut self.first) }
    }

    pub(crate) fn finish(self) -> Result<Option<OutputFile>> {
        self.list.map(ListFile::finish).transpose()
    }
}
