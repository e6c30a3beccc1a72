//! The full screen on a terminal: waits for something to happen, lets the session take it, draws.

use std::net::SocketAddr;
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use anyhow::{Context, Result};
use crossterm::event::{Event as Input, KeyCode, KeyEvent, KeyEventKind, MouseButton, MouseEventKind};
use signal_hook::consts::{SIGHUP, SIGINT, SIGQUIT, SIGTERM};
use signal_hook::iterator::Signals;

use revisum_drive::{DriveSettings, Text};
use revisum_link::{Bench, Card, Order, Source};
use revisum_linux::boot::{ConsoleText, TextSize};
use revisum_records::{DataDir, wall_time};

use crate::booted::{Booted, Leave};
use crate::kit::canvas::{Canvas, Targets};
use crate::kit::theme::Theme;
use crate::room::view::View;
use crate::say;
use crate::session::{LookedAt, Session, Wish};
use crate::terminal::{Screen, TerminalGuard, ring, wipe};
use crate::wall::{self, Asks, Place, Wall};
use crate::welcome::{Starting, Welcome};
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
    /// Something is done to this machine at the counter.
    Ordered(Order),
    /// The system asks the program to end.
    Ended,
}

/// Runs the full screen until somebody leaves it; what shall become of a booted machine, and why something is not recorded.
///
/// # Errors
/// When there is no terminal or it cannot be drawn on.
pub fn run(workshop: Workshop, first: View) -> Result<Ended> {
    let mut terminal = Opened::now()?;
    terminal.serve(LookedAt::now(workshop), first, Vec::new())
}

/// Shows the wall of the counter with these records until somebody leaves it.
///
/// # Errors
/// When there is no terminal, or the counter cannot be opened.
pub fn run_wall(data: &DataDir, listen: Option<SocketAddr>) -> Result<()> {
    let mut terminal = Opened::now()?;
    let place = terminal.place(data, listen)?;
    terminal.show_wall(&place, None)
}

/// What shall become of a booted machine, and why something is not recorded.
type Ended = (Option<Leave>, Option<String>);

/// What is there before the workshop of a booted machine is.
pub struct Early<'a> {
    /// The console that it is drawn on.
    pub console: &'a str,
    /// How far the start is.
    pub starting: &'a mut dyn FnMut() -> Starting,
    /// The first screen.
    pub first: Welcome,
    /// Keys that were pressed before that.
    pub typed: Vec<KeyEvent>,
    /// Opens the workshop.
    pub open: &'a mut (dyn FnMut(Booted) -> Result<Workshop> + Send),
}

/// The same on a machine that was booted: the first screen until it is known where records go, then the keys that were pressed meanwhile.
///
/// # Errors
/// As [`run`].
pub fn run_booted(early: Early<'_>) -> Result<Ended> {
    let mut terminal = Opened::now()?;
    // A console without glyphs of its own is drawn on with those that it has.
    terminal.text = ConsoleText::take(early.console, None).ok();
    let mut first = early.first;
    early.typed.into_iter().for_each(|key| first.key(key));
    let Some(booted) = terminal.welcome(&mut first, early.starting)? else { return Ok((None, None)) };
    terminal.set_up(&booted.settings);
    let look = || (early.open)(booted).map(LookedAt::now);
    let Some(looked) = terminal.opened(&mut first, look)? else { return Ok((None, None)) };
    terminal.serve(looked, View::Board, first.keys())
}

/// The terminal, and what happens on it.
struct Opened {
    screen: Screen,
    theme: Theme,
    inbox: Receiver<Event>,
    sender: Sender<Event>,
    /// Glyphs of a console whose size can be changed.
    text: Option<ConsoleText>,
    /// The link to the shop's counter, where this machine has a card.
    link: Option<Bench>,
    /// The counter that is open here.
    place: Option<Place>,
    _guard: TerminalGuard,
}

impl Opened {
    fn now() -> Result<Self> {
        let (guard, screen) = TerminalGuard::enter()?;
        let (sender, inbox) = channel();
        listen_to_keys(sender.clone())?;
        listen_to_signals(sender.clone())?;
        Ok(Self {
            screen,
            theme: Theme::detect(false),
            inbox,
            sender,
            text: None,
            link: None,
            place: None,
            _guard: guard,
        })
    }

    /// Shows the first screen until all is there; nothing when the system asks the program to end before.
    fn welcome(&mut self, first: &mut Welcome, starting: &mut dyn FnMut() -> Starting) -> Result<Option<Booted>> {
        self.theme = Theme::detect(self.text.is_some());
        let mut stage = (Starting::Drivers, Instant::now());
        loop {
            match starting() {
                Starting::Ready(booted) => return Ok(Some(*booted)),
                Starting::Elsewhere => return Ok(None),
                now if now != stage.0 => stage = (now, Instant::now()),
                _ => {}
            }
            first.told(&stage.0, stage.1.elapsed().as_secs());
            if !self.shown_first(first)? {
                return Ok(None);
            }
        }
    }

