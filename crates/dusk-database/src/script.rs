//! SQL scripts, as databases are handed on: the tables that a script makes, what it demands of them, and the rows that it
//! puts in. Read by a parser that knows the dialects of several makers.

use std::path::{Path, PathBuf};

use sqlparser::ast::{
    AlterColumnOperation, AlterTableOperation, ColumnDef, ColumnOption, CommentObject, CreateTable, DataType,
    Expr, ForeignKeyConstraint, Insert, ObjectName, SetExpr, Statement, TableConstraint, TableObject,
    UserDefinedTypeRepresentation,
};
use sqlparser::dialect::{
    Dialect, GenericDialect, MsSqlDialect, MySqlDialect, PostgreSqlDialect, SQLiteDialect,
};
use sqlparser::parser::Parser;

use super::checks::{self, Checked};
use super::script_bytes;
use super::statements::{Piece, pieces};
use super::{Database, TableColumn, TableRule};
use dusk_evidence::{Error, Result};

/// A table as the script makes it.
#[derive(Debug, Default)]
struct Table {
    name: String,
    columns: Vec<TableColumn>,
    rules: Vec<TableRule>,
    rows: Vec<Vec<(String, Option<String>)>>,
}

#[derive(Debug)]
struct Script {
    path: PathBuf,
    tables: Vec<Table>,
    /// Lists of words that have a name: `CREATE TYPE … AS ENUM`.
    word_types: Vec<(String, Vec<String>)>,
    notes: Vec<String>,
    unread: Vec<String>,
}

/// Reads a script that makes tables; nothing for a file that is none.
pub(super) fn open(path: &Path) -> Result<Option<Box<dyn Database>>> {
    let Some(bytes) = script_bytes(path)? else { return Ok(None) };
    let script = Script::read(path, &decoded(&bytes));
    if let (true, Some(first)) = (script.tables.is_empty(), script.unread.first()) {
        return Err(Error::Source {
            source_name: path.display().to_string(),
            says: format!("is an SQL script of which no table could be read: {first}"),
            hint: "check that it was copied whole, and that it runs in its own database".into(),
        });
    }
    Ok((!script.tables.is_empty()).then(|| Box::new(script) as Box<dyn Database>))
}

/// A script's text: UTF-8, or what its mark says, or the most usual single bytes.
fn decoded(bytes: &[u8]) -> String {
    match encoding_rs::Encoding::for_bom(bytes) {
        Some((encoding, _)) => encoding.decode(bytes).0.into_owned(),
        None => std::str::from_utf8(bytes)
            .map_or_else(|_| encoding_rs::WINDOWS_1252.decode(bytes).0.into_owned(), str::to_owned),
    }
}

/// One statement, in the dialect of the first maker whose parser reads it.
pub(super) fn parsed(sql: &str) -> Option<Statement> {
    // What the counter of an identity is called is more than the parser takes.
    let sql = match sql.find(" AS IDENTITY (").filter(|_| sql.contains("ADD GENERATED")) {
        Some(at) => sql.get(..at + " AS IDENTITY".len()).unwrap_or(sql),
        None => sql,
    };
    let dialects: [&dyn Dialect; 5] =
        [&PostgreSqlDialect {}, &GenericDialect {}, &MySqlDialect {}, &SQLiteDialect {}, &MsSqlDialect {}];
    dialects.into_iter().find_map(|dialect| Parser::parse_sql(dialect, sql).ok()?.into_iter().next())
}

impl Script {
    fn read(path: &Path, text: &str) -> Self {
        let mut script = Self {
            path: path.to_path_buf(),
            tables: Vec::new(),
            word_types: Vec::new(),
            notes: Vec::new(),
            unread: Vec::new(),
        };
        for piece in pieces(text) {
            match piece {
                Piece::Note(note) if script.tables.is_empty() => script.notes.push(note),
                Piece::Note(_) => {}
                Piece::Statement { text, line } => script.take(text, line),
                Piece::Rows { table, columns, rows } => {
                    let rows = rows.into_iter().map(|cells| columns.iter().cloned().zip(cells).collect());
                    if let Some(found) = table_called(&mut script.tables, &table) {
                        found.rows.extend(rows);
                    }
                }
            }
        }
        script
    }

