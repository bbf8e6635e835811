//! What was done to a value, and on what evidence.

/// A step by which a value changes. Each is a decision of the dictionary, the mapping, or a
/// crosswalk; there is no other way for a value to change.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Step {
    /// Put together from several columns.
    Join,
    /// Taken from a later column, because those before it are blank.
    FirstOf,
    /// Put together from those of several columns that are not blank.
    Together,
    /// Codes of the columns that say true.
    Flags,
    /// Found in another file.
    LookUp,
    /// Put together from other fields, as the target wants it.
    MadeOf,
    /// Taken from the row above.
    FillDown,
    /// One part of a cell that holds several.
    Part,
    /// A word that stands for a blank cell.
    Blank,
    /// Filled because the source is blank.
    IfBlank,
    /// The same text in every record.
    Constant,
    /// A mark that stands for a line break made one.
    LineBreakMark,
    /// Text that was decoded wrongly once put right.
    Decoding,
    /// Characters that nobody sees taken away.
    Hidden,
    /// Letters with separate accents made single letters.
    Letters,
    /// Curly quotes made straight.
    Quotes,
    /// The apostrophe taken away that keeps a number text in a spreadsheet program.
    TextMark,
    /// White space taken away at the ends.
    Trim,
    /// Unusual spaces made ordinary.
    Spaces,
    /// Line breaks made spaces.
    LineBreaks,
    /// Lost leading zeros put back.
    Digits,
    /// A number brought into plain notation.
    Number,
    /// Converted from one unit to another.
    Unit,
    /// Digits lost as the mapping says.
    Round,
    /// A date or a time brought into the target's form.
    Date,
    /// A word for true or false brought into the target's.
    Boolean,
    /// A code brought into its exact spelling, or found by its label or another name.
    Code,
    /// Translated by a crosswalk.
    Crosswalk,
    /// Several codes laid out as the target wants them.
    Codes,
}

impl Step {
    /// The step's name in files and messages.
    pub fn name(self) -> &'static str {
        match self {
            Self::Join => "join",
            Self::FirstOf => "first_of",
            Self::Together => "together",
            Self::Flags => "flags",
            Self::LookUp => "look_up",
            Self::MadeOf => "made_of",
            Self::FillDown => "fill_down",
            Self::Part => "part",
            Self::Blank => "blank",
            Self::IfBlank => "if_blank",
            Self::Constant => "constant",
            Self::LineBreakMark => "line_break",
            Self::Decoding => "wrong_decoding",
            Self::Hidden => "hidden",
            Self::Letters => "letters",
            Self::Quotes => "quotes",
            Self::TextMark => "text_mark",
            Self::Trim => "trim",
            Self::Spaces => "spaces",
            Self::LineBreaks => "line_breaks",
            Self::Digits => "digits",
            Self::Number => "number",
            Self::Unit => "unit",
            Self::Round => "round",
            Self::Date => "date",
            Self::Boolean => "boolean",
            Self::Code => "code",
            Self::Crosswalk => "crosswalk",
            Self::Codes => "codes",
        }
    }
}

/// One step that was taken.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Taken {
    /// Which step.
    pub step: Step,
    /// The value after it.
    pub after: String,
    /// What the step rests on, in words.
    pub evidence: String,
}

/// The steps taken with one value, in order. A run only needs to know whether there were any; who
/// wants to know which has the value conformed again with a trail that keeps them. So what a run
/// did and what is said about it cannot differ.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Trail {
    /// The steps, where they are kept.
    pub taken: Vec<Taken>,
    keeps: bool,
    changed: bool,
}

impl Trail {
    /// A trail that keeps its steps.
    pub(crate) fn keeping() -> Self {
        Self { keeps: true, ..Self::default() }
    }

    /// Records a step.
    pub(crate) fn took(&mut self, step: Step, after: &str, evidence: impl FnOnce() -> String) {
        self.changed = true;
        if self.keeps {
            self.taken.push(Taken { step, after: after.to_owned(), evidence: evidence() });
        }
    }

    /// An empty trail of the same mode.
    pub(crate) fn another(&self) -> Self {
        Self { keeps: self.keeps, ..Self::default() }
    }

    /// Adds the steps of another trail.
    pub(crate) fn append(&mut self, later: Self) {
        self.taken.extend(later.taken);
        self.changed |= later.changed;
    }

    /// True when any step was taken.
    pub fn changed(&self) -> bool {
        self.changed
    }

    /// Forgets every step.
    pub(crate) fn clear(&mut self) {
        self.taken.clear();
        self.changed = false;
    }

    /// The names of the steps, in order: "trim + code".
    pub fn steps(&self) -> String {
        self.taken.iter().map(|taken| taken.step.name()).collect::<Vec<_>>().join(" + ")
    }

    /// What the steps rest on, in order.
    pub fn evidence(&self) -> String {
        self.taken.iter().map(|taken| taken.evidence.as_str()).collect::<Vec<_>>().join("; ")
    }
}
