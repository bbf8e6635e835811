//! The binary records of xls ([MS-XLS]) and xlsb ([MS-XLSB]), as far as the display of cells needs them.

use std::collections::BTreeMap;

use super::super::value::Shown;
use super::Displays;

/// A number of two bytes, the low one first.
pub(super) fn u16_at(bytes: &[u8], at: usize) -> Option<u16> {
    Some(u16::from_le_bytes(bytes.get(at..at + 2)?.try_into().ok()?))
}

/// A number of four bytes, the low one first.
pub(super) fn u32_at(bytes: &[u8], at: usize) -> Option<u32> {
    Some(u32::from_le_bytes(bytes.get(at..at + 4)?.try_into().ok()?))
}

/// Text of so many UTF-16 units.
pub(super) fn wide_at(bytes: &[u8], at: usize, units: usize) -> Option<String> {
    let bytes = bytes.get(at..at.checked_add(units.checked_mul(2)?)?)?;
    Some(encoding_rs::UTF_16LE.decode_without_bom_handling(bytes).0.into_owned())
}

/// The formats of a workbook, and which of them each cell style uses.
#[derive(Debug, Default)]
pub(super) struct Styles {
    codes: BTreeMap<u16, String>,
    uses: Vec<u16>,
}

impl Styles {
    pub(super) fn add_format(&mut self, number: u16, code: String) {
        self.codes.insert(number, code);
    }

    pub(super) fn add_style(&mut self, format: u16) {
        self.uses.push(format);
    }

    /// What each cell style comes to.
    pub(super) fn shown(&self) -> Vec<Shown> {
        let by_number = |format: &u16| match self.codes.get(format) {
            Some(code) => Shown::by(code),
            // 0% and 0.00% are there without being spelt out.
            None if matches!(format, 9 | 10) => Shown::Percent,
            None => Shown::Plain,
        };
        self.uses.iter().map(by_number).collect()
    }
}

/// Collects the cells with a display of note, in any order.
#[derive(Debug, Default)]
pub(super) struct Collected(BTreeMap<u32, Vec<(u32, u32, Shown)>>);

impl Collected {
    pub(super) fn add(&mut self, row: u32, column: u32, shown: Option<&Shown>) {
        if let Some(shown) = shown.filter(|shown| **shown != Shown::Plain) {
            self.0.entry(row).or_default().push((column, column, *shown));
        }
    }

    pub(super) fn displays(self) -> Displays {
        let mut displays = Displays::default();
        for (row, mut cells) in self.0 {
            cells.sort_by_key(|(column, ..)| *column);
            displays.push(row, row, cells);
        }
        displays
    }
}
