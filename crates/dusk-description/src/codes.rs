//! Code lists: the codes that a field may hold, each with its label and its other names.

use std::path::Path;

use hashbrown::HashMap;
use jiff::civil::Date;

use dusk_evidence::{Problems, Result};
use dusk_files::List;
use dusk_values::{distance_if_near, fold, nearest, sound_of};

/// One code of a list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Code {
    /// The code, as the target wants it.
    pub code: String,
    /// What it means.
    pub label: String,
    /// Other names for it.
    pub also: Vec<String>,
    /// The code inside which it is valid; empty where the list is not divided.
    pub within: String,
    /// The last day on which it was valid.
    pub until: Option<Date>,
    /// The code that came after it.
    pub replaced_by: String,
}

impl Code {
    /// The code with its label: "Y Yellow".
    pub fn shown(&self) -> String {
        if self.label.is_empty() || self.label == self.code {
            self.code.clone()
        } else {
            format!("{} {}", self.code, self.label)
        }
    }
}

/// Which column of a code list a value was found in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum HowFound {
    /// It is the code.
    Code,
    /// It is the label.
    Label,
    /// It is one of the other names.
    Also,
}

/// What a mapping says a source's values are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum ReadAs {
    /// Codes, labels or other names: whatever leaves one reading.
    #[default]
    Either,
    /// Codes only.
    Codes,
    /// Labels and other names only.
    Labels,
}

/// What a code list makes of a value.
#[derive(Debug, PartialEq, Eq)]
pub enum Lookup<'a> {
    /// It means this code.
    Found(&'a Code, HowFound),
    /// It could mean any of these.
    Undecided(Vec<&'a Code>),
    /// It means a code, but not inside the given parent.
    OutsideParent(Vec<&'a Code>),
    /// It is not in the list.
    Unknown,
}

/// The codes that a field may hold.
#[derive(Debug, Default)]
pub struct CodeList {
    /// The list's name: its file's, without the ending.
    pub name: String,
    /// True when each code is valid only inside another one.
    pub divided: bool,
    codes: Vec<Code>,
    folded: HashMap<String, Vec<(usize, HowFound)>>,
}

/// Why a value may mean a code, the best reason first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Likeness {
    /// It is spelt nearly so.
    Spelling {
        /// In how many letters it differs.
        distance: usize,
        /// No other code is as near.
        is_only: bool,
    },
    /// It sounds like it.
    Sound {
        /// No other code does.
        is_only: bool,
    },
    /// The code is a word of it.
    Part,
    /// It has a word of the code.
    Common,
}

impl Likeness {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Spelling { .. } => "spelt nearly so",
            Self::Sound { .. } => "sounds like it",
            Self::Part => "a word of it",
            Self::Common => "has a word of it",
        }
    }

    /// True where all of the value means the code, and no other is as likely.
    pub fn is_whole(self) -> bool {
        matches!(self, Self::Spelling { is_only: true, .. } | Self::Sound { is_only: true })
    }

    /// Another code is as likely.
    fn share(&mut self) {
        if let Self::Spelling { is_only, .. } | Self::Sound { is_only } = self {
            *is_only = false;
        }
    }
}

impl CodeList {
    /// Reads the list at `path`: columns `code`, `label`, and where wanted `also` (parted by bars),
    /// `within`, `until` (yyyy-MM-dd) and `replaced_by`.
    ///
    /// # Errors
    /// When the file is there but cannot be read.
    pub fn read(path: &Path, problems: &mut Problems) -> Result<Option<Self>> {
        let list =
            List::read(path, &["code"], &["label", "also", "within", "until", "replaced_by"], problems)?;
        let name = path.file_stem().map_or_else(String::new, |stem| stem.to_string_lossy().into_owned());
        Ok(list.map(|list| Self::from_list(name, &list, problems)))
    }

