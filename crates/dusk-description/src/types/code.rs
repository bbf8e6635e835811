//! One code.

use std::sync::Arc;

use super::{Described, DropDown, FieldType, MeansA, TypeWord};
use crate::CodeList;
use crate::beside::{Beside, Open};
use dusk_evidence::FieldId;
use dusk_files::Settings;

pub(super) static CODE: TypeWord = TypeWord {
    word: "code",
    called: &[
        "code",
        "coded",
        "codelist",
        "codedvalue",
        "list",
        "lookup",
        "dropdown",
        "picklist",
        "select",
        "choice",
        "singlechoice",
        "chooseone",
        "radio",
        "enum",
        "enumeration",
        "categorical",
        "category",
        "selectone",
        "fromlist",
    ],
    keys: &["unmatched", "codes", "within"],
    read,
};

/// One code of a list.
#[derive(Debug, Default)]
pub struct CodeType {
    /// The codes.
    pub list: Arc<CodeList>,
    /// The field that holds the code inside which this one is valid, by its place.
    pub within: Option<FieldId>,
}

impl Described for CodeType {
    fn word(&self) -> &'static str {
        CODE.word
    }

    fn means(&self) -> MeansA {
        MeansA::Code
    }

    fn codes(&self) -> Option<&CodeList> {
        Some(&self.list)
    }

    fn parent(&self) -> Option<FieldId> {
        self.within
    }

    fn values(&self, parent: Option<&str>) -> String {
        let inside = parent.map_or_else(String::new, |parent| format!(", inside its {parent}"));
        format!("{} codes of {}{inside}", self.list.codes().len(), self.list.name)
    }

    fn drop_down(&self) -> DropDown<'_> {
        DropDown::Codes(&self.list)
    }
}

fn read(field: &mut Settings<'_>, beside: &Beside<'_>) -> (FieldType, Open) {
    let open = Open { list: beside.wanted_by(field), within: field.text("within"), per_code: None };
    (FieldType::Code(CodeType::default()), open)
}
