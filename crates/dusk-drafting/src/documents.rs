//! Tables of documents for people: HTML pages and the documents of word processors (Office Open XML, ECMA-376). What stands
//! between the tables is kept as lines.

use std::fs::File;
use std::io::Read as _;
use std::path::Path;

use hashbrown::HashMap;
use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};

use dusk_evidence::{Error, Result};
use dusk_sources::{CellKind, Sheet};

/// A larger document is none that describes a target.
const MOST_BYTES: u64 = 32 << 20;

/// The most columns that one cell is believed to span, and the cells of a table beyond which none is.
const WIDEST: usize = 100;
const MOST_SPANNED: usize = 200_000;

/// A table of more columns, or of more merged cells, is not for people, and goes no further.
const MOST_COLUMNS: usize = 1_000;
const MOST_MERGED: usize = 20_000;

/// The tables of a document, and the lines between them; nothing for a file of another kind.
///
/// # Errors
/// [`Error::File`] when it cannot be read; [`Error::Source`] for a document whose text is not there.
pub(super) fn sheets(path: &Path) -> Result<Option<Vec<Sheet>>> {
    let mut head = [0; 512];
    let read = File::open(path).and_then(|mut file| file.read(&mut head)).map_err(Error::reading(path))?;
    let head = head.get(..read).unwrap_or_default();
    let text = if head.starts_with(b"PK\x03\x04") {
        let Some(text) = document_part(path)? else { return Ok(None) };
        text
    } else if is_page(head) {
        let mut bytes = Vec::new();
        let file = File::open(path).map_err(Error::reading(path))?;
        file.take(MOST_BYTES).read_to_end(&mut bytes).map_err(Error::reading(path))?;
        decoded(&bytes)
    } else {
        return Ok(None);
    };
    Ok(Some(Tables::of(&text).into_sheets()))
}

/// Whether a file begins as an HTML page does.
fn is_page(head: &[u8]) -> bool {
    let text = String::from_utf8_lossy(head).to_lowercase();
    let text = text.trim_start_matches(['\u{feff}', ' ', '\n', '\r', '\t']);
    ["<!doctype html", "<html", "<table", "<body", "<head"].iter().any(|begins| text.starts_with(begins))
}

/// A page's text, as its mark, its own words or its bytes have it.
fn decoded(bytes: &[u8]) -> String {
    let head = String::from_utf8_lossy(bytes.get(..1024).unwrap_or(bytes)).to_lowercase();
    let says = head.split("charset=").nth(1).map(|rest| {
        rest.trim_start_matches(['"', '\''])
            .split(['"', '\'', ';', '>', ' ', '/'])
            .next()
            .unwrap_or_default()
            .to_owned()
    });
    let named = says.and_then(|label| dusk_sources::encoding_named(&label));
    match (encoding_of_mark(bytes), std::str::from_utf8(bytes), named) {
        (None, Ok(text), None) => text.to_owned(),
        (mark, _, named) => {
            let encoding = mark.or(named).or_else(|| dusk_sources::encoding_named("windows-1252"));
            encoding.map_or_else(
                || String::from_utf8_lossy(bytes).into_owned(),
                |encoding| encoding.decode(bytes).0.into_owned(),
            )
        }
    }
}

fn encoding_of_mark(bytes: &[u8]) -> Option<&'static encoding_rs::Encoding> {
    encoding_rs::Encoding::for_bom(bytes).map(|(encoding, _)| encoding)
}

/// The text of a word processor's document; nothing for a packed file of another kind.
fn document_part(path: &Path) -> Result<Option<String>> {
    let file = File::open(path).map_err(Error::reading(path))?;
    let Ok(mut archive) = zip::ZipArchive::new(file) else { return Ok(None) };
    let Ok(part) = archive.by_name("word/document.xml") else { return Ok(None) };
    let mut text = String::new();
    part.take(MOST_BYTES).read_to_string(&mut text).map_err(|_| Error::Source {
        source_name: path.display().to_string(),
        says: "is a document whose text cannot be read".into(),
        hint: "save it again, or copy its tables into a workbook".into(),
    })?;
    Ok(Some(text))
}

