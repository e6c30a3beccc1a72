//! What the core needs from a machine, as traits. `revisum-linux` implements them on real hardware, `revisum-sim` on
//! simulated machines; exactly one place in the application chooses between the two.

use std::io;
use std::ops::Range;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;
use std::time::Duration;

use serde::Serialize;
use thiserror::Error;

use crate::address::AddressMap;
use crate::board::RawFirmware;
use crate::drive::DriveMedium;
use crate::journal::Intake;
use crate::pattern::WordRule;
use crate::speed::{Reach, Work};
use crate::sweep::second_look::WordAccess;
use crate::sweep::{BadLine, BadWord, ElementWork};
use crate::system_log::SystemLogs;
use crate::tally::Lanes;
use crate::units::{ByteRange, PhysAddr, RangeSet};

/// One contiguous piece of held memory.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Segment {
    /// Where it begins in the held memory, in bytes.
    pub offset: u64,
    /// Its length in bytes.
    pub bytes: u64,
    /// Physical address of its first byte, where that is known.
    pub phys: Option<u64>,
}

/// The memory of a lease in the order in which it is swept. Offsets count from zero over all segments.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Layout {
    segments: Vec<Segment>,
}

impl Layout {
    /// Lays pieces of `(physical address, bytes)` one behind the other.
    pub fn new(pieces: impl IntoIterator<Item = (Option<u64>, u64)>) -> Self {
        let mut offset = 0;
        let segments = pieces.into_iter().map(|(phys, bytes)| {
            let segment = Segment { offset, bytes, phys };
            offset += bytes;
            segment
        });
        Self { segments: segments.collect() }
    }

    /// The segments, by ascending offset.
    pub fn segments(&self) -> &[Segment] {
        &self.segments
    }

    /// Bytes held.
    pub fn bytes(&self) -> u64 {
        self.segments.last().map_or(0, |last| last.offset + last.bytes)
    }

    /// True when every physical address is known.
    pub fn addresses_known(&self) -> bool {
        self.segments.iter().all(|segment| segment.phys.is_some())
    }

    /// The segments and parts of segments inside a range of offsets, each as `(segment, bytes to skip, length)`.
    pub fn parts(&self, held: Range<u64>) -> impl DoubleEndedIterator<Item = (usize, Segment, u64, u64)> {
        let first = self.segments.partition_point(|segment| segment.offset + segment.bytes <= held.start);
        let last = self.segments.partition_point(|segment| segment.offset < held.end);
        self.segments[first..last.max(first)].iter().enumerate().map(move |(at, segment)| {
            let start = held.start.max(segment.offset);
            let end = held.end.min(segment.offset + segment.bytes);
            (first + at, *segment, start - segment.offset, end.saturating_sub(start))
        })
    }

    /// Pieces of a range of offsets in which the words so many bytes before lie in one segment too: `(segment, bytes to skip,
    /// length, index of the first of those words)`.
    pub fn parts_moved(&self, held: Range<u64>, moved: u64) -> Vec<(usize, Segment, u64, u64, u64)> {
        let mut pieces = Vec::new();
        for (at, segment, skip, len) in self.parts(held) {
            let from = segment.offset + skip;
            if moved == 0 {
                pieces.push((at, segment, skip, len, self.index_of(from)));
                continue;
            }
            let sources = self.parts(from.saturating_sub(moved)..(from + len).saturating_sub(moved));
            let mut done = 0;
            for (_, source, source_skip, source_len) in sources {
                let index = self.index_of(source.offset + source_skip);
                pieces.push((at, segment, skip + done, source_len, index));
                done += source_len;
            }
        }
        pieces
    }

    /// Physical address of the byte at this offset, where it is known.
    pub fn address_of(&self, offset: u64) -> Option<PhysAddr> {
        let (_, segment, skip, _) = self.parts(offset..offset + 1).next()?;
        segment.phys.map(|phys| PhysAddr(phys + skip))
    }

    /// What the words at this offset are computed from: the address divided by eight, or the offset where unknown.
    pub fn index_of(&self, offset: u64) -> u64 {
        self.address_of(offset).map_or(offset, |address| address.0) >> 3
    }

    /// The offset of a physical address, if it is held.
    pub fn offset_of(&self, address: PhysAddr) -> Option<u64> {
        self.segments.iter().find_map(|segment| {
            let phys = segment.phys?;
            (phys..phys + segment.bytes).contains(&address.0).then(|| segment.offset + (address.0 - phys))
        })
    }

