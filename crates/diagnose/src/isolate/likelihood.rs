//! How likely a hypothesis makes what a run shows.

use super::bench::{Bench, Fit, Seen};
use super::cause::{Hypothesis, Kind, Part, Rate, Space, WORLDS, With};

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
    /// Part of each module's failing cells that it reaches.
    pub reach: &'a [f64],
}

impl<'a> Trial<'a> {
    pub fn new(bench: &Bench<'_>, fit: &'a Fit, hours: f64, passes: f64, reach: &'a [f64]) -> Self {
        let runs = &bench.priors.runs;
        let stray = (runs.stray + runs.stray_per_hour * hours).min(0.5);
        Self { fit, hours, passes, exposure: bench.exposure(fit), stray, reach }
    }

    /// The trial of a run of which it is doubtful that memory failed in it.
    pub fn doubted(self, doubt: f64) -> Self {
        Self { stray: self.stray.max(doubt), ..self }
    }
}

/// A dead part keeps a machine from starting this often; anything else hardly ever does.
const DEAD_IS_DARK: f64 = 0.25;
const STRAY_DARK: f64 = 0.005;
/// What kept it from starting once does so again whenever it is in the way.
const DARK_AGAIN: f64 = 0.95;
/// A part that fails in at least this much of the passes is dead.
const DEAD: f64 = 0.9;
/// A cause that nobody knows fails this part of runs however short, and more of the longer ones: half of the rest within so many hours.
const OTHER_FAILS: f64 = 0.25;
const OTHER_HOURS: f64 = 2.0;
/// How far the moment of the first error is believed to follow the model; else it may come at any time.
const BELIEVED: f64 = 0.75;
/// Part of the errors over several slots that are in all of them, of a cause that belongs to none.
const IN_ALL: f64 = 0.6;
/// Errors that come once and never again within their run, of a part that is always there.
const ONCE: f64 = 0.05;

/// Part of the passes or time in which a part is under test, where it can show in this fitting at all.
fn share(bench: &Bench<'_>, part: Part, trial: &Trial<'_>) -> Option<f64> {
    let fit = trial.fit;
    let fitted = |module: u8| fit.slot_of[usize::from(module)].is_some();
    let several = fit.channels >= 2;
    let is_stock = bench.stock() == Some(fit.setting);
    let holds = match part.kind {
        Kind::Module(module) | Kind::Seat(module) => fitted(module),
        Kind::Unreached(module) => fitted(module) && fit.count > 1,
        Kind::Slot(slot) => fit.module_in[usize::from(slot)].is_some(),
        Kind::Channel(channel) => bench.in_channel(fit, channel).next().is_some(),
        Kind::Settings { several: only, .. } => !is_stock && (several || !only),
        Kind::Combination { module, with: With::Channels } => fitted(module) && several,
        Kind::Combination { module, with: With::Neighbour } => bench.has_neighbour(fit, module),
        Kind::Pair(a, b) => fitted(a) && fitted(b),
        Kind::TooMany { in_channel: true, at_stock } => fit.crowded && (at_stock || !is_stock),
        Kind::TooMany { in_channel: false, at_stock } => {
            let as_many = bench.original().is_none_or(|original| fit.count >= original.count);
            as_many && (at_stock || !is_stock)
        }
        Kind::Position { later, at_stock } => fit.single_in[usize::from(later)] && (at_stock || !is_stock),
        Kind::Kits { at_stock } => fit.kits > 1 && (at_stock || !is_stock),
        Kind::Controller { several: only, .. } => several || !only,
        Kind::OneOff => false,
        Kind::Other => true,
    };
    let alone = match part.kind {
        Kind::Module(_) | Kind::Unreached(_) | Kind::Seat(_) | Kind::Slot(_) | Kind::Channel(_) => trial.exposure,
        _ => 1.0,
    };
    holds.then_some(alone)
}

/// Probability that a part shows in a run. `loose` is how likely a loose contact is still loose.
pub(super) fn shows(bench: &Bench<'_>, part: Part, trial: &Trial<'_>, loose: f64) -> f64 {
    let rates = |rate, share| rated(rate, trial.passes, trial.hours * share);
    shows_by(bench, part, trial, loose, |part, share| rates(part.rate, share))
}

