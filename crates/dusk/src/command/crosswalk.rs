//! `dusk crosswalk`: remembered translations.

use dusk_core::correct::{Crosswalk, CrosswalkLine, crosswalk_path};
use dusk_core::files::{Problems, nearest};
use dusk_core::mapping;
use dusk_core::target::{Field, Lookup, ReadAs, Target};

use super::{Failure, Outcome, print, print_json, today, user_name};
use crate::args::{CrosswalkCommand, Format, MappingArgs};
use crate::outcome::Ended;
use crate::show::{crosswalk_table, visible};

pub(super) fn run(command: &CrosswalkCommand) -> Outcome {
    match command {
        CrosswalkCommand::Add { field, value, code, within, by, note, mapping } => {
            let line = CrosswalkLine {
                value: value.trim().to_owned(),
                within: within.clone().unwrap_or_default(),
                code: code.clone(),
                by: by.clone().unwrap_or_else(user_name),
                on: today(mapping.today).to_string(),
                note: note.clone(),
            };
            add(mapping, field, line)
        }
        CrosswalkCommand::List { field, mapping, format } => list(mapping, field.as_deref(), *format),
        CrosswalkCommand::Remove { field, value, within, mapping } => remove(mapping, field, value, within),
    }
}

/// Reads the target that the mapping names, and the field's crosswalk.
fn open<'t>(target: &'t Target, args: &MappingArgs, field: &str) -> Result<(&'t Field, Crosswalk), Failure> {
    let found = target.fields.iter().find(|known| known.name == field);
    let Some(field) = found else {
        let names: Vec<&str> = target
            .fields
            .iter()
            .filter(|known| known.kind.codes().is_some())
            .map(|known| known.name.as_str())
            .collect();
        let hint = match nearest(field, names.iter().copied()) {
            Some(near) => format!("did you mean \"{near}\"?"),
            None => format!("fields with a code list: {}", names.join(", ")),
        };
        return Err(Failure::Stopped(format!("the target has no field \"{field}\"\n  {hint}")));
    };
    let path = crosswalk_path(&args.mapping, &field.name);
    let mut problems = Problems::default();
    let crosswalk =
        if path.exists() { Crosswalk::read(&path, field, &mut problems)? } else { Crosswalk::default() };
    Ok((field, problems.or(crosswalk)?))
}

fn add(args: &MappingArgs, field: &str, line: CrosswalkLine) -> Outcome {
    let (_, target) = mapping::read(&args.mapping)?;
    let (field, mut crosswalk) = open(&target, args, field)?;
    if line.value.is_empty() {
        return Err(Failure::Stopped(
            "a blank value cannot be translated; write if_blank for the field in the mapping".into(),
        ));
    }
    let (value, code) = (visible(&line.value).into_owned(), line.code.clone());
    let known = field.kind.codes().and_then(|list| list.codes().iter().find(|known| known.code == code));
    let shown = known.map_or(code, dusk_core::target::Code::shown);
    let overrides = field.kind.codes().and_then(|list| {
        match list.look_up(
            &line.value,
            Some(line.within.as_str()).filter(|within| !within.is_empty()),
            ReadAs::Either,
        ) {
            Lookup::Found(already, _) if already.code != line.code => Some(already.shown()),
            _ => None,
        }
    });
    let replaced = crosswalk.set(line, field)?;
    let path = crosswalk_path(&args.mapping, &field.name);
    crosswalk.write(&path)?;
    let mut text = format!("{}: \"{value}\" means {shown} (remembered in {})\n", field.name, path.display());
    if let Some(old) = replaced {
        text.push_str(&format!("  it meant {} before\n", old.code));
    }
    if let Some(already) = overrides {
        text.push_str(&format!("  without this line it would mean {already}\n"));
    }
    print(&text)?;
    Ok(Ended::AllAccepted)
}

fn remove(args: &MappingArgs, field: &str, value: &str, within: &str) -> Outcome {
    let (_, target) = mapping::read(&args.mapping)?;
    let (field, mut crosswalk) = open(&target, args, field)?;
    let Some(line) = crosswalk.remove(value, within) else {
        let inside = if within.is_empty() { String::new() } else { format!(" within \"{within}\"") };
        let known = nearest(value, crosswalk.lines().iter().map(|line| line.value.as_str()));
        let hint = match known {
            Some(near) => format!("did you mean \"{near}\"?"),
            None => format!("dusk crosswalk list {}", field.name),
        };
        return Err(Failure::Stopped(format!(
            "{}: nothing is remembered for \"{}\"{inside}\n  {hint}",
            field.name,
            visible(value)
        )));
    };
    crosswalk.write(&crosswalk_path(&args.mapping, &field.name))?;
    print(&format!("{}: \"{}\" no longer means {}\n", field.name, visible(&line.value), line.code))?;
    Ok(Ended::AllAccepted)
}

fn list(args: &MappingArgs, field: Option<&str>, format: Format) -> Outcome {
    let (_, target) = mapping::read(&args.mapping)?;
    let names: Vec<&str> = match field {
        Some(field) => vec![field],
        None => target.fields.iter().map(|field| field.name.as_str()).collect(),
    };
    let mut lines = Vec::new();
    for name in names {
        let (field, crosswalk) = open(&target, args, name)?;
        lines.extend(crosswalk.lines().iter().map(|line| (field, line.clone())));
    }
    match format {
        Format::Json => {
            let lines: Vec<_> = lines
                .iter()
                .map(|(field, line)| {
                    serde_json::json!({
                        "field": field.name, "value": line.value, "within": line.within, "code": line.code,
                        "by": line.by, "on": line.on, "note": line.note,
                    })
                })
                .collect();
            print_json(&lines)?;
        }
        Format::Text if lines.is_empty() => {
            print("nothing is remembered yet: dusk crosswalk add FIELD VALUE CODE\n")?
        }
        Format::Text => print(&crosswalk_table(&lines))?,
    }
    Ok(Ended::AllAccepted)
}
