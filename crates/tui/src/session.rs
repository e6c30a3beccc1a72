//! What is open on the screen, and the workshop behind it. Needs no terminal: keys go in, pictures come out.

use std::cell::RefCell;
use std::collections::VecDeque;
use std::time::{Duration, Instant};

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::backend::TestBackend;
use ratatui::{Frame, Terminal};
use revisum_drive::Begin;
use revisum_engine::recipe::Depth;
use revisum_link::{Linked, Picture, Standing};
use revisum_records::wall_time;

use crate::app::App;
use crate::booted::{Kept, Leave};
use crate::kit::canvas::Targets;
use crate::kit::theme::Theme;
use crate::moves::{start, steps};
use crate::room::step::{Ask, Step};
use crate::room::view::View;
use crate::shared::effect::Effect;
use crate::shared::news::News;
use crate::wall::{picture_of, standing_of};
use crate::workshop::{Desk, Workshop};

pub use crate::workshop::Told;

/// Seconds after a boot until testing begins by itself; less when it goes on from the other entry.
const BOOTED_BEGINS_IN_SECONDS: u32 = 10;
const CHAINED_BEGINS_IN_SECONDS: u32 = 5;
/// Where the drive says that testing begins at once there is still time to see what begins.
const AT_ONCE_SECONDS: u32 = 1;
/// Seconds in which a key holds a planned run.
const BEGINS_IN_SECONDS: u32 = 30;
/// So long an answer is waited for before the screen is drawn: most come sooner, and the next picture then shows them.
const AT_MOST: Duration = Duration::from_millis(25);
/// What takes longer than this is said.
const NOTICED: Duration = Duration::from_millis(100);

/// What only a terminal can do.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Wish {
    /// Draw everything anew.
    Wipe,
    /// Make a sound.
    Ring,
    /// Larger or smaller text.
    TextSize,
    /// The wall of the shop's counter.
    Wall,
}

/// An effect that was handed in and not answered yet.
struct Sent {
    words: &'static str,
    since: Instant,
    changes: bool,
    follows: bool,
    keeps: bool,
}

impl Sent {
    fn now(effect: &Effect) -> Self {
        Self {
            words: effect.words(),
            since: Instant::now(),
            changes: effect.changes(),
            follows: matches!(effect, Effect::Follow | Effect::Locate),
            keeps: matches!(effect, Effect::WriteUnwritten),
        }
    }
}

/// The screen and the workshop behind it.
pub struct Session {
    app: App,
    desk: Desk,
    sent: VecDeque<Sent>,
    /// Keys that wait until what was asked for before them is done.
    held: VecDeque<KeyEvent>,
    targets: RefCell<Targets>,
    /// What a sound told last: whether there were errors, and whether the run is over.
    heard: (bool, bool),
    /// There was something new while the last question was not answered.
    missed: bool,
}

/// A workshop with the first look at its machine, which takes seconds on a slow one.
pub(crate) struct LookedAt {
    pub workshop: Workshop,
    facts: crate::shared::facts::Facts,
    kept: Kept,
}

impl LookedAt {
    pub fn now(mut workshop: Workshop) -> Self {
        let (facts, kept) = (workshop.facts(), workshop.kept());
        Self { workshop, facts, kept }
    }
}

impl Session {
    /// Opens it on a screen, with what is open from the last time; all effects are carried out at once.
    pub(crate) fn here(mut workshop: Workshop, first: View, size: (u16, u16), told: Told) -> Self {
        workshop.tell(told);
        let (facts, kept) = (workshop.facts(), workshop.kept());
        Self::open(Desk::here(workshop), facts, kept, first, size)
    }

    /// The same; effects are carried out on a thread of their own, and `answered` is called when one is done.
    ///
    /// # Errors
    /// When the system's limits leave no thread.
    pub(crate) fn apart(
        looked: LookedAt,
        first: View,
        size: (u16, u16),
        told: Told,
        answered: Told,
    ) -> anyhow::Result<Self> {
        let LookedAt { mut workshop, facts, kept } = looked;
        workshop.tell(told);
        Ok(Self::open(Desk::apart(workshop, answered)?, facts, kept, first, size))
    }

