//! What a run writes does not depend on how many threads work on it.

use std::collections::BTreeMap;
use std::fs;

use crate::desk::Desk;
use dusk_core::run::{Job, NewBatch, write_batch};
use dusk_core::sources::Threads;

/// Every file below a folder, by its name.
fn files(folder: &std::path::Path) -> BTreeMap<String, Vec<u8>> {
    let mut files = BTreeMap::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_str().unwrap().to_owned();
        if path.is_dir() {
            files.extend(
                self::files(&path).into_iter().map(|(inner, bytes)| (format!("{name}/{inner}"), bytes)),
            );
        } else {
            files.insert(name, fs::read(&path).unwrap());
        }
    }
    files
}

#[test]
fn one_two_and_seven_threads_write_the_same_bytes() {
    // Blanks filled from above, faults, repeated keys and changes on both sides of every border between blocks.
    let colours = ["white", "yel.", "", "", "pale", "Blue "];
    let rows = (0..40_000_usize).map(|number| {
        let key = if number % 997 == 0 { 7 } else { number };
        [
            format!("k{key}"),
            colours[number % colours.len()].to_owned(),
            format!("note {} Öst", number % 5_003),
        ]
    });
    let field = |name: &str, rest: &str| format!("[[field]]\nname = \"{name}\"\n{rest}\n");
    let map = |name: &str, rest: &str| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n{rest}\n");
    let desk = Desk::new()
        .with("colours.csv", crate::desk::COLOURS)
        .with(
            "target.toml",
            [
                "[target]\nname = \"T\"\n[upload]\nmax_rows = 9000\nfile_name = \"{part}.csv\"\n".to_owned(),
                field("id", "type = \"text\"\nkey = true"),
                field("colour", "type = \"code\"\ncodes = \"colours.csv\""),
                field("note", "type = \"text\""),
            ]
            .concat(),
        )
        .with(
            "mapping.toml",
            [
                "target = \"target.toml\"\n".to_owned(),
                map("id", ""),
                map("colour", "fill_down = true"),
                map("note", ""),
            ]
            .concat(),
        )
        .with_table("export.csv", &["id", "colour", "note"], rows);
    let given = desk.given();
    assert!(fs::metadata(desk.path("export.csv")).unwrap().len() > 4 * 192 * 1024, "several blocks");
    let written = |threads: usize| {
        let folder = desk.path(&format!("batch-{threads}")).join("one");
        fs::create_dir(folder.parent().unwrap()).unwrap();
        let job = Job { threads: Threads::of(threads), ..given.job() };
        let batch = NewBatch::at(&folder);
        let (_, made) = job.work(&|_, _| {}, |ready| write_batch(ready, &batch, &|_, _| {})).unwrap();
        assert!(made.summary.totals.rejected > 1000 && made.summary.totals.accepted > 10_000);
        files(&folder)
    };
    let one = written(1);
    assert!(one.len() > 5, "{:?}", one.keys());
    for threads in [2, 7] {
        for (name, bytes) in &written(threads) {
            assert!(one.get(name) == Some(bytes), "{name} differs with {threads} threads");
        }
    }
}
