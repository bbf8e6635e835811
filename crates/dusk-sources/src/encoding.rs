//! Bytes become text.
//!
//! An encoding is proven by a byte order mark, by the whole file being valid UTF-8, by the zero
//! bytes of UTF-16, by words of the dictionary that one encoding alone brings out, or by words that under any
//! other are none. Any other has to be named.

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

use super::alphabets::{has_own_letter, is_no_word, language_of, of_two_languages};
use super::survey::ByteSurvey;
use dusk_evidence::{Claim, Evidence, Example, Reading, Verdict};

/// How a source's bytes are read.
#[derive(Debug, Clone, Copy)]
pub struct EncodingChoice {
    /// The encoding.
    pub encoding: &'static Encoding,
    /// The encoding of the lines that do not fit, where the mapping names one.
    pub other_lines: Option<&'static Encoding>,
    /// How many bytes come before the text: a byte order mark.
    pub mark: usize,
}

/// The encodings of the WHATWG standard that are weighed, the everyday ones first.
const CANDIDATES: [&Encoding; 33] = {
    use encoding_rs as e;
    [
        e::WINDOWS_1252,
        e::WINDOWS_1250,
        e::WINDOWS_1251,
        e::WINDOWS_1253,
        e::WINDOWS_1254,
        e::WINDOWS_1255,
        e::WINDOWS_1256,
        e::WINDOWS_1257,
        e::WINDOWS_1258,
        e::WINDOWS_874,
        e::MACINTOSH,
        e::ISO_8859_2,
        e::ISO_8859_3,
        e::ISO_8859_4,
        e::ISO_8859_5,
        e::ISO_8859_6,
        e::ISO_8859_7,
        e::ISO_8859_8,
        e::ISO_8859_10,
        e::ISO_8859_13,
        e::ISO_8859_14,
        e::ISO_8859_15,
        e::ISO_8859_16,
        e::KOI8_R,
        e::KOI8_U,
        e::IBM866,
        e::X_MAC_CYRILLIC,
        e::GBK,
        e::GB18030,
        e::BIG5,
        e::EUC_JP,
        e::SHIFT_JIS,
        e::EUC_KR,
    ]
};

impl EncodingChoice {
    fn of(encoding: &'static Encoding, mark: usize) -> Self {
        Self { encoding, other_lines: None, mark }
    }

    /// What the first bytes of a file settle: a byte order mark, or the zero bytes of UTF-16.
    pub(super) fn by_first_bytes(head: &[u8]) -> Option<(Self, Evidence)> {
        if let Some((marked, mark)) = Encoding::for_bom(head) {
            let mut evidence = proven(marked);
            evidence.readings.push(Reading {
                name: label(marked),
                supports: 1,
                counted: "byte order mark".into(),
                ..Reading::default()
            });
            return Some((Self::of(marked, mark), evidence));
        }
        let zeros = |offset: usize| head.iter().skip(offset).step_by(2).filter(|byte| **byte == 0).count();
        let (offset, encoding) = [(1, UTF_16LE), (0, UTF_16BE)].into_iter().find(|(offset, _)| {
            head.len() >= 8 && zeros(*offset) * 4 > head.len() && zeros(1 - offset) == 0
        })?;
        let mut evidence = proven(encoding);
        evidence.readings.push(Reading {
            name: label(encoding),
            supports: zeros(offset) as u64,
            counted: "zero bytes, all of them the upper half of a pair; no other encoding has any".into(),
            ..Reading::default()
        });
        Some((Self::of(encoding, 0), evidence))
    }

    /// What the mapping names.
    pub(super) fn named(
        encoding: &'static Encoding,
        other_lines: Option<&'static Encoding>,
        head: &[u8],
    ) -> (Self, Evidence) {
        let reading = match other_lines {
            None => label(encoding),
            Some(other) => format!("{}, other lines {}", label(encoding), label(other)),
        };
        let mut evidence = Evidence::named(Claim::Encoding, reading);
        if utf_8_letters(encoding, head) > 0 {
            evidence.suggests.push("its first lines are valid UTF-8 with letters outside ASCII, which chance hardly ever makes; try encoding = \"utf-8\"".into());
        }
        (Self { other_lines, ..Self::of(encoding, 0) }, evidence)
    }

