//! How alike two names are: the heading of a column and what a field is called.
//!
//! Names are split into words, everyday abbreviations are spelt out, and the words are paired. A word
//! that only one field and one column has says more than one that many have; a word like "number" or
//! "date" says little. Everything is reckoned in thousandths.

use hashbrown::HashMap;
use strsim::damerau_levenshtein;
use unicode_normalization::UnicodeNormalization as _;

use dusk_values::{Mention, Wordy};

/// Two names that are the same.
pub(super) const SAME: u32 = 1000;

/// The least at which two words are taken for one.
const ONE_WORD: u32 = 740;

/// Everyday abbreviations, and other words for the same thing in headings.
const SPELT_OUT: [(&str, &[&str]); 41] = [
    ("no", &["number"]),
    ("nr", &["number"]),
    ("num", &["number"]),
    ("nbr", &["number"]),
    ("#", &["number"]),
    ("id", &["id"]),
    ("ident", &["id"]),
    ("identifier", &["id"]),
    ("dt", &["date"]),
    ("day", &["date"]),
    ("qty", &["quantity"]),
    ("amt", &["amount"]),
    ("cnt", &["count"]),
    ("pcs", &["piece"]),
    ("wt", &["weight"]),
    ("ht", &["height"]),
    ("lgth", &["length"]),
    ("temp", &["temperature"]),
    ("desc", &["description"]),
    ("descr", &["description"]),
    ("tel", &["telephone"]),
    ("phone", &["telephone"]),
    ("ph", &["telephone"]),
    ("mob", &["mobile"]),
    ("addr", &["address"]),
    ("lat", &["latitude"]),
    ("lon", &["longitude"]),
    ("lng", &["longitude"]),
    ("yr", &["year"]),
    ("mth", &["month"]),
    ("hrs", &["hour"]),
    ("mins", &["minute"]),
    ("pct", &["percent"]),
    ("avg", &["average"]),
    ("max", &["maximum"]),
    ("min", &["minimum"]),
    ("colour", &["color"]),
    ("dob", &["date", "birth"]),
    ("zip", &["postcode"]),
    ("postal", &["postcode"]),
    ("surname", &["last", "name"]),
];

/// Words that say little.
const SAY_NOTHING: [&str; 13] =
    ["the", "of", "a", "an", "for", "and", "with", "is", "this", "value", "field", "column", "per"];

/// Words that say little about which thing is meant.
const GENERAL: [&str; 21] = [
    "in",
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

/// Words that mean the opposite of one another: one of each kind in two names means that they are two
/// things.
const OPPOSED: [&[&str]; 16] = [
    &["start", "end", "finish", "stop"],
    &["begin", "end"],
    &["from", "to"],
    &["first", "last"],
    &["minimum", "maximum", "average"],
    &["birth", "death"],
    &["arrival", "departure"],
    &["arrived", "departed", "left"],
    &["old", "new"],
    &["in", "out"],
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
    /// Those of its words that are cut short with a point.
    cut: Vec<String>,
    /// The unit that it names, or what it names instead of one.
    pub(super) unit: Option<Mention>,
}

impl Name {
    /// True where both have a word of the group, and not the same: from and to.
    fn is_opposed(&self, other: &Self, group: &[&str]) -> bool {
        let mine: Vec<&str> = self.words().filter(|word| group.contains(word)).collect();
        let theirs: Vec<&str> = other.words().filter(|word| group.contains(word)).collect();
        !mine.is_empty() && !theirs.is_empty() && !mine.iter().any(|word| theirs.contains(word))
    }

    pub(super) fn of(written: &str) -> Self {
        let (bare, unit) = match Wordy::of(written) {
            Wordy { is_doubtful: true, .. } => (written, None),
            Wordy { text, mention, .. } => (text, mention),
        };
        let mut plain: String = bare.nfkd().filter(|c| !('\u{300}'..='\u{36f}').contains(c)).collect();
        for (letter, plainly) in [('ß', "ss"), ('æ', "ae"), ('œ', "oe"), ('ø', "o"), ('ł', "l"), ('đ', "d")]
        {
            if plain.contains(letter) {
                plain = plain.replace(letter, plainly);
            }
        }
        let fold = |text: &str| -> String {
            text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
        };
        let cut =
            plain.split_inclusive('.').filter_map(|part| split(part.strip_suffix('.')?).pop()).collect();
        let mut words = Vec::new();
        for word in split(&plain) {
            match SPELT_OUT.iter().find(|(short, _)| *short == word) {
                Some((_, long)) => words.extend(long.iter().map(|word| (*word).to_owned())),
                None => words.push(stem(&word)),
            }
        }
        if words.iter().any(|word| !SAY_NOTHING.contains(&word.as_str())) {
            words.retain(|word| !SAY_NOTHING.contains(&word.as_str()));
        }
        Self { written: written.to_owned(), folded: fold(&plain), whole: fold(written), words, cut, unit }
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

/// What most headings begin with, up to and with a sign after it ("PM2_", "rl."); empty where they do
/// not.
pub(super) fn shared_start<'h>(headings: &[&'h str]) -> &'h str {
    let start = |heading: &&'h str| {
        let end = heading.find(['_', '.', '-', ':', '/'])?;
        heading.get(..=end).filter(|start| start.len() < heading.len())
    };
    let starts: Vec<&str> = headings.iter().filter_map(start).collect();
    let count = |start: &str| starts.iter().filter(|other| **other == start).count();
    let most = starts.iter().copied().max_by_key(|start| count(start)).unwrap_or_default();
    if count(most) >= SHARED && count(most) * 5 >= headings.len() * 4 { most } else { "" }
}

