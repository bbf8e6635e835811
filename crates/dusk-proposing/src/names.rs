//! A name split into words: the heading of a column, or what a field is called.

use super::spelling::{SPELT_OUT, folded, split, stem, without_marks};
use super::trade_words::TradeWords;
use dusk_values::{Mention, Unit, UnitConversion, Wordy};

/// Words that say little.
const SAY_NOTHING: [&str; 55] = [
    "the", "of", "a", "an", "for", "and", "with", "is", "this", "field", "column", "per", "der", "die",
    "das", "des", "dem", "den", "ein", "eine", "und", "mit", "bei", "im", "zum", "zur", "le", "la", "les",
    "l", "d", "de", "du", "un", "une", "et", "au", "aux", "en", "el", "lo", "los", "las", "una", "y", "del",
    "al", "con", "it", "its", "su", "vom", "beim", "ins", "aus",
];

/// A name split into words.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Name {
    /// The name as it stands.
    pub(super) written: String,
    /// Its letters and digits alone, in lower case; without its unit, and with it.
    pub(super) folded: String,
    pub(super) whole: String,
    pub(super) words: Vec<String>,
    /// The English words for what they may mean, and they themselves.
    english: Vec<Vec<String>>,
    /// Those of its words that are cut short with a point.
    pub(super) cut: Vec<String>,
    /// The unit that it names, or what it names instead of one.
    pub(super) unit: Option<Mention>,
}

impl Name {
    /// True where both have a word of the group, and not the same: from and to.
    pub(super) fn is_opposed(&self, other: &Self, group: &[&str]) -> bool {
        let of_group = |name: &Self| -> Vec<String> {
            name.in_english().filter(|word| group.contains(word)).map(str::to_owned).collect()
        };
        let (mine, theirs) = (of_group(self), of_group(other));
        !mine.is_empty() && !theirs.is_empty() && !mine.iter().any(|word| theirs.contains(word))
    }

    pub(super) fn of(written: &str, known: &TradeWords) -> Self {
        let (bare, unit) = match Wordy::of(written) {
            Wordy { is_doubtful: true, .. } => (written, None),
            Wordy { text, mention, .. } => (text, mention),
        };
        let plain = without_marks(bare);
        let cut =
            plain.split_inclusive('.').filter_map(|part| split(part.strip_suffix('.')?).pop()).collect();
        let mut words = Vec::new();
        let mut parted = split(&plain);
        // PCode and eMail are one word.
        if let [first, _] = parted.as_slice()
            && first.len() == 1
            && !known.things(&folded(&plain)).is_empty()
        {
            parted = vec![folded(&plain)];
        }
        for word in parted {
            match SPELT_OUT.iter().find(|(short, _)| *short == word) {
                Some((_, long)) => words.extend(long.iter().map(|word| (*word).to_owned())),
                None => match known.parts(&word) {
                    Some((first, head)) => words.extend([first, head]),
                    None => words.push(stem(&word)),
                },
            }
        }
        if words.iter().any(|word| !SAY_NOTHING.contains(&word.as_str())) {
            words.retain(|word| !SAY_NOTHING.contains(&word.as_str()));
        }
        let in_english = |word: &String| known.in_english(word).map(str::to_owned).collect();
        let english = words.iter().map(in_english).collect();
        Self {
            written: written.to_owned(),
            folded: folded(&plain),
            whole: folded(written),
            english,
            words,
            cut,
            unit,
        }
    }

    /// Its words, each once.
    pub(super) fn words(&self) -> impl Iterator<Item = &str> {
        let first = |place: &usize| {
            self.words
                .get(*place)
                .is_some_and(|word| !self.words.iter().take(*place).any(|other| other == word))
        };
        (0..self.words.len()).filter(first).filter_map(|place| self.words.get(place).map(String::as_str))
    }

    /// Whether it names two things: "Make/No", "Name and address".
    pub(super) fn names_two(&self) -> bool {
        let parts = self.written.split(['/', '+', '&']).filter(|part| part.chars().any(char::is_alphabetic));
        // "Fahrer/in" and "socio/a" are one person, whoever it is.
        let is_ending = |(place, part): &(usize, &str)| {
            *place > 0 && part.chars().count() <= 3 && part.chars().all(char::is_lowercase)
        };
        parts.enumerate().filter(|part| !is_ending(part)).count() > 1
            || [" and ", " und ", " et ", " y "].iter().any(|and| self.written.contains(and))
    }

    /// Whether it has one of these English words, or one that means the same.
    pub(super) fn means(&self, words: &[&str]) -> bool {
        self.in_english().any(|word| words.contains(&word))
    }

    /// Whether one of its words is one of these, or means the same.
    pub(super) fn word_means(&self, word: &str, what: &[&str]) -> bool {
        what.contains(&word) || self.meanings(word).any(|english| what.contains(&english))
    }

    /// Whether one of its words is in the table of words.
    pub(super) fn is_of_trades(&self, word: &str) -> bool {
        self.meanings(word).next().is_some()
    }

    /// The English words for what one of its words may mean.
    fn meanings(&self, word: &str) -> impl Iterator<Item = &str> {
        let place = self.words.iter().position(|mine| mine == word);
        place.and_then(|place| self.english.get(place)).into_iter().flatten().map(String::as_str)
    }

