//! Making a boot drive.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::time::Instant;

use anyhow::{Context as _, Result};
use revisum_drive::Drive;

use super::Workshop;
use crate::action::View;
use crate::state::{App, DrivePage, Overlay, Writing};
use revisum_workbench::wire;

impl Workshop {
    pub(super) fn list_drives(&self, app: &mut App) {
        let (drives, trouble) = match wire::drives(self.machine.is_simulated()).list() {
            Ok(drives) => (drives, None),
            Err(error) => (Vec::new(), Some(format!("The drives cannot be listed: {error}."))),
        };
        let image = wire::image(self.machine.is_simulated(), &self.data.root()).map(|(name, _)| name);
        app.view = View::Jobs;
        app.drive_page = Some(DrivePage { drives, image, ..DrivePage::default() });
        app.overlay = trouble.map(Overlay::Notice);
    }

    /// Writes beside everything else; the page tells how far it has come.
    pub(super) fn write_drive(
        &self,
        app: &mut App,
        drive: Drive,
        keep: bool,
        published: impl Fn() + Send + 'static,
    ) -> Result<()> {
        let image = wire::image(self.machine.is_simulated(), &self.data.root());
        let (_, mut image) = image.ok_or_else(|| anyhow::anyhow!("The image is not there any more."))?;
        let mut medium = wire::drives(self.machine.is_simulated())
            .open(&drive)
            .with_context(|| format!("Nothing was written to {}", drive.name))?;
        let writing = Arc::new(Writing {
            name: drive.name,
            progress: Mutex::default(),
            begin: Instant::now(),
            give_up: AtomicBool::new(false),
            ended: OnceLock::new(),
        });
        if let Some(page) = &mut app.drive_page {
            page.writing = Some(writing.clone());
        }
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
