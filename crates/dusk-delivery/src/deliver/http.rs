//! A server that takes files, by HTTP (RFC 9110).

use std::io::Read as _;
use std::time::Duration;

use ureq::http::{Response, StatusCode};
use ureq::{Agent, RequestBuilder, SendBody, Timeout, typestate::WithBody};

use super::body::Body;
use super::carrier::{Carrier, FileToSend, Handed};
use dusk_description::{HttpDelivery, HttpMethod};
use dusk_evidence::{Error, Result};

/// The longest answer that is read.
const MOST_BYTES: u64 = 256 * 1024 * 1024;

/// How much of what a server says is shown.
const SHOWN: usize = 300;

/// A server that takes files.
pub struct HttpCarrier<'h> {
    described: &'h HttpDelivery,
    /// The header that only the steward may know, and what stands there.
    secret: Option<(&'h str, String)>,
    agent: Agent,
}

impl<'h> HttpCarrier<'h> {
    /// A server as it is described; `secret` is what the steward knows, where one is wanted.
    pub fn new(described: &'h HttpDelivery, secret: Option<&str>) -> Self {
        let written = described.secret.as_ref().zip(secret).map(|(wanted, secret)| {
            let text = wanted.written.fill(|name| (name == "secret").then_some(secret));
            (wanted.header.as_str(), text.unwrap_or_default())
        });
        let config = Agent::config_builder()
            .timeout_global(Some(described.time_limit))
            .timeout_connect(Some(described.time_limit.min(Duration::from_secs(30))))
            // A secret goes to the server that is named, and nowhere else.
            .max_redirects(0)
            .http_status_as_error(false)
            .user_agent(concat!("dusk/", env!("CARGO_PKG_VERSION")))
            .build();
        Self { described, secret: written, agent: config.into() }
    }

    fn with_headers<B>(&self, mut request: RequestBuilder<B>) -> RequestBuilder<B> {
        for (name, value) in &self.described.headers {
            request = request.header(name.as_str(), value.as_str());
        }
        if let Some((name, value)) = &self.secret {
            request = request.header(*name, value.as_str());
        }
        request
    }

    /// What a server says, without what only the steward may know.
    fn without_secret(&self, text: &str) -> String {
        let mut text: String = text.chars().filter(|letter| !letter.is_control()).take(SHOWN).collect();
        if let Some((_, written)) = &self.secret {
            for secret in [written.as_str(), written.rsplit(' ').next().unwrap_or_default()] {
                if !secret.is_empty() {
                    text = text.replace(secret, "…");
                }
            }
        }
        text
    }

    fn said(&self, response: Response<ureq::Body>) -> (StatusCode, Vec<u8>, String) {
        let status = response.status();
        let mut bytes = Vec::new();
        // What was answered counts, even where the rest of it does not come.
        let _ = response.into_body().into_reader().take(MOST_BYTES).read_to_end(&mut bytes);
        let text = self.without_secret(&String::from_utf8_lossy(&bytes));
        // What is an answer about records is read, and not shown as it is.
        let is_long = text.chars().count() == SHOWN || text.trim_start().starts_with(['{', '[']);
        let is_answer = status.is_success() && is_long;
        let text =
            if text.trim().is_empty() || is_answer { String::new() } else { format!(": {}", text.trim()) };
        (status, bytes, format!("{status}{text}"))
    }

    /// What came of it, by the server's status and how much it was sent.
    fn judged(&self, response: Response<ureq::Body>) -> Handed {
        let (status, bytes, says) = self.said(response);
        let answer = (!bytes.is_empty()).then_some(bytes);
        match status.as_u16() {
            200..=299 => Handed::Over { says, answer },
            300..=399 => Handed::Not {
                says: format!("{says}; the target is elsewhere: correct url in [delivery]"),
                may_repeat: false,
            },
            // The one who asks later may be told that it is there already.
            409 => Handed::Unknown { says },
            429 => Handed::Not { says, may_repeat: true },
            400..=499 => Handed::Not { says, may_repeat: false },
            _ => Handed::Unknown { says },
        }
    }

    fn failed(&self, error: &ureq::Error, sent: u64) -> Handed {
        let says = self.without_secret(&error.to_string());
        let never_connected = matches!(
            error,
            ureq::Error::HostNotFound
                | ureq::Error::ConnectionFailed
                | ureq::Error::ConnectProxyFailed(_)
                | ureq::Error::BadUri(_)
                | ureq::Error::TlsRequired
                | ureq::Error::Timeout(Timeout::Resolve | Timeout::Connect)
        );
        if never_connected || sent == 0 {
            let can_change = !matches!(error, ureq::Error::BadUri(_) | ureq::Error::TlsRequired);
            Handed::Not { says, may_repeat: can_change }
        } else {
            Handed::Unknown { says }
        }
    }
}

impl Carrier for HttpCarrier<'_> {
    fn prepare(&self, file: &FileToSend<'_>) -> Result<()> {
        if self.described.secret.is_some() && self.secret.is_none() {
            return Err(Error::Request(format!(
                "[delivery] needs a secret for {}, and it is missing; nothing was handed over",
                file.name
            )));
        }
        Ok(())
    }

    fn hand_over(&self, file: &FileToSend<'_>, progress: &dyn Fn(u64)) -> Result<Handed> {
        let url = file.filled(&self.described.url, &[]);
        let mut body = Body::of(file, self.described.form.as_deref(), progress)?;
        let request: RequestBuilder<WithBody> = match self.described.method {
            HttpMethod::Post => self.agent.post(&url),
            HttpMethod::Put => self.agent.put(&url),
        };
        let request = self
            .with_headers(request)
            .header("Content-Type", body.content_type.clone())
            .header("Content-Length", body.length.to_string())
            .header("Idempotency-Key", file.key);
        let sent = request.send(SendBody::from_reader(&mut body));
        Ok(match sent {
            Ok(response) => self.judged(response),
            Err(error) => self.failed(&error, body.read()),
        })
    }

    fn look(&self, file: &FileToSend<'_>) -> Result<Handed> {
        let Some(ask) = &self.described.ask else {
            return Ok(Handed::Unknown { says: "the last run was broken off while it was sent".into() });
        };
        let request = self.with_headers(self.agent.get(file.filled(ask, &[])));
        Ok(match request.call() {
            Ok(response) => {
                let (status, bytes, says) = self.said(response);
                match status.as_u16() {
                    200..=299 => Handed::Over { says, answer: (!bytes.is_empty()).then_some(bytes) },
                    404 | 410 => {
                        Handed::Not { says: format!("the target does not know it: {says}"), may_repeat: true }
                    }
                    _ => Handed::Unknown { says: format!("the target was asked, and says {says}") },
                }
            }
            Err(error) => Handed::Unknown {
                says: format!("the target cannot be asked: {}", self.without_secret(&error.to_string())),
            },
        })
    }

    fn answers(&self, file: &FileToSend<'_>) -> Result<Vec<(String, Vec<u8>)>> {
        if self.described.ask.is_none() {
            return Err(Error::Request(
                "[delivery] does not say where the target tells what became of a delivery\n  write ask = \"https://…\", or give the file of its answer".into(),
            ));
        }
        match self.look(file)? {
            Handed::Over { answer, .. } => {
                Ok(answer.map(|bytes| (format!("answer to {}", file.name), bytes)).into_iter().collect())
            }
            Handed::Not { says, .. } | Handed::Unknown { says } => {
                Err(Error::Request(format!("{}: {says}", file.name)))
            }
        }
    }

    fn may_repeat(&self) -> bool {
        self.described.knows_repeats || self.described.method == HttpMethod::Put
    }
}
