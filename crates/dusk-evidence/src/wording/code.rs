//! Words about codes, words for true and false, references and files.

use dusk_values::{looks_like, shown, shown_day};

use crate::{Choices, CodeFact, CodeWords, NamedCode};

pub(super) fn wrong(fact: &CodeFact) -> String {
    match fact {
        CodeFact::NotACode { list, words, foreign, .. } => {
            let alphabet = foreign.and_then(|letter| Some((letter, looks_like(letter)?.0)));
            let letter = alphabet.map(|(letter, name)| format!(": its \"{letter}\" is a {name} letter"));
            let letter = letter.unwrap_or_default();
            let words = match words {
                CodeWords::Either => "code or label",
                CodeWords::Codes => "code",
                CodeWords::Labels => "label",
            };
            format!("is not a {words} of {list}{letter}")
        }
        CodeFact::DateForCode { list, .. } => {
            format!("is a typed date in the workbook, and no code of {list}")
        }
        CodeFact::Undecided { list, .. } => format!("could mean more than one code of {list}"),
        CodeFact::ChangedUndecided { list, .. } => {
            format!("may have been more than one code of {list} before a spreadsheet program changed it")
        }
        CodeFact::Retired { code, until, .. } => {
            format!("means {code}, which was retired on {}", shown(*until))
        }
        CodeFact::OutsideParent { list, parent, .. } => format!("is in {list}, but not inside {parent}"),
        CodeFact::WithoutParent { field } => {
            format!("is valid only inside a {field}, which is blank in this row")
        }
        CodeFact::TooMany { codes, columns } => {
            format!("has {codes} codes, and the target has {columns} columns for them")
        }
        CodeFact::KeepsOut { by, on } => {
            format!("keeps its record out, as was decided ({})", decided(by, on))
        }
        CodeFact::LeavesBlank { by, on } => {
            format!("is left blank, as was decided ({})", decided(by, on))
        }
        CodeFact::TermAllowed { term, by, on } => {
            format!("goes in as the new term \"{term}\", as was allowed ({})", decided(by, on))
        }
        CodeFact::NotABoolean { .. } => "is not a word for true or false".into(),
        CodeFact::BooleanUndecided => "could mean true and could mean false".into(),
        other => wrong_of_others(other),
    }
}

/// Words about what is a value of another list, or a file.
fn wrong_of_others(fact: &CodeFact) -> String {
    match fact {
        CodeFact::UnknownReference { file, column, values } => {
            format!("is not among the {values} values of {column} in {file}")
        }
        CodeFact::FileMissing { folder } => format!("is not a file in {folder}"),
        CodeFact::FileEnding { ending, taken } => {
            format!("ends in \"{ending}\", and the target takes {}", taken.join(", "))
        }
        CodeFact::FileTooLarge { bytes, .. } => format!("has {bytes} bytes"),
        CodeFact::FileNotNamed { folder } => format!("is in {folder}, and no accepted record names it"),
        _ => String::new(),
    }
}

pub(super) fn right(fact: &CodeFact) -> String {
    let right = match fact {
        CodeFact::NotACode { nearest: Some(code), .. } => return format!("nearest: {code}"),
        CodeFact::NotACode { choices, .. } | CodeFact::DateForCode { choices, .. } => return some(choices),
        CodeFact::Undecided { codes, .. } | CodeFact::ChangedUndecided { codes, .. } => {
            return format!("one of {}", listed(codes));
        }
        CodeFact::Retired { successor: Some(successor), .. } => return format!("its successor: {successor}"),
        CodeFact::Retired { .. } => "a code that is still in use",
        CodeFact::OutsideParent { belongs_to, choices, .. } if belongs_to.is_empty() => return some(choices),
        CodeFact::OutsideParent { belongs_to, .. } => {
            return format!("it belongs to {}", belongs_to.join(", "));
        }
        CodeFact::WithoutParent { field } => return format!("fill in the {field}"),
        CodeFact::TooMany { .. } => "fewer codes; ask the person who knows the record which ones",
        CodeFact::KeepsOut { .. } | CodeFact::LeavesBlank { .. } | CodeFact::TermAllowed { .. } => "",
        CodeFact::NotABoolean { known } => {
            return format!(
                "one of {}; other words go into the mapping, as words = \"x/-\"",
                known.join(", ")
            );
        }
        CodeFact::BooleanUndecided => "say in the mapping which words the source uses, as words = \"Y/N\"",
        CodeFact::UnknownReference { .. } => "have it created in the target first, or correct it",
        CodeFact::FileMissing { .. } => "the name of a file that is there, or the file itself put there",
        CodeFact::FileEnding { .. } => "the file in a form that the target takes",
        CodeFact::FileTooLarge { most, .. } => return format!("{most} bytes or fewer"),
        CodeFact::FileNotNamed { .. } => "a record that names it, if it should be sent",
    };
    right.to_owned()
}

/// "one of W White, Y Yellow and 3 more".
fn some(choices: &Choices) -> String {
    let first = listed(&choices.first);
    if choices.more > 0 {
        format!("one of {first} and {} more", choices.more)
    } else {
        format!("one of {first}")
    }
}

fn listed(codes: &[NamedCode]) -> String {
    codes.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ")
}

/// Who decided a crosswalk line, and when: "crosswalk, A. Clerk, 30 Apr 2026".
pub fn decided(by: &str, on: &str) -> String {
    ["crosswalk", by, &shown_day(on)]
        .into_iter()
        .filter(|word| !word.is_empty())
        .collect::<Vec<_>>()
        .join(", ")
}
