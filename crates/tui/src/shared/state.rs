//! What all screens see of machine, job and run. They only read it: what a step asks for is carried out elsewhere.

use std::sync::Arc;

use revisum_diagnose::isolate::{CleanFor, Experiment, Length, Odds, Reason, Verdict, chance_to_show};
use revisum_engine::recipe::Recipe;
use revisum_link::Linked;
use revisum_record::journal::Stage;
use revisum_record::run_state::RunState;
use revisum_records::JobSummary;
use revisum_words as words;
use revisum_words::proposed::Ahead;
use revisum_workbench::by_time::TimingStage;
use revisum_workbench::speed_run::SpeedSnapshot;

use super::chosen::Chosen;
use super::facts::{Facts, Located};
use super::run::RunView;
use crate::booted::Kept;

/// What all screens see.
#[derive(Clone, Debug)]
pub struct Shared {
    /// Machine and job.
    pub facts: Facts,
    /// Where the errors of the latest run are.
    pub located: Option<Arc<Located>>,
    /// What to run.
    pub chosen: Chosen,
    /// The run of this sitting.
    pub run: Option<RunView>,
    /// A measurement of speed that is going on.
    pub speed: Option<SpeedSnapshot>,
    /// Learning from time that is going on.
    pub by_time: Option<TimingStage>,
    /// All jobs.
    pub jobs: Vec<JobSummary>,
    /// Chosen slot.
    pub slot: usize,
    /// Where what happens is recorded.
    pub kept: Kept,
    /// Where the link to the shop's counter is, where there is one.
    pub linked: Option<Linked>,
    /// Nobody has touched a key since the machine was booted.
    pub unattended: bool,
    /// Seconds until the planned run begins by itself.
    pub begins_in: Option<u32>,
    /// The machine's wall time in milliseconds since 1970.
    pub wall_ms: i64,
    /// Minute of the day now, by this machine's clock.
    pub minute_of_day: u32,
    /// What is still being done, where it takes long enough to be noticed.
    pub waiting: Option<&'static str>,
    /// Columns and rows.
    pub size: (u16, u16),
}

/// A fitting in an order of its own, so that two can be compared.
pub fn sorted(placement: &[(String, String)]) -> Vec<(String, String)> {
    let mut placement = placement.to_vec();
    placement.sort();
    placement
}

/// A place in a list of so many, moved by so much.
pub fn stepped(at: usize, by: isize, count: usize) -> usize {
    at.saturating_add_signed(by).min(count.saturating_sub(1))
}

impl Shared {
    /// What is seen first.
    pub fn new(facts: Facts, size: (u16, u16)) -> Self {
        let first_fitted = facts.board.slots.iter().position(|slot| slot.module.is_some());
        Self {
            located: facts.located.clone(),
            wall_ms: facts.wall_ms,
            facts,
            chosen: Chosen::default(),
            run: None,
            speed: None,
            by_time: None,
            jobs: Vec::new(),
            slot: first_fitted.unwrap_or(0),
            kept: Kept::default(),
            linked: None,
            unattended: false,
            begins_in: None,
            minute_of_day: 0,
            waiting: None,
            size,
        }
    }

    /// Whether speed is being measured.
    pub fn is_measuring(&self) -> bool {
        self.speed.is_some()
    }

    /// Whether a run or a measurement has the machine.
    pub fn is_busy(&self) -> bool {
        self.is_running() || self.is_measuring() || self.by_time.is_some()
    }

    /// Where what happens is recorded, the run of this sitting included.
    pub fn kept_now(&self) -> Kept {
        let of_run = self.run.as_ref().filter(|run| !run.over).and_then(|run| run.trouble.as_deref());
        let of_run = of_run.map(str::to_owned);
        let linked = self.linked.clone();
        Kept { trouble: self.kept.trouble.clone().or(of_run), linked, ..self.kept.clone() }
    }

    /// Whether another start from the drive could test what this one cannot reach.
    pub fn can_test_the_rest(&self) -> bool {
        self.facts.booted.as_ref().is_some_and(|booted| booted.entry.other().is_some() && booted.results.is_some())
    }

    /// Memory that the recipe would hold.
    pub fn held_bytes(&self) -> u64 {
        self.chosen.held_bytes(&self.facts)
    }

