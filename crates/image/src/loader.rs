//! The boot loader: GRUB of Debian's packages, for old firmware, for UEFI of 64 and 32 bits, and with the signed chain of Secure Boot.

use std::collections::BTreeMap;
use std::fs::OpenOptions;
use std::io::{Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result, bail, ensure};

use crate::partitions::{LOADER, SECTOR};
use crate::parts::output;

/// Modules of the loader that its own configuration needs.
const MODULES: [&str; 24] = [
    "part_gpt",
    "part_msdos",
    "fat",
    "iso9660",
    "normal",
    "configfile",
    "search",
    "search_label",
    "search_fs_file",
    "linux",
    "loadenv",
    "test",
    "echo",
    "all_video",
    "gfxterm",
    "cpuid",
    "sleep",
    "serial",
    "terminal",
    "read",
    "true",
    "reboot",
    "halt",
    "ls",
];

/// The menu. Entry a keeps the kernel below 256 MiB and entry b above it; where the firmware locks the kernel down neither may map memory by its
/// address, so the whole of it belongs to the kernel there; USB needs little of the room that it sets aside for devices of 32 bits.
pub(crate) const MENU: &str = r#"set timeout=2
set default=a
insmod all_video
set gfxpayload=1024x768x32,1024x768,auto
if [ "$grub_platform" = "pc" ]; then
  if serial --unit=0 --speed=115200; then
    terminal_input console serial
    terminal_output console serial
  fi
fi
search --no-floppy --set=results --label REVISUM
if [ -z "$results" ]; then
  set found=revisum.no-drive
else
  load_env --file ($results)/next.env next_entry trust_ranges
  if [ -n "$trust_ranges" ]; then set found=revisum.trust-ranges; fi
  if [ -n "$next_entry" ]; then
    set default="$next_entry"
    set next_entry=
    save_env --file ($results)/next.env next_entry
    set chained=revisum.chained
    set timeout=1
  fi
fi
if [ "$lockdown" = "y" ]; then
  if [ "$default" = "a" -o "$default" = "b" ]; then set default=pool; fi
fi
if [ "$grub_cpu" = "i386" -a "$grub_platform" = "pc" ]; then
  if cpuid -l; then true; else
    echo "This computer has a 32-bit processor. Revisum needs a 64-bit one and cannot run here."
    echo "Any key restarts the computer. Take the drive out first."
    read nothing
    reboot
  fi
fi
set common="quiet loglevel=1 panic=30 consoleblank=0 vt.global_cursor_default=0 $found $chained"
menuentry "Revisum: test memory (the usual way)" --id a {
  linux /boot/vmlinuz $common revisum.entry=a nokaslr mem=256M
  initrd /boot/initramfs
}
menuentry "Revisum: test the rest (memory that the usual way leaves to the kernel)" --id b {
  linux /boot/vmlinuz $common revisum.entry=b mem=512M memmap=260864K\$1280K
  initrd /boot/initramfs
}
menuentry "Revisum: kernel locked down (Secure Boot), or where nothing else starts" --id pool {
  linux /boot/vmlinuz $common revisum.entry=pool swiotlb=512
  initrd /boot/initramfs
}
menuentry "Revisum auf Deutsch: Speicher testen" --id de {
  linux /boot/vmlinuz $common revisum.entry=a revisum.language=de nokaslr mem=256M
  initrd /boot/initramfs
}
menuentry "Revisum auf Deutsch, bei gesperrtem Kernel (Secure Boot)" --id de-pool {
  linux /boot/vmlinuz $common revisum.entry=pool revisum.language=de swiotlb=512
  initrd /boot/initramfs
}
if [ "$grub_platform" = "pc" ]; then
menuentry "Revisum with a plain text screen, where nothing or only garbage is seen" --id text {
  set gfxpayload=text
  linux /boot/vmlinuz $common revisum.entry=a nokaslr mem=256M
  initrd /boot/initramfs
}
menuentry "Revisum: say where the shop's counter is" --id counter {
  echo "Address of the counter as its wall shows it, such as 192.0.2.7:7247"
  read counter
  linux /boot/vmlinuz $common revisum.entry=a revisum.counter=$counter nokaslr mem=256M
  initrd /boot/initramfs
}
fi
menuentry "Revisum over a serial line (first port, 115200)" --id serial {
  linux /boot/vmlinuz $common revisum.entry=a revisum.console=ttyS0 nokaslr mem=256M
  initrd /boot/initramfs
}
menuentry "Revisum over a serial line, the rest" --id serial-b {
  linux /boot/vmlinuz $common revisum.entry=b revisum.console=ttyS0 mem=512M memmap=260864K\$1280K
  initrd /boot/initramfs
}
menuentry "Revisum over a serial line, locked down" --id serial-pool {
  linux /boot/vmlinuz $common revisum.entry=pool revisum.console=ttyS0 swiotlb=512
  initrd /boot/initramfs
}
"#;

