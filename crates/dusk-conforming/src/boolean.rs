//! Words for true and false.

use super::{Basis, Trail};
use dusk_description::fold;
use dusk_evidence::{CodeFact, Fault};

/// Words that are read where the mapping names none.
const USUAL: [(&str, &str); 4] = [("yes", "no"), ("true", "false"), ("y", "n"), ("1", "0")];

/// Reads a word and gives the target's. `only` are the words for true and false that are read and
/// no others; without them it is the target's, `wanted`, and the usual ones. A word is not read
/// when it means both: where the target's words are 0/1, a source's "1" could be either.
pub(super) fn conform<'w>(
    text: &str,
    only: Option<(&str, &str)>,
    wanted: (&'w str, &'w str),
    trail: &mut Trail,
) -> Result<(&'w str, bool), Fault> {
    let folded = fold(text);
    let pairs = words_for(only, wanted);
    let means = |same: &dyn Fn(&str) -> bool| {
        (pairs.iter().any(|(yes, _)| same(yes)), pairs.iter().any(|(_, no)| same(no)))
    };
    let loosely = || means(&|word| fold(word) == folded);
    // Where two words that somebody named differ by their case alone, the exact spelling counts.
    let meaning = match only.map(|_| means(&|word| word == text)) {
        None | Some((false, false)) => loosely(),
        Some(exact) => exact,
    };
    let (result, value) = match meaning {
        (true, false) => (wanted.0, true),
        (false, true) => (wanted.1, false),
        (true, true) => return Err(Fault::new(CodeFact::BooleanUndecided)),
        (false, false) => return Err(unknown(&pairs)),
    };
    if text != result {
        trail.took(result, || Basis::Means { word: text.to_owned(), value });
    }
    Ok((result, value))
}

/// The pairs of words for true and false: those that somebody named, or the target's and the usual ones.
fn words_for<'w>(only: Option<(&'w str, &'w str)>, wanted: (&'w str, &'w str)) -> Vec<(&'w str, &'w str)> {
    match only {
        Some(only) => vec![only],
        None => std::iter::once(wanted).chain(USUAL.into_iter().filter(|pair| *pair != wanted)).collect(),
    }
}

fn unknown(pairs: &[(&str, &str)]) -> Fault {
    Fault::new(CodeFact::NotABoolean { known: pairs.iter().map(|(yes, no)| format!("{yes}/{no}")).collect() })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str, only: Option<(&str, &str)>, wanted: (&str, &str)) -> Option<bool> {
        conform(text, only, wanted, &mut Trail::default()).ok().map(|(_, value)| value)
    }

    #[test]
    fn a_word_that_could_mean_both_is_not_read() {
        assert_eq!(read("1", None, ("1", "0")), Some(true));
        assert_eq!(read("1", None, ("0", "1")), None);
        assert_eq!(read("1", Some(("0", "1")), ("0", "1")), Some(false));
        assert_eq!(read("n", None, ("N", "J")), None);
        assert_eq!(read("x", Some(("x", "X")), ("1", "0")), Some(true));
        assert_eq!(read("X", Some(("x", "X")), ("1", "0")), Some(false));
        assert_eq!(read(" YES", None, ("1", "0")), Some(true));
        assert_eq!(read("maybe", None, ("1", "0")), None);
    }
}
