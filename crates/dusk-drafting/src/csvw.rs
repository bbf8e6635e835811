//! W3C metadata for tabular data on the Web (CSVW) as material: tables, dialect, datatypes, formats,
//! constraints and keys ("Metadata Vocabulary for Tabular Data", W3C Recommendation of 2015).

use std::io::Read as _;
use std::path::Path;

use serde_json::{Map, Value as Json};

use super::claim::{Drafted, Place, Setting};
use super::code_lists::{self, FoundList};
use super::dictionary::Described;
use super::facts::{FieldFact, FieldKind, fold};
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

    /// The comma of one field's numbers is that of the whole file.
    fn decimal_comma(&mut self, name: &str, at: &str) {
        let place = self.place(at);
        if let Some(says) = self.drafted.upload.claim("decimal_mark", Setting::Text(",".into()), &place) {
            self.drafted.ask(name, says, &place);
        }
    }

    fn ask(&mut self, about: &str, says: impl Into<String>, at: &str) {
        let place = self.place(at);
        self.drafted.ask(about, says, &place);
    }
}

/// A table of the metadata, and where it stands in the file.
#[derive(Clone, Copy)]
struct TableAt<'j> {
    at: &'j str,
    table: &'j Json,
}

impl TableAt<'_> {
    /// The address of the file that it describes.
    fn url(self) -> String {
        self.table.get("url").and_then(Json::as_str).unwrap_or_default().to_owned()
    }

    /// The file's name without its ending.
    fn stem(self) -> String {
        let url = self.url();
        let name = url.rsplit('/').next().unwrap_or_default();
        name.rsplit_once('.').map_or(name, |(stem, _)| stem).to_owned()
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
    let json = read_json(path)?;
    let file = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let mut reader = Reader { file, drafted };
    check_context(&mut reader, &json);
    let tables = tables_of(&json);
    let tables: Vec<TableAt<'_>> = tables.iter().map(|(at, table)| TableAt { at, table }).collect();
    let chosen = chosen_table(path, &tables, options)?;
    let columns = chosen.table.pointer("/tableSchema/columns").and_then(Json::as_array).ok_or_else(|| {
        let says = "has no tableSchema with columns";
        wrong(path, says, "the standard puts the columns into tableSchema")
    })?;
    let whole = reader.place(chosen.at);
    let says = format!("the metadata of {}: {} columns", chosen.url(), columns.len());
    reader.drafted.took(&whole, says);
    let titles = ["dc:title", "http://purl.org/dc/terms/title"];
    if let Some(title) = titles.iter().find_map(|key| text_of(chosen.table.get(key)?)) {
        reader.drafted.name = title;
    }
    layout(&mut reader, chosen.table.get("dialect").or_else(|| json.get("dialect")), &whole);
    let mut known = fields_of(&mut reader, chosen, columns);
    for reference in references(chosen.table) {
        refer(&mut reader, path, chosen, &tables, reference, &mut known, lists)?;
    }
    described.extend(known);
    Ok(())
}

fn wrong(path: &Path, says: impl Into<String>, hint: &str) -> Error {
    Error::Source { source_name: path.display().to_string(), says: says.into(), hint: hint.to_owned() }
}

fn read_json(path: &Path) -> Result<Json> {
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
    serde_json::from_slice(bytes).map_err(|error| {
        wrong(path, format!("is JSON that cannot be read: {error}"), "check that the file is whole")
    })
}

fn check_context(reader: &mut Reader<'_>, json: &Json) {
    let context = match json.get("@context") {
        Some(Json::Array(parts)) => parts.first().and_then(Json::as_str),
        other => other.and_then(Json::as_str),
    };
    if context != Some(CONTEXT) {
        let says = format!("is not \"{CONTEXT}\", as the standard demands; the file was read all the same");
        reader.ask("@context", says, "");
    }
}

/// The tables of a group, or the one table that the file describes.
fn tables_of(json: &Json) -> Vec<(String, &Json)> {
    match json.get("tables").and_then(Json::as_array) {
        Some(tables) => {
            tables.iter().enumerate().map(|(place, table)| (format!("tables/{place}"), table)).collect()
        }
        None => vec![(String::new(), json)],
    }
}

