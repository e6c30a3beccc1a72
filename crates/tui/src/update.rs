//! How the state changes: a key becomes an action, an action changes the state and may ask for effects. No input or
//! output happens here.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use revisum_diagnose::isolate::answer_words;
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::units::bytes_text;
use revisum_record::journal::JobEntry;
use revisum_record::outcome::Judgement;
use revisum_workbench::go_on::Start;

use super::action::{Action, View};
use super::effect::Effect;
use super::keymap::{action_of, bindings, matching};
use super::recipe_rows::{self, recipe_rows};
use super::state::{App, Overlay, Pick};
use super::views::report_lines;
use super::{all_facts, bring_in, drives, found, intake, logs, mark, pick, speed, step as steps};
use revisum_report::Language;

/// Takes one key press.
pub fn key(app: &mut App, key: KeyEvent) -> Vec<Effect> {
    if key.modifiers.contains(KeyModifiers::CONTROL) && key.code == KeyCode::Char('c') && app.facts.booted.is_none() {
        return leave(app);
    }
    // Somebody is there: nothing begins by itself.
    app.begins_in = None;
    app.unattended = false;
    match app.overlay.take() {
        None => action_of(app, key).map(|action| act(app, action)).unwrap_or_default(),
        Some(Overlay::Actions { typed, chosen }) => key_in_actions(app, key, typed, chosen),
        Some(Overlay::Mark { module, name, input, chosen }) => mark::key(app, key, module, name, input, chosen),
        Some(Overlay::Pick { of, chosen }) => pick::key(app, key, of, chosen),
        Some(Overlay::Words(input)) => intake::key(app, key, input),
        Some(Overlay::Find) => found::key(app, key),
        Some(Overlay::DriveName(input)) => drives::key(app, key, input),
        Some(Overlay::BringIn { input, found }) => bring_in::key(app, key, input, found),
        Some(Overlay::LeaveWhileRunning) => match key.code {
            KeyCode::Enter if app.facts.booted.is_some() => {
                pick::open(app, Pick::Leave);
                vec![Effect::StopRun]
            }
            KeyCode::Enter => leave(app),
            _ => Vec::new(),
        },
        Some(Overlay::Help | Overlay::Notice(_)) => Vec::new(),
    }
}

fn leave(app: &mut App) -> Vec<Effect> {
    app.quit = true;
    vec![Effect::StopRun]
}

fn key_in_actions(app: &mut App, key: KeyEvent, mut typed: String, chosen: usize) -> Vec<Effect> {
    let matching = matching(bindings(app), &typed);
    let last = matching.len().saturating_sub(1);
    let mut chosen = chosen.min(last);
    match key.code {
        KeyCode::Esc => return Vec::new(),
        KeyCode::Enter => {
            return matching.get(chosen).map(|binding| act(app, binding.action)).unwrap_or_default();
        }
        KeyCode::Up => chosen = chosen.saturating_sub(1),
        KeyCode::Down => chosen = (chosen + 1).min(last),
        KeyCode::Backspace => {
            typed.pop();
        }
        KeyCode::Char(letter) if typed.len() < 40 => {
            typed.push(letter);
            chosen = 0;
        }
        _ => {}
    }
    app.overlay = Some(Overlay::Actions { typed, chosen });
    Vec::new()
}

