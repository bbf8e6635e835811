//! Held records: what is taken in is found again and read back, whatever it is.

use std::collections::BTreeMap;

use dusk_description::{FieldType, Target};
use dusk_evidence::{FieldId, Row};
use proptest::prelude::*;

use crate::{
    Facts, Found, HeldBlock, HeldBuilder, HeldRecords, HeldShape, HeldSource, KeyRoom, WayFields,
    means_the_same,
};

const FIELDS: &str = r#"
[target]
name = "T"
[[field]]
name = "id"
type = "text"
[[field]]
name = "n"
type = "decimal"
decimals = 3
[[field]]
name = "c"
type = "codes"
codes = "c.csv"
separator = ";"
[[field]]
name = "plate"
type = "text"
unique = true
"#;

fn target() -> (tempfile::TempDir, Target) {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("target.toml"), FIELDS).unwrap();
    std::fs::write(folder.path().join("c.csv"), "code,label\nA,a\nB,b\nC,c\n").unwrap();
    let target = Target::read(&folder.path().join("target.toml")).unwrap();
    (folder, target)
}

fn held(target: &Target, rows: &[[String; 4]], blocks: usize) -> HeldRecords {
    let ids: Vec<FieldId> = target.fields.ids().collect();
    let way = WayFields { fields: vec![ids[0]], given_by_target: false };
    let shape = HeldShape::new(target, ids.clone(), ids[1..].to_vec(), vec![way]);
    let mut builder = HeldBuilder::new(shape.clone()).unwrap();
    let size = rows.len().div_ceil(blocks.max(1)).max(1);
    for (number, part) in rows.chunks(size).enumerate() {
        let mut block = HeldBlock::default();
        for (place, row) in part.iter().enumerate() {
            let end = |to: usize| row[..=to].iter().map(String::len).sum();
            let ends: Vec<usize> = (0..row.len()).map(end).collect();
            block.add(&shape, (number % 2, Row((number * size + place) as u64)), &row.concat(), &ends);
        }
        assert_eq!((block.len(), block.is_empty()), (part.len(), part.is_empty()));
        builder.take(&block).unwrap();
    }
    let list = |name: &str| HeldSource {
        name: name.into(),
        records: 0,
        blake3: None,
        changed_on: None,
        lacks: Vec::new(),
    };
    builder.finish(vec![list("a"), list("b")]).unwrap()
}

fn kind(target: &Target, name: &str) -> FieldType {
    let (_folder, again) = self::target();
    assert!(target.field(name).is_some());
    let place = again.field(name).unwrap();
    again.fields.into_iter().nth(dusk_evidence::Id::index(place)).unwrap().kind
}

#[test]
fn numbers_and_lists_of_codes_say_the_same_in_any_form() {
    let (_folder, target) = target();
    let number = kind(&target, "n");
    for (one, other, same) in [
        ("3", "3.0", true),
        ("3.10", "3.1", true),
        ("-0", "0", true),
        ("-0.50", "-0.5", true),
        ("0.5", "0.50", true),
        ("10", "1", false),
        ("100", "10.0", false),
        ("3.01", "3.1", false),
        ("-3", "3", false),
        ("about 3", "3", false),
    ] {
        assert_eq!(means_the_same(&number, one, other), same, "{one} and {other}");
    }
    let codes = kind(&target, "c");
    for (one, other, same) in [
        ("A;B", "B;A", true),
        ("A; B", "B;A;A", true),
        ("A", "A;B", false),
        ("", "A", false),
        (";", "", true),
    ] {
        assert_eq!(means_the_same(&codes, one, other), same, "{one} and {other}");
    }
}

#[test]
fn a_key_is_found_whatever_its_case_blanks_and_zeros() {
    let (_folder, target) = target();
    let way = WayFields { fields: vec![target.field("id").unwrap()], given_by_target: false };
    let mut room = KeyRoom::default();
    let mut key = |text: &str| way.key(&target, &mut room, |_| Some(text));
    let same = |one: Option<(crate::KeyHash, u32)>, other: Option<(crate::KeyHash, u32)>| {
        one.map(|(key, _)| key) == other.map(|(key, _)| key)
    };
    for (one, other, is_same) in [
        ("A 7", "a7", true),
        ("007", "7", true),
        ("000", "0", true),
        ("Öst 1", "öst1", true),
        ("A07", "A7", false),
        ("7", "70", false),
        ("a\u{200d}b", "AB", true),
    ] {
        let (first, second) = (key(one), key(other));
        assert_eq!(same(first, second), is_same, "{one} and {other}");
        // How it is written is told all the same.
        assert_eq!(first.map(|(_, written)| written) == second.map(|(_, written)| written), one == other);
    }
    assert!(key("").is_none());
    assert!(way.key(&target, &mut KeyRoom::default(), |_| None).is_none());
}

