//! `report.html`: one page about a batch for the steward's chief or the target's owner. It holds everything that
//! it shows, needs no network and no script, prints, and can be listened to.

mod charts;
mod fields;
mod group;
mod held;
mod inspected;
mod months;

use dusk_core::decisions::CrosswalkLine;
use dusk_core::evidence::{Cause, FieldId};
use dusk_core::run::{BatchFacts, Settle};
use dusk_core::values::shown_day;
use maud::{DOCTYPE, Markup, PreEscaped, html};

use crate::show::{
    cause_label, cause_says, counted, grouped, how_read, settle_command, total_words, visible,
};
pub(crate) use fields::fields_page;
pub(crate) use group::group_page;
use held::held_section;
pub(crate) use inspected::inspected_page;
pub(crate) use months::EarlierBatch;
use months::months_section;

use charts::{Bar, Part, bars, outcome_bar};

const STYLE: &str = include_str!("style.css");

/// How many causes, kinds of change and decisions are listed; the files beside the page have all of them.
const MOST: usize = 25;

/// How many bars a chart has.
const MOST_BARS: usize = 12;

/// The head of a page, which search engines may list only where it tells nothing of anyone's data.
fn page_head(title: &str, may_be_listed: bool) -> Markup {
    html! {
        head {
            meta charset="utf-8";
            meta name="viewport" content="width=device-width, initial-scale=1";
            @if !may_be_listed { meta name="robots" content="noindex"; }
            title { (visible(title)) }
            style { (PreEscaped(STYLE)) }
        }
    }
}

/// The page, with the batches before beside it. With `values` false it tells no value of the data, so that it can be
/// handed on.
pub(crate) fn report_page(facts: &BatchFacts<'_>, earlier: &[EarlierBatch<'_>], values: bool) -> String {
    let page = Page { facts, values };
    let title = format!("{} for {}", page.batch(), facts.ready.job.target.name);
    let page = html! {
        (DOCTYPE)
        html lang="en" {
            (page_head(&title, false))
            body {
                main {
                    (page.head())
                    (page.totals())
                    (held_section(page.facts, page.values))
                    (page.sent())
                    (page.comes_to())
                    (page.rejected())
                    (page.completeness())
                    (page.changed())
                    (page.decided())
                    (page.remarks())
                    (months_section(page.facts, earlier, page.values))
                    (page.left_to_do())
                }
                footer {
                    "Made by Dusk Button " (env!("CARGO_PKG_VERSION")) ". "
                    "The receipt beside this page (receipt.json) has the hash of every file that was read and written. "
                    @if !values { "The values of the data were left out of this page on purpose." }
                }
            }
        }
    };
    page.into_string()
}

struct Page<'r> {
    facts: &'r BatchFacts<'r>,
    values: bool,
}

