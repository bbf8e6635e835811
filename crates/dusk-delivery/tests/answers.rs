//! What a target says, held against a plain model of it: whatever the lines are, every record is told once.

#![allow(clippy::unwrap_used, clippy::indexing_slicing, clippy::panic, reason = "a test may fail")]

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use dusk_delivery::{
    Answered, Answering, BatchEvent, Doer, EventList, Happened, SentRecords, Told, events, keep_numbers,
    kept_answer, numbers_path, read_answer, take_answer,
};
use dusk_description::{AnswerLayout, AnswerOutcome, LineForm};
use dusk_evidence::Error;
use dusk_run::PastBatch;
use proptest::collection::vec;
use proptest::prelude::*;
use tempfile::TempDir;

const DOER: Doer<'_> = Doer { by: "clerk", at: "2026-05-02" };

/// A batch that has sent records, each with its key and on so many lines of the one upload file.
struct Desk {
    folder: TempDir,
    batch: PastBatch,
    /// On which line each record begins.
    lines: Vec<u64>,
}

impl Desk {
    fn new(records: &[u64]) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a");
        std::fs::create_dir_all(path.join("upload")).unwrap();
        let mut rows = "source,row,outcome,key,file,line,record,into,content\n".to_owned();
        let (mut upload, mut line, mut lines) = ("key;note\n".to_owned(), 2, Vec::new());
        for (at, on) in records.iter().enumerate() {
            rows += &format!("x.csv,{},sent,{},up.csv,{line},{},,7\n", at + 2, key(at), at + 1);
            upload += &format!("{};\"{}\"\n", key(at), "\n".repeat(*on as usize - 1));
            lines.push(line);
            line += on;
        }
        std::fs::write(path.join("rows.csv"), rows).unwrap();
        std::fs::write(path.join("upload/up.csv"), upload).unwrap();
        let batch = PastBatch { path, receipt: Err(Error::Request("there is none".into())) };
        Self { folder, batch, lines }
    }

    fn file(&self, name: &str, text: impl AsRef<[u8]>) -> PathBuf {
        let path = self.folder.path().join(name);
        std::fs::write(&path, text).unwrap();
        path
    }

    fn answer(&self, path: &Path, only_looks: bool) -> dusk_evidence::Result<Answered> {
        let name = path.display().to_string();
        let layouts = [layout()];
        let answering =
            Answering { path, name: &name, layouts: &layouts, file: None, replaces: false, only_looks };
        take_answer(&self.batch, &answering, DOER)
    }
}

fn key(at: usize) -> String {
    format!("k{at:02}")
}

fn layout() -> AnswerLayout {
    AnswerLayout {
        line: Some("line".into()),
        record_from: 1,
        key: vec!["key".into()],
        outcome: Some("is".into()),
        words: AnswerOutcome::WORDS.map(|(word, outcome)| (word.to_uppercase(), outcome)).into(),
        reason: vec!["why".into()],
        number: Some("number".into()),
        ..AnswerLayout::default()
    }
}

/// A line of an answer: which record by its line, which by its key, how it went, and why.
#[derive(Debug, Clone)]
struct Line {
    by_line: Option<usize>,
    by_key: Option<usize>,
    word: &'static str,
    why: String,
}

impl Line {
    /// Whether nothing at all is in its row.
    fn is_blank(&self) -> bool {
        self.by_line.is_none() && self.by_key.is_none() && self.word.is_empty() && self.why.is_empty()
    }
}

fn line(records: usize) -> impl Strategy<Value = Line> {
    // Some name a record that was never sent, some two of them, some none, and some say what nobody has explained.
    let place = || proptest::option::weighted(0.8, 0..records + 1);
    let word = prop_oneof![
        6 => Just("loaded"), 2 => Just("Warned"), 3 => Just("REFUSED"), 1 => Just("maybe"), 1 => Just("")
    ];
    let why =
        prop_oneof![Just(String::new()), "[a-z =\"',;\n-]{1,12}".prop_map(|text| text.trim().to_owned())];
    (place(), place(), proptest::bool::weighted(0.9), word, why).prop_map(
        |(by_line, other, agrees, word, why)| {
            let by_key = if agrees && by_line.is_some() { other.and(by_line) } else { other };
            Line { by_line, by_key, word, why }
        },
    )
}

