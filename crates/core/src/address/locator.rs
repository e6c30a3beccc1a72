//! Which slots an address can belong to, and how sure that is.

use serde::{Deserialize, Serialize};

use super::map::{AddressMap, Cell, Placed};
use crate::board::Board;
use crate::units::{ByteRange, PhysAddr};

/// How sure an attribution is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Certainty {
    /// Only this slot is possible.
    Certain,
    /// By a map that nothing has confirmed yet.
    Assumed,
    /// One of several slots.
    OneOf,
    /// Nothing is known.
    Unknown,
}

impl Certainty {
    /// The word on the screen.
    pub fn word(self) -> &'static str {
        match self {
            Self::Certain => "certain",
            Self::Assumed => "assumed",
            Self::OneOf => "one of these",
            Self::Unknown => "unknown",
        }
    }
}

/// Where an address can belong.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Attribution {
    /// Possible slots.
    pub slots: Vec<String>,
    /// How sure.
    pub certainty: Certainty,
    /// Place inside the module, where a map tells.
    pub cell: Option<Cell>,
}

/// Attributes addresses for one fitting.
#[derive(Clone, Debug, Default)]
pub struct Locator {
    map: Option<AddressMap>,
    populated: Vec<String>,
    /// The fitted slots, joined by blanks.
    any_slot: String,
}

impl Locator {
    /// For a board as fitted, with its address map where one is known.
    pub fn new(board: &Board, map: Option<AddressMap>) -> Self {
        let populated: Vec<String> = board.modules().map(|(slot, _)| slot.id.clone()).collect();
        Self { map, any_slot: populated.join(" "), populated }
    }

    /// Attributes one address; an unknown address can be in any fitted slot.
    pub fn attribute(&self, address: Option<PhysAddr>) -> Attribution {
        let placed = self.map.as_ref().zip(address).and_then(|(map, address)| map.locate(address));
        if let Some(placed) = placed {
            return Attribution { slots: vec![placed.slot], certainty: Certainty::Certain, cell: Some(placed.cell) };
        }
        let certainty = match self.populated.len() {
            0 => Certainty::Unknown,
            1 => Certainty::Certain,
            _ => Certainty::OneOf,
        };
        Attribution { slots: self.populated.clone(), certainty, cell: None }
    }

    /// Slot and cell of an address, where a map tells.
    pub fn placed(&self, address: PhysAddr) -> Option<Placed> {
        self.map.as_ref()?.locate(address)
    }

    /// The address of a cell, where a map tells.
    pub fn address(&self, placed: &Placed) -> Option<PhysAddr> {
        self.map.as_ref()?.address(placed)
    }

    /// The slots that an address can be in, joined by blanks, and a piece of the address space around it where that is so.
    pub fn slots_run(&self, address: Option<PhysAddr>) -> (&str, ByteRange) {
        let run = self.map.as_ref().zip(address).and_then(|(map, address)| map.slot_run(address));
        run.unwrap_or((&self.any_slot, ByteRange::new(0, u64::MAX)))
    }

    /// Why attributions are as sure as they are, in a sentence.
    pub fn reason(&self) -> &'static str {
        match (&self.map, self.populated.len()) {
            (Some(_), _) => "the address map of this fitting is known",
            (None, 0) => "the firmware does not tell which slots are fitted",
            (None, 1) => "only one module is fitted",
            (None, _) => "no address map is known for this fitting, so any fitted slot is possible",
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::board::{Module, Slot};

    #[rstest]
    #[case(&[], Certainty::Unknown)]
    #[case(&["A1"], Certainty::Certain)]
    #[case(&["A1", "B1"], Certainty::OneOf)]
    fn without_a_map_every_fitted_slot_is_possible(#[case] fitted: &[&str], #[case] certainty: Certainty) {
        let slots = ["A1", "B1"].map(|id| Slot {
            id: id.into(),
            channel: None,
            soldered: false,
            module: fitted.contains(&id).then(Module::default),
        });
        let locator = Locator::new(&Board { slots: slots.into(), ..Board::default() }, None);
        let attribution = locator.attribute(Some(PhysAddr(0x1000)));
        assert_eq!((attribution.slots.len(), attribution.certainty), (fitted.len(), certainty));
    }
}
