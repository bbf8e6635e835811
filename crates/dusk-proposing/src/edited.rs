//! Changes inside what a steward wrote, each because the steward said so: names added under `[leave_out]`, and the
//! new heading of a column that was renamed. Everything else stays byte by byte.

use std::ops::Range;

use dusk_files::toml_text;

/// The text with names added to a list under `[leave_out]`, which is made where it is not there.
pub(super) fn with_left_out(text: &str, key: &str, names: &[String]) -> String {
    if names.is_empty() {
        return text.to_owned();
    }
    let listed: Vec<String> = names.iter().map(|name| toml_text(name)).collect();
    let listed = listed.join(", ");
    let Some(table) = table(text, "[leave_out]") else {
        return format!("{}\n[leave_out]\n{key} = [{listed}]\n", text.trim_end().to_owned() + "\n");
    };
    let inside = text.get(table.clone()).unwrap_or_default();
    let (at, more) = match list(inside, key) {
        Some(Range { start, end }) => {
            let held = inside.get(start..end).unwrap_or_default().trim_end();
            let between = if held.is_empty() || held.ends_with(',') { "" } else { ", " };
            (table.start + start + held.len(), format!("{between}{listed}"))
        }
        None => (table.start, format!("{key} = [{listed}]\n")),
    };
    let (before, behind) = text.split_at_checked(at).unwrap_or((text, ""));
    format!("{before}{more}{behind}")
}

/// The text with the new heading of a column that feeds a field; nothing where that is not one plain line.
pub(super) fn with_new_heading(text: &str, field: &str, old: &str, new: &str) -> Option<String> {
    let mut at = 0;
    let mut is_in_map = false;
    let mut is_of_field = false;
    let mut from: Option<Range<usize>> = None;
    for line in text.split_inclusive('\n').chain(std::iter::once("[end]")) {
        if line.trim_start().starts_with('[') {
            if let Some(range) = from.take().filter(|_| is_of_field) {
                return Some(format!(
                    "{}{}{}",
                    text.get(..range.start)?,
                    toml_text(new),
                    text.get(range.end..)?
                ));
            }
            is_in_map = line.trim() == "[[map]]";
            is_of_field = false;
        }
        if is_in_map && let Some((key, value)) = line.split_once('=') {
            match key.trim() {
                "field" => is_of_field = value_of(value).as_deref() == Some(field),
                "from" if value_of(value).as_deref() == Some(old) => {
                    let quoted = value.trim_start();
                    let start = at + line.len() - quoted.len();
                    from = Some(start..start + quoted_length(quoted)?);
                }
                _ => {}
            }
        }
        at += line.len();
    }
    None
}

/// What a line says behind its key, where that is a text.
fn value_of(value: &str) -> Option<String> {
    let quoted = value.trim_start();
    let alone = quoted.get(..quoted_length(quoted)?)?;
    let table: toml::Table = format!("it = {alone}").parse().ok()?;
    table.get("it")?.as_str().map(str::to_owned)
}

/// How long a text in quotes is, at the start of a line.
fn quoted_length(text: &str) -> Option<usize> {
    let quote = text.chars().next().filter(|quote| matches!(quote, '"' | '\''))?;
    let mut is_escaped = false;
    for (at, letter) in text.char_indices().skip(1) {
        match letter {
            _ if is_escaped => is_escaped = false,
            '\\' if quote == '"' => is_escaped = true,
            letter if letter == quote => return Some(at + 1),
            _ => {}
        }
    }
    None
}

/// Where the lines of a table stand: from behind its heading to the next.
fn table(text: &str, heading: &str) -> Option<Range<usize>> {
    let mut at = 0;
    let mut start = None;
    for line in text.split_inclusive('\n') {
        let is_heading = line.trim_start().starts_with('[') && !line.trim_start().starts_with("[\"");
        match start {
            None if line.trim() == heading => start = Some(at + line.len()),
            Some(start) if is_heading => return Some(start..at),
            _ => {}
        }
        at += line.len();
    }
    start.map(|start| start..text.len())
}

/// Where the items of a list stand inside a table: between its brackets.
fn list(table: &str, key: &str) -> Option<Range<usize>> {
    let mut at = 0;
    let line = table.split_inclusive('\n').find_map(|line| {
        let start = at;
        at += line.len();
        (line.split_once('=')?.0.trim() == key).then_some(start)
    })?;
    let open = line + table.get(line..)?.find('[')? + 1;
    let mut rest = table.get(open..)?;
    let mut end = open;
    loop {
        let letter = rest.chars().next()?;
        let length = match letter {
            ']' => return Some(open..end),
            '"' | '\'' => quoted_length(rest)?,
            '#' => rest.find('\n').unwrap_or(rest.len()),
            letter => letter.len_utf8(),
        };
        end += length;
        rest = rest.get(length..)?;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_go_into_the_list_that_is_there() {
        let text = "target = \"t\"\n[leave_out]\ncolumns = [\"A ]\",  # no\n  'B',\n]\n\n[rows]\nx = 1\n";
        let more = with_left_out(text, "columns", &["C".into()]);
        let read: toml::Table = more.parse().unwrap();
        let list: Vec<&str> =
            read["leave_out"]["columns"].as_array().unwrap().iter().filter_map(toml::Value::as_str).collect();
        assert_eq!(list, ["A ]", "B", "C"], "{more}");
        let fields = with_left_out(&more, "fields", &["f".into()]);
        assert!(fields.contains("[leave_out]\nfields = [\"f\"]\ncolumns"), "{fields}");
        assert!(
            with_left_out("x = 1\n", "columns", &["C".into()])
                .ends_with("\n[leave_out]\ncolumns = [\"C\"]\n")
        );
    }

    #[test]
    fn a_new_heading_changes_one_text_only() {
        let text = "[[map]]\nfield = \"a\"\nfrom  = \"Old\"   # as agreed\n\n[[map]]\nfield = \"b\"\nfrom = \"Old\"\n";
        let new = with_new_heading(text, "b", "Old", "New \"1\"").unwrap();
        assert!(new.starts_with("[[map]]\nfield = \"a\"\nfrom  = \"Old\"   # as agreed\n"), "{new}");
        let read: toml::Table = new.parse().unwrap();
        assert_eq!(read["map"][1]["from"].as_str(), Some("New \"1\""));
        assert_eq!(with_new_heading(text, "c", "Old", "New"), None);
    }
}
