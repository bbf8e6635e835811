//! Target and mapping compiled once: everything that can be settled before the first row is.

use hashbrown::HashMap;
use jiff::civil::Date;

use super::number::Wanted;
use super::outcome::Readings;
use super::several::{JoinPiece, Several};
use super::types::conforming;
use super::{Outcome, Parent};
use crate::KeyPrint;
use dusk_decisions::{CrosswalkLine, crosswalk_path};
use dusk_description::{Bare, DateType, Field, FieldType, Held, NumberType, Rule, Target, UploadEncoder};
use dusk_evidence::{Error, Line, Problems, Result};
use dusk_files::{Piece, Template};
use dusk_mapping::{
    DateReading, Feed, Map, Mapping, NUMBER_MARK, NumberReading, Part, Repeat, SameKey, TextReading, Which,
};
use dusk_sources::Source;
use dusk_values::{DateOrder, UnitConversion};

/// What the data proves about fields, by their places in the target.
#[derive(Debug, Clone, Default)]
pub struct Proven {
    /// The orders of dates.
    pub date_orders: HashMap<usize, DateOrder>,
    /// The marks before the decimals.
    pub decimal_marks: HashMap<usize, char>,
    /// The fields whose dates prove no order, or deny the one that the mapping names: none of them is read
    /// that could be several days.
    pub open: Vec<usize>,
}

/// Where a field's raw value comes from. Columns are places in [`Plan::wanted`].
#[derive(Debug, Clone)]
pub enum Input<'p> {
    /// Nothing feeds it.
    Nothing,
    /// One column.
    Column(usize),
    /// The same text in every record.
    Constant(String),
    /// Several columns, and what is made of them.
    Several(Vec<usize>, Several<'p>),
    /// Other fields of the record, by their places, and the text between them.
    MadeOf(Vec<usize>, Vec<JoinPiece>),
    /// The label of the record's repeat.
    Number,
}

impl Input<'_> {
    /// The columns that feed it, by their places in [`Plan::wanted`].
    pub fn columns(&self) -> &[usize] {
        match self {
            Self::Column(slot) => std::slice::from_ref(slot),
            Self::Several(slots, _) => slots,
            Self::Nothing | Self::Constant(_) | Self::MadeOf(..) | Self::Number => &[],
        }
    }

    /// True where it is the same in every record.
    pub(super) fn is_the_same(&self) -> bool {
        matches!(self, Self::Nothing | Self::Constant(_))
    }
}

/// Everything that is needed to conform one field.
#[derive(Debug)]
pub struct FieldPlan<'p> {
    /// The field.
    pub field: &'p Field,
    /// Where its raw value comes from.
    pub input: Input<'p>,
    /// The column whose blank cells hold what the cell above holds.
    pub(super) filled_from: Option<usize>,
    /// The part of the cell that is taken.
    pub(super) part: Option<&'p Part>,
    /// Words that stand for a blank cell, folded.
    pub(super) blank: &'p [String],
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

/// How a row makes several records.
#[derive(Debug)]
pub struct PlannedRepeat<'p> {
    /// What the mapping says.
    pub repeat: &'p Repeat,
    /// The columns that repeat, by their places in [`Plan::wanted`].
    pub slots: Vec<usize>,
    /// What each record is called, by the place of its repeat.
    pub labels: Vec<String>,
}

