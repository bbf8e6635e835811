//! What passes between a steward and the target's owner: questions that are answered, values that wait for a code, agreements
//! on deliveries, numbers with a decimal comma, and the field list for paper.

use std::fs::File;
use std::process::Stdio;

use crate::desk::{Desk, Ran};

const DICTIONARY: &str = "Field;Type;Length;Required;Values;Remarks\n\
state;code;1;yes;\"O = open; C = closed\";\n\
opened;date DD.MM.YYYY;;yes;;\n\
closed;date DD.MM.YYYY;;if state is C;;not before opened\n\
fee;decimal, 2 decimals;;no;more than 0;decimal sign in the file is a comma\n";

#[test]
fn what_is_to_be_settled_is_asked_one_by_one_and_every_answer_is_tried() {
    let desk = Desk::empty().with("dictionary.csv", DICTIONARY).with(
        "typed",
        // The rule that is offered, a key that cannot be, another that can, one left open, and the end.
        "nonsense\nyes\nrequired = \"x\"\nnot_after = \"today\"\n\nq\n",
    );
    let mut command = desk.command(&["target", "draft", "dictionary.csv", "--ask"]);
    command.stdin(Stdio::from(File::open(desk.path("typed")).unwrap()));
    let ran = Ran::of(command).ended(0).says(&["1 of ", "settled: "]);
    assert!(ran.err.contains("\"nonsense\" cannot be part of a description"), "{}", ran.err);
    let text = desk.read("target.toml");
    let rule = "must = 'closed is not blank'";
    assert!(text.contains("when = 'state is \"C\"'") && text.contains(rule), "{text}");
    desk.run(&["target", "check"]).ended(0).says(&["nothing wrong"]);
    // What was answered does not come back with the next draft, and what was left open does.
    let questions =
        |desk: &Desk| desk.read("target.toml").lines().filter(|line| line.starts_with("#  ")).count();
    let left = questions(&desk);
    desk.run(&["target", "draft", "dictionary.csv"]).ended(0);
    assert_eq!(questions(&desk), left);
}

#[test]
fn a_new_edition_renames_fields_and_keeps_its_order_with_the_edits() {
    let first = "Field,Label,Type,Required\nno,Number,Text(6),M\ncrew,Crew,Text(30),M\nlevel,Level,\"Number(5,1)\",O\n";
    let second = "Field,Label,Type,Required\nno,Number,Text(6),M\nday,Day,Date YYYY-MM-DD,M\nsurveyor,Crew,Text(30),M\nlevel,Level,\"Number(5,1)\",M\n";
    let desk = Desk::empty().with("dictionary.csv", first);
    desk.run(&["target", "draft", "dictionary.csv"]).ended(0);
    let edited = desk.read("target.toml").replace("\"Crew\"", "\"Who went\"");
    let desk = desk.with("target.toml", &edited).with("dictionary.csv", second);
    desk.run(&["target", "draft", "dictionary.csv"]).ended(0).says(&[
        "crew is now called surveyor",
        "day is a new field",
        "level: required was false and is true",
        "surveyor: label stays \"Who went\"",
    ]);
    let text = desk.read("target.toml");
    let place = |name: &str| text.find(&format!("= \"{name}\"")).unwrap_or(usize::MAX);
    assert!(
        place("no") < place("day") && place("day") < place("surveyor") && place("surveyor") < place("level")
    );
    assert!(text.contains("[\"crew\"]") && text.contains("\"Who went\""), "{text}");
    desk.run(&["target", "check"]).ended(0);
}

