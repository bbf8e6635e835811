//! A value looked up in another file, by one or more of its columns.

use std::path::Path;

use hashbrown::HashMap;

use dusk_description::fold;
use dusk_evidence::{Error, Problems, Result, Row};
use dusk_files::List;
use dusk_sources::{SheetChoice, WantedColumns, each_row};
use dusk_values::nearest;

/// Stands between the parts of a key of several columns.
const BETWEEN: char = '\u{1f}';

/// One column of another file, by the values of others.
#[derive(Debug, Default)]
pub struct LookUp {
    /// The file, as the steward knows it.
    pub file: String,
    /// The columns of the source and those of the file that hold the same.
    pub by: Vec<(String, String)>,
    /// The column that is taken.
    pub take: String,
    exact: HashMap<String, Answer>,
    folded: HashMap<String, Answer>,
    /// What somebody decided that a key of the source means among those of the file, by its folded text.
    translated: HashMap<String, KeyTranslation>,
}

/// A key of the source that is another one of the file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyTranslation {
    /// The key of the file.
    pub key: String,
    /// Who decided.
    pub by: String,
    /// When, as it is written.
    pub on: String,
}

/// Where the rows of a look-up are, in a file that holds several tables.
#[derive(Debug, Clone, Default)]
pub struct LookUpPlace {
    /// The sheet of a workbook.
    pub sheet: Option<SheetChoice>,
    /// The table of a database.
    pub table: Option<String>,
    /// A query of a database.
    pub query: Option<String>,
}

/// What a key leads to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Answer {
    /// A value and the row that holds it.
    One(String, Row),
    /// Two rows that say different things.
    Two(Row, Row),
}

impl LookUp {
    /// Reads the file at `path`; of a workbook with several sheets, the one that is named, and of a database a table.
    ///
    /// # Errors
    /// Whatever stops reading it; [`Error::Request`](dusk_evidence::Error::Request) when it lacks a column.
    pub fn read(path: &Path, place: &LookUpPlace, by: Vec<(String, String)>, take: String) -> Result<Self> {
        let mut look_up = Self { by, take, ..Self::default() };
        let names: Vec<String> =
            look_up.by.iter().map(|(_, theirs)| theirs.clone()).chain([look_up.take.clone()]).collect();
        if let Some(query) = &place.query {
            look_up.read_query(path, query, &names)?;
            return Ok(look_up);
        }
        if let Some(table) = &place.table {
            look_up.read_table(path, table, &names)?;
            return Ok(look_up);
        }
        let sheet = place.sheet.as_ref();
        let names: Vec<[&str; 1]> = names.iter().map(|name| [name.as_str()]).collect();
        let columns: Vec<&[&str]> = names.iter().map(|name| name.as_slice()).collect();
        look_up.file = each_row(path, WantedColumns { sheet, columns: &columns }, |row, cells| {
            if let Some((answer, keys)) = cells.split_last() {
                look_up.add(keys, answer, row);
            }
        })?;
        Ok(look_up)
    }

    /// The rows of a query, counted from 1 as it gives them.
    fn read_query(&mut self, path: &Path, query: &str, names: &[String]) -> Result<()> {
        let shown = dusk_database::shown(path);
        let database = dusk_database::open(path)?.ok_or_else(|| {
            Error::Request(format!("{shown} is not a database; leave query out for other files"))
        })?;
        let columns: Vec<&str> = names.iter().map(String::as_str).collect();
        self.add_rows(database.query(query, &columns)?);
        self.file = format!("the query of {}", file_name(path, &shown));
        Ok(())
    }

    fn add_rows(&mut self, rows: Vec<Vec<Option<String>>>) {
        for (number, row) in (1..).zip(rows) {
            let cells: Vec<&str> =
                row.iter().map(|cell| cell.as_deref().unwrap_or_default().trim()).collect();
            if let Some((answer, keys)) = cells.split_last() {
                self.add(keys, answer, Row(number));
            }
        }
    }

    /// The rows of a table of a database, counted from 1 in its own order.
    fn read_table(&mut self, path: &Path, table: &str, names: &[String]) -> Result<()> {
        let shown = dusk_database::shown(path);
        let database = dusk_database::open(path)?.ok_or_else(|| {
            Error::Request(format!("{shown} is not a database; leave table out for other files"))
        })?;
        let tables = database.tables()?;
        let Some(table) = tables.iter().find(|known| known.eq_ignore_ascii_case(table)) else {
            let says = format!("{shown} has no table \"{table}\"; there are {}", tables.join(", "));
            return Err(Error::Request(says));
        };
        let known: Vec<String> = database.columns(table)?.into_iter().map(|column| column.name).collect();
        let columns =
            names.iter().map(|name| known.iter().find(|known| known.eq_ignore_ascii_case(name)).ok_or(name));
        let columns: Vec<&str> = columns
            .map(|column| column.map(String::as_str))
            .collect::<std::result::Result<_, _>>()
            .map_err(|name| {
                let says = format!(
                    "the table {table} of {shown} has no column \"{name}\"; it has {}",
                    known.join(", ")
                );
                Error::Request(says)
            })?;
        const ALL: usize = i64::MAX as usize;
        self.add_rows(database.rows(table, &columns, ALL)?);
        self.file = format!("{table} of {}", file_name(path, &shown));
        Ok(())
    }