fn csv_of(desk: &Desk, lines: &[Line]) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(["line", "key", "is", "why", "number"]).unwrap();
    let end = desk.lines.last().unwrap() + 50;
    for one in lines {
        let line =
            one.by_line.map(|at| desk.lines.get(at).copied().unwrap_or(end).to_string()).unwrap_or_default();
        let key = one.by_key.map(key).unwrap_or_default();
        let number = one.by_line.map(|at| format!("n{at}")).unwrap_or_default();
        writer.write_record([&line, &key, one.word, &one.why, &number]).unwrap();
    }
    String::from_utf8(writer.into_inner().unwrap()).unwrap()
}

/// What a careful person makes of the lines: the record of each, and what all lines about it say together.
fn model(records: usize, lines: &[Line]) -> (BTreeMap<usize, Told>, usize) {
    let mut nowhere = 0;
    let mut said: BTreeMap<usize, Vec<AnswerOutcome>> = BTreeMap::new();
    for one in lines {
        let at = match (one.by_line, one.by_key) {
            (Some(at), None) | (None, Some(at)) if at < records => at,
            (Some(line), Some(key)) if line == key && line < records => line,
            _ => {
                nowhere += usize::from(!one.is_blank());
                continue;
            }
        };
        let outcome = AnswerOutcome::WORDS.iter().find(|(word, _)| *word == one.word.to_lowercase());
        if let Some((_, outcome)) = outcome {
            said.entry(at).or_default().push(*outcome);
        }
    }
    let together = |all: Vec<AnswerOutcome>| {
        let is_one = all.iter().all(|one| one.is_in()) || all.iter().all(|one| !one.is_in());
        if is_one { Told::Said(all.into_iter().max().unwrap()) } else { Told::NotMentioned }
    };
    (said.into_iter().map(|(at, all)| (at, together(all))).collect(), nowhere)
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 128,
        max_global_rejects: 100_000,
        failure_persistence: None,
        ..ProptestConfig::default()
    })]

    /// Every record is told once, as a plain reading of the lines says; and in any order of the lines.
    #[test]
    fn every_record_is_told_as_its_lines_say(
        (records, lines) in vec(1_u64..4, 1..9).prop_flat_map(|records| {
            let count = records.len();
            (Just(records), vec(line(count), 1..24))
        })
    ) {
        let desk = Desk::new(&records);
        let (expected, nowhere) = model(records.len(), &lines);
        let answered = desk.answer(&desk.file("a.csv", csv_of(&desk, &lines)), true);
        let backwards: Vec<Line> = lines.iter().rev().cloned().collect();
        let other_way = desk.answer(&desk.file("b.csv", csv_of(&desk, &backwards)), true);
        // Where few lines are about a record of the batch, it is the answer about another one.
        if answered.is_err() {
            let blank = lines.iter().filter(|one| one.is_blank()).count();
            prop_assert!(nowhere * 2 >= lines.len() - blank, "{:?}", answered.unwrap_err().to_string());
            return Ok(());
        }
        for answered in [Ok(answered.unwrap()), other_way].into_iter().flatten() {
            prop_assert!(answered.counts.add_up());
            prop_assert_eq!(answered.counts.sent as usize, records.len());
            for at in 0..records.len() {
                let told = expected.get(&at).copied().unwrap_or_default();
                prop_assert_eq!(answered.told.get(at), told, "record {} of {:?}", at, lines);
            }
            prop_assert_eq!(answered.told.taken + answered.told.wrong, answered.lines);
        }
    }

    /// An answer in two files is the same as in one, and what is kept reads back as it was said.
    #[test]
    fn an_answer_in_parts_is_the_whole_and_is_kept_as_it_was_said(
        (records, lines, cut) in vec(1_u64..3, 2..8).prop_flat_map(|records| {
            let count = records.len();
            (Just(records), vec(line(count), 2..16), any::<prop::sample::Index>())
        })
    ) {
        let (expected, _) = model(records.len(), &lines);
        // What contradicts an answer before it is refused, which is another law.
        prop_assume!(!expected.values().any(|told| *told == Told::NotMentioned));
        let desk = Desk::new(&records);
        let (first, second) = lines.split_at(cut.index(lines.len()).max(1));
        // The same file once more is refused, whatever its name.
        prop_assume!(csv_of(&desk, first) != csv_of(&desk, second));
        let parts = [("a.csv", first), ("b.csv", second)];
        for (name, part) in parts {
            let path = desk.file(name, csv_of(&desk, part));
            prop_assume!(desk.answer(&path, true).is_ok());
            desk.answer(&path, false).unwrap();
        }
        let sent = SentRecords::read(&desk.batch).unwrap();
        let kept = kept_answer(&desk.batch.path, &sent).unwrap().unwrap();
        for at in 0..records.len() {
            prop_assert_eq!(kept.get(at), expected.get(&at).copied().unwrap_or_default());
        }
        prop_assert_eq!(events(&desk.batch.path).unwrap().len(), 2);
        let whole = Desk::new(&records);
        let said = whole.answer(&whole.file("all.csv", csv_of(&whole, &lines)), false);
        if let Ok(said) = said {
            for at in 0..records.len() {
                prop_assert_eq!(said.told.get(at), kept.get(at));
                prop_assert_eq!(said.told.reason(at), kept.reason(at), "a reason with any signs in it");
            }
        }
    }

    /// Any bytes are an answer, or are refused.
    #[test]
    fn any_bytes_are_read_or_refused(bytes in vec(any::<u8>(), 0..400), text in "\\PC{0,200}", number in 0..4_usize) {
        let folder = tempfile::tempdir().unwrap();
        let form = LineForm::parse("Line {line}: {reason}", Some(AnswerOutcome::Refused)).unwrap();
        let lines = AnswerLayout { says: vec![form], ..AnswerLayout::default() };
        let names = ["a.csv", "a.json", "a.txt", "a.xlsx"];
        for content in [bytes.as_slice(), text.as_bytes(), format!("{{\"x\":[{text}]}}").as_bytes()] {
            let path = folder.path().join(names[number]);
            std::fs::write(&path, content).unwrap();
            let mut lines_read = 0;
            let read = read_answer(&path, &[layout(), lines.clone()], &mut |line| {
                lines_read += u64::from(line.at > 0);
                Ok(())
            });
            prop_assert!(read.is_ok() || lines_read == 0 || read.is_err());
        }
    }

    /// Events keep every text as it was, and nothing that a spreadsheet program would run.
    #[test]
    fn events_read_back_as_they_were(says in vec("\\PC{0,20}", 1..6), by in "[=+@a-z\"\n,-]{0,8}") {
        let folder = tempfile::tempdir().unwrap();
        let mut list = EventList::hold(folder.path()).unwrap();
        for says in &says {
            list.add(BatchEvent {
                at: "2026-05-02".into(),
                by: by.clone(),
                what: Happened::Approved,
                file: String::new(),
                blake3: String::new(),
                says: says.clone(),
            }).unwrap();
        }
        let read = events(folder.path()).unwrap();
        prop_assert_eq!(read.iter().map(|event| event.says.clone()).collect::<Vec<_>>(), says);
        prop_assert!(read.iter().all(|event| event.by == by));
        drop(list);
        let text = std::fs::read_to_string(folder.path().join("events.csv")).unwrap();
        prop_assert!(!text.lines().any(|line| line.starts_with(['=', '+', '@'])));
    }
}

