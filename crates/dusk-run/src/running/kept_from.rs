//! Why a row that is right by itself does not go in: an earlier one is the same held record, or has a value that may not
//! come twice, or the table that is loaded refuses it. And what becomes of held records that no row is.

use std::ops::Range;

use super::compared::held_key;
use super::given::{GivenRecord, MetAgain};
use super::ordered::{Ends, OrderedEnd, Same, part_of};
use super::table::{cells_in, operation};
use crate::{Conformed, Ready, Removal, RowFate, Withheld};
use dusk_conforming::{KeyHash, Shape};
use dusk_database::Operation;
use dusk_description::Standing;
use dusk_evidence::{Error, Fault, FieldId, Finding, Id as _, RecordFact, Result, SourceId, THE_ROW};
use dusk_sources::{Rejoined, RowCells, Tray};

impl OrderedEnd<'_, '_> {
    /// What of a row that is right by itself an earlier row has already: its held record under another spelling of the
    /// key, or a value that may not come twice.
    pub(crate) fn met_again(
        &self,
        records: &Range<usize>,
        given: &[GivenRecord],
        number: u32,
        fates: &[RowFate],
    ) -> Vec<MetAgain> {
        let mut again = Vec::new();
        let mut of_this_row: Vec<(FieldId, KeyHash)> = Vec::new();
        for ((place, fate), given) in records.clone().zip(fates).zip(given) {
            if self.same_key(place, fate, number) != Same::First {
                continue;
            }
            let held = fate.beside.number.zip(self.beside.as_ref());
            if let Some(first) = held.and_then(|(held, beside)| beside.taken_by(held)) {
                again.push(MetAgain::Record { first });
            }
            for ((field, keys), hash) in self.unique.iter().zip(&given.unique) {
                let Some(hash) = *hash else { continue };
                let own = of_this_row.contains(&(*field, hash)).then_some(number);
                if let Some(first) = keys.get(hash).or(own) {
                    again.push(MetAgain::Value { field: *field, first });
                }
                of_this_row.push((*field, hash));
            }
        }
        again
    }

    /// Notes the values of a row that goes in and that no later one may have.
    pub(crate) fn take_unique(&mut self, given: &[GivenRecord], number: u32) {
        for given in given {
            for ((_, keys), hash) in self.unique.iter_mut().zip(&given.unique) {
                hash.and_then(|hash| keys.insert(hash, number));
            }
        }
    }

    /// Tries the records of a row in the table that is loaded; gives back why it refuses them, where it does.
    pub(crate) fn try_in_table(
        &mut self,
        tray: &Tray<Conformed>,
        records: &Range<usize>,
        number: u32,
        (mut start, withheld): (Ends, &[Option<Withheld>]),
    ) -> Result<Option<MetAgain>> {
        let Some(mut table) = self.table.take() else { return Ok(None) };
        let fates = part_of(&tray.result.rows, records.clone(), "records")?;
        let mut rows = Vec::new();
        for (at, (place, fate)) in records.clone().zip(fates).enumerate() {
            let bytes = part_of(&tray.result.records, start.records..fate.records_end, "written record")?;
            start = Ends::of(fate);
            let is_sent = fate.beside.standing.is_none_or(|standing| self.sends(standing));
            let is_sent = is_sent && withheld.get(at).is_none_or(Option::is_none);
            if is_sent && self.same_key(place, fate, number) != Same::Merged {
                rows.push((operation(fate.beside.standing), cells_in(bytes)?));
            }
        }
        let refused = table.take(&rows)?;
        let name = table.name();
        self.table = Some(table);
        Ok(refused.map(|says| MetAgain::Refused { table: name, says }))
    }

    /// Whether records of a kind are sent.
    pub(crate) fn sends(&self, standing: Standing) -> bool {
        self.ready.job.target.holds.as_ref().is_none_or(|holds| holds.sending.takes(standing))
    }

    /// Hands the table on, once all records are in it.
    pub(crate) fn hand_on_table(&mut self) -> Result<()> {
        self.table.take().map_or(Ok(()), |table| self.sink.loaded(table))
    }

