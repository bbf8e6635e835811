//! OpenDocument sheets (ODF 1.2, part 1, chapter 9), cell by cell: rows and cells may be repeated any number of times
//! in a few bytes, so nothing is held but the row at hand.

use std::cell::Cell;
use std::fs::File;
use std::io::{self, BufReader, Read};
use std::rc::Rc;
use std::sync::Arc;

use calamine::DataRef;
use quick_xml::events::{BytesStart, Event};

use super::container::{self, protected};
use super::limits::{LONGEST_CELL, LONGEST_PIECE, LONGEST_ROW, MOST_COLUMNS, MOST_MERGED, MOST_ROWS};
use super::limits::{too_far, too_long};
use super::marks::{SheetMarks, range_shown};
use super::reader::{self, Sheet};
use super::value::Shown;
use super::{SheetChoice, WorkbookFacts, damaged};
use dusk_evidence::Refusal;

/// Reads the sheet that is chosen.
pub(super) fn read(
    file: &Arc<File>,
    choice: Option<&SheetChoice>,
    sheet: &mut Sheet<'_>,
) -> Result<WorkbookFacts, Refusal> {
    let mut archive = container::open(file)?;
    refuse_protected(&mut archive)?;
    let tables = Content::of(&mut archive)?.tables()?;
    let named: Vec<(String, bool)> =
        tables.iter().map(|table| (table.name.clone(), table.is_hidden)).collect();
    let is_filled = |name: &str| tables.iter().any(|table| table.name == name && table.is_filled);
    let mut facts = reader::choose("ods", &named, choice, is_filled)?;
    // Of two tables of one name the first is read.
    let place = tables.iter().position(|table| table.name == facts.sheet).unwrap_or(0);
    let marks = Content::of(&mut archive)?.cells(place, sheet)?;
    marks.noted_in(&mut facts);
    Ok(facts)
}

fn refuse_protected(archive: &mut container::Archive) -> Result<(), Refusal> {
    let Ok(entry) = archive.by_name("META-INF/manifest.xml") else { return Ok(()) };
    let mut text = Vec::new();
    let read = entry.take(1 << 20).read_to_end(&mut text);
    let is_protected = read.is_ok() && memchr::memmem::find(&text, b"encryption-data").is_some();
    if is_protected { Err(protected()) } else { Ok(()) }
}

/// A table of a document.
#[derive(Debug, Default)]
struct Table {
    name: String,
    is_hidden: bool,
    is_filled: bool,
}

/// The text of a document, event by event.
struct Content<'z> {
    xml: quick_xml::Reader<BufReader<Measured<zip::read::ZipFile<'z, BufReader<super::PlacedFile>>>>>,
    buffer: Vec<u8>,
    /// How many bytes the next event may still take.
    left: Rc<Cell<u64>>,
    row: u64,
}

/// Stops where one event takes more than any should.
struct Measured<R> {
    inner: R,
    left: Rc<Cell<u64>>,
}

impl<R: Read> Read for Measured<R> {
    fn read(&mut self, bytes: &mut [u8]) -> io::Result<usize> {
        let left = self.left.get();
        if left == 0 {
            return Err(io::ErrorKind::FileTooLarge.into());
        }
        let read = self.inner.read(bytes)?;
        self.left.set(left.saturating_sub(read as u64));
        Ok(read)
    }
}

impl<'z> Content<'z> {
    fn of(archive: &'z mut container::Archive) -> Result<Self, Refusal> {
        let entry = archive.by_name("content.xml").map_err(|error| damaged(&error.to_string()))?;
        let left = Rc::new(Cell::new(LONGEST_PIECE));
        let measured = Measured { inner: entry, left: Rc::clone(&left) };
        let mut xml = quick_xml::Reader::from_reader(BufReader::with_capacity(1 << 16, measured));
        xml.config_mut().expand_empty_elements = true;
        Ok(Self { xml, buffer: Vec::new(), left, row: 1 })
    }

