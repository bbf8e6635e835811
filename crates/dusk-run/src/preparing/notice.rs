//! What is noticed before the first row: columns that nobody speaks of, fields that nothing feeds, and what is
//! odd about a workbook's sheet.

use crate::Job;
use dusk_evidence::{Fault, Finding, Kind, Line, Row};
use dusk_sources::Source;

impl Job<'_> {
    /// Columns that nobody speaks of, and fields that nothing feeds.
    pub(crate) fn notice(&self) -> Vec<Finding> {
        let wanted = self.mapping.wanted();
        let mut noticed = Vec::new();
        for (place, source) in self.sources.iter().enumerate() {
            let row = Row(source.header_row);
            noticed.extend(notice_workbook(source, place));
            for column in source.columns.iter() {
                if column.starts_with("(column ")
                    || wanted.contains(column)
                    || self.mapping.leave_out.contains(column)
                {
                    continue;
                }
                let fault = Fault::new(
                    Kind::ColumnNotMapped,
                    "is a column that the mapping does not speak of",
                    format!(
                        "map it, or write it under [leave_out] columns in {}",
                        self.mapping.path.display()
                    ),
                );
                noticed.push(Finding::new(place, (row, source.header_line), "column", column.clone(), fault));
            }
        }
        for (place, field) in self.target.fields.iter().enumerate() {
            if !field.never_send
                && field.made_of.is_none()
                && field.fixed.is_none()
                && !self.mapping.maps.iter().any(|map| map.field == place)
            {
                let source = self.sources.first();
                let row = Row(source.map_or(1, |source| source.header_row));
                let line = source.map_or(Line::FIRST, |source| source.header_line);
                let fault = Fault::new(
                    Kind::FieldNotFed,
                    "is fed by nothing and stays blank",
                    "a [[map]] for it, if it should be filled",
                );
                noticed.push(Finding::new(0, (row, line), field.name.clone(), "", fault).at_field(place));
            }
        }
        noticed
    }
}

/// What is to be said about a workbook's sheet, although its rows are read like all others.
fn notice_workbook(source: &Source, place: usize) -> Vec<Finding> {
    let Some(facts) = &source.workbook else { return Vec::new() };
    let finding = |kind: Kind, row: u64, value: String, wrong: String, right: &str| {
        Finding::new(place, (Row(row), Line(row)), "sheet", value, Fault::new(kind, wrong, right))
    };
    let mut noticed = Vec::new();
    if let Some((first, _)) = facts.hidden_rows.first() {
        let says = match facts.hidden_count() {
            1 => format!("has a hidden row, row {first}, which is read like all others"),
            count => format!(
                "has {count} hidden rows, the first of them row {first}; they are read like all others"
            ),
        };
        noticed.push(finding(
            Kind::HiddenRows,
            *first,
            facts.sheet.clone(),
            says,
            "show them in the spreadsheet program, and delete what does not belong to the export",
        ));
    }
    // A title merged above the header matters to nobody.
    let below: Vec<&String> =
        facts.merged.iter().filter(|range| last_row_of(range) > source.header_row).collect();
    if let Some(first) = below.first() {
        let says = match below.len() {
            1 => format!("has merged cells, {first}; only the first of them holds the value"),
            count => format!(
                "has {count} ranges of merged cells, the first of them {first}; only the first cell of each holds the value"
            ),
        };
        noticed.push(finding(
            Kind::MergedCells,
            last_row_of(first),
            facts.sheet.clone(),
            says,
            "unmerge them in the spreadsheet program, and fill every cell",
        ));
    }
    noticed
}

/// The last row of a range like B2:C5.
fn last_row_of(range: &str) -> u64 {
    let digits =
        range.trim_start_matches(|c: char| c != ':').trim_start_matches(|c: char| !c.is_ascii_digit());
    digits.parse().unwrap_or(0)
}
