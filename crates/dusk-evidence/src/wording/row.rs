//! Words about rows, columns and sheets.

use crate::{HeadedValue, RowFact};

pub(super) fn wrong(fact: &RowFact) -> String {
    match fact {
        RowFact::Width { cells, header } => {
            format!("has {}, and the header has {header}", number_of_cells(*cells))
        }
        RowFact::SeveralWays { cells, header, ways, .. } => {
            format!(
                "has {}, and the header has {header}; it could be put together in {ways} ways",
                number_of_cells(*cells)
            )
        }
        RowFact::Rejoined { cells, values } => format!(
            "had {cells} cells because of an unquoted delimiter, and was put together again in the only way that fits: {}",
            headed(values)
        ),
        RowFact::Misquoted => {
            "has a quote inside a quoted cell that is not doubled, so where the cell ends is not certain"
                .into()
        }
        RowFact::UnclosedQuote => {
            "opens a quote that is never closed; the row was ended with its line".into()
        }
        RowFact::DamagedRecord { why } => format!("is a record that cannot be read: {why}"),
        RowFact::RowsInCell => {
            "holds a line that would be a whole row; a quote may not have been closed".into()
        }
        RowFact::RepeatsHeader => "repeats the header and holds no record".into(),
        RowFact::ClosingLine { word } => format!(
            "begins with \"{word}\", as the mapping says of closing lines (closing), and holds no record"
        ),
        RowFact::NothingRepeated => {
            "has nothing in any of the columns that repeat, so it makes no record".into()
        }
        RowFact::KeptOut { decided } => format!("is kept out, as was decided ({decided})"),
        RowFact::OutsideRows { .. } | RowFact::NotKept { .. } => {
            format!("is left out, {}", fact.why_left_out().unwrap_or_default())
        }
        RowFact::KeepOpen { rule } => format!(
            "may hold a record or not: the mapping keeps rows with {rule}, and a cell of that is blank"
        ),
        RowFact::Hidden { .. } | RowFact::Merged { .. } => of_sheet(fact),
        RowFact::ColumnNotMapped { .. } => "is a column that the mapping does not speak of".into(),
        RowFact::FieldNotFed => "is fed by nothing and stays blank".into(),
    }
}

impl RowFact {
    /// Why the mapping leaves the row out, where it does.
    pub fn why_left_out(&self) -> Option<String> {
        match self {
            RowFact::OutsideRows { first, last } => {
                let to = last.map_or_else(|| "the end".to_owned(), |last| format!("row {last}"));
                Some(format!("as the mapping says that the records are in rows {first} to {to}"))
            }
            RowFact::NotKept { rule } => Some(format!("as the mapping keeps rows with {rule}")),
            _ => None,
        }
    }
}

fn of_sheet(fact: &RowFact) -> String {
    match fact {
        RowFact::Hidden { first, count: 1 } => {
            format!("has a hidden row, row {first}, which is read like all others")
        }
        RowFact::Hidden { first, count } => {
            format!("has {count} hidden rows, the first of them row {first}; they are read like all others")
        }
        RowFact::Merged { first, count: 1 } => {
            format!("has merged cells, {first}; only the first of them holds the value")
        }
        RowFact::Merged { first, count } => format!(
            "has {count} ranges of merged cells, the first of them {first}; only the first cell of each holds the value"
        ),
        _ => String::new(),
    }
}

/// `Town "Vik" and Region "Upper Fen"`.
fn headed(values: &[HeadedValue]) -> String {
    let each = values.iter().map(|one| format!("{} \"{}\"", one.heading, one.value));
    each.collect::<Vec<_>>().join(" and ")
}

pub(super) fn right(fact: &RowFact) -> String {
    let right = match fact {
        RowFact::Width { cells, header } if cells < header => {
            "the missing cells, in the export; nothing was moved. If cells are only missing at the end, write missing_cells = \"blank\" under [source]; if such rows close the file, name their first words there in closing"
        }
        RowFact::Width { .. } => {
            "quotes around a value that holds the delimiter, in the export; nothing was moved. If many rows are split so, and the dictionary leaves one way to put them together, write split_rows = \"rejoin\" under [source]"
        }
        RowFact::SeveralWays { first, .. } => {
            let ways: Vec<String> = first.iter().map(|way| headed(way)).collect();
            return format!("quotes around the right one, in the export: {}", ways.join(", or "));
        }
        RowFact::Rejoined { .. } => "quotes around the value, in the export",
        RowFact::Misquoted => "double the quote in the export",
        RowFact::UnclosedQuote => {
            "close or remove the quote in the export; if the file does not quote its cells at all, write quote = \"\" under [source] in the mapping"
        }
        RowFact::DamagedRecord { .. } => {
            "correct the record where it comes from, and export it again; all other records were read"
        }
        RowFact::RowsInCell => "look at the row in the export",
        RowFact::KeepOpen { .. } => {
            "the cell filled, or what a blank means said in the mapping (keep), with is blank"
        }
        RowFact::Hidden { .. } => {
            "show them in the spreadsheet program, and delete what does not belong to the export"
        }
        RowFact::Merged { .. } => "unmerge them in the spreadsheet program, and fill every cell",
        RowFact::ColumnNotMapped { mapping } => {
            return format!("map it, or write it under [leave_out] columns in {mapping}");
        }
        RowFact::FieldNotFed => "a [[map]] for it, if it should be filled",
        RowFact::RepeatsHeader
        | RowFact::ClosingLine { .. }
        | RowFact::NothingRepeated
        | RowFact::KeptOut { .. }
        | RowFact::OutsideRows { .. }
        | RowFact::NotKept { .. } => "",
    };
    right.to_owned()
}

fn number_of_cells(count: usize) -> String {
    if count == 1 { "1 cell".to_owned() } else { format!("{count} cells") }
}
