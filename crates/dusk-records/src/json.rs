//! JSON documents and JSON Lines (RFC 8259): records come by one after the other, however long the file is.

use std::cell::Cell;
use std::fmt;
use std::io::{BufRead as _, BufReader, Read as _};
use std::rc::Rc;

use dusk_evidence::Refusal;
use dusk_workbooks::CellKind;
use serde::de::{DeserializeSeed, Deserializer, Error as _, MapAccess, SeqAccess, Visitor};
use serde_json::value::RawValue;

use crate::decoded::{Bounded, Decoded, TOO_LONG};
use crate::met::{LONGEST_RECORD, Met, Record, damaged, too_long};
use crate::node::{DEEPEST, Node, joined};

/// The most digits that an exponent may stand for when a number is written out.
const MOST_DIGITS: i32 = 40;

/// Gives each record of a document: each item of every list that is in no other list, with the list's path. A document
/// that is one object without such a list is one record.
pub(crate) fn each_of_document(text: Decoded, met: &mut Met<'_>) -> Result<(), Refusal> {
    let (reader, left) = Bounded::of(text);
    let mut refused = None;
    let mut sink = Sink { left, met, refused: &mut refused };
    let mut read = serde_json::Deserializer::from_reader(reader);
    let level = Level { path: String::new(), sink: &mut sink };
    let done = level.deserialize(&mut read).and_then(|()| read.end());
    match (refused, done) {
        (Some(refusal), _) => Err(refusal),
        (None, Err(error)) => Err(why_not_read(&error)),
        (None, Ok(())) => Ok(()),
    }
}

/// Gives the document as one record.
pub(crate) fn whole(text: Decoded, met: &mut Met<'_>) -> Result<(), Refusal> {
    let (reader, _) = Bounded::of(text);
    let raw: Box<RawValue> = serde_json::from_reader(reader).map_err(|error| why_not_read(&error))?;
    met("", record_of(raw.get()))
}

/// Gives each line as a record. A line that is not JSON is a record that cannot be read.
pub(crate) fn each_line(text: Decoded, met: &mut Met<'_>) -> Result<(), Refusal> {
    let mut reader = BufReader::with_capacity(1 << 16, text);
    let mut line = Vec::new();
    loop {
        line.clear();
        let read = (&mut reader).take(LONGEST_RECORD + 1).read_until(b'\n', &mut line);
        if read.map_err(|error| damaged("JSON", &error.to_string()))? == 0 {
            return Ok(());
        }
        if line.len() as u64 > LONGEST_RECORD {
            return Err(too_long());
        }
        let record = match std::str::from_utf8(&line) {
            Err(_) => Record::Damaged("it holds bytes that are not UTF-8".into()),
            Ok(text) if text.trim().is_empty() => Record::Blank,
            Ok(text) => match serde_json::from_str::<&RawValue>(text.trim()) {
                Ok(raw) => record_of(raw.get()),
                Err(error) => Record::Damaged(in_a_line(&error)),
            },
        };
        met("", record)?;
    }
}

/// What a text of valid JSON says as a record.
fn record_of(raw: &str) -> Record {
    match (Reading { rest: raw }).value(0) {
        Ok(node) => Record::Read(node),
        Err(says) => Record::Damaged(says),
    }
}

fn in_a_line(error: &serde_json::Error) -> String {
    let says = error.to_string();
    let says = says.rsplit_once(" at line").map_or(says.as_str(), |(says, _)| says);
    format!("it is not JSON: {says}, at character {}", error.column())
}

fn why_not_read(error: &serde_json::Error) -> Refusal {
    if error.is_io() && error.to_string().contains(TOO_LONG) {
        return too_long();
    }
    if error.is_eof() {
        return Refusal::new(
            "ends in the middle of its JSON",
            "check that the export was finished, and ask for it again",
        );
    }
    damaged("JSON", &error.to_string())
}

/// Where records go.
struct Sink<'s, 'm> {
    left: Rc<Cell<u64>>,
    met: &'s mut Met<'m>,
    refused: &'s mut Option<Refusal>,
}

