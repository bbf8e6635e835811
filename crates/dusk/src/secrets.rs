//! Passwords: from the environment, or from a file that only its owner can read. Never from the command line, and never
//! from a file of the project.

use std::path::{Path, PathBuf};

use dusk_core::description::SecretFrom;

use crate::outcome::Failure;

/// The password for "host:port:database:user": `PGPASSWORD`, else the line for it in the file that `PGPASSFILE` names,
/// else in `.pgpass` of the home folder (PostgreSQL documentation, "The Password File").
pub(crate) fn password(account: &str) -> Option<String> {
    let given = std::env::var("PGPASSWORD").ok().filter(|password| !password.is_empty());
    given.or_else(|| {
        let named = std::env::var_os("PGPASSFILE").map(PathBuf::from);
        let usual = || std::env::var_os("HOME").map(|home| Path::new(&home).join(".pgpass"));
        let path = named.or_else(usual)?;
        if !is_private(&path) {
            return None;
        }
        password_in(&std::fs::read_to_string(&path).ok()?, account)
    })
}

/// What only the steward knows and the target wants: from a variable of the environment, or from a file that nobody else
/// can read. It is never printed.
pub(crate) fn of_target(from: &SecretFrom, folder: &Path) -> Result<String, Failure> {
    let found = match from {
        SecretFrom::Environment(name) => std::env::var(name).map_err(|_| {
            format!("the target wants a secret, and the variable {name} of the environment is not set\n  set it for this command; it is never written down")
        })?,
        SecretFrom::File(name) => {
            let path = match name.strip_prefix("~/").zip(std::env::var_os("HOME")) {
                Some((below, home)) => Path::new(&home).join(below),
                None => folder.join(name),
            };
            if !path.is_file() {
                return Err(Failure::Stopped(format!("{} is not there, and the target wants the secret in it", path.display())));
            }
            if !is_private(&path) {
                return Err(Failure::Stopped(format!(
                    "{} can be read by other users, so it must not hold a secret\n  chmod 600 {} keeps it to yourself",
                    path.display(),
                    path.display()
                )));
            }
            std::fs::read_to_string(&path)?
        }
    };
    let secret = found.trim();
    if secret.is_empty() || secret.contains(char::is_control) {
        return Err(Failure::Stopped(
            "the secret that the target wants is blank, or has a line break in it".into(),
        ));
    }
    Ok(secret.to_owned())
}

/// Whether nobody but its owner can read a file. One that others can read is no place for a password.
fn is_private(path: &Path) -> bool {
    let Ok(metadata) = std::fs::metadata(path) else { return false };
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt as _;
        metadata.is_file() && metadata.permissions().mode() & 0o077 == 0
    }
    #[cfg(not(unix))]
    metadata.is_file()
}

/// The password of the first line that is for an account; a star stands for anything.
fn password_in(lines: &str, account: &str) -> Option<String> {
    let wanted: Vec<&str> = account.split(':').collect();
    lines.lines().filter(|line| !line.starts_with('#')).find_map(|line| {
        let mut parts = parts_of(line);
        let password = (parts.len() == 5).then(|| parts.pop()).flatten()?;
        let fits = parts.iter().zip(&wanted).all(|(part, wanted)| part == "*" || part == wanted);
        (fits && parts.len() == wanted.len()).then_some(password)
    })
}

/// The parts of a line between colons; a colon behind a backslash is a part of one.
fn parts_of(line: &str) -> Vec<String> {
    let mut parts = vec![String::new()];
    let mut letters = line.chars();
    while let Some(letter) = letters.next() {
        match (letter, parts.last_mut()) {
            (':', _) => parts.push(String::new()),
            ('\\', Some(part)) => part.extend(letters.next()),
            (other, Some(part)) => part.push(other),
            (_, None) => {}
        }
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_line_for_an_account_has_its_password() {
        let file = "# ours\nlocalhost:5432:other:clerk:no\n*:*:register:clerk:pa\\:ss\n*:*:*:*:last\n";
        let of = |account: &str| password_in(file, account);
        assert_eq!(of("localhost:5432:register:clerk").as_deref(), Some("pa:ss"));
        assert_eq!(of("localhost:5433:x:y").as_deref(), Some("last"));
        assert_eq!(password_in("a:b:c:d\n", "a:b:c:d"), None);
    }
}
