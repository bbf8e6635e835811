//! XML documents (XML 1.0): elements that come again are records; their elements and attributes are the columns.

use std::collections::BTreeMap;
use std::io::BufReader;

use dusk_evidence::Refusal;
use quick_xml::Reader;
use quick_xml::escape::resolve_predefined_entity;
use quick_xml::events::{BytesStart, Event};

use crate::decoded::{Bounded, Decoded, TOO_LONG};
use crate::met::{LONGEST_RECORD, ListSeen, MOST_COLUMNS, Met, Record, damaged, too_long};
use crate::node::{DEEPEST, Node, by_name, joined};

type Xml = Reader<BufReader<Bounded>>;

/// What was seen of the elements of one path.
#[derive(Debug, Default)]
struct PathSeen {
    count: u64,
    /// Whether it comes again inside one element.
    comes_again: bool,
    /// Whether it has elements or attributes of its own.
    is_record: bool,
    depth: usize,
}

/// An element that is open while a document is surveyed.
#[derive(Debug, Default)]
struct Open {
    path: String,
    children: BTreeMap<String, u64>,
}

/// The elements that may be records: those that come again in no other such element, else the only element inside the
/// root; and those that come again inside them.
pub(crate) fn lists_of(text: Decoded) -> Result<Vec<ListSeen>, Refusal> {
    let mut seen: BTreeMap<String, PathSeen> = BTreeMap::new();
    let mut open: Vec<Open> = Vec::new();
    walk(text, |step| {
        match step {
            Step::Begins { name, attributes } => {
                let path = open.last().map_or_else(String::new, |parent| joined(&parent.path, &name));
                if let Some(parent) = open.last_mut() {
                    *parent.children.entry(path.clone()).or_default() += 1;
                    if let Some(parent) = seen.get_mut(&parent.path) {
                        parent.is_record = true;
                    }
                }
                let depth = open.len();
                let one = seen.entry(path.clone()).or_default();
                one.count += 1;
                one.depth = depth;
                one.is_record |= !attributes.is_empty();
                open.push(Open { path, ..Open::default() });
                if seen.len() > MOST_COLUMNS {
                    return Err(Refusal::new(
                        format!("has more than {MOST_COLUMNS} different elements"),
                        "use an export that holds records of one kind",
                    ));
                }
            }
            Step::Ends => {
                for (path, count) in open.pop().map(|closed| closed.children).unwrap_or_default() {
                    if let Some(child) = seen.get_mut(&path) {
                        child.comes_again |= count > 1;
                    }
                }
            }
            Step::Text(_) => {}
        }
        Ok(())
    })?;
    Ok(candidates(&seen))
}

fn candidates(seen: &BTreeMap<String, PathSeen>) -> Vec<ListSeen> {
    let again: Vec<&String> =
        seen.iter().filter(|(_, one)| one.comes_again && one.is_record).map(|(path, _)| path).collect();
    let list = |path: &String, is_outer: bool| ListSeen {
        path: path.clone(),
        records: seen.get(path).map_or(0, |one| one.count),
        is_outer,
    };
    let inside = |path: &str, outer: &str| path.strip_prefix(outer).is_some_and(|rest| rest.starts_with('.'));
    if again.is_empty() {
        // A document of one record has nothing that comes again.
        let below: Vec<&String> =
            seen.iter().filter(|(_, one)| one.depth == 1).map(|(path, _)| path).collect();
        return match below.as_slice() {
            [only] if seen.get(*only).is_some_and(|one| one.is_record) => vec![list(only, true)],
            _ => Vec::new(),
        };
    }
    again.iter().map(|path| list(path, !again.iter().any(|outer| inside(path, outer)))).collect()
}

/// Gives each element at `outer` as a record.
pub(crate) fn each_element(text: Decoded, outer: &str, met: &mut Met<'_>) -> Result<(), Refusal> {
    let mut path: Vec<String> = Vec::new();
    let mut building: Vec<Building> = Vec::new();
    let mut size = 0;
    let mut mixed: Option<String> = None;
    walk(text, |step| {
        match step {
            Step::Begins { name, attributes } => {
                let parent = path.last();
                let here = parent.map_or_else(String::new, |parent| joined(parent, &name));
                if !building.is_empty() || here == outer && parent.is_some() {
                    size = if building.is_empty() { 0 } else { size };
                    size += name.len() as u64
                        + attributes.iter().map(|(_, value)| value.len() as u64).sum::<u64>();
                    building.push(Building::begun(name, attributes));
                }
                path.push(here);
            }
            Step::Text(text) => {
                size += text.len() as u64;
                if let Some(element) = building.last_mut() {
                    element.text.push_str(&text);
                }
            }
            Step::Ends => {
                path.pop();
                let Some(done) = building.pop() else { return Ok(()) };
                let name = done.name.clone();
                if done.is_mixed() {
                    mixed.get_or_insert_with(|| format!("<{name}> holds text with elements in it"));
                }
                match (building.last_mut(), done.node()) {
                    (Some(parent), node) => parent.children.push((name, node)),
                    (None, node) => met(outer, mixed.take().map_or(Record::Read(node), Record::Damaged))?,
                }
            }
        }
        if size > LONGEST_RECORD { Err(too_long()) } else { Ok(()) }
    })
}

