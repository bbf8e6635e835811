//! `compared.csv`: what is new, what changes and what is gone beside the records that the target holds.

use std::path::{Path, PathBuf};

use crate::{Compared, Ready};
use dusk_description::Standing;
use dusk_evidence::{FieldId, Id as _, Result};
use dusk_files::{ListFile, OutputFile};
use dusk_held::{HeldRecord, HeldRecords};

/// The list being written; it is begun with its first line.
#[derive(Debug)]
pub(crate) struct ComparedList<'t> {
    ready: &'t Ready<'t>,
    folder: PathBuf,
    list: Option<ListFile>,
}

impl<'t> ComparedList<'t> {
    pub(crate) fn new(folder: &Path, ready: &'t Ready<'t>) -> Self {
        Self { ready, folder: folder.to_path_buf(), list: None }
    }

    /// A line for a new record, a line for each field of a changed one.
    pub(crate) fn compared(&mut self, compared: &Compared<'_>) -> Result<()> {
        if compared.standing == Standing::Same {
            return Ok(());
        }
        let place = compared.place;
        let source = self.ready.job.sources.get(place.source.index()).map_or("", |source| source.name.as_str());
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

    pub(crate) fn finish(self) -> Result<Option<OutputFile>> {
        self.list.map(ListFile::finish).transpose()
    }
}

/// The key of a held record as people read it.
pub(crate) fn held_key(held: &HeldRecords, record: &HeldRecord) -> String {
    let way = held.ways.last().map_or(&[][..], |way| way.fields.as_slice());
    let parts: Vec<&str> = way.iter().filter_map(|field| record.text(held, *field)).collect();
    parts.join(" + ")
}

pub(crate) fn field_name<'r>(ready: &'r Ready<'_>, field: FieldId) -> &'r str {
    ready.plan.fields.get(field).map_or("", |plan| plan.field.name.as_str())
}
