//! Which slots and channels are used, and whether the modules belong together.

use std::collections::BTreeSet;

use super::{Known, finding};
use crate::board::channels::{by_socket, channels, fitted, free_of};
use crate::board::finding::{Finding, Found, Trait, Weight};
use crate::board::maker::is_same;
use crate::speed::shows_one_channel;
use revisum_record::fitted::Module;

pub(super) fn crowded_channel(known: &Known<'_>) -> Option<Finding> {
    let sockets = by_socket(known.board())?;
    let crowded = sockets.iter().find_map(|channels| {
        let (crowded, _) = channels.iter().find(|(_, slots)| fitted(slots) > 1)?;
        let free = free_of(channels);
        (!free.is_empty()).then(|| Found::Crowded { channel: crowded.to_string(), free, of: channels.len() })
    })?;
    // Where that was measured the measurement says it.
    if known.is_guest() || known.speed().is_some_and(shows_one_channel) {
        return None;
    }
    finding(Weight::Doubtful, crowded)
}

pub(super) fn idle_channels(known: &Known<'_>) -> Option<Finding> {
    let channels = channels(known.board())?;
    let used = channels.values().filter(|slots| fitted(slots) > 0).count();
    let modules = known.board().modules().count();
    if used == 0 || used == channels.len() || modules > used || known.is_guest() {
        return None;
    }
    finding(Weight::Note, Found::IdleChannels { used, of: channels.len() })
}

/// What a module is like in one respect; empty when it does not tell.
type Value = fn(&Module) -> String;

pub(super) fn mixed_modules(known: &Known<'_>) -> Option<Finding> {
    let modules: Vec<&Module> =
        known.board().modules().filter(|(slot, _)| !slot.soldered).map(|(_, module)| module).collect();
    // What one module does not tell cannot differ.
    let differs = |(name, value): (Trait, Value)| {
        let values: BTreeSet<String> = modules.iter().map(|module| value(module)).collect();
        (values.len() > 1 && !values.contains("")).then_some(name)
    };
    let kinds: [(Trait, Value); 3] = [
        (Trait::Size, |module| module.bytes.to_string()),
        (Trait::Ranks, |module| module.ranks.map(|ranks| ranks.to_string()).unwrap_or_default()),
        (Trait::Speed, |module| {
            module.base_speed.or(module.rated_speed).map(|speed| speed.to_string()).unwrap_or_default()
        }),
    ];
    // Where channels are known, what they hold together is what matters.
    let sizes_matter = channels(known.board()).is_none();
    let kinds = kinds.into_iter().filter(|(name, _)| *name != Trait::Size || sizes_matter);
    let makers = makers_differ(&modules).then_some(Trait::Maker);
    let mixed: Vec<Trait> = makers.into_iter().chain(kinds.filter_map(differs)).collect();
    if mixed.is_empty() || known.is_guest() {
        return None;
    }
    // Servers are filled with sizes as they were bought; whether they are a pair shows in the rest.
    let weight = if mixed == [Trait::Size] { Weight::Note } else { Weight::Doubtful };
    finding(weight, Found::Mixed(mixed))
}

/// Firmware does not write one maker's name the same way everywhere.
fn makers_differ(modules: &[&Module]) -> bool {
    let Some(first) = modules.first() else { return false };
    let all_tell = modules.iter().all(|module| !module.maker.is_empty());
    all_tell && modules.iter().any(|module| !is_same(&first.maker, &module.maker))
}
