//! The made-up export of a sound archive: text as people write it, so that hardly a title, a note or a file name
//! is there twice. The same number of rows makes the same bytes.

use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::Path;

const COLUMNS: &str = "Recording No,File,Title,Notes,Speaker,Collected by,Recorded,Catalogued,Kind,Language,Length (min),Size,Latitude,Longitude,Open,Shelf\r\n";
const FIRST: [&str; 20] = [
    "Ada", "Bertil", "Cécile", "Dorothea", "Émile", "Finn", "Greta", "Håkan", "Inês", "Jörg", "Kirsten",
    "Luz", "María", "Nuala", "Odd", "Pía", "Quentin", "Renée", "Søren", "Thea",
];
const LAST: [&str; 25] = [
    "Ashdown",
    "Bäck",
    "Cornwell",
    "Dunmore",
    "Eriksdotter",
    "Fenn",
    "Garnier",
    "Hollis",
    "Iversen",
    "Jansson",
    "Knott",
    "Larkin",
    "Müller",
    "Nyström",
    "O'Dell",
    "Pereira",
    "Quill",
    "Rådberg",
    "Sallow",
    "Thorne",
    "Underhay",
    "Vance",
    "Weir",
    "Yarrow",
    "Zeller",
];
const PLAIN: [&str; 40] = [
    "a", "the", "of", "and", "in", "with", "from", "song", "about", "harvest", "river", "old", "mill", "two",
    "brothers", "wedding", "verse", "second", "voice", "heard", "at", "winter", "fair", "sung", "by",
    "children", "when", "boats", "came", "home", "tape", "noise", "begins", "late", "fiddle", "under", "see",
    "also", "part", "door",
];
const ACCENTED: [&str; 20] = [
    "café",
    "fête",
    "Öst",
    "für",
    "mañana",
    "São",
    "garçon",
    "naïve",
    "über",
    "år",
    "smörgås",
    "château",
    "coração",
    "fjäll",
    "señora",
    "Ærø",
    "vögel",
    "très",
    "può",
    "blå",
];
const KINDS: [&str; 10] = [
    "Song",
    "Tale",
    "Conversation",
    "Rhyme",
    "Dance tune",
    "Prayer",
    "Street call",
    "Work song",
    "Lullaby",
    "Joke",
];
const LANGUAGES: [&str; 5] = ["Fenmarrow", "Hollow Vale", "Cray Weald", "Outer Islands", "Several"];

/// A small generator of numbers (SplitMix64), so that the data does not depend on a library.
struct Numbers(u64);

impl Numbers {
    fn below(&mut self, most: u64) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        (mixed ^ (mixed >> 31)) % most
    }

    fn pick<'a>(&mut self, from: &[&'a str]) -> &'a str {
        from[self.below(from.len() as u64) as usize]
    }

    /// Words up to about so many bytes; some have accents where they are wanted.
    fn words(&mut self, length: usize, accented: bool) -> String {
        let mut text = String::new();
        while text.len() < length {
            let word = if accented && self.below(8) == 0 { self.pick(&ACCENTED) } else { self.pick(&PLAIN) };
            if !text.is_empty() {
                text.push(' ');
            }
            text.push_str(word);
        }
        text
    }
}

/// Writes so many records, in Windows-1252.
pub(crate) fn write(path: &Path, rows: u64) {
    let mut file = BufWriter::new(File::create(path).unwrap());
    let mut text = COLUMNS.to_owned();
    for index in 0..rows {
        let cells = record(index, &mut Numbers(index.wrapping_mul(0xA076_1D64_78BD_642F)));
        let cells: Vec<String> = cells.iter().map(|cell| quoted(cell)).collect();
        text.push_str(&cells.join(","));
        text.push_str("\r\n");
        if text.len() > 1 << 16 || index + 1 == rows {
            // Its letters are those of Latin-1, which Windows-1252 has at the same places.
            let bytes: Vec<u8> =
                text.chars().map(|letter| u8::try_from(u32::from(letter)).unwrap()).collect();
            file.write_all(&bytes).unwrap();
            text.clear();
        }
    }
    file.flush().unwrap();
}

/// One of ten thousand names.
fn name(number: u64) -> String {
    let (first, rest) = (number % 20, number / 20);
    let (last, initial) = (rest % 25, rest / 25 % 20);
    format!("{} {}. {}", FIRST[first as usize], char::from(b'A' + initial as u8), LAST[last as usize])
}

fn record(index: u64, numbers: &mut Numbers) -> Vec<String> {
    let accented = numbers.below(3) == 0;
    let mut title = numbers.words(10 + length_of(index, 20), accented);
    // Short ones are more than long ones.
    let length = length_of(index, 160).min(length_of(index + 17, 160));
    let mut notes = numbers.words(20 + length, accented);
    match numbers.below(25) {
        0 => notes = notes.replacen(" the ", "\nthe ", 2),
        1 => notes = notes.replacen(" and ", " \"and\" ", 1),
        2 => title.push(' '),
        3 => notes = format!("{notes}, {}", numbers.below(1000)),
        _ => {}
    }
    let (year, month, day) = (1960 + numbers.below(60), 1 + numbers.below(12), 1 + numbers.below(28));
    let kind = numbers.pick(&KINDS);
    let mut cells = vec![
        format!("REC-{:08}", index + 1),
        format!(
            "{year}/{}-{:06x}-{}.wav",
            kind.to_lowercase().replace(' ', "_"),
            index * 7919 % 0xff_ffff,
            index
        ),
        title,
        notes,
        name(numbers.below(10_000)),
        name(numbers.below(10_000)),
        format!("{day:02}/{month:02}/{year}"),
        format!(
            "2025-{:02}-{:02}T{:02}:{:02}:{:02}",
            1 + numbers.below(12),
            1 + numbers.below(28),
            8 + numbers.below(10),
            numbers.below(60),
            numbers.below(60)
        ),
        kind.to_owned(),
        numbers.pick(&LANGUAGES).to_owned(),
        format!("{}.{:02}", numbers.below(90), 1 + numbers.below(99)),
        (100_000 + numbers.below(900_000_000)).to_string(),
        format!("{}.{:05}", 50 + numbers.below(9), numbers.below(100_000)),
        format!("-{}.{:05}", numbers.below(8), numbers.below(100_000)),
        numbers.pick(&["yes", "no"]).to_owned(),
        (1 + numbers.below(40_000)).to_string(),
    ];
    if numbers.below(1000) < 20 {
        spoil(&mut cells, index, numbers);
    }
    cells
}

/// A length that depends on the record alone.
fn length_of(index: u64, most: u64) -> usize {
    (index.wrapping_mul(2_654_435_761) >> 7) as usize % most as usize
}

/// Puts one fault into a record.
fn spoil(cells: &mut Vec<String>, index: u64, numbers: &mut Numbers) {
    match numbers.below(10) {
        0 => cells[0] = format!("REC-{:08}", index.saturating_sub(1)),
        1 => cells[0] = format!("REC{index}"),
        2 => cells[6] = "31/02/1987".into(),
        3 => cells[6] = "summer".into(),
        4 => cells[8] = numbers.words(8, false),
        5 => cells[9] = "Elsewhere".into(),
        6 => cells[10] = "about ten".into(),
        7 => cells[12] = "512.5".into(),
        8 => cells[2] = String::new(),
        _ => cells.push("more".into()),
    }
}

fn quoted(cell: &str) -> String {
    if cell.contains([',', '"', '\n']) {
        format!("\"{}\"", cell.replace('"', "\"\""))
    } else {
        cell.to_owned()
    }
}
