//! Bibliographic records on their way into an upload: each as its source has it, with the fields of the target set or added.

use std::path::Path;

use crate::running::table::cells_in;
use crate::{Place, Ready};
use dusk_description::{Target, UploadFormat};
use dusk_evidence::{Error, Id as _, Result, Row, SourceId};
use dusk_records::{FieldPart, FieldPath, RecordBytes, WholeRecord};
use dusk_sources::Source;

/// Makes whole records of the cells of an upload.
pub(crate) struct WholeRecords<'r> {
    sources: &'r [Source],
    /// Where each cell belongs, in the order of the upload's columns.
    columns: Vec<WholeColumn>,
    leader: &'r str,
    as_lines: bool,
    /// Where the records of the source at hand are read, and the row of the one that was read last.
    at: Option<Reading>,
}

struct WholeColumn {
    path: FieldPath,
    /// It goes into a field that is added to each record.
    added: bool,
}

struct Reading {
    source: SourceId,
    records: RecordBytes,
    row: u64,
}

impl<'r> WholeRecords<'r> {
    /// Nothing where the upload is of another format.
    ///
    /// # Errors
    /// [`Error::Request`] where a record of the source makes several rows, so that nobody can say which of them is the
    /// record.
    pub(crate) fn new(ready: &'r Ready<'r>) -> Result<Option<Self>> {
        let target: &Target = ready.job.target;
        let UploadFormat::Iso2709 { leader, as_lines } = &target.upload.format else { return Ok(None) };
        let mut columns = Vec::new();
        for field in target.fields.iter().filter(|field| field.is_sent()) {
            for heading in field.headings() {
                let lost = || Error::Invariant(format!("{heading} is not a place in a record"));
                let path = FieldPath::parse(heading).ok_or_else(lost)?;
                columns.push(WholeColumn { path, added: field.added });
            }
        }
        for source in ready.job.sources {
            if source.is_of_bibliographic_records() && !source.holds_whole_records() {
                return Err(Error::Request(format!(
                    "a record of {} makes several rows (each under [source]), so it cannot be written back as one\n  take each out of the mapping",
                    source.name
                )));
            }
        }
        Ok(Some(Self { sources: ready.job.sources, columns, leader, as_lines: *as_lines, at: None }))
    }

    /// The record at a place with the values of these cells.
    ///
    /// # Errors
    /// [`Error::Request`] where the format has no room for it; whatever stops reading the source.
    pub(crate) fn record(&mut self, place: Place, cells: &[u8]) -> Result<Vec<u8>> {
        let cells = cells_in(cells)?;
        let source = self.sources.get(place.source.index());
        let original = match source.filter(|source| source.holds_whole_records()) {
            Some(source) => Some(self.original(source, place)?),
            None => None,
        };
        let are_lines = source.is_some_and(Source::has_records_as_lines);
        let name = source.map_or("", |source| source.name.as_str());
        let wrong =
            |says: String| Error::Request(format!("row {} of {name} cannot be written: {says}", place.row));
        let mut whole = match &original {
            Some(bytes) if are_lines => WholeRecord::read_lines(bytes).map_err(wrong)?,
            Some(bytes) => WholeRecord::read(bytes).map_err(wrong)?,
            None => WholeRecord::new(self.leader),
        };
        let filled = self.columns.iter().zip(&cells).filter(|(_, cell)| !cell.is_empty());
        let mut added: Vec<(&str, Vec<(FieldPart, &str)>)> = Vec::new();
        let mut changed = false;
        for (column, cell) in filled {
            changed = true;
            if !column.added {
                whole.set(&column.path, cell);
                continue;
            }
            match added.iter_mut().find(|(tag, _)| *tag == column.path.tag) {
                Some((_, values)) => values.push((column.path.part, cell)),
                None => added.push((&column.path.tag, vec![(column.path.part, cell)])),
            }
        }
        added.iter().for_each(|(tag, values)| whole.add(tag, values));
        match original {
            // A record in which nothing is set stays as it is, to its last byte.
            Some(bytes) if !changed && are_lines == self.as_lines => Ok(bytes),
            _ if self.as_lines => Ok(whole.lines()),
            _ => whole.bytes().map_err(wrong),
        }
    }

    /// The record of a row as its source has it. Rows are asked for in their order, mostly.
    fn original(&mut self, source: &Source, place: Place) -> Result<Vec<u8>> {
        let lost =
            || Error::Invariant(format!("record {} of {} is not there any more", place.row, source.name));
        let is_ahead = |at: &Reading| at.source == place.source && at.row < place.row.0;
        let mut reading = match self.at.take().filter(is_ahead) {
            Some(reading) => reading,
            None => Reading {
                source: place.source,
                records: source.record_bytes().ok_or_else(lost)?,
                row: source.last_header_row(),
            },
        };
        loop {
            let read = reading.records.next_record().map_err(Error::reading(Path::new(&source.name)))?;
            let record = read.ok_or_else(lost)?;
            reading.row += 1;
            if Row(reading.row) == place.row {
                self.at = Some(reading);
                return Ok(record);
            }
        }
    }
}
