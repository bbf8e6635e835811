//! `[source]`: how the export is read.

use std::path::Path;

use super::readings::read_marks;
use super::record_layout::read_record_layout;
use dusk_description::fold;
use dusk_files::{At, Settings, beside};
use dusk_sources::{NO_DELIMITER, Position, RecordChoice, SheetChoice, SourceSettings, encoding_named};

/// What `[source]` says.
pub(super) struct SourceKeys {
    pub(super) source: SourceSettings,
    /// Words that stand for a blank cell, folded.
    pub(super) blank: Vec<String>,
    /// The marks before the decimals and between thousands, where all numbers are written so.
    pub(super) marks: (Option<char>, Option<char>),
}

/// Reads `[source]` of a mapping in `folder`.
pub(super) fn read_source(source: &mut Settings<'_>, folder: &Path) -> SourceKeys {
    let blank = source.texts("blank").into_iter().map(|word| fold(&word.value)).collect();
    let marks = read_marks(source);
    SourceKeys { source: read_layout(source, folder), blank, marks }
}

fn read_layout(source: &mut Settings<'_>, folder: &Path) -> SourceSettings {
    let usual = SourceSettings::default();
    let encoding = source.encoding("encoding", encoding_named);
    let other_lines = source.encoding("other_lines", encoding_named);
    if other_lines.is_some() && encoding.is_some_and(|encoding| encoding != encoding_rs::UTF_8) {
        source.problem(
            source.line(),
            "[source] other_lines goes with encoding = \"utf-8\" only",
            |problem| {
                problem.hint("lines that are valid UTF-8 are read as that, all others as other_lines says");
            },
        );
    }
    let mut mark = |key: &'static str, may_be_empty: bool| {
        let text = source.text(key)?;
        let count = text.value.chars().count();
        if text.value.contains(['\r', '\n']) || count > 8 || count == 0 && !may_be_empty {
            source.problem(text.line, format!("[source] {key} must be one character, or a few"), |problem| {
                problem.hint(format!("for example {key} = \";\", or \"\\t\" for a tab"));
            });
            return None;
        }
        Some(text.value)
    };
    let delimiter = mark("delimiter", false)
        .map(|delimiter| if delimiter == "none" { NO_DELIMITER.to_owned() } else { delimiter });
    let quote = mark("quote", true).unwrap_or(usual.quote);
    let escape = mark("escape", false);
    let line_break = mark("line_break", false);
    let between = mark("several", false);
    if delimiter.as_deref() == Some(quote.as_str()) {
        source.problem(source.line(), "[source] delimiter and quote are the same", |_| {});
    }
    let sheet = read_sheet(source);
    let each = source.text("each").map(|each| each.value);
    let by_indicator = read_tags(source);
    let written = source.texts("positions");
    let listed = layout_positions(source, folder);
    let positions = if listed.is_empty() {
        checked_positions(source, named_positions(source, &written))
    } else {
        checked_positions(source, listed)
    };
    let header_row = source.whole("header_row", 0).map(|row| row.value);
    let header_rows = source.whole("header_rows", 1).map_or(usual.header_rows, |rows| rows.value);
    if header_rows > 4 {
        source.problem(source.line(), "[source] header_rows is more than 4", |_| {});
    }
    let closing = source
        .texts("closing")
        .into_iter()
        .map(|text| text.value.trim().to_owned())
        .filter(|text| !text.is_empty())
        .collect();
    let across = source.choice("records", &[("down", false), ("across", true)]).unwrap_or(false);
    let missing_are_blank =
        source.choice("missing_cells", &[("reject", false), ("blank", true)]).unwrap_or(false);
    let rejoins = source.choice("split_rows", &[("reject", false), ("rejoin", true)]).unwrap_or(false);
    SourceSettings {
        encoding,
        other_lines,
        delimiter,
        quote,
        escape,
        line_break,
        sheet,
        records: RecordChoice { each, between, by_indicator },
        positions,
        only_usual_marks: false,
        header_row,
        header_rows,
        closing,
        across,
        missing_are_blank,
        rejoins,
    }
}

/// The columns of fixed-width text, each as `"1-6 Apiary No"`; the last may be open, as `"40- Remarks"`.
fn named_positions(source: &Settings<'_>, written: &[At<String>]) -> Vec<Position> {
    let mut positions = Vec::new();
    for text in written {
        match Position::read(&text.value) {
            Some(position) => positions.push(position),
            None => {
                let says = format!(
                    "[source] positions has \"{}\", which is not a range of characters and a name",
                    text.value
                );
                source.problem(text.line, says, |problem| {
                    problem.hint("for example \"1-6 Apiary No\": the first and the last character, counted from 1, and the column's name");
                });
            }
        }
    }
    positions
}

/// The columns that a record layout beside the mapping lists; none where none is named.
fn layout_positions(source: &mut Settings<'_>, folder: &Path) -> Vec<Position> {
    let Some(name) = source.text("layout") else { return Vec::new() };
    if source.has("positions") {
        source.misplaced(
            "positions",
            "[source] has layout and positions, which say the same; keep one of them",
        );
    }
    let read = beside(folder, &name.value).and_then(|path| read_record_layout(&path));
    read.unwrap_or_else(|error| {
        source.problem(name.line, format!("layout: {error}"), |_| {});
        Vec::new()
    })
}

/// The columns, once no two of them have a character or a name in common.
fn checked_positions(source: &Settings<'_>, found: Vec<Position>) -> Vec<Position> {
    let mut positions: Vec<Position> = Vec::new();
    for position in found {
        let overlaps = positions.iter().find(|other| other.overlaps(&position));
        let says = match overlaps {
            Some(other) => format!("\"{}\" and \"{}\" have characters in common", other.name, position.name),
            None if positions.iter().any(|other| other.name == position.name) => {
                format!("two columns are called \"{}\"", position.name)
            }
            None => {
                positions.push(position);
                continue;
            }
        };
        source.problem(source.line(), format!("[source] positions: {says}"), |problem| {
            problem.hint("each character of a line belongs to one column at most");
        });
    }
    positions
}

/// A sheet by its name, or by its number.
pub(super) fn read_sheet(source: &mut Settings<'_>) -> Option<SheetChoice> {
    if source.is_whole("sheet") {
        return source.whole("sheet", 1).map(|number| SheetChoice::Number(number.value));
    }
    source.text("sheet").map(|name| SheetChoice::Name(name.value))
}

/// `by_indicator = ["650"]`: the tags of bibliographic fields that are told apart by their indicators.
fn read_tags(source: &mut Settings<'_>) -> Vec<String> {
    let tags = source.texts("by_indicator");
    for tag in tags.iter().filter(|tag| tag.value.len() != 3 || tag.value.starts_with("00")) {
        let says =
            format!("[source] by_indicator \"{}\" is not the tag of a field with indicators", tag.value);
        source.problem(tag.line, says, |problem| problem.hint("for example by_indicator = [\"650\"]"));
    }
    tags.into_iter().map(|tag| tag.value).collect()
}
