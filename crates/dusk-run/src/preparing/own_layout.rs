//! A list in the target's own layout: which of its columns is which field.

use dusk_description::{CodesLayout, CodesType, Field, FieldType, Target, UploadFormat};
use dusk_mapping::{Feed, Map, Mapping};
use dusk_sources::{Position, Source};

/// Maps a list of the target's own: a column is of the field whose heading, name or label it has.
pub(crate) fn own_layout(target: &Target, source: &Source) -> Mapping {
    let mut mapping = Mapping::empty(target);
    mapping.source.line_break.clone_from(&target.upload.line_break);
    for (id, field) in target.fields.with_ids().filter(|(_, field)| field.is_sent()) {
        let Some(feed) = feed(field, source) else { continue };
        let mut map = Map::fed_by(id, feed);
        match &field.kind {
            FieldType::Codes(CodesType { layout: CodesLayout::Joined(between), .. }) => {
                map.between = vec![between.clone()];
            }
            FieldType::Codes(CodesType { layout: CodesLayout::ColumnPerCode { yes, no, .. }, .. }) => {
                map.words = Some((yes.clone(), no.clone()));
            }
            FieldType::Number(number) => {
                map.number.unit = number.unit;
                // Where numbers are written with a comma, nothing else says so of 12,500.
                let mark = target.upload.decimal_mark;
                let is_text =
                    matches!(target.upload.format, UploadFormat::Delimited | UploadFormat::FixedWidth);
                let is_marked = is_text && mark != '.';
                map.number.decimal_mark = is_marked.then_some(mark);
            }
            _ => {}
        }
        mapping.maps.push(map);
    }
    mapping
}

/// What of a list feeds a field.
fn feed(field: &Field, source: &Source) -> Option<Feed> {
    let there = |heading: &String| source.column(heading).is_some();
    match &field.kind {
        FieldType::Codes(CodesType { list, layout: CodesLayout::ColumnPerCode { columns, .. }, .. }) => {
            let pairs = columns.iter().zip(list.codes());
            let pairs: Vec<(String, String)> = pairs
                .filter(|(heading, _)| there(heading))
                .map(|(heading, code)| (heading.clone(), code.code.clone()))
                .collect();
            (!pairs.is_empty()).then_some(Feed::Flags(pairs))
        }
        FieldType::Codes(CodesType { layout: CodesLayout::Numbered(columns), .. }) => {
            let columns: Vec<String> = columns.iter().filter(|heading| there(heading)).cloned().collect();
            (!columns.is_empty()).then_some(Feed::Together(columns))
        }
        _ => column(field, source).map(Feed::Column),
    }
}

/// The column that is called like a field.
fn column(field: &Field, source: &Source) -> Option<String> {
    let names = [Some(field.heading()), Some(field.name.as_str()), field.label.as_deref()];
    let names: Vec<&str> = names.into_iter().flatten().collect();
    let exact = names.iter().find(|name| source.column(name).is_some()).map(|name| (*name).to_owned());
    let loose = |heading: &&String| names.iter().any(|name| letters(name) == letters(heading));
    exact.or_else(|| source.columns.iter().find(loose).cloned())
}

/// A name without case and signs.
fn letters(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// The columns of fixed-width text as the target describes them; none for every other format.
pub(crate) fn own_positions(target: &Target) -> Vec<Position> {
    let mut from = 1;
    let mut positions = Vec::new();
    for heading in target.headings() {
        let Some(width) = target.upload.widths.get(heading) else { return Vec::new() };
        let to = from + width.width - 1;
        positions.push(Position { name: heading.to_owned(), from, to: Some(to) });
        from = to + 1;
    }
    positions
}
