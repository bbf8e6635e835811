//! The ordered end of a run: keys, totals, and everything handed to a sink.

use std::ops::Range;

use hashbrown::{HashMap, HashSet};

use super::beside::HeldSeen;
use super::field_totals::FieldTotals;
use super::given::{GivenRecord, GivenRecords, GivenShape, MetAgain};
use super::row_numbers::{RowNumbers, too_many_rows};
use super::table::open_table;
use crate::{
    Again, AgainCounts, Compared, Conformed, NotSent, Place, Ready, RowFate, Sent, Sink, Totals, Withheld,
    WithheldCounts,
};
use dusk_conforming::{Bound, Conformer, Judged, KeyHash, Keys, MetInField, Shape};
use dusk_database::TableLoad;
use dusk_description::{Standing, Tally};
use dusk_evidence::{
    ById, Causes, EarlierRecord, Error, Fact, Fault, FieldId, Finding, Id as _, Kind, RecordFact, Result,
    Row, Severity, SourceId,
};
use dusk_inspecting::DateSigns;
use dusk_mapping::SameKey;
use dusk_memory::{RecordHash, Sample};
use dusk_sources::{Rejoined, RowCells, Tray};

/// Takes the blocks of a run in the order of their rows.
pub(crate) struct OrderedEnd<'r, 's> {
    pub(super) ready: &'r Ready<'r>,
    pub(super) columns: &'r [Vec<Bound>],
    /// Conforms again the few rows of which more has to be said.
    pub(super) conformer: Conformer<'r>,
    pub(super) keys: Keys,
    /// For each record of the block at hand, the row that had its key first.
    pub(super) duplicates: Vec<Option<u32>>,
    /// The hashes of accepted records by their rows, where records of one key are merged.
    contents: HashMap<(u32, KeyHash), u64>,
    pub(super) numbers: RowNumbers,
    pub(crate) totals: Totals,
    pub(crate) records: u64,
    pub(crate) kept_out: u64,
    /// Records whose cells were conformed, rejected ones as well.
    pub(crate) conformed: u64,
    pub(crate) causes: Causes,
    pub(crate) remarks: Causes,
    pub(crate) changed_cells: u64,
    /// Rows that were put together again.
    pub(crate) rejoined: u64,
    pub(crate) signs: ById<FieldId, DateSigns>,
    pub(crate) met: ById<FieldId, MetInField>,
    pub(crate) sample: Sample,
    pub(crate) again: Option<AgainCounts>,
    /// The fields of type file, and the files that accepted records name in them.
    pub(super) file_fields: Vec<FieldId>,
    pub(super) named_files: HashSet<(FieldId, String)>,
    /// How many accepted records stay back.
    pub(crate) withheld: WithheldCounts,
    /// One for each rule over many records.
    pub(super) tallies: Vec<Tally>,
    /// What became of the held records, where they are known.
    pub(crate) beside: Option<HeldSeen<'r>>,
    /// For each field in which no value may come twice, those that were met.
    pub(super) unique: Vec<(FieldId, Keys)>,
    /// The table that is loaded, in which every record is tried.
    pub(super) table: Option<Box<dyn TableLoad>>,
    /// Room for what was given for the records of a row.
    given: Vec<GivenRecord>,
    /// What the sent records come to, field by field.
    pub(crate) field_totals: FieldTotals,
    pub(super) sink: &'s mut dyn Sink,
}

impl<'r, 's> OrderedEnd<'r, 's> {
    /// Before the first block. `columns` are the places of the plan's headings in each source.
    pub(crate) fn new(
        ready: &'r Ready<'r>,
        columns: &'r [Vec<Bound>],
        sink: &'s mut dyn Sink,
        field_totals: FieldTotals,
    ) -> Result<Self> {
        let table = if sink.tries_table() { open_table(ready.job.target, sink.batch())? } else { None };
        Ok(Self {
            table,
            ready,
            columns,
            conformer: Conformer::new(&ready.plan, false)?,
            keys: Keys::default(),
            duplicates: Vec::new(),
            contents: HashMap::new(),
            numbers: RowNumbers::default(),
            totals: Totals::default(),
            records: 0,
            kept_out: 0,
            conformed: 0,
            causes: Causes::default(),
            remarks: Causes::default(),
            changed_cells: 0,
            rejoined: 0,
            signs: ById::like(&ready.plan.fields, DateSigns::default()),
            met: ready.plan.fields.iter().map(MetInField::of).collect(),
            sample: Sample::default(),
            again: ready.job.known_records.map(|_| AgainCounts::default()),
            file_fields: ready.plan.target.file_fields(),
            named_files: HashSet::new(),
            withheld: WithheldCounts::default(),
            tallies: ready.plan.batch_rules.iter().map(|rule| rule.tally()).collect(),
            beside: ready.job.held.map(HeldSeen::new),
            unique: ready.job.target.unique_fields().into_iter().map(|id| (id, Keys::default())).collect(),
            given: Vec::new(),
            field_totals,
            sink,
        })
    }
}