    /// Weighs every encoding on the bytes of the whole file. `words` are the words of the
    /// dictionary that have letters outside ASCII, in lower case.
    pub(super) fn weigh(survey: &ByteSurvey, words: &hashbrown::HashSet<String>) -> Weighing {
        if let Some(line) = survey.first_switch.filter(|_| survey.other_lines + survey.utf_8_lines == 0) {
            return Weighing::open(switched(line), Vec::new());
        }
        if survey.other_lines == 0 {
            return Weighing::settled(UTF_8, all_utf_8(survey));
        }
        let weighed = Weighed::all(survey, words);
        if survey.utf_8_lines > 0 {
            return Weighing::open(two_encodings(survey, &weighed), Vec::new());
        }
        let most = weighed.iter().map(|one| one.known.len()).max().unwrap_or(0);
        let best: Vec<&Weighed> = weighed.iter().filter(|one| most > 0 && one.known.len() == most).collect();
        if let Some(first) = all_alike(&best) {
            return Weighing::settled(first.encoding, words_of_the_dictionary(first));
        }
        let pool: Vec<&Weighed> = if best.is_empty() { weighed.iter().collect() } else { best };
        let (mut pool, broken) = without_broken_words(pool);
        // The likeliest first.
        pool.sort_by_key(|one| std::cmp::Reverse((one.share_of_language(), one.encoding == survey.guess)));
        match all_alike(&pool).or_else(|| of_one_language(&pool)) {
            Some(first) => Weighing::settled(first.encoding, words_of_one(first, &pool, &broken)),
            None => {
                let open = pool.iter().map(|one| one.encoding).collect();
                Weighing::open(undecided(survey, &pool), open)
            }
        }
    }

    /// The encoding's WHATWG label.
    pub fn label(&self) -> String {
        match self.other_lines {
            None => label(self.encoding),
            Some(other) => format!("{}, other lines {}", label(self.encoding), label(other)),
        }
    }
}

/// How many characters outside ASCII the first bytes of a file have as UTF-8, where they are valid and another
/// encoding is `named`.
fn utf_8_letters(named: &'static Encoding, head: &[u8]) -> usize {
    if named == UTF_8 || matches!(named.name(), "UTF-16LE" | "UTF-16BE") {
        return 0;
    }
    let text = match std::str::from_utf8(head) {
        Ok(text) => text,
        // The last character may be cut.
        Err(error) if error.error_len().is_none() => head
            .get(..error.valid_up_to())
            .and_then(|whole| std::str::from_utf8(whole).ok())
            .unwrap_or_default(),
        Err(_) => return 0,
    };
    text.chars().filter(|c| !c.is_ascii()).count()
}

/// Whether the bytes deny the encoding that the mapping names: they are UTF-8, more often than chance makes it.
pub(super) fn is_denied(named: &'static Encoding, head: &[u8]) -> bool {
    let by_chance = if named.is_single_byte() { 3 } else { 20 };
    utf_8_letters(named, head) > by_chance
}

/// Words of the dictionary prove an encoding that no other brings out.
fn words_of_the_dictionary(first: &Weighed) -> Evidence {
    let mut evidence = proven(first.encoding);
    let counted = "words of the dictionary that no other encoding brings out";
    evidence.readings.push(first.reading(counted, &first.known));
    evidence
}

/// What the bytes of a whole file say about their encoding.
pub(super) struct Weighing {
    /// The encoding, where it is settled.
    pub(super) choice: Option<EncodingChoice>,
    pub(super) evidence: Evidence,
    /// Those that leave words, where several do; the likeliest first.
    pub(super) open: Vec<&'static Encoding>,
}

