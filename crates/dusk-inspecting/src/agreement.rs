//! What was agreed of a delivery beforehand: its columns and their order, how it is written, how its days are, and how many
//! rows it has. A delivery is held against it, and each deviation is told with its place.

use std::fmt::Write as _;
use std::path::Path;

use encoding_rs::Encoding;

use dusk_evidence::{Error, Problems, Result};
use dusk_files::{Settings, SettingsFile, toml_text};
use dusk_sources::{CellKind, RowCells, Source, encoding_named};
use dusk_values::DatePattern;

/// The forms of days that an agreement is written with, the stricter of two first.
const FORMS: [&str; 12] = [
    "yyyy-MM-dd",
    "dd/MM/yyyy",
    "MM/dd/yyyy",
    "dd.MM.yyyy",
    "dd-MM-yyyy",
    "yyyy/MM/dd",
    "yyyyMMdd",
    "d/M/yyyy",
    "d.M.yyyy",
    "yyyy-MM-dd HH:mm",
    "yyyy-MM-dd'T'HH:mm:ss",
    "dd/MM/yyyy HH:mm",
];

/// The words for line ends, and their bytes.
const LINE_ENDS: [(&str, &str); 3] = [("crlf", "\r\n"), ("lf", "\n"), ("cr", "\r")];

/// How often values stand in quotes, by the words of descriptions.
const QUOTINGS: [(&str, &str); 3] =
    [("always", "always"), ("when-needed", "when-needed"), ("never", "never")];

/// What was agreed. What is left out was not agreed, and is not looked at.
#[derive(Debug, Default)]
pub struct Agreement {
    encoding: Option<&'static Encoding>,
    bom: Option<bool>,
    delimiter: Option<String>,
    quoting: Option<&'static str>,
    line_end: Option<&'static str>,
    sheet: Option<String>,
    header_row: Option<u64>,
    rows: (Option<u64>, Option<u64>),
    columns: Vec<AgreedColumn>,
}

/// A column that was agreed.
#[derive(Debug)]
struct AgreedColumn {
    name: String,
    /// How its days are written, as text and as what reads it.
    dates: Option<(String, DatePattern)>,
}

/// Something that is not as it was agreed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Deviation {
    /// Where: a row, a column, or the file as a whole.
    pub place: String,
    /// What was agreed, and what is there.
    pub says: String,
}

impl Agreement {
    /// Reads what was agreed.
    ///
    /// # Errors
    /// [`Error::File`] when the file cannot be read; [`Error::Problems`] names every line that is wrong.
    pub fn read(path: &Path) -> Result<Self> {
        let file = SettingsFile::read(path)?;
        let mut problems = Problems::default();
        let agreement = file.read_with(&mut problems, |top| {
            let mut agreement = top.table("delivery", Self::of_delivery);
            agreement.columns = top.tables("column", AgreedColumn::read).into_iter().flatten().collect();
            agreement
        });
        problems.or(agreement)
    }

    fn of_delivery(delivery: &mut Settings<'_>) -> Self {
        let bom = delivery.has("bom").then(|| delivery.flag("bom", false));
        Self {
            encoding: delivery.encoding("encoding", encoding_named),
            bom,
            delimiter: delivery.text("delimiter").map(|text| text.value),
            quoting: delivery.choice("quoting", &QUOTINGS),
            line_end: delivery.choice("line_end", &LINE_ENDS),
            sheet: delivery.text("sheet").map(|text| text.value),
            header_row: delivery.whole("header_row", 1).map(|row| row.value),
            rows: (
                delivery.whole("least_rows", 0).map(|rows| rows.value),
                delivery.whole("most_rows", 0).map(|rows| rows.value),
            ),
            columns: Vec::new(),
        }
    }

    /// Holds a delivery against it. `path` is the file, for what its bytes alone tell; nothing for a stream.
    ///
    /// # Errors
    /// [`Error::File`] when reading fails.
    pub fn deviations(&self, source: &Source, path: Option<&Path>) -> Result<Vec<Deviation>> {
        let mut found = Vec::new();
        self.of_layout(source, path, &mut found)?;
        self.of_columns(source, &mut found);
        self.of_rows(source, &mut found)?;
        Ok(found)
    }

