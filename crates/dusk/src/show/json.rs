//! Results for programs. The number of the form goes up when a key changes its meaning.

use dusk_core::conforming::{Judged, Outcome};
use dusk_core::evidence::{Cause, FieldId, Finding, Id as _, SourceId};
use dusk_core::run::{ExplainedRecord, Explanation, Ready, Settle, Summary};
use serde_json::{Value, json};

use super::causes::settle_command;
use super::made::BatchShown;

/// The number of the form of all JSON results.
pub(super) const FORM: u32 = 4;

/// The result of a run.
pub(crate) fn report_json(
    ready: &Ready<'_>,
    summary: &Summary,
    (last, drift): (Option<&str>, &[String]),
    made: Option<&BatchShown<'_>>,
) -> Value {
    let sources: Vec<Value> = ready
        .job
        .sources
        .iter()
        .zip(&summary.sources)
        .map(|(source, print)| {
            json!({
                "file": source.name, "bytes": print.bytes, "blake3": print.blake3,
                "encoding": source.encoding.label(), "delimiter": source.dialect.delimiter(),
                "header_row": source.header_row, "evidence": source.evidence, "workbook": source.workbook, "records": source.records, "columns": source.columns.to_vec(),
            })
        })
        .collect();
    let evidence: Vec<Value> = ready
        .evidence
        .iter()
        .map(|found| {
            let field = ready.job.target.fields.get(found.field).map(|field| &field.name);
            json!({"field": field, "evidence": found.evidence})
        })
        .collect();
    json!({
        "form": FORM,
        "last_batch": last,
        "new": drift,
        "totals": summary.totals,
        "in_last_batch": summary.again.map(|again| json!({"same": again.same, "other_facts": again.other})),
        "records": summary.records,
        "held": summary.beside,
        "withheld": (summary.withheld.all() > 0).then_some(summary.withheld),
        "limits": summary.limits,
        "sent_totals": summary.field_totals,
        "changed_cells": summary.changed_cells,
        "causes": summary.causes.iter().map(|cause| cause_json(ready, cause, settle_command(ready.job, cause))).collect::<Vec<_>>(),
        "explained": summary.explained,
        "remarks": summary.remarks.iter().map(|cause| cause_json(ready, cause, None)).collect::<Vec<_>>(),
        "sources": sources,
        "evidence": evidence,
        "batch": made.map(|made| json!({"folder": made.folder.display().to_string(), "outputs": made.outputs, "loaded": made.loaded})),
    })
}

/// What a run comes to, without a value of the data.
pub(crate) fn totals_json(summary: &Summary) -> Value {
    json!({
        "form": FORM, "totals": summary.totals, "records": summary.records,
        "changed_cells": summary.changed_cells, "causes": summary.causes.len(),
    })
}

fn cause_json(ready: &Ready<'_>, cause: &Cause, settle: Option<String>) -> Value {
    json!({
        "finding": cause.kind.code(),
        "severity": cause.kind.severity(),
        "about": cause.about,
        "value": cause.value,
        "within": cause.within,
        "count": cause.count,
        "of": cause.of,
        "rows": cause.rows,
        "alone": cause.alone,
        "column": cause.column.as_ref().map(|column| json!({"says": column.fact.says(), "details": column.fact.details()})),
        "likely": likely_json(ready, cause),
        "first": {"source": source_name(ready, cause.source), "row": cause.row, "line": cause.line, "value": cause.example},
        "wrong": cause.fault.wrong(),
        "right": cause.fault.right(),
        "settle": settle,
    })
}

fn likely_json(ready: &Ready<'_>, cause: &Cause) -> Value {
    match ready.job.way_to_settle(cause) {
        Settle::Crosswalk { answers, .. } | Settle::Cell { answers, .. } => answers
            .iter()
            .map(|likely| json!({"answer": likely.answer, "shown": likely.shown, "why": likely.why}))
            .collect(),
        _ => json!([]),
    }
}

/// The life of a row, or of one cell of it.
pub(crate) fn life_json(ready: &Ready<'_>, explanation: &Explanation, field: Option<FieldId>) -> Value {
    let fields = |record: &ExplainedRecord| -> Vec<Value> {
        let shown = ready.plan.fields.with_ids().zip(&record.outcomes);
        shown
            .filter(|((id, plan), _)| record.holds(plan) && field.is_none_or(|wanted| wanted == *id))
            .map(|((_, plan), outcome)| field_json(&plan.field.name, outcome))
            .collect()
    };
    let records: Vec<Value> = explanation
        .records
        .iter()
        .map(|record| {
            let beside = record.beside.as_ref();
            let held = beside.map(|beside| json!({"is": beside.standing.word(), "sent": beside.is_sent}));
            json!({"repeat": record.label, "group": record.group, "held": held, "fields": fields(record)})
        })
        .collect();
    let cells: Vec<Value> = explanation
        .cells
        .iter()
        .map(|(column, cell, kind)| json!({"column": column, "value": cell, "kind": kind.word()}))
        .collect();
    json!({
        "form": FORM,
        "source": explanation.source,
        "row": explanation.row,
        "line": explanation.line,
        "fate": fate_word(explanation.fate),
        "cells": cells,
        "records": records,
        "findings": explanation.findings.iter().map(finding_json).collect::<Vec<_>>(),
    })
}

fn fate_word(fate: Judged) -> &'static str {
    match fate {
        Judged::Accepted => "accepted",
        Judged::Rejected => "rejected",
        Judged::LeftOut => "left out",
        Judged::Merged => "merged",
    }
}

pub(super) fn field_json(name: &str, outcome: &Outcome) -> Value {
    let steps: Vec<Value> = outcome
        .trail
        .taken
        .iter()
        .map(|taken| json!({"step": taken.basis.step().name(), "after": taken.after, "evidence": taken.basis.to_string()}))
        .collect();
    let fits = outcome.faults.is_empty() && !outcome.unjudged;
    json!({"field": name, "steps": steps, "upload": fits.then_some(&outcome.text)})
}

pub(super) fn finding_json(finding: &Finding) -> Value {
    json!({
        "finding": finding.fault.kind().code(),
        "severity": finding.fault.kind().severity(),
        "about": finding.about,
        "repeat": finding.repeat,
        "value": finding.value,
        "wrong": finding.fault.wrong(),
        "right": finding.fault.right(),
    })
}

fn source_name<'r>(ready: &'r Ready<'_>, source: SourceId) -> &'r str {
    ready.job.sources.get(source.index()).map_or("", |source| source.name.as_str())
}
