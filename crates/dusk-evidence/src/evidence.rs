//! One idea of evidence: a claim about how something is to be read, what supports each reading,
//! what contradicts it, and a verdict. Every part of the program shows it in the same words.

use std::fmt;

use serde::Serialize;

use crate::Claim;

/// What the evidence comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case", tag = "verdict", content = "reading")]
pub enum Verdict {
    /// The data leaves one reading.
    Proven(String),
    /// The mapping says so; the data was not asked.
    Named(String),
    /// The data leaves several readings.
    Undecided(Vec<String>),
    /// Groups of rows disagree, each of which is named.
    Contradicted(Vec<String>),
    /// A program converted some of the values wrongly and left the others; the words say which.
    HalfConverted(String),
    /// The data leaves several readings, which make no difference to what is wanted: this one was taken.
    NoMatter(String),
    /// No value needs a decision.
    NotNeeded,
}

/// A value that speaks for or against a reading.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Example {
    /// Where it stands: "row 17" or "line 4".
    pub place: String,
    /// The value.
    pub value: String,
    /// How it reads, in a form that cannot be misread.
    pub reads: String,
}

/// One way of reading.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct Reading {
    /// What it is called in the mapping.
    pub name: String,
    /// How much supports it.
    pub supports: u64,
    /// How much contradicts it.
    pub contradicts: u64,
    /// What the counts mean: "values allow no other order".
    pub counted: String,
    /// The first values that support it, or what it would make of the first values.
    pub examples: Vec<Example>,
    /// The first values that contradict it.
    pub against: Vec<Example>,
}

/// A claim with everything that speaks for and against it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Evidence {
    /// What it is about.
    pub claim: Claim,
    /// The verdict.
    #[serde(flatten)]
    pub verdict: Verdict,
    /// The readings that were weighed.
    pub readings: Vec<Reading>,
    /// What else points one way; a suggestion only.
    pub suggests: Vec<String>,
    /// The lines of the mapping that decide it, where a decision is needed.
    pub settle: Vec<String>,
}

impl Evidence {
    /// Evidence for a reading that the mapping names.
    pub fn named(claim: Claim, reading: impl Into<String>) -> Self {
        Self::new(claim, Verdict::Named(reading.into()))
    }

    /// Evidence with this verdict and nothing else yet.
    pub fn new(claim: Claim, verdict: Verdict) -> Self {
        Self { claim, verdict, readings: Vec::new(), suggests: Vec::new(), settle: Vec::new() }
    }

    /// True when a person has to decide.
    pub fn needs_decision(&self) -> bool {
        use Verdict::{Named, NoMatter, NotNeeded, Proven};
        !matches!(self.verdict, Proven(_) | Named(_) | NoMatter(_) | NotNeeded)
    }

    /// The lines of the mapping that decide it, without those that name the field and its column.
    pub fn lines_of_map(&self) -> impl Iterator<Item = &String> {
        let begins_map =
            |line: &str| ["[[map]]", "field ", "from "].iter().any(|head| line.starts_with(head));
        self.settle.iter().filter(move |line| !begins_map(line))
    }

    /// The verdict in a few words: "windows-1252 (proven)".
    pub fn verdict_shown(&self) -> String {
        match &self.verdict {
            Verdict::Proven(reading) => format!("{reading} (proven)"),
            Verdict::Named(reading) => format!("{reading} (as the mapping says)"),
            Verdict::Undecided(readings) => format!("undecided between {}", readings.join(" and ")),
            Verdict::Contradicted(groups) => format!("contradicted: {}", groups.join("; ")),
            Verdict::HalfConverted(how) => format!("half converted: {how}"),
            Verdict::NoMatter(reading) => {
                format!("{reading} (taken; under others no column that feeds a field reads otherwise)")
            }
            Verdict::NotNeeded => "not needed".into(),
        }
    }

    /// Every reading with what speaks for and against it, one line each, without the verdict.
    pub fn details(&self) -> Vec<String> {
        let wide = self.readings.iter().map(|reading| reading.name.chars().count()).max().unwrap_or(0);
        let mut lines = Vec::new();
        for reading in &self.readings {
            let mut line = format!("{:<wide$}  {}", reading.name, reading);
            line.truncate(line.trim_end().len());
            lines.push(line);
        }
        lines.extend(self.suggests.iter().map(|suggestion| format!("a suggestion only: {suggestion}")));
        lines
    }
}

/// The words as they stand after this number: "rows of 4 cells" are one "row of 4 cells".
fn number_of(count: u64, words: &str) -> String {
    let end = words.find(|c: char| !c.is_alphabetic()).unwrap_or(words.len());
    let verbs = [(" are ", " is "), (" have ", " has "), (" name ", " names "), (" hold ", " holds ")];
    match words.split_at_checked(end) {
        Some((first, rest)) if count == 1 && first.len() > 2 => {
            let rest = verbs
                .iter()
                .find(|(many, _)| rest.starts_with(many))
                .map_or(rest.to_owned(), |(many, one)| rest.replacen(many, one, 1));
            format!("{}{rest}", first.strip_suffix('s').unwrap_or(first))
        }
        _ => words.to_owned(),
    }
}

impl fmt::Display for Example {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} \"{}\"", self.place, self.value)?;
        if self.reads.is_empty() { Ok(()) } else { write!(f, " = {}", self.reads) }
    }
}

impl fmt::Display for Reading {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if !self.counted.is_empty() {
            write!(f, "{} {}", self.supports, number_of(self.supports, &self.counted))?;
        }
        if self.contradicts > 0 {
            write!(f, ", {} contradict it", self.contradicts)?;
        }
        let shown =
            |examples: &[Example]| examples.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ");
        if !self.examples.is_empty() {
            let word = if self.counted.is_empty() {
                ""
            } else if self.supports == 0 {
                "; it would make "
            } else if self.supports == 1 {
                "; "
            } else {
                "; first "
            };
            write!(f, "{word}{}", shown(&self.examples))?;
        }
        if self.against.is_empty() { Ok(()) } else { write!(f, "; against it {}", shown(&self.against)) }
    }
}

impl fmt::Display for Evidence {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.claim, self.verdict_shown())?;
        for line in self.details() {
            write!(f, "\n  {line}")?;
        }
        Ok(())
    }
}
