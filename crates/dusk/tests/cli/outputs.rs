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

#[test]
fn what_is_new_since_the_last_batch_comes_first() {
    let mut desk = desk()
        .with("june.csv", "No,Date,Queen,Honey,Scale\n117,03/06/2026,white,10,1\n290,25/06/2026,violet,4.5,2\n1208,30/06/2026,violet,,3\n");
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    desk = desk.edited("mapping.toml", "[[map]]", "[leave_out]\ncolumns = [\"Scale\"]\n\n[[map]]");
    prints(
        &desk,
        "check june.csv --today 2026-06-30",
        1,
        r#"
new since batch april: 2
  - new columns: "Scale"
  - queen: values never seen before: "violet"

june.csv
  encoding    utf-8 (proven): 4 lines, every byte of them ASCII
  delimiter   comma (proven): 3 rows of 5 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 5 columns
  fed         4 of 4 fields: 4 from a column each
  left out    Scale
for Apiary register

3 rows read = 1 accepted + 2 rejected + 0 merged + 0 left out

  2 cells  queen  "violet"  is not a code or label of queen
           first at row 3, 4; one of W White, Y Yellow, B Blue
           settle: dusk crosswalk add queen violet CODE

all of it on one screen: dusk review june.csv; row by row in a spreadsheet program: rejects.xlsx of a batch
in the place of a code: --leave-blank where nothing is meant, --keep-out to keep such records out
"#,
    );
}

#[test]
fn several_sources_are_one_batch() {
    let desk = Desk::new()
        .with("north.csv", "No,Date,Queen,Honey\n117,03/04/2026,white,10\n118,04/04/2026,red,1\n")
        .with("south.csv", "No,Date,Queen,Honey\n117,05/04/2026,white,10\n119,04/04/2026,red,1\n");
    prints(
        &desk,
        "check north.csv south.csv --today 2026-04-30",
        1,
        r#"
north.csv
  encoding    utf-8 (proven): 3 lines, every byte of them ASCII
  delimiter   comma (proven): 2 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
south.csv
  encoding    utf-8 (proven): 3 lines, every byte of them ASCII
  delimiter   comma (proven): 2 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         4 of 4 fields: 4 from a column each
for Apiary register

4 rows read = 1 accepted + 3 rejected + 0 merged + 0 left out

  2 cells  queen      "red"  is not a code or label of queen
           first at row 3 of north.csv; one of W White, Y Yellow, B Blue
           settle: dusk crosswalk add queen red CODE

  1 row    apiary_id  keys that an earlier row has already
           at row 2 of south.csv: "000117" is the key of row 2 of north.csv already; one record for
           each key; the first one stays
           settle: dusk correct south.csv 2 --keep-out

all of it on one screen: dusk review north.csv; row by row in a spreadsheet program: rejects.xlsx of a batch
in the place of a code: --leave-blank where nothing is meant, --keep-out to keep such records out
"#,
    );
}

