//! What the fuzz targets share.

use std::panic::{set_hook, take_hook};
use std::sync::Once;

/// A library that reads workbooks may panic in a thread of its own, which the program takes for a damaged file; every
/// other panic ends the target.
pub fn let_the_reader_panic() {
    static ONCE: Once = Once::new();
    ONCE.call_once(|| {
        let abort = take_hook();
        set_hook(Box::new(move |panic| {
            if std::thread::current().name() != Some(dusk_core::sources::READING_THREAD) {
                abort(panic);
            }
        }));
    });
}
