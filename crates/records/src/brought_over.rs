//! Records that were kept in one place for a while, brought to a drive that was plugged in since, and kept up there.

use std::collections::HashMap;
use std::fs::{self, File, OpenOptions};
use std::io::{self, Read as _, Seek as _, SeekFrom, Write as _};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use revisum_linux::files;

/// Folder on the drive; where it is there already, a number comes behind it.
const FOLDER: &str = "revisum";
/// Folders of records in it.
const RECORDS: [&str; 2] = ["runs", "jobs"];
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
    /// From this folder into one without records on the drive that is mounted there: what the drive holds already is not touched.
    ///
    /// # Errors
    /// When the drive takes no folder.
    pub fn begin(from: &Path, drive: &Path) -> io::Result<Self> {
        let named = |nr: u32| drive.join(if nr == 1 { FOLDER.to_owned() } else { format!("{FOLDER}-{nr}") });
        let to = (1..).map(named).find(|folder| holds_no_records(folder)).unwrap_or_else(|| drive.join(FOLDER));
        files::make_folder(&to)?;
        Ok(Self { from: from.to_owned(), to, known: HashMap::new() })
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

/// Neither runs nor jobs; a folder that cannot be read may hold some.
fn holds_no_records(folder: &Path) -> bool {
    RECORDS.iter().all(|inside| match fs::read_dir(folder.join(inside)) {
        Ok(mut entries) => entries.next().is_none(),
        Err(error) => error.kind() == io::ErrorKind::NotFound,
    })
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
    use rstest::rstest;

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
    #[rstest]
    #[case::nothing_there(&[], "revisum")]
    #[case::a_new_drive(&["revisum/recipes/mine.toml"], "revisum")]
    #[case::jobs_of_others(&["revisum/jobs/front-desk.job"], "revisum-2")]
    #[case::runs_of_others(&["revisum/runs/a.journal", "revisum-2/jobs/b.job"], "revisum-3")]
    fn it_goes_where_no_records_are(#[case] there: &[&str], #[case] expected: &str) {
        let folder = tempfile::tempdir().unwrap();
        let (from, drive) = (folder.path().join("here"), folder.path().join("drive"));
        let put = |file: PathBuf, words: &str| {
            fs::create_dir_all(file.parent().unwrap()).unwrap();
            fs::write(file, words).unwrap();
        };
        fs::create_dir_all(&drive).unwrap();
        there.iter().for_each(|name| put(drive.join(name), "another's"));
        put(from.join("jobs/front-desk.job"), "mine");
        put(from.join("ledger.sqlite"), "made again");
        let mut brought = BroughtOver::begin(&from, &drive).unwrap();
        brought.keep_up().unwrap();
        assert_eq!(brought.to, drive.join(expected));
        assert!(there.iter().all(|name| fs::read(drive.join(name)).unwrap() == b"another's"));
        assert_eq!(fs::read(brought.to.join("jobs/front-desk.job")).unwrap(), b"mine");
        assert!(!brought.to.join("ledger.sqlite").exists());
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
        assert_eq!(all(&brought.to), all(&from));
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
            prop_assert_eq!(all(&brought.to), all(&from));
        }
    }
}