#[test]
fn damage_and_what_needs_a_decision_are_shown() {
    let desk = Desk::new()
        .with("damaged.csv", "Title\n\nNo,Date,Note,Weight\n1,03/04/2026,\u{a0}ChÃ¢teau,1.0\n2,04/05/2026,so\u{200b}so,2.0\n3,05/06/2026,#REF!,3.0\n");
    prints(
        &desk,
        "inspect damaged.csv",
        0,
        r##"
damaged.csv  3 rows below the header
  encoding    utf-8 (proven): 6 lines, every byte of them valid
  delimiter   comma (proven): 3 rows of 4 cells, like row 3
  header      row 3 (proven): 4 headings, all of them words; in 3 columns nothing but digits
              follows; 2 rows above it skipped; 4 columns

line  as it stands                               │  row  as it is read
   1  Title                                      │    3  No │ Date │ Note │ Weight
   2                                             │    4  1 │ 03/04/2026 │ ⍽ChÃ¢teau │ 1.0
   3  No,Date,Note,Weight                        │    5  2 │ 04/05/2026 │ so‹U+200B›so │ 2.0
   4  1,03/04/2026,⍽ChÃ¢teau,1.0                 │    6  3 │ 05/06/2026 │ #REF! │ 3.0
   5  2,04/05/2026,so‹U+200B›so,2.0              │ 
   6  3,05/06/2026,#REF!,3.0                     │ 

column  holds               blank    different  shapes          from … to                     damage
No      numbers                   -          3  9               1 to 3
Date    dates ?                   -          3  99/99/9999
Note    text                      -          3  AaA¢a · a‹U+2…  5 to 8 characters             5 cells
Weight  numbers                   -          3  9.9             1 to 3                        3 cells

damage  Note: 1 cell with decoded wrongly once, first row 4 "⍽ChÃ¢teau" "Château" read as
        windows-1252; undone, since the way back is exact
damage  Note: 1 cell with spaces at the ends, first row 4 "⍽ChÃ¢teau"; taken away (trim)
damage  Note: 1 cell with no-break and odd spaces, first row 4 "⍽ChÃ¢teau" "⍽" U+00A0 NO-BREAK
        SPACE; made ordinary (spaces)
damage  Note: 1 cell with hidden characters, first row 5 "so‹U+200B›so" "‹U+200B›" U+200B ZERO WIDTH
        SPACE; taken away (hidden)
damage  Note: 1 cell with errors of the spreadsheet program, first row 6 "#REF!"; such rows are
        rejected
damage  Weight: 3 cells with whole numbers with .0, first row 4 "1.0"; taken away where whole
        numbers or digits are wanted

decide  date order of "Date": undecided between day-month-year and month-day-year
          day-month-year  0 values allow no other order; it would make row 4 "03/04/2026" = 3 Apr
            2026
          month-day-year  0 values allow no other order; it would make row 4 "03/04/2026" = 4 Mar
            2026
          3 values fit more than one order
            [[map]]
            field = "…"
            from  = "Date"
            order = …   # "day-month-year" or "month-day-year"
"##,
    );
}

#[test]
fn a_draft_says_what_was_taken_for_what() {
    let desk = Desk::new()
        .with("dictionary.csv", "Field,Meaning,Type,M/O,Allowed\nhive,Hive mark,Text(8),M,\nvisited,Day of the visit,Date DD/MM/YYYY,M,not in the future\ncolour,Colour of the mark,Code,O,W=White; Y=Yellow\nframes,,Integer,C,1-40\n");
    prints(
        &desk,
        "target draft dictionary.csv -o new.toml",
        0,
        r#"
dictionary.csv  the dictionary: 4 fields below row 1

drafted: new.toml, 4 fields (2 required), 1 code list with 2 codes, 0 rules
         codes/colour.csv

to settle: 2
  1  frames: must be filled on a condition that is not said; required was left out (dictionary.csv
     row 5)
  2  [upload]: no template is among the materials; a comma file in UTF-8 with the fields' names
     above was written

read it over, then: dusk target check new.toml
"#,
    );
    prints(
        &desk,
        "target show -t new.toml",
        0,
        r#"
dictionary

 name     label               type     required  format              values
 hive     Hive mark           text     yes       up to 8 characters
 visited  Day of the visit    date     yes       dd/MM/yyyy          up to the day of the run
 colour   Colour of the mark  code                                   2 codes of colour
 frames                       integer                                1 to 40
"#,
    );
}

