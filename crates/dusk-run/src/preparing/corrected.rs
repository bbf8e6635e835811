//! What was corrected in sources, found again in the sources of a run and put into their rows.
//!
//! A row is recognised by its print, so that a correction holds although the row has moved or another
//! month's export has another name. A row that says something else by now is never touched.

use std::collections::{BTreeMap, BTreeSet};

use hashbrown::HashMap;

use dusk_decisions::{BEYOND, Correction, CorrectionFile, DOUBLE, RowHash, RowHashes, WHOLE_ROW};
use dusk_description::Target;
use dusk_evidence::{ColumnId, Id as _, Result, Row, SourceId};
use dusk_mapping::Mapping;
use dusk_sources::{Patch, Patches, Progress, RowCells, Source, Threads, Tray, in_order};

/// What became of a correction in the sources of a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum CorrectionFate {
    /// It is applied.
    Applied,
    /// The source has made it itself.
    NoLongerNeeded,
    /// The row or the cell says something else by now, so it is not applied.
    Stale,
    /// Rows that are alike to the last cell could all be meant, so it is not applied.
    Unclear,
    /// The source has no such row.
    NotThere,
}

/// A correction, and what became of it.
#[derive(Debug, Clone)]
pub struct FoundCorrection {
    /// The correction.
    pub correction: Correction,
    /// Whether it was made in a source of this name.
    pub is_own: bool,
    /// What became of it.
    pub found: CorrectionFate,
    /// The source, from 0, and the row in which it is now.
    pub place: Option<(SourceId, Row)>,
    /// The value that the source has there now.
    pub has: Option<String>,
}

/// How many corrections of a run came to what.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct CorrectionCounts {
    /// Applied.
    pub applied: usize,
    /// Made by the source itself.
    pub no_longer_needed: usize,
    /// Stale, unclear, or of a row that its own source no longer has.
    pub stale: usize,
}

impl CorrectionCounts {
    /// Counts what became of corrections.
    pub fn of(found: &[FoundCorrection]) -> Self {
        let count =
            |wanted: &dyn Fn(&FoundCorrection) -> bool| found.iter().filter(|one| wanted(one)).count();
        Self {
            applied: count(&|one| one.found == CorrectionFate::Applied),
            no_longer_needed: count(&|one| one.found == CorrectionFate::NoLongerNeeded),
            stale: count(&|one| match one.found {
                CorrectionFate::Stale | CorrectionFate::Unclear => true,
                CorrectionFate::NotThere => one.is_own,
                CorrectionFate::Applied | CorrectionFate::NoLongerNeeded => false,
            }),
        }
    }
}

/// The corrections of one row: they were made of the same file, row number and print.
struct Group<'c> {
    file: &'c CorrectionFile,
    row: Row,
    print: Option<RowHash>,
    corrections: Vec<&'c Correction>,
    /// The rows that may be meant.
    candidates: Vec<Candidate>,
    /// How many rows have the record, where that matters.
    records: u64,
    /// A row of the same record that is not the same.
    changed: Option<(SourceId, Row)>,
}

/// The row that corrections mean; else what that makes of them, and where.
type Chosen<'g> = std::result::Result<&'g Candidate, (CorrectionFate, Option<(SourceId, Row)>)>;

impl Group<'_> {
    /// Which of the candidates is meant.
    fn chosen(&self, sources: &[Source]) -> Chosen<'_> {
        let is_home = |candidate: &&Candidate| {
            let name = sources.get(candidate.source.index()).map_or("", |source| source.name.as_str());
            candidate.row == self.row && self.file.is_of(name)
        };
        let fits = |candidate: &&Candidate| {
            let known = |(has, correction): (&String, &&Correction)| {
                correction.keeps_out() || *has == correction.was.trim() || *has == correction.now.trim()
            };
            candidate.cells.iter().zip(&self.corrections).all(known)
        };
        // A row that has what was corrected, or the correction, goes before one that has something else there.
        let fitting: Vec<&Candidate> = self.candidates.iter().filter(fits).collect();
        let home = || self.candidates.iter().find(is_home);
        match (fitting.as_slice(), self.candidates.as_slice()) {
            (&[only], _) => Ok(only),
            (&[first, ..], _) => fitting
                .iter()
                .find(|candidate| is_home(candidate))
                .copied()
                .ok_or((CorrectionFate::Unclear, Some((first.source, first.row)))),
            ([], [only]) => Ok(only),
            ([], [first, ..]) => home().ok_or((CorrectionFate::Stale, Some((first.source, first.row)))),
            ([], []) if self.changed.is_some() => Err((CorrectionFate::Stale, self.changed)),
            ([], []) => Err((CorrectionFate::NotThere, None)),
        }
    }
}

