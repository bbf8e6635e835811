//! An SQL script in pieces: its statements, its comments in front, and the rows that a copy of a database has between them.

/// A piece of a script.
#[derive(Debug)]
pub(super) enum Piece<'s> {
    /// A line of a comment that stands outside of statements.
    Note(String),
    /// A statement, and the line where it begins.
    Statement {
        /// Its text, without the semicolon.
        text: &'s str,
        /// Its line, from 1.
        line: usize,
    },
    /// Rows that stand in the script as text, parted by tabs: `COPY … FROM stdin`.
    Rows {
        /// The table.
        table: String,
        /// Its columns.
        columns: Vec<String>,
        /// The rows' cells; nothing for null.
        rows: Vec<Vec<Option<String>>>,
    },
}

/// What a place in a script is in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Inside {
    Plain,
    Quoted(u8),
    LineComment,
    BlockComment,
}

/// The pieces of a script, in order.
pub(super) fn pieces(script: &str) -> Vec<Piece<'_>> {
    let (mut found, mut rest, mut line) = (Vec::new(), script, 1);
    while !rest.trim().is_empty() {
        let skipped = rest.len() - rest.trim_start().len();
        line += newlines(rest.get(..skipped).unwrap_or_default());
        rest = rest.get(skipped..).unwrap_or_default();
        if let Some(comment) = rest.strip_prefix("--") {
            let ends = comment.find('\n').unwrap_or(comment.len());
            let note = comment.get(..ends).unwrap_or_default().trim().trim_matches('-').trim();
            if !note.is_empty() {
                found.push(Piece::Note(note.to_owned()));
            }
            rest = comment.get(ends..).unwrap_or_default();
            continue;
        }
        if let Some(comment) = rest.strip_prefix("/*") {
            let ends = comment.find("*/").unwrap_or(comment.len());
            let inner = comment.get(..ends).unwrap_or_default();
            let lines = inner
                .lines()
                .map(|line| line.trim().trim_matches('*').trim())
                .filter(|line| !line.is_empty());
            found.extend(lines.map(|line| Piece::Note(line.to_owned())));
            line += newlines(inner);
            rest = comment.get(ends..).and_then(|rest| rest.get(2..)).unwrap_or_default();
            continue;
        }
        let ends = end_of_statement(rest);
        let text = rest.get(..ends).unwrap_or_default();
        let behind = rest.get(ends..).unwrap_or_default();
        let behind = behind.strip_prefix(';').unwrap_or(behind);
        let begins_at = line;
        line += newlines(text);
        rest = behind;
        if let Some((table, columns)) = copied(text) {
            let data = behind.strip_prefix("\r\n").or_else(|| behind.strip_prefix('\n')).unwrap_or(behind);
            let mut ends = 0;
            let mut rows = Vec::new();
            for row in data.split_inclusive('\n') {
                ends += row.len();
                let row = row.trim_end_matches(['\r', '\n']);
                if row == "\\." {
                    break;
                }
                rows.push(row.split('\t').map(|cell| (cell != "\\N").then(|| cell.to_owned())).collect());
            }
            line += newlines(behind) - newlines(data.get(ends..).unwrap_or_default());
            rest = data.get(ends..).unwrap_or_default();
            found.push(Piece::Rows { table, columns, rows });
        } else if !text.trim().is_empty() {
            found.push(Piece::Statement { text, line: begins_at });
        }
    }
    found
}

fn newlines(text: &str) -> usize {
    text.bytes().filter(|byte| *byte == b'\n').count()
}

/// What each byte of a text is in.
fn inside(text: &str) -> impl Iterator<Item = (usize, u8, Inside)> {
    let bytes = text.as_bytes();
    let mut now = Inside::Plain;
    let mut skip = 0_usize;
    bytes.iter().enumerate().map(move |(at, byte)| {
        if skip > 0 {
            skip -= 1;
            return (at, *byte, if now == Inside::Plain { Inside::BlockComment } else { now });
        }
        let next = bytes.get(at + 1).copied();
        let was = now;
        match now {
            Inside::Plain => match (*byte, next) {
                (b'\'' | b'"' | b'`', _) => now = Inside::Quoted(*byte),
                (b'-', Some(b'-')) => now = Inside::LineComment,
                (b'/', Some(b'*')) => {
                    now = Inside::BlockComment;
                    skip = 1;
                }
                _ => {}
            },
            Inside::Quoted(quote) if *byte == quote => now = Inside::Plain,
            Inside::LineComment if *byte == b'\n' => now = Inside::Plain,
            Inside::BlockComment if *byte == b'*' && next == Some(b'/') => {
                now = Inside::Plain;
                skip = 1;
            }
            _ => {}
        }
        (at, *byte, if was == Inside::Plain { now } else { was })
    })
}

/// Where the statement that a text begins with ends: at the first semicolon that is in no quotes and no comment. A body
/// between dollars is whole.
fn end_of_statement(text: &str) -> usize {
    let mut semicolons = inside(text).filter(|(_, byte, place)| *byte == b';' && *place == Inside::Plain);
    let ends = semicolons.next().map_or(text.len(), |(at, ..)| at);
    let Some(body) = text.get(..ends).and_then(|head| head.find("$$")) else { return ends };
    let behind = text.get(body + 2..).unwrap_or_default();
    let closes = behind.find("$$").map_or(text.len(), |at| body + 2 + at + 2);
    let rest = text.get(closes..).unwrap_or_default();
    closes + rest.find(';').unwrap_or(rest.len())
}

/// The table and the columns of `COPY table (columns) FROM stdin`.
fn copied(statement: &str) -> Option<(String, Vec<String>)> {
    let upper = statement.to_ascii_uppercase();
    let lower = statement.get(upper.strip_prefix("COPY ").map(|_| 5)?..)?;
    upper.trim_end().ends_with("FROM STDIN").then_some(())?;
    let (table, rest) = lower.split_once('(')?;
    let columns = rest.split_once(')')?.0;
    let bare = |name: &str| name.trim().trim_matches('"').to_owned();
    let table = table.rsplit('.').next().map(bare)?;
    Some((table, columns.split(',').map(bare).collect()))
}

/// The comments behind the lines of a statement, each with the first word of its line.
pub(super) fn comments_behind(statement: &str) -> Vec<(String, String)> {
    let mut found = Vec::new();
    let places: Vec<(usize, u8, Inside)> = inside(statement).collect();
    let mut line_at = 0;
    for line in statement.split_inclusive('\n') {
        let begins = line_at;
        line_at += line.len();
        let starts = places
            .iter()
            .skip(begins)
            .take(line.len())
            .find(|(_, byte, place)| *byte == b'-' && *place == Inside::LineComment)
            .map(|(at, ..)| *at);
        let Some(starts) = starts else { continue };
        let before = statement.get(begins..starts).unwrap_or_default();
        let word = before.trim_start().trim_start_matches([',', '(']).trim_start();
        let word: String = word
            .trim_start_matches(['"', '`', '['])
            .chars()
            .take_while(|c| c.is_alphanumeric() || *c == '_')
            .collect();
        let comment =
            statement.get(starts..line_at).unwrap_or_default().trim().trim_start_matches('-').trim();
        if !word.is_empty() && !comment.is_empty() {
            found.push((word, comment.to_owned()));
        }
    }
    found
}
