//! A sheet on its way from its reader into the spool, cell by cell.

use std::fs::File;
use std::io::BufWriter;

use calamine::DataRef;

use super::WorkbookFacts;
use super::cell_kind::CellKind;
use super::spool::SpoolWriter;
use super::value::{Shown, text_of};
use dusk_evidence::Refusal;

/// The sheet on its way into the spool.
pub(super) struct Sheet<'f> {
    writer: SpoolWriter<BufWriter<&'f File>>,
    counts: [u64; 6],
    text: String,
    zeros: u64,
}

impl<'f> Sheet<'f> {
    /// A sheet that goes into this file, of so many bytes at the most.
    pub(super) fn begun(out: &'f File, most: u64) -> Self {
        let writer = SpoolWriter::new(BufWriter::with_capacity(1 << 18, out), most);
        Self { writer, counts: [0; 6], text: String::new(), zeros: 0 }
    }

    /// Writes what is left, and what was noticed of the cells into the sheet's facts.
    pub(super) fn finish(self, facts: &mut WorkbookFacts) -> Result<(), Refusal> {
        let kinds = [
            CellKind::Text,
            CellKind::Date,
            CellKind::Number,
            CellKind::Boolean,
            CellKind::Error,
            CellKind::Duration,
        ];
        facts.kinds = kinds
            .iter()
            .zip(self.counts)
            .filter(|(_, count)| *count > 0)
            .map(|(kind, count)| (kind.word().into(), count))
            .collect();
        facts.zeros_by_format = self.zeros;
        // Rows hidden below the table are nobody's concern.
        facts.hidden_rows.retain(|(first, _)| *first <= self.writer.row);
        if let Some((_, last)) = facts.hidden_rows.last_mut() {
            *last = (*last).min(self.writer.row);
        }
        self.writer.finish()
    }

    /// Takes a cell; rows and columns count from 0 and never go back.
    pub(super) fn take(
        &mut self,
        (row, column): (u32, u32),
        value: &DataRef<'_>,
        shown: Shown,
    ) -> Result<(), Refusal> {
        if let DataRef::SharedString(text) = value {
            // Most cells are texts that are there already.
            if text.is_empty() {
                return Ok(());
            }
            if let Some(count) = self.counts.first_mut() {
                *count += 1;
            }
            return self.writer.cell(row, column, CellKind::Text, text);
        }
        let Some(kind) = text_of(value, shown, &mut self.text) else { return Ok(()) };
        self.zeros += u64::from(
            matches!(shown, Shown::Zeros(_)) && kind == CellKind::Number && self.text.starts_with('0'),
        );
        if let Some(count) = self.counts.get_mut(kind as usize) {
            *count += 1;
        }
        self.writer.cell(row, column, kind, &self.text)
    }
}
