//! What the tests of the whole program share: running it, and driving its full screen in tmux.
#![allow(dead_code)]

pub mod driven;
pub mod followed;
pub mod image;
pub mod victim;

use std::path::{Path, PathBuf};
use std::process::{Child, Command, Output, Stdio};
use std::time::{Duration, Instant};

use serde_json::Value;

/// How long anything may take before the test gives up. Only a limit: tests wait for what they expect, not for time.
pub const PATIENCE: Duration = Duration::from_secs(60);

/// The program under test; a copy of it for long trials by hand, beside which building goes on.
pub fn revisum() -> PathBuf {
    std::env::var_os("REVISUM_PROGRAM").map_or_else(|| PathBuf::from(env!("CARGO_BIN_EXE_revisum")), PathBuf::from)
}

/// A command with its records in `data`.
pub fn command(data: &Path, arguments: &[&str]) -> Command {
    let mut command = Command::new(revisum());
    command.args(arguments).arg("--data").arg(data).stdin(Stdio::null());
    command
}

/// Runs to the end.
pub fn run(data: &Path, arguments: &[&str]) -> Output {
    command(data, arguments).output().expect("the program starts")
}

/// Runs to the end and reads the JSON on stdout.
pub fn run_json(data: &Path, arguments: &[&str]) -> (i32, Value) {
    let output = run(data, arguments);
    let code = output.status.code().expect("it ends by itself");
    let json = serde_json::from_slice(&output.stdout)
        .unwrap_or_else(|error| panic!("{error}: {}", String::from_utf8_lossy(&output.stderr)));
    (code, json)
}

/// Starts without waiting.
pub fn spawn(data: &Path, arguments: &[&str]) -> Child {
    command(data, arguments).stdout(Stdio::piped()).stderr(Stdio::null()).spawn().expect("the program starts")
}

/// Looks again and again until there is something, and fails loudly when it never comes.
pub fn wait_for<T>(what: &str, look: impl FnMut() -> Option<T>) -> T {
    wait_within(PATIENCE, what, look)
}

/// The same with other patience: an hour of simulated tests takes its time on a busy machine.
pub fn wait_within<T>(patience: Duration, what: &str, mut look: impl FnMut() -> Option<T>) -> T {
    let begin = Instant::now();
    loop {
        if let Some(found) = look() {
            return found;
        }
        assert!(begin.elapsed() < patience, "{what} never came");
        std::thread::sleep(Duration::from_millis(5));
    }
}

/// The only journal in the records, once it is there.
pub fn journal(data: &Path) -> PathBuf {
    wait_for("a journal", || {
        let entries = std::fs::read_dir(data.join("runs")).ok()?;
        entries.flatten().map(|entry| entry.path()).find(|path| path.extension().is_some_and(|ext| ext == "journal"))
    })
}

/// The full screen in a terminal of its own.
pub struct Screen {
    socket: String,
}

impl Screen {
    /// Opens a terminal of this size with a shell in it that runs `line`.
    pub fn open(size: (u16, u16), line: &str) -> Self {
        static NEXT: std::sync::atomic::AtomicU32 = std::sync::atomic::AtomicU32::new(0);
        let number = NEXT.fetch_add(1, std::sync::atomic::Ordering::SeqCst);
        let screen = Self { socket: format!("revisum-test-{}-{number}", std::process::id()) };
        let (columns, rows) = (size.0.to_string(), size.1.to_string());
        let shell = ["env", "TERM=screen-256color", "COLORTERM=truecolor", "PS1=ready> ", "LANG=C.UTF-8", "sh"];
        let mut arguments = vec!["-f", "/dev/null", "new-session", "-d", "-x", &columns, "-y", &rows];
        arguments.extend(shell);
        screen.tmux(&arguments);
        screen.tmux(&["set-option", "-g", "escape-time", "0"]);
        screen.wait("ready>");
        screen.type_line(line);
        screen
    }

    fn tmux(&self, arguments: &[&str]) -> String {
        let output = Command::new("tmux")
            .args(["-u", "-L", &self.socket])
            .args(arguments)
            .output()
            .expect("tmux is installed; `cargo xtask test` installs it when it may");
        assert!(output.status.success(), "tmux {arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
        String::from_utf8_lossy(&output.stdout).into_owned()
    }

    /// Types a line into the shell.
    pub fn type_line(&self, line: &str) {
        self.type_text(line);
        self.keys(&["Enter"]);
    }

    /// Types letters as they are.
    pub fn type_text(&self, text: &str) {
        self.tmux(&["send-keys", "-l", text]);
    }

    /// Presses keys by tmux's names.
    pub fn keys(&self, keys: &[&str]) {
        let mut arguments = vec!["send-keys"];
        arguments.extend(keys);
        self.tmux(&arguments);
    }

    /// What is on the screen.
    pub fn text(&self) -> String {
        self.tmux(&["capture-pane", "-p"])
    }

    /// Waits until this text is on the screen.
    pub fn wait(&self, text: &str) -> String {
        self.wait_all(&[text])
    }

    /// Waits until all of this is on the screen at once. What a test looks for is waited for, never only looked at: a
    /// picture of the terminal may be taken in the middle of a drawing.
    pub fn wait_all(&self, texts: &[&str]) -> String {
        let begin = Instant::now();
        loop {
            let seen = self.text();
            let missing: Vec<_> = texts.iter().filter(|text| !seen.contains(**text)).collect();
            if missing.is_empty() {
                return self.settled(seen);
            }
            assert!(begin.elapsed() < PATIENCE, "{missing:?} never came; the screen is:\n{seen}");
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    /// The screen once it stands still below its first line, which holds a clock; or as it is when it never does.
    fn settled(&self, mut seen: String) -> String {
        let below_clock = |text: &str| text.split_once('\n').map(|(_, rest)| rest.to_owned());
        for _ in 0..10 {
            let next = self.text();
            if below_clock(&next) == below_clock(&seen) {
                return next;
            }
            seen = next;
        }
        seen
    }

    /// Waits until the screen holds this text no longer.
    pub fn wait_gone(&self, text: &str) {
        wait_for(&format!("the end of {text:?}"), || (!self.text().contains(text)).then_some(()));
    }

    /// Changes the terminal's size.
    pub fn resize(&self, columns: u16, rows: u16) {
        self.tmux(&["resize-window", "-x", &columns.to_string(), "-y", &rows.to_string()]);
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        let _ = Command::new("tmux").args(["-L", &self.socket, "kill-server"]).output();
    }
}
