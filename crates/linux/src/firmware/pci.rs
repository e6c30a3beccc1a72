//! Memory controller and chipset by their PCI identifiers.

use std::path::Path;

use pci_ids::{Device, Vendors};
use revisum_diagnose::board::SystemFact;

use super::processor::fact;
use crate::text_files::{entries, value};

const DEVICES: &str = "/sys/bus/pci/devices";

/// The host bridge that the memory controller is reached by, and the bridge of the chipset.
pub(super) fn facts() -> Vec<SystemFact> {
    let wanted = [(0x0600, "memory controller"), (0x0601, "chipset")];
    let devices = entries(DEVICES);
    let first = |(class, name): (u32, &str)| {
        let device = devices.iter().find(|device| number(device, "class").is_some_and(|code| code >> 8 == class))?;
        fact(name, DEVICES, words(number(device, "vendor")? as u16, number(device, "device")? as u16))
    };
    wanted.into_iter().filter_map(first).collect()
}

fn number(device: &Path, name: &str) -> Option<u32> {
    u32::from_str_radix(value(device.join(name))?.trim_start_matches("0x"), 16).ok()
}

/// In words where the identifiers are known, and always as numbers.
fn words(vendor: u16, device: u16) -> String {
    let names = match (Device::from_vid_pid(vendor, device), Vendors::iter().find(|known| known.id() == vendor)) {
        (Some(known), _) => format!("{} {} ", known.vendor().name(), known.name()),
        (None, Some(known)) => format!("{} ", known.name()),
        (None, None) => String::new(),
    };
    format!("{names}[{vendor:04x}:{device:04x}]")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn identifiers_that_nobody_knows_stay_numbers() {
        assert_eq!(words(0xfff1, 0x1234), "[fff1:1234]");
        assert!(words(0x8086, 0x1237).ends_with(" [8086:1237]"));
    }
}
