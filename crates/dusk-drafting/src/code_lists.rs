//! Code lists on sheets and in files.

use super::claim::{Drafted, DraftedList, Place};
use super::date_words::day;
use super::facts::fold;
use super::headings::{ListRole, identifier, list_role};
use super::list_columns::{is_list, is_old, is_sure, takes_first_for_code, tell_by_values};
use super::retired::Retired;
use super::vocabulary::{Words, meaning};
use super::{Material, MaterialSheet};
use dusk_description::Code;
use dusk_sources::CellKind;

/// The rows that are searched for the headings of code lists.
const HEADINGS_WITHIN: usize = 20;

/// A code list on its sheet: some columns below a header, down to the next one.
#[derive(Debug)]
pub(super) struct Block {
    /// The row of its title, where it has one of its own.
    title: Option<usize>,
    /// The row above its first code.
    header: usize,
    end: usize,
    columns: Vec<(usize, Option<ListRole>)>,
    /// Whether it is an old list that stands beside the current one.
    is_old: bool,
}

/// A list with the headings that nobody knows yet: one of them may be the parent's.
#[derive(Debug)]
pub(super) struct FoundList {
    pub(super) list: DraftedList,
    /// The heading above the codes within which the others are valid.
    pub(super) within: Option<String>,
}

/// Finds the code lists on a sheet by their headings: one, several side by side, or one below the other. `fields` are the
/// names of what is described, folded: a column of them says which list a code belongs to.
pub(super) fn find(sheet: &MaterialSheet, fields: &[String]) -> Vec<Block> {
    let mut found: Vec<Block> = Vec::new();
    let filled = sheet.cells.rows.iter().enumerate().filter(|(_, cells)| !cells.is_empty());
    for (passed, (header, cells)) in filled.enumerate() {
        let mut runs = runs_of(cells);
        runs.iter_mut().for_each(|run| tell_by_values(sheet, header, run, fields));
        if passed >= HEADINGS_WITHIN && found.is_empty() {
            break;
        }
        if !runs.iter().any(|run| is_list(run)) {
            continue;
        }
        runs.iter_mut().for_each(|run| takes_first_for_code(run));
        let old: Vec<bool> = runs.iter().map(|run| is_old(sheet, header, run)).collect();
        // Nothing is old where nothing is current.
        let is_old = |place: usize| old.get(place) == Some(&true) && old.contains(&false);
        let is_all = runs.iter().enumerate().all(|(place, run)| is_list(run) || is_old(place));
        for (place, columns) in runs.into_iter().enumerate() {
            let is_old = is_old(place);
            let above = found.iter().any(|block| overlaps(block, &columns));
            // Below another list a row of codes may look like headings.
            let is_header = (is_list(&columns) || is_old)
                && if above { is_sure(&columns) && stands_apart(sheet, header, &columns) } else { is_all };
            if !is_header {
                continue;
            }
            let title = title_row(sheet, header, &columns);
            let end = title.unwrap_or(header);
            for block in found.iter_mut().filter(|block| block.end > end && overlaps(block, &columns)) {
                block.end = end;
            }
            found.push(Block { title, header, end: sheet.cells.rows.len(), columns, is_old });
        }
    }
    found.retain(|block| block.end > block.header + 1);
    found
}

/// The columns of a row that stand side by side, each run by itself.
fn runs_of(cells: &[String]) -> Vec<Vec<(usize, Option<ListRole>)>> {
    let mut runs: Vec<Vec<(usize, Option<ListRole>)>> = vec![Vec::new()];
    for (column, cell) in cells.iter().enumerate() {
        if cell.is_empty() {
            runs.push(Vec::new());
        } else if let Some(run) = runs.last_mut() {
            run.push((column, list_role(cell)));
        }
    }
    runs.retain(|run| !run.is_empty());
    runs
}

/// Whether a row holds nothing but the headings of a code list.
pub(super) fn is_header(cells: &[String]) -> bool {
    matches!(runs_of(cells).as_slice(), [run] if run.len() > 2 && is_sure(run))
}

fn overlaps(block: &Block, columns: &[(usize, Option<ListRole>)]) -> bool {
    columns.iter().any(|(column, _)| block.columns.iter().any(|(known, _)| known == column))
}

/// Whether a row has nothing right above it, or a title.
fn stands_apart(sheet: &MaterialSheet, row: usize, columns: &[(usize, Option<ListRole>)]) -> bool {
    let is_blank = |row: usize| columns.iter().all(|(column, _)| sheet.cells.cell(row, *column).is_empty());
    title_row(sheet, row, columns).is_some() || row.checked_sub(1).is_some_and(is_blank)
}

