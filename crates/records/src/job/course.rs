//! How far a job is: its stages, each ticked from what is on record.

use revisum_diagnose::isolate::{
    Advice, Case, Placement, Reason, Suspect, Verdict, WhyNext, before_the_change, gone_and_kept, what_stays,
};
use revisum_engine::recipe::Depth;
use revisum_record::confidence::Before;
use revisum_record::fitted::Board;
use revisum_record::journal::{JobEntry, Stage, Step, Tick};
use revisum_record::outcome::Outcome;

use super::Job;
use crate::runs::{Recorded, Standing};

/// A stage and whether it is done.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Station {
    /// The stage.
    pub stage: Stage,
    /// It is done.
    pub done: bool,
    /// When it was reached, in milliseconds since 1970, where that is on record.
    pub at_ms: Option<i64>,
}

/// The stages of a job.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Course {
    /// Stages in their order, done ones first.
    pub stations: Vec<Station>,
    /// What is to be confirmed before the machine goes, in its order, and whether it was.
    pub to_confirm: Vec<(Tick, bool)>,
    /// Modules that have to go.
    pub gone: Vec<String>,
    /// The machine as it leaves, and the settings it leaves with, once the part is named.
    pub leaves: Option<(Placement, String)>,
    /// Nothing further tells which part it is: it is narrowed down, and not found.
    pub is_open_end: bool,
    /// It leaves as it came in: nothing that is fitted mends it, or it is not known what does.
    pub leaves_as_it_came: bool,
    /// Something goes in place of what was taken out, and it is in no slot and not known yet.
    pub awaits_part: bool,
    /// It arrived, as somebody said.
    pub part_arrived: bool,
    /// Seconds that are still to run clean until the repair is proved.
    pub proof_left_s: f64,
    /// More than can be waited for: it ran clean for a night, and that still does not prove it.
    pub proof_given_up: bool,
    /// The depth to run next while nothing failed; nothing once the deepest that the complaint asks for was clean.
    pub next_depth: Option<Depth>,
    /// Why it is that one.
    pub next_why: Option<WhyNext>,
}

impl Course {
    /// The stage that is open; nothing once the machine was handed over.
    pub fn present(&self) -> Option<Stage> {
        self.stations.iter().find(|station| !station.done).map(|station| station.stage)
    }

    /// Whether this stage is done; nothing where the job does not go by it.
    pub fn is_done(&self, stage: Stage) -> Option<bool> {
        self.stations.iter().find(|station| station.stage == stage).map(|station| station.done)
    }
}

/// Full passes that prove a repair.
const PROOF_PASSES: u32 = 4;
/// Nobody waits longer for a proof than a night.
const NIGHT_S: f64 = 8.0 * 3600.0;
/// Answers of the intake that ask for a whole night: what comes on some days only, or once it is warm.
const NIGHTLY: [&str; 3] = ["some-days", "when-idle", "when-warm"];

