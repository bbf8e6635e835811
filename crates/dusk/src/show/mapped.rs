//! What `dusk map` proposes, and what is left to decide.

use std::fmt;
use std::path::Path;

use dusk_core::description::Target;
use dusk_core::mapping::Mapping;
use dusk_core::proposing::{Fed, Proposal, Proposals, Sureness};
use dusk_core::sources::Source;

use super::layout::{columns, cut, padded, width, wrapped, wrapped_page};
use super::style::{COMMAND, GOOD, Ink, NAME, QUIET, REMARK, WRONG, styled};
use super::visible::{shell_word, visible};

/// The proposals for a source.
pub(crate) struct Mapped<'m> {
    pub(crate) path: &'m Path,
    pub(crate) source: &'m Source,
    pub(crate) target: &'m Target,
    pub(crate) proposals: &'m Proposals,
    pub(crate) earlier: Option<&'m Mapping>,
    pub(crate) is_new: bool,
    pub(crate) quiet: bool,
}

/// How wide a name may get.
const WIDEST: usize = 24;

impl fmt::Display for Mapped<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if !self.quiet {
            let head = format!("{} for {}", self.source.name, self.target.name);
            write!(f, "{}", wrapped_page(&visible(&head)))?;
        }
        let sure = |proposal: &&Proposal| proposal.sureness != Sureness::Likely;
        let (sure, likely): (Vec<&Proposal>, Vec<&Proposal>) =
            self.proposals.proposals.iter().partition(sure);
        let title = match self.earlier {
            Some(_) => "new, and written",
            None => "sure, and written",
        };
        self.list(f, (title, GOOD), &sure)?;
        self.list(f, ("likely, written as comments", REMARK), &likely)?;
        self.doubts(f)?;
        self.rest(f)?;
        let path = shell_word(&self.path.display().to_string());
        let did = match (self.is_new, self.earlier) {
            (false, _) => "nothing is new:",
            (true, None) => "wrote",
            (true, Some(_)) => "refreshed",
        };
        writeln!(f, "\n{did} {}", styled(NAME, &path))?;
        if !self.quiet {
            let mapping = if path == "mapping.toml" { String::new() } else { format!(" -m {path}") };
            let show = format!("dusk map {}{mapping} --show", shell_word(&self.source.name));
            writeln!(f, "{} {}", styled(QUIET, "read it over:"), styled(COMMAND, &show))?;
        }
        Ok(())
    }
}

