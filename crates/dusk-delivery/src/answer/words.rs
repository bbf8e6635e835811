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
