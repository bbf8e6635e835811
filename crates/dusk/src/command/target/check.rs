//! `dusk target check`: the description itself.

use dusk_core::Error;
use dusk_core::conform::Plan;
use dusk_core::target::{FieldType, Target};

use std::path::Path;

use super::{Outcome, print, today};
use crate::outcome::Ended;

pub(super) fn run(path: &Path) -> Outcome {
    let read =
        Target::read(path).and_then(|target| Plan::check_target(&target, today(None)).map(|()| target));
    match read {
        Ok(target) => {
            let lists = target.files.len().saturating_sub(1);
            let required = target.fields.iter().filter(|field| field.required).count();
            let codes: usize = target
                .fields
                .iter()
                .filter_map(|field| match &field.kind {
                    FieldType::Code { list, .. } | FieldType::Codes { list, .. } => Some(list.codes().len()),
                    _ => None,
                })
                .sum();
            print(&format!(
                "{}: nothing wrong\n  {} fields ({required} required), {lists} code lists with {codes} codes, {} rules\n  the upload file has {} columns\n",
                path.display(),
                target.fields.len(),
                target.rules.len(),
                target.headings().len(),
            ))?;
            Ok(Ended::AllAccepted)
        }
        Err(Error::Problems(problems)) => {
            print(&format!("{problems}\n\n{} to put right\n", problems.len()))?;
            Ok(Ended::SomeRejected)
        }
        Err(other) => Err(other.into()),
    }
}
