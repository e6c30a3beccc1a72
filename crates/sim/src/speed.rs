//! How fast a simulated machine's memory is, by a model: what each cache and each core moves, and what its channels carry together.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};

use revisum_diagnose::hands::Hands;
use revisum_engine::memory::{LeaseError, MemorySource};
use revisum_engine::pattern::pass_seed;
use revisum_engine::speed::{Cache, Kind, Reach, Width, Work};
use revisum_engine::speed::{SpeedTrack, Speedometer};
use revisum_engine::units::{KIB, MIB};

use crate::bench::Bench;
use crate::clock::SimClock;

/// Clock of every simulated core in Hz.
const CORE_HZ: f64 = 3.5e9;
/// Bytes a second that one core has under way to memory at most.
const CORE_TO_MEMORY: f64 = 14e9;
/// Bytes a second of one core from its caches of level 1, 2 and 3, with the widest loads.
const FROM_CACHES: [f64; 3] = [220e9, 90e9, 34e9];
/// Seconds of one load from them.
const CACHE_LATENCY: [f64; 3] = [1.4e-9, 4.0e-9, 14.0e-9];
/// Seconds from a core to the memory and back, the memory's own time apart.
const WAY: f64 = 42e-9;
/// Seconds of closing a row, opening another and reading from it, at any speed grade.
const ROW: f64 = 41e-9;
/// Simulated time of one timing.
const TIMING_NS: u64 = 12_000_000;
/// Repeats differ by so much to either side.
const NOISE: f64 = 0.012;
const LINE: f64 = 64.0;

impl Speedometer for Bench {
    fn reach(&self) -> Reach {
        let spec = self.spec();
        let own = |level, bytes| Cache { level, bytes, shared_by: 1 };
        let mut caches = vec![own(1, 32 * KIB), own(2, 512 * KIB)];
        if spec.cache > MIB {
            caches.push(Cache { level: 3, bytes: spec.cache, shared_by: spec.cores });
        }
        let widths = Width::ALL.into_iter().filter(|width| *width <= Width::W256).collect();
        let most_bytes = self.offer().reachable_bytes / 5 * 4;
        Reach { cores: spec.cores, caches, widths, most_bytes }
    }

    fn open(&self, _bytes: u64, _stop: &AtomicBool) -> Result<Box<dyn SpeedTrack>, LeaseError> {
        self.starts().map_err(LeaseError::DoesNotStart)?;
        Ok(Box::new(Model {
            caches: self.reach().caches,
            bandwidth: self.bandwidth() as f64,
            clock: self.clock(),
            seed: self.seed(),
            timings: AtomicU64::new(0),
        }))
    }
}

/// A machine as it is fitted and set at the moment.
struct Model {
    caches: Vec<Cache>,
    bandwidth: f64,
    clock: Arc<SimClock>,
    seed: u64,
    timings: AtomicU64,
}

impl Model {
    /// Shares of the accesses that each cache serves, and the memory last.
    fn shares(&self, work: &Work) -> Vec<f64> {
        let mut left = 1.0;
        let mut shares: Vec<f64> = self
            .caches
            .iter()
            .map(|cache| {
                let sharing = cache.shared_by.min(work.cores).max(1) as f64;
                let fits = cache.bytes as f64 / (work.bytes as f64 * sharing);
                // Where a set is a little too large it does not all fall out at once.
                let hit: f64 = if fits >= 1.0 { 1.0 } else { (fits * 2.0 - 1.0).max(0.0) };
                let share = left * hit;
                left -= share;
                share
            })
            .collect();
        shares.push(left);
        shares
    }

    /// Bytes a second from each level for all cores, by loads without gaps.
    fn rates(&self, work: &Work) -> Vec<f64> {
        let cores = work.cores as f64;
        // Two loads in a clock cycle, whatever their width.
        let issue = f64::from(work.width.bytes()) * 2.0 * CORE_HZ * cores;
        let caches = FROM_CACHES.iter().take(self.caches.len()).map(|rate| (rate * cores).min(issue));
        caches.chain([(CORE_TO_MEMORY * cores).min(issue).min(self.bandwidth)]).collect()
    }

    fn bytes_a_second(&self, work: &Work) -> f64 {
        let (shares, rates) = (self.shares(work), self.rates(work));
        let factor = match work.kind {
            // A line comes in before it is written, and goes out again.
            Kind::Write => 0.55,
            Kind::Copy => 0.40,
            _ => 1.0,
        };
        if work.kind == Kind::Stream {
            return rates.last().copied().unwrap_or(1.0) * 0.97;
        }
        // Of every line that is fetched only what is loaded counts.
        let used = work.gap().map_or(1.0, |gap| f64::from(work.width.bytes()) / f64::from(gap).min(LINE));
        // Far apart, rows are opened for a line each.
        let rows = if work.gap().is_some_and(|gap| gap >= 1024) { 0.6 } else { 1.0 };
        let memory = shares.len() - 1;
        let seconds = shares.iter().zip(&rates).enumerate().map(|(level, (share, rate))| {
            let rate = if level == memory { rate * used * rows } else { *rate };
            share / rate
        });
        factor / seconds.sum::<f64>()
    }

