//! A decision, and the lines that it has written into the steward's files, so that they are taken back to the byte, and
//! nothing of what others have recorded since.

use std::path::{Path, PathBuf};

use dusk_core::Error;
use dusk_core::decisions::{Correction, CrosswalkLine, RowHash};
use dusk_core::evidence::{ColumnId, FieldId, Row, SourceId};
use dusk_core::files::Held;

use crate::holding::hold_corrections;
use crate::outcome::Failure;

type Result<T> = std::result::Result<T, Failure>;

/// A decision that was made.
#[derive(Debug, Clone)]
pub(super) enum Decision {
    /// Causes, by their places, have this answer.
    Settle(Vec<usize>, String),
    /// A cell is taken for something else.
    Correct((SourceId, Row), ColumnId, String),
    /// A row is kept out.
    KeepOut((SourceId, Row)),
}

/// What it takes to take a decision back, its parts in the order in which they were done.
pub(super) struct Undone {
    pub(super) says: String,
    pub(super) decision: Decision,
    pub(super) back: Vec<Back>,
}

/// A part of a decision, and what it takes to take it back.
pub(super) enum Back {
    /// A line of a field's crosswalk: what it is, and what stood for the value before.
    Crosswalk(FieldId, CrosswalkLine, Option<CrosswalkLine>, Written),
    /// A cell: its row in its source, its column, and what it held.
    Cell((SourceId, Row), ColumnId, String, OwnCorrection),
    /// A whole row.
    Row((SourceId, Row), OwnCorrection),
}

/// A line of a file of corrections: where it stands, what it is, and what stood there before.
pub(super) struct OwnCorrection {
    pub(super) path: PathBuf,
    pub(super) cell: (Row, RowHash, String),
    pub(super) now: Option<Correction>,
    pub(super) before: Option<Correction>,
    pub(super) written: Written,
}

impl OwnCorrection {
    /// Takes this line back, and no other.
    pub(super) fn take_back(self) -> Result<()> {
        let (held, mut file) = hold_corrections(&self.path, None)?;
        let (row, print, column) = &self.cell;
        if self.written.put_back(&held)? {
            return Ok(());
        }
        if file.find(*row, *print, column) != self.now.as_ref() {
            return Err(changed_since(&self.path));
        }
        file.replace((*row, *print, column), self.before);
        Ok(file.write(&held)?)
    }
}

/// What a file held before and after it was written here.
pub(super) struct Written {
    before: Option<Vec<u8>>,
    after: Option<Vec<u8>>,
}

impl Written {
    /// Notes what the file held `before`, and what it holds now.
    pub(super) fn since(before: Option<Vec<u8>>, held: &Held) -> Result<Self> {
        Ok(Self { before, after: read_if_there(held)? })
    }

    /// Has the file be what it was, to the byte, unless somebody else has written it since.
    pub(super) fn put_back(&self, held: &Held) -> Result<bool> {
        let is_own = read_if_there(held)? == self.after;
        if is_own {
            self.before.as_ref().map_or_else(|| held.remove(), |before| held.write(before))?;
        }
        Ok(is_own)
    }
}

/// What a file holds; nothing where it is not there.
pub(super) fn read_if_there(held: &Held) -> Result<Option<Vec<u8>>> {
    match std::fs::read(held.path()) {
        Ok(bytes) => Ok(Some(bytes)),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(Error::reading(held.path())(error).into()),
    }
}

/// Somebody else has decided the same thing otherwise meanwhile.
pub(super) fn changed_since(path: &Path) -> Failure {
    Failure::Stopped(format!("not taken back: somebody has changed that line of {} since", path.display()))
}
