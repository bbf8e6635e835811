//! Several codes.

use std::sync::Arc;

use serde_json::{Value as Json, json};

use super::boolean::yes_and_no;
use super::{Described, DropDown, FieldType, MeansA, TypeWord};
use crate::beside::{Beside, Open};
use crate::{Code, CodeList};
use dusk_files::{At, Settings, Template};

pub(super) static CODES: TypeWord = TypeWord {
    word: "codes",
    called: &[
        "multiplechoice",
        "multiselect",
        "multichoice",
        "codes",
        "checkboxes",
        "severalcodes",
        "listofcodes",
        "multiplecodes",
        "selectmany",
        "chooseseveral",
    ],
    keys: &["unmatched", "codes", "separator", "column_per_code", "numbered", "most", "format"],
    read,
};

/// Several codes of a list.
#[derive(Debug)]
pub struct CodesType {
    /// The codes.
    pub list: Arc<CodeList>,
    /// How they stand in the upload file.
    pub layout: CodesLayout,
}

/// How several codes stand in the upload file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum CodesLayout {
    /// In one column, parted by this.
    Joined(String),
    /// One code in each of these columns, from the first on; the others stay blank.
    Numbered(Vec<String>),
    /// One column per code, in the order of the code list.
    ColumnPerCode {
        /// The headings.
        columns: Vec<String>,
        /// The word in the column of a code that the record has.
        yes: String,
        /// The word in the other columns.
        no: String,
    },
}

impl CodesLayout {
    /// The codes of a value as it is kept: those of columns stand behind one another.
    pub fn codes_of<'t>(&self, text: &'t str) -> Vec<&'t str> {
        text.split(self.between()).map(str::trim).filter(|code| !code.is_empty()).collect()
    }

    /// A value as it is kept in the cells of its columns; `list` are all codes in their order.
    pub(crate) fn cells(&self, text: &str, list: &CodeList) -> Vec<String> {
        match self {
            Self::Joined(_) => vec![text.to_owned()],
            Self::Numbered(columns) => {
                let codes = self.codes_of(text);
                (0..columns.len()).map(|place| codes.get(place).map_or("", |code| *code).to_owned()).collect()
            }
            Self::ColumnPerCode { yes, no, .. } => {
                let codes = self.codes_of(text);
                let word = |code: &Code| match codes.contains(&code.code.as_str()) {
                    true => yes.clone(),
                    false if text.is_empty() => String::new(),
                    false => no.clone(),
                };
                list.codes().iter().map(word).collect()
            }
        }
    }

    /// Several codes as the value that is kept of them.
    pub fn joined(&self, codes: &[&str]) -> String {
        codes.join(self.between())
    }

    fn between(&self) -> &str {
        match self {
            Self::Joined(between) => between.as_str(),
            Self::ColumnPerCode { .. } | Self::Numbered(_) => "|",
        }
    }
}

impl CodesType {
    /// The code whose column has this heading, where each code has one.
    fn code_under(&self, heading: &str) -> Option<&Code> {
        let CodesLayout::ColumnPerCode { columns, .. } = &self.layout else { return None };
        let place = columns.iter().position(|known| known == heading)?;
        self.list.codes().get(place)
    }
}

impl Described for CodesType {
    fn word(&self) -> &'static str {
        CODES.word
    }

    fn means(&self) -> MeansA {
        MeansA::Code
    }

    fn codes(&self) -> Option<&CodeList> {
        Some(&self.list)
    }

    fn own_columns(&self) -> Option<&[String]> {
        match &self.layout {
            CodesLayout::Joined(_) => None,
            CodesLayout::ColumnPerCode { columns, .. } | CodesLayout::Numbered(columns) => Some(columns),
        }
    }

    fn format(&self) -> String {
        match &self.layout {
            CodesLayout::Joined(separator) => format!("separated by \"{separator}\""),
            CodesLayout::Numbered(columns) => format!("one in each of {} columns", columns.len()),
            CodesLayout::ColumnPerCode { columns, yes, no } => {
                format!("{} columns of {yes} or {no}", columns.len())
            }
        }
    }

    fn values(&self, _: Option<&str>) -> String {
        format!("{} codes of {}", self.list.codes().len(), self.list.name)
    }

    fn drop_down(&self) -> DropDown<'_> {
        match &self.layout {
            CodesLayout::ColumnPerCode { yes, no, .. } => DropDown::Words(yes, no),
            CodesLayout::Joined(_) | CodesLayout::Numbered(_) => DropDown::Nothing,
        }
    }

    fn note(&self, heading: &str) -> Option<String> {
        let CodesLayout::ColumnPerCode { yes, no, .. } = &self.layout else { return None };
        Some(format!("{}: {yes} or {no}", self.code_under(heading)?.shown()))
    }

    fn csvw_columns(&self) -> Option<Vec<Json>> {
        match &self.layout {
            CodesLayout::Joined(_) => None,
            CodesLayout::Numbered(headings) => Some(
                headings
                    .iter()
                    .map(|heading| json!({ "name": heading, "titles": [heading], "datatype": "string" }))
                    .collect(),
            ),
            CodesLayout::ColumnPerCode { columns, yes, no } => {
                let datatype = json!({ "base": "boolean", "format": format!("{yes}|{no}") });
                let column = |(heading, code): (&String, &Code)| json!({ "name": heading, "titles": [heading, &code.shown()], "datatype": datatype });
                Some(columns.iter().zip(self.list.codes()).map(column).collect())
            }
        }
    }

    fn separator(&self) -> Option<&str> {
        match &self.layout {
            CodesLayout::Joined(separator) => Some(separator),
            CodesLayout::ColumnPerCode { .. } | CodesLayout::Numbered(_) => None,
        }
    }
}

