//! A locked pool of the machine's memory, swept in physical order.
//!
//! Works on any running Linux. As root the page map tells physical addresses; otherwise they are honestly unknown.
//! Pages can be moved by the kernel even while locked: where allowed that is switched off for the time of the lease, and
//! the page map is read again after every element.

mod kept_out;
mod reached;
mod to_sink;

use std::collections::BTreeSet;
use std::io;
use std::ops::Range;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use revisum_engine::memory::{
    Changes, Kept, KeptBy, Layout, LeaseError, LeaseRequest, Limit, Memory, MemoryOffer, MemorySource, MismatchSink,
    Segment, Streamed,
};
use revisum_engine::pattern::WordRule;
use revisum_engine::sweep::second_look::WordAccess;
use revisum_engine::sweep::{ElementWork, Kernels, LINE};
use revisum_engine::units::{ByteRange, PhysAddr, RangeSet};

use crate::firmware::memory_map;
use crate::low_memory::LowMemory;
use crate::reserve::{account, is_scarce, make_room, spare_bytes};
use crate::sys::affinity::{pin, usable_cores};
use crate::sys::bus_error::{self, Watched};
use crate::sys::mapping::{HUGE, Mapping};
use crate::sys::pagemap::{PAGE, PageMap};
use crate::together::together;
use crate::window::{LOW, Windows, cut, withheld};

use self::kept_out::WithKept;
use self::reached::{Lines, Reached};
use self::to_sink::ToSink;

/// Memory is taken in steps of this size, with a look at what is left after each.
const STEP: usize = 64 << 20;
/// Lines that are dropped from the caches and then read, while modules are warmed.
const WARMED: usize = 4096;
/// Windows whose lines are read at the same time: as many as are open for one worker.
const MOST_WINDOWS: usize = 4;

/// Leases pools.
pub struct PoolSource;

impl MemorySource for PoolSource {
    fn offer(&self) -> MemoryOffer {
        let usable = memory_map::read().usable();
        let withheld = withheld();
        let mut account = account(usable.bytes() - withheld.ranges.bytes());
        match &withheld.refused {
            None => account.reachable_bytes += withheld.ranges.bytes(),
            Some(why) => account.kept.push(Kept {
                by: KeptBy::Withheld,
                detail: why.to_string(),
                bytes: withheld.ranges.bytes(),
                ranges: withheld.ranges,
            }),
        }
        MemoryOffer {
            usable,
            reachable_bytes: account.reachable_bytes,
            // Which pages the kernel hands over is known only once they are held.
            reachable: RangeSet::default(),
            addresses_known: addresses_visible(),
            kept: account.kept,
            limits: account.limits,
        }
    }

    fn lease(&self, request: &LeaseRequest, watch: &dyn Fn(u64, u64) -> bool) -> Result<Arc<dyn Memory>, LeaseError> {
        Ok(Arc::new(Pool::lease(request, watch)?))
    }
}

/// Whether the page map shows frame numbers to this process.
fn addresses_visible() -> bool {
    let probe = Box::new(1u64);
    let mut seen = false;
    let at = (&raw const *probe as u64 / PAGE * PAGE) as *mut u8;
    let walked = PageMap::open().and_then(|map| map.walk(at, PAGE as usize, |_, phys| seen = phys.is_some()));
    walked.is_ok() && seen
}

/// A contiguous piece of the pool: where it lies in the mapping, and physically.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct PoolPart {
    /// Offset in the mapping in bytes.
    pub virt: u64,
    /// Physical address, where known.
    pub phys: Option<u64>,
    /// Length in bytes.
    pub bytes: u64,
    /// It is mapped by its physical address instead.
    pub window: bool,
}

impl PoolPart {
    /// Its physical addresses, where known.
    fn range(&self) -> Option<ByteRange> {
        self.phys.map(|phys| ByteRange::new(phys, phys + self.bytes))
    }
}

