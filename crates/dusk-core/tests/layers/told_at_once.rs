//! What is told at once of a value is what the long way says of it: a mapping that names a word for blank cells, which
//! no cell holds, has every value taken the long way.

use std::fs;

use dusk_core::Error;
use dusk_core::run::MadeBatch;
use proptest::prelude::*;

use crate::desk::Desk;

/// Columns of every kind that can be told at once; "{…}" stands for what differs.
const TARGET: &str = r#"
[target]
name = "T"
[upload]
{upload}
file_name = "up.csv"
[[field]]
name = "id"
type = "text"
pattern = "[A-Z]{1,2}-[0-9]{1,3}"
key = true
[[field]]
name = "note"
type = "text"
max_length = 9
[[field]]
name = "shelf"
type = "text"
digits = 4
[[field]]
name = "day"
type = "date"
format = "{format}"
not_before = "1990-01-01"
[[field]]
name = "at"
type = "datetime"
[[field]]
name = "count"
type = "integer"
min = -5
max = 500
[[field]]
name = "weight"
type = "decimal"
decimals = 2
min = "0.5"
[[rule]]
name = "r"
must = "count < 100 or note = \"x\""
"#;

const FIELDS: [&str; 7] = ["id", "note", "shelf", "day", "at", "count", "weight"];

/// What each column may hold: mostly what it should, and what is next to it.
fn row() -> impl Strategy<Value = Vec<String>> {
    let text = "[aZ5é .;,\"'’–#?+ÃœŠÂ€\u{a0}\u{ad}\n:=ñ]{0,10}";
    let number = "[-+]?[0-9]{0,4}[.,]?[0-9]{0,3}[ %]?|0+[.]?0*|[0-9]{15,19}|1E[+]05|#REF!|Err:502";
    let day = "[0-3]?[0-9][/.-][01]?[0-9][/.-](19|20)?[0-9]{2}( ?[0-9]{1,2}:[0-5][0-9])?|20[0-9]{2}-[01][0-9]-[0-3][0-9]([T ][0-2][0-9]:[0-6][0-9](:[0-5][0-9])?)?|[0-9]{5}";
    let mostly = |good: &'static str, odd: &'static str| prop_oneof![14 => good, 1 => odd].boxed();
    let cells: [BoxedStrategy<String>; 7] = [
        mostly("[A-Z]{1,2}-[0-9]{1,3}", text),
        mostly("[aZ5é ;\"’–ñ]{0,9}", text),
        mostly("[0-9]{1,4}", "'?[0-9]{1,5}[.]0|[0-9]{6}"),
        mostly("(0[1-9]|1[0-9]|2[0-8])/(0[1-9]|1[0-2])/20[0-1][0-9]", day),
        mostly("(0[1-9]|1[0-9]|2[0-8])/(0[1-9]|1[0-2])/20[0-1][0-9] [01][0-9]:[0-5][0-9]", day),
        mostly("[1-9][0-9]?|-[1-4]|", number),
        mostly("[1-9][0-9]{0,3}([.][0-9]{1,2})?", number),
    ];
    cells.to_vec()
}

/// The batch of an export: its totals, its upload and its lists, or why there is none.
fn batch(desk: &Desk, (extra, mark): (&str, &str)) -> Result<Vec<String>, Error> {
    let maps = FIELDS.map(|name| {
        let more = match name {
            "day" | "at" => "order = \"day-month-year\"\n",
            "weight" => mark,
            _ => "",
        };
        format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n{more}")
    });
    desk.write(
        "mapping.toml",
        format!("target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\n{extra}\n{}", maps.concat()),
    );
    let given = desk.read_export("export.csv")?;
    let job = given.job();
    let MadeBatch { summary, folder, .. } = desk.batch_of(&job)?;
    let mut all = vec![format!("{:?} {:?}", summary.totals, summary.digest)];
    for file in ["upload/up.csv", "changes.csv", "findings.csv", "rejects.csv", "memory.json"] {
        all.push(
            fs::read(folder.join(file))
                .map_or_else(|_| String::new(), |bytes| format!("{:?}", bytes.escape_ascii().to_string())),
        );
    }
    fs::remove_dir_all(&folder).unwrap();
    Ok(all)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn what_is_told_at_once_is_what_the_long_way_says(
        rows in prop::collection::vec(row(), 1..40),
        upload in prop::sample::select(vec!["", "delimiter = \";\"\nencoding = \"windows-1252\"", "quoting = \"always\"", "delimiter = \"-\"", "format = \"json-lines\""]),
        format in prop::sample::select(vec!["yyyy-MM-dd", "d.M.yyyy", "dd/MM/yy", "yyyy, MMM d"]),
        mark in prop::sample::select(vec!["decimal_mark = \".\"\n", "decimal_mark = \",\"\n", ""]),
    ) {
        let target = TARGET.replace("{upload}", upload).replace("{format}", format);
        let desk = Desk::new().with("target.toml", target);
        let quoted = |cell: &String| format!("\"{}\"", cell.replace('"', "\"\""));
        let lines: Vec<String> = rows.iter().map(|row| row.iter().map(quoted).collect::<Vec<_>>().join(",")).collect();
        desk.write("export.csv", format!("{}\n{}\n", FIELDS.join(","), lines.join("\n")));
        let at_once = batch(&desk, ("", mark));
        let the_long_way = batch(&desk, ("blank = [\"no cell says this\"]", mark));
        match (at_once, the_long_way) {
            (Ok(one), Ok(other)) => prop_assert_eq!(one, other),
            (one, other) => prop_assert_eq!(one.map_err(|error| error.to_string()), other.map_err(|error| error.to_string())),
        }
    }
}
