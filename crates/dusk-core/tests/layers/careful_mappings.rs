//! Twelve exports in as many trades, four of them across languages, each with the mapping that a careful person would
//! make: columns, joins (`{A} {B}`), parts of cells (`A / part`), and fields about which one should ask (`?`).

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use dusk_core::description::Target;
use dusk_core::drafting::stated_limits;
use dusk_core::evidence::Id;
use dusk_core::proposing::{Fed, Proposal, Proposing, Sureness, TradeWords, propose};
use dusk_core::sources::{Known, Source, SourceSettings, Threads};

/// How proposals did.
#[derive(Debug, Default)]
struct Score {
    wrong: Vec<String>,
    certain: usize,
    found: usize,
    proposed: usize,
    right: usize,
}

impl Score {
    fn percent(of: usize, all: usize) -> usize {
        of * 100 / all.max(1)
    }
}

/// What a proposal is, as a `right.txt` says it.
fn said(proposal: &Proposal, source: &Source) -> String {
    match &proposal.fed {
        Fed::Column(column) if proposal.keys.iter().any(|key| key.line.starts_with("part ")) => {
            format!("{} / part", source.heading(*column))
        }
        Fed::Column(column) => source.heading(*column).to_owned(),
        Fed::Join(_, written) => written.clone(),
        Fed::Constant(text) => format!("= {text}"),
    }
}

fn score(folder: &Path, words: &TradeWords, score: &mut Score) {
    let target = Target::read(&folder.join("target.toml")).unwrap();
    let source =
        Source::look(&folder.join("export.csv"), &SourceSettings::default(), &Known::default()).unwrap();
    let right = fs::read_to_string(folder.join("right.txt")).unwrap();
    let right: BTreeMap<&str, &str> = right.lines().map(|line| line.split_once(" <- ").unwrap()).collect();
    let today = "2026-11-01".parse().unwrap();
    let proposing = Proposing { words, ..Proposing::new(today, Threads::default(), stated_limits) };
    let proposed = propose(&source, &target, &proposing, &|_, _| {}).unwrap();
    score.certain += right.values().filter(|column| **column != "?").count();
    let name = folder.file_name().unwrap().to_string_lossy().into_owned();
    for (field, column) in &right {
        let place = target.field(field).unwrap();
        let Some(proposal) = proposed.of_field(place) else {
            println!("missed: {name}: {field} from {column}");
            continue;
        };
        let said = said(proposal, &source);
        let is_sure = proposal.sureness == Sureness::Sure;
        score.proposed += 1;
        score.right += usize::from(said == *column);
        if said != *column && is_sure {
            score.wrong.push(format!("{name}: {field} from {said}: {}", proposal.reasons.join("; ")));
        }
        score.found += usize::from(said == *column && is_sure);
        if !is_sure && *column != "?" {
            println!("likely: {name}: {field} from {said} for {column}: {}", proposal.reasons.join("; "));
        }
    }
}

/// The cases, in order.
fn folders() -> Vec<PathBuf> {
    let all = fs::read_dir(Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/mappings")).unwrap();
    let mut folders: Vec<PathBuf> = all.map(|entry| entry.unwrap().path()).collect();
    folders.sort();
    folders
}

/// Whether what two types of field hold can be told apart by looking.
fn are_unlike(one: &str, other: &str) -> bool {
    let told = |word: &str| ["code", "date", "datetime", "boolean"].contains(&word);
    one != other && (told(one) || told(other))
}

#[test]
fn two_columns_that_were_exchanged_are_found_or_asked_about() {
    let (mut exchanges, mut wrong) = (0, Vec::new());
    for folder in folders() {
        let target = Target::read(&folder.join("target.toml")).unwrap();
        let right = fs::read_to_string(folder.join("right.txt")).unwrap();
        let text = fs::read_to_string(folder.join("export.csv")).unwrap();
        let delimiter = if text.lines().next().unwrap().contains(';') { b';' } else { b',' };
        let mut reader =
            csv::ReaderBuilder::new().delimiter(delimiter).has_headers(false).from_reader(text.as_bytes());
        let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
        let place = |heading: &str| rows[0].iter().position(|known| known == heading);
        let plain: Vec<(&str, usize)> = right
            .lines()
            .filter_map(|line| line.split_once(" <- "))
            .filter_map(|(field, column)| Some((field, place(column)?)))
            .collect();
        let kind = |field: &str| target.fields.get(target.field(field).unwrap()).unwrap().kind.word();
        for (at, (one, first)) in plain.iter().enumerate() {
            for (_, second) in
                plain.iter().skip(at + 1).filter(|(other, _)| are_unlike(kind(one), kind(other)))
            {
                let mut writer = csv::WriterBuilder::new().delimiter(delimiter).from_writer(Vec::new());
                for (line, row) in rows.iter().enumerate() {
                    let cell = |at: usize| match at {
                        at if line > 0 && at == *first => &row[*second],
                        at if line > 0 && at == *second => &row[*first],
                        at => &row[at],
                    };
                    writer.write_record((0..row.len()).map(cell)).unwrap();
                }
                let file = tempfile::Builder::new().suffix(".csv").tempfile().unwrap();
                fs::write(file.path(), writer.into_inner().unwrap()).unwrap();
                let source =
                    Source::look(file.path(), &SourceSettings::default(), &Known::default()).unwrap();
                let proposing =
                    Proposing::new("2026-11-01".parse().unwrap(), Threads::default(), stated_limits);
                let proposed = propose(&source, &target, &proposing, &|_, _| {}).unwrap();
                exchanges += 1;
                for (field, own) in &plain {
                    let Some(proposal) = proposed.of_field(target.field(field).unwrap()) else { continue };
                    let column = proposal.fed.column().map(Id::index);
                    let held = match column {
                        Some(at) if at == *first => Some(*second),
                        Some(at) if at == *second => Some(*first),
                        at => at,
                    };
                    if proposal.sureness == Sureness::Sure && held != Some(*own) {
                        let name = folder.file_name().unwrap().to_string_lossy().into_owned();
                        wrong
                            .push(format!("{name}: {} for {}: {field}", &rows[0][*first], &rows[0][*second]));
                    }
                }
            }
        }
    }
    println!("{exchanges} exchanges");
    assert!(exchanges > 150, "only {exchanges}");
    assert_eq!(wrong, Vec::<String>::new(), "sure, and wrong");
}

#[test]
fn a_careful_person_would_have_mapped_them_so() {
    let folders = folders();
    assert_eq!(folders.len(), 12);
    for (what, words, least) in
        [("without the table of words", TradeWords::none(), 0), ("with it", TradeWords::known(), 90)]
    {
        let mut all = Score::default();
        folders.iter().for_each(|folder| score(folder, words, &mut all));
        println!(
            "{what}: {} sure and wrong; found {} of {} ({} %); proposals right {} of {} ({} %)",
            all.wrong.len(),
            all.found,
            all.certain,
            Score::percent(all.found, all.certain),
            all.right,
            all.proposed,
            Score::percent(all.right, all.proposed),
        );
        if least > 0 {
            assert_eq!(all.wrong, Vec::<String>::new(), "sure, and wrong");
            assert!(Score::percent(all.found, all.certain) >= least);
        }
    }
}
