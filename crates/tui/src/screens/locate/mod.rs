//! 5 Locate: where the errors are and what failed.

mod draw;
mod found;
mod lines;
mod lists;
mod picture;
mod zoom;

use crossterm::event::{KeyCode, KeyEvent};
use std::sync::Arc;

use revisum_diagnose::address::Ground;
use revisum_engine::places::Certainty;
use revisum_engine::units::bytes_text;
use revisum_words as words;
use tui_input::Input;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::kit::typing::typed;
use crate::moves::{next, start};
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Entry, Step, does, says};
use crate::shared::effect::Effect;
use crate::shared::facts::Located;
use crate::shared::news::News;
use crate::shared::state::{Shared, stepped};

use self::zoom::Zoom;

/// Longest text to look for.
const LONGEST: usize = 40;

/// Where errors are.
#[derive(Debug, Default)]
pub struct Locate {
    /// Chosen group of failing words, among those that are shown.
    group: usize,
    /// Chosen word of that group.
    word: usize,
    /// What of the modules is looked at.
    zoom: Zoom,
    /// Only lines with this in them are shown.
    find: Input,
    /// It is being typed.
    typing: bool,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// The next sensible step.
    Proceed,
    /// Another group or word.
    Step(isize),
    /// Closer, or farther away.
    Zoom(isize),
    /// Look for lines.
    Find,
    /// One step back.
    Back,
    /// Show again what a run showed.
    Repeat,
    /// Go on with the run that ended early.
    GoOn,
    /// What keeps a system out of bad ranges.
    Stopgap,
    /// Go by the map that was learned before.
    UseLearned,
    /// Learn from time how addresses come to channels.
    ByTime,
    /// Give that up.
    StopByTime,
}

/// Whether learning from time could help: nothing names the slot.
fn helps(shared: &Shared) -> bool {
    let located = shared.located.as_ref();
    let unnamed = |located: &Arc<Located>| {
        let location = &located.location;
        location.certainty == Some(Certainty::OneOf)
            && matches!(location.because, Ground::NoMap | Ground::FirmwareRanges)
    };
    !shared.is_busy() && !shared.facts.elsewhere && located.is_some_and(unnamed)
}

impl Screen for Locate {
    type Message = Message;

    fn purpose() -> &'static str {
        say::locate_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let mut all = Vec::new();
        if !shared.is_busy() {
            all.push(Command::enter(Message::Proceed, next::words_elsewhere(shared)));
        }
        if shared.located.is_some() {
            let list = if self.zoom.names_words() { say::key_select_word() } else { say::key_select_group() };
            all.push(Command::list(Message::Step, list));
            let steps = zoom::steps(shared);
            let (name, words) = match () {
                () if self.zoom == steps[0] => ("→", say::key_zoom_in()),
                () if Some(&self.zoom) == steps.last() => ("←", say::key_zoom_out()),
                () => ("←→", say::key_zoom()),
            };
            all.push(Command { name, ..Command::sides(Message::Zoom, words) });
            all.push(Command::letter('/', "/", Message::Find, say::key_find()));
        }
        if !shared.is_running() && shared.facts.repeat.is_some() {
            all.push(Command::letter('r', "r", Message::Repeat, say::key_repeat_failed()));
        }
        if !shared.is_running() && shared.facts.go_on.is_some() && shared.has_suspicion() {
            all.push(Command::letter('c', "c", Message::GoOn, say::key_continue_run()).aside());
        }
        if shared.located.as_ref().is_some_and(|located| located.learned_fits) {
            all.push(Command::letter('u', "u", Message::UseLearned, say::key_use_learned()));
        }
        if shared.by_time.is_some() {
            all.push(Command::letter('x', "x", Message::StopByTime, say::key_stop_at_once()));
        } else if helps(shared) {
            all.push(Command::letter('v', "v", Message::ByTime, say::key_by_time()));
        }
        all.push(Command::letter('k', "k", Message::Stopgap, say::key_exclude_ranges()));
        if self.zoom != Zoom::default() || !self.find.value().is_empty() {
            all.push(Command::back(Message::Back, say::key_step_back()));
        }
        all
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        let begin = |what: &Option<_>| what.clone().map(|what| start::begin(shared, what)).unwrap_or_default();
        match message {
            Message::Proceed => return next::proceed_elsewhere(shared),
            Message::Step(by) => {
                let (groups, words) = (found::groups(self, shared).len(), found::words(self, shared).len());
                match self.zoom.names_words() {
                    true => self.word = stepped(self.word, by, words),
                    false => (self.group, self.word) = (stepped(self.group, by, groups), 0),
                }
            }
            Message::Zoom(by) => self.zoom = self.zoom.stepped(by, shared),
            Message::Find => self.typing = true,
            Message::Back => {
                // One step away from it, or to all lines.
                match self.zoom == Zoom::default() {
                    true => self.find.reset(),
                    false => self.zoom = self.zoom.stepped(-1, shared),
                }
            }
            Message::Repeat => return begin(&shared.facts.repeat),
            Message::GoOn => return begin(&shared.facts.go_on),
            Message::UseLearned => return does(Effect::UseLearned),
            Message::ByTime => return does(Effect::LearnByTime),
            Message::StopByTime => return does(Effect::StopByTime),
            Message::Stopgap => return says(stopgap_words(shared)),
        }
        Vec::new()
    }

    fn entered(&mut self, _entry: &Entry, _shared: &Shared) -> Step {
        (self.word, self.zoom, self.typing) = (0, Zoom::default(), false);
        self.find.reset();
        does(Effect::Locate)
    }

    fn told(&mut self, news: &News, shared: &Shared) -> Step {
        if matches!(news, News::Located(_) | News::Facts(_)) {
            self.group = stepped(self.group, 0, found::groups(self, shared).len());
            self.word = stepped(self.word, 0, found::words(self, shared).len());
        }
        Vec::new()
    }

    fn follows(&self) -> Option<Effect> {
        Some(Effect::Locate)
    }

    fn typed(&mut self, key: KeyEvent, _shared: &Shared) -> Option<Step> {
        if !self.typing {
            return None;
        }
        match key.code {
            KeyCode::Enter => self.typing = false,
            KeyCode::Esc => {
                self.find.reset();
                self.typing = false;
            }
            _ => {
                typed(&mut self.find, key, LONGEST);
                self.word = 0;
                if !self.zoom.names_words() {
                    self.group = 0;
                }
            }
        }
        Some(Vec::new())
    }

    fn pointed(&mut self, at: usize, shared: &Shared) -> Step {
        match () {
            () if self.zoom.names_words() => self.word = at,
            () if self.group == at => self.zoom = self.zoom.stepped(1, shared),
            () => (self.group, self.word) = (stepped(at, 0, found::groups(self, shared).len()), 0),
        }
        Vec::new()
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

/// What keeps a system out of the bad ranges, or why nothing does.
fn stopgap_words(shared: &Shared) -> String {
    match shared.located.as_ref().map(|located| &located.stopgap) {
        None => say::locate_nothing_to_exclude().to_owned(),
        Some(Err(refusal)) => say::locate_no_workaround(words::locate::refusal(refusal)),
        Some(Ok(gap)) => {
            let lines = [
                say::locate_costs(bytes_text(gap.costs), words::locate::warning(gap)),
                say::locate_linux_kernel(&gap.kernel_parameters),
                say::locate_linux_grub(&gap.boot_loader),
                say::locate_windows(gap.windows.join(say::and())),
                say::locate_prints().to_owned(),
            ];
            lines.join("\n")
        }
    }
}
