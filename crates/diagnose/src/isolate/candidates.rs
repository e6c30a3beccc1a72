//! Fittings worth a thought.

use super::bench::{Bench, Fit};
use super::posterior::Odds;
use super::proof::elsewhere_in_channel;

/// A fitting to try, and modules to take out and put back where they are.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Candidate {
    pub fit: Fit,
    pub reseat: Vec<u8>,
}

/// With more places than this only suspects are tried alone in every slot.
const FEW_PLACES: usize = 16;
/// Suspects that are looked at more closely on a large machine.
const MOST_SUSPECTS: usize = 3;

/// As it is, as it was at first, each module alone, all but one, halves, channels, two places exchanged, a known-good one instead,
/// other settings, and everything re-seated.
pub(super) fn candidates(bench: &Bench<'_>, odds: &[Odds]) -> Vec<Candidate> {
    let (Some(original), Some(present)) = (bench.original(), bench.present()) else { return Vec::new() };
    let pairs = pairs(original);
    let mut fits = vec![pairs.clone(), self::pairs(present)];
    fits.extend(alone(bench, original, odds));
    fits.extend(without(bench, &pairs, odds));
    fits.extend(parts(bench, &pairs));
    fits.extend(exchanged(bench, &pairs, odds));
    fits.extend(with_good(bench, &pairs));
    fits.extend(two_together(bench, &pairs, odds));
    fits.extend(kits(bench, &pairs));
    fits.push(halves_exchanged(bench, &pairs));
    fits.push(elsewhere_in_channel(bench, &pairs));
    let soldered: Vec<(u8, u8)> =
        pairs.iter().copied().filter(|(slot, _)| bench.soldered[usize::from(*slot)]).collect();
    let settings = match bench.stock() {
        Some(stock) if stock != original.setting => vec![original.setting, stock],
        _ => vec![original.setting],
    };
    let mut all = Vec::new();
    for pairs in fits {
        let fixed = |(slot, module): &(u8, u8)| {
            bench.soldered[usize::from(*slot)] || soldered.iter().any(|(_, held)| held == module)
        };
        let mut pairs: Vec<(u8, u8)> = pairs.into_iter().filter(|pair| !fixed(pair)).collect();
        pairs.extend(&soldered);
        for setting in &settings {
            let fit = bench.fit(pairs.iter().copied(), *setting);
            let filled = fit.module_in.iter().enumerate().filter(|(_, module)| module.is_some());
            // What failed first can be fitted: it was.
            let takes = fit.module_in == original.module_in
                || bench.case.takes(filled.map(|(slot, _)| bench.slots[slot].as_str()));
            if fit.count > 0 && takes {
                all.push(Candidate { fit, reseat: Vec::new() });
            }
        }
    }
    let movable = (0..bench.modules.len() as u8)
        .filter(|module| present.slot_of[usize::from(*module)].is_some_and(|slot| !bench.soldered[usize::from(slot)]));
    let movable: Vec<u8> = movable.collect();
    if movable.len() > 1 {
        all.extend(movable.iter().map(|module| Candidate { fit: present.clone(), reseat: vec![*module] }));
    }
    if !movable.is_empty() {
        all.push(Candidate { fit: present.clone(), reseat: movable });
    }
    all.sort();
    all.dedup();
    all
}

fn pairs(fit: &Fit) -> Vec<(u8, u8)> {
    (0u8..).zip(&fit.module_in).filter_map(|(slot, module)| Some((slot, (*module)?))).collect()
}

/// Modules that lead the odds, by index.
fn suspects(bench: &Bench<'_>, odds: &[Odds]) -> Vec<u8> {
    let mut all: Vec<u8> = Vec::new();
    for module in odds.iter().filter(|odds| odds.probability > 0.01).flat_map(|odds| odds.suspect.modules()) {
        all.extend(bench.module(module).filter(|module| !all.contains(module)));
    }
    all.truncate(MOST_SUSPECTS);
    all
}

fn alone(bench: &Bench<'_>, original: &Fit, odds: &[Odds]) -> Vec<Vec<(u8, u8)>> {
    let (modules, slots) = (bench.modules.len() as u8, bench.slots.len() as u8);
    let few = usize::from(modules) * usize::from(slots) <= FEW_PLACES;
    let suspects = suspects(bench, odds);
    let first = original.module_in.iter().position(Option::is_some).unwrap_or(0) as u8;
    let mut all = Vec::new();
    for module in 0..modules {
        for slot in 0..slots {
            let own = original.slot_of[usize::from(module)] == Some(slot);
            if few || own || slot == first || suspects.contains(&module) {
                all.push(vec![(slot, module)]);
            }
        }
    }
    all
}

/// All but one, and all but the two that lead.
fn without(bench: &Bench<'_>, pairs: &[(u8, u8)], odds: &[Odds]) -> Vec<Vec<(u8, u8)>> {
    let mut all: Vec<Vec<(u8, u8)>> =
        pairs.iter().map(|out| pairs.iter().copied().filter(|pair| pair != out).collect()).collect();
    if let [a, b, ..] = suspects(bench, odds)[..] {
        all.push(pairs.iter().copied().filter(|(_, module)| *module != a && *module != b).collect());
        all.push(pairs.iter().copied().filter(|(_, module)| *module == a || *module == b).collect());
    }
    // Its module moved to a free slot shows a bad slot with everything else as it was.
    let free = (0..bench.slots.len() as u8).find(|slot| !pairs.iter().any(|(used, _)| used == slot));
    if let Some(free) = free {
        let moved = |from: u8| {
            pairs.iter().map(move |(slot, module)| (if *slot == from { free } else { *slot }, *module)).collect()
        };
        all.extend(pairs.iter().map(|(slot, _)| moved(*slot)));
    }
    all
}

