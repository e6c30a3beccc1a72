//! Which key does what, where. The footer, the help and the list of actions are made from this table.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::action::{Action, View};
use super::state::App;

/// A key and what it does.
#[derive(Clone, Debug)]
pub struct Binding {
    /// The key.
    pub key: KeyCode,
    /// As people read it.
    pub name: &'static str,
    /// What it does.
    pub action: Action,
    /// What it does, in words for this place and moment.
    pub words: String,
    /// Whether the footer shows it.
    pub footer: bool,
}

fn binding(key: KeyCode, name: &'static str, action: Action, words: impl Into<String>, footer: bool) -> Binding {
    Binding { key, name, action, words: words.into(), footer }
}

/// The keys that do something here and now, most important first.
pub fn bindings(app: &App) -> Vec<Binding> {
    let mut all = own(app);
    all.push(binding(KeyCode::Char('?'), "?", Action::Help, "keys for here", false));
    let drives = app.view == View::Jobs && app.drive_page.is_some();
    if drives && super::drives::is_writing(app) {
        all.push(binding(KeyCode::Esc, "Esc", Action::Back, "what has to end first", false));
    } else if drives {
        all.push(binding(KeyCode::Esc, "Esc", Action::Back, "back to the jobs", true));
    } else if app.opened.is_some() || app.compared.is_some() || app.life.is_some() || app.system_log.is_some() {
        all.push(binding(KeyCode::Esc, "Esc", Action::Back, "back to the list", true));
    } else if app.view == View::Locate && (app.word.is_some() || !app.find.value().is_empty()) {
        all.push(binding(KeyCode::Esc, "Esc", Action::Back, "back to all groups", true));
    } else if app.view == View::Board && app.all_facts.is_some() {
        all.push(binding(KeyCode::Esc, "Esc", Action::Back, "back to the board", true));
    } else {
        all.push(binding(KeyCode::Esc, "Esc", Action::Back, "all actions", true));
    }
    all.push(binding(KeyCode::Char(':'), ":", Action::Actions, "all actions, by typing part of a name", false));
    for view in View::ALL {
        let words = match view {
            View::Jobs => "jobs: every machine that came in",
            View::Intake => "intake: what is told of the machine",
            View::Board => "board: what is fitted",
            View::Recipe => "recipe: what to run",
            View::Run => "run",
            View::Locate => "locate: where errors are, and what failed",
            View::Swap => "swap: which part is it",
            View::Speed => "speed: how fast memory is",
            View::Logs => "logs: earlier runs",
            View::Report => "report: what goes to the counter",
        };
        let name = match view.digit() {
            '0' => "0",
            '1' => "1",
            '2' => "2",
            '3' => "3",
            '4' => "4",
            '5' => "5",
            '6' => "6",
            '7' => "7",
            '8' => "8",
            _ => "9",
        };
        all.push(binding(KeyCode::Char(view.digit()), name, Action::Show(view), words, false));
    }
    all.push(binding(KeyCode::Char('g'), "g", Action::Redraw, "draw a garbled screen again", false));
    all.push(binding(KeyCode::Char('q'), "q", Action::Quit, "leave", true));
    all
}

