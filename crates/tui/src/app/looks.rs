//! Every screen at every size that it promises, from a state made by hand.

use std::sync::Arc;

use crossterm::event::KeyCode;
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use revisum_diagnose::address::{AddressMap, Cell, CellMap, Locator, Placed, Region, Stack, Way};
use revisum_diagnose::board::{Finding, Found, Inventory, Unknown, Weight};
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
use rstest::rstest;

use super::*;
use crate::booted::Kept;
use crate::kit::canvas::Targets;
use crate::kit::theme::Theme;
use crate::shared::facts::{Facts, Located, Trial};
use crate::shared::news::Listed;
use crate::shared::run::RunView;
use revisum_records::{Recorded, RunSummary, Standing};

fn board() -> Board {
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

fn advice() -> Advice {
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

fn errors() -> Tally {
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

fn headline() -> Headline {
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

fn drawn(app: &App, (width, height): (u16, u16), theme: &Theme) -> String {
    let mut terminal = Terminal::new(TestBackend::new(width, height)).unwrap();
    terminal.draw(|frame| app.draw(frame, theme, &Targets::default())).unwrap();
    let buffer = terminal.backend().buffer().clone();
    let rows = buffer.content().chunks(usize::from(width));
    rows.map(|row| row.iter().map(|cell| cell.symbol()).collect::<String>() + "\n").collect()
}

/// What a mainboard calls its slots can be long, and memory can end at any address: neither is cut, and neither pushes out what is said.
#[rstest]
fn long_names_and_odd_ends_keep_their_room(#[values((80, 25), (112, 30), (128, 40))] size: (u16, u16)) {
    let mut app = app(false, false);
    let rename = |board: &mut Board| {
        board.slots.iter_mut().for_each(|slot| slot.id = format!("Channel{}-DIMM{}", &slot.id[..1], &slot.id[1..]));
    };
    let mut state = app.shared.run.as_ref().unwrap().state.as_ref().clone();
    state.held.ranges = [ByteRange::new(0, GIB - 100_000)].into_iter().collect();
    rename(&mut state.begin.board);
    rename(&mut app.shared.facts.board);
    app.shared.run.as_mut().unwrap().state = Arc::new(state);
    app.view = View::Run;
    let screen = drawn(&app, size, &Theme::full());
    assert!(screen.contains("ChannelA-DIMM1  "), "{screen}");
    assert_eq!(screen.matches("clean so far").count(), 2, "{screen}");
    assert!(screen.contains("1023.9 MiB"), "{screen}");
}

#[rstest]
fn what_matters_is_on_every_size(#[values((80, 25), (128, 40), (160, 47))] size: (u16, u16)) {
    let themes = [Theme::full(), Theme::sixteen(Theme::full().marks)];
    let expected: [(View, &[&str]); 5] = [
        (View::Board, &["A1", "B1", "mainboard", "Tarnwerk Holm M2", "4A220093", "1 204 errors"]),
        (View::Recipe, &["triage", "MATS+", "random", "Enter run triage"]),
        (
            View::Run,
            &[
                "1 204 memory errors",
                "random",
                "pass 1",
                "DQ 19 reads 1 for 0",
                "repeats after rewrite",
                "0x0000 8000 0000",
            ],
        ),
        (
            View::Swap,
            &["NEXT", "red dot alone in A1", "Take green dot out of A1", "if clean", "suspicion", "1 204 errors, B1"],
        ),
        (View::Logs, &["2031-04-12 13:16", "1 204 memory errors", "Enter open"]),
    ];
    for (view, words) in expected {
        for theme in &themes {
            let mut app = app(true, true);
            app.view = view;
            let screen = drawn(&app, size, theme);
            for word in words {
                assert!(screen.contains(word), "{word:?} is missing in {view:?} at {size:?}:\n{screen}");
            }
            assert!(screen.contains("simulated") && screen.contains("? keys"), "{screen}");
        }
    }
}

#[rstest]
#[case::clean(false, true, "1 of 3 passes")]
#[case::clean_so_far(false, false, "Clean so far: first pass not finished.")]
#[case::errors_while_running(true, false, "1 204 memory errors")]
fn the_run_in_words(#[case] with_errors: bool, #[case] over: bool, #[case] words: &str) {
    let mut app = app(with_errors, over);
    app.view = View::Run;
    for size in [(80, 25), (128, 40)] {
        let screen = drawn(&app, size, &Theme::full());
        assert!(screen.contains(words), "{screen}");
        assert_eq!(screen.contains("passed, 1 of 1"), size.0 > 80);
    }
}

#[test]
fn an_opened_log_looks_like_the_run_did() {
    let theme = Theme::full();
    let mut live = app(true, true);
    live.shared.facts.advice = None;
    live.view = View::Run;
    let body = |screen: String| -> Vec<String> {
        let lines = screen.lines().map(str::to_owned).skip_while(|line| !line.starts_with("  survey")).take(20);
        lines.take_while(|line| !line.contains("? keys")).filter(|line| !line.trim().is_empty()).collect()
    };
    let shown = body(drawn(&live, (128, 40), &theme));
    let mut opened = live;
    let state = run_state(true, true);
    let standing = Standing::Over(Judgement::of(&state, false).outcome);
    let recorded = Recorded { bytes: 0, records: 0, id: state.id.clone(), state, standing };
    opened.view = View::Logs;
    opened.told(News::Recorded(Arc::new(recorded), None));
    assert!(shown.len() > 8);
    assert_eq!(body(drawn(&opened, (128, 42), &theme)), shown);
}

#[rstest]
#[case::help(&[KeyCode::Char('?')], "Keys in")]
#[case::actions(&[KeyCode::Esc, KeyCode::Char('s'), KeyCode::Char('t'), KeyCode::Char('o')], "stop the run")]
#[case::question(&[KeyCode::Char('q')], "Leaving stops it")]
fn what_stands_before_a_screen_covers_it(#[case] keys: &[KeyCode], #[case] words: &str) {
    let mut app = app(false, false);
    app.view = View::Run;
    keys.iter().for_each(|code| drop(app.key((*code).into())));
    let screen = drawn(&app, (80, 25), &Theme::full());
    assert!(screen.contains(words) && !screen.contains("GB/s"), "{screen}");
}

/// The board with findings and facts made by hand: everything is reachable on the smallest screen too.
#[rstest]
#[case((80, 25))]
#[case((128, 40))]
fn findings_and_facts_are_on_the_board(#[case] size: (u16, u16)) {
    let mut app = app(false, false);
    app.view = View::Board;
    let finding = |at: usize| Finding {
        weight: if at == 0 { Weight::Wrong } else { Weight::Note },
        what: Found::NoSerials { slots: vec![format!("slot {at}")], all: false },
    };
    app.shared.facts.findings = (0..30).map(finding).collect();
    let mut inventory = Inventory::default();
    inventory.facts.tell("A1", "serial number", "SMBIOS type 17", "4A220093");
    inventory.facts.tell("A1", "serial number", "SPD 0-0050", "77777777");
    inventory.unknown = vec![Unknown::Trouble("The last sentence.".into())];
    app.shared.facts.inventory = Arc::new(inventory);
    let screen = drawn(&app, size, &Theme::full());
    assert!(screen.contains("no serial number for slot 0") && screen.contains("more: i shows all"), "{screen}");
    app.key(KeyCode::Char('i').into());
    let top = drawn(&app, size, &Theme::full());
    assert!(top.contains("for slot 3. Mark these modules"), "{top}");
    (0..8).for_each(|_| drop(app.key(KeyCode::Down.into())));
    let below = drawn(&app, size, &Theme::full());
    assert!(below.contains("4A220093") && below.contains("77777777") && below.contains("SPD 0-0050"), "{below}");
    app.key(KeyCode::End.into());
    assert!(drawn(&app, size, &Theme::full()).contains("The last sentence."));
}

#[rstest]
#[case((80, 25))]
#[case((128, 40))]
fn where_errors_are_stands_first(#[case] size: (u16, u16)) {
    let mut app = app(true, true);
    app.view = View::Locate;
    let state = run_state(true, true);
    let map = revisum_diagnose::address::Locator::new(&state.begin.board, None);
    app.shared.located = Some(Arc::new(Located::of(&state, &map, &state.begin.board)));
    let screen = drawn(&app, size, &Theme::full());
    for words in ["In one of A1, B1: a single cell", "DQ 19", "no address map is known", "No address map"] {
        assert!(screen.contains(words), "{words}: {screen}");
    }
    assert!(screen.contains("0x0000 8000 0000"), "{screen}");
    app.shared.located = None;
    assert!(drawn(&app, size, &Theme::full()).contains("no errors, so there is nothing to locate"));
}

#[test]
fn nothing_breaks_at_any_size_or_without_any_facts() {
    for width in [1, 5, 20, 59, 60, 81, 113] {
        for height in [1, 3, 5, 17, 18, 31] {
            for mut app in [app(true, true), App::new(Facts::default(), View::Board, (width, height)).0] {
                for view in View::ALL {
                    app.view = *view;
                    let screen = drawn(&app, (width, height), &Theme::full());
                    assert!(!screen.trim().is_empty(), "{view:?} is blank at {width}x{height}");
                }
            }
        }
    }
}

#[rstest]
#[case((80, 25), &["Not measured yet"], None, 0)]
#[case((80, 25), &["4.0 GB/s ±25 %", "83 ns", "How fast it should be is not known"], Some(speed_record(true)), 0)]
#[case((128, 40), &["4.0 GB/s ±25 %", "working set of each core", "L1", "1/5 bandwidth"], Some(speed_record(true)), 0)]
#[case((80, 25), &["3/5 a load that waits", "128 MiB"], Some(speed_record(true)), 3)]
#[case((128, 40), &["5/5 a load by the distance", "nothing to draw yet", "stopped early"], Some(speed_record(false)), 4)]
fn speed_in_figures_and_charts(
    #[case] size: (u16, u16),
    #[case] words: &[&str],
    #[case] record: Option<SpeedRecord>,
    #[case] chart: usize,
) {
    let mut app = app(false, true);
    (app.view, app.shared.size) = (View::Speed, size);
    record.into_iter().for_each(|record| drop(app.told(News::SpeedMeasured(Arc::new(record)))));
    (0..chart).for_each(|_| drop(app.key(KeyCode::Right.into())));
    let screen = drawn(&app, size, &Theme::full());
    words.iter().for_each(|words| assert!(screen.contains(words), "{words}:\n{screen}"));
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

#[test]
fn trouble_with_the_records_is_on_the_screen() {
    let mut app = app(false, false);
    app.view = View::Run;
    if let Some(run) = &mut app.shared.run {
        run.trouble = Some("no space left".into());
    }
    assert!(drawn(&app, (80, 25), &Theme::full()).contains("NOT RECORDED: no space left"));
    app.shared.run = Some(RunView { over: true, failure: Some("no module is installed".into()), ..RunView::default() });
    assert!(drawn(&app, (80, 25), &Theme::full()).contains("no module is installed"));
}

/// Across the room too it is in sight where the run is recorded, or why it is not, each said once.
#[rstest]
#[case::on_a_drive(None, "recorded on REVISUM")]
#[case::nowhere(Some("no space left"), "NOT RECORDED: no space left")]
fn across_the_room_says_where_it_is_recorded(
    #[case] trouble: Option<&str>,
    #[case] expected: &str,
    #[values((80, 25), (128, 40))] size: (u16, u16),
) {
    let mut app = app(true, false);
    app.view = View::Run;
    app.shared.unattended = true;
    app.shared.kept = Kept { place: "REVISUM".into(), trouble: trouble.map(str::to_owned), ..Kept::default() };
    let screen = drawn(&app, size, &Theme::full());
    assert_eq!(screen.to_lowercase().matches("recorded").count(), 1, "{screen}");
    assert!(screen.contains(expected), "{screen}");
}

#[test]
fn while_nothing_failed_nobody_is_suspected() {
    let mut app = app(false, true);
    let nothing = Advice { verdict: Verdict::NothingToFind, ..advice() };
    app.shared.facts.advice = Some(nothing);
    for view in [View::Board, View::Run, View::Swap] {
        app.view = view;
        let screen = drawn(&app, (128, 40), &Theme::full());
        assert!(!screen.contains("suspect") && !screen.contains("suspicion"), "{screen}");
    }
}

/// A thousand words in many rows of B1, by a map.
fn mapped_rows(words: u64) -> (RunState, Locator) {
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

fn located_rows(words: u64) -> App {
    let mut app = app(true, true);
    app.view = View::Locate;
    let (state, locator) = mapped_rows(words);
    let again = Some("The same word of red dot failed again.".to_owned());
    app.shared.located = Some(Arc::new(Located { again, ..Located::of(&state, &locator, &state.begin.board) }));
    app
}

/// Words of a few pages, of very many with errors, are no fair sample: no picture is made of them, and why is said.
#[test]
fn a_flood_that_was_sampled_unfairly_has_no_picture() {
    let (mut state, locator) = mapped_rows(1000);
    state.errors.words = 1 << 30;
    (0..2000).for_each(|page| state.errors.places.add(page << 12, 1));
    let mut app = app(true, true);
    app.view = View::Locate;
    let located = Located::of(&state, &locator, &state.begin.board);
    assert!(located.fail_maps.is_empty());
    app.shared.located = Some(Arc::new(located));
    let screen = drawn(&app, (128, 40), &Theme::full());
    assert!(screen.contains("No picture of the module: too many errors"), "{screen}");
}

#[test]
fn groups_are_searched_and_opened() {
    let mut app = located_rows(1000);
    let press = |app: &mut App, keys: &str| {
        for letter in keys.chars() {
            let code = match letter {
                '\n' => KeyCode::Enter,
                '>' => KeyCode::Right,
                '<' => KeyCode::Esc,
                letter => KeyCode::Char(letter),
            };
            app.key(code.into());
        }
        drawn(app, (128, 40), &Theme::full())
    };
    let all = press(&mut app, "");
    assert!(all.contains("rank 0 bank 1") && all.contains("rank 0 bank 2"), "{all}");
    assert!(all.contains("failing words per data line") && all.contains("errors over"), "{all}");
    let one = press(&mut app, "/bank 3\n");
    assert!(one.contains("rank 0 bank 3") && !one.contains("rank 0 bank 2"), "{one}");
    let opened = press(&mut app, "<>");
    assert!(opened.contains("r0 bank") && opened.contains("reads 1 for 0, repeats"), "{opened}");
    let none = press(&mut app, "/zz\n");
    assert!(none.contains("No word has this"), "{none}");
    assert!(press(&mut app, "<<").contains("rank 0 bank 2"));
}

/// Not a test of anything but time, so it is only run where time is asked for: `cargo xtask speed --only redraw`.
#[test]
#[ignore = "a benchmark"]
fn redraw_of_a_flood() {
    let words = 10_000_000;
    let began = std::time::Instant::now();
    let app = located_rows(words);
    println!("digested and located {words} distinct words in {:.1} s", began.elapsed().as_secs_f64());
    let located = app.shared.located.as_ref().unwrap();
    let board = &located.state.begin.board;
    let longest = |what: &str, work: &mut dyn FnMut()| {
        let times = (0..50).map(|_| {
            let began = std::time::Instant::now();
            work();
            began.elapsed().as_secs_f64() * 1e3
        });
        let mut times: Vec<f64> = times.collect();
        times.sort_by(f64::total_cmp);
        println!("{what}: {:.1} ms, at most {:.1} ms of 50 times", times[25], times[49]);
    };
    let (mut terminal, theme) = (Terminal::new(TestBackend::new(160, 47)).unwrap(), Theme::full());
    longest("drawing 5 Locate", &mut || {
        terminal.draw(|frame| app.draw(frame, &theme, &Targets::default())).unwrap();
    });
    longest("cloning the state of its run", &mut || drop(RunState::clone(&located.state)));
    longest("locating again", &mut || {
        let locator = Locator::new(board, None);
        drop(revisum_diagnose::locate::locate_run(&located.state, &locator, board));
    });
}
