//! The kinds of finding: each is defined here once, with its code, its severity and its
//! explanation, so that messages, files and documents say the same.

use serde::Serialize;

/// Whether a finding keeps the record out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// The record is kept out.
    Reject,
    /// The record goes in; someone should look.
    Warn,
    /// The record goes in; it is only said.
    Note,
}

impl Severity {
    /// The word in files and messages.
    pub fn word(self) -> &'static str {
        match self {
            Self::Reject => "reject",
            Self::Warn => "warn",
            Self::Note => "note",
        }
    }
}

/// What one decision would settle.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Grouping {
    /// Each wrong value of a field is a decision of its own.
    Value,
    /// One decision settles the whole field, whatever the values.
    Field,
}

/// What settles a finding, where one decision can.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SettledBy {
    /// A line of the field's crosswalk: the value is none of a list.
    ListLine,
    /// A line of the field's crosswalk, where the value stands in several rows.
    ValueLine,
    /// A key of the mapping.
    MappingKey,
    /// The row kept out.
    KeepOut,
    /// Its own cell or row, corrected.
    Cell,
}

macro_rules! kinds {
    ($($(#[doc = $doc:literal])* $name:ident = $code:literal, $severity:ident, by $grouping:ident, settled by $settled:ident, $title:literal;)*) => {
        /// A kind of finding.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Kind {
            $($(#[doc = $doc])* $name,)*
        }

        impl Kind {
            /// Every kind, in the order of the documentation.
            pub const ALL: &'static [Self] = &[$(Self::$name,)*];

            /// The stable code in files and messages.
            pub fn code(self) -> &'static str {
                match self { $(Self::$name => $code,)* }
            }

            /// Whether it keeps the record out.
            pub fn severity(self) -> Severity {
                match self { $(Self::$name => Severity::$severity,)* }
            }

            /// What one decision would settle.
            pub fn grouping(self) -> Grouping {
                match self { $(Self::$name => Grouping::$grouping,)* }
            }

            /// What settles it.
            pub fn settled_by(self) -> SettledBy {
                match self { $(Self::$name => SettledBy::$settled,)* }
            }

            /// What values of this kind have in common, in a few words.
            pub fn title(self) -> &'static str {
                match self { $(Self::$name => $title,)* }
            }

            /// What it means and what to do, for help and documents.
            pub fn explanation(self) -> &'static str {
                match self { $(Self::$name => concat!($($doc, "\n",)*).trim_ascii(),)* }
            }
        }
    };
}