impl Sink<'_, '_> {
    /// Takes a record; false where enough was read.
    fn take(&mut self, path: &str, record: Record) -> bool {
        self.left.set(LONGEST_RECORD);
        match (self.met)(path, record) {
            Ok(()) => true,
            Err(refusal) => {
                *self.refused = Some(refusal);
                false
            }
        }
    }
}

/// A value that is in no list.
struct Level<'l, 's, 'm> {
    path: String,
    sink: &'l mut Sink<'s, 'm>,
}

impl<'de> DeserializeSeed<'de> for Level<'_, '_, '_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, value: D) -> Result<(), D::Error> {
        value.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for Level<'_, '_, '_> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("JSON")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        while let Some(name) = map.next_key::<String>()? {
            self.sink.left.set(LONGEST_RECORD);
            map.next_value_seed(Level { path: joined(&self.path, &named(&name)), sink: self.sink })?;
        }
        Ok(())
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut items: A) -> Result<(), A::Error> {
        while let Some(raw) = items.next_element::<Box<RawValue>>()? {
            if !self.sink.take(&self.path, record_of(raw.get())) {
                return Err(A::Error::custom("enough was read"));
            }
        }
        Ok(())
    }

    fn visit_bool<E>(self, _: bool) -> Result<(), E> {
        Ok(())
    }

    fn visit_i64<E>(self, _: i64) -> Result<(), E> {
        Ok(())
    }

    fn visit_u64<E>(self, _: u64) -> Result<(), E> {
        Ok(())
    }

    fn visit_f64<E>(self, _: f64) -> Result<(), E> {
        Ok(())
    }

    fn visit_str<E>(self, _: &str) -> Result<(), E> {
        Ok(())
    }

    fn visit_unit<E>(self) -> Result<(), E> {
        Ok(())
    }
}

/// A name as it stands in a path: one that holds a dot is quoted, so that it is not two.
fn named(name: &str) -> String {
    if name.is_empty() || name.contains('.') || name.starts_with(['@', '$']) {
        format!("\"{name}\"")
    } else {
        name.to_owned()
    }
}

/// Reads a text that is known to be valid JSON, keeping its numbers as they are written.
struct Reading<'t> {
    rest: &'t str,
}

impl<'t> Reading<'t> {
    fn value(&mut self, depth: usize) -> Result<Node, String> {
        if depth > DEEPEST {
            return Err(format!("it is nested more than {DEEPEST} deep"));
        }
        self.blanks();
        match self.rest.bytes().next() {
            Some(b'{') => self.object(depth),
            Some(b'[') => self.list(depth),
            Some(b'"') => self.string().map(Node::text),
            _ => Ok(scalar(self.word())),
        }
    }

    fn blanks(&mut self) {
        self.rest = self.rest.trim_start_matches([' ', '\t', '\n', '\r']);
    }

    /// Takes a mark away, if it is there.
    fn takes(&mut self, mark: char) -> bool {
        self.blanks();
        let rest = self.rest.strip_prefix(mark);
        self.rest = rest.unwrap_or(self.rest);
        rest.is_some()
    }

    fn object(&mut self, depth: usize) -> Result<Node, String> {
        let mut entries = Vec::new();
        self.takes('{');
        while !self.takes('}') {
            let before = self.rest.len();
            self.blanks();
            let name = self.string()?;
            self.takes(':');
            entries.push((named(&name), self.value(depth + 1)?));
            self.takes(',');
            goes_on(before, self.rest)?;
        }
        Ok(Node::Object(entries))
    }

    fn list(&mut self, depth: usize) -> Result<Node, String> {
        let mut items = Vec::new();
        self.takes('[');
        while !self.takes(']') {
            let before = self.rest.len();
            items.push(self.value(depth + 1)?);
            self.takes(',');
            goes_on(before, self.rest)?;
        }
        Ok(Node::List(items))
    }

