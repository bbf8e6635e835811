//! `rejects.xlsx`: every cell text, so that no spreadsheet program changes or runs one.

use std::path::{Path, PathBuf};
use std::thread::JoinHandle;

use crossbeam_channel::{Receiver, Sender, bounded};
use jiff::civil::Date;
use rust_xlsxwriter::{Color, Format, FormatAlign, Note, Workbook, Worksheet, XlsxError};

use super::doubles::{Double, EarlierPlaces, EarlierRows, MOST};
use super::layout::{FIXED, LINE, PRINT, RejectLayout, RejectedRow};
use super::offers::{Choices, offer};
use dusk_description::{save_workbook, workbook_for, writing};
use dusk_evidence::{Error, Result};
use dusk_files::OutputFile;

/// The sheet with the rows.
pub(super) const SHEET: &str = "Rejects";

/// How many rows a workbook is given; rejects.csv has all of them. Nobody mends more by hand.
const MOST_ROWS: u32 = 100_000;

/// The most columns that a sheet has.
const MOST_COLUMNS: usize = 16_384;

/// How many cells get a note; spreadsheet programs become slow with more.
const MOST_NOTES: u32 = 1_000;

/// The longest text that a cell of a spreadsheet program holds, in UTF-16 units.
const LONGEST: usize = 32_767;

/// How many lines of a row are seen at once.
const MOST_LINES: usize = 8;

/// How many rows go to the writing thread at a time: waking it for each would cost more than the row.
const TOGETHER: usize = 128;

/// How many such parcels wait for it.
const WAITING: usize = 8;

/// What is on its way to the writing thread.
enum Parcel {
    /// Rejected rows.
    Rows(Vec<RejectedRow>),
    /// The earlier rows of those whose key is there already; the last parcel.
    Earlier(EarlierRows),
}

/// The workbook being written, by a thread of its own from the first rejected row on.
#[derive(Debug)]
pub struct RejectsBook {
    path: PathBuf,
    layout: RejectLayout,
    choices: Vec<Choices>,
    today: Date,
    rows: Vec<RejectedRow>,
    /// Where the earlier rows are of those whose key is there already.
    doubles: EarlierPlaces,
    writing: Option<(Sender<Parcel>, JoinHandle<Result<u64>>)>,
    is_too_wide: bool,
}

const NAME: &str = "rejects.xlsx";

impl RejectsBook {
    /// A workbook to be written into `folder`, with what each column offers to choose from.
    pub fn new(folder: &Path, layout: RejectLayout, choices: Vec<Choices>, today: Date) -> Self {
        let is_too_wide = layout.headings().len() > MOST_COLUMNS;
        Self {
            path: folder.join(NAME),
            is_too_wide,
            layout,
            choices,
            today,
            rows: Vec::new(),
            doubles: EarlierPlaces::new(),
            writing: None,
        }
    }

    /// Appends a rejected row; a thread of its own writes them.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the disk refuses.
    pub fn append(&mut self, row: RejectedRow) -> Result<()> {
        if self.is_too_wide {
            return Ok(());
        }
        if self.doubles.len() < MOST {
            self.doubles.extend(row.earlier);
        }
        self.rows.push(row);
        if self.rows.len() < TOGETHER { Ok(()) } else { self.send_rows() }
    }

    /// Whether a row has more cells than a sheet has columns: then there is no workbook, and `rejects.csv` has to do.
    pub fn is_too_wide(&self) -> bool {
        self.is_too_wide
    }

    /// Where the earlier rows are of those whose key is there already; as many as are shown.
    pub fn doubles(&self) -> &EarlierPlaces {
        &self.doubles
    }

    fn send_rows(&mut self) -> Result<()> {
        let rows = std::mem::take(&mut self.rows);
        if rows.is_empty() { Ok(()) } else { self.send(Parcel::Rows(rows)) }
    }

    fn send(&mut self, parcel: Parcel) -> Result<()> {
        let (to, _) = match &self.writing {
            Some(writing) => writing,
            None => {
                let (to, from) = bounded(WAITING);
                let headings = self.layout.headings();
                // What is hidden, or not there, takes no room.
                let width = |(place, heading): (usize, &std::borrow::Cow<'_, str>)| match place {
                    LINE | PRINT => u8::MAX,
                    place => width_of(place, heading),
                };
                let widths = headings.iter().enumerate().map(width).collect();
                let book = Book {
                    path: self.path.clone(),
                    widths,
                    layout: self.layout.clone(),
                    choices: self.choices.clone(),
                    today: self.today,
                };
                self.writing.insert((to, std::thread::spawn(move || book.write(&from))))
            }
        };
        if to.send(parcel).is_ok() {
            return Ok(());
        }
        // The thread has given up; it says why.
        self.join().and(Err(Error::Invariant("the thread that writes rejects stopped".into())))
    }

