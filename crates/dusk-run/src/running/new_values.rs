//! `new-values.csv`: the companion list of values that nothing matches.

use std::collections::BTreeMap;
use std::path::Path;

use dusk_evidence::{Finding, Id as _, Kind, Result, Row, SourceId};
use dusk_files::{ListFile, OutputFile};
use dusk_sources::Source;

/// `new-values.csv`: values that nothing matches, each once, for whoever keeps the target's lists. The
/// column `code` is left for their answer. The list grows with the different values only.
#[derive(Debug, Default)]
pub(crate) struct NewValues {
    values: BTreeMap<(String, String), NewValue>,
}

/// What is known of a new value.
#[derive(Debug)]
struct NewValue {
    kind: Kind,
    count: u64,
    source: SourceId,
    row: Row,
}

impl NewValues {
    pub(crate) fn note(&mut self, finding: &Finding) {
        let kind = finding.fault.kind();
        if !matches!(kind, Kind::UnknownReference | Kind::NewTerm | Kind::LeftBlank | Kind::KeptUnmatched) {
            return;
        }
        let value = finding.fault.part.as_ref().unwrap_or(&finding.value).clone();
        let known = self.values.entry((finding.about.clone(), value));
        known.or_insert(NewValue { kind, count: 0, source: finding.source, row: finding.row }).count += 1;
    }

    /// Writes the list; nothing where no value is new.
    pub(crate) fn write(self, folder: &Path, sources: &[Source]) -> Result<Option<OutputFile>> {
        if self.values.is_empty() {
            return Ok(None);
        }
        let mut list = ListFile::create(
            folder,
            "new-values.csv",
            ["field", "value", "code", "finding", "rows", "source", "first row"],
        )?;
        for ((field, value), new) in &self.values {
            let source = sources.get(new.source.index()).map_or("", |source| source.name.as_str());
            let (count, row) = (new.count.to_string(), new.row.to_string());
            list.append([field.as_str(), value, "", new.kind.code(), &count, source, &row])?;
        }
        list.finish().map(Some)
    }
}
