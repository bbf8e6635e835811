//! W3C metadata for tabular data on the Web (CSVW) as material: tables, dialect, datatypes, formats,
//! constraints and keys ("Metadata Vocabulary for Tabular Data", W3C Recommendation of 2015).

use std::io::Read as _;
use std::path::Path;

use serde_json::Value as Json;

use super::claim::{Drafted, Place, Setting};
use super::code_lists::{self, FoundList};
use super::dictionary::Described;
use super::facts::{Fact, Kind, fold};
use super::{DraftOptions, Material};
use dusk_evidence::{Error, Result};
use dusk_values::{DatePattern, ValueType};

/// The vocabulary that a metadata file has to name.
const CONTEXT: &str = "http://www.w3.org/ns/csvw";

/// True when the file is JSON.
pub(super) fn is_metadata(path: &Path) -> Result<bool> {
    let mut head = [0; 64];
    let mut file = std::fs::File::open(path).map_err(Error::reading(path))?;
    let length = file.read(&mut head).map_err(Error::reading(path))?;
    let head = head.get(..length).unwrap_or_default();
    let head = head.strip_prefix(b"\xef\xbb\xbf").unwrap_or(head);
    Ok(head.iter().find(|byte| !byte.is_ascii_whitespace()) == Some(&b'{'))
}

/// Where a reader of the file is: the file, and the path in it.
struct Reader<'d> {
    file: String,
    drafted: &'d mut Drafted,
}

impl Reader<'_> {
    fn place(&self, at: &str) -> Place {
        Place { file: self.file.clone(), at: at.to_owned() }
    }

    fn ask(&mut self, about: &str, says: impl Into<String>, at: &str) {
        let place = self.place(at);
        self.drafted.ask(about, says, &place);
    }
}

