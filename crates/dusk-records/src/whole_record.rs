//! Bibliographic records (ISO 2709, or the same as lines of text) as they stand, in which fields are set or added and all
//! else stays byte for byte.

use std::fs::File;
use std::io::{self, BufRead as _, BufReader, Read as _};
use std::sync::Arc;

use dusk_workbooks::PlacedFile;

use crate::iso2709::{CODING, FIELD_END, LEADER, RECORD_END, SUBFIELD, record_of};
use crate::met::LONGEST_RECORD;
use crate::tagged_lines::{FieldParts, parts_of};

/// The most bytes that the five digits of a leader can say.
const LONGEST: usize = 99_999;

/// The most bytes that the four digits of an entry can say.
const LONGEST_FIELD: usize = 9_999;

/// The leader of a new record: a language material in UTF-8, its lengths still open.
pub const NEW_LEADER: &str = "00000nam a2200000 a 4500";

/// Where in a record a value belongs: `001`, `590$a`, `245@1`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FieldPath {
    /// The tag, of three letters or digits.
    pub tag: String,
    /// What of the field is meant.
    pub part: FieldPart,
}

/// What of a field is meant.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FieldPart {
    /// All of it, where it has no subfields.
    Whole,
    /// The subfield of this code.
    Subfield(char),
    /// The first or the second indicator.
    Indicator(usize),
}

impl FieldPath {
    /// Reads a path; nothing for another text.
    pub fn parse(text: &str) -> Option<Self> {
        let (tag, rest) = text.split_at_checked(3)?;
        if !tag.bytes().all(|byte| byte.is_ascii_digit() || byte.is_ascii_uppercase()) {
            return None;
        }
        let mut letters = rest.chars();
        let part = match (letters.next(), letters.next(), letters.next()) {
            (None, ..) => FieldPart::Whole,
            (Some('$'), Some(code), None) if code.is_ascii_graphic() => FieldPart::Subfield(code),
            (Some('@'), Some('1'), None) => FieldPart::Indicator(0),
            (Some('@'), Some('2'), None) => FieldPart::Indicator(1),
            _ => return None,
        };
        // Only the control fields have neither indicators nor subfields.
        let is_control = tag.starts_with("00");
        (is_control == (part == FieldPart::Whole)).then(|| Self { tag: tag.to_owned(), part })
    }
}

/// One record.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WholeRecord {
    leader: Vec<u8>,
    /// The fields in their order.
    fields: Vec<WholeField>,
    /// How its lines are written, where it is one of lines.
    style: LineStyle,
}

/// One field.
#[derive(Debug, Clone, PartialEq, Eq)]
struct WholeField {
    tag: Vec<u8>,
    /// What stands in it, in the form of ISO 2709.
    data: Vec<u8>,
    /// Its line as it stands, with its end, where nothing was set in it.
    line: Option<String>,
}

/// How a record of lines is written.
#[derive(Debug, Clone, PartialEq, Eq)]
struct LineStyle {
    /// Lines begin with a sign.
    is_signed: bool,
    end: &'static str,
    /// The leader's line, and what stands behind the record up to the next one.
    leader: Option<String>,
    behind: String,
}

impl Default for LineStyle {
    fn default() -> Self {
        Self { is_signed: true, end: "\n", leader: None, behind: String::new() }
    }
}

impl WholeRecord {
    /// A record without fields.
    pub fn new(leader: &str) -> Self {
        let mut leader = leader.as_bytes().to_vec();
        leader.resize(LEADER, b' ');
        Self { leader, fields: Vec::new(), style: LineStyle::default() }
    }

    /// Takes a record apart.
    ///
    /// # Errors
    /// Says what is damaged in it.
    pub fn read(bytes: &[u8]) -> Result<Self, String> {
        record_of(bytes)?;
        let lost = || "it is damaged".to_owned();
        let leader = bytes.get(..LEADER).ok_or_else(lost)?.to_vec();
        let number =
            |bytes: Option<&[u8]>| -> Option<usize> { std::str::from_utf8(bytes?).ok()?.trim().parse().ok() };
        let base = number(bytes.get(12..17)).ok_or_else(lost)?;
        let directory = bytes.get(LEADER..base.saturating_sub(1)).ok_or_else(lost)?;
        let mut fields = Vec::new();
        for entry in directory.chunks_exact(12) {
            let (length, start) = (number(entry.get(3..7)), number(entry.get(7..12)));
            let (length, start) = length.zip(start).ok_or_else(lost)?;
            let from = base + start;
            // Its last byte is the mark that ends it.
            let field = bytes.get(from..from + length.saturating_sub(1)).ok_or_else(lost)?;
            let tag = entry.get(..3).ok_or_else(lost)?.to_vec();
            fields.push(WholeField { tag, data: field.to_vec(), line: None });
        }
        Ok(Self { leader, fields, style: LineStyle::default() })
    }

