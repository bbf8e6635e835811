//! Names of months and of days of the week, in the languages of `calendar_names.txt`.

use std::collections::HashMap;
use std::sync::LazyLock;

use jiff::civil::Weekday;

/// The months and the days of the week that names stand for, by the names in small letters: a bit for each,
/// January and Monday the lowest.
static NAMES: LazyLock<Names> = LazyLock::new(|| Names::of(include_str!("calendar_names.txt")));

#[derive(Debug, Default)]
struct Names {
    months: HashMap<String, u16>,
    days: HashMap<String, u16>,
}

impl Names {
    fn of(table: &str) -> Self {
        let mut all = Self::default();
        for line in table.lines() {
            let mut words = line.split(' ');
            let names = match words.next() {
                Some("month") => &mut all.months,
                Some("day") => &mut all.days,
                _ => continue,
            };
            for (place, name) in words.skip(1).enumerate() {
                *names.entry(name.to_lowercase()).or_default() |= 1 << place;
            }
        }
        all
    }
}

/// What a name stands for; 0 where the table has none.
fn looked_up(names: &HashMap<String, u16>, word: &str) -> u16 {
    /// No name in ASCII letters is longer; most words that are looked up are no names, and cost little so.
    const LONGEST: usize = 24;
    let known = |name: &str| names.get(name).copied().unwrap_or(0);
    if !word.is_ascii() {
        return known(&word.to_lowercase());
    }
    let mut small = [0; LONGEST];
    let Some(small) = small.get_mut(..word.len()) else { return 0 };
    small.copy_from_slice(word.as_bytes());
    small.make_ascii_lowercase();
    std::str::from_utf8(small).map_or(0, known)
}

/// The month of this name, from 1: in full or short, without a point. Nothing where it stands for
/// two months in two languages, as "listopad" does.
pub fn month_named(word: &str) -> Option<i8> {
    let months = looked_up(&NAMES.months, word);
    (months.count_ones() == 1).then(|| i8::try_from(months.trailing_zeros() + 1).ok())?
}

/// Whether a name may be that of this day of the week.
pub(crate) fn is_weekday_named(word: &str, day: Weekday) -> bool {
    looked_up(&NAMES.days, word) & (1 << day.to_monday_zero_offset()) != 0
}

/// Whether a name is that of any day of the week.
pub(crate) fn names_weekday(word: &str) -> bool {
    looked_up(&NAMES.days, word) != 0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_whole_and_what_means_two_months_is_read_as_none() {
        for line in include_str!("calendar_names.txt").lines().filter(|line| !line.starts_with('#')) {
            let words = line.split(' ').count() - 2;
            assert_eq!(words, if line.starts_with("month") { 12 } else { 7 }, "{line}");
        }
        let mut shared: Vec<&str> = NAMES
            .months
            .iter()
            .filter(|(_, months)| months.count_ones() > 1)
            .map(|(name, _)| name.as_str())
            .collect();
        shared.sort_unstable();
        assert_eq!(shared, ["lip", "lis", "listopad", "listopada", "srp"]);
        for (name, month) in
            [("März", 3), ("AOÛT", 8), ("mayıs", 5), ("Декабря", 12), ("kesäkuuta", 6), ("sept", 9)]
        {
            assert_eq!(month_named(name), Some(month), "{name}");
        }
        assert_eq!(month_named("listopada"), None);
        for (name, month) in crate::MONTHS.iter().zip(1..) {
            assert_eq!(
                (month_named(name), name.get(..3).and_then(month_named)),
                (Some(month), Some(month)),
                "{name}"
            );
        }
        for names in [&NAMES.months, &NAMES.days] {
            assert!(names.iter().all(|(name, known)| looked_up(names, &name.to_ascii_uppercase()) == *known));
        }
        assert!(
            is_weekday_named("Mittwoch", Weekday::Wednesday)
                && !is_weekday_named("mittwoch", Weekday::Friday)
        );
        assert!(is_weekday_named("so", Weekday::Sunday) && is_weekday_named("so", Weekday::Saturday));
    }
}
