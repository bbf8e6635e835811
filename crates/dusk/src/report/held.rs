//! What the batch changes in the target: its part of the page.

use dusk_core::run::{BatchFacts, ComparedFacts, ComparedKind, ComparedRecord, FieldChanges};
use maud::{Markup, html};

use super::charts::{Part, outcome_bar};
use crate::show::{counted, field_label, grouped, shown_value, visible};

/// How many records are listed.
const RECORDS: usize = 25;

/// How many groups of equal changes of a field are listed.
const GROUPS: usize = 5;

/// The section; nothing where it is not known what the target holds.
pub(super) fn held_section(facts: &BatchFacts<'_>, values: bool) -> Markup {
    let (Some(compared), Some(counts)) = (facts.compared, facts.summary.beside) else { return html! {} };
    let parts = [
        Part { name: "new", count: counts.new, colour: "var(--good)" },
        Part { name: "changed", count: counts.changed, colour: "var(--warn)" },
        Part { name: "the same", count: counts.same, colour: "var(--out)" },
        Part { name: "gone", count: counts.gone, colour: "var(--bad)" },
    ];
    let says = format!(
        "Beside what the target holds, {} records are new, {} changed and {} the same; {} that it holds are gone from the export.",
        grouped(counts.new),
        grouped(counts.changed),
        grouped(counts.same),
        grouped(counts.gone)
    );
    let holds = facts.ready.job.target.holds.as_ref();
    let as_of = holds.and_then(|holds| holds.as_of);
    html! {
        section aria-labelledby="held" {
            h2 id="held" { "What changes in the target" }
            (outcome_bar(&parts, &says))
            p {
                (grouped(facts.summary.records)) " accepted = " (grouped(counts.new)) " new + " (grouped(counts.changed)) " changed + "
                (grouped(counts.same)) " the same; " (grouped(counts.sent)) " sent + " (grouped(counts.unsent)) " not sent."
                @if counts.removed > 0 { " The target is told to remove " (counted(counts.removed, "record")) "." }
                @if let Some(day) = as_of { " Its list is as of " (day.strftime("%-d %B %Y")) "." }
            }
            @if !compared.fields.is_empty() { (fields(facts, compared, values)) }
            @if values && !compared.records.is_empty() { (records(facts, compared)) }
        }
    }
}

fn fields(facts: &BatchFacts<'_>, compared: &ComparedFacts, values: bool) -> Markup {
    let groups = |field: &FieldChanges| {
        let largest = field.groups.iter().take(GROUPS).map(|(was, now, count)| {
            let value = |text: &str| shown_value(facts.ready, field.field, text);
            format!("{} → {} ({})", value(was), value(now), grouped(*count))
        });
        largest.collect::<Vec<_>>().join(", ")
    };
    html! {
        table {
            caption { "Fields that change, the most records first" }
            thead { tr { th scope="col" { "Field" } th.number scope="col" { "Records" } th.number scope="col" { "Cleared" } @if values { th scope="col" { "Largest changes" } } } }
            tbody {
                @for field in &compared.fields {
                    tr {
                        td.name { (field_label(facts.ready, field.field)) }
                        td.number { (grouped(field.records)) }
                        td.number { (grouped(field.cleared)) }
                        @if values { td { (groups(field)) } }
                    }
                }
            }
        }
    }
}

fn records(facts: &BatchFacts<'_>, compared: &ComparedFacts) -> Markup {
    let what = |record: &ComparedRecord| match record.is {
        ComparedKind::Gone if record.sent => "gone, to be removed",
        ComparedKind::Gone => "gone",
        _ => "changed",
    };
    let shown = |name: &str, text: Option<&String>| {
        let field = facts.ready.job.target.field(name);
        let text = text.map_or("", String::as_str);
        field.map_or_else(|| text.to_owned(), |field| shown_value(facts.ready, field, text))
    };
    html! {
        table {
            caption { "Records that change, old beside new" }
            thead { tr { th.number scope="col" { "Row" } th scope="col" { "Key" } th scope="col" { "What it is" } th scope="col" { "Field" } th scope="col" { "The target holds" } th scope="col" { "The export says" } } }
            tbody {
                @for record in compared.records.iter().take(RECORDS) {
                    @if record.is == ComparedKind::Gone {
                        tr { td.number { (record.row) } td.name { (visible(&record.key)) } td { (what(record)) } td colspan="3" {} }
                    } @else {
                        @for (number, field) in record.fields.iter().enumerate() {
                            tr {
                                td.number { @if number == 0 { (record.row) } }
                                td.name { @if number == 0 { (visible(&record.key)) } }
                                td { @if number == 0 { (what(record)) } }
                                td { (visible(&field.field)) }
                                td { del { (shown(&field.field, field.old.as_ref())) } }
                                td { ins { (shown(&field.field, field.new.as_ref())) } }
                            }
                        }
                    }
                }
            }
        }
    }
}