    /// Makes a code list of a list's rows.
    pub fn from_list(name: String, list: &List, problems: &mut Problems) -> Self {
        let mut codes: Vec<Code> = Vec::new();
        let mut seen: HashMap<(String, String), dusk_evidence::Line> = HashMap::new();
        for row in &list.rows {
            let [code, label, also, within, until, replaced_by] =
                [0, 1, 2, 3, 4, 5].map(|index| row.cell(index));
            if code.is_empty() {
                problems.at(&list.name, Some(row.line), format!("has no code (its label is \"{label}\")"));
                continue;
            }
            if let Some(first) = seen.insert((within.to_owned(), code.to_owned()), row.line) {
                let inside = if within.is_empty() { String::new() } else { format!(" within \"{within}\"") };
                problems
                    .at(&list.name, Some(row.line), format!("has the code \"{code}\"{inside} again"))
                    .hint(format!("it is on line {first} already; keep one of the two"));
                continue;
            }
            for (column, text) in [("code", code), ("label", label)] {
                if let Some(hidden) = dusk_values::hidden_in(text) {
                    problems
                        .at(
                            &list.name,
                            Some(row.line),
                            format!(
                                "the {column} \"{}\" holds an invisible character",
                                text.replace(hidden, "·")
                            ),
                        )
                        .hint(format!("take out {} (shown as ·)", dusk_values::named_character(hidden)));
                }
            }
            let until_day = (!until.is_empty()).then(|| until.parse::<Date>());
            if let Some(Err(_)) = until_day {
                problems
                    .at(&list.name, Some(row.line), format!("until \"{until}\" is not a day"))
                    .hint("write it as yyyy-MM-dd, for example 2025-12-31");
            }
            codes.push(Code {
                code: code.to_owned(),
                label: label.to_owned(),
                also: also
                    .split('|')
                    .map(str::trim)
                    .filter(|name| !name.is_empty())
                    .map(str::to_owned)
                    .collect(),
                within: within.to_owned(),
                until: until_day.and_then(std::result::Result::ok),
                replaced_by: replaced_by.to_owned(),
            });
        }
        if codes.is_empty() {
            problems.at(&list.name, None, "holds no codes");
        }
        Self::new(name, codes)
    }

    /// A list of these codes.
    pub fn new(name: String, codes: Vec<Code>) -> Self {
        let mut folded: HashMap<String, Vec<(usize, HowFound)>> = HashMap::new();
        for (index, code) in codes.iter().enumerate() {
            let names = std::iter::once((code.code.as_str(), HowFound::Code))
                .chain(std::iter::once((code.label.as_str(), HowFound::Label)))
                .chain(code.also.iter().map(|also| (also.as_str(), HowFound::Also)));
            for (name, how) in names.filter(|(name, _)| !name.is_empty()) {
                folded.entry(fold(name)).or_default().push((index, how));
            }
        }
        let divided = codes.iter().any(|code| !code.within.is_empty());
        Self { name, divided, codes, folded }
    }

    /// The codes in the order of the list.
    pub fn codes(&self) -> &[Code] {
        &self.codes
    }

    /// The place of a code in the list, from 0.
    pub fn place(&self, code: &str) -> Option<usize> {
        self.codes.iter().position(|known| known.code == code)
    }

    /// The codes that a text names, parted by bars where they are several; nothing where one of them is not a code.
    pub fn several(&self, text: &str) -> Option<Vec<&Code>> {
        let one = |text: &str| self.codes.iter().find(|code| code.code == text);
        match one(text) {
            Some(code) => Some(vec![code]),
            None => text.split('|').map(|part| one(part.trim())).collect(),
        }
    }

