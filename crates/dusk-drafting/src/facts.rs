//! What a dictionary's words say of a field, as data.

use dusk_values::ValueType;

/// What a field holds, as far as its dictionary's words say so.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum FieldKind {
    Text,
    Integer,
    Decimal,
    /// A number; whether it may have decimals is not said.
    Number,
    Date,
    DateTime,
    Time,
    Boolean,
    Code,
    Codes,
}

impl FieldKind {
    const ALL: [Self; 10] = [
        Self::Text,
        Self::Integer,
        Self::Decimal,
        Self::Number,
        Self::Date,
        Self::DateTime,
        Self::Time,
        Self::Boolean,
        Self::Code,
        Self::Codes,
    ];

    /// The kind that a word of `target.toml` stands for.
    pub(super) fn of_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.word() == word)
    }

    pub(super) fn word(self) -> &'static str {
        match self {
            Self::Text => "text",
            Self::Integer => "integer",
            Self::Decimal | Self::Number => "decimal",
            Self::Date => "date",
            Self::DateTime => "datetime",
            Self::Time => "time",
            Self::Boolean => "boolean",
            Self::Code => "code",
            Self::Codes => "codes",
        }
    }
}

/// One thing that a cell says of a field.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum FieldFact {
    Kind(FieldKind),
    /// At most so many characters.
    Length(u64),
    /// Always so many digits.
    Digits(u64),
    /// So many digits, so many of them after the point.
    Precision(u64, u64),
    Decimals(u64),
    /// All decimals are written, be they zeros.
    AllDecimals,
    /// A Unicode date pattern and what it writes.
    Format(String, ValueType),
    /// The words for true and false.
    Words(String, String),
    Min(String),
    Max(String),
    NotBefore(String),
    NotAfter(String),
    /// A regular expression; false when it is only a likely reading of a mask.
    Pattern(String, bool),
    /// Codes and their labels.
    Codes(Vec<(String, String)>),
    /// The codes stand elsewhere, under this name.
    SeeList(String),
    Required(bool),
    /// It must be filled under a condition.
    Conditional(String),
    Unit(String),
    Separator(String),
    Key,
    /// A rule, with `_` for the field's name.
    Rule(String),
    /// Text that says something, but not in a way that can be made out.
    Unread(String),
}

/// Which column of the dictionary a cell stands in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum DictionaryColumn {
    Type,
    Length,
    Decimals,
    Required,
    /// The same the other way round: "Optional", "Nullable".
    Optional,
    Format,
    Allowed,
    Min,
    Max,
    Unit,
    Key,
}

/// Letters and digits only, in lower case.
pub(super) fn fold(text: &str) -> String {
    text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}
