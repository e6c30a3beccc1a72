//! The rows of the list: the machines of the workshop, each with its jobs, then jobs of other machines.

use revisum_record::journal::Stage;
use revisum_records::JobSummary;

use crate::shared::facts::BenchMachine;
use crate::shared::state::Shared;

/// A row of the list of jobs.
#[derive(Clone, Copy, Debug)]
pub struct JobRow<'a> {
    /// Machine.
    pub machine: &'a str,
    /// What is known of it, where it is one of the workshop.
    pub bench: Option<&'a BenchMachine>,
    /// Its job, where it has one.
    pub job: Option<&'a JobSummary>,
}

/// All rows.
pub fn job_rows(shared: &Shared) -> Vec<JobRow<'_>> {
    let mut rows = Vec::new();
    for machine in &shared.facts.bench {
        let row = |job| JobRow { machine: &machine.name, bench: Some(machine), job };
        let before = rows.len();
        rows.extend(shared.jobs.iter().filter(|job| job.machine == machine.name).map(|job| row(Some(job))));
        if rows.len() == before {
            rows.push(row(None));
        }
    }
    let elsewhere = shared.jobs.iter().filter(|job| !shared.facts.bench.iter().any(|known| known.name == job.machine));
    rows.extend(elsewhere.map(|job| JobRow { machine: &job.machine, bench: None, job: Some(job) }));
    rows.sort_by_key(|row| waits(row.job));
    rows
}

/// What waits for hands comes first: jobs that were begun, the furthest first; then machines of which nothing was run yet, then closed jobs.
fn waits(job: Option<&JobSummary>) -> (u8, std::cmp::Reverse<Option<Stage>>) {
    match job {
        Some(job) if job.closed.is_some() => (2, std::cmp::Reverse(None)),
        Some(job) if job.runs > 0 || job.stage.is_some() => (0, std::cmp::Reverse(job.stage)),
        _ => (1, std::cmp::Reverse(None)),
    }
}

/// The row of the job that is open.
pub fn own_row(shared: &Shared) -> usize {
    let rows = job_rows(shared);
    let open = rows.iter().position(|row| row.job.is_some_and(|job| job.id == shared.facts.job));
    open.or(rows.iter().position(|row| row.machine == shared.facts.machine)).unwrap_or(0)
}
