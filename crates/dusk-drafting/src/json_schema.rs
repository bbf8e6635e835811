//! JSON Schema as material: the properties of one object are the fields of a record (drafts 4 to 2020-12,
//! json-schema.org).

use std::path::Path;

use serde::Deserialize;
use serde::de::{Deserializer, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::Value as Json;

use super::claim::{Drafted, Place};
use super::csvw;
use super::dictionary::Described;
use super::facts::{FieldFact, FieldKind};
use super::retired::Retired;
use dusk_evidence::{Error, Result};
use dusk_values::{Decimal, ValueType};

/// How many references are followed from one to the next.
const MOST_REFERENCES: usize = 16;

/// The keys of an object in the order of the file, which JSON itself does not keep.
#[derive(Debug, Default)]
struct Ordered(Vec<(String, Self)>);

impl Ordered {
    fn at(&self, key: &str) -> Option<&Self> {
        self.0.iter().find(|(known, _)| known == key).map(|(_, value)| value)
    }
}

impl<'de> Deserialize<'de> for Ordered {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> std::result::Result<Self, D::Error> {
        struct Keys;

        impl<'de> Visitor<'de> for Keys {
            type Value = Ordered;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("JSON")
            }

            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> std::result::Result<Ordered, A::Error> {
                let mut keys = Vec::new();
                while let Some(entry) = map.next_entry()? {
                    keys.push(entry);
                }
                Ok(Ordered(keys))
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut all: A) -> std::result::Result<Ordered, A::Error> {
                while all.next_element::<IgnoredAny>()?.is_some() {}
                Ok(Ordered::default())
            }

            fn visit_bool<E>(self, _: bool) -> std::result::Result<Ordered, E> {
                Ok(Ordered::default())
            }

            fn visit_i64<E>(self, _: i64) -> std::result::Result<Ordered, E> {
                Ok(Ordered::default())
            }

            fn visit_u64<E>(self, _: u64) -> std::result::Result<Ordered, E> {
                Ok(Ordered::default())
            }

            fn visit_f64<E>(self, _: f64) -> std::result::Result<Ordered, E> {
                Ok(Ordered::default())
            }

            fn visit_str<E>(self, _: &str) -> std::result::Result<Ordered, E> {
                Ok(Ordered::default())
            }

            fn visit_unit<E>(self) -> std::result::Result<Ordered, E> {
                Ok(Ordered::default())
            }
        }

        deserializer.deserialize_any(Keys)
    }
}

/// Whether the file at `path` is a schema: JSON that says so, or that describes properties.
///
/// # Errors
/// [`Error::File`] when it cannot be read.
pub(super) fn is_one(path: &Path) -> Result<bool> {
    if !csvw::is_metadata(path)? {
        return Ok(false);
    }
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
    // What is no JSON is said by whoever reads it.
    let Ok(json) = serde_json::from_slice::<Json>(bytes) else { return Ok(false) };
    let names = json.get("$schema").and_then(Json::as_str).is_some_and(|at| at.contains("json-schema"));
    Ok(names || json.get("properties").is_some_and(Json::is_object) && json.get("@context").is_none())
}

/// Describes the properties of the object that the schema at `path` describes, or of those in its list.
pub(super) fn describe(path: &Path, described: &mut Vec<Described>, drafted: &mut Drafted) -> Result<()> {
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(&bytes);
    let wrong = |says: String| Error::Source {
        source_name: path.display().to_string(),
        says,
        hint: "a schema of flat records has an object, or a list of them, with properties".into(),
    };
    let broken = |error: serde_json::Error| wrong(format!("is not JSON: {error}"));
    let json: Json = serde_json::from_slice(bytes).map_err(broken)?;
    let ordered: Ordered = serde_json::from_slice(bytes).map_err(broken)?;
    let file = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let schema = Schema { json: &json, file };
    let (record, pointer) = schema.record().ok_or_else(|| wrong("describes no properties".into()))?;
    let keys = pointer.iter().try_fold(&ordered, |at, key| at.at(key)).and_then(|at| at.at("properties"));
    let names = keys.map_or(&[][..], |keys| &keys.0).iter().map(|(name, _)| name);
    let required = texts(record.get("required"));
    let whole = schema.place("");
    let before = described.len();
    for name in names {
        let Some(property) = record.pointer(&format!("/properties/{}", escaped(name))) else { continue };
        described.push(schema.field(name, property, &required, drafted));
    }
    let count = described.len() - before;
    drafted.took(&whole, format!("the schema: {count} properties"));
    if let Some(title) = json.get("title").and_then(Json::as_str) {
        title.clone_into(&mut drafted.name);
    }
    let mut conditional: Vec<(String, String)> = Vec::new();
    let mut unread: Vec<&str> = Vec::new();
    match conditions(record) {
        Some(found) => conditional.extend(found),
        None => unread.push("if"),
    }
    for part in record.get("allOf").and_then(Json::as_array).into_iter().flatten() {
        match conditions(part).filter(|_| part.get("if").is_some()) {
            Some(found) => conditional.extend(found),
            None => unread.push("allOf"),
        }
    }
    for (name, condition) in conditional {
        if let Some(field) = described.iter_mut().skip(before).find(|field| field.name == name) {
            field.facts.retain(|(fact, _)| *fact != FieldFact::Required(false));
            field.facts.push((FieldFact::Conditional(condition), schema.place("if")));
        }
    }
    for key in ["if", "allOf", "anyOf", "oneOf", "dependentRequired", "dependencies", "not"] {
        let is_read = matches!(key, "if" | "allOf") && !unread.contains(&key);
        if record.get(key).is_some() && !is_read {
            let says = format!("has conditions (\"{key}\"), which were not read; write them as [[rule]]");
            drafted.ask(schema.file.clone(), says, &schema.place(key));
        }
    }
    Ok(())
}

