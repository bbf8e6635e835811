//! Which record each line of an answer is about.

use std::path::Path;

use hashbrown::{HashMap, HashSet};

use super::counts::{Proof, ToldCounts};
use super::finding::{AnswerFinding, AnswerWrong};
use super::line::{AnswerLine, whole_number};
use crate::SentRecords;
use dusk_description::AnswerOutcome;
use dusk_evidence::{Error, Result};

/// How many findings are kept one by one.
const MOST_FINDINGS: usize = 10_000;

/// What is known of a record that was sent.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Told {
    /// The target loaded it, or refused it.
    Said(AnswerOutcome),
    /// No line mentions it, and the target's counts show that it is not there.
    NotThere,
    /// No line mentions it: nobody knows.
    #[default]
    NotMentioned,
}

impl Told {
    /// Its word in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Said(outcome) => outcome.word(),
            Self::NotThere => "not there",
            Self::NotMentioned => "not mentioned",
        }
    }

    /// The one with this word.
    pub(crate) fn named(word: &str) -> Option<Self> {
        let said = AnswerOutcome::WORDS.iter().find(|(known, _)| *known == word);
        let said = said.map(|(_, outcome)| Self::Said(*outcome));
        said.or_else(|| [Self::NotThere, Self::NotMentioned].into_iter().find(|told| told.word() == word))
    }
}

/// What the target said of the records that were sent, record by record.
#[derive(Debug, Default)]
pub struct ToldRecords {
    told: Vec<Told>,
    /// By their places among the reasons.
    why: Vec<u32>,
    reasons: Vec<String>,
    reason_places: HashMap<String, u32>,
    numbers: HashMap<usize, String>,
    /// Records of which one line says the opposite of another.
    contradicted: HashSet<usize>,
    /// Lines that cannot be taken as they are, and how many there are.
    pub findings: Vec<AnswerFinding>,
    /// How many lines cannot be taken as they are.
    pub wrong: u64,
    /// Of these, how many name no record that was sent.
    pub nowhere: u64,
    /// How many lines were taken.
    pub taken: u64,
    /// Of these, how many name the key of their record, or the upload file: by that they are about this batch.
    pub named: u64,
}

impl ToldRecords {
    /// Nothing was said yet of so many records.
    pub(crate) fn of(records: usize) -> Self {
        let mut told =
            Self { told: vec![Told::default(); records], why: vec![0; records], ..Self::default() };
        told.reasons.push(String::new());
        told
    }

    /// What is known of a record by its place.
    pub fn get(&self, at: usize) -> Told {
        self.told.get(at).copied().unwrap_or_default()
    }

    /// What the target said about it, in its own words.
    pub fn reason(&self, at: usize) -> &str {
        let place = self.why.get(at).copied().unwrap_or_default();
        self.reasons.get(place as usize).map_or("", String::as_str)
    }

    /// The number that the target gave it.
    pub fn number(&self, at: usize) -> &str {
        self.numbers.get(&at).map_or("", String::as_str)
    }

    /// How many records are what.
    pub fn counts(&self) -> ToldCounts {
        let mut counts = ToldCounts { sent: self.told.len() as u64, ..ToldCounts::default() };
        for told in &self.told {
            *match told {
                Told::Said(AnswerOutcome::Loaded) => &mut counts.loaded,
                Told::Said(AnswerOutcome::Warned) => &mut counts.warned,
                Told::Said(AnswerOutcome::Refused) => &mut counts.refused,
                Told::NotThere => &mut counts.not_there,
                Told::NotMentioned => &mut counts.not_mentioned,
            } += 1;
        }
        counts
    }

    pub(crate) fn set(&mut self, at: usize, told: Told, reason: &str, number: &str) {
        let place = self.place_of(reason);
        if let (Some(known), Some(why)) = (self.told.get_mut(at), self.why.get_mut(at)) {
            (*known, *why) = (told, place);
        }
        if !number.is_empty() {
            self.numbers.insert(at, number.to_owned());
        }
    }

    fn place_of(&mut self, reason: &str) -> u32 {
        if reason.is_empty() {
            return 0;
        }
        if let Some(place) = self.reason_places.get(reason) {
            return *place;
        }
        let place = u32::try_from(self.reasons.len()).unwrap_or_default();
        self.reasons.push(reason.to_owned());
        self.reason_places.insert(reason.to_owned(), place);
        place
    }

