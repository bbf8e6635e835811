//! What a draft is made of: settings with the place each was drawn from, code lists, and questions.

use std::fmt;

use dusk_description::Code;

/// A place in what the target's owner supplied.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Place {
    /// The file as the steward named it, without its folder.
    pub file: String,
    /// The place in it, as people name it: `Fields!C7`, `row 7`; empty for the file as a whole.
    pub at: String,
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.at.as_str() {
            "" => f.write_str(&self.file),
            at => write!(f, "{} {at}", self.file),
        }
    }
}

/// The value of a key of `target.toml`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Setting {
    /// A text.
    Text(String),
    /// Texts.
    Texts(Vec<String>),
    /// True or false.
    Flag(bool),
    /// A whole number.
    Whole(u64),
}

impl Setting {
    /// The value as TOML writes it.
    pub fn toml(&self) -> String {
        match self {
            Self::Text(text) => toml_text(text),
            Self::Texts(texts) => {
                format!("[{}]", texts.iter().map(|text| toml_text(text)).collect::<Vec<_>>().join(", "))
            }
            Self::Flag(flag) => flag.to_string(),
            Self::Whole(number) => number.to_string(),
        }
    }
}

fn toml_text(text: &str) -> String {
    // A pattern is easier to read without doubled backslashes.
    if text.contains('\\') && !text.contains(['\'', '\n', '\r']) {
        return format!("'{text}'");
    }
    toml::Value::String(text.to_owned()).to_string()
}

/// A key of `target.toml` with its value, and where both come from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Assertion {
    /// The key.
    pub key: &'static str,
    /// The value.
    pub value: Setting,
    /// Where it was drawn from.
    pub from: Place,
}

/// Claims in the order in which keys are written.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Claims(pub Vec<Assertion>);

impl Claims {
    /// The value of a key.
    pub fn get(&self, key: &str) -> Option<&Setting> {
        self.0.iter().find(|claim| claim.key == key).map(|claim| &claim.value)
    }

    /// The text of a key.
    pub fn text(&self, key: &str) -> Option<&str> {
        match self.get(key) {
            Some(Setting::Text(text)) => Some(text),
            _ => None,
        }
    }

    /// Sets a key, whatever it was.
    pub(super) fn set(&mut self, key: &'static str, value: Setting, from: &Place) {
        self.0.retain(|claim| claim.key != key);
        self.0.push(Assertion { key, value, from: from.clone() });
    }

    /// Takes a key away.
    pub(super) fn unset(&mut self, key: &str) {
        self.0.retain(|claim| claim.key != key);
    }

    /// Claims a value. Where another is claimed already, that one stays and the two are given back
    /// in words, for a question.
    pub(super) fn claim(&mut self, key: &'static str, value: Setting, from: &Place) -> Option<String> {
        match self.0.iter().find(|claim| claim.key == key) {
            None => {
                self.set(key, value, from);
                None
            }
            Some(claim) if claim.value == value => None,
            Some(claim) => Some(format!(
                "{key} is {} by {}, and {} by {from}; the first was written",
                claim.value.toml(),
                claim.from,
                value.toml()
            )),
        }
    }
}

/// A field of a draft.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DraftedField {
    /// Its name.
    pub name: String,
    /// Its keys, without the name.
    pub claims: Claims,
    /// Where it was drawn from.
    pub from: Place,
}

/// A code list of a draft.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DraftedList {
    /// Its name: its file's, without the ending.
    pub name: String,
    /// What the owner calls it.
    pub title: String,
    /// Its codes.
    pub codes: Vec<Code>,
    /// Where it was drawn from.
    pub from: Place,
}

/// A rule of a draft.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DraftedRule {
    /// What must hold.
    pub must: String,
    /// What to tell a steward whose row breaks it.
    pub says: String,
    /// Where it was drawn from.
    pub from: Place,
}

/// How much hangs on a question, the most first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Weight {
    /// Two places say different things.
    Contradiction,
    /// Something is not said, or not understood.
    Open,
    /// What was written is likely, and worth a look.
    Look,
}

/// Something that the steward has to settle, or at least to know.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Question {
    /// How much hangs on it.
    pub weight: Weight,
    /// The field, the list or the file that it is about.
    pub about: String,
    /// What is open.
    pub says: String,
    /// Where it was met.
    pub from: Place,
}

impl fmt::Display for Question {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {} ({})", self.about, self.says, self.from)
    }
}

/// What one material, or one sheet of it, was taken for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TakenFrom {
    /// The material.
    pub from: Place,
    /// What it was taken for, in words.
    pub role: String,
}

/// A drafted description.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Drafted {
    /// What the target is called.
    pub name: String,
    /// The version of its dictionary.
    pub version: Option<String>,
    /// The keys of `[upload]`.
    pub upload: Claims,
    /// The fields, in order.
    pub fields: Vec<DraftedField>,
    /// The code lists.
    pub lists: Vec<DraftedList>,
    /// The rules.
    pub rules: Vec<DraftedRule>,
    /// What has to be settled.
    pub questions: Vec<Question>,
    /// What each material was taken for.
    pub taken: Vec<TakenFrom>,
    /// The materials, each with a hash of its bytes: by them it is told whether a change is theirs.
    pub(super) materials: Vec<(String, String)>,
    /// The database and the table that are loaded, where a material is one.
    pub(super) loads: Option<(String, String, Place)>,
    /// Sentences that people wrote about the file, with their places.
    pub(super) sentences: Vec<(String, Place)>,
}

impl Drafted {
    pub(super) fn ask(&mut self, about: impl Into<String>, says: impl Into<String>, from: &Place) {
        self.put(Weight::Open, about, says, from);
    }

    /// Asks about two places that contradict each other.
    pub(super) fn contradict(&mut self, about: impl Into<String>, says: impl Into<String>, from: &Place) {
        self.put(Weight::Contradiction, about, says, from);
    }

    /// Says what was written because it is likely.
    pub(super) fn point_out(&mut self, about: impl Into<String>, says: impl Into<String>, from: &Place) {
        self.put(Weight::Look, about, says, from);
    }

    fn put(&mut self, weight: Weight, about: impl Into<String>, says: impl Into<String>, from: &Place) {
        let question = Question { weight, about: about.into(), says: says.into(), from: from.clone() };
        if !self.questions.contains(&question) {
            self.questions.push(question);
        }
    }

    /// Puts the questions into the order of what they would break: contradictions, then what is open of fields that must
    /// be filled and of the file, then the rest.
    pub(super) fn order_questions(&mut self) {
        let required: Vec<String> = self
            .fields
            .iter()
            .filter(|field| field.claims.get("required").is_some())
            .map(|field| field.name.clone())
            .collect();
        let is_light = |about: &str| {
            let mut fields = about.split(", ");
            !fields.any(|about| about == "[upload]" || required.iter().any(|name| name == about))
        };
        self.questions.sort_by_key(|question| (question.weight, is_light(&question.about)));
    }

    pub(super) fn took(&mut self, from: &Place, role: impl Into<String>) {
        self.taken.push(TakenFrom { from: from.clone(), role: role.into() });
    }
}

/// The place of a whole material, for what a default stands on.
pub(super) fn nowhere() -> Place {
    Place { file: "not said anywhere".into(), at: String::new() }
}
