//! Which records would have to be left out where a limit is passed.

use std::collections::BTreeMap;
use std::fmt::Write as _;

use dusk_core::evidence::Id as _;
use dusk_core::run::{LeavingOut, LeftRecord, Ready};
use serde_json::{Value, json};

use super::layout::{counted, grouped};
use super::style::{COMMAND, NAME, styled};
use super::visible::{shell_word, visible};

/// How many records are shown.
const FEW: usize = 8;

/// The proposals, and how they are taken. `list` is the file that has all of them, where one was written.
pub(crate) fn leaving_out_lines(ready: &Ready<'_>, proposals: &[LeavingOut], list: Option<&str>) -> String {
    let mut out = String::new();
    for proposal in proposals {
        let rule = visible(&proposal.rule);
        if proposal.records.is_empty() {
            let _ = writeln!(
                out,
                "\nno number of records left out makes {rule} hold without breaking another rule"
            );
            continue;
        }
        let _ = writeln!(
            out,
            "\n{rule} would hold without {} of {}, chosen in the order that target.toml names:",
            styled(NAME, &counted(proposal.records.len() as u64, "record")),
            grouped(proposal.among)
        );
        for record in proposal.records.iter().take(FEW) {
            let source =
                ready.job.sources.get(record.source.index()).map_or("", |source| source.name.as_str());
            let values: Vec<String> = record
                .values
                .iter()
                .map(|(name, text)| format!("{} {}", visible(name), visible(text)))
                .collect();
            let _ = writeln!(
                out,
                "  row {} of {}  {}  {}",
                record.row,
                visible(source),
                visible(&record.key),
                values.join(", ")
            );
        }
        if proposal.records.len() > FEW {
            let _ = writeln!(out, "  and {} more", proposal.records.len() - FEW);
        }
    }
    if proposals.iter().any(|proposal| !proposal.records.is_empty()) {
        let _ = match list {
            Some(list) => writeln!(
                out,
                "all of them are in {0}; say yes there to those that are to go in all the same, and bring it back: {1}",
                visible(list),
                styled(COMMAND, &format!("dusk correct {}", shell_word(list)))
            ),
            None => writeln!(
                out,
                "nothing was left out; {} writes them down, to be agreed to",
                styled(COMMAND, "--leave-out-list FILE")
            ),
        };
    }
    out
}

/// The same for programs.
pub(crate) fn leaving_out_json(ready: &Ready<'_>, proposals: &[LeavingOut]) -> Value {
    let record = |record: &LeftRecord| {
        let source = ready.job.sources.get(record.source.index()).map_or("", |source| source.name.as_str());
        let values: BTreeMap<&str, &str> =
            record.values.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect();
        json!({"source": source, "row": record.row.0, "key": record.key, "chosen_by": values})
    };
    let proposal = |proposal: &LeavingOut| {
        let records: Vec<Value> = proposal.records.iter().map(record).collect();
        json!({"rule": proposal.rule, "among": proposal.among, "records": records})
    };
    proposals.iter().map(proposal).collect()
}
