//! Every column weighed for every field: what speaks for a pair, what comes near to it, and what an
//! earlier mapping says otherwise.

use super::contents::{Contents, Sample, samples};
use super::names::{Name, Weights, shared_start};
use super::{Doubt, LEAST, MARGIN, dependent};
use dusk_description::{Field, FieldType, Target};
use dusk_evidence::{ById, ColumnId, FieldId, Result};
use dusk_mapping::{Feed, Map, Mapping, NUMBER_MARK};
use dusk_sources::Source;
use dusk_values::{Mention, Wordy};

/// Two names that leave little doubt.
pub(super) const PLAIN_NAME: u32 = 780;

/// What a pair is worth whose codes are proven.
const PROVEN: i32 = 1_200;

/// A column and a field, and what speaks for them.
#[derive(Debug, Clone, Default)]
pub(super) struct Pair {
    pub(super) name: u32,
    /// The heading has a word that the field's name has not.
    says_more: bool,
    /// The values have to be of a certain kind, and there are some.
    is_typed: bool,
    /// Its codes hold inside those of another column.
    pub(super) is_proven: bool,
    pub(super) why: String,
    pub(super) contents: Contents,
    pub(super) worth: i32,
}

/// All pairs of a source's columns and a target's fields.
pub(super) struct Weighed<'w> {
    source: &'w Source,
    target: &'w Target,
    mapping: Option<&'w Mapping>,
    /// The headings, in the order of the source.
    pub(super) headings: ById<ColumnId, Name>,
    /// Everything that the fields are called.
    pub(super) names: ById<FieldId, Vec<Name>>,
    /// What the columns hold.
    pub(super) samples: ById<ColumnId, Sample>,
    /// For each field, a pair for each column.
    pairs: ById<FieldId, ById<ColumnId, Pair>>,
    open_fields: ById<FieldId, bool>,
    free_columns: ById<ColumnId, bool>,
}

