//! The journal of a job: what is in which slot, and what became of it. Runs have journals of their own.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::damage::Damage;
use super::stage::{Stage, Tick};
use crate::fitted::{Before, Board, Module, Slot};
use crate::logged::LogEntry;
use crate::speed::SpeedRecord;
use crate::totals::Totals;

/// Which module sits where.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Fitting {
    /// Slot and serial number of every fitted module.
    pub placement: Vec<(String, String)>,
}

/// What was written down when a machine came in.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Intake {
    /// Who brought it.
    pub owner: String,
    /// What it does wrong, and when.
    pub symptom: String,
    /// What was changed lately.
    pub changed: String,
    /// What was tried already.
    pub tried: String,
    /// Answers that were picked from lists, by their names.
    #[serde(skip_serializing_if = "BTreeSet::is_empty")]
    pub picked: BTreeSet<String>,
    /// When each of them was picked, in milliseconds since 1970, where that is known.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub times: BTreeMap<String, i64>,
    /// Which of them were seen here; the others are what somebody said.
    #[serde(skip_serializing_if = "BTreeSet::is_empty")]
    pub seen: BTreeSet<String>,
    /// Anything else, in words.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub words: String,
}

impl Intake {
    /// Picks an answer at a time in milliseconds since 1970, as somebody said it or as it was seen here.
    pub fn pick(&mut self, name: &str, at_ms: i64, seen: bool) {
        self.take_back(name);
        self.picked.insert(name.to_owned());
        self.times.insert(name.to_owned(), at_ms);
        if seen {
            self.seen.insert(name.to_owned());
        }
    }

    /// Takes an answer back.
    pub fn take_back(&mut self, name: &str) {
        self.picked.remove(name);
        self.times.remove(name);
        self.seen.remove(name);
    }
}

/// A step that is to be done next: written down before the machine is switched off, so that it carries on afterwards.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Plan {
    /// What goes where.
    pub placement: Vec<(String, String)>,
    /// Settings to put in force; empty when there is no choice.
    pub settings: String,
    /// Modules to take out and put back where they are.
    pub reseat: Vec<String>,
    /// Passes to run.
    pub passes: u32,
}

/// What the owner told after the machine had been handed over or used.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct OwnerTold {
    /// The complaint came back; else it stayed away.
    pub came_back: bool,
    /// Hours of use until then.
    pub hours: u32,
    /// What was fitted.
    pub placement: Vec<(String, String)>,
    /// Settings in force.
    pub settings: String,
}

/// Why a run has no end.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum BrokeOff {
    /// The power went, or was taken away.
    PowerCut,
    /// Nothing moved any more.
    Hang,
    /// It started again by itself.
    Restart,
    /// The hardware reported a memory error that ended the test.
    MemoryError,
    /// The test itself ended by a fault in it.
    Fault,
    /// Somebody switched it off.
    OnPurpose,
    /// Nobody knows.
    Unknown,
}

impl BrokeOff {
    /// All of them, in the order in which they are asked.
    pub const ALL: [Self; 7] =
        [Self::Hang, Self::Restart, Self::PowerCut, Self::MemoryError, Self::Fault, Self::OnPurpose, Self::Unknown];

    /// Whether the machine itself failed.
    pub fn speaks_against_it(self) -> bool {
        matches!(self, Self::Hang | Self::Restart | Self::MemoryError)
    }
}

/// What happened in a job, in its order.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Step {
    /// A run was made.
    Ran(String),
    /// The machine did not start in this fitting.
    Dark(Fitting),
    /// It started in this fitting; nothing was run in it yet.
    Started(Fitting),
    /// These modules were taken out and put back.
    Reseated(Vec<String>),
    /// The owner told how it went.
    Told(OwnerTold),
}

/// A start that was entered, before anything was run in its fitting.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Start {
    /// Runs of the job that were made before.
    pub after: usize,
    /// What was fitted.
    pub placement: Vec<(String, String)>,
    /// Whether it started.
    pub started: bool,
}

