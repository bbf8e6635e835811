//! `mapping.toml`, written for the first time or refreshed: what a steward wrote stays byte by byte.

use std::fmt::Write as _;

use super::edited::{with_left_out, with_new_heading};
use super::{Fed, Key, Proposal, Proposals, Sureness};
use dusk_description::Target;
use dusk_evidence::{ColumnId, Error, FieldId, Result};
use dusk_files::toml_text;
use dusk_mapping::Mapping;
use dusk_sources::Source;

/// The line above the part that every refresh writes anew.
const TO_DECIDE: &str =
    "# ---- to decide: what you uncomment below stays, the rest is written anew by dusk map ----";

/// How wide comments are written.
const WIDTH: usize = 100;

/// A mapping's text and what is new in it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Written {
    /// The whole text.
    pub text: String,
    /// The proposals that it holds for the first time, by their fields.
    pub added: Vec<FieldId>,
}

/// The text of the mapping: `earlier`, the text as it stands and what it says, with what is new; a new
/// one where there is none. `target_path` is the way to the target's description from the mapping's folder,
/// `reading` the lines of a new `[source]`.
///
/// # Errors
/// [`Error::Request`] when a new heading cannot be put in; [`Error::Invariant`] when the text would be no TOML.
pub fn write_mapping(
    proposals: &Proposals,
    source: &Source,
    target: &Target,
    (target_path, reading): (&str, &[String]),
    earlier: Option<(&str, &Mapping)>,
) -> Result<Written> {
    let mut text = match earlier {
        Some((text, _)) => kept(text),
        None => head(proposals, source, target_path, reading),
    };
    let mut added = Vec::new();
    let sure = |proposal: &&Proposal| proposal.sureness != Sureness::Likely;
    for proposal in proposals.proposals.iter().filter(sure) {
        added.push(proposal.field);
        text.push('\n');
        comment(&mut text, &format!("{}: {}", proposal.sureness.word(), proposal.reasons.join("; ")));
        table(&mut text, proposal, source, target, "");
    }
    let field_name = |field: &FieldId| target.fields.get(*field).map(|field| field.name.clone());
    let not_fed: Vec<String> = proposals.not_fed.iter().filter_map(field_name).collect();
    for (key, names) in [("columns", &proposals.leave_out), ("fields", &not_fed)] {
        let more = || Error::Invariant(format!("{key} cannot be added under [leave_out]"));
        text = with_left_out(&text, key, names).ok_or_else(more)?;
    }
    for (field, old, new) in &proposals.renamed {
        let name = field_name(field).unwrap_or_default();
        let refused = || {
            Error::Request(format!(
                "the [[map]] of {name} does not say from = {} on a line of its own, so it was not changed\n  write the new heading {} there by hand",
                toml_text(old),
                toml_text(source.heading(*new))
            ))
        };
        text = with_new_heading(&text, &name, old, source.heading(*new)).ok_or_else(refused)?;
    }
    let has_leave_out = text.lines().any(|line| line.trim_start().starts_with("[leave_out]"));
    let decide = to_decide(proposals, source, target, (earlier.map(|(_, mapping)| mapping), has_leave_out));
    if !decide.is_empty() {
        text.push('\n');
        text.push_str(TO_DECIDE);
        text.push('\n');
        text.push_str(&decide);
    }
    // A steward's file is never replaced by one that cannot be read.
    text.parse::<toml::Table>()
        .map_err(|wrong| Error::Invariant(format!("the mapping would not be readable any more: {wrong}")))?;
    Ok(Written { text, added })
}

/// What a steward wrote: everything above the line, and what is no comment below it.
fn kept(text: &str) -> String {
    let Some(at) = text.find(TO_DECIDE) else { return text.to_owned() };
    let (above, below) = text.split_at(at);
    let mut kept = above.trim_end().to_owned();
    kept.push('\n');
    let mut uncommented = String::new();
    for line in below.lines().filter(|line| !line.trim_start().starts_with('#') && !line.trim().is_empty()) {
        if line.starts_with('[') && !uncommented.is_empty() {
            uncommented.push('\n');
        }
        uncommented.push_str(line);
        uncommented.push('\n');
    }
    if !uncommented.is_empty() {
        kept.push('\n');
        kept.push_str(&uncommented);
    }
    kept
}

