//! Causes: the findings that one decision would settle, counted together.

use hashbrown::HashMap;

use super::{Finding, Grouping, Kind};
use crate::source::{Line, Row};

/// How many different causes are told apart before further ones are only counted together, so
/// that a column of a million different wrong values does not fill the memory.
const MOST_CAUSES: usize = 20_000;

/// Findings that one decision would settle.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Cause {
    /// Which kind of finding.
    pub kind: Kind,
    /// The field by its place in the target; nothing when it is about whole rows.
    pub field: Option<usize>,
    /// The field's name, or what else it is about.
    pub about: String,
    /// The value, where the value is what has to be decided.
    pub value: Option<String>,
    /// How many findings there are.
    pub count: u64,
    /// The source of the first one, from 0.
    pub source: usize,
    /// The row of the first one.
    pub row: Row,
    /// The line of the first one.
    pub line: Line,
    /// The value of the first one.
    pub example: String,
    /// What is wrong, in the first one.
    pub wrong: String,
    /// What would be right, in the first one.
    pub right: String,
}

#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct CauseKey {
    kind: Kind,
    about: String,
    value: Option<String>,
}

/// Counts findings by cause as they come in, in the order of the rows.
#[derive(Debug, Default)]
pub struct Causes {
    causes: Vec<Cause>,
    places: HashMap<CauseKey, usize>,
}

impl Causes {
    /// Counts one finding.
    pub fn add(&mut self, finding: &Finding) {
        let kind = finding.fault.kind;
        let about = finding.about.clone();
        let decided = finding.fault.part.as_ref().unwrap_or(&finding.value);
        let value =
            (kind.grouping() == Grouping::Value && self.causes.len() < MOST_CAUSES).then(|| decided.clone());
        let full = CauseKey { kind, about: finding.about.clone(), value: Some(decided.clone()) };
        let key = if self.places.contains_key(&full) { full } else { CauseKey { kind, about, value } };
        let value = key.value.clone();
        let place = *self.places.entry(key).or_insert_with(|| {
            self.causes.push(Cause {
                kind,
                field: finding.field,
                about: finding.about.clone(),
                value,
                count: 0,
                source: finding.source,
                row: finding.row,
                line: finding.line,
                example: finding.value.clone(),
                wrong: finding.fault.wrong.clone(),
                right: finding.fault.right.clone(),
            });
            self.causes.len() - 1
        });
        if let Some(cause) = self.causes.get_mut(place) {
            cause.count += 1;
        }
    }

    /// The causes, the largest first; among equals the one met first.
    pub fn largest_first(mut self) -> Vec<Cause> {
        self.causes.sort_by(|a, b| b.count.cmp(&a.count).then((a.source, a.row).cmp(&(b.source, b.row))));
        self.causes
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::finding::Fault;

    fn finding(kind: Kind, row: u64, value: &str, part: Option<&str>) -> Finding {
        let fault = Fault { part: part.map(str::to_owned), ..Fault::new(kind, "is wrong", "right") };
        let (row, line) = (Row(row), Line(row));
        Finding::new(0, (row, line), "f", value, fault).at_field(0)
    }

    #[test]
    fn findings_that_one_decision_settles_are_one_cause() {
        let mut causes = Causes::default();
        for (row, value) in [(2, "x"), (3, "y"), (4, "y")] {
            causes.add(&finding(Kind::NotACode, row, value, None));
        }
        causes.add(&finding(Kind::NotACode, 5, "a; y", Some("y")));
        for row in 6..9 {
            causes.add(&finding(Kind::AboveMaximum, row, &row.to_string(), None));
        }
        let causes = causes.largest_first();
        let seen: Vec<_> =
            causes.iter().map(|cause| (cause.count, cause.row.0, cause.value.as_deref())).collect();
        assert_eq!(seen, [(3, 3, Some("y")), (3, 6, None), (1, 2, Some("x"))]);
        assert_eq!(causes[1].example, "6");
    }
}
