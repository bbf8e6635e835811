//! Target and mapping compiled once: everything that can be settled before the first row is.
//!
//! ```text
//! field   what is needed to conform one field
//! groups  the rows that a record is laid out over, where its target wants them by group
//! input   where a field's raw value comes from
//! order   the order in which fields are conformed
//! telling which values of a field can be told at once
//! checks  what the description and the mapping put into fields is what the dictionary allows
//! ```

mod checks;
mod field;
mod groups;
mod input;
mod order;
mod telling;

pub use field::FieldPlan;
pub(crate) use groups::PlannedGroups;
pub use input::{Input, Proven};

use std::sync::Arc;

use jiff::civil::Date;

use super::at_once::AtOnce;
use super::{Combined, Outcome, Parent};
use dusk_decisions::CrosswalkLine;
use dusk_description::{Rule, Target, UploadEncoder};
use dusk_evidence::{ById, ColumnId, Error, FieldId, Result, Slot};
use dusk_held::HeldRecords;
use dusk_mapping::{Mapping, NUMBER_MARK, Repeat, SameKey};
use dusk_sources::Source;

use field::Around;
use order::order;

/// The columns of a source that a plan uses.
pub type Bound = ById<Slot, ColumnId>;

/// How a row makes several records.
#[derive(Debug)]
pub struct PlannedRepeat<'p> {
    /// What the mapping says.
    pub repeat: &'p Repeat,
    /// The columns that repeat, by their places in [`Plan::wanted`].
    pub slots: Vec<Slot>,
    /// What each record is called, by the place of its repeat.
    pub labels: Vec<String>,
}

impl<'p> PlannedRepeat<'p> {
    fn of(repeat: &'p Repeat, wanted: &ById<Slot, &str>) -> Self {
        let repeats = |(_, heading): &(Slot, &&str)| heading.contains(NUMBER_MARK);
        let labels = if repeat.in_order {
            (1..=repeat.numbers.len()).map(|number| number.to_string()).collect()
        } else {
            repeat.numbers.clone()
        };
        Self { repeat, slots: wanted.with_ids().filter(repeats).map(|(slot, _)| slot).collect(), labels }
    }
}

/// A whole run's conforming, compiled.
#[derive(Debug)]
pub struct Plan<'p> {
    /// The target.
    pub target: &'p Target,
    /// One plan for each field of the target.
    pub fields: ById<FieldId, FieldPlan<'p>>,
    /// The headings that are used; those of columns that repeat with `{n}` for the repeat.
    pub wanted: ById<Slot, &'p str>,
    /// How a row makes several records, where it does.
    pub repeat: Option<PlannedRepeat<'p>>,
    /// How a record is laid out over several rows, where it is.
    pub(crate) groups: Option<PlannedGroups>,
    /// The rule that rows satisfy which hold a record, and its columns by their places in `wanted`.
    pub(super) keep: Option<(&'p Rule, ById<FieldId, Slot>)>,
    /// The first and the last row that hold records, where others do not.
    pub(super) within: Option<(u64, u64)>,
    /// Rows that a delimiter inside a value has split are left so, since they are too many.
    pub(super) leaves_split: bool,
    /// What becomes of a record whose key another record has already.
    pub same_key: SameKey,
    /// What the target holds, where that is known.
    pub(super) held: Option<&'p HeldRecords>,
    /// The values of records that it does not hold are told as well.
    pub(super) tells_new: bool,
    /// What became of rows that share a key, where they become one record.
    pub(super) combined: Option<Arc<Combined>>,
    /// The rules that look at one record.
    pub row_rules: Vec<&'p Rule>,
    /// The rules over many records.
    pub batch_rules: Vec<&'p Rule>,
    /// The day of the run.
    pub(super) today: Date,
    /// The order in which fields are conformed: parents before what is within them.
    pub(super) order: Vec<FieldId>,
    /// True when that is the template's order.
    pub(super) in_order: bool,
    /// The same, and the mapping puts no text of its own into every record.
    pub(super) is_written_whole: bool,
}

impl<'p> Plan<'p> {
    /// Compiles a target and a mapping. `asked` holds the values given for `[ask]`; `proven` what
    /// the data proves, by the place of the field.
    ///
    /// # Errors
    /// [`Error::Problems`] when a constant or a default is not allowed by
    /// the dictionary, or the upload's encoding cannot write its own delimiter.
    pub fn compile(
        target: &'p Target,
        mapping: &'p Mapping,
        asked: &[(String, String)],
        today: Date,
        proven: &Proven,
    ) -> Result<Self> {
        let wanted: ById<Slot, &'p str> = mapping.used().into();
        let order = order(target);
        let (batch_rules, row_rules) = target.rules.iter().partition(|rule| rule.is_over_records());
        let keep = mapping.keep.as_ref().map(|keep| {
            let slots = keep.columns.iter().map(|column| slot_of(&wanted, column));
            Ok((&keep.rule, slots.collect::<Result<_>>()?))
        });
        let mut plan = Self {
            target,
            fields: ById::default(),
            keep: keep.transpose()?,
            repeat: mapping.repeat.as_ref().map(|repeat| PlannedRepeat::of(repeat, &wanted)),
            wanted,
            within: mapping.within,
            leaves_split: proven.many_split,
            // The first row of a record comes from each of its rows, and is written once.
            same_key: if target.groups.is_some() { SameKey::Merge } else { mapping.same_key },
            groups: None,
            held: None,
            combined: None,
            tells_new: false,
            row_rules,
            batch_rules,
            today,
            in_order: order.is_sorted(),
            is_written_whole: false,
            order,
        };
        let around = Around { mapping, asked, proven };
        for (id, field) in target.fields.with_ids() {
            let compiled = plan.field(id, field, &around)?;
            plan.fields.push(compiled.telling());
        }
        let repeat = mapping.repeat.as_ref();
        let groups = target.groups.as_ref();
        plan.groups = groups.map(|groups| PlannedGroups::of(groups, &plan.fields, repeat, &plan.wanted));
        let parents: Vec<FieldId> = plan.fields.iter().filter_map(|field| field.parent).collect();
        for parent in parents {
            // What is inside it is remembered with it.
            if let Some(field) = plan.fields.get_mut(parent) {
                field.at_once = AtOnce::None;
            }
        }
        plan.is_written_whole = plan.in_order && !plan.fields.iter().any(|field| field.input.is_the_same());
        plan.check(mapping)
    }

