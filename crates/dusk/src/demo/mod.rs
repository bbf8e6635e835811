//! `dusk demo`: the made-up data of the Fenmarrow Beekeepers' Association, and the whole job run
//! on it, each command shown before its result.

mod autumn;
mod enrol;
mod export;
mod mend;
mod register;
mod sites;

use std::fs::File;
use std::io::BufWriter;
use std::path::Path;
use std::process::{Command, Stdio};

use dusk_core::Error;
use dusk_core::description::Target;
use dusk_core::files::write_whole;

use crate::args::{Colour, DemoArgs};
use crate::outcome::{Ended, Failure, Outcome, print};

/// The files that are not generated.
const FILES: [(&str, &str); 11] = [
    ("target.toml", include_str!("data/target.toml")),
    ("mapping.toml", include_str!("data/mapping.toml")),
    ("autumn.toml", include_str!("data/autumn.toml")),
    ("apiaries/target.toml", include_str!("data/apiaries/target.toml")),
    ("apiaries/mapping.toml", include_str!("data/apiaries/mapping.toml")),
    ("apiaries/codes/region.csv", include_str!("data/codes/region.csv")),
    ("apiaries/codes/status.csv", include_str!("data/apiaries/status.csv")),
    ("codes/region.csv", include_str!("data/codes/region.csv")),
    ("codes/district.csv", include_str!("data/codes/district.csv")),
    ("codes/queen-colour.csv", include_str!("data/codes/queen-colour.csv")),
    ("codes/treatment.csv", include_str!("data/codes/treatment.csv")),
];

const EXPORT: &str = "spring-2026.csv";

const SUMMER: &str = "summer-2026.csv";

const MENDED: &str = "mended.xlsx";

const AUTUMN: &str = "autumn-2026.xlsx";

const SITES: &str = "apiaries/list-2026-08.csv";

const SITES_MAPPING: &str = "apiaries/mapping.toml";

const TO_AGREE: &str = "apiaries/to-agree.xlsx";

const AGREED: &str = "apiaries/agreed.xlsx";

