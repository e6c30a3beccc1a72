//! Simulated memory: only the words that matter are held, all others are as they should be.
//!
//! A word matters when a fault sits there or when it was written on purpose. Such words are executed operation by
//! operation with the same march elements as real memory; the rest of a sweep costs no work, only simulated time.

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::{Arc, Mutex, PoisonError};

use revisum_core::march::Op;
use revisum_core::ports::{Clock, Layout, Memory, MismatchSink};
use revisum_core::sweep::second_look::WordAccess;
use revisum_core::sweep::{BadWord, ElementWork};

use crate::clock::SimClock;
use crate::fault::BitFault;

/// A word that is held, with the faults of its bits.
#[derive(Clone, Debug, Default)]
struct HeldWord {
    value: u64,
    faults: Vec<BitFault>,
}

impl HeldWord {
    fn pass_time(&mut self, now_ns: u64) {
        for fault in &mut self.faults {
            fault.pass_time(now_ns, &mut self.value);
        }
    }
}

impl WordAccess for HeldWord {
    fn read(&mut self) -> u64 {
        let mut returned = self.value;
        for fault in &self.faults {
            (returned, self.value) = fault.read(self.value, returned);
        }
        returned
    }

    fn write(&mut self, word: u64) {
        self.value = self.faults.iter().fold(word, |written, fault| fault.after_write(self.value, written));
    }
}

/// Leased simulated memory.
pub(crate) struct SimMemory {
    layout: Layout,
    clock: Arc<SimClock>,
    bytes_per_second: u64,
    words: Mutex<BTreeMap<u64, HeldWord>>,
}

impl SimMemory {
    /// Memory with these faults, by offset of their word in the layout.
    pub fn new(
        layout: Layout,
        clock: Arc<SimClock>,
        bytes_per_second: u64,
        faults: impl IntoIterator<Item = (u64, BitFault)>,
    ) -> Self {
        let mut words: BTreeMap<u64, HeldWord> = BTreeMap::new();
        for (offset, fault) in faults {
            words.entry(offset).or_default().faults.push(fault);
        }
        Self { layout, clock, bytes_per_second, words: Mutex::new(words) }
    }

    fn pass_time(&self, bytes: u64) {
        self.clock.advance((u128::from(bytes) * 1_000_000_000 / u128::from(self.bytes_per_second.max(1))) as u64);
    }
}

impl Memory for SimMemory {
    fn layout(&self) -> &Layout {
        &self.layout
    }

    fn is_concurrent(&self) -> bool {
        false
    }

    fn sweep(&self, held: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink) {
        let bytes = held.end - held.start;
        let mut words = self.words.lock().unwrap_or_else(PoisonError::into_inner);
        let now_ns = self.clock.now_ns();
        let mut one = |offset: u64, word: &mut HeldWord| {
            word.pass_time(now_ns);
            let plain = work.rule.word(self.layout.index_of(offset));
            for op in &work.ops {
                match *op {
                    Op::Write { inverse } => word.write(if inverse { !plain } else { plain }),
                    Op::Read { inverse } => {
                        let (expected, actual) = (if inverse { !plain } else { plain }, word.read());
                        if expected != actual {
                            sink.mismatch(BadWord { offset, expected, actual }, word);
                        }
                    }
                }
            }
        };
        let touched = words.range_mut(held);
        if work.down {
            touched.rev().for_each(|(offset, word)| one(*offset, word));
        } else {
            touched.for_each(|(offset, word)| one(*offset, word));
        }
        drop(words);
        self.pass_time(bytes);
    }

    fn flush(&self, _held: Range<u64>) {
        // There is no cache in the simulation: every read is the memory's own answer.
    }

    fn poke(&self, offset: u64, word: u64) -> u64 {
        let mut words = self.words.lock().unwrap_or_else(PoisonError::into_inner);
        let held = words.entry(offset).or_default();
        held.write(word);
        held.read()
    }
}
