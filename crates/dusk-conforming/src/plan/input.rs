//! Where a field's raw value comes from.

use hashbrown::HashMap;

use super::field::Around;
use super::{Plan, slot_of};
use crate::several::{JoinPiece, Several};
use dusk_description::{Field, Target};
use dusk_evidence::{Error, FieldId, Result, Slot};
use dusk_files::{Piece, Template};
use dusk_mapping::{Feed, Map};
use dusk_values::DateOrder;

/// What the data proves about fields, by their places in the target.
#[derive(Debug, Clone, Default)]
pub struct Proven {
    /// The orders of dates.
    pub date_orders: HashMap<FieldId, DateOrder>,
    /// The marks before the decimals.
    pub decimal_marks: HashMap<FieldId, char>,
    /// The fields whose dates prove no order, or deny the one that the mapping names: none of them is read
    /// that could be several days.
    pub open: Vec<FieldId>,
    /// More rows are split by a delimiter inside a value than is left to a warning.
    pub many_split: bool,
    /// The fields whose long numbers have lost their last digit more often than chance makes zeros.
    pub damaged: Vec<FieldId>,
    /// The fields whose numbers are in a unit that nothing proves: none of them is read.
    pub open_units: Vec<FieldId>,
}

/// Where a field's raw value comes from. Columns are places in [`Plan::wanted`].
#[derive(Debug, Clone)]
pub enum Input<'p> {
    /// Nothing feeds it.
    Nothing,
    /// One column.
    Column(Slot),
    /// The same text in every record.
    Constant(String),
    /// Several columns, and what is made of them.
    Several(Vec<Slot>, Several<'p>),
    /// Other fields of the record, by their places, and the text between them.
    MadeOf(Vec<FieldId>, Vec<JoinPiece>),
    /// The label of the record's repeat.
    Number,
    /// The name of the group that the row is of.
    Group,
}

impl Input<'_> {
    /// The columns that feed it, by their places in [`Plan::wanted`].
    pub fn columns(&self) -> &[Slot] {
        match self {
            Self::Column(slot) => std::slice::from_ref(slot),
            Self::Several(slots, _) => slots,
            Self::Nothing | Self::Constant(_) | Self::MadeOf(..) | Self::Number | Self::Group => &[],
        }
    }

    /// True where it is the same in every record.
    pub(crate) fn is_the_same(&self) -> bool {
        matches!(self, Self::Nothing | Self::Constant(_))
    }
}

impl<'p> Plan<'p> {
    /// Where the raw value of a field comes from: what the mapping says, or the target itself.
    pub(super) fn input(
        &self,
        field: &'p Field,
        map: Option<&'p Map>,
        around: &Around<'p, '_>,
    ) -> Result<Input<'p>> {
        let Some(map) = map else { return self.input_of_target(field) };
        let slot = |name: &str| slot_of(&self.wanted, name);
        let several = match &map.feed {
            Feed::Column(name) => return Ok(Input::Column(slot(name)?)),
            Feed::Constant(template) => return constant(field, template, around.asked),
            Feed::Number => return Ok(Input::Number),
            Feed::Group => return Ok(Input::Group),
            Feed::Join(template) => Several::Join(join_pieces(template)),
            Feed::InUnits(..) => Several::InUnits,
            Feed::FirstOf(names) => Several::FirstOf(names.iter().map(String::as_str).collect()),
            Feed::Filled { nth, is_last, rest, columns } => Several::Filled {
                headings: columns.iter().map(String::as_str).collect(),
                nth: *nth,
                is_last: *is_last,
                rest: rest.as_deref(),
            },
            Feed::WorkedOut(worked_out) => {
                Several::WorkedOut { worked_out, mark: map.number.decimal_mark, today: self.today }
            }
            Feed::Together(_) => Several::Together(map.between.first().map(String::as_str)),
            Feed::Flags(flags) => Several::Flags(
                flags.iter().map(|(heading, code)| (heading.as_str(), code.as_str())).collect(),
            ),
            Feed::LookUp(look_up) => Several::LookUp(look_up),
        };
        let slots = map.feed.columns().into_iter().map(slot).collect::<Result<_>>()?;
        Ok(Input::Several(slots, several))
    }

    fn input_of_target(&self, field: &Field) -> Result<Input<'p>> {
        let Some(made_of) = &field.made_of else {
            return Ok(field.fixed.clone().map_or(Input::Nothing, Input::Constant));
        };
        let parts = made_of.names().map(|name| field_of(self.target, name)).collect::<Result<_>>()?;
        Ok(Input::MadeOf(parts, join_pieces(made_of)))
    }
}

/// A constant, with the values given for this run.
fn constant<'p>(field: &Field, template: &Template, asked: &[(String, String)]) -> Result<Input<'p>> {
    let value = |name: &str| asked.iter().find(|(known, _)| known == name).map(|(_, value)| value.as_str());
    template.fill(value).map(Input::Constant).ok_or_else(|| {
        Error::Invariant(format!("the constant of {} uses a value that was not given", field.name))
    })
}

/// The pieces of a template, with a column for each name.
fn join_pieces(template: &Template) -> Vec<JoinPiece> {
    let piece = |piece: &Piece| match piece {
        Piece::Text(text) => JoinPiece::Text(text.clone()),
        Piece::Name(_) => JoinPiece::Column,
    };
    template.pieces.iter().map(piece).collect()
}

/// The place of a field that another one is made of.
fn field_of(target: &Target, name: &str) -> Result<FieldId> {
    target
        .field(name)
        .ok_or_else(|| Error::Invariant(format!("a field is made of {name}, which is not there")))
}