fn own(app: &App) -> Vec<Binding> {
    let mut own = Vec::new();
    if let Some(words) = app.next_step_words() {
        own.push(binding(KeyCode::Enter, "Enter", Action::Proceed, words, true));
    }
    let space = |words: &str, action| binding(KeyCode::Char(' '), "Space", action, words, true);
    match app.view {
        View::Jobs if app.drive_page.is_some() => own.extend(drive_bindings(app)),
        View::Jobs => {
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "another job", true));
            own.push(binding(KeyCode::Char('d'), "d", Action::BootDrive, "make a boot drive", true));
            if !app.is_running() {
                own.push(binding(KeyCode::Char('n'), "n", Action::NewJob, "new job for the machine at hand", true));
            }
        }
        View::Intake => {
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "choose", true));
            own.push(binding(KeyCode::Right, "→", Action::Right, "pick, or not", true));
            own.push(binding(KeyCode::Char('w'), "w", Action::Words, "words", true));
        }
        View::Board => {
            if app.all_facts.is_some() {
                own.push(binding(KeyCode::Down, "↑↓", Action::Down, "further down", true));
            } else {
                own.push(binding(KeyCode::Down, "↑↓", Action::Down, "another slot", true));
                own.push(binding(KeyCode::Char('m'), "m", Action::Mark, "mark the module", true));
                own.push(binding(KeyCode::Char('i'), "i", Action::AllFacts, "all facts", true));
                own.push(binding(KeyCode::Char('h'), "h", Action::Life, "every run of the module", false));
            }
        }
        View::Recipe => {
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "choose", true));
            own.push(binding(KeyCode::Right, "←→", Action::Right, "change", true));
            own.push(binding(KeyCode::Char('d'), "d", Action::Defaults, "defaults", true));
            own.push(binding(KeyCode::Char('w'), "w", Action::SaveRecipe, "write it to a file", false));
            own.push(binding(KeyCode::Char('o'), "o", Action::NextRecipe, "open the next recipe file", false));
        }
        View::Run if app.is_running() => {
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "choose a test", false));
        }
        View::Run => own.extend(again(app)),
        View::Locate => {
            if app.facts.located.is_some() {
                let (list, words) = match app.word {
                    Some(_) => ("another word", "←  all groups"),
                    None => ("another group", "→  its single words"),
                };
                own.push(binding(KeyCode::Down, "↑↓", Action::Down, list, true));
                let (name, words) = words.split_once("  ").unwrap_or_default();
                own.push(binding(KeyCode::Right, if name == "←" { "←" } else { "→" }, Action::Right, words, true));
                own.push(binding(KeyCode::Char('/'), "/", Action::Find, "find", true));
            }
            own.extend(again(app));
            own.push(binding(KeyCode::Char('k'), "k", Action::Stopgap, "keep bad ranges out of use", true));
        }
        View::Swap if app.facts.can_move => {
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "another slot", true));
            own.push(space("take out, put in", Action::Switch));
            own.push(binding(KeyCode::Right, "←→", Action::Right, "another module to put in", false));
            if app.facts.offered.len() > 1 {
                own.push(binding(KeyCode::Char('s'), "s", Action::Settings, "other settings", true));
            }
        }
        View::Swap => {}
        View::Logs if app.opened.is_some() => {
            own.push(binding(KeyCode::Right, "←→", Action::Right, "step through its time", true));
        }
        View::Logs if app.life.is_some() => own.push(binding(KeyCode::Down, "↑↓", Action::Down, "another run", true)),
        View::Logs if app.system_log.is_some() => {
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "another entry", true));
        }
        View::Logs if app.compared.is_none() => {
            own.push(binding(KeyCode::Char('s'), "s", Action::SystemLog, "what its own system logged", true));
            own.push(space("choose to compare", Action::Choose));
            own.push(binding(KeyCode::Char('/'), "/", Action::Find, "find", true));
            own.push(binding(KeyCode::Char('i'), "i", Action::BringIn, "bring in records", true));
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "another run", false));
        }
        View::Logs => {}
        View::Speed if app.speed.is_measuring() => {
            own.push(binding(KeyCode::Char('x'), "x", Action::StopSpeed, "stop at once", true));
            own.push(binding(KeyCode::Right, "←→", Action::Right, "another chart", true));
        }
        View::Speed => {
            own.push(binding(KeyCode::Right, "←→", Action::Right, "another chart", true));
            own.push(binding(KeyCode::Char('c'), "c", Action::CompareSpeed, "compare", true));
            // While a run goes on nothing can be measured.
            if !app.is_running() {
                own.push(binding(KeyCode::Char('a'), "a", Action::MeasureAll, "measure all of memory", true));
            }
        }
        View::Report => {
            own.push(binding(KeyCode::Down, "↑↓", Action::Down, "further down", true));
            own.push(binding(KeyCode::Char('l'), "l", Action::Language, "the other language", true));
        }
    }
    if app.view == View::Swap && !app.is_running() {
        if app.facts.advice.as_ref().is_some_and(|advice| !advice.alternatives.is_empty()) {
            own.push(binding(KeyCode::Char('a'), "a", Action::OtherStep, "another step", true));
        }
        if !app.facts.trials.is_empty() {
            own.push(binding(KeyCode::Char('u'), "u", Action::Strike, "strike a run out", false));
        }
        own.push(binding(KeyCode::Char('b'), "b", Action::Known, "tell what else is known", false));
        let words = if app.facts.closed.is_some() { "open the job again" } else { "close the job" };
        own.push(binding(KeyCode::Char('c'), "c", Action::CloseOrReopen, words, app.answer().is_some()));
    }
    if app.is_running() {
        let of_run = of_run(app);
        // A key that means something here keeps its meaning.
        let free: Vec<Binding> =
            of_run.into_iter().filter(|one| own.iter().all(|known| known.key != one.key)).collect();
        own.extend(free);
    }
    own
}

