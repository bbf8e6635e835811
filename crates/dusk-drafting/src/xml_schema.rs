//! XML Schema (W3C, 1.0 and 1.1) for flat records: the elements and attributes of the type that holds the most simple ones
//! are the fields.

use std::path::Path;

use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};

use super::DraftOptions;
use super::claim::{Drafted, Place};
use super::dictionary::Described;
use super::facts::{FieldFact, FieldKind, fold};
use dusk_evidence::{Error, Result};
use dusk_values::ValueType;

/// What every XML Schema names.
const NAMESPACE: &[u8] = b"http://www.w3.org/2001/XMLSchema";

/// A larger schema is none for flat records.
const MOST_BYTES: u64 = 8 << 20;

/// An element of the schema.
#[derive(Debug, Default)]
struct Node {
    name: String,
    attributes: Vec<(String, String)>,
    children: Vec<Node>,
    text: String,
    line: usize,
}

impl Node {
    fn attribute(&self, name: &str) -> Option<&str> {
        self.attributes.iter().find(|(known, _)| known == name).map(|(_, value)| value.as_str())
    }

    fn all<'n>(&'n self, name: &'n str) -> impl Iterator<Item = &'n Node> {
        self.children.iter().filter(move |child| child.name == name)
    }

    /// The elements below it of this name, however deep, but not inside another named type.
    fn below<'n>(&'n self, name: &str, found: &mut Vec<&'n Node>) {
        for child in &self.children {
            if child.name == name {
                found.push(child);
            } else {
                child.below(name, found);
            }
        }
    }

    /// What its annotation says.
    fn documentation(&self) -> String {
        let mut found = Vec::new();
        self.all("annotation").for_each(|annotation| annotation.below("documentation", &mut found));
        let texts = found.iter().map(|node| node.text.split_whitespace().collect::<Vec<_>>().join(" "));
        texts.filter(|text| !text.is_empty()).collect::<Vec<_>>().join(" ")
    }
}

/// Whether a file is an XML Schema.
pub(super) fn is_one(path: &Path) -> Result<bool> {
    let size = std::fs::metadata(path).map_err(Error::reading(path))?.len();
    if size > MOST_BYTES {
        return Ok(false);
    }
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let head = bytes.get(..4096).unwrap_or(&bytes);
    let begins = head.iter().find(|byte| !byte.is_ascii_whitespace() && **byte < 0x80) == Some(&b'<');
    Ok(begins
        && memchr::memmem::find(head, NAMESPACE).is_some()
        && memchr::memmem::find(head, b"schema").is_some())
}

/// Describes the fields of a schema's records.
///
/// # Errors
/// [`Error::Source`] for a schema that is no whole XML; [`Error::Request`] where several types could be the records'.
pub(super) fn describe(
    path: &Path,
    options: &DraftOptions,
    described: &mut Vec<Described>,
    drafted: &mut Drafted,
) -> Result<()> {
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let file = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let broken = |says: String| Error::Source {
        source_name: path.display().to_string(),
        says,
        hint: "check that it was copied whole".into(),
    };
    let schema = parsed(&String::from_utf8_lossy(&bytes)).map_err(broken)?;
    let records = records(&schema);
    let most = records.iter().map(|(_, fields)| fields.len()).max().unwrap_or(0);
    let wanted = |name: &str| options.table.as_ref().is_none_or(|wanted| fold(wanted) == fold(name));
    let mut likely = records.iter().filter(|(name, fields)| match &options.table {
        Some(_) => wanted(name),
        None => fields.len() == most,
    });
    let (Some((name, fields)), more) = (likely.next(), likely.next()) else {
        return Err(broken("is an XML Schema in which no type holds simple elements".into()));
    };
    if let Some((other, _)) = more {
        return Err(Error::Request(format!(
            "{} describes several records; say which one to draft: --table \"{name}\" or --table \"{other}\"",
            path.display()
        )));
    }
    let place = |node: &Node| Place { file: file.clone(), at: format!("line {}", node.line) };
    drafted.took(
        &Place { file: file.clone(), at: String::new() },
        format!("the schema: {} fields of \"{name}\"", fields.len()),
    );
    for node in fields {
        described.push(field_of(node, &schema, &place, drafted));
    }
    Ok(())
}

