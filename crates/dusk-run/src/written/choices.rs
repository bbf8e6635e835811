//! What the drop-downs of rejected rows offer, as the export writes it.

use crate::Ready;
use dusk_description::{BooleanType, Code, CodeList, FieldType, ReadAs, fold};
use dusk_mapping::{Feed, Map, Repeat};
use dusk_rejects::{Choices, Inside, Offer};

/// For each column that feeds codes or words for true and false, what it may hold.
pub(crate) fn choices(ready: &Ready<'_>) -> Vec<Choices> {
    let mut all: Vec<Choices> = Vec::new();
    for map in &ready.job.mapping.maps {
        let (headings, offer) = match (&map.feed, offer(ready, map)) {
            (feed, Some(offer)) => (headings_of(feed), offer),
            (_, None) => continue,
        };
        for heading in headings {
            for (heading, parent) in repeated(ready, heading, offer.parent()) {
                if all.iter().any(|known| known.heading == heading) {
                    continue;
                }
                all.push(Choices { heading, offer: offer.below(parent) });
            }
        }
    }
    all
}

/// The columns in which one value of a field may be chosen.
fn headings_of(feed: &Feed) -> Vec<&str> {
    match feed {
        Feed::Column(_) | Feed::FirstOf(_) | Feed::Together(_) | Feed::Flags(_) => feed.columns(),
        Feed::Filled { .. }
        | Feed::WorkedOut(_)
        | Feed::InUnits(..)
        | Feed::Constant(_)
        | Feed::Join(_)
        | Feed::LookUp(_)
        | Feed::Number
        | Feed::Group => Vec::new(),
    }
}

/// A heading, and that of the column above it, in every repeat.
fn repeated(ready: &Ready<'_>, heading: &str, parent: &str) -> Vec<(String, String)> {
    match &ready.job.mapping.repeat {
        None => vec![(heading.to_owned(), parent.to_owned())],
        Some(repeat) => {
            let numbers = repeat.numbers_for(heading).iter();
            numbers
                .map(|number| (Repeat::heading(heading, number), Repeat::heading(parent, number)))
                .collect()
        }
    }
}

/// What the columns of a field offer; nothing where it has no list, or its cells hold more than its values.
fn offer(ready: &Ready<'_>, map: &Map) -> Option<Offer> {
    if map.part.is_some() || map.true_where.is_some() {
        return None;
    }
    let kind = &ready.job.target.fields.get(map.field)?.kind;
    match (kind, &map.feed) {
        (FieldType::Boolean(words), _) => words_of(map, words),
        (FieldType::Codes(_), Feed::Flags(_)) => {
            words_of(map, &BooleanType { yes: "1".into(), no: "0".into() })
        }
        _ => {
            let list = kind.codes()?;
            let in_use = |code: &Code| code.until.is_none_or(|until| until >= ready.job.today);
            Some(
                inside(ready, map, list, &in_use)
                    .unwrap_or_else(|| Offer::Values(values(list, map, &in_use))),
            )
        }
    }
}

/// Words for true and false that are read in a column; nothing where the usual ones could mean the reverse.
fn words_of(map: &Map, target: &BooleanType) -> Option<Offer> {
    let usual = || {
        let reversed = fold(&target.no) == "yes" || fold(&target.yes) == "no";
        (!reversed).then(|| ("yes".to_owned(), "no".to_owned()))
    };
    let (yes, no) = map.words.clone().or_else(usual)?;
    Some(Offer::Values(vec![yes, no]))
}

/// The codes of a list that satisfy this, as the export writes them.
fn values(list: &CodeList, map: &Map, is_one: &dyn Fn(&Code) -> bool) -> Vec<String> {
    let mut values: Vec<String> = Vec::new();
    for code in list.codes().iter().filter(|code| is_one(code)) {
        let labelled = map.read_as != ReadAs::Codes && !code.label.is_empty();
        let value = if labelled { &code.label } else { &code.code };
        if !values.contains(value) {
            values.push(value.clone());
        }
    }
    values
}

/// Lists that follow the cell of another column; nothing where the field has no parent, or that has no column of its
/// own.
fn inside(ready: &Ready<'_>, map: &Map, list: &CodeList, in_use: &dyn Fn(&Code) -> bool) -> Option<Offer> {
    let target = ready.job.target;
    let parent = target.fields.get(map.field)?.kind.parent()?;
    let above = ready.job.mapping.maps.iter().find(|above| above.field == parent && above.part.is_none())?;
    let (Feed::Column(_), Feed::Column(heading)) = (&map.feed, &above.feed) else { return None };
    let parents = target.fields.get(parent)?.kind.codes()?;
    let of_parent = |code: &Code| {
        let mut written = vec![code.code.clone(), code.label.clone()];
        written.extend(code.also.iter().cloned());
        let known = above.crosswalk.lines().iter().filter(|line| line.code == code.code);
        written.extend(known.map(|line| line.value.clone()));
        written.retain(|text| !text.is_empty());
        let is_inside =
            |inner: &Code| in_use(inner) && (inner.within.is_empty() || inner.within == code.code);
        Inside {
            name: if code.label.is_empty() { code.code.clone() } else { code.label.clone() },
            written,
            values: values(list, map, &is_inside),
        }
    };
    let lists = parents.codes().iter().map(of_parent).filter(|inside| !inside.values.is_empty()).collect();
    Some(Offer::Inside { parent: heading.clone(), lists, all: values(list, map, in_use) })
}