    fn of_layout(&self, source: &Source, path: Option<&Path>, found: &mut Vec<Deviation>) -> Result<()> {
        let mut differ = |what: &str, agreed: String, is: String| {
            if agreed != is {
                let says = format!("{what} {agreed} was agreed, and it is {is}");
                found.push(Deviation { place: source.name.clone(), says });
            }
        };
        if let Some(header) = self.header_row {
            differ("the header in row", header.to_string(), source.header_row.to_string());
        }
        if let Some(workbook) = &source.workbook {
            if let Some(sheet) = &self.sheet {
                differ("the sheet", quoted(sheet), quoted(&workbook.sheet));
            }
            if self.delimiter.is_some() || self.encoding.is_some() {
                differ("delimited text,", "not a workbook".into(), "a workbook".into());
            }
            return Ok(());
        }
        if self.sheet.is_some() {
            differ("a workbook,", "not text".into(), "text".into());
        }
        if let Some(encoding) = self.encoding {
            let name = |encoding: &'static Encoding| encoding.name().to_ascii_lowercase();
            // Text of ASCII alone is the same in nearly all of them.
            let is_ascii = path.is_some_and(|path| std::fs::read(path).is_ok_and(|bytes| bytes.is_ascii()));
            if !is_ascii {
                differ("the encoding", name(encoding), name(source.encoding.encoding));
            }
        }
        if let Some(bom) = self.bom {
            let said = |bom: bool| if bom { "a byte order mark" } else { "no byte order mark" }.to_owned();
            differ("", said(bom), said(source.encoding.mark > 0));
        }
        if let Some(delimiter) = &self.delimiter {
            differ("the delimiter", shown(delimiter), shown(source.dialect.delimiter()));
        }
        if let Some(quoting) = self.quoting {
            self.of_quotes(quoting, source, found);
        }
        if let (Some(agreed), Some(path)) = (self.line_end, path) {
            let mut start = Vec::new();
            let file = std::fs::File::open(path).map_err(Error::reading(path))?;
            std::io::Read::read_to_end(&mut std::io::Read::take(file, 1 << 16), &mut start)
                .map_err(Error::reading(path))?;
            let text = String::from_utf8_lossy(&start);
            let word =
                |end: &str| LINE_ENDS.iter().find(|(_, bytes)| *bytes == end).map_or("", |(word, _)| word);
            let is = LINE_ENDS.iter().find(|(_, bytes)| text.contains(bytes)).map_or("", |(_, bytes)| bytes);
            if !is.is_empty() && is != agreed {
                let says = format!("the line end {} was agreed, and it is {}", word(agreed), word(is));
                found.push(Deviation { place: source.name.clone(), says });
            }
        }
        Ok(())
    }

    /// Quotes in the first lines, which are kept as they stand.
    fn of_quotes(&self, quoting: &str, source: &Source, found: &mut Vec<Deviation>) {
        let quote = match source.dialect.quote() {
            "" => "\"",
            quote => quote,
        };
        for (number, line) in (1..).zip(&source.first_lines) {
            let bare = line.trim_end_matches(['\r', '\n']);
            let is_fine = match quoting {
                "never" => !bare.contains(quote),
                "always" => bare.is_empty() || bare.starts_with(quote) && bare.ends_with(quote),
                _ => true,
            };
            if !is_fine {
                let says =
                    format!("the quoting agreed is {quoting}, and this line does not follow it: {bare}");
                found.push(Deviation { place: format!("{} row {number}", source.name), says });
                return;
            }
        }
    }

    fn of_columns(&self, source: &Source, found: &mut Vec<Deviation>) {
        if self.columns.is_empty() {
            return;
        }
        let row = format!("{} row {}", source.name, source.header_row);
        let agreed: Vec<&str> = self.columns.iter().map(|column| column.name.as_str()).collect();
        let mut put = |says: String| found.push(Deviation { place: row.clone(), says });
        for (place, name) in (1..).zip(&agreed) {
            match source.headings.iter().position(|heading| heading == name) {
                None => {
                    put(format!("the column {} (number {place}) was agreed, and is missing", quoted(name)))
                }
                Some(at) if at + 1 != place && source.headings.len() == agreed.len() => {
                    put(format!(
                        "the column {} was agreed as number {place}, and is number {}",
                        quoted(name),
                        at + 1
                    ));
                }
                Some(_) => {}
            }
        }
        for (place, heading) in (1..).zip(source.headings.iter()) {
            if !agreed.contains(&heading.as_str()) {
                put(format!("the column {} (number {place}) was not agreed", quoted(heading)));
            }
        }
        // With columns missing or new the order of the others tells.
        let common: Vec<&str> =
            source.headings.iter().map(String::as_str).filter(|heading| agreed.contains(heading)).collect();
        let wanted: Vec<&str> = agreed.iter().copied().filter(|name| common.contains(name)).collect();
        if source.headings.len() != agreed.len() && common != wanted {
            put(format!("the columns were agreed in the order {}", wanted.join(", ")));
        }
    }

