//! Exports that are not plain tables: the examples of the page of sources, and what goes wrong with each shape.

use std::fs;
use std::io::Write as _;

use crate::desk::Desk;
use crate::docs::root;

const CARGO: &str = "code,label\nC,car\nD,dog\nB,bus\n";

/// The language of a block and its text.
fn blocks(text: &str) -> Vec<(String, String)> {
    let block = |block: &str| block.split_once('\n').map(|(kind, text)| (kind.to_owned(), text.to_owned()));
    text.split("```").skip(1).step_by(2).filter_map(block).collect()
}

/// The fields of the page, and its examples: a mapping, an export and what is sent.
fn page() -> (Vec<String>, Vec<[(String, String); 3]>) {
    let page = fs::read_to_string(root().join("docs/sources.md")).unwrap();
    let mut all = blocks(&page).into_iter();
    let fields = all.next().unwrap().1;
    let fields = fields.split("[[field]]").skip(1).map(|field| format!("[[field]]{field}")).collect();
    let all: Vec<_> = all.collect();
    assert_eq!(all.len() % 3, 0, "each example has a mapping, an export and an upload");
    (fields, all.chunks(3).map(|chunk| chunk.to_vec().try_into().unwrap()).collect())
}

/// A desk with those fields of the page that a mapping feeds.
fn desk_of(mapping: &str) -> Desk {
    let mut target =
        String::from("[target]\nname = \"T\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n");
    for field in page().0 {
        let name = field.lines().nth(1).unwrap().split('"').nth(1).unwrap();
        if mapping.contains(&format!("field = \"{name}\""))
            || mapping.contains(&format!("field   = \"{name}\""))
        {
            target.push_str(&field);
        }
    }
    Desk::empty()
        .with("target.toml", &target)
        .with("codes/cargo.csv", CARGO)
        .with("mapping.toml", &format!("target = \"target.toml\"\n{mapping}"))
}

#[test]
fn every_example_of_the_page_of_sources_gives_what_it_says() {
    let (_, examples) = page();
    assert!(examples.len() > 5);
    for [(_, mapping), (kind, export), (_, upload)] in examples {
        let name = format!("export.{}", if kind == "text" { "txt" } else { &kind });
        let desk = desk_of(&mapping).with(&name, &export);
        desk.run(&["inspect", &name]).ended(0);
        let done = desk.run(&["conform", &name, "-o", "batch"]).ended(0);
        assert!(!done.err.contains("mapping does not speak"), "{}", done.err);
        assert_eq!(desk.read("batch/upload/up.csv"), upload, "{mapping}");
    }
}

/// Crossings with their crews, the second of whose cargoes is not known.
const CREWS: &str = r#"[
  {"id": 117, "crew": [{"who": "Eva"}, {"who": "Bo"}], "cargo": ["car", "dog"]},
  {"id": 118, "crew": [{"who": "Asa"}], "cargo": ["horse"]},
  {"id": 119, "crew": []}
]"#;

const CREW_MAPPING: &str = "[source]\neach = \"crew\"\n[[map]]\nfield = \"crossing\"\nfrom = \"id\"\n\
    [[map]]\nfield = \"who\"\nfrom = \"crew.who\"\n[[map]]\nfield = \"cargo\"\nfrom = \"cargo\"\nbetween = \"|\"\n";

