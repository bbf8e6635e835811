//! A value that the target holds already.

use std::sync::Arc;

use super::{Described, FieldType, TypeWord};
use crate::KnownValues;
use crate::beside::{Beside, Open};
use dusk_files::Settings;

pub(super) static REFERENCE: TypeWord =
    TypeWord { word: "reference", called: &[], keys: &["unmatched", "values", "column"], read };

/// A value that the target holds already.
#[derive(Debug)]
pub struct ReferenceType {
    /// What it holds.
    pub known: Arc<KnownValues>,
}

impl Described for ReferenceType {
    fn word(&self) -> &'static str {
        REFERENCE.word
    }

    fn values(&self, _: Option<&str>) -> String {
        let known = &self.known;
        format!("{} values of {} in {}", known.len(), known.column, known.file)
    }
}

fn read(field: &mut Settings<'_>, beside: &Beside<'_>) -> (FieldType, Open) {
    let column = field.required_text("column");
    let file = field.required_text("values");
    let mut known = KnownValues::default();
    if let (Some(file), Some(column)) = (file, column) {
        match beside.known_values(&file.value, &column.value) {
            Ok(read) => known = read,
            Err(error) => field.problem(file.line, error.to_string(), |problem| {
                problem.hint("values names a file beside the description, column the heading in it");
            }),
        }
    }
    (FieldType::Reference(ReferenceType { known: Arc::new(known) }), Open::default())
}
