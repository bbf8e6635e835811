//! The mapping as a picture: field by field, what feeds it, what is done to it, a value before and after.

use std::fmt;

use dusk_core::evidence::{FieldId, Id as _};
use dusk_core::proposing::Proposals;
use dusk_core::run::{FieldShown, Job, Ready};
use serde_json::json;

use super::layout::{columns, cut, grouped, width, wrapped, wrapped_page};
use super::mapped::doubts;
use super::style::{NAME, QUIET, REMARK, WRONG, styled};
use super::text_table::table_lines;
use super::visible::visible;

/// A mapping and what it makes of the first rows of a source.
pub(crate) struct Picture<'p> {
    pub(crate) job: &'p Job<'p>,
    pub(crate) ready: Option<&'p Ready<'p>>,
    pub(crate) examples: &'p [FieldShown],
    pub(crate) proposals: &'p Proposals,
    pub(crate) undecided: Option<&'p str>,
}

/// What is shown of one field.
struct Line {
    name: String,
    feed: String,
    done: Vec<String>,
    before: String,
    after: String,
    /// The day that the value is, written out.
    day: Option<String>,
    /// What is said where not all values are accepted.
    accepts: String,
}

/// How many of the first values a field accepts, where it is not all of them.
fn accepts(shown: &FieldShown) -> String {
    let Some((value, wrong)) = &shown.refused else { return String::new() };
    let value = cut(value, 24);
    match shown.accepted.of - shown.accepted.fit {
        all if all == shown.accepted.of => {
            format!("not one of its {} values is accepted: \"{value}\" {wrong}", grouped(all))
        }
        some => {
            format!("{} of {} are not accepted, first \"{value}\"", grouped(some), grouped(shown.accepted.of))
        }
    }
}

/// The beginning of a long value.
fn in_short(value: &str) -> String {
    cut(&visible(value), 28)
}

/// Narrower than this there is no room for a table.
const NARROW: usize = 100;

impl Line {
    /// What becomes of the value; a day is written out.
    fn after_shown(&self) -> String {
        let same = self.after == self.before;
        match &self.day {
            _ if self.after.is_empty() => String::new(),
            Some(day) if same => format!("the same ({day})"),
            Some(day) => format!("{} ({day})", self.after),
            None if same => "the same".to_owned(),
            None => self.after.clone(),
        }
    }

    /// What is done, and what is not accepted.
    fn done_shown(&self) -> String {
        let accepts = Some(&self.accepts).filter(|accepts| !accepts.is_empty());
        self.done.iter().chain(accepts).map(String::as_str).collect::<Vec<_>>().join("; ")
    }
}

impl Picture<'_> {
    fn lines(&self) -> Vec<Line> {
        let (target, mapping) = (self.job.target, self.job.mapping);
        let mut lines = Vec::new();
        for (place, field) in target.fields.with_ids() {
            let map = mapping.maps.iter().find(|map| map.field == place);
            let own = match (map, &field.fixed, &field.made_of) {
                (None, Some(fixed), _) => Some(format!("always \"{fixed}\", as the target says")),
                (None, _, Some(made_of)) => Some(format!("{}, other fields", made_of.written())),
                (None, None, None) => continue,
                (Some(_), ..) => None,
            };
            let proven = self.ready.and_then(|ready| ready.proven_order(place));
            let shown = self.examples.get(place.index());
            let example = shown.and_then(|shown| shown.example.as_ref());
            let marks = [(field.required, "*"), (field.key, "key")];
            let marks: Vec<&str> = marks.iter().filter(|(is, _)| *is).map(|(_, mark)| *mark).collect();
            lines.push(Line {
                name: [&[field.name.as_str()], marks.as_slice()].concat().join(" "),
                feed: own.or_else(|| map.map(|map| map.feed.words())).unwrap_or_default(),
                done: map.map(|map| map.done(field, proven)).unwrap_or_default(),
                before: example.map_or_else(String::new, |example| example.before.clone()),
                after: example.map_or_else(String::new, |example| example.after.clone()),
                day: example.and_then(|example| example.day.clone()),
                accepts: shown.map(accepts).unwrap_or_default(),
            });
        }
        lines
    }

    /// The fields that stay empty; those that must not come first.
    fn empty(&self) -> Vec<String> {
        let fields = &self.job.target.fields;
        let mut empty: Vec<FieldId> = self.job.mapping.left_empty(self.job.target);
        empty.sort_by_key(|place| !fields.get(*place).is_some_and(|field| field.required));
        let name = |place: &FieldId| {
            let field = fields.get(*place)?;
            Some(format!("{}{}", field.name, if field.required { " (must be filled)" } else { "" }))
        };
        empty.iter().filter_map(name).collect()
    }

    fn unused(&self) -> Vec<&str> {
        let source = self.job.sources.first();
        source.map_or_else(Vec::new, |source| self.proposals.columns_without(source, Some(self.job.mapping)))
    }

    /// The same for programs.
    pub(crate) fn json(&self) -> serde_json::Value {
        let fields: Vec<serde_json::Value> = self
            .lines()
            .into_iter()
            .map(|line| json!({"field": line.name, "feed": line.feed, "done": line.done, "before": line.before, "after": line.after, "day": line.day, "accepts": line.accepts}))
            .collect();
        json!({
            "form": 1,
            "fields": fields,
            "left_empty": self.empty(),
            "left_out": self.job.mapping.leave_out,
            "unused": self.unused(),
            "undecided": self.undecided,
        })
    }
}

