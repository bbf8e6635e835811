//! The rows and cells of an OpenDocument table, as its tags and texts come by.

use calamine::DataRef;
use quick_xml::events::BytesStart;

use super::limits::{LONGEST_CELL, LONGEST_ROW, MOST_COLUMNS, MOST_MERGED, MOST_ROWS, too_far, too_long};
use super::marks::{SheetMarks, range_shown};
use super::sheet::Sheet;
use super::value::Shown;
use dusk_evidence::Refusal;

/// The walk through a table.
#[derive(Debug, Default)]
pub(super) struct Walk {
    pub(super) marks: SheetMarks,
    /// The row at hand, from 0, and how often it is repeated.
    pub(super) row: u64,
    row_repeats: u64,
    /// The cells of the row that hold something.
    cells: Vec<Filled>,
    /// How much they take together.
    length: usize,
    column: u64,
    cell: Option<OpenCell>,
}

/// A cell that holds something, in every one of its columns.
#[derive(Debug)]
struct Filled {
    column: u64,
    repeats: u64,
    value: Value,
    shown: Shown,
}

/// What a cell holds, by its attributes.
#[derive(Debug, Default)]
enum Value {
    /// What its paragraphs say.
    #[default]
    Text,
    Number(f64),
    Boolean(bool),
    Date(String),
    Duration(String),
    Said(String),
    Nothing,
}

/// The cell that the walk is in.
#[derive(Debug, Default)]
struct OpenCell {
    repeats: u64,
    value: Value,
    /// The number as it is written.
    number: Option<String>,
    is_percent: bool,
    /// What its own paragraphs say.
    text: String,
    paragraphs: u32,
    /// How deep the walk is in a paragraph of its own, or in a note.
    in_paragraph: u32,
    in_note: u32,
}

impl Walk {
    pub(super) fn start(&mut self, tag: &BytesStart<'_>) -> Result<(), Refusal> {
        let number = |name: &str| attribute(tag, name).and_then(|text| text.parse::<u64>().ok());
        let repeats = |name: &str| number(name).unwrap_or(1).max(1);
        match (tag.name().as_ref(), &mut self.cell) {
            ("table:table-row", _) => {
                self.row_repeats = repeats("table:number-rows-repeated");
                self.column = 0;
                if attribute(tag, "table:visibility").is_some_and(|seen| seen != "visible") {
                    self.marks.hide(self.row + 1, self.row.saturating_add(self.row_repeats));
                }
            }
            ("table:table-cell" | "table:covered-table-cell", _) => {
                let (wide, high) =
                    (repeats("table:number-columns-spanned"), repeats("table:number-rows-spanned"));
                if wide.max(high) > 1 && self.marks.merged.len() < MOST_MERGED {
                    let at = |row: u64, column: u64| {
                        let small = |number: u64| u32::try_from(number).unwrap_or(u32::MAX);
                        (small(row), small(column))
                    };
                    let last = at(self.row.saturating_add(high - 1), self.column.saturating_add(wide - 1));
                    self.marks.merged.push(range_shown(at(self.row, self.column), last));
                }
                self.cell = Some(OpenCell::of(tag, repeats("table:number-columns-repeated")));
            }
            (name, Some(cell)) => cell.start(name, number("text:c"), self.row)?,
            _ => {}
        }
        Ok(())
    }

    pub(super) fn text(&mut self, text: &str) -> Result<(), Refusal> {
        match &mut self.cell {
            Some(cell) if cell.in_paragraph > 0 && cell.in_note == 0 => cell.push(text, self.row),
            _ => Ok(()),
        }
    }

    pub(super) fn end(&mut self, name: &str, sheet: &mut Sheet<'_>) -> Result<(), Refusal> {
        match name {
            "table:table-row" => {
                let last = self.row.saturating_add(self.row_repeats);
                if !self.cells.is_empty() {
                    for row in self.row..last {
                        self.write(row, sheet)?;
                    }
                }
                self.cells.clear();
                (self.row, self.length) = (last, 0);
            }
            "table:table-cell" | "table:covered-table-cell" => {
                if let Some(cell) = self.cell.take() {
                    self.take(cell)?;
                }
            }
            name => {
                if let Some(cell) = &mut self.cell {
                    cell.end(name);
                }
            }
        }
        Ok(())
    }

    /// Keeps a cell of the row at hand, where it holds something.
    fn take(&mut self, cell: OpenCell) -> Result<(), Refusal> {
        let (column, repeats) = (self.column, cell.repeats);
        self.column = column.saturating_add(repeats);
        let shown = cell.shown();
        let value = match cell.value {
            Value::Text if cell.text.is_empty() => return Ok(()),
            Value::Text => Value::Said(cell.text),
            Value::Nothing => return Ok(()),
            value => value,
        };
        if self.column > u64::from(MOST_COLUMNS) || self.row >= MOST_ROWS {
            return Err(too_far(self.row + 1, self.column));
        }
        if let Value::Said(text) | Value::Date(text) | Value::Duration(text) = &value {
            let columns = usize::try_from(repeats).unwrap_or(usize::MAX);
            self.length = self.length.saturating_add(text.len().saturating_mul(columns));
        }
        if self.length > LONGEST_ROW {
            return Err(too_long(self.row + 1));
        }
        self.cells.push(Filled { column, repeats, value, shown });
        Ok(())
    }