    fn open(desk: Desk, facts: crate::shared::facts::Facts, kept: Kept, first: View, size: (u16, u16)) -> Self {
        let planned = facts.plan.is_some();
        let view = if planned { View::Swap } else { first };
        let (mut app, mut effects) = App::new(facts, view, size);
        let shared = app.shared_mut();
        shared.kept = kept;
        if shared.planned_matches() {
            shared.begins_in = Some(BEGINS_IN_SECONDS);
        }
        if shared.facts.unexplained.is_some() && first != View::Jobs {
            shared.begins_in = None;
            app.ask_why_it_broke_off();
        }
        let shared = app.shared_mut();
        if let Some(booted) = &shared.facts.booted {
            let begins_in = match booted.settings.begin {
                _ if booted.chained => Some(CHAINED_BEGINS_IN_SECONDS),
                Begin::Countdown => Some(BOOTED_BEGINS_IN_SECONDS),
                Begin::AtOnce => Some(AT_ONCE_SECONDS),
                Begin::Key => None,
            };
            let sound = booted.settings.sound;
            shared.unattended = begins_in.is_some();
            shared.begins_in = begins_in;
            shared.chosen.sound |= sound;
        }
        effects.insert(0, Effect::ListJobs);
        let mut session = Self {
            app,
            desk,
            sent: VecDeque::new(),
            held: VecDeque::new(),
            targets: RefCell::default(),
            heard: (false, true),
            missed: false,
        };
        session.look_at_the_clock();
        session.hand_in(effects);
        session
    }

    /// Whether somebody left it, or what it needs is gone.
    pub fn is_over(&self) -> bool {
        self.app.left().is_some() || self.desk.is_gone()
    }

    /// Ends what still runs and says what shall become of a booted machine, and why something is not recorded.
    pub fn close(self) -> (Option<Leave>, Option<String>) {
        let leave = self.app.left().flatten();
        (leave, self.desk.close().trouble)
    }

    /// Takes the time for the header.
    pub fn look_at_the_clock(&mut self) {
        let wall_ms = self.desk.reins().wall_ms();
        let shared = self.app.shared_mut();
        shared.wall_ms = wall_ms.unwrap_or(shared.wall_ms);
        shared.minute_of_day = wall_time::minute_of_day(shared.wall_ms, &wall_time::zone(shared.facts.simulated));
        let oldest = self.sent.front().filter(|sent| sent.since.elapsed() >= NOTICED);
        shared.waiting = oldest.map(|sent| sent.words);
    }

    /// Whether something is being waited for.
    pub(crate) fn is_waiting(&self) -> bool {
        !self.sent.is_empty()
    }

    /// What is on the screen as text, line by line, as a terminal with many colours shows it.
    pub fn text(&self) -> String {
        let (width, height) = self.app.shared().size;
        let Ok(mut terminal) = Terminal::new(TestBackend::new(width, height));
        let Ok(_) = terminal.draw(|frame| self.draw(frame, &Theme::full()));
        let buffer = terminal.backend().buffer();
        let cells = |row: u16| (0..width).map(|column| buffer[(column, row)].symbol()).collect::<String>();
        (0..height).map(|row| cells(row).trim_end().to_owned() + "\n").collect()
    }

    /// Draws it.
    pub(crate) fn draw(&self, frame: &mut Frame<'_>, theme: &Theme) {
        let targets = Targets::default();
        self.app.draw(frame, theme, &targets);
        *self.targets.borrow_mut() = targets;
    }

    /// What this machine says of itself to the counter.
    pub(crate) fn standing(&self) -> Standing {
        let next = self.app.next_words();
        standing_of(self.app.shared(), next.as_deref(), self.app.is_covered())
    }

    /// What is on the screen, on one of this size.
    pub(crate) fn picture(&self, (width, height): (u16, u16)) -> Picture {
        let Ok(mut terminal) = Terminal::new(TestBackend::new(width, height));
        let (theme, targets) = (Theme::full(), Targets::default());
        let Ok(_) = terminal.draw(|frame| self.app.draw(frame, &theme, &targets));
        picture_of(terminal.backend().buffer())
    }

