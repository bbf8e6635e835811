//! Every column weighed for every field: what speaks for a pair, what comes near to it, and what an
//! earlier mapping says otherwise.

use super::LEAST;
use super::called::Called;
use super::hints::Hints;
use super::likeness::Weights;
use super::made::Made;
use super::names::{Name, shared_start};
use super::pair::{CLEAR, PLAIN_NAME, Pair, Proof, mark_only, mark_unit, pair};
use super::sample::{Sample, samples};
use super::trade_words::TradeWords;
use super::{Candidate, Doubt, ReadLimits, dependent};
use dusk_description::{Field, FieldType, Target};
use dusk_evidence::{ById, ColumnId, FieldId, Id as _, Result};
use dusk_mapping::{Feed, Map, Mapping, NUMBER_MARK};
use dusk_sources::Source;
use dusk_values::{Mention, Wordy};

/// What a pair is worth whose codes are proven.
const PROVEN: i32 = 1_200;

/// All pairs of a source's columns and a target's fields.
pub(super) struct Weighed<'w> {
    source: &'w Source,
    target: &'w Target,
    mapping: Option<&'w Mapping>,
    /// The headings, in the order of the source.
    pub(super) headings: ById<ColumnId, Name>,
    /// What the columns hold.
    pub(super) samples: ById<ColumnId, Sample>,
    /// For each field, a pair for each column.
    pairs: ById<FieldId, ById<ColumnId, Pair>>,
    called: ById<FieldId, Called>,
    weights: Weights<'w>,
    /// The headings are in one language, and what the fields are called in another.
    pub(super) is_of_two_languages: bool,
    open_fields: ById<FieldId, bool>,
    /// The column that the mapping feeds a field with, as it stands.
    held: ById<FieldId, Option<ColumnId>>,
    free_columns: ById<ColumnId, bool>,
}

