//! A draft of a target's description, from whatever its owner supplied: data dictionaries, code
//! lists, templates, accepted files.
//!
//! Nothing is silently chosen: every line of the draft names the place it was drawn from, and what
//! two materials say differently, or what is only a likely reading, is a question.

mod again;
mod aligned;
mod answers;
mod checked_cells;
mod claim;
mod clauses;
mod code_lists;
mod conditions;
mod csvw;
mod date_words;
mod dictionary;
mod documents;
mod edited;
mod facts;
mod field_codes;
mod fields;
mod file_words;
mod headings;
mod json_schema;
mod leading_zeros;
mod limit_words;
mod list_columns;
mod listed;
mod mark_words;
mod number_fields;
mod parents;
mod prose;
mod remarks;
mod renamed;
mod retired;
mod rule_sheets;
mod samples;
mod tables;
mod template;
mod together;
mod told_by_values;
mod two_levels;
mod type_words;
mod valid;
mod vocabulary;
mod wording;
mod write;
mod xml_schema;

use std::path::{Path, PathBuf};

pub use again::Saved;
pub use answers::{Answered, answer};
pub use claim::{
    Assertion, Claims, Drafted, DraftedField, DraftedList, DraftedRule, Place, Question, Setting, TakenFrom,
    Weight,
};

pub use limit_words::stated_limits;
pub use write::Grouped;

use code_lists::FoundList;
use dictionary::Described;
use facts::fold;

use dusk_evidence::{Error, Result};
use dusk_sources::{MOST_ROWS, Sheet, sheets};

/// Something that the target's owner supplied.
#[derive(Debug)]
pub(crate) struct Material {
    path: PathBuf,
    file: String,
    sheets: Vec<MaterialSheet>,
}

/// A sheet of a material, and what is known of it so far.
#[derive(Debug)]
pub(crate) struct MaterialSheet {
    cells: Sheet,
    used: bool,
    /// Whether it is a code list.
    is_list: bool,
}

impl Material {
    fn open(path: &Path) -> Result<Self> {
        let plain = |mut cells: Sheet| {
            cells.without_marks_of_markdown();
            MaterialSheet { cells, used: false, is_list: false }
        };
        let read = match documents::sheets(path)? {
            Some(tables) => tables,
            None => sheets(path)?,
        };
        let mut sheets: Vec<MaterialSheet> = read.into_iter().map(plain).collect();
        // Columns aligned by spaces have no delimiter that a cell could end at.
        if let [only] = sheets.as_mut_slice()
            && only.cells.name.is_none()
            && let Some(aligned) = aligned::sheet(&std::fs::read(path).map_err(Error::reading(path))?)
        {
            only.cells = aligned;
        }
        let file = path
            .file_name()
            .map_or_else(|| path.display().to_string(), |name| name.to_string_lossy().into_owned());
        Ok(Self { path: path.to_path_buf(), file, sheets })
    }

    fn place(&self, sheet: &MaterialSheet, row: usize, column: usize) -> Place {
        Place { file: self.file.clone(), at: sheet.cells.place(row, column) }
    }

    fn whole(&self, sheet: &MaterialSheet) -> Place {
        let at = sheet.cells.name.as_ref().map_or_else(String::new, |name| format!("sheet {name}"));
        Place { file: self.file.clone(), at }
    }

    /// A line of a text.
    fn line(&self, number: usize) -> Place {
        Place { file: self.file.clone(), at: format!("line {number}") }
    }

    fn stem(&self) -> String {
        self.path.file_stem().map_or_else(String::new, |stem| stem.to_string_lossy().into_owned())
    }
}

impl MaterialSheet {
    /// What the sheet is called in questions.
    fn title(&self, material: &Material) -> String {
        self.cells.name.clone().unwrap_or_else(|| material.file.clone())
    }

    /// What a code list on it is called.
    fn list_title(&self, material: &Material) -> String {
        match &self.cells.name {
            // A sheet that no name says less than its file.
            Some(name) if !name.to_lowercase().starts_with("sheet") || material.sheets.len() > 1 => {
                name.clone()
            }
            _ => material.stem(),
        }
    }

    /// The rows below a header that are not blank, with their numbers.
    fn rows_below(&self, header: usize) -> impl Iterator<Item = (usize, &Vec<String>)> {
        self.cells.rows.iter().enumerate().skip(header + 1).filter(|(_, cells)| !cells.is_empty())
    }

    /// The first row of the merged range that the cell belongs to, where that range is one column wide and begins above.
    fn top_of_merged(&self, row: usize, column: usize) -> Option<usize> {
        let of_cell = |((top, left), (bottom, right)): &&((usize, usize), (usize, usize))| {
            *top < row && row <= *bottom && *left == column && *right == column
        };
        self.cells.merged.iter().find(of_cell).map(|((top, _), _)| *top)
    }

