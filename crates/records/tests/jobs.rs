//! Jobs on disk: opened, continued, named, read again, and what they say as evidence.

use std::path::{Path, PathBuf};

use revisum_diagnose::isolate::{Evidence, Suspect, advise};
use revisum_engine::news::{EndReason, ErrorReport, TestEnd};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::tally::Tally;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::{Begin, BrokeOff, Entry, Held, JobEntry};
use revisum_records::{Job, Which, create_run, list_jobs};
use rstest::rstest;

const WALL_MS: i64 = 1_933_766_160_000;

struct Shop {
    folder: tempfile::TempDir,
}

fn module(serial: &str) -> Module {
    Module {
        serial: serial.into(),
        maker: "Haldry".into(),
        part: "HD8G32J".into(),
        bytes: 8 << 30,
        ..Module::default()
    }
}

fn board(fitted: &[(&str, &str)]) -> Board {
    let slot = |id: &str| Slot {
        id: id.to_owned(),
        module: fitted.iter().find(|(at, _)| *at == id).map(|(_, serial)| module(serial)),
        ..Slot::default()
    };
    Board { slots: ["A1", "B1"].map(slot).into(), ..Board::default() }
}

const BOTH: [(&str, &str); 2] = [("A1", "S1"), ("B1", "S2")];

impl Shop {
    fn new() -> Self {
        let shop = Self { folder: tempfile::tempdir().unwrap() };
        std::fs::create_dir(shop.runs()).unwrap();
        std::fs::create_dir(shop.jobs()).unwrap();
        shop
    }

    fn jobs(&self) -> PathBuf {
        self.folder.path().join("jobs")
    }

    fn runs(&self) -> PathBuf {
        self.folder.path().join("runs")
    }

    fn open(&self, machine: &str, which: Which<'_>) -> Job {
        Job::open(&self.jobs(), &self.runs(), machine, which, WALL_MS).unwrap()
    }

    /// A run with these modules: so many wrong words in B1, and its end.
    fn run(&self, fitted: &[(&str, &str)], wrong: u64, end: Option<EndReason>) -> String {
        run(&self.runs(), fitted, wrong, end)
    }
}

fn run(runs: &Path, fitted: &[(&str, &str)], wrong: u64, end: Option<EndReason>) -> String {
    let (id, mut writer) = create_run(runs, "dome-1", WALL_MS).unwrap();
    let recipe = Recipe::with_tests(Depth::Triage, vec!["random".into()]);
    let begin = Begin { machine: "dome-1".into(), recipe: Some(recipe), board: board(fitted), ..Begin::default() };
    let tally = Tally { words: wrong, slots: [("B1".to_owned(), wrong)].into(), ..Tally::default() };
    let mut entries = vec![
        Entry::Begin(Box::new(begin)),
        Entry::Held(Held { bytes: 1 << 30, expected: vec![("random".into(), 60.0)], ..Held::default() }),
        Entry::PassBegan { pass: 1, seed: 1 },
        Entry::Planted { pass: 1, test: "random".into(), address: None, caught: true },
        Entry::TestBegan { pass: 1, test: "random".into() },
    ];
    if wrong > 0 {
        entries.push(Entry::Errors(Box::new(ErrorReport { pass: 1, test: "random".into(), tally })));
    }
    entries.extend([
        Entry::TestEnded(TestEnd { pass: 1, test: "random".into(), finished: true, ..TestEnd::default() }),
        Entry::PassEnded { pass: 1, complete: true, seconds: 60.0 },
    ]);
    entries.extend(end.map(|reason| Entry::Ended { reason }));
    for (at, entry) in (0u64..).zip(&entries) {
        writer.append(at * 10_000, entry).unwrap();
    }
    writer.sync().unwrap();
    id
}

#[test]
fn what_was_written_down_is_there_at_the_next_start() {
    let shop = Shop::new();
    let mut job = shop.open("dome-1", Which::Latest);
    job.see([module("S1"), module("S2")]).unwrap();
    job.mark("S1", "red dot").unwrap();
    job.set("stock").unwrap();
    job.did_not_start("three beeps".into()).unwrap();
    let first = shop.run(&BOTH, 3, Some(EndReason::Completed));
    job.ran(&first).unwrap();
    let id = job.id().to_owned();
    drop(job);
    let again = shop.open("dome-1", Which::Latest);
    assert_eq!(again.id(), id, "the same job goes on");
    assert_eq!((again.name_of("S1"), again.name_of("S3")), ("red dot".into(), "S3".into()));
    assert_eq!(again.runs().map(|run| run.id.clone()).collect::<Vec<_>>(), [first]);
    assert_eq!(again.state().settings.as_deref(), Some("stock"));
    assert!(again.failing_recipe().is_some_and(|recipe| recipe.tests == ["random"]));
}