impl<'w> Weighed<'w> {
    /// Weighs every column for every field. What `mapping` says already is weighed as well, so that a
    /// doubt about it can be said, but is not open.
    pub(super) fn of(
        source: &'w Source,
        target: &'w Target,
        (mapping, learnt): (Option<&'w Mapping>, &[(FieldId, String)]),
        (limits, words): (ReadLimits, &'w TradeWords),
    ) -> Result<Self> {
        let samples = samples(source)?;
        let written: Vec<&str> = source.columns.iter().map(|column| heading_alone(column, source)).collect();
        let headings: ById<ColumnId, Name> = written.iter().map(|column| Name::of(column, words)).collect();
        let keys = target.fields.iter().filter(|field| field.key).count();
        let is_date = |field: &Field| matches!(field.kind, FieldType::Date(_));
        let dates = target.fields.iter().filter(|field| is_date(field)).count();
        let fields: Vec<Called> = target
            .fields
            .with_ids()
            .map(|(place, field)| {
                let learnt = learnt.iter().filter(|(known, _)| *known == place);
                let learnt: Vec<&str> = learnt.map(|(_, heading)| heading.as_str()).collect();
                Called::of(
                    field,
                    &learnt,
                    (field.key && keys == 1, dates == 1 && is_date(field)),
                    (limits, words),
                )
            })
            .collect();

        let mut weights = Weights::new(words);
        fields.iter().for_each(|called| weights.field(called.names.iter()));
        headings.iter().for_each(|name| weights.column(name));
        let start = shared_start(&written);
        let without_start = |heading: &&str| heading.strip_prefix(start).map(|bare| Name::of(bare, words));
        let bare: Vec<Option<Name>> = match start {
            "" => vec![None; written.len()],
            _ => written.iter().map(without_start).collect(),
        };
        let weigh = |(field, called): (&Field, &Called)| -> ById<ColumnId, Pair> {
            let columns = headings.iter().zip(&bare).zip(&samples);
            let pairs = columns.map(|((name, bare), sample)| {
                let whole = pair((name, sample), (field, called), &weights);
                let bare = bare.as_ref().map(|bare| pair((bare, sample), (field, called), &weights));
                bare.filter(|bare| bare.name >= whole.name).unwrap_or(whole)
            });
            let mut pairs: ById<ColumnId, Pair> = pairs.collect();
            mark_unit(&mut pairs, (field, target), &headings);
            mark_only(&mut pairs);
            pairs
        };
        let called = fields.iter().flat_map(|called| &called.names).map(|name| name.written.as_str());
        let (theirs, mine) = (words.language(written.iter().copied()), words.language(called));
        let mut pairs: ById<FieldId, ById<ColumnId, Pair>> =
            target.fields.iter().zip(&fields).map(weigh).collect();
        let may_feed = |field, column| {
            let pair = pairs.get(field).and_then(|row: &ById<ColumnId, Pair>| row.get(column));
            pair.is_some_and(|pair| pair.contents.are_telling())
        };
        let proven = dependent::proven(source, target, &may_feed)?;
        for (field, column) in proven {
            if let Some(pair) = pairs.get_mut(field).and_then(|row| row.get_mut(column)) {
                pair.proof = Some(Proof::Codes);
                pair.worth = pair.worth.max(PROVEN);
            }
        }
        let used = mapping.map(Mapping::wanted).unwrap_or_default();
        let left_out = mapping.map(|mapping| mapping.leave_out.as_slice()).unwrap_or_default();
        let is_free = |name: &String| !used.contains(name) && !left_out.contains(name);
        let free_columns = source.columns.iter().map(is_free).collect();
        let mut weighed = Self {
            source,
            target,
            mapping,
            headings,
            samples: samples.into_iter().collect(),
            pairs,
            called: fields.into_iter().collect(),
            weights,
            is_of_two_languages: theirs.zip(mine).is_some_and(|(theirs, mine)| theirs != mine),
            open_fields: ById::default(),
            held: ById::default(),
            free_columns,
        };
        let held = |field: FieldId| match weighed.map_of(field)? {
            Map { feed: Feed::Column(name), part: None, .. } => source.column(name),
            _ => None,
        };
        let held = target.fields.ids().map(held).collect();
        let is_open = |(place, field): (FieldId, &Field)| {
            let of_target = mapping.is_some_and(|mapping| mapping.fields_left_out.contains(&place))
                || field.never_send
                || field.fixed.is_some()
                || field.made_of.is_some();
            !of_target && (weighed.map_of(place).is_none() || weighed.gone_from(place).is_some())
        };
        weighed.open_fields = target.fields.with_ids().map(is_open).collect();
        weighed.held = held;
        Ok(weighed)
    }

    pub(super) fn pair(&self, field: FieldId, column: ColumnId) -> Option<&Pair> {
        self.pairs.get(field).and_then(|row| row.get(column))
    }

    pub(super) fn columns(&self) -> impl Iterator<Item = ColumnId> {
        self.headings.ids()
    }

    pub(super) fn fields(&self) -> impl Iterator<Item = FieldId> {
        self.target.fields.ids()
    }

    /// The fields that are to have a column.
    pub(super) fn open_fields(&self) -> impl Iterator<Item = FieldId> {
        self.fields().filter(|field| self.is_open(*field))
    }

    pub(super) fn is_open(&self, field: FieldId) -> bool {
        self.open_fields.get(field) == Some(&true)
    }

    /// Whether a column may feed a field yet.
    pub(super) fn is_free(&self, column: ColumnId) -> bool {
        self.free_columns.get(column) == Some(&true)
    }

    /// Takes fields and columns that are spoken for out of what is open.
    pub(super) fn settle(&mut self, made: &[Made]) {
        for made in made {
            if let Some(open) = self.open_fields.get_mut(made.field) {
                *open = false;
            }
            for column in &made.columns {
                if let Some(free) = self.free_columns.get_mut(*column) {
                    *free = false;
                }
            }
        }
    }

    /// Whether a field has a column of its name that it could take as it stands, beside this one.
    pub(super) fn has_plain(&self, field: FieldId, column: ColumnId) -> bool {
        self.columns().filter(|other| *other != column).any(|other| {
            self.pair(field, other).is_some_and(|pair| pair.name >= PLAIN_NAME && pair.worth >= LEAST)
        })
    }

    pub(super) fn target_field(&self, field: FieldId) -> Option<&'w Field> {
        self.target.fields.get(field)
    }

    /// What the dictionary says of a field.
    pub(super) fn description(&self, field: FieldId) -> Option<&'w str> {
        self.target.fields.get(field)?.description.as_deref()
    }

