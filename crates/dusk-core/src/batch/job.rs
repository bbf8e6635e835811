//! What a run is given, and what is settled before its first row: date orders are proven, the
//! plan is compiled.

use jiff::civil::Date;

use super::pipeline::{Progress, Tray, in_order};
use hashbrown::HashMap;

use crate::conform::{Plan, Proven, taken_part};
use crate::files::nearest;
use crate::finding::{Fault, Finding, Kind};
use crate::inspect::{
    At, DateEvidence, DateOrder, DateSigns, Evidence, Marks, NumberEvidence, Verdict, bare_figures,
};
use crate::mapping::{Feed, INSTANCE, Map, Mapping, Part, Repeat, Which};
use crate::source::{CellKind, Row, Rows, Source};
use crate::target::{FieldType, Target};
use crate::value::ValueType;
use crate::{Error, Result};

/// What a run is given. Nothing else has a part in the result.
#[derive(Debug)]
pub struct Job<'j> {
    /// The target.
    pub target: &'j Target,
    /// The mapping.
    pub mapping: &'j Mapping,
    /// The sources, which together make one batch.
    pub sources: &'j [Source],
    /// The values given for `[ask]`.
    pub asked: &'j [(String, String)],
    /// The day of the run.
    pub today: Date,
}

/// A job whose readings are all settled.
#[derive(Debug)]
pub struct Ready<'j> {
    /// The job.
    pub job: &'j Job<'j>,
    /// The compiled plan.
    pub plan: Plan<'j>,
    /// The evidence for the readings that the mapping does not name.
    pub evidence: Vec<FieldEvidence>,
    /// What was noticed about whole columns and fields.
    pub noticed: Vec<Finding>,
    /// Fields of numbers whose columns were not weighed, since their first rows left no doubt.
    pub(super) not_weighed: Vec<usize>,
    /// What the data proved.
    pub(super) proven: Proven,
}

/// The evidence in the column that feeds a field.
#[derive(Debug, Clone)]
pub struct FieldEvidence {
    /// The field, by its place.
    pub field: usize,
    /// The evidence.
    pub evidence: Evidence,
    /// The order of dates that it proves.
    pub date_order: Option<DateOrder>,
    /// The mark before the decimals that it proves.
    pub decimal_mark: Option<char>,
}

/// A column whose values do not say how they are to be read.
#[derive(Debug, Clone)]
pub struct Undecided {
    /// The column.
    pub column: String,
    /// The sources as the steward named them.
    pub sources: Vec<String>,
    /// The mapping, as the steward named it.
    pub mapping: String,
    /// What is wrong, in words.
    pub says: &'static str,
    /// What the values say.
    pub evidence: Evidence,
}

/// What is said of dates that prove no order.
const NO_ORDER: &str = "its dates do not prove one order of day, month and year";

/// What is said of dates that prove another order than the mapping names.
const OTHER_ORDER: &str = "its dates prove another order of day, month and year than the mapping names";

impl std::fmt::Display for Undecided {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let sources = self.sources.join(", ");
        writeln!(f, "{sources}: column \"{}\": {}, so nothing was written", self.column, self.says)?;
        for line in self.evidence.to_string().lines() {
            writeln!(f, "  {line}")?;
        }
        write!(f, "  Ask whoever made the export, then write into {}:", self.mapping)?;
        for line in &self.evidence.settle {
            write!(f, "\n    {line}")?;
        }
        Ok(())
    }
}

/// A column that has to prove how it is read.
struct Unnamed<'j> {
    field: usize,
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
    fn append(&mut self, later: Self) {
        match (&mut *self, later) {
            (Self::Dates(mine), Self::Dates(theirs)) => mine.append(*theirs),
            (Self::Numbers(mine), Self::Numbers(theirs)) => mine.append(*theirs),
            (_, later) => *self = later,
        }
    }
}

