//! Carries out effects: owns the machine, the job and the run, and tells the state what came of it.

mod bring_in;
mod drives;
mod facts;
mod hands;
mod logs;
mod recipes;
mod report;
mod speed;

use std::path::PathBuf;
use std::sync::Arc;

use anyhow::Result;
use revisum_diagnose::machine::Machine;
use revisum_record::fitted::Before;
use revisum_record::journal::{BrokeOff, JobEntry};
use revisum_record::outcome::Judgement;

use super::action::View;
use super::effect::Effect;
use super::pick;
use super::state::{App, Overlay, Pick, RunView};
use crate::booted::{Booted, Kept};
use revisum_records::DataDir;
use revisum_records::{Job, Which, list_jobs};
use revisum_workbench::bench;
use revisum_workbench::go_on::Start;
use revisum_workbench::rates::{Rated, measure_in_background};
use revisum_workbench::recorder::Unwritten;
use revisum_workbench::runner::{Order, RunHandle, fresh_seed, start};
use revisum_workbench::speed_run::SpeedRun;

/// The machine on the bench and everything that is done with it.
pub struct Workshop {
    machine: Arc<Machine>,
    data: DataDir,
    job: Job,
    run: Option<RunHandle>,
    speed: Option<SpeedRun>,
    seed: Option<u64>,
    maker: Option<Maker>,
    rated: Rated,
    /// The recipe file that was read last.
    recipe_file: Option<PathBuf>,
    /// How the machine was when it was last here.
    before: Option<Before>,
    /// The machine was booted from the drive.
    booted: Option<Booted>,
    /// Records of the last run that its medium refused.
    unwritten: Option<Unwritten>,
}

/// Whether the screen says already that the run at hand is not recorded.
fn is_unrecorded(app: &App) -> bool {
    app.run.as_ref().is_some_and(|run| run.trouble.is_some())
}

/// Makes the machine of this name; only the simulated workshop has more than one.
pub type Maker = Arc<dyn Fn(&str) -> Result<Machine> + Send + Sync>;

impl Workshop {
    /// Opens the job of this machine. A simulated machine is fitted as the job left it.
    ///
    /// # Errors
    /// When the job's journal cannot be read or written.
    pub fn open(
        machine: Machine,
        data: DataDir,
        seed: Option<u64>,
        maker: Option<Maker>,
        which: Which<'_>,
    ) -> Result<Self> {
        let name = machine.firmware.facts().machine;
        let job = Job::open(&data.jobs(), &data.runs(), &name, which, machine.clock.wall_ms())?;
        let machine = Arc::new(machine);
        let rated = measure_in_background(machine.clone());
        let mut workshop = Self {
            machine,
            data,
            job,
            run: None,
            speed: None,
            seed,
            maker,
            rated,
            recipe_file: None,
            before: None,
            booted: None,
            unwritten: None,
        };
        bench::arrange(&workshop.machine, &mut workshop.job)?;
        workshop.see_modules()?;
        workshop.before = workshop.job.state().looked.clone();
        workshop.note_look()?;
        Ok(workshop)
    }

    /// Takes in that the machine was booted, and how the session before this one ended.
    ///
    /// # Errors
    /// When the job's journal cannot be written.
    pub fn was_booted(&mut self, booted: Booted) -> Result<()> {
        if let (Some(_), Some(run)) = (&booted.died, self.job.unexplained().map(|run| run.id.clone())) {
            let how = if booted.by_memory { BrokeOff::MemoryError } else { BrokeOff::Fault };
            self.job.decide(JobEntry::BrokeOff { run, how })?;
        }
        self.booted = Some(booted);
        Ok(())
    }

    /// The machine's wall time in milliseconds since 1970.
    pub fn wall_ms(&self) -> i64 {
        self.machine.clock.wall_ms()
    }

    /// Takes over what the run has come to. Returns true when it has just ended.
    pub fn follow_run(&mut self, app: &mut App) -> bool {
        self.follow_speed(app);
        self.follow_bringing_in(app);
        let Some(handle) = &self.run else { return false };
        let over = handle.live.is_over();
        app.run = Some(RunView {
            state: handle.live.state(),
            over,
            trouble: handle.live.trouble(),
            failure: handle.live.failure(),
            taken: handle.live.taken(),
        });
        if !over {
            if app.view == View::Locate {
                self.locate(app);
            }
            return false;
        }
        self.take_in_run(app);
        app.facts = self.facts();
        true
    }

