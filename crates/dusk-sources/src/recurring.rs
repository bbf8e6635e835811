//! Marks that nobody expects: characters that come equally often on every line part the cells or quote them.

use std::collections::BTreeMap;

use dusk_evidence::{Claim, Evidence, Reading, Verdict};

/// How many lines have to agree.
const LEAST_LINES: usize = 3;

/// How many lines are looked at.
const LOOKED_AT: usize = 200;

/// Marks that come equally often on every line.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct RecurringMarks {
    pub(super) delimiter: String,
    /// What stands at the beginning and the end of every line, where the cells are quoted by it.
    pub(super) quote: Option<String>,
    lines: usize,
    times: usize,
}

impl RecurringMarks {
    /// Those of a text that begins so; nothing where no character is on every line as often, or several may part it.
    pub(super) fn of(text: &str) -> Option<Self> {
        let mut lines: Vec<&str> = text.lines().take(LOOKED_AT + 1).collect();
        if lines.len() > LOOKED_AT || !text.ends_with('\n') {
            lines.pop();
        }
        lines.retain(|line| !line.trim().is_empty());
        if lines.len() < LEAST_LINES {
            return None;
        }
        let mut equal: Option<BTreeMap<char, usize>> = None;
        for line in &lines {
            let mut counts: BTreeMap<char, usize> = BTreeMap::new();
            line.chars()
                .filter(|letter| may_be_a_mark(*letter))
                .for_each(|letter| *counts.entry(letter).or_default() += 1);
            equal = Some(match equal {
                None => counts,
                Some(known) => {
                    known.into_iter().filter(|(letter, count)| counts.get(letter) == Some(count)).collect()
                }
            });
        }
        let equal = equal.unwrap_or_default();
        let stands_around =
            |letter: &char| lines.iter().all(|line| line.starts_with(*letter) && line.ends_with(*letter));
        let quote = equal
            .iter()
            .find(|(letter, count)| **count % 2 == 0 && stands_around(letter))
            .map(|(letter, _)| *letter);
        let mut delimiters = equal.iter().filter(|(letter, _)| Some(**letter) != quote);
        let (delimiter, times) = delimiters.next()?;
        // A quoted cell more than there are delimiters, or there is none at all.
        let fits = quote.is_none_or(|quote| equal.get(&quote) == Some(&(2 * (times + 1))));
        (delimiters.next().is_none() && fits).then(|| Self {
            delimiter: delimiter.to_string(),
            quote: quote.map(String::from),
            lines: lines.len(),
            times: *times,
        })
    }

    /// What speaks for them, and the lines of the mapping that name them.
    pub(super) fn evidence(&self) -> Evidence {
        let name = super::delimiter::delimiter_name(&self.delimiter);
        let counted = format!("lines have it {} times each", self.times);
        let reading =
            Reading { name: name.clone(), supports: self.lines as u64, counted, ..Reading::default() };
        let verdict = Verdict::Undecided(vec![name, "one column".into()]);
        Evidence {
            settle: self.settle(),
            readings: vec![reading],
            ..Evidence::new(Claim::Delimiter, verdict)
        }
    }

    /// The lines of the mapping that name them.
    pub(super) fn settle(&self) -> Vec<String> {
        let quote = self.quote.as_ref().map(|quote| format!("quote = {}", toml(quote)));
        ["[source]".to_owned(), format!("delimiter = {}", toml(&self.delimiter))]
            .into_iter()
            .chain(quote)
            .collect()
    }
}

/// A character as TOML writes it.
fn toml(text: &str) -> String {
    let written: String =
        text.chars()
            .map(|letter| {
                if letter.is_control() { format!("\\u{:04X}", u32::from(letter)) } else { letter.to_string() }
            })
            .collect();
    format!("\"{written}\"")
}

/// Letters of words, digits, blanks and what stands in numbers and days recur by chance.
fn may_be_a_mark(letter: char) -> bool {
    let by_chance = letter.is_ascii_alphanumeric()
        || matches!(letter, ' ' | '.' | ',' | '-' | '/' | ':' | '"' | '\'' | '\u{feff}');
    !by_chance && (!letter.is_alphanumeric() || matches!(letter, 'þ' | 'Þ' | 'ð' | 'ÿ' | 'ª' | 'º'))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn marks_that_are_on_every_line_as_often_are_offered_with_their_quotes() {
        let found = |text: &str| RecurringMarks::of(text).map(|marks| marks.settle().split_off(1).join("; "));
        let quoted = "þNoþ\u{14}þTownþ\nþ117þ\u{14}þVik, Fenþ\nþ118þ\u{14}þÖst § 3þ\n";
        assert_eq!(found(quoted).as_deref(), Some("delimiter = \"\\u0014\"; quote = \"þ\""));
        assert_eq!(found("No§Town\n117§Vik\n118§Öst\n").as_deref(), Some("delimiter = \"§\""));
        assert_eq!(found("No\n117\n118\n"), None, "one column has no mark");
        assert_eq!(found("a§b¤c\nd§e¤f\ng§h¤i\n"), None, "two marks leave two readings");
        assert_eq!(found("a§b\nc§d\n"), None, "two lines prove nothing");
    }
}
