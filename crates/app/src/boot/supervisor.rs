//! The first process: it must never end, and never trust that anything works.

use std::collections::VecDeque;
use std::os::unix::process::ExitStatusExt as _;
use std::path::Path;
use std::process::{Command, ExitStatus};
use std::time::{Duration, Instant};

use revisum_linux::boot::{
    CommandLine, RESULTS, Watchdog, find_results, leave_out, load_modules, mount_kernel_file_systems, mount_results,
    power_off, quiet_kernel, release_results, restart, show_on_console,
};
use revisum_record::logged::LogKind;
use signal_hook::consts::SIGBUS;

use revisum_tui::Leave;

/// Kernel modules and their order in the first file system.
const MODULES: &str = "/modules";
/// How long drives may take to appear.
const DRIVES_PATIENCE: Duration = Duration::from_secs(15);
/// So many deaths within this time are enough.
const MOST_DEATHS: usize = 5;
const DEATHS_WITHIN: Duration = Duration::from_secs(600);
/// A farewell stays on the screen so long.
const FAREWELL: Duration = Duration::from_secs(4);
/// File beside the results in which deaths are written down.
const DEATHS_FILE: &str = "deaths.txt";

/// Sets the machine up and serves it until it is switched off.
pub fn supervise() -> ! {
    let mount_trouble = mount_kernel_file_systems().err();
    quiet_kernel();
    let line = CommandLine::read();
    if let Some(error) = mount_trouble {
        show_on_console(&line.console, &format!("revisum: {error}. Testing may still work.\n"));
    }
    show_on_console(&line.console, "Revisum is starting. Looking for drives.\n");
    for trouble in load_modules(Path::new(MODULES)) {
        show_on_console(&line.console, &format!("revisum: {trouble}\n"));
    }
    let results = find_results(DRIVES_PATIENCE).filter(|device| mounted(&line.console, device));
    let watchdog = Watchdog::start();
    let leave = serve(&line, results.is_some());
    drop(watchdog);
    say_farewell(&line.console, leave);
    if results.is_some() {
        release_results();
    }
    let done = if leave == Leave::PowerOff { power_off() } else { restart() };
    let why = done.err().map(|error| error.to_string()).unwrap_or_default();
    show_on_console(
        &line.console,
        &format!("revisum: the machine did not switch off ({why}). Everything is written: use its button.\n"),
    );
    rest()
}

fn mounted(console: &str, device: &Path) -> bool {
    match mount_results(device) {
        Ok(()) => true,
        Err(error) => {
            let words = format!(
                "revisum: results cannot be kept on {} ({error}). The test goes on without.\n",
                device.display()
            );
            show_on_console(console, &words);
            false
        }
    }
}

/// Starts the tester again whenever it ends by itself, but not for ever.
fn serve(line: &CommandLine, results: bool) -> Leave {
    let mut limit = Limit::default();
    let mut died: Option<Death> = None;
    loop {
        let status = start(&line.console, results, died.as_ref());
        let status = match status {
            Ok(status) => status,
            Err(error) => {
                show_on_console(&line.console, &format!("revisum: the tester cannot be started: {error}\n"));
                return Leave::Restart;
            }
        };
        if let Some(leave) = status.code().and_then(Leave::of_code) {
            return leave;
        }
        let death = Death::of(status);
        write_down(results, &death);
        if !limit.one_more(Instant::now()) {
            let words = format!(
                "\n\nThe tester ended by itself {MOST_DEATHS} times within ten minutes, last with {}. That is a finding: something in \
                 this machine does not work, memory, processor or mainboard. What was recorded is kept. The machine restarts in a minute.\n",
                death.words
            );
            show_on_console(&line.console, &words);
            std::thread::sleep(Duration::from_secs(60));
            return Leave::Restart;
        }
        died = Some(death);
    }
}