    /// Enters a run that is over into the job, recorded or not.
    fn take_in_run(&mut self, app: &mut App) {
        let Some(handle) = self.run.take() else { return };
        let live = handle.live.clone();
        let Some(id) = handle.wait() else { return };
        let entered = self.job.ran(&id);
        if live.trouble().is_some() {
            self.job.remember(&live.state());
            self.unwritten = live.unwritten();
        } else if let Err(error) = entered {
            app.overlay = Some(Overlay::Notice(format!("{error:#}")));
        }
        // What reads back worse than what is in memory is what happened: this program's own memory may be what is bad.
        let in_memory = Judgement::of(&live.state(), false);
        let recorded = self.job.runs().find(|run| run.id == id);
        if let (Some(recorded), Some(view)) = (recorded, &mut app.run)
            && recorded.judgement().is_worse_than(&in_memory)
        {
            view.state = Arc::new(recorded.state.clone());
        }
    }

    /// Tries again to write what could not be written.
    pub fn write_unwritten(&mut self) {
        // Why not is in the mark that says so.
        if self.unwritten.as_mut().is_some_and(|unwritten| unwritten.write().is_ok()) {
            self.unwritten = None;
        }
        if self.unwritten.is_none() && self.job.is_unkept() {
            let _ = self.job.write_pending();
        }
    }

    /// Where what happens is recorded, or why it is not.
    pub fn kept(&self, app: &App) -> Kept {
        let booted = self.booted.as_ref();
        let place = booted.and_then(|booted| booted.results.as_ref()).map_or("", |_| "REVISUM").to_owned();
        let nowhere = booted.and_then(|booted| booted.not_kept.clone());
        let of_run = app.run.as_ref().filter(|run| !run.over).and_then(|run| run.trouble.clone());
        let of_run = of_run.map(|trouble| trouble.trim_start_matches("not recorded: ").to_owned());
        let left = self.unwritten.is_some().then(|| "the drive does not take the last run's records".to_owned());
        let of_job = self.job.is_unkept().then(|| "the drive does not take the job's records".to_owned());
        Kept { place, trouble: nowhere.or(of_run).or(left).or(of_job) }
    }

