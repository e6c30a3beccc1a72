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

/// Drivers of wired networks, loaded only for what is there, where the machine has a card of a shop.
const NETWORK: [&str; 34] = [
    "virtio_net",
    "e1000",
    "e1000e",
    "igb",
    "igc",
    "ixgbe",
    "i40e",
    "r8169",
    "8139too",
    "8139cp",
    "tg3",
    "bnx2",
    "b44",
    "alx",
    "atl1",
    "atl1c",
    "atl1e",
    "atl2",
    "sky2",
    "skge",
    "forcedeth",
    "via-rhine",
    "via-velocity",
    "sis900",
    "sis190",
    "pcnet32",
    "ne2k-pci",
    "3c59x",
    "e100",
    "jme",
    "atlantic",
    "vmxnet3",
    "r8152",
    "ax88179_178a",
];

/// Drivers of transceivers that a driver asks for without its list of needs saying so.
const HELPERS: [(&str, &str); 2] = [("r8169", "realtek"), ("tg3", "broadcom")];

/// A driver with what it needs, in loading order, and the devices that it is for: `pci:8086:100e`.
pub(crate) struct Driver {
    /// Paths of the modules.
    pub modules: Vec<String>,
    /// Devices.
    pub devices: Vec<String>,
}

/// Modules in two groups, by the names of the groups, each in loading order; and drivers of networks.
pub(crate) struct Modules {
    /// The first group, and what may come later.
    pub groups: [(&'static str, Vec<String>); 2],
    /// Drivers of wired networks.
    pub network: Vec<Driver>,
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
    let aliases = std::fs::read_to_string(folder.join("modules.alias")).context("depmod wrote no list of devices")?;
    let driver = |name: &&str| {
        let helpers = HELPERS.iter().filter(|(driver, _)| driver == name).map(|(_, helper)| *helper);
        let wanted: Vec<&str> = helpers.chain([*name]).collect();
        Driver { modules: ordered(&needs, &wanted), devices: devices(&aliases, name) }
    };
    let network = NETWORK.iter().map(driver).filter(|driver| !driver.modules.is_empty()).collect();
    Ok(Modules { groups: [("first", first), ("later", later)], network })
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

/// The devices that a driver says it is for, from lines such as `alias pci:v00008086d0000100Esv*sd*bc*sc*i* e1000`.
fn devices(aliases: &str, driver: &str) -> Vec<String> {
    let plain = |name: &str| name.replace('_', "-");
    let device = |line: &str| {
        let mut words = line.split_whitespace();
        let (alias, name) = (words.nth(1)?, words.next()?);
        let (bus, rest) = alias.split_once(':').filter(|_| plain(name) == plain(driver))?;
        // USB writes four digits, `v0BDAp8153d…`; the others eight, `v00008086d0000100E…`.
        let (vendor, device) = match bus {
            "usb" => (rest.get(1..5)?, rest.get(6..10)?),
            "pci" => (rest.get(5..9)?, rest.get(14..18)?),
            "virtio" => return Some(format!("virtio:*:{}", rest.get(5..9)?.to_ascii_lowercase())),
            _ => return None,
        };
        let is_number = |text: &str| u16::from_str_radix(text, 16).is_ok();
        (is_number(vendor) && is_number(device)).then(|| format!("{bus}:{vendor}:{device}").to_ascii_lowercase())
    };
    let all: std::collections::BTreeSet<String> = aliases.lines().filter_map(device).collect();
    all.into_iter().collect()
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
    fn devices_of_a_driver_are_read_from_its_aliases() {
        let aliases = "# Aliases\nalias pci:v00008086d0000100Esv*sd*bc*sc*i* e1000\nalias pci:v00008086d0000100Fsv*sd*bc*sc*i* e1000\n\
                       alias pci:v*d*sv*sd*bc02sc00i* e1000\nalias usb:v0BDAp8153d*dc*dsc*dp*icFFiscFFip00in* r8152\nalias virtio:d00000001v* virtio_net\n";
        assert_eq!(devices(aliases, "e1000"), ["pci:8086:100e", "pci:8086:100f"]);
        assert_eq!(devices(aliases, "r8152"), ["usb:0bda:8153"]);
        assert_eq!(devices(aliases, "virtio-net"), ["virtio:*:0001"]);
    }

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
