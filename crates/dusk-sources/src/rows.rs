//! Text becomes rows of cells: RFC 4180 and its everyday variants.
//!
//! A row ends at a line feed, a carriage return, or both together. A quote opens a quoted cell
//! only where the cell begins; anywhere else it is an ordinary character. A quoted cell may hold
//! delimiters, line breaks and doubled quotes. What follows a closing quote must be a delimiter
//! or the end of the row: a row where it is not is marked as misquoted and never guessed at.
//!
//! A quote that is never closed, or that only a quote in a later row closes, would swallow the rows
//! after it. It is contained: its row ends with its line, is marked as not closed, and the next
//! line begins a row of its own.

use memchr::{memchr, memchr2_iter, memchr3};

/// The longest quoted cell that is believed, in bytes; a longer one was never closed.
const LONGEST_CELL: usize = 1024 * 1024;

use super::dialect::Dialect;
use super::marks::Marks;
use super::row_cells::{RowCells, Span};
use dusk_evidence::{Line, Row};

/// The whole rows at the start of a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Complete {
    /// Where the last whole row ends, in bytes.
    pub(super) end: usize,
    /// How many rows there are up to there.
    pub(super) rows: u64,
    /// How many lines there are up to there.
    pub(super) lines: u64,
}

/// Finds the whole rows at the start of `text`, when more text may follow. The last row counts
/// only if its end is certain: a carriage return at the very end may yet be half of a pair.
pub(super) fn complete_rows(text: &str, dialect: &Dialect) -> Complete {
    let bytes = text.as_bytes();
    let (_, quote) = dialect.first_bytes();
    if dialect.quote().is_empty() || memchr(quote, bytes).is_none() {
        return complete_lines(bytes);
    }
    let mut complete = Complete { end: 0, rows: 0, lines: 0 };
    // Inside a quoted cell: where the cell begins, and its first line end with the lines before it.
    let mut inside: Option<(usize, Option<(usize, u64)>)> = None;
    let mut at = 0;
    let mut lines = 0;
    loop {
        let found = memchr3(quote, b'\n', b'\r', bytes.get(at..).unwrap_or_default()).map(|found| at + found);
        if let Some((cell, Some((line_end, lines_there)))) = inside
            && found.unwrap_or(bytes.len()).saturating_sub(cell) > LONGEST_CELL
        {
            lines = lines_there + 1;
            complete = Complete { end: line_end, rows: complete.rows + 1, lines };
            (at, inside) = (line_end, None);
            continue;
        }
        let Some(found) = found else { return complete };
        at = found + 1;
        if matches!(bytes.get(found), Some(b'\n' | b'\r')) {
            let Some(end) = line_end(bytes, found) else { continue };
            match &mut inside {
                Some((_, first)) => {
                    first.get_or_insert((end, lines));
                    lines += 1;
                }
                None => {
                    lines += 1;
                    complete = Complete { end, rows: complete.rows + 1, lines };
                }
            }
        } else if starts(bytes, found, dialect.quote()) {
            let after = found + dialect.quote().len();
            if let Some((cell, first)) = inside {
                let doubled = bytes.get(after) == Some(&quote) && starts(bytes, after, dialect.quote());
                if dialect.is_escaped(bytes, cell, found) {
                    at = after;
                } else if doubled {
                    at = after + dialect.quote().len();
                } else {
                    let rest = bytes.get(after..).unwrap_or_default();
                    match first {
                        Some((end, lines_there))
                            if !ends_cell(rest, dialect)
                                && !dialect.delimiter().as_bytes().starts_with(rest) =>
                        {
                            lines = lines_there + 1;
                            complete = Complete { end, rows: complete.rows + 1, lines };
                            at = end;
                        }
                        _ => at = after,
                    }
                    inside = None;
                }
            } else if found == complete.end || ends(bytes.get(complete.end..found), dialect.delimiter()) {
                (inside, at) = (Some((after, None)), after);
            }
        }
    }
}

/// Whole rows where there are no quotes: every line is one.
fn complete_lines(bytes: &[u8]) -> Complete {
    let mut complete = Complete { end: 0, rows: 0, lines: 0 };
    for at in memchr2_iter(b'\n', b'\r', bytes) {
        if let Some(end) = line_end(bytes, at) {
            complete = Complete { end, rows: complete.rows + 1, lines: complete.lines + 1 };
        }
    }
    complete
}

/// Whether what follows a closing quote ends the cell: a delimiter, or the end of the row.
fn ends_cell(rest: &[u8], dialect: &Dialect) -> bool {
    matches!(rest.first(), None | Some(b'\n' | b'\r')) || rest.starts_with(dialect.delimiter().as_bytes())
}