    /// Carries out one effect. Redrawing is the event loop's own.
    pub fn perform(&mut self, app: &mut App, effect: Effect, published: impl Fn() + Send + Sync + 'static) {
        let done = match effect {
            Effect::StartRun(_)
            | Effect::Refit(_)
            | Effect::Set(_)
            | Effect::Reseat(_)
            | Effect::OpenJob { .. }
            | Effect::NewJob
                if self.speed.is_some() =>
            {
                let words = "Speed is being measured. Wait for the end, or stop it: x under 7.";
                app.overlay = Some(Overlay::Notice(words.to_owned()));
                Ok(())
            }
            Effect::StartRun(what) => {
                self.start(app, *what, published);
                Ok(())
            }
            Effect::PauseOrGoOn => {
                if let Some(run) = &self.run {
                    if run.control.is_paused() { run.control.resume() } else { run.control.pause() }
                }
                Ok(())
            }
            Effect::SkipTest => {
                self.run.iter().for_each(|run| run.control.skip_test());
                Ok(())
            }
            Effect::GoToTest(place) => {
                self.run.iter().for_each(|run| run.control.go_to(place));
                Ok(())
            }
            Effect::AddPass => {
                self.run.iter().for_each(|run| run.control.add_pass());
                Ok(())
            }
            Effect::SaveRecipe(recipe) => self.save_recipe(app, &recipe),
            Effect::NextRecipe => self.next_recipe(app),
            Effect::StopRun => {
                self.run.iter().for_each(|run| run.control.stop());
                Ok(())
            }
            Effect::Refit(placement) => self.refit(app, &placement),
            Effect::Set(settings) => self.set(app, &settings),
            Effect::Reseat(modules) => self.reseat(app, modules),
            Effect::Decide(entry) => self.decide(app, *entry),
            Effect::OpenJob { machine, job } => {
                self.open_job(app, &machine, job.as_deref().map_or(Which::Latest, Which::Named))
            }
            Effect::NewJob => {
                let machine = app.facts.machine.clone();
                self.open_job(app, &machine, Which::New)
            }
            Effect::ListJobs => {
                app.jobs = list_jobs(&self.data.jobs());
                Ok(())
            }
            Effect::Mark { module, mark } => self.mark(app, &module, &mark),
            Effect::Locate => {
                self.locate(app);
                Ok(())
            }
            Effect::ListLogs => self.list_logs(app),
            Effect::OpenLog(id) => self.open_log(app, &id),
            Effect::LogAt(id, at) => self.log_at(app, &id, at),
            Effect::Life { serial, name } => self.life(app, &serial, name),
            Effect::ListDrives => {
                self.list_drives(app);
                Ok(())
            }
            Effect::WriteDrive { drive, keep } => self.write_drive(app, *drive, keep, published),
            Effect::FindRecords => {
                self.find_records(app);
                Ok(())
            }
            Effect::BringIn(from) => self.bring_in(app, from, published),
            Effect::ReadSystemLog => self.read_system_log(app, published),
            Effect::KeepSystemLog => self.keep_system_log(app),
            Effect::MeasureSpeed { all_memory } => self.measure_speed(app, all_memory, published),
            Effect::StopSpeed => {
                self.stop_speed();
                Ok(())
            }
            Effect::CompareSpeed => self.compare_speed(app),
            Effect::Compare(ids) => self.compare(app, &ids),
            Effect::MakeReport => self.report(app).map(|report| app.report = Some(Arc::new(report.document))),
            Effect::WriteReport => self.write_report(app, true),
            Effect::KeepReport => match self.write_report(app, false) {
                // That nothing is recorded stands on the screen already, beside the result.
                Err(_) if is_unrecorded(app) => Ok(()),
                done => done,
            },
            Effect::Redraw => Ok(()),
        };
        if let Err(error) = done {
            app.overlay = Some(Overlay::Notice(format!("{error:#}")));
        }
    }

    /// Ends a run that is going on and waits until its journal is whole.
    pub fn close(&mut self, app: &mut App) {
        if let Some(speed) = self.speed.take() {
            speed.stop();
            speed.wait();
        }
        if let Some(run) = &self.run {
            run.control.stop();
            self.take_in_run(app);
        }
    }

    fn start(&mut self, app: &mut App, what: Start, published: impl Fn() + Send + Sync + 'static) {
        if self.run.is_some() {
            return;
        }
        // Of a simulated machine the whole sitting is repeatable, and still no two runs are the same.
        let seed = self.seed.map_or_else(fresh_seed, |seed| seed.wrapping_add(self.job.state().runs.len() as u64));
        let order = Order {
            machine: self.machine.clone(),
            board: self.board(),
            what,
            seed,
            rated: self.rated.clone(),
            data: self.data.clone(),
            job: self.job.id().to_owned(),
        };
        app.run = Some(RunView::default());
        self.run = Some(start(order, published));
    }

    /// Opens another job, with its machine on the bench; the one that was open stays so until the new one is.
    fn open_job(&mut self, app: &mut App, name: &str, which: Which<'_>) -> Result<()> {
        if self.run.is_some() {
            return Ok(());
        }
        match &self.maker {
            Some(maker) => {
                let other = Self::open(maker(name)?, self.data.clone(), self.seed, self.maker.clone(), which)?;
                *self = other;
            }
            None => {
                let now = self.machine.clock.wall_ms();
                self.job = Job::open(&self.data.jobs(), &self.data.runs(), name, which, now)?;
                self.see_modules()?;
                self.before = self.job.state().looked.clone();
                self.note_look()?;
            }
        }
        let (size, logs) = (app.size, std::mem::take(&mut app.logs));
        *app = App { logs, jobs: list_jobs(&self.data.jobs()), ..App::new(self.facts(), size) };
        app.job = app.own_row();
        if app.facts.unexplained.is_some() {
            pick::open(app, Pick::BrokeOff);
        }
        Ok(())
    }
}
