//! The files a steward keeps: TOML settings and comma-separated lists.
//!
//! Everything wrong with a file is collected and said at once, each with the file, the line and
//! the nearest right spelling, because errors one at a time cost a steward a morning.

mod beside;
pub mod disk;
mod file_name;
mod guard;
mod held;
mod list;
mod list_file;
mod output;
mod settings;
mod template;
mod toml_text;
mod whole;

pub use beside::{allow_files_elsewhere, beside};
pub use file_name::FileName;
pub use guard::{guarded, unguarded};
pub use held::Held;
pub use list::{List, ListRow};
pub use list_file::ListFile;
pub use output::{Output, OutputFile, hash_of};

pub use settings::{At, Settings, SettingsFile};

pub use template::{Piece, Template};
pub use toml_text::toml_text;
pub use whole::{way_from, write_whole};
