//! A whole batch written: the sink that fills a batch folder.

use std::path::{Path, PathBuf};

use super::by_group::GroupCounts;
use super::choices::choices;
use super::compared::ComparedList;
use super::earlier_rows::earlier_rows;
use super::own_words::OwnWords;
use super::pages::{BatchFacts, GroupPageMaker, PageMaker, pages};
use super::receipt::ReceiptLoaded;
use super::room::{refuse_too_little_room, with_what_is_needed};
use super::rows::RowsList;
use super::whole_records::WholeRecords;
use super::{companion, control};
use crate::PastBatch;
use crate::{
    Again, BatchFolder, ChangeCounts, ChangeKind, Compared, FindingsList, NotSent, Place, Ready, Receipt,
    RecordFiles, Removal, Sent, Sink, Summary, UploadFiles, ValueLists,
};
use dusk_conforming::{Bound, ChangeKey, Single};
use dusk_database::TableLoad;
use dusk_evidence::{ColumnId, Error, Finding, Id as _, Kind, Result, Slot, SourceId};
use dusk_files::{Held, OutputFile, write_whole};
use dusk_held::{HeldRecord, HeldRecords};
use dusk_memory::RecordHash;
use dusk_rejects::{RejectLayout, RejectsBook, RejectsList};
use dusk_sources::{Patch, Progress, RowCells};

/// What the batch remembers, for the next month.
pub(crate) const MEMORY: &str = "memory.json";

/// A batch to be made.
#[derive(Clone, Copy)]
pub struct NewBatch<'b> {
    /// Where its folder goes.
    pub path: &'b Path,
    /// Who makes it.
    pub by: &'b str,
    /// The batch whose place it takes, which is put aside.
    pub replaces: Option<&'b Path>,
    /// The last batch of the same mapping.
    pub last: Option<(&'b PastBatch, &'b Receipt)>,
    /// The batch whose rest it sends.
    pub follows: Option<&'b str>,
    /// What it is for, where it is about records that were sent before.
    pub purpose: Option<&'b str>,
    /// How many records the target may be told to remove, where somebody has said so.
    pub removes: Option<u64>,
    /// Whether a batch without a row that holds a record is made.
    pub may_be_empty: bool,
    /// Makes `report.html`, where one is wanted.
    pub page: Option<&'b PageMaker<'b>>,
    /// Makes a page about each group, where the upload is divided and pages about groups are wanted.
    pub group_page: Option<&'b GroupPageMaker<'b>>,
}

impl<'b> NewBatch<'b> {
    /// A batch at a place where nothing is yet, made by nobody in particular.
    pub fn at(path: &'b Path) -> Self {
        Self {
            path,
            by: "",
            replaces: None,
            last: None,
            follows: None,
            purpose: None,
            removes: None,
            may_be_empty: true,
            page: None,
            group_page: None,
        }
    }
}

/// Runs the whole job and writes the batch folder, whole or not at all.
///
/// # Errors
/// [`Error::Exists`](dusk_evidence::Error::Exists) when something is at its place; whatever stops reading or
/// writing. Then no folder is there.
pub fn write_batch(ready: &Ready<'_>, batch: &NewBatch<'_>, progress: &Progress<'_>) -> Result<MadeBatch> {
    written(ready, batch, progress).map_err(|error| with_what_is_needed(error, ready, batch.path))
}

