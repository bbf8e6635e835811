//! `dusk target check`: the description itself.

use dusk_core::Error;
use dusk_core::conforming::Plan;
use dusk_core::description::Target;

use std::path::Path;

use super::{Outcome, print, today};
use crate::outcome::Ended;
use crate::show::counted;

pub(super) fn run(path: &Path) -> Outcome {
    let read =
        Target::read(path).and_then(|target| Plan::check_target(&target, today(None)).map(|()| target));
    match read {
        Ok(target) => {
            let lists = target.files.len().saturating_sub(1);
            let required = target.fields.iter().filter(|field| field.required).count();
            let codes: usize =
                target.fields.iter().filter_map(|field| Some(field.kind.codes()?.codes().len())).sum();
            print(&format!(
                "{}: nothing wrong\n  {} ({required} required), {} with {}, {}\n  the upload file has {}\n",
                path.display(),
                counted(target.fields.len() as u64, "field"),
                counted(lists as u64, "code list"),
                counted(codes as u64, "code"),
                counted(target.rules.len() as u64, "rule"),
                counted(target.headings().len() as u64, "column"),
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
