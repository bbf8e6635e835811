//! What remarks say of codes that are no longer used: "until 31 Dec 2024, use 03 instead".

use super::date_words::day;
use super::vocabulary::{Words, leads, meaning};

/// The end of a code.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Retired {
    /// The last day, as `target.toml` writes it.
    pub(super) until: Option<String>,
    /// The code that came after it.
    pub(super) replaced_by: Option<String>,
    /// What is said of the code that came after it, where that is one of several.
    pub(super) choice: Option<String>,
}

impl Retired {
    /// What a remark says; nothing where it says neither a last day nor a successor.
    pub(super) fn said_by(remark: &str) -> Option<Self> {
        let behind = |words: Words| {
            let lower = remark.to_lowercase();
            if lower.len() != remark.len() {
                return None;
            }
            leads(words).iter().find_map(|lead| {
                let begins = |at: &usize| {
                    lower.get(..*at).is_some_and(|before| !before.ends_with(char::is_alphanumeric))
                };
                let (at, _) = lower.match_indices(lead.as_str()).find(|(at, _)| begins(at))?;
                let rest = remark.get(at + lead.len()..)?;
                rest.starts_with(|c: char| !c.is_alphanumeric())
                    .then_some(rest.trim_start_matches([' ', ':', '=']))
            })
        };
        let until = behind(Words::Ends).and_then(|rest| {
            // The day is the longest beginning that is one.
            let ends = rest.char_indices().map(|(at, _)| at).chain([rest.len()]).take(24);
            let days = ends.filter_map(|at| day(rest.get(..at)?.trim_end_matches([',', ';', ')', ' '])));
            days.last()
        });
        let replaced_by = behind(Words::Instead).and_then(|rest| {
            let code: String = rest
                .chars()
                .take_while(|c| c.is_alphanumeric() || matches!(c, '-' | '_' | '/' | '.'))
                .collect();
            let code = code.trim_end_matches(['.', '-', '/']).to_owned();
            let more = rest.get(code.len()..).unwrap_or_default().trim_start();
            let mut words = more.split(' ');
            let is_choice = words.next().is_some_and(|word| meaning(Words::Either, word).is_some());
            let choice = is_choice.then(|| {
                format!(
                    "{code} {}",
                    words.next().map_or_else(String::new, |other| {
                        format!("{} {other}", more.split(' ').next().unwrap_or_default())
                    })
                )
            });
            (!code.is_empty() && code.len() <= 20).then_some((code, choice))
        });
        let (replaced_by, choice) = match replaced_by {
            Some((_, Some(choice))) => (None, Some(choice)),
            Some((code, None)) => (Some(code), None),
            None => (None, None),
        };
        (until.is_some() || replaced_by.is_some() || choice.is_some()).then_some(Self {
            until,
            replaced_by,
            choice,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::Retired;

    #[test]
    fn the_last_day_and_the_successor_are_read_from_a_remark_and_nothing_else_is() {
        for (remark, until, replaced_by) in [
            ("until 31 Dec 2024, use 03 instead", "2024-12-31", "03"),
            ("Purple (until 2023-12-31, use VI instead)", "2023-12-31", "VI"),
            ("nur bis 31.12.2023, jetzt VFO", "2023-12-31", "VFO"),
            ("jusqu'au 30/06/2022, remplacé par B-2", "2022-06-30", "B-2"),
            ("use KP/04 instead", "", "KP/04"),
            ("until 30 Jun 2025, use H1 or H2 instead", "2025-06-30", ""),
            ("used until the new ones came", "", ""),
            ("because of users", "", ""),
        ] {
            let said =
                Retired::said_by(remark).unwrap_or(Retired { until: None, replaced_by: None, choice: None });
            let read = (said.until.unwrap_or_default(), said.replaced_by.unwrap_or_default());
            assert_eq!(read, (until.to_owned(), replaced_by.to_owned()), "{remark}");
        }
    }
}
