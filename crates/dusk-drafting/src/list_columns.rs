//! What the columns of a code list hold, by their headings and by what stands below them.

use super::MaterialSheet;
use super::date_words::day;
use super::facts::fold;
use super::headings::ListRole;
use super::vocabulary::{Words, named};

/// A column by its place, and what it holds where that is known.
pub(super) type Column = (usize, Option<ListRole>);

/// Columns beside one of codes whose headings nobody knows, told by what stands in them.
pub(super) fn tell_by_values(sheet: &MaterialSheet, header: usize, run: &mut [Column], fields: &[String]) {
    let known = |run: &[Column], role| run.iter().find(|(_, known)| *known == Some(role)).map(|(at, _)| *at);
    // Of two columns that may be the codes one may name the field that takes them.
    if run.iter().filter(|(_, role)| *role == Some(ListRole::Code)).count() > 1
        && let Some((_, role)) = run.iter_mut().find(|(column, role)| {
            let mut names = (header + 1..sheet.cells.rows.len())
                .map(|row| sheet.cells.cell(row, *column))
                .filter(|name| !name.is_empty())
                .peekable();
            *role == Some(ListRole::Code)
                && names.peek().is_some()
                && names.all(|name| fields.contains(&fold(name)))
        })
    {
        *role = Some(ListRole::List);
    }
    let Some(code_column) = known(run, ListRole::Code) else { return };
    let values = |column: usize| {
        let rows = header + 1..sheet.cells.rows.len();
        rows.map(move |row| sheet.cells.cell(row, column)).filter(|value| !value.is_empty())
    };
    let codes: Vec<&str> = values(code_column).collect();
    for place in 0..run.len() {
        let Some((column, None)) = run.get(place).copied() else { continue };
        let some = values(column).next().is_some();
        let all = |is_one: &dyn Fn(&str) -> bool| some && values(column).all(is_one);
        let told = if all(&|value| fields.contains(&fold(value))) {
            ListRole::List
        } else if all(&|value| day(value).is_some()) {
            ListRole::Until
        } else if values(column).count() * 2 <= codes.len() && all(&|value| codes.contains(&value)) {
            ListRole::ReplacedBy
        } else if known(run, ListRole::Label).is_none()
            && column > code_column
            && values(column).count() == codes.len()
        {
            ListRole::Label
        } else {
            continue;
        };
        if !has(run, told)
            && let Some((_, role)) = run.get_mut(place)
        {
            *role = Some(told);
        }
    }
}

fn has(run: &[Column], role: ListRole) -> bool {
    run.iter().any(|(_, known)| *known == Some(role))
}

/// Of a column that says nothing of itself there may be one: the label, or what is above the code.
pub(super) fn is_list(run: &[Column]) -> bool {
    let unknown = run.iter().filter(|(_, role)| role.is_none()).count();
    has(run, ListRole::Code) && unknown < 2 && (has(run, ListRole::Label) || unknown == 1)
}

/// Whether every column of a run is known, and it has codes and labels.
pub(super) fn is_sure(run: &[Column]) -> bool {
    has(run, ListRole::Code) && has(run, ListRole::Label) && run.iter().all(|(_, role)| role.is_some())
}

/// Beside another list a run with labels is one too, whatever stands above its codes.
pub(super) fn takes_first_for_code(run: &mut [Column]) {
    if !has(run, ListRole::Code)
        && has(run, ListRole::Label)
        && let Some((_, role @ (None | Some(ListRole::Aside)))) = run.first_mut()
    {
        *role = Some(ListRole::Code);
    }
}

/// Whether a heading of a run, or the title above it, says that the list was replaced.
pub(super) fn is_old(sheet: &MaterialSheet, header: usize, run: &[Column]) -> bool {
    let says = |text: &str| named(Words::Old, &text.to_lowercase()).next().is_some();
    let headings = run.iter().filter(|(_, role)| *role != Some(ListRole::Also));
    let mut above =
        run.iter().take(1).filter_map(|(column, _)| Some(sheet.cells.cell(header.checked_sub(1)?, *column)));
    headings.map(|(column, _)| sheet.cells.cell(header, *column)).any(says) || above.any(says)
}