    /// What the target's counts prove of the records that no line mentions.
    pub(crate) fn prove(&mut self, proof: Proof) {
        let told = match proof {
            Proof::AllIn => Told::Said(AnswerOutcome::Loaded),
            Proof::NoneIn => Told::NotThere,
        };
        self.told.iter_mut().filter(|known| **known == Told::NotMentioned).for_each(|known| *known = told);
    }

    fn note(&mut self, at: u64, wrong: AnswerWrong) {
        self.wrong += 1;
        if self.findings.len() < MOST_FINDINGS {
            self.findings.push(AnswerFinding { at, wrong });
        }
    }

    /// Takes in a line.
    pub(crate) fn take(&mut self, lines: &LinesOf<'_>, line: &AnswerLine) {
        let at = match lines.record_of(line) {
            Ok(at) => at,
            Err(wrong) => {
                self.nowhere += 1;
                return self.note(line.at, wrong);
            }
        };
        let Some(outcome) = line.outcome else {
            return self.note(line.at, AnswerWrong::UnknownWord { word: line.word.clone() });
        };
        if self.contradicted.contains(&at) {
            let (record, says) = (lines.named(at), outcome.word().to_owned());
            return self.note(line.at, AnswerWrong::Contradicts { record, said: "both".into(), says });
        }
        let known = self.get(at);
        let together = match known {
            Told::Said(said) if said.is_in() != outcome.is_in() => {
                let record = lines.named(at);
                let (said, says) = (said.word().to_owned(), outcome.word().to_owned());
                // Which of the two is right nobody knows: it is as if no line had mentioned the record.
                self.set(at, Told::NotMentioned, "", "");
                self.contradicted.insert(at);
                return self.note(line.at, AnswerWrong::Contradicts { record, said, says });
            }
            Told::Said(said) => said.max(outcome),
            Told::NotThere | Told::NotMentioned => outcome,
        };
        let reason = both(self.reason(at), &line.reason);
        self.taken += 1;
        let has_key = line.key.as_ref().is_some_and(|key| !key.trim().is_empty());
        self.named += u64::from(has_key || !line.file.trim().is_empty());
        self.set(at, Told::Said(together), &reason, &line.number);
    }
}

/// Two reasons of one record, each once.
pub(super) fn both(known: &str, new: &str) -> String {
    match (known, new) {
        (known, "") => known.to_owned(),
        ("", new) => new.to_owned(),
        (known, new) if known == new => known.to_owned(),
        (known, new) => {
            // Either may be several reasons already, of another line or another part of the answer.
            let mut together = known.to_owned();
            for part in new.split("; ").filter(|part| !part.is_empty()) {
                if !together.split("; ").any(|known| known == part) {
                    together.push_str("; ");
                    together.push_str(part);
                }
            }
            together
        }
    }
}

/// The records that were sent, as lines of an answer name them.
#[derive(Debug)]
pub(crate) struct LinesOf<'s> {
    sent: &'s SentRecords,
    /// The upload file that is meant where a line names none.
    file: Option<String>,
    /// The last line of each upload file.
    last_lines: HashMap<String, u64>,
}

impl<'s> LinesOf<'s> {
    /// The upload files of a batch in a folder; `file` is meant where a line names none.
    ///
    /// # Errors
    /// [`Error::Request`] where the batch has no such file.
    pub(crate) fn new(sent: &'s SentRecords, batch: &Path, file: Option<&str>) -> Result<Self> {
        let files: Vec<&str> = sent.files().collect();
        if let Some(file) = file.filter(|file| !sent.has_file(file)) {
            return Err(Error::Request(format!(
                "batch {} has no upload file {file}\n  it has {}",
                batch.display(),
                files.join(", ")
            )));
        }
        let only = match files.as_slice() {
            [only] => Some((*only).to_owned()),
            _ => None,
        };
        let last = |file: &&str| ((*file).to_owned(), last_line(&batch.join("upload").join(file)));
        let last_lines = files.iter().map(last).collect();
        Ok(Self { sent, file: file.map(str::to_owned).or(only), last_lines })
    }

    /// A record as people name it.
    fn named(&self, at: usize) -> String {
        self.sent.get(at).map_or_else(String::new, |record| match record.key {
            "" => format!("line {} of {}", record.line, record.file),
            key => format!("\"{key}\""),
        })
    }

