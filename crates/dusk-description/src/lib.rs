//! The target: the data dictionary, its code lists, and the layout of the file it takes.

mod answer_layout;
mod beside;
mod blank;
mod codes;
mod control;
mod csvw;
mod delivery;
mod encode;
mod field;
mod folder;
mod format;
mod groups;
mod holds;
mod known;
mod quoting_seen;
mod read;
mod rule;
mod types;
mod upload;
mod words;
mod workbook_file;

pub use rule::{Expression, LeaveOutFirst, Reckoned, RecordShare, Rule, RuleError, RuleText, Tally};

use std::path::PathBuf;

use dusk_evidence::{ById, FieldId};

pub use answer_layout::{AnswerCount, AnswerLayout, AnswerOutcome, LineForm};
pub use blank::{Blank, Filling};
pub use codes::{Code, CodeList, HowFound, Likeness, Lookup, ReadAs};
pub use control::Control;
pub use delivery::{Delivery, DeliveryWay, DropFolder, HttpDelivery, HttpMethod, Secret, SecretFrom};
pub use dusk_values::fold;
pub use encode::{Bare, PlainLayout, UploadEncoder, cells_of};
pub use field::{Field, Unmatched};
pub use folder::FolderFiles;
pub use format::UploadFormat;
pub use groups::{FieldRows, RecordRow, RowGroups};
pub use holds::{HeldList, Holds, MostRemoved, OperationWords, Sending, Standing};
pub use known::KnownValues;
pub use quoting_seen::{ColumnQuotes, quotes_of, quoting_shown};
pub use types::{
    BooleanType, Bound, CodeType, CodesLayout, CodesType, DateType, FieldType, FileType, MeansA, NumberType,
    ReferenceType, TYPE_WORDS, TextType, TypeWord, zone_named,
};
pub use upload::{ColumnWidth, Quoting, Upload, UploadEncoding};
pub use words::{FieldWords, Hit};
pub use workbook_file::{made_on, save_workbook, workbook_for, writing};

/// The system to be loaded, as `target.toml` and its code lists describe it.
#[derive(Debug)]
pub struct Target {
    /// What the target is called.
    pub name: String,
    /// The version of its dictionary, as its owner counts.
    pub version: String,
    /// The file that it takes.
    pub upload: Upload,
    /// Its fields, in the template's order.
    pub fields: ById<FieldId, Field>,
    /// Rules between fields.
    pub rules: Vec<Rule>,
    /// How a record is laid out over several rows, where it is.
    pub groups: Option<RowGroups>,
    /// What it holds already, where the description says where that is listed.
    pub holds: Option<Holds>,
    /// How upload files are handed over, where the description says so.
    pub delivery: Option<Delivery>,
    /// The control file that is wanted beside the upload.
    pub control: Option<Control>,
    /// How its answers are read: one for each kind of answer that it gives.
    pub answers: Vec<AnswerLayout>,
    /// The files that describe it: `target.toml` first, then the code lists.
    pub files: Vec<PathBuf>,
}

impl Target {
    /// The place of the field with this name, from 0.
    pub fn field(&self, name: &str) -> Option<FieldId> {
        self.fields.find(|field| field.name == name)
    }

    /// The headings of the upload file: one for each field, or several where each code has a column.
    pub fn headings(&self) -> Vec<&str> {
        self.fields.iter().flat_map(Field::headings).collect()
    }

    /// Every column of the upload file with the field it belongs to, by its place; columns that the
    /// target does not use have none and stay blank.
    pub fn upload_columns(&self) -> Vec<(Option<FieldId>, &str)> {
        let mut columns = Vec::new();
        for (place, field) in self.fields.with_ids() {
            while field.is_sent() && field.position.is_some_and(|position| columns.len() + 1 < position) {
                columns.push((None, ""));
            }
            columns.extend(field.headings().into_iter().map(|heading| (Some(place), heading)));
        }
        while self.upload.columns.is_some_and(|count| columns.len() < count) {
            columns.push((None, ""));
        }
        columns
    }

    /// The rows above the records: the headings, and the labels below them, where wanted.
    pub fn header_rows(&self) -> Vec<Vec<&str>> {
        let columns = self.upload_columns();
        let mut rows = Vec::new();
        if self.upload.header {
            rows.push(columns.iter().map(|(_, heading)| *heading).collect());
        }
        if self.upload.labels {
            let label = |place: &Option<FieldId>| {
                place.and_then(|place| self.fields.get(place)).and_then(|field| field.label.as_deref())
            };
            rows.push(columns.iter().map(|(place, _)| label(place).unwrap_or_default()).collect());
        }
        rows
    }

    /// The fields in which no value may come twice, by their places.
    pub fn unique_fields(&self) -> Vec<FieldId> {
        self.fields.with_ids().filter(|(_, field)| field.unique).map(|(id, _)| id).collect()
    }

    /// The fields of type file, by their places.
    pub fn file_fields(&self) -> Vec<FieldId> {
        let is_file = |place: &FieldId| {
            matches!(self.fields.get(*place).map(|field| &field.kind), Some(FieldType::File(_)))
        };
        self.fields.ids().filter(is_file).collect()
    }
}
