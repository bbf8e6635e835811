//! `dusk start`: the way from an export to a first batch, one question after another.
//!
//! It has no way of its own to do anything: each step is a command, shown as somebody would type it and run as if they
//! had, so that the files are those which the commands write, and the next month needs only the last two.

use std::ffi::OsString;
use std::io::{BufRead as _, IsTerminal as _};
use std::path::{Path, PathBuf};

use clap::{CommandFactory as _, FromArgMatches as _};
use dusk_core::description::Target;
use dusk_core::mapping;
use dusk_core::mapping::learn_target;
use dusk_core::sources::{Known, Source, SourceSettings};

use super::reading;
use super::status::materials_beside;
use crate::args::{Args, Command, StartArgs};
use crate::loaded::opening;
use crate::outcome::{Ended, Failure, Outcome, say};
use crate::show::{bold, counted, failure, how_read, quiet as standing_back, shell_word, visible};

/// Where the description and the mapping go, where nothing else is said.
const TARGET: &str = "target.toml";
const MAPPING: &str = "mapping.toml";

/// The options that say how an export is read, as they are typed without their dashes.
const READING: [&str; 7] =
    ["sheet", "encoding", "delimiter", "quote", "line-break", "header-row", "header-rows"];

pub(super) fn run(args: &StartArgs, quiet: bool) -> Outcome {
    let start = Start { args, quiet };
    let is_mapped = args.mapping.exists();
    if !is_mapped && !start.target()? {
        return Ok(start.ends_here());
    }
    let reading = if is_mapped { Some(Vec::new()) } else { start.export()? };
    let Some(reading) = reading else { return Ok(start.ends_here()) };
    if !start.mapping(is_mapped, &reading)? {
        return Ok(start.ends_here());
    }
    let Some(asked) = start.asked()? else { return Ok(start.ends_here()) };
    start.batch(&asked)
}

struct Start<'a> {
    args: &'a StartArgs,
    quiet: bool,
}

