//! A practice target: a stand-in for a system that is loaded, described by the same `target.toml`. It takes upload files
//! from a drop folder or by HTTP and behaves as targets do: it refuses by rules of its own, hands out numbers, warns,
//! keeps people waiting, takes all or nothing, and breaks off in the middle. For training, for the demo, and for tests.
//!
//! ```text
//! manners  how it behaves: what it refuses and warns about, and how it answers
//! book     what it holds, in the target's own layout, and how often each record was loaded
//! intake   an upload file taken: record by record, as the description says how it is read
//! reply    its answer, in the form that [answer] describes
//! folder   files taken from a drop folder
//! answers  those about deliveries that came by HTTP
//! server   files taken by HTTP, on loopback; no_server says so in a build that cannot listen
//! ```

#[cfg(feature = "http")]
mod answers;
mod book;
mod folder;
mod intake;
mod manners;
mod reply;
#[cfg(feature = "http")]
mod server;
#[cfg(not(feature = "http"))]
#[path = "no_server.rs"]
mod server;

pub use book::Book;
pub use folder::take_folder;
pub use intake::{Intake, Judged, Verdict};
pub use manners::{Behaviour, Manners, OwnRule};
pub use reply::reply;
pub use server::{PracticeServer, Seen};
