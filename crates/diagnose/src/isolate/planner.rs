//! Which step tells most for the minutes it costs.

use super::bench::{Bench, Fit, Seen};
use super::candidates::{Candidate, candidates};
use super::cause::Space;
use super::likelihood::{CLEAN, FIRST_SLOT, Joint, Trial, joint};
use super::posterior::{Named, Odds, summed, touched};
use super::proof::{missing, proof, proves};
use super::suspect::Suspect;

/// Hypotheses below this are left out of planning, and out of the first look at all fittings.
const NEGLIGIBLE: f64 = 2e-4;
const NEGLIGIBLE_AT_FIRST: f64 = 1e-3;
/// Passes of a run that is tried.
const PASSES: [f64; 4] = [1.0, 2.0, 4.0, 8.0];
/// Longer runs, in minutes, for what shows rarely; where passes are short there is much between eight of them and a night.
const LONG: [f64; 4] = [30.0, 60.0, 120.0, 480.0];
/// Suspects whose proof is thought of ahead.
const LIKELY: usize = 6;
/// Fittings for which every length is weighed.
const WEIGHED: usize = 14;
/// A shorter run is preferred that tells this part of what the best one tells.
const SEPARATES: f64 = 0.75;
/// Shortest and longest run in minutes.
const LEAST_MINUTES: f64 = 1.0;
const MOST_MINUTES: f64 = 1440.0;

/// A length that can be run.
pub(super) fn limited(minutes: f64) -> f64 {
    minutes.clamp(LEAST_MINUTES, MOST_MINUTES)
}

/// A fitting with a length, and what it is worth.
#[derive(Clone, Debug)]
pub(super) struct Choice {
    pub candidate: Candidate,
    pub minutes: f64,
    pub bits: f64,
    pub worth: f64,
}

/// What would prove a suspect.
struct Ahead {
    suspect: Suspect,
    fit: Fit,
    probability: f64,
    /// Passes that are still to be run clean.
    missing: f64,
}

/// What is weighed for the next step.
pub(super) struct Planner<'a> {
    bench: &'a Bench<'a>,
    /// Hypotheses that matter, and the fewer of them that a first look takes.
    space: Space,
    at_first: Space,
    pub named: Named,
    /// The machine never ran so far.
    only_dark: bool,
    /// For the likeliest suspects what would prove them.
    proofs: Vec<Ahead>,
}

impl<'a> Planner<'a> {
    pub fn new(bench: &'a Bench<'a>, space: &Space) -> Self {
        let space = space.without_unlikely(NEGLIGIBLE);
        let at_first = space.without_unlikely(NEGLIGIBLE_AT_FIRST);
        let mut named = Named::new();
        for run in bench.runs.iter().filter(|run| !run.struck) {
            if let Seen::Slot(slot) = run.seen {
                named.entry(run.fit.clone()).or_insert(slot);
            }
        }
        let likely = summed(&space).into_iter().take(LIKELY);
        let proofs = likely
            .filter_map(|odds| Some((proof(bench, &odds.suspect)?, odds)))
            .map(|(fit, odds)| Ahead {
                missing: missing(bench, &odds.suspect, &fit),
                suspect: odds.suspect,
                fit,
                probability: odds.probability,
            })
            .filter(|ahead| ahead.missing > 0.0);
        let only_dark = Self::only_dark(bench);
        Self { bench, space, at_first, named, only_dark, proofs: proofs.collect() }
    }

    /// Steps in the order of what they tell for what they cost; those that take longer than an hour after all that tell something in less.
    pub fn ranked(&self, odds: &[Odds]) -> Vec<Choice> {
        // What shows rarely is worth nothing in a short run: each fitting is tried short and long.
        let tried = |candidate: Candidate| {
            let pass = self.bench.pass_minutes(&candidate.fit);
            let lengths = [2.0 * pass, (8.0 * pass).max(LONG[2])].map(limited);
            let both = lengths[..if self.only_dark { 1 } else { 2 }]
                .iter()
                .filter_map(|minutes| self.choice(&self.at_first, candidate.clone(), *minutes));
            both.max_by(|a, b| a.worth.total_cmp(&b.worth))
        };
        let runs = |candidate: &Candidate| !candidate.reseat.is_empty() || !self.stayed_dark(&candidate.fit);
        let mut first: Vec<Choice> = candidates(self.bench, odds).into_iter().filter(runs).filter_map(tried).collect();
        first.sort_by(|a, b| b.worth.total_cmp(&a.worth));
        let mut chosen: Vec<Candidate> = first.iter().take(WEIGHED).map(|choice| choice.candidate.clone()).collect();
        let present = self.bench.present();
        chosen.extend(first.iter().map(|choice| &choice.candidate).filter(|one| Some(&one.fit) == present).cloned());
        let original = self.bench.original().filter(|fit| !self.stayed_dark(fit));
        chosen.extend(original.map(|fit| Candidate { fit: fit.clone(), reseat: Vec::new() }));
        let mut all: Vec<Choice> = Vec::new();
        for candidate in chosen {
            let best = self.best_length(&candidate);
            all.extend(best.filter(|best| !all.iter().any(|known| known.candidate == best.candidate)));
        }
        let most = all.iter().map(|one| one.bits).fold(0.0, f64::max);
        all.sort_by(|a, b| {
            let soon = |one: &Choice| self.tells_soon(one, most);
            soon(b).cmp(&soon(a)).then(b.worth.total_cmp(&a.worth))
        });
        all
    }

    /// Whether the machine never ran so far: it is plain at once whether it starts in another arrangement. Once it did, what else is wrong takes
    /// its time to show.
    fn only_dark(bench: &Bench<'_>) -> bool {
        let mut counting = bench.runs.iter().filter(|run| !run.struck).peekable();
        counting.peek().is_some() && counting.all(|run| matches!(run.seen, Seen::Dark | Seen::Starts))
    }

