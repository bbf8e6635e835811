//! How values stand in the upload file: quoted where needed, and as bytes of its encoding.

use std::borrow::Cow;

use encoding_rs::{Encoder, EncoderResult};

use super::{Quoting, Upload, UploadEncoding, UploadFormat};
use crate::format::Form;
use dusk_evidence::{Fault, UploadFact};
use dusk_values::Decimal;

/// The separator of ASCII that no cell of a workbook can hold.
const UNIT_SEPARATOR: u8 = 0x1f;

/// Turns values into the bytes of the upload file.
#[derive(Debug)]
pub struct UploadEncoder<'u> {
    upload: &'u Upload,
    form: Form,
    delimiter: Vec<u8>,
    line_end: Vec<u8>,
    // Bytes that make a value need quotes when the delimiter and the quote are ASCII.
    special: Option<[u8; 2]>,
    scratch: String,
}

/// How a value stands where a file knows more than texts: in JSON, and in numbers with a decimal comma.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bare {
    /// As a text.
    Never,
    /// As a number.
    Number,
    /// As true or false.
    Boolean,
}

/// An upload file in which most values stand as they are, each with one byte behind it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct PlainLayout {
    /// What stands between two values.
    pub delimiter: u8,
    /// What stands around a value that needs it.
    pub quote: u8,
    /// Text outside ASCII stands as it is too.
    pub is_utf_8: bool,
}

impl PlainLayout {
    /// Of an upload; nothing where values are written in another way, as in JSON, or all in quotes.
    pub fn of(upload: &Upload) -> Option<Self> {
        let (&[delimiter], &[quote]) = (upload.delimiter.as_bytes(), upload.quote.as_bytes()) else {
            return None;
        };
        let is_plain = upload.format.word().form == Form::Delimited
            && upload.quoting == Quoting::WhenNeeded
            && upload.line_break.is_none();
        let is_utf_8 = match upload.encoding {
            UploadEncoding::Whatwg(encoding) if encoding == encoding_rs::UTF_8 => true,
            UploadEncoding::Whatwg(encoding)
                if encoding.is_ascii_compatible() && encoding != encoding_rs::ISO_2022_JP =>
            {
                false
            }
            _ => return None,
        };
        is_plain.then_some(Self { delimiter, quote, is_utf_8 })
    }
}

impl<'u> UploadEncoder<'u> {
    /// An encoder for this layout.
    ///
    /// # Errors
    /// Names the delimiter or the quote that the encoding does not have.
    pub fn new(upload: &'u Upload) -> Result<Self, String> {
        let form = upload.format.word().form;
        let mut encoder = Self {
            upload,
            form,
            delimiter: Vec::new(),
            line_end: vec![b'\n'],
            special: None,
            scratch: String::new(),
        };
        match form {
            Form::Delimited | Form::Fixed | Form::Xml => {}
            Form::Json => {
                encoder.delimiter.push(b',');
                return Ok(encoder);
            }
            // Each cell brings its length, so nothing parts them.
            Form::Cells => return Ok(Self { line_end: Vec::new(), ..encoder }),
        }
        let encoded = |text: &str, what: &str| {
            let mut bytes = Vec::new();
            match encode(upload.encoding, text, &mut bytes) {
                Ok(()) => Ok(bytes),
                Err(letter) => {
                    Err(format!("[upload] {what} \"{letter}\" does not exist in {}", upload.encoding.label()))
                }
            }
        };
        encoder.line_end = encoded(upload.line_end, "line_end")?;
        if form != Form::Delimited {
            return Ok(encoder);
        }
        encoder.delimiter = encoded(&upload.delimiter, "delimiter")?;
        if upload.quoting != Quoting::Never {
            encoded(&upload.quote, "quote")?;
        }
        if let ([delimiter], [quote]) = (upload.delimiter.as_bytes(), upload.quote.as_bytes()) {
            encoder.special = Some([*delimiter, *quote]);
        }
        Ok(encoder)
    }

