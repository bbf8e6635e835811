//! The steward's settings: any text is a description or a mapping, or a list of what is wrong with it.
#![no_main]

use dusk_core::description::Target;
use dusk_core::mapping;
use libfuzzer_sys::fuzz_target;

const TARGET: &str = include_str!("../../crates/dusk/src/demo/data/target.toml");
const CODES: [(&str, &str); 4] = [
    ("district.csv", include_str!("../../crates/dusk/src/demo/data/codes/district.csv")),
    ("queen-colour.csv", include_str!("../../crates/dusk/src/demo/data/codes/queen-colour.csv")),
    ("region.csv", include_str!("../../crates/dusk/src/demo/data/codes/region.csv")),
    ("treatment.csv", include_str!("../../crates/dusk/src/demo/data/codes/treatment.csv")),
];

fuzz_target!(|data: &[u8]| {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    std::fs::create_dir(at("codes")).unwrap();
    for (name, text) in CODES {
        std::fs::write(at("codes").join(name), text).unwrap();
    }
    std::fs::write(at("target.toml"), TARGET).unwrap();
    std::fs::write(at("mapping.toml"), data).unwrap();
    let _ = mapping::read(&at("mapping.toml"));
    std::fs::write(at("target.toml"), data).unwrap();
    if let Ok(target) = Target::read(&at("target.toml")) {
        assert!(!target.fields.is_empty());
        let _ = target.csvw("up.csv");
    }
});
