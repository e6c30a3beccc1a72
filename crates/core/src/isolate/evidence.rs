//! From what a run came to, to what it says about the parts.

use std::collections::BTreeSet;

use super::case::{Evidence, RunFact};
use crate::run_state::RunState;

impl RunFact {
    /// A run that is over as evidence; nothing when it proves nothing: slots unknown, checking failed, or ended clean
    /// before anything was swept.
    pub fn of(state: &RunState) -> Option<Self> {
        let placement = state.begin.board.placement();
        if placement.is_empty() || state.plants_missed > 0 {
            return None;
        }
        let begun = if state.pass > state.full_passes { state.pass_ratio() } else { 0.0 };
        let passes = f64::from(state.full_passes) + begun;
        let evidence =
            if state.has_errors() { Evidence::Errors { slot: standing_out(state) } } else { Evidence::Clean };
        if evidence == Evidence::Clean && passes == 0.0 {
            return None;
        }
        Some(Self { placement, minutes: state.running_seconds() / 60.0, passes, evidence })
    }
}

/// The one slot that nearly all wrong words were placed in.
fn standing_out(state: &RunState) -> Option<String> {
    let (slots, words) = state.errors.slots.iter().max_by_key(|(_, words)| **words)?;
    let single = !slots.is_empty() && !slots.contains(' ');
    (single && *words * 10 >= state.errors.words * 9).then(|| slots.clone())
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