/// The same with the probability by rate from somewhere else: `rates` is given the part, and which part of the time it is under test.
fn shows_by(bench: &Bench<'_>, part: Part, trial: &Trial<'_>, loose: f64, rates: impl Fn(Part, f64) -> f64) -> f64 {
    let Some(share) = share(bench, part, trial) else { return 0.0 };
    let rated = rates(part, share);
    match part.kind {
        Kind::Module(module) | Kind::Combination { module, .. } => rated * trial.reach[usize::from(module)],
        Kind::Seat(_) => loose * rated,
        Kind::Other => OTHER_FAILS + (1.0 - OTHER_FAILS) * (1.0 - (-trial.hours / OTHER_HOURS).exp2()),
        _ => rated,
    }
}

fn rated(rate: Rate, passes: f64, hours: f64) -> f64 {
    match rate {
        Rate::PerPass(finds) if passes < 1.0 => finds * passes,
        Rate::PerPass(finds) => 1.0 - (1.0 - finds).powf(passes),
        Rate::PerHour(rate) => 1.0 - (-rate * hours).exp(),
    }
}

/// How much likelier than in any other pass the first error came in the pass in which it did, of a part that showed: 1 says nothing. `at` is
/// a part of the run's length. Within a pass nothing is made of it: what fails always does so as soon as a test comes by.
fn when(bench: &Bench<'_>, part: Part, trial: &Trial<'_>, at: f64) -> f64 {
    let Some(share) = share(bench, part, trial) else { return 1.0 };
    let known = !matches!(part.kind, Kind::Other | Kind::OneOff);
    if trial.passes <= 1.0 || !known {
        return 1.0;
    }
    let stays_clean = match part.rate {
        Rate::PerPass(finds) => 1.0 - finds,
        Rate::PerHour(rate) => (-rate * trial.hours * share / trial.passes).exp(),
    };
    let all = 1.0 - stays_clean.powf(trial.passes);
    let mass = (1.0 - stays_clean) * stays_clean.powf((at * trial.passes).floor());
    let density = if all > 1e-9 { mass * trial.passes / all } else { 1.0 };
    BELIEVED * density + (1.0 - BELIEVED)
}

/// Probability that errors come again within the run, of a part that showed in it.
fn again(bench: &Bench<'_>, part: Part, trial: &Trial<'_>) -> f64 {
    let Some(share) = share(bench, part, trial) else { return ONCE };
    match part.rate {
        _ if part.kind == Kind::OneOff => ONCE,
        Rate::PerPass(finds) if finds >= DEAD => 1.0 - ONCE,
        Rate::PerPass(finds) => {
            let passes = trial.passes.max(1.0);
            let none = (1.0 - finds).powf(passes);
            let one = passes * finds * (1.0 - finds).powf(passes - 1.0);
            (1.0 - one / (1.0 - none).max(1e-9)).clamp(ONCE, 1.0 - ONCE)
        }
        Rate::PerHour(rate) => {
            let all = (rate * trial.hours * share).max(1e-6);
            let one = all * (-all).exp();
            (1.0 - one / (1.0 - (-all).exp())).clamp(ONCE, 1.0 - ONCE)
        }
    }
}

/// Where errors of a part are placed: the slots that are meant, a bit each, and how sharply.
fn home(bench: &Bench<'_>, part: Part, fit: &Fit) -> (u32, f64) {
    let map = &bench.priors.map;
    let of = |module: u8| fit.slot_of[usize::from(module)].map_or(0, |slot| 1u32 << slot);
    match part.kind {
        Kind::Module(module) | Kind::Unreached(module) | Kind::Seat(module) => (of(module), map.module),
        Kind::Slot(slot) => (1 << slot, map.module),
        Kind::Channel(channel) => (bench.in_channel(fit, channel).fold(0, |all, slot| all | 1 << slot), map.module),
        Kind::Combination { module, .. } => (of(module), map.together),
        Kind::Pair(a, b) => (of(a) | of(b), map.together),
        Kind::Settings { weakest, .. } => (of(weakest), map.settings),
        Kind::Controller { nearest, .. } => {
            (fit.module_in[usize::from(nearest)].map_or(0, |_| 1 << nearest), map.controller)
        }
        Kind::TooMany { .. } | Kind::Position { .. } | Kind::Kits { .. } | Kind::OneOff | Kind::Other => (0, 0.0),
    }
}

