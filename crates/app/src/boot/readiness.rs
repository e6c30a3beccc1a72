//! How far the first process has come with what a session needs. It stands in a file: a session may die and start again.

use std::path::Path;

use revisum_linux::files;
use serde::{Deserialize, Serialize};

const FILE: &str = "/run/revisum-readiness";
/// Longest file: a few sentences.
const LONGEST: u64 = 1 << 16;

/// How far it has come.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(super) enum Readiness {
    /// Drivers are being loaded.
    Drivers,
    /// The drive is being looked for.
    Drive,
    /// All is there.
    Ready(Room),
}

/// Room for results.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct Room {
    /// What is not right with it, or why there is none.
    pub kept: Result<Option<String>, String>,
    /// What was not as it should be on the way.
    pub troubles: Vec<String>,
}

impl Readiness {
    /// What was told last.
    pub fn now() -> Self {
        Self::read(Path::new(FILE))
    }

    /// Tells it.
    pub fn tell(&self) {
        // A session that hears nothing goes on without a drive after a while.
        let _ = self.write(Path::new(FILE));
    }

    fn read(file: &Path) -> Self {
        let text = files::read_text(file, LONGEST).ok();
        text.and_then(|text| serde_json::from_str(&text).ok()).unwrap_or(Self::Drivers)
    }

    fn write(&self, file: &Path) -> std::io::Result<()> {
        files::write(file, serde_json::to_string(self)?.as_bytes())
    }

    /// Whether results are kept on the drive.
    pub fn is_kept(&self) -> bool {
        matches!(self, Self::Ready(Room { kept: Ok(_), .. }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_told_is_heard_by_every_session() {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("readiness");
        assert_eq!(Readiness::read(&file), Readiness::Drivers);
        let room = Room { kept: Ok(Some("its tables differ".into())), troubles: vec!["a".into()] };
        for readiness in [Readiness::Drive, Readiness::Ready(room)] {
            readiness.write(&file).unwrap();
            assert_eq!(Readiness::read(&file), readiness);
            assert_eq!(Readiness::read(&file), readiness, "it stays");
        }
        assert!(Readiness::read(&file).is_kept());
        assert!(!Readiness::Ready(Room { kept: Err("none".into()), troubles: Vec::new() }).is_kept());
    }
}
