//! How the cells of a source are parted and quoted: RFC 4180 and its everyday variants.

/// How cells are parted and quoted.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Dialect {
    delimiter: Box<str>,
    quote: Box<str>,
    escape: Box<str>,
    sheet: bool,
}

impl Dialect {
    /// Cells parted by `delimiter` and quoted by `quote`, each of one character or more; with an
    /// empty `quote` no cell is ever quoted.
    pub fn new(delimiter: impl Into<Box<str>>, quote: impl Into<Box<str>>) -> Self {
        Self { delimiter: delimiter.into(), quote: quote.into(), escape: "".into(), sheet: false }
    }

    /// That of the rows of a sheet, whose lines are numbered as its rows, since a sheet has no other
    /// lines.
    pub fn of_a_sheet() -> Self {
        let (delimiter, quote) = dusk_workbooks::SPOOL_MARKS;
        Self { sheet: true, ..Self::new(delimiter, quote) }
    }

    /// True for the rows of a sheet. There a row ends with its last filled cell.
    pub fn is_sheet(&self) -> bool {
        self.sheet
    }

    /// The same, where inside a quoted cell `escape` makes an ordinary character of the quote, or
    /// of another `escape`, that follows it. Doubled quotes are understood as well.
    #[must_use]
    pub fn escaped_by(self, escape: impl Into<Box<str>>) -> Self {
        Self { escape: escape.into(), ..self }
    }

    /// What makes an ordinary character of a quote; mostly empty.
    pub fn escape(&self) -> &str {
        &self.escape
    }

    /// Whether the quote at `at` is escaped, in a cell that begins at `cell`.
    pub(super) fn is_escaped(&self, bytes: &[u8], cell: usize, at: usize) -> bool {
        if self.escape.is_empty() {
            return false;
        }
        let mut before = bytes.get(cell..at).unwrap_or_default();
        let mut escapes = 0;
        while let Some(rest) = before.strip_suffix(self.escape.as_bytes()) {
            (before, escapes) = (rest, escapes + 1);
        }
        escapes % 2 == 1
    }

    /// What a quoted cell says, without its escapes and doubled quotes.
    pub(super) fn unescape(&self, cell: &str, out: &mut String) {
        let mut rest = cell;
        let doubled = format!("{0}{0}", self.quote);
        while let Some(letter) = rest.chars().next() {
            let skipped = if !self.escape.is_empty() && rest.starts_with(&*self.escape) {
                let after = rest.get(self.escape.len()..).unwrap_or_default();
                (after.starts_with(&*self.escape) || after.starts_with(&*self.quote)).then_some(after)
            } else if rest.starts_with(&doubled) {
                rest.get(self.quote.len()..)
            } else {
                None
            };
            rest = skipped.unwrap_or(rest);
            let width = match skipped {
                Some(after) if after.starts_with(&*self.quote) => self.quote.len(),
                Some(_) => self.escape.len(),
                None => letter.len_utf8(),
            };
            out.push_str(rest.get(..width).unwrap_or_default());
            rest = rest.get(width..).unwrap_or_default();
        }
    }

    /// What stands between two cells.
    pub fn delimiter(&self) -> &str {
        &self.delimiter
    }

    /// What stands around a quoted cell.
    pub fn quote(&self) -> &str {
        &self.quote
    }

    /// The first bytes of the delimiter and of the quote.
    pub(super) fn first_bytes(&self) -> (u8, u8) {
        let first = |text: &str| text.bytes().next();
        // A line feed is always looked for, so it stands in where there is nothing to look for.
        (first(&self.delimiter).unwrap_or(b'\n'), first(&self.quote).unwrap_or(b'\n'))
    }
}
