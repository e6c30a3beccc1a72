//! Measurements of speed: of this machine, and of machines like it.

use anyhow::{Context, Result};
use revisum_engine::text::cleaned;
use revisum_record::fitted::Board;
use revisum_record::speed::SpeedRecord;
use rusqlite::params;

use super::Ledger;
use crate::jobs::{path_of, read_job};
use crate::say;

/// Longest text that machines are likened by.
const LONGEST: usize = 400;
/// Most measurements offered.
const MOST: u32 = 30;

/// A measurement that another one can be set against.
#[derive(Clone, Debug, PartialEq)]
pub struct SpeedFound {
    /// Job.
    pub job: String,
    /// Which of the job's, from 0.
    pub nr: usize,
    /// Machine.
    pub machine: String,
    /// Milliseconds since 1970.
    pub wall_ms: i64,
}

/// Machines with the same mainboard and the same kinds of modules are alike.
pub(super) fn like(board: &Board) -> String {
    let mut kinds: Vec<String> =
        board.modules().map(|(_, module)| format!("{} {} {}", module.maker, module.part, module.bytes)).collect();
    kinds.sort();
    cleaned(&format!("{}: {}", board.mainboard, kinds.join(", ")), LONGEST)
}

impl Ledger {
    /// Measurements of this machine and then of those like it, each the newest first.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn speeds(&self, machine: &str, board: &Board) -> Result<Vec<SpeedFound>> {
        let sql = "SELECT job, nr, machine, wall_ms FROM speeds WHERE machine = ?1 OR (kind = ?2 AND ?3) \
                   ORDER BY machine <> ?1, wall_ms DESC, job, nr DESC LIMIT ?4";
        let mut found = self.base.prepare(sql)?;
        let known = board.modules().next().is_some();
        let rows = found.query_map(params![cleaned(machine, LONGEST), like(board), known, MOST], |row| {
            Ok(SpeedFound {
                job: row.get(0)?,
                nr: row.get::<_, i64>(1)? as usize,
                machine: row.get(2)?,
                wall_ms: row.get(3)?,
            })
        })?;
        Ok(rows.collect::<rusqlite::Result<_>>()?)
    }

    /// The measurement itself, from its job.
    ///
    /// # Errors
    /// When the job cannot be read or has no such measurement any more.
    pub fn speed(&self, found: &SpeedFound) -> Result<std::sync::Arc<SpeedRecord>> {
        let (state, _) = read_job(&path_of(&self.jobs, &found.job))?;
        state.speeds.get(found.nr).cloned().with_context(|| say::ledger_no_measurement(&found.job))
    }
}