    fn string(&mut self) -> Result<String, String> {
        let bytes = self.rest.as_bytes();
        let (mut end, mut is_plain) = (1, true);
        loop {
            let next = bytes.get(end..).and_then(|rest| memchr::memchr2(b'"', b'\\', rest));
            end += next.ok_or("a text in it has no end")?;
            if bytes.get(end) == Some(&b'"') {
                break;
            }
            (end, is_plain) = (end + 2, false);
        }
        let (text, rest) = self.rest.split_at_checked(end + 1).ok_or("a text in it has no end")?;
        self.rest = rest;
        // Most texts have nothing that is escaped.
        if let Some(inner) = text.get(1..end).filter(|_| is_plain) {
            return Ok(inner.to_owned());
        }
        serde_json::from_str(text).map_err(|error| in_a_line(&error))
    }

    fn word(&mut self) -> &'t str {
        let end = self.rest.find([',', '}', ']', ' ', '\t', '\n', '\r']).unwrap_or(self.rest.len());
        let (word, rest) = self.rest.split_at_checked(end).unwrap_or((self.rest, ""));
        self.rest = rest;
        word
    }
}

fn goes_on(before: usize, rest: &str) -> Result<(), String> {
    if rest.len() < before { Ok(()) } else { Err("it is not JSON".into()) }
}

/// A number, true, false or null.
fn scalar(word: &str) -> Node {
    match word {
        "null" | "" => Node::text(""),
        "true" => Node::Leaf(CellKind::Boolean, "TRUE".into()),
        "false" => Node::Leaf(CellKind::Boolean, "FALSE".into()),
        number => match written_out(number) {
            Some(plain) => Node::Leaf(CellKind::Number, plain),
            None => Node::text(number),
        },
    }
}

/// A number without an exponent, digit for digit; nothing where that would be too long.
fn written_out(number: &str) -> Option<String> {
    let Some((mantissa, exponent)) = number.split_once(['e', 'E']) else { return Some(number.to_owned()) };
    let exponent: i32 = exponent.parse().ok().filter(|exponent: &i32| exponent.abs() <= MOST_DIGITS)?;
    let (sign, digits) = mantissa.strip_prefix('-').map_or(("", mantissa), |digits| ("-", digits));
    let (whole, decimals) = digits.split_once('.').unwrap_or((digits, ""));
    let all = format!("{whole}{decimals}");
    let point = i32::try_from(whole.len()).ok()? + exponent;
    let length = i32::try_from(all.len()).ok()?;
    let text = if point <= 0 {
        format!("0.{}{all}", "0".repeat(usize::try_from(-point).ok()?))
    } else if point >= length {
        format!("{all}{}", "0".repeat(usize::try_from(point - length).ok()?))
    } else {
        let (whole, decimals) = all.split_at_checked(usize::try_from(point).ok()?)?;
        format!("{whole}.{decimals}")
    };
    let trimmed = text.trim_start_matches('0');
    let zero = if trimmed.is_empty() || trimmed.starts_with('.') { "0" } else { "" };
    Some(format!("{sign}{zero}{trimmed}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_kept_digit_for_digit() {
        for (number, plain) in [
            ("117", Some("117")),
            ("1.10", Some("1.10")),
            ("12345678901234567890.5", Some("12345678901234567890.5")),
            ("1.5E3", Some("1500")),
            ("-25e-1", Some("-2.5")),
            ("5e-3", Some("0.005")),
            ("0e5", Some("0")),
            ("1e400", None),
        ] {
            assert_eq!(written_out(number).as_deref(), plain, "{number}");
        }
        assert_eq!(scalar("1e400"), Node::text("1e400"));
    }

    #[test]
    fn values_are_what_they_are_and_nothing_is_nested_without_end() {
        let Record::Read(node) = record_of(r#"{"a.b": [1, "x\u0041", null], "c": {"d": true}}"#) else {
            panic!()
        };
        let list = vec![Node::Leaf(CellKind::Number, "1".into()), Node::text("xA"), Node::text("")];
        let inner = Node::Object(vec![("d".into(), Node::Leaf(CellKind::Boolean, "TRUE".into()))]);
        assert_eq!(node, Node::Object(vec![("\"a.b\"".into(), Node::List(list)), ("c".into(), inner)]));
        let deep = format!("{}{}", "[".repeat(90), "]".repeat(90));
        assert!(matches!(record_of(&deep), Record::Damaged(says) if says.contains("more than 64 deep")));
    }
}