impl OrderedEnd<'_, '_> {
    /// Takes the next block.
    pub(crate) fn take(&mut self, tray: &mut Tray<Conformed>) -> Result<()> {
        if tray.result.lost {
            return Err(Error::Invariant("a field or a column of the plan was lost".into()));
        }
        self.take_met(tray)?;
        self.look_up_keys(tray)?;
        let mut shares = std::mem::take(&mut tray.result.shares);
        let mut given = GivenRecords {
            shares: shares.drain(..),
            files: std::mem::take(&mut tray.result.files).into_iter(),
            splits: std::mem::take(&mut tray.result.splits).into_iter(),
            unique: std::mem::take(&mut tray.result.unique).into_iter(),
        };
        let mut start = Ends::default();
        let mut place = 0;
        while let Some(first) = tray.result.rows.get(place) {
            let row = first.row;
            let more = tray.result.rows.get(place + 1..).unwrap_or_default();
            let records = place..place + 1 + more.iter().take_while(|fate| fate.row == row).count();
            place = records.end;
            start = self.take_row(tray, records, start, &mut given)?;
        }
        Ok(())
    }

    /// Takes in what a block tells of whole columns, and the changes that are new in it.
    fn take_met(&mut self, tray: &mut Tray<Conformed>) -> Result<()> {
        let worker = tray.result.worker;
        for (signs, more) in self.signs.iter_mut().zip(&tray.result.signs) {
            signs.add(*more);
        }
        for (met, more) in self.met.iter_mut().zip(tray.result.met.drain(..)) {
            met.add(more);
        }
        for change in tray.result.changes.new.drain(..) {
            self.sink.new_change(worker, change)?;
        }
        self.field_totals.announce(worker, tray.result.new_words.drain(..));
        tray.result.sampled.drain(..).for_each(|record| self.sample.add(record));
        self.conformed += tray.result.conformed;
        Ok(())
    }

    /// One row, which makes one record or several: all of them go in, or none does.
    fn take_row(
        &mut self,
        tray: &Tray<Conformed>,
        records: Range<usize>,
        mut start: Ends,
        given: &mut GivenRecords<'_>,
    ) -> Result<Ends> {
        self.totals.read += 1;
        self.numbers.pass(1);
        let fates = part_of(&tray.result.rows, records.clone(), "records")?;
        let (Some(first), Some(last)) = (fates.first(), fates.last()) else { return Ok(start) };
        let findings = part_of(&tray.result.findings, start.findings..last.findings_end, "findings")?;
        if let Some(beside) = &mut self.beside {
            fates.iter().for_each(|fate| beside.see(&fate.beside, fate.judged));
        }
        if fates.iter().any(|fate| fate.judged == Judged::Merged) {
            given.skip(self.given_shape(), fates)?;
            self.totals.merged += 1;
            let into = findings.iter().find_map(|finding| match &*finding.fault.fact {
                Fact::Record(RecordFact::MergedInto { other }) => Some(other.clone()),
                _ => None,
            });
            self.list_row(tray, first, &NotSent::Merged(into))?;
            self.note_all(findings)?;
            return Ok(Ends::of(last));
        }
        if fates.iter().any(|fate| fate.judged == Judged::LeftOut) {
            given.skip(self.given_shape(), fates)?;
            self.list_row(tray, first, &NotSent::LeftOut)?;
            self.leave_out(findings)?;
            return Ok(Ends::of(last));
        }
        let number = self.numbers.number(tray.source, first.row)?;
        let is_right = records.clone().zip(fates).all(|(place, fate)| {
            fate.judged == Judged::Accepted && self.same_key(place, fate, number) != Same::Refused
        });
        let mut given_records = std::mem::take(&mut self.given);
        given.take_of(self.given_shape(), fates, &mut given_records)?;
        let mut again =
            if is_right { self.met_again(&records, &given_records, number, fates) } else { Vec::new() };
        let mut withheld = Vec::new();
        if is_right && again.is_empty() {
            withheld = self.beforehand(tray, fates, &mut again);
        }
        if is_right && again.is_empty() {
            again.extend(self.try_in_table(tray, &records, number, (start, &withheld))?);
        }
        if !is_right || !again.is_empty() {
            self.list_row(tray, first, &NotSent::Rejected)?;
            self.reject(tray, records, (findings, again))?;
            return Ok(Ends::of(last));
        }
        self.note_all(findings)?;
        self.take_unique(&given_records, number);
        let mut went_in = 0;
        for (at, ((place, fate), record)) in records.zip(fates).zip(given_records.drain(..)).enumerate() {
            if self.same_key(place, fate, number) != Same::Merged {
                went_in += 1;
                let withheld = withheld.get(at).copied().flatten();
                self.take_record(tray, (fate, record, withheld), number, start)?;
            } else if let Some(other) = self.duplicates.get(place).copied().flatten() {
                let into = self.earlier(other, tray.source, fate.row);
                self.list_row(tray, fate, &NotSent::Merged(Some(into)))?;
            }
            start = Ends::of(fate);
        }
        self.given = given_records;
        self.records += went_in;
        if went_in == 0 {
            self.totals.merged += 1;
            return Ok(start);
        }
        self.totals.accepted += 1;
        let source = self.ready.job.sources.get(tray.source.index());
        let corrected = source.map_or(&[][..], |source| source.patches().at(first.row));
        if !corrected.is_empty() {
            self.changed_cells += corrected.len() as u64;
            self.sink.corrected(Place { source: tray.source, row: first.row }, corrected)?;
        }
        Ok(start)
    }

