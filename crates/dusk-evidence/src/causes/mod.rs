//! Findings counted by cause as they come in, and the causes in the order of their size.

mod joined;

use std::collections::BTreeMap;

use dusk_values::fold;
use hashbrown::HashMap;

use crate::{Cause, CausePlace, ColumnCause, FieldId, Finding, Grouping, Kind, SettledBy, Severity};

/// How many different causes are told apart before further ones are only counted together, so
/// that a column of a million different wrong values does not fill the memory.
const MOST_CAUSES: usize = 20_000;

/// How many different sets of causes that rows have together are told apart.
const MOST_SETS: usize = 50_000;

/// How many places of a cause are kept.
const FEW: usize = 5;

impl Cause {
    /// A cause of which this is the first finding, not counted yet.
    fn new(finding: &Finding, key: &CauseKey) -> Self {
        Self {
            kind: key.kind,
            field: finding.field,
            about: finding.about.clone(),
            value: key.value.clone(),
            within: key.within.clone(),
            count: 0,
            rows: 0,
            alone: 0,
            of: None,
            column: None,
            source: finding.source,
            row: finding.row,
            line: finding.line,
            example: finding.value.clone(),
            fault: finding.fault.clone(),
            first: Vec::new(),
            earlier: None,
        }
    }
}

#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct CauseKey {
    kind: Kind,
    about: String,
    value: Option<String>,
    within: String,
}

/// What values of one field are rejected for.
#[derive(Debug, Clone)]
pub struct KindOfField<'c> {
    /// The field.
    pub field: FieldId,
    /// What for.
    pub kind: Kind,
    /// How many cells.
    pub cells: u64,
    /// The different values, or the first few where they are not told apart.
    pub values: Vec<&'c str>,
}

/// Counts findings by cause as they come in, in the order of the rows.
#[derive(Debug, Default)]
pub struct Causes {
    causes: Vec<Cause>,
    places: HashMap<CauseKey, usize>,
    /// The rows that have several causes, by these.
    together: BTreeMap<Vec<usize>, u64>,
    /// The causes of the row at hand.
    at_hand: Vec<usize>,
    /// How many rows were rejected.
    rejected: u64,
}

/// Causes in the order of their size, and how much they explain.
#[derive(Debug, Clone, Default)]
pub struct RankedCauses {
    /// The largest first; among equals the one met first.
    pub causes: Vec<Cause>,
    /// For each of them, how many rejected rows would have no cause left if it and all before it were
    /// settled.
    pub explained: Vec<u64>,
}

impl Causes {
    /// Counts one finding of the row at hand.
    pub fn add(&mut self, finding: &Finding) {
        let place = self.place_of(finding);
        if let Some(cause) = self.causes.get_mut(place) {
            cause.count += 1;
            if cause.first.len() < FEW {
                let (source, row, line) = (finding.source, finding.row, finding.line);
                let (value, repeat) = (finding.value.clone(), finding.repeat.clone());
                cause.first.push(CausePlace { source, row, line, value, repeat });
            }
        }
        if !self.at_hand.contains(&place) {
            self.at_hand.push(place);
        }
    }

    /// The cause that a finding is of, which may be a new one.
    fn place_of(&mut self, finding: &Finding) -> usize {
        let kind = finding.fault.kind();
        let by_value = kind.grouping() == Grouping::Value;
        let decided = finding.fault.part.as_ref().unwrap_or(&finding.value);
        let key = |value: Option<String>| CauseKey {
            kind,
            about: finding.about.clone(),
            within: if value.is_some() { finding.fault.within.clone() } else { String::new() },
            value,
        };
        if by_value && let Some(known) = self.places.get(&key(Some(decided.clone()))) {
            return *known;
        }
        // What a line of a crosswalk would say holds for every spelling that it does not tell apart.
        let folded = (by_value && kind.settled_by() == SettledBy::ListLine).then(|| key(Some(fold(decided))));
        if let Some(known) = folded.as_ref().and_then(|folded| self.places.get(folded)).copied() {
            self.places.insert(key(Some(decided.clone())), known);
            return known;
        }
        let key = key((by_value && self.causes.len() < MOST_CAUSES).then(|| decided.clone()));
        if let Some(known) = self.places.get(&key) {
            return *known;
        }
        self.causes.push(Cause::new(finding, &key));
        if let Some(folded) = folded.filter(|_| key.value.is_some()) {
            self.places.insert(folded, self.causes.len() - 1);
        }
        self.places.insert(key, self.causes.len() - 1);
        self.causes.len() - 1
    }

