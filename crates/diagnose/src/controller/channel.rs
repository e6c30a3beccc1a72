//! The slots inside one channel.

use super::refusal::Contradiction;

/// One chip select: it answers to addresses of the channel that equal its base in all bits that the mask does not let through.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Select {
    /// Base address in the channel.
    pub base: u64,
    /// Bits that may be anything.
    pub mask: u64,
    /// The slot of the channel that its rank sits in.
    pub slot: u8,
}

impl Select {
    /// Bytes that it answers to.
    pub fn bytes(&self) -> u64 {
        // A mask of all ones is refused when the channel is built.
        1u64.checked_shl(self.mask.count_ones()).unwrap_or(0)
    }

    fn answers(&self, address: u64) -> bool {
        (address ^ self.base) & !self.mask == 0
    }

    fn meets(&self, other: &Self) -> bool {
        (self.base ^ other.base) & !(self.mask | other.mask) == 0
    }
}

/// What is known of the slots inside a channel.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Inside {
    /// One slot has a module.
    Slot(u8),
    /// These have, and how they share the channel is not known.
    Slots(Vec<u8>),
    /// Chip selects tell.
    Selects(Vec<Select>),
}

/// One channel.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Channel {
    /// Its number at the controller.
    pub number: u8,
    /// Bytes.
    pub bytes: u64,
    /// Bytes of the module in each of its slots, by the registers; zero where there is none.
    pub sizes: Vec<u64>,
    /// Its slots.
    pub inside: Inside,
}

/// Cache lines never spread over two chip selects.
const LEAST_BITS: u32 = 6;

impl Channel {
    /// With modules of these sizes, where nothing tells how two of them share it.
    pub(super) fn of_modules(number: u8, sizes: &[u64]) -> Self {
        let slots: Vec<u8> = (0..).zip(sizes).filter(|(_, bytes)| **bytes > 0).map(|(slot, _)| slot).collect();
        let inside = if let [only] = slots[..] { Inside::Slot(only) } else { Inside::Slots(slots) };
        Self { number, bytes: sizes.iter().sum(), sizes: sizes.to_vec(), inside }
    }

    /// With chip selects that together answer to each address from zero to the channel's size exactly once.
    pub(super) fn of_selects(number: u8, selects: Vec<Select>, slots: usize) -> Result<Self, Contradiction> {
        let mut sizes = vec![0u64; slots];
        for (at, select) in selects.iter().enumerate() {
            let whole = select.mask.count_ones() < 40 && select.mask & ((1 << LEAST_BITS) - 1) == (1 << LEAST_BITS) - 1;
            let again = selects[..at].iter().any(|other| select.meets(other));
            if !whole || select.base & select.mask != 0 || again {
                return Err(Contradiction::NotOneToOne);
            }
            *sizes.get_mut(usize::from(select.slot)).ok_or(Contradiction::Reserved)? += select.bytes();
        }
        let bytes: u64 = sizes.iter().sum();
        // They do not meet, so that they fill the channel when none reaches beyond it.
        if selects.iter().any(|select| (select.base | select.mask) >= bytes) {
            return Err(Contradiction::NotOneToOne);
        }
        Ok(Self { number, bytes, sizes, inside: Inside::Selects(selects) })
    }

    /// The slots that can hold an address of the channel.
    pub(super) fn slots(&self, address: u64) -> Vec<u8> {
        match &self.inside {
            Inside::Slot(slot) => vec![*slot],
            Inside::Slots(slots) => slots.clone(),
            Inside::Selects(selects) => {
                selects.iter().filter(|select| select.answers(address)).map(|select| select.slot).collect()
            }
        }
    }

    /// For each kind of address the slots that can hold it.
    pub(super) fn together(&self) -> Vec<Vec<u8>> {
        match &self.inside {
            Inside::Slot(slot) => vec![vec![*slot]],
            Inside::Slots(slots) => vec![slots.clone()],
            Inside::Selects(selects) => selects.iter().map(|select| vec![select.slot]).collect(),
        }
    }

    /// Neighbouring addresses that the same slots hold: 2 to this power.
    pub(super) fn run_bits(&self) -> u32 {
        match &self.inside {
            Inside::Selects(selects) => {
                selects.iter().map(|select| (!select.mask).trailing_zeros()).min().unwrap_or(u64::BITS)
            }
            _ => u64::BITS,
        }
    }
}
