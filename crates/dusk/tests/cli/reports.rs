//! The page about a batch.

use crate::desk::Desk;

/// The page as a reader of XML takes it, which is stricter than any browser.
fn texts(page: &str) -> String {
    let body = page.replace("<!DOCTYPE html>", "");
    let void = [
        "<meta charset=\"utf-8\">",
        "content=\"width=device-width, initial-scale=1\">",
        "content=\"noindex\">",
    ];
    let body = void.iter().fold(body, |body, tag| body.replace(tag, &tag.replace('>', "/>")));
    let mut reader = quick_xml::Reader::from_str(&body);
    let mut all = String::new();
    loop {
        match reader.read_event().unwrap_or_else(|wrong| panic!("{wrong}: {page}")) {
            quick_xml::events::Event::Text(text) => all.push_str(&text),
            quick_xml::events::Event::Eof => return all,
            _ => {}
        }
    }
}

#[test]
fn the_page_stands_alone_and_tells_what_was_done() {
    let export = "No,Date,Queen,Honey\n117,03/04/2026,<b>&\"x\",10\n290,25/04/2026,sky,4.5\n300,26/04/2026,<b>&\"x\",1\n";
    let desk = Desk::new().with("export.csv", export);
    desk.run(&["correct", "export.csv", "3", "Honey", "5", "--by", "A. Clerk"]).ended(0);
    desk.conform().ended(1);
    let page = desk.read("batch/report.html");
    assert!(!page.contains("<b>") && !page.contains("<script"), "values are escaped, and nothing runs");
    assert!(!page.contains("http") && !page.contains("url("), "nothing is fetched");
    assert!(page.contains("lang=\"en\"") && page.contains("role=\"img\"") && page.contains("scope=\"col\""));
    assert!(
        page.contains("aria-label=\"Of 3 rows read, 1 were accepted, 2 rejected, 0 merged and 0 left out.\"")
    );
    let said = texts(&page);
    for part in [
        "Batch batch",
        "1 of 3 rows",
        "upload/up-1.csv",
        "What was changed",
        "correction",
        "A. Clerk",
        "What is left to do",
    ] {
        assert!(said.contains(part), "{part} is not in {said}");
    }
    assert!(desk.read("batch/receipt.json").contains("report.html"));
}

#[test]
fn a_page_to_be_handed_on_tells_no_value() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n117,03/04/2026,secretive,1234\n290,31/02/2026,hush-hush,4.5\n",
    );
    desk.run(&["crosswalk", "add", "queen", "hush-hush", "Y", "--by", "Nobody Else"]).ended(0);
    desk.run(&[
        "conform",
        "export.csv",
        "-o",
        "batch",
        "--no-values",
        "--by",
        "Nobody Else",
        "--today",
        "2026-04-30",
    ])
    .ended(1);
    let page = desk.read("batch/report.html");
    for value in ["secretive", "hush-hush", "117", "31/02", "Nobody", "559.7", "1234"] {
        assert!(!page.contains(value), "{value} is in {page}");
    }
    assert!(texts(&page).contains("queen: no codes of the list"));
    assert!(desk.read("batch/findings.csv").contains("secretive"), "only the page leaves values out");
}

