//! Which sheet of a workbook is read: the one that is named, or the only one that holds anything.

use super::{SheetChoice, WorkbookFacts};
use dusk_evidence::Refusal;
use dusk_values::nearest;

/// The facts of the sheet that is chosen of those of a workbook; `is_filled` tells whether one holds anything.
pub(super) fn choose(
    format: &'static str,
    sheets: &[(String, bool)],
    choice: Option<&SheetChoice>,
    is_filled: impl FnMut(&str) -> bool,
) -> Result<WorkbookFacts, Refusal> {
    let sheet = match choice {
        Some(SheetChoice::Name(wanted)) => called(wanted, sheets)?,
        Some(SheetChoice::Number(number)) => numbered(*number, sheets)?,
        None => the_only_one(sheets, is_filled)?,
    };
    Ok(WorkbookFacts {
        format: format.into(),
        sheet: sheet.to_owned(),
        sheets: sheets.to_vec(),
        ..WorkbookFacts::default()
    })
}

/// The sheets of a workbook by number and name, each with whether it is hidden.
fn listed(sheets: &[(String, bool)]) -> String {
    let one = |(number, (name, hidden)): (usize, &(String, bool))| {
        format!("{number} \"{name}\"{}", if *hidden { " (hidden)" } else { "" })
    };
    let all: Vec<String> = (1..).zip(sheets).map(one).collect();
    format!("its sheets are {}", all.join(", "))
}

fn called<'s>(wanted: &str, sheets: &'s [(String, bool)]) -> Result<&'s str, Refusal> {
    if let Some((name, _)) = sheets.iter().find(|(name, _)| name == wanted) {
        return Ok(name);
    }
    let near = nearest(wanted, sheets.iter().map(|(name, _)| name.as_str()));
    let near = near.map_or_else(String::new, |near| format!(" (did you mean \"{near}\"?)"));
    Err(Refusal::new(format!("has no sheet \"{wanted}\"{near}"), listed(sheets)))
}

fn numbered(number: u64, sheets: &[(String, bool)]) -> Result<&str, Refusal> {
    let place = usize::try_from(number).ok().and_then(|number| number.checked_sub(1));
    match place.and_then(|place| sheets.get(place)) {
        Some((name, _)) => Ok(name),
        None => Err(Refusal::new(format!("has no sheet number {number}"), listed(sheets))),
    }
}

/// The only sheet, or the only one that holds anything.
fn the_only_one(sheets: &[(String, bool)], mut is_filled: impl FnMut(&str) -> bool) -> Result<&str, Refusal> {
    let several = match sheets {
        [(only, _)] => return Ok(only),
        [] => {
            let what_to_do = "check that the export was finished";
            return Err(Refusal::new("is a workbook without a sheet", what_to_do));
        }
        several => several,
    };
    let filled = several.iter().map(|(name, _)| name.as_str()).filter(|name| is_filled(name));
    match filled.take(2).collect::<Vec<_>>().as_slice() {
        [only] => Ok(*only),
        _ => Err(Refusal::new(
            format!("is a workbook with {} sheets, and nothing says which one to read", sheets.len()),
            format!("{}; write sheet = \"…\" under [source] in the mapping", listed(sheets)),
        )),
    }
}