/// A step of the demo.
enum Step {
    /// Why a command is run, and its words.
    Run(&'static str, &'static [&'static str]),
    /// A command that stops with a message, which is the point of it.
    Stops(&'static str, &'static [&'static str]),
    /// What is changed in the mapping by hand: the old text and the new one.
    Edit(&'static str, &'static [(&'static str, &'static str)]),
    /// Which cells of the rejects are mended in a spreadsheet program: column, old text and new one.
    Mend(&'static str, &'static [(&'static str, &'static str, &'static str)]),
    /// What somebody does not agree to in the workbook for sign-off: the words of its row.
    SayNo(&'static str, &'static [&'static str]),
}

use Step::{Edit, Mend, Run, SayNo, Stops};

/// What everyone at the association would do, in order.
const STEPS: [Step; 41] = [
    Run(
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
    Run("The fields, as people print them.", &["target", "show"]),
    Run("One of them, with its codes.", &["target", "show", "queen_colour"]),
    Run("target.toml is the same, read over and edited. Is it sound?", &["target", "check"]),
    Run("What is this export, and what has happened to it?", &["inspect", EXPORT, "--target", "target.toml"]),
    Run(
        "Which column feeds which field? What is sure is written, with the reasons.",
        &["map", EXPORT, "-t", "target.toml", "-m", "proposed.toml"],
    ),
    Run(
        "mapping.toml is the same, read over and completed. This is what it does:",
        &["map", EXPORT, "--show"],
    ),
    Run("The rows that tell most, before and after.", &["trial", EXPORT, "-n", "3"]),
    Run("The whole job without writing anything: what would be rejected, and why?", &["check", EXPORT]),
    Run("What happened to one cell?", &["explain", EXPORT, "5", "honey_kg"]),
    Run(
        "A first batch. What fits is ready for the register; the rest is listed with reasons.",
        &["conform", EXPORT],
    ),
    Run("Six decisions, each made once and remembered:", &["crosswalk", "add", "queen_colour", "yel.", "Y"]),
    Run("", &["crosswalk", "add", "queen_colour", "wht", "W"]),
    Run("", &["crosswalk", "add", "queen_colour", "light blue", "B", "--note", "asked the keepers"]),
    Run("", &["crosswalk", "add", "marked", "done", "1", "--note", "asked the keepers"]),
    Run("", &["crosswalk", "add", "region", "Nth Fen", "NF"]),
    Run("", &["crosswalk", "add", "treatments", "oxalc", "OX"]),
    Stops("The same export by accident?", &["conform", EXPORT]),
    Run(
        "On purpose: the batch is made again, and the old one kept aside. What is left is truly wrong.",
        &["conform", EXPORT, "--again"],
    ),
    Run(
        "Some of it means nothing, and some records cannot be used:",
        &["crosswalk", "add", "frames", "n/a", "--leave-blank", "--note", "not counted"],
    ),
    Run("", &["crosswalk", "add", "visit_date", "last week", "--keep-out"]),
    Mend(
        "The keepers know the rest. It is corrected where they can see the whole row: in a spreadsheet program.",
        &[
            ("Honey (lb)", "about 20", "20"),
            ("Date", "31/02/2026", "28/02/2026"),
            ("Frames", "120", "12"),
            ("Hive", "a1", "A1"),
            ("Remarks", "Long day. ", "Long day."),
        ],
    ),
    Run("What was changed is shown, old beside new, and recorded:", &["correct", MENDED, "--yes"]),
    Run(
        "Once more. The page report.html tells the association's chief all of it.",
        &["conform", EXPORT, "--again"],
    ),
    Run("What became of a corrected cell?", &["correct", EXPORT]),
    Stops("In summer the export is not what it was: a column has another name.", &["check", SUMMER]),
    Edit("They mean the same; the mapping says so now.", &[("from  = \"Queen\"", "from  = \"Queen mark\"")]),
    Stops("And there is a new column, which could be anything.", &["check", SUMMER]),
    Edit(
        "The register does not want it.",
        &[("columns = [\"Weather\"]", "columns = [\"Weather\", \"Scale (kg)\"]")],
    ),
    Run("What else is new is said first: two new codes.", &["conform", SUMMER]),
    Run("What was made so far, and is it as it was written?", &["batches"]),
    Run("", &["batches", "show", "2026-08-31-a"]),
    Run(
        "The list of apiaries goes to the register as well, which holds most of them already. What would change there?",
        &["compare", SITES, "-m", SITES_MAPPING],
    ),
    Run(
        "Somebody signs it off, record by record:",
        &["compare", SITES, "-m", SITES_MAPPING, "--sign-off", TO_AGREE],
    ),
    SayNo("The chief does not agree to one of the closures.", &["changed", "000210"]),
    Run("It is kept out from now on:", &["correct", AGREED, "-m", SITES_MAPPING, "--yes"]),
    Run(
        "The upload says what the register is to do with each record; what it holds as it is stays at home.",
        &["conform", SITES, "-m", SITES_MAPPING],
    ),
    Run("", &["compare", SITES, "-m", SITES_MAPPING, "--gone", "-n", "3"]),
    Run(
        "In autumn they send a workbook that a spreadsheet program has half converted.",
        &["inspect", AUTUMN, "--target", "target.toml", "--sheet", "Inspections"],
    ),
    Run(
        "autumn.toml says what the evidence offers, and every date is put right.",
        &["conform", AUTUMN, "-m", "autumn.toml"],
    ),
    Run("One of them, step by step:", &["explain", AUTUMN, "6", "visit_date", "-m", "autumn.toml"]),
];

/// The days on which the demo happens.
const TODAY: &str = "2026-04-30";
const SUMMER_DAY: &str = "2026-08-31";
const AUTUMN_DAY: &str = "2026-11-30";

/// Writes the demo data and runs the job.
pub(crate) fn run(args: &DemoArgs, colour: Colour) -> Outcome {
    let folder = &args.folder;
    if folder.symlink_metadata().is_ok() {
        return Err(Error::Exists(folder.clone()).into());
    }
    write_files(folder, args.seed)?;
    print(&format!(
        "Demo data in {}: what the register supplies and its descriptions, three exports of hive inspections and one of apiaries, three mappings.\nEverything in it is made up.\n",
        folder.display()
    ))?;
    let program = std::env::current_exe()
        .map_err(|error| Failure::Stopped(format!("the program cannot find itself: {error}")))?;
    for step in STEPS.into_iter().chain(enrol::STEPS).chain(enrol::PROOF) {
        let (why, words, stops) = match step {
            Run(why, words) => (why, words, false),
            Stops(why, words) => (why, words, true),
            Mend(why, cells) => {
                let rejects = folder.join(format!("batches/{TODAY}-a/rejects.xlsx"));
                print(&format!("\n# {why}\n{}", mend::mend(&rejects, &folder.join(MENDED), cells)?))?;
                continue;
            }
            SayNo(why, words) => {
                let says = mend::say_no(&folder.join(TO_AGREE), &folder.join(AGREED), words)?;
                print(&format!("\n# {why}\n{says}"))?;
                continue;
            }
            Edit(why, edits) => {
                edit_mapping(folder, why, edits)?;
                continue;
            }
        };
        let words = with_settings(words);
        let why = if why.is_empty() { String::new() } else { format!("\n# {why}\n") };
        let shown: Vec<String> = words.iter().map(|word| crate::show::shell_word(word)).collect();
        print(&format!("{why}$ dusk {}\n", shown.join(" ")))?;
        let output = Command::new(&program)
            .args(&words)
            .args(colour.words())
            .current_dir(folder)
            .stdin(Stdio::null())
            .stderr(if stops { Stdio::piped() } else { Stdio::inherit() })
            .stdout(Stdio::inherit())
            .output()
            .map_err(|error| Failure::Stopped(format!("the program cannot be run again: {error}")))?;
        // A message is part of what is shown, so it keeps its place among the results.
        print(&String::from_utf8_lossy(&output.stderr))?;
        if output.status.code().is_none_or(|code| (code > 1) != stops) {
            return Err(Failure::Stopped(format!("the demo's command \"{}\" failed", words.join(" "))));
        }
    }
    print(&format!(
        "\nLook around: the batches are in {0}, and every command above works there.\nThe page about the first of them is {0}/{TODAY}-a/report.html. To settle what is left of the summer on one screen:\n  cd {1} && dusk review {SUMMER} --today {SUMMER_DAY} --set loaded_by=\"A. Clerk\"\n",
        folder.join("batches").display(),
        folder.display()
    ))?;
    Ok(Ended::AllAccepted)
}

/// Changes the demo's mapping as a steward would, and shows how.
fn edit_mapping(folder: &Path, why: &str, edits: &[(&str, &str)]) -> Result<(), Failure> {
    let path = folder.join("mapping.toml");
    let mut text = std::fs::read_to_string(&path).map_err(Error::reading(&path))?;
    let mut shown = format!("\n# {why}\n");
    for (old, new) in edits {
        text = text.replace(old, new);
        shown.push_str(&format!("mapping.toml: {old}\n         now: {new}\n"));
    }
    write_whole(&path, text.as_bytes())?;
    print(&shown)
}

/// The settings that each command of the demo needs: its day, and what the mapping asks for.
fn with_settings<'w>(words: &[&'w str]) -> Vec<&'w str> {
    let settings: &[&str] = match words {
        ["target" | "inspect" | "practice", ..] => &[],
        ["batches", "confirm", ..] | ["approve", ..] => &["--today", AUTUMN_DAY, "--by", "B. Chief"],
        ["batches", ..] => &[],
        ["deliver" | "answer" | "round", ..] | ["conform", "--rest", ..] | ["correct", enrol::EXPORT, ..] => {
            &["--today", AUTUMN_DAY, "--by", "A. Clerk"]
        }
        ["check", "--rest", ..] => &["--today", AUTUMN_DAY],
        ["map", ..] => &["--today", TODAY],
        ["conform", SUMMER, ..] => {
            &["--today", SUMMER_DAY, "--set", "loaded_by=A. Clerk", "--by", "A. Clerk"]
        }
        ["conform", SITES, ..] => &["--today", SUMMER_DAY, "--by", "A. Clerk"],
        ["compare", SITES, ..] => &["--today", SUMMER_DAY],
        ["correct", AGREED, ..] => &["--today", SUMMER_DAY, "--by", "B. Chief"],
        ["conform", AUTUMN, ..] => {
            &["--today", AUTUMN_DAY, "--set", "loaded_by=A. Clerk", "--by", "A. Clerk"]
        }
        ["conform", ..] => &["--today", TODAY, "--set", "loaded_by=A. Clerk", "--by", "A. Clerk"],
        [_, SUMMER, ..] => &["--today", SUMMER_DAY, "--set", "loaded_by=A. Clerk"],
        [_, AUTUMN, ..] => &["--today", AUTUMN_DAY, "--set", "loaded_by=A. Clerk"],
        ["crosswalk", ..] | ["correct", _, "--yes"] => &["--by", "A. Clerk", "--today", TODAY],
        ["correct", ..] => &[],
        _ => &["--today", TODAY, "--set", "loaded_by=A. Clerk"],
    };
    words.iter().chain(settings).copied().collect()
}

fn write_files(folder: &Path, seed: u64) -> Result<(), Error> {
    for (name, text) in FILES.into_iter().chain(enrol::FILES) {
        write_whole(&folder.join(name), text.as_bytes())?;
    }
    for incoming in enrol::FOLDERS {
        let path = folder.join(incoming);
        std::fs::create_dir_all(&path).map_err(Error::writing(&path))?;
    }
    let autumn = autumn::workbook(seed).map_err(|error| Error::Invariant(error.to_string()))?;
    write_whole(&folder.join(AUTUMN), &autumn)?;
    let dictionary = register::dictionary().map_err(|error| Error::Invariant(error.to_string()))?;
    write_whole(&folder.join("register/dictionary.xlsx"), &dictionary)?;
    let target = Target::read(&folder.join("target.toml"))?;
    write_whole(&folder.join("register/template.csv"), register::template(&target).as_bytes())?;
    let (listed, sites) = sites::lists(seed);
    write_whole(&folder.join("apiaries/register-2026-07.csv"), listed.as_bytes())?;
    write_whole(&folder.join(SITES), sites.as_bytes())?;
    let spring = export::Export { rows: 1_260, faulty: 60, habits: true, seed, summer: false };
    for (name, export) in [(EXPORT, spring), (SUMMER, export::Export { rows: 640, summer: true, ..spring })] {
        let path = folder.join(name);
        let mut file = BufWriter::new(File::create_new(&path).map_err(Error::writing(&path))?);
        export
            .write(&mut file)
            .and_then(|()| std::io::Write::flush(&mut file))
            .map_err(Error::writing(&path))?;
    }
    Ok(())
}
