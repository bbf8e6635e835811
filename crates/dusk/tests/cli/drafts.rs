//! Descriptions drafted from dictionaries of different make, each as a person would write it.

use std::fs;
use std::path::{Path, PathBuf};

use rust_xlsxwriter::{DataValidation, DataValidationRule, Format, Formula, Note, Workbook};

use crate::desk::Desk;

fn dictionaries() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/dictionaries")
}

/// The rows of a sheet that is kept as commas and quotes.
fn rows(path: &Path) -> Vec<Vec<String>> {
    let mut reader = csv::ReaderBuilder::new().has_headers(false).flexible(true).from_path(path).unwrap();
    reader.records().map(|record| record.unwrap().iter().map(str::to_owned).collect()).collect()
}

/// A workbook of the sheets in a folder, `1-Fields.csv` and so on, with the ranges of `merged.txt`.
pub(crate) fn workbook(folder: &Path) -> Vec<u8> {
    let mut book = Workbook::new();
    let mut sheets: Vec<PathBuf> = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    sheets.sort();
    let merged = fs::read_to_string(folder.join("merged.txt")).unwrap_or_default();
    for path in sheets.iter().filter(|path| path.extension().is_some_and(|ending| ending == "csv")) {
        let name = path.file_stem().unwrap().to_str().unwrap().split_once('-').unwrap().1.to_owned();
        let sheet = book.add_worksheet().set_name(&name).unwrap();
        // Blank lines are rows as well.
        let blank_before: Vec<usize> = fs::read_to_string(path)
            .unwrap()
            .lines()
            .enumerate()
            .filter(|(_, line)| line.is_empty())
            .map(|(row, _)| row)
            .collect();
        let mut at = 0;
        for cells in rows(path) {
            while blank_before.contains(&at) {
                at += 1;
            }
            for (column, cell) in (0..).zip(&cells).filter(|(_, cell)| !cell.is_empty()) {
                sheet.write_string(u32::try_from(at).unwrap(), column, cell).unwrap();
            }
            at += 1;
        }
        for range in merged.lines().filter_map(|line| line.strip_prefix(&format!("{name} "))) {
            let corner = |text: &str| {
                (
                    text.trim_start_matches(char::is_alphabetic).parse::<u32>().unwrap() - 1,
                    u16::from(text.as_bytes()[0] - b'A'),
                )
            };
            let (first, last) = range.split_once(':').unwrap();
            let ((top, left), (bottom, right)) = (corner(first), corner(last));
            let text = rows(path)
                .get(top as usize - blank_before.iter().filter(|blank| **blank < top as usize).count())
                .and_then(|row| row.get(usize::from(left)).cloned())
                .unwrap_or_default();
            sheet.merge_range(top, left, bottom, right, &text, &Format::new()).unwrap();
        }
    }
    book.save_to_buffer().unwrap()
}

