//! What the interface knows. Views only read it; only `update` changes it.

use std::collections::BTreeSet;
use std::path::PathBuf;
use std::sync::Arc;

use revisum_diagnose::isolate::{Experiment, Reason, Scene, Verdict, what_stays};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::units::RangeSet;
use revisum_record::fitted::Board;
use revisum_record::outcome::Outcome;
use revisum_record::run_state::RunState;
use revisum_report::{Document, Language};
use tui_input::Input;

use super::action::View;
use super::drives;
pub use super::facts::{BenchMachine, Facts, Located, Trial};
pub use super::pages::{BringingIn, DrivePage, LifePage, SpeedChart, SpeedPage, SystemLogPage, Writing};
use super::speed;
use crate::booted::{Kept, Leave};
use revisum_records::{JobSummary, Recorded, RunSummary, Standing};

/// Runs side by side.
#[derive(Clone, Debug)]
pub struct Compared {
    /// The runs, oldest first.
    pub runs: Vec<Recorded>,
    /// Failing cells that they share, in a sentence.
    pub in_common: String,
}

/// A row of the list of jobs.
#[derive(Clone, Copy, Debug)]
pub struct JobRow<'a> {
    /// Machine.
    pub machine: &'a str,
    /// What is known of it, where it is one of the workshop.
    pub bench: Option<&'a BenchMachine>,
    /// Its job, where it has one.
    pub job: Option<&'a JobSummary>,
}

/// The run of this sitting.
#[derive(Clone, Debug, Default)]
pub struct RunView {
    /// What it has come to.
    pub state: Arc<RunState>,
    /// Nothing more will come.
    pub over: bool,
    /// Why records are not kept.
    pub trouble: Option<String>,
    /// Why it could not be made.
    pub failure: Option<String>,
    /// Bytes taken before it begins, and bytes wanted.
    pub taken: (u64, u64),
}

/// Lists to choose from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Pick {
    /// Steps that were not advised first.
    Step,
    /// Runs to strike out.
    Strike,
    /// What else may be known.
    Known,
    /// Why the last run broke off.
    BrokeOff,
    /// What shall become of a booted machine.
    Leave,
    /// Whether a long run is to end.
    Stop,
}

/// Something in front of the view.
#[derive(Clone, Debug)]
pub enum Overlay {
    /// All keys for here.
    Help,
    /// All actions, with what was typed and the chosen line.
    Actions {
        /// Typed so far.
        typed: String,
        /// Chosen line.
        chosen: usize,
    },
    /// A name for a module.
    Mark {
        /// What the module is known by.
        module: String,
        /// What it is called in a sentence.
        name: String,
        /// Typed so far.
        input: Input,
        /// Chosen proposal.
        chosen: usize,
    },
    /// Choose one of a list.
    Pick {
        /// What the list is of.
        of: Pick,
        /// Chosen line.
        chosen: usize,
    },
    /// Words of the intake.
    Words(Input),
    /// The name of a drive, to confirm that everything on it is lost.
    DriveName(Input),
    /// The folder to bring records in from, with those that were found.
    BringIn {
        /// Typed so far.
        input: Input,
        /// Folders with records on mounted drives.
        found: Vec<PathBuf>,
    },
    /// What is looked for in a list is being typed.
    Find,
    /// A question that Enter says yes to.
    LeaveWhileRunning,
    /// Something to be told.
    Notice(String),
}

