//! A template to fill in: a workbook whose cells are all text, or a file laid out as the upload.

use std::path::Path;

use jiff::civil::Date;
use rust_xlsxwriter::{
    Color, DataValidation, DataValidationErrorStyle, Format, FormatBorder, Note, Workbook, Worksheet,
    XlsxError,
};

use super::{Field, Target, UploadEncoder, UploadFormat, made_on};
use crate::types::DropDown;
use dusk_evidence::{Error, FieldId, Result};
use dusk_sources::{CellKind, Known, Source, SourceSettings};

/// The sheet to be filled in.
const RECORDS: &str = "Records";
/// The sheet with the code lists.
const CODES: &str = "Codes";
/// How many rows, or columns, have drop-down lists.
const ROOM: u32 = 5000;
/// The most columns that a sheet has.
const MOST_COLUMNS: u32 = 16_384;
/// The longest list that may stand in a drop-down itself, in characters.
const LONGEST_INLINE: usize = 255;

/// A template to fill in.
#[derive(Debug)]
pub struct Blank<'t> {
    /// The target.
    pub target: &'t Target,
    /// Records across the columns instead of down the rows.
    pub across: bool,
    /// Codes that are not valid on this day any more are left out of the drop-down lists.
    pub today: Date,
    /// What fills it.
    pub filling: Filling,
}

/// Rows that fill a template, a cell for each column of the upload file.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Filling {
    /// The rows.
    pub rows: Vec<Vec<String>>,
    /// Columns of the file that are of no field, and were left out.
    pub left_out: Vec<String>,
}

/// A column of the upload file.
struct Column<'t> {
    heading: &'t str,
    place: FieldId,
    field: &'t Field,
}

impl Filling {
    /// The rows of the file at `path`. Its columns are found by headings, names, labels and other
    /// names of the fields.
    ///
    /// # Errors
    /// [`Error::File`] and [`Error::Source`] when it cannot be read; [`Error::Request`] when no column
    /// is a field's.
    pub fn read(path: &Path, target: &Target) -> Result<Self> {
        let source = Source::look(path, &SourceSettings::default(), &Known::headings(&[]))?;
        let names = |column: &Column<'_>| -> Vec<String> {
            let field = column.field;
            let own = [Some(&field.name), field.label.as_ref()].into_iter().flatten().chain(&field.also);
            let single = field.headings().len() == 1;
            std::iter::once(fold(column.heading))
                .chain(own.filter(|_| single).map(|name| fold(name)))
                .collect()
        };
        let columns = columns(target);
        let places: Vec<Option<usize>> = columns
            .iter()
            .map(|column| {
                let exact = source.columns.iter().position(|heading| heading == column.heading);
                exact.or_else(|| {
                    source.columns.iter().position(|heading| names(column).contains(&fold(heading)))
                })
            })
            .collect();
        if places.iter().all(Option::is_none) {
            return Err(Error::Request(format!(
                "{}: not one of its {} columns has the name of a field of {}",
                source.name,
                source.columns.len(),
                target.name
            )));
        }
        let used = |place: usize| places.contains(&Some(place));
        let left_out = (0..source.columns.len())
            .filter(|place| !used(*place))
            .filter_map(|place| source.columns.get(place).cloned())
            .collect();
        let mut rows = Vec::new();
        let mut walk = source.walk()?;
        while let Some(mut cells) = walk.more()? {
            while let Some(row) = cells.next() {
                if !row.is_blank() {
                    let cell = |place: &Option<usize>| {
                        place.map_or("", |place| CellKind::of(row.nth(place)).1.trim()).to_owned()
                    };
                    rows.push(places.iter().map(cell).collect());
                }
            }
        }
        Ok(Self { rows, left_out })
    }
}

/// A name as it is compared here: letters and digits only, without case.
fn fold(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

fn columns(target: &Target) -> Vec<Column<'_>> {
    target
        .fields
        .with_ids()
        .flat_map(|(place, field)| {
            field.headings().into_iter().map(move |heading| Column { heading, place, field })
        })
        .collect()
}

