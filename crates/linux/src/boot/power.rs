//! Switching the machine.

use std::io;

use rustix::system::{RebootCommand, reboot};

/// Clean restart; everything has to be written before.
///
/// # Errors
/// When the kernel refuses.
pub fn restart() -> io::Result<()> {
    rustix::fs::sync();
    Ok(reboot(RebootCommand::Restart)?)
}

/// Clean power-off.
///
/// # Errors
/// When the kernel refuses.
pub fn power_off() -> io::Result<()> {
    rustix::fs::sync();
    Ok(reboot(RebootCommand::PowerOff)?)
}
