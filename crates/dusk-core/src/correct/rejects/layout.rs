//! Which columns a file of rejected rows has, and what stands in them.

use std::borrow::Cow;

use super::super::{BEYOND, RowPrints};
use crate::finding::{Finding, Severity};
use crate::source::{RowCells, Source, without_marks};

/// The columns before those of the source.
pub(super) const FIXED: [&str; 6] = ["reasons", "source", "row", "line", "batch", "print"];

/// Which columns of the sources stand where. Sources of one batch mostly have the same columns; those that
/// only some have come after.
#[derive(Debug, Clone)]
pub(crate) struct RejectLayout {
    pub(super) batch: String,
    pub(super) columns: Vec<String>,
    sources: Vec<SourceLayout>,
}

#[derive(Debug, Clone)]
struct SourceLayout {
    name: String,
    /// For each column of the file, where it is in the source.
    places: Vec<Option<usize>>,
    width: usize,
    prints: RowPrints,
}

/// A rejected row as it is handed out.
#[derive(Debug, Clone, Default)]
pub(crate) struct RejectedRow {
    /// What stands in the columns before those of the source.
    pub(super) fixed: [String; FIXED.len()],
    /// The row's cells, and last what is beyond the header.
    pub(super) cells: Vec<String>,
    /// The columns that are faulty or corrected already, by their places in the file: what is to be said
    /// about each.
    pub(super) marks: Vec<Mark>,
}

/// What is to be said about a cell.
#[derive(Debug, Clone)]
pub(super) struct Mark {
    /// The column of the source, by its place in the file.
    pub(super) column: usize,
    /// What is wrong and what would be right, or that it is corrected already.
    pub(super) says: String,
    /// True for what is wrong.
    pub(super) faulty: bool,
}

impl RejectLayout {
    /// The layout for rows of `sources`, whose rows are recognised by `prints`, in a batch of this name.
    pub(crate) fn new(batch: String, sources: &[Source], prints: Vec<RowPrints>) -> Self {
        let mut columns: Vec<String> = Vec::new();
        for name in sources.iter().flat_map(|source| source.columns.iter()) {
            if !columns.contains(name) {
                columns.push(name.clone());
            }
        }
        let of_source = |(source, prints): (&Source, RowPrints)| SourceLayout {
            name: source.name.clone(),
            places: columns.iter().map(|name| source.column(name)).collect(),
            width: source.columns.len(),
            prints,
        };
        let sources = sources.iter().zip(prints).map(of_source).collect();
        Self { batch, columns, sources }
    }

    /// The headings, the fixed ones first.
    pub(super) fn headings(&self) -> impl Iterator<Item = &str> {
        FIXED.into_iter().chain(self.columns.iter().map(String::as_str)).chain([BEYOND])
    }

    /// A row as it is handed out. `columns_of` tells which columns of the source a finding is about.
    pub(crate) fn row(
        &self,
        (place, source): (usize, &Source),
        row: &RowCells<'_>,
        findings: &[Finding],
        columns_of: &dyn Fn(&Finding) -> Vec<usize>,
    ) -> RejectedRow {
        let Some(layout) = self.sources.get(place) else { return RejectedRow::default() };
        let patches = source.patches().at(row.row());
        let shown = layout.prints.row(row);
        let exported = layout.prints.as_exported(shown, patches);
        // What is corrected already is handed out so, and has to be known again.
        let print =
            if patches.is_empty() { exported.to_string() } else { format!("{exported}+{:016x}", shown.all) };
        let rejecting =
            || findings.iter().filter(|finding| finding.fault.kind.severity() == Severity::Reject);
        let reasons: Vec<String> = rejecting().map(reason).collect();
        let in_file = |column: usize| {
            let place = layout.places.iter().position(|place| *place == Some(column));
            place.or_else(|| (column >= layout.width).then_some(self.columns.len()))
        };
        let mut marks: Vec<Mark> = Vec::new();
        for finding in rejecting() {
            for column in columns_of(finding).into_iter().filter_map(in_file) {
                let says = explained(finding);
                match marks.iter_mut().find(|mark| mark.column == column) {
                    Some(mark) => mark.says = format!("{}\n{says}", mark.says),
                    None => marks.push(Mark { column, says, faulty: true }),
                }
            }
        }
        for patch in patches {
            let Some(column) = in_file(patch.column) else { continue };
            let says = format!("corrected: the source has \"{}\" ({})", patch.was, patch.why);
            match marks.iter_mut().find(|mark| mark.column == column) {
                Some(mark) => mark.says = format!("{}\n{says}", mark.says),
                None => marks.push(Mark { column, says, faulty: false }),
            }
        }
        let cell = |place: &Option<usize>| {
            place.map_or(Cow::Borrowed(""), |place| without_marks(row.cell(place))).into_owned()
        };
        let cells = layout.places.iter().map(cell).chain([layout.prints.cell(row, layout.width)]);
        RejectedRow {
            fixed: [
                reasons.join("; "),
                layout.name.clone(),
                row.row().to_string(),
                row.line().to_string(),
                self.batch.clone(),
                print,
            ],
            cells: cells.collect(),
            marks,
        }
    }
}

/// One finding in a sentence: what it is about, the value, what is wrong, what would be right.
fn reason(finding: &Finding) -> String {
    let value = if finding.value.is_empty() { String::new() } else { format!(" \"{}\"", finding.value) };
    format!("{}{value} {}", finding.full_about(), explained(finding))
}

fn explained(finding: &Finding) -> String {
    let fault = &finding.fault;
    let right = if fault.right.is_empty() { String::new() } else { format!(" (right: {})", fault.right) };
    format!("{}{right}", fault.wrong)
}
