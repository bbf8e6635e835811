//! What people write about the file as a whole, in a covering letter, on a sheet "Read me" or above a dictionary: its
//! encoding, separator, decimal mark, headings, quotes, line ends, and how days are written.

use std::sync::LazyLock;

use super::claim::{Drafted, DraftedField, Place, Setting};
use super::clauses::form_shown;
use super::conditions::named_field;
use super::date_words::{date_format, form_of_example};
use super::mark_words::{is_denied, joined_by, marks};
use super::vocabulary::{Words, meaning, named};
use super::{Material, MaterialSheet};
use dusk_values::ValueType;
use regex::Regex;

/// Said of a template that proves no encoding.
pub(super) const ASCII_ONLY: &str = "the template holds plain ASCII only, which fits most encodings; the encoding written is not proven by it";

/// A letter of more bytes than this is none.
const LONGEST_LETTER: u64 = 256 << 10;

/// So many letters from the word that says what is meant a mark is looked for.
const NEAR: usize = 30;

/// One thing that a sentence says of the file.
#[derive(Debug)]
struct Said {
    key: &'static str,
    value: Setting,
    sentence: String,
    from: Place,
}

/// The sentences of lines, each with the number of the line where its paragraph begins: a blank line, a bullet or a table
/// parts paragraphs, a full stop parts sentences.
pub(super) fn sentences(lines: &[String]) -> impl Iterator<Item = (usize, String)> {
    let mut paragraphs: Vec<(usize, String)> = vec![(1, String::new())];
    for (number, line) in (1..).zip(lines.iter().map(|line| line.trim())) {
        let begins = line.is_empty() || line.starts_with(['-', '*', '|', '•', '#', '·']);
        if begins {
            paragraphs.push((number, String::new()));
        }
        if let Some((_, last)) = paragraphs.last_mut().filter(|_| !line.starts_with('|')) {
            last.push_str(line.trim_start_matches(['-', '*', '•', '#', '·', ' ']));
            last.push(' ');
        }
    }
    let parted = |(number, paragraph): (usize, String)| {
        let parts = paragraph.split(". ").flat_map(|part| part.split("! ")).flat_map(|part| part.split("? "));
        parts.map(|part| (number, part.trim().to_owned())).collect::<Vec<_>>()
    };
    let is_one = |(_, sentence): &(usize, String)| sentence.chars().count() > 3;
    paragraphs.into_iter().flat_map(parted).filter(is_one)
}

/// Everything that people wrote: lines of letters, and rows of sheets with one or two cells.
fn written(materials: &[Material]) -> Vec<(String, Place)> {
    let mut found = Vec::new();
    for material in materials {
        for sheet in &material.sheets {
            if let Some(lines) = letter(material, sheet) {
                found.extend(sentences(&lines).map(|(line, sentence)| (sentence, material.line(line))));
            } else if !sheet.is_list {
                found.extend(rows(material, sheet));
            }
        }
    }
    found
}

/// Whether a sheet holds sentences rather than a table: a letter, or explanations with a word in front.
pub(super) fn is_for_people(material: &Material, sheet: &MaterialSheet) -> bool {
    if letter(material, sheet).is_some() {
        let rows = sheet.cells.rows.iter().filter(|cells| !cells.is_empty());
        let (all, few) = rows.fold((0, 0), |(all, few), cells| (all + 1, few + usize::from(cells.len() < 3)));
        return few * 4 >= all * 3;
    }
    // A sheet that says how the file is written is for people, however short it says so.
    if sheet.cells.width() < 3 && rows(material, sheet).iter().any(|(sentence, _)| !said(sentence).is_empty())
    {
        return true;
    }
    let rows = sheet.cells.rows.iter().filter(|cells| !cells.is_empty());
    let (mut all, mut sentences) = (0, 0);
    for cells in rows {
        let filled: Vec<&String> = cells.iter().filter(|cell| !cell.is_empty()).collect();
        all += 1;
        let is_sentence = filled.last().is_some_and(|last| last.split_whitespace().count() > 3);
        sentences += usize::from(filled.len() < 3 && is_sentence);
    }
    all > 0 && sentences * 2 >= all
}

