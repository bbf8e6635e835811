//! Texts in many languages and every encoding: none is read wrongly without a question.

use dusk_core::evidence::Verdict;
use dusk_core::sources::{Known, Source, SourceSettings, encoding_named};

use crate::desk::{Desk, OLD_ENCODINGS};

/// What came of a text in an encoding.
enum Came {
    Read,
    Asked { first: bool, shown: bool },
}

/// Writes the words in an encoding, a few in each row, and opens the file; nothing where the encoding lacks a letter.
fn opened(words: &[&str], label: &str, of_row: usize) -> Option<Came> {
    let encoding = encoding_named(label).unwrap();
    let rows: Vec<String> = words.chunks(of_row).map(|words| words.join(" ")).collect();
    let mut text = String::from("Id,Note\n");
    rows.iter().enumerate().for_each(|(id, row)| text.push_str(&format!("{id},\"{row}\"\n")));
    let (bytes, _, lost) = encoding.encode(&text);
    if lost || std::str::from_utf8(&bytes).is_ok() && label != "iso-2022-jp" {
        return None;
    }
    let desk = Desk::new().with("export.csv", &bytes);
    let path = desk.path("export.csv");
    let Ok(source) = Source::open(&path, &SourceSettings::default(), &Known::default()) else {
        let source = Source::look(&path, &SourceSettings::default(), &Known::default()).unwrap();
        let evidence = source.evidence.first().unwrap();
        let Verdict::Undecided(readings) = &evidence.verdict else { panic!("{evidence}") };
        // The same text counts, whatever its encoding is called.
        let same = |reading: &String| {
            encoding_named(reading).is_some_and(|other| other.decode_without_bom_handling(&bytes).0 == text)
        };
        return Some(Came::Asked {
            first: readings.first().is_some_and(same),
            shown: readings.iter().any(same),
        });
    };
    let mut read = Vec::new();
    let mut walk = source.walk().unwrap();
    while let Some(mut cells) = walk.more().unwrap() {
        while let Some(row) = cells.next() {
            read.push(row.nth(1).to_owned());
        }
    }
    assert_eq!(read, rows, "{label} was taken for {}", source.encoding.label());
    Some(Came::Read)
}

#[test]
fn texts_in_many_languages_and_every_encoding_are_read_or_asked_about() {
    let (mut read, mut asked, mut first, mut shown) = (0, 0, 0, 0);
    let (mut of_few, mut of_two) = ((0, 0), (0, 0));
    let count = |came: Option<Came>, counts: &mut (u32, u32)| match came {
        Some(Came::Read) => counts.0 += 1,
        Some(Came::Asked { .. }) => counts.1 += 1,
        None => {}
    };
    let texts: Vec<(&str, Vec<&str>)> = include_str!("languages.txt")
        .lines()
        .map(|line| line.split_once(' ').unwrap())
        .map(|(language, text)| (language, text.split(' ').collect()))
        .collect();
    for (number, (language, words)) in texts.iter().enumerate() {
        let mut open = Vec::new();
        for label in OLD_ENCODINGS {
            match opened(words, label, 4) {
                Some(Came::Read) => read += 1,
                Some(Came::Asked { first: is_first, shown: is_shown }) => {
                    (asked, first, shown) =
                        (asked + 1, first + u32::from(is_first), shown + u32::from(is_shown));
                    open.push(label);
                }
                None => {}
            }
            // Of few words less is certain, and still nothing is read wrongly; nor of two languages in one file.
            words.chunks(3).for_each(|few| count(opened(few, label, 3), &mut of_few));
            for (_, others) in texts.iter().skip(number + 1).step_by(4) {
                for part in [others.len(), 6] {
                    let both: Vec<&str> = words.iter().chain(others.iter().take(part)).copied().collect();
                    count(opened(&both, label, 4), &mut of_two);
                }
            }
        }
        if !open.is_empty() {
            println!("{language}: asked in {}", open.join(", "));
        }
    }
    // Nor of many languages, a few words of each.
    let mut of_many = (0, 0);
    let all: Vec<&str> = texts.iter().flat_map(|(_, words)| words.iter().copied()).collect();
    for label in OLD_ENCODINGS {
        let encoding = encoding_named(label).unwrap();
        let can: Vec<&str> = all.iter().copied().filter(|word| !encoding.encode(word).2).collect();
        for (step, start) in [(7, 0), (11, 3), (17, 5), (23, 1), (41, 2)] {
            let some: Vec<&str> = can.iter().skip(start).step_by(step).copied().collect();
            some.chunks(12).for_each(|part| count(opened(part, label, 4), &mut of_many));
        }
    }
    println!("of many languages: {of_many:?}");
    println!(
        "{read} read, {asked} asked about: {first} with the right one first, {shown} with it among those shown"
    );
    println!("of three words: {of_few:?} read and asked about, of two languages: {of_two:?}");
    assert!(read * 3 > asked * 2 && shown * 100 > asked * 95, "{read} read, {asked} asked, {shown} shown");
}

#[test]
fn no_text_of_any_language_is_taken_for_another_encoding_than_the_one_named() {
    let mut denied = 0;
    for line in include_str!("languages.txt").lines() {
        let (language, text) = line.split_once(' ').unwrap();
        let rows: String = text.split(' ').map(|word| format!("{word},1\n")).collect();
        let text = format!("Word,Count\n{rows}");
        for label in OLD_ENCODINGS {
            let encoding = encoding_named(label).unwrap();
            let settings = SourceSettings { encoding: Some(encoding), ..SourceSettings::default() };
            let open = |bytes: &[u8]| {
                let desk = Desk::new().with("export.csv", bytes);
                Source::open(&desk.path("export.csv"), &settings, &Known::default()).map(|_| ())
            };
            let (bytes, _, lost) = encoding.encode(&text);
            if !lost {
                assert!(open(&bytes).is_ok(), "{language} in {label}");
            }
            // The same words in UTF-8 deny what is named, where there are enough of them.
            let letters = text.chars().filter(|c| !c.is_ascii()).count();
            let is_denied = open(text.as_bytes()).is_err();
            assert!(is_denied || letters <= 20 || label == "utf-16le", "{language} in UTF-8, named {label}");
            denied += u32::from(is_denied);
        }
    }
    assert!(denied > 300, "{denied}");
}
