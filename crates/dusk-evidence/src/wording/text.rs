//! Words about texts, and about values before they are read.

use std::borrow::Cow;

use dusk_values::named_character;

use crate::{Before, TextFact};

pub(super) fn wrong(fact: &TextFact) -> String {
    let wrong = match fact {
        TextFact::RequiredBlank => "is blank, and the field must be filled",
        TextFact::AboveUnknown => "is blank, and the row above it cannot be read, so its value is not known",
        TextFact::ErrorCell => "is an error of the spreadsheet program, not a value",
        TextFact::TurnedIntoDate(_) => {
            "is a typed date in the workbook, and what it was before is not certain"
        }
        TextFact::DigitsMayBeLost => "has 16 digits and ends in 0, as it would if the last digit was lost",
        TextFact::PowerOfTen { if_zero: None } => "was turned into a power of ten, and its digits are lost",
        TextFact::WrongDigits { digits: None, .. } => "is not made of digits only",
        TextFact::LostCharacter => "has lost a character (shown as \u{fffd})",
        TextFact::QuestionMark => "has a question mark inside a word, where a letter may have been lost",
        TextFact::DecodedWrongly => {
            "looks as if part of it had been decoded wrongly once, which cannot be undone exactly"
        }
        TextFact::WrongPattern { .. } => "does not have the form that the dictionary demands",
        counted => return wrong_with_facts(counted),
    };
    wrong.to_owned()
}

/// Those that tell more than that they are.
fn wrong_with_facts(fact: &TextFact) -> String {
    match fact {
        TextFact::DigitsLost { digits, kept } => {
            format!("has {digits} digits, of which a spreadsheet program keeps {kept}")
        }
        TextFact::PowerOfTen { if_zero: Some(number) } => {
            format!(
                "was turned into a power of ten with one digit fewer: it is {number} if the last one was 0"
            )
        }
        TextFact::WrongDigits { digits, .. } => format!("has {} digits", digits.unwrap_or_default()),
        TextFact::ControlCharacter(c) => format!("holds the control character {}", named_character(*c)),
        TextFact::MixedAlphabets(c) => {
            format!("has {} among letters of another alphabet in one word", named_character(*c))
        }
        TextFact::TooLong { length, .. } => format!("has {length} characters"),
        TextFact::NoPlaceLeft { places, left } => {
            format!("is one of more values than the {places} that fields take; \"{left}\" is left over")
        }
        TextFact::NotInForm { form } => {
            format!("does not have the form \"{form}\", so no part of it can be taken")
        }
        TextFact::SeveralParts { form, readings } => {
            let readings: Vec<String> = readings.iter().map(|one| format!("\"{one}\"")).collect();
            format!("can be taken apart as \"{form}\" in several ways: {}", readings.join(" or "))
        }
        TextFact::NotLookedUp { file, by, values, .. } => {
            format!("is not among the {values} values of {} in {file}", by.join(" and "))
        }
        TextFact::LookUpUnclear { file, rows: [first, second] } => {
            format!("leads to two rows of {file} that say different things, rows {first} and {second}")
        }
        _ => String::new(),
    }
}

pub(super) fn right(fact: &TextFact) -> Cow<'static, str> {
    let right = match fact {
        TextFact::RequiredBlank => {
            "fill it in the export, or write if_blank = \"…\" for this field in the mapping"
        }
        TextFact::AboveUnknown => "the row above, corrected in the export",
        TextFact::ErrorCell => "the value that the formula should have given; correct it in the workbook",
        TextFact::TurnedIntoDate(Before::Text) => {
            "the text as it was; if these are dates, write dates = \"iso\" for this field in the mapping"
        }
        TextFact::TurnedIntoDate(Before::Number) => "the number as it was",
        TextFact::DigitsLost { .. } => {
            "the full number; export it again with the column as text; if the zeros are right, write rounded_digits = \"keep\" for this field in the mapping"
        }
        TextFact::DigitsMayBeLost | TextFact::PowerOfTen { .. } => {
            "the full number; export it again with the column as text"
        }
        TextFact::WrongDigits { wanted, .. } => return format!("exactly {wanted} digits").into(),
        TextFact::LostCharacter => "the value as it was; check the encoding, or export again",
        TextFact::ControlCharacter(_) => "the text without it",
        TextFact::QuestionMark => "the word as it was; export again in UTF-8",
        TextFact::DecodedWrongly => "the text as it was; check the encoding, or export again",
        TextFact::MixedAlphabets(_) => "letters of one alphabet in each word",
        TextFact::TooLong { most, .. } => return format!("{most} characters or fewer").into(),
        TextFact::WrongPattern { pattern } => return format!("the form {pattern}").into(),
        TextFact::NoPlaceLeft { .. } => {
            "fewer values, or rest = \", \" in the mapping of the last field, which then takes what is left over"
        }
        TextFact::NotInForm { .. } => "the value in that form, or the form corrected in the mapping (part)",
        TextFact::SeveralParts { .. } => {
            "say in the mapping what a part is made of, as {postcode:digits} or {town:word}"
        }
        TextFact::NotLookedUp { near: Some(near), .. } => {
            return format!("a row for it in that file, or the value corrected; nearest there: {near}")
                .into();
        }
        TextFact::NotLookedUp { .. } => "a row for it in that file, or the value corrected",
        TextFact::LookUpUnclear { .. } => "one row for each, in that file, or one more column in by",
    };
    right.into()
}
