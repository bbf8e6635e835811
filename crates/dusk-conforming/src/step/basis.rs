//! What a step rests on, as data; `wording` makes the words.

use jiff::civil::Date;

use super::Step;
use dusk_description::HowFound;
use dusk_evidence::Missing;
use dusk_mapping::{TextForm, Which};
use dusk_values::{DateOrder, Rounding, UnitConversion};

/// What a step rests on.
#[derive(Debug, Clone, PartialEq)]
pub enum Basis {
    /// The mapping puts the same into every record.
    Constant,
    /// The mapping says what stands for a blank cell.
    IfBlank,
    /// The mapping takes what stands above a blank cell.
    FillDown,
    /// The target makes the field of others.
    MadeOf,
    /// The mapping joins columns.
    Join,
    /// The first of several columns that is not blank.
    FirstOf {
        /// Its heading.
        heading: String,
    },
    /// The nth of several columns that are not blank.
    Filled {
        /// Its heading; empty where what is left over stands behind it.
        heading: String,
        /// Which.
        nth: usize,
    },
    /// A number that is reckoned from columns.
    WorkedOut {
        /// How, as the mapping has it.
        written: String,
    },
    /// Those of several columns that are not blank.
    Together {
        /// How many are not.
        filled: usize,
        /// How many there are.
        of: usize,
    },
    /// Columns that say true.
    Flags,
    /// Another file.
    LookUp {
        /// The column that the value is from.
        take: String,
        /// Its row.
        row: u64,
        /// The file.
        file: String,
    },
    /// The form of a cell of which a part is taken.
    Part {
        /// The form as it was written.
        form: String,
    },
    /// The mapping says that a word stands for nothing.
    BlankWord {
        /// The word.
        word: String,
    },
    /// The mapping says that a mark stands for a line break.
    LineBreakMark {
        /// The mark.
        mark: String,
    },
    /// The mapping wants a form of the text.
    TextForm(TextForm),
    /// White space at the ends.
    Ends {
        /// What stood before the text.
        before: String,
        /// What stood behind it.
        behind: String,
    },
    /// Spaces that are not the ordinary one.
    Spaces {
        /// How many.
        count: usize,
        /// Whether each of them is a no-break space.
        all_no_break: bool,
    },
    /// The mapping makes line breaks spaces.
    LineBreaks {
        /// How many.
        count: usize,
    },
    /// The text was UTF-8 and was read as something else.
    WronglyDecoded {
        /// As what.
        encoding: String,
    },
    /// Characters that nobody sees.
    Hidden(Vec<char>),
    /// Letters and their accents look the same together.
    Composed,
    /// The mapping straightens quotes.
    Quotes,
    /// An apostrophe keeps a number text in a spreadsheet program.
    TextMark,
    /// The dictionary says how many digits there always are.
    DigitsOfDictionary {
        /// How many.
        digits: usize,
    },
    /// Nothing but zeros behind the point.
    ZerosBehindPoint,
    /// A power of ten of which no digit is missing.
    WholePower,
    /// The only code that a spreadsheet program could have changed into the value.
    OnlyCodeBefore {
        /// What such a program did to it.
        lost: Lost,
        /// The code list.
        list: String,
    },
    /// The same number, exact, before it is rounded.
    Exact,
    /// The same number.
    PlainNotation,
    /// The mapping rounds.
    Rounded {
        /// How.
        how: Option<Rounding>,
        /// To how many digits after the point.
        decimals: u32,
    },
    /// One unit becomes another.
    Converted(UnitConversion),
    /// A date's or a time's form.
    Date(Box<DateBasis>),
    /// The target takes a part of a date.
    PartOfDate {
        /// What is missing.
        missing: Missing,
    },
    /// A word means true or false.
    Means {
        /// The word.
        word: String,
        /// Which.
        value: bool,
    },
    /// Whether one value is among several.
    Among {
        /// The value.
        wanted: String,
        /// Whether it is.
        is_there: bool,
    },
    /// A code list.
    Code {
        /// How the code was found there.
        how: HowFound,
        /// The list.
        list: String,
        /// The code's label.
        label: String,
    },
    /// The one file of a folder that is called so.
    File {
        /// The folder.
        folder: String,
    },
    /// What the target holds already.
    Known {
        /// The column of its values.
        column: String,
        /// Their file.
        file: String,
        /// Whether zeros were put back.
        had_zeros: bool,
    },
    /// A line of a crosswalk.
    Crosswalk {
        /// Who decided it.
        by: String,
        /// When.
        on: String,
    },
    /// What the target holds.
    Beside(BesideBasis),
    /// The target's layout of several codes.
    Codes {
        /// Each code with what it rests on.
        each: Vec<(String, Basis)>,
        /// How they are laid out.
        layout: LaidOut,
    },
}

