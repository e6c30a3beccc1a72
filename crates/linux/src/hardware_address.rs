//! What tells one machine from another on a network: the address of its first wired interface.

use crate::text_files::{entries, value};

/// The address, such as `02:00:00:00:00:07`; empty where there is no such interface.
pub fn hardware_address() -> String {
    let mut interfaces = entries("/sys/class/net");
    interfaces.sort();
    let wired = interfaces.into_iter().filter(|interface| interface.join("device").exists());
    let address = |interface: std::path::PathBuf| value(interface.join("address"));
    wired.filter_map(address).find(|address| !address.starts_with("00:00:00")).unwrap_or_default()
}
