//! The unit that a heading or another text names: "Crate mass (LBS)", "length_ft", "mass in kg".

use super::{SEVERAL, Unit, UnitConversion, rate, table::UNITS};

/// What a text says of a unit.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Mention {
    /// One unit.
    Unit(&'static Unit),
    /// Something that is more than one unit, or in the place of one and none that is known.
    Unclear(String),
}

/// A text without the unit that it names, and the unit.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wordy<'t> {
    /// The text without it, where it stands at the end.
    pub text: &'t str,
    /// The unit.
    pub mention: Option<Mention>,
    /// True where a short last word is the unit only if its case does not count: the "Cl" of "Free Cl" may be a
    /// centilitre or chlorine.
    pub is_doubtful: bool,
}

/// Words that stand in brackets and are no units.
const ORDINARY: [&str; 28] = [
    "net",
    "gross",
    "total",
    "sum",
    "est",
    "estimated",
    "approx",
    "min",
    "max",
    "avg",
    "mean",
    "median",
    "new",
    "old",
    "opt",
    "optional",
    "required",
    "no",
    "nr",
    "num",
    "number",
    "count",
    "qty",
    "calc",
    "auto",
    "adj",
    "raw",
    "final",
];

/// Abbreviations of one letter that are units in brackets only.
const LETTERS: [(&str, &str); 2] = [("C", "°C"), ("F", "°F")];

impl Mention {
    /// The unit that a word by itself is, whatever its case and number; nothing where it is none.
    ///
    /// ```
    /// use dusk_values::{Mention, Unit};
    /// assert_eq!(Mention::of("KGS"), Unit::find("kg").map(Mention::Unit));
    /// assert_eq!(Mention::of("boxes"), None);
    /// ```
    pub fn of(word: &str) -> Option<Self> {
        let word = word.trim().trim_end_matches('.');
        let letter = LETTERS.iter().find(|(letter, _)| letter.eq_ignore_ascii_case(word));
        match letter {
            Some((_, unit)) => Unit::find(unit).map(Self::Unit),
            None => spelt(word),
        }
    }
}

impl Wordy<'_> {
    /// Reads a heading or a name. What stands in brackets, behind a comma or behind "in" is a unit or an
    /// unclear word; the last word of a name only where it is a unit.
    pub fn of(text: &str) -> Wordy<'_> {
        let trimmed = text.trim_end_matches([' ', '.', ':']);
        for (open, close) in [('(', ')'), ('[', ']')] {
            let Some((before, inside)) = trimmed.rsplit_once(open) else { continue };
            let Some((inside, behind)) = inside.split_once(close).or(Some((inside, ""))) else { continue };
            if let Some(mention) = in_brackets(inside) {
                let text = if behind.trim().is_empty() { before.trim_end() } else { text };
                return Wordy { text, mention: Some(mention), is_doubtful: false };
            }
        }
        if let Some((before, unit)) = behind_a_comma(trimmed) {
            return Wordy { text: before, mention: Some(unit), is_doubtful: false };
        }
        if let Some((before, unit)) = last_word(trimmed) {
            return Wordy { text: before, mention: Some(unit), is_doubtful: is_word_like(trimmed) };
        }
        Wordy { text, mention: None, is_doubtful: false }
    }
}

/// What stands in brackets.
fn in_brackets(inside: &str) -> Option<Mention> {
    let inside = inside.trim().trim_start_matches("in ").trim_end_matches('.').trim();
    let lower = inside.to_lowercase();
    if inside.is_empty() || ORDINARY.contains(&lower.as_str()) {
        return None;
    }
    if let Some((_, unit)) = LETTERS.iter().find(|(letter, _)| letter.eq_ignore_ascii_case(inside)) {
        return Unit::find(unit).map(Mention::Unit);
    }
    if let Some(mention) = spelt(inside) {
        return Some(mention);
    }
    // What has the look of a unit: one short word, or one for each of another.
    let letters = inside.chars().filter(|c| c.is_alphabetic()).count();
    let is_word = (1..=5).contains(&letters) && !inside.contains(char::is_whitespace);
    let is_short = is_word && inside.chars().all(|c| c.is_alphanumeric() || "°%/²³^µ._-$€£".contains(c));
    (is_short && !inside.chars().all(|c| c.is_ascii_digit())).then(|| Mention::Unclear(inside.to_owned()))
}