/// Locked memory of this machine, and what the kernel leaves alone.
pub struct Pool {
    mapping: WithKept,
    windows: Option<Windows>,
    /// Goes back when all else is over.
    _low: LowMemory,
    mapped: usize,
    parts: Vec<PoolPart>,
    layout: Layout,
    pagemap: Option<PageMap>,
    /// Where a word was written last that is to be found wrong.
    poked: AtomicU64,
    /// Offsets of held pages whose address no longer holds.
    void: Mutex<BTreeSet<u64>>,
    cores: Vec<usize>,
    kernels: Kernels,
    _watched: Option<Watched>,
    _still: StillPages,
}

impl Pool {
    /// Takes, locks and lays out memory.
    ///
    /// # Errors
    /// When too much is asked for, the system refuses, or `watch` says no; see [`MemorySource::lease`].
    pub fn lease(request: &LeaseRequest, watch: &dyn Fn(u64, u64) -> bool) -> Result<Self, LeaseError> {
        let wanted = request.bytes.map(|bytes| bytes.next_multiple_of(PAGE));
        make_room();
        let cores = usable_cores();
        let (windows, mut parts) = window_parts(request, wanted, cores.len())?;
        let there: u64 = parts.iter().map(|part| part.bytes).sum();
        let rest = wanted.map(|wanted| wanted - there);
        let none_left = rest == Some(0) || (request.range.is_some() && there > 0);
        let reachable_bytes = if none_left { 0 } else { account(0).reachable_bytes + kept_out::bytes() };
        if !none_left && rest.unwrap_or(PAGE) > reachable_bytes && (wanted.is_some() || parts.is_empty()) {
            return Err(too_much(wanted.unwrap_or(PAGE), reachable_bytes + there));
        }
        // With a range all that can be had is taken first: where pages come to lie is the kernel's choice.
        let bytes =
            if request.range.is_some() || none_left { reachable_bytes } else { rest.unwrap_or(reachable_bytes) };
        volunteer_as_first_victim();
        let still = StillPages::ask();
        let mapping =
            Mapping::reserve(bytes as usize).map_err(|error| refused("reserving address space", error.into()))?;
        let mut mapping = WithKept::new(mapping, bytes);
        take(&mut mapping, rest.filter(|_| request.range.is_none() && !none_left), watch, cores.len())?;
        let mapped = mapping.len();
        let pagemap = PageMap::open().ok();
        let locked = pool_parts(&mapping, mapped, pagemap.as_ref(), request.range)
            .map_err(|error| refused("reading the page map", error))?;
        parts.extend(within(locked, request.range.and(rest)));
        parts.retain(|part| part.phys.is_some() || windows.is_none());
        parts.sort_unstable_by_key(|part| part.phys);
        if parts.is_empty() {
            let range = request.range.unwrap_or(ByteRange::new(0, 0));
            let shown = format!("{}..{}", PhysAddr(range.start), PhysAddr(range.end));
            return Err(LeaseError::OutOfReach(shown));
        }
        let low = LowMemory::keep(parts.iter().filter(|part| part.window).filter_map(PoolPart::range))
            .map_err(|error| refused("keeping what lies below 1 MiB", error))?;
        let layout = Layout::new(parts.iter().map(|part| (part.phys, part.bytes)));
        let watched = Watched::watch(mapping.ptr(), mapped);
        Ok(Self {
            mapping,
            windows,
            _low: low,
            mapped,
            parts,
            layout,
            pagemap,
            poked: AtomicU64::new(u64::MAX),
            void: Mutex::default(),
            cores,
            kernels: Kernels::detect(),
            _watched: watched,
            _still: still,
        })
    }

    /// Where a piece is, and where it begins there.
    fn reach(&self, at: usize) -> (Reached<'_>, usize) {
        let part = self.parts[at];
        match (&self.windows, part.phys) {
            (Some(windows), Some(phys)) if part.window => {
                (Reached::Window(windows.window(at, ByteRange::new(phys, phys + part.bytes))), 0)
            }
            _ => (Reached::Pool(&self.mapping), part.virt as usize),
        }
    }

