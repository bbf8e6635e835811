//! What is wrong with a steward's file.

use std::fmt;

use crate::Line;

/// One thing wrong with a file that the steward keeps.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Problem {
    /// The file as the steward knows it.
    pub file: String,
    /// The line in it, where there is one.
    pub line: Option<Line>,
    /// What is wrong.
    pub says: String,
    /// What would be right.
    pub hint: Option<String>,
}

impl fmt::Display for Problem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}", self.file)?;
        if let Some(line) = self.line {
            write!(f, ", line {line}")?;
        }
        write!(f, ": {}", self.says)?;
        if let Some(hint) = &self.hint {
            write!(f, "\n  {hint}")?;
        }
        Ok(())
    }
}

/// Everything wrong that was met so far, in the order of the files.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Problems(Vec<Problem>);

impl Problems {
    /// Notes a problem at a line of a file.
    #[expect(clippy::indexing_slicing, reason = "the last problem was pushed just before")]
    pub fn at(&mut self, file: &str, line: Option<Line>, says: impl Into<String>) -> &mut Problem {
        self.0.push(Problem { file: file.to_owned(), line, says: says.into(), hint: None });
        let last = self.0.len() - 1;
        &mut self.0[last]
    }

    /// Adds what is wrong with another file.
    pub fn append(&mut self, other: Self) {
        self.0.extend(other.0);
    }

    /// Says only once what was noted several times in the same words.
    pub fn each_once(&mut self) {
        let mut seen: Vec<Problem> = Vec::new();
        for problem in std::mem::take(&mut self.0) {
            if !seen.contains(&problem) {
                seen.push(problem);
            }
        }
        self.0 = seen;
    }

    /// Keeps the first `most`, and says how many more there are.
    pub fn keep_first(&mut self, most: usize) {
        let more = self.0.len().saturating_sub(most);
        if more > 0 {
            self.0.truncate(most);
            if let Some(last) = self.0.last_mut() {
                let hint = last.hint.take().map_or_else(String::new, |hint| format!("{hint}\n  "));
                last.hint = Some(format!("{hint}and {more} more like these"));
            }
        }
    }

    /// True while nothing is wrong.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// How many things are wrong.
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// The problems one by one.
    pub fn iter(&self) -> impl Iterator<Item = &Problem> {
        self.0.iter()
    }

    /// `value`, unless something is wrong.
    ///
    /// # Errors
    /// [`Error::Problems`](crate::Error::Problems) with every problem noted.
    pub fn or<T>(self, value: T) -> crate::Result<T> {
        if self.is_empty() { Ok(value) } else { Err(crate::Error::Problems(self)) }
    }
}

impl Problem {
    /// Adds what would be right.
    pub fn hint(&mut self, hint: impl Into<String>) {
        self.hint = Some(hint.into());
    }

    /// Suggests the nearest right spelling of `word`, or lists what there is when it is a short list.
    pub fn suggest<'a>(&mut self, word: &str, known: impl IntoIterator<Item = &'a str>) {
        let mut all: Vec<&str> = Vec::new();
        for known in known {
            if !all.contains(&known) {
                all.push(known);
            }
        }
        let known = all;
        if let Some(right) = dusk_values::nearest(word, known.iter().copied()) {
            self.hint(format!("did you mean \"{right}\"?"));
        } else if !known.is_empty() && known.len() <= 40 {
            self.hint(format!("known here: {}", known.join(", ")));
        }
    }
}

impl fmt::Display for Problems {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, problem) in self.0.iter().enumerate() {
            if index > 0 {
                writeln!(f)?;
            }
            write!(f, "{problem}")?;
        }
        Ok(())
    }
}
