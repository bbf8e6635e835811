//! Templates and files that the target is known to accept: the order of the fields, the exact
//! headings, and how the file is laid out.

use super::claim::{Claims, Drafted, DraftedField, Place, Setting};
use super::dictionary::{self, Described};
use super::facts::fold;
use super::file_words;
use super::headings::identifier;
use super::samples::{self, Sample};
use super::{Material, MaterialSheet};
use dusk_description::{Quoting, quotes_of, quoting_shown};
use dusk_sources::Source;

/// The rows that are searched for the headings.
const HEADINGS_WITHIN: usize = 20;

/// Takes the layout from every sheet whose headings are the fields', then what is still open.
pub(super) fn take_layouts(materials: &mut [Material], drafted: &mut Drafted) {
    let had_fields = !drafted.fields.is_empty();
    let most = materials.iter().flat_map(|material| &material.sheets).filter(|sheet| !sheet.used);
    let most = most.map(|sheet| covered(sheet, &drafted.fields)).max().unwrap_or(0);
    for material in &mut *materials {
        for place in 0..material.sheets.len() {
            let Some(sheet) = material.sheets.get(place).filter(|sheet| !sheet.used) else { continue };
            // What has the headings of few fields, while another has those of most, is something else.
            let few =
                had_fields && covered(sheet, &drafted.fields) * 2 < most.max(drafted.fields.len().min(4));
            if few {
                continue;
            }
            let header = match had_fields || !drafted.fields.is_empty() {
                true => header_of(sheet, &drafted.fields),
                false => first_header(sheet),
            };
            let Some(header) = header else { continue };
            let rows_below = || sheet.cells.rows.iter().skip(header + 1).any(|cells| !cells.is_empty());
            if drafted.fields.is_empty() && dictionary::is_header(sheet, header) && !rows_below() {
                let says = "has the headings of a dictionary, and no field below them";
                drafted.took(&material.whole(sheet), says);
                continue;
            }
            let second = second_header(sheet, header, &drafted.fields);
            let below = header + 1 + usize::from(second == Some(Second::Labels));
            let rows = sheet.cells.rows.iter().skip(below).filter(|cells| !cells.is_empty()).count();
            let role = match rows {
                0 => "the template: its headings".to_owned(),
                1 => "a file of the upload's layout, with 1 row".to_owned(),
                rows => format!("a file of the upload's layout, with {rows} rows"),
            };
            drafted.took(&material.whole(sheet), role);
            let whole = material.whole(sheet);
            match second {
                Some(Second::Labels) => {
                    let place = material.place(sheet, header + 1, 0);
                    if let Some(says) = drafted.upload.claim("labels", Setting::Flag(true), &place) {
                        drafted.ask("[upload]", says, &place);
                    }
                }
                Some(Second::Headings) => drafted.ask(
                    "[upload]",
                    "the template has two rows that could be the headings; the first was taken, and the second is not written into the upload file",
                    &whole,
                ),
                None => {}
            }
            take(material, sheet, (header, below), drafted);
            if let Some(sheet) = material.sheets.get_mut(place) {
                sheet.used = true;
            }
        }
    }
    file_words::settle(materials, drafted);
    samples::settle_open(drafted);
}

/// True when a row of the sheet holds the names or labels of described fields.
pub(super) fn is_likely(sheet: &MaterialSheet, described: &[Described]) -> bool {
    let known: Vec<String> = described
        .iter()
        .flat_map(|one| [fold(&one.name), fold(&one.label)])
        .filter(|name| !name.is_empty())
        .collect();
    sheet.cells.rows.iter().take(HEADINGS_WITHIN).any(|cells| {
        let filled = cells.iter().filter(|cell| !cell.is_empty()).count();
        let met = cells.iter().filter(|cell| known.contains(&fold(cell))).count();
        met >= 2 && met * 2 > filled
    })
}

/// Every name under which a field may be known.
fn names(field: &DraftedField) -> Vec<String> {
    let mut names = vec![fold(&field.name)];
    names.extend(["heading", "label"].iter().filter_map(|key| field.claims.text(key)).map(fold));
    if let Some(Setting::Texts(also)) = field.claims.get("also") {
        names.extend(also.iter().map(|name| fold(name)));
    }
    names
}

