//! A round: how far each of its steps has come, for people and as a page.

use std::fmt::Write as _;
use std::path::PathBuf;

use dusk_core::delivery::{Stage, StepState};
use jiff::civil::Date;
use maud::{DOCTYPE, html};

use super::causes::mapping_option;
use super::delivered::stage_word;
use super::layout::{columns, grouped, padded, width, wrapped};
use super::style::{COMMAND, GOOD, NAME, REMARK, WRONG, styled};
use super::visible::{shell_word, visible};

/// How many records that are not in the target are named.
const FEW: usize = 8;

/// A step of a round, as it stands.
pub(crate) struct Step {
    pub(crate) state: StepState,
    /// The steps that have to be answered first.
    pub(crate) waits: Vec<String>,
    pub(crate) mapping: PathBuf,
    /// Only approved batches are delivered to its target.
    pub(crate) needs_approval: bool,
}

impl Step {
    /// How far it has come, in a few words.
    fn words(&self) -> String {
        let counts = self.state.counts;
        let last = self.state.batches.last().map(|(_, stage)| *stage);
        match last {
            None if !self.waits.is_empty() => format!("waits for {}", self.waits.join(", ")),
            None => "not made yet".into(),
            Some(stage @ (Stage::Draft | Stage::Approved)) if counts.loaded + counts.not_loaded == 0 => {
                format!("{}: {} to be delivered", stage.words(), grouped(counts.sent))
            }
            Some(_) if self.state.is_complete() => format!("complete: {} loaded", grouped(counts.loaded)),
            Some(stage) => format!(
                "{}: {} sent = {} loaded + {} refused or not there + {} unknown",
                stage.words(),
                grouped(counts.sent),
                grouped(counts.loaded),
                grouped(counts.not_loaded),
                grouped(counts.unknown)
            ),
        }
    }

    /// The next command of it; nothing where there is none.
    fn next(&self) -> Option<String> {
        let option = mapping_option(&self.mapping);
        let (batch, stage) = self.state.batches.last()?;
        let batch = shell_word(batch);
        Some(match stage {
            Stage::Draft if self.needs_approval => format!("dusk approve {batch}{option}"),
            Stage::Draft | Stage::Approved | Stage::Unknown | Stage::PartlyDelivered => {
                format!("dusk deliver {batch}{option}")
            }
            Stage::TurnedDown => return None,
            Stage::Delivered => format!("dusk answer {batch}{option}"),
            Stage::Answered if self.state.counts.not_loaded > 0 => {
                format!("dusk check --rest {batch}{option}")
            }
            Stage::Answered | Stage::Complete if self.state.is_complete() => return None,
            Stage::Answered => format!("dusk batches confirm {batch}{option}"),
            Stage::Complete => format!("dusk check --rest {batch}{option}"),
        })
    }
}

/// The round, a line for each step, what is missing, and the next command.
pub(crate) fn round_lines(name: &str, steps: &[Step]) -> String {
    let mut out = format!("{}\n", styled(NAME, &visible(name)));
    let widest = steps.iter().map(|step| columns(&step.state.step)).max().unwrap_or(0);
    let mut next = None;
    for step in steps {
        let words = step.words();
        let style = match step.state.batches.last() {
            _ if step.state.is_complete() => GOOD,
            _ if !step.waits.is_empty() => REMARK,
            _ if step.state.counts.not_loaded + step.state.counts.unknown > 0 => WRONG,
            _ => NAME,
        };
        let _ = writeln!(out, "  {}  {}", padded(&visible(&step.state.step), widest), styled(style, &words));
        for (batch, stage) in &step.state.batches {
            let _ = writeln!(out, "  {}  {batch}, {}", " ".repeat(widest), stage_word(*stage));
        }
        let missing = &step.state.missing;
        let is_waited_for = steps.iter().any(|other| other.waits.contains(&step.state.step));
        if !missing.is_empty() && (step.state.is_answered() || is_waited_for) {
            let first: Vec<String> =
                missing.iter().take(FEW).map(|(key, why)| format!("{key} ({why})")).collect();
            let more = missing.len().saturating_sub(FEW);
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            let says = format!("not in the target: {}{more}", first.join(", "));
            for line in wrapped(&visible(&says), width() - widest - 4, 0) {
                let _ = writeln!(out, "  {}  {line}", " ".repeat(widest));
            }
        }
        if next.is_none() && !step.state.is_complete() {
            next = step.next().or_else(|| step.waits.is_empty().then(|| "dusk round --make".to_owned()));
        }
    }
    match next {
        Some(next) => {
            let _ = writeln!(out, "  now: {}", styled(COMMAND, &next));
        }
        None if steps.iter().all(|step| step.state.is_complete()) => {
            let _ = writeln!(out, "{}", styled(GOOD, "the round is complete"));
        }
        None => {}
    }
    out
}

/// A page about the whole round.
pub(crate) fn round_page(name: &str, steps: &[Step], day: Date) -> String {
    let page = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                title { (name) }
                style { (STYLE) }
            }
            body {
                h1 { (name) }
                p { "as of " (dusk_core::values::shown(day)) }
                table {
                    thead { tr {
                        th { "step" } th { "is" } th.number { "sent" } th.number { "loaded" }
                        th.number { "refused" } th.number { "unknown" } th { "batches" }
                    } }
                    tbody {
                        @for step in steps {
                            tr {
                                td { (step.state.step) }
                                td { (step.words().split(':').next().unwrap_or_default()) }
                                td.number { (grouped(step.state.counts.sent)) }
                                td.number { (grouped(step.state.counts.loaded)) }
                                td.number { (grouped(step.state.counts.not_loaded)) }
                                td.number { (grouped(step.state.counts.unknown)) }
                                td {
                                    @for (batch, stage) in &step.state.batches {
                                        div { (batch) ", " (stage.words()) }
                                    }
                                }
                            }
                        }
                    }
                }
                @for step in steps.iter().filter(|step| !step.state.missing.is_empty()) {
                    h2 { (step.state.step) ": not in the target" }
                    table {
                        thead { tr { th { "record" } th { "why" } } }
                        tbody {
                            @for (key, why) in &step.state.missing {
                                tr { td { (key) } td { (why) } }
                            }
                        }
                    }
                }
            }
        }
    };
    page.into_string()
}

/// How the page looks: the reader's own light or dark colours.
const STYLE: &str = "\
:root{color-scheme:light dark}\
body{font:15px/1.5 system-ui,sans-serif;margin:2rem auto;max-width:60rem;padding:0 1rem}\
h1{font-size:1.5rem}h2{font-size:1.1rem;margin-top:2rem}\
table{border-collapse:collapse;width:100%}\
th,td{text-align:left;padding:.35rem .7rem;border-bottom:1px solid #8884;vertical-align:top}\
.number{text-align:right;font-variant-numeric:tabular-nums}";
