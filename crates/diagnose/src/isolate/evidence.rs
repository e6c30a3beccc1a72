//! From what a run came to, to what it says about the parts.

use std::collections::{BTreeMap, BTreeSet};

use super::fact::{Evidence, FLOOD, Load, Place, RunFact};
use super::signs::Signs;
use crate::address::Locator;
use crate::board::slot_named;
use crate::controller::ShownChannels;
use crate::locate::is_fair;
use revisum_engine::recipe::Recipe;
use revisum_engine::units::PhysAddr;
use revisum_record::fitted::{Board, Slot};
use revisum_record::outcome::{Judgement, Outcome};
use revisum_record::run_state::RunState;

impl RunFact {
    /// A run that is over as evidence; nothing when it proves nothing: slots unknown, checking failed, or ended clean
    /// before anything was swept, or of a damaged record.
    /// Where errors were placed counts only as long as the map that placed them is trusted.
    pub fn of(state: &RunState, map_is_trusted: bool) -> Option<Self> {
        let placement = state.begin.board.known_placement();
        if placement.is_empty() || state.plants_missed > 0 {
            return None;
        }
        let begun = if state.pass > state.passes_over { state.pass_ratio() } else { 0.0 };
        let all = f64::from(state.full_passes) + begun;
        let evidence = match state.has_errors() {
            true => Evidence::Errors(if map_is_trusted { place(state) } else { Place::Unknown }),
            false => Evidence::Clean,
        };
        // Nothing found on a part of the memory, as it was chosen, says so much less of all of it.
        let judgement = Judgement::of(state, false);
        // What lost records told may have been errors.
        if judgement.outcome == Outcome::NotWhole {
            return None;
        }
        let coverage = judgement.coverage;
        let share =
            coverage.chosen.and_then(|_| coverage.share()).filter(|_| evidence == Evidence::Clean).unwrap_or(1.0);
        let passes = all * share;
        if evidence == Evidence::Clean && passes == 0.0 {
            return None;
        }
        let ran = state.running_seconds();
        let (minutes, passes) = match planned(state).filter(|_| evidence != Evidence::Clean) {
            Some((seconds, planned)) => (seconds.max(ran) / 60.0, planned.max(passes)),
            None => (ran / 60.0 * share, passes),
        };
        let shown = state.begin.board.settings_shown().unwrap_or_default();
        let settings = if state.begin.settings.is_empty() { shown.to_owned() } else { state.begin.settings.clone() };
        let load = load(state);
        let signs = Signs { celsius: hottest_module(state), ..Signs::default() };
        let ran_minutes = ran / 60.0;
        let first_error_minutes = state.first_error_ms.map(|_| state.first_error_test_ms as f64 / 60_000.0);
        Some(Self {
            settings,
            evidence,
            load,
            signs,
            ran_minutes,
            first_error_minutes,
            steady: steady(state),
            ..Self::clean(placement, minutes, passes)
        })
    }
}

/// Whether errors came again in another pass, or without end; nothing where the run was over with its first ones.
fn steady(state: &RunState) -> Option<bool> {
    let cells = state.tests.iter().flat_map(|test| &test.cells);
    let with_errors: BTreeSet<u32> = cells.filter(|cell| cell.errors > 0).map(|cell| cell.pass).collect();
    match (with_errors.len(), state.errors.words) {
        (0, _) => None,
        (2.., _) | (_, FLOOD..) => Some(true),
        _ => (state.full_passes > 1).then_some(false),
    }
}

/// Seconds and passes that the run was meant to take: with errors it may have ended early, and it is when it would have been clean that
/// tells how likely that was.
fn planned(state: &RunState) -> Option<(f64, f64)> {
    let recipe = state.begin.recipe.as_ref()?;
    let pass = state.pass_seconds();
    match (recipe.passes, recipe.for_seconds) {
        (Some(passes), _) if pass > 0.0 => Some((f64::from(passes) * pass, f64::from(passes))),
        (None, Some(seconds)) if pass > 0.0 => Some((seconds as f64, seconds as f64 / pass)),
        _ => None,
    }
}

fn hottest_module(state: &RunState) -> Option<f64> {
    state.timeline.spans().iter().filter_map(|span| span.celsius).reduce(f64::max)
}

fn load(state: &RunState) -> Load {
    // A computing test sweeps patterns beside it.
    match state.begin.recipe.as_ref().is_some_and(Recipe::computes) {
        true => Load::Both,
        false => Load::Patterns,
    }
}