fn read(field: &mut Settings<'_>, beside: &Beside<'_>) -> (FieldType, Open) {
    let list = beside.wanted_by(field);
    let (layout, per_code) = read_layout(field);
    let kind = FieldType::Codes(CodesType { list: Arc::default(), layout });
    (kind, Open { list, within: None, per_code })
}

fn read_layout(field: &mut Settings<'_>) -> (CodesLayout, Option<At<Template>>) {
    if let Some(numbered) = field.text("numbered") {
        return (read_numbered(field, &numbered), None);
    }
    match (field.text("separator"), field.text("column_per_code")) {
        (Some(separator), None) => {
            if field.has("format") {
                field.misplaced("format", "format goes with column_per_code, not with separator");
            }
            if separator.value.is_empty() {
                field.problem(separator.line, "separator is empty", |_| {});
            }
            (CodesLayout::Joined(separator.value), None)
        }
        (None, Some(per_code)) => read_per_code(field, &per_code),
        (both, _) => {
            let says = if both.is_some() {
                "has both separator and column_per_code"
            } else {
                "does not say how several codes are written in the file"
            };
            field.problem(field.line(), format!("[[field]] {says}"), |problem| {
                problem.hint("write separator = \"|\" for one column, column_per_code = \"name_{code}\" for a column per code, or numbered = \"name_{n}\" with most = 3");
            });
            if field.has("format") {
                let _ = field.text("format");
            }
            (CodesLayout::Joined("|".into()), None)
        }
    }
}

/// A column for each code, which gets its headings when the list is loaded.
fn read_per_code(field: &mut Settings<'_>, per_code: &At<String>) -> (CodesLayout, Option<At<Template>>) {
    let (yes, no) = yes_and_no(field, "1/0");
    let template = Template::parse(&per_code.value).ok();
    if !template.as_ref().is_some_and(|template| template.names().eq(["code"])) {
        let says = format!("column_per_code \"{}\" does not name the columns by their codes", per_code.value);
        field.problem(per_code.line, says, |problem| {
            problem.hint("write for example column_per_code = \"treat_{code}\"");
        });
    }
    let template = template.map(|value| At { value, line: per_code.line });
    (CodesLayout::ColumnPerCode { columns: Vec::new(), yes, no }, template)
}

/// Columns with a number each, for so many codes.
fn read_numbered(field: &mut Settings<'_>, written: &At<String>) -> CodesLayout {
    let most = field.whole("most", 1).map_or(0, |most| most.value);
    let template = Template::parse(&written.value).ok().filter(|template| template.names().eq(["n"]));
    if template.is_none() {
        field.problem(
            written.line,
            format!("numbered \"{}\" does not number the columns", written.value),
            |problem| {
                problem.hint("write for example numbered = \"treatment_{n}\"");
            },
        );
    }
    if !(1..=1000).contains(&most) {
        field.problem(written.line, "numbered needs most, the number of columns, from 1 to 1000", |_| {});
    }
    for key in ["separator", "column_per_code"].into_iter().filter(|key| field.has(key)).collect::<Vec<_>>() {
        field.misplaced(key, &format!("{key} does not go with numbered"));
    }
    let numbers: Vec<String> = (1..=most.min(1000)).map(|number| number.to_string()).collect();
    let columns = numbers.iter().filter_map(|number| template.as_ref()?.fill(|_| Some(number.as_str())));
    CodesLayout::Numbered(columns.collect())
}
