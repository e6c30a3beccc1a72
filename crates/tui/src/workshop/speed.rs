//! Measuring speed, and finding what it can be set against.

use anyhow::Result;
use revisum_engine::speed::Wanted;

use super::Workshop;
use crate::state::{App, Overlay};
use revisum_records::Ledger;
use revisum_workbench::speed_run::{SpeedRun, usual_reach};

impl Workshop {
    /// Begins; everything up to most of free memory, or up to where caches do not matter any more.
    pub(super) fn measure_speed(
        &mut self,
        app: &mut App,
        all_memory: bool,
        published: impl Fn() + Send + 'static,
    ) -> Result<()> {
        let reach = self.machine.speed.reach();
        let reach = if all_memory { reach } else { usual_reach(&reach) };
        let run = SpeedRun::begin(self.machine.clone(), &Wanted::everything(&reach), &reach, published)?;
        app.speed.now = Some(run.snapshot());
        app.speed.record = None;
        self.speed = Some(run);
        Ok(())
    }

    pub(super) fn stop_speed(&self) {
        self.speed.iter().for_each(SpeedRun::stop);
    }

    /// Takes over how far it has come; what is whole goes into the job.
    pub(super) fn follow_speed(&mut self, app: &mut App) {
        let Some(run) = &self.speed else { return };
        let now = run.snapshot();
        if !now.over {
            app.speed.now = Some(now);
            return;
        }
        let done = self.speed.take().map(SpeedRun::wait).unwrap_or_default();
        app.speed.now = None;
        if let Some(why) = done.failure {
            app.overlay = Some(Overlay::Notice(format!("Speed could not be measured: {why}")));
            return;
        }
        // Every loop was timed at least once.
        if done.progress.repeat < 2 && !done.record.complete {
            let words = "Stopped before every loop was timed once: nothing is kept.";
            app.overlay = Some(Overlay::Notice(words.to_owned()));
            return;
        }
        app.speed.record = Some(done.record.clone());
        if let Err(error) = self.job.measured(done.record.as_ref().clone()) {
            app.overlay = Some(Overlay::Notice(format!("{error:#}")));
        }
        app.facts = self.facts();
    }

    /// Measurements that the one shown can be set against: of this machine, then of others like it.
    fn find_speeds(&self, app: &mut App, ledger: &Ledger) -> Result<()> {
        let shown = app.speed.shown(&app.facts).map(|record| record.wall_ms);
        let own = self.job.id();
        let mut found = ledger.speeds(&app.facts.machine, &app.facts.board)?;
        found.retain(|one| !(one.job == own && Some(one.wall_ms) == shown));
        if found.is_empty() {
            let words = "Nothing to compare with: neither this machine nor one like it was measured before.";
            app.overlay = Some(Overlay::Notice(words.to_owned()));
        }
        app.speed.candidates = found;
        Ok(())
    }

    /// The next one of them, and after the last one none.
    pub(super) fn compare_speed(&self, app: &mut App) -> Result<()> {
        let ledger = Ledger::open(&self.data)?;
        let next = app.speed.compared.as_ref().map_or(0, |(at, _)| at + 1);
        if next == 0 {
            self.find_speeds(app, &ledger)?;
        }
        app.speed.compared = match app.speed.candidates.get(next) {
            Some(found) => Some((next, ledger.speed(found)?)),
            None => None,
        };
        Ok(())
    }
}
