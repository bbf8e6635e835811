//! A data dictionary: the table on its sheet, row by row.

use super::claim::{Drafted, Place};
use super::code_lists;
use super::date_words::date_format;
use super::facts::{DictionaryColumn, FieldFact, fold};
use super::headings::{Role, places, role};
use super::limit_words::limits;
use super::listed::is_yes_and_no;
use super::told_by_values::{name_by_keys, pass_over_positions, tell_by_values};
use super::wording::facts;
use super::{Material, MaterialSheet};

/// The rows that are searched for the headings of a dictionary.
pub(super) const HEADINGS_WITHIN: usize = 60;

/// Where the dictionary's table is on a sheet.
#[derive(Debug)]
pub(super) struct Table {
    pub(super) header: usize,
    pub(super) roles: Vec<Option<Role>>,
}

/// A field as its row describes it.
#[derive(Debug)]
pub(super) struct Described {
    pub(super) name: String,
    /// Its heading in the upload file, where that is said apart from its name.
    pub(super) heading: Option<String>,
    /// The target fills it by itself.
    pub(super) never_send: bool,
    pub(super) label: String,
    /// Where the label stands, where it has a place of its own.
    pub(super) label_from: Option<Place>,
    pub(super) also: Vec<String>,
    pub(super) description: Vec<(String, Place)>,
    pub(super) default: Option<(String, Place)>,
    pub(super) rule: Option<(String, Place)>,
    pub(super) table: String,
    /// A value that it may hold, as its owner shows it.
    pub(super) example: Option<(String, Place)>,
    pub(super) facts: Vec<(FieldFact, Place)>,
    pub(super) from: Place,
}

impl Described {
    /// A field of which nothing is said yet.
    pub(super) fn new(name: &str, from: Place) -> Self {
        Self {
            name: name.to_owned(),
            heading: None,
            never_send: false,
            label: String::new(),
            label_from: None,
            also: Vec::new(),
            description: Vec::new(),
            default: None,
            rule: None,
            table: String::new(),
            example: None,
            facts: Vec::new(),
            from,
        }
    }
}

/// Finds the table whose headings are those of a dictionary.
pub(super) fn find(sheet: &MaterialSheet) -> Option<Table> {
    let mut best: Option<(usize, Table)> = None;
    // Lists side by side have headings like "key" and "name" as well.
    let is_lists = code_lists::find(sheet, &[]).len() > 1;
    for (header, cells) in sheet.cells.rows.iter().enumerate().take(HEADINGS_WITHIN) {
        let mut roles: Vec<Option<Role>> = cells.iter().map(|cell| role(cell)).collect();
        name_by_keys(sheet, header, &mut roles);
        tell_by_values(sheet, header, &mut roles);
        pass_over_positions(sheet, header, &mut roles);
        let has = |role: Role| roles.contains(&Some(role));
        use DictionaryColumn::{Allowed, Key, Max, Min};
        let tells = |role: &&Role| match role {
            Role::Says(Allowed | Key | Max | Min) => !is_lists,
            Role::Says(_) => true,
            _ => false,
        };
        let says = roles.iter().flatten().filter(tells).count();
        let named = has(Role::Name) || has(Role::Label);
        let known = roles.iter().flatten().count();
        let filled = cells.iter().filter(|cell| !cell.is_empty()).count();
        if !named || says == 0 || known * 2 < filled || known < 2 || sheet.rows_below(header).next().is_none()
        {
            continue;
        }
        if best.as_ref().is_none_or(|(most, _)| known > *most) {
            settle_names(sheet, header, &mut roles);
            best = Some((known, Table { header, roles }));
        }
    }
    best.map(|(_, table)| table)
}

/// Turns a sheet on which each field has a column, so that it has a row.
pub(super) fn turn_where_laid_across(sheet: &mut MaterialSheet) {
    /// So many headings below one another are those of a dictionary.
    const ENOUGH: usize = 4;
    if sheet.cells.width() < 3 || find(sheet).is_some() {
        return;
    }
    let turned = MaterialSheet { cells: sheet.cells.turned(), used: sheet.used, is_list: false };
    let is_dictionary = |table: Table| table.header < 3 && table.roles.iter().flatten().count() >= ENOUGH;
    if find(&turned).is_some_and(is_dictionary) {
        *sheet = turned;
    }
}

