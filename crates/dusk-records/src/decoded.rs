//! The text of a record file, as UTF-8: by its byte order mark, or by what its first line declares (XML 1.0, 4.3.3).

use std::cell::Cell;
use std::fs::File;
use std::io::{self, BufReader, Read};
use std::rc::Rc;
use std::sync::Arc;

use crate::met::LONGEST_RECORD;
use dusk_evidence::{Refusal, plain_reason};
use dusk_workbooks::PlacedFile;
use encoding_rs::{Decoder, DecoderResult, Encoding, UTF_8};

/// How much of a file is looked at for what it declares, in bytes.
const HEAD: u64 = 1024;

/// Reads a file as UTF-8, whatever it is in.
pub(crate) struct Decoded {
    from: BufReader<PlacedFile>,
    /// Nothing where it is UTF-8 already; whoever reads it says where it is not.
    decoder: Option<Decoder>,
    encoding: &'static Encoding,
    raw: Vec<u8>,
    text: Vec<u8>,
    given: usize,
    ended: bool,
}

impl Decoded {
    /// From the beginning of the file, behind its byte order mark.
    pub(crate) fn of(file: &Arc<File>) -> Result<Self, Refusal> {
        let mut head = Vec::new();
        PlacedFile::new(file)
            .take(HEAD)
            .read_to_end(&mut head)
            .map_err(|error| Refusal::new(format!("cannot be read: {}", plain_reason(&error)), ""))?;
        let (encoding, mark) = match Encoding::for_bom(&head) {
            Some((encoding, mark)) => (encoding, mark),
            None => (declared(&head)?.unwrap_or(UTF_8), 0),
        };
        let from = BufReader::with_capacity(1 << 16, PlacedFile::at(file, mark as u64));
        let decoder = (encoding != UTF_8).then(|| encoding.new_decoder_without_bom_handling());
        Ok(Self { from, decoder, encoding, raw: Vec::new(), text: Vec::new(), given: 0, ended: false })
    }

    /// The encoding that the file is in.
    pub(crate) fn encoding(&self) -> &'static Encoding {
        self.encoding
    }

    /// Decodes the next piece; false at the end.
    fn fill(&mut self) -> io::Result<bool> {
        let Some(decoder) = &mut self.decoder else { return Ok(false) };
        if self.ended {
            return Ok(false);
        }
        self.raw.clear();
        let read = (&mut self.from).take(1 << 14).read_to_end(&mut self.raw)?;
        self.ended = read == 0;
        let room = decoder.max_utf8_buffer_length_without_replacement(read).unwrap_or(1 << 16);
        self.text.resize(room, 0);
        let (result, _, written) =
            decoder.decode_to_utf8_without_replacement(&self.raw, &mut self.text, self.ended);
        self.text.truncate(written);
        self.given = 0;
        match result {
            DecoderResult::Malformed(..) => Err(io::Error::new(
                io::ErrorKind::InvalidData,
                format!("it holds bytes that are not {}", self.encoding.name()),
            )),
            _ => Ok(true),
        }
    }
}

impl Read for Decoded {
    fn read(&mut self, bytes: &mut [u8]) -> io::Result<usize> {
        if self.decoder.is_none() {
            return self.from.read(bytes);
        }
        while self.given >= self.text.len() {
            if !self.fill()? {
                return Ok(0);
            }
        }
        let left = self.text.get(self.given..).unwrap_or_default();
        let count = left.len().min(bytes.len());
        if let (Some(to), Some(from)) = (bytes.get_mut(..count), left.get(..count)) {
            to.copy_from_slice(from);
        }
        self.given += count;
        Ok(count)
    }
}

/// What a reader says of a record that does not end.
pub(crate) const TOO_LONG: &str = "a record without end";

/// Reads no more than a record may take before the next one begins.
pub(crate) struct Bounded {
    from: Decoded,
    left: Rc<Cell<u64>>,
}

impl Bounded {
    /// With what is left of the record that is being read, which whoever reads sets anew for the next one.
    pub(crate) fn of(text: Decoded) -> (BufReader<Self>, Rc<Cell<u64>>) {
        let left = Rc::new(Cell::new(LONGEST_RECORD));
        (BufReader::with_capacity(1 << 16, Self { from: text, left: Rc::clone(&left) }), left)
    }
}

impl Read for Bounded {
    fn read(&mut self, bytes: &mut [u8]) -> io::Result<usize> {
        let read = self.from.read(bytes)?;
        match self.left.get().checked_sub(read as u64) {
            Some(left) => self.left.set(left),
            None => return Err(io::Error::other(TOO_LONG)),
        }
        Ok(read)
    }
}

/// The encoding that the declaration of an XML document names.
fn declared(head: &[u8]) -> Result<Option<&'static Encoding>, Refusal> {
    let Some(declaration) =
        head.strip_prefix(b"<?xml").and_then(|rest| rest.get(..memchr::memchr(b'>', rest)?))
    else {
        return Ok(None);
    };
    let Some(at) = memchr::memmem::find(declaration, b"encoding") else { return Ok(None) };
    let rest = declaration.get(at + 8..).unwrap_or_default();
    let mut quoted = rest.split(|byte| matches!(byte, b'"' | b'\''));
    let label = quoted.nth(1).unwrap_or_default();
    match Encoding::for_label(label) {
        Some(encoding) => Ok(Some(encoding)),
        None => Err(Refusal::new(
            format!("declares the encoding \"{}\", which is not known", String::from_utf8_lossy(label)),
            "save it as UTF-8 where it comes from",
        )),
    }
}
