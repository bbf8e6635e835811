//! `dusk correct`: single cells, brought back from a spreadsheet program or given by hand.

use std::io::{BufRead as _, IsTerminal as _};
use std::path::{Path, PathBuf};

use dusk_core::decisions::{
    CorrectionFile, DOUBLE, ExportedRow, KEEP_OUT, WHOLE_ROW, corrections_path, exported_row, is_double,
};
use dusk_core::description::Target;
use dusk_core::evidence::{Id as _, Problems, Row, SourceId};
use dusk_core::files::{Held, beside};
use dusk_core::mapping;
use dusk_core::mapping::Mapping;
use dusk_core::rejects::{BroughtBack, ChangedCell, Compared, Comparison, compare, is_rejects, read_back};
use dusk_core::run::{Receipt, SignedRecord, apply_corrections, is_sign_off, past_batches, read_sign_off};
use dusk_core::sources::{Source, Tray, in_order, leads_to_a_file};
use dusk_core::values::nearest;

use super::history::batches_beside;
use crate::args::{CorrectArgs, Format};
use crate::holding::hold_corrections;
use crate::loaded::{open, threads, today, user_name};
use crate::outcome::{Ended, Failure, Outcome, print, print_json, say};
use crate::show::{changes_json, changes_table, corrections_json, corrections_table, visible};

pub(super) fn run(args: &CorrectArgs, quiet: bool) -> Outcome {
    let (mapping, target) = mapping::read(&args.mapping.mapping)?;
    let desk = Desk { args, mapping: &mapping, target: &target, quiet };
    match (args.row, &args.column) {
        (Some(row), Some(column)) => desk.one_cell(row, column),
        (Some(row), None) => desk.whole_row(row),
        _ if args.undo => desk.undo(),
        _ if is_sign_off(&args.file) => desk.bring_back_signed(),
        _ if is_rejects(&args.file) => desk.bring_back(),
        _ => desk.list(),
    }
}

/// How many problems are listed one by one.
const MOST_PROBLEMS: usize = 12;

struct Desk<'a> {
    args: &'a CorrectArgs,
    mapping: &'a Mapping,
    target: &'a Target,
    quiet: bool,
}