/// The fields that must be filled where other fields hold certain values, each with the condition in words; nothing where a
/// condition says something else.
fn conditions(part: &Json) -> Option<Vec<(String, String)>> {
    let Some(condition) = part.get("if") else { return Some(Vec::new()) };
    let properties = condition.get("properties").and_then(Json::as_object)?;
    let shown = |value: &Json| value.as_str().map_or_else(|| value.to_string(), str::to_owned);
    let mut words = Vec::new();
    for (name, property) in properties {
        let values: Vec<String> = match (property.get("const"), property.get("enum").and_then(Json::as_array))
        {
            (Some(value), None) => vec![shown(value)],
            (None, Some(values)) => values.iter().map(shown).collect(),
            _ => return None,
        };
        words.push(format!("{name} is {}", values.join(" or ")));
    }
    let [condition] = words.as_slice() else { return None };
    let then = texts(part.get("then").and_then(|then| then.get("required")));
    let otherwise = texts(part.get("else").and_then(|otherwise| otherwise.get("required")));
    let says_more = ["then", "else"].iter().any(|key| {
        part.get(key).and_then(Json::as_object).is_some_and(|says| says.keys().any(|key| key != "required"))
    });
    let then = then.iter().map(|name| ((*name).to_owned(), format!("if {condition}")));
    let otherwise = otherwise.iter().map(|name| ((*name).to_owned(), format!("unless {condition}")));
    (!says_more).then(|| then.chain(otherwise).collect())
}

/// A key as it stands in a JSON pointer (RFC 6901).
fn escaped(key: &str) -> String {
    key.replace('~', "~0").replace('/', "~1")
}

fn texts(json: Option<&Json>) -> Vec<&str> {
    json.and_then(Json::as_array).into_iter().flatten().filter_map(Json::as_str).collect()
}

/// A number as it is written, without an exponent.
fn number(json: &Json) -> Option<String> {
    Decimal::parse(&json.as_number()?.to_string()).map(|number| number.to_string())
}

struct Schema<'s> {
    json: &'s Json,
    file: String,
}

impl<'s> Schema<'s> {
    fn place(&self, at: &str) -> Place {
        Place { file: self.file.clone(), at: at.to_owned() }
    }

    /// The schema of one record, and the keys that lead to it.
    fn record(&self) -> Option<(&'s Json, Vec<String>)> {
        let (mut at, mut path) = (self.json, Vec::new());
        for _ in 0..MOST_REFERENCES {
            if at.get("properties").is_some_and(Json::is_object) {
                return Some((at, path));
            }
            if let Some(reference) = at.get("$ref").and_then(Json::as_str) {
                let pointer = reference.strip_prefix('#')?;
                at = self.json.pointer(pointer)?;
                path = pointer.split('/').skip(1).map(str::to_owned).collect();
            } else {
                at = at.get("items")?;
                path.push("items".to_owned());
            }
        }
        None
    }