fn header_of(sheet: &MaterialSheet, fields: &[DraftedField]) -> Option<usize> {
    let known: Vec<String> = fields.iter().flat_map(names).collect();
    let good = |cells: &&Vec<String>| {
        let filled = cells.iter().filter(|cell| !cell.is_empty()).count();
        let met = cells.iter().filter(|cell| known.contains(&fold(cell))).count();
        met >= 2.min(fields.len()) && met * 2 >= filled
    };
    let best = sheet
        .cells
        .rows
        .iter()
        .enumerate()
        .take(HEADINGS_WITHIN)
        .filter(|(_, cells)| good(cells))
        .max_by_key(|(row, cells)| {
            (cells.iter().filter(|cell| known.contains(&fold(cell))).count(), std::cmp::Reverse(*row))
        });
    best.map(|(row, _)| row)
}

/// How many of the fields have their headings in one row of a sheet.
fn covered(sheet: &MaterialSheet, fields: &[DraftedField]) -> usize {
    let known: Vec<String> = fields.iter().flat_map(names).collect();
    let met = |cells: &Vec<String>| cells.iter().filter(|cell| known.contains(&fold(cell))).count();
    sheet.cells.rows.iter().take(HEADINGS_WITHIN).map(met).max().unwrap_or(0)
}

/// Without a dictionary, the widest of the first rows that hold nothing but words is the header.
fn first_header(sheet: &MaterialSheet) -> Option<usize> {
    let filled = |cells: &[String]| cells.iter().filter(|cell| !cell.is_empty()).count();
    let words = |cells: &&Vec<String>| {
        let all =
            cells.iter().filter(|cell| !cell.is_empty()).all(|cell| cell.chars().any(char::is_alphabetic));
        filled(cells) >= 2 && all
    };
    let rows = sheet.cells.rows.iter().enumerate().take(HEADINGS_WITHIN).filter(|(_, cells)| words(cells));
    let widest = rows.max_by_key(|(row, cells)| (filled(cells), std::cmp::Reverse(*row)));
    widest.map(|(row, _)| row)
}

/// What a second row of headings holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Second {
    /// The labels of the fields above them.
    Labels,
    /// Other names of the fields, so that either row could be the headings.
    Headings,
}

/// Whether the row below the headings names the same fields once more.
fn second_header(sheet: &MaterialSheet, header: usize, fields: &[DraftedField]) -> Option<Second> {
    let (first, second) = (sheet.cells.rows.get(header)?, sheet.cells.rows.get(header + 1)?);
    let (mut labels, mut names_met, mut filled) = (0, 0, 0);
    for (heading, below) in first.iter().zip(second).filter(|(_, below)| !below.is_empty()) {
        filled += 1;
        let Some(field) = fields.iter().find(|field| names(field).contains(&fold(heading))) else { continue };
        if field.claims.text("label").is_some_and(|label| fold(label) == fold(below)) {
            labels += 1;
        } else if names(field).contains(&fold(below)) {
            names_met += 1;
        }
    }
    match (labels, names_met) {
        _ if filled < 2 || (labels + names_met) * 2 < filled => None,
        (labels, met) if labels >= met => Some(Second::Labels),
        _ => Some(Second::Headings),
    }
}

