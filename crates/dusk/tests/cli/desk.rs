//! A steward's desk: a folder with a target, a mapping and exports, on which commands are run.

use std::fs;
use std::path::PathBuf;
use std::process::{Command, Stdio};

use serde_json::Value;
use tempfile::TempDir;

/// A folder with files in it.
pub(crate) struct Desk {
    folder: TempDir,
}

/// What a command came to.
#[derive(Debug)]
pub(crate) struct Ran {
    pub(crate) status: i32,
    pub(crate) out: String,
    pub(crate) err: String,
}

/// A small target: a padded key, a date, a code and a weight.
pub(crate) const TARGET: &str = r#"
[target]
name = "Apiary register"

[upload]
delimiter = ";"
line_end = "lf"
file_name = "up-{part}.csv"

[[field]]
name = "apiary_id"
type = "text"
digits = 6
required = true
key = true

[[field]]
name = "visit_date"
type = "date"

[[field]]
name = "queen"
type = "code"
codes = "codes/queen.csv"

[[field]]
name = "honey_kg"
type = "decimal"
decimals = 1
unit = "kg"
"#;

pub(crate) const QUEEN: &str = "code,label,also\nW,White,\nY,Yellow,\nB,Blue,sky\n";

pub(crate) const MAPPING: &str = r#"
target = "target.toml"

[[map]]
field = "apiary_id"
from = "No"

[[map]]
field = "visit_date"
from = "Date"
order = "day-month-year"

[[map]]
field = "queen"
from = "Queen"

[[map]]
field = "honey_kg"
from = "Honey"
unit = "lb"
round = "half-up"
"#;

pub(crate) const EXPORT: &str = "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,yel.,4.5\n";

impl Desk {
    /// An empty desk.
    pub(crate) fn empty() -> Self {
        Self { folder: tempfile::tempdir().unwrap() }
    }

    /// A desk with the small target, its mapping and an export of two rows, one of them rejected.
    pub(crate) fn new() -> Self {
        Self::empty()
            .with("target.toml", TARGET)
            .with("codes/queen.csv", QUEEN)
            .with("mapping.toml", MAPPING)
            .with("export.csv", EXPORT)
    }

    /// A desk whose target has one field besides a plain key, and whose export has one column for
    /// it. `field` and `map` are what is written about it, `cells` its values.
    pub(crate) fn with_field(field: &str, map: &str, cells: &[&str]) -> Self {
        let target = format!(
            "[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n\
             [[field]]\nname = \"id\"\ntype = \"text\"\n[[field]]\nname = \"it\"\n{field}\n"
        );
        let mapping = format!("[[map]]\nfield = \"id\"\nfrom = \"Id\"\n[[map]]\nfield = \"it\"\n{map}\n");
        let mut export = String::from("Id,It\n");
        for (number, cell) in cells.iter().enumerate() {
            export.push_str(&format!("r{number},\"{}\"\n", cell.replace('"', "\"\"")));
        }
        Self::empty()
            .with("target.toml", &target)
            .with("mapping.toml", &format!("target = \"target.toml\"\n{mapping}"))
            .with("codes/queen.csv", QUEEN)
            .with("export.csv", &export)
    }

    /// The desk with one more file, or another text in it.
    pub(crate) fn with(self, name: &str, text: &str) -> Self {
        self.with_bytes(name, text.as_bytes())
    }

    /// The same desk with a file written anew.
    pub(crate) fn with_again(&self, name: &str, text: &str) -> &Self {
        std::fs::write(self.path(name), text).unwrap();
        self
    }

    pub(crate) fn with_bytes(self, name: &str, bytes: &[u8]) -> Self {
        let path = self.path(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, bytes).unwrap();
        self
    }

    /// The desk with `old` replaced in one of its files.
    pub(crate) fn edited(self, name: &str, old: &str, new: &str) -> Self {
        let text = self.read(name);
        assert!(text.contains(old), "{name} does not contain {old}");
        self.with(name, &text.replacen(old, new, 1))
    }

    /// The desk whose target holds what this list says, found again by its first field.
    pub(crate) fn holding(self, keys: &str, held: &str) -> Self {
        self.edited("target.toml", "[upload]", &format!("[holds]\nfile = \"held.csv\"\n{keys}\n[upload]"))
            .edited("target.toml", "name = \"id\"", "name = \"id\"\nkey = true")
            .with("held.csv", held)
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub(crate) fn read(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).unwrap_or_else(|error| panic!("{name}: {error}"))
    }

    pub(crate) fn read_bytes(&self, name: &str) -> Vec<u8> {
        fs::read(self.path(name)).unwrap_or_else(|error| panic!("{name}: {error}"))
    }

