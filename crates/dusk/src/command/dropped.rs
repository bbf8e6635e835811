//! What became of files that were put into the folder from which the target takes them.

use std::path::Path;

use dusk_core::delivery::{DropCarrier, Dropped, FileToSend, Happened, events, last_of_file, upload_files};
use dusk_core::description::DeliveryWay;
use dusk_core::run::PastBatch;

/// What became of the files that were put into the folder from which the target takes them; nothing where they were
/// handed over in another way, or nobody can tell.
pub(super) fn dropped(batch: &PastBatch, folder: &Path) -> String {
    let Ok(events) = events(&batch.path) else { return String::new() };
    let mapping = batch.receipt.as_ref().ok().and_then(|receipt| receipt.settings.first());
    let mapping = mapping.and_then(|mapping| Path::new(&mapping.file).file_name());
    let mapping = folder.with_file_name(mapping.unwrap_or_default());
    let Ok((mapping, target)) = dusk_core::mapping::read(&mapping) else { return String::new() };
    let Some(DeliveryWay::Folder(described)) = target.delivery.as_ref().map(|delivery| &delivery.way) else {
        return String::new();
    };
    let beside =
        dusk_core::files::beside(mapping.target_path.parent().unwrap_or(Path::new("")), &described.folder);
    let Ok(drop) = beside else { return String::new() };
    let carrier = DropCarrier { described, folder: drop, answers: None };
    let name = batch.name();
    let (mut waiting, mut gone, mut says) = (0, 0, Vec::new());
    for (part, (file, blake3, _)) in (1..).zip(upload_files(batch)) {
        if last_of_file(&events, file).is_none_or(|event| event.what != Happened::Delivered) {
            continue;
        }
        let path = batch.path.join("upload").join(file);
        let bytes = std::fs::metadata(&path).map_or(0, |metadata| metadata.len());
        let file = FileToSend { path: &path, name: file, blake3, bytes, batch: &name, part, key: "" };
        match carrier.fate(&file) {
            Dropped::Waiting => waiting += 1,
            Dropped::Gone => gone += 1,
            Dropped::Changed => says.push(format!("{} is not as it was put there", carrier.name_of(&file))),
            Dropped::Moved(to) => says.push(format!("the target has moved it to {}", to.display())),
            Dropped::NotReachable => says.push(format!("{} cannot be looked into", carrier.folder.display())),
        }
    }
    match (waiting, gone) {
        (0, 0) => {}
        (0, _) => says.push("taken by the target".into()),
        (_, 0) => says.push("waiting to be taken".into()),
        (waiting, gone) => says.push(format!("{gone} taken by the target, {waiting} waiting")),
    }
    says.join("; ")
}
