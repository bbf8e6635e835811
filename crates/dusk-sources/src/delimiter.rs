//! Which character parts the cells, and which row holds the headings, where the mapping does not
//! say.

use super::dialect::Dialect;
use super::header::{self, LOOKED_AT};

use super::row_cells::RowCells;
use super::rows::Rows;
use dusk_evidence::{Claim, Evidence, Example, Reading, Verdict};
use dusk_values::{WrittenDate, WrittenTime};

/// The delimiters that a file may prove: what messages call them, and how a mapping writes them.
const CANDIDATES: [(&str, &str, &str); 8] = [
    (",", "comma", ","),
    (";", "semicolon", ";"),
    ("\t", "tab", "\\t"),
    ("|", "bar", "|"),
    ("\u{1f}", "unit separator", "\\u001f"),
    ("¦", "broken bar", "¦"),
    ("§", "section sign", "§"),
    NONE,
];

/// One column only. It is read with a character that no text has.
const NONE: (&str, &str, &str) = (NO_DELIMITER, "none", "none");

/// Stands for a delimiter where there is none.
pub const NO_DELIMITER: &str = "\u{fdd0}";

/// What a steward calls this delimiter.
pub(crate) fn delimiter_name(delimiter: &str) -> String {
    CANDIDATES
        .iter()
        .find(|(known, ..)| *known == delimiter)
        .map_or_else(|| format!("\"{}\"", delimiter.escape_default()), |(_, name, _)| (*name).to_owned())
}

/// How many rows below the header have to agree.
const SAMPLE: usize = 1_000;

/// How quotes stand, where the mapping says it, and which row holds the headings.
pub(super) struct Frame<'f> {
    pub(super) quote: &'f str,
    pub(super) escape: Option<&'f str>,
    pub(super) header_row: Option<u64>,
    pub(super) wanted: &'f [&'f str],
}

impl Frame<'_> {
    /// The dialect with this delimiter. A backslash before quotes is proven where rows go wrong without it
    /// and none with it.
    fn dialect(&self, delimiter: &str, text: &str) -> Dialect {
        let plain = Dialect::new(delimiter, self.quote);
        let escaped = plain.clone().escaped_by("\\");
        match self.escape {
            Some(escape) => plain.escaped_by(escape),
            None if text.contains("\\\"")
                && misquoted(text, &plain) > 0
                && misquoted(text, &escaped) == 0 =>
            {
                escaped
            }
            None => plain,
        }
    }

    /// How many of the headings that the mapping uses a row has.
    fn wanted_in(&self, row: &RowCells<'_>) -> usize {
        let names = header::unique_names(&row.cells().map(|cell| cell.trim().to_owned()).collect::<Vec<_>>());
        self.wanted.iter().filter(|name| names.iter().any(|column| column == *name)).count()
    }
}

/// Weighs the delimiters on the first rows of a text. One is proven when it alone brings out every
/// heading that the mapping uses, or alone gives every sampled row the header's width.
pub(super) fn weigh(text: &str, frame: &Frame<'_>) -> (Dialect, Evidence) {
    let mut tried: Vec<Tried> = CANDIDATES
        .iter()
        .filter(|candidate| **candidate != NONE)
        .map(|candidate| Tried::new(candidate, text, frame))
        .filter(|tried| tried.columns > 1)
        .collect();
    let none = Tried::new(&NONE, text, frame);
    let wanted = frame.wanted;
    // Without headings to look for, one that parts the cells from a later row on is no reading beside
    // one that parts them all alike.
    let earliest = tried.iter().filter(|one| one.other_widths == 0).map(|one| one.header_row).min();
    if let Some(earliest) = earliest.filter(|_| wanted.is_empty()) {
        tried.retain(|one| one.header_row <= earliest);
    }
    let dialect =
        |delimiter: &str| Dialect::new(delimiter, frame.quote).escaped_by(frame.escape.unwrap_or_default());
    if tried.is_empty() || none.has_wanted && !tried.iter().any(|one| one.has_wanted) {
        // Where headings are wanted that are not there, the header may stand in another row.
        let likely = if wanted.is_empty() || none.has_wanted { NO_DELIMITER } else { "," };
        return (dialect(likely), one_column(text, &none));
    }
    brings_out_most(&mut tried, wanted.len());
    // The likeliest first: it brings the headings out, its rows are alike, it makes most columns.
    tried.sort_by_key(|tried| (!tried.has_wanted, tried.share_of_others(), std::cmp::Reverse(tried.columns)));
    let mut evidence = Evidence::new(Claim::Delimiter, verdict_on(&tried, text, frame));
    evidence.readings = tried.iter().map(|tried| tried.reading(wanted.len())).collect();
    if evidence.needs_decision() {
        evidence.settle = vec!["[source]".into(), line_for(&tried)];
    }
    let first = tried.first();
    (first.map_or_else(|| dialect(","), |first| first.dialect.clone()), evidence)
}