#[test]
fn a_mapping_is_proposed_with_reasons() {
    let desk = Desk::new()
        .with("other.csv", "Apiary id,Visit date,Colour of queen,Honey (lb),Mood\n117,25/04/2026,white,10,calm\n290,26/04/2026,yellow,4.5,calm\n");
    prints(
        &desk,
        "map other.csv -t target.toml -m new.toml --today 2026-04-30",
        0,
        r#"
other.csv for Apiary register

sure, and written: 4
  apiary_id   "Apiary id"        the same name, but for case and signs; all 2 values have up to 6
                                 digits
  visit_date  "Visit date"       the same name, but for case and signs; all 2 values are dates
                                 order = "day-month-year"   day-month-year (proven): 2 values allow
                                 no other order; first row 2 "25/04/2026" = 25 Apr 2026
  queen       "Colour of queen"  some of the same words; all 2 values are in queen
  honey_kg    "Honey (lb)"       the same name, but for case and signs; all 2 values are numbers
                                 unit = "lb"   the heading says so; the target wants kg
                                 to decide: round = "half-up"   the target takes 1 decimal, and
                                 losing digits is a decision

columns without a field:
  Mood

wrote new.toml
read it over: dusk map other.csv -m new.toml --show
"#,
    );
}

#[test]
fn edited_rejects_are_compared_and_recorded() {
    let mut desk = desk();
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    desk = desk.edited("batches/april/rejects.csv", ",yel.,4.5", ",Yellow,4.50");
    prints(
        &desk,
        "correct batches/april/rejects.csv --yes --today 2026-04-30",
        0,
        r#"
batches/april/rejects.csv: 3 rows, 2 cells were changed
  row 3  Queen  "yel."  →  "Yellow"
  row 3  Honey  "4.5"   →  "4.50"
recorded in corrections/export.csv; now run check or conform again
"#,
    );
    prints(
        &desk,
        "explain export.csv 3 queen --today 2026-04-30",
        0,
        r#"
row 3 of export.csv: accepted

queen  from "Queen"
  source       "yel."
  correction   "Yellow"  clerk, 2026-04-30
  code         "Y"       a label of queen
  upload       "Y"
"#,
    );
}

#[test]
fn lines_of_a_crosswalk_that_are_in_doubt_are_named() {
    let desk = desk().with("crosswalks/queen.csv", "value,code,by\nyel.,Y,A. Clerk\nwhite,Y,\nlilac,B,\n");
    prints(
        &desk,
        "crosswalk check export.csv --today 2026-04-30",
        1,
        r#"
queen: "white" = Y  contradicts queen, where it is W White
queen: "lilac" = B  is not used by these sources
"#,
    );
    prints(
        &desk,
        "crosswalk list",
        0,
        r#"
 field  value  within  means     by        on  note
 queen  yel.           Y Yellow  A. Clerk
 queen  white          Y Yellow
 queen  lilac          B Blue
"#,
    );
}

#[test]
fn a_batch_that_somebody_edited_is_told() {
    let mut desk = desk();
    desk.run(&["conform", "export.csv", "-o", "batches/april", "--today", "2026-04-30"]).ended(1);
    desk = desk.edited("batches/april/upload/up-1.csv", "117", "118");
    prints(
        &desk,
        "batches",
        1,
        r#"
in batches:
 batch  day         by     from        rows  accepted  rejected  files
 april  2026-04-30  clerk  export.csv  4     1         3         upload/up-1.csv edited
"#,
    );
    prints(
        &desk,
        "batches show april",
        1,
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

  upload/up-1.csv          1 row   edited since; make the batch again instead
  rejects.xlsx             3 rows  as written
  rejects.csv              3 rows  as written
  findings.csv             4 rows  as written
  changes.csv              4 rows  as written
  report.html                      as written
"#,
    );
}

