//! Records that were kept in one place for a while, brought to a drive that was plugged in since, and kept up there.

use std::collections::HashMap;
use std::fs::{self, File, OpenOptions};
use std::io::{self, Read as _, Seek as _, SeekFrom, Write as _};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use revisum_linux::files;

/// Folder on the drive; where it is there already, a number comes behind it.
const FOLDER: &str = "revisum";
/// Folders in folders.
const DEEPEST: usize = 4;
/// Files that only ever grow.
const GROWING: [&str; 2] = ["journal", "job"];
/// What can be made again from the rest.
const MADE_AGAIN: &str = "ledger";

/// What is brought over, and how far.
pub struct BroughtOver {
    from: PathBuf,
    to: PathBuf,
    /// Length and time of each file when it was brought.
    known: HashMap<PathBuf, (u64, Option<SystemTime>)>,
}

impl BroughtOver {
    /// From this folder into one of its own on the drive that is mounted there: what the drive holds already is not touched.
    ///
    /// # Errors
    /// When the drive takes no folder.
    pub fn begin(from: &Path, drive: &Path) -> io::Result<Self> {
        let named = |nr: u32| drive.join(if nr == 1 { FOLDER.to_owned() } else { format!("{FOLDER}-{nr}") });
        let to = (1..).map(named).find(|folder| !folder.exists()).unwrap_or_else(|| drive.join(FOLDER));
        files::make_folder(&to)?;
        Ok(Self { from: from.to_owned(), to, known: HashMap::new() })
    }

    /// Where it goes.
    pub fn folder(&self) -> &Path {
        &self.to
    }

    /// Brings over what is new.
    ///
    /// # Errors
    /// When a file cannot be read, or the drive does not take it.
    pub fn keep_up(&mut self) -> io::Result<()> {
        // Made anew it would lie where no drive is any more.
        self.to.metadata()?;
        self.of_folder(Path::new(""), DEEPEST)
    }

    fn of_folder(&mut self, inside: &Path, deeper: usize) -> io::Result<()> {
        for entry in fs::read_dir(self.from.join(inside))? {
            let entry = entry?;
            let (name, kind) = (inside.join(entry.file_name()), entry.file_type()?);
            if kind.is_dir() && deeper > 0 {
                files::make_folder(&self.to.join(&name))?;
                self.of_folder(&name, deeper - 1)?;
            } else if kind.is_file() && !entry.file_name().to_string_lossy().starts_with(MADE_AGAIN) {
                match self.of_file(&name) {
                    // What is being written has a name for the time being.
                    Err(error) if error.kind() == io::ErrorKind::NotFound && !self.from.join(&name).exists() => {}
                    done => done?,
                }
            }
        }
        Ok(())
    }

    fn of_file(&mut self, name: &Path) -> io::Result<()> {
        let (from, to) = (self.from.join(name), self.to.join(name));
        let meta = from.metadata()?;
        let now = (meta.len(), meta.modified().ok());
        let before = self.known.get(name).copied();
        if before == Some(now) {
            return Ok(());
        }
        let grows = from.extension().is_some_and(|ending| GROWING.iter().any(|growing| ending == *growing));
        match before {
            Some((len, _)) if grows && to.metadata()?.len() == len => append(&from, &to, len, now.0)?,
            _ => files::write(&to, &fs::read(&from)?)?,
        }
        // What was written to it meanwhile comes the next time.
        let brought = if grows { to.metadata()?.len() } else { now.0 };
        self.known.insert(name.to_owned(), (brought, now.1.filter(|_| brought == now.0)));
        Ok(())
    }
}