/// The folder of the boot partition with what only a network needs.
const NETWORK: &str = "network";

/// Looks for the partition with our files, wherever the firmware numbers it.
const FIND: &str =
    "search --no-floppy --set=root --file /.disk/info\nset prefix=($root)/boot/grub\nconfigfile $prefix/grub.cfg\n";

/// A loader of one form, with what it needs inside.
pub(crate) fn core(form: &str, folder: &Path) -> Result<Vec<u8>> {
    let config = folder.join("find.cfg");
    std::fs::write(&config, FIND)?;
    let core = folder.join(format!("core-{form}"));
    let mut command = Command::new("grub-mkimage");
    command.args(["-O", form, "-p", "/boot/grub", "-o"]).arg(&core).arg("-c").arg(&config).args(MODULES);
    if form.starts_with("i386-pc") {
        command.arg("biosdisk");
    }
    output(&mut command)
        .with_context(|| format!("the boot loader for {form} cannot be made: is its package there?"))?;
    Ok(std::fs::read(core)?)
}

/// What a machine without a drive gets first from the network: the loader for old firmware, and Debian's signed one for new firmware. Both read their
/// menu from `grub/grub.cfg` of the server that they came from.
pub(crate) fn network_files(folder: &Path) -> Result<BTreeMap<String, Vec<u8>>> {
    let config = folder.join("network.cfg");
    std::fs::write(&config, "set root=(pxe)\nset prefix=(pxe)/grub\nconfigfile (pxe)/grub/grub.cfg\n")?;
    let core = folder.join("core-network");
    let mut command = Command::new("grub-mkimage");
    command.args(["-O", "i386-pc-pxe", "-p", "(pxe)/grub", "-o"]).arg(&core).arg("-c").arg(&config).args(MODULES);
    output(command.args(["pxe", "tftp"])).context("the network's boot loader cannot be made: is grub-pc-bin there?")?;
    let signed = "/usr/lib/grub/x86_64-efi-signed/grubnetx64.efi.signed";
    let signed = std::fs::read(signed).with_context(|| format!("{signed} is missing: is its package there?"))?;
    let menu = MENU.replace("initrd /boot/initramfs", "initrd /boot/initramfs /boot/settings.img");
    Ok([
        (format!("{NETWORK}/revisum.pxe"), std::fs::read(core)?),
        (format!("{NETWORK}/grubx64.efi"), signed),
        (format!("{NETWORK}/grub.cfg"), menu.into_bytes()),
    ]
    .into())
}

/// Files of the loaders that new firmware looks for.
pub(crate) fn efi_files(folder: &Path) -> Result<BTreeMap<String, Vec<u8>>> {
    let read = |path: &str| std::fs::read(path).with_context(|| format!("{path} is missing: is its package there?"));
    let mut files = BTreeMap::new();
    files.insert("EFI/BOOT/BOOTX64.EFI".to_owned(), read("/usr/lib/shim/shimx64.efi.signed")?);
    files.insert("EFI/BOOT/grubx64.efi".to_owned(), read("/usr/lib/grub/x86_64-efi-signed/gcdx64.efi.signed")?);
    files.insert("EFI/BOOT/mmx64.efi".to_owned(), read("/usr/lib/shim/mmx64.efi.signed")?);
    files.insert("EFI/BOOT/BOOTIA32.EFI".to_owned(), core("i386-efi", folder)?);
    Ok(files)
}

