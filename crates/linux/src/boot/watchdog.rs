//! A hardware watchdog: a machine that hangs is restarted by it, and the next start asks what happened.

use std::fs::{File, OpenOptions};
use std::io::Write;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

const DEVICE: &str = "/dev/watchdog";
/// Shortest time after which watchdogs bite by themselves is ten seconds.
const EVERY: Duration = Duration::from_secs(2);

/// Keeps a watchdog quiet while it lives; afterwards it is switched off.
pub struct Watchdog {
    over: Arc<AtomicBool>,
}

impl Watchdog {
    /// Starts it; nothing where the machine has none.
    pub fn start() -> Option<Self> {
        let device = OpenOptions::new().write(true).open(DEVICE).ok()?;
        let over = Arc::new(AtomicBool::new(false));
        let seen = over.clone();
        std::thread::spawn(move || keep_quiet(device, &seen));
        Some(Self { over })
    }
}

fn keep_quiet(mut device: File, over: &AtomicBool) {
    while !over.load(Ordering::SeqCst) {
        if device.write_all(b"\0").is_err() {
            return;
        }
        std::thread::sleep(EVERY);
    }
    // The sign that it is closed on purpose.
    let _ = device.write_all(b"V");
}

impl Drop for Watchdog {
    fn drop(&mut self) {
        self.over.store(true, Ordering::SeqCst);
        std::thread::sleep(EVERY + Duration::from_millis(200));
    }
}