/// One record of a job's journal.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "record", rename_all = "kebab-case")]
pub enum JobEntry {
    /// First record.
    Opened {
        /// Version of the journal format.
        format: u32,
        /// Machine.
        machine: String,
        /// Milliseconds since 1970.
        wall_ms: i64,
    },
    /// A module that was seen in this job.
    Seen {
        /// The module.
        module: Module,
    },
    /// Modules were put into slots.
    Fitted {
        /// The new fitting.
        fitting: Fitting,
    },
    /// What was asked when the machine came in; the latest one counts.
    TakenIn {
        /// The answers.
        intake: Intake,
    },
    /// What was there when the machine was looked at; written when it is not as last time.
    Looked {
        /// What was fitted.
        board: Board,
        /// Memory that the firmware gave to the operating system, in bytes; zero when unknown.
        usable_bytes: u64,
    },
    /// The technician named a module.
    Marked {
        /// What the module is known by.
        module: String,
        /// Its name; empty when the mark was taken off.
        mark: String,
    },
    /// Settings were put in force.
    Set {
        /// Their name.
        settings: String,
    },
    /// The machine did not start in the present fitting.
    DidNotStart {
        /// What it did instead.
        sign: String,
    },
    /// The machine started in this fitting, before anything was run in it.
    Started,
    /// Slots and what sits in them, as a person declared them where nothing tells any; the latest list counts.
    Declared {
        /// All slots.
        slots: Vec<Slot>,
    },
    /// Modules were taken out and put back where they were.
    Reseated {
        /// Their serial numbers.
        modules: Vec<String>,
    },
    /// A step was decided on.
    Planned {
        /// The step.
        plan: Plan,
    },
    /// A run shall prove nothing.
    Struck {
        /// Its id.
        run: String,
        /// Why.
        reason: String,
    },
    /// A run that was struck out counts again.
    Restored {
        /// Its id.
        run: String,
    },
    /// A module is known to be good, or not any more.
    KnownGood {
        /// Its serial number.
        module: String,
        /// Whether it is.
        good: bool,
    },
    /// A module was tried in another machine.
    TriedElsewhere {
        /// Its serial number.
        module: String,
        /// It ran clean there; nothing takes back what was said.
        clean: Option<bool>,
    },
    /// A module of another job lies on the table now; it is known to be good.
    Borrowed {
        /// The module.
        module: Module,
        /// The job.
        from: String,
    },
    /// The owner told how it went.
    OwnerTold {
        /// What.
        told: OwnerTold,
    },
    /// Why a run has no end was told.
    BrokeOff {
        /// Its id.
        run: String,
        /// Why.
        how: BrokeOff,
    },
    /// The mainboard does not start with just these slots filled, or does after all.
    Refused {
        /// Slots.
        slots: BTreeSet<String>,
        /// Whether it refuses them.
        refused: bool,
    },
    /// What the machine's own system logged about memory; the latest list counts.
    SystemLogged {
        /// Entries.
        entries: Vec<LogEntry>,
    },
    /// The speed of the memory was measured.
    SpeedMeasured {
        /// What it came to.
        speed: Box<SpeedRecord>,
    },
    /// Somebody confirmed something, or takes it back.
    Ticked {
        /// What.
        tick: Tick,
        /// Whether it holds.
        done: bool,
        /// Milliseconds since 1970.
        wall_ms: i64,
    },
    /// What was ordered arrived.
    Arrived {
        /// The module, where it is known already.
        module: Option<Module>,
        /// Milliseconds since 1970.
        wall_ms: i64,
    },
    /// A stage was reached for the first time; after a step back, again.
    Reached {
        /// The stage.
        stage: Stage,
        /// Milliseconds since 1970.
        wall_ms: i64,
    },
    /// What was found holds no more: stages after it are open again, and what was confirmed of them is not.
    WentBack,
    /// Free words.
    Noted {
        /// The words.
        words: String,
        /// Milliseconds since 1970.
        wall_ms: i64,
    },
    /// The job is done.
    Closed {
        /// What it came to, in a sentence.
        answer: String,
    },
    /// The job goes on.
    Reopened,
    /// A run was made in the present fitting.
    Ran {
        /// Its id.
        run: String,
    },
    /// What a run of the job had come to when it was over: what its own journal has lost since then is missed.
    Sealed {
        /// Its id.
        run: String,
        /// Records in its journal.
        records: u64,
        /// What it added up to.
        totals: Totals,
    },
}

