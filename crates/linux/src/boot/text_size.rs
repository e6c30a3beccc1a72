//! Text on the screen of a booted computer that can be read from where somebody stands.

use std::fs::{File, OpenOptions};
use std::io;
use std::path::Path;

use rustix::termios::tcgetwinsize;

use super::glyphs::{TextSize, all};
use crate::sys::console_device::{Glyphs, glyphs, letters, set_glyphs, set_letters};

/// A console with glyphs of our own.
pub struct ConsoleText {
    console: File,
    kernel: Glyphs,
    letters: Vec<(u16, u16)>,
    points: (u32, u32),
    size: TextSize,
}

impl ConsoleText {
    /// Gives a console glyphs, as large as the screen allows where no size is asked for.
    ///
    /// # Errors
    /// When it takes none, as in text mode or on a serial line; it is then as it was.
    pub fn take(console: &str, size: Option<TextSize>) -> io::Result<Self> {
        let console = OpenOptions::new().read(true).write(true).open(Path::new("/dev").join(console))?;
        let (kernel, letters) = (glyphs(&console)?, letters(&console)?);
        let there = tcgetwinsize(&console)?;
        let points = (u32::from(there.ws_col) * kernel.width, u32::from(there.ws_row) * kernel.height);
        let size = size.unwrap_or_else(|| TextSize::largest_for(points));
        let mut text = Self { console, kernel, letters, points, size };
        text.show(size)?;
        Ok(text)
    }

    /// The next size in turn.
    ///
    /// # Errors
    /// When the console does not take it.
    pub fn turn(&mut self) -> io::Result<TextSize> {
        self.show(self.size.next(self.points))?;
        Ok(self.size)
    }

    /// Text of this size.
    ///
    /// # Errors
    /// When the console does not take it; it is then as it was.
    pub fn show(&mut self, size: TextSize) -> io::Result<()> {
        let unknown = || io::Error::other("the kernel's glyphs have a size that is not known");
        let (glyphs, letters) = all(&self.kernel, &self.letters, size).ok_or_else(unknown)?;
        set_glyphs(&self.console, &glyphs)?;
        set_letters(&self.console, &letters)?;
        self.size = size;
        Ok(())
    }
}
