//! `dusk demo`: the made-up data of the Fenmarrow Beekeepers' Association, and the whole job run
//! on it, each command shown before its result.

mod autumn;
mod export;
mod register;

use std::fs::File;
use std::io::BufWriter;
use std::path::Path;
use std::process::{Command, Stdio};

use dusk_core::Error;
use dusk_core::files::write_whole;
use dusk_core::target::Target;

use crate::args::{Colour, DemoArgs};
use crate::outcome::Ended;
use crate::outcome::{Failure, Outcome, print};

/// The files that are not generated.
const FILES: [(&str, &str); 7] = [
    ("target.toml", include_str!("data/target.toml")),
    ("mapping.toml", include_str!("data/mapping.toml")),
    ("autumn.toml", include_str!("data/autumn.toml")),
    ("codes/region.csv", include_str!("data/codes/region.csv")),
    ("codes/district.csv", include_str!("data/codes/district.csv")),
    ("codes/queen-colour.csv", include_str!("data/codes/queen-colour.csv")),
    ("codes/treatment.csv", include_str!("data/codes/treatment.csv")),
];

const EXPORT: &str = "spring-2026.csv";

const AUTUMN: &str = "autumn-2026.xlsx";

/// What everyone at the association would do, in order. A line without a command says why the
/// next one is run.
const STEPS: [(&str, &[&str]); 18] = [
    (
        "What does the register want? It supplies a dictionary and a template; this drafts its description.",
        &[
            "target",
            "draft",
            "register/dictionary.xlsx",
            "register/template.csv",
            "-o",
            "drafted/target.toml",
        ],
    ),
    ("The fields, as people print them.", &["target", "show"]),
    ("One of them, with its codes.", &["target", "show", "queen_colour"]),
    ("target.toml is the same, read over and edited. Is it sound?", &["target", "check"]),
    ("What is this export, and what has happened to it?", &["inspect", EXPORT, "--target", "target.toml"]),
    ("The whole job without writing anything: what would be rejected, and why?", &["check", EXPORT]),
    ("What happened to one cell?", &["explain", EXPORT, "5", "honey_kg"]),
    (
        "A first batch. What fits is ready for the register; the rest is listed with reasons.",
        &["conform", EXPORT],
    ),
    ("Six decisions, each made once and remembered:", &["crosswalk", "add", "queen_colour", "yel.", "Y"]),
    ("", &["crosswalk", "add", "queen_colour", "wht", "W"]),
    ("", &["crosswalk", "add", "queen_colour", "light blue", "B", "--note", "asked the keepers"]),
    ("", &["crosswalk", "add", "marked", "done", "1", "--note", "asked the keepers"]),
    ("", &["crosswalk", "add", "region", "Nth Fen", "NF"]),
    ("", &["crosswalk", "add", "treatments", "oxalc", "OX"]),
    (
        "The same export again. What is left is truly wrong, and is mended in the records.",
        &["conform", EXPORT],
    ),
    (
        "In autumn they send a workbook that a spreadsheet program has half converted.",
        &["inspect", AUTUMN, "--target", "target.toml", "--sheet", "Inspections"],
    ),
    (
        "autumn.toml says what the evidence offers, and every date is put right.",
        &["conform", AUTUMN, "-m", "autumn.toml"],
    ),
    ("One of them, step by step:", &["explain", AUTUMN, "6", "visit_date", "-m", "autumn.toml"]),
];

/// The days on which the demo happens.
const TODAY: &str = "2026-04-30";
const AUTUMN_DAY: &str = "2026-11-30";

/// Writes the demo data and runs the job.
pub(crate) fn run(args: &DemoArgs, colour: Colour) -> Outcome {
    let folder = &args.folder;
    if folder.symlink_metadata().is_ok() {
        return Err(Error::Exists(folder.clone()).into());
    }
    write_files(folder, args.seed)?;
    print(&format!(
        "Demo data in {}: what the register supplies and its description, two exports of hive inspections, two mappings.\nEverything in it is made up.\n",
        folder.display()
    ))?;
    let program = std::env::current_exe()
        .map_err(|error| Failure::Stopped(format!("the program cannot find itself: {error}")))?;
    for (why, words) in STEPS {
        let words = with_settings(words);
        let why = if why.is_empty() { String::new() } else { format!("\n# {why}\n") };
        let shown: Vec<String> = words.iter().map(|word| crate::show::shell_word(word)).collect();
        print(&format!("{why}$ dusk {}\n", shown.join(" ")))?;
        let status = Command::new(&program)
            .args(&words)
            .args(colour.words())
            .current_dir(folder)
            .stdin(Stdio::null())
            .status()
            .map_err(|error| Failure::Stopped(format!("the program cannot be run again: {error}")))?;
        if status.code().is_none_or(|code| code > 1) {
            return Err(Failure::Stopped(format!("the demo's command \"{}\" failed", words.join(" "))));
        }
    }
    print(&format!(
        "\nLook around: the batches are in {}, and every command above works there.\n",
        folder.join("batches").display()
    ))?;
    Ok(Ended::AllAccepted)
}

/// The settings that each command of the demo needs: its day, and what the mapping asks for.
fn with_settings<'w>(words: &[&'w str]) -> Vec<&'w str> {
    let settings: &[&str] = match words {
        ["target" | "inspect", ..] => &[],
        [_, AUTUMN, ..] => &["--today", AUTUMN_DAY, "--set", "loaded_by=A. Clerk"],
        ["crosswalk", ..] => &["--by", "A. Clerk", "--today", TODAY],
        _ => &["--today", TODAY, "--set", "loaded_by=A. Clerk"],
    };
    words.iter().chain(settings).copied().collect()
}

fn write_files(folder: &Path, seed: u64) -> Result<(), Error> {
    for (name, text) in FILES {
        write_whole(&folder.join(name), text.as_bytes())?;
    }
    let autumn = autumn::workbook(seed).map_err(|error| Error::Invariant(error.to_string()))?;
    write_whole(&folder.join(AUTUMN), &autumn)?;
    let dictionary = register::dictionary().map_err(|error| Error::Invariant(error.to_string()))?;
    write_whole(&folder.join("register/dictionary.xlsx"), &dictionary)?;
    let target = Target::read(&folder.join("target.toml"))?;
    write_whole(&folder.join("register/template.csv"), register::template(&target).as_bytes())?;
    let path = folder.join(EXPORT);
    let mut file = BufWriter::new(File::create_new(&path).map_err(Error::writing(&path))?);
    let export = export::Export { rows: 1_260, faulty: 60, habits: true, seed };
    export.write(&mut file).and_then(|()| std::io::Write::flush(&mut file)).map_err(Error::writing(&path))
}
