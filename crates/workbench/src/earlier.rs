//! The runs that machines of the workshop had before they came to the bench, made by simulating them.

use std::sync::Arc;

use anyhow::Result;
use revisum_engine::recipe::{Depth, Recipe};

use crate::go_on::Start;
use crate::rates::{Measured, Rated};
use crate::runner::{Order, start};
use crate::wire;
use revisum_records::DataDir;
use revisum_records::{Job, Which};

/// Opens the job of a machine that has none yet, with its intake and its earlier runs.
///
/// # Errors
/// When there is no such machine, or records cannot be kept.
pub fn prepare(name: &str, data: &DataDir, opens_ms: i64) -> Result<()> {
    for earlier in wire::earlier_runs(name, opens_ms)? {
        let machine = Arc::new(earlier.machine);
        let facts = machine.firmware.facts();
        let mut job = Job::open(&data.jobs(), &data.runs(), &facts.machine, Which::First, machine.clock.wall_ms())?;
        if job.state().runs.len() >= earlier.number {
            continue;
        }
        let board = revisum_diagnose::board::board_of(machine.firmware.as_ref());
        job.see(board.modules().map(|(_, module)| module.clone()))?;
        job.fitted(board.placement())?;
        let recipe = Recipe { passes: Some(earlier.passes), for_seconds: None, ..Recipe::of_depth(Depth::Triage) };
        let rated = Rated::default();
        rated.get_or_init(|| Measured::of(&machine, None));
        let order = Order {
            machine,
            board,
            what: Start::new(recipe),
            rated,
            seed: earlier.seed,
            data: data.clone(),
            job: job.id().to_owned(),
        };
        if let Some(run) = start(order, || ()).wait() {
            job.ran(&run)?;
        }
        job.fitted(earlier.found)?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use revisum_records::{Standing, list_runs};
    use revisum_sim::BEGIN_MS;

    use super::*;

    /// Made once, however often the workshop opens: another start must not add runs that nobody made.
    #[test]
    fn earlier_runs_are_made_once() {
        let folder = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(folder.path()), None).unwrap();
        data.prepare().unwrap();
        prepare("meteo", &data, BEGIN_MS).unwrap();
        let (first, _) = list_runs(&data.runs()).unwrap();
        prepare("meteo", &data, BEGIN_MS).unwrap();
        let (second, _) = list_runs(&data.runs()).unwrap();
        let ids = |runs: &[revisum_records::RunSummary]| runs.iter().map(|run| run.id.clone()).collect::<Vec<_>>();
        assert!(!first.is_empty());
        assert_eq!(ids(&first), ids(&second));
        for run in &first {
            assert!(run.simulated && run.outcome != Standing::Running, "{}", run.id);
            assert!(run.wall_ms < BEGIN_MS);
        }
    }
}
