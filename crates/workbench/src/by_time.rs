//! What time and warmth tell of the way addresses come to channels: learned on leased memory, and kept for runs.

use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use anyhow::Result;
use revisum_diagnose::address::{FittingKey, KnownHalves, Layout, LearnedMap};
use revisum_diagnose::board::Inventory;
use revisum_diagnose::machine::Machine;
use revisum_engine::memory::{LeaseRequest, Memory};
use revisum_engine::pattern::pass_seed;
use revisum_engine::rows::{
    Channels, MemoryTimer, NoChannels, Rejected, RowFunctions, RowTimer, Warming, channels, holes, learn,
    learn_by_warmth,
};
use revisum_engine::units::PhysAddr;
use revisum_records::{DataDir, WrongUse, keep_halves, keep_learned};
use revisum_words::refused;

/// What is wanted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Wanted {
    /// Memory to time, in bytes.
    pub bytes: u64,
    /// Modules are warmed as well, where they have thermometers.
    pub warm: bool,
}

/// What came out.
#[derive(Clone, Debug)]
pub struct ByTime {
    /// Functions of channels, ranks and banks together.
    pub rows: Result<RowFunctions, Rejected>,
    /// Those of channels among them; nothing where there are no functions.
    pub channels: Option<Result<Channels, NoChannels>>,
    /// Slots on each channel; nothing where modules were not warmed.
    pub warmed: Option<Warmed>,
    /// Time that all of it took, in seconds.
    pub seconds: f64,
    /// Time of day it was done on a simulated machine.
    pub simulated: bool,
    /// The arrangement.
    pub of: FittingKey,
    /// Addresses of all memory by the firmware.
    pub ranges: Vec<revisum_engine::units::ByteRange>,
}

/// What warming modules came to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Warmed {
    /// Fewer modules have a thermometer that belongs to a slot than are installed.
    NoThermometers,
    /// Channel of each slot, as far as that was beyond doubt.
    Slots(Vec<(String, Option<u64>)>),
}

/// How far it has come.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TimingStage {
    /// Pairs of words are timed.
    Rows,
    /// Streams are timed.
    Channels,
    /// Modules are warmed: so many turns of so many at most.
    Warming {
        /// Turns made.
        done: usize,
        /// Of at most.
        of: usize,
    },
}

/// Learns. Nothing where it was stopped before anything was known.
///
/// # Errors
/// When no memory can be taken.
pub fn by_time(
    machine: &Machine,
    wanted: Wanted,
    seed: u64,
    stop: &AtomicBool,
    tell: &mut dyn FnMut(TimingStage),
) -> Result<Option<ByTime>> {
    let offer = machine.memory.offer();
    let request = LeaseRequest { bytes: Some(wanted.bytes.min(offer.reachable_bytes)), ..LeaseRequest::default() };
    let memory = machine
        .memory
        .lease(&request, &|_, _| !stop.load(Ordering::SeqCst))
        .map_err(|error| WrongUse(refused::lease(&error)))?;
    let begin_ns = machine.clock.now_ns();
    let inventory = Inventory::read(&machine.firmware.raw());
    let timer = Stoppable { timer: MemoryTimer::new(memory.as_ref(), machine.clock.as_ref()), stop };
    tell(TimingStage::Rows);
    let rows = learn(&timer, &holes(offer.usable.ranges()), seed);
    let channels = rows.as_ref().ok().map(|rows| {
        tell(TimingStage::Channels);
        channels(&timer, rows, seed)
    });
    if timer.is_stopping() {
        return Ok(None);
    }
    // Stopped from here on, what time told stays.
    let known = channels.as_ref().and_then(|channels| channels.as_ref().ok());
    let warmed = known
        .filter(|known| wanted.warm && known.count() > 1)
        .and_then(|known| warm(machine, memory.as_ref(), &timer, known, &inventory, seed, tell));
    let seconds = machine.clock.now_ns().saturating_sub(begin_ns) as f64 / 1e9;
    let of = FittingKey::of(&inventory.board, &machine.firmware.facts().settings);
    let ranges = inventory.arrays.ranges().to_vec();
    Ok(Some(ByTime { rows, channels, warmed, seconds, simulated: machine.is_simulated(), of, ranges }))
}

