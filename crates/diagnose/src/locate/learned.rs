//! A map of slots from the runs of a machine.

use super::alone::known_words;
use crate::address::{FittingKey, LearnedMap, learn_layout};
use revisum_record::fitted::Slot;
use revisum_record::journal::Begin;
use revisum_record::run_state::RunState;

/// Cache lines never spread over two slots.
pub const LEAST_BIT: u32 = 6;

/// What an arrangement is known again by.
pub fn fitting_key(begin: &Begin) -> FittingKey {
    FittingKey::of(&begin.board, &begin.settings)
}

/// What runs of one machine teach of the arrangement of `like`, where that leaves nothing open and every known word agrees with it.
pub fn learned_map<'a>(runs: impl IntoIterator<Item = &'a RunState> + Clone, like: &RunState) -> Option<LearnedMap> {
    let ranges = like.begin.memory.ranges();
    let words = known_words(runs, like);
    let channel = |slot: &Slot| slot.channel.clone().unwrap_or_else(|| slot.id.clone());
    let fitted: Vec<_> = like.begin.board.modules().map(|(slot, _)| (slot.id.clone(), channel(slot))).collect();
    if words.is_empty() || ranges.is_empty() || fitted.len() < 2 || like.begin.guest {
        return None;
    }
    let map = LearnedMap::new(fitting_key(&like.begin), learn_layout(&words, &fitted, ranges, LEAST_BIT))?;
    words.iter().all(|word| map.slot(word.address) == Some(&word.label)).then_some(map)
}
