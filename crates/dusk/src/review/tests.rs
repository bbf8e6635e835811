//! The screen as a picture of text, after keys were pressed.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use dusk_core::run::{Demands, Review};
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use tempfile::TempDir;

use super::desk::Desk;
use super::{act, first_screen, view};
use crate::args::{Format, MappingArgs, RunArgs};
use crate::loaded::Loaded;

const FILES: [(&str, &str); 4] = [
    (
        "target.toml",
        "[target]\nname = \"Register\"\n[upload]\n[[field]]\nname = \"hive\"\ntype = \"text\"\nkey = true\npattern = \"[A-Z][0-9]\"\n[[field]]\nname = \"queen\"\nlabel = \"Colour of the mark\"\ntype = \"code\"\ncodes = \"queen.csv\"\n[[field]]\nname = \"frames\"\ntype = \"integer\"\nmax = \"40\"\n",
    ),
    ("queen.csv", "code,label\nW,White\nY,Yellow\n"),
    (
        "mapping.toml",
        "target = \"target.toml\"\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n[[map]]\nfield = \"queen\"\nfrom = \"Queen\"\n[[map]]\nfield = \"frames\"\nfrom = \"Frames\"\n",
    ),
    (
        "spring.csv",
        "Hive,Queen,Frames,Remarks\nA1,yel.,9,\u{1b}[31m蜂\nB1,White,10,\nC1,yel.,120,late\nD1,pink,7,\nE1,Y,88,\n",
    ),
];

/// Presses keys on a screen of this size, and gives what stands there then.
fn picture(size: (u16, u16), keys: &str) -> String {
    picture_of(&FILES, size, keys)
}

fn picture_of(files: &[(&str, &str)], size: (u16, u16), keys: &str) -> String {
    let folder = TempDir::new().unwrap();
    files.iter().for_each(|(name, text)| std::fs::write(folder.path().join(name), text).unwrap());
    let mapping = MappingArgs {
        mapping: folder.path().join("mapping.toml"),
        today: Some(jiff::civil::date(2026, 4, 30)),
    };
    let run = RunArgs { mapping, asked: Vec::new(), format: Format::Text };
    let source = folder.path().join("spring.csv");
    let read = || Loaded::read(&run, [source.as_path()], true).unwrap();
    let mut loaded = read();
    // Where the folder stands is no part of the picture.
    loaded.sources[0].name = "spring.csv".into();
    let opened = |loaded: &Loaded| {
        let job = loaded.job();
        let demands = Demands { leave_open: true, ..Demands::default() };
        Review::open(&job.prepare_as(&demands, &|_, _| {}).unwrap(), &|_, _| {}).unwrap()
    };
    let (review, summary) = opened(&loaded);
    let again = || {
        let loaded = read();
        let review = opened(&loaded).0;
        Ok((loaded, review))
    };
    let mut desk = Desk::new(loaded, review, (&summary, &again), "A. Clerk".into());
    let mut screen = first_screen(&mut desk);
    for key in keys.chars() {
        let code = match key {
            '↵' => KeyCode::Enter,
            '↓' => KeyCode::Down,
            '→' => KeyCode::Tab,
            '⌫' => KeyCode::Backspace,
            letter => KeyCode::Char(letter),
        };
        screen.message.clear();
        let asked = screen.press(KeyEvent::new(code, KeyModifiers::NONE));
        act(&mut desk, &mut screen, asked).unwrap();
    }
    let mut terminal = Terminal::new(TestBackend::new(size.0, size.1)).unwrap();
    terminal.draw(|frame| view::draw(frame, &screen, &desk, false)).unwrap();
    let buffer = terminal.backend().buffer();
    let line = |row: u16| -> String {
        let line: String = (0..size.0).map(|column| buffer[(column, row)].symbol()).collect();
        line.trim_end().to_owned()
    };
    (0..size.1).map(line).collect::<Vec<_>>().join("\n")
}

const OPENED: &str = r#"
 spring.csv ░░░░░░░░░░ 4 rejected, 4 left  for Register
