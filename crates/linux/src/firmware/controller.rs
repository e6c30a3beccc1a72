//! The memory controller's registers: configuration space by the kernel's files, mapped ones by physical memory.
//!
//! An index is written only on a machine that was started from the boot drive: elsewhere a driver of the running system could be
//! between its own index and data.

use std::fs::{File, OpenOptions};
use std::os::unix::fs::FileExt;
use std::path::PathBuf;

use revisum_diagnose::controller::{NoRead, Refusal, RegisterBus, Registers, read};

use crate::sys::pagemap::PAGE;
use crate::sys::register_page::RegisterPage;

const DEVICES: &str = "/sys/bus/pci/devices";

/// What could be read of a controller that is known; what stopped it is told, but not that a controller is unknown: its identifier says so.
pub(super) fn registers(trouble: &mut Vec<String>) -> Registers {
    let (registers, stopped) = read(&mut KernelBus::default());
    match stopped {
        None | Some(NoRead::Refused(Refusal::Unknown { .. })) => {}
        // Without a host bridge there is nothing to read, and nothing is missing.
        Some(_) if registers.is_empty() && !file(0, 0).exists() => {}
        Some(why) => trouble.push(format!("The memory controller's registers are not known: {why}.")),
    }
    registers
}

#[derive(Default)]
struct KernelBus {
    page: Option<(u64, RegisterPage)>,
}

fn file(device: u8, function: u8) -> PathBuf {
    PathBuf::from(format!("{DEVICES}/0000:00:{device:02x}.{function}/config"))
}

/// Whether this program is the first process: the boot drive's own.
fn is_own_system() -> bool {
    std::process::id() == 1
}

impl RegisterBus for KernelBus {
    fn config(&mut self, device: u8, function: u8, offset: u16) -> Result<u32, String> {
        let path = file(device, function);
        let told = |error| format!("{}: {error}", path.display());
        let mut word = [0; 4];
        // Without rights the kernel shows only the first 64 bytes.
        let read = File::open(&path).and_then(|file| file.read_at(&mut word, u64::from(offset))).map_err(told)?;
        if read < word.len() {
            return Err(format!("{} ends before it; that takes the rights of root", path.display()));
        }
        Ok(u32::from_le_bytes(word))
    }

    fn write_index(&mut self, device: u8, function: u8, offset: u16, value: u32) -> Result<(), String> {
        if !is_own_system() {
            return Err(
                "it is reached by an index, which is written only on a machine started from the boot drive".into()
            );
        }
        let path = file(device, function);
        let open = OpenOptions::new().write(true).open(&path);
        let written = open.and_then(|file| file.write_all_at(&value.to_le_bytes(), u64::from(offset)));
        written.map_err(|error| format!("{}: {error}", path.display()))
    }

    fn mapped(&mut self, address: u64) -> Result<u32, String> {
        let start = address / PAGE * PAGE;
        if self.page.as_ref().is_none_or(|(open, _)| *open != start) {
            let page = RegisterPage::open(start).map_err(|error| format!("/dev/mem at {start:#x}: {error}"))?;
            self.page = Some((start, page));
        }
        let word = self.page.as_ref().and_then(|(_, page)| page.word(address - start));
        word.ok_or_else(|| format!("{address:#x} is no register"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn this_machine_is_read_without_harm() {
        let mut trouble = Vec::new();
        let registers = registers(&mut trouble);
        // Either nothing is known of it but what it is, or everything that its family needs, or it is said what is missing.
        assert!(
            registers.iter().count() <= 2 || trouble.is_empty() || trouble[0].contains("cannot be read"),
            "{trouble:?}"
        );
    }

    #[test]
    fn no_index_is_written_on_a_running_system() {
        let refused = KernelBus::default().write_index(0, 0, 0x60, 0).unwrap_err();
        assert!(refused.contains("boot drive"), "{refused}");
    }
}