    fn take(&mut self, text: &str, line: usize) {
        match parsed(text) {
            Some(Statement::CreateTable(made)) => self.make(&made, text),
            Some(Statement::CreateType {
                name,
                representation: Some(UserDefinedTypeRepresentation::Enum { labels }),
            }) => {
                self.word_types.push((last_of(&name), labels.into_iter().map(|label| label.value).collect()));
            }
            Some(Statement::AlterTable(altered)) => {
                let name = last_of(&altered.name);
                if let Some(table) = table_called(&mut self.tables, &name) {
                    for operation in altered.operations {
                        match operation {
                            AlterTableOperation::AddConstraint { constraint, .. } => {
                                table.demand(&constraint)
                            }
                            AlterTableOperation::AlterColumn { column_name, op } => {
                                let is_counted = match &op {
                                    AlterColumnOperation::AddGenerated { .. } => true,
                                    AlterColumnOperation::SetDefault { value } => {
                                        value.to_string().to_lowercase().contains("nextval")
                                    }
                                    _ => false,
                                };
                                if let Some(column) = table.column(&column_name.value) {
                                    column.computed |= is_counted;
                                }
                            }
                            AlterTableOperation::AddColumn { column_def, .. } => {
                                table.add(&column_def, &self.word_types);
                            }
                            _ => {}
                        }
                    }
                }
            }
            Some(Statement::Comment { object_type, object_name, comment: Some(comment), .. }) => {
                self.comment(&object_type, &object_name, comment);
            }
            Some(Statement::Insert(insert)) => self.insert(&insert),
            Some(_) => {}
            None => {
                let first = text.lines().find(|line| !line.trim().is_empty()).unwrap_or_default().trim();
                // What makes views, rights or procedures says nothing of a field.
                let upper = first.to_ascii_uppercase();
                if ["CREATE TABLE", "ALTER TABLE", "COMMENT ON", "INSERT INTO"]
                    .iter()
                    .any(|begins| upper.starts_with(begins))
                {
                    self.unread.push(format!("line {line}: {first}"));
                }
            }
        }
    }

    fn make(&mut self, made: &CreateTable, text: &str) {
        let mut table = Table { name: last_of(&made.name), ..Table::default() };
        for column in &made.columns {
            table.add(column, &self.word_types);
        }
        made.constraints.iter().for_each(|constraint| table.demand(constraint));
        for (word, comment) in super::statements::comments_behind(text) {
            if let Some(column) = table.column(&word) {
                column.comments.push(comment);
            }
        }
        self.tables.push(table);
    }

    fn comment(&mut self, object: &CommentObject, name: &ObjectName, comment: String) {
        let parts: Vec<String> =
            name.0.iter().filter_map(|part| part.as_ident().map(|part| part.value.clone())).collect();
        if let (CommentObject::Column, [.., table, column]) = (object, parts.as_slice())
            && let Some(column) = table_called(&mut self.tables, table).and_then(|table| table.column(column))
        {
            column.comments.insert(0, comment);
        }
    }

    fn insert(&mut self, insert: &Insert) {
        let TableObject::TableName(name) = &insert.table else { return };
        let Some(table) = table_called(&mut self.tables, &last_of(name)) else { return };
        let named: Vec<String> = insert.columns.iter().map(last_of).collect();
        let all: Vec<String> = table.columns.iter().map(|column| column.name.clone()).collect();
        let columns = if named.is_empty() { all } else { named };
        let Some(SetExpr::Values(values)) = insert.source.as_ref().map(|query| query.body.as_ref()) else {
            return;
        };
        for row in &values.rows {
            let cells = row.content.iter().map(checks::value_of);
            table.rows.push(columns.iter().cloned().zip(cells).collect());
        }
    }

    fn table(&self, name: &str) -> Option<&Table> {
        self.tables.iter().find(|table| table.name.eq_ignore_ascii_case(name))
    }
}

fn table_called<'t>(tables: &'t mut [Table], name: &str) -> Option<&'t mut Table> {
    tables.iter_mut().find(|table| table.name.eq_ignore_ascii_case(name))
}

/// The name of a thing without that of the schema that it is in.
fn last_of(name: &ObjectName) -> String {
    name.0.last().and_then(|part| part.as_ident()).map_or_else(String::new, |part| part.value.clone())
}

impl Table {
    fn column(&mut self, name: &str) -> Option<&mut TableColumn> {
        self.columns.iter_mut().find(|column| column.name.eq_ignore_ascii_case(name))
    }

