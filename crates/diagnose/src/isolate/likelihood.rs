//! How likely a hypothesis makes what a run shows.

use super::bench::{Bench, Fit, Seen};
use super::cause::{Hypothesis, Kind, Part, Rate};

/// A run that is meant: its fitting and its length.
#[derive(Clone, Copy)]
pub(super) struct Trial<'a> {
    pub fit: &'a Fit,
    pub hours: f64,
    pub passes: f64,
    /// Part of the time in which each module is under test.
    pub exposure: f64,
    /// Chance that errors come without a cause that is known here.
    pub stray: f64,
}

impl<'a> Trial<'a> {
    pub fn new(bench: &Bench<'_>, fit: &'a Fit, hours: f64, passes: f64) -> Self {
        let runs = &bench.priors.runs;
        let stray = (runs.stray + runs.stray_per_hour * hours).min(0.5);
        Self { fit, hours, passes, exposure: bench.exposure(fit), stray }
    }

    /// The trial of a run of which it is doubtful that memory failed in it.
    pub fn doubted(self, doubt: f64) -> Self {
        Self { stray: self.stray.max(doubt), ..self }
    }
}

/// A dead part keeps a machine from starting this often; anything else hardly ever does.
const DEAD_IS_DARK: f64 = 0.25;
const STRAY_DARK: f64 = 0.005;
/// A cause that nobody knows fails every run with this.
const OTHER_FAILS: f64 = 0.5;

/// Probability that a part shows in a run. `loose` is how likely a loose contact is still loose.
pub(super) fn shows(bench: &Bench<'_>, part: Part, trial: Trial<'_>, loose: f64) -> f64 {
    let fit = trial.fit;
    let fitted = |module: u8| fit.slot_of[usize::from(module)].is_some();
    let several = fit.channels >= 2;
    let alone = |rate| rated(bench, rate, trial.passes, trial.hours * trial.exposure);
    let together = |rate| rated(bench, rate, trial.passes, trial.hours);
    match part.kind {
        Kind::Module(module) if fitted(module) => alone(part.rate),
        Kind::Slot(slot) if fit.module_in[usize::from(slot)].is_some() => alone(part.rate),
        Kind::Seat(module) if fitted(module) => loose * alone(part.rate),
        Kind::Settings { several: only, .. } if bench.stock() != Some(fit.setting) && (several || !only) => {
            together(part.rate)
        }
        Kind::Combination(module) if fitted(module) && several => together(part.rate),
        Kind::Pair(a, b) if fitted(a) && fitted(b) => together(part.rate),
        Kind::Controller { several: only, .. } if several || !only => together(part.rate),
        Kind::Other => OTHER_FAILS,
        _ => 0.0,
    }
}

fn rated(bench: &Bench<'_>, rate: Rate, passes: f64, hours: f64) -> f64 {
    match rate {
        Rate::Hard => {
            let finds = bench.priors.runs.one_pass_finds;
            if passes < 1.0 { finds * passes } else { 1.0 - (1.0 - finds).powf(passes) }
        }
        Rate::PerHour(rate) => 1.0 - (-rate * hours).exp(),
    }
}

/// Where errors of a part are placed: the true slot, if it is in one that is fitted, and how sharply.
fn home(bench: &Bench<'_>, part: Part, fit: &Fit) -> ([Option<u8>; 2], f64) {
    let map = &bench.priors.map;
    let of = |module: u8| fit.slot_of[usize::from(module)];
    match part.kind {
        Kind::Module(module) | Kind::Seat(module) => ([of(module), None], map.module),
        Kind::Slot(slot) => ([Some(slot), None], map.module),
        Kind::Combination(module) => ([of(module), None], map.together),
        Kind::Pair(a, b) => ([of(a), of(b)], map.together),
        Kind::Settings { weakest, .. } => ([of(weakest), None], map.settings),
        Kind::Controller { nearest, .. } => {
            ([Some(nearest).filter(|slot| fit.module_in[usize::from(*slot)].is_some()), None], map.controller)
        }
        Kind::OneOff | Kind::Other => ([None, None], 0.0),
    }
}

/// Whether a map can place errors in this fitting at all.
pub(super) fn is_placed(bench: &Bench<'_>, fit: &Fit) -> bool {
    bench.case.map_known && fit.count >= 2
}

