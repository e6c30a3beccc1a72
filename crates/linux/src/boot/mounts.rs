//! The kernel's own file systems.

use std::io;

use rustix::mount::{MountFlags, mount};
use rustix::system::{RebootCommand, reboot};

/// Mounts what nearly everything needs. What is mounted already stays.
///
/// # Errors
/// With the file system that cannot be mounted.
pub fn mount_kernel_file_systems() -> io::Result<()> {
    let all = [
        ("proc", "/proc", "proc"),
        ("sysfs", "/sys", "sysfs"),
        ("devtmpfs", "/dev", "devtmpfs"),
        ("tmpfs", "/run", "tmpfs"),
        ("tmpfs", "/tmp", "tmpfs"),
        ("pstore", "/sys/fs/pstore", "pstore"),
        ("efivarfs", "/sys/firmware/efi/efivars", "efivarfs"),
    ];
    for (source, target, kind) in all {
        let optional = kind == "pstore" || kind == "efivarfs";
        let made = optional || std::fs::create_dir_all(target).is_ok();
        match mount(source, target, kind, MountFlags::NOSUID, None) {
            Ok(()) => {}
            Err(rustix::io::Errno::BUSY) => {}
            Err(_) if optional => {}
            Err(error) => {
                return Err(io::Error::other(format!(
                    "{kind} cannot be mounted on {target} (folder made: {made}): {error}"
                )));
            }
        }
    }
    Ok(())
}

/// Messages of the kernel stay in its log, Ctrl-Alt-Del does not restart the machine under a run, and little memory is kept free.
pub fn quiet_kernel() {
    // Where one of these cannot be had the screen is a little less tidy.
    let _ = std::fs::write("/proc/sys/kernel/printk", "1 4 1 1");
    let _ = reboot(RebootCommand::CadOff);
    // The kernel keeps memory free for bursts of network and disk traffic that never come here.
    let _ = std::fs::write("/proc/sys/vm/min_free_kbytes", "4096");
}
