//! Lists of two levels on one sheet: the codes of the upper one stand once, merged or above their own, and divide those
//! of the lower one.

use hashbrown::HashSet;

use super::claim::{Drafted, DraftedList};
use super::code_lists::{FoundList, file_name, title_above};
use super::retired::Retired;
use super::{Material, MaterialSheet};
use dusk_description::Code;

/// The rows that are searched for the headings.
const HEADINGS_WITHIN: usize = 20;

/// The longest code, in characters.
const LONGEST_CODE: usize = 12;

/// Fewer codes below show nothing.
const FEWEST: usize = 4;

/// Where the two levels stand: the row of the headings, and for each level the columns of its codes and labels.
struct Levels {
    header: usize,
    upper: (usize, usize),
    lower: (usize, usize),
}

/// The two lists of a sheet, the upper one first; nothing where it has no two levels.
pub(super) fn read(
    material: &Material,
    sheet: &MaterialSheet,
    drafted: &mut Drafted,
) -> Option<[FoundList; 2]> {
    let (levels, is_one_column) = match side_by_side(sheet) {
        Some(levels) => (levels, false),
        None => (in_one_column(sheet)?, true),
    };
    let heading = |column: usize| sheet.cells.cell(levels.header, column).to_owned();
    let (upper_title, lower_title) = if is_one_column {
        let title = title_above(sheet, levels.header).unwrap_or_else(|| sheet.list_title(material));
        (format!("{title} upper level"), title)
    } else {
        (heading(levels.upper.0), heading(levels.lower.0))
    };
    let list = |title: &str, column: usize| DraftedList {
        name: file_name(title),
        title: title.to_owned(),
        codes: Vec::new(),
        from: material.place(sheet, levels.header, column),
    };
    let mut upper = list(&upper_title, levels.upper.0);
    let mut lower = list(&lower_title, levels.lower.0);
    let mut within = String::new();
    for row in levels.header + 1..sheet.cells.rows.len() {
        let cell = |column: usize| sheet.cells.cell(row, column);
        let rest = || {
            let cells = sheet.cells.rows.get(row).map_or(&[][..], Vec::as_slice);
            cells.iter().skip(levels.lower.1).map(String::as_str)
        };
        let code = |(code, label): (usize, usize), within: &str| {
            let retired = rest().find_map(Retired::said_by);
            Code {
                code: cell(code).to_owned(),
                label: cell(label).to_owned(),
                also: Vec::new(),
                within: within.to_owned(),
                until: retired.as_ref().and_then(|retired| retired.until.as_ref()?.parse().ok()),
                replaced_by: retired.and_then(|retired| retired.replaced_by).unwrap_or_default(),
            }
        };
        let is_upper = !cell(levels.upper.0).is_empty() && (!is_one_column || is_word(cell(levels.upper.0)));
        if is_upper {
            cell(levels.upper.0).clone_into(&mut within);
            let mut one = code(levels.upper, "");
            if !is_one_column {
                // What stands behind is about the lower code.
                (one.until, one.replaced_by) = (None, String::new());
            }
            upper.codes.push(one);
        }
        let is_lower = !is_upper || !is_one_column;
        if is_lower && !cell(levels.lower.0).is_empty() {
            lower.codes.push(code(levels.lower, &within));
        } else if is_lower && !cell(levels.lower.1).is_empty() {
            let says = format!("\"{}\" has no code, and was left out", cell(levels.lower.1));
            drafted.ask(lower_title.clone(), says, &material.place(sheet, row, levels.lower.1));
        }
    }
    let place = material.whole(sheet);
    for list in [&upper, &lower] {
        drafted.took(&place, format!("the code list \"{}\": {} codes", list.title, list.codes.len()));
    }
    Some([FoundList { list: upper, within: None }, FoundList { list: lower, within: Some(upper_title) }])
}

fn is_code(text: &str) -> bool {
    text.chars().count() <= LONGEST_CODE && !text.contains(char::is_whitespace)
}

fn is_word(code: &str) -> bool {
    code.chars().all(char::is_alphabetic)
}

/// A column of codes that are filled seldom, and one of others that belong to them.
fn side_by_side(sheet: &MaterialSheet) -> Option<Levels> {
    let headers = 0..sheet.cells.rows.len().min(HEADINGS_WITHIN);
    headers.into_iter().find_map(|header| {
        let filled = |column: usize| {
            let rows = header + 1..sheet.cells.rows.len();
            rows.filter(move |row| !sheet.cells.cell(*row, column).is_empty())
        };
        let codes = |column: usize| {
            !sheet.cells.cell(header, column).is_empty()
                && filled(column).all(|row| is_code(sheet.cells.cell(row, column)))
        };
        // Labels are words, be they as short as codes.
        let has_words = |column: usize| {
            filled(column).any(|row| sheet.cells.cell(row, column).chars().any(char::is_lowercase))
        };
        let labels = |column: usize| filled(column).count() > 0 && (!codes(column) || has_words(column));
        let upper = (0..sheet.cells.width())
            .find(|column| codes(*column) && !has_words(*column) && filled(*column).count() > 1)?;
        let lower = (upper + 1..sheet.cells.width()).find(|column| codes(*column) && !has_words(*column))?;
        let (above, below) = (filled(upper).count(), filled(lower).count());
        let mut seen = HashSet::new();
        let is_divided = below >= FEWEST
            && above * 2 <= below
            && filled(upper).all(|row| {
                let code = sheet.cells.cell(row, upper);
                seen.insert(code.to_owned()) && !sheet.cells.cell(row, lower).is_empty()
            })
            && filled(lower).next() == filled(upper).next();
        let levels = Levels { header, upper: (upper, upper + 1), lower: (lower, lower + 1) };
        (is_divided && lower == upper + 2 && labels(upper + 1) && labels(lower + 1)).then_some(levels)
    })
}

/// Codes of letters, each above its own codes of digits, which begin anew below every one of them.
fn in_one_column(sheet: &MaterialSheet) -> Option<Levels> {
    let headers = 0..sheet.cells.rows.len().min(HEADINGS_WITHIN);
    headers.into_iter().find_map(|header| {
        let codes = || {
            let rows = header + 1..sheet.cells.rows.len();
            rows.map(|row| sheet.cells.cell(row, 0)).filter(|code| !code.is_empty())
        };
        let is_number = |code: &str| code.bytes().all(|byte| byte.is_ascii_digit());
        let (mut words, mut numbers) = (HashSet::new(), HashSet::new());
        let are_two = codes().all(|code| is_code(code) && (is_word(code) || is_number(code)));
        let words_differ = codes().filter(|code| is_word(code)).all(|code| words.insert(code));
        let some_again = codes().filter(|code| is_number(code)).any(|code| !numbers.insert(code));
        let begins = codes().next().is_some_and(is_word);
        let has_heading = sheet.cells.rows.get(header).is_some_and(|cells| cells.len() > 1);
        let is_one = are_two && words_differ && some_again && begins && has_heading && words.len() > 1;
        (is_one && codes().count() >= FEWEST).then_some(Levels { header, upper: (0, 1), lower: (0, 1) })
    })
}
