//! `dusk explain`: the life of one row or one cell.

use std::path::{Path, PathBuf};

use dusk_core::evidence::{Id as _, Row, SourceId};
use dusk_core::files::OutputFile;
use dusk_core::run::{FoundByKey, ListedRow, PastBatch, explain};
use dusk_core::values::nearest;

use super::history::{batches_beside, swept_batches};
use crate::args::{ExplainArgs, Format};
use crate::loaded::Loaded;
use crate::outcome::{Ended, Failure, Outcome, note, print, print_json};
use crate::show::{Bar, Life, life_json, shell_word};

/// How many rows with one key are named.
const MOST_NAMED: usize = 10;

pub(super) fn run(args: &ExplainArgs, quiet: bool) -> Outcome {
    let loaded = Loaded::read(&args.run, [args.source.as_path()], quiet)?;
    let (wanted, field) = wanted(args)?;
    let field = match field {
        None => None,
        Some(name) => Some(loaded.target.field(name).ok_or_else(|| unknown_field(name, &loaded))?),
    };
    let job = loaded.job();
    let bar = Bar::new(loaded.bytes(), quiet);
    let row = match wanted {
        Wanted::Row(row) => row,
        Wanted::Key(key) => {
            let (_, found) = job.work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
                FoundByKey::find(ready, key, &bar.reader("looking for the key"))
            })?;
            the_one(&found, key, &args.source)?
        }
    };
    let (ready, explanation) = job.work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
        explain(ready, SourceId::FIRST, row, &bar.reader("reading"))
    })?;
    bar.done();
    match args.run.format {
        Format::Json => print_json(&life_json(&ready, &explanation, field))?,
        Format::Text => print(&Life { ready: &ready, explanation: &explanation, field }.to_string())?,
    }
    Ok(Ended::AllAccepted)
}

/// Which row is meant.
enum Wanted<'a> {
    Row(Row),
    Key(&'a str),
}

/// The row or the key that the command line names, and the field.
fn wanted(args: &ExplainArgs) -> Result<(Wanted<'_>, Option<&str>), Failure> {
    let (row, field) = (args.row.as_deref(), args.field.as_deref());
    if let Some(key) = &args.key {
        return Ok((Wanted::Key(key), row.or(field)));
    }
    let Some(row) = row else {
        let source = shell_word(&args.source.display().to_string());
        return Err(Failure::Stopped(format!(
            "nothing says which row of {source} is meant\n  dusk explain {source} ROW takes its number or its key, and dusk explain UPLOAD-FILE:LINE a line of what was uploaded"
        )));
    };
    Ok((row.parse().map_or(Wanted::Key(row), |row| Wanted::Row(Row(row))), field))
}

/// The one row with a key.
fn the_one(found: &FoundByKey, key: &str, source: &Path) -> Result<Row, Failure> {
    let rows = if found.whole.is_empty() { &found.part } else { &found.whole };
    match rows.as_slice() {
        [(source, row, _)] if *source == SourceId::FIRST => Ok(*row),
        [] => Err(Failure::Stopped(format!(
            "no row of {} has the key \"{key}\"\n  a key is written as the upload has it, its parts with \" + \" between them; dusk batches --key looks into the batches that were made",
            source.display()
        ))),
        several => {
            let lines = several.iter().take(MOST_NAMED).map(|(source, row, key)| {
                format!("row {row}{}: {key}", if source.index() == 0 { "" } else { " of another source" })
            });
            let more = several.len().saturating_sub(MOST_NAMED);
            let more = if more == 0 { String::new() } else { format!("\n  and {more} more") };
            Err(Failure::Stopped(format!(
                "{} rows of {} have the key \"{key}\"; name one by its number\n  {}{more}",
                several.len(),
                source.display(),
                lines.collect::<Vec<_>>().join("\n  ")
            )))
        }
    }
}