    /// Shows it until the workshop is open and the machine looked at; nothing when the system asks the program to end before.
    fn opened(
        &mut self,
        first: &mut Welcome,
        open: impl FnOnce() -> Result<LookedAt> + Send,
    ) -> Result<Option<LookedAt>> {
        first.opens();
        std::thread::scope(|scope| {
            let opening = std::thread::Builder::new().spawn_scoped(scope, open)?;
            while !opening.is_finished() {
                if !self.shown_first(first)? {
                    return Ok(None);
                }
            }
            opening.join().unwrap_or_else(|fault| std::panic::resume_unwind(fault)).map(Some)
        })
    }

    /// Draws the first screen and takes what comes; false when there is nobody to draw it for any more.
    fn shown_first(&mut self, first: &mut Welcome) -> Result<bool> {
        let theme = &self.theme;
        self.screen.draw(|frame| {
            let area = frame.area();
            first.draw(&mut Canvas::new(frame.buffer_mut(), area, theme));
        })?;
        match self.inbox.recv_timeout(SOON) {
            Ok(Event::Key(key)) => first.key(key),
            Ok(Event::Ended) | Err(RecvTimeoutError::Disconnected) => return Ok(false),
            Ok(_) | Err(RecvTimeoutError::Timeout) => {}
        }
        Ok(true)
    }

    /// The size of text that the drive asks for.
    fn set_up(&mut self, settings: &DriveSettings) {
        let size = match settings.text {
            Text::Fitting => return,
            Text::Small => TextSize::Small,
            Text::Large => TextSize::Large,
        };
        if let Some(text) = &mut self.text {
            // What the console does not take stays as it is.
            let _ = text.show(size);
        }
    }

    fn serve(&mut self, looked: LookedAt, first: View, keys: Vec<KeyEvent>) -> Result<Ended> {
        let size = self.screen.size().context(say::size_unknown())?;
        let (data, card) = (looked.workshop.data().clone(), looked.workshop.card());
        // Once the screen is gone nobody needs to be told any more.
        let (publishes, answers) = (self.sender.clone(), self.sender.clone());
        let told = move || publishes.send(Event::Published).unwrap_or_default();
        let answered = move || answers.send(Event::Answered).unwrap_or_default();
        let size = (size.width, size.height);
        let mut session = Session::apart(looked, first, size, Arc::new(told), Arc::new(answered))?;
        match card {
            Ok(card) => self.link = card.and_then(|card| self.linked(card, &data)),
            Err(why) => session.say(why),
        }
        for key in keys {
            let wish = session.key(key);
            self.grant(wish)?;
        }
        let ended = self.go_on(&mut session, &data);
        // What was recorded last is sent as long as the machine is on; the drive has it in any case.
        self.link = None;
        let left = session.close();
        ended.map(|()| left)
    }

    fn go_on(&mut self, session: &mut Session, data: &DataDir) -> Result<()> {
        let mut second = Instant::now();
        while !session.is_over() {
            session.look_at_the_clock();
            let theme = &self.theme;
            self.screen.draw(|frame| session.draw(frame, theme))?;
            self.say_to_counter(session);
            match self.inbox.recv_timeout(if session.is_waiting() { SOON } else { TICK }) {
                Ok(event) => self.take(session, event, data)?,
                Err(RecvTimeoutError::Timeout) if second.elapsed() < TICK => {}
                Err(RecvTimeoutError::Timeout) => {
                    second = Instant::now();
                    let wish = session.second();
                    self.grant(wish)?;
                }
                Err(RecvTimeoutError::Disconnected) => return Ok(()),
            }
            let burst: Vec<Event> = self.inbox.try_iter().take(BURST).collect();
            for event in burst {
                self.take(session, event, data)?;
            }
        }
        Ok(())
    }

    fn take(&mut self, session: &mut Session, event: Event, data: &DataDir) -> Result<()> {
        let wish = match event {
            #[cfg(debug_assertions)]
            Event::Key(key) if key.code == KeyCode::F(12) => panic!("asked for by F12 in a debug build"),
            Event::Key(key) => session.key(key),
            Event::Resized(width, height) => session.resized(width, height),
            Event::Pointed(column, row) => session.pointed(column, row),
            Event::Published => {
                self.link.iter().for_each(Bench::recorded);
                session.published()
            }
            Event::Answered => session.answered(),
            Event::Ordered(Order::Press(key)) => wall::pressed(key).and_then(|key| session.key(key)),
            Event::Ordered(Order::Look(_)) => None,
            Event::Ended => session.end(),
        };
        if wish == Some(Wish::Wall) {
            return self.open_wall(session, data);
        }
        self.grant(wish)
    }

