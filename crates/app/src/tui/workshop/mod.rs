//! Carries out effects: owns the machine, the job and the run, and tells the state what came of it.

mod drives;
mod logs;
mod speed;

use std::path::PathBuf;
use std::sync::{Arc, LazyLock};

use anyhow::Result;
use revisum_core::board::{Before, Board};
use revisum_core::isolate::{Case, advise, differences};
use revisum_core::journal::{BrokeOff, JobEntry, Plan};
use revisum_core::locate::{locate_run, locator_of, stopgap, trusted_map, words_of_again};
use revisum_core::ports::{History, Machine};
use revisum_core::recipe::{Depth, Recipe};
use revisum_core::run_state::{Outcome, RunState};
use revisum_core::units::RangeSet;
use revisum_sim::{shipped, shipped_names};

use super::action::View;
use super::effect::Effect;
use super::pick;
use super::state::{App, BenchMachine, Facts, Located, Overlay, Pick, RunView, Trial};
use crate::boot::Booted;
use crate::data_dir::DataDir;
use crate::look::Look;
use crate::rates::{Rated, measure_in_background};
use crate::records::{Job, Ledger, Past, Recorded, RunSummary, Standing, Which, list_jobs};
use crate::reports::{self, Report, Source, read_shop};
use crate::runner::{Order, RunHandle, fresh_seed, start};
use crate::speed_run::SpeedRun;
use crate::{recipe_file, wall_time};

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
}

/// Whether the screen says already that the run at hand is not recorded.
fn is_unrecorded(app: &App) -> bool {
    app.run.as_ref().is_some_and(|run| run.trouble.is_some())
}