#[test]
fn rejected_records_go_out_to_a_workbook_and_come_back() {
    let desk = desk_of(CREW_MAPPING).with("crews.json", CREWS);
    desk.run(&["check", "crews.json"]).ended(1).says(&[
        "JSON, a row for each of crew: 3 rows; 1 record without one",
        "\"horse\"  is not a code or label of cargo",
        "row: 3",
    ]);
    desk.run(&["conform", "crews.json", "-o", "first"]).ended(1);
    assert_eq!(desk.read("first/upload/up.csv"), "crossing,who,cargo\n00117,Eva,C+D\n00117,Bo,C+D\n");
    let list = desk.read("first/rejects.csv").replace("horse", "bus");
    let desk = desk.with("mended.csv", &list);
    desk.run(&["correct", "mended.csv", "--yes", "--by", "A. Clerk"]).ended(0).says(&[
        "row 3",
        "\"horse\"",
        "\"bus\"",
    ]);
    desk.run(&["conform", "crews.json", "-o", "second", "--again"]).ended(0);
    assert!(desk.read("second/upload/up.csv").ends_with("00118,Asa,B\n"));
    desk.run(&["explain", "crews.json", "3", "cargo"]).ended(0).says(&["correction", "\"horse\"", "\"bus\""]);
}

#[test]
fn a_damaged_record_is_rejected_alone_and_a_damaged_file_is_refused() {
    let mapping = "[[map]]\nfield = \"crossing\"\nfrom = \"id\"\n";
    let lines = "{\"id\": 117}\n{\"id\": 118\n\n{\"id\": 119, \"id\": 120}\n{\"id\": 121}\n";
    let desk = desk_of(mapping).with("crossings.jsonl", lines);
    desk.run(&["check", "crossings.jsonl"]).ended(1).says(&[
        "5 rows read = 2 accepted + 2 rejected + 0 merged + 1 left out",
        "rows: 2, 4: is a record that cannot be read: it is not JSON",
    ]);
    desk.run(&["conform", "crossings.jsonl", "-o", "batch"]).ended(1);
    assert!(desk.read("batch/findings.csv").contains("has \"\"id\"\" twice"));
    desk.run(&["inspect", "crossings.jsonl"]).says(&["2 records that cannot be read"]);
    let desk = desk.with("cut.json", "[{\"id\": 117}, {\"id\"");
    desk.run(&["check", "cut.json"]).stops(&["cut.json: ends in the middle of its JSON"]);
    let desk = desk.with("book.xml", "<?xml version=\"1.0\"?><Workbook xmlns=\"urn:schemas-microsoft-com:office:spreadsheet\"><a/></Workbook>");
    desk.run(&["inspect", "book.xml"]).stops(&["is a workbook written as XML"]);
    let desk = desk.with("plain.json", "[1, 2, 3]");
    desk.run(&["inspect", "plain.json"]).stops(&["plain.json: does not list records", "objects in a list"]);
    let desk = desk.with("two.json", "{\"boats\": [{\"id\": 1}], \"trips\": [{\"id\": 2}, {\"id\": 3}]}");
    desk.run(&["check", "two.json"]).stops(&["2 lists of records", "each = \"trips\""]);
    let desk = desk.with("renamed.json", "[{\"idd\": 117}]");
    desk.run(&["check", "renamed.json"]).stops(&["\"id\" (did you mean \"idd\"?)"]);
    let marked =
        desk_of(CREW_MAPPING).with("crews.json", &CREWS.replace("[\"horse\"]", "[\"car|dog\", \"bus\"]"));
    marked
        .run(&["check", "crews.json"])
        .ended(1)
        .says(&["row: 3: is a record that cannot be read: cargo holds several values"]);
    let other = marked.edited("mapping.toml", "between = \"|\"", "between = \"¦\"").edited(
        "mapping.toml",
        "each = \"crew\"",
        "each = \"crew\"\nseveral = \"¦\"",
    );
    other
        .run(&["check", "crews.json"])
        .ended(1)
        .says(&["has \"car|dog\", which is not a code or label of cargo"]);
}

const POSITIONS: &str = "[source]\npositions = [\"1-5 No\", \"7-12 Tonnes\", \"14-20 Vessel\"]\n\
    [[map]]\nfield = \"crossing\"\nfrom = \"No\"\n[[map]]\nfield = \"tonnes\"\nfrom = \"Tonnes\"\n\
    [[map]]\nfield = \"vessel\"\nfrom = \"Vessel\"\n";

