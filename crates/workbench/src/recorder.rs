//! The only writer of a run's journal: appends each record, folds it into the state and publishes what it adds up to.

use std::collections::VecDeque;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;

use revisum_record::journal::{Entry, Framed, JournalWriter};
use revisum_record::run_state::RunState;
use revisum_record::totals::Totals;

use crate::say;

/// What was written is forced out at least this often: a power loss costs less than a second.
const SYNC_EVERY: Duration = Duration::from_millis(250);
/// Snapshots are published at most this often.
const PUBLISH_EVERY: Duration = Duration::from_millis(50);
/// Records kept while the medium refuses them.
const MOST_WAITING: usize = 10_000;
/// Progress is put on record this often.
const PROGRESS_EVERY_MS: u64 = 1000;
/// How often a refusing medium is tried again.
const RETRY_EVERY: Duration = Duration::from_secs(1);

/// What the rest of the program sees of a run.
#[derive(Default)]
pub struct Live {
    state: Mutex<Arc<RunState>>,
    trouble: Mutex<Option<String>>,
    failure: Mutex<Option<String>>,
    left: Mutex<Option<Unwritten>>,
    over: AtomicBool,
    taken: AtomicU64,
    to_take: AtomicU64,
}

fn locked<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Live {
    /// The latest snapshot.
    pub fn state(&self) -> Arc<RunState> {
        locked(&self.state).clone()
    }

    /// Why records are not being kept at the moment.
    pub fn trouble(&self) -> Option<String> {
        locked(&self.trouble).clone()
    }

    /// Why the run could not begin or go on.
    pub fn failure(&self) -> Option<String> {
        locked(&self.failure).clone()
    }

    /// What could not be written when the run was over, to be tried again.
    pub fn unwritten(&self) -> Option<Unwritten> {
        locked(&self.left).take()
    }

    /// True once nothing more will come.
    pub fn is_over(&self) -> bool {
        self.over.load(Ordering::SeqCst)
    }

    /// Notes how much of the memory is taken.
    pub fn taking(&self, taken: u64, of: u64) {
        self.taken.store(taken, Ordering::SeqCst);
        self.to_take.store(of, Ordering::SeqCst);
    }

    /// Bytes taken before the run begins, and bytes wanted.
    pub fn taken(&self) -> (u64, u64) {
        (self.taken.load(Ordering::SeqCst), self.to_take.load(Ordering::SeqCst))
    }

    /// Notes that the run could not be made.
    pub fn fail(&self, why: String) {
        *locked(&self.failure) = Some(why);
    }

    /// Notes that nothing more will come.
    pub fn finish(&self) {
        self.over.store(true, Ordering::SeqCst);
    }
}

/// A record, and what the run had come to with it.
struct Waiting {
    t_ms: u64,
    entry: Entry,
    totals: Totals,
}

/// Records of a run that is over which its medium refused: kept until it takes them.
pub struct Unwritten {
    writer: JournalWriter,
    waiting: VecDeque<Waiting>,
}

impl Unwritten {
    /// Tries once more.
    ///
    /// # Errors
    /// When the medium still refuses them.
    pub fn write(&mut self) -> std::io::Result<()> {
        while let Some(Waiting { t_ms, entry, totals }) = self.waiting.front() {
            self.writer.append_with(*t_ms, entry, *totals)?;
            self.waiting.pop_front();
        }
        self.writer.finish()
    }
}

/// Writes, folds and publishes until the sender is gone.
pub struct Recorder<'a> {
    writer: JournalWriter,
    state: RunState,
    live: &'a Live,
    published: &'a dyn Fn(),
    waiting: VecDeque<Waiting>,
    /// Records that could not even wait: their numbers are left out, so that a reader misses them.
    lost: u64,
    /// When progress was put on record last, and the latest one that was not.
    progress_ms: u64,
    held_back: Option<Waiting>,
    dirty: bool,
    stale: bool,
    /// Real time since some moment: what it takes to force records out has nothing to do with simulated time.
    now: &'a dyn Fn() -> Duration,
    synced_at: Duration,
    published_at: Option<Duration>,
    retry_at: Duration,
}

