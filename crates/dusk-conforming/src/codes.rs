//! Several codes in one value: told apart, looked up, and laid out as the target wants them.

use super::code::{decided, kept_out};
use super::outcome::{Outcome, Readings};
use super::plan::FieldPlan;
use super::several::JOINT;
use super::{Parent, Step};
use dusk_decisions::Answer;
use dusk_description::{CodeList, CodesLayout, FieldType, Unmatched, UploadEncoder};
use dusk_evidence::{CodeFact, Fact, Fate, Fault, Kind};
use dusk_sources::CellKind;
use dusk_values::Value;

impl FieldPlan<'_> {
    /// Conforms codes that columns of true and false say; nothing where all of them are blank.
    pub(super) fn conform_codes(
        &self,
        codes: Option<Vec<&str>>,
        parent: Parent<'_>,
        encoder: &mut UploadEncoder<'_>,
        out: &mut Outcome,
    ) {
        let (Some(codes), FieldType::Codes { layout, .. }) = (codes, &self.field.kind) else {
            return self.conform_blank(parent, encoder, out);
        };
        if codes.is_empty() && self.field.required && !matches!(layout, CodesLayout::ColumnPerCode { .. }) {
            return self.conform_rest("", &self.source, parent, encoder, out);
        }
        out.value = Value::Text;
        let laid_out = lay_out(&codes, layout, out).and_then(|()| self.encode(Some(&codes), encoder, out));
        out.faults.extend(laid_out.err());
    }

    pub(super) fn convert_codes<'a>(
        &'a self,
        text: &str,
        list: &'a CodeList,
        layout: &CodesLayout,
        readings: &'a Readings<'_>,
        out: &mut Outcome,
    ) -> Result<Vec<&'a str>, Fault> {
        out.value = Value::Text;
        if readings.fixed && matches!(layout, CodesLayout::ColumnPerCode { no, .. } if no == text) {
            return Ok(Vec::new());
        }
        let reading = self.codes(list, readings);
        let mut codes = Vec::new();
        let mut inner = out.trail.another();
        // A value that is one code although it holds the separator is not taken apart.
        let parts: Vec<&str> = match readings.between {
            Some(_) => readings.values(text),
            None if text.contains(JOINT) => readings.values(text),
            None => match layout {
                CodesLayout::Joined(separator) => text.split(separator.as_str()).map(str::trim).collect(),
                CodesLayout::ColumnPerCode { .. } | CodesLayout::Numbered(_) => vec![text],
            },
        };
        for part in parts {
            if let Some(line) = readings.crosswalk.find(part, None) {
                match line.answer() {
                    Answer::KeepOut => {
                        return Err(Fault { part: Some(part.to_owned()), ..kept_out(line) });
                    }
                    Answer::LeaveBlank => {
                        inner.took(Step::Crosswalk, "nothing", || decided(line));
                        continue;
                    }
                    Answer::Means(_) => {}
                }
            }
            let found = reading.conform(part, CellKind::Text, Parent::None, &mut inner);
            if let Err(fault) = &found
                && fault.kind() == Kind::NotACode
                && self.field.unmatched == Unmatched::Blank
            {
                let fault = fault.clone().of_part(part, None);
                let fact = Fact::Unmatched { fate: Fate::LeftOut, fact: fault.fact };
                out.remarks.push(Fault { fact: Box::new(fact), ..fault });
                continue;
            }
            let code = found.map_err(|fault| if part == text { fault } else { fault.of_part(part, None) })?;
            if !codes.contains(&code) {
                codes.push(code);
            }
        }
        let each = inner.taken.iter().map(|taken| format!("{} by {}", taken.after, taken.evidence)).collect();
        lay_out_from(text, &codes, layout, each, out)?;
        Ok(codes)
    }
}

/// Several codes as one text, laid out as the target wants them.
fn lay_out(codes: &[&str], layout: &CodesLayout, out: &mut Outcome) -> Result<(), Fault> {
    lay_out_from("", codes, layout, Vec::new(), out)
}

/// The same with the text that the codes were read from, and what each of them rests on.
fn lay_out_from(
    text: &str,
    codes: &[&str],
    layout: &CodesLayout,
    each: Vec<String>,
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
        out.trail.took(Step::Codes, &out.text, || {
            let laid_out = match layout {
                CodesLayout::Joined(separator) => {
                    format!("parted by \"{separator}\" as the target wants")
                }
                CodesLayout::ColumnPerCode { .. } => "one column per code as the target wants".into(),
                CodesLayout::Numbered(_) => "one after the other in numbered columns".into(),
            };
            each.into_iter().chain([laid_out]).collect::<Vec<_>>().join("; ")
        });
    }
    Ok(())
}
