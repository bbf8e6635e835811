//! OpenDocument sheets (ODF 1.2, part 1, chapter 9), cell by cell: rows and cells may be repeated any number of times
//! in a few bytes, so nothing is held but the row at hand.

use std::cell::Cell;
use std::fs::File;
use std::io::{self, BufReader, Read};
use std::rc::Rc;
use std::sync::Arc;

use quick_xml::events::Event;

use super::chosen::choose;
use super::container::{self, protected};
use super::limits::{LONGEST_PIECE, too_long};
use super::marks::SheetMarks;
use super::ods_cells::{Walk, attribute};
use super::sheet::Sheet;
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
    let mut facts = choose("ods", &named, choice, is_filled)?;
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