    fn join(&mut self) -> Result<Option<u64>> {
        let Some((to, thread)) = self.writing.take() else { return Ok(None) };
        drop(to);
        let stopped = |_| Error::Invariant("the thread that writes rejects stopped".into());
        thread.join().map_err(stopped)?.map(Some)
    }

    /// Writes what is left, the earlier rows beside those whose key is there already; nothing where no row was
    /// rejected.
    pub fn finish(mut self, earlier: EarlierRows) -> Result<Option<OutputFile>> {
        self.send_rows()?;
        if !earlier.is_empty() {
            self.send(Parcel::Earlier(earlier))?;
        }
        match self.join()? {
            Some(rows) => OutputFile::of_file(&self.path, NAME, rows).map(Some),
            None => Ok(None),
        }
    }
}

struct Book {
    path: PathBuf,
    /// How wide the columns of the layout are.
    widths: Vec<u8>,
    layout: RejectLayout,
    choices: Vec<Choices>,
    today: Date,
}

/// How cells look. Every one of them is text.
struct Looks {
    heading: Format,
    text: Format,
    faulty: Format,
    corrected: Format,
    quiet: Format,
    reasons: Format,
}

impl Looks {
    fn new() -> Self {
        let text = || Format::new().set_num_format("@").set_align(FormatAlign::Top).set_text_wrap();
        Self {
            heading: text().set_bold().set_background_color(Color::RGB(0x00E4_E9F0)),
            text: text(),
            faulty: text().set_background_color(Color::RGB(0x00FB_D9D3)).set_bold(),
            corrected: text().set_background_color(Color::RGB(0x00DC_EFD9)),
            quiet: text().set_font_color(Color::RGB(0x0070_7780)),
            reasons: text().set_font_color(Color::RGB(0x008A_2A1C)),
        }
    }
}

impl Book {
    fn write(self, from: &Receiver<Parcel>) -> Result<u64> {
        let mut book = workbook_for(&self.path, self.today)?;
        // It stays on this machine, so that time counts for more than size.
        book.set_zip_compression_level(1);
        let rows = writing(&self.path, || self.write_all(&mut book, from))?;
        save_workbook(&mut book, &self.path)?;
        Ok(rows)
    }

    fn write_all(&self, book: &mut Workbook, from: &Receiver<Parcel>) -> std::result::Result<u64, XlsxError> {
        let looks = Looks::new();
        let sheet = book.add_worksheet_with_constant_memory()?;
        sheet.set_name(SHEET)?;
        self.head(sheet, &looks)?;
        let (mut row, mut notes) = (0, 0);
        let mut doubles: Vec<Double> = Vec::new();
        for parcel in from {
            let rows = match parcel {
                Parcel::Rows(rows) => rows,
                Parcel::Earlier(earlier) => {
                    self.show_earlier(sheet, &doubles, &earlier)?;
                    continue;
                }
            };
            for rejected in rows {
                row += 1;
                if row > MOST_ROWS {
                    continue;
                }
                write_row(sheet, row, &rejected, (&self.widths, &looks), &mut notes)?;
                if rejected.earlier.is_some() && doubles.len() < MOST {
                    doubles.push(Double { at: row, row: rejected });
                }
            }
        }
        let last = row.min(MOST_ROWS);
        let first = u16::try_from(in_book(FIXED.into_iter()).count()).unwrap_or(0);
        offer(book, SHEET, (first, &self.layout.columns), last, &self.choices)?;
        Ok(u64::from(last))
    }

    /// Shows what the earlier rows say, in the note of the first cell that is marked.
    fn show_earlier(
        &self,
        sheet: &mut Worksheet,
        doubles: &[Double],
        earlier: &EarlierRows,
    ) -> std::result::Result<(), XlsxError> {
        for double in doubles {
            let Some(says) = double.says(&self.layout.columns, earlier) else { continue };
            let Some(mark) = double.row.marks.iter().min_by_key(|mark| mark.column) else { continue };
            let column = in_book(FIXED.into_iter()).count() + mark.column;
            let column = u16::try_from(column).unwrap_or(u16::MAX);
            sheet.insert_note(double.at, column, &note(&format!("{}\n{says}", mark.says)))?;
        }
        Ok(())
    }

