//! What became of whole columns of rejected rows: sorted by themselves, renamed, taken away, or somebody's own.

use hashbrown::HashMap;

use super::read_back::BroughtBack;
use dusk_evidence::Problems;
use dusk_values::nearest;

/// What the cells of each column held, and what they hold now, for the rows that are where they say.
pub(super) type ColumnsBack<'b> = HashMap<&'b str, Vec<(&'b str, &'b str)>>;

/// A column that holds what it held, in another order, was sorted by itself.
pub(super) fn check_order(columns: &ColumnsBack<'_>, name: &str, problems: &mut Problems) {
    /// How many cells at least have to stand elsewhere.
    const LEAST: usize = 4;
    let mut sorted: Vec<&str> = columns
        .iter()
        .filter(|(_, cells)| {
            let elsewhere = cells.iter().filter(|(before, now)| before != now).count();
            let mut was: Vec<&str> = cells.iter().map(|(before, _)| *before).collect();
            let mut is: Vec<&str> = cells.iter().map(|(_, now)| *now).collect();
            was.sort_unstable();
            is.sort_unstable();
            elsewhere >= LEAST && was == is
        })
        .map(|(heading, _)| *heading)
        .collect();
    sorted.sort_unstable();
    for heading in sorted {
        problems
            .at(
                name,
                None,
                format!(
                    "the column \"{heading}\" holds what it held, in other rows: it was sorted by itself"
                ),
            )
            .hint("sort all columns together, or take the file as the batch wrote it");
    }
}

/// The headings have to be those of the sources. Gives back those that somebody wrote beside them.
pub(super) fn check_headings<'b>(
    back: &'b BroughtBack,
    known: &[&str],
    (problems, remarks): (&mut Problems, &mut Vec<String>),
) -> Vec<&'b str> {
    let missing: Vec<&str> =
        known.iter().copied().filter(|name| !back.columns.iter().any(|other| other == name)).collect();
    let are_all_there = missing.iter().all(|heading| *heading == back.beyond);
    let unknown =
        |heading: &&String| !known.contains(&heading.as_str()) && !dusk_sources::has_no_heading(heading);
    let unknown: Vec<&str> = back.columns.iter().filter(unknown).map(String::as_str).collect();
    if are_all_there && let [first, more @ ..] = unknown.as_slice() {
        let (column, is) = if more.is_empty() { ("column", "is") } else { ("columns", "are") };
        let more: String = more.iter().map(|heading| format!(", \"{heading}\"")).collect();
        let says = format!("the {column} \"{first}\"{more} {is} not in the source, and {is} ignored");
        remarks.push(says);
    }
    for heading in unknown.iter().filter(|_| !are_all_there) {
        problems
            .at(&back.name, None, format!("the heading \"{heading}\" is not in the source"))
            .hint(which_it_was(heading, &missing));
    }
    for heading in missing.iter().filter(|heading| **heading != back.beyond) {
        if problems.is_empty() {
            problems.at(&back.name, None, format!("the column \"{heading}\" is gone")).hint(
                "take the file as the batch wrote it; columns may be hidden or moved, but not taken away",
            );
        }
    }
    unknown
}

/// What a heading was before it was changed, as far as it can be told.
fn which_it_was(heading: &str, missing: &[&str]) -> String {
    match (nearest(heading, missing.iter().copied()), missing) {
        (Some(near), _) | (None, &[near]) => format!("it was \"{near}\": put the heading back"),
        _ => "put the headings back as the batch wrote them".to_owned(),
    }
}