    /// The pieces in sweep order, for measuring bare sweeps.
    pub fn parts(&self) -> &[PoolPart] {
        &self.parts
    }

    /// First byte of the mapping, for measuring bare sweeps.
    pub fn ptr(&self) -> *mut u8 {
        self.mapping.ptr()
    }

    /// Whether the hardware reported the page of this held byte bad: its fresh replacement must not be blamed.
    #[inline]
    fn is_lost(&self, offset: u64) -> bool {
        !bus_error::none_reported() && self.is_on_a_lost_page(offset)
    }

    #[cold]
    fn is_on_a_lost_page(&self, offset: u64) -> bool {
        self.lost_pages().contains(&(offset / PAGE * PAGE))
    }

    /// Offset in the held memory of a byte of the mapping.
    fn held_offset(&self, virt: u64) -> Option<u64> {
        self.parts.iter().zip(self.layout.segments()).filter(|(part, _)| !part.window).find_map(|(part, segment)| {
            (part.virt..part.virt + part.bytes).contains(&virt).then(|| segment.offset + (virt - part.virt))
        })
    }

    /// Lines at these offsets; those in more windows than can be open at a time are left out.
    fn lines(&self, offsets: &[u64]) -> Lines<'_> {
        let mut lines = Lines { grounds: Vec::new(), places: Vec::with_capacity(offsets.len()) };
        // The pool's own mapping, or the number of a window's part.
        let mut known: Vec<(Option<usize>, usize)> = Vec::new();
        for offset in offsets {
            let Some((at, _, skip, _)) = self.layout.parts(*offset..offset + 8).next() else { continue };
            let window = self.parts[at].window.then_some(at);
            let seen = known.iter().position(|(of, _)| *of == window);
            let windows = || known.iter().filter(|(of, _)| of.is_some()).count();
            if seen.is_none() && window.is_some() && windows() >= MOST_WINDOWS {
                continue;
            }
            let ground = seen.unwrap_or_else(|| {
                let (ground, start) = self.reach(at);
                lines.grounds.push(ground);
                known.push((window, if window.is_some() { start } else { 0 }));
                known.len() - 1
            });
            let start = if window.is_some() { known[ground].1 } else { self.parts[at].virt as usize };
            lines.places.push((ground, (start + skip as usize) / LINE * LINE));
        }
        lines
    }

    fn void_pages(&self) -> std::sync::MutexGuard<'_, BTreeSet<u64>> {
        self.void.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Pages whose frame is no longer the one that the layout says.
    fn moved_pages(&self) -> Vec<u64> {
        let Some(pagemap) = self.pagemap.as_ref().filter(|_| self.layout.addresses_known()) else { return Vec::new() };
        let mut by_virt: Vec<(PoolPart, u64)> =
            self.parts.iter().copied().zip(self.layout.segments().iter().map(|segment| segment.offset)).collect();
        by_virt.retain(|(part, _)| !part.window);
        by_virt.sort_unstable_by_key(|(part, _)| part.virt);
        let mut moved = Vec::new();
        let mut at = 0;
        let walked = pagemap.walk(self.mapping.ptr(), self.mapped, |page, phys| {
            let virt = page * PAGE;
            while by_virt.get(at).is_some_and(|(part, _)| part.virt + part.bytes <= virt) {
                at += 1;
            }
            let Some((part, offset)) = by_virt.get(at).filter(|(part, _)| part.virt <= virt) else { return };
            let expected = part.phys.map(|phys| phys + (virt - part.virt));
            if phys != expected {
                moved.push(offset + (virt - part.virt));
            }
        });
        // A page map that can no longer be read vouches for nothing; it was readable when the pool was taken.
        if walked.is_err() { by_virt.iter().map(|(_, offset)| *offset).collect() } else { moved }
    }

    fn lost_pages(&self) -> Vec<u64> {
        if bus_error::none_reported() {
            return Vec::new();
        }
        let start = self.mapping.ptr() as u64;
        let ours = bus_error::reported().into_iter().filter(|page| (start..start + self.mapped as u64).contains(page));
        ours.filter_map(|page| self.held_offset(page - start)).collect()
    }
}

