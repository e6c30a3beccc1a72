//! Simulated memory: only the words that matter are held, all others are as they should be.
//!
//! A word matters when a fault sits there, when a bit of it turned over, or when it was written on purpose. Such words are
//! executed operation by operation with the same march elements as real memory, through the cache and the queue of writes that lie
//! between sweeps and cells ([`revisum_engine::between`]); the rest of a sweep costs no work, only simulated time. Where a whole module fails, what its words come to is drawn in one go.

use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use revisum_diagnose::address::{AddressMap, Placed};
use revisum_engine::between::{Between, Cells, Traffic, schedule};
use revisum_engine::host::Clock;
use revisum_engine::march::Op;
use revisum_engine::march::notation::count_pieces;
use revisum_engine::memory::{BadStretch, Layout, Load, Memory, MismatchSink, Streamed};
use revisum_engine::pattern::WordRule;
use revisum_engine::sweep::second_look::WordAccess;
use revisum_engine::sweep::{BadWord, ElementWork, LINE};

use crate::clock::SimClock;
use crate::correction::Correction;
use crate::fault::{Disturbance, Loaded, Moment, Noise, Scatter, Sensing};
use crate::held::{Faults, Held};
use crate::warmth::ModuleWarmth;

/// Swept in one go: some milliseconds of simulated time.
const BLOCK: u64 = 256 << 20;
/// Time from opening one row to opening another row of the same bank, about as DDR4 has it.
const ROW_CYCLE_NS: u64 = 50;
/// Time of a read from a row that is open.
const ROW_HIT_NS: u64 = 30;
/// So many lines back a sweep is asked which row of a bank it left open: it comes to every bank far sooner.
const LOOKED_BACK: u64 = 8192;
/// Words of a stretch that are tried to be played one by one: enough to look at again, and for samples, even where a module has
/// only a few of them.
const PLAYED: usize = 12;

/// How fast things go in the settings in force.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Pace {
    /// What sweeps carry.
    pub bytes_per_second: u64,
    /// Time in which every row is refreshed.
    pub refresh_ns: u64,
}

/// Leased simulated memory.
pub(crate) struct SimMemory {
    layout: Layout,
    map: AddressMap,
    clock: Arc<SimClock>,
    pace: Pace,
    loaded: Mutex<Loaded>,
    warmth: Option<Arc<ModuleWarmth>>,
    parts: Mutex<Parts>,
}

/// What changes while it is swept.
struct Parts {
    held: Held,
    traffic: Traffic,
    noises: Vec<Noise>,
    scatters: Vec<Scatter>,
    disturbed: Vec<Disturbance>,
}

impl SimMemory {
    /// Memory with these faults.
    pub fn new(
        layout: Layout,
        map: AddressMap,
        clock: Arc<SimClock>,
        pace: Pace,
        faults: Faults,
        correction: Correction,
        between: Between,
    ) -> Self {
        let (noises, scatters, disturbed) = (faults.noises.clone(), faults.scatters.clone(), faults.disturbed.clone());
        let parts = Mutex::new(Parts {
            held: Held::new(faults, correction),
            traffic: Traffic::new(between),
            noises,
            scatters,
            disturbed,
        });
        Self { layout, map, clock, pace, loaded: Mutex::default(), warmth: None, parts }
    }

    /// With modules that get warm.
    pub fn warming(self, warmth: Option<Arc<ModuleWarmth>>) -> Self {
        Self { warmth, ..self }
    }

    fn moment(&self) -> Moment {
        Moment { now_ns: self.clock.now_ns(), woke_ns: self.clock.woke_ns() }
    }

    fn pass_time(&self, bytes: u64) {
        self.clock.advance((u128::from(bytes) * 1_000_000_000 / u128::from(self.pace.bytes_per_second.max(1))) as u64);
    }

    fn parts(&self) -> std::sync::MutexGuard<'_, Parts> {
        self.parts.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Turns over the bits that are due.
    fn scatter(&self, parts: &mut Parts) {
        let (now_ns, loaded) = (self.clock.now_ns(), *self.loaded.lock().unwrap_or_else(PoisonError::into_inner));
        for scatter in &mut parts.scatters {
            for (placed, mask) in scatter.due(now_ns, loaded) {
                // A word that nobody holds cannot be seen to be wrong.
                if let Some(offset) = self.map.address(&placed).and_then(|address| self.layout.offset_of(address)) {
                    parts.held.turn_over(offset, mask);
                }
            }
        }
    }

    /// What no fault changes: the word that belongs at an offset after a read or write.
    fn plain(&self, work: &ElementWork, offset: u64) -> u64 {
        work.rule.word(self.layout.index_of(offset.saturating_sub(work.moved)))
    }

