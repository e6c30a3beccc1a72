//! Modules of the kernel, in the order that stands beside them.

use std::ffi::CString;
use std::fs::File;
use std::path::Path;

use rustix::io::Errno;
use rustix::system::finit_module;

/// Which modules.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ModuleGroup {
    /// What keys, the drive that we were booted from and the look at the modules of memory need.
    First,
    /// What nobody waits for: other disks with their file systems, sensors, counters, watchdogs.
    Later,
}

impl ModuleGroup {
    /// The file with their order.
    pub fn file(self) -> &'static str {
        match self {
            Self::First => "first",
            Self::Later => "later",
        }
    }
}

/// Loads the modules of a group, a file name and parameters a line in its file; returns what could not be loaded, in sentences.
///
/// A module of a device that is not there is not loaded: that is no trouble. Their files are gone afterwards: they lie in memory, and that is
/// wanted for testing.
pub fn load_modules(folder: &Path, group: ModuleGroup) -> Vec<String> {
    let order = match std::fs::read_to_string(folder.join(group.file())) {
        Ok(order) => order,
        Err(error) => return vec![format!("the list of kernel modules cannot be read: {error}")],
    };
    let trouble =
        order.lines().filter(|line| !line.trim().is_empty()).filter_map(|line| load_file(folder, line)).collect();
    // What stays only takes room.
    let _ = std::fs::remove_file(folder.join(group.file()));
    trouble
}

/// Loads one, a file name and its parameters, and takes its file away; why it is not loaded, where it is not.
pub(super) fn load_file(folder: &Path, line: &str) -> Option<String> {
    let (name, parameters) = line.split_once(' ').unwrap_or((line, ""));
    let trouble = |error: &dyn std::fmt::Display| Some(format!("the kernel module {name} is not loaded: {error}"));
    let file = match File::open(folder.join(name)) {
        Ok(file) => file,
        Err(error) => return trouble(&error),
    };
    let parameters = CString::new(parameters).unwrap_or_default();
    let loaded = finit_module(&file, &parameters, 0);
    let _ = std::fs::remove_file(folder.join(name));
    match loaded {
        // What it needs was refused for want of a device, so its symbols are missing: the same.
        Ok(()) | Err(Errno::EXIST | Errno::NODEV | Errno::NXIO | Errno::NOENT) => None,
        Err(error) => trouble(&error),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_missing_is_said() {
        let folder = tempfile::tempdir().unwrap();
        let modules = folder.path().join("modules");
        std::fs::create_dir(&modules).unwrap();
        assert_eq!(load_modules(&modules, ModuleGroup::First).len(), 1);
        std::fs::write(modules.join("later"), "gone.ko\n\n").unwrap();
        assert!(load_modules(&modules, ModuleGroup::Later)[0].contains("gone.ko"));
        assert_eq!(std::fs::read_dir(&modules).unwrap().count(), 0, "nothing takes room afterwards");
    }
}
