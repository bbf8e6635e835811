//! Dates and their formats as dictionaries write them.

use std::iter::Peekable;
use std::str::Chars;

use jiff::civil::Date;

use super::vocabulary::{Words, meaning};
use dusk_values::{DatePattern, ValueType};

/// The Unicode pattern for a format like "DD/MM/YYYY HH:MM", and what it writes.
pub(super) fn date_format(text: &str) -> Option<(String, ValueType)> {
    let text = text.trim().trim_matches(['(', ')', '"', '\'']);
    if matches!(text.to_lowercase().as_str(), "iso" | "iso 8601" | "iso8601" | "iso date" | "iso 8601 date") {
        return Some(("yyyy-MM-dd".into(), ValueType::Date));
    }
    let bare = text.replace("'T'", "T");
    let text = bare.as_str();
    if text.contains('%') {
        return settled(&by_percent_signs(text)?);
    }
    if let Some(pattern) = in_words(text) {
        return settled(&pattern);
    }
    if let Some(pattern) = clock(text) {
        return settled(pattern);
    }
    let text = &in_english(text);
    let (mut pattern, mut hours_before, mut letters) = (String::new(), false, text.chars().peekable());
    while let Some(letter) = letters.next() {
        if !letter.is_ascii_alphabetic() {
            if !matches!(letter, '/' | '-' | '.' | ':' | ' ' | '\'') {
                return None;
            }
            pattern.push(letter);
            continue;
        }
        pattern.push_str(part(letter, &mut letters, &mut hours_before)?);
    }
    settled(&pattern)
}

/// The letters that stand for day, month, year, hours, minutes and seconds in some languages.
const LETTERS: [&str; 12] = [
    "TMJhms",
    "JMAhms",
    "GMAhms",
    "DMAhms",
    "DMJhms",
    "DMRhms",
    "DMÅtms",
    "PKVtms",
    "ДМГчмс",
    "ΗΜΕωλδ",
    "NHÉópm",
    "GAYsds",
];

/// A time alone in the letters of any language: "UU:MM", "TT:MM:SS".
fn clock(text: &str) -> Option<&'static str> {
    const HOURS: [char; 9] = ['H', 'U', 'T', 'O', 'G', 'S', 'Ó', 'Ч', 'Ω'];
    const MINUTES: [char; 5] = ['M', 'P', 'D', 'М', 'Λ'];
    let letter = |part: &str| {
        let mut letters = part.chars().flat_map(char::to_uppercase);
        let first = letters.next()?;
        (letters.next() == Some(first) && letters.next().is_none()).then_some(first)
    };
    let halves = || Some((text.get(..text.len() / 2)?, text.get(text.len() / 2..)?));
    if !text.contains(':') && text.chars().count() == 4 && text.chars().all(char::is_uppercase) {
        let (hours, minutes) = halves().map(|(hours, minutes)| (letter(hours), letter(minutes)))?;
        let is_one = HOURS.contains(&hours?) && MINUTES.contains(&minutes?);
        return is_one.then_some("HHmm");
    }
    let parts: Option<Vec<char>> = text.split(':').map(letter).collect();
    match *parts?.as_slice() {
        [hours, minutes] if HOURS.contains(&hours) && MINUTES.contains(&minutes) => Some("HH:mm"),
        [hours, minutes, seconds]
            if HOURS.contains(&hours) && MINUTES.contains(&minutes) && seconds.is_alphabetic() =>
        {
            Some("HH:mm:ss")
        }
        _ => None,
    }
}

/// A format that is written with the letters of another language, with those of English: "TT.MM.JJJJ" is "DD.MM.YYYY".
fn in_english(text: &str) -> String {
    let (date, time) = text.split_once([' ', 'T']).filter(|(date, _)| date.len() > 5).unwrap_or((text, ""));
    let upper = date.to_uppercase();
    let runs = |letters: &str| {
        let mut letters = letters.chars().take(3);
        let (Some(day), Some(month), Some(year)) = (letters.next(), letters.next(), letters.next()) else {
            return false;
        };
        let count = |wanted: char| upper.chars().filter(|c| *c == wanted).count();
        let all = upper.chars().filter(|c| c.is_alphabetic()).count();
        let counts = [count(day), count(month), count(year)];
        matches!(counts, [1 | 2, 1 | 2, 2 | 4]) && counts.iter().sum::<usize>() == all
    };
    let Some(letters) = LETTERS.iter().find(|letters| runs(letters)) else { return text.to_owned() };
    let told = |c: char, among: std::ops::Range<usize>, english: &str| {
        let same = |letter: char| letter.to_uppercase().eq(c.to_uppercase());
        let place = letters.chars().take(among.end).skip(among.start).position(same);
        place.and_then(|place| english.chars().nth(place)).unwrap_or(c)
    };
    let date: String = date.chars().map(|c| told(c, 0..3, "DMY")).collect();
    let behind = text.get(text.len() - time.len() - usize::from(!time.is_empty())..).unwrap_or_default();
    let time: String = behind.chars().map(|c| if c.is_ascii() { c } else { told(c, 3..6, "HMS") }).collect();
    date + &time
}

