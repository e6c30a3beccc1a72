//! The first process: it must never end, and never trust that anything works.

use std::collections::VecDeque;
use std::os::unix::process::ExitStatusExt as _;
use std::path::{Path, PathBuf};
use std::process::{Command, ExitStatus};
use std::time::{Duration, Instant};

use revisum_linux::boot::{
    CommandLine, ModuleGroup, RESULTS, SERIAL, Watchdog, all_for_results, console_in_sight, drop_network,
    find_own_results, find_results, is_gone, keep_address, leave_out, let_go_of_results, load_modules, load_network,
    mount_kernel_file_systems, mount_results, power_off, quiet_kernel, release_results, restart, show_on_console,
    start_other,
};
use revisum_record::logged::LogKind;
use revisum_tui::Leave;
use revisum_words::speak_as_asked;
use signal_hook::consts::SIGBUS;

use super::readiness::{Readiness, Room};
use super::session::{NOT_KEPT_FILE, chosen_in_menu};
use super::settings::settings;
use crate::exit::ELSEWHERE;
use crate::say;

/// Kernel modules and their order in the first file system.
const MODULES: &str = "/modules";
/// Most drives are there so soon; where none is it may be behind a controller whose driver comes later.
const SOON: Duration = Duration::from_secs(3);
/// How long drives may take to appear, and how long where the boot loader saw none either.
const DRIVES_PATIENCE: Duration = Duration::from_secs(12);
const LITTLE_PATIENCE: Duration = Duration::from_secs(3);
/// Pause between two looks for a drive that is pulled, or plugged in after the start.
const LATE_PAUSE: Duration = Duration::from_secs(2);
/// So many deaths within this time are enough.
const MOST_DEATHS: usize = 5;
const DEATHS_WITHIN: Duration = Duration::from_secs(600);
/// A farewell stays on the screen so long.
const FAREWELL: Duration = Duration::from_secs(4);
/// File beside the results in which deaths are written down.
const DEATHS_FILE: &str = "crashes.txt";

/// Sets the machine up and serves it until it is switched off. The screen is there at once; drivers and drives are looked after meanwhile.
pub fn supervise() -> ! {
    let mount_trouble = mount_kernel_file_systems().err().map(|error| say::boot_may_still_work(error.to_string()));
    quiet_kernel();
    let line = CommandLine::read();
    let mut console = line.console.clone().unwrap_or_else(|| console_in_sight().to_owned());
    chosen_in_menu(&line).into_iter().for_each(speak_as_asked);
    let no_drive = line.no_drive;
    let preparing = std::thread::spawn(move || prepare(mount_trouble, no_drive));
    let leave = serve(&mut console);
    // Nobody leaves before all is there.
    let watchdog = preparing.join().ok().flatten();
    drop(watchdog);
    let readiness = Readiness::now();
    let no_room = match &readiness {
        Readiness::Ready(room) => room.kept.clone().err(),
        _ => None,
    };
    let not_kept = std::fs::read_to_string(NOT_KEPT_FILE).ok().or(no_room);
    say_farewell(&console, leave, not_kept.as_deref());
    if leave == Leave::Other {
        // Where the kernel cannot be left for the other one, the firmware starts it.
        let _ = start_other();
    }
    if readiness.is_kept() {
        release_results();
    }
    let done = if leave == Leave::PowerOff { power_off() } else { restart() };
    let why = done.err().map(|error| error.to_string()).unwrap_or_default();
    line_on_console(&console, &say::boot_not_off(why, written_words(not_kept.as_deref())));
    rest()
}

