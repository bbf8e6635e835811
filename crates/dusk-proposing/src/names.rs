//! How alike two names are: the heading of a column and what a field is called.
//!
//! Names are split into words, everyday abbreviations are spelt out, and the words are paired. A word
//! that only one field and one column has says more than one that many have; a word like "number" or
//! "date" says little. Everything is reckoned in thousandths.

use hashbrown::HashMap;

use super::trade_words::{Thing, TradeWords};
use super::words::{ONE_WORD, SAME_MEANING, SPELT_OUT, alike, folded, split, stem, without_marks};
use dusk_values::{Mention, Unit, UnitConversion, Wordy};

/// Two names that are the same.
pub(super) const SAME: u32 = 1000;

/// Words that say little.
const SAY_NOTHING: [&str; 55] = [
    "the", "of", "a", "an", "for", "and", "with", "is", "this", "field", "column", "per", "der", "die",
    "das", "des", "dem", "den", "ein", "eine", "und", "mit", "bei", "im", "zum", "zur", "le", "la", "les",
    "l", "d", "de", "du", "un", "une", "et", "au", "aux", "en", "el", "lo", "los", "las", "una", "y", "del",
    "al", "con", "it", "its", "su", "vom", "beim", "ins", "aus",
];

/// Words that say little about which thing is meant.
const GENERAL: [&str; 23] = [
    "in",
    "value",
    "reference",
    "number",
    "id",
    "code",
    "name",
    "date",
    "time",
    "type",
    "count",
    "total",
    "amount",
    "quantity",
    "status",
    "year",
    "on",
    "at",
    "kind",
    "description",
    "text",
    "percent",
    "color",
];

/// So many headings with a word are a group.
const GROUP: u32 = 3;

/// Words that a heading may have beside those of a field, and be that field's.
const IDENTIFY: [&str; 5] = ["number", "id", "code", "reference", "name"];

/// Words that mean the opposite of one another: one of each kind in two names means that they are two
/// things.
const OPPOSED: [&[&str]; 17] = [
    &["start", "end", "finish", "stop"],
    &["begin", "end"],
    &["from", "to"],
    &["first", "last"],
    &["minimum", "maximum", "average"],
    &["birth", "death"],
    &["arrival", "departure"],
    &["arrived", "departed", "left"],
    &["old", "new"],
    &["in", "out", "over", "back", "off", "away"],
    &["up", "down"],
    &["opening", "closing"],
    &["latitude", "longitude"],
    &["left", "right"],
    &["north", "south", "east", "west"],
    &["entered", "changed", "updated", "deleted"],
    &["mother", "father"],
];

/// A name split into words.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Name {
    /// The name as it stands.
    pub(super) written: String,
    /// Its letters and digits alone, in lower case; without its unit, and with it.
    folded: String,
    whole: String,
    words: Vec<String>,
    /// The English words for what they may mean, and they themselves.
    english: Vec<String>,
    /// Those of its words that are cut short with a point.
    cut: Vec<String>,
    /// The unit that it names, or what it names instead of one.
    pub(super) unit: Option<Mention>,
}

