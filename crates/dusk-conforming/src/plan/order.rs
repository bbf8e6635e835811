//! The order in which fields are conformed.

use dusk_description::Target;
use dusk_evidence::FieldId;

/// Parents before what is within them, parts before what is made of them; otherwise the template's
/// order.
pub(super) fn order(target: &Target) -> Vec<FieldId> {
    let mut fields: Vec<FieldId> = target.fields.ids().collect();
    if !fields.iter().all(|id| needs_only_those_before(target, *id)) {
        fields.sort_by_key(|id| depth(target, *id));
    }
    fields
}

fn parent(target: &Target, id: FieldId) -> Option<FieldId> {
    target.fields.get(id)?.kind.parent()
}

fn needs_only_those_before(target: &Target, id: FieldId) -> bool {
    let made_of = target.fields.get(id).and_then(|field| field.made_of.as_ref());
    let parts = made_of.iter().flat_map(|made_of| made_of.names()).filter_map(|name| target.field(name));
    parent(target, id).into_iter().chain(parts).all(|needed| needed < id)
}

/// How many parents are above a field; nothing for one that is made of others, which comes last. Parts are
/// not made of parts, but they may be within parents.
fn depth(target: &Target, id: FieldId) -> (bool, usize) {
    let is_made = target.fields.get(id).is_some_and(|field| field.made_of.is_some());
    let above = std::iter::successors(parent(target, id), |id| parent(target, *id));
    (is_made, if is_made { 0 } else { above.take(target.fields.len()).count() })
}