/// Memory of which every time is zero once it is to stop: then learning ends by itself, and nothing of it counts.
struct Stoppable<'a> {
    timer: MemoryTimer<'a>,
    stop: &'a AtomicBool,
}

impl Stoppable<'_> {
    fn is_stopping(&self) -> bool {
        self.stop.load(Ordering::SeqCst)
    }
}

impl RowTimer for Stoppable<'_> {
    fn lines(&self) -> u64 {
        self.timer.lines()
    }

    fn address(&self, line: u64) -> Option<PhysAddr> {
        self.timer.address(line)
    }

    fn line_at(&self, address: PhysAddr) -> Option<u64> {
        self.timer.line_at(address)
    }

    fn pair(&self, one: u64, other: u64) -> f64 {
        if self.is_stopping() { 0.0 } else { self.timer.pair(one, other) }
    }

    fn stream(&self, lines: &[u64]) -> Option<f64> {
        if self.is_stopping() { None } else { self.timer.stream(lines) }
    }

    fn stream_lines(&self) -> usize {
        self.timer.stream_lines()
    }
}

/// Modules with thermometers, warmed by reading lines of one channel.
struct Heated<'a> {
    machine: &'a Machine,
    memory: &'a dyn Memory,
    /// Offsets of lines, by channel.
    lines: Vec<Vec<u64>>,
    /// Places of the thermometers that count.
    places: Vec<&'a str>,
}

impl Warming for Heated<'_> {
    fn warm(&self, channel: usize, time: Duration) {
        if let Some(lines) = self.lines.get(channel) {
            self.memory.warm(lines, time);
        }
    }

    fn read(&self) -> Option<Vec<f64>> {
        let readings = self.machine.sensors.modules();
        let of = |place: &&str| readings.iter().find(|reading| reading.place == **place).map(|reading| reading.celsius);
        self.places.iter().map(of).collect()
    }
}

/// Bytes of a line.
const LINE: u64 = 64;
/// Lines that are read to warm a channel: far more than caches hold.
const WARMING_LINES: usize = 1 << 18;
/// Most lines that are drawn for them.
const DRAWN: u32 = 8 << 20;

fn warm(
    machine: &Machine,
    memory: &dyn Memory,
    timer: &Stoppable<'_>,
    channels: &Channels,
    inventory: &Inventory,
    seed: u64,
    tell: &mut dyn FnMut(TimingStage),
) -> Option<Warmed> {
    let readings = machine.sensors.modules();
    let with_slot = readings.iter().filter_map(|reading| inventory.places.get_key_value(&reading.place));
    let (places, slots): (Vec<&str>, Vec<&str>) =
        with_slot.map(|(place, slot)| (place.as_str(), slot.as_str())).unzip();
    let modules = inventory.board.modules().count();
    if places.is_empty() || places.len() < modules {
        return Some(Warmed::NoThermometers);
    }
    let count = usize::try_from(channels.count()).ok()?;
    let lines = lines_of(timer, channels, count, seed);
    let heated = Heated { machine, memory, lines, places };
    let found = learn_by_warmth(&heated, count, modules == count, &mut |done, of| {
        tell(TimingStage::Warming { done, of });
        !timer.is_stopping()
    })?;
    let named = slots.into_iter().zip(found).map(|(slot, channel)| (slot.to_owned(), channel.map(|one| one as u64)));
    Some(Warmed::Slots(named.collect()))
}

