//! Hypotheses, their weights before any run, and how likely each makes a run's outcome.

use std::collections::{BTreeMap, BTreeSet};

use super::case::{Case, Evidence, Placement, RunFact, Suspect};

/// Weights before any run: guesses of a repair bench, in any unit.
mod prior {
    pub const MODULE_HARD: f64 = 30.0;
    pub const MODULE_INTERMITTENT: f64 = 25.0;
    pub const SEATING: f64 = 12.0;
    pub const ONE_OFF: f64 = 4.0;
    pub const SETTINGS_OR_CONTROLLER: f64 = 16.0;
    pub const SLOT: f64 = 5.0;
    pub const COMBINATION: f64 = 4.0;
    pub const PAIR: f64 = 3.0;
    pub const OTHER: f64 = 1.0;
    /// A slot that was empty when the machine failed is hardly the cause.
    pub const EMPTY_SLOT: f64 = 0.02;
    /// Part of the slots that fail always.
    pub const SLOT_HARD: f64 = 0.6;
    /// Share of loose contacts that a touch cures.
    pub const TOUCH_CURES: f64 = 0.88;
}

/// Errors per hour of causes that come and go.
const MODULE_RATES: [f64; 5] = [0.4, 0.9, 2.0, 4.5, 12.0];
const TOGETHER_RATES: [f64; 4] = [1.5, 5.0, 15.0, 45.0];
const SLOT_RATES: [f64; 2] = [1.0, 5.0];
const SEAT_RATES: [f64; 2] = [2.0, 10.0];
/// A certain map still names another slot now and then: an error can show where it did not arise.
const NAMES_THE_TRUE_SLOT: f64 = 0.95;
const NAMES_THE_COMBINED_SLOT: f64 = 0.65;
/// Share of runs with errors in which one slot stands out, when the cause is no single place.
const ONE_SLOT_STANDS_OUT: f64 = 0.35;
/// Suspects below this are dropped from planning.
pub(super) const NEGLIGIBLE: f64 = 2e-4;

/// How often a cause shows.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Rate {
    Hard,
    PerHour(f64),
}

/// One way in which things could be.
#[derive(Clone, Debug, PartialEq)]
enum Cause {
    Module(String, Rate),
    Slot(String, Rate),
    Seat(String, Rate),
    OneOff,
    Combination(String, Rate),
    Pair(String, String, Rate),
    Controller { several_channels: bool, rate: Rate },
    Other,
}

impl Cause {
    fn suspect(&self) -> Suspect {
        match self {
            Self::Module(module, _) => Suspect::Module(module.clone()),
            Self::Slot(slot, _) => Suspect::Slot(slot.clone()),
            Self::Seat(..) | Self::OneOff => Suspect::NoPart,
            Self::Combination(module, _) => Suspect::Combination(module.clone()),
            Self::Pair(a, b, _) => Suspect::Pair(a.clone(), b.clone()),
            Self::Controller { .. } => Suspect::SettingsOrController,
            Self::Other => Suspect::Other,
        }
    }
}

/// A cause with its weight and, for a loose contact, how likely it is still loose.
#[derive(Clone, Debug)]
pub(super) struct Hypothesis {
    cause: Cause,
    pub weight: f64,
    loose: f64,
}

impl Hypothesis {
    pub fn suspect(&self) -> Suspect {
        self.cause.suspect()
    }
}

/// A suspect and its probability.
#[derive(Clone, Debug, PartialEq)]
pub struct Odds {
    /// The cause.
    pub suspect: Suspect,
    /// Its probability, 0 to 1.
    pub probability: f64,
}

/// Odds after all runs, most likely first.
pub fn odds(case: &Case) -> Vec<Odds> {
    summed(&hypotheses_after(case))
}

/// Odds by suspect, most likely first; suspects of equal odds in a fixed order.
pub(super) fn summed(hypotheses: &[Hypothesis]) -> Vec<Odds> {
    let total: f64 = hypotheses.iter().map(|hypothesis| hypothesis.weight).sum();
    let mut by_suspect: BTreeMap<Suspect, f64> = BTreeMap::new();
    for hypothesis in hypotheses {
        *by_suspect.entry(hypothesis.suspect()).or_default() += hypothesis.weight / total;
    }
    let mut odds: Vec<Odds> =
        by_suspect.into_iter().map(|(suspect, probability)| Odds { suspect, probability }).collect();
    odds.sort_by(|a, b| b.probability.total_cmp(&a.probability));
    odds
}