#[test]
fn a_value_that_reaches_beyond_its_positions_is_never_cut_in_two() {
    let table = "00117   12.5 Öst\n00118 110000.5 Vik\n00119    7.0 Nordvikhaven\n00120    7.0 Fen     wet\n";
    let desk = desk_of(POSITIONS).with("table.txt", table);
    desk.run(&["check", "table.txt"]).ended(1).says(&[
        "4 rows read = 2 accepted + 2 rejected",
        "rows: 2, 3: is a record that cannot be read: a value reaches beyond",
        "column \"(outside the positions)\"",
    ]);
    let left_out = desk.edited(
        "mapping.toml",
        "[source]",
        "[leave_out]\ncolumns = [\"(outside the positions)\"]\n[source]",
    );
    left_out.run(&["conform", "table.txt", "-o", "batch"]).ended(1);
    assert_eq!(
        left_out.read("batch/upload/up.csv"),
        "crossing,vessel,tonnes\n00117,Öst,12.5\n00120,Fen,7.0\n"
    );
    let findings = left_out.read("batch/findings.csv");
    assert!(
        findings.contains("characters 7-12 Tonnes") && findings.contains("characters 14-20 Vessel"),
        "{findings}"
    );
    let wrong = desk_of(&POSITIONS.replace("7-12 Tonnes", "5-12 Tonnes").replace("14-20 Vessel", "Vessel"));
    wrong.with("table.txt", table).run(&["check", "table.txt"]).stops(&[
        "\"No\" and \"Tonnes\" have characters in common",
        "\"Vessel\", which is not a range of characters and a name",
    ]);
    let by_blanks = POSITIONS
        .split_once('\n')
        .unwrap()
        .1
        .split_once('\n')
        .unwrap()
        .1
        .replace("from = \"Tonnes\"", "from = \"Tonnes\"\ndecimal_mark = \",\"");
    let commas = "No     Vessel     Tonnes\n117    Öst          12,5\n118    Vik         110,0\n119    Fen           7,0\n";
    let commas = desk_of(&by_blanks).with("table.txt", commas);
    commas.run(&["inspect", "table.txt"]).ended(0).says(&["fixed width, 3 columns (proven)"]);
    commas.run(&["conform", "table.txt", "-o", "batch"]).ended(0);
    assert!(commas.read("batch/upload/up.csv").ends_with("00119,Fen,7\n"));
    let unnamed = desk_of("[[map]]\nfield = \"crossing\"\nfrom = \"No\"\n");
    let unnamed = unnamed.with("table.txt", "00117  Öst\n00118  Vik\n00119  Fen\n");
    unnamed.run(&["inspect", "table.txt"]).says(&["positions = [\"1-5 1\", \"8-10 2\"]"]);
    unnamed.run(&["check", "table.txt"]).stops(&["positions = [\"1-5 1\", \"8-10 2\"]"]);
}

/// A zip archive of these files.
fn archive(files: &[(&str, &str)]) -> Vec<u8> {
    let mut writer = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    for (name, text) in files {
        writer.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
        writer.write_all(text.as_bytes()).unwrap();
    }
    writer.finish().unwrap().into_inner()
}

