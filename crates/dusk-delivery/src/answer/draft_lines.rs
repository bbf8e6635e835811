//! Forms of plain lines, proposed from an answer in sentences.

use std::collections::BTreeMap;

use super::drafted::DraftedAnswer;
use super::line::whole_number;
use super::words::meaning;
use crate::SentRecords;
use dusk_description::{AnswerOutcome, LineForm};
use dusk_files::toml_text;

/// How many forms are proposed.
const MOST_FORMS: usize = 8;

/// What names a record in a line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Names {
    Key,
    Line,
    Record,
}

/// Proposes forms for the lines of an answer; nothing where no line names a record.
pub(super) fn draft_lines(text: &str, sent: &SentRecords) -> Option<DraftedAnswer> {
    let all = || text.lines().map(str::trim).filter(|line| !line.is_empty());
    let counts: Vec<String> = all().filter_map(counts_form).collect();
    let lines: Vec<&str> = all().filter(|line| counts_form(line).is_none()).collect();
    // How a line names its record is decided for all of them: the way in which most do.
    let ways = [Names::Key, Names::Line, Names::Record];
    let forms_of =
        |names: Names| lines.iter().filter_map(|line| form_of(line, names, sent)).collect::<Vec<String>>();
    let (names, forms) = ways
        .map(|names| (names, forms_of(names)))
        .into_iter()
        .max_by_key(|(names, forms)| (forms.len(), std::cmp::Reverse(*names)))?;
    let mut counted: BTreeMap<&String, usize> = BTreeMap::new();
    forms.iter().for_each(|form| *counted.entry(form).or_default() += 1);
    let mut counted: Vec<(&String, usize)> = counted.into_iter().collect();
    counted.sort_by_key(|(form, count)| (std::cmp::Reverse(*count), (*form).clone()));
    if counted.is_empty() {
        return None;
    }
    let (mut out, mut open) = (String::from("\n[answer]\n"), Vec::new());
    if names != Names::Key && ways.iter().filter(|other| forms_of(**other).len() == forms.len()).count() > 1 {
        let question = "does the target count lines of the file, or records? both are possible";
        open.push(question.to_owned());
        out.push_str(&format!(
            "# {question}: write {{record}} in the place of {{line}} where it counts records\n"
        ));
    }
    for (form, count) in counted.into_iter().take(MOST_FORMS) {
        let outcome = meaning(&form.replace("{reason}", "").replace("{number}", "").replace("{key}", ""));
        let lines = if count == 1 { "line" } else { "lines" };
        out.push_str(&format!("\n[[answer.says]]  # {count} {lines}\nline = {}\n", toml_text(form)));
        match outcome {
            Some(outcome) => out.push_str(&format!("outcome = \"{}\"\n", outcome.word())),
            None => {
                let question = format!("how did it go where a line says \"{form}\"?");
                out.push_str(&format!("# outcome = \"{}\"  # {question}\n", AnswerOutcome::Refused.word()));
                open.push(question);
            }
        }
    }
    for form in counts {
        out.push_str(&format!("\n[[answer.says]]  # the target's own counts\nline = {}\n", toml_text(&form)));
    }
    Some(DraftedAnswer { text: out, open })
}

