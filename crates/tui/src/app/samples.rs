//! States made by hand, for tests of every screen.

use std::sync::Arc;

use ratatui::Terminal;
use ratatui::backend::TestBackend;
use revisum_diagnose::address::{AddressMap, Cell, CellMap, Locator, Placed, Region, Stack, Way};
use revisum_diagnose::isolate::{Advice, Experiment, Forecast, Odds, Proposal, Suspect, Verdict};
use revisum_engine::news::{EndReason, ErrorReport, Progress, TestEnd};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::speed::Point;
use revisum_engine::speed::{Cache, Kind as SpeedKind, Width, Work};
use revisum_engine::sweep::BadWord;
use revisum_engine::sweep::second_look::Kind;
use revisum_engine::tally::{Sample, Tally};
use revisum_engine::units::{ByteRange, GIB, PhysAddr, Word};
use revisum_record::digest::Digest;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::{Begin, Entry, Framed, Held};
use revisum_record::outcome::{EndedBy, Grade, Headline, Judgement, Outcome, Told};
use revisum_record::run_state::RunState;
use revisum_record::speed::SpeedRecord;

use super::*;
use crate::kit::canvas::Targets;
use crate::kit::theme::Theme;
use crate::shared::facts::{Facts, Located, Trial};
use crate::shared::news::Listed;
use crate::shared::run::RunView;
use revisum_records::{RunSummary, Standing};

pub fn board() -> Board {
    let module = |serial: &str, mark: &str| Module {
        serial: serial.into(),
        maker: "Haldry".into(),
        part: "HD8G32J".into(),
        bytes: 8 * GIB,
        speed: Some(3200),
        rated_speed: Some(3200),
        ranks: Some(1),
        byte_lanes: 8,
        mark: Some(mark.into()),
        ..Module::default()
    };
    let slot = |id: &str, module| Slot { id: id.into(), channel: Some(id[..1].into()), module, ..Slot::default() };
    Board {
        mainboard: "Tarnwerk Holm M2".into(),
        firmware: "1.14".into(),
        slots: vec![
            slot("A1", Some(module("4A220093", "green dot"))),
            slot("A2", None),
            slot("B1", Some(module("4A220094", "red dot"))),
            slot("B2", None),
        ],
    }
}

pub fn advice() -> Advice {
    let odds = |suspect, probability| Odds { suspect, probability };
    let red = Suspect::Module("4A220094".into());
    let next = Experiment {
        placement: vec![("A1".into(), "4A220094".into())],
        passes: 2.0,
        minutes: 20.0,
        hands_minutes: 6.0,
        ..Experiment::default()
    };
    let forecast =
        |suspect, probability| Forecast { probability: 0.5, leader: odds(suspect, probability), rises: None };
    Advice {
        odds: vec![odds(red.clone(), 0.85), odds(Suspect::Slot("B1".into()), 0.1), odds(Suspect::NoPart, 0.05)],
        verdict: Verdict::Open(Box::new(Proposal {
            next,
            is_proof: false,
            if_errors: forecast(red, 0.99),
            if_clean: forecast(Suspect::NoPart, 0.7),
        })),
        alternatives: Vec::new(),
    }
}

pub fn errors() -> Tally {
    let mut tally = Tally::default();
    let word = BadWord { offset: 0x40, expected: 0, actual: 1 << 19 };
    (0..1204).for_each(|_| tally.add(word, 2 * GIB, "B1", Kind::Recurring, 0));
    tally.samples.push(Sample {
        address: Some(PhysAddr(2 * GIB)),
        offset: 0x40,
        expected: Word(0),
        actual: Word(1 << 19),
        kind: Kind::Recurring,
        test: "random".into(),
        pass: 1,
        element: 2,
        core: 0,
        slots: vec!["B1".into()],
        certainty: revisum_engine::places::Certainty::Certain,
    });
    tally
}