/// Puts the loader for old firmware into the first sector and its own partition, as its installer does: the first sector knows where the second
/// stage begins, and that one where the rest of it is.
pub(crate) fn install_for_bios(image: &Path, folder: &Path) -> Result<()> {
    let mut boot = std::fs::read("/usr/lib/grub/i386-pc/boot.img").context("grub-pc-bin is missing")?;
    let mut core = core("i386-pc", folder)?;
    ensure!(core.len() as u64 <= LOADER.bytes && boot.len() as u64 == SECTOR, "the boot loader does not fit");
    let first = LOADER.start / SECTOR;
    // Where the second stage begins; and no test for floppy drives, which some firmware answers wrongly.
    boot[0x5c..0x64].copy_from_slice(&first.to_le_bytes());
    boot[0x66..0x68].copy_from_slice(&[0x90, 0x90]);
    core.resize(core.len().next_multiple_of(SECTOR as usize), 0);
    let rest = u16::try_from(core.len() as u64 / SECTOR - 1).context("the boot loader is too long")?;
    // The last entry of the list in the second stage's first sector: start, length, and the segment that it is loaded to.
    core[0x1f4..0x1fc].copy_from_slice(&(first + 1).to_le_bytes());
    core[0x1fc..0x1fe].copy_from_slice(&rest.to_le_bytes());
    core[0x1fe..0x200].copy_from_slice(&0x820u16.to_le_bytes());
    let mut file = OpenOptions::new().read(true).write(true).open(image)?;
    file.write_all(&boot[..440])?;
    // Some old firmware boots only from a partition that is marked; others do not mind.
    file.seek(SeekFrom::Start(446))?;
    file.write_all(&[0x80])?;
    file.seek(SeekFrom::Start(LOADER.start))?;
    file.write_all(&core)?;
    Ok(())
}

/// What everything was made from.
pub(crate) fn versions(kernel: &Path) -> Result<String> {
    const PACKAGES: [&str; 7] =
        ["grub-pc-bin", "grub-efi-ia32-bin", "grub-efi-amd64-signed", "shim-signed", "fdisk", "kmod", "zstd"];
    let mut text = String::new();
    for package in PACKAGES {
        let version = output(Command::new("dpkg-query").args(["-W", "-f", "${Version}", package]))
            .with_context(|| format!("the package {package} is missing"))?;
        text.push_str(&format!("{package} {version}\n"));
    }
    let name = std::fs::read_to_string(kernel).unwrap_or_default();
    if name.trim().is_empty() {
        bail!("it is not known which kernel was unpacked: remove target/guest and try again");
    }
    text.push_str(&format!("{}\n", name.trim()));
    Ok(text)
}

/// The folder for what is made on the way.
pub(crate) fn work_folder() -> Result<PathBuf> {
    let folder = crate::parts::workspace().join("target/image");
    std::fs::create_dir_all(&folder)?;
    Ok(folder)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_entry_that_the_program_names_is_in_the_menu() {
        for id in ["a", "b", "pool", "text", "counter", "serial", "serial-b", "serial-pool"] {
            assert_eq!(MENU.matches(&format!("--id {id} {{")).count(), 1, "{id}");
        }
        for command in ["cpuid", "true", "read", "reboot", "serial", "search", "test", "echo"] {
            assert!(!MENU.contains(command) || MODULES.contains(&command), "{command}");
        }
        assert!(MENU.contains("memmap=260864K\\$1280K"), "the loader would else take $1 for a variable");
    }
}
