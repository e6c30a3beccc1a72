//! Work on threads of its own, as far as the system gives any: its limits must not end a run.

use std::sync::{Arc, Mutex, PoisonError};
use std::thread::{Builder, Scope};

/// Does some work beside everything else in a scope; where no thread can be had it is done here and now.
pub(super) fn beside<'scope, W>(scope: &'scope Scope<'scope, '_>, work: W)
where
    W: FnOnce() + Send + 'scope,
{
    let kept = Arc::new(Mutex::new(Some(work)));
    let handed = kept.clone();
    let take = |work: &Mutex<Option<W>>| work.lock().unwrap_or_else(PoisonError::into_inner).take();
    let thread = Builder::new().spawn_scoped(scope, move || {
        if let Some(work) = take(&handed) {
            work();
        }
    });
    if thread.is_err()
        && let Some(work) = take(&kept)
    {
        work();
    }
}

#[cfg(test)]
mod tests {
    use std::sync::atomic::{AtomicU32, Ordering};

    use super::*;

    #[test]
    fn all_work_is_done_once() {
        let done = AtomicU32::new(0);
        let work = || {
            done.fetch_add(1, Ordering::SeqCst);
        };
        std::thread::scope(|scope| (0..9).for_each(|_| beside(scope, work)));
        assert_eq!(done.into_inner(), 9);
    }
}
