//! The same as an optical disc. Nothing can be written to it: results go to any FAT drive that is plugged in.

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result};

use crate::fat::make_fat;
use crate::loader::{core, work_folder};
use crate::partitions::{BOOT, Place};
use crate::parts::output;
use crate::whole::Made;

/// When everything on it was made, as far as it says: the same bytes each time.
const MADE: &str = "2025010100000000";

/// Makes the disc's image.
///
/// # Errors
/// When xorriso is missing or something cannot be written.
pub fn make_optical(made: &Made, disc: &Path) -> Result<PathBuf> {
    let folder = work_folder()?;
    let tree = folder.join("disc");
    if tree.exists() {
        std::fs::remove_dir_all(&tree)?;
    }
    for (path, bytes) in &made.boot {
        let file = tree.join(path);
        std::fs::create_dir_all(file.parent().context("a file without a folder")?)?;
        std::fs::write(file, bytes)?;
    }
    std::fs::write(tree.join("boot/eltorito.img"), core("i386-pc-eltorito", &folder)?)?;
    // New firmware opens a FAT file system inside of the disc.
    let inner = Place { start: 0, bytes: 80 << 20, ..BOOT };
    let efi = tree.join("boot/efi.img");
    std::fs::File::create(&efi)?.set_len(inner.bytes)?;
    make_fat(&efi, inner, "REVBOOT", &made.boot)?;
    let mut command = Command::new("xorriso");
    command.args(["-as", "mkisofs", "-quiet", "-r", "-V", "REVISUM_BOOT", &format!("--modification-date={MADE}")]);
    command.args(["--set_all_file_dates", MADE, "-b", "boot/eltorito.img", "-no-emul-boot", "-boot-load-size", "4"]);
    command.args([
        "-boot-info-table",
        "--grub2-boot-info",
        "-eltorito-alt-boot",
        "-e",
        "boot/efi.img",
        "-no-emul-boot",
    ]);
    command.arg("-o").arg(disc).arg(&tree).env("SOURCE_DATE_EPOCH", "1735689600");
    output(&mut command).context("the package xorriso makes discs")?;
    Ok(disc.to_owned())
}
