//! Access to a real machine under Linux: its memory, firmware tables, sensors, counters, clock and files.
//!
//! Everything here implements a port of `revisum-core`; unsafe code is fenced into [`sys`].

mod awake;
pub mod boot;
mod boot_next;
mod clock;
mod counters;
mod drives;
pub mod files;
mod firmware;
mod hardware_address;
mod journal;
mod low_memory;
mod mounts;
mod pool;
mod privileges;
mod programs;
mod reserve;
mod sensors;
mod speed;
mod suspend;
mod sys;
mod system_log;
mod text_files;
mod together;
mod window;

pub use boot_next::{BootNextError, boot_drive_next};
pub use clock::SystemClock;
pub use counters::EdacCounters;
pub use drives::{ImageFile, LinuxDrives, open_image_as_drive, open_image_to_read};
pub use files::allow_many_files;
pub use firmware::{FolderError, LinuxFirmware, read_folder, save_folder};
pub use hardware_address::hardware_address;
pub use journal::{
    JournalFile, Parts, Unreadable, bytes_of_parts, is_being_written, is_part, open_parts, stamp_of_parts,
};
pub use pool::PoolSource;
pub use privileges::give_up_privileges;
pub use sensors::HwmonSensors;
pub use speed::LinuxSpeed;
pub use sys::short_of_memory::{Allocator, end_when_short_of_memory, say_when_short_of_memory};
pub use system_log::{kernel_log, read_logs};

use std::sync::{Arc, OnceLock};

use revisum_diagnose::machine::Machine;
use revisum_engine::memory::OwnMemory;

/// The machine that this program runs on.
pub fn this_machine() -> Machine {
    /// One for the whole program: what was found before the first run is counted by the first run.
    static OWN_MEMORY: OnceLock<Arc<OwnMemory>> = OnceLock::new();
    Machine {
        memory: Arc::new(PoolSource),
        own_memory: OWN_MEMORY.get_or_init(Arc::default).clone(),
        clock: Arc::new(SystemClock::new()),
        firmware: Arc::new(LinuxFirmware::default()),
        sensors: Arc::new(HwmonSensors),
        counters: Arc::new(EdacCounters),
        awake: Arc::new(awake::Inhibitor),
        sleeper: Arc::new(suspend::Suspend::here()),
        speed: Arc::new(LinuxSpeed),
        log: Arc::new(system_log::LinuxLog),
        is_here: true,
        hands: None,
    }
}

/// Bare sweeps over leased memory, for measuring: the mapped bytes of a lease.
pub use pool::{Pool, PoolPart};
