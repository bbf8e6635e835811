//! Packed workbooks with binary sheets.

use std::fs::File;
use std::io::{BufReader, Read};
use std::sync::Arc;

use super::super::container;
use super::super::limits::MOST_MERGED;
use super::records::{Collected, Styles, u16_at, u32_at, wide_at};
use super::xlsx::relation;
use super::{SheetMarks, range_shown};

/// The kinds of record that are looked at, by their numbers in [MS-XLSB].
mod kind {
    pub(super) const ROW: u32 = 0;
    pub(super) const CELL_RK: u32 = 2;
    pub(super) const CELL_REAL: u32 = 5;
    pub(super) const FORMULA_NUMBER: u32 = 9;
    pub(super) const FORMAT: u32 = 44;
    pub(super) const XF: u32 = 47;
    pub(super) const SHEET: u32 = 156;
    pub(super) const MERGED: u32 = 176;
    pub(super) const BEGIN_CELL_STYLES: u32 = 617;
    pub(super) const END_CELL_STYLES: u32 = 618;
}

/// Hidden rows, merged cells and displays of a sheet.
pub(crate) fn of_xlsb(file: &Arc<File>, sheet: &str) -> SheetMarks {
    read(file, sheet).unwrap_or_default()
}

fn read(file: &Arc<File>, sheet: &str) -> Option<SheetMarks> {
    let mut archive = container::open(file).ok()?;
    let mut id = None;
    each_record(archive.by_name("xl/workbook.bin").ok()?, |kind, body| {
        if kind == kind::SHEET && id.is_none() {
            id = sheet_id(body, sheet);
        }
    });
    let part = relation(&mut archive, "xl/_rels/workbook.bin.rels", &id?)?;
    let (mut styles, mut of_cells) = (Styles::default(), false);
    if let Ok(entry) = archive.by_name("xl/styles.bin") {
        each_record(entry, |kind, body| match kind {
            kind::FORMAT => {
                let length = u32_at(body, 2).and_then(|length| usize::try_from(length).ok());
                if let (Some(number), Some(length)) = (u16_at(body, 0), length) {
                    styles.add_format(number, wide_at(body, 6, length).unwrap_or_default());
                }
            }
            kind::BEGIN_CELL_STYLES => of_cells = true,
            kind::END_CELL_STYLES => of_cells = false,
            kind::XF if of_cells => styles.add_style(u16_at(body, 2).unwrap_or_default()),
            _ => {}
        });
    }
    let shown = styles.shown();
    let (mut marks, mut cells, mut row) = (SheetMarks::default(), Collected::default(), 0);
    each_record(archive.by_name(&part).ok()?, |kind, body| match kind {
        kind::ROW => {
            row = u32_at(body, 0).unwrap_or(row);
            if body.get(11).is_some_and(|flags| flags & 0x10 != 0) {
                marks.hide(u64::from(row) + 1, u64::from(row) + 1);
            }
        }
        kind::CELL_RK | kind::CELL_REAL | kind::FORMULA_NUMBER => {
            if let (Some(column), Some(style)) = (u32_at(body, 0), u32_at(body, 4)) {
                // The uppermost byte holds flags.
                let style = usize::try_from(style & 0x00FF_FFFF).ok();
                cells.add(row, column, style.and_then(|style| shown.get(style)));
            }
        }
        kind::MERGED if marks.merged.len() < MOST_MERGED => {
            let at = |at| u32_at(body, at).unwrap_or_default();
            marks.merged.push(range_shown((at(0), at(8)), (at(4), at(12))));
        }
        _ => {}
    });
    marks.displays = cells.displays();
    Some(marks)
}

/// The relation by which the workbook names the sheet's part, if this record is of that sheet.
fn sheet_id(body: &[u8], sheet: &str) -> Option<String> {
    let length = |at| u32_at(body, at).and_then(|length| usize::try_from(length).ok());
    let of_id = length(8).filter(|length| *length < body.len())?;
    let name_at = 12 + of_id * 2;
    (wide_at(body, name_at + 4, length(name_at)?)? == sheet).then(|| wide_at(body, 12, of_id))?
}

/// Hands over each record of a part; stops at the first that is cut off.
fn each_record(part: impl Read, mut take: impl FnMut(u32, &[u8])) {
    // Longer ones are not of the kinds that matter here.
    const LONGEST: u64 = 1 << 16;
    let mut part = BufReader::with_capacity(1 << 16, part);
    let mut body = Vec::new();
    while let (Some(kind), Some(length)) = (number(&mut part, 2), number(&mut part, 4)) {
        body.clear();
        let wanted = u64::from(length).min(LONGEST);
        let read = (&mut part).take(wanted).read_to_end(&mut body);
        let rest = std::io::copy(&mut (&mut part).take(u64::from(length) - wanted), &mut std::io::sink());
        if !read.is_ok_and(|read| read as u64 == wanted) || rest.is_err() {
            return;
        }
        take(kind, &body);
    }
}

/// A number of seven bits a byte, the low ones first.
fn number(part: &mut impl Read, most_bytes: u32) -> Option<u32> {
    let (mut number, mut byte) = (0, [0]);
    for place in 0..most_bytes {
        part.read_exact(&mut byte).ok()?;
        let [bits] = byte;
        number |= u32::from(bits & 0x7F) << (7 * place);
        if bits & 0x80 == 0 {
            break;
        }
    }
    Some(number)
}
