//! An export beside what the target holds: counts as a picture, the fields that change, records with old beside new.

use std::fmt::Write as _;

use dusk_core::description::FieldType;
use dusk_core::evidence::FieldId;
use dusk_core::run::{BesideCounts, ComparedKind, ComparedRecord, FieldChanges, HeldComparison, Ready};
use dusk_core::values::Moment;
use jiff::civil::Date;
use serde_json::{Value, json};

use super::json::FORM;
use super::layout::{columns, counted, cut, grouped, padded, width, wrapped};
use super::style::{COMMAND, GOOD, Ink, NAME, QUIET, REMARK, WRONG, styled};
use super::totals::{BesideLine, Totals};
use super::visible::visible;
use crate::outcome::Failure;

/// How wide the longest bar is.
const BAR: u64 = 30;

/// How many fields are listed, and how many groups of equal changes of each.
const FIELDS: usize = 8;
const GROUPS: usize = 3;

/// A comparison for people.
pub(crate) struct ComparedShown<'c> {
    pub(crate) ready: &'c Ready<'c>,
    pub(crate) comparison: &'c HeldComparison,
    /// How many records are shown.
    pub(crate) most: usize,
    /// The last batch.
    pub(crate) last: Option<&'c str>,
    /// The export as it is typed.
    pub(crate) source: &'c str,
}

/// The sign and the colour of a kind of record.
fn sign(is: ComparedKind) -> (&'static str, Ink) {
    match is {
        ComparedKind::New => ("+", GOOD),
        ComparedKind::Changed => ("~", REMARK),
        ComparedKind::Same => ("=", QUIET),
        ComparedKind::Gone => ("-", WRONG),
    }
}