    /// Appends one column of a record with what parts it from the next. `alone` says that it is the only
    /// one of its row.
    ///
    /// # Errors
    /// As [`UploadEncoder::value`].
    pub fn column(
        &mut self,
        heading: &str,
        bare: Bare,
        text: &str,
        alone: bool,
        out: &mut Vec<u8>,
    ) -> Result<(), Fault> {
        match self.form {
            Form::Delimited => {
                let text = if bare == Bare::Number { self.number(text) } else { Cow::Borrowed(text) };
                let is_quoted = self.upload.quoting == Quoting::Texts && self.upload.quoted.contains(heading);
                self.quoted_value(&text, alone, is_quoted, out)?;
            }
            Form::Fixed => {
                let text = if bare == Bare::Number {
                    self.with_place_for_sign(heading, self.number(text))
                } else {
                    self.without_breaks(text)?
                };
                let filled = self.filled(heading, &text)?;
                self.encoded(&filled, out)?;
            }
            Form::Xml => {
                let element = xml_element(heading, text)?;
                self.encoded(&element, out)?;
            }
            Form::Json => json_column(heading, bare, &self.without_breaks(text)?, out),
            Form::Cells => {
                let text = self.without_breaks(text)?;
                let is_whole = matches!(self.upload.format, UploadFormat::Iso2709 { .. });
                if is_whole && heading.get(3..4) == Some("@") {
                    refuse_no_indicator(text.as_ref())?;
                }
                let parts_it = |byte: &u8| *byte == UNIT_SEPARATOR || is_whole && matches!(byte, 0x1d | 0x1e);
                if text.as_bytes().iter().any(parts_it) {
                    return Err(Fault::new(UploadFact::Separator));
                }
                out.extend_from_slice(&(text.len() as u64).to_le_bytes());
                out.extend_from_slice(text.as_bytes());
            }
        }
        out.extend_from_slice(&self.delimiter);
        Ok(())
    }

    /// Appends a whole record, made of columns that each bring the delimiter that follows it; the last
    /// one ends the record instead.
    pub fn record(&self, columns: &[u8], out: &mut Vec<u8>) {
        let length = columns.len().saturating_sub(self.delimiter.len());
        let columns = columns.get(..length).unwrap_or_default();
        match self.form {
            Form::Json => {
                out.push(b'{');
                out.extend_from_slice(columns);
                out.extend_from_slice(b"}\n");
            }
            Form::Xml => {
                let name = match &self.upload.format {
                    UploadFormat::Xml { record, .. } => record.as_str(),
                    _ => "",
                };
                self.put(&format!("<{name}>"), out);
                out.extend_from_slice(columns);
                self.put(&format!("</{name}>"), out);
                out.extend_from_slice(&self.line_end);
            }
            Form::Delimited | Form::Fixed | Form::Cells => {
                out.extend_from_slice(columns);
                out.extend_from_slice(&self.line_end);
            }
        }
    }

