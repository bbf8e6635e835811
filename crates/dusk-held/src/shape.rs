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
        (!is_blank).then(|| (KeyHash::of(room.key.as_bytes()), hash_as_written(&room.written)))
    }
}

/// A part of the hash of a key as it is written, but for joiners, which nobody sees.
fn hash_as_written(key: &str) -> u32 {
    if key.is_ascii() {
        return xxhash_rust::xxh3::xxh3_64(key.as_bytes()) as u32;
    }
    let [written, ..] = KeyHash::of(key.as_bytes()).words();
    written
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
    /// of the shape, each behind the one before.
    pub fn add(&mut self, shape: &HeldShape<'_>, (list, row): (usize, Row), texts: &str, ends: &[usize]) {
        let text = |id: FieldId| {
            let place = shape.fields.binary_search(&id).ok()?;
            let start = place.checked_sub(1).map_or(Some(0), |before| ends.get(before).copied())?;
            texts.get(start..*ends.get(place)?)
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
        self.bytes.extend_from_slice(&number(list).to_le_bytes());
        self.bytes.extend_from_slice(&row.0.to_le_bytes());
        self.bytes.extend_from_slice(&number(ends.len()).to_le_bytes());
        for end in ends {
            self.bytes.extend_from_slice(&number(*end).to_le_bytes());
        }
        self.bytes.extend_from_slice(texts.as_bytes());
        self.ends.push(self.bytes.len());
    }
}

/// A number of lists, or the length of a value: a row is far shorter than this holds, and what were longer would be
/// missed when it is read back.
fn number(count: usize) -> u32 {
    u32::try_from(count).unwrap_or(u32::MAX)
}