#[test]
fn decimal_commas_go_into_the_upload_where_the_target_wants_them_and_come_back() {
    let target = "[target]\nname = \"t\"\n[upload]\ndelimiter = \";\"\ndecimal_mark = \",\"\nline_end = \"lf\"\nfile_name = \"up.csv\"\n\
        [[field]]\nname = \"a\"\ntype = \"decimal\"\ndecimals = 2\n[[field]]\nname = \"b\"\ntype = \"text\"\n[[field]]\nname = \"n\"\ntype = \"integer\"\n";
    let mapping = "target = \"target.toml\"\n[[map]]\nfield = \"a\"\nfrom = \"a\"\n[[map]]\nfield = \"b\"\nfrom = \"b\"\n[[map]]\nfield = \"n\"\nfrom = \"n\"\n";
    let desk = Desk::empty()
        .with("target.toml", target)
        .with("mapping.toml", mapping)
        .with("export.csv", "a,b,n\n1.25,1.5,3\n-0.25,x,12\n7,,4\n");
    desk.conform().ended(0);
    let upload = desk.read("batch/upload/up.csv");
    assert_eq!(upload, "a;b;n\n1,25;1.5;3\n-0,25;x;12\n7;;4\n");
    desk.run(&["target", "export", "--as", "csvw"]).ended(0).says(&["\"decimalChar\": \",\""]);
    // All decimals are written where the target wants them, with either mark.
    let all = target.replace("decimals = 2", "decimals = 2\nall_decimals = true");
    for (target, rows) in [
        (&all, "1,25;1.5;3\n-0,25;x;12\n7,00"),
        (&all.replace("decimal_mark = \",\"\n", ""), "1.25;1.5;3\n-0.25;x;12\n7.00"),
    ] {
        let desk = Desk::empty()
            .with("target.toml", target)
            .with("mapping.toml", mapping)
            .with("export.csv", "a,b,n\n1.25,1.5,3\n-0.25,x,12\n7,,4\n");
        desk.conform().ended(0);
        assert_eq!(desk.read("batch/upload/up.csv"), format!("a;b;n\n{rows};;4\n"));
    }
    // Conforming what was written changes nothing.
    let again =
        Desk::empty().with("target.toml", target).with("mapping.toml", mapping).with("export.csv", &upload);
    again.conform().ended(0);
    assert_eq!(again.read("batch/upload/up.csv"), upload);
}

#[test]
fn values_that_wait_for_a_code_are_a_list_for_the_owner() {
    let export =
        "No,Date,Queen,Honey\n117,03/04/2026,violet,10\n290,25/04/2026,yellow,4.5\n463,25/04/2026,Violet,x\n";
    let desk = Desk::new().with("export.csv", export);
    desk.run(&["crosswalk", "--wanted", "export.csv", "-o", "wanted.csv"]).ended(1).says(&[
        "1 value waits for a code",
        "violet",
        "dusk crosswalk add --from wanted.csv",
    ]);
    assert_eq!(
        desk.read("wanted.csv"),
        "field,value,within,code,note,rows,source,first row\nqueen,violet,,,,2,export.csv,2\n"
    );
    let filled = desk.read("wanted.csv").replace("violet,,,", "violet,,W,");
    let desk = desk.with("wanted.csv", &filled);
    desk.run(&["crosswalk", "add", "--from", "wanted.csv"]).ended(0);
    desk.run(&["crosswalk", "--wanted", "export.csv"]).ended(0).says(&["no value waits"]);
    desk.run(&["crosswalk", "--wanted"]).stops(&["reads exports, and none is named"]);
}

#[test]
fn a_delivery_is_held_against_what_was_agreed() {
    let good = "No;Day;Name\n1;31.12.2025;Anna\n2;01.01.2026;Übel\n";
    let desk =
        Desk::empty().with("good.csv", good).with("other.csv", "No,Name,Day,More\n1,Anna,2025-12-31,x\n");
    desk.run(&["inspect", "good.csv", "--write-agreed", "agreed.toml"]).ended(0).says(&["wrote agreed.toml"]);
    desk.run(&["inspect", "good.csv", "--write-agreed", "agreed.toml"]).stops(&["is there already"]);
    desk.run(&["inspect", "good.csv", "--agreed", "agreed.toml"])
        .ended(0)
        .says(&["is as agreed.toml has it"]);
    let agreed = desk.read("agreed.toml").replace("least_rows = 1", "least_rows = 2\nquoting = \"never\"");
    assert!(agreed.contains("dates = \"dd.MM.yyyy\""), "{agreed}");
    let desk = desk.with("agreed.toml", &agreed);
    desk.run(&["inspect", "other.csv", "--agreed", "agreed.toml"]).ended(1).says(&[
        "other.csv: the delimiter \";\" was agreed, and it is \",\"",
        "other.csv row 1: the column \"More\" (number 4) was not agreed",
        "other.csv row 1: the columns were agreed in the order No, Day, Name",
        "other.csv row 2: the days of \"Day\" were agreed as dd.MM.yyyy, and 1 is written in another form, first \"2025-12-31\"",
        "other.csv: 2 rows or more were agreed, and there are 1",
    ]);
    let desk = desk.with("agreed.toml", "[delivery]\nquoting = \"seldom\"\n[[column]]\nnam = \"x\"\n");
    desk.run(&["inspect", "good.csv", "--agreed", "agreed.toml"]).stops(&[
        "agreed.toml, line 2: [delivery] quoting cannot be \"seldom\"",
        "agreed.toml, line 4: [[column]] does not know the key \"nam\"",
    ]);
}

