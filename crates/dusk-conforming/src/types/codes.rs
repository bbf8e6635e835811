//! Several codes in one value: told apart, looked up, and laid out as the target wants them.

use super::{Conforms, Given, Kept};
use crate::code::{Reading, decided, kept_out, left_blank, named};
use crate::outcome::{Outcome, Readings};
use crate::several::JOINT;
use crate::value_plan::ValuePlan;
use crate::{Basis, LaidOut, Parent, Trail};
use dusk_decisions::Answer;
use dusk_description::{Code, CodesLayout, CodesType, Lookup, Unmatched, UploadEncoder};
use dusk_evidence::{CodeFact, Fact, Fate, Fault, Kind};
use dusk_sources::CellKind;
use dusk_values::Value;

/// The parts of a value, each of which is to be a code.
fn parts<'t>(layout: &CodesLayout, text: &'t str, readings: &Readings<'_>) -> Vec<&'t str> {
    if !readings.between.is_empty() || text.contains(JOINT) {
        return readings.values(text);
    }
    match layout {
        CodesLayout::Joined(separator) => text.split(separator.as_str()).map(str::trim).collect(),
        // A value that is one code although it holds the separator is not taken apart.
        CodesLayout::ColumnPerCode { .. } | CodesLayout::Numbered(_) => vec![text],
    }
}

/// A whole value that is one code although it could be taken apart: then it is, if its parts are not all codes as
/// well.
fn is_one_code(reading: &Reading<'_>, text: &str, parts: &[&str]) -> Result<bool, Fault> {
    let list = reading.list;
    let found = |text: &str| match list.look_up(text, None, reading.read_as) {
        Lookup::Found(code, _) => Some(code),
        _ => None,
    };
    let Some(whole) = found(text).filter(|_| parts.len() > 1) else { return Ok(false) };
    // What was decided about a part is as good as a code.
    let is_known = |part: &&str| reading.crosswalk.has(part) || found(part).is_some();
    if !parts.iter().all(is_known) {
        return Ok(true);
    }
    let codes =
        std::iter::once(whole).chain(parts.iter().filter_map(|part| found(part))).map(named).collect();
    Err(Fault::new(CodeFact::Undecided { list: list.name.clone(), codes }))
}

/// The codes that one part means; none where it is left out, several where somebody has decided so.
fn codes_of<'a>(
    given: &Given<'a, '_>,
    reading: &Reading<'a>,
    part: &str,
    trail: &mut Trail,
    remarks: &mut Vec<Fault>,
) -> Result<Vec<&'a str>, Fault> {
    if let Some(line) = given.readings.crosswalk.find(part, None) {
        match line.answer() {
            Answer::KeepOut => return Err(Fault { part: Some(part.to_owned()), ..kept_out(line) }),
            Answer::LeaveBlank => {
                trail.took("nothing", || decided(line));
                remarks.push(Fault { part: Some(part.to_owned()), ..left_blank(line) });
                return Ok(Vec::new());
            }
            Answer::Means(text) => {
                if let Some(codes) = reading.decided_codes(line, text, trail) {
                    return codes.map_err(|fault| fault.of_part(part, None));
                }
            }
            Answer::NewTerm => {}
        }
    }
    let of_part = |fault: Fault| if part == given.text { fault } else { fault.of_part(part, None) };
    match reading.conform(part, CellKind::Text, Parent::None, trail) {
        Ok(code) => Ok(vec![code]),
        Err(fault) if fault.kind() == Kind::NotACode && given.plan.field.unmatched == Unmatched::Blank => {
            let fault = fault.of_part(part, None);
            let fact = Fact::Unmatched { fate: Fate::LeftOut, fact: fault.fact };
            remarks.push(Fault { fact: Box::new(fact), ..fault });
            Ok(Vec::new())
        }
        Err(fault) => Err(of_part(fault)),
    }
}

impl Conforms for CodesType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        out.value = Value::Text;
        let says_none = |no: &str| given.readings.fixed && no == given.text;
        if matches!(&self.layout, CodesLayout::ColumnPerCode { no, .. } if says_none(no)) {
            return Ok(Some(Vec::new()));
        }
        let reading = given.plan.codes(&self.list, given.readings);
        let mut codes = Vec::new();
        let mut inner = out.trail.another();
        let mut parts = parts(&self.layout, given.text, given.readings);
        if is_one_code(&reading, given.text, &parts)? {
            parts = vec![given.text];
        }
        for part in parts {
            for code in codes_of(given, &reading, part, &mut inner, &mut out.remarks)? {
                if !codes.contains(&code) {
                    codes.push(code);
                }
            }
        }
        let each = inner.taken.into_iter().map(|taken| (taken.after, taken.basis)).collect();
        lay_out_from(given.text, &codes, &self.layout, each, out)?;
        Ok(Some(codes))
    }

    fn kept(&self) -> Kept {
        Kept::Values
    }

    fn encode(
        &self,
        plan: &ValuePlan<'_>,
        codes: Option<&[&str]>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) -> Result<(), Fault> {
        let mut column = |heading: &str, text: &str| {
            encoder.column(heading, plan.bare, text, plan.alone, &mut out.encoded)
        };
        match &self.layout {
            CodesLayout::Joined(_) => column(plan.field.heading(), &out.text),
            CodesLayout::ColumnPerCode { columns, yes, no } => {
                let word = |code: &Code| match codes {
                    None => "",
                    Some(codes) if codes.contains(&code.code.as_str()) => yes,
                    Some(_) => no,
                };
                let mut each = self.list.codes().iter().zip(columns);
                each.try_for_each(|(code, heading)| column(heading, word(code)))
            }
            CodesLayout::Numbered(columns) => {
                let mut codes = codes.unwrap_or_default().iter();
                columns
                    .iter()
                    .try_for_each(|heading| column(heading, codes.next().copied().unwrap_or_default()))
            }
        }
    }
}

/// Several codes as one text, laid out as the target wants them.
pub(crate) fn lay_out(codes: &[&str], layout: &CodesLayout, out: &mut Outcome) -> Result<(), Fault> {
    lay_out_from("", codes, layout, Vec::new(), out)
}

/// The same with the text that the codes were read from, and what each of them rests on.
fn lay_out_from(
    text: &str,
    codes: &[&str],
    layout: &CodesLayout,
    each: Vec<(String, Basis)>,
    out: &mut Outcome,
) -> Result<(), Fault> {
    if let CodesLayout::Numbered(columns) = layout
        && codes.len() > columns.len()
    {
        return Err(Fault::new(CodeFact::TooMany { codes: codes.len(), columns: columns.len() }));
    }
    let separator = match layout {
        CodesLayout::Joined(separator) => separator.as_str(),
        CodesLayout::ColumnPerCode { .. } | CodesLayout::Numbered(_) => "|",
    };
    out.text = codes.join(separator);
    if out.text != text || !matches!(layout, CodesLayout::Joined(_)) {
        out.trail.took(&out.text, || {
            let layout = match layout {
                CodesLayout::Joined(separator) => LaidOut::Joined(separator.clone()),
                CodesLayout::ColumnPerCode { .. } => LaidOut::ColumnPerCode,
                CodesLayout::Numbered(_) => LaidOut::Numbered,
            };
            Basis::Codes { each, layout }
        });
    }
    Ok(())
}
