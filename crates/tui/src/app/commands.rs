//! The commands that are there everywhere, and all that are there here and now.

use crossterm::event::KeyCode;

use crate::room::command::{Command, Key};
use crate::room::screen::Room;
use crate::room::view::View;
use crate::say;
use crate::shared::state::Shared;

/// What is there everywhere.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Common {
    /// Hold the run, or let it go on.
    PauseOrGoOn,
    /// Leave the test at hand unfinished.
    SkipTest,
    /// One pass more.
    AddPass,
    /// End the run.
    StopRun,
    /// All keys for here.
    Help,
    /// All actions by name.
    Actions,
    /// Another screen.
    Show(View),
    /// Whether the machine starts.
    Starts,
    /// Another language.
    Language,
    /// Draw everything again.
    Redraw,
    /// Larger or smaller text.
    TextSize,
    /// All machines that are linked to this computer.
    Wall,
    /// Leave the program.
    Quit,
}

/// Who takes a key.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Taker {
    /// The screen in front.
    Screen,
    /// The program.
    Common(Common),
}

/// A command and who takes it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Known {
    /// The key and its words.
    pub key: Key,
    /// Who takes it.
    pub taker: Taker,
}

/// All commands of here and now, the most important first: those of the screen, then the common ones whose keys it leaves free.
pub fn all(rooms: &[Box<dyn Room>], view: View, shared: &Shared) -> Vec<Known> {
    let own = rooms[view as usize].keys(shared).into_iter().map(|key| Known { key, taker: Taker::Screen });
    let mut all: Vec<Known> = own.collect();
    for command in common(rooms, view, shared) {
        let taken = |code: &KeyCode| all.iter().any(|known| known.key.codes.contains(code));
        if let [(code, common)] = command.keys.as_slice()
            && !taken(code)
        {
            all.push(Known { key: Key::from(&command), taker: Taker::Common(*common) });
        }
    }
    all
}

fn common(rooms: &[Box<dyn Room>], view: View, shared: &Shared) -> Vec<Command<Common>> {
    let mut all = Vec::new();
    if shared.is_measuring() && view != View::Speed {
        all.push(Command::enter(Common::Show(View::Speed), say::key_watch_measuring()));
    } else if shared.is_running() && view != View::Run {
        all.push(Command::enter(Common::Show(View::Run), say::key_watch_run()));
    }
    if shared.is_running() {
        all.extend(of_run(view, shared));
    }
    all.push(Command::letter('?', "?", Common::Help, say::key_show_keys()).aside());
    all.push(Command::back(Common::Actions, say::key_list_actions()));
    all.push(Command::letter(':', ":", Common::Actions, say::key_search_actions()).aside());
    for (other, room) in View::ALL.iter().zip(rooms) {
        let digit = other.digit();
        all.push(Command::letter(digit, digit_name(digit), Common::Show(*other), room.purpose()).aside());
    }
    if !shared.is_busy() {
        all.push(Command::letter('p', "p", Common::Starts, say::key_no_start()).aside());
    }
    let other = revisum_words::spoken().next().name();
    all.push(Command::letter('l', "l", Common::Language, say::key_switch_language(other)).aside());
    all.push(Command::letter('g', "g", Common::Redraw, say::key_redraw()).aside());
    if shared.facts.booted.is_none() && !shared.facts.saved {
        all.push(Command::letter('w', "w", Common::Wall, say::key_wall()).aside());
    }
    if shared.facts.booted.is_some() {
        all.push(Command::letter('z', "z", Common::TextSize, say::key_text_size()).aside());
    }
    all.push(Command::letter('q', "q", Common::Quit, say::key_leave()));
    all
}

fn digit_name(digit: char) -> &'static str {
    const DIGITS: &str = "0123456789";
    DIGITS.find(digit).map_or("", |at| &DIGITS[at..=at])
}

/// Keys of a run that goes on, wherever one looks.
fn of_run(view: View, shared: &Shared) -> Vec<Command<Common>> {
    let mut keys = Vec::new();
    if let Some(state) = shared.run_state() {
        let words = if state.paused { say::key_go_on() } else { say::key_pause() };
        keys.push(Command::letter(' ', say::key_space(), Common::PauseOrGoOn, words));
        keys.push(Command::letter('x', "x", Common::StopRun, say::key_stop_run()));
        keys.push(Command::letter('n', "n", Common::SkipTest, say::key_next_test()).in_footer(view == View::Run));
        keys.push(Command::letter('a', "a", Common::AddPass, say::key_add_pass()).aside());
    } else {
        // Before the first record there is only one thing to be done about it.
        keys.push(Command::letter('x', "x", Common::StopRun, say::key_stop_run()));
    }
    keys
}

/// Commands with this in their words, for the list of actions.
pub fn matching(all: Vec<Known>, typed: &str) -> Vec<Known> {
    let typed = typed.to_lowercase();
    let by_name = |known: &Known| {
        known.key.codes.len() == 1 && known.taker != Taker::Common(Common::Actions) && known.key.name != "Esc"
    };
    all.into_iter().filter(by_name).filter(|known| known.key.words.to_lowercase().contains(&typed)).collect()
}
