//! Which unit numbers are in: what headings, the mapping and the description say of it, weighed at every run.

use super::unit_columns::UnitColumn;
use crate::Job;
use dusk_conforming::Percents;
use dusk_description::{Field, FieldType, NumberType};
use dusk_evidence::{
    Claim, ColumnClaim, Evidence, Example, FieldEvidence, FieldId, Reading, Result, Undecided, Unproven,
    Verdict,
};
use dusk_files::toml_text;
use dusk_mapping::{Feed, Map};
use dusk_values::{Mention, Unit, UnitConversion, Wordy};

/// What speaks of the unit of a field's numbers.
struct Witnesses<'j> {
    field: &'j Field,
    /// The headings that feed it.
    headings: Vec<&'j str>,
    /// The unit that the mapping names.
    mapped: Option<&'static Unit>,
    /// The unit that the target wants, and what says so.
    wanted: Option<(&'static Unit, &'static str)>,
    /// Whether the description says that exports come in it.
    exports_in_unit: bool,
    /// The column that names the unit of each number, as the mapping says.
    in_column: Option<&'j str>,
    /// A column beside it that names units, of which the mapping says nothing.
    beside: Option<UnitColumn>,
}

impl<'j> Job<'j> {
    /// The evidence for the unit of every field of numbers that columns feed.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub(crate) fn units(&'j self) -> Result<(Vec<FieldEvidence>, Vec<Undecided>)> {
        let mut evidence = Vec::new();
        let mut open = Vec::new();
        for map in &self.mapping.maps {
            let witnesses = self.target.fields.get(map.field).and_then(|field| Witnesses::of(field, map));
            let Some(mut witnesses) = witnesses else { continue };
            if let Some(unit) = witnesses.assumed() {
                witnesses.beside = self.unit_column(map, unit)?;
            }
            let (found, why) = witnesses.weigh();
            if let Some(why) = why {
                open.push(self.open_unit(map.field, &witnesses, why, found.clone()));
            }
            // What the mapping says and nothing contradicts is in the mapping.
            if !matches!(found.verdict, Verdict::NotNeeded | Verdict::Named(_)) {
                let (date_order, decimal_mark) = (None, None);
                evidence.push(FieldEvidence { field: map.field, evidence: found, date_order, decimal_mark });
            }
        }
        Ok((evidence, open))
    }

    /// Asks about percents that would all be shares of one as well.
    pub(crate) fn shares(&self, field: FieldId, percents: Percents) -> Option<Undecided> {
        let map = self.mapping.maps.iter().find(|map| map.field == field)?;
        let own = Witnesses::of(self.target.fields.get(field)?, map)?;
        let verdict = Verdict::Undecided(vec!["percents".into(), "shares of one".into()]);
        let mut evidence = own.evidence(verdict);
        evidence.readings.push(Reading {
            supports: percents.shares,
            counted: "values lie between 0 and 1, and none is more than 1".into(),
            ..Reading::default()
        });
        let choice =
            "unit = \"1\"   # for shares of one; or small_percents = \"keep\", if 0.5 is half a percent";
        let head = ["[[map]]".to_owned(), format!("field = \"{}\"", own.field.name)];
        evidence.settle = head.into_iter().chain([choice.to_owned()]).collect();
        Some(self.open_unit(field, &own, Unproven::Shares, evidence))
    }

    fn open_unit(&self, field: FieldId, own: &Witnesses<'_>, why: Unproven, evidence: Evidence) -> Undecided {
        Undecided {
            field,
            column: own.headings.join("\", \""),
            sources: self.source_names(),
            mapping: self.mapping.path.display().to_string(),
            why,
            evidence,
        }
    }
}

impl<'j> Witnesses<'j> {
    /// Those of a field of numbers that columns feed; nothing for others.
    fn of(field: &'j Field, map: &'j Map) -> Option<Self> {
        let FieldType::Number(NumberType { unit, exports_in_unit, .. }) = &field.kind else { return None };
        let headings = match &map.feed {
            Feed::LookUp(look_up) => vec![look_up.take.as_str()],
            feed => feed.columns(),
        };
        if headings.is_empty() {
            return None;
        }
        Some(Self {
            field,
            headings,
            mapped: map.number.unit,
            wanted: unit.map(|unit| (unit, "its description")).or_else(|| field.named_unit()),
            exports_in_unit: *exports_in_unit,
            in_column: match &map.feed {
                Feed::InUnits(_, unit) => Some(unit),
                _ => None,
            },
            beside: None,
        })
    }