/// The part of a pattern that begins with `letter`; `hours_before` says that hours stand before it.
fn part(letter: char, letters: &mut Peekable<Chars<'_>>, hours_before: &mut bool) -> Option<&'static str> {
    let mut count = 1;
    let lower = letter.to_ascii_lowercase();
    while letters.next_if(|next| next.to_ascii_lowercase() == lower).is_some() {
        count += 1;
    }
    Some(match (lower, count) {
        ('d', 1) => "d",
        ('d', 2) => "dd",
        ('y', 4) => "yyyy",
        ('y', 2) => "yy",
        // The century and the year: CCYY.
        ('c', 2) => {
            letters.next_if(|next| matches!(next, 'Y' | 'y'))?;
            let _ = letters.next_if(|next| matches!(next, 'Y' | 'y'));
            "yyyy"
        }
        ('h', 1 | 2) => {
            *hours_before = true;
            if count == 2 { "HH" } else { "H" }
        }
        // MI is a minute in some databases.
        ('m', 1) if letters.next_if(|next| matches!(next, 'I' | 'i')).is_some() => "mm",
        // After hours MM are minutes, whatever their case.
        ('m', 2) if *hours_before => "mm",
        ('m', 3) => "MMM",
        ('m', 4) => "MMMM",
        ('m', 1) if matches!(letters.peek(), Some('O' | 'o')) => {
            let _ = letters.next();
            letters.next_if(|next| matches!(next, 'N' | 'n'))?;
            "MMM"
        }
        ('m', 1) => "M",
        ('m', 2) => "MM",
        ('s', 2) => "ss",
        ('t', 1) => "'T'",
        _ => return None,
    })
}

fn by_percent_signs(text: &str) -> Option<String> {
    let (mut pattern, mut letters) = (String::new(), text.chars());
    while let Some(letter) = letters.next() {
        if letter != '%' {
            match letter {
                'T' => pattern.push_str("'T'"),
                other => pattern.push(other),
            }
            continue;
        }
        pattern.push_str(match letters.next()? {
            'd' => "dd",
            'm' => "MM",
            'Y' => "yyyy",
            'y' => "yy",
            'H' => "HH",
            'M' => "mm",
            'S' => "ss",
            'b' => "MMM",
            'B' => "MMMM",
            _ => return None,
        });
    }
    Some(pattern)
}

fn settled(pattern: &str) -> Option<(String, ValueType)> {
    let parsed = DatePattern::parse(pattern).ok()?;
    let holds = match (parsed.has_date(), parsed.has_time()) {
        (true, true) => ValueType::DateTime,
        (true, false) => ValueType::Date,
        (false, true) => ValueType::Time,
        (false, false) => return None,
    };
    // A lone "M" or "d" is a word for something else.
    (pattern.len() > 3).then(|| (pattern.to_owned(), holds))
}

/// The forms in which dictionaries write an example of a day or a time, the stricter of two first.
const EXAMPLES: [&str; 18] = [
    "yyyy-MM-dd HH:mm:ss",
    "yyyy-MM-dd HH:mm",
    "yyyy-MM-dd'T'HH:mm:ss",
    "yyyy-MM-dd'T'HH:mm",
    "dd.MM.yyyy HH:mm",
    "dd/MM/yyyy HH:mm",
    "MM/dd/yyyy HH:mm",
    "yyyy-MM-dd",
    "yyyy/MM/dd",
    "yyyy.MM.dd",
    "dd.MM.yyyy",
    "dd/MM/yyyy",
    "MM/dd/yyyy",
    "dd-MM-yyyy",
    "dd-MMM-yyyy",
    "dd MMM yyyy",
    "HH:mm:ss",
    "HH:mm",
];

/// The form of the day or time that a text begins with, where it can be read in one form only.
pub(super) fn form_of_example(text: &str) -> Option<(String, ValueType)> {
    let marks = [' ', ':', '"', '\'', '(', '“', '„', '«', '‘', '`', '\u{a0}'];
    let words: Vec<&str> = text.trim_start_matches(marks).split_whitespace().take(3).collect();
    (1..=words.len()).rev().find_map(|count| {
        let example = words.get(..count)?.join(" ");
        let example = example.trim_end_matches([',', '.', ';', ')', '"', '\'', '”', '“', '»', '’', '`']);
        let reads = |form: &&&str| {
            let pattern = DatePattern::parse(form).ok();
            let within = |part: Option<i8>, most: i8| part.is_none_or(|part| (0..=most).contains(&part));
            pattern.and_then(|pattern| pattern.read(example)).is_some_and(|moment| {
                within(moment.month, 12) && within(moment.day, 31) && moment.month != Some(0)
            })
        };
        let mut forms = EXAMPLES.iter().filter(reads);
        let form = forms.next().filter(|_| forms.next().is_none())?;
        settled(form)
    })
}

/// A form in words: "year-month-day", "Tag.Monat.Jahr".
fn in_words(text: &str) -> Option<String> {
    let mark = text.chars().find(|c| matches!(c, '-' | '.' | '/'))?;
    let parts: Vec<&str> = text.split(mark).map(str::trim).collect();
    let [first, second, third] = *parts.as_slice() else { return None };
    let one = |part: &str| match meaning(Words::Day, part)? {
        "day" => Some("dd"),
        "month" => Some("MM"),
        _ => Some("yyyy"),
    };
    let parts = [one(first)?, one(second)?, one(third)?];
    let is_date = ["dd", "MM", "yyyy"].iter().all(|wanted| parts.contains(wanted));
    is_date.then(|| parts.join(&mark.to_string()))
}

/// A day that can be read in one way only, as target.toml writes it.
pub(super) fn day(text: &str) -> Option<String> {
    let text = text.trim();
    if matches!(
        text.to_lowercase().as_str(),
        "today" | "the day of the run" | "the day of the upload" | "now" | "current date"
    ) {
        return Some("today".into());
    }
    if let Ok(day) = text.parse::<Date>() {
        return Some(day.to_string());
    }
    let parts: Vec<&str> = text.split(['/', '.', '-']).collect();
    if let [a, b, year] = *parts.as_slice()
        && let (Ok(a), Ok(b), Ok(year), 4) =
            (a.parse::<i8>(), b.parse::<i8>(), year.parse::<i16>(), year.len())
    {
        // Where both parts may be a month there are two readings.
        return match (a, b) {
            (13.., _) => Date::new(year, b, a).ok(),
            (_, 13..) => Date::new(year, a, b).ok(),
            _ if a == b => Date::new(year, a, b).ok(),
            _ => None,
        }
        .map(|day| day.to_string());
    }
    let words: Vec<&str> = text.split([' ', '-', '.', ',']).filter(|word| !word.is_empty()).collect();
    let [first, month, year] = *words.as_slice() else { return None };
    let month = dusk_values::month_named(month)?;
    Date::new(year.parse().ok()?, month, first.parse().ok()?).ok().map(|day| day.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn formats_of_every_style_become_unicode_patterns() {
        for (written, pattern) in [
            ("DD/MM/YYYY", "dd/MM/yyyy"),
            ("dd.mm.yy", "dd.MM.yy"),
            ("CCYYMMDD", "yyyyMMdd"),
            ("YYYY-MM-DD HH:MM:SS", "yyyy-MM-dd HH:mm:ss"),
            ("YYYY-MM-DDTHH:MM", "yyyy-MM-dd'T'HH:mm"),
            ("DD-MON-YYYY", "dd-MMM-yyyy"),
            ("d mmmm yyyy", "d MMMM yyyy"),
            ("HH24:MI", ""),
            ("HH:MI", "HH:mm"),
            ("%d/%m/%Y", "dd/MM/yyyy"),
            ("%Y-%m-%dT%H:%M:%S", "yyyy-MM-dd'T'HH:mm:ss"),
            ("ISO 8601", "yyyy-MM-dd"),
            ("TT.MM.JJJJ", "dd.MM.yyyy"),
            ("JJ/MM/AAAA HH:MM", "dd/MM/yyyy HH:mm"),
            ("aaaa-mm-dd", "yyyy-MM-dd"),
            ("dd-mm-jjjj", "dd-MM-yyyy"),
            ("RRRR-MM-DD", "yyyy-MM-dd"),
            ("ДД.ММ.ГГГГ ЧЧ:ММ", "dd.MM.yyyy HH:mm"),
            ("year-month-day", "yyyy-MM-dd"),
            ("Tag.Monat.Jahr", "dd.MM.yyyy"),
            ("M", ""),
            ("DD/MM", ""),
            ("yes/no", ""),
            ("%q", ""),
        ] {
            let found = date_format(written).map_or(String::new(), |(pattern, _)| pattern);
            assert_eq!(found, pattern, "{written}");
        }
    }

    #[test]
    fn an_example_shows_its_form_where_it_has_one_only() {
        for (example, form) in [
            (" 2025-03-31 14:05", "yyyy-MM-dd HH:mm"),
            ("2026-04-30, nothing else", "yyyy-MM-dd"),
            ("\"31.12.2025\"", "dd.MM.yyyy"),
            ("23:59.", "HH:mm"),
            ("03/04/2025", ""),
            ("KL04B117", ""),
            ("2025-13-31", ""),
        ] {
            assert_eq!(form_of_example(example).map_or(String::new(), |(form, _)| form), form, "{example}");
        }
    }

    #[test]
    fn a_day_is_read_only_if_there_is_one_reading() {
        for (written, read) in [
            ("2026-03-04", "2026-03-04"),
            ("31/12/2024", "2024-12-31"),
            ("12/31/2024", "2024-12-31"),
            ("05.05.2025", "2025-05-05"),
            ("03/04/2025", ""),
            ("4 March 2026", "2026-03-04"),
            ("today", "today"),
            ("31/02/2025", ""),
            ("soon", ""),
        ] {
            assert_eq!(day(written).unwrap_or_default(), read, "{written}");
        }
    }
}
