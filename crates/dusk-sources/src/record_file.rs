//! A file of records, where a source is one.

use super::settings::SourceSettings;
use super::settled::{Text, refuse_a_sheet_of_text};
use super::source_file::SourceFile;
use dusk_evidence::Refusal;

/// What a workbook that is written as XML names.
const SPREADSHEET_XML: &[u8] = b"urn:schemas-microsoft-com:office:spreadsheet";

/// The rows of a file of records; nothing where it is none, or where the mapping says how its text is to be read.
pub(super) fn of_records(
    file: &SourceFile,
    head: &[u8],
    settings: &SourceSettings,
    strict: bool,
) -> Result<Option<Text>, Refusal> {
    let is_text = settings.delimiter.is_some() || !settings.positions.is_empty();
    let Some(format) = dusk_records::format_of(head).filter(|_| !is_text) else {
        let ending = file.name().rsplit_once('.').map(|(_, ending)| ending.to_ascii_lowercase());
        if !is_text
            && ending.is_some_and(|ending| matches!(ending.as_str(), "json" | "jsonl" | "ndjson" | "xml"))
        {
            return Err(Refusal::new(
                "does not list records, although its name ends as that of such a file",
                "JSON is to have objects in a list or on each line, and XML elements; if it is delimited text, give it a name that ends with .csv",
            ));
        }
        let named = settings.records.each.as_ref().filter(|_| strict);
        return named.map_or(Ok(None), |each| {
            Err(Refusal::new(
                format!("is not a file of records, but the mapping names the list \"{each}\" in it"),
                "use the file of records, or take the line each = … out of the mapping",
            ))
        });
    };
    if memchr::memmem::find(head, SPREADSHEET_XML).is_some() {
        return Err(Refusal::new(
            "is a workbook written as XML, which is not read here",
            "open it in a spreadsheet program, and save it as a workbook (xlsx, ods) or as delimited text",
        ));
    }
    refuse_a_sheet_of_text(settings, strict)?;
    let unpacked = dusk_records::unpack(file.file(), format, &settings.records)?;
    Ok(Some(Text::of_records(unpacked, file.name())))
}
