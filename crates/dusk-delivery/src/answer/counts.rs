//! The target's own counts.

use serde::{Deserialize, Serialize};

use dusk_description::AnswerCount;

/// How many records the target says that it was given, loaded and refused.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct AnswerCounts {
    /// Records that it was given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sent: Option<u64>,
    /// Records that it loaded.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub loaded: Option<u64>,
    /// Records that it loaded with a warning, which may be among those or beside them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warned: Option<u64>,
    /// Records that it refused.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub refused: Option<u64>,
}

/// How many of the records that were sent are what, as the lines of the answers say.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize)]
pub struct ToldCounts {
    /// All of them.
    pub sent: u64,
    /// Those that are in, without a warning.
    pub loaded: u64,
    /// Those that are in with a warning.
    pub warned: u64,
    /// Those that were refused.
    pub refused: u64,
    /// Those that no line mentions, and that the target's counts show to be not there.
    pub not_there: u64,
    /// Those that no line mentions: nobody knows.
    pub not_mentioned: u64,
}

impl ToldCounts {
    /// Every record is one of the five.
    pub fn add_up(&self) -> bool {
        self.sent == self.loaded + self.warned + self.refused + self.not_there + self.not_mentioned
    }
}

/// What the target's counts prove of records that it did not mention.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Proof {
    /// All of them are in.
    AllIn,
    /// None of them is.
    NoneIn,
}

impl AnswerCounts {
    /// Takes in a count.
    pub(crate) fn take(&mut self, count: AnswerCount, number: u64) {
        *match count {
            AnswerCount::Sent => &mut self.sent,
            AnswerCount::Loaded => &mut self.loaded,
            AnswerCount::Warned => &mut self.warned,
            AnswerCount::Refused => &mut self.refused,
        } = Some(number);
    }

    /// Whether the target counted anything.
    pub fn is_any(&self) -> bool {
        *self != Self::default()
    }

    /// How many are in, where that is certain: some targets count those with a warning among the loaded ones, others
    /// beside them.
    pub(crate) fn all_in(&self, sent: u64) -> Option<u64> {
        let loaded = self.loaded?;
        let Some(warned) = self.warned.filter(|warned| *warned > 0) else { return Some(loaded) };
        let refused = self.refused?;
        let among = loaded + refused == sent;
        let beside = loaded + warned + refused == sent;
        match (among, beside) {
            (true, false) => Some(loaded),
            (false, true) => Some(loaded + warned),
            _ => None,
        }
    }

    /// What these counts prove of the records that no line mentions; nothing where they contradict the lines.
    pub(crate) fn proof(&self, told: &ToldCounts) -> Option<Proof> {
        if told.not_mentioned == 0 || self.sent.is_some_and(|sent| sent != told.sent) {
            return None;
        }
        let mentioned = told.loaded + told.warned;
        let all_in = self.all_in(told.sent)?;
        // What was refused has to be said for the rest to be in.
        let refused_fits = self.refused.is_none_or(|refused| refused == told.refused);
        if all_in == mentioned + told.not_mentioned && refused_fits {
            Some(Proof::AllIn)
        } else if all_in == mentioned {
            Some(Proof::NoneIn)
        } else {
            None
        }
    }

    /// What differs between these counts and the records, a sentence each.
    pub fn differences(&self, told: &ToldCounts) -> Vec<String> {
        let mut says = Vec::new();
        let mut differ = |what: &str, target: Option<u64>, own: u64| {
            if let Some(target) = target.filter(|target| *target != own) {
                says.push(format!("the target says {target} {what}, and the batch comes to {own}"));
            }
        };
        differ("given", self.sent, told.sent);
        let all_in = told.loaded + told.warned;
        match self.all_in(told.sent) {
            Some(target) => differ("loaded", Some(target), all_in),
            None => {
                // Those with a warning may be among the loaded ones or beside them.
                let fits = self.loaded == Some(all_in) || self.loaded == Some(told.loaded);
                differ("loaded", self.loaded.filter(|_| !fits), all_in);
            }
        }
        differ("loaded with a warning", self.warned, told.warned);
        differ("refused", self.refused, told.refused);
        says
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn counts_prove_what_was_not_mentioned_only_where_they_leave_no_doubt() {
        let told = ToldCounts { sent: 20, refused: 2, not_mentioned: 18, ..ToldCounts::default() };
        let said = |loaded, warned, refused| AnswerCounts {
            sent: None,
            loaded: Some(loaded),
            warned: Some(warned),
            refused: Some(refused),
        };
        assert_eq!(said(18, 3, 2).proof(&told), Some(Proof::AllIn), "warned ones are among the loaded");
        assert_eq!(said(15, 3, 2).proof(&told), Some(Proof::AllIn), "warned ones are beside them");
        assert_eq!(said(17, 0, 2).proof(&told), None, "one is missing, and nobody knows which");
        assert_eq!(said(0, 0, 20).proof(&told), Some(Proof::NoneIn));
        assert_eq!(said(18, 0, 3).proof(&told), None, "21 of 20");
        assert_eq!(said(17, 1, 1).proof(&told), None, "both readings fail");
        let differences = said(17, 0, 3).differences(&told);
        assert_eq!(differences.len(), 2, "{differences:?}");
        let all = ToldCounts { loaded: 18, not_mentioned: 0, ..told };
        assert!(said(18, 0, 2).differences(&all).is_empty());
    }
}
