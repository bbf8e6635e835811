//! A steward's answers to what a draft leaves to be settled: a line put into the description, once the whole was read with
//! it, and the question taken away from above it.

use std::path::Path;

use toml_edit::{DocumentMut, Item, Table};

use super::edited::{name_of, parsed};
use dusk_description::Target;
use dusk_evidence::{Error, Result};
use dusk_files::Held;

/// What became of an answer.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Answered {
    /// The description has it now.
    Written,
    /// The description would not be one any more; what its reader says.
    Refused(String),
}

/// Puts a line into the description at `path`: a key and its value for the field, or for `[upload]`; a whole `[[rule]]`
/// with its keys parted by commas; nothing, where the description is right as it stands. The question `says` about
/// `about` goes then.
///
/// # Errors
/// [`Error::File`] when the description cannot be read or written; [`Error::Request`] for a line that is no key with a
/// value, and for a field that is not there.
pub fn answer(path: &Path, about: &str, says: &str, line: &str) -> Result<Answered> {
    let held = Held::file(path)?;
    let mut document = parsed(path)?;
    let line = line.trim();
    if let Some(rule) = line.strip_prefix("[[rule]]") {
        for rule in rule.split("[[rule]]") {
            add_rule(&mut document, rule.trim().trim_end_matches(" and"))?;
        }
    } else if !line.is_empty() {
        put(&mut document, about, line)?;
    }
    forget(&mut document, about, says);
    let text = document.to_string();
    let folder = path.parent().unwrap_or(Path::new(""));
    // Beside the description, so that its code lists are found.
    let mut tried = tempfile::Builder::new()
        .prefix(".tried-")
        .suffix(".toml")
        .tempfile_in(if folder.as_os_str().is_empty() { Path::new(".") } else { folder })
        .map_err(Error::writing(folder))?;
    std::io::Write::write_all(&mut tried, text.as_bytes()).map_err(Error::writing(folder))?;
    if let Err(wrong) = Target::read(tried.path()) {
        let name = tried.path().display().to_string();
        return Ok(Answered::Refused(wrong.to_string().replace(&name, &path.display().to_string())));
    }
    held.write(text.as_bytes())?;
    Ok(Answered::Written)
}

/// The keys of a line of TOML.
fn keys_of(line: &str) -> Result<DocumentMut> {
    line.parse().map_err(|_: toml_edit::TomlError| {
        Error::Request(format!(
            "\"{line}\" cannot be part of a description; write a key and its value, for example required = true"
        ))
    })
}

fn add_rule(document: &mut DocumentMut, rule: &str) -> Result<()> {
    // The keys stand in one line.
    let mut table = Table::new();
    let mut rest = rule;
    while let Some((key, behind)) = rest.split_once('=') {
        let value = behind.trim_start();
        let ends = (1..=value.len()).filter(|end| value.is_char_boundary(*end)).find(|end| {
            let behind = value.get(*end..).unwrap_or_default().trim_start();
            (behind.is_empty() || behind.starts_with(','))
                && value.get(..*end).is_some_and(|value| keys_of(&format!("k = {value}")).is_ok())
        });
        let Some(ends) = ends else { break };
        let line = keys_of(&format!("k = {}", value.get(..ends).unwrap_or_default()))?;
        if let Some(item) = line.get("k") {
            table.insert(key.trim(), item.clone());
        }
        rest = value.get(ends..).unwrap_or_default().trim_start().trim_start_matches(',');
    }
    if !table.contains_key("must") {
        return Err(Error::Request(format!(
            "\"[[rule]] {rule}\" has no must = …, which says what must hold"
        )));
    }
    let rules = document.entry("rule").or_insert(Item::ArrayOfTables(toml_edit::ArrayOfTables::new()));
    if let Some(rules) = rules.as_array_of_tables_mut() {
        rules.push(table);
    }
    Ok(())
}

/// Puts a key into the table that a question is about.
fn put(document: &mut DocumentMut, about: &str, line: &str) -> Result<()> {
    let keys = keys_of(line)?;
    let missing =
        || Error::Request(format!("{about} is not a field of the description, so it cannot be edited"));
    let names: Vec<&str> = about.split(", ").collect();
    let mut met = false;
    for (key, item) in keys.iter() {
        if about == "[upload]" {
            let upload = document.get_mut("upload").and_then(Item::as_table_mut).ok_or_else(missing)?;
            upload.insert(key, item.clone());
            met = true;
            continue;
        }
        let fields = document.get_mut("field").and_then(Item::as_array_of_tables_mut).ok_or_else(missing)?;
        for field in
            fields.iter_mut().filter(|field| name_of(field).is_some_and(|name| names.contains(&name)))
        {
            field.insert(key, item.clone());
            met = true;
        }
    }
    met.then_some(()).ok_or_else(missing)
}

/// Takes a question away from those that stand above the description.
fn forget(document: &mut DocumentMut, about: &str, says: &str) {
    let Some(target) = document.get_mut("target").and_then(Item::as_table_mut) else { return };
    let above = target.decor().prefix().and_then(|prefix| prefix.as_str()).unwrap_or_default().to_owned();
    let question = format!(". {about}: {says}").replace(['\n', '\r'], " ");
    let kept: Vec<&str> = above.lines().filter(|line| !line.ends_with(&question)).collect();
    if kept.len() < above.lines().count() {
        target.decor_mut().set_prefix(kept.join("\n") + "\n");
    }
}