/// Does what an action asks for.
pub fn act(app: &mut App, action: Action) -> Vec<Effect> {
    match action {
        Action::Show(view) => {
            app.view = view;
            (app.opened, app.opened_at) = (None, None);
            app.compared = None;
            app.life = None;
            app.system_log = None;
            if !drives::is_writing(app) {
                app.drive_page = None;
            }
            app.all_facts = None;
            found::forget(app);
            return match view {
                View::Logs => vec![Effect::ListLogs],
                View::Report => vec![Effect::MakeReport],
                View::Jobs => vec![Effect::ListJobs, Effect::ListLogs],
                View::Locate => vec![Effect::Locate],
                _ => Vec::new(),
            };
        }
        Action::Up => step(app, -1),
        Action::Down => step(app, 1),
        Action::Left | Action::Right if app.view == View::Intake => return intake::pick(app),
        Action::Left | Action::Right if app.view == View::Logs => {
            return logs::step_in_time(app, if action == Action::Left { -1 } else { 1 });
        }
        Action::Left => change(app, -1),
        Action::Right => change(app, 1),
        Action::Proceed => return proceed(app),
        Action::Back if app.opened.is_some() => (app.opened, app.opened_at) = (None, None),
        Action::Back if app.compared.is_some() => app.compared = None,
        Action::Back if app.life.is_some() => app.life = None,
        Action::BootDrive => return vec![Effect::ListDrives],
        Action::KeepResults => drives::keep(app),
        Action::GiveUp => drives::give_up(app),
        Action::Back if app.view == View::Jobs && app.drive_page.is_some() => drives::back(app),
        Action::Back if app.system_log.is_some() => app.system_log = None,
        Action::Choose => logs::choose(app),
        Action::Life => return logs::life(app),
        Action::SystemLog => {
            app.view = View::Logs;
            return vec![Effect::ReadSystemLog];
        }
        Action::BringIn => return bring_in::open(app),
        Action::Back if app.all_facts.is_some() => app.all_facts = None,
        Action::Back if app.view == View::Locate && found::back(app) => {}
        Action::Find => app.overlay = Some(Overlay::Find),
        Action::Back | Action::Actions => app.overlay = Some(Overlay::Actions { typed: String::new(), chosen: 0 }),
        Action::Switch => return switch(app),
        Action::Settings => return other_settings(app),
        Action::Stopgap => app.overlay = Some(Overlay::Notice(stopgap_words(app))),
        Action::Mark => mark::open(app),
        Action::OtherStep => pick::open(app, Pick::Step),
        Action::Strike => pick::open(app, Pick::Strike),
        Action::Known => {
            pick::open(app, Pick::Known);
            return vec![Effect::ListJobs];
        }
        Action::NewJob => return new_job(app),
        Action::Language => {
            app.language = Some(match app.report.as_ref().map(|report| report.language) {
                Some("de") => Language::En,
                _ => Language::De,
            });
            return vec![Effect::MakeReport];
        }
        Action::CloseOrReopen => return close_or_reopen(app),
        Action::Words => intake::open_words(app),
        Action::AllFacts => app.all_facts = Some(0),
        Action::PauseOrGoOn => return vec![Effect::PauseOrGoOn],
        Action::SkipTest => return vec![Effect::SkipTest],
        Action::StopRun if is_long(app) => pick::open(app, Pick::Stop),
        Action::StopRun => return vec![Effect::StopRun],
        Action::GoOnWithRun => return begin(app, app.facts.go_on.clone()),
        Action::RepeatWhatFailed => return begin(app, app.facts.repeat.clone()),
        Action::Defaults => {
            app.recipe = Recipe::of_depth(app.recipe.depth);
            recipe_rows::choose_depth(app, app.recipe.depth);
        }
        Action::SaveRecipe => return vec![Effect::SaveRecipe(app.recipe.clone())],
        Action::NextRecipe => return vec![Effect::NextRecipe],
        Action::GoToTest => return vec![Effect::GoToTest(app.test)],
        Action::AddPass => return vec![Effect::AddPass],
        Action::MeasureAll => return speed::measure(app, true),
        Action::StopSpeed => return vec![Effect::StopSpeed],
        Action::CompareSpeed => return vec![Effect::CompareSpeed],
        Action::Help => app.overlay = Some(Overlay::Help),
        Action::Redraw => return vec![Effect::Redraw],
        Action::Quit if app.facts.booted.is_some() && !app.is_running() => pick::open(app, Pick::Leave),
        Action::Quit if app.is_running() => app.overlay = Some(Overlay::LeaveWhileRunning),
        Action::Quit => return leave(app),
    }
    Vec::new()
}

/// What keeps a system out of the bad ranges, or why nothing does.
fn stopgap_words(app: &App) -> String {
    match app.facts.located.as_ref().map(|located| &located.stopgap) {
        None => "No errors were found in this job, so there is nothing to keep out of use.".to_owned(),
        Some(Err(refusal)) => format!("There is no stopgap: {refusal}."),
        Some(Ok(gap)) => {
            let lines = [
                format!("It costs {}. {}", bytes_text(gap.costs), gap.warning),
                format!("Linux, kernel parameters: {}", gap.kernel_parameters),
                format!("Linux, GRUB settings: {}", gap.boot_loader),
                format!("Windows, as administrator: {}", gap.windows.join(" and ")),
                "revisum locate last prints these for copying.".to_owned(),
            ];
            lines.join("\n")
        }
    }
}

/// Lines of the report that one key press moves.
const REPORT_STEP: isize = 4;
/// Lines of the list of all facts that one key press moves.
const FACTS_STEP: isize = 4;

pub(super) fn stepped(at: usize, by: isize, count: usize) -> usize {
    at.saturating_add_signed(by).min(count.saturating_sub(1))
}

