//! What people write into a dictionary's cells: "Text(6)", "Number(5,1)", "Date DD/MM/YYYY", "M",
//! "1-5", "1=White; 2=Yellow", "see sheet Colours".

use super::date_words::date_format;
use super::facts::{Column, Fact, Kind, fold};
use super::limit_words::{bound, limits, sized, sizes};
use super::listed::{listed_codes, pair_of_words};
use super::type_words::typed;
use dusk_values::Unit;

/// What a cell says.
pub(super) fn facts(text: &str, column: Column) -> Vec<Fact> {
    let text = text.trim();
    if text.is_empty() || matches!(text, "-" | "–" | "—" | "n/a" | "N/A" | "none" | "None" | "any" | "Any")
    {
        return Vec::new();
    }
    let unread = || vec![Fact::Unread(text.to_owned())];
    match column {
        Column::Length => match sizes(text).as_slice() {
            [length] => vec![Fact::Length(*length)],
            [total, decimals] => vec![Fact::Precision(*total, *decimals)],
            _ => unread(),
        },
        Column::Decimals => text.parse().map_or_else(|_| unread(), |decimals| vec![Fact::Decimals(decimals)]),
        Column::Required => {
            required(text).map_or_else(|| vec![Fact::Conditional(text.to_owned())], |fact| vec![fact])
        }
        Column::Optional => match required(text) {
            // "Optional: no" and "Nullable: no" say that it must be filled.
            Some(Fact::Required(says))
                if !matches!(fold(text).as_str(), "optional" | "mandatory" | "required") =>
            {
                vec![Fact::Required(!says)]
            }
            Some(fact) => vec![fact],
            None => vec![Fact::Conditional(text.to_owned())],
        },
        Column::Key => match required(text) {
            Some(Fact::Required(true)) => vec![Fact::Key],
            _ if matches!(
                fold(text).as_str(),
                "pk" | "key" | "primary" | "primarykey" | "unique" | "k" | "id"
            ) =>
            {
                vec![Fact::Key]
            }
            _ => Vec::new(),
        },
        Column::Min => bound(text, Fact::Min, Fact::NotBefore).unwrap_or_else(unread),
        Column::Max => bound(text, Fact::Max, Fact::NotAfter).unwrap_or_else(unread),
        Column::Unit => {
            Unit::named(text).map_or_else(|_| unread(), |unit| vec![Fact::Unit(unit.symbol().to_owned())])
        }
        Column::Type | Column::Format | Column::Allowed => words(text, column),
    }
}

fn required(text: &str) -> Option<Fact> {
    const YES: [&str; 22] = [
        "yes",
        "y",
        "true",
        "1",
        "x",
        "m",
        "mandatory",
        "r",
        "required",
        "must",
        "compulsory",
        "obligatory",
        "notnull",
        "11",
        "always",
        "essential",
        "mustbefilled",
        "j",
        "ja",
        "oui",
        "si",
        "needed",
    ];
    const NO: [&str; 16] = [
        "no",
        "n",
        "false",
        "0",
        "o",
        "optional",
        "opt",
        "null",
        "01",
        "nullable",
        "maybeblank",
        "nein",
        "non",
        "ifavailable",
        "ifknown",
        "may",
    ];
    if matches!(text, "✓" | "✔" | "☑" | "●" | "•" | "*") {
        return Some(Fact::Required(true));
    }
    let folded = fold(text);
    if YES.contains(&folded.as_str()) {
        Some(Fact::Required(true))
    } else if NO.contains(&folded.as_str()) {
        Some(Fact::Required(false))
    } else if matches!(folded.as_str(), "c" | "conditional" | "cond") {
        Some(Fact::Conditional(text.to_owned()))
    } else {
        None
    }
}

/// A cell of words about type, format or values.
fn words(text: &str, column: Column) -> Vec<Fact> {
    if let Some((yes, no)) = pair_of_words(text) {
        return vec![Fact::Kind(Kind::Boolean), Fact::Words(yes, no)];
    }
    if let Some(list) = reference(text) {
        return vec![Fact::SeeList(list)];
    }
    if matches!(column, Column::Format | Column::Allowed)
        && let Some(fact) =
            mask(text).filter(|fact| column == Column::Format || matches!(fact, Fact::Pattern(_, true)))
    {
        return vec![fact];
    }
    // The whole cell may be one phrase, although it holds a comma.
    if let Some(facts) = phrase(text, column) {
        return facts;
    }
    if column != Column::Format
        && let Some(codes) = listed_codes(text)
    {
        return vec![Fact::Codes(codes)];
    }
    let mut found = Vec::new();
    for part in outside_brackets(text) {
        match phrase(part, column) {
            Some(facts) => found.extend(facts),
            None => found.push(Fact::Unread(part.to_owned())),
        }
    }
    let understood = found.iter().any(|fact| !matches!(fact, Fact::Unread(_)));
    if understood { found } else { vec![Fact::Unread(text.to_owned())] }
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
    const LEADS: [&str; 14] = [
        "see code list",
        "see codelist",
        "see the sheet",
        "see sheet",
        "see tab",
        "see list",
        "see table",
        "see appendix",
        "see",
        "code list:",
        "codelist:",
        "list:",
        "lookup:",
        "values in",
    ];
    let lower = text.to_lowercase();
    if lower.len() != text.len() {
        return None;
    }
    let lead = LEADS.into_iter().find(|lead| lower.starts_with(lead))?;
    let rest = text.get(lead.len()..)?;
    // "seeds" is not "see ds".
    let parted = lead.ends_with(':') || rest.starts_with([' ', ':', '\u{a0}']);
    let name = rest.trim_matches([' ', ':', '\u{a0}', '"', '\'', '“', '”', '‘', '’', '.', '(', ')']);
    (parted && !name.is_empty()).then(|| name.to_owned())
}

