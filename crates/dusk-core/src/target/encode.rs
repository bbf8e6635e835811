//! How values stand in the upload file: quoted where needed, and as bytes of its encoding.

use encoding_rs::{Encoder, EncoderResult};

use super::{Quoting, Upload, UploadEncoding};
use crate::finding::{Fault, Kind};

/// Turns values into the bytes of the upload file.
#[derive(Debug)]
pub struct UploadEncoder<'u> {
    upload: &'u Upload,
    delimiter: Vec<u8>,
    line_end: Vec<u8>,
    // Bytes that make a value need quotes when the delimiter and the quote are ASCII.
    special: Option<[u8; 2]>,
    scratch: String,
}

impl<'u> UploadEncoder<'u> {
    /// An encoder for this layout.
    ///
    /// # Errors
    /// Names the delimiter or the quote that the encoding does not have.
    pub fn new(upload: &'u Upload) -> Result<Self, String> {
        let mut encoder = Self {
            upload,
            delimiter: Vec::new(),
            line_end: Vec::new(),
            special: None,
            scratch: String::new(),
        };
        let encoded = |text: &str, what: &str| {
            let mut bytes = Vec::new();
            match encode(upload.encoding, text, &mut bytes) {
                Ok(()) => Ok(bytes),
                Err(letter) => {
                    Err(format!("[upload] {what} \"{letter}\" does not exist in {}", upload.encoding.label()))
                }
            }
        };
        encoder.delimiter = encoded(&upload.delimiter, "delimiter")?;
        encoder.line_end = encoded(upload.line_end, "line_end")?;
        if upload.quoting != Quoting::Never {
            encoded(&upload.quote, "quote")?;
        }
        if let ([delimiter], [quote]) = (upload.delimiter.as_bytes(), upload.quote.as_bytes()) {
            encoder.special = Some([*delimiter, *quote]);
        }
        Ok(encoder)
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
        let quoted = match self.upload.quoting {
            Quoting::Always => true,
            Quoting::WhenNeeded => self.needs_quotes(text) || alone && text.is_empty(),
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
            Fault::new(
                Kind::CannotEncode,
                format!(
                    "holds \"{letter}\" (U+{:04X}), which {} does not have",
                    u32::from(letter),
                    self.upload.encoding.label()
                ),
                "another spelling, agreed with the target's owner",
            )
        })
    }

    fn needs_quotes(&self, text: &str) -> bool {
        match self.special {
            Some([delimiter, quote]) => {
                text.bytes().any(|b| b == delimiter || b == quote || b == b'\n' || b == b'\r')
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
        let what = if text.contains(self.upload.delimiter.as_str()) {
            format!("the delimiter \"{}\"", self.upload.delimiter)
        } else if text.contains(['\r', '\n']) {
            "a line break".into()
        } else if text.is_empty() {
            "nothing, and an empty row is no row".into()
        } else {
            format!("the quote {}", self.upload.quote)
        };
        Fault::new(
            Kind::CannotQuote,
            format!("holds {what}, and the upload file never quotes"),
            "the value without it, or quoting = \"when-needed\" if the target takes quotes",
        )
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