impl Job {
    /// How far the job is, with the machine as it is fitted now.
    pub fn course(&self, case: &Case, advice: Option<&Advice>, board: &Board) -> Course {
        let verdict = advice.map(|advice| &advice.verdict);
        let found = matches!(verdict, Some(Verdict::Open(_) | Verdict::Done { .. }));
        let mut course = match verdict {
            Some(Verdict::Done { named, reason }) => {
                let (gone, _) = gone_and_kept(case, named, *reason);
                // What is wrong with the mainboard is not mended by what is fitted: nothing here can prove that it was.
                let mends =
                    named.first().is_some_and(|odds| !matches!(odds.suspect, Suspect::Controller | Suspect::Other));
                let leaves = what_stays(case, named, *reason).filter(|_| mends);
                Course { gone, leaves, ..Course::default() }
            }
            _ => Course::default(),
        };
        let is_named = matches!(verdict, Some(Verdict::Done { .. }));
        course.is_open_end = matches!(verdict, Some(Verdict::Done { reason, .. }) if *reason != Reason::Confident);
        if is_named && course.leaves.is_none() {
            course.leaves = case.first_failure().map(|first| (first.placement.clone(), first.settings.clone()));
            course.leaves_as_it_came = course.leaves.is_some();
        }
        let next = if found { None } else { self.next_depth(case, board) };
        (course.next_depth, course.next_why) = (next.map(|(depth, _)| depth), next.map(|(_, why)| why));
        let bad_slot = match verdict {
            Some(Verdict::Done { named, .. }) => named.first().and_then(|odds| odds.suspect.slot()),
            _ => None,
        };
        if !course.leaves_as_it_came {
            self.replace(&mut course, case, board, bad_slot);
        }
        let fitted =
            course.leaves.as_ref().is_some_and(|(placement, _)| sorted(placement) == sorted(&board.known_placement()));
        let fitted = fitted && !course.awaits_part;
        course.part_arrived = self.has(Tick::Arrived);
        let proved = fitted && !course.leaves_as_it_came && self.prove(&mut course, case);
        course.to_confirm = self.to_confirm(case, found);
        let mut stages = vec![(Stage::Complaint, true)];
        if found {
            stages.extend([(Stage::Shown, true), (Stage::Found, is_named)]);
            if !is_named || !course.gone.is_empty() {
                stages.push((Stage::Ordered, is_named && (self.has(Tick::Ordered) || self.has(Tick::NothingOrdered))));
            }
            // Where nothing is named for certain nothing can be proved either, and the answer says so.
            if !is_named || course.leaves.is_some() {
                stages.push((Stage::Fitted, fitted));
            }
            if !is_named || course.leaves.is_some() && !course.leaves_as_it_came {
                stages.push((Stage::Proved, proved));
            }
        } else {
            let runs = self.clean_runs(case, board).next().is_some();
            let ruled_out = runs && course.next_depth.is_none();
            stages.extend([(Stage::NotShown, runs), (Stage::RuledOut, ruled_out)]);
            stages.push((Stage::Suspects, ruled_out && self.has(Tick::SuspectsRead)));
        }
        let confirmed = course.to_confirm.iter().all(|(_, done)| *done);
        let before = stages.iter().all(|(_, done)| *done);
        stages.push((Stage::Restored, before && confirmed));
        let closed = self.state.closed.is_some();
        stages.push((Stage::HandedOver, closed));
        let mut open = false;
        course.stations = stages
            .into_iter()
            .map(|(stage, done)| {
                // A job that was closed early leaves what was not done open, and no later one is done before an earlier one else.
                let done = done && (!open || stage == Stage::HandedOver);
                open |= !done;
                Station { stage, done, at_ms: self.reached_at(stage).filter(|_| done) }
            })
            .collect();
        course
    }

    fn has(&self, tick: Tick) -> bool {
        self.state.ticks.contains_key(&tick)
    }

    fn reached_at(&self, stage: Stage) -> Option<i64> {
        if stage == Stage::Complaint {
            return Some(self.state.opened_ms);
        }
        self.state.reached.get(&stage).copied()
    }

    /// Puts what was ordered where the machine leaves with it.
    fn replace(&self, course: &mut Course, case: &Case, board: &Board, bad_slot: Option<&str>) {
        let Some((placement, _)) = &mut course.leaves else { return };
        if !self.has(Tick::Ordered) || course.gone.is_empty() {
            return;
        }
        let first = case.first_failure().map(|run| run.placement.clone()).unwrap_or_default();
        let empty: Vec<String> = first
            .into_iter()
            .map(|(slot, _)| slot)
            .filter(|slot| !placement.iter().any(|(used, _)| used == slot) && bad_slot != Some(slot.as_str()))
            .collect();
        let known = |id: &String| !course.gone.contains(id) && !placement.iter().any(|(_, fitted)| fitted == id);
        // A new module is one that arrived, or one that was never seen in a failing run and sits where one is to go.
        let here = board.known_placement();
        let sits = |slot: &String| {
            let new = |id: &String| {
                known(id) && !case.first_failure().is_some_and(|run| run.placement.iter().any(|(_, old)| old == id))
            };
            here.iter().find(|(used, id)| used == slot && new(id)).map(|(_, id)| id.clone())
        };
        let mut arrived = self.state.arrived.iter().filter(|id| known(id)).cloned();
        let new: Vec<(String, String)> =
            empty.iter().filter_map(|slot| Some((slot.clone(), sits(slot).or_else(|| arrived.next())?))).collect();
        course.awaits_part = new.len() < empty.len().min(course.gone.len());
        placement.extend(new);
    }

