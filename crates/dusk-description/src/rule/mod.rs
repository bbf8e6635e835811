//! The rule language: what must hold between the fields of a record, or over all records of a batch.
//!
//! ```text
//! rule       = all { "or" all }
//! all        = single { "and" single }
//! single     = "not" single | "(" rule ")" | comparison
//! comparison = sum compare sum | sum "is" [ "not" ] ( "blank" | sum )
//!            | sum "between" sum "and" sum | sum [ "not" ] "in" "(" sum { "," sum } ")"
//!            | sum ( "matches" | "does not match" ) "regular expression" | field of true and false
//! compare    = "=" | "!=" | "<" | "<=" | ">" | ">="
//! sum        = product { ( "+" | "-" ) product }
//! product    = signed { "*" signed }
//! signed     = "-" signed | term
//! term       = field | "{any field name}" | 12.5 | "text" | 2026-03-04 | 09:30 | true | false | today
//!            | ( "length" | "year" | "month" | "day" | "weekday" | "date" | "time" ) "of" term
//!            | "days between" sum "and" sum | "(" sum ")"
//!            | "number of records" | "number of different" field | "sum of" field { "*" field }
//!            | "smallest" field | "largest" field
//! ```
//!
//! Blank has one meaning: what is reckoned with a blank is blank, and what is compared with a blank is
//! undecided. `and`, `or` and `not` carry that on where it matters, and a rule that stays undecided
//! rejects nothing: whether a field may be blank is said by `required`, or by `is not blank`.
//! Numbers are exact decimals; what grows past 30 digits counts as blank.

mod evaluate;
mod expression;
mod over;
mod parse;
mod tally;
mod tree;
mod words;

use std::ops::Range;

use jiff::civil::Date;

use dusk_evidence::{FieldId, Severity};
use dusk_values::{Value, ValueType};

use evaluate::Scene;
pub use expression::Expression;
use parse::Parser;
pub use tally::{Reckoned, RecordShare, Tally};
use tree::{Condition, Term};

/// A rule as it stands in `target.toml`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RuleText {
    /// What the rule is called.
    pub name: String,
    /// What must hold.
    pub must: String,
    /// When it applies; always where this is left out.
    pub when: Option<String>,
    /// What to tell a steward whose row breaks it.
    pub says: String,
    /// Whether it keeps records out.
    pub severity: Severity,
    /// The fields whose values divide the records into groups.
    pub for_each: Vec<String>,
    /// In which order records are proposed to be left out where a rule over them does not hold: names of fields, each
    /// with "largest" before it where the largest value goes first.
    pub leave_out_first: Vec<String>,
}

impl RuleText {
    /// A rule that always applies and rejects.
    pub fn must(must: impl Into<String>) -> Self {
        Self {
            name: String::new(),
            must: must.into(),
            when: None,
            says: String::new(),
            severity: Severity::Reject,
            for_each: Vec::new(),
            leave_out_first: Vec::new(),
        }
    }
}

/// A rule of the target, parsed and type-checked.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Rule {
    /// The rule as it is written.
    pub text: RuleText,
    must: Condition,
    when: Option<Condition>,
    for_each: Vec<FieldId>,
    leave_out_first: Vec<LeaveOutFirst>,
}

/// By which field records are proposed to be left out, and whether the largest value goes first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LeaveOutFirst {
    /// The field.
    pub field: FieldId,
    /// The largest value goes first.
    pub is_largest: bool,
}

/// Why a rule cannot be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RuleError {
    /// What is wrong.
    pub says: String,
    /// What would be right.
    pub hint: String,
    /// The word, where it was taken for a field that does not exist.
    pub unknown_field: Option<String>,
    /// Where it is wrong, in bytes of the text.
    pub at: Range<usize>,
    /// The text that is wrong.
    pub text: String,
}

impl RuleError {
    fn new(says: impl Into<String>, hint: &str, at: Range<usize>) -> Self {
        Self { says: says.into(), hint: hint.to_owned(), unknown_field: None, at, text: String::new() }
    }

    fn of(self, text: &str) -> Self {
        Self { text: text.to_owned(), ..self }
    }

    /// The text with a mark below the word that is wrong.
    pub fn pointed(&self) -> String {
        let before = self.text.get(..self.at.start).unwrap_or(&self.text).chars().count();
        let wrong = self.text.get(self.at.clone()).unwrap_or_default().chars().count().max(1);
        format!("    {}\n    {}{}", self.text, " ".repeat(before), "^".repeat(wrong))
    }
}