impl Page<'_> {
    /// What the batch is called. A name may be made of a value, as those of files may.
    fn batch(&self) -> String {
        if self.values { format!("Batch {}", self.facts.batch) } else { "A batch".to_owned() }
    }

    /// What a file is called, or which one it is.
    fn file_name(&self, kind: &str, number: usize, name: &str) -> String {
        if self.values { visible(name).into_owned() } else { format!("{kind} {}", number + 1) }
    }

    fn head(&self) -> Markup {
        let job = self.facts.ready.job;
        let totals = self.facts.summary.totals;
        let by = if self.facts.by.is_empty() || !self.values {
            String::new()
        } else {
            format!(" by {}", self.facts.by)
        };
        let version = match job.target.version.as_str() {
            "" => String::new(),
            version => format!(", version {version}"),
        };
        let sent = self.facts.summary.sent();
        html! {
            header {
                h1 { (visible(&self.batch())) }
                p { "for " strong { (visible(&job.target.name)) } (visible(&version)) }
                p.quiet { "made on " time datetime=(job.today) { (job.today.strftime("%-d %B %Y")) } (visible(&by)) }
                p.verdict {
                    strong { (grouped(totals.accepted)) " of " (grouped(totals.read)) " rows" }
                    @if self.facts.summary.beside.is_some() || self.facts.summary.withheld.all() > 0 {
                        " are accepted, and " strong { (counted(sent, "record")) }
                        @if sent == 1 { " is" } @else { " are" } " sent; "
                    } @else {
                        " are in the upload; "
                    }
                    @if totals.rejected == 0 {
                        "none was rejected."
                    } @else {
                        strong { (grouped(totals.rejected)) } @if totals.rejected == 1 { " was" } @else { " were" } " rejected."
                    }
                }
            }
        }
    }

    fn totals(&self) -> Markup {
        let (totals, withheld) = (self.facts.summary.totals, self.facts.summary.withheld);
        let parts = [
            Part { name: "accepted", count: totals.accepted, colour: "var(--good)" },
            Part { name: "rejected", count: totals.rejected, colour: "var(--bad)" },
            Part { name: "merged into another record", count: totals.merged, colour: "var(--bar)" },
            Part { name: "left out", count: totals.left_out, colour: "var(--out)" },
        ];
        let says = format!(
            "Of {} read, {} were accepted, {} rejected, {} merged and {} left out.",
            counted(totals.read, "row"),
            grouped(totals.accepted),
            grouped(totals.rejected),
            grouped(totals.merged),
            grouped(totals.left_out)
        );
        html! {
            section.together aria-labelledby="totals" {
                h2 id="totals" { "What became of the rows" }
                (outcome_bar(&parts, &says))
                p {
                    (grouped(totals.read)) " rows read = " (grouped(totals.accepted)) " accepted + "
                    (grouped(totals.rejected)) " rejected + " (grouped(totals.merged)) " merged + "
                    (grouped(totals.left_out)) " left out."
                    @if self.facts.summary.kept_out > 0 {
                        " " (grouped(self.facts.summary.kept_out)) " of those left out are kept out as was decided."
                    }
                    @if withheld.loaded > 0 {
                        " " (counted(withheld.loaded, "record")) " of the accepted ones were loaded before."
                    }
                    @if withheld.unknown > 0 {
                        " " (counted(withheld.unknown, "record")) " were sent before; it is unknown whether they were loaded."
                    }
                    @if withheld.waiting > 0 {
                        " " (counted(withheld.waiting, "record")) " wait for the rest."
                    }
                    @if self.facts.summary.records != totals.accepted {
                        " The accepted rows make " (grouped(self.facts.summary.records)) " records."
                    }
                }
                @if !self.facts.drift.is_empty() && self.values {
                    p { "New since the last batch:" }
                    ul { @for says in self.facts.drift { li { (visible(says)) } } }
                }
            }
        }
    }

    /// What the sent records come to, by which somebody proves later that everything arrived.
    fn comes_to(&self) -> Markup {
        let totals = &self.facts.summary.field_totals;
        html! {
            @if self.values && !self.facts.summary.limits.is_empty() {
                section aria-labelledby="limits" {
                    h2 id="limits" { "Limits of the batch" }
                    table {
                        thead { tr { th scope="col" { "Rule" } th scope="col" { "Comes to" } th scope="col" { "Must be" } } }
                        tbody {
                            @for limit in &self.facts.summary.limits {
                                tr { td.name { (visible(&limit.rule)) } td { (limit.reckoned.join(", ")) } td { code { (visible(&limit.must)) } } }
                            }
                        }
                    }
                }
            }
            @if self.values && !totals.is_empty() {
                section aria-labelledby="comes-to" {
                    h2 id="comes-to" { "What the records come to" }
                    table {
                        caption { "Hold these against what the target says that it has loaded" }
                        thead { tr { th scope="col" { "Field" } th scope="col" { "In the records that are sent" } } }
                        tbody {
                            @for total in totals {
                                tr { td.name { code { (visible(&total.field)) } } td { (total_words(total)) } }
                            }
                        }
                    }
                }
            }
        }
    }

    fn sent(&self) -> Markup {
        let job = self.facts.ready.job;
        let uploads = self.facts.outputs.iter().filter(|output| output.file.starts_with("upload/"));
        html! {
            section aria-labelledby="sent" {
                h2 id="sent" { "What is sent, and from what" }
                table {
                    caption { "Files for the target" }
                    thead { tr { th scope="col" { "File" } th.number scope="col" { "Records" } th.number scope="col" { "Bytes" } th scope="col" { "BLAKE3 hash" } } }
                    tbody {
                        @for (number, output) in uploads.enumerate() {
                            tr {
                                td.name { (self.file_name("file", number, &output.file)) }
                                td.number { (output.rows.map(grouped).unwrap_or_default()) }
                                td.number { (grouped(output.bytes)) }
                                td { code { (output.blake3.get(..16).unwrap_or(&output.blake3)) "…" } }
                            }
                        }
                    }
                }
                table {
                    caption { "Exports that they were made from" }
                    thead { tr { th scope="col" { "File" } th.number scope="col" { "Bytes" } th scope="col" { "How it was read" } th scope="col" { "BLAKE3 hash" } } }
                    tbody {
                        @for (number, (source, print)) in job.sources.iter().zip(&self.facts.summary.sources).enumerate() {
                            tr {
                                td.name { (self.file_name("export", number, &source.name)) }
                                td.number { (grouped(print.bytes)) }
                                td { (how_read(source, self.values)) }
                                td { code { (print.blake3.get(..16).unwrap_or(&print.blake3)) "…" } }
                            }
                        }
                    }
                }
                dl {
                    @if self.values { dt { "Mapping" } dd { (visible(&job.mapping.path.display().to_string())) } }
                    @if self.values { @for (name, value) in job.asked { dt { (visible(name)) } dd { (visible(value)) } } }
                    @for found in &self.facts.ready.evidence {
                        @if let Some(field) = job.target.fields.get(found.field) {
                            dt { (visible(&field.name)) }
                            dd { (visible(&found.evidence.claim.to_string())) ": " (visible(&found.evidence.verdict_shown())) }
                        }
                    }
                }
            }
        }
    }

    /// What a cause is about, without its value where none is to be told.
    fn label(&self, cause: &Cause) -> String {
        cause_label(self.facts.ready.job.mapping, cause, self.values)
    }

    fn says(&self, cause: &Cause) -> String {
        if self.values { cause_says(cause) } else { cause.kind.title().to_owned() }
    }

    fn rejected(&self) -> Markup {
        let summary = self.facts.summary;
        let rejected = summary.totals.rejected;
        if summary.causes.is_empty() {
            return html! {};
        }
        let bar = |cause: &Cause| Bar {
            label: self.label(cause),
            count: cause.rows,
            says: format!("{}, {} %", counted(cause.rows, "row"), percent(cause.rows, rejected)),
        };
        let chart: Vec<Bar> = summary.causes.iter().take(MOST_BARS).map(bar).collect();
        let largest = summary.causes.iter().map(|cause| cause.rows).max().unwrap_or(1);
        let explained = summary.explained.get(chart.len().saturating_sub(1)).copied().unwrap_or(0);
        let says = format!(
            "The {} largest of {} causes; they explain {} % of the rejected rows.",
            chart.len(),
            summary.causes.len(),
            percent(explained, rejected)
        );
        let shown = summary.causes.iter().take(MOST);
        html! {
            section aria-labelledby="rejected" {
                div.together {
                    h2 id="rejected" { "What was rejected, and why" }
                    p { (says) }
                    (bars(&chart, largest, "var(--bad)", &says))
                }
                table {
                    caption { "Causes, the largest first" }
                    thead { tr { th.number scope="col" { "Rows" } th scope="col" { "About" } @if self.values { th scope="col" { "What is wrong, and what would be right" } } th scope="col" { "First rows" } } }
                    tbody {
                        @for cause in shown {
                            tr {
                                td.number { (grouped(cause.rows)) }
                                td.name { (self.label(cause)) }
                                @if self.values { td { (self.says(cause)) } }
                                td.rows { (first_rows(cause)) }
                            }
                        }
                    }
                }
                @if summary.causes.len() > MOST {
                    p.quiet { "And " (grouped((summary.causes.len() - MOST) as u64)) " smaller causes; findings.csv has every finding." }
                }
            }
        }
    }

    /// How complete the records are that are sent: not what the export has, but what the target gets.
    fn completeness(&self) -> Markup {
        let (summary, target) = (self.facts.summary, self.facts.ready.job.target);
        let sent = summary.sent();
        if sent == 0 {
            return html! {};
        }
        let bar = |(field, count): &(FieldId, u64)| {
            let field = target.fields.get(*field)?;
            let must = if field.required { ", required" } else { "" };
            Some(Bar {
                label: visible(&field.name).into_owned(),
                count: *count,
                says: format!("{} %{must}", percent(*count, sent)),
            })
        };
        let all: Vec<Bar> = summary.sent_filled.iter().filter_map(bar).collect();
        let says = format!(
            "For each field, in how many of the {} that are sent it is filled.",
            counted(sent, "record")
        );
        html! {
            section.together aria-labelledby="completeness" {
                h2 id="completeness" { "How complete the records are that are sent" }
                p { (says) }
                (bars(&all, sent, "var(--bar)", &says))
            }
        }
    }

    fn changed(&self) -> Markup {
        let changes = self.facts.changes;
        if changes.is_empty() {
            return html! {
                section aria-labelledby="changed" { h2 id="changed" { "What was changed" } p { "Nothing: every value went in as it was." } }
            };
        }
        html! {
            section aria-labelledby="changed" {
                h2 id="changed" { "What was changed, and on what evidence" }
                p { (grouped(self.facts.summary.changed_cells)) " cells of accepted records were changed. Each of them has a reason; changes.csv has every distinct one." }
                table {
                    caption { "Changes by field and step, the most cells first" }
                    thead { tr {
                        th.number scope="col" { "Cells" } th scope="col" { "Field" } th scope="col" { "Steps" }
                        @if self.values { th scope="col" { "For example" } th scope="col" { "Evidence" } }
                    } }
                    tbody {
                        @for change in changes.iter().take(MOST) {
                            tr {
                                td.number { (grouped(change.cells)) }
                                td.name { (visible(&change.field)) }
                                td { (visible(&change.steps)) }
                                @if self.values {
                                    td { (quoted(&change.example.0)) " → " (quoted(&change.example.1)) }
                                    td { (visible(&change.evidence)) }
                                }
                            }
                        }
                    }
                }
                @if changes.len() > MOST { p.quiet { "And " (grouped((changes.len() - MOST) as u64)) " kinds of change in fewer cells." } }
            }
        }
    }

    /// What people decided for this batch: translations that were used, and corrected cells.
    fn decided(&self) -> Markup {
        let job = self.facts.ready.job;
        let name = |place: FieldId| job.target.fields.get(place).map_or("", |field| field.name.as_str());
        let lines: Vec<(&str, &CrosswalkLine)> = self
            .facts
            .ready
            .plan
            .crosswalk_lines()
            .filter(|(_, _, used)| *used)
            .map(|(place, line, _)| (name(place), line))
            .collect();
        let corrected: Vec<_> = job
            .sources
            .iter()
            .flat_map(|source| source.patches().iter().map(move |(row, patch)| (source, row, patch)))
            .collect();
        if lines.is_empty() && corrected.is_empty() {
            return html! {};
        }
        html! {
            section aria-labelledby="decided" {
                h2 id="decided" { "What was decided by people" }
                @if !self.values {
                    p { (grouped(lines.len() as u64)) " translations were used, and " (grouped(corrected.len() as u64)) " cells are corrected." }
                } @else {
                    @if !lines.is_empty() {
                        table {
                            caption { "Values that were translated" }
                            thead { tr { th scope="col" { "Field" } th scope="col" { "Value" } th scope="col" { "Means" } th scope="col" { "By" } th scope="col" { "On" } th scope="col" { "Why" } } }
                            tbody { @for (field, line) in lines.iter().take(2 * MOST) {
                                tr { td.name { (visible(field)) } td { (quoted(&line.value)) } td { (visible(&line.code)) } td { (visible(&line.by)) } td { (visible(&shown_day(&line.on))) } td { (visible(&line.note)) } }
                            } }
                        }
                    }
                    @if !corrected.is_empty() {
                        table {
                            caption { "Cells that were corrected; the exports themselves are as they were" }
                            thead { tr { th.number scope="col" { "Row" } th scope="col" { "Column" } th scope="col" { "Was" } th scope="col" { "Now" } th scope="col" { "Decided" } } }
                            tbody { @for (source, row, patch) in corrected.iter().take(2 * MOST) {
                                tr { td.number { (row) } td.name { (visible(source.heading(patch.column))) } td { (quoted(&patch.was)) } td { (quoted(&patch.now)) } td { (visible(patch.why.trim_start_matches("correction, "))) } }
                            } }
                        }
                    }
                    @if lines.len().max(corrected.len()) > 2 * MOST { p.quiet { "Only the first of each are listed." } }
                }
            }
        }
    }

    fn remarks(&self) -> Markup {
        let remarks = &self.facts.summary.remarks;
        if remarks.is_empty() {
            return html! {};
        }
        html! {
            section aria-labelledby="remarks" {
                h2 id="remarks" { "What else was noticed" }
                p { "No record was rejected for any of this." }
                ul { @for remark in remarks.iter().take(MOST) {
                    li { (self.remark(remark)) " (" (grouped(remark.count)) ")" }
                } }
                @if remarks.len() > MOST { p.quiet { "And " (grouped((remarks.len() - MOST) as u64)) " more in findings.csv." } }
            }
        }
    }

    fn remark(&self, remark: &Cause) -> String {
        if !self.values {
            return self.label(remark);
        }
        let value = remark.value.as_deref().filter(|value| !value.is_empty());
        let value = value.map_or_else(String::new, |value| format!(" \"{value}\""));
        format!("{}{} {}", visible(&remark.about), visible(&value), cause_says(remark))
    }

    fn left_to_do(&self) -> Markup {
        let causes = &self.facts.summary.causes;
        if causes.is_empty() {
            return html! {
                section aria-labelledby="left" { h2 id="left" { "What is left to do" } p { "Nothing in this batch. Upload the files above, and compare the target's answer with the totals." } }
            };
        }
        let job = self.facts.ready.job;
        let decided_once = |cause: &&Cause| {
            matches!(job.way_to_settle(cause), Settle::Crosswalk { .. } | Settle::Mapping { .. })
        };
        let rows: u64 = causes.iter().filter(|cause| !decided_once(cause)).map(|cause| cause.rows).sum();
        let settle: Vec<(&Cause, String)> = causes
            .iter()
            .filter(|_| self.values)
            .filter(decided_once)
            .filter_map(|cause| Some((cause, settle_command(job, cause)?)))
            .take(MOST)
            .collect();
        html! {
            section aria-labelledby="left" {
                h2 id="left" { "What is left to do" }
                ol {
                    @if !settle.is_empty() { li {
                        "Decide once what each of these values means:"
                        table {
                            thead { tr { th.number scope="col" { "Rows" } th scope="col" { "About" } th scope="col" { "What settles it" } } }
                            tbody { @for (cause, command) in &settle {
                                tr { td.number { (grouped(cause.rows)) } td.name { (self.label(cause)) } td { code { (command) } } }
                            } }
                        }
                    } }
                    @if rows > 0 { li { "Mend the rows that no single decision settles (about " (grouped(rows)) ") in " code { "rejects.xlsx" } ", and bring it back with " code { "dusk correct rejects.xlsx" } "." } }
                    li { "Make the batch again, and upload it." }
                }
            }
        }
    }
}

fn percent(count: u64, of: u64) -> u64 {
    (count * 100).checked_div(of).unwrap_or(0)
}

fn quoted(text: &str) -> Markup {
    html! { @if text.is_empty() { span.quiet { "(blank)" } } @else { "\"" (visible(text)) "\"" } }
}

fn first_rows(cause: &Cause) -> String {
    let rows: Vec<String> = cause.first.iter().take(3).map(|place| place.row.to_string()).collect();
    let more = if cause.count > rows.len() as u64 { ", …" } else { "" };
    format!("{}{more}", rows.join(", "))
}
