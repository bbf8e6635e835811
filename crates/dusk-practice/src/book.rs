//! What the practice target holds.

use std::path::{Path, PathBuf};

use dusk_evidence::{Error, Result};
use dusk_files::write_whole;

/// What it holds is listed here, in the target's own layout.
const HELD: &str = "held.csv";

/// How often each record was loaded, and by which file: so that tests can count.
const LOADS: &str = "loads.csv";

/// What the practice target holds, kept in a folder of its own.
#[derive(Debug)]
pub struct Book {
    folder: PathBuf,
    headings: Vec<String>,
    /// The key of each record, and its cells.
    records: Vec<(String, Vec<String>)>,
    /// The key of each load, and the file.
    loads: Vec<(String, String)>,
    /// How many numbers were handed out.
    numbers: u64,
}

impl Book {
    /// Opens the book in a folder, which is made where it is not there.
    ///
    /// # Errors
    /// [`Error::Request`] where it is that of another target.
    pub fn open(folder: &Path, headings: &[&str], key: &[usize]) -> Result<Self> {
        let headings: Vec<String> = headings.iter().map(|heading| (*heading).to_owned()).collect();
        let mut book = Self {
            folder: folder.to_path_buf(),
            headings,
            records: Vec::new(),
            loads: Vec::new(),
            numbers: 0,
        };
        let held = folder.join(HELD);
        if held.is_file() {
            let (found, rows) = read(&held)?;
            if found != book.headings {
                return Err(Error::Request(format!(
                    "{} is what another target holds: its columns are others\n  name another folder with --state",
                    held.display()
                )));
            }
            book.records = rows.into_iter().map(|cells| (key_of(&cells, key), cells)).collect();
        }
        let loads = folder.join(LOADS);
        if loads.is_file() {
            let (_, rows) = read(&loads)?;
            let pair = |row: Vec<String>| {
                let mut cells = row.into_iter();
                (cells.next().unwrap_or_default(), cells.next().unwrap_or_default())
            };
            book.loads = rows.into_iter().map(pair).collect();
        }
        book.numbers = book.loads.len() as u64;
        Ok(book)
    }

    /// The folder that it is kept in.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// How many records it holds.
    pub fn len(&self) -> usize {
        self.records.len()
    }

    /// Whether it holds none.
    pub fn is_empty(&self) -> bool {
        self.records.is_empty()
    }

    /// The keys of everything that was ever loaded, one for each time.
    pub fn loads(&self) -> impl Iterator<Item = &str> {
        self.loads.iter().map(|(key, _)| key.as_str())
    }

    pub(crate) fn holds(&self, key: &str) -> bool {
        !key.is_empty() && self.records.iter().any(|(known, _)| known == key)
    }

    /// The next number that it hands out.
    pub(crate) fn next_number(&mut self) -> String {
        self.numbers += 1;
        format!("N{:06}", self.numbers)
    }

    /// Takes a record in. It is on the disk only once the book was written.
    pub(crate) fn load(&mut self, key: String, cells: Vec<String>, file: &str) {
        self.loads.push((key.clone(), file.to_owned()));
        match self.records.iter_mut().find(|(known, _)| !key.is_empty() && *known == key) {
            Some((_, known)) => *known = cells,
            None => self.records.push((key, cells)),
        }
    }

    /// Writes the book, whole or not at all.
    ///
    /// # Errors
    /// [`Error::File`] when the folder cannot be written to.
    pub fn write(&self) -> Result<()> {
        let headings: Vec<&str> = self.headings.iter().map(String::as_str).collect();
        let rows = self.records.iter().map(|(_, cells)| cells.iter().map(String::as_str).collect());
        write_whole(&self.folder.join(HELD), &table(&headings, rows)?)?;
        let rows = self.loads.iter().map(|(key, file)| vec![key.as_str(), file.as_str()]);
        write_whole(&self.folder.join(LOADS), &table(&["key", "file"], rows)?)
    }
}

/// The key of a record: its cells at these places.
pub(crate) fn key_of(cells: &[String], key: &[usize]) -> String {
    let parts: Vec<&str> = key.iter().map(|place| cells.get(*place).map_or("", String::as_str)).collect();
    parts.join(" + ")
}

fn table<'t>(headings: &[&str], rows: impl Iterator<Item = Vec<&'t str>>) -> Result<Vec<u8>> {
    let wrong = |error: csv::Error| Error::Invariant(error.to_string());
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(headings).map_err(wrong)?;
    for row in rows {
        writer.write_record(row).map_err(wrong)?;
    }
    writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))
}

fn read(path: &Path) -> Result<(Vec<String>, Vec<Vec<String>>)> {
    let damaged = |error: csv::Error| Error::Request(format!("{} is damaged: {error}", path.display()));
    let mut reader = csv::Reader::from_path(path).map_err(damaged)?;
    let texts = |record: &csv::StringRecord| record.iter().map(str::to_owned).collect::<Vec<String>>();
    let headings = texts(reader.headers().map_err(damaged)?);
    let rows: csv::Result<Vec<Vec<String>>> =
        reader.records().map(|record| record.map(|record| texts(&record))).collect();
    Ok((headings, rows.map_err(damaged)?))
}
