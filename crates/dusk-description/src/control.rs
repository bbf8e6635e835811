//! The control file that a target wants beside the upload: counts, sums and hashes, as `[control]` says.

use dusk_files::Template;

/// What a control file says, and what it is called.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Control {
    /// Its name, from `{batch}` and `{today}`.
    pub file_name: Template,
    /// Lines about the whole batch.
    pub lines: Vec<Template>,
    /// A line for each upload file.
    pub each_file: Option<Template>,
}

impl Control {
    /// What the lines about the batch may name, beside the sum of a field.
    pub const OF_BATCH: [&'static str; 4] = ["batch", "today", "files", "records"];

    /// What the line of a file may name.
    pub const OF_FILE: [&'static str; 6] = ["batch", "file", "records", "bytes", "sha256", "blake3"];

    /// The field of which a name means the sum.
    pub fn summed(name: &str) -> Option<&str> {
        name.strip_prefix("sum:").map(str::trim)
    }
}
