//! The planted wrong word: once in every pass the checker has to prove that it would notice.

use crate::march::Element;
use crate::memory::Memory;
use crate::pattern::{WordRule, pass_seed};
use crate::sweep::flip;

/// A word that is wrong on purpose.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Plant {
    pub offset: u64,
    pub expected: u64,
    pub planted: u64,
}

/// How many places are tried when the memory does not hold the planted word.
const TRIES: u32 = 16;

/// Plants one wrong bit where `leaves` says what the memory holds. Nothing when no place holds it: then the memory is so
/// bad that errors are found anyway.
pub(super) fn plant(memory: &dyn Memory, rule: WordRule, leaves: bool, seed: u64) -> Option<Plant> {
    let words = memory.layout().bytes() / 8;
    (1..=TRIES).find_map(|attempt| {
        let random = pass_seed(seed, attempt);
        let offset = random % words * 8;
        let expected = rule.word(memory.layout().index_of(offset)) ^ flip(leaves);
        let planted = expected ^ 1 << (random >> 58);
        if memory.poke(offset, planted) == planted {
            return Some(Plant { offset, expected, planted });
        }
        memory.poke(offset, expected);
        None
    })
}

/// Puts the right word back, unless the element wrote there anyway.
pub(super) fn remove(memory: &dyn Memory, plant: Plant, after: &Element, swept_it: bool) {
    if !(swept_it && after.writes()) {
        memory.poke(plant.offset, plant.expected);
    }
}
