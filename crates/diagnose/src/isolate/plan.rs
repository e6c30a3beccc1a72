//! The next fitting to try, and when it is enough.

use super::bench::{Bench, BenchRun, Fit, Seen};
use super::candidates::Candidate;
use super::case::{Case, Experiment};
use super::cause::{Kind, Space};
use super::likelihood::{CLEAN, ERRORS, FIRST_SLOT};
use super::planner::{Choice, Planner, limited};
use super::posterior::{Odds, after_runs, summed, take};
use super::proof::{is_proved, missing, proof};
use super::suspect::Suspect;

/// Runs with errors before a part is blamed: one failure is never enough.
const LEAST_FAILURES: usize = 2;

/// Passes of the shortest run that proves anything.
const LEAST_PROOF: f64 = 1.0;

/// What an outcome of the proposed run would mean.
#[derive(Clone, Debug, PartialEq)]
pub struct Forecast {
    /// How likely it is, 0 to 1.
    pub probability: f64,
    /// Who would lead then.
    pub leader: Odds,
    /// Who else would become more likely than now, if anybody does by much.
    pub rises: Option<Odds>,
}

/// Why it is enough.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reason {
    /// The leader is named, and the rest ran clean without it.
    Confident,
    /// No further run would tell the remaining ones apart.
    Indistinguishable,
    /// Runs, hands or hours are used up.
    Budget,
}

/// A step, and what its outcomes would mean.
#[derive(Clone, Debug, PartialEq)]
pub struct Proposal {
    /// The fitting and its length.
    pub next: Experiment,
    /// It shall prove what is nearly certain already: the rest runs clean without the part.
    pub is_proof: bool,
    /// If it shows errors.
    pub if_errors: Forecast,
    /// If it is clean.
    pub if_clean: Forecast,
}

/// How a job stands.
#[derive(Clone, Debug, PartialEq)]
pub enum Verdict {
    /// No run with errors yet: nothing to look for.
    NothingToFind,
    /// No error is known of, or no part is to blame by what is known; but some of what was recorded is lost.
    NotWhole,
    /// Try this next.
    Open(Box<Proposal>),
    /// Nothing more to try.
    Done {
        /// The causes that together are as likely as it takes to be named, best first.
        named: Vec<Odds>,
        /// Why it is enough.
        reason: Reason,
    },
}

/// Odds and what to do.
#[derive(Clone, Debug, PartialEq)]
pub struct Advice {
    /// Most likely first.
    pub odds: Vec<Odds>,
    /// How it stands.
    pub verdict: Verdict,
    /// Other steps that would tell something, the best first.
    pub alternatives: Vec<Experiment>,
}

impl Advice {
    /// Who leads, while there is anything to look for.
    pub fn leader(&self) -> Option<&Suspect> {
        let looked_for = matches!(self.verdict, Verdict::Open(_) | Verdict::Done { .. });
        self.odds.first().filter(|_| looked_for).map(|odds| &odds.suspect)
    }
}

/// Alternatives that are offered.
const MOST_ALTERNATIVES: usize = 4;

