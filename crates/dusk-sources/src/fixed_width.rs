//! Fixed-width text: columns by the places of their characters, named by the mapping or told by the blanks that all
//! lines share.

use std::fs::File;
use std::io::{BufWriter, Write as _};
use std::sync::Arc;

use super::blocks::{Blocks, Start};
use super::delimiter::NO_DELIMITER;
use super::dialect::Dialect;
use super::encoding::EncodingChoice;
use super::position::Position;
use super::settled::Text;
use super::source_file::SourceFile;
use dusk_evidence::{Claim, Error, Evidence, Reading, Result, Verdict};
use dusk_workbooks::{CellKind, DAMAGED_RECORD, SPOOL_MARKS, push_spooled};

/// The column of what stands outside all positions.
const OUTSIDE: &str = "(outside the positions)";

/// How many lines that are not blank have to share their blanks.
const LEAST_LINES: usize = 3;

/// Columns that are told by the blanks which all lines share.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct SharedBlanks {
    pub(super) positions: Vec<Position>,
    /// How many lines share them.
    pub(super) lines: usize,
    /// The line of the headings, where the first one has a word above each column.
    pub(super) headings: Option<u64>,
}

impl SharedBlanks {
    /// Those of a text that begins so; nothing where its lines leave no two columns between them.
    pub(super) fn of(text: &str) -> Option<Self> {
        let mut lines: Vec<(u64, &str)> = (1..).zip(text.lines()).collect();
        if !text.ends_with(['\n', '\r']) {
            // The head of a file may end in the middle of a line.
            lines.pop();
        }
        lines.retain(|(_, line)| !line.trim().is_empty());
        let (first, rest) = lines.split_first()?;
        if rest.len() + 1 < LEAST_LINES || lines.iter().any(|(_, line)| line.contains('\t')) {
            return None;
        }
        let below = filled_runs(rest.iter().map(|(_, line)| *line));
        let mut columns: Vec<(usize, usize)> = Vec::new();
        for run in filled_runs(lines.iter().map(|(_, line)| *line)) {
            let has_values = below.iter().any(|(from, to)| *from < run.1 && run.0 < *to);
            match columns.last_mut() {
                // A heading of two words stands above shorter values.
                Some((_, end)) if !has_values => *end = run.1,
                _ => columns.push(run),
            }
        }
        // Two columns with one blank between them may as well be the words of one.
        let are_close = matches!(columns.as_slice(), [(_, end), (from, _)] if from - end < 2);
        if columns.len() < 2 || are_close {
            return None;
        }
        let words: Vec<String> = columns.iter().map(|(from, to)| between(first.1, *from, *to)).collect();
        let is_word = |word: &String| {
            word.starts_with(char::is_alphabetic) && words.iter().filter(|other| *other == word).count() == 1
        };
        let headings = words.iter().all(is_word).then_some(first.0);
        let column = |(number, ((from, to), word)): (usize, (&(usize, usize), &String))| Position {
            name: if headings.is_some() { word.clone() } else { number.to_string() },
            from: from + 1,
            to: Some(*to),
        };
        let positions = (1..).zip(columns.iter().zip(&words)).map(column).collect();
        Some(Self { positions, lines: lines.len(), headings })
    }

    /// Whether nothing else can be meant: a heading above each of several columns.
    pub(super) fn are_proven(&self) -> bool {
        self.headings.is_some() && self.positions.len() > 2 && self.lines > LEAST_LINES
    }

    /// Whether the line of the headings has a mark that parts cells elsewhere.
    pub(super) fn headings_have_marks(&self, text: &str) -> bool {
        let first = text.lines().find(|line| !line.trim().is_empty());
        first.is_some_and(|line| line.contains([',', ';', '\t', '|']))
    }

    /// What they are called.
    pub(super) fn name(&self) -> String {
        format!("fixed width, {} columns", self.positions.len())
    }

    /// The lines of the mapping that name them.
    pub(super) fn settle(&self) -> Vec<String> {
        let written: Vec<String> =
            self.positions.iter().map(|position| format!("{:?}", position.written())).collect();
        let mut lines = vec!["[source]".to_owned(), format!("positions = [{}]", written.join(", "))];
        lines.extend(self.headings.map(|line| format!("header_row = {line}")));
        lines
    }