/// The form of a line: what names its record in braces, and what follows the next sign as the reason.
fn form_of(line: &str, names: Names, sent: &SentRecords) -> Option<String> {
    let (start, end) = spans(line).into_iter().find(|(start, end)| {
        let text = line.get(*start..*end).unwrap_or_default();
        let number = || whole_number(text);
        match names {
            Names::Key => !sent.with_key(text).is_empty(),
            Names::Line => {
                number().is_some_and(|line| sent.files().any(|file| sent.on_line(file, line, line).is_some()))
            }
            Names::Record => {
                number().is_some_and(|at| sent.files().any(|file| sent.numbered(file, at).is_some()))
            }
        }
    })?;
    let word = match names {
        Names::Key => "{key}",
        Names::Line => "{line}",
        Names::Record => "{record}",
    };
    let escaped = |text: &str| text.replace('{', "{{").replace('}', "}}");
    let (before, after) = (line.get(..start)?, line.get(end..)?);
    // What says why differs from line to line: it is what follows the last sign behind which a sentence begins.
    let signs = [": ", " - ", " – ", ", ", "; "];
    let cut = signs.iter().filter_map(|sign| Some(after.find(sign)? + sign.len())).collect::<Vec<_>>();
    let says = |text: &str| meaning(text).is_some();
    let (head, reason) = match (cut.iter().min(), cut.iter().max()) {
        (Some(first), _) if says(before) || says(after.get(..*first)?) => after.split_at(*first),
        (Some(first), Some(_)) => {
            // "Line 3: refused, site closed": the word that says how it went comes first.
            let rest = after.get(*first..)?;
            let next = signs.iter().filter_map(|sign| Some(rest.find(sign)? + sign.len())).min();
            match next.filter(|next| rest.get(..*next).is_some_and(says)) {
                Some(next) => after.split_at(first + next),
                None if says(rest) && rest.split_whitespace().count() < 4 => (after, ""),
                None => after.split_at(*first),
            }
        }
        _ => (after, ""),
    };
    // One word with digits is the number that the target gave.
    let is_number =
        !reason.trim().contains(char::is_whitespace) && reason.contains(|c: char| c.is_ascii_digit());
    let reason = match reason.trim() {
        "" => "",
        _ if is_number => "{number}",
        _ => "{reason}",
    };
    let form = format!("{}{word}{}{reason}", escaped(before), escaped(head));
    LineForm::parse(&form, None).ok().map(|_| form)
}

/// Where words, and runs of words joined by " + ", begin and end.
fn spans(line: &str) -> Vec<(usize, usize)> {
    let is_edge = |letter: char| letter.is_whitespace() || ",;:()[]\"'".contains(letter);
    let mut words: Vec<(usize, usize)> = Vec::new();
    let mut start = None;
    for (at, letter) in line.char_indices().chain([(line.len(), ' ')]) {
        match (start, is_edge(letter)) {
            (None, false) => start = Some(at),
            (Some(begins), true) => {
                words.push((begins, at));
                start = None;
            }
            _ => {}
        }
    }
    // A key of several parts is longer than any of its words.
    let runs = (0..words.len()).filter_map(|first| {
        let plus = |at: usize| words.get(at).is_some_and(|(start, end)| line.get(*start..*end) == Some("+"));
        let mut last = first;
        while plus(last + 1) && last + 2 < words.len() {
            last += 2;
        }
        (last > first).then_some((words.get(first)?.0, words.get(last)?.1))
    });
    let runs: Vec<(usize, usize)> = runs.collect();
    runs.into_iter().chain(words.iter().copied()).collect()
}

/// The form of a line that says the target's own counts, as "1,180 loaded, 12 refused".
fn counts_form(line: &str) -> Option<String> {
    let mut form = String::new();
    let mut counts = Vec::new();
    let mut rest = line;
    while let Some(start) = rest.find(|letter: char| letter.is_ascii_digit()) {
        let (before, from) = rest.split_at(start);
        let end = from
            .find(|letter: char| !letter.is_ascii_digit() && !",.".contains(letter))
            .unwrap_or(from.len());
        let number = from.get(..end)?.trim_end_matches([',', '.']);
        let after = from.get(number.len()..)?;
        let next: String = after.chars().take_while(|letter| !",;|".contains(*letter)).collect();
        let before_word = before.rsplit([',', ';', '|']).next().unwrap_or_default();
        let word = meaning(&next).or_else(|| meaning(before_word))?.word();
        if counts.contains(&word) {
            return None;
        }
        counts.push(word);
        form.push_str(&before.replace('{', "{{").replace('}', "}}"));
        form.push_str(&format!("{{{word}}}"));
        rest = after;
    }
    form.push_str(&rest.replace('{', "{{").replace('}', "}}"));
    (counts.len() > 1 && LineForm::parse(&form, None).is_ok()).then_some(form)
}
