//! What people write into a dictionary's cells: "Text(6)", "Number(5,1)", "Date DD/MM/YYYY", "M",
//! "1-5", "1=White; 2=Yellow", "see sheet Colours".

use super::clauses::form_shown;
use super::date_words::date_format;
use super::facts::{DictionaryColumn, FieldFact, FieldKind, fold};
use super::limit_words::{bound, limits, sized, sizes};
use super::listed::{listed_codes, pair_of_words, says_yes_or_no};
use super::mark_words::joined_by;
use super::type_words::typed;
use super::vocabulary::{Words, leads, meaning};
use dusk_values::Unit;

/// What a cell says.
pub(super) fn facts(text: &str, column: DictionaryColumn) -> Vec<FieldFact> {
    let text = text.trim();
    if text.is_empty() || matches!(text, "-" | "–" | "—" | "n/a" | "N/A" | "none" | "None" | "any" | "Any")
    {
        return Vec::new();
    }
    let unread = || vec![FieldFact::Unread(text.to_owned())];
    match column {
        DictionaryColumn::Length => match sizes(text).as_slice() {
            [length] => vec![FieldFact::Length(*length)],
            [total, decimals] => vec![FieldFact::Precision(*total, *decimals)],
            _ => unread(),
        },
        DictionaryColumn::Decimals => {
            text.parse().map_or_else(|_| unread(), |decimals| vec![FieldFact::Decimals(decimals)])
        }
        DictionaryColumn::Required => {
            required(text).map_or_else(|| vec![FieldFact::Conditional(text.to_owned())], |fact| vec![fact])
        }
        DictionaryColumn::Optional => match required(text) {
            // "Optional: no" and "Nullable: no" say that it must be filled.
            Some(FieldFact::Required(says))
                if !matches!(fold(text).as_str(), "optional" | "mandatory" | "required") =>
            {
                vec![FieldFact::Required(!says)]
            }
            Some(fact) => vec![fact],
            None => vec![FieldFact::Conditional(text.to_owned())],
        },
        DictionaryColumn::Key => match required(text) {
            Some(FieldFact::Required(true)) => vec![FieldFact::Key],
            _ if matches!(
                fold(text).as_str(),
                "pk" | "key" | "primary" | "primarykey" | "unique" | "k" | "id"
            ) =>
            {
                vec![FieldFact::Key]
            }
            _ => Vec::new(),
        },
        DictionaryColumn::Min => bound(text, FieldFact::Min, FieldFact::NotBefore).unwrap_or_else(unread),
        DictionaryColumn::Max => bound(text, FieldFact::Max, FieldFact::NotAfter).unwrap_or_else(unread),
        DictionaryColumn::Unit => Unit::named(text)
            .map_or_else(|_| unread(), |unit| vec![FieldFact::Unit(unit.symbol().to_owned())]),
        DictionaryColumn::Type | DictionaryColumn::Format | DictionaryColumn::Allowed => words(text, column),
    }
}

fn required(text: &str) -> Option<FieldFact> {
    if matches!(text, "✓" | "✔" | "☑" | "●" | "•" | "*") {
        return Some(FieldFact::Required(true));
    }
    match meaning(Words::Must, text)? {
        "yes" => Some(FieldFact::Required(true)),
        "no" => Some(FieldFact::Required(false)),
        _ => Some(FieldFact::Conditional(text.to_owned())),
    }
}

/// A cell of words about type, format or values.
fn words(text: &str, column: DictionaryColumn) -> Vec<FieldFact> {
    if let Some((yes, no)) = pair_of_words(text) {
        return vec![FieldFact::Kind(FieldKind::Boolean), FieldFact::Words(yes, no)];
    }
    if let Some(list) = reference(text) {
        return vec![FieldFact::SeeList(list)];
    }
    if column == DictionaryColumn::Format
        && let Some(decimals) = zeros_shown(text)
    {
        let kind = FieldFact::Kind(FieldKind::Number);
        return vec![kind, FieldFact::Decimals(decimals), FieldFact::AllDecimals];
    }
    if matches!(column, DictionaryColumn::Format | DictionaryColumn::Allowed)
        && let Some(fact) = mask(text)
            .filter(|fact| column == DictionaryColumn::Format || matches!(fact, FieldFact::Pattern(_, true)))
    {
        return vec![fact];
    }
    // The whole cell may be one phrase, although it holds a comma.
    if let Some(mut facts) = phrase(text, column) {
        count_figures(&mut facts);
        return facts;
    }
    // "number, six figures" is no list, although each of its parts could be a code.
    let parts = outside_brackets(text);
    let begins_with_type = parts.len() > 1 && parts.first().is_some_and(|part| typed(part, phrase).is_some());
    if column != DictionaryColumn::Format
        && !begins_with_type
        && let Some(codes) = listed_codes(text)
    {
        return vec![FieldFact::Codes(codes)];
    }
    let mut found = Vec::new();
    for part in parts {
        match phrase(part, column) {
            Some(facts) => found.extend(facts),
            None => found.push(FieldFact::Unread(part.to_owned())),
        }
    }
    let understood = found.iter().any(|fact| !matches!(fact, FieldFact::Unread(_)));
    count_figures(&mut found);
    if understood { found } else { vec![FieldFact::Unread(text.to_owned())] }
}

