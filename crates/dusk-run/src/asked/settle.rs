//! How a cause is settled: the likely answers, and what would have to be decided where.
//!
//! Everything here is a suggestion; nothing is ever applied unasked.

use crate::Job;
use dusk_conforming::check_limits;
use dusk_decisions::BEYOND;
use dusk_description::{
    Code, CodeList, CodeType, CodesLayout, CodesType, Field, FieldType, MeansA, ReferenceType,
};
use dusk_evidence::{
    Cause, CausePlace, CodeFact, DateFact, Explains, Fact, Fault, Kind, NamedCode, Row, SettledBy, SourceId,
    TextFact,
};
use dusk_mapping::{Feed, Map};
use dusk_values::{Value, ValueType};

/// One way of settling a cause.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Settle {
    /// A line of the field's crosswalk.
    Crosswalk {
        /// The field's name.
        field: String,
        /// The value as the source has it.
        value: String,
        /// Inside which parent code; empty for anywhere.
        within: String,
        /// The likely answers, the likeliest first; where there are none, the steward has to know.
        answers: Vec<Likely>,
    },
    /// Lines of the mapping.
    Mapping {
        /// The field whose `[[map]]` they belong to; empty where they say it themselves.
        field: String,
        /// The lines.
        lines: Vec<String>,
    },
    /// One cell.
    Cell {
        /// The source, from 0.
        source: SourceId,
        /// Its row.
        row: Row,
        /// The heading of its column.
        column: String,
        /// The likely answers, the likeliest first.
        answers: Vec<Likely>,
    },
    /// One row, which is kept out.
    KeepOut {
        /// The source, from 0.
        source: SourceId,
        /// Its row.
        row: Row,
    },
    /// Row by row, in the rejects or on the screen.
    Rows,
}

/// A likely answer.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Likely {
    /// The answer: a code, a word for true or false, a value.
    pub answer: String,
    /// The same as people read it.
    pub shown: String,
    /// What speaks for it.
    pub why: String,
    /// True where the whole value is this and nothing else by its spelling or its sound, or something other than
    /// its words speaks for it. Only then it is filled in; an answer that takes a part of a value would lose the rest.
    pub is_whole: bool,
}

impl Likely {
    fn value(value: String, why: &str) -> Self {
        Self { shown: value.clone(), answer: value, why: why.into(), is_whole: true }
    }

    /// What the same record had in an earlier batch.
    fn earlier(field: &Field, had: &str, batch: &str) -> Self {
        // Several codes stand in the upload as the target parts them, and in a crosswalk with bars.
        let answer = match &field.kind {
            FieldType::Codes(CodesType { layout: CodesLayout::Joined(separator), .. }) => {
                had.replace(separator.as_str(), "|")
            }
            _ => had.to_owned(),
        };
        let codes = field.kind.codes().and_then(|list| list.several(&answer));
        let shown = codes.map(|codes| codes.into_iter().map(Code::shown).collect::<Vec<_>>().join(", "));
        Self {
            shown: shown.unwrap_or_else(|| answer.clone()),
            answer,
            why: format!("the same record had it in batch {batch}"),
            is_whole: true,
        }
    }

    fn code(code: &Code, why: &str, is_whole: bool) -> Self {
        Self { answer: code.code.clone(), shown: code.shown(), why: why.to_owned(), is_whole }
    }
}

/// How many likely answers are given.
const FEW: usize = 4;

/// The codes that a fault itself names.
fn named_by(fault: &Fault, list: &CodeList) -> Vec<Likely> {
    let by_code = |named: &NamedCode| list.codes().iter().find(|code| code.code == named.code);
    let (codes, why) = match fault.fact.innermost() {
        Fact::Code(CodeFact::Retired { successor: Some(successor), .. }) => {
            (std::slice::from_ref(successor), "the successor of the retired code")
        }
        Fact::Code(CodeFact::Undecided { codes, .. } | CodeFact::ChangedUndecided { codes, .. }) => {
            (codes.as_slice(), "one of those that it could mean")
        }
        _ => return Vec::new(),
    };
    let is_whole = codes.len() == 1;
    codes.iter().filter_map(by_code).map(|code| Likely::code(code, why, is_whole)).collect()
}

/// A value written so that the field's pattern takes it.
fn written_as_wanted(field: &Field, value: &str) -> Vec<Likely> {
    let fits = |text: &str| {
        let mut faults = Vec::new();
        check_limits(field, (None, None), text, Value::Text, &mut faults);
        faults.is_empty()
    };
    let written = [
        (value.to_uppercase(), "the pattern takes it in capitals"),
        (value.to_lowercase(), "the pattern takes it in small letters"),
        (value.split_whitespace().collect(), "the pattern takes it without spaces"),
    ];
    let fitting = written.into_iter().filter(|(text, _)| text != value && fits(text));
    fitting.map(|(answer, why)| Likely::value(answer, why)).collect()
}

