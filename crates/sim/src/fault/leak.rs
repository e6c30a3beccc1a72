//! When a cell loses what it holds before it is refreshed: by age, temperature, and the state that it happens to be in.

use serde::Deserialize;

use super::FaultSpec;
use super::bit::Moment;
use crate::heat::Heat;
use revisum_engine::pattern::pass_seed;

const SECOND_NS: f64 = 1e9;
/// Above this temperature memory is refreshed twice as often (JEDEC JESD79-4, section 4.7, extended temperature range).
const EXTENDED_CELSIUS: f64 = 85.0;
/// Retention is taken as at this temperature on a machine without a thermometer; what a usual room and a machine at work come to.
const UNKNOWN_CELSIUS: f64 = 45.0;

/// How long a cell keeps its bit without being refreshed. Time falls exponentially with temperature (Liu et al., ISCA 2013; Hamamoto et al., IEEE
/// Transactions on Electron Devices 45, 1998).
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Keeps {
    /// Seconds at that temperature.
    pub seconds: f64,
    /// Degrees Celsius.
    pub celsius: f64,
    /// So many degrees more halve the time.
    pub halved_by: f64,
}

impl Keeps {
    /// Seconds at this temperature.
    pub(crate) fn at(&self, celsius: f64) -> f64 {
        self.seconds * 0.5f64.powf((celsius - self.celsius) / self.halved_by)
    }

    pub(super) fn check(&self) -> Result<(), String> {
        let sane = self.seconds > 0.0 && self.halved_by > 0.0 && (-60.0..=150.0).contains(&self.celsius);
        if sane && self.seconds.is_finite() && self.halved_by.is_finite() {
            Ok(())
        } else {
            Err("keeps needs seconds above 0, degrees Celsius that can be, and halved_by above 0".to_owned())
        }
    }
}

/// A cell that changes between a state in which it keeps its bit and one in which it leaks, at random (variable retention time; Yaney et al., IEDM
/// 1987; Liu et al., ISCA 2013). Minutes that it stays in each on average, by an exponential law.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TwoStates {
    /// Minutes in which it keeps its bit.
    pub well_minutes: f64,
    /// Minutes in which it leaks.
    pub weak_minutes: f64,
}

impl TwoStates {
    pub(super) fn check(&self) -> Result<(), String> {
        let sane = |minutes: f64| minutes > 0.0 && minutes <= 1e6;
        if sane(self.well_minutes) && sane(self.weak_minutes) {
            Ok(())
        } else {
            Err("two_states needs well_minutes and weak_minutes, above 0 and up to 1000000".to_owned())
        }
    }
}

/// The warmth and the refresh that the cells of a machine get.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Climate {
    /// Nothing where there is no thermometer.
    pub heat: Option<Heat>,
    /// Time in which every row is refreshed.
    pub refresh_ns: u64,
}

impl Climate {
    fn celsius(&self, now_ns: u64) -> f64 {
        self.heat.map_or(UNKNOWN_CELSIUS, |heat| heat.celsius(now_ns))
    }

    fn refresh_ns(&self, celsius: f64) -> f64 {
        self.refresh_ns as f64 / if celsius > EXTENDED_CELSIUS { 2.0 } else { 1.0 }
    }
}

/// Which state a cell is in, and how long it was in the weak one.
#[derive(Clone, Debug)]
struct States {
    spec: TwoStates,
    seed: u64,
    changes: u32,
    weak: bool,
    since_ns: u64,
    until_ns: u64,
}

impl States {
    fn new(spec: TwoStates, now_ns: u64, seed: u64) -> Self {
        // As a cell is found that nobody looked at before: in each state by its share of the time.
        let share = spec.weak_minutes / (spec.weak_minutes + spec.well_minutes);
        let mut states = Self { spec, seed, changes: 0, weak: false, since_ns: now_ns, until_ns: now_ns };
        states.weak = states.random() < share;
        states.until_ns = now_ns.saturating_add(states.stay_ns());
        states
    }

    fn random(&mut self) -> f64 {
        self.changes += 1;
        (pass_seed(self.seed ^ 0x57a7e5, self.changes) >> 11) as f64 / (1u64 << 53) as f64
    }

    fn stay_ns(&mut self) -> u64 {
        let minutes = if self.weak { self.spec.weak_minutes } else { self.spec.well_minutes };
        (-(1.0 - self.random()).ln() * minutes * 60.0 * SECOND_NS) as u64
    }

    /// The longest time in one piece that it was weak between two moments; time never runs back.
    fn weak_ns(&mut self, from_ns: u64, to_ns: u64) -> u64 {
        let mut longest = 0;
        loop {
            if self.weak {
                longest = longest.max(self.until_ns.min(to_ns).saturating_sub(self.since_ns.max(from_ns)));
            }
            if self.until_ns > to_ns {
                return longest;
            }
            (self.weak, self.since_ns) = (!self.weak, self.until_ns);
            self.until_ns = self.since_ns.saturating_add(self.stay_ns().max(1));
        }
    }
}

/// The leak of one cell.
#[derive(Clone, Debug)]
pub(crate) struct Leak {
    climate: Climate,
    /// Only from this temperature on.
    warm: Option<f64>,
    /// Only when the machine slept in between.
    asleep: bool,
    keeps: Option<Keeps>,
    states: Option<States>,
    /// Time from an access to decay where nothing else says so.
    decays_ns: u64,
}

