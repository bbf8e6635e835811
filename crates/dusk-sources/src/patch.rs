//! Cells that a steward has corrected, put into the rows as if the source had them.
//!
//! The source itself is never written to. Whoever reads its blocks meets the corrected rows, so that a
//! correction has the same effect everywhere as if somebody had edited the export by hand.

use std::collections::BTreeMap;

use super::Block;
use super::dialect::Dialect;
use dusk_evidence::{ColumnId, Id as _, Line, Row};

/// A corrected cell of one row.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Patch {
    /// The column, from 0; the one after the last stands for what is beyond the header.
    pub column: ColumnId,
    /// What the source has.
    pub was: String,
    /// What is taken instead.
    pub now: String,
    /// Who decided, and when.
    pub why: String,
}

/// The corrected cells of a source, row by row.
#[derive(Debug, Clone, Default)]
pub struct Patches {
    rows: BTreeMap<u64, Vec<Patch>>,
    /// The rows that are kept out, each with who decided it.
    kept_out: BTreeMap<u64, String>,
    width: usize,
}

impl Patches {
    /// No corrections yet, of a source with `width` columns.
    pub fn new(width: usize) -> Self {
        Self { rows: BTreeMap::new(), kept_out: BTreeMap::new(), width }
    }

    /// Adds a correction; one of the same cell is replaced.
    pub fn add(&mut self, row: Row, patch: Patch) {
        let patches = self.rows.entry(row.0).or_default();
        patches.retain(|other| other.column != patch.column);
        patches.push(patch);
    }

    /// Keeps a whole row out, as `why` says.
    pub fn keep_out(&mut self, row: Row, why: String) {
        self.kept_out.insert(row.0, why);
    }

    /// Who decided that a row is kept out; nothing where nobody has.
    pub fn kept_out(&self, row: Row) -> Option<&str> {
        self.kept_out.get(&row.0).map(String::as_str)
    }

    /// The corrected cells of a row.
    pub fn at(&self, row: Row) -> &[Patch] {
        self.rows.get(&row.0).map_or(&[], Vec::as_slice)
    }

    /// Every corrected cell with its row, row by row.
    pub fn iter(&self) -> impl Iterator<Item = (Row, &Patch)> {
        self.rows.iter().flat_map(|(row, patches)| patches.iter().map(|patch| (Row(*row), patch)))
    }

    /// How many cells are corrected.
    pub fn len(&self) -> usize {
        self.rows.values().map(Vec::len).sum()
    }

    /// True when nothing is corrected.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// The block with its corrected rows. Where a correction changes how many lines a row takes, the rows
    /// after it come in a block of their own, so that lines are still those of the source.
    pub fn applied(&self, block: Block, dialect: &Dialect) -> Vec<Block> {
        if self.rows.range(block.row.0..).next().is_none() {
            return vec![block];
        }
        let mut blocks = Vec::new();
        let (mut text, mut begins) = (String::new(), (block.row, block.line));
        let mut copied = 0;
        let mut rows = block.rows(dialect);
        loop {
            let offset = rows.offset();
            let Some(row) = rows.next() else { break };
            let patches = self.at(row.row());
            if patches.is_empty() {
                continue;
            }
            text.push_str(block.text.get(copied..offset).unwrap_or_default());
            let cells: Vec<(&str, bool)> = row
                .cells()
                .enumerate()
                .map(|(place, cell)| (cell, row.is_quoted(ColumnId::new(place))))
                .collect();
            let (row_number, line, lines) = (row.row(), row.line(), row.lines());
            let end = row.range().end;
            let before = text.len();
            write_row(&cells, patches, self.width, dialect, &mut text);
            let breaks = line_breaks(text.get(before..).unwrap_or_default());
            let next = rows.offset();
            text.push_str(block.text.get(end..next).unwrap_or_default());
            copied = next;
            if breaks + 1 != lines && !dialect.is_sheet() {
                let (row, first_line) = begins;
                let text = std::mem::take(&mut text);
                blocks.push(Block { text, row, line: first_line, bytes_read: block.bytes_read });
                begins = (Row(row_number.0 + 1), Line(line.0 + lines));
            }
        }
        text.push_str(block.text.get(copied..).unwrap_or_default());
        if !text.is_empty() {
            let (row, line) = begins;
            blocks.push(Block { text, row, line, bytes_read: block.bytes_read });
        }
        blocks
    }
}

fn line_breaks(text: &str) -> u64 {
    let pairs = text.matches("\r\n").count();
    (text.bytes().filter(|byte| matches!(byte, b'\n' | b'\r')).count() - pairs) as u64
}

/// Writes a row with its corrected cells. It has as many cells as the header, and beyond them what it had
/// there already.
fn write_row(cells: &[(&str, bool)], patches: &[Patch], width: usize, dialect: &Dialect, out: &mut String) {
    // What is beyond the header and blank is not seen, so it is not kept either.
    let blank_beyond = cells.iter().skip(width).all(|(cell, _)| cell.trim().is_empty());
    let drops_the_rest = blank_beyond || patches.iter().any(|patch| patch.column.index() >= width);
    let count = if drops_the_rest { width } else { cells.len().max(width) };
    for place in 0..count {
        if place > 0 {
            out.push_str(dialect.delimiter());
        }
        let (cell, quoted) = cells.get(place).copied().unwrap_or(("", false));
        let corrected = patches.iter().find(|patch| patch.column.index() == place);
        let cell = corrected.map_or(cell, |patch| patch.now.as_str());
        write_cell(cell, quoted, dialect, out);
    }
}

