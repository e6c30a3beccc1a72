//! Whether memory has become as warm as it gets.

use std::collections::VecDeque;

/// A temperature that moved by less than [`STILL_CELSIUS`] for so long stands still.
const STILL_NS: u64 = 600_000_000_000;
const STILL_CELSIUS: f64 = 2.0;

/// The temperatures of the last minutes.
#[derive(Debug, Default)]
pub(super) struct Soak {
    /// When each was told, the oldest first; the first one may be older than the time that counts.
    told: VecDeque<(u64, f64)>,
}

impl Soak {
    /// The temperature is so from now on.
    pub fn note(&mut self, now_ns: u64, celsius: f64) {
        self.told.push_back((now_ns, celsius));
        while self.told.get(1).is_some_and(|(at_ns, _)| at_ns.saturating_add(STILL_NS) <= now_ns) {
            self.told.pop_front();
        }
    }

    /// Whether it stands still; yes where no sensor tells, because waiting would not end.
    pub fn stands_still(&self, now_ns: u64) -> bool {
        let begin_ns = now_ns.saturating_sub(STILL_NS);
        let Some((first_ns, _)) = self.told.front() else { return true };
        // What was told before that time held until the next one was told.
        let later =
            self.told.iter().zip(self.told.iter().skip(1)).filter(|(_, next)| next.0 > begin_ns).map(|(one, _)| one.1);
        let all: Vec<f64> = later.chain(self.told.back().map(|(_, celsius)| *celsius)).collect();
        let (lowest, highest) = all.iter().fold((f64::MAX, f64::MIN), |(low, high), c| (low.min(*c), high.max(*c)));
        now_ns.saturating_sub(*first_ns) >= STILL_NS && highest - lowest < STILL_CELSIUS
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// Minutes and degrees; then whether it stands still after so many minutes.
    #[rstest]
    #[case::no_sensor(&[], 0, true)]
    #[case::just_begun(&[(0, 30.0)], 5, false)]
    #[case::never_changed(&[(0, 30.0)], 10, true)]
    #[case::rising(&[(0, 30.0), (4, 33.0), (8, 36.0), (12, 38.0)], 13, false)]
    #[case::risen(&[(0, 30.0), (4, 33.0), (8, 36.0), (12, 38.0)], 23, true)]
    #[case::by_one_degree(&[(0, 30.0), (14, 38.0), (20, 39.0), (25, 38.0)], 30, true)]
    #[case::long_at_once(&[(0, 30.0), (100, 45.0)], 105, false)]
    fn stillness(#[case] told: &[(u64, f64)], #[case] now: u64, #[case] still: bool) {
        let minute = 60_000_000_000;
        let mut soak = Soak::default();
        told.iter().for_each(|(at, celsius)| soak.note(at * minute, *celsius));
        assert_eq!(soak.stands_still(now * minute), still);
    }
}