    /// Where the link to the counter is.
    pub(crate) fn is_linked(&mut self, linked: Linked) {
        self.app.shared_mut().linked = Some(linked);
    }

    /// Says something before the screen.
    pub(crate) fn say(&mut self, words: String) {
        let effects = self.app.carry_out(vec![Ask::Say(words)]);
        self.hand_in(effects);
    }

    /// Takes a key. What it acts on may still be on its way: then it waits, unless it leads elsewhere.
    pub fn key(&mut self, key: KeyEvent) -> Option<Wish> {
        if self.is_changing() && !leads_elsewhere(key) {
            self.held.push_back(key);
            return None;
        }
        self.held.clear();
        self.take_key(key)
    }

    fn take_key(&mut self, key: KeyEvent) -> Option<Wish> {
        let effects = self.app.key(key);
        self.do_all(effects)
    }

    fn do_all(&mut self, effects: Vec<Effect>) -> Option<Wish> {
        let (wipe, size) = (effects.contains(&Effect::Redraw), effects.contains(&Effect::TextSize));
        let wall = effects.contains(&Effect::Wall);
        self.hand_in(effects);
        let rings = self.listen();
        if wall {
            Some(Wish::Wall)
        } else if size {
            Some(Wish::TextSize)
        } else if wipe {
            Some(Wish::Wipe)
        } else {
            rings
        }
    }

    /// Somebody pointed at this column and row.
    pub fn pointed(&mut self, column: u16, row: u16) -> Option<Wish> {
        let target = self.targets.borrow().at(column, row)?;
        if self.is_changing() {
            return None;
        }
        let effects = self.app.pointed(target);
        self.do_all(effects)
    }

    /// The terminal has another size.
    pub fn resized(&mut self, width: u16, height: u16) -> Option<Wish> {
        self.app.shared_mut().size = (width, height);
        None
    }

    /// What goes on beside everything else has something new.
    pub fn published(&mut self) -> Option<Wish> {
        self.take_answers(Duration::ZERO);
        self.follow();
        self.listen()
    }

    /// An effect is done.
    pub fn answered(&mut self) -> Option<Wish> {
        self.take_answers(Duration::ZERO);
        if self.missed {
            self.follow();
        }
        self.listen()
    }

    /// Takes over how far it has come. One question at a time: while one is not answered the next would only ask the same.
    fn follow(&mut self) {
        if let Some(run) = self.desk.reins().run() {
            self.app.shared_mut().run = Some(run);
        }
        self.missed = self.sent.iter().any(|sent| sent.follows);
        if !self.missed {
            let more = self.app.shared().is_running();
            let wanted = self.app.wants().filter(|_| more);
            self.pass_on(wanted.into_iter().chain([Effect::Follow]).collect());
        }
    }

    /// Hears whether the run has errors now, or is over, and does what follows.
    fn listen(&mut self) -> Option<Wish> {
        let shared = self.app.shared();
        let now = (shared.run_state().is_some_and(|state| state.has_errors()), !shared.is_running());
        let before = std::mem::replace(&mut self.heard, now);
        if !before.1 && now.1 {
            self.a_run_is_over();
        }
        (self.app.shared().chosen.sound && now != before && self.app.shared().run.is_some()).then_some(Wish::Ring)
    }

    fn a_run_is_over(&mut self) {
        let shared = self.app.shared();
        if shared.facts.booted.is_some() {
            self.after_a_booted_run();
        }
        // A question that a run covered comes back when it is over.
        let shared = self.app.shared();
        if shared.facts.unexplained.is_some() && !self.app.is_covered() && !shared.unattended {
            self.app.ask_why_it_broke_off();
        }
    }

    /// The system asks the program to end.
    pub fn end(&mut self) -> Option<Wish> {
        let effects = self.app.by_itself(vec![Ask::Leave(None)]);
        self.do_all(effects)
    }

