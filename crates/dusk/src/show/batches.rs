//! Batches: a list of them, and the receipt of one for people.

use std::fmt::Write as _;

use dusk_core::delivery::{BatchEvent, ChainCounts, Stage};
use dusk_core::run::{ListedRow, PastBatch, Receipt, Since};
use dusk_core::values::shown_day;

use super::delivered::{event_lines, stage_word};
use super::field_totals::{field_totals, limit_lines};
use super::layout::{columns, counted, grouped, item, padded, rows_of_file};
use super::made::loaded_line;
use super::style::{GOOD, NAME, WRONG, styled};
use super::table::SimpleTable;
use super::visible::visible;
use crate::args::TableFormat;
use crate::outcome::Failure;

/// A batch in a list.
pub(crate) struct BatchRow<'b> {
    pub(crate) batch: &'b PastBatch,
    /// The files that are not as they were written, and how they are.
    pub(crate) changed: Vec<(String, &'static str)>,
    /// How far it has come.
    pub(crate) stage: Stage,
    /// What became of its files where they were put.
    pub(crate) there: String,
}

/// Every batch in a line, with the files that are not as they were written.
pub(crate) fn batch_table(batches: &[BatchRow<'_>]) -> Result<String, Failure> {
    let mut table =
        SimpleTable::new(&["batch", "day", "by", "from", "rows", "accepted", "rejected", "is", "files"]);
    for BatchRow { batch, changed, stage, there } in batches {
        let Ok(receipt) = &batch.receipt else {
            let blank = String::new;
            table.add([
                batch.place(),
                blank(),
                blank(),
                blank(),
                blank(),
                blank(),
                blank(),
                blank(),
                "no receipt".into(),
            ]);
            continue;
        };
        let from: Vec<&str> = receipt.sources.iter().map(|source| source.file.as_str()).collect();
        let files = match changed.as_slice() {
            [] => "as written".to_owned(),
            some => some.iter().map(|(file, how)| format!("{file} {how}")).collect::<Vec<_>>().join(", "),
        };
        table.add([
            batch.place(),
            shown_day(&receipt.today),
            receipt.by.clone(),
            from.join(", "),
            grouped(receipt.totals.read),
            grouped(receipt.totals.accepted),
            grouped(receipt.totals.rejected),
            if there.is_empty() { stage.words().to_owned() } else { format!("{}; {there}", stage.words()) },
            files,
        ]);
    }
    table.print(TableFormat::Text)
}

/// How many rows of batches are shown; JSON has all of them.
const MOST_SHOWN: usize = 40;

/// What batches did with a record: where it came from, and the line of the upload that [`explain`](super::Life) takes.
pub(crate) fn rows_with_key(found: &[(&PastBatch, ListedRow, String)]) -> String {
    let mut out = String::new();
    for (batch, row, told) in found.iter().take(MOST_SHOWN) {
        let key = styled(NAME, &visible(&row.key));
        let told = if told.is_empty() { String::new() } else { format!(", {}", visible(told)) };
        let _ = writeln!(out, "{}  {}{told}  {key}", batch.place(), row.outcome);
        let into = if row.into.is_empty() { String::new() } else { format!(", into {}", visible(&row.into)) };
        let line = row.line.map_or_else(String::new, |line| format!("  {}:{line}", visible(&row.file)));
        let _ = writeln!(out, "  row {} of {}{into}{line}", row.row, visible(&row.source));
    }
    let more = found.len().saturating_sub(MOST_SHOWN);
    if more > 0 {
        let _ = writeln!(out, "and {} more; --format json has all of them", grouped(more as u64));
    }
    out
}

/// What happened to a batch since it was made.
pub(crate) struct AfterBatch<'a> {
    pub(crate) events: &'a [BatchEvent],
    /// How many batches there are that send the rest of one another, and what became of their records.
    pub(crate) chain: usize,
    pub(crate) counts: ChainCounts,
}

