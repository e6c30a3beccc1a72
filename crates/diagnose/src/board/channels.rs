//! Which slots share a channel.

use std::collections::BTreeMap;

use revisum_record::fitted::{Board, Slot};

/// Slots by channel.
pub(super) type Channels<'a> = BTreeMap<&'a str, Vec<&'a Slot>>;

/// Slots by channel, where every slot tells its channel and there are several channels.
pub(super) fn channels(board: &Board) -> Option<Channels<'_>> {
    let mut channels: Channels<'_> = BTreeMap::new();
    for slot in &board.slots {
        channels.entry(slot.channel.as_deref()?).or_default().push(slot);
    }
    (channels.len() > 1).then_some(channels)
}

/// The channels of each processor, where every slot tells its channel and there are several: a module cannot be moved from one processor to
/// another without changing what each of them has.
pub(super) fn by_socket(board: &Board) -> Option<Vec<Channels<'_>>> {
    channels(board)?;
    let mut sockets: BTreeMap<Option<&str>, Channels<'_>> = BTreeMap::new();
    for slot in &board.slots {
        let of = sockets.entry(slot.socket.as_deref()).or_default();
        of.entry(slot.channel.as_deref()?).or_default().push(slot);
    }
    Some(sockets.into_values().collect())
}

/// How many of these slots have a module.
pub(super) fn fitted(slots: &[&Slot]) -> usize {
    slots.iter().filter(|slot| slot.module.is_some()).count()
}

/// A slot of each channel that has no module.
pub(super) fn free_of(channels: &Channels<'_>) -> Vec<String> {
    let empty = channels.values().filter(|slots| fitted(slots) == 0);
    empty.filter_map(|slots| slots.last()).map(|slot| slot.id.clone()).collect()
}

/// A slot of each channel that has no module.
pub(crate) fn free_channels(board: &Board) -> Vec<String> {
    channels(board).map(|channels| free_of(&channels)).unwrap_or_default()
}
