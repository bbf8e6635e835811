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
