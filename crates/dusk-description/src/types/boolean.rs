//! True or false.

use serde_json::{Map, Value as Json};

use super::{Described, DropDown, FieldType, MeansA, TypeWord};
use crate::beside::Open;
use dusk_files::{At, Settings};
use dusk_values::ValueType;

pub(super) static BOOLEAN: TypeWord = TypeWord {
    word: "boolean",
    called: &[
        "boolean",
        "bool",
        "logical",
        "yesno",
        "yn",
        "flag",
        "tick",
        "tickbox",
        "checkbox",
        "truefalse",
        "bit",
        "switch",
    ],
    keys: &["format"],
    read: |field, _| {
        let (yes, no) = yes_and_no(field, "true/false");
        (FieldType::Boolean(BooleanType { yes, no }), Open::default())
    },
};

/// True or false.
#[derive(Debug)]
pub struct BooleanType {
    /// The word for true.
    pub yes: String,
    /// The word for false.
    pub no: String,
}

impl Described for BooleanType {
    fn word(&self) -> &'static str {
        BOOLEAN.word
    }

    fn value_type(&self) -> ValueType {
        ValueType::Boolean
    }

    fn means(&self) -> MeansA {
        MeansA::Word
    }

    fn format(&self) -> String {
        format!("{} or {}", self.yes, self.no)
    }

    fn drop_down(&self) -> DropDown<'_> {
        DropDown::Words(&self.yes, &self.no)
    }

    fn datatype(&self, datatype: &mut Map<String, Json>) {
        datatype.insert("base".into(), "boolean".into());
        datatype.insert("format".into(), format!("{}|{}", self.yes, self.no).into());
    }
}

/// A word for true and one for false, as `format` gives them.
pub(super) fn yes_and_no(field: &mut Settings<'_>, usual: &str) -> (String, String) {
    let format = field.text("format").unwrap_or(At { value: usual.to_owned(), line: field.line() });
    match format.value.split_once('/') {
        Some((yes, no)) if !yes.trim().is_empty() && yes.trim() != no.trim() => {
            (yes.trim().into(), no.trim().into())
        }
        _ => {
            field.problem(
                format.line,
                format!("format \"{}\" does not give a word for true and one for false", format.value),
                |problem| {
                    problem.hint("write the two with a slash between them, for example format = \"1/0\"");
                },
            );
            ("1".into(), "0".into())
        }
    }
}
