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
    if app.drive_page.is_some() {
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
        View::Run => {}
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
            own.push(binding(KeyCode::Char('a'), "a", Action::MeasureAll, "measure all of memory", true));
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
        if let Some(state) = app.run_state() {
            let words = if state.paused { "go on" } else { "pause" };
            if app.view != View::Swap {
                own.push(space(words, Action::PauseOrGoOn));
            }
            own.push(binding(KeyCode::Char('n'), "n", Action::SkipTest, "next test", app.view == View::Run));
            own.push(binding(KeyCode::Char('t'), "t", Action::GoToTest, "go to the chosen test, or repeat it", false));
            own.push(binding(KeyCode::Char('a'), "a", Action::AddPass, "add a pass", false));
        }
        own.push(binding(KeyCode::Char('x'), "x", Action::StopRun, "stop the run", true));
    }
    own
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
