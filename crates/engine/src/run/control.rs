//! Pause, go on, skip and stop: the only things that the interface can do to a running engine.

use std::sync::atomic::{AtomicBool, AtomicU32, Ordering};
use std::sync::{Condvar, Mutex, PoisonError};

/// Shared between the interface and the workers.
#[derive(Debug, Default)]
pub struct Control {
    stop: AtomicBool,
    skip: AtomicBool,
    paused: Mutex<bool>,
    changed: Condvar,
    /// Test to go to, by its place in the pass.
    target: Mutex<Option<usize>>,
    more_passes: AtomicU32,
}

/// What a worker is to do next.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Order {
    Go,
    Skip,
    Stop,
}

impl Control {
    /// Ends the run after the blocks at hand.
    pub fn stop(&self) {
        self.stop.store(true, Ordering::SeqCst);
        self.resume();
    }

    /// Leaves the test at hand unfinished and goes on with the next one.
    pub fn skip_test(&self) {
        self.skip.store(true, Ordering::SeqCst);
        self.resume();
    }

    /// Leaves the test at hand and goes on with the one at this place in the pass, which may be the same one again.
    pub fn go_to(&self, place: usize) {
        *self.target.lock().unwrap_or_else(PoisonError::into_inner) = Some(place);
        self.skip_test();
    }

    /// Makes the run one pass longer.
    pub fn add_pass(&self) {
        self.more_passes.fetch_add(1, Ordering::SeqCst);
    }

    /// Holds the workers after the blocks at hand.
    pub fn pause(&self) {
        self.set_paused(true);
    }

    /// Lets the workers go on.
    pub fn resume(&self) {
        self.set_paused(false);
    }

    /// Whether the run is to end.
    pub fn is_stopping(&self) -> bool {
        self.order() == Order::Stop
    }

    /// Whether the workers are held.
    pub fn is_paused(&self) -> bool {
        *self.paused.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn set_paused(&self, paused: bool) {
        *self.paused.lock().unwrap_or_else(PoisonError::into_inner) = paused;
        self.changed.notify_all();
    }

    /// Where to go on, if somebody chose.
    pub(super) fn take_target(&self) -> Option<usize> {
        self.target.lock().unwrap_or_else(PoisonError::into_inner).take()
    }

    /// Passes added so far.
    pub(super) fn added_passes(&self) -> u32 {
        self.more_passes.load(Ordering::SeqCst)
    }

    /// Takes the skip back once a new test begins.
    pub(super) fn begin_test(&self) {
        self.skip.store(false, Ordering::SeqCst);
    }

    pub(super) fn order(&self) -> Order {
        if self.stop.load(Ordering::SeqCst) {
            Order::Stop
        } else if self.skip.load(Ordering::SeqCst) {
            Order::Skip
        } else {
            Order::Go
        }
    }

    /// Returns at once, or when a pause is over.
    pub(super) fn wait_while_paused(&self) {
        let mut paused = self.paused.lock().unwrap_or_else(PoisonError::into_inner);
        while *paused {
            paused = self.changed.wait(paused).unwrap_or_else(PoisonError::into_inner);
        }
    }
}