    /// Lists what became of a row that is not sent.
    fn list_row(&mut self, tray: &Tray<Conformed>, fate: &RowFate, why: &NotSent) -> Result<()> {
        self.sink.not_sent(Place { source: tray.source, row: fate.row }, tray.result.key_of(fate), why)
    }

    /// How much a worker gives for each accepted record.
    fn given_shape(&self) -> GivenShape {
        GivenShape {
            is_split: self.ready.job.target.upload.split_by.is_some(),
            files: self.file_fields.len(),
            shares: self.tallies.len(),
            unique: self.unique.len(),
        }
    }

    /// A row that holds no record, or is kept out by a decision. What else is wrong with it does not matter.
    fn leave_out(&mut self, findings: &[Finding]) -> Result<()> {
        self.totals.left_out += 1;
        let decided = findings.iter().any(|finding| finding.fault.kind() == Kind::KeptOut);
        self.kept_out += u64::from(decided);
        let matters = |finding: &&Finding| finding.fault.kind().severity() == Severity::Note;
        findings.iter().filter(matters).try_for_each(|finding| self.note(finding))
    }

    /// A record that goes in; what the worker wrote of it begins at `start`.
    fn take_record(
        &mut self,
        tray: &Tray<Conformed>,
        (fate, record, withheld): (&RowFate, GivenRecord, Option<Withheld>),
        number: u32,
        start: Ends,
    ) -> Result<()> {
        if let Some(key) = fate.key.filter(|_| fate.content != 0) {
            self.contents.insert((number, key), fate.content);
        }
        let is_sent = self.stand(tray, (fate, number, withheld), start)?;
        if !is_sent {
            self.list_row(tray, fate, &NotSent::Accepted)?;
            return self.note_record(tray, fate);
        }
        for (tally, share) in self.tallies.iter_mut().zip(record.shares) {
            if let Some(share) = share {
                tally.take(&share);
            }
        }
        self.named_files.extend(self.file_fields.iter().copied().zip(record.files));
        let bytes = part_of(&tray.result.records, start.records..fate.records_end, "written record")?;
        let at = Place { source: tray.source, row: fate.row };
        let split = record.split.unwrap_or_default();
        self.sink.accepted(&Sent {
            place: at,
            key: tray.result.key_of(fate),
            record: bytes,
            split: &split,
            content: fate.facts,
        })?;
        if self.field_totals.len() > 0 {
            let shares = part_of(&tray.result.totals, start.totals..fate.totals_end, "totals")?;
            self.field_totals.take(tray.result.worker, shares);
        }
        self.note_record(tray, fate)?;
        self.changed_cells += u64::from(fate.changed);
        let changes = &tray.result.changes;
        let numbers = part_of(&changes.numbers, start.numbers..fate.numbers_end, "changes")?;
        self.sink.changed(tray.result.worker, numbers, at)?;
        let singles = part_of(&changes.singles, start.singles..fate.singles_end, "single changes")?;
        singles.iter().try_for_each(|change| self.sink.changed_once(change, at))
    }