/// The title that stands in the row above the headings, by itself.
pub(super) fn title_above(sheet: &MaterialSheet, header: usize) -> Option<String> {
    let above = sheet.cells.rows.get(header.checked_sub(1)?)?;
    let first = above.first().filter(|cell| !cell.is_empty() && !is_note(cell))?;
    above.iter().skip(1).all(String::is_empty).then(|| first.clone())
}

/// The row of the title above a list, where it has one: its first cell is filled and no other.
fn title_row(sheet: &MaterialSheet, header: usize, columns: &[(usize, Option<ListRole>)]) -> Option<usize> {
    let above = header.checked_sub(1)?;
    let mut cells = columns.iter().map(|(column, _)| sheet.cells.cell(above, *column));
    let first = cells.next()?;
    (!first.is_empty() && cells.all(str::is_empty)).then_some(above)
}

/// Lists one below the other without headings: a title by itself, and below it codes with their labels.
pub(super) fn sections(sheet: &MaterialSheet) -> Vec<Block> {
    let columns = vec![(0, Some(ListRole::Code)), (1, Some(ListRole::Label)), (2, Some(ListRole::Aside))];
    let filled = |row: usize, column: usize| !sheet.cells.cell(row, column).is_empty();
    let rows = sheet.cells.rows.len();
    let is_title =
        |row: &usize| filled(*row, 0) && !filled(*row, 1) && filled(row + 1, 0) && filled(row + 1, 1);
    let mut titles: Vec<usize> = (0..rows).filter(is_title).collect();
    // The title of the sheet is none of a list.
    let is_title_below = |row: &usize| titles.contains(&(row + 1));
    let of_sheet: Vec<usize> = titles.iter().filter(|row| is_title_below(row)).copied().collect();
    titles.retain(|row| !of_sheet.contains(row));
    let ends = titles.iter().skip(1).copied().chain([rows]);
    let blocks = titles.iter().zip(ends).map(|(title, end)| Block {
        title: Some(*title),
        header: *title,
        end,
        columns: columns.clone(),
        is_old: false,
    });
    let blocks: Vec<Block> = blocks.collect();
    // Both a code and its label, or neither.
    let is_code = |row: usize| filled(row, 0) == filled(row, 1);
    let all_codes = blocks.iter().all(|block| (block.header + 1..block.end).all(is_code));
    if blocks.len() > 1 && all_codes { blocks } else { Vec::new() }
}

/// A sheet that the dictionary names as a list: the block, and whether its headings say which column
/// holds the codes. Where they do not, it is the first, and the labels are in the second.
pub(super) fn plain(sheet: &MaterialSheet) -> Option<(Block, bool)> {
    let header = sheet.cells.rows.iter().position(|cells| cells.len() >= 2)?;
    let cells = sheet.cells.rows.get(header)?;
    let mut columns: Vec<(usize, Option<ListRole>)> = cells
        .iter()
        .enumerate()
        .filter(|(_, cell)| !cell.is_empty())
        .map(|(column, cell)| (column, list_role(cell)))
        .collect();
    let says = columns.iter().any(|(_, role)| *role == Some(ListRole::Code));
    if !says && let Some((_, role)) = columns.first_mut() {
        *role = Some(ListRole::Code);
    }
    Some((Block { title: None, header, end: sheet.cells.rows.len(), columns, is_old: false }, says))
}

/// The columns of a block, by what they hold.
struct Roles<'s> {
    sheet: &'s MaterialSheet,
    columns: Vec<(usize, Option<ListRole>)>,
    /// The column of what a code is inside of.
    parent: Option<usize>,
    first: usize,
}

impl<'s> Roles<'s> {
    fn of(sheet: &'s MaterialSheet, block: &Block) -> Self {
        let mut columns = block.columns.clone();
        // Only one column is of each kind; a second "name" is the parent's or a label of another language.
        let mut seen: Vec<ListRole> = Vec::new();
        for (column, role) in &mut columns {
            // Labels in another language are other names.
            let heading = sheet.cells.cell(block.header, *column);
            let words = heading.split(|c: char| !c.is_alphanumeric());
            let is_other_language =
                words.filter(|word| !word.is_empty()).any(|word| meaning(Words::Language, word).is_some());
            if *role == Some(ListRole::Label) && seen.contains(&ListRole::Label) && is_other_language {
                *role = Some(ListRole::Also);
            }
            if let Some(known) = *role {
                if !matches!(known, ListRole::Aside | ListRole::Also) && seen.contains(&known) {
                    *role = None;
                }
                seen.push(known);
            }
        }
        if !seen.contains(&ListRole::Label)
            && let Some((_, role)) = columns.iter_mut().find(|(_, role)| role.is_none())
        {
            *role = Some(ListRole::Label);
        }
        let first = columns.first().map_or(0, |(column, _)| *column);
        let unknown = columns.iter().find(|(_, role)| role.is_none()).map(|(column, _)| *column);
        let roles = Self { sheet, columns, parent: None, first };
        Self { parent: roles.at(ListRole::Within).or(unknown), ..roles }
    }

