//! A store that loses what was not yet synced when the power goes: all of it, or some of its sectors in any order.

use std::io;
use std::sync::{Arc, Mutex, PoisonError};

use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::{Rng as _, SeedableRng as _};
use revisum_record::journal::JournalStore;
use revisum_record::journal::{SECTOR, filler};

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

    /// What may be left as well: of the sectors written since the last sync some arrived, whichever came first, some did not, and some
    /// were just being written; and the file ends anywhere among them.
    pub fn after_power_loss_in_disorder(&self, seed: u64) -> Vec<u8> {
        let disk = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let mut chance = ChaCha8Rng::seed_from_u64(seed);
        let (mut left, unsynced) = (disk.bytes.clone(), disk.synced);
        for sector in left[unsynced..].chunks_mut(SECTOR as usize) {
            match chance.next_u32() % 4 {
                0 => sector.fill(0),
                1 => chance.fill_bytes(sector),
                _ => {}
            }
        }
        let more = (left.len() - unsynced) as u64 + 1;
        left.truncate(unsynced + (chance.next_u64() % more) as usize);
        left
    }
}

impl JournalStore for CrashStore {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).bytes.extend_from_slice(bytes);
        Ok(())
    }

    fn sync(&mut self) -> io::Result<()> {
        let mut disk = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let filler = filler(disk.bytes.len() as u64);
        disk.bytes.extend_from_slice(filler.as_bytes());
        disk.synced = disk.bytes.len();
        Ok(())
    }
}
