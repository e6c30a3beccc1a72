//! How soon the full screen answers: keys through a pseudo-terminal while errors flood in, fifty thousand runs are on record and a report is
//! being written; and what it costs while nothing happens.

use std::ffi::OsStr;
use std::fs::{File, OpenOptions};
use std::io::{Read, Write};
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::OpenOptionsExt;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail, ensure};
use clap::Args;
use rustix::pty::{OpenptFlags, grantpt, openpt, ptsname, unlockpt};
use rustix::termios::{Winsize, tcsetwinsize};

use crate::ledger;

/// Arguments of the measurement.
#[derive(Args)]
pub struct ResponsivenessArgs {
    /// Runs on record
    #[arg(long, default_value_t = 50_000)]
    journals: u32,
    /// Keys that are timed
    #[arg(long, default_value_t = 400)]
    keys: usize,
}

/// Columns and rows of the terminal.
const SIZE: (u16, u16) = (128, 40);
/// What a key may take, and a share of a core at rest.
const MOST_MS: f64 = 50.0;
const MOST_AT_REST: f64 = 0.01;
/// How long something may take before the measurement gives up.
const PATIENCE: Duration = Duration::from_secs(60);
/// Screens that are gone through: number, and name in the row of tabs.
const TABS: [(char, &str); 5] = [('2', "2 Board"), ('3', "3 Recipe"), ('4', "4 Run"), ('8', "8 Logs"), ('6', "6 Swap")];
/// Keys between two reports.
const OF_A_REPORT: usize = 8;

/// Measures and prints.
///
/// # Errors
/// When the program cannot be run, or is slower than it should be.
pub fn measure(args: &ResponsivenessArgs) -> Result<()> {
    crate::cargo(&["build", "--release", "--package", "revisum"])?;
    let place = tempfile::tempdir()?;
    let data = place.path().join("data");
    ledger::fill(args.journals, place.path(), &data)?;
    println!("{} runs on record", args.journals);
    let at_rest = at_rest(&data)?;
    println!("at rest: {:.2} % of one core", at_rest * 100.0);
    let mut times = under_load(&data, args.keys)?;
    times.sort_by(f64::total_cmp);
    let of = |share: f64| times[((times.len() - 1) as f64 * share).round() as usize];
    println!(
        "key to finished frame, {} keys beside a flood of errors and reports being written: median {:.1} ms, 99 of 100 within {:.1} ms, longest {:.1} ms",
        times.len(),
        of(0.5),
        of(0.99),
        of(1.0)
    );
    ensure!(of(0.99) <= MOST_MS, "99 of 100 keys should be answered within {MOST_MS} ms");
    ensure!(at_rest <= MOST_AT_REST, "at rest it should take at most {} % of a core", MOST_AT_REST * 100.0);
    Ok(())
}

/// The share of one core that the program takes while nothing happens: of windows one after the other, what it settles to.
fn at_rest(data: &Path) -> Result<f64> {
    const WINDOW: Duration = Duration::from_secs(10);
    const WINDOWS: usize = 3;
    let mut screen = Screen::open(data, "meteo", "1")?;
    screen.wait("Enter run triage")?;
    let mut shares = Vec::new();
    for _ in 0..WINDOWS {
        let (before, begin) = (screen.cpu_seconds()?, Instant::now());
        screen.rest(WINDOW);
        shares.push((screen.cpu_seconds()? - before) / begin.elapsed().as_secs_f64());
    }
    let each: Vec<String> = shares.iter().map(|share| format!("{:.2} %", share * 100.0)).collect();
    println!("of one core in three windows of 10 s after opening: {}", each.join(", "));
    shares.last().copied().context("nothing was measured")
}

/// Milliseconds from key to finished frame.
fn under_load(data: &Path, keys: usize) -> Result<Vec<f64>> {
    let mut screen = Screen::open(data, "radio", "1")?;
    screen.wait("Enter run triage")?;
    // Overnight, so that it goes on all the time; the start row is three above.
    for key in ["3", "\x1b[B", "\x1b[B", "\x1b[B", "\r", "\x1b[A", "\x1b[A", "\x1b[A", "\r"] {
        screen.press(key)?;
        screen.rest(Duration::from_millis(200));
    }
    screen.wait("memory errors")?;
    let mut times = Vec::new();
    let mut reports = 0;
    while times.len() < keys {
        if times.len() / OF_A_REPORT >= reports {
            screen.timed('9', "9 Report")?;
            screen.press("\r")?;
            reports += 1;
        }
        let (key, name) = TABS[times.len() % TABS.len()];
        times.push(screen.timed(key, name)?);
    }
    println!("{reports} reports were written meanwhile");
    Ok(times)
}

/// The program in a pseudo-terminal.
struct Screen {
    parser: vt100::Parser,
    output: Receiver<Vec<u8>>,
    input: File,
    child: Child,
}

