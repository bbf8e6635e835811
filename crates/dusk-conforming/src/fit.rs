//! Whether a row can become records: its shape, whether the mapping keeps it, and rows that a delimiter
//! inside a value has split.

use super::record::Conformer;
use super::shape::{Shape, holds_a_row, wrong_shape};
use dusk_evidence::{Fault, FieldId, Finding, HeadedValue, RowFact, Severity, THE_ROW};
use dusk_sources::{CellKind, Rejoined, RowCells};
use dusk_values::Value;

/// What a row is before its values are looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fit {
    /// It holds no record.
    LeftOut,
    /// Its cells cannot be told apart, or whether it holds a record is not certain.
    Rejected,
    /// It may become one record or several.
    Whole,
}

impl Conformer<'_> {
    /// Judges whether a row of the given shape can become records; what is found goes to `findings`. A
    /// row that a delimiter inside a value has split is put together first, in `room`, where only one
    /// way fits. Gives the row as it was judged.
    pub fn fit<'b>(
        &mut self,
        row: RowCells<'b>,
        shape: &Shape<'_>,
        room: &'b mut Rejoined,
        findings: &mut Vec<Finding>,
    ) -> (RowCells<'b>, Fit) {
        let whole_row = |fault: Fault, value: String| {
            Finding::new(shape.source, (row.row(), row.line()), THE_ROW, value, fault)
        };
        if row.is_blank() {
            return (row, Fit::LeftOut);
        }
        if let Some(fault) = self.no_record(&row, shape) {
            findings.push(whole_row(fault, String::new()));
            return (row, Fit::LeftOut);
        }
        if row.len() > shape.width && !shape.is_whole(&row) {
            match self.rejoin(&row, shape, room) {
                Ok((joined, fault)) => {
                    findings.push(whole_row(fault, String::new()));
                    let fit = self.is_kept(&joined, shape, findings);
                    return (joined, fit);
                }
                Err(Some(fault)) => {
                    findings.push(whole_row(fault, String::new()));
                    return (row, Fit::Rejected);
                }
                Err(None) => {}
            }
        }
        if !shape.is_whole(&row) {
            findings.push(whole_row(wrong_shape(&row, shape.width), String::new()));
            return (row, Fit::Rejected);
        }
        if row.lines() > 1
            && let Some(cell) = holds_a_row(&row, shape)
        {
            findings.push(whole_row(Fault::new(RowFact::RowsInCell), cell.to_owned()));
        }
        (row, self.is_kept(&row, shape, findings))
    }

    /// Why a row holds no record, or none that is wanted.
    fn no_record(&self, row: &RowCells<'_>, shape: &Shape<'_>) -> Option<Fault> {
        if let Some(fault) = shape.no_record(row) {
            return Some(fault);
        }
        if let Some(why) = shape.patches.kept_out(row.row()) {
            return Some(Fault::new(RowFact::KeptOut { decided: why.to_owned() }));
        }
        // A torn row outside is no record either, so it is not judged.
        let number = row.row().0;
        let (first, last) = self.plan.within.filter(|(first, last)| !(*first..=*last).contains(&number))?;
        let last = Some(last).filter(|last| *last != u64::MAX);
        Some(Fault::new(RowFact::OutsideRows { first, last }))
    }

    /// Whether the row satisfies the rule of rows that hold a record.
    fn is_kept(&self, row: &RowCells<'_>, shape: &Shape<'_>, findings: &mut Vec<Finding>) -> Fit {
        let Some((rule, slots)) = &self.plan.keep else { return Fit::Whole };
        // The fields of this rule are columns.
        let text = |place: FieldId| {
            let text = slots.get(place).map_or("", |slot| CellKind::of(shape.cell(row, *slot)).1.trim());
            (if text.is_empty() { Value::Blank } else { Value::Text }, text)
        };
        let (fact, fit) = match rule.holds_loosely(self.plan.today, &text) {
            Some(true) => return Fit::Whole,
            Some(false) => (RowFact::NotKept { rule: rule.to_string() }, Fit::LeftOut),
            None => (RowFact::KeepOpen { rule: rule.to_string() }, Fit::Rejected),
        };
        findings.push(Finding::new(shape.source, (row.row(), row.line()), THE_ROW, "", Fault::new(fact)));
        fit
    }

    /// Puts a row together again that an unquoted delimiter inside a value has split, if the
    /// dictionary leaves exactly one way. Gives the row and says which way, or every way that fits.
    fn rejoin<'b>(
        &mut self,
        row: &RowCells<'b>,
        shape: &Shape<'_>,
        room: &'b mut Rejoined,
    ) -> Result<(RowCells<'b>, Fault), Option<Fault>> {
        // With every cell more the ways and the doubt grow.
        const MOST_EXTRA: usize = 2;
        let extra = row.len().saturating_sub(shape.width);
        if self.plan.leaves_split
            || extra == 0
            || extra > MOST_EXTRA
            || shape.ragged
            || row.is_misquoted()
            || !row.is_closed()
        {
            return Err(None);
        }
        let ways = self.ways_together(row, shape, extra).ok_or(None)?;
        match ways.as_slice() {
            [places] => {
                let joined = row.rejoined(places, room).ok_or(None)?;
                let fact =
                    RowFact::Rejoined { cells: row.len(), values: joined_values(places, &joined, shape) };
                Ok((joined, Fault::new(fact)))
            }
            [] => Err(None),
            several => {
                let mut tried = Rejoined::default();
                let mut shown = |places: &Vec<usize>| {
                    Some(joined_values(places, &row.rejoined(places, &mut tried)?, shape))
                };
                let first = several.iter().take(4).filter_map(&mut shown).collect();
                let (cells, header, ways) = (row.len(), shape.width, several.len());
                Err(Some(Fault::new(RowFact::SeveralWays { cells, header, ways, first })))
            }
        }
    }

    /// Every way of putting a row with one or two cells too many together that the dictionary takes: the
    /// places behind which a delimiter belongs to the value. Nothing where none could be tried.
    fn ways_together(
        &mut self,
        row: &RowCells<'_>,
        shape: &Shape<'_>,
        extra: usize,
    ) -> Option<Vec<Vec<usize>>> {
        let mut conformer = match self.tries.take() {
            Some(conformer) => conformer,
            None => Box::new(Conformer::new(self.plan, false).ok()?),
        };
        conformer.start_below(self.above.all());
        let mut ways: Vec<Vec<usize>> = Vec::new();
        let mut tried = Rejoined::default();
        for first in 0..shape.width {
            // A second split may be of the same value or of any after it.
            let seconds = if extra == 1 { first..first + 1 } else { first..shape.width };
            for second in seconds {
                let both = [first, second];
                let places = both.get(..extra).unwrap_or_default();
                let Some(joined) = row.rejoined(places, &mut tried) else { continue };
                if conformer.takes(&joined, shape) {
                    ways.push(places.to_vec());
                }
            }
        }
        self.tries = Some(conformer);
        Some(ways)
    }

    /// True where nothing rejects the row. A way that only warns is a way.
    fn takes(&mut self, row: &RowCells<'_>, shape: &Shape<'_>) -> bool {
        let mut broken = Vec::new();
        let mut fits = true;
        for record in shape.records(row, self.plan) {
            self.conform_row(row, &record);
            self.check_rules(row, shape.source, &mut broken);
            fits &= !self.faulty;
        }
        fits && !broken.iter().any(|finding| finding.fault.kind().severity() == Severity::Reject)
    }
}

/// The values that were put together again, with their headings.
fn joined_values(places: &[usize], joined: &RowCells<'_>, shape: &Shape<'_>) -> Vec<HeadedValue> {
    let mut places = places.to_vec();
    places.dedup();
    let value = |place: &usize| HeadedValue {
        heading: shape.headings.get(*place).cloned().unwrap_or_default(),
        value: joined.nth(*place).to_owned(),
    };
    places.iter().map(value).collect()
}