    /// The physical ranges of a range of offsets; unknown addresses contribute nothing.
    pub fn ranges_of(&self, held: Range<u64>) -> RangeSet {
        let known = self.parts(held).filter_map(|(_, segment, skip, len)| {
            segment.phys.map(|phys| ByteRange::new(phys + skip, phys + skip + len))
        });
        known.collect()
    }
}

/// Receives the words that read wrong, at the moment they are found.
pub trait MismatchSink {
    /// `word.offset` counts from the start of the lease. `again` reaches the same word past the caches; after this call
    /// the word may be overwritten by the element.
    fn mismatch(&mut self, word: BadWord, again: &mut dyn WordAccess);
    /// Whether words that read wrong should still be shown one by one. Once this is false, whole lines may be handed over.
    fn looks_again(&self) -> bool;
    /// A cache line of wrong words, `offset` counted from the start of the lease.
    fn line(&mut self, offset: u64, line: &BadLine);
    /// A stretch with wrong words that are counted already.
    fn stretch(&mut self, stretch: &BadStretch);
}

/// Wrong words of one module in a stretch of the lease, counted by whoever simulates them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BadStretch {
    /// The stretch in bytes from the start of the lease.
    pub held: Range<u64>,
    /// Offset of one of the wrong words: all of them belong to the same slot.
    pub one: u64,
    /// How many.
    pub words: u64,
    /// Their wrong bits.
    pub lanes: Lanes,
}

/// What happened to held memory behind our back.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Changes {
    /// Offsets of pages that now live elsewhere: addresses and coverage there are void.
    pub moved: Vec<Range<u64>>,
    /// Offsets of pages that the hardware reported an uncorrectable error in, with the address where it is known.
    pub lost: Vec<(Range<u64>, Option<PhysAddr>)>,
}

/// What the processor does while memory is tested.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Load {
    /// It sweeps.
    #[default]
    Sweeping,
    /// Some cores compute while others sweep.
    Computing,
}

/// Leased memory. Given back when dropped.
pub trait Memory: Send + Sync {
    /// What is held, in sweep order.
    fn layout(&self) -> &Layout;
    /// Whether several workers may sweep at the same time. Simulated memory says no, so that runs are repeatable.
    fn is_concurrent(&self) -> bool;
    /// Runs one march element over a range of offsets.
    fn sweep(&self, held: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink);
    /// Makes sure that the next reads of this range come from the memory, not from a cache.
    fn flush(&self, held: Range<u64>);
    /// Writes one word through to the memory and returns what reads back.
    fn poke(&self, offset: u64, word: u64) -> u64;
    /// Reads one word from the memory itself.
    fn peek(&self, offset: u64) -> u64;
    /// Copies held bytes to other held bytes that do not overlap them; the words were computed by `rule`.
    fn copy(&self, from: Range<u64>, to: u64, rule: WordRule);
    /// Reads each of these words from the memory itself, in turns, so many times.
    fn activate(&self, offsets: &[u64], times: u32);
    /// Physical address of a held byte; nothing once its page has moved.
    fn address_of(&self, offset: u64) -> Option<PhysAddr> {
        self.layout().address_of(offset)
    }
    /// Tells what the processor is about to do. Only simulated memory has to be told.
    fn under(&self, _load: Load) {}
    /// Called by each worker before it begins, on its own thread.
    fn enter_worker(&self, _core: usize) {}
    /// What changed since the last call.
    fn changes(&self) -> Changes {
        Changes::default()
    }
}

/// How much memory to take.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct LeaseRequest {
    /// Exactly this many bytes; as much as the system can spare when absent.
    pub bytes: Option<u64>,
    /// Only memory with physical addresses in this range.
    pub range: Option<ByteRange>,
    /// Past the caches, where memory can be had so.
    pub uncached: bool,
}

/// What could be taken before anything is.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct MemoryOffer {
    /// Memory that the firmware gives to the operating system, as physical ranges; empty where nothing tells.
    pub usable: RangeSet,
    /// Bytes that can be taken now.
    pub reachable_bytes: u64,
    /// Physical ranges of them; empty where they are known only once they are held.
    pub reachable: RangeSet,
    /// Whether physical addresses will be known.
    pub addresses_known: bool,
    /// Who holds what of the rest.
    pub kept: Vec<Kept>,
    /// Why the rest cannot be reached, in plain words with what to do about it.
    pub limits: Vec<String>,
}

