//! Passwords: from the environment, or from a file that only its owner can read. Never from the command line, and never
//! from a file of the project.

use std::path::{Path, PathBuf};

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
