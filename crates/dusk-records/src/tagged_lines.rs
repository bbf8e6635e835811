//! Bibliographic records as lines of text: a tag and its field on each, a blank line between two records.

use std::io::{BufRead as _, BufReader, Read as _};

use dusk_evidence::Refusal;

use crate::decoded::Decoded;
use crate::iso2709::data_field;
use crate::met::{LONGEST_RECORD, Met, Record, damaged, too_long};
use crate::node::{Node, by_name};

/// Whether a text begins so: nearly all of its lines have tags, and some have subfields.
pub(crate) fn is_one(head: &str) -> bool {
    let lines: Vec<&str> = head.lines().filter(|line| !line.trim().is_empty()).take(40).collect();
    // The last line of the head may have been cut.
    let whole =
        lines.split_last().map_or(&[][..], |(_, whole)| if whole.is_empty() { &lines } else { whole });
    let tagged = whole.iter().filter(|line| field_of(line).is_some()).count();
    let with_subfields =
        lines.iter().filter(|line| matches!(field_of(line), Some((_, Node::Object(_))))).count();
    tagged == whole.len() && with_subfields > 0
}

/// A leader alone on a line, without a tag.
fn is_leader(line: &str) -> bool {
    line.len() == 24 && line.bytes().take(5).all(|byte| byte.is_ascii_digit())
}

/// Gives each record of the file.
pub(crate) fn each_record(text: Decoded, met: &mut Met<'_>) -> Result<(), Refusal> {
    let mut reader = BufReader::with_capacity(1 << 16, text);
    let mut fields: Vec<(String, Node)> = Vec::new();
    let mut wrong: Option<String> = None;
    let mut bytes = Vec::new();
    let mut size = 0;
    loop {
        bytes.clear();
        let read = (&mut reader).take(LONGEST_RECORD + 1).read_until(b'\n', &mut bytes);
        let read = read.map_err(|error| damaged("file of records", &error.to_string()))?;
        let line = std::str::from_utf8(&bytes).map(str::trim_end);
        let is_blank = line.is_ok_and(|line| line.trim().is_empty());
        if (read == 0 || is_blank) && (!fields.is_empty() || wrong.is_some()) {
            let record = match wrong.take() {
                Some(says) => Record::Damaged(says),
                None => Record::Read(Node::Object(by_name(std::mem::take(&mut fields)))),
            };
            (fields, size) = (Vec::new(), 0);
            met("", record)?;
        }
        if read == 0 {
            return Ok(());
        }
        size += read as u64;
        if size > LONGEST_RECORD {
            return Err(too_long());
        }
        match line {
            _ if is_blank => {}
            Ok(line) => match field_of(line) {
                Some(field) => fields.push(field),
                None => wrong = Some(format!("\"{}\" is not a tag and a field", shortened(line))),
            },
            Err(_) => wrong = Some("it holds bytes that are not UTF-8".into()),
        }
    }
}

fn shortened(line: &str) -> String {
    line.chars().take(40).collect()
}

/// A tag and what stands behind it as one record has it.
fn field_of(line: &str) -> Option<(String, Node)> {
    Some(match parts_of(line)? {
        (tag, FieldParts::Whole(text)) => (tag, Node::text(text)),
        (tag, FieldParts::Data { indicators, subfields }) => (tag, data_field(&indicators, &subfields)),
    })
}

/// What stands behind a tag.
pub(crate) enum FieldParts {
    /// A text without subfields.
    Whole(String),
    /// At most two indicators as they are written, and subfields that begin with their codes.
    Data { indicators: String, subfields: Vec<String> },
}

/// A tag and what stands behind it: a blank in plain lines, two in those that begin with a sign.
pub(crate) fn parts_of(line: &str) -> Option<(String, FieldParts)> {
    if is_leader(line) {
        return Some(("LDR".to_owned(), FieldParts::Whole(line.to_owned())));
    }
    // Blanks around subfields are layout in plain lines, and data in those with a sign.
    let is_signed = line.starts_with('=');
    let (line, blanks) = line.strip_prefix('=').map_or((line, " "), |line| (line, "  "));
    let (tag, rest) = line.split_at_checked(3)?;
    let rest = if rest.is_empty() { "" } else { rest.strip_prefix(blanks)? };
    if tag != "LDR" && !tag.bytes().all(|byte| byte.is_ascii_digit()) {
        return None;
    }
    let tag = if tag == "000" { "LDR" } else { tag };
    if tag == "LDR" || tag.starts_with("00") {
        return Some((tag.to_owned(), FieldParts::Whole(rest.to_owned())));
    }
    let (indicators, data) = rest.split_at_checked(rest.find(['$', '‡'])?)?;
    let indicators = indicators.trim_end();
    let indicators =
        indicators.strip_prefix(' ').filter(|_| indicators.chars().count() > 2).unwrap_or(indicators);
    if indicators.chars().count() > 2 {
        return None;
    }
    let subfield = |part: &str| {
        let mut letters = part.chars();
        let code = letters.next().map(String::from).unwrap_or_default();
        let text = if is_signed { letters.as_str() } else { letters.as_str().trim() };
        format!("{code}{}", text.replace("{dollar}", "$"))
    };
    let subfields = data.split(['$', '‡']).skip(1).map(subfield).collect();
    Some((tag.to_owned(), FieldParts::Data { indicators: indicators.to_owned(), subfields }))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_with_and_without_signs_before_their_tags_say_the_same() {
        let title = |line: &str| field_of(line).map(|(tag, node)| (tag, format!("{node:?}")));
        let marked = title("=245  10$aBees$bof Öst");
        assert!(marked.is_some());
        assert_eq!(marked, title("245 10 $a Bees $b of Öst"));
        assert_eq!(title("=650  \\0$aWax"), title("650  0 $a Wax"));
        assert_eq!(field_of("=001  77"), Some(("001".into(), Node::text("77"))));
        assert!(field_of("Bees of Öst").is_none() && field_of("245").is_none());
        assert!(is_one("=LDR  00714cam a2200205 a 4500\n=001  77\n=245  10$aBees\n\n=LDR  x\n"));
        assert!(!is_one("117 10 white\n290 12 $5\nyellow\n"), "a price list is no file of records");
    }
}
