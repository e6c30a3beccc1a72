//! The words of simulated memory that are held, and what happens to them.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;

use revisum_engine::sweep::second_look::WordAccess;

use crate::correction::Correction;
use crate::fault::{BitFault, Coupling, Decoder, Disturbance, Moment, Noise, Scatter, Sensing};

/// A word that is held, with the faults of its bits.
#[derive(Clone, Debug, Default)]
struct HeldWord {
    /// What the cells hold.
    value: u64,
    /// What was written last: check bits were made from this.
    written: u64,
    /// Bits that turned over while nobody knew what the word holds.
    turned_over: u64,
    /// What it holds is known from an access; until then it is as it should be.
    known: bool,
    faults: Vec<BitFault>,
}

/// All faults of a lease, by offset of their word.
#[derive(Debug, Default)]
pub(crate) struct Faults {
    /// Faults of single bits.
    pub bits: Vec<(u64, BitFault)>,
    /// Couplings between two words.
    pub couplings: Vec<Coupling>,
    /// Addresses that go astray.
    pub decoders: Vec<Decoder>,
    /// Modules that return noise.
    pub noises: Vec<Noise>,
    /// Upsets anywhere.
    pub scatters: Vec<Scatter>,
    /// Bits that turn over when rows beside them are opened often.
    pub disturbed: Vec<Disturbance>,
    /// Words that are held in any case.
    pub bound: BTreeSet<u64>,
}

/// The words that are held, and the faults between them.
#[derive(Debug)]
pub(crate) struct Held {
    words: BTreeMap<u64, HeldWord>,
    couplings: Vec<Coupling>,
    /// By word, those of its couplings that an access to it concerns.
    coupled: BTreeMap<u64, Vec<usize>>,
    decoders: Vec<Decoder>,
    /// Words that take part in a fault between words: these are always held.
    bound: BTreeSet<u64>,
    correction: Correction,
    /// What the next read finds in the sense amplifiers.
    pub sensing: Sensing,
}

impl Held {
    /// The words that faults sit in.
    pub fn new(faults: Faults, correction: Correction) -> Self {
        let mut words: BTreeMap<u64, HeldWord> = BTreeMap::new();
        let mut bound = faults.bound;
        for (offset, fault) in faults.bits {
            words.entry(offset).or_default().faults.push(fault);
        }
        bound.extend(faults.couplings.iter().flat_map(|coupling| [coupling.aggressor, coupling.victim]));
        bound.extend(faults.decoders.iter().flat_map(Decoder::words));
        for offset in &bound {
            words.entry(*offset).or_default();
        }
        // Memory that nobody wrote yet holds zeros here.
        words.values_mut().for_each(|word| word.known = true);
        let mut coupled: BTreeMap<u64, Vec<usize>> = BTreeMap::new();
        for (number, coupling) in faults.couplings.iter().enumerate() {
            coupled.entry(coupling.aggressor).or_default().push(number);
            if coupling.holds_all_the_time() && coupling.victim != coupling.aggressor {
                coupled.entry(coupling.victim).or_default().push(number);
            }
        }
        Self {
            words,
            couplings: faults.couplings,
            coupled,
            decoders: faults.decoders,
            bound,
            correction,
            sensing: Sensing::default(),
        }
    }

    /// Offsets of the words held in a stretch, ascending.
    pub fn offsets(&self, stretch: Range<u64>) -> impl Iterator<Item = u64> {
        self.words.range(stretch).map(|(offset, _)| *offset)
    }

    /// Whether the word at this offset is held.
    pub fn holds(&self, offset: u64) -> bool {
        self.words.contains_key(&offset)
    }

    /// Whether a fault of this word shows only when its row is opened.
    pub fn minds_rows(&self, offset: u64) -> bool {
        self.words.get(&offset).is_some_and(|word| word.faults.iter().any(BitFault::minds_rows))
    }

