//! What is known of modules from all records: the ledger of this folder, and the digest of the shop's.

use revisum_diagnose::isolate::Disposition;
use revisum_record::outcome::Outcome;

use super::digest::Digest;
use super::ledger::{Ledger, LifeLine};
use crate::DataDir;

/// One earlier run of a module.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PastRun {
    /// The run.
    pub run: String,
    /// On which machine.
    pub machine: String,
    /// In which slot.
    pub slot: String,
    /// Its outcome.
    pub outcome: Outcome,
    /// Errors that were placed in the slot where the module sat, or could have been.
    pub errors: u64,
}

/// All earlier runs of modules.
pub struct Past {
    ledger: Option<Ledger>,
    digest: Digest,
}

impl Past {
    /// Opens what there is. Without a ledger the digest alone answers.
    pub fn open(data: &DataDir) -> Self {
        let ledger = data.runs().exists().then(|| Ledger::open(data).ok()).flatten();
        Self { ledger, digest: Digest::read(&data.digest()) }
    }

    /// What jobs made of a module: `(machine, what becomes of it, once that is decided)`, the latest last.
    pub fn ends(&self, serial: &str) -> Vec<(String, Option<Disposition>)> {
        let own = self.ledger.as_ref().and_then(|ledger| ledger.life(serial).ok()).map(|life| life.ends);
        let own = own.unwrap_or_default();
        let known = |job: &str| own.iter().any(|end| end.job == job);
        let elsewhere = self.digest.modules.get(serial).into_iter().flat_map(|module| &module.ends);
        let all = elsewhere.filter(|end| !known(&end.job)).chain(&own);
        all.map(|end| (end.machine.clone(), end.end)).collect()
    }

    /// Earlier runs of the module with this serial number, oldest first.
    pub fn of_module(&self, serial: &str) -> Vec<PastRun> {
        let own = self.ledger.as_ref().and_then(|ledger| ledger.life(serial).ok()).map(|life| life.runs);
        let own = own.unwrap_or_default();
        let known = |run: &str| own.iter().any(|line| line.run == run);
        let elsewhere = self.digest.modules.get(serial).into_iter().flat_map(|module| &module.runs);
        let mut all: Vec<&LifeLine> = elsewhere.filter(|line| !known(&line.run)).chain(&own).collect();
        all.sort_by(|a, b| a.started.cmp(&b.started));
        all.into_iter().filter_map(past_run).collect()
    }
}

/// A run that is going on has come to nothing yet.
fn past_run(line: &LifeLine) -> Option<PastRun> {
    let outcome = Outcome::of_word(&line.outcome).filter(|outcome| *outcome != Outcome::CleanSoFar)?;
    let (run, machine, slot) = (line.run.clone(), line.machine.clone(), line.slot.clone());
    Some(PastRun { run, machine, slot, outcome, errors: line.errors })
}
