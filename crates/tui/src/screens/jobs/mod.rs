//! 0 Jobs: every machine that came in; and making a boot drive.

mod draw;
mod draw_drives;
mod drives;
mod rows;

use revisum_engine::text::cleaned;
use revisum_records::RunSummary;
use tui_input::Input;

use crate::say;
use self::drives::DrivePage;
use self::rows::{job_rows, own_row};
use crate::dialogs::line::Line;
use crate::kit::canvas::Canvas;
use crate::kit::theme::Theme;
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Ask, Entry, Step, does, goes, says};
use crate::room::view::View;
use crate::shared::effect::Effect;
use crate::shared::news::News;
use crate::shared::state::{Shared, stepped};

/// The list of jobs.
#[derive(Debug, Default)]
pub struct Jobs {
    /// Chosen row.
    job: usize,
    /// The row of the open job was looked for.
    found_own: bool,
    /// Recorded runs, newest first.
    latest: Vec<RunSummary>,
    /// The boot drive is being made.
    drives: Option<DrivePage>,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// Open the chosen job.
    Open,
    /// Another job, or drive.
    Step(isize),
    /// Look for drives.
    Drives,
    /// Begin another job for the machine on the bench.
    NewJob,
    /// Begin or open the job of a machine that is not here.
    Elsewhere,
    /// Write the chosen drive.
    Write,
    /// The results on it stay, or not.
    Keep,
    /// Give up writing.
    GiveUp,
    /// To the machine at hand.
    Machine,
    /// Back to the jobs.
    Back,
}

impl Screen for Jobs {
    type Message = Message;

    fn purpose() -> &'static str {
        say::jobs_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        if let Some(page) = &self.drives {
            return of_drives(page);
        }
        let mut all = Vec::new();
        all.push(match job_rows(shared).get(self.job) {
            Some(row) => Command::enter(Message::Open, say::key_open_machine(row.machine)),
            None => Command::enter(Message::Machine, say::key_open_this()),
        });
        all.push(Command::list(Message::Step, say::key_select_job()));
        all.push(Command::letter('d', "d", Message::Drives, say::key_make_drive()));
        if !shared.is_running() {
            all.push(Command::letter('n', "n", Message::NewJob, say::key_new_job()));
            all.push(Command::letter('o', "o", Message::Elsewhere, say::key_other_machine()).aside());
        }
        all
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match (message, &mut self.drives) {
            (Message::Drives, _) => return does(Effect::ListDrives),
            (Message::Machine, _) => return goes(View::Board),
            (Message::Open, _) => return self.open_job(shared),
            (Message::NewJob, _) => return new_job(shared),
            (Message::Elsewhere, _) => return ask_machine(),
            (Message::Step(by), None) => self.job = stepped(self.job, by, job_rows(shared).len()),
            (Message::Step(by), Some(page)) => page.at = stepped(page.at, by, page.drives.len()),
            (Message::Write, Some(page)) => return page.ask(),
            (Message::Keep, Some(page)) => page.keep = !page.keep,
            (Message::GiveUp, Some(page)) => page.give_up(),
            (Message::Back, Some(page)) if page.is_writing() => {
                return says(say::drives_being_written());
            }
            (Message::Back, _) => self.drives = None,
            (Message::Write | Message::Keep | Message::GiveUp, None) => {}
        }
        Vec::new()
    }

    fn entered(&mut self, _entry: &Entry, _shared: &Shared) -> Step {
        // Rows change their order as jobs go on: the open one is looked for again.
        self.found_own = false;
        if !self.drives.as_ref().is_some_and(DrivePage::is_writing) {
            self.drives = None;
        }
        [Effect::ListJobs, Effect::ListLogs(String::new())].into_iter().flat_map(does).collect()
    }

    fn told(&mut self, news: &News, shared: &Shared) -> Step {
        match news {
            News::Jobs(_) if !self.found_own => (self.job, self.found_own) = (own_row(shared), true),
            News::Jobs(_) => self.job = stepped(self.job, 0, job_rows(shared).len()),
            News::Runs(listed) if listed.find.is_empty() => self.latest.clone_from(&listed.runs),
            News::Drives(drives, image) => {
                self.drives = Some(DrivePage { drives: drives.clone(), image: image.clone(), ..DrivePage::default() });
            }
            News::Writing(writing) => {
                if let Some(page) = &mut self.drives {
                    page.writing = Some(writing.clone());
                }
            }
            _ => {}
        }
        Vec::new()
    }

    fn pointed(&mut self, at: usize, shared: &Shared) -> Step {
        match &mut self.drives {
            Some(page) if !page.is_writing() => page.at = stepped(at, 0, page.drives.len()),
            Some(_) => {}
            None if at == self.job => return self.open_job(shared),
            None => self.job = stepped(at, 0, job_rows(shared).len()),
        }
        Vec::new()
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

fn of_drives(page: &DrivePage) -> Vec<Command<Message>> {
    if page.is_writing() {
        return vec![
            Command::enter(Message::Machine, say::key_continue_meanwhile()),
            Command::letter('x', "x", Message::GiveUp, say::key_give_up()),
            Command::back(Message::Back, say::key_end_first()).aside(),
        ];
    }
    let write = match page.offered() {
        Some(drive) => Command::enter(Message::Write, say::key_write_to(&drive.name)),
        None => Command::enter(Message::Drives, say::key_search_drives()),
    };
    let of_list = [
        Command::list(Message::Step, say::key_select_drive()),
        Command::letter(' ', say::key_space(), Message::Keep, say::key_toggle_results()),
    ];
    let of_list = of_list.into_iter().filter(|_| !page.drives.is_empty());
    let rest = [
        Command::letter('d', "d", Message::Drives, say::key_search_drives()),
        Command::back(Message::Back, say::key_back_jobs()),
    ];
    [write].into_iter().chain(of_list).chain(rest).collect()
}

impl Jobs {
    /// Opens the chosen job, unless it is open already.
    fn open_job(&self, shared: &Shared) -> Step {
        let rows = job_rows(shared);
        let Some(row) = rows.get(self.job) else { return Vec::new() };
        let (machine, job) = (row.machine.to_owned(), row.job.map(|job| job.id.clone()));
        if machine == shared.facts.machine && job.as_ref().is_none_or(|job| *job == shared.facts.job) {
            return goes(View::Board);
        }
        if shared.is_running() {
            return says(say::jobs_run_in_progress());
        }
        does(Effect::OpenJob { machine, job })
    }
}

/// Letters of a machine's name.
const LONGEST: usize = 40;

/// Asks for the name of a machine that stands elsewhere: one that does not start has a job all the same.
fn ask_machine() -> Step {
    let line = Line {
        title: say::elsewhere_title().to_owned(),
        style: Theme::strong,
        words: vec![say::elsewhere_words().to_owned()],
        label: "",
        input: Input::default(),
        longest: LONGEST,
        keys: say::keep_cancel(),
        kept: Box::new(|typed| {
            let machine = cleaned(typed.trim(), LONGEST);
            if machine.is_empty() { Vec::new() } else { does(Effect::OpenJob { machine, job: None }) }
        }),
    };
    vec![Ask::Show(Box::new(line))]
}

/// Another job for the machine at hand; an open one is closed before.
fn new_job(shared: &Shared) -> Step {
    if shared.facts.closed.is_none() && !shared.facts.trials.is_empty() {
        return says(say::jobs_still_open());
    }
    if shared.facts.closed.is_none() {
        return says(say::jobs_already_new());
    }
    does(Effect::NewJob)
}

#[cfg(test)]
mod tests;
