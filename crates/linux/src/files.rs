//! Files of the program's own, and files that others hand to it. What is written may hold serial numbers and names: only its owner reads it, unless it
//! is shared on purpose. Nothing that somebody else planted is followed or written over, and nothing is read that waits or does not end.

use std::fs::{DirBuilder, File, OpenOptions, Permissions};
use std::io::{self, Read, Write};
use std::os::unix::fs::{DirBuilderExt, MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

static SHARED: AtomicBool = AtomicBool::new(false);

/// From now on others may read what is written.
pub fn share() {
    SHARED.store(true, Ordering::Relaxed);
}

/// Rights of a new file, and of a new folder.
fn modes() -> (u32, u32) {
    if SHARED.load(Ordering::Relaxed) { (0o644, 0o755) } else { (0o600, 0o700) }
}

/// Creates a file that is not there yet, under this name itself.
///
/// # Errors
/// When there is anything of that name, a link too, or it cannot be created.
pub fn create_new(path: &Path) -> io::Result<File> {
    OpenOptions::new().read(true).write(true).create_new(true).mode(modes().0).open(path)
}

/// Opens a file for writing at its places, and creates it when there is none. A link is not followed.
///
/// # Errors
/// When it is no file, is a link, or cannot be opened.
pub fn open_or_create(path: &Path) -> io::Result<File> {
    let mut how = OpenOptions::new();
    how.read(true).write(true).create(true).truncate(false).mode(modes().0);
    regular(how.custom_flags(libc::O_NOFOLLOW | libc::O_NONBLOCK).open(path)?)
}

/// Makes a folder and those above it that are missing.
///
/// # Errors
/// When one cannot be made.
pub fn make_folder(path: &Path) -> io::Result<()> {
    DirBuilder::new().recursive(true).mode(modes().1).create(path)
}

/// Writes a whole file: first under a name that nobody can guess, so that one that breaks off is not there, and nothing that was there before is
/// changed in place. A link is followed only when it is the user's own. Where a device or a pipe has that name the bytes go there.
///
/// # Errors
/// When it is a folder, a link of somebody else, or cannot be written.
pub fn write(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let itself = std::fs::symlink_metadata(path).ok();
    if let Some(link) = itself.filter(std::fs::Metadata::is_symlink)
        && link.uid() != rustix::process::geteuid().as_raw()
    {
        return Err(io::Error::other("it is a link that belongs to somebody else: it is not followed"));
    }
    match std::fs::metadata(path) {
        Ok(there) if there.is_dir() => Err(io::ErrorKind::IsADirectory.into()),
        Ok(there) if !there.is_file() => {
            OpenOptions::new().write(true).custom_flags(libc::O_NONBLOCK).open(path)?.write_all(bytes)
        }
        Ok(_) => replace(&std::fs::canonicalize(path)?, bytes),
        Err(_) => replace(path, bytes),
    }
}

fn replace(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut part = tempfile::Builder::new().prefix(".revisum-").suffix(".part").tempfile_in(folder)?;
    part.write_all(bytes)?;
    // A file system without rights has none to set.
    let _ = part.as_file().set_permissions(Permissions::from_mode(modes().0));
    part.as_file().sync_all()?;
    part.persist(path).map_err(|error| error.error)?;
    Ok(())
}

/// Makes sure that files can be made in a folder. A full one is no hindrance: what cannot be written is told when it is to be.
///
/// # Errors
/// When they cannot.
pub fn probe(folder: &Path) -> io::Result<()> {
    tempfile::Builder::new().prefix(".revisum-").tempfile_in(folder).map(drop)
}

/// Reads a file that is no longer than `most`.
///
/// # Errors
/// When it is no file but a pipe, a device or a folder; when it is longer, or cannot be read.
pub fn read(path: &Path, most: u64) -> io::Result<Vec<u8>> {
    let file = regular(OpenOptions::new().read(true).custom_flags(libc::O_NONBLOCK).open(path)?)?;
    let too_long = || io::Error::other(format!("it is longer than {most} bytes"));
    if file.metadata()?.len() > most {
        return Err(too_long());
    }
    let mut bytes = Vec::new();
    file.take(most + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > most { Err(too_long()) } else { Ok(bytes) }
}

/// The same as text; what is none becomes marks for it.
///
/// # Errors
/// As [`read`].
pub fn read_text(path: &Path, most: u64) -> io::Result<String> {
    Ok(String::from_utf8_lossy(&read(path, most)?).into_owned())
}

fn regular(file: File) -> io::Result<File> {
    if file.metadata()?.is_file() { Ok(file) } else { Err(io::Error::other("it is not a file")) }
}

/// The first folder on the way to this one in which others than root and this user may change names; nothing for a user who is not root, who
/// can only harm what is their own.
pub fn open_to_others(folder: &Path) -> Option<PathBuf> {
    let user = rustix::process::geteuid();
    if !user.is_root() {
        return None;
    }
    let folder = std::fs::canonicalize(folder).ok()?;
    folder.ancestors().find(|folder| std::fs::metadata(folder).is_ok_and(|meta| is_open(&meta))).map(Path::to_owned)
}

/// With the sticky bit others cannot change what is not theirs.
fn is_open(meta: &std::fs::Metadata) -> bool {
    const OTHERS: u32 = 0o022;
    const STICKY: u32 = 0o1000;
    meta.uid() != 0 || (meta.mode() & OTHERS != 0 && meta.mode() & STICKY == 0)
}

/// Lets this process have as many files and connections open as the system allows: a counter has two for each machine.
pub fn allow_many_files() {
    let limit = rustix::process::getrlimit(rustix::process::Resource::Nofile);
    // Where it stays as it is, machines beyond it are refused and call again.
    let _ = rustix::process::setrlimit(
        rustix::process::Resource::Nofile,
        rustix::process::Rlimit { current: limit.maximum, maximum: limit.maximum },
    );
}

#[cfg(test)]
mod tests {
    use std::os::unix::fs::symlink;

    use rstest::rstest;

    use super::*;

    #[test]
    fn what_is_written_is_for_its_owner_and_replaces_nothing_in_place() {
        let folder = tempfile::tempdir().unwrap();
        let (file, other) = (folder.path().join("a"), folder.path().join("b"));
        std::fs::write(&file, "before").unwrap();
        std::fs::hard_link(&file, &other).unwrap();
        write(&file, b"after").unwrap();
        assert_eq!(
            (std::fs::read(&file).unwrap(), std::fs::read(&other).unwrap()),
            (b"after".into(), b"before".into())
        );
        assert_eq!(std::fs::metadata(&file).unwrap().mode() & 0o777, 0o600);
        make_folder(&folder.path().join("x/y")).unwrap();
        assert_eq!(std::fs::metadata(folder.path().join("x")).unwrap().mode() & 0o777, 0o700);
        probe(folder.path()).unwrap();
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 3, "nothing is left behind");
    }

    #[test]
    fn a_link_is_followed_only_when_it_is_ones_own() {
        let folder = tempfile::tempdir().unwrap();
        let (file, link) = (folder.path().join("a"), folder.path().join("link"));
        std::fs::write(&file, "before").unwrap();
        symlink(&file, &link).unwrap();
        write(&link, b"mine").unwrap();
        assert_eq!(std::fs::read(&file).unwrap(), b"mine");
        assert!(open_or_create(&link).is_err() && create_new(&link).is_err());
        if rustix::process::geteuid().is_root() {
            std::os::unix::fs::lchown(&link, Some(12_345), None).unwrap();
            assert!(write(&link, b"planted").unwrap_err().to_string().contains("somebody else"));
            assert_eq!(std::fs::read(&file).unwrap(), b"mine");
        }
    }

    #[rstest]
    #[case::endless("/dev/zero")]
    #[case::folder("/")]
    fn what_is_no_file_is_not_read(#[case] path: &str) {
        assert!(read(Path::new(path), 100).is_err());
        assert!(write(Path::new("/dev/null"), b"x").is_ok() && write(Path::new("/"), b"x").is_err());
    }

    #[test]
    fn what_is_too_long_or_waits_is_not_read() {
        let folder = tempfile::tempdir().unwrap();
        let (sparse, pipe) = (folder.path().join("sparse"), folder.path().join("pipe"));
        File::create(&sparse).unwrap().set_len(1 << 40).unwrap();
        rustix::fs::mknodat(rustix::fs::CWD, &pipe, rustix::fs::FileType::Fifo, rustix::fs::Mode::RUSR, 0).unwrap();
        assert!(read(&sparse, 100).unwrap_err().to_string().contains("longer than 100"));
        assert!(read(&pipe, 100).unwrap_err().to_string().contains("not a file"));
        assert!(read_text(&pipe, 100).is_err());
    }

    #[test]
    fn a_folder_that_others_may_write_to_is_found_by_root() {
        let folder = tempfile::tempdir().unwrap();
        let inner = folder.path().join("open/inner");
        std::fs::create_dir_all(&inner).unwrap();
        let root = rustix::process::geteuid().is_root();
        assert_eq!(open_to_others(&inner), None);
        std::fs::set_permissions(folder.path().join("open"), Permissions::from_mode(0o777)).unwrap();
        let expected = std::fs::canonicalize(folder.path().join("open")).unwrap();
        assert_eq!(open_to_others(&inner), root.then_some(expected));
    }
}
