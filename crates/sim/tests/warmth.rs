//! A module's channel is found by its thermometer, on modules that are drawn.
//!
//! `MACHINES=10000 cargo test --release -p revisum-sim --test warmth -- --nocapture` draws more and prints how it went.

use std::cell::Cell;
use std::collections::BTreeMap;
use std::time::Duration;

use revisum_engine::pattern::pass_seed;
use revisum_engine::rows::{Warming, learn_by_warmth};
use revisum_sim::{ModuleWarmth, Thermometers};

/// Modules of some channels, in air that gets warmer or colder.
struct Modules {
    warmth: ModuleWarmth,
    /// The channel of each module.
    channels: Vec<usize>,
    /// Degrees that the air gains in a minute.
    drift: f64,
    now_ns: Cell<u64>,
}

impl Modules {
    fn draw(seed: u64, contrast: f64, noise: f64) -> (Self, usize) {
        let draw = |at: u32, below: u64| pass_seed(seed, at) % below;
        let channels = [2, 2, 3, 4][draw(1, 4) as usize];
        let each = 1 + draw(2, 2) as usize;
        let mut of: Vec<usize> = (0..channels * each).map(|module| module / each).collect();
        for at in 1..of.len() {
            of.swap(at, draw(10 + at as u32, at as u64 + 1) as usize);
        }
        // What is read comes from all modules of the channel in equal parts.
        let rise = contrast * each as f64;
        let spec = Thermometers { rise, minutes: 0.5 + draw(3, 150) as f64 / 100.0, noise };
        let drift = draw(4, 100) as f64 / 100.0 - 0.5;
        let warmth = ModuleWarmth::new(spec, seed);
        (Self { warmth, channels: of, drift, now_ns: Cell::new(0) }, channels)
    }

    fn name(module: usize) -> String {
        format!("M{module}")
    }
}

impl Warming for Modules {
    fn warm(&self, channel: usize, time: Duration) {
        let own = self.channels.iter().filter(|of| **of == channel).count() as f64;
        let part = |of: usize| if of == channel { 1.0 / own } else { 0.0 };
        let parts: BTreeMap<String, f64> =
            self.channels.iter().enumerate().map(|(module, of)| (Self::name(module), part(*of))).collect();
        let begin_ns = self.now_ns.get();
        self.now_ns.set(begin_ns + time.as_nanos() as u64);
        self.warmth.read_from(begin_ns, self.now_ns.get(), &parts);
    }

    fn read(&self) -> Option<Vec<f64>> {
        let air = 35.0 + self.drift * self.now_ns.get() as f64 / 6e10;
        Some((0..self.channels.len()).map(|one| air + self.warmth.above(&Self::name(one), self.now_ns.get())).collect())
    }
}

struct Counted {
    machines: u64,
    right: u64,
    wrong: u64,
    minutes: Vec<f64>,
}

fn count(contrast: f64, noise: f64) -> Counted {
    let machines = std::env::var("MACHINES").ok().and_then(|count| count.parse().ok()).unwrap_or(300);
    let mut counted = Counted { machines, right: 0, wrong: 0, minutes: Vec::new() };
    for seed in 1..=machines {
        let (modules, channels) = Modules::draw(seed, contrast, noise);
        let found = learn_by_warmth(&modules, channels, true, &mut |_, _| true).unwrap();
        let pairs = found.iter().zip(&modules.channels);
        counted.wrong += u64::from(pairs.clone().any(|(found, truth)| found.is_some_and(|found| found != *truth)));
        counted.right += u64::from(pairs.clone().all(|(found, truth)| *found == Some(*truth)));
        counted.minutes.push(modules.now_ns.get() as f64 / 6e10);
    }
    counted.minutes.sort_by(f64::total_cmp);
    let most = counted.minutes.last().copied().unwrap_or(0.0);
    let middle = counted.minutes[counted.minutes.len() / 2];
    eprintln!(
        "{contrast} K, noise {noise} K: {} of {machines} right, {} wrong, else open; {middle:.0} min, at most {most:.0}",
        counted.right, counted.wrong
    );
    counted
}

#[test]
fn two_degrees_tell_every_module() {
    let Counted { machines, right, wrong, .. } = count(2.0, 0.5);
    assert!(right * 100 >= machines * 99, "{right} of {machines}");
    assert_eq!(wrong, 0);
}

/// Where reading warms nothing, nothing is claimed.
#[test]
fn no_contrast_tells_nothing() {
    let Counted { machines, right, wrong, .. } = count(0.0, 0.5);
    assert!(wrong * 1000 <= machines + 999, "{wrong} of {machines}");
    assert_eq!(right, 0);
}
