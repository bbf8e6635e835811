//! A file that is there.

use super::{Conforms, Given};
use crate::Basis;
use crate::outcome::Outcome;
use dusk_description::FileType;
use dusk_evidence::{CodeFact, Fault};
use dusk_values::Value;

impl Conforms for FileType {
    fn convert<'a>(
        &'a self,
        given: &Given<'a, '_>,
        out: &mut Outcome,
    ) -> Result<Option<Vec<&'a str>>, Fault> {
        let folder = || self.files.folder.display().to_string();
        let missing = || Fault::new(CodeFact::FileMissing { folder: folder() });
        let (name, bytes) = self.files.find(given.text).ok_or_else(missing)?;
        let ending = name.rsplit_once('.').map_or(String::new(), |(_, ending)| ending.to_lowercase());
        if !self.endings.is_empty() && !self.endings.contains(&ending) {
            return Err(Fault::new(CodeFact::FileEnding { ending, taken: self.endings.clone() }));
        }
        if let Some(most) = self.max_bytes.filter(|most| bytes > *most) {
            return Err(Fault::new(CodeFact::FileTooLarge { bytes, most }));
        }
        if name != given.text {
            out.trail.took(name, || Basis::File { folder: folder() });
        }
        out.text.push_str(name);
        out.value = Value::Text;
        Ok(None)
    }
}
