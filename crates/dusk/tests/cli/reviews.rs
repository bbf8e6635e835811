//! The review screen driven by keys in a pseudo-terminal, and the files that it leaves behind.

use std::io::{Read as _, Write as _};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use portable_pty::{CommandBuilder, PtySize, native_pty_system};

use crate::desk::Desk;

const EXPORT: &str = "No,Date,Queen,Honey\n1,03/04/2026,yel.,1\n2,04/04/2026,yel.,2\n3,31/02/2026,white,3\n4,05/04/2026,pink,4\n5,06/04/2026,white,lots\n";

/// A terminal in which the screen is shown.
struct Terminal {
    screen: Arc<Mutex<vt100::Parser>>,
    keys: Box<dyn std::io::Write + Send>,
    child: Box<dyn portable_pty::Child + Send + Sync>,
    // Closed last.
    _pair: portable_pty::PtyPair,
}

impl Terminal {
    fn open(desk: &Desk, (columns, rows): (u16, u16), words: &[&str]) -> Self {
        let size = PtySize { rows, cols: columns, pixel_width: 0, pixel_height: 0 };
        let pair = native_pty_system().openpty(size).unwrap();
        let mut command = CommandBuilder::new(env!("CARGO_BIN_EXE_dusk"));
        command.args(words);
        command.cwd(desk.path("."));
        command.env_clear();
        command.env("TERM", "xterm-256color");
        command.env("USER", "clerk");
        let child = pair.slave.spawn_command(command).unwrap();
        let screen = Arc::new(Mutex::new(vt100::Parser::new(
            rows.try_into().unwrap(),
            columns.try_into().unwrap(),
            0,
        )));
        let mut output = pair.master.try_clone_reader().unwrap();
        let shown = Arc::clone(&screen);
        std::thread::spawn(move || {
            let mut buffer = [0; 4096];
            while let Ok(count @ 1..) = output.read(&mut buffer) {
                shown.lock().unwrap().process(&buffer[..count]);
            }
        });
        let keys = pair.master.take_writer().unwrap();
        Self { screen, keys, child, _pair: pair }
    }

    fn text(&self) -> String {
        self.screen.lock().unwrap().screen().contents()
    }

    /// Waits until the screen shows a text.
    #[track_caller]
    fn shows(&self, text: &str) {
        let began = Instant::now();
        while !self.text().contains(text) {
            assert!(
                began.elapsed() < Duration::from_secs(30),
                "\"{text}\" is not on the screen:\n{}",
                self.text()
            );
            std::thread::sleep(Duration::from_millis(10));
        }
    }

    fn press(&mut self, keys: &str) {
        self.keys.write_all(keys.as_bytes()).unwrap();
        self.keys.flush().unwrap();
    }

    fn ended(&mut self) -> u32 {
        self.child.wait().unwrap().exit_code()
    }
}

#[test]
fn nothing_that_a_file_holds_acts_on_the_screen() {
    let nasty = "Que\u{1b}[5men\u{202e}x\u{2066}\u{e0041}";
    let desk = Desk::new()
        .with(
            "mapping.toml",
            &crate::desk::MAPPING
                .replace("from = \"Queen\"", "from = \"Que\\u001b[5men\\u202ex\\u2066\\U000E0041\""),
        )
        .with("export.csv", &EXPORT.replace("Queen", nasty).replace("yel.", nasty));
    let mut terminal = Terminal::open(&desk, (120, 40), &WORDS);
    terminal.shows("5 rejected, 5 left");
    terminal.press("\t");
    let screen = terminal.text();
    let acts =
        |c: char| matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | '\u{e0000}'..='\u{e007f}');
    assert!(!screen.contains(acts) && screen.contains("␛[5men"), "{screen}");
    terminal.press("q");
    assert_eq!(terminal.ended(), 1);
}

const WORDS: [&str; 6] = ["review", "export.csv", "--today", "2026-04-30", "--by", "A. Clerk"];

