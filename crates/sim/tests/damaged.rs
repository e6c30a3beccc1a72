//! No damage makes a result better: journals of all kinds, with every bit turned over, every byte cut, every line lost, doubled or swapped, every
//! sector zeroed. A sample of it in every test; all of it on request.

mod common;

use std::io;
use std::ops::Range;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};

use common::{machine, timed};
use revisum_engine::news::EndReason;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::fitted::Module;
use revisum_record::journal::{
    BrokeOff, Entry, Fitting, Intake, JobEntry, JobState, JournalStore, JournalWriter, Plan, Reading, SECTOR, filler,
    read_brief, read_journal,
};
use revisum_record::outcome::{Claim, Grade, Judgement, Outcome};
use revisum_record::run_state::RunState;
use revisum_record::totals::Totals;

/// What a run tells, each with its milliseconds.
type Timed = Vec<(u64, Entry)>;

#[derive(Clone, Default)]
struct Shelf(Arc<Mutex<Vec<u8>>>);

impl JournalStore for Shelf {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.0.lock().unwrap().extend_from_slice(bytes);
        Ok(())
    }
    fn sync(&mut self) -> io::Result<()> {
        let mut all = self.0.lock().unwrap();
        let fill = filler(all.len() as u64);
        all.extend_from_slice(fill.as_bytes());
        Ok(())
    }
}

/// A journal, and what it tells when nothing happened to it.
struct Journal {
    name: String,
    bytes: Vec<u8>,
    /// Where each line is, with its line end, and what it tells of all before it; nothing for a line that only fills.
    lines: Vec<(Range<usize>, Option<Totals>)>,
    job: bool,
    truth: Seen,
}

/// What a reader makes of it.
#[derive(Clone, Debug, PartialEq)]
struct Seen {
    judgement: Judgement,
    /// Of a job: whether anything is said to be wrong, and what it knows of.
    damaged: bool,
    runs: usize,
}

fn of_job(bytes: &[u8]) -> Seen {
    let mut state = JobState::default();
    let reading = read_journal::<JobEntry>(&mut &*bytes, |framed| state.apply(&framed.entry)).unwrap();
    let damaged = reading.damage.any();
    Seen { judgement: Judgement::of(&RunState::default(), false), damaged, runs: state.runs.len() }
}

fn of_run(bytes: &[u8]) -> Seen {
    let (mut full, mut brief) = (RunState::default(), RunState::default());
    let reading = read_journal(&mut &*bytes, |framed| full.apply(&framed)).unwrap();
    let short: Reading = read_brief(&mut &*bytes, |framed| brief.absorb(framed)).unwrap();
    assert_eq!(short, reading, "a list tells the same damage as the journal itself");
    full.heed(&reading);
    brief.heed(&reading);
    let judgement = Judgement::of(&full, false);
    let listed = Judgement::of(&brief, false);
    assert_eq!((listed.outcome, listed.counts), (judgement.outcome, judgement.counts), "a list tells the same result");
    Seen { judgement, damaged: reading.damage.any(), runs: 0 }
}

impl Journal {
    fn new(name: String, bytes: Vec<u8>, job: bool) -> Self {
        let truth = if job { of_job(&bytes) } else { of_run(&bytes) };
        assert!(!truth.damaged, "{name}");
        let mut lines = Vec::new();
        let mut at = 0;
        for line in bytes.split_inclusive(|byte| *byte == b'\n') {
            let text = line.trim_ascii();
            let totals = (!text.is_empty()).then(|| {
                let value: serde_json::Value = serde_json::from_slice(text).unwrap();
                value.get("sum").map_or_else(Totals::default, |sum| serde_json::from_value(sum.clone()).unwrap())
            });
            lines.push((at..at + line.len(), totals));
            at += line.len();
        }
        Self { name, bytes, lines, job, truth }
    }