impl Rule {
    /// Reads a rule. `field` gives the place and the type of a field by its name.
    ///
    /// # Errors
    /// Names the word that is wrong and says where it stands.
    pub fn parse(
        text: RuleText,
        field: &dyn Fn(&str) -> Option<(FieldId, ValueType)>,
    ) -> Result<Self, RuleError> {
        let read = |text: &str| {
            words::split(text)
                .and_then(|words| Parser::new(&words, text.len(), field).parse())
                .map_err(|error| error.of(text))
        };
        let must = read(&text.must)?;
        let when = text.when.as_deref().map(read).transpose()?;
        let mut for_each = Vec::new();
        for name in &text.for_each {
            let (place, _) = field(name).ok_or_else(|| RuleError {
                unknown_field: Some(name.clone()),
                ..RuleError::new(format!("for_each names no field \"{name}\""), "", 0..name.len()).of(name)
            })?;
            for_each.push(place);
        }
        let mut leave_out_first = Vec::new();
        for written in &text.leave_out_first {
            let (is_largest, name) = match written.trim().strip_prefix("largest ") {
                Some(name) => (true, name.trim()),
                None => (false, written.trim().strip_prefix("smallest ").unwrap_or(written).trim()),
            };
            let (field, _) = field(name).ok_or_else(|| RuleError {
                unknown_field: Some(name.to_owned()),
                ..RuleError::new(format!("leave_out_first names no field \"{name}\""), "", 0..written.len())
                    .of(written)
            })?;
            leave_out_first.push(LeaveOutFirst { field, is_largest });
        }
        let rule = Self { text, must, when, for_each, leave_out_first };
        rule.check_groups()?;
        Ok(rule)
    }

    /// A rule over many records speaks of single fields only where they are the same in the group.
    fn check_groups(&self) -> Result<(), RuleError> {
        let about = |says: String, hint: &str| {
            Err(RuleError::new(says, hint, 0..self.text.must.len()).of(&self.text.must))
        };
        let mut over_in_when = false;
        if let Some(when) = &self.when {
            when.each_term(&mut |term| over_in_when |= matches!(term, Term::Over(..)));
        }
        if over_in_when {
            let when = self.text.when.as_deref().unwrap_or_default();
            let error = RuleError::new(
                "when looks at one record, but this adds up many",
                "put it into must",
                0..when.len(),
            );
            return Err(error.of(when));
        }
        if !self.is_over_records() {
            if !self.leave_out_first.is_empty() {
                return about(
                    "leave_out_first is for rules over many records, and this looks at one".into(),
                    "take it away: a row that breaks this rule is rejected",
                );
            }
            if self.for_each.is_empty() {
                return Ok(());
            }
            return about(
                "for_each makes groups of records, and this looks at one".into(),
                "use number of records, sum of … or take for_each away",
            );
        }
        let mut single = None;
        self.must.each_term(&mut |term| {
            if let Term::Field(place, name) = term
                && !self.for_each.contains(place)
            {
                single.get_or_insert_with(|| name.clone());
            }
        });
        match single {
            Some(name) => about(
                format!("{name} differs from record to record, and the rule is over all of them"),
                "write smallest, largest or sum of it, or name it in for_each",
            ),
            None => Ok(()),
        }
    }

    /// True when the rule is over all records of a batch, or of a group.
    pub fn is_over_records(&self) -> bool {
        let mut over = false;
        self.must.each_term(&mut |term| over |= matches!(term, Term::Over(..)));
        over
    }

    /// In which order records are proposed to be left out where it does not hold.
    pub fn leave_out_first(&self) -> &[LeaveOutFirst] {
        &self.leave_out_first
    }

    /// Whether the rule holds for a record whose fields `value` gives, each with its text; nothing
    /// when it does not apply or a blank leaves it undecided.
    pub fn holds<'v>(&self, today: Date, value: &dyn Fn(FieldId) -> (Value, &'v str)) -> Option<bool> {
        let scene = Scene { value, over: &|_, _| None, today, loosely: false };
        if !self.applies_in(&scene) {
            return None;
        }
        scene.holds(&self.must)
    }

    /// The same for texts as an export has them, in which case and blanks do not count.
    pub fn holds_loosely<'v>(
        &self,
        today: Date,
        value: &dyn Fn(FieldId) -> (Value, &'v str),
    ) -> Option<bool> {
        let scene = Scene { value, over: &|_, _| None, today, loosely: true };
        if self.applies_in(&scene) { scene.holds(&self.must) } else { None }
    }

    fn applies_in(&self, scene: &Scene<'_, '_>) -> bool {
        self.when.as_ref().is_none_or(|when| scene.holds(when) == Some(true))
    }

    /// The fields that the rule speaks of, by their places, each once.
    pub fn fields(&self) -> Vec<FieldId> {
        let mut fields = Vec::new();
        let mut note = |place: FieldId| {
            if !fields.contains(&place) {
                fields.push(place);
            }
        };
        for condition in self.when.iter().chain([&self.must]) {
            condition.each_term(&mut |term| match term {
                Term::Field(place, _) => note(*place),
                Term::Over(_, fields) => fields.iter().for_each(|(place, _)| note(*place)),
                _ => {}
            });
        }
        self.for_each.iter().for_each(|place| note(*place));
        fields
    }
}

impl std::fmt::Display for Rule {
    /// What must hold, as the language writes it.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}", self.must)
    }
}

#[cfg(test)]
mod tests;