fn write_cell(cell: &str, quoted: bool, dialect: &Dialect, out: &mut String) {
    let quote = dialect.quote();
    // Part of a long delimiter at the end of a cell would run together with the delimiter itself.
    let needs_quotes = cell.contains(['\n', '\r'])
        || cell.contains(|letter| dialect.delimiter().contains(letter))
        || (!quote.is_empty() && cell.starts_with(quote));
    if quote.is_empty() || !(quoted || needs_quotes) {
        out.push_str(cell);
        return;
    }
    out.push_str(quote);
    let escape = dialect.escape();
    if escape.is_empty() {
        out.push_str(&cell.replace(quote, &format!("{quote}{quote}")));
    } else {
        let mut escaped = cell.replace(escape, &format!("{escape}{escape}"));
        if escape != quote {
            escaped = escaped.replace(quote, &format!("{escape}{quote}"));
        }
        out.push_str(&escaped);
    }
    out.push_str(quote);
}

/// Why a text cannot stand in a cell of such a source; nothing where it can.
pub fn cannot_hold(text: &str, dialect: &Dialect) -> Option<&'static str> {
    if !dialect.quote().is_empty() {
        return None;
    }
    if text.contains(|letter| dialect.delimiter().contains(letter)) {
        return Some("holds the delimiter, and the mapping says that nothing in this source is quoted");
    }
    text.contains(['\n', '\r'])
        .then_some("holds a line break, and the mapping says that nothing in this source is quoted")
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    type Table = Vec<(u64, u64, Vec<String>)>;

    fn table(blocks: &[Block], dialect: &Dialect) -> Table {
        let mut all = Vec::new();
        for block in blocks {
            let mut rows = block.rows(dialect);
            while let Some(row) = rows.next() {
                all.push((row.row().0, row.line().0, row.cells().map(str::to_owned).collect()));
            }
        }
        all
    }

    proptest! {
        /// Whatever is put into whichever cell, it is read back, and every other cell, row and line is
        /// what it was.
        #[test]
        fn a_corrected_cell_is_read_back_and_nothing_else_moves(
            rows in prop::collection::vec(prop::collection::vec("[ab;\"\\\\\r\n ]{0,4}", 3), 1..6),
            corrected in prop::collection::vec((0..6_u64, 0..3_usize, "[ab;\"\\\\\r\n ]{0,4}"), 0..4),
            escape in "\\\\?",
        ) {
            let dialect = Dialect::new(";", "\"").escaped_by(escape);
            let mut text = String::new();
            for row in &rows {
                let cells: Vec<(&str, bool)> = row.iter().map(|cell| (cell.as_str(), true)).collect();
                write_row(&cells, &[], 3, &dialect, &mut text);
                text.push('\n');
            }
            let block = Block { text, row: Row(5), line: Line(9), bytes_read: 0 };
            let whole = vec![Block { text: block.text.clone(), ..block }];
            let mut expected = table(&whole, &dialect);
            let mut patches = Patches::new(3);
            for (row, column, now) in &corrected {
                patches.add(
                    Row(5 + row),
                    Patch { column: ColumnId::new(*column), was: String::new(), now: now.clone(), why: String::new() },
                );
                if let Some(row) = expected.get_mut(usize::try_from(*row).unwrap()) {
                    row.2[*column] = now.clone();
                }
            }
            let block = Block { text: whole[0].text.clone(), ..whole[0] };
            prop_assert_eq!(table(&patches.applied(block, &dialect), &dialect), expected);
        }
    }

    #[test]
    fn a_torn_row_that_is_corrected_is_taken_as_it_is_shown() {
        let dialect = Dialect::new(",", "\"");
        let rows = |patches: &[(usize, &str)]| {
            let mut all = Patches::new(3);
            for (column, now) in patches {
                let patch = Patch {
                    column: ColumnId::new(*column),
                    was: String::new(),
                    now: (*now).into(),
                    why: String::new(),
                };
                all.add(Row(1), patch);
            }
            let block = Block { text: "a,b\nc\n".into(), row: Row(1), line: Line(1), bytes_read: 0 };
            all.applied(block, &dialect).concat_text()
        };
        assert_eq!(rows(&[(0, "x")]), "x,b,\nc\n");
        assert_eq!(rows(&[(1, "x,y")]), "a,\"x,y\",\nc\n");
        let long = Block { text: "a,b,c,d,e\n".into(), row: Row(1), line: Line(1), bytes_read: 0 };
        let mut all = Patches::new(3);
        all.add(
            Row(1),
            Patch { column: ColumnId::new(3), was: "d,e".into(), now: String::new(), why: String::new() },
        );
        assert_eq!(all.applied(long, &dialect).concat_text(), "a,b,c\n");
    }

    trait ConcatText {
        fn concat_text(&self) -> String;
    }

    impl ConcatText for Vec<Block> {
        fn concat_text(&self) -> String {
            self.iter().map(|block| block.text.as_str()).collect()
        }
    }
}
