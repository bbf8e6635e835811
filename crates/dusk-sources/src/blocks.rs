//! A file read once from beginning to end, cut into blocks of whole rows for the pipeline.

use std::collections::VecDeque;
use std::io::Read;
use std::path::Path;
use std::sync::Arc;

use encoding_rs::{Decoder, DecoderResult, Encoding};

use super::dialect::Dialect;
use super::encoding::EncodingChoice;
use super::patch::Patches;
use super::rows::{RowBuffers, Rows, complete_rows};
use super::source_file::{SourceIdentity, SourceReader};
use dusk_evidence::{Error, Line, Result, Row};
use dusk_workbooks::is_mark;

/// How many bytes are read at a time; a block holds about as many.
const CHUNK: usize = 192 * 1024;

/// The longest row that is believed, in bytes of text: a longer one would swallow the memory.
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

impl Block {
    /// About how many rows there are in files of so many bytes together, if this is the first block and has so many.
    pub fn rows_expected(&self, rows: usize, bytes: u64) -> u64 {
        let all = rows as u128 * u128::from(bytes) / u128::from(self.bytes_read.max(1));
        u64::try_from(all).unwrap_or(u64::MAX)
    }

    /// Its rows.
    pub fn rows<'b>(&'b self, dialect: &'b Dialect) -> Rows<'b> {
        self.rows_with(dialect, RowBuffers::default())
    }

    /// Its rows, with buffers that were used before.
    pub fn rows_with<'b>(&'b self, dialect: &'b Dialect, buffers: RowBuffers) -> Rows<'b> {
        Rows::starting_at(&self.text, dialect, self.row, self.line, buffers)
    }
}

/// Where the rows of a file begin.
#[derive(Debug, Clone, Copy)]
pub(super) struct Start {
    /// How many bytes come before the text.
    pub(super) skip: usize,
    /// The line on which the first row begins.
    pub(super) line: Line,
    /// The last row of the header; 0 to begin with the first row.
    pub(super) header_ends: u64,
    /// The program wrote the text itself, so marks in it are its own.
    pub(super) unpacked: bool,
}

impl Default for Start {
    fn default() -> Self {
        Self { skip: 0, line: Line::FIRST, header_ends: 0, unpacked: false }
    }
}

/// Cuts a file into [`Block`]s.
#[derive(Debug)]
pub struct Blocks {
    file: SourceReader,
    decoding: Decoding,
    dialect: Dialect,
    header_ends: u64,
    raw: Vec<u8>,
    carry: String,
    row: Row,
    line: Line,
    skip: usize,
    bytes: u64,
    hasher: blake3::Hasher,
    print: Option<SourceIdentity>,
    ended: bool,
    patches: Arc<Patches>,
    /// What is left of a block in which corrections moved the lines.
    waiting: VecDeque<Block>,
}

impl Blocks {
    pub(super) fn new(
        file: SourceReader,
        encoding: EncodingChoice,
        dialect: Dialect,
        start: &Start,
        print: Option<SourceIdentity>,
        patches: Arc<Patches>,
    ) -> Self {
        Self {
            file,
            decoding: Decoding::new(encoding, start.unpacked),
            dialect,
            header_ends: start.header_ends,
            raw: vec![0; CHUNK],
            carry: String::new(),
            row: Row(1),
            line: start.line,
            skip: start.skip,
            bytes: 0,
            hasher: blake3::Hasher::new(),
            print,
            ended: false,
            patches,
            waiting: VecDeque::new(),
        }
    }

    /// The next block, built in `text`, whose old contents are thrown away; nothing at the end.
    ///
    /// # Errors
    /// [`Error::File`] when reading fails; [`Error::Source`] when a row has no end.
    pub fn next(&mut self, text: String) -> Result<Option<Block>> {
        if self.patches.is_empty() {
            return self.next_as_exported(text);
        }
        if let Some(block) = self.waiting.pop_front() {
            return Ok(Some(block));
        }
        let Some(block) = self.next_as_exported(text)? else { return Ok(None) };
        self.waiting.extend(self.patches.applied(block, &self.dialect));
        Ok(self.waiting.pop_front())
    }

