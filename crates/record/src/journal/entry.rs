//! What a run's journal says.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::carry::{Carried, Repeated};
use crate::fitted::{Board, MappedDevice};
use revisum_engine::host::CoreClock;
use revisum_engine::news::{EndReason, ErrorReport, News, Progress, RowsOpened, TestEnd};
use revisum_engine::recipe::Recipe;
use revisum_engine::rows::Halves;
use revisum_engine::units::{PhysAddr, RangeSet};

/// Who runs what on which machine.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Begin {
    /// Version of the journal format.
    pub format: u32,
    /// Program version.
    pub program: String,
    /// Machine under test.
    pub machine: String,
    /// Job that the run belongs to.
    pub job: String,
    /// Everything in this run is simulated.
    pub simulated: bool,
    /// Addresses are a virtual machine's own.
    pub guest: bool,
    /// What its firmware says of the addresses of each device counts all the same: for tests.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub ranges_trusted: bool,
    /// Milliseconds since 1970 at the start.
    pub wall_ms: i64,
    /// The machine's clock is plainly wrong.
    pub wall_doubtful: bool,
    /// Number of this start of a machine among those with these records; 0 when unknown.
    pub boot: u64,
    /// The run began after this, whatever the clock says, in milliseconds since 1970; 0 when unknown.
    pub after_ms: i64,
    /// Seed of all random words and of the place of the planted words.
    pub seed: u64,
    /// What runs.
    pub recipe: Option<Recipe>,
    /// What is fitted.
    pub board: Board,
    /// Settings in force, by name; empty when unknown.
    pub settings: String,
    /// Fitted memory in bytes, where a table tells.
    pub fitted_bytes: Option<u64>,
    /// Memory that the firmware hands to the operating system.
    pub usable_bytes: u64,
    /// The address map of this fitting as a map file, where one is known.
    pub map: Option<String>,
    /// Addresses that devices answer to by the firmware's account.
    pub mapped: Vec<MappedDevice>,
    /// Registers of the memory controller, as the file of saved facts has them; empty where none were read.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub registers: String,
    /// By what the addresses fall into two halves, one for each channel, as time told earlier for this arrangement.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub halves: Option<Halves>,
    /// The channel of slots, as other arrangements of this mainboard showed it earlier, in this machine or in another one.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub channels: BTreeMap<String, u8>,
    /// Addresses of all memory by the firmware.
    pub memory: RangeSet,
    /// Memory is encrypted by the processor.
    pub encrypted: bool,
    /// Why attributions to slots are as sure as they are.
    pub attribution: String,
    /// What earlier parts of this run came to, when it goes on with one that ended early.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub continues: Option<Carried>,
    /// What it repeats, when it is to show again what another run showed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub repeats: Option<Repeated>,
}

impl Begin {
    /// What runs are put in order by: the clock, but never before what was recorded already.
    pub fn order_ms(&self) -> i64 {
        if self.after_ms == 0 { self.wall_ms } else { self.wall_ms.max(self.after_ms.saturating_add(1)) }
    }

    /// The format of the journal, where a newer program wrote it.
    pub fn newer(&self) -> Option<u32> {
        Some(self.format).filter(|format| *format > super::FORMAT_VERSION)
    }
}

/// What is held for the run.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Held {
    /// Bytes held.
    pub bytes: u64,
    /// Physical ranges; empty where addresses are unknown.
    pub ranges: RangeSet,
    /// Whether physical addresses are known.
    pub addresses_known: bool,
    /// Cores that work.
    pub cores: usize,
    /// Seconds that each test is expected to take in one pass, in the order in which they run.
    pub expected: Vec<(String, f64)>,
    /// What could not be held and why.
    pub limits: Vec<String>,
}

/// Ranges in one record: badly fragmented memory can have millions, and a line has to stay readable.
const RANGES_IN_A_RECORD: usize = 20_000;

impl Held {
    /// The records that tell this: one, and more for the ranges that do not fit into it.
    pub fn into_entries(mut self) -> Vec<Entry> {
        let all = std::mem::take(&mut self.ranges);
        let mut pieces = all.ranges().chunks(RANGES_IN_A_RECORD).map(|piece| RangeSet::from(piece.to_vec()));
        self.ranges = pieces.next().unwrap_or_default();
        let mut entries = vec![Entry::Held(self)];
        entries.extend(pieces.map(|ranges| Entry::HeldMore { ranges }));
        entries
    }
}

/// One record of a run's journal.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "record", rename_all = "kebab-case")]
pub enum Entry {
    /// First record.
    Begin(Box<Begin>),
    /// Memory was leased.
    Held(Held),
    /// More held ranges than fit into one record.
    HeldMore {
        /// Further physical ranges.
        ranges: RangeSet,
    },
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
    /// Last record.
    Ended {
        /// Why.
        reason: EndReason,
    },
}

impl From<News> for Entry {
    fn from(news: News) -> Self {
        match news {
            News::PassBegan { pass, seed } => Self::PassBegan { pass, seed },
            News::TestBegan { pass, test } => Self::TestBegan { pass, test },
            News::Progress(told) => Self::Progress(told),
            News::Errors(told) => Self::Errors(told),
            News::Planted { pass, test, address, caught } => Self::Planted { pass, test, address, caught },
            News::Moved { ranges, bytes } => Self::Moved { ranges, bytes },
            News::Uncorrected { address, slots, bytes } => Self::Uncorrected { address, slots, bytes },
            News::Corrected { label, corrected, uncorrected } => Self::Corrected { label, corrected, uncorrected },
            News::Extended { passes } => Self::Extended { passes },
            News::Miscalculated { pass, test, numbers } => Self::Miscalculated { pass, test, numbers },
            News::RowsOpened(told) => Self::RowsOpened(told),
            News::Slept { pass, test, ms } => Self::Slept { pass, test, ms },
            News::Heat { sensor, celsius } => Self::Heat { sensor, celsius },
            News::Clock(clock) => Self::Clock(clock),
            News::Stalled { ms } => Self::Stalled { ms },
            News::Paused => Self::Paused,
            News::Resumed => Self::Resumed,
            News::TestEnded(told) => Self::TestEnded(told),
            News::PassEnded { pass, complete, seconds } => Self::PassEnded { pass, complete, seconds },
            News::Ended { reason } => Self::Ended { reason },
        }
    }
}

