//! The patterns by which a text may have been written, where it has none of the everyday forms.

use jiff::civil::{Date, Time};

use crate::ValueType;
use crate::date_pattern::{DatePattern, MONTHS};

/// The most runs of digits in a text that are tried; a day with a time to the millisecond has seven.
const MOST_RUNS: usize = 7;

/// The longest text that is tried, in bytes.
const LONGEST: usize = 48;

/// The fields that runs of digits may be, by how many digits there are. A field of one letter stands for numbers
/// of one digit or two.
const FORMS: [(usize, &[&str]); 8] = [
    (1, &["d", "M", "H", "m", "s"]),
    (2, &["dd", "MM", "yy", "HH", "mm", "ss", "d", "M", "H"]),
    (3, &["SSS"]),
    (4, &["yyyy", "HHmm"]),
    (6, &["ddMMyy", "MMddyy", "yyMMdd", "HHmmss"]),
    (8, &["yyyyMMdd", "ddMMyyyy", "MMddyyyy"]),
    (12, &["yyyyMMddHHmm", "ddMMyyyyHHmm", "MMddyyyyHHmm"]),
    (14, &["yyyyMMddHHmmss", "ddMMyyyyHHmmss", "MMddyyyyHHmmss"]),
];

/// The names of days, as far as they are needed to know one.
const DAYS: [&str; 7] = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/// Every pattern of UTS #35 that reads a text as a day, a day with a time, or a time, as `holds` wants it. Which
/// of them is meant is for other values to say.
///
/// ```
/// use dusk_values::{ValueType, patterns_of};
/// let patterns = patterns_of("25.3-2026", ValueType::Date);
/// assert_eq!(patterns.iter().map(|pattern| pattern.text()).collect::<Vec<_>>(), ["dd.M-yyyy", "d.M-yyyy"]);
/// ```
pub fn patterns_of(text: &str, holds: ValueType) -> Vec<DatePattern> {
    let runs = runs(text);
    let digits = runs.iter().filter(|run| matches!(run, Run::Digits(_))).count();
    if text.len() > LONGEST || digits == 0 || digits > MOST_RUNS {
        return Vec::new();
    }
    let halves = |run: &Run<'_>| matches!(run, Run::Letters(letters) if word(letters) == "a");
    let mut forms = Forms { hour: if runs.iter().any(halves) { "h" } else { "H" }, written: Vec::new() };
    forms.grow(&runs, "", "");
    let patterns = forms.written.iter().filter_map(|pattern| DatePattern::parse(pattern).ok());
    patterns.filter(|pattern| has_all(pattern, holds) && is_in_calendar(pattern, text)).collect()
}

/// Whether a pattern reads a text, as a moment that there is, not too long ago.
pub fn is_in_calendar(pattern: &DatePattern, text: &str) -> bool {
    let Some(moment) = pattern.read(text) else { return false };
    let year = match moment.year {
        Some(year) if moment.two_digits => year + 2000,
        Some(year) if !(1800..2200).contains(&year) => return false,
        year => year.unwrap_or(2000),
    };
    let day = Date::new(year, moment.month.unwrap_or(1), moment.day.unwrap_or(1));
    let time = (moment.hour.unwrap_or(0), moment.minute.unwrap_or(0), moment.second.unwrap_or(0));
    day.is_ok() && Time::new(time.0, time.1, time.2, moment.nanosecond).is_ok()
}

/// Whether a pattern says all that a field of this kind holds.
fn has_all(pattern: &DatePattern, holds: ValueType) -> bool {
    match holds {
        ValueType::Date => pattern.has_date(),
        ValueType::DateTime => pattern.has_date() && pattern.has_time(),
        ValueType::Time => {
            pattern.has_time() && !pattern.has_year() && !pattern.has_month() && !pattern.has_day()
        }
        _ => false,
    }
}

