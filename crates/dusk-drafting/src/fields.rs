//! What the dictionary says of each field, made into the keys of `target.toml`.

use super::claim::{Claims, Drafted, DraftedField, DraftedRule, Place, Setting};
use super::code_lists::FoundList;
use super::conditions::{self, Condition};
use super::dictionary::Described;
use super::facts::{FieldFact, FieldKind, fold};
use super::headings::identifier;
use super::listed::pair_of_words;
use super::parents::tie_parents;
use super::remarks;
use super::samples::hold_example;
use super::together::{merged, of_one_table};
use super::{DraftOptions, Material};
use dusk_evidence::{FieldId, Id as _, Result};
use dusk_values::ValueType;

/// Makes fields of what is described, and ties the code lists to them.
pub(super) fn draft_fields(
    described: Vec<Described>,
    lists: Vec<FoundList>,
    materials: &mut [Material],
    options: &DraftOptions,
    drafted: &mut Drafted,
) -> Result<()> {
    let described = of_one_table(described, options)?;
    let mut lists = lists;
    for list in &lists {
        if let Some(known) = drafted.lists.iter().find(|known| known.name == list.list.name) {
            // Two materials may have the same list.
            if known.codes != list.list.codes {
                let says = format!("is there twice, here and at {}; the first was taken", known.from);
                drafted.contradict(list.list.title.clone(), says, &list.list.from);
            }
        } else {
            drafted.lists.push(list.list.clone());
        }
    }
    let described = merged(described, drafted);
    let mut seen: Vec<(String, Place)> = Vec::new();
    let mut pending: Vec<Condition> = Vec::new();
    let mut beside: Vec<(String, Vec<(String, Place)>)> = Vec::new();
    for one in described {
        let name = identifier(&one.name);
        if let Some((_, first)) = seen.iter().find(|(known, _)| fold(known) == fold(&name)) {
            let says = format!("the field is described twice; the first, at {first}, was taken");
            drafted.contradict(name, says, &one.from);
            continue;
        }
        seen.push((name.clone(), one.from.clone()));
        pending.extend(conditions::of(&name, &one));
        beside.push((name.clone(), one.description.clone()));
        let mut field =
            Resolver { name, one: &one, claims: Claims::default(), drafted, materials, lists: &mut lists }
                .resolve();
        if let Some(example) = &one.example {
            hold_example(&mut field, example, drafted);
        }
        drafted.fields.push(field);
    }
    tie_parents(&lists, drafted);
    conditions::ask(pending, drafted);
    remarks::ask(&beside, drafted);
    read_rules(drafted);
    Ok(())
}

/// One field on its way from words to keys.
pub(super) struct Resolver<'d> {
    pub(super) name: String,
    pub(super) one: &'d Described,
    pub(super) claims: Claims,
    pub(super) drafted: &'d mut Drafted,
    pub(super) materials: &'d mut [Material],
    pub(super) lists: &'d mut Vec<FoundList>,
}

