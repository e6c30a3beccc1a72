//! The report of the job.

use anyhow::Result;
use revisum_report::Language;
use revisum_workbench::reports::{self, Report, Source, read_shop};

use super::Workshop;
use crate::say;

impl Workshop {
    pub(super) fn report(&self, language: Option<Language>) -> Result<Report> {
        let shop = read_shop(&self.data.shop(), false)?;
        let (case, advice) = &self.evidence;
        let source = Source { job: &self.job, case, advice: advice.as_ref() };
        Ok(reports::make(&source, &shop, language, self.machine.clock.wall_ms()))
    }

    /// Writes it to files and says where.
    pub(super) fn write_report(&self, language: Option<Language>) -> Result<String> {
        let folder = self.data.reports(self.job.id())?;
        let written = reports::write(&self.report(language)?, &folder)?;
        Ok(say::report_written(folder.display().to_string(), written.join(", ")))
    }
}