/// Takes the order, the headings and the values below them, which begin in the row `below`.
fn take(material: &Material, sheet: &MaterialSheet, (header, below): (usize, usize), drafted: &mut Drafted) {
    let headings: Vec<String> = sheet.cells.rows.get(header).cloned().unwrap_or_default();
    let whole = material.whole(sheet);
    let without_fields = drafted.fields.is_empty();
    let mut order: Vec<DraftedField> = Vec::new();
    let mut rest = std::mem::take(&mut drafted.fields);
    for (column, heading) in headings.iter().enumerate() {
        let place = material.place(sheet, header, column);
        if heading.is_empty() {
            drafted.ask(sheet.title(material), "a column of the template has no heading", &place);
            continue;
        }
        let folded = fold(heading);
        let exact = rest
            .iter()
            .position(|field| field.name == *heading || field.claims.text("heading") == Some(heading));
        let field = match exact.or_else(|| rest.iter().position(|field| names(field).contains(&folded))) {
            Some(known) => Some(rest.remove(known)),
            None => match spread_of(heading, &rest, &order, drafted) {
                Some(PerCode::Begins(known, pattern)) => {
                    let mut field = rest.remove(known);
                    field.claims.set("column_per_code", Setting::Text(pattern), &place);
                    Some(field)
                }
                Some(PerCode::GoesOn) => continue,
                None => None,
            },
        };
        let is_per_code = field.as_ref().is_some_and(|field| field.claims.get("column_per_code").is_some());
        let in_no_dictionary = field.is_none() && !without_fields;
        let mut field = field.unwrap_or_else(|| DraftedField {
            name: identifier(heading),
            claims: Claims::default(),
            from: place.clone(),
        });
        if is_per_code || *heading == field.name {
            field.claims.unset("heading");
        } else {
            field.claims.set("heading", Setting::Text(heading.clone()), &place);
        }
        let values = Sample::of(sheet, below - 1, column, &place);
        samples::weigh(&mut field, &values, in_no_dictionary, drafted);
        order.push(field);
    }
    ask_about_names(&order, &rest, &whole, drafted);
    order.extend(never_sent(rest, &whole, drafted));
    drafted.fields = order;
    layout(material, sheet, header, &headings, drafted);
}

/// A heading that no dictionary knows may be a field that the template does not seem to have, by another name.
fn ask_about_names(order: &[DraftedField], rest: &[DraftedField], whole: &Place, drafted: &mut Drafted) {
    let is_open = |field: &&DraftedField| {
        field.claims.get("description").is_none()
            && field.claims.get("codes").is_none()
            && field.from.file == whole.file
    };
    for field in order.iter().filter(is_open) {
        let mine = words_of(field);
        let shares = |other: &&DraftedField| {
            let words = words_of(other);
            words.iter().any(|word| mine.contains(word))
                || words.iter().any(|word| mine.iter().any(|own| is_near(own, word)))
        };
        let mut alike = rest.iter().filter(|other| other.claims.get("never_send").is_none()).filter(shares);
        if let (Some(other), None) = (alike.next(), alike.next()) {
            let says = format!(
                "is a heading of the template, and in no dictionary; {} is described at {}, and is not in the template: are the two the same? also = [\"{}\"] would say so",
                other.name, other.from, field.name
            );
            drafted.ask(format!("{}, {}", field.name, other.name), says, whole);
        }
    }
}

/// The words of what a field is called, folded.
fn words_of(field: &DraftedField) -> Vec<String> {
    let called = [Some(field.name.as_str()), field.claims.text("heading"), field.claims.text("label")];
    let words = called.into_iter().flatten().flat_map(|name| name.split(|c: char| !c.is_alphanumeric()));
    words.map(fold).filter(|word| word.chars().count() > 2).collect()
}

/// Whether two words are one with a letter more or other: "canceled", "cancelled".
fn is_near(one: &str, other: &str) -> bool {
    one.chars().count() > 4 && dusk_values::nearest(one, [other]).is_some()
}

/// The fields that the template does not have.
fn never_sent(rest: Vec<DraftedField>, whole: &Place, drafted: &mut Drafted) -> Vec<DraftedField> {
    let mut fields = rest;
    for field in fields.iter_mut().filter(|field| field.claims.get("never_send").is_none()) {
        let says = format!(
            "is described, but is not in the template {whole}; never_send was written, so that the upload file fits the template"
        );
        drafted.ask(field.name.clone(), says, &field.from);
        field.claims.set("never_send", Setting::Flag(true), whole);
    }
    fields
}

enum PerCode {
    /// The field by its place, and the pattern of its columns.
    Begins(usize, String),
    GoesOn,
}

