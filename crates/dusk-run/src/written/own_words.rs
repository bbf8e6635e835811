//! What was found, in the words of the steward's sheet: columns by their headings, limits in the column's own unit,
//! names rather than codes.

use crate::Ready;
use dusk_description::{CodeList, FieldType, ReadAs};
use dusk_evidence::{
    Choices, CodeFact, ColumnId, Fact, Fault, FieldId, Finding, Kind, NamedCode, NumberFact, RecordFact,
};
use dusk_mapping::Map;
use dusk_rejects::Said;
use dusk_sources::{RowCells, Source, without_marks};
use dusk_values::{Decimal, Rounding, UnitConversion};

/// The words of the sheet that a job reads.
#[derive(Debug, Clone, Copy)]
pub(crate) struct OwnWords<'t> {
    ready: &'t Ready<'t>,
}

impl<'t> OwnWords<'t> {
    pub(crate) fn new(ready: &'t Ready<'t>) -> Self {
        Self { ready }
    }

    /// A finding about these columns of a source.
    pub(crate) fn said(
        &self,
        source: &Source,
        row: &RowCells<'_>,
        columns: &[ColumnId],
        finding: &Finding,
    ) -> Said {
        let fact = self.fact(&finding.fault.fact, finding);
        let fault = Fault { fact: Box::new(fact), ..finding.fault.clone() };
        let is_rule = matches!(finding.fault.kind(), Kind::RuleBroken | Kind::BatchRuleBroken);
        let headings: Vec<&str> = columns.iter().map(|column| source.heading(*column)).collect();
        let about = match headings.as_slice() {
            [] => finding.full_about(),
            _ if is_rule => finding.full_about(),
            headings => headings.join(" + "),
        };
        let cell = |column: &ColumnId| without_marks(row.cell(*column)).trim().to_owned();
        let value = match finding.fault.kind() {
            _ if is_rule => String::new(),
            // The finding has the key as the target writes it.
            Kind::DuplicateKey | Kind::KeyWithOtherFacts if !columns.is_empty() => {
                columns.iter().map(cell).collect::<Vec<_>>().join(" + ")
            }
            _ => finding.value.clone(),
        };
        Said { about, value, wrong: fault.wrong(), right: fault.right() }
    }

    fn map_of(&self, field: FieldId) -> Option<&'t Map> {
        self.ready.job.mapping.maps.iter().find(|map| map.field == field)
    }

    /// How a field is called: by the heading of the only column that feeds it.
    fn name_of(&self, field: FieldId) -> Option<&'t str> {
        match self.map_of(field)?.feed.columns().as_slice() {
            [only] => Some(only),
            _ => self.ready.job.target.fields.get(field).map(|field| field.name.as_str()),
        }
    }

    fn fact(&self, fact: &Fact, finding: &Finding) -> Fact {
        match fact {
            Fact::Part { part, column, fact } => Fact::Part {
                part: part.clone(),
                column: column.clone(),
                fact: Box::new(self.fact(fact, finding)),
            },
            Fact::Unmatched { fate, fact } => {
                Fact::Unmatched { fate: *fate, fact: Box::new(self.fact(fact, finding)) }
            }
            Fact::Number(fact) => {
                let own =
                    finding.field.and_then(|field| in_own_unit(fact, self.map_of(field)?, &finding.value));
                Fact::Number(own.unwrap_or_else(|| fact.clone()))
            }
            Fact::Code(fact) => {
                let own = finding.field.and_then(|field| self.by_names(fact, field));
                Fact::Code(own.unwrap_or_else(|| fact.clone()))
            }
            Fact::Record(RecordFact::RuleBroken { severity, says, must }) => {
                Fact::Record(RecordFact::RuleBroken {
                    severity: *severity,
                    says: says.clone(),
                    must: self.in_headings(must),
                })
            }
            other => other.clone(),
        }
    }

    /// A rule with the headings of columns in the place of fields.
    fn in_headings(&self, rule: &str) -> String {
        let is_name = |c: char| c.is_alphanumeric() || c == '_';
        let mut said = String::new();
        let mut rest = rule;
        while let Some(first) = rest.chars().next() {
            let end = match rest.find(|c| is_name(c) != is_name(first)) {
                Some(end) => end,
                None => rest.len(),
            };
            let (word, behind) = rest.split_at(end);
            let heading = self.ready.job.target.field(word).and_then(|field| self.name_of(field));
            said.push_str(heading.unwrap_or(word));
            rest = behind;
        }
        said
    }

    /// What was found about a code, with the names that the sheet has for codes.
    fn by_names(&self, fact: &CodeFact, field: FieldId) -> Option<CodeFact> {
        let described = self.ready.job.target.fields.get(field)?;
        let list = described.kind.codes()?;
        let reads_codes = self.map_of(field)?.read_as == ReadAs::Codes;
        let named = |code: &NamedCode| match code.label.as_str() {
            "" => code.clone(),
            _ if reads_codes => code.clone(),
            label => NamedCode { code: label.to_owned(), label: String::new() },
        };
        let all = |codes: &[NamedCode]| codes.iter().map(named).collect::<Vec<_>>();
        let some = |choices: &Choices| Choices { first: all(&choices.first), more: choices.more };
        let list_name = || list.name.clone();
        Some(match fact {
            CodeFact::NotACode { words, nearest, choices, foreign, .. } => CodeFact::NotACode {
                list: list_name(),
                words: *words,
                nearest: nearest.as_ref().map(named),
                choices: some(choices),
                foreign: *foreign,
            },
            CodeFact::DateForCode { choices, .. } => {
                CodeFact::DateForCode { list: list_name(), choices: some(choices) }
            }
            CodeFact::Undecided { codes, .. } => CodeFact::Undecided { list: list_name(), codes: all(codes) },
            CodeFact::ChangedUndecided { codes, .. } => {
                CodeFact::ChangedUndecided { list: list_name(), codes: all(codes) }
            }
            CodeFact::Retired { code, until, successor } => CodeFact::Retired {
                code: named(code),
                until: *until,
                successor: successor.as_ref().map(named),
            },
            CodeFact::OutsideParent { parent, belongs_to, choices, .. } => {
                let above = self.list_above(&described.kind);
                let name =
                    |code: &String| above.and_then(|list| label_of(list, code)).unwrap_or(code).to_owned();
                CodeFact::OutsideParent {
                    list: list_name(),
                    parent: name(parent),
                    belongs_to: belongs_to.iter().map(name).collect(),
                    choices: some(choices),
                }
            }
            CodeFact::WithoutParent { field: parent } => {
                let above = described.kind.parent().and_then(|parent| self.name_of(parent));
                CodeFact::WithoutParent { field: above.unwrap_or(parent).to_owned() }
            }
            _ => return None,
        })
    }

    /// The list of the field inside whose codes those of another one are valid.
    fn list_above(&self, kind: &FieldType) -> Option<&'t CodeList> {
        self.ready.job.target.fields.get(kind.parent()?)?.kind.codes()
    }
}