    /// Writes the cells of the row at hand as those of `row`.
    fn write(&self, row: u64, sheet: &mut Sheet<'_>) -> Result<(), Refusal> {
        for cell in &self.cells {
            let value = match &cell.value {
                Value::Number(number) => DataRef::Float(*number),
                Value::Boolean(value) => DataRef::Bool(*value),
                Value::Date(text) => DataRef::DateTimeIso(text.clone()),
                Value::Duration(text) => DataRef::DurationIso(text.clone()),
                Value::Said(text) => DataRef::SharedString(text),
                Value::Text | Value::Nothing => continue,
            };
            for column in cell.column..cell.column + cell.repeats {
                let at = |number: u64| u32::try_from(number).map_err(|_| too_far(row + 1, column + 1));
                sheet.take((at(row)?, at(column)?), &value, cell.shown)?;
            }
        }
        Ok(())
    }
}

impl OpenCell {
    fn of(tag: &BytesStart<'_>, repeats: u64) -> Self {
        let said = |name: &str| attribute(tag, name);
        let kind = said("office:value-type").unwrap_or_default();
        // An error's text may stand in its paragraph alone.
        let is_error = said("calcext:value-type").as_deref() == Some("error");
        let number = said("office:value");
        let value = match kind.as_str() {
            "float" | "percentage" | "currency" => {
                number.as_deref().and_then(|text| text.trim().parse().ok()).map_or(Value::Text, Value::Number)
            }
            "boolean" => Value::Boolean(
                said("office:boolean-value").is_some_and(|text| text.eq_ignore_ascii_case("true")),
            ),
            "date" => said("office:date-value").map_or(Value::Text, Value::Date),
            "time" => said("office:time-value").map_or(Value::Text, Value::Duration),
            "string" => match said("office:string-value") {
                Some(text) if !(is_error && text.is_empty()) => Value::Said(text),
                _ => Value::Text,
            },
            _ if is_error => Value::Text,
            _ => Value::Nothing,
        };
        let number = number.filter(|_| matches!(kind.as_str(), "float" | "percentage"));
        Self { repeats, value, number, is_percent: kind == "percentage", ..Self::default() }
    }

    fn start(&mut self, name: &str, count: Option<u64>, row: u64) -> Result<(), Refusal> {
        match name {
            "office:annotation" => self.in_note += 1,
            _ if self.in_note > 0 => {}
            "text:p" => {
                self.in_paragraph += 1;
                if self.in_paragraph == 1 {
                    self.paragraphs += 1;
                    if self.paragraphs > 1 {
                        self.push("\n", row)?;
                    }
                }
            }
            "text:tab" => self.push("\t", row)?,
            "text:line-break" => self.push("\n", row)?,
            "text:s" => {
                let count = usize::try_from(count.unwrap_or(1)).unwrap_or(usize::MAX);
                if self.text.len().saturating_add(count) > LONGEST_CELL {
                    return Err(too_long(row + 1));
                }
                self.text.extend(std::iter::repeat_n(' ', count));
            }
            _ => {}
        }
        Ok(())
    }

    fn end(&mut self, name: &str) {
        match name {
            "office:annotation" => self.in_note = self.in_note.saturating_sub(1),
            "text:p" if self.in_note == 0 => self.in_paragraph = self.in_paragraph.saturating_sub(1),
            _ => {}
        }
    }

    fn push(&mut self, text: &str, row: u64) -> Result<(), Refusal> {
        if self.text.len() + text.len() > LONGEST_CELL {
            return Err(too_long(row + 1));
        }
        self.text.push_str(text);
        Ok(())
    }

    fn shown(&self) -> Shown {
        let Some(number) = &self.number else { return Shown::Plain };
        let digits = &self.text;
        let zeros = digits.starts_with('0')
            && digits.len() > number.len()
            && digits.bytes().all(|byte| byte.is_ascii_digit())
            && digits.trim_start_matches('0') == number.trim_start_matches('0');
        match (self.is_percent, zeros) {
            (true, _) => Shown::Percent,
            (false, true) => Shown::Zeros(digits.len()),
            (false, false) => Shown::Plain,
        }
    }
}

/// An attribute of a tag, as text.
pub(super) fn attribute(tag: &BytesStart<'_>, name: &str) -> Option<String> {
    let attribute = tag.try_get_attribute(name).ok()??;
    Some(attribute.normalized_value(quick_xml::XmlVersion::Implicit1_0).ok()?.into_owned())
}