/// Describes the fields of one table of the metadata file at `path`.
pub(super) fn describe(
    path: &Path,
    options: &DraftOptions,
    described: &mut Vec<Described>,
    lists: &mut Vec<FoundList>,
    drafted: &mut Drafted,
) -> Result<()> {
    let name = path.display().to_string();
    let wrong =
        |says: String, hint: &str| Error::Source { source_name: name.clone(), says, hint: hint.to_owned() };
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let json: Json =
        serde_json::from_slice(bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes)).map_err(|error| {
            wrong(format!("is JSON that cannot be read: {error}"), "check that the file is whole")
        })?;
    let file = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let mut reader = Reader { file, drafted };
    let context = match json.get("@context") {
        Some(Json::Array(parts)) => parts.first().and_then(Json::as_str),
        other => other.and_then(Json::as_str),
    };
    if context != Some(CONTEXT) {
        reader.ask(
            "@context",
            format!("is not \"{CONTEXT}\", as the standard demands; the file was read all the same"),
            "",
        );
    }
    let tables: Vec<(String, &Json)> = match json.get("tables").and_then(Json::as_array) {
        Some(tables) => {
            tables.iter().enumerate().map(|(place, table)| (format!("tables/{place}"), table)).collect()
        }
        None => vec![(String::new(), &json)],
    };
    let url = |table: &Json| table.get("url").and_then(Json::as_str).unwrap_or_default().to_owned();
    let is_list = |table: &Json| {
        tables.iter().any(|(_, other)| {
            references(other).any(|(_, to, _)| to == url(table) && !std::ptr::eq(*other, table))
        })
    };
    let stem = |table: &Json| {
        let url = url(table);
        let name = url.rsplit('/').next().unwrap_or_default();
        name.rsplit_once('.').map_or(name, |(stem, _)| stem).to_owned()
    };
    let own: Vec<&(String, &Json)> =
        tables.iter().filter(|(_, table)| table.get("tableSchema").is_some() && !is_list(table)).collect();
    if own.is_empty() {
        return Err(wrong(
            "has no tableSchema in any table".into(),
            "the standard describes the columns of a table there",
        ));
    }
    let names: Vec<String> = own.iter().map(|(_, table)| stem(table)).collect();
    let chosen = match (&options.table, own.as_slice()) {
        (Some(wanted), _) => {
            own.iter().find(|(_, table)| fold(&stem(table)) == fold(wanted) || url(table) == *wanted).copied()
        }
        (None, [only]) => Some(*only),
        (None, _) => None,
    };
    let Some((at, table)) = chosen else {
        return Err(Error::Request(format!(
            "{name} describes {} tables; say which one to draft: --table \"{}\"",
            names.len(),
            names.join("\" or --table \"")
        )));
    };
    let columns = table.pointer("/tableSchema/columns").and_then(Json::as_array);
    let Some(columns) = columns else {
        return Err(wrong(
            "has no tableSchema with columns".into(),
            "the standard puts the columns into tableSchema",
        ));
    };
    let whole = reader.place(at);
    reader.drafted.took(&whole, format!("the metadata of {}: {} columns", url(table), columns.len()));
    if let Some(title) =
        ["dc:title", "http://purl.org/dc/terms/title"].iter().find_map(|key| text_of(table.get(key)?))
    {
        reader.drafted.name = title;
    }
    layout(&mut reader, table.get("dialect").or_else(|| json.get("dialect")), &whole);
    let keys = names_of(table.pointer("/tableSchema/primaryKey"));
    let mut known = Vec::new();
    for (place, column) in columns.iter().enumerate() {
        let at = format!(
            "{}tableSchema/columns/{place}",
            if at.is_empty() { String::new() } else { format!("{at}/") }
        );
        if let Some(field) = field_of(&mut reader, column, &keys, &at) {
            known.push(field);
        }
    }
    for key in keys.iter().filter(|key| !known.iter().any(|field| field.name == **key)) {
        reader.ask("primaryKey", format!("names \"{key}\", which is no column"), at);
    }
    for (column, to, code) in references(table) {
        let listed = tables.iter().find(|(_, other)| url(other) == to);
        let file = path.parent().unwrap_or(Path::new("")).join(&to);
        let Some(field) = known.iter_mut().find(|field| field.name == column) else {
            reader.ask("foreignKeys", format!("names \"{column}\", which is no column"), at);
            continue;
        };
        if listed.is_none() && !file.exists() || !file.exists() {
            let from = field.from.clone();
            reader.drafted.ask(
                column,
                format!("its codes are in \"{to}\", which is not beside the metadata; text was written"),
                &from,
            );
            continue;
        }
        let material = Material::open(&file)?;
        let Some(sheet) = material.sheets.first() else { continue };
        let blocks = code_lists::find(sheet);
        let found = blocks
            .first()
            .map(|block| code_lists::read(&material, sheet, block, true, reader.drafted))
            .unwrap_or_default();
        let Some(list) = found.into_iter().next() else {
            let from = field.from.clone();
            reader.drafted.ask(
                column,
                format!("\"{to}\" has no column of codes ({code}) and labels that could be made out"),
                &from,
            );
            continue;
        };
        let from = field.from.clone();
        // Codes parted in one cell stay several codes.
        if !field.facts.iter().any(|(fact, _)| matches!(fact, Fact::Kind(Kind::Codes))) {
            field.facts.retain(|(fact, _)| !matches!(fact, Fact::Kind(_)));
            field.facts.push((Fact::Kind(Kind::Code), from.clone()));
        }
        field.facts.push((Fact::SeeList(list.list.title.clone()), from));
        let whole = material.whole(sheet);
        reader
            .drafted
            .took(&whole, format!("the code list \"{}\": {} codes", list.list.title, list.list.codes.len()));
        if !lists.iter().any(|known: &FoundList| known.list.name == list.list.name) {
            lists.push(list);
        }
    }
    described.extend(known);
    Ok(())
}

/// Columns that refer to another table: the column, the table's address, its column. Of several
/// columns the last is the code; the others are what it is inside of.
fn references(table: &Json) -> impl Iterator<Item = (String, String, String)> {
    let keys = table.pointer("/tableSchema/foreignKeys").and_then(Json::as_array);
    keys.into_iter().flatten().filter_map(|key| {
        let columns = names_of(key.get("columnReference"));
        let to = key.pointer("/reference/resource").and_then(Json::as_str)?;
        let codes = names_of(key.pointer("/reference/columnReference"));
        match (columns.as_slice(), codes.as_slice()) {
            ([.., column], [.., code]) => Some((column.clone(), to.to_owned(), code.clone())),
            _ => None,
        }
    })
}

/// One name or several, as the standard allows.
fn names_of(json: Option<&Json>) -> Vec<String> {
    match json {
        Some(Json::String(name)) => vec![name.clone()],
        Some(Json::Array(names)) => names.iter().filter_map(Json::as_str).map(str::to_owned).collect(),
        _ => Vec::new(),
    }
}

/// A text, or the first of the texts of a natural language property.
fn text_of(json: &Json) -> Option<String> {
    texts_of(json).into_iter().next()
}

