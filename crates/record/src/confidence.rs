//! What clean running is worth, and when it shows that a change helped, in numbers.
//!
//! Two kinds of faults are ruled out, each with 95 % confidence. Those that come at random moments: after T seconds without one the rate is
//! below 2.996 / T (the Poisson zero-event bound, −ln 0.05). Those that show, or do not, in a pass as a whole, however often then: after k clean
//! passes their chance is below 1 − 0.05^(1/k). One says nothing of the other: a fault that comes in bursts is quiet for longer than its mean
//! interval, and one pass of any length rules out only what shows in nearly every pass.
//!
//! That a change helped is judged by the time before it: were nothing changed, all n failures would fall into the first t of t + c with a chance
//! of (t / (t + c))^n (the conditional test of two Poisson rates; Przyborowski and Wilenski, Biometrika 31, 1940). A job exists only because
//! something failed, so failures are more frequent before a change by selection alone: with one failure that cannot be told from luck, and nothing
//! is claimed; with more the test is made at [`HELP_LEVEL`], which keeps wrong claims below 5 % of such jobs (`simulated` in this file's tests).

/// −ln 0.05.
const ZERO_EVENTS_95: f64 = 2.995_732_273_553_991;
/// Below this many seconds nothing is claimed.
const LEAST_SECONDS: f64 = 60.0;
/// Chance at which a change counts as shown to help.
const HELP_LEVEL: f64 = 0.035;
/// With fewer failures before a change nothing shows that it helped.
const LEAST_FAILURES: u32 = 2;

/// What was seen clean.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Worth {
    /// Passes in which every test finished.
    pub passes: u32,
    /// Seconds that those passes took.
    pub seconds: f64,
}

impl Worth {
    /// With what another run of the same kind was worth.
    #[must_use]
    pub fn plus(self, other: Self) -> Self {
        Self { passes: self.passes.saturating_add(other.passes), seconds: self.seconds + other.seconds }
    }

    /// Whether it rules anything out.
    pub fn rules_out(self) -> bool {
        self.passes > 0 && self.seconds >= LEAST_SECONDS
    }

    /// Faults that come at random moments are ruled out when their mean interval is shorter than this, in seconds.
    pub fn interval_s(self) -> f64 {
        self.seconds / ZERO_EVENTS_95
    }

    /// Faults that show in more than this share of passes are ruled out.
    pub fn share_of_passes(self) -> f64 {
        1.0 - 0.05f64.powf(1.0 / f64::from(self.passes.max(1)))
    }

    /// That share in whole percent, rounded so that no more is claimed than holds.
    pub fn percent_of_passes(self) -> f64 {
        (self.share_of_passes() * 100.0 - 1e-9).ceil()
    }
}

/// Running before a change, fitted and set as it failed.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Before {
    /// Runs that failed.
    pub failures: u32,
    /// Seconds that all such runs really took, clean ones among them.
    pub seconds: f64,
}

