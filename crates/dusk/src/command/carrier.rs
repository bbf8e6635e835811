//! The way of handing files over that a description names, ready to be used.

use std::path::PathBuf;

use dusk_core::delivery::{Carrier, DropCarrier, HttpCarrier};
use dusk_core::description::{Delivery, DeliveryWay};
use dusk_core::files::beside;

use super::named::NamedBatch;
use crate::outcome::Failure;
use crate::secrets;

/// Does something with the way of handing files over that a description names.
pub(super) fn with_carrier<T>(
    delivery: &Delivery,
    named: &NamedBatch,
    with: impl FnOnce(&dyn Carrier) -> Result<T, Failure>,
) -> Result<T, Failure> {
    match &delivery.way {
        DeliveryWay::Folder(described) => {
            let folder: PathBuf = beside(&named.target_folder, &described.folder)?;
            let answers = described.answers.as_ref();
            let answers = answers.map(|answers| beside(&named.target_folder, answers)).transpose()?;
            with(&DropCarrier { described, folder, answers })
        }
        DeliveryWay::Http(described) => {
            let secret = match &described.secret {
                Some(wanted) => Some(secrets::of_target(&wanted.from, &named.target_folder)?),
                None => None,
            };
            with(&HttpCarrier::new(described, secret.as_deref()))
        }
    }
}

/// Whether the target can be asked what became of a delivery.
pub(super) fn asks(delivery: &Delivery) -> bool {
    match &delivery.way {
        DeliveryWay::Folder(folder) => folder.answers.is_some(),
        DeliveryWay::Http(http) => http.ask.is_some(),
    }
}