    /// What they come to, and what is open where they do not agree.
    fn weigh(&self) -> (Evidence, Option<Unproven>) {
        if let Some(column) = self.in_column {
            return (self.evidence(Verdict::Named(format!("the one in \"{column}\""))), None);
        }
        let mut mentions = self.mentions();
        if let Some(beside) = &self.beside {
            match beside.only().filter(|only| self.assumed() == Some(*only)) {
                Some(only) => mentions.push((&beside.heading, Mention::Unit(only))),
                None => return self.other_units_beside(beside),
            }
        }
        let units = units_in(&mentions);
        let is_unclear = mentions.iter().any(|(_, mention)| matches!(mention, Mention::Unclear(_)));
        let wanted = self.wanted.map(|(unit, _)| unit);
        let open = match (units.as_slice(), self.mapped, wanted) {
            ([], None, None) if !is_unclear => return (self.evidence(Verdict::NotNeeded), None),
            // What the mapping says of a heading that is not clear is a decision.
            ([], Some(mapped), _) => {
                return (self.said(Verdict::Named(mapped.symbol().into()), &mentions), None);
            }
            ([one], Some(mapped), _) if *one == mapped => {
                return (self.said(Verdict::Named(mapped.symbol().into()), &mentions), None);
            }
            (_, Some(_), _) => Unproven::OtherUnit,
            // One of several columns that names its unit proves nothing of the others.
            ([one], None, Some(wanted)) if *one == wanted && mentions.len() < self.headings.len() => {
                Unproven::NoUnit
            }
            ([one], None, Some(wanted)) if *one == wanted && !is_unclear => {
                return (self.said(Verdict::Proven(wanted.symbol().into()), &mentions), None);
            }
            ([], None, _) if is_unclear => Unproven::UnclearUnit,
            ([], None, Some(wanted)) if self.exports_in_unit => {
                return (self.said(Verdict::Named(wanted.symbol().into()), &mentions), None);
            }
            ([], None, _) => Unproven::NoUnit,
            (_, None, _) => Unproven::OwnUnit,
        };
        let verdict = self.open_verdict(open, &units);
        let mut evidence = self.said(verdict, &mentions);
        evidence.settle = self.settle(&units, &mentions);
        (evidence, Some(open))
    }

    /// What the headings say.
    fn mentions(&self) -> Vec<(&str, Mention)> {
        let wanted = self.mapped.or(self.wanted.map(|(unit, _)| unit));
        let mention = |heading: &&'j str| Some((*heading, Wordy::of(heading).mention_for(wanted)?));
        self.headings.iter().filter_map(mention).collect()
    }

    /// What is open, with the units that it may be.
    fn open_verdict(&self, open: Unproven, units: &[&'static Unit]) -> Verdict {
        if matches!(open, Unproven::OtherUnit | Unproven::OwnUnit) {
            return Verdict::Contradicted(self.contradiction(units));
        }
        let wanted = self.wanted.map(|(unit, _)| unit);
        let last = wanted.or(self.mapped).or(units.last().copied());
        Verdict::Undecided(vec![last.map_or("no unit", Unit::symbol).to_owned(), "another".into()])
    }

    /// The unit that the numbers would be taken to be in.
    fn assumed(&self) -> Option<&'static Unit> {
        let wanted = self.wanted.map(|(unit, _)| unit);
        let of_heading = || match Wordy::of(self.headings.first()?).mention_for(wanted) {
            Some(Mention::Unit(unit)) => Some(unit),
            _ => None,
        };
        self.mapped.or_else(of_heading).or(wanted)
    }

    /// A column beside the numbers names other units, in some rows or in all.
    fn other_units_beside(&self, beside: &UnitColumn) -> (Evidence, Option<Unproven>) {
        let symbols: Vec<&str> = beside.units.iter().map(|met| met.unit.symbol()).collect();
        let says = format!("\"{}\" says {}", beside.heading, symbols.join(", "));
        let assumed = self.assumed().map(|unit| format!("{} is taken for granted", unit.symbol()));
        let verdict = Verdict::Contradicted([says].into_iter().chain(assumed).collect());
        let mut evidence = self.evidence(verdict);
        evidence.readings.extend(beside.readings());
        let (unit_in, leave_out) = (toml_text(&beside.heading), toml_text(&beside.heading));
        evidence.settle = vec![
            "[[map]]".into(),
            format!("field = \"{}\"", self.field.name),
            format!("from  = \"{}\"", self.headings.join("")),
            format!(
                "unit_in = {unit_in}   # without unit; if it is of something else: columns = [{leave_out}] under [leave_out]"
            ),
        ];
        (evidence, Some(Unproven::UnitsBeside))
    }

