//! What the description and the mapping themselves put into fields is what the dictionary allows.

use super::{FieldPlan, Input, Plan};
use crate::{Outcome, Parent};
use dusk_decisions::crosswalk_path;
use dusk_description::UploadEncoder;
use dusk_evidence::{Line, Problems, Result};
use dusk_mapping::{Map, Mapping};

impl Plan<'_> {
    /// The plan, once all of it is known to be right.
    pub(super) fn check(self, mapping: &Mapping) -> Result<Self> {
        let mut problems = Problems::default();
        let target_file = mapping.target_path.display().to_string();
        match UploadEncoder::new(&self.target.upload) {
            Err(says) => {
                problems.at(&target_file, None, says);
            }
            Ok(mut encoder) => {
                self.check_fields(mapping, &target_file, &mut encoder, &mut problems);
            }
        }
        problems.or(self)
    }

    fn check_fields(
        &self,
        mapping: &Mapping,
        target_file: &str,
        encoder: &mut UploadEncoder<'_>,
        problems: &mut Problems,
    ) {
        for field in &self.fields {
            if let Some(text) = &field.field.fixed {
                field.check_text((target_file, field.field.line, "fixed"), text, encoder, problems);
            }
        }
        let file = mapping.path.display().to_string();
        for map in &mapping.maps {
            let Some(field) = self.fields.get(map.field) else { continue };
            field.check_fixed(map, &file, encoder, problems);
            let crosswalk = crosswalk_path(&mapping.path, &field.field.name);
            field.check_crosswalk(encoder, problems, &crosswalk.display().to_string());
        }
    }
}

impl FieldPlan<'_> {
    /// A constant and a default must be what the dictionary allows.
    fn check_fixed(&self, map: &Map, file: &str, encoder: &mut UploadEncoder<'_>, problems: &mut Problems) {
        // What is valid inside a parent depends on the row, and is checked there.
        if self.parent.is_some() {
            return;
        }
        let constant = match &self.input {
            Input::Constant(text) => Some(("constant", text.as_str())),
            _ => None,
        };
        for (key, text) in constant.into_iter().chain(self.if_blank.map(|text| ("if_blank", text))) {
            self.check_text((file, map.line, key), text, encoder, problems);
        }
    }

    /// A text that a key of a file puts into this field must be what the dictionary allows.
    fn check_text(
        &self,
        (file, line, key): (&str, Line, &str),
        text: &str,
        encoder: &mut UploadEncoder<'_>,
        problems: &mut Problems,
    ) {
        let mut outcome = Outcome::default();
        self.conform_fixed(text, Parent::None, encoder, &mut outcome);
        for fault in &outcome.faults {
            let problem = problems.at(
                file,
                Some(line),
                format!("{key} \"{text}\" for {} {}", self.field.name, fault.wrong()),
            );
            if !fault.right().is_empty() {
                problem.hint(format!("right would be: {}", fault.right()));
            }
        }
    }
}
