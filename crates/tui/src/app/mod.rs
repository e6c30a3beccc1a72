//! The full screen as a whole: which screen is in front, what stands before it, and who takes a key. It holds nothing of any screen.

mod chrome;
mod commands;
mod draw;
mod overlays;
mod questions;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::Frame;

use self::commands::{Common, Known, Taker};
use crate::booted::Leave;
use crate::dialogs::glossary::Glossary;
use crate::dialogs::notice::Notice;
use crate::kit::canvas::{Target, Targets};
use crate::kit::theme::Theme;
use crate::moves::dark;
use crate::room::screen::Room;
use crate::room::step::{Ask, Dialog, Entry, Outcome, Step, does, goes};
use crate::room::view::View;
use crate::screens::rooms;
use crate::shared::effect::Effect;
use crate::shared::facts::Facts;
use crate::shared::news::News;
use crate::shared::run::RunView;
use crate::shared::state::{Shared, stepped};

/// Longest part of a name that is typed into the list of actions.
const LONGEST: usize = 40;

/// What stands before the screen.
#[derive(Debug)]
enum Front {
    /// All keys for here.
    Help,
    /// All actions, with what was typed and the chosen line.
    Actions { typed: String, chosen: usize },
    /// A dialog.
    Dialog(Box<dyn Dialog>),
}

/// The full screen.
pub struct App {
    shared: Shared,
    view: View,
    rooms: Vec<Box<dyn Room>>,
    front: Option<Front>,
    /// Time to leave, on a booted machine with what becomes of it.
    left: Option<Option<Leave>>,
}

impl App {
    /// As it is first, and what that asks for.
    pub fn new(facts: Facts, first: View, size: (u16, u16)) -> (Self, Vec<Effect>) {
        let shared = Shared::new(facts, size);
        let mut app = Self { shared, view: first, rooms: rooms(), front: None, left: None };
        let effects = app.carry_out(goes(first));
        (app, effects)
    }

    /// What all screens see.
    pub fn shared(&self) -> &Shared {
        &self.shared
    }

    /// The same, for what comes from outside: the clock, the run, the size.
    pub fn shared_mut(&mut self) -> &mut Shared {
        &mut self.shared
    }

    /// Whether somebody left, and on a booted machine what becomes of it.
    pub fn left(&self) -> Option<Option<Leave>> {
        self.left
    }

    /// Whether something stands before the screen.
    pub fn is_covered(&self) -> bool {
        self.front.is_some()
    }

    /// What the screen in front wants whenever a run has something new.
    pub fn wants(&self) -> Option<Effect> {
        self.rooms[self.view as usize].wants()
    }

    /// Draws it; what can be pointed at is noted down.
    pub fn draw(&self, frame: &mut Frame<'_>, theme: &Theme, targets: &Targets) {
        draw::draw(frame, self, theme, targets);
    }

    /// Takes one key press. What it means is what the screen says now; that somebody is there counts from then on.
    pub fn key(&mut self, key: KeyEvent) -> Vec<Effect> {
        let effects = self.take_key(key);
        self.somebody_is_there();
        effects
    }

    /// Nothing begins by itself any more.
    fn somebody_is_there(&mut self) {
        self.shared.begins_in = None;
        self.shared.unattended = false;
    }

    fn take_key(&mut self, key: KeyEvent) -> Vec<Effect> {
        let typed = matches!(self.front, Some(Front::Dialog(_))) && key.code != KeyCode::Char('c');
        if key.modifiers.contains(KeyModifiers::CONTROL) && !typed {
            return self.control(key.code);
        }
        let step = match self.front.take() {
            Some(Front::Help) if key.code == KeyCode::Char('t') => {
                vec![Ask::Show(Box::new(Glossary::new(revisum_words::spoken())))]
            }
            Some(Front::Help) => Vec::new(),
            Some(Front::Actions { typed, chosen }) => return self.key_in_actions(key, typed, chosen),
            Some(Front::Dialog(mut dialog)) => match dialog.key(key) {
                Outcome::Open => {
                    self.front = Some(Front::Dialog(dialog));
                    Vec::new()
                }
                Outcome::Closed(step) => step,
            },
            None => self.key_in_screen(key),
        };
        self.carry_out(step)
    }

