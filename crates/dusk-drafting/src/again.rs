//! Drafting again over a description that a steward has edited meanwhile.
//!
//! What was drafted last time is kept in a folder `drafted` beside the description. A value that
//! stands as it was drafted follows the new draft; one that was edited stays, and is said where the
//! new draft has changed as well.

use std::path::{Path, PathBuf};

use toml_edit::{ArrayOfTables, DocumentMut, Item, Table};

use super::claim::{Drafted, DraftedList};
use super::edited::{name_of, parsed, table, tables, value_of};
use super::renamed::{order, rename, renamed};
use dusk_description::{Code, CodeList, Target};
use dusk_evidence::{Error, Problems, Result};
use dusk_files::{Held, write_whole};

/// The folder that holds what was drafted last.
const LAST: &str = "drafted";

/// The folder in it that holds the description as it was before.
const BEFORE: &str = "before";

/// Makes files what they were.
fn put_back(before: &[(PathBuf, Option<Vec<u8>>)]) -> Result<()> {
    for (file, bytes) in before {
        match bytes {
            Some(bytes) => write_whole(file, bytes)?,
            None => std::fs::remove_file(file).map_err(Error::writing(file))?,
        }
    }
    Ok(())
}

/// What stands before the hash of a material, at the end of what was drafted.
const MATERIAL: &str = "# drawn from ";

/// What drafting came to.
#[derive(Debug, Default)]
pub struct Saved {
    /// True when there was no description before.
    pub is_new: bool,
    /// The files that were written.
    pub files: Vec<PathBuf>,
    /// What the new draft changed in the files that were there.
    pub changes: Vec<String>,
    /// Edits that stay although the new draft says something else.
    pub kept: Vec<String>,
    /// True where the materials are those of the last draft: what changed is read otherwise by this version of the program.
    pub same_materials: bool,
}

impl Drafted {
    /// Writes the description to `path` and its code lists beside it. What is there already is
    /// kept where it was edited, and follows the draft where it was not.
    ///
    /// # Errors
    /// [`Error::File`] when a file cannot be read or written; [`Error::Problems`] when what is there
    /// is no TOML.
    pub fn save(&self, path: &Path) -> Result<Saved> {
        let _held = Held::file(path)?;
        let folder = path.parent().unwrap_or(Path::new(""));
        let name =
            path.file_name().map_or_else(|| "target.toml".into(), |name| name.to_string_lossy().into_owned());
        let last_folder = folder.join(LAST);
        let last_path = last_folder.join(&name);
        let new = self.toml();
        let mut saved = Saved { is_new: !path.exists(), ..Saved::default() };
        let text = if saved.is_new {
            new.clone()
        } else {
            let mut document = parsed(path)?;
            let last = if last_path.exists() { Some(parsed(&last_path)?) } else { None };
            let drafted: DocumentMut =
                new.parse().map_err(|error: toml_edit::TomlError| Error::Invariant(error.to_string()))?;
            merge(&mut document, last.as_ref(), &drafted, &mut saved);
            ask_anew(&mut document, last.as_ref(), &drafted);
            document.to_string()
        };
        let mut hashes: Vec<String> =
            self.materials.iter().map(|(name, hash)| format!("{MATERIAL}{hash} {name}")).collect();
        hashes.sort();
        let of_last = std::fs::read_to_string(&last_path).unwrap_or_default();
        let mut before: Vec<&str> = of_last.lines().filter(|line| line.starts_with(MATERIAL)).collect();
        before.sort_unstable();
        saved.same_materials = !saved.is_new && !before.is_empty() && before == hashes;
        let kept = format!("{new}\n{}\n", hashes.join("\n"));
        let mut files = vec![(path.to_path_buf(), text.into_bytes()), (last_path, kept.into_bytes())];
        for list in &self.lists {
            let relative = format!("codes/{}.csv", list.name);
            let here = folder.join(&relative);
            let last = last_folder.join(&relative);
            let bytes = list.csv()?;
            let written = if here.exists() {
                let fields = self.fields_with(&list.name);
                merged_list((list, &fields), &here, &last, &mut saved)?.csv()?
            } else {
                bytes.clone()
            };
            files.push((here, written));
            files.push((last, bytes));
        }
        let mut before: Vec<(PathBuf, Option<Vec<u8>>)> = Vec::new();
        for (file, bytes) in files {
            let there = std::fs::read(&file).ok();
            // A file that stays as it is keeps its time as well.
            if there.as_ref() == Some(&bytes) {
                continue;
            }
            write_whole(&file, &bytes)?;
            if !file.starts_with(&last_folder) {
                saved.files.push(file.clone());
            }
            before.push((file, there));
        }
        if saved.is_new {
            return Ok(saved);
        }
        if let Err(wrong) = Target::read(path) {
            put_back(&before)?;
            return Err(Error::Request(format!(
                "with what was edited the new draft would be no description, and nothing was changed\n{wrong}"
            )));
        }
        // What was there is kept until the next time.
        if let Some((_, Some(bytes))) = before.iter().find(|(file, _)| file == path) {
            write_whole(&last_folder.join(BEFORE).join(&name), bytes)?;
        }
        Ok(saved)
    }
}