#[test]
fn whatever_the_cells_hold_the_page_is_whole_and_says_it_plainly() {
    let hostile = [
        "<script>alert(1)</script>",
        "]]>&amp;&lt;",
        "\"onmouseover=\"x",
        "</td></table>",
        "\u{202e}gnitirw\u{200b}",
        "bell\u{7} and \u{1b}[31m",
        "javascript:alert(1)",
        "a long one, ".repeat(40).leak(),
    ];
    let rows: String =
        (0..).zip(hostile).fold(String::from("No,Date,Queen,Honey\n"), |rows, (number, cell)| {
            format!("{rows}{number},03/04/2026,\"{}\",1\n", cell.replace('"', "\"\""))
        });
    let desk = Desk::new().with("export.csv", &rows);
    desk.run(&[
        "correct",
        "export.csv",
        "2",
        "Honey",
        "2",
        "--note",
        "<b>why</b>",
        "--by",
        "A. <i>Clerk</i>",
    ])
    .ended(0);
    desk.conform().ended(1);
    let page = desk.read("batch/report.html");
    let said = texts(&page);
    for tag in ["<script", "<b>", "<i>", "onmouseover=\"x", "\u{1b}", "\u{7}", "\u{202e}", "\u{200b}"] {
        assert!(!page.contains(tag), "{tag}");
    }
    for shown in
        ["&lt;script&gt;alert(1)", "bell␇ and ␛[31m", "‹U+202E›gnitirw‹U+200B›", "javascript:alert(1)"]
    {
        assert!(said.contains(shown) || page.contains(shown), "{shown} is not in {said}");
    }
    assert!(!page.contains("href"), "nothing on it leads anywhere");
    // The same page without values holds none of them.
    desk.run(&["conform", "export.csv", "-o", "other", "--again", "--no-values", "--today", "2026-04-30"])
        .ended(1);
    let page = desk.read("other/report.html");
    texts(&page);
    for value in ["alert", "gnitirw", "␇", "a long one", "Clerk"] {
        assert!(!page.contains(value), "{value}");
    }
}

#[test]
fn the_page_counts_what_the_receipt_counts() {
    let rows: String = (0..40).fold(String::from("No,Date,Queen,Honey\n"), |rows, number| {
        let queen = ["white", "yel.", "pink", ""][number % 4];
        let day = if number % 10 == 9 { "31/02/2026" } else { "03/04/2026" };
        format!("{rows}{number},{day},{queen},{number}\n")
    });
    let desk = Desk::new().with("export.csv", &rows);
    desk.conform().ended(1);
    let receipt: serde_json::Value = serde_json::from_str(&desk.read("batch/receipt.json")).unwrap();
    let count = |key: &str| receipt["totals"][key].as_u64().unwrap();
    assert_eq!(count("read"), count("accepted") + count("rejected") + count("merged") + count("left_out"));
    let page = desk.read("batch/report.html");
    let label = format!(
        "aria-label=\"Of {} rows read, {} were accepted, {} rejected, {} merged and {} left out.\"",
        count("read"),
        count("accepted"),
        count("rejected"),
        count("merged"),
        count("left_out")
    );
    assert!(page.contains(&label), "{label}");
    // Every file that the receipt names for the target is on the page, with its hash begun.
    for output in receipt["outputs"].as_array().unwrap() {
        let (file, hash) = (output["file"].as_str().unwrap(), output["blake3"].as_str().unwrap());
        if file.starts_with("upload/") {
            assert!(page.contains(file) && page.contains(hash.get(..12).unwrap()), "{file}");
        }
    }
    // The bars are in the order of the rows that they stand for.
    let said = texts(&page);
    let at = |text: &str| said.find(text).unwrap_or_else(|| panic!("{text} is not in {said}"));
    assert!(at("queen yel.") < at("visit_date 31/02/2026"), "{said}");
}

/// A desk whose upload is divided by quay, with rows that are rejected for several reasons.
fn by_quay() -> Desk {
    Desk::empty()
        .with(
            "target.toml",
            "[target]\nname = \"Harbour log\"\n[upload]\nline_end = \"lf\"\nsplit_by = \"quay\"\nfile_name = \"{quay}.csv\"\n\
             [[field]]\nname = \"call\"\ntype = \"text\"\nkey = true\nrequired = true\n\
             [[field]]\nname = \"quay\"\nlabel = \"Quay\"\ntype = \"code\"\ncodes = \"codes/quay.csv\"\n\
             [[field]]\nname = \"arrived\"\ntype = \"date\"\n[[field]]\nname = \"tonnes\"\ntype = \"decimal\"\ndecimals = 1\nmin = 0\n",
        )
        .with("codes/quay.csv", "code,label\nN,North <East>\nS,South\nW,West\n")
        .with(
            "mapping.toml",
            "target = \"target.toml\"\n[source]\ndelimiter = \",\"\n[[map]]\nfield = \"call\"\nfrom = \"Call\"\n[[map]]\nfield = \"quay\"\nfrom = \"Quay\"\n\
             [[map]]\nfield = \"arrived\"\nfrom = \"Arrived\"\norder = \"day-month-year\"\n[[map]]\nfield = \"tonnes\"\nfrom = \"Tonnes\"\n",
        )
        .with(
            "export.csv",
            "Call,Quay,Arrived,Tonnes\n1,North <East>,1/2/2025,4.5\n2,south,31/2/2025,4\n3,south,3/2/2026,-1\n4,nowhere,3/2/2026,1\n\
             5,,3/2/2026,1\n6,W,4/2/2026,x\n7,N,5/2/2026,2\n7,N,5/2/2026,3\n8,S,x\n9,South,32/2/2026,1\n",
        )
}

