//! Files that are made to hurt, characters that act on a terminal, names that lead elsewhere, and values that nobody is
//! to be told.

use std::io::Write as _;
use std::time::{Duration, Instant};

use crate::desk::{Desk, MAPPING, QUEEN, Ran, TARGET};
use crate::workbooks::{ods, ods_row, packed};

/// Characters that act on a terminal, turn the direction of writing, or hide.
const NASTY: &str = "x\u{1b}]0;y\u{7}\u{1b}[31m\u{202e}z\u{2066}\u{e0041}\u{200b}\u{9b}w";

/// Whether a text would act on whoever's terminal it is printed to.
fn acts(text: &str) -> bool {
    let plain = |c: char| c == '\n' || !c.is_control();
    let hides = |c: char| matches!(c, '\u{200b}' | '\u{200e}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | '\u{e0000}'..='\u{e007f}');
    !text.chars().all(plain) || text.chars().any(hides)
}

/// A desk on which everything that a file can name has characters that act.
fn nasty_desk() -> Desk {
    let toml = |text: &str| {
        text.chars()
            .map(|c| if c.is_ascii_graphic() { c.to_string() } else { format!("\\U{:08X}", u32::from(c)) })
            .collect::<String>()
    };
    let nasty = toml(NASTY);
    let target = TARGET.replace("Apiary register", &nasty).replace(
        "name = \"queen\"",
        &format!("name = \"queen{nasty}\"\nlabel = \"{nasty}\"\nheading = \"h{nasty}\""),
    ) + &format!(
        "\n[[field]]\nname = \"note\"\ntype = \"text\"\nmax_length = 3\n[[rule]]\nname = \"r{nasty}\"\nmust = \"honey_kg < 1\"\nsays = \"m{nasty}\"\n"
    );
    let mapping = MAPPING.replace(
        "field = \"queen\"\nfrom = \"Queen\"",
        &format!("field = \"queen{nasty}\"\nfrom = \"Q{nasty}\""),
    ) + &format!("\n[[map]]\nfield = \"note\"\nfrom = \"Note{nasty}\"\n");
    let quoted = |text: &str| format!("\"{text}\"");
    let export = format!(
        "No,Date,{},Honey,{}\n117,03/04/2026,white,10,{NASTY}\n290,25/04/2026,{NASTY},4.5,a\n{NASTY},31/02/2026,yel.{NASTY},x{NASTY},b\n",
        quoted(&format!("Q{NASTY}")),
        quoted(&format!("Note{NASTY}")),
    );
    Desk::new()
        .with("target.toml", &target)
        .with("mapping.toml", &mapping)
        .with(&format!("export{NASTY}.csv"), &export)
}

#[test]
fn nothing_that_a_file_holds_acts_on_a_terminal() {
    let desk = nasty_desk();
    let (export, field) = (format!("export{NASTY}.csv"), format!("queen{NASTY}"));
    let batch = "batches/2026-04-30-a/rejects.csv";
    let commands: Vec<Vec<&str>> = vec![
        vec!["inspect", &export],
        vec!["inspect", &export, "--target", "target.toml"],
        vec!["inspect", &export, "--format", "json"],
        vec!["inspect", &export, "--column", NASTY],
        vec!["map", &export, "-t", "target.toml", "-m", "new.toml"],
        vec!["map", &export, "--show"],
        vec!["map", &export],
        vec!["map", "--list"],
        vec!["check", &export],
        vec!["check", &export, "--format", "json"],
        vec!["trial", &export],
        vec!["conform", &export, "--today", "2026-04-30"],
        vec!["conform", &export, "--today", "2026-04-30"],
        vec!["conform", &export, "-o", NASTY],
        vec!["batches"],
        vec!["batches", "--format", "json"],
        vec!["batches", "show", "2026-04-30-a"],
        vec!["batches", "show", NASTY],
        vec!["explain", &export, "2"],
        vec!["explain", &export, "3", "--format", "json"],
        vec!["review", &export],
        vec!["correct", batch, "--yes"],
        vec!["correct", &export, "4", "Honey", NASTY],
        vec!["correct", &export, "4", NASTY, "1"],
        vec!["correct", &export],
        vec!["crosswalk", "add", &field, "yel.", NASTY],
        vec!["crosswalk", "add", &field, NASTY, "Y"],
        vec!["crosswalk", "add", NASTY, "yel.", "Y"],
        vec!["crosswalk", "list"],
        vec!["crosswalk", "check", &export],
        vec!["crosswalk", "remove", &field, "none"],
        vec!["target", "show"],
        vec!["target", "show", &field],
        vec!["target", "show", NASTY],
        vec!["target", "show", "--find", NASTY],
        vec!["target", "show", "--format", "markdown"],
        vec!["target", "show", "--format", "json"],
        vec!["target", "check"],
        vec!["target", "export"],
        vec!["target", "blank", "-o", "blank.xlsx"],
        vec![NASTY],
        vec!["check", NASTY],
        vec!["check", &export, "--set", NASTY],
        vec!["check", &export, "-m", NASTY],
    ];
    for words in &commands {
        let Ran { out, err, status } = desk.run(words);
        assert!(!acts(&out) && !acts(&err), "{words:?} {status}\n{out:?}\n{err:?}");
    }
    // With colours there is what the program itself puts in, and nothing else.
    let coloured = desk.run(&["check", &export, "--colour", "always"]).ended(1).out;
    let own = ["\u{1b}[0m", "\u{1b}[1m", "\u{1b}[2m", "\u{1b}[31m", "\u{1b}[32m", "\u{1b}[33m", "\u{1b}[36m"];
    assert!(coloured.contains("\u{1b}[1m"), "{coloured:?}");
    assert!(!acts(&own.iter().fold(coloured.clone(), |text, style| text.replace(style, ""))), "{coloured:?}");
    // And what was hidden is seen.
    assert!(coloured.contains("‹U+202E›z") && coloured.contains("‹U+E0041›"), "{coloured:?}");
    desk.with("two\nlines.csv", "No\n1\n")
        .run(&["check", "two\nlines.csv"])
        .stops(&["has a line break in its name"]);
}

#[test]
fn a_batch_to_be_handed_on_tells_no_value_anywhere() {
    const SECRET: &str = "Zyzzyva";
    let target = TARGET.replace(
        "file_name = \"up-{part}.csv\"",
        "file_name = \"up-{town}-{batch}-{part}.csv\"\nsplit_by = \"town\"",
    ) + "\n[[field]]\nname = \"town\"\ntype = \"text\"\n[[rule]]\nname = \"once in a town\"\nmust = \"number of records = 1\"\nfor_each = [\"town\"]\nsays = \"one visit a town\"\nseverity = \"warn\"\n";
    let mapping = format!("{MAPPING}\n[[map]]\nfield = \"town\"\nfrom = \"Town\"\n[ask]\nwho = \"Who?\"\n");
    let export = format!(
        "No,Date,Queen,Honey,Town\n117,03/04/2026,white,10,{SECRET}\n290,25/04/2026,{SECRET},4.5,{SECRET}\n118,31/02/2026,white,{SECRET},{SECRET}\n119,13/04/2026,white,4,{SECRET}\n"
    );
    let desk = Desk::new()
        .with("target.toml", &target)
        .with(&format!("{SECRET}.toml"), &mapping)
        .with(&format!("{SECRET}.csv"), &export);
    std::fs::remove_file(desk.path("mapping.toml")).unwrap();
    let (source, mapping) = (format!("{SECRET}.csv"), format!("{SECRET}.toml"));
    for format in ["text", "json"] {
        let batch = format!("{SECRET}-{format}");
        let words = [
            "conform",
            &source,
            "-m",
            &mapping,
            "-o",
            &batch,
            "--by",
            SECRET,
            "--no-values",
            "--again",
            "--format",
            format,
        ];
        let who = format!("who={SECRET}");
        let ran = desk.run(&[&words[..], &["--set", &who]].concat());
        assert_eq!(ran.status, 1, "{ran:?}");
        assert!(!ran.out.contains(SECRET) && !ran.err.contains(SECRET), "{ran:?}");
        let page = desk.read(&format!("{batch}/report.html"));
        assert!(page.contains("rejected") && !page.contains(SECRET), "{page}");
        assert!(desk.names(&format!("{batch}/upload")).iter().any(|name| name.contains(SECRET)));
    }
}

#[test]
fn what_a_description_names_stays_in_its_folder() {
    let outside = tempfile::tempdir().unwrap();
    let secret = outside.path().join("secret.csv");
    std::fs::write(&secret, "hush-hush,code\n1,2\n").unwrap();
    let secret = secret.display().to_string();
    let desk = Desk::new().edited("target.toml", "codes/queen.csv", &secret);
    let says = desk.run(&["check", "export.csv"]).ended(2).err;
    assert!(says.contains("is not in the folder of this file") && !says.contains("hush-hush"), "{says}");
    std::fs::write(outside.path().join("secret.csv"), QUEEN).unwrap();
    desk.run(&["check", "export.csv", "--files-elsewhere"]).ended(1);
    let look_up = format!(
        "[[map]]\nfield = \"honey_kg\"\nlook_up = {{ file = \"../{secret}\", by = {{ \"No\" = \"code\" }}, take = \"label\" }}\n"
    );
    let desk = Desk::new().edited(
        "mapping.toml",
        "[[map]]\nfield = \"honey_kg\"\nfrom = \"Honey\"\nunit = \"lb\"\nround = \"half-up\"\n",
        &look_up,
    );
    desk.run(&["check", "export.csv"]).stops(&["is not in the folder of this file"]);
}

#[test]
fn rejects_open_no_file_but_the_sources_of_batches() {
    let outside = tempfile::tempdir().unwrap();
    let secret = outside.path().join("secret.csv");
    std::fs::write(&secret, "hush-hush,code\n1,2\n").unwrap();
    let elsewhere = outside.path().join("export.csv").display().to_string();
    let desk = Desk::new();
    std::fs::copy(desk.path("export.csv"), &elsewhere).unwrap();
    desk.run(&["conform", &elsewhere, "-o", "batch", "--today", "2026-04-30"]).ended(1);
    let rejects = desk.read("batch/rejects.csv");
    desk.with_again("batch/rejects.csv", &rejects.replace(&elsewhere, &secret.display().to_string()));
    let says = desk.run(&["correct", "batch/rejects.csv", "--yes"]).ended(2).err;
    assert!(says.contains("which is not a source of the batch") && !says.contains("hush-hush"), "{says}");
    // The batch's own source lies elsewhere as well, and its receipt says so.
    desk.with_again("batch/rejects.csv", &rejects.replace(",yel.,", ",Yellow,"));
    desk.run(&["correct", "batch/rejects.csv", "--yes"]).ended(0).says(&["\"yel.\"", "\"Yellow\""]);
}

#[test]
fn names_of_fields_and_values_lead_to_no_other_folder() {
    let field = "../../evil/field";
    let target = TARGET
        .replace("name = \"queen\"", &format!("name = \"{field}\""))
        .replace("file_name = \"up-{part}.csv\"", "file_name = \"{town}.csv\"\nsplit_by = \"town\"")
        + "\n[[field]]\nname = \"town\"\ntype = \"text\"\n";
    let desk = Desk::new()
        .with("deep/er/target.toml", &target)
        .with("deep/er/codes/queen.csv", QUEEN)
        .with(
            "deep/er/mapping.toml",
            &(MAPPING.replace("field = \"queen\"", &format!("field = \"{field}\""))
                + "\n[[map]]\nfield = \"town\"\nfrom = \"Town\"\n"),
        )
        .with(
            "deep/er/export.csv",
            "No,Date,Queen,Honey,Town\n117,03/04/2026,white,10,../../../up\n290,25/04/2026,yel.,4.5,..\n",
        );
    let mapping = ["-m", "deep/er/mapping.toml"];
    desk.run(&[&["crosswalk", "add", field, "yel.", "Y"], &mapping[..]].concat()).ended(0);
    assert_eq!(desk.names("deep/er/crosswalks"), ["_.._evil_field.csv"]);
    desk.run(&[&["conform", "deep/er/export.csv", "--today", "2026-04-30"], &mapping[..]].concat()).ended(0);
    assert_eq!(desk.names("deep/er/batches/2026-04-30-a/upload"), ["_.._.._up.csv", "blank.csv"]);
    assert_eq!(desk.names("deep"), ["er"]);
    assert!(!desk.exists("evil") && !desk.path("../evil").exists());
}

/// A sheet with these rows, as office programs write it, packed.
fn xlsx(rows: &str, strings: &str) -> Vec<u8> {
    const MAIN: &str = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
    const RELATIONS: &str = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    const PACKAGE: &str = "http://schemas.openxmlformats.org/package/2006";
    let types = format!("<Types xmlns=\"{PACKAGE}/content-types\"/>");
    let root = format!(
        "<Relationships xmlns=\"{PACKAGE}/relationships\"><Relationship Id=\"r1\" Type=\"{RELATIONS}/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>"
    );
    let book = format!(
        "<workbook xmlns=\"{MAIN}\" xmlns:r=\"{RELATIONS}\"><sheets><sheet name=\"S\" sheetId=\"1\" r:id=\"r1\"/></sheets></workbook>"
    );
    let parts = format!(
        "<Relationships xmlns=\"{PACKAGE}/relationships\"><Relationship Id=\"r1\" Type=\"{RELATIONS}/worksheet\" Target=\"worksheets/sheet1.xml\"/><Relationship Id=\"r2\" Type=\"{RELATIONS}/sharedStrings\" Target=\"sharedStrings.xml\"/></Relationships>"
    );
    let sheet = format!("<worksheet xmlns=\"{MAIN}\"><sheetData>{rows}</sheetData></worksheet>");
    let strings = format!("<sst xmlns=\"{MAIN}\">{strings}</sst>");
    packed(&[
        ("[Content_Types].xml", types.as_bytes()),
        ("_rels/.rels", root.as_bytes()),
        ("xl/workbook.xml", book.as_bytes()),
        ("xl/_rels/workbook.xml.rels", parts.as_bytes()),
        ("xl/worksheets/sheet1.xml", sheet.as_bytes()),
        ("xl/sharedStrings.xml", strings.as_bytes()),
    ])
}

#[test]
fn small_workbooks_that_are_made_to_hurt_are_refused_soon() {
    let head = ods_row(&["No", "Date", "Queen", "Honey"]);
    let text = "<table:table-cell office:value-type=\"string\"><text:p>";
    let end = "</text:p></table:table-cell>";
    let row = |cells: &str| format!("{head}<table:table-row>{cells}</table:table-row>");
    let inline =
        |at: &str, text: &str| format!("<row><c r=\"{at}\" t=\"inlineStr\"><is><t>{text}</t></is></c></row>");
    let long = "a".repeat(30_000_000);
    let shared: String = (1..60_000)
        .map(|row| format!("<row r=\"{row}\"><c r=\"A{row}\" t=\"s\"><v>0</v></c></row>"))
        .collect();
    let too_far = "beyond the end of a sheet";
    let too_long = "several million characters";
    let too_large = "unpacks to far more than a workbook of its size should";
    let cases: Vec<(&str, Vec<u8>, &str)> = vec![
        ("a row far away.xlsx", xlsx(&inline("A4000000000", "x"), ""), ""),
        ("a row beyond the end.xlsx", xlsx(&inline("A1048577", "x"), ""), too_far),
        ("a column far away.xlsx", xlsx(&inline("ZZZ1", "x"), ""), too_far),
        ("a long cell.xlsx", xlsx(&inline("A1", &long), ""), too_long),
        (
            "one string for all.xlsx",
            xlsx(&shared, &format!("<si><t>{}</t></si>", "b".repeat(500_000))),
            too_large,
        ),
        ("spaces.ods", ods(&row(&format!("{text}x<text:s text:c=\"2000000000\"/>{end}"))), too_long),
        (
            "columns.ods",
            ods(&row(
                "<table:table-cell table:number-columns-repeated=\"2000000000\" office:value-type=\"float\" office:value=\"1\"/>",
            )),
            too_far,
        ),
        (
            "rows.ods",
            ods(&format!(
                "{head}<table:table-row table:number-rows-repeated=\"2000000000\">{text}x{end}</table:table-row>"
            )),
            too_far,
        ),
        (
            "both.ods",
            ods(&format!(
                "{head}<table:table-row table:number-rows-repeated=\"1000000\"><table:table-cell table:number-columns-repeated=\"16000\" office:value-type=\"string\"><text:p>x</text:p></table:table-cell></table:table-row>"
            )),
            too_large,
        ),
        ("a long cell.ods", ods(&row(&format!("{text}{long}{end}"))), too_long),
        (
            "a long tag.ods",
            ods(&row(&format!("<table:table-cell office:string-value=\"{long}\"/>"))),
            too_long,
        ),
    ];
    for (name, bytes, says) in cases {
        assert!(bytes.len() < 300_000, "{name}: {}", bytes.len());
        let desk = Desk::new().with_bytes(name, &bytes);
        let begun = Instant::now();
        let ran = desk.run(&["check", name]).stops(&[name, says]);
        assert!(begun.elapsed() < Duration::from_secs(40), "{name}: {:?}", begun.elapsed());
        assert!(!ran.err.contains("panicked"), "{ran:?}");
    }
    // What is repeated and blank is nothing.
    let blank = format!(
        "{head}{}<table:table-row table:number-rows-repeated=\"2000000000\"><table:table-cell table:number-columns-repeated=\"2000000000\"/></table:table-row>",
        ods_row(&["117", "03/04/2026", "white", "10"])
    );
    Desk::new()
        .with_bytes("blank.ods", &ods(&blank))
        .run(&["check", "blank.ods"])
        .ended(0)
        .says(&["1 row read"]);
}

#[test]
#[cfg(unix)]
fn a_source_without_an_end_is_refused_and_nothing_is_left_of_a_stream() {
    let desk = Desk::new();
    desk.run(&["inspect", "/dev/zero"]).stops(&["is a device and no file"]);
    // What is kept of standard input has no name, so that nothing is left however the run is ended.
    let place = tempfile::tempdir().unwrap();
    let mut command = desk.command(&["check", "-"]);
    let mut child = command.env("TMPDIR", place.path()).stdin(std::process::Stdio::piped()).spawn().unwrap();
    let mut input = child.stdin.take().unwrap();
    input.write_all(&b"No,Date,Queen,Honey\n117,03/04/2026,white,10\n".repeat(20_000)).unwrap();
    assert_eq!(std::fs::read_dir(place.path()).unwrap().count(), 0);
    child.kill().unwrap();
    child.wait().unwrap();
    assert_eq!(std::fs::read_dir(place.path()).unwrap().count(), 0);
}
