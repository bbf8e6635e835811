//! The program started once more to read one workbook, with as much memory and time as a workbook needs: what a file
//! that is made to hurt does there ends that process alone.

use std::fs::File;
use std::io;
use std::process::{Command, ExitCode};

use dusk_core::sources::{Limits, read_apart, serve};

/// The first argument of such a process. Nobody types it.
const WORD: &str = "read-one-workbook";

/// Has workbooks read in processes of their own.
pub(crate) fn prepare() {
    read_apart(|| {
        let mut command = Command::new(std::env::current_exe()?);
        command.arg(WORD);
        Ok(command)
    });
}

/// Reads a workbook, where this process was started for that.
pub(crate) fn ran() -> Option<ExitCode> {
    let mut words = std::env::args().skip(1);
    if words.next().as_deref() != Some(WORD) {
        return None;
    }
    let served = words.next().ok_or_else(|| io::ErrorKind::InvalidInput.into());
    let served = served.and_then(|wanted| serve(&wanted, files()?, restrict));
    Some(if served.is_ok() { ExitCode::SUCCESS } else { ExitCode::FAILURE })
}

/// The workbook, and where its rows go.
#[cfg(unix)]
fn files() -> io::Result<(File, File)> {
    use std::os::fd::AsFd as _;
    let workbook = io::stdin().as_fd().try_clone_to_owned()?;
    let rows = io::stdout().as_fd().try_clone_to_owned()?;
    Ok((workbook.into(), rows.into()))
}

/// The workbook, and where its rows go.
#[cfg(windows)]
fn files() -> io::Result<(File, File)> {
    use std::os::windows::io::AsHandle as _;
    let workbook = io::stdin().as_handle().try_clone_to_owned()?;
    let rows = io::stdout().as_handle().try_clone_to_owned()?;
    Ok((workbook.into(), rows.into()))
}

/// Holds this process to its limits. Systems that have none of these have those of the readers alone.
fn restrict(limits: Limits) -> io::Result<()> {
    #[cfg(unix)]
    {
        use rlimit::Resource;
        // Memory that is set aside and not used counts for one of the two and not for the other.
        const SET_ASIDE: u64 = 4;
        for (resource, most) in [
            (Resource::DATA, limits.memory),
            (Resource::AS, limits.memory.saturating_mul(SET_ASIDE)),
            (Resource::CPU, limits.seconds),
            // What it held when it was ended is nobody's concern.
            (Resource::CORE, 0),
        ] {
            let (_, hard) = resource.get()?;
            let most = most.min(hard);
            resource.set(most, if resource == Resource::CPU { hard.min(most + 2) } else { most })?;
        }
    }
    let _ = limits;
    Ok(())
}
