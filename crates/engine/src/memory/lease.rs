//! Memory under test: taking it, sweeping it, and being told of wrong words.

use std::io;
use std::ops::Range;
use std::sync::Arc;
use std::time::Duration;

use serde::Serialize;
use thiserror::Error;

use super::Layout;
use crate::pattern::WordRule;
use crate::sweep::second_look::WordAccess;
use crate::sweep::{BadLine, BadWord, ElementWork};
use crate::tally::Lanes;
use crate::units::{ByteRange, PhysAddr, RangeSet};

/// Receives the words that read wrong, at the moment they are found.
pub trait MismatchSink {
    /// `word.offset` counts from the start of the lease. `again` reaches the same word past the caches; after this call
    /// the word may be overwritten by the element.
    fn mismatch(&mut self, word: BadWord, again: &mut dyn WordAccess);
    /// Whether words that read wrong should still be shown one by one. Once this is false, whole lines may be handed over.
    fn looks_again(&self) -> bool;
    /// A cache line of wrong words, `offset` counted from the start of the lease.
    fn line(&mut self, offset: u64, line: &BadLine);
    /// Several such lines in the order of the sweep, each so many bytes further than its offset.
    fn lines(&mut self, from: u64, offsets: &[u64], lines: &[BadLine]) {
        offsets.iter().zip(lines).for_each(|(offset, line)| self.line(from + offset, line));
    }
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
    /// Some cores compute with their widest vectors, all at once, in the steps of [`crate::load`], while others sweep.
    Steps,
}

/// Cache lines that were read as fast as they could be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Streamed {
    /// How many.
    pub lines: u64,
    /// Time that it took, in nanoseconds.
    pub ns: u64,
}

/// Bytes of real memory that are swept in one go: a millisecond.
pub const BLOCK_BYTES: u64 = 4 << 20;

/// Leased memory. Given back when dropped.
pub trait Memory: Send + Sync {
    /// What is held, in sweep order.
    fn layout(&self) -> &Layout;
    /// Whether several workers may sweep at the same time. Simulated memory says no, so that runs are repeatable.
    fn is_concurrent(&self) -> bool;
    /// Bytes that are swept in one go, between two looks at what a person wants. Where nothing is really swept a look costs more than the sweep.
    fn block_bytes(&self) -> u64 {
        BLOCK_BYTES
    }
    /// Runs one march element over a range of offsets.
    fn sweep(&self, held: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink);
    /// Makes sure that the next reads of this range come from the memory, not from a cache.
    /// What was written goes back in the direction of the sweep before it.
    fn flush(&self, held: Range<u64>, down: bool);
    /// Writes one word through to the memory and returns what reads back.
    fn poke(&self, offset: u64, word: u64) -> u64;
    /// Reads one word from the memory itself.
    fn peek(&self, offset: u64) -> u64;
    /// Copies held bytes to other held bytes that do not overlap them; the words were computed by `rule`.
    fn copy(&self, from: Range<u64>, to: u64, rule: WordRule);
    /// Reads each of these words from the memory itself, in turns, so many times.
    fn activate(&self, offsets: &[u64], times: u32);
    /// Reads the cache lines at these offsets once each from the memory itself, on all cores and as many at a time as they can. Nothing where
    /// that cannot be timed.
    fn stream(&self, _offsets: &[u64]) -> Option<Streamed> {
        None
    }
    /// Reads them again and again for about so long. Where that cannot be done nothing happens.
    fn warm(&self, _offsets: &[u64], _time: Duration) {}
    /// Bytes that the program may take for itself beside what is held. Where nothing is really held there is no limit.
    fn spare_bytes(&self) -> u64 {
        u64::MAX
    }
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
    /// Only memory that the system would otherwise use itself, this program's among it.
    pub of_system: bool,
    /// Not what a machine needs to wake up: it is to sleep while the memory is held.
    pub sleeps: bool,
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
    /// Why the rest cannot be reached.
    pub limits: Vec<Limit>,
}

/// Why memory cannot be reached.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Limit {
    /// This user may lock a little only, and sees no addresses.
    LockLimit,
    /// The running system and other programs need the rest.
    System,
}

impl Limit {
    /// All of them.
    pub const ALL: [Self; 2] = [Self::LockLimit, Self::System];

    /// The word in journals.
    pub fn word(self) -> &'static str {
        match self {
            Self::LockLimit => "lock-limit",
            Self::System => "system",
        }
    }
}

/// Who holds memory, or why it is kept back.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum KeptBy {
    /// The kernel: its code and tables.
    Kernel,
    /// The running system and other programs.
    #[default]
    System,
    /// Kept back so that the system stays alive.
    Reserve,
    /// More than this user may lock.
    LockLimit,
    /// Withheld from the kernel, which does not hand it out.
    Withheld,
}

/// Memory that cannot be taken.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Kept {
    /// Who holds it, or why it is kept back.
    pub by: KeptBy,
    /// What the system said of it; else empty.
    pub detail: String,
    /// Its size in bytes.
    pub bytes: u64,
    /// Physical ranges; empty where only the size is known.
    pub ranges: RangeSet,
}

/// Why no memory was leased.
#[derive(Debug, Error)]
pub enum LeaseError {
    /// More was asked for than can be taken.
    #[error("{asked} bytes of memory were asked for, but only {reachable} can be taken")]
    TooMuch {
        /// Asked for, in bytes.
        asked: u64,
        /// Reachable, in bytes.
        reachable: u64,
        /// What holds the rest.
        why: Limit,
    },
    /// Somebody changed their mind.
    #[error("taking memory was given up before anything was tested")]
    Abandoned,
    /// The machine stands elsewhere.
    #[error("the machine stands elsewhere: none of its memory can be reached from here")]
    Elsewhere,
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
