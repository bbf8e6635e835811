//! Records beside those that the target holds, one by one, and how often each field changes.

use hashbrown::HashMap;
use serde::{Deserialize, Serialize};

use crate::{Compared, Ready};
use dusk_description::Standing;
use dusk_evidence::{FieldId, Id as _};
use dusk_held::{HeldRecord, HeldRecords};

/// How many different changes are told apart; what comes later is counted by its field only.
const MOST_GROUPS: usize = 100_000;

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

impl ComparedRecord {
    /// An accepted record.
    pub(crate) fn of(ready: &Ready<'_>, compared: &Compared<'_>) -> Self {
        let is_changed = compared.standing == Standing::Changed;
        let source = ready.job.sources.get(compared.place.source.index());
        let fields = compared.differences.iter().map(|difference| ComparedField {
            field: field_name(ready, difference.field).to_owned(),
            old: is_changed.then(|| difference.was.clone()),
            new: Some(difference.now.clone()),
        });
        Self {
            is: compared.standing.into(),
            source: source.map_or_else(String::new, |source| source.name.clone()),
            row: compared.place.row.0,
            key: compared.key.to_owned(),
            sent: compared.is_sent,
            in_last_batch: compared.is_again,
            fields: fields.collect(),
        }
    }

    /// A held record that no row is.
    pub(crate) fn gone(ready: &Ready<'_>, held: &HeldRecords, record: &HeldRecord, is_removed: bool) -> Self {
        let known = held.fields.iter().zip(&record.texts).filter(|(_, text)| !text.is_empty());
        let fields = known.map(|(field, text)| ComparedField {
            field: field_name(ready, *field).to_owned(),
            old: Some(text.clone()),
            new: None,
        });
        Self {
            is: ComparedKind::Gone,
            source: held.lists.get(record.list).map_or_else(String::new, |list| list.name.clone()),
            row: record.row.0,
            key: held_key(held, record),
            sent: is_removed,
            in_last_batch: false,
            fields: fields.collect(),
        }
    }
}

/// The key of a held record as people read it.
pub(crate) fn held_key(held: &HeldRecords, record: &HeldRecord) -> String {
    let way = held.ways.last().map_or(&[][..], |way| way.by.fields.as_slice());
    let parts: Vec<&str> = way.iter().filter_map(|field| record.text(held, *field)).collect();
    parts.join(" + ")
}

pub(crate) fn field_name<'r>(ready: &'r Ready<'_>, field: FieldId) -> &'r str {
    ready.plan.fields.get(field).map_or("", |plan| plan.field.name.as_str())
}

/// Counts how often each field changes, and how often from one value to another.
#[derive(Debug, Default)]
pub(crate) struct ChangeTally {
    /// For each field, in how many records it changes, and is cleared.
    fields: HashMap<FieldId, (u64, u64)>,
    groups: HashMap<(FieldId, String, String), u64>,
}

impl ChangeTally {
    /// Takes in what a record changes.
    pub(crate) fn take(&mut self, compared: &Compared<'_>) {
        if compared.standing != Standing::Changed {
            return;
        }
        for difference in compared.differences {
            let (records, cleared) = self.fields.entry(difference.field).or_default();
            *records += 1;
            *cleared += u64::from(difference.now.is_empty());
            let group = (difference.field, difference.was.clone(), difference.now.clone());
            if self.groups.len() < MOST_GROUPS || self.groups.contains_key(&group) {
                *self.groups.entry(group).or_default() += 1;
            }
        }
    }

    /// The fields that change, the most records first.
    pub(crate) fn fields(&self) -> Vec<FieldChanges> {
        let mut groups: Vec<_> = self.groups.iter().collect();
        groups.sort_unstable_by(|(a, many), (b, more)| more.cmp(many).then_with(|| a.cmp(b)));
        let of_field = |field: FieldId| {
            let own = groups.iter().filter(|((of, ..), _)| *of == field);
            own.map(|((_, was, now), count)| (was.clone(), now.clone(), **count)).collect()
        };
        let fields = self.fields.iter();
        let mut fields: Vec<FieldChanges> = fields
            .map(|(field, (records, cleared))| FieldChanges {
                field: *field,
                records: *records,
                cleared: *cleared,
                groups: of_field(*field),
            })
            .collect();
        fields.sort_unstable_by(|a, b| b.records.cmp(&a.records).then(a.field.cmp(&b.field)));
        fields
    }
}

/// What a page about a batch shows of a comparison.
#[derive(Debug, Default)]
pub struct ComparedFacts {
    /// The fields that change, the most records first.
    pub fields: Vec<FieldChanges>,
    /// The first records that change or are gone.
    pub records: Vec<ComparedRecord>,
}
