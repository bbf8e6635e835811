//! How good proposals are: exports of six scenarios, headed as people head them, each with the right
//! mapping by hand.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use dusk_core::description::Target;
use dusk_core::evidence::Id as _;
use dusk_core::mapping::read_incomplete;

use dusk_core::drafting::stated_limits;
use dusk_core::proposing::{Proposal, Proposing, Sureness, propose, write_mapping};
use dusk_core::sources::{Known, Source, SourceSettings, Threads};

/// An export: what it is called, the right column of each field that has one, and the file.
struct Export {
    name: String,
    right: BTreeMap<String, String>,
    text: String,
}

fn scenarios() -> Vec<PathBuf> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/proposals");
    let mut all: Vec<PathBuf> = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    all.sort();
    all
}

fn exports(folder: &Path) -> Vec<Export> {
    let text = fs::read_to_string(folder.join("exports.txt")).unwrap();
    let export = |part: &str| {
        let (name, rest) = part.split_once('\n').unwrap();
        let (right, rows) = rest.split_once("---\n").unwrap();
        let pair = |line: &str| {
            line.split_once(" <- ").map(|(field, column)| (field.into(), column.into())).unwrap()
        };
        Export { name: name.into(), right: right.lines().map(pair).collect(), text: rows.into() }
    };
    text.split("== ").skip(1).map(export).collect()
}

#[test]
fn sure_proposals_are_right_and_most_are_found() {
    let (mut pairs, mut right, mut wrong, mut wanted, mut likely_right) = (0, 0, Vec::new(), 0, 0);
    for folder in scenarios() {
        let target = Target::read(&folder.join("target.toml")).unwrap();
        for export in exports(&folder) {
            pairs += 1;
            wanted += export.right.len();
            let file = tempfile::Builder::new().suffix(".csv").tempfile().unwrap();
            fs::write(file.path(), &export.text).unwrap();
            let source = Source::look(file.path(), &SourceSettings::default(), &Known::default()).unwrap();
            for column in export.right.values() {
                assert!(source.column(column).is_some(), "{}: no column {column}", export.name);
            }
            let today = "2026-11-01".parse().unwrap();
            let proposed = propose(
                &source,
                &target,
                &Proposing::new(today, Threads::default(), stated_limits),
                &|_, _| {},
            )
            .unwrap();
            let mut missed = export.right.clone();
            for proposal in &proposed.proposals {
                let field = target.fields.get(proposal.field).unwrap().name.as_str();
                let column = proposal.fed.column().map_or("", |column| source.heading(column));
                let is_right = export.right.get(field).is_some_and(|known| known == column);
                match (proposal.sureness, is_right) {
                    (Sureness::Sure, true) => {
                        right += 1;
                        missed.remove(field);
                    }
                    (_, false) if proposal.sureness != Sureness::Likely => wrong.push(format!(
                        "{}: {field} from \"{column}\" ({})",
                        export.name,
                        proposal.reasons.join("; ")
                    )),
                    (_, true) => likely_right += 1,
                    (_, false) => {
                        println!("only likely, and wrong: {}: {field} from \"{column}\"", export.name);
                    }
                }
            }
            for (field, column) in missed {
                let found = target.field(&field).and_then(|place| proposed.of_field(place));
                let says = found.map_or("not proposed".into(), |proposal| {
                    format!("{:?} {}", proposal.sureness, proposal.reasons.join("; "))
                });
                println!("not written: {}: {field} from \"{column}\": {says}", export.name);
            }
        }
    }
    let written = right + wrong.len();
    println!(
        "{pairs} exports, {wanted} right pairs: {written} written, {right} of them right (precision {}.{:03}, recall {}.{:03}); {likely_right} more likely and right",
        right / written.max(1),
        right * 1000 / written.max(1) % 1000,
        right / wanted,
        right * 1000 / wanted % 1000,
    );
    assert!(pairs >= 30);
    assert_eq!(wrong, Vec::<String>::new(), "written as sure, and wrong");
    assert!(right * 100 >= wanted * 85, "only {right} of {wanted} were written");
}

