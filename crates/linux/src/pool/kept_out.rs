//! Pages that failed stay out of use while the program runs: given back, the system would hand them to this program or another one, and what is
//! recorded would lie in them. The next pool has them again, so that every run tests them.

use std::collections::BTreeSet;
use std::ops::{Deref, DerefMut};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, OnceLock, PoisonError};

use crate::sys::mapping::Mapping;
use crate::sys::pagemap::PAGE;

/// Pages that are kept at most. Where more fail, keeping all would be keeping a module.
const MOST: usize = 4096;

/// Address space for them, and how many lie there, from its start.
fn shelf() -> &'static Option<(Mapping, Mutex<usize>)> {
    static SHELF: OnceLock<Option<(Mapping, Mutex<usize>)>> = OnceLock::new();
    SHELF.get_or_init(|| Some((Mapping::reserve(MOST * PAGE as usize).ok()?, Mutex::new(0))))
}

/// Bytes of the pages that are kept now.
pub(super) fn bytes() -> u64 {
    shelf().as_ref().map_or(0, |(_, kept)| *kept.lock().unwrap_or_else(PoisonError::into_inner) as u64 * PAGE)
}

/// A pool's mapping. The pages of it that failed are kept when it is given back.
pub(super) struct WithKept {
    mapping: Mapping,
    /// Where the failed ones begin.
    failed: Mutex<BTreeSet<usize>>,
    /// No more are noted: in a flood nobody waits for the others.
    is_full: AtomicBool,
}

impl WithKept {
    /// With pages that were kept so far at its beginning, at most so many bytes of them.
    pub fn new(mapping: Mapping, most: u64) -> Self {
        let mut failed = BTreeSet::new();
        if let Some((shelf, kept)) = shelf() {
            let mut kept = kept.lock().unwrap_or_else(PoisonError::into_inner);
            let end = (most.min(mapping.len() as u64) / PAGE) as usize;
            for at in 0..end.min(*kept) {
                let place = at * PAGE as usize;
                if shelf.move_page((*kept - 1) * PAGE as usize, &mapping, place).is_err() {
                    break;
                }
                *kept -= 1;
                failed.insert(place);
            }
        }
        Self { mapping, failed: Mutex::new(failed), is_full: AtomicBool::new(false) }
    }

    /// A word at this place read wrong.
    pub fn failed(&self, place: usize) {
        if self.is_full.load(Ordering::Relaxed) {
            return;
        }
        let mut failed = self.failed.lock().unwrap_or_else(PoisonError::into_inner);
        failed.insert(place / PAGE as usize * PAGE as usize);
        self.is_full.store(failed.len() >= MOST, Ordering::Relaxed);
    }
}

impl Drop for WithKept {
    fn drop(&mut self) {
        let Some((shelf, kept)) = shelf() else { return };
        let mut kept = kept.lock().unwrap_or_else(PoisonError::into_inner);
        let len = self.mapping.len();
        for place in self.failed.get_mut().unwrap_or_else(PoisonError::into_inner).iter() {
            // A kernel before 5.7 does not move pages and leave their place: they go back then.
            if *kept < MOST && *place < len && self.mapping.move_page(*place, shelf, *kept * PAGE as usize).is_ok() {
                *kept += 1;
            }
        }
    }
}

impl Deref for WithKept {
    type Target = Mapping;

    fn deref(&self) -> &Mapping {
        &self.mapping
    }
}

impl DerefMut for WithKept {
    fn deref_mut(&mut self) -> &mut Mapping {
        &mut self.mapping
    }
}
