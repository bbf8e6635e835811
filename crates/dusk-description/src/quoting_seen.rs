//! How the values of a delimited text are quoted, column by column.

use crate::Quoting;

/// What is seen of the quotes of one column. Values that cannot stand without quotes tell nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct ColumnQuotes {
    /// Values in quotes that need none.
    pub quoted: usize,
    /// Values that stand bare.
    pub bare: usize,
    /// Blank values in quotes.
    pub quoted_blanks: usize,
    /// Blank values of which nothing is there.
    pub bare_blanks: usize,
}

impl ColumnQuotes {
    /// Whether values that need no quotes have them; nothing where none was seen, or some have them and some not.
    pub fn are_quoted(&self) -> Option<bool> {
        match (self.quoted, self.bare) {
            (1.., 0) => Some(true),
            (0, 1..) => Some(false),
            _ => None,
        }
    }

    /// The same for blank values.
    pub fn are_blanks_quoted(&self) -> Option<bool> {
        Self { quoted: self.quoted_blanks, bare: self.bare_blanks, ..Self::default() }.are_quoted()
    }

    fn take(&mut self, value: &str, is_quoted: bool, needs_quotes: bool) {
        let count = match (value.is_empty(), is_quoted) {
            (true, true) => &mut self.quoted_blanks,
            (true, false) => &mut self.bare_blanks,
            (false, true) if needs_quotes => return,
            (false, true) => &mut self.quoted,
            (false, false) => &mut self.bare,
        };
        *count += 1;
    }
}

/// What is seen of each column of a text, which begins with `skip` rows of headings (RFC 4180, with any delimiter and quote).
pub fn quotes_of(text: &str, (delimiter, quote): (&str, &str), skip: usize) -> Vec<ColumnQuotes> {
    let mut columns: Vec<ColumnQuotes> = Vec::new();
    if delimiter.is_empty() || quote.is_empty() {
        return columns;
    }
    let (mut rest, mut row, mut column) = (text, 0, 0);
    while !rest.is_empty() {
        let (value, is_quoted, behind) = value_at(rest, delimiter, quote);
        let is_blank_line = column == 0 && value.is_empty() && !is_quoted && !behind.starts_with(delimiter);
        if row >= skip && !is_blank_line {
            let needs_quotes =
                value.contains(delimiter) || value.contains(quote) || value.contains(['\r', '\n']);
            if columns.len() <= column {
                columns.resize(column + 1, ColumnQuotes::default());
            }
            if let Some(seen) = columns.get_mut(column) {
                seen.take(value, is_quoted, needs_quotes);
            }
        }
        rest = match behind.strip_prefix(delimiter) {
            Some(next) => {
                column += 1;
                next
            }
            None => {
                (row, column) = (row + 1, 0);
                behind.strip_prefix("\r\n").or_else(|| behind.strip_prefix(['\r', '\n'])).unwrap_or_default()
            }
        };
    }
    columns
}

/// The quoting that the rows of a text show; nothing where they leave it open.
pub fn quoting_shown(columns: &[ColumnQuotes]) -> Option<Quoting> {
    if columns.iter().any(|seen| seen.quoted > 0 && seen.bare > 0) {
        return None;
    }
    let is_bare_somewhere = columns.iter().any(|seen| seen.bare_blanks > 0);
    let any = |quoted: bool| columns.iter().any(|seen| seen.are_quoted() == Some(quoted));
    match (any(true), any(false)) {
        (false, false) => None,
        (false, true) => Some(Quoting::WhenNeeded),
        (true, false) if !is_bare_somewhere => Some(Quoting::Always),
        (true, _) => Some(Quoting::Texts),
    }
}