    fn head(&self, sheet: &mut Worksheet, looks: &Looks) -> std::result::Result<(), XlsxError> {
        sheet.set_default_note_author("dusk");
        let headings = self.layout.headings();
        for (column, (place, heading)) in (0..).zip(in_book(headings.iter().map(AsRef::as_ref))) {
            let look = match FIXED.get(place).copied() {
                Some("reasons") => &looks.reasons,
                Some(_) => &looks.quiet,
                None => &looks.text,
            };
            sheet.set_column_width(column, f64::from(width_of(place, heading)))?;
            sheet.set_column_format(column, look)?;
            if place == PRINT {
                sheet.set_column_hidden(column)?;
            }
            sheet.write_string_with_format(0, column, heading, &looks.heading)?;
        }
        let says = "Mend the cells that are marked, save the workbook, and bring it back with: dusk correct rejects.xlsx\n\
             Leave the headings and the columns source and row as they are. Rows may be sorted, and left as they are.";
        sheet.insert_note(0, 0, &Note::new(says).set_width(380).set_height(110))?;
        sheet.set_freeze_panes(1, 3)?;
        // On paper all columns stand side by side.
        sheet.set_landscape().set_paper_size(9).set_print_fit_to_pages(1, 0).set_repeat_rows(0, 0)?;
        Ok(())
    }
}

/// How wide a column is, in characters: by its place in the layout, and its heading.
fn width_of(place: usize, heading: &str) -> u8 {
    match FIXED.get(place).copied() {
        Some("reasons") => 60,
        Some("source") => 18,
        Some("row") => 8,
        Some(_) => 14,
        None => u8::try_from(heading.chars().count()).unwrap_or(u8::MAX).clamp(13, 40) + 2,
    }
}

/// How many lines a text takes in a column so wide.
fn lines_of(text: &str, width: u8) -> usize {
    let wide = usize::from(width).max(1);
    text.split('\n').map(|line| line.chars().count() / wide + 1).sum()
}

/// A note large enough for what it says.
fn note(says: &str) -> Note {
    let says: String = says.chars().take(1_000).collect();
    let lines = u32::try_from(lines_of(&says, 44) + 1).unwrap_or(2);
    Note::new(says).set_width(300).set_height(lines * 16 + 8)
}

fn write_row(
    sheet: &mut Worksheet,
    row: u32,
    rejected: &RejectedRow,
    (widths, looks): (&[u8], &Looks),
    notes: &mut u32,
) -> std::result::Result<(), XlsxError> {
    // Programs do not make room for wrapped text by themselves when they open a workbook.
    let lines = rejected.texts().zip(widths).map(|(text, width)| lines_of(text, *width)).max().unwrap_or(1);
    if lines > 1 {
        let height = u8::try_from(lines.min(MOST_LINES)).unwrap_or(1) * 15;
        sheet.set_row_height(row, f64::from(height))?;
    }
    for (column, (place, text)) in (0_u16..).zip(in_book(rejected.texts())) {
        let mark = place
            .checked_sub(FIXED.len())
            .and_then(|place| rejected.marks.iter().find(|mark| mark.column == place));
        // A cell without a look of its own has that of its column, which costs less to write.
        match mark {
            None if text.is_empty() => continue,
            None => sheet.write_string(row, column, fitting(text))?,
            Some(mark) => {
                let look = if mark.faulty { &looks.faulty } else { &looks.corrected };
                match text {
                    "" => sheet.write_blank(row, column, look)?,
                    text => sheet.write_string_with_format(row, column, fitting(text), look)?,
                }
            }
        };
        if let Some(mark) = mark.filter(|_| *notes < MOST_NOTES) {
            *notes += 1;
            sheet.insert_note(row, column, &note(&mark.says))?;
        }
    }
    Ok(())
}

/// The columns that the workbook has, with their places in the layout: lines are nothing to a spreadsheet
/// program.
fn in_book<'t>(texts: impl Iterator<Item = &'t str>) -> impl Iterator<Item = (usize, &'t str)> {
    texts.enumerate().filter(|(place, _)| *place != LINE)
}

/// As much of a text as a cell holds.
pub(super) fn fitting(text: &str) -> &str {
    if text.len() <= LONGEST {
        return text;
    }
    let mut units = 0;
    let end = text.char_indices().find(|(_, letter)| {
        units += letter.len_utf16();
        units > LONGEST
    });
    end.and_then(|(end, _)| text.get(..end)).unwrap_or(text)
}