/// The whole state of the interface.
#[derive(Clone, Debug)]
pub struct App {
    /// Machine and job.
    pub facts: Facts,
    /// What is shown.
    pub view: View,
    /// What to run.
    pub recipe: Recipe,
    /// The run of this sitting.
    pub run: Option<RunView>,
    /// Recorded runs, newest first.
    pub logs: Vec<RunSummary>,
    /// All jobs.
    pub jobs: Vec<JobSummary>,
    /// How many runs there are that the list could show.
    pub log_count: u64,
    /// Runs that are chosen for a comparison.
    pub chosen: BTreeSet<String>,
    /// Runs side by side.
    pub compared: Option<Arc<Compared>>,
    /// The report as it would be written now.
    pub report: Option<Arc<Document>>,
    /// First line of it that is shown.
    pub report_line: usize,
    /// Its language.
    pub language: Option<Language>,
    /// Journals that could not be read.
    pub unreadable: Vec<String>,
    /// A recorded run that is shown.
    pub opened: Option<Arc<Recorded>>,
    /// How it was so many milliseconds after its beginning, instead of at its end; and its length.
    pub opened_at: Option<(u64, u64)>,
    /// A module's life.
    pub life: Option<LifePage>,
    /// What the machine's own systems logged.
    pub system_log: Option<SystemLogPage>,
    /// Records are being brought in.
    pub bringing_in: Option<BringingIn>,
    /// The boot drive is being made.
    pub drive_page: Option<DrivePage>,
    /// How fast memory is.
    pub speed: SpeedPage,
    /// Chosen row of the jobs.
    pub job: usize,
    /// Chosen slot.
    pub slot: usize,
    /// First line shown of all facts; nothing while the board itself is shown.
    pub all_facts: Option<usize>,
    /// Chosen answer of the intake.
    pub answer: usize,
    /// Nobody has touched a key since the machine was booted.
    pub unattended: bool,
    /// What shall become of a booted machine.
    pub leave: Option<Leave>,
    /// Where what happens is recorded.
    pub kept: Kept,
    /// Seconds until the planned run begins by itself.
    pub begins_in: Option<u32>,
    /// Chosen row of the recipe.
    pub recipe_row: usize,
    /// Tests that the depth would run if there were time.
    pub left_out: Vec<String>,
    /// Minute of the day at which the run shall end.
    pub until: Option<u32>,
    /// Minute of the day now, by this machine's clock.
    pub minute_of_day: u32,
    /// A sound at the first error and at the end.
    pub sound: bool,
    /// Chosen test of the run.
    pub test: usize,
    /// Chosen group of failing words, among those that are shown.
    pub group: usize,
    /// The single words of that group are shown, with the chosen one.
    pub word: Option<usize>,
    /// Only lines with this in them are shown.
    pub find: Input,
    /// Chosen line of the logs.
    pub log: usize,
    /// Which loose module would be put in.
    pub loose: usize,
    /// In front of the view.
    pub overlay: Option<Overlay>,
    /// Columns and rows.
    pub size: (u16, u16),
    /// Time to leave.
    pub quit: bool,
}

/// A fitting in an order of its own, so that two can be compared.
pub fn sorted(placement: &[(String, String)]) -> Vec<(String, String)> {
    let mut placement = placement.to_vec();
    placement.sort();
    placement
}

impl App {
    /// The first screen.
    pub fn new(facts: Facts, size: (u16, u16)) -> Self {
        let first_fitted = facts.board.slots.iter().position(|slot| slot.module.is_some());
        Self {
            kept: Kept::default(),
            facts,
            view: View::Board,
            recipe: Recipe::of_depth(Depth::Triage),
            run: None,
            logs: Vec::new(),
            jobs: Vec::new(),
            log_count: 0,
            chosen: BTreeSet::new(),
            compared: None,
            report: None,
            report_line: 0,
            language: None,
            unreadable: Vec::new(),
            opened: None,
            opened_at: None,
            life: None,
            system_log: None,
            bringing_in: None,
            drive_page: None,
            speed: SpeedPage::default(),
            job: 0,
            slot: first_fitted.unwrap_or(0),
            all_facts: None,
            answer: 0,
            unattended: false,
            leave: None,
            begins_in: None,
            recipe_row: 0,
            left_out: Vec::new(),
            until: None,
            minute_of_day: 0,
            sound: false,
            test: 0,
            group: 0,
            word: None,
            find: Input::default(),
            log: 0,
            loose: 0,
            overlay: None,
            size,
            quit: false,
        }
    }

    /// Whether another start from the drive could test what this one cannot reach.
    pub fn can_test_the_rest(&self) -> bool {
        self.facts.booted.as_ref().is_some_and(|booted| booted.entry.other().is_some() && booted.results.is_some())
    }

    /// Memory that the recipe would hold.
    pub fn held_bytes(&self) -> u64 {
        let reachable = self.facts.offer.reachable_bytes;
        let in_range = self.recipe.range.map_or(reachable, |range| {
            let range = RangeSet::from(vec![range]);
            self.facts.offer.usable.intersection(&range).bytes().min(reachable)
        });
        self.recipe.memory.map_or(in_range, |bytes| bytes.min(in_range))
    }

    /// Seconds that each test of the recipe takes in one pass, where that is known.
    pub fn expected(&self) -> Option<Vec<(String, f64)>> {
        self.facts.measured().expected(&self.recipe, self.held_bytes(), self.facts.cores)
    }