#[test]
fn a_row_of_several_records_is_told_record_by_record() {
    let desk = Desk::new()
        .with("target.toml", "[target]\nname = \"Frames\"\n\n[upload]\nline_end = \"lf\"\nfile_name = \"up.csv\"\n\n[[field]]\nname = \"hive\"\ntype = \"text\"\nkey = true\n\n[[field]]\nname = \"frame\"\ntype = \"integer\"\nkey = true\n\n[[field]]\nname = \"brood\"\ntype = \"integer\"\nmax = \"9\"\n")
        .with("mapping.toml", "target = \"target.toml\"\n\n[repeat]\nnumbers = [\"1-3\"]\nnumber = \"frame\"\n\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n\n[[map]]\nfield = \"brood\"\nfrom = \"Brood {n}\"\n")
        .with("export.csv", "Hive,Brood 1,Brood 2,Brood 3\nA1,4,,2\nB1,3,12,1\nC1,,,\n");
    prints(
        &desk,
        "check export.csv",
        1,
        r#"
export.csv
  encoding    utf-8 (proven): 4 lines, every byte of them ASCII
  delimiter   comma (proven): 3 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         3 of 3 fields: 2 from a column each, 1 from several or another file
for Frames

note: row 4: the row has nothing in any of the columns that repeat, so it makes no record

3 rows read = 1 accepted + 1 rejected + 0 merged + 1 left out
  the accepted rows make 2 records
  left out: 1 row without a record

  1 cell   brood  above the largest number allowed
           at row 3: "12" is 12, above the largest allowed; 9 or less
           settle: dusk correct export.csv 3 "Brood 2" VALUE

all of it on one screen: dusk review export.csv; row by row in a spreadsheet program: rejects.xlsx of a batch
"#,
    );
    prints(
        &desk,
        "explain export.csv 3",
        0,
        r#"
row 3 of export.csv: rejected

record 1

hive  from "Hive"
  source       "B1"
  would be     "B1"  unchanged

frame  the repeat
  source       "1"
  would be     "1"  unchanged

brood  from "Brood 1"
  source       "3"
  would be     "3"  unchanged

record 2

hive  from "Hive"
  source       "B1"
  would be     "B1"  unchanged

frame  the repeat
  source       "2"
  would be     "2"  unchanged

brood  from "Brood 2"
  source       "12"
  reject       is 12, above the largest allowed; 9 or less

record 3

hive  from "Hive"
  source       "B1"
  would be     "B1"  unchanged

frame  the repeat
  source       "3"
  would be     "3"  unchanged

brood  from "Brood 3"
  source       "1"
  would be     "1"  unchanged
"#,
    );
    prints(
        &desk,
        "trial export.csv",
        1,
        r#"
export.csv
  encoding    utf-8 (proven): 4 lines, every byte of them ASCII
  delimiter   comma (proven): 3 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         3 of 3 fields: 2 from a column each, 1 from several or another file
for Frames

                  hive    frame    brood
row 3             B1      1        3
  rejected (1)    B1      1        3
row 3             B1      2        12
  rejected (2)    B1      2       ✗is 12, above the …
row 3             B1      3        1
  rejected (3)    B1      3        1
  shows first: values Brood 1 like 9, Brood 2 like 99, Brood 3 like 9 and 1 more; causes brood above
  the largest number allowed
  reject: brood (2) "12" is 12, above the largest allowed; 9 or less

row 4: left out
  shows first: values Brood 1 like blank, Brood 2 like blank, Brood 3 like blank; causes the row
  rows in which nothing repeats

2 of 3 rows, chosen so that they show most: 9 of 9 shapes of values, kinds of change and causes
  → changed   ✗ rejected   otherwise as it was
"#,
    );
}

