//! Carries out effects: owns the machine, the job and the run, and tells what came of it. It knows nothing of screens.

mod bring_in;
mod by_time;
mod desk;
mod drives;
mod facts;
mod hands;
mod late_drive;
mod logs;
mod recipes;
mod reins;
mod report;
mod speed;

use std::sync::{Arc, OnceLock};

use anyhow::Result;
use revisum_diagnose::isolate::{Advice, Case};
use revisum_diagnose::locate::learned_map;
use revisum_diagnose::machine::Machine;
use revisum_diagnose::system_log::SystemLogs;
use revisum_link::Card;
use revisum_record::fitted::Before;
use revisum_record::journal::{BrokeOff, JobEntry};
use revisum_record::outcome::Judgement;
use revisum_records::{DataDir, Job, SpeedFound, Which, keep_learned, list_jobs};
use revisum_sim::shipped_names;
use revisum_workbench::go_on::Start;
use revisum_workbench::rates::{Rated, measure_in_background};
use revisum_workbench::recorder::Unwritten;
use revisum_workbench::runner::{Order, RunHandle, fresh_seed, start};
use revisum_workbench::speed_run::SpeedRun;
use revisum_workbench::timed_run::TimedRun;
use revisum_workbench::{bench, wire};

pub use self::desk::Desk;
pub use self::late_drive::Appeared;
use self::late_drive::LateDrive;
pub use self::reins::Reins;
use self::reins::view_of;
use crate::booted::{Booted, Kept};
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::news::{BringingIn, News};

/// Called, on any thread, when there is something new.
pub type Told = Arc<dyn Fn() + Send + Sync>;