fn written(ready: &Ready<'_>, batch: &NewBatch<'_>, progress: &Progress<'_>) -> Result<MadeBatch> {
    if !ready.open.is_empty() {
        return Err(Error::Undecided(ready.open.clone()));
    }
    let there_before = batches_at(batch.path);
    let folder = match batch.replaces {
        Some(old) => BatchFolder::begin_replacing(batch.path, old)?,
        None => BatchFolder::begin(batch.path)?,
    };
    let (sources, target) = (ready.job.sources, ready.job.target);
    refuse_too_little_room(ready, batch.path)?;
    let prints = sources.iter().map(|source| ready.job.mapping.row_hashes(source, target)).collect();
    let layout = RejectLayout::new(folder.name(), sources, prints);
    let mut writer = BatchWriter {
        upload: UploadFiles::create(target, folder.work(), &folder.name(), ready.job.today)?,
        findings: FindingsList::create(folder.work(), sources)?,
        rejects: RejectsList::create(folder.work(), &layout)?,
        book: RejectsBook::new(folder.work(), layout.clone(), choices(ready), ready.job.today),
        layout,
        columns: sources.iter().map(|source| ready.plan.bind(source)).collect::<Result<_>>()?,
        ready,
        changes: ChangeCounts::new(folder.work()),
        values: ValueLists::default(),
        records: RecordFiles::new(folder.work(), ready),
        rows: RowsList::create(folder.work(), ready)?,
        compared: ComparedList::new(folder.work(), ready),
        name: folder.name(),
        table: None,
        whole: WholeRecords::new(ready)?,
        groups: match batch.group_page {
            Some(_) => GroupCounts::new(ready)?,
            None => None,
        },
    };
    let summary = ready.run(&mut writer, progress)?;
    if !batch.may_be_empty {
        summary.refuse_no_rows(sources)?;
    }
    refuse_broken_batch(&summary)?;
    refuse_removals(ready, &summary, batch.removes)?;
    let notes = writer.notes();
    let groups = writer.groups.take().map(GroupCounts::finish).unwrap_or_default();
    let compared = writer.compared.facts();
    let Closed { outputs, table, kinds } = writer.close(&folder, progress)?;
    let mut outputs = outputs;
    let control = control::write(ready, (folder.work(), &folder.name()), &outputs, &summary)?;
    outputs.extend(control);
    outputs.extend(companion::write(ready, folder.work())?);
    let loaded = table.as_ref().map(|table| ReceiptLoaded::of(&table.name(), table.rows()));
    let mut receipt = Receipt::of(ready, &summary, (folder.name(), batch.by), outputs)?;
    receipt.loaded.clone_from(&loaded);
    receipt.follows = batch.follows.map(str::to_owned);
    receipt.purpose = batch.purpose.map(str::to_owned);
    let news = |(past, last): (&PastBatch, &Receipt)| {
        past.news(last, (&receipt, &summary), target, ready.job.mapping)
    };
    let news = batch.last.map(news).unwrap_or_default();
    if ready.job.mapping.stops_unlike && !news.unlike.is_empty() {
        return Err(Error::Unlike(news.unlike));
    }
    let drift = news.all();
    receipt.outputs.push(remember(&summary, folder.work())?);
    let pages = {
        let facts = BatchFacts {
            batch: &folder.name(),
            by: batch.by,
            ready,
            summary: &summary,
            outputs: &receipt.outputs,
            changes: &kinds,
            drift: &drift,
            compared: ready.job.held.map(|_| &compared),
        };
        pages((batch.page, batch.group_page), &facts, &groups)
    };
    for (name, page) in pages {
        let path = folder.work().join(&name);
        write_whole(&path, page.as_bytes())?;
        receipt.outputs.push(OutputFile { rows: None, ..OutputFile::of_file(&path, &name, 0)? });
    }
    receipt.write(folder.work())?;
    // Of two runs at once the first is the batch of a source, and the other says so before it sends anything.
    let _held = Held::file(batch.path)?;
    refuse_made_meanwhile(&receipt, batch.path, &there_before)?;
    folder.refuse_where_taken()?;
    // Everything else is on the disk: now the rows may stay in the table.
    if let Some(table) = table {
        folder.about_to_load(&table.name())?;
        table.commit()?;
    }
    Ok(MadeBatch { summary, folder: folder.finish()?, outputs: receipt.outputs, drift, notes, loaded })
}

/// The folders beside a batch.
fn batches_at(batch: &Path) -> Vec<PathBuf> {
    let parent = batch.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
    std::fs::read_dir(parent).into_iter().flatten().flatten().map(|entry| entry.path()).collect()
}

/// Stops where another run has made a batch of one of these sources, for the same target, since this one began.
fn refuse_made_meanwhile(receipt: &Receipt, batch: &Path, there_before: &[PathBuf]) -> Result<()> {
    for other in batches_at(batch).into_iter().filter(|path| !there_before.contains(path)) {
        let Ok(made) = Receipt::read(&other) else { continue };
        let is_unfinished = other.file_name().is_some_and(|name| name.to_string_lossy().starts_with('.'));
        if !is_unfinished && made.target.name == receipt.target.name && made.shares_a_source(receipt) {
            return Err(Error::Request(format!(
                "another run has made {} of the same source meanwhile, so nothing was sent or written",
                other.display()
            )));
        }
    }
    Ok(())
}

/// Writes what the batch remembers of its records.
fn remember(summary: &Summary, folder: &Path) -> Result<OutputFile> {
    let mut json =
        serde_json::to_vec(&summary.memory).map_err(|error| Error::Invariant(error.to_string()))?;
    json.push(b'\n');
    let path = folder.join(MEMORY);
    write_whole(&path, &json)?;
    Ok(OutputFile { rows: None, ..OutputFile::of_file(&path, MEMORY, 0)? })
}

/// Rules over many records are kept by the batch as a whole, or it is not made.
fn refuse_broken_batch(summary: &Summary) -> Result<()> {
    let broken = summary.causes.iter().filter(|cause| cause.kind == Kind::BatchRuleBroken).map(|cause| {
        let group = cause.value.as_deref().unwrap_or("several groups");
        format!("{}, {group}: {}", cause.about, cause.fault.wrong())
    });
    let broken: Vec<String> = broken.collect();
    if broken.is_empty() { Ok(()) } else { Err(Error::BatchRules(broken.join("\n  "))) }
}

