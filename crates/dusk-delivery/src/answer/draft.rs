//! `[answer]` proposed from an answer and the batch that it is about: what its columns and lines hold is compared with
//! the records that were sent.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::path::Path;

use super::document::{Document, cells};
use super::drafted::DraftedAnswer;
use super::line::whole_number;
use super::read::text_of;
use super::row::Row;
use super::words::{by_heading, meaning, says_line, says_record};
use crate::SentRecords;
use dusk_description::AnswerOutcome;
use dusk_evidence::{ColumnId, Error, Result};
use dusk_files::toml_text;
use dusk_sources::{CellKind, Known, Source, SourceSettings};
use dusk_values::fold;

/// How many rows of an answer are looked at.
const MOST_ROWS: usize = 20_000;

/// How many different words a column that says how it went has at most.
const MOST_WORDS: usize = 12;

/// Proposes `[answer]`. `keys` are the names of the fields that are part of the key.
///
/// # Errors
/// [`Error::Request`] where nothing in it names a record of the batch; whatever stops reading.
pub fn draft_answer(path: &Path, sent: &SentRecords, keys: &[&str]) -> Result<DraftedAnswer> {
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    let text = text_of(&bytes);
    if let Some(document) = text.as_deref().and_then(Document::read) {
        for list in document.paths().into_iter().map(Some).chain([None]) {
            let records = document.records(list.as_deref());
            let rows: Vec<Row> = (1..).zip(records).take(MOST_ROWS).map(|(at, one)| cells(one, at)).collect();
            if let Some(mut draft) = Table::of(&rows).draft(sent, keys) {
                draft.add_document(list.as_deref(), &document);
                return Ok(draft.finish());
            }
        }
    } else {
        if let Some(rows) = rows_of(path)
            && let Some(draft) = Table::of(&rows).draft(sent, keys)
        {
            return Ok(draft.finish());
        }
        if let Some(draft) = text.as_deref().and_then(|text| super::draft_lines::draft_lines(text, sent)) {
            return Ok(draft);
        }
    }
    Err(Error::Request(format!(
        "nothing in {} names a record that this batch has sent: no column or line has their lines, numbers or keys",
        path.display()
    )))
}

/// The rows of a table; nothing where the file is none.
fn rows_of(path: &Path) -> Option<Vec<Row>> {
    let source = Source::look(path, &SourceSettings::default(), &Known::default()).ok()?;
    if source.columns.len() < 2 {
        return None;
    }
    let columns: Vec<(String, ColumnId)> =
        source.columns.iter().filter_map(|name| Some((name.clone(), source.column(name)?))).collect();
    let mut all = Vec::new();
    let mut walk = source.walk().ok()?;
    while let Some(mut rows) = walk.more().ok()? {
        while let Some(row) = rows.next() {
            let cell = |column: &ColumnId| CellKind::of(row.cell(*column)).1.trim().to_owned();
            let cells = columns.iter().map(|(name, column)| (name.clone(), cell(column))).collect();
            all.push(Row { at: row.row().0, cells });
            if all.len() == MOST_ROWS {
                return Some(all);
            }
        }
    }
    Some(all)
}

/// The columns of an answer, each with its cells.
struct Table {
    columns: Vec<(String, Vec<String>)>,
    rows: usize,
}

/// What is proposed so far.
pub(super) struct Draft {
    lines: Vec<String>,
    open: Vec<String>,
}

/// In which way a column names records.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Way {
    Key,
    Line,
    Record,
    RecordFrom0,
}

impl Way {
    const ALL: [Self; 4] = [Self::Key, Self::Line, Self::Record, Self::RecordFrom0];

    /// What goes into the description for a column, which is in quotes.
    fn line(self, column: &str) -> String {
        match self {
            Self::Key => format!("key = [{column}]"),
            Self::Line => format!("line = {column}"),
            Self::Record => format!("record = {column}"),
            Self::RecordFrom0 => format!("record_from = 0\nrecord = {column}"),
        }
    }

    fn words(self) -> &'static str {
        match self {
            Self::Key => "keys of records",
            Self::Line => "lines",
            Self::Record => "numbers of records",
            Self::RecordFrom0 => "numbers of records, counted from 0",
        }
    }

    /// Whether a heading says so. A "row" may be either.
    fn is_said_by(self, heading: &str) -> bool {
        let heading = heading.to_lowercase();
        match self {
            Self::Key => heading.contains("key") || heading.contains("schlüssel") || heading.contains("clé"),
            Self::Line => says_line(&heading),
            Self::Record => says_record(&heading),
            Self::RecordFrom0 => false,
        }
    }
}

/// Whether a cell is digits that any list of numbers may have.
fn is_plain_number(cell: &str) -> bool {
    !cell.is_empty() && !cell.starts_with('0') && cell.bytes().all(|byte| byte.is_ascii_digit())
}

