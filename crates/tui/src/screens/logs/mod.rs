//! 8 Logs: earlier runs, and what opens over their list: one of them, several side by side, a module's life, what systems logged.

mod bring_in;
mod compare;
mod draw;
mod life;
mod page;
mod system_log;

use std::collections::BTreeSet;

use crossterm::event::{KeyCode, KeyEvent};
use revisum_records::Standing;
use tui_input::Input;

use crate::say;
use self::page::{LifePage, Page, RunPage, SystemLogPage};
use crate::kit::board_strip::Strip;
use crate::kit::canvas::Canvas;
use crate::kit::typing::typed;
use crate::moves::next;
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Entry, Step, does, says};
use crate::shared::effect::Effect;
use crate::shared::news::{BringingIn, Listed, News};
use crate::shared::state::{Shared, stepped};

/// Runs that can be set side by side.
const MOST_COMPARED: usize = 4;
/// Steps in which one goes through a run's time.
const STEPS: u64 = 40;
/// Longest text to look for.
const LONGEST: usize = 40;

/// Earlier runs.
#[derive(Debug, Default)]
pub struct Logs {
    /// The runs.
    listed: Listed,
    /// Chosen line of them.
    log: usize,
    /// Runs that are chosen for a comparison.
    chosen: BTreeSet<String>,
    /// Only runs with this in them are shown.
    find: Input,
    /// It is being typed.
    typing: bool,
    /// What is in front of the list.
    page: Page,
    /// Records are being brought in.
    bringing_in: Option<BringingIn>,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// The next sensible step.
    Proceed,
    /// Another line.
    Step(isize),
    /// To an earlier or later moment of the run.
    Time(isize),
    /// Choose the run for a comparison, or not.
    Choose,
    /// Look for runs.
    Find,
    /// What the machine's own systems logged.
    SystemLog,
    /// Bring in records from a drive.
    BringIn,
    /// One step back.
    Back,
}

impl Screen for Logs {
    type Message = Message;