impl Drafted {
    /// The fields that take a list, as people say them; the list itself where none does.
    fn fields_with(&self, list: &str) -> String {
        let file = format!("codes/{list}.csv");
        let takes = |field: &&super::claim::DraftedField| field.claims.text("codes") == Some(&file);
        let fields: Vec<&str> = self.fields.iter().filter(takes).map(|field| field.name.as_str()).collect();
        if fields.is_empty() { list.to_owned() } else { fields.join(", ") }
    }
}

/// The three states of a table's keys: as it is, as it was drafted, as it is drafted now.
fn merge(document: &mut DocumentMut, last: Option<&DocumentMut>, drafted: &DocumentMut, saved: &mut Saved) {
    for part in ["target", "upload"] {
        let (Some(new), old) = (table(drafted, part), last.and_then(|last| table(last, part))) else {
            continue;
        };
        if !document.contains_key(part) {
            document.insert(part, Item::Table(Table::new()));
        }
        if let Some(mine) = document.get_mut(part).and_then(Item::as_table_mut) {
            merge_table(&format!("[{part}]"), mine, old, new, saved);
        }
    }
    let empty = ArrayOfTables::new();
    let new = tables(drafted, "field").unwrap_or(&empty);
    let old = last.and_then(|last| tables(last, "field")).unwrap_or(&empty);
    if !document.contains_key("field") {
        document.insert("field", Item::ArrayOfTables(ArrayOfTables::new()));
    }
    if let Some(mine) = document.get_mut("field").and_then(Item::as_array_of_tables_mut) {
        merge_fields(mine, old, new, saved);
    }
    merge_rules(document, last, drafted, saved);
}

fn merge_fields(mine: &mut ArrayOfTables, old: &ArrayOfTables, new: &ArrayOfTables, saved: &mut Saved) {
    for (was, is) in renamed(old, new) {
        let has_both = mine.iter().any(|mine| name_of(mine) == Some(&is));
        if let Some(field) = mine.iter_mut().find(|mine| name_of(mine) == Some(&was)).filter(|_| !has_both) {
            rename(field, &was, &is);
            saved
                .changes
                .push(format!("{was} is now called {is} (a mapping that fills {was} has to fill {is})"));
            let before = old.iter().find(|old| name_of(old) == Some(&was));
            if let Some(drafted) = new.iter().find(|new| name_of(new) == Some(&is)) {
                merge_table(&is, field, before, drafted, saved);
            }
        }
    }
    for field in new {
        let Some(name) = name_of(field) else { continue };
        let before = old.iter().find(|old| name_of(old) == Some(name));
        let place = mine.iter().position(|mine| name_of(mine) == Some(name)).or_else(|| {
            // A description by hand may call the field otherwise, and have its heading.
            let heading = heading_of(field);
            mine.iter().position(|mine| {
                heading_of(mine) == heading && !has_field(new, name_of(mine).unwrap_or_default())
            })
        });
        match place.and_then(|place| mine.get_mut(place)) {
            Some(mine) => merge_table(name, mine, before, field, saved),
            None if before.is_some() => saved
                .kept
                .push(format!("{name} was taken out of the description, and the material still has it")),
            None => {
                saved.changes.push(format!("{name} is a new field"));
                let mut field = field.clone();
                field.set_position(None);
                mine.push(field);
            }
        }
    }
    take_out(mine, old, new, saved);
    let had_order = |tables: &ArrayOfTables| -> Vec<String> {
        let both =
            tables.iter().filter_map(name_of).filter(|name| has_field(old, name) && has_field(new, name));
        both.map(str::to_owned).collect()
    };
    let moved = had_order(old) != had_order(new);
    if order(mine, new) && moved {
        saved.changes.push("the fields are in another order".into());
    }
}

/// What stands above a field in the upload file.
fn heading_of(field: &Table) -> Option<&str> {
    field.get("heading").and_then(Item::as_str).or_else(|| name_of(field))
}

fn has_field(tables: &ArrayOfTables, name: &str) -> bool {
    tables.iter().any(|table| name_of(table) == Some(name))
}

