//! What the words of targets say of how it went, in the languages of forms and systems.

use dusk_description::AnswerOutcome;

/// Words that turn another into its opposite.
const NOT: &str = "not no nicht non pas nao niet ikke inte nie un ei";

/// Beginnings of words for what is in.
const IN: &str = "ok load accept success succe import insert creat updat done pass valid added stored erfolg gelad \
    übernomm angelegt akzept charg réuss créé acept carg corre geaccept verwerkt carica accett \
    carreg aceit godta lasse indlæs laddad inläst godk załad przyj hyväks ladat uspe";

/// Beginnings of words for what is refused.
const OUT: &str = "err nok ko refus reject fail invalid denied declin bad fehler abgelehnt zurückgew ungült erreur \
    rejet échec échou rechaz fall inválid fout geweiger afgew ongeldig error rifiut respint scart \
    erro rejeit recus feil avvist fejl afvist fel avvis błąd virhe";

/// Beginnings of words for warnings.
const WARN: &str = "warn notice hinweis avert advert aviso waarsch avvert alert advarsel varning ostrze varoit \
    caution";

/// What a word says of how it went; nothing where it says neither, or both.
pub(super) fn meaning(word: &str) -> Option<AnswerOutcome> {
    let word = word.to_lowercase();
    let tokens = || word.split(|letter: char| !letter.is_alphanumeric()).filter(|token| !token.is_empty());
    let begins =
        |stems: &str| tokens().any(|token| stems.split_whitespace().any(|stem| token.starts_with(stem)));
    let negated = tokens().any(|token| NOT.split_whitespace().any(|not| not == token))
        || word.starts_with("un") && word.contains("load");
    match (begins(IN), begins(OUT), begins(WARN)) {
        (_, false, true) => Some(AnswerOutcome::Warned),
        (true, false, false) if negated => Some(AnswerOutcome::Refused),
        (true, false, false) => Some(AnswerOutcome::Loaded),
        (false, true, false) if !negated => Some(AnswerOutcome::Refused),
        _ => None,
    }
}

/// Whether a heading, or the words before a number, say that it is that of a line.
pub(super) fn says_line(text: &str) -> bool {
    const LINE: &str = "line zeile ligne línea linea linha riga regel rivi wiersz linje rad";
    has_word(text, LINE)
}

/// The same for the number of a record.
pub(super) fn says_record(text: &str) -> bool {
    const RECORD: &str = "record rec datensatz enregistrement registro seq sequence index post tietue rekord";
    has_word(text, RECORD)
}

fn has_word(text: &str, words: &str) -> bool {
    let text = text.to_lowercase();
    // As "lineNumber" is written in programs.
    let mut tokens = text.split(|letter: char| !letter.is_alphanumeric());
    tokens.any(|token| {
        words.split(' ').any(|word| token == word || token.strip_prefix(word).is_some_and(is_number_word))
    })
}

fn is_number_word(rest: &str) -> bool {
    ["s", "n", "no", "nr", "num", "number", "nummer", "id", "e", "en"].contains(&rest)
        || rest.bytes().all(|byte| byte.is_ascii_digit())
}

/// What a word says under a heading that says how it went, as "true" under "success", or 422 under "HTTP status".
pub(super) fn by_heading(word: &str, heading: &str) -> Option<AnswerOutcome> {
    if heading.to_lowercase().contains("http") {
        // The classes of status codes (RFC 9110, section 15).
        return match word.trim().parse::<u16>().ok()? {
            200..=299 => Some(AnswerOutcome::Loaded),
            400..=599 => Some(AnswerOutcome::Refused),
            _ => None,
        };
    }
    yes_or_no(word, meaning(heading))
}

fn yes_or_no(word: &str, heading: Option<AnswerOutcome>) -> Option<AnswerOutcome> {
    const YES: [&str; 12] = ["true", "yes", "y", "1", "ja", "j", "oui", "si", "sí", "sim", "tak", "x"];
    const NO: [&str; 10] = ["false", "no", "n", "0", "nein", "non", "nee", "não", "nej", "nie"];
    let word = word.trim().to_lowercase();
    let is_yes = if YES.contains(&word.as_str()) {
        true
    } else if NO.contains(&word.as_str()) {
        false
    } else {
        return None;
    };
    match (heading?, is_yes) {
        (AnswerOutcome::Loaded, true) | (AnswerOutcome::Refused, false) => Some(AnswerOutcome::Loaded),
        (AnswerOutcome::Loaded, false) | (AnswerOutcome::Refused, true) => Some(AnswerOutcome::Refused),
        // That there is no warning does not say that it is in.
        (AnswerOutcome::Warned, _) => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_of_other_languages_say_how_it_went() {
        for (word, outcome) in [
            ("OK", Some(AnswerOutcome::Loaded)),
            ("geladen", Some(AnswerOutcome::Loaded)),
            ("nicht geladen", Some(AnswerOutcome::Refused)),
            ("not_loaded", Some(AnswerOutcome::Refused)),
            ("Avertissement", Some(AnswerOutcome::Warned)),
            ("loaded with warnings", Some(AnswerOutcome::Warned)),
            ("Rechazado", Some(AnswerOutcome::Refused)),
            ("no error", None),
            ("NOK", Some(AnswerOutcome::Refused)),
            ("OK with warning", Some(AnswerOutcome::Warned)),
            ("PENDING", None),
        ] {
            assert_eq!(meaning(word), outcome, "{word}");
        }
    }
}