/// Every hypothesis with its weight after all runs; weights add up to 1.
pub(super) fn hypotheses_after(case: &Case) -> Vec<Hypothesis> {
    let mut hypotheses = hypotheses(case);
    let mut before: Option<&Placement> = None;
    for (index, run) in case.runs.iter().enumerate() {
        if let Some(before) = before {
            touch(&mut hypotheses, before, &run.placement);
        }
        for hypothesis in &mut hypotheses {
            take(case, hypothesis, run, index == 0);
        }
        normalise(&mut hypotheses);
        before = Some(&run.placement);
    }
    hypotheses
}

fn hypotheses(case: &Case) -> Vec<Hypothesis> {
    let modules: Vec<&String> = case.modules.iter().map(|module| &module.id).collect();
    let occupied: BTreeSet<&String> =
        case.runs.first().map(|run| run.placement.iter().map(|(slot, _)| slot).collect()).unwrap_or_default();
    let soldered: BTreeSet<String> = case.soldered().into_iter().map(|(_, module)| module).collect();
    let count = modules.len().max(1) as f64;
    let mut all = Vec::new();
    let mut add = |cause: Cause, weight: f64| {
        if weight > 0.0 {
            all.push(Hypothesis { cause, weight, loose: 1.0 });
        }
    };
    for module in &modules {
        let own = |rate| Cause::Module((*module).clone(), rate);
        add(own(Rate::Hard), prior::MODULE_HARD / count);
        spread(&MODULE_RATES, prior::MODULE_INTERMITTENT / count, |rate, weight| add(own(rate), weight));
        let seat = |rate| Cause::Seat((*module).clone(), rate);
        let seated = if soldered.contains(*module) { 0.0 } else { prior::SEATING / count / 2.0 };
        add(seat(Rate::Hard), seated);
        spread(&SEAT_RATES, seated, |rate, weight| add(seat(rate), weight));
        if modules.len() > 1 {
            spread(&TOGETHER_RATES, prior::COMBINATION / count, |rate, weight| {
                add(Cause::Combination((*module).clone(), rate), weight);
            });
        }
    }
    add(Cause::OneOff, prior::ONE_OFF);
    // Soldered memory and its place are one part.
    for slot in case.slots.iter().filter(|slot| !slot.soldered) {
        let share = prior::SLOT / occupied.len().max(1) as f64;
        let weight = if occupied.contains(&slot.id) { share } else { share * prior::EMPTY_SLOT };
        add(Cause::Slot(slot.id.clone(), Rate::Hard), weight * prior::SLOT_HARD);
        spread(&SLOT_RATES, weight * (1.0 - prior::SLOT_HARD), |rate, weight| {
            add(Cause::Slot(slot.id.clone(), rate), weight);
        });
    }
    let pairs: Vec<(&String, &String)> =
        modules.iter().enumerate().flat_map(|(at, a)| modules[at + 1..].iter().map(move |b| (*a, *b))).collect();
    for (a, b) in &pairs {
        spread(&TOGETHER_RATES, prior::PAIR / pairs.len() as f64, |rate, weight| {
            add(Cause::Pair((*a).clone(), (*b).clone(), rate), weight);
        });
    }
    for several_channels in [false, true] {
        spread(&TOGETHER_RATES, prior::SETTINGS_OR_CONTROLLER / 2.0, |rate, weight| {
            add(Cause::Controller { several_channels, rate }, weight);
        });
    }
    add(Cause::Other, prior::OTHER);
    normalise(&mut all);
    all
}

fn spread(rates: &[f64], weight: f64, mut add: impl FnMut(Rate, f64)) {
    for rate in rates {
        add(Rate::PerHour(*rate), weight / rates.len() as f64);
    }
}

fn normalise(hypotheses: &mut [Hypothesis]) {
    let total: f64 = hypotheses.iter().map(|hypothesis| hypothesis.weight).sum();
    if total > 0.0 {
        hypotheses.iter_mut().for_each(|hypothesis| hypothesis.weight /= total);
    }
}