impl<'j> Job<'j> {
    /// Settles every reading: asked values are there, date orders and decimal marks are proven by
    /// the data, and constants and defaults are allowed.
    ///
    /// # Errors
    /// [`Error::Asked`] for a value that is missing or that nobody asks for;
    /// [`Error::Undecided`] for columns that do not prove their order.
    pub fn prepare(&'j self, progress: &Progress<'_>) -> Result<Ready<'j>> {
        self.settle(false, progress)
    }

    /// As [`Job::prepare`], but the numbers of all rows are weighed as well, whatever the first rows hold.
    ///
    /// # Errors
    /// As [`Job::prepare`].
    pub fn prepare_thoroughly(&'j self, progress: &Progress<'_>) -> Result<Ready<'j>> {
        self.settle(true, progress)
    }

    fn settle(&'j self, thoroughly: bool, progress: &Progress<'_>) -> Result<Ready<'j>> {
        self.check_asked()?;
        let mut unnamed = self.unnamed_orders();
        // What the mapping says of groups of values is shown with the evidence that it answers.
        unnamed.extend(
            self.columns(|map, kind| self.dates_of(kind).filter(|_| !map.date.order_where.is_empty())),
        );
        let numbers = self.unnamed_marks();
        // Most number columns need no proof; the first rows tell.
        let mut not_weighed = Vec::new();
        if thoroughly || !unnamed.is_empty() || self.first_rows_need_marks(&numbers)? {
            unnamed.extend(numbers);
        } else {
            not_weighed.extend(numbers.iter().map(|number| number.field));
        }
        let gathered = if unnamed.is_empty() { Vec::new() } else { self.gather(&unnamed, progress)? };
        let mut proven = Proven::default();
        // For each field of numbers, the one mark that its columns prove; nothing where one column of
        // several leaves a doubt.
        let mut marks: HashMap<usize, Option<Option<char>>> = HashMap::new();
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
                found
                    .evidence
                    .suggests
                    .push(format!("another column of the same field proves {}", other.word()));
                undecided.push(self.undecided(&unnamed.column, found.evidence));
                continue;
            }
            if let Gathered::Numbers(numbers) = &gathered {
                let mark = found.decimal_mark;
                let unproven = mark.is_none() && numbers.has_undecided();
                marks
                    .entry(unnamed.field)
                    .and_modify(|known: &mut Option<Option<char>>| match known {
                        Some(Some(other)) if unproven || mark.is_some_and(|mark| mark != *other) => {
                            *known = None
                        }
                        Some(None) if unproven => *known = None,
                        Some(None) => *known = Some(mark),
                        _ => {}
                    })
                    .or_insert(if unproven { None } else { Some(mark) });
            }
            match gathered {
                Gathered::Dates(_) if found.evidence.needs_decision() => {
                    undecided.push(self.undecided(&unnamed.column, found.evidence));
                }
                Gathered::Numbers(numbers)
                    if !numbers.has_undecided() && !found.evidence.needs_decision() => {}
                _ => evidence.push(found),
            }
        }
        let proven_mark = |(field, mark): (usize, Option<Option<char>>)| Some((field, mark??));
        proven.decimal_marks =
            marks.into_iter().filter_map(|(field, mark)| proven_mark((field, mark))).collect();
        if !undecided.is_empty() {
            self.suggest_by_other_columns(&proven, &mut undecided);
            return Err(Error::Undecided(undecided));
        }
        let plan = Plan::compile(self.target, self.mapping, self.asked, self.today, &proven)?;
        Ok(Ready { job: self, plan, evidence, noticed: self.notice(), not_weighed, proven })
    }

    /// The orders that the mapping names for groups of a field's values, in words.
    fn named_orders(&self, field: usize) -> Option<String> {
        let map =
            self.mapping.maps.iter().find(|map| map.field == field && !map.date.order_where.is_empty())?;
        let base = map.date.order.map(|order| order.word().to_owned());
        let groups = map.date.order_where.iter().map(|one| match one.which {
            Which::Shape(shape) => format!("values like {shape} {}", one.order.word()),
            Which::Rows(first, last) => format!("rows {first}-{last} {}", one.order.word()),
        });
        Some(base.into_iter().chain(groups).collect::<Vec<_>>().join(", "))
    }

    fn undecided(&self, column: &str, evidence: Evidence) -> Undecided {
        Undecided {
            column: column.to_owned(),
            sources: self.source_names(),
            mapping: self.mapping.path.display().to_string(),
            says: NO_ORDER,
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

    fn source_names(&self) -> Vec<String> {
        self.sources.iter().map(|source| source.name.clone()).collect()
    }

    fn field_evidence(&self, unnamed: &Unnamed<'_>, gathered: &Gathered) -> FieldEvidence {
        let name = self.target.fields.get(unnamed.field).map_or("", |field| field.name.as_str());
        let (evidence, date_order, decimal_mark) = match gathered {
            Gathered::Dates(dates) => {
                (dates.evidence(&unnamed.column, name, &self.source_names()), dates.proven(), None)
            }
            Gathered::Numbers(numbers) => (numbers.evidence(&unnamed.column, name), None, numbers.proven()),
            Gathered::Nothing => (Evidence::new("", Verdict::NotNeeded), None, None),
        };
        FieldEvidence { field: unnamed.field, evidence, date_order, decimal_mark }
    }

    fn check_asked(&self) -> Result<()> {
        let mapping = &self.mapping;
        let missing: Vec<String> = mapping
            .ask
            .iter()
            .filter(|(name, _)| {
                !self.asked.iter().any(|(given, value)| given == name && !value.trim().is_empty())
            })
            .map(|(name, question)| format!("  {question}\n    --set {name}=…"))
            .collect();
        if !missing.is_empty() {
            return Err(Error::Asked(format!(
                "{} asks for values that every run must be given:\n{}",
                mapping.path.display(),
                missing.join("\n")
            )));
        }
        for (name, _) in self.asked {
            if !mapping.ask.iter().any(|(known, _)| known == name) {
                let near = nearest(name, mapping.ask.iter().map(|(known, _)| known.as_str()));
                let hint = match near {
                    Some(near) => format!("did you mean {near}?"),
                    None => {
                        format!("write {name} = \"a question\" under [ask] in {}", mapping.path.display())
                    }
                };
                return Err(Error::Asked(format!("nothing asks for --set {name}=…; {hint}")));
            }
        }
        Ok(())
    }

    /// The columns that feed fields by themselves, where `wanted` says so.
    fn columns(&self, wanted: impl Fn(&Map, &FieldType) -> Option<Gathered>) -> Vec<Unnamed<'j>> {
        let mut unnamed = Vec::new();
        for map in &self.mapping.maps {
            let Feed::Column(column) = &map.feed else { continue };
            let Some(field) = self.target.fields.get(map.field) else { continue };
            let Some(kind) = wanted(map, &field.kind) else { continue };
            let headings = match &self.mapping.repeat {
                Some(repeat) if column.contains(INSTANCE) => {
                    repeat.instances.iter().map(|instance| Repeat::heading(column, instance)).collect()
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
            FieldType::Date { holds, not_before, not_after, .. } if *holds != ValueType::Time => {
                let day = |bound: &Option<crate::target::Bound>| bound.map(|bound| bound.day(self.today));
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
            matches!(kind, FieldType::Number { .. } if !named).then(|| Gathered::Numbers(Box::default()))
        })
    }

    /// Whether the first rows of any source hold a number that can be read in two ways.
    fn first_rows_need_marks(&self, numbers: &[Unnamed<'_>]) -> Result<bool> {
        if numbers.is_empty() {
            return Ok(false);
        }
        for source in self.sources {
            let Some(block) = source.blocks()?.next(String::new())? else { continue };
            let mut rows =
                Rows::starting_at(&block.text, &source.dialect, block.row, block.line, Default::default());
            let columns: Vec<usize> =
                numbers.iter().filter_map(|number| source.column(&number.column)).collect();
            while let Some(row) = rows.next() {
                let open = |column: &usize| {
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
        let columns: Vec<Vec<Option<usize>>> = self
            .sources
            .iter()
            .map(|source| unnamed.iter().map(|unnamed| source.column(&unnamed.column)).collect())
            .collect();
        let empty = || unnamed.iter().map(|unnamed| unnamed.kind.clone()).collect::<Vec<_>>();
        let mut evidence = empty();
        let work = |tray: &mut Tray<Vec<Gathered>>| {
            tray.result = empty();
            let (Some(source), Some(columns)) = (self.sources.get(tray.source), columns.get(tray.source))
            else {
                return;
            };
            let block = &tray.block;
            let mut rows =
                Rows::starting_at(&block.text, &source.dialect, block.row, block.line, Default::default());
            while let Some(row) = rows.next() {
                // A row of the wrong width may hold anything in this column.
                if row.len() != source.columns.len() && !source.dialect.is_sheet() {
                    continue;
                }
                let at = At { source: tray.source, row: row.row(), line: row.line() };
                for ((evidence, column), unnamed) in tray.result.iter_mut().zip(columns).zip(unnamed) {
                    let Some(column) = column else { continue };
                    let (kind, value) = CellKind::of(row.cell(*column));
                    let value = value.trim();
                    let taken = unnamed.part.and_then(|part| taken_part(part, value));
                    let value = match (&taken, unnamed.part) {
                        (Some(taken), _) => taken.as_str(),
                        // What cannot be taken apart is rejected, and proves nothing.
                        (None, Some(_)) => continue,
                        (None, None) => value,
                    };
                    match evidence {
                        Gathered::Dates(dates) => dates.add(at, kind, row.is_quoted(*column), value),
                        Gathered::Numbers(numbers) => numbers.add(at, kind, value),
                        Gathered::Nothing => {}
                    }
                }
            }
        };
        in_order(
            self.sources,
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

    /// Columns that nobody speaks of, and fields that nothing feeds.
    fn notice(&self) -> Vec<Finding> {
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
                let line = source.map_or(crate::source::Line::FIRST, |source| source.header_line);
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
        Finding::new(
            place,
            (Row(row), crate::source::Line(row)),
            "sheet",
            value,
            Fault::new(kind, wrong, right),
        )
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

/// True for a figure whose marks leave two readings, or prove one for others.
fn has_open_marks(value: &str) -> bool {
    matches!(Marks::strictly(bare_figures(value)), Marks::Comma | Marks::Either)
}

impl Ready<'_> {
    /// Whether a finding shows that the numbers of all rows have to be weighed.
    pub(super) fn needs_more_evidence(&self, finding: &Finding) -> bool {
        finding.fault.kind == Kind::NumberUndecided
            && finding.field.is_some_and(|field| self.not_weighed.contains(&field))
            && has_open_marks(&finding.value)
    }

    /// The order proven for a field that the mapping names none for.
    pub fn proven_order(&self, field: usize) -> Option<DateOrder> {
        self.evidence.iter().find(|found| found.field == field).and_then(|found| found.date_order)
    }

    /// An order that the mapping names may be denied by the dates, or be right for the texts of a column and wrong for those
    /// that a program has swapped. The signs were met while conforming; the evidence is gathered now.
    pub(super) fn check_signs(&self, signs: &[DateSigns], progress: &Progress<'_>) -> Result<()> {
        let job = self.job;
        let half = |field: usize| {
            signs.get(field).is_some_and(|signs| signs.look_half_converted() || signs.deny_named())
        };
        let columns = job.columns(|map, kind| {
            let named = map.date.order.is_some() || map.date.pattern.is_some();
            job.dates_of(kind).filter(|_| named && map.date.order_where.is_empty() && half(map.field))
        });
        if columns.is_empty() {
            return Ok(());
        }
        let mut undecided = Vec::new();
        for (unnamed, gathered) in columns.iter().zip(job.gather(&columns, progress)?) {
            let mut found = job.field_evidence(unnamed, &gathered);
            if found.evidence.needs_decision() {
                undecided.push(job.undecided(&unnamed.column, found.evidence));
            } else if signs.get(unnamed.field).is_some_and(|signs| signs.deny_named()) {
                // 07/13 is rejected under day-month-year, but 07/04 would be read as another day.
                found.evidence.settle.push(
                    "# if this export is written otherwise; if single values are wrong, mend them in the export".into(),
                );
                undecided
                    .push(Undecided { says: OTHER_ORDER, ..job.undecided(&unnamed.column, found.evidence) });
            }
        }
        if undecided.is_empty() { Ok(()) } else { Err(Error::Undecided(undecided)) }
    }
}