fn step(app: &mut App, by: isize) {
    match app.view {
        View::Board if app.all_facts.is_some() => {
            // The last lines stay on the screen.
            let lines = all_facts::lines(app).len().saturating_sub(FACTS_STEP.unsigned_abs());
            app.all_facts = app.all_facts.map(|first| stepped(first, by * FACTS_STEP, lines));
        }
        View::Locate => {
            let (groups, words) = (found::groups(app).len(), found::words(app).len());
            match &mut app.word {
                Some(word) => *word = stepped(*word, by, words),
                None => app.group = stepped(app.group, by, groups),
            }
        }
        View::Intake => app.answer = stepped(app.answer, by, intake::answers()),
        View::Jobs if app.drive_page.is_some() => drives::step(app, by),
        View::Jobs => app.job = stepped(app.job, by, app.job_rows().len()),
        View::Board | View::Swap => app.slot = stepped(app.slot, by, app.facts.board.slots.len()),
        View::Recipe => app.recipe_row = stepped(app.recipe_row, by, recipe_rows(app).len()),
        View::Logs if app.opened.is_none() => logs::step(app, by),
        View::Run if app.is_running() => {
            let tests = app.run_state().map_or(0, |state| state.tests.len());
            app.test = stepped(app.test, by, tests);
        }
        View::Report => {
            let lines = report_lines(app, usize::from(app.size.0)).len();
            app.report_line = stepped(app.report_line, by * REPORT_STEP, lines);
        }
        View::Logs | View::Run | View::Speed => {}
    }
}

fn change(app: &mut App, by: isize) {
    match app.view {
        View::Recipe => {
            if let Some(row) = recipe_rows(app).get(app.recipe_row) {
                recipe_rows::change(app, *row, by);
            }
        }
        View::Locate => app.word = (by > 0 && app.facts.located.is_some()).then(|| app.word.unwrap_or(0)),
        View::Swap => app.loose = stepped(app.loose, by, app.facts.table.len()),
        View::Speed => speed::step(app, by),
        _ => {}
    }
}

fn proceed(app: &mut App) -> Vec<Effect> {
    if app.view == View::Logs {
        return logs::proceed(app);
    }
    if app.view == View::Jobs && app.drive_page.is_some() {
        return drives::proceed(app);
    }
    if app.view == View::Jobs {
        return open_job(app);
    }
    if app.view == View::Report {
        return vec![Effect::WriteReport];
    }
    if app.view == View::Speed {
        return speed::measure(app, false);
    }
    if app.is_running() {
        app.view = View::Run;
        return Vec::new();
    }
    if app.speed.is_measuring() {
        app.view = View::Speed;
        return Vec::new();
    }
    match app.view {
        View::Run | View::Locate if app.has_suspicion() => {
            app.view = View::Swap;
            Vec::new()
        }
        View::Run if app.facts.go_on.is_some() => begin(app, app.facts.go_on.clone()),
        View::Swap if app.planned_matches() => steps::begin_planned(app),
        View::Swap if !app.moved_since_last_run() && app.leaves_with().is_some() => leave_with(app),
        View::Swap if !app.moved_since_last_run() => match app.proposal().cloned() {
            Some(next) => steps::follow(app, &next),
            None => {
                if let Some(depth) = app.deeper() {
                    recipe_rows::choose_depth(app, depth);
                }
                start(app, app.recipe.clone())
            }
        },
        _ => start(app, app.recipe.clone()),
    }
}

/// Opens the chosen job, unless it is open already.
fn open_job(app: &mut App) -> Vec<Effect> {
    let rows = app.job_rows();
    let Some(row) = rows.get(app.job) else { return Vec::new() };
    let (machine, job) = (row.machine.to_owned(), row.job.map(|job| job.id.clone()));
    let here = row.bench.is_some() || machine == app.facts.machine;
    if machine == app.facts.machine && job.as_ref().is_none_or(|job| *job == app.facts.job) {
        app.view = View::Board;
        return Vec::new();
    }
    let notice = if app.is_running() {
        "A run is going on. Stop it before opening another job.".to_owned()
    } else if !here {
        format!("This job is of the machine {machine}: start Revisum there to go on with it. Its runs are under 8.")
    } else {
        return vec![Effect::OpenJob { machine, job }];
    };
    app.overlay = Some(Overlay::Notice(notice));
    Vec::new()
}

/// Another job for the machine at hand; an open one is closed before.
fn new_job(app: &mut App) -> Vec<Effect> {
    if app.facts.closed.is_none() && !app.facts.trials.is_empty() {
        let words = "The job at hand is still open. Close it first: c under 6. What was found in it stays on record.";
        app.overlay = Some(Overlay::Notice(words.to_owned()));
        return Vec::new();
    }
    if app.facts.closed.is_none() {
        let words = "The job at hand is new already: nothing was run in it.";
        app.overlay = Some(Overlay::Notice(words.to_owned()));
        return Vec::new();
    }
    vec![Effect::NewJob]
}

