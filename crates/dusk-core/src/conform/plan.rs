//! Target and mapping compiled once: everything that can be settled before the first row is.

use hashbrown::HashMap;
use jiff::civil::Date;

use super::cell::Readings;
use super::number::Wanted;
use super::{Outcome, Parent};
use crate::Result;
use crate::files::{Piece, Problems};
use crate::inspect::DateOrder;
use crate::mapping::{DateReading, Feed, Map, Mapping, NumberReading, TextReading, Which};
use crate::source::{Line, Source, SourceSettings};
use crate::target::{Bare, Field, FieldType, Target, UploadEncoder};
use crate::validate::Rule;
use crate::value::UnitConversion;

/// What the data proves about fields, by their places in the target.
#[derive(Debug, Default)]
pub struct Proven {
    /// The orders of dates.
    pub date_orders: HashMap<usize, DateOrder>,
    /// The marks before the decimals.
    pub decimal_marks: HashMap<usize, char>,
}

/// Where a field's raw value comes from. Columns are places in [`Plan::wanted`].
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Input {
    /// Nothing feeds it.
    Nothing,
    /// One column.
    Column(usize),
    /// The same text in every record.
    Constant(String),
    /// Several columns with text between them.
    Join(Vec<JoinPiece>),
}

impl Input {
    /// The columns that feed it, by their places in [`Plan::wanted`].
    pub fn columns(&self) -> impl Iterator<Item = &usize> {
        let (column, pieces) = match self {
            Self::Column(slot) => (Some(slot), &[][..]),
            Self::Join(pieces) => (None, pieces.as_slice()),
            Self::Nothing | Self::Constant(_) => (None, &[][..]),
        };
        let joined = pieces.iter().filter_map(|piece| match piece {
            JoinPiece::Column(slot) => Some(slot),
            JoinPiece::Text(_) => None,
        });
        column.into_iter().chain(joined)
    }
}

/// One piece of a join.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum JoinPiece {
    /// Text between two columns.
    Text(String),
    /// A column, by its place in [`Plan::wanted`].
    Column(usize),
}

/// Everything that is needed to conform one field.
#[derive(Debug)]
pub struct FieldPlan<'p> {
    /// The field.
    pub field: &'p Field,
    /// Where its raw value comes from.
    pub input: Input,
    /// The field whose code decides which codes are valid, by its place.
    pub parent: Option<usize>,
    pub(super) parent_name: &'p str,
    pub(super) if_blank: Option<&'p str>,
    pub(super) text: TextReading,
    /// What stands for a line break inside a cell of the source.
    pub(super) line_mark: Option<&'p str>,
    /// The groups of rows whose dates are in an order of their own, first and last row.
    pub(super) row_groups: Vec<(u64, u64)>,
    /// How the source writes its values.
    pub(super) source: Readings<'p>,
    /// How the target writes them, for constants and for what is put where the source is blank.
    pub(super) fixed: Readings<'p>,
    pub(super) wanted: Wanted,
    pub(super) not_before: Option<Date>,
    pub(super) not_after: Option<Date>,
    pub(super) today: Date,
    /// The field is the upload file's only column.
    pub(super) alone: bool,
    /// Columns before it, and behind it, that nothing fills.
    pub(super) blanks_before: usize,
    pub(super) blanks_behind: usize,
    /// How its values stand in JSON.
    pub(super) bare: Bare,
}

/// A whole run's conforming, compiled.
#[derive(Debug)]
pub struct Plan<'p> {
    /// The target.
    pub target: &'p Target,
    /// One plan for each field of the target.
    pub fields: Vec<FieldPlan<'p>>,
    /// The headings that are used.
    pub wanted: Vec<&'p str>,
    /// The rules that look at one record.
    pub(super) row_rules: Vec<&'p Rule>,
    /// The rules over many records.
    pub(crate) batch_rules: Vec<&'p Rule>,
    /// The day of the run.
    pub(super) today: Date,
    /// The order in which fields are conformed: parents before what is within them.
    pub(super) order: Vec<usize>,
    /// True when that is the template's order.
    pub(super) in_order: bool,
}

