//! A file read once from beginning to end, cut into blocks of whole rows for the pipeline.

use std::fs::File;
use std::io::Read;
use std::path::Path;

use encoding_rs::{Decoder, DecoderResult};

use super::encoding::EncodingChoice;
use super::rows::{Dialect, Rows, complete_rows};
use super::{Line, Refusal, Row};
use crate::{Error, Result};

/// How many bytes are read at a time; a block holds about as many.
const CHUNK: usize = 192 * 1024;

/// The longest row that is believed, in bytes of text. A longer one is taken for a quote that was
/// never closed, since it would otherwise swallow the file and the memory.
const LONGEST_ROW: usize = 8 * 1024 * 1024;

/// Whole rows of one source, in order.
#[derive(Debug)]
pub struct Block {
    /// The rows, as text.
    pub text: String,
    /// The number of the first row.
    pub row: Row,
    /// The line on which it begins.
    pub line: Line,
    /// How many bytes of the file have been read with this block.
    pub bytes_read: u64,
}

/// What identifies a file that was read to its end.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourcePrint {
    /// The file's size in bytes.
    pub bytes: u64,
    /// Its BLAKE3 hash, in hexadecimal digits.
    pub blake3: String,
}

/// Cuts a file into [`Block`]s.
#[derive(Debug)]
pub struct Blocks {
    file: File,
    name: String,
    decoding: Decoding,
    dialect: Dialect,
    header_row: u64,
    raw: Vec<u8>,
    carry: String,
    row: Row,
    line: Line,
    mark: usize,
    bytes: u64,
    hasher: blake3::Hasher,
    ended: bool,
}

impl Blocks {
    pub(super) fn new(
        file: File,
        name: &str,
        encoding: EncodingChoice,
        dialect: Dialect,
        header_row: u64,
    ) -> Self {
        Self {
            file,
            name: name.to_owned(),
            decoding: Decoding::new(encoding),
            dialect,
            header_row,
            raw: vec![0; CHUNK],
            carry: String::new(),
            row: Row(1),
            line: Line::FIRST,
            mark: encoding.mark,
            bytes: 0,
            hasher: blake3::Hasher::new(),
            ended: false,
        }
    }

    /// The next block, built in `text`, whose old contents are thrown away; nothing at the end.
    ///
    /// # Errors
    /// [`Error::File`] when reading fails; [`Error::Source`] when a byte does not fit the encoding
    /// or a quote is never closed.
    pub fn next(&mut self, mut text: String) -> Result<Option<Block>> {
        text.clear();
        text.push_str(&self.carry);
        self.carry.clear();
        loop {
            if self.ended && text.is_empty() {
                return Ok(None);
            }
            if !self.ended {
                self.fill(&mut text)?;
            }
            let complete = complete_rows(&text, &self.dialect);
            let (end, rows, lines) = if self.ended {
                self.last_rows(&text)?
            } else {
                (complete.end, complete.rows, complete.lines)
            };
            if end == 0 {
                if text.len() > LONGEST_ROW {
                    return Err(self.unclosed(self.row, self.line));
                }
                continue;
            }
            self.carry.push_str(text.get(end..).unwrap_or_default());
            text.truncate(end);
            let (row, line) = (self.row, self.line);
            self.row.0 += rows;
            self.line.0 += lines;
            let block = Block { text, row, line, bytes_read: self.bytes };
            match self.below_header(block) {
                Some(block) => return Ok(Some(block)),
                None => text = std::mem::take(&mut self.carry),
            }
        }
    }

    /// What identifies the file, once it has been read to its end.
    pub fn print(&self) -> SourcePrint {
        SourcePrint { bytes: self.bytes, blake3: self.hasher.finalize().to_hex().to_string() }
    }

