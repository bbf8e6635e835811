//! The code list that a field takes: written into its cell, named by it, or called like it.

use std::collections::BTreeSet;

use super::claim::{DraftedList, Place, Setting};
use super::code_lists::{self, file_name};
use super::facts::{FieldFact, fold};
use super::fields::Resolver;
use super::listed::listed_codes;
use super::retired::Retired;
use super::vocabulary::{Words, leads};
use dusk_description::Code;

impl Resolver<'_> {
    /// A code list that is called like the field.
    pub(super) fn named_list(&self) -> Option<(String, bool)> {
        let names = [fold(&self.name), fold(&self.one.label), fold(&self.one.name)];
        let same =
            |list: &&DraftedList| names.contains(&fold(&list.title)) || names.contains(&fold(&list.name));
        self.drafted.lists.iter().find(same).map(|list| (list.name.clone(), false))
    }

    pub(super) fn codes(
        &mut self,
        inline: Option<(Vec<(String, String)>, Place)>,
        see: Option<(String, Place)>,
        several: bool,
    ) {
        let from = self.one.from.clone();
        let separator = self.fact(|fact| {
            if let FieldFact::Separator(separator) = fact { Some(separator.clone()) } else { None }
        });
        let several = several || separator.is_some() || self.told_several();
        let list = match (inline, see) {
            (Some((codes, place)), _) => Some((self.inline_list(codes, &place), place)),
            (None, Some((title, place))) => match self.list_called(&title) {
                Some(name) => Some((name, place)),
                None => {
                    self.ask(format!("its codes are said to be in \"{title}\", which is not in any of the materials; type = \"text\" was written"), &place);
                    None
                }
            },
            (None, None) => match self.named_list() {
                Some((name, _)) => Some((name, from.clone())),
                None => self.likely_list().map(|name| {
                    self.ask(
                        format!("which code list it takes is not said; {name} is likely, and was written"),
                        &from,
                    );
                    (name, from.clone())
                }),
            },
        };
        let Some((name, place)) = list else {
            if self.fact(|fact| matches!(fact, FieldFact::SeeList(_)).then_some(())).is_none() {
                let says = match &separator {
                    Some((separator, _)) => format!(
                        "takes several values separated by \"{separator}\", which needs a code list (codes = …); text was written"
                    ),
                    None => "takes a code, and no code list is called like it; text was written".into(),
                };
                self.ask(says, &from);
            }
            self.claims.set("type", Setting::Text("text".into()), &from);
            return;
        };
        self.claims.set("type", Setting::Text(if several { "codes" } else { "code" }.into()), &place);
        self.claims.set("codes", Setting::Text(format!("codes/{name}.csv")), &place);
        if several && let Some((separator, place)) = separator.or_else(|| self.told_separator()) {
            self.claims.set("separator", Setting::Text(separator), &place);
        }
    }

    /// A list of the codes in a cell; one that is there already is shared.
    fn inline_list(&mut self, codes: Vec<(String, String)>, from: &Place) -> String {
        let codes: Vec<Code> = codes
            .into_iter()
            .map(|(code, label)| {
                // What is said of its end may stand behind the label.
                let retired = Retired::said_by(&label);
                let bare =
                    label.rsplit_once('(').filter(|_| label.ends_with(')')).map(|(bare, _)| bare.trim());
                let label = match (&retired, bare) {
                    (Some(_), Some(bare)) => bare.to_owned(),
                    _ => label,
                };
                let until = retired.as_ref().and_then(|retired| retired.until.as_ref()?.parse().ok());
                let replaced_by = retired.and_then(|retired| retired.replaced_by).unwrap_or_default();
                Code { code, label, also: Vec::new(), within: String::new(), until, replaced_by }
            })
            .collect();
        let codes = self.labelled(codes);
        // A drop-down list has the codes only; another list may say what they mean.
        let bare: BTreeSet<&str> = codes.iter().map(|code| code.code.as_str()).collect();
        let has_labels = codes.iter().any(|code| !code.label.is_empty());
        let is_same = |list: &&DraftedList| {
            let known = || list.codes.iter().map(|code| code.code.as_str()).collect::<BTreeSet<&str>>();
            let same = |known: &Code, code: &Code| known.code == code.code && known.label == code.label;
            let all = list.codes.len() == codes.len()
                && list.codes.iter().zip(&codes).all(|(known, code)| same(known, code));
            all || !has_labels && known() == bare
        };
        if let Some(known) = self.drafted.lists.iter().find(is_same) {
            return known.name.clone();
        }
        let mut name = file_name(&self.name);
        while self.drafted.lists.iter().any(|list| list.name == name) {
            name.push_str("-here");
        }
        let title = if self.one.label.is_empty() { self.one.name.clone() } else { self.one.label.clone() };
        self.drafted.lists.push(DraftedList { name: name.clone(), title, codes, from: from.clone() });
        name
    }

    /// Codes without labels, with those that the words beside the field give, or a list that is called like it.
    fn labelled(&mut self, mut codes: Vec<Code>) -> Vec<Code> {
        if codes.iter().any(|code| !code.label.is_empty()) {
            return codes;
        }
        let pairs = self.one.description.iter().find_map(|(text, _)| {
            let behind = text.split_once(": ").map(|(_, behind)| behind);
            let pairs = [Some(text.as_str()), behind].into_iter().flatten().find_map(listed_codes)?;
            codes.iter().all(|code| pairs.iter().any(|(known, _)| *known == code.code)).then_some(pairs)
        });
        for (known, label) in pairs.into_iter().flatten() {
            if let Some(code) = codes.iter_mut().find(|code| code.code == known) {
                code.label = label;
            }
        }
        let Some((name, _)) = self.named_list() else { return codes };
        let Some(place) = self.drafted.lists.iter().position(|list| list.name == name) else { return codes };
        let list = self.drafted.lists.get(place).cloned();
        let Some(list) = list else { return codes };
        let met = codes.iter().filter(|code| list.codes.iter().any(|known| known.code == code.code)).count();
        if met * 2 <= codes.len() {
            return codes;
        }
        let differ: Vec<String> = list
            .codes
            .iter()
            .filter(|known| !codes.iter().any(|code| code.code == known.code))
            .map(|known| format!("\"{}\" is in the list alone", known.code))
            .chain(
                codes
                    .iter()
                    .filter(|code| !list.codes.iter().any(|known| known.code == code.code))
                    .map(|code| format!("\"{}\" is not in the list", code.code)),
            )
            .collect();
        if !differ.is_empty() {
            let says = format!(
                "its codes and those of the list at {} are not the same: {}; its own were written",
                list.from,
                differ.join(", ")
            );
            let from = self.one.from.clone();
            self.drafted.contradict(self.name.clone(), says, &from);
        }
        for code in &mut codes {
            if let Some(known) = list.codes.iter().find(|known| known.code == code.code) {
                *code = known.clone();
            }
        }
        // What is left of the list has no field of its own.
        if !self
            .drafted
            .fields
            .iter()
            .any(|field| field.claims.text("codes") == Some(&format!("codes/{name}.csv")))
        {
            self.drafted.lists.remove(place);
        }
        codes
    }

    /// Whether a text is the name of a list that was read, and of nothing else.
    pub(super) fn names_a_list(&self, text: &str) -> bool {
        // A sentence that has the name of a list in it says more than that.
        if text.contains([',', ';', '\n']) || text.split_whitespace().count() > 4 {
            return false;
        }
        let wanted = names_in(text);
        let of_sheet = |list: &DraftedList| list.from.at.split('!').next().map(fold);
        let is_one = |list: &DraftedList| {
            names_in(&list.title).iter().any(|name| wanted.contains(name))
                || of_sheet(list).is_some_and(|sheet| wanted.contains(&sheet))
        };
        self.drafted.lists.iter().any(is_one)
    }

    /// The list of this title: read already, or a sheet whose headings alone did not show one.
    fn list_called(&mut self, title: &str) -> Option<String> {
        let wanted = fold(title);
        let is_called = |name: &str| {
            let name = fold(name);
            name == wanted
                || wanted.len() > 3 && (name.contains(&wanted) || wanted.contains(&name) && name.len() > 3)
        };
        // Of several lists on one sheet the one that is called like the field.
        let on_sheet: Vec<&DraftedList> = self
            .drafted
            .lists
            .iter()
            .filter(|list| list.from.at.split('!').next().is_some_and(|sheet| fold(sheet) == wanted))
            .collect();
        if let Some(same) = on_sheet.iter().find(|list| fold(&list.title) == fold(&self.one.name)) {
            return Some(same.name.clone());
        }
        if on_sheet.len() > 1 {
            let mine = [words(&self.name), words(&self.one.label)].concat();
            let mut likely =
                on_sheet.iter().filter(|list| words(&list.title).iter().any(|word| mine.contains(word)));
            if let (Some(only), None) = (likely.next(), likely.next()) {
                return Some(only.name.clone());
            }
        }
        // "sheet Small lists, list Outcomes": what is said last tells most.
        let names = names_in(title);
        let called = |list: &DraftedList, name: &String| names_in(&list.title).contains(name);
        let sole = |name: &String| {
            let mut lists = self.drafted.lists.iter().filter(|list| called(list, name));
            lists.next().filter(|_| lists.next().is_none())
        };
        if let Some(list) = names.iter().rev().find_map(sole) {
            let (list, upper) = (list.name.clone(), self.upper_level(&list.title.clone()));
            return Some(upper.filter(|upper| self.takes_upper(upper, &list)).unwrap_or(list));
        }
        let exact = |list: &&DraftedList| fold(&list.title) == wanted || fold(&list.name) == wanted;
        if let Some(list) = self.drafted.lists.iter().find(exact) {
            return Some(list.name.clone());
        }
        for material in &mut *self.materials {
            let called = |name: &Option<String>, stem: &str| {
                name.as_ref().map_or_else(|| is_called(stem), |name| is_called(name))
            };
            let stem = material.stem();
            let Some(place) =
                material.sheets.iter().position(|sheet| !sheet.used && called(&sheet.cells.name, &stem))
            else {
                continue;
            };
            let sheet = material.sheets.get(place)?;
            let Some((block, says_codes)) = code_lists::plain(sheet) else { continue };
            let found = code_lists::read(material, sheet, &block, true, self.drafted);
            let whole = material.whole(sheet);
            if let Some(sheet) = material.sheets.get_mut(place) {
                sheet.used = true;
            }
            let name = found.first()?.list.name.clone();
            for list in found {
                self.drafted.took(
                    &whole,
                    format!("the code list \"{}\": {} codes", list.list.title, list.list.codes.len()),
                );
                if !says_codes {
                    let says = "its headings do not say which column holds the codes; the first was taken for codes, the second for labels";
                    self.drafted.ask(list.list.title.clone(), says, &list.list.from);
                }
                self.drafted.lists.push(list.list.clone());
                self.lists.push(list);
            }
            return Some(name);
        }
        let mut near =
            self.drafted.lists.iter().filter(|list| is_called(&list.title) || is_called(&list.name));
        let (name, called) = match (near.next(), near.next()) {
            (Some(list), None) => (list.name.clone(), list.title.clone()),
            _ => return None,
        };
        let says = format!(
            "its codes are said to be in \"{title}\"; the list \"{called}\" is likely, and was written"
        );
        let from = self.one.from.clone();
        self.ask(says, &from);
        Some(name)
    }

    /// The list whose codes divide those of the list of this title.
    fn upper_level(&self, title: &str) -> Option<String> {
        let found = self.lists.iter().find(|found| found.list.title == title)?;
        let upper = found.within.as_ref()?;
        self.drafted.lists.iter().find(|list| list.title == *upper).map(|list| list.name.clone())
    }

    /// Whether the field takes the codes of the upper of two levels: they fit its length and the others do not, or it is
    /// the first of the fields that take either.
    fn takes_upper(&self, upper: &str, lower: &str) -> bool {
        let longest = |name: &str| {
            let list = self.drafted.lists.iter().find(|list| list.name == name);
            let lengths = list.into_iter().flat_map(|list| &list.codes).map(|code| code.code.chars().count());
            lengths.max().unwrap_or(0) as u64
        };
        let length = self.fact(|fact| match fact {
            FieldFact::Length(length) | FieldFact::Digits(length) => Some(*length),
            _ => None,
        });
        match (length.map(|(length, _)| length), longest(upper), longest(lower)) {
            (Some(length), above, below) if above != below => length == above,
            _ => {
                let takes =
                    |file: &str| file == format!("codes/{upper}.csv") || file == format!("codes/{lower}.csv");
                !self.drafted.fields.iter().any(|field| field.claims.text("codes").is_some_and(takes))
            }
        }
    }

    /// The one list whose title shares a word with the field.
    fn likely_list(&self) -> Option<String> {
        let mine = [words(&self.name), words(&self.one.label)].concat();
        let shares = |list: &&DraftedList| words(&list.title).iter().any(|word| mine.contains(word));
        let mut likely = self.drafted.lists.iter().filter(shares);
        match (likely.next(), likely.next()) {
            (Some(only), None) => Some(only.name.clone()),
            _ => None,
        }
    }
}