    /// Takes pairs as proven.
    pub(super) fn prove(&mut self, pairs: &[(FieldId, ColumnId)], why: Proof) {
        for (field, column) in pairs {
            if let Some(pair) = self.pairs.get_mut(*field).and_then(|row| row.get_mut(*column)) {
                pair.proof = Some(why);
                pair.worth = pair.worth.max(PROVEN);
            }
        }
    }

    /// Takes pairs as out of the question.
    pub(super) fn forbid(&mut self, pairs: &[(FieldId, ColumnId)]) {
        for (field, column) in pairs {
            if let Some(pair) = self.pairs.get_mut(*field).and_then(|row| row.get_mut(*column)) {
                pair.worth = 0;
            }
        }
    }

    pub(super) fn hints(&self, field: FieldId) -> Option<&Hints> {
        self.called.get(field).map(|called| &called.hints)
    }

    pub(super) fn names_of(&self, field: FieldId) -> &[Name] {
        self.called.get(field).map_or(&[], |called| &called.names)
    }

    /// How alike a name is to the names of a field, at best.
    pub(super) fn name_of(&self, name: &Name, field: FieldId) -> u32 {
        self.names_of(field).iter().map(|of_field| self.weights.alike(name, of_field).0).max().unwrap_or(0)
    }

    /// How far a heading is one part of what a dictionary names; 0 where it is not.
    pub(super) fn alike_part(&self, heading: &Name, part: &Name) -> u32 {
        self.weights.holds(heading, part)
    }

