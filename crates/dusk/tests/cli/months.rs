//! The next month: what of it is unlike the last batch is said first, or stops where the mapping says so.

use crate::desk::Desk;

const TARGET: &str = "[target]\nname = \"Apple store\"\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n\
[[field]]\nname = \"lot\"\ntype = \"text\"\nkey = true\n\
[[field]]\nname = \"in\"\ntype = \"date\"\n\
[[field]]\nname = \"out\"\ntype = \"date\"\n\
[[field]]\nname = \"mass\"\ntype = \"decimal\"\ndecimals = 2\nunit = \"kg\"\n\
[[field]]\nname = \"price\"\ntype = \"decimal\"\ndecimals = 2\n\
[[field]]\nname = \"sort\"\ntype = \"text\"\n";

const MAPPING: &str = "target = \"target.toml\"\n\
[[map]]\nfield = \"lot\"\nfrom = \"Lot\"\n[[map]]\nfield = \"in\"\nfrom = \"In\"\n\
[[map]]\nfield = \"out\"\nfrom = \"Out\"\n[[map]]\nfield = \"mass\"\nfrom = \"Mass\"\nunit = \"kg\"\n\
[[map]]\nfield = \"price\"\nfrom = \"Price\"\n[[map]]\nfield = \"sort\"\nfrom = \"Sort\"\n";

/// A row of a month by its number: the cells of a store's list, in the order of its columns.
fn row(month: u32, number: u32) -> [String; 6] {
    let draw = |by: u32, most: u32| (number * 7_919 + month * 104_729).wrapping_mul(by) / 65_536 % most;
    let day = 1 + draw(2_654_435, 28);
    let kept = month + 1 + draw(40_503, 3);
    [
        format!("{month}-{number:04}"),
        format!("2026-{month:02}-{day:02}"),
        format!("2026-{kept:02}-{day:02}"),
        format!("{}.{}", 120 + draw(69_069, 300), draw(31_337, 10)),
        format!("{}.{:02}", 2 + draw(1_664_525, 4), draw(22_695, 100)),
        ["Russet", "Pippin", "Costard", "Russet", "Pippin", "Russet"][draw(134_775, 6) as usize].to_owned(),
    ]
}

fn export(rows: impl Iterator<Item = [String; 6]>) -> String {
    let lines = rows.map(|cells| cells.join(",") + "\n");
    format!("Lot,In,Out,Mass,Price,Sort\n{}", lines.collect::<String>())
}

fn month(month: u32, change: impl Fn(&mut [String; 6])) -> String {
    export((1..=120 + month * 10).map(|number| {
        let mut cells = row(month, number);
        change(&mut cells);
        cells
    }))
}

/// A desk with the batch of March.
fn desk() -> Desk {
    let desk = Desk::empty()
        .with("target.toml", TARGET)
        .with("mapping.toml", MAPPING)
        .with("march.csv", &month(3, |_| {}));
    desk.run(&["conform", "march.csv", "--today", "2026-04-02"]).ended(0);
    desk
}

#[test]
fn a_month_like_the_others_is_left_alone_and_what_is_unlike_is_said_with_its_field() {
    let desk = desk();
    let said = |export: &str| {
        desk.with_again("april.csv", export);
        desk.run(&["check", "april.csv", "--today", "2026-05-02"]).out
    };
    assert!(!said(&month(4, |_| {})).contains("new since"));
    let number = |cell: &str| cell.replace('.', "").parse::<u32>().unwrap();
    for (export, says) in [
        (month(4, |cells| cells.swap(1, 2)), "in is below out in 0 of 100 records, and was in 100"),
        (month(4, |cells| cells.swap(3, 4)), "each has the values that the other had"),
        (month(4, |cells| cells[3] = format!("{}.0", number(&cells[3]))), "mass: the numbers are about"),
        (month(4, |cells| cells[3] = format!("-{}", cells[3])), "mass: 100 of 100 numbers are below zero"),
        (
            month(4, |cells| cells[4] = format!("\"{}\"", cells[4].replace('.', ","))),
            "price: \",\" is before",
        ),
        (month(4, |cells| cells[4] = "soon".into()), "price: 100 of 100 values are rejected, and 0 were"),
        (export((1..=12).map(|number| row(4, number))), "there are 12 rows, and the last batch had 150"),
        (
            export((1..=100).map(|number| row(4, number)).chain((1..=40).map(|number| row(3, number)))),
            "40 of 140 rows were in the last batch already, just as they are; first row 102",
        ),
    ] {
        let said = said(&export);
        assert!(
            said.starts_with("new since batch 2026-04-02-a") && said.replace("\n    ", " ").contains(says),
            "{says}: {said}"
        );
    }
    // Where the batch remembers nothing, nothing is compared.
    std::fs::remove_file(desk.path("batches/2026-04-02-a/memory.json")).unwrap();
    assert!(!said(&month(4, |cells| cells.swap(1, 2))).contains("is below"));
}

