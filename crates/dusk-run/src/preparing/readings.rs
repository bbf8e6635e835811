//! How columns are to be read, where the mapping does not say: their values are weighed before the first row.

use hashbrown::HashMap;
use jiff::civil::Date;

use crate::{Demands, Job, Ready};
use dusk_conforming::{Conformer, Plan, Proven, Shape};
use dusk_description::{DateType, FieldType, NumberType};
use dusk_evidence::{
    ById, Claim, ColumnClaim, ColumnId, DateFact, Error, Evidence, Fault, FieldEvidence, FieldId, Finding,
    Kind, Reading, Result, Undecided, Unproven, Verdict,
};
use dusk_inspecting::{DateEvidence, DateSigns, DatesOf, Marks, bare_figures};
use dusk_mapping::{Feed, Map, NUMBER_MARK, OrderWhere, Which};
use dusk_sources::{CellKind, Progress};
use dusk_values::{DateOrder, ValueType, WrittenDate};

use super::gathering::{Cells, Dates, Gathered, Weighed};

/// What the columns say about how they are read.
pub(crate) struct Settled {
    pub(crate) proven: Proven,
    pub(crate) evidence: Vec<FieldEvidence>,
    pub(crate) open: Vec<Undecided>,
    pub(crate) not_weighed: Vec<FieldId>,
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
    /// Weighs what feeds fields whose reading the mapping does not name, and tells what is left open.
    pub(crate) fn settle(
        &'j self,
        plan: &Plan<'_>,
        demands: &Demands,
        progress: &Progress<'_>,
    ) -> Result<Settled> {
        let (weighed, not_weighed) = self.to_weigh(demands)?;
        let gathered = if weighed.is_empty() { Vec::new() } else { self.gather(plan, &weighed, progress)? };
        let mut proven = Proven::default();
        let mut proofs = Vec::new();
        let mut marks = ProvenMarks::default();
        let mut evidence = Vec::new();
        let mut undecided = Vec::new();
        for (one, gathered) in weighed.iter().zip(gathered) {
            let was_open = matches!(&gathered, Gathered::Numbers(numbers) if numbers.has_undecided());
            let gathered = self.of_field(one.field, gathered);
            let mut found = self.field_evidence(one, &gathered);
            if let Gathered::Dates(dates) = &gathered
                && let Some(map) = self.map_with_groups(one.field)
            {
                undecided.extend(self.deny_groups(one, map, dates));
                found.evidence.verdict = Verdict::Named(named_orders(map));
                found.date_order = dates.base.proven().filter(|_| map.date.order.is_none());
            }
            if let Some(order) = found.date_order {
                proofs.push(format!("the column \"{}\" proves {}", one.column, order.word()));
            }
            if let Some(order) = found.date_order
                && let Some(other) = proven.date_orders.insert(one.field, order)
                && other != order
            {
                // Columns that feed one field together have one order in the mapping.
                let says = format!("another column of the same field proves {}", other.word());
                found.evidence.suggests.push(says);
                undecided.push(self.undecided(one, found.evidence));
                continue;
            }
            match gathered {
                Gathered::Dates(_) if found.evidence.needs_decision() => {
                    undecided.push(self.undecided(one, found.evidence.clone()));
                    evidence.push(found);
                }
                Gathered::Numbers(numbers) => {
                    marks.note(one.field, found.decimal_mark, numbers.has_undecided());
                    if was_open || found.evidence.needs_decision() {
                        evidence.push(found);
                    }
                }
                _ => evidence.push(found),
            }
        }
        proven.decimal_marks = marks.proven();
        proven.many_split = demands.many_split;
        proven.damaged.clone_from(&demands.damaged);
        // Where the order of one column is open, others may have proven theirs.
        for one in &mut undecided {
            one.evidence.suggests.extend(proofs.iter().cloned());
        }
        let of_unit = |one: &&Undecided| one.why.kind() == Kind::UnitUndecided;
        let (denied_units, denied): (Vec<&Undecided>, Vec<&Undecided>) =
            demands.denied.iter().partition(of_unit);
        undecided.extend(denied.into_iter().cloned());
        proven.open = undecided.iter().map(|one| one.field).collect();
        let (units, mut open_units) = self.units()?;
        open_units.extend(denied_units.into_iter().cloned());
        proven.open_units = open_units.iter().map(|one| one.field).collect();
        evidence.extend(units);
        undecided.extend(open_units);
        Ok(Settled { proven, evidence, open: undecided, not_weighed })
    }

