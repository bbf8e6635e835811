//! What the main commands print, whole: as people see it where nobody looks for a width or for colours.

use crate::desk::Desk;

const EXPORT: &str = "No,Date,Queen,Honey\n117,03/04/2026,white,10\n290,25/04/2026,yel.,4.5\n1208,31/02/2026,sky,about 20\n1381,26/04/2026,yel.,\n";

fn desk() -> Desk {
    Desk::new().with("export.csv", EXPORT)
}

/// Fails unless a command prints just this and ends so.
#[track_caller]
fn prints(desk: &Desk, command: &str, status: i32, expected: &str) {
    let words: Vec<&str> = command.split(' ').collect();
    let ran = desk.run(&words).ended(status);
    assert!(format!("\n{}", ran.out) == expected, "{command} prints:\n{}", ran.out);
    assert_eq!(ran.err, "");
}

#[test]
fn a_check_shows_how_it_read_the_totals_and_the_causes() {
    let desk = desk();
    prints(
        &desk,
        "check export.csv --today 2026-04-30",
        1,
        r#"
export.csv
  encoding    utf-8 (proven): 5 lines, every byte of them ASCII
  delimiter   comma (proven): 4 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         4 of 4 fields: 4 from a column each
for Apiary register

4 rows read = 1 accepted + 3 rejected + 0 merged + 0 left out

  2 cells  queen       "yel."  is not a code or label of queen
           first at row 3, 5; nearest: Y Yellow
           settle: dusk crosswalk add queen yel. Y

  1 cell   visit_date  "31/02/2026"  is no day of the calendar when read as day-month-year
           at row 4; a day that is in the calendar; ask whoever wrote the record
           settle: dusk correct export.csv 4 Date VALUE

  1 cell   honey_kg    "about 20"  is not a number
           at row 4; digits, with a point before the decimals
           settle: dusk correct export.csv 4 Honey VALUE

all of it on one screen: dusk review export.csv; row by row in a spreadsheet program: rejects.xlsx of a batch
in the place of a code: --leave-blank where nothing is meant, --keep-out to keep such records out
"#,
    );
}

#[test]
fn a_batch_shows_what_is_in_it() {
    let desk = desk();
    prints(
        &desk,
        "conform export.csv -o batches/april --today 2026-04-30",
        1,
        r#"
export.csv
  encoding    utf-8 (proven): 5 lines, every byte of them ASCII
  delimiter   comma (proven): 4 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         4 of 4 fields: 4 from a column each
for Apiary register

batches/april/
  upload/up-1.csv          1 row   for the target
  rejects.xlsx             3 rows  to be edited, and brought back with dusk correct
  rejects.csv              3 rows  as the source has them, with the reasons
  findings.csv             4 rows  one for each finding
  changes.csv              4 rows  one for each distinct change
  report.html                      to be read, printed or handed on
  receipt.json                     counts, settings and hashes of all of it

4 rows read = 1 accepted + 3 rejected + 0 merged + 0 left out

  2 cells  queen       "yel."  is not a code or label of queen
           first at row 3, 5; nearest: Y Yellow
           settle: dusk crosswalk add queen yel. Y

  1 cell   visit_date  "31/02/2026"  is no day of the calendar when read as day-month-year
           at row 4; a day that is in the calendar; ask whoever wrote the record
           settle: dusk correct export.csv 4 Date VALUE

  1 cell   honey_kg    "about 20"  is not a number
           at row 4; digits, with a point before the decimals
           settle: dusk correct export.csv 4 Honey VALUE

all of it on one screen: dusk review export.csv; row by row in a spreadsheet program: rejects.xlsx of a batch
in the place of a code: --leave-blank where nothing is meant, --keep-out to keep such records out
"#,
    );
    prints(
        &desk,
        "batches",
        0,
        r#"
in batches:
 batch  day         by     from        rows  accepted  rejected  files
 april  2026-04-30  clerk  export.csv  4     1         3         as written
"#,
    );
    prints(
        &desk,
        "batches show april",
        0,
        r#"
april  in batches/april
  made        2026-04-30 by clerk
  for         Apiary register
  from        export.csv: 119 bytes, 4 columns, read as utf-8
              blake3 67f7e51556da13b55f2366193c037e46a8a0c203cb40de30c015228e28624f25
  rows        4 read = 1 accepted + 3 rejected + 0 merged + 0 left out
  changed     4 cells
  findings    1 impossible-date, 2 not-a-code, 1 not-a-number
  settings    mapping.toml, target.toml, codes/queen.csv

  upload/up-1.csv          1 row   as written
  rejects.xlsx             3 rows  as written
  rejects.csv              3 rows  as written
  findings.csv             4 rows  as written
  changes.csv              4 rows  as written
  report.html                      as written
"#,
    );
}

