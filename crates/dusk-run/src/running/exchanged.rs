//! Two columns that seem to be exchanged, told by a rule between their fields.
//!
//! What each of them holds fits the other field as well, so only a rule can tell: most records break it, and
//! none would if the two were exchanged.

use crate::Ready;
use dusk_conforming::{Conformer, Fit, Shape};
use dusk_description::Rule;
use dusk_evidence::{ColumnCause, ColumnFact, Explains, FieldId, Result, SourceId};
use dusk_files::toml_text;
use dusk_mapping::Feed;
use dusk_sources::{Rejoined, Source};

/// How many broken records at least have to speak for it.
const LEAST: u64 = 5;

/// A rule, and what the first rows say about it.
struct Suspicion<'p> {
    rule: &'p Rule,
    fields: [FieldId; 2],
    /// Records that break it.
    broken: u64,
    /// Records that would break it if the columns were exchanged.
    broken_then: u64,
}

impl Ready<'_> {
    /// The columns that seem to be exchanged, by the rules called `broken`, which most records break. The
    /// first rows of a source tell.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub(crate) fn exchanged_by_rules(&self, source: &Source, broken: &[String]) -> Result<Vec<ColumnCause>> {
        let mut suspicions = self.suspicions(broken);
        if suspicions.is_empty() {
            return Ok(Vec::new());
        }
        let mut walk = source.walk()?;
        let Some(mut rows) = walk.more()? else { return Ok(Vec::new()) };
        let columns = self.plan.bind(source)?;
        let shape = Shape::of(source, SourceId::FIRST, &columns);
        let mut conformer = Conformer::new(&self.plan, false)?;
        let (mut findings, mut room) = (Vec::new(), Rejoined::default());
        while let Some(row) = rows.next() {
            let (whole, fit) = conformer.fit(row, &shape, &mut room, &mut findings);
            if fit == Fit::Whole {
                for record in shape.records(&whole, &self.plan) {
                    conformer.judge(&whole, &record, &mut findings);
                    suspicions.iter_mut().for_each(|suspicion| suspicion.take(&conformer, self));
                }
            }
            findings.clear();
        }
        Ok(suspicions.iter().filter_map(|suspicion| suspicion.cause(self)).collect())
    }

    /// Whether each of two fields is fed by a column of its own, and takes what the other one takes.
    fn could_be_exchanged(&self, one: FieldId, other: FieldId) -> bool {
        let value_type = |place: FieldId| {
            self.column_of(place)?;
            Some(self.plan.target.fields.get(place)?.kind.value_type())
        };
        value_type(one).is_some() && value_type(one) == value_type(other)
    }

    fn column_of(&self, field: FieldId) -> Option<&str> {
        let map = self.job.mapping.maps.iter().find(|map| map.field == field)?;
        match &map.feed {
            Feed::Column(heading) if map.part.is_none() => Some(heading),
            _ => None,
        }
    }

    /// The broken rules between two fields that take the same.
    fn suspicions(&self, broken: &[String]) -> Vec<Suspicion<'_>> {
        let rules = self.plan.row_rules.iter().filter(|rule| broken.contains(&rule.text.name));
        let suspicion = |rule| match *Rule::fields(rule).as_slice() {
            [one, other] if self.could_be_exchanged(one, other) => {
                Some(Suspicion { rule, fields: [one, other], broken: 0, broken_then: 0 })
            }
            _ => None,
        };
        rules.copied().filter_map(suspicion).collect()
    }
}

impl Suspicion<'_> {
    /// Takes the record at hand.
    fn take(&mut self, conformer: &Conformer<'_>, ready: &Ready<'_>) {
        let holds = |value: &dyn Fn(FieldId) -> FieldId| {
            self.rule.holds(ready.job.today, &|place| conformer.value(value(place)))
        };
        let [one, other] = self.fields;
        let exchanged = |place: FieldId| match place {
            place if place == one => other,
            place if place == other => one,
            place => place,
        };
        self.broken += u64::from(holds(&|place| place) == Some(false));
        self.broken_then += u64::from(holds(&exchanged) == Some(false));
    }

    /// What it comes to.
    fn cause(&self, ready: &Ready<'_>) -> Option<ColumnCause> {
        if self.broken < LEAST || self.broken_then * 20 > self.broken {
            return None;
        }
        let [one, other] = self.fields;
        let (first, second) = (ready.column_of(one)?, ready.column_of(other)?);
        let name = |place: FieldId| ready.plan.target.fields.get(place).map(|field| field.name.as_str());
        Some(ColumnCause {
            explains: Explains::Exchange(self.rule.text.name.clone(), self.fields),
            fact: ColumnFact::ExchangedByRule {
                columns: [first.to_owned(), second.to_owned()],
                broken: self.broken,
                broken_then: self.broken_then,
            },
            lines: vec![
                format!("from = {}   # for {}", toml_text(second), name(one)?),
                format!("from = {}   # for {}", toml_text(first), name(other)?),
            ],
        })
    }
}
