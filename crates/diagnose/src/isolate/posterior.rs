//! Odds after all runs. The order of runs matters: a touch cures most loose contacts before the next run is made.

use std::collections::BTreeMap;

use super::bench::{Bench, BenchRun, Fit, Seen};
use super::case::Case;
use super::cause::{Hypothesis, Kind, Space};
use super::likelihood::{FIRST_SLOT, Shown, Trial, of_seen, shows};
use super::suspect::Suspect;
use super::witness::{Relation, factor};

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
    summed(&after_runs(&Bench::new(case)))
}

/// Odds by suspect, most likely first; suspects of equal odds in a fixed order.
pub(super) fn summed(space: &Space) -> Vec<Odds> {
    let mut by_class = vec![0.0; space.classes.len()];
    space.all.iter().for_each(|hypothesis| by_class[usize::from(hypothesis.class)] += hypothesis.probability());
    let named = space.classes.iter().cloned().zip(by_class);
    let mut odds: Vec<Odds> = named.map(|(suspect, probability)| Odds { suspect, probability }).collect();
    odds.sort_by(|a, b| b.probability.total_cmp(&a.probability).then_with(|| a.suspect.cmp(&b.suspect)));
    odds
}

/// Slots that a map named, by fitting: what it named first in each.
pub(super) type Named = BTreeMap<Fit, u8>;

/// Hypotheses with their weights after all runs.
pub(super) fn after_runs(bench: &Bench<'_>) -> Space {
    let mut space = Space::new(bench);
    let mut named = Named::new();
    for (at, run) in bench.runs.iter().enumerate() {
        let before = at.checked_sub(1).map(|before| &bench.runs[before].fit);
        take(bench, &mut space, &mut named, before, run, at == bench.first);
    }
    // What was moved since the last run was touched too.
    if let (Some(last), Some(present)) = (bench.runs.last(), bench.present()) {
        touch(&mut space, &touched(bench, &last.fit, present, &[]));
    }
    space
}

/// Takes one more run: what was touched before it, what it showed, and what that has in common with earlier runs.
pub(super) fn take(
    bench: &Bench<'_>,
    space: &mut Space,
    named: &mut Named,
    before: Option<&Fit>,
    run: &BenchRun,
    first: bool,
) {
    take_in(bench, space, named, before, run, first);
    if !run.struck {
        compare(bench, space, &run.relations, &run.fit);
    }
}

/// What a run has in common with earlier ones.
pub(super) fn compare(bench: &Bench<'_>, space: &mut Space, relations: &[Relation], fit: &Fit) {
    if relations.is_empty() {
        return;
    }
    for hypothesis in &mut space.all {
        let witness = factor(bench, hypothesis, relations, fit);
        hypothesis.weight.iter_mut().for_each(|weight| *weight *= witness);
    }
    space.normalise();
}

/// What was touched before a run, and what it showed by itself.
pub(super) fn take_in(
    bench: &Bench<'_>,
    space: &mut Space,
    named: &mut Named,
    before: Option<&Fit>,
    run: &BenchRun,
    first: bool,
) {
    if let Some(before) = before {
        touch(space, &touched(bench, before, &run.fit, &run.reseat));
    }
    if run.struck {
        return;
    }
    let trial = Trial::new(bench, &run.fit, run.hours, run.passes, &run.reach).doubted(run.doubt);
    let before = named.get(&run.fit).copied();
    let shown = Shown {
        seen: run.seen,
        first_error: run.first_error,
        steady: run.steady,
        dark_before: run.dark_before,
        before,
        trial,
        first,
    };
    let mut out = std::array::from_fn(|_| vec![0.0; FIRST_SLOT + bench.slots.len()]);
    for hypothesis in &mut space.all {
        let likely = of_seen(bench, hypothesis, &shown, &mut out);
        hypothesis.weight.iter_mut().zip(likely).for_each(|(weight, likely)| *weight *= likely);
        settle(bench, hypothesis, &shown.trial, run.seen);
    }
    if let Seen::Slot(slot) = run.seen {
        named.entry(run.fit.clone()).or_insert(slot);
    }
    space.normalise();
}

pub(super) fn touched(bench: &Bench<'_>, before: &Fit, after: &Fit, reseat: &[u8]) -> Vec<u8> {
    let mut touched = bench.touched(before, after);
    touched.extend(reseat.iter().filter(|module| after.slot_of[usize::from(**module)].is_some()));
    touched
}

/// A touch cures most loose contacts.
pub(super) fn touch(space: &mut Space, touched: &[u8]) {
    for hypothesis in &mut space.all {
        hypothesis.loose = hypothesis.loose_after(touched);
    }
}

/// What a run says of whether a loose contact is still loose.
fn settle(bench: &Bench<'_>, hypothesis: &mut Hypothesis, trial: &Trial<'_>, seen: Seen) {
    let [part] = *hypothesis.parts() else { return };
    let Kind::Seat(module) = part.kind else { return };
    // That it starts says nothing of a contact that is loose.
    if trial.fit.slot_of[usize::from(module)].is_none() || seen == Seen::Starts {
        return;
    }
    let (loose, fails) = (hypothesis.loose, shows(bench, part, trial, 1.0));
    let stray = trial.stray;
    let (if_loose, if_cured) = match seen {
        Seen::Clean => (1.0 - fails, 1.0),
        _ => (fails + stray, stray),
    };
    let total = loose * if_loose + (1.0 - loose) * if_cured;
    if total > 0.0 {
        hypothesis.loose = loose * if_loose / total;
    }
}
