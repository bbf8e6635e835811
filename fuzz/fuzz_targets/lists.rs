//! The lists that a steward keeps: crosswalks, corrections, code lists. What can be read is written and read alike.
#![no_main]

use dusk_core::decisions::{CorrectionFile, Crosswalk};
use dusk_core::description::{CodeList, Target};
use dusk_core::evidence::Problems;
use libfuzzer_sys::fuzz_target;

const TARGET: &str =
    "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n[[field]]\nname = \"note\"\ntype = \"text\"\n";

fuzz_target!(|data: &[u8]| {
    let folder = tempfile::tempdir().unwrap();
    let at = |name: &str| folder.path().join(name);
    std::fs::write(at("target.toml"), TARGET).unwrap();
    let target = Target::read(&at("target.toml")).unwrap();
    let field = target.fields.iter().next().unwrap();
    let path = at("list.csv");
    std::fs::write(&path, data).unwrap();
    let _ = CodeList::read(&path, &mut Problems::default());
    if let Ok((held, crosswalk)) = Crosswalk::hold(&path, field, None) {
        crosswalk.write(&held).unwrap();
        drop(held);
        assert_eq!(Crosswalk::hold(&path, field, None).unwrap().1.lines(), crosswalk.lines());
    }
    std::fs::write(&path, data).unwrap();
    if let Ok((held, corrections)) = CorrectionFile::hold(&path, None) {
        corrections.write(&held).unwrap();
        drop(held);
        assert_eq!(CorrectionFile::hold(&path, None).unwrap().1.lines, corrections.lines);
    }
});