    fn add(&mut self, made: &ColumnDef, word_types: &[(String, Vec<String>)]) {
        let declared = made.data_type.to_string();
        let mut column = TableColumn {
            name: made.name.value.clone(),
            declared: declared.clone(),
            ..TableColumn::default()
        };
        match &made.data_type {
            DataType::Enum(members, _) => {
                column.among = members.iter().filter_map(checks::word_of).collect();
            }
            DataType::Custom(name, _) => {
                let own = word_types.iter().find(|(known, _)| known.eq_ignore_ascii_case(&last_of(name)));
                column.among = own.map(|(_, words)| words.clone()).unwrap_or_default();
            }
            _ => {}
        }
        column.computed = declared.to_ascii_uppercase().contains("SERIAL");
        let mut checks = Vec::new();
        for option in &made.options {
            match &option.option {
                ColumnOption::NotNull => column.not_null = true,
                ColumnOption::Default(value) => {
                    column.default = checks::value_of(value);
                    column.computed |= value.to_string().to_lowercase().contains("nextval");
                }
                ColumnOption::PrimaryKey(_) => column.key = true,
                ColumnOption::Unique(_) => column.unique = true,
                ColumnOption::Comment(comment) => column.comments.push(comment.clone()),
                ColumnOption::Generated { .. } | ColumnOption::Identity(_) => column.computed = true,
                ColumnOption::DialectSpecific(tokens) => {
                    column.computed |= tokens.iter().any(|token| {
                        token.to_string().to_ascii_uppercase().replace('_', "").starts_with("AUTOINCREMENT")
                    });
                }
                ColumnOption::ForeignKey(key) => column.refers_to = Some(referred(key, 0)),
                ColumnOption::Check(check) => checks.push((option.name.clone(), check.expr.clone())),
                _ => {}
            }
        }
        self.columns.push(column);
        for (name, check) in checks {
            self.check(name.map(|name| name.value), &check);
        }
    }

    fn demand(&mut self, constraint: &TableConstraint) {
        let named = |expr: &Expr| checks::column_of(expr);
        match constraint {
            TableConstraint::PrimaryKey(key) => {
                for name in key.columns.iter().filter_map(|column| named(&column.column.expr)) {
                    if let Some(column) = self.column(&name) {
                        column.key = true;
                    }
                }
            }
            TableConstraint::Unique(unique) => {
                if let [only] = unique.columns.as_slice()
                    && let Some(column) = named(&only.column.expr).and_then(|name| self.column(&name))
                {
                    column.unique = true;
                }
            }
            TableConstraint::ForeignKey(key) => {
                for (place, name) in key.columns.iter().enumerate() {
                    if let Some(column) = self.column(&name.value) {
                        // Of two keys the one of this column alone says more.
                        column.refers_to.get_or_insert_with(|| referred(key, place));
                    }
                }
            }
            TableConstraint::Check(check) => {
                self.check(check.name.as_ref().map(|name| name.value.clone()), &check.expr);
            }
            _ => {}
        }
    }

    fn check(&mut self, name: Option<String>, expr: &Expr) {
        for part in checks::conjuncts(expr) {
            match checks::read(part) {
                Checked::Column(name, demand) => {
                    if let Some(column) = self.column(&name) {
                        demand.put_on(column);
                    }
                }
                Checked::Rule(must) => {
                    self.rules.push(TableRule { name: name.clone().unwrap_or_default(), must });
                }
            }
        }
    }
}

/// The one table that a statement makes.
fn made_by(statement: &str) -> Option<Table> {
    let mut script = Script::read(Path::new(""), statement);
    script.tables.pop()
}

/// Puts what the statement that made a table demands on its columns, as far as the database itself did not say it.
///
/// # Errors
/// None here; where the program was built without the reading of SQL, that it was.
pub(super) fn put_checks(statement: &str, columns: &mut [TableColumn]) -> Result<()> {
    let Some(mut made) = made_by(statement) else { return Ok(()) };
    for column in columns {
        let Some(known) = made.column(&column.name) else { continue };
        column.among = std::mem::take(&mut known.among);
        column.limits = std::mem::take(&mut known.limits);
        column.beyond = std::mem::take(&mut known.beyond);
        column.pattern = known.pattern.take();
        column.longest = known.longest;
        column.unique |= known.unique;
        column.computed |= known.computed;
        column.comments.append(&mut known.comments);
    }
    Ok(())
}

/// The rules between the columns of the table that a statement makes.
pub(super) fn rules_of(statement: &str) -> Vec<TableRule> {
    made_by(statement).map(|table| table.rules).unwrap_or_default()
}

/// The table and the column that a key's column refers to; the name of the column is empty where the key names none.
fn referred(key: &ForeignKeyConstraint, place: usize) -> (String, String) {
    let column = key.referred_columns.get(place).map_or_else(String::new, |column| column.value.clone());
    (last_of(&key.foreign_table), column)
}

impl Database for Script {
    fn takes_rows(&self) -> bool {
        false
    }

    fn tables(&self) -> Result<Vec<String>> {
        Ok(self.tables.iter().map(|table| table.name.clone()).collect())
    }

    fn columns(&self, table: &str) -> Result<Vec<TableColumn>> {
        let missing = || Error::Request(format!("{} makes no table \"{table}\"", self.path.display()));
        let mut columns = self.table(table).ok_or_else(missing)?.columns.clone();
        for (other, column) in columns.iter_mut().filter_map(|column| column.refers_to.as_mut()) {
            let key = self.table(other).and_then(|other| other.columns.iter().find(|column| column.key));
            if let Some(key) = key.filter(|_| column.is_empty()) {
                column.clone_from(&key.name);
            }
        }
        Ok(columns)
    }

