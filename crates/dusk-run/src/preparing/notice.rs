//! What is noticed before the first row: columns that nobody speaks of, fields that nothing feeds, and what is
//! odd about a workbook's sheet.

use crate::Job;
use dusk_evidence::{Fault, Finding, Line, Row, RowFact, SourceId};
use dusk_sources::Source;

impl Job<'_> {
    /// Columns that nobody speaks of, and fields that nothing feeds.
    pub(crate) fn notice(&self) -> Vec<Finding> {
        let wanted = self.mapping.wanted();
        let mut noticed = Vec::new();
        for (place, source) in self.sources_with_ids() {
            let row = Row(source.header_row);
            noticed.extend(notice_workbook(source, place));
            for column in source.columns.iter() {
                if dusk_sources::has_no_heading(column)
                    || wanted.contains(column)
                    || self.mapping.leave_out.contains(column)
                {
                    continue;
                }
                let fault =
                    Fault::new(RowFact::ColumnNotMapped { mapping: self.mapping.path.display().to_string() });
                noticed.push(Finding::new(place, (row, source.header_line), "column", column.clone(), fault));
            }
        }
        for (place, field) in self.target.fields.with_ids() {
            if !field.never_send
                && field.made_of.is_none()
                && field.fixed.is_none()
                && field.operation.is_none()
                && !field.given_by_target
                && !self.mapping.fields_left_out.contains(&place)
                && !self.mapping.maps.iter().any(|map| map.field == place)
            {
                let source = self.sources.first();
                let row = Row(source.map_or(1, |source| source.header_row));
                let line = source.map_or(Line::FIRST, |source| source.header_line);
                let fault = Fault::new(RowFact::FieldNotFed);
                noticed.push(
                    Finding::new(SourceId::FIRST, (row, line), field.name.clone(), "", fault).at_field(place),
                );
            }
        }
        noticed
    }
}

/// What is to be said about a workbook's sheet, although its rows are read like all others.
fn notice_workbook(source: &Source, place: SourceId) -> Vec<Finding> {
    let Some(facts) = &source.workbook else { return Vec::new() };
    let finding = |row: u64, fact: RowFact| {
        Finding::new(place, (Row(row), Line(row)), "sheet", facts.sheet.clone(), Fault::new(fact))
    };
    let mut noticed = Vec::new();
    if let Some((first, _)) = facts.hidden_rows.first() {
        noticed.push(finding(*first, RowFact::Hidden { first: *first, count: facts.hidden_count() }));
    }
    // A title merged above the header matters to nobody.
    let below: Vec<&String> =
        facts.merged.iter().filter(|range| last_row_of(range) > source.header_row).collect();
    if let Some(first) = below.first() {
        let fact = RowFact::Merged { first: (*first).clone(), count: below.len() };
        noticed.push(finding(last_row_of(first), fact));
    }
    noticed
}

/// The last row of a range like B2:C5.
fn last_row_of(range: &str) -> u64 {
    let digits =
        range.trim_start_matches(|c: char| c != ':').trim_start_matches(|c: char| !c.is_ascii_digit());
    digits.parse().unwrap_or(0)
}
