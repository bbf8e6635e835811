//! Every key of the tables in `docs/files.md` does what its line says: each is tried with it and without it.

use std::collections::BTreeSet;

use crate::desk::Desk;

const FILES: &str = include_str!("../../../../docs/files.md");

/// The keys of the table below a line of the page.
fn keys_below(line: &str) -> BTreeSet<&'static str> {
    let (_, table) = FILES.split_once(line).unwrap();
    let rows = table
        .lines()
        .skip_while(|line| !line.starts_with("|---"))
        .skip(1)
        .take_while(|line| line.starts_with('|'));
    let first = rows.filter_map(|row| row.split('|').nth(1));
    first.flat_map(|cell| cell.split(',').map(|key| key.trim().trim_matches('`'))).collect()
}

/// What becomes of each cell, "✗" where its record is rejected; "stops" where no batch is made.
fn outcome(desk: &Desk, cells: usize) -> String {
    let ran = desk.run(&["conform", "export.csv", "-o", "out", "--again"]);
    if ran.status == 2 {
        return "stops".to_owned();
    }
    let upload =
        if desk.exists("out/upload/up.csv") { desk.read("out/upload/up.csv") } else { String::new() };
    std::fs::remove_dir_all(desk.path("out")).unwrap();
    let records: Vec<csv::StringRecord> =
        csv::Reader::from_reader(upload.as_bytes()).records().map(Result::unwrap).collect();
    let value = |number: usize| {
        let id = format!("r{number}");
        let record = records.iter().find(|record| record[0] == id);
        record.map_or("✗".to_owned(), |record| record.iter().skip(1).collect::<Vec<_>>().join("¦"))
    };
    (0..cells).map(value).collect::<Vec<_>>().join(" / ")
}

/// The same lines without those of a key.
fn without(lines: &str, key: &str) -> String {
    let is_of_key = |line: &&str| line.split([' ', '=']).next() == Some(key);
    lines.lines().filter(|line| !is_of_key(line)).map(|line| format!("{line}\n")).collect()
}

