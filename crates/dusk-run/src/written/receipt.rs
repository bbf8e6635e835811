//! `receipt.json`: what a batch was made of, what was made, and how to tell that it is unchanged.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};

use crate::{BatchLimit, BesideCounts, FieldTotal, Ready, Summary, Totals, WithheldCounts};
use dusk_database::LoadedRows;
use dusk_evidence::{Cause, Error, FieldEvidence, FieldId, Result};
use dusk_files::OutputFile;
use dusk_held::HeldSource;
use dusk_mapping::FieldDigest;
use dusk_sources::{NO_DELIMITER, Source, SourceIdentity};

/// What the receipt is called.
pub(crate) const NAME: &str = "receipt.json";

/// The receipt of a batch. The number of its form goes up when a key changes its meaning.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Receipt {
    /// The number of this form.
    pub form: u32,
    /// The program's version.
    pub dusk: String,
    /// The batch's name.
    pub batch: String,
    /// The day of the run.
    pub today: String,
    /// Who made it.
    #[serde(default)]
    pub by: String,
    /// The values that were asked for.
    pub asked: BTreeMap<String, String>,
    /// The target's name and version.
    pub target: ReceiptTarget,
    /// The steward's own files.
    pub settings: Vec<ReceiptFile>,
    /// What was read.
    pub sources: Vec<ReceiptSource>,
    /// Date orders that the data proved: field and order.
    pub proven_date_orders: BTreeMap<String, String>,
    /// Marks before the decimals that the data proved: field and mark.
    pub proven_decimal_marks: BTreeMap<String, String>,
    /// What became of the rows.
    pub totals: Totals,
    /// How many records the accepted rows make.
    #[serde(default)]
    pub records: u64,
    /// The batch whose rest this one sends.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub follows: Option<String>,
    /// What it is for, where it is about records that were sent before.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub purpose: Option<String>,
    /// How many accepted records stay back, since batches before have sent them, or only a few go first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub withheld: Option<WithheldCounts>,
    /// What the sent records come to, field by field.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sent_totals: Vec<FieldTotal>,
    /// The rules over the whole batch, and what they come to.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub limits: Vec<BatchLimit>,
    /// What the target held, and what the records are beside it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub held: Option<ReceiptHeld>,
    /// What was done to the table that is loaded.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub loaded: Option<ReceiptLoaded>,
    /// Changed cells of accepted records.
    pub changed_cells: u64,
    /// How many decisions were remembered beside the mapping: lines of crosswalks, and corrected cells.
    #[serde(default)]
    pub decisions: Option<u64>,
    /// How many findings there are of each kind.
    pub findings: BTreeMap<String, u64>,
    /// What was met in the column of each field.
    #[serde(default)]
    pub digest: Vec<FieldDigest>,
    /// What was written.
    pub outputs: Vec<OutputFile>,
}

/// The target of a receipt.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct ReceiptTarget {
    /// Its name.
    pub name: String,
    /// The version of its dictionary.
    pub version: String,
}

/// A settings file of a receipt.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct ReceiptFile {
    /// The file as the steward knows it.
    pub file: String,
    /// Its BLAKE3 hash.
    pub blake3: String,
}

/// What the target held, as a receipt says it.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct ReceiptHeld {
    /// The day that the lists are from, where the description says so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub as_of: Option<String>,
    /// The lists.
    pub lists: Vec<ReceiptList>,
    /// What the records are beside them.
    pub counts: BesideCounts,
}

/// What was done to a table, as a receipt says it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ReceiptLoaded {
    /// The table and where it is.
    pub table: String,
    /// Rows that were put in.
    pub inserted: u64,
    /// Rows that were changed.
    pub updated: u64,
    /// Rows that were taken out.
    pub removed: u64,
}

impl ReceiptLoaded {
    pub(crate) fn of(table: &str, rows: LoadedRows) -> Self {
        let LoadedRows { inserted, updated, removed } = rows;
        Self { table: table.to_owned(), inserted, updated, removed }
    }
}

/// A list of held records, as a receipt says it.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct ReceiptList {
    /// The file or the table.
    pub list: String,
    /// How many records it has.
    pub records: u64,
    /// The BLAKE3 hash of a file.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blake3: Option<String>,
    /// The day on which a file was changed (UTC), where the description does not say which day it is from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub changed_on: Option<String>,
}

/// A source of a receipt.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct ReceiptSource {
    /// The file as the steward named it.
    pub file: String,
    /// Its size in bytes.
    pub bytes: u64,
    /// Its BLAKE3 hash.
    pub blake3: String,
    /// How it was read.
    pub encoding: String,
    /// What parted its cells.
    pub delimiter: String,
    /// The row of its headings.
    pub header_row: u64,
    /// The sheet, where it is a workbook.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sheet: Option<String>,
    /// Its headings.
    pub columns: Vec<String>,
}

