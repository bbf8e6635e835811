//! `dusk inspect --page`: an export as a page, before anything is mapped: what it is, a picture of each column, damage
//! where it lies, and what needs a decision. It holds everything that it shows, and needs no network and no script.

use dusk_core::evidence::Evidence;
use dusk_core::inspecting::{
    Band, Cells, ColumnPicture, ColumnReport, Counted, Inspection, SourcePicture, Spread,
};
use dusk_core::sources::Source;
use maud::{DOCTYPE, Markup, html};

use super::charts::{Column, Slice, bars, columns, down_the_rows};
use super::{page_head, percent, quoted};
use crate::show::{counted, grouped, how_read, visible};

/// How many shapes or values of a column are listed.
const MOST: usize = 8;

/// How many months are drawn; where there are more, years are.
const MOST_MONTHS: usize = 60;

/// The page about an export that was looked over.
pub(crate) fn inspected_page(source: &Source, inspection: &Inspection, picture: &SourcePicture) -> String {
    let open: Vec<&Evidence> = all_evidence(source, inspection)
        .filter(|evidence| evidence.needs_decision() && !evidence.settle.is_empty())
        .collect();
    html! {
        (DOCTYPE)
        html lang="en" {
            (page_head(&format!("{}, inspected", source.name), false))
            body {
                a.skip href="#columns" { "To the columns" }
                main {
                    (head(source, inspection, open.len() as u64))
                    (decisions(&open))
                    (rows(inspection, picture))
                    (damage(inspection))
                    (overview(inspection, picture))
                    @for (place, (column, drawn)) in inspection.columns.iter().zip(&picture.columns).enumerate() {
                        (column_section(place, column, drawn, &picture.bands))
                    }
                    (how_it_is_read(source))
                }
                footer { "Made by Dusk Button " (env!("CARGO_PKG_VERSION")) ". Nothing was changed: this is what the file holds." }
            }
        }
    }
    .into_string()
}

fn all_evidence<'a>(source: &'a Source, inspection: &'a Inspection) -> impl Iterator<Item = &'a Evidence> {
    let columns = inspection.columns.iter().flat_map(|column| &column.evidence);
    source.evidence.iter().chain(&inspection.decisions).chain(columns)
}

fn head(source: &Source, inspection: &Inspection, open: u64) -> Markup {
    let damaged = inspection.columns.iter().filter(|column| !column.damage.is_empty()).count() as u64;
    html! {
        header {
            h1 { (visible(&source.name)) }
            p { "read as " (visible(&how_read(source, true))) }
            p.verdict {
                strong { (counted(inspection.rows, "row")) } " of " strong { (counted(inspection.columns.len() as u64, "column")) } "; "
                @match damaged {
                    0 => "no column shows damage",
                    _ => { strong { (counted(damaged, "column")) } @if damaged == 1 { " shows damage" } @else { " show damage" } }
                }
                "; "
                @match open {
                    0 => "nothing needs a decision.",
                    _ => { strong { (counted(open, "point")) } @if open == 1 { " needs a decision." } @else { " need a decision." } }
                }
            }
        }
    }
}

/// The open questions, each with the lines that answer it.
fn decisions(open: &[&Evidence]) -> Markup {
    html! {
        @if !open.is_empty() {
            section aria-labelledby="decisions" {
                h2 id="decisions" { "What needs a decision" }
                @for evidence in open {
                    article.together {
                        h3 { (visible(&evidence.claim.to_string())) ": " (visible(&evidence.verdict_shown())) }
                        ul { @for detail in evidence.details() { li { (visible(&detail)) } } }
                        p { "One of these lines of the mapping decides it:" }
                        pre { code { @for line in evidence.settle.iter().flat_map(|line| line.lines()) { (visible(line)) "\n" } } }
                    }
                }
            }
        }
    }
}

/// Where the rows lie that are not records.
fn rows(inspection: &Inspection, picture: &SourcePicture) -> Markup {
    let others: u64 = picture.bands.iter().map(|band| band.others).sum();
    if others == 0 {
        return html! {};
    }
    let slices: Vec<Slice> = picture
        .bands
        .iter()
        .map(|band| Slice {
            whole: band.records + band.others,
            parts: [(band.others, "var(--bad)"), (0, "")],
        })
        .collect();
    let says = format!(
        "Where the {} lie that are not records, from the first row to the last.",
        counted(others, "row")
    );
    let (repeated, first) = inspection.repeated_headers;
    html! {
        section aria-labelledby="rows" {
            h2 id="rows" { "Rows that are not records" }
            (down_the_rows(&slices, &says, ends(&picture.bands)))
            ul {
                @if inspection.blank_rows > 0 { li { (counted(inspection.blank_rows, "blank row")) } }
                @if let Some(first) = first { li { (counted(repeated, "row")) " with the headings again, first row " (first) } }
                @for odd in &inspection.odd_rows {
                    li { (counted(odd.count, "row")) " " (visible(&odd.what)) "; first " (visible(&odd.first.to_string())) }
                }
            }
        }
    }
}

