//! What kind of record file a file is, by its first bytes.

use crate::{iso2709, tagged_lines};

/// What kind of record file it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RecordFormat {
    /// One JSON document (RFC 8259).
    Json,
    /// A JSON value on each line.
    JsonLines,
    /// An XML document.
    Xml,
    /// Bibliographic records in binary form (ISO 2709).
    Iso2709,
    /// The same as lines of text.
    TaggedLines,
}

impl RecordFormat {
    /// What people call it.
    pub fn name(self) -> &'static str {
        match self {
            Self::Json => "JSON",
            Self::JsonLines => "JSON Lines",
            Self::Xml => "XML",
            Self::Iso2709 => "ISO 2709",
            Self::TaggedLines => "records as lines of text",
        }
    }
}

/// What kind of record file begins with these bytes; nothing where it is another file.
pub fn format_of(head: &[u8]) -> Option<RecordFormat> {
    if iso2709::is_one(head) {
        return Some(RecordFormat::Iso2709);
    }
    let text = match encoding_rs::Encoding::for_bom(head) {
        Some((encoding, mark)) => {
            encoding.decode_without_bom_handling(head.get(mark..).unwrap_or_default()).0
        }
        None => String::from_utf8_lossy(head),
    };
    let text = text.trim_start();
    let behind = |mark: char| text.strip_prefix(mark).map(str::trim_start);
    if let Some(rest) = behind('{').filter(|rest| rest.starts_with(['"', '}'])) {
        let first = text.lines().next().unwrap_or_default().trim_end();
        let next = text.lines().skip(1).find(|line| !line.trim().is_empty());
        let is_lines = first.ends_with('}') && next.is_some_and(|next| next.trim_start().starts_with('{'));
        let has_shape = rest.starts_with('}') || rest.contains(':');
        return has_shape.then_some(if is_lines { RecordFormat::JsonLines } else { RecordFormat::Json });
    }
    if behind('[').is_some_and(|rest| rest.starts_with(['{', ']'])) {
        return Some(RecordFormat::Json);
    }
    let is_element =
        text.strip_prefix('<').is_some_and(|rest| rest.starts_with(|c: char| c.is_alphabetic() || c == '!'))
            && (text.contains("</") || text.contains("/>"));
    let begins = text.get(..text.len().min(200)).unwrap_or(text).to_ascii_lowercase();
    if (text.starts_with("<?xml") || is_element)
        && !begins.contains("<html")
        && !begins.contains("<!doctype html")
    {
        return Some(RecordFormat::Xml);
    }
    tagged_lines::is_one(text).then_some(RecordFormat::TaggedLines)
}