    fn control(&mut self, code: KeyCode) -> Vec<Effect> {
        match code {
            KeyCode::Char('c') if self.shared.facts.booted.is_some() => self.do_common(Common::Quit),
            KeyCode::Char('c') => {
                self.left = Some(None);
                vec![Effect::StopRun]
            }
            KeyCode::Char('l') => vec![Effect::Redraw],
            _ => Vec::new(),
        }
    }

    fn key_in_screen(&mut self, key: KeyEvent) -> Step {
        if let Some(step) = self.rooms[self.view as usize].takes(key, &self.shared) {
            return step;
        }
        let code = match key.code {
            KeyCode::Char(letter) => KeyCode::Char(letter.to_ascii_lowercase()),
            other => other,
        };
        let known = self.commands().into_iter().find(|known| known.key.codes.contains(&code));
        known.map(|known| self.press(&known, code)).unwrap_or_default()
    }

    fn press(&mut self, known: &Known, code: KeyCode) -> Step {
        match known.taker {
            Taker::Screen => self.rooms[self.view as usize].press(code, &self.shared).unwrap_or_default(),
            Taker::Common(common) => self.step_of(common),
        }
    }

    fn do_common(&mut self, common: Common) -> Vec<Effect> {
        let step = self.step_of(common);
        self.carry_out(step)
    }

    fn step_of(&mut self, common: Common) -> Step {
        match common {
            Common::PauseOrGoOn => does(Effect::PauseOrGoOn),
            Common::SkipTest => does(Effect::SkipTest),
            Common::AddPass => does(Effect::AddPass),
            Common::StopRun => questions::stop(&self.shared),
            Common::Show(view) => goes(view),
            Common::Starts => dark::ask(&self.shared),
            Common::Language => does(Effect::Speak(revisum_words::spoken().next())),
            Common::Redraw => does(Effect::Redraw),
            Common::TextSize => does(Effect::TextSize),
            Common::Wall => does(Effect::Wall),
            Common::Quit => questions::leave(&self.shared),
            Common::Help => {
                self.front = Some(Front::Help);
                Vec::new()
            }
            Common::Actions => {
                self.front = Some(Front::Actions { typed: String::new(), chosen: 0 });
                Vec::new()
            }
        }
    }

    fn key_in_actions(&mut self, key: KeyEvent, mut typed: String, chosen: usize) -> Vec<Effect> {
        let found = commands::matching(self.commands(), &typed);
        let mut chosen = stepped(chosen, 0, found.len());
        match key.code {
            KeyCode::Esc => return Vec::new(),
            KeyCode::Enter => {
                let Some(known) = found.get(chosen) else { return Vec::new() };
                let step = known.key.codes.first().map(|code| self.press(known, *code));
                return self.carry_out(step.unwrap_or_default());
            }
            KeyCode::Up => chosen = stepped(chosen, -1, found.len()),
            KeyCode::Down => chosen = stepped(chosen, 1, found.len()),
            KeyCode::Backspace => drop(typed.pop()),
            KeyCode::Char(letter) if typed.len() < LONGEST => {
                typed.push(letter);
                chosen = 0;
            }
            _ => {}
        }
        self.front = Some(Front::Actions { typed, chosen });
        Vec::new()
    }

    /// A place of the screen was pointed at.
    pub fn pointed(&mut self, target: Target) -> Vec<Effect> {
        let effects = self.take_pointing(target);
        self.somebody_is_there();
        effects
    }

    fn take_pointing(&mut self, target: Target) -> Vec<Effect> {
        let covered = self.front.is_some();
        match target {
            Target::Key(code) => self.take_key(code.into()),
            Target::Line(at) if covered => match self.front.take() {
                Some(Front::Actions { typed, chosen }) if chosen == at => {
                    self.key_in_actions(KeyCode::Enter.into(), typed, at)
                }
                Some(Front::Actions { typed, .. }) => {
                    self.front = Some(Front::Actions { typed, chosen: at });
                    Vec::new()
                }
                front => {
                    self.front = front;
                    Vec::new()
                }
            },
            Target::Line(at) => {
                let step = self.rooms[self.view as usize].point(at, &self.shared);
                self.carry_out(step)
            }
            Target::Slot(at) if !covered => self.carry_out(vec![Ask::Slot(at)]),
            Target::Slot(_) => Vec::new(),
        }
    }

