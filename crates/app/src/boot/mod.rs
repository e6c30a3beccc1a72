//! Booted from the drive: this program is the first process. It sets the machine up, holds the tester as its child, writes down how it ended
//! and starts it again; the child is the usual full screen.

mod moments;
mod next;
mod readiness;
mod session;
mod settings;
mod supervisor;

pub use session::session;
pub use supervisor::supervise;

/// Whether this is the first process of the machine.
pub fn is_first_process() -> bool {
    std::process::id() == 1
}