#[test]
fn a_page_about_each_group_tells_what_became_of_it_and_of_no_other() {
    let desk = by_quay();
    desk.run(&["conform", "export.csv", "-o", "batch", "--today", "2026-04-30", "--group-pages"])
        .ended(1)
        .says(&["report-N.html", "the same about one group", "report-of-no-group.html"]);
    let pages: Vec<String> =
        desk.names("batch").into_iter().filter(|name| name.starts_with("report")).collect();
    let of = [
        "report-N.html",
        "report-S.html",
        "report-W.html",
        "report-blank.html",
        "report-of-no-group.html",
        "report.html",
    ];
    assert_eq!(pages, of);
    let page = |name: &str| desk.read(&format!("batch/{name}"));
    let north = page("report-N.html");
    for says in [
        "Quay N North &lt;East&gt;",
        "<strong>2 records</strong> are",
        "<strong>1 row</strong> was",
        "N.csv",
        "Harbour log",
        "30 April 2026",
    ] {
        assert!(north.contains(says), "{says} is not in\n{north}");
    }
    assert!(north.contains("is the key of row 8 already"), "{north}");
    // Nothing of another quay is told.
    assert!(!north.contains("31/2/2025") && !north.contains("South"), "{north}");
    let south = page("report-S.html");
    for says in [
        "<strong>0 records</strong> are",
        "<strong>3 rows</strong> were",
        "31/2/2025",
        "32/2/2026",
        "below the smallest allowed",
        "0 or more",
    ] {
        assert!(south.contains(says), "{says} is not in\n{south}");
    }
    // The cause of two rows comes before the one of a single row.
    let at = |text: &str| south.find(text).unwrap();
    assert!(at("arrived") < at("tonnes"), "{south}");
    assert!(page("report-blank.html").contains("Quay: blank"));
    let nobody = page("report-of-no-group.html");
    for says in ["Rows whose Quay is not known", "nowhere", "<strong>2 rows</strong> were rejected"] {
        assert!(nobody.contains(says), "{says} is not in\n{nobody}");
    }
    // What the pages count is what the batch counts.
    let sent: usize = ["N", "blank"]
        .iter()
        .map(|quay| desk.read(&format!("batch/upload/{quay}.csv")).lines().count() - 1)
        .sum();
    assert_eq!(sent, 3);
    let receipt = desk.read("batch/receipt.json");
    assert!(of.iter().all(|name| receipt.contains(name)), "each page is in the receipt with its hash");
}

#[test]
fn pages_about_groups_go_with_groups_and_with_values() {
    let desk = by_quay();
    desk.conform().ended(1);
    assert_eq!(
        desk.names("batch").iter().filter(|name| name.starts_with("report")).count(),
        1,
        "only when asked"
    );
    desk.run(&["conform", "export.csv", "--again", "--group-pages", "--no-values"]).stops(&["--no-values"]);
    let whole = desk.edited(
        "target.toml",
        "split_by = \"quay\"\nfile_name = \"{quay}.csv\"",
        "file_name = \"up.csv\"",
    );
    whole.run(&["conform", "export.csv", "--again", "--group-pages"]).stops(&["--group-pages", "split_by"]);
}

