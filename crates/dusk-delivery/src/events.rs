//! `events.csv` of a batch: what happened to it since it was made, who did it and when. It is only ever added to.

use std::path::Path;

use serde::{Deserialize, Serialize};

use dusk_evidence::{Error, Result};
use dusk_files::{Held, guarded, unguarded};

/// What the list is called.
const EVENTS: &str = "events.csv";

/// What happened to a batch, or to one of its files.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Happened {
    /// Somebody says that it may go.
    Approved,
    /// Somebody says that it may not.
    TurnedDown,
    /// A file is about to be handed over: from here on nobody knows whether it was, until the next event says so.
    Sending,
    /// A file was handed over.
    Delivered,
    /// A file was not handed over, and the target has nothing of it.
    NotDelivered,
    /// The target said what became of the records.
    Answered,
    /// The target's counts were held against the batch, and differ.
    Differs,
    /// They are the same, and nothing is unknown.
    Complete,
}

/// One of these events.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct BatchEvent {
    /// When: a day or a moment (ISO 8601).
    pub at: String,
    /// Who.
    pub by: String,
    /// What.
    pub what: Happened,
    /// The file that it is about: an upload file, or the answer.
    pub file: String,
    /// The BLAKE3 hash of that file; that of the receipt where the whole batch is meant.
    pub blake3: String,
    /// What was said: what for, why, where to.
    pub says: String,
}

/// The events of the batch in a folder, in their order; none where nothing happened yet.
///
/// # Errors
/// [`Error::Source`] where the list was damaged; [`Error::File`] where it cannot be read.
pub fn events(batch: &Path) -> Result<Vec<BatchEvent>> {
    let path = batch.join(EVENTS);
    if !path.exists() {
        return Ok(Vec::new());
    }
    let bytes = std::fs::read(&path).map_err(Error::reading(&path))?;
    let mut reader = csv::Reader::from_reader(bytes.as_slice());
    let read = reader.deserialize().map(|event: csv::Result<BatchEvent>| {
        let mut event = event.map_err(|error| damaged(&path, &error.to_string()))?;
        for cell in [&mut event.by, &mut event.file, &mut event.says] {
            *cell = unguarded(cell).into_owned();
        }
        Ok(event)
    });
    read.collect()
}

fn damaged(path: &Path, why: &str) -> Error {
    Error::Source {
        source_name: path.display().to_string(),
        says: format!("is not as it was written: {why}"),
        hint: "put it back from a copy of the batch: it says what was sent".into(),
    }
}

/// The events of a batch, held so that nobody else adds one meanwhile.
#[derive(Debug)]
pub struct EventList {
    held: Held,
    events: Vec<BatchEvent>,
}

impl EventList {
    /// Holds the list of the batch in a folder.
    ///
    /// # Errors
    /// As [`events`], and [`Error::Request`] while another run holds it.
    pub fn hold(batch: &Path) -> Result<Self> {
        let held = Held::file(&batch.join(EVENTS))?;
        Ok(Self { events: events(batch)?, held })
    }

    /// What happened so far.
    pub fn events(&self) -> &[BatchEvent] {
        &self.events
    }

    /// What keeps others out of the folder.
    pub fn held(&self) -> &Held {
        &self.held
    }

    /// Adds an event, and waits until the disk has it.
    ///
    /// # Errors
    /// [`Error::File`] when it cannot be written; then nothing was added.
    pub fn add(&mut self, event: BatchEvent) -> Result<()> {
        let mut all = self.events.clone();
        all.push(event);
        let mut writer = csv::Writer::from_writer(Vec::new());
        let wrong = |error: csv::Error| Error::Invariant(error.to_string());
        for event in &all {
            let guard = |cell: &str| guarded(cell).into_owned();
            let (by, file, says) = (guard(&event.by), guard(&event.file), guard(&event.says));
            writer.serialize(BatchEvent { by, file, says, ..event.clone() }).map_err(wrong)?;
        }
        let bytes = writer.into_inner().map_err(|error| Error::Invariant(error.to_string()))?;
        self.held.write(&bytes)?;
        self.events = all;
        Ok(())
    }
}
