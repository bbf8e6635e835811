//! `dusk map --ask`: every field that is not decided, one at a time; then the columns that nothing uses.

use std::io::BufRead as _;

use dusk_core::description::Target;
use dusk_core::evidence::{ColumnId, FieldId};
use dusk_core::mapping::{Mapping, Part};
use dusk_core::proposing::{Doubt, Fed, Key, Proposal, Proposals, Sureness};
use dusk_core::sources::Source;

use super::reply::{Answer, column};
use crate::outcome::{Failure, say};
use crate::show::{ANSWERS, Choice, bold, counted, quiet, visible};

/// Asks, and puts the answers into the proposals. Where the answers end, what was answered stays.
///
/// # Errors
/// When the answers cannot be read.
pub(super) fn ask(
    proposals: &mut Proposals,
    source: &Source,
    target: &Target,
    mapping: Option<&Mapping>,
) -> Result<(), Failure> {
    let mut asking = Asking {
        proposals,
        source,
        target,
        mapping,
        has_helped: false,
        lines: std::io::stdin().lock().lines(),
    };
    asking.all()?;
    Ok(())
}

struct Asking<'a> {
    proposals: &'a mut Proposals,
    source: &'a Source,
    target: &'a Target,
    mapping: Option<&'a Mapping>,
    has_helped: bool,
    lines: std::io::Lines<std::io::StdinLock<'static>>,
}

/// What is to become of several things.
enum AllOrEach {
    All,
    Each,
    None,
}

/// Whether there are more questions.
type More = Result<bool, Failure>;

