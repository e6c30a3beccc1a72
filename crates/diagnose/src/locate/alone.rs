//! What runs with one module say about runs with several: whose the failing words are. From that maps are learned, confirmed and refuted.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use super::{locator_of, map_of, shown_by};
use crate::address::{AddressMap, KnownWord, Locator, MapFile};
use crate::board::slot_named;
use revisum_engine::units::PhysAddr;
use revisum_record::fitted::Board;
use revisum_record::run_state::RunState;

/// Modules that were run alone, by serial number.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Alone(BTreeMap<String, Past>);

/// What one did alone.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
struct Past {
    /// Slots in which it failed.
    failed_in: BTreeSet<String>,
    /// Some full run was clean.
    clean: bool,
}

impl Alone {
    /// From the runs of a job.
    pub fn of<'a>(runs: impl IntoIterator<Item = &'a RunState>) -> Self {
        let mut alone = BTreeMap::new();
        for run in runs {
            let modules: Vec<_> = run.begin.board.modules().collect();
            let [(slot, module)] = modules[..] else { continue };
            if module.serial.is_empty() {
                continue;
            }
            let past: &mut Past = alone.entry(module.serial.clone()).or_default();
            if run.errors.is_empty() {
                // An unfinished clean run says nothing.
                past.clean |= run.full_passes > 0;
            } else {
                past.failed_in.insert(slot.id.clone());
            }
        }
        Self(alone)
    }

    /// The only slot that errors of this fitting can come from: one module failed alone in the slot where it sits now, and all others were
    /// clean alone and never failed. A module that failed alone elsewhere may have sat in a bad slot.
    pub fn culprit(&self, board: &Board) -> Option<String> {
        let mut bad = None;
        for (slot, module) in board.modules() {
            let past = self.0.get(&module.serial)?;
            if past.failed_in.contains(&slot.id) && bad.is_none() {
                bad = Some(slot.id.clone());
            } else if !past.clean || !past.failed_in.is_empty() {
                return None;
            }
        }
        bad
    }
}

/// Words of runs with several modules whose slot is known by runs with one, or by error counters that name a single slot; only of runs fitted like `like`: the same slots with as
/// much memory in each, the same settings.
pub fn known_words<'a>(runs: impl IntoIterator<Item = &'a RunState> + Clone, like: &RunState) -> Vec<KnownWord> {
    let alone = Alone::of(runs.clone());
    let mut words = Vec::new();
    for run in runs {
        let same = fitting(run) == fitting(like) && run.held.addresses_known;
        if !same || run.begin.board.modules().count() < 2 {
            continue;
        }
        let Some(slot) = alone.culprit(&run.begin.board).or_else(|| counted_slot(run)) else { continue };
        words.extend(run.digest.cells().map(|(address, _)| KnownWord { address, label: slot.clone() }));
    }
    words
}

/// The only slot whose errors the error-correcting hardware counted while the run found wrong words.
fn counted_slot(run: &RunState) -> Option<String> {
    let board = &run.begin.board;
    let mut slots = run.hardware.places.iter().map(|place| slot_named(place, board));
    let first = slots.next()??.to_owned();
    slots.all(|slot| slot == Some(first.as_str())).then_some(first)
}

fn fitting(run: &RunState) -> (BTreeMap<String, u64>, String) {
    let slots = run.begin.board.modules().map(|(slot, module)| (slot.id.clone(), module.bytes)).collect();
    (slots, run.begin.settings.clone())
}

/// An address map that evidence contradicts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Refuted;

/// The map that a run went by, unless other runs of its machine contradict it. One that cannot be read any more says nothing.
///
/// # Errors
/// When runs with single modules, or error counters, refute it.
pub fn trusted_map<'a>(
    state: &RunState,
    runs: impl IntoIterator<Item = &'a RunState> + Clone,
) -> Result<Option<MapFile>, Refuted> {
    let Some(file) = map_of(&state.begin).ok().flatten() else { return Ok(None) };
    match judge(&file.map, &known_words(runs, state)) {
        Judgement::Refuted => Err(Refuted),
        Judgement::Open | Judgement::Confirmed => Ok(Some(file)),
    }
}

/// Whether runs with one module confirmed the map that a run went by.
pub fn is_confirmed<'a>(state: &RunState, runs: impl IntoIterator<Item = &'a RunState> + Clone) -> bool {
    let map = map_of(&state.begin).ok().flatten();
    map.is_some_and(|file| judge(&file.map, &known_words(runs, state)) == Judgement::Confirmed)
}

