//! The result of a run: remarks, totals, causes.

use std::fmt;
use std::path::Path;

use dusk_core::evidence::{Cause, Kind};
use dusk_core::run::{FieldTotal, Ready, Receipt, Summary};

use super::causes::{Causes, CausesShown, mapping_option};
use super::field_totals::{field_totals, limit_lines};
use super::layout::{counted, grouped, width, wrapped};
use super::style::{COMMAND, REMARK, styled};
use super::totals::{BesideLine, Totals, WithheldLine};
use super::visible::{shell_word, visible};

/// The result of a run for people.
pub(crate) struct Report<'r> {
    pub(crate) ready: &'r Ready<'r>,
    pub(crate) summary: &'r Summary,
    pub(crate) causes: CausesShown,
    /// The batch that was made.
    pub(crate) made: Option<&'r Path>,
    pub(crate) quiet: bool,
    /// The batch that was made of the same sources before.
    pub(crate) before: Option<&'r Receipt>,
    /// The name of the last batch before these.
    pub(crate) last: Option<&'r str>,
    /// What the fields that were asked for come to.
    pub(crate) totals: Vec<&'r FieldTotal>,
}

impl fmt::Display for Report<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if !self.quiet {
            // What every date of a column rests on comes first.
            let rests_on_all =
                |cause: &&Cause| matches!(cause.kind, Kind::OrderNotProven | Kind::CenturyDoubtful);
            let (first, others): (Vec<&Cause>, Vec<&Cause>) =
                self.summary.remarks.iter().partition(rests_on_all);
            first.into_iter().chain(others).try_for_each(|cause| remark(f, cause))?;
            if !self.summary.remarks.is_empty() {
                writeln!(f)?;
            }
        }
        let totals = self.summary.totals;
        Totals(self.summary).fmt(f)?;
        self.what_decisions_did(f)?;
        if self.ready.plan.makes_several() {
            let records = counted(self.summary.records, "record");
            writeln!(f, "  the accepted rows make {records}")?;
        }
        WithheldLine(self.summary).fmt(f)?;
        f.write_str(&limit_lines(&self.summary.limits))?;
        f.write_str(&field_totals(&self.totals))?;
        self.left_out(f)?;
        if self.summary.beside.is_some() && !self.quiet {
            self.beside(f)?;
        } else {
            self.records_again(f)?;
        }
        Causes {
            ready: self.ready,
            causes: &self.summary.causes,
            shown: self.causes,
            rejected: totals.rejected,
            explained: &self.summary.explained,
        }
        .fmt(f)?;
        self.next(f)
    }
}

/// What was noticed and keeps nothing out.
fn remark(f: &mut fmt::Formatter<'_>, remark: &Cause) -> fmt::Result {
    let value = if remark.example.is_empty() {
        remark.about.clone()
    } else {
        format!("{} \"{}\"", remark.about, remark.example)
    };
    let word = remark.kind.severity().word();
    let row = remark.row.with_line(remark.line);
    let place = match remark.count {
        _ if is_about_all(remark.kind) => String::new(),
        1 => format!("row {row}: "),
        count => format!("{} rows, first row {row}: ", grouped(count)),
    };
    let right = remark.fault.right();
    let right = if right.is_empty() { right } else { format!("; {right}") };
    let text = match remark.kind {
        Kind::FileNotNamed if remark.count > 1 => files_not_named(remark),
        _ => format!("{place}{} {}{right}", visible(&value), visible(&remark.fault.wrong())),
    };
    let margin = word.len() + 2;
    for (number, line) in wrapped(&text, width() - margin, 0).iter().enumerate() {
        let label = if number == 0 { format!("{}: ", styled(REMARK, word)) } else { " ".repeat(margin) };
        writeln!(f, "{label}{line}")?;
    }
    Ok(())
}

/// Files of a folder that no accepted record names, together.
fn files_not_named(remark: &Cause) -> String {
    /// How many are named.
    const NAMED: usize = 3;
    let first = remark.first.iter().take(NAMED).map(|place| format!("\"{}\"", visible(&place.value)));
    let first: Vec<String> = first.collect();
    let more = match remark.count.saturating_sub(first.len() as u64) {
        0 => String::new(),
        more => format!(" and {} more", grouped(more)),
    };
    let (about, count) = (visible(&remark.about), grouped(remark.count));
    format!(
        "{about}: no accepted record names {count} files of its folder: {}{more}; name them in records if they should be sent; findings.csv of a batch lists them",
        first.join(", ")
    )
}

/// Whether what is noticed is about a whole column or sheet, and no row in particular.
fn is_about_all(kind: Kind) -> bool {
    matches!(
        kind,
        Kind::ColumnNotMapped
            | Kind::FieldNotFed
            | Kind::HiddenRows
            | Kind::MergedCells
            | Kind::OrderNotProven
            | Kind::CenturyDoubtful
            | Kind::FileNotNamed
    )
}

