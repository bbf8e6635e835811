//! Where a rule over many records does not hold: which records would have to be left out for it to hold, in the order
//! that the description names. It is proposed, and never done.

use std::cmp::Ordering;
use std::collections::BTreeSet;

use crate::{Ready, Sent, Sink};
use dusk_conforming::{Conformer, Fit, Shape};
use dusk_description::{RecordShare, Rule, Tally};
use dusk_evidence::{FieldId, Result, Row, SourceId};
use dusk_sources::{Progress, Rejoined};
use dusk_values::Value;

/// Records that would have to be left out for a rule to hold.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LeavingOut {
    /// The rule.
    pub rule: String,
    /// Among how many records they were chosen.
    pub among: u64,
    /// The records, in the order in which they are given up; none where leaving out any number does not help.
    pub records: Vec<LeftRecord>,
}

/// One of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LeftRecord {
    /// Its source.
    pub source: SourceId,
    /// Its row.
    pub row: Row,
    /// Its key as people read it.
    pub key: String,
    /// The values by which it was chosen: the field's name, and the text.
    pub values: Vec<(String, String)>,
}

/// A record that is sent, with what every rule over many records is told of it.
struct Weighed {
    source: SourceId,
    row: Row,
    key: String,
    shares: Vec<Option<RecordShare>>,
    /// The values of all fields by which a rule chooses.
    values: Vec<(FieldId, Value, String)>,
}