impl Leak {
    /// As a fault has it, from `now_ns` on; `seed` decides when it changes its state.
    pub fn new(spec: &FaultSpec, climate: Climate, now_ns: u64, seed: u64) -> Self {
        Self {
            climate,
            warm: spec.warm,
            asleep: spec.asleep,
            keeps: spec.keeps,
            states: spec.two_states.map(|states| States::new(states, now_ns, seed)),
            decays_ns: (spec.after_seconds * SECOND_NS) as u64,
        }
    }

    /// Whether what was written or read last is lost by now.
    pub fn loses(&mut self, written_ns: u64, now: Moment) -> bool {
        let Moment { now_ns, woke_ns } = now;
        let celsius = self.climate.celsius(now_ns);
        let passed = match &mut self.states {
            Some(states) => states.weak_ns(written_ns, now_ns),
            None => now_ns.saturating_sub(written_ns),
        };
        let decays_ns = match self.keeps {
            // Refreshed in time it keeps its bit for ever.
            Some(keeps) if keeps.at(celsius) * SECOND_NS >= self.climate.refresh_ns(celsius) => return false,
            Some(keeps) => (keeps.at(celsius) * SECOND_NS) as u64,
            None => self.decays_ns,
        };
        let warm = self.warm.is_none_or(|least| celsius >= least);
        warm && (!self.asleep || woke_ns > written_ns) && passed >= decays_ns
    }
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::address::Cell;
    use rstest::rstest;

    use super::super::FaultKind;
    use super::*;

    const MS: u64 = 1_000_000;

    fn leak(keeps: Option<Keeps>, two_states: Option<TwoStates>, celsius: f64, refresh_ms: u64, seed: u64) -> Leak {
        let spec = FaultSpec { keeps, two_states, ..FaultSpec::plain(FaultKind::Retention, Cell::default(), 0, 0) };
        let heat = Some(Heat { ambient: celsius, rise: 0.0, minutes: 1.0 });
        Leak::new(&spec, Climate { heat, refresh_ns: refresh_ms * MS }, 0, seed)
    }

    /// A cell that keeps its bit for 256 ms at 45 °C, and for half of that with every 10 K more.
    #[rstest]
    #[case::refreshed_in_time(45.0, 64, 1000, false)]
    #[case::just_in_time(65.0, 64, 1000, false)]
    #[case::too_warm(66.0, 64, 1000, true)]
    #[case::too_warm_but_just_written(66.0, 64, 30, false)]
    #[case::refreshed_less_often(46.0, 256, 1000, true)]
    #[case::above_85_degrees_refreshed_twice_as_often(85.1, 64, 1000, false)]
    #[case::below_it_is_not(84.9, 64, 1000, true)]
    fn retention_falls_with_temperature_and_refresh(
        #[case] celsius: f64,
        #[case] refresh_ms: u64,
        #[case] after_ms: u64,
        #[case] lost: bool,
    ) {
        let keeps = Keeps { seconds: 0.256, celsius: 45.0, halved_by: if celsius > 84.0 { 16.0 } else { 10.0 } };
        let mut leak = leak(Some(keeps), None, celsius, refresh_ms, 1);
        assert_eq!(leak.loses(0, Moment { now_ns: after_ms * MS, woke_ns: 0 }), lost);
    }

    /// In each state by its share of the time, over many cells and hours.
    #[rstest]
    #[case(9.0, 1.0)]
    #[case(30.0, 30.0)]
    fn states_change_by_their_times(#[case] well_minutes: f64, #[case] weak_minutes: f64) {
        let (cells, looks) = (200u64, 300u64);
        let mut lost = 0;
        for seed in 0..cells {
            let states = TwoStates { well_minutes, weak_minutes };
            let mut leak = leak(None, Some(states), 45.0, 64, seed << 9);
            lost += (1..=looks)
                .map(|look| (look - 1, look * 60_000 * MS))
                .filter(|(before, now_ns)| {
                    let written_ns = now_ns.saturating_sub(100 * MS).max(before * 60_000 * MS);
                    leak.loses(written_ns, Moment { now_ns: *now_ns, woke_ns: 0 })
                })
                .count();
        }
        let share = lost as f64 / (cells * looks) as f64;
        let expected = weak_minutes / (weak_minutes + well_minutes);
        assert!((share - expected).abs() < 0.03, "{share}, {expected} expected");
    }

    /// Weak for a moment only, it does not lose what it would keep for longer.
    #[test]
    fn a_weak_moment_that_is_too_short_costs_nothing() {
        let states = TwoStates { well_minutes: 0.001, weak_minutes: 0.001 };
        let spec = FaultSpec {
            two_states: Some(states),
            after_seconds: 30.0,
            ..FaultSpec::plain(FaultKind::Retention, Cell::default(), 0, 0)
        };
        let mut leak = Leak::new(&spec, Climate { heat: None, refresh_ns: 64 * MS }, 0, 3);
        assert!(!leak.loses(0, Moment { now_ns: 60_000 * MS, woke_ns: 0 }));
    }
}
