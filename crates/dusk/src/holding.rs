//! Files of decisions, held while they are read and written, so that two runs at once lose nothing. Where a drive
//! cannot lock files, that is said.

use std::path::Path;

use dusk_core::decisions::{CorrectionFile, Crosswalk, crosswalk_path};
use dusk_core::description::Field;
use dusk_core::files::Held;

use crate::outcome::{Failure, note};

/// The crosswalk of a field, as it is now; `among` others that are held already.
pub(crate) fn hold_crosswalk(
    mapping: &Path,
    field: &Field,
    among: Option<&Held>,
) -> Result<(Held, Crosswalk), Failure> {
    let (held, crosswalk) = Crosswalk::hold(&crosswalk_path(mapping, &field.name), field, among)?;
    say_what_was_met(&held);
    Ok((held, crosswalk))
}

/// The corrections in a file, as they are now; `among` others that are held already.
pub(crate) fn hold_corrections(path: &Path, among: Option<&Held>) -> Result<(Held, CorrectionFile), Failure> {
    let (held, file) = CorrectionFile::hold(path, among)?;
    say_what_was_met(&held);
    Ok((held, file))
}

/// Holds a file that is written anew.
pub(crate) fn hold_file(path: &Path) -> Result<Held, Failure> {
    let held = Held::file(path)?;
    say_what_was_met(&held);
    Ok(held)
}

fn say_what_was_met(held: &Held) {
    held.unlocked().into_iter().for_each(note);
    for swept in held.swept() {
        note(&format!("what a run left that was ended in the middle was taken away: {}", swept.display()));
    }
}