fn append(from: &Path, to: &Path, begin: u64, end: u64) -> io::Result<()> {
    let mut source = File::open(from)?;
    source.seek(SeekFrom::Start(begin))?;
    let mut more = Vec::new();
    source.take(end.saturating_sub(begin)).read_to_end(&mut more)?;
    let mut target = OpenOptions::new().append(true).open(to)?;
    target.write_all(&more)?;
    target.sync_all()
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use proptest::prelude::*;

    use super::*;

    fn all(folder: &Path) -> BTreeMap<PathBuf, Vec<u8>> {
        let mut found = BTreeMap::new();
        let mut folders = vec![PathBuf::new()];
        while let Some(inside) = folders.pop() {
            for entry in fs::read_dir(folder.join(&inside)).unwrap().flatten() {
                let name = inside.join(entry.file_name());
                match entry.file_type().unwrap().is_dir() {
                    true => folders.push(name),
                    false => _ = found.insert(name.clone(), fs::read(folder.join(&name)).unwrap()),
                }
            }
        }
        found
    }

    /// What the drive held before stays, whatever its names are.
    #[test]
    fn it_goes_into_a_folder_of_its_own() {
        let folder = tempfile::tempdir().unwrap();
        let (from, drive) = (folder.path().join("here"), folder.path().join("drive"));
        for (path, words) in [(from.join("jobs"), "mine"), (drive.join("revisum/jobs"), "another's")] {
            fs::create_dir_all(&path).unwrap();
            fs::write(path.join("front-desk.job"), words).unwrap();
        }
        fs::write(from.join("ledger.sqlite"), "made again").unwrap();
        let mut brought = BroughtOver::begin(&from, &drive).unwrap();
        brought.keep_up().unwrap();
        assert_eq!(brought.folder(), drive.join("revisum-2"));
        assert_eq!(fs::read(drive.join("revisum/jobs/front-desk.job")).unwrap(), b"another's");
        assert_eq!(all(brought.folder()), [(PathBuf::from("jobs/front-desk.job"), b"mine".to_vec())].into());
    }

    /// A drive that is gone is told, and nothing counts as brought that was not.
    #[test]
    fn what_did_not_arrive_comes_again() {
        let folder = tempfile::tempdir().unwrap();
        let (from, drive) = (folder.path().join("here"), folder.path().join("drive"));
        fs::create_dir_all(from.join("runs")).unwrap();
        fs::create_dir_all(&drive).unwrap();
        let mut brought = BroughtOver::begin(&from, &drive).unwrap();
        fs::write(from.join("runs/a.journal"), "one").unwrap();
        brought.keep_up().unwrap();
        fs::rename(&drive, folder.path().join("pulled")).unwrap();
        fs::write(from.join("runs/a.journal"), "one two").unwrap();
        assert!(brought.keep_up().is_err());
        fs::rename(folder.path().join("pulled"), &drive).unwrap();
        brought.keep_up().unwrap();
        assert_eq!(all(brought.folder()), all(&from));
    }

    proptest! {
        /// However files grow, are replaced and are new in between, afterwards both hold the same.
        #[test]
        fn both_hold_the_same(steps in prop::collection::vec((0usize..6, prop::collection::vec(any::<u8>(), 0..40), any::<bool>()), 1..30)) {
            let folder = tempfile::tempdir().unwrap();
            let from = folder.path().join("here");
            let names = ["runs/a.journal", "runs/b.journal", "jobs/x.job", "reports/x/report.pdf", "reports/x/job.json", "language"];
            names.iter().for_each(|name| fs::create_dir_all(from.join(name).parent().unwrap()).unwrap());
            let mut brought = BroughtOver::begin(&from, folder.path()).unwrap();
            for (nr, (at, bytes, looks)) in steps.into_iter().enumerate() {
                let file = from.join(names[at]);
                let grows = file.extension().is_some_and(|ending| GROWING.iter().any(|growing| ending == *growing));
                let mut whole = if grows { fs::read(&file).unwrap_or_default() } else { Vec::new() };
                whole.extend(bytes);
                fs::write(&file, &whole).unwrap();
                let later = SystemTime::UNIX_EPOCH + std::time::Duration::from_secs(nr as u64);
                File::options().write(true).open(&file).unwrap().set_modified(later).unwrap();
                if looks {
                    brought.keep_up().unwrap();
                }
            }
            brought.keep_up().unwrap();
            prop_assert_eq!(all(brought.folder()), all(&from));
        }
    }
}