    /// The next event; the end of the document is damage where something is open.
    fn next(&mut self) -> Result<Event<'_>, Refusal> {
        self.buffer.clear();
        self.left.set(LONGEST_PIECE);
        match self.xml.read_event_into(&mut self.buffer) {
            Err(quick_xml::Error::Io(error)) if error.kind() == io::ErrorKind::FileTooLarge => {
                Err(too_long(self.row))
            }
            Err(error) => Err(damaged(&error.to_string())),
            Ok(event) => Ok(event),
        }
    }

    /// Every table, and whether it holds anything.
    fn tables(mut self) -> Result<Vec<Table>, Refusal> {
        let (mut tables, mut hidden, mut style) = (Vec::<Table>::new(), Vec::new(), String::new());
        let mut depth = 0_u32;
        loop {
            match self.next()? {
                Event::Start(tag) => match tag.name().as_ref() {
                    "style:style" => style = attribute(&tag, "style:name").unwrap_or_default(),
                    "style:table-properties"
                        if attribute(&tag, "table:display").as_deref() == Some("false") =>
                    {
                        hidden.push(style.clone());
                    }
                    "table:table" => {
                        depth += 1;
                        if depth == 1 {
                            let style = attribute(&tag, "table:style-name").unwrap_or_default();
                            tables.push(Table {
                                name: attribute(&tag, "table:name").unwrap_or_default(),
                                is_hidden: hidden.contains(&style),
                                is_filled: false,
                            });
                        }
                    }
                    "table:table-cell" => {
                        let is_filled = attribute(&tag, "office:value-type").is_some();
                        if let Some(table) = tables.last_mut() {
                            table.is_filled |= is_filled;
                        }
                    }
                    _ => {}
                },
                Event::End(tag) if tag.name().as_ref() == "table:table" => depth = depth.saturating_sub(1),
                Event::Eof => return Ok(tables),
                _ => {}
            }
        }
    }

    /// The cells of the table at `place`, and what it says beside them.
    fn cells(mut self, place: usize, sheet: &mut Sheet<'_>) -> Result<SheetMarks, Refusal> {
        let (mut walk, mut before, mut depth) = (Walk::default(), 0, 0_u32);
        loop {
            self.row = walk.row + 1;
            let event = self.next()?;
            let inside = depth > 0 && before == place + 1;
            match event {
                Event::Start(tag) if tag.name().as_ref() == "table:table" => {
                    depth += 1;
                    before += usize::from(depth == 1);
                }
                Event::End(tag) if tag.name().as_ref() == "table:table" => {
                    depth = depth.saturating_sub(1);
                    if inside && depth == 0 {
                        return Ok(walk.marks);
                    }
                }
                // A table inside a cell is none of the sheet's.
                _ if depth > 1 => {}
                Event::Start(tag) if inside => walk.start(&tag)?,
                Event::Text(text) if inside => walk.text(&text)?,
                Event::CData(text) if inside => walk.text(&text)?,
                Event::GeneralRef(name) if inside => {
                    let known = quick_xml::escape::resolve_xml_entity(&name).map(str::to_owned);
                    let letter = || name.resolve_char_ref().ok().flatten().map(String::from);
                    walk.text(&known.or_else(letter).unwrap_or_else(|| format!("&{};", &*name)))?;
                }
                Event::End(tag) if inside => walk.end(tag.name().as_ref(), sheet)?,
                Event::Eof => return Err(damaged("its table has no end")),
                _ => {}
            }
        }
    }
}

