//! Bringing in records from a drive.

use std::path::PathBuf;
use std::sync::{Arc, OnceLock, PoisonError};

use anyhow::Result;
use revisum_records::import;
use revisum_workbench::wire;

use super::Workshop;
use crate::shared::news::{BringingIn, News};

/// Journals after which the screen hears of it.
const STEP: usize = 50;

impl Workshop {
    pub(super) fn find_records(&self) -> Vec<PathBuf> {
        let own = self.data.root();
        wire::drives(self.machine.is_simulated()).records().into_iter().filter(|place| *place != own).collect()
    }

    /// Copies beside everything else; the list tells how far it has come.
    pub(super) fn bring_in(&mut self, from: PathBuf, news: &mut Vec<News>) -> Result<()> {
        self.data.prepare()?;
        let now = BringingIn { from, progress: Arc::default(), ended: Arc::new(OnceLock::new()) };
        self.bringing_in = Some(now.clone());
        news.push(News::BringingIn(now.clone()));
        let (data, told) = (self.data.clone(), self.told.clone());
        std::thread::Builder::new().spawn(move || {
            let mut progress = |at: usize, of: usize| {
                if at.is_multiple_of(STEP) {
                    *now.progress.lock().unwrap_or_else(PoisonError::into_inner) = (at, of);
                    told();
                }
            };
            let done = import(&data, &now.from, &mut progress);
            // Only this thread sets it.
            let _ = now.ended.set(done.map_err(|error| format!("{error:#}")));
            told();
        })?;
        Ok(())
    }

    /// Says what it came to when it is over.
    pub(super) fn follow_bringing_in(&mut self, news: &mut Vec<News>) {
        let Some(ended) = self.bringing_in.as_ref().and_then(|now| now.ended.get().cloned()) else { return };
        self.bringing_in = None;
        news.push(self.facts_now());
        news.push(News::BroughtIn(ended));
    }
}
