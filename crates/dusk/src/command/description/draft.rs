//! `dusk target draft`: the description from what the target's owner supplied.

use dusk_core::description::Target;
use dusk_core::drafting::{DraftOptions, Drafted, Saved, draft};
use serde_json::json;

use super::{Failure, Outcome, print, print_json};
use crate::args::{DraftArgs, Format};
use crate::outcome::Ended;
use crate::show::show_drafted;

pub(super) fn run(args: &DraftArgs) -> Outcome {
    let folder = args
        .out
        .parent()
        .map(|folder| if folder.as_os_str().is_empty() { ".".into() } else { folder.to_path_buf() });
    let options = DraftOptions { name: args.name.clone(), table: args.table.clone(), folder };
    let mut drafted = draft(&args.materials, &options)?;
    drafted.leave_out_what_is_refused()?;
    let saved = drafted.save(&args.out)?;
    match args.format {
        Format::Text => print(&show_drafted(&drafted, &saved, &args.out, args.ask))?,
        Format::Json => print_json(&as_json(&drafted, &saved))?,
    }
    if args.ask {
        super::ask::ask_one_by_one(&drafted, &args.out)?;
    }
    // A draft that its own reader refuses would be a fault of this program's, or of an edit.
    if let Err(wrong) = Target::read(&args.out) {
        return Err(Failure::Stopped(format!(
            "the description was written, and something is wrong with it:\n{wrong}"
        )));
    }
    Ok(Ended::AllAccepted)
}

fn as_json(drafted: &Drafted, saved: &Saved) -> serde_json::Value {
    let place = |place: &dusk_core::drafting::Place| place.to_string();
    json!({
        "materials": drafted.taken.iter().map(|taken| json!({ "from": place(&taken.from), "role": taken.role })).collect::<Vec<_>>(),
        "fields": drafted.fields.iter().map(|field| json!({
            "name": field.name,
            "from": place(&field.from),
            "keys": field.claims.0.iter().map(|claim| json!({ "key": claim.key, "value": claim.value.toml(), "from": place(&claim.from) })).collect::<Vec<_>>(),
        })).collect::<Vec<_>>(),
        "questions": drafted.questions.iter().map(|question| json!({ "about": question.about, "says": question.says, "from": place(&question.from) })).collect::<Vec<_>>(),
        "files": saved.files.iter().map(|file| file.display().to_string()).collect::<Vec<_>>(),
        "changes": saved.changes,
        "same_materials": saved.same_materials,
        "kept": saved.kept,
    })
}
