//! A journal being written: in whole sectors, read back from the drive, locked, and continued in another file when it has grown large.

use std::fs::{File, OpenOptions};
use std::io;
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};

use crc32c::{crc32c, crc32c_append};
use revisum_record::journal::JournalStore;
use revisum_record::journal::filler;
use rustix::fs::{FlockOperation, flock};

use super::medium::{FileMedium, Medium};
use super::parts::part;
use crate::files::{create_new, open_or_create};

/// A part this large is followed by another one: small enough for any file system, and to be opened anywhere.
const LARGEST_PART: u64 = 64 << 20;
/// Space set aside at a time.
const STEP: u64 = 1 << 20;
/// Bytes that wait to be read back. A drive that keeps none of them is given no more.
const MOST_UNPROVEN: usize = 16 << 20;

/// A file opened anew: its bytes, its lock, its length.
type Opened = (Box<dyn Medium>, File, u64);

/// An open journal. The lock tells other programs that its run is not over.
pub struct JournalFile {
    medium: Box<dyn Medium>,
    path: PathBuf,
    /// Holds the lock: that of the first part, whichever is written to.
    lock: File,
    /// Opens a file that is there already: a drive that was pulled out and put back is another one to the system.
    again: fn(&Path) -> io::Result<Opened>,
    number: u32,
    len: u64,
    aside: u64,
    largest: u64,
    /// What was written and not yet found on the drive.
    unproven: Vec<u8>,
    /// Checksum (CRC-32C) of what stands before that in this part.
    proven: u32,
}

impl JournalFile {
    /// Creates a new journal.
    ///
    /// # Errors
    /// When it exists already or cannot be created; the folder entry is synced too, so that the file cannot vanish.
    pub fn create(path: &Path) -> io::Result<Self> {
        let file = create_new(path)?;
        let lock = locked(&file)?;
        sync_folder(path)?;
        Ok(Self::over(Box::new(FileMedium::new(file, path)), path, lock, 0))
    }

    /// Opens a journal to add to it, and creates it when there is none. A torn last line is ended first, so that the
    /// next record begins on a line of its own.
    ///
    /// # Errors
    /// When another program is writing to it, or the file cannot be opened.
    pub fn open_to_append(path: &Path) -> io::Result<Self> {
        let file = open_or_create(path)?;
        let lock = locked(&file)?;
        let mut bytes = std::fs::read(path)?;
        let mut medium = FileMedium::new(file, path);
        if bytes.last().is_some_and(|last| *last != b'\n') {
            medium.write_at(b"\n", bytes.len() as u64)?;
            bytes.push(b'\n');
        }
        let mut opened = Self::over(Box::new(medium), path, lock, bytes.len() as u64);
        opened.proven = crc32c(&bytes);
        Ok(opened)
    }

    fn over(medium: Box<dyn Medium>, path: &Path, lock: File, len: u64) -> Self {
        let path = path.to_owned();
        let (again, unproven) = (opened_again, Vec::new());
        Self { medium, path, lock, again, number: 1, len, aside: 0, largest: LARGEST_PART, unproven, proven: 0 }
    }

    /// Goes on where the drive has come back: with all that was found on it, and once more what was not.
    fn reopen(&mut self) -> io::Result<()> {
        let (mut medium, lock, there) = (self.again)(&part(&self.path, self.number))?;
        let proven = self.len - self.unproven.len() as u64;
        if there < proven {
            return Err(io::Error::other(format!(
                "the record on the drive has {there} bytes where {proven} were written to it"
            )));
        }
        // Another drive may have a file of that name, and a pulled one may have lost what it once gave back.
        if crc32c(&medium.read_back(0, proven as usize)?) != self.proven {
            return Err(io::Error::other("the record on the drive is not the one that was written to it"));
        }
        medium.write_at(&self.unproven, proven)?;
        medium.set_len(self.len)?;
        (self.medium, self.aside) = (medium, 0);
        if self.number == 1 {
            self.lock = lock;
        }
        Ok(())
    }

    /// After a call failed: where the drive was pulled and is back, all of it goes to what is there now.
    fn come_back(&mut self, error: io::Error) -> io::Result<()> {
        if is_full(&error) {
            return Err(error);
        }
        // While nothing is there, the first failure says more.
        self.reopen().map_err(|why| if why.kind() == io::ErrorKind::NotFound { error } else { why })
    }

