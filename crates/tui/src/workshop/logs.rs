//! Recorded runs, lives of modules, and what systems logged.

use std::sync::Arc;

use anyhow::Result;
use revisum_diagnose::address::Locator;
use revisum_diagnose::board::Inventory;
use revisum_diagnose::compare::in_common;
use revisum_diagnose::locate::trusted_locator;
use revisum_record::run_state::RunState;

use super::Workshop;
use crate::action::View;
use crate::state::{App, Compared, LifePage, Overlay, SystemLogPage};
use revisum_records::{Ledger, find_run, find_runs, read_run, read_run_until};

/// Runs in the list of the Logs view; finding narrows it down.
const MOST_LISTED: usize = 500;

impl Workshop {
    pub(super) fn list_logs(&self, app: &mut App) -> Result<()> {
        let find = if app.view == View::Logs { app.find.value() } else { "" };
        let found = find_runs(&self.data, find, MOST_LISTED)?;
        (app.logs, app.log_count, app.unreadable) = (found.runs, found.count, found.unreadable);
        app.log = app.log.min(app.logs.len().saturating_sub(1));
        Ok(())
    }

    pub(super) fn compare(&self, app: &mut App, ids: &[String]) -> Result<()> {
        let mut runs = ids.iter().map(|id| read_run(&find_run(&self.data.runs(), id)?)).collect::<Result<Vec<_>>>()?;
        runs.sort_by_key(|run| run.state.begin.order_ms());
        let states = || runs.iter().map(|run| &run.state);
        let locators: Vec<Locator> = states().map(|run| trusted_locator(run, states())).collect();
        let pairs: Vec<(&RunState, &Locator)> = states().zip(&locators).collect();
        let in_common = in_common(&pairs);
        app.compared = Some(Arc::new(Compared { runs, in_common }));
        app.chosen.clear();
        Ok(())
    }

    pub(super) fn open_log(&self, app: &mut App, id: &str) -> Result<()> {
        let recorded = read_run(&find_run(&self.data.runs(), id)?)?;
        if let Some(damage) = recorded.trouble() {
            app.overlay = Some(Overlay::Notice(damage));
        }
        app.opened = Some(Arc::new(recorded));
        Ok(())
    }

    /// The opened run as it was at another moment.
    pub(super) fn log_at(&self, app: &mut App, id: &str, at: Option<u64>) -> Result<()> {
        let path = find_run(&self.data.runs(), id)?;
        let length = app.opened_at.map(|(_, length)| length).or(app.opened.as_ref().map(|run| run.state.t_ms));
        let run = at.map_or_else(|| read_run(&path), |at| read_run_until(&path, at))?;
        app.opened_at = at.zip(length);
        app.opened = Some(Arc::new(run));
        Ok(())
    }

    pub(super) fn life(&self, app: &mut App, serial: &str, name: String) -> Result<()> {
        let life = Ledger::repaired(&self.data, || Ledger::open(&self.data)?.life(serial))?;
        app.life = Some(LifePage { life: Arc::new(life), name, at: 0 });
        Ok(())
    }

    /// Logs of a whole disk take a while: they are read beside everything else.
    pub(super) fn read_system_log(&self, app: &mut App, published: impl Fn() + Send + 'static) -> Result<()> {
        let page = SystemLogPage::default();
        let (logs, machine) = (page.logs.clone(), self.machine.clone());
        app.system_log = Some(page);
        std::thread::Builder::new().spawn(move || {
            let found = machine.log.found().placed(&Inventory::read(&machine.firmware.raw()));
            // Nobody else sets it: a page has a cell of its own.
            let _ = logs.set(found);
            published();
        })?;
        Ok(())
    }

    pub(super) fn keep_system_log(&mut self, app: &mut App) -> Result<()> {
        let Some(page) = &mut app.system_log else { return Ok(()) };
        if let Some(logs) = page.logs.get() {
            self.job.keep_logged(&logs.entries)?;
            page.kept = true;
            app.facts = self.facts();
        }
        Ok(())
    }
}
