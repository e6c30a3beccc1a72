//! Waits for something to happen, changes the state, carries out effects, draws.

use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::time::Duration;

use anyhow::{Context, Result};
use crossterm::event::{Event as Input, KeyEvent, KeyEventKind};
use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
use signal_hook::iterator::Signals;

use super::action::View;
use super::effect::Effect;
use super::pick;
use super::state::{App, Pick};
use super::terminal::{Screen, TerminalGuard, ring, wipe};
use super::theme::Theme;
use super::workshop::Workshop;
use super::{step, update, views};
use crate::booted::Leave;
use revisum_engine::recipe::Depth;
use revisum_records::wall_time;

/// The clock in the header moves this often.
const TICK: Duration = Duration::from_secs(1);
/// Seconds after a boot until testing begins by itself; less when it goes on from the other entry.
const BOOTED_BEGINS_IN_SECONDS: u32 = 20;
const CHAINED_BEGINS_IN_SECONDS: u32 = 5;
/// Seconds in which a key holds a planned run.
const BEGINS_IN_SECONDS: u32 = 30;
/// Events taken together before the screen is drawn again.
const BURST: usize = 64;

enum Event {
    Key(KeyEvent),
    Resized(u16, u16),
    /// The run has something new.
    Published,
    /// The system asks the program to end.
    Ended,
}

/// Runs the full screen until somebody leaves it.
///
/// # Errors
/// When there is no terminal or it cannot be drawn on.
pub fn run(mut workshop: Workshop, first: View) -> Result<Option<Leave>> {
    let (guard, mut screen) = TerminalGuard::enter()?;
    let (sender, inbox) = channel();
    listen_to_keys(sender.clone());
    listen_to_signals(sender.clone())?;
    let size = screen.size().context("the size of the terminal is unknown")?;
    let mut app = App::new(workshop.facts(), (size.width, size.height));
    app.view = first;
    if app.planned_matches() {
        app.view = View::Swap;
        app.begins_in = Some(BEGINS_IN_SECONDS);
    } else if app.facts.plan.is_some() {
        app.view = View::Swap;
    }
    workshop.perform(&mut app, Effect::ListJobs, || {});
    app.job = app.own_row();
    if app.facts.unexplained.is_some() && first != View::Jobs {
        app.begins_in = None;
        pick::open(&mut app, Pick::BrokeOff);
    }
    if let Some(booted) = &app.facts.booted {
        app.unattended = true;
        app.begins_in = Some(if booted.chained { CHAINED_BEGINS_IN_SECONDS } else { BOOTED_BEGINS_IN_SECONDS });
    }
    if first == View::Jobs {
        workshop.perform(&mut app, Effect::ListLogs, || {});
    }
    let ended = serve(&mut app, &mut workshop, &mut screen, &inbox, &sender);
    workshop.close();
    drop(guard);
    ended.map(|()| app.leave)
}

fn serve(
    app: &mut App,
    workshop: &mut Workshop,
    screen: &mut Screen,
    inbox: &Receiver<Event>,
    sender: &Sender<Event>,
) -> Result<()> {
    let theme = Theme::detect();
    while !app.quit {
        app.facts.wall_ms = workshop.wall_ms();
        app.minute_of_day = wall_time::minute_of_day(app.facts.wall_ms, &wall_time::zone(app.facts.simulated));
        screen.draw(|frame| views::draw(frame, app, &theme))?;
        match inbox.recv_timeout(TICK) {
            Ok(event) => take(app, workshop, screen, sender, event)?,
            Err(RecvTimeoutError::Timeout) => count_down(app, workshop, sender),
            Err(RecvTimeoutError::Disconnected) => return Ok(()),
        }
        for event in inbox.try_iter().take(BURST) {
            take(app, workshop, screen, sender, event)?;
        }
    }
    Ok(())
}

