//! A folder with a steward's files, and the job that they come to.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use dusk_core::description::Target;
use dusk_core::mapping::Mapping;
use dusk_core::run::{Job, MadeBatch, NewBatch, Ready, write_batch};
use dusk_core::sources::{Dialect, Rows, Source, Threads};
use dusk_core::{Error, mapping};
use jiff::civil::date;
use tempfile::TempDir;

/// The encodings of the WHATWG standard that text can be read in, beside those of Unicode.
pub(crate) const OLD_ENCODINGS: [&str; 35] = [
    "windows-1252",
    "windows-1250",
    "windows-1251",
    "windows-1253",
    "windows-1254",
    "windows-1255",
    "windows-1256",
    "windows-1257",
    "windows-1258",
    "windows-874",
    "macintosh",
    "x-mac-cyrillic",
    "iso-8859-2",
    "iso-8859-3",
    "iso-8859-4",
    "iso-8859-5",
    "iso-8859-6",
    "iso-8859-7",
    "iso-8859-8",
    "iso-8859-8-i",
    "iso-8859-10",
    "iso-8859-13",
    "iso-8859-14",
    "iso-8859-15",
    "iso-8859-16",
    "koi8-r",
    "koi8-u",
    "ibm866",
    "gbk",
    "gb18030",
    "big5",
    "euc-jp",
    "shift_jis",
    "euc-kr",
    "iso-2022-jp",
];

/// The day of every run.
pub(crate) const TODAY: jiff::civil::Date = date(2026, 4, 30);

/// A folder with files in it.
pub(crate) struct Desk(TempDir);

/// Everything that a run is given, read.
pub(crate) struct Given {
    pub(crate) mapping: Mapping,
    pub(crate) target: Target,
    pub(crate) sources: Vec<Source>,
}

impl Desk {
    pub(crate) fn new() -> Self {
        Self(tempfile::tempdir().unwrap())
    }

    /// A desk whose target has a key and one other field, described and mapped as it is said here, and an export
    /// with these cells.
    pub(crate) fn with_field(field: &str, map: &str, cells: &[&str]) -> Self {
        let target = format!(
            "[target]\nname = \"T\"\n[upload]\nfile_name = \"up.csv\"\n[[field]]\nname = \"id\"\ntype = \"text\"\n[[field]]\nname = \"it\"\n{field}\n"
        );
        let mapping = format!(
            "target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\n[[map]]\nfield = \"id\"\nfrom = \"Id\"\n[[map]]\nfield = \"it\"\nfrom = \"It\"\n{map}\n"
        );
        let rows =
            cells.iter().enumerate().map(|(number, cell)| vec![format!("r{number}"), (*cell).to_owned()]);
        Self::new()
            .with("target.toml", &target)
            .with("mapping.toml", &mapping)
            .with("colours.csv", COLOURS)
            .with_table("export.csv", &["Id", "It"], rows)
    }

    pub(crate) fn with(self, name: &str, text: impl AsRef<[u8]>) -> Self {
        self.write(name, text);
        self
    }

    pub(crate) fn write(&self, name: &str, text: impl AsRef<[u8]>) {
        let path = self.path(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }

    /// The desk with a comma-separated table.
    pub(crate) fn with_table(
        self,
        name: &str,
        header: &[&str],
        rows: impl IntoIterator<Item = impl IntoIterator<Item = impl AsRef<[u8]>>>,
    ) -> Self {
        let mut writer = csv::Writer::from_path(self.path(name)).unwrap();
        writer.write_record(header).unwrap();
        rows.into_iter().for_each(|row| writer.write_record(row).unwrap());
        writer.flush().unwrap();
        self
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    pub(crate) fn read(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).unwrap()
    }

    /// The records of a comma-separated file, without its header.
    pub(crate) fn records(&self, name: &str) -> Vec<csv::StringRecord> {
        csv::Reader::from_path(self.path(name)).unwrap().records().map(Result::unwrap).collect()
    }

    /// The mapping, the target and `export.csv`.
    pub(crate) fn given(&self) -> Given {
        self.read_export("export.csv").unwrap()
    }

    /// The mapping, the target and the export of this name, where they can be read.
    pub(crate) fn read_export(&self, name: &str) -> Result<Given, Error> {
        let (mapping, target) = mapping::read(&self.path("mapping.toml"))?;
        let known = mapping.known(&target);
        let sources = vec![Source::open(&self.path(name), &mapping.source, &known)?];
        Ok(Given { mapping, target, sources })
    }

    /// Conforms `export.csv` into the folder `batch`, in the place of an earlier one.
    pub(crate) fn conform(&self) -> MadeBatch {
        self.batch_of(&self.given().job()).unwrap()
    }

    /// Writes the batch of a job into the folder `batch`, in the place of an earlier one.
    pub(crate) fn batch_of<'j>(&self, job: &'j Job<'j>) -> Result<MadeBatch, Error> {
        let batch = self.path("batch");
        let _ = fs::remove_dir_all(&batch);
        let write = |ready: &Ready<'_>| write_batch(ready, &NewBatch::at(&batch), &|_, _| {});
        job.work(&|_, _| {}, write).map(|(_, made)| made)
    }

    /// What became of each cell of [`Desk::with_field`]: the value in the upload file, or behind an exclamation
    /// mark the finding that keeps its row out.
    pub(crate) fn outcomes(&self, cells: usize) -> Vec<String> {
        self.conform();
        let mut outcomes: BTreeMap<String, String> = self
            .records("batch/upload/up.csv")
            .iter()
            .map(|row| (row[0].to_owned(), row[1].to_owned()))
            .collect();
        let ids: BTreeMap<String, String> = self
            .records("batch/rejects.csv")
            .iter()
            .map(|row| (row[2].to_owned(), row[5].to_owned()))
            .collect();
        for finding in self.records("batch/findings.csv").iter().filter(|row| &row[3] == "reject") {
            outcomes.insert(ids[&finding[1]].clone(), format!("!{}", &finding[4]));
        }
        (0..cells).map(|number| outcomes.remove(&format!("r{number}")).unwrap_or_default()).collect()
    }
}

impl Given {
    pub(crate) fn job(&self) -> Job<'_> {
        Job::new(&self.target, &self.mapping, &self.sources, TODAY, Threads::default())
    }
}

/// Reads text back into a table of cells.
pub(crate) fn table(text: &str, delimiter: &str, quote: &str) -> Vec<Vec<String>> {
    let dialect = Dialect::new(delimiter, quote);
    let mut rows = Rows::new(text, &dialect);
    let mut table = Vec::new();
    while let Some(row) = rows.next() {
        table.push(row.cells().map(str::to_owned).collect());
    }
    table
}

/// The names of the files in a folder, sorted.
pub(crate) fn names(folder: &Path) -> Vec<String> {
    let mut names: Vec<String> = fs::read_dir(folder)
        .unwrap()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .collect();
    names.sort();
    names
}

/// A code list in which names are shared, and a code is retired.
pub(crate) const COLOURS: &str = "code,label,also,until,replaced_by\nW,White,pale,,\nY,Yellow,,,\nB,Blue,sky blue|pale,,\nO,Old,,2024-12-31,Y\n";