/// Modules that were taken out, fitted or moved between two placements.
pub(super) fn touched(before: &Placement, after: &Placement) -> BTreeSet<String> {
    let moved = |from: &Placement, to: &Placement| {
        from.iter().filter(|place| !to.contains(place)).map(|(_, module)| module.clone()).collect::<BTreeSet<_>>()
    };
    moved(before, after).union(&moved(after, before)).cloned().collect()
}

/// A touch cures most loose contacts, before the next run is made.
pub(super) fn touch(hypotheses: &mut [Hypothesis], before: &Placement, after: &Placement) {
    let touched = touched(before, after);
    for hypothesis in hypotheses {
        if matches!(&hypothesis.cause, Cause::Seat(module, _) if touched.contains(module)) {
            hypothesis.loose *= 1.0 - prior::TOUCH_CURES;
        }
    }
}

/// Multiplies one hypothesis by the likelihood of one run.
pub(super) fn take(case: &Case, hypothesis: &mut Hypothesis, run: &RunFact, first: bool) {
    let active = chance_of_errors(case, &hypothesis.cause, run, first);
    let own = active * hypothesis.loose;
    let hours = run.minutes / 60.0;
    let stray = (0.003 + 0.002 * hours).min(0.5);
    let fails = 1.0 - (1.0 - own) * (1.0 - stray);
    let likelihood = match &run.evidence {
        Evidence::Clean => 1.0 - fails,
        Evidence::Errors { slot } => fails * chance_of_slot(hypothesis, run, slot.as_deref()),
    };
    hypothesis.weight *= likelihood;
    if matches!(hypothesis.cause, Cause::Seat(..)) {
        hypothesis.loose = match run.evidence {
            Evidence::Clean => hypothesis.loose * (1.0 - active) / (1.0 - own).max(1e-12),
            Evidence::Errors { .. } => (own / fails.max(1e-12)).max(hypothesis.loose),
        };
    }
}

fn chance_of_errors(case: &Case, cause: &Cause, run: &RunFact, first: bool) -> f64 {
    let fitted = |module: &String| run.placement.iter().any(|(_, fitted)| fitted == module);
    let channels = case.channels(&run.placement);
    // An hour with four modules gives each of them less exercise than an hour alone.
    let exposure = case.pass_minutes(&run.placement[..1.min(run.placement.len())].to_vec())
        / case.pass_minutes(&run.placement).max(1e-9);
    let own_time = |rate: Rate| chance(rate, exposure * run.minutes / 60.0, run.passes);
    let whole_time = |rate: Rate| chance(rate, run.minutes / 60.0, run.passes);
    match cause {
        Cause::Module(module, rate) | Cause::Seat(module, rate) if fitted(module) => own_time(*rate),
        Cause::Slot(slot, rate) if run.placement.iter().any(|(used, _)| used == slot) => own_time(*rate),
        Cause::Combination(module, rate) if channels >= 2 && fitted(module) => whole_time(*rate),
        Cause::Pair(a, b, rate) if fitted(a) && fitted(b) => whole_time(*rate),
        Cause::Controller { several_channels, rate } if channels >= 2 || !several_channels => whole_time(*rate),
        Cause::OneOff if first => 0.9,
        Cause::Other => 0.5,
        _ => 0.0,
    }
}

fn chance(rate: Rate, hours: f64, passes: f64) -> f64 {
    match rate {
        Rate::Hard if passes < 1.0 => 0.99 * passes,
        Rate::Hard => 1.0 - 0.01f64.powf(passes),
        Rate::PerHour(rate) => 1.0 - (-rate * hours).exp(),
    }
}

