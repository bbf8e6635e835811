//! What the command line says about how a source is read.

use dusk_core::files::toml_text;
use dusk_core::sources::{NO_DELIMITER, Position, SheetChoice, SourceSettings, encoding_named};

use crate::args::ReadingArgs;
use crate::outcome::Failure;

/// What the command line says comes before what the mapping says.
pub(super) fn apply(args: &ReadingArgs, settings: &mut SourceSettings) -> Result<(), Failure> {
    if let Some(sheet) = &args.sheet {
        settings.sheet = Some(match sheet.parse() {
            Ok(number) => SheetChoice::Number(number),
            Err(_) => SheetChoice::Name(sheet.clone()),
        });
    }
    if let Some(label) = &args.encoding {
        let encoding = encoding_named(label).ok_or_else(|| {
            Failure::Stopped(format!(
                "there is no encoding \"{label}\"\n  for example utf-8, windows-1252, utf-16le"
            ))
        })?;
        settings.encoding = Some(encoding);
    }
    if let Some(delimiter) = &args.delimiter {
        settings.delimiter = Some(match delimiter.as_str() {
            "none" => NO_DELIMITER.to_owned(),
            other => unescaped(other),
        });
    }
    if let Some(quote) = &args.quote {
        settings.quote = unescaped(quote);
    }
    if let Some(mark) = &args.line_break {
        settings.line_break = Some(unescaped(mark));
    }
    settings.header_row = args.header_row.or(settings.header_row);
    settings.header_rows = args.header_rows.unwrap_or(settings.header_rows);
    if let Some(each) = &args.each {
        settings.records.each = Some(each.clone());
    }
    if !args.positions.is_empty() {
        settings.positions = args.positions.iter().map(|text| position(text)).collect::<Result<_, _>>()?;
    }
    Ok(())
}

/// A column of fixed-width text.
fn position(text: &str) -> Result<Position, Failure> {
    Position::read(text).ok_or_else(|| {
        Failure::Stopped(format!(
            "\"{text}\" is not a range of characters and a name\n  for example --position \"1-6 Apiary No\""
        ))
    })
}

/// A mark as it is typed: `\\t` is a tab, `\\u0014` the character of that number.
fn unescaped(text: &str) -> String {
    let by_number =
        |digits: &str| u32::from_str_radix(digits, 16).ok().and_then(char::from_u32).map(String::from);
    match text.strip_prefix("\\u").and_then(by_number) {
        Some(letter) => letter,
        None => text.replace("\\t", "\t").replace("\\n", "\n"),
    }
}

/// The same as lines of a mapping's `[source]`.
pub(super) fn lines(args: &ReadingArgs) -> Vec<String> {
    let text = |key: &str, value: &str| format!("{key} = {}", toml_text(value));
    let sheet = args.sheet.as_ref().map(|sheet| match sheet.parse::<u64>() {
        Ok(number) => format!("sheet = {number}"),
        Err(_) => text("sheet", sheet),
    });
    let encoding = args.encoding.as_ref().map(|label| text("encoding", label));
    let delimiter = args.delimiter.as_ref().map(|mark| text("delimiter", &unescaped(mark)));
    let quote = args.quote.as_ref().map(|mark| text("quote", &unescaped(mark)));
    let line_break = args.line_break.as_ref().map(|mark| text("line_break", &unescaped(mark)));
    let header_row = args.header_row.map(|row| format!("header_row = {row}"));
    let header_rows = args.header_rows.map(|rows| format!("header_rows = {rows}"));
    let each = args.each.as_ref().map(|each| text("each", each));
    let positions: Vec<String> = args.positions.iter().map(|position| toml_text(position)).collect();
    let positions = (!positions.is_empty()).then(|| format!("positions = [{}]", positions.join(", ")));
    [sheet, encoding, delimiter, quote, line_break, header_row, header_rows, each, positions]
        .into_iter()
        .flatten()
        .collect()
}
