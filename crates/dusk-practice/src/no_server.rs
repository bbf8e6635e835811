//! Files taken by HTTP, in a build that cannot listen.

use std::net::SocketAddr;

use crate::Intake;
use dusk_evidence::{Error, Result};

/// What the server saw, for whoever looks on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Seen {
    /// What was asked.
    pub asked: String,
    /// What was answered.
    pub says: String,
}

/// A practice target that would listen on loopback.
pub struct PracticeServer;

impl PracticeServer {
    /// Listens on a port of loopback.
    ///
    /// # Errors
    /// Always: this build cannot.
    pub fn listen(_: Intake<'_>, _: u16, _: Option<(String, String)>) -> Result<Self> {
        Err(Error::Request(
            "this build of dusk cannot take files by HTTP\n  build it with --features http, or let [delivery] name a folder".into(),
        ))
    }

    /// Where it listens.
    pub fn address(&self) -> Option<SocketAddr> {
        None
    }

    /// Answers no request.
    ///
    /// # Errors
    /// Never.
    pub fn serve(&mut self, _: &mut dyn FnMut(&Seen) -> bool) -> Result<()> {
        Ok(())
    }
}
