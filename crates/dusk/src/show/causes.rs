//! Causes, each with where it is first met and the command or the line that settles it.

use std::fmt;

use dusk_core::description::MeansA;
use dusk_core::evidence::{Cause, CodeFact, Fact, Fault, Grouping, Id as _, Kind, SourceId};
use dusk_core::mapping::Mapping;
use dusk_core::run::{Job, Ready, Settle};

use super::layout::{columns, counted, cut, grouped, padded, width, wrapped};
use super::style::{COMMAND, NAME, QUIET, WRONG, styled};
use super::visible::{shell_word, visible};

/// How many causes are shown unless all are asked for.
const FEW: usize = 8;

/// How wide the column of what causes are about may get.
const ABOUT: usize = 30;

/// Which causes of a run are shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum CausesShown {
    /// How many there are, and what the largest is about.
    Count,
    /// The largest.
    Largest,
    /// All of them.
    All,
}

/// The causes of a run.
pub(super) struct Causes<'r> {
    pub(super) ready: &'r Ready<'r>,
    pub(super) causes: &'r [Cause],
    pub(super) shown: CausesShown,
    /// How many rows are rejected.
    pub(super) rejected: u64,
    /// For each cause, how many rejected rows are explained by it and those before it.
    pub(super) explained: &'r [u64],
}

/// How many rows have to be rejected before shares of them say anything.
const ENOUGH: u64 = 10;

impl fmt::Display for Causes<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let shown = match self.shown {
            CausesShown::All => self.causes,
            CausesShown::Largest => self.causes.get(..FEW).unwrap_or(self.causes),
            CausesShown::Count => return self.counted(f),
        };
        let widest = |texts: Vec<usize>| texts.into_iter().max().unwrap_or(0);
        let counts = widest(shown.iter().map(|cause| columns(&grouped(cause.count))).collect());
        let abouts = widest(
            shown
                .iter()
                .map(|cause| columns(&about_cause(self.ready.job.mapping, cause)).min(ABOUT))
                .collect(),
        );
        self.explained_by(f, shown.len())?;
        for cause in shown {
            writeln!(f)?;
            self.one(f, cause, counts, abouts)?;
        }
        let rest = self.causes.get(shown.len()..).unwrap_or_default();
        if !rest.is_empty() {
            let findings: u64 = rest.iter().map(|cause| cause.count).sum();
            writeln!(
                f,
                "\n  and {} smaller causes with {} findings: {}",
                grouped(rest.len() as u64),
                grouped(findings),
                styled(COMMAND, "--all-causes")
            )?;
        }
        Ok(())
    }
}

