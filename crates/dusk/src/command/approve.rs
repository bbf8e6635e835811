//! `dusk approve` and `dusk turn-down`: who says that a batch may go.

use dusk_core::delivery::{approve, turn_down};

use super::named::NamedBatch;
use crate::args::{ApproveArgs, TurnDownArgs};
use crate::outcome::{Ended, Failure, Outcome, print};
use crate::show::{counted, field_totals, mapping_option, shell_word, visible};

pub(super) fn run_approve(args: &ApproveArgs) -> Outcome {
    let named = NamedBatch::find(&args.batch, &args.of)?;
    let batch = named.batch()?;
    approve(batch, named.doer(), &args.note)?;
    let name = batch.name();
    let receipt = batch.receipt.as_ref().map_err(|wrong| Failure::Stopped(wrong.to_string()))?;
    let files = receipt.outputs.iter().filter(|output| output.file.starts_with("upload/"));
    let mut text = format!("batch {name} is approved by {}\n", visible(named.doer().by));
    for output in files {
        let rows = counted(output.rows.unwrap_or_default(), "record");
        text.push_str(&format!("  {}: {rows}, blake3 {}\n", output.file, output.blake3));
    }
    text.push_str(&field_totals(&receipt.sent_totals.iter().collect::<Vec<_>>()));
    if named.target.delivery.is_some() {
        text.push_str(&format!(
            "  now: dusk deliver {}{}\n",
            shell_word(&name),
            mapping_option(&named.mapping)
        ));
    }
    print(&text)?;
    Ok(Ended::AllAccepted)
}

pub(super) fn run_turn_down(args: &TurnDownArgs) -> Outcome {
    let named = NamedBatch::find(&args.batch, &args.of)?;
    let batch = named.batch()?;
    if args.why.trim().is_empty() {
        return Err(Failure::Stopped(
            "--why says nothing\n  write what is wrong with the batch, for the person who corrects it".into(),
        ));
    }
    turn_down(batch, named.doer(), &args.why)?;
    print(&format!(
        "batch {} is turned down by {}: {}\n  it is not delivered; make it again with dusk conform --again when that is corrected\n",
        batch.name(),
        visible(named.doer().by),
        visible(&args.why)
    ))?;
    Ok(Ended::AllAccepted)
}
