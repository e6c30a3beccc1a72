//! Going on with a run that ended early: what the run that continues it has to know.

use crate::carry::Carried;
use crate::run_state::{RunState, TestState};

/// What all parts of this run came to so far.
pub fn carried(state: &RunState) -> Carried {
    let before = state.begin.continues.clone().unwrap_or_default();
    let (pass, finished, finished_seconds) = place(state, &before);
    let counted_ms = if same_memory(state) { state.finished_ms } else { state.pass_began_ms };
    let sweep_ms = state.tests.iter().fold(0u64, |all, test| all.saturating_add(test.all_sweep_ns() / 1_000_000));
    let own = state.held.bytes.saturating_sub(state.void_bytes);
    Carried {
        run: state.id.clone(),
        passes: before.passes.saturating_add(state.full_passes),
        pass_seconds: before.pass_seconds + state.full_pass_seconds,
        pass,
        finished,
        finished_seconds,
        bytes: if before.run.is_empty() { own } else { own.min(before.bytes) },
        counted_seconds: before.counted_seconds + counted_ms as f64 / 1000.0,
        elapsed_ms: before.elapsed_ms.saturating_add(state.t_ms),
        paused_ms: before.paused_ms.saturating_add(state.all_paused_ms()),
        stalled_ms: before.stalled_ms.saturating_add(state.stalled_ms),
        sweep_ms: before.sweep_ms.saturating_add(sweep_ms),
        added_passes: state.added_passes,
        counts: before.counts.plus(state.counts()),
        tests: merged(state.tests.iter().filter(|test| test.passes > 0), &before.tests),
    }
}

/// Whether the run that goes on holds the very memory that this one held. A real machine hands out other pages each time: a pass of
/// which some tests ran on these and some on those would be full on neither, so there a pass that was cut off begins anew.
fn same_memory(state: &RunState) -> bool {
    state.begin.simulated
}

/// The pass to go on with, the tests of it that finished, and the seconds that those took. A pass that is over is not gone on with.
fn place(state: &RunState, before: &Carried) -> (u32, Vec<String>, f64) {
    let pass = state.pass.max(before.pass).max(1);
    if state.passes_over >= pass {
        return (pass.saturating_add(1), Vec::new(), 0.0);
    }
    let in_pass =
        |test: &&TestState| test.cells.last().is_some_and(|cell| cell.pass == pass && cell.finished == Some(true));
    if !same_memory(state) {
        return (pass, Vec::new(), 0.0);
    }
    let own_seconds = state.finished_ms.saturating_sub(state.pass_began_ms) as f64 / 1000.0;
    let (earlier, seconds) = match before.pass == pass {
        true => (before.finished.as_slice(), own_seconds + before.finished_seconds),
        false => (&[][..], own_seconds),
    };
    (pass, merged(state.tests.iter().filter(in_pass), earlier), seconds)
}

/// Names of tests, those of earlier parts first, each once.
fn merged<'a>(tests: impl Iterator<Item = &'a TestState>, earlier: &[String]) -> Vec<String> {
    let mut names = earlier.to_vec();
    for test in tests {
        if !names.contains(&test.name) {
            names.push(test.name.clone());
        }
    }
    names
}
