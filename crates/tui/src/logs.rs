//! Keys of the Logs view: choosing runs, a run's time, a module's life, what systems logged.

use super::action::View;
use super::effect::Effect;
use super::state::{App, Overlay};
use super::update::stepped;

/// Runs that can be set side by side.
const MOST_COMPARED: usize = 4;
/// Steps in which one goes through a run's time.
const STEPS: u64 = 40;

/// Chooses the run for a comparison, or takes it out again.
pub fn choose(app: &mut App) {
    let Some(log) = app.logs.get(app.log) else { return };
    if !app.chosen.remove(&log.id) {
        if app.chosen.len() == MOST_COMPARED {
            let words =
                format!("{MOST_COMPARED} runs can be compared at once. Space on a chosen one takes it out again.");
            app.overlay = Some(Overlay::Notice(words));
            return;
        }
        app.chosen.insert(log.id.clone());
    }
}

/// The life of the module in the chosen slot.
pub fn life(app: &mut App) -> Vec<Effect> {
    let slot = app.facts.board.slots.get(app.slot);
    let Some(module) = slot.and_then(|slot| slot.module.as_ref()) else { return Vec::new() };
    if module.serial.is_empty() {
        let words = "This module tells no serial number, so its runs cannot be told from those of others.";
        app.overlay = Some(Overlay::Notice(words.to_owned()));
        return Vec::new();
    }
    let (serial, name) = (module.serial.clone(), module.name());
    app.view = View::Logs;
    vec![Effect::Life { serial, name }]
}

/// Up and down in the list that is in front.
pub fn step(app: &mut App, by: isize) {
    if let Some(page) = &mut app.life {
        page.at = stepped(page.at, by, page.life.runs.len());
    } else if let Some(page) = &mut app.system_log {
        page.at = stepped(page.at, by, page.count());
    } else {
        app.log = stepped(app.log, by, app.logs.len());
    }
}

/// To an earlier or later moment of the opened run.
pub fn step_in_time(app: &App, by: i64) -> Vec<Effect> {
    let Some(run) = &app.opened else { return Vec::new() };
    let length = app.opened_at.map_or(run.state.t_ms, |(_, length)| length);
    let step = (length / STEPS).max(1);
    let now = app.opened_at.map_or(length, |(at, _)| at);
    // Multiples of a step, so that there and back is the same moment.
    let at = (now.div_ceil(step)).saturating_add_signed(by) * step;
    vec![Effect::LogAt(run.id.clone(), Some(at).filter(|at| *at < length))]
}

/// What Enter does.
pub fn proceed(app: &App) -> Vec<Effect> {
    if app.opened.is_some() || app.compared.is_some() {
        return Vec::new();
    }
    if let Some(page) = &app.life {
        let run = page.life.runs.iter().rev().nth(page.at);
        return run.map(|run| Effect::OpenLog(run.run.clone())).into_iter().collect();
    }
    if let Some(page) = &app.system_log {
        return if page.count() > 0 && !page.kept { vec![Effect::KeepSystemLog] } else { Vec::new() };
    }
    if app.chosen.len() > 1 {
        return vec![Effect::Compare(app.chosen.iter().cloned().collect())];
    }
    app.logs.get(app.log).map(|log| Effect::OpenLog(log.id.clone())).into_iter().collect()
}
