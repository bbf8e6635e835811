//! What a target says: any bytes are an answer to be read, or refused.
#![no_main]

use dusk_core::delivery::read_answer;
use dusk_core::description::{AnswerLayout, AnswerOutcome, LineForm};
use dusk_fuzz::let_the_reader_panic;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let_the_reader_panic();
    let table = AnswerLayout {
        line: Some("line".into()),
        outcome: Some("is".into()),
        words: vec![("in".into(), AnswerOutcome::Loaded)],
        reason: vec!["why".into()],
        ..AnswerLayout::default()
    };
    let form = LineForm::parse("Line {line}: {reason}", Some(AnswerOutcome::Refused)).unwrap();
    let lines = AnswerLayout { says: vec![form], ..AnswerLayout::default() };
    let folder = tempfile::tempdir().unwrap();
    for name in ["a.csv", "a.xlsx"] {
        let path = folder.path().join(name);
        std::fs::write(&path, data).unwrap();
        let _ = read_answer(&path, &[table.clone(), lines.clone()], &mut |line| {
            assert!(line.at > 0);
            Ok(())
        });
    }
});
