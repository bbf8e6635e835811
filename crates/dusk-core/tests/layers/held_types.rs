//! Records beside those that the target holds: no false change and no missed one, for every type of field; and rows of
//! one key that become one record.

use std::collections::{BTreeMap, BTreeSet};

use dusk_core::description::{TYPE_WORDS, Target};
use dusk_core::run::{ComparedKind, ComparedWanted, HeldComparison, Job, Ready, ToldBeside, read_held};
use dusk_core::sources::Threads;
use proptest::prelude::*;

use crate::desk::{Desk, Given, TODAY};

/// What a field holds, in every form in which lists and exports write it. Forms of two values never say the same.
struct Values {
    kind: &'static str,
    field: &'static str,
    map: &'static str,
    /// For each value, how the target's list may write it, and how an export may.
    forms: &'static [(&'static [&'static str], &'static [&'static str])],
}

const TYPES: [Values; 14] = [
    Values {
        kind: "text",
        field: "type = \"text\"",
        map: "",
        forms: &[
            (&["reed bed", " reed bed "], &["reed bed", "reed bed  ", "reed\u{a0}bed"]),
            (&["Reed bed"], &["Reed bed"]),
            (&["reedbed"], &["reedbed"]),
            (&["two\nlines", "two\r\nlines"], &["two\r\nlines", "two\nlines"]),
            (&["e\u{301}l", "él"], &["él", "e\u{301}l"]),
        ],
    },
    Values {
        kind: "text",
        field: "type = \"text\"\ndigits = 4",
        map: "",
        forms: &[(&["0017", "17"], &["17", "0017"]), (&["0170"], &["170"])],
    },
    Values {
        kind: "integer",
        field: "type = \"integer\"",
        map: "",
        forms: &[(&["12", "12.0"], &["12", " 12", "12.00"]), (&["-12"], &["-12"]), (&["0"], &["0", "0.0"])],
    },
    Values {
        kind: "decimal",
        field: "type = \"decimal\"\ndecimals = 2",
        map: "decimal_mark = \",\"",
        forms: &[
            (&["3", "3.0", "3.00"], &["3", "3,0", "3,00"]),
            (&["3.01"], &["3,01"]),
            (&["-0.5"], &["-0,5", "-0,50"]),
            (&["0", "-0"], &["0", "0,00"]),
        ],
    },
    Values {
        kind: "date",
        field: "type = \"date\"\nformat = \"dd/MM/yyyy\"",
        map: "",
        forms: &[
            (&["04/03/2026", "2026-03-04"], &["2026-03-04", "4 Mar 2026"]),
            (&["03/04/2026"], &["2026-04-03", "3 April 2026"]),
        ],
    },
    Values {
        kind: "datetime",
        field: "type = \"datetime\"\nformat = \"yyyy-MM-dd HH:mm\"",
        map: "",
        forms: &[
            (&["2026-03-04 09:30", "2026-03-04T09:30"], &["2026-03-04 9:30", "2026-03-04T09:30:00"]),
            (&["2026-03-04 21:30"], &["2026-03-04 21:30"]),
        ],
    },
    Values {
        kind: "time",
        field: "type = \"time\"\nformat = \"HH:mm\"",
        map: "",
        forms: &[(&["09:30", "9:30"], &["9:30", "09:30:00"]), (&["21:30"], &["21:30"])],
    },
    Values {
        kind: "boolean",
        field: "type = \"boolean\"\nformat = \"1/0\"",
        map: "",
        forms: &[(&["1", "true", "yes"], &["yes", "TRUE", "1"]), (&["0", "no"], &["no", "false", "0"])],
    },
    Values {
        kind: "code",
        field: "type = \"code\"\ncodes = \"lists/gear.csv\"",
        map: "",
        forms: &[(&["A", "anchor"], &["anchor", "a", "ANCHOR "]), (&["B"], &["buoy", "b"])],
    },
    Values {
        kind: "codes",
        field: "type = \"codes\"\ncodes = \"lists/gear.csv\"\nseparator = \"|\"",
        map: "between = \"/\"",
        forms: &[
            (&["A|B", "B|A", "buoy|A"], &["anchor/buoy", "b/a", "A/B/A"]),
            (&["A"], &["anchor"]),
            (&["A|B|L"], &["L/A/B"]),
        ],
    },
    Values {
        kind: "codes",
        field: "type = \"codes\"\ncodes = \"lists/gear.csv\"\nnumbered = \"it_{n}\"\nmost = 1",
        map: "",
        forms: &[(&["A"], &["anchor"]), (&["L"], &["line"])],
    },
    Values {
        kind: "reference",
        field: "type = \"reference\"\nvalues = \"lists/places.csv\"\ncolumn = \"Place\"",
        map: "",
        forms: &[
            (&["Withy End", "withy end"], &["WITHY END", "Withy End"]),
            (&["Eelbridge"], &["eelbridge"]),
        ],
    },
    Values {
        kind: "file",
        field: "type = \"file\"\nfolder = \"photos\"",
        map: "",
        forms: &[(&["one.jpg"], &["one.jpg", "ONE.JPG"]), (&["two.jpg"], &["two.jpg"])],
    },
    Values {
        kind: "decimal",
        field: "type = \"decimal\"\ndecimals = 1\nunit = \"kg\"",
        map: "unit = \"lb\"\nround = \"half-up\"",
        forms: &[(&["4.5"], &["10", "9.92"]), (&["4.6"], &["10.14"])],
    },
];

fn held_desk(values: &Values, held: &[String], export: &[String]) -> Desk {
    let field = format!("{}\n[holds]\nfile = \"held.csv\"", values.field);
    let heading = if values.field.contains("numbered") { "it_1" } else { "it" };
    let rows = |cells: &[String]| -> Vec<Vec<String>> {
        cells.iter().enumerate().map(|(number, cell)| vec![format!("r{number}"), cell.clone()]).collect()
    };
    let desk = Desk::with_field(&field, values.map, &[])
        .with("lists/gear.csv", "code,label\nA,anchor\nB,buoy\nL,line\n")
        .with("lists/places.csv", "Place\nWithy End\nEelbridge\n")
        .with("photos/one.jpg", "1")
        .with("photos/two.jpg", "2")
        .with_table("held.csv", &["id", heading], rows(held))
        .with_table("export.csv", &["Id", "It"], rows(export));
    let target = desk.read("target.toml").replace("name = \"id\"", "name = \"id\"\nkey = true");
    desk.with("target.toml", target)
}

fn comparison(given: &Given, threads: Threads) -> (HeldComparison, usize) {
    let held = read_held(&given.target, &given.mapping, (TODAY, threads), &|_, _| {}).unwrap();
    let job = Job { held: held.as_ref(), told: ToldBeside::Same, threads, ..given.job() };
    let wanted = ComparedWanted { kinds: vec![ComparedKind::Changed, ComparedKind::Same], field: None };
    let compare = |ready: &Ready<'_>| HeldComparison::of(ready, &wanted, &|_, _| {});
    let (ready, compared) = job.work(&|_, _| {}, compare).unwrap();
    let rejected = compared.summary.totals.rejected as usize;
    assert_eq!(ready.plan.fields.iter().count(), given.target.fields.iter().count());
    (compared, rejected)
}

#[test]
fn every_type_is_compared_by_what_its_values_mean() {
    let tried: BTreeSet<&str> = TYPES.iter().map(|values| values.kind).collect();
    assert_eq!(tried, TYPE_WORDS.iter().map(|word| word.word).collect(), "every type is in the table");
    for values in &TYPES {
        let all = || values.forms.iter().enumerate();
        let (mut held, mut export, mut same) = (Vec::new(), Vec::new(), Vec::new());
        for (was, (lists, _)) in all() {
            for (now, (_, exports)) in all() {
                for (list, written) in
                    lists.iter().flat_map(|list| exports.iter().map(move |one| (list, one)))
                {
                    held.push((*list).to_owned());
                    export.push((*written).to_owned());
                    same.push(was == now);
                }
            }
        }
        let desk = held_desk(values, &held, &export);
        let given = desk.given();
        let (compared, rejected) = comparison(&given, Threads::of(2));
        assert_eq!(rejected, 0, "{}: {:?}", values.field, compared.summary.causes);
        let found: BTreeMap<String, ComparedKind> = compared
            .records()
            .unwrap()
            .map(|record| record.unwrap())
            .map(|record| (record.key, record.is))
            .collect();
        for (number, is_same) in same.into_iter().enumerate() {
            let expected = if is_same { ComparedKind::Same } else { ComparedKind::Changed };
            assert_eq!(
                found.get(&format!("r{number}")),
                Some(&expected),
                "{}: held {:?}, exported {:?}",
                values.field,
                held[number],
                export[number]
            );
        }
    }
}

/// A small text that may look like another: case, blanks and zeros differ at times.
fn key() -> impl Strategy<Value = String> {
    "[ab]{0,1}[ ]{0,1}[0]{0,2}[1-3]{1}"
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    /// Every accepted record is one of three and every held one is met or gone, whatever the keys look like and
    /// however many threads work.
    #[test]
    fn every_record_has_its_place(
        held in proptest::collection::vec((key(), "[x-z]{0,2}"), 0..12),
        export in proptest::collection::vec((key(), "[x-z]{0,2}"), 1..12),
    ) {
        let cells = |rows: &[(String, String)]| -> Vec<Vec<String>> {
            rows.iter().map(|(key, text)| vec![key.clone(), text.clone()]).collect()
        };
        let none: [String; 0] = [];
        let values = &TYPES[0];
        let desk = held_desk(values, &none, &none)
            .with_table("held.csv", &["id", "it"], cells(&held))
            .with_table("export.csv", &["Id", "It"], cells(&export));
        let given = desk.given();
        let (one, _) = comparison(&given, Threads::of(1));
        let counts = one.summary.beside.unwrap();
        prop_assert!(counts.add_up(one.summary.records), "{counts:?}");
        prop_assert_eq!(counts.sent, one.summary.records);
        let listed: Vec<_> = one.records().unwrap().map(Result::unwrap).collect();
        prop_assert_eq!(listed.len() as u64, counts.changed + counts.same);
        prop_assert!(counts.gone as usize <= held.len());
        for threads in [2, 7] {
            let (other, _) = comparison(&given, Threads::of(threads));
            prop_assert_eq!(other.summary.beside, Some(counts));
            let again: Vec<_> = other.records().unwrap().map(Result::unwrap).collect();
            prop_assert_eq!(&again, &listed);
        }
    }

    /// However rows of one key are made one record, every row is accounted for once, each key has one record at the
    /// most, and putting together loses no value.
    #[test]
    fn rows_of_one_key_become_one_record(
        rows in proptest::collection::vec((0_u8..4, proptest::option::of(0_u8..3), proptest::option::of(0_u8..2)), 1..14),
        policy in proptest::sample::select(vec!["first", "last", "fullest", "combine"]),
    ) {
        let target = "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n[[field]]\nname = \"id\"\ntype = \"text\"\nkey = true\n[[field]]\nname = \"a\"\ntype = \"text\"\n[[field]]\nname = \"b\"\ntype = \"text\"\n";
        let mapping = format!("target = \"target.toml\"\n[rows]\nsame_key = \"{policy}\"\n[[map]]\nfield = \"id\"\nfrom = \"Id\"\n[[map]]\nfield = \"a\"\nfrom = \"A\"\n[[map]]\nfield = \"b\"\nfrom = \"B\"\n");
        let text = |value: Option<u8>| value.map_or(String::new(), |value| format!("v{value}"));
        let cells: Vec<[String; 3]> =
            rows.iter().map(|(key, a, b)| [format!("K{key}"), text(*a), text(*b)]).collect();
        let desk = Desk::new()
            .with("target.toml", target)
            .with("mapping.toml", &mapping)
            .with_table("export.csv", &["Id", "A", "B"], &cells);
        let made = desk.conform();
        prop_assert!(made.summary.totals.add_up());
        let mut expected: BTreeMap<&str, Vec<&[String; 3]>> = BTreeMap::new();
        cells.iter().for_each(|row| expected.entry(&row[0]).or_default().push(row));
        let sent: BTreeMap<String, [String; 2]> = desk
            .records("batch/upload/up.csv")
            .iter()
            .map(|row| (row[0].to_owned(), [row[1].to_owned(), row[2].to_owned()]))
            .collect();
        let (mut merged, mut rejected) = (0, 0);
        for (key, group) in expected {
            let filled = |row: &&&[String; 3]| row.iter().filter(|cell| !cell.is_empty()).count();
            let most = group.iter().map(|row| filled(&row)).max();
            let said = |column: usize| -> BTreeSet<&str> {
                group.iter().map(|row| row[column].as_str()).filter(|cell| !cell.is_empty()).collect()
            };
            let record = match policy {
                "first" => Some([group[0][1].clone(), group[0][2].clone()]),
                "last" => group.last().map(|row| [row[1].clone(), row[2].clone()]),
                "fullest" => {
                    group.iter().find(|row| Some(filled(row)) == most).map(|row| [row[1].clone(), row[2].clone()])
                }
                _ if said(1).len() > 1 || said(2).len() > 1 => None,
                _ => Some([1, 2].map(|column| said(column).into_iter().next().unwrap_or("").to_owned())),
            };
            match record {
                Some(_) => merged += group.len() as u64 - 1,
                None => rejected += group.len() as u64,
            }
            prop_assert_eq!(sent.get(key), record.as_ref(), "{} of {:?}", key, &cells);
        }
        prop_assert_eq!((made.summary.totals.merged, made.summary.totals.rejected), (merged, rejected));
    }
}

/// The description is read with its `[holds]`, whose files have to be there.
#[test]
fn a_list_that_is_not_there_is_said() {
    let none: [String; 0] = [];
    let desk = held_desk(&TYPES[0], &none, &none);
    std::fs::remove_file(desk.path("held.csv")).unwrap();
    let wrong = Target::read(&desk.path("target.toml")).err().unwrap().to_string();
    assert!(wrong.contains("[holds]") && wrong.contains("held.csv is not there"), "{wrong}");
}
