//! A batch that the command line names, with the target that it is for.

use std::path::{Path, PathBuf};

use dusk_core::delivery::Doer;
use dusk_core::description::Target;
use dusk_core::mapping;
use dusk_core::run::{PastBatch, Receipt};
use dusk_core::values::nearest;

use super::history::{batches_beside, swept_batches};
use crate::args::BatchArgs;
use crate::loaded::user_name;
use crate::outcome::Failure;

/// The batch of this name, or in this folder, among those of a mapping.
pub(super) fn named_batch<'b>(
    batches: &'b [PastBatch],
    name: &str,
    folder: &Path,
) -> Result<&'b PastBatch, Failure> {
    let wanted =
        Path::new(name).file_name().map_or_else(|| name.into(), |name| name.to_string_lossy().into_owned());
    if let Some(batch) = batches.iter().find(|batch| batch.name() == wanted) {
        return Ok(batch);
    }
    // By its day, or by a value that its run was given, as the target's own number for the load.
    let is_of = |batch: &&PastBatch| {
        batch.receipt.as_ref().is_ok_and(|receipt| {
            receipt.purpose.is_none()
                && (receipt.today == wanted || receipt.asked.values().any(|value| *value == name))
        })
    };
    let found: Vec<&PastBatch> = batches.iter().filter(is_of).collect();
    match found.as_slice() {
        [] => {}
        [only] => return Ok(only),
        several => {
            let names: Vec<String> = several.iter().map(|batch| batch.name()).collect();
            return Err(Failure::Stopped(format!(
                "{} batches are of {name}, so name one: {}",
                several.len(),
                names.join(", ")
            )));
        }
    }
    let names: Vec<String> = batches.iter().map(PastBatch::name).collect();
    let hint = match nearest(&wanted, names.iter().map(String::as_str)) {
        Some(near) => format!("did you mean {near}?"),
        None if names.is_empty() => "none was made yet".into(),
        None => format!("there are {}", names.join(", ")),
    };
    Err(Failure::Stopped(format!("there is no batch {wanted} in {}\n  {hint}", folder.display())))
}

/// A batch, all of its folder, and the target that it is for.
pub(super) struct NamedBatch {
    pub(super) batches: Vec<PastBatch>,
    at: usize,
    pub(super) target: Target,
    /// The mapping that made it, or the one of the command line.
    pub(super) mapping: PathBuf,
    /// The folder of target.toml, beside which its files are.
    pub(super) target_folder: PathBuf,
    by: String,
    moment: String,
}

impl NamedBatch {
    /// Finds a batch, and reads the description of its target as it is now.
    pub(super) fn find(name: &str, of: &BatchArgs) -> Result<Self, Failure> {
        let folder = batches_beside(&of.mapping);
        let batches = swept_batches(&folder)?;
        let wanted = named_batch(&batches, name, &folder)?.path.clone();
        let at = batches.iter().position(|batch| batch.path == wanted).unwrap_or_default();
        let mapping = batches.get(at).and_then(|batch| batch.receipt.as_ref().ok()).and_then(own_mapping);
        // The mapping of a batch may have been renamed; then the one of the command line tells the target.
        let beside = mapping.map(|mapping| of.mapping.with_file_name(mapping)).filter(|path| path.is_file());
        let (mapping, target) = mapping::read(&beside.unwrap_or_else(|| of.mapping.clone()))?;
        Ok(Self {
            batches,
            at,
            target,
            mapping: mapping.path.clone(),
            target_folder: mapping.target_path.parent().unwrap_or(Path::new("")).to_path_buf(),
            by: of.by.clone().unwrap_or_else(user_name),
            moment: of.today.map_or_else(now, |day| day.to_string()),
        })
    }

    pub(super) fn batch(&self) -> Result<&PastBatch, Failure> {
        self.batches.get(self.at).ok_or_else(|| Failure::Stopped("the batch was lost".into()))
    }

    /// Who does what is done, and when.
    pub(super) fn doer(&self) -> Doer<'_> {
        Doer { by: &self.by, at: &self.moment }
    }
}

/// The file name of the mapping that made a batch.
fn own_mapping(receipt: &Receipt) -> Option<PathBuf> {
    Path::new(&receipt.settings.first()?.file).file_name().map(PathBuf::from)
}

/// This moment, to the second (ISO 8601, UTC).
fn now() -> String {
    let moment = jiff::Timestamp::now();
    jiff::Timestamp::from_second(moment.as_second()).unwrap_or(moment).to_string()
}
