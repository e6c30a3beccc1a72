//! The next fitting to try: the one that tells most for the minutes it costs; and when it is enough.

use super::bench::{Bench, BenchRun, Fit, Seen};
use super::candidates::{Candidate, candidates};
use super::case::{Case, Experiment, Suspect};
use super::cause::Space;
use super::likelihood::{CLEAN, ERRORS, FIRST_SLOT, Trial, is_placed, outcomes};
use super::posterior::{Named, Odds, after_runs, loose_after, summed, take, touched};

/// Runs with errors before a part is blamed: one failure is never enough.
const LEAST_FAILURES: usize = 2;
/// Hypotheses below this are left out of planning.
const NEGLIGIBLE: f64 = 2e-4;
/// Passes of a run that is tried.
const PASSES: [f64; 4] = [1.0, 2.0, 4.0, 8.0];
/// Longer runs, in minutes, for what shows rarely; where passes are short there is much between eight of them and a night.
const LONG: [f64; 3] = [30.0, 120.0, 480.0];
/// Suspects whose proof is thought of ahead.
const LIKELY: usize = 6;
/// Fittings for which every length is weighed.
const WEIGHED: usize = 6;
/// Shortest and longest run in minutes.
const LEAST_MINUTES: f64 = 1.0;
const MOST_MINUTES: f64 = 1440.0;

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
    let sure = is_sure(case, leader);
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
        let minutes = limited(case.priors.stop.proof_passes * bench.pass_minutes(&fit));
        let choice = Choice { candidate: Candidate { fit, reseat: Vec::new() }, minutes, bits: 0.0, worth: 0.0 };
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

/// A leader is likely enough, known, and no part is blamed after a single failure.
fn is_sure(case: &Case, leader: &Odds) -> bool {
    let failures = case.runs.iter().filter(|run| run.failed() && !run.struck).count();
    let blames = !matches!(leader.suspect, Suspect::NoPart);
    leader.suspect != Suspect::Other
        && leader.probability >= case.priors.stop.at
        && (!blames || failures >= LEAST_FAILURES)
}

/// The fitting that has to run clean before a clear leader is named: everything but the leader, where it was at first.
fn proof(bench: &Bench<'_>, leader: &Suspect) -> Option<Fit> {
    let original = bench.original()?;
    let mut setting = original.setting;
    let mut pairs: Vec<(u8, u8)> =
        (0u8..).zip(&original.module_in).filter_map(|(slot, module)| Some((slot, (*module)?))).collect();
    match leader {
        Suspect::Settings => setting = bench.stock()?,
        Suspect::NoPart => {}
        Suspect::Pair(_, second) => pairs.retain(|(_, module)| bench.module(second) != Some(*module)),
        Suspect::Controller | Suspect::Other => return None,
        _ => {
            let bad: Vec<u8> = leader.modules().into_iter().filter_map(|module| bench.module(module)).collect();
            pairs.retain(|(_, module)| !bad.contains(module));
        }
    }
    if let Some(bad) = leader.slot().and_then(|slot| bench.slot(slot)) {
        let free =
            (0..bench.slots.len() as u8).find(|slot| *slot != bad && !pairs.iter().any(|(used, _)| used == slot));
        match free {
            Some(free) => pairs.iter_mut().filter(|(slot, _)| *slot == bad).for_each(|(slot, _)| *slot = free),
            None => pairs.retain(|(slot, _)| *slot != bad),
        }
    }
    // A single module has nothing left without it; a known-good one can stand in.
    if pairs.is_empty() {
        let good = (0..bench.modules.len() as u8).find(|module| bench.known_good[usize::from(*module)])?;
        let slot = original.module_in.iter().position(Option::is_some)? as u8;
        pairs.push((slot, good));
    }
    let fit = bench.fit(pairs, setting);
    let moves_soldered = (0u8..)
        .zip(&bench.soldered)
        .any(|(slot, soldered)| *soldered && original.module_in[usize::from(slot)] != fit.module_in[usize::from(slot)]);
    (!moves_soldered).then_some(fit)
}

/// Whether all that stays ran clean for long enough without the leader in play.
fn is_proved(bench: &Bench<'_>, leader: &Suspect, proof: &Fit) -> bool {
    let clean =
        |run: &&BenchRun| run.seen == Seen::Clean && !run.struck && run.passes + 1e-6 >= bench.priors.stop.proof_passes;
    bench.runs.iter().filter(clean).any(|run| proves(bench, leader, proof, &run.fit))
}

