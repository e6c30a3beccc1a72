//! What cores do that compute while others sweep.

use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use super::compute::Computer;
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

/// Computes until the sweeps are over; returns how many numbers came out wrong.
pub(super) fn compute(load: Load, seed: u64, begin: Begin<'_>, control: &Control, over: &AtomicBool) -> u64 {
    match load {
        Load::Sweeping => 0,
        Load::Computing => transforms(seed, control, over),
        Load::Steps => steps(seed, begin, control, over),
    }
}

fn transforms(seed: u64, control: &Control, over: &AtomicBool) -> u64 {
    let (mut computer, mut wrong) = (Computer::new(seed), 0);
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