/// The lines of a text that is no table of this target.
pub(super) fn letter(material: &Material, sheet: &MaterialSheet) -> Option<Vec<String>> {
    let is_text =
        sheet.cells.name.is_none() && (!sheet.used || material.file.to_lowercase().ends_with(".md"));
    let size = std::fs::metadata(&material.path).ok()?.len();
    if !is_text || size > LONGEST_LETTER {
        return None;
    }
    let bytes = std::fs::read(&material.path).ok()?;
    let text = match String::from_utf8(bytes) {
        Ok(text) => text,
        Err(other) => other.into_bytes().into_iter().map(char::from).collect(),
    };
    Some(text.lines().map(str::to_owned).collect())
}

/// The rows of a sheet that hold one or two texts.
fn rows(material: &Material, sheet: &MaterialSheet) -> Vec<(String, Place)> {
    let mut found = Vec::new();
    for row in 0..sheet.cells.rows.len() {
        let filled: Vec<usize> =
            (0..sheet.cells.width()).filter(|column| !sheet.cells.cell(row, *column).is_empty()).collect();
        let text = match *filled.as_slice() {
            [only] => sheet.cells.cell(row, only).to_owned(),
            [first, second] => format!("{}: {}", sheet.cells.cell(row, first), sheet.cells.cell(row, second)),
            _ => continue,
        };
        let place = material.place(sheet, row, filled.last().copied().unwrap_or(0));
        let lines: Vec<String> = text.lines().map(str::to_owned).collect();
        found.extend(sentences(&lines).map(|(_, sentence)| (sentence, place.clone())));
    }
    found
}

/// Takes what is said of the file where no file proves it, and asks where a file says otherwise.
pub(super) fn settle(materials: &[Material], drafted: &mut Drafted) {
    let mut all = std::mem::take(&mut drafted.sentences);
    all.extend(written(materials));
    let mut told: Vec<Said> = Vec::new();
    for (sentence, from) in &all {
        for (key, value) in said(sentence) {
            told.push(Said { key, value, sentence: sentence.clone(), from: from.clone() });
        }
    }
    let is_workbook = drafted.upload.text("format") == Some("workbook");
    told.retain(|one| !is_workbook || one.key == "header");
    // Each line of JSON names its values, and is UTF-8.
    let is_json = told.iter().any(|one| one.value == Setting::Text("json".into()));
    told.retain(|one| !is_json || one.key == "format");
    let proves_nothing = drafted.questions.iter().any(|question| question.says == ASCII_ONLY);
    for (at, one) in told.iter().enumerate() {
        if let Some(first) = told.iter().take(at).find(|first| first.key == one.key) {
            if first.value != one.value {
                let says = format!(
                    "{} is {} by \"{}\" ({}), and {} by \"{}\"; the first was taken",
                    one.key,
                    first.value.toml(),
                    first.sentence,
                    first.from,
                    one.value.toml(),
                    one.sentence
                );
                drafted.contradict("[upload]", says, &one.from);
            }
            continue;
        }
        let is_open = one.key == "encoding" && proves_nothing || drafted.upload.get(one.key).is_none();
        if one.key == "format" && one.value == Setting::Text("json".into()) {
            if drafted.upload.get("format").is_none() {
                drafted.upload.set("format", Setting::Text("json-lines".into()), &one.from);
            }
        } else if one.key == "format" {
            let says = format!(
                "the letter says \"{}\"; dusk does not write such files; it writes delimited files, workbooks, JSON lines and databases",
                one.sentence
            );
            drafted.ask("[upload]", says, &one.from);
        } else if is_open {
            drafted.upload.set(one.key, one.value.clone(), &one.from);
        } else if drafted.upload.get(one.key) != Some(&one.value) {
            let says = format!(
                "\"{}\" says {} = {}, and the template says otherwise, which was kept",
                one.sentence,
                one.key,
                one.value.toml()
            );
            drafted.contradict("[upload]", says, &one.from);
        }
    }
    if told.iter().any(|one| one.key == "encoding") {
        drafted.questions.retain(|question| question.says != ASCII_ONLY);
    }
    put_forms(&all, drafted);
    ask_about_letters(materials, &told, drafted);
}

