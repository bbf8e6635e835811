//! Codes: by crosswalk, by code, by label or by another name. Nothing is fuzzy.

use jiff::civil::Date;

use super::translations::Translations;
use super::{Basis, Parent, Trail, digits};
use dusk_decisions::{Answer, CrosswalkLine};
use dusk_description::{Code, CodeList, Lookup, ReadAs, fold};
use dusk_evidence::{Choices, CodeFact, CodeWords, Fault, NamedCode};
use dusk_sources::CellKind;
use dusk_values::{in_latin_letters, looks_like};

/// What is needed to read the codes of a field.
pub(super) struct Reading<'a> {
    pub(super) list: &'a CodeList,
    pub(super) crosswalk: &'a Translations<'a>,
    pub(super) read_as: ReadAs,
    pub(super) today: Date,
}

impl<'a> Reading<'a> {
    /// The code that `text` means.
    pub(super) fn conform(
        &self,
        text: &str,
        kind: CellKind,
        parent: Parent<'_>,
        trail: &mut Trail,
    ) -> Result<&'a str, Fault> {
        self.look_up(text, kind, parent, trail).map_err(|fault| match parent {
            Parent::Code(code) => Fault { within: code.to_owned(), ..fault },
            Parent::None | Parent::Blank(_) => fault,
        })
    }

    fn look_up(
        &self,
        text: &str,
        kind: CellKind,
        parent: Parent<'_>,
        trail: &mut Trail,
    ) -> Result<&'a str, Fault> {
        let inside = match parent {
            Parent::None => None,
            Parent::Code(code) => Some(code),
            Parent::Blank(field) => {
                return Err(Fault::new(CodeFact::WithoutParent { field: field.to_owned() }));
            }
        };
        let decided = self.crosswalk.find(text, inside);
        if let Some(line) = decided.filter(|line| line.answer() != Answer::NewTerm) {
            return self.take_decided(line, text, inside, trail);
        }
        match self.list.look_up(text, inside, self.read_as) {
            Lookup::Found(code, how) => {
                self.check_retired(code)?;
                if code.code != text {
                    let (list, label) = (self.list.name.clone(), code.label.clone());
                    trail.took(&code.code, || Basis::Code { how, list, label });
                }
                Ok(&code.code)
            }
            Lookup::Undecided(codes) => Err(Fault::new(CodeFact::Undecided {
                list: self.list.name.clone(),
                codes: codes.into_iter().map(named).collect(),
            })),
            Lookup::OutsideParent(codes) => {
                let belongs_to = codes.iter().map(|code| code.within.clone()).collect();
                Err(self.outside(inside.unwrap_or_default(), belongs_to))
            }
            // Somebody has said that it is a term, so no program has made it of a code.
            Lookup::Unknown if decided.is_some() => Err(self.not_a_code(text, inside)),
            Lookup::Unknown => self.take_changed(text, kind, inside, trail),
        }
    }

    /// The code that somebody has decided on.
    fn take_decided(
        &self,
        line: &CrosswalkLine,
        text: &str,
        inside: Option<&str>,
        trail: &mut Trail,
    ) -> Result<&'a str, Fault> {
        let known = self.list.codes().iter().find(|code| {
            code.code == line.code
                && inside.is_none_or(|parent| code.within.is_empty() || code.within == parent)
        });
        let code = match (known, self.crosswalk.term(text, inside)) {
            (Some(code), _) => code,
            // What it leads to was a new term; the target may have made a code of it since.
            (None, Some(term)) => match self.list.look_up(&term.value, inside, self.read_as) {
                Lookup::Found(code, _) => code,
                _ => return Err(self.not_a_code(text, inside)),
            },
            (None, None) => return Err(self.outside(inside.unwrap_or_default(), Vec::new())),
        };
        self.check_retired(code)?;
        if text != code.code {
            trail.took(&code.code, || decided(line));
        }
        Ok(&code.code)
    }

    /// The codes that somebody has decided on, where these are several; nothing where it is one.
    pub(super) fn decided_codes(
        &self,
        line: &CrosswalkLine,
        text: &str,
        trail: &mut Trail,
    ) -> Option<Result<Vec<&'a str>, Fault>> {
        let codes = self.list.several(text).filter(|codes| codes.len() > 1)?;
        let fine = codes.iter().try_for_each(|code| self.check_retired(code));
        Some(fine.map(|()| {
            trail.took(text, || decided(line));
            codes.into_iter().map(|code| code.code.as_str()).collect()
        }))
    }

    /// The only code that a program can have made the value of.
    fn take_changed(
        &self,
        text: &str,
        kind: CellKind,
        inside: Option<&str>,
        trail: &mut Trail,
    ) -> Result<&'a str, Fault> {
        let list = self.list.name.clone();
        match digits::codes_before(self.list, inside, kind, text).as_slice() {
            [(code, lost)] => {
                self.check_retired(code)?;
                trail.took(&code.code, || Basis::OnlyCodeBefore { lost: *lost, list });
                Ok(&code.code)
            }
            [] if kind == CellKind::Date => {
                Err(Fault::new(CodeFact::DateForCode { list, choices: self.some(inside) }))
            }
            [] => Err(self.not_a_code(text, inside)),
            several => {
                let codes = several.iter().map(|(code, _)| named(code)).collect();
                Err(Fault::new(CodeFact::ChangedUndecided { list, codes }))
            }
        }
    }

    fn not_a_code(&self, text: &str, inside: Option<&str>) -> Fault {
        // What looks like a code, and has letters of another alphabet in it, is most likely that one.
        let latin = in_latin_letters(text);
        let same = |code: &&Code| latin.as_ref().is_some_and(|latin| fold(latin) == fold(&code.code));
        let alike = self.list.codes().iter().find(same);
        let foreign = alike.and_then(|_| text.chars().find(|c| looks_like(*c).is_some()));
        let nearest = alike.or_else(|| self.list.nearest(text, inside)).map(named);
        let choices = if nearest.is_some() { Choices::default() } else { self.some(inside) };
        let words = match self.read_as {
            ReadAs::Either => CodeWords::Either,
            ReadAs::Codes => CodeWords::Codes,
            ReadAs::Labels => CodeWords::Labels,
        };
        Fault::new(CodeFact::NotACode { list: self.list.name.clone(), words, nearest, choices, foreign })
    }

    fn outside(&self, parent: &str, belongs_to: Vec<String>) -> Fault {
        let choices = if belongs_to.is_empty() { self.some(Some(parent)) } else { Choices::default() };
        let (list, parent) = (self.list.name.clone(), parent.to_owned());
        Fault::new(CodeFact::OutsideParent { list, parent, belongs_to, choices })
    }

    fn check_retired(&self, code: &Code) -> Result<(), Fault> {
        let Some(until) = code.until.filter(|until| *until < self.today) else { return Ok(()) };
        let successor = self.list.codes().iter().find(|other| other.code == code.replaced_by);
        Err(Fault::new(CodeFact::Retired { code: named(code), until, successor: successor.map(named) }))
    }

    /// A few codes to choose from.
    fn some(&self, inside: Option<&str>) -> Choices {
        const FEW: usize = 8;
        let codes = || {
            self.list
                .codes()
                .iter()
                .filter(|code| inside.is_none_or(|parent| code.within.is_empty() || code.within == parent))
                .filter(|code| code.until.is_none_or(|until| until >= self.today))
        };
        Choices { first: codes().take(FEW).map(named).collect(), more: codes().count().saturating_sub(FEW) }
    }
}

/// That a value keeps its record out, as somebody decided.
pub(super) fn kept_out(line: &CrosswalkLine) -> Fault {
    Fault::new(CodeFact::KeepsOut { by: line.by.clone(), on: line.on.clone() })
}

/// That a value is left blank, as somebody decided.
pub(super) fn left_blank(line: &CrosswalkLine) -> Fault {
    Fault::new(CodeFact::LeavesBlank { by: line.by.clone(), on: line.on.clone() })
}

/// Who decided a crosswalk line, and when.
pub(super) fn decided(line: &CrosswalkLine) -> Basis {
    Basis::Crosswalk { by: line.by.clone(), on: line.on.clone() }
}

/// A code with its label, as a fact.
pub(super) fn named(code: &Code) -> NamedCode {
    NamedCode { code: code.code.clone(), label: code.label.clone() }
}