    fn purpose() -> &'static str {
        say::logs_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let run = || (!shared.is_busy()).then(|| next::words_elsewhere(shared));
        let proceed = self.next().or_else(run).map(|words| Command::enter(Message::Proceed, words));
        let back = Command::back(Message::Back, say::key_back_list());
        let rest = match &self.page {
            Page::Run(page) if matches!(page.before, Page::Life(_)) => {
                vec![Command::sides(Message::Time, say::key_through_time()), Command::back(Message::Back, say::key_back_module())]
            }
            Page::Run(_) => vec![Command::sides(Message::Time, say::key_through_time()), back],
            Page::Life(_) => vec![Command::list(Message::Step, say::key_select_run()), back],
            Page::SystemLog(_) => vec![Command::list(Message::Step, say::key_select_entry()), back],
            Page::Compared(_) => vec![back],
            Page::List => self.of_list(),
        };
        proceed.into_iter().chain(rest).collect()
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match message {
            Message::Proceed if self.next().is_none() => return next::proceed_elsewhere(shared),
            Message::Proceed => return self.proceed(),
            Message::Step(by) => self.step(by),
            Message::Time(by) => return self.step_in_time(by),
            Message::Choose => return self.choose(),
            Message::Find => self.typing = true,
            Message::SystemLog => return does(Effect::ReadSystemLog),
            Message::BringIn => return self.bring_in(),
            Message::Back => return self.back(),
        }
        Vec::new()
    }

    fn entered(&mut self, entry: &Entry, _shared: &Shared) -> Step {
        (self.page, self.typing) = (Page::List, false);
        self.find.reset();
        match entry {
            Entry::Life { serial, name } => does(Effect::Life { serial: serial.clone(), name: name.clone() }),
            Entry::Plain(_) => does(Effect::ListLogs(String::new())),
        }
    }

    fn told(&mut self, news: &News, _shared: &Shared) -> Step {
        match news {
            News::Runs(listed) if listed.find == self.find.value() => {
                self.listed = listed.clone();
                self.log = stepped(self.log, 0, self.listed.runs.len());
            }
            News::Recorded(run, at) => {
                let (asked, before) = match std::mem::take(&mut self.page) {
                    Page::Run(page) => (page.asked.filter(|_| page.run.id == run.id), page.before),
                    page => (None, page),
                };
                self.page = Page::Run(Box::new(RunPage { run: run.clone(), at: *at, asked, before }));
            }
            News::Compared(compared) => {
                self.page = Page::Compared(compared.clone());
                self.chosen.clear();
            }
            News::Life(life, name) => {
                self.page = Page::Life(LifePage { life: life.clone(), name: name.clone(), at: 0 });
            }
            News::SystemLog(logs) => {
                self.page = Page::SystemLog(SystemLogPage { logs: logs.clone(), at: 0, kept: false });
            }
            News::SystemLogKept => {
                if let Page::SystemLog(page) = &mut self.page {
                    page.kept = true;
                }
            }
            News::RecordsFound(found) => return bring_in::ask(found.clone()),
            News::BringingIn(now) => self.bringing_in = Some(now.clone()),
            News::BroughtIn(done) => {
                self.bringing_in = None;
                let words = match done {
                    Ok(done) => say::logs_imported(done.words()),
                    Err(why) => say::logs_not_imported(why),
                };
                let mut step = does(Effect::ListLogs(self.find.value().to_owned()));
                step.extend(says(words));
                return step;
            }
            _ => {}
        }
        Vec::new()
    }

    fn typed(&mut self, key: KeyEvent, _shared: &Shared) -> Option<Step> {
        if !self.typing {
            return None;
        }
        match key.code {
            KeyCode::Enter => {
                self.typing = false;
                return Some(Vec::new());
            }
            KeyCode::Esc => {
                self.find.reset();
                self.typing = false;
            }
            _ => typed(&mut self.find, key, LONGEST),
        }
        self.log = 0;
        Some(does(Effect::ListLogs(self.find.value().to_owned())))
    }

    fn pointed(&mut self, at: usize, _shared: &Shared) -> Step {
        let now = match &mut self.page {
            Page::List => &mut self.log,
            Page::Life(page) => &mut page.at,
            Page::SystemLog(page) => &mut page.at,
            Page::Run(_) | Page::Compared(_) => return Vec::new(),
        };
        let again = *now == at;
        *now = at;
        if again { self.proceed() } else { Vec::new() }
    }

    fn strip<'a>(&'a self, shared: &'a Shared) -> Strip<'a> {
        match &self.page {
            Page::Run(page) => {
                let live = page.run.standing == Standing::Running;
                let board = &page.run.state.begin.board;
                Strip { board, run: Some((&page.run.state, live)), ..Strip::of(shared) }
            }
            _ => Strip::of(shared),
        }
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

impl Logs {
    fn of_list(&self) -> Vec<Command<Message>> {
        let mut all = vec![Command::letter('s', "s", Message::SystemLog, say::key_system_logs())];
        if !self.listed.runs.is_empty() {
            all.push(Command::letter(' ', say::key_space(), Message::Choose, say::key_select_compare()));
            all.push(Command::list(Message::Step, say::key_select_run()).aside());
        }
        all.push(Command::letter('/', "/", Message::Find, say::key_find()));
        all.push(Command::letter('i', "i", Message::BringIn, say::key_import()));
        if !self.find.value().is_empty() {
            all.push(Command::back(Message::Back, say::key_all_runs()));
        }
        all
    }

    /// What Enter does, in words; nothing where there is no next step.
    fn next(&self) -> Option<String> {
        match &self.page {
            Page::Life(page) if !page.life.runs.is_empty() => Some(say::key_open_run().to_owned()),
            Page::SystemLog(page) if page.is_to_keep() => Some(say::key_keep_evidence().to_owned()),
            Page::Run(_) | Page::Compared(_) | Page::Life(_) | Page::SystemLog(_) => Some(say::key_back().to_owned()),
            Page::List if self.chosen.len() > 1 => Some(say::key_compare_runs(self.chosen.len())),
            Page::List => (!self.listed.runs.is_empty()).then(|| say::key_open().to_owned()),
        }
    }

    fn proceed(&mut self) -> Step {
        match &self.page {
            Page::Life(page) if !page.life.runs.is_empty() => {
                let run = page.life.runs.iter().rev().nth(page.at);
                run.map(|run| does(Effect::OpenLog(run.run.clone()))).unwrap_or_default()
            }
            Page::SystemLog(page) if page.is_to_keep() => does(Effect::KeepSystemLog),
            Page::Run(_) | Page::Compared(_) | Page::Life(_) | Page::SystemLog(_) => self.back(),
            Page::List if self.chosen.len() > 1 => does(Effect::Compare(self.chosen.iter().cloned().collect())),
            Page::List => {
                let log = self.listed.runs.get(self.log);
                log.map(|log| does(Effect::OpenLog(log.id.clone()))).unwrap_or_default()
            }
        }
    }

    /// Up and down in the list that is in front.
    fn step(&mut self, by: isize) {
        match &mut self.page {
            Page::Life(page) => page.at = stepped(page.at, by, page.life.runs.len()),
            Page::SystemLog(page) => page.at = stepped(page.at, by, page.count()),
            _ => self.log = stepped(self.log, by, self.listed.runs.len()),
        }
    }

    /// To an earlier or later moment of the opened run.
    fn step_in_time(&mut self, by: isize) -> Step {
        let Page::Run(page) = &mut self.page else { return Vec::new() };
        let length = page.at.map_or(page.run.state.t_ms, |(_, length)| length);
        let step = (length / STEPS).max(1);
        let now = page.asked.or(page.at.map(|(at, _)| at)).unwrap_or(length);
        // Multiples of a step, so that there and back is the same moment.
        let at = ((now.div_ceil(step)).saturating_add_signed(by as i64) * step).min(length);
        page.asked = Some(at);
        does(Effect::LogAt { id: page.run.id.clone(), at: Some(at).filter(|at| *at < length), length })
    }

    /// Chooses the run for a comparison, or takes it out again.
    fn choose(&mut self) -> Step {
        let Some(log) = self.listed.runs.get(self.log) else { return Vec::new() };
        if self.chosen.remove(&log.id) {
            return Vec::new();
        }
        if self.chosen.len() == MOST_COMPARED {
            return says(say::logs_most_compared(MOST_COMPARED));
        }
        self.chosen.insert(log.id.clone());
        Vec::new()
    }

    /// Looks for drives, unless records are on their way already.
    fn bring_in(&self) -> Step {
        match &self.bringing_in {
            None => does(Effect::FindRecords),
            Some(now) => {
                says(say::logs_being_imported(now.from.display().to_string()))
            }
        }
    }

    fn back(&mut self) -> Step {
        self.page = match std::mem::take(&mut self.page) {
            Page::Run(page) => page.before,
            Page::List => {
                self.find.reset();
                return does(Effect::ListLogs(String::new()));
            }
            _ => Page::List,
        };
        Vec::new()
    }
}

#[cfg(test)]
mod tests;