impl ComparedShown<'_> {
    /// The whole screen.
    ///
    /// # Errors
    /// When the records cannot be read back.
    pub(crate) fn text(&self) -> Result<String, Failure> {
        let mut out = String::new();
        self.lists(&mut out);
        self.counts(&mut out);
        self.fields(&mut out);
        self.records(&mut out)?;
        let summary = &self.comparison.summary;
        let _ = write!(out, "\n{}{}", Totals(summary), BesideLine { summary, last: self.last });
        let counts = summary.beside.unwrap_or_default();
        let (why, command) = match (summary.causes.is_empty(), counts.sent) {
            (false, _) => ("what is rejected, and why", "check"),
            (true, 0) => return Ok(out),
            (true, _) => ("to send it", "conform"),
        };
        let command = styled(COMMAND, &format!("dusk {command} {}", self.source));
        let _ = writeln!(out, "\n{why}: {command}");
        Ok(out)
    }

    fn lists(&self, out: &mut String) {
        let as_of = self.ready.job.target.holds.as_ref().and_then(|holds| holds.as_of);
        let day = as_of.map(|day| format!(", as of {}", dusk_core::values::shown(day))).unwrap_or_default();
        for list in self.ready.job.held.iter().flat_map(|held| &held.lists) {
            let name = styled(NAME, &visible(&list.name));
            let _ = writeln!(out, "{name} holds {}{day}", counted(list.records, "record"));
            let fed = |field: &&FieldId| self.ready.job.mapping.maps.iter().any(|map| map.field == **field);
            let lacks: Vec<String> =
                list.lacks.iter().filter(fed).map(|field| field_label(self.ready, *field)).collect();
            if !lacks.is_empty() {
                let says =
                    format!("it has no column for {}, so what changes there is not seen", lacks.join(", "));
                wrapped(&says, width() - 2, 0).iter().for_each(|line| {
                    let _ = writeln!(out, "  {}", styled(REMARK, line));
                });
            }
        }
        out.push('\n');
    }

    fn counts(&self, out: &mut String) {
        let counts = self.comparison.summary.beside.unwrap_or_default();
        let lines = [
            ("new", counts.new, ComparedKind::New, "the target does not hold them"),
            ("changed", counts.changed, ComparedKind::Changed, "the target holds them otherwise"),
            ("same", counts.same, ComparedKind::Same, "the target holds them as they are"),
            ("gone", counts.gone, ComparedKind::Gone, "held by the target, and not in this export"),
        ];
        /// What stands before and behind the bars.
        const AROUND: usize = 68;
        let bars = (width().saturating_sub(AROUND) as u64).clamp(8, BAR);
        let most = lines.iter().map(|(_, count, ..)| *count).max().unwrap_or(0).max(1);
        for (word, count, is, says) in lines {
            let (sign, ink) = sign(is);
            let long = usize::try_from(count.saturating_mul(bars).div_ceil(most)).unwrap_or(0);
            let bar = padded(&"█".repeat(long), usize::try_from(bars).unwrap_or(8));
            let head = styled(ink, &format!("{sign} {word:<8}{:>9}", grouped(count)));
            let _ = writeln!(out, "  {head}  {} {}", styled(ink, &bar), styled(QUIET, says));
        }
    }

    fn fields(&self, out: &mut String) {
        let fields = &self.comparison.fields;
        if fields.is_empty() {
            return;
        }
        out.push_str("\nfields that change:\n");
        let names: Vec<String> =
            fields.iter().take(FIELDS).map(|field| field_label(self.ready, field.field)).collect();
        let wide = names.iter().map(|name| columns(name)).max().unwrap_or(0).min(34);
        for (FieldChanges { field, records, cleared, groups }, name) in fields.iter().zip(&names) {
            let records = counted(*records, "record");
            let cleared =
                if *cleared > 0 { format!(", {} cleared", grouped(*cleared)) } else { String::new() };
            let head = format!("  {}  {records:>13}{cleared}", styled(NAME, &padded(&cut(name, wide), wide)));
            out.push_str(&head);
            let room = width().saturating_sub(wide + 19 + columns(&cleared));
            let groups = groups.iter().filter(|(.., count)| *count > 1).take(GROUPS);
            let groups: Vec<String> = groups
                .map(|(was, now, count)| {
                    let shown = |text: &str| cut(&shown_value(self.ready, *field, text), 28);
                    format!("{} → {} ({})", shown(was), shown(now), grouped(*count))
                })
                .collect();
            if !groups.is_empty() {
                let _ = write!(out, "  {}", styled(QUIET, &cut(&groups.join(", "), room.max(20))));
            }
            out.push('\n');
        }
        if fields.len() > FIELDS {
            let _ = writeln!(out, "  and {}", counted((fields.len() - FIELDS) as u64, "more field"));
        }
    }

    fn records(&self, out: &mut String) -> Result<(), Failure> {
        let comparison = self.comparison;
        if comparison.wanted == 0 {
            return Ok(());
        }
        out.push_str("\nrecords:\n");
        for record in comparison.records()?.take(self.most) {
            self.record(&record?, out);
        }
        let more = comparison.wanted.saturating_sub(self.most as u64);
        if more > 0 {
            let all = styled(COMMAND, &format!("-n {}", comparison.wanted));
            let _ = writeln!(out, "  {}: {all} shows all", counted(more, "more record"));
        }
        Ok(())
    }

    fn record(&self, record: &ComparedRecord, out: &mut String) {
        let (sign, ink) = sign(record.is);
        let place = match self.ready.job.sources {
            [_] if record.is != ComparedKind::Gone => format!("row {}", record.row),
            _ => format!("row {} of {}", record.row, visible(&record.source)),
        };
        let note = match record.is {
            ComparedKind::New if record.in_last_batch => {
                let last = self.last.unwrap_or_default();
                format!(", in batch {last} already, which is not known to be loaded")
            }
            ComparedKind::Gone if record.sent => ", to be removed".to_owned(),
            ComparedKind::Changed if !record.sent => ", not sent".to_owned(),
            _ => String::new(),
        };
        let key = format!("{sign} {}", visible(&record.key));
        let place = padded(&format!("{place}{note}"), 7);
        let begun = columns(&key) + columns(&place) + 6;
        let head = format!("  {}  {}", styled(ink, &key), styled(QUIET, &place));
        if record.is == ComparedKind::Changed {
            self.changes(record, &head, begun, out);
            return;
        }
        let pairs = record.fields.iter().map(|field| {
            let text = field.new.as_ref().or(field.old.as_ref()).map_or("", String::as_str);
            format!("{} {}", visible(&field.field), visible(text))
        });
        let pairs: Vec<String> = pairs.collect();
        let room = width().saturating_sub(begun).max(20);
        let _ = writeln!(out, "{head}  {}", styled(QUIET, &cut(&pairs.join(" · "), room)));
    }

    /// The fields of a record that change: behind its key where there is room, else below it.
    fn changes(&self, record: &ComparedRecord, head: &str, begun: usize, out: &mut String) {
        let shown = |name: &str, text: Option<&String>| {
            let text = text.map_or("", String::as_str);
            let id = self.ready.job.target.field(name);
            cut(&id.map_or_else(|| text.to_owned(), |id| shown_value(self.ready, id, text)), width() / 2 - 12)
        };
        let label = |name: &str| {
            let id = self.ready.job.target.field(name);
            id.map_or_else(|| name.to_owned(), |id| field_label(self.ready, id))
        };
        let parts: Vec<(String, String, String)> = record
            .fields
            .iter()
            .map(|field| {
                let (old, new) = (field.old.as_ref(), field.new.as_ref());
                (label(&field.field), shown(&field.field, old), shown(&field.field, new))
            })
            .collect();
        let wide: usize =
            parts.iter().map(|(label, was, now)| columns(label) + columns(was) + columns(now) + 7).sum();
        let part = |(label, was, now): &(String, String, String)| {
            format!("{label} {} → {}", styled(WRONG, was), styled(GOOD, now))
        };
        if begun + wide <= width() {
            let _ = writeln!(out, "{head}  {}", parts.iter().map(part).collect::<Vec<_>>().join(" · "));
            return;
        }
        let _ = writeln!(out, "{head}");
        parts.iter().for_each(|one| {
            let _ = writeln!(out, "      {}", part(one));
        });
    }
}