impl Start<'_> {
    /// The next answer; nothing where there are no more, or no more are wanted.
    fn answer(question: &str) -> Result<Option<String>, Failure> {
        say(question);
        // Commands that ask read from the same place, so that it is held for one line only.
        let mut line = String::new();
        let read = std::io::stdin().lock().read_line(&mut line)?;
        let line = line.trim().to_owned();
        Ok((read > 0 && !matches!(line.to_lowercase().as_str(), "stop" | "quit" | "q")).then_some(line))
    }

    fn step(&self, number: u8, about: &str) {
        if !self.quiet {
            say(&format!("\n{} {}\n", standing_back(&format!("{number} of 4")), bold(about)));
        }
    }

    /// What was decided is in files, so that nothing is lost where it ends early.
    fn ends_here(&self) -> Ended {
        let mut words = vec!["start".to_owned(), self.export_word()];
        if !self.args.target.exists() {
            words.extend(self.args.materials.iter().map(|material| material.display().to_string()));
        }
        if self.args.target != Path::new(TARGET) {
            words.extend(["-t".to_owned(), self.args.target.display().to_string()]);
        }
        words.extend(self.option_words());
        say(&format!(
            "\nnot everything is decided yet; what was answered is kept\n  go on with: dusk {}\n",
            typed_line(&words)
        ));
        Ended::SomeRejected
    }

    fn export_word(&self) -> String {
        self.args.export.display().to_string()
    }

    /// What every command after the draft is given besides the export.
    fn option_words(&self) -> Vec<String> {
        let mut words = Vec::new();
        if self.args.mapping != Path::new(MAPPING) {
            words.extend(["-m".to_owned(), self.args.mapping.display().to_string()]);
        }
        if let Some(today) = self.args.today {
            words.extend(["--today".to_owned(), today.to_string()]);
        }
        words
    }

    /// Sees that a target is described; whether it is.
    fn target(&self) -> Result<bool, Failure> {
        self.step(1, "The target");
        let path = &self.args.target;
        if path.exists() {
            let target = Target::read(path)?;
            say(&format!(
                "  {} describes {}, {}\n",
                path.display(),
                bold(&target.name),
                counted(target.fields.len() as u64, "field")
            ));
            return Ok(true);
        }
        let materials = match self.args.materials.is_empty() {
            false => self.args.materials.clone(),
            true => match self.ask_for_materials()? {
                Some(materials) => materials,
                None => return Ok(false),
            },
        };
        let mut words = vec!["target".to_owned(), "draft".to_owned()];
        words.extend(materials.iter().map(|material| material.display().to_string()));
        if path != Path::new(TARGET) {
            words.extend(["-o".to_owned(), path.display().to_string()]);
        }
        words.push("--ask".to_owned());
        self.typed(&words)?;
        Ok(true)
    }

    /// The files that say what the target takes, chosen from those beside the export or named.
    fn ask_for_materials(&self) -> Result<Option<Vec<PathBuf>>, Failure> {
        let beside = materials_beside(&self.args.export);
        let listed: String = beside
            .iter()
            .enumerate()
            .map(|(place, path)| format!("  {:>4}  {}\n", place + 1, visible(&path.display().to_string())))
            .collect();
        say(&format!(
            "  Which files say what the target takes? A data dictionary, an import template, code lists, a file that it accepted.\n{listed}"
        ));
        loop {
            let question = "  Their numbers or names, with a comma between them: ";
            let Some(answer) = Self::answer(question)?.filter(|answer| !answer.is_empty()) else {
                return Ok(None);
            };
            let named = answer.split(',').map(str::trim).filter(|name| !name.is_empty());
            let chosen: Result<Vec<PathBuf>, &str> = named
                .map(|name| {
                    let by_number = name.parse::<usize>().ok().and_then(|number| number.checked_sub(1));
                    let listed = by_number.and_then(|place| beside.get(place)).cloned();
                    listed.or_else(|| Some(PathBuf::from(name)).filter(|path| path.is_file())).ok_or(name)
                })
                .collect();
            match chosen {
                Ok(chosen) => return Ok(Some(chosen)),
                Err(name) => say(&format!("  there is no file \"{}\"\n", visible(name))),
            }
        }
    }

    /// Opens the export, asking how it is read where the file leaves that open. The words that say so; nothing where
    /// it stays open.
    fn export(&self) -> Result<Option<Vec<String>>, Failure> {
        self.step(2, "The export");
        let mut words: Vec<String> = Vec::new();
        let mut known = Known::default();
        learn_target(&mut known, &Target::read(&self.args.target)?);
        loop {
            let open = match self.open(&words, &known) {
                Ok(source) => {
                    let name = bold(&source.name);
                    let columns = counted(source.columns.len() as u64, "column");
                    say(&format!("  {name}  {columns}; read as {}\n", visible(&how_read(&source, true))));
                    return Ok(Some(words));
                }
                Err(Unread::Stopped(stopped)) => return Err(stopped),
                Err(Unread::Open(says)) => says,
                Err(Unread::WrongAnswer(says)) => {
                    words.clear();
                    says
                }
            };
            say(&format!("{}\n", failure(&open)));
            let question = format!(
                "  How is it read? Write one of {}, and what it is, as sheet 2: ",
                READING.join(", ")
            );
            let Some(answer) = Self::answer(&question)?.filter(|answer| !answer.is_empty()) else {
                return Ok(None);
            };
            match reading_words(&answer) {
                Some(said) => words.extend(said),
                None => say(&format!("  \"{}\" is not such an answer\n", visible(&answer))),
            }
        }
    }

    /// Opens the export as these words say it is read, where all of that is proven or said.
    fn open(&self, words: &[String], known: &Known) -> Result<Source, Unread> {
        let line = ["map".to_owned(), self.export_word()].into_iter().chain(words.iter().cloned());
        let mut settings = SourceSettings::default();
        let wrong = |Failure::Stopped(says)| Unread::WrongAnswer(says);
        if let Command::Map(map) = parsed(&line.collect::<Vec<_>>()).map_err(wrong)?.command {
            reading::apply(&map.reading, &mut settings).map_err(wrong)?;
        }
        let path = &self.args.export;
        opening(path, self.quiet, || Source::open(path, &settings, known)).map_err(|error| match error {
            dusk_core::Error::File { .. } => Unread::Stopped(error.into()),
            open => Unread::Open(open.to_string()),
        })
    }

    /// Sees that a mapping leads from the export into the target; whether it is whole.
    fn mapping(&self, is_mapped: bool, reading: &[String]) -> Result<bool, Failure> {
        self.step(3, "The mapping");
        let mut words = vec!["map".to_owned(), self.export_word()];
        if !is_mapped && self.args.target != Path::new(TARGET) {
            words.extend(["-t".to_owned(), self.args.target.display().to_string()]);
        }
        words.extend(reading.iter().cloned());
        words.extend(self.option_words());
        words.push("--ask".to_owned());
        self.typed(&words)?;
        match mapping::read(&self.args.mapping) {
            Ok(_) => Ok(true),
            Err(open) => {
                say(&format!("{}\n", failure(&open.to_string())));
                Ok(false)
            }
        }
    }

    /// What every run is asked for; nothing where an answer is missing.
    fn asked(&self) -> Result<Option<Vec<String>>, Failure> {
        let (mapping, _) = mapping::read(&self.args.mapping)?;
        let mut words = Vec::new();
        for (name, question) in &mapping.ask {
            let given = self.args.asked.iter().find(|(known, _)| known == name);
            let value = match given {
                Some((_, value)) => value.clone(),
                None => {
                    let question = format!("\n  {}\n  {}: ", visible(question), bold(name));
                    match Self::answer(&question)?.filter(|answer| !answer.is_empty()) {
                        Some(value) => value,
                        None => return Ok(None),
                    }
                }
            };
            words.extend(["--set".to_owned(), format!("{name}={value}")]);
        }
        Ok(Some(words))
    }

    /// Checks, and makes the batch where that is wanted.
    fn batch(&self, asked: &[String]) -> Outcome {
        self.step(4, "The check");
        let with = |command: &str| {
            let words = [command.to_owned(), self.export_word()].into_iter();
            words.chain(self.option_words()).chain(asked.iter().cloned()).collect::<Vec<_>>()
        };
        let ended = self.typed(&with("check"))?;
        let may_review = ended == Ended::SomeRejected
            && cfg!(feature = "review")
            && std::io::stdin().is_terminal()
            && std::io::stdout().is_terminal();
        let review = if may_review { "; [r]eview what was rejected first" } else { "" };
        loop {
            let question =
                format!("\n  Write the batch of what is accepted now? [y]es{review}; [n]o, later: ");
            let Some(answer) = Self::answer(&question)? else { return Ok(ended) };
            match answer.to_lowercase().as_str() {
                "y" | "yes" => return self.typed(&with("conform")),
                "r" | "review" if may_review => {
                    self.typed(&with("review"))?;
                }
                "n" | "no" | "" => return Ok(ended),
                other => say(&format!("  \"{}\" is not an answer to this question\n", visible(other))),
            }
        }
    }

    /// Runs a command as if it had been typed, and shows it.
    fn typed(&self, words: &[String]) -> Outcome {
        if !self.quiet {
            say(&format!("{} {}\n\n", standing_back("$"), bold(&format!("dusk {}", typed_line(words)))));
        }
        let mut args = parsed(words)?;
        args.quiet = self.quiet;
        super::find_what_is_named(&mut args)?;
        super::run(&args)
    }
}

/// An answer about how an export is read, as options: "sheet 2", "--sheet 2", or the line of a mapping that says so.
fn reading_words(answer: &str) -> Option<[String; 2]> {
    let (name, value) = answer.trim_start_matches('-').split_once([' ', '='])?;
    let name = name.replace('_', "-");
    let value = value.trim_start_matches([' ', '=']).trim_matches('"');
    READING.contains(&name.as_str()).then(|| [format!("--{name}"), value.to_owned()])
}

/// Why an export was not opened.
enum Unread {
    /// It leaves open how it is read.
    Open(String),
    /// What was answered before cannot be.
    WrongAnswer(String),
    /// No answer would help.
    Stopped(Failure),
}

fn typed_line(words: &[String]) -> String {
    words.iter().map(|word| shell_word(word)).collect::<Vec<_>>().join(" ")
}

fn parsed(words: &[String]) -> Result<Args, Failure> {
    let line = std::iter::once("dusk".to_owned()).chain(words.iter().cloned()).map(OsString::from);
    Args::command()
        .try_get_matches_from(line)
        .and_then(|matches| Args::from_arg_matches(&matches))
        .map_err(|wrong| Failure::Stopped(wrong.render().to_string()))
}