/// Outcomes of a run: clean, errors placed nowhere, spread, and in each slot.
pub(super) const CLEAN: usize = 0;
pub(super) const ERRORS: usize = 1;
pub(super) const SPREAD: usize = 2;
pub(super) const FIRST_SLOT: usize = 3;

/// The probability of every outcome, by a right map and by a wrong one. `before` is the slot that a map named in the same fitting
/// before. `out` has room for [`FIRST_SLOT`] and all slots, twice.
pub(super) fn outcomes(
    bench: &Bench<'_>,
    hypothesis: &Hypothesis,
    trial: Trial<'_>,
    first: bool,
    loose: f64,
    before: Option<u8>,
    out: &mut [Vec<f64>; 2],
) {
    let stray = trial.stray;
    let mut clean = 1.0 - stray;
    let mut shown = [0.0; 2];
    for (part, shows_in) in hypothesis.parts().iter().zip(&mut shown) {
        // An event that never comes again came in the first run.
        *shows_in = if part.kind == Kind::OneOff && first { 1.0 } else { shows(bench, *part, trial, loose) };
        clean *= 1.0 - *shows_in;
    }
    let errors = 1.0 - clean;
    out.iter_mut().for_each(|by| by.fill(0.0));
    let [right, wrong] = out;
    (right[CLEAN], wrong[CLEAN]) = (clean, clean);
    if !is_placed(bench, trial.fit) {
        (right[ERRORS], wrong[ERRORS]) = (errors, errors);
        return;
    }
    let map = &bench.priors.map;
    let fitted = f64::from(trial.fit.count);
    let told = errors * map.told;
    (right[ERRORS], wrong[ERRORS]) = (errors - told, errors - told);
    let total = shown[0] + shown[1] + stray;
    let mut blurred = stray / total;
    for (part, shown) in hypothesis.parts().iter().zip(shown) {
        let share = shown / total;
        let (homes, sharp) = home(bench, *part, trial.fit);
        let known = homes.iter().flatten().count();
        if known == 0 {
            blurred += share;
            continue;
        }
        homes
            .iter()
            .flatten()
            .for_each(|slot| right[FIRST_SLOT + usize::from(*slot)] += told * share * sharp / known as f64);
        blurred += share * (1.0 - sharp);
    }
    // Who is not named sharply is spread, or any slot.
    right[SPREAD] += told * blurred * map.spread;
    let any = told * blurred * (1.0 - map.spread) / fitted;
    let sharply = told * (1.0 - blurred);
    wrong[SPREAD] += told * blurred * map.spread;
    let (same, others) = match before {
        // A wrong map names the same slot again.
        Some(_) => (sharply * map.same_again, sharply * (1.0 - map.same_again) / (fitted - 1.0)),
        None => (0.0, sharply / fitted),
    };
    for slot in trial.fit.module_in.iter().enumerate().filter(|(_, module)| module.is_some()).map(|(slot, _)| slot) {
        right[FIRST_SLOT + slot] += any;
        wrong[FIRST_SLOT + slot] += any + if before == Some(slot as u8) { same } else { others };
    }
}

/// Probability of what was seen, by a right map and by a wrong one.
pub(super) fn of_seen(
    bench: &Bench<'_>,
    hypothesis: &Hypothesis,
    trial: Trial<'_>,
    first: bool,
    seen: Seen,
    before: Option<u8>,
    out: &mut [Vec<f64>; 2],
) -> [f64; 2] {
    if seen == Seen::Dark {
        let dead = |part: &Part| part.rate == Rate::Hard && shows(bench, *part, trial, hypothesis.loose) > 0.4;
        let dark = if hypothesis.parts().iter().any(dead) { DEAD_IS_DARK } else { STRAY_DARK };
        return [dark, dark];
    }
    outcomes(bench, hypothesis, trial, first, hypothesis.loose, before, out);
    let at = match seen {
        Seen::Clean => CLEAN,
        Seen::Errors | Seen::Dark => {
            // Nothing told: errors of any place.
            return [1.0 - out[0][CLEAN], 1.0 - out[1][CLEAN]];
        }
        Seen::Spread => SPREAD,
        Seen::Slot(slot) => FIRST_SLOT + usize::from(slot),
    };
    [out[0][at], out[1][at]]
}
