//! A template workbook whose cells are checked when something is typed: its headings are the fields, and the checks say
//! what they hold.

use jiff::ToSpan as _;
use jiff::civil::date;

use super::claim::{Drafted, DraftedList, Place};
use super::code_lists::{self, FoundList, file_name};
use super::date_words::{date_format, day};
use super::dictionary::Described;
use super::facts::{DictionaryColumn, FieldFact, FieldKind};
use super::headings::{ListRole, list_role};
use super::mark_words::is_denied;
use super::vocabulary::{Words, meaning, named};
use super::wording::facts as facts_of;
use super::{Material, MaterialSheet};
use dusk_description::Code;
use dusk_sources::{CellCheck, corners};
use dusk_values::Decimal;

/// Fewer checked columns make no template.
const FEWEST: usize = 3;

/// The fields of a sheet with checks; nothing where it has few.
pub(super) fn describe(
    material: &Material,
    sheet: &MaterialSheet,
    lists: &mut Vec<FoundList>,
    drafted: &mut Drafted,
) -> Vec<Described> {
    let checked: Vec<(usize, usize, &CellCheck)> = sheet
        .cells
        .checks
        .iter()
        .flat_map(|check| check.cells.split(' ').map(move |range| (range, check)))
        .filter_map(|(range, check)| first_cell(range).map(|(row, column)| (row, column, check)))
        .collect();
    let first_checked = checked.iter().map(|(row, ..)| *row).min().filter(|_| checked.len() >= FEWEST);
    let header = first_checked.and_then(|row| row.checked_sub(1)).or_else(|| commented_row(sheet));
    let Some(header) = header else { return Vec::new() };
    let first = header + 1;
    let headings = sheet.cells.rows.get(header).map_or(&[][..], Vec::as_slice);
    let mut fields: Vec<Described> = Vec::new();
    for (column, heading) in headings.iter().enumerate().filter(|(_, heading)| !heading.is_empty()) {
        let from = material.place(sheet, header, column);
        let name = heading.trim_end_matches(['*', ':']).trim();
        let mut field = Described::new(name, from.clone());
        if name != heading {
            field.heading = Some(heading.clone());
        }
        if heading.ends_with('*') {
            field.facts.push((FieldFact::Required(true), from.clone()));
        }
        let shown = sheet.cells.look(first, column).and_then(|look| look.decimals);
        let check =
            checked.iter().find(|(row, at, _)| *row == first && *at == column).map(|(.., check)| *check);
        if let Some(check) = check {
            let prompt = check.prompt.split_whitespace().collect::<Vec<_>>().join(" ");
            let facts = facts(material, sheet, check, (&fields, name), lists, drafted);
            if check.only_warns {
                let says =
                    "the template warns of other values and takes them; it was read as if it refused them";
                drafted.ask(name, says, &from);
            }
            field.facts.extend(facts.into_iter().map(|fact| (fact, from.clone())));
            field.facts.extend(format_in(&prompt).map(|fact| (fact, from.clone())));
            field
                .description
                .extend(Some((prompt, field.from.clone())).filter(|(prompt, _)| !prompt.is_empty()));
        }
        let is_decimal = field.facts.iter().any(|(fact, _)| *fact == FieldFact::Kind(FieldKind::Decimal));
        if let Some(decimals) = shown.filter(|decimals| is_decimal && *decimals > 0) {
            let place = material.place(sheet, first, column);
            field.facts.push((FieldFact::Decimals(u64::from(decimals)), place));
        }
        if let Some(look) = sheet.cells.look(header, column) {
            take_comment(&mut field, &look.comment, &from);
        }
        field.facts.extend(required_colour(material, sheet, header, column));
        // What must be filled may stand above the headings.
        if let Some(above) = header.checked_sub(1) {
            let says = sheet.cells.cell(above, column);
            if meaning(Words::Must, says) == Some("yes") && says.chars().count() > 1 {
                field.facts.push((FieldFact::Required(true), material.place(sheet, above, column)));
            }
        }
        fields.push(field);
    }
    drafted.took(
        &material.whole(sheet),
        format!("comments at headings, and checks of {} columns below row {first}", checked.len()),
    );
    fields
}

