//! What came of handing a batch over, what happened to it, and how far it has come.

use std::fmt::Write as _;

use dusk_core::delivery::{BatchEvent, Confirmed, FileDelivered, Handed, Happened, Stage};

use super::layout::{counted, item, width, wrapped};
use super::style::{COMMAND, GOOD, NAME, REMARK, WRONG, styled};
use super::visible::{shell_word, visible};

/// What came of each file, and the next command.
pub(crate) fn delivered_lines(
    (batch, option): (&str, &str),
    files: &[FileDelivered],
    (says_next, asks): (bool, bool),
) -> String {
    let mut out = String::new();
    // Where the target can be asked, no file is needed.
    let file = if asks { "" } else { " FILE" };
    let mut next = format!("dusk answer {}{file}{option}", shell_word(batch));
    for file in files {
        let (state, says) = match &file.handed {
            Handed::Over { says, .. } if file.was_before => (styled(GOOD, "delivered before"), says),
            Handed::Over { says, .. } => (styled(GOOD, "delivered"), says),
            Handed::Not { says, .. } => {
                next = format!("dusk deliver {}{option}", shell_word(batch));
                (styled(WRONG, "not delivered"), says)
            }
            Handed::Unknown { says } if asks => {
                next = format!("dusk deliver {}{option}, which asks the target", shell_word(batch));
                (styled(REMARK, "unknown whether the target has it"), says)
            }
            Handed::Unknown { says } => {
                next = format!(
                    "dusk deliver {}{option} --is-there {1}, or --is-not-there {1}, once you have looked there",
                    shell_word(batch),
                    shell_word(&file.file)
                );
                (styled(REMARK, "unknown whether the target has it"), says)
            }
        };
        let _ = writeln!(
            out,
            "{}, {}: {state}",
            styled(NAME, &visible(&file.file)),
            counted(file.records, "record")
        );
        for line in wrapped(&visible(says), width() - 2, 0) {
            let _ = writeln!(out, "  {line}");
        }
    }
    if says_next {
        let _ = writeln!(out, "  now: {}", styled(COMMAND, &next));
    }
    out
}

/// How far a batch has come, as a word with a colour.
pub(crate) fn stage_word(stage: Stage) -> String {
    let style = match stage {
        Stage::Complete => GOOD,
        Stage::TurnedDown | Stage::Unknown | Stage::PartlyDelivered => WRONG,
        Stage::Answered | Stage::Delivered | Stage::Approved | Stage::Draft => {
            return stage.words().to_owned();
        }
    };
    styled(style, stage.words())
}

/// What happened to a batch since it was made, a line each.
pub(crate) fn event_lines(events: &[BatchEvent]) -> String {
    let mut out = String::new();
    for event in events {
        // What is about to happen is of no interest once it has.
        let is_past = event.what == Happened::Sending && events.last() != Some(event);
        if is_past {
            continue;
        }
        let what = match event.what {
            Happened::Approved => "approved",
            Happened::TurnedDown => "turned down",
            Happened::Sending => "being delivered, or broken off",
            Happened::Delivered => "delivered",
            Happened::NotDelivered => "not delivered",
            Happened::Answered => "answered",
            Happened::Differs => "compared: it differs",
            Happened::Complete => "complete",
        };
        let by = if event.by.is_empty() { String::new() } else { format!(" by {}", event.by) };
        let file = if event.file.is_empty() { String::new() } else { format!(" {}", event.file) };
        let says = without_hash(&event.says);
        let says = if says.is_empty() { String::new() } else { format!(": {says}") };
        out.push_str(&item(&day_of(&event.at), &format!("{what}{file}{by}{says}")));
    }
    out
}

/// A day, or the day of a moment, as people write it.
fn day_of(at: &str) -> String {
    let day = at.get(..10).and_then(|day| day.parse().ok());
    day.map_or_else(|| at.to_owned(), dusk_core::values::shown)
}

/// What was said, without the hashes that programs compare.
fn without_hash(says: &str) -> String {
    let Some((before, rest)) = says.split_once(" (blake3 ") else { return says.to_owned() };
    let after = rest.split_once(')').map_or("", |(_, after)| after);
    format!("{before}{after}")
}

/// What a batch comes to beside what the target says.
pub(crate) fn confirmed_lines((batch, option): (&str, &str), done: &Confirmed, left: u64) -> String {
    let mut out = String::new();
    let mut say = |label: &str, says: &str| {
        for (place, line) in wrapped(&visible(says), width() - 9, 0).iter().enumerate() {
            let label = if place == 0 { label.to_owned() } else { " ".repeat(7) };
            let _ = writeln!(out, "{label}  {line}");
        }
    };
    done.agrees.iter().for_each(|says| say(&styled(GOOD, "agrees "), says));
    done.differs.iter().for_each(|says| say(&styled(WRONG, "differs"), says));
    let counts = done.counts;
    let not_there =
        if counts.not_there > 0 { format!(" + {} not there", counts.not_there) } else { String::new() };
    let _ = writeln!(
        out,
        "{} sent = {} loaded + {} loaded with a warning + {} refused{not_there} + {} not mentioned",
        counted(counts.sent, "record"),
        counts.loaded,
        counts.warned,
        counts.refused,
        counts.not_mentioned
    );
    let word = format!("{}{option}", shell_word(batch));
    let (says, next) = match (done.is_complete, left) {
        (true, 0) => (styled(GOOD, "complete"), None),
        (true, _) => (styled(GOOD, "complete"), Some(format!("dusk check --rest {word}"))),
        (false, _) if counts.not_mentioned > 0 => (
            styled(WRONG, "not complete"),
            Some(format!(
                "dusk answer {} FILE{option}, or name the target's list under [holds] and run this again",
                shell_word(batch)
            )),
        ),
        (false, _) => (styled(WRONG, "not complete"), None),
    };
    let _ = writeln!(out, "batch {batch} is {says}");
    if let Some(next) = next {
        let _ = writeln!(out, "  now: {}", styled(COMMAND, &next));
    }
    out
}
