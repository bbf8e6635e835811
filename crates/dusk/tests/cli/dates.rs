//! Dates without a named order: proven by the column, or the run stops and says what to write.

use crate::desk::Desk;

fn desk(cells: &[&str]) -> Desk {
    Desk::with_field("type = \"date\"", "from = \"It\"", cells)
}

#[test]
fn a_column_that_proves_its_order_is_read() {
    let desk = desk(&["03/04/2026", "soon", "13/04/2026", "2026-04-05", "6 Apr 2026"]);
    desk.conform().ended(1).says(&[
        "it: day-month-year (proven: 1 value allows no other order, none contradicts it;",
        "4 \"13/04/2026\" = 13",
    ]);
    assert_eq!(
        desk.read("batch/upload/up.csv"),
        "id,it\nr0,2026-04-03\nr2,2026-04-13\nr3,2026-04-05\nr4,2026-04-06\n"
    );
    assert!(
        desk.read("batch/changes.csv").contains("read as day-month-year, as the column proves: 3 Apr 2026")
    );
    assert!(desk.read("batch/receipt.json").contains("\"it\": \"day-month-year\""));
}

#[test]
fn a_column_without_proof_stops_the_run_with_the_counts_and_what_to_write() {
    let desk = desk(&["03/04/2026", "05/06/2026"]);
    let stopped = desk.conform().stops(&[
        "export.csv: column \"It\": its dates do not prove the order of day, month and year",
        "day-month-year       0 values allow no other order; it would make row 2 \"03/04/2026\" = 3 Apr 2026",
        "month-day-year       0 values allow no other order; it would make row 2 \"03/04/2026\" = 4 Mar 2026",
        "2 values fit more than one order",
        "write the order into mapping.toml",
        "order = …   # \"day-month-year\" or \"month-day-year\"",
    ]);
    assert!(!desk.exists("batch"), "{}", stopped.err);
    // What it says to write settles it.
    let desk = desk.edited("mapping.toml", "from = \"It\"", "from = \"It\"\norder = \"month-day-year\"");
    desk.conform().ended(0);
    assert!(desk.read("batch/upload/up.csv").contains("r0,2026-03-04"));
}

#[test]
fn a_column_that_contradicts_itself_stops_the_run_with_a_proof_of_each() {
    desk(&["13/04/2026", "01/02/2026", "04/14/2026"]).run(&["check", "export.csv"]).stops(&[
        "contradict each other",
        "first row 2 \"13/04/2026\" = 13 Apr 2026",
        "first row 4 \"04/14/2026\" = 14 Apr 2026",
    ]);
}

#[test]
fn a_column_that_needs_no_order_is_read_without_one() {
    let desk = desk(&["2026-04-03", "4 April 2026", "05/05/2026", "Apr 6, 2026"]);
    desk.conform().ended(0).says(&["date order  it: not needed (4 values have one reading only)"]);
    assert_eq!(
        desk.read("batch/upload/up.csv"),
        "id,it\nr0,2026-04-03\nr1,2026-04-04\nr2,2026-05-05\nr3,2026-04-06\n"
    );
}

#[test]
fn the_proof_may_come_from_any_of_the_sources() {
    let desk = desk(&["03/04/2026"]).with("later.csv", "Id,It\nx,25/04/2026\n");
    desk.run(&["check", "export.csv"]).stops(&["do not prove"]);
    desk.run(&["check", "export.csv", "later.csv"]).ended(0).says(&["25 Apr 2026"]);
}

#[test]
fn every_column_without_proof_is_said_at_once() {
    let field = "type = \"date\"\n[[field]]\nname = \"also\"\ntype = \"date\"";
    let desk = Desk::with_field(field, "from = \"It\"\n[[map]]\nfield = \"also\"\nfrom = \"Id\"", &[])
        .with("export.csv", "Id,It\n01/02/2026,03/04/2026\n");
    desk.run(&["check", "export.csv"]).stops(&["column \"It\"", "column \"Id\""]);
}

#[test]
fn two_digit_years_lie_in_the_hundred_years_that_the_mapping_names() {
    let desk = Desk::with_field(
        "type = \"date\"",
        "from = \"It\"\norder = \"day-month-year\"\nyears_from = 1950",
        &["03/04/49", "03/04/50"],
    );
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,2049-04-03\nr1,1950-04-03\n");
}

#[test]
fn patterns_read_and_write_every_part() {
    let desk = Desk::with_field(
        "type = \"datetime\"\nformat = \"EEE d MMMM yyyy 'at' h:mm a\"",
        "from = \"It\"\npattern = \"yyyyMMdd HHmm\"",
        &["20260403 1405"],
    );
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,Fri 3 April 2026 at 2:05 PM\n");
    let desk = Desk::with_field(
        "type = \"date\"",
        "from = \"It\"\norder = \"day-month-year\"\ndrop_time = true",
        &["03/04/2026 14:05"],
    );
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,2026-04-03\n");
    let desk = Desk::with_field("type = \"time\"\nformat = \"HH:mm\"", "from = \"It\"", &["9:05", "2:30 pm"]);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,09:05\nr1,14:30\n");
}

#[test]
fn a_column_that_may_be_half_converted_stops_the_run_until_the_mapping_speaks() {
    let desk = desk(&["2026-03-04", "25/03/2026"]);
    desk.conform().stops(&["may be half converted", "order = …"]);
    let desk = desk.edited("mapping.toml", "from = \"It\"", "from = \"It\"\norder = \"day-month-year\"");
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,2026-03-04\nr1,2026-03-25\n");
}
