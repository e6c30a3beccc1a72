//! Lists to choose one line of: other steps, runs to strike out, what else is known.

use crossterm::event::{KeyCode, KeyEvent};
use revisum_diagnose::isolate::headline;
use revisum_engine::units::duration_text;
use revisum_record::journal::{BrokeOff, JobEntry};
use revisum_record::outcome::Judgement;

use super::effect::Effect;
use super::known;
use super::state::{App, Overlay, Pick};
use super::step;
use crate::booted::Leave;

/// No line is chosen yet.
pub const NONE: usize = usize::MAX;

/// Opens a list; an empty one says why.
pub fn open(app: &mut App, of: Pick) {
    let empty = match of {
        Pick::Step => "There is no other step to choose from.",
        Pick::Strike => "No run was made in this job yet, so there is none to strike out.",
        Pick::Known => "No module is known in this job.",
        Pick::BrokeOff => "No run broke off.",
        Pick::Stop => "No run is going on.",
        Pick::Leave => "There is nothing to leave.",
    };
    app.overlay = Some(match lines(app, of).is_empty() {
        true => Overlay::Notice(empty.to_owned()),
        // What happened is never answered by a key that was pressed out of habit.
        false => Overlay::Pick { of, chosen: if of == Pick::BrokeOff { NONE } else { 0 } },
    });
}

/// Takes one key press while a list is open.
pub fn key(app: &mut App, key: KeyEvent, of: Pick, chosen: usize) -> Vec<Effect> {
    let last = lines(app, of).len().saturating_sub(1);
    let chosen = match key.code {
        KeyCode::Esc => return Vec::new(),
        KeyCode::Enter if chosen <= last => return take(app, of, chosen),
        KeyCode::Up if chosen > last => last,
        KeyCode::Down if chosen > last => 0,
        KeyCode::Up => chosen.saturating_sub(1),
        KeyCode::Down => (chosen + 1).min(last),
        _ => chosen,
    };
    app.overlay = Some(Overlay::Pick { of, chosen });
    Vec::new()
}

/// What the list is about.
pub fn title(app: &App, of: Pick) -> String {
    let words = match of {
        Pick::Step => {
            "Other steps, the most telling for its minutes first. What is moved by hand on the drawn board counts just as well."
        }
        Pick::Strike => "Strike a run out: it then proves nothing. Once more lets it count again.",
        Pick::Leave if app.kept.trouble.is_some() => {
            let why = app.kept.trouble.clone().unwrap_or_default();
            return format!(
                "NOT RECORDED: {why}. What was found is lost when the machine goes off: write it down or take a picture of the screen first. What next?"
            );
        }
        Pick::Leave => {
            "Everything is written. What next? Afterwards take the drive out, and set the boot order back in the firmware if it was changed."
        }
        Pick::Stop => "Stop this run?",
        Pick::Known => "What else is known? It counts as evidence, and nothing of it is required.",
        Pick::BrokeOff => {
            let (id, sentence) = app.facts.unexplained.clone().unwrap_or_default();
            return format!("The run {id} has no end. {sentence} What happened? The answer counts as evidence.");
        }
    };
    words.to_owned()
}

/// The lines of a list.
pub fn lines(app: &App, of: Pick) -> Vec<String> {
    match of {
        Pick::Step => {
            let alternatives = app.facts.advice.iter().flat_map(|advice| &advice.alternatives);
            let now = app.facts.board.known_placement();
            let name = |id: &str| app.facts.name_of(id);
            let line = |next| {
                let next: &revisum_diagnose::isolate::Experiment = next;
                let (hands, machine) = (next.hands_minutes, duration_text(next.minutes * 60.0));
                format!(
                    "{}   {hands:.0} min of hands, {machine} of machine",
                    headline(&app.facts.case, next, &app.scene(&now, &name))
                )
            };
            alternatives.map(line).collect()
        }
        Pick::Strike => app.facts.trials.iter().enumerate().map(|(at, trial)| run_line(app, at, trial)).collect(),
        Pick::Known => known::lines(app).into_iter().map(|line| line.words).collect(),
        Pick::Stop => stop_lines(app),
        Pick::Leave => leaves(app).into_iter().map(|leave| leave.words().to_owned()).collect(),
        Pick::BrokeOff => BrokeOff::ALL.iter().map(|how| how.words().to_owned()).collect(),
    }
}

/// What can become of a booted machine.
fn leaves(app: &App) -> Vec<Leave> {
    Leave::ALL.into_iter().filter(|leave| *leave != Leave::Other || app.can_test_the_rest()).collect()
}

fn run_line(app: &App, at: usize, trial: &super::state::Trial) -> String {
    let names: Vec<String> =
        trial.placement.iter().map(|(slot, id)| format!("{} in {slot}", app.facts.name_of(id))).collect();
    let outcome = &trial.headline;
    let struck = if trial.struck.is_some() { "   struck out" } else { "" };
    format!("run {}   {outcome}   {}{struck}", at + 1, names.join(", "))
}

fn stop_lines(app: &App) -> Vec<String> {
    let Some(state) = app.run_state().filter(|_| app.is_running()) else { return Vec::new() };
    let ran = duration_text(Judgement::of(state, true).times.ran);
    vec!["Keep it running".to_owned(), format!("Stop after {ran}; it can be continued later")]
}

fn take(app: &mut App, of: Pick, chosen: usize) -> Vec<Effect> {
    let decide = |entry| vec![Effect::Decide(Box::new(entry))];
    match of {
        Pick::Step => {
            let next = app.facts.advice.iter().flat_map(|advice| &advice.alternatives).nth(chosen).cloned();
            next.map(|next| step::follow(app, &next)).unwrap_or_default()
        }
        Pick::Strike => {
            let Some(trial) = app.facts.trials.get(chosen) else { return Vec::new() };
            let run = trial.run.clone();
            decide(match trial.struck {
                Some(_) => JobEntry::Restored { run },
                None => JobEntry::Struck { run, reason: "by hand".to_owned() },
            })
        }
        Pick::Stop if chosen == 1 => vec![Effect::StopRun],
        Pick::Stop => Vec::new(),
        Pick::Leave => {
            app.leave = leaves(app).get(chosen).copied();
            app.quit = app.leave.is_some();
            Vec::new()
        }
        Pick::BrokeOff => {
            let run = app.facts.unexplained.as_ref().map(|(run, _)| run.clone());
            let entry = run.zip(BrokeOff::ALL.get(chosen)).map(|(run, how)| JobEntry::BrokeOff { run, how: *how });
            entry.map(decide).unwrap_or_default()
        }
        Pick::Known => {
            let entries = known::lines(app).into_iter().nth(chosen).map(|line| line.entries).unwrap_or_default();
            entries.into_iter().flat_map(decide).collect()
        }
    }
}
