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

/// Makes a console this process's own terminal: its input, output and errors. A serial line is asked for its size. Returns what was typed there
/// while its answer was waited for.
///
/// # Errors
/// When it cannot be opened.
pub fn enter_console(name: &str) -> io::Result<Vec<u8>> {
    // Only the leader of a session has a terminal of its own; whoever is one already stays so.
    let _ = setsid();
    let console = open(name)?;
    let _ = ioctl_tiocsctty(&console);
    dup2_stdin(&console)?;
    dup2_stdout(&console)?;
    dup2_stderr(&console)?;
    if tcgetwinsize(&console).is_ok_and(|size| size.ws_col == 0 || size.ws_row == 0) {
        let heard = ask_size(&console);
        let ((columns, rows), typed) = size_in(&heard).map_or((USUAL, heard.clone()), |(size, typed)| (size, typed));
        tcsetwinsize(&console, Winsize { ws_col: columns, ws_row: rows, ws_xpixel: 0, ws_ypixel: 0 })?;
        return Ok(typed);
    }
    Ok(Vec::new())
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

/// Sends the cursor as far as it goes and asks where it is; everything that is heard then.
fn ask_size(console: &File) -> Vec<u8> {
    let Ok(before) = tcgetattr(console) else { return Vec::new() };
    let mut raw = before.clone();
    raw.make_raw();
    // What was typed before stays.
    if tcsetattr(console, OptionalActions::Now, &raw).is_err() {
        return Vec::new();
    }
    let heard = ask(console);
    // A line that was set this way a moment ago can be set back.
    let _ = tcsetattr(console, OptionalActions::Now, &before);
    heard
}

fn ask(mut console: &File) -> Vec<u8> {
    let (begin, mut heard) = (Instant::now(), Vec::new());
    if console.write_all(b"\x1b[s\x1b[999;999H\x1b[6n\x1b[u").is_err() {
        return heard;
    }
    while begin.elapsed() < PATIENCE && size_in(&heard).is_none() {
        let left = PATIENCE.saturating_sub(begin.elapsed());
        let wait = Timespec { tv_sec: 0, tv_nsec: i64::from(left.subsec_nanos()) };
        let mut bytes = [0; 32];
        match poll(&mut [PollFd::new(&console.as_fd(), PollFlags::IN)], Some(&wait)) {
            Ok(1..) => match console.read(&mut bytes) {
                Ok(count) => heard.extend_from_slice(&bytes[..count]),
                Err(_) => break,
            },
            _ => break,
        }
    }
    heard
}

/// Finds `ESC [ rows ; columns R` and gives columns, rows, and what was heard besides.
fn size_in(heard: &[u8]) -> Option<((u16, u16), Vec<u8>)> {
    let begin = heard.windows(2).rposition(|pair| pair == b"\x1b[")?;
    let end = begin + heard[begin..].iter().position(|byte| *byte == b'R')?;
    let (rows, columns) = std::str::from_utf8(&heard[begin + 2..end]).ok()?.split_once(';')?;
    let (rows, columns): (u16, u16) = (rows.parse().ok()?, columns.parse().ok()?);
    let is_size = (20..=999).contains(&columns) && (5..=999).contains(&rows);
    is_size.then(|| ((columns, rows), [&heard[..begin], &heard[end + 1..]].concat()))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(b"\x1b[40;128R", Some((128, 40)), b"")]
    #[case(b"x\x1b[25;80R\r", Some((80, 25)), b"x\r")]
    #[case(b"\x1b[0;0R", None, b"")]
    #[case(b"\x1b[99999;1R", None, b"")]
    #[case(b"\x1b[40;12", None, b"")]
    #[case(b"", None, b"")]
    fn sizes_are_read_and_what_was_typed_is_kept(
        #[case] heard: &[u8],
        #[case] size: Option<(u16, u16)>,
        #[case] typed: &[u8],
    ) {
        assert_eq!(size_in(heard), size.map(|size| (size, typed.to_vec())));
    }
}
