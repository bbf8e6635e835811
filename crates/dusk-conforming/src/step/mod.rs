//! What was done to a value, and on what evidence.

mod basis;
mod wording;

pub use basis::{Basis, BesideBasis, DateBasis, HowRead, LaidOut, Lost};

/// A step by which a value changes. Each is a decision of the dictionary, the mapping, or a
/// crosswalk; there is no other way for a value to change.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Step {
    /// Put together from several columns.
    Join,
    /// Taken from a later column, because those before it are blank.
    FirstOf,
    /// Moved up, because columns before it are blank.
    Filled,
    /// Reckoned from several columns.
    WorkedOut,
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
    /// Text brought into capital letters, small ones, or initials.
    TextForm,
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
    /// Put together from several rows of one key.
    Combined,
    /// What the target holds is kept, or it is told what to do with the record.
    Beside,
    /// Several codes laid out as the target wants them.
    Codes,
}

/// The steps, each with its name in files and messages.
const STEPS: [(Step, &str); 34] = [
    (Step::Join, "join"),
    (Step::FirstOf, "first_of"),
    (Step::Filled, "filled"),
    (Step::WorkedOut, "worked_out"),
    (Step::Together, "together"),
    (Step::Flags, "flags"),
    (Step::LookUp, "look_up"),
    (Step::MadeOf, "made_of"),
    (Step::FillDown, "fill_down"),
    (Step::Part, "part"),
    (Step::Blank, "blank"),
    (Step::IfBlank, "if_blank"),
    (Step::Constant, "constant"),
    (Step::LineBreakMark, "line_break"),
    (Step::Decoding, "wrong_decoding"),
    (Step::Hidden, "hidden"),
    (Step::Letters, "letters"),
    (Step::Quotes, "quotes"),
    (Step::TextMark, "text_mark"),
    (Step::TextForm, "text_form"),
    (Step::Trim, "trim"),
    (Step::Spaces, "spaces"),
    (Step::LineBreaks, "line_breaks"),
    (Step::Digits, "digits"),
    (Step::Number, "number"),
    (Step::Unit, "unit"),
    (Step::Round, "round"),
    (Step::Date, "date"),
    (Step::Boolean, "boolean"),
    (Step::Code, "code"),
    (Step::Crosswalk, "crosswalk"),
    (Step::Combined, "combined"),
    (Step::Beside, "held"),
    (Step::Codes, "codes"),
];

impl Step {
    /// The step's name in files and messages.
    pub fn name(self) -> &'static str {
        STEPS.iter().find(|(step, _)| *step == self).map_or("", |(_, name)| name)
    }
}

/// One step that was taken.
#[derive(Debug, Clone, PartialEq)]
pub struct Taken {
    /// The value after it.
    pub after: String,
    /// What it rests on, which says which step it is.
    pub basis: Basis,
}

/// The steps taken with one value, in order. A run only needs to know whether there were any; who
/// wants to know which has the value conformed again with a trail that keeps them. So what a run
/// did and what is said about it cannot differ.
#[derive(Debug, Clone, Default, PartialEq)]
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

    /// The same trail, which keeps its steps from now on.
    pub(crate) fn kept(self) -> Self {
        Self { keeps: true, ..self }
    }

    /// Records a step.
    pub(crate) fn took(&mut self, after: &str, basis: impl FnOnce() -> Basis) {
        self.changed = true;
        if self.keeps {
            self.taken.push(Taken { after: after.to_owned(), basis: basis() });
        }
    }

    /// Whether its steps are kept.
    #[inline]
    pub(crate) fn keeps(&self) -> bool {
        self.keeps
    }

    /// Records that there was a step, where none is kept.
    #[inline]
    pub(crate) fn changed_somehow(&mut self) {
        self.changed = true;
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
        self.taken.iter().map(|taken| taken.basis.step().name()).collect::<Vec<_>>().join(" + ")
    }

    /// What the steps rest on, in order.
    pub fn evidence(&self) -> String {
        self.taken.iter().map(|taken| taken.basis.to_string()).collect::<Vec<_>>().join("; ")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_step_has_one_name() {
        let mut names: Vec<&str> = STEPS.iter().map(|(step, _)| step.name()).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), STEPS.len());
        // The last one of the enumeration, so that none before it was forgotten.
        assert_eq!(STEPS.len(), Step::Codes as usize + 1);
        assert!(STEPS.iter().enumerate().all(|(place, (step, _))| *step as usize == place));
    }
}
