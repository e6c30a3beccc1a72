//! Records on drives that are mounted.

use std::path::PathBuf;

/// The folders with records on these drives, one of each: that of a boot drive, or a data folder that was chosen to be there.
pub(super) fn below(mounted: &[PathBuf]) -> Vec<PathBuf> {
    let holds = |folder: &PathBuf| folder.join("runs").is_dir() && folder.join("jobs").is_dir();
    let place = |root: &PathBuf| [root.join("revisum"), root.clone()].into_iter().find(holds);
    mounted.iter().filter_map(place).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_boot_drive_and_a_folder_of_records_are_found_and_other_drives_are_not() {
        let drives = tempfile::tempdir().unwrap();
        let root = |name: &str| drives.path().join(name);
        for folder in ["boot/revisum/runs", "boot/revisum/jobs", "plain/runs", "plain/jobs", "photos/runs"] {
            std::fs::create_dir_all(root(folder)).unwrap();
        }
        let found = below(&["photos", "boot", "plain", "gone"].map(root));
        assert_eq!(found, [root("boot/revisum"), root("plain")]);
    }
}
