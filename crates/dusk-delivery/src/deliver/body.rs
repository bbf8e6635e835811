//! What is sent to a server: the file itself, or a form with the file in it (RFC 7578).

use std::fs::File;
use std::io::{self, Cursor, Read};

use super::carrier::FileToSend;
use dusk_evidence::{Error, Result};

/// A body that tells how much of it was read.
pub(super) struct Body<'b> {
    parts: Box<dyn Read + 'b>,
    /// How many bytes it has.
    pub(super) length: u64,
    pub(super) content_type: String,
    read: u64,
    progress: &'b dyn Fn(u64),
}

impl<'b> Body<'b> {
    /// The body for a file.
    pub(super) fn of(file: &FileToSend<'_>, form: Option<&str>, progress: &'b dyn Fn(u64)) -> Result<Self> {
        let opened = File::open(file.path).map_err(Error::reading(file.path))?;
        let kind = content_type(file.name);
        let Some(part) = form else {
            return Ok(Self {
                parts: Box::new(opened),
                length: file.bytes,
                content_type: kind.into(),
                read: 0,
                progress,
            });
        };
        let boundary = format!("dusk-{}", file.key);
        let head = format!(
            "--{boundary}\r\nContent-Disposition: form-data; name=\"{}\"; filename=\"{}\"\r\nContent-Type: {kind}\r\n\r\n",
            escaped(part),
            escaped(file.name)
        );
        let tail = format!("\r\n--{boundary}--\r\n");
        let length = file.bytes + (head.len() + tail.len()) as u64;
        let parts = Cursor::new(head.into_bytes()).chain(opened).chain(Cursor::new(tail.into_bytes()));
        let content_type = format!("multipart/form-data; boundary={boundary}");
        Ok(Self { parts: Box::new(parts), length, content_type, read: 0, progress })
    }

    /// How much of it was read so far.
    pub(super) fn read(&self) -> u64 {
        self.read
    }
}

impl Read for Body<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.parts.read(buffer)?;
        self.read += read as u64;
        (self.progress)(self.read);
        Ok(read)
    }
}

/// A name inside quotes of a form.
fn escaped(name: &str) -> String {
    name.replace('"', "%22").replace('\r', "%0D").replace('\n', "%0A")
}

fn content_type(name: &str) -> &'static str {
    match name.rsplit('.').next().map(str::to_ascii_lowercase).as_deref() {
        Some("csv") => "text/csv",
        Some("json") => "application/json",
        Some("jsonl") => "application/jsonl",
        Some("xlsx") => "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        Some("txt" | "tsv") => "text/plain",
        _ => "application/octet-stream",
    }
}