/// Where a column was renamed or is gone, no delimiter brings every heading out; one may bring out most of them, and
/// the others none to speak of.
fn brings_out_most(tried: &mut [Tried], wanted: usize) {
    let mut most = tried.iter_mut().filter(|one| one.found * 2 > wanted);
    if let (Some(one), None) = (most.next(), most.next()) {
        one.has_wanted |= one.found >= 2;
    }
}

/// What the delimiters that were tried come to, the likeliest first.
fn verdict_on(tried: &[Tried], text: &str, frame: &Frame<'_>) -> Verdict {
    let wanted = frame.wanted;
    let by_header = tried.iter().filter(|tried| tried.has_wanted).count() == 1;
    let by_width = tried.iter().filter(|tried| tried.other_widths == 0).count() == 1;
    let first = tried.first();
    let proven = first.filter(|first| {
        by_header && first.has_wanted
            || by_width
                && first.other_widths == 0
                && (wanted.is_empty() || first.has_wanted || tried.iter().all(|other| !other.has_wanted))
    });
    let by_wanted = first.is_some_and(|first| first.has_wanted);
    match (proven, tried) {
        // Names with a comma in them look like two columns.
        (_, [one]) if !by_wanted && one.may_be_one_column(text, frame.quote) => {
            Verdict::Undecided(vec![one.name.into(), NONE.1.into()])
        }
        (Some(one), _) | (None, [one]) => Verdict::Proven(one.name.into()),
        // Beside one whose rows are mostly alike, those that make no table at all are no reading.
        (None, [one, rest @ ..])
            if wanted.is_empty()
                && one.share_of_others() <= 100
                && rest.iter().all(|other| other.share_of_others() > 300) =>
        {
            Verdict::Proven(one.name.into())
        }
        (None, all) => Verdict::Undecided(all.iter().map(|one| one.name.to_owned()).collect()),
    }
}

/// The line of the mapping that decides between them.
fn line_for(tried: &[Tried]) -> String {
    let mut written: Vec<String> = tried.iter().map(|tried| format!("\"{}\"", tried.written)).collect();
    if written.len() == 1 {
        written.push(format!("\"{}\", if it is one column", NONE.2));
    }
    format!("delimiter = …   # {}", written.join(" or "))
}

/// The evidence where no delimiter parts the cells: there is one column, unless every line has the same other
/// sign equally often.
fn one_column(text: &str, none: &Tried) -> Evidence {
    let signs = if none.has_wanted { Vec::new() } else { signs_in_every_line(text) };
    let names = std::iter::once(NONE.1.to_owned()).chain(signs.iter().map(|(sign, _)| format!("\"{sign}\"")));
    let verdict = match signs.is_empty() {
        true => Verdict::Proven(NONE.1.into()),
        false => Verdict::Undecided(names.collect()),
    };
    let mut evidence = Evidence::new(Claim::Delimiter, verdict);
    evidence.readings.push(Reading { name: "there is one column only".into(), ..Reading::default() });
    for (sign, count) in &signs {
        let name = format!("\"{sign}\"");
        let counted = "cells in every line".into();
        evidence.readings.push(Reading { name, supports: count + 1, counted, ..Reading::default() });
    }
    if evidence.needs_decision() {
        let written: Vec<String> = signs.iter().map(|(sign, _)| format!("\"{sign}\"")).collect();
        let line =
            format!("delimiter = …   # {}, or \"{}\" if it is one column", written.join(" or "), NONE.2);
        evidence.settle = vec!["[source]".into(), line];
    }
    evidence
}

/// Signs that stand in every line equally often, as a delimiter does; those of dates and times do not count.
fn signs_in_every_line(text: &str) -> Vec<(char, u64)> {
    const SIGNS: [char; 7] = [':', '~', '^', '!', '#', '*', '='];
    let whole = text.get(..text.rfind('\n').unwrap_or(0)).unwrap_or_default();
    let lines: Vec<&str> = whole.lines().filter(|line| !line.trim().is_empty()).take(SAMPLE).collect();
    let is_time = |line: &&str| WrittenTime::read(line.trim()).is_some() || WrittenDate::read(line).is_some();
    if lines.len() < 3 || lines.iter().skip(1).all(is_time) {
        return Vec::new();
    }
    let count = |line: &str, sign: char| line.matches(sign).count() as u64;
    let alike = |sign: char| {
        let first = lines.first().map_or(0, |line| count(line, sign));
        (first > 0 && lines.iter().all(|line| count(line, sign) == first)).then_some((sign, first))
    };
    SIGNS.into_iter().filter_map(alike).collect()
}

/// A first line that declares the separator, as `sep=;`: the separator, and the line with its end.
pub(super) fn declared(text: &str) -> Option<(&str, &str)> {
    let end = text.find('\n')?;
    let line = text.get(..=end)?;
    let separator = line.strip_prefix("sep=")?.trim_end_matches(['\r', '\n']);
    (1..=4).contains(&separator.chars().count()).then_some((separator, line))
}

struct Tried {
    dialect: Dialect,
    name: &'static str,
    written: &'static str,
    header_row: u64,
    columns: usize,
    /// It brings out every heading that is wanted; or most of them, and no other does.
    has_wanted: bool,
    /// How many of these it brings out.
    found: usize,
    rows: usize,
    other_widths: usize,
    first_other: Option<Example>,
}

