//! Timing bare loops on this machine: pinned, in large pages where the system gives them.

use std::sync::Barrier;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use revisum_engine::memory::LeaseError;
use revisum_engine::speed::{Kind, Reach, Width, Work, largest_cache, loops};
use revisum_engine::speed::{SpeedTrack, Speedometer};
use revisum_engine::units::{ByteRange, MIB};

use crate::firmware::caches;
use crate::pool::{refused, too_much};
use crate::reserve::{account, is_scarce};
use crate::sys::affinity::{pin, usable_cores};
use crate::sys::mapping::{HUGE, Mapping};
use crate::window::{physical, withheld};

/// Time that one timing takes at least.
const LEAST_TIME: Duration = Duration::from_millis(6);
/// Bytes gone over between two looks at whether to stop: a few milliseconds.
const CHUNK: u64 = 16 * MIB;
/// Loads followed between two looks.
const LOADS: u64 = 1 << 14;
/// Links of a long chain where the caches are no larger: laying more would take longer than following them.
const LEAST_LINKS: u64 = 1 << 20;
/// Share of the memory that can be had which is taken, in percent: what else runs needs to stay in memory while it is measured.
const TAKEN_PERCENT: u64 = 80;

/// This machine's memory.
pub struct LinuxSpeed;

impl Speedometer for LinuxSpeed {
    fn reach(&self) -> Reach {
        let own = account(0).reachable_bytes / 100 * TAKEN_PERCENT;
        let most_bytes = own.max(largest_withheld().map_or(0, |range| range.len()));
        Reach {
            cores: usable_cores().len(),
            caches: caches(),
            widths: Width::ALL.into_iter().filter(|width| loops::has_width(*width)).collect(),
            most_bytes: most_bytes / HUGE as u64 * HUGE as u64,
        }
    }

    fn open(&self, bytes: u64, stop: &AtomicBool) -> Result<Box<dyn SpeedTrack>, LeaseError> {
        let bytes = bytes.next_multiple_of(HUGE as u64);
        let cores = usable_cores();
        let track =
            |mapping| Track { mapping, cores: cores.clone(), largest_cache: largest_cache(&caches(), cores.len()) };
        let own = account(0).reachable_bytes;
        if bytes <= own {
            let mapping =
                Mapping::reserve(bytes as usize).map_err(|error| refused("reserving address space", error.into()))?;
            let track = track(mapping);
            track.take(stop)?;
            return Ok(Box::new(track));
        }
        // On a booted machine the kernel itself has little: what it leaves alone is used instead.
        let Some(range) = largest_withheld().filter(|range| range.len() >= bytes) else {
            return Err(too_much(bytes, own));
        };
        let mapping = physical(ByteRange::new(range.start, range.start + bytes))
            .map_err(|error| refused("mapping memory by its address", error))?;
        Ok(Box::new(track(mapping)))
    }
}

/// The largest range that the kernel leaves alone and hands out, from a whole large page on.
fn largest_withheld() -> Option<ByteRange> {
    let withheld = withheld();
    if withheld.refused.is_some() {
        return None;
    }
    let whole = |range: &ByteRange| ByteRange::new(range.start.next_multiple_of(HUGE as u64).min(range.end), range.end);
    withheld.ranges.ranges().iter().map(whole).max_by_key(|range| range.len())
}

/// Memory that loops go over.
struct Track {
    mapping: Mapping,
    cores: Vec<usize>,
    largest_cache: u64,
}

