//! What one worker finds wrong, counted.

use std::ops::Range;

use super::ground::{Ground, Report};

use crate::memory::{BadStretch, MismatchSink};
use crate::sweep::second_look::{Kind, WordAccess, second_look};
use crate::sweep::{BadLine, BadWord, LineCounts};
use crate::tally::{Sample, Tally};
use crate::units::{PhysAddr, Word};

/// Samples in one report.
const REPORT_SAMPLES: usize = 16;
/// Places begin as pages.
const PAGE: u64 = 4096;

/// Neighbouring wrong words that are counted together: in a flood nothing is looked up word by word.
#[derive(Debug, Default)]
struct Run {
    /// Offsets that belong to it.
    held: Range<u64>,
    words: u64,
}

/// Counts mismatches for one worker.
pub(super) struct Sink<'a> {
    ground: &'a Ground<'a>,
    core: u16,
    looks: u32,
    tally: Tally,
    plant_seen: bool,
    told_any: bool,
    /// Samples offered since the last report.
    offered: u64,
    lines: LineCounts,
    /// The page at hand and its place.
    page: Run,
    place: u64,
    /// The piece at hand that lies in the same slots.
    piece: Run,
    slots: &'a str,
}

impl<'a> Sink<'a> {
    pub fn new(ground: &'a Ground<'a>, core: usize) -> Self {
        Self {
            ground,
            core: u16::try_from(core).unwrap_or(u16::MAX),
            looks: ground.looks,
            tally: Tally::default(),
            plant_seen: false,
            told_any: false,
            offered: 0,
            lines: LineCounts::default(),
            page: Run::default(),
            place: 0,
            piece: Run::default(),
            slots: "",
        }
    }

    pub fn has_news(&self) -> bool {
        !self.tally.is_empty() || self.piece.words > 0 || self.page.words > 0 || self.plant_seen
    }

    /// News, and none was handed over before.
    pub fn has_first_news(&self) -> bool {
        !self.told_any && self.has_news()
    }

    pub fn hand_over(&mut self, report: &mut Report, send: &mut dyn FnMut(Report)) {
        self.settle_page();
        self.settle_piece();
        self.tally.lanes.merge(&self.lines.take());
        self.told_any |= self.has_news();
        // In a flood places soon are long; to begin with pages again would only be work.
        let places = self.tally.places.emptied();
        self.offered = 0;
        report.tally = std::mem::replace(&mut self.tally, Tally { places, ..Tally::default() });
        report.plant_seen = std::mem::take(&mut self.plant_seen);
        let next = Report { core: report.core, ..Report::default() };
        send(std::mem::replace(report, next));
    }

    fn is_the_plant(&self, word: &BadWord) -> bool {
        self.ground.plant.is_some_and(|plant| {
            plant.offset == word.offset && plant.expected == word.expected && plant.planted == word.actual
        })
    }

    fn count(&mut self, word: BadWord, kind: Kind) {
        let address = self.ground.memory.address_of(word.offset);
        let (slots, _) = self.ground.places.slots_run(address);
        self.tally.add(word, place(word.offset, address), slots, kind, self.core);
        self.keep_sample(word, address, kind);
    }

    fn keep_sample(&mut self, word: BadWord, address: Option<PhysAddr>, kind: Kind) {
        let Some(place) = self.room() else { return };
        let (slots, certainty) = self.ground.places.slots_of(address);
        let sample = Sample {
            address,
            offset: word.offset,
            expected: Word(word.expected),
            actual: Word(word.actual),
            kind,
            test: self.ground.test.to_owned(),
            pass: self.ground.pass,
            element: self.ground.element,
            core: self.core,
            slots,
            certainty,
        };
        match self.tally.samples.get_mut(place) {
            Some(kept) => *kept = sample,
            None => self.tally.samples.push(sample),
        }
    }

    /// Where the next sample goes: all that is offered between two reports has the same chance to be kept (Vitter, "Random sampling with a
    /// reservoir", 1985, algorithm R). Were only the first ones kept, what they share would be taken for the fault.
    fn room(&mut self) -> Option<usize> {
        self.offered += 1;
        if self.tally.samples.len() < REPORT_SAMPLES {
            return Some(self.tally.samples.len());
        }
        let mixed = self.offered.wrapping_mul(0x9e37_79b9_7f4a_7c15);
        let place = ((mixed ^ mixed >> 29).wrapping_mul(0xbf58_476d_1ce4_e5b9) >> 32) % self.offered;
        usize::try_from(place).ok().filter(|place| *place < REPORT_SAMPLES)
    }

