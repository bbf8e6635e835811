//! The laws, for any table, any layout and any bytes.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use dusk_core::conforming::Judged;
use dusk_core::evidence::{Row, Severity, SourceId};
use dusk_core::files::unguarded;
use dusk_core::{Error, mapping};

use dusk_core::run::{MadeBatch, Summary, Wanted, explain, try_rows};
use dusk_core::sources::encoding_named;
use proptest::prelude::*;

use crate::desk::{Desk, OLD_ENCODINGS, table};

/// What a run made: its summary, and the upload file.
struct Made {
    summary: Summary,
    upload: Vec<u8>,
    changes: String,
}

fn desk_of(target: &str, mapping: &str) -> Desk {
    let codes = "code,label,also\nW,White,cream\nY,Yellow,\nB2,Blue,sky|azure\n";
    Desk::new().with("target.toml", target).with("mapping.toml", mapping).with("codes.csv", codes)
}

/// Conforms `export`, and gives what came of it.
fn conform(desk: &Desk, export: &[u8]) -> Result<Made, Error> {
    desk.write("export.csv", export);
    let given = desk.read_export("export.csv")?;
    let job = given.job();
    let MadeBatch { summary, outputs, folder, .. } = desk.batch_of(&job)?;
    // Every file that was made is as long as its print says.
    for output in &outputs {
        assert_eq!(fs::metadata(folder.join(&output.file)).unwrap().len(), output.bytes);
    }
    let checked = job.prepare(&|_, _| {})?.check(&|_, _| {})?;
    let both = ((checked.totals, &checked.causes), (summary.totals, &summary.causes));
    assert_eq!(both.0, both.1, "check and conform agree");
    let upload = fs::read(folder.join("upload/up.csv")).unwrap();
    Ok(Made { summary, upload, changes: desk.read("batch/changes.csv") })
}

/// A table as comma-separated text, with every cell quoted.
fn export(header: &[&str], rows: &[Vec<String>]) -> String {
    let quoted = |cell: &str| format!("\"{}\"", cell.replace('"', "\"\""));
    let mut text = header.join(",");
    text.push('\n');
    for row in rows {
        text.push_str(&row.iter().map(|cell| quoted(cell)).collect::<Vec<_>>().join(","));
        text.push('\n');
    }
    text
}

/// Three text fields that keep their text as it is.
fn plain_fields() -> (String, String) {
    let fields = ["a", "b", "c"].map(|name| format!("[[field]]\nname = \"{name}\"\ntype = \"text\"\n"));
    let maps = ["a", "b", "c"].map(|name| {
        format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\ntrim = false\nspaces = \"keep\"\nhidden = \"keep\"\nletters = \"keep\"\nwrong_decoding = \"keep\"\n")
    });
    (fields.concat(), format!("target = \"target.toml\"\n{}", maps.concat()))
}

/// Cells with everything in them that can go wrong in a delimited file.
fn cell() -> impl Strategy<Value = String> {
    prop_oneof![
        3 => "[a-zA-Z0-9 ]{0,12}",
        2 => "[,;|\t\"'\r\n a]{0,6}",
        1 => "[ü€蜂\u{a0}\u{feff}\u{1f41d}x]{0,5}",
    ]
}

const TYPED_TARGET: &str = r#"
[target]
name = "T"
[upload]
line_end = "lf"
file_name = "up.csv"
[[field]]
name = "key"
type = "text"
digits = 4
key = true
[[field]]
name = "day"
type = "date"
[[field]]
name = "at"
type = "datetime"
[[field]]
name = "weight"
type = "decimal"
decimals = 2
unit = "kg"
min = "0"
[[field]]
name = "frames"
type = "integer"
[[field]]
name = "queen"
type = "code"
codes = "codes.csv"
[[field]]
name = "treated"
type = "codes"
codes = "codes.csv"
separator = "|"
[[field]]
name = "marked"
type = "boolean"
format = "1/0"
[[field]]
name = "note"
type = "text"
max_length = 10
[[rule]]
name = "r"
must = "frames <= 40 or weight > 1"
"#;

const FIELDS: [&str; 9] = ["key", "day", "at", "weight", "frames", "queen", "treated", "marked", "note"];