/// Keys of a run that goes on, wherever one looks.
fn of_run(app: &App) -> Vec<Binding> {
    let mut keys = Vec::new();
    if let Some(state) = app.run_state() {
        let words = if state.paused { "go on" } else { "pause" };
        if app.view != View::Swap {
            keys.push(binding(KeyCode::Char(' '), "Space", Action::PauseOrGoOn, words, true));
        }
        keys.push(binding(KeyCode::Char('n'), "n", Action::SkipTest, "next test", app.view == View::Run));
        keys.push(binding(KeyCode::Char('t'), "t", Action::GoToTest, "go to the chosen test, or repeat it", false));
        keys.push(binding(KeyCode::Char('a'), "a", Action::AddPass, "add a pass", false));
    }
    keys.push(binding(KeyCode::Char('x'), "x", Action::StopRun, "stop the run", true));
    keys
}

/// Going on with the latest run, and repeating what it showed.
fn again(app: &App) -> Vec<Binding> {
    let mut again = Vec::new();
    if app.is_running() {
        return again;
    }
    if app.facts.repeat.is_some() {
        again.push(binding(KeyCode::Char('r'), "r", Action::RepeatWhatFailed, "repeat what failed", true));
    }
    if app.facts.go_on.is_some() && app.has_suspicion() {
        again.push(binding(KeyCode::Char('c'), "c", Action::GoOnWithRun, "continue the run", app.view == View::Run));
    }
    again
}

fn drive_bindings(app: &App) -> Vec<Binding> {
    if super::drives::is_writing(app) {
        return vec![binding(KeyCode::Char('x'), "x", Action::GiveUp, "give up", true)];
    }
    vec![
        binding(KeyCode::Down, "↑↓", Action::Down, "another drive", true),
        binding(KeyCode::Char(' '), "Space", Action::KeepResults, "keep its results, or not", true),
        binding(KeyCode::Char('d'), "d", Action::BootDrive, "look for drives again", true),
    ]
}

/// What a key means now.
pub fn action_of(app: &App, key: KeyEvent) -> Option<Action> {
    if key.modifiers.contains(KeyModifiers::CONTROL) {
        return match key.code {
            KeyCode::Char('c') => Some(Action::Quit),
            KeyCode::Char('l') => Some(Action::Redraw),
            _ => None,
        };
    }
    match key.code {
        KeyCode::Up => return Some(Action::Up),
        KeyCode::Down => return Some(Action::Down),
        KeyCode::Left => return Some(Action::Left),
        KeyCode::Right => return Some(Action::Right),
        _ => {}
    }
    let code = match key.code {
        KeyCode::Char(letter) => KeyCode::Char(letter.to_ascii_lowercase()),
        other => other,
    };
    bindings(app).into_iter().find(|binding| binding.key == code).map(|binding| binding.action)
}

