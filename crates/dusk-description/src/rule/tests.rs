use jiff::civil::date;
use proptest::prelude::*;

use super::*;
use dusk_evidence::Id as _;
use dusk_values::Decimal;

/// The fields of the tests, with the value and the text of each in the record.
const FIELDS: [(&str, ValueType, Value, &str); 8] = [
    ("brood", ValueType::Number, Value::Number(Decimal::ZERO), "0"),
    ("frames", ValueType::Number, Value::Blank, ""),
    ("visit", ValueType::Date, Value::Date(date(2026, 3, 4)), "2026-03-04"),
    ("colour", ValueType::Text, Value::Text, "W"),
    ("marked", ValueType::Boolean, Value::Boolean(true), "1"),
    ("entered", ValueType::DateTime, Value::DateTime(date(2026, 3, 5).at(9, 30, 0, 0)), ""),
    ("blank", ValueType::Number, Value::Blank, ""),
    ("year", ValueType::Number, Value::Blank, ""),
];

fn field(name: &str) -> Option<(FieldId, ValueType)> {
    let place = FIELDS.iter().position(|(known, ..)| *known == name)?;
    FIELDS.get(place).map(|(_, kind, ..)| (FieldId::new(place), *kind))
}

fn rule(must: &str) -> Result<Rule, RuleError> {
    Rule::parse(RuleText::must(must), &field)
}

fn value(brood: i64, frames: i64) -> impl Fn(FieldId) -> (Value, &'static str) {
    move |field| match (field.index(), FIELDS.get(field.index())) {
        (0, _) => (Value::Number(Decimal::whole(brood)), ""),
        (1, _) => (Value::Number(Decimal::whole(frames)), ""),
        (_, Some((_, _, value, text))) => (*value, text),
        _ => (Value::Blank, ""),
    }
}

fn holds(must: &str, brood: i64) -> Option<bool> {
    rule(must).unwrap_or_else(|error| panic!("{error:?}")).holds(date(2026, 4, 1), &value(brood, 10))
}

#[test]
fn rules_read_like_sentences() {
    for (must, answer) in [
        ("brood <= frames", Some(true)),
        ("brood * 2 + 1 <= frames", Some(false)),
        ("(brood + 1) * 2 = 12 and not brood > 5", Some(true)),
        ("brood - -1 = 6", Some(true)),
        ("brood between 5 and 6 and frames between brood and 10", Some(true)),
        ("colour in (\"Y\", \"W\")", Some(true)),
        ("colour not in (\"Y\", \"W\")", Some(false)),
        ("colour matches \"[A-Z]\" and colour does not match \"[X-Z]\"", Some(true)),
        ("colour is \"W\" and colour is not \"Y\"", Some(true)),
        ("marked and not (marked = false)", Some(true)),
        ("year of visit = 2026 and month of visit = 3 and weekday of visit = 3", Some(true)),
        ("days between visit and date of entered = 1", Some(true)),
        ("visit + 1 = date of entered and date of entered - visit = 1", Some(true)),
        ("time of entered >= 09:30 and visit < today", Some(true)),
        ("length of colour = 1", Some(true)),
        ("{year} is blank and {year} is not blank", Some(false)),
        ("blank is blank", Some(true)),
        ("{blank} is blank", Some(true)),
        ("{blank} + 1 > 0", None),
        ("{blank} > 0 or brood = 5", Some(true)),
        ("not {blank} > 0", None),
        ("{blank} in (1, 2)", None),
        ("brood in (1, {blank})", None),
        ("brood in (5, {blank})", Some(true)),
        ("99999999999999999999999999 * 99999999999999999999999999 > 1", None),
    ] {
        assert_eq!(holds(must, 5), answer, "{must}");
    }
    let conditional = RuleText { when: Some("colour = \"W\"".into()), ..RuleText::must("brood > 9") };
    assert_eq!(Rule::parse(conditional, &field).unwrap().holds(date(2026, 4, 1), &value(5, 1)), Some(false));
    let other = RuleText { when: Some("colour = \"X\"".into()), ..RuleText::must("brood > 9") };
    assert_eq!(Rule::parse(other, &field).unwrap().holds(date(2026, 4, 1), &value(5, 1)), None);
}

