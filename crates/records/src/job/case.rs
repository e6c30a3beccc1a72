//! What the runs of a job say about the parts: the job as a case for the odds.

use std::collections::{BTreeMap, BTreeSet};

use revisum_diagnose::address::{Locator, MapFile};
use revisum_diagnose::controller::ShownChannels;
use revisum_diagnose::isolate::{
    Case, Evidence, KnownModule, KnownSlot, Look, Move, Place, Priors, RunFact, Signs, half_of, halves_of,
    in_order_of_channels, look_of, marks, moves, one_module_pass_minutes, placed_anew, reach_of, reached, tilt,
};
use revisum_diagnose::locate::{Refuted, is_confirmed, locator_of, names_slots, shown_by, trusted_map};
use revisum_record::fitted::Board;
use revisum_record::journal::{Begin, OwnerTold, Step};
use revisum_record::logged::{LogEntry, tilt_answers};
use revisum_record::run_state::RunState;

use super::Job;
use crate::runs::{Recorded, Standing};

impl Job {
    /// The job as evidence for the odds, with the machine as it is fitted and set now.
    pub fn case(&self, board: &Board, settings: &str, offered: &[String]) -> Case {
        let pass_minutes = self.runs().filter_map(|run| one_module_pass_minutes(&run.state)).next_back();
        let mut modules: Vec<String> = self.state.modules.iter().map(|module| module.serial.clone()).collect();
        modules.extend(board.modules().map(|(slot, module)| module.identity(&slot.id)));
        modules.retain(|id| !id.is_empty());
        modules.sort();
        modules.dedup();
        let priors = Priors::default();
        let logged = |id: &str| {
            let of_it = |entry: &LogEntry| entry.kind.is_memory_error() && entry.module.as_deref() == Some(id);
            self.state.logged.iter().any(of_it).then_some(priors.signs.logged)
        };
        let known = |id: String| KnownModule {
            // A module that was bought for what was found has no part in it.
            known_good: self.state.good.contains(&id) || self.came_as_replacement(&id),
            elsewhere: self.state.elsewhere.get(&id).copied(),
            weight: logged(&id),
            kit: self.part_of(&id, board),
            ..KnownModule::of(id)
        };
        let runs: Vec<RunFact> = self.facts(&priors).into_iter().map(|(_, fact)| fact).collect();
        let mut picked = self.state.intake.as_ref().map(|intake| intake.picked.clone()).unwrap_or_default();
        picked.extend(tilt_answers(&self.state.logged).map(str::to_owned));
        let tells_halves = runs.iter().any(|run| matches!(run.evidence, Evidence::Errors(Place::Half(_))));
        let halves = halves_of(board).filter(|_| tells_halves);
        // What time told are two halves that no arrangement names.
        let by_registers = self.states().all(|run| run.begin.halves.is_none());
        let named = halves
            .as_ref()
            .filter(|_| by_registers)
            .and_then(|halves| in_order_of_channels(halves, &self.shown().channels));
        Case {
            slots: board.slots.iter().map(KnownSlot::from).collect(),
            modules: modules.into_iter().map(known).collect(),
            settings: if offered.len() > 1 { offered.to_vec() } else { Vec::new() },
            map_known: self.places_errors(),
            halves_named: named.is_some(),
            halves: named.or(halves),
            map_proven: self.is_proven(),
            reach: reach_of(&runs),
            present: (!runs.is_empty()).then(|| (board.known_placement(), settings.to_owned())),
            runs,
            pass_minutes: pass_minutes.unwrap_or(10.0),
            tilt: tilt(&picked, &priors),
            refused: self.state.refused.clone(),
            record_damaged: self.is_damaged(),
            needed: Vec::new(),
            priors,
        }
    }

    /// Maker and part number of a module: modules of which these differ were not sold together.
    fn part_of(&self, id: &str, board: &Board) -> Option<String> {
        let fitted = board.modules().map(|(slot, module)| (module.identity(&slot.id), module));
        let seen = self.state.modules.iter().map(|module| (module.serial.clone(), module));
        let (_, module) = seen.chain(fitted).find(|(known, _)| known == id)?;
        (!module.part.is_empty()).then(|| format!("{} {}", module.maker, module.part))
    }