/// An element while it is read.
struct Building {
    name: String,
    children: Vec<(String, Node)>,
    text: String,
}

impl Building {
    fn begun(name: String, attributes: Vec<(String, String)>) -> Self {
        let children = attributes.into_iter().map(|(name, value)| (format!("@{name}"), Node::text(value)));
        Self { name, children: children.collect(), text: String::new() }
    }

    /// Whether its text has elements in it: neither what is before them nor what is behind is a value then.
    fn is_mixed(&self) -> bool {
        !self.text.trim().is_empty() && self.children.iter().any(|(name, _)| !name.starts_with('@'))
    }

    /// What it is once it has ended: elements of the same name are a list.
    fn node(self) -> Node {
        let is_nil = |(name, node): &(String, Node)| {
            name == "@nil" && matches!(node, Node::Leaf(_, text) if text == "true")
        };
        if self.children.iter().all(is_nil) {
            let text = if self.children.is_empty() { self.text } else { String::new() };
            return Node::text(text);
        }
        let mut entries = self.children;
        if !self.text.trim().is_empty() {
            entries.insert(0, (String::new(), Node::text(self.text)));
        }
        Node::Object(by_name(entries))
    }
}

/// What comes by in a document.
enum Step {
    Begins { name: String, attributes: Vec<(String, String)> },
    Text(String),
    Ends,
}

/// Walks through a document to its end.
fn walk(text: Decoded, mut each: impl FnMut(Step) -> Result<(), Refusal>) -> Result<(), Refusal> {
    let (text, left) = Bounded::of(text);
    let mut reader: Xml = Reader::from_reader(text);
    reader.config_mut().expand_empty_elements = true;
    let mut depth = 0_usize;
    let mut buffer = Vec::new();
    loop {
        buffer.clear();
        left.set(LONGEST_RECORD);
        let at = reader.buffer_position();
        let broken = |says: &str| damaged("XML", &format!("{says}, behind byte {at}"));
        let event = reader.read_event_into(&mut buffer).map_err(|error| {
            let says = error.to_string();
            if says.contains(TOO_LONG) { too_long() } else { broken(&says) }
        })?;
        match event {
            Event::Start(start) => {
                depth += 1;
                if depth > DEEPEST {
                    return Err(broken(&format!("its elements are nested more than {DEEPEST} deep")));
                }
                let (name, attributes) = named(&start).map_err(|says| broken(&says))?;
                each(Step::Begins { name, attributes })?;
            }
            Event::End(_) => {
                depth = depth.saturating_sub(1);
                each(Step::Ends)?;
            }
            Event::Text(text) => {
                each(Step::Text(text.xml10_content().into_owned()))?;
            }
            Event::CData(text) => {
                each(Step::Text(text.xml10_content().into_owned()))?;
            }
            Event::GeneralRef(reference) => {
                let name: &str = &reference;
                let letter = reference.resolve_char_ref().map_err(|error| broken(&error.to_string()))?;
                let text =
                    letter.map(String::from).or_else(|| resolve_predefined_entity(name).map(str::to_owned));
                let text =
                    text.ok_or_else(|| broken(&format!("it uses \"&{name};\", which is read nowhere")))?;
                each(Step::Text(text))?;
            }
            Event::Eof if depth > 0 => {
                return Err(Refusal::new(
                    "ends in the middle of its XML",
                    "check that the export was finished, and ask for it again",
                ));
            }
            Event::Eof => return Ok(()),
            _ => {}
        }
    }
}

/// An element's name without its prefix, and its attributes but for those that declare prefixes.
fn named(start: &BytesStart<'_>) -> Result<(String, Vec<(String, String)>), String> {
    let mut attributes = Vec::new();
    for attribute in start.attributes() {
        let attribute = attribute.map_err(|error| error.to_string())?;
        if attribute.key.as_namespace_binding().is_some() {
            continue;
        }
        let value = attribute
            .normalized_value(quick_xml::XmlVersion::Implicit1_0)
            .map_err(|error| error.to_string())?;
        attributes.push((attribute.key.local_name().as_ref().to_owned(), value.into_owned()));
    }
    Ok((start.local_name().as_ref().to_owned(), attributes))
}