impl Receipt {
    /// The receipt of a run.
    ///
    /// # Errors
    /// [`Error::File`] when a settings file has gone meanwhile.
    pub fn of(
        ready: &Ready<'_>,
        summary: &Summary,
        (batch, by): (String, &str),
        outputs: Vec<OutputFile>,
    ) -> Result<Self> {
        let job = ready.job;
        let settings = std::iter::once(&job.mapping.path)
            .chain(&job.target.files)
            .chain(&job.mapping.crosswalk_files)
            .chain(job.mapping.corrections.files.iter().map(|file| &file.path))
            .chain(&job.mapping.look_up_files);
        let mut findings = BTreeMap::new();
        for Cause { kind, count, .. } in summary.causes.iter().chain(&summary.remarks) {
            *findings.entry(kind.code().to_owned()).or_insert(0) += count;
        }
        Ok(Self {
            form: 1,
            dusk: env!("CARGO_PKG_VERSION").to_owned(),
            batch,
            today: job.today.to_string(),
            by: by.to_owned(),
            asked: job.asked.iter().cloned().collect(),
            target: ReceiptTarget { name: job.target.name.clone(), version: job.target.version.clone() },
            settings: settings.map(settings_file).collect::<Result<_>>()?,
            sources: job.sources.iter().zip(&summary.sources).map(receipt_source).collect(),
            proven_date_orders: proven(ready, |found| Some(found.date_order?.word().to_owned())),
            proven_decimal_marks: proven(ready, |found| Some(found.decimal_mark?.to_string())),
            totals: summary.totals,
            records: summary.records,
            follows: None,
            purpose: None,
            withheld: Some(summary.withheld).filter(|withheld| withheld.all() > 0),
            limits: summary.limits.clone(),
            sent_totals: summary.field_totals.clone(),
            held: receipt_held(ready, summary),
            loaded: None,
            changed_cells: summary.changed_cells,
            decisions: Some(job.mapping.decisions()),
            findings,
            digest: summary.digest.clone(),
            outputs,
        })
    }

    /// Reads the receipt in `folder`.
    ///
    /// # Errors
    /// [`Error::File`] when there is none; [`Error::Request`] when it is none of this program's.
    pub fn read(folder: &Path) -> Result<Self> {
        let path = folder.join(NAME);
        let bytes = std::fs::read(&path).map_err(Error::reading(&path))?;
        serde_json::from_slice(&bytes).map_err(|wrong| {
            Error::Request(format!("{} is not the receipt of a batch: {wrong}", path.display()))
        })
    }

    /// Whether both were made of a source of the same bytes.
    pub(crate) fn shares_a_source(&self, other: &Self) -> bool {
        let is_there = |one: &ReceiptSource| {
            other.sources.iter().any(|known| known.blake3 == one.blake3 && known.sheet == one.sheet)
        };
        self.sources.iter().any(is_there)
    }

    /// Whether the mapping at `path` has changed since, or another one made the batch.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be read.
    pub fn is_of_another_mapping(&self, path: &Path) -> Result<bool> {
        let now = settings_file(&path.to_path_buf())?;
        Ok(self.settings.first().is_none_or(|then| then.blake3 != now.blake3))
    }

    /// Writes the receipt into `folder`.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be written.
    pub fn write(&self, folder: &Path) -> Result<()> {
        let path = folder.join(NAME);
        let mut json =
            serde_json::to_vec_pretty(self).map_err(|error| Error::Invariant(error.to_string()))?;
        json.push(b'\n');
        dusk_files::write_whole(&path, &json)
    }
}

fn receipt_held(ready: &Ready<'_>, summary: &Summary) -> Option<ReceiptHeld> {
    let as_of = ready.job.target.holds.as_ref()?.as_of.map(|day| day.to_string());
    let list = |list: &HeldSource| ReceiptList {
        list: list.name.clone(),
        records: list.records,
        blake3: list.blake3.clone(),
        changed_on: list.changed_on.filter(|_| as_of.is_none()).map(|day| day.to_string()),
    };
    let lists = ready.job.held?.lists.iter().map(list).collect();
    Some(ReceiptHeld { as_of, lists, counts: summary.beside? })
}

/// A source as it was read.
fn receipt_source((source, identity): (&Source, &SourceIdentity)) -> ReceiptSource {
    ReceiptSource {
        file: source.name.clone(),
        bytes: identity.bytes,
        blake3: identity.blake3.clone(),
        encoding: source.encoding.label(),
        delimiter: source.dialect.delimiter().replace(NO_DELIMITER, "none"),
        sheet: source.sheet(),
        header_row: source.header_row,
        columns: source.columns.to_vec(),
    }
}

/// What the columns prove of one thing, by the names of the fields.
fn proven(ready: &Ready<'_>, what: impl Fn(&FieldEvidence) -> Option<String>) -> BTreeMap<String, String> {
    let name = |place: FieldId| ready.job.target.fields.get(place).map(|field| field.name.clone());
    let of_field = |found: &FieldEvidence| Some((name(found.field).unwrap_or_default(), what(found)?));
    ready.evidence.iter().filter_map(of_field).collect()
}

fn settings_file(path: &PathBuf) -> Result<ReceiptFile> {
    let bytes = std::fs::read(path).map_err(Error::reading(path))?;
    Ok(ReceiptFile { file: path.display().to_string(), blake3: blake3::hash(&bytes).to_hex().to_string() })
}
