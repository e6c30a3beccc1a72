//! When things happen that happen at a rate.

use revisum_engine::pattern::pass_seed;

/// Moments of a Poisson process whose rate may grow: exponential steps of the integrated rate, from a repeatable random
/// number each.
#[derive(Clone, Debug)]
pub(crate) struct Schedule {
    rate_per_ns: f64,
    growth_per_ns: f64,
    begin_ns: u64,
    seed: u64,
    events: u32,
    /// Integral of the rate up to the next event.
    sum: f64,
    next_ns: u64,
}

const HOUR_NS: f64 = 3.6e12;

impl Schedule {
    /// From `now_ns` on, `per_hour` events an hour, more by the share `growth` of that with every hour that the machine runs.
    pub fn new(per_hour: f64, growth: f64, now_ns: u64, seed: u64) -> Self {
        let running = 1.0 + growth * now_ns as f64 / HOUR_NS;
        let rate_per_ns = per_hour / HOUR_NS;
        let mut schedule = Self {
            rate_per_ns: rate_per_ns * running,
            growth_per_ns: rate_per_ns * growth / HOUR_NS,
            begin_ns: now_ns,
            seed,
            events: 0,
            sum: 0.0,
            next_ns: u64::MAX,
        };
        if per_hour > 0.0 {
            schedule.step();
        }
        schedule
    }

    /// When the next event is due.
    pub fn next_ns(&self) -> u64 {
        self.next_ns
    }

    /// Whether an event is due; the next one is drawn then.
    pub fn is_due(&mut self, now_ns: u64) -> bool {
        let due = self.next_ns <= now_ns;
        if due {
            self.step();
        }
        due
    }

    /// A random number that belongs to the event that was due last.
    pub fn random(&self) -> u64 {
        pass_seed(self.seed ^ 0x5eed, self.events)
    }

    fn step(&mut self) {
        self.events += 1;
        let random = (pass_seed(self.seed, self.events) >> 11) as f64 / (1u64 << 53) as f64;
        self.sum -= (1.0 - random).ln();
        // The time at which rate · t + growth · t² / 2 reaches the sum.
        let (rate, growth) = (self.rate_per_ns, self.growth_per_ns);
        let after = 2.0 * self.sum / (rate + (rate * rate + 2.0 * growth * self.sum).sqrt());
        self.next_ns = self.begin_ns.saturating_add(after as u64);
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// Events in ten hours: the integral of the rate, within five standard deviations over 200 seeds.
    #[rstest]
    #[case(6.0, 0.0, 60.0)]
    #[case(6.0, 0.2, 60.0 + 6.0 * 0.2 * 50.0)]
    #[case(0.0, 0.0, 0.0)]
    fn events_come_at_their_rate(#[case] per_hour: f64, #[case] growth: f64, #[case] expected: f64) {
        let hours = 10.0 * HOUR_NS;
        let events: u32 = (0..200u64)
            .map(|seed| {
                let mut schedule = Schedule::new(per_hour, growth, 0, seed << 8);
                std::iter::from_fn(|| schedule.is_due(hours as u64).then_some(())).count() as u32
            })
            .sum();
        let mean = f64::from(events) / 200.0;
        assert!((mean - expected).abs() <= 5.0 * (expected / 200.0).sqrt(), "{mean}, {expected} expected");
    }

    #[test]
    fn what_grows_has_grown_by_the_time_it_is_looked_at_again() {
        let hours = |hours: f64| (hours * HOUR_NS) as u64;
        let events = |begin: f64| {
            let all = (0..200u64).map(|seed| {
                let mut schedule = Schedule::new(3.0, 1.0, hours(begin), seed << 8);
                std::iter::from_fn(|| schedule.is_due(hours(begin + 1.0)).then_some(())).count()
            });
            all.sum::<usize>() as f64 / 200.0
        };
        assert!((events(0.0) - 4.5).abs() < 0.8);
        assert!((events(9.0) - 31.5).abs() < 2.0);
    }
}