fn take(
    app: &mut App,
    workshop: &mut Workshop,
    screen: &mut Screen,
    sender: &Sender<Event>,
    event: Event,
) -> Result<()> {
    match event {
        #[cfg(debug_assertions)]
        Event::Key(key) if key.code == crossterm::event::KeyCode::F(12) => panic!("asked for by F12 in a debug build"),
        Event::Key(key) => {
            for effect in update::key(app, key) {
                if effect == Effect::Redraw {
                    wipe(screen)?;
                }
                let sender = sender.clone();
                // Once the screen is gone nobody needs to be told any more.
                workshop.perform(app, effect, move || drop(sender.send(Event::Published)));
            }
        }
        Event::Resized(width, height) => app.size = (width, height),
        Event::Published => {
            let before = heard(app);
            workshop.follow_run(app);
            if !before.1 && heard(app).1 && app.facts.booted.is_some() {
                after_a_booted_run(app, workshop, sender);
            }
            if app.sound && heard(app) != before && app.run.is_some() {
                ring()?;
            }
        }
        Event::Ended => app.quit = true,
    }
    Ok(())
}

/// A planned run begins by itself when the machine is fitted as planned and nobody touches a key.
fn count_down(app: &mut App, workshop: &mut Workshop, sender: &Sender<Event>) {
    let Some(left) = app.begins_in else { return };
    app.begins_in = Some(left.saturating_sub(1)).filter(|left| *left > 0);
    if app.begins_in.is_none() {
        app.overlay = None;
        let effects =
            if app.planned_matches() { step::begin_planned(app) } else { update::begin_depth(app, Depth::Triage) };
        perform_all(app, workshop, sender, effects);
    }
}

fn perform_all(app: &mut App, workshop: &mut Workshop, sender: &Sender<Event>, effects: Vec<Effect>) {
    for effect in effects {
        let sender = sender.clone();
        workshop.perform(app, effect, move || drop(sender.send(Event::Published)));
    }
}

/// Its report is kept beside the results; and where nobody is there, the next thing is done.
fn after_a_booted_run(app: &mut App, workshop: &mut Workshop, sender: &Sender<Event>) {
    perform_all(app, workshop, sender, vec![Effect::KeepReport]);
    let Some(state) = app.run_state().filter(|_| app.unattended) else { return };
    let depth = state.begin.recipe.as_ref().map(|recipe| recipe.depth);
    if state.has_errors() {
        return;
    }
    match depth {
        Some(Depth::Triage) => {
            let effects = update::begin_depth(app, Depth::Survey);
            perform_all(app, workshop, sender, effects);
        }
        Some(_) if app.can_test_the_rest() && app.facts.booted.as_ref().is_some_and(|booted| !booted.chained) => {
            app.leave = Some(Leave::Other);
            app.quit = true;
        }
        _ => {}
    }
}

/// What a sound tells: whether there were errors, and whether the run is over.
fn heard(app: &App) -> (bool, bool) {
    (app.run_state().is_some_and(|state| state.has_errors()), !app.is_running())
}

fn listen_to_keys(sender: Sender<Event>) {
    std::thread::spawn(move || {
        loop {
            let event = match crossterm::event::read() {
                Ok(Input::Key(key)) if key.kind != KeyEventKind::Release => Event::Key(key),
                Ok(Input::Resize(width, height)) => Event::Resized(width, height),
                Ok(_) => continue,
                // The terminal is gone: end as if asked to.
                Err(_) => Event::Ended,
            };
            let last = matches!(event, Event::Ended);
            if sender.send(event).is_err() || last {
                return;
            }
        }
    });
}

fn listen_to_signals(sender: Sender<Event>) -> Result<()> {
    let mut signals = Signals::new([SIGTERM, SIGINT, SIGHUP]).context("signals cannot be listened to")?;
    std::thread::spawn(move || {
        for _ in signals.forever() {
            if sender.send(Event::Ended).is_err() {
                return;
            }
        }
    });
    Ok(())
}