/// What a job's journal adds up to.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct JobState {
    /// Machine.
    pub machine: String,
    /// Milliseconds since 1970 when it was begun.
    pub opened_ms: i64,
    /// Every module seen, in the order of first sight.
    pub modules: Vec<Module>,
    /// Every fitting written down, in order: what was touched when matters.
    pub fittings: Vec<Fitting>,
    /// Runs in order.
    pub runs: Vec<String>,
    /// What was asked when the machine came in.
    pub intake: Option<Intake>,
    /// Settings put in force last, where somebody wrote them down.
    pub settings: Option<String>,
    /// What was there last time.
    pub looked: Option<Before>,
    /// Names that the technician gave, by what each module is known by.
    pub marks: BTreeMap<String, String>,
    /// Fittings in which the machine did not start, and what it did instead.
    pub dark: Vec<(Fitting, String)>,
    /// What happened, in its order.
    pub steps: Vec<Step>,
    /// Runs that shall prove nothing, and why.
    pub struck: BTreeMap<String, String>,
    /// Modules that are known to be good.
    pub good: BTreeSet<String>,
    /// Modules that were tried in another machine, and whether they ran clean there.
    pub elsewhere: BTreeMap<String, bool>,
    /// Modules of other jobs, and which.
    pub borrowed: BTreeMap<String, String>,
    /// Slots and what sits in them, as a person declared them.
    pub declared: Vec<Slot>,
    /// Why runs without an end have none.
    pub broke_off: BTreeMap<String, BrokeOff>,
    /// Sets of slots with which the mainboard does not start.
    pub refused: Vec<BTreeSet<String>>,
    /// The step that was decided on and not made yet.
    pub plan: Option<Plan>,
    /// What the machine's own system logged about memory.
    pub logged: Vec<LogEntry>,
    /// Measurements of speed, the oldest first.
    pub speeds: Vec<Arc<SpeedRecord>>,
    /// What the job came to, while it is closed.
    pub closed: Option<String>,
    /// What somebody confirmed, and when, in milliseconds since 1970.
    pub ticks: BTreeMap<Tick, i64>,
    /// Steps that had been made when something was first confirmed, or the job closed.
    pub settled_after: Option<usize>,
    /// Modules that were ordered and arrived, by serial number.
    pub arrived: Vec<String>,
    /// Stages that were reached, and when, in milliseconds since 1970.
    pub reached: BTreeMap<Stage, i64>,
    /// Free words, with when they were written, in milliseconds since 1970.
    pub notes: Vec<(i64, String)>,
    /// Records and totals of runs that are over.
    pub sealed: BTreeMap<String, (u64, Totals)>,
    /// What could not be read of its journal.
    pub damage: Damage,
}

impl JobState {
    /// The latest moment at which something was confirmed, reached or noted, in milliseconds since 1970.
    pub fn last_ms(&self) -> i64 {
        let noted = self.notes.iter().map(|(ms, _)| ms);
        let all = self.ticks.values().chain(self.reached.values()).chain(noted);
        all.copied().fold(self.opened_ms, i64::max)
    }

