//! The wired network of a booted machine: drivers of the cards that are there, and an address. Nothing here listens to anybody.

use std::collections::BTreeSet;
use std::io;
use std::net::Ipv4Addr;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use super::dhcp::{self, Lease};
use super::kernel_modules::load_file;
use crate::sys::interface::Interface;
use crate::text_files::{entries, value};

/// The file with the drivers and the devices that each is for.
const LIST: &str = "network";
const INTERFACES: &str = "/sys/class/net";
/// Ethernet, in the kernel's numbers of hardware (`ARPHRD_ETHER`).
const ETHERNET: &str = "1";
/// A cable and its switch agree within a few seconds.
const CABLE: Duration = Duration::from_secs(12);
/// Where no server answers: addresses that need none (RFC 3927).
const OWN_MASK: Ipv4Addr = Ipv4Addr::new(255, 255, 0, 0);

/// Loads the drivers of the network devices that are there. The files of all others go: they lie in memory that is to be tested.
pub fn load_network(folder: &Path) {
    let list = std::fs::read_to_string(folder.join(LIST)).unwrap_or_default();
    let there = devices();
    for line in wanted(&list, &there) {
        // One that is refused is only missing where the machine would be on the wall.
        line.iter().for_each(|file| drop(load_file(folder, file)));
    }
    drop_network(folder);
}

/// No network is wanted: its drivers give their memory back.
pub fn drop_network(folder: &Path) {
    let list = std::fs::read_to_string(folder.join(LIST)).unwrap_or_default();
    for file in list.lines().filter_map(|line| line.split_once(':')).flat_map(|(files, _)| files.split(' ')) {
        // It may be gone already.
        let _ = std::fs::remove_file(folder.join(file));
    }
    let _ = std::fs::remove_file(folder.join(LIST));
}

/// Files of the drivers for these devices, in loading order. A line is `file file …:bus:vendor:device bus:vendor:device …`.
fn wanted<'a>(list: &'a str, there: &BTreeSet<String>) -> Vec<Vec<&'a str>> {
    let of_line = |line: &'a str| {
        let (files, ids) = line.split_once(':')?;
        ids.split(' ').any(|id| there.contains(id)).then(|| files.split(' ').collect())
    };
    list.lines().filter_map(of_line).collect()
}

/// Devices on PCI, USB and virtual buses: `pci:8086:100e`.
fn devices() -> BTreeSet<String> {
    let hex = |text: String| text.trim().trim_start_matches("0x").to_ascii_lowercase();
    let of = |bus: &'static str, folder: &str, names: (&'static str, &'static str)| {
        let id = move |device: PathBuf| {
            let (vendor, model) = (value(device.join(names.0))?, value(device.join(names.1))?);
            Some(format!("{bus}:{}:{}", hex(vendor), hex(model)))
        };
        entries(folder).into_iter().filter_map(id).collect::<Vec<_>>()
    };
    let pci = of("pci", "/sys/bus/pci/devices", ("vendor", "device"));
    let usb = of("usb", "/sys/bus/usb/devices", ("idVendor", "idProduct"));
    // Whoever made a virtual device, its number says what it is.
    let virt = of("virtio", "/sys/bus/virtio/devices", ("vendor", "device"));
    let virt = virt.into_iter().filter_map(|id| id.rsplit_once(':').map(|(_, device)| format!("virtio:*:{device}")));
    pci.into_iter().chain(usb).chain(virt).collect()
}

/// Gives the first wired interface that has a cable an address, and keeps it. Ends only where there is none.
pub fn keep_address() {
    let Some((name, hardware)) = interface_with_cable() else { return };
    loop {
        let lease = dhcp::ask(&name, hardware);
        let holds = match &lease {
            Ok(lease) => lease.holds,
            Err(_) => Duration::from_secs(60),
        };
        // An address that cannot be put in force is asked for again.
        let _ = put_in_force(&name, &lease.unwrap_or_else(|_| own(hardware)));
        std::thread::sleep((holds / 2).max(Duration::from_secs(30)));
    }
}

fn put_in_force(name: &str, lease: &Lease) -> io::Result<()> {
    let interface = Interface::named(name)?;
    interface.address(lease.address, lease.mask)?;
    // Known already when the address is renewed.
    let _ = lease.router.map(|router| interface.gateway(router));
    Ok(())
}

/// An address of one's own, by the interface's hardware address: two of the same are next to impossible in a shop.
fn own(hardware: [u8; 6]) -> Lease {
    // 169.254.0.x and 169.254.255.x are not for this (RFC 3927, 2.1).
    let (third, fourth) = (hardware[4] % 254 + 1, hardware[5]);
    Lease { address: Ipv4Addr::new(169, 254, third, fourth), mask: OWN_MASK, router: None, holds: Duration::ZERO }
}

fn interface_with_cable() -> Option<(String, [u8; 6])> {
    let all: Vec<PathBuf> = entries(INTERFACES).into_iter().filter(|interface| is_wired(interface)).collect();
    for interface in &all {
        // One that does not go on has no cable either.
        let _ = Interface::named(&name_of(interface)).and_then(|interface| interface.up());
    }
    let begin = Instant::now();
    while begin.elapsed() < CABLE && !all.is_empty() {
        let with_cable = all.iter().find(|interface| value(interface.join("carrier")).as_deref() == Some("1"));
        if let Some(interface) = with_cable {
            return hardware_of(interface).map(|hardware| (name_of(interface), hardware));
        }
        std::thread::sleep(Duration::from_millis(200));
    }
    None
}

fn is_wired(interface: &Path) -> bool {
    let ethernet = value(interface.join("type")).as_deref() == Some(ETHERNET);
    ethernet && interface.join("device").exists() && !interface.join("wireless").exists()
}

fn name_of(interface: &Path) -> String {
    interface.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default()
}

fn hardware_of(interface: &Path) -> Option<[u8; 6]> {
    let text = value(interface.join("address"))?;
    let bytes: Vec<u8> = text.split(':').map(|byte| u8::from_str_radix(byte, 16)).collect::<Result<_, _>>().ok()?;
    bytes.try_into().ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_drivers_of_what_is_there_are_loaded() {
        let list = "mii.ko a.ko:pci:8086:100e pci:8086:100f\nb.ko:usb:0bda:8153\n\nrubbish\nc.ko:pci:10ec:8168\n";
        let there: BTreeSet<String> = ["pci:8086:100e", "usb:0bda:8153"].map(str::to_owned).into();
        assert_eq!(wanted(list, &there), [vec!["mii.ko", "a.ko"], vec!["b.ko"]]);
    }

    #[test]
    fn drivers_that_nobody_wants_take_no_room() {
        let folder = tempfile::tempdir().unwrap();
        for file in ["a.ko", "b.ko", "other.ko"] {
            std::fs::write(folder.path().join(file), "x").unwrap();
        }
        std::fs::write(folder.path().join(LIST), "a.ko b.ko:pci:1:2\n").unwrap();
        drop_network(folder.path());
        let left: Vec<_> =
            entries(folder.path()).into_iter().map(|file| file.file_name().unwrap().to_owned()).collect();
        assert_eq!(left, ["other.ko"]);
    }

    #[test]
    fn an_address_of_ones_own_is_allowed() {
        for hardware in [[2, 0, 0, 0, 0, 0], [2, 0, 0, 0, 255, 255], [2, 0, 0, 0, 254, 1]] {
            let [_, _, third, _] = own(hardware).address.octets();
            assert!((1..=254).contains(&third));
        }
    }
}
