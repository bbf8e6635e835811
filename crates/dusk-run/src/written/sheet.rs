//! An upload file that is a workbook: one sheet, written row by row in little memory.

use std::path::{Path, PathBuf};

use jiff::civil::Date;
use rust_xlsxwriter::{ExcelDateTime, Format, Workbook, Worksheet, XlsxError};

use super::upload_file::UploadFile;
use crate::running::table::cells_in;
use dusk_description::{DateType, FieldType, Target, Upload, save_workbook, workbook_for, writing};
use dusk_evidence::Result;
use dusk_files::OutputFile;
use dusk_values::{DatePattern, ValueType};

/// The most rows that a sheet has.
const MOST_ROWS: u32 = 1_048_576;

/// How many digits a number of a spreadsheet program keeps.
const KEPT_DIGITS: usize = 15;

/// A sheet being written.
pub(crate) struct SheetFile {
    name: String,
    path: PathBuf,
    book: Workbook,
    forms: Vec<CellForm>,
    text: Format,
    next: u32,
    rows: u64,
}

/// How the cells of a column are written.
enum CellForm {
    Text,
    Number,
    Date(Box<(DatePattern, Format)>),
}

impl SheetFile {
    pub(crate) fn create(
        target: &Target,
        folder: &Path,
        name: &str,
        sheet: &str,
        typed: bool,
        today: Date,
    ) -> Result<Self> {
        let forms = target.upload_columns().into_iter().map(|(place, _)| {
            let kind = place.and_then(|place| target.fields.get(place)).map(|field| &field.kind);
            match kind {
                Some(FieldType::Number(_)) if typed => CellForm::Number,
                Some(FieldType::Date(DateType { holds, format, .. }))
                    if typed && *holds != ValueType::Time =>
                {
                    CellForm::Date(Box::new((
                        format.clone(),
                        Format::new().set_num_format(display(format.text())),
                    )))
                }
                _ => CellForm::Text,
            }
        });
        let forms = forms.collect();
        let path = folder.join(name);
        let book = workbook_for(&path, today)?;
        let text = Format::new().set_num_format("@");
        let mut file = Self { name: name.to_owned(), path, book, forms, text, next: 0, rows: 0 };
        let path = file.path.clone();
        writing(&path, || file.begin(target, sheet))?;
        Ok(file)
    }

    fn begin(&mut self, target: &Target, sheet: &str) -> std::result::Result<(), XlsxError> {
        let worksheet = self.book.add_worksheet_with_constant_memory()?.set_name(sheet)?;
        for row in target.header_rows() {
            for (column, heading) in (0..).zip(row) {
                worksheet.write_string_with_format(self.next, column, heading, &self.text)?;
            }
            self.next += 1;
        }
        Ok(())
    }
}

impl UploadFile for SheetFile {
    fn next_line(&self) -> u64 {
        u64::from(self.next) + 1
    }

    fn append(&mut self, record: &[u8]) -> Result<()> {
        let cells = cells_in(record)?;
        let row = self.next;
        self.next += 1;
        self.rows += 1;
        let Self { path, book, forms, text: as_text, .. } = self;
        writing(path, || {
            let sheet = book.worksheet_from_index(0)?;
            for ((column, form), text) in (0..).zip(forms.iter()).zip(cells) {
                if !text.is_empty() {
                    write_cell(sheet, (row, column), form, text, as_text)?;
                }
            }
            Ok(())
        })
    }

    fn is_full_for(&self, _: &[u8], upload: &Upload) -> bool {
        self.next >= MOST_ROWS || upload.max_rows.is_some_and(|most| self.rows >= most)
    }

    fn finish(mut self: Box<Self>) -> Result<OutputFile> {
        save_workbook(&mut self.book, &self.path)?;
        OutputFile::of_file(&self.path, &self.name, self.rows)
    }
}

/// Writes a cell; what a typed cell would not keep exactly stays text.
fn write_cell(
    sheet: &mut Worksheet,
    (row, column): (u32, u16),
    form: &CellForm,
    text: &str,
    as_text: &Format,
) -> std::result::Result<(), XlsxError> {
    match form {
        CellForm::Number if text.bytes().filter(u8::is_ascii_digit).count() <= KEPT_DIGITS => {
            if let Ok(number) = text.parse::<f64>() {
                sheet.write_number(row, column, number)?;
                return Ok(());
            }
        }
        CellForm::Date(form) => {
            let (pattern, display) = &**form;
            if let Some(moment) = pattern.read(text).and_then(typed) {
                sheet.write_datetime_with_format(row, column, &moment, display)?;
                return Ok(());
            }
        }
        _ => {}
    }
    sheet.write_string_with_format(row, column, text, as_text)?;
    Ok(())
}

/// A day or a moment as a spreadsheet program keeps it; nothing for what it cannot keep.
fn typed(moment: dusk_values::Moment) -> Option<ExcelDateTime> {
    let part = |part: Option<i8>| u8::try_from(part.unwrap_or(0)).ok();
    let year = u16::try_from(moment.year?).ok().filter(|year| *year > 1900)?;
    let day = ExcelDateTime::from_ymd(year, part(moment.month)?, part(moment.day)?).ok()?;
    let hour = u16::from(part(moment.hour)?);
    (moment.nanosecond == 0).then_some(())?;
    day.and_hms(hour, part(moment.minute)?, f64::from(part(moment.second)?)).ok()
}

/// A Unicode date pattern as a spreadsheet program's display format.
fn display(pattern: &str) -> String {
    pattern
        .chars()
        .map(|c| match c {
            'M' | 'H' => c.to_ascii_lowercase(),
            '\'' => '"',
            other => other,
        })
        .collect()
}