    /// What each run of a case of this job moved most, by its id.
    pub fn moves(&self, case: &Case) -> BTreeMap<String, Move> {
        let ids = self.facts(&case.priors).into_iter().map(|(id, _)| id);
        ids.zip(moves(case)).filter_map(|(id, moved)| Some((id, moved?))).collect()
    }

    /// Whether errors can be placed in slots: by an address map that nothing contradicts, or by error counters.
    fn places_errors(&self) -> bool {
        let by_map = |run: &RunState| run.begin.map.is_some() && trusted_map(run, self.states()).is_ok();
        let shown = self.shown();
        let by_registers = |run: &RunState| names_slots(&run.begin, shown.of(&run.begin));
        self.states().any(|run| !run.hardware.places.is_empty() || by_map(run) || by_registers(run))
    }

    /// Whether runs with one module, or error counters, confirm every map that placed errors: one arrangement proves nothing of another.
    fn is_proven(&self) -> bool {
        let mut placing =
            self.counting().filter(|run| run.has_errors() && run.begin.board.modules().count() > 1).peekable();
        let sure = |run: &RunState| !run.hardware.places.is_empty() || is_confirmed(run, self.states());
        placing.peek().is_some() && placing.all(sure)
    }

    /// Runs that count as evidence, as far as they themselves decide that.
    fn counting(&self) -> impl Iterator<Item = &RunState> {
        let counts = |run: &&Recorded| run.standing != Standing::Running && !self.state.struck.contains_key(&run.id);
        self.runs().filter(counts).map(|run| &run.state).filter(|run| run.plants_missed == 0)
    }

    /// What happened, as evidence, in its order.
    fn facts(&self, priors: &Priors) -> Vec<(String, RunFact)> {
        let maps: Maps = self.runs().map(|run| (run.id.clone(), trusted_map(&run.state, self.states()))).collect();
        let halves: BTreeSet<(u64, u64, u64)> =
            self.states().filter_map(|run| run.begin.halves).map(|of| (of.mask, of.from, of.offset)).collect();
        let known = Known {
            maps,
            shown: self.shown(),
            places_errors: self.places_errors(),
            // Which half is which is the same only where it was told by the same functions.
            halves_agree: halves.len() < 2,
        };
        let mut reached = self.reached(&known);
        let mut facts = Vec::new();
        let mut reseat = Vec::new();
        for step in &self.state.steps {
            let fact = match step {
                Step::Reseated(modules) => {
                    reseat.extend(modules.iter().cloned());
                    None
                }
                Step::Dark(fitting) => {
                    let clean = RunFact::clean(fitting.placement.clone(), DARK_MINUTES, 0.0);
                    Some((String::new(), RunFact { evidence: Evidence::Dark, ..clean }))
                }
                Step::Started(fitting) => {
                    let clean = RunFact::clean(fitting.placement.clone(), DARK_MINUTES, 0.0);
                    Some((String::new(), RunFact { evidence: Evidence::Starts, ..clean }))
                }
                Step::Told(told) => Some((String::new(), at_owner(told).by_owner(priors))),
                Step::Ran(id) => self.fact(id, &known, priors).map(|fact| {
                    let reach = reached.remove(id).unwrap_or_default();
                    (id.clone(), RunFact { reach, ..fact })
                }),
            };
            facts.extend(fact.map(|(id, fact)| (id, RunFact { reseat: std::mem::take(&mut reseat), ..fact })));
        }
        facts
    }

    /// What its runs showed of the slots of the mainboard that it has now.
    fn shown(&self) -> Shown {
        let last = self.states().next_back();
        let channels = last.map(|run| shown_by(self.states(), &run.begin)).unwrap_or_default();
        Shown { mainboard: last.map(|run| run.begin.board.mainboard.clone()).unwrap_or_default(), channels }
    }