    /// Whether the machine, fitted as it leaves, ran clean for long enough since it last failed so: surveys or more of all memory, the
    /// latest run one of them, of full passes, and of the time that shows that the change helped. Where nothing was changed that time cannot be
    /// told, and a survey has to do.
    fn prove(&self, course: &mut Course, case: &Case) -> bool {
        let Some((wanted, settings)) = course.leaves.clone() else { return false };
        let wanted = sorted(&wanted);
        let same = |run: &&Recorded| {
            let placed = sorted(&run.state.begin.board.known_placement()) == wanted;
            run.standing != Standing::Running && placed && was_set(run, &settings)
        };
        let (mut seconds, mut passes) = (0.0, 0);
        for run in self.runs().filter(same) {
            if self.has_failed(&run.id) {
                (seconds, passes) = (0.0, 0);
            } else if self.clean_depth(run).is_some_and(|depth| depth >= Depth::Survey) {
                let judgement = run.judgement();
                (seconds, passes) = (seconds + judgement.times.ran, passes + judgement.done.passes);
            }
        }
        let first = case.first_failure();
        let changed = first.is_none_or(|first| sorted(&first.placement) != wanted || first.settings != settings);
        let needed = before_the_change(case).filter(|_| changed).and_then(Before::clean_to_show_help).unwrap_or(0.0);
        course.proof_left_s = (needed - seconds).max(0.0);
        course.proof_given_up = course.proof_left_s > 0.0 && seconds >= NIGHT_S;
        let last = self.runs().rfind(|run| run.standing != Standing::Running);
        let latest = last
            .as_ref()
            .is_some_and(|run| same(run) && self.clean_depth(run).is_some_and(|depth| depth >= Depth::Survey));
        latest && passes >= PROOF_PASSES && course.proof_left_s <= 0.0
    }

    /// How deep a run was that ended clean on all memory and counts; else nothing.
    fn clean_depth(&self, run: &Recorded) -> Option<Depth> {
        if self.state.struck.contains_key(&run.id) || run.standing == Standing::Running {
            return None;
        }
        let judgement = run.judgement();
        let whole = judgement.outcome == Outcome::Clean && judgement.planned.bytes.is_none();
        run.state.begin.recipe.as_ref().filter(|_| whole).map(|recipe| recipe.depth)
    }

    /// How deep each clean run of what is fitted now was: one of other modules, or in other slots, says nothing of these.
    fn clean_runs(&self, case: &Case, board: &Board) -> impl Iterator<Item = Depth> {
        let now = sorted(&board.known_placement());
        let settings = case.present.as_ref().map(|(_, settings)| settings.clone()).unwrap_or_default();
        let same =
            move |run: &&Recorded| sorted(&run.state.begin.board.known_placement()) == now && was_set(run, &settings);
        self.runs().filter(same).filter_map(|run| self.clean_depth(run))
    }

