//! Files taken by HTTP, on loopback.

use std::io::Write as _;
use std::net::SocketAddr;

use tiny_http::{Header, Method, Request, Response, Server};

use crate::answers::Answers;
use crate::{Behaviour, Intake, Judged, reply};
use dusk_description::AnswerOutcome;
use dusk_evidence::{Error, Result};

/// What the server saw, for whoever looks on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Seen {
    /// What was asked, as "POST /loads/a.csv".
    pub asked: String,
    /// What was answered.
    pub says: String,
}

/// A practice target that listens on loopback.
pub struct PracticeServer<'t> {
    server: Server,
    intake: Intake<'t>,
    /// The header and the value that everybody has to send.
    secret: Option<(String, String)>,
    answers: Answers,
}

impl<'t> PracticeServer<'t> {
    /// Listens on a port of loopback; 0 takes any that is free.
    ///
    /// # Errors
    /// [`Error::Request`] where the port is not free.
    pub fn listen(intake: Intake<'t>, port: u16, secret: Option<(String, String)>) -> Result<Self> {
        let server = Server::http(("127.0.0.1", port)).map_err(|error| {
            Error::Request(format!("port {port} of this machine cannot be listened on: {error}"))
        })?;
        let answers = Answers::beside(intake.book().folder());
        Ok(Self { server, intake, secret, answers })
    }

    /// Where it listens.
    pub fn address(&self) -> Option<SocketAddr> {
        self.server.server_addr().to_ip()
    }

    /// Answers requests until `goes_on` says no after one.
    ///
    /// # Errors
    /// Whatever stops writing what it holds.
    pub fn serve(&mut self, goes_on: &mut dyn FnMut(&Seen) -> bool) -> Result<()> {
        loop {
            let Ok(request) = self.server.recv() else { return Ok(()) };
            let asked = format!("{} {}", request.method(), request.url());
            let says = self.answer(request)?;
            if !goes_on(&Seen { asked, says }) {
                return Ok(());
            }
        }
    }

    /// Answers one request; gives back what it said.
    fn answer(&mut self, mut request: Request) -> Result<String> {
        let header = |request: &Request, name: &str| {
            let found = request
                .headers()
                .iter()
                .find(|header| header.field.as_str().as_str().eq_ignore_ascii_case(name));
            found.map(|header| header.value.as_str().to_owned())
        };
        if let Some((name, value)) = &self.secret
            && header(&request, name).as_ref() != Some(value)
        {
            return Ok(respond(request, 401, b"who are you?\n".to_vec(), "txt"));
        }
        let key = header(&request, "Idempotency-Key").unwrap_or_default();
        let name = request.url().rsplit('/').next().unwrap_or_default().to_owned();
        match request.method() {
            Method::Get => match self.answers.get(&name) {
                Some((bytes, ending)) => Ok(respond(request, 200, bytes, ending)),
                None => Ok(respond(request, 404, b"nothing is known of that delivery\n".to_vec(), "txt")),
            },
            Method::Post | Method::Put => {
                if self.intake.manners().knows_repeats
                    && let Some((bytes, ending)) = self.answers.get(&key)
                {
                    return Ok(respond(request, 200, bytes, ending));
                }
                let kind = header(&request, "Content-Type").unwrap_or_default();
                let mut body = Vec::new();
                if request.as_reader().read_to_end(&mut body).is_err() {
                    return Ok("broken off".into());
                }
                let (name, body) = file_in(&kind, body, name);
                std::thread::sleep(self.intake.manners().waits);
                self.take(request, &key, &name, &body)
            }
            _ => Ok(respond(request, 405, b"POST or PUT a file\n".to_vec(), "txt")),
        }
    }

    fn take(&mut self, request: Request, key: &str, name: &str, body: &[u8]) -> Result<String> {
        let place =
            tempfile::tempdir().map_err(Error::writing(std::path::Path::new("the temporary folder")))?;
        let path = place.path().join(name);
        std::fs::write(&path, body).map_err(Error::writing(&path))?;
        let is_queued = self.intake.manners().behaves == Behaviour::Queued;
        let judged = match self.intake.take(&path, name) {
            Ok(judged) => judged,
            Err(error) => return Ok(respond(request, 422, format!("{error}\n").into_bytes(), "txt")),
        };
        let (bytes, ending) = reply(self.intake.target(), &judged, self.intake.manners().mentions_few)?;
        if !judged.verdicts.is_empty() {
            self.answers.keep(key, (&bytes, ending))?;
        }
        if judged.breaks_off {
            // What comes back is the beginning of something that no client can read.
            let mut writer = request.into_writer();
            let _ = writer.write_all(b"HT\0\r\n\r\n").and_then(|()| writer.flush());
            return Ok(format!("broken off: {}", counted(&judged)));
        }
        if is_queued {
            return Ok(respond(request, 202, b"queued\n".to_vec(), "txt"));
        }
        respond(request, 200, bytes, ending);
        Ok(counted(&judged))
    }
}

fn counted(judged: &Judged) -> String {
    let count =
        |outcome: AnswerOutcome| judged.verdicts.iter().filter(|verdict| verdict.outcome == outcome).count();
    format!(
        "{}: {} loaded, {} with a warning, {} refused",
        judged.file,
        count(AnswerOutcome::Loaded),
        count(AnswerOutcome::Warned),
        count(AnswerOutcome::Refused)
    )
}

fn respond(request: Request, status: u16, bytes: Vec<u8>, ending: &str) -> String {
    let kind = match ending {
        "csv" => "text/csv",
        "json" => "application/json",
        _ => "text/plain",
    };
    let mut response = Response::from_data(bytes).with_status_code(status);
    if let Ok(header) = Header::from_bytes("Content-Type", kind) {
        response.add_header(header);
    }
    // Whoever asked may have gone.
    let _ = request.respond(response);
    status.to_string()
}

/// The file in a body, which may be a form with the file in it (RFC 7578), and its name.
fn file_in(kind: &str, body: Vec<u8>, name: String) -> (String, Vec<u8>) {
    let Some(boundary) = kind.strip_prefix("multipart/form-data; boundary=") else { return (name, body) };
    let find = |needle: &[u8], from: usize| {
        let rest = body.get(from..)?;
        rest.windows(needle.len()).position(|window| window == needle).map(|at| from + at)
    };
    let part = || {
        let head_end = find(b"\r\n\r\n", 0)?;
        let head = String::from_utf8_lossy(body.get(..head_end)?).into_owned();
        let name = head.split("filename=\"").nth(1)?.split('"').next()?.to_owned();
        let end = find(format!("\r\n--{boundary}--").as_bytes(), head_end)?;
        Some((name, body.get(head_end + 4..end)?.to_vec()))
    };
    part().unwrap_or((name, body.clone()))
}