/// The value at the beginning of a text, whether it is quoted, and what stands behind it.
fn value_at<'t>(text: &'t str, delimiter: &str, quote: &str) -> (&'t str, bool, &'t str) {
    let Some(inner) = text.strip_prefix(quote) else {
        let end =
            [text.find(delimiter), text.find(['\r', '\n'])].into_iter().flatten().min().unwrap_or(text.len());
        let (value, behind) = text.split_at(end);
        return (value, false, behind);
    };
    let mut from = 0;
    while let Some(at) = inner.get(from..).and_then(|rest| rest.find(quote)) {
        let end = from + at;
        let behind = inner.get(end + quote.len()..).unwrap_or_default();
        if !behind.starts_with(quote) {
            // What stands behind a closed quote belongs to no value; it ends with the next delimiter or line.
            let next = [behind.find(delimiter), behind.find(['\r', '\n'])].into_iter().flatten().min();
            let behind = behind.get(next.unwrap_or(behind.len())..).unwrap_or_default();
            return (inner.get(..end).unwrap_or_default(), true, behind);
        }
        from = end + 2 * quote.len();
    }
    (inner, true, "")
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn seen(text: &str, skip: usize) -> Vec<(usize, usize, usize, usize)> {
        let counts = |seen: ColumnQuotes| (seen.quoted, seen.bare, seen.quoted_blanks, seen.bare_blanks);
        quotes_of(text, (",", "\""), skip).into_iter().map(counts).collect()
    }

    #[test]
    fn quotes_are_counted_by_column_where_they_are_not_needed() {
        assert_eq!(seen("a,b\n\"x\",1\n\"y, z\",\n\"\",\"2\"\n", 1), [(1, 0, 1, 0), (1, 1, 0, 1)]);
        assert_eq!(seen("\"x \"\"y\"\"\",1\r\nz,2\r\n", 0), [(0, 1, 0, 0), (0, 2, 0, 0)]);
        assert_eq!(
            seen("\"one\ntwo\",3\n\n\"four\",5", 0),
            [(1, 0, 0, 0), (0, 2, 0, 0)],
            "a blank line is no row"
        );
        assert_eq!(seen("\"open", 0), [(1, 0, 0, 0)]);
        assert_eq!(quotes_of("a", ("", "\""), 0), []);
    }

    #[test]
    fn the_rows_show_the_quoting_where_they_prove_it() {
        let shown = |text: &str| quoting_shown(&quotes_of(text, (";", "'"), 0));
        assert_eq!(shown("'a';'1'\n"), Some(Quoting::Always));
        assert_eq!(shown("'a';1\n'b';2\n"), Some(Quoting::Texts));
        assert_eq!(shown("a;1\n'b;c';2\n"), Some(Quoting::WhenNeeded));
        assert_eq!(shown("'a';'b'\n'c';\n"), Some(Quoting::Texts), "a blank is bare");
        assert_eq!(shown("'a';'b'\n'c';''\n"), Some(Quoting::Always));
        assert_eq!(shown("'a';1\nb;2\n"), None, "the first column is in two minds");
        assert_eq!(shown("'a;b';\n"), None, "nothing tells");
    }

    proptest! {
        /// Every value that a writer puts is counted once in its column, and any text is read to its end.
        #[test]
        fn every_value_is_counted_once(
            rows in prop::collection::vec(prop::collection::vec("[a,\"\n]{0,4}", 3), 1..6),
            any in "\\PC{0,40}",
        ) {
            let line = |row: &Vec<String>| row.iter().map(|value| format!("\"{}\"", value.replace('"', "\"\""))).collect::<Vec<_>>().join(",");
            let text: String = rows.iter().map(|row| line(row) + "\r\n").collect();
            for (column, seen) in quotes_of(&text, (",", "\""), 0).iter().enumerate() {
                let plain = |value: &&String| !value.is_empty() && !value.contains([',', '"', '\n']);
                let values: Vec<&String> = rows.iter().map(|row| &row[column]).collect();
                prop_assert_eq!(seen.quoted, values.iter().filter(|value| plain(value)).count());
                prop_assert_eq!(seen.quoted_blanks, values.iter().filter(|value| value.is_empty()).count());
                prop_assert_eq!((seen.bare, seen.bare_blanks), (0, 0));
            }
            let all: usize = quotes_of(&any, (",", "\""), 0).iter().map(|seen| seen.quoted + seen.bare).sum();
            prop_assert!(all <= any.chars().count());
        }
    }
}
