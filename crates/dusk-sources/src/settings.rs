//! What a mapping says of how its source is read, and what is known before it is opened.

use encoding_rs::Encoding;
use hashbrown::HashSet;

use super::position::Position;
use dusk_records::RecordChoice;
use dusk_workbooks::SheetChoice;

/// How a mapping says that its sources are to be read.
#[derive(Debug, Clone)]
pub struct SourceSettings {
    /// The encoding, where it is named.
    pub encoding: Option<&'static Encoding>,
    /// The encoding of lines that are not UTF-8, where some are.
    pub other_lines: Option<&'static Encoding>,
    /// The delimiter, where it is named.
    pub delimiter: Option<String>,
    /// The quote; empty when nothing is ever quoted.
    pub quote: String,
    /// What makes an ordinary character of a quote inside a quoted cell, where it is named.
    pub escape: Option<String>,
    /// What stands for a line break inside a cell.
    pub line_break: Option<String>,
    /// Which sheet of a workbook.
    pub sheet: Option<SheetChoice>,
    /// How a file of records is read.
    pub records: RecordChoice,
    /// Neither fixed-width text nor marks that nobody expects are looked for, as in what a target's owner supplies.
    pub only_usual_marks: bool,
    /// The columns of fixed-width text; none for every other source.
    pub positions: Vec<Position>,
    /// The first row of the header, from 1, where it is named.
    pub header_row: Option<u64>,
    /// How many rows the header takes.
    pub header_rows: u64,
    /// What closing lines begin with.
    pub closing: Vec<String>,
    /// Records are laid across columns.
    pub across: bool,
    /// Cells that are missing at the end of a row are blank.
    pub missing_are_blank: bool,
    /// Rows that a delimiter inside a value has split are put together, however many they are.
    pub rejoins: bool,
}

impl Default for SourceSettings {
    fn default() -> Self {
        Self {
            encoding: None,
            other_lines: None,
            delimiter: None,
            quote: "\"".into(),
            escape: None,
            line_break: None,
            sheet: None,
            records: RecordChoice::default(),
            only_usual_marks: false,
            positions: Vec::new(),
            header_row: None,
            header_rows: 1,
            closing: Vec::new(),
            across: false,
            missing_are_blank: false,
            rejoins: false,
        }
    }
}

/// What is known before a source is opened, and is evidence for how it is to be read.
#[derive(Debug, Clone, Default)]
pub struct Known {
    /// The headings that the mapping uses; every one of them must be there exactly once.
    pub headings: Vec<String>,
    /// Words of the dictionary and its code lists with letters outside ASCII, in lower case.
    pub words: HashSet<String>,
}

impl Known {
    /// Headings only.
    pub fn headings(headings: &[&str]) -> Self {
        Self { headings: headings.iter().map(|heading| (*heading).to_owned()).collect(), ..Self::default() }
    }

    /// Takes the words of a text in.
    pub fn learn(&mut self, text: &str) {
        let words = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_ascii());
        self.words.extend(words.map(str::to_lowercase));
    }
}
