//! Measurements of speed: of this machine, and of machines like it.

use anyhow::{Context, Result};
use revisum_engine::text::cleaned;
use revisum_record::fitted::Board;
use revisum_record::speed::SpeedRecord;

use super::Ledger;
use super::base::Row;
use crate::jobs::{path_of, read_job};
use crate::say;

/// Longest text that machines are likened by.
const LONGEST: usize = 400;
/// Most measurements offered.
const MOST: i64 = 30;

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
    /// Measurements of this machine and then of those like it, each the newest first; of jobs in this folder, which hold all there is of them.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn speeds(&self, machine: &str, board: &Board) -> Result<Vec<SpeedFound>> {
        let sql = "SELECT job_holders.id, speeds.nr, machine, wall_ms FROM speeds JOIN job_holders ON job_holders.job = speeds.job \
                   WHERE origin = $1 AND (machine = $2 OR (kind = $3 AND $4)) \
                   ORDER BY machine <> $2, wall_ms DESC, job_holders.id, speeds.nr DESC LIMIT $5";
        let known = board.modules().next().is_some();
        let values =
            [self.origin.into(), cleaned(machine, LONGEST).into(), like(board).into(), known.into(), MOST.into()];
        let found = |row: &Row| -> Result<SpeedFound> {
            Ok(SpeedFound { job: row.text(0)?, nr: row.int(1)? as usize, machine: row.text(2)?, wall_ms: row.int(3)? })
        };
        self.base.rows(sql, &values)?.iter().map(found).collect()
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