impl Table {
    fn of(rows: &[Row]) -> Self {
        let mut columns: Vec<(String, Vec<String>)> = Vec::new();
        for (at, row) in rows.iter().enumerate() {
            for (name, text) in &row.cells {
                let place = columns.iter().position(|(known, _)| known == name).unwrap_or_else(|| {
                    columns.push((name.clone(), Vec::new()));
                    columns.len() - 1
                });
                if let Some((_, cells)) = columns.get_mut(place) {
                    cells.resize(at, String::new());
                    cells.push(text.clone());
                }
            }
        }
        columns.iter_mut().for_each(|(_, cells)| cells.resize(rows.len(), String::new()));
        Self { columns, rows: rows.len() }
    }

    /// How many rows of a column pass, of those that are filled.
    fn share(&self, column: usize, passes: impl Fn(usize, &str) -> bool) -> (usize, usize) {
        let Some((_, cells)) = self.columns.get(column) else { return (0, 0) };
        let filled: Vec<(usize, &String)> =
            cells.iter().enumerate().filter(|(_, cell)| !cell.is_empty()).collect();
        (filled.iter().filter(|(at, cell)| passes(*at, cell)).count(), filled.len())
    }

    fn name(&self, column: usize) -> &str {
        self.columns.get(column).map_or("", |(name, _)| name.as_str())
    }

    fn cell(&self, column: usize, row: usize) -> &str {
        self.columns.get(column).and_then(|(_, cells)| cells.get(row)).map_or("", String::as_str)
    }

    /// The columns of which nearly every filled cell passes, and most are filled.
    fn columns_that(&self, passes: impl Fn(usize, &str) -> bool) -> Vec<usize> {
        let is_it = |column: &usize| {
            let (passing, filled) = self.share(*column, &passes);
            filled * 2 > self.rows && passing * 20 >= filled * 19 && passing > 0
        };
        (0..self.columns.len()).filter(is_it).collect()
    }

    fn draft(&self, sent: &SentRecords, keys: &[&str]) -> Option<Draft> {
        let mut draft = Draft { lines: Vec::new(), open: Vec::new() };
        let mut used = Vec::new();
        let name_of = |cell: &str| cell.rsplit(['/', '\\']).next().unwrap_or_default().to_owned();
        let file = self.columns_that(|_, cell| sent.has_file(&name_of(cell))).first().copied();
        let files: Vec<&str> = sent.files().collect();
        let file_of = |row: usize| {
            let named = file.map(|column| name_of(self.cell(column, row))).unwrap_or_default();
            if named.is_empty() { files.first().copied().unwrap_or_default().to_owned() } else { named }
        };
        let place_of = |way: Way, row: usize, cell: &str| {
            let file = file_of(row);
            match way {
                Way::Key => match sent.with_key(cell).as_slice() {
                    [only] => Some(*only),
                    _ => None,
                },
                Way::Line => sent.on_line(&file, whole_number(cell)?, 0),
                Way::Record => sent.numbered(&file, whole_number(cell)?),
                Way::RecordFrom0 => sent.numbered(&file, whole_number(cell)? + 1),
            }
        };
        let key = self.key(sent, keys);
        if let Some(columns) = &key {
            let names: Vec<String> = columns.iter().map(|column| toml_text(self.name(*column))).collect();
            draft.say(
                &format!("key = [{}]", names.join(", ")),
                "its values are the keys of records that were sent",
            );
            used.extend(columns);
        }
        let by_key = |row: usize| {
            let text: Vec<&str> = key.as_ref()?.iter().map(|column| self.cell(*column, row)).collect();
            place_of(Way::Key, row, &text.join(" + "))
        };
        // Beside a key only what names the same record in every row is its place. Without one, a column may be read in
        // several ways: each has to fit in every row.
        let ways: &[Way] = if key.is_some() { &Way::ALL[1..] } else { &Way::ALL };
        let mut possible: Vec<(usize, Way)> = Vec::new();
        for column in (0..self.columns.len()).filter(|column| !used.contains(column) && Some(*column) != file)
        {
            for way in ways {
                let (passing, filled) = self.share(column, |row, cell| {
                    let found = place_of(*way, row, cell);
                    found.is_some() && (key.is_none() || found == by_key(row))
                });
                if filled > 0 && passing == filled && filled * 2 > self.rows {
                    possible.push((column, *way));
                }
            }
        }
        draft.place(self, possible, key.is_some(), &mut used)?;
        if let Some(column) = file {
            draft.say(&format!("file = {}", toml_text(self.name(column))), "it names the upload files");
            used.push(column);
        }
        self.outcome(&mut draft, &mut used);
        self.texts(&mut draft, &used);
        Some(draft)
    }

