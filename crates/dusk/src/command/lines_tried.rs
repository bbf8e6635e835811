//! What `dusk map` calls sure is run over the export first: a line that would reject most rows is not sure.

use std::path::Path;

use dusk_core::evidence::FieldId;
use dusk_core::mapping::read_unwritten;
use dusk_core::proposing::{Proposals, Sureness};
use dusk_core::run::{Accepting, Job};
use dusk_core::sources::{Progress, Source};
use jiff::civil::Date;

use crate::loaded::threads;
use crate::show::grouped;

/// Rows of an export that is larger than this are tried only so far.
const LARGE: u64 = 32 << 20;
const ROWS: u64 = 20_000;

/// How much of a value is shown.
const WIDEST: usize = 40;

/// Runs a mapping's text over the export, as if it stood at `path`, and says of each proposal what it does. What
/// most rows do not go through is likely only. Says whether a proposal has changed.
pub(super) fn try_lines(
    proposals: &mut Proposals,
    (path, text): (&Path, &str),
    source: &Source,
    today: Date,
    progress: &Progress<'_>,
) -> bool {
    // What is wrong with the text is said when it is written.
    let Ok((mut mapping, target)) = read_unwritten(path, text) else { return false };
    let open: Vec<FieldId> = proposals
        .proposals
        .iter()
        .filter(|proposal| proposal.keys.iter().any(|key| key.is_open))
        .map(|proposal| proposal.field)
        .collect();
    mapping.maps.retain(|map| !open.contains(&map.field));
    if source.bytes > LARGE && mapping.within.is_none() {
        mapping.within = Some((0, ROWS));
    }
    let sources = std::slice::from_ref(source);
    let asked: Vec<(String, String)> =
        mapping.ask.iter().map(|(name, _)| (name.clone(), String::new())).collect();
    let job = Job { asked: &asked, ..Job::new(&target, &mapping, sources, today, threads()) };
    // What has to be decided first is asked where it stands.
    let Ok(ready) = job.prepare(progress) else { return false };
    let Ok(accepting) = Accepting::of(&ready, progress) else { return false };
    let mut has_changed = false;
    for proposal in &mut proposals.proposals {
        if proposal.sureness != Sureness::Sure || open.contains(&proposal.field) {
            continue;
        }
        let share = accepting.share(proposal.field);
        let Some(first) = accepting.first_refused(proposal.field).filter(|_| share.of > 0) else { continue };
        has_changed = true;
        let first = match first.chars().count() {
            0 => "the first that does not is blank".to_owned(),
            1..=WIDEST => format!("the first that does not is \"{first}\""),
            _ => {
                format!("the first that does not is \"{}…\"", first.chars().take(WIDEST).collect::<String>())
            }
        };
        let says = match share.fit {
            0 => format!("not one of {} rows is accepted; {first}", grouped(share.of)),
            fit => format!("{} of {} rows go in; {first}", grouped(fit), grouped(share.of)),
        };
        proposal.reasons.push(says);
        if share.fit * 2 < share.of {
            proposal.sureness = Sureness::Likely;
        }
    }
    has_changed
}
