//! Exports that are packed, and several in one place: a file packed by gzip (RFC 1952), the files of a zip archive, and
//! those of a folder. A file in an archive is named as if the archive were a folder: `exports.zip/may.csv`.

use std::fs::File;
use std::io::BufReader;
use std::path::{Path, PathBuf};

use super::source_file::SourceFile;
use dusk_evidence::{Error, Refusal, Result};

/// How files that hold exports end; those of a folder that end otherwise are none.
const ENDINGS: [&str; 20] = [
    "csv", "tsv", "tab", "txt", "dat", "asc", "prn", "xlsx", "xlsm", "xlsb", "xls", "ods", "json", "jsonl",
    "ndjson", "xml", "mrc", "iso", "marc", "gz",
];

type Archive = zip::ZipArchive<BufReader<File>>;

/// The exports in a folder or a zip archive, in the order of their names; nothing where a path leads to neither. A
/// workbook is a file, although it is packed.
///
/// # Errors
/// [`Error::File`] where it cannot be read; [`Error::Source`] where no export is in it.
pub fn sources_in(path: &Path) -> Result<Option<Vec<PathBuf>>> {
    let Ok(metadata) = std::fs::metadata(path) else { return Ok(None) };
    let names = if metadata.is_dir() {
        names_in_folder(path)?
    } else if let Some(archive) = archive_at(path) {
        members(&archive)
    } else {
        return Ok(None);
    };
    if names.is_empty() {
        let kind = if metadata.is_dir() { "a folder" } else { "an archive" };
        let says = format!("is {kind} without an export in it");
        return Err(Refusal::new(says, "name the exported file").of(&path.display().to_string()));
    }
    Ok(Some(names.iter().map(|name| path.join(name)).collect()))
}

fn names_in_folder(path: &Path) -> Result<Vec<String>> {
    let mut names = Vec::new();
    for entry in std::fs::read_dir(path).map_err(Error::reading(path))? {
        let entry = entry.map_err(Error::reading(path))?;
        let name = entry.file_name().to_string_lossy().into_owned();
        let is_file = std::fs::metadata(entry.path()).is_ok_and(|metadata| metadata.is_file());
        if is_file && is_export(&name) {
            names.push(name);
        }
    }
    names.sort();
    Ok(names)
}

/// Whether a file is an export by its name.
fn is_export(name: &str) -> bool {
    let file = name.rsplit('/').next().unwrap_or(name);
    let ending = file.rsplit_once('.').map(|(_, ending)| ending.to_ascii_lowercase());
    !file.starts_with(['.', '~']) && ending.is_some_and(|ending| ENDINGS.contains(&ending.as_str()))
}

/// The archive at a path; nothing where it is another file, or a workbook.
fn archive_at(path: &Path) -> Option<Archive> {
    let archive = zip::ZipArchive::new(BufReader::new(File::open(path).ok()?)).ok()?;
    let is_part = |name: &str| {
        let name = name.trim_start_matches('/');
        name == "[Content_Types].xml"
            || name.starts_with("xl/")
            || name == "content.xml"
            || name == "mimetype"
    };
    let is_workbook = archive.file_names().flatten().any(|name| is_part(&name));
    (!is_workbook).then_some(archive)
}

fn members(archive: &Archive) -> Vec<String> {
    let mut names: Vec<String> = archive
        .file_names()
        .flatten()
        .filter(|name| !name.ends_with('/') && !name.starts_with("__MACOSX/") && is_export(name))
        .map(|name| name.to_string())
        .collect();
    names.sort();
    names
}

/// The archive and the name in it, where a path leads to a file in a zip archive.
fn in_archive(path: &Path) -> Option<(PathBuf, String)> {
    let archive = path.ancestors().skip(1).find(|above| above.is_file())?;
    let inside = path.strip_prefix(archive).ok()?;
    let names: Vec<String> =
        inside.components().map(|part| part.as_os_str().to_string_lossy().into_owned()).collect();
    Some((archive.to_path_buf(), names.join("/")))
}

/// Whether a path leads to a file, which may be in a zip archive.
pub fn leads_to_a_file(path: &Path) -> bool {
    let member = || {
        let (place, member) = in_archive(path)?;
        archive_at(&place)?.index_for_name(&member)
    };
    path.is_file() || member().is_some()
}

/// Unpacks the file that a path leads to in a zip archive; nothing where it leads to none.
///
/// # Errors
/// [`Error::Source`] where it is not there, protected, or damaged.
pub(super) fn unpacked_member(path: &Path, name: &str) -> Result<Option<SourceFile>> {
    let Some((place, member)) = in_archive(path) else { return Ok(None) };
    let Some(mut archive) = archive_at(&place) else { return Ok(None) };
    let listed = members(&archive).join(", ");
    let mut entry = archive.by_name(&member).map_err(|error| match error {
        zip::result::ZipError::FileNotFound => {
            Refusal::new(format!("is not in {}", place.display()), format!("there are {listed}")).of(name)
        }
        error => damaged(&error).of(name),
    })?;
    SourceFile::kept(&mut entry, name).map(Some)
}

/// Whether a file is packed by gzip.
pub(super) fn is_gzip(head: &[u8]) -> bool {
    head.starts_with(&[0x1f, 0x8b])
}

/// Unpacks a file that is packed by gzip.
///
/// # Errors
/// [`Error::Source`] where it is damaged or cut off.
pub(super) fn gunzipped(file: &SourceFile) -> Result<SourceFile> {
    let mut stream = flate2::read::MultiGzDecoder::new(file.reader());
    SourceFile::kept(&mut stream, file.name()).map_err(|error| match error {
        Error::File { .. } => damaged(&"it is cut off, or not what it says of itself").of(file.name()),
        error => error,
    })
}

fn damaged(what: &dyn std::fmt::Display) -> Refusal {
    Refusal::new(
        format!("is a packed file that cannot be unpacked: {what}"),
        "ask for it again, or unpack it and use the exported file",
    )
}
