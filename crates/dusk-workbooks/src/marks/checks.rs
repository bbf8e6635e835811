//! What a spreadsheet program checks when something is typed into a sheet, and the names of its ranges.

use super::super::container::{Archive, attribute, part};
use crate::CellCheck;

/// A larger sheet is no template, and is not looked through for checks.
const LARGEST: u64 = 4 << 20;

/// How many checks and names are kept.
const MOST: usize = 2_000;

/// The checks of a sheet that stands in this part of the packed file.
pub(super) fn of_part(archive: &mut Archive, name: &str) -> Vec<CellCheck> {
    let is_small = archive.by_name(name).is_ok_and(|entry| entry.size() <= LARGEST);
    let Some(text) = part(archive, name).filter(|_| is_small) else { return Vec::new() };
    elements(&text, "dataValidation").take(MOST).filter_map(|(tag, inner)| check(tag, inner)).collect()
}

/// The names of ranges in the whole workbook.
pub(super) fn names(archive: &mut Archive) -> Vec<(String, String)> {
    let Some(text) = part(archive, "xl/workbook.xml") else { return Vec::new() };
    let named = elements(&text, "definedName").take(MOST);
    named.filter_map(|(tag, inner)| Some((plain(attribute(tag, "name")?), text_of(inner)?))).collect()
}

fn check(tag: &[u8], inner: &[u8]) -> Option<CellCheck> {
    let said = |name: &str| attribute(tag, name).map(plain).unwrap_or_default();
    let formula =
        |name: &str| elements(inner, name).next().and_then(|(_, text)| text_of(text)).unwrap_or_default();
    Some(CellCheck {
        cells: attribute(tag, "sqref").map(plain)?,
        kind: said("type"),
        operator: said("operator"),
        formulas: [formula("formula1"), formula("formula2")],
        prompt: said("prompt"),
        only_warns: matches!(attribute(tag, "errorStyle"), Some("warning" | "information")),
    })
}

/// The elements of this name: what stands in their tags, and what between them.
pub(super) fn elements<'t>(
    text: &'t [u8],
    name: &str,
) -> impl Iterator<Item = (&'t [u8], &'t [u8])> + use<'t> {
    let (start, end) = (format!("<{name}"), format!("</{name}>"));
    let mut rest = text;
    std::iter::from_fn(move || {
        loop {
            let at = memchr::memmem::find(rest, start.as_bytes())?;
            let behind = rest.get(at + start.len()..)?;
            rest = behind;
            // A longer name begins with this one.
            if !behind.first().is_some_and(|byte| matches!(byte, b' ' | b'>' | b'/' | b'\n' | b'\r' | b'\t'))
            {
                continue;
            }
            let close = memchr::memchr(b'>', behind)?;
            let tag = behind.get(..close)?;
            if tag.last() == Some(&b'/') {
                return Some((tag, <&[u8]>::default()));
            }
            let inner = behind.get(close + 1..)?;
            let inner = inner.get(..memchr::memmem::find(inner, end.as_bytes())?)?;
            return Some((tag, inner));
        }
    })
}

fn text_of(inner: &[u8]) -> Option<String> {
    std::str::from_utf8(inner).ok().map(|text| plain(text.trim()))
}

/// A text of XML without its entities.
pub(super) fn plain(text: &str) -> String {
    let mut plain = String::with_capacity(text.len());
    let mut rest = text;
    while let Some((before, behind)) = rest.split_once('&') {
        plain.push_str(before);
        let (entity, after) = behind.split_once(';').unwrap_or((behind, ""));
        let number = |digits: &str| {
            let hex = digits.strip_prefix(['x', 'X']);
            hex.map_or_else(|| digits.parse().ok(), |hex| u32::from_str_radix(hex, 16).ok())
        };
        let letter = match entity {
            "lt" => Some('<'),
            "gt" => Some('>'),
            "quot" => Some('"'),
            "apos" => Some('\''),
            "amp" => Some('&'),
            other => other.strip_prefix('#').and_then(number).and_then(char::from_u32),
        };
        plain.extend(letter);
        rest = after;
    }
    plain.push_str(rest);
    plain
}