    /// True when the cell belongs to a merged range that begins above it.
    fn merged_below(&self, row: usize, column: usize) -> bool {
        self.cells.merged.iter().any(|((top, left), (bottom, right))| {
            *top < row && row <= *bottom && (*left..=*right).contains(&column)
        })
    }
}

/// What a draft is made with, beside its materials.
#[derive(Debug, Clone, Default)]
pub struct DraftOptions {
    /// What the target is called, where it is given.
    pub name: Option<String>,
    /// Which table of the materials, where they describe several.
    pub table: Option<String>,
    /// The folder that the description goes into, where that is known.
    pub folder: Option<PathBuf>,
}

/// Drafts a description from these materials.
///
/// # Errors
/// [`Error::File`] and [`Error::Source`] for a material that cannot be read; [`Error::Request`] when
/// none of them describes a field.
pub fn draft(materials: &[PathBuf], options: &DraftOptions) -> Result<Drafted> {
    let mut drafted = Drafted::default();
    let (mut described, mut lists, mut opened) = (Vec::new(), Vec::new(), Vec::new());
    for path in materials {
        drafted.materials.push(material_hash(path)?);
        if let Some(database) = dusk_database::open(path)? {
            tables::describe(database.as_ref(), path, options, &mut described, &mut lists, &mut drafted)?;
        } else if json_schema::is_one(path)? {
            json_schema::describe(path, &mut described, &mut drafted)?;
        } else if xml_schema::is_one(path)? {
            xml_schema::describe(path, options, &mut described, &mut drafted)?;
        } else if csvw::is_metadata(path)? {
            csvw::describe(path, options, &mut described, &mut lists, &mut drafted)?;
        } else {
            opened.push(Material::open(path)?);
        }
    }
    read_dictionaries(&mut opened, &mut described, &mut lists, &mut drafted);
    read_lists(&mut opened, &described, &mut lists, &mut drafted);
    fields::draft_fields(described, lists, &mut opened, options, &mut drafted)?;
    template::take_layouts(&mut opened, &mut drafted);
    opened.iter().for_each(|material| ask_about_sheets(material, &mut drafted));
    if drafted.fields.is_empty() {
        return Err(Error::Request(nothing_found(&drafted)));
    }
    drafted.order_questions();
    if let Some(name) = &options.name {
        drafted.name.clone_from(name);
    } else if drafted.name.is_empty() {
        let first = materials.first().and_then(|path| path.file_stem());
        drafted.name = first.map_or_else(String::new, |stem| stem.to_string_lossy().replace(['-', '_'], " "));
    }
    Ok(drafted)
}

/// The name and the hash of a material. A server has no bytes of its own: its name is all there is.
fn material_hash(path: &Path) -> Result<(String, String)> {
    let mut hash = blake3::Hasher::new();
    if dusk_database::is_server(path) {
        let name = dusk_database::shown(path);
        hash.update(name.as_bytes());
        return Ok((name, hash.finalize().to_hex().to_string()));
    }
    let file = std::fs::File::open(path).map_err(Error::reading(path))?;
    hash.update_reader(file).map_err(Error::reading(path))?;
    let name = path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    Ok((name, hash.finalize().to_hex().to_string()))
}

/// Sheets that were cut, not used, or hidden are said.
fn ask_about_sheets(material: &Material, drafted: &mut Drafted) {
    for sheet in material.sheets.iter().filter(|sheet| sheet.cells.is_cut) {
        let says = format!("only its first {MOST_ROWS} rows were looked at");
        drafted.ask(sheet.title(material), says, &material.whole(sheet));
    }
    for sheet in material.sheets.iter().filter(|sheet| !sheet.used && !sheet.cells.rows.is_empty()) {
        let whole = material.whole(sheet);
        if sheet.cells.width() < 2 || file_words::is_for_people(material, sheet) {
            read_title(material, sheet, sheet.cells.rows.len(), drafted);
            drafted.took(&whole, "text for people, read for what it says of the file");
            continue;
        }
        let says = "was not used: it is not a dictionary, a code list or a template of these fields";
        drafted.ask(sheet.title(material), says, &whole);
    }
    for sheet in material.sheets.iter().filter(|sheet| sheet.cells.hidden && sheet.used) {
        drafted.point_out(
            sheet.title(material),
            "is a hidden sheet, and was used like the others",
            &material.whole(sheet),
        );
    }
}