/// What is to be settled stands above the description, and is that of the new draft; what a steward took away from it
/// does not come back.
fn ask_anew(document: &mut DocumentMut, last: Option<&DocumentMut>, drafted: &DocumentMut) {
    let above = |document: &DocumentMut| {
        let prefix = table(document, "target").and_then(|target| target.decor().prefix());
        prefix.and_then(|prefix| prefix.as_str()).map(str::to_owned).unwrap_or_default()
    };
    let question = |line: &str| -> Option<String> {
        let (number, says) = line.strip_prefix("#  ")?.split_once(". ")?;
        number.bytes().all(|byte| byte.is_ascii_digit()).then(|| says.to_owned())
    };
    let (mine, was) = (above(document), last.map(above).unwrap_or_default());
    if !mine.starts_with("# Drafted from") {
        return;
    }
    let questions = |text: &str| text.lines().filter_map(question).collect::<Vec<_>>();
    let (open, before) = (questions(&mine), questions(&was));
    let is_settled = |says: &String| before.contains(says) && !open.contains(says);
    let mut text = String::new();
    let mut number = 0;
    for line in above(drafted).lines() {
        match question(line) {
            Some(says) if is_settled(&says) => continue,
            Some(says) => {
                number += 1;
                text.push_str(&format!("#  {number}. {says}\n"));
            }
            None => {
                text.push_str(line);
                text.push('\n');
            }
        }
    }
    if let Some(target) = document.get_mut("target").and_then(Item::as_table_mut) {
        target.decor_mut().set_prefix(text);
    }
}

/// Takes out the fields that the material no longer has, but for those that were edited.
fn take_out(mine: &mut ArrayOfTables, old: &ArrayOfTables, new: &ArrayOfTables, saved: &mut Saved) {
    for before in old {
        let Some(name) = name_of(before) else { continue };
        if new.iter().any(|field| name_of(field) == Some(name)) {
            continue;
        }
        let Some(place) = mine.iter().position(|mine| name_of(mine) == Some(name)) else { continue };
        let untouched = mine.get(place).is_some_and(|mine| same_keys(mine, before));
        if untouched {
            mine.remove(place);
            saved.changes.push(format!("{name} is in the material no more, and was taken out"));
        } else {
            saved.kept.push(format!("{name} is in the material no more, but was edited, and stays"));
        }
    }
}

fn merge_rules(
    document: &mut DocumentMut,
    last: Option<&DocumentMut>,
    drafted: &DocumentMut,
    saved: &mut Saved,
) {
    let must = |rule: &Table| rule.get("must").and_then(Item::as_str).map(str::to_owned);
    let has = |document: &DocumentMut, wanted: &str| {
        tables(document, "rule")
            .is_some_and(|rules| rules.iter().any(|rule| must(rule).as_deref() == Some(wanted)))
    };
    for rule in tables(drafted, "rule").into_iter().flatten() {
        let Some(wanted) = must(rule) else { continue };
        if has(document, &wanted) || last.is_some_and(|last| has(last, &wanted)) {
            continue;
        }
        let mut rule = rule.clone();
        rule.set_position(None);
        saved.changes.push(format!("the rule {wanted} is new"));
        let rules = document.entry("rule").or_insert(Item::ArrayOfTables(ArrayOfTables::new()));
        if let Some(rules) = rules.as_array_of_tables_mut() {
            rules.push(rule);
        }
    }
}

fn merge_table(about: &str, mine: &mut Table, old: Option<&Table>, new: &Table, saved: &mut Saved) {
    let shown = |item: Option<&Item>| item.map(value_of);
    for (key, item) in new {
        let (is, was, will) = (shown(mine.get(key)), shown(old.and_then(|old| old.get(key))), value_of(item));
        if is.as_ref() == Some(&will) {
            continue;
        }
        if is == was && (old.is_some() || is.is_none()) {
            // A field that is not said to be required is not.
            let nothing = if key == "required" { "false" } else { "not said" };
            let before = is.unwrap_or_else(|| nothing.to_owned());
            saved.changes.push(format!("{about}: {key} was {before} and is {will}"));
            mine.insert(key, item.clone());
            if let (Some((mut written, _)), Some((theirs, _))) =
                (mine.get_key_value_mut(key), new.get_key_value(key))
            {
                *written.leaf_decor_mut() = theirs.leaf_decor().clone();
            }
        } else if was.as_ref() != Some(&will) {
            let is = is.unwrap_or_else(|| "taken out".to_owned());
            saved.kept.push(format!("{about}: {key} stays {is}, as it was edited; the material says {will}"));
        }
    }
    let gone: Vec<String> = old
        .into_iter()
        .flatten()
        .filter(|(key, _)| !new.contains_key(key) && mine.contains_key(key))
        .map(|(key, _)| key.to_owned())
        .collect();
    for key in gone {
        let (is, was) = (shown(mine.get(&key)), shown(old.and_then(|old| old.get(&key))));
        if is == was {
            mine.remove(&key);
            saved
                .changes
                .push(format!("{about}: {key} was {} and is not said any more", was.unwrap_or_default()));
        } else {
            saved.kept.push(format!(
                "{about}: {key} stays {}, as it was edited; the material does not say it any more",
                is.unwrap_or_default()
            ));
        }
    }
}

