//! Modules: moved, set, marked, and looked at again.

use anyhow::Result;
use revisum_record::fitted::Board;
use revisum_record::journal::JobEntry;
use revisum_workbench::bench;

use super::Workshop;
use crate::say;
use crate::shared::news::News;

impl Workshop {
    pub(super) fn refit(&mut self, placement: &[(String, String)], news: &mut Vec<News>) -> Result<()> {
        bench::refit(&self.machine, &mut self.job, placement)?;
        // What was moved on purpose is not a finding.
        self.before = self.job.state().looked.clone();
        self.note_dark()?;
        news.push(self.facts_now());
        Ok(())
    }

    pub(super) fn set(&mut self, settings: &str, news: &mut Vec<News>) -> Result<()> {
        if let Some(hands) = &self.machine.hands {
            hands.set(settings).map_err(|reason| anyhow::anyhow!(say::hands_settings_stay(reason)))?;
            self.job.set(settings)?;
        }
        news.push(self.facts_now());
        Ok(())
    }

    pub(super) fn reseat(&mut self, modules: Vec<String>, news: &mut Vec<News>) -> Result<()> {
        if let Some(hands) = &self.machine.hands {
            hands.reseat(&modules).map_err(|reason| anyhow::anyhow!(say::hands_modules_stay(reason)))?;
        }
        self.job.decide(JobEntry::Reseated { modules })?;
        self.note_dark()?;
        news.push(self.facts_now());
        Ok(())
    }

    /// Writes down that the machine does not start as it is fitted now. Boards are empty on the way from one arrangement to another: that
    /// is no start that failed.
    fn note_dark(&mut self) -> Result<()> {
        let empty = self.board().modules().next().is_none();
        match self.dark().filter(|_| !empty) {
            Some(sign) => self.job.did_not_start(sign),
            None => Ok(()),
        }
    }

    /// Writes something down; a module that is borrowed lies on the table from now on.
    pub(super) fn decide(&mut self, entry: JobEntry, news: &mut Vec<News>) -> Result<()> {
        if let (JobEntry::Borrowed { module, .. }, Some(hands)) = (&entry, &self.machine.hands) {
            hands.lend(&module.serial).map_err(|reason| anyhow::anyhow!(say::hands_not_borrowed(reason)))?;
        }
        if let (JobEntry::Arrived { module: None, wall_ms }, Some(hands)) = (&entry, self.machine.hands.clone()) {
            for id in self.facts().course.gone {
                let module = hands.deliver(&id).map_err(|reason| anyhow::anyhow!(say::hands_not_borrowed(reason)))?;
                self.job.decide(JobEntry::Arrived { module: Some(module), wall_ms: *wall_ms })?;
            }
        }
        let declared = matches!(entry, JobEntry::Declared { .. });
        self.job.decide(entry)?;
        if declared {
            self.see_modules()?;
            self.note_look()?;
            self.before = self.job.state().looked.clone();
        }
        news.push(self.facts_now());
        Ok(())
    }

    pub(super) fn mark(&mut self, module: &str, mark: &str, news: &mut Vec<News>) -> Result<()> {
        self.job.mark(module, mark)?;
        news.push(self.facts_now());
        Ok(())
    }

    pub(super) fn see_modules(&mut self) -> Result<()> {
        bench::see_modules(&self.machine, &mut self.job)
    }

    /// What is there now is what the next look is compared with.
    pub(super) fn note_look(&mut self) -> Result<()> {
        bench::note_look(&self.machine, &mut self.job)
    }

    pub(super) fn board(&self) -> Board {
        bench::board(&self.machine, &self.job)
    }
}