/// The figures of what is called a number are its size: "whole number, 4 figures", "number, 9 figures, 3 of them after the
/// point".
fn count_figures(found: &mut Vec<FieldFact>) {
    let is_number = |fact: &FieldFact| {
        matches!(fact, FieldFact::Kind(FieldKind::Integer | FieldKind::Number | FieldKind::Decimal))
    };
    if !found.iter().any(is_number) {
        return;
    }
    let figures = found
        .iter()
        .find_map(|fact| if let FieldFact::Digits(figures) = fact { Some(*figures) } else { None });
    let after =
        found.iter().find_map(|fact| if let FieldFact::Decimals(after) = fact { Some(*after) } else { None });
    if let Some(figures) = figures {
        found.retain(|fact| !matches!(fact, FieldFact::Digits(_) | FieldFact::Decimals(_)));
        found.push(FieldFact::Precision(figures, after.unwrap_or(0)));
    }
}

/// The parts of a text between commas, semicolons and line breaks that do not stand in brackets.
fn outside_brackets(text: &str) -> Vec<&str> {
    let mut depth = 0_u32;
    text.split(|c: char| {
        match c {
            '(' | '[' => depth += 1,
            ')' | ']' => depth = depth.saturating_sub(1),
            _ => {}
        }
        depth == 0 && matches!(c, ',' | ';' | '\n')
    })
    .map(str::trim)
    .filter(|part| !part.is_empty())
    .collect()
}

/// "see sheet Colours", "List: Colours", "code list 3".
fn reference(text: &str) -> Option<String> {
    let lower = text.to_lowercase();
    if lower.len() != text.len() {
        return None;
    }
    let lead = leads(Words::See).iter().find(|lead| lower.starts_with(lead.as_str()))?;
    let rest = text.get(lead.len()..)?;
    // "seeds" is not "see ds".
    let parted = lead.ends_with(':') || rest.starts_with([' ', ':', '\u{a0}']);
    let name = rest.trim_matches([' ', ':', '\u{a0}', '"', '\'', '“', '”', '‘', '’', '.', '(', ')']);
    // "list 1" is the whole name.
    let is_number = name.chars().all(|c| c.is_ascii_digit());
    (parted && !name.is_empty()).then(|| if is_number { text.to_owned() } else { name.to_owned() })
}

/// One phrase: a type with its size, a range, a format, a word for must or may.
pub(super) fn phrase(text: &str, column: DictionaryColumn) -> Option<Vec<FieldFact>> {
    let text = text.trim();
    let text = text.strip_prefix("with ").unwrap_or(text);
    let folded = fold(text);
    if column == DictionaryColumn::Type
        && let Some(facts) = typed(text, phrase)
    {
        return Some(facts);
    }
    if let Some((format, holds)) = date_format(text).or_else(|| form_shown(text)) {
        return Some(vec![FieldFact::Format(format, holds)]);
    }
    if let Some(facts) = limits(text) {
        return Some(facts);
    }
    if let Some(facts) = sized(text, &folded) {
        return Some(facts);
    }
    if let Some(form) = text.strip_prefix("form ").filter(|form| form.contains(['[', '\\']))
        && regex::Regex::new(form).is_ok()
    {
        return Some(vec![FieldFact::Pattern(form.to_owned(), true)]);
    }
    if matches!(folded.as_str(), "unique" | "primarykey" | "key" | "pk" | "partofwhatidentifiesarecord") {
        return Some(vec![FieldFact::Key]);
    }
    if matches!(
        folded.as_str(),
        "notinfuture"
            | "notinthefuture"
            | "nofuturedates"
            | "nofuturedate"
            | "past"
            | "todayorearlier"
            | "notafter today"
            | "notaftertoday"
    ) {
        return Some(vec![FieldFact::NotAfter("today".into())]);
    }
    if let Some(separator) = joined_by(text) {
        return Some(vec![FieldFact::Kind(FieldKind::Codes), FieldFact::Separator(separator)]);
    }
    // Single letters mean must and may only in a column of their own.
    if folded.len() > 1
        && !folded.bytes().all(|byte| byte.is_ascii_digit())
        && let Some(fact @ FieldFact::Required(_)) = required(text)
        && !says_yes_or_no(&folded)
        && folded != "null"
    {
        return Some(vec![fact]);
    }
    // A single letter is a type only in a column of types.
    if column == DictionaryColumn::Type || folded.chars().count() < 2 { None } else { typed(text, phrase) }
}