    fn put(&mut self, bytes: &[u8]) -> io::Result<()> {
        if self.unproven.len() > MOST_UNPROVEN {
            return Err(io::Error::other("the drive does not keep what is written to it"));
        }
        if self.len + bytes.len() as u64 > self.aside {
            self.aside = (self.len + bytes.len() as u64).next_multiple_of(STEP);
            self.medium.set_aside(self.aside);
        }
        if let Err(error) = self.medium.write_at(bytes, self.len) {
            // Half a record must not stay in the way of the next one. Where even this fails the reader says so.
            let _ = self.medium.set_len(self.len);
            self.come_back(error)?;
            self.medium.write_at(bytes, self.len)?;
        }
        self.len += bytes.len() as u64;
        self.unproven.extend_from_slice(bytes);
        Ok(())
    }

    /// Writes all of it to the drive and reads it back from there.
    fn force_out(&mut self) -> io::Result<()> {
        self.medium.is_there()?;
        self.put(filler(self.len).as_bytes())?;
        self.medium.sync()?;
        self.prove()
    }

    /// Reads what was written back from the drive. What is not there as it was written is written once more.
    fn prove(&mut self) -> io::Result<()> {
        for _ in 0..2 {
            let at = self.len - self.unproven.len() as u64;
            if self.medium.read_back(at, self.unproven.len())? == self.unproven {
                self.proven = crc32c_append(self.proven, &self.unproven);
                self.unproven.clear();
                return Ok(());
            }
            self.medium.write_at(&self.unproven, at)?;
            self.medium.sync()?;
        }
        Err(io::Error::other("what was written reads back differently from the drive: it or its connection is damaged"))
    }

    /// Goes on in another file.
    fn next_part(&mut self) -> io::Result<()> {
        let path = part(&self.path, self.number + 1);
        let file = create_new(&path)?;
        sync_folder(&path)?;
        // What was set aside and not used is given back.
        let _ = self.medium.set_len(self.len);
        self.medium = Box::new(FileMedium::new(file, &path));
        (self.number, self.len, self.aside, self.proven) = (self.number + 1, 0, 0, 0);
        Ok(())
    }
}

impl JournalStore for JournalFile {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.put(bytes)
    }

    fn sync(&mut self) -> io::Result<()> {
        if let Err(error) = self.force_out() {
            self.come_back(error)?;
            self.force_out()?;
        }
        // Only here, where everything is safe: a part that cannot be begun leaves the run in the one before.
        if self.len >= self.largest && self.next_part().is_err() {
            self.largest += STEP;
        }
        Ok(())
    }
}

impl Drop for JournalFile {
    fn drop(&mut self) {
        // Space that was set aside behind the end is given back; where that fails it is only space.
        let _ = self.medium.set_len(self.len);
    }
}

fn is_full(error: &io::Error) -> bool {
    matches!(error.kind(), io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded | io::ErrorKind::FileTooLarge)
}

fn opened_again(path: &Path) -> io::Result<Opened> {
    let file = OpenOptions::new().read(true).write(true).open(path)?;
    let (lock, len) = (file.try_clone()?, file.metadata()?.len());
    // Where it is the same file still, this program holds its lock already, by another handle.
    let _ = flock(&file, FlockOperation::NonBlockingLockExclusive);
    Ok((Box::new(FileMedium::new(file, path)), lock, len))
}

fn locked(file: &File) -> io::Result<File> {
    flock(file, FlockOperation::NonBlockingLockExclusive)?;
    file.try_clone()
}

fn sync_folder(path: &Path) -> io::Result<()> {
    match path.parent().filter(|folder| !folder.as_os_str().is_empty()) {
        Some(folder) => File::open(folder)?.sync_all(),
        None => Ok(()),
    }
}

/// Whether some program is writing to this journal at the moment.
pub fn is_being_written(path: &Path) -> bool {
    // A pipe would wait for somebody at its other end.
    let Ok(file) = OpenOptions::new().read(true).custom_flags(libc::O_NONBLOCK).open(path) else { return false };
    flock(&file, FlockOperation::NonBlockingLockShared).is_err()
}

#[cfg(test)]
mod tests {
    use std::io::Read as _;
    use std::sync::{Arc, Mutex};

    use revisum_record::journal::{Entry, JournalWriter, SECTOR, read_journal};
    use rstest::rstest;

    use super::super::parts::{bytes_of_parts, is_part, open_parts};
    use super::*;

    #[derive(Default)]
    struct Drive {
        bytes: Vec<u8>,
        /// Calls until one fails.
        good_calls: Option<u32>,
        /// Reads that give a wrong byte.
        bad_reads: u32,
        rewritten: u32,
    }

    #[derive(Clone, Default)]
    struct Test(Arc<Mutex<Drive>>);