impl Blank<'_> {
    /// The template as a delimited file, laid out as the upload is.
    ///
    /// # Errors
    /// [`Error::Request`] when a value cannot be written in the upload's encoding, or records are wanted
    /// across.
    pub fn delimited(&self) -> Result<Vec<u8>> {
        if self.across {
            return Err(Error::Request(
                "records across the columns go into a workbook; name a file ending in .xlsx".into(),
            ));
        }
        if self.target.upload.format != UploadFormat::Delimited {
            return Err(Error::Request(
                "the upload is not a delimited file; name a file that ends in .xlsx".into(),
            ));
        }
        let mut encoder = UploadEncoder::new(&self.target.upload).map_err(Error::Request)?;
        let mut bytes = encoder.mark();
        let columns = self.target.upload_columns();
        let mut rows = self.target.header_rows();
        if !self.target.upload.header {
            // Nobody could fill in a template whose columns have no names.
            rows.insert(0, columns.iter().map(|(_, heading)| *heading).collect());
        }
        for filled in &self.filling.rows {
            let mut cells = filled.iter().map(String::as_str);
            // Columns that the target does not use stay blank.
            let cell =
                |(field, _): &(Option<FieldId>, &str)| field.and_then(|_| cells.next()).unwrap_or_default();
            rows.push(columns.iter().map(cell).collect());
        }
        for cells in rows {
            for (place, cell) in cells.iter().enumerate() {
                if place > 0 {
                    bytes.extend_from_slice(encoder.delimiter());
                }
                encoder.value(cell, cells.len() == 1, &mut bytes).map_err(|fault| {
                    Error::Request(format!("\"{cell}\" {}; {}", fault.wrong(), fault.right()))
                })?;
            }
            bytes.extend_from_slice(encoder.line_end());
        }
        Ok(bytes)
    }

    /// The template as a workbook: required fields marked, drop-down lists, notes, and a sheet with
    /// the code lists.
    ///
    /// # Errors
    /// [`Error::Request`] when there are more columns or rows than a sheet has.
    pub fn workbook(&self) -> Result<Vec<u8>> {
        self.make_workbook().map_err(|error| Error::Request(format!("the workbook cannot be made: {error}")))
    }

    fn make_workbook(&self) -> std::result::Result<Vec<u8>, XlsxError> {
        let mut book = Workbook::new();
        book.set_properties(&made_on(self.today));
        let ranges = self.code_ranges();
        let formats = Formats::new();
        let sheet = book.add_worksheet().set_name(RECORDS)?;
        self.lay_out(sheet, &formats)?;
        for (number, column) in (0_u32..).zip(&columns(self.target)) {
            self.write_column(sheet, (number, column), &formats)?;
            if let Some(validation) = self.drop_down(column, &ranges) {
                let ((row, place), (last_row, last_place)) =
                    (self.at(number, 2), self.at(number, self.last()));
                sheet.add_data_validation(row, place, last_row, last_place, &validation)?;
            }
        }
        if ranges.iter().any(|range| range.length > 0) {
            let sheet = book.add_worksheet().set_name(CODES)?;
            self.write_codes(sheet, &ranges, &formats.text, &formats.usual)?;
        }
        book.save_to_buffer()
    }

    /// Where a record's cell of a column is, by row and column: records stand below one another, or side by side.
    fn at(&self, column: u32, record: u32) -> (u32, u16) {
        let short = |number: u32| u16::try_from(number).unwrap_or(u16::MAX);
        if self.across { (column, short(record)) } else { (record, short(column)) }
    }

    /// The last record for which there is a drop-down.
    fn last(&self) -> u32 {
        let room = ROOM.max(u32::try_from(self.filling.rows.len()).unwrap_or(u32::MAX));
        1 + if self.across { room.min(MOST_COLUMNS - 3) } else { room }
    }

    /// Writes a heading with its note, and what is filled in already.
    fn write_column(
        &self,
        sheet: &mut Worksheet,
        (number, column): (u32, &Column<'_>),
        formats: &Formats,
    ) -> std::result::Result<(), XlsxError> {
        let cells =
            || self.filling.rows.iter().map(|cells| cells.get(number as usize).map_or("", String::as_str));
        if !self.across {
            let widest = cells().chain([column.heading]).map(|cell| cell.chars().count()).max();
            let widest = widest.unwrap_or(0).clamp(10, 40) + 3;
            let (_, short) = self.at(number, 0);
            let width = u32::try_from(widest).unwrap_or(20);
            sheet.set_column_width(short, width)?.set_column_format(short, &formats.text)?;
        }
        let (format, mark) = match column.field.required {
            true => (&formats.required, "must be filled"),
            false => (&formats.usual, ""),
        };
        let ((row, place), (head_row, head_place)) = (self.at(number, 0), self.at(number, 1));
        sheet.write_string_with_format(row, place, mark, &formats.marked)?;
        sheet.write_string_with_format(head_row, head_place, column.heading, format)?;
        let note = Note::new(self.note(column)).set_width(320).set_height(150);
        sheet.insert_note(head_row, head_place, &note)?;
        for (record, cell) in (2_u32..).zip(cells()) {
            let (row, place) = self.at(number, record);
            sheet.write_string_with_format(row, place, cell, &formats.text)?;
        }
        Ok(())
    }

    /// What the note at a heading says.
    fn note(&self, column: &Column<'_>) -> String {
        let Some(words) = self.target.words(column.place) else { return String::new() };
        let required = if column.field.required { "must be filled" } else { "may be blank" };
        let of_code = column.field.kind.note(column.heading);
        let parts = [words.label, words.kind.to_owned(), words.format, words.values, words.description];
        let key = column.field.key.then(|| "part of what identifies a record".to_owned());
        let lines = parts.into_iter().chain(of_code).chain([required.to_owned()]).chain(key);
        lines.filter(|line| !line.is_empty()).collect::<Vec<_>>().join("\n")
    }

    fn drop_down(&self, column: &Column<'_>, ranges: &[CodeRange<'_>]) -> Option<DataValidation> {
        let validation = match column.field.kind.drop_down() {
            DropDown::Words(yes, no) => DataValidation::new().allow_list_strings(&[yes, no]).ok()?,
            DropDown::Codes(list) => {
                let range = ranges
                    .iter()
                    .find(|range| range.list.name == list.name)
                    .filter(|range| range.length > 0)?;
                let mut codes: Vec<&str> = range.codes(self.today).map(|code| code.code.as_str()).collect();
                let all = codes.len();
                let mut seen = hashbrown::HashSet::new();
                codes.retain(|code| seen.insert(*code));
                let inline =
                    codes.iter().map(|code| code.chars().count() + 1).sum::<usize>() <= LONGEST_INLINE;
                if codes.len() < all && inline && !codes.iter().any(|code| code.contains(',')) {
                    DataValidation::new().allow_list_strings(&codes).ok()?
                } else {
                    let first = range.first + 1;
                    let last = range.first + range.length;
                    DataValidation::new()
                        .allow_list_formula(format!("={CODES}!$B${first}:$B${last}").as_str().into())
                }
            }
            DropDown::Nothing => return None,
        };
        let words = self.target.words(column.place)?;
        let says =
            format!("{}: {}", words.name, if words.values.is_empty() { words.format } else { words.values });
        validation
            .ignore_blank(true)
            .set_error_style(DataValidationErrorStyle::Warning)
            .set_error_title("Not in the list")
            .and_then(|validation| validation.set_error_message(says.chars().take(200).collect::<String>()))
            .ok()
    }

    /// Where each code list stands on the sheet of codes, below its header row.
    fn code_ranges(&self) -> Vec<CodeRange<'_>> {
        let mut ranges: Vec<CodeRange<'_>> = Vec::new();
        let mut next = 1;
        for list in self.target.fields.iter().filter_map(|field| field.kind.codes()) {
            if ranges.iter().any(|range| range.list.name == list.name) {
                continue;
            }
            let mut range = CodeRange { list, first: next, length: 0 };
            range.length = u32::try_from(range.codes(self.today).count()).unwrap_or(u32::MAX);
            next = next.saturating_add(range.length);
            ranges.push(range);
        }
        ranges
    }

    fn write_codes(
        &self,
        sheet: &mut Worksheet,
        ranges: &[CodeRange<'_>],
        text: &Format,
        head: &Format,
    ) -> std::result::Result<(), XlsxError> {
        for (column, (heading, width)) in
            (0..).zip([("list", 18), ("code", 12), ("label", 30), ("within", 12), ("also", 40)])
        {
            sheet.set_column_width(column, width)?.set_column_format(column, text)?;
            sheet.write_string_with_format(0, column, heading, head)?;
        }
        for range in ranges {
            for (row, code) in (range.first..).zip(range.codes(self.today)) {
                let also = code.also.join(", ");
                for (column, cell) in
                    (0..).zip([&range.list.name, &code.code, &code.label, &code.within, &also])
                {
                    sheet.write_string_with_format(row, column, cell.as_str(), text)?;
                }
            }
        }
        sheet.set_freeze_panes(1, 0)?.set_print_fit_to_pages(1, 0);
        Ok(())
    }

    /// How the sheet of records looks: what stays in sight, and what is text.
    fn lay_out(&self, sheet: &mut Worksheet, formats: &Formats) -> std::result::Result<(), XlsxError> {
        sheet.set_landscape().set_print_fit_to_pages(1, 0);
        if self.across {
            let last = u16::try_from(MOST_COLUMNS - 1).unwrap_or(u16::MAX);
            sheet.set_column_range_format(0, last, &formats.text)?;
            sheet.set_column_width(0, 14)?.set_column_width(1, 24)?;
            sheet.set_freeze_panes(0, 2)?;
        } else {
            sheet.set_freeze_panes(2, 0)?;
        }
        Ok(())
    }
}

/// A code list on the sheet of codes.
struct CodeRange<'t> {
    list: &'t super::CodeList,
    first: u32,
    length: u32,
}

impl CodeRange<'_> {
    /// The codes that are still valid.
    fn codes(&self, today: Date) -> impl Iterator<Item = &super::Code> {
        self.list.codes().iter().filter(move |code| code.until.is_none_or(|until| until >= today))
    }
}

/// How the cells of a blank template look.
struct Formats {
    text: Format,
    /// What says that a column must be filled.
    marked: Format,
    /// The heading of such a column, and that of others.
    required: Format,
    usual: Format,
}

impl Formats {
    fn new() -> Self {
        let text = Format::new().set_num_format("@");
        let heading = |color: u32, border: FormatBorder| {
            text.clone().set_bold().set_background_color(Color::RGB(color)).set_border_bottom(border)
        };
        Self {
            marked: text.clone().set_italic().set_font_color(Color::RGB(0x8A_3B_12)),
            required: heading(0xF6_D9_A8, FormatBorder::Medium),
            usual: heading(0xE8_EC_EE, FormatBorder::Thin),
            text,
        }
    }
}
