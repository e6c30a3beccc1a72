//! What measured speed says about the fitting. Nothing is concluded where the cores are the limit, or inside a virtual machine.

use super::expected::{Expected, NotKnown, expected};
use crate::board::{Finding, Found, Weight, free_channels};
use revisum_engine::speed::{Kind, Spread};
use revisum_record::speed::SpeedRecord;

/// Readings spread; tables round.
const SLACK: f64 = 1.04;
/// More than this share of what all cores would do together if each had its own memory: the cores are the limit, not the memory.
const CORES_ARE_THE_LIMIT: f64 = 0.75;
/// Memory that is set up rightly carries at least this share of what its channels could.
const AS_EXPECTED: f64 = 0.65;
/// Less than this share of what two channels carry is what one carries.
const ONE_OF_TWO: f64 = 0.55;

/// A measurement that can be set against what the fitting lets one expect.
struct Judged {
    expected: Expected,
    reached: Spread,
    /// Each core was slowed down by the others.
    memory_is_the_limit: bool,
    /// A slot of each channel that has no module.
    free: Vec<String>,
}

/// The best that a number of cores read or wrote.
fn best(record: &SpeedRecord, cores: usize) -> Option<Spread> {
    let each = [Kind::Read, Kind::Stream].into_iter().filter_map(|kind| record.of_memory(kind, cores));
    each.max_by(|a, b| a.value.total_cmp(&b.value))
}

/// Why nothing can be concluded from a measurement.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NotJudged {
    /// Inside a virtual machine others share the memory.
    Guest,
    /// How fast it should be is not known.
    NotExpected(NotKnown),
    /// No working set was larger than the caches.
    Small,
}

/// # Errors
/// Why nothing can be concluded.
fn judge(record: &SpeedRecord) -> Result<Judged, NotJudged> {
    if record.guest {
        return Err(NotJudged::Guest);
    }
    let expected = expected(&record.board).map_err(NotJudged::NotExpected)?;
    let counts = record.core_counts();
    let most = counts.last().copied().unwrap_or(1);
    let Some(reached) = best(record, most) else {
        return Err(NotJudged::Small);
    };
    let alone = best(record, 1).filter(|_| most > 1);
    let memory_is_the_limit = alone
        .is_some_and(|alone| reached.value < alone.value * most as f64 * CORES_ARE_THE_LIMIT)
        || reached.value >= expected.most() * AS_EXPECTED;
    let free = free_channels(&record.board);
    Ok(Judged { expected, reached, memory_is_the_limit, free })
}

/// What a measurement shows to be off, with what it follows from.
#[derive(Clone, Debug, PartialEq)]
pub enum SpeedSign {
    /// All modules share one channel of several.
    OneChannel {
        /// Bytes a second.
        rate: f64,
        /// Of what the modules could carry, spread out.
        share: f64,
        /// Channels that they could fill.
        could_fill: usize,
        /// A slot of each channel that has no module.
        free: Vec<String>,
    },
    /// A channel with a module carries nothing.
    LostChannel {
        /// Bytes a second.
        rate: f64,
        /// Of what the channels could carry.
        share: f64,
        /// Channels with a module.
        channels: usize,
    },
    /// A profile is stored in the modules and not in force.
    ProfileOff {
        /// Bytes a second.
        rate: f64,
        /// Speed in force in MT/s.
        speed: u32,
        /// Speed that the modules are sold for, where that is known.
        sold_for: Option<u32>,
    },
    /// More is carried than the tables allow.
    TablesAreWrong {
        /// Bytes a second.
        rate: f64,
        /// Channels by the tables.
        channels: usize,
        /// Speed by the tables in MT/s.
        speed: u32,
    },
}

/// What a measurement shows to be off.
pub fn speed_signs(record: &SpeedRecord) -> Vec<SpeedSign> {
    let Ok(judged) = judge(record) else { return Vec::new() };
    let rules: [fn(&Judged) -> Option<SpeedSign>; 4] = [one_channel, lost_channel, profile_off, tables_are_wrong];
    rules.iter().filter_map(|rule| rule(&judged)).collect()
}

