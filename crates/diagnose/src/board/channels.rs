//! Which slots share a channel.

use std::collections::BTreeMap;

use revisum_record::fitted::{Board, Slot};

/// Slots by channel, where every slot tells its channel and there are several channels.
pub(super) fn channels(board: &Board) -> Option<BTreeMap<&str, Vec<&Slot>>> {
    let mut channels: BTreeMap<&str, Vec<&Slot>> = BTreeMap::new();
    for slot in &board.slots {
        channels.entry(slot.channel.as_deref()?).or_default().push(slot);
    }
    (channels.len() > 1).then_some(channels)
}

/// How many of these slots have a module.
pub(super) fn fitted(slots: &[&Slot]) -> usize {
    slots.iter().filter(|slot| slot.module.is_some()).count()
}

/// A slot of each channel that has no module.
pub(crate) fn free_channels(board: &Board) -> Vec<String> {
    let channels = channels(board).unwrap_or_default();
    let empty = channels.values().filter(|slots| fitted(slots) == 0);
    empty.filter_map(|slots| slots.last()).map(|slot| slot.id.clone()).collect()
}