/// Takes the code lists that stand below the fields off the sheet of a dictionary, as a sheet of their own.
pub(super) fn lists_below(sheet: &mut MaterialSheet) -> Option<MaterialSheet> {
    let table = find(sheet)?;
    let begins = sheet
        .rows_below(table.header)
        .find(|(_, cells)| code_lists::is_header(cells) && !is_repeated(&table, cells))
        .map(|(row, _)| row)?;
    // A title stands right above.
    let is_title = |row: &usize| {
        let filled =
            sheet.cells.rows.get(*row).map(|cells| cells.iter().filter(|cell| !cell.is_empty()).count());
        filled == Some(1) && *row > table.header
    };
    let begins = begins.checked_sub(1).filter(is_title).unwrap_or(begins);
    Some(MaterialSheet { cells: sheet.cells.split_off(begins), used: false, is_list: false })
}

/// True when a row holds the headings of a dictionary and nothing else.
pub(super) fn is_header(sheet: &MaterialSheet, row: usize) -> bool {
    let cells = sheet.cells.rows.get(row).map_or(&[][..], Vec::as_slice);
    let roles: Vec<Option<Role>> = cells.iter().map(|cell| role(cell)).collect();
    roles.iter().all(Option::is_some)
        && roles.contains(&Some(Role::Name))
        && roles.iter().flatten().any(|role| matches!(role, Role::Says(_)))
}

/// Exactly one column is the name. Of several the one whose values look most like names of columns;
/// another one is the label.
fn settle_names(sheet: &MaterialSheet, header: usize, roles: &mut [Option<Role>]) {
    let names: Vec<usize> = places(roles, Role::Name);
    let like_names = |column: &usize| {
        let values: Vec<&str> = sheet
            .rows_below(header)
            .filter_map(|(_, cells)| cells.get(*column))
            .map(String::as_str)
            .filter(|cell| !cell.is_empty())
            .collect();
        let plain = |value: &&&str| !value.contains(char::is_whitespace);
        values.iter().filter(plain).count() * 1000 / values.len().max(1)
    };
    let mut candidates = if names.is_empty() { places(roles, Role::Label) } else { names };
    // A column of numbers counts the fields, whatever stands above it.
    let counts = |column: &usize| {
        let mut values = sheet.rows_below(header).filter_map(|(_, cells)| cells.get(*column));
        values.all(|value| value.bytes().all(|byte| byte.is_ascii_digit()))
    };
    if candidates.len() > 1 {
        for column in candidates.extract_if(.., |column| counts(column)) {
            if let Some(role) = roles.get_mut(column) {
                *role = Some(Role::Aside);
            }
        }
    }
    // The first of equals.
    let Some(name) = candidates.iter().rev().max_by_key(|column| like_names(column)).copied() else { return };
    let has_label = roles.contains(&Some(Role::Label))
        && candidates.iter().all(|column| roles.get(*column) == Some(&Some(Role::Name)));
    // Short descriptions are what people call the fields.
    if !roles.contains(&Some(Role::Label))
        && let Some(column) = places(roles, Role::Description).first().copied()
        && candidates.len() < 2
    {
        let mut texts = sheet.rows_below(header).filter_map(|(_, cells)| cells.get(column));
        if texts.all(|text| text.chars().count() <= 60 && !text.contains(". "))
            && let Some(role) = roles.get_mut(column)
        {
            *role = Some(Role::Label);
        }
    }
    let mut needs_label = !has_label;
    for (column, role) in roles.iter_mut().enumerate() {
        if column == name {
            *role = Some(Role::Name);
        } else if candidates.contains(&column) {
            *role = Some(if needs_label { Role::Label } else { Role::Also });
            needs_label = false;
        }
    }
}