/// Sentences of a letter that name a field are asked about: what a letter says may be newer than the dictionary.
fn ask_about_letters(materials: &[Material], told: &[Said], drafted: &mut Drafted) {
    for material in materials {
        for sheet in material.sheets.iter().filter(|sheet| !sheet.used) {
            let Some(lines) = letter(material, sheet) else { continue };
            for (line, sentence) in sentences(&lines) {
                if told.iter().any(|one| one.sentence == sentence) {
                    continue;
                }
                let Some((field, _)) = named_field(&sentence, "", &drafted.fields) else { continue };
                if is_name_of(field, &sentence) {
                    let says =
                        format!("the letter says \"{}\", and nothing was drawn from it", sentence.trim());
                    drafted.ask(field.name.clone(), says, &material.line(line));
                }
            }
        }
    }
}

/// Whether a sentence names the field as a field: by a name that is no everyday word, or by its whole label.
fn is_name_of(field: &DraftedField, sentence: &str) -> bool {
    let is_odd = |name: &str| {
        name.contains(['_', '-'])
            || name.chars().skip(1).any(char::is_uppercase)
            || name.contains(char::is_numeric)
    };
    let names = [Some(field.name.as_str()), field.claims.text("heading")];
    let by_name = names
        .into_iter()
        .flatten()
        .any(|name| sentence.contains(name) && (is_odd(name) || name.chars().count() > 5));
    let by_label = field.claims.text("label").is_some_and(|label| {
        // A single word may be an everyday one.
        let is_named = || sentence.to_lowercase().contains(&label.to_lowercase());
        label.chars().count() > 4 && (sentence.contains(label) || label.contains(' ') && is_named())
    });
    by_name || by_label
}

/// The names of encodings as people write them.
static ENCODINGS: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"(?i)\butf[- ]?8\b|\butf[- ]?16(?:[- ]?[lb]e)?\b|\b(?:windows|cp|win)[- ]?(125\d)\b|\b(?:code ?page|codeseite|page de codes?|página de códigos|pagina di codici|codepagina|teckentabell) (125\d)\b|\biso[- ]?8859[- ]?(\d{1,2})\b|\b(latin)[- ]?1\b").ok()
});

/// The encoding that a sentence names.
fn encoding(sentence: &str) -> Option<String> {
    let met = ENCODINGS.as_ref()?.captures(sentence)?;
    let whole = met.get(0)?.as_str().to_lowercase().replace([' ', '-'], "");
    let group = |place: usize| met.get(place).map(|part| part.as_str());
    Some(match (group(1).or_else(|| group(2)), group(3), group(4)) {
        (Some(page), _, _) => format!("windows-{page}"),
        // Whatever is labelled so is read by its larger relative (WHATWG Encoding).
        (_, Some("1"), _) | (_, _, Some(_)) => "windows-1252".into(),
        (_, Some(part), _) => format!("iso-8859-{part}"),
        _ if whole.starts_with("utf16b") => "utf-16be".into(),
        _ if whole.starts_with("utf16") => "utf-16le".into(),
        _ => "utf-8".into(),
    })
}