#[test]
fn fields_do_not_run_into_one_another() {
    let (_folder, target) = target();
    let text = kind(&target, "id");
    let hash = |texts: &[&str]| {
        let mut facts = Facts::default();
        texts.iter().for_each(|one| facts.add(&text, one));
        facts.hash()
    };
    assert_ne!(hash(&["ab", "c"]), hash(&["a", "bc"]));
    assert_ne!(hash(&["", "a"]), hash(&["a", ""]));
    assert_eq!(hash(&["a\r\nb"]), hash(&["a\nb"]));
}

fn cell() -> impl Strategy<Value = String> {
    prop_oneof![Just(String::new()), "[a-b0 ]{0,3}", "\\PC{0,6}"]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    /// Every record reads back as it was, is found by its key, and records that share one are all named.
    #[test]
    fn what_is_taken_in_reads_back_and_is_found(
        rows in proptest::collection::vec([cell(), cell(), cell(), cell()], 0..40),
        blocks in 1_usize..5,
    ) {
        let (_folder, target) = target();
        let records = held(&target, &rows, blocks);
        prop_assert_eq!(records.len() as usize, rows.len());
        prop_assert_eq!(records.is_empty(), rows.is_empty());
        let mut reader = records.reader().unwrap();
        let way = &records.ways[0];
        let mut room = KeyRoom::default();
        let mut by_key: BTreeMap<String, Vec<u32>> = BTreeMap::new();
        // From the last to the first, as nobody reads them.
        for (number, row) in (0_u32..).zip(&rows).collect::<Vec<_>>().into_iter().rev() {
            let record = reader.read(number).unwrap();
            prop_assert_eq!(&record.texts, row);
            prop_assert_eq!(record.row, Row(u64::from(number)));
            prop_assert_eq!(record.text(&records, records.fields[3]), Some(row[3].as_str()));
            if let Some((key, written)) = way.by.key(&target, &mut room, |_| Some(row[0].as_str())) {
                prop_assert!(way.is_written_so(number, written));
                by_key.entry(format!("{key:?}")).or_default().push(number);
                match way.find(key) {
                    Found::None => prop_assert!(false, "{number} is not found"),
                    Found::One(found) => prop_assert_eq!(found, number),
                    Found::Several(first, others) => {
                        prop_assert!(first == number || others.contains(&number));
                    }
                }
            }
        }
        for numbers in by_key.values().filter(|numbers| numbers.len() > 1) {
            let row = &rows[numbers[0] as usize];
            let (key, _) = way.by.key(&target, &mut room, |_| Some(row[0].as_str())).unwrap();
            let Found::Several(first, others) = way.find(key) else { panic!("{numbers:?}") };
            let mut all: Vec<u32> = std::iter::once(first).chain(others.iter().copied()).collect();
            all.sort_unstable();
            prop_assert_eq!(all, numbers.iter().rev().copied().collect::<Vec<_>>());
        }
        prop_assert!(reader.read(records.len()).is_err());
    }

    /// Two records have one hash of their facts exactly where every compared field says the same.
    #[test]
    fn facts_are_the_same_where_every_field_is(
        rows in proptest::collection::vec(["[ab]{1}", "[0-1]{1,2}[.]{0,1}", "(A|B|A;B|B;A)", "[xy]{0,1}"], 2..12),
    ) {
        let (_folder, target) = target();
        let rows: Vec<[String; 4]> = rows
            .into_iter()
            .map(|[id, number, codes, plate]| {
                let number = if number.ends_with('.') { format!("{number}0") } else { number };
                [id, number, codes, plate]
            })
            .collect();
        let records = held(&target, &rows, 1);
        let kinds: Vec<FieldType> = ["id", "n", "c", "plate"].iter().map(|name| kind(&target, name)).collect();
        for (one, first) in (0..).zip(&rows) {
            for (other, second) in (0..).zip(&rows) {
                let same = (1..4).all(|field| means_the_same(&kinds[field], &first[field], &second[field]));
                prop_assert_eq!(records.facts(one) == records.facts(other), same, "{:?} {:?}", first, second);
            }
        }
        // A value that may come once is found by its own.
        let plate = records.fields[3];
        for row in rows.iter().filter(|row| !row[3].is_empty()) {
            prop_assert_ne!(records.with_unique(plate, &kinds[3], &row[3]), Found::None);
        }
        prop_assert_eq!(records.with_unique(plate, &kinds[3], "z"), Found::None);
    }
}