impl Name {
    /// True where both have a word of the group, and not the same: from and to.
    fn is_opposed(&self, other: &Self, group: &[&str]) -> bool {
        let of_group = |name: &Self| -> Vec<String> {
            name.english.iter().filter(|word| group.contains(&word.as_str())).cloned().collect()
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
        let in_english = |word: &String| known.in_english(word).map(str::to_owned).collect::<Vec<_>>();
        let english = words.iter().flat_map(in_english).chain(words.iter().cloned()).collect();
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
        self.english.iter().any(|word| words.contains(&word.as_str()))
    }

    /// Whether one of its words is one of these, or means the same.
    pub(super) fn word_means(&self, word: &str, what: &[&str]) -> bool {
        what.contains(&word) || TradeWords::known().in_english(word).any(|english| what.contains(&english))
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

    /// Whether its words say hardly anything: letters, figures and units.
    pub(super) fn says_little(&self) -> bool {
        self.words().all(|word| {
            let letters = word.chars().count();
            let is_known = TradeWords::known().plainest(word).next().is_some();
            letters <= 2 || letters == 3 && !is_known || Mention::of(word).is_some()
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

    fn digits(&self) -> Vec<&str> {
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

/// Words of a column and of a field that are alike, each in one pair, the most alike first.
fn pairs<'n>(column: &'n Name, field: &'n Name, known: &TradeWords) -> Vec<(u32, &'n str, &'n str)> {
    let mut all: Vec<(u32, &str, &str)> = Vec::new();
    for mine in column.words() {
        let is_cut = column.cut.iter().any(|cut| cut == mine);
        all.extend(field.words().map(|theirs| (alike(mine, theirs, is_cut, known), mine, theirs)));
    }
    all.retain(|(alike, ..)| *alike >= ONE_WORD);
    all.sort_by_key(|pair| std::cmp::Reverse(pair.0));
    let mut pairs: Vec<(u32, &str, &str)> = Vec::new();
    for (alike, mine, theirs) in all {
        if !pairs.iter().any(|(_, used_mine, used_theirs)| *used_mine == mine || *used_theirs == theirs) {
            pairs.push((alike, mine, theirs));
        }
    }
    pairs
}

/// How much each word says: how many fields and columns have it.
#[derive(Debug)]
pub(super) struct Weights<'w> {
    known: &'w TradeWords,
    fields: Counts,
    columns: Counts,
}

/// How many names have a word, or one that means the same.
#[derive(Debug, Default)]
struct Counts {
    words: HashMap<String, u32>,
    things: HashMap<Thing, u32>,
}

impl<'w> Weights<'w> {
    pub(super) fn new(known: &'w TradeWords) -> Self {
        Self { known, fields: Counts::default(), columns: Counts::default() }
    }

    /// Takes in what one field is called, in all its names.
    pub(super) fn field<'n>(&mut self, names: impl Iterator<Item = &'n Name>) {
        self.fields.count(names, self.known);
    }

    /// Takes in the heading of a column.
    pub(super) fn column(&mut self, name: &Name) {
        self.columns.count(std::iter::once(name), self.known);
    }

    /// Whether a word says little about which thing is meant.
    fn is_general(&self, word: &str) -> bool {
        let mut plain = self.known.plainest(word).peekable();
        GENERAL.contains(&word) || plain.peek().is_some() && plain.all(|plain| GENERAL.contains(&plain))
    }

    fn of(&self, word: &str) -> u32 {
        let base = if self.is_general(word) {
            30
        } else if word.bytes().all(|byte| byte.is_ascii_digit()) {
            20
        } else {
            80
        };
        match self.fields.of(word, self.known).max(self.columns.of(word, self.known)) {
            0 | 1 => base,
            2 => base * 6 / 10,
            _ => base * 4 / 10,
        }
    }

    /// Whether a heading has a word that the name of a field has nothing like: "Remarks date".
    pub(super) fn says_more(&self, column: &Name, field: &Name) -> bool {
        let is_known = |mine: &str| {
            let is_cut = column.cut.iter().any(|cut| cut == mine);
            // What several headings have tells which group, and a letter tells little.
            self.columns.words.get(mine).is_some_and(|count| *count >= GROUP)
                || mine.chars().count() == 1
                || column.word_means(mine, &IDENTIFY)
                || mine.len() <= 3 && Mention::of(mine).is_some()
                || field.words().any(|theirs| alike(mine, theirs, is_cut, self.known) >= ONE_WORD)
        };
        column.whole != field.whole
            && column.folded != field.folded
            && !is_cut_off(column, field)
            && !is_initials(column, field)
            && !column.words().all(is_known)
    }

    /// Whether a heading has all of a field's words but those that say little.
    pub(super) fn lacks_little(&self, column: &Name, field: &Name) -> bool {
        let is_there = |theirs: &str| {
            let is_cut = |mine: &str| column.cut.iter().any(|cut| cut == mine);
            self.is_general(theirs)
                || column.words().any(|mine| alike(mine, theirs, is_cut(mine), self.known) >= ONE_WORD)
        };
        field.words().all(is_there) && field.words().any(|word| !self.is_general(word))
    }

    /// How alike two names are, in thousandths, and why.
    pub(super) fn alike(&self, column: &Name, field: &Name) -> (u32, &'static str) {
        if column.written == field.written {
            return (SAME, "the same name");
        }
        if !column.folded.is_empty() && (column.folded == field.folded || column.whole == field.whole) {
            return (990, "the same name, but for case and signs");
        }
        if column.words.is_empty() || field.words.is_empty() {
            return (0, "");
        }
        let opposed = OPPOSED.iter().any(|group| column.is_opposed(field, group));
        let numbers = (column.digits(), field.digits());
        if opposed || !numbers.0.is_empty() && !numbers.1.is_empty() && numbers.0 != numbers.1 {
            return (200, "");
        }
        if is_initials(column, field) {
            return (860, "the first letters of its words");
        }
        if is_cut_off(column, field) {
            return (900, "the same name, cut off");
        }
        let pairs = pairs(column, field, self.known);
        // A number alone names nothing.
        if pairs.iter().all(|(_, mine, _)| mine.bytes().all(|byte| byte.is_ascii_digit())) {
            return (0, "");
        }
        let (used_mine, used_theirs): (Vec<&str>, Vec<&str>) =
            pairs.iter().map(|(_, mine, theirs)| (*mine, *theirs)).unzip();
        let least = pairs.iter().map(|(alike, ..)| *alike).min().unwrap_or(SAME);
        // A word that is spelt otherwise says what the field's says.
        let matched: u32 = pairs.iter().map(|(alike, _, theirs)| alike * self.of(theirs) * 2).sum();
        let unmatched = column.words().filter(|word| !used_mine.contains(word));
        let total: u32 = field
            .words()
            .map(|word| self.of(word) * if used_theirs.contains(&word) { 2 } else { 1 })
            .chain(unmatched.map(|word| self.of(word)))
            .sum();
        let score = matched / total.max(1);
        let whole = used_mine.len() == column.words().count() && used_theirs.len() == field.words().count();
        let by_meaning = pairs.iter().any(|(alike, ..)| *alike == SAME_MEANING);
        let why = match (whole, least) {
            (true, SAME) if column.words == field.words => "the same words",
            (true, SAME) => "the same words in another order",
            (true, 880..) => "the same words, spelt a little differently",
            (true, _) if by_meaning => "words that mean the same",
            (true, _) => "the same words, abbreviated",
            _ => "some of the same words",
        };
        // Words in another order, or with a unit behind them, are nearly as good as the same name.
        (score.min(980), why)
    }

    /// How far a heading is a part that a dictionary names: it has all words of that, or no others; 0 where not.
    pub(super) fn holds(&self, heading: &Name, part: &Name) -> u32 {
        let is_alike = |mine: &str, theirs: &str| {
            let is_cut = heading.cut.iter().any(|cut| cut == mine);
            alike(mine, theirs, is_cut, self.known) >= SAME_MEANING
        };
        let has = |theirs: &str| heading.words().any(|mine| is_alike(mine, theirs));
        let is_known = |mine: &str| part.words().any(|theirs| is_alike(mine, theirs));
        let more = u32::try_from(heading.words().filter(|mine| !is_known(mine)).count()).unwrap_or(9);
        if heading.words.is_empty() || part.words.is_empty() {
            0
        } else if part.words().all(has) {
            500_u32.saturating_sub(more * 40)
        } else if more == 0 && part.words().any(|theirs| has(theirs) && !self.is_general(theirs)) {
            450
        } else {
            0
        }
    }

    /// How far the words of a heading are those of a text about a field, in thousandths: a text says much, so
    /// this is little.
    pub(super) fn is_in_text(&self, column: &Name, text: &Name) -> u32 {
        /// What a heading is worth that is in the text as a whole.
        const MOST: u32 = 480;
        let is_there = |mine: &str| {
            let is_cut = column.cut.iter().any(|cut| cut == mine);
            text.words().any(|theirs| alike(mine, theirs, is_cut, self.known) >= SAME_MEANING)
        };
        let all: u32 = column.words().map(|word| self.of(word)).sum();
        let there: u32 = column.words().filter(|word| is_there(word)).map(|word| self.of(word)).sum();
        let is_general = column.words().all(|word| self.of(word) <= 30);
        if is_general || there * 2 < all { 0 } else { MOST * there / all.max(1) }
    }
}

/// True for "DOV" and "date of visit"; of two words where the letters are capitals.
fn is_initials(column: &Name, field: &Name) -> bool {
    let initials = |name: &str| split(name).iter().filter_map(|word| word.chars().next()).collect::<String>();
    let is = |short: &Name, long: &Name| {
        let letters = short.folded.chars().count();
        let is_written_so = letters >= 3
            || letters == 2 && short.written.chars().filter(|c| c.is_alphabetic()).all(char::is_uppercase);
        is_written_so
            && short.words.len() == 1
            && split(&long.written).len() == letters
            && initials(&long.written) == short.folded
    };
    is(column, field) || is(field, column)
}

/// True for "FAREAMOU" and "fare amount": headings that were cut off after so many letters.
fn is_cut_off(column: &Name, field: &Name) -> bool {
    let letters = column.folded.len();
    letters >= 6
        && letters < field.folded.len()
        && column.words.len() == 1
        && field.folded.starts_with(&column.folded)
}

impl Counts {
    fn count<'n>(&mut self, names: impl Iterator<Item = &'n Name>, known: &TradeWords) {
        let mut words: Vec<&str> = names.flat_map(Name::words).collect();
        words.sort_unstable();
        words.dedup();
        let mut things: Vec<Thing> = words.iter().flat_map(|word| known.things(word)).copied().collect();
        things.sort_unstable();
        things.dedup();
        words.into_iter().for_each(|word| *self.words.entry(word.to_owned()).or_insert(0) += 1);
        things.into_iter().for_each(|thing| *self.things.entry(thing).or_insert(0) += 1);
    }

    fn of(&self, word: &str, known: &TradeWords) -> u32 {
        let thing = |thing: &Thing| self.things.get(thing).copied().unwrap_or(0);
        let by_meaning = known.things(word).iter().map(thing).min().unwrap_or(0);
        self.words.get(word).copied().unwrap_or(0).max(by_meaning)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn score(column: &str, field: &str) -> u32 {
        let known = TradeWords::known();
        let (column, field) = (Name::of(column, known), Name::of(field, known));
        let mut weights = Weights::new(known);
        weights.field(std::iter::once(&field));
        weights.column(&column);
        weights.alike(&column, &field).0
    }

    #[test]
    fn what_an_export_writes_before_all_its_headings_is_no_part_of_them() {
        let marked = ["ev_no", "ev_day", "ev_hall", "ev_fee", "ev_paid", "note"];
        assert_eq!(shared_start(&marked), "ev_");
        assert_eq!(shared_start(&["visit_no", "visit_day", "hive_no", "hive_fee", "queen_mark"]), "");
        assert_eq!(shared_start(&["clNo", "clDay", "clHall", "clFee", "clPaid"]), "cl");
        assert_eq!(shared_start(&["no.", "day.", "", "é"]), "");
    }

    #[test]
    fn names_of_one_thing_are_alike_and_those_of_two_are_not() {
        for (column, field) in [
            ("Apiary No.", "apiary_number"),
            ("APIARYNO", "apiary_no"),
            ("VisitDate", "date_of_visit"),
            ("Colour of queen", "queen_colour"),
            ("Honey (lb)", "honey_kg"),
            ("Treatments", "treatment"),
            ("Qty frames", "frame quantity"),
            ("Tempreature", "temperature"),
            ("Addr", "address"),
            ("Trtmnt", "treatment"),
            ("Straße", "Strasse"),
            ("Ap. no.", "Apiary number"),
            ("HONEY_KG", "honey_kg"),
            ("CSTMR", "customer"),
            ("HIVEINSP", "hive_inspected_on"),
            ("Fundort", "place found"),
            ("Cantidad", "Menge"),
        ] {
            assert!(score(column, field) >= 800, "{column} and {field}: {}", score(column, field));
        }
        for (column, field) in [
            ("Start date", "end_date"),
            ("Phone 1", "phone_2"),
            ("Hive", "five"),
            ("From", "form_of_hive"),
            ("Date", "visit_date"),
            ("Weather", "weight"),
            ("Name", "surname"),
            ("Lat", "longitude"),
            ("Entered at", "changed_at"),
        ] {
            assert!(score(column, field) < 700, "{column} and {field}: {}", score(column, field));
        }
    }
}
