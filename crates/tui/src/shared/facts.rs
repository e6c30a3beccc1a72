//! What the interface shows of machine and job, as it was when somebody looked last.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use revisum_diagnose::address::Locator;
use revisum_diagnose::board::{Coverage, Finding, Inventory};
use revisum_diagnose::isolate::{Advice, Case, Disposition, Move};
use revisum_diagnose::locate::{FailMap, Location, Refusal, Stopgap, fail_maps, is_fair, locate_run, stopgap};
use revisum_engine::host::{EccCount, Reading};
use revisum_engine::memory::MemoryOffer;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::fitted::{Board, Module};
use revisum_record::journal::{Intake, Plan, Start as Started};
use revisum_record::outcome::{Grade, Headline, Outcome};
use revisum_record::run_state::RunState;
use revisum_record::speed::SpeedRecord;
use revisum_records::{Course, PastRun};

use crate::booted::Booted;
use revisum_workbench::go_on::Start;
use revisum_workbench::rates::{Measured, Rated};

/// What is known of the machine and the job.
#[derive(Clone, Debug, Default)]
pub struct Facts {
    /// Machine.
    pub machine: String,
    /// What it is for.
    pub title: String,
    /// What the owner says.
    pub complaint: String,
    /// What of the job's records is damaged, missing or cannot be read.
    pub troubles: Vec<String>,
    /// Everything is simulated.
    pub simulated: bool,
    /// A virtual machine.
    pub guest: bool,
    /// Its firmware is believed about its slots all the same, for a test.
    pub ranges_trusted: bool,
    /// Facts that were saved of a machine: nothing of it is here, and nothing is kept.
    pub saved: bool,
    /// Processor.
    pub processor: String,
    /// Cores.
    pub cores: usize,
    /// Parts of memory that different cores are nearest to; zero when unknown.
    pub nodes: usize,
    /// Memory that the system sees.
    pub seen_bytes: u64,
    /// What is fitted.
    pub board: Board,
    /// Modules in no slot.
    pub table: Vec<Module>,
    /// What could be tested.
    pub offer: MemoryOffer,
    /// Odds and next step.
    pub advice: Option<Advice>,
    /// How far the job is.
    pub course: Course,
    /// What speaks most for the suspect that leads.
    pub reasons: Vec<String>,
    /// The job as evidence.
    pub case: Arc<Case>,
    /// The recipe that showed the fault first.
    pub failing_recipe: Option<Recipe>,
    /// The rest of the latest run, when it ended early and the machine is as it was.
    pub go_on: Option<Start>,
    /// What shows again what the latest run with errors showed, when the machine is as it was.
    pub repeat: Option<Start>,
    /// The step that was decided on before the machine was switched off, and how the fitting differs from it now.
    pub plan: Option<(Plan, Vec<String>)>,
    /// What the job came to, while it is closed.
    pub closed: Option<String>,
    /// What was told when the machine came in.
    pub intake: Intake,
    /// Notes of the job, the oldest first, each with when, in milliseconds since 1970.
    pub notes: Vec<(i64, String)>,
    /// Modules were moved in this job.
    pub moved_before: bool,
    /// Starts that were entered: after how many runs, what was fitted, and whether it started.
    pub starts: Vec<Started>,
    /// A machine with a battery.
    pub laptop: Option<bool>,
    /// What each module is, by what it is known by.
    pub modules: BTreeMap<String, Module>,
    /// What jobs made of each module before this one: `(machine, what becomes of it)`, the latest last.
    pub ends: BTreeMap<String, Vec<(String, Option<Disposition>)>>,
    /// Earlier runs of each module.
    pub history: BTreeMap<String, Vec<PastRun>>,
    /// The latest run of this job.
    pub last_run: Option<Arc<RunState>>,
    /// Runs of this job, oldest first.
    pub trials: Vec<Trial>,
    /// Where the errors of the latest run are.
    pub located: Option<Arc<Located>>,
    /// What is not as it should be with what is fitted, worst first.
    pub findings: Vec<Finding>,
    /// Everything told of the machine, with sources.
    pub inventory: Arc<Inventory>,
    /// What of the memory can be tested, and why not the rest.
    pub coverage: Coverage,
    /// Temperatures when it was looked at.
    pub temperatures: Vec<Reading>,
    /// What the error-correcting hardware counted.
    pub counters: Vec<EccCount>,
    /// What the machine does instead of starting; nothing while it runs.
    pub dark: Option<String>,
    /// That it does not start as it is installed now is on record.
    pub dark_noted: bool,
    /// Settings in force, by name; empty when unknown.
    pub settings: String,
    /// Settings that the firmware offers, as far as the program can set them.
    pub offered: Vec<String>,
    /// Whether the program can move modules itself.
    pub can_move: bool,
    /// Slots and modules are what a person declares: nothing tells them, and what was moved is declared too.
    pub declares: bool,
    /// The machine stands elsewhere: nothing can be run here.
    pub elsewhere: bool,
    /// Names of modules by serial number.
    pub names: BTreeMap<String, String>,
    /// The machine's wall time in milliseconds since 1970.
    pub wall_ms: i64,
    /// What the sweeps reach here.
    pub rated: Rated,
    /// Machines that can be put on the bench; none but the one at hand outside the demonstration.
    pub bench: Vec<BenchMachine>,
    /// The machine was booted from the drive.
    pub booted: Option<Booted>,
    /// Memory that runs of this job finished on, taken together, and what the firmware gives; where both are known.
    pub tested_in_job: Option<(u64, u64)>,
    /// Id of the open job.
    pub job: String,
    /// The latest run, and how far it had come, where it broke off and nobody has said why.
    pub unexplained: Option<(String, String)>,
    /// Sets of slots with which the mainboard does not start.
    pub refused: Vec<BTreeSet<String>>,
    /// How fast memory was when it was measured last in this job.
    pub speed: Option<Arc<SpeedRecord>>,
}

