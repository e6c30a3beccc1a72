//! What a clean run is worth, in numbers and in plain words.
//!
//! Two clocks run beside each other. Hours: after T hours without an event the rate is below 2.996 / T with 95 %
//! confidence (the Poisson zero-event bound, −ln 0.05). Passes: after k clean passes the chance of a fault to show in
//! one pass is below 1 − 0.05^(1/k). Only the weaker claim of the two is made.

use revisum_engine::units::{count_text, duration_text};

/// −ln 0.05.
const ZERO_EVENTS_95: f64 = 2.995_732_273_553_991;

/// What was seen clean.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Worth {
    /// Passes in which every test finished.
    pub passes: u32,
    /// Seconds that those passes took.
    pub seconds: f64,
}

impl Worth {
    /// The shortest mean interval between events that is ruled out, in seconds: by hours, or by passes if that says less.
    pub fn ruled_out_interval_s(self) -> f64 {
        let by_hours = self.seconds / ZERO_EVENTS_95;
        let pass_s = self.seconds / f64::from(self.passes.max(1));
        by_hours.min(pass_s / self.per_pass_bound())
    }

    /// The largest chance of showing in one pass that is not ruled out, with 95 % confidence.
    pub fn per_pass_bound(self) -> f64 {
        1.0 - 0.05f64.powf(1.0 / f64::from(self.passes.max(1)))
    }

    /// The line that stands under every clean result.
    pub fn sentence(self) -> String {
        if self.passes == 0 {
            return "No test ran to its end, so nothing is ruled out.".to_owned();
        }
        format!(
            "No errors in {} ({} full pass{}). With 95 % confidence a fault that shows more often than about once in \
             {} is ruled out. A rarer one is not.",
            duration_text(self.seconds),
            count_text(u64::from(self.passes)),
            if self.passes == 1 { "" } else { "es" },
            duration_text(self.ruled_out_interval_s()),
        )
    }
}

/// Time without an event that shows with 95 % confidence that a change helped, after so many failures in so much running time; both in the
/// same unit. Under no change all failures fall into the first part of the whole time with a chance of (t / (t + clean))^n.
pub fn time_to_show_help(failures: u32, running: f64) -> f64 {
    running * (0.05f64.powf(-1.0 / f64::from(failures.max(1))) - 1.0)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::hours_are_weaker(19, 8.0 * 3600.0 + 600.0, "2 h 43 min")]
    #[case::one_pass(1, 100.0, "33 s")]
    #[case::three_hours_exclude_once_an_hour(30, 10_785.0, "1 h 00 min")]
    fn the_weaker_clock_is_claimed(#[case] passes: u32, #[case] seconds: f64, #[case] interval: &str) {
        let worth = Worth { passes, seconds };
        assert_eq!(duration_text(worth.ruled_out_interval_s()), interval);
        assert!(worth.sentence().contains(interval));
    }

    #[rstest]
    #[case(1, 0.95)]
    #[case(2, 0.776)]
    #[case(4, 0.527)]
    #[case(30, 0.095)]
    fn bound_of_clean_passes(#[case] passes: u32, #[case] bound: f64) {
        assert!((Worth { passes, seconds: 1.0 }.per_pass_bound() - bound).abs() < 0.001);
    }

    #[rstest]
    #[case(1, 19.0)]
    #[case(2, 3.47)]
    #[case(3, 1.71)]
    fn more_failures_make_a_cure_easier_to_show(#[case] failures: u32, #[case] times: f64) {
        assert!((time_to_show_help(failures, 1.0) - times).abs() < 0.01);
    }

    #[test]
    fn nothing_finished_claims_nothing() {
        assert!(Worth { passes: 0, seconds: 50.0 }.sentence().contains("nothing is ruled out"));
    }
}