    /// What the sense amplifiers read last before they come to this word: the last read of the word before it in the sweep.
    fn read_before(&self, work: &ElementWork, offset: u64) -> u64 {
        let last = work.ops.iter().rev().find_map(|op| match op {
            Op::Read { inverse } => Some(*inverse),
            Op::Write { .. } => None,
        });
        let before = if work.down { offset.checked_add(8) } else { offset.checked_sub(8) };
        match (last, before.filter(|before| *before < self.layout.bytes())) {
            (Some(inverse), Some(before)) => turned(self.plain(work, before), inverse),
            _ => 0,
        }
    }

    /// Whether a sweep over this stretch finds another row open when it comes to this word: the line of its bank that came last before it lies in
    /// another row, or none came for long.
    fn opens_row(&self, work: &ElementWork, stretch: &Range<u64>, offset: u64) -> bool {
        let place = |offset: u64| self.layout.address_of(offset).and_then(|address| self.map.locate(address));
        let Some(own) = place(offset) else { return false };
        let bytes = stretch.end - stretch.start;
        let number = work.visited(offset - stretch.start, bytes) / LINE as u64;
        let before = (number.saturating_sub(LOOKED_BACK)..number).rev();
        let same_bank = |placed: &Placed| {
            (&placed.slot, placed.cell.rank, placed.cell.bank) == (&own.slot, own.cell.rank, own.cell.bank)
        };
        let last = before.filter_map(|number| place(stretch.start + work.line_at(number, bytes))).find(same_bank);
        last.is_none_or(|last| last.cell.row != own.cell.row)
    }

    /// Whether a read here and a write there, in turns, are in two ranks of one module.
    fn turns_between(&self, read: u64, written: u64) -> bool {
        let place = |offset: u64| self.layout.address_of(offset).and_then(|address| self.map.locate(address));
        let Some((read, written)) = place(read).zip(place(written)) else { return false };
        read.slot == written.slot && read.cell.rank != written.cell.rank
    }

    /// Executes the element on the words that matter.
    fn execute(&self, parts: &mut Parts, stretch: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink) {
        let Parts { held, traffic, .. } = parts;
        let offsets: Vec<u64> = held.offsets(stretch.clone()).collect();
        if offsets.is_empty() {
            let lines = (stretch.end - stretch.start).div_ceil(LINE as u64) * count_pieces(&work.ops) as u64;
            return traffic.pass(lines, &mut Landing(held));
        }
        let now = self.moment();
        let first = work.ops.first().map(inverse_of);
        for offset in &offsets {
            held.begin(*offset, now, first.map(|inverse| turned(self.plain(work, *offset), inverse)));
        }
        let schedule = schedule(stretch.clone(), work, &offsets, |offset| self.plain(work, offset));
        traffic.sweep(schedule.lines, &schedule.visits, &mut Swept { memory: self, held, work, stretch, sink });
        let Some(last) = work.ops.last().map(inverse_of) else { return };
        for offset in offsets.into_iter().filter(|offset| !traffic.is_on_its_way(*offset)) {
            held.end(offset, turned(self.plain(work, offset), last));
        }
    }

    /// Reads a stretch of which a module's words come out as noise.
    fn read_noise(
        &self,
        noise: &mut Noise,
        known: &Held,
        stretch: Range<u64>,
        work: &ElementWork,
        sink: &mut dyn MismatchSink,
    ) {
        let ranges = self.layout.ranges_of(stretch.clone());
        let bytes: u64 = ranges.ranges().iter().map(|range| self.map.share(&noise.slot, *range)).sum();
        if bytes == 0 {
            return;
        }
        let held = known.offsets(stretch.clone()).filter(|offset| self.is_in(&noise.slot, *offset)).count() as u64;
        let Some(first) = self.first_in(&noise.slot, stretch.clone(), work.down) else { return };
        let words = (bytes / 8).saturating_sub(held);
        for op in &work.ops {
            let Op::Read { inverse } = *op else { continue };
            let chosen = self.played(noise, known, &stretch, work.down);
            let played = chosen.len() as u64;
            for offset in chosen {
                let expected = turned(self.plain(work, offset), inverse);
                let actual = expected ^ noise.one();
                if actual != expected {
                    sink.mismatch(BadWord { offset, expected, actual }, &mut NoisyWord { noise, word: expected });
                }
            }
            let drawn = noise.many(words.saturating_sub(played), ones(work.rule, inverse));
            if drawn.words > 0 {
                let stretch = BadStretch { held: stretch.clone(), one: first, words: drawn.words, lanes: drawn.lanes };
                sink.stretch(&stretch);
            }
        }
    }

    fn is_in(&self, slot: &str, offset: u64) -> bool {
        let placed = self.layout.address_of(offset).and_then(|address| self.map.slot_run(address));
        placed.is_some_and(|(held, _)| held == slot)
    }