    /// Says what an accepted record is beside the held ones; gives back whether it is sent.
    fn stand(
        &mut self,
        tray: &Tray<Conformed>,
        (fate, number, withheld): (&RowFate, u32, Option<Withheld>),
        start: Ends,
    ) -> Result<bool> {
        if let Some(why) = withheld {
            self.withheld.add(why);
        }
        let (Some(beside), Some(standing)) = (&mut self.beside, fate.beside.standing) else {
            return Ok(withheld.is_none());
        };
        let sending = self.ready.job.target.holds.as_ref().map(|holds| holds.sending).unwrap_or_default();
        let is_sent = sending.takes(standing) && withheld.is_none();
        beside.take(standing, fate.beside.number, number, is_sent);
        if standing == Standing::New && fate.again.is_some() {
            beside.counts.sent_before += 1;
        }
        let differences =
            part_of(&tray.result.differences, start.differences..fate.differences_end, "differences")?;
        let compared = Compared {
            place: Place { source: tray.source, row: fate.row },
            key: tray.result.key_of(fate),
            standing,
            differences,
            is_sent,
            is_again: fate.again.is_some(),
        };
        self.sink.compared(&compared)?;
        Ok(is_sent)
    }

    /// Hands on by what an accepted record is known next month, and whether the last batch had it.
    fn note_record(&mut self, tray: &Tray<Conformed>, fate: &RowFate) -> Result<()> {
        let Some(key) = fate.key else { return Ok(()) };
        self.sink.record(RecordHash { key: key.words(), facts: fate.facts })?;
        let Some(again) = fate.again else { return Ok(()) };
        if let Some(counts) = &mut self.again {
            match again {
                Again::Same => counts.same += 1,
                Again::Other => counts.other += 1,
            }
        }
        self.sink.again(Place { source: tray.source, row: fate.row }, tray.result.key_of(fate), again)
    }

    /// What another record of the same key means for a record.
    pub(super) fn same_key(&self, place: usize, fate: &RowFate, number: u32) -> Same {
        let plan = &self.ready.plan;
        if plan.same_key.needs_all_rows() && self.ready.job.mapping.same_by.is_empty() {
            // They were made one record before the run.
            return Same::First;
        }
        let Some(first) = self.duplicates.get(place).copied().flatten() else { return Same::First };
        if plan.same_key != SameKey::Merge || first == number {
            return Same::Refused;
        }
        let known = fate.key.and_then(|key| self.contents.get(&(first, key)));
        if known.is_some_and(|known| *known == fate.content) { Same::Merged } else { Same::Refused }
    }

    /// Looks up the keys of a block one right after the other: each waits for memory, and so they
    /// wait together.
    fn look_up_keys(&mut self, tray: &Tray<Conformed>) -> Result<()> {
        self.duplicates.clear();
        let Some(first) = tray.result.rows.first() else { return Ok(()) };
        let number = self.numbers.number(tray.source, first.row)?;
        let last_row = tray.result.rows.last().map_or(first.row, |fate| fate.row);
        let last = u64::from(number) + (last_row.0 - first.row.0);
        u32::try_from(last).map_err(|_| too_many_rows())?;
        if self.records == 0 {
            let bytes = self.ready.job.sources.iter().map(|source| source.bytes).sum();
            self.keys.make_room_for(tray.block.rows_expected(tray.result.rows.len(), bytes));
        }
        let first = first.row.0;
        // Rows of one block follow one another, so the difference fits as well.
        let prints = tray.result.rows.iter().map(|fate| (number + (fate.row.0 - first) as u32, fate.key));
        self.keys.insert_all(prints, &mut self.duplicates);
        Ok(())
    }

    fn reject(
        &mut self,
        tray: &Tray<Conformed>,
        records: Range<usize>,
        (findings, again): (&[Finding], Vec<MetAgain>),
    ) -> Result<()> {
        self.totals.rejected += 1;
        let lost =
            || Error::Invariant(format!("a rejected row of source {} was lost", tray.source.index() + 1));
        let source = self.ready.job.sources.get(tray.source.index()).ok_or_else(lost)?;
        let fate = tray.result.rows.get(records.start).ok_or_else(lost)?;
        let text = tray.block.text.get(fate.text.clone()).ok_or_else(lost)?;
        let mut rows = source.row_again(text, fate.row, fate.line);
        let Some(row) = rows.next() else {
            return Err(Error::Invariant(format!("row {} of {} was lost", fate.row, source.name)));
        };
        let number = self.numbers.number(tray.source, fate.row)?;
        let mut with_keys = Vec::new();
        for place in records {
            let Some(fate) = tray.result.rows.get(place) else { continue };
            // What is rejected for another reason may say the same once it is mended.
            let judge_key = self.ready.plan.same_key != SameKey::Merge || fate.judged == Judged::Accepted;
            if let Some(first) = self.duplicates.get(place).copied().flatten()
                && judge_key
                && self.same_key(place, fate, number) == Same::Refused
            {
                if with_keys.is_empty() {
                    with_keys = findings.to_vec();
                }
                let shown = fate.shown_key.is_some().then(|| tray.result.key_of(fate));
                with_keys.push(self.duplicate(tray.source, &row, first, shown));
            }
        }
        if !again.is_empty() {
            with_keys = findings.to_vec();
            for met in &again {
                with_keys.extend(self.said_again(tray.source, &row, met));
            }
        }
        self.reject_row(tray.source, &row, if with_keys.is_empty() { findings } else { &with_keys })
    }

