//! What the first process of a computer that was booted from our drive needs: mounts, modules of the kernel, a console, the partition
//! with room for results, a watchdog, and switching it off.

mod command_line;
mod console;
mod disks;
mod fat_check;
mod kernel_modules;
mod leave_out;
mod mounts;
mod power;
mod results;
mod watchdog;

pub use command_line::{CommandLine, Entry};
pub use console::{enter_console, show_on_console};
pub(crate) use disks::mount_disks;
pub use kernel_modules::load_modules;
pub use leave_out::{leave_out, left_out};
pub use mounts::{mount_kernel_file_systems, quiet_kernel};
pub use power::{power_off, restart};
pub use results::{RESULTS, find_results, mount_results, release_results};
pub use watchdog::Watchdog;
