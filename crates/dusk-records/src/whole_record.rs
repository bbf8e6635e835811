//! Bibliographic records (ISO 2709) as they stand, in which fields are set or added and all else stays byte for byte.

use std::fs::File;
use std::io::{self, BufRead as _, BufReader, Read as _};
use std::sync::Arc;

use dusk_workbooks::PlacedFile;

use crate::iso2709::{CODING, FIELD_END, LEADER, RECORD_END, SUBFIELD, record_of};
use crate::met::LONGEST_RECORD;

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
    /// The fields in the order of the directory: the tag, and what stands in it.
    fields: Vec<(Vec<u8>, Vec<u8>)>,
}

impl WholeRecord {
    /// A record without fields.
    pub fn new(leader: &str) -> Self {
        let mut leader = leader.as_bytes().to_vec();
        leader.resize(LEADER, b' ');
        Self { leader, fields: Vec::new() }
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
            fields.push((entry.get(..3).ok_or_else(lost)?.to_vec(), field.to_vec()));
        }
        Ok(Self { leader, fields })
    }

    /// Sets a value in the first field of its tag; where there is none, in a new one.
    pub fn set(&mut self, path: &FieldPath, value: &str) {
        let place = self.fields.iter().position(|(tag, _)| tag == path.tag.as_bytes());
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
        let before = self.fields.iter().rposition(|(known, _)| known.as_slice() <= tag.as_bytes());
        let place = before.map_or(0, |before| before + 1);
        let blank = if tag.starts_with("00") { Vec::new() } else { b"  ".to_vec() };
        self.fields.insert(place, (tag.as_bytes().to_vec(), blank));
        place
    }

    fn put(&mut self, place: usize, part: FieldPart, value: &str) {
        if !value.is_ascii()
            && let Some(coding) = self.leader.get_mut(CODING)
        {
            *coding = b'a';
        }
        let Some((_, field)) = self.fields.get_mut(place) else { return };
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
        for (tag, field) in &self.fields {
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
}

impl RecordBytes {
    /// From the beginning of a file.
    pub fn of(file: &Arc<File>) -> Self {
        Self { reader: BufReader::with_capacity(1 << 16, PlacedFile::new(file)) }
    }

    /// The next record without what stands between two; nothing at the end.
    ///
    /// # Errors
    /// What the system says.
    pub fn next_record(&mut self) -> io::Result<Option<Vec<u8>>> {
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
            let is_there = again.fields.iter().any(|(tag, field)| tag == b"887" && field.ends_with(marked.as_bytes()));
            let others = |record: &WholeRecord| -> Vec<(Vec<u8>, Vec<u8>)> {
                record.fields.iter().filter(|(tag, _)| tag != b"887").cloned().collect()
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