    /// What Enter does here and now.
    pub fn next_words(&self) -> Option<String> {
        let enter = |known: &Known| known.key.codes.contains(&KeyCode::Enter);
        self.commands().into_iter().find(enter).map(|known| known.key.words)
    }

    /// All commands of here and now.
    fn commands(&self) -> Vec<Known> {
        commands::all(&self.rooms, self.view, &self.shared)
    }

    /// Does what a step asks for within the interface; the rest is returned.
    pub fn carry_out(&mut self, step: Step) -> Vec<Effect> {
        let mut effects = Vec::new();
        for ask in step {
            match ask {
                Ask::Do(effect) => effects.push(effect),
                Ask::Go(entry) => effects.extend(self.go(&entry)),
                Ask::Show(dialog) => self.front = Some(Front::Dialog(dialog)),
                Ask::Say(words) => self.front = Some(Front::Dialog(Box::new(Notice(words)))),
                Ask::Slot(at) => self.shared.slot = at,
                Ask::Choose(chosen) => self.shared.chosen = *chosen,
                Ask::Leave(leave) => self.left = Some(leave),
            }
        }
        effects
    }

    fn go(&mut self, entry: &Entry) -> Vec<Effect> {
        self.view = entry.view();
        let step = self.rooms[self.view as usize].enter(entry, &self.shared);
        self.carry_out(step)
    }

    /// Takes in what an effect came to: first what all screens see, then every screen.
    pub fn told(&mut self, news: News) -> Vec<Effect> {
        let mut effects = self.take_in(&news);
        for at in 0..self.rooms.len() {
            let step = self.rooms[at].hear(&news, &self.shared);
            effects.extend(self.carry_out(step));
        }
        effects
    }

    fn take_in(&mut self, news: &News) -> Vec<Effect> {
        let shared = &mut self.shared;
        match news {
            News::Facts(facts) => {
                shared.located.clone_from(&facts.located);
                shared.facts = facts.as_ref().clone();
            }
            News::Opened(facts) => {
                let (chosen_sound, size, kept) = (shared.chosen.sound, shared.size, shared.kept.clone());
                let jobs = std::mem::take(&mut shared.jobs);
                *shared = Shared { jobs, kept, ..Shared::new(facts.as_ref().clone(), size) };
                shared.chosen.sound = chosen_sound;
                self.rooms = rooms();
                let mut step = goes(View::Board);
                step.extend(does(Effect::ListJobs));
                step.extend(questions::broke_off(&self.shared));
                return self.carry_out(step);
            }
            News::Kept(kept) => shared.kept = kept.clone(),
            News::Jobs(jobs) => shared.jobs.clone_from(jobs),
            News::Dark => return self.carry_out(goes(View::Swap)),
            News::RunBegan => shared.run = Some(RunView::default()),
            News::RunOver(run) => shared.run = Some(run.clone()),
            News::Located(located) => shared.located.clone_from(located),
            News::Speed(now) => shared.speed.clone_from(now),
            News::ByTime(now) => shared.by_time = *now,
            News::Recipe(recipe) => {
                shared.chosen.recipe = recipe.as_ref().clone();
                (shared.chosen.until, shared.chosen.left_out, shared.chosen.changed) = (None, Vec::new(), true);
            }
            News::Drives(..) => return self.carry_out(vec![Ask::Go(Entry::Plain(View::Jobs))]),
            News::SystemLog(_) if self.view != View::Logs => return self.carry_out(goes(View::Logs)),
            News::Said(words) => return self.carry_out(vec![Ask::Say(words.clone())]),
            _ => {}
        }
        Vec::new()
    }

    /// Asks why the last run broke off, where nobody has said so.
    pub fn ask_why_it_broke_off(&mut self) {
        let step = questions::broke_off(&self.shared);
        self.carry_out(step);
    }

    /// Something is done without a key: what stands before the screen goes.
    pub fn by_itself(&mut self, step: Step) -> Vec<Effect> {
        self.front = None;
        self.carry_out(step)
    }
}

#[cfg(test)]
mod crowded;
#[cfg(test)]
mod keys;
#[cfg(test)]
mod looks;
#[cfg(test)]
mod samples;
#[cfg(test)]
mod states;
#[cfg(test)]
mod tests;
