//! A field and the columns that may feed it, for somebody to choose from.

use dusk_core::description::Field;
use dusk_core::evidence::{ColumnId, FieldId, Id as _};
use dusk_core::proposing::{Fed, Proposals};
use dusk_core::sources::Source;

use super::layout::{width, wrapped};
use super::style::{NAME, QUIET, REMARK, styled};
use super::visible::visible;

/// How many values of a column are shown.
const VALUES: usize = 3;

/// How wide a value is shown.
const WIDEST: usize = 24;

/// What may be answered, said once.
pub(crate) const ANSWERS: &str = "\
  A column is its number, its name in any case, or a part of its name. Also:
    y             the first answer           3 + 5          two columns together
    {Day} {Hour}  with text between them     part 3         a part of each cell
    = TEXT        the same in every record   none           nothing feeds this field
    ?             all columns                Enter          decide later
    stop          no more questions: what was answered is kept
";

/// What there is to choose from.
pub(crate) struct Choice<'c> {
    pub(crate) source: &'c Source,
    pub(crate) proposals: &'c Proposals,
}

/// A name as names are shown.
pub(crate) fn bold(name: &str) -> String {
    styled(NAME, &visible(name))
}

/// A remark that stands back.
pub(crate) fn quiet(text: &str) -> String {
    styled(QUIET, text)
}

impl Choice<'_> {
    /// A field with what may feed it.
    pub(crate) fn of_field(&self, target_field: &Field, field: FieldId, number: &str) -> String {
        let mut text = String::new();
        let label = target_field.label.as_deref().filter(|label| *label != target_field.name);
        let label = label.map_or_else(String::new, |label| format!(" ({})", visible(label)));
        let must = if target_field.required { ", must be filled" } else { "" };
        let head = styled(NAME, &visible(&target_field.name));
        text.push_str(&format!(
            "\n{} {head}{label}: {}{must}\n",
            styled(QUIET, number),
            target_field.kind.word()
        ));
        if let Some(description) = &target_field.description {
            text.push_str(&lines(description, 2));
        }
        let proposed = self.proposals.of_field(field);
        match proposed.map(|proposal| (&proposal.fed, proposal)) {
            Some((Fed::Column(_), proposal))
                if proposal.keys.iter().all(|key| !key.line.starts_with("part")) => {}
            Some((fed, proposal)) => {
                let keys: Vec<&str> = proposal.keys.iter().map(|key| key.line.as_str()).collect();
                let how = match fed {
                    Fed::Join(_, written) => written.clone(),
                    Fed::Column(column) => format!("{}: {}", self.source.heading(*column), keys.join(", ")),
                    Fed::Constant(text) => format!("always \"{text}\""),
                };
                text.push_str(&format!("  {}  {}\n", styled(REMARK, "y"), visible(&how)));
                text.push_str(&lines(&proposal.reasons.join("; "), 5));
            }
            None => {}
        }
        let candidates = self.proposals.candidates.get(field).map_or(&[][..], Vec::as_slice);
        let own = proposed.and_then(|proposal| proposal.fed.column());
        let mut listed: Vec<_> = candidates.iter().collect();
        listed.sort_by_key(|candidate| Some(candidate.column) != own);
        // What was not proposed for want of proof is what somebody may know.
        let unproven: Vec<_> = self
            .proposals
            .namesakes
            .iter()
            .filter(|(of, column, _)| *of == field && !listed.iter().any(|listed| listed.column == *column))
            .collect();
        if listed.is_empty() && proposed.is_none() && unproven.is_empty() {
            text.push_str("  no column looks like it; ? lists them all\n");
        }
        for (_, column, why) in unproven {
            text.push_str(&self.column(*column));
            text.push('\n');
            text.push_str(&lines(&format!("it may be this one; {why}"), 8));
        }
        for candidate in listed {
            text.push_str(&self.column(candidate.column));
            text.push('\n');
            if !candidate.says.is_empty() {
                text.push_str(&lines(&candidate.says, 8));
            }
        }
        text
    }

    /// A column with its number and some of its values.
    pub(crate) fn column(&self, column: ColumnId) -> String {
        let number = format!("{:>4}", column.index() + 1);
        let heading = styled(NAME, &visible(self.source.heading(column)));
        format!("{}  {heading}  {}", styled(REMARK, &number), self.values(column))
    }

    /// Some of what a column holds.
    pub(crate) fn values(&self, column: ColumnId) -> String {
        let values = self.proposals.values.get(column).map_or(&[][..], Vec::as_slice);
        let shown: Vec<String> = values
            .iter()
            .take(VALUES)
            .map(|value| {
                let short: String = value.chars().take(WIDEST).collect();
                let more = if value.chars().count() > WIDEST { "…" } else { "" };
                format!("{}{more}", visible(&short))
            })
            .collect();
        match shown.is_empty() {
            true => styled(QUIET, "nothing"),
            false => styled(QUIET, &shown.join(" | ")),
        }
    }
}

/// A text in lines, behind a margin.
fn lines(text: &str, margin: usize) -> String {
    let lines = wrapped(&visible(text), width().saturating_sub(margin), 0);
    lines.iter().map(|line| format!("{}{}\n", " ".repeat(margin), quiet(line))).collect()
}
