//! What feeds the rows of groups: the name of the group, the number of the repeat, the columns of each group.

use super::super::{Feed, Map, NUMBER_MARK, Repeat};
use dusk_description::{FieldRows, RowGroups, Target};
use dusk_evidence::FieldId;

/// What is wrong with a mapping of rows by group, and what to do.
type Wrong = (String, String);

/// Feeds the name of the group, and tells which columns repeat as often as which group.
///
/// # Errors
/// Says what is wrong where the name is mapped, nothing counts the repeats, or a column is of two groups.
pub(super) fn settle_groups(
    maps: &mut Vec<Map>,
    mut repeat: Option<&mut Repeat>,
    (target, groups): (&Target, &RowGroups),
) -> Result<(), Wrong> {
    let name = |field: FieldId| target.fields.get(field).map_or("", |field| field.name.as_str());
    let feeds = |maps: &[Map], field: FieldId| maps.iter().any(|map| map.field == field);
    if feeds(maps, groups.name) {
        let says =
            format!("{} takes the name of each row's group, so nothing else can feed it", name(groups.name));
        return Err((says, "take its [[map]] away".to_owned()));
    }
    let feeds_a_group = |map: &Map| matches!(rows_of(target, groups, map.field), FieldRows::Group(_));
    if maps.iter().any(feeds_a_group) && !feeds(maps, groups.counter) {
        let says = format!("nothing says which number goes into {}", name(groups.counter));
        let hint = "give it the column of the export that counts (from), or write [repeat] where the repeats are in columns beside one another";
        return Err((says, hint.to_owned()));
    }
    if let Some(repeat) = repeat.as_mut().filter(|repeat| !repeat.of_groups.is_empty()) {
        let mut columns: Vec<(String, usize)> = Vec::new();
        for map in maps.iter() {
            let FieldRows::Group(group) = rows_of(target, groups, map.field) else { continue };
            let group_name = groups.names.get(group);
            let place = repeat.of_groups.iter().position(|(name, _)| Some(name) == group_name);
            for column in map.feed.columns().into_iter().filter(|column| column.contains(NUMBER_MARK)) {
                let Some(place) = place else {
                    let says = format!("[repeat] numbers_of does not say how often \"{column}\" comes");
                    return Err((
                        says,
                        format!(
                            "write numbers_of = {{ {} = [\"1-3\"] }}",
                            group_name.map_or("", String::as_str)
                        ),
                    ));
                };
                match columns.iter().find(|(known, _)| known == column) {
                    Some((_, other)) if *other != place => {
                        let says = format!("\"{column}\" feeds fields of two groups that repeat differently");
                        return Err((says, "give both the same numbers".to_owned()));
                    }
                    Some(_) => {}
                    None => columns.push((column.to_owned(), place)),
                }
            }
        }
        repeat.group_columns = columns;
    }
    maps.push(Map::fed_by(groups.name, Feed::Group));
    Ok(())
}

fn rows_of(target: &Target, groups: &RowGroups, id: FieldId) -> FieldRows {
    target.fields.get(id).map_or(FieldRows::Every, |field| groups.rows_of(id, field))
}
