//! What the main commands print, whole: as people see it where nobody looks for a width or for colours.

use crate::desk::Desk;

const EXPORT: &str = "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,yel.,4.5\n1208,31/02/2026,sky,about 20\n1381,26/04/2026,yel.,\n";

fn desk() -> Desk {
    Desk::new().with("export.csv", EXPORT)
}

/// Fails unless a command ends so and prints what the snapshot of this test and command holds, in
/// `tests/cli/snapshots/`. `cargo insta review`, or `INSTA_UPDATE=always` before the test command, takes a new one.
#[track_caller]
fn prints(desk: &Desk, command: &str, status: i32) {
    let words: Vec<&str> = command.split(' ').collect();
    let ran = desk.run(&words).ended(status);
    let thread = std::thread::current();
    let test = thread.name().and_then(|name| name.rsplit("::").next()).unwrap_or("outputs");
    let plain = |c: char| if c.is_ascii_alphanumeric() { c } else { '_' };
    let command: String = command.chars().map(plain).take(60).collect();
    insta::with_settings!({ omit_expression => true, prepend_module_to_snapshot => false }, {
        insta::assert_snapshot!(format!("{test}__{command}"), ran.out);
    });
    assert_eq!(ran.err, "");
}

#[test]
fn a_check_shows_how_it_read_the_totals_and_the_causes() {
    let desk = desk();
    prints(&desk, "check export.csv --today 2026-04-30", 1);
}

#[test]
fn a_batch_shows_what_is_in_it() {
    let desk = desk();
    prints(&desk, "conform export.csv -o batches/april --today 2026-04-30", 1);
    prints(&desk, "batches", 0);
    prints(&desk, "batches show april", 0);
}

#[test]
fn decisions_are_shown_where_they_are_made_and_in_the_next_check() {
    let desk = desk();
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    prints(&desk, "crosswalk add queen yel. Y --today 2026-04-30", 0);
    prints(&desk, "crosswalk list", 0);
    prints(&desk, "correct export.csv 4 Date 28/02/2026 --today 2026-04-30", 0);
    prints(&desk, "correct export.csv", 0);
    prints(&desk, "check export.csv --today 2026-04-30", 1);
}

#[test]
fn the_life_of_a_row_is_told_field_by_field() {
    let desk = desk();
    prints(&desk, "explain export.csv 3 --today 2026-04-30", 0);
}

#[test]
fn a_trial_shows_the_rows_before_and_after() {
    let desk = desk();
    prints(&desk, "trial export.csv --today 2026-04-30", 1);
}

#[test]
fn a_mapping_is_shown_with_a_value_of_each_field() {
    let desk = desk();
    prints(&desk, "map export.csv --show --today 2026-04-30", 0);
}

#[test]
fn an_inspection_shows_the_file_as_it_is_and_as_it_is_read() {
    let desk = desk();
    prints(&desk, "inspect export.csv --target target.toml --today 2026-04-30", 0);
}

#[test]
fn a_target_is_shown_and_checked() {
    let desk = desk();
    prints(&desk, "target show", 0);
    prints(&desk, "target show queen", 0);
    prints(&desk, "target check", 0);
}

#[test]
fn what_is_new_since_the_last_batch_comes_first() {
    let mut desk = desk()
        .with("june.csv", "No,Date,Queen,Honey,Scale\n117,03/06/2026,white,10,1\n290,25/06/2026,violet,4.5,2\n1208,30/06/2026,violet,,3\n");
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    desk = desk.edited("mapping.toml", "[[map]]", "[leave_out]\ncolumns = [\"Scale\"]\n\n[[map]]");
    prints(&desk, "check june.csv --today 2026-06-30", 1);
}

#[test]
fn several_sources_are_one_batch() {
    let desk = Desk::new()
        .with("north.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\n118,04/04/2026,red,1\n")
        .with("south.csv", "No,Date,Queen,Honey\n117,05/04/2026,white,10\n119,04/04/2026,red,1\n");
    prints(&desk, "check north.csv south.csv --today 2026-04-30", 1);
}

#[test]
fn damage_and_what_needs_a_decision_are_shown() {
    let desk = Desk::new()
        .with("damaged.csv", "Title\n\nNo,Date,Note,Weight\n1,03/04/2026,\u{a0}ChÃ¢teau,1.0\n2,04/05/2026,so\u{200b}so,2.0\n3,05/06/2026,#REF!,3.0\n");
    prints(&desk, "inspect damaged.csv", 0);
}

#[test]
fn a_draft_says_what_was_taken_for_what() {
    let desk = Desk::new()
        .with("dictionary.csv", "Field,Meaning,Type,M/O,Allowed\nhive,Hive mark,Text(8),M,\nvisited,Day of the visit,Date DD/MM/YYYY,M,not in the future\ncolour,Colour of the mark,Code,O,W=White; Y=Yellow\nframes,,Integer,C,1-40\n");
    prints(&desk, "target draft dictionary.csv -o new.toml", 0);
    prints(&desk, "target show -t new.toml", 0);
}