/// The row whose cells have comments, where several have; a list of codes with comments is no template.
fn commented_row(sheet: &MaterialSheet) -> Option<usize> {
    if !code_lists::find(sheet, &[]).is_empty() {
        return None;
    }
    let commented = sheet.cells.looks.values().filter(|look| !look.comment.is_empty());
    let mut rows: Vec<usize> =
        commented.filter_map(|look| first_cell(&look.cell)).map(|(row, _)| row).collect();
    rows.sort_unstable();
    let most = rows.chunk_by(|row, next| row == next).rev().max_by_key(|same| same.len())?;
    most.first().copied().filter(|_| most.len() > 1)
}

/// What a legend says of the colour of a heading: that it marks what must be filled, always or on a condition.
fn required_colour(
    material: &Material,
    sheet: &MaterialSheet,
    header: usize,
    column: usize,
) -> Option<(FieldFact, Place)> {
    let fill = &sheet.cells.look(header, column).filter(|look| !look.fill.is_empty())?.fill;
    // A colour that all headings have marks none of them.
    let headings = (0..sheet.cells.width()).filter(|column| !sheet.cells.cell(header, *column).is_empty());
    let has_it = |column: usize| sheet.cells.look(header, column).is_some_and(|look| look.fill == *fill);
    if headings.into_iter().all(has_it) {
        return None;
    }
    // A legend stands elsewhere, and a colour with two of them marks something else as well.
    let cells = material.sheets.iter().flat_map(|other| {
        let is_elsewhere = other.cells.name != sheet.cells.name;
        let with_it = other.cells.looks.values().filter(|look| look.fill == *fill);
        let places = with_it.filter_map(|look| first_cell(&look.cell));
        places.filter(move |(row, _)| is_elsewhere || *row < header).map(move |place| (other, place))
    });
    let mut legends = cells.filter_map(|(other, (row, column))| {
        // The words stand on the colour, or right behind it.
        let (first, second) = (other.cells.cell(row, column), other.cells.cell(row, column + 1));
        let place = material.place(other, row, if second.is_empty() { column } else { column + 1 });
        let says = format!("{first} {second}");
        (!says.trim().is_empty()).then_some((says, place))
    });
    let (says, place) = legends.next().filter(|_| legends.next().is_none())?;
    let lower = says.to_lowercase();
    let is_needed = named(Words::Need, &lower).any(|(at, _)| !is_denied(&lower, at));
    if named(Words::When, &lower).next().is_some() {
        return is_needed.then_some((FieldFact::Conditional(says), place));
    }
    (is_needed && !says.contains('*')).then_some((FieldFact::Required(true), place))
}

/// Takes the comment at a heading in: line by line where one of its lines is a type, and as words otherwise.
fn take_comment(field: &mut Described, comment: &str, from: &Place) {
    let lines: Vec<&str> = comment.lines().map(str::trim).filter(|line| !line.is_empty()).collect();
    let is_told = |facts: &[FieldFact]| !facts.iter().any(|fact| matches!(fact, FieldFact::Unread(_)));
    let is_type = |line: &&str| {
        let said = facts_of(line, DictionaryColumn::Type);
        is_told(&said) && said.iter().any(|fact| matches!(fact, FieldFact::Kind(_)))
    };
    let Some(kind) = lines.iter().position(is_type).filter(|_| lines.len() > 1) else {
        field.description.extend((!comment.is_empty()).then(|| (comment.to_owned(), from.clone())));
        return;
    };
    for (place, line) in lines.iter().enumerate() {
        // How many codes there are says nothing that the drop-down list does not say.
        if place > kind
            && line
                .split_once(' ')
                .is_some_and(|(count, rest)| count.parse::<u64>().is_ok() && rest.starts_with("code"))
        {
            continue;
        }
        let of_part = |part: &str| {
            let columns =
                [DictionaryColumn::Type, DictionaryColumn::Allowed, DictionaryColumn::Unit].into_iter();
            columns.map(|column| facts_of(part, column)).find(|said| is_told(said) && !said.is_empty())
        };
        let parts: Option<Vec<Vec<FieldFact>>> = line.split(", ").map(of_part).collect();
        match parts.map(|parts| parts.concat()) {
            Some(said) if place >= kind => {
                field.facts.extend(said.into_iter().map(|fact| (fact, from.clone())));
            }
            _ if place < kind && field.label.is_empty() => {
                (*line).clone_into(&mut field.label);
                field.label_from = Some(from.clone());
            }
            _ => field.description.push(((*line).to_owned(), from.clone())),
        }
    }
}