    /// The finding that an earlier row has something already.
    pub(crate) fn said_again(
        &mut self,
        source: SourceId,
        row: &RowCells<'_>,
        met: &MetAgain,
    ) -> Option<Finding> {
        let (opened, columns) =
            (self.ready.job.sources.get(source.index())?, self.columns.get(source.index())?);
        let (mut findings, mut room) = (Vec::new(), Rejoined::default());
        let shape = Shape::of(opened, source, columns);
        let (whole, _) = self.conformer.fit(*row, &shape, &mut room, &mut findings);
        self.conformer.judge(&whole, &shape, &mut findings);
        let at = (row.row(), row.line());
        let (names, key) = self.conformer.own_key();
        Some(match met {
            MetAgain::Value { field, first } => {
                let name = &self.ready.plan.fields.get(*field)?.field.name;
                let value = self.conformer.outcome(*field).map_or("", |told| told.text);
                let earlier = self.earlier(*first, source, row.row());
                let fault = Fault::new(RecordFact::ValueTwice { earlier });
                Finding::new(source, at, name, value, fault).at_field(*field)
            }
            MetAgain::Record { first } => {
                let earlier = self.earlier(*first, source, row.row());
                Finding::new(source, at, names, key, Fault::new(RecordFact::FoundTwice { earlier }))
            }
            MetAgain::RefusedBefore { batch, says } => {
                let fact = RecordFact::TargetRefused { batch: batch.clone(), says: says.clone() };
                let names = if names.is_empty() { THE_ROW.to_owned() } else { names };
                // What the target says in the same words is one cause.
                let fault = Fault { part: Some(says.clone()), ..Fault::new(fact) };
                Finding::new(source, at, names, key, fault)
            }
            MetAgain::OtherKey { batch, key: other } => {
                let fact = RecordFact::SentUnderOtherKey { batch: batch.clone(), key: other.clone() };
                Finding::new(source, at, names, key, Fault::new(fact))
            }
            MetAgain::Refused { table, says } => {
                let fact = RecordFact::TableRefuses { table: table.clone(), says: says.clone() };
                let names = if names.is_empty() { THE_ROW.to_owned() } else { names };
                Finding::new(source, at, names, key, Fault::new(fact))
            }
        })
    }

    /// What became of the held records that no row is, now that all rows are known.
    pub(crate) fn end_beside(&mut self) -> Result<()> {
        let Some(mut beside) = self.beside.take() else { return Ok(()) };
        let holds = self.ready.job.target.holds.as_ref();
        let removes = holds.is_some_and(|holds| holds.removing.is_some()) && self.sink.takes_removals();
        let mut reader = beside.held.reader()?;
        for number in beside.unseen() {
            beside.counts.gone += 1;
            if !removes && !self.sink.lists_gone() {
                continue;
            }
            let record = reader.read(number)?;
            self.sink.gone(beside.held, &record, removes)?;
            if removes {
                let mut bytes = Vec::new();
                let written = self.conformer.write_removal(beside.held, &record, &mut bytes);
                written.map_err(|(field, fault)| {
                    let text = record.text(beside.held, field).unwrap_or_default();
                    self.ready.cannot_remove((&held_key(beside.held, &record), field), (text, &fault))
                })?;
                let split = self.ready.job.target.upload.split_by;
                let text = |field: FieldId| {
                    Some(self.ready.job.target.split_of(field, record.text(beside.held, field)?))
                };
                let split = split.and_then(text).unwrap_or_default();
                if let Some(table) = &mut self.table
                    && let Some(says) = table.take(&[(Operation::Remove, cells_in(&bytes)?)])?
                {
                    return Err(Error::Request(format!(
                        "{} refuses to remove {}: {says}; nothing was written",
                        table.name(),
                        held_key(beside.held, &record)
                    )));
                }
                let list = beside.held.lists.get(record.list).map_or("", |list| list.name.as_str());
                let key = held_key(beside.held, &record);
                self.sink.removal(&Removal {
                    list,
                    row: record.row,
                    key: &key,
                    record: &bytes,
                    split: &split,
                })?;
                beside.counts.removed += 1;
            }
        }
        self.beside = Some(beside);
        Ok(())
    }
}

impl Ready<'_> {
    /// What is said where a record is to be removed and the upload file cannot hold one of its values.
    fn cannot_remove(&self, (key, field): (&str, FieldId), (text, fault): (&str, &Fault)) -> Error {
        let heading = self.job.target.fields.get(field).map_or("", |field| field.heading());
        Error::Request(format!(
            "{key} should be removed, but the upload file cannot hold what the target has for it in {heading}: {text:?} \
             {}\n  nothing was written; correct that record in the target, or send no removals this time",
            fault.wrong()
        ))
    }
}