    fn fact(&self, id: &str, known: &Known, priors: &Priors) -> Option<RunFact> {
        let run = self.runs.get(id).filter(|run| run.standing != Standing::Running)?;
        let map = known.maps.get(id)?;
        let failed = run.state.end.is_none() && self.state.broke_off.get(id).is_some_and(|how| how.speaks_against_it());
        let fact = match RunFact::of(&run.state, map.is_ok()) {
            Some(fact) if failed => fact.broken_off(priors),
            Some(fact) => fact,
            // It fell before anything was swept.
            None if failed && !run.state.begin.board.known_placement().is_empty() => {
                let minutes = run.state.running_seconds() / 60.0;
                let fact = RunFact::clean(run.state.begin.board.known_placement(), minutes, 0.0);
                RunFact { settings: run.state.begin.settings.clone(), ..fact }.broken_off(priors)
            }
            None => return None,
        };
        let struck = self.state.struck.contains_key(id);
        if !run.state.has_errors() {
            return Some(RunFact { struck, ..fact });
        }
        let shown = known.shown.of(&run.state.begin);
        let locator = locator_by(&run.state, map, shown);
        // What other arrangements showed of slots came after this run placed its errors.
        let placed = (shown.count() > 0 && map.is_ok()).then(|| placed_anew(&run.state, &locator)).flatten();
        // Where nothing names slots, halves are left.
        let only_halves = map.is_ok() && !known.places_errors && known.halves_agree;
        let placed = placed.or_else(|| half_of(&run.state, &locator).filter(|_| only_halves));
        let evidence = match (&fact.evidence, placed) {
            (Evidence::Errors(Place::Unknown | Place::Spread), Some(place)) => Evidence::Errors(place),
            (known, _) => known.clone(),
        };
        let fact = RunFact { evidence, ..fact };
        let look = self.look_of(run, &locator);
        let signs = Signs { look, ..fact.signs };
        Some(RunFact { struck, signs, marks: marks(&run.state, &locator, look), ..fact })
    }

    /// What the errors of a run looked like, where that is clear.
    fn look_of(&self, run: &Recorded, locator: &Locator) -> Option<Look> {
        let key = (run.id.clone(), locator.tells_cells());
        if let Some(known) = self.looks.borrow().get(&key) {
            return *known;
        }
        let look = look_of(&run.state, locator);
        self.looks.borrow_mut().insert(key, look);
        look
    }

    /// By run and module: the part of the failing cells that the run reached. Cells of runs that do not count are not known to fail.
    fn reached(&self, known: &Known) -> BTreeMap<String, Vec<(String, f64)>> {
        let runs: Vec<&RunState> = self.counting().collect();
        if !runs.iter().any(|run| run.has_errors()) {
            return BTreeMap::new();
        }
        let locators: Vec<Locator> = runs
            .iter()
            .map(|run| {
                let shown = known.shown.of(&run.begin);
                let alone = || locator_of(&run.begin, None, shown);
                known.maps.get(&run.id).map_or_else(alone, |map| locator_by(run, map, shown))
            })
            .collect();
        reached(runs.into_iter().zip(&locators))
    }
}

/// By run the map that it went by, unless other runs refute it.
type Maps = BTreeMap<String, Result<Option<MapFile>, Refuted>>;

static NOTHING: ShownChannels = ShownChannels::NONE;

/// What is known of all runs of a job together.
struct Known {
    maps: Maps,
    shown: Shown,
    places_errors: bool,
    halves_agree: bool,
}

/// Channels of slots, and the mainboard that they are of.
struct Shown {
    mainboard: String,
    channels: ShownChannels,
}

impl Shown {
    /// Those that a run may go by: none on another mainboard.
    fn of(&self, begin: &Begin) -> &ShownChannels {
        if begin.board.mainboard == self.mainboard { &self.channels } else { &NOTHING }
    }
}

fn locator_by(run: &RunState, map: &Result<Option<MapFile>, Refuted>, shown: &ShownChannels) -> Locator {
    locator_of(&run.begin, map.as_ref().ok().cloned().flatten(), shown)
}

/// What the owner told as a run; an hour of it goes through memory about once.
fn at_owner(told: &OwnerTold) -> RunFact {
    let minutes = f64::from(told.hours) * 60.0;
    let evidence = if told.came_back { Evidence::Errors(Place::Unknown) } else { Evidence::Clean };
    RunFact {
        evidence,
        settings: told.settings.clone(),
        ..RunFact::clean(told.placement.clone(), minutes, f64::from(told.hours))
    }
}

/// Minutes after which it is plain that a machine does not start.
const DARK_MINUTES: f64 = 2.0;
