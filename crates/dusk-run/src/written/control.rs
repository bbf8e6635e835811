//! The control file beside the upload: counts, sums and hashes, as the target wants them.

use std::io::BufReader;
use std::path::Path;

use sha2::{Digest as _, Sha256};

use crate::{Ready, Summary};
use dusk_description::{Control, UploadEncoder};
use dusk_evidence::{Error, Result};
use dusk_files::{FileName, OutputFile, Template, write_whole};

/// Writes the control file of a batch whose upload files are closed; nothing where the target wants none. It lies among
/// them, and goes to the target after all of them.
///
/// # Errors
/// [`Error::File`] where a file cannot be read or written; [`Error::Request`] where the name cannot be a file's, or the
/// encoding of the upload does not have a character.
pub(super) fn write(
    ready: &Ready<'_>,
    (folder, batch): (&Path, &str),
    outputs: &[OutputFile],
    summary: &Summary,
) -> Result<Option<OutputFile>> {
    let Some(control) = &ready.job.target.control else { return Ok(None) };
    let uploads: Vec<&OutputFile> =
        outputs.iter().filter(|output| output.file.starts_with("upload/")).collect();
    for field in control.lines.iter().flat_map(Template::names).filter_map(Control::summed) {
        let total = summary.field_totals.iter().find(|total| total.field == field);
        if total.is_some_and(|total| total.filled > 0 && total.sum.is_none()) {
            return Err(Error::Request(format!(
                "[control] lines: the sum of {field} has too many digits to be exact, so nothing was written\n  take {{sum:{field}}} out of lines"
            )));
        }
    }
    let today = ready.job.today.to_string();
    let unknown = || Error::Invariant("[control] was not checked".into());
    let files = uploads.len().to_string();
    let records = uploads.iter().filter_map(|output| output.rows).sum::<u64>().to_string();
    let of_batch = |name: &str| match name {
        "batch" => Some(batch),
        "today" => Some(today.as_str()),
        "files" => Some(files.as_str()),
        "records" => Some(records.as_str()),
        name => {
            let field = Control::summed(name)?;
            let total = summary.field_totals.iter().find(|total| total.field == field);
            Some(total.and_then(|total| total.sum.as_deref()).unwrap_or("0"))
        }
    };
    let mut lines = Vec::new();
    for line in &control.lines {
        lines.push(line.fill(of_batch).ok_or_else(unknown)?);
    }
    if let Some(line) = &control.each_file {
        for output in &uploads {
            let sha256 = sha256_of(&folder.join(&output.file))?;
            let (records, bytes) = (output.rows.unwrap_or_default().to_string(), output.bytes.to_string());
            let filled = line.fill(|name| match name {
                "batch" => Some(batch),
                "file" => output.file.strip_prefix("upload/"),
                "records" => Some(records.as_str()),
                "bytes" => Some(bytes.as_str()),
                "sha256" => Some(sha256.as_str()),
                "blake3" => Some(output.blake3.as_str()),
                _ => None,
            });
            lines.push(filled.ok_or_else(unknown)?);
        }
    }
    let name = control.file_name.fill(of_batch).ok_or_else(unknown)?;
    let name = FileName::checked(&name).map_err(|why| {
        Error::Request(format!("[control] file_name: a control file would be called \"{name}\", which {why}"))
    })?;
    let path = format!("upload/{name}");
    if uploads.iter().any(|output| output.file == path) {
        return Err(Error::Request(format!("[control] file_name: an upload file is called {name} as well")));
    }
    let encoder = UploadEncoder::new(&ready.job.target.upload).map_err(Error::Invariant)?;
    let end = ready.job.target.upload.line_end;
    let text: String = lines.iter().map(|line| format!("{line}{end}")).collect();
    let bytes = encoder
        .plain(&text)
        .map_err(|fault| Error::Request(format!("[control] {}; {}", fault.wrong(), fault.right())))?;
    let place = folder.join(&path);
    write_whole(&place, &bytes)?;
    Ok(Some(OutputFile { rows: None, ..OutputFile::of_file(&place, &path, 0)? }))
}

/// The SHA-256 hash of a file (FIPS 180-4), in hexadecimal digits.
fn sha256_of(path: &Path) -> Result<String> {
    let file = std::fs::File::open(path).map_err(Error::reading(path))?;
    let mut hasher = Sha256::new();
    let mut reader = BufReader::new(file);
    let mut buffer = [0; 8192];
    loop {
        let read = std::io::Read::read(&mut reader, &mut buffer).map_err(Error::reading(path))?;
        if read == 0 {
            break;
        }
        hasher.update(buffer.get(..read).unwrap_or_default());
    }
    Ok(hasher.finalize().iter().map(|byte| format!("{byte:02x}")).collect())
}
