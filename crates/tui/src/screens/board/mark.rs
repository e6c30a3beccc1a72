//! Naming a module: what is painted or stuck on it, so that it is known again on the table.

use crossterm::event::{KeyCode, KeyEvent};
use revisum_engine::text::cleaned;
use tui_input::Input;

use crate::say;
use crate::shared::effect::Effect;
use crate::kit::canvas::Canvas;
use crate::kit::typing::typed;
use crate::room::step::{Ask, Dialog, Outcome, Step, does, says};
use crate::shared::state::Shared;

/// Proposals, so that nothing has to be typed.
fn proposals() -> [&'static str; 9] {
    [say::mark_red(), say::mark_green(), say::mark_blue(), say::mark_yellow(), say::mark_white(), "A", "B", "C", say::mark_off()]
}
/// Longest mark.
const LONGEST: usize = 20;

/// A name that is asked for.
#[derive(Debug)]
struct Mark {
    /// What the module is known by.
    module: String,
    /// What it is called in a sentence.
    name: String,
    /// Typed so far.
    input: Input,
    /// Chosen proposal.
    chosen: usize,
}

/// Asks for a name for the module in the chosen slot.
pub fn open(shared: &Shared) -> Step {
    let Some(slot) = shared.facts.board.slots.get(shared.slot) else {
        return says(say::mark_no_slot());
    };
    let Some(module) = &slot.module else {
        return says(say::mark_empty(&slot.id));
    };
    let taken = |mark: &&str| shared.facts.board.modules().any(|(_, module)| module.mark.as_deref() == Some(*mark));
    let mark = Mark {
        module: module.identity(&slot.id),
        name: say::mark_module_in(module.name(), &slot.id),
        input: Input::default(),
        chosen: proposals().iter().position(|mark| !taken(mark)).unwrap_or(0),
    };
    vec![Ask::Show(Box::new(mark))]
}

impl Dialog for Mark {
    fn key(&mut self, key: KeyEvent) -> Outcome {
        match key.code {
            KeyCode::Esc => return Outcome::Closed(Vec::new()),
            KeyCode::Enter => {
                let typed = cleaned(self.input.value(), LONGEST);
                let mark = match self.chosen {
                    _ if !typed.is_empty() => typed,
                    chosen if chosen == proposals().len() - 1 => String::new(),
                    chosen => proposals()[chosen].to_owned(),
                };
                return Outcome::Closed(does(Effect::Mark { module: self.module.clone(), mark }));
            }
            KeyCode::Up => self.chosen = self.chosen.saturating_sub(1),
            KeyCode::Down => self.chosen = (self.chosen + 1).min(proposals().len() - 1),
            _ => typed(&mut self.input, key, LONGEST),
        }
        Outcome::Open
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        let theme = canvas.theme;
        let typed = self.input.value();
        canvas.put(2, 1, theme.strong(), &say::mark_title(&self.name));
        let x = canvas.put(2, 2, theme.label(), say::mark_what());
        canvas.put(x, 2, theme.attention(), &format!("{typed}_"));
        for (at, proposal) in (0u16..).zip(proposals()) {
            let here = typed.is_empty() && usize::from(at) == self.chosen;
            if here {
                canvas.put(2, 4 + at, theme.attention(), theme.marks.here);
            }
            canvas.put(4, 4 + at, if here { theme.strong() } else { theme.text() }, proposal);
        }
        let below = 5 + proposals().len() as u16;
        canvas.put(2, below, theme.label(), say::mark_keys());
    }
}
