//! What has to run clean before a cause is named: everything but the cause.

use super::bench::{Bench, Fit};
use super::suspect::Suspect;

/// A module and its slot.
type Pair = (u8, u8);

/// The fitting that has to run clean before a clear leader is named: what failed first without the leader in play. Nothing where no run is
/// possible without it.
pub(super) fn proof(bench: &Bench<'_>, leader: &Suspect) -> Option<Fit> {
    let original = bench.original()?;
    let setting = if *leader == Suspect::Settings { bench.stock()? } else { original.setting };
    let all: Vec<Pair> =
        (0u8..).zip(&original.module_in).filter_map(|(slot, module)| Some((slot, (*module)?))).collect();
    let mut pairs = match leader {
        Suspect::Controller | Suspect::Other => return None,
        Suspect::TooMany => fewer(bench, original, all),
        Suspect::Position => elsewhere_in_channel(bench, &all),
        Suspect::Kits => largest_kit(bench, all),
        Suspect::Channel(channel) => out_of_channel(bench, &all, channel),
        _ => without(bench, all, leader),
    };
    // A single module has nothing left without it; a known-good one can stand in.
    if pairs.is_empty() && leader.channel().is_none() {
        let good = (0..bench.modules.len() as u8).find(|module| bench.known_good[usize::from(*module)])?;
        pairs.push((original.module_in.iter().position(Option::is_some)? as u8, good));
    }
    let fit = bench.fit(pairs, setting);
    let moves_soldered = (0u8..)
        .zip(&bench.soldered)
        .any(|(slot, soldered)| *soldered && original.module_in[usize::from(slot)] != fit.module_in[usize::from(slot)]);
    (fit.count > 0 && !moves_soldered).then_some(fit)
}

/// Without blamed modules, and with nothing in a blamed slot.
fn without(bench: &Bench<'_>, mut pairs: Vec<Pair>, leader: &Suspect) -> Vec<Pair> {
    match leader {
        Suspect::Pair(_, second) => pairs.retain(|(_, module)| bench.module(second) != Some(*module)),
        _ => {
            let bad: Vec<u8> = leader.modules().into_iter().filter_map(|module| bench.module(module)).collect();
            pairs.retain(|(_, module)| !bad.contains(module));
        }
    }
    if let Some(bad) = leader.slot().and_then(|slot| bench.slot(slot)) {
        let free = free_slots(bench, &pairs).find(|slot| *slot != bad);
        match free {
            Some(free) => pairs.iter_mut().filter(|(slot, _)| *slot == bad).for_each(|(slot, _)| *slot = free),
            None => pairs.retain(|(slot, _)| *slot != bad),
        }
    }
    pairs
}

fn free_slots(bench: &Bench<'_>, pairs: &[Pair]) -> impl Iterator<Item = u8> + use<> {
    let used: Vec<u8> = pairs.iter().map(|(slot, _)| *slot).collect();
    (0..bench.slots.len() as u8).filter(move |slot| !used.contains(slot))
}

/// One module in each channel; where there was no more, half of them.
fn fewer(bench: &Bench<'_>, original: &Fit, mut pairs: Vec<Pair>) -> Vec<Pair> {
    if !original.crowded {
        pairs.truncate(pairs.len() / 2);
        return pairs;
    }
    let mut used = Vec::new();
    pairs.retain(|(slot, _)| {
        let channel = bench.channel[usize::from(*slot)];
        let first = !used.contains(&channel);
        used.push(channel);
        first
    });
    pairs
}

/// Each module that is alone in its channel in another slot of it.
pub(super) fn elsewhere_in_channel(bench: &Bench<'_>, pairs: &[Pair]) -> Vec<Pair> {
    let alone = |slot: u8| pairs.iter().filter(|(other, _)| bench.same_channel(slot, *other)).count() == 1;
    let other = |slot: u8| {
        let mut others = (0..bench.slots.len() as u8).filter(|one| *one != slot && bench.same_channel(slot, *one));
        others.next_back().unwrap_or(slot)
    };
    pairs.iter().map(|(slot, module)| (if alone(*slot) { other(*slot) } else { *slot }, *module)).collect()
}

fn largest_kit(bench: &Bench<'_>, mut pairs: Vec<Pair>) -> Vec<Pair> {
    let of = |module: u8| bench.kit[usize::from(module)];
    let size = |kit: u8| pairs.iter().filter(|(_, module)| of(*module) == kit).count();
    let Some(largest) = pairs.iter().map(|(_, module)| of(*module)).max_by_key(|kit| size(*kit)) else {
        return pairs;
    };
    pairs.retain(|(_, module)| of(*module) == largest);
    pairs
}

/// As many modules as the other channels hold.
fn out_of_channel(bench: &Bench<'_>, pairs: &[Pair], channel: &str) -> Vec<Pair> {
    let blamed = |slot: u8| bench.channels[usize::from(bench.channel[usize::from(slot)])] == channel;
    let (inside, mut kept): (Vec<Pair>, Vec<Pair>) = pairs.iter().partition(|(slot, _)| blamed(*slot));
    let free: Vec<u8> = free_slots(bench, pairs).filter(|slot| !blamed(*slot)).collect();
    kept.extend(free.into_iter().zip(inside).map(|(slot, (_, module))| (slot, module)));
    kept
}

/// Whether all that stays ran clean for long enough without the leader in play.
pub(super) fn is_proved(bench: &Bench<'_>, leader: &Suspect, proof: &Fit) -> bool {
    missing(bench, leader, proof) <= 1e-6
}

/// Passes that are still missing until all that stays ran clean for long enough: clean runs add up, and one that failed since voids them.
pub(super) fn missing(bench: &Bench<'_>, leader: &Suspect, proof: &Fit) -> f64 {
    let mut clean = 0.0;
    for run in bench.runs.iter().filter(|run| !run.struck && proves(bench, leader, proof, &run.fit)) {
        clean = if run.seen.failed() { 0.0 } else { clean + run.passes };
    }
    (bench.priors.stop.proof_passes - clean).max(0.0)
}

/// Whether a clean run of this fitting proves as much as the proof that is thought of.
pub(super) fn proves(bench: &Bench<'_>, leader: &Suspect, proof: &Fit, fit: &Fit) -> bool {
    let fitted = |id: &str| bench.module(id).is_some_and(|module| fit.slot_of[usize::from(module)].is_some());
    let empty = |slot: u8| fit.module_in[usize::from(slot)].is_none();
    let holds_all = proof.slot_of.iter().zip(&fit.slot_of).all(|(wanted, held)| wanted.is_none() || held.is_some());
    let as_many = fit.count >= proof.count;
    let without = match leader {
        Suspect::Pair(a, b) => holds_all && !(fitted(a) && fitted(b)),
        Suspect::NoPart => fit.module_in == proof.module_in,
        Suspect::TooMany => as_many && !fit.crowded && fit.count < bench.original().map_or(0, |first| first.count),
        Suspect::Position => as_many && fit.single_in == proof.single_in,
        Suspect::Kits => as_many && fit.kits == 1,
        Suspect::Channel(channel) => {
            let blamed = |slot: &u8| bench.channels[usize::from(bench.channel[usize::from(*slot)])] == *channel;
            as_many && (0..bench.slots.len() as u8).filter(blamed).all(empty)
        }
        _ => {
            let slot = leader.slot().and_then(|slot| bench.slot(slot));
            holds_all && !leader.modules().into_iter().any(fitted) && slot.is_none_or(empty)
        }
    };
    // Stock settings prove nothing of a machine that runs with a profile.
    fit.setting == proof.setting && fit.channels >= proof.channels && without
}
