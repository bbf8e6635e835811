//! What the command line says about how a source is read.

use dusk_core::files::toml_text;
use dusk_core::sources::{NO_DELIMITER, SheetChoice, SourceSettings, encoding_named};

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
            "\\t" => "\t".to_owned(),
            "none" => NO_DELIMITER.to_owned(),
            other => other.to_owned(),
        });
    }
    settings.header_row = args.header_row.or(settings.header_row);
    Ok(())
}

/// The same as lines of a mapping's `[source]`.
pub(super) fn lines(args: &ReadingArgs) -> Vec<String> {
    let text = |key: &str, value: &str| format!("{key} = {}", toml_text(value));
    let sheet = args.sheet.as_ref().map(|sheet| match sheet.parse::<u64>() {
        Ok(number) => format!("sheet = {number}"),
        Err(_) => text("sheet", sheet),
    });
    let encoding = args.encoding.as_ref().map(|label| text("encoding", label));
    let delimiter =
        args.delimiter.as_ref().map(|mark| text("delimiter", if mark == "\\t" { "\t" } else { mark }));
    let header_row = args.header_row.map(|row| format!("header_row = {row}"));
    [sheet, encoding, delimiter, header_row].into_iter().flatten().collect()
}