fn texts_of(json: &Json) -> Vec<String> {
    match json {
        Json::String(text) => vec![text.clone()],
        Json::Array(texts) => texts.iter().flat_map(texts_of).collect(),
        Json::Object(by_language) => match by_language.get("@value") {
            Some(value) => texts_of(value),
            None => by_language.values().flat_map(texts_of).collect(),
        },
        _ => Vec::new(),
    }
}

fn layout(reader: &mut Reader<'_>, dialect: Option<&Json>, whole: &Place) {
    let mut set = |key, value| reader.drafted.upload.set(key, value, whole);
    let at = |key: &str| dialect.and_then(|dialect| dialect.get(key));
    let text = |key: &str| at(key).and_then(Json::as_str).map(str::to_owned);
    // What is left out is what the standard says it is then.
    set("format", Setting::Text("delimited".into()));
    set("encoding", Setting::Text(text("encoding").unwrap_or_else(|| "utf-8".into())));
    set("delimiter", Setting::Text(text("delimiter").unwrap_or_else(|| ",".into())));
    if let Some(quote) = text("quoteChar").filter(|quote| quote != "\"") {
        set("quote", Setting::Text(quote));
    }
    set("header", Setting::Flag(at("header").and_then(Json::as_bool).unwrap_or(true)));
    let ends = names_of(at("lineTerminators"));
    let end = match ends.first().map(String::as_str) {
        Some("\n") => "lf",
        Some("\r") => "cr",
        _ => "crlf",
    };
    set("line_end", Setting::Text(end.into()));
}

fn field_of(reader: &mut Reader<'_>, column: &Json, keys: &[String], at: &str) -> Option<Described> {
    let titles = column.get("titles").or_else(|| column.get("title")).map(texts_of).unwrap_or_default();
    let name =
        column.get("name").and_then(Json::as_str).map(str::to_owned).or_else(|| titles.first().cloned());
    let Some(name) = name else {
        reader.ask("columns", "a column has neither a name nor a title, and was left out", at);
        return None;
    };
    let from = reader.place(at);
    let mut field = Described::new(&name, from.clone());
    field.heading = titles.first().cloned().filter(|title| *title != name);
    field.label = titles.get(1).cloned().unwrap_or_default();
    let description = ["dc:description", "http://purl.org/dc/terms/description"]
        .iter()
        .find_map(|key| text_of(column.get(key)?));
    field.description.extend(description);
    field.never_send = column.get("virtual").and_then(Json::as_bool).unwrap_or(false);
    let mut found = datatype(reader, column, &name, at);
    if let Some(separator) = column.get("separator").and_then(Json::as_str) {
        found.retain(|fact| !matches!(fact, Fact::Kind(_)));
        found.extend([Fact::Kind(Kind::Codes), Fact::Separator(separator.to_owned())]);
    }
    if column.get("required").and_then(Json::as_bool).unwrap_or(false) {
        found.push(Fact::Required(true));
    }
    if keys.contains(&name) {
        found.push(Fact::Key);
    }
    field.default = column
        .get("default")
        .and_then(Json::as_str)
        .filter(|text| !text.is_empty())
        .map(|text| (text.to_owned(), from.clone()));
    field.facts = found.into_iter().map(|fact| (fact, from.clone())).collect();
    Some(field)
}

/// The least and the most of the whole numbers that have a range (XML Schema, part 2); those of 64 bits are as
/// good as any.
const RANGES: [(&str, Option<&str>, Option<&str>); 11] = [
    ("byte", Some("-128"), Some("127")),
    ("short", Some("-32768"), Some("32767")),
    ("int", Some("-2147483648"), Some("2147483647")),
    ("unsignedByte", Some("0"), Some("255")),
    ("unsignedShort", Some("0"), Some("65535")),
    ("unsignedInt", Some("0"), Some("4294967295")),
    ("unsignedLong", Some("0"), None),
    ("nonNegativeInteger", Some("0"), None),
    ("positiveInteger", Some("1"), None),
    ("nonPositiveInteger", None, Some("0")),
    ("negativeInteger", None, Some("-1")),
];