impl Report<'_> {
    /// Why rows were left out.
    fn left_out(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let left_out = self.summary.totals.left_out;
        if left_out == 0 || self.quiet {
            return Ok(());
        }
        let no_record = |remark: &&Cause| {
            matches!(remark.kind, Kind::RepeatedHeader | Kind::ClosingLine | Kind::NothingRepeated)
        };
        let of_others = |remark: &&Cause| remark.kind == Kind::NotKept;
        let of_others: u64 = self.summary.remarks.iter().filter(of_others).map(|remark| remark.count).sum();
        let without: u64 = self.summary.remarks.iter().filter(no_record).map(|remark| remark.count).sum();
        let rows = |count: u64, one: &str, many: &str| match count {
            0 => None,
            1 => Some(format!("1 {one}")),
            count => Some(format!("{} {many}", grouped(count))),
        };
        let kept_out = self.summary.kept_out;
        let blank = left_out.saturating_sub(without + of_others + kept_out);
        let all = [
            rows(blank, "blank row", "blank rows"),
            rows(without, "row without a record", "rows without a record"),
            rows(
                of_others,
                "row of another kind, which [rows] does not keep",
                "rows of another kind, which [rows] does not keep",
            ),
            rows(kept_out, "row kept out as was decided", "rows kept out as was decided"),
        ];
        let all: Vec<String> = all.into_iter().flatten().collect();
        writeln!(f, "  left out: {}", all.join(" and "))
    }

    /// What the accepted records are beside those that the target holds.
    fn beside(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}", BesideLine { summary: self.summary, last: self.last })?;
        let gone = self.summary.beside.map_or(0, |counts| counts.gone - counts.removed);
        if gone > 0 {
            let source = self.ready.job.sources.first().map_or("", |source| source.name.as_str());
            let option = mapping_option(&self.ready.job.mapping.path);
            let command = styled(COMMAND, &format!("dusk compare {} --gone{option}", shell_word(source)));
            let are = if gone == 1 { "is" } else { "are" };
            let records = counted(gone, "record");
            writeln!(f, "  {records} that the target holds {are} not in this export:\n    {command}")?;
        }
        Ok(())
    }

    /// How many records the last batch had already.
    fn records_again(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (Some(counts), Some(last)) = (self.summary.again, self.last) else { return Ok(()) };
        let all = counts.same + counts.other;
        if all == 0 || self.quiet {
            return Ok(());
        }
        let what = match (counts.same, counts.other) {
            (_, 0) => "with the same facts".to_owned(),
            (0, _) => "with other facts".to_owned(),
            (same, other) => {
                format!("{} with the same facts, {} with other facts", grouped(same), grouped(other))
            }
        };
        let (records, were) = if all == 1 { ("record", "was") } else { ("records", "were") };
        writeln!(f, "  {} {records} {were} in batch {last} already, by the key: {what}", grouped(all))
    }

    /// What was decided since a batch was made of the same sources, and what that did.
    fn what_decisions_did(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Some(before) = self.before.filter(|_| !self.quiet) else { return Ok(()) };
        let Some(decisions_then) = before.decisions else { return Ok(()) };
        let decisions = self.ready.job.mapping.decisions().saturating_sub(decisions_then);
        let (then, now) = (before.totals.rejected, self.summary.totals.rejected);
        if decisions == 0 || now > then {
            return Ok(());
        }
        let made = counted(decisions, "decision");
        writeln!(
            f,
            "  {made} since batch {} settled {}; {} {}",
            before.batch,
            counted(then - now, "row"),
            grouped(now),
            if now == 1 { "remains" } else { "remain" }
        )
    }

    /// The one command that comes next.
    fn next(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.quiet {
            return Ok(());
        }
        let job = self.ready.job;
        let asked = job
            .asked
            .iter()
            .map(|(name, value)| format!(" --set {}", shell_word(&format!("{name}={value}"))));
        let asked: String = asked.collect();
        let option = format!("{}{asked}", mapping_option(&job.mapping.path));
        let sources = job.sources.iter().map(|source| shell_word(&source.name)).collect::<Vec<_>>().join(" ");
        let command = match (self.summary.causes.is_empty(), self.made) {
            (false, _) => format!("dusk review {sources}{option}"),
            (true, None) => format!("dusk conform {sources}{option}"),
            (true, Some(batch)) if job.target.delivery.is_some() => {
                let name =
                    batch.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
                format!("dusk deliver {}{}", shell_word(&name), mapping_option(&job.mapping.path))
            }
            (true, Some(_)) => return Ok(()),
        };
        writeln!(f, "\nnext: {}", styled(COMMAND, &command))
    }
}

/// What is new since the last batch, before everything else.
pub(crate) fn show_drift(drift: &[String], last: Option<&str>) -> String {
    let Some(last) = last.filter(|_| !drift.is_empty()) else { return String::new() };
    let mut out = format!("{}\n", styled(REMARK, &format!("new since batch {last}: {}", drift.len())));
    for says in drift {
        for (place, line) in wrapped(&visible(says), width().saturating_sub(4), 0).iter().enumerate() {
            out.push_str(if place == 0 { "  - " } else { "    " });
            out.push_str(line);
            out.push('\n');
        }
    }
    out.push('\n');
    out
}
