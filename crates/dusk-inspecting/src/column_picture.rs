//! What a drawing of a source is made of: how many cells of each column are filled, blank or damaged down the rows, and
//! how its lengths, numbers or months are spread. It takes a second walk through the rows, once [`Inspection`] has told
//! what each column holds and how many rows there are.

use std::collections::BTreeMap;

use super::byte_kinds::Bytes;
use super::column_report::Drawn;
use super::damage_seen::Damage;
use super::inspection::{Inspection, odd_row, repeats_header};
use super::looks::Looks;
use super::profile::may_be_damaged;
use dusk_evidence::{ColumnId, Id as _, Result};
use dusk_sources::{CellKind, Progress, RowCells, Source};
use dusk_values::{DateOrder, Decimal};

/// Into how many bands of rows a source is divided at most.
const BANDS: u64 = 48;

/// Into how many ranges of equal width the numbers of a column are divided at most.
const RANGES: i128 = 24;

/// Lengths from here on are counted together.
const LONGEST: u32 = 60;

/// What a drawing of a source is made of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourcePicture {
    /// The rows below the header, in bands of as equal a size as can be.
    pub bands: Vec<Band>,
    /// The columns, in their order.
    pub columns: Vec<ColumnPicture>,
}

/// Some rows that follow one another.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Band {
    /// The number of its first row, as a spreadsheet program counts them.
    pub first_row: u64,
    /// The number of its last row.
    pub last_row: u64,
    /// How many records there are in it.
    pub records: u64,
    /// How many rows are blank, repeat the header or have another number of cells.
    pub others: u64,
}

/// What a drawing of one column is made of.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ColumnPicture {
    /// Its cells in each band of the source.
    pub bands: Vec<Cells>,
    /// How its values are spread.
    pub spread: Spread,
}

/// How many cells are so.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Cells {
    /// With a value.
    pub filled: u64,
    /// Without one.
    pub blank: u64,
    /// With a value that shows damage of some kind; they are among the filled ones.
    pub damaged: u64,
}

/// How the values of a column are spread.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Spread {
    /// How many values have so many characters; the last stands for longer ones as well.
    Lengths(BTreeMap<u32, u64>),
    /// How many numbers lie in each of the ranges of equal width, each by its least number.
    Numbers(Vec<(Decimal, u64)>),
    /// How many days lie in each month: the year and the month.
    Months(BTreeMap<(i16, i8), u64>),
}

impl Default for Spread {
    fn default() -> Self {
        Self::Lengths(BTreeMap::new())
    }
}

impl Cells {
    fn add(&mut self, is_filled: bool, is_damaged: bool) {
        if is_filled {
            self.filled += 1;
        } else {
            self.blank += 1;
        }
        self.damaged += u64::from(is_damaged);
    }
}

/// Draws a source that was looked over.
///
/// # Errors
/// [`Error::File`](dusk_evidence::Error::File) when reading fails.
pub fn picture(source: &Source, inspection: &Inspection, progress: &Progress<'_>) -> Result<SourcePicture> {
    let bands = inspection.rows.clamp(1, BANDS);
    let mut drawing = Drawing {
        bands: vec![Band::default(); usize::try_from(bands).unwrap_or(1)],
        columns: inspection.columns.iter().map(|column| DrawnColumn::new(column.drawn, bands)).collect(),
    };
    let mut walk = source.walk()?;
    let mut row_count = 0;
    while let Some(mut rows) = walk.more()? {
        while let Some(row) = rows.next() {
            let band = (row_count * bands).checked_div(inspection.rows).unwrap_or(0).min(bands - 1);
            row_count += 1;
            drawing.take(&row, usize::try_from(band).unwrap_or(0), source);
        }
        progress(row_count, walk.bytes_read());
    }
    Ok(SourcePicture {
        bands: drawing.bands,
        columns: drawing.columns.into_iter().map(DrawnColumn::done).collect(),
    })
}

struct Drawing {
    bands: Vec<Band>,
    columns: Vec<DrawnColumn>,
}

