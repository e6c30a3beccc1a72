//! Which channel each slot is on, as arrangements of one mainboard showed it: a module that was moved or taken out empties a channel, and
//! no error is needed for that.

use std::collections::BTreeMap;

use revisum_record::fitted::Board;

use super::registers::Registers;
use super::{Decoded, decode};

/// Channels by slot, as far as arrangements leave only one.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ShownChannels {
    channels: BTreeMap<String, u8>,
}

/// More slots than a mainboard of these families has.
const MOST_SLOTS: usize = 16;

/// One arrangement: the modules in slots, and of each channel those that registers tell, by size.
struct Arrangement {
    slots: Vec<(usize, u64)>,
    channels: [Vec<u64>; 2],
}

impl ShownChannels {
    /// Nothing was shown.
    pub const NONE: Self = Self { channels: BTreeMap::new() };

    /// From the arrangements of one mainboard, each with the registers that were read in it. Registers that give no map, and
    /// arrangements that contradict each other, show nothing.
    pub fn of<'a>(arrangements: impl IntoIterator<Item = (&'a Registers, &'a Board)>) -> Self {
        let mut names: Vec<String> = Vec::new();
        let mut known: Vec<Arrangement> = Vec::new();
        for (registers, board) in arrangements {
            known.extend(arrangement(registers, board, &mut names));
        }
        if known.is_empty() || names.len() > MOST_SLOTS {
            return Self::default();
        }
        // Every way to deal the slots out to two channels: a bit each. What all that fit have in common is shown.
        let (mut ever, mut always) = (0u32, u32::MAX);
        let mut fits_any = false;
        for dealt in 0..1u32 << names.len() {
            if known.iter().all(|one| one.fits(dealt)) {
                (ever, always, fits_any) = (ever | dealt, always & dealt, true);
            }
        }
        let channel = |at: usize| match (ever >> at & 1, always >> at & 1) {
            (0, _) => Some(0),
            (_, 1) => Some(1),
            _ => None,
        };
        let shown = names.into_iter().enumerate().filter_map(|(at, name)| Some((name, channel(at)?)));
        Self { channels: if fits_any { shown.collect() } else { BTreeMap::new() } }
    }

    /// These slots are on these channels.
    pub fn known(channels: BTreeMap<String, u8>) -> Self {
        Self { channels }
    }

    /// With what was known before, unless that is contradicted.
    pub fn with(self, before: &BTreeMap<String, u8>) -> Self {
        if before.iter().any(|(slot, channel)| self.channel(slot).is_some_and(|shown| shown != *channel)) {
            return self;
        }
        let before = before.iter().map(|(slot, channel)| (slot.clone(), *channel));
        Self { channels: before.chain(self.channels).collect() }
    }

    /// All that were shown.
    pub fn channels(&self) -> &BTreeMap<String, u8> {
        &self.channels
    }

    /// The channel of a slot, where it was shown.
    pub fn channel(&self, slot: &str) -> Option<u8> {
        self.channels.get(slot).copied()
    }

    /// How many slots were shown.
    pub fn count(&self) -> usize {
        self.channels.len()
    }
}

fn arrangement(registers: &Registers, board: &Board, names: &mut Vec<String>) -> Option<Arrangement> {
    let Decoded { map, .. } = decode(registers).ok()?;
    let mut channels = [Vec::new(), Vec::new()];
    for (position, bytes) in map.positions() {
        channels.get_mut(usize::from(position.channel))?.push(bytes);
    }
    channels.iter_mut().for_each(|sizes| sizes.sort_unstable());
    let mut number = |id: &str| {
        names.iter().position(|known| known == id).unwrap_or_else(|| {
            names.push(id.to_owned());
            names.len() - 1
        })
    };
    let slots: Vec<(usize, u64)> = board.modules().map(|(slot, module)| (number(&slot.id), module.bytes)).collect();
    Some(Arrangement { slots, channels })
}

impl Arrangement {
    fn fits(&self, dealt: u32) -> bool {
        let mut sizes = [Vec::new(), Vec::new()];
        for (slot, bytes) in &self.slots {
            sizes[(dealt >> slot & 1) as usize].push(*bytes);
        }
        sizes.iter_mut().for_each(|sizes| sizes.sort_unstable());
        sizes == self.channels
    }
}