    /// Takes a record of lines apart.
    ///
    /// # Errors
    /// Says which line is not one of a field.
    pub fn read_lines(bytes: &[u8]) -> Result<Self, String> {
        let text = std::str::from_utf8(bytes).map_err(|_| "it holds bytes that are not UTF-8".to_owned())?;
        let mut record = Self::new(NEW_LEADER);
        record.style.end = if text.contains("\r\n") { "\r\n" } else { "\n" };
        for line in text.split_inclusive('\n') {
            let bare = line.trim_start_matches('\u{feff}').trim_end_matches(['\r', '\n']);
            let bare = if bare.starts_with('=') { bare } else { bare.trim_end() };
            if bare.trim().is_empty() {
                record.style.behind.push_str(line);
                continue;
            }
            let (tag, parts) =
                parts_of(bare).ok_or_else(|| format!("\"{bare}\" is not a tag and a field"))?;
            record.style.is_signed = bare.starts_with('=');
            let data = match parts {
                FieldParts::Whole(leader) if tag == "LDR" => {
                    record.leader = leader.into_bytes();
                    record.leader.resize(LEADER, b' ');
                    record.style.leader = Some(line.to_owned());
                    continue;
                }
                FieldParts::Whole(text) => text.into_bytes(),
                FieldParts::Data { indicators, subfields } => {
                    let indicator =
                        |letter: char| if matches!(letter, '#' | '\\' | '|') { ' ' } else { letter };
                    let mut data: String = indicators.chars().map(indicator).collect();
                    (data.chars().count()..2).for_each(|_| data.push(' '));
                    subfields.iter().for_each(|subfield| data.extend(["\u{1f}", subfield.as_str()]));
                    data.into_bytes()
                }
            };
            record.fields.push(WholeField { tag: tag.into_bytes(), data, line: Some(line.to_owned()) });
        }
        Ok(record)
    }

    /// The record as lines of text, with a blank one behind it.
    pub fn lines(&self) -> Vec<u8> {
        let LineStyle { is_signed, end, leader, behind } = &self.style;
        let sign = if *is_signed { "=" } else { "" };
        let gap = if *is_signed { "  " } else { " " };
        let mut text = match leader {
            Some(line) => line.clone(),
            None => format!("{sign}LDR{gap}{}{end}", String::from_utf8_lossy(&self.leader)),
        };
        for WholeField { tag, data, line } in &self.fields {
            if let Some(line) = line {
                text.push_str(line);
                if !line.ends_with('\n') {
                    text.push_str(end);
                }
                continue;
            }
            let mut parts = data.split(|byte| *byte == SUBFIELD).map(String::from_utf8_lossy);
            let first = parts.next().unwrap_or_default();
            let is_control = tag.starts_with(b"00");
            let first = if *is_signed && !is_control { first.replace(' ', "\\") } else { first.into_owned() };
            text.push_str(&format!("{sign}{}{gap}{first}", String::from_utf8_lossy(tag)));
            for part in parts {
                text.push('$');
                text.push_str(&part.replace('$', "{dollar}"));
            }
            text.push_str(end);
        }
        text.push_str(if behind.is_empty() { end } else { behind });
        text.into_bytes()
    }

    /// Sets a value in the first field of its tag; where there is none, in a new one.
    pub fn set(&mut self, path: &FieldPath, value: &str) {
        let place = self.fields.iter().position(|field| field.tag == path.tag.as_bytes());
        let place = place.unwrap_or_else(|| self.insert(&path.tag));
        self.put(place, path.part, value);
    }

    /// Adds a field of a tag behind those that there are, with these values.
    pub fn add(&mut self, tag: &str, values: &[(FieldPart, &str)]) {
        let place = self.insert(tag);
        for (part, value) in values {
            self.put(place, *part, value);
        }
    }

    /// Makes an empty field behind the last one whose tag is not larger, and gives its place.
    fn insert(&mut self, tag: &str) -> usize {
        let before = self.fields.iter().rposition(|known| known.tag.as_slice() <= tag.as_bytes());
        let place = before.map_or(0, |before| before + 1);
        let blank = if tag.starts_with("00") { Vec::new() } else { b"  ".to_vec() };
        self.fields.insert(place, WholeField { tag: tag.as_bytes().to_vec(), data: blank, line: None });
        place
    }

