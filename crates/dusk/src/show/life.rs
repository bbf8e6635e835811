//! The life of a row or a cell.

use std::fmt;

use dusk_core::conforming::{Input, Judged, Outcome, Several};
use dusk_core::description::Standing;
use dusk_core::evidence::{Fault, FieldId, Id as _, Severity, Slot};
use dusk_core::run::{ExplainedRecord, Explanation, Ready, RecordBeside};
use dusk_core::sources::{CellKind, Patch};

use super::causes::expected;
use super::digest::in_one_line;
use super::layout::{behind, columns, cut, padded, width, wrapped};
use super::style::{GOOD, Ink, NAME, QUIET, REMARK, WRONG, styled};
use super::visible::visible;

/// What became of one row, and why.
pub(crate) struct Life<'r> {
    pub(crate) ready: &'r Ready<'r>,
    pub(crate) explanation: &'r Explanation,
    pub(crate) field: Option<FieldId>,
}

/// What a record is beside those that the target holds: "the target holds it as it is, row 2 of held.csv; it is not sent".
fn beside_line(beside: &RecordBeside) -> String {
    let what = match beside.standing {
        Standing::New => "the target does not hold it",
        Standing::Changed => "the target holds it otherwise",
        Standing::Same => "the target holds it as it is",
    };
    let place = beside.held.as_ref().map_or_else(String::new, |(row, list)| format!(", row {row} of {list}"));
    format!("{what}{place}; it is {}sent", if beside.is_sent { "" } else { "not " })
}

impl fmt::Display for Life<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let explanation = self.explanation;
        let fate = match explanation.fate {
            Judged::Accepted => styled(GOOD, "accepted"),
            Judged::Rejected => styled(WRONG, "rejected"),
            Judged::Merged => styled(GOOD, "merged"),
            Judged::LeftOut => {
                let why = match explanation.findings.first() {
                    Some(finding) => match finding.fault.why_left_out() {
                        Some(why) => format!("left out, {why}"),
                        None => format!("left out, because it {}", finding.fault.wrong()),
                    },
                    None => "left out, because every cell is blank".into(),
                };
                styled(REMARK, &why)
            }
        };
        let row = format!(
            "row {} of {}",
            explanation.row.with_line(explanation.line),
            visible(&explanation.source)
        );
        writeln!(f, "{}: {fate}", styled(NAME, &row))?;
        if explanation.records.is_empty() && explanation.fate != Judged::LeftOut {
            writeln!(f)?;
            for (column, cell, _) in &explanation.cells {
                writeln!(f, "  {}  \"{}\"", padded(&visible(column), 20), visible(cell))?;
            }
        }
        for record in &explanation.records {
            if let Some(title) = record.title() {
                writeln!(f, "\n{}", styled(NAME, &visible(&title)))?;
            }
            if let Some(beside) = record.beside.as_ref().filter(|_| explanation.fate == Judged::Accepted) {
                writeln!(f, "  {}", visible(&beside_line(beside)))?;
            }
            for ((place, plan), outcome) in self.ready.plan.fields.with_ids().zip(&record.outcomes) {
                if record.holds(plan) && self.field.is_none_or(|wanted| wanted == place) {
                    writeln!(f)?;
                    let cells = as_exported(explanation);
                    self.one(
                        f,
                        &fed_name(record, &plan.field.name, &plan.input),
                        &feed(self.ready, record, &plan.input),
                        (&source_text(&cells, record, &plan.input), self.source_kind(record, &plan.input)),
                        &self.corrected(record, &plan.input),
                        outcome,
                    )?;
                    self.evidence(f, place)?;
                }
            }
        }
        self.row_findings(f)
    }
}