    /// What speaks for them.
    pub(super) fn evidence(&self) -> Evidence {
        let mut evidence = if self.are_proven() {
            Evidence::new(Claim::Delimiter, Verdict::Proven(self.name()))
        } else {
            let readings = vec![self.name(), "one column".into()];
            Evidence {
                settle: self.settle(),
                ..Evidence::new(Claim::Delimiter, Verdict::Undecided(readings))
            }
        };
        let counted = format!("lines share the blanks between {} columns", self.positions.len());
        evidence.readings.push(Reading { supports: self.lines as u64, counted, ..Reading::default() });
        evidence
    }
}

/// The runs of characters of which some line has one that is not blank, each from 0 and without its end.
fn filled_runs<'l>(lines: impl Iterator<Item = &'l str>) -> Vec<(usize, usize)> {
    let mut filled: Vec<bool> = Vec::new();
    for line in lines {
        for (place, letter) in line.chars().enumerate() {
            if place >= filled.len() {
                filled.push(false);
            }
            if let Some(filled) = filled.get_mut(place).filter(|_| letter != ' ') {
                *filled = true;
            }
        }
    }
    let mut runs: Vec<(usize, usize)> = Vec::new();
    for (place, _) in filled.iter().enumerate().filter(|(_, filled)| **filled) {
        match runs.last_mut().filter(|(_, end)| *end == place) {
            Some((_, end)) => *end = place + 1,
            None => runs.push((place, place + 1)),
        }
    }
    runs
}

/// The characters from `from` to before `to` without the blanks around them.
fn between(line: &str, from: usize, to: usize) -> String {
    line.chars().skip(from).take(to - from).collect::<String>().trim().to_owned()
}

/// A line cut into cells.
struct Cut {
    cells: Vec<String>,
    /// What stands outside all positions.
    outside: String,
}

/// Cuts a line into cells.
///
/// # Errors
/// Names the column whose value reaches beyond its positions.
fn cut(line: &str, positions: &[Position]) -> std::result::Result<Cut, String> {
    let letters: Vec<char> = line.chars().collect();
    let owner = |place: usize| {
        positions
            .iter()
            .position(|position| position.from <= place + 1 && position.to.is_none_or(|to| place < to))
    };
    let mut cells = vec![String::new(); positions.len()];
    let mut outside = String::new();
    let mut before: Option<(Option<usize>, bool)> = None;
    for (place, letter) in letters.iter().enumerate() {
        let (mine, is_blank) = (owner(place), letter.is_whitespace());
        if let Some((theirs, false)) =
            before.filter(|(theirs, _)| !is_blank && theirs.is_none() != mine.is_none())
        {
            let position = theirs.or(mine).and_then(|owner| positions.get(owner));
            return Err(position.map_or_else(String::new, |position| {
                format!("a value reaches beyond the characters {} of its column", position.written())
            }));
        }
        match mine.and_then(|owner| cells.get_mut(owner)) {
            Some(cell) => cell.push(*letter),
            None => outside.push(*letter),
        }
        before = Some((mine, is_blank));
    }
    for cell in &mut cells {
        *cell = cell.trim().to_owned();
    }
    Ok(Cut { cells, outside: outside.trim().to_owned() })
}

/// Writes the lines as rows of cells, and tells whether anything stands outside the positions.
fn write_cut(mut blocks: Blocks, dialect: &Dialect, positions: &[Position], out: &File) -> Result<bool> {
    let folder = std::env::temp_dir();
    let mut writer = BufWriter::with_capacity(1 << 18, out);
    let mut any_outside = false;
    let (mut text, mut row_text) = (String::new(), String::new());
    while let Some(block) = blocks.next(text)? {
        let mut rows = block.rows(dialect);
        while let Some(row) = rows.next() {
            row_text.clear();
            match cut(row.nth(0), positions) {
                Err(says) => {
                    row_text.push(DAMAGED_RECORD);
                    row_text.push_str(&says);
                }
                Ok(cut) => {
                    any_outside |= !cut.outside.is_empty();
                    for cell in cut.cells.iter().chain(Some(&cut.outside).filter(|text| !text.is_empty())) {
                        push_spooled(&mut row_text, CellKind::Text, cell);
                        row_text.push_str(SPOOL_MARKS.0);
                    }
                    row_text.pop();
                }
            }
            row_text.push('\n');
            writer.write_all(row_text.as_bytes()).map_err(Error::writing(&folder))?;
        }
        text = block.text;
    }
    writer.flush().map_err(Error::writing(&folder))?;
    Ok(any_outside)
}

