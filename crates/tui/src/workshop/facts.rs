//! What there is to show of the machine and its job.

use std::sync::{Arc, LazyLock};

use revisum_diagnose::isolate::{Case, advise};
use revisum_diagnose::locate::{Limit, locator_of, shown_by, trusted_map};
use revisum_engine::recipe::Depth;
use revisum_engine::text::cleaned;
use revisum_record::fitted::Board;
use revisum_record::journal::{Plan, Step};
use revisum_record::outcome::{Judgement, tested_of_job};
use revisum_record::run_state::RunState;
use revisum_sim::{shipped, shipped_names};

use super::Workshop;
use crate::shared::facts::{BenchMachine, Facts, Located, Trial};
use crate::shared::state::sorted;
use revisum_records::{Past, Recorded, Standing, learned_for};
use revisum_words as words;
use revisum_workbench::bench;
use revisum_workbench::go_on::{going_on, repeating};
use revisum_workbench::look::Look;

/// Letters of a shop's name that a header has room for.
const LONGEST_SHOP: usize = 60;

impl Workshop {
    /// Everything that the interface shows of machine and job.
    pub fn facts(&mut self) -> Facts {
        let mut look = Look::at(&self.machine);
        bench::complete(&self.machine, &self.job, &mut look.inventory.board);
        let findings = look.findings(self.before.as_ref(), self.job.state().speeds.last().map(Arc::as_ref));
        let (system, board) = (look.system, look.inventory.board.clone());
        // Where no program can set anything, the modules tell whether there is a profile to switch off.
        let shown = board.settings_shown();
        let by_hand = || if shown.is_some() { vec!["profile".to_owned(), "stock".to_owned()] } else { Vec::new() };
        let offered = self.machine.hands.as_ref().map_or_else(by_hand, |hands| hands.settings());
        let settings = if system.settings.is_empty() { shown.unwrap_or_default().to_owned() } else { system.settings };
        // What cannot be written waits with everything else that could not be.
        let _ = self.job.go_back_if_failed();
        let case = Arc::new(self.job.case(&board, &settings, &offered));
        let advice = (!case.runs.is_empty() || case.record_damaged).then(|| advise(&case));
        self.evidence = (case.clone(), advice.clone());
        let course = self.job.course(&case, advice.as_ref(), &board);
        let _ = self.job.note_course(&course, self.machine.clock.wall_ms());
        let course = self.job.course(&case, advice.as_ref(), &board);
        let known = case.modules.iter().map(|module| module.id.clone());
        let past = Past::open(&self.data);
        let mut table = bench::loose(&self.machine, &self.job, &board);
        table.iter_mut().for_each(|module| module.mark = self.job.mark_of("", module));
        Facts {
            machine: system.machine,
            title: self.shop_or(system.title),
            complaint: self.machine.hands.as_ref().map(|hands| hands.complaint()).unwrap_or_default(),
            booted: self.booted.clone(),
            tested_in_job: tested_of_job(self.job.states(), &board),
            troubles: self.job.troubles(),
            simulated: self.machine.is_simulated(),
            guest: system.guest,
            ranges_trusted: system.ranges_trusted,
            saved: system.saved,
            processor: system.processor,
            cores: system.cores,
            nodes: system.nodes,
            seen_bytes: system.seen_bytes,
            table,
            offer: look.offer,
            reasons: advice
                .iter()
                .flat_map(|advice| words::odds::reasons(&case, advice, &|id| self.job.name_of(id)))
                .collect(),
            advice,
            course,
            history: known.clone().map(|serial| (serial.clone(), past.of_module(&serial))).collect(),
            ends: known.clone().map(|serial| (serial.clone(), past.ends(&serial))).collect(),
            last_run: self.job.runs().next_back().map(|run| Arc::new(run.state.clone())),
            trials: self.trials(&case),
            failing_recipe: self.job.failing_recipe(),
            go_on: self.job.runs().next_back().and_then(|run| going_on(run, self.job.runs(), &board, &settings).ok()),
            repeat: self.showed().and_then(|run| repeating(run, &board, &settings).ok()),
            speed: self.job.state().speeds.last().cloned(),
            plan: self.plan(&board),
            closed: self.job.state().closed.clone(),
            intake: self.job.state().intake.clone().unwrap_or_default(),
            notes: self.job.state().notes.clone(),
            laptop: laptop(&board),
            moved_before: !self.job.state().fittings.is_empty(),
            starts: self.job.state().starts(),
            modules: self.job.state().modules.iter().map(|module| (module.serial.clone(), module.clone())).collect(),
            located: self.job.runs().next_back().and_then(|run| self.located(&run.state)),
            findings,
            coverage: look.coverage.unwrap_or_default(),
            temperatures: look.temperatures,
            counters: look.counters,
            inventory: Arc::new(look.inventory),
            dark: self.dark(),
            dark_noted: self.dark_noted(&board),
            settings,
            offered,
            case: case.clone(),
            can_move: self.machine.hands.is_some(),
            declares: board.is_declared() || board.slots.is_empty(),
            elsewhere: !self.machine.is_here,
            names: known.map(|serial| (serial.clone(), self.job.name_of(&serial))).collect(),
            rated: self.rated.clone(),
            wall_ms: self.machine.clock.wall_ms(),
            job: self.job.id().to_owned(),
            unexplained: self.job.unexplained().map(|run| (run.id.clone(), words::result::sentence(&run.judgement()))),
            refused: self.job.state().refused.clone(),
            bench: if self.maker.is_some() { bench_machines() } else { Vec::new() },
            board,
        }
    }

