//! The binary workbooks of before 2007.

use std::fs::File;
use std::io::{BufReader, Read};
use std::sync::Arc;

use super::super::limits::most_in_memory;
use super::super::placed::PlacedFile;
use super::SheetMarks;
use super::records::{Collected, Styles, u16_at, u32_at, wide_at};

/// The kinds of record that are looked at, by their numbers in [MS-XLS].
mod kind {
    pub(super) const FORMULA: u16 = 0x0006;
    pub(super) const BOUND_SHEET: u16 = 0x0085;
    pub(super) const END: u16 = 0x000A;
    pub(super) const MUL_RK: u16 = 0x00BD;
    pub(super) const XF: u16 = 0x00E0;
    pub(super) const NUMBER: u16 = 0x0203;
    pub(super) const ROW: u16 = 0x0208;
    pub(super) const RK: u16 = 0x027E;
    pub(super) const FORMAT: u16 = 0x041E;
    pub(super) const BEGIN: u16 = 0x0809;
}

/// Hidden rows and displays of the sheet at `place` among the workbook's sheets, from 0.
pub(crate) fn of_xls(file: &Arc<File>, place: usize) -> SheetMarks {
    stream(file).and_then(|stream| read(&stream, place)).unwrap_or_default()
}

fn stream(file: &Arc<File>) -> Option<Vec<u8>> {
    let most = most_in_memory(file.metadata().ok()?.len());
    let file = BufReader::new(PlacedFile::new(file));
    let mut compound = cfb::CompoundFile::open(file).ok()?;
    let name = ["/Workbook", "/Book"].into_iter().find(|name| compound.is_stream(name))?;
    let mut bytes = Vec::new();
    compound.open_stream(name).ok()?.take(most).read_to_end(&mut bytes).ok()?;
    Some(bytes)
}

/// The records from an offset on, up to the end of their part.
fn records(stream: &[u8], from: usize) -> impl Iterator<Item = (u16, &[u8])> {
    let mut at = from;
    std::iter::from_fn(move || {
        let kind = u16_at(stream, at)?;
        let length = usize::from(u16_at(stream, at + 2)?);
        let body = stream.get(at + 4..at + 4 + length)?;
        at += 4 + length;
        (kind != kind::END).then_some((kind, body))
    })
}

fn read(stream: &[u8], place: usize) -> Option<SheetMarks> {
    let (mut styles, mut sheets, mut long_texts) = (Styles::default(), Vec::new(), true);
    for (kind, body) in records(stream, 0) {
        match kind {
            // Before 1997 texts were of single bytes.
            kind::BEGIN => long_texts = u16_at(body, 0)? >= 0x0600,
            kind::FORMAT => {
                if let Some(code) = format_code(body, long_texts) {
                    styles.add_format(u16_at(body, 0)?, code);
                }
            }
            kind::XF => styles.add_style(u16_at(body, 2)?),
            kind::BOUND_SHEET => sheets.push(usize::try_from(u32_at(body, 0)?).ok()?),
            _ => {}
        }
    }
    let shown = styles.shown();
    let style_at = |body: &[u8], at: usize| u16_at(body, at).and_then(|style| shown.get(usize::from(style)));
    let (mut marks, mut cells, mut hidden) = (SheetMarks::default(), Collected::default(), Vec::new());
    for (kind, body) in records(stream, *sheets.get(place)?) {
        let Some(row) = u16_at(body, 0).map(u32::from) else { continue };
        match kind {
            kind::ROW if u16_at(body, 12).is_some_and(|flags| flags & 0x20 != 0) => {
                hidden.push(u64::from(row) + 1)
            }
            kind::NUMBER | kind::RK | kind::FORMULA => {
                let Some(column) = u16_at(body, 2) else { continue };
                cells.add(row, column.into(), style_at(body, 4));
            }
            kind::MUL_RK => {
                let (Some(first), Some(last)) = (u16_at(body, 2), u16_at(body, body.len().saturating_sub(2)))
                else {
                    continue;
                };
                for (column, at) in (first..=last).zip((4_usize..).step_by(6)) {
                    cells.add(row, column.into(), style_at(body, at));
                }
            }
            _ => {}
        }
    }
    hidden.sort_unstable();
    hidden.into_iter().for_each(|row| marks.hide(row, row));
    marks.displays = cells.displays();
    Some(marks)
}

fn format_code(body: &[u8], long_texts: bool) -> Option<String> {
    let single = |at: usize, length: usize| {
        Some(body.get(at..at + length)?.iter().map(|byte| char::from(*byte)).collect())
    };
    if !long_texts {
        return single(3, usize::from(*body.get(2)?));
    }
    let length = usize::from(u16_at(body, 2)?);
    if body.get(4)? & 1 == 0 { single(5, length) } else { wide_at(body, 5, length) }
}
