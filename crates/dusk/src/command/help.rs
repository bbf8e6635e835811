//! `dusk help findings` and `dusk help not-a-code`: what a finding is about, and how it is settled.

use std::ffi::OsString;

use dusk_core::evidence::Kind;
use dusk_core::values::nearest;

use crate::args::TableFormat;
use crate::show::{SimpleTable, wrapped_page};

/// The page that is asked for; nothing where it is one about a command.
pub(crate) fn help_about(words: &[OsString]) -> Option<String> {
    let [_, help, topic] = words else { return None };
    let topic = topic.to_str().filter(|_| help == "help")?;
    if topic == "findings" {
        return Some(all_findings());
    }
    let kind = Kind::ALL.iter().copied().find(|kind| kind.code() == topic);
    match kind {
        Some(kind) => Some(about(kind)),
        // Commands have no hyphens but a few, so that a finding that is nearly meant is told.
        None => {
            let near = nearest(topic, Kind::ALL.iter().map(|kind| kind.code()))?;
            let is_finding = topic.contains('-') && !matches!(topic, "turn-down" | "follow-up");
            is_finding.then(|| format!("there is no finding {topic}\n  did you mean dusk help {near}?\n"))
        }
    }
}

/// Each finding in a line.
fn all_findings() -> String {
    let mut table = SimpleTable::new(&["finding", "severity", "what it is about"]);
    for kind in Kind::ALL {
        table.add([kind.code().to_owned(), kind.severity().word().to_owned(), kind.title().to_owned()]);
    }
    let table = table.print(TableFormat::Text).unwrap_or_default();
    format!("{table}\ndusk help NAME tells what one of them means, and how it is settled\n")
}

fn about(kind: Kind) -> String {
    let explanation = kind.explanation().lines().map(str::trim).collect::<Vec<_>>().join(" ");
    format!(
        "{}: {} ({})\n\n{}",
        kind.code(),
        kind.title(),
        kind.severity().word(),
        wrapped_page(&explanation)
    )
}
