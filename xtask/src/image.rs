//! The image of the boot drive.

use std::path::{Path, PathBuf};
use std::time::Instant;

use anyhow::Result;
use clap::Args;
use revisum_image::Stage;

use crate::packages::install;

/// Arguments of `image`.
#[derive(Args)]
pub struct ImageArgs {
    /// Where to write it
    #[arg(long, default_value = "target/revisum-boot.img")]
    pub output: PathBuf,
    /// Also as an optical disc, beside it
    #[arg(long)]
    pub disc: bool,
}

/// What the image is made from and with: `(program or file, package)`.
pub const PACKAGES: [(&str, &str); 9] = [
    ("sfdisk", "fdisk"),
    ("depmod", "kmod"),
    ("zstd", "zstd"),
    ("grub-mkimage", "grub-common"),
    ("/usr/lib/grub/i386-pc/boot.img", "grub-pc-bin"),
    ("/usr/lib/grub/i386-efi/linux.mod", "grub-efi-ia32-bin"),
    ("/usr/lib/grub/x86_64-efi-signed/gcdx64.efi.signed", "grub-efi-amd64-signed"),
    ("/usr/lib/shim/shimx64.efi.signed", "shim-signed"),
    ("xorriso", "xorriso"),
];

/// Makes it.
///
/// # Errors
/// When a package cannot be installed or the image cannot be made.
pub fn make(args: &ImageArgs) -> Result<()> {
    install(&PACKAGES)?;
    let begin = Instant::now();
    let made = revisum_image::make(&args.output, &|stage| tell(stage, begin))?;
    println!("{}\nmade from\n{}", size(&made.image)?, made.versions);
    if args.disc {
        let disc = revisum_image::make_optical(&made, &args.output.with_extension("iso"))?;
        println!("{}", size(&disc)?);
    }
    Ok(())
}

/// Says what is done now, and how long all of it has taken.
fn tell(stage: Stage, begin: Instant) {
    let words = match stage {
        Stage::Parts => "kernel and program; building the program takes minutes",
        Stage::Packages => "modules of the kernel, keyboard layouts",
        Stage::Packing => "packing the first files",
        Stage::Filling => "filling the partitions",
        Stage::Sealing => "working out the checksum",
    };
    let at = Stage::ALL.iter().position(|one| *one == stage).unwrap_or(0) + 1;
    println!("{at} of {}: {words} ({:.0} s so far)", Stage::ALL.len(), begin.elapsed().as_secs_f64());
}

fn size(file: &Path) -> Result<String> {
    Ok(format!("{}: {} MiB", file.display(), std::fs::metadata(file)?.len().div_ceil(1 << 20)))
}
