//! How columns are to be read, where the mapping does not say: their values are weighed before the first row.

use hashbrown::HashMap;

use crate::{Demands, Job, Ready};
use dusk_conforming::{Proven, taken_part};
use dusk_description::{DateType, FieldType};
use dusk_evidence::{
    ById, Claim, ColumnClaim, ColumnId, Error, Evidence, FieldEvidence, FieldId, Finding, Id as _, Kind,
    Result, Undecided, Unproven, Verdict,
};
use dusk_inspecting::{At, DateEvidence, DateSigns, Marks, NumberEvidence, bare_figures};
use dusk_mapping::{Feed, Map, NUMBER_MARK, Part, Repeat, Which};
use dusk_sources::{CellKind, Progress, RowCells, Tray, in_order};
use dusk_values::{DateOrder, ValueType};

/// What the columns say about how they are read.
pub(crate) struct Settled {
    pub(crate) proven: Proven,
    pub(crate) evidence: Vec<FieldEvidence>,
    pub(crate) open: Vec<Undecided>,
    pub(crate) not_weighed: Vec<FieldId>,
}

/// A column that has to prove how it is read.
struct Unnamed<'j> {
    field: FieldId,
    column: String,
    part: Option<&'j Part>,
    kind: Gathered,
}

/// What is gathered about a column.
#[derive(Debug, Clone, Default)]
enum Gathered {
    #[default]
    Nothing,
    Dates(Box<DateEvidence>),
    Numbers(Box<NumberEvidence>),
}

impl Gathered {
    /// Takes in a cell, or the part of it that is wanted. What cannot be taken apart is rejected, and
    /// proves nothing.
    fn take(&mut self, part: Option<&Part>, row: &RowCells<'_>, column: ColumnId, at: At) {
        let (kind, cell) = CellKind::of(row.cell(column));
        let cell = cell.trim();
        let taken = part.and_then(|part| taken_part(part, cell));
        let value = match (&taken, part) {
            (Some(taken), _) => taken.as_str(),
            (None, Some(_)) => return,
            (None, None) => cell,
        };
        match self {
            Self::Dates(dates) => dates.add(at, kind, row.is_quoted(column), value),
            Self::Numbers(numbers) => numbers.add(at, kind, value),
            Self::Nothing => {}
        }
    }

    fn append(&mut self, later: Self) {
        match (&mut *self, later) {
            (Self::Dates(mine), Self::Dates(theirs)) => mine.append(*theirs),
            (Self::Numbers(mine), Self::Numbers(theirs)) => mine.append(*theirs),
            (_, later) => *self = later,
        }
    }
}

/// For each field of numbers, the one mark that its columns prove; nothing where one column of several
/// leaves a doubt.
#[derive(Debug, Default)]
struct ProvenMarks(HashMap<FieldId, Option<Option<char>>>);

impl ProvenMarks {
    /// Takes in what one column proves, and whether some of its values have two readings.
    fn note(&mut self, field: FieldId, mark: Option<char>, has_undecided: bool) {
        let unproven = mark.is_none() && has_undecided;
        let new = if unproven { None } else { Some(mark) };
        let known = self.0.entry(field).or_insert(new);
        match known {
            Some(Some(other)) if unproven || mark.is_some_and(|mark| mark != *other) => *known = None,
            Some(None) => *known = new,
            _ => {}
        }
    }

    fn proven(self) -> HashMap<FieldId, char> {
        self.0.into_iter().filter_map(|(field, mark)| Some((field, mark??))).collect()
    }
}