/// Where the wrong words were placed: in one slot, nearly all of them; over several; or nothing is told. Error counters tell too.
fn place(state: &RunState) -> Place {
    let board = &state.begin.board;
    // Names can have blanks in them, as several joined have.
    let is_single = |slots: &str| board.slots.iter().any(|slot| slot.id == slots);
    let mut counted = state.hardware.places.iter().map(|place| slot_named(place, board));
    if let Some(Some(first)) = counted.next() {
        return match counted.all(|slot| slot == Some(first)) {
            true => Place::Slot(first.to_owned()),
            false => Place::Spread,
        };
    }
    let told: u64 = state.errors.slots.iter().filter(|(slots, _)| is_single(slots)).map(|(_, words)| words).sum();
    let Some((slots, words)) = state.errors.slots.iter().max_by_key(|(_, words)| **words) else {
        return Place::Unknown;
    };
    // Some hundred and more in a slot are a place of their own, however many there are in another one.
    let own =
        |(slots, words): &(&String, &u64)| is_single(slots) && (**words * 10 >= state.errors.words || **words >= MANY);
    let several: Vec<String> = state.errors.slots.iter().filter(own).map(|(slot, _)| slot.clone()).collect();
    if several.len() > 1 && told * 10 >= state.errors.words * 9 {
        return Place::Several(several);
    }
    if is_single(slots) && *words * 10 >= state.errors.words * 9 {
        return Place::Slot(slots.clone());
    }
    if told * 10 >= state.errors.words * 9 { Place::Spread } else { Place::Unknown }
}

/// Errors that make a slot a place of its own.
const MANY: u64 = 100;

/// The same by a locator that knows more than the run did; nothing where words that were kept do not stand for all, or one of them can be in
/// several slots.
pub fn placed_anew(state: &RunState, locator: &Locator) -> Option<Place> {
    if !state.held.addresses_known || !is_fair(state) {
        return None;
    }
    let mut words: BTreeMap<String, u64> = BTreeMap::new();
    for (place, _) in state.digest.cells() {
        match &locator.attribute(Some(PhysAddr(place))).slots[..] {
            [only] => *words.entry(only.clone()).or_default() += 1,
            _ => return None,
        }
    }
    let all: u64 = words.values().sum();
    words.retain(|_, count| *count * 10 >= all);
    let mut slots: Vec<String> = words.into_keys().collect();
    match slots.len() {
        0 => None,
        1 => slots.pop().map(Place::Slot),
        _ => Some(Place::Several(slots)),
    }
}

/// The half of the addresses that the wrong words are in, where registers tell halves; nothing where they are in both, or where the words that
/// were kept do not stand for all.
pub fn half_of(state: &RunState, locator: &Locator) -> Option<Place> {
    if !state.held.addresses_known || !is_fair(state) {
        return None;
    }
    let mut words = [0u64; 2];
    for (place, _) in state.digest.cells() {
        *words.get_mut(usize::from(locator.channel(PhysAddr(place))?))? += 1;
    }
    let all = words[0] + words[1];
    let most = words.iter().position(|count| all > 0 && *count * 10 >= all * 9);
    most.map(|half| Place::Half(half as u8)).or_else(|| (all > 0).then_some(Place::Spread))
}

/// The two groups of slots that halves of the addresses can belong to: by the channels that slots name, else of a mainboard with two slots each.
pub fn halves_of(board: &Board) -> Option<[Vec<String>; 2]> {
    let ids = |of: &dyn Fn(&Slot) -> bool| -> Vec<String> {
        board.slots.iter().filter(|slot| of(slot)).map(|slot| slot.id.clone()).collect()
    };
    let channels: BTreeSet<Option<&str>> = board.slots.iter().map(|slot| slot.channel.as_deref()).collect();
    match channels.into_iter().collect::<Vec<_>>()[..] {
        [Some(one), Some(other)] => {
            Some([one, other].map(|name| ids(&|slot: &Slot| slot.channel.as_deref() == Some(name))))
        }
        [None] => match &board.slots[..] {
            [one, other] => Some([vec![one.id.clone()], vec![other.id.clone()]]),
            _ => None,
        },
        _ => None,
    }
}

/// The same groups in the order of the channels that they are on, where arrangements showed that of a slot and none contradicts it.
pub fn in_order_of_channels(groups: &[Vec<String>; 2], shown: &ShownChannels) -> Option<[Vec<String>; 2]> {
    let in_order = [0, 1].map(|first: u8| {
        let of =
            |slots: &[String], channel: u8| slots.iter().filter(|slot| shown.channel(slot) == Some(channel)).count();
        of(&groups[0], first) + of(&groups[1], 1 - first)
    });
    match in_order {
        [1..=usize::MAX, 0] => Some(groups.clone()),
        [0, 1..=usize::MAX] => Some([groups[1].clone(), groups[0].clone()]),
        _ => None,
    }
}

/// Minutes of one pass over one module at the pace of this run; nothing when no pass was finished.
pub fn one_module_pass_minutes(state: &RunState) -> Option<f64> {
    let board = &state.begin.board;
    let modules = board.modules().count();
    let channels: BTreeSet<String> =
        board.modules().map(|(slot, _)| slot.channel.clone().unwrap_or_else(|| slot.id.clone())).collect();
    let per_pass = state.full_pass_seconds / f64::from(state.full_passes);
    let factor = (1.0 + 0.6 * (channels.len() as f64 - 1.0)) / modules as f64;
    (state.full_passes > 0 && modules > 0).then(|| (per_pass / 60.0 * factor).max(0.01))
}
