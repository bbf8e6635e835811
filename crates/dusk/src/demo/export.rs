//! The made-up export of the Fenmarrow Beekeepers' Association: seeded, so that the same seed
//! makes the same bytes, with every everyday fault in it.

/// How many lines stand above the header.
const ABOVE: &str = "Fenmarrow Beekeepers' Association\r\nHive inspections, spring 2026\r\n\r\n";

pub(super) const COLUMNS: &str = "Apiary No,Hive,Date,Arrived,Region,District,Town,Queen,Marked,Frames,Brood,Honey (lb),Treatments,Remarks,Weather,Entered\r\n";

const REGIONS: [(&str, [&str; 3]); 4] = [
    ("North Fen", ["Sedgeholm", "Withy End", "Marrow Lode"]),
    ("South Fen", ["Puddlecote", "Eelbridge", "Reedham Drove"]),
    ("Hollow Vale", ["Nether Combe", "Owlcombe", "Quarry Rise"]),
    ("Cray Weald", ["Crayford Beacon", "Long Shaw", "Hammer Pond"]),
];
const TOWNS: [&str; 10] = [
    "Ash Hollow",
    "Merrow",
    "Château Lane",
    "Tolling Green",
    "Öst Quay",
    "Bramblewick",
    "Upper Sallow",
    "Fenny Stoke",
    "Larkmoor",
    "Saint Orrin",
];
const COLOURS: [&str; 6] = ["White", "Yellow", "Red", "Green", "Blue", "Not marked"];
const TREATMENTS: [&str; 5] = ["Oxalic acid", "Formic acid", "Thymol", "lactic", "drone removal"];
const WEATHER: [&str; 5] = ["sunny, light wind", "overcast", "showers", "warm", "cold and bright"];
const REMARKS: [&str; 12] = [
    "Calm colony, plenty of stores and a good brood pattern",
    "Queen seen on the fourth frame",
    "Added a super; the second one is half full",
    "Some chalkbrood on the outer frames, watch it",
    "Eggs and open brood, no queen cells found at all",
    "Removed two queen cells from the lower edge",
    "Weak, united with the hive beside it",
    "Entrance narrowed because of wasps",
    "New foundation drawn on both sides",
    "",
    "Feeding syrup, about a litre, looks better than last time",
    "Bees flying well, pollen coming in",
];

/// What kind of export to make.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Export {
    /// How many records.
    pub(crate) rows: u64,
    /// How many records in a thousand have a fault of their own.
    pub(crate) faulty: u64,
    /// Whether keepers write colours and yes or no each in their own way.
    pub(crate) habits: bool,
    /// The same seed makes the same bytes.
    pub(crate) seed: u64,
    /// The export of the summer, of which something is new.
    pub(crate) summer: bool,
}

/// A small generator of numbers (SplitMix64), so that the data does not depend on a library.
pub(super) struct Numbers(pub(super) u64);

impl Numbers {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        mixed ^ (mixed >> 31)
    }

    pub(super) fn below(&mut self, most: u64) -> u64 {
        self.next() % most.max(1)
    }

    pub(super) fn pick<'a>(&mut self, from: &[&'a str]) -> &'a str {
        let place = self.below(from.len() as u64);
        usize::try_from(place).ok().and_then(|place| from.get(place)).copied().unwrap_or_default()
    }
}

/// One record before it is written.
pub(super) struct Record {
    pub(super) apiary: String,
    pub(super) hive: String,
    pub(super) day: (u64, u64),
    pub(super) arrived: String,
    pub(super) region: String,
    pub(super) district: String,
    pub(super) town: String,
    pub(super) queen: String,
    pub(super) marked: String,
    pub(super) frames: String,
    pub(super) brood: String,
    pub(super) honey: String,
    pub(super) treatments: String,
    pub(super) remarks: String,
    pub(super) weather: String,
    pub(super) date: Option<String>,
    pub(super) entered: String,
}

