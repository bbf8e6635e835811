//! Files taken from a drop folder: each is moved aside, and its answer is put beside.

use std::path::{Path, PathBuf};

use crate::{Intake, Judged, reply};
use dusk_evidence::{Error, Result};
use dusk_files::{disk, write_whole};

/// Where taken files go, and where answers are put.
const TAKEN: &str = "taken";
const ANSWERS: &str = "answers";

/// Takes every file that is in a folder now; gives back each with what became of it and where its answer is.
///
/// # Errors
/// Whatever stops reading the folder; a file that cannot be read is answered by a note that says so.
pub fn take_folder(intake: &mut Intake<'_>, folder: &Path) -> Result<Vec<(String, Option<Judged>, PathBuf)>> {
    let entries = std::fs::read_dir(folder).map_err(Error::reading(folder))?;
    let mut paths: Vec<PathBuf> =
        entries.flatten().map(|entry| entry.path()).filter(|path| path.is_file()).collect();
    paths.sort();
    let name_of =
        |path: &Path| path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let mut done = Vec::new();
    for path in paths {
        let name = name_of(&path);
        // What begins with a dot is not whole yet, and an empty file only tells that another one is.
        if name.starts_with('.') || std::fs::metadata(&path).is_ok_and(|metadata| metadata.len() == 0) {
            continue;
        }
        let taken = folder.join(TAKEN);
        disk::make_folders(&taken).map_err(Error::writing(&taken))?;
        let to = taken.join(&name);
        disk::rename(&path, &to).map_err(Error::writing(&to))?;
        let answers = folder.join(ANSWERS);
        match intake.take(&to, &name) {
            Ok(judged) => {
                let (bytes, ending) = reply(intake.target(), &judged, intake.manners().mentions_few)?;
                let answer = answers.join(format!("{name}.answer.{ending}"));
                if !judged.breaks_off {
                    write_whole(&answer, &bytes)?;
                }
                done.push((name, Some(judged), answer));
            }
            Err(error) => {
                let answer = answers.join(format!("{name}.not-read.txt"));
                write_whole(&answer, format!("{error}\n").as_bytes())?;
                done.push((name, None, answer));
            }
        }
    }
    Ok(done)
}
