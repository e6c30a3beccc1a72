//! Raw facts as a folder of files: what somebody else needs to look at a machine.
//!
//! | file | holds |
//! |---|---|
//! | `DMI`, `smbios_entry_point` | the SMBIOS tables, as the kernel shows them |
//! | `memmap` | lines `first-last kind`, addresses in hexadecimal |
//! | `spd/BUS-ADDRESS` | one SPD image each |
//! | `kernel-log`, `crash-log` | lines about memory errors |
//! | `registers` | the memory controller's registers, one a line: where and its value, both hexadecimal; the last line is their CRC-32C |
//! | `boot-errors` | the region of the firmware's boot error record |
//! | `system.json` | processor, microcode, controller, and what could not be read |

use crate::files;
use std::io;
use std::path::{Path, PathBuf};

use revisum_diagnose::board::SmbiosTables;
use revisum_diagnose::board::{MemoryMap, RawFirmware, SpdImage, SystemFact, Told};
use revisum_diagnose::controller::{Registers, RegistersError};
use revisum_engine::text::cleaned;
use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::text_files::entries;

/// Bytes read of any one file.
const MOST_BYTES: u64 = 4 << 20;
/// SPD images read.
const MOST_IMAGES: usize = 64;
/// Facts and sentences read of `system.json`, and the longest one.
const MOST_FACTS: usize = 256;
const LONGEST: usize = 200;

/// Why a folder is of no use.
#[derive(Debug, Error)]
pub enum FolderError {
    /// Nothing in it is known.
    #[error(
        "{0} holds none of the files of saved firmware facts (DMI, memmap, spd/…). `revisum board --save DIR` writes such a folder"
    )]
    NothingThere(PathBuf),
    /// A file could not be read or written.
    #[error("{path} cannot be {what}: {source}")]
    Failed {
        /// The file.
        path: PathBuf,
        /// `read` or `written`.
        what: &'static str,
        /// Why.
        source: io::Error,
    },
    /// A file is larger than any such file.
    #[error("{0} is larger than {MOST_BYTES} bytes: it is not what its name says")]
    TooLarge(PathBuf),
    /// The registers are not understood.
    #[error("{path} is not understood: {source}. Without this file the rest can be read")]
    Registers {
        /// The file.
        path: PathBuf,
        /// Where and why.
        source: RegistersError,
    },
    /// `system.json` is not understood.
    #[error("{path} is not understood: {source}")]
    Form {
        /// The file.
        path: PathBuf,
        /// Where and why.
        source: serde_json::Error,
    },
}

/// What `system.json` holds.
#[derive(Serialize, Deserialize, Default)]
#[serde(default)]
struct System {
    facts: Vec<SystemFact>,
    encrypted: Option<bool>,
    guest: bool,
    trouble: Vec<String>,
    map_source: String,
}

/// Writes all raw facts into a folder, which is made where there is none.
///
/// # Errors
/// When a file cannot be written.
pub fn save_folder(folder: &Path, raw: &RawFirmware) -> Result<(), FolderError> {
    let failed = |path: &Path| {
        let path = path.to_owned();
        move |source| FolderError::Failed { path, what: "written", source }
    };
    let write = |name: &str, bytes: &[u8]| {
        let path = folder.join(name);
        if bytes.is_empty() { Ok(()) } else { files::write(&path, bytes).map_err(failed(&path)) }
    };
    let images = folder.join("spd");
    files::make_folder(&images).map_err(failed(&images))?;
    if let Some(tables) = &raw.smbios {
        write("DMI", &tables.bytes)?;
        write("smbios_entry_point", &tables.entry)?;
    }
    write("memmap", raw.map.text().as_bytes())?;
    for image in &raw.spd {
        write(&format!("spd/{}", image.place), &image.bytes)?;
    }
    let lines = |lines: &[String]| lines.iter().map(|line| format!("{line}\n")).collect::<String>();
    write("kernel-log", lines(&raw.kernel_log).as_bytes())?;
    write("crash-log", lines(&raw.crash_log).as_bytes())?;
    write("boot-errors", &raw.boot_errors)?;
    write("registers", raw.registers.text().as_bytes())?;
    let system = System {
        facts: raw.system.clone(),
        encrypted: raw.encrypted,
        guest: raw.guest,
        trouble: raw.trouble.clone(),
        map_source: raw.map.source.clone(),
    };
    let path = folder.join("system.json");
    let text = serde_json::to_vec_pretty(&system).map_err(|source| FolderError::Form { path, source })?;
    write("system.json", &text)
}