#[test]
fn rows_that_hold_no_record_are_counted_apart() {
    let desk = Desk::new()
        .with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n\n2,04/04/2026,lilac,1\nNo,Date,Queen,Honey\n3,05/04/2026,white,2\nTotal,,,4\n")
        .edited("mapping.toml", "target = \"target.toml\"\n", "target = \"target.toml\"\n\n[source]\nclosing = [\"Total\"]\n")
        .with("crosswalks/queen.csv", "value,code,by,on\nlilac,(keep out),A. Clerk,2026-04-01\n");
    prints(
        &desk,
        "check export.csv --today 2026-04-30",
        0,
        r#"
export.csv
  encoding    utf-8 (proven): 7 lines, every byte of them ASCII
  delimiter   comma (proven): 5 rows of 4 cells, like row 1, with every mapped heading
  header      row 1 (proven): 4 mapped headings, all there; 4 columns
  fed         4 of 4 fields: 4 from a column each
for Apiary register

note: row 4: queen "lilac" keeps its record out, as was decided (crosswalk, A. Clerk, 2026-04-01)
note: row 5: the row repeats the header and holds no record
note: row 7: the row begins with "Total", as the mapping says of closing lines (closing), and holds
      no record

6 rows read = 2 accepted + 0 rejected + 0 merged + 4 left out
  left out: 1 blank row and 2 rows without a record and 1 row kept out as was decided
"#,
    );
}

#[test]
fn an_open_order_stops_a_batch_with_its_evidence() {
    let desk = Desk::new()
        .edited("mapping.toml", "order = \"day-month-year\"\n", "")
        .with("export.csv", "No,Date,Queen,Honey\n1,03/04/2026,white,1\n2,05/06/2026,white,1\n");
    prints(
        &desk,
        "check export.csv --today 2026-04-30 --quiet",
        1,
        r#"
2 rows read = 0 accepted + 2 rejected + 0 merged + 0 left out

  2 cells  visit_date  its dates do not prove one order of day, month and year: undecided between
           day-month-year and month-day-year; no batch is made until it is known
           day-month-year  0 values allow no other order; it would make row 2 "03/04/2026" = 3
             Apr 2026
           month-day-year  0 values allow no other order; it would make row 2 "03/04/2026" = 4
             Mar 2026
           2 values fit more than one order
           first at row 2, 3
           settle: in mapping.toml, under visit_date: order = …   # "day-month-year" or "month-day-year"
"#,
    );
    let stopped = desk.run(&["conform", "export.csv", "--today", "2026-04-30"]).ended(2);
    assert_eq!(
        format!("\n{}", stopped.err),
        r#"
dusk: export.csv: column "Date": its dates do not prove one order of day, month and year, so nothing was written
  date order of "Date": undecided between day-month-year and month-day-year
    day-month-year  0 values allow no other order; it would make row 2 "03/04/2026" = 3 Apr 2026
    month-day-year  0 values allow no other order; it would make row 2 "03/04/2026" = 4 Mar 2026
                    2 values fit more than one order
  Ask whoever made the export, then write into mapping.toml:
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
    prints(
        &desk,
        "check export.csv --today 2026-04-30 --quiet",
        1,
        r#"
3 rows read = 1 accepted + 2 rejected + 0 merged + 0 left out

  1 row    the row  rows with too few cells
           at row 2: has 3 cells, and the header has 4; the missing cells, in the export; nothing
           was moved. If such rows close the file, name their first words under [source] closing in
           the mapping

  1 row    the row  rows with too many cells
           at row 3: has 5 cells, and the header has 4; quotes around a value that holds the
           delimiter, in the export; nothing was moved
"#,
    );
    prints(
        &desk,
        "explain export.csv 2 --today 2026-04-30",
        0,
        r#"
row 2 of export.csv: rejected

  No                    "1"
  Date                  "03/04/2026"
  Queen                 "white"

reject  the row has 3 cells, and the header has 4; the missing cells, in the export; nothing was
        moved. If such rows close the file, name their first words under [source] closing in the
        mapping
"#,
    );
    prints(
        &desk,
        "explain export.csv 3 --today 2026-04-30",
        0,
        r#"
row 3 of export.csv: rejected

  No                    "2"
  Date                  "04/04/2026"
  Queen                 "white"
  Honey                 "1"
  (beyond the header)   "and more"

reject  the row has 5 cells, and the header has 4; quotes around a value that holds the delimiter,
        in the export; nothing was moved
"#,
    );
}
