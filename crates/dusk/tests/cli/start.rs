//! `dusk start`: each step is the command that somebody would have typed, and leaves what that command leaves.

use crate::desk::{Desk, QUEEN, TARGET};

/// What the harbour office takes: a ferry's crossings.
const DICTIONARY: &str = "Field,Label,Type,Length,Required,Allowed values,Notes\n\
crossing_no,Crossing number,text,6,Y,,Six digits with leading zeros\n\
sailed_on,Date of sailing,date,,Y,,yyyy-mm-dd\n\
vessel,Vessel code,code,,Y,AL=Alma; BR=Brisk; CO=Coral,\n\
passengers,Passengers,integer,,Y,0-400,\n\
relief_crew,Relief crew,text,20,N,,\n\
tide_table,Tide table,text,20,N,,\n";

const EXPORT: &str = "Crossing;Date;Ship;Souls;Cook\n\
101;17.04.2026;Alma;120;Ida\n\
102;18.04.2026;Brisk;88;Jon\n\
103;19.04.2026;Coraal;12;Ida\n";

fn harbour() -> Desk {
    Desk::empty().with("ferry.csv", EXPORT).with("dictionary.csv", DICTIONARY)
}

#[test]
fn the_files_are_those_that_the_commands_write() {
    let (guided, by_hand) = (harbour(), harbour());
    // The draft's one question; then what is likely, what has no column, what may stay empty, what nothing uses.
    let (draft, map) = ("ok\n", "Souls\ny\nn\ny\n");
    let ran = guided.answering(
        &["start", "ferry.csv", "dictionary.csv", "--today", "2026-04-30"],
        &format!("{draft}{map}y\n"),
    );
    assert_eq!(ran.status, 1, "{ran:?}");
    for says in [
        "5 columns; read as utf-8, semicolon, headings in row 1",
        "$ dusk target draft dictionary.csv --ask",
        "$ dusk map ferry.csv --today 2026-04-30 --ask",
        "2 fields may stay empty, and no column looks like them: relief_crew, tide_table",
        "$ dusk check ferry.csv --today 2026-04-30",
        "$ dusk conform ferry.csv --today 2026-04-30",
    ] {
        assert!(ran.err.contains(says), "{says}: {}", ran.err);
    }
    by_hand.answering(&["target", "draft", "dictionary.csv", "--ask"], draft);
    by_hand.answering(&["map", "ferry.csv", "--today", "2026-04-30", "--ask"], map);
    by_hand.run(&["conform", "ferry.csv", "--today", "2026-04-30"]).ended(1);
    for name in ["target.toml", "codes/vessel.csv", "mapping.toml"] {
        assert_eq!(guided.read(name), by_hand.read(name), "{name}");
    }
    assert_eq!(guided.names("batches/2026-04-30-a"), by_hand.names("batches/2026-04-30-a"));
    let upload = "batches/2026-04-30-a/upload/2026-04-30-a-1.csv";
    assert_eq!(guided.read_bytes(upload), by_hand.read_bytes(upload));
}

#[test]
fn it_ends_where_the_answers_end_and_goes_on_from_there() {
    let desk = harbour();
    let ran = desk.answering(&["start", "ferry.csv"], "x.csv\n1\nok\nstop\n");
    assert_eq!(ran.status, 1, "{ran:?}");
    for says in [
        "1  dictionary.csv",
        "there is no file \"x.csv\"",
        "the field \"passengers\" is required",
        "not everything is decided yet; what was answered is kept",
        "go on with: dusk start ferry.csv",
    ] {
        assert!(ran.err.contains(says), "{says}: {}", ran.err);
    }
    // The description is not drafted again, and what was answered is not asked again.
    let again = desk.answering(&["start", "ferry.csv"], "Souls\ny\ny\nn\n");
    assert!(
        !again.err.contains("target draft") && !again.err.contains("crossing_no (Crossing"),
        "{}",
        again.err
    );
    assert!(!desk.exists("batches"), "nobody said yes");
    // The next month asks nothing but whether to write.
    let desk = desk.with("may.csv", &EXPORT.replace("04.2026", "05.2026").replace("Coraal", "Coral"));
    let next = desk.answering(&["start", "may.csv", "--today", "2026-05-31"], "y\n");
    assert_eq!(next.status, 0, "{next:?}");
    assert!(!next.err.contains("What feeds it"), "{}", next.err);
    assert!(desk.names("batches/2026-05-31-a").contains(&"receipt.json".to_owned()));
}

#[test]
fn how_an_export_is_read_is_asked_where_the_file_leaves_it_open() {
    let mut book = rust_xlsxwriter::Workbook::new();
    for (name, number) in [("April", 117), ("May", 290)] {
        let sheet = book.add_worksheet().set_name(name).unwrap();
        sheet.write_row(0, 0, ["No", "Date", "Queen", "Honey"]).unwrap();
        sheet.write(1, 0, number).unwrap();
    }
    let desk = Desk::empty()
        .with("target.toml", TARGET)
        .with("codes/queen.csv", QUEEN)
        .with_bytes("visits.xlsx", &book.save_to_buffer().unwrap());
    let ran = desk.answering(&["start", "visits.xlsx"], "colour red\nsheet June\nstop\n");
    for says in
        ["How is it read? Write one of sheet,", "\"colour red\" is not such an answer", "no sheet \"June\""]
    {
        assert!(ran.err.contains(says), "{says}: {}", ran.err);
    }
    assert!(ran.status == 1 && !desk.exists("mapping.toml"), "{ran:?}");
    // The line of a mapping is as good an answer as the option.
    for (answer, line) in [("--sheet 2", "sheet = 2"), ("sheet = \"May\"", "sheet = \"May\"")] {
        let ran = desk.answering(&["start", "visits.xlsx"], &format!("{answer}\nNo\nstop\n"));
        assert!(ran.err.contains("$ dusk map visits.xlsx --sheet "), "{}", ran.err);
        let mapping = desk.read("mapping.toml");
        assert!(mapping.contains(&format!("[source]\n{line}")), "{mapping}");
        std::fs::remove_file(desk.path("mapping.toml")).unwrap();
    }
    desk.run(&["start", "no.csv"]).stops(&["no.csv"]);
}

#[test]
fn what_every_run_is_asked_for_is_asked_once() {
    let desk = Desk::new()
        .edited(
            "mapping.toml",
            "target = \"target.toml\"\n",
            "target = \"target.toml\"\n[ask]\nclerk = \"Who loads it?\"\n",
        )
        .edited(
            "target.toml",
            "[[field]]\nname = \"visit_date\"",
            "[[field]]\nname = \"loader\"\ntype = \"text\"\n[[field]]\nname = \"visit_date\"",
        );
    let mapping =
        format!("{}\n[[map]]\nfield = \"loader\"\nconstant = \"{{clerk}}\"\n", desk.read("mapping.toml"));
    let desk = desk.with("mapping.toml", &mapping);
    let ran = desk.answering(&["start", "export.csv", "--today", "2026-04-30"], "A. Clerk\ny\n");
    assert!(ran.err.contains("Who loads it?") && ran.err.contains("--set \"clerk=A. Clerk\""), "{}", ran.err);
    assert!(desk.read("batches/2026-04-30-a/upload/up-1.csv").contains("A. Clerk"));
    let given = desk.answering(&["start", "export.csv", "--set", "clerk=B. Clerk", "-q"], "n\n");
    assert!(!given.err.contains("Who loads it?"), "{}", given.err);
}