    /// A part of a workbook, as its text is in XML.
    pub(crate) fn part_of(&self, book: &str, name: &str) -> String {
        let mut archive = zip::ZipArchive::new(fs::File::open(self.path(book)).unwrap()).unwrap();
        let mut text = String::new();
        std::io::Read::read_to_string(&mut archive.by_name(name).unwrap(), &mut text).unwrap();
        text
    }

    pub(crate) fn exists(&self, name: &str) -> bool {
        self.path(name).exists()
    }

    /// The names in a folder, sorted, hidden ones as well.
    pub(crate) fn names(&self, folder: &str) -> Vec<String> {
        let mut names: Vec<String> = fs::read_dir(self.path(folder))
            .map(|entries| entries.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect())
            .unwrap_or_default();
        names.sort();
        names
    }

    /// A command on this desk, with nothing of the machine's own in its environment.
    pub(crate) fn command(&self, words: &[&str]) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_dusk"));
        command
            .args(words)
            .current_dir(self.folder.path())
            .env_clear()
            .env("USER", "clerk")
            .stdin(Stdio::null());
        command
    }

    pub(crate) fn run(&self, words: &[&str]) -> Ran {
        Ran::of(self.command(words))
    }

    /// Runs a command that asks, with these answers typed.
    pub(crate) fn answering(&self, words: &[&str], answers: &str) -> Ran {
        let piped = Stdio::piped;
        let mut command = self.command(words);
        let mut child = command.stdin(piped()).stdout(piped()).stderr(piped()).spawn().unwrap();
        // Whoever has enough answers reads no more of them.
        let _ = std::io::Write::write_all(&mut child.stdin.take().unwrap(), answers.as_bytes());
        Ran::from_output(child.wait_with_output().unwrap())
    }

    /// Runs `conform` into the folder `batch`.
    pub(crate) fn conform(&self) -> Ran {
        self.conform_into("batch", "2026-04-30")
    }

    /// As [`Desk::conform`], into another folder.
    pub(crate) fn conform_again(&self) -> Ran {
        self.conform_into("again", "2026-05-01")
    }

    /// Runs `conform`, which tells all that it found and on what evidence.
    fn conform_into(&self, batch: &str, today: &str) -> Ran {
        self.run(&["conform", "export.csv", "-o", batch, "--today", today, "--all-causes", "--evidence"])
    }

    /// Runs `check` and gives its result for programs.
    pub(crate) fn check(&self) -> Value {
        self.check_with(&[])
    }

    /// The same with more words behind it.
    pub(crate) fn check_with(&self, more: &[&str]) -> Value {
        let words = ["check", "export.csv", "--today", "2026-04-30", "--format", "json"];
        let ran = self.run(&[&words[..], more].concat());
        serde_json::from_str(&ran.out).unwrap_or_else(|_| panic!("no result: {ran:?}"))
    }
}

impl Ran {
    pub(crate) fn of(mut command: Command) -> Self {
        Self::from_output(command.output().unwrap())
    }

    fn from_output(output: std::process::Output) -> Self {
        Self {
            status: output.status.code().unwrap_or(-1),
            out: String::from_utf8(output.stdout).unwrap(),
            err: String::from_utf8(output.stderr).unwrap(),
        }
    }

    /// Fails unless the command ended with `status`.
    #[track_caller]
    pub(crate) fn ended(self, status: i32) -> Self {
        assert_eq!(self.status, status, "{}\n{}", self.out, self.err);
        self
    }

    /// Fails unless standard output holds every one of `texts`.
    #[track_caller]
    pub(crate) fn says(self, texts: &[&str]) -> Self {
        for text in texts {
            assert!(self.out.contains(text), "\"{text}\" is not in:\n{}", self.out);
        }
        self
    }

    /// Fails where any of `texts` is said, however it was broken into lines.
    #[track_caller]
    pub(crate) fn says_nothing_of(self, texts: &[&str]) -> Self {
        let said = format!("{}{}", self.out, self.err);
        let said = said.split_whitespace().collect::<Vec<_>>().join(" ");
        texts.iter().for_each(|text| assert!(!said.contains(text), "{text} is said:\n{said}"));
        self
    }

    /// Fails unless standard error holds every one of `texts`, however it was broken into lines.
    #[track_caller]
    pub(crate) fn notes(self, texts: &[&str]) -> Self {
        let said = self.err.split_whitespace().collect::<Vec<_>>().join(" ");
        texts.iter().for_each(|text| assert!(said.contains(text), "{text} is not said:\n{said}"));
        self
    }

    /// Fails unless it could not be done, for a reason that holds every one of `texts`.
    #[track_caller]
    pub(crate) fn stops(self, texts: &[&str]) -> Self {
        let ran = self.ended(2);
        assert_eq!(ran.out, "", "a command that cannot be done prints no result");
        for text in texts {
            assert!(ran.err.contains(text), "\"{text}\" is not in:\n{}", ran.err);
        }
        assert!(!ran.err.contains("panicked"), "{}", ran.err);
        ran
    }
}