/// Tables on their way from a document's marks.
#[derive(Debug, Default)]
struct Tables {
    done: Vec<Table>,
    /// The tables that are open; a table may stand in a cell of another.
    open: Vec<Table>,
    /// What stands outside of tables, line by line.
    lines: Vec<String>,
    line: String,
    /// Whether the last of the lines stands right before what comes next.
    is_above: bool,
}

/// A line of more letters than this above a table is no title.
const LONGEST_TITLE: usize = 40;

#[derive(Debug, Default)]
struct Table {
    /// The line right above it, where that is short.
    title: String,
    rows: Vec<Vec<String>>,
    merged: Vec<((usize, usize), (usize, usize))>,
    /// Cells that a cell above goes on into, by the column: how many rows more, and how many columns.
    reaching: HashMap<usize, (usize, usize)>,
    cell: Option<String>,
    spans: (usize, usize),
    goes_on: bool,
    /// How many cells there are.
    cells: usize,
}

impl Tables {
    fn of(text: &str) -> Self {
        let mut tables = Self::default();
        let mut reader = Reader::from_str(text);
        let config = reader.config_mut();
        config.check_end_names = false;
        config.allow_unmatched_ends = true;
        // What stands in these is not for people.
        let mut hidden = 0_u32;
        loop {
            match reader.read_event() {
                Ok(Event::Start(tag)) => {
                    let name = local(&tag);
                    if matches!(name.as_str(), "script" | "style" | "head") {
                        hidden += 1;
                    }
                    tables.start(&name, &tag);
                }
                Ok(Event::Empty(tag)) => {
                    let name = local(&tag);
                    tables.start(&name, &tag);
                    if matches!(name.as_str(), "td" | "th" | "tc" | "tr") {
                        tables.end(&name);
                    }
                }
                Ok(Event::End(tag)) => {
                    let name = tag.local_name().as_ref().to_lowercase();
                    if matches!(name.as_str(), "script" | "style" | "head") {
                        hidden = hidden.saturating_sub(1);
                    }
                    tables.end(&name);
                }
                Ok(Event::Text(text)) if hidden == 0 => tables.say(&text),
                Ok(Event::GeneralRef(entity)) if hidden == 0 => {
                    tables.say(&letter_of(&entity));
                }
                Ok(Event::CData(text)) if hidden == 0 => tables.say(&text),
                Ok(Event::Eof) | Err(_) => break,
                Ok(_) => {}
            }
        }
        tables.end_of_line();
        while let Some(mut table) = tables.open.pop() {
            table.end_cell();
            tables.done.push(table);
        }
        tables
    }

    fn start(&mut self, name: &str, tag: &BytesStart<'_>) {
        match name {
            "table" | "tbl" => {
                self.end_of_line();
                let title =
                    self.lines.last().filter(|line| self.is_above && line.chars().count() <= LONGEST_TITLE);
                let title = title.cloned().unwrap_or_default();
                self.is_above = false;
                self.open.push(Table { title, ..Table::default() });
            }
            "tr" => {
                if let Some(table) = self.open.last_mut() {
                    table.end_cell();
                    table.rows.push(Vec::new());
                }
            }
            "td" | "th" | "tc" => {
                if let Some(table) = self.open.last_mut() {
                    table.end_cell();
                    table.cell = Some(String::new());
                    table.spans = (count(tag, "rowspan"), count(tag, "colspan"));
                }
            }
            "gridspan" => {
                if let Some(table) = self.open.last_mut() {
                    table.spans.1 = count(tag, "val");
                }
            }
            // A cell of a document that goes on from the one above it says "continue", or nothing.
            "vmerge" => {
                if let Some(table) = self.open.last_mut() {
                    table.goes_on = value(tag, "val").is_none_or(|says| says != "restart");
                }
            }
            "br" | "p" | "li" | "div" | "h1" | "h2" | "h3" | "h4" => self.say_break(),
            _ => {}
        }
    }

