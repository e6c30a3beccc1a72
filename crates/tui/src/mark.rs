//! Naming a module: what is painted or stuck on it, so that it is known again on the table.

use crossterm::event::{KeyCode, KeyEvent};
use revisum_engine::text::cleaned;
use tui_input::Input;

use super::effect::Effect;
use super::state::{App, Overlay};
use super::typing::typed;

/// Proposals, so that nothing has to be typed.
pub const PROPOSALS: [&str; 9] =
    ["red dot", "green dot", "blue dot", "yellow dot", "white dot", "A", "B", "C", "take the mark off"];
/// Longest mark.
const LONGEST: usize = 20;

/// Asks for a name for the module in the chosen slot.
pub fn open(app: &mut App) {
    let Some(slot) = app.facts.board.slots.get(app.slot) else { return };
    let Some(module) = &slot.module else {
        app.overlay = Some(Overlay::Notice(format!("{} is empty: there is nothing to mark.", slot.id)));
        return;
    };
    let taken = |mark: &&str| app.facts.board.modules().any(|(_, module)| module.mark.as_deref() == Some(*mark));
    let free = PROPOSALS.iter().position(|mark| !taken(mark)).unwrap_or(0);
    app.overlay = Some(Overlay::Mark {
        module: module.identity(&slot.id),
        name: format!("{} in {}", module.name(), slot.id),
        input: Input::default(),
        chosen: free,
    });
}

/// Takes one key press while a name is asked for.
pub fn key(
    app: &mut App,
    key: KeyEvent,
    module: String,
    name: String,
    mut input: Input,
    mut chosen: usize,
) -> Vec<Effect> {
    match key.code {
        KeyCode::Esc => return Vec::new(),
        KeyCode::Enter => {
            let typed = cleaned(input.value(), LONGEST);
            let last = PROPOSALS.len() - 1;
            let mark = match chosen {
                _ if !typed.is_empty() => typed,
                chosen if chosen == last => String::new(),
                chosen => PROPOSALS[chosen].to_owned(),
            };
            return vec![Effect::Mark { module, mark }];
        }
        KeyCode::Up => chosen = chosen.saturating_sub(1),
        KeyCode::Down => chosen = (chosen + 1).min(PROPOSALS.len() - 1),
        _ => typed(&mut input, key, LONGEST),
    }
    app.overlay = Some(Overlay::Mark { module, name, input, chosen });
    Vec::new()
}
