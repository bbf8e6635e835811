//! Corrections: single cells of a source that a steward changed, remembered beside the mapping in
//! `corrections/<source>.csv`. Every line says who decided it and when, and by what its row is recognised
//! when it has moved.

use std::fmt;
use std::path::{Path, PathBuf};
use std::str::FromStr;

use super::crosswalk::KEEP_OUT;
use dusk_evidence::{Error, Line, Problems, Result, Row};
use dusk_files::{FileName, Held, List, disk, guarded, unguarded, write_whole};

/// The columns of a corrections file.
const COLUMNS: [&str; 8] = ["row", "column", "was", "now", "by", "on", "note", "print"];

/// Stands in the place of a heading in a line about a whole row, which can only be kept out.
pub const WHOLE_ROW: &str = "(row)";

/// Says of a whole row that its record was there more than once when it was kept out: it is kept out only as
/// long as that is so, or else the last one would be lost.
pub const DOUBLE: &str = "double";

/// What a row is recognised by, as sums of the hashes of its cells; 0 where there are none.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct RowHash {
    /// Of all its cells.
    pub all: u64,
    /// Of those that the mapping uses.
    pub used: u64,
    /// Of those that tell which record it is.
    pub key: u64,
}

impl RowHash {
    /// What rows of the same record have in common: their keys, or where there are none all cells that
    /// matter.
    pub fn record(&self) -> u64 {
        if self.key == 0 { self.used } else { self.key }
    }
}

impl fmt::Display for RowHash {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:016x}-{:016x}-{:016x}", self.all, self.used, self.key)
    }
}

impl FromStr for RowHash {
    type Err = ();

    fn from_str(text: &str) -> std::result::Result<Self, ()> {
        let numbers: Vec<u64> = text
            .split('-')
            .map(|part| u64::from_str_radix(part, 16).ok().filter(|_| part.len() == 16).ok_or(()))
            .collect::<std::result::Result<_, _>>()?;
        match numbers.as_slice() {
            [all, used, key] => Ok(Self { all: *all, used: *used, key: *key }),
            _ => Err(()),
        }
    }
}

/// One corrected cell.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Correction {
    /// The row in which it stood when it was corrected.
    pub row: Row,
    /// The heading of its column.
    pub column: String,
    /// What the source has.
    pub was: String,
    /// What is taken instead.
    pub now: String,
    /// Who decided.
    pub by: String,
    /// The day of the decision, as yyyy-MM-dd.
    pub on: String,
    /// Why, in the steward's words.
    pub note: String,
    /// What the row is recognised by; nothing for a line that was written by hand.
    pub print: Option<RowHash>,
}

impl Correction {
    /// Whether it keeps a whole row out.
    pub fn keeps_out(&self) -> bool {
        self.column == WHOLE_ROW && self.now == KEEP_OUT
    }

    /// Who decided, and when: "correction, A. Clerk, 30 Apr 2026".
    pub fn decided(&self) -> String {
        let words = ["correction", &self.by, &dusk_values::shown_day(&self.on), &self.note];
        words.into_iter().filter(|word| !word.is_empty()).collect::<Vec<_>>().join(", ")
    }
}

/// The corrections of one source.
#[derive(Debug, Clone, Default)]
pub struct CorrectionFile {
    /// Where they are kept.
    pub path: PathBuf,
    /// The lines in the order of the file.
    pub lines: Vec<Correction>,
}

/// The corrections of all sources of a mapping.
#[derive(Debug, Clone, Default)]
pub struct Corrections {
    /// One for each source that was ever corrected, in the order of their names.
    pub files: Vec<CorrectionFile>,
}

/// Where the corrections of a source stand beside the mapping at `mapping`.
pub fn corrections_path(mapping: &Path, source: &str) -> PathBuf {
    let stem = Path::new(source).file_stem().map_or_else(|| source.into(), |stem| stem.to_string_lossy());
    corrections_folder(mapping).join(format!("{}.csv", FileName::word(&stem)))
}

fn corrections_folder(mapping: &Path) -> PathBuf {
    mapping.parent().unwrap_or(Path::new("")).join("corrections")
}