    /// Does what only a terminal can do.
    fn grant(&mut self, wish: Option<Wish>) -> Result<()> {
        match wish {
            Some(Wish::Wipe) => wipe(&mut self.screen),
            Some(Wish::Ring) => ring(),
            Some(Wish::TextSize) => {
                if let Some(text) = &mut self.text {
                    // A console that does not take the next size keeps the one that it has.
                    let _ = text.turn();
                }
                wipe(&mut self.screen)
            }
            Some(Wish::Wall) | None => Ok(()),
        }
    }

    /// The link of this machine to the counter of the shop with this card.
    fn linked(&self, card: Card, data: &DataDir) -> Option<Bench> {
        let sender = Mutex::new(self.sender.clone());
        let ordered = move |order| {
            if let Ok(sender) = sender.lock() {
                sender.send(Event::Ordered(order)).unwrap_or_default();
            }
        };
        // Without a thread the machine is tested all the same, and its header says that it is not linked.
        Bench::start(
            card,
            Source { data: data.root(), machine: revisum_linux::hardware_address(), ordered: Box::new(ordered) },
        )
        .ok()
    }

    /// What this machine says of itself, and its picture where somebody looks at it.
    fn say_to_counter(&self, session: &mut Session) {
        let Some(link) = &self.link else { return };
        link.stand(session.standing());
        session.is_linked(link.linked());
        if let Some(look) = link.looked_at() {
            link.show(session.picture((look.columns, look.rows)));
        }
    }

    /// Opens the counter of these records, which tells this screen when something changed.
    fn place(&self, data: &DataDir, listen: Option<SocketAddr>) -> Result<Place> {
        let sender = Mutex::new(self.sender.clone());
        let told = move || {
            if let Ok(sender) = sender.lock() {
                sender.send(Event::Published).unwrap_or_default();
            }
        };
        Place::open(data, listen, Arc::new(told))
    }

    fn open_wall(&mut self, session: &mut Session, data: &DataDir) -> Result<()> {
        let place = match self.place.take().map_or_else(|| self.place(data, None), Ok) {
            Ok(place) => place,
            Err(why) => {
                session.say(format!("{why:#}"));
                return Ok(());
            }
        };
        let shown = self.show_wall(&place, Some(session));
        self.place = Some(place);
        shown
    }

    /// Shows the wall until somebody leaves it; what is open behind it goes on.
    fn show_wall(&mut self, place: &Place, mut session: Option<&mut Session>) -> Result<()> {
        let size = self.screen.size().context(say::size_unknown())?;
        let mut wall = Wall::new(place.door.clone(), (size.width, size.height));
        let mut second = Instant::now();
        loop {
            let now = Instant::now();
            let mut asks = wall.see(place.counter.benches(), now);
            let (theme, targets) = (&self.theme, Targets::default());
            let wall_ms = wall_time::now_ms();
            self.screen.draw(|frame| wall.draw(frame, theme, &targets, now, wall_ms))?;
            match self.inbox.recv_timeout(TICK / 4) {
                Ok(Event::Key(key)) => asks.extend(wall.key(key)),
                Ok(Event::Resized(width, height)) => {
                    asks.extend(wall.resized((width, height)));
                    if let Some(session) = &mut session {
                        session.resized(width, height);
                    }
                }
                Ok(Event::Pointed(column, row)) => {
                    asks.extend(targets.at(column, row).map(|target| wall.pointed(target)).unwrap_or_default());
                }
                Ok(Event::Ended) => {
                    // Whoever is behind the wall ends too.
                    self.sender.send(Event::Ended).unwrap_or_default();
                    asks.extend(wall.close().into_iter().chain([Asks::Leave]));
                }
                Ok(Event::Published | Event::Answered | Event::Ordered(_)) => {
                    if let Some(session) = &mut session {
                        session.published();
                    }
                }
                Err(RecvTimeoutError::Timeout) => {}
                Err(RecvTimeoutError::Disconnected) => return Ok(()),
            }
            if second.elapsed() >= TICK {
                second = now;
                if let Some(session) = &mut session {
                    session.second();
                }
            }
            for ask in asks {
                match ask {
                    // A machine that is gone meanwhile says so on the wall.
                    Asks::Order(id, order) => drop(place.counter.order(&id, order)),
                    Asks::Ring => ring()?,
                    Asks::Wipe => wipe(&mut self.screen)?,
                    Asks::Leave => return wipe(&mut self.screen),
                }
            }
        }
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