impl Causes<'_> {
    /// How many causes there are, and the largest of them in one line.
    fn counted(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Some(largest) = self.causes.first() else { return Ok(()) };
        let label = cause_label(self.ready.job.mapping, largest, true);
        let findings = counted(largest.count, "finding");
        let says = match self.causes.len() {
            1 => format!("one cause: {label} ({findings})"),
            count => format!("{count} causes, the largest: {label} ({findings})"),
        };
        let sources = self.ready.job.sources.iter().map(|source| shell_word(&source.name));
        let sources = sources.collect::<Vec<_>>().join(" ");
        let check = format!("dusk check {sources}{}", mapping_option(&self.ready.job.mapping.path));
        for line in wrapped(&format!("{says}; {check} lists them"), width() - 2, 0) {
            writeln!(f, "  {line}")?;
        }
        Ok(())
    }

    /// How much of the rejects the causes that are shown explain.
    fn explained_by(&self, f: &mut fmt::Formatter<'_>, shown: usize) -> fmt::Result {
        let share = |rows: &u64| (rows * 100).checked_div(self.rejected).unwrap_or(0);
        let is_all = shown >= self.causes.len();
        if self.rejected < ENOUGH || is_all || shown == 0 {
            return Ok(());
        }
        let share = self.explained.get(shown - 1).map_or(0, share);
        writeln!(
            f,
            "  the {shown} largest of {} causes explain {share} % of the rejected rows",
            self.causes.len()
        )
    }

    fn one(&self, f: &mut fmt::Formatter<'_>, cause: &Cause, counts: usize, abouts: usize) -> fmt::Result {
        let of_batch = cause.kind == Kind::BatchRuleBroken;
        let what = match (cause.field, cause.count) {
            _ if of_batch => "group",
            (Some(_), 1) => "cell ",
            (Some(_), _) => "cells",
            (None, 1) => "row  ",
            (None, _) => "rows ",
        };
        let count = grouped(cause.count);
        let margin = 2 + counts + 1 + what.len() + 2;
        let indent = " ".repeat(margin);
        let gap = " ".repeat(counts - columns(&count).min(counts));
        write!(f, "  {gap}{} {what}  ", styled(WRONG, &count))?;
        let head = padded(&cut(&about_cause(self.ready.job.mapping, cause), ABOUT), abouts);
        write!(f, "{}  ", styled(NAME, &head))?;
        let says = match &cause.value {
            _ if cause.column.is_some() => cause
                .column
                .as_ref()
                .map_or_else(String::new, |column| visible(&column.fact.says()).into_owned()),
            None if cause.of.is_some() => {
                let of = cause.of.unwrap_or_default();
                format!("{} of {} are {}", grouped(cause.count), grouped(of), cause.kind.title())
            }
            Some(value) if !value.is_empty() && cause.kind != Kind::TargetRefused => {
                format!("\"{}\"  {}", cut(&visible(value), 60), cause.fault.wrong())
            }
            Some(_) => cause.fault.wrong().clone(),
            None => cause.kind.title().to_owned(),
        };
        let lines = wrapped(&says, width() - margin, columns(&head) + 2);
        for (place, line) in lines.iter().enumerate() {
            if place > 0 {
                write!(f, "{indent}")?;
            }
            writeln!(f, "{line}")?;
        }
        for detail in cause.column.iter().flat_map(|column| column.fact.details()) {
            for (place, line) in wrapped(&visible(&detail), width() - margin - 2, 2).iter().enumerate() {
                writeln!(f, "{indent}{}{line}", if place == 0 { "" } else { "  " })?;
            }
        }
        let has_details = cause.column.as_ref().is_some_and(|column| !column.fact.details().is_empty());
        let right = cause.fault.right();
        let mut labelled = |label: &str, says: &str| -> fmt::Result {
            let inner = label.len() + 2;
            for (place, line) in
                wrapped(says, width().saturating_sub(margin + inner).max(20), 0).iter().enumerate()
            {
                match place {
                    0 => writeln!(f, "{indent}{} {line}", styled(QUIET, &format!("{label}:")))?,
                    _ => writeln!(f, "{indent}{}{line}", " ".repeat(inner))?,
                }
            }
            Ok(())
        };
        if of_batch {
            labelled("expected", &format!("the rule is {right}"))?;
        } else {
            if let Some((label, right)) = expected(&cause.fault).filter(|_| !has_details) {
                labelled(label, &right)?;
            }
            labelled(if cause.count == 1 { "row" } else { "rows" }, &self.rows(cause))?;
        }
        if let Some(settle) = settle_command(self.ready.job, cause) {
            writeln!(f, "{indent}{} {}", styled(QUIET, "do:"), styled(COMMAND, &settle))?;
        }
        Ok(())
    }

    /// Where the cause is met first, an example, and how much of the rejects it is.
    fn rows(&self, cause: &Cause) -> String {
        let source = match self.ready.job.sources {
            [_, _, ..] => self
                .ready
                .job
                .sources
                .get(cause.source.index())
                .map_or_else(String::new, |source| format!(" of {}", source.name)),
            _ => String::new(),
        };
        let others = cause.first.iter().skip(1).take(3).filter(|place| place.source == cause.source);
        let rows = std::iter::once(cause.row.with_line(cause.line))
            .chain(others.filter(|place| place.row != cause.row).map(|place| place.row.to_string()));
        let rows: Vec<String> = rows.collect();
        let listed = rows.len();
        let rows = rows.join(", ");
        // Evidence says more than its first value.
        let has_details = cause.column.as_ref().is_some_and(|column| !column.fact.details().is_empty());
        let example = match cause.kind.grouping() {
            _ if has_details => String::new(),
            Grouping::Value if cause.value.is_some() => String::new(),
            _ if cause.example.is_empty() => format!(": {}", cause.fault.wrong()),
            _ => format!(": \"{}\" {}", cut(&visible(&cause.example), 60), cause.fault.wrong()),
        };
        let share = match (cause.rows * 100).checked_div(self.rejected) {
            Some(share) if self.rejected >= ENOUGH && share > 0 => {
                format!("; {share} % of the rejected rows")
            }
            _ => String::new(),
        };
        let earlier = match &cause.earlier {
            Some((had, batch)) => {
                format!("; the same records had \"{}\" in batch {batch}", visible(had))
            }
            None => String::new(),
        };
        let more = if cause.count as usize > listed { " …" } else { "" };
        format!("{rows}{more}{source}{example}{earlier}{share}")
    }
}

/// What is expected, with the label that it is shown behind.
pub(super) fn expected(fault: &Fault) -> Option<(&'static str, String)> {
    if let Fact::Code(CodeFact::NotACode { nearest: Some(code), .. }) = &*fault.fact {
        return Some(("nearest", visible(&code.to_string()).into_owned()));
    }
    let right = fault.right();
    (!right.is_empty()).then(|| ("expected", visible(&right).into_owned()))
}

/// What a cause is about: the heading of its column first, as the steward knows it, and the field's name behind it.
fn about_cause(mapping: &Mapping, cause: &Cause) -> String {
    let name = visible(&cause.about);
    match heading_of(mapping, cause) {
        Some(heading) => format!("{heading} ({name})"),
        None => name.into_owned(),
    }
}

