//! What the target said of a batch.

use std::fmt;

use dusk_core::delivery::{Answered, Told, reasons};
use dusk_core::description::AnswerOutcome;
use serde_json::{Value, json};

use super::layout::{columns, counted, cut, grouped, padded, width, wrapped};
use super::style::{COMMAND, GOOD, NAME, QUIET, REMARK, WRONG, styled};
use super::visible::{shell_word, visible};

/// How many reasons, and how many lines that cannot be taken, are shown.
const FEW: usize = 8;

/// What the target said of a batch.
pub(crate) struct AnswerShown<'a> {
    pub(crate) batch: &'a str,
    /// The answer.
    pub(crate) file: &'a str,
    /// The name of the target.
    pub(crate) target: &'a str,
    pub(crate) answered: &'a Answered,
    /// The option that names its mapping.
    pub(crate) option: &'a str,
    /// It was recorded.
    pub(crate) is_kept: bool,
}

impl fmt::Display for AnswerShown<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.lines_not_taken(f)?;
        self.reasons(f)?;
        let counts = self.answered.counts;
        let part =
            |count: u64, style| if count > 0 { styled(style, &grouped(count)) } else { grouped(count) };
        let not_there = match counts.not_there {
            0 => String::new(),
            count => format!(" + {} not there", styled(WRONG, &grouped(count))),
        };
        writeln!(
            f,
            "{} sent = {} loaded + {} loaded with a warning + {} refused{not_there} + {} not mentioned",
            styled(NAME, &counted(counts.sent, "record")),
            part(counts.loaded, GOOD),
            part(counts.warned, REMARK),
            part(counts.refused, WRONG),
            part(counts.not_mentioned, REMARK),
        )?;
        self.proven(f)?;
        for says in &self.answered.differences {
            writeln!(f, "  {}", styled(WRONG, says))?;
        }
        if !self.is_kept {
            writeln!(f, "  nothing was recorded")?;
        }
        self.next(f)
    }
}

impl AnswerShown<'_> {
    /// Lines that are about no record, or cannot be understood.
    fn lines_not_taken(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let told = &self.answered.told;
        let file = visible(self.file).into_owned();
        for finding in told.findings.iter().take(FEW) {
            let says = format!("line {} of {file} {}", finding.at, visible(&finding.wrong.says()));
            for (place, line) in wrapped(&says, width() - 6, 0).iter().enumerate() {
                let label = if place == 0 { format!("{}: ", styled(WRONG, "warn")) } else { " ".repeat(6) };
                writeln!(f, "{label}{line}")?;
            }
        }
        let more = told.wrong.saturating_sub(told.findings.len().min(FEW) as u64);
        if more > 0 {
            writeln!(f, "and {} more of {file} that cannot be taken as they are", counted(more, "line"))?;
        }
        let read = &self.answered.read;
        if let Some((line, text)) = read.first_without.first() {
            writeln!(
                f,
                "{}: {} of {file} {} no form that [answer] describes; the first is line {line}: \"{}\"",
                styled(REMARK, "note"),
                counted(read.without_form, "line"),
                if read.without_form == 1 { "has" } else { "have" },
                cut(&visible(text), 60)
            )?;
        }
        if self.answered.told.taken > 0 && told.named == 0 {
            writeln!(
                f,
                "{}: the answer names records by their place in the upload alone; nothing in it proves that it is about batch {}",
                styled(REMARK, "note"),
                self.batch
            )?;
        }
        Ok(())
    }

    /// What the target says of records that it refused or warned about.
    fn reasons(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let all = reasons(&self.answered.sent, &self.answered.told);
        let counts = all.iter().take(FEW).map(|reason| columns(&grouped(reason.records))).max().unwrap_or(0);
        for reason in all.iter().take(FEW) {
            let count = grouped(reason.records);
            let gap = " ".repeat(counts - columns(&count).min(counts));
            let (style, word) = match reason.outcome {
                AnswerOutcome::Refused => (WRONG, "refused"),
                _ => (REMARK, "warning"),
            };
            let margin = counts + 2 + 9;
            let says = match reason.says.as_str() {
                "" => "the target does not say why".to_owned(),
                says if reason.varies => format!("{} (and others like it)", visible(says)),
                says => visible(says).into_owned(),
            };
            for (place, line) in wrapped(&says, width() - margin, 0).iter().enumerate() {
                match place {
                    0 => writeln!(f, "{gap}{}  {}{line}", styled(style, &count), padded(word, 9))?,
                    _ => writeln!(f, "{}{line}", " ".repeat(margin))?,
                }
            }
            let first: Vec<String> = reason
                .first
                .iter()
                .map(|(source, row, key)| {
                    let key = if key.is_empty() { String::new() } else { format!(" ({})", visible(key)) };
                    format!("row {row} of {}{key}", visible(source))
                })
                .collect();
            for line in wrapped(&first.join(", "), width() - margin, 0) {
                writeln!(f, "{}{}", " ".repeat(margin), styled(QUIET, &line))?;
            }
        }
        if all.len() > FEW {
            let rest: u64 = all.iter().skip(FEW).map(|reason| reason.records).sum();
            writeln!(f, "and {} of {} more kinds", counted(rest, "record"), all.len() - FEW)?;
        }
        if !all.is_empty() {
            writeln!(f)?;
        }
        Ok(())
    }

    /// What the target's own counts prove.
    fn proven(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Some((records, is_in)) = self.answered.proven else { return Ok(()) };
        let records = counted(records, "record");
        let says = if is_in {
            format!(
                "{records} of these are not mentioned one by one: the target's own count says that all of them are loaded"
            )
        } else {
            format!("{records} are not mentioned, and the target's own count says that they are not there")
        };
        writeln!(f, "  {says}")
    }

    /// The one next command.
    fn next(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (counts, batch) = (self.answered.counts, format!("{}{}", shell_word(self.batch), self.option));
        if !self.is_kept {
            return Ok(());
        }
        let command = if counts.refused > 0 {
            format!("dusk check --rest {batch}")
        } else if counts.not_there > 0 {
            format!("dusk conform --rest {batch}")
        } else {
            format!("dusk batches confirm {batch}")
        };
        writeln!(f, "  now: {}", styled(COMMAND, &command))
    }
}

/// The same for programs.
pub(crate) fn answer_json(shown: &AnswerShown<'_>) -> Value {
    let answered = shown.answered;
    // Those that are loaded are in the list that stays with the batch.
    let is_open = |at: &usize| answered.told.get(*at) != Told::Said(AnswerOutcome::Loaded);
    let open = answered.sent.iter().enumerate().filter(|(at, _)| is_open(at));
    let records = open.map(|(at, record)| {
        json!({
            "source": record.source, "row": record.row, "key": record.key, "file": record.file,
            "line": record.line, "record": record.record, "outcome": answered.told.get(at).word(),
            "reason": answered.told.reason(at), "number": answered.told.number(at),
        })
    });
    json!({
        "form": 1, "batch": shown.batch, "answer": shown.file, "target": shown.target,
        "kept": shown.is_kept, "counts": answered.counts, "target_counts": answered.read.counts,
        "differences": answered.differences, "reasons": reasons(&answered.sent, &answered.told),
        "lines": answered.lines, "lines_not_taken": answered.told.wrong,
        "findings": answered.told.findings.iter().map(|finding| json!({"line": finding.at, "says": finding.wrong.says()})).collect::<Vec<_>>(),
        "to_look_at": records.collect::<Vec<_>>(),
    })
}