/// A row that may be meant by corrections, and what it has in their columns.
#[derive(Debug, Clone)]
struct Candidate {
    source: SourceId,
    row: Row,
    cells: Vec<String>,
}

/// How rows of one source are recognised.
struct Lookout {
    prints: RowHashes,
    /// The columns of each group, by their places; nothing where the source lacks one.
    columns: Vec<Option<Vec<CorrectedColumn>>>,
    sets: Vec<ColumnSet>,
    by_key: HashMap<u64, Vec<usize>>,
    /// Groups that keep a double out, by what rows of its record have in common.
    doubles: HashMap<u64, Vec<usize>>,
    /// Groups that were written by hand, by the row.
    by_row: HashMap<u64, Vec<usize>>,
}

/// Groups that correct the same columns, by what is left of their rows' prints without these.
#[derive(Default)]
struct ColumnSet {
    columns: Vec<CorrectedColumn>,
    by_all: HashMap<u64, Vec<usize>>,
    by_used: HashMap<u64, Vec<usize>>,
}

/// A row that a worker recognised.
#[derive(Debug)]
enum Hit {
    Same(usize, Candidate),
    Changed(usize, SourceId, Row),
    /// It has the record of which a double is kept out.
    Record(usize),
}

impl Hit {
    /// Tells the group what was recognised.
    fn put_to(self, groups: &mut [Group<'_>]) {
        match self {
            Self::Same(group, candidate) => {
                let Some(group) = groups.get_mut(group) else { return };
                let known =
                    |other: &Candidate| (other.source, other.row) == (candidate.source, candidate.row);
                if !group.candidates.iter().any(known) {
                    group.candidates.push(candidate);
                }
            }
            Self::Record(group) => {
                if let Some(group) = groups.get_mut(group) {
                    group.records += 1;
                }
            }
            Self::Changed(group, source, row) => {
                if let Some(group) = groups.get_mut(group) {
                    group.changed.get_or_insert((source, row));
                }
            }
        }
    }
}

/// Finds every correction of `mapping` in `sources`, and has them read with those that apply.
///
/// # Errors
/// Whatever stops reading.
pub fn apply_corrections(
    mapping: &Mapping,
    target: &Target,
    sources: &mut [Source],
    threads: Threads,
    progress: &Progress<'_>,
) -> Result<Vec<FoundCorrection>> {
    if mapping.corrections.is_empty() {
        return Ok(Vec::new());
    }
    for source in sources.iter_mut() {
        source.correct(Patches::new(source.columns.len()));
    }
    let mut groups = groups_of(mapping);
    let lookouts: Vec<Lookout> =
        sources.iter().map(|source| Lookout::of(source, &groups, mapping, target)).collect();
    let work = |tray: &mut Tray<Vec<Hit>>| {
        tray.result.clear();
        let (Some(source), Some(lookout)) =
            (sources.get(tray.source.index()), lookouts.get(tray.source.index()))
        else {
            return;
        };
        let block = &tray.block;
        let mut rows = block.rows(&source.dialect);
        let mut each = Vec::new();
        while let Some(row) = rows.next() {
            lookout.recognise(&row, tray.source, &mut each, &mut tray.result);
        }
    };
    in_order(
        sources,
        threads,
        |_| {},
        |_| Ok(work),
        |tray| {
            tray.result.drain(..).for_each(|hit| hit.put_to(&mut groups));
            progress(0, tray.block.bytes_read);
            Ok(())
        },
    )?;
    Ok(settle(&groups, sources))
}

fn groups_of(mapping: &Mapping) -> Vec<Group<'_>> {
    let mut groups: Vec<Group<'_>> = Vec::new();
    for file in &mapping.corrections.files {
        let mut places: BTreeMap<(Row, Option<RowHash>), usize> = BTreeMap::new();
        for correction in &file.lines {
            let place = *places.entry((correction.row, correction.print)).or_insert_with(|| {
                groups.push(Group {
                    file,
                    row: correction.row,
                    print: correction.print,
                    corrections: Vec::new(),
                    candidates: Vec::new(),
                    records: 0,
                    changed: None,
                });
                groups.len() - 1
            });
            if let Some(group) = groups.get_mut(place) {
                group.corrections.push(correction);
            }
        }
    }
    groups
}