#[test]
fn archives_folders_and_packed_files_are_sources_each_with_its_name() {
    let mapping =
        "[[map]]\nfield = \"crossing\"\nfrom = \"No\"\n[[map]]\nfield = \"cargo\"\nfrom = \"Cargo\"\n";
    let (may, june) = ("No,Cargo\n117,car\n", "No,Cargo\n118,horse\n");
    let packed =
        archive(&[("2026/may.csv", may), ("2026/june.csv", june), ("read me.md", "x"), (".hidden.csv", "x")]);
    let desk = desk_of(mapping)
        .with_bytes("exports.zip", &packed)
        .with_bytes("one.zip", &archive(&[("may.csv", may)]))
        .with("folder/may.csv", may)
        .with("folder/june.csv", june)
        .with("folder/notes.md", "x");
    for (all, june) in [("exports.zip", "exports.zip/2026/june.csv"), ("folder", "folder/june.csv")] {
        desk.run(&["check", all]).ended(1).says(&[
            june,
            "2 rows read = 1 accepted + 1 rejected",
            "\"horse\"",
        ]);
        desk.run(&["check", june]).ended(1).says(&["1 row read = 0 accepted + 1 rejected"]);
        desk.run(&["inspect", all]).stops(&["has 2 exports in it", june]);
    }
    desk.run(&["inspect", "one.zip"]).ended(0).says(&["one.zip/may.csv"]);
    desk.run(&["check", "exports.zip/2026/july.csv"]).stops(&["is not in exports.zip", "2026/may.csv"]);
    desk.run(&["conform", "exports.zip", "-o", "batch"]).ended(1);
    let list = desk.read("batch/rejects.csv").replace("horse", "bus");
    let desk = desk.with("mended.csv", &list);
    desk.run(&["correct", "mended.csv", "--yes", "--by", "A. Clerk"]).ended(0);
    desk.run(&["check", "exports.zip"]).ended(0).says(&["2 rows read = 2 accepted"]);

    let mut gz = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    gz.write_all(may.as_bytes()).unwrap();
    let gz = gz.finish().unwrap();
    let desk = desk.with_bytes("may.csv.gz", &gz).with_bytes("cut.csv.gz", &gz[..gz.len() - 9]);
    desk.run(&["conform", "may.csv.gz", "-o", "packed"]).ended(0);
    let hash = blake3::hash(&gz).to_hex().to_string();
    assert!(
        desk.read("packed/receipt.json").contains(&hash),
        "the receipt has the hash of the file as it came"
    );
    desk.run(&["check", "cut.csv.gz"]).stops(&["cut.csv.gz: is a packed file that cannot be unpacked"]);
}

#[test]
fn uploads_of_fixed_width_and_xml_are_read_back_as_they_were_written() {
    let mapping = "[[map]]\nfield = \"crossing\"\nfrom = \"No\"\n[[map]]\nfield = \"tonnes\"\nfrom = \"T\"\n\
        [[map]]\nfield = \"vessel\"\nfrom = \"V\"\n";
    let export = "No,T,V\n117,12.5,Öst & Co\n118,,Vik\n119,-7.5,<>\n";
    let widths = |desk: Desk| {
        ["crossing", "vessel", "tonnes"].iter().fold(desk, |desk, name| {
            let named = desk
                .read("target.toml")
                .lines()
                .find(|line| line.ends_with(&format!("\"{name}\"")))
                .unwrap()
                .to_owned();
            desk.edited("target.toml", &named, &format!("{named}\nwidth = 9"))
        })
    };
    for format in ["fixed-width", "xml"] {
        let desk = desk_of(mapping).with("export.csv", export);
        let desk = if format == "xml" { desk } else { widths(desk) };
        let desk = desk.edited("target.toml", "line_end", &format!("format = \"{format}\"\nline_end"));
        desk.run(&["target", "check"]).ended(0);
        desk.run(&["conform", "export.csv", "-o", "batch"]).ended(0);
        let target = desk.read("target.toml").replace("up.csv", "up-{batch}.csv");
        let desk = desk.with("target.toml", &format!("{target}\n[holds]\nfile = \"batch/upload/up.csv\"\n"));
        let compared = desk.run(&["compare", "export.csv", "--format", "json"]).ended(0);
        let compared: serde_json::Value = serde_json::from_str(&compared.out).unwrap();
        assert_eq!(compared["counts"]["same"], 3, "{format}: {compared}");
    }
    let unnamed = desk_of(mapping).edited("target.toml", "line_end", "format = \"xml\"\nline_end");
    let unnamed = unnamed.edited(
        "target.toml",
        "name   = \"crossing\"",
        "name   = \"crossing\"\nheading = \"No of it\"",
    );
    unnamed.run(&["target", "check"]).ended(1).says(&["\"No of it\" is not a valid XML name"]);
    let narrow = desk_of(mapping).edited("target.toml", "line_end", "format = \"fixed-width\"\nline_end");
    narrow.run(&["target", "check"]).ended(1).says(&["the field \"crossing\" has no width"]);
    let wide =
        widths(desk_of(mapping)).edited("target.toml", "line_end", "format = \"fixed-width\"\nline_end");
    let zeros_behind = wide.edited(
        "target.toml",
        "type     = \"decimal\"",
        "type     = \"decimal\"\nalign = \"left\"\nfill = \"0\"",
    );
    zeros_behind.run(&["target", "check"]).ended(1).says(&["fill = \"0\" may make another value of one"]);
}