    /// The rows of the list of jobs: the machines of the workshop, each with its jobs, then jobs of other machines.
    pub fn job_rows(&self) -> Vec<JobRow<'_>> {
        let mut rows = Vec::new();
        for machine in &self.facts.bench {
            let row = |job| JobRow { machine: &machine.name, bench: Some(machine), job };
            let before = rows.len();
            rows.extend(self.jobs.iter().filter(|job| job.machine == machine.name).map(|job| row(Some(job))));
            if rows.len() == before {
                rows.push(row(None));
            }
        }
        let elsewhere = self.jobs.iter().filter(|job| !self.facts.bench.iter().any(|known| known.name == job.machine));
        rows.extend(elsewhere.map(|job| JobRow { machine: &job.machine, bench: None, job: Some(job) }));
        rows
    }

    /// The row of the job that is open.
    pub fn own_row(&self) -> usize {
        let rows = self.job_rows();
        let open = rows.iter().position(|row| row.job.is_some_and(|job| job.id == self.facts.job));
        open.or(rows.iter().position(|row| row.machine == self.facts.machine)).unwrap_or(0)
    }

    /// Whether a run is going on.
    pub fn is_running(&self) -> bool {
        self.run.as_ref().is_some_and(|run| !run.over)
    }

    /// The run of this sitting.
    pub fn run_state(&self) -> Option<&RunState> {
        self.run.as_ref().map(|run| run.state.as_ref()).filter(|state| state.records > 0)
    }

    /// The run that the present view is about: an opened log, else the run of this sitting; and whether it is live.
    pub fn shown_run(&self) -> Option<(&RunState, bool)> {
        match (&self.opened, self.view) {
            (Some(recorded), View::Logs) => Some((&recorded.state, recorded.standing == Standing::Running)),
            _ => self.run_state().map(|state| (state, self.is_running())),
        }
    }

    /// The board that is drawn: an opened log shows the one that it was made on.
    pub fn shown_board(&self) -> &Board {
        match (&self.opened, self.view) {
            (Some(recorded), View::Logs) => &recorded.state.begin.board,
            _ => &self.facts.board,
        }
    }

    /// Whether modules were moved since the last run of this job.
    pub fn moved_since_last_run(&self) -> bool {
        let now = sorted(&self.facts.board.known_placement());
        self.facts.trials.last().is_some_and(|trial| sorted(&trial.placement) != now)
    }

    /// The step that the advice proposes, if it is open.
    pub fn proposal(&self) -> Option<&revisum_diagnose::isolate::Experiment> {
        match &self.facts.advice.as_ref()?.verdict {
            Verdict::Open(step) => Some(&step.next),
            _ => None,
        }
    }

    /// What Enter does here, in words; nothing when there is no next step.
    pub fn next_step_words(&self) -> Option<String> {
        match self.view {
            View::Jobs if self.drive_page.is_some() => drives::next_step_words(self),
            View::Jobs => self.job_rows().get(self.job).map(|row| format!("open {}", row.machine)),
            View::Logs if self.opened.is_some() || self.compared.is_some() => None,
            View::Logs if self.life.as_ref().is_some_and(|page| !page.life.runs.is_empty()) => {
                Some("open the run".to_owned())
            }
            View::Logs if self.life.is_some() => None,
            View::Logs if self.system_log.is_some() => {
                let keep = |page: &SystemLogPage| page.count() > 0 && !page.kept;
                self.system_log.as_ref().is_some_and(keep).then(|| "keep them in the job as evidence".to_owned())
            }
            View::Logs if self.chosen.len() > 1 => Some(format!("compare {} runs", self.chosen.len())),
            View::Logs => (!self.logs.is_empty()).then(|| "open".to_owned()),
            View::Run if self.is_running() => None,
            View::Report => Some("write PDF, charts, tables".to_owned()),
            View::Speed => speed::next_step_words(self),
            _ if self.speed.is_measuring() => Some("watch the measuring".to_owned()),
            _ if self.is_running() => Some("watch the run".to_owned()),
            View::Swap => self.swap_step_words(),
            View::Run | View::Locate if self.has_suspicion() => Some("what to do next".to_owned()),
            View::Run if self.facts.go_on.is_some() => Some("continue the run".to_owned()),
            View::Intake | View::Board | View::Recipe | View::Run | View::Locate => {
                Some(format!("run {}", self.recipe.depth.word()))
            }
        }
    }

    fn swap_step_words(&self) -> Option<String> {
        if self.planned_matches() {
            return Some("make the planned run".to_owned());
        }
        if self.moved_since_last_run() {
            return Some("run with this fitting".to_owned());
        }
        if let Some((stays, proved)) = self.leaves_with() {
            return Some(match proved {
                true => "close the job".to_owned(),
                false if self.needs_hands(&stays) => "fit what stays, run a survey".to_owned(),
                false => "run a survey to prove it".to_owned(),
            });
        }
        match self.proposal() {
            Some(_) if self.facts.can_move => Some("do this step and run".to_owned()),
            Some(next) if !self.needs_hands(next) => Some("run".to_owned()),
            Some(_) => Some("write this step down".to_owned()),
            None => Some(format!("run {}", self.deeper().unwrap_or(self.recipe.depth).word())),
        }
    }

    /// The depth after the deepest run that was clean in this fitting, while nothing was ever found: a rarer fault may still be there.
    pub fn deeper(&self) -> Option<Depth> {
        if self.has_suspicion() {
            return None;
        }
        let clean = self
            .facts
            .trials
            .iter()
            .filter(|trial| trial.outcome == Outcome::Clean && trial.on_all && trial.struck.is_none());
        match clean.map(|trial| trial.depth).max()? {
            Depth::Triage => Some(Depth::Survey),
            Depth::Survey | Depth::Overnight => Some(Depth::Overnight),
        }
    }

    /// The machine as it leaves once the part is named, and whether a survey of it was clean already; nothing while the job is closed.
    pub fn leaves_with(&self) -> Option<(Experiment, bool)> {
        let (named, reason) = self.answer().filter(|_| self.facts.closed.is_none())?;
        let (placement, settings) = what_stays(&self.facts.case, named, reason)?;
        let wanted = sorted(&placement);
        let now = sorted(&self.facts.board.known_placement());
        let cost = &self.facts.case.priors.cost;
        let hands_minutes = if wanted == now { cost.rerun } else { cost.change_base };
        let proves = |trial: &Trial| {
            let deep = trial.depth >= Depth::Survey && trial.outcome == Outcome::Clean && trial.on_all;
            deep && trial.struck.is_none() && sorted(&trial.placement) == wanted
        };
        let proved = self.facts.trials.last().is_some_and(proves);
        Some((Experiment { placement, settings, hands_minutes, passes: 1.0, ..Experiment::default() }, proved))
    }

    /// Whether a step needs the machine to be switched off, or its firmware to be entered.
    pub fn needs_hands(&self, next: &Experiment) -> bool {
        let set = !next.settings.is_empty() && next.settings != self.facts.settings;
        set || !next.reseat.is_empty() || next.hands_minutes > self.facts.case.priors.cost.rerun
    }

    /// A step was written down, and the machine is fitted as it says.
    pub fn planned_matches(&self) -> bool {
        self.facts.plan.as_ref().is_some_and(|(_, differences)| differences.is_empty())
    }

    /// What steps are written for.
    pub fn scene<'a>(&'a self, now: &'a Vec<(String, String)>, name: &'a dyn Fn(&str) -> String) -> Scene<'a> {
        Scene { now, settings: &self.facts.settings, by_program: self.facts.can_move, laptop: self.facts.laptop, name }
    }

    /// The causes that the job came to, and why it is enough.
    pub fn answer(&self) -> Option<(&[revisum_diagnose::isolate::Odds], Reason)> {
        match &self.facts.advice.as_ref()?.verdict {
            Verdict::Done { named, reason } => Some((named, *reason)),
            _ => None,
        }
    }

    /// Whether some run of this job failed.
    pub fn has_suspicion(&self) -> bool {
        self.facts
            .advice
            .as_ref()
            .is_some_and(|advice| !matches!(advice.verdict, Verdict::NothingToFind | Verdict::NotWhole))
    }
}