    fn seconds_of_a_load(&self, work: &Work) -> f64 {
        let memory = WAY + ROW;
        let each = CACHE_LATENCY.iter().take(self.caches.len()).chain([&memory]);
        self.shares(work).iter().zip(each).map(|(share, seconds)| share * seconds).sum()
    }
}

impl SpeedTrack for Model {
    fn time(&self, work: &Work, stop: &AtomicBool) -> Option<f64> {
        if stop.load(Ordering::Relaxed) {
            return None;
        }
        self.clock.advance(TIMING_NS);
        let number = self.timings.fetch_add(1, Ordering::SeqCst);
        let chance = pass_seed(self.seed, number as u32) as f64 / u64::MAX as f64;
        let noise = 1.0 + NOISE * (chance * 2.0 - 1.0);
        let value = if work.kind == Kind::Latency { self.seconds_of_a_load(work) } else { self.bytes_a_second(work) };
        Some(value * noise)
    }

    fn large_pages(&self) -> Option<f64> {
        None
    }
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::machine::Machine;
    use revisum_diagnose::speed::{Against, SpeedSign, speed_signs, speed_verdict};
    use revisum_engine::speed::{Wanted, measure};
    use revisum_record::speed::SpeedRecord;
    use rstest::rstest;

    use super::*;
    use crate::{SimOptions, shipped, shipped_names, simulated_machine};

    fn measured(machine: &Machine) -> SpeedRecord {
        let (reach, stop, facts) = (machine.speed.reach(), AtomicBool::new(false), machine.firmware.facts());
        let works = Wanted::everything(&reach).works(&reach).unwrap();
        let track = machine.speed.open(reach.most_bytes, &stop).unwrap();
        let (points, complete) = measure(track.as_ref(), &works, 3, &stop, &mut |_, _, _| {});
        assert!(complete);
        SpeedRecord {
            simulated: true,
            cores: facts.cores,
            board: revisum_diagnose::board::board_of(machine.firmware.as_ref()),
            settings: facts.settings,
            caches: reach.caches,
            points,
            ..SpeedRecord::default()
        }
    }

    fn machine(name: &str) -> Machine {
        simulated_machine(shipped(name).unwrap().unwrap(), SimOptions::default())
    }

    #[test]
    fn two_machines_get_their_finding_and_the_others_none() {
        for name in shipped_names() {
            let record = measured(&machine(name));
            let signs = speed_signs(&record);
            match name {
                "plates" => {
                    assert!(matches!(signs[..], [SpeedSign::OneChannel { could_fill: 2, .. }]), "{name}: {signs:?}")
                }
                "almanac" => assert!(
                    matches!(signs[..], [SpeedSign::ProfileOff { speed: 2133, sold_for: Some(3200), .. }]),
                    "{name}: {signs:?}"
                ),
                _ => assert!(signs.is_empty(), "{name}: {signs:?}"),
            }
            assert!(speed_verdict(&record).is_ok(), "{name}");
        }
    }

    #[rstest]
    #[case::moved("plates", &[("A1", "4A901131"), ("B1", "4A901132")], None)]
    #[case::switched_on("almanac", &[], Some("profile"))]
    fn what_is_mended_gets_none_any_more(
        #[case] name: &str,
        #[case] placement: &[(&str, &str)],
        #[case] setting: Option<&str>,
    ) {
        let machine = machine(name);
        let hands = machine.hands.as_ref().unwrap();
        let placement: Vec<_> =
            placement.iter().map(|(slot, serial)| ((*slot).to_owned(), (*serial).to_owned())).collect();
        if !placement.is_empty() {
            hands.refit(&placement).unwrap();
        }
        setting.into_iter().for_each(|setting| hands.set(setting).unwrap());
        let record = measured(&machine);
        assert!(
            speed_signs(&record).is_empty()
                && speed_verdict(&record).is_ok_and(|verdict| verdict.against == Against::AsExpected),
            "{:?}",
            speed_verdict(&record)
        );
    }

    #[test]
    fn curves_fall_and_rise_where_the_caches_end() {
        let record = measured(&machine("dome-1"));
        let latency: Vec<f64> = record.curve(Kind::Latency, 1).into_iter().map(|(_, spread)| spread.value).collect();
        let read: Vec<f64> = record.curve(Kind::Read, 1).into_iter().map(|(_, spread)| spread.value).collect();
        assert!(latency.first().unwrap() * 20.0 < *latency.last().unwrap());
        assert!(*read.first().unwrap() > read.last().unwrap() * 10.0);
        let memory = record.of_memory(Kind::Read, 4).unwrap();
        assert!((memory.value / (2.0 * 3200e6 * 8.0 * 0.84) - 1.0).abs() < 0.03, "{memory:?}");
    }

    #[test]
    fn a_machine_that_does_not_start_is_not_measured() {
        let machine = machine("dome-1");
        machine.hands.as_ref().unwrap().refit(&[]).unwrap();
        assert!(matches!(machine.speed.open(MIB, &AtomicBool::new(false)), Err(LeaseError::DoesNotStart(_))));
    }
}