impl Tried {
    fn new(
        &(delimiter, name, written): &(&'static str, &'static str, &'static str),
        text: &str,
        frame: &Frame<'_>,
    ) -> Self {
        let dialect = frame.dialect(delimiter, text);
        let header_row = frame.header_row.unwrap_or_else(|| header::likely_row(text, &dialect, frame.wanted));
        let mut rows = Rows::new(text, &dialect);
        let mut tried = Self {
            dialect: dialect.clone(),
            name,
            written,
            header_row,
            columns: 0,
            has_wanted: false,
            found: 0,
            rows: 0,
            other_widths: 0,
            first_other: None,
        };
        while let Some(row) = rows.next() {
            if row.row().0 < header_row {
                continue;
            }
            if row.row().0 == header_row {
                tried.columns = row.len();
                tried.found = frame.wanted_in(&row);
                tried.has_wanted = tried.found > 0 && tried.found == frame.wanted.len();
                continue;
            }
            let last_may_be_cut = row.range().end == text.len();
            if tried.rows == SAMPLE || last_may_be_cut && tried.rows > 0 {
                break;
            }
            if !row.is_blank() {
                tried.take(&row, text);
            }
        }
        tried
    }

    /// Whether the two columns may be one, of values that hold the delimiter: a space follows it everywhere, or it
    /// does not stand in the first line.
    fn may_be_one_column(&self, text: &str, quote: &str) -> bool {
        let delimiter = self.dialect.delimiter();
        let spaced = format!("{delimiter} ");
        let with_it = || text.lines().filter(|line| line.contains(delimiter));
        let always_spaced =
            with_it().all(|line| line.matches(delimiter).count() == line.matches(&spaced).count());
        let is_quoted = !quote.is_empty() && text.contains(quote);
        self.columns == 2 && !is_quoted && (self.header_row > 1 || always_spaced)
    }

    /// Takes in a row below the header.
    fn take(&mut self, row: &RowCells<'_>, text: &str) {
        self.rows += 1;
        if row.len() == self.columns {
            return;
        }
        self.other_widths += 1;
        self.first_other.get_or_insert_with(|| Example {
            place: format!("row {}", row.row().with_line(row.line())),
            value: header::shortened(text.get(row.range()).unwrap_or_default()),
            reads: format!("{} cells", row.len()),
        });
    }

    /// How many rows in a thousand have another width.
    fn share_of_others(&self) -> usize {
        (self.other_widths * 1000).checked_div(self.rows).unwrap_or(0)
    }

    /// What speaks for it, where so many headings are wanted.
    fn reading(&self, wanted: usize) -> Reading {
        let headings = match (wanted > 0, self.has_wanted) {
            (false, _) => String::new(),
            (true, true) if self.found == wanted => ", with every mapped heading".to_owned(),
            (true, true) => format!(", with {} of {wanted} mapped headings", self.found),
            (true, false) => ", without some mapped headings".to_owned(),
        };
        Reading {
            name: self.name.into(),
            supports: (self.rows - self.other_widths) as u64,
            contradicts: self.other_widths as u64,
            counted: format!("rows of {} cells, like row {}{headings}", self.columns, self.header_row),
            against: self.first_other.clone().into_iter().collect(),
            ..Reading::default()
        }
    }
}

fn misquoted(text: &str, dialect: &Dialect) -> usize {
    let mut rows = Rows::new(text, dialect);
    let mut count = 0;
    for _ in 0..LOOKED_AT * 25 {
        let Some(row) = rows.next() else { break };
        count += usize::from(row.is_misquoted() || !row.is_closed() && row.range().end < text.len());
    }
    count
}

#[cfg(test)]
mod tests {
    use super::*;

    fn proven(text: &str, wanted: &[&str]) -> String {
        let frame = Frame { quote: "\"", escape: None, header_row: Some(1), wanted };
        weigh(text, &frame).1.verdict_shown()
    }

    #[test]
    fn a_delimiter_is_proven_by_the_headings_or_by_the_width_of_every_row() {
        assert_eq!(proven("a;b,c;d\n1;2;3\n", &["a", "d"]), "semicolon (proven)");
        assert_eq!(
            proven("a,b|c\n1,\"2,3\"|4\n", &["a"]),
            "comma (proven)",
            "only it brings out the heading"
        );
        assert_eq!(proven("x;y\n1,5;2\n3;4\n", &[]), "semicolon (proven)");
        assert_eq!(
            proven("only\n1,5\n2\n", &["only"]),
            "none (proven)",
            "one column has no delimiter at all"
        );
        assert!(proven("x;y,z\n1;2,3\n", &[]).contains("undecided between"));
    }

    #[test]
    fn a_first_line_may_declare_the_separator() {
        assert_eq!(declared("sep=;\r\na;b\r\n"), Some((";", "sep=;\r\n")));
        assert_eq!(declared("separate,columns\n1,2\n"), None);
    }
}