/// What one sentence says of the file.
fn said(sentence: &str) -> Vec<(&'static str, Setting)> {
    let lower = sentence.to_lowercase().replace('\n', " ");
    let text = |text: &str| Setting::Text(text.to_owned());
    let mut found = Vec::new();
    if let Some(encoding) = encoding(sentence) {
        found.push(("encoding", Setting::Text(encoding)));
        if let Some(at) = lower.find("byte order mark").or_else(|| lower.find("bom")) {
            let before = lower.get(..at).unwrap_or_default().trim_end();
            let before = before.strip_suffix(" a").map_or(at, str::len);
            found.push(("bom", Setting::Flag(!is_denied(&lower, at) && !is_denied(&lower, before))));
        }
    }
    let about = |wanted: &str| about(wanted, &lower);
    for part in lower.split(", ").flat_map(|part| part.split("; ")) {
        found.extend(decimal_mark(part).map(|mark| ("decimal_mark", Setting::Text(mark))));
        found.extend(delimiter(part));
    }
    let ends = line_end(&lower);
    found.extend(ends.map(|ends| ("line_end", text(ends))));
    if let Some((at, _)) = about("heading") {
        if is_denied(&lower, at) {
            found.push(("header", Setting::Flag(false)));
        } else if about("first").is_some() {
            found.push(("header", Setting::Flag(true)));
        }
    }
    if let Some((at, _)) = about("quotes") {
        if is_denied(&lower, at) {
            found.push(("quoting", text("never")));
        } else {
            if lower.contains('"') {
                found.push(("quote", text("\"")));
            }
            if about("needed").is_some() {
                found.push(("quoting", text("when-needed")));
            } else if about("all").is_some() {
                found.push(("quoting", text("always")));
            }
        }
    }
    if about("fixed").is_some_and(|(at, _)| !is_denied(&lower, at)) {
        found.push(("format", text("fixed")));
    } else if about("json").is_some() {
        found.push(("format", text("json")));
    }
    found
}

/// The words of a text in small letters that mean this of the file.
fn about<'t>(wanted: &str, lower: &'t str) -> Option<(usize, &'t str)> {
    named(Words::File, lower).find(|(_, word)| meaning(Words::File, word) == Some(wanted))
}

/// The mark that stands nearest to a word.
fn nearest_mark(lower: &str, (at, word): (usize, &str)) -> Option<String> {
    let ends = at + word.len();
    let mut marks = marks(lower);
    marks.retain(|mark| mark.at <= ends + NEAR && mark.at + NEAR >= at);
    marks.sort_by_key(|mark| if mark.at >= ends { mark.at - ends } else { at - mark.at });
    marks.into_iter().next().map(|mark| mark.sign)
}

/// The mark before decimals that a text in small letters names.
pub(super) fn decimal_mark(part: &str) -> Option<String> {
    about("decimal", part)
        .and_then(|word| nearest_mark(part, word))
        .filter(|mark| matches!(mark.as_str(), "," | "."))
        .or_else(|| about("decimal-comma", part).map(|_| ",".to_owned()))
        .or_else(|| about("decimal-point", part).map(|_| ".".to_owned()))
}

fn delimiter(part: &str) -> Option<(&'static str, Setting)> {
    let joined = || about("columns", part).and_then(|_| joined_by(part));
    let named = about("between", part).and_then(|word| nearest_mark(part, word));
    let mark = named.or_else(|| compound(part)).or_else(joined)?;
    matches!(mark.as_str(), ";" | "," | "|" | "\t" | "~" | "^" | "#")
        .then(|| ("delimiter", Setting::Text(mark)))
}

/// "semicolon-separated".
fn compound(lower: &str) -> Option<String> {
    let at = ["-separated", "-delimited", "-getrennt"].iter().find_map(|word| lower.find(word))?;
    marks(lower.get(..at)?).pop().map(|mark| mark.sign)
}

/// The line end that a sentence in small letters names.
fn line_end(lower: &str) -> Option<&'static str> {
    let words: Vec<&str> =
        lower.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    let has = |word: &str| words.contains(&word);
    if has("crlf") || has("cr") && has("lf") || lower.contains("carriage return") {
        Some("crlf")
    } else if has("lf") || lower.contains("line feed") {
        Some("lf")
    } else {
        None
    }
}