impl Track {
    /// Brings all of it in, on all cores: what was never written to is one page of zeros for the system.
    fn take(&self, stop: &AtomicBool) -> Result<(), LeaseError> {
        let (bytes, step) = (self.mapping.len(), CHUNK as usize);
        let next = std::sync::atomic::AtomicUsize::new(0);
        let take = || {
            loop {
                let at = next.fetch_add(step, Ordering::Relaxed);
                if at >= bytes || stop.load(Ordering::Relaxed) {
                    return true;
                }
                if is_scarce() {
                    return false;
                }
                let len = step.min(bytes - at);
                // Where locking is not allowed the pages stay where they are as well, for the moment that this takes.
                let _ = self.mapping.populate(at, len);
                let work = Work { kind: Kind::Write, width: Width::W64, stride: 8, bytes: len as u64, cores: 1 };
                self.mapping.go_over(&work, at, len, 1);
            }
        };
        let enough = std::thread::scope(|scope| {
            let threads: Vec<_> = self.cores.iter().map(|_| scope.spawn(take)).collect();
            threads.into_iter().all(|thread| thread.join().unwrap_or(false))
        });
        match (enough, stop.load(Ordering::Relaxed)) {
            (_, true) => Err(LeaseError::Abandoned),
            (true, false) => Ok(()),
            (false, false) => Err(too_much(bytes as u64, next.load(Ordering::Relaxed).min(bytes) as u64)),
        }
    }

    /// Bytes a second of one core, or seconds of one load.
    fn on_core(&self, core: usize, work: &Work, stop: &AtomicBool, together: &Barrier) -> Option<f64> {
        pin(core, &self.cores);
        let at = core * work.bytes as usize;
        if work.kind == Kind::Latency {
            return self.follow(at, work, stop, together);
        }
        let chunk = self.chunk(work);
        // Once before it counts: what the caches can hold comes into them.
        let warmed = self.pass(at, work, chunk, stop);
        together.wait();
        warmed?;
        let (begin, mut moved) = (Instant::now(), 0);
        loop {
            moved += self.pass(at, work, chunk, stop)?;
            let elapsed = begin.elapsed();
            if elapsed >= LEAST_TIME {
                return Some(moved as f64 / elapsed.as_secs_f64());
            }
        }
    }

    /// Bytes of a piece that is gone over in one call, and how often.
    fn chunk(&self, work: &Work) -> (u64, u64) {
        let unit = u64::from(work.gap().unwrap_or(0)).max(256) * 4;
        if work.bytes <= CHUNK { (work.bytes, (MIB / work.bytes).max(1)) } else { (CHUNK / unit * unit, 1) }
    }

    /// The whole working set at least once; nothing when stopped.
    fn pass(&self, at: usize, work: &Work, (chunk, times): (u64, u64), stop: &AtomicBool) -> Option<u64> {
        let mut moved = 0;
        for from in (0..work.bytes).step_by(chunk as usize) {
            if stop.load(Ordering::Relaxed) {
                return None;
            }
            let len = chunk.min(work.bytes - from);
            moved += self.mapping.go_over(work, at + from as usize, len as usize, times);
        }
        Some(moved)
    }

    fn follow(&self, at: usize, work: &Work, stop: &AtomicBool, together: &Barrier) -> Option<f64> {
        const LINE: u64 = 64;
        let most = LEAST_LINKS.max(self.largest_cache / LINE * 8);
        let links = (work.bytes / LINE).min(most);
        let mut chain = self.mapping.lay_chain(at, work.bytes as usize, links as usize, work.bytes);
        let warm = links.next_multiple_of(LOADS).min(LEAST_LINKS);
        let going_on = (0..warm / LOADS).take_while(|_| !stop.load(Ordering::Relaxed));
        let warmed = going_on.map(|_| chain.follow(LOADS)).count();
        together.wait();
        (warmed as u64 == warm / LOADS).then_some(())?;
        let (begin, mut loads) = (Instant::now(), 0);
        loop {
            chain.follow(LOADS);
            loads += LOADS;
            let elapsed = begin.elapsed();
            if elapsed >= LEAST_TIME {
                return Some(elapsed.as_secs_f64() / loads as f64);
            }
            if stop.load(Ordering::Relaxed) {
                return None;
            }
        }
    }
}

