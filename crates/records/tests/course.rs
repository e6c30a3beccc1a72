//! The course of a job: what is done, what is open, and what a step back voids.

use std::path::Path;

use revisum_diagnose::isolate::advise;
use revisum_engine::news::{EndReason, ErrorReport, TestEnd};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::tally::Tally;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::{Begin, Entry, Held, Intake, JobEntry, OwnerTold, Stage, Tick};
use revisum_records::{Course, Job, Which, create_run};
use rstest::rstest;

const WALL_MS: i64 = 1_933_766_160_000;

fn board(fitted: &[(&str, &str)]) -> Board {
    let module = |serial: &&str| Module { serial: (**serial).into(), bytes: 8 << 30, ..Module::default() };
    let slot = |id: &str| Slot {
        id: id.to_owned(),
        module: fitted.iter().find(|(at, _)| *at == id).map(|(_, serial)| module(serial)),
        ..Slot::default()
    };
    Board { slots: ["A1", "B1"].map(slot).into(), ..Board::default() }
}

/// A whole run of four passes: of an hour where it is clean, of a minute where it is not.
fn run(job: &mut Job, runs: &Path, fitted: &[(&str, &str)], depth: Depth, wrong: u64) {
    run_for(job, runs, fitted, depth, wrong, if wrong > 0 { 60 } else { 3600 });
}

fn run_for(job: &mut Job, runs: &Path, fitted: &[(&str, &str)], depth: Depth, wrong: u64, seconds: u64) {
    let (id, mut writer) = create_run(runs, "dome-1", WALL_MS).unwrap();
    let recipe = Recipe { passes: Some(4), ..Recipe::with_tests(depth, vec!["random".into()]) };
    let begin = Begin { machine: "dome-1".into(), recipe: Some(recipe), board: board(fitted), ..Begin::default() };
    let held = Held { bytes: 1 << 30, expected: vec![("random".into(), 60.0)], ..Held::default() };
    let mut entries = vec![Entry::Begin(Box::new(begin)), Entry::Held(held)];
    for pass in 1..=4 {
        let test = || "random".to_owned();
        entries.push(Entry::PassBegan { pass, seed: 1 });
        entries.push(Entry::Planted { pass, test: test(), address: None, caught: true });
        entries.push(Entry::TestBegan { pass, test: test() });
        if wrong > 0 {
            let tally = Tally { words: wrong, slots: [("B1".to_owned(), wrong)].into(), ..Tally::default() };
            entries.push(Entry::Errors(Box::new(ErrorReport { pass, test: test(), tally })));
        }
        entries.push(Entry::TestEnded(TestEnd { pass, test: test(), finished: true, ..TestEnd::default() }));
        entries.push(Entry::PassEnded { pass, complete: true, seconds: seconds as f64 / 4.0 });
    }
    entries.push(Entry::Ended { reason: EndReason::Completed });
    for (at, entry) in (0u64..).zip(&entries) {
        writer.append(at * seconds * 1000 / (entries.len() - 1) as u64, entry).unwrap();
    }
    writer.sync().unwrap();
    drop(writer);
    job.ran(&id).unwrap();
}

fn course(job: &mut Job, fitted: &[(&str, &str)]) -> Course {
    job.go_back_if_failed().unwrap();
    let case = job.case(&board(fitted), "", &[]);
    let course = job.course(&case, Some(&advise(&case)), &board(fitted));
    job.note_course(&course, WALL_MS).unwrap();
    job.course(&case, Some(&advise(&case)), &board(fitted))
}

struct Shop {
    folder: tempfile::TempDir,
}

impl Shop {
    fn open() -> (Self, Job) {
        let shop = Self { folder: tempfile::tempdir().unwrap() };
        for name in ["jobs", "runs"] {
            std::fs::create_dir(shop.folder.path().join(name)).unwrap();
        }
        let job = shop.again();
        (shop, job)
    }

    fn again(&self) -> Job {
        Job::open(&self.folder.path().join("jobs"), &self.runs(), "dome-1", Which::Latest, WALL_MS).unwrap()
    }

    fn runs(&self) -> std::path::PathBuf {
        self.folder.path().join("runs")
    }
}

const BOTH: [(&str, &str); 2] = [("A1", "S1"), ("B1", "S2")];
const WITHOUT: [(&str, &str); 1] = [("A1", "S1")];
const REPLACED: [(&str, &str); 2] = [("A1", "S1"), ("B1", "S9")];

/// What is run while nothing failed: as the complaint asks, deeper each time, and never twice the same. Runs of fewer modules do not count.
#[rstest]
#[case::as_it_comes(&[], &[], Some(Depth::Triage))]
#[case::under_load(&["under-load"], &[], Some(Depth::Survey))]
#[case::some_nights(&["some-days"], &[], Some(Depth::Overnight))]
#[case::deeper(&[], &[(true, Depth::Triage)], Some(Depth::Survey))]
#[case::deepest(&["under-load"], &[(true, Depth::Survey)], Some(Depth::Overnight))]
#[case::nothing_more(&[], &[(true, Depth::Overnight), (true, Depth::Triage)], None)]
#[case::other_modules(&[], &[(false, Depth::Overnight)], Some(Depth::Triage))]
fn clean_runs_go_deeper_until_there_is_nothing_deeper(
    #[case] picked: &[&str],
    #[case] clean: &[(bool, Depth)],
    #[case] expected: Option<Depth>,
) {
    let (shop, mut job) = Shop::open();
    job.take_in(Intake { picked: picked.iter().map(|name| (*name).to_owned()).collect(), ..Intake::default() })
        .unwrap();
    for (whole, depth) in clean {
        let fitted: &[(&str, &str)] = if *whole { &BOTH } else { &WITHOUT };
        run(&mut job, &shop.runs(), fitted, *depth, 0);
    }
    let course = course(&mut job, &BOTH);
    assert_eq!(course.next_depth, expected);
    assert_eq!(course.is_done(Stage::RuledOut), Some(expected.is_none()));
    assert_eq!(course.is_done(Stage::Found), None, "nothing failed");
}