    /// The depth to run next: the one that the complaint asks for, then deeper ones up to the deepest that it asks for.
    fn next_depth(&self, case: &Case, board: &Board) -> Option<(Depth, WhyNext)> {
        let picked = |name: &str| self.state.intake.as_ref().is_some_and(|intake| intake.picked.contains(name));
        let nightly = NIGHTLY.iter().any(|name| picked(name));
        match self.clean_runs(case, board).max() {
            // What shows under computing only is not looked for by a run without it.
            None if nightly => Some((Depth::Overnight, WhyNext::TakesTime)),
            None if picked("under-load") => Some((Depth::Survey, WhyNext::UnderLoad)),
            None => Some((Depth::Triage, WhyNext::Shortest)),
            Some(Depth::Triage) => Some((Depth::Survey, WhyNext::Deeper)),
            Some(Depth::Survey) => Some((Depth::Overnight, WhyNext::Deeper)),
            Some(Depth::Overnight) => None,
        }
    }

    /// What a person has to confirm before the machine goes: files only where memory failed, settings only where there is a choice.
    fn to_confirm(&self, case: &Case, failed: bool) -> Vec<(Tick, bool)> {
        let choice = case.settings.len() > 1;
        let all = [
            (Tick::Settings, choice),
            (Tick::FilesChecked, failed),
            (Tick::BackupTold, failed),
            (Tick::Returned, !self.state.borrowed.is_empty()),
            (Tick::BootOrder, true),
            (Tick::DriveOut, true),
        ];
        all.into_iter().filter(|(_, asked)| *asked).map(|(tick, _)| (tick, self.has(tick))).collect()
    }

    /// Whether a run that counts failed since something was confirmed or the job closed.
    fn failed_again(&self) -> bool {
        let since = self.state.settled_after.map_or(&[][..], |settled| &self.state.steps[settled..]);
        since.iter().any(|step| matches!(step, Step::Ran(id) if self.has_failed(id)))
    }

    fn has_failed(&self, id: &str) -> bool {
        let counts = !self.state.struck.contains_key(id);
        counts && self.runs.get(id).is_some_and(|run| run.state.has_errors())
    }

    /// Whether a module came to the job for what was found: it was in no slot before a part was ordered, and it has no part in what was found as
    /// long as no run with it failed.
    pub(super) fn came_as_replacement(&self, id: &str) -> bool {
        let holds = |placement: &[(String, String)]| placement.iter().any(|(_, module)| module == id);
        let ran = |run: &str| self.runs.get(run).is_some_and(|run| holds(&run.state.begin.board.known_placement()));
        let before = self.state.settled_after.map_or(&[][..], |settled| &self.state.steps[..settled]);
        let was_there = before.iter().any(|step| match step {
            Step::Ran(run) => ran(run),
            Step::Dark(fitting) | Step::Started(fitting) => holds(&fitting.placement),
            Step::Reseated(_) | Step::Told(_) => false,
        });
        let failed = || self.runs().any(|run| self.has_failed(&run.id) && ran(&run.id));
        self.has(Tick::Ordered) && !was_there && !failed()
    }

    /// Takes back what was confirmed, and that the job is closed, where a run failed since.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn go_back_if_failed(&mut self) -> anyhow::Result<()> {
        if self.failed_again() { self.note(JobEntry::WentBack) } else { Ok(()) }
    }

    /// Writes down each stage that was not reached before.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn note_course(&mut self, course: &Course, wall_ms: i64) -> anyhow::Result<()> {
        for station in course.stations.iter().filter(|station| station.done && station.stage != Stage::Complaint) {
            if !self.state.reached.contains_key(&station.stage) {
                self.note(JobEntry::Reached { stage: station.stage, wall_ms })?;
            }
        }
        Ok(())
    }
}

/// Whether a run had these settings, as far as both are known: at stock settings nothing is proved of a machine that leaves with a profile.
fn was_set(run: &Recorded, settings: &str) -> bool {
    let own = run.state.begin.settings.as_str();
    own == settings || own.is_empty() || settings.is_empty()
}

fn sorted(placement: &[(String, String)]) -> Vec<(String, String)> {
    let mut placement = placement.to_vec();
    placement.sort();
    placement
}