/// The beginning of a new mapping: the target, and how the source is read.
fn head(proposals: &Proposals, source: &Source, target_path: &str, reading: &[String]) -> String {
    let mut text = format!(
        "# How {} goes into the target. Read it over: dusk map --show\n",
        source.name.replace(['\n', '\r'], " ")
    );
    let _ = writeln!(text, "target = {}", toml_text(target_path));
    let mut lines = String::new();
    for line in reading {
        let _ = writeln!(lines, "{line}");
    }
    if let Some(facts) =
        source.workbook.as_ref().filter(|_| !reading.iter().any(|line| line.starts_with("sheet")))
    {
        let _ = writeln!(lines, "sheet = {}", toml_text(&facts.sheet));
    }
    for evidence in source.evidence.iter().chain(&proposals.inspection.decisions) {
        if !evidence.needs_decision() {
            continue;
        }
        comment(&mut lines, &format!("{}: {}", evidence.claim, evidence.verdict_shown()));
        for line in evidence.settle.iter().filter(|line| !line.starts_with('[')) {
            let _ = writeln!(lines, "# {line}");
        }
    }
    if !lines.is_empty() {
        text.push_str("\n[source]\n");
        text.push_str(&lines);
    }
    text
}

/// A `[[map]]`, every line behind `mark`.
fn table(text: &mut String, proposal: &Proposal, source: &Source, target: &Target, mark: &str) {
    let name = target.fields.get(proposal.field).map_or("", |field| field.name.as_str());
    let _ = writeln!(text, "{mark}[[map]]");
    let _ = writeln!(text, "{mark}field = {}", toml_text(name));
    let _ = match &proposal.fed {
        Fed::Column(column) => writeln!(text, "{mark}from  = {}", toml_text(source.heading(*column))),
        Fed::Join(_, written) => writeln!(text, "{mark}join  = {}", toml_text(written)),
        Fed::Constant(constant) => writeln!(text, "{mark}constant = {}", toml_text(constant)),
    };
    for Key { line, says, is_open, .. } in &proposal.keys {
        let what = if *is_open { "to decide" } else { "because" };
        if !says.is_empty() {
            comment(text, &format!("{what}: {says}"));
        }
        let mark = if *is_open { "# " } else { mark };
        let _ = writeln!(text, "{mark}{line}");
    }
}

/// Likely proposals, fields without a column and columns without a field, all of it as comments.
fn to_decide(
    proposals: &Proposals,
    source: &Source,
    target: &Target,
    (earlier, has_leave_out): (Option<&Mapping>, bool),
) -> String {
    let mut text = String::new();
    let likely = |proposal: &&Proposal| proposal.sureness == Sureness::Likely;
    for proposal in proposals.proposals.iter().filter(likely) {
        comment(&mut text, &format!("likely: {}", proposal.reasons.join("; ")));
        table(&mut text, proposal, source, target, "# ");
        text.push_str("#\n");
    }
    list_open_fields(&mut text, &proposals.fields_without(target, earlier));
    let without: Vec<String> =
        proposals.columns_without(source, earlier).iter().map(|column| toml_text(column)).collect();
    if !without.is_empty() {
        match has_leave_out {
            true => text.push_str("# Nothing uses these columns; those that are left out on purpose go under [leave_out] above:\n"),
            false => text.push_str("# Nothing uses these columns; keep those that are left out on purpose, and uncomment:\n# [leave_out]\n"),
        }
        columns_line(&mut text, &without, "# ");
    }
    text
}

/// The fields for which no column was found, each with whether it is required.
fn list_open_fields(text: &mut String, open: &[(&str, bool)]) {
    if open.is_empty() {
        return;
    }
    text.push_str("# No column was found for these fields; from, constant, join or look_up may feed them:\n");
    for (name, required) in open {
        let _ = writeln!(text, "#   {name}{}", if *required { "   (required)" } else { "" });
    }
    text.push_str("#\n");
}

