//! What is judged once all rows are known: rules over many records, and files that no record names.

use super::ordered::OrderedEnd;
use crate::BatchLimit;
use dusk_description::{FieldType, FileType};
use dusk_evidence::{CodeFact, Fault, FieldId, Finding, Line, RecordFact, Result, Row, SourceId};

impl OrderedEnd<'_, '_> {
    /// The rules over many records, now that all records are known.
    pub(crate) fn check_batch_rules(&mut self) -> Result<()> {
        let plan = &self.ready.plan;
        let name = |place: FieldId| {
            plan.fields.get(place).map_or_else(String::new, |field| field.field.name.clone())
        };
        let first = self.ready.job.sources.first();
        let header =
            first.map_or((Row(1), Line::FIRST), |source| (Row(source.header_row), source.header_line));
        let mut broken = Vec::new();
        for (rule, tally) in plan.batch_rules.iter().zip(&self.tallies) {
            for group in rule.broken(tally, self.ready.job.today, &name) {
                let whole = group.group.is_empty().then(|| "the whole batch".to_owned());
                let about = whole.unwrap_or_else(|| group.group.join(", "));
                let fact = RecordFact::BatchRuleBroken {
                    severity: rule.text.severity,
                    says: rule.text.says.clone(),
                    must: rule.text.must.clone(),
                    reckoned: group.reckoned.clone(),
                };
                let name = rule.text.name.clone();
                broken.push(Finding::new(SourceId::FIRST, header, name, about, Fault::new(fact)));
            }
        }
        for finding in &broken {
            self.note(finding)?;
        }
        Ok(())
    }

    /// What the rules over the whole batch come to, whether they hold or not.
    pub(crate) fn limits(&self) -> Vec<BatchLimit> {
        let plan = &self.ready.plan;
        let name = |place: FieldId| {
            plan.fields.get(place).map_or_else(String::new, |field| field.field.name.clone())
        };
        let rules = plan.batch_rules.iter().zip(&self.tallies);
        let limits = rules.flat_map(|(rule, tally)| {
            let groups = rule.reckoned(tally, self.ready.job.today, &name);
            groups.into_iter().filter(|group| group.group.is_empty()).map(|group| BatchLimit {
                rule: rule.text.name.clone(),
                must: rule.to_string(),
                reckoned: group.reckoned,
                is_broken: group.is_broken,
            })
        });
        limits.collect()
    }

    /// Files in the folders of file fields that no accepted record names.
    pub(crate) fn list_files_not_named(&mut self) -> Result<()> {
        let mut left = Vec::new();
        for place in &self.file_fields {
            let Some(field) = self.ready.job.target.fields.get(*place) else { continue };
            let FieldType::File(FileType { files, .. }) = &field.kind else { continue };
            for name in files
                .names()
                .into_iter()
                .filter(|name| !self.named_files.contains(&(*place, (*name).to_owned())))
            {
                let fact = CodeFact::FileNotNamed { folder: files.folder.display().to_string() };
                left.push(
                    Finding::new(
                        SourceId::FIRST,
                        (
                            Row(self.ready.job.sources.first().map_or(1, |source| source.header_row)),
                            self.ready.job.sources.first().map_or(Line::FIRST, |source| source.header_line),
                        ),
                        field.name.clone(),
                        name.to_owned(),
                        Fault::new(fact),
                    )
                    .at_field(*place),
                );
            }
        }
        left.iter().try_for_each(|finding| self.note(finding))
    }
}