impl Resolver<'_> {
    pub(super) fn ask(&mut self, says: impl Into<String>, from: &Place) {
        self.drafted.ask(self.name.clone(), says, from);
    }

    pub(super) fn claim(&mut self, key: &'static str, value: Setting, from: &Place) {
        if let Some(says) = self.claims.claim(key, value, from) {
            self.drafted.contradict(self.name.clone(), says, from);
        }
    }

    /// The first fact of a kind, and where it stands.
    pub(super) fn fact<T>(&self, pick: impl Fn(&FieldFact) -> Option<T>) -> Option<(T, Place)> {
        self.one.facts.iter().find_map(|(fact, place)| Some((pick(fact)?, place.clone())))
    }

    fn resolve(mut self) -> DraftedField {
        let from = self.one.from.clone();
        let one = self.one;
        self.names();
        self.kind();
        self.demands();
        self.ask_about_unread();
        if let Some((default, place)) = &one.default {
            let says = format!(
                "the dictionary has the default \"{default}\"; a mapping can put it where the source is blank (if_blank)"
            );
            self.drafted.point_out(self.name.clone(), says, place);
        }
        DraftedField { name: self.name, claims: self.claims, from }
    }

    /// What it is called, and what people say of it.
    fn names(&mut self) {
        let (one, from) = (self.one, self.one.from.clone());
        let own = (self.name != one.name).then_some(&one.name);
        if let Some(heading) = one.heading.as_ref().or(own) {
            self.claims.set("heading", Setting::Text(heading.clone()), &from);
        }
        if one.never_send {
            self.claims.set("never_send", Setting::Flag(true), &from);
        }
        if !one.label.is_empty() && one.label != self.name {
            let from = one.label_from.as_ref().unwrap_or(&from);
            self.claims.set("label", Setting::Text(one.label.clone()), from);
        }
        if !one.also.is_empty() {
            self.claims.set("also", Setting::Texts(one.also.clone()), &from);
        }
        let plain = |(text, _): &(String, Place)| text.split_whitespace().collect::<Vec<_>>().join(" ");
        let description: Vec<String> = one.description.iter().map(plain).collect();
        if let Some((_, place)) = one.description.first() {
            self.claims.set("description", Setting::Text(description.join(" ")), place);
        }
    }

    /// Asks about what no reading was found for.
    fn ask_about_unread(&mut self) {
        let says_type = |(fact, _): &(FieldFact, Place)| {
            !matches!(fact, FieldFact::Unread(_) | FieldFact::Required(_) | FieldFact::Key)
        };
        let so = if self.one.facts.iter().any(says_type) { "" } else { "; text was written" };
        for (fact, place) in &self.one.facts {
            if let FieldFact::Unread(text) = fact
                && !self.names_a_list(text)
            {
                self.ask(format!("\"{text}\" was not understood{so}; if it limits the field, write a key or a [[rule]] for it"), place);
            }
        }
    }

    fn kind(&mut self) {
        let said = self.fact(|fact| if let FieldFact::Kind(kind) = fact { Some(*kind) } else { None });
        let kinds: Vec<FieldKind> = self
            .one
            .facts
            .iter()
            .filter_map(|(fact, _)| if let FieldFact::Kind(kind) = fact { Some(*kind) } else { None })
            .collect();
        let inline =
            self.fact(|fact| if let FieldFact::Codes(codes) = fact { Some(codes.clone()) } else { None });
        let see =
            self.fact(|fact| if let FieldFact::SeeList(list) = fact { Some(list.clone()) } else { None });
        let see = see.or_else(|| {
            self.fact(|fact| match fact {
                FieldFact::Unread(text) if self.names_a_list(text) => Some(text.clone()),
                _ => None,
            })
        });
        let words = self.words_of_file();
        let format = self.fact(|fact| {
            if let FieldFact::Format(format, holds) = fact { Some((format.clone(), *holds)) } else { None }
        });
        self.ask_about_kinds(&kinds);
        let wants_codes = kinds.iter().any(|kind| matches!(kind, FieldKind::Code | FieldKind::Codes));
        if let Some(((yes, no), place)) = words {
            self.claim("type", Setting::Text("boolean".into()), &place);
            return self.claim("format", Setting::Text(format!("{yes}/{no}")), &place);
        }
        if kinds.contains(&FieldKind::Boolean)
            && let Some(([(yes, _), (no, _)], place)) =
                inline.as_ref().map(|(codes, place)| (codes.as_slice(), place))
        {
            let says = format!("\"{yes}\" was taken for true and \"{no}\" for false, since it comes first");
            self.ask(says, place);
            self.claim("type", Setting::Text("boolean".into()), place);
            return self.claim("format", Setting::Text(format!("{yes}/{no}")), place);
        }
        if inline.is_some() || see.is_some() || wants_codes {
            return self.codes(inline, see, kinds.contains(&FieldKind::Codes));
        }
        let takes_format = matches!(
            said,
            None | Some((FieldKind::Date | FieldKind::DateTime | FieldKind::Time | FieldKind::Text, _))
        );
        if let Some(((format, holds), place)) = format.filter(|_| takes_format) {
            let as_text = said.filter(|(kind, _)| *kind == FieldKind::Text).map(|(_, from)| from);
            return self.formatted_days((format, holds), &place, as_text);
        }
        match said {
            Some((FieldKind::Integer | FieldKind::Number, place)) if self.keeps_zeros() => {
                self.figures_as_text(&place)
            }
            Some((FieldKind::Integer | FieldKind::Decimal | FieldKind::Number, _))
                if self.digits().is_some() =>
            {
                self.text()
            }
            Some((kind @ (FieldKind::Integer | FieldKind::Decimal | FieldKind::Number), place)) => {
                self.number(kind, &place)
            }
            Some((kind @ (FieldKind::Date | FieldKind::DateTime | FieldKind::Time), place)) => {
                self.claim("type", Setting::Text(kind.word().into()), &place);
                let form = self.told_form();
                let holds = match kind {
                    FieldKind::Date => ValueType::Date,
                    FieldKind::Time => ValueType::Time,
                    _ => ValueType::DateTime,
                };
                if let Some(((form, _), place)) = form.filter(|((_, told), _)| *told == holds) {
                    self.claim("format", Setting::Text(form), &place);
                }
                self.days();
            }
            Some((FieldKind::Boolean, place)) => self.claim("type", Setting::Text("boolean".into()), &place),
            // A text for which there is a list that is called like it is a code.
            Some((FieldKind::Text, place)) if self.named_list().is_some() => {
                self.codes(None, None, false);
                let says = "is a text by its type, and a code list is called like it, which was taken";
                self.drafted.point_out(self.name.clone(), says, &place);
            }
            Some(_) => self.text(),
            None => self.without_type(),
        }
    }

    /// The words for true and false that the file will hold: of two pairs the one that has the length, or that stands nearer
    /// to the values than the type does.
    fn words_of_file(&mut self) -> Option<((String, String), Place)> {
        let pairs: Vec<((String, String), Place)> = self
            .one
            .facts
            .iter()
            .filter_map(|(fact, place)| match fact {
                FieldFact::Words(yes, no) => Some(((yes.clone(), no.clone()), place.clone())),
                _ => None,
            })
            .collect();
        let mut pairs = pairs;
        // A remark may show the letters: "J oder N".
        if !pairs.is_empty() {
            pairs.extend(self.told(pair_of_words));
        }
        let length =
            self.fact(|fact| if let FieldFact::Length(length) = fact { Some(*length) } else { None });
        let longest = |(yes, no): &(String, String)| yes.chars().count().max(no.chars().count()) as u64;
        let fits = |pair: &&((String, String), Place)| {
            length.as_ref().is_none_or(|(length, _)| longest(&pair.0) <= *length)
        };
        let chosen = pairs.iter().rev().find(fits).or_else(|| pairs.first())?.clone();
        for (other, place) in pairs.iter().filter(|(other, _)| *other != chosen.0) {
            let says = format!(
                "its words are {}/{} by one cell and {}/{} by another; the latter were written, as what the file will hold",
                other.0, other.1, chosen.0.0, chosen.0.1
            );
            self.drafted.point_out(self.name.clone(), says, place);
        }
        Some(chosen)
    }

    /// Days or times whose format is said; `as_text` is where their type is said to be text.
    fn formatted_days(
        &mut self,
        (format, holds): (String, ValueType),
        place: &Place,
        as_text: Option<Place>,
    ) {
        let word = match holds {
            ValueType::DateTime => "datetime",
            ValueType::Time => "time",
            _ => "date",
        };
        self.claim("type", Setting::Text(word.into()), place);
        self.claim("format", Setting::Text(format), place);
        if let Some(from) = as_text {
            self.ask(format!("is a text by its type and a {word} by its format; {word} was written"), &from);
        }
        for (fact, place) in &self.one.facts {
            if let FieldFact::Format(other, _) = fact {
                self.claim("format", Setting::Text(other.clone()), place);
            }
        }
        self.days();
    }

    /// Two types that do not go together are a question. A code may be called a text or a number, a number
    /// may be whole, and several codes are codes.
    fn ask_about_kinds(&mut self, kinds: &[FieldKind]) {
        let goes_with = |one: FieldKind, other: FieldKind| {
            use FieldKind::{Boolean, Code, Codes, Date, DateTime, Decimal, Integer, Number, Text, Time};
            one == other
                || matches!(
                    (one, other),
                    (Text, _)
                        | (Integer | Number, Boolean | Code | Codes)
                        | (Number, Integer | Decimal)
                        | (Code, Codes | Boolean)
                )
                || matches!((one, other), (Date, DateTime) | (Time, DateTime))
        };
        let clash = kinds.iter().enumerate().find_map(|(place, one)| {
            let other = kinds
                .get(place + 1..)?
                .iter()
                .find(|other| !goes_with(*one, **other) && !goes_with(**other, *one))?;
            Some((*one, *other))
        });
        if let Some((one, other)) = clash {
            let says = format!(
                "is of type {} by one cell and of type {} by another; look at both",
                one.word(),
                other.word()
            );
            let from = self.one.from.clone();
            self.drafted.contradict(self.name.clone(), says, &from);
        }
    }

    fn without_type(&mut self) {
        let limit = self.fact(|fact| {
            matches!(
                fact,
                FieldFact::Min(_) | FieldFact::Max(_) | FieldFact::Decimals(_) | FieldFact::Precision(..)
            )
            .then_some(())
        });
        match limit {
            Some(((), place)) => self.number(FieldKind::Number, &place),
            None => match self.named_list() {
                Some(place) => self.codes(None, None, place.1),
                None => self.text(),
            },
        }
    }

    pub(super) fn digits(&self) -> Option<(u64, Place)> {
        self.fact(|fact| if let FieldFact::Digits(digits) = fact { Some(*digits) } else { None })
    }

    fn text(&mut self) {
        let said = self.fact(|fact| matches!(fact, FieldFact::Kind(_)).then_some(()));
        let from = said.map_or_else(|| self.one.from.clone(), |(_, place)| place);
        self.claim("type", Setting::Text("text".into()), &from);
        let is_said = self.one.facts.iter().any(|(fact, _)| {
            matches!(
                fact,
                FieldFact::Kind(_) | FieldFact::Length(_) | FieldFact::Digits(_) | FieldFact::Pattern(..)
            )
        });
        if !is_said && !self.one.facts.iter().any(|(fact, _)| matches!(fact, FieldFact::Unread(_))) {
            self.ask("the type is not said; text was written", &from);
        }
        for (fact, place) in &self.one.facts {
            match fact {
                FieldFact::Digits(digits) => self.claim("digits", Setting::Whole(*digits), place),
                FieldFact::Length(length) => self.claim("max_length", Setting::Whole(*length), place),
                FieldFact::Pattern(pattern, sure) => {
                    self.claim("pattern", Setting::Text(pattern.clone()), place);
                    if !sure {
                        let says =
                            format!("its format was read as a mask, which makes the pattern {pattern}");
                        self.drafted.point_out(self.name.clone(), says, place);
                    }
                }
                FieldFact::Min(_) | FieldFact::Max(_) => {
                    self.ask("a text has a smallest or a largest number, which was left out", place)
                }
                _ => {}
            }
        }
        if self.claims.get("digits").is_none()
            && self.claims.get("pattern").is_none()
            && let Some((digits, place)) = self.told_digits()
        {
            match self.claims.get("max_length") {
                Some(Setting::Whole(length)) if *length != digits => {
                    let says =
                        format!("may have {length} characters, and the words beside it say {digits} digits");
                    self.ask(&says, &place);
                }
                _ => self.claim("digits", Setting::Whole(digits), &place),
            }
        }
        // As many digits as characters says the same twice.
        if let (Some(Setting::Whole(digits)), Some(Setting::Whole(length))) =
            (self.claims.get("digits"), self.claims.get("max_length"))
            && digits == length
        {
            self.claims.unset("max_length");
        }
    }

    fn days(&mut self) {
        for (fact, place) in &self.one.facts {
            match fact {
                FieldFact::NotBefore(day) => self.claim("not_before", Setting::Text(day.clone()), place),
                FieldFact::NotAfter(day) => self.claim("not_after", Setting::Text(day.clone()), place),
                _ => {}
            }
        }
        for (fact, place) in self.told_days() {
            match fact {
                FieldFact::NotBefore(day) => self.claim("not_before", Setting::Text(day), &place),
                FieldFact::NotAfter(day) => self.claim("not_after", Setting::Text(day), &place),
                _ => {}
            }
        }
    }

    /// A demand on the field's own value: a limit where it can be one, and otherwise a rule.
    pub(super) fn take_rule(&mut self, rule: &str, place: &Place) {
        if self.take_limit(rule, place) {
            return;
        }
        let must = rule.replace('_', &self.name);
        let says = format!("{} must be {}", self.name, in_words(rule));
        if !self.drafted.rules.iter().any(|known| known.must == must) {
            self.drafted.rules.push(DraftedRule { must, says, from: place.clone() });
        }
    }

    fn demands(&mut self) {
        for (fact, place) in &self.one.facts {
            match fact {
                FieldFact::Required(true) => self.claim("required", Setting::Flag(true), place),
                FieldFact::Required(false) if self.claims.get("required").is_some() => {
                    self.ask(
                        "must be filled by one cell, and need not by another; required was written",
                        place,
                    );
                }
                FieldFact::Key => self.claim("key", Setting::Flag(true), place),
                FieldFact::Rule(rule) => self.take_rule(rule, place),
                _ => {}
            }
        }
        if let Some((rule, place)) = &self.one.rule {
            let must = rule.replace('\n', " ");
            let says = self
                .one
                .description
                .first()
                .map(|(text, _)| text.clone())
                .unwrap_or_else(|| format!("it must be that {must}"));
            self.drafted.rules.push(DraftedRule { must, says, from: place.clone() });
        }
    }
}

