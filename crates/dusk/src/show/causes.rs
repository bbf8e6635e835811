//! Causes, each with where it is first met and the command or the line that settles it.

use std::fmt;

use dusk_core::batch::Ready;
use dusk_core::finding::{Cause, Grouping, Kind};
use dusk_core::target::FieldType;

use super::layout::{columns, cut, grouped, padded, width, wrapped};
use super::style::{COMMAND, NAME, QUIET, WRONG, styled};
use super::visible::{shell_word, visible};

/// How many causes are shown unless all are asked for.
const FEW: usize = 20;

/// How wide the column of field names may get.
const ABOUT: usize = 20;

/// The causes of a run.
pub(super) struct Causes<'r> {
    pub(super) ready: &'r Ready<'r>,
    pub(super) causes: &'r [Cause],
    pub(super) all: bool,
}

impl fmt::Display for Causes<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let shown = if self.all { self.causes } else { self.causes.get(..FEW).unwrap_or(self.causes) };
        let widest = |texts: Vec<usize>| texts.into_iter().max().unwrap_or(0);
        let counts = widest(shown.iter().map(|cause| columns(&grouped(cause.count))).collect());
        let abouts = widest(shown.iter().map(|cause| columns(&about(cause)).min(ABOUT)).collect());
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
        let head = padded(&cut(&about(cause), ABOUT), abouts);
        write!(f, "{}  ", styled(NAME, &head))?;
        let says = match &cause.value {
            Some(value) if !value.is_empty() => format!("\"{}\"  {}", cut(&visible(value), 60), cause.wrong),
            Some(_) => cause.wrong.clone(),
            None => cause.kind.title().to_owned(),
        };
        let lines = wrapped(&says, width() - margin, columns(&head) + 2);
        for (place, line) in lines.iter().enumerate() {
            if place > 0 {
                write!(f, "{indent}")?;
            }
            writeln!(f, "{line}")?;
        }
        let first = if of_batch { format!("the rule is {}", cause.right) } else { self.first(cause) };
        for line in wrapped(&first, width() - margin, 0) {
            writeln!(f, "{indent}{}", styled(QUIET, &line))?;
        }
        if let Some(settle) = self.settle(cause) {
            writeln!(f, "{indent}settle: {}", styled(COMMAND, &settle))?;
        }
        Ok(())
    }

    /// Where the cause is first met, and what would be right.
    fn first(&self, cause: &Cause) -> String {
        let row = cause.row.with_line(cause.line);
        let source = match self.ready.job.sources {
            [_, _, ..] => self
                .ready
                .job
                .sources
                .get(cause.source)
                .map_or_else(String::new, |source| format!(" of {}", source.name)),
            _ => String::new(),
        };
        let place = if cause.count == 1 { "at row" } else { "first at row" };
        let example = match cause.kind.grouping() {
            Grouping::Value if cause.value.is_some() => String::new(),
            _ if cause.example.is_empty() => format!(": {}", cause.wrong),
            _ => format!(": \"{}\" {}", cut(&visible(&cause.example), 60), cause.wrong),
        };
        let right = if cause.right.is_empty() { String::new() } else { format!("; {}", cause.right) };
        format!("{place} {row}{source}{example}{right}")
    }

    /// The command that settles the cause, where a crosswalk line does.
    pub(super) fn settle(&self, cause: &Cause) -> Option<String> {
        let field = self.ready.job.target.fields.get(cause.field?)?;
        let value = cause.value.as_deref().filter(|value| !value.is_empty())?;
        let code = match cause.kind {
            Kind::NotACode | Kind::CodeUndecided => {
                let list = field.kind.codes()?;
                // In a divided list the nearest code depends on the row; the finding has named it.
                let near =
                    list.codes().iter().find(|code| cause.right == format!("nearest: {}", code.shown()));
                near.map_or_else(|| "CODE".to_owned(), |code| code.code.clone())
            }
            // Nothing in the data says which of the two it is.
            Kind::NotABoolean if matches!(field.kind, FieldType::Boolean { .. }) => "WORD".to_owned(),
            _ => return None,
        };
        let mapping = self.ready.job.mapping.path.display().to_string();
        let mapping =
            if mapping == "mapping.toml" { String::new() } else { format!(" -m {}", shell_word(&mapping)) };
        Some(format!(
            "dusk crosswalk add {} {} {}{mapping}",
            field.name,
            shell_word(value),
            shell_word(&code)
        ))
    }
}

fn about(cause: &Cause) -> String {
    visible(&cause.about).into_owned()
}
