//! A batch's upload files handed over to the target: once, however often that is tried.
//!
//! ```text
//! carrier     what every way of handing a file over does
//! hand_over   the files of a batch, one after the other, with what happened written down before and after
//! drop_folder a folder from which the target takes files, and what became of them there
//! http        a server that takes files; no_http says so in a build that cannot reach one
//! body        what is sent to a server: the file, or a form with the file in it
//! ```

#[cfg(feature = "http")]
mod body;
pub(crate) mod carrier;
pub(crate) mod drop_folder;
pub(crate) mod hand_over;
#[cfg(feature = "http")]
pub(crate) mod http;
#[cfg(not(feature = "http"))]
#[path = "no_http.rs"]
pub(crate) mod http;