impl Before {
    /// Seconds without an error that show that a change helped; nothing where no clean time could show it.
    pub fn clean_to_show_help(self) -> Option<f64> {
        let enough = self.failures >= LEAST_FAILURES && self.seconds > 0.0;
        enough.then(|| self.seconds * (HELP_LEVEL.powf(-1.0 / f64::from(self.failures)) - 1.0))
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_engine::pattern::pass_seed;
    use revisum_engine::units::duration_text;

    #[rstest]
    #[case::a_night(19, 8.0 * 3600.0 + 600.0, "2 h 43 min", 15.0)]
    #[case::one_pass(1, 100.0, "33 s", 95.0)]
    #[case::three_hours_exclude_once_an_hour(30, 10_785.0, "1 h 00 min", 10.0)]
    #[case::four_passes(4, 600.0, "3 min 20 s", 53.0)]
    fn both_claims_are_made(#[case] passes: u32, #[case] seconds: f64, #[case] interval: &str, #[case] percent: f64) {
        let worth = Worth { passes, seconds };
        assert_eq!(duration_text(worth.interval_s()), interval);
        assert_eq!(worth.percent_of_passes(), percent);
    }

    #[rstest]
    #[case::no_pass(0, 1e6, false)]
    #[case::less_than_a_minute(9, 59.0, false)]
    #[case::both(1, 60.0, true)]
    fn below_the_floor_nothing_is_ruled_out(#[case] passes: u32, #[case] seconds: f64, #[case] rules_out: bool) {
        assert_eq!(Worth { passes, seconds }.rules_out(), rules_out);
    }

    #[rstest]
    #[case(1, None)]
    #[case(2, Some(4.35))]
    #[case(3, Some(2.06))]
    #[case(6, Some(0.75))]
    fn more_failures_make_a_cure_easier_to_show(#[case] failures: u32, #[case] times: Option<f64>) {
        let found = Before { failures, seconds: 1.0 }.clean_to_show_help();
        assert_eq!(found.map(|found| (found * 100.0).round() / 100.0), times);
    }

    /// Runs that are simulated for each case.
    const RUNS: u32 = 10_000;

    #[derive(Default)]
    struct Chance(u32);

    impl Chance {
        /// Above 0 and up to 1.
        fn unit(&mut self) -> f64 {
            self.0 += 1;
            ((pass_seed(0x5eed, self.0) >> 11) + 1) as f64 / (1u64 << 53) as f64
        }

        /// Seconds until the next of events that come every so many seconds at random.
        fn wait(&mut self, mean_s: f64) -> f64 {
            -self.unit().ln() * mean_s
        }
    }

    /// The upper end of the 95 % interval of a share that was wrong so often (Wilson, 1927).
    fn upper(wrong: u32, of: u32) -> f64 {
        let (n, p, z) = (f64::from(of), f64::from(wrong) / f64::from(of), 1.96);
        (p + z * z / (2.0 * n) + z * (p * (1.0 - p) / n + z * z / (4.0 * n * n)).sqrt()) / (1.0 + z * z / n)
    }

    /// Faults that are there and just beyond what would be ruled out: how often a run is clean all the same.
    #[rstest]
    #[case(1, 100.0)]
    #[case(4, 600.0)]
    #[case(19, 29_400.0)]
    fn what_is_said_to_be_ruled_out_is_seldom_there(#[case] passes: u32, #[case] seconds: f64) {
        let (worth, mut chance) = (Worth { passes, seconds }, Chance::default());
        for beyond in [1.02, 1.5, 4.0] {
            let by_time = (0..RUNS).filter(|_| chance.wait(worth.interval_s() / beyond) > seconds).count();
            let share = (worth.share_of_passes() + 0.002).min(1.0).max(1.0 - (1.0 - worth.share_of_passes()) / beyond);
            let by_pass = (0..RUNS).filter(|_| (0..passes).all(|_| chance.unit() > share)).count();
            println!("{passes} passes in {seconds} s, {beyond} beyond: clean {by_time} and {by_pass} of {RUNS}");
            assert!(upper(by_time as u32, RUNS) <= 0.0547 && upper(by_pass as u32, RUNS) <= 0.0547);
            assert!(beyond < 1.5 || (upper(by_time as u32, RUNS) <= 0.05 && upper(by_pass as u32, RUNS) <= 0.05));
        }
    }

    /// Faults of any kind beyond what is ruled out, up to ten times: of those said to be ruled out, the share that was there.
    #[rstest]
    #[case(1, 100.0)]
    #[case(4, 600.0)]
    #[case(19, 29_400.0)]
    fn of_what_is_said_to_be_ruled_out_little_is_there(#[case] passes: u32, #[case] seconds: f64) {
        let (worth, mut chance) = (Worth { passes, seconds }, Chance::default());
        let (mut by_time, mut by_pass) = (0, 0);
        for _ in 0..RUNS {
            let beyond = 10f64.powf(chance.unit());
            by_time += u32::from(chance.wait(worth.interval_s() / beyond) > seconds);
            let share = worth.share_of_passes() + (1.0 - worth.share_of_passes()) * chance.unit();
            by_pass += u32::from((0..passes).all(|_| chance.unit() > share));
        }
        let ends = [by_time, by_pass].map(|wrong| upper(wrong, RUNS));
        println!("{passes} passes in {seconds} s: there {by_time} and {by_pass} of {RUNS}, upper ends {ends:.4?}");
        assert!(ends.iter().all(|end| *end <= 0.05));
    }

    /// Of so many jobs in which something failed and nothing was changed, the share in which clean running is taken for help.
    fn simulated(chance: &mut Chance, per_hour: f64, runs: u32, planned_s: f64) -> f64 {
        let (mut failed, mut wrong) = (0, 0);
        while failed < RUNS {
            let mut before = Before::default();
            for _ in 0..runs {
                let shows = chance.wait(3600.0 / per_hour);
                before.failures += u32::from(shows < planned_s);
                before.seconds += shows.min(planned_s);
            }
            failed += u32::from(before.failures > 0);
            let clean = before.clean_to_show_help();
            wrong += u32::from(clean.is_some_and(|clean| chance.wait(3600.0 / per_hour) > clean));
        }
        f64::from(wrong) / f64::from(failed)
    }

    #[rstest]
    #[case::a_quarter(900.0)]
    #[case::an_hour(3600.0)]
    #[case::a_night(8.0 * 3600.0)]
    fn helped_is_seldom_wrong(#[case] planned_s: f64) {
        let mut chance = Chance::default();
        let mut worst = (0.0, 0.0, 0);
        for per_hour in [0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0] {
            for runs in 1..=8 {
                let share = simulated(&mut chance, per_hour, runs, planned_s);
                worst = if share > worst.0 { (share, per_hour, runs) } else { worst };
            }
        }
        println!(
            "runs of {planned_s} s: wrong in at most {:.4} of jobs, at {} an hour and {} runs",
            worst.0, worst.1, worst.2
        );
        assert!(upper((worst.0 * f64::from(RUNS)) as u32, RUNS) <= 0.0547, "{worst:?}");
    }
}
