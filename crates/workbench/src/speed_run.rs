//! Measuring speed on a thread of its own; whoever watches takes snapshots.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

use anyhow::{Result, anyhow};
use revisum_diagnose::machine::Machine;
use revisum_engine::speed::Point;
use revisum_engine::speed::{Reach, SpeedProgress, Wanted, Work, measure, memory_from};
use revisum_engine::units::MIB;
use revisum_record::speed::SpeedRecord;

/// Snapshots are not made more often.
const PUBLISH_EVERY: Duration = Duration::from_millis(100);
/// Working sets of all cores together end here, unless all memory is asked for or caches are larger.
const USUAL_END: u64 = 512 * MIB;

/// What can be measured, up to where caches do not matter any more: larger working sets take long and show the same.
pub fn usual_reach(reach: &Reach) -> Reach {
    let enough = USUAL_END.max(memory_from(&reach.caches, reach.cores) * 2);
    Reach { most_bytes: reach.most_bytes.min(enough), ..reach.clone() }
}

/// How far it has come.
#[derive(Clone, Debug, Default)]
pub struct SpeedSnapshot {
    /// What is known so far.
    pub record: Arc<SpeedRecord>,
    /// Timings made.
    pub progress: SpeedProgress,
    /// The loop at hand; nothing while memory is taken.
    pub at: Option<Work>,
    /// Nothing more will come.
    pub over: bool,
    /// Why nothing could be measured.
    pub failure: Option<String>,
}

/// A measurement that is going on.
pub struct SpeedRun {
    now: Arc<Mutex<SpeedSnapshot>>,
    stop: Arc<AtomicBool>,
    thread: Option<JoinHandle<()>>,
}

impl SpeedRun {
    /// Begins; `published` is called when there is something new.
    ///
    /// # Errors
    /// When what is wanted cannot be measured here, in a sentence.
    pub fn begin(
        machine: Arc<Machine>,
        wanted: &Wanted,
        reach: &Reach,
        published: impl Fn() + Send + 'static,
    ) -> Result<Self> {
        let works = wanted.works(reach).map_err(|why| anyhow!(revisum_words::refused::measuring(why)))?;
        let record = blank(&machine, reach, wanted.repeats);
        let now = Arc::new(Mutex::new(SpeedSnapshot { record: Arc::new(record), ..SpeedSnapshot::default() }));
        let stop = Arc::new(AtomicBool::new(false));
        let (shared, stopping) = (now.clone(), stop.clone());
        let repeats = wanted.repeats;
        let thread = std::thread::Builder::new().spawn(move || {
            let failure = carry_out(&machine, &works, repeats, &stopping, &shared, &published);
            let mut now = shared.lock().unwrap_or_else(PoisonError::into_inner);
            (now.over, now.failure) = (true, failure);
            drop(now);
            published();
        })?;
        Ok(Self { now, stop, thread: Some(thread) })
    }

    /// How far it has come.
    pub fn snapshot(&self) -> SpeedSnapshot {
        self.now.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Ends it at once; what was measured is kept.
    pub fn stop(&self) {
        self.stop.store(true, Ordering::SeqCst);
    }

    /// What ends it once it is set.
    pub fn stop_flag(&self) -> Arc<AtomicBool> {
        self.stop.clone()
    }

    /// Waits for the end.
    pub fn wait(mut self) -> SpeedSnapshot {
        if let Some(thread) = self.thread.take() {
            // A thread that died told nothing more: the snapshot says how far it came.
            let _ = thread.join();
        }
        self.snapshot()
    }
}

impl Drop for SpeedRun {
    fn drop(&mut self) {
        self.stop();
    }
}

/// What is known before anything is timed.
fn blank(machine: &Machine, reach: &Reach, repeats: u32) -> SpeedRecord {
    let facts = machine.firmware.facts();
    SpeedRecord {
        machine: facts.machine,
        simulated: machine.is_simulated(),
        guest: facts.guest,
        wall_ms: machine.clock.wall_ms(),
        processor: facts.processor,
        cores: reach.cores,
        board: revisum_diagnose::board::board_of(machine.firmware.as_ref()),
        settings: facts.settings,
        caches: reach.caches.clone(),
        repeats,
        ..SpeedRecord::default()
    }
}

fn carry_out(
    machine: &Machine,
    works: &[Work],
    repeats: u32,
    stop: &AtomicBool,
    shared: &Mutex<SpeedSnapshot>,
    published: &dyn Fn(),
) -> Option<String> {
    let bytes = works.iter().map(Work::total_bytes).max().unwrap_or(0);
    let track = match machine.speed.open(bytes, stop) {
        Ok(track) => track,
        Err(_) if stop.load(Ordering::SeqCst) => return None,
        Err(error) => return Some(error.to_string()),
    };
    let large_pages = track.large_pages();
    let publish = |points: &[Point], progress, at: Option<&Work>, complete| {
        let timed: Vec<Point> = points.iter().filter(|point| !point.samples.is_empty()).cloned().collect();
        let mut now = shared.lock().unwrap_or_else(PoisonError::into_inner);
        let record = SpeedRecord { points: timed, complete, large_pages, ..now.record.as_ref().clone() };
        (now.record, now.progress, now.at) = (Arc::new(record), progress, at.copied());
        drop(now);
        published();
    };
    let mut last: Option<Instant> = None;
    let mut reached = SpeedProgress::default();
    let (points, complete) = measure(track.as_ref(), works, repeats, stop, &mut |points, progress, work| {
        reached = progress;
        if last.is_none_or(|last| last.elapsed() >= PUBLISH_EVERY) {
            last = Some(Instant::now());
            publish(points, progress, Some(work), false);
        }
    });
    publish(&points, if complete { SpeedProgress { done: reached.of, ..reached } } else { reached }, None, complete);
    None
}
