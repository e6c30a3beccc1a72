//! FAT partitions: made, filled, and read again. All times in them are the same, so that two builds are.

use std::collections::BTreeMap;
use std::fs::{File, OpenOptions};
use std::io::{Read, Seek, Write};
use std::path::Path;

use anyhow::{Context, Result};
use fatfs::{Date, DateTime, FileSystem, FormatVolumeOptions, FsOptions, Time, TimeProvider};

use crate::partitions::{Place, Window};

#[derive(Debug)]
struct NoTime;

impl TimeProvider for NoTime {
    fn get_current_date(&self) -> Date {
        Date { year: 2025, month: 1, day: 1 }
    }

    fn get_current_date_time(&self) -> DateTime {
        DateTime { date: self.get_current_date(), time: Time { hour: 0, min: 0, sec: 0, millis: 0 } }
    }
}

static NO_TIME: NoTime = NoTime;

fn options() -> FsOptions {
    FsOptions::new().time_provider(&NO_TIME)
}

/// Makes a FAT32 file system in a partition of an image, with these files.
pub(crate) fn make_fat(image: &Path, place: Place, label: &str, files: &BTreeMap<String, Vec<u8>>) -> Result<()> {
    let file = OpenOptions::new().read(true).write(true).open(image)?;
    let mut window = Window::new(file, place)?;
    let mut name = [b' '; 11];
    name[..label.len()].copy_from_slice(label.as_bytes());
    let format = FormatVolumeOptions::new()
        .fat_type(fatfs::FatType::Fat32)
        .bytes_per_cluster(512)
        .volume_label(name)
        .volume_id(u32::from_be_bytes([b'R', b'V', place.name.len() as u8, label.len() as u8]));
    fatfs::format_volume(&mut window, format).with_context(|| format!("{} cannot be formatted", place.name))?;
    let system = FileSystem::new(window, options())?;
    for (path, bytes) in files {
        put(&system, path, bytes).with_context(|| format!("{path} does not fit into {}", place.name))?;
    }
    Ok(system.unmount()?)
}

fn put<T: Read + Write + Seek>(system: &FileSystem<T>, path: &str, bytes: &[u8]) -> Result<()> {
    let mut folder = system.root_dir();
    let (folders, name) = path.rsplit_once('/').map_or((None, path), |(folders, name)| (Some(folders), name));
    for part in folders.into_iter().flat_map(|folders| folders.split('/')) {
        folder = folder.create_dir(part)?;
    }
    let mut file = folder.create_file(name)?;
    file.truncate()?;
    file.write_all(bytes)?;
    Ok(file.flush()?)
}

/// One file of a partition of an image.
///
/// # Errors
/// When there is no such file, or no such file system.
pub fn read_file(image: &Path, place: Place, path: &str) -> Result<Vec<u8>> {
    let system = FileSystem::new(Window::new(read_only(image)?, place)?, options())?;
    let mut bytes = Vec::new();
    system.root_dir().open_file(path)?.read_to_end(&mut bytes)?;
    Ok(bytes)
}

/// All files below a folder of a partition of an image, by their names.
///
/// # Errors
/// When there is no such folder, or no such file system.
pub fn read_files(image: &Path, place: Place, folder: &str) -> Result<BTreeMap<String, Vec<u8>>> {
    let system = FileSystem::new(Window::new(read_only(image)?, place)?, options())?;
    let root = system.root_dir();
    let folder = if folder.is_empty() { root } else { root.open_dir(folder)? };
    let mut files = BTreeMap::new();
    for entry in folder.iter() {
        let entry = entry?;
        if entry.is_file() {
            let mut bytes = Vec::new();
            entry.to_file().read_to_end(&mut bytes)?;
            files.insert(entry.file_name(), bytes);
        }
    }
    Ok(files)
}

/// Reading a file system notes nothing in it; opened for writing all the same, because its library asks for that.
fn read_only(image: &Path) -> Result<File> {
    OpenOptions::new()
        .read(true)
        .write(true)
        .open(image)
        .with_context(|| format!("{} cannot be opened", image.display()))
}

/// Writes one file into a partition of an image that is there already.
///
/// # Errors
/// When it does not fit, or there is no such file system.
pub fn write_file(image: &Path, place: Place, path: &str, bytes: &[u8]) -> Result<()> {
    let system = FileSystem::new(Window::new(read_only(image)?, place)?, options())?;
    put(&system, path, bytes)?;
    Ok(system.unmount()?)
}

/// Fills a file system of an image that is there already, so that nothing more fits.
///
/// # Errors
/// When there is no such file system.
pub fn fill(image: &Path, place: Place) -> Result<()> {
    let system = FileSystem::new(Window::new(read_only(image)?, place)?, options())?;
    let stats = system.stats()?;
    let bytes = stats.free_clusters() as usize * stats.cluster_size() as usize;
    put(&system, "FULL.BIN", &vec![0xa5; bytes])?;
    Ok(system.unmount()?)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::partitions::RESULTS;

    #[test]
    fn what_is_put_in_is_read_again_and_two_are_the_same() {
        let folder = tempfile::tempdir().unwrap();
        let place = Place { start: 4096, bytes: 40 << 20, ..RESULTS };
        let files: BTreeMap<String, Vec<u8>> =
            [("a/b/some long name.txt", b"x".to_vec()), ("README.TXT", vec![7; 100_000])]
                .map(|(name, bytes)| (name.to_owned(), bytes))
                .into();
        let images = ["one", "two"].map(|name| {
            let image = folder.path().join(name);
            File::create(&image).unwrap().set_len(place.start + place.bytes).unwrap();
            make_fat(&image, place, "REVISUM", &files).unwrap();
            image
        });
        assert_eq!(read_file(&images[0], place, "a/b/some long name.txt").unwrap(), b"x");
        assert_eq!(read_files(&images[0], place, "").unwrap().keys().collect::<Vec<_>>(), ["README.TXT"]);
        assert_eq!(std::fs::read(&images[0]).unwrap(), std::fs::read(&images[1]).unwrap());
        write_file(&images[0], place, "README.TXT", b"new").unwrap();
        assert_eq!(read_file(&images[0], place, "README.TXT").unwrap(), b"new");
    }
}