impl Job<'_> {
    /// How a cause would be settled.
    pub fn way_to_settle(&self, cause: &Cause) -> Settle {
        if let Some(column) = &cause.column {
            // Those that are about several fields name them in their lines.
            let field = match column.explains {
                Explains::OneKind(place, _) | Explains::Values(place, ..) => self.target.fields.get(place),
                Explains::Fields(_) | Explains::Exchange(..) => None,
            };
            let field = field.map_or_else(String::new, |field| field.name.clone());
            return Settle::Mapping { field, lines: column.lines.clone() };
        }
        if let (SettledBy::KeepOut, [CausePlace { source, row, .. }]) =
            (cause.kind.settled_by(), cause.first.as_slice())
        {
            return Settle::KeepOut { source: *source, row: *row };
        }
        let Some(field) = cause.field.and_then(|place| self.target.fields.get(place)) else {
            return self.cell(cause).unwrap_or(Settle::Rows);
        };
        if let Some(lines) = self.mapping_lines(cause) {
            return Settle::Mapping { field: field.name.clone(), lines };
        }
        // In a field that depends on another one, the other may be the wrong one: that is seen in the row.
        if cause.kind == Kind::CodeOutsideParent {
            return self.cell(cause).unwrap_or(Settle::Rows);
        }
        match &cause.value {
            Some(value) if !value.is_empty() && self.takes_crosswalk(cause, field) => Settle::Crosswalk {
                field: field.name.clone(),
                value: value.clone(),
                within: cause.within.clone(),
                answers: self.likely(cause, field, value),
            },
            _ => self.cell(cause).unwrap_or(Settle::Rows),
        }
    }

    fn map_of(&self, cause: &Cause) -> Option<&Map> {
        self.mapping.maps.iter().find(|map| Some(map.field) == cause.field)
    }

    /// Whether what a value means can be said once for all rows that have it.
    fn takes_crosswalk(&self, cause: &Cause, field: &Field) -> bool {
        match cause.kind.settled_by() {
            SettledBy::ListLine => true,
            SettledBy::ValueLine => field.kind.means() == MeansA::Value && cause.count > 1,
            SettledBy::MappingKey | SettledBy::KeepOut | SettledBy::Cell => false,
        }
    }

    /// The likely answers for a value.
    fn likely(&self, cause: &Cause, field: &Field, value: &str) -> Vec<Likely> {
        let inside = Some(cause.within.as_str()).filter(|within| !within.is_empty());
        let mut answers: Vec<Likely> = Vec::new();
        answers.extend(cause.earlier.as_ref().map(|(had, batch)| Likely::earlier(field, had, batch)));
        match &field.kind {
            FieldType::Code(CodeType { list, .. }) | FieldType::Codes(CodesType { list, .. }) => {
                answers.extend(named_by(&cause.fault, list));
                let near = list.likely(value, inside, self.today);
                answers.extend(
                    near.into_iter().map(|(code, why)| Likely::code(code, why.words(), why.is_whole())),
                );
            }
            FieldType::Reference(ReferenceType { known }) => {
                let near = known.nearest(value);
                answers.extend(near.map(|near| Likely::value(near.to_owned(), "spelt nearly so")));
            }
            _ if cause.kind == Kind::WrongPattern => answers.extend(written_as_wanted(field, value)),
            _ => {}
        }
        let mut seen: Vec<String> = Vec::new();
        answers.retain(|likely| {
            let is_new = !seen.contains(&likely.answer);
            seen.push(likely.answer.clone());
            is_new
        });
        answers.truncate(FEW);
        answers
    }

    /// The lines of the mapping that would settle a cause, where they cannot be tried: what stands for them is open.
    fn mapping_lines(&self, cause: &Cause) -> Option<Vec<String>> {
        if cause.kind.settled_by() != SettledBy::MappingKey {
            return None;
        }
        let line = match cause.fault.fact.innermost() {
            Fact::Date(DateFact::OffsetUnclear(ValueType::Date)) => {
                "zone = \"…\"   # the clock whose day is meant, as \"Europe/Oslo\""
            }
            Fact::Text(TextFact::RequiredBlank) if cause.of.is_none() && cause.count > 1 => {
                let fed = self.map_of(cause).is_some_and(|map| !map.feed.columns().is_empty());
                if fed { "if_blank = \"…\"" } else { "constant = \"…\"" }
            }
            _ => return None,
        };
        Some(vec![line.to_owned()])
    }

    /// The single cell that a cause is about.
    fn cell(&self, cause: &Cause) -> Option<Settle> {
        let [CausePlace { source, row, repeat, .. }] = cause.first.as_slice() else { return None };
        let column = match (&self.map_of(cause)?.feed, cause.kind) {
            (Feed::Column(_), _) => match self.mapping.headings_for(cause.field?, repeat).as_slice() {
                [heading] => heading.clone(),
                // It may be any of several.
                _ => return None,
            },
            (_, Kind::RowTooLong) => BEYOND.to_owned(),
            _ => return None,
        };
        if cause.count > 1 {
            return None;
        }
        let field = cause.field.and_then(|place| self.target.fields.get(place));
        // A cell holds what the source would write, and only here that is what the target writes.
        let value = cause.value.as_deref().filter(|_| cause.kind == Kind::WrongPattern);
        let answers =
            field.zip(value).map_or_else(Vec::new, |(field, value)| self.likely(cause, field, value));
        Some(Settle::Cell { source: *source, row: *row, column, answers })
    }
}