    /// The first word of a slot that a sweep over the stretch comes to.
    fn first_in(&self, slot: &str, stretch: Range<u64>, down: bool) -> Option<u64> {
        let mut at = if down { stretch.end - 8 } else { stretch.start };
        loop {
            let address = self.layout.address_of(at)?;
            let (held, run) = self.map.slot_run(address)?;
            if held == slot {
                return Some(at);
            }
            let next = if down { (at + run.start).checked_sub(address.0 + 8)? } else { at + (run.end - address.0) };
            at = Some(next).filter(|next| stretch.contains(next))?;
        }
    }

    /// Words of the noisy module anywhere in a stretch, in the order of the sweep.
    fn played(&self, noise: &mut Noise, known: &Held, stretch: &Range<u64>, down: bool) -> Vec<u64> {
        let words = (stretch.end - stretch.start) / 8;
        let mut chosen: Vec<u64> = (0..PLAYED).map(|_| stretch.start + noise.below(words) * 8).collect();
        chosen.retain(|offset| !known.holds(*offset) && self.is_in(&noise.slot, *offset));
        chosen.sort_unstable();
        chosen.dedup();
        if down {
            chosen.reverse();
        }
        chosen
    }
}

/// Whether reading these words in turns opens a row for this one: the word of its bank before it, in the round, lies in another row.
fn opens(placed: &[Placed], number: usize) -> bool {
    let own = &placed[number];
    let before = (1..placed.len()).map(|back| &placed[(number + placed.len() - back) % placed.len()]);
    let mut of_bank = before
        .filter(|other| (&other.slot, other.cell.rank, other.cell.bank) == (&own.slot, own.cell.rank, own.cell.bank));
    of_bank.next().is_some_and(|other| other.cell.row != own.cell.row)
}

fn turned(word: u64, inverse: bool) -> u64 {
    if inverse { !word } else { word }
}

fn inverse_of(op: &Op) -> bool {
    match *op {
        Op::Read { inverse } | Op::Write { inverse } => inverse,
    }
}

/// Share of ones among the bits that a read should return.
fn ones(rule: WordRule, inverse: bool) -> f64 {
    match rule {
        WordRule::Constant(word) => f64::from(turned(word, inverse).count_ones()) / 64.0,
        WordRule::Walking { .. } => f64::from(turned(1, inverse).count_ones()) / 64.0,
        WordRule::Address | WordRule::Random { .. } | WordRule::Striped { .. } | WordRule::Crosstalk { .. } => 0.5,
    }
}

/// A word of a module that returns noise; what is stored is right.
struct NoisyWord<'a> {
    noise: &'a mut Noise,
    word: u64,
}

impl WordAccess for NoisyWord<'_> {
    fn read(&mut self) -> u64 {
        self.word ^ self.noise.one()
    }

    fn write(&mut self, word: u64) {
        self.word = word;
    }
}

/// The cells while an element is executed on them.
struct Swept<'a> {
    memory: &'a SimMemory,
    held: &'a mut Held,
    work: &'a ElementWork,
    stretch: Range<u64>,
    sink: &'a mut dyn MismatchSink,
}

impl Cells for Swept<'_> {
    fn read(&mut self, at: u64) -> u64 {
        let amplifier = self.memory.read_before(self.work, at);
        self.held.sensing = Sensing {
            amplifier,
            opens_row: self.held.minds_rows(at) && self.memory.opens_row(self.work, &self.stretch, at),
            // A sweep writes behind what it reads: in the same rank but for a line here and there.
            turns: false,
        };
        let read = self.held.at(at).read();
        // Who looks again reads this word alone: its row is open.
        self.held.sensing.opens_row = false;
        read
    }

    fn write(&mut self, at: u64, word: u64) {
        self.held.at(at).write(word);
    }

    fn wrong(&mut self, offset: u64, expected: u64, actual: u64) {
        self.sink.mismatch(BadWord { offset, expected, actual }, &mut self.held.at(offset));
    }
}

/// The cells while nothing is executed: what was on its way arrives.
struct Landing<'a>(&'a mut Held);

impl Cells for Landing<'_> {
    fn read(&mut self, at: u64) -> u64 {
        self.0.at(at).read()
    }

    fn write(&mut self, at: u64, word: u64) {
        self.0.at(at).write(word);
    }

    fn wrong(&mut self, _at: u64, _expected: u64, _actual: u64) {}
}

impl Memory for SimMemory {
    fn layout(&self) -> &Layout {
        &self.layout
    }

    fn is_concurrent(&self) -> bool {
        false
    }

    fn block_bytes(&self) -> u64 {
        BLOCK
    }