/// The fields that the table describes.
pub(super) fn fields(
    material: &Material,
    sheet: &MaterialSheet,
    table: &Table,
    drafted: &mut Drafted,
) -> Vec<Described> {
    let mut found: Vec<Described> = Vec::new();
    let column_of = |wanted: Role| places(&table.roles, wanted).first().copied();
    let Some(name_column) = column_of(Role::Name) else { return found };
    let headings: Vec<String> = sheet.cells.rows.get(table.header).cloned().unwrap_or_default();
    for (row, cells) in sheet.rows_below(table.header) {
        let place = |column: usize| material.place(sheet, row, column);
        if *cells == headings || is_repeated(table, cells) {
            continue;
        }
        let name = sheet.cells.cell(row, name_column);
        let filled: Vec<usize> =
            (0..cells.len()).filter(|column| !sheet.cells.cell(row, *column).is_empty()).collect();
        // A field's name merged over several rows, or left blank below it, goes on with its values.
        if name.is_empty() || sheet.merged_below(row, name_column) {
            // A section has a row of its own.
            if filled.len() == 1 && is_section(sheet, row) {
                let title = sheet.cells.cell(row, filled.first().copied().unwrap_or(0));
                drafted.took(&place(0), format!("\"{title}\" is a heading or a note between the fields"));
                continue;
            }
            match found.last_mut().filter(|_| filled.iter().all(|column| goes_on(table, *column))) {
                Some(field) => go_on(field, table, sheet, row, &filled, &place),
                None => {
                    let column = filled.first().copied().unwrap_or(0);
                    drafted.ask(
                        sheet.title(material),
                        format!(
                            "\"{}\" is in a row without the name of a field, and was not used",
                            sheet.cells.cell(row, column)
                        ),
                        &place(column),
                    );
                }
            }
            continue;
        }
        if filled.len() == 1 && headings.iter().filter(|heading| !heading.is_empty()).count() > 2 {
            drafted
                .took(&place(name_column), format!("\"{name}\" is a heading or a note between the fields"));
            continue;
        }
        let field = described(material, sheet, table, row, name_column);
        ask_about_silence(material, (sheet, table, row), &field, drafted);
        found.push(field);
    }
    found
}

/// In a column that says of nearly every field whether it must be filled, a blank cell says nothing.
fn ask_about_silence(
    material: &Material,
    (sheet, table, row): (&MaterialSheet, &Table, usize),
    field: &Described,
    drafted: &mut Drafted,
) {
    let Some(column) = places(&table.roles, Role::Says(DictionaryColumn::Required)).first().copied() else {
        return;
    };
    let is_told = |fact: &FieldFact| matches!(fact, FieldFact::Required(_) | FieldFact::Conditional(_));
    if field.facts.iter().any(|(fact, _)| is_told(fact)) {
        return;
    }
    let rows = || sheet.rows_below(table.header).filter(|(_, cells)| cells.len() > 2);
    let silent = rows().filter(|(row, _)| sheet.cells.cell(*row, column).is_empty()).count();
    if silent * 6 <= rows().count() {
        let says = "whether it must be filled is not said; required was left out";
        drafted.ask(field.name.clone(), says, &material.place(sheet, row, column));
    }
}

/// Whether a row holds the table's headings once more, be it in other words.
fn is_repeated(table: &Table, cells: &[String]) -> bool {
    let filled = cells.iter().filter(|cell| !cell.is_empty()).count();
    let same = |(cell, known): &(&String, &Option<Role>)| known.is_some() && role(cell) == **known;
    let met = cells.iter().zip(&table.roles).filter(same).count();
    met >= 3 && met * 3 >= filled * 2
}

/// A name that was broken to fit its cell: "Tempera-" above "ture" is one word, "Time of" above "arrival" are three.
fn in_one_line(text: &str) -> String {
    let mut line = String::new();
    for part in text.lines().map(str::trim).filter(|part| !part.is_empty()) {
        if line.ends_with('-') && part.starts_with(char::is_lowercase) {
            line.pop();
        } else if !line.is_empty() {
            line.push(' ');
        }
        line.push_str(part);
    }
    line
}

/// What a letter means in a column of yes and no: the first of oui beside the first of non. `None` where the column does not
/// tell.
fn letter_of_yes(
    material: &Material,
    sheet: &MaterialSheet,
    table: &Table,
    column: usize,
    text: &str,
) -> Option<bool> {
    let text = text.to_lowercase();
    if text.chars().count() != 1 {
        return None;
    }
    // Parts of a dictionary on other sheets have the same heading.
    let heading = sheet.cells.cell(table.header, column);
    let below = |other: &MaterialSheet| -> Vec<String> {
        let header = (0..other.cells.rows.len().min(HEADINGS_WITHIN)).find_map(|row| {
            let at = other.cells.rows.get(row)?.iter().position(|cell| cell == heading)?;
            Some((row, at))
        });
        let Some((header, at)) = header else { return Vec::new() };
        other.rows_below(header).map(|(row, _)| other.cells.cell(row, at).to_lowercase()).collect()
    };
    let mut letters: Vec<String> = material.sheets.iter().flat_map(below).collect();
    letters
        .extend(sheet.rows_below(table.header).map(|(row, _)| sheet.cells.cell(row, column).to_lowercase()));
    letters.retain(|cell| cell.chars().count() == 1);
    letters.sort_unstable();
    letters.dedup();
    let [first, second] = letters.as_slice() else { return None };
    let other = if *first == text { second } else { first };
    match (is_yes_and_no(&text, other), is_yes_and_no(other, &text)) {
        (true, false) => Some(true),
        (false, true) => Some(false),
        _ => None,
    }
}

