//! The last part of the demo: a round. New sites and then their hives are delivered to the practice target, which
//! refuses some of them; these are mended and sent again, until the target's own counts say that all of it is there.

use super::Step::{self, Run};

/// The files of the round.
pub(super) const FILES: [(&str, &str); 6] = [
    ("round.toml", include_str!("data/round.toml")),
    ("enrol/target.toml", include_str!("data/enrol/target.toml")),
    ("enrol/hives.toml", include_str!("data/enrol/hives.toml")),
    ("enrol/new-hives.csv", include_str!("data/enrol/new-hives.csv")),
    ("enrol/sites/target.toml", include_str!("data/enrol/sites/target.toml")),
    ("enrol/sites/mapping.toml", include_str!("data/enrol/sites/mapping.toml")),
];

/// The folders from which the register takes files.
pub(super) const FOLDERS: [&str; 3] = ["enrol/incoming", "enrol/sites/incoming", "register/incoming"];

const SITES: &str = "enrol/sites/mapping.toml";
const SITES_TARGET: &str = "enrol/sites/target.toml";
const SITES_HELD: &str = "enrol/sites/practice";
const HIVES: &str = "enrol/hives.toml";
const HIVES_TARGET: &str = "enrol/target.toml";
const HIVES_HELD: &str = "enrol/practice";
pub(super) const EXPORT: &str = "enrol/new-hives.csv";
const FIRST: &str = "2026-11-30-a";
const REST: &str = "2026-11-30-b";

/// What everyone does, in order.
pub(super) const STEPS: [Step; 23] = [
    Run(
        "New sites and their hives are registered in a round: the hives need the numbers of the sites.",
        &["round"],
    ),
    Run("What can be made now is made: the sites.", &["round", "--make", "--quiet"]),
    Run("They are handed over, once, however often this is run.", &["deliver", FIRST, "-m", SITES]),
    Run(
        "The practice target plays the register. It refuses a parish that it does not know.",
        &[
            "practice",
            SITES_TARGET,
            "--state",
            SITES_HELD,
            "--once",
            "--refuse",
            "parish=Nether Holm: this parish is not known",
        ],
    ),
    Run("What did it say? It gave numbers, and refused one site.", &["answer", FIRST, "-m", SITES]),
    Run(
        "What was refused is a cause like any other, in the register's own words:",
        &["check", "--rest", FIRST, "-m", SITES, "--quiet"],
    ),
    Run(
        "The keeper knows:",
        &["correct", EXPORT, "6", "Parish", "Nether Holme", "-m", SITES, "--note", "asked the keeper"],
    ),
    Run("Only that one goes again.", &["conform", "--rest", FIRST, "-m", SITES, "--quiet"]),
    Run("", &["deliver", REST, "-m", SITES]),
    Run("", &["practice", SITES_TARGET, "--state", SITES_HELD, "--once"]),
    Run("", &["answer", REST, "-m", SITES]),
    Run(
        "Did everything arrive? The register counts three and one.",
        &["batches", "confirm", FIRST, "-m", SITES, "--loaded", "3"],
    ),
    Run("", &["batches", "confirm", REST, "-m", SITES, "--loaded", "1"]),
    Run(
        "Now the hives, each with the number of its site; the register wants them approved.",
        &["round", "--make", "--quiet"],
    ),
    Run("", &["approve", FIRST, "-m", HIVES, "--note", "read over with the keepers"]),
    Run("", &["deliver", FIRST, "-m", HIVES]),
    Run(
        "",
        &[
            "practice",
            HIVES_TARGET,
            "--state",
            HIVES_HELD,
            "--once",
            "--refuse",
            "frames=2: too few frames for a hive",
            "--warn",
            "frames=8: is this a small hive?",
        ],
    ),
    Run("", &["answer", FIRST, "-m", HIVES]),
    Run("", &["correct", EXPORT, "11", "Frames", "12", "-m", HIVES, "--note", "a slip of the pen"]),
    Run("", &["conform", "--rest", FIRST, "-m", HIVES, "--quiet"]),
    Run("", &["approve", REST, "-m", HIVES]),
    Run("", &["deliver", REST, "-m", HIVES]),
    Run("", &["practice", HIVES_TARGET, "--state", HIVES_HELD, "--once"]),
];

/// The proof, and where the round stands.
pub(super) const PROOF: [Step; 4] = [
    Run("", &["answer", REST, "-m", HIVES]),
    Run(
        "The sums are held against the register's as well.",
        &[
            "batches",
            "confirm",
            FIRST,
            "-m",
            HIVES,
            "--loaded",
            "13",
            "--refused",
            "1",
            "--sum",
            "frames=141",
        ],
    ),
    Run("", &["batches", "confirm", REST, "-m", HIVES, "--loaded", "1", "--sum", "frames=12"]),
    Run("Nothing is left:", &["round", "--report", "round.html"]),
];
