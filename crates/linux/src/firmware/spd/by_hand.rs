//! Reading SPD over the bus by hand. Only page selections are ever written, and only where the answers say of which kind the
//! memory is: on older kinds the same address means write protection that can never be undone.

use revisum_diagnose::board::SpdImage;

use super::bus::{PageSelect, SpdBus};

/// Addresses that modules answer at.
const ADDRESSES: std::ops::RangeInclusive<u8> = 0x50..=0x57;
/// The byte that says of which kind the memory is.
const KIND: u8 = 2;
const DDR4: u8 = 0x0c;
const DDR3: u8 = 0x0b;
/// What the hub of a DDR5 module answers to its first two registers (JESD300-5, device type).
const HUB: [u8; 2] = [0x51, 0x18];
/// Reads of the hub's memory have this bit set; below are its registers.
const HUB_MEMORY: u8 = 0x80;

/// Images of all modules that answer; what a module does not give is left out at its end.
pub(super) fn read(bus: &mut dyn SpdBus, number: u32) -> Vec<SpdImage> {
    let answering: Vec<u8> = ADDRESSES.filter(|address| bus.read(*address, 0).is_ok()).collect();
    let image = |address: u8, bytes: Vec<u8>| SpdImage { place: format!("{number}-00{address:02x}"), bytes };
    let hubs: Vec<u8> = answering.iter().copied().filter(|address| is_hub(bus, *address)).collect();
    if !hubs.is_empty() {
        return hubs.into_iter().map(|address| image(address, ddr5(bus, address))).collect();
    }
    let kinds: Vec<Option<u8>> = answering.iter().map(|address| bus.read(*address, KIND).ok()).collect();
    // The page address is the same for all modules: every one of them has to be of the kind that has pages.
    let all_have_pages = !kinds.is_empty() && kinds.iter().all(|kind| *kind == Some(DDR4));
    if all_have_pages {
        return answering.into_iter().map(|address| image(address, ddr4(bus, address))).collect();
    }
    let known = answering.into_iter().zip(kinds).filter(|(_, kind)| matches!(kind, Some(DDR3 | DDR4)));
    known.map(|(address, _)| image(address, bytes(bus, address, 0..=255))).collect()
}

fn is_hub(bus: &mut dyn SpdBus, address: u8) -> bool {
    let mut register = |command| bus.read(address, command).ok();
    [register(0), register(1)] == HUB.map(Some)
}

/// Bytes until one cannot be read.
fn bytes(bus: &mut dyn SpdBus, address: u8, commands: std::ops::RangeInclusive<u8>) -> Vec<u8> {
    commands.map_while(|command| bus.read(address, command).ok()).collect()
}

fn ddr4(bus: &mut dyn SpdBus, address: u8) -> Vec<u8> {
    let mut image = Vec::new();
    for page in 0..2 {
        if image.len() != usize::from(page) * 256 || bus.select(PageSelect::Ddr4(page)).is_err() {
            break;
        }
        image.extend(bytes(bus, address, 0..=255));
    }
    // Whoever reads next expects the first page.
    let _ = bus.select(PageSelect::Ddr4(0));
    image
}

fn ddr5(bus: &mut dyn SpdBus, address: u8) -> Vec<u8> {
    let mut image = Vec::new();
    for page in 0..8 {
        if image.len() != usize::from(page) * 128 || bus.select(PageSelect::Ddr5 { address, page }).is_err() {
            break;
        }
        image.extend(bytes(bus, address, HUB_MEMORY..=0xff));
    }
    let _ = bus.select(PageSelect::Ddr5 { address, page: 0 });
    image
}

#[cfg(test)]
mod tests {
    use std::io;

    use rstest::rstest;

    use super::*;

    /// Modules by address; a page for all DDR4 modules, one for each hub.
    #[derive(Default)]
    struct Bus {
        modules: Vec<(u8, Vec<u8>)>,
        hubs: bool,
        page: u8,
        selected: Vec<PageSelect>,
    }

    impl SpdBus for Bus {
        fn read(&mut self, address: u8, command: u8) -> io::Result<u8> {
            let absent = || io::Error::from(io::ErrorKind::NotConnected);
            let (_, image) = self.modules.iter().find(|(at, _)| *at == address).ok_or_else(absent)?;
            if self.hubs && command < HUB_MEMORY {
                return Ok(*HUB.get(usize::from(command)).unwrap_or(&0));
            }
            let at = match self.hubs {
                true => usize::from(self.page) * 128 + usize::from(command & 0x7f),
                false => usize::from(self.page) * 256 + usize::from(command),
            };
            image.get(at).copied().ok_or_else(absent)
        }

        fn select(&mut self, page: PageSelect) -> io::Result<()> {
            self.selected.push(page);
            self.page = match page {
                PageSelect::Ddr4(page) | PageSelect::Ddr5 { page, .. } => page,
            };
            Ok(())
        }
    }

    fn image(kind: u8, length: usize) -> Vec<u8> {
        let mut image: Vec<u8> = (0..length).map(|at| (at % 251) as u8).collect();
        image[2] = kind;
        image
    }

    #[rstest]
    #[case::ddr3(vec![(0x50, image(DDR3, 256))], false, 0)]
    #[case::ddr4(vec![(0x50, image(DDR4, 512)), (0x52, image(DDR4, 512))], false, 6)]
    #[case::ddr5(vec![(0x51, image(0x12, 1024))], true, 9)]
    #[case::nothing(vec![], false, 0)]
    fn whole_images_come_back(#[case] modules: Vec<(u8, Vec<u8>)>, #[case] hubs: bool, #[case] selections: usize) {
        let mut bus = Bus { modules: modules.clone(), hubs, ..Bus::default() };
        let images = read(&mut bus, 3);
        let expected: Vec<SpdImage> = modules
            .into_iter()
            .map(|(address, bytes)| SpdImage { place: format!("3-00{address:02x}"), bytes })
            .collect();
        assert_eq!(images, expected);
        assert_eq!((bus.selected.len(), bus.page), (selections, 0));
    }

    /// A page selection on a bus with one DDR3 module could protect it from writing for ever.
    #[test]
    fn nothing_is_selected_beside_an_older_module() {
        let modules = vec![(0x50, image(DDR4, 512)), (0x51, image(DDR3, 256)), (0x53, image(0x08, 256))];
        let mut bus = Bus { modules, ..Bus::default() };
        let places: Vec<String> = read(&mut bus, 0).into_iter().map(|image| image.place).collect();
        assert_eq!(places, ["0-0050", "0-0051"]);
        assert_eq!(bus.selected, []);
    }
}
