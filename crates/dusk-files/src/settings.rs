//! TOML settings read key by key, so that every unknown key and every wrong type is said at once.

use std::cell::RefCell;
use std::ops::Range;
use std::path::Path;

/// What stands in an offered line where nobody but the steward knows the answer.
const OPEN: &str = "…";

use toml::de::{DeTable, DeValue};

use dusk_evidence::{Error, Line, Problem, Problems, Result};

/// A value and the line that it stands on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct At<T> {
    /// The value.
    pub value: T,
    /// Its line in the file.
    pub line: Line,
}

/// A settings file's text, kept while its tables are read.
#[derive(Debug)]
pub struct SettingsFile {
    /// The file as the steward knows it, used in messages.
    pub name: String,
    text: String,
}

impl SettingsFile {
    /// Reads the file at `path`, which must be UTF-8 as TOML demands.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read, [`Error::Problems`] when it is not UTF-8.
    pub fn read(path: &Path) -> Result<Self> {
        let name = path.display().to_string();
        let bytes = std::fs::read(path).map_err(Error::reading(path))?;
        let text = match String::from_utf8(bytes) {
            Ok(text) => text,
            Err(wrong) => {
                let good = wrong.utf8_error().valid_up_to();
                let before = wrong.as_bytes().get(..good).unwrap_or_default();
                let mut problems = Problems::default();
                problems
                    .at(&name, Some(line_after(before)), "holds bytes that are not UTF-8")
                    .hint("save the file as UTF-8");
                return Err(Error::Problems(problems));
            }
        };
        Ok(Self::from_text(name, text))
    }

    /// Settings that are in memory already.
    pub fn from_text(name: impl Into<String>, text: String) -> Self {
        let text = text.strip_prefix('\u{feff}').map(str::to_owned).unwrap_or(text);
        Self { name: name.into(), text }
    }

    /// The whole text.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Reads the file's top table with `read`, adding whatever is wrong to `problems`.
    pub fn read_with<T>(&self, problems: &mut Problems, read: impl FnOnce(&mut Settings<'_>) -> T) -> T {
        let (table, errors) = DeTable::parse_recoverable(&self.text);
        let shared = RefCell::new(std::mem::take(problems));
        for error in &errors {
            let line = error.span().map(|span| self.line_at(&span));
            shared.borrow_mut().at(&self.name, line, error.message().trim());
        }
        // After a syntax error the table may be cut short, so what seems missing is not said.
        let mute = !errors.is_empty();
        let mut settings = Settings {
            file: self,
            title: String::new(),
            line: Line::FIRST,
            table: table.get_ref(),
            known: Vec::new(),
            problems: &shared,
            mute,
            ignore_rest: false,
        };
        let value = read(&mut settings);
        settings.finish();
        *problems = shared.into_inner();
        value
    }

    fn line_at(&self, span: &Range<usize>) -> Line {
        line_after(self.text.as_bytes().get(..span.start).unwrap_or_default())
    }
}

fn line_after(bytes: &[u8]) -> Line {
    Line(1 + memchr::memchr_iter(b'\n', bytes).count() as u64)
}

/// Keys that had another name once: the table that they are in, the old name, and what they are called now.
const RENAMED: [(&str, &str, &str); 6] = [
    ("[[map]]", "gather", "together"),
    ("[[map]]", "holds", "true_where"),
    ("[[map]]", "instances", "numbers"),
    ("[repeat]", "instances", "numbers"),
    ("[[field]]", "instances", "numbers"),
    ("[[field]]", "spread", "column_per_code"),
];

/// One table of a settings file. Every key asked for is a known key; what is left over when the
/// table is finished is a problem with the nearest known spelling.
#[derive(Debug)]
pub struct Settings<'a> {
    file: &'a SettingsFile,
    title: String,
    line: Line,
    table: &'a DeTable<'a>,
    known: Vec<&'static str>,
    problems: &'a RefCell<Problems>,
    mute: bool,
    ignore_rest: bool,
}

impl<'a> Settings<'a> {
    /// The line on which this table begins.
    pub fn line(&self) -> Line {
        self.line
    }

