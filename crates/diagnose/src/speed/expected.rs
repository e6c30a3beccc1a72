//! What the fitting lets one expect.

use std::collections::BTreeMap;

use crate::board::Timings;
use revisum_record::fitted::Board;

/// Bytes that a channel moves in one transfer: 64 data lanes (JESD79-4; of DDR5 two subchannels of 32, JESD79-5).
const CHANNEL_BYTES: f64 = 8.0;

/// What the tables say that memory can do at most.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Expected {
    /// Channels with a module.
    pub channels: usize,
    /// Channels that these modules could fill.
    pub could_fill: usize,
    /// Transfers in force in MT/s: the slowest module decides.
    pub speed: u32,
    /// Transfers that all modules are sold for, in MT/s.
    pub sold_for: Option<u32>,
    /// A profile is stored in a module, and none is in force.
    pub profile_off: bool,
    /// Least time to a word of another row by the modules' own timings at their base speed, in nanoseconds: the way to the processor and
    /// back comes on top.
    pub row_ns: Option<f64>,
}

impl Expected {
    /// Bytes a second that so many channels carry at the speed in force.
    pub fn of_channels(&self, channels: usize) -> f64 {
        channels as f64 * f64::from(self.speed) * 1e6 * CHANNEL_BYTES
    }

    /// Bytes a second that the channels in use carry.
    pub fn most(&self) -> f64 {
        self.of_channels(self.channels)
    }
}

/// What tables do not report.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NotKnown {
    /// Which modules are installed.
    Modules,
    /// To which channel each slot belongs.
    Channels,
    /// The speed in force of each module.
    Speeds,
}

/// What a board lets one expect.
///
/// # Errors
/// What the tables do not report.
pub fn expected(board: &Board) -> Result<Expected, NotKnown> {
    let modules: Vec<_> = board.modules().collect();
    if modules.is_empty() {
        return Err(NotKnown::Modules);
    }
    let mut channels: BTreeMap<&str, usize> = BTreeMap::new();
    for slot in &board.slots {
        let Some(channel) = slot.channel.as_deref() else {
            return Err(NotKnown::Channels);
        };
        *channels.entry(channel).or_default() += usize::from(slot.module.is_some());
    }
    let speeds: Option<Vec<u32>> = modules.iter().map(|(_, module)| module.speed.filter(|speed| *speed > 0)).collect();
    let Some(speed) = speeds.and_then(|speeds| speeds.into_iter().min()) else {
        return Err(NotKnown::Speeds);
    };
    let sold_for: Option<Vec<u32>> = modules.iter().map(|(_, module)| module.rated_speed).collect();
    let row = |timings: &str, base: Option<u32>| Some(Timings::parse(timings)?.row_ns(base?));
    let rows: Option<Vec<f64>> = modules.iter().map(|(_, module)| row(&module.timings, module.base_speed)).collect();
    Ok(Expected {
        channels: channels.values().filter(|fitted| **fitted > 0).count(),
        could_fill: channels.len().min(modules.len()),
        speed,
        sold_for: sold_for.and_then(|all| all.into_iter().min()),
        profile_off: board.settings_shown() == Some("stock"),
        row_ns: rows.and_then(|rows| rows.into_iter().reduce(f64::max)),
    })
}
