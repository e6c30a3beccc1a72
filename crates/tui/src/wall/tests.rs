//! The wall, with machines that are not there.

use std::sync::{Arc, Mutex};
use std::time::Duration;

use crossterm::event::KeyEvent;
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use revisum_link::{Key, Picture, Refusal, Silence, Span, Standing};
use revisum_record::journal::{Begin, Entry, Framed};
use revisum_record::run_state::RunState;
use rstest::rstest;

use super::*;
use crate::kit::theme::Theme;

/// A machine that said this so many seconds ago.
fn bench(number: u16, waits: bool, seconds: u64, now: Instant) -> BenchNow {
    let at = now.checked_sub(Duration::from_secs(seconds)).unwrap();
    let standing = Standing {
        machine: format!("PC {number}"),
        number: Some(number),
        waits,
        next: "run survey".into(),
        ..Standing::default()
    };
    BenchNow {
        id: format!("card{number}"),
        standing,
        silence: Silence::Linked(at),
        said: at,
        run: None,
        refused: None,
        picture: None,
    }
}

/// The same with a run that found so many errors.
fn with_run(bench: BenchNow, errors: u64) -> BenchNow {
    let mut state = RunState::default();
    let begin = Begin { machine: "m".into(), wall_ms: 5, usable_bytes: 1 << 30, ..Begin::default() };
    state.apply(&Framed { journal: "j".into(), seq: 0, t_ms: 0, entry: Entry::Begin(Box::new(begin)) });
    state.errors.words = errors;
    BenchNow { run: Some(Arc::new(Mutex::new(state))), ..bench }
}

fn wall(size: (u16, u16)) -> Wall {
    let door = Door { shop: "Corner".into(), address: "192.0.2.7:7247".into(), trouble: None };
    Wall::new(door, size)
}

fn text(wall: &Wall, size: (u16, u16), now: Instant) -> String {
    let Ok(mut terminal) = Terminal::new(TestBackend::new(size.0, size.1));
    let Ok(_) = terminal.draw(|frame| wall.draw(frame, &Theme::full(), &Targets::default(), now, 0));
    let buffer = terminal.backend().buffer();
    let row = |y| (0..size.0).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned() + "\n";
    (0..size.1).map(row).collect()
}

fn names(wall: &Wall) -> Vec<&str> {
    wall.benches.iter().map(|bench| bench.standing.machine.as_str()).collect()
}

#[test]
fn what_waits_for_hands_is_on_top() {
    let (now, mut wall) = (Instant::now(), wall((128, 40)));
    wall.see(
        vec![
            bench(1, false, 0, now),
            with_run(bench(2, false, 0, now), 3),
            bench(3, false, 60, now),
            bench(4, true, 0, now),
            with_run(bench(5, true, 0, now), 3),
            bench(6, true, 0, now),
        ],
        now,
    );
    assert_eq!(names(&wall), ["PC 5", "PC 4", "PC 6", "PC 3", "PC 2", "PC 1"]);
}

#[test]
fn a_sound_is_made_once_for_what_is_new() {
    let (now, mut wall) = (Instant::now(), wall((128, 40)));
    let ring = vec![Asks::Ring];
    assert_eq!(wall.see(vec![bench(1, false, 0, now)], now), []);
    assert_eq!(wall.see(vec![with_run(bench(1, false, 0, now), 1)], now), ring);
    assert_eq!(wall.see(vec![with_run(bench(1, false, 0, now), 2)], now), []);
    assert_eq!(wall.see(vec![with_run(bench(1, true, 0, now), 2)], now), ring);
    assert_eq!(wall.see(vec![bench(1, false, 0, now)], now), []);
    assert_eq!(wall.see(vec![bench(1, false, 9, now)], now), ring);
    wall.key(KeyCode::Char('s').into());
    assert_eq!(wall.see(vec![bench(1, true, 0, now)], now), []);
}

#[test]
fn keys_go_to_the_machine_that_is_open() {
    let (now, mut wall) = (Instant::now(), wall((100, 30)));
    wall.see(vec![bench(1, true, 0, now), bench(2, true, 0, now)], now);
    wall.key(KeyCode::Down.into());
    let order = |order| vec![Asks::Order("card2".into(), order)];
    assert_eq!(wall.key(KeyCode::Enter.into()), order(Order::Look(Some(Look { columns: 100, rows: 29 }))));
    assert_eq!(wall.key(KeyCode::Char('q').into()), order(Order::Press(Key::Char('q'))));
    // Its place changes; what is open stays open.
    wall.see(vec![bench(1, false, 0, now), bench(2, true, 0, now)], now);
    assert_eq!(wall.key(KeyCode::Enter.into()), order(Order::Press(Key::Enter)));
    let wider = order(Order::Look(Some(Look { columns: 120, rows: 39 })));
    assert_eq!(wall.resized((120, 40)), wider);
    let back = KeyEvent::new(KeyCode::Char('w'), KeyModifiers::CONTROL);
    assert_eq!(wall.key(back), order(Order::Look(None)));
    assert_eq!(wall.key(KeyCode::Char('q').into()), [Asks::Leave]);
}