impl Memory for Pool {
    fn layout(&self) -> &Layout {
        &self.layout
    }

    fn is_concurrent(&self) -> bool {
        true
    }

    fn sweep(&self, held: Range<u64>, work: &ElementWork, sink: &mut dyn MismatchSink) {
        let mut one = |(at, segment, skip, len, index): (usize, Segment, u64, u64, u64)| {
            let from = segment.offset + skip;
            let (ground, start) = self.reach(at);
            let place = (start + skip as usize, len as usize, index);
            let ground: &Mapping = &ground;
            let looks_again = sink.looks_again();
            let pooled = (!self.parts[at].window).then_some(&self.mapping);
            let mut found =
                ToSink { pool: self, ground, pooled, from, virt: place.0, looks_again, page: None, sink: &mut *sink };
            ground.sweep(self.kernels, place, work, &mut found);
        };
        let parts = self.layout.parts_moved(held, work.moved);
        if work.down {
            parts.into_iter().rev().for_each(&mut one);
        } else {
            parts.into_iter().for_each(&mut one);
        }
    }

    fn flush(&self, held: Range<u64>, down: bool) {
        let one = |(at, _, skip, len): (usize, Segment, u64, u64)| {
            let (ground, start) = self.reach(at);
            ground.flush(start + skip as usize, len as usize, down);
        };
        let parts: Vec<_> = self.layout.parts(held).collect();
        if down { parts.into_iter().rev().for_each(one) } else { parts.into_iter().for_each(one) }
    }

    fn poke(&self, offset: u64, word: u64) -> u64 {
        let Some((at, _, skip, _)) = self.layout.parts(offset..offset + 8).next() else { return !word };
        self.poked.store(offset, Ordering::Relaxed);
        let (ground, start) = self.reach(at);
        let mut place = ground.word(start + skip as usize);
        place.write(word);
        place.read()
    }

    fn peek(&self, offset: u64) -> u64 {
        let Some((at, _, skip, _)) = self.layout.parts(offset..offset + 8).next() else { return 0 };
        let (ground, start) = self.reach(at);
        ground.word(start + skip as usize).read()
    }

    fn copy(&self, from: Range<u64>, to: u64, _rule: WordRule) {
        let moved = to - from.start;
        for (at, segment, skip, len) in self.layout.parts(from) {
            let target = segment.offset + skip + moved;
            let (from_ground, start) = self.reach(at);
            let mut source = start + skip as usize;
            for (target_at, _, target_skip, target_len) in self.layout.parts(target..target + len) {
                let (to_ground, start) = self.reach(target_at);
                from_ground.copy_to(source, &to_ground, start + target_skip as usize, target_len as usize);
                source += target_len as usize;
            }
        }
    }

    fn activate(&self, offsets: &[u64], times: u32) {
        let places = offsets.iter().filter_map(|offset| self.layout.parts(*offset..offset + 8).next());
        // Kept open while their words are read.
        let grounds: Vec<_> = places.map(|(at, _, skip, _)| (self.reach(at), skip as usize)).collect();
        let mut words: Vec<_> = grounds.iter().map(|((ground, start), skip)| ground.word(start + skip)).collect();
        for _ in 0..times {
            for word in &mut words {
                // The value is of no interest: opening the row is.
                let _ = word.read();
            }
        }
    }

    fn warm(&self, offsets: &[u64], time: Duration) {
        let lines = self.lines(offsets);
        let until = Instant::now() + time;
        let read = |own: &[(usize, usize)]| {
            while Instant::now() < until {
                for some in own.chunks(WARMED) {
                    lines.drop_from_caches(some);
                    lines.read(some);
                }
            }
        };
        if together(&self.cores, &lines.places, &|_| {}, &read).is_none() {
            std::thread::sleep(time);
        }
    }

