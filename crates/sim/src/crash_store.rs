//! A store that loses everything not yet synced when the power goes.

use std::io;
use std::sync::{Arc, Mutex, PoisonError};

use revisum_core::ports::JournalStore;

#[derive(Debug, Default)]
struct Disk {
    bytes: Vec<u8>,
    synced: usize,
}

/// A store in memory; clones share the same disk.
#[derive(Clone, Debug, Default)]
pub struct CrashStore(Arc<Mutex<Disk>>);

impl CrashStore {
    /// What is left after a power loss at this moment.
    pub fn after_power_loss(&self) -> Vec<u8> {
        let disk = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        disk.bytes[..disk.synced].to_vec()
    }
}

impl JournalStore for CrashStore {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).bytes.extend_from_slice(bytes);
        Ok(())
    }

    fn sync(&mut self) -> io::Result<()> {
        let mut disk = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        disk.synced = disk.bytes.len();
        Ok(())
    }
}
