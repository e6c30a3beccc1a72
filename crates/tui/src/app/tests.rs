//! Keys and what they ask for, without a screen.

use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::{Stage, Tick};
use revisum_record::run_state::RunState;
use revisum_records::{Course, Station};
use rstest::rstest;

use super::*;
use crate::shared::facts::Facts;
use crate::shared::run::RunView;
use revisum_workbench::go_on::Start;

fn of(facts: Facts) -> App {
    App::new(facts, View::Board, (128, 40)).0
}

fn app() -> App {
    let module = |serial: &str| Some(Module { serial: serial.into(), ..Module::default() });
    let slot = |id: &str, module| Slot { id: id.into(), module, ..Slot::default() };
    let board = Board {
        slots: vec![slot("A1", module("one")), slot("A2", None), slot("B1", module("two"))],
        ..Board::default()
    };
    of(Facts { board, can_move: true, ..Facts::default() })
}

fn with_run(run: RunView) -> App {
    let mut app = app();
    app.shared.run = Some(run);
    app
}

fn running() -> App {
    let state = std::sync::Arc::new(RunState { records: 1, ..RunState::default() });
    with_run(RunView { state, ..RunView::default() })
}

fn press(app: &mut App, keys: &[KeyCode]) -> Vec<Effect> {
    keys.iter().flat_map(|code| app.key((*code).into())).collect()
}

use KeyCode::{Char, Down, Enter, Esc, Left, Right, Up};

#[rstest]
#[case::next_step(app(), &[Enter], View::Run)]
#[case::by_digit(app(), &[Char('6')], View::Swap)]
#[case::how_fast(app(), &[Char('7')], View::Speed)]
#[case::where_errors_are(app(), &[Char('5')], View::Locate)]
#[case::watch(running(), &[Char('3'), Enter], View::Run)]
#[case::through_the_list_of_actions(app(), &[Esc, Char('l'), Char('o'), Char('g'), Char('s'), Enter], View::Logs)]
fn screens(#[case] mut app: App, #[case] keys: &[KeyCode], #[case] view: View) {
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
    with_run(RunView { state, ..RunView::default() })
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
    let mut app = app();
    (app.shared.facts.go_on, app.shared.facts.repeat) = (go_on, repeat);
    app
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
    let mut app = with(Some(rest()), Some(again()));
    app.shared.facts.dark = Some("three beeps".into());
    assert_eq!(press(&mut app, &[Char('4'), Enter, Char(' '), Char('r')]), vec![]);
}

