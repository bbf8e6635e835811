//! One record as a tree, and the rows that it makes: each value under its path.

use dusk_workbooks::CellKind;
use hashbrown::HashMap;

/// How deep records may be nested.
pub(crate) const DEEPEST: usize = 64;

/// A part of a record.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Node {
    /// A value.
    Leaf(CellKind, String),
    /// Several in order.
    List(Vec<Node>),
    /// Named ones, in the order of the file.
    Object(Vec<(String, Node)>),
}

impl Node {
    /// A text.
    pub(crate) fn text(text: impl Into<String>) -> Self {
        Self::Leaf(CellKind::Text, text.into())
    }
}

/// A value of a row, under its path.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct PathValue {
    pub(crate) path: String,
    kind: CellKind,
    /// One, or several that a list holds.
    texts: Vec<String>,
    is_list: bool,
}

impl PathValue {
    /// What the cell says; `between` stands between several values.
    ///
    /// # Errors
    /// Says so where a value holds that mark itself.
    pub(crate) fn cell(&self, between: &str) -> Result<(CellKind, String), String> {
        match self.texts.as_slice() {
            [] => Ok((CellKind::Text, String::new())),
            [only] => Ok((self.kind, only.clone())),
            several if several.iter().all(String::is_empty) => Ok((CellKind::Text, String::new())),
            several => match several.iter().find(|text| text.contains(between)) {
                None => Ok((CellKind::Text, several.join(between))),
                Some(held) => Err(format!(
                    "{} holds several values, and \"{held}\" among them holds the mark \"{between}\" that is put between them",
                    self.path
                )),
            },
        }
    }
}

/// The values of one row.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct RowValues {
    pub(crate) values: Vec<PathValue>,
    /// The place of each path, once there are too many to be looked through.
    by_path: HashMap<String, usize>,
}

/// How many paths are looked through one by one.
const FEW: usize = 24;

impl RowValues {
    /// Takes everything that a part of a record holds.
    ///
    /// # Errors
    /// Says so where a name comes twice.
    fn gather(&mut self, node: &Node, path: &str) -> Result<(), String> {
        match node {
            Node::Leaf(kind, text) => self.push(path, *kind, vec![text.clone()], false),
            Node::Object(entries) => {
                entries.iter().try_for_each(|(name, node)| self.gather(node, &joined(path, name)))
            }
            Node::List(items) => self.gather_list(items, path),
        }
    }

    /// Takes a list: each path inside it becomes one cell, with a blank where an item has no such value.
    fn gather_list(&mut self, items: &[Node], path: &str) -> Result<(), String> {
        let mut columns = Self::default();
        let mut rows = Vec::new();
        for item in items {
            let mut row = Self::default();
            row.gather(item, path)?;
            for value in &row.values {
                columns.place(&value.path);
            }
            rows.push(row);
        }
        for column in columns.values {
            let mut texts = Vec::new();
            let mut kind = CellKind::Text;
            for row in &rows {
                match row.value(&column.path) {
                    Some(value) if value.texts.is_empty() => texts.push(String::new()),
                    Some(value) => {
                        kind = value.kind;
                        texts.extend_from_slice(&value.texts);
                    }
                    None => texts.push(String::new()),
                }
            }
            self.push(&column.path, kind, texts, true)?;
        }
        Ok(())
    }

    fn value(&self, path: &str) -> Option<&PathValue> {
        self.known(path).and_then(|place| self.values.get(place))
    }

    fn known(&self, path: &str) -> Option<usize> {
        if self.by_path.is_empty() {
            self.values.iter().position(|value| value.path == path)
        } else {
            self.by_path.get(path).copied()
        }
    }

    fn append(&mut self, value: PathValue) -> usize {
        let place = self.values.len();
        if place >= FEW && self.by_path.is_empty() {
            self.by_path = self.values.iter().map(|value| value.path.clone()).zip(0..).collect();
        }
        if !self.by_path.is_empty() {
            self.by_path.insert(value.path.clone(), place);
        }
        self.values.push(value);
        place
    }

    /// Makes room for a path, where there is none.
    fn place(&mut self, path: &str) {
        if self.known(path).is_none() {
            let (path, kind) = (path.to_owned(), CellKind::Text);
            self.append(PathValue { path, kind, texts: Vec::new(), is_list: false });
        }
    }

    fn push(&mut self, path: &str, kind: CellKind, texts: Vec<String>, is_list: bool) -> Result<(), String> {
        // What a record says itself, beside what is in it, has no name.
        let path = if path.is_empty() { "(text)" } else { path };
        if self.known(path).is_some() {
            return Err(format!("has \"{path}\" twice"));
        }
        self.append(PathValue { path: path.to_owned(), kind, texts, is_list });
        Ok(())
    }

    /// The paths under which lists of several values were met.
    pub(crate) fn lists(&self) -> impl Iterator<Item = &str> {
        self.values
            .iter()
            .filter(|value| value.is_list && value.texts.len() > 1)
            .map(|value| value.path.as_str())
    }
}

/// Entries of the same name become a list, at the place of the first.
pub(crate) fn by_name(entries: Vec<(String, Node)>) -> Vec<(String, Node)> {
    let mut grouped: Vec<(String, Vec<Node>)> = Vec::new();
    for (name, node) in entries {
        match grouped.iter_mut().find(|(known, _)| *known == name) {
            Some((_, nodes)) => nodes.push(node),
            None => grouped.push((name, vec![node])),
        }
    }
    let entry = |(name, mut nodes): (String, Vec<Node>)| match (nodes.len(), nodes.pop()) {
        (1, Some(only)) => (name, only),
        (_, last) => {
            nodes.extend(last);
            (name, Node::List(nodes))
        }
    };
    grouped.into_iter().map(entry).collect()
}

