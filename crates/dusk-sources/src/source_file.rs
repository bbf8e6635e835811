//! The file of a source: opened once, read as often as needed, and held to be the same file to the end.

use std::fs::{File, Metadata};
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};
use std::time::SystemTime;

use dusk_evidence::{Error, Refusal, Result, room_on_disk};
use dusk_workbooks::PlacedFile;

/// How much room a stream that is kept leaves on the disk, in bytes.
const LEFT_FREE: u64 = 64 << 20;

/// The most that is kept of a stream where nobody can tell how much room there is, in bytes.
const MOST_KEPT: u64 = 16 << 30;

/// How many bytes of a stream are kept before the room is looked at again.
const STEP: u64 = 8 << 20;

/// What identifies a file that was read to its end.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourceIdentity {
    /// The file's size in bytes.
    pub bytes: u64,
    /// Its BLAKE3 hash, in hexadecimal digits.
    pub blake3: String,
}

impl SourceIdentity {
    /// Of a file that is read from its beginning to its end.
    ///
    /// # Errors
    /// What the system says.
    pub fn of(mut file: impl Read) -> std::io::Result<Self> {
        let mut hasher = blake3::Hasher::new();
        let bytes = std::io::copy(&mut file, &mut hasher)?;
        Ok(Self { bytes, blake3: hasher.finalize().to_hex().to_string() })
    }
}

/// A file that is open as long as its source is: whatever gets its name meanwhile, this one is read.
#[derive(Debug, Clone)]
pub(crate) struct SourceFile(Arc<Opened>);

#[derive(Debug)]
struct Opened {
    file: Arc<File>,
    /// The source as the steward named it.
    name: String,
    /// What the file was when it was opened; nothing for one of the program's own.
    seen: Option<(PathBuf, Seen)>,
    /// What it was when it was read to its end first.
    read: OnceLock<SourceIdentity>,
}

/// By what a file is known to be the same.
#[derive(Debug, PartialEq, Eq)]
struct Seen {
    bytes: u64,
    modified: Option<SystemTime>,
    /// The device and the number of the file on it, where the system tells them.
    number: Option<(u64, u64)>,
}

impl Seen {
    fn of(metadata: &Metadata) -> Self {
        #[cfg(unix)]
        let number = {
            use std::os::unix::fs::MetadataExt as _;
            Some((metadata.dev(), metadata.ino()))
        };
        #[cfg(not(unix))]
        let number = None;
        Self { bytes: metadata.len(), modified: metadata.modified().ok(), number }
    }
}

impl SourceFile {
    /// Opens the file at `path`.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read.
    pub(crate) fn open(path: &Path, name: &str) -> Result<Self> {
        let shown = Path::new(name);
        let file = Arc::new(File::open(path).map_err(Error::reading(shown))?);
        let seen = Seen::of(&file.metadata().map_err(Error::reading(shown))?);
        let seen = Some((path.to_path_buf(), seen));
        Ok(Self(Arc::new(Opened { file, name: name.to_owned(), seen, read: OnceLock::new() })))
    }

    /// A file that the program has written itself, and that nobody else knows.
    pub(crate) fn own(file: File, name: &str) -> Self {
        let file = Arc::new(file);
        Self(Arc::new(Opened { file, name: name.to_owned(), seen: None, read: OnceLock::new() }))
    }

    /// Keeps what comes through a stream in a file that has no name, so that it is gone with the process.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read or kept; [`Error::Source`] when it does not come to an end.
    pub(crate) fn kept(stream: &mut dyn Read, name: &str) -> Result<Self> {
        let folder = std::env::temp_dir();
        let mut file = tempfile::tempfile().map_err(Error::writing(&folder))?;
        let mut kept = 0_u64;
        loop {
            let room = room_on_disk(&folder).unwrap_or_else(|| MOST_KEPT.saturating_sub(kept));
            if kept > 0 && room < LEFT_FREE {
                return Err(endless(kept, &folder).of(name));
            }
            let taken = io::copy(&mut stream.take(STEP), &mut file).map_err(|error| match error.kind() {
                io::ErrorKind::StorageFull => Error::writing(&folder)(error),
                _ => Error::reading(Path::new(name))(error),
            })?;
            kept += taken;
            if taken < STEP {
                return Ok(Self::own(file, name));
            }
        }
    }

    /// The source as the steward named it.
    pub(crate) fn name(&self) -> &str {
        &self.0.name
    }

    /// Its size now, in bytes.
    ///
    /// # Errors
    /// [`Error::File`] when that cannot be told.
    pub(crate) fn bytes(&self) -> Result<u64> {
        self.0.file.metadata().map(|metadata| metadata.len()).map_err(Error::reading(Path::new(self.name())))
    }

    /// The open file.
    pub(crate) fn file(&self) -> &Arc<File> {
        &self.0.file
    }

    /// Reads it from its beginning, beside whoever else does.
    pub(crate) fn reader(&self) -> SourceReader {
        SourceReader { file: self.clone(), at: PlacedFile::new(&self.0.file) }
    }

    /// The same from this byte on.
    pub(crate) fn reader_from(&self, at: u64) -> SourceReader {
        SourceReader { file: self.clone(), at: PlacedFile::at(&self.0.file, at) }
    }

