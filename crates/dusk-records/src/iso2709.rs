//! Bibliographic records as ISO 2709 has them: a leader, a directory, and fields of indicators and subfields. Each record
//! ends with a mark of its own, so that a damaged one harms no other.

use std::io::{BufRead as _, BufReader, Read as _};

use dusk_evidence::Refusal;

use crate::decoded::Decoded;
use crate::met::{LONGEST_RECORD, Met, Record, damaged, too_long};
use crate::node::{Node, by_name};

pub(crate) const RECORD_END: u8 = 0x1d;
pub(crate) const FIELD_END: u8 = 0x1e;
pub(crate) const SUBFIELD: u8 = 0x1f;

/// The length of a leader, in bytes.
pub(crate) const LEADER: usize = 24;

/// Where the leader says how the record's characters are written: `a` for UTF-8.
pub(crate) const CODING: usize = 9;

/// Whether a file begins as such a record does: its length in five digits, and a directory that ends before its data.
pub(crate) fn is_one(head: &[u8]) -> bool {
    let digits = |range: std::ops::Range<usize>| {
        head.get(range).is_some_and(|part| part.iter().all(u8::is_ascii_digit))
    };
    let base = number(head, 12..17).unwrap_or(0);
    let ends_there = match head.get(base.saturating_sub(1)) {
        Some(end) => *end == FIELD_END,
        // A directory longer than what is looked at has its plan in the leader.
        None => head.get(20..24) == Some(b"4500"),
    };
    digits(0..5) && digits(12..17) && base > LEADER && ends_there
}

/// Gives each record of the file.
pub(crate) fn each_record(bytes: Decoded, met: &mut Met<'_>) -> Result<(), Refusal> {
    let mut reader = BufReader::with_capacity(1 << 16, bytes);
    let mut record = Vec::new();
    loop {
        record.clear();
        let read = (&mut reader).take(LONGEST_RECORD + 1).read_until(RECORD_END, &mut record);
        if read.map_err(|error| damaged("file of records", &error.to_string()))? == 0 {
            return Ok(());
        }
        if record.len() as u64 > LONGEST_RECORD {
            return Err(too_long());
        }
        // Some programs put a line end between two records.
        let from =
            record.iter().position(|byte| !matches!(byte, b'\r' | b'\n' | 0x1a)).unwrap_or(record.len());
        let bytes = record.get(from..).unwrap_or_default();
        if bytes.is_empty() {
            continue;
        }
        refuse_older_characters(bytes)?;
        met("", record_of(bytes).map_or_else(Record::Damaged, Record::Read))?;
    }
}

/// A record that does not say that it is UTF-8 and holds bytes that are not is in an older set of characters.
fn refuse_older_characters(record: &[u8]) -> Result<(), Refusal> {
    if record.get(CODING) == Some(&b'a') || std::str::from_utf8(record).is_ok() {
        return Ok(());
    }
    Err(Refusal::new(
        "holds records whose leader does not say UTF-8 (position 9), and which are in an older set of characters, such as MARC-8 or ISO 5426",
        "export them as UTF-8 from the program that they come from",
    ))
}

fn number(bytes: &[u8], range: std::ops::Range<usize>) -> Option<usize> {
    std::str::from_utf8(bytes.get(range)?).ok()?.trim().parse().ok()
}

/// A place in the data that an entry of the directory names.
pub(crate) fn record_of(bytes: &[u8]) -> Result<Node, String> {
    let body = bytes.strip_suffix(&[RECORD_END]).ok_or("it has no end: the file was cut off")?;
    let leader = bytes.get(..LEADER).ok_or("it is shorter than its leader")?;
    let says = number(leader, 0..5).ok_or("its leader does not say how long it is")?;
    if says != bytes.len() && says != 99_999 {
        return Err(format!("its leader says {says} bytes, and it has {}", bytes.len()));
    }
    let base = number(leader, 12..17).ok_or("its leader does not say where its data begins")?;
    let directory =
        bytes.get(LEADER..base.saturating_sub(1)).ok_or("its directory is longer than the record")?;
    let data = body.get(base..).ok_or("its data begins behind its end")?;
    let mut fields = vec![("LDR".to_owned(), Node::text(text(leader)?))];
    let mut entries = directory.chunks_exact(12);
    for entry in &mut entries {
        let tag = entry.get(..3).map(text).ok_or("its directory is damaged")??;
        let length =
            number(entry, 3..7).ok_or_else(|| format!("its directory does not say how long {tag} is"))?;
        let start =
            number(entry, 7..12).ok_or_else(|| format!("its directory does not say where {tag} begins"))?;
        let field = data.get(start..start + length).ok_or_else(|| format!("{tag} lies behind its end"))?;
        let field = field
            .strip_suffix(&[FIELD_END])
            .ok_or_else(|| format!("{tag} does not end where the directory says"))?;
        fields.push((tag, field_of(field)?));
    }
    if !entries.remainder().is_empty() {
        return Err("its directory is not made of whole entries".into());
    }
    Ok(Node::Object(by_name(fields)))
}