/// Whether `wanted`, whose first byte stands at `at`, stands there whole. Nearly every delimiter
/// and quote is one byte.
#[inline]
fn starts(bytes: &[u8], at: usize, wanted: &str) -> bool {
    match wanted.len() {
        0 => false,
        1 => true,
        _ => bytes.get(at..).is_some_and(|rest| rest.starts_with(wanted.as_bytes())),
    }
}

/// Whether a row so far ends with a delimiter.
fn ends(row: Option<&[u8]>, delimiter: &str) -> bool {
    row.is_some_and(|row| match delimiter.as_bytes() {
        [single] => row.last() == Some(single),
        delimiter => row.ends_with(delimiter),
    })
}

/// Where the line that ends at `at` is over, or nothing for the first half of a pair (its second
/// half ends the line) and for a carriage return at the very end.
fn line_end(bytes: &[u8], at: usize) -> Option<usize> {
    match (bytes.get(at), bytes.get(at + 1)) {
        (Some(b'\r'), Some(b'\n') | None) => None,
        _ => Some(at + 1),
    }
}

/// Walks over the rows of a text. Each row borrows the walker's buffers, so that reading a row
/// costs no allocation.
#[derive(Debug)]
pub struct Rows<'a> {
    text: &'a str,
    dialect: &'a Dialect,
    at: usize,
    row: Row,
    line: Line,
    spans: Vec<Span>,
    unescaped: String,
    delimiter: u8,
    quote: u8,
    /// The places at which a cell or a row may begin or end.
    marks: Vec<usize>,
    next_mark: usize,
}

impl<'a> Rows<'a> {
    /// Begins at row 1, line 1 of `text`.
    pub fn new(text: &'a str, dialect: &'a Dialect) -> Self {
        Self::starting_at(text, dialect, Row(1), Line::FIRST, RowBuffers::default())
    }

    /// Begins at the given row and line, with buffers that were used before.
    pub fn starting_at(
        text: &'a str,
        dialect: &'a Dialect,
        row: Row,
        line: Line,
        buffers: RowBuffers,
    ) -> Self {
        let (delimiter, quote) = dialect.first_bytes();
        let RowBuffers { spans, unescaped, mut marks } = buffers;
        Marks::new(delimiter, quote).find(text.as_bytes(), &mut marks);
        Self { text, dialect, at: 0, row, line, spans, unescaped, delimiter, quote, marks, next_mark: 0 }
    }

    /// Gives the buffers back for the next block.
    pub fn into_buffers(self) -> RowBuffers {
        RowBuffers { spans: self.spans, unescaped: self.unescaped, marks: self.marks }
    }

    /// How far into the text the next row begins, in bytes.
    pub fn offset(&self) -> usize {
        self.at
    }