/// Memory that cannot be taken.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Kept {
    /// Who holds it, or why it is kept back.
    pub why: String,
    /// Its size in bytes.
    pub bytes: u64,
    /// Physical ranges; empty where only the size is known.
    pub ranges: RangeSet,
}

/// Why no memory was leased.
#[derive(Debug, Error)]
pub enum LeaseError {
    /// More was asked for than can be taken.
    #[error("{asked} of memory were asked for, but only {reachable} can be taken. {why} Ask for less")]
    TooMuch {
        /// Asked for, for people.
        asked: String,
        /// Reachable, for people.
        reachable: String,
        /// What holds the rest, as a sentence.
        why: String,
    },
    /// Somebody changed their mind.
    #[error("taking memory was given up before anything was tested")]
    Abandoned,
    /// The machine is not running.
    #[error("the machine does not start: {0}")]
    DoesNotStart(String),
    /// None of the wanted range could be had.
    #[error("none of the memory in {0} could be taken: the system holds it. Ask for a larger range, or none")]
    OutOfReach(String),
    /// The operating system refused.
    #[error("the system refused to hand over memory while {step}: {source}. {advice}")]
    Refused {
        /// What was being done.
        step: &'static str,
        /// The system's answer.
        source: io::Error,
        /// What to do.
        advice: &'static str,
    },
}

/// Where leases come from.
pub trait MemorySource: Send + Sync {
    /// What could be taken now.
    fn offer(&self) -> MemoryOffer;
    /// Takes memory. `watch` is told now and then how many bytes of how many are taken; it says whether to go on.
    ///
    /// # Errors
    /// When too much is asked for, the system refuses, or `watch` says no.
    fn lease(&self, request: &LeaseRequest, watch: &dyn Fn(u64, u64) -> bool) -> Result<Arc<dyn Memory>, LeaseError>;
}

/// Timing bare loops over memory.
pub trait Speedometer: Send + Sync {
    /// What can be measured.
    fn reach(&self) -> Reach;
    /// Takes memory for working sets of so many bytes together.
    ///
    /// # Errors
    /// When the system refuses.
    fn open(&self, bytes: u64, stop: &AtomicBool) -> Result<Box<dyn SpeedTrack>, LeaseError>;
}

/// Memory that loops go over. Given back when dropped.
pub trait SpeedTrack: Send + Sync {
    /// Times one loop: bytes a second of all cores together, a copied byte counted once; of a latency seconds for one load. Nothing when it
    /// was stopped before that could be told.
    fn time(&self, work: &Work, stop: &AtomicBool) -> Option<f64>;
    /// Share of the memory that lies in large pages, 0 to 1; nothing where that is unknown.
    fn large_pages(&self) -> Option<f64>;
}

/// Time. Durations only ever come from the monotonic side.
pub trait Clock: Send + Sync {
    /// Nanoseconds since some fixed moment; never goes back.
    fn now_ns(&self) -> u64;
    /// Milliseconds since 1970 by the machine's own clock.
    fn wall_ms(&self) -> i64;
    /// True when the wall clock is plainly wrong: suspect computers have dead clock batteries.
    fn wall_is_doubtful(&self) -> bool;
    /// Waits.
    fn sleep(&self, wait: Duration);
}

/// Raw firmware tables.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SmbiosTables {
    /// Major and minor version of the standard.
    pub version: (u8, u8),
    /// The entry point structure.
    pub entry: Vec<u8>,
    /// The structures, as they lie in memory.
    pub bytes: Vec<u8>,
}

impl SmbiosTables {
    /// Tables with their entry point structure (SMBIOS standard DSP0134, entry point structure); nothing when it is none.
    pub fn new(entry: Vec<u8>, bytes: Vec<u8>) -> Option<Self> {
        let at = if entry.starts_with(b"_SM3_") {
            7
        } else if entry.starts_with(b"_SM_") {
            6
        } else {
            return None;
        };
        let version = (*entry.get(at)?, *entry.get(at + 1)?);
        Some(Self { version, entry, bytes })
    }