    /// The columns that together are the key of the records that were sent.
    fn key(&self, sent: &SentRecords, keys: &[&str]) -> Option<Vec<usize>> {
        // A number alone may be a key, a line or the number of a record: that is looked at by itself.
        let is_key = |cell: &str| {
            let found = sent.with_key(cell);
            let is_very_one = found.iter().any(|at| sent.get(*at).is_some_and(|record| record.key == cell));
            !found.is_empty()
                && (is_very_one && !is_plain_number(cell) || cell.chars().any(char::is_alphabetic))
        };
        if let Some(only) = self.columns_that(|_, cell| is_key(cell)).first() {
            return Some(vec![*only]);
        }
        if keys.len() < 2 || keys.len() > self.columns.len() {
            return None;
        }
        // The parts of the keys that were sent, field by field.
        let mut parts: Vec<std::collections::BTreeSet<String>> = vec![Default::default(); keys.len()];
        for record in sent.iter() {
            for (part, known) in record.key.split(" + ").zip(&mut parts) {
                known.insert(fold(part));
            }
        }
        let candidates: Vec<Vec<usize>> =
            parts.iter().map(|known| self.columns_that(|_, cell| known.contains(&fold(cell)))).collect();
        let mut chosen = vec![Vec::new()];
        for columns in &candidates {
            let with = |before: &Vec<usize>| {
                let free = columns.iter().filter(|column| !before.contains(column));
                free.map(|column| before.iter().copied().chain([*column]).collect())
                    .collect::<Vec<Vec<usize>>>()
            };
            chosen = chosen.iter().flat_map(with).take(1000).collect();
        }
        chosen.into_iter().find(|columns| {
            let named = |row: &usize| {
                let text: Vec<&str> = columns.iter().map(|column| self.cell(*column, *row)).collect();
                !sent.with_key(&text.join(" + ")).is_empty()
            };
            self.rows > 0 && (0..self.rows).filter(named).count() * 20 >= self.rows * 19
        })
    }

    /// The column that says how it went, and what its words mean.
    fn outcome(&self, draft: &mut Draft, used: &mut Vec<usize>) {
        // Sentences say why; how it went is said in a word or two.
        const MOST_TOKENS: usize = 3;
        let mut best: Option<(usize, usize, BTreeMap<String, Option<AnswerOutcome>>)> = None;
        for column in (0..self.columns.len()).filter(|column| !used.contains(column)) {
            let mut words: BTreeMap<String, Option<AnswerOutcome>> = BTreeMap::new();
            for row in 0..self.rows {
                let cell = self.cell(column, row);
                // What follows a colon says why.
                let word = cell.split_once(':').map_or(cell, |(word, _)| word.trim());
                let means = || meaning(word).or_else(|| by_heading(word, self.name(column)));
                words.entry(word.to_owned()).or_insert_with(means);
            }
            let known = words.values().flatten().count();
            let is_short = words.keys().all(|word| word.split_whitespace().count() <= MOST_TOKENS);
            if known > 0
                && is_short
                && words.len() <= MOST_WORDS
                && best.as_ref().is_none_or(|(_, most, _)| known > *most)
            {
                best = Some((column, known, words));
            }
        }
        // Words that nobody knows are asked about, where there are a few of them.
        let is_open = |column: &usize| {
            let all: std::collections::BTreeSet<&str> =
                (0..self.rows).map(|row| self.cell(*column, row)).collect();
            all.len() > 1 && all.len() <= MOST_WORDS && all.len() * 2 <= self.rows
        };
        if best.is_none()
            && let Some(column) =
                (0..self.columns.len()).filter(|column| !used.contains(column)).find(is_open)
        {
            let words = (0..self.rows).map(|row| (self.cell(column, row).to_owned(), None)).collect();
            best = Some((column, 0, words));
        }
        let Some((column, _, words)) = best else {
            draft.ask(
                "all = \"refused\"",
                "no column says how it went: is this a list of what was refused, or of what was loaded?",
            );
            return;
        };
        used.push(column);
        draft.say(&format!("outcome = {}", toml_text(self.name(column))), "its words say how it went");
        for (key, outcome) in AnswerOutcome::WORDS {
            let of = words.iter().filter(|(_, meaning)| **meaning == Some(outcome));
            let mut of: Vec<String> = of
                .map(|(word, _)| {
                    toml_text(word.split_once(':').map_or(word.as_str(), |(word, _)| word.trim()))
                })
                .collect();
            of.dedup();
            if !of.is_empty() {
                draft.say(&format!("{key} = [{}]", of.join(", ")), "");
            }
        }
        for word in words.iter().filter(|(_, meaning)| meaning.is_none()).map(|(word, _)| word) {
            let named = if word.is_empty() { "a blank".to_owned() } else { format!("\"{word}\"") };
            draft.open.push(format!("what does {named} mean? write it under loaded, warned or refused"));
            draft.lines.push(format!("# {}  is loaded, warned or refused?", toml_text(word)));
        }
    }