impl Export {
    /// Writes the export to `out`, in Windows-1252.
    pub(crate) fn write(&self, out: &mut dyn std::io::Write) -> std::io::Result<()> {
        let mut text = if self.summer {
            // A column has another name, and there is a new one.
            let columns = COLUMNS.replace("Queen", "Queen mark").replace("Entered", "Entered,Scale (kg)");
            format!("{}{columns}", ABOVE.replace("spring", "summer"))
        } else {
            format!("{ABOVE}{COLUMNS}")
        };
        let mut last: Option<String> = None;
        for index in 0..self.rows {
            // Every record has its own numbers, so that a fault in one does not move the others.
            let mut numbers = Numbers(self.seed ^ index.wrapping_mul(0xA076_1D64_78BD_642F));
            let mut record = self.record(index, &mut numbers);
            let faulty = numbers.below(1000) < self.faulty;
            let fault = if faulty { numbers.below(20) } else { u64::MAX };
            spoil(&mut record, fault, &mut numbers);
            if self.summer {
                self.bring_news(index, &mut record);
            }
            let mut line = record.line();
            if self.summer {
                line.push_str(&format!(",{}.{}", 20 + index % 30, index % 10));
            }
            match (fault, &last) {
                (17, Some(before)) => text.push_str(before),
                (18, _) => text.push_str(line.rsplit_once(',').map_or(&*line, |(start, _)| start)),
                (19, _) => {
                    text.push_str(&line.replacen(&record.town, &format!("{}, lower end", record.town), 1))
                }
                _ => text.push_str(&line),
            }
            text.push_str("\r\n");
            last = Some(line);
            if self.habits && index % 620 == 619 {
                text.push_str(if self.summer { ",,,,,,,,,,,,,,,,\r\n" } else { ",,,,,,,,,,,,,,,\r\n" });
            }
            if text.len() > 1 << 16 || index + 1 == self.rows {
                out.write_all(&windows_1252(&text))?;
                text.clear();
            }
        }
        Ok(())
    }

    /// Codes that nobody has seen before.
    fn bring_news(&self, index: u64, record: &mut Record) {
        if index % 37 == 5 {
            record.queen = "Violet".into();
        }
        if index % 41 == 7 {
            record.treatments = "Essential oils".into();
        }
    }

    /// A record without a fault; key parts come from its number, so that no two are the same.
    pub(super) fn record(&self, index: u64, numbers: &mut Numbers) -> Record {
        let apiaries = (self.rows / 12).clamp(40, 5_000);
        let hives = 10.min(self.rows.div_ceil(apiaries));
        let rounds = self.rows.div_ceil(apiaries * hives).max(1);
        let (apiary, rest) = (index % apiaries, index / apiaries);
        let (hive, round) = (rest % hives, rest / hives);
        let mut visit = Numbers(self.seed ^ (apiary << 20) ^ round);
        let window = (84 / rounds).max(1);
        let (month, day) = day_of_spring(round * window + visit.below(window));
        let month = if self.summer { month + 4 } else { month };
        let mut place = Numbers(self.seed ^ (apiary << 8));
        let region = usize::try_from(place.below(4)).ok().and_then(|region| REGIONS.get(region));
        let (region, districts) = region.copied().unwrap_or(REGIONS[0]);
        let frames = 8 + numbers.below(5);
        let honey = numbers.below(500);
        let hour = 9 + visit.below(9);
        let treatments = match numbers.below(6) {
            0 | 1 => String::new(),
            2 => format!("{}; {}", numbers.pick(&TREATMENTS[..2]), numbers.pick(&TREATMENTS[2..])),
            _ => numbers.pick(&TREATMENTS).to_owned(),
        };
        let (queen, marked) = self.keeper(apiary, numbers);
        let (entered_month, entered_day) = (month, day);
        Record {
            // The first zeros were lost when the apiary numbers were kept as numbers.
            apiary: (117 + apiary * 173).to_string(),
            hive: format!("{}{}", char::from(b'A' + u8::try_from(apiary % 4).unwrap_or(0)), hive + 1),
            day: (month, day),
            arrived: format!("{hour}:{:02}", visit.below(12) * 5),
            region: region.into(),
            district: place.pick(&districts).into(),
            town: place.pick(&TOWNS).into(),
            queen,
            marked,
            frames: frames.to_string(),
            brood: numbers.below(frames).to_string(),
            honey: if honey < 240 { String::new() } else { format!("{}.{}", (honey - 240) / 2, honey % 10) },
            treatments,
            remarks: numbers.pick(&REMARKS).into(),
            weather: visit.pick(&WEATHER).into(),
            date: None,
            entered: format!(
                "{entered_day:02}/{entered_month:02}/2026 {}:{:02}",
                hour + 2,
                numbers.below(60)
            ),
        }
    }