impl Mapped<'_> {
    fn list(
        &self,
        f: &mut fmt::Formatter<'_>,
        (title, style): (&str, Ink),
        proposals: &[&Proposal],
    ) -> fmt::Result {
        if proposals.is_empty() {
            return Ok(());
        }
        writeln!(f, "\n{}", styled(style, &format!("{title}: {}", proposals.len())))?;
        let name = |proposal: &Proposal| {
            visible(self.target.fields.get(proposal.field).map_or("", |field| &field.name)).into_owned()
        };
        let column = |proposal: &Proposal| match &proposal.fed {
            Fed::Column(column) => format!("\"{}\"", visible(self.source.heading(*column))),
            Fed::Join(_, written) => visible(written).into_owned(),
            Fed::Constant(text) => format!("always \"{}\"", visible(text)),
        };
        let widest =
            |texts: Vec<String>| texts.iter().map(|text| columns(text)).max().unwrap_or(0).min(WIDEST);
        let names = widest(proposals.iter().map(|proposal| name(proposal)).collect());
        let froms = widest(proposals.iter().map(|proposal| column(proposal)).collect());
        for proposal in proposals {
            let head = format!(
                "  {}  {}  ",
                styled(NAME, &padded(&cut(&name(proposal), WIDEST), names)),
                padded(&cut(&column(proposal), WIDEST), froms)
            );
            let margin = 6 + names + froms;
            let mut lines =
                wrapped(&visible(&proposal.reasons.join("; ")), width().saturating_sub(margin), 0);
            for key in &proposal.keys {
                let what = if key.is_open { "to decide: " } else { "" };
                let text = format!("{what}{}   {}", key.line, key.says).trim_end().to_owned();
                lines.extend(wrapped(&visible(&text), width().saturating_sub(margin), 0));
            }
            for (place, line) in lines.iter().enumerate() {
                let before = if place == 0 { head.clone() } else { " ".repeat(margin) };
                writeln!(f, "{before}{}", styled(QUIET, line))?;
            }
        }
        Ok(())
    }

    fn doubts(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        doubts(f, self.proposals, self.source, self.target)
    }

    /// Columns that are called after a field and hold something else.
    fn namesakes(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let open = self.proposals.fields_without(self.target, self.earlier);
        for (field, column, why) in &self.proposals.namesakes {
            let name = self.target.fields.get(*field).map_or("", |field| field.name.as_str());
            if !open.iter().any(|(open, _)| *open == name) {
                continue;
            }
            let text = format!("{name} is not fed from \"{}\": {why}", self.source.heading(*column));
            for (place, line) in wrapped(&visible(&text), width().saturating_sub(4), 0).iter().enumerate() {
                writeln!(f, "{}{}", if place == 0 { "\n  " } else { "    " }, styled(QUIET, line))?;
            }
        }
        Ok(())
    }

    /// Fields without a column, and columns without a field.
    fn rest(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let fields = self.proposals.fields_without(self.target, self.earlier);
        let (required, optional): (Vec<_>, Vec<_>) = fields.into_iter().partition(|(_, required)| *required);
        let names =
            |fields: &[(&str, bool)]| fields.iter().map(|(name, _)| *name).collect::<Vec<_>>().join(", ");
        let columns = self.proposals.columns_without(self.source, self.earlier).join(", ");
        self.namesakes(f)?;
        for (title, style, text) in [
            ("must be fed, and no column was found", WRONG, names(&required)),
            ("fields without a column", NAME, names(&optional)),
            ("columns without a field", NAME, columns),
        ] {
            if text.is_empty() {
                continue;
            }
            writeln!(f, "\n{}", styled(style, &format!("{title}:")))?;
            for line in wrapped(&visible(&text), width().saturating_sub(2), 0) {
                writeln!(f, "  {line}")?;
            }
        }
        Ok(())
    }
}

/// What a mapping says, and the source does not bear out.
pub(super) fn doubts(
    f: &mut fmt::Formatter<'_>,
    proposals: &Proposals,
    source: &Source,
    target: &Target,
) -> fmt::Result {
    if proposals.doubts.is_empty() {
        return Ok(());
    }
    writeln!(f, "\n{}", styled(WRONG, &format!("to look at: {}", proposals.doubts.len())))?;
    for doubt in &proposals.doubts {
        let name = target.fields.get(doubt.field).map_or("", |field| field.name.as_str());
        let instead = doubt.instead.map(|column| source.heading(column));
        let reasons = doubt.reasons.join("; ");
        let says = match (doubt.is_gone, instead) {
            (true, Some(other)) => {
                format!("is from \"{}\", which is gone; \"{other}\" may be it: {reasons}", doubt.column)
            }
            (true, None) => {
                format!("is from \"{}\", which is gone, and no other column looks like it", doubt.column)
            }
            (false, Some(other)) => {
                format!("is from \"{}\"; \"{other}\" looks more like it: {reasons}", doubt.column)
            }
            (false, None) => format!("is from \"{}\", and {reasons}", doubt.column),
        };
        let text = visible(&format!("{name} {says}")).into_owned();
        for (place, line) in wrapped(&text, width().saturating_sub(4), 0).iter().enumerate() {
            let line = match line.strip_prefix(name) {
                Some(rest) if place == 0 => format!("{}{rest}", styled(NAME, name)),
                _ => line.clone(),
            };
            writeln!(f, "{}{line}", if place == 0 { "  " } else { "    " })?;
        }
    }
    Ok(())
}
