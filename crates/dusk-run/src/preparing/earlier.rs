//! What the same records had in an earlier batch, as an answer that is likely for a value rejected now.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use hashbrown::HashMap;

use crate::{Ready, Receipt};
use dusk_conforming::{Conformer, Fit, Shape};
use dusk_evidence::{Cause, FieldId, Result, Row, SettledBy, SourceId};
use dusk_files::OutputFile;
use dusk_sources::{Rejoined, rows_where};

/// For how many causes earlier batches are asked.
const FEW: usize = 30;

/// A cause's field and the keys of the first records that have it.
type Wanted = (FieldId, Vec<Vec<String>>);

impl Ready<'_> {
    /// Notes with each of the largest causes what the same records had in the field, where an earlier batch
    /// has them and they agree.
    ///
    /// # Errors
    /// Whatever stops reading the sources. An earlier batch that cannot be read any more tells nothing.
    pub fn ask_earlier(&self, causes: &mut [Cause], batch: &Path, receipt: &Receipt) -> Result<()> {
        let key: Vec<FieldId> =
            self.plan.fields.with_ids().filter(|(_, plan)| plan.field.key).map(|(place, _)| place).collect();
        let uploads: Vec<_> =
            receipt.outputs.iter().filter(|output| output.file.starts_with("upload/")).collect();
        let asked = |cause: &Cause| {
            cause.kind.settled_by() == SettledBy::ListLine
                && cause.value.as_ref().is_some_and(|value| !value.is_empty())
        };
        if key.is_empty() || uploads.is_empty() || !causes.iter().take(FEW).any(asked) {
            return Ok(());
        }
        let mut rows: BTreeSet<(SourceId, Row)> = BTreeSet::new();
        for cause in causes.iter().take(FEW).filter(|cause| asked(cause)) {
            rows.extend(cause.first.iter().map(|place| (place.source, place.row)));
        }
        let keys = self.keys_of(&rows, &key)?;
        let wanted: Vec<Option<Wanted>> = causes
            .iter()
            .take(FEW)
            .map(|cause| {
                let field = cause.field.filter(|_| asked(cause))?;
                let known =
                    cause.first.iter().filter_map(|place| keys.get(&(place.source, place.row)).cloned());
                Some((field, known.collect()))
            })
            .collect();
        let fields: BTreeSet<FieldId> = wanted.iter().flatten().map(|(field, _)| *field).collect();
        let fields: Vec<FieldId> = fields.into_iter().collect();
        let all_keys: BTreeSet<&Vec<String>> = wanted.iter().flatten().flat_map(|(_, keys)| keys).collect();
        let Some(had) = self.had(batch, &uploads, (&key, &fields), &all_keys) else { return Ok(()) };
        for (cause, wanted) in causes.iter_mut().zip(&wanted) {
            let Some((field, keys)) = wanted else { continue };
            let Some(place) = fields.iter().position(|known| known == field) else { continue };
            let values = keys.iter().filter_map(|key| had.get(key)?.get(place));
            let values: BTreeSet<&String> = values.filter(|value| !value.is_empty()).collect();
            if let [only] = values.into_iter().collect::<Vec<_>>().as_slice() {
                cause.earlier = Some(((*only).clone(), receipt.batch.clone()));
            }
        }
        Ok(())
    }

    /// What the records with these keys had in these fields; nothing where a file cannot be read.
    fn had(
        &self,
        batch: &Path,
        uploads: &[&OutputFile],
        (key, fields): (&[FieldId], &[FieldId]),
        wanted: &BTreeSet<&Vec<String>>,
    ) -> Option<HashMap<Vec<String>, Vec<String>>> {
        let names = |place: &FieldId| {
            let plan = self.plan.fields.get(*place);
            plan.map_or(["", ""], |plan| [plan.field.heading(), plan.field.name.as_str()])
        };
        let names: Vec<[&str; 2]> = key.iter().chain(fields).map(names).collect();
        let columns: Vec<&[&str]> = names.iter().map(<[&str; 2]>::as_slice).collect();
        // Most records are told from those that are wanted by the first part of their key.
        let mut by_first: HashMap<&str, Vec<&Vec<String>>> = HashMap::new();
        for key in wanted {
            by_first.entry(key.first()?.as_str()).or_default().push(key);
        }
        let is_wanted = |cells: &[&str]| {
            let likely = cells.first().and_then(|first| by_first.get(*first));
            likely.is_some_and(|keys| {
                keys.iter().any(|key| key.iter().zip(cells).all(|(key, cell)| key == cell))
            })
        };
        let mut had = HashMap::new();
        for upload in uploads {
            let path = batch.join(&upload.file);
            let found = rows_where(&path, &columns, self.job.threads, is_wanted).ok()?;
            had.extend(found.into_iter().map(|mut cells| {
                let values = cells.split_off(key.len().min(cells.len()));
                (cells, values)
            }));
        }
        Some(had)
    }

    /// The keys of some rows, as the upload has them.
    fn keys_of(
        &self,
        wanted: &BTreeSet<(SourceId, Row)>,
        key: &[FieldId],
    ) -> Result<BTreeMap<(SourceId, Row), Vec<String>>> {
        let mut keys = BTreeMap::new();
        let mut conformer = Conformer::new(&self.plan, false)?;
        for (place, source) in self.job.sources_with_ids() {
            let columns = self.plan.bind(source)?;
            let shape = Shape::of(source, place, &columns);
            let last = wanted.iter().filter(|(source, _)| *source == place).map(|(_, row)| *row).max();
            let Some(last) = last else { continue };
            let mut walk = source.walk()?;
            'source: while let Some(mut rows) = walk.more()? {
                while let Some(row) = rows.next() {
                    if row.row() > last {
                        break 'source;
                    }
                    if !wanted.contains(&(place, row.row())) {
                        continue;
                    }
                    let (mut room, mut findings) = (Rejoined::default(), Vec::new());
                    let (whole, fit) = conformer.fit(row, &shape, &mut room, &mut findings);
                    if fit != Fit::Whole {
                        continue;
                    }
                    conformer.judge(&whole, &shape, &mut findings);
                    if conformer.key().is_some() {
                        let text = |field: &FieldId| {
                            conformer.outcome(*field).map_or_else(String::new, |told| told.text.to_owned())
                        };
                        keys.insert((place, row.row()), key.iter().map(text).collect());
                    }
                }
            }
        }
        Ok(keys)
    }
}