    /// The parts that describe a property: itself, and what it refers to in this file.
    fn parts(&self, property: &'s Json) -> Vec<&'s Json> {
        let mut parts = vec![property];
        let mut at = 0;
        while let Some(part) = parts.get(at).copied().filter(|_| at < MOST_REFERENCES) {
            let reference = part.get("$ref").and_then(Json::as_str).and_then(|to| to.strip_prefix('#'));
            parts.extend(reference.and_then(|to| self.json.pointer(to)));
            parts.extend(part.get("allOf").and_then(Json::as_array).into_iter().flatten());
            // "This, or null" is this.
            let either = ["anyOf", "oneOf"].iter().find_map(|key| part.get(key)?.as_array());
            let is_null = |one: &&Json| one.get("type").and_then(Json::as_str) == Some("null");
            let others: Vec<&Json> = either.into_iter().flatten().filter(|one| !is_null(one)).collect();
            if let [only] = others.as_slice() {
                parts.push(only);
            }
            at += 1;
        }
        parts
    }

    fn field(&self, name: &str, property: &'s Json, required: &[&str], drafted: &mut Drafted) -> Described {
        let from = self.place(&format!("properties.{name}"));
        let parts = self.parts(property);
        let first = |key: &str| parts.iter().find_map(|part| part.get(key));
        let text = |key: &str| first(key).and_then(Json::as_str);
        let mut field = Described::new(name, from.clone());
        field.label = text("title").unwrap_or_default().to_owned();
        field.description.extend(text("description").map(|text| (text.to_owned(), field.from.clone())));
        field.never_send = first("readOnly").and_then(Json::as_bool) == Some(true);
        if first("deprecated").and_then(Json::as_bool) == Some(true) {
            let says = "is deprecated in the schema; never_send = true would leave it out";
            drafted.ask(name, says, &from);
        }
        if let Some(default) = first("default").filter(|default| !default.is_null()) {
            let shown = default.as_str().map_or_else(|| default.to_string(), str::to_owned);
            field.default = Some((shown, from.clone()));
        }
        let mut facts = vec![FieldFact::Required(required.contains(&name))];
        let items = first("items").map(|items| self.parts(items));
        let told = items.as_deref().unwrap_or(&parts);
        let codes = told.iter().find_map(|part| codes_of(part));
        match codes {
            Some(codes) => {
                facts.push(FieldFact::Kind(if items.is_some() { FieldKind::Codes } else { FieldKind::Code }));
                facts.push(FieldFact::Codes(codes));
            }
            None => facts.extend(told.iter().flat_map(|part| plain_facts(part))),
        }
        field.facts.extend(facts.into_iter().map(|fact| (fact, from.clone())));
        field
    }
}

/// The values that a schema lists, with the titles that it gives them.
fn codes_of(part: &Json) -> Option<Vec<(String, String)>> {
    let shown = |value: &Json| value.as_str().map_or_else(|| value.to_string(), str::to_owned);
    if let Some(values) = part.get("enum").and_then(Json::as_array) {
        let codes = values.iter().filter(|value| !value.is_null()).map(|value| (shown(value), String::new()));
        return Some(codes.collect()).filter(|codes: &Vec<(String, String)>| !codes.is_empty());
    }
    let choices = ["oneOf", "anyOf"].iter().find_map(|key| part.get(key)?.as_array())?;
    let is_null = |choice: &&Json| choice.get("type").and_then(Json::as_str) == Some("null");
    let label = |choice: &Json| {
        let says = |key: &str| choice.get(key).and_then(Json::as_str);
        match (says("title"), says("description")) {
            // What is said of its end goes with it.
            (Some(title), Some(more)) if Retired::said_by(more).is_some() => format!("{title} ({more})"),
            (Some(one), _) | (None, Some(one)) => one.to_owned(),
            (None, None) => String::new(),
        }
    };
    let codes = choices.iter().filter(|choice| !is_null(choice));
    let codes: Option<Vec<(String, String)>> =
        codes.map(|choice| Some((shown(choice.get("const")?), label(choice)))).collect();
    codes.filter(|codes| !codes.is_empty())
}

/// What a schema says of a value that is no code.
fn plain_facts(part: &Json) -> Vec<FieldFact> {
    let mut facts = Vec::new();
    let types = part.get("type").map(|says| says.as_str().map_or_else(|| texts(Some(says)), |one| vec![one]));
    let kind = types.into_iter().flatten().find_map(|word| match word {
        "integer" => Some(FieldKind::Integer),
        "number" => Some(FieldKind::Decimal),
        "boolean" => Some(FieldKind::Boolean),
        "string" => Some(FieldKind::Text),
        _ => None,
    });
    let format = part.get("format").and_then(Json::as_str);
    let dated = match format {
        Some("date") => Some((FieldKind::Date, Some(("yyyy-MM-dd", ValueType::Date)))),
        // RFC 3339 allows any offset, which is for the owner to say.
        Some("date-time") => Some((FieldKind::DateTime, None)),
        Some("time") => Some((FieldKind::Time, None)),
        _ => None,
    };
    if let Some((kind, pattern)) = dated {
        facts.push(FieldFact::Kind(kind));
        facts.extend(pattern.map(|(pattern, holds)| FieldFact::Format(pattern.into(), holds)));
        return facts;
    }
    facts.extend(kind.map(FieldFact::Kind));
    if kind == Some(FieldKind::Boolean) {
        facts.push(FieldFact::Words("true".into(), "false".into()));
    }
    let size = |key: &str| part.get(key).and_then(Json::as_u64);
    facts.extend(size("maxLength").map(FieldFact::Length));
    if let Some(pattern) = part.get("pattern").and_then(Json::as_str) {
        let inner = pattern.strip_prefix('^').and_then(|inner| inner.strip_suffix('$'));
        let digits = inner.and_then(|inner| {
            let count = inner.strip_prefix("[0-9]").or_else(|| inner.strip_prefix("\\d"))?;
            count.strip_prefix('{')?.strip_suffix('}')?.parse().ok()
        });
        facts.push(match (digits, inner) {
            (Some(digits), _) => FieldFact::Digits(digits),
            (None, Some(inner)) if regex::Regex::new(inner).is_ok() => {
                FieldFact::Pattern(inner.to_owned(), true)
            }
            _ => FieldFact::Unread(format!("pattern {pattern}")),
        });
    }
    facts.extend(part.get("minimum").and_then(number).map(FieldFact::Min));
    facts.extend(part.get("maximum").and_then(number).map(FieldFact::Max));
    for (key, sign) in [("exclusiveMinimum", ">"), ("exclusiveMaximum", "<")] {
        let limit = part.get(key).and_then(number);
        facts.extend(limit.map(|limit| FieldFact::Rule(format!("_ {sign} {limit}"))));
    }
    if let Some(step) = part.get("multipleOf").and_then(number)
        && kind != Some(FieldKind::Integer)
        && let Some((_, decimals)) = step.split_once('.')
    {
        facts.push(FieldFact::Decimals(decimals.len() as u64));
    }
    facts
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn properties_are_fields_in_the_order_of_the_file_with_all_that_is_said_of_them() {
        let schema = r##"{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Nests",
            "type": "array", "items": {"$ref": "#/$defs/nest"},
            "$defs": {"kind": {"oneOf": [{"const": "o", "title": "open"}, {"const": "b"}, {"type": "null"}]},
                "nest": {"type": "object", "required": ["no"], "properties": {
                    "no": {"type": "string", "pattern": "^[0-9]{4}$", "title": "Number"},
                    "kind": {"$ref": "#/$defs/kind"},
                    "eggs": {"type": ["integer", "null"], "minimum": 0, "exclusiveMaximum": 12},
                    "birds": {"type": "array", "items": {"enum": ["wren", "owl"]}},
                    "Ä/b": {"type": "number", "multipleOf": 0.01, "readOnly": true},
                    "found": {"format": "date"}}}}}"##;
        let place = tempfile::tempdir().unwrap();
        let path = place.path().join("nests.json");
        std::fs::write(&path, schema).unwrap();
        assert!(is_one(&path).unwrap());
        let (mut fields, mut drafted) = (Vec::new(), Drafted::default());
        describe(&path, &mut fields, &mut drafted).unwrap();
        let told = |field: &Described| {
            let facts: Vec<String> = field.facts.iter().map(|(fact, _)| format!("{fact:?}")).collect();
            let sent = if field.never_send { " never sent" } else { "" };
            format!("{} {}{sent}", field.name, facts.join(" ")).replace('"', "")
        };
        let told: Vec<String> = fields.iter().map(told).collect();
        assert_eq!(
            told,
            [
                "no Required(true) Kind(Text) Digits(4)",
                "kind Required(false) Kind(Code) Codes([(o, open), (b, )])",
                "eggs Required(false) Kind(Integer) Min(0) Rule(_ < 12)",
                "birds Required(false) Kind(Codes) Codes([(wren, ), (owl, )])",
                "Ä/b Required(false) Kind(Decimal) Decimals(2) never sent",
                "found Required(false) Kind(Date) Format(yyyy-MM-dd, Date)",
            ]
        );
        assert_eq!((drafted.name.as_str(), fields[0].label.as_str()), ("Nests", "Number"));
        std::fs::write(&path, r#"{"plant": 1}"#).unwrap();
        assert!(!is_one(&path).unwrap());
    }
}