/// What places the errors of a run: its map as far as other runs of the same machine do not contradict it, else what the firmware tells.
pub fn trusted_locator<'a>(state: &RunState, runs: impl IntoIterator<Item = &'a RunState>) -> Locator {
    let own: Vec<&RunState> = runs.into_iter().filter(|run| run.begin.machine == state.begin.machine).collect();
    let shown = shown_by(own.iter().copied(), &state.begin);
    locator_of(&state.begin, trusted_map(state, own.iter().copied()).ok().flatten(), &shown)
}

/// What known words say of a map.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Judgement {
    /// Too few words to say.
    Open,
    /// Known words fall into their slots.
    Confirmed,
    /// Known words fall into slots where they cannot be.
    Refuted,
}

/// So many words in their slots do not happen by chance: one in 2 to this power with two slots, fewer with more.
const ENOUGH: usize = 8;
/// Share of words that may be strays.
const STRAYS: f64 = 0.1;

/// Sets a map against words whose slots are known.
pub fn judge(map: &AddressMap, words: &[KnownWord]) -> Judgement {
    let distinct: BTreeSet<(u64, &str)> = words.iter().map(|word| (word.address, word.label.as_str())).collect();
    let right =
        |(address, label): &&(u64, &str)| map.slot_run(PhysAddr(*address)).is_some_and(|(slot, _)| slot == *label);
    let agreeing = distinct.iter().filter(right).count();
    let wrong = distinct.len() - agreeing;
    match wrong as f64 > STRAYS * distinct.len() as f64 {
        true => Judgement::Refuted,
        false if agreeing >= ENOUGH => Judgement::Confirmed,
        false => Judgement::Open,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::address::{CellMap, Region, Stack, Way};
    use revisum_engine::sweep::second_look::Kind;
    use revisum_engine::units::{ByteRange, GIB};
    use revisum_record::fitted::{Module, Slot};
    use revisum_record::journal::Begin;

    fn run(fitted: &[(&str, &str)], errors: &[u64]) -> RunState {
        let slot = |(id, serial): &(&str, &str)| Slot {
            id: (*id).into(),
            module: Some(Module { serial: (*serial).into(), bytes: GIB, ..Module::default() }),
            ..Slot::default()
        };
        let board = Board { slots: fitted.iter().map(slot).collect(), ..Board::default() };
        let mut state = RunState { begin: Begin { board, ..Begin::default() }, full_passes: 1, ..RunState::default() };
        state.held.addresses_known = true;
        state.errors.words = errors.len() as u64;
        errors.iter().for_each(|address| state.digest.add(*address, 0, 1, Kind::Recurring));
        state
    }

    #[test]
    fn words_belong_to_the_module_that_fails_alone() {
        let runs = [
            run(&[("A1", "one"), ("B1", "two")], &[0x40, 0x80]),
            run(&[("A1", "two"), ("B1", "one")], &[0x1000]),
            run(&[("A1", "one")], &[]),
            run(&[("B1", "two")], &[0x2000]),
            run(&[("A1", "two")], &[0x2000]),
            run(&[("A1", "one"), ("B1", "three")], &[0x3000]),
        ];
        let words = known_words(&runs, &runs[0]);
        let expected = [(0x40, "B1"), (0x80, "B1"), (0x1000, "A1")];
        assert_eq!(words.iter().map(|word| (word.address, word.label.as_str())).collect::<Vec<_>>(), expected);
        assert!(known_words(&runs[..3], &runs[0]).is_empty(), "nobody has shown that two fails alone");
        // Counters that name one slot know it too; counters of two slots do not tell them apart.
        let mut counted = run(&[("A1", "one"), ("B1", "three")], &[0x3000]);
        counted.hardware.places = vec!["DIMM_B1".into()];
        let by_counter = known_words([&counted], &runs[0]);
        assert_eq!(by_counter, [KnownWord { address: 0x3000, label: "B1".into() }]);
        counted.hardware.places.push("DIMM_A1".into());
        assert_eq!(known_words([&counted], &runs[0]), []);
        // Having failed alone in B1 says nothing of A1: the slot may be bad.
        assert_eq!(known_words(&runs[..4], &runs[0]).len(), 2);
    }

    fn map(granule_bits: u32, masks: &[u64], ways: usize) -> Option<AddressMap> {
        let way = |at: usize| Way {
            channel_start: 0,
            stacks: vec![Stack::of(format!("S{at}"), CellMap::hashed(10, 4, 13, 0).unwrap())],
        };
        let region = Region {
            start: 0,
            bytes: ways as u64 * GIB,
            ways: (0..ways).map(way).collect(),
            granule_bits,
            way_masks: masks.to_vec(),
        };
        AddressMap::new(vec![ByteRange::new(0, ways as u64 * GIB)], vec![region]).ok()
    }

    fn random(seed: u64) -> u64 {
        let mut mixed = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15).wrapping_add(0x1234_5678_9abc_def1);
        mixed = (mixed ^ mixed >> 30).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed = (mixed ^ mixed >> 27).wrapping_mul(0x94d0_49bb_1331_11eb);
        mixed ^ mixed >> 31
    }

    /// Words of a module in its slot in one fitting and in another slot in a second one, a twentieth of them strays.
    fn words(right: &AddressMap, ways: usize, count: u64, seed: u64) -> Vec<KnownWord> {
        let total = ways as u64 * GIB;
        let of_fitting = |fitting: u64| {
            let slot = format!("S{}", (random(seed) + fitting) % ways as u64);
            (0..count * 60)
                .map(move |at| (random(seed ^ (fitting << 40) ^ (at << 8)) % total) & !7)
                .filter({
                    let slot = slot.clone();
                    move |address| {
                        let stray = random(address ^ seed).is_multiple_of(20);
                        (stray && random(*address).is_multiple_of(8))
                            || right.slot_run(PhysAddr(*address)).unwrap().0 == slot
                    }
                })
                .take(count as usize)
                .map(move |address| KnownWord { address, label: slot.clone() })
                .collect::<Vec<_>>()
        };
        (0..2).flat_map(of_fitting).collect()
    }

    /// Maps with one to three changed masks, another granule or other ways, against faults all over a module with at least twelve failing words.
    #[test]
    fn wrong_maps_are_noticed_within_two_fittings() {
        let masks = [1u64 << 8 | 1 << 14 | 1 << 19, 1 << 9 | 1 << 15 | 1 << 20];
        let (mut noticed, mut wrong, mut other_ways, mut alarms, mut judged) = (0, 0, 0, 0, 0);
        for case in 0..1000u64 {
            let ways = if random(case).is_multiple_of(2) { 2 } else { 4 };
            let right_masks = &masks[..if ways == 2 { 1 } else { 2 }];
            let right = map(8, right_masks, ways).unwrap();
            let known = words(&right, ways, 12 + random(case + 7) % 200, case);
            judged += 1;
            alarms += u32::from(judge(&right, &known) == Judgement::Refuted);
            if case % 5 == 0 {
                let Some(other) = map(8, &masks[..usize::from(ways == 2) + 1], 6 - ways) else { continue };
                (wrong, other_ways) = (wrong + 1, other_ways + 1);
                noticed += u32::from(judge(&other, &known) == Judgement::Refuted);
                continue;
            }
            let mut changed = right_masks.to_vec();
            let granule_bits = if case % 4 == 0 { 7 + random(case + 3) as u32 % 2 * 2 } else { 8 };
            if granule_bits == 8 {
                for change in 0..=random(case + 5) % 3 {
                    let at = (random(case + change) % changed.len() as u64) as usize;
                    changed[at] ^= 1 << (10 + random(case * 3 + change) % 20);
                }
            } else {
                changed.iter_mut().for_each(|mask| *mask = if granule_bits == 7 { *mask >> 1 } else { *mask << 1 });
            }
            let Some(other) = map(granule_bits, &changed, ways).filter(|other| *other != right) else { continue };
            wrong += 1;
            noticed += u32::from(judge(&other, &known) == Judgement::Refuted);
        }
        println!(
            "noticed {noticed} of {wrong} wrong maps ({other_ways} of them with other ways), {alarms} alarms on {judged} right ones"
        );
        assert!(f64::from(noticed) >= 0.95 * f64::from(wrong), "{noticed} of {wrong}");
        assert!(f64::from(alarms) <= 0.01 * f64::from(judged), "{alarms} of {judged}");
    }
}
