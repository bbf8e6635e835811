//! Texts, and values of any type before they are read.

use crate::Kind;

/// What a value was before a spreadsheet program made a date of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Before {
    /// A text.
    Text,
    /// A number.
    Number,
}

/// What was found about a text, or about a value before it is read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum TextFact {
    /// The field must be filled.
    RequiredBlank,
    /// It would be filled from above, where the row cannot be told into cells.
    AboveUnknown,
    /// An error of the spreadsheet program.
    ErrorCell,
    /// A spreadsheet program made a date of it.
    TurnedIntoDate(Before),
    /// The digits behind the fifteenth are lost.
    DigitsLost {
        /// How many digits it has.
        digits: usize,
        /// How many are kept.
        kept: usize,
    },
    /// The last of sixteen digits may be lost.
    DigitsMayBeLost,
    /// It was turned into a power of ten.
    PowerOfTen {
        /// What it was if its last digit was 0, where one digit only is missing.
        if_zero: Option<String>,
    },
    /// It is not made of so many digits as are demanded.
    WrongDigits {
        /// How many it has; nothing where it is not made of digits only.
        digits: Option<usize>,
        /// How many are demanded.
        wanted: usize,
    },
    /// A character was lost.
    LostCharacter,
    /// It holds a control character.
    ControlCharacter(char),
    /// A question mark stands inside a word.
    QuestionMark,
    /// A part of it seems to have been decoded wrongly once.
    DecodedWrongly,
    /// A letter stands among letters of another alphabet.
    MixedAlphabets(char),
    /// It has too many characters.
    TooLong {
        /// How many it has.
        length: usize,
        /// How many the target holds.
        most: usize,
    },
    /// It does not have the form that the dictionary demands.
    WrongPattern {
        /// The pattern, as the description has it.
        pattern: String,
    },
    /// Fields take so many of several columns, and more of them are filled.
    NoPlaceLeft {
        /// How many fields take values.
        places: usize,
        /// What is left over.
        left: String,
    },
    /// It does not have the form of which a part is taken.
    NotInForm {
        /// The form.
        form: String,
    },
    /// It can be taken apart in several ways.
    SeveralParts {
        /// The form.
        form: String,
        /// The first readings of the part.
        readings: Vec<String>,
    },
    /// The other file has no row for it.
    NotLookedUp {
        /// The other file.
        file: String,
        /// The columns in which it is looked up.
        by: Vec<String>,
        /// How many values they have.
        values: usize,
        /// The one that is nearest, where one is near.
        near: Option<String>,
    },
    /// Two rows of the other file say different things.
    LookUpUnclear {
        /// The other file.
        file: String,
        /// The two rows.
        rows: [u64; 2],
    },
}

impl TextFact {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Self::RequiredBlank => Kind::RequiredBlank,
            Self::AboveUnknown => Kind::AboveUnknown,
            Self::ErrorCell => Kind::ErrorCell,
            Self::TurnedIntoDate(_) => Kind::TurnedIntoDate,
            Self::DigitsLost { .. } => Kind::DigitsLost,
            Self::DigitsMayBeLost => Kind::DigitsMayBeLost,
            Self::PowerOfTen { .. } => Kind::PowerOfTen,
            Self::WrongDigits { .. } => Kind::WrongDigits,
            Self::LostCharacter => Kind::LostCharacter,
            Self::ControlCharacter(_) => Kind::ControlCharacter,
            Self::QuestionMark => Kind::QuestionMark,
            Self::DecodedWrongly => Kind::DecodedWrongly,
            Self::MixedAlphabets(_) => Kind::MixedAlphabets,
            Self::TooLong { .. } => Kind::TooLong,
            Self::WrongPattern { .. } => Kind::WrongPattern,
            Self::NoPlaceLeft { .. } => Kind::NoPlaceLeft,
            Self::NotInForm { .. } | Self::SeveralParts { .. } => Kind::NotInForm,
            Self::NotLookedUp { .. } => Kind::NotLookedUp,
            Self::LookUpUnclear { .. } => Kind::LookUpUnclear,
        }
    }
}
