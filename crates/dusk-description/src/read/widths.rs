//! What a layout asks of each column: a width in fixed-width text, a name in XML, quotes around texts.

use hashbrown::{HashMap, HashSet};

use crate::format::is_xml_name;
use crate::{ColumnWidth, Field, FieldType, Quoting, UploadFormat};
use dusk_evidence::{ById, FieldId, Problems};
use dusk_records::{FieldPart, FieldPath};
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
                format!("\"{heading}\" is not a valid XML name, which every column needs"),
                "write heading = … with a name that begins with a letter and has no blanks",
            );
        }
    }
    widths
}

/// The places of values in bibliographic records: tags, subfields and indicators, all of a field added or none.
pub(super) fn check_record_places(
    format: &UploadFormat,
    fields: &ById<FieldId, Field>,
    file: &str,
    problems: &mut Problems,
) {
    let is_whole = matches!(format, UploadFormat::Iso2709 { .. });
    let mut tags: Vec<(String, bool)> = Vec::new();
    for field in fields.iter().filter(|field| field.is_sent()) {
        let at = Some(field.line);
        if field.added && !is_whole {
            let says = format!("{} is added, which goes with [upload] format = \"iso2709\"", field.name);
            problems.at(file, at, says).hint("take added out");
        }
        for heading in field.headings().into_iter().filter(|_| is_whole) {
            let Some(path) = FieldPath::parse(heading) else {
                problems
                    .at(file, at, format!("\"{heading}\" is not a place in a bibliographic record"))
                    .hint("write heading = \"590$a\" for a subfield, \"590@1\" for an indicator, \"001\" for a control field");
                continue;
            };
            match tags.iter().find(|(tag, _)| *tag == path.tag) {
                Some((_, added)) if *added != field.added => {
                    let says = format!(
                        "{} is in field {}, of which another part is {}added",
                        field.name,
                        path.tag,
                        if *added { "" } else { "not " }
                    );
                    problems.at(file, at, says).hint("write added = true for all of its parts, or for none");
                }
                Some(_) => {}
                None => tags.push((path.tag, field.added)),
            }
            if matches!(path.part, FieldPart::Indicator(_)) && !is_one_letter(field) {
                let says = format!("{} is an indicator, and may take more than one character", field.name);
                problems.at(file, at, says).hint("write max_length = 1, or codes of one character");
            }
        }
    }
}

/// Whether all values of a field are one character of ASCII, as far as its type says.
fn is_one_letter(field: &Field) -> bool {
    match &field.kind {
        FieldType::Text(text) => text.max_length == Some(1) || text.digits == Some(1),
        FieldType::Code(code) => code.list.codes().iter().all(|code| code.code.len() == 1),
        _ => false,
    }
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
