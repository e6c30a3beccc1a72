//! What the first process of a computer that was booted from our drive needs: mounts, modules of the kernel, a console with its glyphs and its keyboard, the
//! partition with room for results, a watchdog, and switching it off.

mod command_line;
mod console;
mod dhcp;
mod disks;
mod display;
mod fat_check;
mod glyphs;
mod kernel_modules;
mod keyboard;
mod leave_out;
mod mounts;
mod network;
mod power;
mod results;
mod second_start;
mod text_size;
mod watchdog;

pub use command_line::{CommandLine, Entry};
pub use console::{enter_console, show_on_console};
pub(crate) use disks::mount_disks;
pub use display::{DISPLAY, SERIAL, console_in_sight};
pub use glyphs::TextSize;
pub use kernel_modules::{ModuleGroup, load_modules};
pub use keyboard::lay_out;
pub use leave_out::{leave_out, left_out};
pub use mounts::{mount_kernel_file_systems, quiet_kernel};
pub use network::{drop_network, keep_address, load_network};
pub use power::{power_off, restart};
pub use results::{
    RESULTS, all_for_results, find_own_results, find_results, is_gone, let_go_of_results, mount_results,
    release_results,
};
pub use second_start::start_other;
pub use text_size::ConsoleText;
pub use watchdog::Watchdog;
