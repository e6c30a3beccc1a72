//! Timing the loops of a plan, all of them once before any of them again, so that what else the machine does hits all alike.

use std::sync::atomic::{AtomicBool, Ordering};

use super::meter::SpeedTrack;
use super::point::Point;
use super::work::Work;

/// How far a measurement has come.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct SpeedProgress {
    /// Timings made.
    pub done: usize,
    /// Timings wanted.
    pub of: usize,
    /// The repeat at hand, from 1.
    pub repeat: u32,
}

/// Times every loop so many times. `told` hears of each timing; what was timed until `stop` is returned, and whether that is all.
pub fn measure(
    track: &dyn SpeedTrack,
    works: &[Work],
    repeats: u32,
    stop: &AtomicBool,
    told: &mut dyn FnMut(&[Point], SpeedProgress, &Work),
) -> (Vec<Point>, bool) {
    let mut points: Vec<Point> = works.iter().map(|work| Point { work: *work, samples: Vec::new() }).collect();
    let of = works.len() * repeats as usize;
    let mut done = 0;
    for repeat in 1..=repeats {
        for at in 0..works.len() {
            told(&points, SpeedProgress { done, of, repeat }, &works[at]);
            let sample = if stop.load(Ordering::Relaxed) { None } else { track.time(&works[at], stop) };
            let Some(sample) = sample else { return (points, false) };
            points[at].samples.push(sample);
            done += 1;
        }
    }
    (points, true)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::speed::{Kind, Width};

    /// Counts, and stops after so many.
    struct Counting<'a>(std::sync::Mutex<Vec<u64>>, usize, &'a AtomicBool);

    impl SpeedTrack for Counting<'_> {
        fn time(&self, work: &Work, _stop: &AtomicBool) -> Option<f64> {
            let mut seen = self.0.lock().unwrap();
            seen.push(work.bytes);
            self.2.store(seen.len() == self.1, Ordering::Relaxed);
            Some(1.0)
        }
        fn large_pages(&self) -> Option<f64> {
            None
        }
    }

    #[test]
    fn repeats_are_interleaved_and_a_stop_keeps_what_there_is() {
        let stop = AtomicBool::new(false);
        let track = Counting(std::sync::Mutex::default(), 4, &stop);
        let work = |bytes| Work { kind: Kind::Read, width: Width::W64, stride: 8, bytes, cores: 1 };
        let mut heard = 0;
        let (points, complete) = measure(&track, &[work(4096), work(8192)], 3, &stop, &mut |_, progress, _| {
            assert_eq!(progress.of, 6);
            heard += 1;
        });
        assert_eq!(*track.0.lock().unwrap(), [4096, 8192, 4096, 8192]);
        assert!(!complete && heard == 5);
        assert!(points.iter().all(|point| point.samples.len() == 2));
    }
}
