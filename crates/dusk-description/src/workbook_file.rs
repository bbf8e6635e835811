//! Workbooks that are written by a library: what it says when the disk is full, in the words of all other files.

use std::error::Error as _;
use std::io::{self, BufWriter, ErrorKind, Write as _};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;

use dusk_evidence::{Error, Result};
use dusk_files::disk::DiskFile;
use jiff::civil::Date;
use rust_xlsxwriter::{DocProperties, ExcelDateTime, Workbook, XlsxError};

/// What a workbook says of itself, so that the same rows have the same bytes on the same day.
pub fn made_on(day: Date) -> DocProperties {
    let year = day.year().unsigned_abs();
    let (month, day) = (day.month().unsigned_abs(), day.day().unsigned_abs());
    let properties = DocProperties::new();
    // A clock that was never set may show a day before the first one that a workbook knows.
    match ExcelDateTime::from_ymd(year, month, day).or_else(|_| ExcelDateTime::from_ymd(1900, 1, 1)) {
        Ok(moment) => properties.set_creation_datetime(&moment),
        Err(_) => properties,
    }
}

/// A new workbook that keeps the rows on their way in the folder of the file that it becomes.
///
/// # Errors
/// [`Error::File`] when that folder cannot be written to.
pub fn workbook_for(path: &Path, day: Date) -> Result<Workbook> {
    let mut book = Workbook::new();
    book.set_properties(&made_on(day));
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    writing(path, || book.set_tempdir(folder).map(drop))?;
    Ok(book)
}

/// Runs work of the library on the file at `path`. It panics where it cannot write what is on its way; that is the
/// disk's doing, and said as such.
///
/// # Errors
/// [`Error::File`] when the disk refuses; [`Error::Request`] for what a workbook cannot hold.
pub fn writing<T>(path: &Path, work: impl FnOnce() -> Result<T, XlsxError>) -> Result<T> {
    match catch_unwind(AssertUnwindSafe(work)) {
        Ok(done) => done.map_err(|error| wrong(path, error)),
        Err(_) => Err(Error::writing(path)(ErrorKind::StorageFull.into())),
    }
}

/// Writes a workbook to `path`, and waits until the disk has it.
///
/// # Errors
/// As [`writing`].
pub fn save_workbook(book: &mut Workbook, path: &Path) -> Result<()> {
    let file = DiskFile::create(path).map_err(Error::writing(path))?;
    let mut out = BufWriter::with_capacity(1 << 16, file);
    writing(path, || book.save_to_writer(&mut out))?;
    out.flush().and_then(|()| out.get_ref().sync()).map_err(Error::writing(path))
}

fn wrong(path: &Path, error: XlsxError) -> Error {
    let of_disk = match error {
        XlsxError::IoError(error) | XlsxError::TempFileError(_, error) => Ok(error),
        XlsxError::ZipError(error) => {
            match error.source().and_then(|cause| cause.downcast_ref::<io::Error>()) {
                Some(cause) => {
                    Ok(cause.raw_os_error().map_or_else(|| cause.kind().into(), io::Error::from_raw_os_error))
                }
                None => Err(XlsxError::ZipError(error)),
            }
        }
        other => Err(other),
    };
    match of_disk {
        Ok(cause) => Error::writing(path)(cause),
        Err(other) => Error::Request(format!("{} cannot be written: {other}", path.display())),
    }
}
