//! Which character parts the cells, where the mapping does not say.

use super::Refusal;
use super::rows::{Dialect, Rows};

/// The delimiter of a source, and why it was chosen.
#[derive(Debug, Clone)]
pub struct DelimiterChoice {
    /// How cells are parted and quoted.
    pub dialect: Dialect,
    /// Why, in words.
    pub reason: String,
}

/// The delimiters that a file may prove: what messages call them, and how a mapping writes them.
const CANDIDATES: [(&str, &str, &str); 4] =
    [(",", "comma", ","), (";", "semicolon", ";"), ("\t", "tab", "\\t"), ("|", "bar", "|")];

/// What a steward calls this delimiter.
pub(crate) fn delimiter_name(delimiter: &str) -> String {
    CANDIDATES
        .iter()
        .find(|(known, ..)| *known == delimiter)
        .map_or_else(|| format!("\"{delimiter}\""), |(_, name, _)| (*name).to_owned())
}

/// How many rows below the header have to agree.
const SAMPLE: usize = 1_000;

/// Proves the delimiter from the first rows of a text. A delimiter is proven when it alone brings
/// out every heading that the mapping uses, or alone gives every sampled row the header's width.
///
/// # Errors
/// Says what each candidate makes of the file, and what to write in the mapping.
pub(super) fn prove(
    text: &str,
    quote: &str,
    header_row: u64,
    wanted: &[&str],
) -> Result<DelimiterChoice, Refusal> {
    let tried: Vec<Tried> =
        CANDIDATES.iter().map(|candidate| Tried::new(candidate, text, quote, header_row, wanted)).collect();
    let choose = |tried: &Tried, reason: String| DelimiterChoice {
        dialect: Dialect::new(tried.delimiter, quote),
        reason,
    };
    let by_header: Vec<&Tried> = tried.iter().filter(|tried| tried.has_wanted && tried.columns > 1).collect();
    if let [one] = by_header.as_slice() {
        let reason = format!("the only one that brings out the mapped headings in row {header_row}");
        return Ok(choose(one, reason));
    }
    if let [only, rest @ ..] = tried.as_slice()
        && only.columns <= 1
        && rest.iter().all(|tried| tried.columns <= 1)
    {
        return Ok(choose(only, "there is one column only".into()));
    }
    let by_width: Vec<&Tried> =
        tried.iter().filter(|tried| tried.columns > 1 && tried.other_widths == 0).collect();
    if let [one] = by_width.as_slice() {
        let reason =
            format!("the only one that gives all of the first {} rows {} cells", one.rows, one.columns);
        return Ok(choose(one, reason));
    }
    let counts: Vec<String> = tried
        .iter()
        .filter(|tried| tried.columns > 1)
        .map(|tried| {
            format!(
                "{}: {} columns in row {header_row}, and {} of {} rows of another width",
                tried.name, tried.columns, tried.other_widths, tried.rows
            )
        })
        .collect();
    let example =
        tried.iter().max_by_key(|tried| (tried.has_wanted, tried.columns)).map_or(",", |tried| tried.written);
    Err(Refusal::new(
        format!("does not prove which character parts its cells ({})", counts.join("; ")),
        format!(
            "say so in the mapping under [source], for example delimiter = \"{example}\"; and check header_row"
        ),
    ))
}

struct Tried {
    delimiter: &'static str,
    name: &'static str,
    written: &'static str,
    columns: usize,
    has_wanted: bool,
    rows: usize,
    other_widths: usize,
}

impl Tried {
    fn new(
        &(delimiter, name, written): &(&'static str, &'static str, &'static str),
        text: &str,
        quote: &str,
        header_row: u64,
        wanted: &[&str],
    ) -> Self {
        let dialect = Dialect::new(delimiter, quote);
        let mut rows = Rows::new(text, &dialect);
        let mut tried =
            Self { delimiter, name, written, columns: 0, has_wanted: false, rows: 0, other_widths: 0 };
        while let Some(row) = rows.next() {
            if row.row().0 < header_row {
                continue;
            }
            if row.row().0 == header_row {
                tried.columns = row.len();
                tried.has_wanted = !wanted.is_empty()
                    && wanted.iter().all(|name| row.cells().any(|cell| cell.trim() == *name));
                continue;
            }
            let last_may_be_cut = row.range().end == text.len();
            if tried.rows == SAMPLE || last_may_be_cut && tried.rows > 0 {
                break;
            }
            if !row.is_blank() {
                tried.rows += 1;
                tried.other_widths += usize::from(row.len() != tried.columns);
            }
        }
        tried
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn proven(text: &str, wanted: &[&str]) -> String {
        match prove(text, "\"", 1, wanted) {
            Ok(choice) => delimiter_name(choice.dialect.delimiter()),
            Err(refusal) => refusal.says,
        }
    }

    #[test]
    fn a_delimiter_is_proven_by_the_headings_or_by_the_width_of_every_row() {
        assert_eq!(proven("a;b,c;d\n1;2;3\n", &["a", "d"]), "semicolon");
        assert_eq!(
            proven("a,b|c\n1,\"2,3\"|4\n", &["a"]),
            "comma",
            "only it brings out the heading and two columns"
        );
        assert_eq!(proven("x;y\n1,5;2\n3;4\n", &[]), "semicolon");
        assert_eq!(proven("only\n1,5\n2\n", &["only"]), "comma", "one column has no delimiter at all");
        assert!(proven("x;y,z\n1;2,3\n", &[]).contains("does not prove"));
    }
}
