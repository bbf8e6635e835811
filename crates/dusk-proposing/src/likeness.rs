//! How alike two names are: the heading of a column and what a field is called.
//!
//! Names are split into words, everyday abbreviations are spelt out, and the words are paired. A word
//! that only one field and one column has says more than one that many have; a word like "number" or
//! "date" says little. Everything is reckoned in thousandths.

use hashbrown::HashMap;

use super::names::Name;
use super::spelling::split;
use super::trade_words::{Thing, TradeWords};
use super::words::{ONE_WORD, SAME, SAME_MEANING, alike};
use dusk_values::Mention;

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