    fn next_as_exported(&mut self, mut text: String) -> Result<Option<Block>> {
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
            let (end, rows, lines) = if self.ended {
                self.last_rows(&text)
            } else {
                let complete = complete_rows(&text, &self.dialect);
                (complete.end, complete.rows, complete.lines)
            };
            if end == 0 {
                if text.len() > LONGEST_ROW {
                    return Err(self.endless());
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
    pub fn print(&self) -> SourceIdentity {
        match &self.print {
            Some(print) => print.clone(),
            None => SourceIdentity { bytes: self.bytes, blake3: self.hasher.finalize().to_hex().to_string() },
        }
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
                Err(error) => return Err(Error::reading(Path::new(self.file.file().name()))(error)),
            }
        }
        let raw = self.raw.get(..filled).unwrap_or_default();
        if self.print.is_none() {
            self.hasher.update(raw);
        }
        self.bytes += filled as u64;
        if self.ended {
            let read = match &self.print {
                // What is read is the program's own; what identifies the source was told before.
                Some(_) => SourceIdentity { bytes: self.bytes, blake3: String::new() },
                None => self.print(),
            };
            self.file.file().read_to_its_end(&read)?;
        }
        let raw = raw.get(self.skip..).unwrap_or_default();
        self.skip = 0;
        self.decoding.decode(raw, self.ended, text);
        Ok(())
    }

    /// Everything that is left is whole once the file is over.
    fn last_rows(&self, text: &str) -> (usize, u64, u64) {
        let mut rows = Rows::starting_at(text, &self.dialect, self.row, self.line, Default::default());
        let mut seen = 0;
        while rows.next().is_some() {
            seen += 1;
        }
        // Nothing follows, so how many lines there were no longer matters.
        (text.len(), seen, seen)
    }

    fn endless(&self) -> Error {
        Error::Source {
            source_name: self.file.file().name().to_owned(),
            says: format!("row {} goes on for more than 8 MiB without an end", self.row.with_line(self.line)),
            hint: "check that this is a delimited file, and its encoding under [source] in the mapping"
                .into(),
        }
    }

    /// The block without the rows up to and including the header, or nothing if none is left.
    fn below_header(&mut self, mut block: Block) -> Option<Block> {
        if block.row.0 > self.header_ends {
            return Some(block);
        }
        let mut rows = block.rows(&self.dialect);
        let mut next = None;
        loop {
            let offset = rows.offset();
            let Some(row) = rows.next() else { break };
            if row.row().0 > self.header_ends {
                next = Some((offset, row.row(), row.line()));
                break;
            }
        }
        let (offset, row, line) = next?;
        block.text.drain(..offset);
        Some(Block { row, line, ..block })
    }
}

/// Decodes a file piece by piece. A byte that does not fit becomes U+FFFD, to be found in its cell.
pub(super) struct Decoding {
    decoder: Decoder,
    other_lines: Option<&'static Encoding>,
    /// The beginning of a line that is not whole yet, where lines are decoded one by one.
    pending: Vec<u8>,
    unpacked: bool,
}

impl std::fmt::Debug for Decoding {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Decoding").field("encoding", &self.decoder.encoding().name()).finish()
    }
}

impl Decoding {
    /// `unpacked` says that the program wrote the text itself.
    pub(super) fn new(choice: EncodingChoice, unpacked: bool) -> Self {
        let decoder = choice.encoding.new_decoder_without_bom_handling();
        Self { decoder, other_lines: choice.other_lines, pending: Vec::new(), unpacked }
    }

    /// Appends the text of `raw` to `text`.
    pub(super) fn decode(&mut self, raw: &[u8], last: bool, text: &mut String) {
        let before = text.len();
        match self.other_lines {
            None => self.decode_all(raw, last, text),
            Some(other) => self.decode_lines(raw, last, other, text),
        }
        // The program's own marks are noncharacters, which no text should hold.
        let new = text.get(before..).unwrap_or_default();
        if !self.unpacked && memchr::memmem::find(new.as_bytes(), &[0xef, 0xb7]).is_some() {
            let clean = new.replace(is_mark, "\u{fffd}");
            text.truncate(before);
            text.push_str(&clean);
        }
    }