    /// The columns of reasons, and of numbers that the target gave.
    fn texts(&self, draft: &mut Draft, used: &[usize]) {
        let free = || (0..self.columns.len()).filter(|column| !used.contains(column));
        let words = |column: usize| {
            let long = self.share(column, |_, cell| cell.split_whitespace().count() > 1);
            long.0 * 2 > long.1 && long.1 > 0
        };
        let reasons: Vec<usize> = free().filter(|column| words(*column)).collect();
        let names: Vec<String> = reasons.iter().map(|column| toml_text(self.name(*column))).collect();
        if !names.is_empty() {
            let names = names.join(", ");
            let value = if reasons.len() == 1 { names } else { format!("[{names}]") };
            draft.say(&format!("reason = {value}"), "it has sentences");
        }
        for column in free().filter(|column| !reasons.contains(column)) {
            let mut seen = std::collections::BTreeSet::new();
            let (different, filled) = {
                let Some((_, cells)) = self.columns.get(column) else { continue };
                let filled = cells.iter().filter(|cell| !cell.is_empty());
                (filled.clone().filter(|cell| seen.insert((*cell).clone())).count(), filled.count())
            };
            let is_code = self.share(column, |_, cell| {
                cell.chars().any(|letter| letter.is_ascii_digit()) && !cell.contains(char::is_whitespace)
            });
            if filled > 1 && different == filled && is_code.0 == is_code.1 {
                draft.ask(
                    &format!("number = {}", toml_text(self.name(column))),
                    "each value is there once: is it the number that the target gave the record?",
                );
            }
        }
    }
}

impl Draft {
    fn say(&mut self, line: &str, why: &str) {
        if why.is_empty() {
            self.lines.push(line.to_owned());
        } else {
            self.lines.push(format!("{line}  # {why}"));
        }
    }

    fn ask(&mut self, line: &str, question: &str) {
        self.lines.push(format!("# {line}  # {question}"));
        self.open.push(question.to_owned());
    }

    /// The column that names records by itself, or beside the key; nothing where there is neither that nor a key.
    fn place(
        &mut self,
        table: &Table,
        mut possible: Vec<(usize, Way)>,
        has_key: bool,
        used: &mut Vec<usize>,
    ) -> Option<()> {
        if possible.len() > 1 {
            // A heading is the second witness.
            let said: Vec<(usize, Way)> = possible
                .iter()
                .copied()
                .filter(|(column, way)| way.is_said_by(table.name(*column)))
                .collect();
            if let [only] = said.as_slice() {
                possible = vec![*only];
            }
        }
        let line = |(column, way): &(usize, Way)| way.line(&toml_text(table.name(*column)));
        match possible.as_slice() {
            [] if has_key => {}
            [] => return None,
            [only] => {
                let by_key = if has_key { ", as the keys beside them say" } else { "" };
                self.say(&line(only), &format!("its values are {} of the upload{by_key}", only.1.words()));
            }
            several => {
                let question = "several are possible: does the target name records by keys, by lines of the file, or by numbers?";
                for place in several {
                    self.ask(&line(place).replace('\n', "\n# "), question);
                }
                self.open.dedup();
            }
        }
        used.extend(possible.iter().map(|(column, _)| *column));
        Some(())
    }

    /// What a JSON document has beside its records.
    fn add_document(&mut self, list: Option<&str>, document: &Document) {
        if let Some(list) = list {
            self.lines.insert(0, format!("records = {}", toml_text(list)));
        }
        let mut counts = Vec::new();
        for (path, number) in document.numbers() {
            let name = path.rsplit('.').next().unwrap_or_default();
            let word = match meaning(name) {
                Some(outcome) => outcome.word(),
                None if ["sent", "total", "received", "records", "count"].contains(&fold(name).as_str()) => {
                    "sent"
                }
                None => continue,
            };
            if !counts.iter().any(|(known, _, _)| *known == word) {
                counts.push((word, path, number));
            }
        }
        if !counts.is_empty() {
            let all: Vec<String> =
                counts.iter().map(|(word, path, _)| format!("{word} = {}", toml_text(path))).collect();
            let numbers: Vec<String> = counts.iter().map(|(_, _, number)| number.to_string()).collect();
            self.say(
                &format!("counts = {{ {} }}", all.join(", ")),
                &format!("the target's own counts: {}", numbers.join(", ")),
            );
        }
    }

    fn finish(self) -> DraftedAnswer {
        let mut text = String::from("\n[answer]\n");
        for line in &self.lines {
            let _ = writeln!(text, "{line}");
        }
        DraftedAnswer { text, open: self.open }
    }
}