#[test]
fn values_that_are_one_name_of_a_file_have_a_page_each() {
    let desk = by_quay()
        .edited("target.toml", "type = \"code\"\ncodes = \"codes/quay.csv\"", "type = \"text\"")
        .with("export.csv", "Call,Quay,Arrived,Tonnes\n1,A/B,1/2/2025,x\n2,A:B,1/2/2025,x\n3,A_B,1/2/2025,x\n4,c,1/2/2025,1\n");
    desk.run(&["conform", "export.csv", "-o", "batch", "--group-pages"]).ended(1);
    let title = |name: &str| {
        let page = desk.read(&format!("batch/{name}"));
        page.split("<h1>").nth(1).unwrap().split("</h1>").next().unwrap().to_owned()
    };
    let mut titles = ["report-A_B.html", "report-A_B-2.html", "report-A_B-3.html"].map(title);
    titles.sort();
    assert_eq!(titles, ["Quay A/B", "Quay A:B", "Quay A_B"]);
}

#[test]
fn files_are_divided_by_a_part_of_a_date() {
    let desk = by_quay().edited(
        "target.toml",
        "split_by = \"quay\"\nfile_name = \"{quay}.csv\"",
        "split_by = \"arrived\"\nsplit_form = \"yyyy\"\nfile_name = \"{arrived}.csv\"",
    );
    let rows = "1,N,1/2/2025,4.5\n2,S,31/12/2025,4\n3,S,1/1/2026,1\n4,S,,1\n";
    let desk = desk.with("export.csv", &format!("Call,Quay,Arrived,Tonnes\n{rows}"));
    desk.run(&["conform", "export.csv", "-o", "batch", "--group-pages"]).ended(0);
    assert_eq!(desk.names("batch/upload"), ["2025.csv", "2026.csv", "blank.csv"]);
    assert_eq!(
        desk.read("batch/upload/2025.csv"),
        "call,quay,arrived,tonnes\n1,N,2025-02-01,4.5\n2,S,2025-12-31,4\n"
    );
    assert!(desk.exists("batch/report-2025.html"));
    desk.run(&["trial", "export.csv", "--first", "4", "--as-file"]).ended(0).says(&["2025.csv", "2026.csv"]);
    let by_month = desk.edited("target.toml", "\"yyyy\"", "\"yyyy-MM\"");
    by_month.run(&["conform", "export.csv", "-o", "again", "--again"]).ended(0);
    assert_eq!(by_month.names("again/upload"), ["2025-02.csv", "2025-12.csv", "2026-01.csv", "blank.csv"]);
    for (old, new, says) in [
        ("split_by = \"arrived\"", "split_by = \"quay\"", "quay holds none"),
        ("\"yyyy-MM\"", "\"YYYY\"", "split_form \"YYYY\""),
        ("split_by = \"arrived\"\n", "", "split_form goes with split_by"),
    ] {
        let target = desk_text(&by_month)
            .replace(old, new)
            .replace("{arrived}", if new.contains("quay") { "{quay}" } else { "{arrived}" });
        Desk::empty()
            .with("target.toml", &target)
            .with("codes/quay.csv", "code,label\nN,North\n")
            .run(&["target", "check"])
            .ended(1)
            .says(&[says]);
    }
}

fn desk_text(desk: &Desk) -> String {
    desk.read("target.toml")
}