/// Begins a run of a depth as it comes.
pub fn begin_depth(app: &mut App, depth: Depth) -> Vec<Effect> {
    recipe_rows::choose_depth(app, depth);
    start(app, app.recipe.clone())
}

/// Begins a run, unless something speaks against it.
pub fn start(app: &mut App, recipe: Recipe) -> Vec<Effect> {
    if let Some(sign) = &app.facts.dark {
        app.overlay = Some(Overlay::Notice(format!("The machine does not start: {sign}. 6 moves modules.")));
        return Vec::new();
    }
    if let Err(error) = recipe.specs() {
        app.overlay = Some(Overlay::Notice(format!("This cannot be run: {error}.")));
        return Vec::new();
    }
    app.view = View::Run;
    vec![Effect::StartRun(Box::new(Start::new(recipe)))]
}

/// Begins what goes on with a run, or repeats one.
fn begin(app: &mut App, what: Option<Start>) -> Vec<Effect> {
    let Some(what) = what else { return Vec::new() };
    let effects = start(app, what.recipe.clone());
    effects.into_iter().map(|_| Effect::StartRun(Box::new(what.clone()))).collect()
}

/// A run that was waited for so long is not ended by one key.
const LONG_SECONDS: f64 = 600.0;

fn is_long(app: &App) -> bool {
    app.run_state().is_some_and(|state| Judgement::of(state, true).times.ran > LONG_SECONDS)
}

/// Puts in what stays and proves it with a survey; once that is done the job is closed.
fn leave_with(app: &mut App) -> Vec<Effect> {
    match app.leaves_with() {
        Some((_, true)) => close_or_reopen(app),
        Some((stays, false)) => {
            recipe_rows::choose_depth(app, Depth::Survey);
            let recipe = Recipe { range: None, memory: None, ..app.recipe.clone() };
            steps::follow_with(app, &stays, recipe)
        }
        None => Vec::new(),
    }
}

/// The job is done, with its answer written down; or it goes on.
fn close_or_reopen(app: &mut App) -> Vec<Effect> {
    if app.facts.closed.is_some() {
        return vec![Effect::Decide(Box::new(JobEntry::Reopened))];
    }
    let name = |id: &str| app.facts.name_of(id);
    let answer = match app.answer() {
        Some((named, reason)) => answer_words(&app.facts.case, named, reason, &name),
        None if app.has_suspicion() => "the part was not named.".to_owned(),
        None if app.facts.case.record_damaged => "the record is damaged: what it came to cannot be told.".to_owned(),
        None => "no run found an error.".to_owned(),
    };
    vec![Effect::Decide(Box::new(JobEntry::Closed { answer }))]
}

/// The next settings that the firmware offers.
fn other_settings(app: &mut App) -> Vec<Effect> {
    if app.is_running() {
        app.overlay = Some(Overlay::Notice("A run is going on. Stop it before changing settings.".to_owned()));
        return Vec::new();
    }
    let offered = &app.facts.offered;
    let at = offered.iter().position(|settings| *settings == app.facts.settings).map_or(0, |at| at + 1);
    let next = offered.get(at).or(offered.first()).filter(|next| **next != app.facts.settings);
    next.map(|next| Effect::Set(next.clone())).into_iter().collect()
}

/// Takes the module out of the chosen slot, or puts the chosen loose module in.
fn switch(app: &mut App) -> Vec<Effect> {
    if !app.facts.can_move {
        return Vec::new();
    }
    if app.is_running() {
        app.overlay = Some(Overlay::Notice("A run is going on. Stop it before moving modules.".to_owned()));
        return Vec::new();
    }
    let Some(slot) = app.facts.board.slots.get(app.slot) else { return Vec::new() };
    if slot.soldered {
        app.overlay = Some(Overlay::Notice(format!("The memory in {} is soldered: it cannot be taken out.", slot.id)));
        return Vec::new();
    }
    let mut placement = app.facts.board.placement();
    if slot.module.is_some() {
        placement.retain(|(used, _)| *used != slot.id);
    } else {
        let Some(module) = app.facts.table.get(app.loose).or(app.facts.table.first()) else {
            app.overlay =
                Some(Overlay::Notice("No module lies on the table. Take one out of a slot first.".to_owned()));
            return Vec::new();
        };
        placement.push((slot.id.clone(), module.serial.clone()));
    }
    app.loose = 0;
    vec![Effect::Refit(placement)]
}

#[cfg(test)]
mod tests;
