//! The apiaries: what the register lists of them at the end of July, and what the association exports in August.

use super::export::Numbers;

/// How many apiaries the register lists.
const LISTED: u32 = 64;

const REGIONS: [(&str, &str); 4] =
    [("NF", "North Fen"), ("SF", "South Fen"), ("HV", "Hollow Vale"), ("CW", "Cray Weald")];

const PLACES: [&str; 8] = [
    "Withy End",
    "Marrow Lode",
    "Eelbridge",
    "Nether Combe",
    "Quarry Rise",
    "Long Shaw",
    "Hammer Pond",
    "Château Lane",
];

const REMARKS: [&str; 4] = ["", "behind the barn", "key at the lock-keeper's", "no cars on the bank"];

/// One apiary as the register lists it.
struct Site {
    number: u32,
    name: String,
    place: &'static str,
    region: usize,
    hives: u64,
    since: (u64, u64, u64),
    remarks: &'static str,
}

impl Site {
    fn made(number: u32, numbers: &mut Numbers) -> Self {
        let place = numbers.pick(&PLACES);
        Self {
            number: 117 + number * 31,
            name: format!("{place} {}", 1 + number % 9),
            place,
            region: usize::try_from(numbers.below(4)).unwrap_or(0),
            hives: 2 + numbers.below(18),
            since: (2015 + numbers.below(11), 1 + numbers.below(12), 1 + numbers.below(28)),
            remarks: numbers.pick(&REMARKS),
        }
    }

    fn region(&self) -> (&'static str, &'static str) {
        REGIONS.get(self.region).copied().unwrap_or(("NF", "North Fen"))
    }
}

/// The register's list, and the association's export.
pub(super) fn lists(seed: u64) -> (String, String) {
    let mut numbers = Numbers(seed ^ 0x5173);
    let mut listed = String::from(
        "Record number;Apiary number;Name on the map;Place;Region;Hives;Open since;Status;Remarks\r\n",
    );
    let mut export = String::from("Apiary No,Called,Place,Region,Hives,Since,Status,Remarks\r\n");
    for number in 0..LISTED + 5 {
        let site = Site::made(number, &mut numbers);
        let (year, month, day) = site.since;
        if number < LISTED {
            listed.push_str(&format!(
                "R-{:05};{:06};{};{};{};{};{year}-{month:02}-{day:02};O;{}\r\n",
                40_000 + number * 7,
                site.number,
                site.name,
                site.place,
                site.region().0,
                site.hives,
                site.remarks
            ));
        }
        // Two were given up by keepers who have left, so that nobody lists them any more.
        if number % 29 == 7 {
            continue;
        }
        let (status, hives) = match number % 8 {
            3 => ("closed", 0),
            5 => ("in use", site.hives + 1 + numbers.below(4)),
            _ => ("open", site.hives),
        };
        // A remark that the association never wrote down stays what the register has.
        let remarks = if number % 3 == 0 { "" } else { site.remarks };
        export.push_str(&format!(
            "{},{},{},{},{hives},{day} {} {year},{status},{remarks}\r\n",
            site.number,
            site.name.to_uppercase(),
            site.place,
            site.region().1,
            month_name(month)
        ));
    }
    (listed, export)
}

fn month_name(month: u64) -> &'static str {
    const NAMES: [&str; 12] =
        ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
    usize::try_from(month).ok().and_then(|month| NAMES.get(month.checked_sub(1)?)).copied().unwrap_or("Jan")
}
