//! Dates without a named order: proven by the column, or the run stops and says what to write.

use crate::desk::Desk;

fn desk(cells: &[&str]) -> Desk {
    Desk::with_field("type = \"date\"", "from = \"It\"", cells)
}

#[test]
fn a_column_that_proves_its_order_is_read() {
    let desk = desk(&["03/04/2026", "soon", "13/04/2026", "2026-04-05", "6 Apr 2026"]);
    desk.conform()
        .ended(1)
        .says(&["it: day-month-year (proven): 1 value allows no other order; row 4 \"13/04/2026\" = 13"]);
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
        "export.csv: column \"It\": its dates do not prove one order of day, month and year",
        "day-month-year  0 values allow no other order; it would make row 2 \"03/04/2026\" = 3 Apr 2026",
        "month-day-year  0 values allow no other order; it would make row 2 \"03/04/2026\" = 4 Mar 2026",
        "2 values fit more than one order",
        "write into mapping.toml",
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
    desk(&["13/04/2026", "01/02/2026", "04/14/2026"]).conform().stops(&[
        "contradicted: 1 value proves day-month-year; 1 value proves month-day-year",
        "row 2 \"13/04/2026\" = 13 Apr 2026",
        "row 4 \"04/14/2026\" = 14 Apr 2026",
    ]);
}

#[test]
fn a_column_that_needs_no_order_is_read_without_one() {
    let desk = desk(&["2026-04-03", "4 April 2026", "05/05/2026", "Apr 6, 2026"]);
    desk.conform().ended(0).says(&["date order  it: not needed"]);
    assert_eq!(
        desk.read("batch/upload/up.csv"),
        "id,it\nr0,2026-04-03\nr1,2026-04-04\nr2,2026-05-05\nr3,2026-04-06\n"
    );
}

#[test]
fn the_proof_may_come_from_any_of_the_sources() {
    let desk = desk(&["03/04/2026"]).with("later.csv", "Id,It\nx,\"25/04/2026\"\n");
    desk.conform().stops(&["do not prove"]);
    desk.run(&["check", "export.csv", "later.csv", "--evidence"]).ended(0).says(&["25 Apr 2026"]);
}

#[test]
fn every_column_without_proof_is_said_at_once() {
    let field = "type = \"date\"\n[[field]]\nname = \"also\"\ntype = \"date\"";
    let desk = Desk::with_field(field, "from = \"It\"\n[[map]]\nfield = \"also\"\nfrom = \"Id\"", &[])
        .with("export.csv", "Id,It\n01/02/2026,03/04/2026\n");
    desk.conform().stops(&["column \"It\"", "column \"Id\""]);
}

