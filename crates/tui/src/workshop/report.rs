//! The report of the job.

use anyhow::Result;

use super::Workshop;
use crate::state::{App, Overlay};
use revisum_workbench::reports::{self, Report, Source, read_shop};

impl Workshop {
    pub(super) fn report(&self, app: &App) -> Result<Report> {
        let shop = read_shop(&self.data.shop(), false)?;
        let source = Source { job: &self.job, case: app.facts.case.as_ref(), advice: app.facts.advice.as_ref() };
        reports::make(&source, &shop, app.language, self.wall_ms())
    }

    pub(super) fn write_report(&self, app: &mut App, tell: bool) -> Result<()> {
        let folder = self.data.reports(self.job.id())?;
        let written = reports::write(&self.report(app)?, &folder)?;
        let words = format!("Written to {}: {}.", folder.display(), written.join(", "));
        if tell {
            app.overlay = Some(Overlay::Notice(words));
        }
        Ok(())
    }
}
