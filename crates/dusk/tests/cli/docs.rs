//! The documents agree with the program.

use std::fs;
use std::path::{Path, PathBuf};

use dusk_core::finding::Kind;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The page of findings, made of the one place where they are defined.
fn findings_page() -> String {
    let mut page =
        String::from("# Findings\n\nMade from the program; `cargo test` says so when it is out of date.\n");
    for kind in Kind::ALL {
        let explanation = kind.explanation().lines().map(str::trim).collect::<Vec<_>>().join(" ");
        page.push_str(&format!(
            "\n## {}\n\n*{}* — {}\n\n{explanation}\n",
            kind.code(),
            kind.severity().word(),
            kind.title()
        ));
    }
    page
}

#[test]
fn the_page_of_findings_is_the_programs() {
    let path = root().join("docs/findings.md");
    if std::env::var_os("DUSK_WRITE_DOCS").is_some() {
        fs::write(&path, findings_page()).unwrap();
    }
    assert_eq!(
        fs::read_to_string(path).unwrap(),
        findings_page(),
        "run the tests with DUSK_WRITE_DOCS=1 to write it anew"
    );
}

#[test]
fn every_key_of_the_demos_files_is_in_the_reference() {
    let reference = fs::read_to_string(root().join("docs/files.md")).unwrap();
    for file in ["target.toml", "mapping.toml"] {
        let text = fs::read_to_string(root().join("crates/dusk/src/demo/data").join(file)).unwrap();
        let keys = text.lines().filter_map(|line| line.split_once('=')).map(|(key, _)| key.trim());
        for key in
            keys.filter(|key| key.chars().all(|c| c.is_ascii_lowercase() || c == '_') && *key != "loaded_by")
        {
            assert!(reference.contains(&format!("`{key}`")), "{key} of {file} is not in docs/files.md");
        }
    }
}