/// A run of three passes: with or without errors, going on or over.
pub fn run_state(with_errors: bool, over: bool) -> RunState {
    let tests = ["random", "address-as-data", "march-c-"].map(str::to_owned).into();
    let recipe = Recipe { passes: Some(3), ..Recipe::with_tests(Depth::Survey, tests) };
    let held = Held {
        bytes: 15 * GIB,
        ranges: vec![ByteRange::new(GIB, 16 * GIB)].into(),
        addresses_known: true,
        cores: 4,
        expected: vec![("random".into(), 4.0), ("address-as-data".into(), 3.0), ("march-c-".into(), 6.0)],
        limits: Vec::new(),
    };
    let begin = Begin {
        machine: "dome-1".into(),
        simulated: true,
        recipe: Some(recipe),
        board: board(),
        fitted_bytes: Some(16 * GIB),
        ..Begin::default()
    };
    let end = |test: &str| {
        Entry::TestEnded(TestEnd {
            pass: 1,
            test: test.into(),
            finished: true,
            errors: 0,
            bytes_swept: 60 * GIB,
            sweep_ns: 3_000_000_000,
        })
    };
    let progress = Progress {
        pass: 1,
        test: "march-c-".into(),
        notation: "down(r0,w1)".into(),
        test_ppm: 610_000,
        ..Progress::default()
    };
    let mut entries = vec![
        Entry::Begin(Box::new(begin)),
        Entry::Held(held),
        Entry::PassBegan { pass: 1, seed: 1 },
        Entry::TestBegan { pass: 1, test: "random".into() },
        end("random"),
        Entry::Planted { pass: 1, test: "random".into(), address: None, caught: true },
        end("address-as-data"),
        Entry::Progress(progress),
    ];
    if with_errors {
        let report = ErrorReport { pass: 1, test: "random".into(), tally: errors() };
        entries.push(Entry::Errors(Box::new(report)));
    }
    if over {
        entries.extend([
            end("march-c-"),
            Entry::PassEnded { pass: 1, complete: true, seconds: 30.0 },
            Entry::Ended { reason: EndReason::Completed },
        ]);
    }
    let mut state = RunState::default();
    for (seq, entry) in (0u64..).zip(entries) {
        state.apply(&Framed { journal: "2031-04-12-131600-dome-1".into(), seq, t_ms: seq * 1000, entry });
    }
    state
}

pub fn headline() -> Headline {
    Headline {
        told: Told::Errors(1204),
        place: None,
        part: None,
        ended: None,
        unproved: false,
        damaged: false,
        again: None,
    }
}

pub fn summary() -> RunSummary {
    RunSummary {
        id: "2031-04-12-131600-dome-1".into(),
        outcome: Standing::Over(Outcome::ErrorsFound),
        headline: headline(),
        grade: Grade::Errors,
        ended_by: Some(EndedBy::Plan),
        started: String::new(),
        errors: 1204,
        corrected: 3,
        slots: "B1".into(),
        arrangement: "A1 green dot, B1 red dot".into(),
        depth: "triage".into(),
        machine: "dome-1".into(),
        simulated: true,
        wall_ms: 1_933_766_160_000,
        order_ms: 1_933_766_160_000,
        text: String::new(),
        damage: None,
        elsewhere: None,
    }
}

pub fn judged(state: &RunState) -> Outcome {
    Judgement::of(state, false).outcome
}

/// Where errors are, in a thousand words; or nowhere.
pub fn located(any: bool) -> Option<Arc<Located>> {
    static SOME: std::sync::OnceLock<Option<Arc<Located>>> = std::sync::OnceLock::new();
    SOME.get_or_init(|| located_rows(1000).shared.located).clone().filter(|_| any)
}