/// What a text may name, folded: the whole, and its parts between commas, colons and brackets, without words like
/// "sheet" before them.
fn names_in(text: &str) -> Vec<String> {
    let bare = |part: &str| {
        let lower = part.trim().to_lowercase();
        let lead = leads(Words::See)
            .iter()
            .chain(leads(Words::Place))
            .find(|lead| lower.strip_prefix(lead.as_str()).is_some_and(|rest| rest.starts_with([' ', ':'])));
        fold(lead.map_or(lower.as_str(), |lead| lower.get(lead.len()..).unwrap_or_default()))
    };
    let parts = text.split([',', ':', '(', ')', ';', '\n']).flat_map(|part| [bare(part), fold(part)]);
    let mut names: Vec<String> = [fold(text)].into_iter().chain(parts).collect();
    names.retain(|name| !name.is_empty() && !name.bytes().all(|byte| byte.is_ascii_digit()));
    names.dedup();
    names
}

/// The words of a name or a title, in small letters and without the s of a plural.
fn words(text: &str) -> Vec<String> {
    text.split(|c: char| !c.is_alphanumeric())
        .map(|word| fold(word).trim_end_matches('s').to_owned())
        .filter(|word| word.len() > 2 && !matches!(word.as_str(), "code" | "list" | "the"))
        .collect()
}
