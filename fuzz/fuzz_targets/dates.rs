//! The date reader and the evidence of a column: a proven order allows every value that proves it.
#![no_main]

use dusk_core::inspecting::{DateEvidence, DatesOf};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    let values: Vec<&str> = text.split('\n').collect();
    let whole = DateEvidence::of(&values);
    let evidence = whole.evidence(DatesOf { column: "Date", field: "day", by_itself: true }, &[]);
    assert_eq!(whole.proven().is_some(), evidence.verdict_shown().ends_with("(proven)"));
    assert!(!(whole.is_not_needed() && whole.undecided() > 0));
    // What part of a column proves, the whole proves as well, or contradicts.
    let half = DateEvidence::of(values.split_at(values.len() / 2).0);
    if let (Some(before), Some(after)) = (half.proven(), whole.proven()) {
        assert_eq!(before, after);
    }
});