    fn at(&self, wanted: ListRole) -> Option<usize> {
        self.columns.iter().find(|(_, role)| *role == Some(wanted)).map(|(column, _)| *column)
    }

    /// The column of the codes.
    fn code_column(&self) -> usize {
        self.at(ListRole::Code).unwrap_or(self.first)
    }

    fn cell(&self, row: usize, wanted: ListRole) -> &'s str {
        self.at(wanted).map_or("", |column| self.sheet.cells.cell(row, column))
    }

    fn is_blank(&self, row: usize) -> bool {
        self.columns.iter().all(|(column, _)| self.sheet.cells.cell(row, *column).is_empty())
    }

    /// What a remark in a row says of the end of its code: in a column of its own, in the one for the last day, or
    /// behind the label.
    fn remark(&self, row: usize) -> Option<Retired> {
        let is_one = |role: Option<ListRole>| {
            matches!(
                role,
                None | Some(ListRole::Aside | ListRole::Until | ListRole::Status | ListRole::Label)
            )
        };
        let columns =
            self.columns.iter().filter(|(column, role)| is_one(*role) && self.parent != Some(*column));
        let cells = columns.map(|(column, _)| self.sheet.cells.cell(row, *column));
        // Behind the last heading a remark may stand without one.
        let beyond = self.columns.last().map(|(column, _)| self.sheet.cells.cell(row, column + 1));
        cells.chain(beyond).find_map(Retired::said_by)
    }

    /// The code in a row.
    fn code(&self, row: usize, until: Option<String>) -> Code {
        let also = self.columns.iter().filter(|(_, role)| *role == Some(ListRole::Also));
        let also = also.flat_map(|(column, _)| self.sheet.cells.cell(row, *column).split(['|', ';']));
        let also = also.map(|name| name.trim().to_owned());
        Code {
            code: self.cell(row, ListRole::Code).to_owned(),
            label: self.cell(row, ListRole::Label).to_owned(),
            also: also.filter(|name| !name.is_empty()).collect(),
            within: self.parent.map_or(String::new(), |column| self.sheet.cells.cell(row, column).to_owned()),
            until: until.and_then(|day| day.parse().ok()),
            replaced_by: self.cell(row, ListRole::ReplacedBy).to_owned(),
        }
    }
}

/// Reads the lists of a block: one, or several where a column names them.
pub(super) fn read(
    material: &Material,
    sheet: &MaterialSheet,
    block: &Block,
    alone: bool,
    drafted: &mut Drafted,
) -> Vec<FoundList> {
    let roles = Roles::of(sheet, block);
    let above = block.title.map_or("", |row| sheet.cells.cell(row, roles.first));
    let mut title = match (alone, above) {
        (true, _) | (false, "") => sheet.list_title(material),
        (false, above) => above.to_owned(),
    };
    if block.is_old {
        let place = material.place(sheet, block.title.unwrap_or(block.header), roles.first);
        drafted.took(&place, "an old list beside the current one; not used");
        return Vec::new();
    }
    let mut lists: Vec<FoundList> = Vec::new();
    for row in (block.header + 1..block.end).filter(|row| !roles.is_blank(*row)) {
        let named = roles.cell(row, ListRole::List);
        if !named.is_empty() {
            named.clone_into(&mut title);
        }
        let place = material.place(sheet, row, roles.code_column());
        let code = roles.cell(row, ListRole::Code);
        if code.is_empty() {
            let says = format!("\"{}\" has no code, and was left out", roles.cell(row, ListRole::Label));
            drafted.ask(title.clone(), says, &place);
            continue;
        }
        if is_note(code) && roles.at(ListRole::Label).is_some() && roles.cell(row, ListRole::Label).is_empty()
        {
            drafted.took(&place, format!("\"{code}\" is a note below the codes"));
            continue;
        }
        let known = lists.iter().position(|list| list.list.title == title).unwrap_or_else(|| {
            let list = DraftedList {
                name: file_name(&title),
                title: title.clone(),
                codes: Vec::new(),
                from: material.place(sheet, block.header, roles.code_column()),
            };
            let within = roles.parent.map(|column| sheet.cells.cell(block.header, column).to_owned());
            lists.push(FoundList { list, within });
            lists.len() - 1
        });
        let (last, status) = (roles.cell(row, ListRole::Until), roles.cell(row, ListRole::Status));
        let remark = roles.remark(row);
        let (last, instead) = match &remark {
            Some(Retired { until: Some(until), .. }) if day(last).is_none() => (until.as_str(), &remark),
            Some(_) if day(last).is_none() && last.is_empty() => (last, &remark),
            _ => (last, &None),
        };
        let is_struck = [ListRole::Code, ListRole::Label]
            .into_iter()
            .filter_map(|role| roles.at(role))
            .any(|column| sheet.cells.look(row, column).is_some_and(|look| look.is_struck));
        let is_told = day(last).is_some() || instead.is_some();
        if is_struck && !is_told {
            let says = format!(
                "the code \"{code}\" is struck through, and it is not said since when; write its last day (until), or take it out"
            );
            drafted.ask(&title, says, &place);
        }
        let until = until(&title, code, last, status, &place, drafted);
        let mut new = roles.code(row, until);
        if let Some(Retired { choice: Some(choice), .. }) = instead {
            let says = format!(
                "the code \"{code}\" is replaced by one of several, \"{choice}\"; replaced_by was left out"
            );
            drafted.ask(&title, says, &place);
        }
        if let Some(Retired { replaced_by: Some(other), .. }) = instead
            && new.replaced_by.is_empty()
        {
            new.replaced_by.clone_from(other);
        }
        if let Some(list) = lists.get_mut(known) {
            take(&mut list.list, new, &place, drafted);
        }
    }
    for list in &lists {
        check_zeros(&list.list, sheet, roles.at(ListRole::Code), drafted);
    }
    lists
}

