//! One row: its cells, and where it stands.

use dusk_evidence::{ColumnId, Id as _, Line, Row};
use dusk_values::ShortText;

/// Where a cell is: in the text, or among what was unescaped.
#[derive(Debug, Clone, Copy)]
pub(super) struct Span {
    pub(super) start: u32,
    pub(super) end: u32,
    unescaped: bool,
}

impl Span {
    /// A span of the text, which is a block of rows and far shorter than four gigabytes.
    pub(super) fn of_text(start: usize, end: usize) -> Self {
        Self { start: start as u32, end: end as u32, unescaped: false }
    }

    /// A span of the unescaped text.
    pub(super) fn of_unescaped(start: usize, end: usize) -> Self {
        Self { unescaped: true, ..Self::of_text(start, end) }
    }

    pub(super) fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }
}

/// One row: its cells, and where it stands.
#[derive(Debug, Clone, Copy)]
pub struct RowCells<'r> {
    pub(super) text: &'r str,
    pub(super) spans: &'r [Span],
    pub(super) unescaped: &'r str,
    pub(super) row: Row,
    pub(super) line: Line,
    pub(super) start: usize,
    pub(super) end: usize,
    pub(super) closed: bool,
    pub(super) misquoted: bool,
    pub(super) lines: u64,
    pub(super) quote: &'r str,
}

/// Room for a row whose cells were put together again.
#[derive(Debug, Default)]
pub struct Rejoined(Vec<Span>);

impl<'r> RowCells<'r> {
    /// The row with cells put together, delimiters included: for each of `places`, in order, the cell
    /// there and the one after it. Nothing where one of them is quoted, since no delimiter split it.
    #[inline]
    pub fn rejoined<'b>(&self, places: &[usize], room: &'b mut Rejoined) -> Option<RowCells<'b>>
    where
        'r: 'b,
    {
        let spans = &mut room.0;
        spans.clear();
        spans.extend_from_slice(self.spans);
        for place in places {
            let (first, next) = (*spans.get(*place)?, *spans.get(place + 1)?);
            if self.stands_in_quotes(first) || self.stands_in_quotes(next) {
                return None;
            }
            spans.remove(place + 1);
            spans.get_mut(*place)?.end = next.end;
        }
        Some(RowCells { spans, ..*self })
    }

    fn stands_in_quotes(&self, span: Span) -> bool {
        let before = || self.text.get(self.start..span.start as usize);
        !self.quote.is_empty()
            && (span.unescaped || before().is_some_and(|before| before.ends_with(self.quote)))
    }

    /// The cell of a column, without its quotes; empty beyond the last one.
    #[inline]
    pub fn cell(&self, column: ColumnId) -> &'r str {
        self.nth(column.index())
    }

    /// The cell at `index` from 0, in a table whose columns are always the same.
    #[inline]
    pub fn nth(&self, index: usize) -> &'r str {
        match self.spans.get(index) {
            Some(span) => {
                let text = if span.unescaped { self.unescaped } else { self.text };
                text.get(span.range()).unwrap_or_default()
            }
            None => "",
        }
    }

    /// The cell of a column as a short text; nothing for a long one.
    #[inline]
    pub fn short_cell(&self, column: ColumnId) -> Option<ShortText> {
        let Some(span) = self.spans.get(column.index()) else { return Some(ShortText::default()) };
        let text = if span.unescaped { self.unescaped } else { self.text };
        ShortText::within(text.as_bytes(), span.start as usize, span.end as usize)
    }

    /// The cells in order.
    #[inline]
    pub fn cells(&self) -> impl Iterator<Item = &'r str> + use<'r> {
        let row = *self;
        (0..self.spans.len()).map(move |index| row.nth(index))
    }

    /// How many cells there are.
    #[inline]
    pub fn len(&self) -> usize {
        self.spans.len()
    }

    /// True for a row without a cell, which no text has.
    #[inline]
    pub fn is_empty(&self) -> bool {
        self.spans.is_empty()
    }

    /// True when no cell holds more than white space.
    #[inline]
    pub fn is_blank(&self) -> bool {
        // Most rows begin with a plain letter or digit.
        let plain = |cell: &str| cell.bytes().next().is_some_and(|byte| byte.is_ascii_graphic());
        self.cells().all(|cell| !plain(cell) && cell.trim().is_empty())
    }

    /// The row's number as a spreadsheet program shows it.
    #[inline]
    pub fn row(&self) -> Row {
        self.row
    }

    /// The line on which the row begins.
    #[inline]
    pub fn line(&self) -> Line {
        self.line
    }

    /// The row as it is written, without its line end, as a range of the text in bytes.
    #[inline]
    pub fn range(&self) -> std::ops::Range<usize> {
        self.start..self.end
    }

    /// The row as it is written, without its line end.
    #[inline]
    pub fn written(&self) -> &'r str {
        self.text.get(self.range()).unwrap_or_default()
    }

    /// Whether the cell at `index` from 0 stands between quotes.
    #[inline]
    pub fn is_quoted(&self, column: ColumnId) -> bool {
        self.spans.get(column.index()).is_some_and(|span| self.stands_in_quotes(*span))
    }

    /// How many lines the row takes.
    #[inline]
    pub fn lines(&self) -> u64 {
        self.lines
    }

    /// False when a quoted cell in it is never closed, so that the row was ended with its line.
    #[inline]
    pub fn is_closed(&self) -> bool {
        self.closed
    }

    /// True when something other than a delimiter followed a closing quote.
    #[inline]
    pub fn is_misquoted(&self) -> bool {
        self.misquoted
    }
}