#[test]
fn batches_of_a_target_are_set_beside_one_another_with_how_far_each_came() {
    let month = |day: &str, rows: &[&str]| {
        rows.iter().fold("No,Date,Queen,Honey\n".to_owned(), |text, row| {
            let (no, rest) = row.split_once(' ').unwrap();
            format!("{text}{no},{day},{rest}\n")
        })
    };
    let desk = Desk::new()
        .with("april.csv", &month("25/04/2026", &["1 white,4", "2 sky,5", "3 pink,6"]))
        .with("may.csv", &month("25/05/2026", &["1 white,4", "2 sky,5", "4 white,1", "5 ,2"]));
    desk.run(&["conform", "april.csv", "--today", "2026-04-30"]).ended(1);
    let first = desk.read("batches/2026-04-30-a/report.html");
    assert!(!first.contains("Beside the batches before"), "the first stands alone");
    desk.run(&["approve", "2026-04-30-a", "--by", "A. Clerk", "--today", "2026-05-01"]).ended(0);
    desk.run(&["conform", "may.csv", "--today", "2026-05-31"]).ended(0);
    let said = texts(&desk.read("batches/2026-05-31-a/report.html"));
    let table = said.split_once("Beside the batches before").unwrap().1;
    for row in ["2026-04-30-a30 Apr 2026321approved", "2026-05-31-a31 May 2026440this one"] {
        assert!(table.contains(row), "{row}: {table}");
    }
    // Made again, a batch is not beside itself; and nobody who may not see values sees how they were before.
    desk.run(&["conform", "may.csv", "--today", "2026-05-31", "--again"]).ended(0);
    let again = texts(&desk.read("batches/2026-05-31-a/report.html"));
    assert_eq!(again.matches("2026-05-31-a31 May").count(), 1, "{again}");
    desk.run(&["conform", "may.csv", "--today", "2026-05-31", "--again", "--no-values"]).ended(0);
    let without = texts(&desk.read("batches/2026-05-31-a/report.html"));
    assert!(!without.contains("2026-04-30-a"), "{without}");
}

#[test]
fn it_is_told_how_complete_the_records_are_that_are_sent_and_not_the_rows_of_the_export() {
    // Two of five rows are rejected; of the three that are sent, honey is filled in one, which no rejected row changes.
    let export = "No,Date,Queen,Honey\n1,25/04/2026,white,\n2,25/04/2026,pink,4\n3,25/04/2026,,5\n\
        4,25/04/2026,nobody,4\n5,,white,\n";
    let desk = Desk::new().with("export.csv", export);
    desk.conform().ended(1);
    let said = texts(&desk.read("batch/report.html"));
    let section = said.split_once("How complete the records are that are sent").unwrap().1;
    assert!(section.contains("in how many of the 3 records that are sent it is filled"), "{section}");
    for bar in ["apiary_id100 %, required", "visit_date66 %", "queen66 %", "honey_kg33 %"] {
        assert!(section.contains(bar), "{bar}: {section}");
    }
}

#[test]
fn an_export_is_drawn_as_a_page_before_anything_is_mapped() {
    let mut export = String::from("No,Date,Queen,Honey,<i>Note</i>\n");
    for row in 0..300 {
        let note = if row == 200 { " loud " } else { "" };
        export.push_str(&format!(
            "{row},{:02}/{:02}/2026,white,{}.5,{note}\n",
            row % 12 + 1,
            row % 4 + 1,
            row % 30
        ));
    }
    let desk = Desk::empty().with("export.csv", &export);
    let ran =
        desk.run(&["inspect", "export.csv", "--page", "page.html"]).ended(0).says(&["300 below the header"]);
    assert!(ran.err.contains("the page is page.html"), "{}", ran.err);
    let page = desk.read("page.html");
    assert!(!page.contains("<i>") && !page.contains("<script") && !page.contains("http"), "it stands alone");
    let said = texts(&page.replace("<br>", "<br/>"));
    for part in [
        "300 rows of 5 columns; 1 column shows damage; 1 point needs a decision.",
        "date order of ",
        "order = ",
        "spaces at the ends",
        "iNote/i",
        "299 blank",
        "How many numbers lie in each range",
    ] {
        assert!(said.contains(part), "{part} is not in {said}");
    }
    assert!(page.contains("href=\"#c5\"") && page.contains("id=\"c5\""));
    // It is written anew, and never over anything else.
    desk.run(&["inspect", "export.csv", "--page", "page.html", "-q"]).ended(0);
    desk.run(&["inspect", "export.csv", "--page", "export.csv"])
        .stops(&["is there already, and is not a page"]);
    assert_eq!(desk.read("export.csv"), export);
}