impl fmt::Display for Picture<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let name = self.job.mapping.path.display().to_string();
        let source = self.job.sources.first().map_or("", |source| source.name.as_str());
        let head = format!("{name}: {source} for {}", self.job.target.name);
        write!(f, "{}", wrapped_page(&visible(&head)))?;
        if width() < NARROW {
            self.cards(f)?;
        } else {
            self.table(f)?;
        }
        if self.job.target.fields.iter().any(|field| field.required) {
            writeln!(f, "\n {}", styled(QUIET, "* must be filled"))?;
        }
        self.rest(f)
    }
}

impl Picture<'_> {
    fn table(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let row = |line: Line| {
            let after = line.after_shown();
            let done = line.done_shown();
            vec![line.name, line.feed, done, in_short(&line.before), in_short(&after)]
        };
        let rows: Vec<Vec<String>> = self.lines().into_iter().map(row).collect();
        writeln!(f)?;
        for line in table_lines(&["field", "from", "what is done", "before", "after"], &rows, width()) {
            writeln!(f, "{line}")?;
        }
        Ok(())
    }

    /// Field under field, where the screen is narrow.
    fn cards(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for line in self.lines() {
            let name = visible(&line.name);
            for (place, feed) in
                wrapped(&visible(&line.feed), width() - 4, columns(&name) + 2).iter().enumerate()
            {
                match place {
                    0 => writeln!(f, "\n {}  {feed}", styled(NAME, &name))?,
                    _ => writeln!(f, "     {feed}")?,
                }
            }
            let done = line.done_shown();
            let done = if done.is_empty() {
                Vec::new()
            } else {
                wrapped(&visible(&done), width().saturating_sub(4), 0)
            };
            for text in done {
                writeln!(f, "   {}", styled(QUIET, &text))?;
            }
            if !line.after.is_empty() {
                let value = format!("{}  →  {}", line.before, line.after_shown());
                for text in wrapped(&visible(&value), width().saturating_sub(4), 0) {
                    writeln!(f, "   {text}")?;
                }
            }
        }
        Ok(())
    }

    /// What is to be decided, and what nothing feeds or uses.
    fn rest(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Some(undecided) = self.undecided {
            writeln!(f, "\n{}", styled(WRONG, "no values are shown, because this must be decided first:"))?;
            writeln!(f, "{undecided}")?;
        }
        doubts(
            f,
            self.proposals,
            match self.job.sources.first() {
                Some(source) => source,
                None => return Ok(()),
            },
            self.job.target,
        )?;
        let left_out = self.job.mapping.leave_out.join(", ");
        for (title, style, text) in [
            ("fields left empty", REMARK, self.empty().join(", ")),
            ("columns left out on purpose", NAME, left_out),
            ("columns that nothing speaks of", REMARK, self.unused().join(", ")),
        ] {
            if !text.is_empty() {
                writeln!(f, "\n{}", styled(style, &format!("{title}:")))?;
                for line in wrapped(&visible(&text), width().saturating_sub(2), 0) {
                    writeln!(f, "  {line}")?;
                }
            }
        }
        Ok(())
    }
}
