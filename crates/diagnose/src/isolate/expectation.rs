//! What can be expected of a run before anything failed: why it is this one, and how likely a bad module shows in it.

use super::fact::{Evidence, Load, RunFact};
use super::priors::Priors;

/// Why a run of this depth comes next while nothing failed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum WhyNext {
    /// The shortest run shows most faults.
    Shortest,
    /// The complaint comes under load, and the shortest run does not compute.
    UnderLoad,
    /// The complaint comes seldom, at rest or when warm: that takes time.
    TakesTime,
    /// The run before was clean; this one goes deeper.
    Deeper,
}

/// How long memory is under test.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Length {
    /// Passes over all of it.
    pub passes: f64,
    /// Hours.
    pub hours: f64,
}

impl Length {
    /// What clean runs come to together. Where the complaint comes under load, time without computing counts for a part.
    pub fn of_clean<'a>(runs: impl Iterator<Item = &'a RunFact>, under_load: bool, priors: &Priors) -> Self {
        let clean = runs.filter(|run| !run.struck && run.evidence == Evidence::Clean);
        clean.fold(Self::default(), |sum, run| {
            let share = if under_load && run.load == Load::Patterns { priors.runs.other_load } else { 1.0 };
            Self { passes: sum.passes + run.passes * share, hours: sum.hours + run.minutes / 60.0 * share }
        })
    }

    fn plus(self, other: Self) -> Self {
        Self { passes: self.passes + other.passes, hours: self.hours + other.hours }
    }
}

/// Probability, 0 to 1, that a module that is bad shows in a run of this length, given that it did not in what was run before: by the rates
/// that the odds start from.
pub fn chance_to_show(priors: &Priors, before: Length, run: Length) -> f64 {
    let stays = stays_hidden(priors, before);
    if stays > 0.0 { 1.0 - stays_hidden(priors, before.plus(run)) / stays } else { 0.0 }
}

/// Probability that a bad module does not show in so long.
fn stays_hidden(priors: &Priors, length: Length) -> f64 {
    let (weights, rates) = (&priors.weights, &priors.rates);
    let shares: f64 = rates.detect.iter().map(|[_, share]| share).sum();
    let by_pass = |[finds, share]: &[f64; 2]| share * (1.0 - finds).powf(length.passes);
    let hard = rates.detect.iter().map(by_pass).sum::<f64>() / shares.max(1e-9);
    let by_hour = |rate: &f64| (-rate * length.hours).exp();
    let seldom = rates.module.iter().map(by_hour).sum::<f64>() / rates.module.len().max(1) as f64;
    let all = weights.module_hard + weights.module_intermittent;
    (weights.module_hard * hard + weights.module_intermittent * seldom) / all.max(1e-9)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn length(passes: f64, hours: f64) -> Length {
        Length { passes, hours }
    }

    #[rstest]
    #[case::nothing(length(0.0, 0.0), length(0.0, 0.0), 0.0, 0.0)]
    #[case::one_short_pass(Length::default(), length(1.0, 0.1), 0.5, 0.75)]
    #[case::an_hour(Length::default(), length(6.0, 1.0), 0.8, 0.95)]
    #[case::a_night(Length::default(), length(50.0, 8.0), 0.95, 1.0)]
    #[case::after_an_hour_that_was_clean(length(6.0, 1.0), length(6.0, 1.0), 0.3, 0.6)]
    fn longer_runs_show_more(#[case] before: Length, #[case] run: Length, #[case] least: f64, #[case] most: f64) {
        let chance = chance_to_show(&Priors::default(), before, run);
        assert!((least..=most).contains(&chance), "{chance}");
    }

    #[test]
    fn time_without_computing_counts_for_a_part_where_the_complaint_comes_under_load() {
        let run = RunFact { load: Load::Patterns, ..RunFact::clean(vec![("A1".into(), "one".into())], 60.0, 4.0) };
        let failed = RunFact { evidence: Evidence::Dark, ..run.clone() };
        let started = RunFact { evidence: Evidence::Starts, ..run.clone() };
        let priors = Priors::default();
        let of = |under_load| Length::of_clean([&run, &failed, &started].into_iter(), under_load, &priors);
        assert_eq!((of(false), of(true)), (length(4.0, 1.0), length(1.0, 0.25)));
    }
}
