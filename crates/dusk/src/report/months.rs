//! The batches for a target beside one another: rows, rejects, what was new, changed and gone, and how far each came.

use dusk_core::run::{BatchFacts, BesideCounts, Receipt};
use dusk_core::values::{shown, shown_day};
use maud::{Markup, html};

use super::charts::{Part, Stack, stacks};
use crate::show::{grouped, visible};

/// A batch that was made before, with how far it has come.
pub(crate) struct EarlierBatch<'r> {
    pub(crate) receipt: &'r Receipt,
    pub(crate) stage: &'static str,
}

/// One batch of them.
struct Month {
    name: String,
    day: String,
    read: u64,
    accepted: u64,
    rejected: u64,
    beside: Option<BesideCounts>,
    stage: &'static str,
}

impl Month {
    fn of(earlier: &EarlierBatch<'_>) -> Self {
        let receipt = earlier.receipt;
        let totals = receipt.totals;
        Self {
            name: receipt.batch.clone(),
            day: shown_day(&receipt.today),
            read: totals.read,
            accepted: totals.accepted,
            rejected: totals.rejected,
            beside: receipt.held.as_ref().map(|held| held.counts),
            stage: earlier.stage,
        }
    }

    fn now(facts: &BatchFacts<'_>) -> Self {
        let totals = facts.summary.totals;
        Self {
            name: facts.batch.to_owned(),
            day: shown(facts.ready.job.today),
            read: totals.read,
            accepted: totals.accepted,
            rejected: totals.rejected,
            beside: facts.summary.beside,
            stage: "this one",
        }
    }
}

/// How many records were new, changed and gone; blank where that is not known.
fn compared_counts(month: &Month) -> [String; 3] {
    month
        .beside
        .map_or_else(Default::default, |counts| [counts.new, counts.changed, counts.gone].map(grouped))
}

/// The section; nothing for the first batch, or where values are not to be told.
pub(super) fn months_section(facts: &BatchFacts<'_>, earlier: &[EarlierBatch<'_>], values: bool) -> Markup {
    if earlier.is_empty() || !values {
        return html! {};
    }
    let mut months: Vec<Month> = earlier.iter().map(Month::of).collect();
    months.push(Month::now(facts));
    let rows = |month: &Month| Stack {
        label: month.day.clone(),
        parts: vec![
            Part { name: "accepted", count: month.accepted, colour: "var(--good)" },
            Part { name: "rejected", count: month.rejected, colour: "var(--bad)" },
            Part {
                name: "merged or left out",
                count: month.read.saturating_sub(month.accepted + month.rejected),
                colour: "var(--out)",
            },
        ],
    };
    let compared = |month: &Month| {
        let counts = month.beside?;
        Some(Stack {
            label: month.day.clone(),
            parts: vec![
                Part { name: "new", count: counts.new, colour: "var(--good)" },
                Part { name: "changed", count: counts.changed, colour: "var(--warn)" },
                Part { name: "gone", count: counts.gone, colour: "var(--bad)" },
            ],
        })
    };
    let compared: Vec<Stack> = months.iter().filter_map(compared).collect();
    let has_compared = !compared.is_empty();
    html! {
        section aria-labelledby="months" {
            h2 id="months" { "Beside the batches before" }
            (stacks(&months.iter().map(rows).collect::<Vec<_>>(), "What became of the rows of each batch; the last is this one."))
            @if compared.len() > 1 {
                (stacks(&compared, "What was new, changed and gone beside what the target held; the last is this batch."))
            }
            table {
                thead { tr {
                    th scope="col" { "Batch" } th scope="col" { "Day" } th.number scope="col" { "Rows" }
                    th.number scope="col" { "Accepted" } th.number scope="col" { "Rejected" }
                    @if has_compared { th.number scope="col" { "New" } th.number scope="col" { "Changed" } th.number scope="col" { "Gone" } }
                    th scope="col" { "State" }
                } }
                tbody { @for month in &months {
                    tr {
                        td.name { (visible(&month.name)) }
                        td { (month.day) }
                        @for count in [month.read, month.accepted, month.rejected] { td.number { (grouped(count)) } }
                        @if has_compared {
                            @for count in compared_counts(month) { td.number { (count) } }
                        }
                        td { (month.stage) }
                    }
                } }
            }
        }
    }
}