#[test]
fn one_program_at_a_time_writes_a_job() {
    let shop = Shop::new();
    let _open = shop.open("dome-1", Which::Latest);
    let second = Job::open(&shop.jobs(), &shop.runs(), "dome-1", Which::Latest, WALL_MS);
    let words = format!("{:#}", second.err().unwrap());
    assert!(words.contains("another Revisum may have it open"), "{words}");
    // Reading is free.
    Job::read_only(&shop.jobs(), &shop.runs(), Some("dome")).unwrap();
}

#[rstest]
#[case::none(&[], None, Err("there is no job"))]
#[case::the_only_one(&["dome-1"], None, Ok("dome-1"))]
#[case::by_part_of_its_name(&["dome-1", "stacker"], Some("stack"), Ok("stacker"))]
#[case::exactly(&["dome-1", "dome-10"], Some("dome-1"), Ok("dome-1"))]
#[case::several(&["dome-1", "dome-2"], Some("dome"), Err("more than one job"))]
#[case::which_is_not_said(&["dome-1", "stacker"], None, Err("more than one job"))]
#[case::no_such(&["dome-1"], Some("guide"), Err("no job with guide"))]
fn a_job_is_named(#[case] machines: &[&str], #[case] wanted: Option<&str>, #[case] expected: Result<&str, &str>) {
    let shop = Shop::new();
    machines.iter().for_each(|machine| drop(shop.open(machine, Which::Latest)));
    let found = Job::read_only(&shop.jobs(), &shop.runs(), wanted);
    match expected {
        Ok(id) => assert_eq!(found.unwrap().id(), id),
        Err(words) => {
            let error = found.err().unwrap().to_string();
            assert!(error.contains(words) && machines.iter().all(|machine| error.contains(machine)), "{error}");
        }
    }
}

#[test]
fn a_machine_that_comes_back_gets_a_job_of_its_own() {
    let shop = Shop::new();
    let first = shop.open("dome-1", Which::Latest).id().to_owned();
    let second = shop.open("dome-1", Which::New).id().to_owned();
    assert_ne!(first, second);
    assert_eq!(shop.open("dome-1", Which::Latest).id(), second);
    assert!(!shop.open("dome-1", Which::First).is_latest(&shop.jobs()));
    let listed: Vec<String> = list_jobs(&shop.jobs()).into_iter().map(|job| job.id).collect();
    assert_eq!(listed, [first, second]);
}

/// `(errors, end, what is noted)` and what it is as evidence; nothing where it proves nothing.
#[rstest]
#[case::clean(0, Some(EndReason::Completed), None, Some(false))]
#[case::errors(3, Some(EndReason::Completed), None, Some(true))]
#[case::broke_off_unexplained(0, None, None, Some(false))]
#[case::hung(0, None, Some(BrokeOff::Hang), Some(true))]
#[case::the_power_went(0, None, Some(BrokeOff::PowerCut), Some(false))]
#[case::errors_and_then_it_hung(3, None, Some(BrokeOff::Hang), Some(true))]
fn runs_are_evidence(
    #[case] wrong: u64,
    #[case] end: Option<EndReason>,
    #[case] how: Option<BrokeOff>,
    #[case] failed: Option<bool>,
) {
    let shop = Shop::new();
    let mut job = shop.open("dome-1", Which::Latest);
    let id = shop.run(&BOTH, wrong, end);
    job.ran(&id).unwrap();
    assert_eq!(job.unexplained().is_some(), end.is_none());
    if let Some(how) = how {
        job.decide(JobEntry::BrokeOff { run: id.clone(), how }).unwrap();
        assert!(job.unexplained().is_none(), "it was answered");
    }
    let case = job.case(&board(&BOTH), "", &[]);
    assert_eq!(case.runs.first().map(|run| run.failed()), failed);
    // Struck out it stays in the list, and proves nothing.
    job.decide(JobEntry::Struck { run: id.clone(), reason: "by hand".into() }).unwrap();
    assert!(job.case(&board(&BOTH), "", &[]).runs[0].struck);
    job.decide(JobEntry::Restored { run: id }).unwrap();
    assert!(!job.case(&board(&BOTH), "", &[]).runs[0].struck);
}

