//! One worker: sweeps its share block by block and tallies what reads wrong.

use std::ops::Range;

use super::control::{Control, Order};
use super::plant::Plant;
use super::shares::Share;
use crate::address::Locator;
use crate::ports::{Clock, Memory, MismatchSink};
use crate::sweep::second_look::{Kind, WordAccess, second_look};
use crate::sweep::{BadWord, ElementWork};
use crate::tally::{Sample, Tally};
use crate::units::{PhysAddr, Word};

/// Bytes swept between two looks at the control.
pub const BLOCK_BYTES: u64 = 4 << 20;
/// Samples in one report.
const REPORT_SAMPLES: usize = 16;
/// Clean progress is reported this often.
const REPORT_NS: u64 = 100_000_000;

/// What all workers of one round share.
pub(super) struct Ground<'a> {
    pub memory: &'a dyn Memory,
    pub clock: &'a dyn Clock,
    pub control: &'a Control,
    pub locator: &'a Locator,
    pub work: &'a ElementWork,
    pub plant: Option<Plant>,
    pub test: &'a str,
    pub pass: u32,
    pub element: u32,
    /// Second looks that each worker may take.
    pub looks: u32,
}

/// What a worker did since its last report.
#[derive(Debug, Default)]
pub(super) struct Report {
    pub core: usize,
    pub bytes: u64,
    pub busy_ns: u64,
    pub tally: Tally,
    pub plant_seen: bool,
    /// The worker is about to be held by a pause.
    pub pausing: bool,
}

/// Sweeps the share to its end, or until told otherwise.
pub(super) fn sweep_share(ground: &Ground<'_>, share: &Share, send: &mut dyn FnMut(Report)) {
    ground.memory.enter_worker(share.core);
    let mut sink = Sink::new(ground, share.core);
    let mut report = Report { core: share.core, ..Report::default() };
    let mut last_ns = ground.clock.now_ns();
    for block in blocks(share.held.clone(), ground.work.down) {
        if ground.control.is_paused() {
            report.pausing = true;
            sink.hand_over(&mut report, send);
            ground.control.wait_while_paused();
        }
        if ground.control.order() != Order::Go {
            break;
        }
        let begin_ns = ground.clock.now_ns();
        ground.memory.sweep(block.clone(), ground.work, &mut sink);
        let now_ns = ground.clock.now_ns();
        report.busy_ns += now_ns - begin_ns;
        report.bytes += block.end - block.start;
        if sink.has_news() || now_ns - last_ns >= REPORT_NS {
            sink.hand_over(&mut report, send);
            last_ns = now_ns;
        }
    }
    sink.hand_over(&mut report, send);
}

/// The blocks of a range, in the direction of the sweep.
pub(super) fn blocks(held: Range<u64>, down: bool) -> impl Iterator<Item = Range<u64>> {
    let count = (held.end - held.start).div_ceil(BLOCK_BYTES);
    (0..count).map(move |step| {
        let index = if down { count - 1 - step } else { step };
        let start = held.start + index * BLOCK_BYTES;
        start..(start + BLOCK_BYTES).min(held.end)
    })
}

/// Counts mismatches for one worker.
struct Sink<'a> {
    ground: &'a Ground<'a>,
    core: u16,
    looks: u32,
    tally: Tally,
    plant_seen: bool,
    /// The cache line attributed last, and its slots: a flood must not cost an attribution a word.
    line: Option<(u64, String)>,
}

impl<'a> Sink<'a> {
    fn new(ground: &'a Ground<'a>, core: usize) -> Self {
        let core = u16::try_from(core).unwrap_or(u16::MAX);
        Self { ground, core, looks: ground.looks, tally: Tally::default(), plant_seen: false, line: None }
    }

    fn has_news(&self) -> bool {
        !self.tally.is_empty() || self.plant_seen
    }

    fn hand_over(&mut self, report: &mut Report, send: &mut dyn FnMut(Report)) {
        report.tally = std::mem::take(&mut self.tally);
        report.plant_seen = std::mem::take(&mut self.plant_seen);
        let next = Report { core: report.core, ..Report::default() };
        send(std::mem::replace(report, next));
    }

    fn is_the_plant(&self, word: &BadWord) -> bool {
        self.ground.plant.is_some_and(|plant| {
            plant.offset == word.offset && plant.expected == word.expected && plant.planted == word.actual
        })
    }

    fn slots_of(&mut self, offset: u64, address: Option<PhysAddr>) -> String {
        let line = offset >> 6;
        match &self.line {
            Some((known, slots)) if *known == line => slots.clone(),
            _ => {
                let slots = self.ground.locator.attribute(address).slots.join(" ");
                self.line = Some((line, slots.clone()));
                slots
            }
        }
    }

    fn sample(&self, word: BadWord, address: Option<PhysAddr>, kind: Kind) -> Sample {
        let attribution = self.ground.locator.attribute(address);
        Sample {
            address,
            offset: word.offset,
            expected: Word(word.expected),
            actual: Word(word.actual),
            kind,
            test: self.ground.test.to_owned(),
            pass: self.ground.pass,
            element: self.ground.element,
            core: self.core,
            slots: attribution.slots,
            certainty: attribution.certainty,
        }
    }
}

impl MismatchSink for Sink<'_> {
    fn mismatch(&mut self, word: BadWord, again: &mut dyn WordAccess) {
        if self.is_the_plant(&word) {
            self.plant_seen = true;
            return;
        }
        let kind = if self.looks > 0 {
            self.looks -= 1;
            second_look(again, word.expected, word.actual)
        } else {
            Kind::NotLooked
        };
        let address = self.ground.memory.address_of(word.offset);
        let slots = self.slots_of(word.offset, address);
        let place = address.map_or(word.offset, |address| address.0);
        self.tally.add(word, place, &slots, kind, self.core);
        if self.tally.samples.len() < REPORT_SAMPLES {
            let sample = self.sample(word, address, kind);
            self.tally.samples.push(sample);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blocks_cover_the_range_in_either_direction() {
        let up: Vec<_> = blocks(100..100 + 2 * BLOCK_BYTES + 5, false).collect();
        let mut down: Vec<_> = blocks(100..100 + 2 * BLOCK_BYTES + 5, true).collect();
        down.reverse();
        assert_eq!(up, down);
        assert_eq!((up.len(), up[0].start, up[2].end), (3, 100, 100 + 2 * BLOCK_BYTES + 5));
    }
}
