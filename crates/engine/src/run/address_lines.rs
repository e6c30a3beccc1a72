//! Words whose addresses differ in one bit are told apart.
//!
//! For a base address every word that differs from it in one address bit is looked at (the walking address bit of board
//! tests). All of them get the same word; then each in turn gets the inverse, and none of the others may change.

use std::ops::Range;

use super::control::{Control, Order};
use crate::memory::{Memory, MismatchSink};
use crate::pattern::{mix, pass_seed};
use crate::sweep::BadWord;
use crate::sweep::second_look::WordAccess;
use crate::units::PhysAddr;

/// Base addresses in one pass, spread over the memory.
const BASES: u32 = 48;
/// Address bits of words: from eight bytes on.
const BITS: Range<u32> = 3..48;

/// A word of leased memory.
struct Leased<'a> {
    memory: &'a dyn Memory,
    offset: u64,
}

impl WordAccess for Leased<'_> {
    fn read(&mut self) -> u64 {
        self.memory.peek(self.offset)
    }
    fn write(&mut self, word: u64) {
        self.memory.poke(self.offset, word);
    }
}

/// Checks the lines of one pass; returns whether it came to its end.
pub(super) fn check(memory: &dyn Memory, seed: u64, control: &Control, sink: &mut dyn MismatchSink) -> bool {
    let words = memory.layout().bytes() / 8;
    for base in 0..BASES {
        if control.order() != Order::Go {
            return false;
        }
        let offset = pass_seed(seed, base) % words * 8;
        let plain = mix(seed ^ offset);
        tell_apart(memory, &neighbours(memory, offset), plain, sink);
    }
    true
}

/// The word at an offset and all that are held and differ from it in one address bit.
fn neighbours(memory: &dyn Memory, offset: u64) -> Vec<u64> {
    let layout = memory.layout();
    let address = memory.address_of(offset);
    let other = |bit: u32| match address {
        Some(address) => layout.offset_of(PhysAddr(address.0 ^ 1 << bit)),
        None => Some(offset ^ 1 << bit).filter(|other| *other < layout.bytes()),
    };
    std::iter::once(offset).chain(BITS.filter_map(other)).collect()
}

fn tell_apart(memory: &dyn Memory, offsets: &[u64], plain: u64, sink: &mut dyn MismatchSink) {
    for offset in offsets {
        memory.poke(*offset, plain);
    }
    let mut look = |offset: u64, expected: u64| {
        let actual = memory.peek(offset);
        if actual != expected {
            sink.mismatch(BadWord { offset, expected, actual }, &mut Leased { memory, offset });
            memory.poke(offset, expected);
        }
    };
    for inverted in offsets {
        memory.poke(*inverted, !plain);
        for offset in offsets {
            look(*offset, if offset == inverted { !plain } else { plain });
        }
        memory.poke(*inverted, plain);
    }
}
