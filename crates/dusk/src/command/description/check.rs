//! `dusk target check`: the description itself.

use dusk_core::Error;
use dusk_core::conforming::Plan;
use dusk_core::description::Target;
use serde_json::json;

use std::path::Path;

use super::{Outcome, print, print_json, today};
use crate::args::Format;
use crate::outcome::Ended;
use crate::show::counted;

pub(super) fn run(path: &Path, format: Format) -> Outcome {
    let read =
        Target::read(path).and_then(|target| Plan::check_target(&target, today(None)).map(|()| target));
    if format == Format::Json {
        let (problems, target) = match read {
            Ok(target) => (Vec::new(), Some(target)),
            Err(Error::Problems(problems)) => (problems.iter().map(ToString::to_string).collect(), None),
            Err(other) => return Err(other.into()),
        };
        let count = |of: fn(&Target) -> usize| target.as_ref().map(of);
        let ended = if problems.is_empty() { Ended::AllAccepted } else { Ended::SomeRejected };
        print_json(&json!({
            "target": path.display().to_string(),
            "problems": problems,
            "fields": count(|target| target.fields.len()),
            "rules": count(|target| target.rules.len()),
            "columns": count(|target| target.headings().len()),
        }))?;
        return Ok(ended);
    }
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