/// The label of a code, where it has one.
fn label_of<'l>(list: &'l CodeList, code: &str) -> Option<&'l String> {
    let known = list.codes().iter().find(|known| known.code == code)?;
    Some(&known.label).filter(|label| !label.is_empty())
}

/// What was found about a number, in the unit of its column; nothing where that is the target's.
fn in_own_unit(fact: &NumberFact, map: &Map, value: &str) -> Option<NumberFact> {
    let (number, limit, unit) = match fact {
        NumberFact::BelowMinimum { number, least, unit } => (number, least, unit.as_ref()?),
        NumberFact::AboveMaximum { number, most, unit } => (number, most, unit.as_ref()?),
        _ => return None,
    };
    let own = map.number.unit.filter(|own| own != unit)?;
    let back = UnitConversion::new(unit, own).ok()?;
    let number = Decimal::parse(value.trim())
        .or_else(|| number.scaled(back.factors, 6, Some(Rounding::HalfUp)).ok().map(|(number, _)| number))?;
    let limit = within(*limit, &back, matches!(fact, NumberFact::BelowMinimum { .. }))?;
    Some(match fact {
        NumberFact::BelowMinimum { .. } => NumberFact::BelowMinimum { number, least: limit, unit: Some(own) },
        _ => NumberFact::AboveMaximum { number, most: limit, unit: Some(own) },
    })
}

/// A limit in another unit, in four digits or a few more; rounded so that what it allows is allowed.
fn within(limit: Decimal, way: &UnitConversion, is_least: bool) -> Option<Decimal> {
    /// How many digits behind the point at most.
    const MOST: u32 = 9;
    /// Numbers from here on have four digits.
    const FOUR_DIGITS: i64 = 1_000;
    let shown = |decimals: u32, rounding: Rounding| limit.scaled(way.factors, decimals, Some(rounding)).ok();
    let is_below_zero = shown(MOST, Rounding::HalfUp)?.0 < Decimal::ZERO;
    let rounding = if is_least == is_below_zero { Rounding::Down } else { Rounding::Up };
    let enough = |decimals: u32, number: Decimal| {
        let tens = 10_i64.checked_pow(decimals).and_then(|tens| number.times(Decimal::whole(tens)));
        tens.is_some_and(|digits| {
            digits >= Decimal::whole(FOUR_DIGITS) || digits <= Decimal::whole(-FOUR_DIGITS)
        })
    };
    let mut all = (0..=MOST).filter_map(|decimals| Some((decimals, shown(decimals, rounding)?)));
    let fitting = all.find(|(decimals, (number, lost))| !lost || enough(*decimals, *number));
    fitting.map(|(_, (number, _))| number)
}

#[cfg(test)]
mod tests {
    use super::*;
    use dusk_values::Unit;

    #[test]
    fn a_limit_in_another_unit_allows_nothing_that_is_not() {
        let shown = |limit: &str, from: &str, to: &str, is_least: bool| {
            let units = [from, to].map(|symbol| Unit::named(symbol).unwrap());
            let way = UnitConversion::new(units[0], units[1]).unwrap();
            within(Decimal::parse(limit).unwrap(), &way, is_least).unwrap().to_string()
        };
        assert_eq!(shown("60", "kg", "lb", false), "132.2");
        assert_eq!(shown("60", "kg", "lb", true), "132.3");
        assert_eq!(shown("0", "kg", "lb", true), "0");
        assert_eq!(shown("2500", "kg", "t", false), "2.5");
        assert_eq!(shown("-18", "°C", "°F", false), "-0.4");
        assert_eq!(shown("-20.03", "°C", "°F", true), "-4.054");
        assert_eq!(shown("1", "g", "t", false), "0.000001");
    }
}