    fn decode_all(&mut self, raw: &[u8], last: bool, text: &mut String) {
        let mut rest = raw;
        loop {
            let needed = self.decoder.max_utf8_buffer_length_without_replacement(rest.len());
            text.reserve(needed.unwrap_or(rest.len() * 3 + 16));
            let (result, read) = self.decoder.decode_to_string_without_replacement(rest, text, last);
            rest = rest.get(read..).unwrap_or_default();
            match result {
                DecoderResult::InputEmpty => return,
                DecoderResult::OutputFull => {}
                DecoderResult::Malformed(..) => text.push('\u{fffd}'),
            }
        }
    }

    /// Every line is UTF-8, or else all of it is in the other encoding.
    fn decode_lines(&mut self, raw: &[u8], last: bool, other: &'static Encoding, text: &mut String) {
        self.pending.extend_from_slice(raw);
        let end = if last {
            self.pending.len()
        } else {
            memchr::memrchr(b'\n', &self.pending).map_or(0, |end| end + 1)
        };
        let whole = self.pending.get(..end).unwrap_or_default();
        match std::str::from_utf8(whole) {
            Ok(all) => text.push_str(all),
            Err(_) => {
                for line in whole.split_inclusive(|byte| *byte == b'\n') {
                    match std::str::from_utf8(line) {
                        Ok(line) => text.push_str(line),
                        Err(_) => text.push_str(&other.decode_without_bom_handling(line).0),
                    }
                }
            }
        }
        self.pending.drain(..end);
    }
}

#[cfg(test)]
mod tests {
    use std::io::Write as _;

    use super::*;
    use crate::source_file::SourceFile;

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
                let choice = EncodingChoice { encoding, other_lines: None, mark: 0 };
                let start = Start { header_ends: 1, ..Start::default() };
                let mut blocks = Blocks::new(
                    SourceFile::own(file.reopen().unwrap(), "t").reader(),
                    choice,
                    dialect.clone(),
                    &start,
                    None,
                    Arc::default(),
                );
                let mut read = Vec::new();
                let mut count = 0;
                while let Some(block) = blocks.next(String::new()).unwrap() {
                    count += 1;
                    let rows = block.rows(&dialect);
                    rows_of(rows, &mut read);
                }
                assert!(count > 3, "{count} blocks");
                assert_eq!(read.len(), whole.len());
                assert!(read == whole, "rows differ with {line_end:?} in {}", encoding.name());
                let print = SourceIdentity {
                    bytes: bytes.len() as u64,
                    blake3: blake3::hash(&bytes).to_hex().to_string(),
                };
                assert_eq!(blocks.print(), print);
            }
        }
    }

    #[test]
    fn a_quote_that_is_never_closed_costs_its_own_row_only() {
        let mut file = tempfile::NamedTempFile::new().unwrap();
        writeln!(file, "a,b\n1,\"open").unwrap();
        for number in 0..300_000 {
            writeln!(file, "{number},x").unwrap();
        }
        let choice = EncodingChoice { encoding: encoding_rs::UTF_8, other_lines: None, mark: 0 };
        let dialect = Dialect::new(",", "\"");
        let start = Start { header_ends: 1, ..Start::default() };
        let mut blocks = Blocks::new(
            SourceFile::own(file.reopen().unwrap(), "t").reader(),
            choice,
            dialect.clone(),
            &start,
            None,
            Arc::default(),
        );
        let (mut rows_read, mut open) = (0, Vec::new());
        while let Some(block) = blocks.next(String::new()).unwrap() {
            let mut rows = block.rows(&dialect);
            while let Some(row) = rows.next() {
                rows_read += 1;
                if !row.is_closed() {
                    open.push(row.row().0);
                }
            }
        }
        assert_eq!((rows_read, open), (300_001, vec![2]));
    }
}
