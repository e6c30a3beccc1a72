//! Where logs are.

use std::path::{Path, PathBuf};

use revisum_diagnose::system_log::SystemLogs;

use super::files;
use crate::mounts;

/// Folders in which systems keep their logs, from the root of their disk, in whatever case.
const PLACES: [&[&str]; 3] =
    [&["var", "log"], &["var", "lib", "systemd", "pstore"], &["windows", "system32", "winevt", "logs"]];
/// Files read in all, and folders below each other.
const MOST_FILES: usize = 5_000;
const DEEPEST: usize = 8;

/// A file, a folder, or the root of a disk.
pub(super) fn read(path: &Path, logs: &mut SystemLogs) {
    match std::fs::symlink_metadata(path) {
        Err(error) => logs.refuse(format!("{} cannot be read: {error}", path.display())),
        Ok(meta) if meta.is_file() => files::read_named(path, logs),
        Ok(meta) if meta.is_dir() => {
            let before = logs.read.len() + logs.trouble.len();
            if !system(path, logs) {
                folder(path, logs);
            }
            if logs.read.len() + logs.trouble.len() == before {
                logs.refuse(format!("No log was found in {}", path.display()));
            }
        }
        Ok(_) => logs.refuse(format!("{} is neither a file nor a folder", path.display())),
    }
}

/// The places of a system; false when this is not the root of one.
pub(super) fn system(root: &Path, logs: &mut SystemLogs) -> bool {
    let places: Vec<PathBuf> = PLACES.iter().filter_map(|place| below(root, place)).collect();
    places.iter().for_each(|place| folder(place, logs));
    !places.is_empty()
}

/// The folder of this name in whatever case: file systems of other systems do not mind it.
fn below(root: &Path, names: &[&str]) -> Option<PathBuf> {
    names.iter().try_fold(root.to_owned(), |folder, name| {
        let entries = std::fs::read_dir(&folder).ok()?.flatten();
        let mut fitting = entries.filter(|entry| {
            entry.file_name().eq_ignore_ascii_case(name) && entry.file_type().is_ok_and(|kind| kind.is_dir())
        });
        fitting.next().map(|entry| entry.path())
    })
}

fn folder(path: &Path, logs: &mut SystemLogs) {
    let mut found = Vec::new();
    list(path, DEEPEST, &mut found, logs);
    found.sort();
    // Among logs lie other files of their system: they are passed over.
    for file in &found {
        files::read(file, logs);
    }
}

fn list(path: &Path, deep: usize, into: &mut Vec<PathBuf>, logs: &mut SystemLogs) {
    let entries = match std::fs::read_dir(path) {
        Ok(entries) => entries,
        Err(error) => return logs.refuse(format!("{} cannot be read: {error}", path.display())),
    };
    for entry in entries.flatten() {
        if into.len() >= MOST_FILES {
            return;
        }
        let Ok(kind) = entry.file_type() else { continue };
        let inner = entry.path();
        if kind.is_dir() && deep > 0 {
            list(&inner, deep - 1, into, logs);
        } else if kind.is_file() {
            into.push(inner);
        }
    }
}

/// Disks that are mounted beside the running system's own and hold a system's logs.
pub(super) fn mounted_disks() -> Vec<PathBuf> {
    let holds_logs = |disk: &PathBuf| PLACES.iter().any(|place| below(disk, place).is_some());
    mounts::of_disks().into_iter().filter(holds_logs).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_places_of_a_system_are_found_in_whatever_case_and_links_are_not_followed() {
        let disk = tempfile::tempdir().unwrap();
        let place = disk.path().join("WINDOWS/System32/winevt/Logs");
        std::fs::create_dir_all(&place).unwrap();
        std::fs::create_dir_all(disk.path().join("var/log/old")).unwrap();
        let line = "EDAC MC0: 1 CE memory read error on DIMM_B1 (page:0x1 offset:0x0)\n";
        std::fs::write(disk.path().join("var/log/old/kern.log"), line).unwrap();
        std::fs::write(disk.path().join("elsewhere.log"), line).unwrap();
        std::os::unix::fs::symlink(disk.path(), disk.path().join("var/log/round")).unwrap();
        std::os::unix::fs::symlink(disk.path().join("elsewhere.log"), disk.path().join("var/log/link.log")).unwrap();
        let mut logs = SystemLogs::default();
        read(disk.path(), &mut logs);
        assert_eq!((logs.entries.len(), logs.read.len()), (1, 1), "{logs:?}");
        assert!(logs.trouble.is_empty());
    }

    #[test]
    fn what_is_not_there_is_said() {
        let mut logs = SystemLogs::default();
        read(Path::new("/nowhere/at/all"), &mut logs);
        read(Path::new("/dev/null"), &mut logs);
        assert_eq!(logs.trouble.len(), 2);
    }
}