#[test]
fn causes_are_settled_and_cells_mended_at_both_sizes() {
    for size in [(80, 24), (200, 60)] {
        let desk = Desk::new().with("export.csv", EXPORT);
        let mut terminal = Terminal::open(&desk, size, &WORDS);
        terminal.shows("5 rejected, 5 left");
        terminal.shows("queen \"yel.\"");
        terminal.shows("q quit");
        // The likely answer is at hand.
        terminal.press("s");
        terminal.shows("Y Yellow   spelt nearly so");
        terminal.press("\r");
        terminal.shows("2 rows settled, 3 left");
        assert!(
            desk.read("crosswalks/queen.csv").ends_with("yel.,,Y,A. Clerk,2026-04-30,\n"),
            "saved at once"
        );
        // The next cause is at hand: a date, mended in its row.
        terminal.shows("!Date");
        terminal.press("e");
        terminal.shows("the source has: 31/02/2026");
        // To the start of it, and two digits are written over.
        terminal.press("\x1b[H\x1b[3~\x1b[3~28");
        terminal.shows("to be read: 28▏/02/2026");
        terminal.press("\r");
        terminal.shows("the row fits now, 2 left");
        // A code looked up by typing, then taken back.
        terminal.press("sblu\r");
        terminal.shows("1 row settled, 1 left");
        let before = desk.read("crosswalks/queen.csv");
        terminal.press("u");
        terminal.shows("taken back: queen \"pink\" = B");
        assert_ne!(desk.read("crosswalks/queen.csv"), before);
        // Up to the cause that was taken back, which is kept out.
        terminal.press("k");
        terminal.shows("1 left");
        terminal.press("q");
        assert_eq!(terminal.ended(), 1);
        assert!(desk.read("crosswalks/queen.csv").contains("pink,,(keep out),"));
        let lines = desk.read("crosswalks/queen.csv") + &desk.read("corrections/export.csv");
        assert!(lines.contains("4,Date,31/02/2026,28/02/2026,A. Clerk,2026-04-30,,"), "{lines}");
        let ran = desk.run(&["check", "export.csv", "--today", "2026-04-30"]).ended(1);
        ran.says(&["5 rows read = 3 accepted + 1 rejected + 0 merged + 1 left out"]);
    }
}

#[test]
fn undo_takes_back_its_own_line_and_leaves_what_others_have_recorded() {
    let desk = Desk::new().with("export.csv", EXPORT);
    let mut terminal = Terminal::open(&desk, (120, 40), &WORDS);
    terminal.shows("5 left");
    terminal.press("s\r");
    terminal.shows("2 rows settled, 3 left");
    desk.run(&["crosswalk", "add", "queen", "cream", "W"]).ended(0);
    terminal.press("u");
    terminal.shows("taken back: queen \"yel.\" = Y");
    let kept = desk.read("crosswalks/queen.csv");
    assert!(kept.contains("cream,,W,") && !kept.contains("yel."), "{kept}");
    // What somebody has decided otherwise meanwhile is theirs.
    terminal.press("\x1b[A\x1b[As\r");
    terminal.shows("2 rows settled, 3 left");
    desk.run(&["crosswalk", "add", "queen", "yel.", "B"]).ended(0);
    terminal.press("u");
    terminal.shows("not taken back: somebody has changed that line");
    let kept = desk.read("crosswalks/queen.csv");
    assert!(kept.contains("cream,,W,") && kept.contains("yel.,,B,"), "{kept}");
    terminal.press("q");
    terminal.ended();
}

