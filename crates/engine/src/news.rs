//! What a run has to say while it goes on.

use serde::{Deserialize, Serialize};

use crate::host::CoreClock;
use crate::tally::Tally;
use crate::units::{PhysAddr, RangeSet};

/// The step of a test that is no march element: one address bit after the other.
pub const ADDRESS_BITS: &str = "address-bits";
/// The step of a test that is no march element: rows are opened in turns.
pub const OPENING_ROWS: &str = "opening-rows";
/// What follows the element that is carried out on copies.
pub const OF_COPIES: &str = " of-copies";

/// How far a run has come.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Progress {
    /// Pass, from 1.
    pub pass: u32,
    /// Test.
    pub test: String,
    /// Element within the test, from 1.
    pub element: u32,
    /// The element in march notation.
    pub notation: String,
    /// Bytes of this element that are done.
    pub done: u64,
    /// Bytes swept by this test in this pass so far.
    pub test_done: u64,
    /// Nanoseconds of sweeping in this test in this pass so far.
    pub test_ns: u64,
    /// Share of this test that is done, in millionths, by the time that its parts are expected to take.
    pub test_ppm: u32,
}

/// Words that read wrong since the last report.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct ErrorReport {
    /// Pass, from 1.
    pub pass: u32,
    /// Test.
    pub test: String,
    /// Counts and samples.
    pub tally: Tally,
}

/// A test is over for this pass.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct TestEnd {
    /// Pass, from 1.
    pub pass: u32,
    /// Test.
    pub test: String,
    /// All its elements ran over all held memory.
    pub finished: bool,
    /// Words that read wrong.
    pub errors: u64,
    /// Held bytes once for each element.
    pub bytes_swept: u64,
    /// Nanoseconds of the sweeps alone.
    pub sweep_ns: u64,
}

/// Why a run ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum EndReason {
    /// All passes are done.
    Completed,
    /// The time was up.
    TimeUp,
    /// As many words read wrong as the recipe allows.
    ErrorLimit,
    /// The technician stopped it.
    Stopped,
}

/// Rows that were opened often, in turns.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RowsOpened {
    /// Pass, from 1.
    pub pass: u32,
    /// Test.
    pub test: String,
    /// How they were chosen, the least sure of all sets.
    pub by: RowChoice,
    /// Rows of the largest set.
    pub rows: u32,
    /// Openings of each row in one refresh interval of 64 ms, by the set in which they were fewest; 0 where nothing tells.
    pub openings: u64,
}

/// How rows of one bank were found.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum RowChoice {
    /// By the address map.
    Map,
    /// Reads that open rows take longer, and were timed.
    Timing,
    /// Distances at which rows of one bank often lie.
    Guess,
}

/// Something that happened in a run.
#[derive(Clone, Debug, PartialEq)]
pub enum News {
    /// A pass begins.
    PassBegan {
        /// Pass, from 1.
        pass: u32,
        /// Its seed.
        seed: u64,
    },
    /// A test begins.
    TestBegan {
        /// Pass, from 1.
        pass: u32,
        /// Test.
        test: String,
    },
    /// How far it has come.
    Progress(Progress),
    /// Wrong words.
    Errors(Box<ErrorReport>),
    /// A wrong word was planted to prove the checker.
    Planted {
        /// Pass, from 1.
        pass: u32,
        /// Test that had to find it.
        test: String,
        /// Where.
        address: Option<PhysAddr>,
        /// Whether it was reported.
        caught: bool,
    },
    /// Held pages moved: their addresses and coverage no longer count.
    Moved {
        /// Physical ranges that were held.
        ranges: RangeSet,
        /// Bytes.
        bytes: u64,
    },
    /// The hardware reported an uncorrectable memory error in held memory.
    Uncorrected {
        /// Where, if it was said.
        address: Option<PhysAddr>,
        /// Slots that it can come from.
        slots: Vec<String>,
        /// Bytes taken out of the run.
        bytes: u64,
    },
    /// The error-correcting hardware counted errors during the run.
    Corrected {
        /// Place as the driver labels it.
        label: String,
        /// Corrected errors since the last record.
        corrected: u64,
        /// Uncorrected errors since the last record.
        uncorrected: u64,
    },
    /// The run was made longer.
    Extended {
        /// Passes added in all.
        passes: u32,
    },
    /// Numbers computed under load came out wrong.
    Miscalculated {
        /// Pass, from 1.
        pass: u32,
        /// Test.
        test: String,
        /// How many numbers.
        numbers: u64,
    },
    /// Rows were opened often to disturb those beside them.
    RowsOpened(RowsOpened),
    /// The machine slept.
    Slept {
        /// Pass, from 1.
        pass: u32,
        /// Test.
        test: String,
        /// Milliseconds that it slept; 0 where the system refused.
        ms: u64,
    },
    /// A temperature.
    Heat {
        /// Sensor.
        sensor: String,
        /// Degrees Celsius.
        celsius: f64,
    },
    /// The clock of the cores so far in this test, from the slowest to the fastest.
    Clock(CoreClock),
    /// Nothing ran for a while: the program was stopped or frozen from outside.
    Stalled {
        /// Milliseconds.
        ms: u64,
    },
    /// Paused.
    Paused,
    /// Going on.
    Resumed,
    /// A test is over for this pass.
    TestEnded(TestEnd),
    /// A pass is over.
    PassEnded {
        /// Pass, from 1.
        pass: u32,
        /// Every test of it finished.
        complete: bool,
        /// Seconds it took, pauses left out.
        seconds: f64,
    },
    /// The run is over; nothing comes after this.
    Ended {
        /// Why.
        reason: EndReason,
    },
}