impl Weighing {
    fn settled(encoding: &'static Encoding, evidence: Evidence) -> Self {
        Self { choice: Some(EncodingChoice::of(encoding, 0)), evidence, open: Vec::new() }
    }

    fn open(evidence: Evidence, open: Vec<&'static Encoding>) -> Self {
        Self { choice: None, evidence, open }
    }
}

fn proven(encoding: &'static Encoding) -> Evidence {
    Evidence::new(Claim::Encoding, Verdict::Proven(label(encoding)))
}

/// What one encoding makes of the words in question.
struct Weighed {
    encoding: &'static Encoding,
    /// The words, with the lines that they stand on.
    text: Vec<(u64, String)>,
    /// The samples that are words of the dictionary.
    known: Vec<usize>,
    /// How many cannot be words.
    broken: usize,
    /// How many have the letters of one language, and which.
    of_language: usize,
    language: Option<&'static str>,
}

impl Weighed {
    /// Every encoding that can read every sample, the everyday ones first.
    fn all(survey: &ByteSurvey, words: &hashbrown::HashSet<String>) -> Vec<Self> {
        CANDIDATES.into_iter().filter_map(|encoding| Self::new(encoding, survey, words)).collect()
    }

    fn new(
        encoding: &'static Encoding,
        survey: &ByteSurvey,
        words: &hashbrown::HashSet<String>,
    ) -> Option<Self> {
        let readable = |bytes: &[u8]| {
            let text = encoding.decode_without_bom_handling_and_without_replacement(bytes)?;
            (!text.chars().any(|c| matches!(c, '\u{80}'..='\u{9f}'))).then(|| text.into_owned())
        };
        let text: Vec<(u64, String)> = if encoding.is_single_byte() {
            readable(&survey.high_bytes())?;
            let words = survey.samples.iter().map(|one| Some((one.line, readable(&one.word)?)));
            words.collect::<Option<_>>()?
        } else {
            let lines = survey.sample_lines.iter().map(|one| Some((one.line, readable(&one.word)?)));
            lines
                .collect::<Option<Vec<_>>>()?
                .into_iter()
                .flat_map(|(line, text)| words_in(line, &text))
                .collect()
        };
        let known = (0..)
            .zip(&text)
            .filter(|(_, (_, word))| words.contains(&word.to_lowercase()))
            .map(|(at, _)| at)
            .collect();
        let (language, of_language) = language_of(text.iter().map(|(_, word)| word.as_str()));
        let broken = text.iter().filter(|(_, word)| is_no_word(word)).count();
        Some(Self { encoding, text, known, broken, of_language, language })
    }

    /// What share of the words, in a hundred, has the letters of one language.
    fn share_of_language(&self) -> usize {
        let words = self.text.iter().filter(|(_, word)| has_own_letter(word)).count();
        self.of_language * 100 / words.max(1)
    }

    fn reading(&self, counted: &str, which: &[usize]) -> Reading {
        let example = |at: &usize| {
            let (line, word) = self.text.get(*at)?;
            Some(Example { place: format!("line {line}"), value: word.clone(), reads: String::new() })
        };
        Reading {
            name: label(self.encoding),
            supports: self.known.len() as u64,
            counted: counted.into(),
            examples: which.iter().take(4).filter_map(example).collect(),
            ..Reading::default()
        }
    }
}

/// The words of a line that have letters outside ASCII.
fn words_in(line: u64, text: &str) -> Vec<(u64, String)> {
    let words = text.split(|c: char| c.is_ascii() && !c.is_ascii_alphanumeric());
    words.filter(|word| !word.is_ascii()).map(|word| (line, word.to_owned())).collect()
}

/// The first, where all give the same text.
fn all_alike<'w>(pool: &[&'w Weighed]) -> Option<&'w Weighed> {
    let (first, rest) = pool.split_first()?;
    rest.iter().all(|other| other.text == first.text).then_some(*first)
}