/// The machine on the bench and everything that is done with it.
pub struct Workshop {
    machine: Arc<Machine>,
    data: DataDir,
    job: Job,
    run: Option<RunHandle>,
    speed: Option<SpeedRun>,
    by_time: Option<TimedRun>,
    seed: Option<u64>,
    maker: Option<Maker>,
    /// The machine that it was opened with: its name, and what the maker calls it.
    home: (String, String),
    rated: Rated,
    /// How the machine was when it was last here.
    before: Option<Before>,
    /// The machine was booted from the drive.
    booted: Option<Booted>,
    /// A drive that was plugged in after the start, where there was none.
    late_drive: LateDrive,
    /// Records of the last run that its medium refused.
    unwritten: Option<Unwritten>,
    /// Records that are on their way from a drive.
    bringing_in: Option<BringingIn>,
    /// Measurements that the one shown can be set against.
    candidates: Vec<SpeedFound>,
    /// The job as evidence and what it advises, as they were shown last.
    evidence: (Arc<Case>, Option<Advice>),
    /// Somebody chose to go by the map of slots that was learned before.
    uses_learned: bool,
    /// What systems logged, where it was asked for.
    system_log: Option<Arc<OnceLock<SystemLogs>>>,
    /// What can be read and held at once, whatever is being done here.
    reins: Arc<Reins>,
    told: Told,
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
            by_time: None,
            seed,
            maker,
            home: (name.clone(), name),
            rated,
            before: None,
            booted: None,
            late_drive: LateDrive::default(),
            unwritten: None,
            bringing_in: None,
            candidates: Vec::new(),
            uses_learned: false,
            system_log: None,
            evidence: (Arc::default(), None),
            reins: Arc::default(),
            told: Arc::new(|| ()),
        };
        workshop.reins.take_machine(workshop.machine.clone());
        bench::arrange(&workshop.machine, &mut workshop.job)?;
        workshop.see_modules()?;
        workshop.before = workshop.job.state().looked.clone();
        workshop.note_look()?;
        Ok(workshop)
    }

    /// What the maker calls the machine that it was opened with.
    pub fn called(mut self, what: &str) -> Self {
        what.clone_into(&mut self.home.1);
        self
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

    /// Where a drive is that was plugged in after the start, once there is one.
    pub fn looks_for_drive(&mut self, appeared: Appeared) {
        self.late_drive = LateDrive::looked_for(appeared);
    }

    /// Where records are.
    pub fn data(&self) -> &DataDir {
        &self.data
    }

    /// The card of the shop whose counter is to hear of this machine: that of the drive, or the one beside the records.
    ///
    /// # Errors
    /// Why what is there is no card, in words.
    pub fn card(&self) -> std::result::Result<Option<Card>, String> {
        let of_drive = self.booted.as_ref().and_then(|booted| booted.settings.card.clone());
        let card = match of_drive {
            Some(card) => card.try_into().map(Some).map_err(|error| error.to_string()),
            None => Card::read(&self.data.root().join(Card::FILE)).map_err(|error| error.to_string()),
        };
        card.map_err(say::link_card_unreadable)
    }

    /// From now on this is called when there is something new.
    pub fn tell(&mut self, told: Told) {
        self.told = told;
    }

    /// What can be read and held at once, whatever is being done here.
    pub fn reins(&self) -> Arc<Reins> {
        self.reins.clone()
    }

    /// Takes over what goes on beside everything else.
    fn follow(&mut self, news: &mut Vec<News>) {
        self.follow_speed(news);
        self.follow_by_time(news);
        self.follow_bringing_in(news);
        if self.run.as_ref().is_some_and(|handle| handle.live.is_over()) {
            self.take_in_run(news);
            news.push(self.facts_now());
        }
    }

    /// Enters a run that is over into the job, recorded or not.
    fn take_in_run(&mut self, news: &mut Vec<News>) {
        let Some(handle) = self.run.take() else { return };
        let live = handle.live.clone();
        let id = handle.wait();
        self.reins.let_go();
        let mut view = view_of(&live, true);
        let Some(id) = id else {
            news.push(News::RunOver(view));
            return;
        };
        let entered = self.job.ran(&id);
        if live.trouble().is_some() {
            self.job.remember(&live.state());
            self.unwritten = live.unwritten();
        } else if let Err(error) = entered {
            news.push(News::Said(format!("{error:#}")));
        }
        self.keep_learned();
        // What reads back worse than what is in memory is what happened: this program's own memory may be what is bad.
        let in_memory = Judgement::of(&live.state(), false);
        if let Some(recorded) = self.job.runs().find(|run| run.id == id) {
            let on_record = recorded.judgement();
            if on_record.is_worse_than(&in_memory) {
                view.state = Arc::new(recorded.state.clone());
            }
            if live.trouble().is_none() && !on_record.says_the_same(&in_memory) {
                news.push(News::Said(say::run_reads_back().to_owned()));
            }
        }
        news.push(News::RunOver(view));
    }

    /// Keeps what the runs of the job teach of how slots share addresses. A folder that takes nothing is said where records are.
    fn keep_learned(&self) {
        let last = self.job.states().last();
        let learned = last.and_then(|last| learned_map(self.job.states(), last));
        let _ = learned.map(|map| keep_learned(&self.data, &map));
    }

    /// Tries again to write what could not be written.
    fn write_unwritten(&mut self) {
        if self.booted.as_ref().is_some_and(|booted| booted.not_kept.is_some()) {
            self.late_drive.keep_up(&self.data.root());
        }
        // Why not is in the mark that says so.
        if self.unwritten.as_mut().is_some_and(|unwritten| unwritten.write().is_ok()) {
            self.unwritten = None;
        }
        if self.unwritten.is_none() && self.job.is_unkept() {
            let _ = self.job.write_pending();
        }
    }

    /// Where what happens is recorded, or why it is not; of a run that goes on only that itself knows.
    pub fn kept(&self) -> Kept {
        let booted = self.booted.as_ref();
        let of_start = booted.and_then(|booted| booted.results.as_ref()).map_or("", |_| "REVISUM");
        let place = if self.late_drive.is_there() { say::late_drive() } else { of_start }.to_owned();
        let nowhere = booted.and_then(|booted| booted.not_kept.clone());
        let nowhere = if self.late_drive.is_there() { self.late_drive.trouble() } else { nowhere };
        let left = self.unwritten.is_some().then(|| say::drive_refuses_run().to_owned());
        let of_job = self.job.is_unkept().then(|| say::drive_refuses_job().to_owned());
        Kept {
            place,
            trouble: nowhere.or(left).or(of_job),
            brought: self.late_drive.is_there(),
            only_shown: self.machine.firmware.facts().saved,
            ..Kept::default()
        }
    }

    fn facts_now(&mut self) -> News {
        News::Facts(Box::new(self.facts()))
    }

    /// Carries out one effect and tells what came of it. Redrawing is the event loop's own.
    pub fn perform(&mut self, effect: Effect) -> Vec<News> {
        let mut news = Vec::new();
        if let Err(error) = self.carry_out(effect, &mut news) {
            news.push(News::Said(format!("{error:#}")));
        }
        news.push(News::Kept(self.kept()));
        news
    }

    fn carry_out(&mut self, effect: Effect, news: &mut Vec<News>) -> Result<()> {
        match effect {
            Effect::StartRun(_)
            | Effect::Refit(_)
            | Effect::Set(_)
            | Effect::Reseat(_)
            | Effect::OpenJob { .. }
            | Effect::NewJob
                if self.speed.is_some() =>
            {
                let words = say::speed_being_measured();
                news.push(News::Said(words.to_owned()));
            }
            Effect::StartRun(_)
            | Effect::Refit(_)
            | Effect::Set(_)
            | Effect::Reseat(_)
            | Effect::OpenJob { .. }
            | Effect::NewJob
            | Effect::MeasureSpeed { .. }
                if self.by_time.is_some() =>
            {
                news.push(News::Said(say::by_time_going_on().to_owned()));
            }
            Effect::LearnByTime => self.learn_by_time(news)?,
            Effect::StartRun(what) => self.start(*what, news),
            Effect::PauseOrGoOn
            | Effect::SkipTest
            | Effect::GoToTest(_)
            | Effect::AddPass
            | Effect::StopRun
            | Effect::StopByTime
            | Effect::StopSpeed => self.reins.pull(&effect),
            Effect::SaveRecipe(recipe) => self.save_recipe(&recipe, news)?,
            Effect::ListRecipes => news.push(News::Recipes(self.list_recipes()?)),
            Effect::OpenRecipe { file, held } => self.open_recipe(&file, held, news)?,
            Effect::Refit(placement) => self.refit(&placement, news)?,
            Effect::Set(settings) => self.set(&settings, news)?,
            Effect::Reseat(modules) => self.reseat(modules, news)?,
            Effect::Decide(entry) => self.decide(*entry, news)?,
            Effect::OpenJob { machine, job } => {
                self.open_job(&machine, job.as_deref().map_or(Which::Latest, Which::Named), news)?;
            }
            Effect::NewJob => {
                let machine = self.machine.firmware.facts().machine;
                self.open_job(&machine, Which::New, news)?;
            }
            Effect::ListJobs => news.push(News::Jobs(list_jobs(&self.data.jobs()))),
            Effect::Mark { module, mark } => self.mark(&module, &mark, news)?,
            Effect::UseLearned => {
                self.uses_learned = true;
                news.push(News::Located(self.locate()));
            }
            Effect::Locate => news.push(News::Located(self.locate())),
            Effect::ListLogs(find) => self.list_logs(&find, news)?,
            Effect::OpenLog(id) => self.open_log(&id, news)?,
            Effect::LogAt { id, at, length } => self.log_at(&id, at, length, news)?,
            Effect::Life { serial, name } => self.life(&serial, name, news)?,
            Effect::ListDrives => self.list_drives(news),
            Effect::WriteDrive { drive, keep } => self.write_drive(*drive, keep, news)?,
            Effect::FindRecords => news.push(News::RecordsFound(self.find_records())),
            Effect::BringIn(from) => self.bring_in(from, news)?,
            Effect::ReadSystemLog => self.read_system_log(news)?,
            Effect::KeepSystemLog => self.keep_system_log(news)?,
            Effect::MeasureSpeed { all_memory } => self.measure_speed(all_memory, news)?,
            Effect::CompareSpeed { shown, which } => self.compare_speed(shown, which, news)?,
            Effect::Compare(ids) => self.compare(&ids, news)?,
            Effect::MakeReport(language) => news.push(News::Report(Arc::new(self.report(language)?.document))),
            Effect::WriteReport(language) => news.push(News::Said(self.write_report(language)?)),
            Effect::KeepReport => match self.write_report(None) {
                // That nothing is recorded stands on the screen already, beside the result.
                Err(_) if self.kept().trouble.is_some() => {}
                done => drop(done?),
            },
            Effect::Follow => self.follow(news),
            Effect::WriteUnwritten => self.write_unwritten(),
            Effect::Speak(language) => {
                revisum_words::speak(language);
                // What was put into words already is said again.
                news.push(self.facts_now());
                news.push(News::Located(self.locate()));
                self.data.keep_language(language)?;
            }
            Effect::Redraw | Effect::TextSize | Effect::Wall => {}
        }
        Ok(())
    }

    /// Ends a run that is going on, waits until its journal is whole, and says why something is not recorded.
    pub fn close(&mut self) -> Kept {
        if let Some(speed) = self.speed.take() {
            speed.stop();
            speed.wait();
        }
        if let Some(run) = &self.run {
            run.control.stop();
            self.take_in_run(&mut Vec::new());
        }
        self.write_unwritten();
        self.kept()
    }

    fn start(&mut self, what: Start, news: &mut Vec<News>) {
        if self.run.is_some() {
            return;
        }
        if self.dark().is_some() {
            news.push(News::Dark);
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
        news.push(News::RunBegan);
        let told = self.told.clone();
        let handle = start(order, move || told());
        self.reins.take_run(&handle);
        self.run = Some(handle);
    }

    /// Opens another job, with its machine on the bench; the one that was open stays so until the new one is.
    fn open_job(&mut self, name: &str, which: Which<'_>, news: &mut Vec<News>) -> Result<()> {
        if self.run.is_some() {
            return Ok(());
        }
        let machine = self.machine_named(name)?;
        let other = Self {
            home: self.home.clone(),
            ..Self::open(machine, self.data.clone(), self.seed, self.maker.clone(), which)?
        };
        let (reins, told) = (self.reins.clone(), self.told.clone());
        let (booted, unwritten) = (self.booted.take(), self.unwritten.take());
        reins.take_machine(other.machine.clone());
        *self = Self { reins, told, booted, unwritten, ..other };
        news.push(News::Opened(Box::new(self.facts())));
        Ok(())
    }

    /// The machine of this name: the one at hand, one of the workshop, or one that stands elsewhere.
    fn machine_named(&self, name: &str) -> Result<Machine> {
        match &self.maker {
            Some(maker) if shipped_names().any(|known| known == name) => maker(name),
            Some(maker) if name == self.home.0 => maker(&self.home.1),
            None if name == self.home.0 => Ok(wire::real()),
            _ => Ok(wire::elsewhere(name)),
        }
    }
}
