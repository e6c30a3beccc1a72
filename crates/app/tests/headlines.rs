//! A hundred and twenty endings, recorded and shown: in the log, in JSON, in the list, in the report and on the screen the headline is
//! the one that the record comes to.

mod common;

use std::path::Path;

use common::driven::Driven;
use common::{run, run_json};
use revisum_engine::news::{EndReason, ErrorReport, TestEnd};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::tally::Tally;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::{Begin, Entry, Framed, Held};
use revisum_record::outcome::{Judgement, Outcome};
use revisum_record::run_state::RunState;
use revisum_records::{Job, Which, create_run};
use revisum_words::result;
use serde_json::Value;

const GIB: u64 = 1 << 30;
const WALL_MS: i64 = 1_933_766_160_000;
const ENDS: [Option<EndReason>; 5] =
    [Some(EndReason::Completed), Some(EndReason::TimeUp), Some(EndReason::Stopped), Some(EndReason::ErrorLimit), None];

fn planned(passes: Option<u32>, seconds: Option<u64>, memory: Option<u64>) -> Recipe {
    let tests = vec!["random".to_owned()];
    Recipe { passes, for_seconds: seconds, memory, ..Recipe::with_tests(Depth::Triage, tests) }
}

fn pass(number: u32, finished: bool) -> Vec<Entry> {
    let test = "random".to_owned();
    let ended = TestEnd { pass: number, test: test.clone(), finished, ..TestEnd::default() };
    vec![
        Entry::PassBegan { pass: number, seed: 1 },
        Entry::TestBegan { pass: number, test: test.clone() },
        Entry::Planted { pass: number, test, address: None, caught: true },
        Entry::TestEnded(ended),
        Entry::PassEnded { pass: number, complete: finished, seconds: 300.0 },
    ]
}

/// What can happen in a run, by number.
fn happens(what: usize) -> Vec<Entry> {
    let tally = Tally { words: 7, slots: [("A1".to_owned(), 7)].into(), ..Tally::default() };
    match what {
        0 => pass(1, true),
        1 => pass(1, false),
        2 => [pass(1, true), vec![Entry::Errors(Box::new(ErrorReport { pass: 1, test: "random".into(), tally }))]]
            .concat(),
        3 => [pass(1, true), vec![Entry::Corrected { label: "A1".into(), corrected: 4, uncorrected: 0 }]].concat(),
        4 => [pass(1, true), vec![Entry::Moved { ranges: Vec::new().into(), bytes: 10 * GIB }]].concat(),
        _ => [pass(1, true), vec![Entry::Planted { pass: 1, test: "random".into(), address: None, caught: false }]]
            .concat(),
    }
}

/// Records a run and gives its id and what it comes to.
fn record(runs: &Path, at: i64, recipe: Recipe, what: usize, end: Option<EndReason>) -> (String, Judgement) {
    let wall_ms = WALL_MS + at * 60_000;
    let (id, mut writer) = create_run(runs, "dome-1", wall_ms).unwrap();
    let module = Module { serial: "S1".into(), bytes: 16 * GIB, ..Module::default() };
    let board =
        Board { slots: vec![Slot { id: "A1".into(), module: Some(module), ..Slot::default() }], ..Board::default() };
    let held = recipe.memory.unwrap_or(15 * GIB);
    let begin = Begin {
        machine: "dome-1".into(),
        simulated: true,
        wall_ms,
        recipe: Some(recipe),
        fitted_bytes: board.fitted_bytes(),
        board,
        ..Begin::default()
    };
    let mut entries = vec![
        Entry::Begin(Box::new(begin)),
        Entry::Held(Held { bytes: held, expected: vec![("random".into(), 300.0)], ..Held::default() }),
    ];
    entries.extend(happens(what));
    entries.extend(end.map(|reason| Entry::Ended { reason }));
    let mut state = RunState::default();
    for (seq, entry) in (0u64..).zip(entries) {
        let t_ms = seq * 50_000;
        writer.append(t_ms, &entry).unwrap();
        state.apply(&Framed { journal: id.clone(), seq, t_ms, entry });
    }
    writer.sync().unwrap();
    (id, Judgement::of(&state, false))
}

#[test]
fn a_hundred_and_twenty_endings_are_told_the_same_everywhere() {
    let data = tempfile::tempdir().unwrap();
    let data = data.path();
    let runs = data.join("runs");
    std::fs::create_dir_all(&runs).unwrap();
    std::fs::create_dir_all(data.join("jobs")).unwrap();
    let plans = [
        planned(Some(1), None, None),
        planned(Some(3), None, None),
        planned(None, Some(600), None),
        planned(Some(1), None, Some(GIB)),
    ];
    let mut recorded = Vec::new();
    for recipe in &plans {
        for what in 0..6 {
            for end in ENDS {
                recorded.push(record(&runs, recorded.len() as i64, recipe.clone(), what, end));
            }
        }
    }
    assert_eq!(recorded.len(), 120);
    let mut job = Job::open(&data.join("jobs"), &runs, "dome-1", Which::Latest, WALL_MS).unwrap();
    recorded.iter().for_each(|(id, _)| job.ran(id).unwrap());
    drop(job);
    let (_, listed) = run_json(data, &["logs", "--json"]);
    let of = |id: &str| -> Value {
        let mut all = listed["runs"].as_array().unwrap().iter();
        all.find(|run| run["id"] == id).unwrap_or_else(|| panic!("{id} is not listed")).clone()
    };
    run(data, &["report", "dome-1"]);
    let folder = data.join("reports/dome-1");
    let report = std::fs::read_to_string(folder.join("report.md")).unwrap();
    let told: Value = serde_json::from_slice(&std::fs::read(folder.join("job.json")).unwrap()).unwrap();
    for (at, (id, judgement)) in recorded.iter().enumerate() {
        let headline = result::headline(judgement);
        let line = of(id);
        assert_eq!(
            (line["headline"].as_str(), line["outcome"].as_str()),
            (Some(&*headline), Some(judgement.outcome.word()))
        );
        assert_eq!(line["grade"].as_str(), Some(judgement.grade.word()), "{headline}");
        assert_eq!(told["runs"][at]["headline"].as_str(), Some(&*headline));
        assert!(report.contains(&headline), "{headline} is not in the report");
        // Of the commands that read one run, one in three: each is a program started.
        if at % 3 == 0 {
            let (_, log) = run_json(data, &["log", id, "--json"]);
            assert_eq!(
                (log["headline"].as_str(), log["complete"].as_bool()),
                (Some(&*headline), Some(judgement.complete))
            );
            assert_eq!(log["sentence"].as_str(), Some(&*result::sentence(judgement)));
            let text = String::from_utf8_lossy(&run(data, &["log", id]).stdout).into_owned();
            assert!(text.starts_with(&format!("{headline}  (simulated)\n{}\n", result::sentence(judgement))), "{text}");
        }
        assert_eq!(
            judgement.outcome == Outcome::Clean,
            judgement.complete && !judgement.has_errors() && judgement.counts.checks_missed == 0
        );
    }
    let screen = Driven::open(data, "dome-1", (200, 200));
    screen.keys(&["Escape", "8"]);
    let shown = screen.until("the list", |text| text.contains("result"));
    for (_, judgement) in &recorded {
        assert!(shown.contains(&result::headline(judgement)), "{} is not in\n{shown}", result::headline(judgement));
    }
}