    /// The next row, or nothing at the end of the text.
    #[expect(clippy::should_implement_trait, reason = "a row borrows from the walker")]
    pub fn next(&mut self) -> Option<RowCells<'_>> {
        if self.at >= self.text.len() {
            return None;
        }
        self.spans.clear();
        self.unescaped.clear();
        let (row, start) = (self.row, self.at);
        let line = if self.dialect.is_sheet() { Line(row.0) } else { self.line };
        let ending = self.split();
        self.row.0 += 1;
        self.line.0 += 1 + ending.inner_lines;
        self.at = ending.next;
        Some(RowCells {
            text: self.text,
            spans: &self.spans,
            unescaped: &self.unescaped,
            row,
            line,
            start,
            end: ending.end,
            closed: ending.closed,
            misquoted: ending.misquoted,
            lines: 1 + ending.inner_lines,
            quote: self.dialect.quote(),
        })
    }

    fn split(&mut self) -> Ending {
        let text = self.text;
        let bytes = text.as_bytes();
        let mut ending =
            Ending { end: bytes.len(), next: bytes.len(), inner_lines: 0, closed: true, misquoted: false };
        let mut cell = self.at;
        while let Some(at) = self.mark() {
            // What lies before the cell was read with the mark before it: half of a line end, or
            // the rest of a long delimiter.
            if at < cell {
                continue;
            }
            let byte = bytes.get(at).copied().unwrap_or_default();
            if byte == self.delimiter && self.delimits(at) {
                self.spans.push(Span::of_text(cell, at));
                cell = at + self.dialect.delimiter().len();
            } else if byte == b'\n' || byte == b'\r' {
                self.spans.push(Span::of_text(cell, at));
                (ending.end, ending.next) = (at, after_line_end(bytes, at));
                return ending;
            } else if at == cell && self.opens_quote(at) {
                match self.quoted_cell(at, &mut ending) {
                    Some(next) => cell = next,
                    None => return ending,
                }
            }
        }
        self.spans.push(Span::of_text(cell, bytes.len()));
        ending
    }

    #[inline]
    fn mark(&mut self) -> Option<usize> {
        let mark = self.marks.get(self.next_mark).copied();
        self.next_mark += 1;
        mark
    }

    fn opens_quote(&self, at: usize) -> bool {
        let quote = self.dialect.quote();
        self.text.as_bytes().get(at) == Some(&self.quote) && starts(self.text.as_bytes(), at, quote)
    }

    fn delimits(&self, at: usize) -> bool {
        starts(self.text.as_bytes(), at, self.dialect.delimiter())
    }

    /// Reads the quoted cell that opens at `open` and pushes its span. Gives back where the next
    /// cell begins, or nothing when the row is over.
    fn quoted_cell(&mut self, open: usize, ending: &mut Ending) -> Option<usize> {
        let bytes = self.text.as_bytes();
        let width = self.dialect.quote().len();
        let begin = open + width;
        let lines_before = ending.inner_lines;
        let mut resume = begin;
        let mut close = None;
        let mut plain = true;
        // The first line end inside the cell: the mark, where the line ends and where the next begins.
        let mut first = None;
        while let Some(at) = self.mark() {
            if at < resume {
                continue;
            }
            if first.is_some() && at - begin > LONGEST_CELL {
                break;
            }
            let byte = bytes.get(at).copied().unwrap_or_default();
            if byte == b'\n' || byte == b'\r' {
                ending.inner_lines += 1;
                resume = after_line_end(bytes, at);
                first.get_or_insert((self.next_mark, at, resume));
            } else if self.opens_quote(at) {
                if self.dialect.is_escaped(bytes, begin, at) {
                    (plain, resume) = (false, at + width);
                } else if self.opens_quote(at + width) {
                    (plain, resume) = (false, at + 2 * width);
                } else {
                    close = Some(at);
                    break;
                }
            }
        }
        let contained = match close {
            Some(close) => {
                let rest = bytes.get(close + width..).unwrap_or_default();
                first.filter(|_| !ends_cell(rest, self.dialect))
            }
            None => first,
        };
        if let Some((mark, line_end, next)) = contained {
            self.spans.push(Span::of_text(begin, line_end));
            self.next_mark = mark;
            // Line ends in the cells before it stay counted.
            (ending.end, ending.next, ending.closed, ending.inner_lines) =
                (line_end, next, false, lines_before);
            return None;
        }
        self.push_quoted(begin..close.unwrap_or(bytes.len()), plain);
        let Some(close) = close else {
            ending.closed = false;
            return None;
        };
        self.after_quoted(close + width, ending)
    }

    /// Pushes the span of a quoted cell; what is not `plain` has quotes doubled or escaped.
    fn push_quoted(&mut self, range: std::ops::Range<usize>, plain: bool) {
        let cell = self.text.get(range.clone()).unwrap_or_default();
        if plain && (self.dialect.escape().is_empty() || !cell.contains(self.dialect.escape())) {
            self.spans.push(Span::of_text(range.start, range.end));
        } else {
            let scratch = self.unescaped.len();
            self.dialect.unescape(cell, &mut self.unescaped);
            self.spans.push(Span::of_unescaped(scratch, self.unescaped.len()));
        }
    }

    /// Where the cell after a quoted one begins, or nothing when the row is over.
    fn after_quoted(&mut self, from: usize, ending: &mut Ending) -> Option<usize> {
        let bytes = self.text.as_bytes();
        while let Some(at) = self.mark() {
            let byte = bytes.get(at).copied().unwrap_or_default();
            if at < from {
                continue;
            }
            if byte == self.delimiter && self.delimits(at) {
                ending.misquoted |= at > from;
                return Some(at + self.dialect.delimiter().len());
            }
            if byte == b'\n' || byte == b'\r' {
                ending.misquoted |= at > from;
                (ending.end, ending.next) = (at, after_line_end(bytes, at));
                return None;
            }
        }
        ending.misquoted |= from < bytes.len();
        None
    }
}

/// Buffers that a [`Rows`] hands on to the next one.
#[derive(Debug, Default)]
pub struct RowBuffers {
    spans: Vec<Span>,
    unescaped: String,
    marks: Vec<usize>,
}

struct Ending {
    end: usize,
    next: usize,
    inner_lines: u64,
    closed: bool,
    misquoted: bool,
}