/// Words in lower case: parted by anything that is no letter or digit, between small and capital
/// letters, and between letters and digits.
fn split(text: &str) -> Vec<String> {
    let mut words: Vec<String> = Vec::new();
    let mut word = String::new();
    let mut last: Option<char> = None;
    let mut letters = text.chars().peekable();
    while let Some(letter) = letters.next() {
        if letter == '#' {
            words.extend((!word.is_empty()).then(|| std::mem::take(&mut word)));
            words.push("#".into());
            last = None;
            continue;
        }
        if !letter.is_alphanumeric() {
            // An apostrophe parts no words: keeper's.
            if !matches!(letter, '\'' | '\u{2019}') {
                words.extend((!word.is_empty()).then(|| std::mem::take(&mut word)));
                last = None;
            }
            continue;
        }
        let breaks = last.is_some_and(|last| {
            let into_word = last.is_uppercase()
                && letter.is_uppercase()
                && letters.peek().is_some_and(|next| next.is_lowercase());
            last.is_lowercase() && letter.is_uppercase()
                || into_word
                || last.is_ascii_digit() != letter.is_ascii_digit()
        });
        if breaks {
            words.extend((!word.is_empty()).then(|| std::mem::take(&mut word)));
        }
        word.extend(letter.to_lowercase());
        last = Some(letter);
    }
    words.extend((!word.is_empty()).then_some(word));
    words
}

/// A word without the ending of its plural.
fn stem(word: &str) -> String {
    let letters = word.chars().count();
    if letters > 4
        && let Some(stem) = word.strip_suffix("ies")
    {
        return format!("{stem}y");
    }
    for ending in ["sses", "xes", "ches", "shes"] {
        if letters > 5 && word.ends_with(ending) {
            return word.strip_suffix("es").unwrap_or(word).to_owned();
        }
    }
    match word.strip_suffix('s') {
        Some(stem)
            if letters > 3 && !word.ends_with("ss") && !word.ends_with("us") && !word.ends_with("is") =>
        {
            stem.to_owned()
        }
        _ => word.to_owned(),
    }
}

/// How alike two words are; the first may be cut short with a point.
fn alike(a: &str, b: &str, is_cut: bool) -> u32 {
    if a == b {
        return SAME;
    }
    let (short, long) = if a.chars().count() <= b.chars().count() { (a, b) } else { (b, a) };
    let length = short.chars().count();
    if !short.chars().all(char::is_alphabetic) || !long.chars().all(char::is_alphabetic) {
        return 0;
    }
    let longer = long.chars().count();
    let begins = long.starts_with(short);
    if begins && length >= 2 && is_cut && short == a {
        return if length >= 3 { 910 } else { 850 };
    }
    if begins && length >= 3 {
        return match longer - length {
            0..=2 => 930,
            // A long beginning without a point may well be a word of its own: shelf and shelfmark.
            3.. if length >= 5 => 760,
            _ => 880,
        };
    }
    let distance = damerau_levenshtein(short, long);
    // Short words that differ by a letter are two words: hive and five, form and from.
    if distance == 1 && length == 4 && longer == 4 {
        let sorted = |word: &str| {
            let mut letters: Vec<char> = word.chars().collect();
            letters.sort_unstable();
            letters
        };
        return if sorted(short) == sorted(long) { 760 } else { 0 };
    }
    if distance == 1 && length >= 4 && short.chars().next() == long.chars().next() {
        return 900;
    }
    if distance == 2 && length >= 8 && short.chars().next() == long.chars().next() {
        return 850;
    }
    let is_vowel = |c: char| matches!(c, 'a' | 'e' | 'i' | 'o' | 'u');
    let consonants = short.chars().skip(1).all(|c| !is_vowel(c));
    if length >= 3 && consonants && longer > length + 1 && skips_letters(short, long) { 850 } else { 0 }
}