impl<'p> Plan<'p> {
    /// Compiles a target and a mapping. `asked` holds the values given for `[ask]`; `proven` what
    /// the data proves, by the place of the field.
    ///
    /// # Errors
    /// [`Error::Problems`](crate::Error::Problems) when a constant or a default is not allowed by
    /// the dictionary, or the upload's encoding cannot write its own delimiter.
    pub fn compile(
        target: &'p Target,
        mapping: &'p Mapping,
        asked: &[(String, String)],
        today: Date,
        proven: &Proven,
    ) -> Result<Self> {
        let wanted = mapping.wanted();
        let order = order(target);
        let in_order = order.is_sorted();
        let (batch_rules, row_rules) = target.rules.iter().partition(|rule| rule.is_over_records());
        let mut plan =
            Self { target, fields: Vec::new(), wanted, row_rules, batch_rules, today, order, in_order };
        for (place, field) in target.fields.iter().enumerate() {
            let map = mapping.maps.iter().find(|map| map.field == place);
            let compiled = plan.field((place, field), map, mapping, asked, today, proven);
            plan.fields.push(compiled);
        }
        let mut problems = Problems::default();
        let file = mapping.path.display().to_string();
        match UploadEncoder::new(&target.upload) {
            Err(says) => {
                problems.at(&mapping.target_path.display().to_string(), None, says);
            }
            Ok(mut encoder) => {
                let target_file = mapping.target_path.display().to_string();
                for field in &plan.fields {
                    if let Some(text) = &field.field.fixed {
                        let at = (target_file.as_str(), field.field.line, "fixed");
                        field.check_text(at, text, &mut encoder, &mut problems);
                    }
                }
                for map in &mapping.maps {
                    if let Some(field) = plan.fields.get(map.field) {
                        field.check_fixed(map, &file, &mut encoder, &mut problems);
                    }
                }
            }
        }
        problems.or(plan)
    }

    /// Checks what a target says by itself: its fixed values, and what its encoding can write.
    ///
    /// # Errors
    /// [`Error::Problems`](crate::Error::Problems) with everything that is wrong.
    pub fn check_target(target: &Target, today: Date) -> Result<()> {
        let path = target.files.first().cloned().unwrap_or_default();
        let mapping = Mapping {
            path: path.clone(),
            target_path: path,
            source: SourceSettings::default(),
            ask: Vec::new(),
            maps: Vec::new(),
            leave_out: Vec::new(),
            crosswalk_files: Vec::new(),
        };
        Plan::compile(target, &mapping, &[], today, &Proven::default()).map(|_| ())
    }

    fn field(
        &self,
        (place, field): (usize, &'p Field),
        map: Option<&'p Map>,
        mapping: &'p Mapping,
        asked: &[(String, String)],
        today: Date,
        proven: &Proven,
    ) -> FieldPlan<'p> {
        let slot = |name: &str| self.wanted.iter().position(|wanted| *wanted == name).unwrap_or(usize::MAX);
        let input = match map.map(|map| &map.feed) {
            None => field.fixed.clone().map_or(Input::Nothing, Input::Constant),
            Some(Feed::Column(name)) => Input::Column(slot(name)),
            Some(Feed::Constant(template)) => {
                let value = |name: &str| {
                    asked.iter().find(|(known, _)| known == name).map(|(_, value)| value.as_str())
                };
                Input::Constant(template.fill(value).unwrap_or_default())
            }
            Some(Feed::Join(template)) => Input::Join(
                template
                    .pieces
                    .iter()
                    .map(|piece| match piece {
                        Piece::Text(text) => JoinPiece::Text(text.clone()),
                        Piece::Name(name) => JoinPiece::Column(slot(name)),
                    })
                    .collect(),
            ),
        };
        let columns = self.target.upload_columns();
        let is_mine = |(of, _): &(Option<usize>, &str)| *of == Some(place);
        let first = columns.iter().position(is_mine).unwrap_or(0);
        let blanks_before = columns.iter().take(first).rev().take_while(|(of, _)| of.is_none()).count();
        let is_last = columns.iter().rev().find_map(|(of, _)| *of) == Some(place);
        let blanks_behind = columns.iter().rev().take_while(|(of, _)| of.is_none() && is_last).count();
        let (decimals, unit) = match &field.kind {
            FieldType::Number { decimals, unit, .. } => (*decimals, *unit),
            _ => (0, None),
        };
        let source_unit = map.and_then(|map| map.number.unit);
        let conversion = source_unit.zip(unit).filter(|(from, to)| from != to);
        let wanted = Wanted {
            decimals,
            // The mapping was read with the same check, so an error cannot come up here.
            conversion: conversion.and_then(|(from, to)| UnitConversion::new(from, to).ok()),
            unit,
        };
        let (not_before, not_after, format) = match &field.kind {
            FieldType::Date { not_before, not_after, format, .. } => (
                not_before.map(|bound| bound.day(today)),
                not_after.map(|bound| bound.day(today)),
                Some(format),
            ),
            _ => (None, None, None),
        };
        let parent = match &field.kind {
            FieldType::Code { within, .. } => *within,
            _ => None,
        };
        let parent_name = parent
            .and_then(|parent| self.target.fields.get(parent))
            .map_or("", |parent| parent.name.as_str());
        let mut source = map.map_or_else(Readings::default, Readings::of);
        if let Some(order) = proven.date_orders.get(&place) {
            source.date.order = Some(*order);
            source.date_proven = true;
        }
        if let Some(mark) = proven.decimal_marks.get(&place) {
            source.number.decimal_mark = Some(*mark);
            source.number.proven = true;
        }
        let row_groups = source.date.order_where.iter().filter_map(|one| match one.which {
            Which::Rows(first, last) => Some((first, last)),
            Which::Shape(_) => None,
        });
        let row_groups: Vec<(u64, u64)> = row_groups.collect();
        let fixed = Readings {
            fixed: true,
            number: NumberReading { decimal_mark: Some('.'), ..NumberReading::default() },
            date: DateReading { pattern: format.cloned(), ..DateReading::default() },
            ..Readings::default()
        };
        FieldPlan {
            field,
            input,
            parent,
            parent_name,
            if_blank: map.and_then(|map| map.if_blank.as_deref()),
            text: map.map_or_else(TextReading::default, |map| map.text),
            line_mark: mapping.source.line_break.as_deref(),
            row_groups,
            source,
            fixed,
            wanted,
            not_before,
            not_after,
            today,
            alone: columns.len() == 1,
            blanks_before,
            blanks_behind,
            bare: match &field.kind {
                FieldType::Number { .. } => Bare::Number,
                FieldType::Boolean { yes, no } if yes == "true" && no == "false" => Bare::Boolean,
                _ => Bare::Never,
            },
        }
    }

