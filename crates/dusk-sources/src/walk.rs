//! The one way through the rows of a source: a block at a time, the buffers used again.

use super::{Block, Blocks, Dialect, RowBuffers, Rows, Source};
use dusk_evidence::{Line, Result, Row};

/// Goes through the records of a source in order, from the first below the header to the last.
///
/// ```
/// # use dusk_sources::{Known, Source, SourceSettings};
/// # fn main() -> dusk_evidence::Result<()> {
/// # let folder = tempfile::tempdir().expect("a folder");
/// # let path = folder.path().join("hives.csv");
/// # std::fs::write(&path, "Hive,Frames\nH1,8\nH2,10\n").expect("a file");
/// let source = Source::open(&path, &SourceSettings::default(), &Known::headings(&["Hive"]))?;
/// let mut frames = Vec::new();
/// let mut walk = source.walk()?;
/// while let Some(mut rows) = walk.more()? {
///     while let Some(row) = rows.next() {
///         frames.push((row.row().0, row.nth(1).to_owned()));
///     }
/// }
/// assert_eq!(frames, [(2, "8".to_owned()), (3, "10".to_owned())]);
/// # Ok(())
/// # }
/// ```
///
/// Several threads go through rows with [`in_order`](crate::in_order).
#[derive(Debug)]
pub struct Walk<'s> {
    blocks: Blocks,
    dialect: &'s Dialect,
    block: Option<Block>,
}

impl Walk<'_> {
    /// The rows of the next block; nothing at the end.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when reading fails;
    /// [`Error::Source`](dusk_evidence::Error::Source) when a row has no end.
    pub fn more(&mut self) -> Result<Option<Rows<'_>>> {
        let text = self.block.take().map_or_else(String::new, |block| block.text);
        self.block = self.blocks.next(text)?;
        Ok(self.block.as_ref().map(|block| block.rows(self.dialect)))
    }

    /// How many bytes of the file have been read with the block at hand.
    pub fn bytes_read(&self) -> u64 {
        self.block.as_ref().map_or(0, |block| block.bytes_read)
    }
}

impl Source {
    /// The row in a stretch of text that was met on a walk; its place is known from there.
    pub fn row_again<'t>(&'t self, text: &'t str, row: Row, line: Line) -> Rows<'t> {
        Rows::starting_at(text, &self.dialect, row, line, RowBuffers::default())
    }

    /// A walk through its records, with the corrected cells.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the file cannot be opened again.
    pub fn walk(&self) -> Result<Walk<'_>> {
        Ok(Walk { blocks: self.blocks()?, dialect: &self.dialect, block: None })
    }

    /// The same as the file has them.
    ///
    /// # Errors
    /// As [`Source::walk`].
    pub fn walk_as_exported(&self) -> Result<Walk<'_>> {
        Ok(Walk { blocks: self.blocks_as_exported()?, dialect: &self.dialect, block: None })
    }
}
