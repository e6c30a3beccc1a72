//! Keys and what they ask for, without a screen.

use revisum_engine::recipe::{CoreSharing, Depth};
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::run_state::RunState;
use rstest::rstest;

use super::*;
use crate::recipe_rows::RecipeRow;
use crate::state::{Facts, RunView};

fn app() -> App {
    let module = |serial: &str| Some(Module { serial: serial.into(), ..Module::default() });
    let slot = |id: &str, module| Slot { id: id.into(), channel: None, soldered: false, module };
    let board = Board {
        slots: vec![slot("A1", module("one")), slot("A2", None), slot("B1", module("two"))],
        ..Board::default()
    };
    App::new(Facts { board, can_move: true, ..Facts::default() }, (128, 40))
}

fn running() -> App {
    let state = std::sync::Arc::new(RunState { records: 1, ..RunState::default() });
    App { run: Some(RunView { state, ..RunView::default() }), ..app() }
}

fn press(app: &mut App, keys: &[KeyCode]) -> Vec<Effect> {
    keys.iter().flat_map(|code| key(app, KeyEvent::new(*code, KeyModifiers::NONE))).collect()
}

use KeyCode::{Char, Down, Enter, Esc, Left, Right, Up};

#[rstest]
#[case::next_step(app(), &[Enter], View::Run)]
#[case::by_digit(app(), &[Char('6')], View::Swap)]
#[case::how_fast(app(), &[Char('7')], View::Speed)]
#[case::where_errors_are(app(), &[Char('5')], View::Locate)]
#[case::watch(running(), &[Char('3'), Enter], View::Run)]
#[case::through_the_list_of_actions(app(), &[Esc, Char('l'), Char('o'), Char('g'), Char('s'), Enter], View::Logs)]
fn views(#[case] mut app: App, #[case] keys: &[KeyCode], #[case] view: View) {
    press(&mut app, keys);
    assert_eq!(app.view, view);
}

#[rstest]
#[case::start(app(), &[Enter], vec![Effect::StartRun(Box::new(Start::new(Recipe::of_depth(Depth::Triage))))])]
#[case::pause(running(), &[Char('4'), Char(' ')], vec![Effect::PauseOrGoOn])]
#[case::skip(running(), &[Char('n')], vec![Effect::SkipTest])]
#[case::stop(running(), &[Char('x')], vec![Effect::StopRun])]
#[case::nothing_to_stop(app(), &[Char('x'), Char('n')], vec![])]
#[case::redraw(app(), &[Char('g')], vec![Effect::Redraw])]
#[case::leaving_asks_while_running(running(), &[Char('q'), Esc], vec![])]
#[case::and_goes_on_yes(running(), &[Char('q'), Enter], vec![Effect::StopRun])]
#[case::take_out(app(), &[Char('6'), Down, Down, Char(' ')], vec![Effect::Refit(vec![("A1".into(), "one".into())])])]
fn effects(#[case] mut app: App, #[case] keys: &[KeyCode], #[case] expected: Vec<Effect>) {
    assert_eq!(press(&mut app, keys), expected);
}

/// A run that has gone on for so many minutes.
fn running_for(minutes: u64) -> App {
    let state = std::sync::Arc::new(RunState { records: 1, t_ms: minutes * 60_000, ..RunState::default() });
    App { run: Some(RunView { state, ..RunView::default() }), ..app() }
}

/// One key ends a short run; a long one is asked about, once.
#[rstest]
#[case::short(9, &[Char('x')], vec![Effect::StopRun])]
#[case::long(11, &[Char('x')], vec![])]
#[case::long_and_enter_keeps_it(11, &[Char('x'), Enter], vec![])]
#[case::long_and_closed(11, &[Char('x'), Esc], vec![])]
#[case::long_and_stopped(11, &[Char('x'), Down, Enter], vec![Effect::StopRun])]
#[case::long_and_mashed(11, &[Char('x'), Char('x'), Char('x')], vec![])]
fn a_long_run_is_not_ended_by_one_key(#[case] minutes: u64, #[case] keys: &[KeyCode], #[case] expected: Vec<Effect>) {
    assert_eq!(press(&mut running_for(minutes), keys), expected);
}

fn rest() -> Start {
    let part = revisum_record::carry::Carried { run: "r".into(), pass: 2, ..Default::default() };
    Start { continues: Some(part), ..Start::new(Recipe::of_depth(Depth::Survey)) }
}

fn again() -> Start {
    let of = revisum_record::carry::Repeated { run: "r".into(), ..Default::default() };
    Start { repeats: Some(of), ..Start::new(Recipe::of_depth(Depth::Triage)) }
}

fn with(go_on: Option<Start>, repeat: Option<Start>) -> App {
    let app = app();
    App { facts: Facts { go_on, repeat, ..app.facts }, ..app }
}

fn started(what: Start) -> Vec<Effect> {
    vec![Effect::StartRun(Box::new(what))]
}

#[rstest]
#[case::enter_goes_on(with(Some(rest()), None), &[Char('4'), Enter], started(rest()))]
#[case::elsewhere_enter_begins_anew(with(Some(rest()), None), &[Char('3'), Enter], started(Start::new(Recipe::of_depth(Depth::Triage))))]
#[case::one_key_repeats(with(None, Some(again())), &[Char('4'), Char('r')], started(again()))]
#[case::under_locate_too(with(None, Some(again())), &[Char('5'), Char('r')], vec![Effect::Locate, Effect::StartRun(Box::new(again()))])]
#[case::nothing_to_repeat(with(None, None), &[Char('4'), Char('r'), Char('c')], vec![])]
fn runs_are_gone_on_with_and_repeated(#[case] mut app: App, #[case] keys: &[KeyCode], #[case] expected: Vec<Effect>) {
    assert_eq!(press(&mut app, keys), expected);
}