/// Readings that leave words, and those that leave what cannot be words: letters of two alphabets in one,
/// signs between letters. A few such words are in any text, so those count on which a reading differs from the
/// one that has fewest.
fn without_broken_words(pool: Vec<&Weighed>) -> (Vec<&Weighed>, Vec<&Weighed>) {
    let Some(best) = pool.iter().min_by_key(|one| one.broken).copied() else { return (pool, Vec::new()) };
    pool.into_iter().partition(|one| {
        let same_words = one.text.len() == best.text.len();
        let pairs = one.text.iter().zip(&best.text);
        let own = pairs.filter(|(own, other)| !same_words || own != other).map(|(own, _)| own.1.as_str());
        let (own, broken) =
            own.fold((0, 0), |(own, broken), word| (own + 1, broken + usize::from(is_no_word(word))));
        one.broken <= best.broken || broken * 10 < own
    })
}

/// The reading whose words one language has the letters of, where no two languages together have those of any
/// other reading. Of few words or letters that is chance.
fn of_one_language<'w>(pool: &[&'w Weighed]) -> Option<&'w Weighed> {
    /// How many words, of how many different letters, are enough.
    const WORDS: usize = 5;
    const LETTERS: usize = 3;
    /// The most words in a hundred that two languages may have of another reading, and how many fewer.
    const FAR_BEHIND: usize = 80;
    const WORDS_BEHIND: usize = 3;
    /// It has nearly every letter that others have.
    const TOO_RICH: &str = "Vietnamese";
    let (first, rest) = pool.split_first()?;
    let odd = first.text.iter().flat_map(|(_, word)| word.chars().filter(|c| !c.is_ascii()));
    let letters = odd.flat_map(char::to_lowercase).collect::<hashbrown::HashSet<char>>().len();
    let words = first.text.iter().map(|(_, word)| word).collect::<hashbrown::HashSet<_>>().len();
    let is_rich = first.language == Some(TOO_RICH);
    if is_rich || words < WORDS || letters < LETTERS || first.share_of_language() < 95 {
        return None;
    }
    let falls_behind = |other: &Weighed| {
        let words = other.text.iter().map(|(_, word)| word.as_str());
        let words: Vec<&str> = words.filter(|word| has_own_letter(word)).collect();
        let theirs = of_two_languages(&words);
        theirs * 100 <= words.len() * FAR_BEHIND && theirs + WORDS_BEHIND <= words.len()
    };
    rest.iter().all(|other| other.text == first.text || falls_behind(other)).then_some(*first)
}

/// The evidence for a reading that alone leaves words.
fn words_of_one(first: &Weighed, pool: &[&Weighed], broken: &[&Weighed]) -> Evidence {
    let mut evidence = proven(first.encoding);
    let rivals: Vec<&&Weighed> = pool.iter().filter(|other| other.text != first.text).collect();
    let counted = match (rivals.is_empty(), first.language) {
        (false, Some(language)) => {
            let next = rivals.iter().map(|other| other.share_of_language()).max().unwrap_or(0);
            format!(
                "words, {} in a hundred with letters of one language ({language}); under any other encoding {next} at most",
                first.share_of_language()
            )
        }
        _ => "words; every other encoding leaves some that cannot be words".into(),
    };
    let all: Vec<usize> = (0..first.text.len()).collect();
    evidence.readings.push(Reading { supports: first.text.len() as u64, ..first.reading(&counted, &all) });
    let is_broken = |other: &&&Weighed| other.text.iter().any(|(_, word)| is_no_word(word));
    for other in broken.iter().filter(is_broken).take(2) {
        let places = (0..).zip(&other.text).filter(|(_, (_, word))| is_no_word(word));
        let which: Vec<usize> = places.map(|(at, _)| at).take(2).collect();
        let against = other.reading("", &which).examples;
        let counted = "words that cannot be words".into();
        let (name, supports) = (label(other.encoding), other.broken as u64);
        evidence.readings.push(Reading { name, supports, counted, examples: against, ..Reading::default() });
    }
    evidence
}

