//! How the emulator is called for a computer that boots from a drive.

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result, bail};

use crate::from_drive::{Chipset, Display, FromDrive, Medium, Network, Spoiled, Start};

const OVMF: &str = "/usr/share/OVMF";

/// The emulator with all its arguments. Memory, the drive and the monitor lie in `folder`.
///
/// # Errors
/// When the firmware is missing.
pub(crate) fn command(computer: &FromDrive, folder: &Path, drive: &Path) -> Result<Command> {
    let mut command = Command::new("qemu-system-x86_64");
    if computer.haste > 1 {
        command.env("LD_PRELOAD", hasty_clock(folder)?).env("REVISUM_HASTE", computer.haste.to_string());
    }
    let memory = folder.join("memory");
    let chipset = match (computer.chipset, computer.start) {
        (Chipset::Pc, _) => "pc,memory-backend=ram",
        (Chipset::Q35, Start::SecureBoot | Start::Uefi32) => "q35,smm=on,memory-backend=ram",
        (Chipset::Q35, _) => "q35,memory-backend=ram",
    };
    let size = format!("{}M", computer.memory_mib);
    let cores = computer.cores.to_string();
    command.args(["-machine", chipset, "-m", &size, "-smp", &cores, "-display", "none"]);
    network(&mut command, computer, folder);
    match computer.display {
        Display::Usual => command.args(["-vga", "std"]),
        Display::None => command.args(["-vga", "none"]),
    };
    command
        .args(["-object", &format!("memory-backend-file,id=ram,size={size},mem-path={},share=on", memory.display())]);
    command.args(["-serial", "stdio", "-monitor", &format!("unix:{},server,nowait", folder.join("monitor").display())]);
    let protected = if computer.spoiled == Some(Spoiled::WriteProtected) { "on" } else { "off" };
    let image = format!("if=none,id=image,format=raw,cache=writethrough,readonly={protected},file={}", drive.display());
    match computer.medium {
        Medium::Usb => {
            let stick = "usb-storage,id=stick,drive=image,bus=usb.0,removable=on,bootindex=0";
            command.args(["-drive", &image, "-device", "qemu-xhci,id=usb", "-device", stick]);
        }
        Medium::Disk => {
            command.args(["-drive", &image, "-device", "ide-hd,drive=image,bus=ide.0,bootindex=0"]);
        }
        Medium::Disc => {
            command.args(["-cdrom", &drive.with_extension("iso").display().to_string(), "-boot", "d"]);
            command.args(["-device", "qemu-xhci,id=usb"]);
        }
        Medium::Network => {}
    }
    match computer.start {
        Start::Bios => {}
        Start::Uefi => firmware(&mut command, folder, "OVMF_CODE_4M.fd", "OVMF_VARS_4M.fd")?,
        Start::SecureBoot => {
            command.args(["-global", "driver=cfi.pflash01,property=secure,value=on"]);
            firmware(&mut command, folder, "OVMF_CODE_4M.secboot.fd", "OVMF_VARS_4M.ms.fd")?;
        }
        // Its package has only one that could check, and keys of nobody to check with.
        Start::Uefi32 => {
            command.args(["-global", "driver=cfi.pflash01,property=secure,value=on"]);
            firmware(&mut command, folder, "OVMF32_CODE_4M.secboot.fd", "OVMF32_VARS_4M.fd")?;
        }
    }
    for (at, structure) in computer.structures.iter().enumerate() {
        let path = folder.join(format!("structure-{at}"));
        std::fs::write(&path, structure)?;
        command.args(["-smbios", &format!("file={}", path.display())]);
    }
    Ok(command)
}

/// What the emulator asks for the time instead of the system.
fn hasty_clock(folder: &Path) -> Result<PathBuf> {
    let (source, built) = (concat!(env!("CARGO_MANIFEST_DIR"), "/hasty-clock.c"), folder.join("hasty-clock.so"));
    let arguments = ["-shared", "-fPIC", "-O2", "-Wall", "-Wextra", "-Werror", source, "-ldl", "-o"];
    let status = Command::new("cc").args(arguments).arg(&built).status().context("there is no compiler of C: cc")?;
    if !status.success() {
        bail!("{source} cannot be compiled");
    }
    Ok(built)
}

fn network(command: &mut Command, computer: &FromDrive, folder: &Path) {
    let Some(network) = computer.network else {
        command.args(["-net", "none"]);
        return;
    };
    let mut user = "user,id=net".to_owned();
    if computer.medium == Medium::Network {
        let first = if computer.start == Start::Bios { "revisum.pxe" } else { "shimx64.efi" };
        user.push_str(&format!(",tftp={},bootfile={first}", folder.join("network").display()));
    }
    let card = match network {
        Network::Usual => "e1000",
        Network::Virtual => "virtio-net-pci",
    };
    let boot = if computer.medium == Medium::Network { ",bootindex=0" } else { "" };
    command.args(["-netdev", &user, "-device", &format!("{card},netdev=net{boot}")]);
}

/// The firmware and a copy of its variables, which it writes to.
fn firmware(command: &mut Command, folder: &Path, code: &str, variables: &str) -> Result<()> {
    let own = folder.join("variables.fd");
    if !own.exists() {
        std::fs::copy(Path::new(OVMF).join(variables), &own)
            .context("the packages ovmf and ovmf-ia32 have the firmware")?;
    }
    command.args(["-drive", &format!("if=pflash,format=raw,unit=0,readonly=on,file={OVMF}/{code}")]);
    command.args(["-drive", &format!("if=pflash,format=raw,unit=1,file={}", own.display())]);
    Ok(())
}