/// The types that hold simple elements or attributes, by the name of their element or their own.
fn records(schema: &Node) -> Vec<(String, Vec<&Node>)> {
    let mut types = Vec::new();
    named_types(schema, "", &mut types);
    let mut records = Vec::new();
    for (name, node) in types {
        let fields = fields_of(node, schema);
        if !fields.is_empty() {
            records.push((name, fields));
        }
    }
    records
}

/// Every complex type with the name that people know it by.
fn named_types<'n>(node: &'n Node, above: &str, found: &mut Vec<(String, &'n Node)>) {
    for child in &node.children {
        let name = child.attribute("name").unwrap_or(above);
        if child.name == "complexType" {
            found.push((name.to_owned(), child));
        }
        named_types(child, name, found);
    }
}

/// The simple elements and attributes of a type, in their order.
fn fields_of<'n>(node: &'n Node, schema: &'n Node) -> Vec<&'n Node> {
    let mut all = Vec::new();
    collect(node, &mut all);
    all.retain(|field| field.attribute("name").is_some() && is_simple(field, schema));
    all
}

/// Elements and attributes of a type, without those of types inside it.
fn collect<'n>(node: &'n Node, found: &mut Vec<&'n Node>) {
    for child in &node.children {
        match child.name.as_str() {
            "element" | "attribute" => found.push(child),
            "sequence" | "all" | "choice" | "complexContent" | "simpleContent" | "extension" => {
                collect(child, found)
            }
            _ => {}
        }
    }
}

fn is_simple(field: &Node, schema: &Node) -> bool {
    let own = local(field.attribute("type").unwrap_or_default());
    field.all("complexType").next().is_none()
        && !schema.all("complexType").any(|named| named.attribute("name") == Some(own))
}

fn field_of(node: &Node, schema: &Node, place: &dyn Fn(&Node) -> Place, drafted: &mut Drafted) -> Described {
    let from = place(node);
    let name = node.attribute("name").unwrap_or_default();
    let mut field = Described::new(name, from.clone());
    let says = node.documentation();
    field.description.extend((!says.is_empty()).then(|| (says, from.clone())));
    field.default = node.attribute("default").map(|default| (default.to_owned(), from.clone()));
    let must = match node.name.as_str() {
        "attribute" => node.attribute("use") == Some("required"),
        _ => node.attribute("minOccurs") != Some("0") && node.attribute("nillable") != Some("true"),
    };
    field.facts.push((FieldFact::Required(must), from.clone()));
    if node.attribute("maxOccurs").is_some_and(|most| most != "1") {
        drafted.ask(
            name,
            "may come several times in a record; codes = … and separator = … say so where it is a list",
            &from,
        );
    }
    let inline = node.all("simpleType").next();
    let mut facts = Vec::new();
    match (inline, node.attribute("type")) {
        (Some(inline), _) => of_simple_type(inline, schema, &mut facts, 0),
        (None, Some(called)) => of_type_called(local(called), schema, &mut facts, 0),
        (None, None) => {}
    }
    field.facts.extend(facts.into_iter().map(|fact| (fact, from.clone())));
    field
}

/// A name without what stands before its colon.
fn local(name: &str) -> &str {
    name.rsplit(':').next().unwrap_or(name)
}

fn of_type_called(name: &str, schema: &Node, facts: &mut Vec<FieldFact>, depth: u32) {
    if let Some(named) = schema.all("simpleType").find(|named| named.attribute("name") == Some(name)) {
        // Types that go in a circle say nothing.
        if depth < 16 {
            of_simple_type(named, schema, facts, depth + 1);
        }
        return;
    }
    let day = |form: &str, holds| FieldFact::Format(form.into(), holds);
    facts.extend(match name {
        "integer" | "int" | "long" | "short" | "byte" => vec![FieldFact::Kind(FieldKind::Integer)],
        "nonNegativeInteger" | "unsignedInt" | "unsignedLong" | "unsignedShort" | "unsignedByte" => {
            vec![FieldFact::Kind(FieldKind::Integer), FieldFact::Min("0".into())]
        }
        "positiveInteger" => vec![FieldFact::Kind(FieldKind::Integer), FieldFact::Min("1".into())],
        "gYear" => vec![FieldFact::Kind(FieldKind::Integer)],
        "decimal" | "double" | "float" => vec![FieldFact::Kind(FieldKind::Decimal)],
        "date" => vec![FieldFact::Kind(FieldKind::Date), day("yyyy-MM-dd", ValueType::Date)],
        "dateTime" => {
            vec![FieldFact::Kind(FieldKind::DateTime), day("yyyy-MM-dd'T'HH:mm:ss", ValueType::DateTime)]
        }
        "time" => vec![FieldFact::Kind(FieldKind::Time), day("HH:mm:ss", ValueType::Time)],
        "boolean" => {
            vec![FieldFact::Kind(FieldKind::Boolean), FieldFact::Words("true".into(), "false".into())]
        }
        _ => vec![FieldFact::Kind(FieldKind::Text)],
    });
}