#[cfg(test)]
mod tests {
    use revisum_engine::memory::MemoryOffer;
    use revisum_engine::units::ByteRange;
    use revisum_record::fitted::{Module, Slot};
    use revisum_workbench::go_on::Start;
    use rstest::rstest;

    use super::*;

    fn board() -> Board {
        let module = |serial: &str| Some(Module { serial: serial.into(), bytes: 1 << 33, ..Module::default() });
        let slot = |id: &str, module| Slot { id: id.into(), module, ..Slot::default() };
        Board { slots: vec![slot("A1", module("one")), slot("B1", module("two"))], ..Board::default() }
    }

    fn trial(outcome: Outcome, depth: Depth) -> Trial {
        Trial {
            run: "r".into(),
            struck: None,
            moved: None,
            placement: board().known_placement(),
            settings: String::new(),
            depth,
            outcome,
            headline: String::new(),
            grade: revisum_record::outcome::Grade::Clean,
            on_all: true,
            errors: 0,
            slots: Vec::new(),
            seconds: 60.0,
            passes: 1,
        }
    }

    fn app(view: View) -> App {
        App { view, ..App::new(Facts { board: board(), can_move: true, ..Facts::default() }, (128, 40)) }
    }

    fn running(view: View) -> App {
        let state = Arc::new(RunState { records: 1, ..RunState::default() });
        App { run: Some(RunView { state, ..RunView::default() }), ..app(view) }
    }

