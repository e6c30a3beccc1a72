//! Every screen at every size that it promises, from a state made by hand.

use std::sync::Arc;

use crossterm::event::KeyCode;
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use revisum_diagnose::address::Locator;
use revisum_diagnose::board::{Finding, Found, Inventory, Unknown, Weight};
use revisum_diagnose::isolate::{Advice, Verdict};
use revisum_engine::units::{ByteRange, GIB};
use revisum_record::fitted::Board;
use revisum_record::outcome::Judgement;
use revisum_record::run_state::RunState;
use revisum_record::speed::SpeedRecord;
use rstest::rstest;

use super::samples::*;
use super::*;
use crate::booted::{Booted, Kept};
use crate::kit::canvas::Targets;
use crate::kit::theme::Theme;
use crate::shared::facts::{Facts, Located};
use crate::shared::run::RunView;
use revisum_drive::DriveSettings;
use revisum_linux::boot::Entry as BootEntry;
use revisum_records::{Recorded, Standing};

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

/// All that went wrong with a start is on the board or counted, and what matters more comes first.
#[rstest]
#[case::one(1, None, &["trouble 0"], None)]
#[case::without_room(2, Some("there is no drive"), &["there is no drive", "trouble 0", "trouble 1"], None)]
#[case::many(40, None, &["trouble 0", "trouble 1"], Some("in starts.txt on the drive"))]
fn troubles_of_the_start_are_on_the_board(
    #[case] count: usize,
    #[case] not_kept: Option<&str>,
    #[case] expected: &[&str],
    #[case] counted: Option<&str>,
    #[values((80, 25), (128, 40))] size: (u16, u16),
) {
    let mut app = app(false, true);
    let troubles: Vec<String> = (0..count).map(|at| format!("trouble {at}")).collect();
    app.shared.facts.booted = Some(Booted {
        entry: BootEntry::Low,
        chained: false,
        results: None,
        doubt: None,
        not_kept: not_kept.map(str::to_owned),
        died: None,
        by_memory: false,
        settings: DriveSettings::default(),
        troubles: troubles.clone(),
    });
    let screen = drawn(&app, size, &Theme::full());
    assert!(expected.iter().all(|words| screen.contains(words)), "{screen}");
    let shown = troubles.iter().filter(|trouble| screen.contains(&format!("{trouble} "))).count();
    match counted {
        None => assert_eq!(shown, count, "{screen}"),
        Some(words) => assert!(screen.contains(&format!("{} more, {words}", count - shown)), "{screen}"),
    }
    app.shared.begins_in = Some(7);
    let screen = drawn(&app, size, &Theme::full());
    assert!(screen.find("starts automatically in 7 s").unwrap() < screen.find(expected[0]).unwrap(), "{screen}");
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