    /// What was gathered, in the light of the field: one of whole numbers has no decimals, unless they are rounded
    /// away or come from another unit, where 2.418 kg are whole grams.
    fn of_field(&self, field: FieldId, gathered: Gathered) -> Gathered {
        let kind = self.target.fields.get(field).map(|field| &field.kind);
        let Some(FieldType::Number(NumberType { decimals: 0, unit, .. })) = kind else { return gathered };
        let has_decimals =
            self.mapping.maps.iter().filter(|map| map.field == field).any(|map| {
                map.number.round.is_some() || map.number.unit.is_some_and(|own| Some(own) != *unit)
            });
        match gathered {
            Gathered::Numbers(numbers) if !has_decimals => {
                Gathered::Numbers(Box::new(numbers.of_whole_numbers()))
            }
            other => other,
        }
    }

    /// The `[[map]]` of a field that names orders for groups of its values.
    fn map_with_groups(&self, field: FieldId) -> Option<&'j Map> {
        self.mapping.maps.iter().find(|map| map.field == field && !map.date.order_where.is_empty())
    }

    /// The columns whose rows are to be weighed, and the fields of numbers whose rows need not be.
    fn to_weigh(&'j self, demands: &Demands) -> Result<(Vec<Weighed<'j>>, Vec<FieldId>)> {
        let mut weighed = self.orders_to_weigh();
        let numbers = self.unnamed_marks();
        // Most number columns need no proof; the first rows tell.
        if demands.all_numbers || !weighed.is_empty() || self.first_rows_need_marks(&numbers)? {
            weighed.extend(numbers);
            return Ok((weighed, Vec::new()));
        }
        let not_weighed = numbers.iter().map(|number| number.field).collect();
        Ok((weighed, not_weighed))
    }

    /// The groups whose dates deny the order that the mapping names for them.
    fn deny_groups(&self, one: &Weighed<'_>, map: &Map, dates: &Dates) -> Option<Undecided> {
        let groups = map.date.order_where.iter().zip(&dates.groups);
        let denial = |(group, evidence): (&OrderWhere, &DateEvidence)| {
            let name = format!("{} as {}", which_values(group.which), group.order.word());
            evidence.denial(group.order, name, &self.source_names())
        };
        let mut readings: Vec<Reading> = groups.filter_map(denial).collect();
        let base = match map.date.order {
            Some(order) => {
                let name = format!("all others as {}", order.word());
                let denied = dates.base.denial(order, name, &self.source_names());
                let is_open = denied.is_some();
                readings.extend(denied);
                is_open
            }
            None => dates.base.needs_decision(),
        };
        if readings.is_empty() && !base {
            return None;
        }
        let mut evidence = self.field_evidence(one, &Gathered::Dates(Box::new(dates.clone()))).evidence;
        let why = if readings.is_empty() { Unproven::NoOrder } else { Unproven::OtherOrder };
        evidence.readings.extend(readings);
        evidence.settle = self.lines_for_groups(one.field, map, dates);
        Some(Undecided { why, ..self.undecided(one, evidence) })
    }

    /// The lines of the mapping with the orders that the groups themselves prove.
    fn lines_for_groups(&self, field: FieldId, map: &Map, dates: &Dates) -> Vec<String> {
        let field = self.target.fields.get(field).map_or("", |field| field.name.as_str());
        let word = |evidence: &DateEvidence, named: Option<DateOrder>| {
            let kept = named.filter(|order| !evidence.standing(*order).is_denied());
            kept.or_else(|| evidence.proven()).map(|order| format!("\"{}\"", order.word()))
        };
        let base = word(&dates.base, map.date.order);
        let groups = map.date.order_where.iter().zip(&dates.groups).filter_map(|(one, evidence)| {
            let order = word(evidence, Some(one.order));
            // What no program swapped needs no order of its own.
            let is_iso = order.is_none() && evidence.is_not_needed();
            let which = match one.which {
                Which::Shape(shape) => format!("shape = \"{}\"", shape.word()),
                Which::Rows(first, last) => format!("rows = \"{first}-{last}\""),
            };
            (!is_iso).then(|| format!("{{ {which}, order = {} }}", order.unwrap_or_else(|| "…".into())))
        });
        let groups: Vec<String> = groups.collect();
        let any = || "…   # \"day-month-year\" or \"month-day-year\"".to_owned();
        let order = format!("order = {}", base.unwrap_or_else(any));
        let order_where = format!("order_where = [{}]", groups.join(", "));
        let head = ["[[map]]".to_owned(), format!("field = \"{field}\"")];
        head.into_iter().chain([order]).chain((!groups.is_empty()).then_some(order_where)).collect()
    }

    fn undecided(&self, one: &Weighed<'_>, mut evidence: Evidence) -> Undecided {
        if let Some(order) = self.last_order(one.field) {
            evidence.suggests.push(format!("the last batch had {order}"));
        }
        Undecided {
            field: one.field,
            column: one.column.clone(),
            sources: self.source_names(),
            mapping: self.mapping.path.display().to_string(),
            why: Unproven::NoOrder,
            evidence,
        }
    }

    fn field_evidence(&self, one: &Weighed<'_>, gathered: &Gathered) -> FieldEvidence {
        let field = self.target.fields.get(one.field).map_or("", |field| field.name.as_str());
        let by_itself = matches!(one.cells, Cells::Column);
        let (evidence, date_order, decimal_mark) = match gathered {
            Gathered::Dates(dates) => {
                let of = DatesOf { column: &one.column, field, by_itself };
                (dates.all.evidence(of, &self.source_names()), dates.all.proven(), None)
            }
            Gathered::Numbers(numbers) => (numbers.evidence(&one.column, field), None, numbers.proven()),
            Gathered::Nothing => {
                let claim = Claim::Column(ColumnClaim::DecimalMark, one.column.clone());
                (Evidence::new(claim, Verdict::NotNeeded), None, None)
            }
        };
        FieldEvidence { field: one.field, evidence, date_order, decimal_mark }
    }

    /// The columns that feed fields by themselves, where `wanted` says so.
    fn columns(&self, wanted: impl Fn(&Map, &FieldType) -> Option<Gathered>) -> Vec<Weighed<'j>> {
        self.feeds(|map, kind| {
            wanted(map, kind).filter(|_| matches!(map.feed, Feed::Column(_) | Feed::InUnits(..)))
        })
    }

    /// Everything that feeds fields, where `wanted` says so.
    fn feeds(&self, wanted: impl Fn(&Map, &FieldType) -> Option<Gathered>) -> Vec<Weighed<'j>> {
        let mut weighed = Vec::new();
        for map in &self.mapping.maps {
            let Some(field) = self.target.fields.get(map.field) else { continue };
            let Some(kind) = wanted(map, &field.kind) else { continue };
            let by_rows = map.date.order_where.iter().any(|one| matches!(one.which, Which::Rows(..)));
            let one = |column: String, cells: Cells<'j>| Weighed {
                field: map.field,
                column,
                part: map.part.as_ref(),
                cells,
                kind: kind.clone(),
            };
            match &map.feed {
                Feed::Column(column) | Feed::InUnits(column, _) => {
                    let headings = self.headings(column).into_iter();
                    weighed.extend(headings.map(|heading| one(heading, Cells::Column)));
                }
                Feed::Join(template) => weighed.push(one(template.written(), Cells::Made(0))),
                // Each column has an order of its own, whichever of them is filled in a row.
                Feed::FirstOf(names) | Feed::Together(names) => {
                    let columns = names.iter().enumerate();
                    weighed.extend(columns.map(|(place, name)| one(name.clone(), Cells::Made(place))));
                }
                Feed::LookUp(look_up) => {
                    let cells = if by_rows { Cells::Made(0) } else { Cells::LookedUp(look_up) };
                    weighed.push(one(format!("{} in {}", look_up.take, look_up.file), cells));
                }
                Feed::Filled { columns, .. } => {
                    let columns = columns.iter().enumerate();
                    weighed.extend(columns.map(|(place, name)| one(name.clone(), Cells::Made(place))));
                }
                Feed::Constant(_) | Feed::Flags(_) | Feed::WorkedOut(_) | Feed::Number | Feed::Group => {}
            }
        }
        weighed
    }

    /// The headings that a column has in the sources: one, or one for each repeat.
    fn headings(&self, column: &str) -> Vec<String> {
        match &self.mapping.repeat {
            Some(repeat) if column.contains(NUMBER_MARK) => repeat.headings_of(column),
            _ => vec![column.to_owned()],
        }
    }

    fn dates_of(&self, map: &Map, kind: &FieldType) -> Option<Gathered> {
        if let Some(form) = &map.date.form {
            // A year is the same in every order.
            let needs_order = form.has_month() || form.has_day();
            let dates =
                || Gathered::Dates(Box::new(Dates::new(&DateEvidence::default(), &map.date.order_where)));
            return needs_order.then(dates);
        }
        match kind {
            FieldType::Date(DateType { holds, not_before, not_after, .. }) if *holds != ValueType::Time => {
                let day = |bound: &Option<dusk_description::Bound>| bound.map(|bound| bound.day(self.today));
                let empty = DateEvidence::within((day(not_before), day(not_after)));
                Some(Gathered::Dates(Box::new(Dates::new(&empty, &map.date.order_where))))
            }
            _ => None,
        }
    }

    /// What the mapping names no order for, and what it names several for: those are held against the dates.
    fn orders_to_weigh(&self) -> Vec<Weighed<'j>> {
        self.feeds(|map, kind| {
            let named = map.date.order.is_some() || map.date.pattern.is_some();
            self.dates_of(map, kind).filter(|_| !named || !map.date.order_where.is_empty())
        })
    }

    fn unnamed_marks(&self) -> Vec<Weighed<'j>> {
        self.columns(|map, kind| {
            let named = map.number.decimal_mark.is_some() || map.number.thousands_mark.is_some();
            matches!(kind, FieldType::Number(_) if !named && map.date.form.is_none())
                .then(|| Gathered::Numbers(Box::default()))
        })
    }

    /// Whether the first rows of any source hold a number that can be read in two ways.
    fn first_rows_need_marks(&self, numbers: &[Weighed<'_>]) -> Result<bool> {
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
}

/// The orders that a `[[map]]` names for groups of values, in words.
fn named_orders(map: &Map) -> String {
    let base = map.date.order.map(|order| order.word().to_owned());
    let groups = map.date.order_where.iter();
    let groups = groups.map(|one| format!("{} {}", which_values(one.which), one.order.word()));
    base.into_iter().chain(groups).collect::<Vec<_>>().join(", ")
}

fn which_values(which: Which) -> String {
    match which {
        Which::Shape(shape) => format!("values like {shape}"),
        Which::Rows(first, last) => format!("rows {first}-{last}"),
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

    /// An order that the mapping names may be denied by the dates or by a part of them, or be right for the
    /// texts of a column and wrong for those that a program has swapped. The signs were met while conforming;
    /// the evidence is gathered now.
    pub(crate) fn check_signs(
        &self,
        signs: &ById<FieldId, DateSigns>,
        progress: &Progress<'_>,
    ) -> Result<()> {
        let job = self.job;
        let suspect = |field: FieldId| {
            signs.get(field).is_some_and(|signs| signs.look_half_converted() || signs.some_deny())
        };
        let weighed = job.feeds(|map, kind| {
            let named = named_order(map).is_some();
            let is_open = self.proven.open.contains(&map.field);
            job.dates_of(map, kind)
                .filter(|_| named && !is_open && map.date.order_where.is_empty() && suspect(map.field))
        });
        if weighed.is_empty() {
            return Ok(());
        }
        let mut undecided = Vec::new();
        for (one, gathered) in weighed.iter().zip(job.gather(&self.plan, &weighed, progress)?) {
            let map = job.mapping.maps.iter().find(|map| map.field == one.field);
            let (Gathered::Dates(dates), Some(named)) = (&gathered, map.and_then(named_order)) else {
                continue;
            };
            let evidence = job.field_evidence(one, &gathered).evidence;
            undecided.extend(job.denied(one, &dates.all, named, evidence));
        }
        if undecided.is_empty() { Ok(()) } else { Err(Error::Undecided(undecided)) }
    }
}

impl Ready<'_> {
    /// The fields for which the mapping names an order that nothing in the sources proves, with the days
    /// that the first values are read as.
    pub(crate) fn unproven_orders(&self, signs: &ById<FieldId, DateSigns>) -> Result<Vec<Finding>> {
        let unproven = |map: &&Map| {
            let is_open = self.proven.open.contains(&map.field);
            !is_open && signs.get(map.field).is_some_and(|signs| signs.nothing_proves())
        };
        let mut findings = Vec::new();
        for map in self.job.mapping.maps.iter().filter(unproven) {
            if let Some(order) = named_order(map).filter(|_| map.date.order_where.is_empty()) {
                findings.extend(self.read_without_proof(map, order)?);
            }
        }
        Ok(findings)
    }

    /// The first few values of a field that could be other days.
    fn read_without_proof(&self, map: &Map, order: DateOrder) -> Result<Option<Finding>> {
        /// How many values are shown.
        const SHOWN: usize = 3;
        let mut at = None;
        let mut read_as: Vec<(String, Date)> = Vec::new();
        'sources: for (id, source) in self.job.sources_with_ids() {
            let bound = self.plan.bind(source)?;
            let shape = Shape::of(source, id, &bound);
            let conformer = Conformer::new(&self.plan, false)?;
            let mut walk = source.walk()?;
            while let Some(mut rows) = walk.more()? {
                while let Some(row) = rows.next() {
                    for record in shape.records(&row, &self.plan) {
                        let text = conformer.before_conversion(map.field, &row, &record);
                        let Some((_, text, _)) = text.filter(|(_, text, _)| !text.is_empty()) else {
                            continue;
                        };
                        let Some(day) = other_days(&text, order, map.date.years_from) else { continue };
                        at.get_or_insert((id, row.row(), row.line()));
                        if !read_as.iter().any(|(known, _)| *known == text) {
                            read_as.push((text, day));
                        }
                        if read_as.len() == SHOWN {
                            break 'sources;
                        }
                    }
                }
            }
        }
        let Some((source, row, line)) = at else { return Ok(None) };
        let name = self.job.target.fields.get(map.field).map_or("", |field| field.name.as_str());
        let last = self.job.last_order(map.field).map(str::to_owned);
        let fault = Fault::new(DateFact::OrderNotProven { order, read_as, last });
        Ok(Some(Finding::new(source, (row, line), name, "", fault).at_field(map.field)))
    }
}

