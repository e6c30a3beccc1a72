//! The full screen without a terminal: keys go straight to what takes them, and its picture is read as text. It waits only for what
//! the run itself tells.

use std::cell::RefCell;
use std::path::Path;
use std::sync::Arc;
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::{Duration, Instant};

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use revisum_tui::{Demo, Session, demo_session};

/// How long a simulated run may take before the test gives up. Only a limit.
const PATIENCE: Duration = Duration::from_secs(180);
/// A second by the clock of the header: the session hears of it when nothing else happens.
const SECOND: Duration = Duration::from_secs(1);

pub struct Driven {
    session: RefCell<Session>,
    news: Receiver<()>,
}

impl Driven {
    /// The demonstration of one machine, as fast as it can go.
    pub fn open(data: &Path, machine: &str, size: (u16, u16)) -> Self {
        let (sender, news) = channel();
        // Once the session is gone nobody needs to be told any more.
        let told = move || sender.send(()).unwrap_or_default();
        let demo = Demo { machine: Some(machine.to_owned()), seed: 1, pace: 0.0 };
        let session = demo_session(Some(data), &demo, size, Arc::new(told)).unwrap();
        Self { session: RefCell::new(session), news }
    }

    /// Presses keys by the names that tmux has for them.
    pub fn keys(&self, keys: &[&str]) {
        for key in keys {
            let (code, modifiers) = match *key {
                "Enter" => (KeyCode::Enter, KeyModifiers::NONE),
                "Escape" => (KeyCode::Esc, KeyModifiers::NONE),
                "Space" => (KeyCode::Char(' '), KeyModifiers::NONE),
                "Up" => (KeyCode::Up, KeyModifiers::NONE),
                "Down" => (KeyCode::Down, KeyModifiers::NONE),
                "End" => (KeyCode::End, KeyModifiers::NONE),
                "Left" => (KeyCode::Left, KeyModifiers::NONE),
                "Right" => (KeyCode::Right, KeyModifiers::NONE),
                letter => (KeyCode::Char(letter.chars().next().unwrap()), KeyModifiers::NONE),
            };
            self.session.borrow_mut().key(KeyEvent::new(code, modifiers));
        }
    }

    /// What is on the screen.
    pub fn text(&self) -> String {
        self.session.borrow().text()
    }

    /// Whether somebody left it.
    pub fn is_over(&self) -> bool {
        self.session.borrow().is_over()
    }

    /// Takes what the run tells until the screen is as wanted, and gives what it shows.
    pub fn until(&self, what: &str, is_there: impl Fn(&str) -> bool) -> String {
        let begin = Instant::now();
        loop {
            while self.news.try_recv().is_ok() {
                self.session.borrow_mut().published();
            }
            self.session.borrow_mut().look_at_the_clock();
            let text = self.text();
            if is_there(&text) {
                return text;
            }
            assert!(begin.elapsed() < PATIENCE, "{what} never came:\n{text}");
            match self.news.recv_timeout(SECOND) {
                Ok(()) => {
                    self.session.borrow_mut().published();
                }
                Err(RecvTimeoutError::Timeout) => drop(self.session.borrow_mut().second()),
                Err(RecvTimeoutError::Disconnected) => panic!("the session is gone"),
            }
        }
    }

    /// Until this is on the screen.
    pub fn wait(&self, text: &str) -> String {
        self.until(text, |seen| seen.contains(text))
    }

    /// Leaves as somebody who presses the key for it.
    pub fn leave(self) {
        self.keys(&["q"]);
        assert!(self.is_over(), "{}", self.text());
        self.session.into_inner().close();
    }
}