/// Whether a heading is one of a column per code.
fn spread_of(
    heading: &str,
    rest: &[DraftedField],
    order: &[DraftedField],
    drafted: &Drafted,
) -> Option<PerCode> {
    let codes_of = |field: &DraftedField| -> Vec<String> {
        let file = field.claims.text("codes").unwrap_or_default();
        let list = drafted.lists.iter().find(|list| file == format!("codes/{}.csv", list.name));
        list.map(|list| list.codes.iter().map(|code| code.code.clone()).collect()).unwrap_or_default()
    };
    let goes_on = order.iter().any(|field| {
        field.claims.text("column_per_code").is_some_and(|pattern| {
            codes_of(field).iter().any(|code| pattern.replace("{code}", code) == heading)
        })
    });
    if goes_on {
        return Some(PerCode::GoesOn);
    }
    let known = rest.iter().position(|field| {
        field.claims.text("type") == Some("codes")
            && codes_of(field).iter().any(|code| heading.ends_with(code))
    })?;
    let field = rest.get(known)?;
    let code = codes_of(field)
        .into_iter()
        .filter(|code| heading.ends_with(code.as_str()))
        .max_by_key(String::len)?;
    let stem = heading.strip_suffix(code.as_str())?;
    (!stem.is_empty()).then(|| PerCode::Begins(known, format!("{stem}{{code}}")))
}

/// How the file is laid out, for `[upload]`.
fn layout(
    material: &Material,
    sheet: &MaterialSheet,
    header: usize,
    headings: &[String],
    drafted: &mut Drafted,
) {
    let whole = material.whole(sheet);
    let mut claims: Vec<(&'static str, Setting)> = Vec::new();
    match &sheet.cells.source {
        None => {
            claims.push(("format", Setting::Text("workbook".into())));
            claims.extend(sheet.cells.name.clone().map(|name| ("sheet", Setting::Text(name))));
            claims.push(("header", Setting::Flag(true)));
        }
        Some(source) => claims.extend(delimited(material, source, headings, &whole, drafted)),
    }
    if header > 0 {
        drafted.ask(
            "[upload]",
            format!("the template has {header} rows above its headings, which the upload file will not have"),
            &whole,
        );
    }
    for (key, value) in claims {
        if let Some(says) = drafted.upload.claim(key, value, &whole) {
            drafted.contradict("[upload]", says, &whole);
        }
    }
}

/// How a delimited template is written.
fn delimited(
    material: &Material,
    source: &Source,
    headings: &[String],
    whole: &Place,
    drafted: &mut Drafted,
) -> Vec<(&'static str, Setting)> {
    let bytes = std::fs::read(&material.path).unwrap_or_default();
    let mut claims = vec![
        ("format", Setting::Text("delimited".into())),
        ("encoding", Setting::Text(source.encoding.label())),
        ("bom", Setting::Flag(source.encoding.mark > 0)),
        ("delimiter", Setting::Text(source.dialect.delimiter().to_owned())),
    ];
    match line_end(&bytes) {
        Some(line_end) => claims.push(("line_end", Setting::Text(line_end.into()))),
        None => {
            drafted.ask("[upload]", "the template ends without a line end, so line_end is not known", whole)
        }
    }
    claims.push(("header", Setting::Flag(true)));
    claims.extend(quoting(source, headings));
    if bytes.is_ascii() {
        drafted.ask("[upload]", file_words::ASCII_ONLY, whole);
    }
    claims
}

/// How the values of a template are quoted: what its rows show, or its headings where there are none.
fn quoting(source: &Source, headings: &[String]) -> Option<(&'static str, Setting)> {
    let lines = source.first_lines.join("\n");
    let text = lines.trim_start_matches('\u{feff}');
    let quotes = (source.dialect.delimiter(), "\"");
    let shown = quoting_shown(&quotes_of(text, quotes, source.header_row as usize));
    let first = source.first_lines.first().map_or("", String::as_str);
    let are_quoted = || headings.iter().all(|heading| first.contains(&format!("\"{heading}\"")));
    let word = match shown {
        Some(Quoting::Always) => "always",
        Some(Quoting::Texts) => "texts",
        Some(Quoting::WhenNeeded | Quoting::Never) => return None,
        None if are_quoted() => "always",
        None => return None,
    };
    Some(("quoting", Setting::Text(word.into())))
}

/// The word for the line ends of a text.
fn line_end(bytes: &[u8]) -> Option<&'static str> {
    if memchr::memmem::find(bytes, b"\r\n").is_some() {
        Some("crlf")
    } else if memchr::memchr(b'\n', bytes).is_some() {
        Some("lf")
    } else {
        memchr::memchr(b'\r', bytes).map(|_| "cr")
    }
}
