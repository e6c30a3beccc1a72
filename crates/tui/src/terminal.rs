//! Taking the terminal and giving it back, whatever happens.

use std::io::{Write, stdout};

use anyhow::{Context, Result};
use crossterm::cursor::{Hide, Show};
use crossterm::event::{DisableMouseCapture, EnableMouseCapture};
use crossterm::execute;
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;
use ratatui::layout::Rect;

use crate::kit::theme::Theme;
use crate::say;

/// The screen.
pub type Screen = Terminal<CrosstermBackend<std::io::Stdout>>;

/// Holds the terminal; gives it back when dropped.
pub struct TerminalGuard;

impl TerminalGuard {
    /// Takes the terminal, and makes sure that a panic gives it back before it speaks.
    ///
    /// # Errors
    /// When there is no terminal.
    pub fn enter() -> Result<(Self, Screen)> {
        let usual = std::panic::take_hook();
        std::panic::set_hook(Box::new(move |panic| {
            restore();
            usual(panic);
        }));
        enable_raw_mode().context(say::needs_terminal())?;
        let guard = Self;
        execute!(stdout(), EnterAlternateScreen, Hide, EnableMouseCapture)?;
        if let Some(palette) = Theme::console_setup() {
            stdout().write_all(palette.as_bytes())?;
        }
        let mut screen = Terminal::new(CrosstermBackend::new(stdout()))?;
        wipe(&mut screen)?;
        Ok((guard, screen))
    }
}

/// Empties the screen and draws all of it the next time. It does not ask where the cursor is: a terminal at the other end of a serial line
/// may not answer.
///
/// # Errors
/// When the terminal is gone.
pub fn wipe(screen: &mut Screen) -> Result<()> {
    let size = screen.size()?;
    Ok(screen.resize(Rect::new(0, 0, size.width, size.height))?)
}

/// The terminal's bell.
///
/// # Errors
/// When the terminal is gone.
pub fn ring() -> Result<()> {
    let mut out = stdout();
    out.write_all(b"\x07")?;
    Ok(out.flush()?)
}

impl Drop for TerminalGuard {
    fn drop(&mut self) {
        restore();
    }
}

fn restore() {
    // Each step helps by itself, and there is nobody left to tell about a failure.
    let _ = disable_raw_mode();
    if Theme::console_setup().is_some() {
        let _ = stdout().write_all(b"\x1b]R");
    }
    let _ = execute!(stdout(), DisableMouseCapture, LeaveAlternateScreen, Show);
}