#[test]
fn a_machine_that_does_not_start_goes_on_with_nothing() {
    let app = with(Some(rest()), Some(again()));
    let mut app = App { facts: Facts { dark: Some("three beeps".into()), ..app.facts }, ..app };
    assert_eq!(press(&mut app, &[Char('4'), Enter, Char(' '), Char('r')]), vec![]);
}

#[test]
fn a_loose_module_goes_into_the_chosen_empty_slot() {
    let mut app = app();
    app.facts.table = vec![Module { serial: "three".into(), ..Module::default() }];
    let effects = press(&mut app, &[Char('6'), Down, Char(' ')]);
    let placed = |slot: &str, module: &str| (slot.to_owned(), module.to_owned());
    assert_eq!(effects, [Effect::Refit(vec![placed("A1", "one"), placed("B1", "two"), placed("A2", "three")])]);
}

fn marked(mark: &str) -> Vec<Effect> {
    vec![Effect::Mark { module: "one".into(), mark: mark.into() }]
}

#[rstest]
#[case::proposal(&[Char('m'), Enter], marked("red dot"))]
#[case::other_proposal(&[Char('m'), Down, Enter], marked("green dot"))]
#[case::typed(&[Char('m'), Char('k'), Char('9'), Char('q'), KeyCode::Backspace, Enter], marked("k9"))]
#[case::taken_off(&[&[Char('m')][..], &[Down; 20], &[Enter]].concat(), marked(""))]
#[case::left_as_it_is(&[Char('m'), Char('x'), Esc, Enter, Char('x')], vec![Effect::StartRun(Box::new(Start::new(Recipe::of_depth(Depth::Triage))))])]
#[case::empty_slot(&[Down, Char('m'), Enter], vec![])]
fn marks(#[case] keys: &[KeyCode], #[case] expected: Vec<Effect>) {
    assert_eq!(press(&mut app(), keys), expected);
}

#[test]
fn all_facts_open_scroll_and_close() {
    let mut app = app();
    press(&mut app, &[Char('i'), Down]);
    assert_eq!(app.all_facts, Some(FACTS_STEP.unsigned_abs().min(all_facts::lines(&app).len() - 1 - 4)));
    press(&mut app, &[Up, Up]);
    assert_eq!(app.all_facts, Some(0));
    press(&mut app, &[Esc]);
    assert_eq!((app.all_facts, app.overlay.is_none()), (None, true));
}

#[test]
fn modules_cannot_be_moved_while_a_run_goes_on() {
    let mut app = running();
    assert_eq!(press(&mut app, &[Char('6'), Char(' ')]), []);
    assert!(matches!(app.overlay, Some(Overlay::Notice(_))));
}

/// Keys to a row, then a step.
fn to(row: RecipeRow, then: &[KeyCode]) -> Vec<KeyCode> {
    let rows = recipe_rows(&app());
    let at = rows.iter().position(|known| *known == row).unwrap();
    std::iter::repeat_n(Down, at).chain(then.iter().copied()).collect()
}

#[rstest]
#[case::depth(to(RecipeRow::Depth(Depth::Survey), &[Right]), |r: &Recipe| r.depth == Depth::Survey && r.for_seconds == Some(3600))]
#[case::test_off(to(RecipeRow::Test(0), &[Right]), |r: &Recipe| !r.tests.contains(&"random".to_owned()))]
#[case::test_off_and_on(to(RecipeRow::Test(0), &[Right, Left]), |r: &Recipe| r.tests.contains(&"random".to_owned()))]
#[case::passes(to(RecipeRow::Passes, &[Right, Right]), |r: &Recipe| r.passes == Some(3))]
#[case::as_many_as_fit(to(RecipeRow::Passes, &[Left]), |r: &Recipe| r.passes.is_none() && r.for_seconds == Some(3600))]
#[case::cores(to(RecipeRow::Cores, &[Left]), |r: &Recipe| r.cores == CoreSharing::Solo)]
#[case::first_error(to(RecipeRow::StopAfter, &[Right]), |r: &Recipe| r.stop_after == Some(1))]
#[case::defaults(to(RecipeRow::Test(0), &[Right, Char('d')]), |r: &Recipe| *r == Recipe::of_depth(Depth::Triage))]
#[case::ends_hold(vec![Up, Up, Left], |r: &Recipe| r.depth == Depth::Triage)]
fn the_recipe_changes(#[case] keys: Vec<KeyCode>, #[case] holds: fn(&Recipe) -> bool) {
    let mut app = app();
    press(&mut app, &[Char('3')]);
    press(&mut app, &keys);
    assert!(holds(&app.recipe), "{:?}", app.recipe);
}

#[test]
fn a_recipe_without_tests_is_refused_in_words() {
    let mut app = app();
    app.recipe.tests.clear();
    assert_eq!(press(&mut app, &[Enter]), []);
    assert!(matches!(&app.overlay, Some(Overlay::Notice(words)) if words.contains("no test is chosen")));
}

#[test]
fn any_keys_in_any_order_do_no_harm() {
    let codes = [
        Char('m'),
        Char('i'),
        Char('2'),
        Enter,
        Esc,
        Up,
        Down,
        Left,
        Right,
        Char(' '),
        Char('?'),
        Char(':'),
        Char('6'),
        Char('8'),
        Char('3'),
    ];
    let mut app = app();
    let mut state = 1u32;
    for _ in 0..5000 {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        press(&mut app, &[codes[(state >> 16) as usize % codes.len()]]);
    }
    assert!(!app.quit);
}
