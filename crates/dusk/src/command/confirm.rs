//! `dusk batches confirm`: what the target says of what it has, held against a batch.

use dusk_core::delivery::{Against, AnswerCounts, Chain, Claims, confirm};
use dusk_core::mapping::Mapping;
use dusk_core::run::read_held;

use super::named::NamedBatch;
use crate::args::{BatchArgs, ConfirmArgs, Format};
use crate::loaded::{threads, today};
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, confirmed_lines, mapping_option};

pub(super) fn run(args: &ConfirmArgs, of: &BatchArgs, format: Format) -> Outcome {
    let named = NamedBatch::find(&args.batch, of)?;
    let batch = named.batch()?;
    let claims = Claims {
        counts: AnswerCounts { loaded: args.loaded, refused: args.refused, ..AnswerCounts::default() },
        sums: args.sums.clone(),
    };
    let day = today(of.today);
    let bar = Bar::new(0, true);
    let is_asked = claims != Claims::default();
    let held = match &named.target.holds {
        Some(_) if !is_asked => {
            // All fields that the target has are compared.
            let mapping = own_mapping(&named)?;
            read_held(
                &named.target,
                &mapping,
                (day, threads()),
                &bar.reader("reading what the target holds"),
            )?
        }
        _ => None,
    };
    let holds = named.target.holds.as_ref();
    let list_day = || {
        let as_of = holds.and_then(|holds| holds.as_of);
        as_of.or_else(|| held.as_ref()?.lists.iter().filter_map(|list| list.changed_on).min())
    };
    let against = Against {
        target: &named.target,
        claims: &claims,
        batches: &named.batches,
        held: held.as_ref().map(|held| (held, list_day())),
        today: day,
        threads: threads(),
    };
    let done = confirm(batch, &against, named.doer(), &bar.reader("comparing"))?;
    match format {
        Format::Json => print_json(&done)?,
        Format::Text => {
            // What a batch that follows has sent since is not left any more.
            let left = Chain::of(&named.batches, batch)?.counts()?.not_loaded;
            print(&confirmed_lines((&batch.name(), &mapping_option(&named.mapping)), &done, left))?;
        }
    }
    Ok(if done.is_complete { Ended::AllAccepted } else { Ended::SomeRejected })
}

/// The mapping of the batch's own upload files: all of their columns.
fn own_mapping(named: &NamedBatch) -> Result<Mapping, Failure> {
    let batch = named.batch()?;
    let files = dusk_core::delivery::upload_files(batch);
    let Some((file, _, _)) = files.first() else {
        return Err(Failure::Stopped(format!("batch {} has no upload file", batch.name())));
    };
    let path = batch.path.join("upload").join(file);
    let uploaded = dusk_core::run::Uploaded::open(&path, &named.target, today(None), threads())?;
    Ok(uploaded.mapping().clone())
}
