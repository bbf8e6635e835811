//! What the evidence of a column's dates comes to: an order, none needed, or a doubt.

use super::{DateEvidence, Group};
use crate::DateShape;
use crate::date_shape::Padding;
use dusk_values::DateOrder;

/// What a column's dates come to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Judgement {
    NotNeeded,
    Proven(DateOrder),
    Undecided,
    /// Shapes without a proof beside shapes that are always above 12.
    HiddenHalf(Vec<DateShape>),
    /// Typed or ISO dates that could all be swapped beside texts that never could: the order of the
    /// texts, and the shapes that were converted.
    Half(DateOrder, Vec<DateShape>),
    Contradicted,
}

impl DateEvidence {
    /// The groups, with values whose zeros say nothing put to those that they must belong to.
    pub(super) fn settled_groups(&self) -> Vec<Group> {
        let (either, certain): (Vec<Group>, Vec<Group>) =
            self.groups.iter().cloned().partition(|group| group.shape.padding == Padding::Either);
        let mut groups = certain;
        for group in either {
            let mut siblings = groups.iter_mut().filter(|other| {
                other.shape.padding != Padding::Either && other.shape.is_sibling(group.shape)
            });
            match (siblings.next(), siblings.next()) {
                (Some(only), None) => only.append(group),
                _ => groups.push(group),
            }
        }
        groups
    }

    pub(super) fn judge(&self) -> Judgement {
        let groups = self.settled_groups();
        let mut proven: Vec<DateOrder> = groups.iter().flat_map(Group::proves).collect();
        proven.dedup();
        let undecided = groups.iter().any(|group| group.undecided > 0);
        let Some((order, others)) = proven.split_first() else {
            return if undecided { Judgement::Undecided } else { Judgement::NotNeeded };
        };
        if others.iter().any(|other| other != order) {
            return Judgement::Contradicted;
        }
        match undecided {
            true => beside_undecided(&groups, *order),
            false => beside_iso(&groups, *order),
        }
    }
}

/// Every value has one reading, or begins with the year: those may be what a program made of the others.
fn beside_iso(groups: &[Group], order: DateOrder) -> Judgement {
    let swapped: Vec<&Group> = groups.iter().filter(|group| group.small > 0).collect();
    let half =
        !swapped.is_empty() && swapped.iter().all(|group| group.big == 0) && order != DateOrder::YearMonthDay;
    match half {
        true => Judgement::Half(order, swapped.iter().map(|group| group.shape).collect()),
        false => Judgement::Proven(order),
    }
}

/// Each shape has to prove its own order.
fn beside_undecided(groups: &[Group], order: DateOrder) -> Judgement {
    let is_unproven = |group: &Group| group.undecided > 0 && group.proves().next().is_none();
    let is_mixed = |shape: DateShape| {
        shape.padding == Padding::Either
            && groups.iter().any(|other| {
                other.shape.padding != Padding::Either && other.shape.is_sibling(shape) && is_unproven(other)
            })
    };
    let doubtful: Vec<DateShape> = groups
        .iter()
        .filter(|group| is_unproven(group) || is_mixed(group.shape))
        .map(|group| group.shape)
        .collect();
    if doubtful.is_empty() { Judgement::Proven(order) } else { Judgement::HiddenHalf(doubtful) }
}
