//! How much room is left on a disk, for messages that say so and for work that needs much of it.

use std::path::Path;

/// How many bytes may still be written where `path` is, or will be; nothing where the system does not tell.
pub fn room_on_disk(path: &Path) -> Option<u64> {
    #[cfg(unix)]
    {
        let there =
            path.ancestors().find(|folder| folder.exists()).filter(|folder| !folder.as_os_str().is_empty());
        let disk = rustix::fs::statvfs(there.unwrap_or(Path::new("."))).ok()?;
        disk.f_bavail.checked_mul(disk.f_frsize)
    }
    #[cfg(not(unix))]
    {
        let _ = path;
        None
    }
}

#[cfg(test)]
mod tests {
    use std::path::Path;

    use super::room_on_disk;

    #[test]
    #[cfg(unix)]
    fn the_disk_is_known_by_the_next_folder_that_is_there() {
        let here = room_on_disk(Path::new(".")).unwrap();
        let below = room_on_disk(Path::new("not-there/at-all")).unwrap();
        assert!(here > 0 && below > 0);
    }
}