#[test]
fn a_loose_module_goes_into_the_chosen_empty_slot() {
    let mut app = app();
    app.shared.facts.table = vec![Module { serial: "three".into(), ..Module::default() }];
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
fn modules_cannot_be_moved_while_a_run_goes_on() {
    let mut app = running();
    assert_eq!(press(&mut app, &[Char('6'), Char(' ')]), []);
    assert!(app.is_covered());
}

#[test]
fn a_recipe_without_tests_is_refused_in_words() {
    let mut app = app();
    app.shared.chosen.recipe.tests.clear();
    assert_eq!(press(&mut app, &[Enter]), []);
    assert!(format!("{:?}", app.front).contains("no test is chosen"), "{:?}", app.front);
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
    assert!(app.left.is_none());
}

fn words_of_enter(app: &App) -> Option<String> {
    let all = app.commands();
    all.into_iter().find(|known| known.key.codes == [Enter]).map(|known| known.key.words)
}

fn at(view: View, mut app: App) -> App {
    app.view = view;
    app
}

/// A job that is at this stage, after these, on the Swap view.
fn course(before: &[Stage], open: Option<Stage>, change: fn(&mut Course)) -> App {
    let mut app = at(View::Swap, app());
    let station = |done| move |stage: &Stage| Station { stage: *stage, done, at_ms: None };
    let stations = before.iter().map(station(true)).chain(open.iter().map(station(false)));
    let mut course = Course { stations: stations.collect(), ..Course::default() };
    change(&mut course);
    app.shared.facts.course = course;
    app
}

const CAME: &[Stage] = &[Stage::Complaint];
const FOUND: &[Stage] = &[Stage::Complaint, Stage::Shown, Stage::Found];

#[rstest]
#[case::nothing_run_yet(at(View::Board, app()), Some("run triage"))]
#[case::recipe(at(View::Recipe, app()), Some("run triage"))]
#[case::report(at(View::Report, app()), Some("write report files"))]
#[case::nothing_recorded(at(View::Logs, app()), Some("run triage"))]
#[case::a_run_is_read_from_afar(at(View::Run, running()), Some("read from afar"))]
#[case::and_found_from_elsewhere(at(View::Board, running()), Some("watch the run"))]
#[case::the_rest_of_a_run(at(View::Run, with(Some(rest()), None)), Some("continue the run"))]
#[case::is_not_in_the_way_of_a_new_one(at(View::Recipe, with(Some(rest()), None)), Some("run triage"))]
#[case::deeper(course(CAME, Some(Stage::RuledOut), |course| course.next_depth = Some(Depth::Survey)), Some("run survey"))]
#[case::nothing_deeper(course(CAME, Some(Stage::Suspects), |_| ()), Some("list was read"))]
#[case::what_replaces_it(course(FOUND, Some(Stage::Ordered), |_| ()), Some("settle replacement"))]
#[case::it_is_on_its_way(course(FOUND, Some(Stage::Fitted), |course| course.awaits_part = true), Some("part arrived"))]
#[case::the_repair(course(FOUND, Some(Stage::Proved), |course| course.leaves = Some(Default::default())), Some("install, prove"))]
#[case::a_check(course(FOUND, Some(Stage::Restored), |course| course.to_confirm = vec![(Tick::Settings, true), (Tick::FilesChecked, false)]), Some("files checked"))]
#[case::the_handover(course(FOUND, Some(Stage::HandedOver), |_| ()), Some("hand over, report"))]
#[case::and_after_it(course(FOUND, None, |_| ()), Some("show report"))]
fn enter_is_the_next_sensible_step(#[case] app: App, #[case] words: Option<&str>) {
    assert_eq!(words_of_enter(&app).as_deref(), words);
}

/// A key means one thing, everything has words, and every screen is reached and left from every other.
#[rstest]
fn a_key_means_one_thing(#[values(false, true)] running_now: bool, #[values(false, true)] more: bool) {
    for view in View::ALL {
        let mut app = at(*view, if running_now { running() } else { app() });
        if more {
            (app.shared.facts.go_on, app.shared.facts.repeat) = (Some(rest()), Some(again()));
        }
        let all = app.commands();
        assert!(all.iter().all(|known| !known.key.words.is_empty() && !known.key.name.is_empty()), "{all:?}");
        let mut codes: Vec<String> =
            all.iter().flat_map(|known| &known.key.codes).map(|code| format!("{code:?}")).collect();
        let count = codes.len();
        codes.sort_unstable();
        codes.dedup();
        assert_eq!(codes.len(), count, "{view:?}, running {running_now}: {all:?}");
        let shown = |view: &View| all.iter().any(|known| known.taker == Taker::Common(Common::Show(*view)));
        assert!(View::ALL.iter().all(shown));
        assert!(all.iter().any(|known| known.taker == Taker::Common(Common::Quit) && known.key.footer));
    }
}

#[rstest]
#[case("stop", &["stop the run"])]
#[case("REPORT", &["report: what goes to the counter"])]
#[case("no such thing", &[])]
fn actions_are_found_by_what_is_typed(#[case] typed: &str, #[case] expected: &[&str]) {
    let found = commands::matching(at(View::Run, running()).commands(), typed);
    let words: Vec<String> = found.into_iter().map(|known| known.key.words).collect();
    assert_eq!(words, expected);
}

#[rstest]
#[case::either_case(Char('X'), KeyModifiers::SHIFT, vec![Effect::StopRun])]
#[case::garbled(Char('l'), KeyModifiers::CONTROL, vec![Effect::Redraw])]
#[case::leave_at_once(Char('c'), KeyModifiers::CONTROL, vec![Effect::StopRun])]
#[case::nothing(Char('x'), KeyModifiers::CONTROL, vec![])]
#[case::no_such_key(KeyCode::F(7), KeyModifiers::NONE, vec![])]
fn keys_are_taken_in_either_case(
    #[case] code: KeyCode,
    #[case] modifiers: KeyModifiers,
    #[case] expected: Vec<Effect>,
) {
    assert_eq!(running().key(KeyEvent::new(code, modifiers)), expected);
}

/// What is read across the room by itself keeps what it says of its keys: the first one leads to the run in full, and to nothing else.
#[rstest]
#[case::back(Esc)]
#[case::on(Enter)]
fn the_first_key_after_being_left_alone_does_what_the_screen_says(#[case] code: KeyCode) {
    let mut app = at(View::Run, running());
    app.shared.unattended = true;
    assert!(app.rooms[View::Run as usize].is_whole(&app.shared));
    assert_eq!(app.key(code.into()), []);
    assert!(!app.is_covered() && !app.rooms[View::Run as usize].is_whole(&app.shared));
}

#[test]
fn pointing_holds_what_would_begin_by_itself() {
    let mut app = app();
    (app.shared.begins_in, app.shared.unattended) = (Some(5), true);
    app.pointed(Target::Slot(2));
    assert_eq!((app.shared.begins_in, app.shared.unattended, app.shared.slot), (None, false, 2));
}
