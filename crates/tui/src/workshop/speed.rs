//! Measuring speed, and finding what it can be set against.

use anyhow::Result;
use revisum_engine::speed::Wanted;

use super::Workshop;
use crate::say;
use crate::shared::news::News;
use revisum_records::{Ledger, SpeedFound};
use revisum_workbench::speed_run::{SpeedRun, usual_reach};

impl Workshop {
    /// Begins; everything up to most of free memory, or up to where caches do not matter any more.
    pub(super) fn measure_speed(&mut self, all_memory: bool, news: &mut Vec<News>) -> Result<()> {
        let words = say::speed_run_in_progress();
        if self.run.is_some() {
            news.push(News::Said(words.to_owned()));
        }
        if self.run.is_some() || self.speed.is_some() {
            return Ok(());
        }
        let reach = self.machine.speed.reach();
        let reach = if all_memory { reach } else { usual_reach(&reach) };
        let told = self.told.clone();
        let run = SpeedRun::begin(self.machine.clone(), &Wanted::everything(&reach), &reach, move || told())?;
        self.reins.take_speed(Some(run.stop_flag()));
        news.push(News::Speed(Some(run.snapshot())));
        self.speed = Some(run);
        Ok(())
    }

    /// Takes over how far it has come; what is whole goes into the job.
    pub(super) fn follow_speed(&mut self, news: &mut Vec<News>) {
        let Some(run) = &self.speed else { return };
        let now = run.snapshot();
        if !now.over {
            news.push(News::Speed(Some(now)));
            return;
        }
        let done = self.speed.take().map(SpeedRun::wait).unwrap_or_default();
        self.reins.take_speed(None);
        news.push(News::Speed(None));
        if let Some(why) = done.failure {
            news.push(News::Said(say::speed_not_measured(why)));
            return;
        }
        // Every loop was timed at least once.
        if done.progress.repeat < 2 && !done.record.complete {
            let words = say::speed_stopped();
            news.push(News::Said(words.to_owned()));
            return;
        }
        news.push(News::SpeedMeasured(done.record.clone()));
        if let Err(error) = self.job.measured(done.record.as_ref().clone()) {
            news.push(News::Said(format!("{error:#}")));
        }
        news.push(self.facts_now());
    }

    /// Measurements that the one shown can be set against: of this machine, then of others like it.
    fn find_speeds(&self, shown: Option<i64>, ledger: &Ledger) -> Result<Vec<SpeedFound>> {
        let (machine, board) = (self.machine.firmware.facts().machine, self.board());
        let mut found = ledger.speeds(&machine, &board)?;
        found.retain(|one| !(one.job == self.job.id() && Some(one.wall_ms) == shown));
        Ok(found)
    }

    /// One of them, and after the last one none.
    pub(super) fn compare_speed(&mut self, shown: Option<i64>, which: usize, news: &mut Vec<News>) -> Result<()> {
        let ledger = Ledger::open(&self.data)?;
        if which == 0 {
            self.candidates = self.find_speeds(shown, &ledger)?;
        }
        if self.candidates.is_empty() {
            let words = say::speed_nothing_compare();
            news.push(News::Said(words.to_owned()));
        }
        let found = self.candidates.get(which).map(|found| ledger.speed(found)).transpose()?;
        news.push(News::SpeedCompared(found.map(|found| (which, found))));
        Ok(())
    }
}
