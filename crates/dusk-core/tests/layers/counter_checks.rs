//! What speaks against a column that is called after a field: each makes the pair a question, and says why.

use dusk_core::description::Target;
use dusk_core::drafting::stated_limits;
use dusk_core::proposing::{Proposals, Proposing, Sureness, propose};
use dusk_core::sources::{Known, Source, SourceSettings, Threads};

/// So many rows are written, whatever the values.
const ROWS: usize = 40;

/// A target of some fields, each by its keys, and a source of some columns, each with values that come in turn.
fn proposed(fields: &[&str], columns: &[(&str, &[&str])]) -> (Proposals, Target, Source) {
    let folder = tempfile::tempdir().unwrap();
    let described: String = fields.iter().map(|field| format!("[[field]]\n{field}\n")).collect();
    std::fs::write(folder.path().join("list.csv"), "code,label\nRD,Red\nGN,Green\nBL,Blue\nYE,Yellow\n")
        .unwrap();
    std::fs::write(folder.path().join("target.toml"), format!("[target]\nname = \"T\"\n{described}"))
        .unwrap();
    let target = Target::read(&folder.path().join("target.toml")).unwrap();
    let mut writer = csv::Writer::from_path(folder.path().join("export.csv")).unwrap();
    writer.write_record(columns.iter().map(|(heading, _)| *heading)).unwrap();
    for row in 0..ROWS {
        writer.write_record(columns.iter().map(|(_, values)| values[row % values.len()])).unwrap();
    }
    drop(writer);
    let export = folder.path().join("export.csv");
    let source = Source::look(&export, &SourceSettings::default(), &Known::default()).unwrap();
    let proposing = Proposing::new("2026-11-01".parse().unwrap(), Threads::default(), stated_limits);
    let proposals = propose(&source, &target, &proposing, &|_, _| {}).unwrap();
    (proposals, target, source)
}