/// A whole run's conforming, compiled.
#[derive(Debug)]
pub struct Plan<'p> {
    /// The target.
    pub target: &'p Target,
    /// One plan for each field of the target.
    pub fields: Vec<FieldPlan<'p>>,
    /// The headings that are used; those of columns that repeat with `{n}` for the repeat.
    pub wanted: Vec<&'p str>,
    /// How a row makes several records, where it does.
    pub repeat: Option<PlannedRepeat<'p>>,
    /// The rule that rows satisfy which hold a record, and its columns by their places in `wanted`.
    pub(super) keep: Option<(&'p Rule, Vec<usize>)>,
    /// The first and the last row that hold records, where others do not.
    pub(super) within: Option<(u64, u64)>,
    /// What becomes of a record whose key another record has already.
    pub same_key: SameKey,
    /// What the target holds in fields that may be set only once, by the key of the record.
    pub(super) held: HashMap<KeyPrint, Vec<(usize, String)>>,
    /// The rules that look at one record.
    pub row_rules: Vec<&'p Rule>,
    /// The rules over many records.
    pub batch_rules: Vec<&'p Rule>,
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
    /// [`Error::Problems`](dusk_evidence::Error::Problems) when a constant or a default is not allowed by
    /// the dictionary, or the upload's encoding cannot write its own delimiter.
    pub fn compile(
        target: &'p Target,
        mapping: &'p Mapping,
        asked: &[(String, String)],
        today: Date,
        proven: &Proven,
    ) -> Result<Self> {
        let wanted = mapping.used();
        let keep = match &mapping.keep {
            Some(keep) => {
                let slots = keep.columns.iter().map(|column| slot_of(&wanted, column));
                Some((&keep.rule, slots.collect::<Result<_>>()?))
            }
            None => None,
        };
        let repeat = mapping.repeat.as_ref().map(|repeat| PlannedRepeat {
            repeat,
            slots: (0..wanted.len())
                .filter(|slot| wanted.get(*slot).is_some_and(|heading| heading.contains(NUMBER_MARK)))
                .collect(),
            labels: if repeat.in_order {
                (1..=repeat.numbers.len()).map(|number| number.to_string()).collect()
            } else {
                repeat.numbers.clone()
            },
        });
        let order = order(target);
        let in_order = order.is_sorted();
        let (batch_rules, row_rules) = target.rules.iter().partition(|rule| rule.is_over_records());
        let mut plan = Self {
            target,
            fields: Vec::new(),
            wanted,
            repeat,
            keep,
            within: mapping.within,
            same_key: mapping.same_key,
            held: HashMap::new(),
            row_rules,
            batch_rules,
            today,
            order,
            in_order,
        };
        for (place, field) in target.fields.iter().enumerate() {
            let map = mapping.maps.iter().find(|map| map.field == place);
            let compiled = plan.field((place, field), map, mapping, asked, today, proven)?;
            plan.fields.push(compiled);
        }
        let mut problems = Problems::default();
        let file = mapping.path.display().to_string();
        match UploadEncoder::new(&target.upload) {
            Err(says) => {
                problems.at(&mapping.target_path.display().to_string(), None, says);
            }
            Ok(mut encoder) => {
                if let Some(held) = &target.held {
                    plan.held = plan.print_held(held, &mut encoder, &mut problems);
                }
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
                        let crosswalk = crosswalk_path(&mapping.path, &field.field.name);
                        field.check_crosswalk(&mut encoder, &mut problems, &crosswalk.display().to_string());
                    }
                }
            }
        }
        problems.or(plan)
    }

    /// True where a record cannot be conformed again from its row alone: it is one of several, or
    /// holds what stands above.
    pub fn needs_more_than_the_row(&self) -> bool {
        self.repeat.is_some() || self.fields.iter().any(|field| field.filled_from.is_some())
    }

    /// Checks what a target says by itself: its fixed values, and what its encoding can write.
    ///
    /// # Errors
    /// [`Error::Problems`](dusk_evidence::Error::Problems) with everything that is wrong.
    pub fn check_target(target: &Target, today: Date) -> Result<()> {
        let mapping = Mapping::empty(target);
        Plan::compile(target, &mapping, &[], today, &Proven::default()).map(|_| ())
    }

    /// Why a field cannot hold a value that is written as the target writes it; nothing where it can.
    ///
    /// # Errors
    /// [`Error::Problems`](dusk_evidence::Error::Problems) when the target itself is not sound.
    pub fn cannot_hold(target: &Target, field: usize, text: &str, today: Date) -> Result<Option<String>> {
        let mapping = Mapping::empty(target);
        let plan = Plan::compile(target, &mapping, &[], today, &Proven::default())?;
        let mut encoder = UploadEncoder::new(&target.upload).map_err(dusk_evidence::Error::Request)?;
        let mut outcome = Outcome::default();
        if let Some(field) = plan.fields.get(field) {
            field.conform_fixed(text, Parent::None, &mut encoder, &mut outcome);
        }
        Ok(outcome.faults.first().map(|fault| match fault.right().as_str() {
            "" => fault.wrong().clone(),
            right => format!("{}; right would be: {right}", fault.wrong()),
        }))
    }

    /// What the target holds, by the key as it stands in the upload file, and written as the target
    /// writes it now.
    fn print_held(
        &self,
        held: &Held,
        encoder: &mut UploadEncoder<'_>,
        problems: &mut Problems,
    ) -> HashMap<KeyPrint, Vec<(usize, String)>> {
        let mut prints: HashMap<KeyPrint, Vec<(usize, String)>> = HashMap::new();
        let mut conform = |place: usize, text: &str| {
            let mut outcome = Outcome::default();
            let Some(field) = self.fields.get(place) else { return outcome };
            field.conform_fixed(text, Parent::None, encoder, &mut outcome);
            // What is valid inside a parent is a code of the target's as it stands.
            if !outcome.faults.is_empty() && field.parent.is_some() {
                outcome = Outcome { text: text.to_owned(), ..Outcome::default() };
                let wrong = field.encode(None, encoder, &mut outcome).err();
                outcome.faults.extend(wrong);
            }
            outcome
        };
        let file = held.path.display().to_string();
        for (row, key, once) in &held.records {
            let mut print = Vec::new();
            let mut fits = true;
            for (place, text) in held.key.iter().zip(key) {
                let outcome = conform(*place, text);
                if let Some(fault) = outcome.faults.first() {
                    // Not found again, the record could be changed without a word.
                    let name = self.fields.get(*place).map_or("", |field| field.field.name.as_str());
                    let says = format!("row {row}: {name} \"{text}\", part of the key, {}", fault.wrong());
                    problems
                        .at(&file, None, says)
                        .hint("export what the target holds as the target writes it");
                    fits = false;
                }
                print.extend(outcome.encoded);
            }
            let values = held.once.iter().zip(once).filter(|(_, text)| !text.is_empty());
            let values: Vec<(usize, String)> = values
                .map(|(place, text)| {
                    let outcome = conform(*place, text);
                    (*place, if outcome.faults.is_empty() { outcome.text } else { text.clone() })
                })
                .collect();
            if !fits || values.is_empty() {
                continue;
            }
            let print = KeyPrint::of(&print);
            if prints.get(&print).is_some_and(|known| *known != values) {
                let says = format!(
                    "row {row}: an earlier row has the same key ({}) and holds something else",
                    key.join(", ")
                );
                problems.at(&file, None, says).hint("one row for each record that the target holds");
            }
            prints.insert(print, values);
        }
        prints
    }

    fn field(
        &self,
        (place, field): (usize, &'p Field),
        map: Option<&'p Map>,
        mapping: &'p Mapping,
        asked: &[(String, String)],
        today: Date,
        proven: &Proven,
    ) -> Result<FieldPlan<'p>> {
        let slot = |name: &str| slot_of(&self.wanted, name);
        let slots = |feed: &Feed| feed.columns().into_iter().map(slot).collect::<Result<Vec<usize>>>();
        let input = match map {
            None => match &field.made_of {
                Some(made_of) => Input::MadeOf(
                    made_of.names().map(|name| field_of(self.target, name)).collect::<Result<_>>()?,
                    join_pieces(made_of),
                ),
                None => field.fixed.clone().map_or(Input::Nothing, Input::Constant),
            },
            Some(map) => match &map.feed {
                Feed::Column(name) => Input::Column(slot(name)?),
                Feed::Constant(template) => {
                    let value = |name: &str| {
                        asked.iter().find(|(known, _)| known == name).map(|(_, value)| value.as_str())
                    };
                    let constant = template.fill(value).ok_or_else(|| {
                        Error::Invariant(format!(
                            "the constant of {} uses a value that was not given",
                            field.name
                        ))
                    })?;
                    Input::Constant(constant)
                }
                Feed::Number => Input::Number,
                feed @ Feed::Join(template) => {
                    Input::Several(slots(feed)?, Several::Join(join_pieces(template)))
                }
                feed @ Feed::FirstOf(names) => {
                    let names = names.iter().map(String::as_str).collect();
                    Input::Several(slots(feed)?, Several::FirstOf(names))
                }
                feed @ Feed::Together(_) => {
                    Input::Several(slots(feed)?, Several::Together(map.between.as_deref()))
                }
                feed @ Feed::Flags(flags) => {
                    let flags =
                        flags.iter().map(|(heading, code)| (heading.as_str(), code.as_str())).collect();
                    Input::Several(slots(feed)?, Several::Flags(flags))
                }
                feed @ Feed::LookUp(look_up) => Input::Several(slots(feed)?, Several::LookUp(look_up)),
            },
        };
        let columns = self.target.upload_columns();
        let is_mine = |(of, _): &(Option<usize>, &str)| *of == Some(place);
        let first = columns.iter().position(is_mine).unwrap_or(0);
        let blanks_before = columns.iter().take(first).rev().take_while(|(of, _)| of.is_none()).count();
        let is_last = columns.iter().rev().find_map(|(of, _)| *of) == Some(place);
        let blanks_behind = columns.iter().rev().take_while(|(of, _)| of.is_none() && is_last).count();
        let (decimals, unit) = match &field.kind {
            FieldType::Number(NumberType { decimals, unit, .. }) => (*decimals, *unit),
            _ => (0, None),
        };
        let source_unit = map.and_then(|map| map.number.unit);
        let conversion = match source_unit.zip(unit).filter(|(from, to)| from != to) {
            // The mapping was read with the same check, so this is a mistake of the program's own; without the
            // conversion every number would be wrong.
            Some((from, to)) => Some(UnitConversion::new(from, to).map_err(|_| {
                let (from, to) = (from.symbol(), to.symbol());
                Error::Invariant(format!("{} was to be converted from {from} to {to}", field.name))
            })?),
            None => None,
        };
        let wanted = Wanted { decimals, conversion, unit };
        let (not_before, not_after, format) = match &field.kind {
            FieldType::Date(DateType { not_before, not_after, format, .. }) => (
                not_before.map(|bound| bound.day(today)),
                not_after.map(|bound| bound.day(today)),
                Some(format),
            ),
            _ => (None, None, None),
        };
        let parent = field.kind.parent();
        let parent_name = parent
            .and_then(|parent| self.target.fields.get(parent))
            .map_or("", |parent| parent.name.as_str());
        let mut source = map.map_or_else(Readings::default, Readings::of);
        source.several = matches!(field.kind, FieldType::Codes(_));
        if let Some(order) = proven.date_orders.get(&place) {
            source.date.order = Some(*order);
            source.date_proven = true;
        }
        source.date_open = proven.open.contains(&place);
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
        Ok(FieldPlan {
            field,
            filled_from: match &input {
                Input::Column(slot) if map.is_some_and(|map| map.fill_down) => Some(*slot),
                _ => None,
            },
            part: map.and_then(|map| map.part.as_ref()),
            blank: map.map_or(&[], |map| map.blank.as_slice()),
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
            bare: conforming(&field.kind).bare(),
        })
    }

    /// Every crosswalk line of every field, by the field's place, with whether this plan has used it.
    pub fn crosswalk_lines(&self) -> impl Iterator<Item = (usize, &CrosswalkLine, bool)> {
        (0..).zip(&self.fields).flat_map(|(place, field)| {
            field.source.crosswalk.lines_and_use().map(move |(line, used)| (place, line, used))
        })
    }

    /// For each repeat, and for each heading in [`Plan::wanted`], which column of the source it is.
    /// Where rows make one record each there is one repeat.
    ///
    /// # Errors
    /// [`Error::Invariant`](dusk_evidence::Error::Invariant) when the source was opened for another mapping.
    pub fn bind(&self, source: &Source) -> Result<Vec<Vec<usize>>> {
        let bind = |heading: &dyn Fn(&str) -> String| {
            self.wanted.iter().map(|name| source.column(&heading(name))).collect::<Option<Vec<usize>>>()
        };
        let bound = match &self.repeat {
            None => bind(&str::to_owned).map(|columns| vec![columns]),
            Some(planned) => planned
                .repeat
                .numbers
                .iter()
                .map(|repeat| bind(&|name| Repeat::heading(name, repeat)))
                .collect(),
        };
        bound.ok_or_else(|| {
            dusk_evidence::Error::Invariant(format!(
                "{} was opened without the headings that the mapping uses",
                source.name
            ))
        })
    }
}

