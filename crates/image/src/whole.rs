//! The whole image.

use std::collections::BTreeMap;
use std::fs::File;
use std::os::unix::fs::FileExt;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use revisum_drive::{DriveSettings, SETTINGS_FILE, SETTINGS_MARK};
use revisum_seal::{SEAL_AT, Seal};

use crate::fat::make_fat;
use crate::first_files::archive;
use crate::kernel_modules::in_order;
use crate::keyboards::{self, layouts};
use crate::loader::{MENU, efi_files, install_for_bios, network_files, versions, work_folder};
use crate::partitions::{BOOT, RESULTS, SECTOR, WHOLE, write_table};
use crate::parts::{Parts, workspace};

/// The guide that lies beside the results.
const GUIDE: &str = include_str!("guide.txt");
/// What the boot loader reads to know what to boot next: nothing yet. It writes into it, so it has to lie there already.
const NEXT: &str = "# GRUB Environment Block\n";
const NEXT_BYTES: usize = 1024;

/// What was made.
#[derive(Clone, Debug)]
pub struct Made {
    /// The image.
    pub image: PathBuf,
    /// Files of the boot partition, for the optical disc.
    pub(crate) boot: BTreeMap<String, Vec<u8>>,
    /// Packages and versions that it was made from.
    pub versions: String,
}

/// Where the file with the drive's settings lies: at the beginning of a sector of the partition for results.
fn place_of_settings(image: &File) -> Result<u64> {
    let mut sector = [0; SECTOR as usize];
    for at in (RESULTS.start..RESULTS.start + RESULTS.bytes).step_by(SECTOR as usize) {
        image.read_exact_at(&mut sector, at)?;
        if sector.starts_with(SETTINGS_MARK.as_bytes()) {
            return Ok(at);
        }
    }
    bail!("the drive's settings are not in the image")
}

/// Writes into the image how long it is, its checksum, and where the drive's settings lie.
fn seal(image: &Path) -> Result<()> {
    let file = File::options().read(true).write(true).open(image)?;
    let read = &mut |bytes: &mut [u8], at: u64| file.read_exact_at(bytes, at);
    let seal = Seal::of(file.metadata()?.len(), read, &mut |_| true)?.context("nobody gave up")?;
    file.write_all_at(&seal.sector(Some(place_of_settings(&file)?)), SEAL_AT)?;
    Ok(())
}

/// What is done on the way, in its order.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stage {
    /// Kernel and program.
    Parts,
    /// Modules of the kernel and keyboard layouts.
    Packages,
    /// The first files are packed.
    Packing,
    /// Partitions are filled.
    Filling,
    /// The checksum is worked out.
    Sealing,
}

impl Stage {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Parts, Self::Packages, Self::Packing, Self::Filling, Self::Sealing];
}

/// Makes the image at this place; `tell` hears what is begun.
///
/// # Errors
/// When a package is missing or something cannot be written.
pub fn make(image: &Path, tell: &dyn Fn(Stage)) -> Result<Made> {
    tell(Stage::Parts);
    let parts = Parts::get()?;
    tell(Stage::Packages);
    let folder = work_folder()?;
    let (root, version) = parts.unpacked();
    let modules = in_order(&root, &version)?;
    let layouts = layouts()?;
    let program = parts.program.stripped(&folder)?;
    let versions = versions(&workspace().join("target/guest/kernel-package"))? + &keyboards::versions()?;
    let mut boot = efi_files(&folder)?;
    boot.extend(network_files(&folder)?);
    boot.insert("boot/vmlinuz".into(), std::fs::read(&parts.kernel)?);
    tell(Stage::Packing);
    boot.insert("boot/initramfs".into(), archive(parts, &program, &modules, &layouts)?);
    boot.insert("boot/grub/grub.cfg".into(), MENU.into());
    boot.insert("boot/versions.txt".into(), versions.clone().into_bytes());
    boot.insert(".disk/info".into(), b"Revisum boot drive\n".to_vec());
    let mut next = NEXT.as_bytes().to_vec();
    next.resize(NEXT_BYTES, b'#');
    let results: BTreeMap<String, Vec<u8>> = [
        ("README.TXT".to_owned(), GUIDE.replace('\n', "\r\n").into_bytes()),
        ("next.env".to_owned(), next),
        (SETTINGS_FILE.to_owned(), DriveSettings::default().file()?),
    ]
    .into();
    tell(Stage::Filling);
    let part = image.with_extension("part");
    File::create(&part)
        .and_then(|file| file.set_len(WHOLE))
        .with_context(|| format!("{} cannot be written", part.display()))?;
    write_table(&part)?;
    make_fat(&part, BOOT, "REVBOOT", &boot)?;
    make_fat(&part, RESULTS, "REVISUM", &results)?;
    install_for_bios(&part, &folder)?;
    tell(Stage::Sealing);
    seal(&part)?;
    std::fs::rename(&part, image)?;
    Ok(Made { image: image.to_owned(), boot, versions })
}