#[test]
fn a_record_layout_names_the_columns_of_fixed_width_text() {
    let table = "0011712.5Öst\n00118 7.0Vik\n";
    let mapping = POSITIONS
        .replace("positions = [\"1-5 No\", \"7-12 Tonnes\", \"14-20 Vessel\"]", "layout = \"layout.csv\"");
    let desk = desk_of(&mapping).with("table.txt", table);
    for layout in [
        "Field,Start,Length\nNo,1,5\nTonnes,6,4\nVessel,10,8\n",
        "name;from;to\nNo;1;5\n\nTonnes;6;9\nVessel;10;17\n",
    ] {
        std::fs::write(desk.path("layout.csv"), layout).unwrap();
        desk.run(&["conform", "table.txt", "-o", "batch", "--again"]).ended(0);
        assert_eq!(
            desk.read("batch/upload/up.csv"),
            "crossing,vessel,tonnes\n00117,Öst,12.5\n00118,Vik,7.0\n"
        );
        std::fs::remove_dir_all(desk.path("batch")).unwrap();
    }
    for (layout, says) in [
        ("name,from,to\nNo,1,5\nTonnes,x,9\n", "row 3: \"Tonnes\" has no range of characters"),
        ("name,what\nNo,number\n", "does not say where its columns begin"),
        ("name,from,to\nNo,1,5\nTonnes,5,9\n", "\"No\" and \"Tonnes\" have characters in common"),
    ] {
        std::fs::write(desk.path("layout.csv"), layout).unwrap();
        desk.run(&["check", "table.txt"]).stops(&[says]);
    }
}

/// The workbook of rejects, edited as a spreadsheet program would: each cell that holds `old` now holds `new`.
fn edited_book(desk: &Desk, book: &str, old: &str, new: &str) -> Vec<u8> {
    use calamine::Reader as _;
    let mut read: calamine::Xlsx<_> = calamine::open_workbook(desk.path(book)).unwrap();
    let range = read.worksheet_range_at(0).unwrap().unwrap();
    let mut written = rust_xlsxwriter::Workbook::new();
    let sheet = written.add_worksheet();
    sheet.set_name(&read.sheet_names()[0]).unwrap();
    let (top, left) = range.start().unwrap();
    for (row, column, cell) in range.used_cells() {
        let text = cell.to_string();
        let text = if text == old { new } else { &text };
        sheet.write_string(row as u32 + top, column as u16 + left as u16, text).unwrap();
    }
    written.save_to_buffer().unwrap()
}