/// What a restriction says; what it says itself is narrower than what it restricts.
fn of_simple_type(node: &Node, schema: &Node, facts: &mut Vec<FieldFact>, depth: u32) {
    let Some(restriction) = node.all("restriction").next() else {
        // A list or a union of types is more than one value can be.
        facts.push(FieldFact::Unread("a list or a union of types".into()));
        return;
    };
    let said = |name: &str| {
        restriction.all(name).next().and_then(|facet| facet.attribute("value")).map(str::to_owned)
    };
    let count = |name: &str| said(name).and_then(|count| count.parse::<u64>().ok());
    let codes: Vec<(String, String)> = restriction
        .all("enumeration")
        .filter_map(|code| Some((code.attribute("value")?.to_owned(), code.documentation())))
        .collect();
    let mut own = Vec::new();
    let mut base = Vec::new();
    of_type_called(local(restriction.attribute("base").unwrap_or("string")), schema, &mut base, depth);
    let is_day = base.iter().any(|fact| matches!(fact, FieldFact::Format(..)));
    match (count("totalDigits"), count("fractionDigits")) {
        (Some(total), decimals) => own.push(FieldFact::Precision(total, decimals.unwrap_or(0))),
        (None, Some(decimals)) => own.push(FieldFact::Decimals(decimals)),
        (None, None) => {}
    }
    own.extend(count("length").or_else(|| count("maxLength")).map(FieldFact::Length));
    let limit = |least: bool, value: String| match (is_day, least) {
        (true, true) => FieldFact::NotBefore(value),
        (true, false) => FieldFact::NotAfter(value),
        (false, true) => FieldFact::Min(value),
        (false, false) => FieldFact::Max(value),
    };
    own.extend(said("minInclusive").map(|value| limit(true, value)));
    own.extend(said("maxInclusive").map(|value| limit(false, value)));
    own.extend(said("minExclusive").map(|value| FieldFact::Rule(format!("_ > {value}"))));
    own.extend(said("maxExclusive").map(|value| FieldFact::Rule(format!("_ < {value}"))));
    if codes.is_empty() {
        own.extend(said("pattern").map(|pattern| match regex::Regex::new(&pattern) {
            Ok(_) => FieldFact::Pattern(pattern, true),
            Err(_) => FieldFact::Unread(format!("pattern {pattern}")),
        }));
    } else {
        base.retain(|fact| !matches!(fact, FieldFact::Kind(_)));
        own.push(FieldFact::Kind(FieldKind::Code));
        own.push(FieldFact::Codes(codes));
    }
    let same =
        |one: &FieldFact, other: &FieldFact| std::mem::discriminant(one) == std::mem::discriminant(other);
    base.retain(|fact| matches!(fact, FieldFact::Kind(_)) || !own.iter().any(|own| same(own, fact)));
    facts.extend(base);
    facts.extend(own);
}

