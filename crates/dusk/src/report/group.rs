//! A page about one group of a batch, for whoever is responsible for it: what was sent of it, what was rejected and why.

use dusk_core::run::{BatchFacts, GroupFacts, GroupRow};
use maud::{DOCTYPE, Markup, html};

use super::charts::{Part, outcome_bar};
use super::page_head;
use crate::show::{counted, grouped, visible};

/// The page.
pub(crate) fn group_page(facts: &BatchFacts<'_>, group: &GroupFacts) -> String {
    let job = facts.ready.job;
    let field = job.target.upload.split_by.and_then(|field| job.target.fields.get(field));
    // A code is told with its label.
    let code = group.value.as_deref().and_then(|value| {
        let list = field?.kind.codes()?;
        list.codes().iter().find(|code| code.code == value).map(|code| code.shown())
    });
    let field = field.map_or("", |field| field.label.as_deref().unwrap_or(&field.name));
    let title = match group.value.as_deref() {
        None => format!("Rows whose {field} is not known"),
        Some("") => format!("{field}: blank"),
        Some(value) => format!("{field} {}", code.as_deref().unwrap_or(value)),
    };
    let day = job.today.strftime("%-d %B %Y");
    html! {
        (DOCTYPE)
        html lang="en" {
            (page_head(&format!("{title}, batch {}", facts.batch), false))
            body {
                main {
                    header {
                        h1 { (visible(&title)) }
                        p { "batch " strong { (visible(facts.batch)) } " for " strong { (visible(&job.target.name)) } }
                        p.quiet { "made on " time datetime=(job.today) { (day) } }
                        p.verdict { (verdict(group)) }
                    }
                    (outcome(group))
                    (rejected(group))
                    (rows(group))
                }
                footer { "Made by Dusk Button " (env!("CARGO_PKG_VERSION")) ". report.html beside this page is about the whole batch." }
            }
        }
    }
    .into_string()
}

fn verdict(group: &GroupFacts) -> Markup {
    html! {
        strong { (counted(group.sent, "record")) }
        @if group.sent == 1 { " is" } @else { " are" }
        " in the upload; "
        @if group.rejected == 0 { "no row was rejected." } @else {
            strong { (counted(group.rejected, "row")) }
            @if group.rejected == 1 { " was" } @else { " were" } " rejected."
        }
    }
}

fn outcome(group: &GroupFacts) -> Markup {
    let parts = [
        Part { name: "sent", count: group.sent, colour: "var(--good)" },
        Part { name: "rejected", count: group.rejected, colour: "var(--bad)" },
    ];
    let says = format!("{} sent, {} rejected.", grouped(group.sent), grouped(group.rejected));
    html! {
        section aria-label="Outcome" {
            (outcome_bar(&parts, &says))
            @if !group.files.is_empty() {
                dl { dt { "Upload files" } @for file in &group.files { dd { (visible(file)) } } }
            }
        }
    }
}

fn rejected(group: &GroupFacts) -> Markup {
    if group.causes.is_empty() {
        return html! {};
    }
    html! {
        section aria-labelledby="rejected" {
            h2 id="rejected" { "Why rows were rejected" }
            table {
                caption { "Causes, the largest first" }
                thead { tr { th.number scope="col" { "Rows" } th scope="col" { "About" } th scope="col" { "What is wrong" } } }
                tbody {
                    @for cause in &group.causes {
                        tr {
                            td.number { (grouped(cause.rows)) }
                            td.name { (visible(&cause.about)) }
                            td { (cause.says) }
                        }
                    }
                }
            }
        }
    }
}

fn rows(group: &GroupFacts) -> Markup {
    if group.rows.is_empty() {
        return html! {};
    }
    let several =
        group.rows.iter().any(|row| group.rows.first().is_some_and(|first| first.source != row.source));
    let more = group.rejected.saturating_sub(group.rows.len() as u64);
    html! {
        section aria-labelledby="rows" {
            h2 id="rows" { "The rejected rows" }
            table {
                caption { "Rows as the export has them, with what is wrong and what is expected" }
                thead { tr {
                    th.number scope="col" { "Row" }
                    @if several { th scope="col" { "Export" } }
                    th scope="col" { "About" } th scope="col" { "Value" } th scope="col" { "What is wrong" } th scope="col" { "What is expected" }
                } }
                tbody { @for row in &group.rows { (row_lines(row, several)) } }
            }
            @if more > 0 { p.quiet { "And " (counted(more, "row")) " more; rejects.csv has all of them." } }
        }
    }
}

fn row_lines(row: &GroupRow, several: bool) -> Markup {
    html! {
        @for (at, [about, value, wrong, right]) in row.findings.iter().enumerate() {
            tr {
                td.number { @if at == 0 { (row.row) } }
                @if several { td { @if at == 0 { (visible(&row.source)) } } }
                td.name { (visible(about)) }
                td { (visible(value)) }
                td { (visible(wrong)) }
                td { (visible(right)) }
            }
        }
    }
}
