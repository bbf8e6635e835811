//! Office Open XML sheets.

use std::fs::File;
use std::io::Read;
use std::sync::Arc;

use super::super::container::{self, Archive, attribute, part};
use super::super::limits::MOST_MERGED;
use super::{SheetMarks, checks, looks};

/// Looks through the text of a sheet without reading its cells.
pub(crate) fn of_xlsx(file: &Arc<File>, sheet: &str) -> SheetMarks {
    let mut marks = SheetMarks::default();
    let Ok(mut archive) = container::open(file) else { return marks };
    let Some(part) = sheet_part(&mut archive, sheet) else { return marks };
    marks.checks = checks::of_part(&mut archive, &part);
    marks.looks = looks::of_part(&mut archive, &part);
    if !marks.checks.is_empty() {
        marks.names = checks::names(&mut archive);
    }
    let Ok(mut entry) = archive.by_name(&part) else { return marks };
    let hidden = memchr::memmem::Finder::new(b" hidden=\"");
    let merged = memchr::memmem::Finder::new(b"mergeCell ");
    let mut buffer = vec![0; 1 << 18];
    let mut kept = 0;
    while let Some(space) = buffer.get_mut(kept..).filter(|space| !space.is_empty()) {
        let Ok(read) = entry.read(space) else { return marks };
        let filled = kept + read;
        let text = buffer.get(..filled).unwrap_or_default();
        // A tag may go on in the next piece.
        let whole = if read == 0 { filled } else { memchr::memrchr(b'<', text).unwrap_or(0) };
        let text = text.get(..whole).unwrap_or_default();
        let tag_at = |at: usize| {
            let start = memchr::memrchr(b'<', text.get(..at).unwrap_or_default()).unwrap_or(0);
            let tag = text.get(start + 1..).unwrap_or_default();
            tag.get(..memchr::memchr(b'>', tag).unwrap_or(tag.len())).unwrap_or_default()
        };
        for tag in hidden.find_iter(text).map(tag_at) {
            let is_row = tag.starts_with(b"row ") && matches!(attribute(tag, "hidden"), Some("1" | "true"));
            let Some(row) = attribute(tag, "r").filter(|_| is_row).and_then(|row| row.parse().ok()) else {
                continue;
            };
            marks.hide(row, row);
        }
        let room = MOST_MERGED.saturating_sub(marks.merged.len());
        marks.merged.extend(
            merged
                .find_iter(text)
                .filter_map(|at| attribute(tag_at(at), "ref"))
                .map(str::to_owned)
                .take(room),
        );
        if read == 0 {
            return marks;
        }
        buffer.copy_within(whole..filled, 0);
        kept = filled - whole;
    }
    marks
}

/// The part of the packed file that holds a sheet.
fn sheet_part(archive: &mut Archive, sheet: &str) -> Option<String> {
    let workbook = part(archive, "xl/workbook.xml")?;
    let plain = |text: &str| {
        text.replace("&lt;", "<")
            .replace("&gt;", ">")
            .replace("&quot;", "\"")
            .replace("&apos;", "'")
            .replace("&amp;", "&")
    };
    let id = tags(&workbook, "sheet").into_iter().find_map(|tag| {
        (plain(attribute(&tag, "name")?) == sheet).then(|| attribute(&tag, "r:id").map(str::to_owned))?
    })?;
    relation(archive, "xl/_rels/workbook.xml.rels", &id)
}

/// The part that a relation of the workbook leads to.
pub(super) fn relation(archive: &mut Archive, list: &str, id: &str) -> Option<String> {
    let relations = part(archive, list)?;
    let target = tags(&relations, "Relationship").into_iter().find_map(|tag| {
        (attribute(&tag, "Id")? == id).then(|| attribute(&tag, "Target").map(str::to_owned))?
    })?;
    Some(match target.strip_prefix('/') {
        Some(whole) => whole.to_owned(),
        None => format!("xl/{target}"),
    })
}

/// The tags of this name, without their brackets.
fn tags(text: &[u8], name: &str) -> Vec<Vec<u8>> {
    memchr::memmem::find_iter(text, &format!("<{name} "))
        .map(|start| {
            let tag = text.get(start + 1..).unwrap_or_default();
            tag.get(..memchr::memchr(b'>', tag).unwrap_or(tag.len())).unwrap_or_default().to_vec()
        })
        .collect()
}
