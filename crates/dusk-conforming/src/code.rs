//! Codes: by crosswalk, by code, by label or by another name. Nothing is fuzzy.

use jiff::civil::Date;

use super::{Parent, Step, Trail, digits};
use dusk_decisions::{Crosswalk, CrosswalkLine};
use dusk_description::{Code, CodeList, HowFound, Lookup, ReadAs};
use dusk_evidence::{Fault, Kind};
use dusk_sources::CellKind;

/// What is needed to read the codes of a field.
pub(super) struct Reading<'a> {
    pub(super) list: &'a CodeList,
    pub(super) crosswalk: &'a Crosswalk,
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
                return Err(Fault::new(
                    Kind::CodeWithoutParent,
                    format!("is valid only inside a {field}, which is blank in this row"),
                    format!("fill in the {field}"),
                ));
            }
        };
        if let Some(line) = self.crosswalk.find(text, inside) {
            let known = self.list.codes().iter().find(|code| {
                code.code == line.code
                    && inside.is_none_or(|parent| code.within.is_empty() || code.within == parent)
            });
            let code = known.ok_or_else(|| self.outside(inside.unwrap_or_default()))?;
            self.check_retired(code)?;
            if text != code.code {
                trail.took(Step::Crosswalk, &code.code, || decided(line));
            }
            return Ok(&code.code);
        }
        match self.list.look_up(text, inside, self.read_as) {
            Lookup::Found(code, how) => {
                self.check_retired(code)?;
                if code.code != text {
                    trail.took(Step::Code, &code.code, || match how {
                        HowFound::Code => {
                            format!("a code of {}; case and spaces do not count", self.list.name)
                        }
                        HowFound::Label => format!("a label of {}", self.list.name),
                        HowFound::Also => format!("another name for {} in {}", code.label, self.list.name),
                    });
                }
                Ok(&code.code)
            }
            Lookup::Undecided(codes) => Err(Fault::new(
                Kind::CodeUndecided,
                format!("could mean more than one code of {}", self.list.name),
                format!("one of {}", shown(codes)),
            )),
            Lookup::OutsideParent(codes) => {
                let mut fault = self.outside(inside.unwrap_or_default());
                let parents: Vec<&str> = codes.iter().map(|code| code.within.as_str()).collect();
                fault.right = format!("it belongs to {}", parents.join(", "));
                Err(fault)
            }
            Lookup::Unknown => {
                match digits::codes_before(self.list, inside, kind, text).as_slice() {
                    [(code, why)] => {
                        self.check_retired(code)?;
                        trail.took(Step::Digits, &code.code, || format!("{why} ({})", self.list.name));
                        return Ok(&code.code);
                    }
                    [] if kind == CellKind::Date => {
                        return Err(Fault::new(
                            Kind::TurnedIntoDate,
                            format!("is a typed date in the workbook, and no code of {}", self.list.name),
                            self.some(inside),
                        ));
                    }
                    [] => {}
                    several => {
                        let codes = several.iter().map(|(code, _)| *code).collect();
                        return Err(Fault::new(
                            Kind::CodeUndecided,
                            format!(
                                "may have been more than one code of {} before a spreadsheet program changed it",
                                self.list.name
                            ),
                            format!("one of {}", shown(codes)),
                        ));
                    }
                }
                let words = match self.read_as {
                    ReadAs::Either => "code or label",
                    ReadAs::Codes => "code",
                    ReadAs::Labels => "label",
                };
                let right = match self.list.nearest(text, inside) {
                    Some(code) => format!("nearest: {}", code.shown()),
                    None => self.some(inside),
                };
                Err(Fault::new(Kind::NotACode, format!("is not a {words} of {}", self.list.name), right))
            }
        }
    }

    fn outside(&self, parent: &str) -> Fault {
        Fault::new(
            Kind::CodeOutsideParent,
            format!("is in {}, but not inside {parent}", self.list.name),
            self.some(Some(parent)),
        )
    }

    fn check_retired(&self, code: &Code) -> Result<(), Fault> {
        let Some(until) = code.until.filter(|until| *until < self.today) else { return Ok(()) };
        let successor = self.list.codes().iter().find(|other| other.code == code.replaced_by);
        let right = match successor {
            Some(successor) => format!("its successor: {}", successor.shown()),
            None => "a code that is still in use".into(),
        };
        Err(Fault::new(
            Kind::CodeRetired,
            format!("means {}, which was retired on {}", code.shown(), dusk_values::shown(until)),
            right,
        ))
    }

    /// A few codes to choose from.
    fn some(&self, inside: Option<&str>) -> String {
        const FEW: usize = 8;
        let codes = || {
            self.list
                .codes()
                .iter()
                .filter(|code| inside.is_none_or(|parent| code.within.is_empty() || code.within == parent))
                .filter(|code| code.until.is_none_or(|until| until >= self.today))
        };
        let more = codes().count().saturating_sub(FEW);
        let first = shown(codes().take(FEW).collect());
        if more > 0 { format!("one of {first} and {more} more") } else { format!("one of {first}") }
    }
}

/// That a value keeps its record out, as somebody decided.
pub(super) fn kept_out(line: &CrosswalkLine) -> Fault {
    Fault::new(Kind::KeptOut, format!("keeps its record out, as was decided ({})", decided(line)), "")
}

/// Who decided a crosswalk line, and when: "crosswalk, A. Clerk, 2026-04-30".
pub(super) fn decided(line: &CrosswalkLine) -> String {
    let words = ["crosswalk", &line.by, &line.on];
    words.into_iter().filter(|word| !word.is_empty()).collect::<Vec<_>>().join(", ")
}

fn shown(codes: Vec<&Code>) -> String {
    codes.into_iter().map(Code::shown).collect::<Vec<_>>().join(", ")
}