    /// The upload file that a line means.
    fn file_of(&self, line: &AnswerLine) -> std::result::Result<&str, AnswerWrong> {
        let files = || self.sent.files().map(str::to_owned).collect::<Vec<_>>();
        // Some targets name the file with its folder.
        let named = line.file.rsplit(['/', '\\']).next().unwrap_or_default().trim();
        if named.is_empty() {
            return self.file.as_deref().ok_or_else(|| AnswerWrong::WhichFile { files: files() });
        }
        let known = self.sent.files().find(|file| dusk_values::fold(file) == dusk_values::fold(named));
        known.ok_or_else(|| AnswerWrong::NoSuchFile { file: line.file.clone(), files: files() })
    }

    /// The place of the record that a line is about.
    fn record_of(&self, line: &AnswerLine) -> std::result::Result<usize, AnswerWrong> {
        let key = line.key.as_deref().map(str::trim).filter(|key| key.chars().any(char::is_alphanumeric));
        let by_place = self.by_place(line)?;
        let with_key = key.map(|key| (key, self.sent.with_key(key)));
        match (by_place, with_key) {
            (Some(at), Some((key, keys))) if !keys.contains(&at) => {
                Err(AnswerWrong::TwoRecords { key: key.to_owned(), other: self.named(at) })
            }
            (Some(at), _) => Ok(at),
            (None, Some((key, keys))) => match keys.as_slice() {
                [only] => {
                    if !line.file.is_empty() {
                        self.file_of(line)?;
                    }
                    Ok(*only)
                }
                [] => Err(AnswerWrong::NoSuchKey { key: key.to_owned() }),
                several => Err(AnswerWrong::KeyOfSeveral { key: key.to_owned(), records: several.len() }),
            },
            (None, None) => Err(AnswerWrong::NamesNothing),
        }
    }

    /// The record on the line, or with the number, that a line names; nothing where it names none.
    fn by_place(&self, line: &AnswerLine) -> std::result::Result<Option<usize>, AnswerWrong> {
        let number =
            |text: &str| whole_number(text).ok_or_else(|| AnswerWrong::NotANumber { text: text.to_owned() });
        if let Some(text) = line.line.as_deref().filter(|text| !text.trim().is_empty()) {
            let (wanted, file) = (number(text)?, self.file_of(line)?);
            let last = self.last_lines.get(file).copied().unwrap_or_default();
            return self.sent.on_line(file, wanted, last).map(Some).ok_or_else(|| {
                let (first, last, _) = self.sent.extent(file);
                AnswerWrong::NoSuchLine { line: wanted, file: file.to_owned(), between: (first, last) }
            });
        }
        if let Some((text, from)) = line.record.as_ref().filter(|(text, _)| !text.trim().is_empty()) {
            let (wanted, file) = (number(text)?, self.file_of(line)?);
            let place = (wanted + 1).checked_sub(*from).and_then(|number| self.sent.numbered(file, number));
            return place.map(Some).ok_or_else(|| AnswerWrong::NoSuchRecord {
                number: text.clone(),
                file: file.to_owned(),
                records: self.sent.extent(file).2,
            });
        }
        Ok(None)
    }
}

/// The number of the last line of a text; 0 where it is none, as a workbook, or is not there any more.
fn last_line(path: &Path) -> u64 {
    let is_sheet = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("xlsx"));
    let bytes = if is_sheet { Vec::new() } else { std::fs::read(path).unwrap_or_default() };
    let ends = bytes.iter().filter(|byte| **byte == b'\n').count() as u64;
    ends + u64::from(bytes.last().is_some_and(|byte| *byte != b'\n'))
}

#[cfg(test)]
mod tests {
    use super::both;
    use proptest::prelude::*;

    proptest! {
        /// Reasons come to the same however an answer was cut into parts, and none is lost or said twice.
        #[test]
        fn reasons_are_said_once_in_any_parts(reasons in prop::collection::vec("[ab;]{0,3}(; [ab]{1,2})?", 0..7), cut in any::<prop::sample::Index>()) {
            let reasons: Vec<&str> = reasons.iter().map(|reason| reason.trim()).collect();
            let all = |some: &[&str]| some.iter().fold(String::new(), |known, new| both(&known, new));
            let (first, second) = reasons.split_at(cut.index(reasons.len() + 1));
            prop_assert_eq!(all(&reasons), both(&all(first), &all(second)));
            let whole = all(&reasons);
            for part in reasons.iter().flat_map(|reason| reason.split("; ")).filter(|part| !part.is_empty()) {
                prop_assert!(whole.split("; ").any(|known| known == part), "{} of {:?} is lost in {}", part, reasons, whole);
            }
            prop_assert_eq!(both(&whole, &whole), whole);
        }
    }
}