    fn end(&mut self, name: &str) {
        match name {
            "table" | "tbl" => {
                if let Some(mut table) = self.open.pop() {
                    table.end_cell();
                    self.done.push(table);
                }
            }
            "td" | "th" | "tc" | "tr" => {
                if let Some(table) = self.open.last_mut() {
                    table.end_cell();
                }
            }
            "p" | "li" | "div" | "h1" | "h2" | "h3" | "h4" => self.say_break(),
            _ => {}
        }
    }

    fn say(&mut self, text: &str) {
        match self.open.last_mut().map(|table| &mut table.cell) {
            Some(Some(cell)) => cell.push_str(text),
            Some(None) => {}
            None => self.line.push_str(text),
        }
    }

    fn say_break(&mut self) {
        match self.open.last_mut().map(|table| &mut table.cell) {
            Some(Some(cell)) => {
                if !cell.trim().is_empty() && !cell.ends_with('\n') {
                    cell.push('\n');
                }
            }
            Some(None) => {}
            None => self.end_of_line(),
        }
    }

    fn end_of_line(&mut self) {
        let line = std::mem::take(&mut self.line);
        let plain = line.split_whitespace().collect::<Vec<_>>().join(" ");
        if !plain.is_empty() {
            self.is_above = true;
            self.lines.push(plain);
        }
    }

    /// A sheet for each table, and one for the lines.
    fn into_sheets(self) -> Vec<Sheet> {
        let mut sheets: Vec<Sheet> = Vec::new();
        for (number, table) in (1..).zip(self.done.into_iter().filter(|table| !table.rows.is_empty())) {
            let kinds = table.rows.iter().map(|row| vec![CellKind::Text; row.len()]).collect();
            let is_taken = |title: &str| sheets.iter().any(|sheet| sheet.name.as_deref() == Some(title));
            let title = if table.title.is_empty() || is_taken(&table.title) {
                format!("table {number}")
            } else {
                table.title
            };
            sheets.push(Sheet {
                name: Some(title),
                rows: table.rows,
                kinds,
                merged: table.merged,
                ..Sheet::default()
            });
        }
        if !self.lines.is_empty() {
            let rows: Vec<Vec<String>> = self.lines.into_iter().map(|line| vec![line]).collect();
            let kinds = rows.iter().map(|_| vec![CellKind::Text]).collect();
            sheets.push(Sheet { name: Some("text".into()), rows, kinds, ..Sheet::default() });
        }
        sheets
    }
}

impl Table {
    /// Puts the open cell into its row, with what it spans.
    fn end_cell(&mut self) {
        let Some(cell) = self.cell.take() else { return };
        let text = cell.lines().map(|line| line.split_whitespace().collect::<Vec<_>>().join(" "));
        let text = text.filter(|line| !line.is_empty()).collect::<Vec<_>>().join("\n");
        let row = self.rows.len().saturating_sub(1);
        // A page may claim more cells than memory holds.
        let may_span = self.cells < MOST_SPANNED;
        let (rows, columns) =
            if may_span { (self.spans.0.max(1), self.spans.1.clamp(1, WIDEST)) } else { (1, 1) };
        self.cells += columns;
        let goes_on = std::mem::take(&mut self.goes_on);
        self.spans = (0, 0);
        let Some(cells) = self.rows.last_mut() else { return };
        // Cells from above come first.
        while let Some((more, wide)) = self.reaching.get_mut(&cells.len()).filter(|(more, _)| *more > 0) {
            *more -= 1;
            cells.extend(std::iter::repeat_n(String::new(), *wide));
        }
        let column = cells.len();
        if column >= MOST_COLUMNS {
            return;
        }
        cells.push(if goes_on { String::new() } else { text });
        cells.extend(std::iter::repeat_n(String::new(), columns - 1));
        let has_room = self.merged.len() < MOST_MERGED;
        if goes_on {
            let above =
                self.merged.iter_mut().find(|((_, left), (bottom, _))| *left == column && *bottom + 1 == row);
            match above {
                Some((_, (bottom, _))) => *bottom = row,
                None if row > 0 && has_room => {
                    self.merged.push(((row - 1, column), (row, column + columns - 1)))
                }
                None => {}
            }
        } else if (rows > 1 || columns > 1) && has_room {
            self.merged.push(((row, column), (row + rows - 1, column + columns - 1)));
            if rows > 1 {
                self.reaching.insert(column, (rows - 1, columns));
            }
        }
    }
}

