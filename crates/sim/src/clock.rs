//! Simulated time: it moves when simulated work is done, and only then.

use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;

use revisum_engine::host::Clock;

/// 12 April 2031, 13:16 UTC: where simulated time begins unless told otherwise.
pub const BEGIN_MS: i64 = 1_933_766_160_000;
/// Shorter waits are gathered: the system cannot sleep that precisely.
const LEAST_NAP_NS: u64 = 4_000_000;

/// A clock that runs faster than real time by a fixed factor, or as fast as the work can be done.
pub struct SimClock {
    begin_ms: i64,
    now_ns: AtomicU64,
    /// Simulated seconds per real second; zero for as fast as possible.
    pace: f64,
    owed_ns: AtomicU64,
    /// When the machine woke up last; 0 when it never slept.
    woke_ns: AtomicU64,
}

impl SimClock {
    /// A clock that begins at this wall time.
    pub fn new(begin_ms: i64, pace: f64) -> Self {
        Self { begin_ms, now_ns: AtomicU64::new(0), pace, owed_ns: AtomicU64::new(0), woke_ns: AtomicU64::new(0) }
    }

    /// Lets simulated time pass, and real time in proportion.
    pub fn advance(&self, ns: u64) {
        self.skip(ns);
        if self.pace <= 0.0 {
            return;
        }
        let owed = self.owed_ns.fetch_add((ns as f64 / self.pace) as u64, Ordering::SeqCst);
        if owed >= LEAST_NAP_NS {
            std::thread::sleep(Duration::from_nanos(self.owed_ns.swap(0, Ordering::SeqCst)));
        }
    }

    /// The machine sleeps for so long.
    pub fn sleep_through(&self, time: Duration) {
        self.advance(time.as_nanos() as u64);
        self.woke_ns.store(self.now_ns.load(Ordering::SeqCst), Ordering::SeqCst);
    }

    /// When the machine woke up last; 0 when it never slept.
    pub fn woke_ns(&self) -> u64 {
        self.woke_ns.load(Ordering::SeqCst)
    }

    /// Lets simulated time pass at once.
    pub fn skip(&self, ns: u64) {
        self.now_ns.fetch_add(ns, Ordering::SeqCst);
    }
}

impl Clock for SimClock {
    fn now_ns(&self) -> u64 {
        self.now_ns.load(Ordering::SeqCst)
    }

    fn wall_ms(&self) -> i64 {
        self.begin_ms + (self.now_ns() / 1_000_000) as i64
    }

    fn wall_is_doubtful(&self) -> bool {
        false
    }

    fn sleep(&self, wait: Duration) {
        self.advance(wait.as_nanos() as u64);
    }
}
