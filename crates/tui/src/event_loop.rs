//! The full screen on a terminal: waits for something to happen, lets the session take it, draws.

use std::sync::Arc;
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::time::{Duration, Instant};

use anyhow::{Context, Result};
use crossterm::event::{Event as Input, KeyCode, KeyEvent, KeyEventKind, MouseButton, MouseEventKind};
use signal_hook::consts::{SIGHUP, SIGINT, SIGQUIT, SIGTERM};
use signal_hook::iterator::Signals;

use crate::booted::Leave;
use crate::kit::theme::Theme;
use crate::room::view::View;
use crate::say;
use crate::session::{Session, Wish};
use crate::terminal::{Screen, TerminalGuard, ring, wipe};
use crate::workshop::Workshop;

/// The clock in the header moves this often.
const TICK: Duration = Duration::from_secs(1);
/// While something is waited for it is said this soon.
const SOON: Duration = Duration::from_millis(100);
/// Events taken together before the screen is drawn again.
const BURST: usize = 64;

enum Event {
    Key(KeyEvent),
    Resized(u16, u16),
    /// Somebody pointed at this column and row.
    Pointed(u16, u16),
    /// The run has something new.
    Published,
    /// An effect is done.
    Answered,
    /// The system asks the program to end.
    Ended,
}

/// Runs the full screen until somebody leaves it; what shall become of a booted machine, and why something is not recorded.
///
/// # Errors
/// When there is no terminal or it cannot be drawn on.
pub fn run(workshop: Workshop, first: View) -> Result<(Option<Leave>, Option<String>)> {
    let (guard, mut screen) = TerminalGuard::enter()?;
    let (sender, inbox) = channel();
    listen_to_keys(sender.clone())?;
    listen_to_signals(sender.clone())?;
    let size = screen.size().context(say::size_unknown())?;
    // Once the screen is gone nobody needs to be told any more.
    let answers = sender.clone();
    let told = move || sender.send(Event::Published).unwrap_or_default();
    let answered = move || answers.send(Event::Answered).unwrap_or_default();
    let size = (size.width, size.height);
    let mut session = Session::apart(workshop, first, size, Arc::new(told), Arc::new(answered))?;
    let ended = serve(&mut session, &mut screen, &inbox);
    let (leave, not_kept) = session.close();
    drop(guard);
    ended.map(|()| (leave, not_kept))
}

fn serve(session: &mut Session, screen: &mut Screen, inbox: &Receiver<Event>) -> Result<()> {
    let theme = Theme::detect();
    let mut second = Instant::now();
    while !session.is_over() {
        session.look_at_the_clock();
        screen.draw(|frame| session.draw(frame, &theme))?;
        match inbox.recv_timeout(if session.is_waiting() { SOON } else { TICK }) {
            Ok(event) => take(session, screen, event)?,
            Err(RecvTimeoutError::Timeout) if second.elapsed() < TICK => {}
            Err(RecvTimeoutError::Timeout) => {
                second = Instant::now();
                grant(screen, session.second())?;
            }
            Err(RecvTimeoutError::Disconnected) => return Ok(()),
        }
        for event in inbox.try_iter().take(BURST) {
            take(session, screen, event)?;
        }
    }
    Ok(())
}

fn take(session: &mut Session, screen: &mut Screen, event: Event) -> Result<()> {
    let wish = match event {
        #[cfg(debug_assertions)]
        Event::Key(key) if key.code == crossterm::event::KeyCode::F(12) => panic!("asked for by F12 in a debug build"),
        Event::Key(key) => session.key(key),
        Event::Resized(width, height) => session.resized(width, height),
        Event::Pointed(column, row) => session.pointed(column, row),
        Event::Published => session.published(),
        Event::Answered => session.answered(),
        Event::Ended => session.end(),
    };
    grant(screen, wish)
}

/// Does what only a terminal can do.
fn grant(screen: &mut Screen, wish: Option<Wish>) -> Result<()> {
    match wish {
        Some(Wish::Wipe) => wipe(screen),
        Some(Wish::Ring) => ring(),
        None => Ok(()),
    }
}

fn listen_to_keys(sender: Sender<Event>) -> Result<()> {
    let listen = move || {
        loop {
            let event = match crossterm::event::read() {
                Ok(Input::Key(key)) if key.kind != KeyEventKind::Release => Event::Key(key),
                Ok(Input::Resize(width, height)) => Event::Resized(width, height),
                Ok(Input::Mouse(mouse)) => match mouse.kind {
                    MouseEventKind::Down(MouseButton::Left) => Event::Pointed(mouse.column, mouse.row),
                    MouseEventKind::ScrollUp => Event::Key(KeyCode::Up.into()),
                    MouseEventKind::ScrollDown => Event::Key(KeyCode::Down.into()),
                    _ => continue,
                },
                Ok(_) => continue,
                // The terminal is gone: end as if asked to.
                Err(_) => Event::Ended,
            };
            let last = matches!(event, Event::Ended);
            if sender.send(event).is_err() || last {
                return;
            }
        }
    };
    std::thread::Builder::new().spawn(listen).context(say::no_thread())?;
    Ok(())
}

fn listen_to_signals(sender: Sender<Event>) -> Result<()> {
    let mut signals = Signals::new([SIGTERM, SIGINT, SIGHUP, SIGQUIT]).context(say::no_signals())?;
    let listen = move || {
        for _ in signals.forever() {
            if sender.send(Event::Ended).is_err() {
                return;
            }
        }
    };
    std::thread::Builder::new().spawn(listen).context(say::no_thread())?;
    Ok(())
}