    fn with_trials(view: View, trials: Vec<Trial>) -> App {
        let app = app(view);
        App { facts: Facts { trials, ..app.facts }, ..app }
    }

    fn with_rest(view: View) -> App {
        let app = app(view);
        App { facts: Facts { go_on: Some(Start::new(Recipe::of_depth(Depth::Survey))), ..app.facts }, ..app }
    }

    #[rstest]
    #[case::nothing_run_yet(app(View::Board), Some("run triage"))]
    #[case::recipe(app(View::Recipe), Some("run triage"))]
    #[case::report(app(View::Report), Some("write PDF, charts, tables"))]
    #[case::nothing_recorded(app(View::Logs), None)]
    #[case::a_run_is_watched_where_it_is(running(View::Run), None)]
    #[case::and_found_from_elsewhere(running(View::Board), Some("watch the run"))]
    #[case::the_rest_of_a_run(with_rest(View::Run), Some("continue the run"))]
    #[case::is_not_in_the_way_of_a_new_one(with_rest(View::Recipe), Some("run triage"))]
    #[case::deeper_after_a_clean_triage(with_trials(View::Swap, vec![trial(Outcome::Clean, Depth::Triage)]), Some("run survey"))]
    #[case::and_deeper_still(with_trials(View::Swap, vec![trial(Outcome::Clean, Depth::Survey)]), Some("run overnight"))]
    #[case::not_after_one_that_was_cut_short(with_trials(View::Swap, vec![trial(Outcome::CutShort, Depth::Survey)]), Some("run triage"))]
    #[case::nor_after_one_on_a_part(with_trials(View::Swap, vec![Trial { on_all: false, ..trial(Outcome::Clean, Depth::Survey) }]), Some("run triage"))]
    #[case::nor_after_one_that_is_struck_out(with_trials(View::Swap, vec![Trial { struck: Some("by hand".into()), ..trial(Outcome::Clean, Depth::Survey) }]), Some("run triage"))]
    fn enter_is_the_next_sensible_step(#[case] app: App, #[case] words: Option<&str>) {
        assert_eq!(app.next_step_words().as_deref(), words);
    }

    #[rstest]
    #[case::as_it_was(&[("A1", "one"), ("B1", "two")], false)]
    #[case::exchanged(&[("A1", "two"), ("B1", "one")], true)]
    #[case::one_is_out(&[("A1", "one")], true)]
    fn modules_that_were_moved_are_noticed(#[case] then: &[(&str, &str)], #[case] moved: bool) {
        let placement = then.iter().map(|(slot, id)| ((*slot).to_owned(), (*id).to_owned())).collect();
        let app = with_trials(View::Swap, vec![Trial { placement, ..trial(Outcome::Clean, Depth::Triage) }]);
        assert_eq!(app.moved_since_last_run(), moved);
    }

    #[rstest]
    #[case::all(None, None, 10 << 30, 10 << 30)]
    #[case::amount(Some(1 << 30), None, 10 << 30, 1 << 30)]
    #[case::more_than_there_is(Some(99 << 30), None, 10 << 30, 10 << 30)]
    #[case::range(None, Some((1 << 30, 3 << 30)), 10 << 30, 2 << 30)]
    #[case::range_partly_there(None, Some((11 << 30, 99 << 30)), 10 << 30, 1 << 30)]
    #[case::range_and_amount(Some(1 << 30), Some((1 << 30, 3 << 30)), 10 << 30, 1 << 30)]
    fn the_recipe_holds_what_there_is(
        #[case] memory: Option<u64>,
        #[case] range: Option<(u64, u64)>,
        #[case] reachable_bytes: u64,
        #[case] held: u64,
    ) {
        let usable = vec![ByteRange::new(0, 12 << 30)].into();
        let offer = MemoryOffer { reachable_bytes, usable, ..MemoryOffer::default() };
        let app = app(View::Recipe);
        let range = range.map(|(start, end)| ByteRange::new(start, end));
        let recipe = Recipe { memory, range, ..app.recipe.clone() };
        let app = App { facts: Facts { offer, ..app.facts }, recipe, ..app };
        assert_eq!(app.held_bytes(), held);
    }
}