    #[cold]
    fn line_with_plant(&mut self, offset: u64, line: &BadLine) {
        for word in line.words(offset, self.ground.work.down) {
            if self.is_the_plant(&word) {
                self.plant_seen = true;
            } else {
                self.count(word, Kind::NotLooked);
            }
        }
    }

    fn settle_page(&mut self) {
        if self.page.words > 0 {
            self.tally.places.add(self.place, self.page.words);
        }
        self.page = Run::default();
    }

    fn settle_piece(&mut self) {
        if self.piece.words > 0 {
            self.tally.add_words(self.piece.words, self.slots, Kind::NotLooked, self.core);
        }
        self.piece.words = 0;
    }

    /// Looks up page and slots of a line that is not where the last one was, and keeps its words while there is room.
    #[cold]
    fn enter(&mut self, offset: u64, line: &BadLine) {
        let address = self.ground.memory.address_of(offset);
        let before = offset % 64;
        // Words of one line lie side by side, in memory and in addresses. A flood is not sampled any further: that would slow it down.
        if self.tally.samples.len() < REPORT_SAMPLES {
            for word in line.words(offset, self.ground.work.down) {
                let at = address.map(|address| PhysAddr(address.0 - before + word.offset % 64));
                self.keep_sample(word, at, Kind::NotLooked);
            }
        }
        if !self.page.held.contains(&offset) {
            self.settle_page();
            let start = offset / PAGE * PAGE;
            self.page.held = start..start + PAGE;
            self.place = place(start, address.map(|address| PhysAddr(address.0 - offset % PAGE)));
        }
        if !self.piece.held.contains(&offset) {
            let (slots, run) = self.ground.places.slots_run(address);
            if slots != self.slots {
                self.settle_piece();
            }
            let at = address.map_or(offset, |address| address.0);
            // Beyond the page other addresses may follow.
            let (before, after) = ((at - run.start).min(offset % PAGE), (run.end - at).min(PAGE - offset % PAGE));
            self.piece.held = offset - before..offset + after;
            self.slots = slots;
        }
    }
}

fn place(offset: u64, address: Option<PhysAddr>) -> u64 {
    address.map_or(offset, |address| address.0)
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
        self.count(word, kind);
    }

    fn looks_again(&self) -> bool {
        self.looks > 0
    }

    fn line(&mut self, offset: u64, line: &BadLine) {
        if self.ground.plant.is_some_and(|plant| plant.offset >> 6 == offset >> 6) {
            return self.line_with_plant(offset, line);
        }
        let known = self.piece.held.contains(&offset) && self.page.held.contains(&offset);
        if !known || self.tally.samples.len() < REPORT_SAMPLES {
            self.enter(offset, line);
        }
        let words = self.lines.add(std::slice::from_ref(line));
        self.page.words += words;
        self.piece.words += words;
    }

    fn lines(&mut self, from: u64, offsets: &[u64], lines: &[BadLine]) {
        let (Some(first), Some(last)) = (offsets.first(), offsets.last()) else { return };
        let ends = [from + first, from + last];
        let is_known =
            |sink: &Self| ends.iter().all(|end| sink.page.held.contains(end) && sink.piece.held.contains(end));
        let is_full = self.tally.samples.len() >= REPORT_SAMPLES;
        if let Some(line) = lines.first().filter(|_| is_full && !is_known(self)) {
            self.enter(from + first, line);
        }
        let planted = self.ground.plant.is_some_and(|plant| self.page.held.contains(&plant.offset));
        if !is_full || planted || !is_known(self) {
            return offsets.iter().zip(lines).for_each(|(offset, line)| self.line(from + offset, line));
        }
        let words = self.lines.add(lines);
        self.page.words += words;
        self.piece.words += words;
    }

    fn stretch(&mut self, stretch: &BadStretch) {
        let held = &stretch.held;
        let address = self.ground.memory.address_of(stretch.one);
        let (slots, _) = self.ground.places.slots_run(address);
        self.tally.lanes.merge(&stretch.lanes);
        let start = place(held.start, self.ground.memory.address_of(held.start));
        self.tally.places.add_stretch(start, held.end - held.start, stretch.words);
        self.tally.add_words(stretch.words, slots, Kind::NotLooked, self.core);
    }
}