/// Whether a map can place errors in this fitting at all.
pub(super) fn is_placed(bench: &Bench<'_>, fit: &Fit) -> bool {
    bench.is_placed(fit)
}

/// Outcomes of a run: clean, errors placed nowhere, over several slots, and in each slot.
pub(super) const CLEAN: usize = 0;
pub(super) const ERRORS: usize = 1;
pub(super) const SPREAD: usize = 2;
pub(super) const FIRST_SLOT: usize = 3;

/// Room for the outcomes in each world.
pub(super) type Outcomes = [Vec<f64>; WORLDS];

/// Chances of a run by one hypothesis: of a clean end, and of each part that it shows.
struct Chances {
    clean: f64,
    shown: [f64; 2],
}

fn chances(bench: &Bench<'_>, hypothesis: &Hypothesis, trial: &Trial<'_>, first: bool, loose: f64) -> Chances {
    let mut clean = 1.0 - trial.stray;
    let mut shown = [0.0; 2];
    for (part, shows_in) in hypothesis.parts().iter().zip(&mut shown) {
        // An event that never comes again came in the first run.
        *shows_in = if part.kind == Kind::OneOff && first { 1.0 } else { shows(bench, *part, trial, loose) };
        clean *= 1.0 - *shows_in;
    }
    Chances { clean, shown }
}

/// The probability of every outcome in each world. `before` is the slot that a map named in the same fitting
/// before. `out` has room for [`FIRST_SLOT`] and all slots, twice; without a map in this fitting only the first two are written.
pub(super) fn outcomes(
    bench: &Bench<'_>,
    hypothesis: &Hypothesis,
    trial: &Trial<'_>,
    first: bool,
    loose: f64,
    before: Option<u8>,
    out: &mut Outcomes,
) {
    let Chances { clean, shown } = chances(bench, hypothesis, trial, first, loose);
    let errors = 1.0 - clean;
    out.iter_mut().for_each(|world| world[CLEAN] = clean);
    if !is_placed(bench, trial.fit) {
        out.iter_mut().for_each(|world| world[ERRORS] = errors);
        return;
    }
    let map = &bench.priors.map;
    let fitted = f64::from(trial.fit.count);
    let told = errors * map.told;
    for world in out.iter_mut() {
        world[SPREAD..].fill(0.0);
        world[ERRORS] = errors - told;
    }
    let [right, wrong, exchanged] = out;
    let total = shown[0] + shown[1] + trial.stray;
    let mut blurred = trial.stray / total;
    for (part, shown) in hypothesis.parts().iter().zip(shown) {
        let share = shown / total;
        let (homes, sharp) = home(bench, *part, trial.fit);
        let known = homes.count_ones();
        if known == 0 {
            blurred += share;
            continue;
        }
        for slot in bits(homes) {
            let each = told * share * sharp / f64::from(known);
            right[FIRST_SLOT + bench.place_of(slot)] += each;
            exchanged[FIRST_SLOT + bench.exchanged(slot)] += each;
        }
        blurred += share * (1.0 - sharp);
    }
    // Who is not named sharply is spread, or any slot.
    let any = told * blurred * (1.0 - map.spread) / fitted;
    let sharply = told * (1.0 - blurred);
    for world in [&mut *right, &mut *wrong, &mut *exchanged] {
        world[SPREAD] += told * blurred * map.spread;
        filled(trial.fit).for_each(|slot| world[FIRST_SLOT + bench.place_of(slot)] += any);
    }
    wrongly(bench, trial.fit, before, sharply, wrong);
}

/// Slots with a module.
fn filled(fit: &Fit) -> impl Iterator<Item = usize> + '_ {
    fit.module_in.iter().enumerate().filter(|(_, module)| module.is_some()).map(|(slot, _)| slot)
}

/// A wrong map names the same place again.
fn wrongly(bench: &Bench<'_>, fit: &Fit, before: Option<u8>, sharply: f64, row: &mut [f64]) {
    let places = bench.places(fit);
    let count = places.len() as f64;
    let same_again = bench.priors.map.same_again;
    let (same, others) = match before {
        Some(_) => (sharply * same_again, sharply * (1.0 - same_again) / (count - 1.0)),
        None => (0.0, sharply / count),
    };
    for place in places {
        row[FIRST_SLOT + place] += if before == Some(place as u8) { same } else { others };
    }
}

