//! Making a boot drive.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::time::Instant;

use anyhow::{Context as _, Result};
use revisum_drive::Drive;

use super::Workshop;
use crate::say;
use crate::shared::news::{News, Writing};
use revisum_workbench::wire;

impl Workshop {
    pub(super) fn list_drives(&self, news: &mut Vec<News>) {
        let (drives, trouble) = match wire::drives(self.machine.is_simulated()).list() {
            Ok(drives) => (drives, None),
            Err(error) => (Vec::new(), Some(say::drives_cannot_list(error.to_string()))),
        };
        let image = wire::image(self.machine.is_simulated(), &self.data.root()).map(|(name, _)| name);
        news.push(News::Drives(drives, image));
        news.extend(trouble.map(News::Said));
    }

    /// Writes beside everything else; the page tells how far it has come.
    pub(super) fn write_drive(&self, drive: Drive, keep: bool, news: &mut Vec<News>) -> Result<()> {
        let image = wire::image(self.machine.is_simulated(), &self.data.root());
        let (_, mut image) = image.ok_or_else(|| anyhow::anyhow!(say::drives_image_gone()))?;
        let mut medium = wire::drives(self.machine.is_simulated())
            .open(&drive)
            .with_context(|| say::drives_nothing_written(&drive.name))?;
        let writing = Arc::new(Writing {
            name: drive.name,
            progress: Mutex::default(),
            begin: Instant::now(),
            give_up: AtomicBool::new(false),
            ended: OnceLock::new(),
        });
        news.push(News::Writing(writing.clone()));
        let published = self.told.clone();
        std::thread::Builder::new().spawn(move || {
            let done = revisum_drive::write(image.as_mut(), medium.as_mut(), keep, &mut |progress| {
                *writing.progress.lock().unwrap_or_else(PoisonError::into_inner) = Some(progress);
                published();
                !writing.give_up.load(Ordering::SeqCst)
            });
            let ended = done.map(|bytes| (bytes, writing.begin.elapsed().as_secs_f64()));
            // Only this thread sets it.
            let _ = writing.ended.set(ended.map_err(|error| error.to_string()));
            published();
        })?;
        Ok(())
    }
}
