//! The `[upload]` table: the layout of the file that the target takes.

use std::path::Path;

use super::super::{Quoting, Upload, UploadEncoding, UploadFormat};
use dusk_files::{At, Settings, Template};
use dusk_values::DatePattern;

/// When values stand in quotes, by the words of the description.
const QUOTINGS: [(&str, Quoting); 4] = [
    ("always", Quoting::Always),
    ("texts", Quoting::Texts),
    ("when-needed", Quoting::WhenNeeded),
    ("never", Quoting::Never),
];

/// What stands before decimals.
const DECIMAL_MARKS: [(&str, char); 2] = [(".", '.'), (",", ',')];

/// What ends a line, by the words of the description.
const LINE_ENDS: [(&str, &str); 3] = [("crlf", "\r\n"), ("lf", "\n"), ("cr", "\r")];

/// The `[upload]` table of a description in `folder`, and the name of the field by which it is split.
pub(super) fn read_upload(upload: &mut Settings<'_>, folder: &Path) -> (Upload, Option<At<String>>) {
    let format = UploadFormat::read(upload, folder);
    let encoding = upload.encoding("encoding", UploadEncoding::named);
    let encoding = encoding.unwrap_or(UploadEncoding::Whatwg(encoding_rs::UTF_8));
    let bom = upload.flag("bom", false);
    check_mark(upload, encoding, bom);
    let delimiter = one_character(upload, "delimiter").unwrap_or_else(|| ",".into());
    let quote = one_character(upload, "quote").unwrap_or_else(|| "\"".into());
    if delimiter == quote {
        upload.problem(upload.line(), "[upload] delimiter and quote are the same", |_| {});
    }
    let quoting = upload.choice("quoting", &QUOTINGS).unwrap_or(Quoting::WhenNeeded);
    let decimal_mark = upload.choice("decimal_mark", &DECIMAL_MARKS).unwrap_or('.');
    let minus_behind = upload.choice("minus", &[("before", false), ("behind", true)]).unwrap_or_default();
    let line_end = upload.choice("line_end", &LINE_ENDS).unwrap_or("\r\n");
    // Only tables have a line of headings.
    let header = upload.flag("header", true)
        && !matches!(
            format,
            UploadFormat::FixedWidth | UploadFormat::Xml { .. } | UploadFormat::Iso2709 { .. }
        );
    let max_rows = upload.whole("max_rows", 1);
    let max_bytes = upload.whole("max_bytes", 1);
    let split_by = upload.text("split_by");
    let split_form = read_split_form(upload);
    let line_break = upload.text("line_break").map(|mark| mark.value).filter(|mark| !mark.is_empty());
    let labels = upload.flag("labels", false);
    let columns = upload.whole("columns", 1).and_then(|columns| usize::try_from(columns.value).ok());
    let blank_leaves = upload.choice("blank", &[("clears", false), ("leaves", true)]).unwrap_or_default();
    let clearing = upload.text("clearing").map(|word| word.value).filter(|word| !word.is_empty());
    if clearing.is_some() && !blank_leaves {
        upload.misplaced(
            "clearing",
            "[upload] clearing goes with blank = \"leaves\"; otherwise a blank clears",
        );
    }
    let ending = format.word().ending;
    let usual = format!("{{batch}}-{{part}}.{ending}");
    let file_name = upload.text("file_name").unwrap_or(At { value: usual, line: upload.line() });
    let in_parts = max_rows.is_some() || max_bytes.is_some();
    let upload = Upload {
        format,
        widths: hashbrown::HashMap::new(),
        quoted: hashbrown::HashSet::new(),
        line_break,
        labels,
        columns,
        split_by: None,
        split_form,
        blank_leaves,
        clearing,
        max_bytes: max_bytes.map(|bytes| bytes.value),
        encoding,
        bom,
        delimiter,
        quote,
        quoting,
        decimal_mark,
        minus_behind,
        line_end,
        header,
        file_name: read_file_name(
            upload,
            &file_name,
            in_parts,
            split_by.as_ref().map(|field| field.value.as_str()),
        ),
        max_rows: max_rows.map(|rows| rows.value),
    };
    (upload, split_by)
}

/// What of a date divides the records: `split_form = "yyyy"`.
fn read_split_form(upload: &mut Settings<'_>) -> Option<DatePattern> {
    let text = upload.text("split_form")?;
    if !upload.has("split_by") {
        upload
            .misplaced("split_form", "[upload] split_form goes with split_by, which names a field of dates");
    }
    let pattern = DatePattern::parse(&text.value);
    pattern
        .map_err(|says| {
            upload.problem(text.line, format!("[upload] split_form \"{}\": {says}", text.value), |problem| {
                problem.hint("write a Unicode date pattern: \"yyyy\" for a file for each year");
            });
        })
        .ok()
        .filter(|pattern| !pattern.has_time())
}

/// Only some encodings have a byte order mark.
fn check_mark(upload: &mut Settings<'_>, encoding: UploadEncoding, bom: bool) {
    let is_unicode = !matches!(encoding, UploadEncoding::Whatwg(other) if other != encoding_rs::UTF_8);
    if bom && !is_unicode {
        upload.problem(
            upload.line(),
            format!("[upload] bom = true does not go with {}", encoding.label()),
            |problem| {
                problem.hint("only UTF-8 and UTF-16 have a byte order mark");
            },
        );
    }
}

/// A delimiter or a quote: a single character that is not half of a line end.
fn one_character(upload: &mut Settings<'_>, key: &'static str) -> Option<String> {
    let text = upload.text(key)?;
    let mut letters = text.value.chars();
    match (letters.next(), letters.next()) {
        (Some(letter), None) if !matches!(letter, '\n' | '\r') => Some(text.value),
        _ => {
            upload.problem(text.line, format!("[upload] {key} must be one character"), |problem| {
                problem.hint(format!("for example {key} = \";\", or \"\\t\" for a tab"));
            });
            None
        }
    }
}

fn read_file_name(
    upload: &Settings<'_>,
    written: &At<String>,
    in_parts: bool,
    split_by: Option<&str>,
) -> Template {
    let template = match Template::parse(&written.value) {
        Ok(template) => template,
        Err(says) => {
            upload.problem(written.line, format!("[upload] file_name {says}"), |_| {});
            return Template { pieces: Vec::new() };
        }
    };
    let known: Vec<&str> = ["batch", "part", "today"].into_iter().chain(split_by).collect();
    for name in template.names().filter(|name| !known.contains(name)) {
        upload.problem(written.line, format!("[upload] file_name does not know {{{name}}}"), |problem| {
            problem.suggest(name, known.iter().copied());
        });
    }
    if in_parts && !template.names().any(|name| name == "part") {
        upload.problem(
            written.line,
            "[upload] max_rows or max_bytes may make several files, and file_name gives them all one name",
            |problem| {
                problem.hint("put {part} into file_name");
            },
        );
    }
    if let Some(field) = split_by.filter(|field| !template.names().any(|name| name == *field)) {
        upload.problem(
            written.line,
            "[upload] split_by makes several files, and file_name gives them all one name",
            |problem| {
                problem.hint(format!("put {{{field}}} into file_name"));
            },
        );
    }
    if written.value.contains(['/', '\\']) || written.value.is_empty() {
        upload.problem(
            written.line,
            "[upload] file_name must be the name of a file, without a folder",
            |_| {},
        );
    }
    template
}
