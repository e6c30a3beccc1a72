//! Which modules of the kernel go into the first file system, and in which order they are loaded.

use std::collections::BTreeMap;
use std::path::Path;
use std::process::Command;

use anyhow::{Context, Result, bail};

/// By name, what keys, the drive that was booted from and the look at the modules of memory need: drives over USB and FAT for the results,
/// keyboards, buses to the modules.
const FIRST: [&str; 25] = [
    "atkbd",
    "i8042",
    "xhci-pci",
    "ehci-pci",
    "ohci-pci",
    "uhci-hcd",
    "usb-storage",
    "uas",
    "nls_cp437",
    "nls_ascii",
    "nls_utf8",
    "vfat",
    "scsi_mod",
    "sd_mod",
    "hid",
    "hid-generic",
    "usbhid",
    "i2c-i801",
    "i2c-piix4",
    "i2c-dev",
    "ee1004",
    "i2c-designware-platform",
    "intel-lpss-pci",
    "i2c-hid-acpi",
    "msr",
];

/// What nobody waits for: other disks with the file systems of other systems, for their logs, sensors, error counters, watchdogs.
const LATER: [&str; 24] = [
    "ahci",
    "ata_piix",
    "sr_mod",
    "isofs",
    "nvme",
    "virtio_pci",
    "virtio_blk",
    "sdhci-pci",
    "mmc_block",
    "jc42",
    "coretemp",
    "k10temp",
    "cpuid",
    "amd64_edac",
    "skx_edac",
    "i10nm_edac",
    "ie31200_edac",
    "sb_edac",
    "igen6_edac",
    "iTCO_wdt",
    "sp5100_tco",
    "i6300esb",
    "ext4",
    "ntfs3",
];

/// Modules in two groups, by the names of the groups, each in loading order.
pub(crate) struct Modules {
    /// The first group, and what may come later.
    pub groups: [(&'static str, Vec<String>); 2],
}

/// The modules in loading order: each after those that it needs.
pub(crate) fn in_order(root: &Path, version: &str) -> Result<Modules> {
    let status = Command::new("depmod")
        .arg("-b")
        .arg(root)
        .arg(version)
        .status()
        .context("depmod cannot be started: the package kmod has it")?;
    if !status.success() {
        bail!("depmod could not read the kernel's modules");
    }
    let folder = root.join("lib/modules").join(version);
    let text = std::fs::read_to_string(folder.join("modules.dep")).context("depmod wrote no list")?;
    let needs = needs(&text);
    let first = ordered(&needs, &FIRST);
    let later = ordered(&needs, &LATER).into_iter().filter(|path| !first.contains(path)).collect();
    Ok(Modules { groups: [("first", first), ("later", later)] })
}

/// What each module needs, by path: lines `path: path path …`, the nearest need first.
fn needs(text: &str) -> BTreeMap<&str, Vec<&str>> {
    text.lines()
        .filter_map(|line| {
            let (path, needed) = line.split_once(':')?;
            Some((path, needed.split_whitespace().collect()))
        })
        .collect()
}

fn ordered(needs: &BTreeMap<&str, Vec<&str>>, wanted: &[&str]) -> Vec<String> {
    let name_of = |path: &str| path.rsplit('/').next().unwrap_or(path).trim_end_matches(".ko").replace('_', "-");
    let mut order: Vec<String> = Vec::new();
    for name in wanted {
        let found = needs.keys().find(|path| name_of(path) == name.replace('_', "-"));
        let Some(path) = found else {
            // Some kernels have it built in, or do not have it.
            continue;
        };
        // The farthest need stands last and has to be loaded first.
        let chain = needs[path].iter().rev().chain([path]);
        for one in chain {
            if !order.iter().any(|known| known == one) {
                order.push((*one).to_owned());
            }
        }
    }
    order
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_comes_after_what_it_needs_and_only_once() {
        let text = "kernel/fs/fat/vfat.ko: kernel/fs/fat/fat.ko\nkernel/fs/fat/fat.ko:\nkernel/d/usb_storage.ko: kernel/d/scsi_mod.ko kernel/d/common.ko\n\
                    kernel/d/scsi_mod.ko: kernel/d/common.ko\nkernel/d/common.ko:\n";
        let order = ordered(&needs(text), &["usb-storage", "vfat", "scsi_mod", "none-such"]);
        let expected = [
            "kernel/d/common.ko",
            "kernel/d/scsi_mod.ko",
            "kernel/d/usb_storage.ko",
            "kernel/fs/fat/fat.ko",
            "kernel/fs/fat/vfat.ko",
        ];
        assert_eq!(order, expected);
    }
}