/// Whether a clean run of this fitting proves as much as the proof that is thought of.
fn proves(bench: &Bench<'_>, leader: &Suspect, proof: &Fit, fit: &Fit) -> bool {
    let fitted = |id: &str| bench.module(id).is_some_and(|module| fit.slot_of[usize::from(module)].is_some());
    let without = match leader {
        Suspect::Pair(a, b) => !(fitted(a) && fitted(b)),
        Suspect::NoPart => fit.module_in == proof.module_in,
        _ => {
            let slot = leader.slot().and_then(|slot| bench.slot(slot));
            !leader.modules().into_iter().any(fitted)
                && slot.is_none_or(|slot| fit.module_in[usize::from(slot)].is_none())
        }
    };
    let holds_all = fit.channels >= proof.channels
        && proof.slot_of.iter().zip(&fit.slot_of).all(|(wanted, held)| wanted.is_none() || held.is_some());
    // Stock settings prove nothing of a machine that runs with a profile.
    fit.setting == proof.setting && holds_all && without
}

fn is_used_up(bench: &Bench<'_>) -> bool {
    let stop = &bench.priors.stop;
    let hands: f64 =
        bench.runs[bench.first..].windows(2).map(|pair| bench.hands(&pair[0].fit, &pair[1].fit, &pair[1].reseat)).sum();
    let hours: f64 = bench.runs.iter().map(|run| run.hours).sum();
    bench.runs.len() >= stop.runs || hands >= stop.hands_minutes || hours >= stop.machine_hours
}

fn limited(minutes: f64) -> f64 {
    minutes.clamp(LEAST_MINUTES, MOST_MINUTES)
}

/// A fitting with a length, and what it is worth.
#[derive(Clone, Debug)]
struct Choice {
    candidate: Candidate,
    minutes: f64,
    bits: f64,
    worth: f64,
}

struct Planner<'a> {
    bench: &'a Bench<'a>,
    /// Hypotheses that matter.
    space: Space,
    named: Named,
    /// For the likeliest suspects: what would prove them, and how likely they are.
    proofs: Vec<(Suspect, Fit, f64)>,
}

impl<'a> Planner<'a> {
    fn new(bench: &'a Bench<'a>, space: &Space) -> Self {
        let mut space = space.clone();
        space.all.retain(|hypothesis| hypothesis.probability() >= NEGLIGIBLE);
        space.normalise();
        let mut named = Named::new();
        for run in bench.runs.iter().filter(|run| !run.struck) {
            if let Seen::Slot(slot) = run.seen {
                named.entry(run.fit.clone()).or_insert(slot);
            }
        }
        let likely = summed(&space).into_iter().take(LIKELY);
        let proofs = likely
            .filter_map(|odds| Some((proof(bench, &odds.suspect)?, odds)))
            .filter(|(fit, odds)| !is_proved(bench, &odds.suspect, fit))
            .map(|(fit, odds)| (odds.suspect, fit, odds.probability));
        Self { bench, space, named, proofs: proofs.collect() }
    }

    /// Steps in the order of what they tell for what they cost.
    fn ranked(&self, odds: &[Odds]) -> Vec<Choice> {
        // What shows rarely is worth nothing in a short run: each fitting is tried short and long.
        let tried = |candidate: Candidate| {
            let pass = self.bench.pass_minutes(&candidate.fit);
            let lengths = [2.0 * pass, (8.0 * pass).max(LONG[1])].map(limited);
            let both = lengths.into_iter().filter_map(|minutes| self.choice(candidate.clone(), minutes));
            both.max_by(|a, b| a.worth.total_cmp(&b.worth))
        };
        let mut first: Vec<Choice> = candidates(self.bench, odds).into_iter().filter_map(tried).collect();
        first.sort_by(|a, b| b.worth.total_cmp(&a.worth));
        let mut chosen: Vec<Candidate> = first.iter().take(WEIGHED).map(|choice| choice.candidate.clone()).collect();
        let present = self.bench.present();
        chosen.extend(first.iter().map(|choice| &choice.candidate).filter(|one| Some(&one.fit) == present).cloned());
        chosen.extend(self.bench.original().map(|fit| Candidate { fit: fit.clone(), reseat: Vec::new() }));
        let mut all: Vec<Choice> = Vec::new();
        for candidate in chosen {
            let pass = self.bench.pass_minutes(&candidate.fit);
            let lengths = PASSES
                .map(|passes| passes * pass)
                .into_iter()
                .chain(LONG.into_iter().filter(|minutes| *minutes > 8.0 * pass || *minutes == LONG[2]));
            let best = lengths.filter_map(|minutes| self.choice(candidate.clone(), limited(minutes)));
            let best = best.max_by(|a, b| a.worth.total_cmp(&b.worth));
            all.extend(best.filter(|best| !all.iter().any(|known| known.candidate == best.candidate)));
        }
        all.sort_by(|a, b| b.worth.total_cmp(&a.worth));
        all
    }