fn damage(inspection: &Inspection) -> Markup {
    let seen =
        || inspection.columns.iter().flat_map(|column| column.damage.iter().map(move |seen| (column, seen)));
    html! {
        @if seen().next().is_some() {
            section aria-labelledby="damage" {
                h2 id="damage" { "What has happened to the values" }
                table {
                    thead { tr { th.number scope="col" { "Cells" } th scope="col" { "Column" } th scope="col" { "Damage" } th scope="col" { "First" } th scope="col" { "What becomes of it" } } }
                    tbody { @for (column, seen) in seen() {
                        tr {
                            td.number { (grouped(seen.count)) }
                            td.name { (visible(&column.name)) }
                            td { (seen.damage.what()) }
                            td { (visible(&seen.first.place)) " " (quoted(&seen.first.value)) " " (visible(&seen.first.reads)) }
                            td { (seen.damage.mends()) }
                        }
                    } }
                }
            }
        }
    }
}

/// All columns in a table, each with the way to its picture.
fn overview(inspection: &Inspection, picture: &SourcePicture) -> Markup {
    let filled: Vec<_> = inspection
        .columns
        .iter()
        .map(|column| super::charts::Bar {
            label: visible(&column.name).into_owned(),
            count: column.filled,
            says: format!(
                "{} %, {} blank",
                percent(column.filled, column.filled + column.blank),
                grouped(column.blank)
            ),
        })
        .collect();
    let records: u64 = picture.bands.iter().map(|band| band.records).sum();
    let says = format!("For each column, in how many of {} it has a value.", counted(records, "record"));
    html! {
        section aria-labelledby="columns" {
            h2 id="columns" tabindex="-1" { "The columns" }
            p { (says) }
            (bars(&filled, records, "var(--bar)", &says))
            nav aria-label="Columns" {
                ol.ways { @for (place, column) in inspection.columns.iter().enumerate() {
                    li { a href={ "#c" (place + 1) } { (visible(&column.name)) } }
                } }
            }
        }
    }
}

fn column_section(place: usize, column: &ColumnReport, drawn: &ColumnPicture, bands: &[Band]) -> Markup {
    let distinct = format!(
        "{}{}",
        if column.distinct_estimated { "about " } else { "" },
        counted(column.distinct, "different value")
    );
    let label = format!("c{}", place + 1);
    html! {
        section.column aria-labelledby=(label) {
            h3 id=(label) { (visible(&column.name)) " " span.quiet { (visible(&column.holds)) } }
            p {
                (counted(column.filled, "cell")) " filled, " (grouped(column.blank)) " blank, " (distinct)
                @if !column.range.is_empty() { "; " (visible(&column.range)) }
                @if let Some(field) = &column.field { "; the field " code { (visible(field)) } " has the same name" }
            }
            (down(drawn, bands))
            (spread(column, drawn))
            (listed(column))
        }
    }
}

/// Blank and damaged cells from the first row to the last; nothing where all of them are filled and sound.
fn down(drawn: &ColumnPicture, bands: &[Band]) -> Markup {
    let sum = |count: fn(&Cells) -> u64| drawn.bands.iter().map(count).sum::<u64>();
    let (blank, damaged) = (sum(|cells| cells.blank), sum(|cells| cells.damaged));
    if blank + damaged == 0 {
        return html! {};
    }
    let slice = |cells: &Cells| Slice {
        whole: cells.filled + cells.blank,
        parts: [(cells.blank, "var(--out)"), (cells.damaged, "var(--bad)")],
    };
    let slices: Vec<Slice> = drawn.bands.iter().map(slice).collect();
    let says = format!(
        "From the first row to the last: {} blank, {} with damage.",
        counted(blank, "cell"),
        grouped(damaged)
    );
    html! {
        (down_the_rows(&slices, &says, ends(bands)))
        ul.key {
            @if blank > 0 { li { span style="background:var(--out)" {} (grouped(blank)) " blank" } }
            @if damaged > 0 { li { span style="background:var(--bad)" {} (grouped(damaged)) " with damage" } }
            li { span style="background:var(--ground)" {} "filled" }
        }
    }
}

