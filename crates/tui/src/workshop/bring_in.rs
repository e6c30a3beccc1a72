//! Bringing in records from a drive.

use revisum_workbench::wire;
use std::path::PathBuf;
use std::sync::{Arc, OnceLock, PoisonError};

use anyhow::Result;

use super::Workshop;
use crate::bring_in;
use crate::state::{App, BringingIn, Overlay};
use revisum_records::import;

/// Journals after which the screen hears of it.
const STEP: usize = 50;

impl Workshop {
    pub(super) fn find_records(&self, app: &mut App) {
        let own = self.data.root();
        let found =
            wire::drives(self.machine.is_simulated()).records().into_iter().filter(|place| *place != own).collect();
        bring_in::ask(app, found);
    }

    /// Copies beside everything else; the list tells how far it has come.
    pub(super) fn bring_in(
        &self,
        app: &mut App,
        from: PathBuf,
        published: impl Fn() + Send + Sync + 'static,
    ) -> Result<()> {
        self.data.prepare()?;
        let now = BringingIn { from, progress: Arc::default(), ended: Arc::new(OnceLock::new()) };
        app.bringing_in = Some(now.clone());
        let data = self.data.clone();
        std::thread::Builder::new().spawn(move || {
            let mut progress = |at: usize, of: usize| {
                if at.is_multiple_of(STEP) {
                    *now.progress.lock().unwrap_or_else(PoisonError::into_inner) = (at, of);
                    published();
                }
            };
            let done = import(&data, &now.from, &mut progress);
            // Only this thread sets it.
            let _ = now.ended.set(done.map_err(|error| format!("{error:#}")));
            published();
        })?;
        Ok(())
    }

    /// Says what it came to when it is over.
    pub(super) fn follow_bringing_in(&self, app: &mut App) {
        let Some(ended) = app.bringing_in.as_ref().and_then(|now| now.ended.get().cloned()) else { return };
        app.bringing_in = None;
        let words = match ended {
            Ok(done) => format!("Brought in: {}.", done.words()),
            Err(why) => format!("The records could not be brought in: {why}."),
        };
        let listed = self.list_logs(app);
        app.facts = self.facts();
        app.overlay = Some(Overlay::Notice(listed.err().map_or(words, |error| format!("{error:#}"))));
    }
}