    /// What identifies it; reads it to its end, unless that was done before.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read; as [`SourceFile::read_to_its_end`].
    pub(crate) fn identity(&self) -> Result<SourceIdentity> {
        if let Some(known) = self.0.read.get() {
            return Ok(known.clone());
        }
        let identity = SourceIdentity::of(self.reader()).map_err(Error::reading(Path::new(self.name())))?;
        self.read_to_its_end(&identity)?;
        Ok(identity)
    }

    /// Notes what it was when it was read to its end, and holds that against what it was before: one table is made of
    /// one file.
    ///
    /// # Errors
    /// [`Error::Source`] when it has been changed, cut off or replaced since it was opened.
    pub(crate) fn read_to_its_end(&self, identity: &SourceIdentity) -> Result<()> {
        let first = self.0.read.get_or_init(|| identity.clone());
        let what = match &self.0.seen {
            Some((path, seen)) => self.difference(path, seen, identity.bytes),
            None => None,
        };
        let what = what.or_else(|| (first != identity).then(|| "it holds something else now".to_owned()));
        what.map_or(Ok(()), |what| Err(changed(&what).of(self.name())))
    }

    /// The error that it is where the file has changed since it was opened, else `error`: what is wrong with a file
    /// that is being written is that.
    pub(crate) fn or_changed(&self, error: Error) -> Error {
        let seen = self.0.seen.as_ref();
        match seen.and_then(|(path, seen)| self.difference(path, seen, seen.bytes)) {
            Some(what) => changed(&what).of(self.name()),
            None => error,
        }
    }

    /// How the file differs from what it was when it was opened.
    fn difference(&self, path: &Path, seen: &Seen, read: u64) -> Option<String> {
        let Ok(now) = self.0.file.metadata().map(|metadata| Seen::of(&metadata)) else {
            return Some("it cannot be looked at any more".into());
        };
        let bytes = if now.bytes == seen.bytes { read } else { now.bytes };
        if bytes != seen.bytes {
            return Some(format!("it had {} bytes, and has {bytes} now", seen.bytes));
        }
        if now != *seen {
            return Some("somebody has written to it".into());
        }
        match path.metadata() {
            Ok(there) if Seen::of(&there).number == seen.number => None,
            Ok(_) => Some("another file has its name now".into()),
            Err(_) => Some("it is not there any more".into()),
        }
    }
}

fn changed(what: &str) -> Refusal {
    Refusal::new(
        format!("has changed while it was read: {what}; so nothing was written"),
        "let whatever writes it come to an end, or take a copy of it, and run again",
    )
}

fn endless(kept: u64, folder: &Path) -> Refusal {
    Refusal::new(
        format!("goes on for more than {} MB, for which {} has no room", kept / 1_000_000, folder.display()),
        "if it has an end, write it to a file and name that; TMPDIR names another folder to keep it in",
    )
}

/// Reads a [`SourceFile`] at a place of its own.
#[derive(Debug)]
pub(crate) struct SourceReader {
    file: SourceFile,
    at: PlacedFile,
}

impl SourceReader {
    /// The file that it reads.
    pub(crate) fn file(&self) -> &SourceFile {
        &self.file
    }
}

impl Read for SourceReader {
    fn read(&mut self, bytes: &mut [u8]) -> io::Result<usize> {
        self.at.read(bytes)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_that_changes_between_two_passes_is_not_taken_for_one() {
        type Change = (&'static str, fn(&Path));
        let changes: [Change; 5] = [
            ("it had 8 bytes, and has 4 now", |path| {
                File::options().write(true).open(path).unwrap().set_len(4).unwrap();
            }),
            ("it had 8 bytes, and has 12 now", |path| std::fs::write(path, "a,b\n1,2\n3,4\n").unwrap()),
            ("somebody has written to it", |path| {
                std::thread::sleep(std::time::Duration::from_millis(20));
                std::fs::write(path, "a,b\n1,9\n").unwrap();
            }),
            ("another file has its name now", |path| {
                std::fs::write(path.with_extension("new"), "a,b\n1,2\n").unwrap();
                std::fs::rename(path.with_extension("new"), path).unwrap();
            }),
            ("it is not there any more", |path| std::fs::remove_file(path).unwrap()),
        ];
        for (says, change) in changes {
            let folder = tempfile::tempdir().unwrap();
            let path = folder.path().join("export.csv");
            std::fs::write(&path, "a,b\n1,2\n").unwrap();
            let file = SourceFile::open(&path, "export.csv").unwrap();
            let first = file.identity().unwrap();
            assert_eq!(file.read_to_its_end(&first).map_err(|error| error.to_string()), Ok(()));
            change(&path);
            let again = SourceIdentity::of(file.reader()).unwrap();
            let error = file.read_to_its_end(&again).unwrap_err().to_string();
            assert!(error.contains(says), "{error}");
        }
    }

    #[test]
    fn readers_of_one_file_do_not_disturb_each_other() {
        let mut stream: &[u8] = b"0123456789";
        let file = SourceFile::kept(&mut stream, "standard input").unwrap();
        let (mut one, mut other) = (file.reader(), file.reader());
        let mut four = [0; 4];
        one.read_exact(&mut four).unwrap();
        let mut text = String::new();
        other.read_to_string(&mut text).unwrap();
        assert_eq!((&four, text.as_str()), (b"0123", "0123456789"));
    }
}