impl CorrectionFile {
    /// Whether these are the corrections of a source of that name.
    pub fn is_of(&self, source: &str) -> bool {
        let stem = |path: &Path| path.file_stem().map(std::ffi::OsStr::to_os_string);
        stem(&self.path) == stem(Path::new(source))
    }

    /// Reads the file at `path`; one that is not there holds nothing.
    ///
    /// # Errors
    /// [`Error::File`] when the file is there but cannot be read.
    pub fn read(path: &Path, problems: &mut Problems) -> Result<Self> {
        let mut file = Self { path: path.to_path_buf(), lines: Vec::new() };
        if !path.exists() {
            return Ok(file);
        }
        let (required, optional) = COLUMNS.split_at(4);
        let Some(list) = List::read(path, required, optional, problems)? else { return Ok(file) };
        for row in &list.rows {
            if let Some(line) = correction_of(row, &list.name, problems) {
                file.lines.push(line);
            }
        }
        Ok(file)
    }

    /// Holds the file at `path`, together with what is held already, and reads it as it is now; one that is not there holds nothing.
    ///
    /// # Errors
    /// As [`Held::file`] and [`CorrectionFile::read`]; [`Error::Problems`] for lines that are wrong.
    pub fn hold(path: &Path, among: Option<&Held>) -> Result<(Held, Self)> {
        let held = Held::among(among, path)?;
        let mut problems = Problems::default();
        let file = Self::read(path, &mut problems)?;
        Ok((held, problems.or(file)?))
    }

    /// Writes the file, and keeps beside it what it held before, so that all that is new in it can be taken back.
    ///
    /// # Errors
    /// [`Error::File`] when one of the two cannot be written.
    pub fn write_undoable(&self, held: &Held) -> Result<()> {
        let before = bytes_of(&self.path)?;
        self.write(held)?;
        let mut kept = format!("{:016x}\n", hash_of(&bytes_of(&self.path)?)).into_bytes();
        kept.extend(before);
        write_whole(&self.path.with_extension(BEFORE), &kept)
    }

    /// Takes back what was written last by [`CorrectionFile::write_undoable`]. False where there is nothing to be
    /// taken back.
    ///
    /// # Errors
    /// [`Error::Request`] when the file was changed since; [`Error::File`] when it cannot be written.
    pub fn undo(path: &Path) -> Result<bool> {
        let held = Held::file(path)?;
        let kept_at = path.with_extension(BEFORE);
        let kept = bytes_of(&kept_at)?;
        let Some((hash, before)) = kept.split_at_checked(17).filter(|(hash, _)| hash.ends_with(b"\n")) else {
            return Ok(false);
        };
        if hash != format!("{:016x}\n", hash_of(&bytes_of(path)?)).as_bytes() {
            return Err(Error::Request(format!(
                "{}: something was recorded since; take back what you mean with --forget, cell by cell",
                path.display()
            )));
        }
        match before.is_empty() {
            true => held.remove()?,
            false => held.write(before)?,
        }
        disk::remove(&kept_at).map_err(Error::writing(&kept_at))?;
        Ok(true)
    }

    /// Writes the lines to the file that is held, whole or not at all; a file without lines is taken away.
    ///
    /// # Errors
    /// [`Error::File`] when the file cannot be written.
    pub fn write(&self, held: &Held) -> Result<()> {
        let path = held.path();
        if self.lines.is_empty() {
            return held.remove();
        }
        let mut writer = csv::Writer::from_writer(Vec::new());
        let wrong = |error: csv::Error| Error::writing(path)(error.into());
        writer.write_record(COLUMNS).map_err(wrong)?;
        for line in &self.lines {
            let row = line.row.to_string();
            let print = line.print.map_or_else(String::new, |print| print.to_string());
            let cells = [&row, &line.column, &line.was, &line.now, &line.by, &line.on, &line.note, &print];
            writer.write_record(cells.map(|cell| guarded(cell).into_owned())).map_err(wrong)?;
        }
        let bytes = writer.into_inner().map_err(|error| Error::writing(path)(error.into_error()))?;
        held.write(&bytes)
    }