fn tick(job: &mut Job, tick: Tick) {
    job.decide(JobEntry::Ticked { tick, done: true, wall_ms: WALL_MS }).unwrap();
}

/// A module that fails in both slots, and the rest clean without it: found.
fn found() -> (Shop, Job) {
    found_after(60)
}

/// The same, where it fails once in so many seconds.
fn found_after(seconds: u64) -> (Shop, Job) {
    let (shop, mut job) = Shop::open();
    job.see(board(&BOTH).modules().map(|(_, module)| module.clone())).unwrap();
    for _ in 0..2 {
        run_for(&mut job, &shop.runs(), &BOTH, Depth::Triage, 9, seconds);
        run_for(&mut job, &shop.runs(), &[("A1", "S2")], Depth::Triage, 9, seconds);
        run(&mut job, &shop.runs(), &[("B1", "S1")], Depth::Triage, 0);
        run(&mut job, &shop.runs(), &WITHOUT, Depth::Triage, 0);
    }
    let course = course(&mut job, &WITHOUT);
    let advice = advise(&job.case(&board(&WITHOUT), "", &[]));
    assert_eq!(course.present(), Some(Stage::Ordered), "{advice:?}");
    (shop, job)
}

#[test]
fn a_part_is_found_ordered_fitted_proved_and_handed_over() {
    let (shop, mut job) = found();
    tick(&mut job, Tick::Ordered);
    let ordered = course(&mut job, &WITHOUT);
    assert_eq!((ordered.present(), ordered.awaits_part), (Some(Stage::Fitted), true));
    // On a real machine the new module is known once it sits in its slot.
    let fitted = course(&mut job, &REPLACED);
    assert_eq!((fitted.present(), fitted.awaits_part), (Some(Stage::Proved), false));
    assert_eq!(fitted.leaves.unwrap().0.len(), 2, "no slot stays empty");
    run(&mut job, &shop.runs(), &REPLACED, Depth::Triage, 0);
    assert_eq!(course(&mut job, &REPLACED).present(), Some(Stage::Proved), "a triage proves no repair");
    run(&mut job, &shop.runs(), &REPLACED, Depth::Survey, 0);
    let proved = course(&mut job, &REPLACED);
    assert_eq!(proved.present(), Some(Stage::Restored));
    proved.to_confirm.iter().for_each(|(next, _)| tick(&mut job, *next));
    // After a restart it goes on where it was.
    drop(job);
    let mut job = shop.again();
    assert_eq!(course(&mut job, &REPLACED).present(), Some(Stage::HandedOver));
    job.decide(JobEntry::Closed { answer: "done".into() }).unwrap();
    assert_eq!(course(&mut job, &REPLACED).present(), None);
}

#[test]
fn without_a_replacement_what_is_left_is_proved() {
    let (shop, mut job) = found();
    tick(&mut job, Tick::NothingOrdered);
    assert_eq!(course(&mut job, &WITHOUT).present(), Some(Stage::Proved));
    run(&mut job, &shop.runs(), &WITHOUT, Depth::Survey, 0);
    assert_eq!(course(&mut job, &WITHOUT).present(), Some(Stage::Restored));
}

/// What failed once in two hours is not proved by an hour, and no longer waited for than a night; that it is not proved stays.
#[test]
fn a_rare_fault_takes_a_longer_proof() {
    let (shop, mut job) = found_after(7200);
    tick(&mut job, Tick::NothingOrdered);
    run(&mut job, &shop.runs(), &WITHOUT, Depth::Survey, 0);
    let after_an_hour = course(&mut job, &WITHOUT);
    assert_eq!((after_an_hour.present(), after_an_hour.proof_given_up), (Some(Stage::Proved), false));
    assert!(after_an_hour.proof_left_s > 8.0 * 3600.0, "{after_an_hour:?}");
    run_for(&mut job, &shop.runs(), &WITHOUT, Depth::Overnight, 0, 8 * 3600);
    let after_a_night = course(&mut job, &WITHOUT);
    assert_eq!((after_a_night.present(), after_a_night.proof_given_up), (Some(Stage::Proved), true));
}

/// Nobody made anything of what was found: it failed again.
#[rstest]
#[case::in_the_proof(true)]
#[case::at_its_owner(false)]
fn a_step_back_opens_what_comes_after_it(#[case] in_the_proof: bool) {
    let (shop, mut job) = found();
    tick(&mut job, Tick::Ordered);
    job.decide(JobEntry::Closed { answer: "done".into() }).unwrap();
    match in_the_proof {
        true => run(&mut job, &shop.runs(), &REPLACED, Depth::Survey, 9),
        false => {
            let placement = REPLACED.map(|(slot, id)| (slot.to_owned(), id.to_owned())).into();
            let told = OwnerTold { came_back: true, hours: 20, placement, settings: String::new() };
            job.decide(JobEntry::OwnerTold { told }).unwrap();
        }
    }
    let course = course(&mut job, &REPLACED);
    assert_ne!(course.is_done(Stage::HandedOver), Some(true));
    assert!(job.state().closed.is_none() && job.state().ticks.is_empty());
    // What failed then is a question of its own, or is named with the first one.
    assert!(matches!(course.present(), Some(Stage::Found | Stage::Ordered)), "{course:?}");
}
