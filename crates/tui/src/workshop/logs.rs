//! Recorded runs, lives of modules, and what systems logged.

use std::sync::{Arc, OnceLock};

use anyhow::Result;
use revisum_diagnose::address::Locator;
use revisum_diagnose::board::Inventory;
use revisum_diagnose::locate::trusted_locator;
use revisum_diagnose::system_log::SystemLogs;
use revisum_record::run_state::RunState;

use super::Workshop;
use crate::shared::news::{Compared, Listed, News};
use revisum_records::{Ledger, find_run_here, find_runs, read_run, read_run_until};
use revisum_words as words;

/// Runs in the list of the Logs view; finding narrows it down.
const MOST_LISTED: usize = 500;

impl Workshop {
    pub(super) fn list_logs(&self, find: &str, news: &mut Vec<News>) -> Result<()> {
        let found = find_runs(&self.data, find, MOST_LISTED)?;
        let (runs, count, unreadable, aside) = (found.runs, found.count, found.unreadable, found.aside);
        news.push(News::Runs(Listed { find: find.to_owned(), runs, count, unreadable, aside }));
        Ok(())
    }

    pub(super) fn compare(&self, ids: &[String], news: &mut Vec<News>) -> Result<()> {
        let mut runs = ids.iter().map(|id| read_run(&find_run_here(&self.data, id)?)).collect::<Result<Vec<_>>>()?;
        runs.sort_by_key(|run| run.state.begin.order_ms());
        let states = || runs.iter().map(|run| &run.state);
        let locators: Vec<Locator> = states().map(|run| trusted_locator(run, states())).collect();
        let pairs: Vec<(&RunState, &Locator)> = states().zip(&locators).collect();
        let in_common = words::compare::in_common(&pairs);
        news.push(News::Compared(Arc::new(Compared { runs, in_common })));
        Ok(())
    }

    pub(super) fn open_log(&self, id: &str, news: &mut Vec<News>) -> Result<()> {
        let recorded = read_run(&find_run_here(&self.data, id)?)?;
        let damage = recorded.trouble();
        news.push(News::Recorded(Arc::new(recorded), None));
        news.extend(damage.map(News::Said));
        Ok(())
    }

    /// The opened run as it was at another moment.
    pub(super) fn log_at(&self, id: &str, at: Option<u64>, length: u64, news: &mut Vec<News>) -> Result<()> {
        let path = find_run_here(&self.data, id)?;
        let run = at.map_or_else(|| read_run(&path), |at| read_run_until(&path, at))?;
        news.push(News::Recorded(Arc::new(run), at.map(|at| (at, length))));
        Ok(())
    }

    pub(super) fn life(&self, serial: &str, name: String, news: &mut Vec<News>) -> Result<()> {
        let life = Ledger::repaired(&self.data, || Ledger::open(&self.data)?.life(serial))?;
        news.push(News::Life(Arc::new(life), name));
        Ok(())
    }

    /// Logs of a whole disk take a while: they are read beside everything else.
    pub(super) fn read_system_log(&mut self, news: &mut Vec<News>) -> Result<()> {
        let logs: Arc<OnceLock<SystemLogs>> = Arc::default();
        self.system_log = Some(logs.clone());
        news.push(News::SystemLog(logs.clone()));
        let (machine, told) = (self.machine.clone(), self.told.clone());
        std::thread::Builder::new().spawn(move || {
            let found = machine.log.found().placed(&Inventory::read(&machine.firmware.raw()));
            // Nobody else sets it: each reading has a cell of its own.
            let _ = logs.set(found);
            told();
        })?;
        Ok(())
    }

    pub(super) fn keep_system_log(&mut self, news: &mut Vec<News>) -> Result<()> {
        let Some(logs) = self.system_log.as_ref().and_then(|logs| logs.get()) else { return Ok(()) };
        self.job.keep_logged(&logs.entries)?;
        news.push(News::SystemLogKept);
        news.push(self.facts_now());
        Ok(())
    }
}
