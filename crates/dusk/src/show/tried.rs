//! Rows tried: before and after, side by side or as cards.

use std::fmt;
use std::path::PathBuf;

use dusk_core::conforming::{Judged, Outcome};
use dusk_core::evidence::{FieldId, Severity};
use dusk_core::run::{ExplainedRecord, Ready, Thing, Trial, TrialRow, Wanted};
use serde_json::json;

use super::causes::expected;
use super::json::{field_json, finding_json};
use super::layout::{behind, columns, cut, grouped, padded, width, wrapped, wrapped_page};
use super::life::source_text;
use super::style::{GOOD, NAME, QUIET, REMARK, WRONG, styled};
use super::visible::visible;

/// Rows tried, and what was written of them.
pub(crate) struct Tried<'t> {
    pub(crate) ready: &'t Ready<'t>,
    pub(crate) trial: &'t Trial,
    pub(crate) wanted: &'t Wanted,
    pub(crate) written: &'t [PathBuf],
    pub(crate) quiet: bool,
}

/// Marks before a value, so that it is seen without colour what became of it.
const CHANGED: &str = "→";
const REJECTED: &str = "✗";
const SAME: &str = " ";

/// The widest that a value is shown side by side, and on a card.
const WIDEST: usize = 18;
const WIDEST_ON_CARD: usize = 36;

/// One value of a record, before and after.
struct Shown {
    before: String,
    after: String,
    mark: &'static str,
}

