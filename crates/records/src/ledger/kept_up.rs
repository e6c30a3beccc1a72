//! A shared ledger that is kept up with records that come in while nobody looks at them.

use std::sync::mpsc::{RecvTimeoutError, Sender, channel};
use std::time::Duration;

use super::Ledger;
use crate::DataDir;

/// How often what came in is taken in.
const EVERY: Duration = Duration::from_secs(30);

/// Keeps it up until it is dropped.
pub struct KeptUp {
    /// Its thread ends when this is gone.
    _until: Sender<()>,
}

impl KeptUp {
    /// Begins at once, where a server keeps the ledger of these records; a file in the folder is brought up to date by whoever looks.
    pub fn start(data: &DataDir) -> Option<Self> {
        data.ledger_place().exists().then(|| Self::every(EVERY, data)).flatten()
    }

    pub(super) fn every(pause: Duration, data: &DataDir) -> Option<Self> {
        let (until, over) = channel::<()>();
        let data = data.clone();
        let keep_up = move || {
            loop {
                // A server that does not answer is asked again; whoever looks says that it did not.
                let _ = Ledger::open(&data);
                if over.recv_timeout(pause) != Err(RecvTimeoutError::Timeout) {
                    return;
                }
            }
        };
        // Without a thread it is brought up to date by whoever looks.
        std::thread::Builder::new().spawn(keep_up).ok().map(|_| Self { _until: until })
    }
}
