//! What a machine says of itself to the counter.

use revisum_engine::news::Progress;
use revisum_engine::text::cleaned;
use revisum_link::{At, Standing};
use revisum_words as words;
use revisum_words::Said as _;

use crate::shared::state::Shared;

/// Letters of a text.
const LONGEST: usize = 120;

/// What the full screen shows, in the words of a machine; `next` is what Enter does there.
pub fn standing_of(shared: &Shared, next: Option<&str>, asked: bool) -> Standing {
    let state = shared.run_state();
    let is_running = shared.is_busy();
    let will_begin = shared.begins_in.is_some();
    Standing {
        machine: cleaned(&shared.facts.machine, LONGEST),
        number: shared.facts.booted.as_ref().and_then(|booted| booted.settings.number),
        run: state.map(|state| state.id.clone()).filter(|id| !id.is_empty()),
        at: state.filter(|_| is_running).map(|state| at_of(&state.progress)),
        errors: state.map_or(0, |state| state.errors.words),
        stage: shared.stage().map(|stage| stage.said().to_owned()).unwrap_or_default(),
        waits: asked || !is_running && !will_begin,
        next: cleaned(&step_with_hands(shared).unwrap_or_else(|| next.unwrap_or_default().to_owned()), LONGEST),
        ends_in_s: state.filter(|_| is_running).and_then(|state| state.seconds_left()).map(|seconds| seconds as u64),
        not_recorded: shared.kept_now().trouble.map(|why| cleaned(&why, LONGEST)),
        simulated: shared.facts.simulated,
    }
}

fn at_of(progress: &Progress) -> At {
    At { pass: progress.pass, test: cleaned(&progress.test, LONGEST), test_ppm: progress.test_ppm }
}

/// The step that the advice proposes where it needs hands, in a few words.
fn step_with_hands(shared: &Shared) -> Option<String> {
    let next = shared.proposal().filter(|next| shared.needs_hands(next))?;
    let (now, name) = (shared.facts.board.known_placement(), |id: &str| shared.facts.name_of(id));
    Some(words::card::headline(&shared.facts.case, next, &shared.scene(&now, &name)))
}
