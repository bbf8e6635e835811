//! Forms of plain lines, proposed from an answer in sentences.

use std::collections::BTreeMap;

use super::drafted::DraftedAnswer;
use super::line::whole_number;
use super::words::{meaning, says_line, says_record};
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
    // Where lines and numbers of records are as many, the words before them say which is meant.
    let says = |names: Names, forms: &[String]| {
        let before = |word: &str| {
            forms.iter().filter_map(|form| Some(form.split_once(word)?.0.to_owned())).collect::<Vec<_>>()
        };
        match names {
            Names::Key => false,
            Names::Line => before("{line}").iter().any(|before| says_line(before)),
            Names::Record => before("{record}").iter().any(|before| says_record(before)),
        }
    };
    let all = ways.map(|names| (names, forms_of(names)));
    let is_said = |(names, forms): &(Names, Vec<String>)| says(*names, forms);
    let has_word = all.iter().any(is_said);
    let (names, forms) =
        all.into_iter().max_by_key(|one| (one.1.len(), is_said(one), std::cmp::Reverse(one.0)))?;
    let mut counted: BTreeMap<String, usize> = BTreeMap::new();
    forms.iter().for_each(|form| *counted.entry(form.clone()).or_default() += 1);
    // What differs from line to line is no part of a form: numbers that the target gave, days.
    let mut general: BTreeMap<String, usize> = BTreeMap::new();
    for (form, count) in counted {
        let form = if count == 1 { without_numbers(&form) } else { form };
        *general.entry(form).or_default() += count;
    }
    let mut counted: Vec<(&String, usize)> = general.iter().map(|(form, count)| (form, *count)).collect();
    counted.sort_by_key(|(form, count)| (std::cmp::Reverse(*count), (*form).clone()));
    // A line that is alone of its kind and says nothing of how it went is none about a record.
    counted.retain(|(form, count)| *count > 1 || meaning_of(form).is_some());
    if counted.is_empty() {
        return None;
    }
    let (mut out, mut open) = (String::from("\n[answer]\n"), Vec::new());
    if names != Names::Key
        && !has_word
        && ways.iter().filter(|other| forms_of(**other).len() == forms.len()).count() > 1
    {
        let question = "does the target count lines of the file, or records? both are possible";
        open.push(question.to_owned());
        out.push_str(&format!(
            "# {question}: write {{record}} in the place of {{line}} where it counts records\n"
        ));
    }
    for (form, count) in counted.into_iter().take(MOST_FORMS) {
        let outcome = meaning_of(form);
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

/// Whether a span is a part of a time or a longer number, as 14 in 09:14.
fn is_of_a_time(line: &str, (start, end): (usize, usize)) -> bool {
    let is_digit = |letter: Option<char>| letter.is_some_and(|letter| letter.is_ascii_digit());
    let mut before = line.get(..start).unwrap_or_default().chars().rev();
    let mut after = line.get(end..).unwrap_or_default().chars();
    let joins = |letter: Option<char>| matches!(letter, Some(':' | ',' | '.'));
    joins(before.next()) && is_digit(before.next()) || joins(after.next()) && is_digit(after.next())
}

/// How it went where a line has a form.
fn meaning_of(form: &str) -> Option<AnswerOutcome> {
    let names = ["{reason}", "{number}", "{key}", "{any}", "{line}", "{record}"];
    meaning(&names.iter().fold(form.to_owned(), |form, name| form.replace(name, "")))
}

/// A form whose words with digits are left open: the first is the number that the target gave.
fn without_numbers(form: &str) -> String {
    let mut has_number = form.contains("{number}");
    let words = form.split(' ').map(|word| {
        if word.contains('{') || !word.contains(|letter: char| letter.is_ascii_digit()) {
            return word.to_owned();
        }
        let name = if has_number { "{any}" } else { "{number}" };
        has_number = true;
        name.to_owned()
    });
    words.collect::<Vec<String>>().join(" ")
}

/// What a span of a line names, of all records.
fn named(text: &str, names: Names, sent: &SentRecords) -> Option<usize> {
    let of_file = |find: &dyn Fn(&str) -> Option<usize>| sent.files().find_map(find);
    match names {
        // A number that is like a key may be anything.
        Names::Key => match sent.with_key(text).as_slice() {
            [only] => sent.get(*only).filter(|record| record.key == text).map(|_| *only),
            _ => None,
        },
        Names::Line => whole_number(text).and_then(|line| of_file(&|file| sent.on_line(file, line, 0))),
        Names::Record => whole_number(text).and_then(|at| of_file(&|file| sent.numbered(file, at))),
    }
}

/// The form of a line: what names its record in braces, and what follows the next sign as the reason.
fn form_of(line: &str, names: Names, sent: &SentRecords) -> Option<String> {
    let text = |(start, end): (usize, usize)| line.get(start..end).unwrap_or_default();
    let all = spans(line);
    let is_alone = |span: &&(usize, usize)| !is_of_a_time(line, **span);
    let (place, at) =
        all.iter().filter(is_alone).find_map(|span| Some((*span, named(text(*span), names, sent)?)))?;
    let word = match names {
        Names::Key => "{key}",
        Names::Line => "{line}",
        Names::Record => "{record}",
    };
    // Its key may stand in the same line.
    let key = sent.get(at).map_or("", |record| record.key);
    let is_key = |span: &&(usize, usize)| {
        names != Names::Key && !key.is_empty() && text(**span) == key && **span != place
    };
    let mut marked = vec![(place, word)];
    marked.extend(all.iter().find(is_key).map(|span| (*span, "{key}")));
    marked.sort_unstable();
    let escaped = |text: &str| text.replace('{', "{{").replace('}', "}}");
    let (mut before, mut end) = (String::new(), 0);
    for ((start, ends), word) in marked {
        before.push_str(&escaped(line.get(end..start)?));
        before.push_str(word);
        end = ends;
    }
    let (head, reason, tail) = reason_in(&before, line.get(end..)?);
    // One word with digits is the number that the target gave.
    let is_number =
        !reason.trim().contains(char::is_whitespace) && reason.contains(|c: char| c.is_ascii_digit());
    let reason = match reason.trim() {
        "" => "",
        _ if is_number => "{number}",
        _ => "{reason}",
    };
    let form = format!("{before}{}{reason}{}", escaped(head), escaped(tail));
    LineForm::parse(&form, None).ok().map(|_| form)
}

/// What follows the name of a record: the words that say how it went, why, and what closes it. What says why differs
/// from line to line: it stands in brackets, or behind the sign behind which a sentence begins.
fn reason_in<'l>(before: &str, after: &'l str) -> (&'l str, &'l str, &'l str) {
    const SIGNS: [&str; 5] = [": ", " - ", " – ", ", ", "; "];
    let says = |text: &str| meaning_of(text).is_some();
    if let (Some(opens), true) = (after.find(" ("), after.ends_with(')'))
        && says(after.get(..opens).unwrap_or_default())
    {
        let (head, rest) = after.split_at(opens + 2);
        let (reason, tail) = rest.split_at(rest.len() - 1);
        return (head, reason, tail);
    }
    let first_sign = |text: &str| SIGNS.iter().filter_map(|sign| Some(text.find(sign)? + sign.len())).min();
    let Some(first) = first_sign(after) else { return (after, "", "") };
    let (head, rest) = after.split_at(first);
    if says(before) || says(head) {
        return (head, rest, "");
    }
    // "Line 3: refused, site closed": the word that says how it went comes first.
    match first_sign(rest).filter(|next| rest.get(..*next).is_some_and(says)) {
        Some(next) => {
            let (head, reason) = after.split_at(first + next);
            (head, reason, "")
        }
        None if says(rest) && rest.split_whitespace().count() < 4 => (after, "", ""),
        None => (head, rest, ""),
    }
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