fn read_dictionaries(
    opened: &mut [Material],
    described: &mut Vec<Described>,
    lists: &mut Vec<FoundList>,
    drafted: &mut Drafted,
) {
    for material in opened {
        material.sheets.iter_mut().for_each(dictionary::turn_where_laid_across);
        let below: Vec<MaterialSheet> =
            material.sheets.iter_mut().filter_map(dictionary::lists_below).collect();
        material.sheets.extend(below);
        let mut used = Vec::new();
        for (number, sheet) in material.sheets.iter().enumerate() {
            let whole = material.whole(sheet);
            for evidence in
                sheet.cells.open_readings().filter(|evidence| evidence.claim != dusk_evidence::Claim::Header)
            {
                drafted.ask(
                    &material.file,
                    format!("it is not certain how the file is read: {}", evidence.claim),
                    &whole,
                );
            }
            if let Some(table) = dictionary::find(sheet) {
                let found = dictionary::fields(material, sheet, &table, drafted);
                drafted.took(
                    &whole,
                    format!("the dictionary: {} fields below row {}", found.len(), table.header + 1),
                );
                described.extend(found);
                dictionary::ask_about_unused(material, sheet, &table, drafted);
                read_title(material, sheet, table.header, drafted);
                used.push(number);
            } else if let Some(rules) = rule_sheets::rules(material, sheet) {
                drafted.took(&whole, format!("rules: {}", rules.len()));
                drafted.rules.extend(rules);
                used.push(number);
            } else {
                // The sheet is the template as well, so it is not used yet.
                described.extend(checked_cells::describe(material, sheet, lists, drafted));
            }
        }
        for (number, sheet) in material.sheets.iter_mut().enumerate() {
            sheet.used = used.contains(&number);
        }
    }
}

/// Code lists on all sheets but those whose headings are the fields': these are templates.
fn read_lists(
    opened: &mut [Material],
    described: &[Described],
    lists: &mut Vec<FoundList>,
    drafted: &mut Drafted,
) {
    let names: Vec<String> = described
        .iter()
        .flat_map(|one| [fold(&one.name), fold(&one.label)])
        .filter(|name| !name.is_empty())
        .collect();
    for material in opened {
        let mut used = Vec::new();
        for (number, sheet) in material.sheets.iter().enumerate().filter(|(_, sheet)| !sheet.used) {
            if let Some(levels) = two_levels::read(material, sheet, drafted) {
                lists.extend(levels);
                used.push(number);
                continue;
            }
            let mut blocks = if template::is_likely(sheet, described) {
                Vec::new()
            } else {
                code_lists::find(sheet, &names)
            };
            let in_sections = code_lists::sections(sheet);
            if blocks.len() < 2 && !in_sections.is_empty() {
                blocks = in_sections;
            }
            for block in &blocks {
                let whole = material.whole(sheet);
                let found = code_lists::read(material, sheet, block, blocks.len() == 1, drafted);
                for list in &found {
                    drafted.took(
                        &whole,
                        format!("the code list \"{}\": {} codes", list.list.title, list.list.codes.len()),
                    );
                }
                lists.extend(found);
                used.push(number);
            }
        }
        for (number, sheet) in material.sheets.iter_mut().enumerate() {
            sheet.is_list = used.contains(&number);
            sheet.used |= sheet.is_list;
        }
    }
}

/// What stands above a dictionary: its title, its version, and the most records of a file.
fn read_title(material: &Material, sheet: &MaterialSheet, header: usize, drafted: &mut Drafted) {
    let cells = (0..header).flat_map(|row| (0..sheet.cells.width()).map(move |column| (row, column)));
    for (row, column) in cells {
        let cell = sheet.cells.cell(row, column);
        for part in cell.split([';', '\n']).map(str::trim).filter(|part| !part.is_empty()) {
            let lower = part.to_lowercase();
            if let Some(version) = version_in(part) {
                drafted.version.get_or_insert(version);
                continue;
            }
            let of_records = lower.contains("record") || lower.contains("row") || lower.contains("line");
            let at_most = ["at most", "maximum", "max", "no more than", "up to"]
                .iter()
                .any(|words| lower.starts_with(words));
            let number: String = part.chars().filter(char::is_ascii_digit).collect();
            if of_records
                && at_most
                && let Ok(rows) = number.parse()
            {
                drafted.upload.set("max_rows", Setting::Whole(rows), &material.place(sheet, row, column));
            } else if drafted.name.is_empty() && header < sheet.cells.rows.len() {
                part.clone_into(&mut drafted.name);
            }
        }
    }
}

/// The version that a line names.
fn version_in(line: &str) -> Option<String> {
    let lower = line.to_lowercase();
    let behind = |word: &&str| Some(lower.find(*word)? + word.len());
    let at = ["version", "edition", "release"].iter().find_map(behind)?;
    let rest = line.get(at..).unwrap_or_default().trim_start_matches([':', ' ', '.']);
    let version: String =
        rest.chars().take_while(|c| !c.is_whitespace() && !matches!(c, ',' | ')')).collect();
    version.chars().any(|c| c.is_ascii_digit()).then_some(version)
}

fn nothing_found(drafted: &Drafted) -> String {
    let taken: Vec<String> =
        drafted.taken.iter().map(|taken| format!("\n  {}: {}", taken.from, taken.role)).collect();
    format!(
        "not one of the materials describes a field: a dictionary has a column of field names, and one for types, lengths, \
         values or what is required; a template has the headings of the upload file{}",
        taken.concat()
    )
}
