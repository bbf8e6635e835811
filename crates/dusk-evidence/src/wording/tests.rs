//! Every kind of finding has a fact, and every fact has words.

use std::collections::BTreeSet;

use dusk_values::{DateOrder, Decimal, Unit, ValueType};
use jiff::civil::date;

use crate::{
    Before, Choices, CodeFact, CodeWords, DateFact, DateWanted, EarlierRecord, Fact, Fate, HeadedValue,
    HeldAt, Kind, Missing, NamedCode, NotThere, NumberFact, NumberMarks, RecordFact, RowFact, Severity,
    TextFact, UploadFact, WhyOpen,
};

/// At least one fact of every kind.
pub(crate) fn one_of_each() -> Vec<Fact> {
    let list = || "queen-colour".to_owned();
    let code = || NamedCode { code: "Y".into(), label: "Yellow".into() };
    let choices = || Choices { first: vec![code()], more: 3 };
    let headed = || vec![HeadedValue { heading: "Town".into(), value: "Vik, Fen".into() }];
    let (number, kg) = (Decimal::parse("90").unwrap(), Unit::find("kg"));
    let (day, zone) = (date(2026, 5, 9), || "Europe/Oslo".to_owned());
    let rule = |severity| RecordFact::RuleBroken { severity, says: "too much".into(), must: "a < b".into() };
    let over_all = |severity| RecordFact::BatchRuleBroken {
        severity,
        says: "too much".into(),
        must: "sum(a) < 9".into(),
        reckoned: vec!["sum of a 10".into()],
    };
    let not_a_code = || {
        Box::new(Fact::from(CodeFact::NotACode {
            list: list(),
            words: CodeWords::Either,
            nearest: Some(code()),
            choices: choices(),
            foreign: None,
        }))
    };
    let unmatched = |fate| Fact::Unmatched { fate, fact: not_a_code() };
    let mut facts: Vec<Fact> = vec![
        Fact::Part { part: "x".into(), column: None, fact: not_a_code() },
        unmatched(Fate::LeftBlank),
        unmatched(Fate::Kept),
        unmatched(Fate::NewTerm),
    ];
    facts.extend(
        [
            RowFact::Width { cells: 3, header: 4 },
            RowFact::Width { cells: 5, header: 4 },
            RowFact::SeveralWays { cells: 5, header: 4, ways: 2, first: vec![headed()] },
            RowFact::Rejoined { cells: 5, values: headed() },
            RowFact::Misquoted,
            RowFact::UnclosedQuote,
            RowFact::DamagedRecord { why: "it has no end".into() },
            RowFact::RowsInCell,
            RowFact::RepeatsHeader,
            RowFact::ClosingLine { word: "Total".into() },
            RowFact::NothingRepeated,
            RowFact::KeptOut { decided: "crosswalk".into() },
            RowFact::OutsideRows { first: 2, last: None },
            RowFact::KeepOpen { rule: "a is blank".into() },
            RowFact::Hidden { first: 4, count: 1 },
            RowFact::Merged { first: "B2:B5".into(), count: 2 },
            RowFact::ColumnNotMapped { mapping: "mapping.toml".into() },
            RowFact::FieldNotFed,
        ]
        .map(Fact::from),
    );
    facts.extend(
        [
            TextFact::RequiredBlank,
            TextFact::AboveUnknown,
            TextFact::ErrorCell,
            TextFact::TurnedIntoDate(Before::Text),
            TextFact::DigitsLost { digits: 17, kept: 15 },
            TextFact::DigitsMayBeLost,
            TextFact::PowerOfTen { if_zero: None },
            TextFact::PowerOfTen { if_zero: Some("3107299480".into()) },
            TextFact::WrongDigits { digits: Some(7), wanted: 6 },
            TextFact::LostCharacter,
            TextFact::ControlCharacter('\u{7}'),
            TextFact::QuestionMark,
            TextFact::DecodedWrongly,
            TextFact::MixedAlphabets('с'),
            TextFact::TooLong { length: 9, most: 8 },
            TextFact::WrongPattern { pattern: "[A-Z]+".into() },
            TextFact::NoPlaceLeft { places: 2, left: "x".into() },
            TextFact::NotInForm { form: "{a} {b}".into() },
            TextFact::NotLookedUp {
                file: "places.csv".into(),
                by: vec!["No".into()],
                values: 3,
                near: Some("118".into()),
            },
            TextFact::LookUpUnclear { file: "places.csv".into(), rows: [2, 5] },
        ]
        .map(Fact::from),
    );
    facts.extend(
        [
            NumberFact::NotANumber(NumberMarks::Proven(',')),
            NumberFact::TooLong,
            NumberFact::CommaUndecided { with_comma: "1.204".into() },
            NumberFact::NeedsRounding { decimals: 1, unit: kg },
            NumberFact::UnitDiffers { cell: kg.unwrap(), column: Unit::find("lb").unwrap() },
            NumberFact::UnitUndecided,
            NumberFact::BelowMinimum { number, least: number, unit: kg },
            NumberFact::AboveMaximum { number, most: number, unit: None },
        ]
        .map(Fact::from),
    );
    facts.extend(
        [
            DateFact::NotADate(DateWanted::Certain(ValueType::Date)),
            DateFact::NotADate(DateWanted::Whole(Missing::Day)),
            DateFact::Undecided(WhyOpen::NoOrder),
            DateFact::OrderNotProven {
                order: DateOrder::DayMonthYear,
                read_as: vec![("3/4/2026".into(), day)],
                last: None,
            },
            DateFact::DayCount,
            DateFact::Impossible(NotThere::Time),
            DateFact::CenturyUndecided,
            DateFact::CenturyDoubtful { from: 1950, decades: vec![1950, 2020] },
            DateFact::TimeOfDay,
            DateFact::OffsetUnclear(ValueType::Date),
            DateFact::ShownTwice { zone: zone() },
            DateFact::TooEarly { day: Some(day), first: day },
            DateFact::TooLate { day: None, last: day },
        ]
        .map(Fact::from),
    );
    facts.extend(
        [
            CodeFact::Undecided { list: list(), codes: vec![code(), code()] },
            CodeFact::Retired { code: code(), until: day, successor: Some(code()) },
            CodeFact::OutsideParent {
                list: list(),
                parent: "1".into(),
                belongs_to: Vec::new(),
                choices: choices(),
            },
            CodeFact::WithoutParent { field: "region".into() },
            CodeFact::TooMany { codes: 4, columns: 3 },
            CodeFact::NotABoolean { known: vec!["yes/no".into()] },
            CodeFact::UnknownReference { file: "held.csv".into(), column: "hive".into(), values: 9 },
            CodeFact::LeavesBlank { by: "A. Clerk".into(), on: String::new() },
            CodeFact::TermAllowed { term: "Fen".into(), by: String::new(), on: "2026-04-30".into() },
            CodeFact::FileMissing { folder: "photos".into() },
            CodeFact::FileEnding { ending: "gif".into(), taken: vec!["jpg".into()] },
            CodeFact::FileTooLarge { bytes: 9, most: 8 },
            CodeFact::FileNotNamed { folder: "photos".into() },
        ]
        .map(Fact::from),
    );
    facts.extend(
        [
            RecordFact::SetOnce { holds: "W".into() },
            RecordFact::HeldUnwritable { why: "holds a line break".into() },
            RecordFact::KeyWritten { holds: "A007".into() },
            RecordFact::HeldTwice { first: held(), count: 2 },
            RecordFact::HeldAlready { at: held() },
            RecordFact::FoundTwice { earlier: EarlierRecord::Row(4) },
            RecordFact::UnknownIdentifier,
            RecordFact::IdentifierOfAnother { at: held(), has: "12".into() },
            RecordFact::ValueTaken { at: held() },
            RecordFact::ValueTwice { earlier: EarlierRecord::RowOf(4, "b.csv".into()) },
            RecordFact::TableRefuses { table: "the table t of r.db".into(), says: "no".into() },
            RecordFact::TargetRefused { batch: "2026-04-30-a".into(), says: "site closed".into() },
            RecordFact::SentUnderOtherKey { batch: "2026-04-30-a".into(), key: "12".into() },
            RecordFact::MergedInto { other: EarlierRecord::Row(4) },
            RecordFact::Contradicted { other: "x".into(), earlier: EarlierRecord::Row(4) },
            RecordFact::DuplicateKey { earlier: EarlierRecord::Row(4) },
            RecordFact::KeyWithOtherFacts { earlier: EarlierRecord::SameRow },
            rule(Severity::Reject),
            rule(Severity::Warn),
            over_all(Severity::Reject),
            over_all(Severity::Warn),
        ]
        .map(Fact::from),
    );
    let no_letter = UploadFact::NoSuchCharacter { letter: '蜂', encoding: "windows-1252".into() };
    facts.extend(
        [no_letter, UploadFact::LineBreak, UploadFact::TooWide { characters: 9, width: 4 }].map(Fact::from),
    );
    facts
}

fn held() -> HeldAt {
    HeldAt { row: 9, list: "held.csv".into() }
}

#[test]
fn every_kind_of_finding_has_a_fact_and_every_fact_has_words() {
    let facts = one_of_each();
    let kinds: BTreeSet<Kind> = facts.iter().map(Fact::kind).collect();
    let without: Vec<&Kind> = Kind::ALL.iter().filter(|kind| !kinds.contains(kind)).collect();
    assert!(without.is_empty(), "no fact is of the kinds {without:?}");
    for fact in &facts {
        let (wrong, right) = (fact.wrong(), fact.right());
        assert!(wrong.starts_with(|c: char| c.is_ascii_lowercase()), "{fact:?}: {wrong:?}");
        assert!(!wrong.ends_with(['.', ' ']) && !right.ends_with(['.', ' ']), "{fact:?}: {wrong} {right}");
        let nothing_to_do =
            matches!(fact.kind().severity(), Severity::Note) && fact.kind() != Kind::FieldNotFed;
        assert_eq!(right.is_empty(), nothing_to_do, "{fact:?}: {right:?}");
    }
}