pub fn app(with_errors: bool, over: bool) -> App {
    let state = run_state(with_errors, over);
    let trial = Trial {
        run: "20310412-131600-dome-1".into(),
        struck: None,
        moved: None,
        depth: Depth::Triage,
        settings: String::new(),
        placement: board().placement(),
        outcome: Outcome::ErrorsFound,
        headline: headline(),
        grade: Grade::Errors,
        on_all: true,
        errors: 1204,
        slots: vec!["B1".into()],
        seconds: 240.0,
        passes: 1,
    };
    let names = [("4A220093", "green dot"), ("4A220094", "red dot")];
    let facts = Facts {
        machine: "dome-1".into(),
        title: "Skerry Point, dome control".into(),
        simulated: true,
        board: board(),
        advice: with_errors.then(advice),
        trials: vec![trial],
        can_move: true,
        names: names.map(|(serial, name)| (serial.to_owned(), name.to_owned())).into(),
        wall_ms: 1_933_766_160_000,
        ..Facts::default()
    };
    let mut app = App::new(facts, View::Board, (128, 40)).0;
    app.shared.run = Some(RunView { state: Arc::new(state), over, ..RunView::default() });
    let runs = vec![summary()];
    app.told(News::Runs(Listed { runs, count: 1, ..Listed::default() }));
    app
}

pub fn drawn(app: &App, (width, height): (u16, u16), theme: &Theme) -> String {
    let mut terminal = Terminal::new(TestBackend::new(width, height)).unwrap();
    terminal.draw(|frame| app.draw(frame, theme, &Targets::default())).unwrap();
    let buffer = terminal.backend().buffer().clone();
    let rows = buffer.content().chunks(usize::from(width));
    rows.map(|row| row.iter().map(|cell| cell.symbol()).collect::<String>() + "\n").collect()
}

pub fn speed_record(complete: bool) -> SpeedRecord {
    let point = |kind, bit: u32, value: f64| Point {
        work: Work { kind, width: Width::W64, stride: 8, bytes: 1 << bit, cores: 1 },
        samples: vec![value, value * 0.75, value * 1.25],
    };
    let read = (12..28).map(|bit| point(SpeedKind::Read, bit, if bit < 16 { 64e9 } else { 4e9 }));
    let latency = (12..28).map(|bit| point(SpeedKind::Latency, bit, if bit < 16 { 1e-9 } else { 83e-9 }));
    SpeedRecord {
        cores: 1,
        caches: vec![Cache { level: 1, bytes: 32 << 10, shared_by: 1 }],
        points: read.chain(latency).collect(),
        complete,
        repeats: 3,
        ..SpeedRecord::default()
    }
}

/// A thousand words in many rows of B1, by a map.
pub fn mapped_rows(words: u64) -> (RunState, Locator) {
    let mut state = run_state(true, true);
    let cells = || CellMap::hashed(10, 4, 16, 0).unwrap();
    let ways = ["A1", "B1"].map(|slot| Way { channel_start: 0, stacks: vec![Stack::of(slot, cells())] });
    let (bytes, way_masks) = (16 * GIB, vec![1 << 8 | 1 << 14]);
    let region = Region { start: 0, bytes, ways: ways.into(), granule_bits: 8, way_masks };
    let map = AddressMap::new(vec![ByteRange::new(0, bytes)], vec![region]).unwrap();
    let locator = Locator::new(&state.begin.board, Some(map));
    state.digest = Digest::default();
    for at in 0..words {
        let cell = Cell { rank: 0, bank: (at % 5) as u32, row: (at % 7 * 1000) as u32, column: (at % 1024) as u32 };
        let place = locator.address(&Placed { slot: "B1".into(), cell }).map_or(at * 8, |place| place.0);
        state.digest.add(place + at / 1024 % 1024 * 8192, 0, 1 << 19, Kind::Recurring);
        state.timeline.add_errors(at, 1);
    }
    (state, locator)
}

pub fn located_rows(words: u64) -> App {
    let mut app = app(true, true);
    app.view = View::Locate;
    let (state, locator) = mapped_rows(words);
    let again = Some("The same word of red dot failed again.".to_owned());
    app.shared.located = Some(Arc::new(Located { again, ..Located::of(&state, &locator, &state.begin.board) }));
    app
}
