//! What a sheet says beside its values: hidden rows, merged cells, and how numbers are displayed.
//!
//! The library that reads the values does not tell these for every container, so they are read
//! from the sheet beside it. Where that fails, the values are still read; nothing here can refuse a file.

mod checks;
mod looks;
mod records;
mod xls;
mod xlsb;
mod xlsx;

pub(super) use xls::of_xls;
pub(super) use xlsb::of_xlsb;
pub(super) use xlsx::of_xlsx;

use super::value::Shown;
use super::{CellCheck, CellLook, WorkbookFacts};

/// What a sheet says beside its values.
#[derive(Debug, Default)]
pub(super) struct SheetMarks {
    /// Hidden rows, as ranges, counted from 1.
    pub(super) hidden_rows: Vec<(u64, u64)>,
    /// Merged cells, as ranges like B2:B5.
    pub(super) merged: Vec<String>,
    /// How numbers are displayed, where that adds something.
    pub(super) displays: Displays,
    /// What is checked when something is typed.
    pub(super) checks: Vec<CellCheck>,
    /// What cells add to their values.
    pub(super) looks: Vec<CellLook>,
    /// Names of ranges.
    pub(super) names: Vec<(String, String)>,
}

impl SheetMarks {
    /// Puts what concerns the sheet as a whole into its facts.
    pub(super) fn noted_in(self, facts: &mut WorkbookFacts) {
        (facts.hidden_rows, facts.merged) = (self.hidden_rows, self.merged);
        (facts.checks, facts.names, facts.looks) = (self.checks, self.names, self.looks);
    }

    /// Notes hidden rows, counted from 1, in the sheet's order.
    pub(super) fn hide(&mut self, first: u64, last: u64) {
        match self.hidden_rows.last_mut() {
            Some((_, before)) if *before + 1 == first => *before = last,
            _ => self.hidden_rows.push((first, last)),
        }
    }
}

/// Cells, by rows and within them by columns, whose display adds to their number.
#[derive(Debug, Default)]
pub(super) struct Displays {
    rows: Vec<Row>,
}

/// Rows that are alike: the first and the last, counted from 0, and the same of their columns.
#[derive(Debug)]
struct Row {
    first: u32,
    last: u32,
    cells: Vec<(u32, u32, Shown)>,
}

impl Displays {
    /// How the number at this row and column, counted from 0, is displayed.
    pub(super) fn at(&self, (row, column): (u32, u32)) -> Shown {
        let before = self.rows.partition_point(|rows| rows.first <= row);
        let rows = before.checked_sub(1).and_then(|place| self.rows.get(place));
        let Some(rows) = rows.filter(|rows| row <= rows.last) else { return Shown::Plain };
        let before = rows.cells.partition_point(|(first, ..)| *first <= column);
        match before.checked_sub(1).and_then(|place| rows.cells.get(place)) {
            Some((_, last, shown)) if column <= *last => *shown,
            _ => Shown::Plain,
        }
    }

    /// Appends rows; they come in the sheet's order, as do their cells.
    fn push(&mut self, first: u32, last: u32, cells: Vec<(u32, u32, Shown)>) {
        if !cells.is_empty() {
            self.rows.push(Row { first, last, cells });
        }
    }
}

/// A range as spreadsheet programs write it: B2:C5.
pub(super) fn range_shown(start: (u32, u32), end: (u32, u32)) -> String {
    let cell =
        |(row, column): (u32, u32)| format!("{}{}", column_letters(u64::from(column)), u64::from(row) + 1);
    format!("{}:{}", cell(start), cell(end))
}

/// A column's letters, counted from 0: A, B … Z, AA.
pub fn column_letters(mut column: u64) -> String {
    let mut letters = Vec::new();
    loop {
        letters.push(char::from(b'A' + (column % 26) as u8));
        if column < 26 {
            return letters.iter().rev().collect();
        }
        column = column / 26 - 1;
    }
}