#[test]
fn a_refresh_of_an_unchanged_source_changes_no_byte() {
    for folder in scenarios() {
        let target = Target::read(&folder.join("target.toml")).unwrap();
        for export in exports(&folder) {
            let desk = tempfile::tempdir().unwrap();
            let (file, path) = (desk.path().join("export.csv"), desk.path().join("mapping.toml"));
            fs::write(&file, &export.text).unwrap();
            let source = Source::look(&file, &SourceSettings::default(), &Known::default()).unwrap();
            let today = "2026-11-01".parse().unwrap();
            let first = propose(
                &source,
                &target,
                &Proposing::new(today, Threads::default(), stated_limits),
                &|_, _| {},
            )
            .unwrap();
            let way = folder.join("target.toml").display().to_string();
            let written = write_mapping(&first, &source, &target, (&way, &[]), None).unwrap();
            fs::write(&path, &written.text).unwrap();
            let (mapping, target) =
                read_incomplete(&path).unwrap_or_else(|wrong| panic!("{wrong}\n{}", written.text));
            let again = propose(
                &source,
                &target,
                &Proposing {
                    mapping: Some(&mapping),
                    ..Proposing::new(today, Threads::default(), stated_limits)
                },
                &|_, _| {},
            )
            .unwrap();
            let rewritten =
                write_mapping(&again, &source, &target, ("", &[]), Some((&written.text, &mapping))).unwrap();
            assert_eq!(rewritten.text, written.text, "{}", export.name);
            assert!(again.doubts.is_empty(), "{}: {:?}", export.name, again.doubts);
        }
    }
}

/// What is sure of an export's fields, as pairs of a field's name and a column's place.
fn sure(text: &str, target: &Target) -> Vec<(String, usize)> {
    let file = tempfile::Builder::new().suffix(".csv").tempfile().unwrap();
    fs::write(file.path(), text).unwrap();
    let source = Source::look(file.path(), &SourceSettings::default(), &Known::default()).unwrap();
    let today = "2026-11-01".parse().unwrap();
    let proposed =
        propose(&source, target, &Proposing::new(today, Threads::default(), stated_limits), &|_, _| {})
            .unwrap();
    let is_sure = |proposal: &&Proposal| proposal.sureness == Sureness::Sure;
    let name = |field| target.fields.get(field).unwrap().name.clone();
    let sure = proposed.proposals.iter().filter(is_sure);
    sure.filter_map(|proposal| Some((name(proposal.field), proposal.fed.column()?.index()))).collect()
}

#[test]
fn headings_that_say_nothing_columns_moved_and_columns_emptied_make_nothing_surely_wrong() {
    let mut met = 0;
    for folder in scenarios() {
        let target = Target::read(&folder.join("target.toml")).unwrap();
        for export in exports(&folder) {
            let mut reader = csv::ReaderBuilder::new()
                .has_headers(false)
                .flexible(true)
                .from_reader(export.text.as_bytes());
            let rows: Vec<Vec<String>> =
                reader.records().map(|row| row.unwrap().iter().map(str::to_owned).collect()).collect();
            let width = rows[0].len();
            if rows.iter().any(|row| row.len() != width) {
                continue;
            }
            let right: Vec<(String, usize)> = export
                .right
                .iter()
                .filter_map(|(field, column)| {
                    Some((field.clone(), rows[0].iter().position(|it| it == column)?))
                })
                .collect();
            let said = |change: &dyn Fn(usize, usize, &str) -> String| {
                let mut writer = csv::Writer::from_writer(Vec::new());
                for (line, row) in rows.iter().enumerate() {
                    writer
                        .write_record(row.iter().enumerate().map(|(at, cell)| change(line, at, cell)))
                        .unwrap();
                }
                sure(&String::from_utf8(writer.into_inner().unwrap()).unwrap(), &target)
            };
            let unnamed = said(&|line, at, cell| if line == 0 { format!("c{at}") } else { cell.into() });
            assert!(unnamed.iter().all(|pair| right.contains(pair)), "{}: {unnamed:?}", export.name);
            let backwards = said(&|line, at, _| rows[line][width - 1 - at].clone());
            for (field, at) in &backwards {
                assert!(right.contains(&(field.clone(), width - 1 - at)), "{}: {field}", export.name);
            }
            met += backwards.len();
            for (field, empty) in &right {
                let rest = said(&|line, at, cell| {
                    if line > 0 && at == *empty { String::new() } else { cell.into() }
                });
                assert!(
                    rest.iter().all(|(name, at)| name != field && at != empty),
                    "{}: {field}",
                    export.name
                );
                assert!(rest.iter().all(|pair| right.contains(pair)), "{}: {rest:?}", export.name);
            }
        }
    }
    assert!(met > 200, "only {met} were sure with their columns backwards");
}