impl Ready<'_> {
    /// Proposes which records to leave out so that the rules over many records hold, where a rule that does not says
    /// in which order. Every proposal was tried: with it, that rule holds, and no other that held is broken.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn propose_leaving_out(&self, progress: &Progress<'_>) -> Result<Vec<LeavingOut>> {
        let rules = &self.plan.batch_rules;
        if rules.iter().all(|rule| rule.leave_out_first().is_empty()) {
            return Ok(Vec::new());
        }
        let records = self.weigh(progress)?;
        let all: Vec<usize> = (0..records.len()).collect();
        let mut proposals = Vec::new();
        for (place, rule) in rules.iter().enumerate().filter(|(_, rule)| !rule.leave_out_first().is_empty()) {
            let broken = rule.broken_groups(&self.tally(rule, place, &records, &all), self.job.today);
            if broken.is_empty() {
                continue;
            }
            let is_of_broken = |at: &usize| {
                let share = records.get(*at).and_then(|record| record.shares.get(place)?.as_ref());
                share.is_some_and(|share| broken.contains(&share.group()))
            };
            let mut order: Vec<usize> = all.iter().copied().filter(is_of_broken).collect();
            order.sort_by(|one, other| compare(rule, records.get(*one), records.get(*other)));
            let chosen = self.fewest(rule, place, &records, &order);
            let chosen = chosen.filter(|out| self.breaks_no_other(place, &records, out)).unwrap_or_default();
            let left = |at: &usize| {
                let record = records.get(*at)?;
                let of_rule = rule.leave_out_first().iter();
                let values = of_rule.filter_map(|first| {
                    let (_, _, text) = record.values.iter().find(|(field, _, _)| *field == first.field)?;
                    Some((self.plan.fields.get(first.field)?.field.name.clone(), text.clone()))
                });
                Some(LeftRecord {
                    source: record.source,
                    row: record.row,
                    key: record.key.clone(),
                    values: values.collect(),
                })
            };
            proposals.push(LeavingOut {
                rule: rule.text.name.clone(),
                among: order.len() as u64,
                records: chosen.iter().filter_map(left).collect(),
            });
        }
        Ok(proposals)
    }

    /// The fewest records of an order, from its beginning, without which a rule holds; those among them that need not
    /// go are kept. Nothing where that is not to be had.
    fn fewest(&self, rule: &Rule, place: usize, records: &[Weighed], order: &[usize]) -> Option<Vec<usize>> {
        let holds_without = |out: &[usize]| {
            let out: BTreeSet<usize> = out.iter().copied().collect();
            let kept: Vec<usize> = (0..records.len()).filter(|at| !out.contains(at)).collect();
            rule.broken_groups(&self.tally(rule, place, records, &kept), self.job.today).is_empty()
        };
        // The more is left out, the less is reckoned: so the smallest beginning is found by halves.
        let (mut fails, mut holds) = (0, order.len());
        if !holds_without(order) {
            return None;
        }
        while holds - fails > 1 {
            let middle = fails + (holds - fails) / 2;
            if holds_without(order.get(..middle)?) {
                holds = middle;
            } else {
                fails = middle;
            }
        }
        let mut out = order.get(..holds)?.to_vec();
        // A record near the end of it may have been more than was needed: those before it may stay then.
        const MOST_TRIED: usize = 200;
        for at in out.clone().into_iter().rev().skip(1).take(MOST_TRIED) {
            let without: Vec<usize> = out.iter().copied().filter(|one| *one != at).collect();
            if holds_without(&without) {
                out = without;
            }
        }
        Some(out)
    }

    fn breaks_no_other(&self, place: usize, records: &[Weighed], out: &[usize]) -> bool {
        let out: BTreeSet<usize> = out.iter().copied().collect();
        let (all, kept): (Vec<usize>, Vec<usize>) =
            ((0..records.len()).collect(), (0..records.len()).filter(|at| !out.contains(at)).collect());
        let broken = |other: usize, rule: &Rule, of: &[usize]| {
            rule.broken_groups(&self.tally(rule, other, records, of), self.job.today).len()
        };
        let others = self.plan.batch_rules.iter().enumerate().filter(|(other, _)| *other != place);
        others.into_iter().all(|(other, rule)| broken(other, rule, &kept) <= broken(other, rule, &all))
    }

    fn tally(&self, rule: &Rule, place: usize, records: &[Weighed], of: &[usize]) -> Tally {
        let mut tally = rule.tally();
        let shares = of.iter().filter_map(|at| records.get(*at)?.shares.get(place)?.as_ref());
        shares.for_each(|share| tally.take(share));
        tally
    }

    /// Every record that would be sent, with what the rules over many records are told of it.
    fn weigh(&self, progress: &Progress<'_>) -> Result<Vec<Weighed>> {
        let mut sent = SentRows::default();
        self.run(&mut sent, progress)?;
        let mut chosen_by: Vec<FieldId> = Vec::new();
        for rule in &self.plan.batch_rules {
            chosen_by.extend(rule.leave_out_first().iter().map(|first| first.field));
        }
        let mut records = Vec::new();
        let mut conformer = Conformer::new(&self.plan, false)?;
        for (place, source) in self.job.sources_with_ids() {
            let columns = self.plan.bind(source)?;
            let whole_shape = Shape::of(source, place, &columns);
            let mut walk = source.walk()?;
            while let Some(mut rows) = walk.more()? {
                while let Some(as_read) = rows.next() {
                    if sent.rows.contains(&(place, as_read.row())) {
                        let (mut room, mut findings) = (Rejoined::default(), Vec::new());
                        let (row, fit) = conformer.fit(as_read, &whole_shape, &mut room, &mut findings);
                        let shapes = if fit == Fit::Whole {
                            whole_shape.records(&row, &self.plan)
                        } else {
                            Vec::new()
                        };
                        for shape in &shapes {
                            conformer.judge(&row, shape, &mut findings);
                            let mut shares = Vec::new();
                            conformer.shares(&mut shares);
                            let value = |field: &FieldId| {
                                let (value, text) = conformer.value(*field);
                                (*field, value, text.to_owned())
                            };
                            records.push(Weighed {
                                source: place,
                                row: row.row(),
                                key: conformer.shown_key().1,
                                shares,
                                values: chosen_by.iter().map(value).collect(),
                            });
                        }
                    }
                    conformer.pass(&as_read, &whole_shape);
                }
            }
        }
        Ok(records)
    }
}

/// Which of two records is given up first.
fn compare(rule: &Rule, one: Option<&Weighed>, other: Option<&Weighed>) -> Ordering {
    let (Some(one), Some(other)) = (one, other) else { return Ordering::Equal };
    for first in rule.leave_out_first() {
        let of = |record: &Weighed| {
            record
                .values
                .iter()
                .find(|(field, _, _)| *field == first.field)
                .map(|(_, value, text)| (*value, text.clone()))
        };
        let (Some((one_value, one_text)), Some((other_value, other_text))) = (of(one), of(other)) else {
            continue;
        };
        let by_value = one_value.compare(other_value, (&one_text, &other_text));
        let order = by_value.unwrap_or_else(|| one_text.cmp(&other_text));
        let order = if first.is_largest { order.reverse() } else { order };
        if order != Ordering::Equal {
            return order;
        }
    }
    // Among equals the later row goes first.
    (other.source, other.row).cmp(&(one.source, one.row))
}

/// The rows of all records that are sent.
#[derive(Debug, Default)]
struct SentRows {
    rows: BTreeSet<(SourceId, Row)>,
}

impl Sink for SentRows {
    fn accepted(&mut self, sent: &Sent<'_>) -> Result<()> {
        self.rows.insert((sent.place.source, sent.place.row));
        Ok(())
    }
}