    /// Takes one more record.
    pub fn apply(&mut self, entry: &JobEntry) {
        match entry {
            JobEntry::Opened { machine, wall_ms, .. } => {
                self.machine.clone_from(machine);
                self.opened_ms = *wall_ms;
            }
            JobEntry::Seen { module } => match self.modules.iter_mut().find(|known| known.serial == module.serial) {
                Some(known) => *known = module.clone(),
                None => self.modules.push(module.clone()),
            },
            JobEntry::Fitted { fitting } => self.fittings.push(fitting.clone()),
            JobEntry::TakenIn { intake } => self.intake = Some(intake.clone()),
            JobEntry::Looked { board, usable_bytes } => {
                self.looked = Some(Before { board: board.clone(), usable_bytes: *usable_bytes });
            }
            JobEntry::Marked { module, mark } => {
                self.marks.insert(module.clone(), mark.clone());
            }
            JobEntry::Reseated { modules } => self.steps.push(Step::Reseated(modules.clone())),
            JobEntry::Planned { plan } => self.plan = Some(plan.clone()),
            JobEntry::Struck { run, reason } => {
                self.struck.insert(run.clone(), reason.clone());
            }
            JobEntry::Restored { run } => {
                self.struck.remove(run);
            }
            JobEntry::KnownGood { module, good: true } => {
                self.good.insert(module.clone());
            }
            JobEntry::KnownGood { module, good: false } => {
                self.good.remove(module);
            }
            JobEntry::TriedElsewhere { module, clean: Some(clean) } => {
                self.elsewhere.insert(module.clone(), *clean);
            }
            JobEntry::TriedElsewhere { module, clean: None } => {
                self.elsewhere.remove(module);
            }
            JobEntry::Borrowed { module, from } => {
                self.apply(&JobEntry::Seen { module: module.clone() });
                self.good.insert(module.serial.clone());
                self.borrowed.insert(module.serial.clone(), from.clone());
                self.ticks.remove(&Tick::Returned);
            }
            JobEntry::Declared { slots } => {
                self.declared = slots.iter().cloned().map(|slot| Slot { declared: true, ..slot }).collect();
            }
            JobEntry::Started => {
                let fitting = self.fittings.last().cloned().unwrap_or_default();
                self.steps.push(Step::Started(fitting));
                self.plan = None;
            }
            JobEntry::BrokeOff { run, how } => {
                self.broke_off.insert(run.clone(), *how);
            }
            JobEntry::OwnerTold { told } => {
                self.steps.push(Step::Told(told.clone()));
                if told.came_back {
                    self.go_back();
                }
            }
            JobEntry::Ticked { tick, done: true, wall_ms } => {
                self.settle();
                self.ticks.entry(*tick).or_insert(*wall_ms);
            }
            JobEntry::Ticked { tick, done: false, .. } => {
                self.ticks.remove(tick);
            }
            JobEntry::Arrived { module, wall_ms } => {
                self.ticks.entry(Tick::Arrived).or_insert(*wall_ms);
                if let Some(module) = module {
                    self.apply(&JobEntry::Seen { module: module.clone() });
                    self.arrived.push(module.serial.clone());
                }
            }
            JobEntry::Reached { stage, wall_ms } => {
                self.reached.insert(*stage, *wall_ms);
            }
            JobEntry::WentBack => self.go_back(),
            JobEntry::Noted { words, wall_ms } => self.notes.push((*wall_ms, words.clone())),
            JobEntry::Refused { slots, refused } => {
                self.refused.retain(|known| known != slots);
                if *refused {
                    self.refused.push(slots.clone());
                }
            }
            JobEntry::SystemLogged { entries } => self.logged.clone_from(entries),
            JobEntry::SpeedMeasured { speed } => self.speeds.push(Arc::new(speed.as_ref().clone())),
            JobEntry::Closed { answer } => {
                self.settle();
                self.closed = Some(answer.clone());
            }
            JobEntry::Reopened => self.closed = None,
            JobEntry::Set { settings } => self.settings = Some(settings.clone()),
            JobEntry::DidNotStart { sign } => {
                let fitting = self.fittings.last().cloned().unwrap_or_default();
                self.steps.push(Step::Dark(fitting.clone()));
                self.plan = None;
                self.dark.push((fitting, sign.clone()));
            }
            JobEntry::Sealed { run, records, totals } => {
                let (known, worst) = self.sealed.get(run).copied().unwrap_or_default();
                self.sealed.insert(run.clone(), (known.max(*records), worst.worst(*totals)));
            }
            JobEntry::Ran { run } => {
                if !self.runs.contains(run) {
                    self.runs.push(run.clone());
                    self.steps.push(Step::Ran(run.clone()));
                    self.plan = None;
                }
            }
        }
    }

    /// Starts that were entered, in their order.
    pub fn starts(&self) -> Vec<Start> {
        let mut after = 0;
        let mut starts = Vec::new();
        for step in &self.steps {
            let (fitting, started) = match step {
                Step::Dark(fitting) => (fitting, false),
                Step::Started(fitting) => (fitting, true),
                Step::Ran(_) => {
                    after += 1;
                    continue;
                }
                Step::Reseated(_) | Step::Told(_) => continue,
            };
            starts.push(Start { after, placement: fitting.placement.clone(), started });
        }
        starts
    }

    fn settle(&mut self) {
        self.settled_after = self.settled_after.or(Some(self.steps.len()));
    }

    /// It failed again: what was confirmed and reached after it was found holds no more.
    fn go_back(&mut self) {
        self.closed = None;
        self.ticks.clear();
        self.settled_after = None;
        self.reached.retain(|stage, _| *stage < Stage::Found);
    }
}
