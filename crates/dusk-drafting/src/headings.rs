//! What the columns of a dictionary and of a code list mean, by their headings.

use super::facts::{DictionaryColumn, fold};
use super::vocabulary::{Words, meaning};

/// What a column of a dictionary holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Role {
    Name,
    Label,
    Also,
    Description,
    Note,
    Default,
    Rule,
    /// The table or record type that the field belongs to.
    Table,
    /// A value that the field may hold.
    Example,
    /// Something that a description has no use for: a number, a heading of groups.
    Aside,
    Says(DictionaryColumn),
}

/// What a heading says that its column holds.
pub(super) fn role(heading: &str) -> Option<Role> {
    use DictionaryColumn::{
        Allowed, Decimals, Format, Key, Length, Max, Min, Optional, Required, Type, Unit,
    };
    Some(match headed(Words::Column, heading)? {
        "name" => Role::Name,
        "label" => Role::Label,
        "also" => Role::Also,
        "description" => Role::Description,
        "note" => Role::Note,
        "default" => Role::Default,
        "rule" => Role::Rule,
        "table" => Role::Table,
        "example" => Role::Example,
        "type" => Role::Says(Type),
        "length" => Role::Says(Length),
        "decimals" => Role::Says(Decimals),
        "required" => Role::Says(Required),
        "optional" => Role::Says(Optional),
        "format" => Role::Says(Format),
        "allowed" => Role::Says(Allowed),
        "min" => Role::Says(Min),
        "max" => Role::Says(Max),
        "unit" => Role::Says(Unit),
        "key" => Role::Says(Key),
        _ => Role::Aside,
    })
}

/// The columns that hold this, in order.
pub(super) fn places(roles: &[Option<Role>], wanted: Role) -> Vec<usize> {
    (0..roles.len()).filter(|column| roles.get(*column) == Some(&Some(wanted))).collect()
}

/// What a column of a code list holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum ListRole {
    Code,
    Label,
    Also,
    Within,
    Until,
    Status,
    ReplacedBy,
    /// The list, or the field, that the code belongs to.
    List,
    Aside,
}

/// What a heading says that its column of a code list holds.
pub(super) fn list_role(heading: &str) -> Option<ListRole> {
    let known = headed(Words::List, heading).map(|meaning| match meaning {
        "code" => ListRole::Code,
        "label" => ListRole::Label,
        "also" => ListRole::Also,
        "within" => ListRole::Within,
        "until" => ListRole::Until,
        "status" => ListRole::Status,
        "replaced-by" => ListRole::ReplacedBy,
        "list" => ListRole::List,
        _ => ListRole::Aside,
    });
    known.or_else(|| {
        // A language stands above labels in it.
        if meaning(Words::Language, heading).is_some() {
            return Some(ListRole::Label);
        }
        let folded = fold(heading);
        if ["code", "id", "abbreviation", "key"].iter().any(|ending| folded.ends_with(ending)) {
            Some(ListRole::Code)
        } else if ["name", "label", "description", "meaning"].iter().any(|ending| folded.ends_with(ending)) {
            Some(ListRole::Label)
        } else {
            None
        }
    })
}

/// What a heading means.
fn headed(words: Words, heading: &str) -> Option<&'static str> {
    // What stands in brackets or behind a question mark explains the heading.
    let plain = heading.split(['(', '[', '\n']).next().unwrap_or_default();
    meaning(words, plain).or_else(|| meaning(words, heading))
}

/// A name that commands and rules can use: letters, digits and underscores.
pub(super) fn identifier(name: &str) -> String {
    let is_one = name.chars().next().is_some_and(|c| c.is_alphabetic() || c == '_')
        && name.chars().all(|c| c.is_alphanumeric() || c == '_');
    if is_one {
        return name.to_owned();
    }
    let plain = name.split(['(', '[']).next().filter(|plain| !plain.trim().is_empty()).unwrap_or(name);
    let words: Vec<String> = plain
        .split(|c: char| !c.is_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_lowercase)
        .collect();
    let joined = words.join("_");
    if joined.starts_with(|c: char| c.is_ascii_digit()) || joined.is_empty() {
        format!("f_{joined}")
    } else {
        joined
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_are_known_whatever_their_case_and_marks() {
        assert_eq!(role("FIELD NAME"), Some(Role::Name));
        assert_eq!(role("Mandatory? (Y/N)"), Some(Role::Says(DictionaryColumn::Required)));
        assert_eq!(role("Max. length"), Some(Role::Says(DictionaryColumn::Length)));
        assert_eq!(role("allowed_values"), Some(Role::Says(DictionaryColumn::Allowed)));
        assert_eq!(role("Weather"), None);
        assert_eq!(list_role("Colour code"), Some(ListRole::Code));
        assert_eq!(list_role("Region name"), Some(ListRole::Label));
        assert_eq!(list_role("Valid until"), Some(ListRole::Until));
        assert_eq!(list_role("District"), None);
    }

    #[test]
    fn names_become_plain_words() {
        for (name, word) in [
            ("visit_date", "visit_date"),
            ("Date of visit", "date_of_visit"),
            ("Honey (kg)", "honey"),
            ("1st choice?", "f_1st_choice"),
            ("Größe", "Größe"),
            ("(none)", "none"),
        ] {
            assert_eq!(identifier(name), word);
        }
    }
}
