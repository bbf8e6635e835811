//! An upload file that is text: delimited, or a JSON object a line.

use std::path::Path;

use super::upload_file::UploadFile;
use dusk_description::{Target, Upload, UploadEncoder, UploadFormat};
use dusk_evidence::{Error, Result};
use dusk_files::{Output, OutputFile};

/// A text being written.
pub(super) struct TextFile {
    output: Output,
    bytes: u64,
    lines: Lines,
    tail: Vec<u8>,
}

/// Counts the lines of what is written.
#[derive(Debug, Clone)]
pub(super) struct Lines {
    /// What a line ends with, or the last character of it, in the encoding of the file.
    mark: Vec<u8>,
    next: u64,
}

impl Lines {
    /// For an upload, before its first line.
    pub(super) fn of(target: &Target) -> Result<Self> {
        let encoder = UploadEncoder::new(&target.upload).map_err(Error::Invariant)?;
        let (encoded, unit) =
            (encoder.line_end(), encoder.line_end().len() / target.upload.line_end.len().max(1));
        if let UploadFormat::Iso2709 { as_lines: false, .. } = target.upload.format {
            // Such a file has no lines: its records are counted by the mark that ends each.
            return Ok(Self { mark: vec![0x1d], next: 1 });
        }
        let mark = encoded.get(encoded.len().saturating_sub(unit)..).unwrap_or_default().to_vec();
        Ok(Self { mark: if mark.is_empty() { vec![b'\n'] } else { mark }, next: 1 })
    }

    fn pass(&mut self, bytes: &[u8]) {
        self.next += match self.mark.as_slice() {
            [mark] => memchr::memchr_iter(*mark, bytes).count() as u64,
            // In two bytes a letter, half of one letter and half of the next are none.
            mark => bytes.chunks_exact(mark.len()).filter(|unit| *unit == mark).count() as u64,
        };
    }
}

impl TextFile {
    /// Begins the file `name` in `folder` with its head.
    pub(super) fn create(
        folder: &Path,
        name: &str,
        (head, tail): (&[u8], &[u8]),
        mut lines: Lines,
    ) -> Result<Self> {
        let mut output = Output::create(folder, name)?;
        output.append(head)?;
        lines.pass(head);
        Ok(Self { output, bytes: (head.len() + tail.len()) as u64, lines, tail: tail.to_vec() })
    }
}

impl UploadFile for TextFile {
    fn next_line(&self) -> u64 {
        self.lines.next
    }

    fn append(&mut self, record: &[u8]) -> Result<()> {
        self.lines.pass(record);
        self.output.append(record)?;
        self.output.rows += 1;
        self.bytes += record.len() as u64;
        Ok(())
    }

    fn is_full_for(&self, record: &[u8], upload: &Upload) -> bool {
        let has_bytes_for = |most| self.bytes + record.len() as u64 <= most;
        upload.max_rows.is_some_and(|most| self.output.rows >= most)
            || self.output.rows > 0 && !upload.max_bytes.is_none_or(has_bytes_for)
    }

    fn finish(mut self: Box<Self>) -> Result<OutputFile> {
        self.output.append(&self.tail)?;
        self.output.finish()
    }
}

/// What every such file begins with and ends with: a byte order mark and the headings, where wanted, or what stands around
/// records.
pub(super) fn frame(target: &Target) -> Result<(Vec<u8>, Vec<u8>)> {
    let mut encoder = UploadEncoder::new(&target.upload).map_err(Error::Invariant)?;
    let (mut head, tail) = match target.upload.format {
        UploadFormat::Delimited | UploadFormat::FixedWidth | UploadFormat::Xml { .. } => encoder.frame(),
        _ => return Ok(Default::default()),
    };
    if target.upload.format != UploadFormat::Delimited {
        return Ok((head, tail));
    }
    for row in target.header_rows() {
        for (place, heading) in row.iter().enumerate() {
            if place > 0 {
                head.extend_from_slice(encoder.delimiter());
            }
            encoder.value(heading, row.len() == 1, &mut head).map_err(|fault| {
                Error::Request(format!("the heading \"{heading}\" {}; {}", fault.wrong(), fault.right()))
            })?;
        }
        head.extend_from_slice(encoder.line_end());
    }
    Ok((head, tail))
}
