//! What people read at 80, 120 and 200 columns, in a pipe: no line is wider than the screen, no word is broken, no colour
//! acts, with wide letters and letters that are written from right to left.

use std::collections::BTreeSet;

use unicode_width::UnicodeWidthStr as _;

use crate::desk::{Desk, Ran};

/// What a command prints at so many columns.
fn at(desk: &Desk, columns: usize, words: &[&str]) -> Ran {
    let mut command = desk.command(words);
    command.env("COLUMNS", columns.to_string());
    Ran::of(command)
}

/// The words of a text, without the marks around them and without bars.
fn words_of(text: &str) -> BTreeSet<&str> {
    const MARKS: [char; 13] = ['│', '"', ',', ';', ':', '(', ')', '.', '·', '→', '✗', '█', '░'];
    // What was cut has a mark behind it, and is not broken.
    let whole = text.split_whitespace().filter(|word| !word.contains('…'));
    whole.map(|word| word.trim_matches(MARKS)).filter(|word| !word.is_empty()).collect()
}

/// A register in several languages, with long names and long values, a rejected value of each kind, and batches.
fn registers() -> Desk {
    let long = "Donaudampfschifffahrtsgesellschaftskapitänsmützenabzeichen";
    let target = format!(
        "[target]\nname = \"Verzeichnis der Bienenstände und ihrer Königinnen ملكة النحل 養蜂場登録\"\nversion = \"2026-01\"\n\
         [holds]\nfile = \"held.csv\"\n\
         [upload]\ndelimiter = \";\"\nfile_name = \"up-{{part}}.csv\"\n\
         [[field]]\nname = \"stand_nummer\"\nlabel = \"Nummer des Standes\"\ntype = \"text\"\ndigits = 6\nrequired = true\nkey = true\n\
         [[field]]\nname = \"besuch\"\ntype = \"date\"\ndescription = \"Tag, an dem jemand dort war, und nicht der, an dem es aufgeschrieben wurde\"\n\
         [[field]]\nname = \"farbe_der_koenigin\"\ntype = \"code\"\ncodes = \"codes/farbe.csv\"\n\
         [[field]]\nname = \"bemerkung\"\ntype = \"text\"\nmax_length = 70\n\
         [[field]]\nname = \"{long}\"\ntype = \"decimal\"\ndecimals = 1\nunit = \"kg\"\n\
         [[rule]]\nname = \"kein Honig ohne Königin\"\nmust = 'bemerkung is not blank'\nwhen = 'farbe_der_koenigin is \"W\"'\n"
    );
    let mapping = format!(
        "target = \"target.toml\"\n[ask]\nwer = \"Wer lädt es hoch?\"\n\
         [[map]]\nfield = \"stand_nummer\"\nfrom = \"Stand Nr\"\n\
         [[map]]\nfield = \"besuch\"\nfrom = \"Datum des Besuchs\"\n\
         [[map]]\nfield = \"farbe_der_koenigin\"\nfrom = \"לon צבע המלכה\"\n\
         [[map]]\nfield = \"bemerkung\"\nfrom = \"備考欄\"\n\
         [[map]]\nfield = \"{long}\"\nfrom = \"{long} in Pfund\"\nunit = \"lb\"\nround = \"half-up\"\n"
    );
    let mut export = format!("Stand Nr,Datum des Besuchs,לon צבע המלכה,備考欄,{long} in Pfund\n");
    let notes = [
        "蜂群は元気で、女王蜂も見えた",
        "הכוורת שקטה והמלכה נראתה",
        "ruhig",
        long,
        "a note that goes on for so long that no field of the register would ever hold all of its words",
    ];
    for row in 0..40 {
        let colour = ["weiß", "أصفر", "黄色", "W", "Y"][row % 5];
        export.push_str(&format!(
            "{},{:02}.{:02}.2026,{colour},{},{}.5\n",
            row + 1,
            row % 28 + 1,
            row % 4 + 1,
            notes[row / 5 % 5],
            row
        ));
    }
    Desk::empty()
        .with("target.toml", &target)
        .with("mapping.toml", &mapping)
        .with("codes/farbe.csv", "code,label,also\nW,weiß,blanche\nY,gelb,أصفر\nB,blau,himmelblau|kornblumenblau|dunkelblau\n")
        .with("held.csv", &format!("stand_nummer;besuch;farbe_der_koenigin;bemerkung;{long}\n000004;01.01.2026;B;früher;2.0\n000999;02.02.2026;W;gone;1.0\n"))
        .with("frühling.csv", &export)
        .with("dictionary.csv", "Field,Label,Type,Length,Required,Allowed values,Notes\nfarbe,Farbe der Königin,code,,Y,W=weiß; Y=gelb,\nname,Name,text,40,N,,how it is written on the sign at the gate\nwann,Wann,when,,Y,,\n")
}