fn text(bytes: &[u8]) -> Result<String, String> {
    std::str::from_utf8(bytes).map(str::to_owned).map_err(|_| "it holds bytes that are not UTF-8".to_owned())
}

/// A field: its text, or its indicators and subfields.
fn field_of(field: &[u8]) -> Result<Node, String> {
    let mut parts = field.split(|byte| *byte == SUBFIELD);
    let first = parts.next().map(text).transpose()?.unwrap_or_default();
    let subfields: Vec<String> = parts.map(text).collect::<Result<_, _>>()?;
    if subfields.is_empty() {
        return Ok(Node::text(first));
    }
    // What stands there beside the indicators belongs to no subfield, and is not dropped.
    if first.chars().count() > 2 {
        return Err(format!("\"{first}\" is before a subfield, and is more than two indicators"));
    }
    Ok(data_field(&first, &subfields))
}

/// A field of indicators and subfields, each of which begins with its code.
pub(crate) fn data_field(indicators: &str, subfields: &[String]) -> Node {
    let mut entries = Vec::new();
    for (name, indicator) in ["@1", "@2"].iter().zip(indicators.chars()) {
        if !matches!(indicator, ' ' | '#' | '\\' | '|') {
            entries.push(((*name).to_owned(), Node::text(indicator)));
        }
    }
    for subfield in subfields {
        let mut letters = subfield.chars();
        if let Some(code) = letters.next() {
            entries.push((format!("${code}"), Node::text(letters.as_str())));
        }
    }
    Node::Object(by_name(entries))
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;

    /// A record of these fields, with its leader and directory.
    pub(crate) fn record(coding: char, fields: &[(&str, &str)]) -> Vec<u8> {
        let (mut directory, mut data) = (String::new(), Vec::new());
        for (tag, text) in fields {
            let text = text.replace('$', "\u{1f}");
            directory.push_str(&format!("{tag}{:04}{:05}", text.len() + 1, data.len()));
            data.extend_from_slice(text.as_bytes());
            data.push(FIELD_END);
        }
        let base = LEADER + directory.len() + 1;
        let mut all = format!("{:05}nam {coding}22{base:05} a 4500{directory}\u{1e}", base + data.len() + 1)
            .into_bytes();
        all.extend_from_slice(&data);
        all.push(RECORD_END);
        all
    }

    #[test]
    fn fields_and_subfields_are_told_and_those_that_come_again_are_lists() {
        let bytes = record(
            'a',
            &[("001", "77"), ("245", "10$aBees$bof Öst"), ("650", " 0$aHoney"), ("650", " 0$aWax")],
        );
        assert!(is_one(&bytes) && !is_one(b"00117;03/04/2026;white"));
        assert!(!is_one("00117  Öst\n00118  Vik\n00119  Fen\n".as_bytes()), "numbers alone prove nothing");
        let Node::Object(entries) = record_of(&bytes).unwrap() else { panic!() };
        let names: Vec<&str> = entries.iter().map(|(name, _)| name.as_str()).collect();
        assert_eq!(names, ["LDR", "001", "245", "650"]);
        let title = Node::Object(vec![
            ("@1".into(), Node::text("1")),
            ("@2".into(), Node::text("0")),
            ("$a".into(), Node::text("Bees")),
            ("$b".into(), Node::text("of Öst")),
        ]);
        assert_eq!(entries.get(2), Some(&("245".to_owned(), title)));
        assert!(matches!(entries.get(3), Some((_, Node::List(items))) if items.len() == 2));
    }

    #[test]
    fn damage_is_named_and_older_characters_are_refused() {
        let whole = record('a', &[("001", "77"), ("245", "10$aBees")]);
        for (from, to, says) in [
            ("00", "99", "its leader says 99"),
            ("2450009", "2459909", "245 lies behind its end"),
            ("2450009", "2450008", "245 does not end where"),
            ("0010003", "001  x3", "how long 001 is"),
        ] {
            let text = String::from_utf8(whole.clone()).unwrap().replacen(from, to, 1);
            let refused = record_of(text.as_bytes()).unwrap_err();
            assert!(refused.contains(says), "{refused}");
        }
        assert!(record_of(&whole[..whole.len() - 4]).unwrap_err().contains("cut off"));
        let odd = record('a', &[("245", "10Bees$aWax")]);
        assert!(record_of(&odd).unwrap_err().contains("more than two indicators"));
        let mut older = record(' ', &[("245", "10$aBees")]);
        older[45] = 0xe8;
        assert!(refuse_older_characters(&older).unwrap_err().says.contains("older set of characters"));
    }
}