fn typed_mapping(extra: impl Fn(&str) -> &'static str) -> String {
    let maps =
        FIELDS.map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n{}\n", extra(name)));
    format!("target = \"target.toml\"\n{}", maps.concat())
}

fn messy_mapping() -> String {
    typed_mapping(|name| match name {
        "day" => {
            "order = \"day-month-year\"\nyears_from = 1970\norder_where = [{ shape = \"9999-09-09\", order = \"year-month-day\" }]"
        }
        "at" => {
            "order = \"day-month-year\"\nyears_from = 1970\norder_where = [{ shape = \"9999-09-09 09:09\", order = \"year-month-day\" }]"
        }
        "weight" => "unit = \"lb\"\nround = \"half-even\"",
        "treated" => "between = \";\"",
        "note" => "line_breaks = \"space\"",
        _ => "",
    })
}

fn identity_mapping() -> String {
    typed_mapping(|name| match name {
        "weight" => "decimal_mark = \".\"\nunit = \"kg\"",
        "day" | "at" => "order = \"year-month-day\"",
        _ => "",
    })
}

/// Rows that mostly fit, written in everybody's own way.
fn messy_row() -> impl Strategy<Value = Vec<String>> {
    let pick = |values: &'static [&'static str]| prop::sample::select(values).prop_map(str::to_owned);
    (
        prop_oneof![5 => "[0-9]{1,4}", 1 => "[0-9a]{0,6}"],
        prop_oneof![5 => "[0-3]?[1-9]/(0?[1-9]|1[0-2])/20[12][0-9]", 1 => pick(&["2026-02-28", "5 May 2026", "", "soon", "1/2/03"])],
        prop_oneof![4 => "[0-2]?[1-9]/0?[1-9]/2026 [0-2]?[0-9]:[0-5][0-9]", 1 => pick(&["", "1/2/2026", "2026-01-02T03:04:05"])],
        prop_oneof![4 => "[0-9]{1,3}(\\.[0-9]{1,3})?", 1 => pick(&["", "1,5", "1,204", "2 lb", "2 kg", "-1", "1E+3"])],
        prop_oneof![4 => "[0-9]{1,2}", 1 => pick(&["", "4.0", "x"])],
        pick(&["w", "Yellow", " sky", "B2", "pink", ""]),
        pick(&["white; sky", "Y;;w", "", "w; pink", "azure"]),
        pick(&["yes", "N", "1", "", "done"]),
        prop_oneof!["[a-z ]{0,8}", cell()],
    )
        .prop_map(|(a, b, c, d, e, f, g, h, i)| vec![a, b, c, d, e, f, g, h, i])
}

#[test]
fn files_in_every_encoding_come_out_as_the_same_text() {
    let (fields, mapping) = plain_fields();
    let target =
        format!("[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n{fields}");
    let samples = [
        "Öst Quay – 5 €",
        "Château, déjà",
        "Łódź ąę",
        "Жук пчела",
        "μέλι",
        "دبش",
        "דבש",
        "蜂蜜 ミツバチ",
        "꿀벌",
        "น้ำผึ้ง",
        "Äiti õun",
        "ħobż",
        "țară",
        "plain",
    ];
    for label in ["utf-8", "utf-16le", "utf-16be"].into_iter().chain(OLD_ENCODINGS) {
        let encoding = encoding_named(label).unwrap();
        let write = |text: &str| match label {
            "utf-16le" => Some(text.encode_utf16().flat_map(u16::to_le_bytes).collect()),
            "utf-16be" => Some(text.encode_utf16().flat_map(u16::to_be_bytes).collect()),
            _ => {
                let (bytes, _, lost) = encoding.encode(text);
                (!lost).then(|| bytes.into_owned())
            }
        };
        let readable: Vec<&str> = samples.into_iter().filter(|text| write(text).is_some()).collect();
        let rows: Vec<Vec<String>> =
            readable.iter().map(|text| vec![(*text).to_owned(), "x".into(), String::new()]).collect();
        let desk = desk_of(&target, &format!("{mapping}[source]\nencoding = \"{label}\"\n"));
        let made = conform(&desk, &write(&export(&["a", "b", "c"], &rows)).unwrap()).unwrap();
        let uploaded = table(std::str::from_utf8(&made.upload).unwrap(), ",", "\"");
        assert_eq!(uploaded[1..], rows, "{label}");
        assert!(readable.len() > 1, "{label} has letters of its own");
        // Without its name the text is the same, or the run asks.
        let unnamed = conform(&desk_of(&target, &mapping), &write(&export(&["a", "b", "c"], &rows)).unwrap());
        match unnamed {
            Ok(unnamed) => assert!(unnamed.upload == made.upload, "{label} was taken for another encoding"),
            Err(error) => assert!(matches!(error, Error::Source { .. }), "{label}: {error}"),
        }
    }
}