    /// What this comes to, of which the lines that `sound` tells are as they were.
    fn judge(&self, what: &str, bytes: &[u8], sound: &dyn Fn(usize) -> bool) {
        let told = || self.lines.iter().enumerate().filter(|(at, _)| sound(*at));
        let lost = self.lines.iter().enumerate().any(|(at, (range, totals))| {
            let same = |(other, (there, _)): (usize, &(Range<usize>, _))| {
                sound(other) && self.bytes[there.clone()] == self.bytes[range.clone()]
            };
            totals.is_some() && !sound(at) && !self.lines.iter().enumerate().any(same)
        });
        if self.job {
            let seen = of_job(bytes);
            assert!(seen.runs <= self.truth.runs, "{}: {what}: more runs than there were", self.name);
            // A job whose last records are cut off is the job as it was before them.
            let cut = self.bytes.starts_with(bytes);
            assert!(seen.damaged || !lost || cut, "{}: {what}: a record is lost and nobody says so", self.name);
            return;
        }
        let worst = told().filter_map(|(_, (_, totals))| *totals).fold(Totals::default(), Totals::worst);
        let (seen, truth) = (of_run(bytes).judgement, &self.truth.judgement);
        let whole = || format!("{}: {what}: {seen:?}", self.name);
        assert!(rank(&seen) >= rank(truth) || seen.has_errors(), "{}", whole());
        assert!(seen.counts.errors >= worst.errors && seen.counts.corrected >= worst.corrected, "{}", whole());
        assert!(seen.counts.uncorrected >= worst.uncorrected, "{}", whole());
        assert!(seen.counts.miscalculated >= worst.miscalculated, "{}", whole());
        assert!(u64::from(seen.counts.checks_missed) >= worst.checks_missed, "{}", whole());
        if lost {
            assert!(seen.outcome != Outcome::Clean && seen.grade != Grade::Clean && !seen.complete, "{}", whole());
        }
        if truth.has_errors() && !seen.has_errors() {
            assert!(
                matches!(seen.outcome, Outcome::NotWhole | Outcome::Interrupted | Outcome::CheckingFailed),
                "{}",
                whole()
            );
        }
        if seen.outcome == Outcome::NotWhole {
            assert_eq!(seen.claim, Claim::TooLittle, "{}", whole());
        }
        assert!(seen.done.passes <= truth.done.passes, "{}", whole());
    }

    /// The lines that a change of these bytes leaves as they were.
    fn untouched(&self, changed: Range<usize>) -> impl Fn(usize) -> bool + '_ {
        move |at| {
            let line = &self.lines[at].0;
            line.end <= changed.start || changed.end <= line.start
        }
    }

    fn cases(&self) -> Vec<Case> {
        let (bytes, lines) = (self.bytes.len(), self.lines.len());
        let mut all: Vec<Case> = (0..bytes * 8).map(Case::Flip).collect();
        all.extend((0..bytes).map(Case::Cut));
        all.extend((0..lines).map(Case::Lost));
        all.extend((0..lines).map(Case::Doubled));
        all.extend((0..lines).flat_map(|a| (0..a).map(move |b| Case::Swapped(b, a))));
        all.extend((0..bytes.div_ceil(SECTOR as usize)).map(Case::Zeroed));
        all
    }

    fn spoil(&self, case: Case) {
        let of = |at: usize| &self.bytes[self.lines[at].0.clone()];
        let (what, mut bytes) = (format!("{case:?}"), self.bytes.clone());
        match case {
            Case::Flip(bit) => {
                bytes[bit / 8] ^= 1 << (bit % 8);
                // A turned line end makes one line of two.
                let end = if self.bytes[bit / 8] == b'\n' { bit / 8 + 2 } else { bit / 8 + 1 };
                self.judge(&what, &bytes, &self.untouched(bit / 8..end));
            }
            Case::Cut(length) => {
                // A line that lacks only its end is whole.
                self.judge(&what, &self.bytes[..length], &self.untouched(length + 1..usize::MAX));
            }
            Case::Lost(line) => {
                bytes.drain(self.lines[line].0.clone());
                self.judge(&what, &bytes, &|at| at != line);
            }
            Case::Doubled(line) => {
                let (at, copy) = (self.lines[line].0.end, of(line).to_vec());
                bytes.splice(at..at, copy);
                self.judge(&what, &bytes, &|_| true);
            }
            Case::Swapped(first, second) => {
                let order = (0..self.lines.len()).map(|at| match at {
                    _ if at == first => second,
                    _ if at == second => first,
                    _ => at,
                });
                let bytes: Vec<u8> = order.flat_map(|at| of(at).iter().copied()).collect();
                self.judge(&what, &bytes, &|_| true);
            }
            Case::Zeroed(sector) => {
                let range = sector * SECTOR as usize..((sector + 1) * SECTOR as usize).min(bytes.len());
                bytes[range.clone()].fill(0);
                // What stood before a lost line end is one line with it.
                self.judge(&what, &bytes, &self.untouched(range.start..range.end + 1));
            }
        }
    }
}

/// From the best on.
fn rank(judgement: &Judgement) -> u32 {
    match judgement.outcome {
        Outcome::Clean if judgement.grade == Grade::Clean => 0,
        Outcome::Clean | Outcome::CleanSoFar => 1,
        Outcome::CutShort => 2,
        Outcome::Interrupted | Outcome::NotWhole | Outcome::ErrorsFound | Outcome::CheckingFailed => 3,
    }
}