/// A stretch of a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Run<'t> {
    Digits(&'t str),
    Letters(&'t str),
    Others(&'t str),
}

fn runs(text: &str) -> Vec<Run<'_>> {
    let kind = |c: char| (c.is_ascii_digit(), c.is_alphabetic());
    let mut runs = Vec::new();
    let mut rest = text;
    while let Some(first) = rest.chars().next() {
        let end = rest.find(|c| kind(c) != kind(first)).unwrap_or(rest.len());
        let (run, after) = rest.split_at_checked(end).unwrap_or((rest, ""));
        runs.push(match kind(first) {
            (true, _) => Run::Digits(run),
            (_, true) => Run::Letters(run),
            _ => Run::Others(run),
        });
        rest = after;
    }
    runs
}

/// The patterns found so far.
struct Forms {
    /// How an hour is written: of a clock of 24 hours, or of 12.
    hour: &'static str,
    written: Vec<String>,
}

impl Forms {
    /// Takes the patterns of what is left of a text; `fields` are the letters of those that `pattern` has.
    fn grow(&mut self, runs: &[Run<'_>], pattern: &str, fields: &str) {
        let Some((run, rest)) = runs.split_first() else {
            self.written.push(pattern.to_owned());
            return;
        };
        match run {
            Run::Others(others) => {
                let text = others.replace('\'', "''");
                self.grow(rest, &format!("{pattern}{text}"), fields);
            }
            Run::Letters(letters) => {
                let word = word(letters);
                let month = if word.starts_with('M') { "M" } else { "" };
                self.go_on(rest, (pattern, &word), (fields, month));
            }
            Run::Digits(digits) => {
                let forms = FORMS.iter().find(|(length, _)| *length == digits.len());
                for form in forms.into_iter().flat_map(|(_, forms)| *forms) {
                    let mut letters: Vec<char> = form.chars().collect();
                    letters.dedup();
                    let letters: String = letters.into_iter().collect();
                    self.go_on(rest, (pattern, &form.replace('H', self.hour)), (fields, &letters));
                }
            }
        }
    }

    /// Goes on behind a field, where the fields can stand like this.
    fn go_on(&mut self, rest: &[Run<'_>], (pattern, form): (&str, &str), (before, more): (&str, &str)) {
        let fields = format!("{before}{more}");
        if is_in_order(&fields) {
            self.grow(rest, &format!("{pattern}{form}"), &fields);
        }
    }
}

/// Whether no field comes twice, the parts of a time stand as clocks show them, and those of a date together.
fn is_in_order(fields: &str) -> bool {
    let is_of_time = |letter: &u8| b"HmsS".contains(letter);
    let once = fields.chars().enumerate().all(|(at, letter)| fields.find(letter) == Some(at));
    let time: String = fields.chars().filter(|letter| "HmsS".contains(*letter)).collect();
    let parted = fields.as_bytes().windows(2);
    let changes = parted.filter(|two| matches!(two, [a, b] if is_of_time(a) != is_of_time(b))).count();
    once && changes < 2 && "HmsS".starts_with(&time)
}

/// A word as patterns have it: a month, a day of the week, the half of the day, or text.
fn word(letters: &str) -> String {
    let is = |name: &str| name.eq_ignore_ascii_case(letters);
    let begins = |name: &&str| name.get(..3).is_some_and(|short| short.eq_ignore_ascii_case(letters));
    match () {
        () if MONTHS.iter().any(begins) => "MMM".into(),
        () if MONTHS.iter().any(|name| is(name)) => "MMMM".into(),
        () if DAYS.iter().any(begins) => "EEE".into(),
        () if DAYS.iter().any(|name| is(name)) => "EEEE".into(),
        () if is("am") || is("pm") => "a".into(),
        () => format!("'{letters}'"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn patterns(text: &str, holds: ValueType) -> Vec<String> {
        patterns_of(text, holds).iter().map(|pattern| pattern.text().to_owned()).collect()
    }

    #[test]
    fn every_pattern_that_reads_a_text_is_found_and_no_other() {
        let dates = |text| patterns(text, ValueType::Date);
        assert_eq!(dates("4.3-2026"), ["d.M-yyyy", "M.d-yyyy"]);
        assert_eq!(dates("25032026"), ["ddMMyyyy"]);
        assert_eq!(dates("2026/Mar/04"), ["yyyy/MMM/dd", "yyyy/MMM/d"]);
        assert_eq!(dates("day 4, March, 2026"), ["'day' d, MMMM, yyyy"]);
        assert_eq!(dates("2026 week 10"), [""; 0]);
        let times = |text| patterns(text, ValueType::Time);
        assert_eq!(times("9h05"), ["H'h'mm"]);
        assert_eq!(times("0915"), ["HHmm"]);
        assert_eq!(times("9.05 PM"), ["h.mm a"]);
        assert_eq!(times("25h05"), [""; 0]);
        let moments = patterns("20260304-101530", ValueType::DateTime);
        assert_eq!(moments, ["yyyyMMdd-HHmmss"]);
        assert!(patterns("1".repeat(60).as_str(), ValueType::DateTime).is_empty());
    }

    /// Ways of writing a moment, and what it holds.
    const FORMS: [(&str, ValueType); 12] = [
        ("dd.MM-yyyy", ValueType::Date),
        ("d M yyyy", ValueType::Date),
        ("yyyyMMdd", ValueType::Date),
        ("MMddyyyy", ValueType::Date),
        ("EEE d MMM yyyy", ValueType::Date),
        ("MMMM, d, yyyy", ValueType::Date),
        ("dd/MM/yy", ValueType::Date),
        ("yyyyMMdd-HHmm", ValueType::DateTime),
        ("d.M.yyyy 'um' H:mm", ValueType::DateTime),
        ("HH:mm:ss dd|MM|yyyy", ValueType::DateTime),
        ("H'h'mm", ValueType::Time),
        ("h:mm a", ValueType::Time),
    ];

    proptest::proptest! {
        #[test]
        fn what_a_pattern_wrote_is_read_by_a_pattern_that_was_found(
            days in 0_i32..20_000,
            minutes in 0_i64..1_440,
            form in 0..FORMS.len(),
        ) {
            let (written, holds) = FORMS[form];
            let pattern = DatePattern::parse(written).unwrap();
            let day = jiff::civil::date(1970, 1, 1).checked_add(jiff::Span::new().days(days)).unwrap();
            let moment = day.to_datetime(Time::midnight()).checked_add(jiff::Span::new().minutes(minutes)).unwrap();
            let mut text = String::new();
            pattern.write(moment, &mut text);
            let meant = pattern.read(&text);
            let found = patterns_of(&text, holds);
            proptest::prop_assert!(
                found.iter().any(|found| found.read(&text) == meant),
                "{} written as {}: {:?}", text, written, found
            );
            proptest::prop_assert!(found.iter().all(|found| is_in_calendar(found, &text)));
        }

        #[test]
        fn any_text_is_taken_apart_without_harm(text in "\\PC{0,60}") {
            for holds in [ValueType::Date, ValueType::DateTime, ValueType::Time, ValueType::Text] {
                for pattern in patterns_of(&text, holds) {
                    proptest::prop_assert!(is_in_calendar(&pattern, &text), "{:?} by {:?}", text, pattern);
                }
            }
        }
    }
}