fn start(console: &str, results: bool, died: Option<&Death>) -> std::io::Result<ExitStatus> {
    let mut command = Command::new("/proc/self/exe");
    command.args(["session", "--console", console]);
    if results {
        command.arg("--results");
    }
    if let Some(death) = died {
        command.args(["--died", &death.words]);
        if death.by_memory {
            command.arg("--by-memory");
        }
    }
    let term = if console.starts_with("tty") && !console.starts_with("ttyS") { "linux" } else { "vt220" };
    command.env("TERM", term).env("HOME", "/tmp").env("LANG", "C.UTF-8").status()
}

/// How the tester ended by itself.
struct Death {
    words: String,
    by_memory: bool,
}

impl Death {
    fn of(status: ExitStatus) -> Self {
        let (words, bus) = match (status.signal(), status.code()) {
            // The kernel ends a program so that touched memory which the hardware reported bad.
            (Some(signal), _) => (format!("signal {signal}"), signal == SIGBUS),
            (None, code) => (format!("exit code {}", code.unwrap_or(-1)), false),
        };
        let by_memory = bus | note_bad_pages();
        Self { words, by_memory }
    }
}

/// Pages that the kernel's log calls bad are left out from now on. Returns whether there are any.
fn note_bad_pages() -> bool {
    let entries = revisum_linux::kernel_log().entries;
    let bad = entries.iter().filter(|entry| matches!(entry.kind, LogKind::Uncorrected | LogKind::PageRetired));
    let addresses: Vec<u64> = bad.filter_map(|entry| entry.address).map(|address| address.0).collect();
    // What cannot be noted is met again: then the limit on deaths holds.
    addresses.iter().for_each(|address| drop(leave_out(*address)));
    !addresses.is_empty()
}

fn write_down(results: bool, death: &Death) {
    if !results {
        return;
    }
    let up = std::fs::read_to_string("/proc/uptime").unwrap_or_default();
    let line = format!(
        "{} s after the start: the tester ended by itself with {}\n",
        up.split(' ').next().unwrap_or("?"),
        death.words
    );
    let file = std::fs::OpenOptions::new().create(true).append(true).open(Path::new(RESULTS).join(DEATHS_FILE));
    // The run's own journal has no end either: nothing is lost where this cannot be written.
    let _ =
        file.and_then(|mut file| std::io::Write::write_all(&mut file, line.as_bytes()).and_then(|()| file.sync_all()));
}

/// The last screen: what is left to do.
fn say_farewell(console: &str, leave: Leave) {
    let words = match leave {
        Leave::PowerOff => {
            "\x1b[2J\x1b[H\n  Everything is written.\n\n  Still to do: take the drive out once the machine is off. If the boot order was \
             changed in the firmware, set it back.\n"
        }
        Leave::Restart => {
            "\x1b[2J\x1b[H\n  Everything is written.\n\n  Still to do: take the drive out now, or the machine boots from it again. If the \
             boot order was changed in the firmware, set it back.\n"
        }
        Leave::Other => {
            "\x1b[2J\x1b[H\n  Everything is written. Leave the drive in: the machine starts from it once more, and tests what was out of \
             reach.\n"
        }
    };
    show_on_console(console, words);
    std::thread::sleep(FAREWELL);
}

/// The first process must not end: the kernel would stop with it.
fn rest() -> ! {
    loop {
        std::thread::sleep(Duration::from_secs(3600));
    }
}

/// How often something may happen.
#[derive(Default)]
struct Limit(VecDeque<Instant>);

impl Limit {
    /// Notes one more; false when there were too many lately.
    fn one_more(&mut self, now: Instant) -> bool {
        self.0.retain(|at| now.duration_since(*at) < DEATHS_WITHIN);
        self.0.push_back(now);
        self.0.len() < MOST_DEATHS
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn restarting_has_a_limit_and_old_deaths_are_forgotten() {
        let (mut limit, begin) = (Limit::default(), Instant::now());
        for second in 1..MOST_DEATHS as u64 {
            assert!(limit.one_more(begin + Duration::from_secs(second)));
        }
        assert!(!limit.one_more(begin + Duration::from_secs(60)));
        assert!(limit.one_more(begin + 2 * DEATHS_WITHIN));
    }
}