    /// Reads the crosswalk of its key at `path`: columns `value`, as the source has it, and `code`, a key of the file.
    /// What is wrong with a line is added to `problems`.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read.
    pub fn translate(&mut self, path: &Path, problems: &mut Problems) -> Result<()> {
        let Some(list) = List::read(path, &["value", "code"], &["by", "on", "note"], problems)? else {
            return Ok(());
        };
        for row in &list.rows {
            let [value, key, by, on] = [0, 1, 2, 3].map(|place| row.cell(place).trim().to_owned());
            let mut wrong =
                |says: String| problems.at(&list.name, Some(row.line), says).hint(self.keys_hint(&key));
            if self.find(&[&key]).is_none() {
                wrong(format!("\"{key}\" for \"{value}\" is not a key of {}", self.file));
            } else if self.find(&[&value]).is_some() {
                wrong(format!("\"{value}\" is a key of {} itself", self.file));
            } else if self.translated.insert(fold(&value), KeyTranslation { key, by, on }).is_some() {
                problems.at(&list.name, Some(row.line), format!("\"{value}\" is translated twice"));
            }
        }
        Ok(())
    }

    fn keys_hint(&self, key: &str) -> String {
        match self.near(key) {
            Some(near) => format!("the nearest key is \"{near}\""),
            None => "write a value of the column that by names".to_owned(),
        }
    }

    /// What somebody decided that the key of a source means.
    pub fn translation(&self, keys: &[&str]) -> Option<&KeyTranslation> {
        match keys {
            [key] if !self.translated.is_empty() => self.translated.get(&fold(key)),
            _ => None,
        }
    }

    fn add(&mut self, keys: &[&str], answer: &str, row: Row) {
        if keys.iter().all(|key| key.is_empty()) {
            return;
        }
        let exact = keys.join(&BETWEEN.to_string());
        for (known, key) in [(&mut self.folded, folded(&exact)), (&mut self.exact, exact)] {
            known
                .entry(key)
                .and_modify(|known| {
                    if let Answer::One(value, first) = known
                        && value != answer
                    {
                        *known = Answer::Two(*first, row);
                    }
                })
                .or_insert_with(|| Answer::One(answer.to_owned(), row));
        }
    }

    /// What the file says for the values of its key columns. Case and spaces do not count where that
    /// leaves one answer.
    pub fn find(&self, keys: &[&str]) -> Option<&Answer> {
        let exact = keys.join(&BETWEEN.to_string());
        self.exact.get(&exact).or_else(|| self.folded.get(&folded(&exact)))
    }

    /// The key that is nearest to the value of a look-up by one column, where one is near.
    pub fn near(&self, key: &str) -> Option<&str> {
        if self.by.len() > 1 {
            return None;
        }
        let mut keys: Vec<&str> = self.exact.keys().map(String::as_str).collect();
        keys.sort_unstable();
        nearest(key, keys)
    }

    /// Every value that it can give, with the row that holds it, in the order of the rows.
    pub fn values(&self) -> Vec<(Row, &str)> {
        let one = |answer| match answer {
            &Answer::One(ref value, row) => Some((row, value.as_str())),
            Answer::Two(..) => None,
        };
        let mut values: Vec<(Row, &str)> = self.exact.values().filter_map(one).collect();
        values.sort_unstable();
        values
    }

    /// How many different keys there are.
    pub fn len(&self) -> usize {
        self.exact.len()
    }

    /// True when there is none.
    pub fn is_empty(&self) -> bool {
        self.exact.is_empty()
    }
}

/// The name of a database's file, or where its server is.
fn file_name(path: &Path, shown: &str) -> String {
    path.file_name().map_or_else(|| shown.to_owned(), |name| name.to_string_lossy().into())
}

fn folded(key: &str) -> String {
    let parts: Vec<String> = key.split(BETWEEN).map(fold).collect();
    parts.join(&BETWEEN.to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_rows_that_say_different_things_are_no_answer() {
        let mut look_up = LookUp::default();
        for (row, [place, hive, owner]) in [
            ["Vik", "1", "Berg"],
            ["Vik", "2", "Lund"],
            ["vik ", "2", "Holm"],
            ["Vik", "1", "Berg"],
            ["", "", "x"],
        ]
        .into_iter()
        .enumerate()
        {
            look_up.add(&[place.trim(), hive], owner, Row(row as u64 + 2));
        }
        assert_eq!(look_up.len(), 3);
        assert_eq!(look_up.find(&["Vik", "1"]), Some(&Answer::One("Berg".into(), Row(2))));
        assert_eq!(look_up.find(&["VIK", "1"]), Some(&Answer::One("Berg".into(), Row(2))));
        assert_eq!(look_up.find(&["Vik", "2"]), Some(&Answer::One("Lund".into(), Row(3))), "exactly so");
        assert_eq!(look_up.find(&["VIK", "2"]), Some(&Answer::Two(Row(3), Row(4))));
        assert_eq!(look_up.find(&["Vik1", ""]), None, "the parts of a key stay apart");
        let by = vec![("Place".to_owned(), "place".to_owned())];
        let mut by_place = LookUp { by, ..LookUp::default() };
        by_place.add(&["Old Mill"], "Berg", Row(2));
        assert_eq!((by_place.near("Old Mil"), by_place.near("Fen")), (Some("Old Mill"), None));
    }
}