/// A desk with the materials of a scenario, and their names.
fn materials(scenario: &str) -> (Desk, Vec<String>) {
    let folder = dictionaries().join(scenario);
    let mut paths: Vec<PathBuf> = fs::read_dir(&folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    paths.sort();
    let (mut desk, mut names) = (Desk::empty(), Vec::new());
    for path in paths {
        let name = path.file_name().unwrap().to_str().unwrap().to_owned();
        if matches!(name.as_str(), "expected.toml" | "expected" | "questions.txt") {
            continue;
        }
        if let Some(book) = name.strip_suffix(".d") {
            desk = desk.with_bytes(book, &workbook(&path));
            names.push(book.to_owned());
        } else if let Some(stem) = name.strip_suffix(".sql") {
            let database = format!("{stem}.db");
            let connection = rusqlite::Connection::open(desk.path(&database)).unwrap();
            connection.execute_batch(&fs::read_to_string(&path).unwrap()).unwrap();
            names.push(database);
        } else if path.is_dir() {
            for entry in fs::read_dir(&path).unwrap() {
                let entry = entry.unwrap();
                desk = desk.with_bytes(
                    &format!("{name}/{}", entry.file_name().to_str().unwrap()),
                    &fs::read(entry.path()).unwrap(),
                );
            }
        } else {
            desk = desk.with_bytes(&name, &fs::read(&path).unwrap());
            names.push(name);
        }
    }
    (desk, names)
}

/// A description without its comments and its alignment, with its code lists behind it.
fn plain(desk: &Desk) -> String {
    let mut text = String::new();
    for line in desk.read("drafted/target.toml").lines() {
        let line = line.split(" # ").next().unwrap_or_default();
        if !line.starts_with('#') {
            text.push_str(
                line.replace("  ", " ")
                    .split(" = ")
                    .map(str::trim)
                    .collect::<Vec<_>>()
                    .join(" = ")
                    .trim_end(),
            );
            text.push('\n');
        }
    }
    for name in desk.names("drafted/codes") {
        text.push_str(&format!("\n# codes/{name}\n{}", desk.read(&format!("drafted/codes/{name}"))));
    }
    text.trim_start().to_owned()
}

#[test]
fn dictionaries_of_different_make_become_what_a_person_would_write() {
    let mut scenarios: Vec<String> = fs::read_dir(dictionaries())
        .unwrap()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .collect();
    scenarios.sort();
    assert!(scenarios.len() >= 6);
    for scenario in scenarios {
        let (desk, names) = materials(&scenario);
        let words: Vec<&str> = ["target", "draft", "-o", "drafted/target.toml"]
            .into_iter()
            .chain(names.iter().map(String::as_str))
            .collect();
        let ran = desk.run(&words).ended(0);
        desk.run(&["target", "check", "drafted/target.toml"]).ended(0).says(&["nothing wrong"]);
        let questions: Vec<&str> = ran
            .out
            .split("to settle:")
            .nth(1)
            .unwrap_or_default()
            .lines()
            .skip(1)
            .take_while(|line| !line.is_empty())
            .collect();
        let asked = questions.iter().map(|line| line.trim_end()).collect::<Vec<_>>().join("\n") + "\n";
        let folder = dictionaries().join(&scenario);
        if std::env::var_os("DUSK_WRITE_DOCS").is_some() {
            fs::write(folder.join("expected.toml"), plain(&desk)).unwrap();
            fs::write(folder.join("questions.txt"), &asked).unwrap();
        }
        assert_eq!(plain(&desk), fs::read_to_string(folder.join("expected.toml")).unwrap(), "{scenario}");
        assert_eq!(asked, fs::read_to_string(folder.join("questions.txt")).unwrap(), "{scenario}");
    }
}

#[test]
fn a_template_may_have_its_labels_in_a_second_row() {
    let dictionary = "Field name,Label,Type,Length\nhive_no,Hive number,Text,6\nfounded,Founded on,Date,\n";
    let draft = |template: &str| {
        let desk = Desk::empty().with("dictionary.csv", dictionary).with("template.csv", template);
        let ran = desk.run(&["target", "draft", "dictionary.csv", "template.csv"]).ended(0);
        (desk, ran)
    };
    let (desk, ran) = draft("hive_no;founded\r\nHive number;Founded on\r\n");
    assert!(desk.read("target.toml").contains("labels"), "{}", desk.read("target.toml"));
    assert!(!ran.out.contains("two rows that could be the headings"), "{}", ran.out);
    desk.run(&["target", "blank", "-o", "blank.csv"]).ended(0);
    assert_eq!(desk.read("blank.csv"), "hive_no;founded\r\nHive number;Founded on\r\n");
    let (desk, ran) = draft("Hive number;Founded on\r\nhive_no;founded\r\n");
    assert!(!desk.read("target.toml").contains("labels"));
    ran.says(&["two rows that could be the headings"]);
}

#[test]
fn what_a_template_workbook_checks_says_what_its_columns_hold() {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet().set_name("Skiffs").unwrap();
    for (column, heading) in (0..).zip(["No.*", "Yard", "Slip", "Length", "Afloat", "Name", "Sails"]) {
        sheet.write_string(2, column, heading).unwrap();
    }
    let checks = [
        DataValidation::new().allow_whole_number(DataValidationRule::Between(1, 400)),
        DataValidation::new().allow_list_formula("lists!$A$2:$A$3".into()),
        DataValidation::new().allow_list_formula(Formula::new("INDIRECT($B4)")),
        DataValidation::new().allow_decimal_number(DataValidationRule::LessThanOrEqualTo(12.5)),
        DataValidation::new()
            .allow_date_formula(DataValidationRule::Between("45292".into(), "TODAY()".into())),
        DataValidation::new().allow_text_length(DataValidationRule::LessThan(31)),
        DataValidation::new().allow_list_strings(&["Y", "N"]).unwrap(),
    ];
    for (column, check) in (0..).zip(checks) {
        let check =
            check.set_input_message(if column == 4 { "Launched, as DD/MM/YYYY" } else { "" }).unwrap();
        sheet.add_data_validation(3, column, 99, column, &check).unwrap();
    }
    let lists = book.add_worksheet().set_name("lists").unwrap();
    for (row, cells) in (0..).zip([
        ["yard", "label", "north"],
        ["north", "North shore", "N1"],
        ["south", "South & bay", "N2"],
    ]) {
        lists.write_row(row, 0, cells).unwrap();
    }
    lists.write_column(0, 4, ["south", "S1", "S7"]).unwrap();
    book.define_name("north", "=lists!$C$2:$C$3").unwrap();
    book.define_name("south", "=lists!$E$2:$E$3").unwrap();
    let desk = Desk::empty().with_bytes("skiffs.xlsx", &book.save_to_buffer().unwrap());
    desk.run(&["target", "draft", "skiffs.xlsx", "-o", "drafted/target.toml"]).ended(0);
    desk.run(&["target", "check", "drafted/target.toml"]).ended(0).says(&["nothing wrong"]);
    let drafted = plain(&desk);
    for lines in [
        "name = \"no\"\nheading = \"No.*\"\ntype = \"integer\"\nmin = \"1\"\nmax = \"400\"\nrequired = true",
        "name = \"Yard\"\ntype = \"code\"\ncodes = \"codes/yard.csv\"",
        "name = \"Slip\"\ntype = \"code\"\ncodes = \"codes/slip.csv\"\nwithin = \"Yard\"",
        "name = \"Length\"\ntype = \"decimal\"\ndecimals = 1\nmax = \"12.5\"",
        "type = \"date\"\nformat = \"dd/MM/yyyy\"\nnot_before = \"2024-01-01\"\nnot_after = \"today\"",
        "name = \"Name\"\ntype = \"text\"\nmax_length = 30",
        "name = \"Sails\"\ntype = \"boolean\"\nformat = \"Y/N\"",
        "# codes/yard.csv\ncode,label\nnorth,North shore\nsouth,South & bay",
        "# codes/slip.csv\ncode,label,within\nN1,,north\nN2,,north\nS1,,south\nS7,,south",
    ] {
        assert!(drafted.contains(lines), "{lines}\n---\n{drafted}");
    }
}

#[test]
fn how_a_workbook_looks_tells_what_must_be_filled_what_went_and_how_numbers_are_shown() {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet().set_name("Skiffs").unwrap();
    let orange = Format::new().set_background_color(0xFF_CC00);
    for (column, heading) in (0..).zip(["Skiff", "Kind", "Length (m)"]) {
        match column {
            0 => sheet.write_string_with_format(0, column, heading, &orange),
            _ => sheet.write_string(0, column, heading),
        }
        .unwrap();
    }
    let note = Note::new("Over all. Required if Kind is S.");
    sheet.insert_note(0, 2, &note).unwrap();
    sheet.write_blank(1, 2, &Format::new().set_num_format("0.0")).unwrap();
    let number = DataValidation::new().allow_decimal_number(DataValidationRule::Between(1.0, 40.0));
    sheet.add_data_validation(1, 2, 99, 2, &number).unwrap();
    let length = DataValidation::new().allow_text_length(DataValidationRule::LessThanOrEqualTo(12));
    sheet.add_data_validation(1, 0, 99, 0, &length).unwrap();
    let kinds = DataValidation::new().allow_list_formula(Formula::new("=Kinds!$A$2:$A$4"));
    sheet.add_data_validation(1, 1, 99, 1, &kinds).unwrap();
    let kinds = book.add_worksheet().set_name("Kinds").unwrap();
    for (row, (code, label)) in
        (0..).zip([("Code", "Label"), ("S", "sailing"), ("M", "motor"), ("W", "whaler")])
    {
        let format = if code == "W" { Format::new().set_font_strikethrough() } else { Format::new() };
        kinds.write_string_with_format(row, 0, code, &format).unwrap();
        kinds.write_string_with_format(row, 1, label, &format).unwrap();
    }
    let legend = book.add_worksheet().set_name("Read this").unwrap();
    legend.write_blank(0, 0, &orange).unwrap();
    legend.write_string(0, 1, "Orange: must be filled in").unwrap();
    let desk = Desk::empty().with_bytes("skiffs.xlsx", &book.save_to_buffer().unwrap());
    desk.run(&["target", "draft", "skiffs.xlsx"]).ended(0).says(&[
        "when = 'Kind is \"S\"', must = 'length is not blank'",
        "the code \"W\" is struck through, and it is not said since when",
    ]);
    let text = desk.read("target.toml");
    let field =
        |name: &str| text.split("[[field]]").find(|part| part.contains(&format!("= \"{name}\""))).unwrap();
    let required = |name: &str| {
        field(name).lines().any(|line| line.starts_with("required") && line.contains("Read this!B1"))
    };
    assert!(required("Skiff") && !required("Kind") && !required("length"), "{text}");
    for line in ["decimals", "unit", "min", "max", "description"] {
        assert!(field("length").contains(line), "{line}: {text}");
    }
    // What the program writes itself comes back.
    desk.run(&["target", "blank", "-o", "blank.xlsx"]).ended(0);
    desk.run(&["target", "draft", "blank.xlsx", "-o", "again/target.toml"]).ended(0);
    let keys = |text: &str, name: &str| -> Vec<String> {
        let field = text.split("[[field]]").find(|part| part.contains(&format!("= \"{name}\""))).unwrap();
        let wanted = ["type", "max_length", "decimals", "unit", "min", "max", "required"];
        let lines = field.lines().map(|line| line.split(" #").next().unwrap().replace(' ', ""));
        lines.filter(|line| wanted.iter().any(|key| line.starts_with(&format!("{key}=")))).collect()
    };
    let again = desk.read("again/target.toml");
    for name in ["Skiff", "length"] {
        let (first, second) = (keys(&text, name), keys(&again, name));
        assert_eq!(first, second, "{again}");
    }
}
