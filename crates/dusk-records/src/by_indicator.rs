//! Fields of bibliographic records that mean different things by their indicators, told apart.

use crate::node::{Node, by_name};

/// Gives fields of these tags names with their indicators: `650_7` where the second one is 7 and the first is blank.
pub(crate) fn told_apart(record: Node, tags: &[String]) -> Node {
    let Node::Object(entries) = record else { return record };
    let mut told: Vec<(String, Node)> = Vec::new();
    for (tag, node) in entries {
        match node {
            node if !tags.contains(&tag) => told.push((tag, node)),
            Node::List(fields) => told.extend(fields.into_iter().map(|field| (named(&tag, &field), field))),
            field => told.push((named(&tag, &field), field)),
        }
    }
    Node::Object(by_name(told))
}

/// The tag of a field with its indicators; a low line stands for a blank.
fn named(tag: &str, field: &Node) -> String {
    let Node::Object(parts) = field else { return tag.to_owned() };
    let indicator = |wanted: &str| {
        let known = parts.iter().find(|(name, _)| name == wanted);
        match known {
            Some((_, Node::Leaf(_, text))) => text.as_str(),
            _ => "_",
        }
    };
    format!("{tag}{}{}", indicator("@1"), indicator("@2"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::iso2709::data_field;

    #[test]
    fn fields_of_one_tag_are_told_apart_by_their_indicators() {
        let word = |indicators: &str, text: &str| data_field(indicators, &[format!("a{text}")]);
        let record = Node::Object(vec![
            ("001".into(), Node::text("77")),
            ("245".into(), word("10", "Bees")),
            ("650".into(), Node::List(vec![word(" 0", "Honey"), word(" 7", "Imkerei"), word(" 0", "Wax")])),
        ]);
        let Node::Object(told) = told_apart(record.clone(), &["650".into(), "245".into()]) else { panic!() };
        let names: Vec<&str> = told.iter().map(|(name, _)| name.as_str()).collect();
        assert_eq!(names, ["001", "24510", "650_0", "650_7"]);
        assert!(matches!(&told[2].1, Node::List(fields) if fields.len() == 2));
        assert_eq!(told_apart(record.clone(), &["100".into()]), record, "no other tag is touched");
        assert_eq!(told_apart(Node::text("x"), &["650".into()]), Node::text("x"));
    }
}