    fn fill(&mut self, text: &mut String) -> Result<()> {
        let mut filled = 0;
        while let Some(space) = self.raw.get_mut(filled..).filter(|space| !space.is_empty()) {
            match self.file.read(space) {
                Ok(0) => {
                    self.ended = true;
                    break;
                }
                Ok(read) => filled += read,
                Err(error) if error.kind() == std::io::ErrorKind::Interrupted => {}
                Err(error) => return Err(Error::reading(Path::new(&self.name))(error)),
            }
        }
        let raw = self.raw.get(..filled).unwrap_or_default();
        self.hasher.update(raw);
        self.bytes += filled as u64;
        let raw = raw.get(self.mark..).unwrap_or_default();
        self.mark = 0;
        let (line, ended) = (self.line, self.ended);
        self.decoding.decode(raw, ended, text).map_err(|()| not_utf8_from(text, line).of(&self.name))
    }

    /// Everything that is left is whole once the file is over, unless a quote is still open.
    fn last_rows(&self, text: &str) -> Result<(usize, u64, u64)> {
        let mut rows = Rows::starting_at(text, &self.dialect, self.row, self.line, Default::default());
        let mut seen = 0;
        while let Some(row) = rows.next() {
            seen += 1;
            if !row.is_closed() {
                return Err(self.unclosed(row.row(), row.line()));
            }
        }
        // Nothing follows, so how many lines there were no longer matters.
        Ok((text.len(), seen, seen))
    }

    fn unclosed(&self, row: Row, line: Line) -> Error {
        Error::Source {
            source_name: self.name.clone(),
            says: format!("row {} opens a quote that is never closed, which would swallow every row after it", row.with_line(line)),
            hint: "close or remove the quote in the export; if the file does not quote its cells at all, write quote = \"\" under [source] in the mapping".into(),
        }
    }

    /// The block without the rows up to and including the header, or nothing if none is left.
    fn below_header(&mut self, mut block: Block) -> Option<Block> {
        if block.row.0 > self.header_row {
            return Some(block);
        }
        let mut rows =
            Rows::starting_at(&block.text, &self.dialect, block.row, block.line, Default::default());
        let mut next = None;
        loop {
            let offset = rows.offset();
            let Some(row) = rows.next() else { break };
            if row.row().0 > self.header_row {
                next = Some((offset, row.row(), row.line()));
                break;
            }
        }
        let (offset, row, line) = next?;
        block.text.drain(..offset);
        Some(Block { row, line, ..block })
    }
}

/// Decodes a file piece by piece.
pub(super) struct Decoding {
    decoder: Decoder,
    lenient: bool,
}

impl std::fmt::Debug for Decoding {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Decoding").field("encoding", &self.decoder.encoding().name()).finish()
    }
}

impl Decoding {
    pub(super) fn new(choice: EncodingChoice) -> Self {
        Self { decoder: choice.encoding.new_decoder_without_bom_handling(), lenient: choice.named }
    }

    /// Appends the text of `raw` to `text`. A byte that does not fit becomes U+FFFD where the
    /// encoding was named, to be found in its cell; otherwise decoding stops there.
    pub(super) fn decode(&mut self, raw: &[u8], last: bool, text: &mut String) -> Result<(), ()> {
        let mut rest = raw;
        loop {
            let needed = self.decoder.max_utf8_buffer_length_without_replacement(rest.len());
            text.reserve(needed.unwrap_or(rest.len() * 3 + 16));
            let (result, read) = self.decoder.decode_to_string_without_replacement(rest, text, last);
            rest = rest.get(read..).unwrap_or_default();
            match result {
                DecoderResult::InputEmpty => return Ok(()),
                DecoderResult::OutputFull => {}
                DecoderResult::Malformed(..) if self.lenient => text.push('\u{fffd}'),
                DecoderResult::Malformed(..) => return Err(()),
            }
        }
    }
}

pub(super) fn not_utf8(text_before: &str) -> Refusal {
    not_utf8_from(text_before, Line::FIRST)
}

