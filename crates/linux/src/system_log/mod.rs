//! What systems logged about memory, from the running kernel, from files, and from the disk of a suspect computer: found without
//! knowing where to look. Nothing is ever written, and links are not followed: on a suspect disk they lead into the wrong system.

mod event_file;
mod files;
mod find;
mod journal;
mod packed;
mod running;

pub(crate) use running::kernel_lines;

use std::path::{Path, PathBuf};

use revisum_diagnose::system_log::SystemLog;
use revisum_diagnose::system_log::SystemLogs;

use crate::boot::{CommandLine, mount_disks};

/// The logs of this machine.
pub struct LinuxLog;

impl SystemLog for LinuxLog {
    fn found(&self) -> SystemLogs {
        if CommandLine::booted().is_some() {
            mount_disks();
        }
        let mut logs = SystemLogs::default();
        running::read(&mut logs);
        find::system(Path::new("/"), &mut logs);
        for disk in find::mounted_disks() {
            find::system(&disk, &mut logs);
        }
        logs
    }
}

/// The running kernel's log alone.
pub fn kernel_log() -> SystemLogs {
    let mut logs = SystemLogs::default();
    running::read(&mut logs);
    logs
}

/// Files, folders with logs, or the roots of mounted disks.
pub fn read_logs(paths: &[PathBuf]) -> SystemLogs {
    let mut logs = SystemLogs::default();
    for path in paths {
        find::read(path, &mut logs);
    }
    logs
}