/// A field as people call it, with its name behind it.
pub(crate) fn field_label(ready: &Ready<'_>, field: FieldId) -> String {
    let Some(plan) = ready.plan.fields.get(field) else { return String::new() };
    let name = &plan.field.name;
    let label = plan.field.label.as_deref();
    let shown = match label {
        Some(label) if label.eq_ignore_ascii_case(name) => label.to_owned(),
        Some(label) => format!("{label} ({name})"),
        None => name.clone(),
    };
    visible(&shown).into_owned()
}

/// A value of a field for people: a code with its label, a day written out, or that there is none.
pub(crate) fn shown_value(ready: &Ready<'_>, field: FieldId, text: &str) -> String {
    let Some(plan) = ready.plan.fields.get(field) else { return text.to_owned() };
    if text.is_empty() {
        return "(blank)".to_owned();
    }
    let label = plan.field.kind.codes().and_then(|list| {
        let code = list.codes().iter().find(|code| code.code == text)?;
        Some(code.label.as_str()).filter(|label| !label.is_empty() && *label != text)
    });
    let more = match (label, &plan.field.kind) {
        (Some(label), _) => Some(label.to_owned()),
        (None, FieldType::Date(date)) => {
            date.format.read(text).and_then(day_of).map(dusk_core::values::shown)
        }
        (None, _) => None,
    };
    let text = visible(text);
    more.map_or_else(|| text.clone().into_owned(), |more| format!("{text} {}", visible(&more)))
}

fn day_of(moment: Moment) -> Option<Date> {
    Date::new(moment.year?, moment.month?, moment.day?).ok()
}

/// What comes before the records for programs.
pub(crate) fn compared_head_json(ready: &Ready<'_>, comparison: &HeldComparison) -> Value {
    let summary = &comparison.summary;
    let counts = summary.beside.unwrap_or_default();
    let name = |field: FieldId| ready.plan.fields.get(field).map(|plan| &plan.field.name);
    let fields: Vec<Value> = comparison
        .fields
        .iter()
        .map(|field| {
            let groups: Vec<Value> = field
                .groups
                .iter()
                .take(100)
                .map(|(was, now, count)| json!({"old": was, "new": now, "records": count}))
                .collect();
            json!({"field": name(field.field), "records": field.records, "cleared": field.cleared, "groups": groups})
        })
        .collect();
    let lists = ready.job.held.iter().flat_map(|held| &held.lists);
    json!({
        "form": FORM,
        "counts": counts_json(&counts),
        "totals": summary.totals,
        "sent": counts.sent,
        "unsent": counts.unsent,
        "as_of": ready.job.target.holds.as_ref().and_then(|holds| holds.as_of).map(|day| day.to_string()),
        "lists": lists.map(|list| json!({"list": list.name, "records": list.records})).collect::<Vec<_>>(),
        "fields": fields,
    })
}

/// The counts for programs.
pub(crate) fn counts_json(counts: &BesideCounts) -> Value {
    json!({"new": counts.new, "changed": counts.changed, "same": counts.same, "gone": counts.gone})
}

/// One record for programs, on a line of its own.
pub(crate) fn compared_record_json(record: &ComparedRecord) -> Value {
    let fields: serde_json::Map<String, Value> = record
        .fields
        .iter()
        .map(|field| (field.field.clone(), json!({"old": field.old, "new": field.new})))
        .collect();
    json!({
        "is": record.is, "source": record.source, "row": record.row, "key": record.key,
        "sent": record.sent, "in_last_batch": record.in_last_batch, "fields": fields,
    })
}