fn not_utf8_from(text_before: &str, first: Line) -> Refusal {
    let line = first.0 + memchr::memchr_iter(b'\n', text_before.as_bytes()).count() as u64;
    let tail: Vec<char> = text_before.chars().rev().take_while(|c| !c.is_control()).take(24).collect();
    let tail: String = tail.into_iter().rev().collect();
    Refusal::new(
        format!("is not UTF-8: line {line} has other bytes after \"{tail}\""),
        "name its encoding in the mapping under [source], for example encoding = \"windows-1252\"",
    )
}

#[cfg(test)]
mod tests {
    use std::io::Write as _;

    use super::*;

    /// A text several blocks long, with quoted line breaks, doubled quotes and letters of every
    /// width, so that blocks are cut in every kind of place.
    fn long_text(line_end: &str) -> String {
        let mut text = format!("head,er{line_end}");
        for number in 0..40_000 {
            let cell = match number % 7 {
                0 => format!("\"two{line_end}lines {number}\""),
                1 => "\"say \"\"so\"\", twice\"".to_owned(),
                2 => "Öst Quay 蜂蜜".to_owned(),
                3 => String::new(),
                _ => format!("plain {number}"),
            };
            text.push_str(&format!("{number},{cell}{line_end}"));
        }
        text
    }

    /// Every row as its number, its line and its cells.
    fn rows_of(mut rows: Rows<'_>, all: &mut Vec<(u64, u64, Vec<String>)>) {
        while let Some(row) = rows.next() {
            all.push((row.row().0, row.line().0, row.cells().map(str::to_owned).collect()));
        }
    }

    #[test]
    fn a_file_read_in_blocks_is_the_file_read_at_once() {
        let dialect = Dialect::new(",", "\"");
        let utf_16 = |text: &str| text.encode_utf16().flat_map(u16::to_le_bytes).collect::<Vec<u8>>();
        for line_end in ["\n", "\r\n", "\r"] {
            let text = long_text(line_end);
            let mut whole = Vec::new();
            rows_of(Rows::new(&text, &dialect), &mut whole);
            whole.remove(0);
            for (encoding, bytes) in
                [(encoding_rs::UTF_8, text.clone().into_bytes()), (encoding_rs::UTF_16LE, utf_16(&text))]
            {
                let mut file = tempfile::NamedTempFile::new().unwrap();
                file.write_all(&bytes).unwrap();
                let choice = EncodingChoice { encoding, mark: 0, named: true };
                let mut blocks = Blocks::new(file.reopen().unwrap(), "t", choice, dialect.clone(), 1);
                let mut read = Vec::new();
                let mut count = 0;
                while let Some(block) = blocks.next(String::new()).unwrap() {
                    count += 1;
                    let rows =
                        Rows::starting_at(&block.text, &dialect, block.row, block.line, Default::default());
                    rows_of(rows, &mut read);
                }
                assert!(count > 3, "{count} blocks");
                assert_eq!(read.len(), whole.len());
                assert!(read == whole, "rows differ with {line_end:?} in {}", encoding.name());
                let print = SourcePrint {
                    bytes: bytes.len() as u64,
                    blake3: blake3::hash(&bytes).to_hex().to_string(),
                };
                assert_eq!(blocks.print(), print);
            }
        }
    }

    #[test]
    fn a_row_too_long_to_be_believed_is_a_quote_that_was_never_closed() {
        let mut file = tempfile::NamedTempFile::new().unwrap();
        writeln!(file, "a,b\n1,\"open").unwrap();
        let line = "x".repeat(64 * 1024);
        for _ in 0..140 {
            writeln!(file, "{line}").unwrap();
        }
        let choice = EncodingChoice { encoding: encoding_rs::UTF_8, mark: 0, named: false };
        let mut blocks = Blocks::new(file.reopen().unwrap(), "t", choice, Dialect::new(",", "\""), 1);
        let error = blocks.next(String::new()).unwrap_err().to_string();
        assert!(error.contains("row 2 opens a quote that is never closed"), "{error}");
        assert!(blocks.bytes < 9_000_000, "the file was not read to its end: {}", blocks.bytes);
    }
}