    /// How this apiary's keeper writes the colour and whether the queen was marked.
    fn keeper(&self, apiary: u64, numbers: &mut Numbers) -> (String, String) {
        let colour = numbers.pick(&COLOURS);
        let marked = numbers.below(3) == 0;
        let habit = if self.habits { apiary % 9 } else { 0 };
        let colour = match habit {
            1 => colour.to_uppercase(),
            2 => colour.to_lowercase(),
            3 => format!(" {colour} "),
            4 if colour != "Not marked" => colour.chars().take(1).collect(),
            5 if colour == "Yellow" => "yel.".into(),
            6 if colour == "White" => "wht".into(),
            7 if colour == "Blue" => "light blue".into(),
            8 if colour == "Not marked" => "unmarked".into(),
            _ => colour.to_owned(),
        };
        let marked = match (habit, marked) {
            (1, true) => "Y",
            (1, false) => "N",
            (6, true) => "done",
            (_, true) => "yes",
            (_, false) => "no",
        };
        (colour, marked.into())
    }
}

/// Day number `day` from 1 February 2026, as month and day.
fn day_of_spring(mut day: u64) -> (u64, u64) {
    for (month, length) in [(2, 28), (3, 31), (4, 30)] {
        if day < length {
            return (month, day + 1);
        }
        day -= length;
    }
    (4, 30)
}

/// Puts one fault into a record.
fn spoil(record: &mut Record, fault: u64, numbers: &mut Numbers) {
    let (month, day) = record.day;
    match fault {
        0 => record.apiary = format!("{}00", record.apiary),
        1 => record.apiary = "4.1E+05".into(),
        2 => record.date = Some(if month == 4 { "31/04/2026" } else { "31/02/2026" }.into()),
        3 => record.date = Some(format!("{day:02}/11/2026")),
        4 => record.date = Some(String::new()),
        5 => record.date = Some("last week".into()),
        6 => record.brood = (20 + numbers.below(5)).to_string(),
        7 => record.frames = "n/a".into(),
        8 => record.frames = "120".into(),
        9 => record.honey = "1,204.5".into(),
        10 => record.honey = "about 20".into(),
        11 => record.district = "Hammer Pond".into(),
        12 => (record.region, record.district) = ("Nth Fen".into(), "Withy End".into()),
        13 => record.treatments = "Oxalic acid; oxalc".into(),
        14 => record.treatments = "old strips".into(),
        15 => record.remarks = "Long day. ".repeat(14),
        16 => record.hive = record.hive.to_lowercase(),
        _ => {}
    }
    // Harmless oddities, which are mended and recorded.
    match numbers.below(40) {
        0 => record.town = format!("{}\u{a0}", record.town),
        1 => record.remarks = format!("  {}", record.remarks),
        2 => record.remarks = "First look:\nall quiet, \"Ivy\" hive strong".into(),
        3 => record.district = record.district.to_uppercase(),
        _ => {}
    }
}

impl Record {
    fn line(&self) -> String {
        let (month, day) = self.day;
        let date = self.date.clone().unwrap_or_else(|| format!("{day:02}/{month:02}/2026"));
        let cells = [
            &self.apiary,
            &self.hive,
            &date,
            &self.arrived,
            &self.region,
            &self.district,
            &self.town,
            &self.queen,
            &self.marked,
            &self.frames,
            &self.brood,
            &self.honey,
            &self.treatments,
            &self.remarks,
            &self.weather,
            &self.entered,
        ];
        cells.map(|cell| quoted(cell)).join(",")
    }
}

fn quoted(cell: &str) -> String {
    if cell.contains([',', '"', '\n']) {
        format!("\"{}\"", cell.replace('"', "\"\""))
    } else {
        cell.to_owned()
    }
}

/// The made-up names use Latin-1 letters only, which Windows-1252 has at the same places.
fn windows_1252(text: &str) -> Vec<u8> {
    text.chars().map(|letter| u8::try_from(u32::from(letter)).unwrap_or(b'?')).collect()
}