/// The receipt of a batch, for people.
pub(crate) fn show_batch(row: &BatchRow<'_>, receipt: &Receipt, after: &AfterBatch<'_>) -> String {
    let batch = row.batch;
    let mut out = String::new();
    let _ = writeln!(out, "{}  in {}", styled(NAME, &batch.name()), batch.path.display());
    let mut item = |name: &str, text: &str| out.push_str(&item(name, text));
    item(
        "made",
        &format!(
            "{} by {}",
            shown_day(&receipt.today),
            if receipt.by.is_empty() { "no name" } else { &receipt.by }
        ),
    );
    let version = if receipt.target.version.is_empty() {
        String::new()
    } else {
        format!(", version {}", receipt.target.version)
    };
    item("for", &format!("{}{version}", receipt.target.name));
    for source in &receipt.sources {
        let sheet = source.sheet.as_ref().map_or_else(String::new, |sheet| format!(", sheet \"{sheet}\""));
        let (file, bytes) = (&source.file, grouped(source.bytes));
        let (columns, encoding) = (source.columns.len(), &source.encoding);
        item("from", &format!("{file}{sheet}: {bytes} bytes, {columns} columns, read as {encoding}"));
        item("", &format!("blake3 {}", source.blake3));
    }
    for (name, value) in &receipt.asked {
        item("given", &format!("{name} = {value}"));
    }
    let totals = receipt.totals;
    item(
        "rows",
        &format!(
            "{} read = {} accepted + {} rejected + {} merged + {} left out",
            grouped(totals.read),
            grouped(totals.accepted),
            grouped(totals.rejected),
            grouped(totals.merged),
            grouped(totals.left_out)
        ),
    );
    if receipt.records > 0 && receipt.records != totals.accepted {
        item("records", &grouped(receipt.records));
    }
    if let Some(held) = &receipt.held {
        let counts = &held.counts;
        item(
            "beside",
            &format!(
                "{} new + {} changed + {} the same; {} sent + {} not sent; {} gone, {} removed",
                grouped(counts.new),
                grouped(counts.changed),
                grouped(counts.same),
                grouped(counts.sent),
                grouped(counts.unsent),
                grouped(counts.gone),
                grouped(counts.removed)
            ),
        );
        let lists: Vec<&str> = held.lists.iter().map(|list| list.list.as_str()).collect();
        let day = held.as_of.as_ref().map_or_else(String::new, |day| format!(", as of {day}"));
        item("held", &format!("{}{day}", lists.join(", ")));
    }
    if let Some(loaded) = &receipt.loaded {
        item("loaded", &loaded_line(loaded));
    }
    item("for", receipt.purpose.as_deref().unwrap_or_default());
    if let Some(follows) = &receipt.follows {
        item("rest of", follows);
    }
    if let Some(withheld) = receipt.withheld {
        item(
            "not sent",
            &format!(
                "{} loaded before, {} unknown, {} waiting for the rest",
                grouped(withheld.loaded),
                grouped(withheld.unknown),
                grouped(withheld.waiting)
            ),
        );
    }
    item("changed", &counted(receipt.changed_cells, "cell"));
    let findings: Vec<String> =
        receipt.findings.iter().map(|(kind, count)| format!("{} {kind}", grouped(*count))).collect();
    item("findings", &findings.join(", "));
    let proven = receipt.proven_date_orders.iter().chain(&receipt.proven_decimal_marks);
    let proven: Vec<String> = proven.map(|(field, proof)| format!("{field} {proof}")).collect();
    item("proven", &proven.join(", "));
    let settings: Vec<&str> = receipt.settings.iter().map(|file| file.file.as_str()).collect();
    item("settings", &settings.join(", "));
    if !receipt.sent_totals.is_empty() {
        let _ = writeln!(out, "\nthe records that were sent come to:");
        out.push_str(&field_totals(&receipt.sent_totals.iter().collect::<Vec<_>>()));
    }
    if !receipt.limits.is_empty() {
        let _ = writeln!(out, "\nits limits:");
        out.push_str(&limit_lines(&receipt.limits));
    }
    let _ = writeln!(
        out,
        "\nit is {}{}{}",
        if row.stage == Stage::Draft { "a " } else { "" },
        stage_word(row.stage),
        if row.there.is_empty() { String::new() } else { format!("; {}", visible(&row.there)) }
    );
    out.push_str(&event_lines(after.events));
    if after.chain > 1 {
        let ChainCounts { sent, loaded, not_loaded, unknown } = after.counts;
        let _ = writeln!(
            out,
            "  with the batches that send its rest: {} sent = {} loaded + {} refused or not there + {} unknown",
            grouped(sent),
            grouped(loaded),
            grouped(not_loaded),
            grouped(unknown)
        );
    }
    let _ = writeln!(out);
    show_outputs(batch, &mut out);
    out
}

/// The files of a batch, and what became of them.
fn show_outputs(batch: &PastBatch, out: &mut String) {
    let outputs = batch.outputs();
    let widest = outputs.iter().map(|(output, _)| columns(&output.file)).max().unwrap_or(0);
    for (output, since) in &outputs {
        let state = match since {
            Since::Unchanged => styled(GOOD, "as written"),
            Since::Edited => styled(WRONG, "edited since; make the batch again instead"),
            Since::Worked => "edited, to be brought back with dusk correct".to_owned(),
            Since::Gone => styled(WRONG, "gone"),
        };
        let _ = writeln!(out, "  {}  {}  {state}", padded(&output.file, widest), rows_of_file(output.rows));
    }
}