/// Loads drivers, finds the drive and its room for results, tells how far that is, and then sees to what nobody waits for.
fn prepare(mount_trouble: Option<String>, no_drive: bool) -> Option<Watchdog> {
    Readiness::Drivers.tell();
    let mut troubles: Vec<String> = mount_trouble.into_iter().collect();
    let load = |group| load_modules(Path::new(MODULES), group);
    troubles.extend(load(ModuleGroup::First));
    Readiness::Drive.tell();
    let soon = find_own_results(SOON);
    let all_loaded = soon.is_none();
    if all_loaded {
        troubles.extend(load(ModuleGroup::Later));
    }
    let patience = if no_drive { LITTLE_PATIENCE } else { DRIVES_PATIENCE };
    let device = soon.or_else(|| find_results(patience));
    let kept = device.as_deref().ok_or_else(|| say::boot_no_drive().to_owned()).and_then(mounted);
    let (place, seen) = (device.filter(|_| kept.is_ok()), troubles.clone());
    Readiness::Ready(Room { kept, troubles }).tell();
    // Without a thread a drive that is plugged in later is not seen, and the header says that nothing is recorded.
    let _ = std::thread::Builder::new().spawn(|| keep_room(place, seen));
    if !all_loaded {
        // What is not loaded now is only missing where disks, sensors and counters are shown.
        drop(load(ModuleGroup::Later));
    }
    go_on_the_network();
    Watchdog::start()
}

/// Sees to it that there is room for results as long as the machine runs: on a drive that is plugged in later, or comes back. A run that was being
/// recorded when its drive was pulled can only go on where its record is: then no drives of others are taken.
fn keep_room(mut place: Option<PathBuf>, troubles: Vec<String>) {
    let began_there = place.is_some();
    let tell = |kept| Readiness::Ready(Room { kept, troubles: troubles.clone() }).tell();
    loop {
        std::thread::sleep(LATE_PAUSE);
        if place.as_deref().is_some_and(is_gone) {
            let _ = let_go_of_results();
            place = None;
            tell(Err(say::boot_no_drive().to_owned()));
        }
        if place.is_none() {
            let own = || find_own_results(Duration::ZERO).into_iter().collect();
            let drives: Vec<PathBuf> = if began_there { own() } else { all_for_results() };
            if let Some((device, doubt)) =
                drives.into_iter().find_map(|device| mounted(&device).ok().map(|doubt| (device, doubt)))
            {
                place = Some(device);
                tell(Ok(doubt));
            }
        }
    }
}

/// Only a machine with a card of a shop goes on the network; drivers take memory that is to be tested.
fn go_on_the_network() {
    let results = Readiness::now().is_kept().then_some(Path::new(RESULTS));
    let has_card = settings(results).is_ok_and(|settings| settings.card.is_some());
    if has_card {
        load_network(Path::new(MODULES));
        // Without a thread the machine is not on the wall, and its header says so.
        let _ = std::thread::Builder::new().spawn(keep_address);
    } else {
        drop_network(Path::new(MODULES));
    }
}

fn line_on_console(console: &str, words: &str) {
    show_on_console(console, &format!("{words}\n"));
}

/// Mounts the room for results; why it cannot be used where it cannot.
fn mounted(device: &Path) -> Result<Option<String>, String> {
    mount_results(device).map_err(|error| match error.kind() {
        std::io::ErrorKind::ReadOnlyFilesystem | std::io::ErrorKind::PermissionDenied => {
            say::boot_write_protected().to_owned()
        }
        _ => say::boot_file_system(error.to_string()),
    })
}

/// How the tester ended.
enum End {
    /// Somebody left it.
    Left(Leave),
    /// It ended for a reason of its own, which it has told.
    Refused,
    /// The drive says that the screen is on the serial line.
    Elsewhere,
    /// It died.
    Died(Death),
}

impl End {
    fn of(status: ExitStatus) -> Self {
        /// What a command that cannot do what it should exits with.
        const OWN_REASONS: [i32; 3] = [2, 3, 4];
        match status.code() {
            Some(code) if OWN_REASONS.contains(&code) => Self::Refused,
            Some(code) if code == i32::from(ELSEWHERE) => Self::Elsewhere,
            Some(code) => Leave::of_code(code).map_or_else(|| Self::Died(Death::of(status)), Self::Left),
            None => Self::Died(Death::of(status)),
        }
    }
}

