//! The calls by which the program changes a disk, in one place: whoever tests what becomes of a batch on a failing
//! disk puts a [`Gate`] before them.
//!
//! What goes around them: the tables of a database, which its own library writes.

use std::fs::{File, OpenOptions};
use std::io::{self, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, PoisonError, RwLock};

/// A call that is about to change the disk.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Call<'p> {
    /// A file is made.
    Create(&'p Path),
    /// So many bytes are written to a file.
    Write(&'p Path, usize),
    /// The disk is waited for.
    Sync(&'p Path),
    /// A file or folder takes another name.
    Rename(&'p Path),
    /// A file or folder is taken away.
    Remove(&'p Path),
    /// A folder is made.
    MakeFolder(&'p Path),
}

impl Call<'_> {
    /// The path that the call is about.
    pub fn path(&self) -> &Path {
        match self {
            Self::Create(path)
            | Self::Write(path, _)
            | Self::Sync(path)
            | Self::Rename(path)
            | Self::Remove(path)
            | Self::MakeFolder(path) => path,
        }
    }
}

/// Stands before every change of the disk below one folder, and may refuse it.
pub trait Gate: Send + Sync {
    /// How many bytes of a [`Call::Write`] go through; of other calls the number means nothing.
    ///
    /// # Errors
    /// What the call fails with, without being made.
    fn pass(&self, call: Call<'_>) -> io::Result<usize>;
}

/// A folder, and what stands before the calls below it.
type Gated = (PathBuf, Arc<dyn Gate>);

static GATES: RwLock<Vec<Gated>> = RwLock::new(Vec::new());
static IS_GATED: AtomicBool = AtomicBool::new(false);

/// Puts a gate before every change of the disk below `folder`, until what this gives back is dropped.
pub fn gate(folder: &Path, gate: Arc<dyn Gate>) -> Lifted {
    let mut gates = GATES.write().unwrap_or_else(PoisonError::into_inner);
    gates.push((folder.to_path_buf(), gate));
    IS_GATED.store(true, Ordering::Release);
    Lifted(folder.to_path_buf())
}

/// Lifts a gate when it is dropped.
#[derive(Debug)]
pub struct Lifted(PathBuf);

impl Drop for Lifted {
    fn drop(&mut self) {
        let mut gates = GATES.write().unwrap_or_else(PoisonError::into_inner);
        gates.retain(|(folder, _)| *folder != self.0);
        IS_GATED.store(!gates.is_empty(), Ordering::Release);
    }
}

/// Asks the gate that stands before a call, where there is one.
fn pass(call: Call<'_>) -> io::Result<usize> {
    let all = match call {
        Call::Write(_, bytes) => bytes,
        _ => 0,
    };
    if !IS_GATED.load(Ordering::Acquire) {
        return Ok(all);
    }
    let gates = GATES.read().unwrap_or_else(PoisonError::into_inner);
    let gate =
        gates.iter().find(|(folder, _)| call.path().starts_with(folder)).map(|(_, gate)| Arc::clone(gate));
    drop(gates);
    gate.map_or(Ok(all), |gate| gate.pass(call))
}

/// Makes a folder, and those that it is in.
///
/// # Errors
/// What the system says.
pub fn make_folders(path: &Path) -> io::Result<()> {
    if path.is_dir() {
        return Ok(());
    }
    pass(Call::MakeFolder(path)).and_then(|_| std::fs::create_dir_all(path))
}

/// Makes a folder where nothing is yet.
///
/// # Errors
/// What the system says.
pub fn make_folder(path: &Path) -> io::Result<()> {
    pass(Call::MakeFolder(path)).and_then(|_| std::fs::create_dir(path))
}

/// Gives a file or folder another name; a file that has it is replaced.
///
/// # Errors
/// What the system says.
pub fn rename(from: &Path, to: &Path) -> io::Result<()> {
    pass(Call::Rename(to)).and_then(|_| std::fs::rename(from, to))
}

/// Gives a file a name that nothing has yet.
///
/// # Errors
/// [`io::ErrorKind::AlreadyExists`] where something has it; what the system says.
pub fn rename_new(from: &Path, to: &Path) -> io::Result<()> {
    pass(Call::Rename(to))?;
    #[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
    {
        use rustix::fs::{CWD, RenameFlags, renameat_with};
        match renameat_with(CWD, from, CWD, to, RenameFlags::NOREPLACE).map_err(io::Error::from) {
            // Some drives cannot do that in one step.
            Err(error) if error.kind() == io::ErrorKind::InvalidInput => {}
            done => return done,
        }
    }
    if to.symlink_metadata().is_ok() {
        return Err(io::ErrorKind::AlreadyExists.into());
    }
    std::fs::rename(from, to)
}

/// Takes a file away.
///
/// # Errors
/// What the system says.
pub fn remove(path: &Path) -> io::Result<()> {
    pass(Call::Remove(path)).and_then(|_| std::fs::remove_file(path))
}

/// Takes a folder away with all that is in it.
///
/// # Errors
/// What the system says.
pub fn remove_folder(path: &Path) -> io::Result<()> {
    pass(Call::Remove(path)).and_then(|_| std::fs::remove_dir_all(path))
}

/// Has two folders, or two files, take each other's names at once.
///
/// # Errors
/// What the system says; [`io::ErrorKind::Unsupported`] where it cannot do that.
pub fn exchange(one: &Path, other: &Path) -> io::Result<()> {
    pass(Call::Rename(other))?;
    #[cfg(any(target_os = "linux", target_os = "android", target_vendor = "apple"))]
    {
        use rustix::fs::{CWD, RenameFlags, renameat_with};
        renameat_with(CWD, one, CWD, other, RenameFlags::EXCHANGE).map_err(io::Error::from)
    }
    #[cfg(not(any(target_os = "linux", target_os = "android", target_vendor = "apple")))]
    {
        let _ = one;
        Err(io::ErrorKind::Unsupported.into())
    }
}

/// Waits until the disk knows the names in a folder. Some systems cannot open a folder; there the names are as safe
/// as the system makes them.
///
/// # Errors
/// What the system says.
pub fn sync_folder(folder: &Path) -> io::Result<()> {
    pass(Call::Sync(folder))?;
    let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    match File::open(folder) {
        Ok(opened) => opened.sync_all(),
        Err(_) => Ok(()),
    }
}

/// A file that is written.
#[derive(Debug)]
pub struct DiskFile {
    file: File,
    path: PathBuf,
}

impl DiskFile {
    /// Makes a file where nothing is yet.
    ///
    /// # Errors
    /// What the system says.
    pub fn create_new(path: &Path) -> io::Result<Self> {
        Self::open(path, OpenOptions::new().write(true).create_new(true))
    }

    /// Makes a file, or empties the one that is there.
    ///
    /// # Errors
    /// What the system says.
    pub fn create(path: &Path) -> io::Result<Self> {
        Self::open(path, OpenOptions::new().write(true).create(true).truncate(true))
    }

    fn open(path: &Path, options: &OpenOptions) -> io::Result<Self> {
        pass(Call::Create(path))?;
        Ok(Self { file: options.open(path)?, path: path.to_path_buf() })
    }

    /// Waits until the disk has all of it.
    ///
    /// # Errors
    /// What the system says.
    pub fn sync(&self) -> io::Result<()> {
        pass(Call::Sync(&self.path)).and_then(|_| self.file.sync_all())
    }
}

impl Write for DiskFile {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let most = pass(Call::Write(&self.path, bytes.len()))?;
        self.file.write(bytes.get(..most).unwrap_or(bytes))
    }

    fn flush(&mut self) -> io::Result<()> {
        self.file.flush()
    }
}

impl Seek for DiskFile {
    fn seek(&mut self, to: SeekFrom) -> io::Result<u64> {
        self.file.seek(to)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Lets half of every write through, and no folder be made.
    struct Half;

    impl Gate for Half {
        fn pass(&self, call: Call<'_>) -> io::Result<usize> {
            match call {
                Call::MakeFolder(_) => Err(io::ErrorKind::PermissionDenied.into()),
                Call::Write(_, bytes) => Ok(bytes.div_ceil(2)),
                _ => Ok(0),
            }
        }
    }

    #[test]
    fn a_gate_stands_before_its_own_folder_until_it_is_lifted() {
        let (gated, free) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let lifted = gate(gated.path(), Arc::new(Half));
        assert!(make_folder(&gated.path().join("a")).is_err() && make_folder(&free.path().join("a")).is_ok());
        let mut file = DiskFile::create(&gated.path().join("f")).unwrap();
        assert_eq!(file.write(b"12345678").unwrap(), 4, "a short write");
        file.write_all(b"5678").unwrap();
        assert_eq!(std::fs::read(gated.path().join("f")).unwrap(), b"12345678");
        drop(lifted);
        make_folder(&gated.path().join("a")).unwrap();
    }

    #[test]
    #[cfg(any(target_os = "linux", target_vendor = "apple"))]
    fn two_folders_exchange_their_names_at_once() {
        let place = tempfile::tempdir().unwrap();
        let at = |name: &str| place.path().join(name);
        for name in ["a", "b"] {
            std::fs::create_dir(at(name)).unwrap();
            std::fs::write(at(name).join("is"), name).unwrap();
        }
        // Where the drive cannot do it, it says so and changes nothing.
        let exchanged = exchange(&at("a"), &at("b")).is_ok();
        let expected = if exchanged { "b" } else { "a" };
        assert_eq!(std::fs::read_to_string(at("a").join("is")).unwrap(), expected);
        assert!(exchange(&at("a"), &at("nowhere")).is_err() && at("a").exists());
    }
}