#[test]
fn the_field_list_for_paper_has_fields_codes_and_rules_and_nothing_that_runs() {
    let desk = Desk::new().edited(
        "target.toml",
        "[[field]]\nname = \"visit_date\"",
        "[[rule]]\nmust = \"honey_kg < 90\"\nsays = \"<b>much</b>\"\n\n[[field]]\nname = \"visit_date\"",
    );
    let page = desk.run(&["target", "show", "--format", "html"]).ended(0).says(&[
        "<code>apiary_id</code>",
        "<td>White</td>",
        "honey_kg &lt; 90",
        "&lt;b&gt;much&lt;/b&gt;",
        "delimited text in utf-8",
    ]);
    assert!(!page.out.contains("<script") && page.out.ends_with("</html>"), "{}", page.out);
    let one = desk.run(&["target", "show", "queen", "--format", "html"]).ended(0).says(&["<td>White</td>"]);
    assert!(!one.out.contains("apiary_id"), "{}", one.out);
}

/// What the words beside a field say in several languages: digits with zeros in front, limits that do not count
/// themselves, and a decimal comma, which is that of the whole file.
#[test]
fn digits_limits_and_decimal_commas_are_read_in_the_words_of_the_owner() {
    let dictionary = |zeros: &str, above: &str, below: &str, comma: &str| {
        format!(
            "Field;Type;Length;Required;Remarks\nno;text;8;yes;{zeros}\nfee;decimal, 2 decimals;;no;{above}; {comma}\n\
             depth;integer;;no;{below}\n"
        )
        .replace(&format!("{above}; {comma}"), &format!("\"{above}; {comma}\""))
    };
    for (zeros, above, below, comma) in [
        ("eight digits with leading zeros", "more than 0", "less than 40", "decimal comma"),
        ("acht Ziffern mit führenden Nullen", "größer als 0", "kleiner als 40", "Dezimalkomma"),
        ("huit chiffres avec zéros à gauche", "supérieur à 0", "inférieur à 40", "virgule décimale"),
        ("ocho cifras con ceros a la izquierda", "mayor que 0", "menor que 40", "coma decimal"),
        ("8 cijfers met voorloopnullen", "groter dan 0", "kleiner dan 40", "decimaalkomma"),
    ] {
        let desk = Desk::empty().with("dictionary.csv", &dictionary(zeros, above, below, comma));
        desk.run(&["target", "draft", "dictionary.csv"]).ended(0);
        let text = desk.read("target.toml");
        let lines: Vec<String> = text
            .lines()
            .map(|line| line.split('#').next().unwrap().split_whitespace().collect::<Vec<_>>().join(" "))
            .collect();
        for line in
            ["digits = 8", "min = \"0.01\"", "max = \"39\"", "decimal_mark = \",\"", "delimiter = \";\""]
        {
            assert!(lines.iter().any(|known| known == line), "{line} of {zeros}: {text}");
        }
        assert!(!text.contains("max_length"), "{text}");
        desk.run(&["target", "check"]).ended(0);
    }
    // Digits that are a part of it only say nothing of the whole, and without zeros in front fewer are as good.
    for part in [
        "4 digits plus letter",
        "the first six digits of the postcode",
        "six digits or blank",
        "two letters and four digits",
        "six digits without leading zeros",
        "six digits, no leading zeros",
        "sechs Ziffern ohne führende Nullen",
    ] {
        let text = format!("Field;Type;Length;Required;Remarks\nno;text;;yes;{part}\n");
        let desk = Desk::empty().with("dictionary.csv", &text);
        desk.run(&["target", "draft", "dictionary.csv"]).ended(0);
        let text = desk.read("target.toml");
        assert!(!text.lines().any(|line| line.starts_with("digits")), "{part}: {text}");
    }
    // Words beside a text that speak of another length than its column does are asked about.
    let unlike = "Field;Type;Length;Required;Remarks\nno;text;10;yes;six digits\n";
    let desk = Desk::empty().with("dictionary.csv", unlike);
    desk.run(&["target", "draft", "dictionary.csv"]).ended(0).says(&["10 characters", "6 digits"]);
    assert!(!desk.read("target.toml").contains("digits    ="), "{}", desk.read("target.toml"));
}
