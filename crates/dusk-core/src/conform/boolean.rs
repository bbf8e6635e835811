//! Words for true and false.

use super::{Step, Trail};
use crate::finding::{Fault, Kind};
use crate::target::fold;

/// Words that are read where the mapping names none.
const USUAL: [(&str, &str); 4] = [("yes", "no"), ("true", "false"), ("y", "n"), ("1", "0")];

/// Reads a word and gives the target's; `named` are the mapping's words, `wanted` the target's.
pub(super) fn conform<'w>(
    text: &str,
    named: Option<&(String, String)>,
    wanted: (&'w str, &'w str),
    trail: &mut Trail,
) -> Result<(&'w str, bool), Fault> {
    let folded = fold(text);
    let pairs: Vec<(&str, &str)> = match named {
        Some((yes, no)) => vec![(yes, no)],
        None => std::iter::once(wanted).chain(USUAL.into_iter().filter(|pair| *pair != wanted)).collect(),
    };
    for (yes, no) in &pairs {
        for (word, meaning, result) in [(yes, true, wanted.0), (no, false, wanted.1)] {
            if fold(word) == folded {
                if text != result {
                    let meaning = if meaning { "true" } else { "false" };
                    trail.took(Step::Boolean, result, || format!("\"{text}\" means {meaning}"));
                }
                return Ok((result, meaning));
            }
        }
    }
    let known: Vec<String> = pairs.iter().map(|(yes, no)| format!("{yes}/{no}")).collect();
    Err(Fault::new(
        Kind::NotABoolean,
        "is not a word for true or false",
        format!("one of {}; other words go into the mapping, as words = \"x/-\"", known.join(", ")),
    ))
}