    fn rows(&self, table: &str, columns: &[&str], most: usize) -> Result<Vec<Vec<Option<String>>>> {
        let rows = self.table(table).map_or(&[][..], |table| table.rows.as_slice()).iter().take(most);
        let cell = |row: &[(String, Option<String>)], wanted: &str| {
            row.iter()
                .find(|(name, _)| name.eq_ignore_ascii_case(wanted))
                .and_then(|(_, value)| value.clone())
        };
        Ok(rows.map(|row| columns.iter().map(|column| cell(row, column)).collect()).collect())
    }

    fn query(&self, _: &str, _: &[&str]) -> Result<Vec<Vec<Option<String>>>> {
        Err(Error::Request("a script cannot be asked a query; name its table, or a database".into()))
    }

    fn rules(&self, table: &str) -> Result<Vec<TableRule>> {
        Ok(self.table(table).map(|table| table.rules.clone()).unwrap_or_default())
    }

    fn notes(&self) -> &[String] {
        &self.notes
    }

    fn unread(&self) -> &[String] {
        &self.unread
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const SCRIPT: &str = "-- Harbour of Ness, berths; UTF-8, decimal point\nSET x = 1;
CREATE TYPE wind AS ENUM ('calm', 'gale');
CREATE TABLE quay (quay_id char(2) PRIMARY KEY, name text, closed_on date);
INSERT INTO quay VALUES ('01', 'St John''s', NULL), ('02', 'Old', DATE '2024-01-31');
CREATE TABLE port.berth (
  berth_no serial, -- counted; here
  ship varchar(40) NOT NULL UNIQUE CHECK (length(ship) <= 30), -- as painted; on the bow
  quay char(2) NOT NULL,
  blow wind,
  length_m numeric(5,1) CHECK (length_m > 0 AND length_m <= 180.5),
  flag text CHECK (flag ~ '^[A-Z]{2}$'),
  mood text CHECK ((mood)::text = ANY (ARRAY['x'::text, 'y'::text])),
  left_on date CONSTRAINT later CHECK (left_on >= came_on OR left_on IS NULL),
  came_on date
);
ALTER TABLE ONLY port.berth ADD CONSTRAINT k PRIMARY KEY (berth_no);
ALTER TABLE ONLY port.berth ADD CONSTRAINT f FOREIGN KEY (quay) REFERENCES quay;
COMMENT ON COLUMN port.berth.quay IS 'Where it lies';
COPY quay (quay_id, name) FROM stdin;
03\tNew; quay
04\t\\N
\\.
CREATE VIEW v AS SELECT 1;
ALTER TABLE berth FROBNICATE;
";

    #[test]
    fn what_a_script_makes_and_demands_is_read() {
        let script = Script::read(Path::new("s.sql"), SCRIPT);
        assert_eq!(script.tables().unwrap(), ["quay", "berth"]);
        let rows = script.rows("quay", &["quay_id", "name", "closed_on"], 9).unwrap();
        let shown: Vec<String> = rows
            .iter()
            .map(|row| row.iter().map(|cell| cell.as_deref().unwrap_or("~")).collect::<Vec<_>>().join("|"))
            .collect();
        assert_eq!(shown, ["01|St John's|~", "02|Old|2024-01-31", "03|New; quay|~", "04|~|~"]);
        let columns = script.columns("BERTH").unwrap();
        let column = |name: &str| columns.iter().find(|column| column.name == name).unwrap();
        assert!(column("berth_no").computed && column("berth_no").key && column("ship").unique);
        assert_eq!(column("ship").comments, ["as painted; on the bow"]);
        assert_eq!(
            (column("ship").longest, column("quay").comments.as_slice()),
            (Some(30), &["Where it lies".to_owned()][..])
        );
        assert_eq!(column("quay").refers_to, Some(("quay".into(), "quay_id".into())));
        assert_eq!(column("blow").among, ["calm", "gale"]);
        assert_eq!(column("length_m").limits, (None, Some("180.5".into())));
        assert_eq!(column("length_m").beyond, (Some("0".into()), None));
        assert_eq!(column("flag").pattern.as_deref(), Some("[A-Z]{2}"));
        assert_eq!(column("mood").among, ["x", "y"]);
        let rule = TableRule { name: "later".into(), must: "left_on >= came_on or left_on is blank".into() };
        assert_eq!(script.rules("berth").unwrap(), [rule]);
        assert_eq!(script.notes(), ["Harbour of Ness, berths; UTF-8, decimal point"]);
        assert_eq!(script.unread(), ["line 25: ALTER TABLE berth FROBNICATE"]);
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("cut.sql");
        std::fs::write(&path, "-- cut off\nCREATE TABLE berth (berth_no int,,").unwrap();
        assert!(open(&path).err().unwrap().to_string().contains("line 2: CREATE TABLE berth"));
    }
}
