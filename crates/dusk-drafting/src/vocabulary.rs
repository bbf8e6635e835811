//! The words of dictionaries in the languages of `vocabulary.txt`.

use std::sync::LazyLock;

use hashbrown::HashMap;

use super::facts::fold;

/// Which of the words are meant: those above columns of a dictionary, or above those of a code list, those for types, and
/// those that say whether a field must be filled.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(super) enum Words {
    Column,
    List,
    Type,
    Must,
    /// What stands before the name of a list that is elsewhere.
    See,
    /// What a number counts, and that it is the most.
    Size,
    /// What stands before the least value, before the greatest, and between the two.
    Least,
    Most,
    /// What stands before a number that a value must be above, and before one that it must be below.
    Above,
    Below,
    Between,
    /// What stands before the last day of a code, and before the one that came after it.
    Ends,
    Instead,
    /// That a field takes several codes.
    Several,
    /// Where a list is.
    Place,
    /// Numbers in words.
    Number,
    /// What stands before a range.
    From,
    /// Zeros in front that count, and what says that something is not so.
    Zeros,
    Without,
    /// What stands behind the least value, or behind the greatest: "or more".
    Behind,
    /// That a number is not negative.
    Zero,
    /// That several things are joined or parted by a mark, and the names of marks.
    Join,
    Mark,
    /// What stands before a condition, and that a field must be filled on it.
    When,
    Need,
    /// That a field is filled, or that it is empty.
    Blank,
    /// Words of a condition that say nothing by themselves, what stands before the other case, and "or".
    Filler,
    Else,
    Either,
    /// The parts of a date.
    Day,
    /// What is said of a file: its separator, decimal mark, headings, quotes, dates.
    File,
    /// That no value comes twice.
    Once,
    /// That a code is used no more, and that a list or a column is one that was replaced.
    Gone,
    Old,
    /// How one value stands to another, with the sign of the rule that says so.
    Compare,
    /// A list that is kept elsewhere, and a value that stands for "not known".
    Lists,
    Unknown,
    /// The names of languages.
    Language,
    /// What stands before an example.
    Like,
}

/// What each word means, by its folded form.
static MEANINGS: LazyLock<HashMap<(Words, String), &'static str>> = LazyLock::new(|| {
    let mut meanings = HashMap::new();
    for (words, meaning, word) in entries() {
        meanings.entry((words, fold(word))).or_insert(meaning);
    }
    meanings
});

/// Every word of the table, with what it means.
fn entries() -> impl Iterator<Item = (Words, &'static str, &'static str)> {
    let lines = include_str!("vocabulary.txt").lines().filter(|line| !line.starts_with('#'));
    lines.flat_map(|line| {
        let mut words = line.split(' ');
        let (group, meaning) = words.next().and_then(|head| head.split_once('.')).unwrap_or_default();
        let group = match group {
            "column" => Words::Column,
            "list" => Words::List,
            "type" => Words::Type,
            "must" => Words::Must,
            "size" => Words::Size,
            "least" => Words::Least,
            "most" => Words::Most,
            "above" => Words::Above,
            "below" => Words::Below,
            "between" => Words::Between,
            "ends" => Words::Ends,
            "several" => Words::Several,
            "place" => Words::Place,
            "number" => Words::Number,
            "from" => Words::From,
            "zeros" => Words::Zeros,
            "without" => Words::Without,
            "instead" => Words::Instead,
            "behind" => Words::Behind,
            "zero" => Words::Zero,
            "join" => Words::Join,
            "mark" => Words::Mark,
            "when" => Words::When,
            "need" => Words::Need,
            "blank" => Words::Blank,
            "filler" => Words::Filler,
            "else" => Words::Else,
            "either" => Words::Either,
            "file" => Words::File,
            "once" => Words::Once,
            "gone" => Words::Gone,
            "old" => Words::Old,
            "compare" => Words::Compare,
            "lists" => Words::Lists,
            "unknown" => Words::Unknown,
            "language" => Words::Language,
            "day" => Words::Day,
            "like" => Words::Like,
            _ => Words::See,
        };
        words.skip(1).map(move |word| (group, meaning, word))
    })
}

/// What a word means, whatever its case and marks; nothing for one that is not in the table.
pub(super) fn meaning(words: Words, word: &str) -> Option<&'static str> {
    MEANINGS.get(&(words, fold(word))).copied()
}

/// The words that may stand before something else, in small letters, the longest first.
pub(super) fn leads(words: Words) -> &'static [String] {
    static LEADS: LazyLock<HashMap<Words, Vec<String>>> = LazyLock::new(|| {
        let mut leads: HashMap<Words, Vec<String>> = HashMap::new();
        for (words, _, word) in entries() {
            leads.entry(words).or_default().push(word.replace('_', " ").to_lowercase());
        }
        leads.values_mut().for_each(|words| words.sort_by_key(|word| std::cmp::Reverse(word.len())));
        leads
    });
    LEADS.get(&words).map_or(&[], Vec::as_slice)
}

/// The words of a group that stand in a text in small letters, as whole words, with the places where they begin; of words
/// that overlap the longest.
pub(super) fn named(words: Words, lower: &str) -> impl Iterator<Item = (usize, &str)> {
    let mut found: Vec<(usize, &str)> = Vec::new();
    for word in leads(words) {
        for (at, met) in lower.match_indices(word.as_str()) {
            let ends = at + met.len();
            let is_open = |c: char| !c.is_alphanumeric();
            let begins = lower.get(..at).is_some_and(|before| before.chars().next_back().is_none_or(is_open));
            let closes = lower.get(ends..).is_some_and(|behind| behind.chars().next().is_none_or(is_open));
            let overlaps = found.iter().any(|(other, known)| at < other + known.len() && *other < ends);
            if begins && closes && !overlaps {
                found.push((at, met));
            }
        }
    }
    found.sort_by_key(|(at, _)| *at);
    found.into_iter()
}

/// What is left of a folded text behind the longest word that it begins with and that means what is `wanted`.
pub(super) fn without_lead<'w>(words: Words, wanted: &str, folded: &'w str) -> Option<&'w str> {
    let ends = folded.char_indices().map(|(at, _)| at).chain([folded.len()]);
    let mut leads = ends.filter_map(|at| folded.split_at_checked(at));
    leads.rfind(|(lead, _)| meaning(words, lead) == Some(wanted)).map(|(_, rest)| rest)
}
