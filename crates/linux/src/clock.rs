//! Monotonic time and the machine's own wall clock.

use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Weak};
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use revisum_engine::host::Clock;

/// 1 January 2025: a machine that claims to be earlier has a dead clock battery.
const EARLIEST_BELIEVABLE_MS: i64 = 1_735_689_600_000;
/// How often it is noted that this program runs.
const BEAT: Duration = Duration::from_millis(100);
/// From so many nanoseconds without a beat on the program did not run: a busy machine delays a beat by less.
const STALL_NS: u64 = 1_000_000_000;

/// The system's clocks.
pub struct SystemClock {
    start: Instant,
    pulse: Option<Arc<Pulse>>,
}

/// Signs that this program runs.
#[derive(Default)]
struct Pulse {
    /// Nanoseconds from the start to the latest.
    beat_ns: AtomicU64,
    /// Nanoseconds without one, over all gaps that are over.
    stalled_ns: AtomicU64,
}

impl Pulse {
    fn beat(&self, now_ns: u64) {
        let gap = now_ns.saturating_sub(self.beat_ns.load(Ordering::SeqCst));
        if gap >= STALL_NS {
            self.stalled_ns.fetch_add(gap, Ordering::SeqCst);
        }
        self.beat_ns.store(now_ns, Ordering::SeqCst);
    }

    /// A gap that is not over counts too: whoever asks first after it knows of it.
    fn stalled_ns(&self, now_ns: u64) -> u64 {
        loop {
            let (over, beat) = (self.stalled_ns.load(Ordering::SeqCst), self.beat_ns.load(Ordering::SeqCst));
            let gap = Some(now_ns.saturating_sub(beat)).filter(|gap| *gap >= STALL_NS).unwrap_or(0);
            // A beat between the two looks would count its gap twice.
            if self.stalled_ns.load(Ordering::SeqCst) == over {
                return over.saturating_add(gap);
            }
        }
    }
}

impl SystemClock {
    /// Counts from now.
    pub fn new() -> Self {
        let (start, pulse) = (Instant::now(), Arc::new(Pulse::default()));
        let beating = Arc::downgrade(&pulse);
        // Where no thread can be had there is no pulse, and no stall is taken for one.
        let thread = std::thread::Builder::new().name("pulse".to_owned()).spawn(move || keep_beating(start, &beating));
        Self { start, pulse: thread.is_ok().then_some(pulse) }
    }
}

fn keep_beating(start: Instant, pulse: &Weak<Pulse>) {
    while let Some(pulse) = pulse.upgrade() {
        pulse.beat(start.elapsed().as_nanos() as u64);
        drop(pulse);
        std::thread::sleep(BEAT);
    }
}

impl Default for SystemClock {
    fn default() -> Self {
        Self::new()
    }
}

impl Clock for SystemClock {
    fn now_ns(&self) -> u64 {
        self.start.elapsed().as_nanos() as u64
    }

    fn wall_ms(&self) -> i64 {
        let since = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
        i64::try_from(since.as_millis()).unwrap_or(i64::MAX)
    }

    fn wall_is_doubtful(&self) -> bool {
        self.wall_ms() < EARLIEST_BELIEVABLE_MS
    }

    fn sleep(&self, wait: Duration) {
        std::thread::sleep(wait);
    }

    fn stalled_ns(&self) -> u64 {
        self.pulse.as_ref().map_or(0, |pulse| pulse.stalled_ns(self.now_ns()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_gap_counts_once_whoever_looks_first() {
        const SECOND: u64 = 1_000_000_000;
        let pulse = Pulse::default();
        pulse.beat(SECOND / 2);
        assert_eq!(pulse.stalled_ns(SECOND), 0, "half a second late is only busy");
        assert_eq!(pulse.stalled_ns(9 * SECOND), 8 * SECOND + SECOND / 2);
        pulse.beat(9 * SECOND);
        assert_eq!(pulse.stalled_ns(9 * SECOND), 8 * SECOND + SECOND / 2);
        pulse.beat(9 * SECOND + SECOND / 10);
        assert_eq!(pulse.stalled_ns(9 * SECOND + SECOND / 5), 8 * SECOND + SECOND / 2);
    }
}
