//! What a layout asks of each column: a width in fixed-width text, a name in XML, quotes around texts.

use hashbrown::{HashMap, HashSet};

use crate::format::is_xml_name;
use crate::{ColumnWidth, Field, Quoting, UploadFormat};
use dusk_evidence::{ById, FieldId, Problems};
use dusk_values::ValueType;

/// The columns of fixed-width text, each of which has a width, and the elements of XML, each of which has a name.
pub(super) fn settle_widths(
    format: &UploadFormat,
    fields: &ById<FieldId, Field>,
    file: &str,
    problems: &mut Problems,
) -> HashMap<String, ColumnWidth> {
    let mut widths = HashMap::new();
    for field in fields.iter() {
        let mut wrong = |says: String, hint: &str| {
            problems.at(file, Some(field.line), says).hint(hint);
        };
        let name = &field.name;
        match (format, field.width) {
            (UploadFormat::FixedWidth, Some(width)) => {
                widths.extend(field.headings().into_iter().map(|heading| (heading.to_owned(), width)));
            }
            (UploadFormat::FixedWidth, None) if field.is_sent() => {
                wrong(
                    format!("the field \"{name}\" has no width"),
                    "in fixed-width text each field takes so many characters: write width = …",
                );
            }
            (UploadFormat::FixedWidth, None) | (_, None) => {}
            (_, Some(_)) => wrong(
                format!(
                    "the field \"{name}\" has a width, which goes with [upload] format = \"fixed-width\""
                ),
                "take the width out, or write max_length for the longest value",
            ),
        }
        let is_xml = matches!(format, UploadFormat::Xml { .. });
        if let Some(heading) = field.headings().into_iter().find(|heading| is_xml && !is_xml_name(heading)) {
            wrong(
                format!("\"{heading}\" is not a name of XML, which each value stands under"),
                "write heading = … with a name that begins with a letter and has no blanks",
            );
        }
    }
    widths
}

/// The columns whose values stand in quotes where only texts do: those of texts, and what fields say of themselves.
pub(super) fn settle_quoted(
    quoting: Quoting,
    fields: &ById<FieldId, Field>,
    file: &str,
    problems: &mut Problems,
) -> HashSet<String> {
    let mut quoted = HashSet::new();
    for field in fields.iter() {
        if field.quoted.is_some() && quoting != Quoting::Texts {
            let says = format!(
                "{} says whether it is quoted, which goes with [upload] quoting = \"texts\"",
                field.name
            );
            problems.at(file, Some(field.line), says).hint("take quoted out, or write quoting = \"texts\"");
        }
        if field.quoted.unwrap_or(field.kind.value_type() == ValueType::Text) {
            quoted.extend(field.headings().into_iter().map(str::to_owned));
        }
    }
    quoted
}