/// Lines of each channel, by their offsets.
fn lines_of(timer: &Stoppable<'_>, channels: &Channels, count: usize, seed: u64) -> Vec<Vec<u64>> {
    let mut lines: Vec<Vec<u64>> = vec![Vec::new(); count];
    for at in 0..DRAWN {
        let line = pass_seed(seed ^ 0x3a97_11c3, at) % timer.lines().max(1);
        let channel = timer.address(line).map(|address| channels.of(address) as usize);
        if let Some(own) = channel.and_then(|channel| lines.get_mut(channel)).filter(|own| own.len() < WARMING_LINES) {
            own.push(line * LINE);
        }
        if lines.iter().all(|own| own.len() == WARMING_LINES) {
            break;
        }
    }
    lines
}

/// What became of what was learned.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Kept {
    /// It is in this file now.
    In(PathBuf),
    /// The same was kept before.
    Known,
    /// Nothing says which mainboard it belongs to.
    NoMainboard,
    /// Neither two channels nor one slot for each: runs and Locate could not use it.
    NotUsable,
}

impl ByTime {
    /// Keeps what runs and Locate can use: two halves, and a map of slots where warmth named one for every channel.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn keep(&self, data: &DataDir) -> Result<Kept> {
        let halves = self.known_channels().and_then(Channels::halves);
        if self.of.mainboard.is_empty() {
            return Ok(Kept::NoMainboard);
        }
        // The halves too: a map is only proposed, and they are evidence at once.
        let halves = halves.and_then(|halves| KnownHalves::new(self.of.clone(), &self.ranges, halves));
        let map = self.map();
        if halves.is_none() && map.is_none() {
            return Ok(Kept::NotUsable);
        }
        let kept_halves = halves.map(|halves| keep_halves(data, &halves)).transpose()?.flatten();
        let kept_map = map.map(|map| keep_learned(data, &map)).transpose()?.flatten();
        let file = kept_map.or(kept_halves);
        Ok(file.map_or(Kept::Known, Kept::In))
    }

    fn known_channels(&self) -> Option<&Channels> {
        self.channels.as_ref()?.as_ref().ok()
    }

    /// The slot of every address, where each channel has one module and warmth told which.
    pub fn map(&self) -> Option<LearnedMap> {
        let (channels, Some(Warmed::Slots(slots))) = (self.known_channels()?, &self.warmed) else { return None };
        let named: Vec<(u64, String)> =
            slots.iter().map(|(slot, channel)| Some(((*channel)?, slot.clone()))).collect::<Option<_>>()?;
        LearnedMap::new(self.of.clone(), Layout::of_channels(channels, &named, &self.ranges)?)
    }
}

#[cfg(test)]
mod tests {
    use revisum_sim::SimOptions;
    use rstest::rstest;

    use super::*;
    use crate::wire;

    /// Stopped while modules are warmed, what time told stays; stopped before, nothing is known.
    #[rstest]
    #[case::while_warming(|stage| matches!(stage, TimingStage::Warming { .. }), Some(2))]
    #[case::while_streams_are_timed(|stage| stage == TimingStage::Channels, None)]
    #[case::at_once(|stage| stage == TimingStage::Rows, None)]
    fn what_was_found_before_it_was_stopped_stays(
        #[case] stops_at: fn(TimingStage) -> bool,
        #[case] channels: Option<u64>,
    ) {
        let bench = concat!(env!("CARGO_MANIFEST_DIR"), "/../sim/tests/benches/by-time.toml");
        let machine = wire::simulated(bench, SimOptions { seed: 1, ..SimOptions::default() }).unwrap();
        let stop = AtomicBool::new(false);
        let wanted = Wanted { bytes: 256 << 20, warm: true };
        let mut tell = |stage| stop.store(stop.load(Ordering::SeqCst) || stops_at(stage), Ordering::SeqCst);
        let found = by_time(&machine, wanted, 1, &stop, &mut tell).unwrap();
        assert_eq!(found.as_ref().and_then(|found| Some(found.known_channels()?.count())), channels);
        assert!(found.is_none_or(|found| found.warmed.is_none() && found.map().is_none()));
    }
}