/// The same as findings about the board.
pub fn speed_findings(record: &SpeedRecord) -> Vec<Finding> {
    speed_signs(record).into_iter().map(SpeedSign::finding).collect()
}

/// Whether it shows that modules share a channel.
pub fn shows_one_channel(record: &SpeedRecord) -> bool {
    speed_signs(record).iter().any(|sign| matches!(sign, SpeedSign::OneChannel { .. }))
}

/// Whether it shows that a profile is off.
pub fn shows_profile_off(record: &SpeedRecord) -> bool {
    speed_signs(record).iter().any(|sign| matches!(sign, SpeedSign::ProfileOff { .. }))
}

/// How measured speed stands to what the channels could carry.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Against {
    /// More than the tables allow.
    More,
    /// As it should be.
    AsExpected,
    /// Less than usual.
    Less,
    /// The cores are the limit, not the memory.
    CoresLimit,
}

/// How fast memory is, set against what it could be.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SpeedVerdict {
    /// Bytes a second.
    pub rate: f64,
    /// Of what the channels could carry.
    pub share: f64,
    /// Channels with a module.
    pub channels: usize,
    /// Speed in force in MT/s.
    pub speed: u32,
    /// What that comes to.
    pub against: Against,
}

/// How it is; the findings say what is not right.
///
/// # Errors
/// Why nothing can be concluded.
pub fn speed_verdict(record: &SpeedRecord) -> Result<SpeedVerdict, NotJudged> {
    let Judged { expected, reached, memory_is_the_limit, .. } = judge(record)?;
    let share = reached.value / expected.most();
    let against = match () {
        () if share > SLACK => Against::More,
        () if share >= AS_EXPECTED => Against::AsExpected,
        () if memory_is_the_limit => Against::Less,
        () => Against::CoresLimit,
    };
    Ok(SpeedVerdict { rate: reached.value, share, channels: expected.channels, speed: expected.speed, against })
}

/// Whether a share is what one of two gives.
pub fn is_about_half(share: f64) -> bool {
    (0.40..=ONE_OF_TWO).contains(&share)
}

impl SpeedSign {
    /// As a finding about the board.
    fn finding(self) -> Finding {
        let weight = match self {
            Self::OneChannel { .. } | Self::LostChannel { .. } => Weight::Doubtful,
            Self::ProfileOff { .. } | Self::TablesAreWrong { .. } => Weight::Note,
        };
        Finding { weight, what: Found::Speed(self) }
    }
}

fn one_channel(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, free, .. } = judged;
    let crowded = expected.channels == 1 && expected.could_fill > 1;
    if !crowded || free.is_empty() || !judged.memory_is_the_limit || reached.value > expected.most() * SLACK {
        return None;
    }
    let (rate, could_fill) = (reached.value, expected.could_fill);
    Some(SpeedSign::OneChannel { rate, share: rate / expected.of_channels(could_fill), could_fill, free: free.clone() })
}

fn lost_channel(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, .. } = judged;
    let (rate, channels) = (reached.value, expected.channels);
    let share = rate / expected.most();
    let lost = channels > 1 && judged.memory_is_the_limit && share <= ONE_OF_TWO;
    lost.then_some(SpeedSign::LostChannel { rate, share, channels })
}

fn profile_off(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, .. } = judged;
    let sold_for = expected.sold_for.filter(|sold| f64::from(*sold) > f64::from(expected.speed) * SLACK);
    let as_expected = (AS_EXPECTED..=SLACK).contains(&(reached.value / expected.most()));
    let sign = SpeedSign::ProfileOff { rate: reached.value, speed: expected.speed, sold_for };
    (expected.profile_off && as_expected).then_some(sign)
}

fn tables_are_wrong(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, .. } = judged;
    let (rate, channels, speed) = (reached.value, expected.channels, expected.speed);
    (reached.low > expected.most() * SLACK).then_some(SpeedSign::TablesAreWrong { rate, channels, speed })
}