/// Whether a column holds one text and nothing else, several times.
fn is_alone(sheet: &MaterialSheet, table: &Table, column: usize, text: &str) -> bool {
    let mut cells = sheet.rows_below(table.header).map(|(row, _)| sheet.cells.cell(row, column));
    let filled = sheet.rows_below(table.header).filter(|(row, _)| !sheet.cells.cell(*row, column).is_empty());
    filled.count() > 2 && cells.all(|cell| cell.is_empty() || cell == text)
}

/// Whether a text stands in a column of the table.
fn stands_in(sheet: &MaterialSheet, table: &Table, column: usize, text: &str) -> bool {
    sheet.rows_below(table.header).any(|(row, _)| sheet.cells.cell(row, column) == text)
}

/// Columns that say something, and nobody knows what.
pub(super) fn ask_about_unused(
    material: &Material,
    sheet: &MaterialSheet,
    table: &Table,
    drafted: &mut Drafted,
) {
    let unused = (0..table.roles.len()).filter(|column| table.roles.get(*column) == Some(&None));
    for column in unused {
        let filled = sheet
            .rows_below(table.header)
            .filter(|(row, _)| !sheet.cells.cell(*row, column).is_empty())
            .count();
        let heading = sheet.cells.cell(table.header, column);
        if filled > 0 && !heading.is_empty() {
            let says = format!(
                "the column \"{heading}\" was not used, since neither its heading nor its {filled} cells say what it holds"
            );
            drafted.ask(sheet.title(material), says, &material.place(sheet, table.header, column));
        }
    }
}

/// Whether the only text of a row stands in a range merged across its columns.
fn is_section(sheet: &MaterialSheet, row: usize) -> bool {
    sheet
        .cells
        .merged
        .iter()
        .any(|((top, left), (bottom, right))| top == bottom && *top == row && right > left)
}

/// A column that may go on in a row below its field.
fn goes_on(table: &Table, column: usize) -> bool {
    use DictionaryColumn::{Allowed, Format};
    !matches!(table.roles.get(column), Some(Some(Role::Says(says))) if !matches!(says, Allowed | Format))
}

fn go_on(
    field: &mut Described,
    table: &Table,
    sheet: &MaterialSheet,
    row: usize,
    filled: &[usize],
    place: &dyn Fn(usize) -> Place,
) {
    for column in filled {
        let text = sheet.cells.cell(row, *column);
        match table.roles.get(*column) {
            Some(Some(Role::Says(_))) => field.go_on_with(text, place(*column)),
            Some(Some(Role::Description | Role::Note | Role::Label)) => {
                field.go_on_below(text, &place(*column))
            }
            _ => {}
        }
    }
}

impl Described {
    /// Takes a line in that stands below its words: a code with its label behind two spaces, a date's format, or more words.
    fn go_on_below(&mut self, text: &str, place: &Place) {
        let code = text.split_once("  ").map(|(code, label)| (code.trim(), label.trim()));
        let is_code = |code: &str| code.chars().count() <= 8 && !code.contains(char::is_whitespace);
        if let Some((code, label)) = code.filter(|(code, label)| is_code(code) && !label.is_empty()) {
            let known = self.facts.iter_mut().find_map(|(fact, _)| match fact {
                FieldFact::Codes(codes) => Some(codes),
                _ => None,
            });
            let code = (code.to_owned(), label.to_owned());
            match known {
                Some(codes) => codes.push(code),
                None => self.facts.push((FieldFact::Codes(vec![code]), place.clone())),
            }
            return;
        }
        for part in text.split([',', ';']).map(str::trim) {
            if let Some((format, holds)) = date_format(part) {
                self.facts.push((FieldFact::Format(format, holds), place.clone()));
            } else if let Some(limits) = limits(part) {
                self.facts.extend(limits.into_iter().map(|fact| (fact, place.clone())));
            }
        }
        self.description.push((text.to_owned(), place.clone()));
    }