/// The file is valid UTF-8.
fn all_utf_8(survey: &ByteSurvey) -> Evidence {
    let mut evidence = proven(UTF_8);
    let counted = match survey.utf_8_lines {
        0 => "lines, every byte of them ASCII",
        _ => "lines, every byte of them valid",
    };
    evidence.readings.push(Reading {
        name: label(UTF_8),
        supports: survey.lines,
        counted: counted.into(),
        ..Reading::default()
    });
    evidence
}

/// ASCII only, with a control character that switches to another character set in ISO-2022-JP.
fn switched(line: u64) -> Evidence {
    let names = vec!["iso-2022-jp".to_owned(), "utf-8 with control characters".to_owned()];
    let mut evidence = Evidence::new(Claim::Encoding, Verdict::Undecided(names));
    evidence.readings.push(Reading {
        name: "iso-2022-jp".into(),
        supports: 1,
        counted: format!("switch to another character set, in line {line}"),
        ..Reading::default()
    });
    evidence.settle = vec!["[source]".into(), "encoding = …   # \"iso-2022-jp\" or \"utf-8\"".into()];
    evidence
}

/// Names the readings that differ, and the words on which they do; the likeliest stands first.
fn undecided(survey: &ByteSurvey, pool: &[&Weighed]) -> Evidence {
    /// How many readings are shown.
    const SHOWN: usize = 4;
    let mut different: Vec<&Weighed> = Vec::new();
    for one in pool {
        if !different.iter().any(|other| other.text == one.text) {
            different.push(one);
        }
    }
    let more = different.len() > SHOWN;
    different.truncate(SHOWN);
    let differs = |at: &usize| {
        let words: Vec<Option<&(u64, String)>> = different.iter().map(|one| one.text.get(*at)).collect();
        words.iter().any(|word| Some(word) != words.first())
    };
    let most = different.first().map_or(0, |one| one.text.len());
    let which: Vec<usize> = (0..most).filter(differs).take(4).collect();
    let names: Vec<String> = different.iter().map(|one| label(one.encoding)).collect();
    let written: Vec<String> = names.iter().map(|name| format!("\"{name}\"")).collect();
    let likely = different.first().is_some_and(|one| one.encoding == survey.guess);
    let mut evidence = Evidence::new(Claim::Encoding, Verdict::Undecided(names));
    evidence.readings = different.iter().map(|one| one.reading("", &which)).collect();
    if likely {
        evidence.suggests.push(format!("the mixture of bytes looks most like {}", label(survey.guess)));
    }
    let (first, others) =
        written.split_first().map_or((String::new(), &[][..]), |(first, rest)| (first.clone(), rest));
    let others = [others.join(" or "), if more { "another".into() } else { String::new() }];
    let others: Vec<String> = others.into_iter().filter(|part| !part.is_empty()).collect();
    let line = format!(
        "encoding = {first}   # or {}: the one under which the words above are right",
        others.join(", or ")
    );
    evidence.settle = vec!["[source]".into(), line];
    evidence
}

/// Some lines are UTF-8 beyond doubt, and others cannot be.
fn two_encodings(survey: &ByteSurvey, weighed: &[Weighed]) -> Evidence {
    let lines = |list: &[u64], count: u64| {
        let shown: Vec<String> = list.iter().take(5).map(u64::to_string).collect();
        let more = if count > shown.len() as u64 { ", …" } else { "" };
        format!("{count} lines ({}{more})", shown.join(", "))
    };
    let groups = vec![
        format!("{} hold letters as UTF-8", lines(&survey.first_utf_8, survey.utf_8_lines)),
        format!("{} hold bytes that are not UTF-8", lines(&survey.first_other, survey.other_lines)),
    ];
    let mut evidence = Evidence::new(Claim::Encoding, Verdict::Contradicted(groups));
    let all: Vec<usize> = (0..4).collect();
    let mut seen: Vec<&[(u64, String)]> = Vec::new();
    for one in weighed.iter().filter(|one| one.encoding == survey.guess).chain(weighed) {
        if seen.len() < 3 && !seen.contains(&one.text.as_slice()) {
            seen.push(&one.text);
            let mut reading = one.reading("", &all);
            reading.name = format!("other lines {}", reading.name);
            evidence.readings.push(reading);
        }
    }
    evidence.settle = vec![
        "[source]".into(),
        "encoding    = \"utf-8\"".into(),
        "other_lines = …   # the one under which the words above are right".into(),
    ];
    evidence
}

