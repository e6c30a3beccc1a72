//! Where records are kept.

use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use etcetera::BaseStrategy;
use revisum_linux::files;
use revisum_words::Language;

use crate::WrongUse;
use crate::say;

/// Longest file with the tag of a language.
const LONGEST_TAG: u64 = 64;

/// The folder with all records.
#[derive(Clone, Debug)]
pub struct DataDir {
    root: PathBuf,
}

impl DataDir {
    /// The given folder, else the platform's data folder; `sub` is added to the latter only.
    ///
    /// # Errors
    /// When no home folder is known.
    pub fn choose(given: Option<&Path>, sub: Option<&str>) -> Result<Self> {
        if let Some(root) = given {
            return Ok(Self { root: root.to_owned() });
        }
        let base = etcetera::choose_base_strategy().context(say::records_no_home())?;
        let root = base.data_dir().join("revisum");
        Ok(Self { root: sub.map_or(root.clone(), |sub| root.join(sub)) })
    }

    /// The folder itself.
    pub fn root(&self) -> PathBuf {
        self.root.clone()
    }

    /// Journals of runs.
    pub fn runs(&self) -> PathBuf {
        self.root.join("runs")
    }

    /// Journals of jobs.
    pub fn jobs(&self) -> PathBuf {
        self.root.join("jobs")
    }

    /// The ledger of all runs.
    pub fn ledger(&self) -> PathBuf {
        self.root.join("ledger.sqlite")
    }

    /// Where the ledger is kept, where that is a server.
    pub fn ledger_place(&self) -> PathBuf {
        self.root.join("ledger.toml")
    }

    /// What the shop's ledger knows of modules, as a copy that travels.
    pub fn digest(&self) -> PathBuf {
        self.root.join("digest.json")
    }

    /// What the records know of time.
    pub fn moments(&self) -> PathBuf {
        self.root.join("moments.toml")
    }

    /// What the shop wants to have on its reports.
    pub fn shop(&self) -> PathBuf {
        self.root.join("shop.toml")
    }

    /// Keys of the shop's counter, and cards that are in use.
    pub fn link(&self) -> PathBuf {
        self.root.join("link")
    }

    /// The language that was chosen here, where one was.
    pub fn language(&self) -> Option<Language> {
        Language::tagged(files::read_text(&self.root.join("language"), LONGEST_TAG).ok()?.trim())
    }

    /// Keeps the language for the next time.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn keep_language(&self, language: Language) -> Result<()> {
        let file = self.root.join("language");
        files::write(&file, language.tag().as_bytes())
            .with_context(|| say::records_language_not_kept(file.display().to_string()))
    }

    /// Reports of a job, in a folder that is made when it is first asked for.
    ///
    /// # Errors
    /// When the folder cannot be made.
    pub fn reports(&self, job: &str) -> Result<PathBuf> {
        let folder = self.root.join("reports").join(job);
        files::make_folder(&folder).with_context(|| say::records_folder_not_made(folder.display().to_string()))?;
        Ok(folder)
    }

    /// Maps of slots that were learned, in a folder that is made when it is first asked for.
    ///
    /// # Errors
    /// When the folder cannot be made.
    pub fn maps(&self) -> Result<PathBuf> {
        let folder = self.root.join(crate::learned_maps::FOLDER);
        files::make_folder(&folder).with_context(|| say::records_folder_not_made(folder.display().to_string()))?;
        Ok(folder)
    }

    /// Recipe files, in a folder that is made when it is first asked for.
    ///
    /// # Errors
    /// When the folder cannot be made.
    pub fn recipes(&self) -> Result<PathBuf> {
        let folder = self.root.join("recipes");
        files::make_folder(&folder).with_context(|| say::records_folder_not_made(folder.display().to_string()))?;
        Ok(folder)
    }

    /// Makes the folders and makes sure that they can be written to.
    ///
    /// # Errors
    /// With the folder's name and what to do.
    pub fn prepare(&self) -> Result<()> {
        for folder in [self.runs(), self.jobs()] {
            let advice = || say::records_not_writable(folder.display().to_string());
            files::make_folder(&folder).with_context(advice)?;
            if let Some(open) = files::open_to_others(&folder) {
                let words = say::records_open_to_others(folder.display().to_string(), open.display().to_string());
                return Err(WrongUse(words).into());
            }
            files::probe(&folder).with_context(advice)?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_named_folder_is_taken_as_it_is_and_made_ready() {
        let folder = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(&folder.path().join("kept")), Some("demo")).unwrap();
        assert_eq!(data.root(), folder.path().join("kept"));
        data.prepare().unwrap();
        assert!(data.runs().is_dir() && data.jobs().is_dir());
        assert_eq!(std::fs::read_dir(data.runs()).unwrap().count(), 0, "the probe is gone again");
        assert!(data.reports("job 1").unwrap().is_dir() && data.recipes().unwrap().is_dir());
    }

    #[test]
    fn a_folder_that_cannot_be_made_is_said_with_what_to_do() {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("file");
        std::fs::write(&file, b"").unwrap();
        let data = DataDir::choose(Some(&file), None).unwrap();
        let told = format!("{:#}", data.prepare().unwrap_err());
        assert!(told.contains("file/runs") && told.contains("--data DIR"), "{told}");
        assert!(data.reports("j").is_err() && data.recipes().is_err());
    }
}