/// Newest runs that are looked at for one that broke off.
const MOST_LOOKED_AT: usize = 20;

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
        };
        if let Some(hands) = &workshop.machine.hands {
            let state = workshop.job.state();
            for serial in state.borrowed.keys() {
                // A module that is not there any more is missed in the fittings.
                let _ = hands.lend(serial);
            }
            for fitting in &state.fittings {
                // A machine file that changed since then may no longer allow it: it then stays as the file says.
                let _ = hands.refit(&fitting.placement);
            }
            state.settings.iter().for_each(|settings| drop(hands.set(settings)));
            if let Some(intake) = hands.intake().filter(|_| state.intake.is_none()) {
                workshop.job.take_in(intake)?;
            }
        }
        workshop.adopt_broken_off()?;
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

    /// Memory that finished runs of this job covered, all taken together, of what the firmware gives.
    fn tested_in_job(&self) -> Option<(u64, u64)> {
        let finished = self.job.states().filter(|run| run.tested_bytes() > 0 && run.held.addresses_known);
        let all: RangeSet = finished.flat_map(|run| run.held.ranges.minus(&run.moved).ranges().to_vec()).collect();
        let usable = self.machine.firmware.usable().bytes();
        (usable > 0 && all.bytes() > 0).then(|| (all.bytes(), usable))
    }

    /// A run that broke off was never noted in its job: the newest run of this machine is, when it has no end.
    fn adopt_broken_off(&mut self) -> Result<()> {
        if !self.job.is_latest(&self.data.jobs()) {
            return Ok(());
        }
        // Without a ledger nothing is known of runs that the job does not name.
        let Ok(ledger) = Ledger::open(&self.data) else { return Ok(()) };
        let machine = self.machine.firmware.facts().machine;
        let (runs, _) = ledger.find(&machine, MOST_LOOKED_AT)?;
        let own = |run: &&RunSummary| run.machine == machine && run.simulated == self.machine.is_simulated();
        let Some(newest) = runs.iter().find(own).filter(|run| run.outcome == "interrupted") else { return Ok(()) };
        let later = self.job.runs().all(|run| run.state.begin.order_ms() < newest.order_ms);
        let begun = newest.order_ms >= self.job.state().opened_ms;
        if later && begun && !self.job.state().runs.contains(&newest.id) {
            self.job.ran(&newest.id)?;
        }
        Ok(())
    }

    /// Everything that the interface shows of machine and job.
    pub fn facts(&self) -> Facts {
        let mut look = Look::at(&self.machine);
        self.put_marks(&mut look.inventory.board);
        let findings = look.findings(self.before.as_ref(), self.job.state().speeds.last().map(Arc::as_ref));
        let (system, board) = (look.system, look.inventory.board.clone());
        // Where no program can set anything, the modules tell whether there is a profile to switch off.
        let shown = board.settings_shown();
        let by_hand = || if shown.is_some() { vec!["profile".to_owned(), "stock".to_owned()] } else { Vec::new() };
        let offered = self.machine.hands.as_ref().map_or_else(by_hand, |hands| hands.settings());
        let settings = if system.settings.is_empty() { shown.unwrap_or_default().to_owned() } else { system.settings };
        let case = Arc::new(self.job.case(&board, &settings, &offered));
        let known = case.modules.iter().map(|module| module.id.clone());
        let past = Past::open(&self.data);
        let mut table = self.machine.hands.as_ref().map(|hands| hands.on_the_table()).unwrap_or_default();
        table.iter_mut().for_each(|module| module.mark = self.job.mark_of("", module));
        Facts {
            machine: system.machine,
            title: system.title,
            complaint: self.machine.hands.as_ref().map(|hands| hands.complaint()).unwrap_or_default(),
            booted: self.booted.clone(),
            tested_in_job: self.tested_in_job(),
            simulated: self.machine.is_simulated(),
            guest: system.guest,
            processor: system.processor,
            cores: system.cores,
            seen_bytes: system.seen_bytes,
            table,
            offer: look.offer,
            advice: (!case.runs.is_empty()).then(|| advise(&case)),
            history: known.clone().map(|serial| (serial.clone(), past.of_module(&serial))).collect(),
            ends: known.clone().map(|serial| (serial.clone(), past.ends(&serial))).collect(),
            last_run: self.job.runs().next_back().map(|run| Arc::new(run.state.clone())),
            trials: self.trials(&case),
            failing_recipe: self.job.failing_recipe(),
            speed: self.job.state().speeds.last().cloned(),
            plan: self.plan(&board),
            closed: self.job.state().closed.clone(),
            intake: self.job.state().intake.clone().unwrap_or_default(),
            laptop: laptop(&board),
            modules: self.job.state().modules.iter().map(|module| (module.serial.clone(), module.clone())).collect(),
            located: self.job.runs().next_back().and_then(|run| self.located(&run.state)),
            findings,
            coverage: look.coverage.unwrap_or_default(),
            temperatures: look.temperatures,
            counters: look.counters,
            inventory: Arc::new(look.inventory),
            dark: self.dark(),
            settings,
            offered,
            case: case.clone(),
            can_move: self.machine.hands.is_some(),
            names: known.map(|serial| (serial.clone(), self.job.name_of(&serial))).collect(),
            rated: self.rated.clone(),
            wall_ms: self.machine.clock.wall_ms(),
            job: self.job.id().to_owned(),
            unexplained: self.job.unexplained().map(|run| (run.id.clone(), run.state.sentence(false))),
            refused: self.job.state().refused.clone(),
            bench: if self.maker.is_some() { bench_machines() } else { Vec::new() },
            board,
        }
    }

    /// The machine's wall time in milliseconds since 1970.
    pub fn wall_ms(&self) -> i64 {
        self.machine.clock.wall_ms()
    }

    /// Takes over what the run has come to. Returns true when it has just ended.
    pub fn follow_run(&mut self, app: &mut App) -> bool {
        self.follow_speed(app);
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
        let ended = self.run.take().and_then(RunHandle::wait);
        if let Some(Err(error)) = ended.map(|id| self.job.ran(&id)).filter(|_| !is_unrecorded(app)) {
            app.overlay = Some(Overlay::Notice(format!("{error:#}")));
        }
        app.facts = self.facts();
        true
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
            Effect::StartRun(recipe) => {
                self.start(app, recipe, published);
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
            Effect::ReadSystemLog => {
                self.read_system_log(app, published);
                Ok(())
            }
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
    pub fn close(&mut self) {
        if let Some(speed) = self.speed.take() {
            speed.stop();
            speed.wait();
        }
        if let Some(run) = self.run.take() {
            run.control.stop();
            if let Some(id) = run.wait() {
                // Nothing more can be told on a screen that is being left; the journal of the run itself is whole.
                let _ = self.job.ran(&id);
            }
        }
    }

    fn start(&mut self, app: &mut App, recipe: Recipe, published: impl Fn() + Send + Sync + 'static) {
        if self.run.is_some() {
            return;
        }
        // Of a simulated machine the whole sitting is repeatable, and still no two runs are the same.
        let seed = self.seed.map_or_else(fresh_seed, |seed| seed.wrapping_add(self.job.state().runs.len() as u64));
        let order = Order {
            machine: self.machine.clone(),
            board: self.board(),
            recipe,
            seed,
            rated: self.rated.clone(),
            data: self.data.clone(),
            job: app.facts.machine.clone(),
        };
        app.run = Some(RunView::default());
        self.run = Some(start(order, published));
    }

    fn save_recipe(&self, app: &mut App, recipe: &Recipe) -> Result<()> {
        let stamp = wall_time::format(self.wall_ms(), &wall_time::zone(self.machine.is_simulated()), "%Y-%m-%d-%H%M%S");
        let path = self.data.recipes()?.join(format!("{}-{stamp}.toml", recipe.depth.word()));
        recipe_file::save(recipe, &path)?;
        app.overlay = Some(Overlay::Notice(format!(
            "Written to {}. o opens the recipes of this folder, and revisum check --recipe runs one.",
            path.display()
        )));
        Ok(())
    }

    fn next_recipe(&mut self, app: &mut App) -> Result<()> {
        let mut files: Vec<PathBuf> =
            std::fs::read_dir(self.data.recipes()?)?.flatten().map(|file| file.path()).collect();
        files.retain(|path| path.extension().is_some_and(|ending| ending == "toml"));
        files.sort();
        let after = files.iter().position(|path| Some(path) == self.recipe_file.as_ref()).map_or(0, |at| at + 1);
        let Some(path) = files.get(after).or(files.first()).cloned() else {
            app.overlay = Some(Overlay::Notice("No recipe was written yet. w writes this one.".to_owned()));
            return Ok(());
        };
        let measured = app.facts.measured();
        let held = app.held_bytes();
        self.recipe_file = Some(path.clone());
        app.recipe = recipe_file::load(&path, &|depth| measured.tests_of(depth, held).tests)?;
        app.until = None;
        app.overlay = Some(Overlay::Notice(format!("This is the recipe {}. o opens the next one.", path.display())));
        Ok(())
    }

    fn refit(&mut self, app: &mut App, placement: &[(String, String)]) -> Result<()> {
        if let Some(hands) = &self.machine.hands {
            hands.refit(placement).map_err(|reason| anyhow::anyhow!("The modules cannot be put so: {reason}."))?;
            self.job.fitted(placement.to_vec())?;
            // What was moved on purpose is not a finding.
            self.note_look()?;
            self.before = self.job.state().looked.clone();
            if let Some(sign) = self.dark() {
                self.job.did_not_start(sign)?;
            }
        }
        app.facts = self.facts();
        Ok(())
    }

    fn set(&mut self, app: &mut App, settings: &str) -> Result<()> {
        if let Some(hands) = &self.machine.hands {
            hands.set(settings).map_err(|reason| anyhow::anyhow!("The settings stay as they are: {reason}."))?;
            self.job.set(settings)?;
        }
        app.facts = self.facts();
        Ok(())
    }

    fn reseat(&mut self, app: &mut App, modules: Vec<String>) -> Result<()> {
        if let Some(hands) = &self.machine.hands {
            hands.reseat(&modules).map_err(|reason| anyhow::anyhow!("The modules stay where they are: {reason}."))?;
        }
        self.decide(app, JobEntry::Reseated { modules })
    }

    /// Writes something down; a module that is borrowed lies on the table from now on.
    fn decide(&mut self, app: &mut App, entry: JobEntry) -> Result<()> {
        if let (JobEntry::Borrowed { module, .. }, Some(hands)) = (&entry, &self.machine.hands) {
            hands.lend(&module.serial).map_err(|reason| anyhow::anyhow!("It cannot be borrowed: {reason}."))?;
        }
        self.job.decide(entry)?;
        app.facts = self.facts();
        Ok(())
    }

    /// The step that was written down before the machine was off, with what is fitted otherwise.
    fn plan(&self, board: &Board) -> Option<(Plan, Vec<String>)> {
        let plan = self.job.state().plan.clone()?;
        let now = board.known_placement();
        let differences = differences(&plan.placement, &now, &|id| self.job.name_of(id));
        Some((plan, differences))
    }

    /// What was tried, oldest first.
    fn trials(&self, case: &Case) -> Vec<Trial> {
        let moves = self.job.moves(case);
        let struck = &self.job.state().struck;
        let of = |run: &Recorded| {
            Some(Trial { struck: struck.get(&run.id).cloned(), moved: moves.get(&run.id).cloned(), ..trial(run)? })
        };
        self.job.runs().filter_map(of).collect()
    }

    fn mark(&mut self, app: &mut App, module: &str, mark: &str) -> Result<()> {
        self.job.mark(module, mark)?;
        app.facts = self.facts();
        Ok(())
    }

    /// Where the errors of the run of this sitting are, as far as it has come; else of the latest one of the job.
    fn locate(&self, app: &mut App) {
        let live = app.run_state().and_then(|state| self.located(state));
        app.facts.located = live.or_else(|| self.job.runs().next_back().and_then(|run| self.located(&run.state)));
    }

    fn located(&self, state: &RunState) -> Option<Arc<Located>> {
        if !state.has_errors() {
            return None;
        }
        let map = trusted_map(state, self.job.states());
        let refuted = map.is_err();
        let locator = locator_of(&state.begin, map.unwrap_or_default());
        let mut board = state.begin.board.clone();
        self.put_marks(&mut board);
        let mut location = locate_run(state, &locator, &board);
        if refuted {
            let words = "The address map of this run is wrong: runs with one module alone, or error counters, contradict it. It is not used.";
            location.limits.insert(0, words.to_owned());
        }
        let stopgap = stopgap(state, &location);
        let again = words_of_again(&self.job.same_cells(), &|serial| self.job.name_of(serial));
        Some(Arc::new(Located { state: Arc::new(state.clone()), again, location, stopgap }))
    }

    /// What is there now is what the next look is compared with.
    fn note_look(&mut self) -> Result<()> {
        let board = self.board();
        self.job.look(&board, self.machine.firmware.usable().bytes())
    }

    /// What the machine does instead of starting.
    fn dark(&self) -> Option<String> {
        self.machine.hands.as_ref().and_then(|hands| hands.starts().err())
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

    fn report(&self, app: &App) -> Result<Report> {
        let shop = read_shop(&self.data.shop(), false)?;
        let source = Source { job: &self.job, case: app.facts.case.as_ref(), advice: app.facts.advice.as_ref() };
        reports::make(&source, &shop, app.language, self.wall_ms())
    }

    fn write_report(&self, app: &mut App, tell: bool) -> Result<()> {
        let folder = self.data.reports(self.job.id())?;
        let written = reports::write(&self.report(app)?, &folder)?;
        let words = format!("Written to {}: {}.", folder.display(), written.join(", "));
        if tell {
            app.overlay = Some(Overlay::Notice(words));
        }
        Ok(())
    }

    fn board(&self) -> Board {
        let mut board = Board::read(self.machine.firmware.as_ref());
        self.put_marks(&mut board);
        board
    }

    fn put_marks(&self, board: &mut Board) {
        for slot in &mut board.slots {
            if let Some(module) = &mut slot.module {
                module.mark = self.job.mark_of(&slot.id, module);
            }
        }
    }

    fn see_modules(&mut self) -> Result<()> {
        let marks = self.machine.hands.as_ref().map(|hands| hands.marks()).unwrap_or_default();
        let mut modules: Vec<_> = self.board().modules().map(|(_, module)| module.clone()).collect();
        modules.extend(self.machine.hands.as_ref().map(|hands| hands.on_the_table()).unwrap_or_default());
        for module in &mut modules {
            if module.mark.is_none() {
                module.mark = marks.iter().find(|(serial, _)| *serial == module.serial).map(|(_, mark)| mark.clone());
            }
        }
        self.job.see(modules)
    }
}

/// Modules of the large form do not fit into a laptop; of the small one it is not known.
fn laptop(board: &Board) -> Option<bool> {
    let large = |form: &str| matches!(form, "DIMM" | "UDIMM" | "RDIMM" | "LRDIMM");
    board.modules().any(|(_, module)| large(&module.form)).then_some(false)
}

/// The machines of the workshop: their files are read once, not at every look at the facts.
fn bench_machines() -> Vec<BenchMachine> {
    static MACHINES: LazyLock<Vec<BenchMachine>> = LazyLock::new(|| {
        let specs = shipped_names().filter_map(|name| shipped(name)?.ok());
        specs.map(|spec| BenchMachine { name: spec.name, title: spec.title, complaint: spec.complaint }).collect()
    });
    MACHINES.clone()
}

fn trial(recorded: &Recorded) -> Option<Trial> {
    let outcome = match recorded.standing {
        Standing::Running => return None,
        Standing::Over(outcome) => outcome,
    };
    let state = &recorded.state;
    let shown = if state.has_errors() && outcome != Outcome::Interrupted { Outcome::ErrorsFound } else { outcome };
    Some(Trial {
        run: recorded.id.clone(),
        struck: None,
        moved: None,
        placement: state.begin.board.known_placement(),
        settings: state.begin.settings.clone(),
        depth: state.begin.recipe.as_ref().map_or(Depth::Triage, |recipe| recipe.depth),
        outcome: shown,
        errors: state.errors.words,
        slots: state.errors.slots.keys().cloned().collect(),
        seconds: state.running_seconds(),
        passes: state.full_passes,
    })
}