impl Asking<'_> {
    fn all(&mut self) -> More {
        Ok(self.renamed()? && self.undecided()? && self.open_lines()? && self.sure()? && self.unused()?)
    }

    /// The next answer; nothing where there are no more.
    fn answer(&mut self, question: &str) -> Result<Option<String>, Failure> {
        say(question);
        Ok(self.lines.next().transpose()?)
    }

    /// Yes or no, asked again until it is one of the two; nothing where the answers end.
    fn yes_or_no(&mut self, question: &str) -> Result<Option<bool>, Failure> {
        loop {
            let Some(answer) = self.answer(question)? else { return Ok(None) };
            match answer.trim().to_lowercase().as_str() {
                "y" | "yes" => return Ok(Some(true)),
                "n" | "no" | "" => return Ok(Some(false)),
                "stop" | "quit" | "q" => return Ok(None),
                other => say(&format!("  \"{other}\" is neither yes nor no; write y or n\n")),
            }
        }
    }

    /// Columns of the mapping that the source calls otherwise now.
    fn renamed(&mut self) -> More {
        let gone: Vec<Doubt> = self.proposals.doubts.iter().filter(|doubt| doubt.is_gone).cloned().collect();
        for Doubt { field, column, instead, reasons, .. } in gone {
            let Some(new) = instead else { continue };
            let (name, new_name) = (self.field_name(field).to_owned(), self.source.heading(new).to_owned());
            let question = format!(
                "{} is from \"{}\", which is gone; \"{}\" may be it: {}\n  Take \"{}\" from now on? [y]es, [n]o: ",
                bold(&name),
                visible(&column),
                visible(&new_name),
                visible(&reasons.join("; ")),
                visible(&new_name)
            );
            match self.yes_or_no(&question)? {
                None => return Ok(false),
                Some(false) => {}
                Some(true) => {
                    self.proposals.renamed.push((field, column, new));
                    self.proposals.doubts.retain(|doubt| doubt.field != field);
                }
            }
        }
        Ok(true)
    }

    /// Fields that are not decided, in the target's order; those that may stay empty and that no column looks like in
    /// one question.
    fn undecided(&mut self) -> More {
        let without: Vec<FieldId> = self
            .proposals
            .fields_without(self.target, self.mapping)
            .iter()
            .filter_map(|(name, _)| self.target.field(name))
            .collect();
        let may_stay_empty =
            |field: &FieldId| self.target.fields.get(*field).is_some_and(|field| !field.required);
        let (nothing_like, without): (Vec<FieldId>, Vec<FieldId>) =
            without.into_iter().partition(|field| may_stay_empty(field) && self.first(*field).is_none());
        let likely = |proposal: &&Proposal| proposal.sureness == Sureness::Likely;
        let mut fields: Vec<FieldId> =
            self.proposals.proposals.iter().filter(likely).map(|proposal| proposal.field).collect();
        fields.extend(without);
        fields.sort();
        Ok(self.each_field(fields)? && self.nothing_like(nothing_like)?)
    }

    /// These fields, one at a time.
    fn each_field(&mut self, fields: Vec<FieldId>) -> More {
        let count = fields.len();
        for (place, field) in fields.into_iter().enumerate() {
            if !self.field(field, &format!("{} of {count}", place + 1))? {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Fields that may stay empty, where no column looks like any of them.
    fn nothing_like(&mut self, fields: Vec<FieldId>) -> More {
        if fields.len() < 2 {
            return self.each_field(fields);
        }
        let names: Vec<&str> = fields.iter().map(|field| self.field_name(*field)).collect();
        let question = format!(
            "\n{} may stay empty, and no column looks like them: {}\n  Leave all of them empty? [y]es; [e]ach by itself; [n]o, decide later: ",
            counted(fields.len() as u64, "field"),
            visible(&names.join(", "))
        );
        match self.all_or_each(&question)? {
            None => Ok(false),
            Some(AllOrEach::None) => Ok(true),
            Some(AllOrEach::Each) => self.each_field(fields),
            Some(AllOrEach::All) => {
                fields.iter().for_each(|field| self.proposals.refuse(*field));
                self.proposals.not_fed.extend(fields);
                Ok(true)
            }
        }
    }

    /// An answer about several things, asked again until it is one; nothing where the answers end.
    fn all_or_each(&mut self, question: &str) -> Result<Option<AllOrEach>, Failure> {
        loop {
            let Some(answer) = self.answer(question)? else { return Ok(None) };
            match answer.trim().to_lowercase().as_str() {
                "y" | "yes" | "all" => return Ok(Some(AllOrEach::All)),
                "e" | "each" => return Ok(Some(AllOrEach::Each)),
                "n" | "no" | "" => return Ok(Some(AllOrEach::None)),
                "stop" | "quit" | "q" => return Ok(None),
                other => say(&format!(
                    "  \"{}\" is not an answer to this question; write y, e or n\n",
                    visible(other)
                )),
            }
        }
    }

    /// Lines that no evidence decides, of fields that are fed: each is written, or stays to be decided.
    fn open_lines(&mut self) -> More {
        let is_asked = |key: &Key| key.is_open && !key.line.contains('…');
        let open: Vec<(usize, usize)> = (self.proposals.proposals.iter().enumerate())
            .filter(|(_, proposal)| proposal.sureness != Sureness::Likely)
            .flat_map(|(at, proposal)| {
                proposal.keys.iter().enumerate().map(move |(place, key)| (at, place, key))
            })
            .filter(|(_, _, key)| is_asked(key))
            .map(|(at, place, _)| (at, place))
            .collect();
        for (at, place) in open {
            let Some(proposal) = self.proposals.proposals.get(at) else { continue };
            let Some(key) = proposal.keys.get(place) else { continue };
            let question = format!(
                "\n{}: {}\n  {}\n  Write this line into the mapping? [y]es; [n]o, decide later: ",
                bold(self.field_name(proposal.field)),
                visible(&key.line),
                visible(&key.says)
            );
            let Some(is_wanted) = self.yes_or_no(&question)? else { return Ok(false) };
            let key = self.proposals.proposals.get_mut(at).and_then(|proposal| proposal.keys.get_mut(place));
            if let Some(key) = key.filter(|_| is_wanted) {
                key.is_open = false;
            }
        }
        Ok(true)
    }

    /// Those that are sure, where somebody wants to look through them.
    fn sure(&mut self) -> More {
        let sure = |proposal: &&Proposal| proposal.sureness == Sureness::Sure;
        let fields: Vec<FieldId> =
            self.proposals.proposals.iter().filter(sure).map(|proposal| proposal.field).collect();
        if fields.is_empty() {
            return Ok(true);
        }
        let count = fields.len();
        let fields_word = if count == 1 { "1 field is" } else { &format!("{count} fields are") };
        match self.yes_or_no(&format!("\n{fields_word} sure. Look through them as well? [y]es, [n]o: "))? {
            None => Ok(false),
            Some(false) => Ok(true),
            Some(true) => self.each_field(fields),
        }
    }

    /// One field, until the answer is one.
    fn field(&mut self, field: FieldId, number: &str) -> More {
        let Some(target_field) = self.target.fields.get(field) else { return Ok(true) };
        say(&self.choice().of_field(target_field, field, number));
        if !self.has_helped {
            say(&quiet(ANSWERS));
            self.has_helped = true;
        }
        loop {
            let Some(text) = self.answer("  What feeds it? ")? else { return Ok(false) };
            let answer = match Answer::read(&text, self.source) {
                Ok(answer) => answer,
                Err(says) => {
                    say(&format!("  {}\n", visible(&says)));
                    continue;
                }
            };
            match answer {
                Answer::Stop => return Ok(false),
                Answer::Later => return Ok(true),
                Answer::List => self.list(),
                Answer::Nothing if target_field.required => {
                    say("  this field must be filled; name what feeds it, or press Enter to decide later\n");
                }
                Answer::Nothing => {
                    self.proposals.refuse(field);
                    self.proposals.not_fed.push(field);
                    return Ok(true);
                }
                Answer::Yes => match self.first(field) {
                    Some(fed) => return self.take(field, fed, None),
                    None => say("  nothing is proposed; name a column, or press Enter to decide later\n"),
                },
                Answer::Fed(fed) => return self.take(field, fed, None),
                Answer::PartOf(column) => match self.part(column)? {
                    Some((form, part)) => return self.take(field, Fed::Column(column), Some((&form, &part))),
                    None => return Ok(true),
                },
            }
        }
    }

    fn take(&mut self, field: FieldId, fed: Fed, part: Option<(&str, &str)>) -> More {
        let known =
            self.proposals.of_field(field).filter(|known| known.fed == fed && part.is_none()).cloned();
        // A proposal that takes a cell apart stays as it was proposed.
        match known {
            Some(known) => self.proposals.confirm(&known),
            None => self.proposals.say(field, fed, part, (self.source, self.target)),
        }
        Ok(true)
    }

    /// What stands first: the proposal, or the likeliest column.
    fn first(&self, field: FieldId) -> Option<Fed> {
        let proposed = self.proposals.of_field(field).map(|proposal| proposal.fed.clone());
        let likeliest = || Some(Fed::Column(self.proposals.candidates.get(field)?.first()?.column));
        let unproven = || {
            let mut namesakes = self.proposals.namesakes.iter();
            namesakes.find(|(of, _, _)| *of == field).map(|(_, column, _)| Fed::Column(*column))
        };
        proposed.or_else(likeliest).or_else(unproven)
    }

    /// How the cells of a column are put together, and which part is meant; tried on what it holds.
    fn part(&mut self, column: ColumnId) -> Result<Option<(String, String)>, Failure> {
        let heading = visible(self.source.heading(column)).into_owned();
        say(&format!("  \"{heading}\" holds {}\n", self.choice().values(column)));
        loop {
            let Some(form) = self.answer("  How are its cells put together? For example {code} {name}: ")?
            else {
                return Ok(None);
            };
            if form.trim().is_empty() {
                return Ok(None);
            }
            let Some(take) = self.answer("  Which part of it? For example code: ")? else { return Ok(None) };
            let (form, take) = (form.trim().to_owned(), take.trim().trim_matches(['{', '}']).to_owned());
            let part = match Part::parse(&form, &take) {
                Ok(part) => part,
                Err(says) => {
                    say(&format!("  {}\n", visible(&says)));
                    continue;
                }
            };
            let values = self.proposals.values.get(column).map_or(&[][..], Vec::as_slice);
            let taken: Vec<&str> = values.iter().filter_map(|value| part.take(value).ok()).collect();
            let (fit, of) = (taken.len(), values.len());
            let Some(first) = taken.first() else {
                say(&format!(
                    "  not one of the {of} values that were tried has this form; write it as they are\n"
                ));
                continue;
            };
            say(&format!("  {fit} of {of} values have this form; the first gives \"{}\"\n", visible(first)));
            return Ok(Some((form, take)));
        }
    }

    /// All columns.
    fn list(&self) {
        self.source.column_ids().for_each(|column| say(&format!("{}\n", self.choice().column(column))));
    }

    /// The columns that nothing uses: for all, or for each.
    fn unused(&mut self) -> More {
        let free: Vec<String> = self
            .proposals
            .columns_without(self.source, self.mapping)
            .into_iter()
            .map(str::to_owned)
            .collect();
        if free.is_empty() {
            return Ok(true);
        }
        let (count, names) = (free.len(), visible(&free.join(", ")).into_owned());
        let them =
            if count == 1 { "Nothing uses 1 column" } else { &format!("Nothing uses {count} columns") };
        let question = format!(
            "\n{them}: {names}\n  Leave out on purpose? [y]es, all of them; [e]ach by itself; [n]o, decide later: "
        );
        match self.all_or_each(&question)? {
            Some(AllOrEach::All) => self.proposals.leave_out = free,
            Some(AllOrEach::Each) => return self.each(&free),
            Some(AllOrEach::None) | None => {}
        }
        Ok(true)
    }

    fn each(&mut self, free: &[String]) -> More {
        for name in free {
            let held = column(&format!("\"{name}\""), self.source).map(|column| self.choice().values(column));
            let question =
                format!("  {}  {}\n    leave out? [y]es, [n]o: ", bold(name), held.unwrap_or_default());
            match self.yes_or_no(&question)? {
                None => return Ok(false),
                Some(true) => self.proposals.leave_out.push(name.clone()),
                Some(false) => {}
            }
        }
        Ok(true)
    }

    fn choice(&self) -> Choice<'_> {
        Choice { source: self.source, proposals: self.proposals }
    }

    fn field_name(&self, field: FieldId) -> &str {
        self.target.fields.get(field).map_or("", |field| field.name.as_str())
    }
}