/// The heading of the one column that feeds a cause's field, where that is another word than the field's name.
fn heading_of(mapping: &Mapping, cause: &Cause) -> Option<String> {
    let headings = mapping.headings_for(cause.field?, "");
    let [heading] = headings.as_slice() else { return None };
    (!heading.eq_ignore_ascii_case(&cause.about)).then(|| visible(heading).into_owned())
}

/// A cause by its heading alone, for where there is little room.
pub(crate) fn cause_short_label(mapping: &Mapping, cause: &Cause) -> String {
    let about = heading_of(mapping, cause).unwrap_or_else(|| visible(&cause.about).into_owned());
    labelled_about(about, cause, true)
}

/// A cause in a few words: what it is about, and its value where that may be told.
pub(crate) fn cause_label(mapping: &Mapping, cause: &Cause, with_value: bool) -> String {
    labelled_about(about_cause(mapping, cause), cause, with_value)
}

fn labelled_about(about: String, cause: &Cause, with_value: bool) -> String {
    match cause.value.as_deref().filter(|value| with_value && !value.is_empty()) {
        Some(value) if cause.within.is_empty() => format!("{about} \"{}\"", visible(value)),
        Some(value) => format!("{about} \"{}\" in {}", visible(value), visible(&cause.within)),
        None => format!("{about}: {}", cause.kind.title()),
    }
}

/// What is wrong in a cause and what would be right, in one sentence.
pub(crate) fn cause_says(cause: &Cause) -> String {
    let wrong = match (&cause.column, cause.of) {
        (Some(wrong), _) => wrong.fact.says(),
        (None, Some(of)) => format!("{} of {} are {}", grouped(cause.count), grouped(of), cause.kind.title()),
        (None, None) => cause.fault.wrong().clone(),
    };
    let right =
        if cause.fault.right().is_empty() { String::new() } else { format!("; {}", cause.fault.right()) };
    visible(&format!("{wrong}{right}")).into_owned()
}

/// Lines of a mapping beside one another; one that is only a comment belongs to the one before.
pub(crate) fn in_one_line(lines: &[String]) -> String {
    let mut all = String::new();
    for line in lines {
        if !all.is_empty() {
            all.push_str(if line.starts_with('#') { "   " } else { "  and  " });
        }
        all.push_str(line);
    }
    all
}

/// What a command needs that is to use this mapping.
pub(crate) fn mapping_option(path: &std::path::Path) -> String {
    let mapping = path.display().to_string();
    if mapping == "mapping.toml" { String::new() } else { format!(" -m {}", shell_word(&mapping)) }
}

/// The command or the line of the mapping that settles the cause; nothing where its rows have to be
/// mended one by one.
pub(crate) fn settle_command(job: &Job<'_>, cause: &Cause) -> Option<String> {
    let option = mapping_option(&job.mapping.path);
    match job.way_to_settle(cause) {
        Settle::Crosswalk { field, value, within, answers } => {
            let answer = match answers.first().filter(|likely| likely.is_whole) {
                Some(likely) => shell_word(&likely.answer),
                None => open_answer(job, cause, &value).to_owned(),
            };
            let within =
                if within.is_empty() { String::new() } else { format!(" --within {}", shell_word(&within)) };
            Some(format!("dusk crosswalk add {field} {} {answer}{within}{option}", shell_word(&value)))
        }
        Settle::Mapping { field, lines } => {
            let field = if field.is_empty() { String::new() } else { format!(", under {field}") };
            let mapping = job.mapping.path.display();
            Some(format!("in {mapping}{field}: {}", in_one_line(&lines)))
        }
        Settle::Cell { source, row, column, answers } => {
            let whole = answers.first().filter(|likely| likely.is_whole);
            let answer = whole.map_or("VALUE".into(), |likely| shell_word(&likely.answer));
            let (source, column) = (source_word(job, source), shell_word(&column));
            Some(format!("dusk correct {source} {row} {column} {answer}{option}"))
        }
        Settle::KeepOut { source, row } => {
            Some(format!("dusk correct {} {row} --keep-out{option}", source_word(job, source)))
        }
        Settle::Rows => None,
    }
}

/// A source as a shell takes it.
fn source_word(job: &Job<'_>, source: SourceId) -> String {
    shell_word(job.sources.get(source.index()).map_or("", |source| source.name.as_str()))
}

/// What stands for an answer that nobody can suggest.
fn open_answer(job: &Job<'_>, cause: &Cause, value: &str) -> &'static str {
    let Some(field) = cause.field.and_then(|field| job.target.fields.get(field)) else {
        return "VALUE";
    };
    let letters: String =
        value.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect();
    let says_nothing = matches!(letters.as_str(), "" | "na" | "nil" | "none" | "unknown" | "tbc" | "tba");
    match field.kind.means() {
        _ if says_nothing && !field.required => "--leave-blank",
        // What says nothing is not a term either.
        _ if cause.kind == Kind::NewTerm && !says_nothing => "--new-term",
        MeansA::Word => "WORD",
        MeansA::Code => "CODE",
        MeansA::Value => "VALUE",
    }
}