impl Drawing {
    fn take(&mut self, row: &RowCells<'_>, at: usize, source: &Source) {
        let Some(band) = self.bands.get_mut(at) else { return };
        let number = row.row().0;
        if band.first_row == 0 {
            band.first_row = number;
        }
        band.last_row = number;
        if row.is_blank() || odd_row(row, source).is_some() || repeats_header(row, &source.headings) {
            band.others += 1;
            return;
        }
        band.records += 1;
        for (place, column) in (0..).zip(&mut self.columns) {
            column.take(row.cell(ColumnId::new(place)), at);
        }
    }
}

/// A column that is being drawn.
struct DrawnColumn {
    drawn: Drawn,
    cells: Vec<Cells>,
    lengths: BTreeMap<u32, u64>,
    numbers: Vec<u64>,
    months: BTreeMap<(i16, i8), u64>,
}

impl DrawnColumn {
    fn new(drawn: Drawn, bands: u64) -> Self {
        let cells = vec![Cells::default(); usize::try_from(bands).unwrap_or(1)];
        Self { drawn, cells, lengths: BTreeMap::new(), numbers: Vec::new(), months: BTreeMap::new() }
    }

    fn take(&mut self, cell: &str, band: usize) {
        let (kind, raw) = CellKind::of(cell);
        let value = raw.trim();
        let mut is_damaged = false;
        if !value.is_empty() {
            let bytes = Bytes::of(raw);
            if kind != CellKind::Text || may_be_damaged(raw, value, bytes) {
                Damage::of(kind, raw, bytes, |_, _| is_damaged = true);
            }
            match self.drawn {
                Drawn::Days(order) => self.take_day(cell, order),
                Drawn::Numbers(least, most) => self.take_number(value, Ranges::between(least, most)),
                Drawn::Lengths => {
                    let letters = u32::try_from(value.chars().count()).unwrap_or(u32::MAX);
                    *self.lengths.entry(letters.min(LONGEST)).or_default() += 1;
                }
            }
        }
        if let Some(cells) = self.cells.get_mut(band) {
            cells.add(!value.is_empty(), is_damaged);
        }
    }

    fn take_day(&mut self, cell: &str, order: DateOrder) {
        if let Looks::Date(written, _) = Looks::of(cell)
            && let Some(day) = written.day(order, None)
        {
            *self.months.entry((day.year(), day.month())).or_default() += 1;
        }
    }

    fn take_number(&mut self, value: &str, ranges: Ranges) {
        let Some(range) = Decimal::parse(value).and_then(|number| ranges.of(number)) else { return };
        if self.numbers.len() <= range {
            self.numbers.resize(range + 1, 0);
        }
        if let Some(count) = self.numbers.get_mut(range) {
            *count += 1;
        }
    }

    fn done(self) -> ColumnPicture {
        let spread = match self.drawn {
            Drawn::Days(_) => Spread::Months(self.months),
            Drawn::Lengths => Spread::Lengths(self.lengths),
            Drawn::Numbers(least, most) => {
                let ranges = Ranges::between(least, most);
                Spread::Numbers((0..).map(|range| ranges.begin(range)).zip(self.numbers).collect())
            }
        };
        ColumnPicture { bands: self.cells, spread }
    }
}

/// Ranges of equal width that numbers lie in. They begin at numbers with as many decimals as the least and the greatest
/// have, so that whole numbers have whole ranges.
#[derive(Debug, Clone, Copy)]
struct Ranges {
    /// The least number, in millionths.
    least: i128,
    /// How wide each is, in millionths.
    width: i128,
}

impl Ranges {
    fn between(least: Decimal, most: Decimal) -> Self {
        let unit = 10_i128.pow(6_u32.saturating_sub(least.decimals().max(most.decimals())));
        let [least, most] = [least, most].map(|number| i128::from(number.millionths()));
        let units = (most - least).max(0) / unit + 1;
        Self { least, width: (units + RANGES - 1) / RANGES * unit }
    }

    /// In which of them a number lies; nothing for one below all of them.
    fn of(self, number: Decimal) -> Option<usize> {
        let range = (i128::from(number.millionths()) - self.least).div_euclid(self.width);
        usize::try_from(range).ok().filter(|range| i128::try_from(*range).is_ok_and(|range| range < RANGES))
    }

    fn begin(self, range: i128) -> Decimal {
        Decimal::of_units(self.least + self.width * range, 6)
    }
}
