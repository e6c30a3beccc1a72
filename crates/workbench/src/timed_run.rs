//! Learning from time on a thread of its own; whoever watches asks how far it is.

use std::sync::atomic::AtomicBool;
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::JoinHandle;

use anyhow::{Result, anyhow};
use revisum_diagnose::machine::Machine;

use crate::by_time::{ByTime, TimingStage, Wanted, by_time};
use crate::say;

/// It is going on.
pub struct TimedRun {
    stage: Arc<Mutex<TimingStage>>,
    stop: Arc<AtomicBool>,
    thread: JoinHandle<Result<Option<ByTime>>>,
}

impl TimedRun {
    /// Begins; `published` is called when there is something new.
    ///
    /// # Errors
    /// When there is no thread to be had.
    pub fn begin(
        machine: Arc<Machine>,
        wanted: Wanted,
        seed: u64,
        published: impl Fn() + Send + 'static,
    ) -> Result<Self> {
        let (stage, stop) = (Arc::new(Mutex::new(TimingStage::Rows)), Arc::new(AtomicBool::new(false)));
        let (shared, stopping) = (stage.clone(), stop.clone());
        let thread = std::thread::Builder::new().spawn(move || {
            let learned = by_time(&machine, wanted, seed, &stopping, &mut |now| {
                *shared.lock().unwrap_or_else(PoisonError::into_inner) = now;
                published();
            });
            published();
            learned
        })?;
        Ok(Self { stage, stop, thread })
    }

    /// How far it is; nothing once it is over.
    pub fn stage(&self) -> Option<TimingStage> {
        (!self.thread.is_finished()).then(|| *self.stage.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// What ends it once it is set.
    pub fn stop_flag(&self) -> Arc<AtomicBool> {
        self.stop.clone()
    }

    /// Waits for the end; nothing where it was stopped before anything was known.
    ///
    /// # Errors
    /// When it could not be done.
    pub fn wait(self) -> Result<Option<ByTime>> {
        self.thread.join().unwrap_or_else(|_| Err(anyhow!(say::timing_died())))
    }
}