/// What a cell is corrected to.
const MENDED: &str = "kurz und gut, so wie es am Stand vermerkt war";

#[test]
fn no_line_is_wider_than_the_screen_and_no_word_is_broken() {
    let desk = registers();
    let asked = ["--set", "wer=A. Clerk", "--today", "2026-04-30"];
    let with = |words: &[&'static str]| -> Vec<&'static str> { words.iter().copied().chain(asked).collect() };
    desk.run(&[
        "crosswalk",
        "add",
        "farbe_der_koenigin",
        "黄色",
        "Y",
        "--by",
        "A. Clerk",
        "--note",
        "as it was agreed on the telephone with the owner of the register",
    ])
    .ended(0);
    desk.run(&with(&["correct", "frühling.csv", "7", "備考欄", MENDED])[..5]).ended(0);
    desk.run(&with(&["conform", "frühling.csv"]));
    let commands: Vec<Vec<&str>> = vec![
        vec!["inspect", "frühling.csv"],
        vec!["inspect", "frühling.csv", "--column", "備考欄"],
        vec!["map", "frühling.csv"],
        with(&["map", "frühling.csv", "--show"]),
        vec!["map", "--list"],
        with(&["trial", "frühling.csv", "-n", "4"]),
        with(&["trial", "frühling.csv", "-n", "4", "--as-file"]),
        with(&["check", "frühling.csv", "--all-causes", "--evidence"]),
        with(&["check", "frühling.csv"]),
        with(&["compare", "frühling.csv"]),
        with(&["explain", "frühling.csv", "4"]),
        vec!["target", "show"],
        vec!["target", "show", "farbe_der_koenigin"],
        vec!["target", "show", "--find", "Stand"],
        vec!["target", "check"],
        vec!["target", "draft", "dictionary.csv", "-o", "drafted.toml"],
        vec!["batches"],
        vec!["batches", "show", "2026-04-30-a"],
        vec!["crosswalk", "list"],
        with(&["crosswalk", "--wanted", "frühling.csv"]),
        vec!["correct", "frühling.csv"],
        vec!["status"],
        vec!["help", "findings"],
        vec!["help", "not-a-code"],
        vec!["--help"],
    ];
    let data = format!("{} {MENDED} 2026", desk.read("frühling.csv").replace(',', " "));
    let mut wrong: Vec<String> = Vec::new();
    for words in &commands {
        let wide = at(&desk, 200, words).out;
        assert!(!wide.is_empty(), "{words:?} prints nothing");
        for columns in [80, 120] {
            let shown = at(&desk, columns, words).out;
            assert!(!shown.contains('\u{1b}'), "{words:?} has colours in a pipe");
            for line in shown.lines() {
                // A word that is wider than the screen is the only one that may pass its edge; data is shown to the letter.
                let longest = line.split_whitespace().map(|word| word.width()).max().unwrap_or(0);
                let is_data = words.contains(&"--as-file");
                if line.width() > columns && longest <= columns / 3 && !is_data {
                    wrong.push(format!("{words:?} at {columns}: {} columns\n{line}", line.width()));
                }
            }
            let other = at(&desk, 200 - columns, words).out;
            let mut known = words_of(&wide);
            known.extend(words_of(&other));
            // The narrower of two screens may show more of a value than the wider one, which has other columns too.
            known.extend(words_of(&data));
            let all = words_of(&shown);
            let broken: Vec<&&str> = all.difference(&known).collect();
            if !broken.is_empty() {
                wrong.push(format!("{words:?} at {columns} breaks {broken:?}\n{shown}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}
