//! What a technician downloads: the image, the disc and the program, with checksums and, where there is a key, a signature. Nothing has to be built
//! where they are used.

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result, ensure};
use clap::Args;
use sha2::{Digest as _, Sha256};

use crate::image::{self, ImageArgs};
use crate::packages::install;

/// Arguments of `pack`.
#[derive(Args)]
pub struct PackArgs {
    /// Where to put everything
    #[arg(long, default_value = "target/pack")]
    pub into: PathBuf,
    /// Private key of OpenSSH that the checksums are signed with
    #[arg(long)]
    pub key: Option<PathBuf>,
}

/// Whom the signature is for: a signature for something else does not count.
const PURPOSE: &str = "revisum";
const SUMS: &str = "SHA256SUMS";
const SIGNATURE: &str = "SHA256SUMS.sig";
const IMAGE: &str = "revisum-boot.img";
/// In the order of the alphabet, as the list of checksums has them.
const FILES: [&str; 3] = ["revisum", "revisum-boot.img.zst", "revisum-boot.iso.zst"];

/// Makes and packs everything.
///
/// # Errors
/// When something cannot be built, packed or signed.
pub fn pack(args: &PackArgs) -> Result<()> {
    // Before half an hour of building.
    if let Some(key) = &args.key {
        std::fs::File::open(key).with_context(|| format!("the key {} cannot be read", key.display()))?;
        install(&[("ssh-keygen", "openssh-client")])?;
    }
    std::fs::create_dir_all(&args.into).with_context(|| format!("{} cannot be made", args.into.display()))?;
    // One of earlier sums would be left where nothing is signed, and be asked about where something is.
    match std::fs::remove_file(args.into.join(SIGNATURE)) {
        Err(error) if error.kind() != std::io::ErrorKind::NotFound => {
            return Err(error).context("the signature of before cannot be removed");
        }
        _ => {}
    }
    let image = args.into.join(IMAGE);
    image::make(&ImageArgs { output: image.clone(), disc: true })?;
    for file in [&image, &image.with_extension("iso")] {
        packed(file)?;
        std::fs::remove_file(file)?;
    }
    let program = revisum_image::Program::for_download()?;
    std::fs::copy(&program, args.into.join("revisum"))?;
    let sum = |name: &&str| Ok(format!("{}  {name}\n", sha256(&args.into.join(name))?));
    let sums: String = FILES.iter().map(sum).collect::<Result<_>>()?;
    std::fs::write(args.into.join(SUMS), &sums)?;
    print!("{sums}");
    match &args.key {
        Some(key) => sign(&args.into.join(SUMS), key),
        None => {
            println!("not signed: --key names a key of OpenSSH");
            Ok(())
        }
    }
}

/// One thread and no time in it: the same content packs to the same bytes.
fn packed(file: &Path) -> Result<()> {
    let mut command = Command::new("zstd");
    let status = command.args(["-19", "--single-thread", "--no-progress", "-q", "-f"]).arg(file).status();
    ensure!(status.context("zstd cannot be started")?.success(), "{} cannot be packed", file.display());
    Ok(())
}

fn sha256(file: &Path) -> Result<String> {
    let bytes = std::fs::read(file).with_context(|| format!("{} cannot be read", file.display()))?;
    Ok(Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect())
}

fn sign(sums: &Path, key: &Path) -> Result<()> {
    let mut command = Command::new("ssh-keygen");
    command.args(["-Y", "sign", "-n", PURPOSE, "-f"]).arg(key).arg(sums);
    ensure!(command.status().context("ssh-keygen cannot be started")?.success(), "the checksums are not signed");
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_key_that_is_not_there_is_missed_before_anything_is_made() {
        let folder = tempfile::tempdir().unwrap();
        let (into, key) = (folder.path().join("pack"), folder.path().join("key"));
        let error = pack(&PackArgs { into: into.clone(), key: Some(key.clone()) }).unwrap_err();
        assert!(error.to_string().contains(&key.display().to_string()), "{error}");
        assert!(!into.exists());
    }
}