/// Starts the tester again whenever it ends by itself, but not for ever. Only a death speaks against the machine.
fn serve(console: &mut String) -> Leave {
    let mut limit = Limit::default();
    let mut died: Option<Death> = None;
    loop {
        let status = match start(console, died.as_ref()) {
            Ok(status) => status,
            Err(error) => {
                line_on_console(console, &say::boot_not_started(error.to_string()));
                return Leave::Restart;
            }
        };
        let (words, death) = match End::of(status) {
            End::Left(leave) => return leave,
            End::Elsewhere => {
                *console = SERIAL.to_owned();
                continue;
            }
            End::Refused => (say::boot_cannot_continue().to_owned(), None),
            End::Died(death) => {
                write_down(Readiness::now().is_kept(), &death);
                let words = say::boot_crashed(MOST_DEATHS, &death.words);
                (words, Some(death))
            }
        };
        if !limit.one_more(Instant::now()) {
            show_on_console(console, &format!("\n\n{words}\n"));
            std::thread::sleep(Duration::from_secs(60));
            return Leave::Restart;
        }
        if death.is_none() {
            // What it told stays readable for a moment.
            std::thread::sleep(FAREWELL);
        }
        died = death;
    }
}

fn start(console: &str, died: Option<&Death>) -> std::io::Result<ExitStatus> {
    let mut command = Command::new("/proc/self/exe");
    command.args(["session", "--console", console]);
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
    let line = say::boot_death(up.split(' ').next().unwrap_or("?"), &death.words) + "\n";
    let file = std::fs::OpenOptions::new().create(true).append(true).open(Path::new(RESULTS).join(DEATHS_FILE));
    // The run's own journal has no end either: nothing is lost where this cannot be written.
    let _ =
        file.and_then(|mut file| std::io::Write::write_all(&mut file, line.as_bytes()).and_then(|()| file.sync_all()));
}

/// What became of the results, by what the session told: why something is not recorded, or nothing of that kind. One that died told nothing.
fn written_words(not_kept: Option<&str>) -> String {
    match not_kept {
        Some("") => say::boot_all_written().to_owned(),
        Some(why) => say::boot_not_recorded(why),
        None => say::boot_may_be_missing().to_owned(),
    }
}

/// The last screen: what is left to do.
fn say_farewell(console: &str, leave: Leave, not_kept: Option<&str>) {
    let to_do = match leave {
        Leave::PowerOff => say::boot_drive_out_later(),
        Leave::Restart => say::boot_drive_out_now(),
        Leave::Other => say::boot_drive_stays(),
    };
    show_on_console(console, &format!("\x1b[2J\x1b[H\n  {}\n\n  {to_do}\n", written_words(not_kept)));
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
    use rstest::rstest;

    use super::*;

    /// A status as the system gives it: the exit code in the second byte, a signal in the first.
    #[rstest]
    #[case::refused(3 << 8, "refused")]
    #[case::wrong_use(2 << 8, "refused")]
    #[case::left(41 << 8, "left")]
    #[case::on_the_serial_line(43 << 8, "elsewhere")]
    #[case::panicked(101 << 8, "died")]
    #[case::ended_without_a_word(0, "died")]
    #[case::signal(11, "died")]
    fn only_a_death_is_a_finding(#[case] raw: i32, #[case] expected: &str) {
        let end = match End::of(ExitStatus::from_raw(raw)) {
            End::Left(_) => "left",
            End::Refused => "refused",
            End::Elsewhere => "elsewhere",
            End::Died(_) => "died",
        };
        assert_eq!(end, expected);
    }

    #[test]
    fn the_farewell_claims_nothing_that_is_not_so() {
        assert_eq!(written_words(Some("")), "Everything is written.");
        assert!(written_words(None).contains("may be missing"));
        assert_eq!(written_words(Some("the drive is full")), "NOT RECORDED: the drive is full.");
    }

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