/// A key, the field's lines, the lines of the `[[map]]`, the cells, and what they become without it and with it.
type MapKey = (&'static str, &'static str, &'static str, &'static [&'static str], &'static str, &'static str);

const TEXT: &str = "type = \"text\"";
const DATE: &str = "type = \"date\"";
const DECIMAL: &str = "type = \"decimal\"\ndecimals = 3";

const MAP: [MapKey; 34] = [
    ("fill_down", TEXT, "fill_down = true", &["a", "", "b"], "a /  / b", "a / a / b"),
    ("part", TEXT, "part = \"{town}, {land}\"\ntake = \"land\"", &["Vik, NO"], "stops", "NO"),
    ("take", TEXT, "part = \"{town}, {land}\"\ntake = \"town\"", &["Vik, NO"], "stops", "Vik"),
    ("blank", TEXT, "blank = [\"n/a\"]", &["N/A", "x"], "N/A / x", " / x"),
    ("if_blank", TEXT, "if_blank = \"none\"", &["", "x"], " / x", "none / x"),
    ("trim", TEXT, "trim = false", &[" x "], "x", " x "),
    ("spaces", TEXT, "spaces = \"keep\"", &["a\u{a0}b"], "a b", "a\u{a0}b"),
    ("line_breaks", TEXT, "line_breaks = \"space\"", &["a\nb"], "a\nb", "a b"),
    ("hidden", TEXT, "hidden = \"keep\"", &["a\u{200b}b"], "ab", "a\u{200b}b"),
    ("letters", TEXT, "letters = \"keep\"", &["e\u{301}"], "é", "e\u{301}"),
    ("wrong_decoding", TEXT, "wrong_decoding = \"keep\"", &["Ã©tÃ©"], "été", "Ã©tÃ©"),
    ("quotes", TEXT, "quotes = \"straight\"", &["“a”"], "“a”", "\"a\""),
    ("text_form", TEXT, "text_form = \"upper\"", &["Öst"], "Öst", "ÖST"),
    ("date_form", TEXT, "date_form = \"MMMM yyyy\"", &["2026-04-03"], "2026-04-03", "April 2026"),
    ("rounded_digits", TEXT, "rounded_digits = \"keep\"", &["12345678901234500"], "✗", "12345678901234500"),
    ("decimal_mark", DECIMAL, "decimal_mark = \",\"", &["1,204"], "✗", "1.204"),
    ("thousands_mark", DECIMAL, "thousands_mark = \",\"", &["1,204"], "✗", "1204"),
    ("brackets", DECIMAL, "brackets = \"negative\"", &["(5)"], "✗", "-5"),
    ("currency", DECIMAL, "currency = \"£\"", &["£5", "5.5"], "✗ / 5.5", "5 / 5.5"),
    ("unit", "type = \"decimal\"\ndecimals = 3\nunit = \"kg\"", "unit = \"g\"", &["500"], "stops", "0.5"),
    (
        "small_percents",
        "type = \"decimal\"\ndecimals = 1\nunit = \"%\"",
        "unit = \"%\"\nsmall_percents = \"keep\"",
        &["0.5", "0.2", "0.7"],
        "stops",
        "0.5 / 0.2 / 0.7",
    ),
    ("round", "type = \"decimal\"\ndecimals = 1", "round = \"half-up\"", &["1.25"], "✗", "1.3"),
    ("order", DATE, "order = \"day-month-year\"", &["03/04/2026"], "stops", "2026-04-03"),
    (
        "order_where",
        DATE,
        "order = \"day-month-year\"\norder_where = [{ rows = \"3-3\", order = \"month-day-year\" }]",
        &["25/04/2026", "04/26/2026"],
        "stops",
        "2026-04-25 / 2026-04-26",
    ),
    ("day_count", DATE, "day_count = \"1900\"", &["46085"], "✗", "2026-03-04"),
    ("pattern", DATE, "pattern = \"dd|MM|yyyy\"", &["04|03|2026"], "✗", "2026-03-04"),
    ("years_from", DATE, "years_from = 1950", &["31/03/51"], "✗", "1951-03-31"),
    (
        "zone",
        "type = \"datetime\"\nformat = \"yyyy-MM-dd HH:mm\"\nzone = \"UTC\"",
        "zone = \"Europe/Oslo\"",
        &["2026-03-04 12:00"],
        "stops",
        "2026-03-04 11:00",
    ),
    ("drop_time", DATE, "drop_time = true", &["2026-03-04 08:30"], "✗", "2026-03-04"),
    ("words", "type = \"boolean\"", "words = \"da/njet\"", &["da", "njet"], "✗ / ✗", "true / false"),
    ("read_as", "type = \"code\"\ncodes = \"two.csv\"", "read_as = \"labels\"", &["B"], "✗", "A"),
    (
        "between",
        "type = \"codes\"\ncodes = \"two.csv\"\nseparator = \"|\"",
        "between = \";\"",
        &["A; C"],
        "✗",
        "A|B",
    ),
    (
        "true_where",
        "type = \"boolean\"",
        "true_where = \"sun\"\nbetween = \";\"",
        &["sun; rain", "rain"],
        "stops",
        "true / false",
    ),
    (
        "unit_in",
        "type = \"decimal\"\ndecimals = 3\nunit = \"kg\"",
        "unit_in = \"Id\"",
        &["500"],
        "stops",
        "✗",
    ),
];

/// What only a workbook shows; its tests are those of workbooks.
const OF_WORKBOOKS: [&str; 1] = ["dates"];

/// What shows only beside what the target holds; its test is in `compares.rs`.
const OF_HELD: [&str; 1] = ["blank_clears"];

fn with_two(desk: Desk) -> Desk {
    desk.with("two.csv", "code,label\nA,B\nB,C\n")
}

#[test]
fn every_key_of_a_map_does_what_the_page_says() {
    let mut tried: BTreeSet<&str> = OF_WORKBOOKS.into_iter().chain(OF_HELD).collect();
    for (key, field, map, cells, before, after) in MAP {
        let desk = |map: &str| with_two(Desk::with_field(field, &format!("from = \"It\"\n{map}"), cells));
        assert_eq!(outcome(&desk(&without(map, key)), cells.len()), before, "without {key}");
        assert_eq!(outcome(&desk(map), cells.len()), after, "with {key}");
        tried.insert(key);
    }
    assert_eq!(tried, keys_below("and these say how it is read:"));
}

/// A key of `[source]`, its lines, the export, and what it becomes without it and with it.
type SourceKey = (&'static str, &'static str, &'static [u8], &'static str, &'static str);

const SOURCE: [SourceKey; 18] = [
    ("encoding", "encoding = \"windows-1252\"", b"Id,It\nr0,caf\xe9\n", "stops", "café"),
    (
        "other_lines",
        "encoding = \"utf-8\"\nother_lines = \"windows-1252\"",
        b"Id,It\nr0,caf\xe9\nr1,\xc3\xa9t\xc3\xa9\n",
        "✗ / été",
        "café / été",
    ),
    ("delimiter", "delimiter = \"~\"", b"Id~It\nr0~a\n", "stops", "a"),
    ("quote", "quote = \"'\"", b"Id,It\nr0,'a, b'\n", "✗", "a, b"),
    ("escape", "escape = \"!\"", b"Id,It\nr0,\"a!\"b\"\n", "✗", "a\"b"),
    ("line_break", "line_break = \"^\"", b"Id,It\nr0,a^b\n", "a^b", "a\nb"),
    ("header_row", "header_row = 2", b"It,Id\nId,It\nr0,a\n", "✗", "a"),
    ("header_rows", "header_rows = 2", b"Who,\nId,It\nr0,a\n", "a", "stops"),
    ("closing", "closing = [\"r1\"]", b"Id,It\nr0,a\nr1,b\n", "a / b", "a / ✗"),
    ("missing_cells", "missing_cells = \"blank\"", b"Id,It\nr0\n", "✗", ""),
    ("blank", "blank = [\"-\"]", b"Id,It\nr0,-\n", "-", ""),
    ("decimal_mark", "decimal_mark = \",\"", b"Id,It\nr0,\"1,204\"\n", "✗", "1.204"),
    ("thousands_mark", "thousands_mark = \",\"", b"Id,It\nr0,\"1,204\"\n", "✗", "1204"),
    ("records", "records = \"across\"", b"Id,r0,r1\nIt,a,b\n", "stops", "a / b"),
    (
        "each",
        "each = \"m\"",
        b"{\"l\": [{\"Id\": \"r0\", \"It\": \"a\"}], \"m\": [{\"Id\": \"r0\", \"It\": \"b\"}]}",
        "stops",
        "b",
    ),
    ("several", "several = \"+\"", b"[{\"Id\": \"r0\", \"It\": [\"a\", \"b\"]}]", "a|b", "a+b"),
    ("positions", "positions = [\"1-2 Id\", \"3- It\"]", b"r0a\nr1b\n", "stops", "a / b"),
    ("sheet", "sheet = \"March\"", b"Id,It\nr0,a\n", "a", "stops"),
];

/// What takes many rows to show; its tests are those of sources.
const OF_MANY_ROWS: [&str; 1] = ["split_rows"];

/// What takes other files to show; their tests are those of record files.
const OF_OTHER_FILES: [&str; 2] = ["layout", "by_indicator"];

#[test]
fn every_key_of_a_source_does_what_the_page_says() {
    let mut tried: BTreeSet<&str> = OF_MANY_ROWS.into_iter().chain(OF_OTHER_FILES).collect();
    for (key, lines, export, before, after) in SOURCE {
        let field = if key.ends_with("_mark") { DECIMAL } else { TEXT };
        let records = 1 + usize::from(before.contains('/') || after.contains('/'));
        let desk = |lines: &str| {
            Desk::with_field(field, "from = \"It\"", &[])
                .edited("mapping.toml", "[[map]]", &format!("[source]\n{lines}\n[[map]]"))
                .with_bytes("export.csv", export)
        };
        assert_ne!(before, after, "{key} does nothing here");
        assert_eq!(outcome(&desk(&without(lines, key)), records), before, "without {key}");
        assert_eq!(outcome(&desk(lines), records), after, "with {key}");
        tried.insert(key);
    }
    assert_eq!(tried, keys_below("### [source]: how the export is read"));
}

/// A key of a `[[field]]`, the field's lines, the cells, and what they become without it and with it.
type FieldKey = (&'static str, &'static str, &'static [&'static str], &'static str, &'static str);

const FIELD: [FieldKey; 24] = [
    ("digits", "type = \"text\"\ndigits = 4", &["7", "12345"], "7 / 12345", "0007 / ✗"),
    ("max_length", "type = \"text\"\nmax_length = 3", &["abc", "abcd"], "abc / abcd", "abc / ✗"),
    ("pattern", "type = \"text\"\npattern = \"[a-z]+\"", &["abc", "ab1"], "abc / ab1", "abc / ✗"),
    ("decimals", "type = \"decimal\"\ndecimals = 1", &["1.5", "1.25"], "stops", "1.5 / ✗"),
    (
        "exports_in_unit",
        "type = \"decimal\"\ndecimals = 1\nunit = \"kg\"\nexports_in_unit = true",
        &["1.5"],
        "stops",
        "1.5",
    ),
    ("min", "type = \"integer\"\nmin = \"3\"", &["2", "3"], "2 / 3", "✗ / 3"),
    ("max", "type = \"integer\"\nmax = \"3\"", &["3", "4"], "3 / 4", "3 / ✗"),
    ("format", "type = \"date\"\nformat = \"dd.MM.yyyy\"", &["2026-03-04"], "2026-03-04", "04.03.2026"),
    (
        "not_before",
        "type = \"date\"\nnot_before = \"2026-01-01\"",
        &["2025-12-31", "2026-01-01"],
        "2025-12-31 / 2026-01-01",
        "✗ / 2026-01-01",
    ),
    (
        "not_after",
        "type = \"date\"\nnot_after = \"2026-01-01\"",
        &["2026-01-01", "2026-01-02"],
        "2026-01-01 / 2026-01-02",
        "2026-01-01 / ✗",
    ),
    ("month_format", "type = \"date\"\nmonth_format = \"yyyy-MM\"", &["2026-03"], "✗", "2026-03"),
    ("year_format", "type = \"date\"\nyear_format = \"yyyy\"", &["2026"], "✗", "2026"),
    ("format", "type = \"boolean\"\nformat = \"J/N\"", &["yes", "no"], "true / false", "J / N"),
    (
        "unmatched",
        "type = \"code\"\ncodes = \"two.csv\"\nunmatched = \"keep\"",
        &["A", "Z"],
        "A / ✗",
        "A / Z",
    ),
    ("separator", "type = \"codes\"\ncodes = \"two.csv\"\nseparator = \"+\"", &["A+C"], "stops", "A+B"),
    (
        "column_per_code",
        "type = \"codes\"\ncodes = \"two.csv\"\ncolumn_per_code = \"is_{code}\"",
        &["A"],
        "stops",
        "1¦0",
    ),
    (
        "numbered",
        "type = \"codes\"\ncodes = \"two.csv\"\nnumbered = \"it_{n}\"\nmost = 2",
        &["A"],
        "stops",
        "A¦",
    ),
    ("most", "type = \"codes\"\ncodes = \"two.csv\"\nnumbered = \"it_{n}\"\nmost = 2", &["A"], "stops", "A¦"),
    (
        "values",
        "type = \"reference\"\nvalues = \"two.csv\"\ncolumn = \"label\"",
        &["C", "D"],
        "stops",
        "C / ✗",
    ),
    (
        "column",
        "type = \"reference\"\nvalues = \"two.csv\"\ncolumn = \"label\"",
        &["C", "D"],
        "stops",
        "C / ✗",
    ),
    ("codes", "type = \"code\"\ncodes = \"two.csv\"", &["C"], "stops", "B"),
    ("required", "type = \"text\"\nrequired = true", &["", "x"], " / x", "✗ / x"),
    ("never_send", "type = \"text\"\nnever_send = true", &["x"], "x", "stops"),
    ("position", "type = \"text\"\nposition = 3", &["x"], "x", "¦x"),
];

#[test]
fn every_limit_and_form_of_a_field_does_what_the_page_says() {
    for (key, field, cells, before, after) in FIELD {
        let desk = |field: &str| with_two(Desk::with_field(field, "from = \"It\"", cells));
        assert_eq!(outcome(&desk(&without(field, key)), cells.len()), before, "without {key}");
        assert_eq!(outcome(&desk(field), cells.len()), after, "with {key}");
        assert!(FILES.contains(&format!("`{key}`")), "{key} is not on the page");
    }
}

/// A key of `[upload]`, its lines, and the file of two records without it and with it.
type UploadKey = (&'static str, &'static str, &'static str, &'static str);

const UPLOAD: [UploadKey; 10] = [
    ("delimiter", "delimiter = \";\"", "id,it\nr0,a\nr1,\"b, c\"\n", "id;it\nr0;a\nr1;b, c\n"),
    ("quote", "quote = \"'\"", "id,it\nr0,a\nr1,\"b, c\"\n", "id,it\nr0,a\nr1,'b, c'\n"),
    (
        "quoting",
        "quoting = \"always\"",
        "id,it\nr0,a\nr1,\"b, c\"\n",
        "\"id\",\"it\"\n\"r0\",\"a\"\n\"r1\",\"b, c\"\n",
    ),
    ("line_end", "line_end = \"lf\"", "id,it\r\nr0,a\r\nr1,\"b, c\"\r\n", "id,it\nr0,a\nr1,\"b, c\"\n"),
    ("header", "header = false", "id,it\nr0,a\nr1,\"b, c\"\n", "r0,a\nr1,\"b, c\"\n"),
    ("bom", "bom = true", "id,it\nr0,a\nr1,\"b, c\"\n", "\u{feff}id,it\nr0,a\nr1,\"b, c\"\n"),
    ("labels", "labels = true", "id,it\nr0,a\nr1,\"b, c\"\n", "id,it\n,\nr0,a\nr1,\"b, c\"\n"),
    ("columns", "columns = 3", "id,it\nr0,a\nr1,\"b, c\"\n", "id,it,\nr0,a,\nr1,\"b, c\",\n"),
    (
        "encoding",
        "encoding = \"utf-16le\"",
        "id,it\nr0,a\nr1,\"b, c\"\n",
        "i\0d\0,\0i\0t\0\n\0r\0\u{30}\0,\0a\0\n\0r\0\u{31}\0,\0\"\0b\0,\0 \0c\0\"\0\n\0",
    ),
    ("file_name", "file_name = \"up.csv\"", "", "id,it\nr0,a\nr1,\"b, c\"\n"),
];

#[test]
fn every_key_of_the_upload_file_does_what_the_page_says() {
    for (key, lines, before, after) in UPLOAD {
        let file = |lines: &str| {
            let mut lines = lines.to_owned();
            for usual in ["file_name = \"up.csv\"\n", "line_end = \"lf\"\n"] {
                let own = usual.split(' ').next().unwrap();
                if own != key {
                    lines.push_str(usual);
                }
            }
            let desk = Desk::with_field(TEXT, "from = \"It\"", &["a", "b, c"]);
            let desk = desk.edited(
                "target.toml",
                "[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n",
                &format!("[upload]\n{lines}"),
            );
            desk.conform().ended(0);
            if desk.exists("batch/upload/up.csv") { desk.read("batch/upload/up.csv") } else { String::new() }
        };
        assert_eq!(file(&without(&format!("{lines}\n"), key)), before, "without {key}");
        assert_eq!(file(&format!("{lines}\n")), after, "with {key}");
        assert!(FILES.contains(&format!("`{key}`")), "{key} is not on the page");
    }
}
