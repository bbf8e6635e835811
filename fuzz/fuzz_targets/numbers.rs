//! The number reader and the evidence of a column.
#![no_main]

use dusk_core::inspecting::NumberEvidence;
use dusk_core::values::Decimal;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    if let Some(number) = Decimal::parse(text) {
        let again = Decimal::parse(&number.to_string());
        assert_eq!(again, Some(number), "{text:?}");
    }
    let values: Vec<&str> = text.split('\n').collect();
    let evidence = NumberEvidence::of(&values);
    assert_eq!(
        evidence.proven().is_some(),
        evidence.evidence("Honey", "honey").verdict_shown().ends_with("(proven)")
    );
    assert!(evidence.numbers() + evidence.others <= values.len() as u64);
});