    /// A number as the layout has it: with its own decimal mark, and the sign where it belongs.
    fn number<'t>(&self, text: &'t str) -> Cow<'t, str> {
        let upload = self.upload;
        let marked = match upload.decimal_mark {
            '.' => Cow::Borrowed(text),
            mark => Cow::Owned(text.replacen('.', mark.encode_utf8(&mut [0; 4]), 1)),
        };
        match marked.strip_prefix('-').filter(|_| upload.minus_behind) {
            Some(figures) => Cow::Owned(format!("{figures}-")),
            None => marked,
        }
    }

    /// A number with a blank in the place of the sign, where that stands behind numbers below zero at the right.
    fn with_place_for_sign<'t>(&self, heading: &str, number: Cow<'t, str>) -> Cow<'t, str> {
        let stands_right = self.upload.widths.get(heading).is_some_and(|width| width.right);
        let has_sign = number.is_empty() || number.ends_with('-');
        if self.upload.minus_behind && stands_right && !has_sign {
            Cow::Owned(format!("{number} "))
        } else {
            number
        }
    }

    /// The value with what fills its column up.
    fn filled(&self, heading: &str, text: &str) -> Result<String, Fault> {
        if text.contains(['\n', '\r']) {
            return Err(Fault::new(UploadFact::LineBreak));
        }
        let Some(width) = self.upload.widths.get(heading) else { return Ok(text.to_owned()) };
        let too_wide =
            || Fault::new(UploadFact::TooWide { characters: text.chars().count(), width: width.width });
        width.filled(text).ok_or_else(too_wide)
    }

    /// Appends a text, or nothing of it.
    fn encoded(&self, text: &str, out: &mut Vec<u8>) -> Result<(), Fault> {
        let before = out.len();
        encode(self.upload.encoding, text, out).map_err(|letter| {
            out.truncate(before);
            Fault::new(UploadFact::NoSuchCharacter { letter, encoding: self.upload.encoding.label() })
        })
    }

    /// A text that is no record, as bytes of the upload's encoding.
    ///
    /// # Errors
    /// A fault when it holds a character that the encoding does not have.
    pub fn plain(&self, text: &str) -> Result<Vec<u8>, Fault> {
        let mut bytes = Vec::new();
        self.encoded(text, &mut bytes).map(|()| bytes)
    }

    /// Appends what is the layout's own, and was checked to be in the encoding.
    fn put(&self, text: &str, out: &mut Vec<u8>) {
        let _ = encode(self.upload.encoding, text, out);
    }

    /// What the file begins with before its first record, and what it ends with, where neither is a table's heading.
    pub fn frame(&self) -> (Vec<u8>, Vec<u8>) {
        let (mut head, mut tail) = (self.mark(), Vec::new());
        if let UploadFormat::Xml { root, .. } = &self.upload.format {
            let line = self.upload.line_end;
            let encoding = self.upload.encoding.label();
            self.put(
                &format!("<?xml version=\"1.0\" encoding=\"{encoding}\"?>{line}<{root}>{line}"),
                &mut head,
            );
            self.put(&format!("</{root}>{line}"), &mut tail);
        }
        (head, tail)
    }

    /// The text with the mark of the layout instead of line breaks.
    fn without_breaks<'t>(&self, text: &'t str) -> Result<Cow<'t, str>, Fault> {
        let Some(mark) = &self.upload.line_break else { return Ok(Cow::Borrowed(text)) };
        if text.contains(mark.as_str()) {
            return Err(Fault::new(UploadFact::LineBreakMark { mark: mark.clone() }));
        }
        if !text.contains(['\n', '\r']) {
            return Ok(Cow::Borrowed(text));
        }
        Ok(Cow::Owned(text.replace("\r\n", mark).replace(['\n', '\r'], mark)))
    }

    /// The delimiter as bytes.
    pub fn delimiter(&self) -> &[u8] {
        &self.delimiter
    }

    /// The end of a row as bytes.
    pub fn line_end(&self) -> &[u8] {
        &self.line_end
    }

    /// The byte order mark, where the file begins with one.
    pub fn mark(&self) -> Vec<u8> {
        let mut bytes = Vec::new();
        if self.upload.bom {
            // A mark exists only in encodings that have the character.
            let _ = encode(self.upload.encoding, "\u{feff}", &mut bytes);
        }
        bytes
    }

    /// Appends one value. `alone` says that it is the only one of its row, where a blank value
    /// must be quoted, since a blank line is not a row to most readers.
    ///
    /// # Errors
    /// A fault when the value needs quotes that the file does not have, or holds a character that
    /// the encoding does not have; then nothing is appended.
    pub fn value(&mut self, text: &str, alone: bool, out: &mut Vec<u8>) -> Result<(), Fault> {
        self.quoted_value(text, alone, true, out)
    }

    /// The same; `is_text` says whether it is quoted where texts are. A blank is no text.
    fn quoted_value(
        &mut self,
        text: &str,
        alone: bool,
        is_text: bool,
        out: &mut Vec<u8>,
    ) -> Result<(), Fault> {
        let text = &*self.without_breaks(text)?;
        let quoted = match self.upload.quoting {
            Quoting::Always => true,
            Quoting::Texts if is_text && !text.is_empty() => true,
            Quoting::Texts | Quoting::WhenNeeded => self.needs_quotes(text) || alone && text.is_empty(),
            Quoting::Never => {
                if self.needs_quotes(text) || alone && text.is_empty() {
                    return Err(self.cannot_quote(text));
                }
                false
            }
        };
        let before = out.len();
        let result = if quoted {
            let quote = self.upload.quote.as_str();
            self.scratch.clear();
            self.scratch.push_str(quote);
            for (index, part) in text.split(quote).enumerate() {
                if index > 0 {
                    self.scratch.push_str(quote);
                    self.scratch.push_str(quote);
                }
                self.scratch.push_str(part);
            }
            self.scratch.push_str(quote);
            encode(self.upload.encoding, &self.scratch, out)
        } else {
            encode(self.upload.encoding, text, out)
        };
        result.map_err(|letter| {
            out.truncate(before);
            Fault::new(UploadFact::NoSuchCharacter { letter, encoding: self.upload.encoding.label() })
        })
    }

    fn needs_quotes(&self, text: &str) -> bool {
        match self.special {
            Some([delimiter, quote]) => {
                memchr::memchr3(delimiter, quote, b'\n', text.as_bytes()).is_some()
                    || memchr::memchr(b'\r', text.as_bytes()).is_some()
                    || text.starts_with('\u{feff}')
            }
            None => {
                text.contains(self.upload.delimiter.as_str())
                    || text.contains(self.upload.quote.as_str())
                    || text.contains(['\r', '\n'])
                    || text.starts_with('\u{feff}')
            }
        }
    }

    fn cannot_quote(&self, text: &str) -> Fault {
        Fault::new(if text.contains(self.upload.delimiter.as_str()) {
            UploadFact::Delimiter { delimiter: self.upload.delimiter.clone() }
        } else if text.contains(['\r', '\n']) {
            UploadFact::LineBreak
        } else if text.is_empty() {
            UploadFact::EmptyRow
        } else {
            UploadFact::Quote { quote: self.upload.quote.clone() }
        })
    }
}

