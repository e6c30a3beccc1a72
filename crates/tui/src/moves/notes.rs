//! Free words with when they were written.

use revisum_engine::text::cleaned;
use revisum_record::journal::JobEntry;
use tui_input::Input;

use crate::dialogs::line::Line;
use crate::kit::theme::Theme;
use crate::room::step::{Ask, Step, does};
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// Longest note.
const LONGEST: usize = 400;

/// Asks for a note; nothing is kept of an empty one.
pub fn ask(shared: &Shared) -> Step {
    let wall_ms = shared.wall_ms;
    let line = Line {
        title: say::note_title().to_owned(),
        style: Theme::strong,
        words: vec![say::note_plus().to_owned()],
        label: "",
        input: Input::default(),
        longest: LONGEST,
        keys: say::keep_cancel(),
        kept: Box::new(move |typed| {
            let words = cleaned(typed.trim(), LONGEST);
            if words.is_empty() {
                Vec::new()
            } else {
                does(Effect::Decide(Box::new(JobEntry::Noted { words, wall_ms })))
            }
        }),
    };
    vec![Ask::Show(Box::new(line))]
}
