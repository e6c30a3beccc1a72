//! Learning from time how addresses come to channels, while everything else waits.

use anyhow::Result;
use revisum_engine::rows::{NoChannels, Rejected};
use revisum_engine::units::MIB;
use revisum_workbench::by_time::{ByTime, Kept, Wanted, Warmed};
use revisum_workbench::runner::fresh_seed;
use revisum_workbench::timed_run::TimedRun;

use super::Workshop;
use crate::say;
use crate::shared::news::News;

/// Memory that is timed.
const TIMED_BYTES: u64 = 256 * MIB;

impl Workshop {
    /// Begins. Modules are warmed as well where they have thermometers.
    pub(super) fn learn_by_time(&mut self, news: &mut Vec<News>) -> Result<()> {
        if self.run.is_some() || self.speed.is_some() || self.by_time.is_some() {
            return Ok(());
        }
        let wanted = Wanted { bytes: TIMED_BYTES, warm: !self.machine.sensors.modules().is_empty() };
        let told = self.told.clone();
        let seed = self.seed.unwrap_or_else(fresh_seed);
        let run = TimedRun::begin(self.machine.clone(), wanted, seed, move || told())?;
        self.reins.take_by_time(Some(run.stop_flag()));
        news.push(News::ByTime(run.stage()));
        self.by_time = Some(run);
        Ok(())
    }

    /// Takes over how far it has come; what runs and Locate can use is kept.
    pub(super) fn follow_by_time(&mut self, news: &mut Vec<News>) {
        let Some(run) = &self.by_time else { return };
        if let Some(stage) = run.stage() {
            news.push(News::ByTime(Some(stage)));
            return;
        }
        self.reins.take_by_time(None);
        let Some(run) = self.by_time.take() else { return };
        news.push(News::ByTime(None));
        let words = match run.wait() {
            Ok(None) => say::by_time_stopped().to_owned(),
            Err(error) => format!("{error:#}"),
            Ok(Some(learned)) => self.take_in(&learned).unwrap_or_else(|error| format!("{error:#}")),
        };
        news.push(News::Said(words));
        news.push(self.facts_now());
        news.push(News::Located(self.locate()));
    }

    fn take_in(&mut self, learned: &ByTime) -> Result<String> {
        let channels = match (&learned.rows, &learned.channels) {
            (Err(Rejected::NoAddresses), _) => return Ok(say::by_time_no_addresses().to_owned()),
            (Err(Rejected::NoRows), _) => return Ok(say::by_time_no_rows().to_owned()),
            (Ok(_), Some(Ok(channels))) => channels,
            (Ok(_), Some(Err(NoChannels::NoneShow | NoChannels::NotTimed))) => {
                return Ok(say::by_time_no_channels().to_owned());
            }
            (Err(Rejected::Open), _) | (Ok(_), Some(Err(NoChannels::Open)) | None) => {
                return Ok(say::by_time_open().to_owned());
            }
        };
        let count = channels.count();
        let kept = learned.keep(&self.data)?;
        self.job.learn_halves();
        let named = matches!(&learned.warmed, Some(Warmed::Slots(_))) && learned.map().is_some();
        Ok(match kept {
            Kept::In(_) | Kept::Known if named => say::by_time_slots(count),
            Kept::In(_) | Kept::Known => say::by_time_halves(count),
            Kept::NoMainboard => say::by_time_no_mainboard(count),
            Kept::NotUsable => say::by_time_not_usable(count),
        })
    }
}