/// A field's keys, the columns, and what is said.
type Case<'c> = (String, &'c [(&'c str, &'c [&'c str])], &'c str);

const TEXT: &str = "type = \"text\"";
const PEOPLE: &[&str] = &["Ida Penn", "Jon Ashe", "Ida Moss", "Una Penn", "Jon Moss", "Ola Ashe"];
const PLACES: &[&str] = &["North mole", "quay 7", "old dock by the church", "slip", "the new pier"];

#[test]
fn each_thing_that_speaks_against_a_name_makes_it_a_question() {
    let number = "type = \"decimal\"\ndecimals = 2";
    let cases: &[Case<'_>] = &[
        (format!("name = \"rate\"\n{number}"), &[("Rate", &["5.00"])], "every filled row"),
        (format!("name = \"weight\"\n{number}"), &[("Weight", &["7 kg", "8 kg"])], "name a unit"),
        (
            format!("name = \"loss\"\n{number}\nunit = \"%\""),
            &[("Loss", &["3", "9", "14", "5", "8", "11", "2", "7", "12", "16", "4", "19"])],
            "percent",
        ),
        (format!("name = \"loss\"\n{number}\nunit = \"%\""), &[("Loss", &["0.5", "0.25", "0.1"])], "percent"),
        (
            format!("name = \"fee\"\n{number}\ndescription = \"In EUR.\""),
            &[("Fee", &["3.10", "9.25", "4.70"]), ("Currency", &["USD"])],
            "says USD, and the target wants",
        ),
        (
            format!("name = \"depth\"\n{number}\nunit = \"m\""),
            &[("Depth", &["3.1", "9.2", "4.7"])],
            "which unit",
        ),
        (format!("name = \"amount\"\n{number}"), &[("Amount", &["1", "2", "3"])], "a few whole numbers"),
        (
            "name = \"level\"\ntype = \"integer\"\ndescription = \"1 to 9\"".into(),
            &[("Level", &["700", "812", "955"])],
            "outside the limits",
        ),
        ("name = \"insured\"\ntype = \"boolean\"".into(), &[("Not insured", &["Y", "N"])], "the opposite"),
        (format!("name = \"team\"\n{TEXT}\nmax_length = 40"), &[("Team", PEOPLE)], "people's names"),
        (
            format!("name = \"driver\"\n{TEXT}\nmax_length = 40"),
            &[("Driver", PLACES), ("Note", PEOPLE)],
            "looks more like people's names",
        ),
        (format!("name = \"mail\"\n{TEXT}"), &[("Mail", PLACES)], "not mail addresses"),
        (
            format!("name = \"plot\"\n{TEXT}\ndescription = \"A letter and two digits.\""),
            &[("Plot", &["1234", "5678"])],
            "not written as the dictionary says",
        ),
        (
            format!("name = \"kinship\"\nlabel = \"Relation\"\n{TEXT}\ndescription = \"Son, widow …\""),
            &[("Relation", PLACES)],
            "examples",
        ),
        (format!("name = \"maker\"\n{TEXT}"), &[("Maker/Number", PLACES)], "names two things"),
        (
            format!("name = \"ticket\"\n{TEXT}\ndescription = \"Never given twice.\""),
            &[("Ticket", PLACES)],
            "come again",
        ),
        (
            "name = \"colour\"\ntype = \"code\"\ncodes = \"list.csv\"".into(),
            &[("Colour", &["north", "south"])],
            "a person has to say",
        ),
    ];
    for (field, columns, why) in cases {
        let (proposals, target, _) = proposed(&[field.as_str()], columns);
        let first = target.fields.ids().next().unwrap();
        let proposal = proposals.of_field(first);
        let is_sure = proposal.is_some_and(|proposal| proposal.sureness == Sureness::Sure);
        let said = proposal.map(|proposal| proposal.reasons.join("; "));
        let namesake = proposals.namesakes.iter().map(|(.., why)| why.clone()).collect::<String>();
        let said = said.unwrap_or(namesake);
        assert!(!is_sure && said.contains(why), "{field}: {why} is not in {said:?}");
    }
}

fn view(values: &[String]) -> Vec<&str> {
    values.iter().map(String::as_str).collect()
}

#[test]
fn what_the_dictionary_says_of_several_fields_is_found_in_the_rows() {
    let number = "type = \"decimal\"\ndecimals = 2";
    let count: Vec<String> = (0..ROWS).map(|row| (row * 7 % 23 + 2).to_string()).collect();
    let price: Vec<String> = (0..ROWS).map(|row| format!("{}.50", row * 5 % 9 + 1)).collect();
    let total: Vec<String> = (0..ROWS)
        .map(|row| {
            let cents = (row * 7 % 23 + 2) * ((row * 5 % 9 + 1) * 100 + 50);
            format!("{}.{:02}", cents / 100, cents % 100)
        })
        .collect();
    let (count, price, total) = (view(&count), view(&price), view(&total));
    let fields = [
        "name = \"crates\"\ntype = \"integer\"",
        &format!("name = \"crate_price\"\n{number}"),
        &format!("name = \"wage\"\n{number}\ndescription = \"Crates times the crate price.\""),
    ];
    let (proposals, target, source) = proposed(&fields, &[("W", &total), ("Crates", &count), ("P", &price)]);
    for (field, column) in [("wage", "W"), ("crates", "Crates"), ("crate_price", "P")] {
        let proposal = proposals.of_field(target.field(field).unwrap()).unwrap();
        let fed = proposal.fed.column().map(|column| source.heading(column));
        assert_eq!(
            (fed, proposal.sureness),
            (Some(column), Sureness::Sure),
            "{field}: {:?}",
            proposal.reasons
        );
    }
}

#[test]
fn a_text_that_runs_on_in_the_next_column_is_joined_again() {
    let cut = ["The lid was cracked, so it was s", "fine", "Two hoops were loose and one mis", "dry"];
    let rest = ["ealed", "", "sing", ""];
    let (proposals, target, _) =
        proposed(&[&format!("name = \"remarks\"\n{TEXT}")], &[("Remarks", &cut), ("Cont", &rest)]);
    let proposal = proposals.of_field(target.field("remarks").unwrap()).unwrap();
    let fed = format!("{:?}", proposal.fed);
    assert!(
        fed.contains("{Remarks}{Cont}") && proposal.sureness == Sureness::Sure,
        "{fed}: {:?}",
        proposal.reasons
    );
}

#[test]
fn a_single_letter_is_asked_about_before_it_is_a_unit_and_a_lost_blank_before_texts_are_joined() {
    let weight = "name = \"weight\"\ntype = \"decimal\"\ndecimals = 2\nunit = \"kg\"";
    let (proposals, target, _) = proposed(&[weight], &[("Weight G", &["7.5", "8.25", "9.1"])]);
    let proposal = proposals.of_field(target.field("weight").unwrap()).unwrap();
    let unit = proposal.keys.iter().find(|key| key.line.starts_with("unit")).unwrap();
    assert!(unit.is_open && unit.line == "unit = \"g\"", "{unit:?}");
    let cut = ["The lid was cracked, so it was s", "fine", "Two hoops were loose and one mi ", "dry"];
    let rest = ["ealed", "", "ssing", ""];
    let remarks = format!("name = \"remarks\"\n{TEXT}");
    let (proposals, target, _) = proposed(&[&remarks], &[("Remarks", &cut), ("Cont", &rest)]);
    let proposal = proposals.of_field(target.field("remarks").unwrap()).unwrap();
    assert_eq!(proposal.sureness, Sureness::Likely, "{:?}", proposal.reasons);
}