/// The first cell of a range, as row and column from 0.
fn first_cell(range: &str) -> Option<(usize, usize)> {
    let whole = if range.contains(':') { range.to_owned() } else { format!("{range}:{range}") };
    corners(&whole).map(|(first, _)| first)
}

/// The date format that a prompt names: "Day of the loan as DD/MM/YYYY".
fn format_in(prompt: &str) -> Option<FieldFact> {
    let words = prompt.split([' ', ',', ';', '(', ')']).map(|word| word.trim_end_matches('.'));
    let mut formats = words.filter(|word| word.len() > 4).filter_map(date_format);
    formats.next().map(|(format, holds)| FieldFact::Format(format, holds))
}

fn facts(
    material: &Material,
    sheet: &MaterialSheet,
    check: &CellCheck,
    (before, name): (&[Described], &str),
    lists: &mut Vec<FoundList>,
    drafted: &mut Drafted,
) -> Vec<FieldFact> {
    let whole = |formula: &str| formula.parse::<i64>().ok();
    let [first, second] = &check.formulas;
    let (least, most) = match check.operator.as_str() {
        "" | "between" => (Some(first), Some(second)),
        "equal" => (Some(first), Some(first)),
        "greaterThanOrEqual" => (Some(first), None),
        "lessThanOrEqual" => (None, Some(first)),
        _ => (None, None),
    };
    match check.kind.as_str() {
        "whole" | "decimal" => {
            let number = |formula: Option<&String>| Decimal::parse(formula?).map(|number| number.to_string());
            let kind = if check.kind == "whole" { FieldKind::Integer } else { FieldKind::Decimal };
            let mut facts = vec![FieldFact::Kind(kind)];
            facts.extend(number(least).map(FieldFact::Min));
            facts.extend(number(most).map(FieldFact::Max));
            let strict = match check.operator.as_str() {
                "greaterThan" => Some(">"),
                "lessThan" => Some("<"),
                _ => None,
            };
            let rule = strict.zip(number(Some(first)));
            facts.extend(rule.map(|(sign, limit)| FieldFact::Rule(format!("_ {sign} {limit}"))));
            facts
        }
        "textLength" => {
            let most = match check.operator.as_str() {
                "lessThan" => whole(first).map(|most| most - 1),
                _ => most.and_then(|most| whole(most)),
            };
            let length = most.and_then(|most| u64::try_from(most).ok()).map(FieldFact::Length);
            [FieldFact::Kind(FieldKind::Text)].into_iter().chain(length).collect()
        }
        "date" => {
            let day_of = |formula: Option<&String>| {
                let formula = formula?;
                if formula.eq_ignore_ascii_case("TODAY()") {
                    return Some("today".to_owned());
                }
                day_counted(formula).or_else(|| day(formula))
            };
            let mut facts = vec![FieldFact::Kind(FieldKind::Date)];
            facts.extend(day_of(least).map(FieldFact::NotBefore));
            facts.extend(day_of(most).map(FieldFact::NotAfter));
            facts
        }
        "time" => vec![FieldFact::Kind(FieldKind::Time)],
        "list" => list_facts(material, sheet, first, (before, name), lists, drafted),
        _ => Vec::new(),
    }
}

/// The day that a spreadsheet program counts so.
fn day_counted(formula: &str) -> Option<String> {
    let days: i64 = formula.split('.').next()?.parse().ok()?;
    // Below 61 the programs do not agree.
    (61..=2_958_465)
        .contains(&days)
        .then(|| date(1899, 12, 30).checked_add(days.days()).ok())?
        .map(|day| day.to_string())
}