/// The schema as a tree of its elements.
fn parsed(text: &str) -> std::result::Result<Node, String> {
    let mut reader = Reader::from_str(text);
    let mut open: Vec<Node> = vec![Node::default()];
    let lines: Vec<usize> = memchr::memchr_iter(b'\n', text.as_bytes()).collect();
    let node_of = |tag: &BytesStart<'_>, at: u64| {
        let mut attributes = Vec::new();
        for attribute in tag.attributes().with_checks(false).flatten() {
            let value = quick_xml::escape::unescape(&attribute.value)
                .map_or_else(|_| attribute.value.to_string(), |text| text.into_owned());
            attributes.push((attribute.key.local_name().as_ref().to_owned(), value));
        }
        Node {
            name: tag.local_name().as_ref().to_owned(),
            attributes,
            line: 1 + lines.partition_point(|newline| (*newline as u64) < at),
            ..Node::default()
        }
    };
    loop {
        let at = reader.buffer_position();
        match reader.read_event() {
            Ok(Event::Start(tag)) => open.push(node_of(&tag, at)),
            Ok(Event::Empty(tag)) => {
                let node = node_of(&tag, at);
                if let Some(above) = open.last_mut() {
                    above.children.push(node);
                }
            }
            Ok(Event::End(_)) => {
                if let (Some(node), Some(above)) = (open.pop(), open.last_mut()) {
                    above.children.push(node);
                }
            }
            Ok(Event::Text(text)) => {
                if let Some(node) = open.last_mut() {
                    node.text.push_str(&text);
                }
            }
            Ok(Event::GeneralRef(entity)) => {
                if let (Some(node), Some(letter)) =
                    (open.last_mut(), quick_xml::escape::resolve_xml_entity(&entity))
                {
                    node.text.push_str(letter);
                }
            }
            Ok(Event::Eof) => break,
            Ok(_) => {}
            Err(wrong) => return Err(format!("is XML that cannot be read: {wrong}")),
        }
    }
    if open.len() > 1 {
        return Err("is XML that ends before it is complete".into());
    }
    let root = open.into_iter().next().unwrap_or_default();
    root.children.into_iter().find(|node| node.name == "schema").ok_or_else(|| "is not an XML Schema".into())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_simple_elements_of_the_records_are_fields_with_their_facets() {
        let schema = r#"<?xml version="1.0"?><xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema">
          <xs:simpleType name="Mark"><xs:restriction base="xs:string"><xs:pattern value="[A-Z]{2}\d"/><xs:maxLength value="3"/></xs:restriction></xs:simpleType>
          <xs:element name="kites"><xs:complexType><xs:sequence><xs:element name="kite" maxOccurs="unbounded"><xs:complexType><xs:sequence>
            <xs:element name="mark" type="Mark"><xs:annotation><xs:documentation>On the tail &amp; bow</xs:documentation></xs:annotation></xs:element>
            <xs:element name="flown" type="xs:date" minOccurs="0"/>
            <xs:element name="area"><xs:simpleType><xs:restriction base="xs:decimal"><xs:totalDigits value="4"/><xs:fractionDigits value="2"/><xs:minExclusive value="0"/></xs:restriction></xs:simpleType></xs:element>
            <xs:element name="sail"><xs:simpleType><xs:restriction base="xs:string"><xs:enumeration value="D"><xs:annotation><xs:documentation>delta</xs:documentation></xs:annotation></xs:enumeration><xs:enumeration value="B"/></xs:restriction></xs:simpleType></xs:element>
          </xs:sequence><xs:attribute name="no" type="xs:positiveInteger" use="required"/></xs:complexType></xs:element></xs:sequence></xs:complexType></xs:element>
        </xs:schema>"#;
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("kites.xsd");
        std::fs::write(&path, schema).unwrap();
        assert!(is_one(&path).unwrap());
        let (mut described, mut drafted) = (Vec::new(), Drafted::default());
        describe(&path, &DraftOptions::default(), &mut described, &mut drafted).unwrap();
        let shown: Vec<String> = described
            .iter()
            .map(|field| {
                format!("{} {:?}", field.name, field.facts.iter().map(|(fact, _)| fact).collect::<Vec<_>>())
            })
            .collect();
        assert_eq!(
            shown,
            [
                r#"mark [Required(true), Kind(Text), Length(3), Pattern("[A-Z]{2}\\d", true)]"#,
                r#"flown [Required(false), Kind(Date), Format("yyyy-MM-dd", Date)]"#,
                r#"area [Required(true), Kind(Decimal), Precision(4, 2), Rule("_ > 0")]"#,
                r#"sail [Required(true), Kind(Code), Codes([("D", "delta"), ("B", "")])]"#,
                r#"no [Required(true), Kind(Integer), Min("1")]"#,
            ]
        );
        assert_eq!(
            described.first().map(|field| (field.description.len(), field.from.at.clone())),
            Some((1, "line 4".into()))
        );
    }
}