/// "Mass, kg", "Length in metres", "Rate per ha".
fn behind_a_comma(text: &str) -> Option<(&str, Mention)> {
    [", ", ",", " in ", " / "].iter().find_map(|between| {
        let (before, last) = text.rsplit_once(between)?;
        let unit = spelt(last.trim()).filter(|_| !before.trim().is_empty())?;
        Some((before.trim_end(), unit))
    })
}

/// Words that end names of other things as well: "Visits per day", "Rest days", "Wine bar". They are units in
/// brackets, behind a comma or behind "in" only.
const ENDINGS: [&str; 22] = [
    "day", "days", "week", "weeks", "hour", "hours", "minute", "minutes", "second", "seconds", "sec", "are",
    "bar", "st", "ct", "foot", "stone", "stones", "pound", "degree", "degrees", "euro",
];

/// honey_kg, "Value €": a unit as the last word or sign, where that stands by itself.
fn last_word(text: &str) -> Option<(&str, Mention)> {
    let (before, last) = text.rsplit_once(['_', ' ', '-'])?;
    // A single letter ends many other names; a sign ends none.
    let is_sign = last.chars().count() == 1 && !last.chars().any(char::is_alphanumeric);
    let is_word = (is_sign || last.chars().count() >= 2) && !before.trim().is_empty();
    let lower = last.to_lowercase();
    if !is_word || lower == "in" || ORDINARY.contains(&lower.as_str()) || ENDINGS.contains(&lower.as_str()) {
        return None;
    }
    Some((before.trim_end_matches(['_', ' ', '-']), spelt(last)?))
}

/// Whether the last word of a text has two letters, the first of them a capital, and is no symbol as it stands.
fn is_word_like(text: &str) -> bool {
    let last = text.rsplit(['_', ' ', '-']).next().unwrap_or_default();
    let mut letters = last.chars();
    let begins_large = letters.next().is_some_and(char::is_uppercase);
    last.chars().count() == 2 && begins_large && letters.all(char::is_lowercase) && Unit::find(last).is_none()
}

impl Wordy<'_> {
    /// What the text says of a unit, for numbers that are to be in `wanted`. What is doubtful counts where it is a
    /// unit that they could be in.
    pub fn mention_for(self, wanted: Option<&'static Unit>) -> Option<Mention> {
        let fits = |unit: &'static Unit| {
            wanted.is_some_and(|wanted| unit == wanted || UnitConversion::new(unit, wanted).is_ok())
        };
        self.mention.filter(|mention| match mention {
            Mention::Unit(unit) => !self.is_doubtful || fits(unit),
            Mention::Unclear(_) => true,
        })
    }
}

/// The unit that a word is, whatever its case and number: LBS, Feet, kilograms, KG/HA.
fn spelt(word: &str) -> Option<Mention> {
    let word = word.trim();
    let lower = word.to_lowercase();
    if let Some(unit) = Unit::find(word) {
        return Some(Mention::Unit(unit)).filter(|_| word != "1");
    }
    if let Some((words, _)) = SEVERAL.iter().find(|(words, _)| words.contains(&lower.as_str())) {
        return words.first().map(|_| Mention::Unclear(word.to_owned()));
    }
    if let Some(unit) = without_case(&lower) {
        return Some(Mention::Unit(unit));
    }
    let (above, below) = lower.split_once('/').or_else(|| lower.split_once(" per "))?;
    let is_unclear = |word: &str| SEVERAL.iter().any(|(words, _)| words.contains(&word));
    if is_unclear(above.trim()) || is_unclear(below.trim()) {
        return Some(Mention::Unclear(word.to_owned()));
    }
    rate::rate(without_case(above.trim())?, without_case(below.trim())?).map(Mention::Unit)
}