fn datatype(reader: &mut Reader<'_>, column: &Json, name: &str, at: &str) -> Vec<Fact> {
    let kind = column.get("datatype");
    let base = match kind {
        None => "string",
        Some(Json::String(base)) => base,
        Some(other) => other.get("base").and_then(Json::as_str).unwrap_or("string"),
    };
    let word = match base {
        "string" | "normalizedString" | "token" | "anyAtomicType" | "any" | "anyURI" | "QName"
        | "language" | "Name" | "NMTOKEN" => Kind::Text,
        "integer" | "int" | "long" | "short" | "byte" | "nonNegativeInteger" | "positiveInteger"
        | "unsignedInt" | "unsignedLong" | "unsignedShort" | "unsignedByte" | "nonPositiveInteger"
        | "negativeInteger" => Kind::Integer,
        "decimal" | "double" | "float" | "number" => Kind::Decimal,
        "date" => Kind::Date,
        "datetime" | "dateTime" | "dateTimeStamp" => Kind::DateTime,
        "time" => Kind::Time,
        "boolean" => Kind::Boolean,
        other => {
            reader.ask(
                name,
                format!("\"{other}\" is no datatype that a description knows; text was written"),
                at,
            );
            Kind::Text
        }
    };
    let mut found = vec![Fact::Kind(word)];
    let own = |keys: [&str; 3]| kind.is_some_and(|kind| keys.iter().any(|key| kind.get(key).is_some()));
    if let Some((_, least, most)) = RANGES.iter().find(|(name, ..)| *name == base) {
        if !own(["minimum", "minInclusive", "minExclusive"]) {
            found.extend(least.map(|least| Fact::Min(least.into())));
        }
        if !own(["maximum", "maxInclusive", "maxExclusive"]) {
            found.extend(most.map(|most| Fact::Max(most.into())));
        }
    }
    let Some(Json::Object(more)) = kind else { return found };
    let text = |key: &str| match more.get(key) {
        Some(Json::String(text)) => Some(text.clone()),
        Some(Json::Number(number)) => Some(number.to_string()),
        _ => None,
    };
    let days = matches!(word, Kind::Date | Kind::DateTime | Kind::Time);
    if let Some(format) = text("format").or_else(|| {
        more.get("format").and_then(|format| format.get("pattern")).and_then(Json::as_str).map(str::to_owned)
    }) {
        match word {
            Kind::Boolean => match format.split_once('|') {
                Some((yes, no)) => found.push(Fact::Words(yes.into(), no.into())),
                None => reader.ask(
                    name,
                    format!(
                        "the format \"{format}\" gives no words for true and false; the standard writes Y|N"
                    ),
                    at,
                ),
            },
            Kind::Text => found.push(match only_digits(&format) {
                Some(digits) => Fact::Digits(digits),
                None => Fact::Pattern(format, true),
            }),
            _ if days => match DatePattern::parse(&format) {
                Ok(_) => {
                    let holds = match word {
                        Kind::DateTime => ValueType::DateTime,
                        Kind::Time => ValueType::Time,
                        _ => ValueType::Date,
                    };
                    found.push(Fact::Format(format, holds));
                }
                Err(says) => reader.ask(name, format!("the format \"{format}\" {says}"), at),
            },
            _ => found.push(Fact::Decimals(
                format
                    .split_once('.')
                    .map_or(0, |(_, after)| after.chars().filter(|c| matches!(c, '0' | '#')).count() as u64),
            )),
        }
    }
    for (keys, make) in [
        (["minimum", "minInclusive"], (|limit| Fact::Min(limit)) as fn(String) -> Fact),
        (["maximum", "maxInclusive"], |limit| Fact::Max(limit)),
    ] {
        let Some(limit) = keys.iter().find_map(|key| text(key)) else { continue };
        found.push(match (make(limit), days) {
            (Fact::Min(day), true) => Fact::NotBefore(day),
            (Fact::Max(day), true) => Fact::NotAfter(day),
            (fact, _) => fact,
        });
    }
    for (key, sign) in [("minExclusive", ">"), ("maxExclusive", "<")] {
        found.extend(text(key).map(|limit| Fact::Rule(format!("_ {sign} {limit}"))));
    }
    for key in ["length", "minLength"] {
        if let Some(length) = text(key) {
            reader.ask(name, format!("{key} {length} cannot be said by itself; write a pattern for it"), at);
        }
    }
    for key in ["decimalChar", "groupChar"] {
        if let Some(mark) = more
            .get("format")
            .and_then(|format| format.get(key))
            .and_then(Json::as_str)
            .filter(|mark| *mark != ".")
        {
            reader.ask(name, format!("its numbers are to be written with the {key} \"{mark}\", which no upload of this program does"), at);
        }
    }
    if let Some(length) = text("length").or_else(|| text("maxLength")).and_then(|length| length.parse().ok())
    {
        found.push(Fact::Length(length));
    }
    found
}

/// How many digits a form of nothing but digits wants: `[0-9]{6}`.
fn only_digits(form: &str) -> Option<u64> {
    let count = form.strip_prefix("[0-9]{").or_else(|| form.strip_prefix("\\d{"))?;
    count.strip_suffix('}')?.parse().ok()
}
