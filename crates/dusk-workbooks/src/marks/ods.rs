//! OpenDocument sheets.

use std::io::BufReader;
use std::path::Path;

use quick_xml::events::{BytesStart, Event};

use super::super::container;
use super::super::value::Shown;
use super::{SheetMarks, range_shown};

/// Hidden rows, merged cells and displays of a sheet.
pub(crate) fn of_ods(path: &Path, sheet: &str) -> SheetMarks {
    read(path, sheet).unwrap_or_default()
}

fn read(path: &Path, sheet: &str) -> Option<SheetMarks> {
    let mut archive = container::open(path).ok()?;
    let content = archive.by_name("content.xml").ok()?;
    let mut xml = quick_xml::Reader::from_reader(BufReader::with_capacity(1 << 16, content));
    xml.config_mut().expand_empty_elements = true;
    let (mut walk, mut buffer, mut inside) = (Walk::default(), Vec::new(), false);
    loop {
        buffer.clear();
        match xml.read_event_into(&mut buffer).ok()? {
            Event::Start(tag) if tag.name().as_ref() == "table:table" && !inside => {
                inside = text_of(&tag, "table:name").as_deref() == Some(sheet);
            }
            Event::End(tag) if inside && tag.name().as_ref() == "table:table" => return Some(walk.marks),
            Event::Start(tag) if inside => walk.start(&tag),
            Event::Text(text) if inside => walk.text(&text),
            Event::End(tag) if inside => walk.end(tag.name().as_ref()),
            Event::Eof => return None,
            _ => {}
        }
    }
}

/// The walk through a table.
#[derive(Debug, Default)]
struct Walk {
    marks: SheetMarks,
    row: u32,
    row_repeats: u32,
    column: u32,
    cells: Vec<(u32, u32, Shown)>,
    cell: Cell,
    /// How deep the walk is below the cell: notes in it have paragraphs of their own.
    below: u32,
}

/// The cell that the walk is in.
#[derive(Debug, Default)]
struct Cell {
    repeats: u32,
    number: Option<String>,
    percent: bool,
    displayed: String,
}

impl Walk {
    fn start(&mut self, tag: &BytesStart<'_>) {
        let repeats = |name: &str| text_of(tag, name).and_then(|text| text.parse().ok()).unwrap_or(1).max(1);
        match tag.name().as_ref() {
            "table:table-row" => {
                (self.row_repeats, self.column) = (repeats("table:number-rows-repeated"), 0);
                if text_of(tag, "table:visibility").is_some_and(|seen| seen != "visible") {
                    let first = u64::from(self.row) + 1;
                    self.marks.hide(first, u64::from(self.row) + u64::from(self.row_repeats));
                }
            }
            "table:table-cell" | "table:covered-table-cell" => {
                let kind = text_of(tag, "office:value-type");
                let number = matches!(kind.as_deref(), Some("float" | "percentage"))
                    .then(|| text_of(tag, "office:value"))
                    .flatten();
                let (wide, high) =
                    (repeats("table:number-columns-spanned"), repeats("table:number-rows-spanned"));
                if wide > 1 || high > 1 {
                    let last = (self.row.saturating_add(high - 1), self.column.saturating_add(wide - 1));
                    self.marks.merged.push(range_shown((self.row, self.column), last));
                }
                let repeats = repeats("table:number-columns-repeated");
                let percent = kind.as_deref() == Some("percentage");
                self.cell = Cell { repeats, number, percent, displayed: String::new() };
                self.below = 0;
            }
            _ => self.below += 1,
        }
    }

    fn text(&mut self, text: &str) {
        if self.below == 1 && self.cell.number.is_some() {
            self.cell.displayed.push_str(text);
        }
    }

    fn end(&mut self, name: &str) {
        match name {
            "table:table-row" => {
                let next = self.row.saturating_add(self.row_repeats);
                self.marks.displays.push(self.row, next.saturating_sub(1), std::mem::take(&mut self.cells));
                self.row = next;
            }
            "table:table-cell" | "table:covered-table-cell" => {
                let cell = std::mem::take(&mut self.cell);
                let next = self.column.saturating_add(cell.repeats);
                let shown = cell.shown();
                if shown != Shown::Plain {
                    self.cells.push((self.column, next.saturating_sub(1), shown));
                }
                self.column = next;
            }
            _ => self.below = self.below.saturating_sub(1),
        }
    }
}

impl Cell {
    fn shown(&self) -> Shown {
        let Some(number) = &self.number else { return Shown::Plain };
        let digits = &self.displayed;
        let zeros = digits.starts_with('0')
            && digits.len() > number.len()
            && digits.bytes().all(|byte| byte.is_ascii_digit())
            && digits.trim_start_matches('0') == number.trim_start_matches('0');
        match (self.percent, zeros) {
            (true, _) => Shown::Percent,
            (false, true) => Shown::Zeros(digits.len()),
            (false, false) => Shown::Plain,
        }
    }
}

fn text_of(tag: &BytesStart<'_>, name: &str) -> Option<String> {
    let attribute = tag.try_get_attribute(name).ok()??;
    Some(attribute.normalized_value(quick_xml::XmlVersion::Implicit1_0).ok()?.into_owned())
}