    /// Notes a problem at `line` and returns it through `with` for a hint.
    pub fn problem(&self, line: Line, says: impl Into<String>, with: impl FnOnce(&mut Problem)) {
        if !self.mute {
            with(self.problems.borrow_mut().at(&self.file.name, Some(line), says));
        }
    }

    fn value(&mut self, key: &'static str) -> Option<(&'a DeValue<'a>, Line)> {
        self.known.push(key);
        let value = self.table.get(key)?;
        Some((value.get_ref(), self.file.line_at(&value.span())))
    }

    fn wrong_type(&self, key: &str, line: Line, found: &DeValue<'_>, wanted: &str) {
        let found = found.type_str();
        self.problem(
            line,
            format!("{}{key} must be {wanted}, but it is of type {found}", self.title),
            |_| {},
        );
    }

    /// A text in quotes.
    pub fn text(&mut self, key: &'static str) -> Option<At<String>> {
        let (value, line) = self.value(key)?;
        match value.as_str() {
            Some(OPEN) => {
                self.problem(line, format!("{}{key} is still open", self.title), |problem| {
                    problem.hint(format!(
                        "write what is meant in the place of \"{OPEN}\", or take the line out"
                    ));
                });
                None
            }
            Some(text) => Some(At { value: text.to_owned(), line }),
            None => {
                self.wrong_type(key, line, value, "a text in quotes");
                None
            }
        }
    }

    /// A text that has to be there.
    pub fn required_text(&mut self, key: &'static str) -> Option<At<String>> {
        if !self.table.contains_key(key) {
            self.problem(self.line, format!("{}{key} is missing", self.title), |_| {});
        }
        self.text(key)
    }

    /// `true` or `false`; `default` where the key is absent.
    pub fn flag(&mut self, key: &'static str, default: bool) -> bool {
        let Some((value, line)) = self.value(key) else { return default };
        value.as_bool().unwrap_or_else(|| {
            self.wrong_type(key, line, value, "true or false");
            default
        })
    }

    /// A whole number of at least `least`.
    pub fn whole(&mut self, key: &'static str, least: u64) -> Option<At<u64>> {
        let (value, line) = self.value(key)?;
        let number = value
            .as_integer()
            .and_then(|number| u64::from_str_radix(number.as_str(), number.radix()).ok())
            .filter(|number| *number >= least);
        if number.is_none() {
            self.wrong_type(key, line, value, &format!("a whole number, {least} or more"));
        }
        number.map(|value| At { value, line })
    }

    /// A number kept exactly as it is written: a whole number, or any number in quotes.
    pub fn number_text(&mut self, key: &'static str) -> Option<At<String>> {
        let (value, line) = self.value(key)?;
        match value {
            DeValue::String(text) => Some(At { value: text.to_string(), line }),
            DeValue::Integer(number) if number.radix() == 10 => {
                Some(At { value: number.as_str().to_owned(), line })
            }
            DeValue::Float(number) => Some(At { value: number.as_str().to_owned(), line }),
            _ => {
                self.wrong_type(key, line, value, "a number");
                None
            }
        }
    }