#[test]
fn every_decision_is_taken_back_to_the_byte_and_colours_are_not_needed() {
    let queen = "value;code\r\ncreme;W\r\n";
    let desk = Desk::new().with("export.csv", EXPORT).with("crosswalks/queen.csv", queen);
    let words = [&WORDS[..], &["--colour", "never"]].concat();
    let mut terminal = Terminal::open(&desk, (80, 24), &words);
    terminal.shows("5 left");
    terminal.press("s\r");
    terminal.shows("3 left");
    terminal.press("b");
    terminal.shows("= (leave blank): 1 row settled, 2 left");
    terminal.press("ex\r");
    terminal.shows("pinkx\": the row is still rejected, 2 left");
    assert!(desk.exists("corrections/export.csv") && desk.exists("crosswalks/visit_date.csv"));
    terminal.press("uuu");
    terminal.shows("5 left");
    assert_eq!(desk.read("crosswalks/queen.csv"), queen);
    assert!(!desk.exists("corrections/export.csv") && !desk.exists("crosswalks/visit_date.csv"));
    // Only the row at hand.
    terminal.press("\tk");
    terminal.shows("row 2 is kept out, 4 left");
    terminal.press("u");
    terminal.shows("taken back: row 2 is kept out");
    assert!(!desk.exists("corrections/export.csv"));
    terminal.press("?");
    terminal.shows("take the last decision back");
    terminal.press("xq");
    assert_eq!(terminal.ended(), 1);
    let red_or_green = (0..24).flat_map(|row| (0..80).map(move |column| (row, column)));
    let screen = terminal.screen.lock().unwrap();
    let coloured = |(row, column)| {
        screen.screen().cell(row, column).is_some_and(|cell| cell.fgcolor() != vt100::Color::Default)
    };
    assert!(!red_or_green.into_iter().any(coloured));
}

#[test]
fn a_cell_that_others_take_over_is_mended_for_all_of_them() {
    let export = "No,Date,Queen,Honey\n1,31/02/2026,white,1\n2,,white,2\n3,,white,3\n4,05/04/2026,x,4\n";
    let desk = Desk::new().with("export.csv", export);
    let desk = desk.edited("mapping.toml", "from = \"Date\"", "from = \"Date\"\nfill_down = true");
    let mut terminal = Terminal::open(&desk, (80, 24), &WORDS);
    terminal.shows("4 rejected, 4 left");
    terminal.press("e");
    terminal.press(&"\x7f".repeat(10));
    terminal.press("28/02/2026\r");
    terminal.shows("the row fits now, 1 left");
    terminal.shows("!Queen");
    terminal.press("k");
    terminal.shows("0 left");
    terminal.press("u");
    terminal.shows("taken back: queen \"x\"");
    terminal.press("u");
    terminal.shows("4 left");
    assert!(!desk.exists("corrections/export.csv"));
    terminal.press("q");
    assert_eq!(terminal.ended(), 1);
}

#[test]
fn without_a_terminal_the_other_commands_are_named() {
    let desk = Desk::new();
    desk.run(&["review", "export.csv"]).stops(&["review needs a terminal", "dusk check export.csv"]);
}

#[test]
fn a_cell_of_one_of_several_records_is_mended_where_it_stands() {
    let target = "[target]\nname = \"Frames\"\n[upload]\n[[field]]\nname = \"hive\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"frame\"\ntype = \"integer\"\nkey = true\n[[field]]\nname = \"brood\"\ntype = \"integer\"\nmax = \"9\"\n";
    let mapping = "target = \"target.toml\"\n[repeat]\nnumbers = [\"1-3\"]\nnumber = \"frame\"\n[[map]]\nfield = \"hive\"\nfrom = \"Hive\"\n[[map]]\nfield = \"brood\"\nfrom = \"Brood {n}\"\n";
    let desk = Desk::empty()
        .with("target.toml", target)
        .with("mapping.toml", mapping)
        .with("export.csv", "Hive,Brood 1,Brood 2,Brood 3\nA1,4,,2\nB1,3,12,1\n");
    desk.run(&["check", "export.csv"]).ended(1).says(&["do: dusk correct export.csv 3 \"Brood 2\" VALUE"]);
    let mut terminal = Terminal::open(&desk, (100, 24), &WORDS);
    terminal.shows("!Brood 2  12");
    terminal.press("e\x7f\x7f2\r");
    terminal.shows("the row fits now, 0 left");
    terminal.press("q");
    assert_eq!(terminal.ended(), 0);
    assert!(desk.read("corrections/export.csv").contains("3,Brood 2,12,2,A. Clerk,2026-04-30,,"));
    // Where repeats are numbered as they are met, no one column can be named.
    let desk =
        desk.edited("mapping.toml", "number = \"frame\"", "number = \"frame\"\nnumbering = \"in-order\"");
    std::fs::remove_dir_all(desk.path("corrections")).unwrap();
    let ran = desk.run(&["check", "export.csv"]).ended(1);
    assert!(!ran.out.contains("dusk correct"), "{}", ran.out);
}