impl Life<'_> {
    /// One field: what the source has, each step, what the upload file gets, what was found.
    fn one(
        &self,
        f: &mut fmt::Formatter<'_>,
        name: &str,
        feed: &str,
        (source, kind): (&str, &str),
        corrected: &[(String, String)],
        outcome: &Outcome,
    ) -> fmt::Result {
        writeln!(f, "{}", format!("{}  {}", styled(NAME, name), styled(QUIET, feed)).trim_end())?;
        let mut lines: Vec<(&str, String, String)> = vec![("source", quoted(source), kind.to_owned())];
        for (now, why) in corrected {
            let why = why.strip_prefix("correction, ").unwrap_or(why);
            lines.push(("correction", quoted(now), why.to_owned()));
        }
        for taken in &outcome.trail.taken {
            lines.push((taken.basis.step().name(), quoted(&taken.after), taken.basis.to_string()));
        }
        if outcome.faults.is_empty() && !outcome.unjudged {
            let step = if self.explanation.fate == Judged::Accepted { "upload" } else { "would be" };
            let unchanged = if outcome.trail.changed() || !corrected.is_empty() { "" } else { "unchanged" };
            lines.push((step, quoted(&outcome.text), unchanged.into()));
        }
        let values = lines.iter().map(|(_, value, _)| columns(value)).max().unwrap_or(0).min(48);
        for (step, value, evidence) in &lines {
            let head = format!("  {}  {}", padded(step, 11), padded(&cut(value, 48), values));
            let margin = columns(&head) + 2;
            let mut evidence = wrapped(evidence, width().saturating_sub(margin).max(20), 0).into_iter();
            writeln!(f, "{}", format!("{head}  {}", evidence.next().unwrap_or_default()).trim_end())?;
            for more in evidence {
                writeln!(f, "{}{more}", " ".repeat(margin))?;
            }
        }
        if outcome.unjudged {
            let label = styled(REMARK, &padded("not judged", 11));
            writeln!(f, "  {label}  the field that it depends on is rejected in this row")?;
        }
        for fault in outcome.faults.iter().chain(&outcome.remarks) {
            let severity = styled(severity_style(fault), &padded(fault.kind().severity().word(), 11));
            write!(f, "{}", behind(&format!("  {severity}  "), 15, &visible(&fault.wrong())))?;
            if let Some((label, right)) = expected(fault) {
                let label = styled(QUIET, &padded(label, 11));
                write!(f, "{}", behind(&format!("  {label}  "), 15, &right))?;
            }
        }
        Ok(())
    }

    /// What proves how the field's column is read, in the words of every other command.
    fn evidence(&self, f: &mut fmt::Formatter<'_>, field: FieldId) -> fmt::Result {
        for found in self.ready.evidence.iter().filter(|found| found.field == field) {
            let text = format!("{}: {}", found.evidence.claim, in_one_line(&found.evidence));
            for (number, line) in wrapped(&visible(&text), width() - 15, 0).iter().enumerate() {
                let label = if number == 0 { "evidence" } else { "" };
                writeln!(f, "  {}  {line}", styled(QUIET, &padded(label, 11)))?;
            }
        }
        Ok(())
    }

    fn row_findings(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let whole_row = self.explanation.findings.iter().filter(|finding| finding.field.is_none());
        for finding in whole_row {
            let value = if finding.value.is_empty() {
                String::new()
            } else {
                format!(" \"{}\"", visible(&finding.value))
            };
            let fault = &finding.fault;
            let text = format!("{}{value} {}", finding.about, fault.wrong());
            let severity = styled(severity_style(fault), &padded(fault.kind().severity().word(), 8));
            write!(f, "\n{}", behind(&format!("{severity}  "), 10, &text))?;
            if let Some((label, right)) = expected(fault) {
                let label = styled(QUIET, &padded(label, 8));
                write!(f, "{}", behind(&format!("{label}  "), 10, &right))?;
            }
        }
        Ok(())
    }

    /// The cell of a column that is used, by its place in the plan.
    fn cell(&self, record: &ExplainedRecord, slot: Slot) -> Option<&(String, String, CellKind)> {
        let wanted = record.headings.get(slot)?;
        self.explanation.cells.iter().find(|(column, ..)| column == wanted)
    }

    /// What cells that feed a field were corrected to, and who decided.
    fn corrected(&self, record: &ExplainedRecord, input: &Input<'_>) -> Vec<(String, String)> {
        let headings: Vec<&String> =
            input.columns().iter().filter_map(|slot| record.headings.get(*slot)).collect();
        let heading =
            |patch: &Patch| self.explanation.cells.get(patch.column.index()).map(|(column, ..)| column);
        let corrected = self.explanation.corrected.iter();
        corrected
            .filter(|patch| heading(patch).is_some_and(|heading| headings.contains(&heading)))
            .map(|patch| (patch.now.clone(), patch.why.clone()))
            .collect()
    }

    /// What a workbook says that the cell is which feeds a field.
    fn source_kind(&self, record: &ExplainedRecord, input: &Input<'_>) -> &'static str {
        let Input::Column(slot) = input else { return "" };
        match self.cell(record, *slot) {
            Some((.., kind)) if *kind != CellKind::Text => kind.word(),
            _ => "",
        }
    }
}

