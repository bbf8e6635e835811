//! The description as W3C metadata for tabular data on the Web (CSVW): whatever the standard can say.
//!
//! What it cannot say (units, codes inside a parent, rules between fields, limits that move with the
//! day) is left out; what is written is never weaker in a way that would let a wrong file pass as
//! complete: it is a subset of the description.

use std::path::Path;

use serde_json::{Map, Value as Json, json};

use super::{Field, Quoting, Target, UploadEncoding};

impl Target {
    /// The metadata, for a file of the given name. Code lists are named by their paths from the
    /// description's folder.
    pub fn csvw(&self, file_name: &str) -> Json {
        let mut columns = Vec::new();
        let mut references = Vec::new();
        let mut lists: Vec<(String, bool)> = Vec::new();
        for field in &self.fields {
            match field.kind.csvw_columns() {
                Some(own) => columns.extend(own),
                None => columns.push(column(field, self.upload.decimal_mark)),
            }
            // A list whose codes have a column each is in the headings.
            if let Some(list) = field.kind.codes().filter(|_| field.kind.own_columns().is_none())
                && let Some(url) = self.list_url(&list.name)
            {
                // A code that is valid inside another one is no key by itself.
                let parent = field.kind.parent().and_then(|parent| self.fields.get(parent));
                let (columns, codes) = match parent {
                    Some(parent) => (json!([parent.name, field.name]), json!(["within", "code"])),
                    None => (json!(field.name), json!("code")),
                };
                references.push(json!({ "columnReference": columns, "reference": { "resource": url, "columnReference": codes } }));
                let url = (url, list.divided);
                if !lists.contains(&url) {
                    lists.push(url);
                }
            }
        }
        let keys: Vec<&str> =
            self.fields.iter().filter(|field| field.key).map(|field| field.name.as_str()).collect();
        let mut schema = Map::new();
        schema.insert("columns".into(), columns.into());
        if !keys.is_empty() {
            schema.insert("primaryKey".into(), json!(keys));
        }
        if !references.is_empty() {
            schema.insert("foreignKeys".into(), references.into());
        }
        let mut tables = vec![json!({
            "url": file_name,
            "dc:title": self.name,
            "dialect": self.dialect(),
            "tableSchema": schema,
        })];
        tables.extend(lists.into_iter().map(|(url, divided)| {
            let column = |name: &str| json!({ "name": name, "titles": name, "datatype": "string", "required": name != "label" });
            let names = ["code", "label"].into_iter().chain(divided.then_some("within"));
            json!({ "url": url, "tableSchema": { "columns": names.map(column).collect::<Vec<_>>() } })
        }));
        json!({ "@context": "http://www.w3.org/ns/csvw", "tables": tables })
    }

    fn list_url(&self, name: &str) -> Option<String> {
        let folder = self.files.first()?.parent().unwrap_or(Path::new(""));
        let file =
            self.files.iter().skip(1).find(|file| file.file_stem().is_some_and(|stem| stem == name))?;
        let path = file.strip_prefix(folder).unwrap_or(file);
        Some(path.components().map(|part| part.as_os_str().to_string_lossy()).collect::<Vec<_>>().join("/"))
    }

    fn dialect(&self) -> Json {
        let upload = &self.upload;
        let encoding = match upload.encoding {
            UploadEncoding::Whatwg(encoding) => encoding.name().to_ascii_lowercase(),
            other => other.label(),
        };
        let quote = if upload.quoting == Quoting::Never { Json::Null } else { json!(upload.quote) };
        json!({
            "encoding": encoding,
            "delimiter": upload.delimiter,
            "quoteChar": quote,
            "doubleQuote": true,
            "header": upload.header,
            "lineTerminators": [upload.line_end],
        })
    }
}

fn column(field: &Field, decimal_mark: char) -> Json {
    let mut column = Map::new();
    column.insert("name".into(), field.name.as_str().into());
    let titles: Vec<&str> = std::iter::once(field.heading()).chain(field.label.as_deref()).collect();
    column.insert("titles".into(), json!(titles));
    if let Some(description) = &field.description {
        column.insert("dc:description".into(), description.as_str().into());
    }
    let mut datatype = field.kind.datatype();
    if let (Json::Object(datatype), true) = (&mut datatype, decimal_mark != '.')
        && let Some(Json::String(pattern)) = datatype.get("format")
        && datatype.get("base").and_then(Json::as_str) == Some("decimal")
    {
        let mark = decimal_mark.to_string();
        let pattern = pattern.replacen('.', &mark, 1);
        datatype.insert("format".into(), json!({ "decimalChar": mark, "pattern": pattern }));
    }
    column.insert("datatype".into(), datatype);
    if let Some(separator) = field.kind.separator() {
        column.insert("separator".into(), separator.into());
    }
    if field.required {
        column.insert("required".into(), true.into());
    }
    if !field.is_sent() {
        column.insert("virtual".into(), true.into());
    }
    column.into()
}