    /// Tables of this version, with an entry point structure of 64-bit form made for them.
    pub fn of_version(version: (u8, u8), bytes: Vec<u8>) -> Self {
        let mut entry = b"_SM3_".to_vec();
        entry.extend([0, 24, version.0, version.1, 0, 1, 0]);
        entry.extend((bytes.len() as u32).to_le_bytes());
        entry.extend([0; 8]);
        entry[5] = entry.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte)).wrapping_neg();
        Self { version, entry, bytes }
    }
}

/// What the operating system itself knows about the machine.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SystemFacts {
    /// A name for this machine.
    pub machine: String,
    /// What it is for, where somebody said so.
    pub title: String,
    /// Processor in its own words.
    pub processor: String,
    /// Logical cores that may be used.
    pub cores: usize,
    /// Largest cache in bytes; zero when unknown.
    pub cache_bytes: u64,
    /// True inside a virtual machine.
    pub guest: bool,
    /// Total memory that the system sees, in bytes.
    pub seen_bytes: u64,
    /// Settings in force, by name; empty when unknown.
    pub settings: String,
}

/// Firmware and system facts.
pub trait Firmware: Send + Sync {
    /// Everything that the machine says of itself, uninterpreted.
    fn raw(&self) -> RawFirmware;
    /// Memory that the firmware gives to the operating system, by the true memory map.
    fn usable(&self) -> RangeSet {
        self.raw().map.usable()
    }
    /// Facts from the operating system.
    fn facts(&self) -> SystemFacts;
    /// The address map of this fitting, where one is known.
    fn address_map(&self) -> Option<AddressMap>;
}

/// A temperature.
#[derive(Clone, Debug, PartialEq)]
pub struct Reading {
    /// Name of the sensor.
    pub sensor: String,
    /// Degrees Celsius.
    pub celsius: f64,
}

/// Temperature sensors.
pub trait Sensors: Send + Sync {
    /// All readings, the most telling one for memory first.
    fn temperatures(&self) -> Vec<Reading>;
}

/// What the error-correcting hardware has counted since the system started.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct EccCount {
    /// Place as the driver labels it.
    pub label: String,
    /// Corrected errors.
    pub corrected: u64,
    /// Uncorrected errors.
    pub uncorrected: u64,
}

/// Error counters of the memory controller.
pub trait Counters: Send + Sync {
    /// Counts by place; empty where there are no counters.
    fn read(&self) -> Vec<EccCount>;
}

/// A removable drive.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Drive {
    /// Path of the device.
    pub path: String,
    /// Maker and model, as people call it.
    pub name: String,
    /// Its own number, where it has one.
    pub serial: String,
    /// Size in bytes.
    pub bytes: u64,
    /// What is on it, in words.
    pub contents: Vec<String>,
    /// Why nothing is written to it; nothing when it can be.
    pub refused: Option<String>,
    /// It changes when another medium is put in.
    pub medium: String,
}

/// Drives that a boot drive could be written to.
pub trait Drives: Send + Sync {
    /// Removable drives; never a fixed disk.
    ///
    /// # Errors
    /// When the system does not tell.
    fn list(&self) -> io::Result<Vec<Drive>>;
    /// Opens one for writing, if it is still just as it was listed.
    ///
    /// # Errors
    /// With what is different, or why it cannot be opened.
    fn open(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>>;
}

/// Switching the machine.
pub trait Power: Send + Sync {
    /// Clean restart.
    fn restart(&self) -> io::Result<()>;
    /// Clean power-off.
    fn power_off(&self) -> io::Result<()>;
}

/// What the operating systems of a machine logged about memory.
pub trait SystemLog: Send + Sync {
    /// Everything that can be found without asking: the running kernel, what crashes left, files, mounted disks. It may take a while.
    fn found(&self) -> SystemLogs;
}

/// Keeping the machine from falling asleep.
pub trait Awake: Send + Sync {
    /// Keeps it awake as long as the returned value lives; nothing where nothing could put it to sleep.
    fn hold(&self) -> Option<Box<dyn Send>>;
}

/// Where the records of one run go. Nothing counts as kept before `sync` has returned.
pub trait JournalStore: Send {
    /// Adds bytes at the end.
    ///
    /// # Errors
    /// When the medium is full, read-only or gone.
    fn append(&mut self, bytes: &[u8]) -> io::Result<()>;
    /// Returns once everything appended so far survives a power loss.
    ///
    /// # Errors
    /// When the medium cannot promise that.
    fn sync(&mut self) -> io::Result<()>;
}

/// One earlier run of a module.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PastRun {
    /// The run.
    pub run: String,
    /// On which machine.
    pub machine: String,
    /// In which slot.
    pub slot: String,
    /// Its outcome.
    pub outcome: crate::run_state::Outcome,
    /// Errors that were placed in the slot where the module sat, or could have been.
    pub errors: u64,
}

