//! One cell after another: what a field of each type makes of it, or which finding keeps it out. What comes out
//! is conformed again as it stands, and has to stay what it is.

use crate::desk::Desk;

/// What a description says of the field, what a mapping says beside where it comes from, and cells with what
/// becomes of each: a value as it goes into the upload file, or behind an exclamation mark the finding that
/// keeps its row out.
type Case = (&'static str, &'static str, &'static [(&'static str, &'static str)]);

const TEXTS: &[Case] = &[
    (
        "type = \"text\"",
        "",
        &[
            ("as it is", "as it is"),
            ("  at both ends\u{a0}", "at both ends"),
            ("no\u{a0}break and \u{2009}thin", "no break and  thin"),
            ("zero\u{200b}width\u{feff}", "zerowidth"),
            ("e\u{301}te\u{301}", "été"),
            ("CafÃ© noir", "Café noir"),
            ("“so”", "“so”"),
            ("'007", "007"),
            ("two\nlines", "two\nlines"),
            ("1.23E+11", "!power-of-ten"),
            ("98765432109876500", "!digits-lost"),
            ("lost \u{fffd}", "!lost-character"),
            ("#REF!", "!error-cell"),
        ],
    ),
    (
        "type = \"text\"",
        "trim = false\nspaces = \"keep\"\nhidden = \"keep\"\nletters = \"keep\"\nwrong_decoding = \"keep\"",
        &[(" a\u{a0}", " a\u{a0}"), ("b\u{200b}", "b\u{200b}"), ("e\u{301}", "e\u{301}"), ("CafÃ©", "CafÃ©")],
    ),
    (
        "type = \"text\"",
        "line_breaks = \"space\"\nquotes = \"straight\"",
        &[("two\r\nlines", "two lines"), ("‘a’ “b”", "'a' \"b\"")],
    ),
    ("type = \"text\"", "rounded_digits = \"keep\"", &[("98765432109876500", "98765432109876500")]),
    (
        "type = \"text\"\ndigits = 4",
        "",
        &[
            ("7", "0007"),
            ("0117", "0117"),
            ("117.0", "0117"),
            ("12345", "!wrong-digits"),
            ("1a", "!wrong-digits"),
            ("1.2E+03", "!power-of-ten"),
        ],
    ),
    (
        "type = \"text\"\nmax_length = 3\npattern = \"[a-zß]+\"",
        "",
        &[("abc", "abc"), ("aß", "aß"), ("abcd", "!too-long"), ("aB", "!wrong-pattern")],
    ),
    (
        "type = \"text\"",
        "blank = [\"n/a\", \"-\"]\nif_blank = \"none\"",
        &[("N/A", "none"), ("", "none"), ("x", "x")],
    ),
    (
        "type = \"text\"\nrequired = true",
        "blank = [\"unknown\"]",
        &[(" Unknown ", "!required-blank"), ("x", "x")],
    ),
    (
        "type = \"text\"",
        "part = \"{town}, {code:digits}\"\ntake = \"code\"",
        &[("Vik, 0870", "0870"), ("Vik", "!not-in-form")],
    ),
];

const NUMBERS: &[Case] = &[
    (
        "type = \"integer\"\nmin = \"0\"\nmax = \"2000\"",
        "",
        &[
            ("12", "12"),
            ("012", "12"),
            ("+12", "12"),
            ("12.0", "12"),
            ("-0", "0"),
            ("1,204,300", "!above-maximum"),
            ("2001", "!above-maximum"),
            ("-1", "!below-minimum"),
            ("12.5", "!needs-rounding"),
            ("12 kg", "!not-a-number"),
            ("1e3", "!power-of-ten"),
            ("(12)", "!number-undecided"),
            ("12%", "!number-undecided"),
        ],
    ),
    (
        "type = \"decimal\"\ndecimals = 2",
        "decimal_mark = \",\"\nthousands_mark = \".\"",
        &[("1.204,5", "1204.5"), ("1204,50", "1204.5"), ("-0,05", "-0.05"), ("1,2.3", "!not-a-number")],
    ),
    (
        "type = \"decimal\"\ndecimals = 2",
        "decimal_mark = \".\"\nthousands_mark = \" \"",
        &[("1 204.50", "1204.5"), ("1\u{a0}204.5", "1204.5"), ("12 04", "!not-a-number")],
    ),
    (
        "type = \"decimal\"\ndecimals = 2",
        "decimal_mark = \".\"\nthousands_mark = \",\"\nbrackets = \"negative\"\ncurrency = \"£\"",
        &[("(£1,204.50)", "-1204.5"), ("£3", "3"), ("3 £", "3"), ("€3", "!not-a-number")],
    ),
    (
        "type = \"decimal\"\ndecimals = 1\nunit = \"kg\"",
        "unit = \"lb\"\nround = \"half-up\"",
        &[("10", "4.5"), ("1 lb", "0.5"), ("1 kg", "!unit-differs"), ("0", "0")],
    ),
    (
        "type = \"decimal\"\ndecimals = 1\nunit = \"Cel\"",
        "unit = \"[degF]\"\nround = \"half-even\"",
        &[("32", "0"), ("-40", "-40"), ("98.6", "37")],
    ),
    ("type = \"integer\"", "round = \"half-even\"", &[("2.5", "2"), ("3.5", "4"), ("-2.5", "-2")]),
    ("type = \"integer\"", "round = \"up\"", &[("2.1", "3"), ("-2.1", "-3")]),
    ("type = \"integer\"", "round = \"down\"", &[("2.9", "2"), ("-2.9", "-2")]),
    ("type = \"decimal\"\ndecimals = 3\nunit = \"1\"", "unit = \"%\"", &[("12.5%", "0.125"), ("50", "0.5")]),
];

const DAYS: &[Case] = &[
    (
        "type = \"date\"\nnot_before = \"2020-01-01\"\nnot_after = \"today\"",
        "order = \"day-month-year\"",
        &[
            ("03/04/2026", "2026-04-03"),
            ("3.4.2026", "2026-04-03"),
            ("3 April 2026", "2026-04-03"),
            ("2026-04-03", "2026-04-03"),
            ("2026/04/03 00:00", "2026-04-03"),
            ("31/12/2019", "!too-early"),
            ("01/05/2026", "!too-late"),
            ("31/04/2026", "!impossible-date"),
            ("3/4/26", "!century-undecided"),
            ("03/04/2026 12:30", "!time-of-day"),
            ("46085", "!day-count"),
            ("spring", "!not-a-date"),
        ],
    ),
    (
        "type = \"date\"\nformat = \"dd.MM.yy\"",
        "order = \"month-day-year\"\nyears_from = 1970",
        &[("12/31/69", "31.12.69"), ("1/2/70", "02.01.70")],
    ),
    (
        "type = \"date\"",
        "day_count = \"1904\"\norder = \"day-month-year\"",
        &[("44623", "2026-03-04"), ("3/4/2026", "2026-04-03")],
    ),
    (
        "type = \"date\"",
        "pattern = \"yyyyMMdd\"",
        &[("20260403", "2026-04-03"), ("2026-04-03", "!not-a-date"), ("20260431", "!impossible-date")],
    ),
    (
        "type = \"date\"",
        "order = \"day-month-year\"\ndrop_time = true",
        &[("03/04/2026 12:30", "2026-04-03")],
    ),
    (
        "type = \"date\"\nmonth_format = \"yyyy-MM\"\nyear_format = \"yyyy\"",
        "order = \"day-month-year\"",
        &[
            ("2026", "2026"),
            ("Mar 2026", "2026-03"),
            ("03/2026", "2026-03"),
            ("4/3/2026", "2026-03-04"),
            ("13/2026", "!not-a-date"),
        ],
    ),
    (
        "type = \"time\"\nformat = \"HH:mm\"",
        "",
        &[("9:05", "09:05"), ("2:30 pm", "14:30"), ("24:00", "!impossible-date"), ("noon", "!not-a-date")],
    ),
    (
        "type = \"datetime\"\nformat = \"yyyy-MM-dd HH:mm\"",
        "order = \"day-month-year\"",
        &[
            ("3/4/2026 9:05", "2026-04-03 09:05"),
            ("3/4/2026", "!not-a-date"),
            ("3/4/2026 25:00", "!impossible-date"),
        ],
    ),
    (
        "type = \"datetime\"\nformat = \"yyyy-MM-dd HH:mm\"\nzone = \"UTC\"",
        "order = \"day-month-year\"\nzone = \"Europe/London\"",
        &[
            ("1/7/2026 09:05", "2026-07-01 08:05"),
            ("29/3/2026 01:30", "!time-of-change"),
            ("25/10/2026 01:30", "!time-of-change"),
        ],
    ),
];

const CODES: &[Case] = &[
    (
        "type = \"code\"\ncodes = \"colours.csv\"",
        "",
        &[
            ("W", "W"),
            ("white", "W"),
            (" Sky\u{a0}blue ", "B"),
            ("yel.", "!not-a-code"),
            ("old", "!code-retired"),
            ("pale", "!code-undecided"),
        ],
    ),
    (
        "type = \"code\"\ncodes = \"colours.csv\"",
        "read_as = \"labels\"",
        &[("White", "W"), ("W", "!not-a-code")],
    ),
    (
        "type = \"code\"\ncodes = \"numbers.csv\"",
        "",
        &[("7", "007"), ("007", "007"), ("7.0", "007"), ("5-Mar", "MAR5"), ("9", "!not-a-code")],
    ),
    ("type = \"code\"\ncodes = \"colours.csv\"\nunmatched = \"blank\"", "", &[("pink", ""), ("Y", "Y")]),
    (
        "type = \"code\"\ncodes = \"colours.csv\"\nunmatched = \"keep\"",
        "",
        &[("pink", "pink"), ("yellow", "Y")],
    ),
    ("type = \"code\"\ncodes = \"colours.csv\"\nunmatched = \"new-term\"", "", &[("pink", "!new-term")]),
    (
        "type = \"codes\"\ncodes = \"colours.csv\"\nseparator = \"|\"",
        "between = \";\"",
        &[("white; Y", "W|Y"), ("Y;white;y", "Y|W"), ("white; pink", "!not-a-code"), (";", "")],
    ),
    (
        "type = \"boolean\"\nformat = \"1/0\"",
        "",
        &[("yes", "1"), ("FALSE", "0"), ("n", "0"), ("done", "!not-a-boolean")],
    ),
    (
        "type = \"boolean\"\nformat = \"ja/nein\"",
        "words = \"x/-\"",
        &[("X", "ja"), ("-", "nein"), ("yes", "!not-a-boolean")],
    ),
    (
        "type = \"boolean\"\nformat = \"1/0\"",
        "true_where = \"oxalic\"\nbetween = \";\"",
        &[("thymol; Oxalic", "1"), ("thymol", "0")],
    ),
    (
        "type = \"reference\"\nvalues = \"held.csv\"\ncolumn = \"id\"",
        "",
        &[("A-1", "A-1"), ("A-9", "!unknown-reference")],
    ),
];

/// Conforms cells: what becomes of each.
fn conform(field: &str, map: &str, cells: &[&str]) -> Vec<String> {
    Desk::with_field(field, map, cells)
        .with("numbers.csv", "code,label\n007,Seven\nMAR5,March\n")
        .with("held.csv", "id\nA-1\nA-2\n")
        .outcomes(cells.len())
}

/// Runs every case; what comes out goes in again, read as the target writes it.
fn hold(cases: &[Case], again: &dyn Fn(&str) -> String) {
    for (field, map, cells) in cases {
        let (given, expected): (Vec<&str>, Vec<&str>) = cells.iter().copied().unzip();
        assert_eq!(conform(field, map, &given), expected, "{field}\n{map}");
        let fits: Vec<&str> = expected.into_iter().filter(|value| !value.starts_with('!')).collect();
        let map = again(field);
        assert_eq!(conform(field, &map, &fits), fits, "{field}, once more\n{map}");
    }
}

/// Nothing is done to a text that the target takes as it is.
const KEPT: &str = "trim = false\nspaces = \"keep\"\nhidden = \"keep\"\nletters = \"keep\"\nwrong_decoding = \"keep\"\nrounded_digits = \"keep\"";

#[test]
fn texts_are_cleaned_and_held_against_their_limits() {
    hold(TEXTS, &|_| KEPT.into());
}

#[test]
fn numbers_are_exact_and_lose_no_digit_unasked() {
    hold(NUMBERS, &|field| match field.contains("unit") {
        // The unit of the target.
        true => field.lines().find(|line| line.starts_with("unit")).unwrap().to_owned(),
        false => String::new(),
    });
}

#[test]
fn days_and_times_are_read_in_one_way_or_not_at_all() {
    let written = |field: &str| {
        let format = field.lines().find_map(|line| line.strip_prefix("format = ")).map(str::to_owned);
        let pattern = format.unwrap_or_else(|| "\"yyyy-MM-dd\"".into());
        match field.contains("month_format") {
            true => "order = \"year-month-day\"".to_owned(),
            false if field.contains("zone") => format!("pattern = {pattern}\nzone = \"UTC\""),
            false if field.contains(".yy\"") => format!("pattern = {pattern}\nyears_from = 1970"),
            false => format!("pattern = {pattern}"),
        }
    };
    hold(DAYS, &|field| {
        // A clock's zone is left once the times are in it.
        if field.contains("type = \"time\"") { String::new() } else { written(field) }
    });
}

#[test]
fn codes_are_found_by_what_the_list_says_and_by_nothing_else() {
    hold(CODES, &|field| match field {
        field if field.contains("separator") => "between = \"|\"".into(),
        field if field.contains("ja/nein") => "words = \"ja/nein\"".into(),
        _ => String::new(),
    });
}
