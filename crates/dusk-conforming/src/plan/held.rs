//! What the target holds already, by the key as it stands in the upload file.

use hashbrown::HashMap;

use super::Plan;
use crate::{KeyHash, Outcome, Parent};
use dusk_description::{Held, UploadEncoder};
use dusk_evidence::{FieldId, Problems, Row};

/// What fields hold that may be set only once, by the key of the record.
pub(crate) type HeldValues = HashMap<KeyHash, Vec<(FieldId, String)>>;

impl Plan<'_> {
    /// What the target holds, by the key as it stands in the upload file, and written as the target
    /// writes it now.
    pub(super) fn held_by_key(
        &self,
        held: &Held,
        encoder: &mut UploadEncoder<'_>,
        problems: &mut Problems,
    ) -> HeldValues {
        let file = held.path.display().to_string();
        let mut prints = HeldValues::new();
        for (row, key, once) in &held.records {
            let filled = held.once.iter().zip(once).filter(|(_, text)| !text.is_empty());
            let values: Vec<(FieldId, String)> = filled
                .map(|(id, text)| {
                    let outcome = self.conform_held(*id, text, encoder);
                    (*id, if outcome.faults.is_empty() { outcome.text } else { text.clone() })
                })
                .collect();
            let Some(print) = self.key_hash((*row, key), held, encoder, (&file, problems)) else { continue };
            if values.is_empty() {
                continue;
            }
            if prints.get(&print).is_some_and(|known| *known != values) {
                let key = key.join(", ");
                let says =
                    format!("row {row}: an earlier row has the same key ({key}) and holds something else");
                problems.at(&file, None, says).hint("one row for each record that the target holds");
            }
            prints.insert(print, values);
        }
        prints
    }

    /// The key of a record; nothing where a part of it is not what the dictionary allows.
    fn key_hash(
        &self,
        (row, key): (Row, &[String]),
        held: &Held,
        encoder: &mut UploadEncoder<'_>,
        (file, problems): (&str, &mut Problems),
    ) -> Option<KeyHash> {
        let mut print = Vec::new();
        let mut fits = true;
        for (id, text) in held.key.iter().zip(key) {
            let outcome = self.conform_held(*id, text, encoder);
            if let Some(fault) = outcome.faults.first() {
                // Not found again, the record could be changed without a word.
                let name = self.fields.get(*id).map_or("", |field| field.field.name.as_str());
                let says = format!("row {row}: {name} \"{text}\", part of the key, {}", fault.wrong());
                problems.at(file, None, says).hint("export what the target holds as the target writes it");
                fits = false;
            }
            print.extend(outcome.encoded);
        }
        fits.then(|| KeyHash::of(&print))
    }

    fn conform_held(&self, id: FieldId, text: &str, encoder: &mut UploadEncoder<'_>) -> Outcome {
        let mut outcome = Outcome::default();
        let Some(field) = self.fields.get(id) else { return outcome };
        field.conform_fixed(text, Parent::None, encoder, &mut outcome);
        // What is valid inside a parent is a code of the target's as it stands.
        if !outcome.faults.is_empty() && field.parent.is_some() {
            outcome = Outcome { text: text.to_owned(), ..Outcome::default() };
            let wrong = field.encode(None, encoder, &mut outcome).err();
            outcome.faults.extend(wrong);
        }
        outcome
    }
}
