//! The computer around the memory: its clock, its temperatures, its error counters.

use std::io;
use std::time::Duration;

use serde::{Deserialize, Serialize};

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
    /// Nanoseconds until now in which this program did not run at all although it could have: it was stopped or frozen from outside.
    /// Never goes back.
    fn stalled_ns(&self) -> u64 {
        0
    }
}

/// A temperature.
#[derive(Clone, Debug, PartialEq)]
pub struct Reading {
    /// Name of the sensor.
    pub sensor: String,
    /// Degrees Celsius.
    pub celsius: f64,
}

/// What clock the cores of a processor run at, in MHz.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct CoreClock {
    /// The slowest core.
    pub lowest_mhz: u32,
    /// The fastest.
    pub highest_mhz: u32,
}

impl CoreClock {
    /// What covers both.
    pub fn with(self, other: Self) -> Self {
        Self { lowest_mhz: self.lowest_mhz.min(other.lowest_mhz), highest_mhz: self.highest_mhz.max(other.highest_mhz) }
    }
}

/// The temperature of a memory module.
#[derive(Clone, Debug, PartialEq)]
pub struct ModuleReading {
    /// Where its own description (SPD) stands on the bus, such as `0-0050`.
    pub place: String,
    /// Degrees Celsius.
    pub celsius: f64,
}

/// Temperature sensors, and the clock of the cores.
pub trait Sensors: Send + Sync {
    /// All readings, the most telling one for memory first.
    fn temperatures(&self) -> Vec<Reading>;
    /// Those of thermometers on modules, always in the same order.
    fn modules(&self) -> Vec<ModuleReading> {
        Vec::new()
    }
    /// The clock right now; nothing where nobody tells it.
    fn core_clock(&self) -> Option<CoreClock> {
        None
    }
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

/// Keeping the machine from falling asleep.
pub trait Awake: Send + Sync {
    /// Keeps it awake as long as the returned value lives; nothing where nothing could put it to sleep.
    fn hold(&self) -> Option<Box<dyn Send>>;
}

/// Why a machine is not put to sleep.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NoSleep {
    /// The system offers no sleep in which only the memory stays alive.
    NotOffered,
    /// Nothing would wake it again.
    NoAlarm,
    /// This user may not.
    NotAllowed,
    /// It is worked on from elsewhere: the connection could be lost.
    Remote,
}

/// Sleep in which memory refreshes itself (suspend to RAM, ACPI state S3).
pub trait Sleeper: Send + Sync {
    /// Why not; nothing where it can be done.
    fn refuses(&self) -> Option<NoSleep>;
    /// Sleeps for about so long and comes back by itself. Returns how long it slept.
    ///
    /// # Errors
    /// When the system refuses; it did not sleep then.
    fn sleep(&self, time: Duration) -> io::Result<Duration>;
}