impl Text {
    /// Cuts its lines into cells at the places of their characters; `name` is the source's. Each line is a row.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read or written.
    pub(super) fn cut(&mut self, positions: &[Position], name: &str) -> Result<()> {
        let dialect = Dialect::new(NO_DELIMITER, "");
        let file = self.file.reader();
        let blocks = Blocks::new(file, self.encoding, dialect.clone(), &self.start, None, Arc::default());
        let out = tempfile::tempfile().map_err(Error::writing(&std::env::temp_dir()))?;
        let outside = write_cut(blocks, &dialect, positions, &out)?;
        self.file = SourceFile::own(out, name);
        self.dialect = Some(Dialect::of_a_sheet());
        self.encoding = EncodingChoice { encoding: encoding_rs::UTF_8, other_lines: None, mark: 0 };
        self.start = Start { unpacked: true, ..Start::default() };
        let mut columns: Vec<String> = positions.iter().map(|position| position.name.clone()).collect();
        columns.extend(outside.then(|| OUTSIDE.to_owned()));
        self.columns = Some(columns);
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const TABLE: &str = "Hive No  Town       Honey\n117      Vik          4.5\n290      Upper Fen   12\n1208     Öst Quay    123\n";

    fn shown(line: &str, positions: &[&str]) -> std::result::Result<(Vec<String>, String), String> {
        let positions: Vec<Position> = positions.iter().map(|text| Position::read(text).unwrap()).collect();
        cut(line, &positions).map(|cut| (cut.cells, cut.outside))
    }

    #[test]
    fn columns_are_told_by_the_blanks_that_all_lines_share() {
        let found = SharedBlanks::of(TABLE).unwrap();
        let written: Vec<String> = found.positions.iter().map(Position::written).collect();
        assert_eq!(written, ["1-7 Hive No", "10-18 Town", "21-25 Honey"], "a heading of two words is one");
        assert_eq!((found.headings, found.lines, found.are_proven()), (Some(1), 4, true));
        let nameless = SharedBlanks::of("117  white\n290  red  \n301  sky\n").unwrap();
        assert!(!nameless.are_proven() && nameless.settle()[1] == "positions = [\"1-3 1\", \"6-10 2\"]");
        assert_eq!(
            SharedBlanks::of("It was a dark and\nstormy night, with\nrain in the town\nall day\n"),
            None
        );
        assert_eq!(SharedBlanks::of("a  b\nc  d\n"), None, "two lines prove nothing");
        assert_eq!(SharedBlanks::of("H 1\nH 2\nH 3\n"), None, "they may be one column");
    }

    #[test]
    fn nothing_in_a_line_is_lost_or_cut_in_two() {
        let positions = ["1-4 No", "6-9 Town"];
        assert_eq!(shown("117  Vik", &positions), Ok((vec!["117".into(), "Vik".into()], String::new())));
        assert_eq!(shown("117  Vik  wet", &positions), Ok((vec!["117".into(), "Vik".into()], "wet".into())));
        assert_eq!(shown("", &positions), Ok((vec![String::new(), String::new()], String::new())));
        let beyond = shown("117  Vikland", &positions).unwrap_err();
        assert!(beyond.contains("beyond the characters 6-9 Town"), "{beyond}");
        assert!(shown("11700Vik", &positions).unwrap_err().contains("1-4 No"));
        let close = ["1-4 No", "5- Town"];
        assert_eq!(shown("1170Vikland", &close), Ok((vec!["1170".into(), "Vikland".into()], String::new())));
        for wrong in ["6-1 No", "0-3 No", "No", "1-3", "x-3 No"] {
            assert_eq!(Position::read(wrong), None, "{wrong}");
        }
    }
}