    /// What a field takes.
    pub(super) fn field(&self, field: FieldId) -> Option<&'w FieldType> {
        self.target.fields.get(field).map(|field| &field.kind)
    }

    pub(super) fn heading(&self, column: ColumnId) -> &str {
        self.source.heading(column)
    }

    fn map_of(&self, field: FieldId) -> Option<&'w Map> {
        self.mapping.and_then(|mapping| mapping.maps.iter().find(|map| map.field == field))
    }

    /// The column that feeds a field by the mapping, and that the source has not.
    pub(super) fn gone_from(&self, field: FieldId) -> Option<&'w str> {
        match &self.map_of(field)?.feed {
            Feed::Column(column) if self.source.column(column).is_none() && !column.contains(NUMBER_MARK) => {
                Some(column)
            }
            _ => None,
        }
    }

    /// What a pair is worth. A field that the mapping feeds keeps its column, and both count as they did when that
    /// was proposed: what is sure does not change with what was written.
    pub(super) fn worth(&self, field: FieldId, column: ColumnId) -> i32 {
        let raw = |field: FieldId, column: ColumnId| self.pair(field, column).map_or(0, |pair| pair.worth);
        let mine = raw(field, column);
        let may_be_had = self.is_free(column)
            || self.holder(column).is_some_and(|holder| holder == field || raw(holder, column) >= mine);
        match self.held.get(field).copied().flatten() {
            _ if !may_be_had => 0,
            Some(own) if own == column => mine.max(LEAST),
            Some(own) if raw(field, own) >= mine => mine,
            Some(_) => 0,
            None if self.is_open(field) => mine,
            None => 0,
        }
    }

    /// The field that the mapping feeds with a column as it stands.
    fn holder(&self, column: ColumnId) -> Option<FieldId> {
        self.held.with_ids().find(|(_, held)| **held == Some(column)).map(|(field, _)| field)
    }

    /// A column that is called after a field and does not feed it, and why not.
    pub(super) fn namesake(&self, field: FieldId) -> Option<(ColumnId, String)> {
        let named = self.columns().filter_map(|column| Some((column, self.pair(field, column)?)));
        let (column, pair) =
            named.filter(|(_, pair)| pair.name >= PLAIN_NAME).max_by_key(|(_, pair)| pair.name)?;
        let grounds = || (!pair.contents.grounds.is_nothing()).then(|| pair.contents.grounds.words(None));
        let is_fed = self.holder(column).is_some();
        let why = self.against((field, column), &[]).or_else(grounds).filter(|_| !is_fed)?;
        Some((column, why))
    }

    /// Some of what each column holds, in the order of the source.
    pub(super) fn values(&self) -> ById<ColumnId, Vec<String>> {
        /// How many values of each.
        const MOST: usize = 40;
        let of_sample = |sample: &Sample| sample.texts().take(MOST).map(str::to_owned).collect();
        self.samples.iter().map(of_sample).collect()
    }

    /// The columns that may feed a field, the likeliest first.
    pub(super) fn candidates(&self, field: FieldId, assigned: &[Option<usize>]) -> Vec<Candidate> {
        /// How many are worth a look.
        const MOST: usize = 5;
        let mut pairs: Vec<(ColumnId, &Pair)> = self
            .columns()
            .filter_map(|column| Some((column, self.pair(field, column)?)))
            .filter(|(_, pair)| pair.worth > 0)
            .collect();
        pairs.sort_by_key(|(_, pair)| std::cmp::Reverse(pair.worth));
        let candidate = |(column, pair): (ColumnId, &Pair)| {
            let mut says: Vec<String> = Vec::new();
            says.extend((!pair.why.is_empty() && pair.name >= 300).then(|| pair.why.clone()));
            says.extend((!pair.contents.grounds.is_nothing()).then(|| pair.contents.grounds.words(None)));
            says.extend(pair.proof.map(|proof| proof.says().to_owned()));
            says.extend(self.against((field, column), assigned));
            Candidate { column, says: says.join("; ") }
        };
        pairs.into_iter().take(MOST).map(candidate).collect()
    }

    /// Whether its column would be better for another field, or another column for its field; `assigned` are the
    /// columns of all fields, and what is clearly better where it is comes into no question.
    pub(super) fn is_second(&self, (field, column): (FieldId, ColumnId), assigned: &[Option<usize>]) -> bool {
        let worth = self.worth(field, column);
        let column_of = |field: FieldId| assigned.get(field.index()).copied().flatten().map(ColumnId::new);
        let field_of = |column: ColumnId| self.fields().find(|field| column_of(*field) == Some(column));
        let clear = i32::try_from(CLEAR).unwrap_or(0);
        let other_field = |other: FieldId| {
            let here = self.worth(other, column);
            let there = column_of(other).map_or(0, |there| self.worth(other, there));
            here > worth && there < here + clear
        };
        let other_column = |other: ColumnId| {
            let here = self.worth(field, other);
            let there = field_of(other).map_or(0, |there| self.worth(there, other));
            here > worth && there < here + clear
        };
        self.fields().any(other_field) || self.columns().any(other_column)
    }

    /// What comes nearest to a pair, in words.
    pub(super) fn rival(&self, field: FieldId, column: ColumnId) -> String {
        let fields = self.target.fields.ids().filter(|other| *other != field);
        let columns = self.headings.ids().filter(|other| *other != column);
        let field_rival = fields.map(|other| (self.worth(other, column), other)).max();
        let column_rival = columns.map(|other| (self.worth(field, other), other)).max();
        match (field_rival.filter(|(worth, _)| *worth > 0), column_rival.filter(|(worth, _)| *worth > 0)) {
            (None, None) => "little speaks for it".into(),
            (Some((worth, other)), column) if column.is_none_or(|(nearer, _)| worth >= nearer) => {
                let name = self.target.fields.get(other).map_or("", |field| field.name.as_str());
                format!("the column could be for {name} as well")
            }
            (_, column) => {
                let name = column.map_or("", |(_, other)| self.source.heading(other));
                format!("the column \"{name}\" could be it as well")
            }
        }
    }

    /// What the mapping says of a field, and the source does not bear out. `instead` is the column that
    /// would be proposed, with the reasons, where the mapped one is gone.
    pub(super) fn doubt(&self, field: FieldId, instead: Option<(ColumnId, Vec<String>)>) -> Option<Doubt> {
        if let Some(gone) = self.gone_from(field) {
            let (instead, mut reasons) = match instead {
                Some((column, reasons)) => (Some(column), reasons),
                None => (None, Vec::new()),
            };
            reasons.extend(instead.and_then(|other| self.other_unit(gone, other)));
            return Some(Doubt { field, column: gone.to_owned(), is_gone: true, instead, reasons });
        }
        let Map { feed: Feed::Column(name), part: None, true_where: None, .. } = self.map_of(field)? else {
            return None;
        };
        let (instead, reasons) = self.looks_wrong(field, self.source.column(name)?)?;
        Some(Doubt { field, column: name.clone(), is_gone: false, instead, reasons })
    }

    /// That a column names another unit than the heading that the mapping has.
    fn other_unit(&self, gone: &str, column: ColumnId) -> Option<String> {
        let word = |mention: &Option<Mention>| match mention {
            Some(Mention::Unit(unit)) => unit.symbol().to_owned(),
            Some(Mention::Unclear(word)) => word.clone(),
            None => "no unit".to_owned(),
        };
        let (was, is) = (Wordy::of(gone).mention, &self.headings.get(column)?.unit);
        (was != *is).then(|| {
            format!(
                "but its heading says {}, and \"{gone}\" says {}: write unit with it",
                word(is),
                word(&was)
            )
        })
    }

    /// Whether another column looks much more like a field than the one that feeds it, or that one holds
    /// what the field cannot take.
    fn looks_wrong(&self, field: FieldId, mine: ColumnId) -> Option<(Option<ColumnId>, Vec<String>)> {
        /// By how much another column must look more like the field.
        const MUCH: i32 = 250;
        let pair = self.pair(field, mine)?;
        let others = self.headings.ids().filter(|other| *other != mine);
        let best = others
            .filter_map(|other| Some((other, self.pair(field, other)?)))
            .max_by_key(|(_, pair)| pair.worth);
        let better = best.filter(|(_, other)| {
            other.is_strong(MUCH.unsigned_abs())
                && !other.contents.contradict()
                && other.worth - pair.worth.max(LEAST - 1) >= MUCH
        });
        let mut reasons = Vec::new();
        if pair.contents.contradict() {
            reasons.push(pair.contents.grounds.words(None));
        }
        if let Some((_, other)) = better {
            reasons.push(other.why.clone());
        }
        (!reasons.is_empty()).then(|| (better.map(|(other, _)| other), reasons))
    }
}

/// A heading as the export has it: nothing for a column without one, and without the number of one that comes
/// again.
fn heading_alone<'s>(column: &'s str, source: &Source) -> &'s str {
    if dusk_sources::has_no_heading(column) {
        return "";
    }
    let bare = column.strip_suffix(')').and_then(|rest| rest.rsplit_once(" ("));
    match bare {
        Some((bare, number)) if number.parse::<u32>().is_ok() && source.column(bare).is_some() => bare,
        _ => column,
    }
}
