//! Modules of the kernel, in the order that stands beside them.

use std::ffi::CString;
use std::fs::File;
use std::path::Path;

use rustix::io::Errno;
use rustix::system::finit_module;

/// Loads the modules that `folder/order` names, a file name and parameters a line; returns what could not be loaded, in sentences.
///
/// A module of a device that is not there is not loaded: that is no trouble.
pub fn load_modules(folder: &Path) -> Vec<String> {
    let order = match std::fs::read_to_string(folder.join("order")) {
        Ok(order) => order,
        Err(error) => return vec![format!("the list of kernel modules cannot be read: {error}")],
    };
    let trouble = order.lines().filter(|line| !line.trim().is_empty()).filter_map(|line| load(folder, line)).collect();
    // They lie in memory, and that is wanted for testing.
    let _ = std::fs::remove_dir_all(folder);
    trouble
}

fn load(folder: &Path, line: &str) -> Option<String> {
    let (name, parameters) = line.split_once(' ').unwrap_or((line, ""));
    let trouble = |error: &dyn std::fmt::Display| Some(format!("the kernel module {name} is not loaded: {error}"));
    let file = match File::open(folder.join(name)) {
        Ok(file) => file,
        Err(error) => return trouble(&error),
    };
    let parameters = CString::new(parameters).unwrap_or_default();
    match finit_module(&file, &parameters, 0) {
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
        assert_eq!(load_modules(&modules).len(), 1);
        std::fs::write(modules.join("order"), "gone.ko\n\n").unwrap();
        assert!(load_modules(&modules)[0].contains("gone.ko"));
        assert!(!modules.exists());
    }
}
