//! Sleep with memory that refreshes itself, woken by the clock's alarm.
//!
//! By the kernel's interface for power (Documentation/admin-guide/pm/sleep-states.rst): `mem` in `power/state` means the state that
//! `power/mem_sleep` names; of those only `deep` is suspend to RAM.

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};
use std::{fs, io};

use revisum_engine::host::{NoSleep, Sleeper};

/// Shorter sleep may be over before it began: the alarm has to lie ahead when the last device is asleep.
const LEAST: Duration = Duration::from_secs(5);

/// Suspend to RAM.
pub struct Suspend {
    /// `/sys`.
    sys: PathBuf,
    /// `/proc/uptime`, which goes on while the machine sleeps.
    uptime: PathBuf,
    /// Somebody works here over a network.
    remote: bool,
}

impl Suspend {
    /// Of this machine.
    pub fn here() -> Self {
        Self { sys: "/sys".into(), uptime: "/proc/uptime".into(), remote: is_remote() }
    }

    fn alarm(&self) -> PathBuf {
        self.sys.join("class/rtc/rtc0/wakealarm")
    }

    fn power(&self, name: &str) -> PathBuf {
        self.sys.join("power").join(name)
    }

    /// Whether this file names the word, in brackets or not.
    fn offers(&self, name: &str, word: &str) -> bool {
        let text = fs::read_to_string(self.power(name)).unwrap_or_default();
        text.split_whitespace().any(|one| one.trim_matches(['[', ']']) == word)
    }

    /// Seconds since the system started, those asleep too.
    fn up(&self) -> io::Result<f64> {
        let text = fs::read_to_string(&self.uptime)?;
        let first = text.split_whitespace().next().and_then(|seconds| seconds.parse().ok());
        first.ok_or_else(|| io::Error::from(io::ErrorKind::InvalidData))
    }
}

/// Whether a server for remote logins started this program. Its variables alone do not tell: `sudo` drops them.
fn is_remote() -> bool {
    let told = ["SSH_CONNECTION", "SSH_TTY"].iter().any(|name| std::env::var_os(name).is_some());
    let above = std::iter::successors(Some(std::process::id()), |process| {
        field(*process, "PPid:")?.parse().ok().filter(|parent| *parent > 0)
    });
    told || above.into_iter().any(|process| field(process, "Name:").is_some_and(|name| name.starts_with("sshd")))
}

/// A line of what the kernel says of a process (`proc(5)`).
fn field(process: u32, name: &str) -> Option<String> {
    let status = fs::read_to_string(format!("/proc/{process}/status")).ok()?;
    status.lines().find_map(|line| line.strip_prefix(name)).map(|value| value.trim().to_owned())
}

fn writable(path: &Path) -> bool {
    fs::OpenOptions::new().write(true).open(path).is_ok()
}

impl Sleeper for Suspend {
    fn refuses(&self) -> Option<NoSleep> {
        if !self.offers("state", "mem") || !self.offers("mem_sleep", "deep") {
            Some(NoSleep::NotOffered)
        } else if !self.alarm().exists() {
            Some(NoSleep::NoAlarm)
        } else if self.remote {
            Some(NoSleep::Remote)
        } else if [self.alarm(), self.power("state"), self.power("mem_sleep")].iter().any(|path| !writable(path)) {
            Some(NoSleep::NotAllowed)
        } else {
            None
        }
    }

    fn sleep(&self, time: Duration) -> io::Result<Duration> {
        if self.refuses().is_some() {
            return Err(io::ErrorKind::Unsupported.into());
        }
        // An alarm that is set already is refused to be set again.
        fs::write(self.alarm(), "0")?;
        fs::write(self.power("mem_sleep"), "deep")?;
        fs::write(self.alarm(), format!("+{}", time.max(LEAST).as_secs()))?;
        let (up, awake) = (self.up()?, Instant::now());
        fs::write(self.power("state"), "mem")?;
        let slept = self.up()? - up - awake.elapsed().as_secs_f64();
        // The uptime has hundredths of a second.
        Ok(Duration::try_from_secs_f64(slept).unwrap_or_default())
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn processes_are_followed_upwards() {
        assert!(field(std::process::id(), "PPid:").is_some_and(|parent| parent.parse::<u32>().is_ok()));
        assert_eq!(field(u32::MAX, "Name:"), None);
    }

    /// A made-up `/sys`.
    fn system(state: &str, mem_sleep: &str, alarm: bool) -> (tempfile::TempDir, Suspend) {
        let folder = tempfile::tempdir().unwrap();
        let sys = folder.path().to_owned();
        fs::create_dir_all(sys.join("power")).unwrap();
        fs::create_dir_all(sys.join("class/rtc/rtc0")).unwrap();
        fs::write(sys.join("power/state"), state).unwrap();
        fs::write(sys.join("power/mem_sleep"), mem_sleep).unwrap();
        fs::write(sys.join("uptime"), "100.50 20.00").unwrap();
        if alarm {
            fs::write(sys.join("class/rtc/rtc0/wakealarm"), "").unwrap();
        }
        (folder, Suspend { uptime: sys.join("uptime"), sys, remote: false })
    }

    #[rstest]
    #[case("freeze mem disk", "s2idle [deep]", true, None)]
    #[case("freeze mem disk", "[s2idle] deep", true, None)]
    #[case("freeze disk", "[s2idle] deep", true, Some(NoSleep::NotOffered))]
    #[case("freeze mem", "[s2idle]", true, Some(NoSleep::NotOffered))]
    #[case("freeze mem", "deep", false, Some(NoSleep::NoAlarm))]
    fn only_what_wakes_again_is_done(
        #[case] state: &str,
        #[case] mem_sleep: &str,
        #[case] alarm: bool,
        #[case] refuses: Option<NoSleep>,
    ) {
        let (_folder, suspend) = system(state, mem_sleep, alarm);
        assert_eq!(suspend.refuses(), refuses);
        assert_eq!(suspend.sleep(Duration::from_secs(60)).is_ok(), refuses.is_none());
        assert_eq!(Suspend { remote: true, ..suspend }.refuses(), refuses.or(Some(NoSleep::Remote)));
    }

    #[test]
    fn the_alarm_is_set_before_it_sleeps() {
        let (folder, suspend) = system("mem", "[s2idle] deep", true);
        // Nothing sleeps here, so no time is lost.
        assert_eq!(suspend.sleep(Duration::from_secs(60)).unwrap().as_secs(), 0);
        let read = |name: &str| fs::read_to_string(folder.path().join(name)).unwrap();
        assert_eq!(read("class/rtc/rtc0/wakealarm"), "+60");
        assert_eq!((read("power/mem_sleep"), read("power/state")), ("deep".to_owned(), "mem".to_owned()));
    }
}
