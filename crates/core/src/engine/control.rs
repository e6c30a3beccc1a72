//! Pause, go on, skip and stop: the only things that the interface can do to a running engine.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Condvar, Mutex, PoisonError};

/// Shared between the interface and the workers.
#[derive(Debug, Default)]
pub struct Control {
    stop: AtomicBool,
    skip: AtomicBool,
    paused: Mutex<bool>,
    changed: Condvar,
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
