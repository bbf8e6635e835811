//! Code lists on sheets and in files.

use super::claim::{Drafted, DraftedList, Place};
use super::date_words::day;
use super::facts::fold;
use super::headings::{ListRole, identifier, list_role};
use super::{Material, MaterialSheet};
use dusk_description::Code;
use dusk_sources::CellKind;

/// The rows that are searched for the headings of code lists.
const HEADINGS_WITHIN: usize = 20;

/// A code list on its sheet: some columns below a header.
#[derive(Debug)]
pub(super) struct Block {
    header: usize,
    columns: Vec<(usize, Option<ListRole>)>,
}

/// A list with the headings that nobody knows yet: one of them may be the parent's.
#[derive(Debug)]
pub(super) struct FoundList {
    pub(super) list: DraftedList,
    /// The heading above the codes within which the others are valid.
    pub(super) within: Option<String>,
}

/// Finds the code lists on a sheet by their headings.
pub(super) fn find(sheet: &MaterialSheet) -> Vec<Block> {
    for (header, cells) in sheet.cells.rows.iter().enumerate().take(HEADINGS_WITHIN) {
        let mut blocks: Vec<Vec<(usize, Option<ListRole>)>> = vec![Vec::new()];
        for (column, cell) in cells.iter().enumerate() {
            if cell.is_empty() {
                blocks.push(Vec::new());
            } else if let Some(block) = blocks.last_mut() {
                block.push((column, list_role(cell)));
            }
        }
        blocks.retain(|block| !block.is_empty());
        let has =
            |block: &[(usize, Option<ListRole>)], role| block.iter().any(|(_, known)| *known == Some(role));
        // Of a column that says nothing of itself there may be one: the label, or what is above the code.
        let is_list = |block: &Vec<(usize, Option<ListRole>)>| {
            let unknown = block.iter().filter(|(_, role)| role.is_none()).count();
            has(block, ListRole::Code) && unknown < 2 && (has(block, ListRole::Label) || unknown == 1)
        };
        if !blocks.is_empty() && blocks.iter().all(is_list) && sheet.cells.rows.len() > header + 1 {
            return blocks.into_iter().map(|columns| Block { header, columns }).collect();
        }
    }
    Vec::new()
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
    Some((Block { header, columns }, says))
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
        for (_, role) in &mut columns {
            if let Some(known) = *role {
                if known != ListRole::Aside && seen.contains(&known) {
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

    /// The code in a row.
    fn code(&self, row: usize, until: Option<String>) -> Code {
        let also = self.cell(row, ListRole::Also).split(['|', ';']).map(|name| name.trim().to_owned());
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
    let above = block.header.checked_sub(1).map_or("", |row| sheet.cells.cell(row, roles.first));
    let mut title = match (alone, above) {
        (true, _) | (false, "") => sheet.list_title(material),
        (false, above) => above.to_owned(),
    };
    let mut lists: Vec<FoundList> = Vec::new();
    for row in (block.header + 1..sheet.cells.rows.len()).filter(|row| !roles.is_blank(*row)) {
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
        let until = until(&title, code, last, status, &place, drafted);
        if let Some(list) = lists.get_mut(known) {
            take(&mut list.list, roles.code(row, until), &place, drafted);
        }
    }
    for list in &lists {
        check_zeros(&list.list, sheet, roles.at(ListRole::Code), drafted);
    }
    lists
}

fn take(list: &mut DraftedList, new: Code, from: &Place, drafted: &mut Drafted) {
    let again = list.codes.iter().find(|known| known.code == new.code && known.within == new.within);
    match again {
        Some(known) if known.label == new.label => {
            drafted.ask(&list.title, format!("the code \"{}\" stands twice; it was taken once", new.code), from);
        }
        Some(known) => drafted.ask(
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
    let retired = |text: &str| {
        matches!(
            fold(text).as_str(),
            "retired"
                | "inactive"
                | "obsolete"
                | "withdrawn"
                | "closed"
                | "deprecated"
                | "expired"
                | "old"
                | "discontinued"
                | "notinuse"
        )
    };
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
