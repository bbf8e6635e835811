//! How a batch's upload files are handed over to the target: `[delivery]`.

use std::time::Duration;

use dusk_files::Template;

/// How upload files are handed over.
#[derive(Debug, Clone)]
pub struct Delivery {
    /// Where they go.
    pub way: DeliveryWay,
    /// Only batches that somebody has approved are delivered.
    pub needs_approval: bool,
}

/// Where upload files go.
#[derive(Debug, Clone)]
pub enum DeliveryWay {
    /// Into a folder from which the target takes them.
    Folder(DropFolder),
    /// To a server, by HTTP.
    Http(HttpDelivery),
}

/// A folder from which the target takes files.
#[derive(Debug, Clone)]
pub struct DropFolder {
    /// The folder, as the description names it.
    pub folder: String,
    /// What a file is called there; `{file}`, `{batch}` and `{part}` are known.
    pub name: Template,
    /// What an empty file beside it is called, which tells the target that it is whole; `{name}` is known as well.
    pub ready: Option<Template>,
    /// The folder in which the target puts its answers, as the description names it.
    pub answers: Option<String>,
}

/// A server that takes files (RFC 9110).
#[derive(Debug, Clone)]
pub struct HttpDelivery {
    /// Where a file is sent; `{file}`, `{batch}` and `{part}` are known.
    pub url: Template,
    /// With which method.
    pub method: HttpMethod,
    /// The name of the part that holds the file, where it is sent as a form (RFC 7578).
    pub form: Option<String>,
    /// What else is sent with it.
    pub headers: Vec<(String, String)>,
    /// What only the steward knows.
    pub secret: Option<Secret>,
    /// The target knows a delivery again by its `Idempotency-Key`, so that it may be repeated.
    pub knows_repeats: bool,
    /// Where the target says what became of a delivery; `{key}` is known as well.
    pub ask: Option<Template>,
    /// How long an answer is waited for.
    pub time_limit: Duration,
}

/// With which method a file is sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HttpMethod {
    /// A new thing each time.
    Post,
    /// The thing at its URL, so that a repetition changes nothing.
    Put,
}

/// Where a secret is found, and where it goes.
#[derive(Debug, Clone)]
pub struct Secret {
    /// The header that carries it.
    pub header: String,
    /// What stands there; `{secret}` is known.
    pub written: Template,
    /// The variable of the environment, or the file that only its owner can read.
    pub from: SecretFrom,
}

/// Where a secret is found. It is never in a file of the project.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SecretFrom {
    /// In a variable of the environment.
    Environment(String),
    /// In a file that nobody but its owner can read.
    File(String),
}