/// What is known of modules from earlier runs.
pub trait History {
    /// Earlier runs of the module with this serial number, oldest first.
    fn of_module(&self, serial: &str) -> Vec<PastRun>;
}

/// Hands that can move modules. Only simulated machines have them; on a real one the technician has.
pub trait Hands: Send + Sync {
    /// Puts modules into slots, `(slot, serial number)`, everything else out.
    ///
    /// # Errors
    /// A sentence that says why the machine cannot be fitted so.
    fn refit(&self, placement: &[(String, String)]) -> Result<(), String>;
    /// Takes modules out and puts them back where they are.
    ///
    /// # Errors
    /// A sentence that says why that cannot be done.
    fn reseat(&self, modules: &[String]) -> Result<(), String>;
    /// Whether the machine starts as it is fitted.
    ///
    /// # Errors
    /// What it does instead, in a sentence.
    fn starts(&self) -> Result<(), String>;
    /// The settings that its firmware offers.
    fn settings(&self) -> Vec<String>;
    /// Puts settings in force.
    ///
    /// # Errors
    /// When the firmware does not offer them.
    fn set(&self, settings: &str) -> Result<(), String>;
    /// Puts a module of another machine on the table.
    ///
    /// # Errors
    /// When there is none with this serial number.
    fn lend(&self, serial: &str) -> Result<(), String>;
    /// Modules on the table: known, but in no slot.
    fn on_the_table(&self) -> Vec<crate::board::Module>;
    /// Names that the technician gave to modules: `(serial number, mark)`.
    fn marks(&self) -> Vec<(String, String)>;
    /// What the owner says.
    fn complaint(&self) -> String;
    /// What was written down when the machine came in, where something was.
    fn intake(&self) -> Option<Intake>;
}

/// Everything that is known and reachable of one machine.
pub struct Machine {
    /// Real memory or simulated memory.
    pub memory: Arc<dyn MemorySource>,
    /// Time.
    pub clock: Arc<dyn Clock>,
    /// Firmware tables and system facts.
    pub firmware: Arc<dyn Firmware>,
    /// Temperatures.
    pub sensors: Arc<dyn Sensors>,
    /// Hardware error counters.
    pub counters: Arc<dyn Counters>,
    /// Staying awake.
    pub awake: Arc<dyn Awake>,
    /// How fast memory is.
    pub speed: Arc<dyn Speedometer>,
    /// What systems logged.
    pub log: Arc<dyn SystemLog>,
    /// Drives that can be taken out.
    pub drives: Arc<dyn Drives>,
    /// Present on simulated machines only.
    pub hands: Option<Arc<dyn Hands>>,
}

impl Machine {
    /// Whether everything this machine shows is simulated.
    pub fn is_simulated(&self) -> bool {
        self.hands.is_some()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn offsets_and_addresses_follow_the_segments() {
        let layout = Layout::new([(Some(0x1000), 0x1000), (Some(0x8000), 0x2000), (None, 0x1000)]);
        assert_eq!(layout.bytes(), 0x4000);
        assert_eq!(layout.address_of(0x0fff), Some(PhysAddr(0x1fff)));
        assert_eq!(layout.address_of(0x1008), Some(PhysAddr(0x8008)));
        assert_eq!(layout.address_of(0x3000), None);
        assert_eq!(layout.address_of(0x4000), None);
        assert_eq!(layout.offset_of(PhysAddr(0x9ff8)), Some(0x2ff8));
        assert_eq!(layout.offset_of(PhysAddr(0x7ff8)), None);
        assert!(!layout.addresses_known());
        let across: Vec<_> = layout.parts(0x0800..0x1800).map(|(at, _, skip, len)| (at, skip, len)).collect();
        assert_eq!(across, [(0, 0x800, 0x800), (1, 0, 0x800)]);
        assert_eq!(layout.ranges_of(0x0800..0x3800).bytes(), 0x2800);
    }
}
