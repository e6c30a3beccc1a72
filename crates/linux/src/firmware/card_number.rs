//! The number of a network card that is its own, for machines to which their maker gave none. No driver is needed for it, so it is there from the
//! first moment on.

use std::path::Path;

use crate::text_files::{entries, value};

/// Class of network controllers (PCI Code and ID Assignment Specification, 1.3).
const NETWORK: &str = "0x02";
/// Where the capabilities of PCI Express begin, and how large a function's space is.
const EXTENDED: usize = 0x100;
const SPACE: usize = 4096;
/// Device Serial Number (PCI Express Base Specification, 7.9.3).
const SERIAL_NUMBER: u32 = 0x0003;

/// The first card's, in the order of their addresses, as digits of base 16.
pub(super) fn card_number(devices: &Path) -> Option<String> {
    let is_network = |device: &Path| value(device.join("class")).is_some_and(|class| class.starts_with(NETWORK));
    let mut cards = entries(devices).into_iter().filter(|device| is_network(device));
    cards.find_map(|card| serial_number(&space(&card.join("config"))?)).map(|number| format!("{number:016x}"))
}

/// Its configuration space, only where the system knows that it is that of PCI Express: some of the older kind hang when what
/// they do not have is read.
fn space(file: &Path) -> Option<Vec<u8>> {
    (std::fs::metadata(file).ok()?.len() == SPACE as u64).then(|| std::fs::read(file).ok()).flatten()
}

/// Follows the chain of capabilities. A chain that does not end is left where it has been before.
fn serial_number(config: &[u8]) -> Option<u64> {
    let dword = |at: usize| Some(u32::from_le_bytes(config.get(at..at + 4)?.try_into().ok()?));
    let mut at = EXTENDED;
    for _ in 0..(SPACE - EXTENDED) / 4 {
        let header = dword(at)?;
        if header & 0xffff == SERIAL_NUMBER {
            let number = u64::from(dword(at + 8)?) << 32 | u64::from(dword(at + 4)?);
            return (number != 0 && number != u64::MAX).then_some(number);
        }
        at = (header >> 20) as usize & !3;
        if at < EXTENDED {
            return None;
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// A space with capabilities `(where, header, lower, upper)`.
    fn config(capabilities: &[(usize, u32, u32, u32)]) -> Vec<u8> {
        let mut config = vec![0; SPACE];
        for (at, header, lower, upper) in capabilities {
            for (step, dword) in [header, lower, upper].into_iter().enumerate() {
                let place = at + 4 * step;
                if place < SPACE {
                    config[place..place + 4].copy_from_slice(&dword.to_le_bytes());
                }
            }
        }
        config
    }

    #[rstest]
    #[case::first(config(&[(0x100, 0x0001_0003, 0xfe03_0201, 0x0a0b_0cff)]), Some(0x0a0b_0cff_fe03_0201))]
    #[case::behind_another(config(&[(0x100, 0x1401_0001, 7, 7), (0x140, 0x0001_0003, 5, 6)]), Some(0x6_0000_0005))]
    #[case::none(config(&[(0x100, 0x0001_0001, 7, 7)]), None)]
    #[case::not_filled_in(config(&[(0x100, 0x0001_0003, 0, 0)]), None)]
    #[case::a_chain_without_end(config(&[(0x100, 0x1001_0001, 7, 7)]), None)]
    #[case::beyond_the_space(config(&[(0x100, 0xffc1_0001, 7, 7), (0xffc, 0x0001_0003, 0, 0)]), None)]
    #[case::only_what_a_user_may_read(vec![0; 64], None)]
    #[case::not_of_that_bus(vec![0; 256], None)]
    fn the_chain_is_followed(#[case] config: Vec<u8>, #[case] expected: Option<u64>) {
        assert_eq!(serial_number(&config), expected);
    }

    /// A graphics card's number is not asked for.
    #[test]
    fn it_is_a_network_card() {
        let folder = tempfile::tempdir().unwrap();
        for (name, class, number) in [("0000:01:00.0", "0x030000", 1), ("0000:02:00.0", "0x020000", 2)] {
            let device = folder.path().join(name);
            std::fs::create_dir(&device).unwrap();
            std::fs::write(device.join("class"), class).unwrap();
            std::fs::write(device.join("config"), config(&[(0x100, 0x0001_0003, number, 0)])).unwrap();
        }
        assert_eq!(card_number(folder.path()).as_deref(), Some("0000000000000002"));
    }
}