/// The day of a text under an order, where another order would make it another day.
fn other_days(text: &str, order: DateOrder, years_from: Option<i16>) -> Option<Date> {
    let (written, _) = WrittenDate::read(text)?;
    let day = written.day(order, years_from)?;
    let others = DateOrder::ALL.into_iter().filter_map(|other| written.day(other, years_from));
    others.into_iter().any(|other| other != day).then_some(day)
}

impl Job<'_> {
    /// What is open of dates for which the mapping names an order.
    fn denied(
        &self,
        one: &Weighed<'_>,
        dates: &DateEvidence,
        named: DateOrder,
        mut evidence: Evidence,
    ) -> Option<Undecided> {
        let denied = dates.standing(named).is_denied();
        let proves_another = dates.proven().is_some_and(|order| order != named);
        if denied && proves_another {
            // 07/13 is rejected under day-month-year, but 07/04 would be read as another day.
            evidence.settle.push(
                "# if this export is written otherwise; if single values are wrong, correct them in the export"
                    .into(),
            );
            return Some(Undecided { why: Unproven::OtherOrder, ..self.undecided(one, evidence) });
        }
        if denied && let Some(rows) = dates.denying_rows(named) {
            evidence.settle.truncate(2);
            evidence.settle.push(format!(
                "order_where = [{}]   # if those rows are written so, widened to where it changes; a wrong value is corrected instead",
                rows.join(", ")
            ));
        }
        let half = matches!(evidence.verdict, Verdict::HalfConverted(_));
        (denied || half).then(|| self.undecided(one, evidence))
    }
}

/// The one order that a `[[map]]` names, as a word or by its pattern.
fn named_order(map: &Map) -> Option<DateOrder> {
    let of_pattern = || map.date.pattern.as_ref()?.day_before_month();
    let order = |day_first: bool| if day_first { DateOrder::DayMonthYear } else { DateOrder::MonthDayYear };
    map.date.order.or_else(|| of_pattern().map(order))
}
