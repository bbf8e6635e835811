//! A column of fixed-width text, as the mapping names it.

/// A column of fixed-width text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Position {
    /// What the column is called.
    pub name: String,
    /// Its first character in a line, from 1.
    pub from: usize,
    /// Its last one; nothing where it goes on to the end of the line.
    pub to: Option<usize>,
}

impl Position {
    /// Reads `1-6 Apiary No`, `7 Kind` or `40- Remarks`; nothing where a text says no such thing.
    pub fn read(text: &str) -> Option<Self> {
        let (range, name) = text.trim().split_once(char::is_whitespace)?;
        let name = name.trim();
        let (from, to) = match range.split_once('-') {
            None => (range, Some(range.parse().ok()?)),
            Some((from, "")) => (from, None),
            Some((from, to)) => (from, Some(to.parse().ok()?)),
        };
        let from: usize = from.parse().ok().filter(|from| *from > 0)?;
        let runs_back = to.is_some_and(|to: usize| to < from);
        (!name.is_empty() && !runs_back).then(|| Self { name: name.to_owned(), from, to })
    }

    /// Whether two columns have characters in common.
    pub fn overlaps(&self, other: &Self) -> bool {
        let end = |one: &Self| one.to.unwrap_or(usize::MAX);
        self.from <= end(other) && other.from <= end(self)
    }

    /// As the mapping writes it.
    pub fn written(&self) -> String {
        let to = self.to.map_or_else(String::new, |to| to.to_string());
        format!("{}-{to} {}", self.from, self.name)
    }
}