#[test]
fn rejects_of_every_kind_of_source_come_back_from_a_workbook() {
    let map = |field: &str, from: &str| format!("[[map]]\nfield = \"{field}\"\nfrom = \"{from}\"\n");
    let plain = |id: &str, cargo: &str| map("crossing", id) + &map("cargo", cargo);
    let crews = archive(&[("march/crews.csv", "No,Cargo\n117,car\n118,horse\n119,dog\n")]);
    let sources: [(&str, String, Vec<u8>); 7] = [
        ("c.json", plain("id", "load.kind"), b"{\"all\": [{\"id\": 117, \"load\": {\"kind\": \"car\"}}, {\"id\": 118, \"load\": {\"kind\": \"horse\"}}, {\"id\": 119, \"load\": {\"kind\": \"dog\"}}]}".to_vec()),
        ("c.jsonl", plain("id", "kind"), b"{\"id\": 117, \"kind\": \"car\"}\n{\"id\": 118, \"kind\": \"horse\"}\n{\"id\": 119, \"kind\": \"dog\"}\n".to_vec()),
        ("c.xml", plain("@id", "cargo"), b"<all><c id=\"117\"><cargo>car</cargo></c><c id=\"118\"><cargo>horse</cargo></c><c id=\"119\"><cargo>dog</cargo></c></all>".to_vec()),
        ("c.txt", plain("001", "650$a"), b"=001  117\n=650  \\0$acar\n\n=001  118\n=650  \\0$ahorse\n\n=001  119\n=650  \\0$adog\n".to_vec()),
        ("f.txt", format!("[source]\npositions = [\"1-5 No\", \"7-12 Cargo\"]\n{}", plain("No", "Cargo")), b"00117 car\n00118 horse\n00119 dog\n".to_vec()),
        ("k.csv", format!("[source]\nheader_row = 0\n{}", plain("1", "2")), b"117,car\n118,horse\n119,dog\n".to_vec()),
        ("all.zip", plain("No", "Cargo"), crews),
    ];
    for (name, mapping, bytes) in sources {
        let desk = desk_of(&mapping).with_bytes(name, &bytes);
        desk.run(&["conform", name, "-o", "first"]).ended(1).says(&["3 rows read = 2 accepted + 1 rejected"]);
        let book = edited_book(&desk, "first/rejects.xlsx", "horse", "bus");
        let desk = desk.with_bytes("mended.xlsx", &book);
        desk.run(&["correct", "mended.xlsx", "--yes"]).ended(0).says(&["\"horse\"", "\"bus\""]);
        desk.run(&["conform", name, "-o", "second", "--again"]).ended(0);
        assert_eq!(
            desk.read("second/upload/up.csv"),
            "crossing,cargo\n00117,C\n00118,B\n00119,D\n",
            "{name}"
        );
        // The export itself is not touched.
        assert_eq!(desk.read_bytes(name), bytes, "{name}");
    }
}

#[test]
fn fields_of_one_tag_are_told_apart_by_their_indicators() {
    let lines = "=001  117\n=650  \\0$acar\n=650  \\7$adog\n=650  \\0$abus\n\n=001  118\n=650  17$adog\n";
    let maps = "[[map]]\nfield = \"crossing\"\nfrom = \"001\"\n[[map]]\nfield = \"cargo\"\nfrom = \"650_0$a\"\nbetween = \"|\"\n";
    let desk = desk_of(&format!("[source]\nby_indicator = [\"650\"]\n{maps}")).with("c.txt", lines);
    desk.run(&["inspect", "c.txt", "-m", "mapping.toml"]).ended(0).says(&["650_0$a", "650_7$a", "65017$a"]);
    desk.run(&["conform", "c.txt", "-o", "batch"]).ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "crossing,cargo\n00117,C+B\n00118,\n");
    let all = desk_of(&maps.replace("650_0$a", "650$a")).with("c.txt", lines);
    all.run(&["conform", "c.txt", "-o", "batch"]).ended(0);
    assert_eq!(all.read("batch/upload/up.csv"), "crossing,cargo\n00117,C+D+B\n00118,D\n");
    let wrong = desk_of(&format!("[source]\nby_indicator = [\"001\"]\n{maps}")).with("c.txt", lines);
    wrong.run(&["check", "c.txt"]).stops(&["by_indicator \"001\" is not the tag of a field with indicators"]);
}
