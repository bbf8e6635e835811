//! Codes that hold inside other codes prove each other: the sorts of a column are those of the kinds in
//! another one, row by row, which no other two columns can be by chance.

use hashbrown::HashMap;

use super::sample::ROWS;
use dusk_description::{CodeType, FieldType, Lookup, ReadAs, Target};
use dusk_evidence::{ColumnId, FieldId, Id as _, Result, Share};
use dusk_sources::{CellKind, Source};

/// How many rows prove two columns, by how many of a hundred would fit if the two had nothing to do
/// with each other: with so many, chance does it less than once in ten thousand.
const ENOUGH: [(u64, u64); 7] = [(20, 6), (40, 11), (60, 19), (80, 42), (85, 57), (90, 88), (95, 180)];

/// How many of a hundred rows have to fit.
const NEARLY_ALL: u64 = 95;

/// Columns with more twos of different values than this are no kinds and sorts.
const MOST_TWOS: usize = 100_000;

/// A field and the column that is proven to be its.
pub(super) type Proven = (FieldId, ColumnId);

/// A field whose codes are inside another's, and columns that may be the two.
struct Candidate<'t> {
    parent: (&'t CodeType, Proven),
    child: (&'t CodeType, Proven),
    /// How often each two values stand in one row.
    met: HashMap<(String, String), u64>,
}

/// The columns that are proven by one another, both of each two, of those that `may_feed` a field.
///
/// # Errors
/// Whatever stops reading the source.
pub(super) fn proven(
    source: &Source,
    target: &Target,
    may_feed: &dyn Fn(FieldId, ColumnId) -> bool,
) -> Result<Vec<Proven>> {
    let mut candidates = candidates(source, target, may_feed);
    if candidates.is_empty() {
        return Ok(Vec::new());
    }
    let mut walk = source.walk()?;
    let mut rows_met = 0;
    while rows_met < ROWS
        && let Some(mut rows) = walk.more()?
    {
        while rows_met < ROWS
            && let Some(row) = rows.next()
        {
            if !source.is_whole(&row) || row.is_blank() {
                continue;
            }
            rows_met += 1;
            let cells: Vec<&str> = row.cells().map(|cell| CellKind::of(cell).1.trim()).collect();
            for candidate in &mut candidates {
                candidate.meet(&cells);
            }
        }
    }
    let is_proof = |candidate: &&Candidate<'_>| candidate.is_proof();
    let held: Vec<&Candidate<'_>> = candidates.iter().filter(is_proof).collect();
    // Two columns that fit as well as one another prove neither.
    let is_only =
        |one: &&&Candidate<'_>| held.iter().filter(|other| other.child.1.0 == one.child.1.0).count() == 1;
    Ok(held.iter().filter(is_only).flat_map(|one| [one.parent.1, one.child.1]).collect())
}

fn candidates<'t>(
    source: &Source,
    target: &'t Target,
    may_feed: &dyn Fn(FieldId, ColumnId) -> bool,
) -> Vec<Candidate<'t>> {
    let code = |field: FieldId| match target.fields.get(field).map(|field| &field.kind) {
        Some(FieldType::Code(code)) => Some(code),
        _ => None,
    };
    let columns = |field: FieldId| -> Vec<ColumnId> {
        (0..source.columns.len()).map(ColumnId::new).filter(|column| may_feed(field, *column)).collect()
    };
    let mut candidates = Vec::new();
    for field in target.fields.ids() {
        let Some((code_type, within)) =
            code(field).and_then(|code_type| Some((code_type, code_type.within?)))
        else {
            continue;
        };
        let Some(parent_type) = code(within) else { continue };
        for parent in columns(within) {
            for child in columns(field).into_iter().filter(|child| *child != parent) {
                candidates.push(Candidate {
                    parent: (parent_type, (within, parent)),
                    child: (code_type, (field, child)),
                    met: HashMap::new(),
                });
            }
        }
    }
    candidates
}

impl Candidate<'_> {
    fn meet(&mut self, cells: &[&str]) {
        let cell = |(_, column): Proven| cells.get(column.index()).copied().unwrap_or_default();
        let (parent, child) = (cell(self.parent.1), cell(self.child.1));
        if !parent.is_empty() && !child.is_empty() {
            *self.met.entry((parent.to_owned(), child.to_owned())).or_insert(0) += 1;
        }
    }

    fn fits(&self, parent: &str, child: &str) -> bool {
        match self.parent.0.list.look_up(parent, None, ReadAs::Either) {
            Lookup::Found(code, _) => matches!(
                self.child.0.list.look_up(child, Some(&code.code), ReadAs::Either),
                Lookup::Found(..) | Lookup::Undecided(_)
            ),
            _ => false,
        }
    }

    /// Whether nearly all rows fit, and are too many for chance.
    fn is_proof(&self) -> bool {
        let (mut rows, mut chance) = (Share::default(), Share::default());
        let (mut parents, mut children) = (HashMap::new(), HashMap::new());
        for ((parent, child), count) in &self.met {
            rows.of += count;
            rows.fit += if self.fits(parent, child) { *count } else { 0 };
            *parents.entry(parent).or_insert(0) += count;
            *children.entry(child).or_insert(0) += count;
        }
        if rows.percent() < NEARLY_ALL || parents.len().saturating_mul(children.len()) > MOST_TWOS {
            return false;
        }
        for (parent, met) in &parents {
            for (child, beside) in &children {
                let both: u64 = met * beside;
                chance.of += both;
                chance.fit += if self.fits(parent, child) { both } else { 0 };
            }
        }
        let is_enough = |(most, least): &(u64, u64)| chance.percent() <= *most && rows.of >= *least;
        ENOUGH.iter().any(is_enough)
    }
}