/// How likely the errors of this cause are placed in the slot that was named; 1 where nothing can be told.
fn chance_of_slot(hypothesis: &Hypothesis, run: &RunFact, named: Option<&str>) -> f64 {
    let slots = run.placement.len();
    if slots < 2 {
        return 1.0;
    }
    let holds = |module: &String| run.placement.iter().find(|(_, fitted)| fitted == module).map(|(slot, _)| slot);
    let (home, sure) = match &hypothesis.cause {
        Cause::Module(module, _) | Cause::Seat(module, _) => (holds(module), NAMES_THE_TRUE_SLOT),
        Cause::Slot(slot, _) => {
            (run.placement.iter().map(|(used, _)| used).find(|used| *used == slot), NAMES_THE_TRUE_SLOT)
        }
        Cause::Combination(module, _) | Cause::Pair(module, ..) => (holds(module), NAMES_THE_COMBINED_SLOT),
        Cause::OneOff | Cause::Controller { .. } | Cause::Other => (None, 0.0),
    };
    let others = (slots - 1) as f64;
    match (home, named) {
        (Some(home), Some(named)) if home == named => sure,
        (Some(_), Some(_)) => (1.0 - sure) / 2.0 / others,
        (Some(_), None) => (1.0 - sure) / 2.0,
        (None, Some(_)) => ONE_SLOT_STANDS_OUT / slots as f64,
        (None, None) => 1.0 - ONE_SLOT_STANDS_OUT,
    }
}

#[cfg(test)]
pub(super) mod tests {
    use rstest::rstest;

    use super::*;
    use crate::isolate::case::{KnownModule, KnownSlot};

    pub fn case(runs: Vec<RunFact>) -> Case {
        let slot =
            |id: &str, channel: &str| KnownSlot { id: id.into(), channel: Some(channel.into()), soldered: false };
        Case {
            slots: vec![slot("A1", "A"), slot("A2", "A"), slot("B1", "B"), slot("B2", "B")],
            modules: ["green", "red"].map(|id| KnownModule { id: id.into() }).into(),
            runs,
            pass_minutes: 10.0,
        }
    }

    pub fn run(placement: &[(&str, &str)], passes: f64, evidence: Evidence) -> RunFact {
        let placement = placement.iter().map(|(slot, module)| ((*slot).into(), (*module).into())).collect();
        RunFact { placement, minutes: passes * 10.0, passes, evidence }
    }

    pub fn errors(slot: &str) -> Evidence {
        Evidence::Errors { slot: Some(slot.into()) }
    }

    fn leader(runs: Vec<RunFact>) -> Odds {
        odds(&case(runs)).remove(0)
    }

    const BOTH: [(&str, &str); 2] = [("A1", "green"), ("B1", "red")];

    #[rstest]
    #[case::named_by_the_map(vec![run(&BOTH, 1.0, errors("B1"))], 0.4, 0.8)]
    #[case::clean_without_it(vec![run(&BOTH, 1.0, errors("B1")), run(&[("A1", "green")], 1.0, Evidence::Clean)], 0.4, 0.85)]
    #[case::it_went_with_the_module(
        vec![run(&BOTH, 1.0, errors("B1")), run(&[("A1", "red"), ("B1", "green")], 1.0, errors("A1"))], 0.85, 0.95)]
    #[case::and_clean_without_it(
        vec![
            run(&BOTH, 1.0, errors("B1")),
            run(&[("A1", "red")], 1.0, Evidence::Errors { slot: None }),
            run(&[("A1", "green")], 2.0, Evidence::Clean),
        ], 0.95, 1.0)]
    fn the_red_module(#[case] runs: Vec<RunFact>, #[case] least: f64, #[case] most: f64) {
        let leader = leader(runs);
        assert_eq!(leader.suspect, Suspect::Module("red".into()));
        assert!((least..=most).contains(&leader.probability), "{}", leader.probability);
    }

    #[test]
    fn what_stays_when_both_modules_moved_is_the_slot() {
        let moved = run(&[("A1", "red"), ("B1", "green")], 1.0, errors("B1"));
        let leader = leader(vec![run(&BOTH, 1.0, errors("B1")), moved.clone(), moved]);
        assert_eq!(leader.suspect, Suspect::Slot("B1".into()));
    }

    #[test]
    fn gone_after_reseating_is_no_part() {
        let mut runs = vec![run(&BOTH, 1.0, errors("B1")), run(&[("A1", "green")], 1.0, Evidence::Clean)];
        runs.push(run(&BOTH, 8.0, Evidence::Clean));
        assert_eq!(leader(runs).suspect, Suspect::NoPart);
    }

    #[test]
    fn odds_add_up_to_one() {
        let odds = odds(&case(vec![run(&BOTH, 1.0, errors("B1"))]));
        assert!((odds.iter().map(|odds| odds.probability).sum::<f64>() - 1.0).abs() < 1e-9);
    }
}