/// The table to be drafted: the one asked for, or the only one that no other refers to.
fn chosen_table<'j>(path: &Path, tables: &[TableAt<'j>], options: &DraftOptions) -> Result<TableAt<'j>> {
    let is_list = |table: &TableAt<'_>| {
        tables.iter().any(|other| {
            references(other.table)
                .any(|(_, to, _)| to == table.url() && !std::ptr::eq(other.table, table.table))
        })
    };
    let has_schema = |table: &&TableAt<'_>| table.table.get("tableSchema").is_some();
    let own: Vec<TableAt<'_>> =
        tables.iter().filter(has_schema).filter(|table| !is_list(table)).copied().collect();
    if own.is_empty() {
        let says = "has no tableSchema in any table";
        return Err(wrong(path, says, "the standard describes the columns of a table there"));
    }
    let chosen = match (&options.table, own.as_slice()) {
        (Some(wanted), _) => {
            own.iter().find(|table| fold(&table.stem()) == fold(wanted) || table.url() == *wanted).copied()
        }
        (None, [only]) => Some(*only),
        (None, _) => None,
    };
    chosen.ok_or_else(|| {
        let names: Vec<String> = own.iter().map(|table| table.stem()).collect();
        Error::Request(format!(
            "{} describes {} tables; say which one to draft: --table \"{}\"",
            path.display(),
            names.len(),
            names.join("\" or --table \"")
        ))
    })
}

/// The fields that the columns describe; a key that is no column is asked about.
fn fields_of(
    reader: &mut Reader<'_>,
    TableAt { at, table }: TableAt<'_>,
    columns: &[Json],
) -> Vec<Described> {
    let keys = names_of(table.pointer("/tableSchema/primaryKey"));
    let before = if at.is_empty() { String::new() } else { format!("{at}/") };
    let mut known = Vec::new();
    for (place, column) in columns.iter().enumerate() {
        let at = format!("{before}tableSchema/columns/{place}");
        known.extend(field_of(reader, column, &keys, &at));
    }
    for key in keys.iter().filter(|key| !known.iter().any(|field| field.name == **key)) {
        reader.ask("primaryKey", format!("names \"{key}\", which is not a column"), at);
    }
    known
}