#[test]
fn a_mapping_is_proposed_with_reasons() {
    let desk = Desk::new()
        .with("other.csv", "Apiary id,Visit date,Colour of queen,Honey (lb),Mood\n117,25/04/2026,white,10,calm\n290,26/04/2026,yellow,4.5,calm\n");
    prints(&desk, "map other.csv -t target.toml -m new.toml --today 2026-04-30", 0);
}

#[test]
fn edited_rejects_are_compared_and_recorded() {
    let mut desk = desk();
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    desk = desk.edited("batches/april/rejects.csv", ",yel.,4.5", ",Yellow,4.50");
    prints(&desk, "correct batches/april/rejects.csv --yes --today 2026-04-30", 0);
    prints(&desk, "explain export.csv 3 queen --today 2026-04-30", 0);
}

#[test]
fn lines_of_a_crosswalk_that_are_in_doubt_are_named() {
    let desk = desk().with("crosswalks/queen.csv", "value,code,by\nyel.,Y,A. Clerk\nwhite,Y,\nlilac,B,\n");
    prints(&desk, "crosswalk check export.csv --today 2026-04-30", 1);
    prints(&desk, "crosswalk list", 0);
}

#[test]
fn a_batch_that_somebody_edited_is_told() {
    let mut desk = desk();
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    desk = desk.edited("batches/april/upload/up-1.csv", "117", "118");
    prints(&desk, "batches", 1);
    prints(&desk, "batches show april", 1);
}

#[test]
fn a_row_of_several_records_is_told_record_by_record() {
    let desk = Desk::new()
        .with("target.toml", "[target]\nname = \"Frames\"\n\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n\n[[field]]\nname = \"hive\"\ntype = \"text\"\nkey = true\n\n[[field]]\nname = \"frame\"\ntype = \"integer\"\nkey = true\n\n[[field]]\nname = \"brood\"\ntype = \"integer\"\nmax = \"9\"\n")
        .with("mapping.toml", "target = \"target.toml\"\n\n[repeat]\nnumbers = [\"1-3\"]\nnumber = \"frame\"\n\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n\n[[map]]\nfield = \"brood\"\nfrom = \"Brood {n}\"\n")
        .with("export.csv", "Hive,Brood 1,Brood 2,Brood 3\nA1,4,,2\nB1,3,12,1\nC1,,,\n");
    prints(&desk, "check export.csv", 1);
    prints(&desk, "explain export.csv 3", 0);
    prints(&desk, "trial export.csv", 1);
}

#[test]
fn rows_that_hold_no_record_are_counted_apart() {
    let desk = Desk::new()
        .with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n\n2,04/04/2026,lilac,1\nNo,Date,Queen,Honey\n3,05/04/2026,white,2\nTotal,,,4\n")
        .edited("mapping.toml", "target = \"target.toml\"\n", "target = \"target.toml\"\n\n[source]\nclosing = [\"Total\"]\n")
        .with("crosswalks/queen.csv", "value,code,by,on\nlilac,(keep out),A. Clerk,2026-04-01\n");
    prints(&desk, "check export.csv --today 2026-04-30", 0);
}

#[test]
fn an_open_order_stops_a_batch_with_its_evidence() {
    let desk = Desk::new()
        .edited("mapping.toml", "order = \"day-month-year\"\n", "")
        .with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n2,05/06/2026,white,1\n");
    prints(&desk, "check export.csv --today 2026-04-30 --quiet", 1);
    let stopped = desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(2);
    assert_eq!(
        format!("\n{}", stopped.err),
        r#"
dusk: export.csv: column "Date": its dates do not prove one order of day, month and year, so nothing was written
  date order of "Date": undecided between day-month-year and month-day-year
    day-month-year  0 values allow no other order; it would make row 2 "03/04/2026" = 3 Apr 2026
    month-day-year  0 values allow no other order; it would make row 2 "03/04/2026" = 4 Mar 2026
                    2 values fit more than one order
  Ask the person who made the export, then write into mapping.toml:
    [[map]]
    field = "visit_date"
    from  = "Date"
    order = …   # "day-month-year" or "month-day-year"
"#
    );
    assert!(!desk.exists("batches"));
}

#[test]
fn rows_that_do_not_fit_the_header_are_shown_whole() {
    let desk = Desk::new().with(
        "export.csv",
        "No,Date,Queen,Honey\n1,03/04/2026,white\n2,04/04/2026,white,1,and more\n3,05/04/2026,white,1\n",
    );
    prints(&desk, "check export.csv --today 2026-04-30 --quiet", 1);
    prints(&desk, "explain export.csv 2 --today 2026-04-30", 0);
    prints(&desk, "explain export.csv 3 --today 2026-04-30", 0);
}