    /// The correction of a cell of a row with this print.
    pub fn find(&self, row: Row, print: RowHash, column: &str) -> Option<&Correction> {
        self.lines.iter().find(|line| line.is_at(row, print, column))
    }

    /// Remembers a correction instead of any earlier one of the same cell. One that leaves the cell as the
    /// source has it is forgotten. Gives back the earlier one.
    pub fn set(&mut self, correction: Correction) -> Option<Correction> {
        let (row, print) = (correction.row, correction.print.unwrap_or_default());
        let column = correction.column.clone();
        let changes = correction.was != correction.now;
        self.replace((row, print, &column), changes.then_some(correction))
    }

    /// Has this line, or none, stand for a cell; gives back the one that did.
    pub fn replace(
        &mut self,
        (row, print, column): (Row, RowHash, &str),
        line: Option<Correction>,
    ) -> Option<Correction> {
        let place = self.lines.iter().position(|line| line.is_at(row, print, column));
        match (place, line) {
            (Some(place), Some(line)) => self.lines.get_mut(place).map(|old| std::mem::replace(old, line)),
            (Some(place), None) => Some(self.lines.remove(place)),
            (None, line) => {
                self.lines.extend(line);
                None
            }
        }
    }
}

impl Correction {
    fn is_at(&self, row: Row, print: RowHash, column: &str) -> bool {
        self.row == row && self.column == column && self.print.is_none_or(|own| own.all == print.all)
    }
}

fn correction_of(row: &dusk_files::ListRow, name: &str, problems: &mut Problems) -> Option<Correction> {
    let text = |index: usize| unguarded(row.untrimmed(index)).into_owned();
    let line: Line = row.line;
    let number = row.cell(0).parse().ok().filter(|number| *number > 0);
    if number.is_none() {
        problems
            .at(name, Some(line), format!("row \"{}\" is not a row number", row.cell(0)))
            .hint("write the number that a spreadsheet program shows beside the row");
    }
    let column = text(1);
    if column == WHOLE_ROW && text(3) != KEEP_OUT {
        problems
            .at(name, Some(line), format!("says \"{}\" of a whole row", text(3)))
            .hint(format!("a row can only be kept out: write {KEEP_OUT} under now"));
    }
    if column.is_empty() {
        problems.at(name, Some(line), "names no column").hint("write the heading of the column");
        return None;
    }
    let print = row.cell(7);
    let known = print.parse().ok();
    if column == WHOLE_ROW && print.is_empty() {
        problems
            .at(name, Some(line), "keeps a row out and does not say by what it is recognised")
            .hint(format!("run: dusk correct SOURCE {} --keep-out", row.cell(0)));
    }
    if known.is_none() && !print.is_empty() {
        problems
            .at(name, Some(line), format!("print \"{print}\" is not as the program writes it"))
            .hint("clear the cell: the row is then told by its number and by what it was");
    }
    Some(Correction {
        row: Row(number?),
        column,
        was: text(2),
        now: text(3),
        by: text(4),
        on: text(5),
        note: text(6),
        print: known,
    })
}

impl Corrections {
    /// Reads everything that was corrected in sources of the mapping at `mapping`.
    ///
    /// # Errors
    /// [`Error::File`] when a file is there but cannot be read.
    pub fn beside(mapping: &Path, problems: &mut Problems) -> Result<Self> {
        let folder = corrections_folder(mapping);
        if !folder.is_dir() {
            return Ok(Self::default());
        }
        let entries = std::fs::read_dir(&folder).map_err(Error::reading(&folder))?;
        let mut paths: Vec<PathBuf> = entries
            .flatten()
            .map(|entry| entry.path())
            .filter(|path| path.extension().is_some_and(|ending| ending == "csv"))
            .collect();
        paths.sort();
        let files = paths.iter().map(|path| CorrectionFile::read(path, problems)).collect::<Result<_>>()?;
        Ok(Self { files })
    }

    /// True when nothing was ever corrected.
    pub fn is_empty(&self) -> bool {
        self.files.iter().all(|file| file.lines.is_empty())
    }
}

