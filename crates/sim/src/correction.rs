//! What happens to a word between the cells and the processor: scrambling, and correction by check bits or on the die.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use revisum_diagnose::address::AddressMap;
use revisum_engine::host::EccCount;
use revisum_engine::memory::Layout;
use revisum_engine::pattern::mix;

/// What the error-correcting hardware counted, by slot.
#[derive(Debug, Default)]
pub(crate) struct EccCounters {
    by_slot: Mutex<BTreeMap<String, (u64, u64)>>,
}

impl EccCounters {
    fn count(&self, slot: &str, corrected: u64, uncorrected: u64) {
        let mut by_slot = self.by_slot.lock().unwrap_or_else(PoisonError::into_inner);
        let counts = by_slot.entry(slot.to_owned()).or_default();
        counts.0 += corrected;
        counts.1 += uncorrected;
    }

    /// The counts of these slots, zeros included.
    pub fn read<'a>(&self, slots: impl Iterator<Item = &'a str>) -> Vec<EccCount> {
        let by_slot = self.by_slot.lock().unwrap_or_else(PoisonError::into_inner);
        let count = |slot: &str| {
            let (corrected, uncorrected) = by_slot.get(slot).copied().unwrap_or_default();
            EccCount { label: slot.to_owned(), corrected, uncorrected }
        };
        slots.map(count).collect()
    }
}

/// How words are stored and corrected on this machine.
#[derive(Clone, Debug, Default)]
pub(crate) struct Correction {
    /// Where addresses lie, for what depends on address or slot.
    pub place: Option<(Layout, AddressMap)>,
    /// Counters of a machine with check bits.
    pub ecc: Option<Arc<EccCounters>>,
    /// Data is scrambled.
    pub scrambled: bool,
    /// Slots whose modules correct single bits themselves, with the width of their packages.
    pub on_die: BTreeMap<String, u8>,
}

impl Correction {
    /// What the cells hold for a word, and the other way round.
    pub fn store(&self, offset: u64, word: u64) -> u64 {
        if !self.scrambled {
            return word;
        }
        let address = self.place.as_ref().and_then(|(layout, _)| layout.address_of(offset));
        // The key is as arbitrary as one that a controller draws when it starts.
        word ^ mix(address.map_or(offset, |address| address.0) ^ 0x5c4a_3b1e_90d7_f286)
    }

    /// What the processor gets for what the cells returned, when `written` was written.
    pub fn returned(&self, offset: u64, cells: u64, written: u64) -> u64 {
        let word = self.store(offset, cells);
        let wrong = word ^ written;
        if wrong == 0 || (self.ecc.is_none() && self.on_die.is_empty()) {
            return word;
        }
        let slot = self.slot(offset);
        let wrong = self.on_die.get(&slot).map_or(wrong, |width| without_single_bits(wrong, *width));
        let Some(ecc) = &self.ecc else { return written ^ wrong };
        match wrong.count_ones() {
            0 => {}
            1 => {
                ecc.count(&slot, 1, 0);
                return written;
            }
            _ => ecc.count(&slot, 0, 1),
        }
        written ^ wrong
    }

    fn slot(&self, offset: u64) -> String {
        let placed = self.place.as_ref().and_then(|(layout, map)| map.locate(layout.address_of(offset)?));
        placed.map(|placed| placed.slot).unwrap_or_default()
    }
}

/// Wrong bits that are left when each package corrects one.
fn without_single_bits(wrong: u64, width: u8) -> u64 {
    let package = |index: u32| (u64::MAX >> (64 - u32::from(width))) << (index * u32::from(width));
    let masks = (0..64 / u32::from(width)).map(package);
    masks.filter(|mask| (wrong & mask).count_ones() > 1).fold(0, |left, mask| left | wrong & mask)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(0b1, 8, 0)]
    #[case(0b11, 8, 0b11)]
    #[case(0x101, 8, 0)]
    #[case(0x101, 16, 0x101)]
    #[case(0x11, 4, 0)]
    #[case(0x31, 4, 0x30)]
    fn each_package_corrects_one_bit(#[case] wrong: u64, #[case] width: u8, #[case] left: u64) {
        assert_eq!(without_single_bits(wrong, width), left);
    }

    #[test]
    fn check_bits_correct_one_and_report_two() {
        let counters = Arc::new(EccCounters::default());
        let correction = Correction { ecc: Some(counters.clone()), ..Correction::default() };
        assert_eq!(correction.returned(0, 0xff ^ 4, 0xff), 0xff);
        assert_eq!(correction.returned(0, 0xff ^ 5, 0xff), 0xff ^ 5);
        let counts = counters.read([""].into_iter());
        assert_eq!((counts[0].corrected, counts[0].uncorrected), (1, 1));
    }

    #[test]
    fn scrambling_is_undone() {
        let correction = Correction { scrambled: true, ..Correction::default() };
        let stored = correction.store(64, 0);
        assert_ne!(stored, 0);
        assert_ne!(stored, correction.store(72, 0));
        assert_eq!(correction.store(64, stored), 0);
        assert_eq!(correction.store(64, u64::MAX), !stored);
    }
}
