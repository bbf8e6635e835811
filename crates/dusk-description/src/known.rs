//! What a target holds already: the values of one column of a file that it exported.

use std::path::Path;

use hashbrown::HashMap;

use super::fold;
use dusk_evidence::Result;
use dusk_sources::{WantedColumns, each_row};
use dusk_values::distance_if_near;

/// The values of a column.
#[derive(Debug, Default)]
pub struct KnownValues {
    /// The file, as the steward knows it.
    pub file: String,
    /// The column.
    pub column: String,
    // By their folded form; nothing where two differ by case and spaces only.
    folded: HashMap<String, Option<String>>,
    // Numbers without their leading zeros; nothing where two are alike without.
    without_zeros: HashMap<String, Option<String>>,
    exact: hashbrown::HashSet<String>,
}

impl KnownValues {
    /// Reads the values of `column` in the file at `path`.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) and [`Error::Source`](dusk_evidence::Error::Source) when it cannot be read;
    /// [`Error::Request`](dusk_evidence::Error::Request) when it has no such
    /// column.
    pub fn read(path: &Path, column: &str) -> Result<Self> {
        let mut known = Self { column: column.to_owned(), ..Self::default() };
        known.file = each_row(path, WantedColumns { sheet: None, columns: &[&[column]] }, |_, cells| {
            known.add(cells.first().copied().unwrap_or_default())
        })?;
        Ok(known)
    }

    fn add(&mut self, value: &str) {
        if value.is_empty() || !self.exact.insert(value.to_owned()) {
            return;
        }
        let one = |known: &mut HashMap<String, Option<String>>, key: String| {
            known.entry(key).and_modify(|known| *known = None).or_insert_with(|| Some(value.to_owned()));
        };
        one(&mut self.folded, fold(value));
        if value.bytes().all(|byte| byte.is_ascii_digit()) {
            one(&mut self.without_zeros, value.trim_start_matches('0').to_owned());
        }
    }

    /// The value that is spelt most nearly so, as a suggestion only; nothing among very many.
    pub fn nearest(&self, text: &str) -> Option<&str> {
        const MANY: usize = 20_000;
        let near = |value: &'_ String| Some((distance_if_near(text, value)?, value.clone()));
        if self.exact.len() > MANY {
            return None;
        }
        let (_, nearest) = self.exact.iter().filter_map(near).min()?;
        self.exact.get(&nearest).map(String::as_str)
    }

    /// How many values there are.
    pub fn len(&self) -> usize {
        self.exact.len()
    }

    /// True when there is none.
    pub fn is_empty(&self) -> bool {
        self.exact.is_empty()
    }

    /// The value that is meant, and whether its zeros were lost. Case and spaces do not count, and lost
    /// leading zeros are put back, where that leaves one value.
    pub fn find<'v>(&'v self, text: &str) -> Option<(&'v str, bool)> {
        if let Some(exact) = self.exact.get(text) {
            return Some((exact, false));
        }
        if let Some(Some(known)) = self.folded.get(&fold(text)) {
            return Some((known, false));
        }
        let digits = text.bytes().all(|byte| byte.is_ascii_digit());
        let known = self.without_zeros.get(text.trim_start_matches('0')).filter(|_| digits)?.as_deref()?;
        (known.len() > text.len()).then_some((known, true))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_value_is_found_only_if_one_is_meant() {
        let mut known = KnownValues::default();
        for value in ["000117", "A 290", "a290x", "A290X", "0042", "42x", "00042", "", "000117"] {
            known.add(value);
        }
        assert_eq!(known.len(), 7);
        assert_eq!(known.find("000117"), Some(("000117", false)));
        assert_eq!(known.find("117"), Some(("000117", true)));
        assert_eq!(known.find("a 290"), Some(("A 290", false)));
        assert_eq!(known.find("a290x"), Some(("a290x", false)), "what is written exactly so");
        assert_eq!(known.find("A290x"), None, "two differ by case only");
        assert_eq!(known.find("42"), None, "two are alike without their zeros");
        assert_eq!(known.find("0000117"), None, "zeros are put back, not taken away");
    }
}