impl<'j> Job<'j> {
    /// Weighs the columns whose reading the mapping does not name, and tells what is left open.
    pub(crate) fn settle(&'j self, demands: &Demands, progress: &Progress<'_>) -> Result<Settled> {
        let (unnamed, not_weighed) = self.to_weigh(demands)?;
        let gathered = if unnamed.is_empty() { Vec::new() } else { self.gather(&unnamed, progress)? };
        let mut proven = Proven::default();
        let mut marks = ProvenMarks::default();
        let mut evidence = Vec::new();
        let mut undecided = Vec::new();
        for (unnamed, gathered) in unnamed.iter().zip(gathered) {
            let mut found = self.field_evidence(unnamed, &gathered);
            if let Some(named) = self.named_orders(unnamed.field) {
                found.evidence.verdict = Verdict::Named(named);
                found.date_order = None;
            }
            if let Some(order) = found.date_order
                && let Some(other) = proven.date_orders.insert(unnamed.field, order)
                && other != order
            {
                // Columns that repeat feed one field, and the mapping has one order for all of them.
                let says = format!("another column of the same field proves {}", other.word());
                found.evidence.suggests.push(says);
                undecided.push(self.undecided(unnamed, found.evidence));
                continue;
            }
            match gathered {
                Gathered::Dates(_) if found.evidence.needs_decision() => {
                    undecided.push(self.undecided(unnamed, found.evidence.clone()));
                    evidence.push(found);
                }
                Gathered::Numbers(numbers) => {
                    marks.note(unnamed.field, found.decimal_mark, numbers.has_undecided());
                    if numbers.has_undecided() || found.evidence.needs_decision() {
                        evidence.push(found);
                    }
                }
                _ => evidence.push(found),
            }
        }
        proven.decimal_marks = marks.proven();
        self.suggest_by_other_columns(&proven, &mut undecided);
        undecided.extend(demands.denied.iter().cloned());
        proven.open = undecided.iter().map(|one| one.field).collect();
        let (units, open_units) = self.units();
        proven.open_units = open_units.iter().map(|one| one.field).collect();
        evidence.extend(units);
        undecided.extend(open_units);
        Ok(Settled { proven, evidence, open: undecided, not_weighed })
    }

    /// The columns whose rows are to be weighed, and the fields of numbers whose rows need not be.
    fn to_weigh(&'j self, demands: &Demands) -> Result<(Vec<Unnamed<'j>>, Vec<FieldId>)> {
        let mut unnamed = self.unnamed_orders();
        // What the mapping says of groups of values is shown with the evidence that it answers.
        unnamed.extend(
            self.columns(|map, kind| self.dates_of(kind).filter(|_| !map.date.order_where.is_empty())),
        );
        let numbers = self.unnamed_marks();
        // Most number columns need no proof; the first rows tell.
        if demands.all_numbers || !unnamed.is_empty() || self.first_rows_need_marks(&numbers)? {
            unnamed.extend(numbers);
            return Ok((unnamed, Vec::new()));
        }
        let not_weighed = numbers.iter().map(|number| number.field).collect();
        Ok((unnamed, not_weighed))
    }

    /// The orders that the mapping names for groups of a field's values, in words.
    fn named_orders(&self, field: FieldId) -> Option<String> {
        let map =
            self.mapping.maps.iter().find(|map| map.field == field && !map.date.order_where.is_empty())?;
        let base = map.date.order.map(|order| order.word().to_owned());
        let groups = map.date.order_where.iter().map(|one| match one.which {
            Which::Shape(shape) => format!("values like {shape} {}", one.order.word()),
            Which::Rows(first, last) => format!("rows {first}-{last} {}", one.order.word()),
        });
        Some(base.into_iter().chain(groups).collect::<Vec<_>>().join(", "))
    }

    fn undecided(&self, unnamed: &Unnamed<'_>, evidence: Evidence) -> Undecided {
        Undecided {
            field: unnamed.field,
            column: unnamed.column.clone(),
            sources: self.source_names(),
            mapping: self.mapping.path.display().to_string(),
            why: Unproven::NoOrder,
            evidence,
        }
    }

    /// Where the order of one column is open, others may have proven theirs.
    fn suggest_by_other_columns(&self, proven: &Proven, undecided: &mut [Undecided]) {
        for map in &self.mapping.maps {
            let (Feed::Column(column), Some(order)) = (&map.feed, proven.date_orders.get(&map.field)) else {
                continue;
            };
            for one in undecided.iter_mut() {
                one.evidence.suggests.push(format!("the column \"{column}\" proves {}", order.word()));
            }
        }
    }