    /// What `value` means. In a divided list `parent` is the code inside which it must be valid.
    ///
    /// Case and white space do not count, except where two codes differ by nothing else; nothing
    /// is fuzzy.
    pub fn look_up(&self, value: &str, parent: Option<&str>, read_as: ReadAs) -> Lookup<'_> {
        let hits = self.folded.get(&fold(value)).map_or(&[][..], Vec::as_slice);
        let allowed = |how: HowFound| match read_as {
            ReadAs::Either => true,
            ReadAs::Codes => how == HowFound::Code,
            ReadAs::Labels => how != HowFound::Code,
        };
        let inside =
            |code: &Code| parent.is_none_or(|parent| code.within.is_empty() || code.within == parent);
        let all: Vec<(&Code, HowFound)> = hits
            .iter()
            .filter(|(_, how)| allowed(*how))
            .filter_map(|(index, how)| Some((self.codes.get(*index)?, *how)))
            .collect();
        let mut found: Vec<(&Code, HowFound)> =
            all.iter().copied().filter(|(code, _)| inside(code)).collect();
        // "a" beside "A": what is written exactly as a code is no other code.
        if found.iter().any(|(code, how)| *how == HowFound::Code && code.code == value) {
            found.retain(|(code, how)| *how != HowFound::Code || code.code == value);
        }
        found.sort_by_key(|(_, how)| *how);
        let mut codes: Vec<&Code> = Vec::new();
        for (code, _) in &found {
            if !codes.contains(code) {
                codes.push(code);
            }
        }
        match (found.first(), codes.len()) {
            (Some((code, how)), 1) => Lookup::Found(code, *how),
            (Some(_), _) => Lookup::Undecided(codes),
            (None, _) if all.is_empty() => Lookup::Unknown,
            (None, _) => Lookup::OutsideParent(all.into_iter().map(|(code, _)| code).collect()),
        }
    }

    /// The codes that a value not in the list may mean, the likeliest first, as suggestions only: those that
    /// are spelt alike, then those that sound alike, then those of which a word stands in it; where there are
    /// none, those that alone have a longer word in common with it. Each with the reason.
    pub fn likely(&self, value: &str, parent: Option<&str>, today: Date) -> Vec<(&Code, Likeness)> {
        let sound = sound_of(value);
        let words_of = |text: &str| -> Vec<String> {
            let words = text.split(|c: char| !c.is_alphanumeric()).map(fold);
            words.filter(|word| !word.is_empty()).collect()
        };
        let words = words_of(value);
        // "oak, larch" and "except oak" are not slips in writing "oak".
        let says_more = |name: &&String| {
            let own = words_of(name);
            own.len() < words.len() && own.iter().all(|word| words.contains(word))
        };
        let valid = |code: &&Code| {
            parent.is_none_or(|parent| code.within.is_empty() || code.within == parent)
                && code.until.is_none_or(|until| until >= today)
        };
        let likeness = |code: &Code| {
            let names = [&code.code, &code.label].into_iter().chain(&code.also);
            // A code of a letter or two is near to almost anything.
            let names: Vec<&String> = names.filter(|name| name.chars().count() > 2).collect();
            let (less, names): (Vec<&String>, Vec<&String>) = names.into_iter().partition(says_more);
            if let Some(distance) = names.iter().filter_map(|name| distance_if_near(value, name)).min() {
                Some(Likeness::Spelling { distance, is_only: true })
            } else if sound.len() > 1 && names.iter().any(|name| sound_of(name) == sound) {
                Some(Likeness::Sound { is_only: true })
            } else {
                let is_part = !less.is_empty() || names.iter().any(|name| words.contains(&fold(name)));
                is_part.then_some(Likeness::Part)
            }
        };
        let alike = self.codes.iter().filter(valid).filter_map(|code| Some((code, likeness(code)?)));
        let mut found: Vec<(&Code, Likeness)> = alike.collect();
        if found.is_empty() {
            found
                .extend(self.with_a_word_of(&words, &valid).into_iter().map(|code| (code, Likeness::Common)));
        }
        found.sort_by_key(|(_, likeness)| *likeness);
        if let [(_, first), (_, second), ..] = found.as_mut_slice()
            && first == second
        {
            first.share();
        }
        found
    }

    /// The codes that alone have one of these words, a longer one.
    fn with_a_word_of(&self, words: &[String], valid: &dyn Fn(&&Code) -> bool) -> Vec<&Code> {
        let mut found: Vec<&Code> = Vec::new();
        for word in words.iter().filter(|word| word.chars().count() > 3) {
            let has_it = |code: &&Code| {
                let names = std::iter::once(&code.label).chain(&code.also);
                names
                    .flat_map(|name| name.split(|c: char| !c.is_alphanumeric()))
                    .any(|own| fold(own) == *word)
            };
            let mut all = self.codes.iter().filter(valid).filter(has_it);
            if let (Some(only), None) = (all.next(), all.next())
                && !found.iter().any(|known| known.code == only.code)
            {
                found.push(only);
            }
        }
        found
    }

    /// The code that a value not in the list most likely means, as a suggestion only.
    pub fn nearest(&self, value: &str, parent: Option<&str>) -> Option<&Code> {
        let inside =
            |code: &&Code| parent.is_none_or(|parent| code.within.is_empty() || code.within == parent);
        let names = |code: &Code| -> Vec<String> {
            [code.code.clone(), code.label.clone()].into_iter().chain(code.also.iter().cloned()).collect()
        };
        let all: Vec<(String, &Code)> = self
            .codes
            .iter()
            .filter(inside)
            .flat_map(|code| names(code).into_iter().map(move |name| (name, code)))
            // A code of a letter or two is near to almost anything.
            .filter(|(name, _)| name.chars().count() > 2)
            .collect();
        let near = nearest(value, all.iter().map(|(name, _)| name.as_str()))?;
        all.iter().find(|(name, _)| name == near).map(|(_, code)| *code)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn list(text: &str) -> CodeList {
        let mut problems = Problems::default();
        let rows = List::from_text(
            "t.csv",
            text,
            &["code"],
            &["label", "also", "within", "until", "replaced_by"],
            &mut problems,
        );
        let list = CodeList::from_list("t".into(), &rows.unwrap(), &mut problems);
        assert!(problems.is_empty(), "{problems}");
        list
    }

    fn found(list: &CodeList, value: &str, parent: Option<&str>) -> String {
        match list.look_up(value, parent, ReadAs::Either) {
            Lookup::Found(code, how) => format!("{} by {how:?}", code.code),
            Lookup::Undecided(codes) => format!("undecided {}", codes.len()),
            Lookup::OutsideParent(_) => "outside".into(),
            Lookup::Unknown => "unknown".into(),
        }
    }

    #[test]
    fn values_are_found_by_code_label_and_other_names_and_never_nearly() {
        let colours = list("code,label,also\nW,White,cream|ivory\nB,Blue,\nb2,Black,B\nx,X-ray,\nX,Xenon,\n");
        assert_eq!(found(&colours, "w", None), "W by Code");
        assert_eq!(found(&colours, " WHI TE", None), "W by Label");
        assert_eq!(found(&colours, "Ivory", None), "W by Also");
        assert_eq!(found(&colours, "Whit", None), "unknown");
        assert_eq!(found(&colours, "B", None), "undecided 2");
        assert_eq!(found(&colours, "x", None), "x by Code");
        assert_eq!(found(&colours, "X", None), "X by Code");
        assert_eq!(colours.nearest("Whit", None).unwrap().code, "W");
    }

    #[test]
    fn a_value_that_says_more_than_a_code_is_not_that_code() {
        let trees = list("code,label,also\n1,Oak,\n2,Silver birch,\n3,Elm,wych elm\n");
        let day = jiff::civil::date(2026, 4, 30);
        let whole = |value: &str| {
            let likely = trees.likely(value, None, day);
            likely.first().filter(|(_, why)| why.is_whole()).map(|(code, _)| code.code.clone())
        };
        for value in ["oak; elm", "except oak", "Oak, elm", "silver birch (dead)", "silver birch W", "no elm"]
        {
            assert_eq!(whole(value), None, "{value}");
        }
        for (value, code) in
            [("silver-birch", "2"), ("Silver brich", "2"), ("silv. birch", "2"), ("wich elm", "3")]
        {
            assert_eq!(whole(value).as_deref(), Some(code), "{value}");
        }
        let several = |text: &str| trees.several(text).map(|codes| codes.len());
        assert_eq!(
            [several("1|3"), several("2"), several("1|Oak"), several("")],
            [Some(2), Some(1), None, None]
        );
    }

    #[test]
    fn a_code_is_valid_only_inside_its_parent() {
        let districts = list("code;label;within\n1;North;A\n1;Hill;B\n2;Fen;B\n");
        assert_eq!(found(&districts, "1", Some("A")), "1 by Code");
        assert_eq!(found(&districts, "North", Some("B")), "outside");
        assert_eq!(found(&districts, "Fen", Some("B")), "2 by Label");
    }
}