fn local(tag: &BytesStart<'_>) -> String {
    tag.local_name().as_ref().to_lowercase()
}

/// The value of an attribute, whatever stands before its name.
fn value(tag: &BytesStart<'_>, name: &str) -> Option<String> {
    tag.html_attributes().with_checks(false).flatten().find_map(|attribute| {
        let is_it = attribute.key.local_name().as_ref().eq_ignore_ascii_case(name);
        is_it.then(|| attribute.value.to_string())
    })
}

fn count(tag: &BytesStart<'_>, name: &str) -> usize {
    value(tag, name).and_then(|count| count.trim().parse().ok()).unwrap_or(1).min(1000)
}

/// What an entity of a page stands for.
fn letter_of(entity: &str) -> String {
    let number = |digits: &str| match digits.strip_prefix(['x', 'X']) {
        Some(hex) => u32::from_str_radix(hex, 16).ok(),
        None => digits.parse().ok(),
    };
    let by_number = entity.strip_prefix('#').and_then(number).and_then(char::from_u32).map(String::from);
    by_number
        .or_else(|| quick_xml::escape::resolve_html5_entity(entity).map(str::to_owned))
        .unwrap_or_else(|| format!("&{entity};"))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::Tables;

    proptest! {
        #[test]
        fn no_page_stops_it(pieces in prop::collection::vec(prop_oneof![
            Just("<table>"), Just("<tr>"), Just("<td rowspan=3 colspan=90>"), Just("<th rowspan=\"2\">"), Just("</td>"), Just("</table>"),
            Just("<w:tc>"), Just("<w:vMerge/>"), Just("<w:gridSpan w:val=\"4\"/>"), Just("a &amp; b"), Just("&#xFFFFFFFF;"), Just("<br"), Just(">"), Just("<!--"), Just("\"")
        ], 0..60)) {
            let sheets = Tables::of(&pieces.concat()).into_sheets();
            for sheet in &sheets {
                prop_assert_eq!(sheet.rows.len(), sheet.kinds.len());
            }
        }
    }

    #[test]
    fn tables_of_pages_and_documents_are_read_with_what_their_cells_span() {
        let page = "<!DOCTYPE html><head><title>x</title></head><h1>Kites &amp; lines</h1><p>UTF-8<br>please
            <table border=1><tr><th>Field<th>Type</th></tr><tr><td rowspan=2>a<td>text<tr><td>n&#x2013;m</table>";
        let document = "<w:p><w:r><w:t>Kites &amp; lines</w:t></w:r></w:p><w:p><w:t>UTF-8</w:t></w:p><w:p><w:t>please</w:t></w:p><w:tbl>
            <w:tr><w:tc><w:p><w:t>Field</w:t></w:p></w:tc><w:tc><w:p><w:t>Type</w:t></w:p></w:tc></w:tr>
            <w:tr><w:tc><w:tcPr><w:vMerge w:val=\"restart\"/></w:tcPr><w:p><w:t>a</w:t></w:p></w:tc><w:tc><w:p><w:t>te</w:t><w:t>xt</w:t></w:p></w:tc></w:tr>
            <w:tr><w:tc><w:tcPr><w:vMerge/></w:tcPr><w:p/></w:tc><w:tc><w:p><w:t>n–m</w:t></w:p></w:tc></w:tr></w:tbl>";
        for text in [page, document] {
            let sheets = Tables::of(text).into_sheets();
            let rows: Vec<Vec<Vec<String>>> = sheets.iter().map(|sheet| sheet.rows.clone()).collect();
            let expected = [
                vec![vec!["Field", "Type"], vec!["a", "text"], vec!["", "n–m"]],
                vec![vec!["Kites & lines"], vec!["UTF-8"], vec!["please"]],
            ];
            assert_eq!(rows, expected, "{text}");
            assert_eq!(sheets.first().map(|sheet| sheet.merged.clone()), Some(vec![((1, 0), (2, 0))]));
        }
    }
}