#[test]
fn decisions_are_shown_where_they_are_made_and_in_the_next_check() {
    let desk = desk();
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    prints(
        &desk,
        "crosswalk add queen yel. Y --today 2026-04-30",
        0,
        r#"
queen: "yel." means Y Yellow (remembered in crosswalks/queen.csv)
"#,
    );
    prints(
        &desk,
        "crosswalk list",
        0,
        r#"
 field  value  within  means     by     on          note
 queen  yel.           Y Yellow  clerk  2026-04-30
"#,
    );
    prints(
        &desk,
        "correct export.csv 4 Date 28/02/2026 --today 2026-04-30",
        0,
        r#"
  row 4  Date  "31/02/2026"  →  "28/02/2026"
recorded in corrections/export.csv
"#,
    );
    prints(
        &desk,
        "correct export.csv",
        0,
        r#"
 row  column  was         now         state    by     on
 4    Date    31/02/2026  28/02/2026  applied  clerk  2026-04-30
"#,
    );
    prints(
        &desk,
        "check export.csv --today 2026-04-30",
        1,
        r#"
export.csv
  encoding    utf-8 (proven): 5 lines, every byte of them ASCII
  delimiter   comma (proven): 4 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         4 of 4 fields: 4 from a column each
  corrections 1 applied
for Apiary register

4 rows read = 3 accepted + 1 rejected + 0 merged + 0 left out
  2 decisions since batch april settled 2 rows; 1 remains

  1 cell   honey_kg  "about 20"  is not a number
           at row 4; digits, with a point before the decimals
           settle: dusk correct export.csv 4 Honey VALUE

all of it on one screen: dusk review export.csv; row by row in a spreadsheet program: rejects.xlsx of a batch
"#,
    );
}

#[test]
fn the_life_of_a_row_is_told_field_by_field() {
    let desk = desk();
    prints(
        &desk,
        "explain export.csv 3 --today 2026-04-30",
        0,
        r#"
row 3 of export.csv: rejected

apiary_id  from "No"
  source       "290"
  digits       "000290"  always 6 digits in the dictionary
  would be     "000290"

visit_date  from "Date"
  source       "25/04/2026"
  date         "2026-04-25"  read as day-month-year, as the mapping says: 25 Apr 2026
  would be     "2026-04-25"

queen  from "Queen"
  source       "yel."
  reject       is not a code or label of queen; nearest: Y Yellow

honey_kg  from "Honey"
  source       "4.5"
  unit         "2.04116…"  lb to kg: × 0.45359237
  round        "2"         rounded half-up to 1 decimal, as the mapping says
  would be     "2"
"#,
    );
}