    /// For each heading in [`Plan::wanted`], which column of the source it is.
    ///
    /// # Errors
    /// [`Error::Invariant`](crate::Error::Invariant) when the source was opened for another mapping.
    pub fn bind(&self, source: &Source) -> Result<Vec<usize>> {
        let columns = self.wanted.iter().map(|name| source.column(name));
        columns.collect::<Option<Vec<usize>>>().ok_or_else(|| {
            crate::Error::Invariant(format!(
                "{} was opened without the headings that the mapping uses",
                source.name
            ))
        })
    }
}

impl FieldPlan<'_> {
    /// A constant and a default must be what the dictionary allows.
    fn check_fixed(&self, map: &Map, file: &str, encoder: &mut UploadEncoder<'_>, problems: &mut Problems) {
        // What is valid inside a parent depends on the row, and is checked there.
        if self.parent.is_some() {
            return;
        }
        let constant = match &self.input {
            Input::Constant(text) => Some(("constant", text.as_str())),
            _ => None,
        };
        for (key, text) in constant.into_iter().chain(self.if_blank.map(|text| ("if_blank", text))) {
            self.check_text((file, map.line, key), text, encoder, problems);
        }
    }

    /// A text that a key of a file puts into this field must be what the dictionary allows.
    fn check_text(
        &self,
        (file, line, key): (&str, Line, &str),
        text: &str,
        encoder: &mut UploadEncoder<'_>,
        problems: &mut Problems,
    ) {
        let mut outcome = Outcome::default();
        self.conform_fixed(text, Parent::None, encoder, &mut outcome);
        for fault in &outcome.faults {
            let problem = problems.at(
                file,
                Some(line),
                format!("{key} \"{text}\" for {} {}", self.field.name, fault.wrong),
            );
            if !fault.right.is_empty() {
                problem.hint(format!("right would be: {}", fault.right));
            }
        }
    }
}

/// Parents before what is within them; otherwise the template's order.
fn order(target: &Target) -> Vec<usize> {
    let parent = |place: usize| match target.fields.get(place).map(|field| &field.kind) {
        Some(FieldType::Code { within, .. }) => *within,
        _ => None,
    };
    let depth = |place: usize| {
        let mut depth = 0;
        let mut at = place;
        while let Some(next) = parent(at)
            && depth <= target.fields.len()
        {
            depth += 1;
            at = next;
        }
        depth
    };
    let mut places: Vec<usize> = (0..target.fields.len()).collect();
    let behind = |place: usize| parent(place).is_none_or(|parent| parent < place);
    if !places.iter().all(|place| behind(*place)) {
        places.sort_by_key(|place| depth(*place));
    }
    places
}
