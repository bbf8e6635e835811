//! Which columns a file of rejected rows has, and what stands in them.

use std::borrow::Cow;

use dusk_decisions::{BEYOND, RowHashes};
use dusk_evidence::{ColumnId, EarlierRecord, Fact, Finding, Id as _, RecordFact, Row, Severity, SourceId};
use dusk_sources::{Patch, RowCells, Source, without_marks};

/// The columns before those of the source.
pub(super) const FIXED: [&str; 5] = ["reasons", "source", "row", "line", "print"];

/// What stands before each of these headings, as often as it takes, where a source has a column of that name.
pub(super) const OWN: &str = "dusk ";

/// Those without which nobody can tell which row is which.
pub(super) const NEEDED: [&str; 3] = ["source", "row", "print"];

/// Whether there are columns of all the needed names with this before them.
pub(super) fn has_all(columns: &[String], own: &str) -> bool {
    NEEDED.iter().all(|name| columns.contains(&format!("{own}{name}")))
}

/// Which of them tells the line, for those who open the source in a text editor.
pub(super) const LINE: usize = 3;

/// Which of them holds the print.
pub(super) const PRINT: usize = 4;

/// Which columns of the sources stand where. Sources of one batch mostly have the same columns; those that
/// only some have come after.
#[derive(Debug, Clone)]
pub struct RejectLayout {
    pub(super) batch: String,
    /// What stands before the headings that are not the source's.
    own: String,
    pub(super) columns: Vec<String>,
    sources: Vec<SourceLayout>,
}

#[derive(Debug, Clone)]
struct SourceLayout {
    name: String,
    /// For each column of the file, where it is in the source.
    places: Vec<Option<ColumnId>>,
    width: usize,
    prints: RowHashes,
}

/// A rejected row as it is handed out.
#[derive(Debug, Clone, Default)]
pub struct RejectedRow {
    /// What stands in its columns, one after the other: the fixed ones, the row's cells, and last what is
    /// beyond the header.
    text: String,
    /// Where each of them ends.
    ends: Vec<usize>,
    /// The cells that are faulty or corrected already: what is to be said about each.
    pub(super) marks: Vec<Mark>,
    /// The row that has its key already.
    pub(super) earlier: Option<(SourceId, Row)>,
}

impl RejectedRow {
    fn push(&mut self, text: &str) {
        self.text.push_str(text);
        self.ends.push(self.text.len());
    }

    /// What stands in its columns, the fixed ones first.
    pub(super) fn texts(&self) -> impl Iterator<Item = &str> {
        let begins = std::iter::once(0).chain(self.ends.iter().copied());
        begins.zip(&self.ends).map(|(begin, end)| self.text.get(begin..*end).unwrap_or_default())
    }
}

/// A finding in the words of the steward's sheet.
#[derive(Debug, Clone, Default)]
pub struct Said {
    /// What it is about: mostly the heading of a column.
    pub about: String,
    /// The value; empty where it stands in the marked cells.
    pub value: String,
    /// What is wrong, as the rest of a sentence that begins with the value.
    pub wrong: String,
    /// What would be right; may be empty.
    pub right: String,
}

impl Said {
    fn explained(&self) -> String {
        let right = if self.right.is_empty() { String::new() } else { format!(" (right: {})", self.right) };
        format!("{}{right}", self.wrong)
    }
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
    pub fn new(batch: String, sources: &[Source], prints: Vec<RowHashes>) -> Self {
        let mut columns: Vec<String> = Vec::new();
        for name in sources.iter().flat_map(|source| source.columns.iter()) {
            if !columns.contains(name) {
                columns.push(name.clone());
            }
        }
        let of_source = |(source, prints): (&Source, RowHashes)| SourceLayout {
            name: source.name.clone(),
            places: columns.iter().map(|name| source.column(name)).collect(),
            width: source.columns.len(),
            prints,
        };
        let sources = sources.iter().zip(prints).map(of_source).collect();
        let mut own = String::new();
        let is_taken = |own: &str, name: &str| columns.contains(&format!("{own}{name}"));
        while FIXED.iter().chain([&BEYOND]).any(|name| is_taken(&own, name))
            || has_all(&columns, &format!("{own}{OWN}"))
        {
            own.push_str(OWN);
        }
        Self { batch, own, columns, sources }
    }