    fn put(&mut self, place: usize, part: FieldPart, value: &str) {
        if !value.is_ascii()
            && let Some(coding) = self.leader.get_mut(CODING)
        {
            *coding = b'a';
        }
        let Some(WholeField { data: field, line, .. }) = self.fields.get_mut(place) else { return };
        *line = None;
        match part {
            FieldPart::Whole => *field = value.as_bytes().to_vec(),
            FieldPart::Indicator(at) => {
                if let (Some(slot), Some(byte)) = (field.get_mut(at), value.bytes().next()) {
                    *slot = byte;
                }
            }
            FieldPart::Subfield(code) => {
                let mut parts: Vec<Vec<u8>> =
                    field.split(|byte| *byte == SUBFIELD).map(<[u8]>::to_vec).collect();
                let subfield = [code.to_string().as_bytes(), value.as_bytes()].concat();
                let known = parts.iter().skip(1).position(|part| part.first() == Some(&(code as u8)));
                match known.and_then(|at| parts.get_mut(at + 1)) {
                    Some(slot) => *slot = subfield,
                    None => parts.push(subfield),
                }
                *field = parts.join(&SUBFIELD);
            }
        }
    }

    /// The record as bytes, its lengths and its directory made anew.
    ///
    /// # Errors
    /// Says that the format has no room for it.
    pub fn bytes(&self) -> Result<Vec<u8>, String> {
        let (mut directory, mut data) = (Vec::new(), Vec::new());
        for WholeField { tag, data: field, .. } in &self.fields {
            let length = field.len() + 1;
            if length > LONGEST_FIELD {
                let tag = String::from_utf8_lossy(tag);
                return Err(format!(
                    "its field {tag} takes {length} bytes, and such a record has room for {LONGEST_FIELD}"
                ));
            }
            directory.extend_from_slice(tag);
            directory.extend_from_slice(format!("{length:04}{:05}", data.len()).as_bytes());
            data.extend_from_slice(field);
            data.push(FIELD_END);
        }
        let base = LEADER + directory.len() + 1;
        let length = base + data.len() + 1;
        if length > LONGEST {
            return Err(format!("it takes {length} bytes, and such a record has room for {LONGEST}"));
        }
        let mut bytes = self.leader.clone();
        for (at, number) in [(0, length), (12, base)] {
            if let Some(digits) = bytes.get_mut(at..at + 5) {
                digits.copy_from_slice(format!("{number:05}").as_bytes());
            }
        }
        bytes.extend_from_slice(&directory);
        bytes.push(FIELD_END);
        bytes.extend_from_slice(&data);
        bytes.push(RECORD_END);
        Ok(bytes)
    }
}

/// The records of a file as they stand, one after the other.
#[derive(Debug)]
pub struct RecordBytes {
    reader: BufReader<PlacedFile>,
    /// They are lines of text, with a blank line between two.
    are_lines: bool,
    /// The first line of the next record, which was read already.
    ahead: Vec<u8>,
}

impl RecordBytes {
    /// From the beginning of a file.
    pub fn of(file: &Arc<File>, are_lines: bool) -> Self {
        Self {
            reader: BufReader::with_capacity(1 << 16, PlacedFile::new(file)),
            are_lines,
            ahead: Vec::new(),
        }
    }

    /// The next record without what stands between two; nothing at the end.
    ///
    /// # Errors
    /// What the system says.
    pub fn next_record(&mut self) -> io::Result<Option<Vec<u8>>> {
        if self.are_lines {
            return self.next_of_lines();
        }
        loop {
            let mut record = Vec::new();
            if (&mut self.reader).take(LONGEST_RECORD).read_until(RECORD_END, &mut record)? == 0 {
                return Ok(None);
            }
            let is_between = |byte: &u8| matches!(byte, b'\r' | b'\n' | 0x1a | 0xef | 0xbb | 0xbf);
            let from = record.iter().position(|byte| !is_between(byte)).unwrap_or(record.len());
            if from < record.len() {
                return Ok(Some(record.split_off(from)));
            }
        }
    }

