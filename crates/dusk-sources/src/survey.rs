//! The bytes of a whole file looked over once: which lines are UTF-8, which are not, and the words
//! on which encodings differ.

use std::io::Read;

use encoding_rs::Encoding;
use hashbrown::HashSet;

/// How many different words are kept.
const MOST_SAMPLES: usize = 2_000;

/// How many lines are kept whole, and how long they may be.
const MOST_LINES: usize = 400;
const LONGEST_LINE: usize = 4096;

/// How many bytes a guess is made from: it is a suggestion only, and slow.
const GUESSED_FROM: usize = 1 << 20;

/// A word with bytes outside ASCII, from a line that is not UTF-8.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Sample {
    pub(super) line: u64,
    pub(super) word: Vec<u8>,
}

/// What the bytes of a file are.
#[derive(Debug)]
pub(super) struct ByteSurvey {
    pub(super) lines: u64,
    /// Lines that hold letters outside ASCII as UTF-8; the first of them.
    pub(super) utf_8_lines: u64,
    pub(super) first_utf_8: Vec<u64>,
    /// Lines that are not UTF-8; the first of them.
    pub(super) other_lines: u64,
    pub(super) first_other: Vec<u64>,
    pub(super) samples: Vec<Sample>,
    /// Whole lines that are not UTF-8, for encodings in which half of a letter may look like a sign.
    pub(super) sample_lines: Vec<Sample>,
    /// The first line that switches to a Japanese character set, as ISO-2022-JP does in ASCII.
    pub(super) first_switch: Option<u64>,
    /// What the mixture of bytes looks most like.
    pub(super) guess: &'static Encoding,
    met: HashSet<Vec<u8>>,
    high: [bool; 256],
}

impl ByteSurvey {
    /// Reads everything.
    pub(super) fn of(mut file: impl Read) -> std::io::Result<Self> {
        let mut survey = Self {
            lines: 0,
            utf_8_lines: 0,
            first_utf_8: Vec::new(),
            other_lines: 0,
            first_other: Vec::new(),
            samples: Vec::new(),
            sample_lines: Vec::new(),
            first_switch: None,
            guess: encoding_rs::WINDOWS_1252,
            met: HashSet::new(),
            high: [false; 256],
        };
        let mut detector = chardetng::EncodingDetector::new(chardetng::Iso2022JpDetection::Allow);
        let mut fed = 0_usize;
        let mut buffer = Vec::new();
        let mut ended = false;
        while !ended {
            let kept = buffer.len();
            ended = file.by_ref().take(1 << 20).read_to_end(&mut buffer)? == 0;
            let whole = match memchr::memrchr(b'\n', &buffer) {
                _ if ended => buffer.len(),
                Some(end) => end + 1,
                // A line that long is none; what is cut in it is looked at in two pieces.
                None if kept > 8 << 20 => buffer.len(),
                None => continue,
            };
            let lines = buffer.get(..whole).unwrap_or_default();
            if survey.take(lines) && fed < GUESSED_FROM {
                detector.feed(lines, false);
                fed += lines.len();
            }
            buffer.drain(..whole);
        }
        detector.feed(b"", true);
        survey.guess = detector.guess(None, chardetng::Utf8Detection::Deny);
        Ok(survey)
    }

    /// Takes whole lines in; true when one of them is not UTF-8.
    fn take(&mut self, lines: &[u8]) -> bool {
        if self.first_switch.is_none()
            && let Some(at) = memchr::memmem::find(lines, b"\x1b$")
        {
            let before = lines.get(..at).unwrap_or_default();
            self.first_switch = Some(self.lines + 1 + memchr::memchr_iter(b'\n', before).count() as u64);
        }
        let breaks = memchr::memchr_iter(b'\n', lines).count() as u64;
        let unended = u64::from(lines.last().is_some_and(|last| *last != b'\n'));
        if lines.is_ascii() {
            self.lines += breaks + unended;
            return false;
        }
        let before = self.other_lines;
        let mut rest = lines;
        let mut line_number = self.lines;
        // Lines of plain ASCII between those that are looked at are only counted.
        while let Some(at) = first_high(rest) {
            let (ascii, from_high) = rest.split_at_checked(at).unwrap_or((rest, &[]));
            let start = memchr::memrchr(b'\n', ascii).map_or(0, |end| end + 1);
            let end = memchr::memchr(b'\n', from_high).map_or(rest.len(), |end| at + end + 1);
            let ends_before = rest.get(..start).unwrap_or_default();
            line_number += memchr::memchr_iter(b'\n', ends_before).count() as u64 + 1;
            self.take_high(line_number, rest.get(start..end).unwrap_or_default());
            rest = rest.get(end..).unwrap_or_default();
        }
        self.lines += breaks + unended;
        self.other_lines > before
    }

