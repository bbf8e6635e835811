//! One sheet of a workbook becomes rows of cells.
//!
//! The sheet is read once, cell by cell, into a temporary delimited file of the program's own, so
//! that everything after it works as for any other source: in blocks, as often as needed, in little
//! memory. Its rows keep the sheet's numbers, and cells keep what they are ([`CellKind`]).
//!
//! ```text
//! container  what a file really is
//! reader     the cells of a sheet, by a library for each container; ods by our own
//! chosen     which sheet is read
//! sheet      a sheet on its way into the spool
//! ods        OpenDocument documents: their tables
//! ods_cells  the rows and cells of one, as they come by
//! marks      what a sheet says beside its values
//! value      a typed cell as text
//! cell_kind  what a cell is, kept in front of its text
//! error_words  what spreadsheet programs write for an error
//! formulas   where formulas stand
//! spool      rows on their way into the delimited file
//! limits     what no workbook needs, and some are made to do
//! apart      all of this in a process of its own, which a hurtful file cannot leave
//! placed     an open file that several readers share
//! ```

mod apart;
mod cell_kind;
mod chosen;
mod container;
mod error_words;
mod formulas;
mod limits;
mod marks;
mod ods;
mod ods_cells;
mod placed;
mod reader;
mod sheet;
mod spool;
mod value;

use std::borrow::Cow;
use std::fs::File;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

pub use apart::{Limits, Program, read_apart, serve};

pub use cell_kind::{
    ABOVE_UNKNOWN, CellKind, DAMAGED_RECORD, FROM_ABOVE, MOST_GROUPS, STAYS_BLANK, group_mark, group_of,
    is_mark, without_marks,
};
pub use container::{Container, container_of};
pub use formulas::Formulas;
pub use marks::column_letters;
pub use placed::PlacedFile;
pub use spool::push_spooled;

use dusk_evidence::{Refusal, plain_reason};

/// Which sheet of a workbook.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub enum SheetChoice {
    /// By its name.
    Name(String),
    /// By its number, from 1.
    Number(u64),
}

/// What was noticed about the workbook and its sheet.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct WorkbookFacts {
    /// What kind of file it is: xlsx, xlsb, xls or ods.
    pub format: Cow<'static, str>,
    /// The sheet that is read.
    pub sheet: String,
    /// Every sheet, and whether it is hidden.
    pub sheets: Vec<(String, bool)>,
    /// True when day counts begin in 1904.
    pub from_1904: bool,
    /// Rows that are hidden, as ranges; they are read like all others.
    pub hidden_rows: Vec<(u64, u64)>,
    /// Merged cells, as ranges like B2:B5; only the first cell of each holds the value.
    pub merged: Vec<String>,
    /// How many cells hold each kind of value.
    pub kinds: Vec<(Cow<'static, str>, u64)>,
    /// How many numbers have leading zeros by their display format only.
    pub zeros_by_format: u64,
    /// What the spreadsheet program checks when something is typed into the sheet, of an Office Open XML workbook.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub checks: Vec<CellCheck>,
    /// Comments, struck text and formats of cells, of a small Office Open XML sheet.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub looks: Vec<CellLook>,
    /// Names of ranges, and where they lead.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<(String, String)>,
}

/// What is checked when something is typed into cells (`dataValidation` of ECMA-376, part 1, 18.3.1.32).
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct CellCheck {
    /// The cells, as ranges parted by spaces: `B5:B604 D5`.
    pub cells: String,
    /// What must be typed: `list`, `whole`, `decimal`, `date`, `time`, `textLength`, `custom` or nothing.
    pub kind: String,
    /// How it is compared with the formulas; `between` where nothing is said.
    pub operator: String,
    /// The first formula, and the second where two are compared with.
    pub formulas: [String; 2],
    /// What is shown to whoever types.
    pub prompt: String,
    /// True when something else is taken as well, after a warning.
    pub only_warns: bool,
}

/// What a cell of a small sheet adds to its value.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct CellLook {
    /// The cell: `B5`.
    pub cell: String,
    /// The comment beside it; empty where it has none.
    pub comment: String,
    /// Whether its text is struck through.
    pub is_struck: bool,
    /// How many decimals its number is always shown with.
    pub decimals: Option<u32>,
    /// How its number is displayed, as the program writes formats; empty for the general format.
    pub format: String,
    /// The colour behind it, as the program writes it; empty where it has none.
    pub fill: String,
}

impl WorkbookFacts {
    /// How many rows are hidden.
    pub fn hidden_count(&self) -> u64 {
        self.hidden_rows.iter().map(|(first, last)| last - first + 1).sum()
    }
}

/// A sheet as a delimited file of the program's own.
#[derive(Debug)]
pub struct Spooled {
    /// The file, which has no name and goes away with this.
    pub file: File,
    /// What was noticed about the workbook.
    pub facts: WorkbookFacts,
}

/// What parts the cells of a spooled sheet, and what quotes them: the information separators of ASCII, which
/// are made for this.
pub const SPOOL_MARKS: (&str, &str) = ("\u{1f}", "\u{1e}");

/// Reads the chosen sheet of a workbook: in a process of its own, where the program has named one
/// ([`read_apart`]), else in a thread.
///
/// # Errors
/// A [`Refusal`] when it is damaged, protected or made to hurt, or has no such sheet.
pub fn spool(
    file: &Arc<File>,
    container: Container,
    sheet: Option<&SheetChoice>,
) -> Result<Spooled, Refusal> {
    let out = tempfile::tempfile().map_err(|error| not_unpacked(&error))?;
    let facts = match apart::program() {
        Some(program) => apart::rows(program, file, &out, container, sheet)?,
        None => in_thread(|| reader::read(file, &out, container, sheet))??,
    };
    Ok(Spooled { file: out, facts })
}

/// Where formulas stand in the sheet of this name of a workbook; none where that cannot be told.
pub fn formulas(file: &Arc<File>, container: Container, sheet: &str) -> Formulas {
    match apart::program() {
        Some(program) => apart::formulas(program, file, container, sheet),
        None => in_thread(|| formulas::found(file, container, sheet)).unwrap_or_default(),
    }
}

fn not_unpacked(error: &std::io::Error) -> Refusal {
    let folder = std::env::temp_dir();
    Refusal::new(
        format!("cannot be unpacked into {}: {}", folder.display(), plain_reason(error)),
        "TMPDIR names another folder to unpack it in",
    )
}

/// Runs work on a workbook. A damaged file can lead the reading library into a panic, which ends this thread only.
fn in_thread<T: Send>(work: impl FnOnce() -> T + Send) -> Result<T, Refusal> {
    let done = std::thread::scope(|scope| {
        let thread = std::thread::Builder::new().name(READING_THREAD.into()).spawn_scoped(scope, work);
        thread.map(|thread| thread.join())
    });
    match done {
        Ok(Ok(done)) => Ok(done),
        Ok(Err(_)) => Err(damaged("its cells contradict one another")),
        Err(error) => Err(Refusal::new(format!("cannot be read: {}", plain_reason(&error)), "")),
    }
}

/// The name of the thread that reads workbooks; a panic there is a damaged file, and is said as one.
pub const READING_THREAD: &str = "workbook";

fn damaged(what: &str) -> Refusal {
    Refusal::new(
        format!("is a damaged workbook: {what}"),
        "open it in a spreadsheet program, save it again under another name, and use that file",
    )
}