#[test]
fn an_export_that_is_unlike_the_last_batch_stops_where_the_mapping_says_so() {
    let turned = month(4, |cells| cells.swap(3, 4));
    let desk = desk().with("april.csv", &turned);
    let stops = desk.edited("mapping.toml", "[[map]]", "[rows]\nunlike = \"stop\"\n[[map]]");
    let conform = |desk: &Desk| desk.run(&["conform", "april.csv", "--today", "2026-05-02"]);
    conform(&stops).stops(&[
        "unlike the last batch, so nothing was written",
        "mass and price",
        "unlike = \"say\"",
    ]);
    assert_eq!(stops.names("batches"), ["2026-04-02-a"]);
    let says = stops.edited("mapping.toml", "unlike = \"stop\"", "unlike = \"say\"");
    conform(&says).ended(0).says(&["new since batch 2026-04-02-a"]);
}

#[test]
fn an_encoding_that_the_bytes_deny_stops_the_run_and_text_in_it_does_not() {
    let named = |encoding: &str, bytes: &[u8]| {
        Desk::with_field("type = \"text\"", "from = \"It\"", &[])
            .edited("mapping.toml", "[[map]]", &format!("[source]\nencoding = \"{encoding}\"\n[[map]]"))
            .with_bytes("export.csv", bytes)
            .run(&["conform", "export.csv", "-o", "batch"])
    };
    let utf_8 = "Id,It\na,Frühäpfel\nb,Süßäpfel\n".as_bytes();
    let western: Vec<u8> =
        encoding_rs::WINDOWS_1252.encode("Id,It\na,Frühäpfel\nb,Süßäpfel\n").0.into_owned();
    named("windows-1252", utf_8)
        .stops(&["is UTF-8 by its bytes, and the mapping says windows-1252", "encoding = \"utf-8\""]);
    named("windows-1252", &western).ended(0);
    named("utf-8", utf_8).ended(0);
}

#[test]
fn records_that_the_last_batch_had_are_counted_and_listed_by_their_keys() {
    let desk = desk();
    // Ten lots of March again, as they were and written otherwise, and two that say something else.
    let again = (1..=10).map(|number| row(3, number)).map(|mut cells| {
        cells[0] = format!(" {}", cells[0]);
        if cells[0].ends_with('7') || cells[0].ends_with('8') {
            cells[4] = "99.00".into();
        }
        cells
    });
    let desk = desk.with("april.csv", &export((1..=150).map(|number| row(4, number)).chain(again)));
    let conform = |more: &[&str]| {
        desk.run(&[&["conform", "april.csv", "--today", "2026-05-02", "-o", "april"], more].concat())
    };
    let says = "10 records were in batch 2026-04-02-a already, by the key: 8 with the same facts, 2 with other facts";
    conform(&[]).ended(0).says(&[says, "records-again.csv"]);
    let list = desk.read("april/records-again.csv");
    assert!(list.starts_with("source,row,key,in the last batch\napril.csv,152,3-0001,the same\n"), "{list}");
    assert_eq!([list.matches("the same").count(), list.matches("other facts").count()], [8, 2]);
    // Made again, it is compared with the batch before and not with itself.
    conform(&["--again"]).ended(0).says(&[says]);
    desk.run(&["check", "april.csv", "--today", "2026-05-02"]).ended(0).says(&[says]);
    std::fs::write(desk.path("batches/2026-04-02-a/records.bin"), "torn").unwrap();
    desk.run(&["check", "april.csv"]).ended(0).says_nothing_of(&["already, by the key"]);
}

#[test]
fn what_was_decided_or_stood_in_a_row_that_was_kept_out_is_no_news() {
    const CODED: &str = "[[field]]\nname = \"id\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"queen\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"\n[[field]]\nname = \"day\"\ntype = \"date\"\n";
    let rows = |rows: &[&str]| format!("No,Queen,Day\n{}\n", rows.join("\n"));
    let desk = Desk::new()
        .with("target.toml", &format!("[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n{CODED}"))
        .with("mapping.toml", "target = \"target.toml\"\n[[map]]\nfield = \"id\"\nfrom = \"No\"\n[[map]]\nfield = \"queen\"\nfrom = \"Queen\"\nblank = [\"n/a\"]\n[[map]]\nfield = \"day\"\nfrom = \"Day\"\nblank = [\"not known\"]\n")
        .with("march.csv", &rows(&["1,white,2026-03-01", "2,pale,2026-03-02", "3,blue,2026-03-03"]))
        .with("april.csv", &rows(&["4,n/a,2026-04-01", "5,lost,not known", "8,pale,2026-04-01", "6,tan,last week", "7,white,2026-04-01"]));
    desk.run(&["correct", "march.csv", "3", "--keep-out"]).ended(0);
    desk.run(&["crosswalk", "add", "queen", "lost", "--keep-out"]).ended(0);
    desk.run(&["conform", "march.csv", "--today", "2026-03-31"]).ended(0);
    desk.run(&["crosswalk", "add", "queen", "tan", "Y"]).ended(0);
    desk.run(&["crosswalk", "add", "day", "last week", "2026-04-20"]).ended(0);
    let check = || desk.run(&["check", "april.csv", "--today", "2026-04-30"]);
    check().says_nothing_of(&["never seen before"]);
    desk.with_again("april.csv", &rows(&["4,mauve,2026-04-01", "5,lost,soon", "6,blue,2026-04-01"]));
    check().says(&[
        "queen: values never seen before: \"mauve\"",
        "day: values of a shape never seen before, like \"a\"",
    ]);
}