    fn sweep(&self, stretch: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink) {
        let bytes = stretch.end - stretch.start;
        let mut parts = self.parts();
        self.scatter(&mut parts);
        let times = count_pieces(&work.ops) as u64;
        self.execute(&mut parts, stretch.clone(), work, sink);
        let Parts { held, noises, .. } = &mut *parts;
        for noise in noises {
            self.read_noise(noise, held, stretch.clone(), work, sink);
        }
        drop(parts);
        self.pass_time(bytes * times);
    }

    fn flush(&self, held: Range<u64>, down: bool) {
        self.parts().traffic.flush(held, down);
    }

    fn poke(&self, offset: u64, word: u64) -> u64 {
        let mut parts = self.parts();
        let Parts { held, noises, traffic, .. } = &mut *parts;
        traffic.settle(offset, &mut Landing(held));
        let mut place = held.at(offset);
        place.write(word);
        let noise = noises.iter_mut().find(|noise| self.is_in(&noise.slot, offset));
        place.read() ^ noise.map_or(0, Noise::one)
    }

    fn peek(&self, offset: u64) -> u64 {
        let mut parts = self.parts();
        let Parts { held, noises, traffic, .. } = &mut *parts;
        traffic.settle(offset, &mut Landing(held));
        let noise = noises.iter_mut().find(|noise| self.is_in(&noise.slot, offset));
        held.at(offset).read() ^ noise.map_or(0, Noise::one)
    }

    fn copy(&self, from: Range<u64>, to: u64, rule: WordRule) {
        let (bytes, moved) = (from.end - from.start, to - from.start);
        let mut parts = self.parts();
        let Parts { held, traffic, .. } = &mut *parts;
        for range in [from.clone(), to..to + bytes] {
            traffic.settle_all(range, &mut Landing(held));
        }
        let mut sources: Vec<u64> = held.offsets(from.clone()).collect();
        sources.extend(held.offsets(to..to + bytes).map(|offset| offset - moved));
        sources.sort_unstable();
        sources.dedup();
        for offset in sources {
            let plain = rule.word(self.layout.index_of(offset));
            let source_held = held.holds(offset);
            let word = if source_held {
                held.begin(offset, self.moment(), Some(plain));
                held.sensing.turns = self.turns_between(offset, offset + moved);
                let word = held.at(offset).read();
                held.sensing.turns = false;
                word
            } else {
                plain
            };
            held.at(offset + moved).write(word);
        }
        drop(parts);
        self.pass_time(2 * bytes);
    }

    fn activate(&self, offsets: &[u64], times: u32) {
        let placed = offsets.iter().filter_map(|offset| self.map.locate(self.layout.address_of(*offset)?));
        let placed: Vec<Placed> = placed.collect();
        let round_ns: u64 =
            (0..placed.len()).map(|number| if opens(&placed, number) { ROW_CYCLE_NS } else { ROW_HIT_NS }).sum();
        let in_interval = (self.pace.refresh_ns / round_ns.max(1)).min(u64::from(times)) as u32;
        let mut parts = self.parts();
        let Parts { held, disturbed, .. } = &mut *parts;
        for disturbance in disturbed.iter().filter(|disturbance| disturbance.is_caused_by(&placed, in_interval)) {
            held.turn_over(disturbance.offset, disturbance.mask);
        }
        drop(parts);
        self.clock.advance(u64::from(times) * round_ns);
    }

    /// As fast as the channel that has most of them.
    fn stream(&self, offsets: &[u64]) -> Option<Streamed> {
        let mut by_channel: BTreeMap<(usize, usize), u64> = BTreeMap::new();
        for offset in offsets {
            *by_channel.entry(self.map.channel(self.layout.address_of(*offset)?)?).or_default() += 1;
        }
        let longest = by_channel.into_iter().map(|((_, ways), lines)| lines * ways as u64).max()?;
        let begin_ns = self.clock.now_ns();
        self.pass_time(longest * LINE as u64);
        Some(Streamed { lines: offsets.len() as u64, ns: self.clock.now_ns() - begin_ns })
    }

    fn warm(&self, offsets: &[u64], time: Duration) {
        let slots = offsets.iter().filter_map(|offset| self.map.slot_run(self.layout.address_of(*offset)?));
        let mut parts: BTreeMap<String, f64> = BTreeMap::new();
        for (slot, _) in slots {
            *parts.entry(slot.to_owned()).or_default() += 1.0 / offsets.len() as f64;
        }
        let begin_ns = self.clock.now_ns();
        self.clock.advance(time.as_nanos() as u64);
        if let Some(warmth) = &self.warmth {
            warmth.read_from(begin_ns, self.clock.now_ns(), &parts);
        }
    }

    fn under(&self, load: Load) {
        // What was due until now came under the load before.
        self.scatter(&mut self.parts());
        *self.loaded.lock().unwrap_or_else(PoisonError::into_inner) = Loaded { load, since_ns: self.clock.now_ns() };
    }
}
