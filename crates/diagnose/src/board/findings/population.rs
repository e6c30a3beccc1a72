//! Which slots and channels are used, and whether the modules belong together.

use std::collections::BTreeSet;

use super::{Known, finding};
use crate::board::channels::{channels, fitted, free_channels};
use crate::board::finding::{Finding, Found, Trait, Weight};
use crate::speed::shows_one_channel;
use revisum_record::fitted::Module;

pub(super) fn crowded_channel(known: &Known<'_>) -> Option<Finding> {
    let channels = channels(known.board())?;
    let (crowded, _) = channels.iter().find(|(_, slots)| fitted(slots) > 1)?;
    let free = free_channels(known.board());
    // Where that was measured the measurement says it.
    if free.is_empty() || known.speed().is_some_and(shows_one_channel) {
        return None;
    }
    finding(Weight::Doubtful, Found::Crowded { channel: crowded.to_string(), free })
}

pub(super) fn idle_channels(known: &Known<'_>) -> Option<Finding> {
    let channels = channels(known.board())?;
    let used = channels.values().filter(|slots| fitted(slots) > 0).count();
    let modules = known.board().modules().count();
    if used == 0 || used == channels.len() || modules > used {
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
    let kinds: [(Trait, Value); 4] = [
        (Trait::Maker, |module| module.maker.to_lowercase()),
        (Trait::Size, |module| module.bytes.to_string()),
        (Trait::Ranks, |module| module.ranks.map(|ranks| ranks.to_string()).unwrap_or_default()),
        (Trait::Speed, |module| {
            module.base_speed.or(module.rated_speed).map(|speed| speed.to_string()).unwrap_or_default()
        }),
    ];
    let mixed: Vec<Trait> = kinds.into_iter().filter_map(differs).collect();
    if mixed.is_empty() {
        return None;
    }
    finding(Weight::Doubtful, Found::Mixed(mixed))
}