impl Tried<'_> {
    fn how_chosen(&self) -> &'static str {
        match self.wanted {
            Wanted::Telling(_) => "chosen so that they show most",
            Wanted::Rows(_) | Wanted::First(_) => "as asked for",
        }
    }

    /// The fields that something feeds, by their places.
    fn fields(&self) -> Vec<FieldId> {
        let empty = self.ready.job.mapping.left_empty(self.ready.job.target);
        let sent = |place: &FieldId| {
            let field = self.ready.job.target.fields.get(*place);
            !empty.contains(place) && field.is_some_and(|field| !field.never_send)
        };
        self.ready.plan.fields.ids().filter(sent).collect()
    }

    fn name(&self, place: FieldId) -> String {
        let field = self.ready.plan.fields.get(place);
        visible(field.map_or("", |plan| plan.field.name.as_str())).into_owned()
    }

    /// A field by the heading of its column first, as the steward knows it, where one column feeds it.
    fn label(&self, place: FieldId) -> String {
        let name = self.name(place);
        match self.ready.job.mapping.headings_for(place, "").as_slice() {
            [heading] if !heading.eq_ignore_ascii_case(&name) => format!("{} ({name})", visible(heading)),
            _ => name,
        }
    }

    fn shown(&self, row: &TrialRow, record: &ExplainedRecord, place: FieldId) -> Shown {
        let (Some(plan), Some(outcome)) = (self.ready.plan.fields.get(place), record.outcomes.get(place))
        else {
            return Shown { before: String::new(), after: String::new(), mark: SAME };
        };
        if !record.holds(plan) {
            return Shown { before: String::new(), after: String::new(), mark: SAME };
        }
        let before = visible(&source_text(&row.cells, record, &plan.input)).into_owned();
        let fits = outcome.faults.is_empty() && !outcome.unjudged;
        let mark = match (fits, outcome.trail.changed()) {
            (false, _) => REJECTED,
            (true, true) => CHANGED,
            (true, false) => SAME,
        };
        Shown { before, after: after(outcome), mark }
    }

    /// How wide each field is beside the others.
    fn widths(&self, fields: &[FieldId]) -> Vec<usize> {
        let wide = |place: &FieldId| {
            let values = self.trial.rows.iter().flat_map(|row| {
                row.records.iter().flat_map(move |record| {
                    let shown = self.shown(row, record, *place);
                    [columns(&shown.before), columns(&shown.after)]
                })
            });
            values.chain([columns(&self.name(*place))]).max().unwrap_or(0).min(WIDEST)
        };
        fields.iter().map(wide).collect()
    }

    /// True where all fields fit beside one another.
    fn fits_side_by_side(&self, fields: &[FieldId]) -> bool {
        let wide: usize = self.widths(fields).iter().map(|wide| wide + 4).sum();
        wide + 22 <= width()
    }

    fn side_by_side(&self, f: &mut fmt::Formatter<'_>, fields: &[FieldId]) -> fmt::Result {
        let wide = self.widths(fields);
        let head: String = fields
            .iter()
            .zip(&wide)
            .map(|(place, wide)| format!("  {}  ", padded(&cut(&self.name(*place), *wide), *wide)))
            .collect();
        writeln!(f, "{}", styled(QUIET, format!("{}{head}", " ".repeat(16)).trim_end()))?;
        for row in &self.trial.rows {
            if row.records.is_empty() {
                writeln!(f, "{}", self.title(row))?;
            }
            for record in &row.records {
                let shown: Vec<Shown> = fields.iter().map(|place| self.shown(row, record, *place)).collect();
                let line = |value: &dyn Fn(&Shown) -> String| -> String {
                    shown
                        .iter()
                        .zip(&wide)
                        .map(|(shown, wide)| format!(" {}  ", padded(&value(shown), *wide + 1)))
                        .collect()
                };
                let number = format!("row {}", row.row);
                let before = line(&|shown| format!(" {}", cut(&shown.before, WIDEST)));
                writeln!(f, "{}", format!("{}{before}", padded(&number, 16)).trim_end())?;
                let mut after = String::new();
                for (shown, wide) in shown.iter().zip(&wide) {
                    let value = format!("{}{}", shown.mark, cut(&shown.after, WIDEST));
                    let blank = " ".repeat((*wide + 1).saturating_sub(columns(&value)));
                    let style = match shown.mark {
                        CHANGED => GOOD,
                        REJECTED => WRONG,
                        _ => QUIET,
                    };
                    // Nothing is not coloured, so that the line can end there.
                    let shown = if value.trim().is_empty() { value } else { styled(style, &value) };
                    after.push_str(&format!(" {shown}{blank}  "));
                }
                let label = record.title().map_or_else(String::new, |title| format!(" ({title})"));
                let fate = padded(&format!("  {}{}", fate(row.fate), visible(&label)), 16);
                writeln!(f, "{}", format!("{fate}{after}").trim_end())?;
            }
            self.why(f, row)?;
            writeln!(f)?;
        }
        Ok(())
    }

    fn cards(&self, f: &mut fmt::Formatter<'_>, fields: &[FieldId]) -> fmt::Result {
        let names = fields.iter().map(|place| columns(&self.label(*place))).max().unwrap_or(0).min(30);
        for row in &self.trial.rows {
            writeln!(f, "{}", self.title(row))?;
            self.why(f, row)?;
            for record in &row.records {
                if let Some(title) = record.title() {
                    writeln!(f, "  {}", styled(NAME, &visible(&title)))?;
                }
                let shown = || fields.iter().map(|place| self.shown(row, record, *place));
                let widest = |wide: fn(&Shown) -> usize| shown().map(|shown| wide(&shown)).max().unwrap_or(0);
                // What is over of the values after goes to those before.
                let room = width().saturating_sub(names + 10);
                let afters = widest(|shown| columns(&shown.after)).min(room / 2);
                let befores = widest(|shown| columns(&shown.before)).min(WIDEST_ON_CARD).min(room - afters);
                for place in fields {
                    let shown = self.shown(row, record, *place);
                    if shown.before.is_empty() && shown.after.is_empty() && shown.mark == SAME {
                        continue;
                    }
                    let before = padded(&cut(&shown.before, befores), befores);
                    let after = cut(&shown.after, width().saturating_sub(names + befores + 10));
                    let after = match shown.mark {
                        CHANGED => styled(GOOD, &after),
                        REJECTED => styled(WRONG, &after),
                        _ => styled(QUIET, &after),
                    };
                    let name = padded(&cut(&self.label(*place), 30), names);
                    writeln!(f, "{}", format!("  {name}  {before}  {} {after}", shown.mark).trim_end())?;
                }
            }
            writeln!(f)?;
        }
        Ok(())
    }

    fn title(&self, row: &TrialRow) -> String {
        let style = match row.fate {
            Judged::Accepted => GOOD,
            Judged::Rejected => WRONG,
            Judged::LeftOut | Judged::Merged => REMARK,
        };
        let number = format!("row {}", row.row.with_line(row.line));
        format!("{}: {}", styled(NAME, &number), styled(style, fate(row.fate)))
    }

    /// What a row shows first, and what was found in it.
    fn why(&self, f: &mut fmt::Formatter<'_>, row: &TrialRow) -> fmt::Result {
        if let Some(shows) = in_short(&row.shows) {
            for line in wrapped(&visible(&shows), width().saturating_sub(2), 0) {
                writeln!(f, "  {}", styled(QUIET, &line))?;
            }
        }
        for finding in &row.findings {
            let fault = &finding.fault;
            let value =
                if finding.value.is_empty() { String::new() } else { format!(" \"{}\"", finding.value) };
            let severity = fault.kind().severity();
            let ink = if severity == Severity::Reject { WRONG } else { REMARK };
            let about = match finding.field.filter(|_| finding.repeat.is_empty()) {
                Some(field) => self.label(field),
                None => visible(&finding.full_about()).into_owned(),
            };
            let text = format!("{about}{value} {}", fault.wrong());
            let head = format!("  {}: ", styled(ink, severity.word()));
            write!(f, "{}", behind(&head, severity.word().len() + 4, &visible(&text)))?;
            if let Some((label, right)) = expected(fault) {
                let head = format!("    {} ", styled(QUIET, &format!("{label}:")));
                write!(f, "{}", behind(&head, label.len() + 6, &right))?;
            }
        }
        Ok(())
    }

    /// The same for programs.
    pub(crate) fn json(&self) -> serde_json::Value {
        let rows: Vec<serde_json::Value> = self
            .trial
            .rows
            .iter()
            .map(|row| {
                let records: Vec<serde_json::Value> = row
                    .records
                    .iter()
                    .map(|record| {
                        let fields = self.ready.plan.fields.iter().zip(&record.outcomes);
                        let fields = fields.filter(|(plan, _)| record.holds(plan));
                        let fields: Vec<serde_json::Value> = fields
                            .map(|(plan, outcome)| {
                                let mut json = field_json(&plan.field.name, outcome);
                                let before = source_text(&row.cells, record, &plan.input);
                                if let Some(object) = json.as_object_mut() {
                                    object.insert("before".into(), before.into());
                                }
                                json
                            })
                            .collect();
                        json!({"repeat": record.label, "group": record.group, "fields": fields})
                    })
                    .collect();
                let shows: Vec<String> = row.shows.iter().map(thing).collect();
                json!({
                    "row": row.row, "line": row.line, "fate": fate(row.fate), "shows": shows,
                    "records": records,
                    "findings": row.findings.iter().map(finding_json).collect::<Vec<_>>(),
                })
            })
            .collect();
        json!({
            "form": 2,
            "rows": rows,
            "shown": self.trial.shown,
            "things": self.trial.things,
            "rows_for_all": self.trial.rows_for_all,
            "totals": self.trial.summary.totals,
            "written": self.written.iter().map(|path| path.display().to_string()).collect::<Vec<_>>(),
        })
    }
}