#[test]
fn a_machine_that_does_not_start_is_evidence_too() {
    let shop = Shop::new();
    let mut job = shop.open("dome-1", Which::Latest);
    job.fitted(vec![("B1".into(), "S2".into())]).unwrap();
    job.did_not_start("three beeps".into()).unwrap();
    let case = job.case(&board(&BOTH), "", &[]);
    assert_eq!(case.runs.iter().map(|run| run.evidence.clone()).collect::<Vec<_>>(), [Evidence::Dark]);
    assert_eq!(case.runs[0].placement, [("B1".to_owned(), "S2".to_owned())]);
}

#[test]
fn a_dead_module_is_found_by_starts_alone() {
    let shop = Shop::new();
    let mut job = shop.open("dome-1", Which::Latest);
    let mut tried = |placement: &[(&str, &str)], starts: bool| {
        job.fitted(placement.iter().map(|(slot, id)| ((*slot).into(), (*id).into())).collect()).unwrap();
        let entry = JobEntry::DidNotStart { sign: "dark".into() };
        job.decide(if starts { JobEntry::Started } else { entry }).unwrap();
    };
    tried(&[("A1", "S1"), ("B1", "S2")], false);
    tried(&[("A1", "S2")], false);
    tried(&[("A1", "S1")], true);
    tried(&[("B1", "S2")], false);
    assert_eq!(job.state().starts().iter().map(|start| start.started).collect::<Vec<_>>(), [false, false, true, false]);
    let advice = advise(&job.case(&board(&BOTH), "", &[]));
    let leader = &advice.odds[0];
    assert_eq!(leader.suspect, Suspect::Module("S2".into()));
    assert!(leader.probability > 0.8, "{leader:?}");
}

#[test]
fn what_nothing_reports_is_as_it_was_declared() {
    let shop = Shop::new();
    let mut job = shop.open("dome-1", Which::Latest);
    let declared = board(&[("A1", "S1"), ("B1", "")]);
    job.decide(JobEntry::Declared { slots: declared.slots.clone() }).unwrap();
    job.see(declared.modules().map(|(_, module)| module.clone()).filter(|module| module.serial == "S1")).unwrap();
    let filled = |job: &Job, mut board: Board, is_here: bool| {
        job.fill_in(&mut board, is_here);
        board
    };
    let now = filled(&job, Board::default(), true);
    assert!(now.is_declared() && now.slots.len() == 2);
    assert_eq!(filled(&job, board(&BOTH), true), board(&BOTH), "what is reported stands");
    job.declare_placement(&now, &[("B1".into(), "S1".into())]).unwrap();
    let moved = filled(&job, Board::default(), true);
    assert_eq!(moved.placement(), [("B1".to_owned(), "S1".to_owned())]);
    job.declare_placement(&moved, &[]).unwrap();
    let empty = filled(&job, Board::default(), true);
    assert_eq!(job.loose(&empty).iter().map(|module| module.serial.clone()).collect::<Vec<_>>(), ["S1"]);
    // Of a machine that stands elsewhere what was seen last is known, and nothing of one that was never seen.
    let mut seen = shop.open("spectro", Which::Latest);
    assert_eq!(filled(&seen, Board::default(), false), Board::default());
    seen.look(&board(&BOTH), 0).unwrap();
    assert_eq!(filled(&seen, Board::default(), false).placement(), board(&BOTH).placement());
}

#[test]
fn a_journal_that_is_gone_is_no_evidence_and_spoils_nothing() {
    let shop = Shop::new();
    let mut job = shop.open("dome-1", Which::Latest);
    let (kept, lost) = (shop.run(&BOTH, 0, Some(EndReason::Completed)), shop.run(&BOTH, 5, Some(EndReason::Completed)));
    job.ran(&kept).unwrap();
    job.ran(&lost).unwrap();
    drop(job);
    std::fs::remove_file(shop.runs().join(format!("{lost}.journal"))).unwrap();
    let job = shop.open("dome-1", Which::Latest);
    assert_eq!(job.runs().map(|run| run.id.clone()).collect::<Vec<_>>(), [kept]);
    assert_eq!(job.state().runs, [job.state().runs[0].clone(), lost], "that it was made stays written down");
}

#[test]
fn modules_are_written_down_once_and_only_with_a_serial_number() {
    let shop = Shop::new();
    let mut job = shop.open("dome-1", Which::Latest);
    job.see([module("S1"), module(""), module("S1")]).unwrap();
    job.see([module("S1")]).unwrap();
    assert_eq!(job.state().modules.len(), 1);
    job.mark("S1", "red dot").unwrap();
    job.mark("S1", "").unwrap();
    assert_eq!(job.mark_of("A1", &module("S1")), None, "a mark that was taken off is gone");
}