impl<'w> Weighed<'w> {
    /// Weighs every column for every field. What `mapping` says already is weighed as well, so that a
    /// doubt about it can be said, but is not open.
    pub(super) fn of(source: &'w Source, target: &'w Target, mapping: Option<&'w Mapping>) -> Result<Self> {
        let samples = samples(source)?;
        let headings: ById<ColumnId, Name> = source.columns.iter().map(|column| Name::of(column)).collect();
        let fields: Vec<Vec<Name>> = target.fields.iter().map(names_of).collect();
        let mut weights = Weights::default();
        fields.iter().for_each(|names| weights.field(names.iter()));
        headings.iter().for_each(|name| weights.column(name));
        // Both ways: the target may begin its names alike.
        let written: Vec<&str> = source.columns.iter().map(String::as_str).collect();
        let start = shared_start(&written);
        let without_start = |heading: &&str| heading.strip_prefix(start).map(Name::of);
        let bare: Vec<Option<Name>> = match start {
            "" => vec![None; written.len()],
            _ => written.iter().map(without_start).collect(),
        };
        let weigh = |(field, names): (&Field, &Vec<Name>)| -> ById<ColumnId, Pair> {
            let columns = headings.iter().zip(&bare).zip(&samples);
            let pairs = columns.map(|((name, bare), sample)| {
                let whole = pair((name, sample), (field, names), &weights);
                match bare.as_ref().filter(|_| whole.name < PLAIN_NAME) {
                    Some(bare) => {
                        let bare = pair((bare, sample), (field, names), &weights);
                        if bare.name > whole.name { bare.asked() } else { whole }
                    }
                    None => whole,
                }
            });
            pairs.collect()
        };
        let mut pairs: ById<FieldId, ById<ColumnId, Pair>> =
            target.fields.iter().zip(&fields).map(weigh).collect();
        let may_feed = |field, column| {
            let pair = pairs.get(field).and_then(|row: &ById<ColumnId, Pair>| row.get(column));
            pair.is_some_and(|pair| pair.contents.are_telling())
        };
        let proven = dependent::proven(source, target, &may_feed)?;
        for (field, column) in proven {
            if let Some(pair) = pairs.get_mut(field).and_then(|row| row.get_mut(column)) {
                pair.is_proven = true;
                pair.worth = pair.worth.max(PROVEN);
            }
        }
        let used = mapping.map(Mapping::wanted).unwrap_or_default();
        let left_out = mapping.map(|mapping| mapping.leave_out.as_slice()).unwrap_or_default();
        let is_free = |name: &String| {
            !used.contains(name) && !left_out.contains(name) && !dusk_sources::has_no_heading(name)
        };
        let free_columns = source.columns.iter().map(is_free).collect();
        let mut weighed = Self {
            source,
            target,
            mapping,
            headings,
            names: fields.into_iter().collect(),
            samples: samples.into_iter().collect(),
            pairs,
            open_fields: ById::default(),
            free_columns,
        };
        let is_open = |(place, field): (FieldId, &Field)| {
            let of_target = field.never_send || field.fixed.is_some() || field.made_of.is_some();
            !of_target && (weighed.map_of(place).is_none() || weighed.gone_from(place).is_some())
        };
        weighed.open_fields = target.fields.with_ids().map(is_open).collect();
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

    /// What a pair is worth that is open: no column for a field that has one, no column twice.
    pub(super) fn worth(&self, field: FieldId, column: ColumnId) -> i32 {
        match self.pair(field, column) {
            Some(pair)
                if self.open_fields.get(field) == Some(&true)
                    && self.free_columns.get(column) == Some(&true) =>
            {
                pair.worth
            }
            _ => 0,
        }
    }

    /// What comes too near to a pair to be sure of it, in words.
    pub(super) fn rival(&self, field: FieldId, column: ColumnId) -> Option<String> {
        let fields = self.target.fields.ids().filter(|other| *other != field);
        let columns = self.headings.ids().filter(|other| *other != column);
        let field_rival = fields.map(|other| (self.worth(other, column), other)).max();
        let column_rival = columns.map(|other| (self.worth(field, other), other)).max();
        let is_near = |worth: i32| self.worth(field, column) - worth < MARGIN;
        let field_rival = field_rival.filter(|(worth, _)| is_near(*worth));
        match (field_rival, column_rival.filter(|(worth, _)| is_near(*worth))) {
            (None, None) => None,
            (Some((worth, other)), column) if column.is_none_or(|(nearer, _)| worth >= nearer) => {
                let name = self.target.fields.get(other).map_or("", |field| field.name.as_str());
                Some(format!("the column could be for {name} as well"))
            }
            (_, column) => {
                let name = column.map_or("", |(_, other)| self.source.heading(other));
                Some(format!("the column \"{name}\" could be it as well"))
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
            other.is_strong()
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

impl Pair {
    /// A pair of a name of which a part was taken away: that is sure by what the column holds alone.
    fn asked(self) -> Self {
        Self { name: self.name.min(PLAIN_NAME - 1), ..self }
    }

    /// Whether name and contents together are enough, if nothing else comes near.
    pub(super) fn is_strong(&self) -> bool {
        let points = self.contents.points;
        // Of dates, numbers and words for true and false the values can be asked as well.
        let kind_fits = points > 0 || !self.is_typed;
        match self.name {
            990.. => points > -200,
            // "Remarks date" is not the remarks, unless the values say so.
            _ if self.says_more && points < 60 => false,
            PLAIN_NAME.. => points >= 0 && kind_fits,
            640.. => points >= 150,
            560.. => points >= 250,
            _ => false,
        }
    }
}

/// Everything a field is called.
fn names_of(field: &Field) -> Vec<Name> {
    let heading = field.heading.iter();
    let mut names: Vec<Name> = Vec::new();
    for name in [&field.name].into_iter().chain(heading).chain(&field.label).chain(&field.also) {
        let name = Name::of(name);
        if !names.contains(&name) {
            names.push(name);
        }
    }
    names
}

fn pair((column, sample): (&Name, &Sample), (field, names): (&Field, &[Name]), weights: &Weights) -> Pair {
    let mut best = (0, "", 0);
    for (place, name) in names.iter().enumerate() {
        let (score, why) = weights.alike(column, name);
        if score > best.0 {
            best = (score, why, place);
        }
    }
    let (name, why, place) = best;
    let is_label = |name: &Name| field.label.as_ref().is_some_and(|label| name.written == *label);
    let shown = match (name, place, names.get(place)) {
        (0, ..) => String::new(),
        (_, 0, _) | (_, _, None) => why.to_owned(),
        (_, _, Some(other)) => {
            let called = if is_label(other) { "its label" } else { "another name of it" };
            format!("{why} as \"{}\", {called}", other.written)
        }
    };
    let contents = Contents::judge(sample, field);
    let worth = i32::try_from(name).unwrap_or(0) + contents.points;
    // What only holds the right thing is proposed where that is something of its own.
    let telling = contents.points >= 250;
    let worth = if name >= 400 || telling { worth } else { 0 };
    let worth = if telling && name < 400 { worth.max(LEAST) } else { worth };
    let is_typed = sample.filled > 0
        && matches!(field.kind, FieldType::Number(_) | FieldType::Date(_) | FieldType::Boolean(_));
    let says_more = names.get(place).is_some_and(|name| Weights::says_more(column, name));
    Pair {
        name,
        says_more,
        is_typed,
        is_proven: false,
        why: shown,
        contents,
        worth: if worth >= LEAST { worth } else { 0 },
    }
}
