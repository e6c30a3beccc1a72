//! Whether the machine starts: told by whoever stands in front of it, from any screen.

use revisum_record::journal::{Fitting, Intake, JobEntry};

use crate::dialogs::choice::Choice;
use crate::room::step::{Ask, Step, does, says};
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// The answer of the intake that what the mainboard signals comes to, by what is chosen.
const SIGNALS: [Option<&str>; 4] = [None, Some("signals-memory"), Some("signals-processor"), Some("signals-graphics")];

/// Asks what it does; the first line is what is seen most.
pub fn ask(shared: &Shared) -> Step {
    if fitting(shared).is_empty() {
        return says(say::dark_empty());
    }
    let words = [say::dark_nothing(), say::dark_memory(), say::dark_processor(), say::dark_graphics()];
    let mut lines: Vec<(String, Step)> =
        words.into_iter().zip(SIGNALS).map(|(words, signal)| (words.to_owned(), dark(shared, signal))).collect();
    lines.push((say::dark_starts().to_owned(), decided(shared, JobEntry::Started)));
    Choice::open(say::dark_title(), lines, "")
}

/// What is meant: what was written down to be fitted next, else what is fitted as far as anybody knows.
fn fitting(shared: &Shared) -> Vec<(String, String)> {
    match &shared.facts.plan {
        // A machine that shows this screen runs in the arrangement that it tells: it was dark in the one before.
        Some((plan, differences)) if is_told(shared) && !differences.is_empty() => plan.placement.clone(),
        _ => shared.facts.board.known_placement(),
    }
}

fn is_told(shared: &Shared) -> bool {
    !shared.facts.can_move && !shared.facts.declares
}

/// It did not start, and what the mainboard signals goes to the other answers.
pub fn dark(shared: &Shared, signal: Option<&str>) -> Step {
    let mut step = decided(shared, JobEntry::DidNotStart { sign: sign(signal).to_owned() });
    if let Some(name) = signal {
        let mut intake: Intake = shared.facts.intake.clone();
        SIGNALS.iter().flatten().for_each(|other| intake.take_back(other));
        intake.pick(name, shared.wall_ms, true);
        step.extend(does(Effect::Decide(Box::new(JobEntry::TakenIn { intake }))));
    }
    step
}

fn sign(signal: Option<&str>) -> &str {
    signal.unwrap_or("entered by hand")
}

/// Something that is so in the fitting that is meant, with how it is fitted before and after.
fn decided(shared: &Shared, entry: JobEntry) -> Step {
    let fitted = |placement| JobEntry::Fitted { fitting: Fitting { placement } };
    let (meant, now) = (fitting(shared), shared.facts.board.known_placement());
    let mut entries = vec![fitted(meant.clone()), entry];
    if meant != now {
        entries.push(fitted(now));
    }
    entries.into_iter().map(|entry| Ask::Do(Effect::Decide(Box::new(entry)))).collect()
}