    /// The same plan for records that are compared with those that the target holds. `tells_new` says that the values
    /// of new ones are told as well.
    #[must_use]
    pub fn beside(self, held: Option<&'p HeldRecords>, tells_new: bool) -> Self {
        Self { held, tells_new, ..self }
    }

    /// The same plan, where rows that share a key become one record.
    #[must_use]
    pub fn combining(self, combined: Combined) -> Self {
        Self { combined: Some(Arc::new(combined)), ..self }
    }

    /// True where one row of a source may make several records.
    pub fn makes_several(&self) -> bool {
        self.repeat.is_some() || self.groups.is_some()
    }

    /// True where a record cannot be conformed again from its row alone: it is one of several, or
    /// holds what stands above.
    pub fn needs_more_than_the_row(&self) -> bool {
        self.makes_several() || self.fields.iter().any(|field| field.filled_from.is_some())
    }

    /// Checks what a target says by itself: its fixed values, and what its encoding can write.
    ///
    /// # Errors
    /// [`Error::Problems`] with everything that is wrong.
    pub fn check_target(target: &Target, today: Date) -> Result<()> {
        let mapping = Mapping::empty(target);
        Plan::compile(target, &mapping, &[], today, &Proven::default()).map(|_| ())
    }

    /// Why a field cannot hold a value that is written as the target writes it; nothing where it can.
    ///
    /// # Errors
    /// [`Error::Problems`] when the target itself is not sound.
    pub fn cannot_hold(target: &Target, field: FieldId, text: &str, today: Date) -> Result<Option<String>> {
        let mapping = Mapping::empty(target);
        let plan = Plan::compile(target, &mapping, &[], today, &Proven::default())?;
        let mut encoder = UploadEncoder::new(&target.upload).map_err(Error::Request)?;
        let mut outcome = Outcome::default();
        if let Some(field) = plan.fields.get(field) {
            field.conform_fixed(text, Parent::None, &mut encoder, &mut outcome);
        }
        Ok(outcome.faults.first().map(|fault| match fault.right().as_str() {
            "" => fault.wrong().clone(),
            right => format!("{}; right would be: {right}", fault.wrong()),
        }))
    }

    /// Every crosswalk line of every field, with whether this plan has used it.
    pub fn crosswalk_lines(&self) -> impl Iterator<Item = (FieldId, &CrosswalkLine, bool)> {
        self.fields.with_ids().flat_map(|(id, field)| {
            field.source.crosswalk.lines_and_use().map(move |(line, used)| (id, line, used))
        })
    }

    /// For each repeat, which columns of the source the headings in [`Plan::wanted`] are.
    /// Where rows make one record each there is one repeat.
    ///
    /// # Errors
    /// [`Error::Invariant`] when the source was opened for another mapping.
    pub fn bind(&self, source: &Source) -> Result<Vec<Bound>> {
        let bind = |heading: &dyn Fn(&str) -> String| -> Option<Bound> {
            self.wanted.iter().map(|name| source.column(&heading(name))).collect()
        };
        let bound = match &self.repeat {
            None => bind(&str::to_owned).map(|columns| vec![columns]),
            Some(planned) => {
                let numbers = planned.repeat.numbers.iter();
                let heading = |name: &str, number: &String| {
                    let known = planned.repeat.numbers_for(name);
                    // Where a group has fewer repeats than others, its columns are not looked at in the rest.
                    let number = if known.contains(number) { Some(number) } else { known.first() };
                    number.map_or_else(|| name.to_owned(), |number| Repeat::heading(name, number))
                };
                numbers.map(|number| bind(&|name| heading(name, number))).collect()
            }
        };
        bound.ok_or_else(|| {
            Error::Invariant(format!("{} was opened without the headings that the mapping uses", source.name))
        })
    }
}

/// The place of a heading among those that are used.
pub(super) fn slot_of(wanted: &ById<Slot, &str>, heading: &str) -> Result<Slot> {
    let slot = wanted.find(|wanted| *wanted == heading);
    slot.ok_or_else(|| Error::Invariant(format!("the column \"{heading}\" is used and was not planned for")))
}