/// Reads such a folder; files that are not there leave their facts unknown.
///
/// # Errors
/// When there is nothing, or a file cannot be read or understood.
pub fn read_folder(folder: &Path) -> Result<RawFirmware, FolderError> {
    let file = |name: &str| read_file(&folder.join(name));
    let text =
        |name: &str| Ok(file(name)?.map(|bytes| String::from_utf8_lossy(&bytes).into_owned()).unwrap_or_default());
    let lines = |name: &str| Ok(text(name)?.lines().map(|line| cleaned(line, 2 * LONGEST)).collect::<Vec<_>>());
    let mut trouble = Vec::new();
    let smbios = match (file("DMI")?, file("smbios_entry_point")?) {
        (Some(bytes), Some(entry)) => SmbiosTables::new(entry, bytes.clone()).or_else(|| {
            trouble.push("smbios_entry_point is none: the tables are read as version 3.0.".to_owned());
            Some(SmbiosTables::of_version((3, 0), bytes))
        }),
        (Some(bytes), None) => {
            trouble.push("smbios_entry_point is missing: the tables are read as version 3.0.".to_owned());
            Some(SmbiosTables::of_version((3, 0), bytes))
        }
        (None, _) => None,
    };
    let system: System = match file("system.json")? {
        Some(bytes) => serde_json::from_slice(&bytes)
            .map_err(|source| FolderError::Form { path: folder.join("system.json"), source })?,
        None => System::default(),
    };
    trouble.extend(system.trouble.iter().take(MOST_FACTS).map(|line| cleaned(line, LONGEST)));
    let registers = Registers::parse(&text("registers")?)
        .map_err(|source| FolderError::Registers { path: folder.join("registers"), source })?;
    let source = if system.map_source.is_empty() { "memmap" } else { &system.map_source };
    let raw = RawFirmware {
        smbios,
        spd: images(&folder.join("spd"))?,
        map: MemoryMap::parse(&text("memmap")?, &cleaned(source, LONGEST)),
        kernel_log: lines("kernel-log")?,
        crash_log: lines("crash-log")?,
        boot_errors: file("boot-errors")?.unwrap_or_default(),
        registers,
        system: system.facts.iter().take(MOST_FACTS).map(clean_fact).collect(),
        encrypted: system.encrypted,
        guest: system.guest,
        trouble,
    };
    if raw == (RawFirmware { trouble: raw.trouble.clone(), ..RawFirmware::default() }) {
        return Err(FolderError::NothingThere(folder.to_owned()));
    }
    Ok(raw)
}

fn clean_fact(fact: &SystemFact) -> SystemFact {
    let clean = |text: &str| cleaned(text, LONGEST);
    let told = Told { source: clean(&fact.told.source), value: clean(&fact.told.value) };
    SystemFact { name: clean(&fact.name), told }
}

fn images(folder: &Path) -> Result<Vec<SpdImage>, FolderError> {
    let mut images = Vec::new();
    for path in entries(folder).into_iter().take(MOST_IMAGES) {
        let place = path.file_name().map(|name| cleaned(&name.to_string_lossy(), 40)).unwrap_or_default();
        images.extend(read_file(&path)?.map(|bytes| SpdImage { place, bytes }));
    }
    Ok(images)
}

/// The bytes of a file; nothing when there is none.
fn read_file(path: &Path) -> Result<Option<Vec<u8>>, FolderError> {
    let failed = |source| FolderError::Failed { path: path.to_owned(), what: "read", source };
    match files::read(path, MOST_BYTES) {
        Ok(bytes) => Ok(Some(bytes)),
        Err(error) if matches!(error.kind(), io::ErrorKind::NotFound | io::ErrorKind::NotADirectory) => Ok(None),
        Err(_) if std::fs::metadata(path).is_ok_and(|meta| meta.len() > MOST_BYTES) => {
            Err(FolderError::TooLarge(path.to_owned()))
        }
        Err(error) => Err(failed(error)),
    }
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::controller::Place;

    use super::*;

    #[test]
    fn what_is_saved_reads_the_same() {
        let mut registers = Registers::default();
        registers.insert(Place::Mapped { offset: 0x5000 }, 0x24);
        let told = Told { source: "/proc/cpuinfo".into(), value: "0x2b".into() };
        let raw = RawFirmware {
            smbios: Some(SmbiosTables::of_version((3, 2), vec![127, 4, 0, 0, 0, 0])),
            spd: vec![SpdImage { place: "0-0050".into(), bytes: vec![0x23; 512] }],
            map: MemoryMap::parse("0-9fbff System RAM\n9fc00-9ffff Reserved", "/sys/firmware/memmap"),
            kernel_log: vec!["EDAC MC0: 1 CE x".into()],
            crash_log: vec!["Memory failure: 0x10: recovery action".into()],
            boot_errors: vec![1, 2, 3],
            registers,
            system: vec![SystemFact { name: "microcode".into(), told }],
            encrypted: Some(false),
            guest: true,
            trouble: vec!["A sentence.".into()],
        };
        let folder = tempfile::tempdir().unwrap();
        save_folder(folder.path(), &raw).unwrap();
        assert_eq!(read_folder(folder.path()).unwrap(), raw);
    }

    #[test]
    fn a_folder_of_something_else_is_refused_with_what_to_do() {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("notes.txt"), "hello").unwrap();
        let error = read_folder(folder.path()).unwrap_err().to_string();
        assert!(error.contains("--save DIR"), "{error}");
        std::fs::write(folder.path().join("system.json"), "{ not json").unwrap();
        let error = read_folder(folder.path()).unwrap_err().to_string();
        assert!(error.contains("system.json is not understood"), "{error}");
    }

    #[test]
    fn a_file_without_end_is_refused() {
        let folder = tempfile::tempdir().unwrap();
        let huge = std::fs::File::create(folder.path().join("DMI")).unwrap();
        huge.set_len(MOST_BYTES + 1).unwrap();
        assert!(matches!(read_folder(folder.path()), Err(FolderError::TooLarge(_))));
    }

    #[test]
    fn tables_without_an_entry_point_are_read_and_that_is_said() {
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("DMI"), [127, 4, 0, 0, 0, 0]).unwrap();
        let raw = read_folder(folder.path()).unwrap();
        assert!(raw.smbios.is_some() && raw.trouble[0].contains("version 3.0"));
    }
}