    fn choice(&self, candidate: Candidate, minutes: f64) -> Option<Choice> {
        let present = self.bench.present()?;
        let pass = self.bench.pass_minutes(&candidate.fit);
        let bits = self.bits(&candidate, present, minutes, minutes / pass);
        let cost = &self.bench.priors.cost;
        let hands = self.bench.hands(present, &candidate.fit, &candidate.reseat);
        let machine = cost.machine_weight * minutes.min(cost.long_after)
            + cost.long_weight * (minutes - cost.long_after).max(0.0);
        let saved = self.saved(&candidate.fit, minutes / pass);
        let worth = bits / (hands + machine + cost.boot_machine + cost.step - saved).max(cost.step);
        Some(Choice { candidate, minutes, bits, worth })
    }

    /// Minutes that are saved later when this run is clean and proves the rest: a run is made twice only where it must be.
    fn saved(&self, fit: &Fit, passes: f64) -> f64 {
        let cost = &self.bench.priors.cost;
        let proves = |(suspect, proof, _): &&(Suspect, Fit, f64)| {
            passes + 1e-6 >= self.bench.priors.stop.proof_passes && proves(self.bench, suspect, proof, fit)
        };
        let each = |fit: &Fit| {
            let machine = cost.machine_weight * self.bench.priors.stop.proof_passes * self.bench.pass_minutes(fit);
            cost.change_base + cost.per_module_touched + cost.boot_machine + cost.step + machine
        };
        self.proofs.iter().filter(proves).map(|(_, proof, probability)| probability * each(proof)).sum()
    }

    /// Expected information about the suspects, in bits: how much outcome and suspect have in common (Shannon, 1948).
    fn bits(&self, candidate: &Candidate, present: &Fit, minutes: f64, passes: f64) -> f64 {
        let (bench, space) = (self.bench, &self.space);
        let touched = touched(bench, present, &candidate.fit, &candidate.reseat);
        let trial = Trial::new(bench, &candidate.fit, minutes / 60.0, passes);
        let before = self.named.get(&candidate.fit).copied();
        let kinds = if is_placed(bench, &candidate.fit) { FIRST_SLOT + bench.slots.len() } else { ERRORS + 1 };
        let mut out = [vec![0.0; FIRST_SLOT + bench.slots.len()], vec![0.0; FIRST_SLOT + bench.slots.len()]];
        let mut joint = vec![0.0; space.classes.len() * kinds];
        for hypothesis in &space.all {
            let loose = loose_after(hypothesis, &touched);
            outcomes(bench, hypothesis, trial, false, loose, before, &mut out);
            let row = &mut joint[usize::from(hypothesis.class) * kinds..][..kinds];
            let [right, wrong] = hypothesis.weight;
            row.iter_mut().zip(&out[0]).zip(&out[1]).for_each(|((sum, by_right), by_wrong)| {
                *sum += right * by_right + wrong * by_wrong;
            });
        }
        let mut of_outcome = vec![0.0; kinds];
        let mut bits = 0.0;
        for row in joint.chunks(kinds) {
            let of_class: f64 = row.iter().sum();
            bits -= plogp(of_class);
            bits += row.iter().map(|joint| plogp(*joint)).sum::<f64>();
            of_outcome.iter_mut().zip(row).for_each(|(sum, joint)| *sum += joint);
        }
        bits - of_outcome.iter().map(|probability| plogp(*probability)).sum::<f64>()
    }
}

fn plogp(probability: f64) -> f64 {
    if probability > 0.0 { probability * probability.log2() } else { 0.0 }
}

/// The step with what its outcomes would mean.
fn proposal(bench: &Bench<'_>, space: &Space, odds: &[Odds], choice: &Choice, is_proof: bool) -> Proposal {
    let (candidate, minutes) = (&choice.candidate, choice.minutes);
    let present = bench.present().unwrap_or(&candidate.fit);
    let passes = minutes / bench.pass_minutes(&candidate.fit);
    let planner = Planner { space: space.clone(), ..Planner::new(bench, space) };
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

impl Planner<'_> {
    fn chances(&self, candidate: &Candidate, present: &Fit, minutes: f64, passes: f64) -> Vec<f64> {
        let bench = self.bench;
        let touched = touched(bench, present, &candidate.fit, &candidate.reseat);
        let trial = Trial::new(bench, &candidate.fit, minutes / 60.0, passes);
        let before = self.named.get(&candidate.fit).copied();
        let room = FIRST_SLOT + bench.slots.len();
        let mut out = [vec![0.0; room], vec![0.0; room]];
        let mut chances = vec![0.0; room];
        for hypothesis in &self.space.all {
            outcomes(bench, hypothesis, trial, false, loose_after(hypothesis, &touched), before, &mut out);
            for (at, chance) in chances.iter_mut().enumerate() {
                *chance += hypothesis.weight[0] * out[0][at] + hypothesis.weight[1] * out[1][at];
            }
        }
        chances
    }
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