    fn of_rows(&self, source: &Source, found: &mut Vec<Deviation>) -> Result<()> {
        let dates: Vec<(usize, &AgreedColumn)> = self
            .columns
            .iter()
            .filter(|column| column.dates.is_some())
            .filter_map(|column| {
                Some((source.headings.iter().position(|name| *name == column.name)?, column))
            })
            .collect();
        // For each of them how many values are written otherwise, and the first of them.
        let mut otherwise: Vec<(u64, Option<(u64, String)>)> = vec![(0, None); dates.len()];
        let rows = for_each_row(source, |row| {
            for ((column, agreed), (count, first)) in dates.iter().zip(&mut otherwise) {
                let (kind, text) = CellKind::of(row.nth(*column));
                let text = text.trim();
                let Some((_, pattern)) = &agreed.dates else { continue };
                if text.is_empty() || kind == CellKind::Date || pattern.read(text).is_some() {
                    continue;
                }
                *count += 1;
                first.get_or_insert_with(|| (row.row().0, text.to_owned()));
            }
        })?;
        for ((_, agreed), (count, first)) in dates.iter().zip(otherwise) {
            if let (Some((row, value)), Some((form, _))) = (first, &agreed.dates) {
                let says = format!(
                    "the days of {} were agreed as {form}, and {count} {} written in another form, first {}",
                    quoted(&agreed.name),
                    if count == 1 { "is" } else { "are" },
                    quoted(&value)
                );
                found.push(Deviation { place: format!("{} row {row}", source.name), says });
            }
        }
        let (least, most) = self.rows;
        let says = match (least.filter(|least| rows < *least), most.filter(|most| rows > *most)) {
            (Some(least), _) => Some(format!("{least} rows or more were agreed, and there are {rows}")),
            (None, Some(most)) => Some(format!("at most {most} rows were agreed, and there are {rows}")),
            (None, None) => None,
        };
        found.extend(says.map(|says| Deviation { place: source.name.clone(), says }));
        Ok(())
    }
}

impl AgreedColumn {
    fn read(column: &mut Settings<'_>) -> Option<Self> {
        let name = column.required_text("name");
        let dates = column.text("dates").and_then(|form| match DatePattern::parse(&form.value) {
            Ok(pattern) => Some((form.value, pattern)),
            Err(says) => {
                column.problem(form.line, format!("[[column]] dates: {says}"), |problem| {
                    problem.hint("for example dates = \"dd/MM/yyyy\"");
                });
                None
            }
        });
        Some(Self { name: name?.value, dates })
    }
}

/// What a delivery is, as an agreement for the next ones, to be read over and changed.
///
/// # Errors
/// [`Error::File`] when reading fails.
pub fn agreement_of(source: &Source) -> Result<String> {
    let mut forms: Vec<Vec<(&str, DatePattern)>> = Vec::new();
    for _ in source.headings.iter() {
        let all = FORMS.iter().filter_map(|form| Some((*form, DatePattern::parse(form).ok()?)));
        forms.push(all.collect());
    }
    let mut filled = vec![0_u64; forms.len()];
    let rows = for_each_row(source, |row| {
        for (column, (forms, filled)) in forms.iter_mut().zip(&mut filled).enumerate() {
            let (kind, text) = CellKind::of(row.nth(column));
            if text.trim().is_empty() || kind == CellKind::Date {
                continue;
            }
            *filled += 1;
            if !forms.is_empty() {
                forms.retain(|(_, pattern)| {
                    pattern.read(text.trim()).is_some_and(|moment| {
                        moment.month.is_none_or(|month| (1..=12).contains(&month))
                            && moment.day.is_none_or(|day| (1..=31).contains(&day))
                    })
                });
            }
        }
    })?;
    let mut text = String::from(
        "# What is agreed of a delivery. What is taken out here is not looked at.\n\n[delivery]\n",
    );
    match &source.workbook {
        Some(workbook) => {
            let _ = writeln!(text, "sheet = {}", toml_text(&workbook.sheet));
        }
        None => {
            let _ = writeln!(
                text,
                "encoding = {}",
                toml_text(&source.encoding.encoding.name().to_ascii_lowercase())
            );
            let _ = writeln!(text, "bom = {}", source.encoding.mark > 0);
            let _ = writeln!(text, "delimiter = {}", toml_text(source.dialect.delimiter()));
        }
    }
    let _ = writeln!(text, "header_row = {}", source.header_row);
    let _ = writeln!(text, "least_rows = 1\n# most_rows = {rows}   # as many as this one has");
    for ((name, forms), filled) in source.headings.iter().zip(forms).zip(filled) {
        let _ = writeln!(text, "\n[[column]]\nname = {}", toml_text(name));
        // "dd" and "d" both read 13.11.2026; the stricter one stands first.
        let strict = forms.first().map(|(form, _)| form.replace("dd", "d").replace("MM", "M"));
        let others = forms.iter().skip(1).filter(|(form, _)| Some(*form) != strict.as_deref()).count();
        // Where two forms read all of them, the delivery does not say which is meant.
        if let (Some((form, _)), 0, true) = (forms.first(), others, filled > 0) {
            let _ = writeln!(text, "dates = {}", toml_text(form));
        }
    }
    Ok(text)
}

/// Looks at every row that is not blank, and counts them.
fn for_each_row(source: &Source, mut look: impl FnMut(&RowCells<'_>)) -> Result<u64> {
    let mut rows = 0_u64;
    let mut walk = source.walk()?;
    while let Some(mut block) = walk.more()? {
        while let Some(row) = block.next() {
            if !row.is_blank() {
                rows += 1;
                look(&row);
            }
        }
    }
    Ok(rows)
}

fn quoted(text: &str) -> String {
    format!("\"{text}\"")
}

fn shown(delimiter: &str) -> String {
    if delimiter == "\t" { "tab".into() } else { quoted(delimiter) }
}