impl Desk<'_> {
    fn open(&self, path: &Path) -> Result<Source, Failure> {
        Ok(open(path, self.mapping, &self.mapping.known(self.target), self.quiet)?)
    }

    fn corrections_of(&self, source: &str) -> Result<CorrectionFile, Failure> {
        let mut problems = Problems::default();
        let file = CorrectionFile::read(&corrections_path(&self.mapping.path, source), &mut problems)?;
        Ok(problems.or(file)?)
    }

    fn by(&self) -> String {
        self.args.by.clone().unwrap_or_else(user_name)
    }

    /// Corrects one cell, or forgets that it was corrected.
    fn one_cell(&self, row: u64, column: &str) -> Outcome {
        let source = self.open(&self.args.file)?;
        let Some(place) = source.column(column) else {
            let hint = match nearest(column, source.columns.iter().map(String::as_str)) {
                Some(near) => format!("did you mean \"{near}\"?"),
                None => format!("its columns are {}", source.columns.join(", ")),
            };
            return Err(Failure::Stopped(format!(
                "{} has no column \"{}\"\n  {hint}",
                source.name,
                visible(column)
            )));
        };
        let exported = self.exported(&source, row)?;
        let was = exported.cells.get(place.index()).cloned().unwrap_or_default();
        let file = self.corrections_of(&source.name)?;
        let earlier = file.find(Row(row), exported.print, column).map(|earlier| earlier.now.clone());
        let now = match (&self.args.value, self.args.forget) {
            (_, true) if earlier.is_none() => {
                return Err(Failure::Stopped(format!(
                    "row {row}, {column}: nothing was corrected there\n  dusk correct {} lists what was",
                    source.name
                )));
            }
            (_, true) => was.clone(),
            (Some(value), false) => value.clone(),
            (None, false) => {
                return Err(Failure::Stopped(format!(
                    "row {row}, {column} holds \"{}\": write the corrected value, \"\" for a blank",
                    visible(&was)
                )));
            }
        };
        let change = ChangedCell {
            source: SourceId::FIRST,
            row: Row(row),
            print: exported.print,
            column: column.to_owned(),
            before: earlier.unwrap_or_else(|| was.clone()),
            was,
            now,
        };
        if let Some(why) = change.cannot_stand_in(&source) {
            return Err(Failure::Stopped(format!("row {row}, {column}: \"{}\" {why}", visible(&change.now))));
        }
        self.record(change, &source.name)
    }

    /// Keeps a whole row out, or forgets that it is kept out.
    fn whole_row(&self, row: u64) -> Outcome {
        let source = self.open(&self.args.file)?;
        let print = self.exported(&source, row)?.print;
        let prints = self.mapping.row_hashes(&source, self.target);
        let was = if is_double(&source, &prints, print)? { DOUBLE } else { "" };
        let file = self.corrections_of(&source.name)?;
        let earlier = file.find(Row(row), print, WHOLE_ROW).map(|earlier| earlier.now.clone());
        if self.args.forget && earlier.is_none() {
            return Err(Failure::Stopped(format!("row {row} of {} is not kept out", source.name)));
        }
        let change = ChangedCell {
            source: SourceId::FIRST,
            row: Row(row),
            print,
            column: WHOLE_ROW.into(),
            was: was.into(),
            before: earlier.unwrap_or_else(|| was.into()),
            now: if self.args.forget { was } else { KEEP_OUT }.into(),
        };
        self.record(change, &source.name)
    }

    /// A row as the file has it.
    fn exported(&self, source: &Source, row: u64) -> Result<ExportedRow, Failure> {
        let prints = self.mapping.row_hashes(source, self.target);
        exported_row(source, &prints, row)?.ok_or_else(|| {
            let first = source.header_row + source.header_rows;
            Failure::Stopped(format!(
                "{} has no record in row {row}; the first one is in row {first}",
                source.name
            ))
        })
    }

    /// Records one change, and shows it.
    fn record(&self, change: ChangedCell, source: &str) -> Outcome {
        let on = today(self.args.mapping.today).to_string();
        let (held, mut file) = hold_corrections(&corrections_path(&self.mapping.path, source), None)?;
        file.set(change.correction(&self.by(), &on, &self.args.note));
        file.write(&held)?;
        let changes = [change];
        match self.args.format {
            Format::Json => print_json(&changes_json(&changes, &[source]))?,
            Format::Text => print(&format!(
                "{}recorded in {}\n",
                changes_table(&changes, &[source]),
                file.path.display()
            ))?,
        }
        Ok(Ended::AllAccepted)
    }

    /// What was corrected in a source, and what has become of it.
    fn list(&self) -> Outcome {
        let mut sources = [self.open(&self.args.file)?];
        let found = apply_corrections(self.mapping, self.target, &mut sources, threads(), &|_, _| {})?;
        match self.args.format {
            Format::Json => print_json(&corrections_json(&found))?,
            Format::Text if found.is_empty() => print(
                "nothing was corrected yet: dusk correct SOURCE ROW COLUMN VALUE, or dusk correct rejects.xlsx\n",
            )?,
            Format::Text => print(&corrections_table(&found))?,
        }
        Ok(Ended::AllAccepted)
    }

    /// Takes back what was recorded of the rejects brought back last: of those sources, or of the source named.
    fn undo(&self) -> Outcome {
        let names = match is_rejects(&self.args.file) {
            true => sources_named(&read_back(&self.args.file)?),
            false => vec![self.args.file.display().to_string()],
        };
        let mut undone = Vec::new();
        for name in &names {
            let path = corrections_path(&self.mapping.path, &self.find_source(name).display().to_string());
            if CorrectionFile::undo(&path)? {
                undone.push(path.display().to_string());
            }
        }
        if undone.is_empty() {
            return Err(Failure::Stopped(format!("nothing was brought back of {}", names.join(", "))));
        }
        print(&format!("taken back: {} is as it was before\n", undone.join(", ")))?;
        Ok(Ended::AllAccepted)
    }

    /// Brings edited rejects back.
    fn bring_back(&self) -> Outcome {
        let back = read_back(&self.args.file)?;
        let names = sources_named(&back);
        let mut names: Vec<&str> = names.iter().map(String::as_str).collect();
        // A name that leads nowhere was edited, which is said of its row.
        let known = self.sources_of_batches()?;
        names.retain(|name| self.may_be_source(name, &known) && leads_to_a_file(&self.find_source(name)));
        let sources =
            names.iter().map(|name| self.open(&self.find_source(name))).collect::<Result<Vec<_>, _>>()?;
        let mut compared = Vec::new();
        for (name, source) in names.iter().zip(&sources) {
            compared.push(Compared {
                name: (*name).to_owned(),
                prints: self.mapping.row_hashes(source, self.target),
                corrections: self.corrections_of(&source.name)?,
                source,
            });
        }
        let mut done = compare(&back, &compared)?;
        self.check_batch(&back, &mut done);
        done.problems.each_once();
        done.problems.keep_first(MOST_PROBLEMS);
        if !done.problems.is_empty() {
            return Err(Failure::Stopped(format!("{}\n  nothing was recorded", done.problems)));
        }
        self.show(&back, &done, &names)?;
        if done.changes.is_empty() {
            return Ok(Ended::AllAccepted);
        }
        if !self.args.yes && !self.agreed(done.changes.len())? {
            return Err(Failure::Stopped("nothing was recorded".into()));
        }
        self.record_changes(&done.changes, &compared)
    }

    /// Brings a workbook back in which somebody has said yes or no to each record: what is not agreed to is kept out.
    fn bring_back_signed(&self) -> Outcome {
        let signed = read_sign_off(&self.args.file)?;
        let no: Vec<&SignedRecord> = signed.iter().filter(|record| record.goes_in == Some(false)).collect();
        let yes = signed.iter().filter(|record| record.goes_in == Some(true)).count();
        let mut names: Vec<&str> = no.iter().map(|record| record.source.as_str()).collect();
        names.sort_unstable();
        names.dedup();
        let known = self.sources_of_batches()?;
        if let Some(name) = names.iter().find(|name| !self.may_be_source(name, &known)) {
            return Err(Failure::Stopped(format!(
                "the export \"{}\" is not beside the mapping and in no batch, so nothing was recorded\n  bring the workbook back where it was made",
                visible(name)
            )));
        }
        let sources =
            names.iter().map(|name| self.open(&self.find_source(name))).collect::<Result<Vec<_>, _>>()?;
        let mut compared = Vec::new();
        let mut changes = Vec::new();
        for ((place, name), source) in names.iter().enumerate().zip(&sources) {
            let own = no.iter().filter(|record| record.source == *name).copied();
            changes.extend(self.kept_out(SourceId::new(place), source, own)?);
            compared.push(Compared {
                name: (*name).to_owned(),
                prints: self.mapping.row_hashes(source, self.target),
                corrections: self.corrections_of(&source.name)?,
                source,
            });
        }
        let file = visible(&self.args.file.display().to_string()).into_owned();
        print(&format!("{file}: {yes} agreed to, {} not\n", no.len()))?;
        if changes.is_empty() {
            return Ok(Ended::AllAccepted);
        }
        print(&changes_table(&changes, &names))?;
        if !self.args.yes && !self.agreed(changes.len())? {
            return Err(Failure::Stopped("nothing was recorded".into()));
        }
        self.record_changes(&changes, &compared)
    }

    /// The rows of a source that somebody has not agreed to, each kept out.
    fn kept_out<'s>(
        &self,
        id: SourceId,
        source: &Source,
        records: impl Iterator<Item = &'s SignedRecord>,
    ) -> Result<Vec<ChangedCell>, Failure> {
        let prints = self.mapping.row_hashes(source, self.target);
        let hash = hash_of(source)?;
        let mut changes = Vec::new();
        for record in records {
            if !hash.starts_with(&record.export) || record.export.is_empty() {
                return Err(Failure::Stopped(format!(
                    "{}, row {}: {} is not the export that this workbook was made from, so nothing was recorded\n  make the workbook anew with dusk compare {} --sign-off",
                    self.args.file.display(),
                    record.at,
                    source.name,
                    source.name
                )));
            }
            let print = self.exported(source, record.row)?.print;
            let was = if is_double(source, &prints, print)? { DOUBLE } else { "" };
            let earlier = self.corrections_of(&source.name)?;
            if earlier.find(Row(record.row), print, WHOLE_ROW).is_some_and(|known| known.now == KEEP_OUT) {
                continue;
            }
            changes.push(ChangedCell {
                source: id,
                row: Row(record.row),
                print,
                column: WHOLE_ROW.into(),
                was: was.into(),
                before: was.into(),
                now: KEEP_OUT.into(),
            });
        }
        Ok(changes)
    }

    /// Writes the corrections of each source.
    fn record_changes(&self, changes: &[ChangedCell], compared: &[Compared<'_>]) -> Outcome {
        let (by, on) = (self.by(), today(self.args.mapping.today).to_string());
        let mut files: Vec<(Held, CorrectionFile)> = Vec::new();
        for (place, compared) in compared.iter().enumerate() {
            let place = SourceId::new(place);
            let mut own = changes.iter().filter(|change| change.source == place).peekable();
            if own.peek().is_none() {
                continue;
            }
            // What others have recorded meanwhile stays.
            let (held, mut file) =
                hold_corrections(&compared.corrections.path, files.first().map(|(held, _)| held))?;
            for change in own {
                file.set(change.correction(&by, &on, &self.args.note));
            }
            files.push((held, file));
        }
        for (held, file) in &files {
            file.write_undoable(held)?;
        }
        if self.args.format == Format::Text {
            let files: Vec<String> = files.iter().map(|(_, file)| file.path.display().to_string()).collect();
            print(&format!("recorded in {}; now run check or conform again\n", files.join(", ")))?;
        }
        Ok(Ended::AllAccepted)
    }

    /// The sources that the receipts name, of the batches beside the mapping and of the one that the file lies in.
    fn sources_of_batches(&self) -> Result<Vec<String>, Failure> {
        let batches = past_batches(&batches_beside(&self.mapping.path))?;
        let receipts = batches.into_iter().filter_map(|batch| batch.receipt.ok());
        let own = self.args.file.parent().and_then(|folder| Receipt::read(folder).ok());
        Ok(receipts.chain(own).flat_map(|receipt| receipt.sources).map(|source| source.file).collect())
    }

    /// Whether a file of rejects may name this file as its source: one that a batch was made of, or one beside the
    /// mapping. What anybody may have written into it opens no other file.
    fn may_be_source(&self, name: &str, known: &[String]) -> bool {
        let folder = self.mapping.path.parent().unwrap_or(Path::new(""));
        known.iter().any(|known| known == name) || beside(folder, name).is_ok()
    }

    /// A source by the name that the batch knows: from here, or beside the mapping.
    fn find_source(&self, name: &str) -> PathBuf {
        let folder = self.mapping.path.parent().unwrap_or(Path::new(""));
        let given = PathBuf::from(name);
        let beside = folder.join(&given);
        let by_name = given.file_name().map(|file| folder.join(file));
        [Some(beside), by_name]
            .into_iter()
            .flatten()
            .find(|path| !leads_to_a_file(&given) && leads_to_a_file(path))
            .unwrap_or(given)
    }

    /// Rows of several batches are not brought back together, and rows that are missing are said.
    fn check_batch(&self, back: &BroughtBack, done: &mut Comparison) {
        let written = back.rows.iter().filter(|row| !row.print.is_empty());
        let mut batches: Vec<&str> = written.map(|row| row.batch.as_str()).collect();
        batches.sort_unstable();
        batches.dedup();
        let name = match batches.as_slice() {
            [name] => *name,
            [] => {
                done.remarks.push("there are no rows in it".into());
                return;
            }
            several => {
                done.problems
                    .at(
                        &back.name,
                        None,
                        format!("holds rows of {} batches: {}", several.len(), several.join(", ")),
                    )
                    .hint("bring back the rows of each batch in a file of their own");
                return;
            }
        };
        let beside_file = self.args.file.parent().map(Path::to_path_buf).unwrap_or_default();
        let places = [batches_beside(&self.mapping.path).join(name), beside_file.join(name), beside_file];
        let receipt = places
            .iter()
            .filter_map(|folder| Receipt::read(folder).ok())
            .find(|receipt| receipt.batch == name);
        match receipt {
            None => done.remarks.push(format!(
                "says that it belongs to batch {name}, which is not among the batches here; its rows were found in the source all the same"
            )),
            Some(receipt) => {
                if receipt.is_of_another_mapping(&self.mapping.path).unwrap_or(false) {
                    done.remarks.push(format!(
                        "{} is not as it was when batch {name} was made: what was rejected then may be settled by now, and other rows be rejected",
                        self.mapping.path.display()
                    ));
                }
                let missing = receipt.totals.rejected.saturating_sub(done.rows as u64);
                if missing > 0 && done.problems.is_empty() {
                    done.remarks.push(format!(
                        "{missing} of the {} rejected rows of batch {name} are not in it; nothing changes for them",
                        receipt.totals.rejected
                    ));
                }
            }
        }
    }

    fn show(&self, back: &BroughtBack, done: &Comparison, names: &[&str]) -> Result<(), Failure> {
        if self.args.format == Format::Json {
            return print_json(&serde_json::json!({
                "rows": done.rows, "changes": changes_json(&done.changes, names), "remarks": done.remarks,
            }));
        }
        let mut text = String::new();
        for remark in &done.remarks {
            text.push_str(&format!("note: {}\n", visible(remark)));
        }
        let count = match done.changes.len() {
            0 => "no cell was changed".to_owned(),
            1 => "1 cell was changed".to_owned(),
            count => format!("{count} cells were changed"),
        };
        let rows = if done.rows == 1 { "row" } else { "rows" };
        text.push_str(&format!("{}: {} {rows}, {count}\n", visible(&back.name), done.rows));
        text.push_str(&changes_table(&done.changes, names));
        print(&text)
    }

    fn agreed(&self, count: usize) -> Result<bool, Failure> {
        let what =
            if count == 1 { "this correction".to_owned() } else { format!("these {count} corrections") };
        if !std::io::stdin().is_terminal() {
            return Err(Failure::Stopped(format!(
                "the answer cannot be asked for here, so nothing was recorded\n  add --yes to record {what}"
            )));
        }
        say(&format!("Record {what}? [y/N] "));
        let mut answer = String::new();
        std::io::stdin().lock().read_line(&mut answer)?;
        Ok(matches!(answer.trim().to_lowercase().as_str(), "y" | "yes"))
    }
}

/// The sources that the rows of a file say they are from, each once.
fn sources_named(back: &BroughtBack) -> Vec<String> {
    let mut names: Vec<String> = Vec::new();
    for row in &back.rows {
        if !row.source.is_empty() && !names.contains(&row.source) {
            names.push(row.source.clone());
        }
    }
    names
}

/// The hash of a source as receipts have it.
fn hash_of(source: &Source) -> Result<String, Failure> {
    let identities = in_order(
        std::slice::from_ref(source),
        threads(),
        |_: &mut Tray<()>| {},
        |_| Ok(|_: &mut Tray<()>| {}),
        |_| Ok(()),
    )?;
    Ok(identities.into_iter().next().map_or_else(String::new, |identity| identity.blake3))
}