/// The comparison of a rule about one field: "more than 0".
fn in_words(rule: &str) -> String {
    let rest = rule.trim_start_matches('_').trim();
    match (rest.strip_prefix('>'), rest.strip_prefix('<')) {
        (Some(limit), _) => format!("more than {}", limit.trim()),
        (None, Some(limit)) => format!("less than {}", limit.trim()),
        (None, None) => rest.to_owned(),
    }
}

/// Rules that the rule language reads stay; the others are questions.
fn read_rules(drafted: &mut Drafted) {
    let types: Vec<(String, ValueType)> = drafted
        .fields
        .iter()
        .map(|field| (field.name.clone(), super::write::value_type(&field.claims)))
        .collect();
    let known = |name: &str| {
        let place = types.iter().position(|(known, _)| known == name)?;
        types.get(place).map(|(_, kind)| (FieldId::new(place), *kind))
    };
    for rule in std::mem::take(&mut drafted.rules) {
        match dusk_description::Rule::parse(dusk_description::RuleText::must(&rule.must), &known) {
            Ok(_) => drafted.rules.push(rule),
            Err(_) => drafted.ask(
                "rules",
                format!(
                    "\"{}\" could not be read as a rule; if it limits the records, write it as a [[rule]]",
                    rule.must
                ),
                &rule.from,
            ),
        }
    }
}
