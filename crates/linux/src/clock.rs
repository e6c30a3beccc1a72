//! Monotonic time and the machine's own wall clock.

use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use revisum_engine::host::Clock;

/// 1 January 2025: a machine that claims to be earlier has a dead clock battery.
const EARLIEST_BELIEVABLE_MS: i64 = 1_735_689_600_000;

/// The system's clocks.
pub struct SystemClock {
    start: Instant,
}

impl SystemClock {
    /// Counts from now.
    pub fn new() -> Self {
        Self { start: Instant::now() }
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
}