/// The cells of a record that goes to a sheet or a table, as [`UploadEncoder::record`] wrote it; nothing for
/// bytes that it did not write.
pub fn cells_of(mut record: &[u8]) -> Option<Vec<&str>> {
    let mut cells = Vec::new();
    while let Some((length, rest)) = record.split_first_chunk() {
        let (cell, behind) = rest.split_at_checked(usize::try_from(u64::from_le_bytes(*length)).ok()?)?;
        cells.push(std::str::from_utf8(cell).ok()?);
        record = behind;
    }
    record.is_empty().then_some(cells)
}

/// `"heading":value`, blank as null.
fn json_column(heading: &str, bare: Bare, text: &str, out: &mut Vec<u8>) {
    out.extend_from_slice(serde_json::Value::from(heading).to_string().as_bytes());
    out.push(b':');
    let number = || Decimal::parse(text).map(|number| number.to_string());
    let plain = match bare {
        _ if text.is_empty() => Some("null".to_owned()),
        Bare::Number => number(),
        Bare::Boolean => Some(text.to_owned()),
        Bare::Never => None,
    };
    let written = plain.unwrap_or_else(|| serde_json::Value::from(text).to_string());
    out.extend_from_slice(written.as_bytes());
}

/// `<heading>value</heading>`, with what would be markup written as references.
fn xml_element(heading: &str, text: &str) -> Result<String, Fault> {
    let unknown = |letter: &char| matches!(letter, '\u{0}'..='\u{8}' | '\u{b}' | '\u{c}' | '\u{e}'..='\u{1f}' | '\u{fffe}' | '\u{ffff}');
    if let Some(letter) = text.chars().find(unknown) {
        return Err(Fault::new(UploadFact::NoSuchCharacter { letter, encoding: "xml".into() }));
    }
    if text.is_empty() {
        return Ok(format!("<{heading}/>"));
    }
    let escaped = text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('\r', "&#13;");
    Ok(format!("<{heading}>{escaped}</{heading}>"))
}

/// An indicator is one byte.
fn refuse_no_indicator(text: &str) -> Result<(), Fault> {
    let characters = text.chars().count();
    if characters > 1 {
        return Err(Fault::new(UploadFact::TooWide { characters, width: 1 }));
    }
    match text.chars().find(|letter| !letter.is_ascii_graphic()) {
        Some(letter) => {
            Err(Fault::new(UploadFact::NoSuchCharacter { letter, encoding: "an indicator".into() }))
        }
        None => Ok(()),
    }
}

/// Appends `text` as bytes, or gives back the first character that the encoding does not have.
fn encode(encoding: UploadEncoding, text: &str, out: &mut Vec<u8>) -> Result<(), char> {
    match encoding {
        UploadEncoding::Whatwg(utf8) if utf8 == encoding_rs::UTF_8 => out.extend_from_slice(text.as_bytes()),
        UploadEncoding::Utf16Le => {
            text.encode_utf16().for_each(|unit| out.extend_from_slice(&unit.to_le_bytes()))
        }
        UploadEncoding::Utf16Be => {
            text.encode_utf16().for_each(|unit| out.extend_from_slice(&unit.to_be_bytes()))
        }
        // A value of plain ASCII stands as it is in every other encoding but those that shift.
        UploadEncoding::Whatwg(other)
            if other.is_ascii_compatible() && text.is_ascii() && other != encoding_rs::ISO_2022_JP =>
        {
            out.extend_from_slice(text.as_bytes());
        }
        UploadEncoding::Whatwg(other) => return encode_legacy(other.new_encoder(), text, out),
    }
    Ok(())
}

fn encode_legacy(mut encoder: Encoder, text: &str, out: &mut Vec<u8>) -> Result<(), char> {
    let mut rest = text;
    loop {
        let needed = encoder.max_buffer_length_from_utf8_without_replacement(rest.len());
        out.reserve(needed.unwrap_or(rest.len() * 4 + 16));
        let (result, read) = encoder.encode_from_utf8_to_vec_without_replacement(rest, out, true);
        rest = rest.get(read..).unwrap_or_default();
        match result {
            EncoderResult::InputEmpty => return Ok(()),
            EncoderResult::OutputFull => {}
            EncoderResult::Unmappable(letter) => return Err(letter),
        }
    }
}