fn after_line_end(bytes: &[u8], at: usize) -> usize {
    match (bytes.get(at), bytes.get(at + 1)) {
        (Some(b'\r'), Some(b'\n')) => at + 2,
        _ => at + 1,
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn table(text: &str, delimiter: &str) -> Vec<Vec<String>> {
        let dialect = Dialect::new(delimiter, "\"");
        let mut rows = Rows::new(text, &dialect);
        let mut table = Vec::new();
        while let Some(row) = rows.next() {
            table.push(row.cells().map(str::to_owned).collect());
        }
        table
    }

    #[test]
    fn everyday_variants_are_read_as_written() {
        assert_eq!(table("a,b\r\nc,d", ","), [["a", "b"], ["c", "d"]]);
        assert_eq!(table("a,b\rc,d\r", ","), [["a", "b"], ["c", "d"]]);
        assert_eq!(table("\"a,1\",\"say \"\"so\"\"\"\n", ","), [["a,1", "say \"so\""]]);
        assert_eq!(table("5\" pipe,b\n", ","), [["5\" pipe", "b"]]);
        assert_eq!(table("a¦\"b¦c\"¦\n", "¦"), [["a", "b¦c", ""]]);
        assert_eq!(table("\"two\r\nlines\",b\nc,d", ","), [["two\r\nlines", "b"], ["c", "d"]]);
        assert_eq!(table("a\n\nb", ","), [["a"], [""], ["b"]]);
    }

    #[test]
    fn rows_and_lines_are_counted_apart() {
        let dialect = Dialect::new(",", "\"");
        let mut rows = Rows::new("a,\"x\r\ny\nz\"\r\n\r\nb,c\r\n", &dialect);
        let mut seen = Vec::new();
        while let Some(row) = rows.next() {
            seen.push((row.row().0, row.line().0));
        }
        assert_eq!(seen, [(1, 1), (2, 4), (3, 5)]);
    }

    #[test]
    fn a_quote_gone_wrong_is_marked() {
        let dialect = Dialect::new(",", "\"");
        assert!(Rows::new("\"a\"b,c\n", &dialect).next().unwrap().is_misquoted());
        assert!(!Rows::new("\"a,b\n", &dialect).next().unwrap().is_closed());
        // What follows a quote that was never closed is a row of its own.
        assert_eq!(table("1,\"a\n2,\"b\"\n3,c\n", ","), [["1", "a"], ["2", "b"], ["3", "c"]]);
        assert_eq!(table("1,\"a\r\n2,b\r\n", ","), [["1", "a"], ["2", "b"]]);
        // Line ends in the cells before it count as lines all the same.
        let mut rows = Rows::new("\"x\ny\",\"a\n2,\"b\"\n", &dialect);
        assert_eq!(rows.next().unwrap().line(), Line(1));
        assert_eq!(rows.next().unwrap().line(), Line(3));
    }

    #[test]
    fn quotes_may_be_escaped_instead_of_doubled() {
        let dialect = Dialect::new(",", "\"").escaped_by("\\");
        let mut rows = Rows::new(r#""say \"so\"","back\\","do""ubled",\n"#, &dialect);
        let cells: Vec<&str> = rows.next().unwrap().cells().collect();
        assert_eq!(cells, ["say \"so\"", "back\\", "do\"ubled", "\\n"]);
    }

    proptest! {
        /// Cutting a text into blocks of whole rows must not change what the rows are.
        #[test]
        fn whole_rows_are_found_alike_by_both_readers(text in "[ab,\"\\\\\r\n]{0,40}", escape in "\\\\?", cut in 0..40_usize) {
            let dialect = Dialect::new(",", "\"").escaped_by(escape);
            let all = |text: &str| {
                let mut rows = Rows::new(text, &dialect);
                let mut all = Vec::new();
                while let Some(row) = rows.next() {
                    let cells: Vec<String> = row.cells().map(str::to_owned).collect();
                    all.push((row.line(), row.is_closed(), row.is_misquoted(), cells));
                }
                all
            };
            let cut = (0..=cut.min(text.len())).rev().find(|cut| text.is_char_boundary(*cut)).unwrap();
            let complete = complete_rows(text.split_at(cut).0, &dialect);
            let (before, after) = text.split_at(complete.end);
            let mut parts = all(before);
            prop_assert_eq!(parts.len() as u64, complete.rows);
            parts.extend(all(after).into_iter().map(|mut row| {
                row.0.0 += complete.lines;
                row
            }));
            prop_assert_eq!(parts, all(&text));
        }
    }
}
