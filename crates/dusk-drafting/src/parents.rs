//! Code lists that belong together: codes inside one another, and codes that came after others.

use super::claim::{Drafted, DraftedField, DraftedList, Setting};
use super::code_lists::FoundList;
use super::facts::fold;
use dusk_description::Code;

/// Finds the list within which another is divided, and the field that holds it.
pub(super) fn tie_parents(lists: &[FoundList], drafted: &mut Drafted) {
    for found in lists {
        let Some(place) = drafted.lists.iter().position(|list| list.name == found.list.name) else {
            continue;
        };
        let Some(list) = drafted.lists.get(place).cloned() else { continue };
        let inside: Vec<&str> =
            list.codes.iter().map(|code| code.within.as_str()).filter(|within| !within.is_empty()).collect();
        let heading = found.within.clone().unwrap_or_default();
        let code_of = |parent: &DraftedList, name: &str| meant_by(&parent.codes, name);
        let is_parent = |parent: &&DraftedList| {
            parent.name != list.name
                && !inside.is_empty()
                && inside.iter().all(|name| code_of(parent, name).is_some())
        };
        let mut parents: Vec<DraftedList> = drafted.lists.iter().filter(is_parent).cloned().collect();
        if parents.len() > 1 {
            let named = fold(&heading);
            let of_name: Vec<DraftedList> = parents
                .iter()
                .filter(|parent| named.contains(fold(&parent.title).trim_end_matches('s')))
                .cloned()
                .collect();
            if of_name.len() == 1 {
                parents = of_name;
            }
        }
        let parent = match parents.as_slice() {
            [parent] => Some(parent.clone()),
            _ => None,
        };
        if parent.is_none() && !inside.is_empty() {
            let says =
                format!("the values under \"{heading}\" are not codes of another list, and were left out");
            drafted.ask(list.title.clone(), says, &list.from);
        }
        if let Some(list) = drafted.lists.get_mut(place) {
            for code in &mut list.codes {
                code.within =
                    parent.as_ref().and_then(|parent| code_of(parent, &code.within)).unwrap_or_default();
            }
        }
        settle_successors(place, drafted);
        if let Some(parent) = parent {
            tie_fields(&list, &parent, drafted);
        }
    }
}

/// A field whose codes are divided says which field decides.
fn tie_fields(list: &DraftedList, parent: &DraftedList, drafted: &mut Drafted) {
    let takes = |field: &DraftedField, list: &DraftedList| {
        field.claims.text("codes") == Some(&format!("codes/{}.csv", list.name))
    };
    let parents: Vec<String> =
        drafted.fields.iter().filter(|field| takes(field, parent)).map(|field| field.name.clone()).collect();
    let mut open = Vec::new();
    for field in drafted.fields.iter_mut().filter(|field| takes(field, list)) {
        match parents.as_slice() {
            [only] => field.claims.set("within", Setting::Text(only.clone()), &list.from),
            _ => open.push(field.name.clone()),
        }
    }
    for name in open {
        let says = format!(
            "its codes are divided by {}, and {} fields hold one; write within = \"…\"",
            parent.title,
            parents.len()
        );
        drafted.ask(name, says, &list.from);
    }
}

/// A successor may be named by its label.
fn settle_successors(place: usize, drafted: &mut Drafted) {
    let Some(list) = drafted.lists.get(place) else { return };
    let (title, from, codes) = (list.title.clone(), list.from.clone(), list.codes.clone());
    let mut unknown = Vec::new();
    if let Some(list) = drafted.lists.get_mut(place) {
        for code in list.codes.iter_mut().filter(|code| !code.replaced_by.is_empty()) {
            match meant_by(&codes, &code.replaced_by) {
                Some(other) => code.replaced_by = other,
                None => unknown.push((code.code.clone(), std::mem::take(&mut code.replaced_by))),
            }
        }
    }
    for (code, successor) in unknown {
        drafted.ask(
            title.clone(),
            format!("the code \"{code}\" is replaced by \"{successor}\", which is not in the list"),
            &from,
        );
    }
}

/// The code that a name means: it is the code, or the label of one code and no other.
fn meant_by(codes: &[Code], name: &str) -> Option<String> {
    if let Some(code) = codes.iter().find(|code| code.code == name) {
        return Some(code.code.clone());
    }
    let mut labelled = codes.iter().filter(|code| fold(&code.label) == fold(name));
    match (labelled.next(), labelled.next()) {
        (Some(only), None) => Some(only.code.clone()),
        _ => None,
    }
}
