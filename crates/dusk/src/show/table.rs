//! A table of texts, for people, documents, spreadsheet programs and programs.

use maud::html;

use super::layout::width;
use super::text_table::table_lines;
use super::visible::visible;
use crate::args::TableFormat;
use crate::outcome::Failure;

/// Headings and rows of texts.
pub(crate) struct SimpleTable {
    headings: Vec<&'static str>,
    rows: Vec<Vec<String>>,
}

impl SimpleTable {
    pub(crate) fn new(headings: &[&'static str]) -> Self {
        Self { headings: headings.to_vec(), rows: Vec::new() }
    }

    pub(crate) fn add(&mut self, cells: impl IntoIterator<Item = impl Into<String>>) {
        self.rows.push(cells.into_iter().map(Into::into).collect());
    }

    /// One row of it.
    pub(crate) fn only(mut self, place: usize) -> Self {
        self.rows = self.rows.into_iter().skip(place).take(1).collect();
        self
    }

    /// Without the columns that are blank in every row.
    pub(crate) fn without_blank_columns(mut self) -> Self {
        let filled =
            |column: usize| self.rows.iter().any(|row| row.get(column).is_some_and(|cell| !cell.is_empty()));
        let keep: Vec<bool> = (0..self.headings.len()).map(filled).collect();
        let kept = |place: &usize| keep.get(*place).copied().unwrap_or(false);
        self.headings = self
            .headings
            .iter()
            .enumerate()
            .filter(|(place, _)| kept(place))
            .map(|(_, heading)| *heading)
            .collect();
        for row in &mut self.rows {
            *row = std::mem::take(row)
                .into_iter()
                .enumerate()
                .filter(|(place, _)| kept(place))
                .map(|(_, cell)| cell)
                .collect();
        }
        self
    }

    /// The table in the wanted form.
    ///
    /// # Errors
    /// Never in practice: memory can be written to.
    pub(crate) fn print(&self, format: TableFormat) -> Result<String, Failure> {
        let stopped = |error: &dyn std::fmt::Display| Failure::Stopped(error.to_string());
        Ok(match format {
            TableFormat::Text => self.text(),
            TableFormat::Markdown => self.markdown(),
            TableFormat::Html => self.html(),
            TableFormat::Csv => {
                let mut writer = csv::Writer::from_writer(Vec::new());
                writer.write_record(&self.headings).map_err(|error| stopped(&error))?;
                for row in &self.rows {
                    writer.write_record(row).map_err(|error| stopped(&error))?;
                }
                let bytes = writer.into_inner().map_err(|error| stopped(&error))?;
                String::from_utf8(bytes).map_err(|error| stopped(&error))?
            }
            TableFormat::Json => {
                let rows: Vec<serde_json::Map<String, serde_json::Value>> = self
                    .rows
                    .iter()
                    .map(|row| {
                        let cells = self.headings.iter().zip(row);
                        cells
                            .map(|(heading, cell)| ((*heading).replace(' ', "_"), cell.as_str().into()))
                            .collect()
                    })
                    .collect();
                format!("{}\n", serde_json::to_string_pretty(&rows).map_err(|error| stopped(&error))?)
            }
        })
    }

    fn text(&self) -> String {
        format!("{}\n", table_lines(&self.headings, &self.rows, width()).join("\n"))
    }

    /// A table of a page.
    pub(crate) fn html(&self) -> String {
        let table = html! {
            table {
                thead { tr { @for heading in &self.headings { th scope="col" { (heading) } } } }
                tbody {
                    @for row in &self.rows { tr { @for cell in row { td { (visible(cell)) } } } }
                }
            }
        };
        table.into_string()
    }

    fn markdown(&self) -> String {
        let escaped = |text: &str| text.replace('\\', "\\\\").replace('|', "\\|").replace(['\n', '\r'], " ");
        let line = |cells: Vec<String>| format!("| {} |\n", cells.join(" | "));
        let mut out = line(self.headings.iter().map(|heading| (*heading).to_owned()).collect());
        out.push_str(&line(self.headings.iter().map(|_| "---".to_owned()).collect()));
        for row in &self.rows {
            out.push_str(&line(row.iter().map(|cell| escaped(&visible(cell))).collect()));
        }
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn table() -> SimpleTable {
        let mut table = SimpleTable::new(&["code", "label", "until"]);
        table.add(["W", "White | pale", ""]);
        table.add(["Y", "two\nlines, \"quoted\"", ""]);
        table
    }

    #[test]
    fn one_table_is_printed_for_whoever_reads_it() {
        let text = table().print(TableFormat::Text).unwrap();
        assert!(text.contains("two⏎lines") && text.lines().count() == 3, "{text}");
        let markdown = table().print(TableFormat::Markdown).unwrap();
        let lines: Vec<&str> = markdown.lines().collect();
        assert!(lines[1].chars().all(|c| matches!(c, '|' | '-' | ' ')), "{markdown}");
        // A bar inside a cell is none of the table's.
        assert!(lines.iter().all(|line| line.replace("\\|", "").matches('|').count() == 4), "{markdown}");
        let listed = table().print(TableFormat::Csv).unwrap();
        let mut reader = csv::Reader::from_reader(listed.as_bytes());
        let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
        assert_eq!(rows[1], ["Y", "two\nlines, \"quoted\"", ""][..]);
        let json: serde_json::Value =
            serde_json::from_str(&table().print(TableFormat::Json).unwrap()).unwrap();
        assert_eq!(json[1]["label"], "two\nlines, \"quoted\"");
    }

    #[test]
    fn blank_columns_are_left_out_where_that_is_wanted() {
        let text = table().without_blank_columns().print(TableFormat::Csv).unwrap();
        assert!(text.starts_with("code,label\n"), "{text}");
        assert_eq!(
            table().only(1).print(TableFormat::Csv).unwrap().lines().count(),
            3,
            "a cell has two lines"
        );
    }
}