#[test]
fn a_trial_shows_the_rows_before_and_after() {
    let desk = desk();
    prints(
        &desk,
        "trial export.csv --today 2026-04-30",
        1,
        r#"
export.csv
  encoding    utf-8 (proven): 5 lines, every byte of them ASCII
  delimiter   comma (proven): 4 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         4 of 4 fields: 4 from a column each
for Apiary register

                  apiary_id    visit_date            queen                 honey_kg
row 2             117          03/04/2026            white                 10
  accepted       →000117      →2026-04-03           →W                    →4.5
  shows first: changes apiary_id: digits, honey_kg: unit + round, queen: code and 1 more; values
  Date like 99/99/9999, Honey like 99, No like 999 and 1 more

row 3             290          25/04/2026            yel.                  4.5
  rejected       →000290      →2026-04-25           ✗is not a code or …   →2
  shows first: values Honey like 9.9, Queen like a.; causes queen "yel." is not a code or label of
  queen
  reject: queen "yel." is not a code or label of queen; nearest: Y Yellow

row 4             1208         31/02/2026            sky                   about 20
  rejected       →001208      ✗is no day of the …   →B                    ✗is not a number
  shows first: values Honey like a 99, No like 9999; causes honey_kg "about 20" is not a number,
  visit_date "31/02/2026" is no day of the calendar when read as day-month-year
  reject: visit_date "31/02/2026" is no day of the calendar when read as day-month-year; a day
      that is in the calendar; ask whoever wrote the record
  reject: honey_kg "about 20" is not a number; digits, with a point before the decimals

row 5             1381         26/04/2026            yel.
  rejected       →001381      →2026-04-26           ✗is not a code or …
  shows first: values Honey like blank
  reject: queen "yel." is not a code or label of queen; nearest: Y Yellow

4 of 4 rows, chosen so that they show most: 16 of 16 shapes of values, kinds of change and causes
  → changed   ✗ rejected   otherwise as it was
"#,
    );
}

#[test]
fn a_mapping_is_shown_with_a_value_of_each_field() {
    let desk = desk();
    prints(
        &desk,
        "map export.csv --show --today 2026-04-30",
        0,
        r#"
mapping.toml: export.csv for Apiary register

 field            from     what is done                    before      after
 apiary_id * key  "No"     lost zeros put back (6 digits)  117         000117
 visit_date       "Date"   day-month-year to yyyy-MM-dd    03/04/2026  2026-04-03
 queen            "Queen"  codes of queen                  white       W
 honey_kg         "Honey"  lb to kg; rounded half-up       10          4.5

 * must be filled
"#,
    );
}

#[test]
fn an_inspection_shows_the_file_as_it_is_and_as_it_is_read() {
    let desk = desk();
    prints(
        &desk,
        "inspect export.csv --target target.toml --today 2026-04-30",
        0,
        r#"
export.csv  4 rows below the header
  encoding    utf-8 (proven): 5 lines, every byte of them ASCII
  delimiter   comma (proven): 4 rows of 4 cells, like row 1
  header      row 1 (proven): 4 headings, all of them words; in 2 columns nothing but digits
              follows; 4 columns

line  as it stands                               │  row  as it is read
   1  No,Date,Queen,Honey                        │    1  No │ Date │ Queen │ Honey
   2  117,03/04/2026,white,10                    │    2  117 │ 03/04/2026 │ white │ 10
   3  290,25/04/2026,yel.,4.5                    │    3  290 │ 25/04/2026 │ yel. │ 4.5
   4  1208,31/02/2026,sky,about 20               │    4  1208 │ 31/02/2026 │ sky │ about 20
   5  1381,26/04/2026,yel.,                      │    5  1381 │ 26/04/2026 │ yel. │ 

column  holds               blank    different  shapes          from … to                     damage
No      numbers                   -          4  999 · 9999      117 to 1381
Date    dates                     -          4  99/99/9999      3 Apr 2026 to 26 Apr 2026
Queen   text                      -          3  a · a.          3 to 5 characters
Honey   text                      1          3  99 · 9.9 · a …  2 to 8 characters

  proof       date order of "Date": day-month-year (proven): 2 values allow no other order; first
              row 3 "25/04/2026" = 25 Apr 2026
Nothing needs a decision.
"#,
    );
}

#[test]
fn a_target_is_shown_and_checked() {
    let desk = desk();
    prints(
        &desk,
        "target show",
        0,
        r#"
Apiary register

 name        type     required  format         values
 apiary_id   text     yes, key  6 digits
 visit_date  date               yyyy-MM-dd
 queen       code                              3 codes of queen
 honey_kg    decimal            1 decimal, kg
"#,
    );
    prints(
        &desk,
        "target show queen",
        0,
        r#"
queen
  type        code
  values      3 codes of queen
  required    may be blank

 code  label   also
 W     White
 Y     Yellow
 B     Blue    sky
"#,
    );
    prints(
        &desk,
        "target check",
        0,
        r#"
target.toml: nothing wrong
  4 fields (1 required), 1 code list with 3 codes, 0 rules
  the upload file has 4 columns
"#,
    );
}
