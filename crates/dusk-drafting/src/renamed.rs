//! Fields that have another name in a new draft, and the order of fields that a new draft brings.

use toml_edit::{Array, ArrayOfTables, Item, Table, Value};

use super::edited::{name_of, value_of};

/// The keys that say what a field holds, by which it is known again under another name.
const TELLING: [&str; 12] = [
    "label",
    "type",
    "max_length",
    "digits",
    "decimals",
    "format",
    "min",
    "max",
    "unit",
    "required",
    "codes",
    "separator",
];

/// The names that went, each with the one that came in its place: it stands between the same fields, and holds the same.
pub(super) fn renamed(old: &ArrayOfTables, new: &ArrayOfTables) -> Vec<(String, String)> {
    let names = |tables: &ArrayOfTables| -> Vec<String> {
        tables.iter().filter_map(name_of).map(str::to_owned).collect()
    };
    let (before, after) = (names(old), names(new));
    let mut found: Vec<(String, String)> = Vec::new();
    for (place, gone) in before.iter().enumerate().filter(|(_, name)| !after.contains(name)) {
        // The nearest field in front and the nearest behind that both drafts have.
        let front =
            before.iter().take(place).rev().find_map(|name| after.iter().position(|other| other == name));
        let behind = before.iter().skip(place).find_map(|name| after.iter().position(|other| other == name));
        let from = front.map_or(0, |at| at + 1);
        let until = behind.unwrap_or(after.len());
        let likeliest = (from..until)
            .filter_map(|at| after.get(at))
            .filter(|name| !before.contains(name) && !found.iter().any(|(_, taken)| taken == *name))
            .filter_map(|name| {
                let alike = alike(table_of(old, gone)?, table_of(new, name)?)?;
                Some((alike, name))
            })
            // The first of equals.
            .rev()
            .max_by_key(|(alike, _)| *alike)
            .map(|(_, name)| name);
        // A field that stands elsewhere now may say what it was called.
        let says_so = |name: &&String| {
            !before.contains(*name)
                && !found.iter().any(|(_, taken)| taken == *name)
                && table_of(new, name).is_some_and(|table| mentions(table, gone))
        };
        let name = after.iter().find(says_so).or(likeliest);
        found.extend(name.map(|name| (gone.clone(), name.clone())));
    }
    found
}

/// Whether the description of a field has a name in it, as a word of its own.
fn mentions(field: &Table, name: &str) -> bool {
    let text = field.get("description").and_then(Item::as_str).unwrap_or_default();
    name.chars().count() > 2
        && text.split(|c: char| !(c.is_alphanumeric() || c == '_')).any(|word| word == name)
}

fn table_of<'t>(tables: &'t ArrayOfTables, name: &str) -> Option<&'t Table> {
    tables.iter().find(|table| name_of(table) == Some(name))
}

/// How many of a hundred telling keys say the same; nothing where the two are of different types, or fewer than half do.
fn alike(old: &Table, new: &Table) -> Option<usize> {
    let shown = |table: &Table, key: &str| table.get(key).map(value_of);
    // Where the codes stand is called like the field.
    let same = |key: &str| match key {
        "codes" => old.contains_key(key) == new.contains_key(key),
        key => shown(old, key) == shown(new, key),
    };
    if !same("type") {
        return None;
    }
    let said = TELLING.iter().filter(|key| old.contains_key(key) || new.contains_key(key));
    let (met, all) = said.fold((0, 0), |(met, all), key| (met + usize::from(same(key)), all + 1));
    let share = met * 100 / all.max(1);
    (share >= 50).then_some(share)
}

/// Gives a field its new name; the old one stays among the names by which exports know it.
pub(super) fn rename(field: &mut Table, old: &str, new: &str) {
    if let Some(Item::Value(name)) = field.get_mut("name") {
        let decor = name.decor().clone();
        *name = Value::from(new);
        *name.decor_mut() = decor;
    }
    let also = field.entry("also").or_insert(Item::Value(Value::Array(Array::new())));
    if let Some(also) = also.as_array_mut()
        && !also.iter().any(|name| name.as_str() == Some(old))
    {
        also.push(old);
    }
}

/// Puts fields into the order of the new draft. Fields that it does not have stay behind the ones that they stood behind.
pub(super) fn order(mine: &mut ArrayOfTables, new: &ArrayOfTables) -> bool {
    let wanted: Vec<&str> = new.iter().filter_map(name_of).collect();
    let mut tables: Vec<(usize, usize, Table)> = Vec::new();
    let mut behind = 0;
    for (at, table) in mine.iter().enumerate() {
        if let Some(place) = wanted.iter().position(|name| Some(*name) == name_of(table)) {
            behind = place + 1;
        }
        tables.push((behind, at, table.clone()));
    }
    let is_in_order = tables.windows(2).all(|pair| matches!(pair, [one, other] if one.0 <= other.0));
    if is_in_order {
        return false;
    }
    tables.sort_by_key(|(behind, at, _)| (*behind, *at));
    mine.clear();
    for (.., mut table) in tables {
        table.set_position(None);
        mine.push(table);
    }
    true
}