impl<'a> Recorder<'a> {
    /// A recorder for one run; `published` is called after every new snapshot.
    pub fn new(writer: JournalWriter, live: &'a Live, published: &'a dyn Fn(), now: &'a dyn Fn() -> Duration) -> Self {
        Self {
            writer,
            state: RunState::default(),
            live,
            published,
            waiting: VecDeque::new(),
            lost: 0,
            progress_ms: 0,
            held_back: None,
            dirty: false,
            stale: false,
            now,
            synced_at: now(),
            published_at: None,
            retry_at: now(),
        }
    }

    /// Records until the run is over.
    pub fn record(mut self, entries: &Receiver<(u64, Entry)>) {
        loop {
            match entries.recv_timeout(PUBLISH_EVERY) {
                Ok((t_ms, entry)) => self.take(t_ms, entry),
                Err(RecvTimeoutError::Timeout) => {}
                Err(RecvTimeoutError::Disconnected) => break,
            }
            self.keep_up(false);
        }
        self.retry_at = (self.now)();
        self.keep_up(true);
        if let Err(error) = self.writer.finish() {
            self.trouble(&error);
        }
        self.publish();
        if self.live.trouble().is_some() {
            let Self { writer, waiting, live, .. } = self;
            *locked(&live.left) = Some(Unwritten { writer, waiting });
        }
    }

    fn take(&mut self, t_ms: u64, entry: Entry) {
        let first_error = self.state.errors.is_empty() && matches!(entry, Entry::Errors(_));
        // The screen stays complete even while the medium refuses records; it then says that they are not kept.
        let framed = Framed { journal: self.state.id.clone(), seq: 0, t_ms, entry };
        if let Entry::Begin(_) = framed.entry {
            self.state.apply(&Framed { journal: self.writer.id().to_owned(), ..framed.clone() });
        } else {
            self.state.apply(&framed);
        }
        self.stale = true;
        self.queue(t_ms, framed.entry);
        self.write_out();
        if first_error {
            self.sync();
        }
    }

    /// Progress that is soon followed by more of it is only shown: what a second adds is enough on record. What stands
    /// before another kind of record is kept, so that a journal opened again looks the same.
    fn queue(&mut self, t_ms: u64, entry: Entry) {
        let record = Waiting { t_ms, totals: self.state.totals(), entry };
        if matches!(record.entry, Entry::Progress(_)) {
            if t_ms >= self.progress_ms + PROGRESS_EVERY_MS {
                self.progress_ms = t_ms;
                self.held_back = None;
                self.wait(record);
            } else {
                self.held_back = Some(record);
            }
            return;
        }
        if let Some(progress) = self.held_back.take() {
            self.progress_ms = progress.t_ms;
            self.wait(progress);
        }
        self.wait(record);
    }

    fn wait(&mut self, record: Waiting) {
        if self.lost > 0 || self.waiting.len() >= MOST_WAITING {
            self.lost += 1;
        } else {
            self.waiting.push_back(record);
        }
    }

    fn write_out(&mut self) {
        if self.live.trouble().is_some() && (self.now)() < self.retry_at {
            return;
        }
        while let Some(Waiting { t_ms, entry, totals }) = self.waiting.front() {
            if let Err(error) = self.writer.append_with(*t_ms, entry, *totals) {
                self.trouble(&error);
                return;
            }
            self.waiting.pop_front();
            self.dirty = true;
        }
        self.writer.lost(std::mem::take(&mut self.lost));
    }

    fn sync(&mut self) {
        if !self.dirty {
            return;
        }
        match self.writer.sync() {
            Ok(()) => {
                self.dirty = false;
                if self.waiting.is_empty() {
                    *locked(&self.live.trouble) = None;
                }
            }
            Err(error) => self.trouble(&error),
        }
        self.synced_at = (self.now)();
    }

    fn trouble(&mut self, error: &std::io::Error) {
        let lost = if self.lost > 0 { say::recorder_lost(self.lost) } else { String::new() };
        *locked(&self.live.trouble) = Some(say::recorder_not_recorded(error.to_string(), self.waiting.len(), lost));
        self.retry_at = (self.now)() + RETRY_EVERY;
        self.stale = true;
    }

    fn keep_up(&mut self, last: bool) {
        if !self.waiting.is_empty() {
            self.write_out();
        }
        if last || (self.now)() >= self.synced_at + SYNC_EVERY {
            self.sync();
        }
        let due = self.published_at.is_none_or(|at| (self.now)() >= at + PUBLISH_EVERY);
        if self.stale && (due || last) {
            self.publish();
        }
    }

