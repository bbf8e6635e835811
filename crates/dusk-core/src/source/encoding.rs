//! Bytes become text.
//!
//! An encoding is proven by a byte order mark or by the whole file being valid UTF-8; any other
//! encoding of the WHATWG standard has to be named. Nothing is tried out on the steward's data.

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

use super::Refusal;

/// How a source's bytes are read, and why.
#[derive(Debug, Clone, Copy)]
pub struct EncodingChoice {
    /// The encoding.
    pub encoding: &'static Encoding,
    /// How many bytes of byte order mark come before the text.
    pub mark: usize,
    /// True when the encoding was named, so that a byte it cannot read is a finding in its cell;
    /// false when it is assumed to be UTF-8 until a byte says otherwise, which stops the run.
    pub named: bool,
}

impl EncodingChoice {
    /// Chooses from the first bytes of a file and the encoding that the mapping names.
    ///
    /// # Errors
    /// Says what contradicts the choice, and what to do.
    pub(super) fn choose(head: &[u8], named: Option<&'static Encoding>) -> Result<Self, Refusal> {
        if let Some((marked, mark)) = Encoding::for_bom(head) {
            return match named {
                Some(named) if named != marked => Err(Refusal::new(
                    format!(
                        "begins with the byte order mark of {}, but the mapping says {}",
                        label(marked),
                        label(named)
                    ),
                    format!("write encoding = \"{}\" under [source], or leave the line out", label(marked)),
                )),
                _ => Ok(Self { encoding: marked, mark, named: true }),
            };
        }
        if let Some(encoding) = named {
            return Ok(Self { encoding, mark: 0, named: true });
        }
        if head.starts_with(b"PK\x03\x04") || head.starts_with(b"\xD0\xCF\x11\xE0") {
            return Err(Refusal::new(
                "is a workbook, not delimited text",
                "save the sheet as delimited text (CSV UTF-8) and use that file",
            ));
        }
        let zeros = |offset: usize| head.iter().skip(offset).step_by(2).filter(|byte| **byte == 0).count();
        if let Some(guess) = [(1, UTF_16LE), (0, UTF_16BE)]
            .into_iter()
            .find(|(offset, _)| head.len() >= 8 && zeros(*offset) * 4 > head.len())
        {
            return Err(Refusal::new(
                "has a zero byte in most pairs of bytes, as UTF-16 has, but no byte order mark",
                format!("if it is UTF-16, write encoding = \"{}\" under [source]", label(guess.1)),
            ));
        }
        Ok(Self { encoding: UTF_8, mark: 0, named: false })
    }

    /// Why this encoding was chosen, in words.
    pub fn reason(&self) -> &'static str {
        match (self.mark, self.named) {
            (0, true) => "as the mapping says",
            (0, false) => "every byte fits",
            _ => "by its byte order mark",
        }
    }

    /// The encoding's WHATWG label.
    pub fn label(&self) -> String {
        label(self.encoding)
    }
}

/// The encoding that a WHATWG label names; also `utf-16le` and `utf-16be`. Nothing for a label
/// that the standard does not know or does not let text be read in.
pub fn encoding_named(label: &str) -> Option<&'static Encoding> {
    Encoding::for_label(label.as_bytes()).filter(|encoding| encoding.name() != "replacement")
}

fn label(encoding: &'static Encoding) -> String {
    encoding.name().to_ascii_lowercase()
}
