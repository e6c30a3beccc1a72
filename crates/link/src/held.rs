//! A lock that stays usable after a thread died with it: what it guards is whole between two statements.

use std::sync::{Mutex, MutexGuard, PoisonError};

/// Holds it.
pub(crate) fn held<T>(of: &Mutex<T>) -> MutexGuard<'_, T> {
    of.lock().unwrap_or_else(PoisonError::into_inner)
}