#[cfg(test)]
mod tests {
    use revisum_engine::news::RowChoice;
    use revisum_engine::units::ByteRange;
    use rstest::rstest;
    use serde_json::{Value, json};

    use super::*;

    /// What the engine tells is written down under the word and with the members that journals have had from the start.
    #[rstest]
    #[case(News::PassBegan { pass: 2, seed: 7 }, json!({"record": "pass-began", "pass": 2, "seed": 7}))]
    #[case(News::TestBegan { pass: 1, test: "random".into() }, json!({"record": "test-began", "pass": 1, "test": "random"}))]
    #[case(
        News::Planted { pass: 1, test: "random".into(), address: Some(PhysAddr(0x1000)), caught: true },
        json!({"record": "planted", "pass": 1, "test": "random", "address": "0x1000", "caught": true})
    )]
    #[case(
        News::Moved { ranges: [ByteRange::new(0x1000, 0x2000)].into_iter().collect(), bytes: 4096 },
        json!({"record": "moved", "ranges": [["0x1000", "0x2000"]], "bytes": 4096})
    )]
    #[case(
        News::Uncorrected { address: None, slots: vec!["A1".into()], bytes: 4096 },
        json!({"record": "uncorrected", "address": null, "slots": ["A1"], "bytes": 4096})
    )]
    #[case(
        News::Corrected { label: "mc0".into(), corrected: 3, uncorrected: 0 },
        json!({"record": "corrected", "label": "mc0", "corrected": 3, "uncorrected": 0})
    )]
    #[case(News::Extended { passes: 1 }, json!({"record": "extended", "passes": 1}))]
    #[case(
        News::Miscalculated { pass: 1, test: "computing".into(), numbers: 2 },
        json!({"record": "miscalculated", "pass": 1, "test": "computing", "numbers": 2})
    )]
    #[case(
        News::RowsOpened(RowsOpened { pass: 1, test: "row-disturbance".into(), by: RowChoice::Timing, rows: 20, openings: 64_000 }),
        json!({"record": "rows-opened", "pass": 1, "test": "row-disturbance", "by": "timing", "rows": 20, "openings": 64_000})
    )]
    #[case(
        News::Slept { pass: 1, test: "sleep".into(), ms: 180_000 },
        json!({"record": "slept", "pass": 1, "test": "sleep", "ms": 180_000})
    )]
    #[case(News::Clock(CoreClock { lowest_mhz: 800, highest_mhz: 4200 }), json!({"record": "clock", "lowest_mhz": 800, "highest_mhz": 4200}))]
    #[case(News::Heat { sensor: "spd".into(), celsius: 41.5 }, json!({"record": "heat", "sensor": "spd", "celsius": 41.5}))]
    #[case(News::Stalled { ms: 8000 }, json!({"record": "stalled", "ms": 8000}))]
    #[case(News::Paused, json!({"record": "paused"}))]
    #[case(News::Resumed, json!({"record": "resumed"}))]
    #[case(
        News::TestEnded(TestEnd { pass: 1, test: "random".into(), finished: true, errors: 0, bytes_swept: 8, sweep_ns: 9 }),
        json!({"record": "test-ended", "pass": 1, "test": "random", "finished": true, "errors": 0, "bytes_swept": 8, "sweep_ns": 9})
    )]
    #[case(
        News::PassEnded { pass: 1, complete: true, seconds: 0.5 },
        json!({"record": "pass-ended", "pass": 1, "complete": true, "seconds": 0.5})
    )]
    #[case(News::Ended { reason: EndReason::TimeUp }, json!({"record": "ended", "reason": "time-up"}))]
    fn news_become_records(#[case] news: News, #[case] expected: Value) {
        let entry = Entry::from(news);
        let written = serde_json::to_value(&entry).unwrap();
        assert_eq!(written, expected);
        assert_eq!(serde_json::from_value::<Entry>(written).unwrap(), entry);
    }

    #[rstest]
    #[case(0, 5, 5)]
    #[case(9, 5, 10)]
    #[case(9, 50, 50)]
    fn a_run_is_never_put_before_what_was_recorded_already(#[case] after: i64, #[case] wall: i64, #[case] order: i64) {
        assert_eq!(Begin { after_ms: after, wall_ms: wall, ..Begin::default() }.order_ms(), order);
    }

    #[test]
    fn many_ranges_are_told_in_several_records_and_none_is_lost() {
        let ranges: RangeSet = (0..50_000u64).map(|at| ByteRange::new(at * 8192, at * 8192 + 4096)).collect();
        let entries = Held { ranges: ranges.clone(), ..Held::default() }.into_entries();
        let told: Vec<usize> = entries
            .iter()
            .map(|entry| match entry {
                Entry::Held(held) => held.ranges.ranges().len(),
                Entry::HeldMore { ranges } => ranges.ranges().len(),
                other => panic!("{other:?}"),
            })
            .collect();
        assert_eq!(told, [20_000, 20_000, 10_000]);
    }
}