/// Odds after all runs and the next step.
pub fn advise(case: &Case) -> Advice {
    let bench = Bench::new(case);
    let space = after_runs(&bench);
    let odds = summed(&space);
    let failed = case.runs.iter().any(|run| run.failed() && !run.struck);
    let (Some(leader), Some(present), true) = (odds.first(), bench.present(), failed) else {
        let verdict = if case.record_damaged { Verdict::NotWhole } else { Verdict::NothingToFind };
        return Advice { odds, verdict, alternatives: Vec::new() };
    };
    let done = |reason| Verdict::Done { named: smallest_set(&odds, case.priors.stop.at), reason };
    let sure = is_sure(&bench, leader);
    let proof = proof(&bench, &leader.suspect);
    // Where nothing can run without the part that is blamed there is no proof, and it is not named for certain.
    let proved = match &proof {
        Some(fit) => is_proved(&bench, &leader.suspect, fit),
        None => leader.suspect.modules().is_empty(),
    };
    if sure && proved && case.record_damaged && leader.suspect == Suspect::NoPart {
        return Advice { odds, verdict: Verdict::NotWhole, alternatives: Vec::new() };
    }
    if sure && proved {
        return Advice { verdict: done(Reason::Confident), odds, alternatives: Vec::new() };
    }
    if is_used_up(&bench) {
        return Advice { verdict: done(Reason::Budget), odds, alternatives: Vec::new() };
    }
    let planner = Planner::new(&bench, &space);
    let ranked = planner.ranked(&odds);
    let experiment =
        |choice: &Choice| bench.experiment(present, &choice.candidate.fit, &choice.candidate.reseat, choice.minutes);
    let alternatives = |skip: usize| ranked.iter().skip(skip).take(MOST_ALTERNATIVES).map(experiment).collect();
    if let Some(fit) = proof.filter(|_| sure) {
        let passes = missing(&bench, &leader.suspect, &fit).max(LEAST_PROOF);
        let minutes = limited(passes * bench.pass_minutes(&fit));
        let reseat = if leader.suspect == Suspect::NoPart { still_loose(&bench, &space, &fit) } else { Vec::new() };
        let choice = Choice { candidate: Candidate { fit, reseat }, minutes, bits: 0.0, worth: 0.0 };
        let verdict = Verdict::Open(Box::new(proposal(&bench, &space, &odds, &choice, true)));
        return Advice { verdict, alternatives: alternatives(0), odds };
    }
    match ranked.first().filter(|best| best.bits >= case.priors.stop.least_bits) {
        Some(best) => {
            let verdict = Verdict::Open(Box::new(proposal(&bench, &space, &odds, best, false)));
            Advice { verdict, alternatives: alternatives(1), odds }
        }
        None => Advice { verdict: done(Reason::Indistinguishable), odds, alternatives: Vec::new() },
    }
}

/// What the outcomes of one run would mean; nothing when it cannot be made.
pub fn forecast(case: &Case, next: &Experiment) -> Option<(Forecast, Forecast)> {
    let bench = Bench::new(case);
    let space = after_runs(&bench);
    let odds = summed(&space);
    let pairs = next.placement.iter().filter_map(|(slot, module)| Some((bench.slot(slot)?, bench.module(module)?)));
    let fit = bench.fit(pairs, bench.setting(&next.settings));
    let reseat = next.reseat.iter().filter_map(|module| bench.module(module)).collect();
    let present = (fit.count > 0).then(|| bench.present())?;
    present?;
    let choice = Choice { candidate: Candidate { fit, reseat }, minutes: next.minutes, bits: 0.0, worth: 0.0 };
    let told = proposal(&bench, &space, &odds, &choice, false);
    Some((told.if_errors, told.if_clean))
}

/// Causes that together reach this probability, best first.
fn smallest_set(odds: &[Odds], at: f64) -> Vec<Odds> {
    let mut sum = 0.0;
    let enough = |odds: &&Odds| {
        let more = sum < at;
        sum += odds.probability;
        more
    };
    odds.iter().take_while(enough).cloned().collect()
}

/// A leader is likely enough, known, no part is blamed after a single failure, and neither mainboard nor processor before modules were moved.
fn is_sure(bench: &Bench<'_>, leader: &Odds) -> bool {
    let failed = || bench.runs.iter().filter(|run| run.seen.failed() && !run.struck);
    // Errors that came again in a later pass, or without end, are a repeat of their own.
    let failures: usize = failed().map(|run| if run.steady == Some(true) { LEAST_FAILURES } else { 1 }).sum();
    let blames = !matches!(leader.suspect, Suspect::NoPart);
    let moved = || bench.original().is_some_and(|first| failed().any(|run| !bench.touched(first, &run.fit).is_empty()));
    leader.suspect != Suspect::Other
        && leader.probability >= bench.priors.stop.at
        && (!blames || failures >= LEAST_FAILURES)
        && (leader.suspect != Suspect::Controller || moved())
        && !is_maybe_a_pair(bench, &leader.suspect)
}