/// The picture of a number: "9(5)V999", "99999.99", "S9(3)V9": how many figures it has, and how many of them behind
/// the point.
fn picture(text: &str) -> Option<(u64, u64)> {
    let text = text.trim_start_matches(['S', 's', '-', '+']);
    let (whole, part) = text.split_once(['V', 'v', '.', ','])?;
    let figures = |run: &str| -> Option<u64> {
        match run.strip_prefix("9(").and_then(|run| run.strip_suffix(')')) {
            Some(count) => count.parse().ok(),
            None => run.bytes().all(|byte| byte == b'9').then_some(run.len() as u64),
        }
    };
    let (whole, part) = (figures(whole)?, figures(part)?);
    (whole > 0 && part > 0 && whole + part <= 28).then_some((whole + part, part))
}

/// How many decimals a format shows that writes zeros as well: "0.00", "#,##0.00".
fn zeros_shown(text: &str) -> Option<u64> {
    let shown: String = text.chars().filter(|c| !matches!(c, '#' | ' ')).collect();
    let (whole, zeros) = shown.trim_start_matches([',', '.']).split_once(['.', ','])?;
    let all_zeros = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte == b'0');
    (whole == "0" && all_zeros(zeros)).then_some(zeros.len() as u64)
}

/// A mask or a regular expression in a column of formats: "999999", "A99", "[A-Z]{2}\d+".
fn mask(text: &str) -> Option<FieldFact> {
    if let Some((figures, decimals)) = picture(text) {
        return Some(FieldFact::Precision(figures, decimals));
    }
    let counted =
        |letter: &str| text.strip_prefix(letter)?.strip_prefix('(')?.strip_suffix(')')?.parse().ok();
    if let Some(digits) = counted("9") {
        return Some(FieldFact::Digits(digits));
    }
    if let Some(length) = counted("X").or_else(|| counted("x")).or_else(|| counted("A")) {
        return Some(FieldFact::Length(length));
    }
    let length = text.chars().count();
    let all = |known: &[char]| text.chars().all(|c| known.contains(&c));
    if all(&['X']) || all(&['x']) {
        return Some(FieldFact::Length(length as u64));
    }
    if length > 1 && (all(&['9']) || all(&['0']) || all(&['#']) || all(&['n']) || all(&['N'])) {
        return Some(FieldFact::Digits(length as u64));
    }
    let looks_regular = text.contains("\\d")
        || text.contains('[') && text.contains(']')
        || text.starts_with('^') && text.ends_with('$');
    if looks_regular && regex::Regex::new(text).is_ok() {
        let inner = text.strip_prefix('^').unwrap_or(text);
        return Some(FieldFact::Pattern(inner.strip_suffix('$').unwrap_or(inner).to_owned(), true));
    }
    let letters = text.chars().filter(|c| matches!(c, 'A' | 'X' | '9' | 'N')).count();
    let marks = text.chars().filter(|c| matches!(c, '-' | '/' | '.' | ' ' | '_')).count();
    if letters < 2 || letters + marks != length || !text.contains(['9', 'A', 'N']) {
        return None;
    }
    let mut pattern = String::new();
    for c in text.chars() {
        match c {
            'A' => pattern.push_str("[A-Z]"),
            '9' | 'N' => pattern.push_str("[0-9]"),
            'X' => pattern.push_str("[A-Z0-9]"),
            other => pattern.push_str(&regex::escape(&other.to_string())),
        }
    }
    Some(FieldFact::Pattern(pattern, false))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn says(text: &str, column: DictionaryColumn) -> String {
        format!("{:?}", facts(text, column)).replace("FieldFact::", "").replace('"', "")
    }

    #[test]
    fn everyday_ways_of_writing_a_type_are_understood() {
        for (text, means) in [
            ("Text(6)", "[Kind(Text), Length(6)]"),
            ("varchar2 (30)", "[Kind(Text), Length(30)]"),
            ("AN10", "[Kind(Text), Length(10)]"),
            ("an..35", "[Kind(Text), Length(35)]"),
            ("Number(5,1)", "[Kind(Number), Precision(5, 1)]"),
            ("N5.1", "[Kind(Number), Precision(5, 1)]"),
            ("Integer", "[Kind(Integer)]"),
            ("Whole number, 1-40", "[Kind(Integer), Min(1), Max(40)]"),
            ("Date DD/MM/YYYY", "[Kind(Date), Format(dd/MM/yyyy, Date)]"),
            ("Date (YYYY-MM-DD)", "[Kind(Date), Format(yyyy-MM-dd, Date)]"),
            ("date/time", "[Kind(DateTime)]"),
            ("Y/N", "[Kind(Boolean), Words(Y, N)]"),
            ("Yes/No", "[Kind(Boolean), Words(Yes, No)]"),
            ("Text, max 60 characters", "[Kind(Text), Length(60)]"),
            ("6 digits", "[Digits(6)]"),
            ("Drop-down", "[Kind(Code)]"),
            ("see sheet Colours", "[SeeList(Colours)]"),
            ("Text(6), mandatory", "[Kind(Text), Length(6), Required(true)]"),
            ("number, 9 figures, 3 of them after the point", "[Kind(Number), Precision(9, 3)]"),
            ("whole number, four figures", "[Kind(Integer), Kind(Number), Precision(4, 0)]"),
            ("texto, hasta ocho caracteres", "[Kind(Text), Length(8)]"),
            ("exactly 8 letters or figures", "[Length(8)]"),
            ("something else entirely", "[Unread(something else entirely)]"),
        ] {
            assert_eq!(says(text, DictionaryColumn::Type), means, "{text}");
        }
    }

    #[test]
    fn values_limits_and_formats_are_understood() {
        for (text, column, means) in [
            ("1-5", DictionaryColumn::Allowed, "[Min(1), Max(5)]"),
            ("-5 to 40", DictionaryColumn::Allowed, "[Min(-5), Max(40)]"),
            ("de 0 à 4,5", DictionaryColumn::Allowed, "[Min(0), Max(4.5)]"),
            ("von 1 bis 900", DictionaryColumn::Allowed, "[Min(1), Max(900)]"),
            (">= 0", DictionaryColumn::Allowed, "[Min(0)]"),
            ("> 0", DictionaryColumn::Allowed, "[Rule(_ > 0)]"),
            ("not in the future", DictionaryColumn::Allowed, "[NotAfter(today)]"),
            ("1=White; 2=Yellow", DictionaryColumn::Allowed, "[Codes([(1, White), (2, Yellow)])]"),
            ("1=Yes; 0=No", DictionaryColumn::Allowed, "[Kind(Boolean), Words(1, 0)]"),
            ("W, Y, R", DictionaryColumn::Allowed, "[Codes([(W, ), (Y, ), (R, )])]"),
            ("several, parted by |", DictionaryColumn::Allowed, "[Kind(Codes), Separator(|)]"),
            ("999999", DictionaryColumn::Format, "[Digits(6)]"),
            ("9(5)V999", DictionaryColumn::Format, "[Precision(8, 3)]"),
            ("9999.99", DictionaryColumn::Format, "[Precision(6, 2)]"),
            ("#,##0.00", DictionaryColumn::Format, "[Kind(Number), Decimals(2), AllDecimals]"),
            ("immer zwei Nachkommastellen", DictionaryColumn::Format, "[Decimals(2), AllDecimals]"),
            ("X(12)", DictionaryColumn::Format, "[Length(12)]"),
            (
                "N none, I iron, P plastic;",
                DictionaryColumn::Allowed,
                "[Codes([(N, none), (I, iron), (P, plastic)])]",
            ),
            ("0,30 bis 25,00", DictionaryColumn::Allowed, "[Min(0.3), Max(25)]"),
            ("A99", DictionaryColumn::Format, "[Pattern([A-Z][0-9][0-9], false)]"),
            ("[A-Z]{2}\\d+", DictionaryColumn::Format, "[Pattern([A-Z]{2}\\\\d+, true)]"),
            ("hh:mm", DictionaryColumn::Format, "[Format(HH:mm, Time)]"),
            ("M", DictionaryColumn::Required, "[Required(true)]"),
            ("O", DictionaryColumn::Required, "[Required(false)]"),
            ("C", DictionaryColumn::Required, "[Conditional(C)]"),
            ("if treated", DictionaryColumn::Required, "[Conditional(if treated)]"),
            ("no", DictionaryColumn::Optional, "[Required(true)]"),
            ("5,1", DictionaryColumn::Length, "[Precision(5, 1)]"),
            ("kg", DictionaryColumn::Unit, "[Unit(kg)]"),
            ("2020-01-01", DictionaryColumn::Min, "[NotBefore(2020-01-01)]"),
        ] {
            assert_eq!(says(text, column), means, "{text}");
        }
    }
}