/// One phrase: a type with its size, a range, a format, a word for must or may.
pub(super) fn phrase(text: &str, column: Column) -> Option<Vec<Fact>> {
    let text = text.trim();
    let text = text.strip_prefix("with ").unwrap_or(text);
    let folded = fold(text);
    if column == Column::Type
        && let Some(facts) = typed(text, phrase)
    {
        return Some(facts);
    }
    if let Some((format, holds)) = date_format(text) {
        return Some(vec![Fact::Format(format, holds)]);
    }
    if let Some(facts) = limits(text) {
        return Some(facts);
    }
    if let Some(facts) = sized(text, &folded) {
        return Some(facts);
    }
    if matches!(folded.as_str(), "unique" | "primarykey" | "key" | "pk") {
        return Some(vec![Fact::Key]);
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
        return Some(vec![Fact::NotAfter("today".into())]);
    }
    if let Some(separator) = separator(text) {
        return Some(vec![Fact::Kind(Kind::Codes), Fact::Separator(separator)]);
    }
    // Single letters mean must and may only in a column of their own.
    if folded.len() > 1
        && !folded.bytes().all(|byte| byte.is_ascii_digit())
        && let Some(fact @ Fact::Required(_)) = required(text)
        && !matches!(folded.as_str(), "yes" | "no" | "true" | "false" | "ja" | "nein" | "null")
    {
        return Some(vec![fact]);
    }
    // A single letter is a type only in a column of types.
    if column == Column::Type || folded.chars().count() < 2 { None } else { typed(text, phrase) }
}

/// "parted by |", "separated by commas".
fn separator(text: &str) -> Option<String> {
    const LEADS: [&str; 4] = ["separated by", "parted by", "delimited by", "joined by"];
    let lower = text.to_lowercase();
    let after = LEADS.iter().find_map(|lead| lower.find(lead).map(|at| at + lead.len()))?;
    let rest = lower.get(after..)?.trim().trim_matches(['"', '\'', '“', '”', '(', ')']);
    let named = match rest.trim_start_matches("a ") {
        "comma" | "commas" => ",",
        "semicolon" | "semicolons" => ";",
        "bar" | "bars" | "pipe" | "pipes" | "vertical bar" | "vertical bars" => "|",
        "space" | "spaces" => " ",
        "slash" | "slashes" => "/",
        short if !short.is_empty() && short.chars().count() <= 2 => short,
        _ => return None,
    };
    Some(named.to_owned())
}

/// A mask or a regular expression in a column of formats: "999999", "A99", "[A-Z]{2}\d+".
fn mask(text: &str) -> Option<Fact> {
    let length = text.chars().count();
    let all = |known: &[char]| text.chars().all(|c| known.contains(&c));
    if length > 1 && (all(&['9']) || all(&['0']) || all(&['#']) || all(&['n']) || all(&['N'])) {
        return Some(Fact::Digits(length as u64));
    }
    let looks_regular = text.contains("\\d")
        || text.contains('[') && text.contains(']')
        || text.starts_with('^') && text.ends_with('$');
    if looks_regular && regex::Regex::new(text).is_ok() {
        let inner = text.strip_prefix('^').unwrap_or(text);
        return Some(Fact::Pattern(inner.strip_suffix('$').unwrap_or(inner).to_owned(), true));
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
    Some(Fact::Pattern(pattern, false))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn says(text: &str, column: Column) -> String {
        format!("{:?}", facts(text, column)).replace("Fact::", "").replace('"', "")
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
            ("something else entirely", "[Unread(something else entirely)]"),
        ] {
            assert_eq!(says(text, Column::Type), means, "{text}");
        }
    }

    #[test]
    fn values_limits_and_formats_are_understood() {
        for (text, column, means) in [
            ("1-5", Column::Allowed, "[Min(1), Max(5)]"),
            ("-5 to 40", Column::Allowed, "[Min(-5), Max(40)]"),
            (">= 0", Column::Allowed, "[Min(0)]"),
            ("> 0", Column::Allowed, "[Rule(_ > 0)]"),
            ("not in the future", Column::Allowed, "[NotAfter(today)]"),
            ("1=White; 2=Yellow", Column::Allowed, "[Codes([(1, White), (2, Yellow)])]"),
            ("1=Yes; 0=No", Column::Allowed, "[Kind(Boolean), Words(1, 0)]"),
            ("W, Y, R", Column::Allowed, "[Codes([(W, ), (Y, ), (R, )])]"),
            ("several, parted by |", Column::Allowed, "[Kind(Codes), Separator(|)]"),
            ("999999", Column::Format, "[Digits(6)]"),
            ("A99", Column::Format, "[Pattern([A-Z][0-9][0-9], false)]"),
            ("[A-Z]{2}\\d+", Column::Format, "[Pattern([A-Z]{2}\\\\d+, true)]"),
            ("hh:mm", Column::Format, "[Format(HH:mm, Time)]"),
            ("M", Column::Required, "[Required(true)]"),
            ("O", Column::Required, "[Required(false)]"),
            ("C", Column::Required, "[Conditional(C)]"),
            ("if treated", Column::Required, "[Conditional(if treated)]"),
            ("no", Column::Optional, "[Required(true)]"),
            ("5,1", Column::Length, "[Precision(5, 1)]"),
            ("kg", Column::Unit, "[Unit(kg)]"),
            ("2020-01-01", Column::Min, "[NotBefore(2020-01-01)]"),
        ] {
            assert_eq!(says(text, column), means, "{text}");
        }
    }
}
