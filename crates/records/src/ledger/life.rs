//! A module's life: every run of it on whatever mainboard, and what each job made of it.

use anyhow::Result;
use revisum_diagnose::isolate::Disposition;
use revisum_record::outcome::Headline;
use serde::{Deserialize, Serialize};

use super::Ledger;
use super::base::{Row, Unreadable};
use super::search::headline_of;

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
        let sql = "SELECT id, machine, mainboard, slot, kind, outcome, modules.errors, started, headline FROM modules JOIN runs ON nr = run \
                   WHERE serial = $1 ORDER BY order_ms, id";
        let runs = self.base.rows(sql, &[serial.into()])?;
        let sql = "SELECT id, ends.machine, end_word, closed FROM ends JOIN jobs ON jobs.nr = job WHERE serial = $1 ORDER BY opened_ms, id";
        let ends = self.base.rows(sql, &[serial.into()])?;
        Ok(Life {
            serial: serial.to_owned(),
            ends: ends.iter().map(end_of).collect::<Result<_>>()?,
            runs: runs.iter().map(line_of).collect::<Result<_>>()?,
        })
    }

    /// Serial numbers of all modules that were ever in a run.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn serials(&self) -> Result<Vec<String>> {
        let rows = self.base.rows("SELECT DISTINCT serial FROM modules ORDER BY serial", &[])?;
        Ok(rows.iter().map(|row| row.text(0)).collect::<Result<_, _>>()?)
    }
}

fn end_of(row: &Row) -> Result<LifeEnd> {
    let end = row.maybe_text(2)?;
    let end = end.map(|word| Disposition::of_word(&word).ok_or(Unreadable("end"))).transpose()?;
    Ok(LifeEnd { job: row.text(0)?, machine: row.text(1)?, end, closed: row.maybe_text(3)? })
}

fn line_of(row: &Row) -> Result<LifeLine> {
    Ok(LifeLine {
        run: row.text(0)?,
        machine: row.text(1)?,
        mainboard: row.text(2)?,
        slot: row.text(3)?,
        kind: row.text(4)?,
        outcome: row.text(5)?,
        errors: row.int(6)?.cast_unsigned(),
        started: row.text(7)?,
        headline: headline_of(row, 8)?,
    })
}