impl fmt::Display for Tried<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let fields = self.fields();
        if self.fits_side_by_side(&fields) {
            self.side_by_side(f, &fields)?;
        } else {
            self.cards(f, &fields)?;
        }
        let trial = self.trial;
        let rows = trial.rows.len();
        let shows = format!(
            "{rows} of {} rows, {}: {} of {} shapes of values, kinds of change and causes",
            grouped(trial.summary.totals.read),
            self.how_chosen(),
            trial.shown,
            trial.things
        );
        write!(f, "{}", wrapped_page(&shows))?;
        if trial.shown < trial.things && !self.quiet {
            writeln!(f, "  {}", styled(QUIET, &format!("-n {} shows all of them", trial.rows_for_all)))?;
        }
        if !self.quiet {
            writeln!(f, "  {}", styled(QUIET, "→ changed   ✗ rejected   otherwise as it was"))?;
        }
        for path in self.written {
            let count = trial.accepted();
            let path = styled(NAME, &path.display().to_string());
            writeln!(f, "\nwrote {path}: the {count} rows of them that are accepted")?;
        }
        Ok(())
    }
}

fn after(outcome: &Outcome) -> String {
    match outcome.faults.first() {
        Some(fault) => visible(&fault.wrong()).into_owned(),
        None if outcome.unjudged => "not judged".into(),
        None if outcome.text.is_empty() && outcome.trail.changed() => "(blank)".into(),
        // A day in figures can be misread.
        None => match outcome.value.day() {
            Some(day) => format!("{} ({})", visible(&outcome.text), dusk_core::values::shown(day)),
            None => visible(&outcome.text).into_owned(),
        },
    }
}

fn fate(fate: Judged) -> &'static str {
    match fate {
        Judged::Accepted => "accepted",
        Judged::Rejected => "rejected",
        Judged::LeftOut => "left out",
        Judged::Merged => "merged",
    }
}

fn thing(thing: &Thing) -> String {
    match thing {
        Thing::Shape(column, shape) => format!("{column} like {shape}"),
        Thing::Change(field, steps) => format!("{field}: {steps}"),
        Thing::Cause(about, wrong) => format!("{about} {wrong}"),
    }
}

/// What a row shows, the first of each kind and how many more.
fn in_short(shows: &[Thing]) -> Option<String> {
    let kind = |wanted: fn(&Thing) -> bool, what: &str, few: usize| {
        let of_kind: Vec<String> = shows.iter().filter(|thing| wanted(thing)).map(thing).collect();
        let more = of_kind.len().saturating_sub(few);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let first: Vec<String> = of_kind.into_iter().take(few).collect();
        (!first.is_empty()).then(|| format!("{what}{}{more}", first.join(", ")))
    };
    let parts = [
        kind(|thing| matches!(thing, Thing::Change(..)), "changes ", 3),
        kind(|thing| matches!(thing, Thing::Shape(..)), "values ", 3),
        kind(|thing| matches!(thing, Thing::Cause(..)), "causes ", 2),
    ];
    let parts: Vec<String> = parts.into_iter().flatten().collect();
    (!parts.is_empty()).then(|| format!("shows first: {}", parts.join("; ")))
}
