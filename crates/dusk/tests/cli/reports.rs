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