/// Halves, every other one, and the modules of each channel.
fn parts(bench: &Bench<'_>, pairs: &[(u8, u8)]) -> Vec<Vec<(u8, u8)>> {
    if pairs.len() < 3 {
        return Vec::new();
    }
    let half = pairs.len() / 2;
    let every =
        |at: usize| pairs.iter().copied().enumerate().filter(|(of, _)| of % 2 == at).map(|(_, pair)| pair).collect();
    let mut all = vec![pairs[..half].to_vec(), pairs[half..].to_vec(), every(0), every(1)];
    if pairs.len() >= 6 {
        let quarter = pairs.len() / 4;
        all.extend(pairs.chunks(quarter.max(1)).map(<[_]>::to_vec));
    }
    for slot in 0..bench.slots.len() as u8 {
        all.push(pairs.iter().copied().filter(|(used, _)| bench.same_channel(*used, slot)).collect());
    }
    all
}

fn exchanged(bench: &Bench<'_>, pairs: &[(u8, u8)], odds: &[Odds]) -> Vec<Vec<(u8, u8)>> {
    let (suspects, few) = (suspects(bench, odds), pairs.len() <= 4);
    let mut all = Vec::new();
    for (at, (_, a)) in pairs.iter().enumerate() {
        for (_, b) in &pairs[at + 1..] {
            if few || suspects.contains(a) || suspects.contains(b) {
                let other = |module: u8| {
                    if module == *a {
                        *b
                    } else if module == *b {
                        *a
                    } else {
                        module
                    }
                };
                all.push(pairs.iter().map(|(slot, module)| (*slot, other(*module))).collect());
            }
        }
    }
    all
}

/// Each suspect with each other module in one channel, and in two: this tells a pair from a module that fails in any company.
fn two_together(bench: &Bench<'_>, pairs: &[(u8, u8)], odds: &[Odds]) -> Vec<Vec<(u8, u8)>> {
    let suspects = suspects(bench, odds);
    let (mut all, mut done) = (Vec::new(), Vec::new());
    for (slot, module) in pairs.iter().filter(|(_, module)| suspects.contains(module)) {
        done.push(*module);
        let others = || (0..bench.slots.len() as u8).filter(|other| other != slot);
        let near = others().find(|other| bench.same_channel(*other, *slot));
        let far = others().find(|other| !bench.same_channel(*other, *slot));
        for (_, with) in pairs.iter().filter(|(_, with)| !done.contains(with)) {
            all.extend([near, far].into_iter().flatten().map(|other| vec![(*slot, *module), (other, *with)]));
        }
    }
    all
}

/// The modules of each kit, over as many channels as they reach.
fn kits(bench: &Bench<'_>, pairs: &[(u8, u8)]) -> Vec<Vec<(u8, u8)>> {
    let mut known: Vec<u8> = pairs.iter().map(|(_, module)| bench.kit[usize::from(*module)]).collect();
    known.sort_unstable();
    known.dedup();
    if known.len() < 2 {
        return Vec::new();
    }
    let slots = one_a_channel_first(bench, pairs);
    let of =
        |kit: u8| pairs.iter().map(|(_, module)| *module).filter(move |module| bench.kit[usize::from(*module)] == kit);
    known.into_iter().map(|kit| slots.iter().copied().zip(of(kit)).collect()).collect()
}

/// Slots in use, the first of each channel before the second ones.
fn one_a_channel_first(bench: &Bench<'_>, pairs: &[(u8, u8)]) -> Vec<u8> {
    let mut used = Vec::new();
    let (first, later): (Vec<u8>, Vec<u8>) = pairs.iter().map(|(slot, _)| *slot).partition(|slot| {
        let channel = bench.channel[usize::from(*slot)];
        let is_first = !used.contains(&channel);
        used.push(channel);
        is_first
    });
    first.into_iter().chain(later).collect()
}

/// What is in the first channel exchanged with what is in the second one: shows whether one half of the addresses goes with the modules.
fn halves_exchanged(bench: &Bench<'_>, pairs: &[(u8, u8)]) -> Vec<(u8, u8)> {
    let Some((first, _)) = pairs.first() else { return Vec::new() };
    let (here, there): (Vec<_>, Vec<_>) =
        pairs.iter().copied().partition(|(slot, _)| bench.same_channel(*slot, *first));
    if here.len() != there.len() {
        return Vec::new();
    }
    let each = here.iter().zip(&there);
    each.flat_map(|((a, one), (b, other))| [(*a, *other), (*b, *one)]).collect()
}

/// A known-good module alone in each slot, and in place of each other one.
fn with_good(bench: &Bench<'_>, pairs: &[(u8, u8)]) -> Vec<Vec<(u8, u8)>> {
    let good = (0..bench.modules.len() as u8).find(|module| bench.known_good[usize::from(*module)]);
    let Some(good) = good.filter(|good| !pairs.iter().any(|(_, module)| module == good)) else { return Vec::new() };
    let mut all: Vec<Vec<(u8, u8)>> = (0..bench.slots.len() as u8).map(|slot| vec![(slot, good)]).collect();
    for (replaced, _) in pairs {
        all.push(pairs.iter().map(|(slot, module)| (*slot, if slot == replaced { good } else { *module })).collect());
        let beside = pairs.iter().filter(|(slot, _)| slot == replaced).copied();
        if let Some((free, _)) = pairs.iter().find(|(slot, _)| slot != replaced) {
            all.push(beside.chain([(*free, good)]).collect());
        }
    }
    all
}
