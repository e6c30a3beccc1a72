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

/// A slot of each channel that has no module: the one in which the other channels have theirs, else the last.
pub(super) fn free_of(channels: &Channels<'_>) -> Vec<String> {
    let first_used = channels.values().filter_map(|slots| slots.iter().position(|slot| slot.module.is_some()));
    let used: Vec<usize> = first_used.collect();
    let usual = used.iter().max_by_key(|at| used.iter().filter(|other| other == at).count()).copied();
    let empty = channels.values().filter(|slots| fitted(slots) == 0);
    let free = empty.filter_map(|slots| usual.and_then(|at| slots.get(at)).or(slots.last()));
    free.map(|slot| slot.id.clone()).collect()
}

/// A slot of each channel that has no module.
pub(crate) fn free_channels(board: &Board) -> Vec<String> {
    channels(board).map(|channels| free_of(&channels)).unwrap_or_default()
}