/// The forms of days and times that sentences give for the whole file, put on fields whose own is not said.
fn put_forms(all: &[(String, Place)], drafted: &mut Drafted) {
    let mut forms: Vec<(String, ValueType, &Place)> = Vec::new();
    for (sentence, from) in all {
        let parts = sentence.split("; ").flat_map(|part| part.split(", ")).flat_map(|part| part.split(". "));
        for clause in parts {
            let lower = clause.to_lowercase();
            let is_about =
                named(Words::File, &lower).any(|(_, word)| meaning(Words::File, word) == Some("dates"));
            let Some((form, holds)) = is_about.then(|| form_in(clause)).flatten() else { continue };
            if !forms.iter().any(|(_, known, _)| *known == holds) {
                forms.push((form, holds, from));
            }
        }
    }
    for field in &mut drafted.fields {
        let holds = match field.claims.text("type") {
            Some("date") => ValueType::Date,
            Some("datetime") => ValueType::DateTime,
            Some("time") => ValueType::Time,
            _ => continue,
        };
        if let Some((form, _, from)) = forms.iter().find(|(_, known, _)| *known == holds)
            && field.claims.get("format").is_none()
        {
            field.claims.set("format", Setting::Text(form.clone()), from);
        }
    }
}

/// A form of days or times that stands in a clause, as a pattern or by an example.
fn form_in(clause: &str) -> Option<(String, ValueType)> {
    let words: Vec<&str> = clause.split_whitespace().collect();
    let bare = |text: &str| {
        text.trim_matches(['(', ')', '"', '“', '”', '„', '«', '»', ',', '.', ':', '`']).to_owned()
    };
    let written = (0..words.len()).find_map(|at| {
        let two = words.get(at..at + 2).map(|two| bare(&two.join(" ")));
        let one = words.get(at).map(|word| bare(word));
        two.into_iter().chain(one).filter(|text| text.chars().count() > 3).find_map(|text| date_format(&text))
    });
    let shown = || form_shown(clause);
    let example = || (0..words.len()).find_map(|at| form_of_example(&words.get(at..)?.join(" ")));
    written.or_else(shown).or_else(example)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_sentence_says_of_the_file_is_read_in_any_language() {
        for (sentence, keys) in [
            ("Character set: UTF-8, without a byte order mark", "encoding=\"utf-8\" bom=false"),
            ("Between fields: semicolon ( ; )", "delimiter=\";\""),
            ("Decimal sign: comma; no sign between thousands", "decimal_mark=\",\""),
            (
                "Quotation marks: double ( \" ), only round a text that contains a semicolon",
                "quote='\"' quoting=\"when-needed\"",
            ),
            ("End of line: CR LF", "line_end=\"crlf\""),
            ("Please write it in Windows code page 1252", "encoding=\"windows-1252\""),
            ("No heading line in front and no total at the end", "header=false"),
            (
                "The file is semicolon-separated text, UTF-8, with the headings in the first line.",
                "encoding=\"utf-8\" delimiter=\";\" header=true",
            ),
            ("Die Felder sind durch Semikolon getrennt, Dezimalkomma", "delimiter=\";\" decimal_mark=\",\""),
            (
                "Trennzeichen ist der Tabulator, keine Anführungszeichen",
                "delimiter=\"\\t\" quoting=\"never\"",
            ),
            ("Séparateur de champs : point-virgule ; virgule décimale", "delimiter=\";\" decimal_mark=\",\""),
            ("one movement on each line, in fixed columns", "format=\"fixed\""),
            ("One line for every visit, written by the parish", ""),
        ] {
            let found: Vec<String> =
                said(sentence).into_iter().map(|(key, value)| format!("{key}={}", value.toml())).collect();
            assert_eq!(found.join(" "), keys, "{sentence}");
        }
    }
}
