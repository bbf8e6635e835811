//! Columns that feed the wrong fields, told by what they hold.
//!
//! Where nearly everything in a column is rejected, its values are seldom all wrong: another column was meant,
//! or two of them were exchanged.

use super::contents::Contents;
use super::sample::{Sample, samples};
use dusk_description::{Field, Target};
use dusk_evidence::{ColumnCause, ColumnFact, ColumnId, Explains, FieldId, Grounds, Id as _, Result};
use dusk_files::toml_text;
use dusk_mapping::{Feed, Map, Mapping};
use dusk_sources::Source;

/// What the contents of a column must speak for a field by, to be meant for it.
const FITS: i32 = 150;

/// How much better the contents must fit, over both columns, for these to be exchanged.
const SWAPPED: i32 = 450;

/// Looks for other columns that fit the fields in `suspects`, whose own columns are mostly rejected.
///
/// # Errors
/// Whatever stops reading the source.
pub fn wrong_columns(
    source: &Source,
    target: &Target,
    mapping: &Mapping,
    suspects: &[FieldId],
) -> Result<Vec<ColumnCause>> {
    if suspects.is_empty() {
        return Ok(Vec::new());
    }
    let samples = samples(source)?;
    let fed: Vec<Fed<'_>> = mapping.maps.iter().filter_map(|map| Fed::of(map, source, target)).collect();
    let mut found: Vec<ColumnCause> = Vec::new();
    let mut explained: Vec<FieldId> = Vec::new();
    for own in fed.iter().filter(|own| suspects.contains(&own.map.field)) {
        if explained.contains(&own.map.field) {
            continue;
        }
        if let Some((gain, other)) = exchanged(own, &fed, &samples) {
            explained.extend([own.map.field, other.map.field]);
            found.push(exchange_of(own, other, gain, source));
        } else if let Some((column, grounds)) = better_column(own, source, &samples) {
            let better = source.heading(column);
            found.push(ColumnCause {
                explains: Explains::Fields(vec![own.map.field]),
                fact: ColumnFact::Wrong {
                    column: own.heading(source).to_owned(),
                    better: better.to_owned(),
                    grounds,
                },
                lines: vec![format!("from = {}   # for {}", toml_text(better), own.field.name)],
            });
        }
    }
    Ok(found)
}

/// How well a column's values fit a field.
fn fit(samples: &[Sample], column: ColumnId, field: &Field) -> Contents {
    samples.get(column.index()).map_or_else(Contents::default, |sample| Contents::judge(sample, field))
}

/// The field whose column would have to be exchanged with that of `own`, and why.
fn exchanged<'f>(own: &Fed<'_>, fed: &'f [Fed<'f>], samples: &[Sample]) -> Option<(Grounds, &'f Fed<'f>)> {
    let mine = fit(samples, own.column, own.field).points;
    let gain = |other: &Fed<'_>| {
        let (there, here) = (fit(samples, other.column, own.field), fit(samples, own.column, other.field));
        let gain = there.points + here.points - mine - fit(samples, other.column, other.field).points;
        let fits = there.points > 0 && here.points >= 0;
        (fits && gain >= SWAPPED).then_some((gain, there.grounds))
    };
    let others = fed.iter().filter(|other| other.column != own.column);
    let best = others.filter_map(|other| Some((gain(other)?, other))).max_by_key(|((gain, _), _)| *gain);
    best.map(|((_, grounds), other)| (grounds, other))
}

fn exchange_of(own: &Fed<'_>, other: &Fed<'_>, grounds: Grounds, source: &Source) -> ColumnCause {
    let (first, second) = (own.heading(source), other.heading(source));
    ColumnCause {
        explains: Explains::Fields(vec![own.map.field, other.map.field]),
        fact: ColumnFact::Exchanged { columns: [first.to_owned(), second.to_owned()], grounds },
        lines: vec![
            format!("from = {}   # for {}", toml_text(second), own.field.name),
            format!("from = {}   # for {}", toml_text(first), other.field.name),
        ],
    }
}

/// A column that fits the field much better than its own, and why.
fn better_column(own: &Fed<'_>, source: &Source, samples: &[Sample]) -> Option<(ColumnId, Grounds)> {
    let mine = fit(samples, own.column, own.field).points;
    source
        .column_ids()
        .zip(samples)
        .filter(|(column, sample)| *column != own.column && Sample::different(sample) > 1)
        .map(|(column, _)| (column, fit(samples, column, own.field)))
        .filter(|(_, contents)| contents.points >= FITS && contents.points - mine >= FITS)
        .max_by_key(|(_, contents)| contents.points)
        .map(|(column, contents)| (column, contents.grounds))
}

/// A field that one column feeds.
struct Fed<'m> {
    map: &'m Map,
    field: &'m Field,
    column: ColumnId,
}

impl<'m> Fed<'m> {
    fn of(map: &'m Map, source: &Source, target: &'m Target) -> Option<Self> {
        let (Feed::Column(heading), None, None) = (&map.feed, &map.part, &map.true_where) else {
            return None;
        };
        Some(Self { map, field: target.fields.get(map.field)?, column: source.column(heading)? })
    }

    fn heading<'s>(&self, source: &'s Source) -> &'s str {
        source.heading(self.column)
    }
}
