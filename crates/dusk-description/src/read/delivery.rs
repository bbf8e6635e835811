//! The `[delivery]` table.

use std::time::Duration;

use crate::{Delivery, DeliveryWay, DropFolder, HttpDelivery, HttpMethod, Secret, SecretFrom};
use dusk_files::{At, Settings, Template};

/// How long an answer is waited for where nobody says otherwise, in seconds.
const TIME_LIMIT: u64 = 120;

/// Headers that carry what only the steward may know.
const SECRET_HEADERS: [&str; 5] = ["authorization", "proxy-authorization", "cookie", "x-api-key", "api-key"];

/// Keys of a folder, and of a server.
const OF_FOLDER: [&str; 3] = ["name", "ready", "answers"];
const OF_SERVER: [&str; 11] = [
    "method",
    "form",
    "headers",
    "secret_from",
    "secret_file",
    "secret_header",
    "secret_written",
    "knows_repeats",
    "ask",
    "time_limit",
    "url",
];

/// Reads `[delivery]`; nothing where it does not say where files go.
pub(super) fn read_delivery(delivery: &mut Settings<'_>) -> Option<Delivery> {
    let needs_approval = delivery.flag("needs_approval", false);
    let folder = delivery.text("folder");
    let way = match (folder, delivery.has("url")) {
        (Some(folder), false) => {
            refuse_others(delivery, &OF_SERVER, "folder");
            DeliveryWay::Folder(read_folder(delivery, folder))
        }
        (None, true) => {
            refuse_others(delivery, &OF_FOLDER, "url");
            DeliveryWay::Http(read_server(delivery)?)
        }
        (Some(_), true) => {
            delivery.know(&OF_SERVER);
            delivery.know(&OF_FOLDER);
            delivery.problem(delivery.line(), "[delivery] names a folder and a url", |problem| {
                problem.hint("keep the one to which files go");
            });
            return None;
        }
        (None, false) => {
            delivery.know(&OF_SERVER);
            delivery.know(&OF_FOLDER);
            if !delivery.has("folder") {
                delivery.problem(delivery.line(), "[delivery] does not say where files go", |problem| {
                    problem.hint(
                        "write folder = \"…\", from which the target takes them, or url = \"https://…\"",
                    );
                });
            }
            return None;
        }
    };
    Some(Delivery { way, needs_approval })
}

fn refuse_others(delivery: &mut Settings<'_>, keys: &[&'static str], of: &str) {
    for key in keys.iter().filter(|key| delivery.has(key)).copied().collect::<Vec<_>>() {
        delivery.misplaced(key, &format!("[delivery] {key} does not go with {of}"));
    }
}

fn read_folder(delivery: &mut Settings<'_>, folder: At<String>) -> DropFolder {
    let name = template(delivery, "name", &["file", "batch", "part"]);
    let ready = template(delivery, "ready", &["name", "file", "batch", "part"]);
    let answers = delivery.text("answers").map(|answers| answers.value);
    DropFolder { folder: folder.value, name: name.unwrap_or_else(|| named("file")), ready, answers }
}

fn read_server(delivery: &mut Settings<'_>) -> Option<HttpDelivery> {
    let url = template(delivery, "url", &["file", "batch", "part"]);
    let ask = template(delivery, "ask", &["key", "file", "batch", "part"]);
    for url in [&url, &ask].into_iter().flatten() {
        refuse_url(delivery, &url.written());
    }
    let method = delivery.choice("method", &[("post", HttpMethod::Post), ("put", HttpMethod::Put)]);
    let form = delivery.text("form").map(|form| form.value);
    let mut headers = Vec::new();
    for (name, value) in delivery.pairs("headers") {
        if SECRET_HEADERS.contains(&name.value.to_lowercase().as_str()) {
            delivery.problem(name.line, format!("[delivery] headers has {}", name.value), |problem| {
                problem.hint(
                    "a secret does not belong into this file: write secret_from = \"NAME\", a variable of the environment, \
                     and secret_header",
                );
            });
        } else if !name.value.bytes().all(is_of_header) || value.value.contains(['\r', '\n']) {
            delivery.problem(
                name.line,
                format!("[delivery] headers: {} is not a header", name.value),
                |_| {},
            );
        } else {
            headers.push((name.value, value.value));
        }
    }
    let secret = read_secret(delivery);
    let knows_repeats = delivery.flag("knows_repeats", false);
    let seconds = delivery.whole("time_limit", 1).map_or(TIME_LIMIT, |limit| limit.value);
    Some(HttpDelivery {
        url: url?,
        method: method.unwrap_or(HttpMethod::Post),
        form,
        headers,
        secret,
        knows_repeats,
        ask,
        time_limit: Duration::from_secs(seconds),
    })
}