    /// A second has passed: a planned run begins by itself when the machine is fitted as planned and nobody touches a key.
    pub fn second(&mut self) -> Option<Wish> {
        self.take_answers(Duration::ZERO);
        let kept = &self.app.shared().kept;
        // On a slow machine that tests there is hardly a moment at which nothing is asked: only its own question is waited for.
        if (kept.trouble.is_some() || kept.brought) && !self.sent.iter().any(|sent| sent.keeps) {
            self.hand_in(vec![Effect::WriteUnwritten]);
        }
        let shared = self.app.shared_mut();
        let Some(left) = shared.begins_in else { return self.listen() };
        shared.begins_in = Some(left.saturating_sub(1)).filter(|left| *left > 0);
        if shared.begins_in.is_none() {
            let shared = self.app.shared();
            let planned = shared.planned_matches();
            let step = if planned { steps::begin_planned(shared) } else { start::depth(shared, Depth::Triage) };
            self.begin_by_itself(step);
        }
        self.listen()
    }

    fn begin_by_itself(&mut self, step: Step) {
        let effects = self.app.by_itself(step);
        self.hand_in(effects);
    }

    /// Whether something that was asked for changes what keys act on.
    fn is_changing(&self) -> bool {
        self.sent.iter().any(|sent| sent.changes)
    }

    fn hand_in(&mut self, effects: Vec<Effect>) {
        // Behind something that takes long an answer does not come soon.
        let at_most = if self.sent.is_empty() { AT_MOST } else { Duration::ZERO };
        self.pass_on(effects);
        self.take_answers(at_most);
    }

    /// Hands them in, and what their answers ask for, as far as they are here at once.
    fn pass_on(&mut self, effects: Vec<Effect>) {
        let mut effects = VecDeque::from(effects);
        while let Some(effect) = effects.pop_front() {
            let sent = Sent::now(&effect);
            match self.desk.hand_in(effect) {
                Some(news) => effects.extend(self.tell(news)),
                None => self.sent.push_back(sent),
            }
        }
    }

    /// Takes in what was answered, and waits at most so long for what was not; then come the keys that waited for it.
    fn take_answers(&mut self, at_most: Duration) {
        let until = Instant::now() + at_most;
        while !self.sent.is_empty() {
            let Some(news) = self.desk.answer(until.saturating_duration_since(Instant::now())) else { break };
            self.sent.pop_front();
            let effects = self.tell(news);
            self.pass_on(effects);
        }
        while !self.is_changing()
            && let Some(key) = self.held.pop_front()
        {
            let effects = self.app.key(key);
            self.pass_on(effects);
        }
    }

    fn tell(&mut self, news: Vec<News>) -> Vec<Effect> {
        news.into_iter().flat_map(|news| self.app.told(news)).collect()
    }

    /// Its report is kept beside the results; and where nobody is there, the next thing is done.
    fn after_a_booted_run(&mut self) {
        self.hand_in(vec![Effect::KeepReport]);
        let shared = self.app.shared();
        let Some(state) = shared.run_state().filter(|_| shared.unattended) else { return };
        let depth = state.begin.recipe.as_ref().map(|recipe| recipe.depth);
        if state.has_errors() {
            return;
        }
        match depth {
            Some(Depth::Triage) => {
                let step = start::depth(shared, Depth::Survey);
                self.begin_by_itself(step);
            }
            Some(_)
                if shared.can_test_the_rest() && shared.facts.booted.as_ref().is_some_and(|booted| !booted.chained) =>
            {
                self.begin_by_itself(vec![Ask::Leave(Some(Leave::Other))]);
            }
            // Nobody came: a fault that is rare shows in a long time, or not at all.
            Some(Depth::Survey) => {
                let step = start::depth(shared, Depth::Overnight);
                self.begin_by_itself(step);
            }
            _ => {}
        }
    }
}

/// Keys that need not wait for what was asked for before: they do not act on it.
fn leads_elsewhere(key: KeyEvent) -> bool {
    key.modifiers.contains(KeyModifiers::CONTROL) || key.code == KeyCode::Esc
}

#[cfg(test)]
mod tests;