impl SpeedTrack for Track {
    fn time(&self, work: &Work, stop: &AtomicBool) -> Option<f64> {
        assert!(
            work.total_bytes() <= self.mapping.len() as u64 && work.cores >= 1,
            "{work:?} is larger than what was taken"
        );
        let together = Barrier::new(work.cores);
        let each: Option<Vec<f64>> = std::thread::scope(|scope| {
            let run = |core| {
                let together = &together;
                scope.spawn(move || self.on_core(core, work, stop, together))
            };
            let threads: Vec<_> = (0..work.cores).map(run).collect();
            threads.into_iter().map(|thread| thread.join().ok().flatten()).collect()
        });
        let each = each?;
        let sum: f64 = each.iter().sum();
        Some(if work.kind == Kind::Latency { sum / each.len() as f64 } else { sum })
    }

    fn large_pages(&self) -> Option<f64> {
        let smaps = std::fs::read_to_string("/proc/self/smaps").ok()?;
        let bytes =
            large_page_bytes(&smaps, self.mapping.ptr() as u64..self.mapping.ptr() as u64 + self.mapping.len() as u64);
        bytes.map(|bytes| (bytes as f64 / self.mapping.len() as f64).min(1.0))
    }
}

/// Bytes in large pages of the mappings that lie in a range of addresses (`Documentation/filesystems/proc.rst` of the kernel).
fn large_page_bytes(smaps: &str, range: std::ops::Range<u64>) -> Option<u64> {
    let mut within = false;
    let mut bytes = None;
    for line in smaps.lines() {
        let mut words = line.split_whitespace();
        let (first, second) = (words.next()?, words.next());
        let addresses = first
            .split_once('-')
            .and_then(|(start, end)| Some((u64::from_str_radix(start, 16).ok()?, u64::from_str_radix(end, 16).ok()?)));
        if let Some((start, end)) = addresses {
            within = start < range.end && end > range.start;
        } else if within && first == "AnonHugePages:" {
            *bytes.get_or_insert(0) += second?.parse::<u64>().ok()? << 10;
        }
    }
    bytes
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn large_pages_are_counted_where_they_belong() {
        let smaps = "1000-2000 rw-p 00000000 00:00 0\nAnonHugePages:  2048 kB\n5000-9000 rw-p 00000000 00:00 0\nSize: 16 kB\n\
                     AnonHugePages:  4096 kB\n9000-a000 rw-p 00000000 00:00 0\nAnonHugePages:  8192 kB\n";
        assert_eq!(large_page_bytes(smaps, 0x5000..0x9000), Some(4 << 20));
        assert_eq!(large_page_bytes(smaps, 0xb000..0xc000), None);
    }

    #[test]
    fn every_loop_gives_a_time_and_a_stop_ends_it() {
        let (reach, stop) = (LinuxSpeed.reach(), AtomicBool::new(false));
        let track = LinuxSpeed.open(8 * MIB, &stop).unwrap();
        let cores = reach.cores.min(2);
        for kind in Kind::ALL {
            for width in reach.widths.iter().copied().filter(|width| kind != Kind::Stream || *width >= Width::W128) {
                for bytes in [4096, 2 * MIB] {
                    let work = Work { kind, width, stride: width.bytes(), bytes, cores };
                    let value = track.time(&work, &stop).unwrap();
                    assert!(value.is_finite() && value > 0.0, "{work:?} {value}");
                }
            }
        }
        let gap = Work { kind: Kind::Read, width: Width::W64, stride: 4096, bytes: 4 * MIB, cores: 1 };
        assert!(track.time(&gap, &stop).unwrap() > 0.0);
        stop.store(true, Ordering::Relaxed);
        assert_eq!(track.time(&gap, &stop), None);
        assert!(matches!(LinuxSpeed.open(64 * MIB, &stop), Err(LeaseError::Abandoned)));
    }

    #[test]
    fn more_than_there_is_is_refused() {
        let error = LinuxSpeed.open(1 << 50, &AtomicBool::new(false)).err().unwrap().to_string();
        assert!(error.contains("can be taken"), "{error}");
    }
}