#[derive(Clone, Copy, Debug)]
enum Case {
    Flip(usize),
    Cut(usize),
    Lost(usize),
    Doubled(usize),
    Swapped(usize, usize),
    Zeroed(usize),
}

/// A run as the recorder writes it: totals in every record, a sync now and then, copies at the end.
fn journal_of(name: &str, entries: Timed, whole: bool) -> Journal {
    let shelf = Shelf::default();
    let mut writer = JournalWriter::new(Box::new(shelf.clone()), name);
    let mut state = RunState::default();
    for (at, (t_ms, entry)) in entries.into_iter().enumerate() {
        let framed = revisum_record::journal::Framed { journal: name.to_owned(), seq: at as u64, t_ms, entry };
        state.apply(&framed);
        writer.append_with(t_ms, &framed.entry, state.totals()).unwrap();
        if at % 4 == 3 {
            writer.sync().unwrap();
        }
    }
    if whole {
        writer.finish().unwrap();
    }
    let bytes = shelf.0.lock().unwrap().clone();
    Journal::new(name.to_owned(), bytes, false)
}

fn recipe(passes: u32, memory: Option<u64>) -> Recipe {
    let tests = ["march-c-", "random"].map(str::to_owned).to_vec();
    Recipe { passes: Some(passes), memory, ..Recipe::with_tests(Depth::Triage, tests) }
}

/// Reports of errors that are kept of a flood.
const MOST_REPORTS: usize = 40;

/// Little enough of a run that all of it can be damaged.
fn short(entries: Timed) -> Timed {
    let (mut reports, mut told) = (0, 0);
    let keep = |(_, entry): &(u64, Entry)| match entry {
        Entry::Errors(_) => {
            reports += 1;
            reports <= MOST_REPORTS
        }
        Entry::Progress(_) | Entry::Heat { .. } => {
            told += 1;
            told % 3 == 0
        }
        _ => true,
    };
    let mut kept: Timed = entries.into_iter().filter(keep).collect();
    for (_, entry) in &mut kept {
        match entry {
            Entry::Errors(report) => report.tally.samples.truncate(2),
            Entry::Held(held) => held.ranges = Vec::new().into(),
            // Nothing is left out: a clean run is clean without a reduction.
            Entry::Begin(begin) => (begin.fitted_bytes, begin.usable_bytes) = (Some(256 << 20), 256 << 20),
            _ => {}
        }
    }
    kept
}

/// A few passes of a machine, as the engine tells them.
fn told(name: &str, passes: u32, memory: Option<u64>) -> Timed {
    short(timed(&machine(name, 3), &recipe(passes, memory), 11))
}

/// With this in the middle of it.
fn with(mut entries: Timed, more: Vec<Entry>) -> Timed {
    let at = entries.len() / 2;
    let t_ms = entries[at].0;
    entries.splice(at..at, more.into_iter().map(|entry| (t_ms, entry)));
    entries
}

fn until(mut entries: Timed, share: f64, end: Option<EndReason>) -> Timed {
    entries.truncate((entries.len() as f64 * share) as usize);
    let t_ms = entries.last().map_or(0, |last| last.0);
    entries.extend(end.map(|reason| (t_ms, Entry::Ended { reason })));
    entries
}

/// Twenty runs of all kinds.
fn runs(passes: u32) -> Vec<Journal> {
    let corrected = |count| Entry::Corrected { label: "mc0 A1".into(), corrected: count, uncorrected: 0 };
    let missed = Entry::Planted { pass: 1, test: "random".into(), address: None, caught: false };
    let uncorrected = Entry::Uncorrected { address: None, slots: vec!["A1".into()], bytes: 1 << 20 };
    let moved = Entry::Moved { ranges: Vec::new().into(), bytes: 200 << 20 };
    let wrong = Entry::Miscalculated { pass: 1, test: "random".into(), numbers: 3 };
    let clean = || told("frontdesk", passes, Some(256 << 20));
    let mut all: Vec<(String, Timed, bool)> =
        ["dome-1", "tracker", "archive", "plates", "meteo", "spectro", "guide", "allsky", "stacker"]
            .map(|name| (name.to_owned(), told(name, passes, None), true))
            .into();
    let mut put = |name: &str, entries, whole| all.push((name.to_owned(), entries, whole));
    put("clean", clean(), true);
    put("clean-killed-at-the-end", clean(), false);
    put("corrected", with(clean(), vec![corrected(2), corrected(5)]), true);
    put("self-check-missed", with(clean(), vec![missed]), true);
    put("uncorrected", with(clean(), vec![uncorrected]), true);
    put("moved", with(clean(), vec![moved]), true);
    put("computed-wrong", with(clean(), vec![wrong]), true);
    put("paused", with(clean(), vec![Entry::Paused, Entry::Resumed]), true);
    put("stopped", until(clean(), 0.6, Some(EndReason::Stopped)), true);
    put("broken-off", until(clean(), 0.7, None), false);
    put("broken-off-with-errors", until(told("dome-1", passes, None), 0.9, None), false);
    all.into_iter().map(|(name, entries, whole)| journal_of(&name, entries, whole)).collect()
}

