//! Why a run cannot go on. Bad data is never an error: it is a [finding](crate).

use std::path::{Path, PathBuf};

use crate::{Problems, Undecided, room_on_disk};

/// The result of work that may have to stop.
pub type Result<T, E = Error> = std::result::Result<T, E>;

/// Why a run cannot go on, worded for a steward.
#[derive(Debug, thiserror::Error)]
pub enum Error {
    /// The operating system refused to read or write a file.
    #[error("{}: {action}: {}", path.display(), reason_at(path, cause))]
    File {
        /// The file or folder.
        path: PathBuf,
        /// What could not be done, as "cannot be read".
        action: &'static str,
        /// What the operating system said.
        cause: std::io::Error,
    },
    /// The steward's own files do not fit together; every problem is listed.
    #[error("{0}")]
    Problems(Problems),
    /// The source cannot be read as rows of cells.
    #[error("{source_name}: {says}{}", hint_line(hint))]
    Source {
        /// The source as the steward named it.
        source_name: String,
        /// What is wrong, with row or line.
        says: String,
        /// What to do about it.
        hint: String,
    },
    /// Columns hold values whose reading the data does not prove.
    #[error("{}", list_undecided(.0))]
    Undecided(Vec<Undecided>),
    /// A value that every run must be given is missing, or one was given that nobody asks for.
    #[error("{0}")]
    Asked(String),
    /// A number that can be read in two ways stands behind the first rows, so that the evidence of all rows
    /// is needed. A job that settles its readings (`Job::work`) begins anew then, and nobody else sees it.
    #[error("a number below the first rows can be read in two ways; the evidence of all rows is needed")]
    LateDoubt,
    /// More rows are split by a delimiter inside a value than is left to a warning: the work is begun anew, and
    /// they are rejected. Nobody outside sees this.
    #[error("many rows are split by a delimiter inside a value")]
    LateSplits,
    /// More long numbers of these fields end in zero than chance makes: the work is begun anew, and they are
    /// rejected. Nobody outside sees this.
    #[error("columns of long numbers have lost their last digits")]
    LateDamage(Vec<crate::FieldId>),
    /// Rules over the whole batch do not hold.
    #[error(
        "the batch breaks rules over all its records, so nothing was written; dusk check shows them:\n  {0}"
    )]
    BatchRules(String),
    /// The export is unlike the last batch, and the mapping says that no batch is made then.
    #[error(
        "the export is unlike the last batch, so nothing was written:\n  {}\n  where it is right, write unlike = \"say\" under [rows] for this batch",
        .0.join("\n  ")
    )]
    Unlike(Vec<String>),
    /// Not one row holds a record, as where an export was begun and not finished.
    #[error(
        "{sources}: {}, so there is nothing to make a batch of\n  check that the export was finished",
        if *rows == 0 { "there are headings and no rows below them".to_owned() }
        else { format!("not one of the {rows} rows below the headings holds a record") }
    )]
    NoRows {
        /// The sources, as the steward named them.
        sources: String,
        /// How many rows they have.
        rows: u64,
    },
    /// The disk has less room than a batch takes.
    #[error(
        "{}: a batch of this export takes about {} there, and its disk has {} left, so none was made\n  free some space, or choose a folder on another disk with -o",
        place.display(), megabytes(*needed), megabytes(*room)
    )]
    NoRoom {
        /// Where the batch was to go.
        place: PathBuf,
        /// How much it takes, in bytes.
        needed: u64,
        /// How much is left, in bytes.
        room: u64,
    },
    /// A folder or file is there already and is not overwritten unasked.
    #[error("{} exists already and is not overwritten: choose another name with -o, or move it away", .0.display())]
    Exists(PathBuf),
    /// What was asked for cannot be done as it was asked.
    #[error("{0}")]
    Request(String),
    /// The program contradicted itself; nothing was written.
    #[error("Dusk Button made a mistake of its own, so nothing was written: {0}")]
    Invariant(String),
}

impl Error {
    /// Wraps a refusal of the operating system to read `path`.
    pub fn reading(path: &Path) -> impl FnOnce(std::io::Error) -> Self {
        Self::about(path, "cannot be read")
    }

    /// Wraps a refusal of the operating system to write `path`.
    pub fn writing(path: &Path) -> impl FnOnce(std::io::Error) -> Self {
        Self::about(path, "cannot be written")
    }

    fn about(path: &Path, action: &'static str) -> impl FnOnce(std::io::Error) -> Self {
        let path = path.to_path_buf();
        move |cause| Self::File { path, action, cause }
    }
}

/// Why a source cannot be read, before it is known under which name.
#[derive(Debug)]
pub struct Refusal {
    /// What is wrong.
    pub says: String,
    /// What to do about it; may be empty.
    pub hint: String,
}

impl Refusal {
    /// What is wrong, and what to do about it.
    pub fn new(says: impl Into<String>, hint: impl Into<String>) -> Self {
        Self { says: says.into(), hint: hint.into() }
    }

    /// The error that it is, once the source has a name.
    pub fn of(self, source: &str) -> Error {
        Error::Source { source_name: source.to_owned(), says: self.says, hint: self.hint }
    }
}

/// A number of bytes as people say it.
fn megabytes(bytes: u64) -> String {
    match bytes {
        0..=999 => format!("{bytes} bytes"),
        1_000..=999_999 => format!("{} kB", bytes / 1_000),
        _ => format!("{} MB", bytes / 1_000_000),
    }
}

/// The reason why a file cannot be written or read; of a full disk, which one it is and what it has left.
fn reason_at(path: &Path, cause: &std::io::Error) -> String {
    match (cause.kind(), room_on_disk(path)) {
        (std::io::ErrorKind::StorageFull, Some(room)) => {
            let above = || path.parent().filter(|folder| !folder.as_os_str().is_empty());
            let folder = if path.is_dir() { path } else { above().unwrap_or(Path::new(".")) };
            format!(
                "the disk that {} is on is full ({} left); free some space and run again",
                folder.display(),
                megabytes(room)
            )
        }
        _ => plain_reason(cause),
    }
}

/// The operating system's reason in plain words, without its error number.
pub fn plain_reason(cause: &std::io::Error) -> String {
    use std::io::ErrorKind;
    match cause.kind() {
        ErrorKind::NotFound => "the file or folder does not exist".into(),
        ErrorKind::PermissionDenied => "permission denied; check who may read or write there".into(),
        ErrorKind::ReadOnlyFilesystem => "the file system is read-only; choose another folder with -o".into(),
        ErrorKind::StorageFull => "the disk is full; free some space and run again".into(),
        ErrorKind::QuotaExceeded => "your disk quota is used up; free some space and run again".into(),
        ErrorKind::FileTooLarge => {
            "the file would grow past what is allowed here; free some space or choose another folder with -o"
                .into()
        }
        ErrorKind::NotADirectory => "part of this path is a file, not a folder".into(),
        ErrorKind::IsADirectory => "this is a folder, not a file".into(),
        _ => {
            let text = cause.to_string();
            match text.find(" (os error") {
                Some(end) => text.get(..end).unwrap_or(&text).to_lowercase(),
                None => text,
            }
        }
    }
}

fn hint_line(hint: &str) -> String {
    if hint.is_empty() { String::new() } else { format!("\n  {hint}") }
}

fn list_undecided(columns: &[Undecided]) -> String {
    columns.iter().map(ToString::to_string).collect::<Vec<_>>().join("\n\n")
}