    /// Ends the row at hand: it is rejected for what was added since the last one.
    pub fn end_row(&mut self) {
        let mut at_hand = std::mem::take(&mut self.at_hand);
        self.rejected += 1;
        for place in &at_hand {
            if let Some(cause) = self.causes.get_mut(*place) {
                cause.rows += 1;
                cause.alone += u64::from(at_hand.len() == 1);
            }
        }
        if at_hand.len() > 1 {
            at_hand.sort_unstable();
            if let Some(rows) = self.together.get_mut(&at_hand) {
                *rows += 1;
            } else if self.together.len() < MOST_SETS {
                self.together.insert(at_hand.clone(), 1);
            }
        }
        at_hand.clear();
        self.at_hand = at_hand;
    }

    /// What values of each field are rejected for, in the order in which it was met.
    pub fn kinds(&self) -> Vec<KindOfField<'_>> {
        let mut kinds: Vec<KindOfField<'_>> = Vec::new();
        for cause in self.causes.iter().filter(|cause| cause.kind.severity() == Severity::Reject) {
            let Some(field) = cause.field else { continue };
            let values = cause.value.iter().chain(cause.first.iter().map(|place| &place.value));
            let known = kinds.iter().position(|known| known.field == field && known.kind == cause.kind);
            let place = known.unwrap_or_else(|| {
                kinds.push(KindOfField { field, kind: cause.kind, cells: 0, values: Vec::new() });
                kinds.len() - 1
            });
            if let Some(kind) = kinds.get_mut(place) {
                kind.cells += cause.count;
                match &cause.value {
                    Some(value) => kind.values.push(value),
                    None => values.for_each(|value| kind.values.push(value)),
                }
            }
        }
        kinds
    }

    /// The fields of which at least half of the filled cells are rejected, by their places.
    pub fn suspects(&self, filled: &dyn Fn(FieldId) -> u64) -> Vec<FieldId> {
        let mut counts: BTreeMap<FieldId, u64> = BTreeMap::new();
        for cause in &self.causes {
            if let Some(field) = cause.field.filter(|_| cause.kind.severity() == Severity::Reject) {
                *counts.entry(field).or_default() += cause.count;
            }
        }
        let mostly = |(field, count): &(FieldId, u64)| *count > 4 && *count * 2 >= filled(*field);
        counts.into_iter().filter(mostly).map(|(field, _)| field).collect()
    }

    /// The rules that at least half of `records` break, by their names.
    pub fn mostly_broken_rules(&self, records: u64) -> Vec<String> {
        let mostly = |cause: &&Cause| cause.kind == Kind::RuleBroken && cause.rows * 2 >= records.max(1);
        self.causes.iter().filter(mostly).map(|cause| cause.about.clone()).collect()
    }

    /// The causes, the largest first. `filled` tells how many cells of a field's column are not blank: where
    /// nearly all of them are wrong in one way, the column is the cause; so are columns that seem to be the
    /// wrong ones.
    pub fn ranked(mut self, filled: &dyn Fn(FieldId) -> u64, wrong: &[ColumnCause]) -> RankedCauses {
        self.join_columns(filled, wrong);
        let mut order: Vec<usize> = (0..self.causes.len()).collect();
        let rank = |place: &usize| {
            self.causes.get(*place).map(|cause| (std::cmp::Reverse(cause.count), cause.source, cause.row))
        };
        order.sort_by_key(rank);
        let mut position = vec![0; order.len()];
        for (rank, place) in order.iter().enumerate() {
            if let Some(position) = position.get_mut(*place) {
                *position = rank;
            }
        }
        // A row is explained by the smallest of its causes.
        let mut explained = vec![0; order.len()];
        for (rank, place) in order.iter().enumerate() {
            if let (Some(rows), Some(cause)) = (explained.get_mut(rank), self.causes.get(*place)) {
                *rows += cause.alone;
            }
        }
        for (set, rows) in &self.together {
            let last = set.iter().filter_map(|place| position.get(*place)).max();
            if let Some(count) = last.and_then(|last| explained.get_mut(*last)) {
                *count += rows;
            }
        }
        let mut sum = 0;
        for rows in &mut explained {
            sum += *rows;
            *rows = sum;
        }
        let mut causes: Vec<Option<Cause>> = self.causes.into_iter().map(Some).collect();
        let causes: Vec<Cause> = order
            .iter()
            .filter_map(|place| causes.get_mut(*place)?.take())
            .filter(|cause| cause.count > 0)
            // Where sets of causes were too many to tell apart, a row may have been counted twice.
            .map(|cause| Cause { rows: cause.rows.min(self.rejected), ..cause })
            .collect();
        explained.truncate(causes.len());
        RankedCauses { causes, explained }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::wording::tests::one_of_each;
    use crate::{ColumnFact, Explains, Fault, Grounds, Id as _, Line, Row, SourceId};

    fn finding(kind: Kind, row: u64, value: &str, part: Option<&str>) -> Finding {
        let fact = one_of_each().into_iter().find(|fact| fact.kind() == kind).unwrap();
        let fault = Fault { part: part.map(str::to_owned), ..Fault::new(fact) };
        let (row, line) = (Row(row), Line(row));
        Finding::new(SourceId::FIRST, (row, line), "f", value, fault).at_field(FieldId::FIRST)
    }

    #[test]
    fn findings_that_one_decision_settles_are_one_cause() {
        let mut causes = Causes::default();
        for (row, value) in [(2, "x"), (3, "y"), (4, " Y")] {
            causes.add(&finding(Kind::NotACode, row, value, None));
            causes.end_row();
        }
        causes.add(&finding(Kind::NotACode, 5, "a; y", Some("y")));
        for row in 6..9 {
            causes.add(&finding(Kind::AboveMaximum, row, &row.to_string(), None));
        }
        let causes = causes.ranked(&|_| 100, &[]).causes;
        let seen: Vec<_> =
            causes.iter().map(|cause| (cause.count, cause.row.0, cause.value.as_deref())).collect();
        assert_eq!(
            seen,
            [(3, 3, Some("y")), (3, 6, None), (1, 2, Some("x"))],
            "no line tells \"y\" and \" Y\" apart"
        );
        assert_eq!(causes[1].example, "6");
    }

    #[test]
    fn a_row_is_explained_when_all_its_causes_are() {
        let mut causes = Causes::default();
        for (row, values) in [(2, vec!["x"]), (3, vec!["x", "y"]), (4, vec!["x"]), (5, vec!["y", "z"])] {
            values.iter().for_each(|value| causes.add(&finding(Kind::NotACode, row, value, None)));
            causes.end_row();
        }
        let ranked = causes.ranked(&|_| 100, &[]);
        let seen: Vec<_> =
            ranked.causes.iter().map(|cause| (cause.value.as_deref(), cause.rows, cause.alone)).collect();
        assert_eq!(seen, [(Some("x"), 3, 2), (Some("y"), 2, 0), (Some("z"), 1, 0)]);
        assert_eq!(ranked.explained, [2, 3, 4]);
    }

    /// Causes of rejected rows: each row has findings of these kinds, of fields by their places, with values.
    fn ranked(rows: &[&[(Kind, Option<usize>, &str)]], filled: u64, columns: &[ColumnCause]) -> RankedCauses {
        let mut causes = Causes::default();
        for (row, findings) in (2..).zip(rows) {
            for (kind, field, value) in *findings {
                let mut finding = finding(*kind, row, value, None);
                finding.field = field.map(FieldId::new);
                finding.about = field.map_or("rule".into(), |field| format!("f{field}"));
                causes.add(&finding);
            }
            causes.end_row();
        }
        causes.ranked(&|_| filled, columns)
    }

    fn column(explains: Explains) -> ColumnCause {
        let fact = ColumnFact::Exchanged { columns: Default::default(), grounds: Grounds::Nothing };
        ColumnCause { explains, fact, lines: Vec::new() }
    }

    #[test]
    fn a_column_that_is_wrong_as_a_whole_is_one_cause() {
        let bad = |value| (Kind::NotANumber, Some(0), value);
        let rows: [&[_]; 4] =
            [&[bad("a")], &[bad("b")], &[bad("c"), (Kind::TooLong, Some(1), "x")], &[bad("d")]];
        let whole = ranked(&rows, 4, &[]);
        let [cause, other] = whole.causes.as_slice() else { panic!("{:?}", whole.causes) };
        assert_eq!(
            (cause.value.as_deref(), cause.of, cause.count, cause.rows, cause.alone),
            (None, Some(4), 4, 4, 3)
        );
        assert_eq!(cause.first.iter().map(|place| place.row.0).collect::<Vec<_>>(), [2, 3, 4, 5]);
        assert_eq!((other.kind, other.count), (Kind::TooLong, 1));
        assert_eq!(whole.explained, [3, 4]);
        // Where other cells of the column fit, its values are the causes.
        assert_eq!(ranked(&rows, 8, &[]).causes.len(), 5);
    }

    proptest! {
        /// However causes lie in rows and are joined, none is in more rows than there are, none is the only one of
        /// more rows than it is in, and all of them explain every row.
        #[test]
        fn no_share_is_more_than_all(
            rows in prop::collection::vec(prop::collection::vec((0..4_usize, 0..3_usize, 0..6_usize), 1..5), 1..30),
            wrong in prop::collection::vec(0..3_usize, 0..3),
            filled in 1..40_u64,
        ) {
            const KINDS: [Kind; 4] = [Kind::NotACode, Kind::NotANumber, Kind::TooLong, Kind::RuleBroken];
            const VALUES: [&str; 6] = ["a", "A", "b", " b", "c", "d"];
            let rows: Vec<Vec<_>> = rows
                .iter()
                .map(|row| row.iter().map(|(kind, field, value)| (KINDS[*kind], Some(*field), VALUES[*value])).collect())
                .collect();
            let rows: Vec<&[_]> = rows.iter().map(Vec::as_slice).collect();
            let columns: Vec<ColumnCause> =
                wrong.iter().map(|field| column(Explains::Fields(vec![FieldId::new(*field)]))).collect();
            let all = ranked(&rows, filled, &columns);
            let count = rows.len() as u64;
            for cause in &all.causes {
                prop_assert!(cause.rows <= count && cause.alone <= cause.rows, "{cause:?}");
                prop_assert!(cause.of.is_none_or(|of| cause.count <= of), "{cause:?}");
            }
            prop_assert!(all.explained.is_sorted());
            prop_assert_eq!(all.explained.last(), Some(&count));
        }
    }

    #[test]
    fn exchanged_columns_take_their_findings_together() {
        let (too_small, broken) = ((Kind::BelowMinimum, Some(0), "0"), (Kind::RuleBroken, None, "2 > 1"));
        let letters = (Kind::NotANumber, Some(1), "x");
        let rows: [&[_]; 4] = [&[broken], &[broken, too_small], &[too_small], &[letters]];
        let exchange = column(Explains::Exchange("rule".into(), [0, 1].map(FieldId::new)));
        let all = ranked(&rows, 9, std::slice::from_ref(&exchange));
        let [cause, other] = all.causes.as_slice() else { panic!("{:?}", all.causes) };
        assert_eq!((cause.kind, cause.count, cause.rows, cause.alone), (Kind::RuleBroken, 4, 3, 3));
        assert_eq!(cause.column.as_ref(), Some(&exchange));
        assert_eq!(other.kind, Kind::NotANumber, "that is no number in either column");
        // A column that feeds the wrong field is to blame for whatever is wrong with it.
        let wrong = ranked(&rows, 9, &[column(Explains::Fields([0, 1].map(FieldId::new).into()))]);
        assert_eq!(wrong.causes.iter().map(|cause| cause.count).collect::<Vec<_>>(), [3, 2]);
        // And an order that is open only for the days that wait for it.
        let open = column(Explains::OneKind(FieldId::new(1), Kind::NotANumber));
        let open = ranked(&rows, 9, &[open]).causes;
        assert_eq!(open.iter().filter(|cause| cause.column.is_some()).count(), 1);
    }
}
