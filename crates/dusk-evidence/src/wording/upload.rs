//! Words about what the upload file cannot hold.

use crate::UploadFact;

pub(super) fn wrong(fact: &UploadFact) -> String {
    let what = match fact {
        UploadFact::NoSuchCharacter { letter, encoding } => {
            return format!(
                "holds \"{letter}\" (U+{:04X}), which {encoding} does not have",
                u32::from(*letter)
            );
        }
        UploadFact::Separator => return "holds a separator of ASCII (U+001F), which no cell can hold".into(),
        UploadFact::LineBreakMark { mark } => {
            return format!("holds \"{mark}\", which means a line break in the upload file");
        }
        UploadFact::TooWide { characters, width } => {
            return format!("takes {characters} characters, and its column has {width}");
        }
        UploadFact::Delimiter { delimiter } => format!("the delimiter \"{delimiter}\""),
        UploadFact::LineBreak => "a line break".into(),
        UploadFact::Quote { quote } => format!("the quote {quote}"),
        UploadFact::EmptyRow => "is blank in every field, and an upload file has no empty rows".into(),
    };
    format!("holds {what}, and the upload file never quotes")
}

pub(super) fn right(fact: &UploadFact) -> &'static str {
    match fact {
        UploadFact::NoSuchCharacter { .. } => "another spelling, agreed with the target's owner",
        UploadFact::Separator | UploadFact::LineBreakMark { .. } => "the value without it",
        UploadFact::TooWide { .. } => "a shorter value, agreed with the target's owner; nothing was cut off",
        UploadFact::Delimiter { .. }
        | UploadFact::LineBreak
        | UploadFact::Quote { .. }
        | UploadFact::EmptyRow => {
            "the value without it, or quoting = \"when-needed\" if the target takes quotes"
        }
    }
}