impl Screen {
    fn open(data: &Path, machine: &str, pace: &str) -> Result<Self> {
        let (terminal, other) = terminal()?;
        let child = Command::new(std::fs::canonicalize("target/release/revisum")?)
            .args(["demo", "--machine", machine, "--pace", pace, "--data"])
            .arg(data)
            .env("TERM", "xterm-256color")
            .env("COLORTERM", "truecolor")
            .stdin(Stdio::from(other.try_clone()?))
            .stdout(Stdio::from(other.try_clone()?))
            .stderr(Stdio::from(other))
            .spawn()?;
        let mut reader = terminal.try_clone()?;
        let (sender, output) = channel();
        std::thread::Builder::new().spawn(move || {
            let mut bytes = vec![0; 1 << 16];
            while let Ok(count) = reader.read(&mut bytes) {
                if count == 0 || sender.send(bytes[..count].to_vec()).is_err() {
                    return;
                }
            }
        })?;
        Ok(Self { parser: vt100::Parser::new(SIZE.1, SIZE.0, 0), output, input: terminal, child })
    }

    /// Milliseconds until the screen of this key is drawn. That a report was written can be said in front of it; the number closes that and leads
    /// on, and is pressed once more where the notice came after it.
    fn timed(&mut self, key: char, name: &str) -> Result<f64> {
        let begin = Instant::now();
        self.press(&key.to_string())?;
        self.until(name, |screen| screen.is_present(name))?;
        let took = begin.elapsed().as_secs_f64() * 1e3;
        if self.shows("Any key closes this.") {
            self.press(&key.to_string())?;
            self.until("the end of the notice", |screen| !screen.shows("Any key closes this."))?;
        }
        Ok(took)
    }

    fn press(&mut self, keys: &str) -> Result<()> {
        self.input.write_all(keys.as_bytes())?;
        Ok(self.input.flush()?)
    }

    fn shows(&self, text: &str) -> bool {
        self.parser.screen().contents().contains(text)
    }

    /// Whether this tab is the one in front: the only one on a ground of its own.
    fn is_present(&self, name: &str) -> bool {
        let screen = self.parser.screen();
        let row: String = (0..SIZE.0)
            .map(|x| screen.cell(1, x).map_or(" ", |cell| if cell.has_contents() { cell.contents() } else { " " }))
            .collect();
        let Some(at) = row.find(name) else { return false };
        let ground = |x: u16| screen.cell(1, x).map(vt100::Cell::bgcolor);
        ground(at as u16) != ground(SIZE.0 - 1)
    }

    fn wait(&mut self, text: &str) -> Result<()> {
        self.until(text, |screen| screen.shows(text))
    }

    fn until(&mut self, what: &str, holds: impl Fn(&Self) -> bool) -> Result<()> {
        let begin = Instant::now();
        while !holds(self) {
            match self.output.recv_timeout(PATIENCE.saturating_sub(begin.elapsed())) {
                Ok(bytes) => self.parser.process(&bytes),
                Err(_) => bail!("{what:?} never came; the screen is:\n{}", self.parser.screen().contents()),
            }
        }
        Ok(())
    }

    /// Lets time pass, and takes in what is drawn.
    fn rest(&mut self, time: Duration) {
        let begin = Instant::now();
        while let Ok(bytes) = self.output.recv_timeout(time.saturating_sub(begin.elapsed())) {
            self.parser.process(&bytes);
        }
    }

    /// Processor time of the program so far.
    fn cpu_seconds(&self) -> Result<f64> {
        let stat = std::fs::read_to_string(format!("/proc/{}/stat", self.child.id())).context("the program is gone")?;
        // The name in brackets can hold anything; what follows it does not.
        let fields: Vec<&str> = stat.rsplit(')').next().unwrap_or_default().split_whitespace().collect();
        let ticks: u64 = [11, 12].iter().filter_map(|at| fields.get(*at)?.parse::<u64>().ok()).sum();
        Ok(ticks as f64 / TICKS)
    }
}

/// A pseudo-terminal of this size: our end, and the program's.
fn terminal() -> Result<(File, File)> {
    let ours = openpt(OpenptFlags::RDWR | OpenptFlags::NOCTTY)?;
    grantpt(&ours)?;
    unlockpt(&ours)?;
    tcsetwinsize(&ours, Winsize { ws_row: SIZE.1, ws_col: SIZE.0, ws_xpixel: 0, ws_ypixel: 0 })?;
    let name = ptsname(&ours, Vec::new())?;
    let flags = rustix::fs::OFlags::NOCTTY.bits().cast_signed();
    let theirs =
        OpenOptions::new().read(true).write(true).custom_flags(flags).open(OsStr::from_bytes(name.as_bytes()))?;
    Ok((File::from(ours), theirs))
}

/// Ticks in a second, as Linux counts them for programs (USER_HZ).
const TICKS: f64 = 100.0;

impl Drop for Screen {
    fn drop(&mut self) {
        // It may be gone already.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
