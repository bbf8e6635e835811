//! What becomes of each group of a batch whose upload is divided: for a page about each of them.

use std::collections::BTreeMap;

use crate::{Ready, Sent};
use dusk_conforming::{Bound, Conformer, Fit, Shape};
use dusk_evidence::{Error, FieldId, Finding, Id as _, Kind, Result, Row, SourceId};
use dusk_sources::{Rejoined, RowCells};

/// How many rejected rows a group lists.
const MOST_ROWS: usize = 500;

/// A batch seen from one group: the records that share a value of the field by which the upload is divided.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct GroupFacts {
    /// The value; nothing for rejected rows of which nobody can tell the group.
    pub value: Option<String>,
    /// The upload files that have its records.
    pub files: Vec<String>,
    /// How many records were sent.
    pub sent: u64,
    /// How many rows were rejected.
    pub rejected: u64,
    /// Why, with how many rows each cause has a part in, the largest first.
    pub causes: Vec<GroupCause>,
    /// The first of the rejected rows.
    pub rows: Vec<GroupRow>,
}

/// One reason why rows of a group were rejected.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct GroupCause {
    /// What it is about: a field, or a rule.
    pub about: String,
    /// What is wrong, as a heading.
    pub says: &'static str,
    /// In how many rows.
    pub rows: u64,
}

/// A rejected row of a group.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct GroupRow {
    /// The source.
    pub source: String,
    /// The row in it.
    pub row: Row,
    /// What was found, each with what it is about, the value, what is wrong and what would be right.
    pub findings: Vec<[String; 4]>,
}

/// Counts what becomes of each group while a batch is written.
pub(super) struct GroupCounts<'r> {
    field: FieldId,
    conformer: Conformer<'r>,
    groups: BTreeMap<Option<String>, GroupFacts>,
}

impl<'r> GroupCounts<'r> {
    /// Counts nothing yet; nothing where the upload is not divided.
    ///
    /// # Errors
    /// As [`Conformer::new`].
    pub(super) fn new(ready: &'r Ready<'r>) -> Result<Option<Self>> {
        let Some(field) = ready.job.target.upload.split_by else { return Ok(None) };
        Ok(Some(Self { field, conformer: Conformer::new(&ready.plan, false)?, groups: BTreeMap::new() }))
    }

    fn group(&mut self, value: Option<String>) -> &mut GroupFacts {
        let facts = GroupFacts { value: value.clone(), ..GroupFacts::default() };
        self.groups.entry(value).or_insert(facts)
    }

    /// A record that is sent in an upload file.
    pub(super) fn sent(&mut self, sent: &Sent<'_>, file: &str) {
        let facts = self.group(Some(sent.split.to_owned()));
        facts.sent += 1;
        if facts.files.last().is_none_or(|last| last != file) {
            facts.files.push(file.to_owned());
        }
    }

    /// A row that is rejected. Its group is what the field would hold, where that is not what is wrong with it.
    ///
    /// # Errors
    /// [`Error::Invariant`] where the source is not one of the job's.
    pub(super) fn rejected(
        &mut self,
        (ready, columns): (&Ready<'_>, &[Bound]),
        id: SourceId,
        row: &RowCells<'_>,
        findings: &[Finding],
    ) -> Result<()> {
        let lost = || Error::Invariant("a rejected row is of no source".into());
        let source = ready.job.sources.get(id.index()).ok_or_else(lost)?;
        let shape = Shape::of(source, id, columns);
        let (mut room, mut found) = (Rejoined::default(), Vec::new());
        let (whole, fit) = self.conformer.fit(*row, &shape, &mut room, &mut found);
        let told = match fit {
            Fit::Whole => self.conformer.value_alone(self.field, &whole, &shape),
            Fit::LeftOut | Fit::Rejected => None,
        };
        let value = told.filter(|told| told.faults.is_empty() && !told.unjudged);
        let value = value.map(|told| ready.job.target.split_of(self.field, told.text));
        let facts = self.group(value);
        facts.rejected += 1;
        let mut seen: Vec<(&str, Kind)> = Vec::new();
        for finding in findings {
            let kind = finding.fault.kind();
            if seen.contains(&(finding.about.as_str(), kind)) {
                continue;
            }
            seen.push((&finding.about, kind));
            let known = facts
                .causes
                .iter_mut()
                .find(|cause| cause.about == finding.about && cause.says == kind.title());
            match known {
                Some(cause) => cause.rows += 1,
                None => {
                    facts.causes.push(GroupCause {
                        about: finding.about.clone(),
                        says: kind.title(),
                        rows: 1,
                    });
                }
            }
        }
        if facts.rows.len() < MOST_ROWS {
            let findings = findings.iter().map(|finding| {
                let [wrong, right] = [finding.fault.wrong(), finding.fault.right()];
                [finding.full_about(), finding.value.clone(), wrong, right]
            });
            facts.rows.push(GroupRow {
                source: source.name.clone(),
                row: row.row(),
                findings: findings.collect(),
            });
        }
        Ok(())
    }

    /// The groups in the order of their values; rows of no group that can be told come last.
    pub(super) fn finish(self) -> Vec<GroupFacts> {
        let mut groups: Vec<GroupFacts> = self.groups.into_values().collect();
        for group in &mut groups {
            group
                .causes
                .sort_by(|one, other| other.rows.cmp(&one.rows).then_with(|| one.about.cmp(&other.about)));
        }
        groups.sort_by_key(|group| group.value.is_none());
        groups
    }
}