/// The cells of a row as the source has them, without what was corrected.
fn as_exported(explanation: &Explanation) -> Vec<(String, String, CellKind)> {
    let mut cells = explanation.cells.clone();
    for patch in &explanation.corrected {
        if let Some((_, cell, _)) = cells.get_mut(patch.column.index()) {
            cell.clone_from(&patch.was);
        }
    }
    cells
}

/// The cells that feed a field, as the source has them.
pub(super) fn source_text(
    cells: &[(String, String, CellKind)],
    record: &ExplainedRecord,
    input: &Input<'_>,
) -> String {
    match input {
        Input::Number => record.label.clone(),
        Input::Group => record.group.clone(),
        Input::MadeOf(parts, _) => {
            let text = |part: &FieldId| record.outcomes.get(*part).map_or("", |outcome| &outcome.text);
            parts.iter().map(text).collect::<Vec<_>>().join(" + ")
        }
        _ => {
            let cell = |slot: &Slot| {
                let wanted = record.headings.get(*slot);
                cells
                    .iter()
                    .find(|(column, ..)| Some(column) == wanted)
                    .map_or("", |(_, cell, _)| cell.as_str())
            };
            input.columns().iter().map(cell).collect::<Vec<_>>().join(" + ")
        }
    }
}

/// A field by the heading of its column first, as the steward knows it, where one column feeds it.
fn fed_name(record: &ExplainedRecord, name: &str, input: &Input<'_>) -> String {
    let heading = match input {
        Input::Column(slot) => {
            record.headings.get(*slot).filter(|heading| !heading.eq_ignore_ascii_case(name))
        }
        _ => None,
    };
    heading.map_or_else(|| name.to_owned(), |heading| format!("{} ({name})", visible(heading)))
}

/// What feeds a field, in words; nothing where that is one column, by whose heading it is called.
fn feed(ready: &Ready<'_>, record: &ExplainedRecord, input: &Input<'_>) -> String {
    let names = || {
        let name =
            |slot: &Slot| format!("\"{}\"", visible(record.headings.get(*slot).map_or("", String::as_str)));
        input.columns().iter().map(name).collect::<Vec<_>>().join(", ")
    };
    match input {
        Input::Nothing => "fed by nothing".into(),
        Input::Constant(_) => "the same in every record".into(),
        Input::Number => "the repeat".into(),
        Input::Group => "the group of the row".into(),
        Input::Column(_) => String::new(),
        Input::Several(_, Several::Join(_)) => format!("joined from {}", names()),
        Input::Several(_, Several::InUnits) => format!("from {}, the second naming the unit", names()),
        Input::Several(_, Several::FirstOf(_)) => format!("from the first that is not blank of {}", names()),
        Input::Several(_, Several::Filled { nth, .. }) => {
            format!("from number {nth} of those that are not blank of {}", names())
        }
        Input::Several(_, Several::WorkedOut { worked_out, .. }) => {
            format!("worked out as {}", visible(&worked_out.written))
        }
        Input::Several(_, Several::Together(_)) => format!("taken together from {}", names()),
        Input::Several(_, Several::Flags(_)) => format!("from what {} say", names()),
        Input::Several(_, Several::LookUp(look_up)) => {
            format!("looked up in {} by {}", visible(&look_up.file), names())
        }
        Input::MadeOf(parts, _) => {
            let name =
                |part: &FieldId| ready.plan.fields.get(*part).map_or("", |plan| plan.field.name.as_str());
            format!("made of {}", parts.iter().map(name).collect::<Vec<_>>().join(", "))
        }
    }
}

fn severity_style(fault: &Fault) -> Ink {
    if fault.kind().severity() == Severity::Reject { WRONG } else { REMARK }
}

fn quoted(text: &str) -> String {
    if text.is_empty() { "(blank)".into() } else { format!("\"{}\"", visible(text)) }
}