    /// Takes a rule in, or what a column of rules says of the field alone: "one decimal, at most 30".
    fn take_rule(&mut self, text: &str, place: Place) {
        let is_expression = text.contains(['=', '<', '>', '{']);
        let said = if is_expression { Vec::new() } else { facts(text, DictionaryColumn::Allowed) };
        let is_told = |fact: &FieldFact| !matches!(fact, FieldFact::Unread(_));
        if is_expression || said.iter().any(is_told) && said.iter().all(is_told) {
            self.facts.extend(said.into_iter().map(|fact| (fact, place.clone())));
        }
        if is_expression {
            self.rule = Some((text.to_owned(), place));
        } else {
            self.description.push((text.to_owned(), place));
        }
    }

    /// Takes another line of its values in: "1 White" below "0 None".
    fn go_on_with(&mut self, text: &str, place: Place) {
        let code = |text: &str| {
            let parted = ["=", ":", " – ", " - ", "\t", "  "].iter().find_map(|sign| text.split_once(sign));
            let (code, label) = parted.or_else(|| text.split_once(' ')).unwrap_or((text, ""));
            (code.trim().to_owned(), label.trim().to_owned())
        };
        for (fact, _) in &mut self.facts {
            match fact {
                FieldFact::Codes(codes) => return codes.push(code(text)),
                FieldFact::Unread(first) if !first.contains(". ") => {
                    *fact = FieldFact::Codes(vec![code(first), code(text)]);
                    return;
                }
                _ => {}
            }
        }
        self.facts.push((FieldFact::Codes(vec![code(text)]), place));
    }
}

fn described(
    material: &Material,
    sheet: &MaterialSheet,
    table: &Table,
    row: usize,
    name_column: usize,
) -> Described {
    let from = material.place(sheet, row, name_column);
    let name = &in_one_line(sheet.cells.cell(row, name_column));
    let mut field = Described::new(name.trim_end_matches(['*', ':']).trim(), from);
    // A star behind a name marks a field that must be filled.
    if name.ends_with('*') {
        field.facts.push((FieldFact::Required(true), field.from.clone()));
    }
    for (column, role) in table.roles.iter().enumerate() {
        // A cell merged over several fields says the same of all of them.
        let shared = || sheet.top_of_merged(row, column).filter(|_| matches!(role, Some(Role::Says(_))));
        let (row, text) = match sheet.cells.cell(row, column) {
            "" => shared().map_or((row, ""), |top| (top, sheet.cells.cell(top, column))),
            text => (row, text),
        };
        let Some(role) = role.filter(|_| !text.is_empty()) else { continue };
        let place = || material.place(sheet, row, column);
        match role {
            Role::Name | Role::Aside => {}
            Role::Example => field.example = Some((text.to_owned(), place())),
            // Beside the first another language has its own.
            Role::Label if !field.label.is_empty() => field.also.push(text.to_owned()),
            Role::Label => {
                text.clone_into(&mut field.label);
                field.label_from = Some(place());
            }
            Role::Also => field.also.extend(text.split(['|', ';', ',']).map(|name| name.trim().to_owned())),
            Role::Description | Role::Note => {
                // How a date is written may stand among the remarks.
                let first = text.split([',', ';', '\n']).next().unwrap_or_default();
                field.facts.extend(
                    date_format(first).map(|(format, holds)| (FieldFact::Format(format, holds), place())),
                );
                field.description.push((text.to_owned(), place()));
            }
            Role::Default => field.default = Some((text.to_owned(), place())),
            Role::Rule => field.take_rule(text, place()),
            Role::Table => text.clone_into(&mut field.table),
            // Beside M, which is mandatory, R is mostly recommended.
            Role::Says(DictionaryColumn::Required) if text == "R" && stands_in(sheet, table, column, "M") => {
                field.facts.push((FieldFact::Conditional("R".into()), place()));
            }
            // In a column of O and N the letters are the first of oui and non.
            Role::Says(DictionaryColumn::Required)
                if letter_of_yes(material, sheet, table, column, text) == Some(true) =>
            {
                field.facts.push((FieldFact::Required(true), place()));
            }
            // A column of nothing but O says "optional" of every field, or oui.
            Role::Says(DictionaryColumn::Required)
                if text.eq_ignore_ascii_case("o") && is_alone(sheet, table, column, text) =>
            {
                field.facts.push((FieldFact::Conditional(text.to_owned()), place()));
            }
            Role::Says(says) => field.facts.extend(facts(text, says).into_iter().map(|fact| (fact, place()))),
        }
    }
    field.also.retain(|name| !name.is_empty() && fold(name) != fold(&field.name));
    field
}
