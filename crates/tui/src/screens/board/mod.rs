//! 2 Board: what is fitted, whether it is right, and what of it can be tested.

mod all_facts;
mod draw;
mod mark;

use crate::say;
use crate::kit::board_strip::Strip;
use crate::kit::canvas::Canvas;
use crate::moves::{declare, next};
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Ask, Entry, Step, says};
use crate::shared::state::{Shared, stepped};

/// Lines of all facts that one key press moves.
const FACTS_STEP: isize = 4;

/// The board and what is known of it.
#[derive(Debug, Default)]
pub struct Board {
    /// First line shown of all facts; nothing while the board itself is shown.
    all_facts: Option<usize>,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// Run what is chosen.
    Run,
    /// Another slot, or other lines.
    Step(isize),
    /// Name the module.
    Mark,
    /// Say what nothing tells: slots and modules.
    Declare,
    /// All facts.
    AllFacts,
    /// Every run of the module.
    Life,
    /// Back to the board itself.
    Back,
}

impl Screen for Board {
    type Message = Message;

    fn purpose() -> &'static str {
        say::board_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let mut all = Vec::new();
        if shared.facts.saved {
            let (message, words) = match self.all_facts {
                None => (Message::AllFacts, say::key_all_facts()),
                Some(_) => (Message::Back, say::key_back_board()),
            };
            all.push(Command::enter(message, words.to_owned()));
        } else if !shared.is_busy() {
            all.push(Command::enter(Message::Run, next::words_elsewhere(shared)));
        }
        if self.all_facts.is_some() {
            all.push(Command::list(Message::Step, say::key_further_down()));
            all.push(Command::back(Message::Back, say::key_back_board()));
            return all;
        }
        all.push(Command::list(Message::Step, say::key_select_slot()));
        if shared.facts.declares {
            let slots = shared.facts.board.slots.is_empty();
            let words = if slots { say::key_declare_slots() } else { say::key_declare_module() };
            all.push(Command::letter('e', "e", Message::Declare, words));
        }
        if !shared.facts.saved {
            all.push(Command::letter('m', "m", Message::Mark, say::key_mark_module()));
            all.push(Command::letter('i', "i", Message::AllFacts, say::key_all_facts()));
            all.push(Command::letter('h', "h", Message::Life, say::key_every_run()).aside());
        }
        all
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match message {
            Message::Run => return next::proceed_elsewhere(shared),
            Message::Step(by) => match &mut self.all_facts {
                Some(first) => {
                    // The last lines stay on the screen.
                    let lines = all_facts::lines(shared).len().saturating_sub(FACTS_STEP.unsigned_abs());
                    *first = stepped(*first, by.saturating_mul(FACTS_STEP), lines);
                }
                None => return vec![Ask::Slot(stepped(shared.slot, by, shared.facts.board.slots.len()))],
            },
            Message::Declare => return declare::ask(shared),
            Message::Mark => return mark::open(shared),
            Message::AllFacts => self.all_facts = Some(0),
            Message::Life => return life(shared),
            Message::Back => self.all_facts = None,
        }
        Vec::new()
    }

    fn entered(&mut self, _entry: &Entry, _shared: &Shared) -> Step {
        self.all_facts = None;
        Vec::new()
    }

    fn strip<'a>(&'a self, shared: &'a Shared) -> Strip<'a> {
        Strip { chosen: Some(shared.slot), ..Strip::of(shared) }
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

/// The life of the module in the chosen slot.
fn life(shared: &Shared) -> Step {
    let slot = shared.facts.board.slots.get(shared.slot);
    let Some(module) = slot.and_then(|slot| slot.module.as_ref()) else {
        return says(say::board_slot_empty());
    };
    if module.serial.is_empty() {
        return says(say::board_no_serial());
    }
    vec![Ask::Go(Entry::Life { serial: module.serial.clone(), name: module.name() })]
}

#[cfg(test)]
mod tests {
    use crossterm::event::KeyCode;
    use revisum_record::fitted::{Board as Fitted, Module, Slot};

    use super::*;
    use crate::room::screen::Room;
    use crate::shared::facts::Facts;

    #[test]
    fn all_facts_open_scroll_and_close() {
        let slot = |at: u8| Slot { id: format!("A{at}"), module: Some(Module::default()), ..Slot::default() };
        let board = Fitted { slots: (0..9).map(slot).collect(), ..Fitted::default() };
        let shared = Shared::new(Facts { board, ..Facts::default() }, (128, 40));
        let mut screen = Board::default();
        let press = |screen: &mut Board, code| assert!(screen.press(code, &shared).unwrap().is_empty());
        press(&mut screen, KeyCode::Char('i'));
        press(&mut screen, KeyCode::Down);
        let lines = all_facts::lines(&shared).len();
        assert_eq!(screen.all_facts, Some(4), "{lines} lines");
        press(&mut screen, KeyCode::Up);
        press(&mut screen, KeyCode::Up);
        assert_eq!(screen.all_facts, Some(0));
        press(&mut screen, KeyCode::Esc);
        assert_eq!(screen.all_facts, None);
        assert!(screen.press(KeyCode::Esc, &shared).is_none(), "nothing to go back to");
    }
}
