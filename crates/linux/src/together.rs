//! Work that all cores begin at the same moment, timed.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use crate::sys::affinity::pin;

/// Nobody begins yet.
const WAIT: usize = 0;
/// All begin.
const BEGIN: usize = 1;
/// A core could not be had: nobody begins.
const GIVE_UP: usize = 2;

/// Deals items out to the cores; each prepares its share, then all do theirs at the same time. Returns the nanoseconds until the last one was done;
/// nothing where there is nothing to do or a thread cannot be had.
pub(crate) fn together<T: Sync>(
    cores: &[usize],
    items: &[T],
    prepare: &(dyn Fn(&[T]) + Sync),
    work: &(dyn Fn(&[T]) + Sync),
) -> Option<u64> {
    let share = items.len().div_ceil(cores.len().max(1)).max(1);
    let (ready, signal) = (AtomicUsize::new(0), AtomicUsize::new(WAIT));
    let one = |core: usize, own: &[T]| -> Option<Duration> {
        pin(core, cores);
        prepare(own);
        ready.fetch_add(1, Ordering::SeqCst);
        while signal.load(Ordering::SeqCst) == WAIT {
            std::thread::yield_now();
        }
        let begin = Instant::now();
        (signal.load(Ordering::SeqCst) == BEGIN).then(|| {
            work(own);
            begin.elapsed()
        })
    };
    let one = &one;
    let longest = std::thread::scope(|scope| {
        let begun: Vec<_> = items
            .chunks(share)
            .enumerate()
            .map(|(core, own)| std::thread::Builder::new().spawn_scoped(scope, move || one(core, own)))
            .collect();
        let all = begun.iter().all(Result::is_ok);
        while all && ready.load(Ordering::SeqCst) < begun.len() && begun.iter().flatten().all(|one| !one.is_finished())
        {
            std::thread::yield_now();
        }
        signal.store(if all { BEGIN } else { GIVE_UP }, Ordering::SeqCst);
        let times = begun.into_iter().map(|one| one.ok()?.join().ok()?);
        times.collect::<Option<Vec<_>>>()?.into_iter().max()
    })?;
    u64::try_from(longest.as_nanos()).ok()
}

#[cfg(test)]
mod tests {
    use std::sync::Mutex;

    use super::*;

    #[test]
    fn every_item_is_prepared_before_any_work_begins_and_done_once() {
        let items: Vec<u32> = (0..1000).collect();
        let told: Mutex<Vec<(bool, u32)>> = Mutex::default();
        let tell = |done: bool| {
            let told = &told;
            move |own: &[u32]| told.lock().unwrap().extend(own.iter().map(|item| (done, *item)))
        };
        assert!(together(&[0, 1, 0], &items, &tell(false), &tell(true)).is_some());
        let mut told = told.into_inner().unwrap();
        assert!(told[..1000].iter().all(|(done, _)| !done));
        told.sort_unstable();
        let expected: Vec<(bool, u32)> =
            [false, true].iter().flat_map(|done| items.iter().map(|item| (*done, *item))).collect();
        assert_eq!(told, expected);
    }

    #[test]
    fn nothing_to_do_takes_no_time() {
        assert_eq!(together::<u32>(&[0], &[], &|_| {}, &|_| {}), None);
    }
}