/// Whether a byte may be in the name of a header (RFC 9110, "token").
fn is_of_header(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || b"!#$%&'*+-.^_`|~".contains(&byte)
}

fn read_secret(delivery: &mut Settings<'_>) -> Option<Secret> {
    let (variable, file) = (delivery.text("secret_from"), delivery.text("secret_file"));
    let header = delivery.text("secret_header").map_or_else(|| "Authorization".into(), |header| header.value);
    let written = template(delivery, "secret_written", &["secret"]);
    let usual = || Template::parse("Bearer {secret}").unwrap_or_else(|_| named("secret"));
    let from = match (variable, file) {
        (Some(variable), None) => SecretFrom::Environment(variable.value),
        (None, Some(file)) => SecretFrom::File(file.value),
        (Some(both), Some(_)) => {
            let says = "[delivery] names secret_from and secret_file";
            delivery.problem(both.line, says, |problem| problem.hint("keep one of them"));
            return None;
        }
        (None, None) => {
            for key in ["secret_header", "secret_written"] {
                if delivery.has(key) {
                    delivery.misplaced(
                        key,
                        "[delivery] does not say where the secret is; write secret_from or secret_file",
                    );
                }
            }
            return None;
        }
    };
    if !header.bytes().all(is_of_header) {
        delivery.problem(
            delivery.line(),
            format!("[delivery] secret_header \"{header}\" is not a header"),
            |_| {},
        );
    }
    let written = written.filter(|written| written.names().count() == 1);
    Some(Secret { header, written: written.unwrap_or_else(usual), from })
}

/// A URL over which nothing secret goes in the open, and which holds nothing secret itself.
fn refuse_url(delivery: &Settings<'_>, url: &str) {
    let (scheme, rest) = url.split_once("://").unwrap_or(("", url));
    let host = rest.split(['/', '?', '#']).next().unwrap_or_default();
    if !matches!(scheme, "http" | "https") || host.is_empty() || host.contains('{') {
        delivery.problem(
            delivery.line(),
            format!("[delivery] \"{url}\" is not the URL of a server"),
            |problem| {
                problem.hint("write for example url = \"https://register.example/loads/{file}\"");
            },
        );
    } else if host.contains('@') {
        delivery.problem(delivery.line(), "[delivery] a URL has a name or a password in it", |problem| {
            problem.hint("write secret_from = \"NAME\", a variable of the environment, instead");
        });
    } else if scheme == "http" && delivery.has_any(&["secret_from", "secret_file"]) && !is_loopback(host) {
        delivery.problem(
            delivery.line(),
            "[delivery] sends a secret over http, where others can read it",
            |problem| {
                problem.hint("write https:// instead");
            },
        );
    }
}

/// Whether a host is this machine, so that nothing leaves it.
fn is_loopback(host: &str) -> bool {
    let name = match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|byte| byte.is_ascii_digit()) => name,
        _ => host,
    };
    matches!(name, "localhost" | "127.0.0.1" | "[::1]")
}

fn named(name: &str) -> Template {
    Template { pieces: vec![dusk_files::Piece::Name(name.to_owned())] }
}

fn template(delivery: &mut Settings<'_>, key: &'static str, known: &[&str]) -> Option<Template> {
    let text = delivery.text(key)?;
    let refuse = |says: String| {
        delivery.problem(text.line, format!("[delivery] {key}: {says}"), |problem| {
            problem.hint(format!("known in braces are {}", known.join(", ")));
        });
    };
    match Template::parse(&text.value) {
        Err(says) => refuse(says),
        Ok(template) => {
            if let Some(name) = template.names().find(|name| !known.contains(name)) {
                refuse(format!("\"{}\" names {{{name}}}", text.value));
            } else {
                return Some(template);
            }
        }
    }
    None
}
