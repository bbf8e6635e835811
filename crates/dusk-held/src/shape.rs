//! What is taken of each held record, and how: by several threads, before the records come together.

use dusk_description::Target;
use dusk_evidence::{FieldId, Row};

use crate::meaning::push_key_word;
use crate::{Facts, KeyHash, unique_hash};

/// What stands between two parts of a key: the separator that no cell holds.
const PART: char = '\u{1f}';

/// The fields by which records are found again.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct WayFields {
    /// The fields, in the order of the target.
    pub fields: Vec<FieldId>,
    /// Whether they are identifiers that the target hands out.
    pub given_by_target: bool,
}

impl WayFields {
    /// The key of a record: its hash however it is written, and a part of its hash as it is. Nothing where all of it
    /// is blank, or a part of it is not known.
    pub fn key<'t>(
        &self,
        target: &Target,
        room: &mut KeyRoom,
        text: impl Fn(FieldId) -> Option<&'t str>,
    ) -> Option<(KeyHash, u32)> {
        room.key.clear();
        room.written.clear();
        let mut is_blank = true;
        for id in &self.fields {
            let (kind, text) = (&target.fields.get(*id)?.kind, text(*id)?);
            is_blank &= text.is_empty();
            push_key_word(kind, text, &mut room.key);
            room.key.push(PART);
            room.written.push_str(text);
            room.written.push(PART);
        }
        let [written, ..] = KeyHash::of(room.written.as_bytes()).words();
        (!is_blank).then(|| (KeyHash::of(room.key.as_bytes()), written))
    }
}

/// Room in which keys are put together, used again and again.
#[derive(Debug, Default)]
pub struct KeyRoom {
    key: String,
    written: String,
}

/// What is taken of each held record.
#[derive(Debug, Clone)]
pub struct HeldShape<'t> {
    /// The target.
    pub target: &'t Target,
    /// The fields whose values are known, in the order of the target.
    pub fields: Vec<FieldId>,
    pub(crate) compared: Vec<FieldId>,
    pub(crate) ways: Vec<WayFields>,
    pub(crate) unique: Vec<FieldId>,
}

impl<'t> HeldShape<'t> {
    /// For records of which these fields are known, compared in `compared`, found again in these ways.
    pub fn new(
        target: &'t Target,
        mut fields: Vec<FieldId>,
        compared: Vec<FieldId>,
        ways: Vec<WayFields>,
    ) -> Self {
        fields.sort_unstable();
        let is_unique = |id: &FieldId| target.fields.get(*id).is_some_and(|field| field.unique);
        let unique = fields.iter().copied().filter(is_unique).collect();
        Self { target, fields, compared, ways, unique }
    }
}

/// Held records on their way, of one block of a list.
#[derive(Debug, Default)]
pub struct HeldBlock {
    /// For each record and each way, its key.
    pub(crate) keys: Vec<Option<(KeyHash, u32)>>,
    /// For each record and each field in which no value comes twice, its hash.
    pub(crate) unique: Vec<Option<KeyHash>>,
    pub(crate) facts: Vec<u64>,
    /// The records as they are kept, one after the other, and where each ends.
    pub(crate) bytes: Vec<u8>,
    pub(crate) ends: Vec<usize>,
    hasher: Facts,
    room: KeyRoom,
}

impl HeldBlock {
    /// Empties it, so that it can be filled again.
    pub fn clear(&mut self) {
        self.keys.clear();
        self.unique.clear();
        self.facts.clear();
        self.bytes.clear();
        self.ends.clear();
    }

    /// How many records it has.
    pub fn len(&self) -> usize {
        self.facts.len()
    }

    /// Whether it has none.
    pub fn is_empty(&self) -> bool {
        self.facts.is_empty()
    }

    /// Takes in a record of a list (from 0): its row there, and its texts as the target writes them, one for each field
    /// of the shape.
    pub fn add(&mut self, shape: &HeldShape<'_>, (list, row): (usize, Row), texts: &[&str]) {
        let text = |id: FieldId| {
            let place = shape.fields.binary_search(&id).ok()?;
            texts.get(place).copied()
        };
        let field = |id: FieldId| shape.target.fields.get(id).zip(text(id));
        self.hasher.clear();
        for (field, text) in shape.compared.iter().filter_map(|id| field(*id)) {
            self.hasher.add(&field.kind, text);
        }
        self.facts.push(self.hasher.hash());
        let room = &mut self.room;
        self.keys.extend(shape.ways.iter().map(|way| way.key(shape.target, room, text)));
        self.unique.extend(shape.unique.iter().map(|id| {
            let (field, text) = field(*id)?;
            (!text.is_empty()).then(|| unique_hash(&field.kind, text))
        }));
        self.bytes.extend_from_slice(&(list as u64).to_le_bytes());
        self.bytes.extend_from_slice(&row.0.to_le_bytes());
        for text in texts {
            self.bytes.extend_from_slice(&(text.len() as u64).to_le_bytes());
            self.bytes.extend_from_slice(text.as_bytes());
        }
        self.ends.push(self.bytes.len());
    }
}
