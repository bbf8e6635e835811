//! Drop-downs for the columns whose values are those of a list. Other values may still be typed.

use rust_xlsxwriter::{
    DataValidation, DataValidationErrorStyle, Format, Formula, Workbook, Worksheet, XlsxError,
    column_number_to_name,
};

/// The hidden sheet that drop-downs take their values from.
const SHEET: &str = "Choices";

/// What a column's drop-down offers.
#[derive(Debug, Clone)]
pub struct Choices {
    /// The heading of the column.
    pub heading: String,
    /// What it offers.
    pub offer: Offer,
}

/// What may be chosen in a cell.
#[derive(Debug, Clone)]
pub enum Offer {
    /// One of these.
    Values(Vec<String>),
    /// One of a list that the cell of another column decides on.
    Inside {
        /// The heading of that column.
        parent: String,
        /// A list for each value that it may hold.
        lists: Vec<Inside>,
        /// All values, where it holds something else.
        all: Vec<String>,
    },
}

/// What may be chosen inside one value of another column.
#[derive(Debug, Clone)]
pub struct Inside {
    /// What the list is called after.
    pub name: String,
    /// How the other column writes that value.
    pub written: Vec<String>,
    /// What may be chosen.
    pub values: Vec<String>,
}

impl Offer {
    /// The heading of the column that decides; empty where none does.
    pub fn parent(&self) -> &str {
        match self {
            Self::Values(_) => "",
            Self::Inside { parent, .. } => parent,
        }
    }

    /// The same below a column of this heading.
    pub fn below(&self, heading: String) -> Self {
        match self {
            Self::Values(values) => Self::Values(values.clone()),
            Self::Inside { lists, all, .. } => {
                Self::Inside { parent: heading, lists: lists.clone(), all: all.clone() }
            }
        }
    }
}

/// Puts the drop-downs into the sheet of this name: for its columns from `first` on, which have these headings, in the
/// rows below the header to `last`.
pub(super) fn offer(
    book: &mut Workbook,
    sheet: &str,
    (first, columns): (u16, &[String]),
    last: u32,
    choices: &[Choices],
) -> Result<(), XlsxError> {
    let place = |heading: &str| {
        let place = columns.iter().position(|known| known == heading)?;
        u16::try_from(place).ok()?.checked_add(first)
    };
    let used: Vec<(u16, &Offer)> =
        choices.iter().filter_map(|one| Some((place(&one.heading)?, &one.offer))).collect();
    if used.is_empty() || last == 0 {
        return Ok(());
    }
    let mut lists = Worksheet::new();
    lists.set_name(SHEET)?.set_hidden(true);
    let mut lists = Lists { sheet: lists, next: 0, names: Vec::new() };
    let mut offers = Vec::new();
    for (column, offer) in used {
        let formula = match offer {
            Offer::Values(values) => lists.put(values)?,
            Offer::Inside { parent, lists: inside, all } => {
                let whole = lists.put(all)?;
                match place(parent) {
                    Some(parent) => lists.put_inside(parent, inside, (&whole, column))?,
                    None => whole,
                }
            }
        };
        offers.push((column, formula));
    }
    let Lists { sheet: list, names, .. } = lists;
    book.push_worksheet(list);
    for (name, range) in &names {
        book.define_name(name, range)?;
    }
    let sheet = book.worksheet_from_name(sheet)?;
    for (column, formula) in offers {
        let offer = DataValidation::new()
            .allow_list_formula(Formula::new(formula))
            .set_error_style(DataValidationErrorStyle::Information)
            .show_error_message(false);
        sheet.add_data_validation(1, column, last, column, &offer)?;
    }
    Ok(())
}

/// The sheet with the lists while it is filled.
struct Lists {
    sheet: Worksheet,
    /// The next column.
    next: u16,
    /// The names of lists, and where they are.
    names: Vec<(String, String)>,
}

impl Lists {
    /// Puts a list into a column of its own; gives back where it is.
    fn put(&mut self, values: &[String]) -> Result<String, XlsxError> {
        let letters = self.column(values)?;
        Ok(format!("={SHEET}!${letters}$1:${letters}${}", values.len().max(1)))
    }

    fn column(&mut self, values: &[String]) -> Result<String, XlsxError> {
        let text = Format::new().set_num_format("@");
        for (row, value) in (0..).zip(values) {
            self.sheet.write_string_with_format(row, self.next, value, &text)?;
        }
        let letters = column_number_to_name(self.next);
        self.next += 1;
        Ok(letters)
    }

    /// Puts a list for each value of the column above, each with a name, and a table that leads from what that column
    /// holds to the name; gives back the formula of the list that the cell beside decides on.
    fn put_inside(
        &mut self,
        parent: u16,
        inside: &[Inside],
        (whole, own): (&str, u16),
    ) -> Result<String, XlsxError> {
        let everything = self.name("All", own, whole);
        let (mut written, mut called) = (Vec::new(), Vec::new());
        for list in inside {
            let range = self.put(&list.values)?;
            let name = self.name(&list.name, own, &range);
            written.extend(list.written.iter().cloned());
            called.resize(written.len(), name);
        }
        let (from, to) = (self.column(&written)?, self.column(&called)?);
        let (cell, rows) = (column_number_to_name(parent), written.len().max(1));
        let table = format!("{SHEET}!${from}$1:${to}${rows}");
        Ok(format!("=INDIRECT(IFERROR(VLOOKUP(TRIM(${cell}2),{table},2,FALSE),\"{everything}\"))"))
    }

    /// A name for a list that a spreadsheet program takes: letters, digits and low lines, none that is a cell's.
    fn name(&mut self, called: &str, column: u16, range: &str) -> String {
        let plain: String =
            called.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '_' }).take(80).collect();
        let mut name = format!("in_{}_{plain}", column_number_to_name(column));
        while self.names.iter().any(|(known, _)| known.eq_ignore_ascii_case(&name)) {
            name.push('_');
        }
        self.names.push((name.clone(), range.to_owned()));
        name
    }
}