/// The encoding whose byte order mark a file begins with.
pub fn encoding_by_mark(bytes: &[u8]) -> Option<&'static Encoding> {
    Encoding::for_bom(bytes).map(|(encoding, _)| encoding)
}

/// The encoding that a WHATWG label names; also `utf-16le` and `utf-16be`. Nothing for a label
/// that the standard does not know or does not let text be read in.
pub fn encoding_named(label: &str) -> Option<&'static Encoding> {
    Encoding::for_label(label.as_bytes()).filter(|encoding| encoding.name() != "replacement")
}

pub(super) fn label(encoding: &'static Encoding) -> String {
    encoding.name().to_ascii_lowercase()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn weighed(bytes: &[u8], words: &[&str]) -> (Option<String>, Evidence) {
        let survey = ByteSurvey::of(bytes).unwrap();
        let words = words.iter().map(|word| word.to_lowercase()).collect();
        let Weighing { choice, evidence, .. } = EncodingChoice::weigh(&survey, &words);
        (choice.map(|choice| choice.label()), evidence)
    }

    #[test]
    fn words_of_the_dictionary_prove_an_encoding_only_if_no_letter_is_left_open() {
        let mac = encoding_rs::MACINTOSH.encode("Öst Quay\n").0.into_owned();
        assert_eq!(weighed(&mac, &["Öst"]).0.as_deref(), Some("macintosh"));
        assert_eq!(weighed(&mac, &[]).0, None);
        let cyrillic = encoding_rs::KOI8_R.encode("пчела мёд\n").0.into_owned();
        assert_eq!(weighed(&cyrillic, &["пчела", "мёд"]).0.as_deref(), Some("koi8-r"));
        let open = encoding_rs::WINDOWS_1252.encode("Öst\nøre\n").0.into_owned();
        let (choice, evidence) = weighed(&open, &["Öst"]);
        assert!(choice.is_none() && matches!(evidence.verdict, Verdict::Undecided(_)), "{evidence}");
        // The words on which the readings differ are shown, and no others.
        let shown: Vec<&str> = evidence
            .readings
            .iter()
            .flat_map(|reading| &reading.examples)
            .map(|example| example.place.as_str())
            .collect();
        assert!(!shown.is_empty() && shown.iter().all(|place| *place == "line 2"), "{evidence}");
    }

    #[test]
    fn marks_and_zero_bytes_settle_an_encoding_and_nothing_else_does() {
        let label = |bytes: &[u8]| {
            EncodingChoice::by_first_bytes(bytes).map(|(choice, _)| (choice.label(), choice.mark))
        };
        assert_eq!(label(b"\xef\xbb\xbfab"), Some(("utf-8".into(), 3)));
        assert_eq!(label(b"\xff\xfea\0b\0"), Some(("utf-16le".into(), 2)));
        assert_eq!(label(b"a\0,\0b\0\n\0"), Some(("utf-16le".into(), 0)));
        assert_eq!(label(b"\0a\0,\0b\0\n"), Some(("utf-16be".into(), 0)));
        assert_eq!(label(b"a\0\0\0b\0\0\0"), None, "zeros in both places are no UTF-16");
        assert_eq!(label(b"a,b\n1,2\n"), None);
    }
}