    fn stream(&self, offsets: &[u64]) -> Option<Streamed> {
        let lines = self.lines(offsets);
        let ns = together(&self.cores, &lines.places, &|own| lines.drop_from_caches(own), &|own| lines.read(own))?;
        Some(Streamed { lines: lines.places.len() as u64, ns })
    }

    fn spare_bytes(&self) -> u64 {
        spare_bytes()
    }

    fn address_of(&self, offset: u64) -> Option<PhysAddr> {
        if self.void_pages().contains(&(offset / PAGE * PAGE)) {
            return None;
        }
        self.layout.address_of(offset)
    }

    fn enter_worker(&self, core: usize) {
        pin(core, &self.cores);
    }

    fn changes(&self) -> Changes {
        let lost_before = self.lost_pages();
        let moved_now = self.moved_pages();
        let mut void = self.void_pages();
        let page = |offset: u64| offset..offset + PAGE;
        let lost = lost_before
            .iter()
            .filter(|offset| void.insert(**offset))
            .map(|offset| (page(*offset), self.layout.address_of(*offset)))
            .collect();
        let moved = moved_now.into_iter().filter(|offset| void.insert(*offset)).map(page).collect();
        Changes { moved, lost }
    }
}

pub(crate) fn too_much(asked: u64, reachable_bytes: u64) -> LeaseError {
    let why = account(0).limits.first().copied().unwrap_or(Limit::System);
    LeaseError::TooMuch { asked, reachable: reachable_bytes, why }
}

pub(crate) fn refused(step: &'static str, source: io::Error) -> LeaseError {
    LeaseError::Refused { step, source, advice: "Close other programs, ask for less memory, or run as root" }
}

/// Takes memory step by step and stops before the system runs short. The mapping ends where it stopped.
fn take(
    mapping: &mut Mapping,
    wanted: Option<u64>,
    watch: &dyn Fn(u64, u64) -> bool,
    cores: usize,
) -> Result<(), LeaseError> {
    let bytes = mapping.len();
    let mut taken = 0;
    while taken < bytes {
        if !watch(taken as u64, bytes as u64) {
            return Err(LeaseError::Abandoned);
        }
        let round = (STEP * cores.max(1)).min(bytes - taken);
        let populated = populate(mapping, taken, round);
        if populated.is_ok() && !is_scarce() {
            taken += round;
            continue;
        }
        if let Some(wanted) = wanted {
            return Err(too_much(wanted, taken as u64));
        }
        return match populated {
            Err(error) if taken == 0 => Err(refused("locking memory", error.into())),
            _ => {
                mapping.shorten(taken / HUGE * HUGE);
                Ok(())
            }
        };
    }
    Ok(())
}

/// Populates a part of the mapping, a step on each thread.
fn populate(mapping: &Mapping, from: usize, len: usize) -> Result<(), rustix::io::Errno> {
    std::thread::scope(|scope| {
        let steps = (from..from + len).step_by(STEP).map(|at| (at, STEP.min(from + len - at)));
        let mut threads = Vec::new();
        for (at, len) in steps {
            match std::thread::Builder::new().spawn_scoped(scope, move || mapping.populate(at, len)) {
                Ok(thread) => threads.push(thread),
                Err(_) => mapping.populate(at, len)?,
            }
        }
        threads.into_iter().try_for_each(|thread| thread.join().unwrap_or(Err(rustix::io::Errno::NOMEM)))
    })
}

