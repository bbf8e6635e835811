//! What a file really is, whatever its name says, and whether it can be unpacked in bounded memory.

use std::fs::File;
use std::io::{BufReader, Read};
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::limits::{most_in_memory, too_large};
use super::placed::PlacedFile;
use dusk_evidence::Refusal;

/// The packed parts of a workbook.
pub(super) type Archive = zip::ZipArchive<BufReader<PlacedFile>>;

/// What holds a workbook.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum Container {
    /// Office Open XML: xlsx and xlsm.
    Xlsx,
    /// The same with binary sheets.
    Xlsb,
    /// The binary files of before 2007.
    Xls,
    /// OpenDocument.
    Ods,
}

/// The most that packing can have saved: deflate never does better than 1032 to 1.
const BEST_PACKING: u64 = 1032;

/// What kind of workbook a file is; nothing for a file that is none.
///
/// # Errors
/// Says so when it is a packed file or an old office file, but no workbook that can be read.
pub fn container_of(file: &Arc<File>, head: &[u8]) -> Result<Option<Container>, Refusal> {
    if head.starts_with(b"\xD0\xCF\x11\xE0") {
        let wide = |text: &str| text.encode_utf16().flat_map(u16::to_le_bytes).collect::<Vec<u8>>();
        let has = |text: &str| memchr::memmem::find(head, &wide(text)).is_some();
        // The names of the parts may stand far behind the first bytes, so only what is found counts.
        return if has("EncryptedPackage") { Err(protected()) } else { Ok(Some(Container::Xls)) };
    }
    if !head.starts_with(b"PK\x03\x04") {
        return Ok(None);
    }
    let archive = open(file)?;
    let names: Vec<String> = archive
        .file_names()
        .flatten()
        .map(|name| name.trim_start_matches('/').to_ascii_lowercase())
        .collect();
    let has = |wanted: &str| names.iter().any(|name| name == wanted);
    let container = if has("xl/workbook.bin") {
        Container::Xlsb
    } else if names.iter().any(|name| name.starts_with("xl/") && name.ends_with("workbook.xml"))
        || has("xl/workbook.xml")
    {
        Container::Xlsx
    } else if has("content.xml") {
        Container::Ods
    } else {
        return Err(Refusal::new(
            "is a packed file, but not a workbook",
            "unpack it, and use the exported file in it",
        ));
    };
    Ok(Some(container))
}

/// Refuses a packed workbook of which a part that is held in memory as a whole is larger than any should be.
pub(super) fn refuse_large_parts(file: &Arc<File>, container: Container) -> Result<(), Refusal> {
    let mut archive = open(file)?;
    let most = most_in_memory(file.metadata().map_or(0, |metadata| metadata.len()));
    for place in 0..archive.len() {
        let in_memory = {
            let Ok(entry) = archive.by_index_raw(place) else { continue };
            let Ok(name) = entry.name().map(|name| name.to_ascii_lowercase()) else { continue };
            let streamed = container == Container::Ods || name.contains("worksheets/");
            let read = name.ends_with(".xml") || name.ends_with(".bin") || name.ends_with(".rels");
            read && !streamed && entry.compressed_size().saturating_mul(BEST_PACKING) > most
        };
        if in_memory {
            check_size(&mut archive, place, most)?;
        }
    }
    Ok(())
}

/// Opens the packed file.
pub(super) fn open(file: &Arc<File>) -> Result<Archive, Refusal> {
    let cut =
        |error: &dyn std::fmt::Display| super::damaged(&format!("it is cut off or overwritten ({error})"));
    zip::ZipArchive::new(BufReader::new(PlacedFile::new(file))).map_err(|error| cut(&error))
}

pub(super) fn protected() -> Refusal {
    Refusal::new(
        "is protected by a password",
        "open it in a spreadsheet program, take the password away, and save it under another name",
    )
}

fn check_size(archive: &mut Archive, place: usize, most: u64) -> Result<(), Refusal> {
    let Ok(entry) = archive.by_index(place) else { return Ok(()) };
    if entry.size() > most {
        return Err(too_large());
    }
    // What the file says of its own size need not be true.
    let unpacked = std::io::copy(&mut entry.take(most + 1), &mut std::io::sink());
    if unpacked.is_ok_and(|bytes| bytes > most) { Err(too_large()) } else { Ok(()) }
}

/// The value of an attribute in the text of a tag.
pub(super) fn attribute<'t>(tag: &'t [u8], name: &str) -> Option<&'t str> {
    let start = memchr::memmem::find_iter(tag, name).find(|at| {
        tag.get(at + name.len()) == Some(&b'=')
            && tag.get(at.wrapping_sub(1)).is_some_and(|before| before.is_ascii_whitespace())
    })?;
    let rest = tag.get(start + name.len() + 1..)?;
    let quote = *rest.first()?;
    let rest = rest.get(1..)?;
    std::str::from_utf8(rest.get(..memchr::memchr(quote, rest)?)?).ok()
}

/// The text of a part of the packed file, its first 16 MB; nothing where there is none.
pub(super) fn part(archive: &mut Archive, name: &str) -> Option<Vec<u8>> {
    let mut text = Vec::new();
    archive.by_name(name).ok()?.take(16 << 20).read_to_end(&mut text).ok()?;
    Some(text)
}