/// The one unit that is written so, case and plural aside.
fn without_case(lower: &str) -> Option<&'static Unit> {
    let is_it = |unit: &&Unit, word: &str| {
        unit.symbol != "1" && [unit.symbol].iter().chain(unit.also).any(|known| known.to_lowercase() == word)
    };
    let one = |word: &str| {
        let mut fitting = UNITS.iter().filter(|unit| is_it(unit, word));
        // Of mW and MW, or mPa and MPa, the table has one; a word that fits two is neither.
        fitting.next().filter(|_| fitting.next().is_none())
    };
    let singular = || lower.strip_suffix('s').filter(|word| word.chars().count() > 2);
    one(lower).or_else(|| singular().and_then(one))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn unit(text: &str) -> String {
        match Wordy::of(text).mention {
            Some(Mention::Unit(unit)) => unit.symbol().to_owned(),
            Some(Mention::Unclear(word)) => format!("{word}?"),
            None => String::new(),
        }
    }

    #[test]
    fn every_unit_in_brackets_is_itself_whatever_its_case_or_unclear() {
        for known in &UNITS {
            // A bare 1 in brackets is a number.
            if known.symbol == "1" {
                continue;
            }
            for written in [known.symbol.to_owned(), known.symbol.to_uppercase(), known.symbol.to_lowercase()]
            {
                let mention = Wordy::of(&format!("Quantity ({written})")).mention;
                let is_ordinary = ORDINARY.contains(&written.to_lowercase().as_str());
                match mention {
                    Some(Mention::Unit(unit)) if unit == known => {}
                    // MW is not mW, nor MPa mPa: the exact spelling counts, and no other unit is taken for it.
                    Some(Mention::Unit(unit)) => assert_eq!(unit.symbol, written, "{written}"),
                    Some(Mention::Unclear(_)) => assert_ne!(written, known.symbol),
                    None => assert!(is_ordinary, "{written} is hidden"),
                }
            }
        }
    }

    #[test]
    fn a_heading_names_its_unit_in_brackets_behind_a_comma_or_as_its_last_word() {
        for (text, expected) in [
            ("Crate mass (LBS)", "lb"),
            ("Furrow length (miles)", "mi"),
            ("Drying heat (F)", "°F"),
            ("Hem [FT]", "ft"),
            ("Hem (yd)", "yd"),
            ("Flow (gal/min)", "gal/min?"),
            ("Flow (L/min)", "l/min"),
            ("Yield (KG/HA)", "kg/ha"),
            ("Dose (mg) given", "mg"),
            ("Brood {n}", ""),
            ("length in feet", "ft"),
            ("Mass, kg", "kg"),
            ("honey_kg", "kg"),
            ("HONEY_LBS", "lb"),
            ("Area hectares", "ha"),
            ("Share (%)", "%"),
            ("Price (€)", "EUR"),
            ("Insured value €", "EUR"),
            ("Discount %", "%"),
            ("Section A", ""),
            ("Crate #", ""),
            ("Price $", "$?"),
            ("Price ($)", "$?"),
            ("Load (ton)", "ton?"),
            ("Depth (fms)", "fms?"),
            ("Weight (net)", ""),
            ("Weight (min)", ""),
            ("Checked in", ""),
            ("Visits per day", ""),
            ("Rest days", ""),
            ("Rest (days)", "d"),
            ("Rest in hours", "h"),
            ("Frames", ""),
            ("Row (as the keeper counts)", ""),
            ("Hive (2026)", ""),
        ] {
            assert_eq!(unit(text), expected, "{text}");
        }
        assert_eq!(Wordy::of("Crate mass (LBS)").text, "Crate mass");
        assert_eq!(Wordy::of("honey_kg").text, "honey");
    }
}
