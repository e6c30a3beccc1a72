//! What cores do that compute while others sweep.

use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use super::compute::{Computer, Plans};
use super::control::Control;
use crate::host::Clock;
use crate::load::{Vectors, until_change, works};
use crate::memory::Load;

/// The moment at which a load began, for all cores the same.
#[derive(Clone, Copy)]
pub(super) struct Begin<'a> {
    pub clock: &'a dyn Clock,
    pub begin_ns: u64,
}

/// A pause shorter than this is waited for awake: the system gives back a core that sleeps too late.
const AWAKE_NS: u64 = 200_000;

/// What cores compute.
pub(super) enum Computing {
    /// Nothing.
    Nothing,
    /// Transforms, by plans that they share.
    Transforms(Plans),
    /// Vectors, in steps of load.
    Steps,
}

impl Computing {
    /// What belongs to a load, for so many cores that together may take so many bytes.
    pub fn of(load: Load, cores: usize, spare_bytes: u64) -> Self {
        match load {
            Load::Sweeping => Self::Nothing,
            Load::Computing => Self::Transforms(Plans::fitting(cores, spare_bytes)),
            Load::Steps => Self::Steps,
        }
    }
}

/// Computes until the sweeps are over; returns how many numbers came out wrong.
pub(super) fn compute(what: &Computing, seed: u64, begin: Begin<'_>, control: &Control, over: &AtomicBool) -> u64 {
    match what {
        Computing::Nothing => 0,
        Computing::Transforms(plans) => transforms(plans, seed, control, over),
        Computing::Steps => steps(seed, begin, control, over),
    }
}

fn transforms(plans: &Plans, seed: u64, control: &Control, over: &AtomicBool) -> u64 {
    let (mut computer, mut wrong) = (Computer::new(seed, plans), 0);
    loop {
        wrong += computer.round();
        control.wait_while_paused();
        if over.load(Ordering::SeqCst) {
            return wrong;
        }
    }
}

fn steps(seed: u64, begin: Begin<'_>, control: &Control, over: &AtomicBool) -> u64 {
    let (mut vectors, mut wrong) = (Vectors::new(seed), 0);
    loop {
        let elapsed = begin.clock.now_ns().saturating_sub(begin.begin_ns);
        if works(elapsed) {
            wrong += vectors.burst();
        } else {
            rest(until_change(elapsed));
        }
        if control.is_paused() {
            control.wait_while_paused();
        }
        if over.load(Ordering::SeqCst) {
            return wrong + vectors.finish();
        }
    }
}

/// Lets the core do as little as it can, for at most so long.
fn rest(nanoseconds: u64) {
    if nanoseconds > AWAKE_NS {
        std::thread::sleep(Duration::from_nanos(nanoseconds - AWAKE_NS));
    } else {
        std::hint::spin_loop();
    }
}