#[test]
fn numbers_are_kept_for_each_record_and_the_last_one_counts() {
    let desk = Desk::new(&[1, 1, 1]);
    let path = numbers_path(&desk.folder.path().join("sites.toml"));
    assert_eq!(path, desk.folder.path().join("numbers/sites.csv"));
    let numbers = |text: &str, file: &str| {
        let answered = desk.answer(&desk.file(file, text), true).unwrap();
        keep_numbers(&path, (&["site"], "number"), (&answered.sent, &answered.told), ("a", "2026-05-02"))
            .unwrap()
    };
    let kept =
        numbers("line,key,is,why,number\n2,k00,loaded,,7\n3,k01,refused,,8\n4,k02,warned,,=9\n", "a.csv");
    assert_eq!((kept.new, kept.same, kept.other), (2, 0, 0), "what is refused has no number");
    let kept = numbers("line,key,is,why,number\n2,k00,loaded,,7\n4,k02,loaded,,10\n", "b.csv");
    assert_eq!((kept.new, kept.same, kept.other), (0, 1, 1));
    let list = std::fs::read_to_string(&path).unwrap();
    assert_eq!(list, "site,number,batch,on\nk00,7,a,2026-05-02\nk02,10,a,2026-05-02\n");
    std::fs::write(&path, "a,b\n1,2\n").unwrap();
    let answered =
        desk.answer(&desk.file("c.csv", "line,key,is,why,number\n2,k00,loaded,,7\n"), true).unwrap();
    let refused = keep_numbers(&path, (&["site"], "number"), (&answered.sent, &answered.told), ("a", ""));
    assert!(refused.unwrap_err().to_string().contains("is not a list of numbers"));
}