#[test]
fn what_cannot_be_read_points_at_the_word() {
    for (must, says, pointed) in [
        ("broood <= frames", "no field \"broood\"", "broood"),
        ("brood <= colour", "cannot be compared", "brood <= colour"),
        ("brood <=", "ends", " "),
        ("brood ~ 3", "means nothing", "~"),
        ("(brood < 3", "bracket", " "),
        ("brood < 3 frames", "comes after the end of the rule", "frames"),
        ("brood / 2 > 3", "means nothing", "/"),
        ("length of brood > 1", "part of a text", "brood"),
        ("colour matches \"(\"", "cannot be read", "\"(\""),
        ("sum of colour > 3", "no sum", "colour"),
        ("sum of brood * colour > 3", "no sum", "colour"),
        ("sum of brood > frames", "differs from record to record", "sum of brood > frames"),
        ("brood in (1, \"a\")", "cannot be compared", "brood in (1, \"a\""),
    ] {
        let error = rule(must).unwrap_err();
        assert!(error.says.contains(says), "{must}: {error:?}");
        let marks = error.pointed().lines().last().unwrap_or_default().matches('^').count();
        assert_eq!(marks, pointed.chars().count(), "{must}: {error:?}");
    }
}

#[test]
fn rules_over_records_are_reckoned_for_each_group() {
    let text = RuleText {
        for_each: vec!["colour".into()],
        when: Some("brood >= 0".into()),
        ..RuleText::must(
            "number of records <= 2 and sum of brood <= 9 and number of different frames = 1 and largest brood - smallest brood < 5",
        )
    };
    let rule = Rule::parse(text, &field).unwrap();
    let broken = |broods: &[i64]| {
        let mut tally = rule.tally();
        for brood in broods {
            tally
                .take(&rule.share(date(2026, 4, 1), &value(*brood, 10)).unwrap_or_else(|| panic!("{brood}")));
        }
        rule.broken(&tally, date(2026, 4, 1), &|field| FIELDS[field.index()].0.to_owned())
    };
    assert_eq!(broken(&[4, 5]), []);
    assert_eq!(broken(&[0, 5]).len(), 1, "5 is not below 5");
    let found = broken(&[1, 2, 3]);
    assert_eq!(found[0].group, ["colour W"]);
    assert!(found[0].reckoned.contains(&"number of records 3".to_owned()), "{found:?}");
    assert_eq!(rule.share(date(2026, 4, 1), &value(-1, 10)), None);
}

/// A rule made at random, and what it comes to by a reckoning of its own: true, false, or nothing.
fn any_rule() -> impl Strategy<Value = (String, Option<bool>)> {
    let term = prop_oneof![
        (0_i64..20).prop_map(|number| (number.to_string(), Some(number))),
        Just(("brood".to_owned(), Some(5))),
        Just(("{frames}".to_owned(), Some(10))),
        Just(("{blank}".to_owned(), None)),
    ];
    let sum = term.prop_recursive(3, 12, 2, |inner| {
        (inner.clone(), 0..3_usize, inner).prop_map(|((left, a), sign, (right, b))| {
            let reckoned = a.zip(b).map(|(a, b)| [a + b, a - b, a * b][sign]);
            (format!("({left} {} {right})", ["+", "-", "*"][sign]), reckoned)
        })
    });
    let single = (sum.clone(), 0..6_usize, sum).prop_map(|((left, a), sign, (right, b))| {
        let answer = a.zip(b).map(|(a, b)| [a == b, a != b, a < b, a <= b, a > b, a >= b][sign]);
        (format!("{left} {} {right}", ["=", "!=", "<", "<=", ">", ">="][sign]), answer)
    });
    single.prop_recursive(4, 24, 2, |inner| {
        (inner.clone(), 0..3, inner).prop_map(|((left, a), join, (right, b))| match join {
            0 => (
                format!("({left}) and ({right})"),
                if a == Some(false) || b == Some(false) { Some(false) } else { a.zip(b).map(|_| true) },
            ),
            1 => (
                format!("({left}) or ({right})"),
                if a == Some(true) || b == Some(true) { Some(true) } else { a.zip(b).map(|_| false) },
            ),
            _ => (format!("not ({left})"), a.map(|a| !a)),
        })
    })
}

