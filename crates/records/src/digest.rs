//! The ledger's digest: what is known of every module, small enough to travel on a drive and to be read there without a database.

use revisum_linux::files;
use std::collections::BTreeMap;
use std::path::Path;

use anyhow::{Context, Result};
use serde::{Deserialize, Serialize};

use super::ledger::{Ledger, LifeEnd, LifeLine};
use crate::say;

/// Version of the file.
const FORMAT: u32 = 2;
/// Runs kept of a module, the newest ones.
const MOST_RUNS: usize = 6;
/// Longest file that is read.
const LONGEST: u64 = 64 << 20;

/// All modules by serial number.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Digest {
    /// Version.
    pub digest: u32,
    /// Modules by serial number.
    pub modules: BTreeMap<String, ModuleDigest>,
}

/// What is known of one.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct ModuleDigest {
    /// Maker and part number.
    pub kind: String,
    /// What jobs made of it, the oldest first.
    pub ends: Vec<LifeEnd>,
    /// The newest runs, the oldest of them first.
    pub runs: Vec<LifeLine>,
}

impl Digest {
    /// The digest of a ledger.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn of(ledger: &Ledger) -> Result<Self> {
        let mut modules = BTreeMap::new();
        for serial in ledger.serials()? {
            let life = ledger.life(&serial)?;
            let kind = life.runs.last().map(|run| run.kind.clone()).unwrap_or_default();
            let skipped = life.runs.len().saturating_sub(MOST_RUNS);
            let runs = life.runs.into_iter().skip(skipped).collect();
            modules.insert(serial, ModuleDigest { kind, ends: life.ends, runs });
        }
        Ok(Self { digest: FORMAT, modules })
    }

    /// Reads a digest; none where there is no such file, or no good one: it is only a copy of what the shop's computer knows.
    pub fn read(file: &Path) -> Self {
        let text = files::read_text(file, LONGEST).unwrap_or_default();
        serde_json::from_str(&text).unwrap_or_default()
    }

    /// Writes it.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn write(&self, file: &Path) -> Result<()> {
        let text = serde_json::to_string(self)?;
        files::write(file, text.as_bytes()).with_context(|| say::records_digest_not_written(file.display().to_string()))
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn digest() -> Digest {
        let module = ModuleDigest { kind: "Haldry HD8G32J".into(), ..ModuleDigest::default() };
        Digest { digest: FORMAT, modules: [("4A220094".to_owned(), module)].into() }
    }

    #[test]
    fn what_is_written_is_read_again_and_nothing_is_left_beside_it() {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("digest.json");
        digest().write(&file).unwrap();
        assert_eq!(Digest::read(&file), digest());
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
    }

    /// It is only a copy: what cannot be read tells nothing, and stops nothing.
    #[rstest]
    #[case::empty(b"")]
    #[case::not_json(b"{")]
    #[case::something_else(b"[1, 2]")]
    #[case::binary(b"\xff\xfe\x00")]
    fn a_digest_that_is_none_tells_nothing(#[case] bytes: &[u8]) {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("digest.json");
        std::fs::write(&file, bytes).unwrap();
        assert_eq!(Digest::read(&file), Digest::default());
        assert_eq!(Digest::read(folder.path()), Digest::default(), "a folder is no digest");
        assert_eq!(Digest::read(&folder.path().join("absent")), Digest::default());
    }

    #[test]
    fn where_it_cannot_be_written_that_is_said() {
        let told = digest().write(Path::new("/proc/none/digest.json")).unwrap_err().to_string();
        assert!(told.contains("/proc/none/digest.json"), "{told}");
    }
}
