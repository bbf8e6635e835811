//! Dates and times that always have the same width, as ISO 8601 has them: digits put into a row of bytes.

use jiff::civil::DateTime;

use crate::pattern_piece::{Part, Piece};

/// The longest form that is written so, in bytes.
const LONGEST: usize = 32;

/// A form in which every part has so many digits, and what stands between them is ASCII.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct FixedForm {
    /// The form with what stands between its parts.
    bytes: [u8; LONGEST],
    length: usize,
    /// Each part and where it begins.
    parts: Vec<(Part, usize)>,
}

impl FixedForm {
    /// Of the pieces of a pattern; nothing where one of them can have several widths.
    pub(crate) fn of(pieces: &[Piece]) -> Option<Self> {
        let mut form = Self { bytes: [b'0'; LONGEST], length: 0, parts: Vec::new() };
        for piece in pieces {
            match piece {
                Piece::Text(text) if text.is_ascii() => {
                    let end = form.length + text.len();
                    form.bytes.get_mut(form.length..end)?.copy_from_slice(text.as_bytes());
                    form.length = end;
                }
                Piece::Text(_) => return None,
                Piece::Part(part) => {
                    form.parts.push((*part, form.length));
                    form.length += width(*part)?;
                }
            }
        }
        (form.length <= LONGEST).then_some(form)
    }

    /// Writes a moment; false, and nothing written, for a year that does not have the width.
    pub(crate) fn write(&self, moment: DateTime, out: &mut String) -> bool {
        let mut bytes = self.bytes;
        for (part, at) in &self.parts {
            let small = |number: i8| i32::from(number);
            let number = match part {
                Part::Year(_) => i32::from(moment.year()),
                Part::Month(_) => small(moment.month()),
                Part::Day(_) => small(moment.day()),
                Part::Hour(..) => small(moment.hour()),
                Part::Minute(_) => small(moment.minute()),
                _ => small(moment.second()),
            };
            let digit = |number: u32| b'0' + (number % 10) as u8;
            let Ok(number @ 0..=9_999) = u32::try_from(number) else { return false };
            let two = |number: u32| [digit(number / 10), digit(number)];
            let (at, number) = match part {
                Part::Year(_) => {
                    if let Some(space) = bytes.get_mut(*at..at + 2) {
                        space.copy_from_slice(&two(number / 100));
                    }
                    (at + 2, number % 100)
                }
                _ => (*at, number),
            };
            if let Some(space) = bytes.get_mut(at..at + 2) {
                space.copy_from_slice(&two(number));
            }
        }
        let text = bytes.get(..self.length).and_then(|bytes| std::str::from_utf8(bytes).ok());
        out.push_str(text.unwrap_or_default());
        text.is_some()
    }
}

/// How many digits a part always has; nothing where it varies, or is a name.
fn width(part: Part) -> Option<usize> {
    match part {
        Part::Year(4) => Some(4),
        Part::Month(2) | Part::Day(2) | Part::Hour(2, 0, 24) | Part::Minute(2) | Part::Second(2) => Some(2),
        _ => None,
    }
}
