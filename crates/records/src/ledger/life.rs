//! A module's life: every run of it on whatever mainboard, and what each job made of it.

use anyhow::Result;
use revisum_diagnose::isolate::Disposition;
use revisum_record::outcome::Headline;
use rusqlite::Row;
use serde::{Deserialize, Serialize};

use super::{Ledger, headline_of, unknown};

/// A run of a module.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct LifeLine {
    /// Run.
    pub run: String,
    /// Machine.
    pub machine: String,
    /// Mainboard.
    pub mainboard: String,
    /// Slot.
    pub slot: String,
    /// Maker and part number.
    pub kind: String,
    /// How the run ended, in a word.
    pub outcome: String,
    /// The result, part by part.
    pub headline: Headline,
    /// Words that read wrong in its slot.
    pub errors: u64,
    /// When, RFC 3339.
    pub started: String,
}

/// What a job made of a module.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct LifeEnd {
    /// Job.
    pub job: String,
    /// Machine.
    pub machine: String,
    /// What becomes of the module by what the job knows; nothing while that is not decided.
    pub end: Option<Disposition>,
    /// What the job came to, once it is closed.
    pub closed: Option<String>,
}

/// All of it.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Life {
    /// Serial number.
    pub serial: String,
    /// What jobs made of it, the oldest first.
    pub ends: Vec<LifeEnd>,
    /// Runs, the oldest first.
    pub runs: Vec<LifeLine>,
}

impl Ledger {
    /// Everything known of the module with this serial number.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn life(&self, serial: &str) -> Result<Life> {
        let known = self.life_known(serial)?;
        match self.freshen(known.runs.iter().map(|line| line.run.as_str()))? {
            true => self.life_known(serial),
            false => Ok(known),
        }
    }

    fn life_known(&self, serial: &str) -> Result<Life> {
        let sql = "SELECT id, machine, mainboard, slot, kind, outcome, m.errors, started, headline FROM modules m JOIN runs ON nr = run \
                   WHERE serial = ?1 ORDER BY order_ms, id";
        let mut found = self.base.prepare_cached(sql)?;
        let runs = found.query_map([serial], line_of)?.collect::<rusqlite::Result<_>>()?;
        let sql = "SELECT job, ends.machine, end, closed FROM ends JOIN jobs ON jobs.id = job WHERE serial = ?1 ORDER BY opened_ms, job";
        let mut found = self.base.prepare_cached(sql)?;
        let end = |row: &Row<'_>| {
            let end: Option<String> = row.get(2)?;
            let end = end.map(|word| Disposition::of_word(&word).ok_or_else(|| unknown(2, "end"))).transpose()?;
            Ok(LifeEnd { job: row.get(0)?, machine: row.get(1)?, end, closed: row.get(3)? })
        };
        let ends = found.query_map([serial], end)?.collect::<rusqlite::Result<_>>()?;
        Ok(Life { serial: serial.to_owned(), ends, runs })
    }

    /// Serial numbers of all modules that were ever in a run.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn serials(&self) -> Result<Vec<String>> {
        let mut found = self.base.prepare("SELECT DISTINCT serial FROM modules ORDER BY serial")?;
        let serials = found.query_map([], |row| row.get(0))?.collect::<rusqlite::Result<_>>()?;
        Ok(serials)
    }
}

fn line_of(row: &Row<'_>) -> rusqlite::Result<LifeLine> {
    Ok(LifeLine {
        run: row.get(0)?,
        machine: row.get(1)?,
        mainboard: row.get(2)?,
        slot: row.get(3)?,
        kind: row.get(4)?,
        outcome: row.get(5)?,
        errors: row.get::<_, i64>(6)? as u64,
        started: row.get(7)?,
        headline: headline_of(row, 8)?,
    })
}