    /// Seconds that each test of the recipe takes in one pass, where that is known.
    pub fn expected(&self) -> Option<Vec<(String, f64)>> {
        self.facts.measured().expected(&self.chosen.recipe, self.held_bytes(), self.facts.cores)
    }

    /// Whether a run is going on.
    pub fn is_running(&self) -> bool {
        self.run.as_ref().is_some_and(|run| !run.over)
    }

    /// The run of this sitting.
    pub fn run_state(&self) -> Option<&RunState> {
        self.run.as_ref().map(|run| run.state.as_ref()).filter(|state| state.records > 0)
    }

    /// Whether modules were moved since the last run of this job, and the machine may start as they are now.
    pub fn moved_since_last_run(&self) -> bool {
        if self.facts.dark_noted {
            return false;
        }
        let now = sorted(&self.facts.board.known_placement());
        self.facts.trials.last().is_some_and(|trial| sorted(&trial.placement) != now)
    }

    /// The step that the advice proposes, if it is open.
    pub fn proposal(&self) -> Option<&Experiment> {
        match &self.facts.advice.as_ref()?.verdict {
            Verdict::Open(step) => Some(&step.next),
            _ => None,
        }
    }

    /// The stage of the job that is open; nothing once the machine was handed over.
    pub fn stage(&self) -> Option<Stage> {
        self.facts.course.present()
    }

    /// The machine as it leaves once the part is named, as a step; nothing while the job is closed.
    pub fn leaves_with(&self) -> Option<Experiment> {
        let (placement, settings) = self.facts.course.leaves.clone().filter(|_| self.facts.closed.is_none())?;
        let cost = &self.facts.case.priors.cost;
        let stays = sorted(&placement) == sorted(&self.facts.board.known_placement());
        let hands_minutes = if stays { cost.rerun } else { cost.change_base };
        Some(Experiment { placement, settings, hands_minutes, passes: 1.0, ..Experiment::default() })
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

    /// The run that comes next while nothing failed, in a sentence: why it is this one and how likely a bad module shows in it.
    pub fn proposed_run(&self) -> Option<String> {
        let course = &self.facts.course;
        let (depth, why) = (course.next_depth?, course.next_why?);
        let recipe = self.chosen.of_depth(&self.facts, depth).recipe;
        let clean = CleanFor::of(&self.facts.intake.picked, recipe.computes());
        Some(words::proposed::sentence(depth, why, clean, self.ahead(&recipe)))
    }

    fn ahead(&self, recipe: &Recipe) -> Option<Ahead> {
        let pass: f64 =
            self.facts.measured().expected(recipe, self.held_bytes(), self.facts.cores)?.iter().map(|(_, s)| s).sum();
        let seconds = recipe.for_seconds.map_or(pass * f64::from(recipe.passes.unwrap_or(1)), |seconds| seconds as f64);
        let passes = if pass > 0.0 { seconds / pass } else { 0.0 };
        let case = &self.facts.case;
        let under_load = self.facts.intake.picked.contains("under-load");
        let share = if under_load && !recipe.computes() { case.priors.runs.other_load } else { 1.0 };
        let run = Length { passes: passes * share, hours: seconds / 3600.0 * share };
        let same = case.runs.iter().filter(|run| sorted(&run.placement) == sorted(&self.facts.board.known_placement()));
        let before = Length::of_clean(same, under_load, &case.priors);
        Some(Ahead { chance: chance_to_show(&case.priors, before, run), seconds })
    }

    /// What steps are written for.
    pub fn scene<'a>(
        &'a self,
        now: &'a Vec<(String, String)>,
        name: &'a dyn Fn(&str) -> String,
    ) -> words::card::Scene<'a> {
        words::card::Scene {
            now,
            settings: &self.facts.settings,
            by_program: self.facts.can_move,
            laptop: self.facts.laptop,
            moved_before: self.facts.moved_before,
            name,
        }
    }

    /// The causes that the job came to, and why it is enough.
    pub fn answer(&self) -> Option<(&[Odds], Reason)> {
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
    use revisum_engine::recipe::Recipe;
    use revisum_engine::units::ByteRange;
    use rstest::rstest;

    use super::*;

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
        let mut shared = Shared::new(Facts { offer, ..Facts::default() }, (128, 40));
        let range = range.map(|(start, end)| ByteRange::new(start, end));
        shared.chosen.recipe = Recipe { memory, range, ..shared.chosen.recipe };
        assert_eq!(shared.held_bytes(), held);
    }
}