/// More records are removed than the description allows only where somebody has said how many.
fn refuse_removals(ready: &Ready<'_>, summary: &Summary, said: Option<u64>) -> Result<()> {
    let removing = ready.job.target.holds.as_ref().and_then(|holds| holds.removing);
    let (Some(most), Some(counts), Some(held)) = (removing, summary.beside, ready.job.held) else {
        return Ok(());
    };
    let (gone, all) = (counts.gone, u64::from(held.len()));
    if gone == 0 {
        return Ok(());
    }
    if counts.unplaced > 0 {
        return Err(Error::Request(format!(
            "{} of the rejected rows have no key that can be read, so it is not known which of the {gone} records are gone; nothing was written\n  correct those rows first, or take remove_gone out of [holds]",
            counts.unplaced
        )));
    }
    if gone <= most.of(all) || said == Some(gone) {
        return Ok(());
    }
    let why = said.map_or_else(String::new, |said| format!("; --remove says {said}"));
    Err(Error::Request(format!(
        "{gone} of the {all} records that the target holds are not in this export, and remove_at_most under [holds] lets a batch remove {}{why}; nothing was written\n  look at them with dusk compare --gone; if they should be removed, add --remove {gone}",
        most.of(all)
    )))
}

/// What is in a batch whose files are closed.
struct Closed {
    outputs: Vec<OutputFile>,
    /// The rows that wait to stay in a table.
    table: Option<Box<dyn TableLoad>>,
    /// How many changes of each kind there are.
    kinds: Vec<ChangeKind>,
}

impl BatchWriter<'_> {
    /// What a batch has otherwise, and this one has not.
    fn notes(&self) -> Vec<String> {
        let wide =
            "there is no rejects.xlsx, since a row has more cells than a sheet has columns; edit rejects.csv";
        if self.book.is_too_wide() { vec![wide.to_owned()] } else { Vec::new() }
    }

    /// Closes every file.
    fn close(self, folder: &BatchFolder, progress: &Progress<'_>) -> Result<Closed> {
        let Self {
            upload,
            findings,
            rejects,
            book,
            changes,
            values,
            records,
            rows,
            compared,
            ready,
            layout,
            table,
            ..
        } = self;
        let (mut outputs, changes) = std::thread::scope(|scope| -> Result<_> {
            // The changes are written and the disk takes the other lists while the earlier rows are looked for.
            let changes = scope.spawn(|| changes.write(folder.work(), ready));
            let mut lists = upload.finish()?;
            let others = [rejects.finish()?, findings.finish()?, rows.finish()?];
            let records = records.finish()?.into_iter().chain(compared.finish()?);
            let earlier = earlier_rows(ready, &layout, book.doubles(), progress)?;
            lists.extend(book.finish(earlier)?);
            lists.extend(others.into_iter().chain(records));
            let stopped = |_| Error::Invariant("the thread that writes the changes stopped".into());
            Ok((lists, changes.join().map_err(stopped)??))
        })?;
        let (changes, kinds) = changes;
        outputs.push(changes);
        outputs.extend(values.write(folder.work(), ready.job.sources)?);
        Ok(Closed { outputs, table, kinds })
    }
}

/// A batch that was made.
#[derive(Debug, Clone)]
pub struct MadeBatch {
    /// What the run comes to.
    pub summary: Summary,
    /// Where the folder is.
    pub folder: PathBuf,
    /// What is in it.
    pub outputs: Vec<OutputFile>,
    /// What is new since the last batch of the same mapping.
    pub drift: Vec<String>,
    /// What a batch has otherwise, and this one has not.
    pub notes: Vec<String>,
    /// What was done to a table, where one is loaded.
    pub loaded: Option<ReceiptLoaded>,
}

struct BatchWriter<'t> {
    ready: &'t Ready<'t>,
    /// The places of the plan's headings in each source, for each repeat.
    columns: Vec<Vec<Bound>>,
    upload: UploadFiles<'t>,
    findings: FindingsList,
    layout: RejectLayout,
    rejects: RejectsList,
    book: RejectsBook,
    changes: ChangeCounts,
    values: ValueLists,
    records: RecordFiles<'t>,
    rows: RowsList,
    compared: ComparedList<'t>,
    /// The name of the batch.
    name: String,
    /// The table with the records in it, where one is loaded.
    table: Option<Box<dyn TableLoad>>,
    /// Makes whole records, where the upload wants them.
    whole: Option<WholeRecords<'t>>,
    /// What becomes of each group, where a page is wanted about it.
    groups: Option<GroupCounts<'t>>,
}