/// Memory that the kernel leaves alone, in pieces of a window each, as much as is wanted; nothing where there is none, or it is not handed out.
fn window_parts(
    request: &LeaseRequest,
    wanted: Option<u64>,
    workers: usize,
) -> Result<(Option<Windows>, Vec<PoolPart>), LeaseError> {
    let withheld = withheld();
    let ranges = match request.range {
        Some(range) => withheld.ranges.intersection(&RangeSet::from(vec![range])),
        None => withheld.ranges,
    };
    // The kernel gives its own pages only as it has them itself: cached. Through some of those it goes to sleep and wakes up.
    let without_low = request.uncached || request.sleeps;
    let ranges = if without_low { ranges.minus(&RangeSet::from(vec![LOW])) } else { ranges };
    if ranges.ranges().is_empty() || withheld.refused.is_some() || request.of_system {
        return Ok((None, Vec::new()));
    }
    let pieces = cut(&ranges);
    let part =
        |piece: &ByteRange| PoolPart { virt: 0, phys: Some(piece.start), bytes: piece.end - piece.start, window: true };
    let windows = Windows::new(request.uncached, workers)
        .and_then(|windows| windows.probe(&pieces).map(|()| windows))
        .map_err(|error| refused("mapping memory by its address", error))?;
    Ok((Some(windows), within(pieces.iter().map(part).collect(), wanted)))
}

/// The pool's contiguous pieces in physical order, only those inside `range` if one is given.
fn pool_parts(
    mapping: &Mapping,
    mapped: usize,
    pagemap: Option<&PageMap>,
    range: Option<ByteRange>,
) -> io::Result<Vec<PoolPart>> {
    let mut parts: Vec<PoolPart> = Vec::new();
    let mut unknown = pagemap.is_none();
    if let Some(pagemap) = pagemap {
        pagemap.walk(mapping.ptr(), mapped, |page, phys| {
            let virt = page * PAGE;
            let Some(phys) = phys else {
                unknown = true;
                return;
            };
            if range.is_some_and(|range| phys < range.start || phys + PAGE > range.end) {
                return;
            }
            match parts.last_mut() {
                Some(last) if last.virt + last.bytes == virt && last.phys == phys.checked_sub(last.bytes) => {
                    last.bytes += PAGE;
                }
                _ => parts.push(PoolPart { virt, phys: Some(phys), bytes: PAGE, window: false }),
            }
        })?;
    }
    if unknown {
        // Half-known addresses would be worse than none.
        let whole = PoolPart { virt: 0, phys: None, bytes: mapped as u64, window: false };
        return Ok(if range.is_some() { Vec::new() } else { vec![whole] });
    }
    parts.sort_unstable_by_key(|part| part.phys);
    Ok(parts)
}

/// The first `most` bytes of the pieces.
fn within(parts: Vec<PoolPart>, most: Option<u64>) -> Vec<PoolPart> {
    let mut left = most.unwrap_or(u64::MAX);
    let mut kept = Vec::new();
    for part in parts {
        let bytes = part.bytes.min(left);
        if bytes > 0 {
            kept.push(PoolPart { bytes, ..part });
        }
        left -= bytes;
    }
    kept
}

/// If memory does run out, this program shall be the one that ends, not the owner's.
fn volunteer_as_first_victim() {
    // A kernel without this file is no reason not to test.
    let _ = std::fs::write("/proc/self/oom_score_adj", "700");
}

/// While this lives the kernel is asked not to move locked pages (`vm.compact_unevictable_allowed`).
struct StillPages {
    before: Option<String>,
}

const COMPACTION: &str = "/proc/sys/vm/compact_unevictable_allowed";

impl StillPages {
    fn ask() -> Self {
        let before = std::fs::read_to_string(COMPACTION).ok().filter(|value| value.trim() != "0");
        let before = before.filter(|_| std::fs::write(COMPACTION, "0").is_ok());
        Self { before }
    }
}

impl Drop for StillPages {
    fn drop(&mut self) {
        if let Some(before) = &self.before {
            // Nothing depends on it: the worst is that pages keep their places.
            let _ = std::fs::write(COMPACTION, before);
        }
    }
}

#[cfg(test)]
mod tests;