/// Puts the source and the row into a command that names a line of an upload file.
pub(super) fn find_upload_line(args: &mut ExplainArgs) -> Result<(), Failure> {
    if args.key.is_some()
        || dusk_core::sources::leads_to_a_file(&args.source)
        || args.source == Path::new("-")
    {
        return Ok(());
    }
    let text = args.source.to_string_lossy().into_owned();
    let Some((file, line)) = text.rsplit_once(':').and_then(|(file, line)| Some((file, line.parse().ok()?)))
    else {
        return Ok(());
    };
    let found = UploadLine::find(&batches_beside(&args.run.mapping.mapping), Path::new(file), line)?;
    note(&found.says(file, line));
    let source = PathBuf::from(&found.row.source);
    if !dusk_core::sources::leads_to_a_file(&source) {
        return Err(Failure::Stopped(format!(
            "{} is not here any more, so its row {} cannot be explained\n  put it back, or look at what the batch has of it: dusk batches --key {}",
            source.display(),
            found.row.row,
            shell_word(&found.row.key)
        )));
    }
    found.note_other_source(&source)?;
    // What every run is asked for was said when the batch was made.
    for (name, value) in found.batch.receipt.iter().flat_map(|receipt| &receipt.asked) {
        if !args.run.asked.iter().any(|(known, _)| known == name) {
            args.run.asked.push((name.clone(), value.clone()));
        }
    }
    args.source = source;
    args.field = args.field.take().or(args.row.take());
    args.row = Some(found.row.row.to_string());
    Ok(())
}

/// A line of an upload file of a batch that was made.
struct UploadLine {
    batch: PastBatch,
    /// How many other batches have a file of that name.
    others: usize,
    row: ListedRow,
}

impl UploadLine {
    /// The last batch of a folder that has this upload file.
    fn find(folder: &Path, file: &Path, line: u64) -> Result<Self, Failure> {
        let name = file.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
        // With a folder before it, the file is that of one batch.
        let is_meant = |batch: &PastBatch| {
            let own = batch.path.join("upload").join(&name);
            let is_there = || own.canonicalize().ok() == file.canonicalize().ok();
            file.parent().is_none_or(|parent| parent.as_os_str().is_empty()) || is_there()
        };
        let path = format!("upload/{name}");
        let has = |batch: &PastBatch| {
            batch
                .receipt
                .as_ref()
                .is_ok_and(|receipt| receipt.outputs.iter().any(|output| output.file == path))
        };
        let mut batches: Vec<PastBatch> =
            swept_batches(folder)?.into_iter().filter(|batch| has(batch) && is_meant(batch)).collect();
        let Some(batch) = batches.pop() else {
            return Err(Failure::Stopped(format!(
                "no batch in {} has an upload file {name}\n  dusk batches lists the batches, and dusk batches show their files",
                folder.display()
            )));
        };
        match batch.row_at(&name, line)? {
            Some(row) => Ok(Self { others: batches.len(), batch, row }),
            None => Err(Failure::Stopped(format!(
                "batch {} does not say which rows its lines were: it has no rows.csv with {name} in it\n  it was made before batches listed their rows; dusk conform --again makes it anew",
                batch.name()
            ))),
        }
    }

    fn says(&self, file: &str, line: u64) -> String {
        let others = match self.others {
            0 => String::new(),
            1 => "; another batch has a file of that name as well".to_owned(),
            count => format!("; {count} other batches have a file of that name as well"),
        };
        let (row, batch) = (&self.row, self.batch.name());
        format!("line {line} of {file} is row {} of {} in batch {batch}{others}", row.row, row.source)
    }

    /// Says where the source is not the one that the batch was made of.
    fn note_other_source(&self, source: &Path) -> Result<(), Failure> {
        let Ok(receipt) = &self.batch.receipt else { return Ok(()) };
        let Some(then) = receipt.sources.iter().find(|known| known.file == self.row.source) else {
            return Ok(());
        };
        if OutputFile::of_file(source, &then.file, 0)?.blake3 != then.blake3 {
            note(&format!(
                "{} has changed since batch {} was made: its row {} may be another one now",
                then.file,
                self.batch.name(),
                self.row.row
            ));
        }
        Ok(())
    }
}

fn unknown_field(name: &str, loaded: &Loaded) -> Failure {
    let names: Vec<&str> = loaded.target.fields.iter().map(|field| field.name.as_str()).collect();
    let hint = match nearest(name, names.iter().copied()) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None => format!("its fields are {}", names.join(", ")),
    };
    Failure::Stopped(format!("the target has no field \"{name}\"\n  {hint}"))
}