fn bits(mask: u32) -> impl Iterator<Item = usize> {
    (0..32).filter(move |bit| mask >> bit & 1 == 1)
}

/// The outcomes of a step by class of cause, summed over all hypotheses.
pub(super) struct Joint {
    /// Outcomes of each class, one class after the other.
    pub rows: Vec<f64>,
    /// Outcomes that there are.
    pub kinds: usize,
}

/// What a class comes to beside errors that are rightly placed.
#[derive(Clone, Copy, Default)]
struct Sums {
    clean: f64,
    untold: f64,
    blurred: f64,
    wrongly: f64,
}

/// The joint probability of class and outcome of a step: as [`outcomes`] for each hypothesis, but what does not depend on it is worked out once.
pub(super) fn joint(bench: &Bench<'_>, space: &Space, trial: &Trial<'_>, touched: &[u8], before: Option<u8>) -> Joint {
    let placed = is_placed(bench, trial.fit);
    let kinds = if placed { FIRST_SLOT + bench.slots.len() } else { ERRORS + 1 };
    let mut rows = vec![0.0; space.classes.len() * kinds];
    let mut sums = vec![Sums::default(); space.classes.len()];
    let by_rate = |share: f64| -> Vec<f64> {
        space.rates.iter().map(|rate| rated(*rate, trial.passes, trial.hours * share)).collect()
    };
    let (alone, together) = (by_rate(trial.exposure), by_rate(1.0));
    let rates = |part: Part, share: f64| {
        if share == 1.0 { together[usize::from(part.at)] } else { alone[usize::from(part.at)] }
    };
    let told = if placed { bench.priors.map.told } else { 0.0 };
    for hypothesis in &space.all {
        let loose = hypothesis.loose_after(touched);
        let mut clean = 1.0 - trial.stray;
        let mut shown = [0.0; 2];
        for (part, shows_in) in hypothesis.parts().iter().zip(&mut shown) {
            *shows_in = shows_by(bench, *part, trial, loose, rates);
            clean *= 1.0 - *shows_in;
        }
        let class = usize::from(hypothesis.class);
        let [right, wrong, exchanged] = hypothesis.weight;
        let (both, errors) = (right + wrong + exchanged, 1.0 - clean);
        let sum = &mut sums[class];
        sum.clean += both * clean;
        sum.untold += both * errors * (1.0 - told);
        if !placed {
            continue;
        }
        let row = &mut rows[class * kinds..][..kinds];
        let total = shown[0] + shown[1] + trial.stray;
        let mut sharply = 0.0;
        for (part, shown) in hypothesis.parts().iter().zip(shown).filter(|(_, shown)| *shown > 0.0) {
            let (homes, sharp) = home(bench, *part, trial.fit);
            if homes == 0 {
                continue;
            }
            let share = sharp * shown / total;
            sharply += share;
            let each = errors * told * share / f64::from(homes.count_ones());
            for slot in bits(homes) {
                row[FIRST_SLOT + bench.place_of(slot)] += right * each;
                row[FIRST_SLOT + bench.exchanged(slot)] += exchanged * each;
            }
        }
        sum.blurred += both * errors * told * (1.0 - sharply);
        sum.wrongly += wrong * errors * told * sharply;
    }
    for (row, sum) in rows.chunks_mut(kinds).zip(&sums) {
        spread_out(bench, trial.fit, before, *sum, row);
    }
    Joint { rows, kinds }
}

/// What is not rightly placed is spread, or in any slot; a wrong map names the same slot again.
fn spread_out(bench: &Bench<'_>, fit: &Fit, before: Option<u8>, sum: Sums, row: &mut [f64]) {
    (row[CLEAN], row[ERRORS]) = (sum.clean, sum.untold);
    if row.len() <= SPREAD {
        return;
    }
    let (map, fitted) = (&bench.priors.map, f64::from(fit.count));
    row[SPREAD] += sum.blurred * map.spread;
    let any = sum.blurred * (1.0 - map.spread) / fitted;
    filled(fit).for_each(|slot| row[FIRST_SLOT + bench.place_of(slot)] += any);
    wrongly(bench, fit, before, sum.wrongly, row);
}

