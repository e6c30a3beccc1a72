//! The counter's copies of records.

use std::collections::HashMap;
use std::fs::{File, OpenOptions};
use std::io::{self, Read};
use std::os::unix::fs::{FileExt as _, OpenOptionsExt as _};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex};

use crate::held::held;
use crate::message::Refusal;
use crate::name::{beside, folders, is_record};

/// Copies of other files under the same name that are looked at.
const MOST_BESIDE: usize = 20;
/// Copies that are open at a time.
const MOST_OPEN: usize = 4000;

/// A copy as it is now.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CopyOf {
    /// Under which name.
    pub name: String,
    /// How long.
    pub len: u64,
    /// The checksum of all of it (CRC-32C, RFC 3720 B.4).
    pub crc: u32,
}

/// A copy that is open. Its lock tells other programs that it is being written.
struct Open {
    file: File,
    len: u64,
}

/// All copies, in the folders of a data directory. Several machines add to it at once.
pub struct Copies {
    root: PathBuf,
    open: Mutex<HashMap<String, Arc<Mutex<Open>>>>,
}

impl Copies {
    /// Below this folder.
    ///
    /// # Errors
    /// When its folders cannot be made.
    pub fn below(root: &Path) -> io::Result<Self> {
        folders().try_for_each(|folder| std::fs::create_dir_all(root.join(folder)))?;
        Ok(Self { root: root.to_owned(), open: Mutex::default() })
    }

    /// Copies under this name and beside it, and the first name that is free.
    ///
    /// # Errors
    /// When one cannot be read, or it is no name of a record.
    pub fn of(&self, name: &str) -> io::Result<(Vec<CopyOf>, String)> {
        if !is_record(name) {
            return Err(io::ErrorKind::InvalidInput.into());
        }
        let mut copies = Vec::new();
        for number in 1..=MOST_BESIDE {
            let name = beside(name, number);
            match checked(&self.root.join(&name)) {
                Ok((len, crc)) => copies.push(CopyOf { name, len, crc }),
                Err(error) if error.kind() == io::ErrorKind::NotFound => return Ok((copies, name)),
                Err(error) => return Err(error),
            }
        }
        Err(io::Error::other("too many others have its name"))
    }

    /// Adds to the end of a copy, and says how long it is then.
    ///
    /// # Errors
    /// Why nothing was added; then nothing of it is there.
    pub fn add(&self, name: &str, at: u64, bytes: &[u8]) -> Result<u64, Refusal> {
        if !is_record(name) {
            return Err(Refusal::NoRecord);
        }
        let open = self.opened(name).map_err(|error| refusal(&error))?;
        let mut open = held(&open);
        if at != open.len {
            return Err(Refusal::Elsewhere);
        }
        if let Err(error) = open.file.write_all_at(bytes, at) {
            // Half a piece would only be in the way of the whole one. Where even this fails the next piece fails too.
            let _ = open.file.set_len(at);
            return Err(refusal(&error));
        }
        open.len += bytes.len() as u64;
        Ok(open.len)
    }

    /// A copy that is complete is closed: safe, and no longer being written.
    pub fn close(&self, stem: &str) {
        let mut open = held(&self.open);
        open.retain(|name, copy| {
            let closes = crate::name::stem(name) == stem;
            if closes {
                // What a power cut takes is asked for again when the machine comes back.
                let _ = held(copy).file.sync_data();
            }
            !closes
        });
    }

    fn opened(&self, name: &str) -> io::Result<Arc<Mutex<Open>>> {
        let mut all = held(&self.open);
        if let Some(known) = all.get(name) {
            return Ok(Arc::clone(known));
        }
        if all.len() >= MOST_OPEN {
            all.clear();
        }
        let path = self.root.join(name);
        let file = OpenOptions::new().create(true).truncate(false).read(true).write(true).mode(0o600).open(path)?;
        file.try_lock().map_err(io::Error::from)?;
        let len = file.metadata()?.len();
        let open = Arc::new(Mutex::new(Open { file, len }));
        all.insert(name.to_owned(), Arc::clone(&open));
        Ok(open)
    }

    /// The bytes of a copy, for reading its records.
    pub(crate) fn bytes(&self, name: &str) -> io::Result<File> {
        File::open(self.root.join(name))
    }
}

/// Length and checksum of a file.
pub(crate) fn checked(path: &Path) -> io::Result<(u64, u32)> {
    let mut file = File::open(path)?;
    if !file.metadata()?.is_file() {
        return Err(io::Error::other("it is no file"));
    }
    checked_up_to(&mut file, u64::MAX)
}

/// How many bytes there are up to this many, and their checksum.
pub(crate) fn checked_up_to(file: &mut File, most: u64) -> io::Result<(u64, u32)> {
    let (mut len, mut crc) = (0, 0);
    let mut bytes = vec![0; 64 << 10];
    let mut source = file.take(most);
    loop {
        match source.read(&mut bytes)? {
            0 => return Ok((len, crc)),
            read => {
                crc = crc32c::crc32c_append(crc, &bytes[..read]);
                len += read as u64;
            }
        }
    }
}

fn refusal(error: &io::Error) -> Refusal {
    match error.kind() {
        io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded | io::ErrorKind::FileTooLarge => Refusal::Full,
        io::ErrorKind::WouldBlock => Refusal::Elsewhere,
        _ => Refusal::NotWritten,
    }
}
