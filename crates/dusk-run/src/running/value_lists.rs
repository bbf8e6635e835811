//! The companion lists of values: `new-values.csv`, which nothing matches, and `decided-values.csv`, of which
//! somebody decided that they are left blank, keep their records out, or go in as new terms.

use std::collections::BTreeMap;
use std::path::Path;

use dusk_decisions::{KEEP_OUT, LEAVE_BLANK, NEW_TERM};
use dusk_description::fold;
use dusk_evidence::{CodeFact, Fact, Finding, Id as _, Kind, Result, Row, SourceId};
use dusk_files::{ListFile, OutputFile};
use dusk_sources::Source;
use dusk_values::{Invisible, is_odd_space};

/// Both lists. Each value stands there once, cleaned; case and spaces do not count. They grow with the different
/// values only.
#[derive(Debug, Default)]
pub(crate) struct ValueLists {
    /// What nothing matches, for whoever keeps the target's lists.
    new: Listed,
    /// What was decided on, to be cleaned up later.
    decided: Listed,
}

/// By field, folded value, and the parent code inside which it was met.
type Listed = BTreeMap<(String, String, String), ListedValue>;

/// What is known of a value that is listed.
#[derive(Debug)]
struct ListedValue {
    /// As it was met first, cleaned.
    value: String,
    kind: Kind,
    /// What was decided, by whom and when; nothing where nobody has decided.
    decision: Option<[String; 3]>,
    count: u64,
    source: SourceId,
    row: Row,
}

impl ValueLists {
    pub(crate) fn note(&mut self, finding: &Finding) {
        let kind = finding.fault.kind();
        let decision = decision(finding.fault.fact.innermost());
        let is_new =
            matches!(kind, Kind::UnknownReference | Kind::NewTerm | Kind::LeftBlank | Kind::KeptUnmatched);
        let list = match (&decision, is_new) {
            (Some(_), _) => &mut self.decided,
            (None, true) => &mut self.new,
            (None, false) => return,
        };
        let value = cleaned(finding.fault.part.as_ref().unwrap_or(&finding.value));
        let known = list.entry((finding.about.clone(), fold(&value), finding.fault.within.clone()));
        let (source, row) = (finding.source, finding.row);
        known.or_insert(ListedValue { value, kind, decision, count: 0, source, row }).count += 1;
    }

    /// Writes the lists that hold anything.
    pub(crate) fn write(self, folder: &Path, sources: &[Source]) -> Result<Vec<OutputFile>> {
        let mut written = Vec::new();
        let place = |value: &ListedValue| {
            let source = sources.get(value.source.index()).map_or("", |source| source.name.as_str());
            [value.count.to_string(), source.to_owned(), value.row.to_string()]
        };
        if !self.new.is_empty() {
            // The column `code` is left for the answer of whoever keeps the list.
            let header = ["field", "value", "within", "code", "finding", "rows", "source", "first row"];
            let mut list = ListFile::create(folder, "new-values.csv", header)?;
            for ((field, _, within), new) in &self.new {
                let [count, source, row] = place(new);
                list.append([field, &new.value, within, "", new.kind.code(), &count, &source, &row])?;
            }
            written.push(list.finish()?);
        }
        if !self.decided.is_empty() {
            let header = ["field", "value", "within", "code", "by", "on", "rows", "source", "first row"];
            let mut list = ListFile::create(folder, "decided-values.csv", header)?;
            for ((field, _, within), decided) in &self.decided {
                let [count, source, row] = place(decided);
                let [code, by, on] =
                    decided.decision.as_ref().map_or([""; 3], |said| said.each_ref().map(String::as_str));
                list.append([field, &decided.value, within, code, by, on, &count, &source, &row])?;
            }
            written.push(list.finish()?);
        }
        Ok(written)
    }
}

/// What a crosswalk line says of a value that has no code: what, by whom and when.
fn decision(fact: &Fact) -> Option<[String; 3]> {
    let (code, by, on) = match fact {
        Fact::Code(CodeFact::KeepsOut { by, on }) => (KEEP_OUT, by, on),
        Fact::Code(CodeFact::LeavesBlank { by, on }) => (LEAVE_BLANK, by, on),
        Fact::Code(CodeFact::TermAllowed { by, on, .. }) => (NEW_TERM, by, on),
        _ => return None,
    };
    Some([code.to_owned(), by.clone(), on.clone()])
}

/// A value as people read it: without characters that nobody sees, with single plain spaces.
fn cleaned(value: &str) -> String {
    let invisible = Invisible::in_text(value);
    let seen = value.chars().filter(|c| !invisible.hides(*c));
    let plain: String = seen.map(|c| if is_odd_space(c) { ' ' } else { c }).collect();
    plain.split_whitespace().collect::<Vec<_>>().join(" ")
}
