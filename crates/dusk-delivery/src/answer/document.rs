//! An answer that is a JSON document (RFC 8259): the records that it lists, and its counts.

use serde_json::Value;

use super::counts::AnswerCounts;
use super::line::whole_number;
use super::row::Row;
use dusk_description::AnswerLayout;

/// How deep objects inside records are looked into.
const DEEPEST: usize = 6;

/// A document read: one value, or one on each line.
pub(super) struct Document {
    values: Vec<Value>,
}

impl Document {
    /// Reads a document; nothing where the text is none.
    pub(super) fn read(text: &str) -> Option<Self> {
        if !text.trim_start().starts_with(['{', '[']) {
            return None;
        }
        if let Ok(value) = serde_json::from_str::<Value>(text) {
            return Some(Self { values: vec![value] });
        }
        let lines = text.lines().filter(|line| !line.trim().is_empty());
        let values: Option<Vec<Value>> = lines.map(|line| serde_json::from_str(line).ok()).collect();
        values.filter(|values| !values.is_empty()).map(|values| Self { values })
    }

    /// The records that it lists: at a path, or where it lists objects at all.
    pub(super) fn records(&self, path: Option<&str>) -> Vec<&Value> {
        match (path, self.values.as_slice()) {
            (Some(path), [only]) => at(only, path).and_then(Value::as_array).into_iter().flatten().collect(),
            (None, [only]) => lists(only, String::new(), 0)
                .into_iter()
                .max_by_key(|(_, list)| list.len())
                .map_or_else(Vec::new, |(_, list)| list.iter().collect()),
            (_, several) => several.iter().filter(|value| value.is_object()).collect(),
        }
    }

    /// The paths of lists of objects, as they are written in `records`.
    pub(super) fn paths(&self) -> Vec<String> {
        let [only] = self.values.as_slice() else { return Vec::new() };
        let mut all = lists(only, String::new(), 0);
        all.sort_by_key(|(_, list)| std::cmp::Reverse(list.len()));
        all.into_iter().map(|(path, _)| path).filter(|path| !path.is_empty()).collect()
    }

    /// The numbers that it has outside of lists, each with its path.
    pub(super) fn numbers(&self) -> Vec<(String, u64)> {
        let [only] = self.values.as_slice() else { return Vec::new() };
        let mut cells = Vec::new();
        flatten(only, String::new(), 0, &mut cells);
        cells.into_iter().filter_map(|(path, text)| Some((path, whole_number(&text)?))).collect()
    }

    /// The counts that a description names.
    pub(super) fn counts(&self, layout: &AnswerLayout) -> AnswerCounts {
        let mut counts = AnswerCounts::default();
        for (count, path) in &layout.counts {
            let number = self.values.iter().find_map(|value| whole_number(&text_of(at(value, path)?)?));
            if let Some(number) = number {
                counts.take(*count, number);
            }
        }
        counts
    }
}

/// A record as headings and cells; what is inside an object has its path for a heading.
pub(super) fn cells(record: &Value, number: u64) -> Row {
    let mut cells = Vec::new();
    flatten(record, String::new(), 0, &mut cells);
    Row { at: number, cells }
}

fn joined(path: &str, name: &str) -> String {
    if path.is_empty() { name.to_owned() } else { format!("{path}.{name}") }
}

fn flatten(value: &Value, path: String, depth: usize, out: &mut Vec<(String, String)>) {
    match value {
        Value::Object(object) if depth < DEEPEST => {
            for (name, value) in object {
                flatten(value, joined(&path, name), depth + 1, out);
            }
        }
        Value::Array(values) if values.iter().all(|value| !value.is_object() && !value.is_array()) => {
            let texts: Vec<String> = values.iter().filter_map(text_of).collect();
            out.push((path, texts.join("; ")));
        }
        Value::Array(values) if depth < DEEPEST && depth > 0 => {
            // Several messages of one record: what each says, under one name.
            let mut inner: Vec<(String, String)> = Vec::new();
            values.iter().for_each(|value| flatten(value, path.clone(), depth + 1, &mut inner));
            for (path, text) in inner {
                match out.iter_mut().find(|(known, _)| *known == path) {
                    Some((_, known)) => *known = format!("{known}; {text}"),
                    None => out.push((path, text)),
                }
            }
        }
        value => out.extend(text_of(value).map(|text| (path, text))),
    }
}

fn text_of(value: &Value) -> Option<String> {
    match value {
        Value::String(text) => Some(text.clone()),
        Value::Number(number) => Some(number.to_string()),
        Value::Bool(is) => Some(is.to_string()),
        Value::Null => Some(String::new()),
        Value::Array(_) | Value::Object(_) => None,
    }
}

fn at<'v>(value: &'v Value, path: &str) -> Option<&'v Value> {
    path.split('.').try_fold(value, |value, name| match value {
        Value::Object(object) => object.get(name),
        _ => None,
    })
}

/// The lists of objects in a value, each with its path.
fn lists(value: &Value, path: String, depth: usize) -> Vec<(String, &Vec<Value>)> {
    match value {
        Value::Array(list) if list.iter().any(Value::is_object) => vec![(path, list)],
        Value::Object(object) if depth < DEEPEST => {
            object.iter().flat_map(|(name, value)| lists(value, joined(&path, name), depth + 1)).collect()
        }
        _ => Vec::new(),
    }
}