    /// The headings, the fixed ones first.
    pub(super) fn headings(&self) -> Vec<Cow<'_, str>> {
        let own = |name: &&'static str| match self.own.as_str() {
            "" => Cow::Borrowed(*name),
            own => Cow::Owned(format!("{own}{name}")),
        };
        let columns = self.columns.iter().map(|name| Cow::Borrowed(name.as_str()));
        FIXED.iter().map(own).chain(columns).chain([own(&BEYOND)]).collect()
    }

    /// A row as it is handed out. `said_of` tells which columns of the source a finding is about, and says it.
    pub fn row(
        &self,
        (place, source): (SourceId, &Source),
        row: &RowCells<'_>,
        findings: &[Finding],
        said_of: &dyn Fn(&Finding) -> (Vec<ColumnId>, Said),
    ) -> RejectedRow {
        let Some(layout) = self.sources.get(place.index()) else { return RejectedRow::default() };
        let patches = source.patches().at(row.row());
        let rejecting =
            || findings.iter().filter(|finding| finding.fault.kind().severity() == Severity::Reject);
        let in_file = |column: ColumnId| {
            let place = layout.places.iter().position(|place| *place == Some(column));
            place.or_else(|| (column.index() >= layout.width).then_some(self.columns.len()))
        };
        let mut marks: Vec<Mark> = Vec::new();
        let mut reasons: Vec<String> = Vec::new();
        for finding in rejecting() {
            let (columns, said) = said_of(finding);
            let value = if said.value.is_empty() { String::new() } else { format!(" \"{}\"", said.value) };
            let reason = format!("{}{value} {}", said.about, said.explained());
            // Records of one row may have the same cell, and one fault.
            if !reasons.contains(&reason) {
                reasons.push(reason);
            }
            for column in columns.into_iter().filter_map(in_file) {
                let says = said.explained();
                match marks.iter_mut().find(|mark| mark.column == column) {
                    Some(mark) if mark.says.lines().any(|line| line == says) => {}
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
        let earlier = findings.iter().find_map(|finding| self.earlier(place, finding));
        let mut handed_out = RejectedRow { marks, earlier, ..RejectedRow::default() };
        handed_out.push(&reasons.join("; "));
        handed_out.push(&layout.name);
        handed_out.push(&row.row().to_string());
        handed_out.push(&row.line().to_string());
        handed_out.push(&self.print(layout, row, patches));
        for place in &layout.places {
            handed_out.push(&place.map_or(Cow::Borrowed(""), |place| without_marks(row.cell(place))));
        }
        handed_out.push(&layout.prints.cell(row, layout.prints.beyond()));
        handed_out
    }

    /// Where the row is that has the key of this one already, if that is what was found.
    fn earlier(&self, own: SourceId, finding: &Finding) -> Option<(SourceId, Row)> {
        let Fact::Record(RecordFact::DuplicateKey { earlier } | RecordFact::KeyWithOtherFacts { earlier }) =
            &*finding.fault.fact
        else {
            return None;
        };
        match earlier {
            EarlierRecord::SameRow => None,
            EarlierRecord::Row(row) => Some((own, Row(*row))),
            EarlierRecord::RowOf(row, name) => {
                let place = self.sources.iter().position(|source| source.name == *name)?;
                Some((SourceId::new(place), Row(*row)))
            }
        }
    }

    /// What a row is recognised by when it comes back: its print, what it is like with the cells that are
    /// corrected already, where some are, and its batch.
    fn print(&self, layout: &SourceLayout, row: &RowCells<'_>, patches: &[Patch]) -> String {
        let shown = layout.prints.row(row);
        let exported = layout.prints.as_exported(shown, patches);
        let corrected = if patches.is_empty() { String::new() } else { format!("+{:016x}", shown.all) };
        format!("{:016x}{corrected} {}", exported.all, self.batch)
    }
}