fn same_keys(one: &Table, other: &Table) -> bool {
    let keys =
        |table: &Table| table.iter().map(|(key, item)| (key.to_owned(), value_of(item))).collect::<Vec<_>>();
    let (mut one, mut other) = (keys(one), keys(other));
    one.sort();
    other.sort();
    one == other
}

/// The list that is there, with what has changed since the last draft. Other names that a steward
/// has given to codes stay.
fn merged_list(
    (list, fields): (&DraftedList, &str),
    here: &Path,
    last: &Path,
    saved: &mut Saved,
) -> Result<DraftedList> {
    let read = |path: &Path| -> Result<Vec<Code>> {
        let mut problems = Problems::default();
        let list = CodeList::read(path, &mut problems)?;
        problems.or(list.map_or_else(Vec::new, |list| list.codes().to_vec()))
    };
    let mine = read(here)?;
    let old = if last.exists() { read(last)? } else { Vec::new() };
    let mut codes = Vec::new();
    for code in &mine {
        let new = list.codes.iter().find(|new| is_same(new, code));
        let before = old.iter().find(|old| is_same(old, code));
        codes.extend(merged_code(fields, code, new, before, saved));
    }
    for new in list.codes.iter().filter(|new| !mine.iter().any(|code| is_same(code, new))) {
        let (name, shown) = (fields, new.shown());
        if old.iter().any(|old| is_same(old, new)) {
            let says = format!("{name}: {shown} was taken out of the list, and the material still has it");
            saved.kept.push(says);
        } else {
            let label = if new.label.is_empty() { String::new() } else { format!(": {}", new.label) };
            saved.changes.push(format!("{name}: the code \"{}\" is new{label}", new.code));
            codes.push(new.clone());
        }
    }
    Ok(DraftedList { codes, ..list.clone() })
}

fn is_same(one: &Code, other: &Code) -> bool {
    one.code == other.code && one.within == other.within
}

/// A code that is there, as it is to stay: `new` is what the material says, `before` what the last draft
/// said. Nothing where it goes.
fn merged_code(
    list: &str,
    code: &Code,
    new: Option<&Code>,
    before: Option<&Code>,
    saved: &mut Saved,
) -> Option<Code> {
    let Some(new) = new else {
        let shown = code.shown();
        return match before {
            Some(before) if before == code => {
                saved
                    .changes
                    .push(format!("{list}: the code {shown} is in the material no more, and was taken out"));
                None
            }
            Some(_) => {
                let says = format!("{list}: {shown} is in the material no more, but was edited, and stays");
                saved.kept.push(says);
                Some(code.clone())
            }
            None => Some(code.clone()),
        };
    };
    let mut merged = code.clone();
    if new.label != code.label {
        let (name, was, is) = (&code.code, &code.label, &new.label);
        if before.is_some_and(|before| before.label == code.label) {
            merged.label.clone_from(is);
            saved.changes.push(format!("{list}: the label of {name} was \"{was}\" and is \"{is}\""));
        } else {
            let says = format!("{list}: the label of {name} stays \"{was}\"; the material says \"{is}\"");
            saved.kept.push(says);
        }
    }
    if new.until != code.until || new.replaced_by != code.replaced_by {
        let unedited = |before: &Code| before.until == code.until && before.replaced_by == code.replaced_by;
        if before.is_some_and(unedited) {
            let until = new.until.map_or_else(|| "no last day".into(), |day| format!("the last day {day}"));
            let then = match new.replaced_by.as_str() {
                "" => String::new(),
                code => format!(", and {code} after it"),
            };
            saved.changes.push(format!("{list}: the code \"{}\" has {until}{then} now", code.code));
            (merged.until, merged.replaced_by) = (new.until, new.replaced_by.clone());
        } else {
            saved.kept.push(format!(
                "{list}: the last day and the successor of {} stay as they were edited",
                code.code
            ));
        }
    }
    merged.also.extend(new.also.iter().filter(|also| !code.also.contains(also)).cloned());
    Some(merged)
}