    /// The lines up to the next record, with the blank ones behind them.
    fn next_of_lines(&mut self) -> io::Result<Option<Vec<u8>>> {
        let (mut record, mut has_fields, mut is_over) = (Vec::new(), false, false);
        loop {
            let mut line = std::mem::take(&mut self.ahead);
            if line.is_empty() {
                (&mut self.reader).take(LONGEST_RECORD).read_until(b'\n', &mut line)?;
            }
            // As the rows are told: what is not UTF-8 is no blank line.
            let is_blank = std::str::from_utf8(&line).is_ok_and(|line| line.trim().is_empty());
            if line.is_empty() || is_over && !is_blank {
                self.ahead = line;
                return Ok(has_fields.then_some(record));
            }
            record.append(&mut line);
            has_fields |= !is_blank;
            is_over = has_fields && is_blank;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::iso2709::tests::record;
    use proptest::prelude::*;

    fn path(text: &str) -> FieldPath {
        FieldPath::parse(text).unwrap()
    }

    fn edited(fields: &[(&str, &str)], edit: impl FnOnce(&mut WholeRecord)) -> Vec<u8> {
        let mut whole = WholeRecord::read(&record('a', fields)).unwrap();
        edit(&mut whole);
        whole.bytes().unwrap()
    }

    #[test]
    fn paths_name_a_control_field_a_subfield_or_an_indicator() {
        assert_eq!(path("245$a").part, FieldPart::Subfield('a'));
        assert_eq!(path("245@2").part, FieldPart::Indicator(1));
        assert_eq!(path("001").part, FieldPart::Whole);
        for wrong in ["", "24", "245", "001$a", "245@3", "245$", "245$ab", "24x$a", "Öst$a", "245 a"] {
            assert_eq!(FieldPath::parse(wrong), None, "{wrong}");
        }
    }

    #[test]
    fn a_value_is_set_in_the_first_field_and_all_else_stays() {
        let before = [
            ("001", "77"),
            ("245", "10$aBees$bof Öst"),
            ("590", "  $aold$5x"),
            ("590", "  $aother"),
            ("900", "  $zend"),
        ];
        let after = |fields: &[(&str, &str)]| record('a', fields);
        assert_eq!(
            edited(&before, |whole| whole.set(&path("590$a"), "checked 2026")),
            after(&[
                ("001", "77"),
                ("245", "10$aBees$bof Öst"),
                ("590", "  $achecked 2026$5x"),
                ("590", "  $aother"),
                ("900", "  $zend")
            ])
        );
        assert_eq!(
            edited(&before, |whole| whole.set(&path("245$c"), "Åse")),
            after(&[
                ("001", "77"),
                ("245", "10$aBees$bof Öst$cÅse"),
                ("590", "  $aold$5x"),
                ("590", "  $aother"),
                ("900", "  $zend")
            ])
        );
        assert_eq!(
            edited(&before[..2], |whole| {
                whole.set(&path("001"), "K1");
                whole.set(&path("245@2"), "4");
                whole.set(&path("003"), "DB");
            }),
            after(&[("001", "K1"), ("003", "DB"), ("245", "14$aBees$bof Öst")])
        );
    }

    #[test]
    fn a_field_is_added_behind_those_of_its_tag() {
        let values = [
            (FieldPart::Indicator(0), "1"),
            (FieldPart::Subfield('a'), "stamp"),
            (FieldPart::Subfield('5'), "DB"),
        ];
        assert_eq!(
            edited(&[("001", "7"), ("590", "  $aold"), ("700", "  $ax")], |whole| whole.add("590", &values)),
            record('a', &[("001", "7"), ("590", "  $aold"), ("590", "1 $astamp$5DB"), ("700", "  $ax")])
        );
        let mut new = WholeRecord::new(NEW_LEADER);
        new.add("590", &values);
        new.set(&path("001"), "9");
        let bytes = new.bytes().unwrap();
        assert_eq!(WholeRecord::read(&bytes).unwrap().fields.len(), 2);
        assert!(crate::iso2709::is_one(&bytes));
    }

    #[test]
    fn what_the_format_has_no_room_for_is_said() {
        let mut whole = WholeRecord::new(NEW_LEADER);
        whole.set(&path("520$a"), &"x".repeat(10_000));
        assert!(whole.bytes().unwrap_err().contains("its field 520 takes 10005 bytes"));
        let mut whole = WholeRecord::new(NEW_LEADER);
        (0..12).for_each(|_| whole.add("520", &[(FieldPart::Subfield('a'), &"x".repeat(9_000))]));
        assert!(whole.bytes().unwrap_err().contains("room for 99999"));
        assert!(WholeRecord::read(b"00026nam a2200000 a 4500").is_err());
    }

    #[test]
    fn lines_in_which_nothing_is_set_stay_as_they_are() {
        let signed = "=LDR  00000nam a2200000 a 4500\r\n=001  77\r\n=245  10$aBees$bof Öst\r\n=590  \\\\$aold \r\n\r\n";
        let mut record = WholeRecord::read_lines(signed.as_bytes()).unwrap();
        assert_eq!(String::from_utf8(record.lines()).unwrap(), signed);
        record.set(&path("590$a"), "costs 5$");
        record.add("700", &[(FieldPart::Indicator(0), "1"), (FieldPart::Subfield('a'), "Åse")]);
        let expected =
            signed.replace("$aold ", "$acosts 5{dollar}").replace("\r\n\r\n", "\r\n=700  1\\$aÅse\r\n\r\n");
        assert_eq!(String::from_utf8(record.lines()).unwrap(), expected);
        let plain = "000 00000nam a2200000 a 4500\n001 77\n245 10 $a Bees $b of Öst\n\n\n";
        let mut record = WholeRecord::read_lines(plain.as_bytes()).unwrap();
        assert_eq!(String::from_utf8(record.lines()).unwrap(), plain);
        record.set(&path("245$c"), "x");
        assert!(String::from_utf8(record.lines()).unwrap().contains("\n245 10$aBees$bof Öst$cx\n\n\n"));
        assert!(WholeRecord::read_lines(b"Bees of 1900\n").unwrap_err().contains("is not a tag and a field"));
        // The same record as bytes.
        let whole = WholeRecord::read(&record.bytes().unwrap()).unwrap();
        assert_eq!(
            whole.fields.iter().map(|field| field.data.clone()).collect::<Vec<_>>(),
            record.fields.iter().map(|field| field.data.clone()).collect::<Vec<_>>()
        );
        assert!(String::from_utf8(whole.lines()).unwrap().starts_with("=LDR  "));
    }

    #[test]
    fn records_of_a_file_come_one_after_the_other() {
        let records = |text: &str, are_lines: bool| {
            let mut file = tempfile::tempfile().unwrap();
            std::io::Write::write_all(&mut file, text.as_bytes()).unwrap();
            let mut records = RecordBytes::of(&Arc::new(file), are_lines);
            std::iter::from_fn(move || records.next_record().unwrap())
                .map(|record| String::from_utf8(record).unwrap())
                .collect::<Vec<_>>()
        };
        assert_eq!(
            records("\n=001  1\n=245  $a\n\n\n=001  2\n\n=001  3", true),
            ["\n=001  1\n=245  $a\n\n\n", "=001  2\n\n", "=001  3"]
        );
        assert_eq!(records("a\u{1d}\r\nb\u{1d}\n\nc", false), ["a\u{1d}", "b\u{1d}", "c"]);
        assert!(records("\n\n", true).is_empty() && records("", false).is_empty());
    }

    proptest! {
        /// Reading and writing a record gives its bytes, and setting a value changes nothing of any other field.
        #[test]
        fn a_record_that_is_read_is_written_as_it_was(
            fields in prop::collection::vec(("[0-9]{3}", "[a-zÖ ]{0,12}"), 0..8),
            value in "[a-zÅ ]{1,9}",
        ) {
            let texts: Vec<(String, String)> = fields
                .iter()
                .map(|(tag, text)| (tag.clone(), if tag.starts_with("00") { text.clone() } else { format!("1 $a{text}") }))
                .collect();
            let texts: Vec<(&str, &str)> = texts.iter().map(|(tag, text)| (tag.as_str(), text.as_str())).collect();
            let bytes = record('a', &texts);
            let whole = WholeRecord::read(&bytes).unwrap();
            prop_assert_eq!(whole.bytes().unwrap(), bytes);
            let mut set = whole.clone();
            set.set(&path("887$2"), &value);
            let again = WholeRecord::read(&set.bytes().unwrap()).unwrap();
            let marked = ["\u{1f}2", value.as_str()].concat();
            let is_there = again.fields.iter().any(|field| field.tag == b"887" && field.data.ends_with(marked.as_bytes()));
            let others = |record: &WholeRecord| -> Vec<(Vec<u8>, Vec<u8>)> {
                record.fields.iter().filter(|field| field.tag != b"887").map(|field| (field.tag.clone(), field.data.clone())).collect()
            };
            prop_assert_eq!(others(&again), others(&whole));
            prop_assert!(is_there);
        }

        /// Any bytes are a record, or are said to be none.
        #[test]
        fn any_bytes_are_read_or_refused(mut bytes in prop::collection::vec(any::<u8>(), 0..120), at in 0..60_usize, byte in any::<u8>()) {
            let _ = WholeRecord::read(&bytes);
            bytes = record('a', &[("001", "7"), ("245", "10$aBees")]);
            if let Some(slot) = bytes.get_mut(at) {
                *slot = byte;
            }
            if let Ok(whole) = WholeRecord::read(&bytes) {
                prop_assert!(whole.bytes().is_ok());
            }
        }
    }
}
