//! Whether the channels of each processor hold as much memory: what one has more than the others is reached through it alone.

use std::collections::BTreeMap;

use super::{Known, finding};
use crate::board::channels::by_socket;
use crate::board::finding::{Finding, Found, ModuleMove, Weight};
use revisum_record::fitted::Slot;

/// A channel with what it holds, in bytes.
type Loads<'a> = BTreeMap<&'a str, u64>;

pub(super) fn unbalanced(known: &Known<'_>) -> Option<Finding> {
    if known.is_guest() {
        return None;
    }
    let sockets = by_socket(known.board())?;
    let uneven = sockets.iter().find(|channels| {
        let filled = channels.iter().filter(|(_, slots)| loads_of(slots) > 0).count();
        // Channels without any module are another finding.
        filled == channels.len() && spread(&loads(channels)) > 0
    })?;
    let loads = loads(uneven);
    let better = better(uneven, spread(&loads));
    let channels = loads.iter().map(|(channel, bytes)| ((*channel).to_owned(), *bytes)).collect();
    finding(Weight::Note, Found::Unbalanced { channels, better })
}

fn loads_of(slots: &[&Slot]) -> u64 {
    slots.iter().filter_map(|slot| slot.module.as_ref()).map(|module| module.bytes).sum()
}

fn loads<'a>(channels: &BTreeMap<&'a str, Vec<&'a Slot>>) -> Loads<'a> {
    channels.iter().map(|(channel, slots)| (*channel, loads_of(slots))).collect()
}

/// How much more the fullest channel holds than the emptiest.
fn spread(loads: &Loads<'_>) -> u64 {
    let most = loads.values().max().copied().unwrap_or(0);
    most - loads.values().min().copied().unwrap_or(0)
}

/// The module that is best moved to a free slot of another channel, where that makes the channels more equal and no channel is left without.
fn better(channels: &BTreeMap<&str, Vec<&Slot>>, now: u64) -> Option<ModuleMove> {
    let all: Vec<(&str, &Slot)> =
        channels.iter().flat_map(|(channel, slots)| slots.iter().map(|slot| (*channel, *slot))).collect();
    let filled = all.iter().filter_map(|(channel, slot)| Some((*channel, *slot, slot.module.as_ref()?.bytes)));
    let movable = filled.filter(|(_, slot, _)| !slot.soldered);
    let moves = movable.flat_map(|(from, slot, bytes)| {
        let free = all.iter().filter(move |(to, free)| *to != from && free.module.is_none());
        free.map(move |(to, free)| (from, slot, bytes, *to, *free))
    });
    let after = |(from, slot, bytes, to, free): (&str, &Slot, u64, &str, &Slot)| {
        let mut loads = loads(channels);
        *loads.get_mut(from)? -= bytes;
        *loads.get_mut(to)? += bytes;
        let emptied = loads.values().any(|bytes| *bytes == 0);
        (!emptied).then(|| (spread(&loads), ModuleMove { from: slot.id.clone(), to: free.id.clone() }))
    };
    let best = moves.filter_map(after).min_by_key(|(spread, _)| *spread);
    best.filter(|(spread, _)| *spread < now).map(|(_, best)| best)
}
