//! Changes inside what a steward wrote, each because the steward said so: names added under `[leave_out]`, and the
//! new heading of a column that was renamed. Everything else stays byte by byte.

use toml_edit::{Array, DocumentMut, Item, Table, Value, value};

/// The text with names added to a list under `[leave_out]`, which is made where it is not there; nothing where the
/// text is not such a file.
pub(super) fn with_left_out(text: &str, key: &str, names: &[String]) -> Option<String> {
    if names.is_empty() {
        return Some(text.to_owned());
    }
    let mut document: DocumentMut = text.parse().ok()?;
    let is_new = !document.contains_key("leave_out");
    let table =
        document.entry("leave_out").or_insert_with(|| Item::Table(Table::new())).as_table_like_mut()?;
    let list = table.entry(key).or_insert_with(|| value(Array::new())).as_array_mut()?;
    list.extend(names);
    // A table of its own stands behind all that is there, comments too.
    let mut written = document.to_string();
    if is_new {
        let mut alone = DocumentMut::new();
        alone.insert("leave_out", document.get("leave_out")?.clone());
        written = format!("{}\n\n{alone}", text.trim_end());
    }
    Some(written)
}

/// The text with the new heading of a column that feeds a field; nothing where that is not one plain line.
pub(super) fn with_new_heading(text: &str, field: &str, old: &str, new: &str) -> Option<String> {
    let mut document: DocumentMut = text.parse().ok()?;
    let is_it = |map: &&mut Table| {
        let says = |key: &str| map.get(key).and_then(Item::as_str);
        says("field") == Some(field) && says("from") == Some(old)
    };
    let map = document.get_mut("map")?.as_array_of_tables_mut()?.iter_mut().find(is_it)?;
    let from = map.get_mut("from")?.as_value_mut()?;
    let decor = from.decor().clone();
    *from = Value::from(new);
    *from.decor_mut() = decor;
    Some(document.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_go_into_the_list_that_is_there() {
        let text = "target = \"t\"\n[leave_out]\ncolumns = [\"A ]\",  # no\n  'B',\n]\n\n[rows]\nx = 1\n";
        let more = with_left_out(text, "columns", &["C".into()]).unwrap();
        let read: toml::Table = more.parse().unwrap();
        let list: Vec<&str> =
            read["leave_out"]["columns"].as_array().unwrap().iter().filter_map(toml::Value::as_str).collect();
        assert_eq!(list, ["A ]", "B", "C"], "{more}");
        assert!(more.contains("# no") && more.ends_with("\n[rows]\nx = 1\n"), "{more}");
        let fields = with_left_out(&more, "fields", &["f".into()]).unwrap();
        assert!(fields.contains("fields = [\"f\"]"), "{fields}");
        let new = with_left_out("x = 1\n# mine\n", "columns", &["C".into()]).unwrap();
        assert_eq!(new, "x = 1\n# mine\n\n[leave_out]\ncolumns = [\"C\"]\n");
    }

    #[test]
    fn a_new_heading_changes_one_text_only() {
        let text = "[[map]]\nfield = \"a\"\nfrom  = \"Old\"   # as agreed\n\n[[map]]\nfield = \"b\"\nfrom = \"Old\"  # so\n";
        let new = with_new_heading(text, "b", "Old", "New").unwrap();
        assert_eq!(new, text.replacen("from = \"Old\"", "from = \"New\"", 1));
        assert_eq!(with_new_heading(text, "c", "Old", "New"), None);
    }
}
