//! The shape of a value: its letters as `a` and `A`, its digits as `9`, all else as it stands.

use dusk_values::ShortText;

/// The longest shape that is told from others, in bytes.
const LONGEST: usize = 23;

/// The shape of a value; nothing for a long one. A run of letters is one letter (`Aa` for a word
/// that begins with a capital), every digit counts.
pub fn shape_of(value: &str) -> Option<ShortText> {
    if value.is_ascii() {
        return ascii_shape(value.as_bytes());
    }
    let mut shape = [0_u8; LONGEST + 1];
    let mut length = 0;
    let mut last = 0;
    let mut push = |bytes: &[u8]| {
        let space = shape.get_mut(length..length + bytes.len())?;
        space.copy_from_slice(bytes);
        length += bytes.len();
        (length <= LONGEST).then_some(())
    };
    for c in value.chars() {
        let class = match c {
            '0'..='9' => b'9',
            'a'..='z' => b'a',
            'A'..='Z' => b'A',
            c if c.is_ascii() => 0,
            c if c.is_uppercase() => b'A',
            c if c.is_alphabetic() => b'a',
            _ => 0,
        };
        match class {
            0 => {
                let mut letter = [0; 4];
                push(c.encode_utf8(&mut letter).as_bytes())?;
            }
            b'9' => push(b"9")?,
            class if class == last => {}
            class => push(&[class])?,
        }
        last = class;
    }
    ShortText::within(shape.as_slice(), 0, length)
}

/// Whether two values can be told to have the same shape letter by letter: false says nothing.
#[inline]
pub fn have_one_shape(one: &str, other: &str) -> bool {
    let class = |byte: u8| match byte {
        b'0'..=b'9' => b'9',
        b'a'..=b'z' => b'a',
        b'A'..=b'Z' => b'A',
        // Of letters outside ASCII the bytes do not tell whether they are capitals.
        other => other,
    };
    one.len() == other.len() && one.bytes().zip(other.bytes()).all(|(one, other)| class(one) == class(other))
}

/// The same for what has no letters outside ASCII.
fn ascii_shape(value: &[u8]) -> Option<ShortText> {
    #[expect(clippy::indexing_slicing, reason = "it is worked out when the program is built")]
    const CLASSES: [u8; 256] = {
        let mut classes = [0; 256];
        let mut byte = 0;
        while byte < 256 {
            classes[byte] = match byte as u8 {
                b'0'..=b'9' => b'9',
                b'a'..=b'z' => b'a',
                b'A'..=b'Z' => b'A',
                other => other,
            };
            byte += 1;
        }
        classes
    };
    let mut shape = [0_u8; LONGEST + 1];
    let mut length = 0;
    let mut last = 0;
    for byte in value {
        let class = CLASSES.get(usize::from(*byte)).copied().unwrap_or(*byte);
        if class != last || !matches!(class, b'a' | b'A') {
            *shape.get_mut(length).filter(|_| length < LONGEST)? = class;
            length += 1;
        }
        last = class;
    }
    ShortText::within(shape.as_slice(), 0, length)
}

#[cfg(test)]
mod tests {
    use super::shape_of;

    #[test]
    fn shapes_keep_digits_and_marks_and_sum_up_letters() {
        let shape = |value: &str| shape_of(value).map(|shape| shape.to_text());
        assert_eq!(shape("25/03/2026").as_deref(), Some("99/99/9999"));
        assert_eq!(shape("Öst Quay").as_deref(), Some("Aa Aa"));
        assert_eq!(shape("MAR5-x").as_deref(), Some("A9-a"));
        assert_eq!(shape("1,204.5 lb").as_deref(), Some("9,999.9 a"));
        assert_eq!(shape("no. 1 and no. 2 and no. 3 and no. 4"), None);
        assert_eq!(shape("").as_deref(), Some(""));
    }
}