    /// Takes in a line that holds bytes outside ASCII.
    fn take_high(&mut self, number: u64, line: &[u8]) {
        if std::str::from_utf8(line).is_ok() {
            self.utf_8_lines += 1;
            if self.first_utf_8.len() < 8 {
                self.first_utf_8.push(number);
            }
            return;
        }
        self.other_lines += 1;
        if self.first_other.len() < 8 {
            self.first_other.push(number);
        }
        let mut rest = line;
        while let Some(at) = first_high(rest) {
            if let Some(high) = rest.get(at).and_then(|byte| self.high.get_mut(usize::from(*byte))) {
                *high = true;
            }
            rest = rest.get(at + 1..).unwrap_or_default();
        }
        if self.samples.len() < MOST_SAMPLES {
            self.sample(number, line);
        }
        if self.sample_lines.len() < MOST_LINES && line.len() <= LONGEST_LINE {
            self.sample_lines.push(Sample { line: number, word: line.to_vec() });
        }
    }

    /// Keeps the words of a line that hold letters outside ASCII, each once.
    fn sample(&mut self, number: u64, line: &[u8]) {
        let parts = |byte: &u8| byte.is_ascii() && !byte.is_ascii_alphanumeric();
        let mut rest = line;
        while let Some(at) = first_high(rest) {
            let (before, after) = rest.split_at_checked(at).unwrap_or((rest, &[]));
            let start = before.iter().rposition(parts).map_or(0, |part| part + 1);
            let end = after.iter().position(parts).map_or(rest.len(), |part| at + part);
            let word = rest.get(start..end).unwrap_or_default();
            if word.len() <= 64 && !self.met.contains(word) {
                self.met.insert(word.to_vec());
                self.samples.push(Sample { line: number, word: word.to_vec() });
            }
            rest = rest.get(end..).unwrap_or_default();
        }
    }

    /// Every byte outside ASCII that lines which are not UTF-8 hold.
    pub(super) fn high_bytes(&self) -> Vec<u8> {
        (0x80..=0xff_u8).filter(|byte| self.high.get(usize::from(*byte)).is_some_and(|high| *high)).collect()
    }
}

/// Where the first byte outside ASCII stands.
fn first_high(bytes: &[u8]) -> Option<usize> {
    const HIGH: u64 = 0x8080_8080_8080_8080;
    let (words, rest) = bytes.as_chunks::<8>();
    let in_words = words.iter().position(|word| u64::from_ne_bytes(*word) & HIGH != 0);
    let from = in_words.unwrap_or(words.len()) * 8;
    let tail = in_words.and_then(|word| words.get(word)).map_or(rest, |word| word.as_slice());
    tail.iter().position(|byte| *byte >= 0x80).map(|at| from + at)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_are_told_apart_wherever_the_pieces_end() {
        // Long enough for several pieces, with a line of each kind in every one of them.
        let mut bytes = Vec::new();
        for _ in 0..60_000 {
            bytes.extend_from_slice("plain line of text\nÖst Quay\n".as_bytes());
            bytes.extend_from_slice(b"Ch\xe2teau, caf\xe9\n");
        }
        let survey = ByteSurvey::of(bytes.as_slice()).unwrap();
        assert_eq!((survey.lines, survey.utf_8_lines, survey.other_lines), (180_000, 60_000, 60_000));
        assert_eq!((survey.first_utf_8.first(), survey.first_other.first()), (Some(&2), Some(&3)));
        let words: Vec<&[u8]> = survey.samples.iter().map(|sample| sample.word.as_slice()).collect();
        assert_eq!(words, [b"Ch\xe2teau".as_slice(), b"caf\xe9"]);
        assert_eq!(survey.high_bytes(), [0xe2, 0xe9]);
    }

    #[test]
    fn a_last_line_without_an_end_counts_and_a_cut_letter_is_no_utf_8() {
        let survey = ByteSurvey::of("a\nb".as_bytes()).unwrap();
        assert_eq!((survey.lines, survey.other_lines), (2, 0));
        let survey = ByteSurvey::of(b"a\nb\xc3".as_slice()).unwrap();
        assert_eq!((survey.lines, survey.other_lines), (2, 1));
    }
}
