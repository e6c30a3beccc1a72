//! SPD images: through the kernel's drivers where there are some, else by hand over the bus.

pub(crate) mod bus;
mod by_hand;

use std::path::Path;

use revisum_diagnose::board::SpdImage;

use crate::sys::i2c::Adapter;
use crate::text_files::{entries, value};

/// Drivers that show a module's memory as a file named `eeprom`.
const DRIVERS: [&str; 4] = ["ee1004", "spd5118", "spd", "eeprom"];
/// Longest image.
const MOST_BYTES: usize = 2048;

/// All images that can be read, and why there are not more.
pub(super) fn read(trouble: &mut Vec<String>) -> Vec<SpdImage> {
    let mut images: Vec<SpdImage> =
        entries("/sys/bus/i2c/devices").iter().filter_map(|device| by_driver(device)).collect();
    if !images.is_empty() {
        return images;
    }
    let buses = smbus_numbers();
    if buses.is_empty() {
        trouble.push(
            "The modules' own descriptions (SPD) cannot be read: the system shows no bus to them. What the firmware's tables say \
             of the modules is shown."
                .to_owned(),
        );
    }
    for number in buses {
        match Adapter::open(number) {
            Ok(mut adapter) => images.extend(by_hand::read(&mut adapter, number)),
            Err(error) => trouble.push(format!(
                "The modules' own descriptions (SPD) on bus {number} cannot be read ({error}). As root, with the driver i2c-dev \
                 loaded, they can."
            )),
        }
    }
    if images.is_empty() && trouble.is_empty() {
        trouble.push("No module answers on the bus: the firmware keeps their descriptions (SPD) to itself.".to_owned());
    }
    images
}

fn by_driver(device: &Path) -> Option<SpdImage> {
    let driver = std::fs::read_link(device.join("driver")).ok()?;
    let name = driver.file_name()?.to_str()?;
    // The driver at24 serves other memories too: only the addresses of modules count, and only those with the name of one.
    let place = device.file_name()?.to_str()?.to_owned();
    let (_, address) = place.split_once('-')?;
    let address = u16::from_str_radix(address, 16).ok()?;
    let is_module = (0x50..=0x57).contains(&address)
        && (DRIVERS.contains(&name) || name == "at24" && value(device.join("name"))? == "spd");
    let mut bytes = is_module.then(|| std::fs::read(device.join("eeprom")).ok())??;
    bytes.truncate(MOST_BYTES);
    Some(SpdImage { place, bytes })
}

/// Buses that memory modules sit on, by the kind of adapter. Nothing is ever tried on other buses.
fn smbus_numbers() -> Vec<u32> {
    let is_smbus = |name: &str| name.starts_with("SMBus ");
    let number = |adapter: std::path::PathBuf| {
        value(adapter.join("name")).filter(|name| is_smbus(name))?;
        adapter.file_name()?.to_str()?.strip_prefix("i2c-")?.parse().ok()
    };
    entries("/sys/class/i2c-adapter").into_iter().filter_map(number).collect()
}