    fn reject_row(&mut self, source: SourceId, row: &RowCells<'_>, findings: &[Finding]) -> Result<()> {
        for finding in findings {
            self.note(finding)?;
        }
        self.causes.end_row();
        self.sink.rejected(source, row, findings)
    }

    fn note_all(&mut self, findings: &[Finding]) -> Result<()> {
        findings.iter().try_for_each(|finding| self.note(finding))
    }

    pub(crate) fn note(&mut self, finding: &Finding) -> Result<()> {
        if self.ready.needs_more_evidence(finding) {
            return Err(Error::LateDoubt);
        }
        self.rejoined += u64::from(finding.fault.kind() == Kind::RowRejoined);
        match finding.fault.kind().severity() {
            Severity::Reject => self.causes.add(finding),
            Severity::Warn | Severity::Note => {
                self.remarks.add(finding);
                self.remarks.end_row();
            }
        }
        self.sink.finding(finding)
    }

    /// That a record's key is that of an earlier one. `shown` is the key, where it cannot be had from the
    /// row alone.
    fn duplicate(
        &mut self,
        source: SourceId,
        row: &RowCells<'_>,
        first: u32,
        shown: Option<&str>,
    ) -> Finding {
        if shown.is_none()
            && let (Some(opened), Some(columns)) =
                (self.ready.job.sources.get(source.index()), self.columns.get(source.index()))
        {
            let (mut again, mut room) = (Vec::new(), Rejoined::default());
            let shape = Shape::of(opened, source, columns);
            let (whole, _) = self.conformer.fit(*row, &shape, &mut room, &mut again);
            self.conformer.judge(&whole, &shape, &mut again);
        }
        let (names, key) = self.conformer.shown_key();
        let earlier = self.earlier(first, source, row.row());
        let fault = Fault::new(match self.ready.plan.same_key {
            SameKey::Reject | SameKey::First | SameKey::Last | SameKey::Fullest | SameKey::Combine => {
                RecordFact::DuplicateKey { earlier }
            }
            SameKey::Merge => RecordFact::KeyWithOtherFacts { earlier },
        });
        Finding::new(source, (row.row(), row.line()), names, shown.map_or(key, str::to_owned), fault)
    }

    /// Where an earlier record is, as seen from a row.
    pub(super) fn earlier(&self, first: u32, source: SourceId, row: Row) -> EarlierRecord {
        let (first_source, first_row) = self.numbers.row_of(first);
        match self.ready.job.sources.get(first_source.index()) {
            Some(other) if first_source != source => EarlierRecord::RowOf(first_row.0, other.name.clone()),
            _ if first_source == source && first_row == row => EarlierRecord::SameRow,
            _ => EarlierRecord::Row(first_row.0),
        }
    }
}

/// Where a record's share in the buffers of its block ends.
#[derive(Debug, Clone, Copy, Default)]
pub(crate) struct Ends {
    pub(super) records: usize,
    pub(super) findings: usize,
    pub(super) numbers: usize,
    pub(super) singles: usize,
    pub(super) differences: usize,
    pub(super) totals: usize,
}

impl Ends {
    pub(super) fn of(fate: &RowFate) -> Self {
        Self {
            records: fate.records_end,
            findings: fate.findings_end,
            numbers: fate.numbers_end,
            singles: fate.singles_end,
            differences: fate.differences_end,
            totals: fate.totals_end,
        }
    }
}

/// What another record of the same key means for a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Same {
    /// There is none before it.
    First,
    /// It says the same, so the two are one.
    Merged,
    /// It keeps the record out.
    Refused,
}

/// What a worker left of a row. If it is not there the program has contradicted itself, and nothing may be
/// written.
pub(super) fn part_of<'t, T>(all: &'t [T], range: Range<usize>, what: &str) -> Result<&'t [T]> {
    let lost = || Error::Invariant(format!("the {what} of a row were lost: {range:?} of {}", all.len()));
    all.get(range.clone()).ok_or_else(lost)
}