/// The first and the last row.
fn ends(bands: &[Band]) -> (String, String) {
    let row = |number: u64| format!("row {number}");
    (row(bands.first().map_or(0, |band| band.first_row)), row(bands.last().map_or(0, |band| band.last_row)))
}

/// How the values are spread: by month, by size or by length. Few values are listed instead.
fn spread(column: &ColumnReport, drawn: &ColumnPicture) -> Markup {
    let (shown, says) = match &drawn.spread {
        Spread::Months(months) if months.len() <= MOST_MONTHS => {
            let name = |year: i16, month: i8| {
                jiff::civil::Date::new(year, month, 1)
                    .map_or_else(|_| String::new(), |day| day.strftime("%b %Y").to_string())
            };
            let first = months.keys().next().copied();
            let last = months.keys().next_back().copied();
            let all = first.zip(last).map_or_else(Vec::new, |(first, last)| between(first, last));
            let count = |at: &(i16, i8)| months.get(at).copied().unwrap_or(0);
            let shown = all.iter().map(|at| Column { label: name(at.0, at.1), count: count(at) }).collect();
            (shown, "How many values lie in each month.")
        }
        Spread::Months(months) => {
            let mut years = std::collections::BTreeMap::<i16, u64>::new();
            months.iter().for_each(|((year, _), count)| *years.entry(*year).or_default() += count);
            let year = |(year, count): (&i16, &u64)| Column { label: year.to_string(), count: *count };
            (years.iter().map(year).collect(), "How many values lie in each year that has one.")
        }
        Spread::Numbers(ranges) => {
            let range = |(from, count): &(dusk_core::values::Decimal, u64)| Column {
                label: from.to_string(),
                count: *count,
            };
            (
                ranges.iter().map(range).collect(),
                "How many numbers lie in each range, from the least to the greatest.",
            )
        }
        Spread::Lengths(_) if !column.values.is_empty() => (Vec::new(), ""),
        Spread::Lengths(lengths) => {
            let length =
                |(letters, count): (&u32, &u64)| Column { label: letters.to_string(), count: *count };
            (lengths.iter().map(length).collect(), "How many values have so many characters.")
        }
    };
    let shown: Vec<Column> = shown;
    html! { @if shown.len() > 1 { (columns(&shown, says)) } }
}

/// Every month from the first to the last; those without a value are a gap that can be seen.
fn between(first: (i16, i8), last: (i16, i8)) -> Vec<(i16, i8)> {
    let at = |(year, month): (i16, i8)| i32::from(year) * 12 + i32::from(month) - 1;
    (at(first)..=at(last))
        .take(10 * MOST_MONTHS)
        .filter_map(|month| {
            Some((i16::try_from(month.div_euclid(12)).ok()?, i8::try_from(month.rem_euclid(12) + 1).ok()?))
        })
        .collect()
}

/// The commonest values, or shapes where there are too many values.
fn listed(column: &ColumnReport) -> Markup {
    let (title, all): (&str, &[Counted]) =
        if column.values.is_empty() { ("Shape", &column.shapes) } else { ("Value", &column.values) };
    let has_examples = column.values.is_empty();
    html! {
        @if !all.is_empty() {
            table {
                thead { tr { th scope="col" { (title) } th.number scope="col" { "Cells" } th.number scope="col" { "First row" } @if has_examples { th scope="col" { "For example" } } } }
                tbody { @for one in all.iter().take(MOST) {
                    tr {
                        td.name { (visible(&one.text)) }
                        td.number { (grouped(one.count)) }
                        td.number { @if one.row > 0 { (one.row) } }
                        @if has_examples { td { @if !one.example.is_empty() { (quoted(&one.example)) } } }
                    }
                } }
            }
            @if all.len() > MOST { p.quiet { "And " (all.len() - MOST) " more; dusk inspect --column lists them." } }
        }
    }
}

/// The evidence for how the file is read.
fn how_it_is_read(source: &Source) -> Markup {
    html! {
        section aria-labelledby="read" {
            h2 id="read" { "How the file is read, and why" }
            dl { @for evidence in &source.evidence {
                dt { (visible(&evidence.claim.to_string())) }
                dd {
                    (visible(&evidence.verdict_shown()))
                    @for detail in evidence.details() { br; span.quiet { (visible(&detail)) } }
                }
            } }
        }
    }
}