/// The ending of what a file held before.
const BEFORE: &str = "before";

/// What a file holds; nothing of one that is not there.
fn bytes_of(path: &Path) -> Result<Vec<u8>> {
    match std::fs::read(path) {
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(Vec::new()),
        read => read.map_err(Error::reading(path)),
    }
}

fn hash_of(bytes: &[u8]) -> u64 {
    xxhash_rust::xxh3::xxh3_64(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn corrections_come_back_as_they_were_and_the_last_one_of_a_cell_counts() {
        let place = tempfile::tempdir().unwrap();
        let path = corrections_path(&place.path().join("mapping.toml"), "in/spring 2026.csv");
        assert!(path.ends_with("corrections/spring 2026.csv"));
        let mut problems = Problems::default();
        let mut file = CorrectionFile::read(&path, &mut problems).unwrap();
        let print = RowHash { all: 1, used: u64::MAX, key: 3 };
        let correction = |now: &str| Correction {
            row: Row(17),
            column: "Hive".into(),
            was: "=a\n1".into(),
            now: now.into(),
            by: "A. Clerk".into(),
            on: "2026-04-30".into(),
            note: String::new(),
            print: Some(print),
        };
        assert_eq!(file.set(correction(" b, ")), None);
        assert_eq!(file.set(correction("'c")).unwrap().now, " b, ");
        file.write(&Held::file(&path).unwrap()).unwrap();
        assert!(std::fs::read_to_string(&path).unwrap().contains("\"'=a\n1\""));
        let again = CorrectionFile::read(&path, &mut problems).unwrap();
        assert!(problems.is_empty(), "{problems}");
        assert_eq!(again.lines, [correction("'c")]);
        assert!(again.is_of("elsewhere/spring 2026.xlsx"));
        // As the source has it again: nothing is left to remember.
        assert!(file.set(correction("=a\n1")).is_some());
        file.write(&Held::file(&path).unwrap()).unwrap();
        assert!(!path.exists());
    }

    #[test]
    fn what_is_wrong_with_a_line_is_said_with_its_place() {
        let place = tempfile::tempdir().unwrap();
        let path = place.path().join("spring.csv");
        let print = "0000000000000001-0000000000000002-0000000000000003";
        for (line, says) in [
            ("x,Hive,a,b,,,,", "row \"x\" is not a row number"),
            ("0,Hive,a,b,,,,", "row \"0\" is not a row number"),
            ("2,,a,b,,,,", "names no column"),
            ("2,Hive,a,b,,,,12", "print \"12\" is not as the program writes it"),
            ("2,(row),,gone,,,,", "says \"gone\" of a whole row"),
            ("2,(row),,(keep out),,,,", "does not say by what it is recognised"),
        ] {
            std::fs::write(&path, format!("row,column,was,now,by,on,note,print\n{line}\n")).unwrap();
            let mut problems = Problems::default();
            CorrectionFile::read(&path, &mut problems).unwrap();
            let said = problems.to_string();
            assert!(said.contains(says) && said.contains("line 2"), "{line}: {said}");
        }
        // By hand it is enough to say where, and what was and is to be.
        std::fs::write(&path, "row,column,was,now\n2,Hive,a,b\n3,(row),,(keep out)\n").unwrap();
        let mut problems = Problems::default();
        let file = CorrectionFile::read(&path, &mut problems).unwrap();
        assert_eq!((file.lines[0].now.as_str(), file.lines[0].print), ("b", None));
        // What somebody else's line was recognised by is no other's.
        let print: RowHash = print.parse().unwrap();
        assert_eq!(print.to_string().parse(), Ok(print));
        assert_eq!(file.find(Row(2), print, "Hive").map(Correction::decided).as_deref(), Some("correction"));
        assert!(file.find(Row(2), print, "Date").is_none() && file.find(Row(4), print, "Hive").is_none());
        assert!(
            ["", "1-2-3", "00000000000000010000000000000002"]
                .iter()
                .all(|text| text.parse::<RowHash>().is_err())
        );
    }
}
