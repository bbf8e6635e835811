//! The `[control]` table.

use crate::{Control, Field, FieldType};
use dusk_evidence::{ById, FieldId, Problems};
use dusk_files::{At, Settings, Template};

/// Reads `[control]`; nothing where it says nothing.
pub(super) fn read_control(control: &mut Settings<'_>) -> Option<Control> {
    let name = control.text("file_name").unwrap_or(At { value: "{batch}.ctl".into(), line: control.line() });
    let lines = control.texts("lines");
    let each_file = control.text("each_file");
    if lines.is_empty() && each_file.is_none() {
        control.problem(control.line(), "[control] says nothing", |problem| {
            problem.hint("write lines = [\"RECORDS={records}\"] about the batch, or each_file = \"{file};{records};{sha256}\"");
        });
        return None;
    }
    if name.value.contains(['/', '\\']) || name.value.is_empty() {
        control.problem(
            name.line,
            "[control] file_name must be the name of a file, without a folder",
            |_| {},
        );
    }
    let file_name = template(control, &name, "file_name", &["batch", "today"])?;
    let lines = lines
        .iter()
        .map(|line| template(control, line, "lines", &Control::OF_BATCH))
        .collect::<Option<_>>()?;
    let each_file = match &each_file {
        Some(line) => Some(template(control, line, "each_file", &Control::OF_FILE)?),
        None => None,
    };
    Some(Control { file_name, lines, each_file })
}

fn template(control: &mut Settings<'_>, text: &At<String>, key: &str, known: &[&str]) -> Option<Template> {
    let template = match Template::parse(&text.value) {
        Ok(template) => template,
        Err(says) => {
            control.problem(text.line, format!("[control] {key} {says}"), |_| {});
            return None;
        }
    };
    let takes_sums = key == "lines";
    for name in template.names().filter(|name| !known.contains(name)) {
        if takes_sums && Control::summed(name).is_some() {
            continue;
        }
        control.problem(text.line, format!("[control] {key} does not know {{{name}}}"), |problem| {
            problem.suggest(name, known.iter().copied());
        });
    }
    Some(template)
}

/// Sums are of fields of numbers.
pub(super) fn check_control(
    control: Option<&Control>,
    fields: &ById<FieldId, Field>,
    file: &str,
    problems: &mut Problems,
) {
    let is_number = |field: &&Field| matches!(field.kind, FieldType::Number(_));
    let numbers: Vec<&str> = fields.iter().filter(is_number).map(|field| field.name.as_str()).collect();
    for name in control.iter().flat_map(|control| &control.lines).flat_map(Template::names) {
        if let Some(field) = Control::summed(name).filter(|field| !numbers.contains(field)) {
            problems
                .at(
                    file,
                    None,
                    format!("[control] lines: there is not a field of numbers called \"{field}\""),
                )
                .suggest(field, numbers.iter().copied());
        }
    }
}
