//! The console of a booted computer: the screen, or a serial line.

use std::fs::{File, OpenOptions};
use std::io::{self, Read, Write};
use std::os::fd::AsFd;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use rustix::event::{PollFd, PollFlags, Timespec, poll};
use rustix::process::{ioctl_tiocsctty, setsid};
use rustix::stdio::{dup2_stderr, dup2_stdin, dup2_stdout};
use rustix::termios::{OptionalActions, Winsize, tcgetattr, tcgetwinsize, tcsetattr, tcsetwinsize};

/// A terminal at the other end of a serial line has so long to tell its size.
const PATIENCE: Duration = Duration::from_millis(700);
/// Where nobody tells.
const USUAL: (u16, u16) = (80, 24);

/// Makes a console this process's own terminal: its input, output and errors. A serial line is asked for its size.
///
/// # Errors
/// When it cannot be opened.
pub fn enter_console(name: &str) -> io::Result<()> {
    // Only the leader of a session has a terminal of its own; whoever is one already stays so.
    let _ = setsid();
    let console = open(name)?;
    let _ = ioctl_tiocsctty(&console);
    dup2_stdin(&console)?;
    dup2_stdout(&console)?;
    dup2_stderr(&console)?;
    if tcgetwinsize(&console).is_ok_and(|size| size.ws_col == 0 || size.ws_row == 0) {
        let (columns, rows) = ask_size(&console).unwrap_or(USUAL);
        tcsetwinsize(&console, Winsize { ws_col: columns, ws_row: rows, ws_xpixel: 0, ws_ypixel: 0 })?;
    }
    Ok(())
}

/// Says something on a console before, or instead of, the full screen.
pub fn show_on_console(name: &str, words: &str) {
    // A console that cannot be written to cannot be told about it.
    if let Ok(mut console) = open(name) {
        let _ = console.write_all(words.as_bytes());
    }
}

fn open(name: &str) -> io::Result<File> {
    let path: PathBuf = Path::new("/dev").join(name);
    OpenOptions::new().read(true).write(true).open(path)
}

/// Sends the cursor as far as it goes and asks where it is.
fn ask_size(console: &File) -> Option<(u16, u16)> {
    let before = tcgetattr(console).ok()?;
    let mut raw = before.clone();
    raw.make_raw();
    tcsetattr(console, OptionalActions::Flush, &raw).ok()?;
    let answer = ask(console);
    // A line that was set this way a moment ago can be set back.
    let _ = tcsetattr(console, OptionalActions::Flush, &before);
    answer.as_deref().and_then(size_in)
}

fn ask(mut console: &File) -> Option<Vec<u8>> {
    console.write_all(b"\x1b[s\x1b[999;999H\x1b[6n\x1b[u").ok()?;
    let (begin, mut heard) = (Instant::now(), Vec::new());
    while begin.elapsed() < PATIENCE && !heard.ends_with(b"R") {
        let left = PATIENCE.saturating_sub(begin.elapsed());
        let wait = Timespec { tv_sec: 0, tv_nsec: i64::from(left.subsec_nanos()) };
        if poll(&mut [PollFd::new(&console.as_fd(), PollFlags::IN)], Some(&wait)).ok()? == 0 {
            return None;
        }
        let mut bytes = [0; 32];
        let count = console.read(&mut bytes).ok()?;
        heard.extend_from_slice(&bytes[..count]);
    }
    Some(heard)
}

/// `ESC [ rows ; columns R`
fn size_in(answer: &[u8]) -> Option<(u16, u16)> {
    let text = std::str::from_utf8(answer).ok()?;
    let inner = text.rsplit_once("\x1b[")?.1.strip_suffix('R')?;
    let (rows, columns) = inner.split_once(';')?;
    let (rows, columns): (u16, u16) = (rows.parse().ok()?, columns.parse().ok()?);
    (20..=999).contains(&columns).then_some((columns, rows)).filter(|(_, rows)| (5..=999).contains(rows))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(b"\x1b[40;128R", Some((128, 40)))]
    #[case(b"noise\x1b[25;80R", Some((80, 25)))]
    #[case(b"\x1b[0;0R", None)]
    #[case(b"\x1b[99999;1R", None)]
    #[case(b"", None)]
    fn sizes_are_read(#[case] answer: &[u8], #[case] size: Option<(u16, u16)>) {
        assert_eq!(size_in(answer), size);
    }
}
