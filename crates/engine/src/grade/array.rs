//! The small array with a fault in it.

use super::CELLS;
use super::models::{Decoder, Effect, Fault, Primitive, Trigger};

/// Cells, what the sense amplifier read last, and the fault.
pub(super) struct Array<'a> {
    cells: [bool; CELLS],
    last_read: bool,
    fault: &'a Fault,
    /// Some primitive of the fault acts without being triggered.
    holds: bool,
}

impl<'a> Array<'a> {
    /// The array with every content that it can have at first. Cells that the fault has nothing to do with hold what was written to them before they
    /// are read: what they hold at first does not matter.
    pub fn every_start(fault: &'a Fault) -> impl Iterator<Item = Self> {
        let matter = matter(fault);
        let holds = match fault {
            Fault::Primitives(primitives) => primitives.iter().any(|one| one.trigger == Trigger::Always),
            _ => false,
        };
        (0..2u32 << CELLS).filter(move |content| content & !matter == 0).map(move |content| {
            let cells = std::array::from_fn(|cell| content >> cell & 1 == 1);
            let mut array = Self { cells, last_read: content >> CELLS & 1 == 1, fault, holds };
            array.hold_states();
            array
        })
    }

    /// Writes through an address.
    pub fn write(&mut self, address: usize, value: bool) {
        let before = self.cells;
        match self.fault {
            Fault::StuckOpen(cell) if *cell == address => {}
            Fault::Decoder(decoder) => {
                for cell in reached(*decoder, address) {
                    self.cells[cell] = value;
                }
            }
            Fault::StuckOpen(_) => self.cells[address] = value,
            Fault::Primitives(primitives) => {
                self.cells[address] = value;
                for primitive in primitives {
                    let hit = match primitive.trigger {
                        Trigger::VictimWrite(from, to) => {
                            primitive.victim == address && (before[address], value) == (from, to)
                        }
                        Trigger::AggressorWrite(from, to) => {
                            primitive.aggressor == Some(address) && (before[address], value) == (from, to)
                        }
                        _ => false,
                    };
                    if hit && is_met(primitive, &before) {
                        self.apply(primitive);
                    }
                }
            }
        }
        self.hold_states();
    }

    /// Reads through an address.
    pub fn read(&mut self, address: usize) -> bool {
        let before = self.cells;
        let mut value = before[address];
        match self.fault {
            Fault::StuckOpen(cell) => {
                if *cell == address {
                    value = self.last_read;
                }
            }
            Fault::Decoder(decoder) => value = self.read_decoded(*decoder, address),
            Fault::Primitives(primitives) => {
                for primitive in primitives {
                    let hit = match primitive.trigger {
                        Trigger::VictimRead(holds) => primitive.victim == address && before[address] == holds,
                        Trigger::AggressorRead(holds) => {
                            primitive.aggressor == Some(address) && before[address] == holds
                        }
                        _ => false,
                    };
                    if hit && is_met(primitive, &before) {
                        self.apply(primitive);
                        value = primitive.returns.unwrap_or(value);
                    }
                }
            }
        }
        self.hold_states();
        self.last_read = value;
        value
    }

    fn read_decoded(&self, decoder: Decoder, address: usize) -> bool {
        let mut values = reached(decoder, address).into_iter().map(|cell| self.cells[cell]);
        match decoder {
            Decoder::None { address: dead, reads } | Decoder::Taken { address: dead, reads, .. } if dead == address => {
                reads
            }
            Decoder::Both { or: true, .. } => values.any(|value| value),
            _ => values.all(|value| value),
        }
    }

    fn apply(&mut self, primitive: &Primitive) {
        let victim = &mut self.cells[primitive.victim];
        *victim = match primitive.effect {
            Effect::Becomes(value) => value,
            Effect::Flips => !*victim,
        };
    }

    /// Faults that hold all the time.
    fn hold_states(&mut self) {
        if !self.holds {
            return;
        }
        let Fault::Primitives(primitives) = self.fault else { return };
        for primitive in primitives {
            if primitive.trigger == Trigger::Always && is_met(primitive, &self.cells) {
                self.apply(primitive);
            }
        }
    }
}

/// What of the content at first matters, a bit for each cell and one for what was read last.
fn matter(fault: &Fault) -> u32 {
    match fault {
        Fault::Primitives(primitives) => {
            let cells = primitives.iter().flat_map(|one| [Some(one.victim), one.aggressor]).flatten();
            cells.fold(0, |bits, cell| bits | 1 << cell)
        }
        Fault::Decoder(_) => (1 << CELLS) - 1,
        Fault::StuckOpen(cell) => 1 << CELLS | 1 << cell,
    }
}

/// Whether aggressor and victim hold what the fault needs.
fn is_met(primitive: &Primitive, cells: &[bool; CELLS]) -> bool {
    let aggressor = primitive.aggressor.zip(primitive.aggressor_holds);
    aggressor.is_none_or(|(cell, holds)| cells[cell] == holds)
        && primitive.victim_holds.is_none_or(|holds| cells[primitive.victim] == holds)
}

/// Cells that an address reaches.
fn reached(decoder: Decoder, address: usize) -> Vec<usize> {
    match decoder {
        Decoder::None { address: dead, .. } | Decoder::Taken { address: dead, .. } if dead == address => Vec::new(),
        Decoder::Taken { address: dead, by, .. } if by == address => vec![by, dead],
        Decoder::Other { address: wrong, cell } if wrong == address => vec![cell],
        Decoder::Both { address: wrong, cell, .. } if wrong == address => vec![wrong, cell],
        _ => vec![address],
    }
}
