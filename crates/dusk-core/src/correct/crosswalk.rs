//! Crosswalks: remembered translations, one file per field, `crosswalks/<field>.csv` beside the
//! mapping. Every line says who decided it and when.

use std::path::{Path, PathBuf};

use hashbrown::HashMap;

use crate::files::{List, Problems, write_whole};
use crate::target::{Field, FieldType, fold};
use crate::{Error, Result};

/// The columns of a crosswalk file.
const COLUMNS: [&str; 6] = ["value", "within", "code", "by", "on", "note"];

/// One remembered translation.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct CrosswalkLine {
    /// The value as the source has it.
    pub value: String,
    /// The parent code inside which the translation holds; empty for anywhere.
    pub within: String,
    /// What it means: a code, or a word for true or false.
    pub code: String,
    /// Who decided.
    pub by: String,
    /// The day of the decision, as yyyy-MM-dd.
    pub on: String,
    /// Why, in the steward's words.
    pub note: String,
}

/// The remembered translations of one field.
#[derive(Debug, Clone, Default)]
pub struct Crosswalk {
    lines: Vec<CrosswalkLine>,
    places: HashMap<(String, String), usize>,
}

/// Where the crosswalk of a field stands beside the mapping at `mapping`.
pub fn crosswalk_path(mapping: &Path, field: &str) -> PathBuf {
    let folder = mapping.parent().unwrap_or(Path::new(""));
    folder.join("crosswalks").join(format!("{field}.csv"))
}

impl Crosswalk {
    /// Reads the crosswalk at `path`, which belongs to `field`.
    ///
    /// # Errors
    /// [`Error::File`] when the file is there but cannot be read.
    pub fn read(path: &Path, field: &Field, problems: &mut Problems) -> Result<Self> {
        let mut crosswalk = Self::default();
        let Some(list) = List::read(path, &["value", "code"], &["within", "by", "on", "note"], problems)?
        else {
            return Ok(crosswalk);
        };
        for row in &list.rows {
            let [value, code, within, by, on, note] =
                [0, 1, 2, 3, 4, 5].map(|index| row.cell(index).to_owned());
            if value.is_empty() {
                problems.at(&list.name, Some(row.line), "has no value to translate");
                continue;
            }
            if let Err((says, known)) = is_answer(field, &code, &within) {
                problems
                    .at(&list.name, Some(row.line), says)
                    .suggest(&code, known.iter().map(String::as_str));
            }
            let line = CrosswalkLine { value, within, code, by, on, note };
            match crosswalk
                .find(&line.value, Some(&line.within).filter(|within| !within.is_empty()).map(String::as_str))
            {
                Some(first) if first.within == line.within => {
                    let code = first.code.clone();
                    problems
                        .at(&list.name, Some(row.line), format!("translates \"{}\" again", line.value))
                        .hint(format!(
                            "an earlier line says {code}; case and spaces do not count; keep one of the two"
                        ));
                }
                _ => crosswalk.push(line),
            }
        }
        Ok(crosswalk)
    }

    /// The lines in the order of the file.
    pub fn lines(&self) -> &[CrosswalkLine] {
        &self.lines
    }

    /// The line that translates `value`, one for this `parent` before one for any. Case and white
    /// space do not count.
    pub fn find(&self, value: &str, parent: Option<&str>) -> Option<&CrosswalkLine> {
        if self.lines.is_empty() {
            return None;
        }
        let value = fold(value);
        let inside = parent.and_then(|parent| self.places.get(&(value.clone(), parent.to_owned())));
        inside.or_else(|| self.places.get(&(value, String::new()))).and_then(|place| self.lines.get(*place))
    }

    /// Adds a line, or replaces the one for the same value and parent; gives back the replaced one.
    ///
    /// # Errors
    /// [`Error::Request`] when the code is none that the field may hold.
    pub fn set(&mut self, line: CrosswalkLine, field: &Field) -> Result<Option<CrosswalkLine>> {
        if let Err((says, known)) = is_answer(field, &line.code, &line.within) {
            let mut hint = crate::files::Problems::default();
            hint.at(&field.name, None, says).suggest(&line.code, known.iter().map(String::as_str));
            return Err(Error::Request(hint.to_string()));
        }
        let key = (fold(&line.value), line.within.clone());
        if let Some(old) = self.places.get(&key).and_then(|place| self.lines.get_mut(*place)) {
            return Ok(Some(std::mem::replace(old, line)));
        }
        self.push(line);
        Ok(None)
    }

    /// Takes away the line for this value and parent (empty for anywhere).
    pub fn remove(&mut self, value: &str, within: &str) -> Option<CrosswalkLine> {
        let place = *self.places.get(&(fold(value), within.to_owned()))?;
        let removed = self.lines.remove(place);
        let lines = std::mem::take(&mut self.lines);
        self.places.clear();
        lines.into_iter().for_each(|line| self.push(line));
        Some(removed)
    }

    /// Writes the lines to `path`, whole or not at all.
    ///
    /// # Errors
    /// [`Error::File`] when the file cannot be written.
    pub fn write(&self, path: &Path) -> Result<()> {
        let mut writer = csv::Writer::from_writer(Vec::new());
        let wrong = |error: csv::Error| Error::writing(path)(error.into());
        writer.write_record(COLUMNS).map_err(wrong)?;
        for line in &self.lines {
            writer
                .write_record([&line.value, &line.within, &line.code, &line.by, &line.on, &line.note])
                .map_err(wrong)?;
        }
        let bytes = writer.into_inner().map_err(|error| Error::writing(path)(error.into_error()))?;
        write_whole(path, &bytes)
    }

    fn push(&mut self, line: CrosswalkLine) {
        self.places.insert((fold(&line.value), line.within.clone()), self.lines.len());
        self.lines.push(line);
    }
}

/// Whether `code` may stand in `field`; if not, why, and what may.
fn is_answer(field: &Field, code: &str, within: &str) -> std::result::Result<(), (String, Vec<String>)> {
    match &field.kind {
        FieldType::Code { list, .. } | FieldType::Codes { list, .. } => {
            let inside = |known: &&crate::target::Code| within.is_empty() || known.within == within;
            if list.codes().iter().filter(inside).any(|known| known.code == code) {
                return Ok(());
            }
            let known = list.codes().iter().filter(inside).map(|known| known.code.clone()).collect();
            let place = if within.is_empty() { String::new() } else { format!(" within \"{within}\"") };
            Err((format!("\"{code}\" is no code of {}{place}", list.name), known))
        }
        FieldType::Boolean { yes, no } => {
            if code == yes || code == no {
                Ok(())
            } else {
                Err((format!("\"{code}\" is neither \"{yes}\" nor \"{no}\""), vec![yes.clone(), no.clone()]))
            }
        }
        _ => Err((
            format!("{} is of type {}, which takes no crosswalk", field.name, field.kind.word()),
            Vec::new(),
        )),
    }
}