/// Bindings that match what was typed into the list of actions.
pub fn matching(bindings: Vec<Binding>, typed: &str) -> Vec<Binding> {
    let typed = typed.to_lowercase();
    bindings
        .into_iter()
        .filter(|binding| !matches!(binding.action, Action::Back | Action::Actions | Action::Down | Action::Right))
        .filter(|binding| binding.words.to_lowercase().contains(&typed))
        .collect()
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;
    use std::sync::atomic::AtomicBool;
    use std::sync::{Arc, Mutex, OnceLock};
    use std::time::Instant;

    use revisum_engine::recipe::{Depth, Recipe};
    use revisum_record::run_state::RunState;
    use revisum_workbench::go_on::Start;
    use rstest::rstest;

    use super::*;
    use crate::pages::{DrivePage, Writing};
    use crate::state::{Facts, RunView};

    fn app(view: View, running: bool, again: bool) -> App {
        let start = again.then(|| Start::new(Recipe::of_depth(Depth::Triage)));
        let facts = Facts { can_move: true, go_on: start.clone(), repeat: start, ..Facts::default() };
        let state = Arc::new(RunState { records: 1, ..RunState::default() });
        let run = Some(RunView { state, over: !running, ..RunView::default() });
        App { view, run, ..App::new(facts, (128, 40)) }
    }

    /// While a drive is being written no view promises to leave that page.
    #[test]
    fn nothing_is_promised_while_a_drive_is_written() {
        for view in View::ALL {
            let writing = Writing {
                name: "sdx".into(),
                progress: Mutex::default(),
                begin: Instant::now(),
                give_up: AtomicBool::default(),
                ended: OnceLock::new(),
            };
            let page = DrivePage { writing: Some(Arc::new(writing)), ..DrivePage::default() };
            let app = App { drive_page: Some(page), ..app(view, false, false) };
            assert!(crate::drives::is_writing(&app));
            let words: Vec<String> = bindings(&app).into_iter().map(|binding| binding.words).collect();
            assert!(!words.iter().any(|words| words == "back to the jobs"), "{view:?}");
            assert_eq!(words.iter().any(|words| words == "give up"), view == View::Jobs, "{view:?}");
        }
    }

    /// A key means one thing, everything has words, and every view is reached and left from every other.
    #[rstest]
    fn a_key_means_one_thing(#[values(false, true)] running: bool, #[values(false, true)] again: bool) {
        for view in View::ALL {
            let all = bindings(&app(view, running, again));
            let mut meanings: BTreeMap<String, Vec<Action>> = BTreeMap::new();
            for binding in &all {
                assert!(!binding.words.is_empty() && !binding.name.is_empty(), "{binding:?}");
                meanings.entry(format!("{:?}", binding.key)).or_default().push(binding.action);
            }
            let twice: Vec<_> = meanings.iter().filter(|(_, actions)| actions.len() > 1).collect();
            assert!(twice.is_empty(), "{view:?}, running {running}: {twice:?}");
            let shown = |view: &View| all.iter().any(|binding| binding.action == Action::Show(*view));
            assert!(View::ALL.iter().all(shown));
            assert!(all.iter().any(|binding| binding.action == Action::Quit && binding.footer));
        }
    }

    #[rstest]
    #[case::in_a_run(true, Action::StopRun, true)]
    #[case::no_run(false, Action::StopRun, false)]
    #[case::no_repeat_while_one_runs(true, Action::RepeatWhatFailed, false)]
    #[case::repeat(false, Action::RepeatWhatFailed, true)]
    #[case::pause(true, Action::PauseOrGoOn, true)]
    #[case::nothing_to_pause(false, Action::PauseOrGoOn, false)]
    fn what_cannot_be_done_has_no_key(#[case] running: bool, #[case] action: Action, #[case] offered: bool) {
        let all = bindings(&app(View::Run, running, true));
        assert_eq!(all.iter().any(|binding| binding.action == action), offered);
    }

    #[rstest]
    #[case("stop", &[Action::StopRun])]
    #[case("REPORT", &[Action::Show(View::Report)])]
    #[case("no such thing", &[])]
    fn actions_are_found_by_what_is_typed(#[case] typed: &str, #[case] expected: &[Action]) {
        let found: Vec<Action> =
            matching(bindings(&app(View::Run, true, false)), typed).iter().map(|binding| binding.action).collect();
        assert_eq!(found, expected);
    }

    #[rstest]
    #[case(KeyCode::Char('X'), KeyModifiers::SHIFT, Some(Action::StopRun))]
    #[case(KeyCode::Char('c'), KeyModifiers::CONTROL, Some(Action::Quit))]
    #[case(KeyCode::Char('l'), KeyModifiers::CONTROL, Some(Action::Redraw))]
    #[case(KeyCode::Char('x'), KeyModifiers::CONTROL, None)]
    #[case(KeyCode::Up, KeyModifiers::NONE, Some(Action::Up))]
    #[case(KeyCode::F(7), KeyModifiers::NONE, None)]
    fn keys_are_taken_in_either_case(
        #[case] code: KeyCode,
        #[case] modifiers: KeyModifiers,
        #[case] expected: Option<Action>,
    ) {
        assert_eq!(action_of(&app(View::Run, true, false), KeyEvent::new(code, modifiers)), expected);
    }
}