fn list_facts(
    material: &Material,
    sheet: &MaterialSheet,
    formula: &str,
    (before, name): (&[Described], &str),
    lists: &mut Vec<FoundList>,
    drafted: &mut Drafted,
) -> Vec<FieldFact> {
    if let Some(inline) = formula.strip_prefix('"').and_then(|inline| inline.strip_suffix('"')) {
        let codes: Vec<(String, String)> = inline
            .split([',', ';'])
            .map(|code| (code.trim().to_owned(), String::new()))
            .filter(|(code, _)| !code.is_empty())
            .collect();
        if let [(yes, _), (no, _)] = codes.as_slice()
            && super::listed::is_yes_and_no(yes, no)
        {
            return vec![FieldFact::Kind(FieldKind::Boolean), FieldFact::Words(yes.clone(), no.clone())];
        }
        return vec![FieldFact::Kind(FieldKind::Code), FieldFact::Codes(codes)];
    }
    if let Some(codes) = range_codes(material, sheet, formula) {
        return vec![FieldFact::Kind(FieldKind::Code), FieldFact::Codes(codes)];
    }
    let parent = parent_of(formula, sheet, before);
    if let Some((parent, parent_codes)) = parent {
        let codes: Vec<Code> = parent_codes
            .iter()
            .flat_map(|within| {
                let named = within.replace([' ', '-'], "_");
                let found = range_codes(material, sheet, &named).unwrap_or_default();
                found.into_iter().map(|(code, label)| Code {
                    code,
                    label,
                    also: Vec::new(),
                    within: within.clone(),
                    until: None,
                    replaced_by: String::new(),
                })
            })
            .collect();
        if !codes.is_empty() {
            let list = DraftedList {
                name: file_name(name),
                title: name.to_owned(),
                codes,
                from: material.whole(sheet),
            };
            lists.push(FoundList { list, within: Some(parent) });
            return vec![FieldFact::Kind(FieldKind::Code), FieldFact::SeeList(name.to_owned())];
        }
    }
    let says = format!("its drop-down list is \"{formula}\", which was not followed; name its codes");
    drafted.ask(name, says, &material.whole(sheet));
    vec![FieldFact::Kind(FieldKind::Code)]
}

/// The codes of the field whose cell a formula like `INDIRECT($J5)` looks at.
fn parent_of(formula: &str, sheet: &MaterialSheet, before: &[Described]) -> Option<(String, Vec<String>)> {
    let upper = formula.to_uppercase();
    let inner = upper.strip_prefix("INDIRECT(")?;
    let cells = inner.split(['(', ')', ',', ' ']).filter_map(|part| first_cell(&part.replace('$', "")));
    let (_, column) = cells.into_iter().next()?;
    let place = format!("!{}", sheet.cells.place(0, column).rsplit('!').next()?.trim_end_matches('1'));
    let is_parent = |field: &&Described| {
        let letters = field.from.at.trim_end_matches(|c: char| c.is_ascii_digit());
        letters.ends_with(&place)
    };
    let parent = before.iter().find(is_parent)?;
    let codes = parent.facts.iter().find_map(|(fact, _)| match fact {
        FieldFact::Codes(codes) => Some(codes.iter().map(|(code, _)| code.clone()).collect()),
        _ => None,
    })?;
    Some((parent.name.clone(), codes))
}

/// The codes in a range of the workbook, by its address or its name, with the labels beside them.
fn range_codes(material: &Material, sheet: &MaterialSheet, formula: &str) -> Option<Vec<(String, String)>> {
    let named = sheet.cells.names.iter().find(|(name, _)| name.eq_ignore_ascii_case(formula));
    let address = named.map_or(formula, |(_, address)| address.as_str()).trim_start_matches('=');
    let (other, range) = match address.rsplit_once('!') {
        Some((name, range)) => {
            let name = name.trim_matches('\'').replace("''", "'");
            let is_named = |sheet: &&MaterialSheet| sheet.cells.name.as_deref() == Some(name.as_str());
            (material.sheets.iter().find(is_named)?, range)
        }
        None => (sheet, address),
    };
    let ((top, left), (bottom, right)) = corners(&range.replace('$', ""))?;
    if left != right && top != bottom {
        return None;
    }
    let has_labels = left == right
        && top.checked_sub(1).is_some_and(|above| {
            let heading = other.cells.cell(above, left + 1);
            !heading.is_empty() && list_role(heading) == Some(ListRole::Label)
        });
    let cells = (top..=bottom).flat_map(|row| (left..=right).map(move |column| (row, column)));
    let codes =
        cells.filter(|(row, column)| !other.cells.cell(*row, *column).is_empty()).map(|(row, column)| {
            let label = if has_labels { other.cells.cell(row, column + 1) } else { "" };
            (other.cells.cell(row, column).to_owned(), label.to_owned())
        });
    let codes: Vec<(String, String)> = codes.take(5_000).collect();
    (!codes.is_empty()).then_some(codes)
}
