//! What no workbook needs and some are made to do: how much is unpacked, how long a cell is, how far away it stands.

use dusk_evidence::Refusal;

/// The most rows that a sheet has.
pub(super) const MOST_ROWS: u64 = 1_048_576;

/// The most columns that a sheet has.
pub(super) const MOST_COLUMNS: u32 = 16_384;

/// The longest text of a cell, in bytes. Spreadsheet programs hold 32,767 characters; others write more.
pub(super) const LONGEST_CELL: usize = 4 << 20;

/// The most that the cells of one row take together, in bytes.
pub(super) const LONGEST_ROW: usize = 8 << 20;

/// The most that one piece of a sheet's text may take, be it a tag or what stands between two, in bytes.
pub(super) const LONGEST_PIECE: u64 = 2 * LONGEST_CELL as u64;

/// The largest part of a small workbook that is held in memory as a whole, in bytes.
const ALWAYS_IN_MEMORY: u64 = 256 << 20;

/// How many times as large as its file a part of a large one may be: its texts are packed to a tenth.
const MOST_TIMES_IN_MEMORY: u64 = 10;

/// How many merged ranges are kept.
pub(super) const MOST_MERGED: usize = 10_000;

/// The most that the cells of a sheet may take together, in bytes.
const MOST_UNPACKED: u64 = 4 << 30;

/// The least that any sheet may take, in bytes, however small its file is.
const ALWAYS_UNPACKED: u64 = 16 << 20;

/// How many times as large as its file a sheet may be: what people keep comes to thirty at the most.
const MOST_TIMES: u64 = 200;

/// How much the cells of a sheet may take whose file has so many bytes.
pub(super) fn most_unpacked(file: u64) -> u64 {
    file.saturating_mul(MOST_TIMES).clamp(ALWAYS_UNPACKED, MOST_UNPACKED)
}

/// How large a part that is held in memory as a whole may be in a workbook of so many bytes.
pub(super) fn most_in_memory(file: u64) -> u64 {
    file.saturating_mul(MOST_TIMES_IN_MEMORY).max(ALWAYS_IN_MEMORY)
}

pub(super) fn too_large() -> Refusal {
    Refusal::new(
        "unpacks to far more than a workbook of its size should, and was not opened",
        "ask the person who sent it; if it is right, save the sheet as delimited text and use that",
    )
}

pub(super) fn too_far(row: u64, column: u64) -> Refusal {
    Refusal::new(
        format!(
            "has a cell in row {row} and column {column}, beyond the end of a sheet ({MOST_ROWS} rows, {MOST_COLUMNS} columns)"
        ),
        "no spreadsheet program would show it: save the sheet as delimited text where it comes from, and use that",
    )
}

pub(super) fn too_long(row: u64) -> Refusal {
    Refusal::new(
        format!("has a cell or a row of several million characters at row {row}"),
        "no spreadsheet program would hold it: ask the person who sent it, or save the sheet as delimited text and use that",
    )
}

/// More memory was wanted than any sheet needs.
pub(super) fn too_much_memory() -> Refusal {
    Refusal::new(
        "takes more memory to be opened than the program gives to a workbook, and was not opened",
        "open it in a spreadsheet program, save the sheet as delimited text, and use that",
    )
}

/// Opening it came to no end.
pub(super) fn too_slow(seconds: u64) -> Refusal {
    Refusal::new(
        format!("was not open after {seconds} seconds of work, which a workbook of its size should be"),
        "open it in a spreadsheet program, save the sheet as delimited text, and use that",
    )
}