/// Words of a column and of a field that are alike, each in one pair, the most alike first.
fn pairs<'n>(column: &'n Name, field: &'n Name) -> Vec<(u32, &'n str, &'n str)> {
    let mut all: Vec<(u32, &str, &str)> = Vec::new();
    for mine in column.words() {
        let is_cut = column.cut.iter().any(|cut| cut == mine);
        all.extend(field.words().map(|theirs| (alike(mine, theirs, is_cut), mine, theirs)));
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

/// True when a word is another one with letters left out, the first among them kept.
fn skips_letters(word: &str, other: &str) -> bool {
    let mut rest = other.chars();
    other.chars().next() == word.chars().next()
        && word.chars().all(|letter| rest.any(|other| other == letter))
}

/// How much each word says: how many fields and columns have it.
#[derive(Debug, Default)]
pub(super) struct Weights {
    fields: HashMap<String, u32>,
    columns: HashMap<String, u32>,
}

impl Weights {
    /// Takes in what one field is called, in all its names.
    pub(super) fn field<'n>(&mut self, names: impl Iterator<Item = &'n Name>) {
        count(&mut self.fields, names);
    }

    /// Takes in the heading of a column.
    pub(super) fn column(&mut self, name: &Name) {
        count(&mut self.columns, std::iter::once(name));
    }

    fn of(&self, word: &str) -> u32 {
        let base = if GENERAL.contains(&word) {
            30
        } else if word.bytes().all(|byte| byte.is_ascii_digit()) {
            20
        } else {
            80
        };
        let met = |counts: &HashMap<String, u32>| counts.get(word).copied().unwrap_or(0);
        match met(&self.fields).max(met(&self.columns)) {
            0 | 1 => base,
            2 => base * 6 / 10,
            _ => base * 4 / 10,
        }
    }

    /// Whether a heading has a word that the name of a field has nothing like: "Remarks date".
    pub(super) fn says_more(column: &Name, field: &Name) -> bool {
        let is_known = |mine: &str| {
            let is_cut = column.cut.iter().any(|cut| cut == mine);
            field.words().any(|theirs| alike(mine, theirs, is_cut) >= ONE_WORD)
        };
        column.whole != field.whole && column.folded != field.folded && !column.words().all(is_known)
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
        if self.is_initials(column, field) {
            return (860, "the first letters of its words");
        }
        let pairs = pairs(column, field);
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
        let why = match (whole, least) {
            (true, SAME) if column.words == field.words => "the same words",
            (true, SAME) => "the same words in another order",
            (true, 880..) => "the same words, spelt a little differently",
            (true, _) => "the same words, abbreviated",
            _ => "some of the same words",
        };
        // Words in another order, or with a unit behind them, are nearly as good as the same name.
        (score.min(980), why)
    }

    /// True for "DOV" and "date of visit".
    fn is_initials(&self, column: &Name, field: &Name) -> bool {
        let initials =
            |name: &str| split(name).iter().filter_map(|word| word.chars().next()).collect::<String>();
        let is = |short: &Name, long: &Name| {
            short.folded.chars().count() >= 3
                && short.words.len() == 1
                && split(&long.written).len() == short.folded.chars().count()
                && initials(&long.written) == short.folded
        };
        is(column, field) || is(field, column)
    }
}

fn count<'n>(counts: &mut HashMap<String, u32>, names: impl Iterator<Item = &'n Name>) {
    let mut seen: Vec<String> = Vec::new();
    for name in names {
        for word in name.words() {
            if !seen.iter().any(|known| known == word) {
                seen.push(word.to_owned());
            }
        }
    }
    for word in seen {
        *counts.entry(word).or_insert(0) += 1;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn score(column: &str, field: &str) -> u32 {
        let (column, field) = (Name::of(column), Name::of(field));
        let mut weights = Weights::default();
        weights.field(std::iter::once(&field));
        weights.column(&column);
        weights.alike(&column, &field).0
    }

    #[test]
    fn what_an_export_writes_before_all_its_headings_is_no_part_of_them() {
        let marked = ["ev_no", "ev_day", "ev_hall", "ev_fee", "ev_paid", "note"];
        assert_eq!(shared_start(&marked), "ev_");
        assert_eq!(shared_start(&["visit_no", "visit_day", "hive_no", "hive_fee", "queen_mark"]), "");
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