/// What one run showed, as it counts.
pub(super) struct Shown<'a> {
    pub seen: Seen,
    pub first_error: Option<f64>,
    pub steady: Option<bool>,
    /// A run before it did not start.
    pub dark_before: bool,
    pub before: Option<u8>,
    pub trial: Trial<'a>,
    /// It is the run that is to be explained.
    pub first: bool,
}

/// Probability of what was seen in each world.
pub(super) fn of_seen(
    bench: &Bench<'_>,
    hypothesis: &Hypothesis,
    run: &Shown<'_>,
    out: &mut Outcomes,
) -> [f64; WORLDS] {
    if matches!(run.seen, Seen::Dark | Seen::Starts) {
        // What is dead is so from the first moment on.
        let trial = Trial { passes: run.trial.passes.max(1.0), ..run.trial };
        let dead = |part: &Part| {
            let always = matches!(part.rate, Rate::PerPass(finds) if finds >= DEAD);
            always && shows(bench, *part, &trial, hypothesis.loose) > 0.4
        };
        let dark = match (hypothesis.parts().iter().any(dead), run.dark_before) {
            (true, false) => DEAD_IS_DARK,
            (true, true) => DARK_AGAIN,
            (false, _) => STRAY_DARK,
        };
        return [if run.seen == Seen::Dark { dark } else { 1.0 - dark }; WORLDS];
    }
    outcomes(bench, hypothesis, &run.trial, run.first, hypothesis.loose, run.before, out);
    let by = match run.seen {
        Seen::Clean => out.each_ref().map(|world| world[CLEAN]),
        // Nothing told: errors of any place.
        Seen::Errors | Seen::Dark | Seen::Starts => out.each_ref().map(|world| 1.0 - world[CLEAN]),
        Seen::Spread => out.each_ref().map(|world| world[SPREAD]),
        Seen::Several(slots) => several(bench, hypothesis, run, slots, out),
        Seen::Slot(slot) => out.each_ref().map(|world| world[FIRST_SLOT + usize::from(slot)]),
    };
    let how = manner(bench, hypothesis, run);
    by.map(|by| by * how)
}

/// Probability that a good part of the errors was in each of just these slots: each part that shows is at home in one of them, or nobody is
/// sharply anywhere.
fn several(bench: &Bench<'_>, hypothesis: &Hypothesis, run: &Shown<'_>, slots: u32, out: &Outcomes) -> [f64; WORLDS] {
    let (map, fit) = (&bench.priors.map, run.trial.fit);
    let Chances { shown, .. } = chances(bench, hypothesis, &run.trial, run.first, hypothesis.loose);
    let sets = ((1u64 << fit.count.min(32)) as f64 - f64::from(fit.count) - 1.0).max(1.0);
    let wide = hypothesis.parts().iter().any(|part| is_wide(part.kind));
    // What belongs to the whole machine shows in all slots at once more often than in some of them.
    let of_sets = match (wide && sets > 1.0, slots.count_ones() == u32::from(fit.count)) {
        (true, true) => IN_ALL,
        (true, false) => (1.0 - IN_ALL) / (sets - 1.0),
        (false, _) => 1.0 / sets,
    };
    let blurred = out[0][SPREAD] * of_sets;
    let mut both = map.told;
    let mut covered = 0;
    for (part, shown) in hypothesis.parts().iter().zip(shown) {
        let (homes, sharp) = home(bench, *part, fit);
        both *= shown * sharp;
        covered |= homes;
    }
    // One part that is in several slots shows in all of them, or in some.
    let exactly = match hypothesis.parts() {
        _ if covered == slots => both,
        [_] if covered & slots == slots => both * 0.2,
        _ => 0.0,
    };
    // Halves are never several.
    [exactly + blurred, out[1][SPREAD] * of_sets + exactly * map.wrong / sets, exactly + blurred]
}

/// Whether a cause belongs to no module and no slot.
fn is_wide(kind: Kind) -> bool {
    matches!(
        kind,
        Kind::TooMany { .. }
            | Kind::Position { .. }
            | Kind::Kits { .. }
            | Kind::Settings { .. }
            | Kind::Controller { .. }
    )
}

