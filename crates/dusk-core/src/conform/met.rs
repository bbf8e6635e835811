//! What was met in the columns that feed fields: enough to tell next month that something is new.

use std::collections::BTreeSet;

use hashbrown::HashSet;

use super::cell::shown_raw;
use super::plan::FieldPlan;
use crate::inspect::shape_of;
use crate::target::FieldType;

/// How many different values or shapes of a field are kept; of more, none is.
const MOST: usize = 300;

/// What is kept of a field's values.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Kept {
    Nothing,
    Values,
    Shapes,
}

/// What one thread met, field by field.
#[derive(Debug)]
pub(crate) struct Met {
    fields: Vec<MetField>,
}

#[derive(Debug)]
struct MetField {
    kept: Kept,
    seen: HashSet<Box<str>>,
    new: Vec<String>,
    blank: u64,
}

/// What a whole run met in the column of a field.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct MetInField {
    /// How many cells were blank.
    pub(crate) blank: u64,
    /// The values or their shapes; nothing where there are too many, or none are kept.
    pub(crate) seen: Option<BTreeSet<String>>,
    /// Whether these are shapes.
    pub(crate) are_shapes: bool,
}

impl Met {
    pub(super) fn new(fields: &[FieldPlan<'_>]) -> Self {
        let met = |field: &FieldPlan<'_>| MetField {
            kept: if field.input.columns().is_empty() { Kept::Nothing } else { kept(field) },
            seen: HashSet::new(),
            new: Vec::new(),
            blank: 0,
        };
        Self { fields: fields.iter().map(met).collect() }
    }

    /// A blank cell.
    #[inline]
    pub(super) fn blank(&mut self, place: usize) {
        if let Some(field) = self.fields.get_mut(place) {
            field.blank += 1;
        }
    }

    /// A value that is not remembered yet.
    pub(super) fn value(&mut self, place: usize, raw: &str) {
        let Some(field) = self.fields.get_mut(place).filter(|field| field.seen.len() <= MOST) else { return };
        let text = match field.kept {
            Kept::Nothing => return,
            Kept::Values => shown_raw(raw).trim().to_owned(),
            Kept::Shapes => {
                let raw = shown_raw(raw);
                shape_of(raw.trim()).map_or_else(|| "long text".to_owned(), |shape| shape.to_text())
            }
        };
        if !text.is_empty() && !field.seen.contains(text.as_str()) {
            field.seen.insert(text.as_str().into());
            field.new.push(text);
        }
    }

    /// Hands over what is new since the last time: for each field how many cells were blank, and its
    /// values or shapes.
    pub(crate) fn take(&mut self) -> Vec<(u64, Vec<String>)> {
        let take = |field: &mut MetField| (std::mem::take(&mut field.blank), std::mem::take(&mut field.new));
        self.fields.iter_mut().map(take).collect()
    }
}

fn kept(field: &FieldPlan<'_>) -> Kept {
    match &field.field.kind {
        FieldType::Code { .. } | FieldType::Codes { .. } | FieldType::Boolean { .. } => Kept::Values,
        FieldType::Date { .. } => Kept::Shapes,
        FieldType::Text { digits, pattern, .. } if digits.is_some() || pattern.is_some() => Kept::Shapes,
        _ => Kept::Nothing,
    }
}

impl MetInField {
    /// Nothing met yet in the column of a field.
    pub(crate) fn of(field: &FieldPlan<'_>) -> Self {
        let kept = if field.input.columns().is_empty() { Kept::Nothing } else { kept(field) };
        Self { blank: 0, seen: (kept != Kept::Nothing).then(BTreeSet::new), are_shapes: kept == Kept::Shapes }
    }

    /// Takes in what a thread handed over.
    pub(crate) fn add(&mut self, (blank, new): (u64, Vec<String>)) {
        self.blank += blank;
        if let Some(seen) = &mut self.seen {
            seen.extend(new);
            // Which ones came first depends on the threads; that there are too many does not.
            if seen.len() > MOST {
                self.seen = None;
            }
        }
    }
}