    /// Its words, and the English words for what they may mean.
    fn in_english(&self) -> impl Iterator<Item = &str> {
        self.english.iter().flatten().chain(&self.words).map(String::as_str)
    }

    /// Whether one of its words is a unit for numbers that are to be in `wanted`.
    pub(super) fn is_unit(&self, word: &str, wanted: &'static Unit) -> bool {
        let of_word = |word: &str| matches!(Mention::of(word), Some(Mention::Unit(unit)) if unit == wanted || UnitConversion::new(unit, wanted).is_ok());
        of_word(word)
            || self.written.split(|c: char| !c.is_alphanumeric() && c != '%' && c != '°').any(of_word)
    }

    /// Its words but those that are numbers.
    pub(super) fn without_numbers(&self) -> Vec<String> {
        let is_number = |word: &&str| word.bytes().all(|byte| byte.is_ascii_digit());
        self.words().filter(|word| !is_number(word)).map(str::to_owned).collect()
    }

    /// Whether one of its words is a number.
    pub(super) fn has_number(&self) -> bool {
        !self.digits().is_empty()
    }

    /// Whether it says little about which thing is meant.
    pub(super) fn is_general(&self) -> bool {
        /// Words that many fields have.
        const GENERAL: [&str; 12] = [
            "date", "time", "number", "id", "code", "name", "type", "kind", "status", "amount", "total",
            "remark",
        ];
        self.words().all(|word| self.word_means(word, &GENERAL))
    }

    /// Whether its words say hardly anything: letters, figures and units.
    pub(super) fn says_little(&self) -> bool {
        self.words().all(|word| {
            let letters = word.chars().count();
            letters <= 2 || letters == 3 && !self.is_of_trades(word) || Mention::of(word).is_some()
        })
    }

    /// Whether it says no more than that it holds days: "Date", "Datum".
    pub(super) fn says_only_date(&self) -> bool {
        !self.words.is_empty() && self.words().all(|word| self.word_means(word, &["date"]))
    }

    /// Whether two names begin with the same letters, as those that were cut off: PICKUPDA and PICKUPTI.
    pub(super) fn begins_as(&self, other: &Self) -> bool {
        let alike = self.folded.chars().zip(other.folded.chars()).take_while(|(mine, theirs)| mine == theirs);
        alike.count() >= 5
    }

    /// Its last word, which in most languages of these tables names the thing itself.
    pub(super) fn last_word_means(&self, words: &[&str]) -> bool {
        self.words.last().is_some_and(|last| self.word_means(last, words))
    }

    /// The unit that it names for numbers that are to be in `wanted`: a single letter counts where it is a unit that
    /// they could be in ("TMP F").
    pub(super) fn unit_for(&self, wanted: Option<&'static Unit>) -> Option<Mention> {
        let letter = || {
            let last = self.written.rsplit([' ', '_', '.', '-']).next()?;
            let Mention::Unit(unit) = Mention::of(last).filter(|_| last.chars().count() == 1)? else {
                return None;
            };
            UnitConversion::new(unit, wanted?).is_ok().then_some(Mention::Unit(unit))
        };
        self.unit.clone().or_else(letter)
    }

    pub(super) fn digits(&self) -> Vec<&str> {
        self.words
            .iter()
            .map(String::as_str)
            .filter(|word| word.bytes().all(|byte| byte.is_ascii_digit()))
            .collect()
    }
}

/// How many headings have to begin alike before that beginning is the export's and not theirs.
const SHARED: usize = 5;

/// What most headings begin with, up to and with a sign after it ("PM2_", "rl."), or up to a capital ("clSite");
/// empty where they do not.
pub(super) fn shared_start<'h>(headings: &[&'h str]) -> &'h str {
    let start = |heading: &&'h str| {
        let by_sign = heading.find(['_', '.', '-', ':', '/']).and_then(|end| heading.get(..=end));
        let by_capital = || {
            let end = heading.find(char::is_uppercase).filter(|end| (1..=4).contains(end))?;
            heading.get(..end).filter(|start| start.chars().all(char::is_lowercase))
        };
        by_sign.or_else(by_capital).filter(|start| start.len() < heading.len())
    };
    let starts: Vec<&str> = headings.iter().filter_map(start).collect();
    let count = |start: &str| starts.iter().filter(|other| **other == start).count();
    let most = starts.iter().copied().max_by_key(|start| count(start)).unwrap_or_default();
    if count(most) >= SHARED && count(most) * 5 >= headings.len() * 4 { most } else { "" }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_an_export_writes_before_all_its_headings_is_no_part_of_them() {
        let marked = ["ev_no", "ev_day", "ev_hall", "ev_fee", "ev_paid", "note"];
        assert_eq!(shared_start(&marked), "ev_");
        assert_eq!(shared_start(&["visit_no", "visit_day", "hive_no", "hive_fee", "queen_mark"]), "");
        assert_eq!(shared_start(&["clNo", "clDay", "clHall", "clFee", "clPaid"]), "cl");
        assert_eq!(shared_start(&["no.", "day.", "", "é"]), "");
    }
}
