//! A server that takes files, in a build that cannot reach one.

use super::carrier::{Carrier, FileToSend, Handed};
use dusk_description::HttpDelivery;
use dusk_evidence::{Error, Result};

/// A server that takes files.
pub struct HttpCarrier;

impl HttpCarrier {
    /// A server as it is described, which cannot be reached.
    pub fn new(_: &HttpDelivery, _: Option<&str>) -> Self {
        Self
    }
}

fn cannot<T>() -> Result<T> {
    Err(Error::Request(
        "this build of dusk cannot send files by HTTP\n  build it with --features http, or tls for https"
            .into(),
    ))
}

impl Carrier for HttpCarrier {
    fn prepare(&self, _: &FileToSend<'_>) -> Result<()> {
        cannot()
    }

    fn hand_over(&self, _: &FileToSend<'_>, _: &dyn Fn(u64)) -> Result<Handed> {
        cannot()
    }

    fn look(&self, _: &FileToSend<'_>) -> Result<Handed> {
        cannot()
    }

    fn answers(&self, _: &FileToSend<'_>) -> Result<Vec<(String, Vec<u8>)>> {
        cannot()
    }

    fn may_repeat(&self) -> bool {
        false
    }
}