impl Lookout {
    fn of(source: &Source, groups: &[Group<'_>], mapping: &Mapping, target: &Target) -> Self {
        let mut lookout = Self {
            prints: mapping.row_hashes(source, target),
            columns: Vec::new(),
            sets: Vec::new(),
            by_key: HashMap::new(),
            doubles: HashMap::new(),
            by_row: HashMap::new(),
        };
        for (number, group) in groups.iter().enumerate() {
            let columns: Option<Vec<CorrectedColumn>> =
                group.corrections.iter().map(|correction| column_of(source, &correction.column)).collect();
            lookout.columns.push(columns.clone());
            let Some(columns) = columns else { continue };
            let Some(print) = group.print else {
                if group.file.is_of(&source.name) {
                    lookout.by_row.entry(group.row.0).or_default().push(number);
                }
                continue;
            };
            lookout.look_for(number, group, print, columns);
            if group.corrections.iter().any(|correction| correction.keeps_out() && correction.was == DOUBLE) {
                lookout.doubles.entry(print.record()).or_default().push(number);
            }
            if print.key != 0 {
                lookout.by_key.entry(print.key).or_default().push(number);
            }
        }
        lookout
    }

    /// Looks out for rows that are those of the group, but for the cells that it corrects.
    fn look_for(
        &mut self,
        number: usize,
        group: &Group<'_>,
        print: RowHash,
        mut columns: Vec<CorrectedColumn>,
    ) {
        let was = columns
            .iter()
            .zip(&group.corrections)
            .filter_map(|(column, correction)| Some(((*column)?, correction)))
            .map(|(column, correction)| (column, self.prints.of_cell(column, &correction.was)));
        let (all, used) = self.prints.without(print, was);
        columns.sort_unstable();
        let place = self.sets.iter().position(|set| set.columns == columns).unwrap_or_else(|| {
            self.sets.push(ColumnSet { columns, ..ColumnSet::default() });
            self.sets.len() - 1
        });
        if let Some(set) = self.sets.get_mut(place) {
            set.by_all.entry(all).or_default().push(number);
            set.by_used.entry(used).or_default().push(number);
        }
    }

    fn recognise(&self, row: &RowCells<'_>, source: SourceId, each: &mut Vec<u64>, hits: &mut Vec<Hit>) {
        let print = self.prints.each_cell(row, each);
        if !self.doubles.is_empty() {
            let groups = self.doubles.get(&print.record()).into_iter().flatten();
            hits.extend(groups.map(|group| Hit::Record(*group)));
        }
        let before = hits.len();
        let mut same = |group: &usize| {
            let Some(Some(columns)) = self.columns.get(*group) else { return };
            let cell = |column: &CorrectedColumn| {
                column.map_or_else(String::new, |column| self.prints.cell(row, column))
            };
            let cells = columns.iter().map(cell).collect();
            hits.push(Hit::Same(*group, Candidate { source, row: row.row(), cells }));
        };
        for set in &self.sets {
            let own = set.columns.iter().flatten();
            let own = own.map(|column| (*column, each.get(column.index()).copied().unwrap_or(0)));
            let (all, used) = self.prints.without(print, own);
            let by_all = set.by_all.get(&all).into_iter().flatten();
            let by_used = set.by_used.get(&used).into_iter().flatten();
            let groups: BTreeSet<&usize> = by_all.chain(by_used).collect();
            groups.into_iter().for_each(&mut same);
        }
        self.by_row.get(&row.row().0).into_iter().flatten().for_each(same);
        if hits.len() == before && print.key != 0 {
            let groups = self.by_key.get(&print.key).into_iter().flatten();
            hits.extend(groups.map(|group| Hit::Changed(*group, source, row.row())));
        }
    }
}

/// The column of a correction; nothing where it is about a whole row.
type CorrectedColumn = Option<ColumnId>;

/// Where a column of a correction stands; the place after the last for what is beyond the header.
fn column_of(source: &Source, heading: &str) -> Option<CorrectedColumn> {
    if heading == WHOLE_ROW {
        return Some(None);
    }
    let beyond = || (heading == BEYOND).then(|| ColumnId::new(source.columns.len()));
    source.column(heading).or_else(beyond).map(Some)
}

/// Has a row read with a correction, or kept out.
fn put(correction: &Correction, row: Row, source: &Source, patches: &mut Patches) {
    let why = correction.decided();
    if correction.keeps_out() {
        patches.keep_out(row, why);
    } else if let Some(Some(column)) = column_of(source, &correction.column) {
        patches.add(row, Patch { column, was: correction.was.clone(), now: correction.now.clone(), why });
    }
}

/// Whether one more of several rows with the same record is kept out; one of them stays in any case.
fn one_more_is_kept_out(group: &Group<'_>, kept_out: &mut HashMap<u64, u64>) -> bool {
    let record = group.print.unwrap_or_default().record();
    let kept_out = kept_out.entry(record).or_insert(0);
    let one_more = group.records > *kept_out + 1;
    *kept_out += u64::from(one_more);
    one_more
}

/// What becomes of a correction whose cell holds `has`.
fn fate(correction: &Correction, has: &str) -> CorrectionFate {
    if has == correction.was.trim() {
        CorrectionFate::Applied
    } else if has == correction.now.trim() || correction.keeps_out() {
        CorrectionFate::NoLongerNeeded
    } else {
        CorrectionFate::Stale
    }
}

/// Decides which row each group means, and what becomes of its corrections.
fn settle(groups: &[Group<'_>], sources: &mut [Source]) -> Vec<FoundCorrection> {
    let mut all = Vec::new();
    let mut patches: Vec<Patches> = sources.iter().map(|source| Patches::new(source.columns.len())).collect();
    // What was decided later counts, and what was decided for this very source counts most.
    let is_own = |group: &Group<'_>| sources.iter().any(|source| group.file.is_of(&source.name));
    let mut order: Vec<&Group<'_>> = groups.iter().collect();
    order.sort_by_key(|group| {
        let on = group.corrections.iter().map(|correction| correction.on.as_str()).max();
        (is_own(group), on.unwrap_or_default().to_owned())
    });
    // How many rows of a record are kept out already.
    let mut doubles: HashMap<u64, u64> = HashMap::new();
    for group in order {
        let own = is_own(group);
        let chosen = group.chosen(sources);
        for (place, correction) in group.corrections.iter().enumerate() {
            let mut result = FoundCorrection {
                correction: (*correction).clone(),
                is_own: own,
                found: CorrectionFate::Stale,
                place: None,
                has: None,
            };
            match &chosen {
                Err((found, place)) => (result.found, result.place) = (*found, *place),
                Ok(candidate) => {
                    let mut has = candidate.cells.get(place).map_or("", String::as_str);
                    if correction.keeps_out()
                        && correction.was == DOUBLE
                        && one_more_is_kept_out(group, &mut doubles)
                    {
                        has = DOUBLE;
                    }
                    result.place = Some((candidate.source, candidate.row));
                    result.has = Some(has.to_owned());
                    result.found = fate(correction, has);
                    let at = candidate.source.index();
                    if result.found == CorrectionFate::Applied
                        && let (Some(source), Some(patches)) = (sources.get(at), patches.get_mut(at))
                    {
                        put(correction, candidate.row, source, patches);
                    }
                }
            }
            all.push(result);
        }
    }
    for (source, patches) in sources.iter_mut().zip(patches) {
        source.correct(patches);
    }
    all
}
