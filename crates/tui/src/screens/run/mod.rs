//! 4 Run: the run of this sitting.

mod draw;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::moves::{next, start};
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Entry, Step, does};
use crate::shared::effect::Effect;
use crate::shared::state::{Shared, stepped};

/// The run.
#[derive(Debug, Default)]
pub struct Run {
    /// Chosen test.
    test: usize,
    /// It is to be read across the room.
    across: bool,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// The next sensible step.
    Proceed,
    /// Another test.
    Step(isize),
    /// Leave the test at hand and go on with the chosen one.
    GoTo,
    /// Show again what a run showed.
    Repeat,
    /// Go on with the run that ended early.
    GoOn,
    /// To be read across the room, or not.
    Across,
}

impl Screen for Run {
    type Message = Message;

    fn purpose() -> &'static str {
        say::run_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let across = Command::letter('f', "f", Message::Across, say::key_across());
        if self.fills(shared) {
            let enter = self.next(shared).map(|words| Command::enter(Message::Proceed, words));
            let enter = enter.unwrap_or_else(|| Command::enter(Message::Across, say::key_in_full()));
            return vec![enter, Command::back(Message::Across, say::key_in_full()), across.aside()];
        }
        if shared.is_running() {
            return vec![
                Command::enter(Message::Across, say::key_across()),
                Command::list(Message::Step, say::key_select_test()).aside(),
                Command::letter('t', "t", Message::GoTo, say::key_go_to_test()).aside(),
                across.aside(),
            ];
        }
        let mut all: Vec<_> =
            self.next(shared).map(|words| Command::enter(Message::Proceed, words)).into_iter().collect();
        if shared.facts.repeat.is_some() {
            all.push(Command::letter('r', "r", Message::Repeat, say::key_repeat_failed()));
        }
        if shared.facts.go_on.is_some() && shared.has_suspicion() {
            all.push(Command::letter('c', "c", Message::GoOn, say::key_continue_run()));
        }
        if shared.run_state().is_some() {
            all.push(across);
        }
        all
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        let begin = |what: &Option<_>| what.clone().map(|what| start::begin(shared, what)).unwrap_or_default();
        match message {
            Message::Proceed if shared.facts.go_on.is_some() && !shared.has_suspicion() => begin(&shared.facts.go_on),
            Message::Proceed => next::proceed_elsewhere(shared),
            Message::Step(by) => {
                let tests = shared.run_state().map_or(0, |state| state.tests.len());
                self.test = stepped(self.test, by, tests);
                Vec::new()
            }
            Message::GoTo => does(Effect::GoToTest(self.test)),
            Message::Repeat => begin(&shared.facts.repeat),
            Message::GoOn => begin(&shared.facts.go_on),
            Message::Across => {
                self.across = !self.fills(shared);
                Vec::new()
            }
        }
    }

    fn pointed(&mut self, at: usize, shared: &Shared) -> Step {
        self.test = stepped(at, 0, shared.run_state().map_or(0, |state| state.tests.len()));
        Vec::new()
    }

    fn entered(&mut self, _entry: &Entry, _shared: &Shared) -> Step {
        self.across = false;
        Vec::new()
    }

    /// Where nobody is there it is read from afar by itself.
    fn fills(&self, shared: &Shared) -> bool {
        shared.run_state().is_some() && (self.across || shared.unattended)
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

impl Run {
    /// What Enter does, in words.
    fn next(&self, shared: &Shared) -> Option<String> {
        if shared.is_busy() {
            return None;
        }
        Some(match () {
            () if shared.facts.go_on.is_some() && !shared.has_suspicion() => say::key_continue_run().to_owned(),
            () => next::words_elsewhere(shared),
        })
    }
}