proptest! {
    // Each case is a whole run on files; PROPTEST_CASES asks for more of them.
    #![proptest_config(ProptestConfig {
        cases: std::env::var("PROPTEST_CASES").ok().and_then(|cases| cases.parse().ok()).unwrap_or(64),
        failure_persistence: None,
        ..ProptestConfig::default()
    })]

    /// Law 1: every row is accounted for once, and every rejected one is listed with a reason.
    #[test]
    fn every_row_is_accounted_for(rows in prop::collection::vec(messy_row(), 0..30), torn in "[a-z,\"\n]{0,12}") {
        let desk = desk_of(TYPED_TARGET, &messy_mapping());
        let text = format!("{}{torn}", export(&FIELDS, &rows));
        let Ok(made) = conform(&desk, text.as_bytes()) else {
            // Only a torn quote may stop the run.
            prop_assert!(torn.contains('"'));
            return Ok(());
        };
        let totals = made.summary.totals;
        prop_assert!(totals.add_up());
        let read = table(&text, ",", "\"").len() as u64;
        prop_assert_eq!(totals.read, read - 1);
        let uploaded = table(std::str::from_utf8(&made.upload).unwrap(), ",", "\"").len() as u64;
        prop_assert_eq!(uploaded, totals.accepted + 1);
        let rejects = fs::read(desk.path("batch/rejects.csv")).unwrap();
        let rejects: Vec<_> = csv::Reader::from_reader(rejects.as_slice()).into_records().map(Result::unwrap).collect();
        prop_assert_eq!(rejects.len() as u64, totals.rejected);
        prop_assert!(rejects.iter().all(|row| !row[3].is_empty()));
    }

    /// Law 6: what was conformed once conforms again, unchanged to the byte.
    /// Rows that are left out and rows that make several records are counted as a plain reckoning
    /// counts them.
    #[test]
    fn rows_left_out_and_repeated_are_counted(
        rows in prop::collection::vec(("[vs]?", "[0-9]{0,2}", "[0-9]{0,2}", "[a-c]"), 0..40),
    ) {
        let target = "[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n\
            [[field]]\nname = \"id\"\ntype = \"text\"\n[[field]]\nname = \"amount\"\ntype = \"integer\"\nmax = \"89\"\n[[field]]\nname = \"n\"\ntype = \"integer\"\n";
        let mapping = "target = \"target.toml\"\n[rows]\nkeep = '{Kind} = \"v\"'\n[repeat]\nnumbers = [\"1\", \"3\"]\nnumber = \"n\"\n\
            [[map]]\nfield = \"id\"\nfrom = \"Id\"\n[[map]]\nfield = \"amount\"\nfrom = \"A {n}\"\n";
        let desk = desk_of(target, mapping);
        let cells: Vec<Vec<String>> =
            rows.iter().map(|(kind, one, three, id)| vec![kind.clone(), one.clone(), three.clone(), id.clone()]).collect();
        let made = conform(&desk, export(&["Kind", "A 1", "A 3", "Id"], &cells).as_bytes()).map_err(|error| TestCaseError::fail(error.to_string()))?;
        let (mut accepted, mut rejected, mut left_out, mut upload) = (0, 0, 0, String::from("id,amount,n\n"));
        for (kind, one, three, id) in &rows {
            let amounts: Vec<(u64, &str)> = [("1", one), ("3", three)]
                .into_iter()
                .filter(|(_, amount)| !amount.is_empty())
                .map(|(_, amount)| (amount.parse().unwrap(), if std::ptr::eq(amount, one) { "1" } else { "3" }))
                .collect();
            match kind.as_str() {
                "" => rejected += 1,
                "v" if amounts.is_empty() => left_out += 1,
                "v" if amounts.iter().any(|(amount, _)| *amount > 89) => rejected += 1,
                "v" => {
                    accepted += 1;
                    upload.extend(amounts.iter().map(|(amount, n)| format!("{id},{amount},{n}\n")));
                }
                _ => left_out += 1,
            }
        }
        let totals = made.summary.totals;
        prop_assert_eq!((totals.accepted, totals.rejected, totals.left_out), (accepted, rejected, left_out));
        prop_assert_eq!(totals.read, rows.len() as u64);
        prop_assert_eq!(String::from_utf8(made.upload).unwrap(), upload);
    }

    /// A column that is filled down holds what a plain walk down the rows gives, whatever stands between:
    /// blank rows, words for blank cells, torn rows, repeated headers, rows that are left out.
    #[test]
    fn filled_down_is_what_stands_above(
        rows in prop::collection::vec((prop_oneof![4 => "", 3 => "[A-C]", 1 => Just("n/a".to_owned())], "[vs]", 0..12_u8), 0..40),
    ) {
        let target = "[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n[[field]]\nname = \"town\"\ntype = \"text\"\n[[field]]\nname = \"id\"\ntype = \"text\"\n";
        let mapping = "target = \"target.toml\"\n[source]\nblank = [\"N/A\"]\n[rows]\nkeep = '{Kind} = \"v\"'\n\
            [[map]]\nfield = \"town\"\nfrom = \"Town\"\nfill_down = true\n[[map]]\nfield = \"id\"\nfrom = \"Id\"\n";
        let desk = desk_of(target, mapping);
        let (mut text, mut upload, mut rejected) = (String::from("Town,Kind,Id\n"), String::from("town,id\n"), 0);
        let mut above: Option<String> = Some(String::new());
        for (number, (town, kind, what)) in rows.iter().enumerate() {
            match what {
                0 => text.push_str(",,\n"),
                1 => text.push_str("Town,Kind,Id\n"),
                2 => {
                    text.push_str(&format!("{town},{kind}\n"));
                    rejected += 1;
                    above = None;
                }
                _ => {
                    text.push_str(&format!("{town},{kind},{number}\n"));
                    if !town.is_empty() && town != "n/a" {
                        above = Some(town.clone());
                    }
                    match (&above, kind.as_str()) {
                        (_, "s") => {}
                        (Some(above), _) => upload.push_str(&format!("{above},{number}\n")),
                        (None, _) => rejected += 1,
                    }
                }
            }
        }
        let made = conform(&desk, text.as_bytes()).map_err(|error| TestCaseError::fail(error.to_string()))?;
        prop_assert_eq!(String::from_utf8(made.upload).unwrap(), upload, "{}", text);
        prop_assert_eq!(made.summary.totals.rejected, rejected);
    }

    /// The rows of a trial show what it says: every shape of value of the whole source, and every cause.
    #[test]
    fn the_telling_rows_show_everything(rows in prop::collection::vec(messy_row(), 1..30)) {
        let desk = desk_of(TYPED_TARGET, &messy_mapping());
        desk.write("export.csv", export(&FIELDS, &rows).as_bytes());
        let given = desk.given();
        let job = given.job();
        let ready = job.prepare(&|_, _| {}).unwrap();
        let one = try_rows(&ready, &Wanted::Telling(1), &|_, _| {});
        let Ok(one) = one else { return Ok(()) };
        let all = try_rows(&ready, &Wanted::Telling(one.rows_for_all), &|_, _| {}).unwrap();
        prop_assert_eq!(all.shown, all.things);
        prop_assert_eq!(all.rows.iter().map(|row| row.shows.len()).sum::<usize>(), all.things, "each once");
        prop_assert!(all.rows.iter().all(|row| row.shows.len() <= one.shown), "the first shows most");
        // A reckoning of its own: which kinds of characters a value is made of.
        let made_of = |value: &str| {
            let value = value.trim();
            let is = [char::is_alphabetic as fn(char) -> bool, |c| c.is_ascii_digit(), |c| c == '/', |c| c == '.'];
            is.map(|is| value.contains(is))
        };
        let chosen: Vec<usize> = all.rows.iter().map(|row| row.row.0 as usize).collect();
        let whole = export(&FIELDS, &rows);
        let cells = table(&whole, ",", "\"");
        for column in 0..FIELDS.len() {
            let in_all: std::collections::BTreeSet<_> =
                cells.iter().skip(1).filter(|row| row.iter().any(|cell| !cell.trim().is_empty())).map(|row| made_of(&row[column])).collect();
            let in_chosen: std::collections::BTreeSet<_> =
                chosen.iter().map(|row| made_of(&cells[row - 1][column])).collect();
            prop_assert_eq!(&in_chosen, &in_all, "column {}", FIELDS[column]);
        }
        for cause in &all.summary.causes {
            let shown = all.rows.iter().flat_map(|row| &row.findings).any(|finding| finding.fault.kind() == cause.kind && finding.about == cause.about);
            prop_assert!(shown, "{:?} {}", cause.kind, cause.about);
        }
    }

    /// What is told of a row is what a batch made of it: its fate, every value, and every change with its steps.
    #[test]
    fn every_changed_cell_can_be_explained(rows in prop::collection::vec(messy_row(), 1..12)) {
        let desk = desk_of(TYPED_TARGET, &messy_mapping());
        let made = conform(&desk, export(&FIELDS, &rows).as_bytes()).unwrap();
        let uploaded: Vec<Vec<String>> = table(&String::from_utf8(made.upload).unwrap(), ",", "\"");
        let mut uploaded = uploaded.into_iter().skip(1);
        let given = desk.given();
        let job = given.job();
        let ready = job.prepare(&|_, _| {}).unwrap();
        let mut changes: BTreeMap<(String, String), u64> = BTreeMap::new();
        let mut rejected = 0;
        // Line breaks in cells are no rows.
        for row in 0..rows.len() as u64 {
            let told = explain(&ready, SourceId::FIRST, Row(row + 2), &|_, _| {}).unwrap();
            rejected += u64::from(told.fate == Judged::Rejected);
            prop_assert_eq!(told.fate == Judged::Rejected, told.findings.iter().any(|finding| finding.fault.kind().severity() == Severity::Reject));
            if told.fate != Judged::Accepted {
                continue;
            }
            let texts: Vec<&str> = told.records[0].outcomes.iter().map(|outcome| outcome.text.as_str()).collect();
            prop_assert_eq!(&uploaded.next().unwrap(), &texts, "row {}", row + 2);
            for (name, outcome) in FIELDS.iter().zip(&told.records[0].outcomes).filter(|(_, outcome)| outcome.trail.changed()) {
                let steps = &outcome.trail.taken;
                prop_assert!(!steps.is_empty() && steps.iter().all(|taken| !taken.basis.to_string().is_empty()), "{name}");
                prop_assert_eq!(&steps.last().unwrap().after, &outcome.text, "{}", name);
                *changes.entry(((*name).to_owned(), outcome.text.clone())).or_default() += 1;
            }
        }
        prop_assert!(uploaded.next().is_none());
        prop_assert_eq!(rejected, made.summary.totals.rejected);
        prop_assert_eq!(changes.values().sum::<u64>(), made.summary.changed_cells);
        // The list of changes counts the same.
        let mut listed: BTreeMap<(String, String), u64> = BTreeMap::new();
        for change in csv::Reader::from_reader(made.changes.as_bytes()).records().map(Result::unwrap) {
            *listed.entry((change[0].to_owned(), unguarded(&change[2]).into_owned())).or_default() += change[5].parse::<u64>().unwrap();
        }
        prop_assert_eq!(listed, changes);
    }

    #[test]
    fn conforming_twice_changes_nothing(rows in prop::collection::vec(messy_row(), 0..20)) {
        let desk = desk_of(TYPED_TARGET, &messy_mapping());
        let once = conform(&desk, export(&FIELDS, &rows).as_bytes()).unwrap();
        let again = desk_of(TYPED_TARGET, &identity_mapping());
        let twice = conform(&again, &once.upload).unwrap();
        prop_assert_eq!(twice.summary.totals.accepted, once.summary.totals.accepted, "{:?}", twice.summary.causes);
        prop_assert_eq!(String::from_utf8(twice.upload).unwrap(), String::from_utf8(once.upload).unwrap());
        prop_assert_eq!(twice.summary.changed_cells, 0, "{}", twice.changes);
    }

    /// What is written reads back as the same table, for any table and any layout.
    #[test]
    fn what_is_written_reads_back(
        rows in prop::collection::vec(prop::collection::vec(cell(), 3), 0..12),
        delimiter in prop::sample::select(vec![",", ";", "|", "\\t", "¦", "a"]),
        quote in prop::sample::select(vec!["\\\"", "'", "«"]),
        quoting in prop::sample::select(vec!["always", "texts", "when-needed", "never"]),
        line_end in prop::sample::select(vec!["lf", "crlf", "cr"]),
        encoding in prop::sample::select(vec!["utf-8", "utf-16le", "utf-16be", "windows-1252", "shift_jis", "gb18030", "iso-2022-jp"]),
        bom in any::<bool>(),
        header in any::<bool>(),
    ) {
        let unicode = encoding.starts_with("utf");
        prop_assume!(unicode || (delimiter, quote) != ("¦", "«") && encoding != "iso-2022-jp" || delimiter != "¦" && quote != "«");
        let (fields, mapping) = plain_fields();
        let target = format!(
            "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\nencoding = \"{encoding}\"\nbom = {}\n\
             delimiter = \"{delimiter}\"\nquote = \"{quote}\"\nquoting = \"{quoting}\"\nline_end = \"{line_end}\"\nheader = {header}\n{fields}",
            bom && unicode
        );
        // A heading that needs quotes where there are none, or a mark that the encoding does not
        // have, is refused before anything is written.
        let desk = desk_of(&target, &mapping);
        let text = export(&["a", "b", "c"], &rows);
        let made = match conform(&desk, text.as_bytes()) {
            Ok(made) => made,
            Err(error) => {
                let refused = matches!(error, Error::Request(_) | Error::Problems(_));
                prop_assert!(refused && (quoting == "never" || !unicode), "{error}");
                return Ok(());
            }
        };
        let decoded = encoding_named(encoding).unwrap().decode_with_bom_removal(&made.upload).0.into_owned();
        let delimiter = delimiter.replace("\\t", "\t");
        let mut read = table(&decoded, &delimiter, &quote.replace('\\', ""));
        if header {
            prop_assert_eq!(read.remove(0), ["a", "b", "c"]);
        }
        let rejected: Vec<u64> = {
            let rejects = fs::read(desk.path("batch/rejects.csv")).unwrap();
            csv::Reader::from_reader(rejects.as_slice()).into_records().map(|row| row.unwrap()[2].parse().unwrap()).collect()
        };
        prop_assert!(rejected.is_empty() || quoting == "never" || !unicode);
        let blank = |row: &Vec<String>| row.iter().all(|cell| cell.trim().is_empty());
        let kept = rows.iter().zip(2u64..).filter(|(row, number)| !rejected.contains(number) && !blank(row));
        let kept: Vec<Vec<String>> = kept.map(|(row, _)| row.clone()).collect();
        prop_assert_eq!(read, kept);
    }

    /// Any bytes at all: a result or a clear error, never a panic.
    #[test]
    fn bad_bytes_never_panic(
        bytes in prop::collection::vec(prop_oneof![any::<u8>(), prop::sample::select(b"\",;\r\n\x00\xff\xfeab1/".to_vec())], 0..400),
        encoding in prop::sample::select(vec!["", "windows-1252", "utf-16le", "shift_jis", "iso-2022-jp", "utf-8"]),
        header in any::<bool>(),
    ) {
        let (fields, mapping) = plain_fields();
        let source = if encoding.is_empty() { String::new() } else { format!("[source]\nencoding = \"{encoding}\"\n") };
        let desk = desk_of(&format!("[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n{fields}"), &format!("{mapping}{source}"));
        let export = if header { [b"a,b,c\n".to_vec(), bytes].concat() } else { bytes };
        match conform(&desk, &export) {
            Ok(made) => prop_assert!(made.summary.totals.add_up()),
            Err(error) => prop_assert!(matches!(error, Error::Source { .. }), "{error}"),
        }
        // The same bytes as settings and as a code list.
        desk.write("codes.csv", &export);
        desk.write("target.toml", &export);
        prop_assert!(mapping::read(&desk.path("mapping.toml")).is_err());
        desk.write("mapping.toml", &export);
        prop_assert!(mapping::read(Path::new(&desk.path("mapping.toml"))).is_err());
    }
}
