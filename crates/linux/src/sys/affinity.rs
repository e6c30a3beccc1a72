//! Which core runs what.

use rustix::thread::{CpuSet, sched_getaffinity, sched_setaffinity};

/// Numbers of the cores that this process may use.
pub(crate) fn usable_cores() -> Vec<usize> {
    let set = sched_getaffinity(None).unwrap_or_else(|_| CpuSet::new());
    let cores: Vec<usize> = (0..CpuSet::MAX_CPU).filter(|core| set.is_set(*core)).collect();
    if cores.is_empty() { vec![0] } else { cores }
}

/// Keeps the calling thread on the `index`-th usable core. A refusal costs speed, not correctness.
pub(crate) fn pin(index: usize, cores: &[usize]) {
    let mut set = CpuSet::new();
    set.set(cores[index % cores.len()]);
    // A core that was taken away in between is no reason to stop: the thread then runs elsewhere.
    let _ = sched_setaffinity(None, &set);
}