/// Gives a field the codes of the file that its column refers to.
fn refer(
    reader: &mut Reader<'_>,
    path: &Path,
    chosen: TableAt<'_>,
    tables: &[TableAt<'_>],
    (column, to, code): (String, String, String),
    known: &mut [Described],
    lists: &mut Vec<FoundList>,
) -> Result<()> {
    let Some(field) = known.iter_mut().find(|field| field.name == column) else {
        reader.ask("foreignKeys", format!("names \"{column}\", which is not a column"), chosen.at);
        return Ok(());
    };
    let file = path.parent().unwrap_or(Path::new("")).join(&to);
    let from = field.from.clone();
    if !tables.iter().any(|other| other.url() == to) && !file.exists() || !file.exists() {
        let says = format!("its codes are in \"{to}\", which is not beside the metadata; text was written");
        reader.drafted.ask(column, says, &from);
        return Ok(());
    }
    let material = Material::open(&file)?;
    let Some(sheet) = material.sheets.first() else { return Ok(()) };
    let blocks = code_lists::find(sheet, &[]);
    let found = blocks.first().map(|block| code_lists::read(&material, sheet, block, true, reader.drafted));
    let Some(list) = found.unwrap_or_default().into_iter().next() else {
        let says = format!("\"{to}\" has no column of codes ({code}) and labels that could be made out");
        reader.drafted.ask(column, says, &from);
        return Ok(());
    };
    // Codes parted in one cell stay several codes.
    if !field.facts.iter().any(|(fact, _)| matches!(fact, FieldFact::Kind(FieldKind::Codes))) {
        field.facts.retain(|(fact, _)| !matches!(fact, FieldFact::Kind(_)));
        field.facts.push((FieldFact::Kind(FieldKind::Code), from.clone()));
    }
    field.facts.push((FieldFact::SeeList(list.list.title.clone()), from));
    let says = format!("the code list \"{}\": {} codes", list.list.title, list.list.codes.len());
    reader.drafted.took(&material.whole(sheet), says);
    if !lists.iter().any(|known: &FoundList| known.list.name == list.list.name) {
        lists.push(list);
    }
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
    // Titles in other languages are other names.
    field.also = titles.iter().skip(2).cloned().collect();
    let blank = column.get("null").map(texts_of).unwrap_or_default();
    let blank: Vec<String> =
        blank.iter().filter(|text| !text.is_empty()).map(|text| format!("\"{text}\"")).collect();
    if !blank.is_empty() {
        let says = format!(
            "{} mean a blank value in the target's files; an upload leaves it blank, and a mapping says blank = [{}] where an export has them",
            blank.join(" and "),
            blank.join(", ")
        );
        let place = reader.place(at);
        reader.drafted.point_out(name.as_str(), says, &place);
    }
    let description = ["dc:description", "http://purl.org/dc/terms/description"]
        .iter()
        .find_map(|key| text_of(column.get(key)?));
    field.description.extend(description.map(|text| (text, field.from.clone())));
    field.never_send = column.get("virtual").and_then(Json::as_bool).unwrap_or(false);
    let mut found = datatype(reader, column, &name, at);
    if let Some(separator) = column.get("separator").and_then(Json::as_str) {
        found.retain(|fact| !matches!(fact, FieldFact::Kind(_)));
        found.extend([FieldFact::Kind(FieldKind::Codes), FieldFact::Separator(separator.to_owned())]);
    }
    if column.get("required").and_then(Json::as_bool).unwrap_or(false) {
        found.push(FieldFact::Required(true));
    }
    if keys.contains(&name) {
        found.push(FieldFact::Key);
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

/// The datatypes of the standard, each with what it is here.
const DATATYPES: [(FieldKind, &[&str]); 7] = [
    (
        FieldKind::Text,
        &[
            "string",
            "normalizedString",
            "token",
            "anyAtomicType",
            "any",
            "anyURI",
            "QName",
            "language",
            "Name",
            "NMTOKEN",
        ],
    ),
    (
        FieldKind::Integer,
        &[
            "integer",
            "int",
            "long",
            "short",
            "byte",
            "nonNegativeInteger",
            "positiveInteger",
            "unsignedInt",
            "unsignedLong",
            "unsignedShort",
            "unsignedByte",
            "nonPositiveInteger",
            "negativeInteger",
        ],
    ),
    (FieldKind::Decimal, &["decimal", "double", "float", "number"]),
    (FieldKind::Date, &["date"]),
    (FieldKind::DateTime, &["datetime", "dateTime", "dateTimeStamp"]),
    (FieldKind::Time, &["time"]),
    (FieldKind::Boolean, &["boolean"]),
];

fn datatype(reader: &mut Reader<'_>, column: &Json, name: &str, at: &str) -> Vec<FieldFact> {
    let kind = column.get("datatype");
    let base = match kind {
        None => "string",
        Some(Json::String(base)) => base,
        Some(other) => other.get("base").and_then(Json::as_str).unwrap_or("string"),
    };
    let known = DATATYPES.iter().find(|(_, words)| words.contains(&base)).map(|(kind, _)| *kind);
    if known.is_none() {
        let says = format!("\"{base}\" is not a datatype that a description knows; it was described as text");
        reader.ask(name, says, at);
    }
    let word = known.unwrap_or(FieldKind::Text);
    let mut found = vec![FieldFact::Kind(word)];
    let own = |keys: [&str; 3]| kind.is_some_and(|kind| keys.iter().any(|key| kind.get(key).is_some()));
    if let Some((_, least, most)) = RANGES.iter().find(|(name, ..)| *name == base) {
        if !own(["minimum", "minInclusive", "minExclusive"]) {
            found.extend(least.map(|least| FieldFact::Min(least.into())));
        }
        if !own(["maximum", "maxInclusive", "maxExclusive"]) {
            found.extend(most.map(|most| FieldFact::Max(most.into())));
        }
    }
    if let Some(Json::Object(more)) = kind {
        let format = more.get("format").and_then(|format| format.get("pattern")).and_then(Json::as_str);
        if let Some(format) = text_in(more, "format").or_else(|| format.map(str::to_owned)) {
            let mark = more.get("format").and_then(|format| format.get("decimalChar")).and_then(Json::as_str);
            let format = match mark {
                Some(mark) if mark != "." => format.replace('.', "").replace(mark, "."),
                _ => format,
            };
            let behind = format.split_once('.').map_or(String::new(), |(_, behind)| behind.to_owned());
            if matches!(word, FieldKind::Decimal | FieldKind::Number)
                && !behind.is_empty()
                && behind.bytes().all(|byte| byte == b'0')
            {
                found.push(FieldFact::AllDecimals);
            }
            match formatted(word, format) {
                Ok(fact) => found.push(fact),
                Err(says) => reader.ask(name, says, at),
            }
        }
        limits(more, word, &mut found);
        ask_about_rest(reader, more, name, at);
        let length = text_in(more, "length").or_else(|| text_in(more, "maxLength"));
        found.extend(length.and_then(|length| length.parse().ok()).map(FieldFact::Length));
    }
    found
}

/// A text or a number of an object, as text.
fn text_in(object: &Map<String, Json>, key: &str) -> Option<String> {
    match object.get(key)? {
        Json::String(text) => Some(text.clone()),
        Json::Number(number) => Some(number.to_string()),
        _ => None,
    }
}

/// What a format says of a type; otherwise why it says nothing.
fn formatted(word: FieldKind, format: String) -> Result<FieldFact, String> {
    let holds = match word {
        FieldKind::Boolean => {
            let pair = format.split_once('|').map(|(yes, no)| FieldFact::Words(yes.into(), no.into()));
            return pair.ok_or_else(|| {
                format!("the format \"{format}\" gives no words for true and false; the standard writes Y|N")
            });
        }
        FieldKind::Text => {
            let digits = only_digits(&format).map(FieldFact::Digits);
            return Ok(digits.unwrap_or(FieldFact::Pattern(format, true)));
        }
        FieldKind::DateTime => ValueType::DateTime,
        FieldKind::Time => ValueType::Time,
        FieldKind::Date => ValueType::Date,
        _ => {
            let digits = |after: &str| after.chars().filter(|c| matches!(c, '0' | '#')).count() as u64;
            return Ok(FieldFact::Decimals(format.split_once('.').map_or(0, |(_, after)| digits(after))));
        }
    };
    match DatePattern::parse(&format) {
        Ok(_) => Ok(FieldFact::Format(format, holds)),
        Err(says) => Err(format!("the format \"{format}\" {says}")),
    }
}

/// The smallest and the largest value allowed.
fn limits(more: &Map<String, Json>, word: FieldKind, found: &mut Vec<FieldFact>) {
    let days = matches!(word, FieldKind::Date | FieldKind::DateTime | FieldKind::Time);
    let least = ["minimum", "minInclusive"].iter().find_map(|key| text_in(more, key));
    let most = ["maximum", "maxInclusive"].iter().find_map(|key| text_in(more, key));
    found.extend(least.map(|least| if days { FieldFact::NotBefore(least) } else { FieldFact::Min(least) }));
    found.extend(most.map(|most| if days { FieldFact::NotAfter(most) } else { FieldFact::Max(most) }));
    for (key, sign) in [("minExclusive", ">"), ("maxExclusive", "<")] {
        found.extend(text_in(more, key).map(|limit| FieldFact::Rule(format!("_ {sign} {limit}"))));
    }
}

/// Asks about what no description can say.
fn ask_about_rest(reader: &mut Reader<'_>, more: &Map<String, Json>, name: &str, at: &str) {
    for key in ["length", "minLength"] {
        if let Some(length) = text_in(more, key) {
            reader.ask(name, format!("{key} {length} cannot be said by itself; write a pattern for it"), at);
        }
    }
    for key in ["decimalChar", "groupChar"] {
        let mark = more.get("format").and_then(|format| format.get(key)).and_then(Json::as_str);
        if let (Some(","), "decimalChar") = (mark, key) {
            reader.decimal_comma(name, at);
        } else if let Some(mark) = mark.filter(|mark| *mark != ".") {
            reader.ask(
                name,
                format!(
                    "its numbers must have the {key} \"{mark}\", which uploads of this program cannot have"
                ),
                at,
            );
        }
    }
}

/// How many digits a form of nothing but digits wants: `[0-9]{6}`.
fn only_digits(form: &str) -> Option<u64> {
    let count = form.strip_prefix("[0-9]{").or_else(|| form.strip_prefix("\\d{"))?;
    count.strip_suffix('}')?.parse().ok()
}