/// Why a value is sent for what the target holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum BesideBasis {
    /// The source says nothing, which leaves alone what the target holds.
    BlankLeaves,
    /// The source says nothing, and the mapping says that this clears what the target holds.
    Clears,
    /// The field is set for new records only.
    OnlyWhenNew,
    /// The target has the record's key in this spelling.
    Key,
    /// The identifier that the target has given to the record.
    Identifier,
    /// What is to be done with the record.
    Operation,
    /// Another row of the same key says it, and the mapping makes one record of them.
    Combined,
}

/// What a spreadsheet program did to a code.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Lost {
    /// It was read as a power of ten.
    Power,
    /// It took leading zeros away.
    Zeros,
    /// It made a date of it.
    Date,
}

/// How several codes stand in the upload file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum LaidOut {
    /// In one column, with this between them.
    Joined(String),
    /// In a column each.
    ColumnPerCode,
    /// One after the other in numbered columns.
    Numbered,
}

/// What the reading of a date or a time rests on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DateBasis {
    /// How it was read.
    pub how: HowRead,
    /// The day that was read; none for a time of day.
    pub day: Option<Date>,
    /// From which clock to which it was brought.
    pub clocks: Option<(String, String)>,
    /// What is to be said of its time.
    pub of_time: Option<&'static str>,
}

/// How a date or a time was read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum HowRead {
    /// By a pattern of the mapping.
    Pattern(String),
    /// In the order that the column proves.
    Proven(DateOrder),
    /// In the order that the mapping names for the column.
    Mapping(DateOrder),
    /// In the order that it names for some of its values.
    Where {
        /// Which values.
        which: Which,
        /// The order.
        order: DateOrder,
    },
    /// Its form leaves one reading.
    Form,
}

/// The reasons by their words, in which they wait on the disk.
const BESIDE: [(&str, BesideBasis); 7] = [
    ("blank", BesideBasis::BlankLeaves),
    ("clears", BesideBasis::Clears),
    ("new", BesideBasis::OnlyWhenNew),
    ("key", BesideBasis::Key),
    ("identifier", BesideBasis::Identifier),
    ("operation", BesideBasis::Operation),
    ("combined", BesideBasis::Combined),
];

impl BesideBasis {
    /// The word for it.
    pub fn word(self) -> &'static str {
        BESIDE.iter().find(|(_, basis)| *basis == self).map_or("", |(word, _)| word)
    }

    /// The one that a word is for.
    pub fn named(word: &str) -> Option<Self> {
        BESIDE.iter().find(|(known, _)| *known == word).map(|(_, basis)| *basis)
    }
}

impl Basis {
    /// The step that rests on it.
    pub fn step(&self) -> Step {
        match self {
            Self::Constant => Step::Constant,
            Self::IfBlank => Step::IfBlank,
            Self::FillDown => Step::FillDown,
            Self::MadeOf => Step::MadeOf,
            Self::Join => Step::Join,
            Self::FirstOf { .. } => Step::FirstOf,
            Self::Filled { .. } => Step::Filled,
            Self::WorkedOut { .. } => Step::WorkedOut,
            Self::Together { .. } => Step::Together,
            Self::Flags => Step::Flags,
            Self::LookUp { .. } => Step::LookUp,
            Self::Part { .. } => Step::Part,
            Self::BlankWord { .. } => Step::Blank,
            Self::LineBreakMark { .. } => Step::LineBreakMark,
            Self::TextForm(_) => Step::TextForm,
            Self::Ends { .. } => Step::Trim,
            Self::Spaces { .. } => Step::Spaces,
            Self::LineBreaks { .. } => Step::LineBreaks,
            Self::WronglyDecoded { .. } => Step::Decoding,
            Self::Hidden(_) => Step::Hidden,
            Self::Composed => Step::Letters,
            Self::Quotes => Step::Quotes,
            Self::TextMark => Step::TextMark,
            Self::DigitsOfDictionary { .. }
            | Self::ZerosBehindPoint
            | Self::WholePower
            | Self::OnlyCodeBefore { .. } => Step::Digits,
            Self::Exact | Self::PlainNotation => Step::Number,
            Self::Rounded { .. } => Step::Round,
            Self::Converted(_) => Step::Unit,
            Self::Date(_) | Self::PartOfDate { .. } => Step::Date,
            Self::Means { .. } | Self::Among { .. } => Step::Boolean,
            Self::Code { .. } | Self::File { .. } | Self::Known { had_zeros: false, .. } => Step::Code,
            Self::Known { had_zeros: true, .. } => Step::Digits,
            Self::Crosswalk { .. } => Step::Crosswalk,
            Self::Beside(BesideBasis::Combined) => Step::Combined,
            Self::Beside(_) => Step::Beside,
            Self::Codes { .. } => Step::Codes,
        }
    }
}
