//! A PostgreSQL server for the time of the tests.

use std::fs::OpenOptions;
use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use tempfile::TempDir;

/// How long the server may take to be there.
const PATIENCE: Duration = Duration::from_secs(60);

/// A server that ends when this goes.
pub(crate) struct Server {
    child: Child,
    address: String,
    _folder: TempDir,
}

impl Drop for Server {
    fn drop(&mut self) {
        // A fast end; whoever is still connected is of no interest any more.
        let _ = Command::new("kill").args(["-INT", &self.child.id().to_string()]).status();
        let _ = self.child.wait();
    }
}

impl Server {
    /// Starts a server, and waits until it answers.
    pub(crate) fn start() -> Result<Self, String> {
        let programs = programs().or_else(|| install().and_then(|()| programs())).ok_or_else(|| {
            "initdb is not on this machine and could not be installed; install PostgreSQL (on Debian: apt-get install postgresql), and run this again".to_owned()
        })?;
        let folder =
            tempfile::Builder::new().prefix("dusk-postgres-").tempdir().map_err(|error| error.to_string())?;
        let data = folder.path().join("data");
        let user = unprivileged(folder.path())?;
        let log = folder.path().join("log");
        let ran = as_user(user.as_deref(), &programs.join("initdb"))
            .args(["--auth=trust", "--username=clerk", "--encoding=UTF8", "--no-locale", "--no-sync", "-D"])
            .arg(&data)
            .current_dir(folder.path())
            .output()
            .map_err(|error| format!("initdb could not be run: {error}"))?;
        if !ran.status.success() {
            return Err(format!("initdb failed: {}", String::from_utf8_lossy(&ran.stderr)));
        }
        let port = free_port()?;
        let output =
            OpenOptions::new().create(true).append(true).open(&log).map_err(|error| error.to_string())?;
        let child = as_user(user.as_deref(), &programs.join("postgres"))
            .args([
                "-c",
                "listen_addresses=127.0.0.1",
                "-c",
                "fsync=off",
                "-c",
                "unix_socket_directories=",
                "-p",
            ])
            .arg(port.to_string())
            .arg("-D")
            .arg(&data)
            .current_dir(folder.path())
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(output)
            .spawn()
            .map_err(|error| format!("postgres could not be run: {error}"))?;
        let mut server =
            Self { child, address: format!("postgresql://clerk@127.0.0.1:{port}/postgres"), _folder: folder };
        server.wait(port, &log)?;
        Ok(server)
    }

    pub(crate) fn address(&self) -> &str {
        &self.address
    }

    fn wait(&mut self, port: u16, log: &Path) -> Result<(), String> {
        let until = Instant::now() + PATIENCE;
        let says = || std::fs::read_to_string(log).unwrap_or_default();
        while Instant::now() < until {
            if self.child.try_wait().ok().flatten().is_some() {
                return Err(format!("it ended at once: {}", says()));
            }
            let is_ready = says().contains("database system is ready to accept connections");
            if is_ready && std::net::TcpStream::connect(("127.0.0.1", port)).is_ok() {
                return Ok(());
            }
            std::thread::sleep(Duration::from_millis(50));
        }
        Err(format!("it was not there after {} seconds: {}", PATIENCE.as_secs(), says()))
    }
}

/// The folder of the server's programs: on the path, or where Debian and Fedora put them. The newest is taken.
fn programs() -> Option<PathBuf> {
    let is_there = |folder: &PathBuf| folder.join("initdb").exists() && folder.join("postgres").exists();
    let mut installed: Vec<PathBuf> = std::fs::read_dir("/usr/lib/postgresql")
        .into_iter()
        .flatten()
        .flatten()
        .map(|entry| entry.path().join("bin"))
        .filter(is_there)
        .collect();
    installed.sort();
    let path = std::env::var_os("PATH").unwrap_or_default();
    let others = std::env::split_paths(&path).chain([PathBuf::from("/usr/pgsql/bin")]);
    installed.pop().or_else(|| others.into_iter().find(is_there))
}

/// Installs the server with the system's package manager.
fn install() -> Option<()> {
    let run = |program: &str, arguments: &[&str]| {
        let status = Command::new(program)
            .args(arguments)
            .env("DEBIAN_FRONTEND", "noninteractive")
            .stdout(Stdio::null())
            .status();
        status.ok().filter(std::process::ExitStatus::success).map(drop)
    };
    let debian = || {
        run("apt-get", &["update", "-qq"])
            .and_then(|()| run("apt-get", &["install", "-y", "-qq", "--no-install-recommends", "postgresql"]))
    };
    let fedora = || run("dnf", &["install", "-y", "-q", "postgresql-server"]);
    debian().or_else(fedora)
}

/// A port that nobody has.
fn free_port() -> Result<u16, String> {
    let listener = TcpListener::bind(("127.0.0.1", 0)).map_err(|error| error.to_string())?;
    listener.local_addr().map(|address| address.port()).map_err(|error| error.to_string())
}

/// The user whose server it is, where this runs as root, which a server refuses. The folder becomes that user's.
fn unprivileged(folder: &Path) -> Result<Option<String>, String> {
    let id =
        Command::new("id").arg("-u").output().map_err(|error| format!("id could not be run: {error}"))?;
    if String::from_utf8_lossy(&id.stdout).trim() != "0" {
        return Ok(None);
    }
    let is_known = |user: &&str| Command::new("id").arg(user).output().is_ok_and(|ran| ran.status.success());
    let user = ["postgres", "nobody"].into_iter().find(is_known).ok_or("there is no user but root")?;
    let owned = Command::new("chown").arg("-R").arg(user).arg(folder).status();
    match owned {
        Ok(status) if status.success() => Ok(Some(user.to_owned())),
        _ => Err(format!("the folder of the server could not be given to {user}")),
    }
}

/// A program, run by a user.
fn as_user(user: Option<&str>, program: &Path) -> Command {
    let Some(user) = user else { return Command::new(program) };
    let group = Command::new("id").args(["-g", user]).output().map(|ran| ran.stdout).unwrap_or_default();
    let group = String::from_utf8_lossy(&group).trim().to_owned();
    let mut command = Command::new("setpriv");
    command.args(["--reuid", user, "--regid", &group, "--clear-groups", "--"]).arg(program);
    command
}