    fn publish(&mut self) {
        *locked(&self.live.state) = Arc::new(self.state.clone());
        self.published_at = Some((self.now)());
        self.stale = false;
        (self.published)();
    }
}

#[cfg(test)]
mod tests {
    use std::io;
    use std::sync::mpsc;

    use revisum_engine::news::EndReason;
    use revisum_record::journal::JournalStore;
    use revisum_record::journal::{Begin, read_journal};
    use revisum_sim::CrashStore;

    use super::*;

    /// Refuses everything until a given number of calls was made.
    #[derive(Clone, Default)]
    struct Stubborn {
        bytes: Arc<Mutex<Vec<u8>>>,
        refusals: Arc<Mutex<u32>>,
    }

    impl JournalStore for Stubborn {
        fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
            let mut left = locked(&self.refusals);
            if *left > 0 {
                *left -= 1;
                return Err(io::Error::new(io::ErrorKind::StorageFull, "no space left"));
            }
            locked(&self.bytes).extend_from_slice(bytes);
            Ok(())
        }
        fn sync(&mut self) -> io::Result<()> {
            Ok(())
        }
    }

    fn record_with(refusals: u32) -> (Live, Vec<Entry>, Vec<Entry>) {
        let store = Stubborn::default();
        *locked(&store.refusals) = refusals;
        let live = Live::default();
        let (sender, entries) = mpsc::channel();
        let told = vec![
            Entry::Begin(Box::new(Begin { machine: "m".into(), ..Begin::default() })),
            Entry::PassBegan { pass: 1, seed: 1 },
            Entry::Ended { reason: EndReason::Completed },
        ];
        for (t_ms, entry) in (0u64..).zip(&told) {
            sender.send((t_ms, entry.clone())).unwrap();
        }
        drop(sender);
        let quiet = || {};
        let now = || Duration::ZERO;
        Recorder::new(JournalWriter::new(Box::new(store.clone()), "j"), &live, &quiet, &now).record(&entries);
        let mut kept = Vec::new();
        let bytes = locked(&store.bytes).clone();
        read_journal::<Entry>(&mut bytes.as_slice(), |framed| kept.push(framed.entry)).unwrap();
        (live, told, kept)
    }

    #[test]
    fn everything_told_is_kept_and_shown() {
        let (live, told, kept) = record_with(0);
        assert_eq!(kept, told);
        assert_eq!((live.state().id.as_str(), live.state().end), ("j", Some(EndReason::Completed)));
        assert_eq!(live.trouble(), None);
    }

    /// What is on the screen reaches the medium within [`SYNC_EVERY`]: a power loss a second later finds it there.
    #[test]
    fn what_was_on_screen_for_a_second_survives_a_power_loss() {
        let (store, live, time) = (CrashStore::default(), Live::default(), std::cell::Cell::new(Duration::ZERO));
        let (quiet, now) = (|| {}, || time.get());
        let writer = JournalWriter::new(Box::new(store.clone()), "j");
        let mut recorder = Recorder::new(writer, &live, &quiet, &now);
        recorder.take(0, Entry::Begin(Box::default()));
        for pass in 1..=20 {
            recorder.take(u64::from(pass), Entry::PassBegan { pass, seed: 0 });
            recorder.keep_up(false);
            time.set(time.get() + PUBLISH_EVERY);
            recorder.keep_up(false);
            assert_eq!(live.state().pass, pass, "on the screen");
            let shown_at = time.get();
            while time.get() < shown_at + Duration::from_secs(1) {
                time.set(time.get() + PUBLISH_EVERY);
                recorder.keep_up(false);
            }
            let mut kept = RunState::default();
            read_journal::<Entry>(&mut store.after_power_loss().as_slice(), |framed| kept.apply(&framed)).unwrap();
            assert_eq!(kept.pass, pass, "on the medium");
        }
    }

    #[test]
    fn records_go_out_late_when_the_medium_refused_at_first() {
        let (live, told, kept) = record_with(1);
        assert_eq!(kept, told);
        assert_eq!(live.trouble(), None);
    }

    #[test]
    fn a_medium_that_refuses_is_said_and_the_screen_stays_complete() {
        let (live, _, kept) = record_with(u32::MAX);
        assert!(kept.is_empty());
        assert!(live.trouble().unwrap().contains("no space left"));
        assert_eq!(live.state().end, Some(EndReason::Completed));
    }
}