    fn field_evidence(&self, unnamed: &Unnamed<'_>, gathered: &Gathered) -> FieldEvidence {
        let name = self.target.fields.get(unnamed.field).map_or("", |field| field.name.as_str());
        let (evidence, date_order, decimal_mark) = match gathered {
            Gathered::Dates(dates) => {
                (dates.evidence(&unnamed.column, name, &self.source_names()), dates.proven(), None)
            }
            Gathered::Numbers(numbers) => (numbers.evidence(&unnamed.column, name), None, numbers.proven()),
            Gathered::Nothing => (
                Evidence::new(
                    Claim::Column(ColumnClaim::DecimalMark, unnamed.column.clone()),
                    Verdict::NotNeeded,
                ),
                None,
                None,
            ),
        };
        FieldEvidence { field: unnamed.field, evidence, date_order, decimal_mark }
    }

    /// The columns that feed fields by themselves, where `wanted` says so.
    fn columns(&self, wanted: impl Fn(&Map, &FieldType) -> Option<Gathered>) -> Vec<Unnamed<'j>> {
        let mut unnamed = Vec::new();
        for map in &self.mapping.maps {
            let Feed::Column(column) = &map.feed else { continue };
            let Some(field) = self.target.fields.get(map.field) else { continue };
            let Some(kind) = wanted(map, &field.kind) else { continue };
            let headings = match &self.mapping.repeat {
                Some(repeat) if column.contains(NUMBER_MARK) => {
                    repeat.numbers.iter().map(|repeat| Repeat::heading(column, repeat)).collect()
                }
                _ => vec![column.clone()],
            };
            unnamed.extend(headings.into_iter().map(|column| Unnamed {
                field: map.field,
                column,
                part: map.part.as_ref(),
                kind: kind.clone(),
            }));
        }
        unnamed
    }

    fn dates_of(&self, kind: &FieldType) -> Option<Gathered> {
        match kind {
            FieldType::Date(DateType { holds, not_before, not_after, .. }) if *holds != ValueType::Time => {
                let day = |bound: &Option<dusk_description::Bound>| bound.map(|bound| bound.day(self.today));
                Some(Gathered::Dates(Box::new(DateEvidence::within((day(not_before), day(not_after))))))
            }
            _ => None,
        }
    }

    fn unnamed_orders(&self) -> Vec<Unnamed<'j>> {
        self.columns(|map, kind| {
            let named =
                map.date.order.is_some() || map.date.pattern.is_some() || !map.date.order_where.is_empty();
            self.dates_of(kind).filter(|_| !named)
        })
    }

    fn unnamed_marks(&self) -> Vec<Unnamed<'j>> {
        self.columns(|map, kind| {
            let named = map.number.decimal_mark.is_some() || map.number.thousands_mark.is_some();
            matches!(kind, FieldType::Number(_) if !named).then(|| Gathered::Numbers(Box::default()))
        })
    }

    /// Whether the first rows of any source hold a number that can be read in two ways.
    fn first_rows_need_marks(&self, numbers: &[Unnamed<'_>]) -> Result<bool> {
        if numbers.is_empty() {
            return Ok(false);
        }
        for source in self.sources {
            let mut walk = source.walk()?;
            let Some(mut rows) = walk.more()? else { continue };
            let columns: Vec<ColumnId> =
                numbers.iter().filter_map(|number| source.column(&number.column)).collect();
            while let Some(row) = rows.next() {
                let open = |column: &ColumnId| {
                    let (kind, value) = CellKind::of(row.cell(*column));
                    kind == CellKind::Text && has_open_marks(value)
                };
                if columns.iter().any(open) {
                    return Ok(true);
                }
            }
        }
        Ok(false)
    }

    /// Reads the sources once for the evidence that their columns give.
    fn gather(&self, unnamed: &[Unnamed<'_>], progress: &Progress<'_>) -> Result<Vec<Gathered>> {
        let columns: Vec<Vec<Option<ColumnId>>> = self
            .sources
            .iter()
            .map(|source| unnamed.iter().map(|unnamed| source.column(&unnamed.column)).collect())
            .collect();
        let empty = || unnamed.iter().map(|unnamed| unnamed.kind.clone()).collect::<Vec<_>>();
        let mut evidence = empty();
        let work = |tray: &mut Tray<Vec<Gathered>>| {
            tray.result = empty();
            let (Some(source), Some(columns)) =
                (self.sources.get(tray.source.index()), columns.get(tray.source.index()))
            else {
                return;
            };
            let mut rows = tray.block.rows(&source.dialect);
            while let Some(row) = rows.next() {
                // A row of the wrong width may hold anything in this column.
                if row.len() != source.columns.len() && !source.dialect.is_sheet() {
                    continue;
                }
                let at = At { source: tray.source, row: row.row(), line: row.line() };
                for ((evidence, column), unnamed) in tray.result.iter_mut().zip(columns).zip(unnamed) {
                    if let Some(column) = column {
                        evidence.take(unnamed.part, &row, *column, at);
                    }
                }
            }
        };
        in_order(
            self.sources,
            self.threads,
            |_| {},
            |_| Ok(work),
            |tray| {
                for (whole, part) in evidence.iter_mut().zip(std::mem::take(&mut tray.result)) {
                    whole.append(part);
                }
                progress(0, tray.block.bytes_read);
                Ok(())
            },
        )?;
        Ok(evidence)
    }
}

/// True for a figure whose marks leave two readings, or prove one for others.
fn has_open_marks(value: &str) -> bool {
    matches!(Marks::strictly(bare_figures(value)), Marks::Comma | Marks::Either)
}

impl Ready<'_> {
    /// Whether a finding shows that the numbers of all rows have to be weighed.
    pub(crate) fn needs_more_evidence(&self, finding: &Finding) -> bool {
        finding.fault.kind() == Kind::NumberUndecided
            && finding.field.is_some_and(|field| self.not_weighed.contains(&field))
            && has_open_marks(&finding.value)
    }

    /// The order proven for a field that the mapping names none for.
    pub fn proven_order(&self, field: FieldId) -> Option<DateOrder> {
        self.evidence.iter().find(|found| found.field == field).and_then(|found| found.date_order)
    }

    /// An order that the mapping names may be denied by the dates, or be right for the texts of a column and wrong for those
    /// that a program has swapped. The signs were met while conforming; the evidence is gathered now.
    pub(crate) fn check_signs(
        &self,
        signs: &ById<FieldId, DateSigns>,
        progress: &Progress<'_>,
    ) -> Result<()> {
        let job = self.job;
        let half = |field: FieldId| {
            signs.get(field).is_some_and(|signs| signs.look_half_converted() || signs.deny_named())
        };
        let columns = job.columns(|map, kind| {
            let named = map.date.order.is_some() || map.date.pattern.is_some();
            let is_open = self.proven.open.contains(&map.field);
            job.dates_of(kind)
                .filter(|_| named && !is_open && map.date.order_where.is_empty() && half(map.field))
        });
        if columns.is_empty() {
            return Ok(());
        }
        let mut undecided = Vec::new();
        for (unnamed, gathered) in columns.iter().zip(job.gather(&columns, progress)?) {
            let mut found = job.field_evidence(unnamed, &gathered);
            if found.evidence.needs_decision() {
                undecided.push(job.undecided(unnamed, found.evidence));
            } else if signs.get(unnamed.field).is_some_and(|signs| signs.deny_named()) {
                // 07/13 is rejected under day-month-year, but 07/04 would be read as another day.
                found.evidence.settle.push(
                    "# if this export is written otherwise; if single values are wrong, mend them in the export".into(),
                );
                undecided
                    .push(Undecided { why: Unproven::OtherOrder, ..job.undecided(unnamed, found.evidence) });
            }
        }
        if undecided.is_empty() { Ok(()) } else { Err(Error::Undecided(undecided)) }
    }
}