/// The pieces of a template, with a column for each name.
fn join_pieces(template: &Template) -> Vec<JoinPiece> {
    let piece = |piece: &Piece| match piece {
        Piece::Text(text) => JoinPiece::Text(text.clone()),
        Piece::Name(_) => JoinPiece::Column,
    };
    template.pieces.iter().map(piece).collect()
}

impl FieldPlan<'_> {
    /// True where the raw value of a column is its cell as it stands.
    pub(super) fn is_plain(&self) -> bool {
        self.row_groups.is_empty() && self.filled_from.is_none()
    }

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
                format!("{key} \"{text}\" for {} {}", self.field.name, fault.wrong()),
            );
            if !fault.right().is_empty() {
                problem.hint(format!("right would be: {}", fault.right()));
            }
        }
    }
}

/// The place of a heading among those that are used.
fn slot_of(wanted: &[&str], heading: &str) -> Result<usize> {
    let slot = wanted.iter().position(|wanted| *wanted == heading);
    slot.ok_or_else(|| Error::Invariant(format!("the column \"{heading}\" is used and was not planned for")))
}

/// The place of a field that another one is made of.
fn field_of(target: &Target, name: &str) -> Result<usize> {
    target
        .field(name)
        .ok_or_else(|| Error::Invariant(format!("a field is made of {name}, which is not there")))
}

/// Parents before what is within them, parts before what is made of them; otherwise the template's
/// order.
fn order(target: &Target) -> Vec<usize> {
    let parent = |place: usize| target.fields.get(place).and_then(|field| field.kind.parent());
    let depth = |place: usize| {
        // Parts are not made of parts, but they may be within parents.
        if target.fields.get(place).is_some_and(|field| field.made_of.is_some()) {
            return usize::MAX;
        }
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
    let behind = |place: usize| {
        let parts = target.fields.get(place).and_then(|field| field.made_of.as_ref());
        let parts = parts.iter().flat_map(|made_of| made_of.names()).filter_map(|name| target.field(name));
        parent(place).into_iter().chain(parts).all(|needed| needed < place)
    };
    if !places.iter().all(|place| behind(*place)) {
        places.sort_by_key(|place| depth(*place));
    }
    places
}