/// Ten jobs, of which each does a little more than the one before.
fn jobs() -> Vec<Journal> {
    let module = |serial: &str| Module { serial: serial.into(), bytes: 8 << 30, ..Module::default() };
    let placement = vec![("A1".to_owned(), "S1".to_owned())];
    let totals = Totals { errors: 4, ..Totals::default() };
    let intake = Intake { owner: "A. Brandt".into(), symptom: "stops".into(), ..Intake::default() };
    let steps = vec![
        vec![JobEntry::Seen { module: module("S1") }],
        vec![JobEntry::Fitted { fitting: Fitting { placement: placement.clone() } }],
        vec![JobEntry::TakenIn { intake }],
        vec![JobEntry::Ran { run: "r1".into() }, JobEntry::Sealed { run: "r1".into(), records: 40, totals }],
        vec![JobEntry::Planned { plan: Plan { placement, passes: 2, ..Plan::default() } }],
        vec![JobEntry::Ran { run: "r2".into() }, JobEntry::BrokeOff { run: "r2".into(), how: BrokeOff::Hang }],
        vec![JobEntry::Struck { run: "r2".into(), reason: "the cable".into() }],
        vec![JobEntry::Restored { run: "r2".into() }, JobEntry::KnownGood { module: "S1".into(), good: true }],
        vec![JobEntry::DidNotStart { sign: "three beeps".into() }],
        vec![JobEntry::Closed { answer: "S1 is at fault.".into() }],
    ];
    (1..=steps.len())
        .map(|count| {
            let shelf = Shelf::default();
            let mut writer = JournalWriter::new(Box::new(shelf.clone()), "dome-1");
            let opened = JobEntry::Opened { format: 2, machine: "dome-1".into(), wall_ms: 7 };
            for entry in [opened].into_iter().chain(steps[..count].concat()) {
                writer.append(0, &entry).unwrap();
                writer.sync().unwrap();
            }
            writer.finish().unwrap();
            let bytes = shelf.0.lock().unwrap().clone();
            Journal::new(format!("job-{count}"), bytes, true)
        })
        .collect()
}

/// Tries every `every`-th case of each journal, on all cores, and returns how many.
fn try_all(journals: &[Journal], every: usize) -> usize {
    let tried = AtomicUsize::new(0);
    for journal in journals {
        let cases: Vec<Case> = journal.cases().into_iter().step_by(every).collect();
        let next = AtomicUsize::new(0);
        std::thread::scope(|scope| {
            for _ in 0..std::thread::available_parallelism().map_or(1, usize::from) {
                scope.spawn(|| {
                    while let Some(case) = cases.get(next.fetch_add(1, Ordering::Relaxed)) {
                        journal.spoil(*case);
                    }
                });
            }
        });
        tried.fetch_add(cases.len(), Ordering::Relaxed);
        println!(
            "{}: {} bytes, {:?}, {} cases",
            journal.name,
            journal.bytes.len(),
            journal.truth.judgement.outcome,
            cases.len()
        );
    }
    tried.into_inner()
}

#[test]
fn no_damage_improves_a_result() {
    assert!(try_all(&runs(2), 997) > 2_000);
    assert!(try_all(&jobs(), 97) > 4_000);
}

#[test]
#[ignore = "takes some minutes: `cargo test --release -p revisum-sim --test damaged jobs -- --ignored --nocapture`"]
fn no_damage_improves_any_of_the_jobs() {
    let tried = try_all(&jobs(), 1);
    println!("{tried} cases");
    assert!(tried >= 400_000);
}

#[test]
#[ignore = "takes most of an hour: `cargo test --release -p revisum-sim --test damaged runs -- --ignored --nocapture`"]
fn no_damage_improves_any_of_the_runs_in_ten_million_cases() {
    let tried: usize = (1..=4).map(|passes| try_all(&runs(passes), 1)).sum();
    println!("{tried} cases");
    assert!(tried >= 10_000_000);
}
