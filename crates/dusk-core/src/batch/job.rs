//! What a run is given, and what is settled before its first row: date orders are proven, the
//! plan is compiled.

use hashbrown::HashMap;
use jiff::civil::Date;

use super::pipeline::{Progress, Tray, in_order};
use crate::conform::Plan;
use crate::files::nearest;
use crate::finding::{Fault, Finding, Kind};
use crate::inspect::{DateOrder, DateOrderEvidence, DateOrderUndecided};
use crate::mapping::{Feed, Mapping};
use crate::source::{Row, Rows, Source};
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
    /// The evidence for the date orders that the mapping does not name: field and evidence.
    pub date_orders: Vec<(usize, DateOrderEvidence)>,
    /// What was noticed about whole columns and fields.
    pub noticed: Vec<Finding>,
}

/// A column whose date order has to be proven.
struct Unnamed<'j> {
    field: usize,
    column: &'j str,
}

impl<'j> Job<'j> {
    /// Settles every reading: asked values are there, date orders are proven by the data, and
    /// constants and defaults are allowed.
    ///
    /// # Errors
    /// [`Error::Asked`] for a value that is missing or that nobody asks for;
    /// [`Error::DateOrder`] for columns that do not prove their order.
    pub fn prepare(&'j self, progress: &Progress<'_>) -> Result<Ready<'j>> {
        self.check_asked()?;
        let unnamed = self.unnamed_orders();
        let evidence = if unnamed.is_empty() { Vec::new() } else { self.gather(&unnamed, progress)? };
        let mut proven = HashMap::new();
        let mut undecided = Vec::new();
        for (unnamed, evidence) in unnamed.iter().zip(&evidence) {
            match evidence.proven() {
                Some(order) => {
                    proven.insert(unnamed.field, order);
                }
                None if evidence.is_not_needed() => {}
                None => undecided.push(DateOrderUndecided {
                    column: unnamed.column.to_owned(),
                    field: self
                        .target
                        .fields
                        .get(unnamed.field)
                        .map_or_else(String::new, |field| field.name.clone()),
                    sources: self.sources.iter().map(|source| source.name.clone()).collect(),
                    mapping: self.mapping.path.display().to_string(),
                    evidence: evidence.clone(),
                }),
            }
        }
        if !undecided.is_empty() {
            return Err(Error::DateOrder(undecided));
        }
        let plan = Plan::compile(self.target, self.mapping, self.asked, self.today, &proven)?;
        let date_orders = unnamed.iter().map(|unnamed| unnamed.field).zip(evidence).collect();
        Ok(Ready { job: self, plan, date_orders, noticed: self.notice() })
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

    fn unnamed_orders(&self) -> Vec<Unnamed<'j>> {
        let needs = |map: &crate::mapping::Map| {
            let kind = self.target.fields.get(map.field).map(|field| &field.kind);
            matches!(kind, Some(FieldType::Date { holds, .. }) if *holds != ValueType::Time)
                && map.date.order.is_none()
                && map.date.pattern.is_none()
        };
        let maps = self.mapping.maps.iter().filter(|map| needs(map));
        maps.filter_map(|map| match &map.feed {
            Feed::Column(column) => Some(Unnamed { field: map.field, column }),
            Feed::Constant(_) | Feed::Join(_) => None,
        })
        .collect()
    }

    /// Reads the sources once for the evidence that their dates give.
    fn gather(&self, unnamed: &[Unnamed<'_>], progress: &Progress<'_>) -> Result<Vec<DateOrderEvidence>> {
        let columns: Vec<Vec<Option<usize>>> = self
            .sources
            .iter()
            .map(|source| unnamed.iter().map(|unnamed| source.column(unnamed.column)).collect())
            .collect();
        let mut evidence = vec![DateOrderEvidence::default(); unnamed.len()];
        let work = |tray: &mut Tray<Vec<DateOrderEvidence>>| {
            tray.result = vec![DateOrderEvidence::default(); unnamed.len()];
            let (Some(source), Some(columns)) = (self.sources.get(tray.source), columns.get(tray.source))
            else {
                return;
            };
            let block = &tray.block;
            let mut rows = Rows::starting_at(
                &block.text,
                &source.delimiter.dialect,
                block.row,
                block.line,
                Default::default(),
            );
            while let Some(row) = rows.next() {
                // A row of the wrong width may hold anything in this column.
                if row.len() != source.columns.len() {
                    continue;
                }
                for (evidence, column) in tray.result.iter_mut().zip(columns) {
                    if let Some(column) = column {
                        evidence.add(tray.source, row.row(), row.line(), row.cell(*column).trim());
                    }
                }
            }
        };
        in_order(
            self.sources,
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
            for column in source.columns.iter() {
                if column.is_empty()
                    || wanted.contains(&column.as_str())
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
                noticed.push(Finding {
                    source: place,
                    row,
                    line: source.header_line,
                    field: None,
                    about: "column".into(),
                    value: column.clone(),
                    fault,
                });
            }
        }
        for (place, field) in self.target.fields.iter().enumerate() {
            if !self.mapping.maps.iter().any(|map| map.field == place) {
                let source = self.sources.first();
                let row = Row(source.map_or(1, |source| source.header_row));
                let line = source.map_or(crate::source::Line::FIRST, |source| source.header_line);
                let fault = Fault::new(
                    Kind::FieldNotFed,
                    "is fed by nothing and stays blank",
                    "a [[map]] for it, if it should be filled",
                );
                noticed.push(Finding {
                    source: 0,
                    row,
                    line,
                    field: Some(place),
                    about: field.name.clone(),
                    value: String::new(),
                    fault,
                });
            }
        }
        noticed
    }
}

impl Ready<'_> {
    /// The order proven for a field that the mapping names none for.
    pub fn proven_order(&self, field: usize) -> Option<DateOrder> {
        self.date_orders.iter().find(|(place, _)| *place == field).and_then(|(_, evidence)| evidence.proven())
    }
}