#[test]
fn a_machine_is_pointed_at_and_then_opened() {
    let (now, mut wall) = (Instant::now(), wall((100, 30)));
    wall.see(vec![bench(1, true, 0, now), bench(2, true, 0, now)], now);
    assert_eq!(wall.pointed(Target::Line(1)), []);
    assert!(
        matches!(wall.pointed(Target::Line(1)).as_slice(), [Asks::Order(id, Order::Look(Some(_)))] if id == "card2")
    );
    assert_eq!(wall.pointed(Target::Line(0)), []);
}

#[test]
fn a_tile_says_what_matters() {
    let (now, mut wall) = (Instant::now(), wall((128, 40)));
    let mut full = with_run(bench(2, false, 0, now), 0);
    full.refused = Some(Refusal::Full);
    let silent = with_run(bench(3, false, 75, now), 0);
    wall.see(vec![bench(1, true, 0, now), full, silent], now);
    let shown = text(&wall, (128, 40), now);
    for words in [
        "Corner",
        "192.0.2.7:7247",
        "3 machines · 1 waits for you · 1 is silent",
        "Next: run survey",
        "NOT COPIED HERE: this computer's disk is full",
        "SILENT for 1 min 15 s",
        "heard 1 min 15 s ago",
        "open PC 1",
    ] {
        assert!(shown.contains(words), "{words} is missing:\n{shown}");
    }
}

/// Records that do not arrive make nothing better: not on a full disk here, and not on a drive that is gone there.
#[test]
fn a_machines_own_word_on_errors_counts() {
    let (now, mut wall) = (Instant::now(), wall((128, 40)));
    let mut behind = with_run(bench(1, false, 0, now), 0);
    (behind.standing.errors, behind.refused) = (3, Some(Refusal::Full));
    wall.see(vec![bench(2, true, 0, now), behind], now);
    assert_eq!(wall.needed["card1"], Need::Errors);
    let said = row::Said::of(&wall.benches[1], now, 0);
    assert_eq!((said.grade, said.large[0].as_str()), (Some(revisum_record::outcome::Grade::Errors), "3 ERRORS"));
}

/// A count that is large without its word has the word in small letters: alone it could be taken for anything.
#[rstest]
#[case(3, "ERRORS")]
#[case(1_234_567, "memory errors")]
fn a_count_always_has_its_word(#[case] errors: u64, #[case] word: &str) {
    let (now, mut wall) = (Instant::now(), wall((128, 40)));
    wall.see((1..=9).map(|number| with_run(bench(number, false, 0, now), errors)).collect(), now);
    let shown = text(&wall, (128, 40), now);
    assert!(shown.contains(word) && !shown.contains("ERRO…"), "{shown}");
}

#[test]
fn many_machines_have_a_line_each() {
    let (now, mut wall) = (Instant::now(), wall((80, 25)));
    let many = (1..=999).map(|number| with_run(bench(number, number == 500, 0, now), u64::from(number == 400)));
    wall.see(many.collect(), now);
    let shown = text(&wall, (80, 25), now);
    let lines: Vec<&str> = shown.lines().skip(3).take(3).collect();
    assert!(lines[0].contains("PC 500") && lines[1].contains("PC 400") && lines[2].contains("PC 1"), "{shown}");
    wall.key(KeyCode::End.into());
    assert!(text(&wall, (80, 25), now).contains("PC 999"));
}

#[test]
fn nobody_there_says_what_to_do() {
    let wall = wall((80, 25));
    let shown = text(&wall, (80, 25), Instant::now());
    let shown = shown.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(shown.contains("drive write --shop") && shown.contains("--counter"), "{shown}");
}

/// Whatever the size, and whatever is open.
#[rstest]
#[case(1, 1)]
#[case(10, 3)]
#[case(40, 9)]
#[case(60, 18)]
#[case(250, 70)]
fn it_is_drawn_on_any_screen(#[case] width: u16, #[case] height: u16, #[values(0, 1, 9, 100)] count: u16) {
    let (now, size) = (Instant::now(), (width, height));
    let mut wall = wall(size);
    let mut benches: Vec<BenchNow> = (0..count).map(|number| with_run(bench(number, true, 0, now), 7)).collect();
    wall.see(benches.clone(), now);
    text(&wall, size, now);
    wall.key(KeyCode::Enter.into());
    text(&wall, size, now);
    let row = vec![Span { text: "x".repeat(300), ..Span::default() }];
    for bench in &mut benches {
        bench.picture =
            Some(Arc::new(Picture { columns: 300, rows: 90, changed: vec![(0, row.clone()), (89, row.clone())] }));
    }
    wall.see(benches, now);
    text(&wall, size, now);
}

/// How long a frame of a thousand machines takes, from what is known of them to what is drawn; `cargo xtask shop` prints it.
#[test]
#[ignore = "a measurement: cargo xtask shop runs it"]
fn frames_of_a_wall() {
    let now = Instant::now();
    let benches: Vec<BenchNow> =
        (0..1000).map(|number| with_run(bench(number, number % 7 == 0, 0, now), u64::from(number % 5 == 0))).collect();
    for size in [(128, 40), (160, 47)] {
        let mut wall = wall(size);
        let mut times: Vec<f64> = (0..200)
            .map(|_| {
                let begin = Instant::now();
                wall.see(benches.clone(), now);
                text(&wall, size, now);
                begin.elapsed().as_secs_f64() * 1000.0
            })
            .collect();
        times.sort_by(f64::total_cmp);
        println!(
            "1000 machines at {}x{}: a frame in {:.1} ms at the median, {:.1} ms at most",
            size.0, size.1, times[100], times[199]
        );
    }
}