#[test]
fn check_shows_an_open_order_beside_everything_else_that_is_wrong() {
    let field = "type = \"date\"\n[[field]]\nname = \"queen\"\ntype = \"code\"\ncodes = \"codes/queen.csv\"";
    let cells = "Id,It,Queen\nr0,03/04/2026,W\nr1,05/06/2026,wite\nr2,07/07/2026,Y\nr3,last week,W\n";
    let desk = Desk::with_field(field, "from = \"It\"\n[[map]]\nfield = \"queen\"\nfrom = \"Queen\"", &[])
        .with("export.csv", cells);
    // What is the same day in every order is read; all other dates wait for the order.
    let ran = desk.run(&["check", "export.csv"]).ended(1).says(&[
        "4 rows read = 1 accepted + 3 rejected",
        "2 cells  it     its dates do not prove one order of day, month and year",
        "day-month-year  0 values allow no other order; it would make row 2 \"03/04/2026\"",
        "do: in mapping.toml, under it: order = …   # \"day-month-year\" or \"month-day-year\"",
        "\"wite\"  is not a code",
        "\"last week\"  is not a date",
    ]);
    assert!(ran.out.contains("no batch is made until it is known"), "{}", ran.out);
    let json = desk.check();
    let column = &json["causes"][0]["column"];
    assert!(column["details"][0].as_str().unwrap().starts_with("day-month-year"), "{column}");
    desk.run(&["explain", "export.csv", "2", "it"]).ended(0).says(&["could be two different days"]);
    desk.run(&["crosswalk", "check", "export.csv"]).ended(0);
    desk.conform().stops(&["do not prove"]);
    assert!(!desk.exists("batch"));
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
fn a_half_converted_column_stops_the_run_until_the_mapping_speaks() {
    let cells = ["2026-03-04", "25/03/2026"];
    let stopped = desk(&cells).conform().stops(&[
        "half converted: all dates like 9999-09-09 in quotes have a day of 12 or less",
        "\"2026-03-04\" = 4 Mar 2026, or 3 Apr 2026 if day and month were swapped",
        "order_where = [{ shape = \"9999-09-09\", order = \"year-day-month\" }]",
    ]);
    // An order that is named speaks of the texts only, so it does not hide what was converted.
    let named =
        desk(&cells).edited("mapping.toml", "from = \"It\"", "from = \"It\"\norder = \"day-month-year\"");
    named.conform().stops(&["half converted"]);
    assert!(!named.exists("batch"), "{}", stopped.err);
    for (order, upload) in [("year-day-month", "2026-04-03"), ("year-month-day", "2026-03-04")] {
        let line = format!("order_where = [{{ shape = \"9999-09-09\", order = \"{order}\" }}]");
        let desk = desk(&cells).edited(
            "mapping.toml",
            "from = \"It\"",
            &format!("from = \"It\"\norder = \"day-month-year\"\n{line}"),
        );
        desk.conform().ended(0);
        assert_eq!(desk.read("batch/upload/up.csv"), format!("id,it\nr0,{upload}\nr1,2026-03-25\n"));
    }
}

#[test]
fn a_half_conversion_written_back_as_text_is_asked_about_shape_by_shape() {
    let cells = ["4/3/2026", "25/03/2026", "11/12/2026"];
    desk(&cells).conform().stops(&[
        "half converted: dates like",
        "= 4 Mar 2026",
        "= 3 Apr 2026",
        "{ shape = \"9/9/9999\", order = … }",
    ]);
    // A named order does not hide it.
    let named =
        desk(&cells).edited("mapping.toml", "from = \"It\"", "from = \"It\"\norder = \"day-month-year\"");
    named.conform().stops(&["half converted: dates like"]);
    let lines = "from = \"It\"\norder = \"day-month-year\"\norder_where = [{ shape = \"9/9/9999\", order = \"month-day-year\" }]";
    let desk = desk(&cells).edited("mapping.toml", "from = \"It\"", lines);
    // 11/12 may be of either shape, so it stays in question.
    desk.conform().ended(1).says(&["\"11/12/2026\"", "could be two different days"]);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,2026-04-03\nr1,2026-03-25\n");
}

#[test]
fn blocks_of_rows_may_be_in_orders_of_their_own() {
    let cells = ["25/03/2026", "04/03/2026", "26/03/2026", "03/25/2026", "03/04/2026", "03/26/2026"];
    desk(&cells).conform().stops(&["contradicted: rows 2-4 day-month-year; rows 5-7 month-day-year"]);
    let lines = "from = \"It\"\norder_where = [{ rows = \"2-4\", order = \"day-month-year\" }, { rows = \"5-7\", order = \"month-day-year\" }]";
    let desk = desk(&cells).edited("mapping.toml", "from = \"It\"", lines);
    desk.conform().ended(0);
    assert_eq!(
        desk.read("batch/upload/up.csv"),
        "id,it\nr0,2026-03-25\nr1,2026-03-04\nr2,2026-03-26\nr3,2026-03-25\nr4,2026-03-04\nr5,2026-03-26\n"
    );
    desk.run(&["explain", "export.csv", "6", "it"])
        .ended(0)
        .says(&["as the mapping says of rows 5-7", "4 Mar 2026"]);
}

#[test]
fn counts_of_days_are_read_where_the_mapping_says_from_when() {
    for (count, day) in [("1900", "2026-03-04"), ("1904", "2030-03-05")] {
        let desk = Desk::with_field(
            "type = \"date\"",
            &format!("from = \"It\"\nday_count = \"{count}\""),
            &["46085"],
        );
        desk.conform().ended(0);
        assert_eq!(desk.read("batch/upload/up.csv"), format!("id,it\nr0,{day}\n"));
    }
}

#[test]
fn a_named_order_that_the_dates_deny_stops_the_run_and_a_single_slip_does_not() {
    for key in ["order = \"day-month-year\"", "pattern = \"dd/MM/yyyy\""] {
        let named =
            |cells: &[&str]| Desk::with_field("type = \"date\"", &format!("from = \"It\"\n{key}"), cells);
        let other = named(&["07/13/2026", "07/04/2026", "08/05/2026"]);
        other.conform().stops(&[
            "its dates prove another order of day, month and year than the mapping names",
            "\"07/13/2026\" = 13 Jul 2026",
            "order = \"month-day-year\"",
        ]);
        // Only the one that can be no other day is taken by check.
        other.run(&["check", "export.csv"]).ended(1).says(&[
            "3 rows read = 1 accepted + 2 rejected",
            "its dates prove another order of day, month and year than the mapping names",
            "do: in mapping.toml, under it: order = \"month-day-year\"",
        ]);
        assert!(!other.exists("batch"));
        let mut cells = vec!["25/05/2026"; 20];
        cells.extend(["07/13/2026", "07/04/2026"]);
        named(&cells)
            .run(&["check", "export.csv"])
            .ended(1)
            .says(&["22 rows read = 21 accepted + 1 rejected"]);
        // Two that follow one another are a part of the column that is written otherwise.
        cells.push("08/14/2026");
        named(&cells).conform().stops(&[
            "contradicted: rows 2-21 day-month-year; rows 22-24 month-day-year",
            "order_where = [{ rows = \"22-24\", order = \"month-day-year\" }]",
        ]);
        named(&["07/04/2026", "31/02/2026"]).run(&["check", "export.csv"]).ended(1);
    }
}

/// A desk with a date that is made of columns as `map` says, in an export of these rows.
fn made_desk(map: &str, export: &str) -> Desk {
    Desk::with_field("type = \"datetime\"\nformat = \"yyyy-MM-dd HH:mm\"", map, &[])
        .with("export.csv", &format!("Id,Day,Time,Old\n{export}"))
        .with("days.csv", "Hive,Put up\na,03/04/2026 09:00\nb,04/05/2026 09:00\nc,25/05/2026 09:00\n")
}

#[test]
fn whatever_feeds_a_date_has_to_prove_its_order() {
    let join = "join = \"{Day} {Time}\"";
    made_desk(join, "a,03/04/2026,09:00,\nb,25/04/2026,09:30,\n").conform().ended(0);
    let open = made_desk(join, "a,03/04/2026,09:00,\nb,04/05/2026,09:30,\n");
    open.conform().stops(&["\"{Day} {Time}\"", "its dates do not prove one order", "order = …"]);
    // The one column proves nothing of the other.
    let first = "first_of = [\"Day\", \"Old\"]";
    let two = made_desk(first, "a,25/04/2026 09:00,,\nb,,,04/05/2026 10:00\n");
    two.conform().stops(&["\"Old\"", "the column \"Day\" proves day-month-year"]);
    let both = made_desk(first, "a,25/04/2026 09:00,,\nb,,,04/05/2026 10:00\nc,,,05/25/2026 10:00\n");
    both.conform().stops(&["another column of the same field proves"]);
    // All values of the file that is looked up speak, whichever are looked for.
    let looked_up = "look_up = { file = \"days.csv\", by = { \"Id\" = \"Hive\" }, take = \"Put up\" }";
    let desk = made_desk(looked_up, "a,,,\nb,,,\n");
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\na,2026-04-03 09:00\nb,2026-05-04 09:00\n");
    let unproven = made_desk(looked_up, "a,,,\nb,,,\n").with("days.csv", "Hive,Put up\na,03/04/2026 09:00\n");
    unproven.conform().stops(&["Put up in days.csv", "its dates do not prove one order"]);
    // A named order is held against them as well.
    let named = format!("{join}\norder = \"day-month-year\"");
    made_desk(&named, "a,03/14/2026,09:00,\nb,04/05/2026,09:30,\n")
        .conform()
        .stops(&["order = \"month-day-year\""]);
}

#[test]
fn orders_of_groups_are_held_against_the_dates_of_each_group() {
    let desk = |keys: &str, cells: &[&str]| {
        Desk::with_field("type = \"date\"", &format!("from = \"It\"\n{keys}"), cells)
    };
    let swapped =
        "order = \"day-month-year\"\norder_where = [{ shape = \"9999-09-09\", order = \"year-day-month\" }]";
    desk(swapped, &["2026-04-03", "2026-06-05", "25/04/2026"]).conform().ended(0);
    // A day above 12 was never swapped, so the others were not either.
    desk(swapped, &["2026-04-03", "2026-06-25", "25/04/2026"]).conform().stops(&[
        "values like 9999-09-09 as year-day-month",
        "row 3 \"2026-06-25\" = 25 Jun 2026",
        "order = \"day-month-year\"",
    ]);
    let rows = "order = \"day-month-year\"\norder_where = [{ rows = \"2-3\", order = \"month-day-year\" }]";
    desk(rows, &["04/25/2026", "04/05/2026", "25/04/2026"]).conform().ended(0);
    desk(rows, &["25/04/2026", "04/05/2026", "04/05/2026"]).conform().stops(&["rows 2-3 as month-day-year"]);
    desk(rows, &["04/25/2026", "04/05/2026", "04/26/2026"])
        .conform()
        .stops(&["all others as day-month-year"]);
}

#[test]
fn a_named_order_that_nothing_proves_is_said_first_with_what_it_makes_of_the_dates() {
    let named = |cells: &[&str]| {
        Desk::with_field("type = \"date\"", "from = \"It\"\norder = \"day-month-year\"", cells)
    };
    let run = named(&["03/04/2026", "04/05/2026", "04/04/2026", "05/06/2026", "06/07/2026"]).conform();
    run.ended(0).says(&[
        "warn: it is read as day-month-year, as the mapping says, and nothing in this file proves it:",
        "\"03/04/2026\" is 3 Apr 2026, \"04/05/2026\" is 4 May 2026, \"05/06/2026\" is 5 Jun 2026",
    ]);
    named(&["03/04/2026", "25/05/2026"]).conform().ended(0).says_nothing_of(&["nothing in this file proves"]);
    named(&["04/04/2026", "2026-05-03"]).conform().ended(0).says_nothing_of(&["nothing in this file proves"]);
}

#[test]
fn dates_are_read_in_the_forms_of_standards_and_of_many_languages() {
    let day = |cells: &[&str]| Desk::with_field("type = \"date\"", "from = \"It\"", cells);
    let cells = [
        "20260304",
        "2026-03-04T00:00:00Z",
        "Mittwoch, 4. März 2026",
        "4 de marzo de 2026",
        "mié. 04/03/2026",
    ];
    let desk = day(&cells);
    desk.conform().ended(0);
    let wanted: String = (0..cells.len()).map(|row| format!("r{row},2026-03-04\n")).collect();
    assert_eq!(desk.read("batch/upload/up.csv"), format!("id,it\n{wanted}"));
    // A name that means two months, a day of the week that is not that of the day, an hour of which clock.
    let wrong = day(&["4 listopada 2026", "Thu 4 Mar 2026", "2026-03-04T22:30:00Z"]);
    wrong.run(&["check", "export.csv"]).ended(1).says(&[
        "\"4 listopada 2026\"",
        "\"Thu 4 Mar 2026\"",
        "says how far its clock is from UTC, and nothing says",
        "zone = \"…\"",
    ]);
    let zoned = "from = \"It\"\nzone = \"Europe/Oslo\"\ndrop_time = true";
    let desk = Desk::with_field("type = \"date\"", zoned, &["2026-03-04T23:30:00Z"]);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,2026-03-05\n");
    let moment = "type = \"datetime\"\nformat = \"yyyy-MM-dd HH:mm:ss\"";
    let cells = ["2026-03-04T22:30:00.5+01:00"];
    Desk::with_field(moment, "from = \"It\"", &cells)
        .run(&["check", "export.csv"])
        .ended(1)
        .says(&["says how far its clock is from UTC", "zone = \"Europe/Oslo\""]);
    let desk =
        Desk::with_field(&format!("{moment}\nzone = \"UTC\""), "from = \"It\"\nzone = \"UTC\"", &cells);
    desk.conform().ended(0);
    assert_eq!(desk.read("batch/upload/up.csv"), "id,it\nr0,2026-03-04 21:30:00\n");
    assert!(
        desk.read("batch/changes.csv")
            .contains("from the clock of UTC+01:00 to that of UTC; the part of a second is dropped")
    );
}

#[test]
fn what_the_last_batch_proved_is_said_where_nothing_proves_it_now() {
    let desk = Desk::with_field("type = \"date\"", "from = \"It\"", &["25/03/2026", "03/04/2026"]);
    desk.run(&["conform", "export.csv"]).ended(0);
    let next = desk.with("next.csv", "Id,It\nx,03/04/2026\n");
    next.run(&["conform", "next.csv"]).stops(&["a suggestion only: the last batch had day-month-year"]);
    let named = next.edited("mapping.toml", "from = \"It\"", "from = \"It\"\norder = \"day-month-year\"");
    named.run(&["check", "next.csv"]).ended(0).says(&["last batch had day-month-year)"]);
}

/// The field's type, cells, and the pattern that reads them.
const FORMS: [(&str, &[&str], &str); 5] = [
    ("date", &["4.3-2026", "25.3-2026", "12.11-2026"], "d.M-yyyy"),
    ("date", &["2026_Mar_04", "2026_Apr_25", "2026_Dec_31"], "yyyy_MMM_dd"),
    ("date", &["25032026", "04032026", "31122025"], "ddMMyyyy"),
    ("time", &["9h05", "17h30", "12h00"], "H'h'mm"),
    ("datetime", &["20260304-0905", "20260325-1730", "20260401-0000"], "yyyyMMdd-HHmm"),
];

#[test]
fn a_form_that_one_pattern_reads_is_offered_as_that_pattern_once_it_was_tried() {
    for (holds, cells, pattern) in FORMS {
        let desk = Desk::with_field(&format!("type = \"{holds}\""), "from = \"It\"", cells);
        let line = format!("pattern = \"{pattern}\"");
        let tried = format!("{line} lets all 3 in and changes no other value");
        desk.run(&["check", "export.csv"]).ended(1).says(&[&tried, &format!("under it: {line}")]);
        let settled = desk.edited("mapping.toml", "from = \"It\"", &format!("from = \"It\"\n{line}"));
        settled.conform().ended(0);
    }
}

#[test]
fn a_pattern_that_would_not_be_the_only_one_or_would_harm_others_is_not_offered_alone() {
    let check = |cells: &[&str]| {
        let desk = Desk::with_field("type = \"date\"", "from = \"It\"", cells);
        desk.run(&["check", "export.csv"]).ended(1)
    };
    check(&["4.3-2026", "5.3-2026", "12.11-2026"]).says(&[
        "nothing proves which of these lets all 3 in rightly",
        "with pattern = \"d.M-yyyy\",",
        "becomes 4 Mar 2026; with pattern = \"M.d-yyyy\", \"4.3-2026\" becomes 3 Apr 2026",
        "pattern = …   # \"d.M-yyyy\" or \"M.d-yyyy\"",
    ]);
    check(&["4.3-2026", "25.3-2026", "12.11-2026", "2026-03-04"]).says_nothing_of(&["pattern ="]);
    check(&["25.3-2026", "26.3-2026", "27.3-2026", "4.3-2026", "3.28-2026"]).says_nothing_of(&["pattern ="]);
    check(&["25.3-2026", "26.3-2026", "4.3-2026", "soon", "lost"]).says(&[
        "pattern = \"d.M-yyyy\" lets 3 of 5 in",
        "\"soon\"",
        "\"lost\"",
    ]);
    check(&["week 10", "week 11", "week 12"]).says_nothing_of(&["pattern ="]);
}

#[test]
fn a_part_of_a_date_needs_what_its_form_needs() {
    let year = |cells: &[&str], more: &str| {
        Desk::with_field("type = \"integer\"", &format!("from = \"It\"\ndate_form = \"yyyy\"\n{more}"), cells)
    };
    let sent = |desk: &Desk| desk.read("batch/upload/up.csv");
    // No order is proven here, and a year needs none.
    let desk = year(&["03/04/2026", "5 May 2025", "2024-01-31T10:00"], "");
    desk.conform().ended(0);
    assert_eq!(sent(&desk), "id,it\nr0,2026\nr1,2025\nr2,2024\n");
    desk.run(&["explain", "export.csv", "2", "it"]).ended(0).says(&["\"03/04/2026\"", "\"2026\"", "date"]);
    // A month does.
    let month = |order: &str| {
        let map = format!("from = \"It\"\ndate_form = \"MMMM\"\n{order}");
        Desk::with_field("type = \"text\"", &map, &["03/04/2026", "05/04/2026"])
    };
    month("").conform().stops(&["do not prove", "order = "]);
    let desk = month("order = \"day-month-year\"");
    desk.conform().ended(0);
    assert_eq!(sent(&desk), "id,it\nr0,April\nr1,April\n");
    // What the field demands holds for the part, and a crosswalk may speak of the part or of the whole.
    let field = "type = \"code\"\ncodes = \"codes/months.csv\"";
    let map = "from = \"It\"\ndate_form = \"MMMM\"\norder = \"day-month-year\"";
    let desk = Desk::with_field(field, map, &["03/04/2026", "05/05/2026", "spring", "31/02/2026"])
        .with("codes/months.csv", "code,label\n04,April\n05,May\n")
        .with("crosswalks/it.csv", "value,code\nspring,04\n");
    desk.conform().ended(1).says(&["4 rows read = 3 accepted + 1 rejected", "is not a day of the calendar"]);
    assert_eq!(sent(&desk), "id,it\nr0,04\nr1,05\nr2,04\n");
}

#[test]
fn a_form_of_a_date_is_checked_where_it_is_written() {
    let wrong = |field: &str, map: &str, says: &[&str]| {
        Desk::with_field(field, &format!("from = \"It\"\n{map}"), &["03/04/2026"])
            .run(&["check", "export.csv"])
            .stops(says);
    };
    wrong("type = \"integer\"", "date_form = \"YYYY\"", &["date_form \"YYYY\"", "\"yyyy\" for the year"]);
    wrong(
        "type = \"boolean\"\nformat = \"1/0\"",
        "date_form = \"yyyy\"",
        &["takes no part of a date", "date_form goes with text"],
    );
    wrong("type = \"integer\"", "order = \"day-month-year\"", &["does not take order"]);
    // A typed date of a workbook has no order to be proven; a time of day may be taken as well.
    let times = Desk::with_field(
        "type = \"text\"",
        "from = \"It\"\ndate_form = \"HH:mm\"\norder = \"day-month-year\"",
        &["03/04/2026 17:05", "03/04/2026"],
    );
    times.conform().ended(1).says(&["1 accepted + 1 rejected"]);
    assert_eq!(times.read("batch/upload/up.csv"), "id,it\nr0,17:05\n");
}