    /// One of a few words.
    pub fn choice<T: Copy>(&mut self, key: &'static str, choices: &[(&'static str, T)]) -> Option<T> {
        let text = self.text(key)?;
        let found = choices.iter().find(|(word, _)| *word == text.value).map(|(_, choice)| *choice);
        if found.is_none() {
            self.problem(text.line, format!("{}{key} cannot be \"{}\"", self.title, text.value), |problem| {
                problem.suggest(&text.value, choices.iter().map(|(word, _)| *word));
            });
        }
        found
    }

    /// An encoding by its WHATWG label, looked up by `find`.
    pub fn encoding<T>(&mut self, key: &'static str, find: impl Fn(&str) -> Option<T>) -> Option<T> {
        /// Those that exports and templates are mostly in; the standard has many more.
        const COMMON: [&str; 10] = [
            "utf-8",
            "utf-16le",
            "utf-16be",
            "windows-1252",
            "windows-1250",
            "iso-8859-1",
            "iso-8859-2",
            "iso-8859-15",
            "shift_jis",
            "gbk",
        ];
        let label = self.text(key)?;
        let encoding = find(&label.value);
        if encoding.is_none() {
            self.problem(label.line, format!("there is no encoding \"{}\"", label.value), |problem| {
                problem.suggest(&label.value, COMMON);
            });
        }
        encoding
    }

    /// A list of texts; empty where the key is absent.
    pub fn texts(&mut self, key: &'static str) -> Vec<At<String>> {
        let Some((value, line)) = self.value(key) else { return Vec::new() };
        let Some(array) = value.as_array() else {
            self.wrong_type(key, line, value, "a list of texts, as [\"one\", \"two\"]");
            return Vec::new();
        };
        let mut texts = Vec::new();
        for item in array.iter() {
            let line = self.file.line_at(&item.span());
            match item.get_ref().as_str() {
                Some(text) => texts.push(At { value: text.to_owned(), line }),
                None => self.wrong_type(key, line, item.get_ref(), "a list of texts in quotes"),
            }
        }
        texts
    }

    /// A text, or a list of them.
    pub fn text_or_texts(&mut self, key: &'static str) -> Vec<At<String>> {
        match self.table.get(key).is_some_and(|value| value.get_ref().is_array()) {
            true => self.texts(key),
            false => self.text(key).into_iter().collect(),
        }
    }

    /// Every `name = "text"` pair of the table `[key]`, in the order of the file.
    pub fn pairs(&mut self, key: &'static str) -> Vec<(At<String>, At<String>)> {
        let Some((value, line)) = self.value(key) else { return Vec::new() };
        let Some(table) = value.as_table() else {
            self.wrong_type(key, line, value, "a table");
            return Vec::new();
        };
        let mut pairs = Vec::new();
        for (name, value) in table.iter() {
            let (line, start) = (self.file.line_at(&name.span()), name.span().start);
            match value.get_ref().as_str() {
                Some(text) => pairs.push((
                    start,
                    (At { value: name.get_ref().to_string(), line }, At { value: text.to_owned(), line }),
                )),
                None => self.wrong_type(name.get_ref(), line, value.get_ref(), "a text in quotes"),
            }
        }
        pairs.sort_by_key(|(start, _)| *start);
        pairs.into_iter().map(|(_, pair)| pair).collect()
    }

    /// Reads the table `[key]`, or an empty one where it is absent.
    pub fn table<T>(&mut self, key: &'static str, read: impl FnOnce(&mut Settings<'_>) -> T) -> T {
        let empty = DeTable::new();
        let found = self.value(key);
        let (table, line) = match found {
            Some((value, line)) => match value.as_table() {
                Some(table) => (table, line),
                None => {
                    self.wrong_type(key, line, value, "a table");
                    (&empty, line)
                }
            },
            None => (&empty, self.line),
        };
        self.inner(format!("[{key}] "), table, line, read)
    }

    /// Reads every table of the list `[[key]]`.
    pub fn tables<T>(&mut self, key: &'static str, mut read: impl FnMut(&mut Settings<'_>) -> T) -> Vec<T> {
        let Some((value, line)) = self.value(key) else { return Vec::new() };
        let Some(array) = value.as_array() else {
            self.wrong_type(key, line, value, &format!("a list of tables, each headed [[{key}]]"));
            return Vec::new();
        };
        let mut values = Vec::new();
        for item in array.iter() {
            let line = self.file.line_at(&item.span());
            match item.get_ref().as_table() {
                Some(table) => values.push(self.inner(format!("[[{key}]] "), table, line, &mut read)),
                None => self.wrong_type(key, line, item.get_ref(), "a table"),
            }
        }
        values
    }

    /// Reads the table `[key]`, or every table of the list `[[key]]`; nothing where it is absent.
    pub fn table_or_tables<T>(
        &mut self,
        key: &'static str,
        mut read: impl FnMut(&mut Settings<'_>) -> T,
    ) -> Vec<T> {
        match self.table.get(key).map(|value| value.get_ref().is_array()) {
            None => Vec::new(),
            Some(true) => self.tables(key, read),
            Some(false) => vec![self.table(key, &mut read)],
        }
    }

    fn inner<T>(
        &self,
        title: String,
        table: &DeTable<'_>,
        line: Line,
        read: impl FnOnce(&mut Settings<'_>) -> T,
    ) -> T {
        let mut settings = Settings {
            file: self.file,
            title,
            line,
            table,
            known: Vec::new(),
            problems: self.problems,
            mute: self.mute,
            ignore_rest: false,
        };
        let value = read(&mut settings);
        settings.finish();
        value
    }

    /// True when the key holds a whole number.
    pub fn is_whole(&self, key: &str) -> bool {
        self.table.get(key).is_some_and(|value| value.get_ref().as_integer().is_some())
    }

    /// Keys given in this table, whether known or not.
    pub fn has(&self, key: &str) -> bool {
        self.table.contains_key(key)
    }

    /// Whether one of these keys is given in this table.
    pub fn has_any(&self, keys: &[&str]) -> bool {
        keys.iter().any(|key| self.has(key))
    }

    /// Takes `key` as known but wrong here.
    pub fn misplaced(&mut self, key: &'static str, says: &str) {
        if let Some((_, line)) = self.value(key) {
            self.problem(line, says, |_| {});
        }
    }

    /// Takes `keys` as known, whatever is said about them.
    pub fn know(&mut self, keys: &[&'static str]) {
        self.known.extend(keys);
    }

    /// Labels in a list of texts, each once; `"1-4"` is four of them.
    pub fn labels(&mut self, key: &'static str) -> Vec<String> {
        let texts = self.texts(key);
        self.labels_in(key, texts)
    }

    /// Such a list for each name in a table.
    pub fn lists_of_labels(&mut self, key: &'static str) -> Vec<(At<String>, Vec<String>)> {
        let Some((value, line)) = self.value(key) else { return Vec::new() };
        let Some(table) = value.as_table() else {
            self.wrong_type(key, line, value, "a table with a list for each name");
            return Vec::new();
        };
        let mut lists = Vec::new();
        for (name, value) in table.iter() {
            let line = self.file.line_at(&name.span());
            let items =
                value.get_ref().as_array().map_or_else(|| vec![value], |items| items.iter().collect());
            let texts = items.iter().map(|item| {
                let text = item.get_ref().as_str()?.to_owned();
                Some(At { value: text, line: self.file.line_at(&item.span()) })
            });
            match texts.collect::<Option<Vec<_>>>() {
                Some(texts) => {
                    let labels = self.labels_in(key, texts);
                    lists.push((At { value: name.get_ref().to_string(), line }, labels));
                }
                None => self.wrong_type(key, line, value.get_ref(), "a list of texts"),
            }
        }
        lists
    }

    fn labels_in(&mut self, key: &'static str, texts: Vec<At<String>>) -> Vec<String> {
        const MOST: usize = 500;
        let mut labels: Vec<String> = Vec::new();
        for text in texts {
            let range = text.value.split_once('-').and_then(|(first, last)| {
                Some((first.trim().parse::<u16>().ok()?, last.trim().parse::<u16>().ok()?))
            });
            let named: Vec<String> = match range {
                Some((first, last)) if first <= last => {
                    (first..=last).take(MOST + 1).map(|number| number.to_string()).collect()
                }
                _ => vec![text.value.trim().to_owned()],
            };
            for label in named {
                if labels.contains(&label) {
                    self.problem(text.line, format!("{}{key} names \"{label}\" twice", self.title), |_| {});
                } else if labels.len() == MOST {
                    self.problem(text.line, format!("{}{key} names more than {MOST}", self.title), |_| {});
                    return labels;
                } else {
                    labels.push(label);
                }
            }
        }
        labels
    }

    /// Says nothing about the keys that were not asked for.
    pub fn ignore_rest(&mut self) {
        self.ignore_rest = true;
    }

    fn finish(&mut self) {
        if self.ignore_rest {
            return;
        }
        let mut unknown: Vec<(Line, &str)> = self
            .table
            .iter()
            .filter(|(key, _)| !self.known.contains(&key.get_ref().as_ref()))
            .map(|(key, _)| (self.file.line_at(&key.span()), key.get_ref().as_ref()))
            .collect();
        unknown.sort_unstable();
        for (line, key) in unknown {
            let now = RENAMED.iter().find(|(table, old, _)| *old == key && self.title.starts_with(table));
            self.problem(
                line,
                format!("{}does not know the key \"{key}\"", self.title),
                |problem| match now {
                    Some((_, _, now)) => problem.hint(format!("it is called {now} now: write {now} = …")),
                    None => problem.suggest(key, self.known.iter().copied()),
                },
            );
        }
    }
}