▸ Causes ─────────────────────── ───────────────────────────────────────────────
▸   2 queen "yel."               queen "yel."
    2 frames: above the largest… is not a code or label of queen; nearest: Y
    1 queen "pink"               Yellow
                                   Rows with it: 2 ─────────────────────────────
                                 ▸ row 2  yel.
                                   row 4  yel.  and 1 more
                                   Record in row 2 ─────────────────────────────
                                   Hive     A1
                                 ▸!Queen    yel.
                                   Frames   9
                                   Remarks  ␛[31m蜂
                                   What it may be ──────────────────────────────
                                 Y Yellow  spelt nearly so
                                 W White
                                 leave blank
                                 keep the record out





 ↑↓ Tab move  s settle  e edit  b blank  k keep out  u undo  ? keys  q quit"#;

const CHOOSING: &str = r#"
 spring.csv ░░░░░░░░░░ 4 rejected, 4 left  for Register
▸ Causes ─────────────────────── ───────────────────────────────────────────────
▸   2 queen "yel."               queen "yel."
    2 frames: above the largest… is not a code or label of queen; nearest: Y
    1 queen "pink"               Yellow
                                   Rows with it: 2 ─────────────────────────────
                                 ▸ row 2  yel.
                                   row 4  yel.  and 1 more
  ┌ queen "yel." is ─────────────────────────────────────────────────────────┐──
  │search: ▏                                                                 │
  │                                                                          │
  │▸ Y Yellow   spelt nearly so                                              │
  │  W White                                                                 │
  │  leave blank                                                             │──
  │  keep the record out                                                     │
  └──────────────────────────────────────────────────────────────────────────┘
                                 leave blank
                                 keep the record out





 type to search  ↑↓ choose  Enter settle  Esc back"#;

const SETTLED: &str = r#"
 spring.csv ██░░░░░░░░ 4 rejected, 3 left, 1 decision  for Register
▸ Causes ─────────────────────── ───────────────────────────────────────────────
    ✓ queen "yel."               frames: above the largest number allowed
▸   2 frames: above the largest… is 120, above the largest allowed; 40 or less
    1 queen "pink"                 Rows with it: 2 ─────────────────────────────
                                 ▸ row 4  120
                                   row 6  88
                                   Record in row 4 ─────────────────────────────
                                   Hive     C1
                                   Queen    yel.
                                 ▸!Frames   120
                                   Remarks  late
                                   What it may be ──────────────────────────────
                                 frames
                                 integer, may be blank
                                 up to 40






queen "yel." = Y: 1 row settled, 3 left
 ↑↓ Tab move  s settle  e edit  b blank  k keep out  u undo  ? keys  q quit"#;

const WRITING: &str = r#"
 spring.csv ░░░░░░░░░░ 4 rejected, 4 left  for Register
  Causes ─────────────────────── ───────────────────────────────────────────────
    2 queen "yel."               frames: above the largest number allowed
▸   2 frames: above the largest… is 120, above the largest allowed; 40 or less
    1 queen "pink"               ▸ Rows with it: 2 ─────────────────────────────
                                 ▸ row 4  120  and 1 more
                                   row 6  88
                                   Record in row 4 ─────────────────────────────
                                   Hive     C1
  ┌ row 4, Frames ───────────────────────────────────────────────────────────┐
  │the source has: 120                                                       │
  │                                                                          │
  │to be read: 120▏                                                          │──
  │                                                                          │
  └──────────────────────────────────────────────────────────────────────────┘
                                 up to 40







 type the value  ←→ move  Ctrl+U clear  Enter record  Esc back"#;

const WIDE: &str = r#"
 spring.csv ██░░░░░░░░ 4 rejected, 3 left, 1 decision  for Register
▸ Causes ──────────────────────────────────────── ────────────────────────────────────────────────────────    What it may be ─────────────────────────
    ✓ queen "yel."                                queen "pink"                                              W White
    2 frames: above the largest number allowed    is not a code or label of queen; one of W White, Y        Y Yellow
▸   1 queen "pink"                                Yellow                                                    leave blank
                                                    Rows with it: 1 ──────────────────────────────────────  keep the record out
                                                  ▸ row 5  pink
                                                                                                              Dictionary ─────────────────────────────
                                                    Record in row 5 ──────────────────────────────────────  queen  Colour of the mark
                                                    Hive     D1                                             code, may be blank
                                                  ▸!Queen    pink                                           2 codes of queen
                                                    Frames   7
                                                    Remarks












 ↑↓ Tab move  s settle  e edit  b blank  k keep out  u undo  ? keys  q quit"#;

#[track_caller]
fn shows(size: (u16, u16), keys: &str, expected: &str) {
    let shown = picture(size, keys);
    assert!(format!("\n{shown}") == expected, "{shown}");
}

#[test]
fn the_largest_cause_is_at_hand_with_its_rows_and_what_it_may_be() {
    shows((80, 24), "", OPENED);
}

#[test]
fn a_likely_answer_is_offered_and_settles_the_cause() {
    shows((80, 24), "s", CHOOSING);
    shows((80, 24), "s↵", SETTLED);
}

#[test]
fn a_cell_is_written_over_what_it_holds() {
    shows((80, 24), "↓→e", WRITING);
}

#[test]
fn a_wide_screen_has_the_dictionary_beside_the_record() {
    shows((150, 26), "s↵↓", WIDE);
}

#[test]
fn no_screen_is_too_small_or_too_large() {
    for size in [(1, 1), (12, 3), (40, 10), (80, 24), (200, 60), (400, 120)] {
        for keys in ["", "s", "↓→→e", "?", "s↵k↓e⌫↵e⌫↵", "uu", "s↵↓s↓↵↓k", "g", "w", " ↓ s"]
        {
            let shown = picture(size, keys);
            assert_eq!(shown.split('\n').count(), usize::from(size.1), "{size:?} {keys}");
            // What is at hand can be seen wherever there is room for it.
            let is_seen = shown.contains('▸')
                || shown.contains("to be read:")
                || shown.contains("search:")
                || keys == "?";
            assert!(size.0 < 40 || is_seen, "{size:?} {keys}\n{shown}");
        }
    }
}

#[test]
fn what_only_the_mapping_settles_is_shown_with_its_line() {
    let files = [
        (
            "target.toml",
            "[target]\nname = \"Register\"\n[upload]\n[[field]]\nname = \"hive\"\ntype = \"text\"\n[[field]]\nname = \"day\"\ntype = \"date\"\n",
        ),
        (
            "mapping.toml",
            "target = \"target.toml\"\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n[[map]]\nfield = \"day\"\nfrom = \"Day\"\n",
        ),
        ("spring.csv", "Hive,Day\nA1,03/04/2026\nB1,05/06/2026\nC1,07/07/2026\nD1,soon\n"),
    ];
    let shown = picture_of(&files, (110, 24), "");
    for part in [
        "3 rejected, 3 left",
        "▸   2 day: dates that can be read in two wa…",
        "    1 day \"soon\"",
        "its dates do not prove one order of day, month and year",
        "▸ row 2  03/04/2026",
        "▸!Day   03/04/2026",
    ] {
        assert!(shown.contains(part), "{part}:\n{shown}");
    }
    // Settling it by a value is not offered; the line of the mapping is.
    let asked = picture_of(&files, (160, 24), "s");
    assert!(asked.contains("mapping.toml: order = …"), "{asked}");
    // A single cell can be mended all the same, in whichever form is certain.
    let typed = "e".to_owned() + &"⌫".repeat(10) + "3 Apr 2026↵";
    let mended = picture_of(&files, (110, 24), &typed);
    assert!(mended.contains("the row fits now, 2 left"), "{mended}");
}

#[test]
fn numbers_that_lost_their_digits_are_not_settled_all_alike() {
    let files = [
        (
            "target.toml",
            "[target]\nname = \"Register\"\n[upload]\n[[field]]\nname = \"hive\"\ntype = \"text\"\ndigits = 6\n",
        ),
        ("mapping.toml", "target = \"target.toml\"\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n"),
        ("spring.csv", "Hive,Day\n4.1E+05,1\n4.1E+05,2\n117,3\n"),
    ];
    let asked = picture_of(&files, (110, 24), "s");
    assert!(asked.contains("correct the rows one by one") && !asked.contains(" is ─"), "{asked}");
}

/// The same register with five ways to say yellow, and a list of many codes.
fn many() -> Vec<(&'static str, &'static str)> {
    let mut files = FILES.to_vec();
    let codes = "code,label\nW,White\nY,Yellow\nYD,Dark yellow\nYL,Light yellow ochre\nG,Grün\n";
    files[1].1 = codes;
    files[3].1 = "Hive,Queen,Frames,Remarks\nA1,gelb,9,\nB1,jaune,10,\nC1,gelb,12,late\nD1,pink,7,\nE1,giallo,8,\nF1,Y,99,\n";
    files
}

#[test]
fn values_that_mean_the_same_are_marked_and_settled_together_and_taken_back_together() {
    // gelb, jaune and giallo are marked; pink between them is passed over, and the number takes no mark.
    let marked = picture_of(&many(), (120, 30), "  ↓ ");
    for part in [
        "◇   2 queen \"gelb\"",
        "◇   1 queen \"jaune\"",
        "    1 queen \"pink\"",
        "s settle all that are marked",
    ] {
        assert!(marked.contains(part), "{part}\n{marked}");
    }
    let choosing = picture_of(&many(), (120, 30), "  ↓ s");
    assert!(choosing.contains("each of the 3 marked values is"), "{choosing}");
    assert!(!choosing.contains("▸ Y"), "nothing is suggested for several values\n{choosing}");
    let settled = picture_of(&many(), (120, 30), "  ↓ s↓↓↵");
    assert!(settled.contains("3 values = Y: 4 rows settled, 2 left"), "{settled}");
    assert!(settled.contains("██████░░░░ 6 rejected, 2 left, 1 decision"), "{settled}");
    let back = picture_of(&many(), (120, 30), "  ↓ s↓↓↵u");
    assert!(back.contains("taken back: 3 values = Y") && back.contains("6 rejected, 6 left  for"), "{back}");
    let again = picture_of(&many(), (120, 30), "  ↓ s↓↓↵ur");
    assert!(again.contains("again: 3 values = Y: 4 rows settled, 2 left"), "{again}");
    // A decision of another kind ends what could be made again.
    let ended = picture_of(&many(), (120, 30), "  ↓ s↓↓↵u↓↓↓kr");
    assert!(ended.contains("nothing was taken back"), "{ended}");
    // Marks are taken away one by one, or all at once; what is no value takes none.
    let without = picture_of(&many(), (120, 30), " m");
    assert!(!without.contains('◇') && !without.contains('◆'), "{without}");
    let refused = picture_of(&many(), (120, 30), "↓↓↓↓ ");
    assert!(refused.contains("of another field") || refused.contains("not about one value"), "{refused}");
}

#[test]
fn a_long_list_is_searched_by_words_in_any_order() {
    let found = picture_of(&many(), (100, 24), "soch lig");
    assert!(found.contains("▸ YL Light yellow ochre") && found.contains("1 of 7"), "{found}");
    let first = picture_of(&many(), (100, 24), "syell");
    let place = |text: &str| first.find(text).unwrap_or_else(|| panic!("{text}\n{first}"));
    assert!(place("Y Yellow") < place("YD Dark yellow"));
    assert!(picture_of(&many(), (100, 24), "sGRÜN").contains("▸ G Grün"));
    assert!(picture_of(&many(), (100, 24), "szebra").contains("nothing in the list is like that"));
}

#[test]
fn somebody_goes_to_a_row_by_its_number_or_its_key() {
    let by_number = picture_of(&many(), (100, 24), "g7↵");
    assert!(by_number.contains("▸ row 7  99") && by_number.contains("Record in row 7"), "{by_number}");
    let by_key = picture_of(&many(), (100, 24), "ge1↵");
    assert!(by_key.contains("Record in row 6") && by_key.contains("▸ row 6  giallo"), "{by_key}");
    for nowhere in ["g4444↵", "gZ9↵", "g↵"] {
        let none = picture_of(&many(), (100, 24), nowhere);
        assert!(none.contains("no rejected row has the number or the key"), "{none}");
    }
}

#[test]
fn the_row_as_the_file_has_it_is_shown_with_its_neighbours() {
    let shown = picture(FILES_SIZE, "w");
    for part in [
        "As the file has it:",
        "A1,yel.,9,␛[31m蜂",
        "▸      2  A1 │ yel. │ 9",
        "       3  B1 │ White │ 10",
        "       5  D1 │ pink",
    ] {
        assert!(shown.contains(part), "{part}\n{shown}");
    }
    assert!(!shown.contains("E1 │ Y"), "only the nearest rows\n{shown}");
    assert!(picture(FILES_SIZE, "wx").contains("Causes"), "any key goes back");
}

/// The size of most terminals.
const FILES_SIZE: (u16, u16) = (80, 24);
