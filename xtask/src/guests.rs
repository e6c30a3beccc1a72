//! The tests that boot virtual computers, with everything they need.

use anyhow::Result;

use crate::packages::install;

/// Installs an emulator, firmware and a shell, and runs the tests.
///
/// # Errors
/// When something cannot be installed, or a test fails.
pub fn run() -> Result<()> {
    install(&[
        ("qemu-system-x86_64", "qemu-system-x86"),
        ("/usr/share/ovmf/OVMF.fd", "ovmf"),
        ("/bin/busybox", "busybox-static"),
    ])?;
    // One at a time: each guest has the cores of a small machine to itself.
    crate::cargo(&["test", "--package", "revisum-guest", "--", "--ignored", "--test-threads", "1"])
}