impl BatchWriter<'_> {
    /// The columns of a source that a finding is about.
    fn columns_of(&self, source: SourceId, finding: &Finding) -> Vec<ColumnId> {
        let Some(numbers) = self.columns.get(source.index()) else { return Vec::new() };
        let plan = &self.ready.plan;
        let label = |place: usize| plan.repeat.as_ref().and_then(|repeat| repeat.labels.get(place));
        let at = (0..numbers.len()).find(|place| label(*place) == Some(&finding.repeat)).unwrap_or(0);
        let place = |slot: &Slot| numbers.get(at)?.get(*slot).copied();
        let fields = match finding.fault.kind() {
            Kind::RuleBroken => {
                let rule = plan.row_rules.iter().find(|rule| rule.text.name == finding.about);
                rule.map_or_else(Vec::new, |rule| rule.fields())
            }
            Kind::DuplicateKey | Kind::KeyWithOtherFacts => {
                plan.fields.with_ids().filter(|(_, plan)| plan.field.key).map(|(id, _)| id).collect()
            }
            _ => finding.field.into_iter().collect(),
        };
        let slots = fields
            .iter()
            .filter_map(|field| plan.fields.get(*field))
            .flat_map(|plan| plan.input.columns().to_vec());
        slots.filter_map(|slot| place(&slot)).collect()
    }
}

impl Sink for BatchWriter<'_> {
    fn accepted(&mut self, sent: &Sent<'_>) -> Result<()> {
        let whole = match &mut self.whole {
            Some(whole) => Some(whole.record(sent.place, sent.record)?),
            None => None,
        };
        let at = self.upload.append(whole.as_deref().unwrap_or(sent.record), sent.split)?;
        if let Some(groups) = &mut self.groups {
            groups.sent(sent, at.file);
        }
        self.rows.sent(sent, at)
    }

    fn lists_rows(&self) -> bool {
        true
    }

    fn adds_up(&self) -> bool {
        true
    }

    fn not_sent(&mut self, place: Place, key: &str, why: &NotSent) -> Result<()> {
        self.rows.not_sent(place, key, why)
    }

    fn tries_table(&self) -> bool {
        true
    }

    fn batch(&self) -> &str {
        &self.name
    }

    fn loaded(&mut self, table: Box<dyn TableLoad>) -> Result<()> {
        self.table = Some(table);
        Ok(())
    }

    fn compared(&mut self, compared: &Compared<'_>) -> Result<()> {
        self.compared.compared(compared)
    }

    fn lists_gone(&self) -> bool {
        true
    }

    fn gone(&mut self, held: &HeldRecords, record: &HeldRecord, is_removed: bool) -> Result<()> {
        self.compared.gone(held, record, is_removed)
    }

    fn takes_removals(&self) -> bool {
        true
    }

    fn removal(&mut self, removal: &Removal<'_>) -> Result<()> {
        let at = self.upload.append(removal.record, removal.split)?;
        self.rows.removed(removal, at)
    }

    fn record(&mut self, record: RecordHash) -> Result<()> {
        self.records.record(record)
    }

    fn again(&mut self, place: Place, key: &str, again: Again) -> Result<()> {
        self.records.again(place, key, again)
    }

    fn rejected(&mut self, source: SourceId, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        let Some(opened) = self.ready.job.sources.get(source.index()) else { return Ok(()) };
        let words = OwnWords::new(self.ready);
        let said_of = |finding: &Finding| {
            let columns = self.columns_of(source, finding);
            let said = words.said(opened, row, &columns, finding);
            (columns, said)
        };
        let rejected = self.layout.row((source, opened), row, findings, &said_of);
        if let (Some(groups), Some(columns)) = (&mut self.groups, self.columns.get(source.index())) {
            groups.rejected((self.ready, columns), source, row, findings)?;
        }
        self.rejects.append(&rejected)?;
        self.book.append(rejected)
    }

    fn finding(&mut self, finding: &Finding) -> Result<()> {
        self.values.note(finding);
        self.findings.append(finding)
    }

    fn new_change(&mut self, worker: usize, change: ChangeKey) -> Result<()> {
        self.changes.announce(worker, change);
        Ok(())
    }

    fn changed(&mut self, worker: usize, numbers: &[u32], place: Place) -> Result<()> {
        self.changes.made(worker, numbers, place);
        Ok(())
    }

    fn changed_once(&mut self, change: &Single, place: Place) -> Result<()> {
        self.changes.made_once(change, place)
    }

    fn corrected(&mut self, place: Place, cells: &[Patch]) -> Result<()> {
        self.changes.corrected(place, cells);
        Ok(())
    }
}