/// A list of columns on one line or several, each behind `mark`.
fn columns_line(text: &mut String, columns: &[String], mark: &str) {
    let mut line = String::from("columns = [");
    for (place, column) in columns.iter().enumerate() {
        let more = if place + 1 < columns.len() { ", " } else { "]" };
        if line.len() + column.len() + more.len() > WIDTH {
            let _ = writeln!(text, "{mark}{}", line.trim_end());
            line = "    ".into();
        }
        line.push_str(column);
        line.push_str(more);
    }
    let _ = writeln!(text, "{mark}{}", line.trim_end());
}

impl Proposals {
    /// The fields that nothing feeds and nothing is proposed for: their names, and whether they must be
    /// filled; those that must come first.
    pub fn fields_without<'t>(&self, target: &'t Target, earlier: Option<&Mapping>) -> Vec<(&'t str, bool)> {
        let mut open: Vec<(&str, bool)> = target
            .fields
            .with_ids()
            .filter(|(place, field)| {
                let is_fed =
                    earlier.is_some_and(|mapping| mapping.maps.iter().any(|map| map.field == *place));
                let fills_itself = field.never_send || field.fixed.is_some() || field.made_of.is_some();
                let is_left_out = self.not_fed.contains(place)
                    || earlier.is_some_and(|mapping| mapping.fields_left_out.contains(place));
                !is_fed && !fills_itself && !is_left_out && self.of_field(*place).is_none()
            })
            .map(|(_, field)| (field.name.as_str(), field.required))
            .collect();
        open.sort_by_key(|(_, required)| !required);
        open
    }

    /// The columns that nothing uses and that are not left out on purpose.
    pub fn columns_without<'s>(&self, source: &'s Source, earlier: Option<&Mapping>) -> Vec<&'s str> {
        let used = earlier.map(Mapping::wanted).unwrap_or_default();
        let without = |(place, column): &(ColumnId, &String)| {
            let left_out = earlier.is_some_and(|mapping| mapping.leave_out.contains(column));
            let unit_in = format!("unit_in = {}", toml_text(column));
            let uses = |proposal: &Proposal| {
                proposal.fed.columns().contains(place) || proposal.keys.iter().any(|key| key.line == unit_in)
            };
            let proposed = self.proposals.iter().any(uses);
            !used.contains(column)
                && !left_out
                && !proposed
                && !self.leave_out.contains(column)
                && !dusk_sources::has_no_heading(column)
        };
        source
            .column_ids()
            .zip(source.columns.iter())
            .filter(without)
            .map(|(_, column)| column.as_str())
            .collect()
    }
}

/// A comment of one line or several.
fn comment(text: &mut String, says: &str) {
    let mut line = String::from("#");
    for word in says.split_whitespace() {
        if line.chars().count() + word.chars().count() >= WIDTH {
            let _ = writeln!(text, "{line}");
            line = String::from("#  ");
        }
        line.push(' ');
        line.push_str(word);
    }
    let _ = writeln!(text, "{line}");
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_uncommented_stays_and_the_rest_goes() {
        let text = format!(
            "target = \"t\"\n# mine\n\n{TO_DECIDE}\n# likely: x\n[[map]]\nfield = \"a\"\n# because: y\nfrom = \"A\"   # yes\n#\n[leave_out]\ncolumns = [\"B\"]\n# more\n"
        );
        assert_eq!(
            kept(&text),
            "target = \"t\"\n# mine\n\n[[map]]\nfield = \"a\"\nfrom = \"A\"   # yes\n\n[leave_out]\ncolumns = [\"B\"]\n"
        );
        assert_eq!(kept("no line\r\nof ours"), "no line\r\nof ours", "to the byte");
    }

    #[test]
    fn long_lists_and_comments_are_broken() {
        let mut text = String::new();
        let columns: Vec<String> = (0..30).map(|number| toml_text(&format!("Column {number}"))).collect();
        columns_line(&mut text, &columns, "# ");
        comment(&mut text, &"word ".repeat(60));
        assert!(
            text.lines().all(|line| line.starts_with('#') && line.chars().count() <= WIDTH + 2),
            "{text}"
        );
        let list: String = text
            .lines()
            .map_while(|line| line.strip_prefix("# "))
            .take_while(|line| !line.contains("word"))
            .collect();
        let read: toml::Table = list.parse().unwrap();
        assert_eq!(read["columns"].as_array().map(Vec::len), Some(30));
    }
}