    /// Turns bits of a word over.
    pub fn turn_over(&mut self, offset: u64, mask: u64) {
        let word = self.words.entry(offset).or_default();
        if word.known {
            word.value ^= mask;
        } else {
            word.turned_over ^= mask;
        }
    }

    /// Before an element comes to a word: time has passed, and a word that nobody wrote yet is as it should be.
    pub fn begin(&mut self, offset: u64, now: Moment, should_be: Option<u64>) {
        let word = self.words.entry(offset).or_default();
        if let Some(should_be) = should_be.filter(|_| !word.known) {
            word.written = should_be;
            word.value = self.correction.store(offset, should_be) ^ word.turned_over;
            (word.turned_over, word.known) = (0, true);
        }
        for fault in &mut word.faults {
            fault.pass_time(now, &mut word.value);
        }
    }

    /// After an element: a sound word that holds what it should is let go of.
    pub fn end(&mut self, offset: u64, should_hold: u64) {
        let Some(word) = self.words.get(&offset) else { return };
        let sound = word.faults.is_empty() && !self.bound.contains(&offset);
        if sound && word.value == self.correction.store(offset, should_hold) && word.written == should_hold {
            self.words.remove(&offset);
        }
    }

    /// One word with everything that an access to it does to others.
    pub fn at(&mut self, offset: u64) -> CoupledWord<'_> {
        CoupledWord { held: self, offset }
    }

    /// The words that an address reaches that goes astray, and the fault that makes it so.
    fn astray(&self, offset: u64) -> Option<(Vec<u64>, Decoder)> {
        self.decoders.iter().find_map(|decoder| Some((decoder.reached(offset)?, *decoder)))
    }

    /// What reading the cells of a word returns, and what was written to it last.
    fn read_cells(&mut self, offset: u64) -> (u64, u64) {
        let sensing = self.sensing;
        let word = self.words.entry(offset).or_default();
        let (before, written) = (word.value, word.written);
        let mut returned = word.value;
        for fault in &word.faults {
            (returned, word.value) = fault.read(word.value, returned, sensing);
        }
        self.couple(offset, before);
        (returned, written)
    }

    fn write_cells(&mut self, offset: u64, stored: u64) {
        let word = self.words.entry(offset).or_default();
        let before = word.value;
        word.value = word.faults.iter().fold(stored, |written, fault| fault.after_write(word.value, written));
        (word.turned_over, word.known) = (0, true);
        self.couple(offset, before);
    }

    /// Lets couplings act after the word at `offset` went from `before` to what it holds now.
    fn couple(&mut self, offset: u64, before: u64) {
        let concerned = self.coupled.get(&offset).map_or(&[][..], Vec::as_slice);
        for number in concerned {
            let coupling = self.couplings[*number];
            let own = coupling.aggressor == offset;
            let after = self.words.get(&coupling.aggressor).map_or(0, |word| word.value);
            let before = if own { before } else { after };
            if let Some(victim) = self.words.get_mut(&coupling.victim) {
                victim.value = coupling.after_access(before, after, victim.value);
            }
        }
    }
}

/// One word of the held ones.
pub(crate) struct CoupledWord<'a> {
    held: &'a mut Held,
    offset: u64,
}

impl WordAccess for CoupledWord<'_> {
    fn read(&mut self) -> u64 {
        if let Some((reached, decoder)) = self.held.astray(self.offset) {
            let read: Vec<u64> = reached.into_iter().map(|offset| self.held.read_cells(offset).0).collect();
            return decoder.combined(read.into_iter());
        }
        let (cells, written) = self.held.read_cells(self.offset);
        self.held.sensing.amplifier = self.held.correction.store(self.offset, cells);
        self.held.correction.returned(self.offset, cells, written)
    }

    fn write(&mut self, word: u64) {
        let stored = self.held.correction.store(self.offset, word);
        match self.held.astray(self.offset) {
            Some((reached, _)) => reached.into_iter().for_each(|offset| self.held.write_cells(offset, stored)),
            None => self.held.write_cells(self.offset, stored),
        }
        self.held.words.entry(self.offset).or_default().written = word;
    }
}
