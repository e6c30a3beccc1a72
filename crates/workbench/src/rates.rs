//! What the sweeps reach on this machine, measured once and known to whoever wants to tell how long something takes.

use std::sync::{Arc, OnceLock};
use std::time::Instant;

use revisum_diagnose::machine::Machine;
use revisum_engine::depth::{Chosen, chosen};
use revisum_engine::estimate::Rates;
use revisum_engine::memory::LeaseRequest;
use revisum_engine::recipe::{CoreSharing, Depth, Recipe};
use revisum_engine::run::{CALIBRATION_BYTES, calibrate, enough_bytes, expected};

/// Enough to see whether memory is slow.
const LITTLE_BYTES: u64 = 16 << 20;
/// Less cannot be measured.
const LEAST_BYTES: u64 = 4 << 20;

/// Rates with all cores and with one, where they could be measured.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Measured {
    all: Option<Rates>,
    one: Option<Rates>,
}

impl Measured {
    /// Measures a machine; takes about a second of its time, less on so little memory as is to be tested.
    pub fn of(machine: &Machine, most_bytes: Option<u64>) -> Self {
        let cores: Vec<usize> = (0..machine.firmware.facts().cores.max(1)).collect();
        let lease = |bytes: u64| {
            let bytes = bytes.min(most_bytes.unwrap_or(u64::MAX)).max(LEAST_BYTES);
            let bytes = Some(bytes.min(machine.memory.offer().reachable_bytes));
            machine.memory.lease(&LeaseRequest { bytes, ..LeaseRequest::default() }, &|_, _| true)
        };
        // Simulated memory is as fast as it is said to be: there is nothing to find out.
        let little = if machine.is_simulated() { None } else { lease(LITTLE_BYTES).ok() };
        let enough =
            little.map_or(CALIBRATION_BYTES, |memory| enough_bytes(memory.as_ref(), machine.clock.as_ref(), &cores));
        let begin = Instant::now();
        let lease = lease(enough);
        let bytes = lease.as_ref().map_or(0, |memory| memory.layout().bytes());
        let taking = bytes as f64 / begin.elapsed().as_secs_f64().max(1e-9);
        let Ok(memory) = lease else { return Self::default() };
        let measure = |workers: &[usize]| {
            let rates = calibrate(memory.as_ref(), machine.clock.as_ref(), workers);
            Rates { taking: if machine.is_simulated() { 0.0 } else { taking }, ..rates }
        };
        let all = measure(&cores);
        let one = if cores.len() > 1 { measure(&cores[..1]) } else { all };
        Self { all: Some(all), one: Some(one) }
    }

    /// The rates at which cores cover memory: together where they divide it, one where each covers all of it.
    pub fn rates(&self, sharing: CoreSharing) -> Option<Rates> {
        if sharing == CoreSharing::Divide { self.all } else { self.one }
    }

    /// Seconds that each test of a recipe takes in one pass over this many bytes; nothing where nothing was measured.
    pub fn expected(&self, recipe: &Recipe, bytes: u64, cores: usize) -> Option<Vec<(String, f64)>> {
        let (specs, workers) = (recipe.specs().ok()?, recipe.workers(cores).ok()?.len());
        let of = |rates: Rates| expected(&specs, recipe, &rates, bytes, workers);
        // A test that rotates has one core at work at a time.
        let rotating = of(self.one?);
        let all = of(self.rates(recipe.cores)?).into_iter().zip(rotating).zip(&specs);
        Some(all.map(|((usual, rotating), spec)| if spec.rotates { rotating } else { usual }).collect())
    }

    /// The tests of a depth on this machine.
    pub fn tests_of(&self, depth: Depth, bytes: u64) -> Chosen {
        let Some(rates) = self.all else { return chosen(depth, &revisum_engine::depth::ordinary) };
        let recipe = Recipe::with_tests(depth, Vec::new());
        chosen(depth, &|test| rates.test_seconds(test, &recipe, bytes, 1))
    }

    /// Seconds until this much memory is taken.
    pub fn taking_seconds(&self, bytes: u64) -> f64 {
        self.all.filter(|rates| rates.taking > 0.0).map_or(0.0, |rates| bytes as f64 / rates.taking)
    }
}

/// Measured in the background; whoever needs it waits.
pub type Rated = Arc<OnceLock<Measured>>;

/// Begins to measure a machine.
pub fn measure_in_background(machine: Arc<Machine>) -> Rated {
    let rated = Rated::default();
    let result = rated.clone();
    let measuring = machine.clone();
    let thread = std::thread::Builder::new().spawn(move || {
        result.get_or_init(|| Measured::of(&measuring, None));
    });
    if thread.is_err() {
        // Without a thread it is measured before anything else.
        rated.get_or_init(|| Measured::of(&machine, None));
    }
    rated
}

#[cfg(test)]
mod tests {
    use revisum_sim::SimOptions;
    use rstest::rstest;

    use super::*;

    fn measured(machine: &str) -> Measured {
        let machine = crate::wire::simulated(machine, SimOptions { pace: 0.0, ..SimOptions::default() }).unwrap();
        Measured::of(&machine, None)
    }

    #[rstest]
    #[case(CoreSharing::Divide)]
    #[case(CoreSharing::Each)]
    fn every_way_of_sharing_has_rates_once_they_were_measured(#[case] sharing: CoreSharing) {
        let rates = measured("dome-1").rates(sharing).unwrap();
        assert!(rates.write > 0.0 && rates.read > 0.0 && rates.read_write > 0.0 && rates.flushed > 0.0);
        assert_eq!(rates.taking, 0.0, "taking simulated memory costs nothing");
        assert_eq!(Measured::default().rates(sharing), None);
    }

    #[test]
    fn twice_the_memory_takes_longer_and_unknown_tests_nothing() {
        let (measured, recipe) = (measured("dome-1"), Recipe::of_depth(Depth::Triage));
        let seconds = |bytes: u64| measured.expected(&recipe, bytes, 4).unwrap().iter().map(|(_, s)| s).sum::<f64>();
        assert!(seconds(2 << 30) > 1.5 * seconds(1 << 30));
        let wrong = Recipe::with_tests(Depth::Triage, vec!["no such test".into()]);
        assert_eq!(measured.expected(&wrong, 1 << 30, 4), None);
    }

    /// What was never measured is judged by an ordinary machine, not by none.
    #[test]
    fn depths_choose_tests_with_and_without_a_measurement() {
        for measured in [measured("dome-1"), Measured::default()] {
            for depth in Depth::ALL {
                assert!(measured.tests_of(depth, 8 << 30).tests.contains(&"random".to_owned()), "{depth:?}");
            }
        }
    }
}