/// When the first error came and whether more followed, as far as it is known: a factor, 1 says nothing.
fn manner(bench: &Bench<'_>, hypothesis: &Hypothesis, run: &Shown<'_>) -> f64 {
    if !run.seen.failed() || (run.first_error.is_none() && run.steady.is_none()) {
        return 1.0;
    }
    let trial = &run.trial;
    let Chances { shown, .. } = chances(bench, hypothesis, trial, run.first, hypothesis.loose);
    let of_part = |part: Part| {
        let when = run.first_error.map_or(1.0, |at| when(bench, part, trial, at));
        let again = run.steady.map_or(1.0, |steady| {
            let again = again(bench, part, trial);
            if steady { again } else { 1.0 - again }
        });
        when * again
    };
    let stray = run.steady.map_or(1.0, |steady| if steady { ONCE } else { 1.0 - ONCE });
    let total = shown[0] + shown[1] + trial.stray;
    let known: f64 = hypothesis.parts().iter().zip(shown).map(|(part, shown)| shown * of_part(*part)).sum();
    (known + trial.stray * stray) / total
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::isolate::{Case, Evidence, KnownModule, KnownSlot, Place, RunFact};

    /// What is worked out for all hypotheses at once is what each of them comes to.
    #[rstest]
    #[case::placed(Some(true), None, &[0, 1, 2])]
    #[case::named_before(Some(true), Some(2), &[0, 1, 2])]
    #[case::without_a_map(Some(false), None, &[0, 1, 2])]
    #[case::alone(Some(true), None, &[1])]
    #[case::halves(None, None, &[0, 1, 2])]
    #[case::half_named_before(None, Some(2), &[0, 1, 2])]
    #[case::in_one_half(None, None, &[0, 1])]
    fn the_sum_is_that_of_its_parts(#[case] map: Option<bool>, #[case] before: Option<u8>, #[case] filled: &[u8]) {
        let slot = |id: &str| KnownSlot { id: id.into(), channel: Some(id[..1].into()), soldered: false };
        let placement = [("A1", "one"), ("A2", "two"), ("B1", "three")].map(|(slot, id)| (slot.into(), id.into()));
        let failed =
            RunFact { evidence: Evidence::Errors(Place::Unknown), ..RunFact::clean(placement.to_vec(), 40.0, 4.0) };
        let modules = [("one", "a"), ("two", "b"), ("three", "a")];
        let case = Case {
            slots: ["A1", "A2", "B1", "B2"].map(slot).into(),
            modules: modules.map(|(id, kit)| KnownModule { kit: Some(kit.into()), ..KnownModule::of(id) }).into(),
            settings: vec!["profile".into(), "stock".into()],
            map_known: map == Some(true),
            halves: map.is_none().then(|| [vec!["A1".into(), "A2".into()], vec!["B1".into(), "B2".into()]]),
            runs: vec![failed],
            ..Case::default()
        };
        let bench = Bench::new(&case);
        let space = Space::new(&bench);
        let fit = bench.fit(filled.iter().map(|at| (*at, *at)), 0);
        let reach = [1.0, 0.5, 1.0];
        let trial = Trial::new(&bench, &fit, 1.5, 3.0, &reach);
        let Joint { rows, kinds } = joint(&bench, &space, &trial, &[1], before);
        let mut expected = vec![0.0; rows.len()];
        let room = FIRST_SLOT + bench.slots.len();
        let mut out = [vec![0.0; room], vec![0.0; room], vec![0.0; room]];
        for hypothesis in &space.all {
            outcomes(&bench, hypothesis, &trial, false, hypothesis.loose_after(&[1]), before, &mut out);
            for kind in 0..kinds {
                let worlds = hypothesis.weight.iter().zip(&out);
                expected[usize::from(hypothesis.class) * kinds + kind] +=
                    worlds.map(|(weight, out)| weight * out[kind]).sum::<f64>();
            }
        }
        assert!(rows.iter().zip(&expected).all(|(a, b)| (a - b).abs() < 1e-12), "{rows:?} {expected:?}");
        assert!((rows.iter().sum::<f64>() - 1.0).abs() < 1e-9);
    }
}