/// A path one name longer. Attributes of elements (`@`) and subfields (`$`) follow without a dot.
pub(crate) fn joined(path: &str, name: &str) -> String {
    if path.is_empty() || name.is_empty() || name.starts_with(['@', '$']) {
        format!("{path}{name}")
    } else {
        format!("{path}.{name}")
    }
}

/// The rows of a record: one, or one for each item of the list at `rest` inside it, with what stands around the list
/// in each of them.
///
/// # Errors
/// Says why the record cannot be read.
pub(crate) fn rows_of(record: &Node, rest: &[&str]) -> Result<Vec<RowValues>, String> {
    let mut rows = Vec::new();
    split(record, "", rest, &RowValues::default(), &mut rows)?;
    Ok(rows)
}

fn split(
    node: &Node,
    path: &str,
    rest: &[&str],
    around: &RowValues,
    rows: &mut Vec<RowValues>,
) -> Result<(), String> {
    if let Node::List(items) = node {
        return items.iter().try_for_each(|item| split(item, path, rest, around, rows));
    }
    let mut row = around.clone();
    let Some((wanted, rest)) = rest.split_first() else {
        row.gather(node, path)?;
        rows.push(row);
        return Ok(());
    };
    let Node::Object(entries) = node else { return Ok(()) };
    for (name, node) in entries.iter().filter(|(name, _)| name != wanted) {
        row.gather(node, &joined(path, name))?;
    }
    match entries.iter().find(|(name, _)| name == wanted) {
        Some((name, node)) => split(node, &joined(path, name), rest, &row, rows),
        None => Ok(()),
    }
}

/// The lists of objects inside a record, as paths, each with how many items it has.
pub(crate) fn lists_inside(node: &Node, path: &str, found: &mut Vec<(String, u64)>) {
    match node {
        Node::Leaf(..) => {}
        Node::Object(entries) => {
            let holds_more = |(_, node): &&(String, Node)| !matches!(node, Node::Leaf(..));
            let inner = entries.iter().filter(holds_more);
            inner.for_each(|(name, node)| lists_inside(node, &joined(path, name), found));
        }
        Node::List(items) => {
            let objects = items.iter().filter(|item| matches!(item, Node::Object(_))).count() as u64;
            if objects > 0 && !path.is_empty() {
                match found.iter_mut().find(|(known, _)| known == path) {
                    Some((_, count)) => *count += objects,
                    None => found.push((path.to_owned(), objects)),
                }
            }
            items.iter().for_each(|item| lists_inside(item, path, found));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn object(entries: &[(&str, Node)]) -> Node {
        Node::Object(entries.iter().map(|(name, node)| ((*name).to_owned(), node.clone())).collect())
    }

    fn shown(rows: Result<Vec<RowValues>, String>) -> Result<Vec<String>, String> {
        let row = |row: &RowValues| {
            let cells = row.values.iter().map(|value| Ok(format!("{}={}", value.path, value.cell("|")?.1)));
            cells.collect::<Result<Vec<_>, String>>().map(|cells| cells.join(" "))
        };
        rows?.iter().map(row).collect()
    }

    #[test]
    fn lists_become_several_values_or_rows_and_what_stands_around_them_is_in_each() {
        let visit = |day: &str, note: Option<&str>| {
            let note = note.map(|note| ("note", Node::text(note)));
            object(&[("day", Node::text(day))].into_iter().chain(note).collect::<Vec<_>>())
        };
        let visits = Node::List(vec![visit("3", None), visit("4", Some("wet"))]);
        let record = object(&[
            ("id", Node::text("7")),
            ("place", object(&[("town", Node::text("Vik")), ("visits", visits)])),
            ("tags", Node::List(vec![Node::text("a"), Node::text("b")])),
        ]);
        assert_eq!(
            shown(rows_of(&record, &[])),
            Ok(vec!["id=7 place.town=Vik place.visits.day=3|4 place.visits.note=|wet tags=a|b".into()])
        );
        assert_eq!(
            shown(rows_of(&record, &["place", "visits"])),
            Ok(vec![
                "id=7 tags=a|b place.town=Vik place.visits.day=3".into(),
                "id=7 tags=a|b place.town=Vik place.visits.day=4 place.visits.note=wet".into()
            ])
        );
        assert_eq!(
            shown(rows_of(&record, &["tags"])).map(|rows| rows.len()),
            Ok(2),
            "values make rows as well"
        );
        assert_eq!(shown(rows_of(&record, &["gone"])), Ok(vec![]));
        let mut lists = Vec::new();
        lists_inside(&record, "", &mut lists);
        assert_eq!(lists, [("place.visits".to_owned(), 2)]);
    }

    #[test]
    fn a_name_that_comes_twice_and_a_value_with_the_mark_are_refused() {
        let twice = object(&[("id", Node::text("7")), ("id", Node::text("8"))]);
        assert_eq!(rows_of(&twice, &[]), Err("has \"id\" twice".into()));
        let marked = object(&[("tags", Node::List(vec![Node::text("a|b"), Node::text("c")]))]);
        assert!(
            shown(rows_of(&marked, &[])).unwrap_err().contains("\"a|b\" among them holds the mark \"|\"")
        );
        let alone = object(&[("tags", Node::List(vec![Node::text("a|b")]))]);
        assert_eq!(shown(rows_of(&alone, &[])), Ok(vec!["tags=a|b".into()]), "one value needs no mark");
    }
}