/// Where the errors of a run are, and what could be done meanwhile.
#[derive(Clone, Debug)]
pub struct Located {
    /// The run.
    pub state: Arc<RunState>,
    /// Cells that failed in other runs too, in a sentence.
    pub again: Option<String>,
    /// A map of slots that was learned before fits this arrangement, and is not gone by.
    pub learned_fits: bool,
    /// Where they are.
    pub location: Location,
    /// Where in their modules, where a map tells.
    pub fail_maps: Vec<FailMap>,
    /// What keeps a system out of bad ranges, or why nothing does.
    pub stopgap: Result<Stopgap, Refusal>,
}

impl Located {
    /// Errors of a run by this locator; its board with the names that modules have now.
    pub fn of(state: &RunState, locator: &Locator, board: &Board) -> Self {
        let location = locate_run(state, locator, board);
        // Of a flood the words that were kept stand for the beginning of a sweep: a picture of them would show a fault that is not there.
        let fail_maps = if is_fair(state) { fail_maps(&state.digest, locator) } else { Vec::new() };
        let stopgap = stopgap(state, &location);
        Self { state: Arc::new(state.clone()), again: None, learned_fits: false, location, fail_maps, stopgap }
    }
}

/// A machine of the simulated workshop.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct BenchMachine {
    /// Name.
    pub name: String,
    /// What it is for.
    pub title: String,
    /// What its owner says.
    pub complaint: String,
}

/// A run of this job, for the table of what was tried.
#[derive(Clone, Debug, PartialEq)]
pub struct Trial {
    /// Id of the run.
    pub run: String,
    /// Why it was struck out.
    pub struck: Option<String>,
    /// What it moved most.
    pub moved: Option<Move>,
    /// What was fitted.
    pub placement: Vec<(String, String)>,
    /// Settings in force; empty when unknown.
    pub settings: String,
    /// How deep it was meant to go.
    pub depth: Depth,
    /// How it ended.
    pub outcome: Outcome,
    /// The result in a few words.
    pub headline: Headline,
    /// How good it is.
    pub grade: Grade,
    /// It was on all memory that could be had, not on a chosen part.
    pub on_all: bool,
    /// Words that read wrong.
    pub errors: u64,
    /// Slots that they were placed in.
    pub slots: Vec<String>,
    /// Seconds that it ran.
    pub seconds: f64,
    /// Full passes.
    pub passes: u32,
}

impl Facts {
    /// What the sweeps reach here, as far as it is known by now.
    pub fn measured(&self) -> Measured {
        self.rated.get().copied().unwrap_or_default()
    }

    /// Whether that is still being measured.
    pub fn is_measuring(&self) -> bool {
        self.rated.get().is_none()
    }

    /// What to call a module.
    pub fn name_of(&self, serial: &str) -> String {
        self.names.get(serial).cloned().unwrap_or_else(|| serial.to_owned())
    }
}