kinds! {
    /// The row has fewer cells than the header. Which cell is missing cannot be known, so none is
    /// moved. Mend the row in the export.
    RowTooShort = "row-too-short", Reject, by Field, settled by Cell, "rows with too few cells";
    /// The row has more cells than the header, mostly because a value holds the delimiter and is
    /// not quoted. None is moved. Mend the row in the export.
    RowTooLong = "row-too-long", Reject, by Field, settled by Cell, "rows with too many cells";
    /// Something other than a delimiter follows a closing quote, so where the cell ends is not
    /// certain. Double the quotes inside a quoted cell.
    Misquoted = "misquoted", Reject, by Field, settled by Cell, "rows with a quote that is not doubled";
    /// A quote opens a cell and is never closed. The row was ended with its line, so that the rows
    /// after it are read as what they are. Close or remove the quote in the export.
    UnclosedQuote = "unclosed-quote", Reject, by Field, settled by Cell, "rows with a quote that is never closed";
    /// A record of a record file (JSON, JSON Lines, XML, ISO 2709) is damaged: it is not written as such files are, names
    /// a value twice, or holds the mark that is put between several values. All other records are read. Mend it
    /// where it comes from, and export it again; another mark is named by `several` under `[source]`.
    DamagedRecord = "damaged-record", Reject, by Field, settled by Cell, "records that cannot be read";
    /// A quoted cell of several lines holds a line that would be a whole row. A quote that was not
    /// closed may have swallowed it; look at the row in the export.
    RowsInCell = "rows-in-cell", Warn, by Field, settled by Cell, "cells that may have swallowed rows";
    /// An unquoted delimiter inside a value split the row, and the dictionary leaves exactly one way
    /// to put it together again, which was taken.
    RowRejoined = "row-rejoined", Warn, by Field, settled by Cell, "rows that a delimiter inside a value had split";
    /// The row repeats the header, as at the top of a printed page. It holds no record.
    RepeatedHeader = "repeated-header", Note, by Field, settled by Cell, "rows that repeat the header";
    /// The row begins with words that the mapping names as those of a closing line (`closing`). It
    /// holds no record.
    ClosingLine = "closing-line", Note, by Field, settled by Cell, "closing lines";
    /// Rows of the sheet are hidden in the spreadsheet program. They are read like all others.
    HiddenRows = "hidden-rows", Warn, by Value, settled by Cell, "hidden rows, read like all others";
    /// Cells of the sheet are merged. Only the first cell of each range holds the value, the others
    /// are blank.
    MergedCells = "merged-cells", Warn, by Value, settled by Cell, "merged cells";
    /// The cell holds an error of the spreadsheet program instead of a value: typed as one in a workbook, or
    /// as "#N/A" and the like in delimited text. A crosswalk, or `blank`, says what stands for it.
    ErrorCell = "error-cell", Reject, by Value, settled by ValueLine, "errors of the spreadsheet program";
    /// A spreadsheet program made a date of the value, and what it was before is not certain.
    /// Restored only where the code list leaves one reading. Export again with the column as text.
    TurnedIntoDate = "turned-into-date", Reject, by Value, settled by Cell, "turned into dates";
    /// The number has more than 15 digits, and all behind the 15th are zeros: a spreadsheet program
    /// keeps no more than 15, the others are lost. If they are right, write
    /// `rounded_digits = "keep"`.
    DigitsLost = "digits-lost", Reject, by Field, settled by MappingKey, "digits lost behind the 15th";
    /// The number has 16 digits and ends in zero, as it would if a spreadsheet program had lost the
    /// last one.
    DigitsMayBeLost = "digits-may-be-lost", Warn, by Field, settled by Cell, "numbers that may have lost their last digit";
    /// A question mark stands inside a word, as a program leaves it for a letter that its encoding
    /// does not have. The letter cannot be restored from this file.
    QuestionMark = "question-mark", Warn, by Value, settled by Cell, "question marks inside words";
    /// Part of the text looks as if it had been decoded wrongly once and saved, but it cannot be
    /// undone exactly.
    DecodedWrongly = "decoded-wrongly", Warn, by Value, settled by Cell, "decoded wrongly once, not exactly reversible";
    /// A word holds letters of two alphabets that look alike.
    MixedAlphabets = "mixed-alphabets", Warn, by Value, settled by Cell, "words with letters of two alphabets";
    /// The text holds a control character, which no reader sees.
    ControlCharacter = "control-character", Warn, by Value, settled by Cell, "control characters";
    /// A character was lost: the bytes do not fit the encoding, or an earlier program put the
    /// replacement character in. It cannot be restored from this file.
    LostCharacter = "lost-character", Reject, by Value, settled by ValueLine, "lost characters";
    /// The field must be filled and is blank. Fill it in the export, or give the mapping
    /// `if_blank` or a `constant`.
    RequiredBlank = "required-blank", Reject, by Value, settled by MappingKey, "required, but blank";
    /// The value is not a number.
    NotANumber = "not-a-number", Reject, by Value, settled by ValueLine, "not numbers";
    /// The number can be read in two ways ("1,204" is 1204 or 1.204). Say in the mapping which
    /// mark is which: `decimal_mark`, `thousands_mark`.
    NumberUndecided = "number-undecided", Reject, by Field, settled by MappingKey, "numbers that can be read in two ways";
    /// The number has a part after the point where the target wants a whole number, or more
    /// decimals than the target holds. Losing digits is a decision: write `round` in the mapping.
    NeedsRounding = "needs-rounding", Reject, by Field, settled by MappingKey, "more decimals than the target holds";
    /// The number has more digits than can be kept exactly.
    NumberTooLong = "number-too-long", Reject, by Value, settled by Cell, "numbers with too many digits";
    /// The cell names another unit than the mapping does.
    UnitDiffers = "unit-differs", Reject, by Value, settled by ValueLine, "numbers in another unit";
    /// Nothing proves which unit the column's numbers are in: no heading, no mapping and no description names it,
    /// or they contradict one another. Numbers go in only once it is known. Write `unit` into the mapping.
    UnitUndecided = "unit-undecided", Reject, by Field, settled by MappingKey, "numbers whose unit is not known";
    /// The value is not made of the number of digits that the dictionary demands, and lost
    /// leading zeros do not explain it.
    WrongDigits = "wrong-digits", Reject, by Value, settled by ValueLine, "not the right number of digits";
    /// A long number was turned into a power of ten (1.23E+11) by a spreadsheet program; the
    /// digits are lost and are not made up. Export again with the column as text.
    PowerOfTen = "power-of-ten", Reject, by Value, settled by Cell, "turned into powers of ten, digits lost";
    /// The text is longer than the target holds.
    TooLong = "too-long", Reject, by Field, settled by Cell, "longer than the target holds";
    /// The text does not have the form that the dictionary demands.
    WrongPattern = "wrong-pattern", Reject, by Value, settled by ValueLine, "not of the form demanded";
    /// The number is below the smallest that the dictionary allows.
    BelowMinimum = "below-minimum", Reject, by Field, settled by Cell, "below the smallest number allowed";
    /// The number is above the largest that the dictionary allows.
    AboveMaximum = "above-maximum", Reject, by Field, settled by Cell, "above the largest number allowed";
    /// The value is not written as a date or time that can be read with certainty.
    NotADate = "not-a-date", Reject, by Value, settled by ValueLine, "not dates that can be read";
    /// The value could be two different days, and nothing says which: neither the mapping nor a
    /// proof speaks of values written like this. Write `order` or `order_where` in the mapping.
    DateUndecided = "date-undecided", Reject, by Field, settled by MappingKey, "dates that can be read in two ways";
    /// The mapping names the order of these dates, and no value of these files proves it: each could be
    /// another day. Compare the days that are shown with what whoever made the export means.
    OrderNotProven = "order-not-proven", Warn, by Field, settled by MappingKey, "dates whose order nothing in the file proves";
    /// The value is a whole number that may count days, as spreadsheet programs keep dates. Write
    /// `day_count` in the mapping.
    DayCount = "day-count", Reject, by Field, settled by MappingKey, "dates written as counts of days";
    /// There is no such day in the calendar, or no such time of day.
    ImpossibleDate = "impossible-date", Reject, by Value, settled by ValueLine, "no days of the calendar";
    /// The year has two digits, and the century is nowhere said. Write `years_from` in the mapping.
    CenturyUndecided = "century-undecided", Reject, by Field, settled by MappingKey, "years of two digits, century not said";
    /// The years of two digits, read in the hundred years that `years_from` begins, stand at both ends of them
    /// or at one, with decades in which there are none: some may be of another century. Compare the first and
    /// the last day with what is likely.
    CenturyDoubtful = "century-doubtful", Warn, by Field, settled by MappingKey, "years of two digits at the edge of their hundred";
    /// The cell has a time of day, and the target takes the day only. Losing it is a decision:
    /// write `drop_time = true` in the mapping.
    TimeOfDay = "time-of-day", Reject, by Field, settled by MappingKey, "days with a time that would be lost";
    /// The time names how far its clock is from UTC, and the target does not say which clock its times are
    /// of: write `zone` for the field in `target.toml`. For a day alone write `zone` in the mapping: which
    /// clock says which day it is.
    OffsetUnclear = "offset-unclear", Reject, by Field, settled by MappingKey, "times of a clock that cannot be compared with the target's";
    /// The clock of the source's time zone showed this time twice or never, because it was changed then, so
    /// that it cannot be brought to the target's clock.
    TimeOfChange = "time-of-change", Reject, by Value, settled by Cell, "times that a clock showed twice or never";
    /// The date is before the first that the dictionary allows.
    TooEarly = "too-early", Reject, by Field, settled by Cell, "before the first day allowed";
    /// The date is after the last that the dictionary allows.
    TooLate = "too-late", Reject, by Field, settled by Cell, "after the last day allowed";
    /// The value is not one of the words for true and false.
    NotABoolean = "not-a-boolean", Reject, by Value, settled by ListLine, "no words for true or false";
    /// The value is no code, label or other name in the code list, and no crosswalk line
    /// translates it.
    NotACode = "not-a-code", Reject, by Value, settled by ListLine, "no codes of the list";
    /// The value could mean more than one code. A crosswalk line settles which.
    CodeUndecided = "code-undecided", Reject, by Value, settled by ListLine, "could mean several codes";
    /// The code was retired. Its successor is never put in unasked.
    CodeRetired = "code-retired", Reject, by Value, settled by ListLine, "codes that were retired";
    /// The code exists, but not inside the code that its parent field has in this row.
    CodeOutsideParent = "code-outside-parent", Reject, by Value, settled by ListLine, "codes that are not valid inside their parent";
    /// The code depends on another field, which is blank in this row.
    CodeWithoutParent = "code-without-parent", Reject, by Value, settled by Cell, "codes whose parent is blank";
    /// The record has more codes than the target has columns for them. Which ones are left out is
    /// nobody's to guess.
    TooManyCodes = "too-many-codes", Reject, by Value, settled by Cell, "more codes than columns";
    /// There is no such file in the folder that the description names.
    FileMissing = "file-missing", Reject, by Value, settled by Cell, "files that are not there";
    /// The file has an ending that the target does not take.
    FileEnding = "file-ending", Reject, by Value, settled by Cell, "files of another kind";
    /// The file is larger than the target takes.
    FileTooLarge = "file-too-large", Reject, by Value, settled by Cell, "files that are too large";
    /// No accepted record names the file, although it is in the folder.
    FileNotNamed = "file-not-named", Warn, by Field, settled by Cell, "files that no record names";
    /// The value is not among those that the target holds already. The distinct ones are listed in
    /// `new-values.csv`, ready to be created there first.
    UnknownReference = "unknown-reference", Reject, by Value, settled by ListLine, "values that the target does not hold";
    /// The list is open (`unmatched = "new-term"`), and the value is not a term of it yet. It waits for
    /// somebody's yes (`dusk crosswalk add FIELD VALUE --new-term`), and is listed in `new-values.csv`.
    NewTerm = "new-term", Reject, by Value, settled by ListLine, "new terms of an open list, not allowed yet";
    /// The value is a new term of an open list, and somebody has allowed it (`(new term)` in a crosswalk). The
    /// terms are listed in `decided-values.csv`.
    TermAllowed = "term-allowed", Note, by Field, settled by Cell, "new terms of an open list, as was allowed";
    /// Nothing matches the value, and the field is left blank, as the description says (`unmatched`). The
    /// values are listed in `new-values.csv`.
    LeftBlank = "left-blank", Warn, by Value, settled by Cell, "values that nothing matches, left blank";
    /// Nothing matches the value, and it is sent as it is, as the description says (`unmatched`).
    KeptUnmatched = "kept-unmatched", Warn, by Value, settled by Cell, "values that nothing matches, kept as they are";
    /// The cell holds several parts, and does not have the form that the mapping names (`part`), or can
    /// be taken apart in several ways.
    NotInForm = "not-in-form", Reject, by Value, settled by Cell, "values that cannot be taken apart";
    /// The file in which the mapping looks values up (`look_up`) has no row for this one.
    NotLookedUp = "not-looked-up", Reject, by Value, settled by Cell, "values that the other file does not have";
    /// The file in which the mapping looks values up has two rows for this one, and they say different
    /// things.
    LookUpUnclear = "look-up-unclear", Reject, by Value, settled by Cell, "values with two answers in the other file";
    /// The cell is blank and would be filled from above (`fill_down`), but the row above could not be
    /// told into cells.
    AboveUnknown = "above-unknown", Reject, by Field, settled by Cell, "blank cells below a torn row";
    /// Somebody decided that this value is left blank (`(leave blank)` in a crosswalk). The values are listed in
    /// `decided-values.csv`, to be cleaned up later.
    DecidedBlank = "decided-blank", Note, by Field, settled by Cell, "values that are left blank, as was decided";
    /// Somebody decided that records with this value are kept out (`(keep out)` in a crosswalk), or that this row is,
    /// so it is left out. The values are listed in `decided-values.csv`.
    KeptOut = "kept-out", Note, by Value, settled by Cell, "values that keep their records out, as was decided";
    /// The row does not satisfy the rule of rows that hold a record (`keep`), so it is left out.
    NotKept = "not-kept", Note, by Field, settled by Cell, "rows that the mapping leaves out";
    /// The rule of rows that hold a record (`keep`) speaks of a cell that is blank here, so it is not
    /// certain whether the row does. Write into the rule what a blank means.
    KeepUndecided = "keep-undecided", Reject, by Field, settled by Cell, "rows that may hold a record or not";
    /// None of the columns that repeat holds anything in this row, so it makes no record.
    NothingRepeated = "nothing-repeated", Note, by Field, settled by Cell, "rows in which nothing repeats";
    /// The target holds the record already, with another value in a field that may be set only once
    /// (`set_once`).
    SetOnce = "set-once", Reject, by Field, settled by Cell, "values that the target would have to change, and may not";
    /// The target holds the record, and writes its key in another way: in capitals, with blanks, or with zeros before
    /// its digits. The record is taken for that one, and sent with the key that the target has.
    KeyWritten = "key-written-otherwise", Warn, by Field, settled by Cell, "keys that the target writes in another way";
    /// The target holds this value, it has to be sent as it is, and the upload file cannot hold it: its encoding lacks a
    /// character, or it never quotes. Correct that record in the target, or write another value into the export.
    HeldUnwritable = "held-cannot-be-written", Reject, by Value, settled by KeepOut, "values of the target that the upload file cannot hold";
    /// The target's list has this key more than once, so it is not certain which record is meant. Mend the
    /// target first, or keep this record out.
    HeldTwice = "held-twice", Reject, by Field, settled by KeepOut, "keys that the target holds more than once";
    /// The target holds this record already, and takes new records only (`send = "new"` with `known = "reject"`).
    HeldAlready = "held-already", Reject, by Field, settled by KeepOut, "records that the target holds already";
    /// An earlier row is the same record of the target, though its key is written in another way.
    FoundTwice = "found-twice", Reject, by Field, settled by KeepOut, "records that an earlier row is already";
    /// Only the target hands this identifier out (`given_by_target`), and its list does not have this one. Leave it
    /// blank for a new record.
    UnknownIdentifier = "unknown-identifier", Reject, by Value, settled by Cell, "identifiers that the target has not handed out";
    /// The identifier is that of one record of the target, and the fields by which records are found again
    /// (`found_by`) are those of another. One of the two was changed by hand.
    IdentifierOfAnother = "identifier-of-another", Reject, by Value, settled by Cell, "identifiers that belong to another record";
    /// Another record of the target has this value, and no two may have the same (`unique`).
    ValueTaken = "value-taken", Reject, by Value, settled by Cell, "values that another record of the target has";
    /// An earlier row has this value, and no two records may have the same (`unique`).
    ValueTwice = "value-twice", Reject, by Value, settled by Cell, "values that an earlier row has already";
    /// The table that is loaded refuses the record: a key that is there already, a reference that leads nowhere, a
    /// value that its column cannot hold as it is. Each record was tried, and nothing stays of that.
    TableRefuses = "table-refuses", Reject, by Field, settled by Cell, "records that the table refuses";
    /// A batch has sent this record, the target refused it and said why, and it says the same still. Correct the row, or
    /// keep it out; a record that says something else is sent again.
    TargetRefused = "target-refused", Reject, by Value, settled by Cell, "records that the target has refused";
    /// A batch has sent this row with another key, and the target has that record, or has not said what became of it. The
    /// row would be there twice. Correct that record in the target, and keep the row out.
    SentUnderOtherKey = "sent-under-another-key", Reject, by Field, settled by KeepOut, "rows that were sent with another key";
    /// Rows of one key are made one record (`same_key`), and this one went into that of another row.
    MergedInto = "merged-into", Note, by Field, settled by Cell, "rows that went into the record of another row";
    /// Rows of one key are made one record (`same_key = "combine"`), and two of them say different things here. None of
    /// them is taken. Correct one of the two, or keep a row out.
    Contradicted = "contradicted", Reject, by Field, settled by KeepOut, "rows of one key that say different things";
    /// An earlier row has the same key and says something else in at least one field. Where rows of
    /// one key are merged, they have to say the same.
    KeyWithOtherFacts = "key-with-other-facts", Reject, by Field, settled by Cell, "keys of which another row says something else";
    /// An earlier row has the same key. The later one is kept out.
    DuplicateKey = "duplicate-key", Reject, by Field, settled by KeepOut, "keys that an earlier row has already";
    /// A rule of the target does not hold in this row.
    RuleBroken = "rule-broken", Reject, by Field, settled by Cell, "rows that break this rule";
    /// A rule of the target with `severity = "warn"` does not hold in this row.
    RuleNotMet = "rule-not-met", Warn, by Field, settled by Cell, "rows that do not meet this rule";
    /// A rule over all records, or over each group of them, does not hold. No batch is written as long
    /// as that is so, since no single row is to blame.
    BatchRuleBroken = "batch-rule-broken", Reject, by Value, settled by Cell, "rules over the whole batch that do not hold";
    /// A rule over all records, or over each group of them, with `severity = "warn"` does not hold.
    BatchRuleNotMet = "batch-rule-not-met", Warn, by Value, settled by Cell, "rules over the whole batch that are not met";
    /// The value holds a character that the upload file's encoding does not have.
    CannotEncode = "cannot-encode", Reject, by Value, settled by Cell, "characters that the upload file's encoding does not have";
    /// The upload file never quotes, and the value holds the delimiter, a quote or a line break.
    CannotQuote = "cannot-quote", Reject, by Value, settled by Cell, "values that would need quotes";
    /// Several columns fill fields one after the other (`filled`), and more of them are filled than there are fields. Nothing
    /// is dropped: `rest` in the mapping of the last field has it take what is left over.
    NoPlaceLeft = "no-place-left", Reject, by Value, settled by Cell, "values that no field is left for";
    /// The upload file is fixed-width text, and the value takes more characters than its column has (`width`). Nothing is
    /// ever cut off.
    TooWide = "too-wide", Reject, by Value, settled by Cell, "values that take more characters than their column has";
    /// The source has a column that the mapping neither uses nor leaves out on purpose. Map it, or
    /// name it under `[leave_out]`.
    ColumnNotMapped = "column-not-mapped", Warn, by Value, settled by Cell, "columns that the mapping does not speak of";
    /// Nothing feeds the field, so it stays blank in every record. That is allowed, since the
    /// field is not required.
    FieldNotFed = "field-not-fed", Note, by Value, settled by Cell, "fields that nothing feeds";
}

#[cfg(test)]
mod tests {
    use super::Kind;

    #[test]
    fn every_kind_has_a_code_of_its_own_and_an_explanation() {
        for (index, kind) in Kind::ALL.iter().enumerate() {
            let code = kind.code();
            assert!(code.chars().all(|c| c.is_ascii_lowercase() || c == '-'), "{code}");
            assert!(Kind::ALL[..index].iter().all(|other| other.code() != code), "{code} twice");
            assert!(kind.explanation().ends_with('.'), "{code} is not explained");
        }
    }
}