    /// What a machine is for; of a booted one whose drive is it.
    fn shop_or(&self, title: String) -> String {
        let shop = self.booted.as_ref().and_then(|booted| booted.settings.shop.as_deref());
        shop.map_or(title, |shop| cleaned(shop, LONGEST_SHOP))
    }

    /// The latest run that showed errors, one that was not itself a repeat where there is one.
    fn showed(&self) -> Option<&Recorded> {
        let showed = || self.job.runs().rev().filter(|run| run.state.has_errors());
        showed().find(|run| run.state.begin.repeats.is_none()).or_else(|| showed().next())
    }

    /// The step that was written down before the machine was off, with what is fitted otherwise.
    pub(super) fn plan(&self, board: &Board) -> Option<(Plan, Vec<String>)> {
        let plan = self.job.state().plan.clone()?;
        let now = board.known_placement();
        let differences = words::card::differences(&plan.placement, &now, &|id| self.job.name_of(id));
        Some((plan, differences))
    }

    /// What was tried, oldest first.
    pub(super) fn trials(&self, case: &Case) -> Vec<Trial> {
        let moves = self.job.moves(case);
        let struck = &self.job.state().struck;
        let of = |run: &Recorded| {
            Some(Trial { struck: struck.get(&run.id).cloned(), moved: moves.get(&run.id).cloned(), ..trial(run)? })
        };
        self.job.runs().filter_map(of).collect()
    }

    /// What the machine does instead of starting.
    pub(super) fn dark(&self) -> Option<String> {
        self.machine.hands.as_ref().and_then(|hands| hands.starts().err())
    }

    /// Whether it was the last thing seen that it does not start as it is fitted now.
    fn dark_noted(&self, board: &Board) -> bool {
        let now = sorted(&board.known_placement());
        matches!(self.job.state().steps.last(), Some(Step::Dark(fitting)) if sorted(&fitting.placement) == now)
    }

    /// Where the errors of the run that goes on are, as far as it has come; else of the latest one of the job.
    pub(super) fn locate(&self) -> Option<Arc<Located>> {
        let live = self.run.as_ref().map(|run| run.live.state());
        let live = live.and_then(|state| self.located(&state));
        live.or_else(|| self.job.runs().next_back().and_then(|run| self.located(&run.state)))
    }

    pub(super) fn located(&self, state: &RunState) -> Option<Arc<Located>> {
        if !state.has_errors() {
            return None;
        }
        let map = trusted_map(state, self.job.states());
        let refuted = map.is_err();
        let shown = shown_by(self.job.states(), &state.begin);
        let map = map.unwrap_or_default();
        let learned = if map.is_none() { learned_for(&self.data, &state.begin) } else { None };
        let learned_fits = learned.is_some() && !self.uses_learned;
        let locator = locator_of(&state.begin, map, &shown);
        let locator = match learned.filter(|_| self.uses_learned) {
            Some(map) => locator.with_learned(map),
            None => locator,
        };
        let mut board = state.begin.board.clone();
        bench::complete(&self.machine, &self.job, &mut board);
        let mut located = Located { learned_fits, ..Located::of(state, &locator, &board) };
        if refuted {
            located.location.limits.insert(0, Limit::MapRefuted);
        }
        located.again = words::locate::again(&self.job.same_cells(), &|serial| self.job.name_of(serial));
        Some(Arc::new(located))
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
    if recorded.standing == Standing::Running {
        return None;
    }
    let state = &recorded.state;
    let judgement = recorded.judgement();
    Some(Trial {
        run: recorded.id.clone(),
        struck: None,
        moved: None,
        placement: state.begin.board.known_placement(),
        settings: state.begin.settings.clone(),
        depth: state.begin.recipe.as_ref().map_or(Depth::Triage, |recipe| recipe.depth),
        outcome: judgement.outcome,
        headline: judgement.told(),
        grade: judgement.grade,
        on_all: judgement.planned.bytes.is_none(),
        errors: judgement.counts.errors,
        slots: slots_of(state, &judgement),
        seconds: judgement.times.ran,
        passes: judgement.done.passes,
    })
}

/// Slots in which errors were placed: by the words that read wrong, else by the hardware's own counters.
fn slots_of(state: &RunState, judgement: &Judgement) -> Vec<String> {
    match state.errors.slots.is_empty() {
        true => judgement.place.iter().cloned().collect(),
        false => state.errors.slots.keys().cloned().collect(),
    }
}