    fn evidence(&self, verdict: Verdict) -> Evidence {
        Evidence::new(Claim::Column(ColumnClaim::Unit, self.headings.join("\", \"")), verdict)
    }

    /// The evidence with what each witness says.
    fn said(&self, verdict: Verdict, mentions: &[(&str, Mention)]) -> Evidence {
        let mut evidence = self.evidence(verdict);
        let beside = self.beside.as_ref();
        let is_beside = |heading: &str| beside.is_some_and(|beside| beside.heading == heading);
        for (heading, mention) in mentions.iter().filter(|(heading, _)| !is_beside(heading)) {
            let (name, says) = match mention {
                Mention::Unit(unit) => (unit.symbol(), unit.name().to_owned()),
                Mention::Unclear(word) => (word.as_str(), said_of(word)),
            };
            evidence.readings.push(witness(name, "the heading", heading, &says));
        }
        if let Some(unit) = self.mapped {
            let line = format!("unit = {}", unit.symbol());
            evidence.readings.push(witness(unit.symbol(), "the mapping", &line, unit.name()));
        }
        if let Some((unit, what)) = self.wanted {
            let place = format!("the field, by {what},");
            evidence.readings.push(witness(unit.symbol(), &place, &self.field.name, unit.name()));
        }
        evidence.readings.extend(beside.into_iter().flat_map(UnitColumn::readings));
        evidence
    }

    fn contradiction(&self, units: &[&'static Unit]) -> Vec<String> {
        let heading = units.iter().map(|unit| format!("the heading says {}", unit.symbol()));
        let mapped = self.mapped.map(|unit| format!("the mapping says {}", unit.symbol()));
        let wanted = self.wanted.map(|(unit, _)| format!("the target wants {}", unit.symbol()));
        let wanted = wanted.or_else(|| Some("the target names no unit".to_owned()));
        heading.chain(mapped).chain(wanted).collect()
    }

    /// The lines that settle it.
    fn settle(&self, units: &[&'static Unit], mentions: &[(&str, Mention)]) -> Vec<String> {
        let field = match self.field.kind {
            FieldType::Number(NumberType { unit, .. }) => unit,
            _ => None,
        };
        let wanted = match (field, self.wanted) {
            (Some(wanted), _) => wanted,
            // A field that is called after its unit takes that one as a confirmation.
            (None, Some((named, _))) if units.is_empty() && mentions.is_empty() => named,
            _ => {
                let symbol = units.first().map_or("…", |unit| unit.symbol());
                let says = format!(
                    "unit = \"{symbol}\"   # for {} in target.toml, if it takes that",
                    self.field.name
                );
                return vec![says];
            }
        };
        let head = ["[[map]]".to_owned(), format!("field = \"{}\"", self.field.name)];
        let from = self.headings.first().map(|heading| format!("from  = \"{heading}\""));
        let line = match units {
            [one] if UnitConversion::new(one, wanted).is_ok() => format!("unit = \"{}\"", one.symbol()),
            [] if mentions.is_empty() => {
                format!("unit = \"{}\"   # or the one that they are in", wanted.symbol())
            }
            [] => {
                let hint = mentions.iter().find_map(|(_, mention)| match mention {
                    Mention::Unclear(word) => Unit::named(word).err(),
                    Mention::Unit(_) => None,
                });
                let hint = hint.map_or_else(String::new, |error| format!("; {}", error.hint));
                format!("unit = …   # the one that they are in{hint}")
            }
            _ => "unit = …   # the one that they are in".to_owned(),
        };
        head.into_iter().chain(from).chain([line]).collect()
    }
}

/// What one witness says.
fn witness(name: &str, place: &str, value: &str, reads: &str) -> Reading {
    let example = Example { place: place.into(), value: value.into(), reads: reads.into() };
    Reading { name: name.into(), examples: vec![example], ..Reading::default() }
}

/// What is to be said of a word that is no one unit.
fn said_of(word: &str) -> String {
    match Unit::named(word) {
        Err(error) => error.says,
        Ok(unit) => unit.name().to_owned(),
    }
}

/// The units that are mentioned, each once.
fn units_in(mentions: &[(&str, Mention)]) -> Vec<&'static Unit> {
    let mut units: Vec<&'static Unit> = Vec::new();
    for (_, mention) in mentions {
        if let Mention::Unit(unit) = mention
            && !units.contains(unit)
        {
            units.push(unit);
        }
    }
    units
}
