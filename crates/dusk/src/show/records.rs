//! Files of records, and how a source was read in a few words.

use std::fmt;

use dusk_core::sources::{RecordFacts, Source};

use super::layout::{counted, grouped, labelled};
use super::visible::visible;

/// What makes a row of a file of records.
pub(super) fn records_in_short(facts: &RecordFacts) -> String {
    let each = match facts.each.as_str() {
        "" => "a row for each record".to_owned(),
        each => format!("a row for each of {}", visible(each)),
    };
    let without = match facts.without_row {
        0 => String::new(),
        count => format!("; {} without one", counted(count, "record")),
    };
    format!("{}, {each}: {}{without}", facts.format, counted(facts.rows, "row"))
}

/// How a source was read, as a report says it; the name of a sheet only where values are shown.
pub(crate) fn how_read(source: &Source, values: bool) -> String {
    if let Some(facts) = &source.records {
        return records_in_short(facts);
    }
    let parts = match source.sheet() {
        Some(sheet) if values => format!("a sheet {}", visible(&sheet)),
        Some(_) => "a sheet".to_owned(),
        None => source.delimiter_name(),
    };
    let headings = match source.header_row {
        0 => "no headings".to_owned(),
        row => format!("headings in row {row}"),
    };
    format!("{}, {parts}, {headings}", source.encoding.label())
}

/// What a file of records is, which of its lists makes rows, and which cells hold several values.
pub(super) fn record_facts(f: &mut fmt::Formatter<'_>, facts: &RecordFacts) -> fmt::Result {
    labelled(f, "records", &records_in_short(facts))?;
    if !facts.several.is_empty() {
        let mark = visible(&facts.between).into_owned();
        let columns = first_few(facts.several.iter().map(|column| visible(column).into_owned()));
        labelled(f, "several", &format!("values in one cell, with \"{mark}\" between them: {columns}"))?;
    }
    if let Some((largest, _)) = facts.lists.iter().max_by_key(|(_, items)| *items) {
        let lists =
            facts.lists.iter().map(|(path, items)| format!("{} ({})", visible(path), grouped(*items)));
        let says = format!(
            "{}; each = \"{}\" under [source] makes a row of each item",
            first_few(lists),
            visible(largest)
        );
        labelled(f, "lists", &says)?;
    }
    if facts.damaged > 0 {
        labelled(f, "damaged", &format!("{} that cannot be read", counted(facts.damaged, "record")))?;
    }
    Ok(())
}

/// The first of several names, and how many there are beside them.
fn first_few(names: impl ExactSizeIterator<Item = String>) -> String {
    const SHOWN: usize = 5;
    let more = names.len().saturating_sub(SHOWN);
    let shown: Vec<String> = names.take(SHOWN).collect();
    format!("{}{}", shown.join(", "), if more > 0 { format!(" and {more} more") } else { String::new() })
}
