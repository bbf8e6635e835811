//! Descriptions keep what they say: through the open standard and back, and through a template that
//! somebody fills in.

use std::fs;
use std::path::Path;

use dusk_core::description::{Blank, Filling, Target};
use dusk_core::drafting::{DraftOptions, draft};
use dusk_core::mapping;
use dusk_core::run::{Job, NewBatch, write_batch};
use dusk_core::sources::{Source, Threads};
use jiff::civil::date;
use proptest::prelude::*;

fn quoted(text: &str) -> String {
    toml::Value::String(text.to_owned()).to_string()
}

/// The keys of a type with its limits.
fn any_type() -> impl Strategy<Value = String> {
    let limits = (any::<bool>(), -50_i32..50, 0_i32..100);
    prop_oneof![
        (proptest::option::of(1_u8..60), any::<bool>()).prop_map(|(most, form)| {
            let most = most.map_or_else(String::new, |most| format!("max_length = {most}\n"));
            format!("type = \"text\"\n{most}{}", if form { "pattern = '[A-Z]+\\d?|\"'\n" } else { "" })
        }),
        (2_u8..12).prop_map(|digits| format!("type = \"text\"\ndigits = {digits}\n")),
        (limits.clone(), 0_u8..5).prop_map(|((limited, min, more), decimals)| {
            let kind = if decimals == 0 {
                "type = \"integer\"\n".into()
            } else {
                format!("type = \"decimal\"\ndecimals = {decimals}\n")
            };
            if limited { format!("{kind}min = \"{min}\"\nmax = \"{}\"\n", min + more) } else { kind }
        }),
        (0_usize..3, any::<bool>()).prop_map(|(form, bound)| {
            let format = ["yyyy-MM-dd", "dd.MM.yyyy", "yyyyMMdd"][form];
            format!(
                "type = \"date\"\nformat = \"{format}\"\n{}",
                if bound { "not_before = \"2020-02-29\"\n" } else { "" }
            )
        }),
        Just("type = \"datetime\"\nformat = \"yyyy-MM-dd'T'HH:mm\"\n".to_owned()),
        Just("type = \"time\"\nformat = \"HH:mm\"\n".to_owned()),
        (0_usize..3)
            .prop_map(|words| format!("type = \"boolean\"\nformat = \"{}\"\n", ["Y/N", "1/0", "x/-"][words])),
        Just("type = \"code\"\ncodes = \"codes/colour.csv\"\n".to_owned()),
        Just("type = \"codes\"\ncodes = \"codes/colour.csv\"\nseparator = \"+\"\n".to_owned()),
    ]
}

/// A whole description that says nothing the standard cannot say.
fn any_description() -> impl Strategy<Value = String> {
    let words = || proptest::option::of("[A-Za-zÄéß0-9,;'\"()\\\\-]{1,8}( [a-zé]{1,6}){0,3}");
    let field = (any_type(), words(), words(), words(), any::<bool>(), any::<bool>());
    let layout = (0_usize..4, any::<bool>(), 0_usize..3);
    (proptest::collection::vec(field, 1..9), layout).prop_map(|(fields, (delimiter, header, line_end))| {
        let delimiter = [",", ";", "\\t", "|"][delimiter];
        let line_end = ["crlf", "lf", "cr"][line_end];
        let mut text = format!(
            "[target]\nname = \"Some target\"\n[upload]\ndelimiter = \"{delimiter}\"\nheader = {header}\nline_end = \"{line_end}\"\n"
        );
        for (number, (kind, heading, label, description, required, key)) in fields.into_iter().enumerate() {
            text.push_str(&format!("\n[[field]]\nname = \"field_{number}\"\n{kind}required = {required}\nkey = {key}\n"));
            // Headings are all different.
            if let Some(heading) = heading {
                text.push_str(&format!("heading = {}\n", quoted(&format!("{heading} {number}"))));
            }
            for (key, value) in [("label", label), ("description", description)] {
                if let Some(value) = value {
                    text.push_str(&format!("{key} = {}\n", quoted(&value)));
                }
            }
        }
        text
    })
}

