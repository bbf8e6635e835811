//! Results for programs, read into types that refuse every key that they do not know: a program that was written
//! for one version must not meet another form under the same number.

use serde::Deserialize;
use serde_json::Value;

use crate::desk::Desk;

/// What `check` and `conform` print.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Run {
    form: u32,
    last_batch: Option<String>,
    new: Vec<String>,
    totals: Totals,
    records: u64,
    held: Option<Value>,
    withheld: Option<Value>,
    limits: Vec<Value>,
    sent_totals: Vec<Value>,
    changed_cells: u64,
    in_last_batch: Option<InLastBatch>,
    causes: Vec<Cause>,
    explained: Vec<u64>,
    remarks: Vec<Cause>,
    sources: Vec<Source>,
    evidence: Vec<FieldEvidence>,
    batch: Option<Batch>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct InLastBatch {
    same: u64,
    other_facts: u64,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Totals {
    read: u64,
    accepted: u64,
    rejected: u64,
    merged: u64,
    left_out: u64,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Cause {
    finding: String,
    severity: String,
    about: String,
    value: Option<String>,
    within: String,
    count: u64,
    of: Option<u64>,
    rows: u64,
    alone: u64,
    column: Option<Column>,
    likely: Vec<Likely>,
    first: First,
    wrong: String,
    right: String,
    settle: Option<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Column {
    says: String,
    details: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Likely {
    answer: String,
    shown: String,
    why: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct First {
    source: String,
    row: u64,
    line: u64,
    value: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Source {
    file: String,
    bytes: u64,
    blake3: String,
    encoding: String,
    delimiter: String,
    header_row: u64,
    evidence: Vec<Evidence>,
    workbook: Option<Value>,
    records: Option<Value>,
    columns: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct FieldEvidence {
    field: String,
    evidence: Evidence,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Evidence {
    claim: String,
    verdict: String,
    #[serde(default)]
    reading: Value,
    readings: Vec<Value>,
    suggests: Vec<String>,
    settle: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Batch {
    folder: String,
    loaded: Option<Value>,
    outputs: Vec<Output>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Output {
    file: String,
    rows: Option<u64>,
    bytes: u64,
    blake3: String,
}

/// What `explain` prints.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Life {
    form: u32,
    source: String,
    row: u64,
    line: u64,
    fate: String,
    cells: Vec<Cell>,
    records: Vec<Record>,
    findings: Vec<Finding>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Cell {
    column: String,
    value: String,
    kind: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Record {
    repeat: String,
    group: String,
    held: Option<Value>,
    fields: Vec<Field>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Field {
    field: String,
    steps: Vec<Step>,
    upload: Option<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Step {
    step: String,
    after: String,
    evidence: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Finding {
    finding: String,
    severity: String,
    about: String,
    repeat: String,
    value: String,
    wrong: String,
    right: String,
}

/// What `correct` prints of edited rejects.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct BroughtBack {
    form: u32,
    rows: u64,
    changes: Vec<Change>,
    remarks: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Change {
    source: String,
    row: u64,
    column: String,
    was: String,
    before: String,
    now: String,
}

/// What `correct SOURCE` prints.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Correction {
    row: u64,
    column: String,
    was: String,
    now: String,
    by: String,
    on: String,
    note: String,
    state: String,
    row_now: Option<u64>,
    has: Option<String>,
}

fn result<'t, T: Deserialize<'t>>(text: &'t str) -> T {
    serde_json::from_str(text).unwrap_or_else(|error| panic!("{error}:\n{text}"))
}

const JSON: [&str; 4] = ["--format", "json", "--today", "2026-04-30"];

#[test]
fn runs_print_what_is_promised_and_nothing_else() {
    let desk = Desk::new();
    let checked = desk.run(&[&["check", "export.csv"][..], &JSON].concat()).ended(1).out;
    let run: Run = result(&checked);
    let Totals { read, accepted, rejected, merged, left_out } = run.totals;
    assert_eq!([read, accepted, rejected, merged, left_out], [2, 1, 1, 0, 0]);
    let [cause] = run.causes.as_slice() else { panic!("{checked}") };
    assert_eq!((cause.finding.as_str(), cause.severity.as_str(), cause.count), ("not-a-code", "reject", 1));
    let First { source, row, line, value } = &cause.first;
    assert_eq!((source.as_str(), *row, *line, value.as_str()), ("export.csv", 3, 3, "yel."));
    assert_eq!(cause.likely[0].answer, "Y");
    assert!(run.batch.is_none() && run.form == 4);
    // A batch prints the same, and what it has made.
    let words = [&["conform", "export.csv", "-o", "batch"][..], &JSON].concat();
    let made: Run = result(&desk.run(&words).ended(1).out);
    let Batch { folder, outputs, .. } = made.batch.unwrap();
    assert_eq!(
        (folder.as_str(), outputs[0].file.as_str(), outputs[0].rows),
        ("batch", "upload/up-1.csv", Some(1))
    );
    assert!(outputs.iter().all(
        |output| output.bytes == std::fs::metadata(desk.path("batch").join(&output.file)).unwrap().len()
    ));
}

#[test]
fn the_life_of_a_row_is_told_with_all_its_steps() {
    let desk = Desk::new();
    let life: Life = result(&desk.run(&[&["explain", "export.csv", "2"][..], &JSON].concat()).ended(0).out);
    assert_eq!((life.fate.as_str(), life.form, life.findings.len()), ("accepted", 4, 0));
    let Cell { column, value, kind } = &life.cells[0];
    assert_eq!((column.as_str(), value.as_str(), kind.as_str()), ("No", "117", "text"));
    let Field { field, steps, upload } = &life.records[0].fields[0];
    assert_eq!((field.as_str(), upload.as_deref()), ("apiary_id", Some("000117")));
    let Step { step, after, evidence } = &steps[0];
    assert_eq!((step.as_str(), after.as_str()), ("digits", "000117"));
    assert!(evidence.contains("6 digits"));
    let rejected: Life =
        result(&desk.run(&[&["explain", "export.csv", "3"][..], &JSON].concat()).ended(0).out);
    assert_eq!((rejected.fate.as_str(), rejected.findings[0].value.as_str()), ("rejected", "yel."));
}

#[test]
fn corrections_are_printed_old_beside_new() {
    let desk = Desk::new();
    desk.conform().ended(1);
    let desk = desk.edited("batch/rejects.csv", ",yel.,", ",Yellow,");
    let back = desk
        .run(&["correct", "batch/rejects.csv", "--yes", "--by", "A. Clerk", "--format", "json"])
        .ended(0)
        .out;
    let BroughtBack { form, rows, changes, remarks } = result(&back);
    assert_eq!(form, 1);
    assert_eq!((rows, remarks.len()), (1, 0), "{back}");
    let Change { source, row, column, was, before, now } = &changes[0];
    assert_eq!((source.as_str(), *row, column.as_str()), ("export.csv", 3, "Queen"));
    assert_eq!([was, before, now], ["yel.", "yel.", "Yellow"]);
    let listed = desk.run(&["correct", "export.csv", "--format", "json"]).ended(0).out;
    let all: Vec<Correction> = result(&listed);
    assert_eq!((all[0].state.as_str(), all[0].row_now, all[0].by.as_str()), ("applied", Some(3), "A. Clerk"));
}

/// What `trial` prints.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Trial {
    form: u32,
    rows: Vec<TrialRow>,
    shown: u64,
    things: u64,
    rows_for_all: u64,
    totals: Totals,
    written: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct TrialRow {
    row: u64,
    line: u64,
    fate: String,
    shows: Vec<String>,
    records: Vec<TrialRecord>,
    findings: Vec<Finding>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct TrialRecord {
    repeat: String,
    group: String,
    fields: Vec<TrialField>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct TrialField {
    field: String,
    before: String,
    steps: Vec<Step>,
    upload: Option<String>,
}

/// What `batches` prints: the receipts are those of the batch folders.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Batches {
    form: u32,
    batches: Vec<Past>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Past {
    batch: String,
    folder: String,
    stage: String,
    there: String,
    receipt: Option<Value>,
    changed: Vec<Changed>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Changed {
    file: String,
    is: String,
}

/// A line of a crosswalk, and one that is in doubt.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Line {
    field: String,
    value: String,
    within: String,
    code: String,
    by: String,
    on: String,
    note: String,
}

/// A field as `target show` prints it.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct ShownField {
    name: String,
    label: String,
    #[serde(rename = "type")]
    kind: String,
    required: String,
    format: String,
    values: String,
    description: String,
}

/// What `map` prints.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
#[allow(dead_code, reason = "that they are there is what is tested")]
struct Mapped {
    form: u32,
    source: String,
    mapping: String,
    changed: bool,
    proposals: Vec<Value>,
    doubts: Vec<Value>,
    not_proposed: Vec<Value>,
    columns_without: Vec<String>,
    fields_without: Vec<String>,
}

#[test]
fn what_is_looked_up_comes_in_forms_of_its_own() {
    let desk = Desk::new();
    let run = |words: &str, status: i32| {
        let words: Vec<&str> = words.split(' ').collect();
        desk.run(&[&words[..], &["--format", "json"]].concat()).ended(status).out
    };
    let trial: Trial = result(&run("trial export.csv -n 1 --today 2026-04-30", 0));
    assert_eq!((trial.form, trial.rows.len(), trial.totals.read), (2, 1, 2));
    assert!(trial.shown <= trial.things && trial.rows_for_all >= 1 && trial.written.is_empty());
    let field = &trial.rows[0].records[0].fields[0];
    assert_eq!((field.before.as_str(), field.upload.as_deref()), ("117", Some("000117")));
    let mapped: Mapped = result(&run("map export.csv --today 2026-04-30", 0));
    assert!(!mapped.changed && mapped.columns_without.is_empty() && mapped.not_proposed.is_empty());
    let fields: Vec<ShownField> = result(&run("target show", 0));
    assert_eq!((fields[0].name.as_str(), fields[0].required.as_str()), ("apiary_id", "yes, key"));
    // The same decision in the list of all, and nothing in doubt about it.
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y", "--today", "2026-04-30"]).ended(0);
    let lines: Vec<Line> = result(&run("crosswalk list", 0));
    assert_eq!(
        (lines[0].value.as_str(), lines[0].code.as_str(), lines[0].on.as_str()),
        ("yel.", "Y", "2026-04-30")
    );
    let doubts: Vec<Value> = result(&run("crosswalk check export.csv --today 2026-04-30", 0));
    assert_eq!(doubts, Vec::<Value>::new());
}

#[test]
fn past_batches_come_with_their_receipts_and_what_was_changed() {
    let desk = Desk::new();
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    let desk = desk.edited("batches/april/upload/up-1.csv", "117", "118");
    let printed = desk.run(&["batches", "--format", "json"]).ended(1).out;
    let Batches { form, batches } = result(&printed);
    let [Past { batch, folder, stage, there, receipt, changed }] = batches.as_slice() else {
        panic!("{printed}")
    };
    assert_eq!((stage.as_str(), there.as_str()), ("draft", ""));
    assert_eq!((form, batch.as_str(), folder.as_str()), (1, "april", "batches/april"));
    let [Changed { file, is }] = changed.as_slice() else { panic!("{printed}") };
    assert_eq!((file.as_str(), is.as_str()), ("upload/up-1.csv", "edited"));
    let written: Value = serde_json::from_str(&desk.read("batches/april/receipt.json")).unwrap();
    assert_eq!(receipt.as_ref(), Some(&written), "the receipt is the file's");
    let mut shown: Value = result(&desk.run(&["batches", "show", "april", "--format", "json"]).ended(1).out);
    let after = shown.as_object_mut().unwrap();
    assert_eq!(
        (after.remove("stage"), after.remove("events")),
        (Some("draft".into()), Some(Value::Array(vec![])))
    );
    assert_eq!(shown, written);
}

/// The keys of every object that a command prints are on the page of results, and each tells its form.
#[test]
fn every_result_for_programs_is_documented_and_tells_its_form() {
    let page = std::fs::read_to_string(crate::docs::root().join("docs/results.md")).unwrap();
    let desk = Desk::new()
        .edited("target.toml", "[upload]", "[holds]\nfile = \"held.csv\"\n[upload]")
        .with("held.csv", "apiary_id;visit_date;queen;honey_kg\n");
    desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(1);
    desk.run(&["inspect", "export.csv", "--write-agreed", "agreed.toml"]).ended(0);
    let desk = desk.with("dictionary.csv", "Field,Type,Required\nname,text,Y\n");
    for words in [
        &["inspect", "export.csv"][..],
        &["inspect", "export.csv", "--agreed", "agreed.toml"],
        &["status"],
        &["map", "export.csv"],
        &["map", "--list"],
        &["map", "export.csv", "--show"],
        &["trial", "export.csv"],
        &["check", "export.csv"],
        &["compare", "export.csv"],
        &["explain", "export.csv", "2"],
        &["target", "draft", "dictionary.csv", "-o", "drafted.toml"],
        &["target", "check"],
        &["batches"],
        &["batches", "--key", "000117"],
        &["deliver", "2026-04-30-a"],
    ] {
        let ran = desk.run(&[words, &["--format", "json"]].concat());
        if words[0] == "deliver" {
            // Nothing says where it goes, so nothing is printed.
            assert!(ran.out.is_empty(), "{}", ran.out);
            continue;
        }
        let value: serde_json::Value = result(&ran.out);
        let object = value.as_object().unwrap_or_else(|| panic!("{words:?}: {}", ran.out));
        assert!(object["form"].as_u64().is_some_and(|form| form > 0), "{words:?}");
        let missing: Vec<&String> = object.keys().filter(|key| !page.contains(&format!("`{key}`"))).collect();
        assert!(missing.is_empty(), "{missing:?} of {words:?} are not in docs/results.md");
    }
    let wrong = desk.edited("target.toml", "digits = 6", "digits = \"six\"");
    let ran = wrong.run(&["target", "check", "--format", "json"]).ended(1);
    let value: serde_json::Value = result(&ran.out);
    assert!(
        value["problems"][0].as_str().unwrap().contains("digits") && value["fields"].is_null(),
        "{value}"
    );
}
