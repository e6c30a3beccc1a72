//! Keeps a running system from falling asleep while memory is tested, by its service manager's inhibitor lock.

use std::process::{Child, Stdio};

use revisum_engine::host::Awake;

use crate::programs::program;

/// Holds the lock through a child process, so that it ends with this process whatever happens to it.
pub struct Inhibitor;

/// The command that holds the lock as long as the command behind it runs; that one runs until its input closes.
const HOLD: [&str; 6] = [
    "systemd-inhibit",
    "--what=sleep:idle:handle-lid-switch",
    "--who=Revisum",
    "--why=Memory is being tested",
    "--mode=block",
    "cat",
];

/// The child; its input is closed and it is waited for when this is dropped.
struct Held(Child);

impl Drop for Held {
    fn drop(&mut self) {
        drop(self.0.stdin.take());
        // Nothing depends on how it ended.
        let _ = self.0.wait();
    }
}

impl Awake for Inhibitor {
    fn hold(&self) -> Option<Box<dyn Send>> {
        hold(&HOLD).map(|held| Box::new(held) as Box<dyn Send>)
    }
}

/// Systems without such a manager have nothing that could put them to sleep either.
fn hold(command: &[&str]) -> Option<Held> {
    let (name, arguments) = command.split_first()?;
    let mut command = program(name)?;
    command.args(arguments).stdin(Stdio::piped()).stdout(Stdio::null()).stderr(Stdio::null());
    command.spawn().ok().map(Held)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_is_held_until_dropped() {
        let mut held = hold(&["cat"]).expect("cat is everywhere");
        assert!(held.0.try_wait().unwrap().is_none(), "it runs while it is held");
        let pid = held.0.id();
        drop(held);
        assert!(!std::path::Path::new(&format!("/proc/{pid}")).exists());
    }

    #[test]
    fn without_the_command_nothing_is_held() {
        assert!(hold(&["no-such-command-anywhere"]).is_none());
    }
}
