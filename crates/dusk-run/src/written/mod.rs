//! What a run writes: a batch folder, whole or not at all.
//!
//! ```text
//! writer    the files of a batch, all of them
//! folder    a folder that appears whole or not at all
//! aside     batches that were replaced
//! leftovers what runs left that were ended in the middle
//! pages     the pages about a batch, and about each of its groups
//! whole_records  bibliographic records with the fields of the target set or added
//! by_group  what becomes of each group, where the upload is divided
//! upload    the upload files, split as the target demands
//! upload_file  what every kind of upload file does with records
//! text_file, sheet, table_copy  an upload file of each kind: text, a workbook, a copy of what goes into a table
//! lists     findings.csv
//! changes   changes.csv: every distinct change, counted in bounded memory
//! companion companion.csv: columns without a field, handed on beside the upload
//! control   the control file beside the upload
//! compared  compared.csv: what is new, changes and is gone beside what the target holds
//! counted, short_changes  how often a change was made; changes of short values, which are nearly all
//! choices   what the drop-downs of rejected rows offer
//! earlier_rows  those whose key another row has as well, read once more
//! own_words what was found, in the words of the steward's sheet
//! records   records.bin and records-again.csv: which records the last batch had already
//! receipt   receipt.json
//! rows      rows.csv: what became of each row, and where it is in the upload
//! room      whether the disk has room for a batch, before a long run
//! ```

mod aside;
pub(crate) mod by_group;
pub(crate) mod changes;
mod choices;
mod companion;
pub(crate) mod compared;
mod control;
mod counted;
mod earlier_rows;
pub(crate) mod folder;
pub(crate) mod leftovers;
pub(crate) mod lists;
mod own_words;
pub(crate) mod pages;
pub(crate) mod receipt;
pub(crate) mod records;
mod room;
pub(crate) mod rows;
mod sheet;
mod short_changes;
mod table_copy;
mod text_file;
pub(crate) mod upload;
mod upload_file;
pub(crate) mod whole_records;
pub(crate) mod writer;