fn write(folder: &Path, name: &str, text: &str) {
    let path = folder.join(name);
    fs::create_dir_all(path.parent().unwrap()).unwrap();
    fs::write(path, text).unwrap();
}

const COLOURS: &str = "code,label\nW,White\nY,Yellow\n";

/// A short text. What looks like a power of ten is rejected on purpose, since its digits may be lost; an apostrophe in
/// front of a number is the mark by which a spreadsheet program keeps it text, and is taken away.
fn any_cell() -> impl Strategy<Value = String> {
    let is_plain = |text: &String| !text.to_lowercase().contains("e+") && !text.starts_with('\'');
    "[A-Za-z0-9=+@'\"éüß;,/-]{1,8}".prop_filter("no power of ten and no mark of text", is_plain)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    #[test]
    fn a_description_comes_back_from_the_open_standard_as_it_was(text in any_description()) {
        let folder = tempfile::tempdir().unwrap();
        write(folder.path(), "target.toml", &text);
        write(folder.path(), "codes/colour.csv", COLOURS);
        let target = Target::read(&folder.path().join("target.toml")).unwrap();
        let metadata = target.csvw("upload.csv");
        write(folder.path(), "meta.json", &metadata.to_string());
        let drafted = draft(&[folder.path().join("meta.json")], &DraftOptions::default()).unwrap();
        prop_assert_eq!(&drafted.questions, &[], "{}", metadata);
        let again = folder.path().join("again/target.toml");
        drafted.save(&again).unwrap();
        let read = Target::read(&again).map_err(|error| TestCaseError::fail(format!("{error}\n{}", drafted.toml())))?;
        prop_assert_eq!(read.csvw("upload.csv"), metadata);
        // Drafting once more changes no byte.
        let before = fs::read(&again).unwrap();
        let saved = draft(&[folder.path().join("meta.json")], &DraftOptions::default()).unwrap().save(&again).unwrap();
        prop_assert!(saved.files.is_empty() && saved.changes.is_empty() && saved.kept.is_empty(), "{:?}", saved);
        prop_assert_eq!(fs::read(&again).unwrap(), before);
    }

    #[test]
    fn a_template_filled_in_conforms_unchanged(
        rows in proptest::collection::vec(proptest::collection::vec(any_cell(), 4), 1..12),
        across in any::<bool>(),
    ) {
        let folder = tempfile::tempdir().unwrap();
        let fields = ["a", "b", "c", "d"];
        let described: String = fields.iter().map(|name| format!("[[field]]\nname = \"{name}\"\ntype = \"text\"\n")).collect();
        write(folder.path(), "target.toml", &format!("[target]\nname = \"T\"\n[upload]\ndelimiter = \";\"\nfile_name = \"up.csv\"\n{described}"));
        let maps: String = fields.iter().map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n")).collect();
        let records = if across { "across" } else { "down" };
        write(folder.path(), "mapping.toml", &format!("target = \"target.toml\"\n[source]\nsheet = \"Records\"\nrecords = \"{records}\"\n{maps}"));
        let (mapping, target) = mapping::read(&folder.path().join("mapping.toml")).unwrap();
        let today = date(2026, 4, 30);
        let filling = Filling { rows, left_out: Vec::new() };
        let blank = Blank { target: &target, across, today, filling: filling.clone() };
        fs::write(folder.path().join("filled.xlsx"), blank.workbook().unwrap()).unwrap();
        let source = Source::open(&folder.path().join("filled.xlsx"), &mapping.source, &mapping.known(&target)).unwrap();
        let sources = [source];
        let job = Job::new(&target, &mapping, &sources, today, Threads::default());
        let ready = job.prepare(&|_, _| {}).unwrap();
        let summary = write_batch(&ready, &NewBatch::at(&folder.path().join("batch")), &|_, _| {}).unwrap().summary;
        prop_assert_eq!(summary.totals.accepted, filling.rows.len() as u64);
        prop_assert_eq!(summary.changed_cells, 0);
        let expected = Blank { target: &target, across: false, today, filling }.delimited().unwrap();
        prop_assert_eq!(fs::read(folder.path().join("batch/upload/up.csv")).unwrap(), expected);
    }
}
