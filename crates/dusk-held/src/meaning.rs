//! What a value says, however it is written.
//!
//! Values are compared as the target writes them, so that dates, codes and true or false say the same only where they
//! look the same. What may look otherwise are numbers (3.0 is 3), lists of codes (whatever their order) and the ends of
//! lines in a text.

use std::borrow::Cow;

use dusk_description::FieldType;
use dusk_values::{Decimal, fold, is_digits};
use xxhash_rust::xxh3::xxh3_64;

/// What a value says, in one form for all that say the same.
fn meaning<'t>(kind: &FieldType, text: &'t str) -> Cow<'t, str> {
    match kind {
        FieldType::Number(_) if is_short(text) => Cow::Borrowed(text),
        FieldType::Number(_) => match Decimal::parse(text) {
            Some(number) => Cow::Owned(plain(&number.to_string())),
            None => Cow::Borrowed(text),
        },
        FieldType::Codes(codes) => {
            let mut codes = codes.layout.codes_of(text);
            codes.sort_unstable();
            codes.dedup();
            Cow::Owned(codes.join("|"))
        }
        _ if text.contains('\r') => Cow::Owned(text.replace("\r\n", "\n").replace('\r', "\n")),
        _ => Cow::Borrowed(text),
    }
}

/// Whether a number is in its shortest form already, as most are: digits without zeros before or behind them.
fn is_short(text: &str) -> bool {
    let bytes = text.as_bytes();
    let (whole, decimals) = match bytes.iter().position(|byte| *byte == b'.') {
        Some(mark) => bytes.split_at(mark),
        None => (bytes, &b".1"[..]),
    };
    let all_digits = |digits: &[u8]| !digits.is_empty() && digits.iter().all(u8::is_ascii_digit);
    let is_whole = all_digits(whole) && (whole == b"0" || !whole.starts_with(b"0"));
    is_whole && all_digits(decimals.get(1..).unwrap_or_default()) && !decimals.ends_with(b"0")
}

/// A number without zeros that say nothing, and without a sign where it is zero.
fn plain(number: &str) -> String {
    let short = match number.contains('.') {
        true => number.trim_end_matches('0').trim_end_matches('.'),
        false => number,
    };
    if matches!(short, "-0" | "") { "0".to_owned() } else { short.to_owned() }
}

/// Whether two values of a field say the same.
///
/// ```
/// # use dusk_description::{FieldType, TextType};
/// # use dusk_held::means_the_same;
/// let text = FieldType::Text(TextType::default());
/// assert!(means_the_same(&text, "two\r\nlines", "two\nlines"));
/// assert!(!means_the_same(&text, "Two lines", "two lines"));
/// ```
pub fn means_the_same(kind: &FieldType, one: &str, other: &str) -> bool {
    one == other || meaning(kind, one) == meaning(kind, other)
}

/// Appends a part of a key as records are found again by it: case, blanks, and zeros before digits do not count.
pub(crate) fn push_key_word(kind: &FieldType, text: &str, out: &mut String) {
    let said = meaning(kind, text);
    if said.bytes().all(|byte| byte.is_ascii_graphic()) {
        let start = out.len();
        out.push_str(without_zeros(&said));
        if let Some(word) = out.get_mut(start..) {
            word.make_ascii_lowercase();
        }
    } else {
        out.push_str(without_zeros(&fold(&said)));
    }
}

/// Digits without zeros before them; any other word as it is.
fn without_zeros(word: &str) -> &str {
    if !word.starts_with('0') || !is_digits(word) {
        return word;
    }
    let digits = word.trim_start_matches('0');
    if digits.is_empty() { "0" } else { digits }
}

/// What ends a field among those that are hashed: a byte that no text has.
const NEXT: u8 = 0xff;

/// The hash of what a record says in some fields.
#[derive(Debug, Default)]
pub struct Facts(Vec<u8>);

impl Facts {
    /// Takes in what the next field says.
    pub fn add(&mut self, kind: &FieldType, text: &str) {
        self.0.extend_from_slice(meaning(kind, text).as_bytes());
        self.0.push(NEXT);
    }

    /// The hash of all fields.
    pub fn hash(&self) -> u64 {
        xxh3_64(&self.0)
    }

    /// Begins with the next record.
    pub fn clear(&mut self) {
        self.0.clear();
    }
}
