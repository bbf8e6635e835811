//! A draft as the files that a steward keeps: `target.toml` and its code lists.

use std::fmt::Write as _;

use super::claim::{Assertion, Claims, Drafted, DraftedList, Question, Setting, Weight};
use dusk_evidence::Result;
use dusk_values::ValueType;

/// The keys of a field in the order in which they are written.
const KEYS: [&str; 23] = [
    "heading",
    "label",
    "also",
    "description",
    "type",
    "digits",
    "max_length",
    "pattern",
    "format",
    "decimals",
    "all_decimals",
    "unit",
    "min",
    "max",
    "not_before",
    "not_after",
    "codes",
    "within",
    "separator",
    "column_per_code",
    "never_send",
    "required",
    "key",
];

/// The keys of `[upload]` in the order in which they are written.
const UPLOAD_KEYS: [&str; 15] = [
    "format",
    "database",
    "table",
    "sheet",
    "encoding",
    "bom",
    "delimiter",
    "quote",
    "quoting",
    "decimal_mark",
    "minus",
    "line_end",
    "header",
    "labels",
    "max_rows",
];

/// The column at which the comments begin, where the lines before them are short enough.
const COMMENTS_AT: usize = 44;

/// What a field's values are compared as, judged by its type.
pub(super) fn value_type(claims: &Claims) -> ValueType {
    match claims.text("type") {
        Some("integer" | "decimal") => ValueType::Number,
        Some("date") => ValueType::Date,
        Some("datetime") => ValueType::DateTime,
        Some("time") => ValueType::Time,
        Some("boolean") => ValueType::Boolean,
        _ => ValueType::Text,
    }
}

/// A question about one field or several.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Grouped {
    /// How much hangs on it.
    pub weight: Weight,
    /// The fields, the list or the file that it is about.
    pub about: String,
    /// What is open, with the place.
    pub says: String,
}

impl Grouped {
    /// The rules that are written out in it, each of which was tried.
    pub fn suggestion(&self) -> Option<String> {
        let begins = self.says.find("[[rule]] when = '").or_else(|| self.says.find("[[rule]] must = '"))?;
        let rest = self.says.get(begins..)?;
        let ends = rest.rfind("'")? + 1;
        rest.get(..ends).map(str::to_owned)
    }
}

impl Drafted {
    /// The text of `target.toml`.
    pub fn toml(&self) -> String {
        let mut text = String::from(
            "# Drafted from what the target's owner supplied. The comment behind each line says where it comes from.\n",
        );
        if !self.questions.is_empty() {
            text.push_str("#\n# To settle before it is used:\n");
            for (number, Grouped { about, says, .. }) in (1..).zip(self.grouped_questions()) {
                let line = format!("{number}. {about}: {says}").replace(['\n', '\r'], " ");
                let _ = writeln!(text, "#  {line}");
            }
        }
        text.push_str("\n[target]\n");
        let _ = writeln!(text, "name = {}", Setting::Text(self.name.clone()).toml());
        if let Some(version) = &self.version {
            let _ = writeln!(text, "version = {}", Setting::Text(version.clone()).toml());
        }
        text.push_str("\n[upload]\n");
        let place = |claim: &&Assertion| {
            UPLOAD_KEYS.iter().position(|key| *key == claim.key).unwrap_or(UPLOAD_KEYS.len())
        };
        let mut claims: Vec<&Assertion> = self.upload.0.iter().collect();
        claims.sort_by_key(place);
        write_claims(&mut text, &claims);
        for field in &self.fields {
            text.push_str("\n[[field]]\n");
            let order =
                |claim: &&Assertion| KEYS.iter().position(|key| *key == claim.key).unwrap_or(KEYS.len());
            let mut claims: Vec<&Assertion> = field.claims.0.iter().collect();
            claims.sort_by_key(order);
            let name =
                Assertion { key: "name", value: Setting::Text(field.name.clone()), from: field.from.clone() };
            claims.insert(0, &name);
            write_claims(&mut text, &claims);
        }
        for rule in &self.rules {
            text.push_str("\n[[rule]]\n");
            let must = format!("must = {}", Setting::Text(rule.must.clone()).toml());
            write_line(&mut text, &must, &rule.from.to_string());
            let _ = writeln!(text, "says = {}", Setting::Text(rule.says.clone()).toml());
        }
        text
    }

    /// The questions, those that say the same of several fields as one.
    pub fn grouped_questions(&self) -> Vec<Grouped> {
        let mut grouped: Vec<(Vec<&Question>, &str)> = Vec::new();
        for question in &self.questions {
            match grouped.iter_mut().find(|(_, says)| *says == question.says) {
                Some((all, _)) => all.push(question),
                None => grouped.push((vec![question], &question.says)),
            }
        }
        let one = |(all, says): (Vec<&Question>, &str)| {
            let mut about: Vec<&str> = Vec::new();
            for question in &all {
                if !about.contains(&question.about.as_str()) {
                    about.push(&question.about);
                }
            }
            let from = match all.as_slice() {
                [only] if only.from == super::claim::nowhere() => String::new(),
                [only] => format!(" ({})", only.from),
                [first, ..] => format!(" (first at {})", first.from),
                [] => String::new(),
            };
            let weight = all.iter().map(|question| question.weight).min().unwrap_or(Weight::Open);
            Grouped { weight, about: about.join(", "), says: format!("{says}{from}") }
        };
        grouped.into_iter().map(one).collect()
    }
}

fn write_claims(text: &mut String, claims: &[&Assertion]) {
    let widest = claims.iter().map(|claim| claim.key.len()).max().unwrap_or(0);
    for claim in claims {
        let line = format!("{:widest$} = {}", claim.key, claim.value.toml());
        write_line(text, &line, &claim.from.to_string());
    }
}

fn write_line(text: &mut String, line: &str, from: &str) {
    let from = from.replace(['\n', '\r'], " ");
    let _ = writeln!(text, "{line:COMMENTS_AT$} # {from}");
}

impl DraftedList {
    /// The list as a comma-separated file.
    ///
    /// # Errors
    /// [`Error::Invariant`](dusk_evidence::Error::Invariant) when memory cannot be written to.
    pub fn csv(&self) -> Result<Vec<u8>> {
        let invariant = |error: &dyn std::fmt::Display| dusk_evidence::Error::Invariant(error.to_string());
        let mut writer = csv::Writer::from_writer(Vec::new());
        let any = |wanted: fn(&dusk_description::Code) -> bool| self.codes.iter().any(wanted);
        let (also, within) = (any(|code| !code.also.is_empty()), any(|code| !code.within.is_empty()));
        let (until, successor) = (any(|code| code.until.is_some()), any(|code| !code.replaced_by.is_empty()));
        let row = |cells: [String; 6]| {
            let wanted = [true, true, also, within, until, successor];
            cells
                .into_iter()
                .zip(wanted)
                .filter(|(_, wanted)| *wanted)
                .map(|(cell, _)| cell)
                .collect::<Vec<_>>()
        };
        let header = ["code", "label", "also", "within", "until", "replaced_by"].map(str::to_owned);
        writer.write_record(row(header)).map_err(|error| invariant(&error))?;
        for code in &self.codes {
            let until = code.until.map_or_else(String::new, |day| day.to_string());
            let cells = [
                code.code.clone(),
                code.label.clone(),
                code.also.join("|"),
                code.within.clone(),
                until,
                code.replaced_by.clone(),
            ];
            writer.write_record(row(cells)).map_err(|error| invariant(&error))?;
        }
        writer.into_inner().map_err(|error| invariant(&error))
    }
}