/// A record of the tests: its brood, and its colour.
type Brood = (Option<i64>, &'static str);

/// What is reckoned over many records, in words, and by a plain reckoning.
fn over_all(which: usize, records: &[Brood]) -> (&'static str, Option<i64>) {
    let known: Vec<i64> = records.iter().filter_map(|(brood, _)| *brood).collect();
    match which {
        0 => ("number of records", Some(records.len() as i64)),
        1 => ("sum of brood", Some(known.iter().sum())),
        2 => ("smallest brood", known.iter().min().copied()),
        3 => ("largest brood", known.iter().max().copied()),
        4 => ("sum of brood * brood", Some(known.iter().map(|brood| brood * brood).sum())),
        _ => {
            let different: std::collections::BTreeSet<i64> = known.into_iter().collect();
            ("number of different brood", Some(different.len() as i64))
        }
    }
}

proptest! {
    /// Rules over many records, per group or not, come to what a plain reckoning comes to.
    #[test]
    fn rules_over_records_mean_what_a_plain_reckoning_means(
        records in prop::collection::vec((prop::option::of(-3_i64..4), prop::sample::select(vec!["W", "Y"])), 0..8),
        (left, right, sign) in (0..6_usize, 0..6_usize, 0..6_usize),
        (per_colour, only_known) in any::<(bool, bool)>(),
        limit in -5_i64..9,
    ) {
        let must = |records: &[Brood]| {
            let ((left, a), (right, b)) = (over_all(left, records), over_all(right, records));
            let holds = a.zip(b).map(|(a, b)| {
                let b = b + limit;
                [a == b, a != b, a < b, a <= b, a > b, a >= b][sign]
            });
            (format!("{left} {} {right} + {limit}", ["=", "!=", "<", "<=", ">", ">="][sign]), holds)
        };
        let text = RuleText {
            for_each: if per_colour { vec!["colour".into()] } else { Vec::new() },
            when: only_known.then(|| "brood is not blank".into()),
            ..RuleText::must(must(&[]).0)
        };
        let read = Rule::parse(text, &field).map_err(|error| TestCaseError::fail(format!("{error:?}")))?;
        let mut tally = read.tally();
        for (brood, colour) in &records {
            let one = |field: FieldId| match field.index() {
                0 => brood.map_or((Value::Blank, ""), |brood| {
                    let text = ["-3", "-2", "-1", "0", "1", "2", "3"][(brood + 3) as usize];
                    (Value::Number(Decimal::whole(brood)), text)
                }),
                3 => (Value::Text, *colour),
                _ => (Value::Blank, ""),
            };
            if let Some(share) = read.share(date(2026, 4, 1), &one) {
                tally.take(&share);
            }
        }
        let counted = records.iter().filter(|(brood, _)| !only_known || brood.is_some()).copied();
        let mut groups: Vec<(&str, Vec<Brood>)> = if per_colour { Vec::new() } else { vec![("", Vec::new())] };
        for record in counted {
            let name = if per_colour { record.1 } else { "" };
            match groups.iter_mut().find(|(known, _)| *known == name) {
                Some((_, group)) => group.push(record),
                None => groups.push((name, vec![record])),
            }
        }
        let expected: Vec<String> = groups
            .iter()
            .filter(|(_, group)| must(group).1 == Some(false))
            .map(|(name, _)| if per_colour { format!("colour {name}") } else { String::new() })
            .collect();
        let found = read.broken(&tally, date(2026, 4, 1), &|field| FIELDS[field.index()].0.to_owned());
        let found: Vec<String> = found.into_iter().map(|broken| broken.group.join(", ")).collect();
        prop_assert_eq!(found, expected, "{} over {:?}", read, records);
    }

    #[test]
    fn what_is_written_reads_back_and_means_what_a_plain_reckoning_means((must, answer) in any_rule()) {
        let read = rule(&must).map_err(|error| TestCaseError::fail(format!("{must}: {error:?}")))?;
        prop_assert_eq!(read.holds(date(2026, 4, 1), &value(5, 10)), answer, "{}", must);
        let again = rule(&read.to_string()).map_err(|error| TestCaseError::fail(format!("{read}: {error:?}")))?;
        prop_assert_eq!(&again.must, &read.must, "{} as {}", must, read);
    }

    #[test]
    fn no_text_panics(must in "([a-z]{1,6}|[0-9.:-]{1,10}|is|not|in|of|and|between|days|[()<>=!\"{}+*/,]| ){0,24}") {
        if let Ok(read) = rule(&must) {
            prop_assert_eq!(rule(&read.to_string()).map(|again| again.must), Ok(read.must), "{}", must);
        }
    }
}