    /// Whether the machine did not start when it was fitted so last: nothing can be run then.
    fn stayed_dark(&self, fit: &Fit) -> bool {
        let last = self.bench.runs.iter().rfind(|run| !run.struck && run.fit == *fit);
        last.is_some_and(|run| run.seen == Seen::Dark)
    }

    /// A run of an hour at most that tells half as much as the one that tells most.
    fn tells_soon(&self, one: &Choice, most: f64) -> bool {
        let stop = &self.bench.priors.stop;
        one.minutes <= stop.short_minutes + 1e-6 && one.bits >= stop.least_bits.max(SEPARATES * most)
    }

    /// The length that is worth most; none above an hour where a shorter one tells something.
    fn best_length(&self, candidate: &Candidate) -> Option<Choice> {
        let pass = self.bench.pass_minutes(&candidate.fit);
        if self.only_dark {
            return self.choice(&self.space, candidate.clone(), limited(PASSES[1] * pass));
        }
        let lengths = PASSES
            .map(|passes| passes * pass)
            .into_iter()
            .chain(LONG.into_iter().filter(|minutes| *minutes > 8.0 * pass || *minutes >= LONG[3]));
        let all: Vec<Choice> =
            lengths.filter_map(|minutes| self.choice(&self.space, candidate.clone(), limited(minutes))).collect();
        let most = all.iter().map(|one| one.bits).fold(0.0, f64::max);
        let short = |one: &&Choice| self.tells_soon(one, most);
        let best = |a: &&Choice, b: &&Choice| a.worth.total_cmp(&b.worth);
        all.iter().filter(short).max_by(best).or_else(|| all.iter().max_by(best)).cloned()
    }

    fn choice(&self, space: &Space, candidate: Candidate, minutes: f64) -> Option<Choice> {
        let present = self.bench.present()?;
        let pass = self.bench.pass_minutes(&candidate.fit);
        let (bits, clean) = self.bits(space, &candidate, present, minutes, minutes / pass);
        let cost = &self.bench.priors.cost;
        let hands = self.bench.hands(present, &candidate.fit, &candidate.reseat);
        // A run ends at its first error: what fails costs less of the machine's time.
        let expected = clean * minutes + (1.0 - clean) * (0.5 * minutes).min(pass);
        let machine = cost.machine_weight * expected.min(cost.long_after)
            + cost.long_weight * (expected - cost.long_after).max(0.0);
        let saved = self.saved(&candidate.fit, minutes / pass);
        let worth = bits / (cost.hands_weight * hands + machine + cost.boot_machine + cost.step - saved).max(cost.step);
        Some(Choice { candidate, minutes, bits, worth })
    }

    /// Minutes that are saved later when this run is clean and proves the rest, or a part of it: a run is made twice only where it must be.
    fn saved(&self, fit: &Fit, passes: f64) -> f64 {
        let cost = &self.bench.priors.cost;
        let proves = |ahead: &&Ahead| proves(self.bench, &ahead.suspect, &ahead.fit, fit);
        let each = |ahead: &Ahead| {
            let minute = cost.machine_weight * self.bench.pass_minutes(&ahead.fit);
            let hands = cost.change_base + cost.per_module_touched;
            let whole = cost.hands_weight * hands + cost.boot_machine + cost.step;
            let done = passes + 1e-6 >= ahead.missing;
            ahead.probability * (minute * passes.min(ahead.missing) + if done { whole } else { 0.0 })
        };
        self.proofs.iter().filter(proves).map(each).sum()
    }

    /// Expected information about the suspects, in bits: how much outcome and suspect have in common (Shannon, 1948); and the probability of
    /// a clean run.
    fn bits(&self, space: &Space, candidate: &Candidate, present: &Fit, minutes: f64, passes: f64) -> (f64, f64) {
        let Joint { rows, kinds } = self.joint(space, candidate, present, minutes, passes);
        let mut of_outcome = vec![0.0; kinds];
        let mut bits = 0.0;
        for row in rows.chunks(kinds) {
            let of_class: f64 = row.iter().sum();
            bits -= plogp(of_class);
            bits += row.iter().map(|joint| plogp(*joint)).sum::<f64>();
            of_outcome.iter_mut().zip(row).for_each(|(sum, joint)| *sum += joint);
        }
        (bits - of_outcome.iter().map(|probability| plogp(*probability)).sum::<f64>(), of_outcome[CLEAN])
    }

    /// The probability of every outcome of a step, with room for all of them.
    pub fn chances(&self, candidate: &Candidate, present: &Fit, minutes: f64, passes: f64) -> Vec<f64> {
        let Joint { rows, kinds } = self.joint(&self.space, candidate, present, minutes, passes);
        let mut chances = vec![0.0; FIRST_SLOT + self.bench.slots.len()];
        for row in rows.chunks(kinds) {
            chances.iter_mut().zip(row).for_each(|(sum, joint)| *sum += joint);
        }
        chances
    }

    fn joint(&self, space: &Space, candidate: &Candidate, present: &Fit, minutes: f64, passes: f64) -> Joint {
        let bench = self.bench;
        let touched = touched(bench, present, &candidate.fit, &candidate.reseat);
        let reach = bench.reach(&candidate.fit);
        let trial = Trial::new(bench, &candidate.fit, minutes / 60.0, passes, &reach);
        let before = self.named.get(&candidate.fit).copied();
        joint(bench, space, &trial, &touched, before)
    }
}

fn plogp(probability: f64) -> f64 {
    if probability > 0.0 { probability * probability.log2() } else { 0.0 }
}