/// Whether a text in the column of the codes is a sentence.
fn is_note(text: &str) -> bool {
    text.split_whitespace().count() > 3
}

fn take(list: &mut DraftedList, new: Code, from: &Place, drafted: &mut Drafted) {
    let again = list.codes.iter().find(|known| known.code == new.code && known.within == new.within);
    match again {
        Some(known) if known.label == new.label => {
            drafted.ask(&list.title, format!("the code \"{}\" is there twice; it was used once", new.code), from);
        }
        Some(known) => drafted.contradict(
            &list.title,
            format!(
                "the code \"{}\" has two labels, \"{}\" and \"{}\"; the first was taken, the second is another name",
                new.code, known.label, new.label
            ),
            from,
        ),
        None => return list.codes.push(new),
    }
    if let Some(known) =
        list.codes.iter_mut().find(|known| known.code == new.code && known.within == new.within)
        && known.label != new.label
        && !known.also.contains(&new.label)
        && !new.label.is_empty()
    {
        known.also.push(new.label);
    }
}

/// The last day of a code, from a day or from a word for what is in use no more.
fn until(
    list: &str,
    code: &str,
    written: &str,
    status: &str,
    from: &Place,
    drafted: &mut Drafted,
) -> Option<String> {
    let retired = |text: &str| meaning(Words::Gone, text).is_some();
    if let Some(day) = day(written) {
        return Some(day);
    }
    let no_longer =
        retired(written) || retired(status) || matches!(fold(status).as_str(), "no" | "n" | "false" | "0");
    if no_longer {
        drafted.ask(
            list,
            format!("the code \"{code}\" is retired, but not since when; until = 1900-01-01 was written, so that it is never accepted"),
            from,
        );
        return Some("1900-01-01".into());
    }
    let ever =
        matches!(fold(written).as_str(), "" | "no" | "n" | "current" | "active" | "open" | "never" | "inuse");
    if !ever {
        drafted.ask(
            list,
            format!("the last day of the code \"{code}\", \"{written}\", can be read in more than one way, and was left out; write it as yyyy-MM-dd"),
            from,
        );
    }
    None
}

/// Codes that a spreadsheet program holds as numbers may have lost their zeros.
fn check_zeros(list: &DraftedList, sheet: &MaterialSheet, column: Option<usize>, drafted: &mut Drafted) {
    let Some(column) = column else { return };
    let typed = (0..sheet.cells.rows.len()).any(|row| sheet.cells.kind(row, column) == CellKind::Number);
    let longest = list.codes.iter().map(|code| code.code.len()).max().unwrap_or(0);
    let all_digits = list.codes.iter().all(|code| code.code.bytes().all(|byte| byte.is_ascii_digit()));
    let padded = list.codes.iter().any(|code| code.code.starts_with('0') && code.code.len() > 1);
    if typed && padded && all_digits && list.codes.iter().any(|code| code.code.len() < longest) {
        drafted.ask(
            &list.title,
            "some codes have leading zeros and others are numbers of the spreadsheet program, which may have lost theirs",
            &list.from,
        );
    }
}

/// The name of a list's file: words in small letters with dashes.
pub(super) fn file_name(title: &str) -> String {
    identifier(title).to_lowercase().replace('_', "-")
}
