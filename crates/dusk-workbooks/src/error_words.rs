//! What spreadsheet programs write into a cell whose formula gave no value, in the languages that they speak.

/// The words, as they are written into delimited text.
const WORDS: [&str; 121] = [
    // English, and what is the same in most languages.
    "#N/A",
    "#REF!",
    "#VALUE!",
    "#DIV/0!",
    "#NAME?",
    "#NULL!",
    "#NUM!",
    "#GETTING_DATA",
    "#SPILL!",
    "#CALC!",
    "#FIELD!",
    "#BLOCKED!",
    "#UNKNOWN!",
    "#CONNECT!",
    "#BUSY!",
    "#EXTERNAL!",
    "#PYTHON!",
    "#TIMEOUT!",
    "#ERROR!",
    // German.
    "#NV",
    "#BEZUG!",
    "#WERT!",
    "#ZAHL!",
    "#ÜBERLAUF!",
    "#KALK!",
    "#FELD!",
    "#BLOCKIERT!",
    "#UNBEKANNT!",
    // French.
    "#VALEUR!",
    "#NOM?",
    "#NUL!",
    "#NOMBRE!",
    "#PROPAGATION!",
    "#EPARS!",
    "#ÉPARS!",
    "#CHAMP!",
    "#BLOQUÉ!",
    "#INCONNU!",
    // Spanish.
    "#N/D",
    "#¡REF!",
    "#¡VALOR!",
    "#¡DIV/0!",
    "#¿NOMBRE?",
    "#¡NULO!",
    "#¡NUM!",
    "#¡DESBORDAMIENTO!",
    "#¡CALC!",
    "#¡CAMPO!",
    // Portuguese.
    "#VALOR!",
    "#NOME?",
    "#NULO!",
    "#NÚM!",
    "#DESPEJAR!",
    "#DERRAME!",
    "#CAMPO!",
    // Italian.
    "#RIF!",
    "#VALORE!",
    "#NULLO!",
    "#ESPANSIONE!",
    // Dutch.
    "#N/B",
    "#VERW!",
    "#WAARDE!",
    "#DEEL/0!",
    "#NAAM?",
    "#LEEG!",
    "#GETAL!",
    "#OVERLOOP!",
    "#BEREKEN!",
    "#VELD!",
    // Danish, Norwegian, Swedish, Finnish.
    "#I/T",
    "#REFERENCE!",
    "#VÆRDI!",
    "#DIVISION/0!",
    "#NAVN?",
    "#OVERLØB!",
    "#VERDI!",
    "#OVERFLYT!",
    "#SAKNAS!",
    "#REFERENS!",
    "#VÄRDEFEL!",
    "#NAMN?",
    "#SKÄRNING!",
    "#OGILTIGT!",
    "#PUUTTUU!",
    "#PUUTTUU",
    "#VIITTAUS!",
    "#ARVO!",
    "#JAKO/0!",
    "#NIMI?",
    "#TYHJÄ!",
    "#LUKU!",
    // Polish, Czech, Slovak, Hungarian, Slovenian.
    "#N/D!",
    "#ADR!",
    "#ARG!",
    "#DZIEL/0!",
    "#NAZWA?",
    "#ZERO!",
    "#LICZBA!",
    "#ROZLANIE!",
    "#NENÍ_K_DISPOZICI",
    "#ODKAZ!",
    "#HODNOTA!",
    "#DĚLENÍ_NULOU!",
    "#NÁZEV?",
    "#ČÍSLO!",
    "#PŘESAH!",
    "#NEDOSTUPNÝ",
    "#NÁZOV?",
    "#HIÁNYZIK",
    "#HIV!",
    "#ÉRTÉK!",
    "#ZÉRÓOSZTÓ!",
    "#NÉV?",
    "#NULLA!",
    "#SZÁM!",
    "#N/V",
    "#SKLIC!",
    "#VREDN!",
    "#IME?",
    // Turkish.
    "#YOK",
    "#BAŞV!",
];

/// Those in other alphabets, and the rest of Turkish.
const MORE: [&str; 12] = [
    "#DEĞER!",
    "#SAYI/0!",
    "#AD?",
    "#BOŞ!",
    "#SAYI!",
    "#Н/Д",
    "#ССЫЛКА!",
    "#ЗНАЧ!",
    "#ДЕЛ/0!",
    "#ИМЯ?",
    "#ПУСТО!",
    "#ЧИСЛО!",
];

/// What stands before the number of an error: `Err:508`.
const NUMBERED: [&str; 8] = ["Err", "Error", "Fehler", "Erreur", "Fout", "Erro", "Chyba", "Virhe"];

/// Whether a text is what such a program writes instead of a value: one of the words, an error's number (501 to 533), or
/// a cell too narrow to be shown.
pub(crate) fn is_error(text: &str) -> bool {
    let text = text.trim();
    if text.starts_with('#') {
        let too_narrow = text.len() >= 3 && text.bytes().all(|byte| byte == b'#');
        return too_narrow || WORDS.contains(&text) || MORE.contains(&text);
    }
    // Most texts are longer, or have no such number.
    if text.len() > 12 || !text.ends_with(|c: char| c.is_ascii_digit()) {
        return false;
    }
    let Some((word, number)) = text.split_once(':') else { return false };
    let in_range = number.len() == 3 && number.parse().is_ok_and(|number: u16| (501..=533).contains(&number));
    in_range && NUMBERED.iter().any(|known| known.eq_ignore_ascii_case(word))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn errors_of_all_languages_are_known_and_other_texts_are_none() {
        for text in [
            "#REF!", "#WAARDE!", "#RIF!", "#ARG!", "#CALC!", "Err:508", "err:502", "#####", " #N/A ", "#Н/Д",
            "#YOK",
        ] {
            assert!(is_error(text), "{text}");
        }
        for text in ["#1", "##", "#WOW!", "Err:600", "Err:50", "10:508", "Ferr:508", "#", "", "a # b"] {
            assert!(!is_error(text), "{text}");
        }
    }
}