    impl Test {
        fn call(&self) -> io::Result<std::sync::MutexGuard<'_, Drive>> {
            let mut drive = self.0.lock().unwrap();
            match &mut drive.good_calls {
                Some(0) => return Err(io::Error::from(io::ErrorKind::StorageFull)),
                Some(left) => *left -= 1,
                None => {}
            }
            Ok(drive)
        }
    }

    impl Medium for Test {
        fn write_at(&mut self, bytes: &[u8], at: u64) -> io::Result<()> {
            // A full drive takes half of it.
            let (mut drive, full) = match self.call() {
                Ok(drive) => (drive, false),
                Err(_) => (self.0.lock().unwrap(), true),
            };
            let (at, taken) = (at as usize, if full { bytes.len() / 2 } else { bytes.len() });
            drive.rewritten += u32::from(at < drive.bytes.len());
            let end = drive.bytes.len().max(at + taken);
            drive.bytes.resize(end, 0);
            drive.bytes[at..at + taken].copy_from_slice(&bytes[..taken]);
            if full { Err(io::Error::from(io::ErrorKind::StorageFull)) } else { Ok(()) }
        }
        fn set_len(&mut self, len: u64) -> io::Result<()> {
            self.0.lock().unwrap().bytes.truncate(len as usize);
            Ok(())
        }
        fn sync(&mut self) -> io::Result<()> {
            self.call().map(drop)
        }
        fn read_back(&mut self, at: u64, length: usize) -> io::Result<Vec<u8>> {
            let mut drive = self.call()?;
            let mut read = drive.bytes[at as usize..at as usize + length].to_vec();
            if drive.bad_reads > 0 {
                drive.bad_reads -= 1;
                read[length / 2] ^= 4;
            }
            Ok(read)
        }
    }

    fn journal(drive: &Test) -> JournalFile {
        JournalFile::over(Box::new(drive.clone()), Path::new("j"), tempfile::tempfile().unwrap(), 0)
    }

    fn passes(bytes: &[u8]) -> Vec<u32> {
        let mut found = Vec::new();
        let take = |framed: revisum_record::journal::Framed<Entry>| {
            let Entry::PassBegan { pass, .. } = framed.entry else { panic!() };
            found.push(pass);
        };
        read_journal(&mut &*bytes, take).unwrap();
        found
    }

    #[test]
    fn what_was_synced_is_in_sectors_of_its_own() {
        let drive = Test::default();
        let mut writer = JournalWriter::new(Box::new(journal(&drive)), "j");
        for pass in 1..=20 {
            writer.append(0, &Entry::PassBegan { pass, seed: 0 }).unwrap();
            if pass % 3 == 0 {
                writer.sync().unwrap();
                assert_eq!(drive.0.lock().unwrap().bytes.len() as u64 % SECTOR, 0);
            }
        }
        let drive = drive.0.lock().unwrap();
        assert_eq!((passes(&drive.bytes), drive.rewritten), ((1..=20).collect(), 0));
    }

    #[rstest]
    #[case::one_bad_read_is_written_again(1, true)]
    #[case::bad_every_time(9, false)]
    fn what_was_written_is_read_back(#[case] bad_reads: u32, #[case] kept: bool) {
        let drive = Test::default();
        drive.0.lock().unwrap().bad_reads = bad_reads;
        let mut file = journal(&drive);
        file.append(b"a record\n").unwrap();
        let synced = file.sync();
        assert_eq!(synced.is_ok(), kept);
        assert!(drive.0.lock().unwrap().rewritten > 0);
        if let Err(error) = synced {
            assert!(error.to_string().contains("reads back differently"));
        }
    }

    /// Whatever call the drive fails at: later calls bring everything, and nothing twice.
    #[test]
    fn a_drive_full_at_any_call_loses_nothing_that_is_tried_again() {
        for good_calls in 0..24 {
            let drive = Test::default();
            drive.0.lock().unwrap().good_calls = Some(good_calls);
            let mut writer = JournalWriter::new(Box::new(journal(&drive)), "j");
            let freed = |failed: io::Error| {
                assert_eq!(failed.kind(), io::ErrorKind::StorageFull);
                drive.0.lock().unwrap().good_calls = None;
            };
            for pass in 1..=6 {
                while let Err(failed) = writer.append(0, &Entry::PassBegan { pass, seed: 0 }) {
                    freed(failed);
                }
                while let Err(failed) = writer.sync() {
                    freed(failed);
                }
            }
            assert_eq!(passes(&drive.0.lock().unwrap().bytes), [1, 2, 3, 4, 5, 6], "{good_calls}");
        }
    }

    /// The folder is taken away and comes back with what had been synced, as a drive does that is pulled out and put in again.
    #[test]
    fn a_drive_that_comes_back_gets_what_it_missed() {
        struct Gone;
        impl Medium for Gone {
            fn write_at(&mut self, _: &[u8], _: u64) -> io::Result<()> {
                Err(io::Error::from_raw_os_error(5))
            }
            fn set_len(&mut self, _: u64) -> io::Result<()> {
                Err(io::Error::from_raw_os_error(5))
            }
            fn sync(&mut self) -> io::Result<()> {
                Err(io::Error::from_raw_os_error(5))
            }
            fn read_back(&mut self, _: u64, _: usize) -> io::Result<Vec<u8>> {
                Err(io::Error::from_raw_os_error(5))
            }
        }
        let folder = tempfile::tempdir().unwrap();
        let (path, away) = (folder.path().join("j.journal"), folder.path().join("away"));
        let mut file = JournalFile::create(&path).unwrap();
        file.append(b"one\n").unwrap();
        file.sync().unwrap();
        file.append(b"two\n").unwrap();
        std::fs::copy(&path, &away).unwrap();
        std::fs::remove_file(&path).unwrap();
        file.medium = Box::new(Gone);
        assert!(file.append(b"three\n").is_err() && file.sync().is_err());
        // What the pulled drive had of the unsynced record is anything at all.
        std::fs::write(&path, [&std::fs::read(&away).unwrap()[..SECTOR as usize], b"tw\xff"].concat()).unwrap();
        file.append(b"three\n").unwrap();
        file.sync().unwrap();
        let text = std::fs::read_to_string(&path).unwrap();
        assert_eq!(text.split_whitespace().collect::<Vec<_>>(), ["one", "two", "three"]);
        // Another drive in its place has a record of that name, but not this one.
        std::fs::remove_file(&path).unwrap();
        std::fs::write(&path, text.replacen("one", "eno", 1)).unwrap();
        let before = std::fs::read(&path).unwrap();
        file.medium = Box::new(Gone);
        let refused = file.append(b"four\n").unwrap_err().to_string();
        assert!(refused.contains("not the one that was written"), "{refused}");
        assert_eq!(std::fs::read(&path).unwrap(), before);
    }

    #[test]
    fn a_journal_that_grows_large_goes_on_in_another_file() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("j.journal");
        let mut file = JournalFile::create(&path).unwrap();
        file.largest = 2 * SECTOR;
        let mut writer = JournalWriter::new(Box::new(file), "j");
        for pass in 1..=9 {
            writer.append(0, &Entry::PassBegan { pass, seed: 0 }).unwrap();
            writer.sync().unwrap();
        }
        let second = folder.path().join("j.journal-2");
        assert!(second.is_file() && is_part(&second) && !is_part(&path) && is_being_written(&path));
        let mut all = Vec::new();
        let mut parts = open_parts(&path).unwrap();
        parts.reader.read_to_end(&mut all).unwrap();
        assert_eq!((parts.bytes, bytes_of_parts(&path)), (all.len() as u64, all.len() as u64));
        assert_eq!(passes(&all), (1..=9).collect::<Vec<_>>());
    }

    #[test]
    fn a_file_that_is_taken_away_is_not_written_to_in_silence() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("j.journal");
        let mut file = JournalFile::create(&path).unwrap();
        file.append(b"one\n").unwrap();
        file.sync().unwrap();
        std::fs::remove_file(&path).unwrap();
        assert!(file.append(b"two\n").and_then(|()| file.sync()).is_err());
    }

    /// Parts in the place of which something else stands: what the others tell is read, and that these are missing is said.
    #[rstest]
    #[case::a_folder(true)]
    #[case::nothing(false)]
    fn parts_that_cannot_be_read_hide_nothing_behind_them(#[case] folder_there: bool) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("j.journal");
        std::fs::write(&path, "one\n").unwrap();
        if folder_there {
            std::fs::create_dir(part(&path, 2)).unwrap();
        }
        std::fs::write(part(&path, 3), "three\n").unwrap();
        let mut all = String::new();
        let mut parts = open_parts(&path).unwrap();
        parts.reader.read_to_string(&mut all).unwrap();
        assert_eq!((all.as_str(), parts.unreadable.count()), ("one\nthree\n", u64::from(folder_there)));
    }

    #[test]
    fn a_real_file_is_read_back_and_continued() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.job");
        for pass in 1..=3 {
            let there = std::fs::read(&path).unwrap_or_default();
            let link = read_journal::<Entry>(&mut there.as_slice(), |_| {}).unwrap().link;
            let mut writer = JournalWriter::resume(Box::new(JournalFile::open_to_append(&path).unwrap()), "j", link);
            writer.append(0, &Entry::PassBegan { pass, seed: 0 }).unwrap();
            writer.sync().unwrap();
        }
        let bytes = std::fs::read(&path).unwrap();
        assert!(!read_journal::<Entry>(&mut bytes.as_slice(), |_| {}).unwrap().damage.any());
        assert_eq!((passes(&bytes), bytes.len() as u64), (vec![1, 2, 3], 3 * SECTOR));
    }
}
