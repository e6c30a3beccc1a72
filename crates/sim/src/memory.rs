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
use crate::fault::{BitFault, Coupling};

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

/// Faults by offset of their word in the lease.
#[derive(Debug, Default)]
pub(crate) struct Faults {
    /// Faults of single bits.
    pub bits: Vec<(u64, BitFault)>,
    /// Couplings between two words.
    pub couplings: Vec<Coupling>,
}

/// The words that are held, and the couplings between them.
#[derive(Debug, Default)]
struct Held {
    words: BTreeMap<u64, HeldWord>,
    couplings: Vec<Coupling>,
}

impl Held {
    fn new(faults: Faults) -> Self {
        let mut words: BTreeMap<u64, HeldWord> = BTreeMap::new();
        for (offset, fault) in faults.bits {
            words.entry(offset).or_default().faults.push(fault);
        }
        for coupling in &faults.couplings {
            words.entry(coupling.aggressor).or_default();
            words.entry(coupling.victim).or_default();
        }
        Self { words, couplings: faults.couplings }
    }

    /// One word with everything that an access to it does to others.
    fn at(&mut self, offset: u64) -> CoupledWord<'_> {
        CoupledWord { held: self, offset }
    }

    fn value(&self, offset: u64) -> u64 {
        self.words.get(&offset).map_or(0, |word| word.value)
    }

    /// Lets couplings act after the word at `offset` went from `before` to what it holds now.
    fn couple(&mut self, offset: u64, before: u64) {
        for index in 0..self.couplings.len() {
            let coupling = self.couplings[index];
            let own = coupling.aggressor == offset;
            let concerned = own || (coupling.holds_all_the_time() && coupling.victim == offset);
            if !concerned {
                continue;
            }
            let after = self.value(coupling.aggressor);
            let before = if own { before } else { after };
            if let Some(victim) = self.words.get_mut(&coupling.victim) {
                victim.value = coupling.after_access(before, after, victim.value);
            }
        }
    }
}

struct CoupledWord<'a> {
    held: &'a mut Held,
    offset: u64,
}

impl WordAccess for CoupledWord<'_> {
    fn read(&mut self) -> u64 {
        let before = self.held.value(self.offset);
        let returned = self.held.words.entry(self.offset).or_default().read();
        self.held.couple(self.offset, before);
        returned
    }

    fn write(&mut self, word: u64) {
        let before = self.held.value(self.offset);
        self.held.words.entry(self.offset).or_default().write(word);
        self.held.couple(self.offset, before);
    }
}

/// Leased simulated memory.
pub(crate) struct SimMemory {
    layout: Layout,
    clock: Arc<SimClock>,
    bytes_per_second: u64,
    held: Mutex<Held>,
}

impl SimMemory {
    /// Memory with these faults.
    pub fn new(layout: Layout, clock: Arc<SimClock>, bytes_per_second: u64, faults: Faults) -> Self {
        Self { layout, clock, bytes_per_second, held: Mutex::new(Held::new(faults)) }
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
        let mut all = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        let now_ns = self.clock.now_ns();
        let mut offsets: Vec<u64> = all.words.range(held).map(|(offset, _)| *offset).collect();
        if work.down {
            offsets.reverse();
        }
        for offset in offsets {
            all.words.entry(offset).or_default().pass_time(now_ns);
            let plain = work.rule.word(self.layout.index_of(offset));
            let mut word = all.at(offset);
            for op in &work.ops {
                match *op {
                    Op::Write { inverse } => word.write(if inverse { !plain } else { plain }),
                    Op::Read { inverse } => {
                        let (expected, actual) = (if inverse { !plain } else { plain }, word.read());
                        if expected != actual {
                            sink.mismatch(BadWord { offset, expected, actual }, &mut word);
                        }
                    }
                }
            }
        }
        drop(all);
        self.pass_time(bytes);
    }

    fn flush(&self, _held: Range<u64>) {
        // There is no cache in the simulation: every read is the memory's own answer.
    }

    fn poke(&self, offset: u64, word: u64) -> u64 {
        let mut all = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        let mut held = all.at(offset);
        held.write(word);
        held.read()
    }
}
