//! What a draft was drawn from, what it holds, and what has to be settled.

use std::fmt::Write as _;
use std::path::Path;

use dusk_core::drafting::{Drafted, Grouped, Saved, Weight};

use super::layout::{columns, padded, width, wrapped};
use super::style::{COMMAND, GOOD, NAME, QUIET, REMARK, styled};
use super::visible::{shell_word, visible};

/// The whole report, for people; what has to be settled is counted only where it is asked next.
pub(crate) fn show_drafted(drafted: &Drafted, saved: &Saved, path: &Path, is_asked: bool) -> String {
    let mut out = String::new();
    let widest =
        drafted.taken.iter().map(|taken| columns(&taken.from.to_string())).max().unwrap_or(0).min(40);
    for taken in &drafted.taken {
        let from = visible(&taken.from.to_string()).into_owned();
        let lines = wrapped(&visible(&taken.role), width().saturating_sub(widest + 2), 0);
        for (number, line) in lines.iter().enumerate() {
            let before = if number == 0 {
                padded(&styled_name(&from), widest + marks(&from))
            } else {
                " ".repeat(widest)
            };
            let _ = writeln!(out, "{before}  {line}");
        }
    }
    let required = drafted.fields.iter().filter(|field| field.claims.get("required").is_some()).count();
    let codes: usize = drafted.lists.iter().map(|list| list.codes.len()).sum();
    let _ = writeln!(
        out,
        "\n{} {}, {} ({required} required), {} with {}, {}",
        styled(GOOD, "drafted:"),
        styled(NAME, &path.display().to_string()),
        counted(drafted.fields.len(), "field"),
        counted(drafted.lists.len(), "code list"),
        counted(codes, "code"),
        counted(drafted.rules.len(), "rule"),
    );
    for file in saved.files.iter().filter(|file| *file != path) {
        let _ = writeln!(out, "         {}", file.display());
    }
    let changed = if saved.same_materials {
        "read otherwise than by an earlier version, from the same material"
    } else {
        "changed since the last draft"
    };
    list(&mut out, changed, &saved.changes);
    list(&mut out, "kept as it was edited", &saved.kept);
    let questions = drafted.grouped_questions();
    let to_settle = styled(REMARK, &format!("to settle: {}", questions.len()));
    match (questions.is_empty(), is_asked) {
        (true, _) => out.push_str("\nNothing is open.\n"),
        (false, true) => out.push_str(&format!("\n{to_settle}\n")),
        (false, false) => {
            out.push_str(&format!("\n{to_settle}\n"));
            list_questions(&mut out, &questions);
        }
    }
    if !is_asked {
        let check = format!("dusk target check {}", shell_word(&path.display().to_string()));
        let _ = writeln!(out, "\n{} {}", styled(QUIET, "read it over, then:"), styled(COMMAND, &check));
    }
    out
}

/// What is open, one by one; of likely readings only what they are about.
fn list_questions(out: &mut String, questions: &[Grouped]) {
    let (looks, open): (Vec<&Grouped>, Vec<&Grouped>) =
        questions.iter().partition(|question| question.weight == Weight::Look);
    for (number, Grouped { about, says, .. }) in (1..).zip(open) {
        let text = format!("{}: {}", visible(about), visible(says));
        for (line_number, line) in wrapped(&text, width().saturating_sub(5), 0).iter().enumerate() {
            let before = if line_number == 0 { format!("{number:>3}  ") } else { "     ".into() };
            let line = match line.strip_prefix(&format!("{}:", visible(about))) {
                Some(rest) if line_number == 0 => format!("{}:{rest}", styled(NAME, &visible(about))),
                _ => line.clone(),
            };
            let _ = writeln!(out, "{before}{line}");
        }
    }
    if looks.is_empty() {
        return;
    }
    let about = looks.iter().map(|question| question.about.as_str()).collect::<Vec<_>>().join(", ");
    let text = format!("likely readings to look at, which the description has in full: {}", visible(&about));
    for (number, line) in wrapped(&text, width().saturating_sub(5), 0).iter().enumerate() {
        let _ = writeln!(out, "{}{line}", if number == 0 { "  +  " } else { "     " });
    }
}

/// A question by itself, with the keys that its fields have now.
pub(crate) fn show_question(question: &Grouped, (number, all): (usize, usize), drafted: &Drafted) -> String {
    let mut out = String::new();
    let text = format!("{}: {}", visible(&question.about), visible(&question.says));
    let _ = writeln!(out, "\n{}", styled(REMARK, &format!("{number} of {all}")));
    for line in wrapped(&text, width().saturating_sub(2), 0) {
        let _ = writeln!(out, "  {line}");
    }
    let names: Vec<&str> = question.about.split(", ").collect();
    for field in drafted.fields.iter().filter(|field| names.contains(&field.name.as_str())).take(3) {
        let keys = field.claims.0.iter().filter(|claim| !matches!(claim.key, "description" | "label"));
        let keys: Vec<String> =
            keys.map(|claim| format!("{} = {}", claim.key, visible(&claim.value.toml()))).collect();
        for line in wrapped(&format!("{} now: {}", field.name, keys.join(", ")), width().saturating_sub(4), 0)
        {
            let _ = writeln!(out, "    {}", styled(QUIET, &line));
        }
    }
    out
}

/// "1 field", "2 fields".
fn counted(count: usize, what: &str) -> String {
    format!("{count} {what}{}", if count == 1 { "" } else { "s" })
}

fn styled_name(text: &str) -> String {
    styled(NAME, text)
}

/// How many characters of a styled text nobody sees.
fn marks(text: &str) -> usize {
    columns(&styled_name(text)).saturating_sub(columns(text))
}

fn list(out: &mut String, title: &str, lines: &[String]) {
    if lines.is_empty() {
        return;
    }
    let _ = writeln!(out, "\n{}", styled(REMARK, &format!("{title}: {}", lines.len())));
    for line in lines {
        for (number, line) in wrapped(&visible(line), width().saturating_sub(4), 0).iter().enumerate() {
            let _ = writeln!(out, "{}{line}", if number == 0 { "  - " } else { "    " });
        }
    }
}