/// A module that fails in company, and one other module was there in every run that failed: it may be this pair alone.
fn is_maybe_a_pair(bench: &Bench<'_>, leader: &Suspect) -> bool {
    let Suspect::Combination(id) = leader else { return false };
    let Some(module) = bench.module(id).filter(|_| bench.original().is_some_and(|first| first.count > 2)) else {
        return false;
    };
    let failed = bench.runs.iter().filter(|run| run.seen.failed() && !run.struck);
    let company = failed.map(|run| {
        let fitted = (0u8..).zip(&run.fit.slot_of).filter(|(other, slot)| *other != module && slot.is_some());
        fitted.fold(0u32, |all, (other, _)| all | 1 << other)
    });
    company.fold(u32::MAX, |common, own| common & own).count_ones() == 1
}

/// The module that sits badly and was not touched since it last failed: running again without touching it would prove nothing.
fn still_loose(bench: &Bench<'_>, space: &Space, fit: &Fit) -> Vec<u8> {
    let failed = bench.runs.iter().rfind(|run| !run.struck).is_some_and(|run| run.seen.failed());
    let untouched = bench.present().is_some_and(|present| bench.touched(present, fit).is_empty());
    if !(failed && untouched) {
        return Vec::new();
    }
    let seats = space.all.iter().filter_map(|hypothesis| match hypothesis.parts() {
        [part] => match part.kind {
            Kind::Seat(module) if fit.slot_of[usize::from(module)].is_some() => {
                Some((module, hypothesis.probability() * hypothesis.loose))
            }
            _ => None,
        },
        _ => None,
    });
    seats.max_by(|a, b| a.1.total_cmp(&b.1)).map(|(module, _)| module).into_iter().collect()
}

fn is_used_up(bench: &Bench<'_>) -> bool {
    let stop = &bench.priors.stop;
    let hands: f64 =
        bench.runs[bench.first..].windows(2).map(|pair| bench.hands(&pair[0].fit, &pair[1].fit, &pair[1].reseat)).sum();
    let hours: f64 = bench.runs.iter().map(|run| run.hours).sum();
    bench.runs.len() >= stop.runs || hands >= stop.hands_minutes || hours >= stop.machine_hours
}

/// The step with what its outcomes would mean.
fn proposal(bench: &Bench<'_>, space: &Space, odds: &[Odds], choice: &Choice, is_proof: bool) -> Proposal {
    let (candidate, minutes) = (&choice.candidate, choice.minutes);
    let present = bench.present().unwrap_or(&candidate.fit);
    let passes = minutes / bench.pass_minutes(&candidate.fit);
    let planner = Planner::new(bench, space);
    let chances = planner.chances(candidate, present, minutes, passes);
    let after = |seen: Seen| {
        let run = BenchRun {
            fit: candidate.fit.clone(),
            reseat: candidate.reseat.clone(),
            hours: minutes / 60.0,
            passes,
            seen,
            struck: false,
            doubt: 0.0,
            first_error: None,
            steady: None,
            reach: bench.reach(&candidate.fit),
            dark_before: false,
            relations: Vec::new(),
        };
        let (mut space, mut named) = (space.clone(), planner.named.clone());
        take(bench, &mut space, &mut named, Some(present), &run, false);
        summed(&space)
    };
    let likeliest = (ERRORS..chances.len()).max_by(|a, b| chances[*a].total_cmp(&chances[*b])).unwrap_or(ERRORS);
    let seen = match likeliest {
        at if at >= FIRST_SLOT => Seen::Slot((at - FIRST_SLOT) as u8),
        _ => Seen::Errors,
    };
    let clean = told(odds, &after(Seen::Clean), chances[CLEAN]);
    let errors = told(odds, &after(seen), 1.0 - chances[CLEAN]);
    let next = bench.experiment(present, &candidate.fit, &candidate.reseat, minutes);
    Proposal { next, is_proof, if_errors: errors, if_clean: clean }
}

/// A cause that becomes this much likelier is said to rise.
const RISES: f64 = 0.05;

fn told(before: &[Odds], after: &[Odds], probability: f64) -> Forecast {
    let was =
        |suspect: &Suspect| before.iter().find(|odds| odds.suspect == *suspect).map_or(0.0, |odds| odds.probability);
    let leader = after[0].clone();
    let rise = |odds: &&Odds| odds.probability - was(&odds.suspect);
    let rises =
        after[1..].iter().max_by(|a, b| rise(a).total_cmp(&rise(b))).filter(|odds| rise(odds) >= RISES).cloned();
    Forecast { probability, leader, rises }
}