/// The walk through a table.
#[derive(Debug, Default)]
struct Walk {
    marks: SheetMarks,
    /// The row at hand, from 0, and how often it is repeated.
    row: u64,
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
    fn start(&mut self, tag: &BytesStart<'_>) -> Result<(), Refusal> {
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

    fn text(&mut self, text: &str) -> Result<(), Refusal> {
        match &mut self.cell {
            Some(cell) if cell.in_paragraph > 0 && cell.in_note == 0 => cell.push(text, self.row),
            _ => Ok(()),
        }
    }

    fn end(&mut self, name: &str, sheet: &mut Sheet<'_>) -> Result<(), Refusal> {
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
            "boolean" => Value::Boolean(said("office:boolean-value").is_some_and(|text| text == "true")),
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

fn attribute(tag: &BytesStart<'_>, name: &str) -> Option<String> {
    let attribute = tag.try_get_attribute(name).ok()??;
    Some(attribute.normalized_value(quick_xml::XmlVersion::Implicit1_0).ok()?.into_owned())
}

#[cfg(test)]
mod tests {
    use std::io::{Read as _, Write as _};

    use calamine::{Data, Ods, Reader as _};
    use proptest::prelude::*;

    use super::*;
    use crate::{Container, spool};

    /// A document with this text between its beginning and its end, as a file.
    fn file_of(styles: &str, tables: &str) -> Arc<File> {
        let content = format!(
            "<?xml version=\"1.0\"?><office:document-content>{styles}<office:body><office:spreadsheet>{tables}\
             </office:spreadsheet></office:body></office:document-content>"
        );
        let file = tempfile::tempfile().unwrap();
        let mut archive = zip::ZipWriter::new(file);
        let mut part = |name: &str, text: &str| {
            archive.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
            archive.write_all(text.as_bytes()).unwrap();
        };
        part("mimetype", "application/vnd.oasis.opendocument.spreadsheet");
        part("META-INF/manifest.xml", "<manifest:manifest/>");
        part("content.xml", &content);
        Arc::new(archive.finish().unwrap())
    }

    /// The rows of the sheet that is chosen, as they are spooled.
    fn rows(file: &Arc<File>, sheet: Option<&SheetChoice>) -> Result<(WorkbookFacts, Vec<String>), Refusal> {
        let mut spooled = spool(file, Container::Ods, sheet)?;
        let mut text = String::new();
        std::io::Seek::rewind(&mut spooled.file).unwrap();
        spooled.file.read_to_string(&mut text).unwrap();
        Ok((spooled.facts, text.lines().map(str::to_owned).collect()))
    }

    #[test]
    fn texts_are_what_their_paragraphs_say() {
        let says = |inside: &str| {
            let cell = format!("<table:table-cell office:value-type=\"string\">{inside}</table:table-cell>");
            let table = format!(
                "<table:table table:name=\"S\"><table:table-row>{cell}</table:table-row></table:table>"
            );
            rows(&file_of("", &table), None).unwrap().1.join("|").replace('\u{1e}', "'")
        };
        assert_eq!(says("<text:p>a<text:span>b</text:span>c</text:p>"), "abc");
        assert_eq!(says("<text:p>a<text:s text:c=\"3\"/>b<text:tab/>c</text:p>"), "a   b\tc");
        assert_eq!(says("<text:p>one</text:p><text:p/><text:p>three</text:p>"), "'one||three'");
        assert_eq!(says("<text:p>&lt;&amp;&#x42;&#67;</text:p>"), "<&BC");
        assert_eq!(
            says("<office:annotation><text:p>a note</text:p></office:annotation><text:p>x</text:p>"),
            "x"
        );
        assert_eq!(
            says(
                "<table:table><table:table-row><table:table-cell office:value-type=\"float\" office:value=\"1\"/></table:table-row></table:table><text:p>x</text:p>"
            ),
            "x"
        );
    }

    #[test]
    fn sheets_are_told_by_name_and_hidden_ones_are_said() {
        let styles = "<office:automatic-styles><style:style style:name=\"ta2\"><style:table-properties table:display=\"false\"/></style:style></office:automatic-styles>";
        let cell = |text: &str| {
            format!(
                "<table:table-row><table:table-cell office:value-type=\"string\"><text:p>{text}</text:p></table:table-cell></table:table-row>"
            )
        };
        let table = |name: &str, style: &str, inside: &str| {
            format!("<table:table table:name=\"{name}\" table:style-name=\"{style}\">{inside}</table:table>")
        };
        let all = [
            table("Blank", "ta1", "<table:table-row/>"),
            table("One", "ta1", &cell("1")),
            table("Two", "ta2", &cell("2")),
        ];
        let file = file_of(styles, &all.concat());
        let read = |choice: SheetChoice| {
            rows(&file, Some(&choice)).map(|(facts, rows)| (facts.sheet, rows.join("|")))
        };
        assert_eq!(read(SheetChoice::Number(3)).unwrap(), ("Two".into(), "2".into()));
        assert_eq!(read(SheetChoice::Name("One".into())).unwrap(), ("One".into(), "1".into()));
        let refused = rows(&file, None).unwrap_err();
        assert!(refused.hint.contains("3 \"Two\" (hidden)"), "{}", refused.hint);
        // The only one that holds anything needs no choice.
        let file = file_of("", &all.get(..2).unwrap().concat());
        assert_eq!(rows(&file, None).unwrap().0.sheet, "One");
    }

    /// A cell as it is written, repeated so often.
    fn cell() -> impl Strategy<Value = (String, usize)> {
        let tag = |attributes: String, text: &str| {
            format!("<table:table-cell {attributes}><text:p>{text}</text:p></table:table-cell>")
        };
        let number = (-9999_i32..9999).prop_map(move |number| {
            tag(
                format!(
                    "office:value-type=\"float\" office:value=\"{}.{}\"",
                    number / 10,
                    number.unsigned_abs() % 10
                ),
                "shown",
            )
        });
        let text = "[a-z \\t]{1,6}".prop_map(move |text| tag("office:value-type=\"string\"".into(), &text));
        let day = (1..28).prop_map(move |day| {
            tag(format!("office:value-type=\"date\" office:date-value=\"2026-04-{day:02}\""), "day")
        });
        let truth = any::<bool>().prop_map(move |truth| {
            tag(format!("office:value-type=\"boolean\" office:boolean-value=\"{truth}\""), "T")
        });
        let blank = Just("<table:table-cell/>".to_owned());
        (prop_oneof![number, text, day, truth, blank], 1..4_usize)
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// Cell by cell it is what a library that holds whole sheets reads.
        #[test]
        fn a_sheet_read_row_by_row_is_the_sheet_read_as_a_whole(
            table in prop::collection::vec((prop::collection::vec(cell(), 0..5), 1..4_usize), 1..8),
        ) {
            let repeated = |tag: &str, of: &str, times: usize| {
                tag.replacen(of, &format!("{of} table:number-{}-repeated=\"{times}\"", if of.ends_with("row") { "rows" } else { "columns" }), 1)
            };
            let row = |(cells, times): &(Vec<(String, usize)>, usize)| {
                let cells: String = cells.iter().map(|(cell, times)| repeated(cell, "<table:table-cell", *times)).collect();
                repeated(&format!("<table:table-row>{cells}</table:table-row>"), "<table:table-row", *times)
            };
            let written: String = table.iter().map(row).collect();
            let file = file_of("", &format!("<table:table table:name=\"S\">{written}</table:table>"));
            let (_, ours) = rows(&file, None).unwrap();
            let mut library: Ods<_> = Ods::new(BufReader::new(crate::PlacedFile::new(&file))).unwrap();
            let range = library.worksheet_range("S").unwrap();
            let theirs: Vec<((usize, usize), &Data)> = range
                .used_cells()
                .map(|(row, column, value)| {
                    let (top, left) = range.start().unwrap();
                    ((row + top as usize, column + left as usize), value)
                })
                .collect();
            let cells = ours.iter().enumerate().flat_map(|(row, line)| {
                line.split('\u{1f}').enumerate().map(move |(column, text)| ((row, column), text))
            });
            let ours: Vec<((usize, usize), &str)> = cells.filter(|(_, text)| !text.is_empty()).collect();
            prop_assert_eq!(ours.len(), theirs.len());
            for ((at, text), (place, value)) in ours.into_iter().zip(theirs) {
                let text = crate::CellKind::of(text).1;
                let says = match value {
                    Data::Bool(truth) => truth.to_string().to_uppercase(),
                    Data::DateTimeIso(day) => day.clone(),
                    other => other.to_string(),
                };
                prop_assert_eq!((at, text), (place, says.as_str()));
            }
        }
    }
}
