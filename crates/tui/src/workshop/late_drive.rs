//! A drive that is plugged in after a machine was booted without one: what was kept in memory until then is brought there, and kept up.

use std::path::{Path, PathBuf};

use revisum_records::BroughtOver;

use crate::say;

/// Where a drive is mounted that was plugged in after the start; nothing while there is none.
pub type Appeared = Box<dyn Fn() -> Option<PathBuf> + Send>;

/// The drive, where one is looked for.
#[derive(Default)]
pub struct LateDrive {
    appeared: Option<Appeared>,
    brought: Option<BroughtOver>,
    trouble: Option<String>,
}

impl LateDrive {
    /// Not there yet.
    pub fn looked_for(appeared: Appeared) -> Self {
        Self { appeared: Some(appeared), ..Self::default() }
    }

    /// Whether there is one.
    pub fn is_there(&self) -> bool {
        self.brought.is_some()
    }

    /// Why it does not take what is recorded, where it does not.
    pub fn trouble(&self) -> Option<String> {
        self.trouble.clone()
    }

    /// Looks for it, and brings over what is new here.
    pub fn keep_up(&mut self, from: &Path) {
        if self.brought.is_none() {
            let Some(drive) = self.appeared.as_ref().and_then(|appeared| appeared()) else { return };
            // One that takes nothing is as good as none, and is asked again.
            self.brought = BroughtOver::begin(from, &drive).ok();
        }
        let Some(brought) = &mut self.brought else { return };
        self.trouble = brought.keep_up().err().map(|error| say::drive_takes_nothing(error.to_string()));
    }
}

#[cfg(test)]
mod tests {
    use std::sync::{Arc, Mutex};

    use super::*;

    #[test]
    fn what_was_kept_in_memory_is_on_the_drive_as_soon_as_there_is_one() {
        let folder = tempfile::tempdir().unwrap();
        let (here, drive) = (folder.path().join("here"), folder.path().join("drive"));
        std::fs::create_dir_all(here.join("runs")).unwrap();
        std::fs::write(here.join("runs/a.journal"), "one").unwrap();
        let plugged: Arc<Mutex<Option<PathBuf>>> = Arc::default();
        let seen = plugged.clone();
        let mut late = LateDrive::looked_for(Box::new(move || seen.lock().unwrap().clone()));
        late.keep_up(&here);
        assert!(!late.is_there());
        *plugged.lock().unwrap() = Some(drive.clone());
        std::fs::create_dir(&drive).unwrap();
        late.keep_up(&here);
        let copy = || std::fs::read_to_string(drive.join("revisum/runs/a.journal")).unwrap();
        assert_eq!((late.is_there(), late.trouble(), copy()), (true, None, "one".to_owned()));
        std::fs::rename(&drive, folder.path().join("pulled")).unwrap();
        std::fs::write(here.join("runs/a.journal"), "one two").unwrap();
        late.keep_up(&here);
        assert!(late.trouble().is_some());
        std::fs::rename(folder.path().join("pulled"), &drive).unwrap();
        late.keep_up(&here);
        assert_eq!((late.trouble(), copy()), (None, "one two".to_owned()));
    }
}
