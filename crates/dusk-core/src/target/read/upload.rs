//! The `[upload]` table: the layout of the file that the target takes.

use super::super::{Quoting, Upload, UploadEncoding};
use crate::files::{At, Settings, Template};

pub(super) fn read_upload(upload: &mut Settings<'_>) -> Upload {
    if let Some(format) = upload.text("format")
        && format.value != "delimited"
    {
        upload.problem(format.line, format!("[upload] format cannot be \"{}\"", format.value), |problem| {
            problem.hint("this version writes \"delimited\" files");
        });
    }
    let encoding = upload.encoding("encoding", UploadEncoding::named);
    let encoding = encoding.unwrap_or(UploadEncoding::Whatwg(encoding_rs::UTF_8));
    let bom = upload.flag("bom", false);
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
    let delimiter = one_character(upload, "delimiter").unwrap_or_else(|| ",".into());
    let quote = one_character(upload, "quote").unwrap_or_else(|| "\"".into());
    if delimiter == quote {
        upload.problem(upload.line(), "[upload] delimiter and quote are the same", |_| {});
    }
    let quoting = upload
        .choice(
            "quoting",
            &[("always", Quoting::Always), ("when-needed", Quoting::WhenNeeded), ("never", Quoting::Never)],
        )
        .unwrap_or(Quoting::WhenNeeded);
    let line_end =
        upload.choice("line_end", &[("crlf", "\r\n"), ("lf", "\n"), ("cr", "\r")]).unwrap_or("\r\n");
    let header = upload.flag("header", true);
    let max_rows = upload.whole("max_rows", 1);
    let file_name =
        upload.text("file_name").unwrap_or(At { value: "{batch}-{part}.csv".into(), line: upload.line() });
    Upload {
        encoding,
        bom,
        delimiter,
        quote,
        quoting,
        line_end,
        header,
        file_name: read_file_name(upload, &file_name, max_rows.is_some()),
        max_rows: max_rows.map(|rows| rows.value),
    }
}

/// A delimiter or a quote: a single character that is not half of a line end.
fn one_character(upload: &mut Settings<'_>, key: &'static str) -> Option<String> {
    let text = upload.text(key)?;
    let mut letters = text.value.chars();
    match (letters.next(), letters.next()) {
        (Some(letter), None) if !matches!(letter, '\n' | '\r') => Some(text.value),
        _ => {
            upload.problem(text.line, format!("[upload] {key} is to be one character"), |problem| {
                problem.hint(format!("for example {key} = \";\", or \"\\t\" for a tab"));
            });
            None
        }
    }
}

fn read_file_name(upload: &Settings<'_>, written: &At<String>, in_parts: bool) -> Template {
    let template = match Template::parse(&written.value) {
        Ok(template) => template,
        Err(says) => {
            upload.problem(written.line, format!("[upload] file_name {says}"), |_| {});
            return Template { pieces: Vec::new() };
        }
    };
    const KNOWN: [&str; 3] = ["batch", "part", "today"];
    for name in template.names().filter(|name| !KNOWN.contains(name)) {
        upload.problem(written.line, format!("[upload] file_name does not know {{{name}}}"), |problem| {
            problem.suggest(name, KNOWN);
        });
    }
    if in_parts && !template.names().any(|name| name == "part") {
        upload.problem(
            written.line,
            "[upload] max_rows may make several files, and file_name gives them all one name",
            |problem| {
                problem.hint("put {part} into file_name");
            },
        );
    }
    if written.value.contains(['/', '\\']) || written.value.is_empty() {
        upload.problem(written.line, "[upload] file_name is to be a file's name without a folder", |_| {});
    }
    template
}
